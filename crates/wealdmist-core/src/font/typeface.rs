//! A face opened for work: shaping text, and the outlines of its glyphs.

use std::fmt;
use std::str::FromStr;
use std::sync::Arc;

use harfrust::{Buffer, Direction, Feature, ShapeOptions, ShaperFont};
use kurbo::BezPath;
use skrifa::instance::{LocationRef, NormalizedCoord, Size};
use skrifa::outline::{DrawSettings, OutlinePen};
use skrifa::raw::FontRef;
use skrifa::{GlyphId, MetadataProvider, Tag};

use crate::guard::guarded;
use crate::limits;

use super::{FontError, font_at};

/// One font feature switched on, off, or to one of its values.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct FeatureSetting {
    /// The feature's tag.
    pub tag: Tag,
    /// 0 off, 1 on, more for a choice.
    pub value: u32,
}

impl FeatureSetting {
    /// A feature switched on or off.
    #[must_use]
    pub const fn switch(tag: Tag, on: bool) -> Self {
        Self {
            tag,
            value: on as u32,
        }
    }
}

impl FromStr for FeatureSetting {
    type Err = String;

    /// Reads `ss01`, `+ss01`, `-calt` or `cv02=3`.
    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("'{text}' is no feature; write ss01, -calt or cv02=3");
        let (body, on) = match text.trim().strip_prefix('-') {
            Some(rest) => (rest, 0),
            None => (text.trim().trim_start_matches('+'), 1),
        };
        let (tag, value) = match body.split_once('=') {
            Some((tag, value)) if on == 1 => (tag, value.parse().map_err(|_| wrong())?),
            Some(_) => return Err(wrong()),
            None => (body, on),
        };
        let bytes: [u8; 4] = tag.as_bytes().try_into().map_err(|_| wrong())?;
        if !bytes.iter().all(u8::is_ascii_alphanumeric) {
            return Err(wrong());
        }
        Ok(Self {
            tag: Tag::new(&bytes),
            value,
        })
    }
}

impl fmt::Display for FeatureSetting {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.value {
            0 => write!(f, "-{}", self.tag),
            1 => write!(f, "{}", self.tag),
            n => write!(f, "{}={n}", self.tag),
        }
    }
}

/// A glyph of a shaped text, in font units.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Placed {
    /// The glyph; 0 is the box for what is missing.
    pub glyph: GlyphId,
    /// The byte of the text it comes from.
    pub cluster: usize,
    /// How far it is moved from the pen, right and up.
    pub offset: (f32, f32),
    /// How far the pen moves after it.
    pub advance: f32,
}

/// A face opened for work, at one place of its axes.
#[derive(Clone)]
pub struct Typeface {
    bytes: Arc<Vec<u8>>,
    index: u32,
    location: Vec<NormalizedCoord>,
    shaper: harfrust::Font,
}

impl fmt::Debug for Typeface {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "Typeface({} bytes, face {})",
            self.bytes.len(),
            self.index
        )
    }
}

impl Typeface {
    /// Opens a face of a file.
    ///
    /// # Errors
    /// When the file has no such face that can be drawn.
    pub fn open(bytes: Arc<Vec<u8>>, index: u32) -> Result<Self, FontError> {
        Self::at(bytes, index, &[])
    }

    /// Opens a face at a place of its axes, such as weight 600; axes not named keep their default.
    ///
    /// # Errors
    /// When the file has no such face that can be drawn.
    pub fn at(bytes: Arc<Vec<u8>>, index: u32, axes: &[(Tag, f32)]) -> Result<Self, FontError> {
        let open = || Self::at_unguarded(bytes, index, axes);
        guarded(open).unwrap_or_else(|failed| Err(FontError::Unreadable(failed.to_string())))
    }

    fn at_unguarded(
        bytes: Arc<Vec<u8>>,
        index: u32,
        axes: &[(Tag, f32)],
    ) -> Result<Self, FontError> {
        let font = font_at(&bytes, index)?;
        if !font.charmap().has_map() {
            return Err(FontError::Table(Tag::new(b"cmap")));
        }
        if font.outline_glyphs().format().is_none() {
            return Err(FontError::Table(Tag::new(b"glyf")));
        }
        let location = font.axes().location(axes.iter().copied());
        let location = location.coords().to_vec();
        let source: Arc<dyn AsRef<[u8]> + Send + Sync> = Arc::new(Shared(Arc::clone(&bytes)));
        let shaper = harfrust::Font::new(harfrust::font::Blob::from(source), index)
            .ok_or_else(|| FontError::Unreadable("it cannot be shaped with".into()))?;
        let shaper = match location.is_empty() {
            true => shaper,
            false => {
                let coords = location.iter().copied();
                shaper.instance_builder().normalized_coords(coords).build()
            }
        };
        Ok(Self {
            bytes,
            index,
            location,
            shaper,
        })
    }

    /// The face as `skrifa` sees it.
    pub(super) fn font(&self) -> Option<FontRef<'_>> {
        font_at(&self.bytes, self.index).ok()
    }

    pub(super) fn location(&self) -> LocationRef<'_> {
        LocationRef::new(&self.location)
    }

    /// The glyph of a character, without shaping.
    #[must_use]
    pub fn glyph(&self, c: char) -> Option<GlyphId> {
        let found = self.font()?.charmap().map(c)?;
        (found.to_u32() != 0).then_some(found)
    }

    /// The advance of a glyph in font units.
    #[must_use]
    pub fn advance(&self, glyph: GlyphId) -> f32 {
        let advance = self.font().and_then(|f| {
            f.glyph_metrics(Size::unscaled(), self.location())
                .advance_width(glyph)
        });
        advance.unwrap_or(0.0)
    }

    /// Shapes a line of text written left to right.
    #[must_use]
    pub fn shape(&self, text: &str, features: &[FeatureSetting]) -> Vec<Placed> {
        let most = (0..=text.len().min(limits::SHAPED)).rev();
        let end = most.into_iter().find(|i| text.is_char_boundary(*i));
        let text = &text[..end.unwrap_or(0)];
        let features: Vec<Feature> = features
            .iter()
            .map(|f| Feature::new(f.tag, f.value, ..))
            .collect();
        let mut buffer = Buffer::new();
        buffer.push_str(text);
        buffer.set_direction(Direction::LeftToRight);
        buffer.guess_segment_properties();
        buffer.set_direction(Direction::LeftToRight);
        let font = ShaperFont::new(&self.shaper);
        let options = ShapeOptions::new().features(&features);
        if harfrust::shape(&font, &mut buffer, options).is_err() {
            return Vec::new();
        }
        let glyphs = buffer.glyph_infos().iter().zip(buffer.glyph_positions());
        glyphs
            .map(|(info, position)| Placed {
                glyph: GlyphId::new(info.glyph_id),
                cluster: info.cluster as usize,
                offset: (position.x_offset as f32, position.y_offset as f32),
                advance: position.x_advance as f32,
            })
            .collect()
    }

    /// The outline of a glyph in font units, y upwards; empty for a blank one or one that is
    /// damaged.
    #[must_use]
    pub fn outline(&self, glyph: GlyphId) -> BezPath {
        let mut pen = PathPen {
            path: BezPath::new(),
            open: false,
            verbs: 0,
        };
        if let Some(font) = self.font()
            && let Some(outline) = font.outline_glyphs().get(glyph)
        {
            let settings = DrawSettings::unhinted(Size::unscaled(), self.location());
            if outline.draw(settings, &mut pen).is_err() {
                return BezPath::new();
            }
        }
        if pen.open {
            pen.path.close_path();
        }
        pen.path
    }
}

/// Bytes shared with the shaper.
struct Shared(Arc<Vec<u8>>);

impl AsRef<[u8]> for Shared {
    fn as_ref(&self) -> &[u8] {
        &self.0
    }
}

struct PathPen {
    path: BezPath,
    open: bool,
    verbs: usize,
}

impl PathPen {
    /// Whether another command may be drawn: a contour was begun and the limit is not reached.
    fn draws(&mut self) -> bool {
        self.verbs += 1;
        self.open && self.verbs < limits::OUTLINE
    }
}

impl OutlinePen for PathPen {
    fn move_to(&mut self, x: f32, y: f32) {
        if self.open {
            self.path.close_path();
        }
        self.open = true;
        if self.draws() {
            self.path.move_to((f64::from(x), f64::from(y)));
        }
    }

    fn line_to(&mut self, x: f32, y: f32) {
        if self.draws() {
            self.path.line_to((f64::from(x), f64::from(y)));
        }
    }

    fn quad_to(&mut self, cx: f32, cy: f32, x: f32, y: f32) {
        if self.draws() {
            let control = (f64::from(cx), f64::from(cy));
            self.path.quad_to(control, (f64::from(x), f64::from(y)));
        }
    }

    fn curve_to(&mut self, ax: f32, ay: f32, bx: f32, by: f32, x: f32, y: f32) {
        if self.draws() {
            let (a, b) = (
                (f64::from(ax), f64::from(ay)),
                (f64::from(bx), f64::from(by)),
            );
            self.path.curve_to(a, b, (f64::from(x), f64::from(y)));
        }
    }

    fn close(&mut self) {
        if self.open {
            self.path.close_path();
        }
        self.open = false;
    }
}
