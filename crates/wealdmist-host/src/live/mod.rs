//! Running programs: telling them to read their files again, and asking what they show.

mod groups;
mod notes;
mod options;
mod sockets;
mod terminal;
mod trial;

pub(crate) use terminal::around_us;
pub use trial::{take_back, try_on};

/// The kind of tool that stands between a terminal and what runs in it.
pub(crate) const MULTIPLEXER: &str = "multiplexer";

use tracing::info;
use wealdmist_core::reading::ToolId;
use wealdmist_tools::Engine;
use wealdmist_tools::adapter;

use crate::survey::Survey;

/// What one running program answered.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answer {
    /// The tool.
    pub tool: ToolId,
    /// Which running program, for people.
    pub who: String,
    /// What came of it.
    pub outcome: Outcome,
}

/// What a running program shows.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Outcome {
    /// What is written: so many values were asked for and agree.
    Shows(usize),
    /// Something else: what, as written and as shown.
    Differs(Vec<String>),
    /// It was told and cannot be asked.
    Told(String),
    /// It cannot be reached; what the person has to do.
    Unreached(String),
    /// None is running.
    NotRunning,
}

impl Outcome {
    /// A sign and a sentence.
    #[must_use]
    pub fn sentence(&self) -> String {
        match self {
            Self::Shows(n) => format!("shows what is written ({n} values asked)"),
            Self::Differs(what) => {
                let more = what.len().saturating_sub(3);
                let rest = if more > 0 {
                    format!(" and {more} more")
                } else {
                    String::new()
                };
                format!("differs: {}{rest}", what[..what.len().min(3)].join("; "))
            }
            Self::Told(what) | Self::Unreached(what) => what.clone(),
            Self::NotRunning => "not running".to_owned(),
        }
    }

    /// Whether the written look is known to be shown.
    #[must_use]
    pub const fn is_good(&self) -> bool {
        matches!(self, Self::Shows(_))
    }
}

fn answer(tool: ToolId, who: impl Into<String>, outcome: Outcome) -> Answer {
    let who = who.into();
    info!(
        tool = tool.0,
        who,
        answer = outcome.sentence(),
        "told or asked"
    );
    Answer { tool, who, outcome }
}

/// Who may be asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ask {
    /// Programs on their sockets, and the terminal we run in by color queries. Nothing else may
    /// be reading that terminal meanwhile.
    OwnTerminalToo,
    /// Only programs on their sockets.
    Sockets,
}

/// Tells every running program of this home to read its files again, then asks each. `only`
/// limits it to some tools.
#[must_use]
pub fn reload(survey: &Survey, only: &[ToolId], ask: Ask) -> Vec<Answer> {
    each(survey, only, true, ask)
}

/// Asks every running program of this home what it shows.
#[must_use]
pub fn verify(survey: &Survey, only: &[ToolId], ask: Ask) -> Vec<Answer> {
    each(survey, only, false, ask)
}

fn each(survey: &Survey, only: &[ToolId], tell: bool, ask: Ask) -> Vec<Answer> {
    let mut out = Vec::new();
    for report in &survey.reports {
        let tool = report.tool;
        if !only.is_empty() && !only.contains(&tool) {
            continue;
        }
        let Some(adapter) = adapter(tool.0) else {
            continue;
        };
        let found = match adapter.engine() {
            Engine::Tables(_) => terminal::run(adapter, survey, report, tell, ask),
            Engine::Options(options) => {
                options::run(options::Row { adapter, options }, survey, report, tell)
            }
            Engine::Themed(row) => groups::run(row, survey, report, tell),
            Engine::Sourced(row) => notes::run(row, survey, report),
            Engine::Started if report.is_present() => {
                let outcome = Outcome::Told("reads its file for every prompt".to_owned());
                vec![answer(tool, tool.0, outcome)]
            }
            Engine::Started => Vec::new(),
        };
        if found.is_empty() {
            out.push(answer(tool, tool.0, Outcome::NotRunning));
        }
        out.extend(found);
    }
    out
}

/// Compares pairs of written and shown values.
fn compare(pairs: impl IntoIterator<Item = (String, String, String)>) -> Outcome {
    let mut count = 0;
    let mut differences = Vec::new();
    for (what, written, shown) in pairs {
        count += 1;
        if written != shown {
            let shown = if shown.is_empty() {
                "nothing".to_owned()
            } else {
                shown
            };
            differences.push(format!("{what} is {shown}, written is {written}"));
        }
    }
    if count == 0 {
        Outcome::Told("its dotfiles set nothing that it could be asked for".to_owned())
    } else if differences.is_empty() {
        Outcome::Shows(count)
    } else {
        Outcome::Differs(differences)
    }
}
