//! The line that is typed: its keys, and what becomes of it.

use crossterm::event::KeyEvent;

use super::{App, Effect, Input, Purpose};
use crate::tui::drawing_kind;
use crate::tui::keys::{self, Typed};

impl App {
    pub(super) fn type_key(&mut self, key: KeyEvent) -> Vec<Effect> {
        let Some(input) = &mut self.input else {
            return Vec::new();
        };
        match keys::typed(key) {
            Some(Typed::Char(c)) if input.text.chars().count() < 200 => input.text.push(c),
            Some(Typed::Backspace) => {
                input.text.pop();
            }
            Some(Typed::Cancel) => {
                if input.purpose == Purpose::Filter {
                    self.ledger.set_filter(String::new());
                }
                self.input = None;
            }
            Some(Typed::Done) => {
                if let Some(input) = self.input.take() {
                    let effects = self.finish_input(input);
                    if !effects.is_empty() {
                        return effects;
                    }
                }
            }
            _ => {}
        }
        // A filter shows its effect while it is typed.
        if let Some(Input {
            purpose: Purpose::Filter,
            text,
            ..
        }) = &self.input
        {
            self.ledger.set_filter(text.clone());
        }
        self.follow_trials()
    }

    pub(super) fn finish_input(&mut self, input: Input) -> Vec<Effect> {
        match input.purpose {
            Purpose::Color(origin) => self.typed_color(&origin, &input.text),
            Purpose::Reason { tool, role } => self.typed_reason(&tool, &role, &input.text),
            Purpose::Filter => self.ledger.set_filter(input.text),
            Purpose::Seeds => self.typed_seeds(&input.text),
            Purpose::Image => return self.typed_image(&input.text),
            Purpose::File => self.typed_file(&input.text),
            Purpose::Pasted => self.pasted_palette(&input.text),
            Purpose::Folder => self.typed_folder(&input.text),
            Purpose::Wallpaper => return self.typed_wallpaper(&input.text),
            Purpose::ContrastReason { text, ground } => {
                self.typed_contrast_reason(&text, &ground, &input.text);
            }
            Purpose::Target(role) => self.typed_target(&role, &input.text),
            Purpose::Draw => return self.typed_drawing(&input.text),
            Purpose::FontSource => {
                if input.text.trim().is_empty() {
                    return Vec::new();
                }
                self.busy = Some("reading fonts");
                return vec![Effect::ReadFontSource(
                    self.survey.home.expand(input.text.trim()),
                )];
            }
            Purpose::FontFilter => return self.filter_fonts(&input.text),
            Purpose::FontSize => self.typed_font_size(&input.text),
            Purpose::IconSearch => self.search_icons(&input.text),
            Purpose::Replacement(c) => self.replace(c, Some(input.text.trim())),
        }
        Vec::new()
    }

    /// Asks where the drawing of this step goes.
    pub(super) fn start_drawing(&mut self) {
        let kind = drawing_kind(self.step);
        self.input = Some(Input {
            question: format!("draw the {kind} to (.svg, .pdf or .png)"),
            text: format!("wealdmist-{kind}.svg"),
            purpose: Purpose::Draw,
        });
    }

    pub(super) fn typed_drawing(&mut self, text: &str) -> Vec<Effect> {
        if text.trim().is_empty() {
            return Vec::new();
        }
        self.busy = Some("drawing");
        vec![Effect::Draw(
            self.step,
            self.survey.home.expand(text.trim()),
        )]
    }
}
