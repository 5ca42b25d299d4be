//! How a table's program takes fonts, as far as it is a matter of a few facts.

use std::ops::RangeInclusive;

use wealdmist_core::finding::Severity;
use wealdmist_core::font::Catalog;
use wealdmist_core::font::catalog::NameIs;
use wealdmist_core::look::Look;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{Reading, ToolReport};
use wealdmist_core::setup::{FontChoice, SetupDoc};

use super::{Means, Table, changed};
use crate::Wanted;
use crate::document::notation::{Datum, Spot};
use crate::fonts::{FontSyntax, Misnamed, Spelled, asked_pattern, unknown_name};

/// How a program takes fonts.
pub enum Fonts {
    /// In a way of its own.
    Own(&'static dyn FontSyntax),
    /// As these facts say.
    Facts(Facts),
}

/// A few facts of how a program takes fonts.
#[derive(Debug, Clone, Copy)]
pub struct Facts {
    /// What it does where a name selects nothing it can use.
    pub substitutes: &'static str,
    /// Whether it takes a family only, so that the full name of a face counts as missing.
    pub families_only: bool,
    /// Whether it takes letters that differ in width.
    pub proportional: bool,
    /// Code points it draws itself.
    pub own: &'static [(u32, u32)],
}

impl FontSyntax for Table {
    fn spelled(&self, choice: &FontChoice, catalog: &Catalog) -> Vec<Spelled> {
        match &self.fonts {
            Fonts::Own(own) => own.spelled(choice, catalog),
            Fonts::Facts(facts) => self.lines(facts, choice, catalog),
        }
    }

    fn check(&self, reading: &Reading, name: &str, catalog: &Catalog) -> Option<Misnamed> {
        match &self.fonts {
            Fonts::Own(own) => own.check(reading, name, catalog),
            Fonts::Facts(facts) => facts.check(name, catalog),
        }
    }

    fn asks_for(&self, family: &str, picture: bool) -> String {
        match &self.fonts {
            Fonts::Own(own) => own.asks_for(family, picture),
            Fonts::Facts(_) => asked_pattern(family, picture),
        }
    }

    fn maps(&self, report: &ToolReport) -> Vec<(RangeInclusive<u32>, String)> {
        match &self.fonts {
            Fonts::Own(own) => own.maps(report),
            Fonts::Facts(_) => Vec::new(),
        }
    }

    fn self_drawn(&self) -> Vec<RangeInclusive<u32>> {
        match &self.fonts {
            Fonts::Own(own) => own.self_drawn(),
            Fonts::Facts(facts) => facts.own.iter().map(|(a, b)| *a..=*b).collect(),
        }
    }

    fn widens(&self) -> bool {
        match &self.fonts {
            Fonts::Own(own) => own.widens(),
            Fonts::Facts(_) => false,
        }
    }
}

impl Table {
    fn lines(&self, facts: &Facts, choice: &FontChoice, catalog: &Catalog) -> Vec<Spelled> {
        let Ok(doc) = SetupDoc::parse("", b"[palettes.a]\n") else {
            return Vec::new();
        };
        let mut setup = doc.setup().clone();
        setup.font = choice.clone();
        let look = Look::new(&setup);
        let wanted = Wanted {
            setup: &setup,
            look: &look,
            catalog: Some(catalog),
            home: std::path::Path::new(""),
        };
        let notation = self.notation;
        let mut out = Vec::new();
        let mut add = |spot: &Spot, value, note| {
            out.push(Spelled {
                line: notation.line(spot, &value).lossy(),
                note,
            });
        };
        for key in self.keys {
            let datum = match key.means {
                Means::Several(compound) => {
                    let is_font = |p: &Property| p.key().starts_with("font.");
                    let fonts = compound.holds().iter().all(is_font);
                    let text = changed(compound, "", &wanted, notation.text_quoting());
                    text.filter(|_| fonts).map(Datum::Literal)
                }
                _ => match key.role(self.id, key.path) {
                    Some(role) if role.as_str().starts_with("font.") => {
                        self.written(&wanted, Some(key), &role, None)
                    }
                    _ => None,
                },
            };
            let Some(value) = datum.and_then(|d| notation.value(&d)) else {
                continue;
            };
            let family = matches!(key.means, Means::Several(_))
                || matches!(
                    key.means,
                    Means::Name(Property::FontFamily) | Means::List(Property::FontFamily, _)
                );
            let named = choice.family.as_deref().filter(|_| family);
            let note = named.and_then(|name| facts.note(name, catalog));
            add(&Spot::of(key.path), value, note);
        }
        for line in (self.quirks.missing)(self, &wanted, &ToolReport::new(self.id)) {
            add(&line.spot, line.value, None);
        }
        out
    }
}

impl Facts {
    fn check(&self, name: &str, catalog: &Catalog) -> Option<Misnamed> {
        if name == "monospace" {
            return None;
        }
        let Some((entry, is)) = catalog.find(name) else {
            return Some(unknown_name(name, self.substitutes, catalog));
        };
        if is != NameIs::Family && self.families_only {
            let mut wrong = unknown_name(name, self.substitutes, catalog);
            wrong.message = format!("'{name}' is one face, not a family; {}", self.substitutes);
            wrong.mend = Some(format!("write the family '{}'", entry.info.family()));
            return Some(wrong);
        }
        (!entry.info.measured_fixed && !self.proportional).then(|| Misnamed {
            severity: Severity::Warning,
            message: format!(
                "the letters of '{name}' differ in width; {}",
                self.substitutes
            ),
            mend: None,
        })
    }

    fn note(&self, name: &str, catalog: &Catalog) -> Option<String> {
        match catalog.find(name) {
            None => Some(format!("not installed: {}", self.substitutes)),
            Some((_, is)) if is != NameIs::Family && self.families_only => {
                Some(format!("names one face: {}", self.substitutes))
            }
            Some((entry, _)) if !entry.info.measured_fixed && !self.proportional => {
                Some(format!("its letters differ in width: {}", self.substitutes))
            }
            Some(_) => None,
        }
    }
}
