//! What a shell is given, to be read.

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Esc};
use wealdmist_core::look::Look;
use wealdmist_core::reading::ToolId;
use wealdmist_core::text::{counted, visible_with};
use wealdmist_tools::Adapter;
use wealdmist_tools::sourced::Sourced;

use crate::tui::bench::{Bench, Do, Nothing, Reply, held};
use crate::tui::instrument::Tone;
use crate::tui::keys::{Key, also, hint};
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::prompt::known_shells;

/// The code of the shells, one of which is shown.
#[derive(Debug)]
pub struct Code {
    shells: Vec<(ToolId, Vec<String>)>,
    shown: usize,
    /// The first line shown.
    first: usize,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Leave,
}

const KEYS: &[Key<Act>] = &[
    hint(Esc, Act::Leave, "Esc", "back"),
    also(Char('q'), Act::Leave),
    also(Char('r'), Act::Leave),
];

/// Lays the code of every shell over the bench.
pub fn open<K, W>(ws: &Workspace) -> Vec<Do<K, W>> {
    let setup = ws.doc().setup();
    let look = Look::new(setup);
    let code = |(id, row): (ToolId, &Sourced)| {
        let (_, code) = row.generated(setup, &look)?;
        let code = String::from_utf8_lossy(&code.into_bytes()).into_owned();
        Some((id, code.lines().map(str::to_owned).collect()))
    };
    let shells = known_shells().filter_map(code).collect();
    vec![Do::Open(held(Code {
        shells,
        shown: 0,
        first: 0,
    }))]
}

impl Bench for Code {
    type Act = Act;
    type Ask = ();
    type Answer = Nothing;

    const KEYS: &'static [Key<Act>] = KEYS;

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "code".into()
    }

    fn command(&self, _: &Workspace) -> String {
        let shell = self.shells.get(self.shown);
        format!(
            "wealdmist prompt code {}",
            shell.map_or("bash", |(id, _)| id.0)
        )
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, _: &mut Hits) {
        let mut column = 1;
        for (n, (id, _)) in self.shells.iter().enumerate() {
            let tone = if n == self.shown {
                Tone::Strong
            } else {
                Tone::Quiet
            };
            let start = column;
            column = pen.text(0, column, id.0, tone);
            if n == self.shown {
                pen.choose_row(0, start.saturating_sub(1)..column + 1);
            }
            column += 3;
        }
        let Some((_, lines)) = self.shells.get(self.shown) else {
            return;
        };
        let room = pen.height().saturating_sub(2);
        let said = format!(
            "{}, from {} on",
            counted(lines.len(), "line"),
            self.first + 1
        );
        pen.right(0, pen.width().saturating_sub(1), &said, Tone::Quiet);
        for (row, line) in lines.iter().skip(self.first).take(room).enumerate() {
            let tone = match line.trim_start().starts_with('#') {
                true => Tone::Quiet,
                false => Tone::Text,
            };
            let width = pen.width().saturating_sub(2);
            pen.cut(
                row + 2,
                1,
                &visible_with(line, ws.display.icons),
                width,
                tone,
            );
        }
    }

    fn act(&mut self, act: Act, _: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Leave => vec![Do::Close],
        }
    }

    fn walk(&mut self, down: isize, right: isize, _: &mut Workspace) {
        let last = self.shells.len().saturating_sub(1);
        let to = self.shown.saturating_add_signed(right).min(last);
        if to != self.shown {
            (self.shown, self.first) = (to, 0);
        }
        let lines = self.shells.get(self.shown).map_or(0, |(_, l)| l.len());
        self.first = self
            .first
            .saturating_add_signed(down)
            .min(lines.saturating_sub(1));
    }
}
