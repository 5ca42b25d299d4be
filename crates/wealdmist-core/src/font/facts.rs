//! Everything a font file says of a face, and what measuring its glyphs adds.

use skrifa::instance::{LocationRef, Size};
use skrifa::raw::{FontRef, TableProvider};
use skrifa::string::StringId;
use skrifa::{MetadataProvider, Tag};

use crate::guard::guarded;
use crate::limits;

use super::features::{self, FeatureFact};
use super::{Coverage, FaceInfo, FontError, Typeface, coverage, english, font_at, info};

/// A name as written in the file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NameFact {
    /// What it names, such as "family" or "PostScript name".
    pub what: &'static str,
    /// The language, as a BCP 47 tag; empty where the file does not say.
    pub language: String,
    /// The name.
    pub text: String,
}

/// How wide the characters of a face are, measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pitch {
    /// All have one width.
    Fixed(u16),
    /// All have one width or twice that.
    Dual(u16),
    /// Letters have one width, some other characters another.
    LettersFixed(u16),
    /// Letters differ.
    Proportional,
}

/// The cell a face asks for, in font units.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cell {
    /// Units in one em, the size a font is asked for in.
    pub units_per_em: f32,
    /// The width of a cell: the advance of its letters.
    pub width: f32,
    /// From the baseline to the top of a line.
    pub ascent: f32,
    /// From the baseline to the bottom of a line, downwards and so negative.
    pub descent: f32,
    /// Space between lines beside these.
    pub leading: f32,
}

impl Cell {
    /// From one baseline to the next.
    #[must_use]
    pub fn height(&self) -> f32 {
        self.ascent - self.descent + self.leading
    }
}

/// A variable axis.
#[derive(Debug, Clone, PartialEq)]
pub struct Axis {
    /// Its tag, such as `wght`.
    pub tag: Tag,
    /// Its name in English.
    pub name: String,
    /// The least value.
    pub min: f32,
    /// The value unless another is asked for.
    pub default: f32,
    /// The greatest value.
    pub max: f32,
    /// Whether it should not be shown to people.
    pub hidden: bool,
}

/// A named place of the axes.
#[derive(Debug, Clone, PartialEq)]
pub struct Instance {
    /// Its name, such as "SemiBold".
    pub name: String,
    /// The value of each axis, in the order of the axes.
    pub at: Vec<f32>,
}

/// What a font may be used for, from its licence bits (OS/2 `fsType`).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Embedding {
    /// It may be put into documents and installed from them.
    Installable,
    /// It may be put into documents that can be edited.
    Editable,
    /// It may be put into documents for reading and printing.
    Preview,
    /// It must not be put into documents without permission.
    Restricted,
    /// The file does not say.
    Unsaid,
}

impl Embedding {
    /// In words.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Installable => "may be embedded and installed",
            Self::Editable => "may be embedded in editable documents",
            Self::Preview => "may be embedded for reading and printing",
            Self::Restricted => "must not be embedded without permission",
            Self::Unsaid => "embedding is not spoken of",
        }
    }
}

/// Everything known of a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Facts {
    /// What identifies it.
    pub info: FaceInfo,
    /// Every family, style, full and PostScript name with its language.
    pub names: Vec<NameFact>,
    /// The version, as the file words it.
    pub version: Option<String>,
    /// How many glyphs it has.
    pub glyphs: u32,
    /// The cell it asks for.
    pub cell: Cell,
    /// The height of capitals, where given.
    pub cap_height: Option<f32>,
    /// The height of small letters, where given.
    pub x_height: Option<f32>,
    /// The slant of italics in degrees, counter-clockwise.
    pub italic_angle: f32,
    /// How wide its characters are.
    pub pitch: Pitch,
    /// Its variable axes.
    pub axes: Vec<Axis>,
    /// Its named instances.
    pub instances: Vec<Instance>,
    /// Its features and what each changes.
    pub features: Vec<FeatureFact>,
    /// The tables that color its glyphs, such as `COLR`.
    pub color: Vec<&'static str>,
    /// What it may be used for.
    pub embedding: Embedding,
    /// Its licence, as the file words it.
    pub licence: Option<String>,
    /// Where the licence can be read.
    pub licence_url: Option<String>,
    /// Who holds the rights.
    pub copyright: Option<String>,
    /// Which characters it has.
    pub coverage: Coverage,
}

/// Reads everything of a face but what its features change, which takes shaping.
///
/// # Errors
/// When the file is no font, has no such face, or the face has no characters.
pub fn facts(bytes: &[u8], index: u32) -> Result<Facts, FontError> {
    let read = || facts_unguarded(bytes, index);
    guarded(read).unwrap_or_else(|failed| Err(FontError::Unreadable(failed.to_string())))
}

fn facts_unguarded(bytes: &[u8], index: u32) -> Result<Facts, FontError> {
    let font = font_at(bytes, index)?;
    let coverage = coverage(bytes, index)?;
    let metrics = font.metrics(Size::unscaled(), LocationRef::default());
    if metrics.units_per_em == 0 {
        return Err(FontError::Table(Tag::new(b"head")));
    }
    let axis = |a: skrifa::Axis| Axis {
        tag: a.tag(),
        name: english(&font, a.name_id()).unwrap_or_else(|| a.tag().to_string()),
        min: a.min_value(),
        default: a.default_value(),
        max: a.max_value(),
        hidden: a.is_hidden(),
    };
    let instance = |i: skrifa::NamedInstance| Instance {
        name: english(&font, i.subfamily_name_id()).unwrap_or_default(),
        at: i.user_coords().take(limits::FONT_RECORDS).collect(),
    };
    let tables: [(&[u8; 4], &'static str); 4] = [
        (b"COLR", "COLR"),
        (b"CBDT", "CBDT"),
        (b"sbix", "sbix"),
        (b"SVG ", "SVG"),
    ];
    Ok(Facts {
        info: info(&font, index),
        names: names(&font),
        version: english(&font, StringId::VERSION_STRING),
        glyphs: metrics.glyph_count,
        cell: cell_of(&font),
        cap_height: metrics.cap_height.filter(|h| *h > 0.0),
        x_height: metrics.x_height.filter(|h| *h > 0.0),
        italic_angle: metrics.italic_angle,
        pitch: pitch(&font, &coverage),
        axes: font
            .axes()
            .iter()
            .take(limits::FONT_RECORDS)
            .map(axis)
            .collect(),
        instances: font
            .named_instances()
            .iter()
            .take(limits::FONT_RECORDS)
            .map(instance)
            .collect(),
        features: features::facts(&font),
        color: tables
            .iter()
            .filter(|(tag, _)| font.table_data(Tag::new(tag)).is_some())
            .map(|(_, name)| *name)
            .collect(),
        embedding: embedding(&font),
        licence: english(&font, StringId::LICENSE_DESCRIPTION),
        licence_url: english(&font, StringId::LICENSE_URL),
        copyright: english(&font, StringId::COPYRIGHT_NOTICE),
        coverage,
    })
}

/// The cell a face asks for.
///
/// # Errors
/// When the file has no such face.
pub fn cell(bytes: &[u8], index: u32) -> Result<Cell, FontError> {
    Ok(cell_of(&font_at(bytes, index)?))
}

pub(super) fn cell_of(font: &FontRef) -> Cell {
    let metrics = font.metrics(Size::unscaled(), LocationRef::default());
    let upem = f32::from(metrics.units_per_em.max(1));
    let width = letter_width(font).filter(|w| *w > 0.0);
    let (mut ascent, mut descent) = (metrics.ascent, metrics.descent);
    if ascent - descent <= 0.0 {
        (ascent, descent) = (upem * 0.8, upem * -0.2);
    }
    Cell {
        units_per_em: upem,
        width: width.unwrap_or(upem / 2.0),
        ascent,
        descent,
        leading: metrics.leading.max(0.0),
    }
}

impl Typeface {
    /// The cell this face asks for at its place of the axes.
    #[must_use]
    pub fn cell(&self) -> Cell {
        self.font().map_or(
            Cell {
                units_per_em: 1000.0,
                width: 600.0,
                ascent: 800.0,
                descent: -200.0,
                leading: 0.0,
            },
            |font| cell_of(&font),
        )
    }
}

/// The width most letters have; that of an icon for a font of icons alone.
fn letter_width(font: &FontRef) -> Option<f32> {
    let charmap = font.charmap();
    let metrics = font.glyph_metrics(Size::unscaled(), LocationRef::default());
    let width = |c: char| metrics.advance_width(charmap.map(c)?);
    let some = ['0', 'n', 'M', ' '].into_iter().find_map(width);
    some.or_else(|| {
        let (_, glyph) = charmap.mappings().find(|(_, g)| g.to_u32() != 0)?;
        metrics.advance_width(glyph)
    })
}

/// Whether all printable ASCII characters have one width.
pub(super) fn letters_share_a_width(font: &FontRef) -> bool {
    let charmap = font.charmap();
    let metrics = font.glyph_metrics(Size::unscaled(), LocationRef::default());
    let mut widths = ('!'..='~').map(|c| metrics.advance_width(charmap.map(c)?));
    let first = widths.next().flatten();
    first.is_some_and(|w| w > 0.0) && widths.all(|w| w == first)
}

fn pitch(font: &FontRef, coverage: &Coverage) -> Pitch {
    let Some(cell) = letter_width(font).filter(|_| letters_share_a_width(font)) else {
        return Pitch::Proportional;
    };
    let charmap = font.charmap();
    let metrics = font.glyph_metrics(Size::unscaled(), LocationRef::default());
    let (mut all_one, mut one_or_two) = (true, true);
    for c in coverage.characters() {
        let Some(width) = charmap.map(c).and_then(|g| metrics.advance_width(g)) else {
            continue;
        };
        // Marks that combine with a letter have no width of their own.
        if width != cell && width != 0.0 {
            all_one = false;
            one_or_two &= width == cell * 2.0;
        }
    }
    match (all_one, one_or_two) {
        (true, _) => Pitch::Fixed(cell as u16),
        (_, true) => Pitch::Dual(cell as u16),
        _ => Pitch::LettersFixed(cell as u16),
    }
}

fn names(font: &FontRef) -> Vec<NameFact> {
    let kinds = [
        (StringId::TYPOGRAPHIC_FAMILY_NAME, "typographic family"),
        (StringId::TYPOGRAPHIC_SUBFAMILY_NAME, "typographic style"),
        (StringId::FAMILY_NAME, "family"),
        (StringId::SUBFAMILY_NAME, "style"),
        (StringId::FULL_NAME, "full name"),
        (StringId::POSTSCRIPT_NAME, "PostScript name"),
    ];
    let mut out: Vec<NameFact> = Vec::new();
    for (id, what) in kinds {
        for name in font.localized_strings(id).take(limits::FONT_RECORDS) {
            let fact = NameFact {
                what,
                language: name.language().unwrap_or_default().to_owned(),
                text: super::legible(name.chars()),
            };
            if !fact.text.is_empty() && !out.contains(&fact) {
                out.push(fact);
            }
        }
    }
    out
}

fn embedding(font: &FontRef) -> Embedding {
    let Ok(os2) = font.os2() else {
        return Embedding::Unsaid;
    };
    // The least restrictive of the bits that are set counts (OpenType, OS/2 fsType).
    match os2.fs_type() & 0xf {
        bits if bits & 8 != 0 => Embedding::Editable,
        bits if bits & 4 != 0 => Embedding::Preview,
        bits if bits & 2 != 0 => Embedding::Restricted,
        _ => Embedding::Installable,
    }
}
