//! The machine: the home's files, the journal, running programs, fonts on disk, the terminal.
//!
//! Every side effect of Wealdmist on the machine goes through this crate, and everything is
//! relative to one [`Home`], so a scratch home is honoured everywhere.
//!
//! Nothing is read without a limit or waited for without an end. Files are changed by the [`Journal`]: all
//! or none, and taken back byte for byte. A program of another home is never told anything.
//!
//! ```
//! use wealdmist_core::role::Slot;
//! use wealdmist_host::{Home, Journal, Survey, changes_of, make_demo};
//!
//! let folder = tempfile::tempdir()?;
//! make_demo(&folder.path().join("home"))?;
//! let home = Home::open(Some(&folder.path().join("home")))?;
//!
//! // What its dotfiles say, and a first setup made from them, in which a color is changed.
//! let mut survey = Survey::open(home, None, Some(("Saltmarsh", "dusk")))?;
//! survey.doc = survey.doc.with_slot(&"dusk".into(), Slot::Cyan, "#7fc5b8".parse()?)?;
//! survey.save()?;
//!
//! // The plan is carried out as a whole, and taken back.
//! let journal = Journal::of(&survey.home);
//! let plan = survey.plan();
//! journal.apply(&changes_of(&plan), "another cyan")?;
//! survey.refresh();
//! assert!(survey.plan().is_empty());
//! journal.undo(None)?;
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::disallowed_methods))]

mod ask;
mod bundle;
mod cost;
mod demo;
mod files;
mod fonts;
mod here;
mod home;
mod images;
mod journal;
mod limits;
mod live;
mod palettes;
pub mod platform;
mod search;
mod seen;
mod signs;
mod survey;
mod terminals;
mod tty;
mod typed_path;

pub use ask::Heard;
pub use bundle::{BundleError, Part, write_bundle};
pub use cost::{Cost, cost, cost_alone};
pub use demo::{DemoError, make_demo};
pub use files::{
    Disk, Files, ReplaceError, Stat, open_regular, open_to_append, read_regular, replace,
    write_output, write_own,
};
pub use fonts::{
    FontIndex, FontSource, InstallPlan, Installed, Restart, SourceError, SourceFont, UnusableFont,
    face_facts, font_folders, index_path, install, open_face, open_source, own_font_folder,
    plan_install, read_font, refresh_cache,
};
pub use here::{battery, situation};
pub use home::{Home, HomeError};
pub use images::{
    ImageError, Picture, SeenImages, WantedImages, WrongImage, read_backdrop, read_images,
};
pub use journal::{
    ApplyError, Conflict, FileChange, Held, Journal, Kind, Record, RecordFile, RecordState,
    Recovery, changes_of,
};
pub use live::{Answer, Ask, Outcome, reload, take_back, try_on, verify};
pub use palettes::{PaletteFile, PaletteFileError, read_folder, read_palettes};
pub use search::{FontSearch, find_font};
pub use signs::glyphs_in;
pub use survey::{Draft, Survey, SurveyError};
pub use terminals::{Terminals, measure_terminal, own_terminal, unknown_terminal};
pub use tty::{TtyError, query_colors};
pub use typed_path::Completion;
