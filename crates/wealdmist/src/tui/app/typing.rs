//! The line that is typed: its keys, its completion, handing it in.

use std::path::PathBuf;

use crossterm::event::KeyEvent;
use tui_input::Input;
use wealdmist_host::Completion;

use super::{App, Effect, LONGEST, Line, OWN, Own, Purpose};
use crate::tui::bench::Question;
use crate::tui::job::Job;
use crate::tui::keys::{self, Typed};
use crate::work;

impl App {
    pub(super) fn type_key(&mut self, key: KeyEvent, out: &mut Vec<Effect>) {
        match keys::typed(key) {
            Some(Typed::Edit(request)) => self.edit_line(request),
            Some(Typed::Cancel) => {
                self.tell_typing(None);
                self.line = None;
            }
            Some(Typed::Done) => self.finish_line(out),
            Some(Typed::Complete) => self.complete_line(out),
            None => {}
        }
    }

    /// Has the path that is typed completed as far as there is only one way on.
    pub(super) fn complete_line(&mut self, out: &mut Vec<Effect>) {
        let Some(line) = self.line.as_ref().filter(|l| l.question.is_path) else {
            return;
        };
        let typed = line.text.value().to_owned();
        let home = self.ws.survey.home.clone();
        let job = Job::new("completion", "looking at the folder", move || {
            let completion = home.complete(&typed);
            Own::Completed(typed, completion)
        });
        self.run(OWN, job.erased(), out);
    }

    /// Takes a completion in, unless something else was typed meanwhile.
    pub(super) fn completed(&mut self, typed: &str, completion: Completion) {
        let Some(line) = self.line.as_mut().filter(|l| l.text.value() == typed) else {
            return;
        };
        line.refused = completion
            .text
            .is_none()
            .then(|| "nothing there begins so".to_owned());
        if let Some(text) = completion.text {
            line.text = Input::new(text.clone());
            self.tell_typing(Some(&text));
        }
        if let Some(line) = &mut self.line {
            line.offered = completion.names;
        }
    }

    pub(super) fn edit_line(&mut self, request: tui_input::InputRequest) {
        let Some(line) = &mut self.line else { return };
        let longer = matches!(request, tui_input::InputRequest::InsertChar(_));
        if longer && line.text.value().chars().count() >= LONGEST {
            return;
        }
        line.refused = None;
        line.offered.clear();
        line.text.handle(request);
        let text = line.text.value().to_owned();
        self.tell_typing(Some(&text));
    }

    pub(super) fn pasted(&mut self, text: &str, out: &mut Vec<Effect>) {
        let Some(line) = &mut self.line else { return };
        if line.question.many_lines {
            line.text = Input::new(text.to_owned());
            return self.finish_line(out);
        }
        for c in text.chars().filter(|c| !c.is_control()).take(LONGEST) {
            self.edit_line(tui_input::InputRequest::InsertChar(c));
        }
    }

    /// Tells whoever asked what stands there while it is typed.
    pub(super) fn tell_typing(&mut self, text: Option<&str>) {
        let Some(Purpose::Bench(owner)) = self.line.as_ref().map(|l| l.purpose) else {
            return;
        };
        if let Some((bench, ws)) = self.owner_mut(owner) {
            bench.typing(text, ws);
        }
    }

    /// Hands the line in; it stays open, with the reason, where it cannot be taken.
    pub(super) fn finish_line(&mut self, out: &mut Vec<Effect>) {
        let Some(mut line) = self.line.take() else {
            return;
        };
        let text = line.text.value().to_owned();
        self.ws.note = None;
        let taken = match line.purpose {
            Purpose::Draw => self.draw_to(&text, out),
            Purpose::Bench(owner) => {
                match self
                    .owner_mut(owner)
                    .map(|(bench, ws)| bench.typed(&text, ws))
                {
                    Some(Ok(wanted)) => {
                        self.carry_out(owner, wanted, out);
                        Ok(())
                    }
                    Some(Err(why)) => Err(why),
                    None => Ok(()),
                }
            }
        };
        if let Err(why) = taken {
            line.refused = Some(why);
            self.line = Some(line);
        }
    }

    /// Asks where the drawing of this step goes.
    pub(super) fn ask_for_drawing(&mut self) {
        let kind = self.step().drawing;
        let question = format!("draw the {kind} to (.svg, .pdf or .png)");
        let start = format!("wealdmist-{kind}.svg");
        self.line = Some(Line::new(Question::path(question, start), Purpose::Draw));
    }

    pub(super) fn draw_to(&mut self, text: &str, out: &mut Vec<Effect>) -> Result<(), String> {
        if text.trim().is_empty() {
            return Ok(());
        }
        let path: PathBuf = self.ws.survey.home.expand(text.trim());
        let kind = self.step().drawing;
        let survey = self.ws.survey.clone();
        let (conditions, icons) = (self.ws.conditions.clone(), self.ws.display.icons);
        let job = Job::new("drawing", "drawing", move || {
            let done = work::draw_to(&survey, kind, &path, &conditions, icons);
            let said = done.map(|()| format!("wrote {}", path.display()));
            Own::Drawn(said.map_err(|e| e.to_string()))
        });
        self.run(OWN, job.erased(), out);
        Ok(())
    }
}
