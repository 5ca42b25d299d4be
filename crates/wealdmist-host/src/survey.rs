//! A survey: what the dotfiles of a home say, beside its setup.

use std::io;
use std::path::{Path, PathBuf};

use wealdmist_core::finding::{Finding, FontState, findings};
use wealdmist_core::ledger::Ledger;
use wealdmist_core::look::Look;
use wealdmist_core::pair::{Pair, pairs};
use wealdmist_core::plan::Plan;
use wealdmist_core::reading::ToolReport;
use wealdmist_core::setup::{SetupDoc, SetupError, first_setup};
use wealdmist_tools::{Access, Loaded, plan, read_all};

use crate::home::Home;
use crate::journal::write_atomic;

/// A setup that cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum SurveyError {
    /// It is wrong in places.
    #[error(transparent)]
    Setup(#[from] Box<SetupError>),
    /// It cannot be read.
    #[error("the setup file {} cannot be read: {message}; {help}", path.display())]
    Unreadable {
        /// The file.
        path: PathBuf,
        /// Why.
        message: String,
        /// What to do.
        help: String,
    },
    /// It cannot be written.
    #[error("the setup file {} cannot be written: {source}", path.display())]
    Unwritable {
        /// The file.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
}

/// What was found in a home.
#[derive(Debug, Clone)]
pub struct Survey {
    /// The home.
    pub home: Home,
    /// What each tool's dotfiles say, the terminal first.
    pub reports: Vec<ToolReport>,
    /// The setup: the person's, or a first one made from the dotfiles.
    pub doc: SetupDoc,
    /// Whether the setup file exists.
    pub stored: bool,
}

impl Survey {
    /// Reads a home. `naming` gives the name of a first setup and its palette.
    ///
    /// # Errors
    /// When there is a setup file and it cannot be used.
    pub fn open(
        home: Home,
        setup: Option<&Path>,
        naming: Option<(&str, &str)>,
    ) -> Result<Self, SurveyError> {
        let reports = read_all(&home);
        let path = setup.map_or_else(|| home.setup_path(), Path::to_owned);
        let (doc, stored) = match home.read(&path) {
            Loaded::File { bytes, .. } => (SetupDoc::parse(path, &bytes).map_err(Box::new)?, true),
            Loaded::Problem { message, help } => {
                return Err(SurveyError::Unreadable {
                    path,
                    message,
                    help,
                });
            }
            Loaded::Missing if setup.is_some() => {
                let (message, help) = ("it does not exist".into(), "check the path".into());
                return Err(SurveyError::Unreadable {
                    path,
                    message,
                    help,
                });
            }
            Loaded::Missing => {
                let own = std::env::var("USER").unwrap_or_else(|_| "home".into());
                let (name, palette) = naming.map_or((own.as_str(), None), |(n, p)| (n, Some(p)));
                let text = first_setup(name, palette, &reports);
                (
                    SetupDoc::parse(path, text.as_bytes()).map_err(Box::new)?,
                    false,
                )
            }
        };
        Ok(Self {
            home,
            reports,
            doc,
            stored,
        })
    }

    /// Reads the dotfiles again, keeping the setup.
    pub fn refresh(&mut self) {
        self.reports = read_all(&self.home);
    }

    /// The setup resolved.
    #[must_use]
    pub fn look(&self) -> Look {
        Look::new(self.doc.setup())
    }

    /// The ledger.
    #[must_use]
    pub fn ledger(&self) -> Ledger {
        Ledger::new(self.doc.setup(), &self.look(), &self.reports)
    }

    /// The pairs, worst first.
    #[must_use]
    pub fn pairs(&self) -> Vec<Pair> {
        pairs(&self.look(), &self.reports)
    }

    /// The findings.
    #[must_use]
    pub fn findings(&self, font: &FontState) -> Vec<Finding> {
        findings(&self.ledger(), &self.pairs(), &self.reports, font)
    }

    /// The plan that brings the dotfiles to the setup.
    #[must_use]
    pub fn plan(&self) -> Plan {
        plan(self.doc.setup(), &self.look(), &self.reports, &self.home)
    }

    /// Writes the setup file.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn save(&mut self) -> Result<(), SurveyError> {
        let path = self.doc.path().to_owned();
        write_atomic(&path, self.doc.text().as_bytes())
            .map_err(|source| SurveyError::Unwritable { path, source })?;
        self.stored = true;
        Ok(())
    }
}
