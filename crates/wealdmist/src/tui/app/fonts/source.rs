//! Fonts that are not installed: looking into a file or archive, and installing from it.

use std::sync::Arc;

use wealdmist_core::font::FaceInfo;
use wealdmist_host::{FontSource, InstallPlan};

use super::Source;
use crate::tui::app::{App, Effect, Input, Purpose};

impl App {
    /// Asks for a file, folder or archive to look into.
    pub(in crate::tui::app) fn start_open_fonts(&mut self) {
        self.input = Some(Input {
            question: "a font file, folder, zip or tar archive".into(),
            text: String::new(),
            purpose: Purpose::FontSource,
        });
    }

    /// A file, folder or archive was read.
    pub(in crate::tui::app) fn source_read(
        &mut self,
        read: Result<Box<FontSource>, String>,
    ) -> Vec<Effect> {
        self.busy = None;
        match read {
            Ok(source) => {
                let count = source.fonts.iter().map(|f| f.faces.len()).sum::<usize>();
                let refused = source.refused.first().cloned();
                self.fonts.opened.retain(|k, _| k.2);
                self.fonts.composed.clear();
                self.fonts.source = Some(Source {
                    catalog: source.catalog(),
                    source: Arc::new(*source),
                });
                self.fonts.filter.clear();
                self.fonts.cursor = 0;
                self.list_families();
                match refused {
                    None => self.tell(&format!(
                        "{count} faces, none of them installed: i installs a family"
                    )),
                    Some(why) => self.tell(&format!("{count} faces; passed over: {why}")),
                }
                self.show_fonts()
            }
            Err(why) => {
                self.complain(why);
                Vec::new()
            }
        }
    }

    /// Installs the family pointed at from the file that was opened.
    pub(in crate::tui::app) fn install_family(&mut self) -> Vec<Effect> {
        let family = self.fonts.family().cloned();
        let (Some(family), Some(source)) = (family.filter(|f| !f.installed), &self.fonts.source)
        else {
            self.tell("it is installed already: o opens a file or archive with others");
            return Vec::new();
        };
        let wanted = |info: &FaceInfo| info.has_family(&family.name);
        let plan = wealdmist_host::plan_install(&self.survey.home, &source.source, wanted);
        if plan.changes.is_empty() {
            self.tell("its files are in your font folder already");
            return Vec::new();
        }
        self.busy = Some("installing");
        vec![Effect::Install(Box::new(plan))]
    }

    /// An installation was carried out, or not.
    pub(in crate::tui::app) fn installed(&mut self, done: Result<String, String>) -> Vec<Effect> {
        self.busy = None;
        match done {
            Ok(said) => {
                self.fonts.source = None;
                self.fonts.opened.retain(|k, _| k.2);
                self.tell(&said);
                vec![Effect::FindFont]
            }
            Err(why) => {
                self.complain(why);
                Vec::new()
            }
        }
    }
}

/// Carries an installation out, on a thread; what to say of it.
pub fn carry_out(home: &wealdmist_host::Home, plan: &InstallPlan) -> Result<String, String> {
    let done = wealdmist_host::install(home, plan).map_err(|e| e.to_string())?;
    let mut said = format!(
        "{} faces installed as number {}",
        plan.faces.len(),
        done.record
    );
    if let Err(why) = done.cache {
        said.push_str(&format!("; {why}"));
    }
    if !done.restart.is_empty() {
        let list: Vec<String> = done
            .restart
            .iter()
            .map(|r| format!("{} {}", r.tool, r.pid))
            .collect();
        said.push_str(&format!("; to be started anew: {}", list.join(", ")));
    }
    Ok(said)
}
