//! Drawings: specimens, sheets and charts as SVG, PDF and PNG. What they show is worked out in
//! `wealdmist-core`; here it is laid out.
//!
//! Nothing of a drawing is fetched: SVG names fonts and holds no script; PDF and PNG hold what they show.
//!
//! ```
//! use wealdmist_core::condition::Conditions;
//! use wealdmist_core::look::Look;
//! use wealdmist_core::setup::SetupDoc;
//! use wealdmist_core::specimen::Specimen;
//! use wealdmist_draw::{Kind, Subject, draw};
//!
//! let text = b"[palettes.dusk]\nbackground = '#0d191c'\nforeground = '#d7d6cc'\n";
//! let doc = SetupDoc::parse("setup.toml", text)?;
//! let specimen = Specimen::draw(doc.setup(), &Look::new(doc.setup()), 60, 20, false);
//! let svg = draw(
//!     Kind::Palette,
//!     &Subject {
//!         setup: doc.setup(),
//!         pairs: &[],
//!         conditions: &Conditions::default(),
//!         specimen: &specimen,
//!     },
//! );
//! assert!(svg.starts_with("<svg") && svg.contains("#0d191c"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::disallowed_methods))]

mod convert;
pub mod fonts;
mod page;
mod pairs;
mod sheet;
mod specimen;
mod window;

use wealdmist_core::condition::Conditions;
use wealdmist_core::pair::Pair;
use wealdmist_core::setup::Setup;
use wealdmist_core::specimen::Specimen;

pub use convert::{ConvertError, Fonts, pdf, pixels, png};
pub use specimen::specimen_svg;
pub use window::{Drawn as DrawnWindow, window_svg};

/// The drawings there are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// Swatches, names, values, where used.
    Palette,
    /// The lightness ruler.
    Ruler,
    /// Texts on grounds with their ratios.
    Pairs,
    /// Ratio against opacity.
    Opacity,
    /// The colors with each color-vision deficiency.
    Vision,
    /// The sample screen.
    Specimen,
    /// The prompt in its situations.
    Prompt,
}

impl Kind {
    /// All.
    pub const ALL: [Self; 7] = [
        Self::Palette,
        Self::Ruler,
        Self::Pairs,
        Self::Opacity,
        Self::Vision,
        Self::Specimen,
        Self::Prompt,
    ];

    /// The word on the command line.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Palette => "palette",
            Self::Ruler => "ruler",
            Self::Pairs => "pairs",
            Self::Opacity => "opacity",
            Self::Vision => "vision",
            Self::Specimen => "specimen",
            Self::Prompt => "prompt",
        }
    }
}

/// The words for drawings of fonts, which are made with those by who has them.
pub const OF_FONTS: [&str; 3] = ["faces", "coverage", "glyphs"];
/// The word for the drawing of a window, which is made by who knows the terminals.
pub const WINDOW: &str = "window";

/// What is drawn.
#[derive(Debug, Clone, Copy)]
pub struct Subject<'a> {
    /// The setup.
    pub setup: &'a Setup,
    /// The pairs its tools draw, under the conditions.
    pub pairs: &'a [Pair],
    /// What it is seen through.
    pub conditions: &'a Conditions,
    /// What is drawn in cells, as seen: its specimen, or its prompt in situations.
    pub specimen: &'a Specimen,
}

impl Subject<'_> {
    /// The heading of every drawing.
    fn title(&self) -> String {
        format!("{} · {}", self.setup.name, self.setup.active)
    }

    fn family(&self) -> Option<&str> {
        self.setup.font.family.as_deref()
    }
}

/// A drawing as SVG.
#[must_use]
pub fn draw(kind: Kind, subject: &Subject) -> String {
    match kind {
        Kind::Palette => sheet::palette(subject),
        Kind::Ruler => sheet::ruler(subject),
        Kind::Pairs => pairs::matrix(subject),
        Kind::Opacity => pairs::opacity(subject),
        Kind::Vision => sheet::vision(subject),
        Kind::Specimen | Kind::Prompt => {
            specimen_svg(subject.specimen, &subject.title(), subject.family())
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::look::Look;
    use wealdmist_core::pair::pairs;
    use wealdmist_core::reading::{Drawn, Paint, ToolId, ToolReport};
    use wealdmist_core::role::{ROLES, RoleId};
    use wealdmist_core::setup::SetupDoc;

    fn drawn(kind: Kind) -> String {
        let text = "name='Salt <& marsh'\n[palettes.dusk]\nforeground='#d7d6cc'\nbackground='#0d191c'\nred='#7e3a36'\n[palettes.dusk.colors]\nreed='#939761'\n[roles]\n'bar.text'='reed'\n";
        let setup = SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let mut report = ToolReport::new(ToolId("tool"));
        for known in ROLES {
            let paint = |name| Paint {
                role: RoleId::known(name),
                reading: None,
            };
            report.drawn.push(Drawn {
                what: known.label.into(),
                text: paint(known.id),
                ground: paint(known.on),
                usage: known.usage,
                fade: 1.0,
                fades_by: None,
            });
        }
        let conditions = Conditions::default();
        let pairs = pairs(&setup, &look, &[report], &conditions);
        let specimen = Specimen::draw(&setup, &look, 76, 44, false);
        draw(
            kind,
            &Subject {
                setup: &setup,
                pairs: &pairs,
                conditions: &conditions,
                specimen: &specimen,
            },
        )
    }

    #[test]
    fn every_drawing_is_well_formed_and_holds_its_text() {
        for (kind, words) in [
            (Kind::Palette, ["bright-magenta", "#7e3a36", "bar.text"]),
            (Kind::Ruler, ["bright-magenta", "#7e3a36", "the ground"]),
            (
                Kind::Pairs,
                ["prompt.folder", "search.ground", "framed in red"],
            ),
            (Kind::Opacity, ["bright-magenta", "50%", "4.5"]),
            (
                Kind::Vision,
                ["deuteranopia", "error and success", "grayscale"],
            ),
            (Kind::Specimen, ["spring-tide", "#7e3a36", "gauge.rs"]),
        ] {
            let svg = drawn(kind);
            assert!(svg.contains("Salt &lt;&amp; marsh"), "{kind:?}");
            for word in words {
                assert!(svg.contains(word), "{kind:?} has no {word}");
            }
            let broken = svg::read(&svg)
                .unwrap()
                .any(|e| matches!(e, svg::parser::Event::Error(_)));
            assert!(!broken, "{kind:?}");
        }
    }

    #[test]
    fn sheets_have_the_size_of_paper() {
        let svg = drawn(Kind::Palette);
        assert!(
            svg.contains("width=\"210mm\"") && svg.contains("height=\"297mm\""),
            "{}",
            &svg[..300]
        );
    }
}
