//! Fonts that are not installed: looking into a file or archive, and installing from it.

use std::sync::Arc;

use wealdmist_core::font::FaceInfo;
use wealdmist_core::text::counted;
use wealdmist_host::{FontSource, InstallPlan};

use super::{Answer, Font, Source};
use crate::tui::bench::{Do, Reply};
use crate::tui::job::Job;
use crate::tui::workspace::Workspace;

impl Font {
    /// A file, folder or archive was read.
    pub fn source_read(&mut self, ws: &mut Workspace, source: FontSource) {
        let count = source.fonts.iter().map(|f| f.faces.len()).sum();
        let count = counted(count, "face");
        let refused = source.refused.first().cloned();
        self.opened.retain(|k, _| k.2);
        self.composed.clear();
        self.source = Some(Source {
            catalog: source.catalog(),
            source: Arc::new(source),
        });
        self.filter.clear();
        self.cursor = 0;
        self.listed.clear();
        match refused {
            None => ws.tell(format!("{count}, not installed: i installs a family")),
            Some(why) => ws.tell(format!("{count}; passed over: {why}")),
        }
    }

    /// Installs the family pointed at from the file that was opened.
    pub fn install_family(&self, ws: &mut Workspace) -> Reply<Self> {
        let family = self.family().cloned();
        let (Some(family), Some(source)) = (family.filter(|f| !f.installed), &self.source) else {
            ws.tell("it is installed already: o opens a file or archive with others");
            return Vec::new();
        };
        let wanted = |info: &FaceInfo| info.has_family(&family.name);
        let plan = wealdmist_host::plan_install(&ws.survey.home, &source.source, wanted);
        if plan.changes.is_empty() {
            ws.tell("its files are in your font folder already");
            return Vec::new();
        }
        let home = ws.survey.home.clone();
        vec![Do::Run(Job::new("install", "installing", move || {
            Answer::Installed(carry_out(&home, &plan))
        }))]
    }
}

/// Carries an installation out, on a thread; what to say of it.
fn carry_out(home: &wealdmist_host::Home, plan: &InstallPlan) -> Result<String, String> {
    let done = wealdmist_host::install(home, plan).map_err(|e| e.to_string())?;
    let mut said = format!(
        "{} installed as number {}",
        counted(plan.faces.len(), "face"),
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
