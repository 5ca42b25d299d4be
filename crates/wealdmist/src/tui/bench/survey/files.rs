//! The files that were read, over the ledger: which tool reads which, from where, and what of them could
//! not be read.

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Esc};
use wealdmist_core::text::{counted, visible};
use wealdmist_tools::{Access, adapter};

use crate::tui::bench::{Bench, Do, List, Nothing, Reply};
use crate::tui::instrument::Tone;
use crate::tui::keys::{Key, also, hint};
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

/// The list, and the row pointed at.
#[derive(Debug, Clone, Copy, Default)]
pub struct Files {
    cursor: usize,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Leave,
}

/// A line: how far in it stands, what it says.
struct Line {
    column: usize,
    text: String,
    more: String,
    tone: Tone,
}

/// The lines, and where the first is that tells of something wrong.
fn lines(ws: &Workspace) -> (Vec<Line>, Option<usize>) {
    let home = &ws.survey.home;
    let shown = |path: &std::path::Path| visible(home.contract(path).as_bytes());
    let (mut out, mut first) = (Vec::new(), None);
    for report in ws.survey.reports.iter().filter(|r| r.is_present()) {
        let kind = adapter(report.tool.0).map_or("", |a| a.kind());
        let effective = report.readings.iter().filter(|r| r.effective);
        let readings = effective.filter(|r| !r.is_default()).count();
        out.push(Line {
            column: 1,
            text: report.tool.to_string(),
            more: format!("  {kind}, {}", counted(readings, "reading")),
            tone: Tone::Strong,
        });
        for file in &report.files {
            let mut more = String::new();
            if let Some((from, line)) = &file.included_from {
                more.push_str(&format!("  from {}:{line}", shown(from)));
            }
            if file.target != file.path {
                more.push_str(&format!("  a link to {}", shown(&file.target)));
            }
            if !ws.survey.may_edit(file) {
                more.push_str("  outside this home: left alone");
            }
            out.push(Line {
                column: 3,
                text: shown(&file.path),
                more,
                tone: Tone::Text,
            });
        }
        for problem in &report.problems {
            first = first.or(Some(out.len()));
            let at = problem.at.map_or(String::new(), |p| format!(":{p}"));
            out.push(Line {
                column: 3,
                text: format!("! {}{at}", shown(&problem.path)),
                more: format!("  {}", visible(problem.message.as_bytes())),
                tone: Tone::Loud,
            });
            out.push(Line {
                column: 5,
                text: problem.help.clone(),
                more: String::new(),
                tone: Tone::Quiet,
            });
        }
    }
    let absent: Vec<&str> = ws.survey.absent().map(|tool| tool.0).collect();
    if !absent.is_empty() {
        out.push(Line {
            column: 1,
            text: "no dotfile found".to_owned(),
            more: format!("  {}", absent.join(", ")),
            tone: Tone::Quiet,
        });
    }
    (out, first)
}

impl Files {
    /// The list with the first that is wrong pointed at.
    pub fn of(ws: &Workspace) -> Self {
        Self {
            cursor: lines(ws).1.unwrap_or(0),
        }
    }
}

impl Bench for Files {
    type Act = Act;
    type Ask = ();
    type Answer = Nothing;

    const KEYS: &'static [Key<Act>] = &[
        hint(Esc, Act::Leave, "Esc", "back to the ledger"),
        also(Char('w'), Act::Leave),
        also(Char('q'), Act::Leave),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "the files that were read".into()
    }

    fn command(&self, _: &Workspace) -> String {
        "wealdmist survey".to_owned()
    }

    fn act(&mut self, act: Act, _: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Leave => vec![Do::Close],
        }
    }

    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let len = lines(ws).0.len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        let (lines, _) = lines(ws);
        let room = pen.height();
        let cursor = self.cursor.min(lines.len().saturating_sub(1));
        let first = scroll(cursor, lines.len(), room);
        for (row, (i, line)) in lines.iter().enumerate().skip(first).take(room).enumerate() {
            let room = pen.width().saturating_sub(line.column + 1);
            let end = pen.cut(row, line.column, &line.text, room, line.tone);
            let room = pen.width().saturating_sub(end + 1);
            let tone = if line.tone == Tone::Loud {
                Tone::Loud
            } else {
                Tone::Quiet
            };
            pen.cut(row, end, &line.more, room, tone);
            hits.add(pen.place(row, 0..pen.width()), Hit::Row(i, None));
            if i == cursor && !ws.stage.pointed {
                pen.choose_row(row, 0..pen.width());
            }
        }
    }
}
