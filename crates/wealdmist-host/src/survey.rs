//! A survey: what the dotfiles of a home say, beside its setup.

use std::ffi::OsString;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use serde_json::{Value, json};
use tracing::{debug, info};

use wealdmist_core::condition::Conditions;
use wealdmist_core::finding::{Finding, FontReport, Kind, SETUP_ITSELF, Severity, findings};
use wealdmist_core::first::first_setup;
use wealdmist_core::font::Catalog;
use wealdmist_core::ledger::Ledger;
use wealdmist_core::look::Look;
use wealdmist_core::pair::{Pair, pairs};
use wealdmist_core::plan::Plan;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{Place, Reading, SourceFile, ToolId, ToolReport, Value as Said};
use wealdmist_core::repair::readable;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::{Setup, SetupDoc, SetupError};
use wealdmist_core::window::{own_conditions, windows};
use wealdmist_tools::{Access, Adapter, Loaded, adapters, as_generated, plan, read_all};

use crate::ask::Heard;
use crate::files::{Disk, Files, ReplaceError, make_private_folders, replace, sweep_beside};
use crate::fonts::FontIndex;
use crate::home::Home;
use crate::images::{SeenImages, WantedImages, read_images};
use crate::journal::{ApplyError, Journal, merged};
use crate::limits;
use crate::seen::Seen;

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
    /// Somebody else changed the same place of it meanwhile.
    #[error("{} was edited meanwhile in the same place and is left as it is; the draft is in {}: merge them by hand", path.display(), draft.display())]
    EditedMeanwhile {
        /// The file.
        path: PathBuf,
        /// Where the draft is.
        draft: PathBuf,
    },
    /// It cannot be written.
    #[error("the setup file {} cannot be written: {source}", path.display())]
    Unwritable {
        /// The file.
        path: PathBuf,
        /// Why.
        source: ReplaceError,
    },
    /// The right to write in this home is not to be had.
    #[error(transparent)]
    Held(#[from] ApplyError),
}

/// Why a file outside the home is left alone.
const OUTSIDE: &str = "outside this home: see `wealdmist allow`";

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
    /// The fonts installed, once they have been looked for.
    pub catalog: Option<Arc<Catalog>>,
    /// The setup file as it was last read or written.
    on_disk: Option<Vec<u8>>,
    /// What planning has to know of the disk.
    seen: Seen,
    /// What was read, where programs were asked and their answers count since.
    unasked: Option<Vec<ToolReport>>,
    /// What was read of tools that have no place in the survey: nothing of them is there, and the setup
    /// does not name them.
    elsewhere: Vec<ToolReport>,
    /// The images that windows show, by what they were read for.
    images: (WantedImages, Arc<SeenImages>),
}

/// Whether a tool has a place in the survey: its dotfiles are there, or the setup names it.
fn concerns(report: &ToolReport, doc: &SetupDoc) -> bool {
    report.is_present() || doc.setup().tools.contains_key(report.tool.0)
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
        let seen = Seen::default();
        let mut reports = read_all(&seen.of(&home));
        let path = setup.map_or_else(|| home.setup_path(), Path::to_owned);
        let mut on_disk = None;
        let (doc, stored) = match home.read(&path) {
            Loaded::File { bytes, .. } => {
                on_disk = Some(bytes.to_vec());
                (SetupDoc::parse(path, &bytes).map_err(Box::new)?, true)
            }
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
        let elsewhere = reports.extract_if(.., |r| !concerns(r, &doc)).collect();
        for report in &reports {
            debug!(
                tool = report.tool.0,
                files = report.files.len(),
                readings = report.readings.len(),
                problems = report.problems.len(),
                "surveyed"
            );
        }
        info!(home = ?home.home_path(), setup = ?doc.path(), stored, tools = reports.len(), "opened");
        let survey = Self {
            catalog: None,
            on_disk,
            seen,
            home,
            reports,
            doc,
            stored,
            unasked: None,
            elsewhere,
            images: Default::default(),
        };
        survey.see_borders();
        Ok(survey)
    }

    /// The look that the dotfiles have among them, as a setup of its own. `None` where they come to none.
    #[must_use]
    pub fn as_written(&self) -> Option<SetupDoc> {
        let text = first_setup(self.doc.setup().name.as_str(), None, &self.reports);
        SetupDoc::parse(self.doc.path(), text.as_bytes()).ok()
    }

    /// Whether the dotfiles still say what they said when they were read.
    #[must_use]
    pub fn is_current(&self) -> bool {
        self.read(&self.home) == *self.unasked.as_ref().unwrap_or(&self.reports)
    }

    fn read(&self, access: &dyn Access) -> Vec<ToolReport> {
        let mut reports = read_all(access);
        reports.retain(|r| concerns(r, &self.doc));
        reports
    }

    /// Takes in tools that the setup has come to name, and leaves out those it names no longer and of
    /// which nothing is there.
    pub fn follow_setup(&mut self) {
        let named = |r: &ToolReport| concerns(r, &self.doc);
        if self.reports.iter().all(named) && !self.elsewhere.iter().any(named) {
            return;
        }
        let order: Vec<ToolId> = adapters().into_iter().map(Adapter::id).collect();
        let place = |r: &ToolReport| order.iter().position(|id| *id == r.tool);
        if let Some(unasked) = &mut self.unasked {
            unasked.retain(named);
            unasked.extend(self.elsewhere.iter().filter(|r| named(r)).cloned());
            unasked.sort_by_key(place);
        }
        let left: Vec<ToolReport> = self.reports.extract_if(.., |r| !named(r)).collect();
        self.reports
            .extend(self.elsewhere.extract_if(.., |r| named(r)));
        self.reports.sort_by_key(place);
        self.elsewhere.extend(left);
    }

    /// The tools that are known and of which this home has nothing.
    pub fn absent(&self) -> impl Iterator<Item = ToolId> {
        let all = adapters().into_iter().map(Adapter::id);
        all.filter(|id| self.reports.iter().all(|r| r.tool != *id))
    }

    /// Reads the dotfiles again, keeping the setup.
    pub fn refresh(&mut self) {
        self.seen = Seen::default();
        let mut reports = read_all(&self.seen.of(&self.home));
        self.elsewhere = reports
            .extract_if(.., |r| !concerns(r, &self.doc))
            .collect();
        self.reports = reports;
        self.unasked = None;
        self.see_borders();
    }

    /// Looks once which files may be edited: what is drawn asks for it again and again.
    fn see_borders(&self) {
        for file in self.reports.iter().flat_map(|r| &r.files) {
            let _ = self.may_edit(file);
        }
    }

    /// Starts the installed programs on the person's dotfiles, each on a server or in a shell of its own, and
    /// asks what they come to. Their answers count from then on, until the dotfiles are read again. `confined`
    /// are the words of a command that starts a program with fewer rights; see `platform::confine`.
    pub fn ask(&mut self, confined: &[OsString]) -> Vec<(ToolId, Heard)> {
        self.refresh();
        let read = self.reports.clone();
        let heard = crate::ask::ask(&self.home, &mut self.reports, confined);
        self.unasked = Some(read);
        heard
    }

    /// Whether programs were asked since the dotfiles were read.
    #[must_use]
    pub const fn is_asked(&self) -> bool {
        self.unasked.is_some()
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
    pub fn pairs(&self, conditions: &Conditions) -> Vec<Pair> {
        self.pairs_of(self.doc.setup(), &self.look(), conditions)
    }

    /// The pairs that a setup would draw here, worst first: with what is generated for tools in the place of
    /// their own, where it says so.
    #[must_use]
    pub fn pairs_of(&self, setup: &Setup, look: &Look, conditions: &Conditions) -> Vec<Pair> {
        let reports = as_generated(setup, &self.reports);
        pairs(setup, look, &reports, conditions)
    }

    /// The setup with its palette mended where what it draws here could not be read.
    #[must_use]
    pub fn readable(&self, doc: &SetupDoc) -> SetupDoc {
        readable(doc, &as_generated(doc.setup(), &self.reports))
    }

    /// The findings, with what is drawn seen through the person's own windows.
    #[must_use]
    pub fn findings(&self, font: &FontReport) -> Vec<Finding> {
        let pairs = self.pairs(&self.own_conditions());
        let mut all = findings(
            self.doc.setup(),
            &self.ledger(),
            &pairs,
            &self.reports,
            font,
        );
        all.extend(self.image_findings());
        all
    }

    /// What text is seen through in the person's own windows, as far as their images were read.
    #[must_use]
    pub fn own_conditions(&self) -> Conditions {
        own_conditions(self.doc.setup(), &self.reports, &self.images.1.images)
    }

    /// The images that the windows show.
    #[must_use]
    pub fn wanted_images(&self) -> WantedImages {
        let setup = self.doc.setup();
        let all = windows(setup, &self.reports);
        let image = all.into_iter().find_map(|w| w.image);
        let wallpaper = match Property::Wallpaper.of(setup) {
            Some(Said::Text(path)) => Some(path),
            _ => None,
        };
        WantedImages {
            image: image.map(|i| i.path),
            wallpaper,
        }
    }

    /// Whether they still have to be read.
    #[must_use]
    pub fn lacks_images(&self) -> bool {
        self.images.0 != self.wanted_images()
    }

    /// Reads the images that the windows show.
    pub fn learn_images(&mut self) {
        if self.lacks_images() {
            let wanted = self.wanted_images();
            let seen = read_images(&self.home, &wanted);
            self.take_images(wanted, seen);
        }
    }

    /// Takes in images that were read elsewhere.
    pub fn take_images(&mut self, wanted: WantedImages, seen: SeenImages) {
        self.images = (wanted, Arc::new(seen));
    }

    /// The images that were read.
    #[must_use]
    pub fn images(&self) -> &SeenImages {
        &self.images.1
    }

    fn image_findings(&self) -> Vec<Finding> {
        let mut out = Vec::new();
        let role = RoleId::from(Property::Image);
        for wrong in &self.images.1.wrong {
            let severity = match wrong.is_missing {
                true => Severity::Warning,
                false => Severity::Note,
            };
            let named = |r: &&Reading| r.value == Said::Text(wrong.name.clone());
            let mut find = |tool, place: &Place| {
                let mut finding =
                    Finding::at(Kind::Image, severity, tool, place, wrong.message.clone());
                finding.role = Some(role.clone());
                finding.mend = Some(wrong.mend.to_owned());
                out.push(finding);
            };
            let mut anywhere = false;
            for report in self.reports.iter().filter(|r| r.is_terminal) {
                if let Some(reading) = report.effective(&role).filter(named) {
                    find(report.tool, &reading.place);
                    anywhere = true;
                }
            }
            if !anywhere {
                let text = self.doc.text();
                let at = text.find(&wrong.name).unwrap_or(0);
                let place = Place {
                    path: self.doc.path().into(),
                    span: at..at + wrong.name.len(),
                    at: wealdmist_core::text::position(text.as_bytes(), at),
                };
                find(SETUP_ITSELF, &place);
            }
        }
        out
    }

    /// The plan that brings the dotfiles to the setup.
    #[must_use]
    pub fn plan(&self) -> Plan {
        let fonts = self.catalog.as_deref();
        let seen = self.seen.of(&self.home);
        let all = plan(self.doc.setup(), &self.look(), &self.reports, &seen, fonts);
        let plan = all.leaving(OUTSIDE, |edit| !seen.may_edit(&edit.target));
        debug!(
            files = plan.edits.len(),
            changes = plan.change_count(),
            left = plan.left.len(),
            "planned"
        );
        plan
    }

    /// Reads which fonts are installed, where the plan has to know: features are written face by
    /// face, and fallbacks by what each has.
    pub fn learn_fonts(&mut self) {
        let font = &self.doc.setup().font;
        if self.catalog.is_none() && !(font.features.is_empty() && font.fallback.is_empty()) {
            self.catalog = Some(Arc::new(FontIndex::open(&self.home).catalog()));
        }
    }

    /// Whether a program is installed, as it was when the home was read.
    #[must_use]
    pub fn has_program(&self, name: &str) -> bool {
        self.seen.of(&self.home).has_program(name)
    }

    /// Whether a file that was read may be edited: it lies in this home, or the person allowed it.
    #[must_use]
    pub fn may_edit(&self, file: &SourceFile) -> bool {
        self.seen.of(&self.home).may_edit(&file.target)
    }

    /// The draft: the setup as it stands here, with what it was read from.
    #[must_use]
    pub fn draft(&self) -> Draft {
        Draft {
            doc: self.doc.clone(),
            on_disk: self.on_disk.clone(),
            journal: Journal::of(&self.home),
            home: self.home.home_path().to_owned(),
        }
    }

    /// Writes the setup file, as [`Draft::save`] does.
    ///
    /// # Errors
    /// When it cannot be written, or both changed the same place.
    pub fn save(&mut self) -> Result<(), SurveyError> {
        let saved = self.draft().save()?;
        info!(path = ?saved.path(), "setup written");
        self.on_disk = Some(saved.text().as_bytes().to_vec());
        self.doc = saved;
        self.stored = true;
        Ok(())
    }
}

/// A setup that may differ from its file, and what the file held when it was read.
#[derive(Debug, Clone)]
pub struct Draft {
    doc: SetupDoc,
    on_disk: Option<Vec<u8>>,
    journal: Journal,
    home: PathBuf,
}

impl Draft {
    /// Its text.
    #[must_use]
    pub fn text(&self) -> &str {
        self.doc.text()
    }

    /// All of it, for another process that may have to save it. `Null` where a path is not text.
    #[must_use]
    pub fn to_json(&self) -> Value {
        let texts = (self.home.to_str(), self.doc.path().to_str());
        let base = self.on_disk.as_deref().map(std::str::from_utf8).transpose();
        match (texts, base) {
            ((Some(home), Some(path)), Ok(base)) => {
                json!({"home": home, "path": path, "text": self.doc.text(), "base": base})
            }
            _ => Value::Null,
        }
    }

    /// The draft another process has described.
    #[must_use]
    pub fn from_json(value: &Value) -> Option<Self> {
        let home = Home::open(Some(Path::new(value["home"].as_str()?))).ok()?;
        let path = PathBuf::from(value["path"].as_str()?);
        let doc = SetupDoc::parse(path, value["text"].as_str()?.as_bytes()).ok()?;
        Some(Self {
            doc,
            on_disk: value["base"].as_str().map(|t| t.as_bytes().to_vec()),
            journal: Journal::of(&home),
            home: home.home_path().to_owned(),
        })
    }

    /// Writes the setup file. What somebody else has written there since it was read is merged
    /// in; where both changed the same place, the draft goes to a file beside it instead. Returns
    /// what the file holds now.
    ///
    /// # Errors
    /// When it cannot be written, or both changed the same place.
    pub fn save(self) -> Result<SetupDoc, SurveyError> {
        self.save_with(&Disk)
    }

    /// The same with other calls for files, for tests that let them fail.
    ///
    /// # Errors
    /// As [`Draft::save`].
    pub fn save_with(self, files: &dyn Files) -> Result<SetupDoc, SurveyError> {
        /// How often an edit that comes in between is merged in.
        const TRIES: usize = 8;
        let _held = self.journal.hold()?;
        let path = self.doc.path().to_owned();
        // A link's target is written.
        let target = path.canonicalize().unwrap_or_else(|_| path.clone());
        let unwritable = |source: ReplaceError| SurveyError::Unwritable {
            path: path.clone(),
            source,
        };
        let folder = crate::files::folder_of(&target);
        if files
            .stat(folder)
            .map_err(|e| unwritable(e.into()))?
            .is_none()
        {
            make_private_folders(files, folder).map_err(|e| unwritable(e.into()))?;
        }
        sweep_beside(files, folder);
        let mut left = TRIES;
        loop {
            let now = files.read(&target, limits::SETUP);
            let now = now.map_err(|e| unwritable(e.into()))?;
            let doc = if now == self.on_disk || now.as_deref() == Some(self.doc.text().as_bytes()) {
                self.doc.clone()
            } else {
                self.merged(&path, now.as_deref().unwrap_or_default(), files)?
            };
            if now.as_deref() == Some(doc.text().as_bytes()) {
                return Ok(doc);
            }
            match replace(
                files,
                &target,
                now.as_deref(),
                doc.text().as_bytes(),
                limits::SETUP,
            ) {
                Ok(()) => return Ok(doc),
                Err(ReplaceError::Changed) if left > 0 => left -= 1,
                Err(other) => return Err(unwritable(other)),
            }
        }
    }

    /// The draft with what stands in the file now merged in.
    fn merged(&self, path: &Path, now: &[u8], files: &dyn Files) -> Result<SetupDoc, SurveyError> {
        let draft = self.doc.text().as_bytes();
        let base = self.on_disk.as_deref().unwrap_or_default();
        let both = merged(base, now, draft).ok();
        if let Some(doc) = both.and_then(|b| SetupDoc::parse(path, &b).ok()) {
            return Ok(doc);
        }
        let aside = path.with_extension("draft.toml");
        let there = files
            .read(&aside, limits::SETUP)
            .map_err(ReplaceError::from);
        there
            .and_then(|there| replace(files, &aside, there.as_deref(), draft, limits::SETUP))
            .map_err(|source| SurveyError::Unwritable {
                path: aside.clone(),
                source,
            })?;
        Err(SurveyError::EditedMeanwhile {
            path: path.to_owned(),
            draft: aside,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::Rgb;
    use wealdmist_core::role::Slot;

    fn survey() -> (tempfile::TempDir, Survey) {
        let folder = tempfile::tempdir().unwrap();
        let home = Home::open(Some(folder.path())).unwrap();
        let mut survey = Survey::open(home, None, Some(("Test", "dusk"))).unwrap();
        survey.save().unwrap();
        (folder, survey)
    }

    #[test]
    fn a_setup_edited_by_another_hand_is_merged_or_left_alone() {
        let (_folder, mut survey) = survey();
        let path = survey.doc.path().to_owned();
        let color = |n| Rgb::new(n, n, n);
        let edit = |from: &str, to: &str| {
            let text = std::fs::read_to_string(&path).unwrap();
            assert!(text.contains(from), "{text}");
            std::fs::write(&path, text.replace(from, to)).unwrap();
        };
        survey.doc = survey
            .doc
            .with_slot(&"dusk".into(), Slot::Foreground, color(200))
            .unwrap();
        edit("folders = 3", "folders = 2");
        survey.save().unwrap();
        let text = std::fs::read_to_string(&path).unwrap();
        assert!(
            text.contains("folders = 2") && text.contains("foreground = \"#c8c8c8\""),
            "{text}"
        );
        let folder = survey
            .doc
            .setup()
            .prompt
            .parts()
            .find(|p| p.name == "folder");
        assert_eq!(folder.map(|p| p.tells.folders), Some(2));

        survey.doc = survey
            .doc
            .with_slot(&"dusk".into(), Slot::Foreground, color(100))
            .unwrap();
        edit("#c8c8c8", "#010203");
        let said = survey.save().unwrap_err().to_string();
        assert!(said.contains("setup.draft.toml"), "{said}");
        assert!(std::fs::read_to_string(&path).unwrap().contains("#010203"));
        let draft = std::fs::read_to_string(path.with_extension("draft.toml")).unwrap();
        assert!(draft.contains("#646464"));
    }
}
