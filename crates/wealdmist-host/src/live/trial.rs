//! Trying a draft on in running programs, without touching any file, and taking it back.
//!
//! The plan that would bring the dotfiles to the draft is worked out, the adapters read the files
//! as they would then be, and the running programs are given what those say. Only values that the
//! files already state are given, so that reading the files again takes all of it back.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use wealdmist_core::look::Look;
use wealdmist_core::reading::ToolReport;
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::access::Variable;
use wealdmist_tools::{Access, Engine, Loaded, adapter, adapters, plan, read_all};

use super::{Answer, Ask, groups, options, reload};
use crate::home::Home;
use crate::survey::Survey;

/// A home in which some files have another content.
struct Overlay<'a> {
    home: &'a Home,
    files: BTreeMap<PathBuf, Vec<u8>>,
}

impl Access for Overlay<'_> {
    fn read(&self, path: &Path) -> Loaded {
        match self.files.get(path) {
            Some(bytes) => Loaded::File {
                target: path.to_owned(),
                bytes: bytes.as_slice().into(),
            },
            None => self.home.read(path),
        }
    }

    fn glob(&self, pattern: &Path) -> Vec<PathBuf> {
        self.home.glob(pattern)
    }

    fn env(&self, name: &str) -> Option<String> {
        self.home.env(name)
    }

    fn home(&self) -> &Path {
        self.home.home()
    }

    fn variable(&self, name: &str) -> Variable {
        self.home.variable(name)
    }

    fn version(&self, program: &str, argument: &str) -> Option<String> {
        self.home.version(program, argument)
    }

    fn host(&self) -> Option<String> {
        self.home.host()
    }

    fn shared_data(&self, relative: &str) -> Option<PathBuf> {
        self.home.shared_data(relative)
    }

    fn has_program(&self, name: &str) -> bool {
        self.home.has_program(name)
    }
}

/// The reports as they would be after applying a draft.
fn reports_after(survey: &Survey, doc: &SetupDoc) -> Vec<ToolReport> {
    let look = Look::new(doc.setup());
    let wanted = plan(
        doc.setup(),
        &look,
        &survey.reports,
        &survey.home,
        survey.catalog.as_deref(),
    );
    let files = wanted
        .edits
        .iter()
        .map(|e| (e.path.clone(), e.after()))
        .collect();
    read_all(&Overlay {
        home: &survey.home,
        files,
    })
}

/// Lets the running multiplexers and editors of this home wear a draft.
#[must_use]
pub fn try_on(survey: &Survey, doc: &SetupDoc) -> Vec<Answer> {
    let after = reports_after(survey, doc);
    let mut out = Vec::new();
    for now in &survey.reports {
        let Some(adapter) = adapter(now.tool.0) else {
            continue;
        };
        match adapter.engine() {
            Engine::Options(options) => {
                if let Some(then) = after.iter().find(|r| r.tool == now.tool) {
                    let row = options::Row { adapter, options };
                    out.extend(options::wear(row, survey, now, then));
                }
            }
            Engine::Themed(row) => out.extend(groups::wear(row, survey, now, doc)),
            Engine::Tables(_) | Engine::Sourced(_) | Engine::Started => {}
        }
    }
    out
}

/// Gives the running multiplexers and editors of this home back what their files say.
#[must_use]
pub fn take_back(survey: &Survey) -> Vec<Answer> {
    let mut told = Vec::new();
    for adapter in adapters() {
        match adapter.engine() {
            Engine::Options(_) => told.push(adapter.id()),
            Engine::Themed(row) => {
                groups::unwear(row, survey);
                told.push(adapter.id());
            }
            Engine::Tables(_) | Engine::Sourced(_) | Engine::Started => {}
        }
    }
    reload(survey, &told, Ask::Sockets)
}
