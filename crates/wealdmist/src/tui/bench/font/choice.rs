//! What the Font bench writes into the draft: faces, features, line height, fallbacks.

use wealdmist_core::font::{FeatureSetting, Four};

use super::{Font, Page};
use crate::tui::workspace::Workspace;

impl Font {
    /// Chooses the family, or the face for the style shown.
    pub fn choose(&mut self, ws: &mut Workspace) {
        let Some(family) = self.family().cloned() else {
            return;
        };
        if self.page == Page::Features {
            return self.switch_feature(ws);
        }
        if !family.installed {
            ws.tell("it is not installed: i installs it");
            return;
        }
        let style = self.style;
        let name = match style {
            Four::Regular => Some(family.name.clone()),
            _ => self
                .entry_of(ws, &family.name, true, style)
                .filter(|e| e.1)
                .and_then(|e| e.0.info.full_names.first().cloned()),
        };
        let Some(name) = name else {
            ws.tell(format!("'{}' has no {} face", family.name, style.label()));
            return;
        };
        let changed = ws.survey.doc.with_face(style, &name);
        if !ws.change(changed) {
            return;
        }
        ws.tell(format!("{}: {name}", style.label()));
    }

    /// Adds the family to those that are fallen back to, or takes it out.
    pub fn switch_fallback(&self, ws: &mut Workspace) {
        let Some(family) = self.family().filter(|f| f.installed).cloned() else {
            return;
        };
        let mut families = ws.survey.doc.setup().font.fallback.clone();
        let there = families.iter().position(|f| *f == family.name);
        match there {
            Some(at) => {
                families.remove(at);
            }
            None => families.push(family.name.clone()),
        }
        let changed = ws.survey.doc.with_fallback(&families);
        if ws.change(changed) {
            let list = if families.is_empty() {
                "none".to_owned()
            } else {
                families.join(", ")
            };
            ws.tell(format!("fallback, in this order: {list}"));
        }
    }

    /// Switches the feature pointed at: on, off, as the font has it.
    fn switch_feature(&self, ws: &mut Workspace) {
        let Some(fact) = self
            .face_shown()
            .and_then(|o| o.facts.features.get(self.row))
            .cloned()
        else {
            return;
        };
        let features = &ws.survey.doc.setup().font.features;
        let now = features.iter().find(|f| f.tag == fact.tag).map(|f| f.value);
        let other = FeatureSetting::switch(fact.tag, !fact.default);
        let changed = ws.survey.doc.with_feature(other, now.is_some());
        if ws.change(changed) {
            let word = match (now.is_some(), fact.default) {
                (true, _) => "as the font has it",
                (_, true) => "off",
                (_, false) => "on",
            };
            ws.tell(format!("{} ({}): {word}", fact.name, fact.tag));
        }
    }
}

/// Allows ligatures or not.
pub fn switch_ligatures(ws: &mut Workspace) {
    let on = ws.survey.doc.setup().font.ligatures.unwrap_or(true);
    let changed = ws.survey.doc.with_ligatures(!on);
    if ws.change(changed) {
        ws.tell(if on { "ligatures off" } else { "ligatures on" });
    }
}

/// Sets lines further apart or closer together.
pub fn change_line_height(by: f64, ws: &mut Workspace) {
    let now = ws.survey.doc.setup().font.line_height.unwrap_or(1.0);
    let next = (((now + by) * 20.0).round() / 20.0).clamp(0.7, 2.0);
    let changed = ws.survey.doc.with_number(&["font", "line-height"], next);
    if ws.change(changed) {
        ws.tell(format!("line height {next}"));
    }
}
