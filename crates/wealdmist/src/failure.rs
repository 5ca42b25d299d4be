//! Errors at the edge: what went wrong, where, and what to do, with the lines of the file.

use std::io::{self, Write};

use crate::screen::harmless;
use miette::{LabeledSpan, MietteDiagnostic, NamedSource, Report};
use wealdmist_core::setup::{EditError, Severity};
use wealdmist_host::{ApplyError, BundleError, DemoError, HomeError, ImageError, SurveyError};

/// An exit code, or why there is none.
pub type Outcome = Result<u8, Failure>;

/// Anything that ends a command.
#[derive(Debug, thiserror::Error)]
pub enum Failure {
    /// The home cannot be used.
    #[error(transparent)]
    Home(#[from] HomeError),
    /// The setup cannot be used.
    #[error(transparent)]
    Survey(#[from] SurveyError),
    /// An image cannot be read.
    #[error(transparent)]
    Image(#[from] ImageError),
    /// The setup cannot take a change.
    #[error(transparent)]
    Edit(#[from] EditError),
    /// Files could not be written.
    #[error(transparent)]
    Apply(#[from] ApplyError),
    /// The sample home could not be made.
    #[error(transparent)]
    Demo(#[from] DemoError),
    /// A bundle could not be written.
    #[error(transparent)]
    Bundle(#[from] BundleError),
    /// The terminal or a file refused.
    #[error("{0}")]
    Io(#[from] io::Error),
    /// Something given on the command line does not exist.
    #[error("{0}")]
    Other(String),
    /// Something was given that no command takes.
    #[error("{0}")]
    Usage(String),
}

impl Failure {
    /// The exit code: 2 where the command was used wrongly, 3 where it could not be done.
    pub const fn code(&self) -> u8 {
        match self {
            Self::Usage(_) => 2,
            _ => 3,
        }
    }

    /// Whether the reader of our output went away, which is no error.
    pub fn is_broken_pipe(&self) -> bool {
        matches!(self, Self::Io(error) if error.kind() == io::ErrorKind::BrokenPipe)
    }

    /// Writes the error for people.
    pub fn report(&self) {
        if let Self::Survey(SurveyError::Setup(setup)) = self {
            let clean =
                |text: &str| String::from_utf8_lossy(&harmless(text.as_bytes())).into_owned();
            let shown = clean(&setup.path.display().to_string());
            for problem in &setup.problems {
                let level = match problem.severity {
                    Severity::Error => miette::Severity::Error,
                    Severity::Warning => miette::Severity::Warning,
                };
                let span = problem.span.start..problem.span.end.max(problem.span.start);
                let diagnostic = MietteDiagnostic::new(clean(&problem.message))
                    .with_severity(level)
                    .with_help(clean(&problem.help))
                    .with_label(LabeledSpan::at(span, "here"));
                let source = NamedSource::new(&shown, clean(&setup.text));
                let report = Report::new(diagnostic).with_source_code(source);
                // Its own colors are let through; the texts in it have been cleaned.
                let _ = writeln!(io::stderr(), "{report:?}");
            }
            return;
        }
        warn!("wealdmist: {self}");
    }
}
