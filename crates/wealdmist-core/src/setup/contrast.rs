//! What the setup says of contrast: targets of the person's own, and pairs that may stay below.

use std::collections::BTreeMap;

use toml_edit::TableLike;

use super::read::Reader;
use crate::role::{RoleId, Usage};

/// A pair that may stay below its target.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ContrastException {
    /// The role of the text.
    pub text: RoleId,
    /// The role of the ground; `None` for every ground.
    pub ground: Option<RoleId>,
    /// Why.
    pub reason: String,
}

/// Targets and exceptions.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Contrast {
    /// Ratios by use, where the person has chosen one.
    pub uses: BTreeMap<Usage, f64>,
    /// Ratios by the text's role, which come first.
    pub roles: BTreeMap<RoleId, f64>,
    /// What may stay below.
    pub exceptions: Vec<ContrastException>,
}

impl Contrast {
    /// The ratio a text needs, 1–21.
    #[must_use]
    pub fn target(&self, text: &RoleId, usage: Usage) -> f64 {
        let own = self.roles.get(text).or_else(|| self.uses.get(&usage));
        own.copied().unwrap_or_else(|| usage.target())
    }

    /// Why a pair may stay below its target, if it may.
    #[must_use]
    pub fn exception(&self, text: &RoleId, ground: &RoleId) -> Option<&str> {
        self.exceptions
            .iter()
            .find(|e| e.text == *text && e.ground.as_ref().is_none_or(|g| g == ground))
            .map(|e| e.reason.as_str())
    }
}

impl Reader {
    /// Reads `[contrast]`.
    pub(super) fn contrast(&mut self, root: &dyn TableLike) -> Contrast {
        let mut out = Contrast::default();
        let Some(table) = self.table(root, "contrast") else {
            return out;
        };
        let uses: Vec<&str> = Usage::ALL.iter().map(|u| u.key()).collect();
        let known: Vec<&str> = uses
            .iter()
            .copied()
            .chain(["roles", "exceptions"])
            .collect();
        self.unknown(table, "[contrast]", &known);
        for usage in Usage::ALL {
            if let Some(ratio) = self.number(table, usage.key(), (1.0, 21.0)) {
                out.uses.insert(usage, ratio);
            }
        }
        if let Some(roles) = self.table(table, "roles") {
            for (name, _) in roles.iter() {
                if let Some(ratio) = self.number(roles, name, (1.0, 21.0)) {
                    out.roles.insert(RoleId::new(name), ratio);
                }
            }
        }
        for entry in self.tables(table, "exceptions", "[[contrast.exceptions]]") {
            self.unknown(
                entry,
                "[[contrast.exceptions]]",
                &["text", "ground", "reason"],
            );
            let help = "give text and reason; ground limits it to one ground";
            let text = self.required(entry, "text", help);
            let reason = self.required(entry, "reason", help);
            let ground = self.string(entry, "ground").map(RoleId::new);
            if let (Some(text), Some(reason)) = (text, reason) {
                out.exceptions.push(ContrastException {
                    text: RoleId::new(text),
                    ground,
                    reason,
                });
            }
        }
        out
    }
}
