//! SVG to PDF, with text as text, and to PNG.

use std::path::Path;
use std::sync::Arc;

use svg2pdf::usvg::{self, fontdb};
use wealdmist_core::Rgb;

/// Fonts to draw text with.
#[derive(Debug, Clone, Default)]
pub struct Fonts(fontdb::Database);

/// Why a drawing cannot be turned into another format.
#[derive(Debug, thiserror::Error)]
pub enum ConvertError {
    /// There is nothing to draw text with.
    #[error("no fixed-pitch font was found to draw text with; install one, or write SVG")]
    NoFont,
    /// The drawing is damaged.
    #[error("the drawing could not be converted: {0}")]
    Damaged(String),
    /// The picture would be too large.
    #[error("the picture would be too large")]
    TooLarge,
}

/// The resolution in which sheets are laid out, in dots an inch (CSS pixels).
const DPI: f32 = 96.0;

impl Fonts {
    /// Adds a font file. One that cannot be read is passed over.
    pub fn add(&mut self, path: &Path) {
        let _ = self.0.load_font_file(path);
    }

    /// The fonts, with a family for whatever asks for any fixed-pitch one.
    fn ready(&self) -> Result<Arc<fontdb::Database>, ConvertError> {
        let mut fonts = self.0.clone();
        // A fixed-pitch face that has letters, an upright regular one first.
        let plain = |f: &&fontdb::FaceInfo| {
            f.monospaced && f.style == fontdb::Style::Normal && f.weight == fontdb::Weight::NORMAL
        };
        let has_letters = |f: &&fontdb::FaceInfo| {
            let read = fonts.with_face_data(f.id, |data, index| {
                let Ok(coverage) = wealdmist_core::font::coverage(data, index) else {
                    return false;
                };
                ['A', 'g', '4', '·', '±']
                    .into_iter()
                    .all(|c| coverage.has(c))
            });
            read == Some(true)
        };
        let family = fonts
            .faces()
            .filter(plain)
            .find(has_letters)
            .or_else(|| fonts.faces().find(|f| f.monospaced))
            .and_then(|f| Some(f.families.first()?.0.clone()));
        let family = family.ok_or(ConvertError::NoFont)?;
        fonts.set_monospace_family(family);
        Ok(Arc::new(fonts))
    }

    fn tree(&self, svg: &str) -> Result<usvg::Tree, ConvertError> {
        let options = usvg::Options {
            fontdb: self.ready()?,
            dpi: DPI,
            ..usvg::Options::default()
        };
        usvg::Tree::from_str(svg, &options).map_err(|e| ConvertError::Damaged(e.to_string()))
    }
}

/// The drawing as PDF; text stays text and can be selected.
///
/// # Errors
/// When there is no font, or the drawing is damaged.
pub fn pdf(svg: &str, fonts: &Fonts) -> Result<Vec<u8>, ConvertError> {
    let tree = fonts.tree(svg)?;
    let page = svg2pdf::PageOptions { dpi: DPI };
    svg2pdf::to_pdf(&tree, svg2pdf::ConversionOptions::default(), page)
        .map_err(|e| ConvertError::Damaged(e.to_string()))
}

/// The drawing as PNG, twice as fine as the screen.
///
/// # Errors
/// When there is no font, or the drawing is damaged or too large.
pub fn png(svg: &str, fonts: &Fonts) -> Result<Vec<u8>, ConvertError> {
    const SCALE: f32 = 2.0;
    let tree = fonts.tree(svg)?;
    let size = tree.size();
    let (width, height) = (size.width() * SCALE, size.height() * SCALE);
    let pixels = resvg::tiny_skia::Pixmap::new(width.ceil() as u32, height.ceil() as u32);
    let mut pixels = pixels.ok_or(ConvertError::TooLarge)?;
    let transform = resvg::tiny_skia::Transform::from_scale(SCALE, SCALE);
    resvg::render(&tree, transform, &mut pixels.as_mut());
    pixels
        .encode_png()
        .map_err(|e| ConvertError::Damaged(e.to_string()))
}

/// The drawing in so many pixels, as large as it fits and in the middle of them, on a color: three bytes a pixel, row by
/// row.
///
/// # Errors
/// When there is no font, or the drawing is damaged or too large.
pub fn pixels(
    svg: &str,
    fonts: &Fonts,
    (width, height): (u32, u32),
    ground: Rgb,
) -> Result<Vec<u8>, ConvertError> {
    let tree = fonts.tree(svg)?;
    let size = tree.size();
    let (wide, high) = (width as f32 / size.width(), height as f32 / size.height());
    let scale = wide.min(high);
    let pixels = resvg::tiny_skia::Pixmap::new(width, height);
    let mut pixels = pixels.ok_or(ConvertError::TooLarge)?;
    let Rgb { r, g, b } = ground;
    pixels.fill(resvg::tiny_skia::Color::from_rgba8(r, g, b, 255));
    let transform = resvg::tiny_skia::Transform::from_scale(scale, scale).post_translate(
        (width as f32 - size.width() * scale) / 2.0,
        (height as f32 - size.height() * scale) / 2.0,
    );
    resvg::render(&tree, transform, &mut pixels.as_mut());
    let all = pixels.data().chunks_exact(4);
    Ok(all.flat_map(|p| [p[0], p[1], p[2]]).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    const SVG: &str = "<svg xmlns='http://www.w3.org/2000/svg' width='20mm' height='10mm'><text y='20' font-family='monospace'>Ag</text></svg>";

    #[test]
    fn without_a_font_nothing_is_drawn_wrong() {
        let fonts = Fonts::default();
        assert!(matches!(pdf(SVG, &fonts), Err(ConvertError::NoFont)));
        assert!(matches!(png(SVG, &fonts), Err(ConvertError::NoFont)));
    }

    #[test]
    fn a_drawing_becomes_a_page_and_a_picture() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("own.ttf");
        std::fs::write(&path, wealdmist_core::demo::fonts::complete()).unwrap();
        let mut fonts = Fonts::default();
        fonts.add(&path);
        fonts.add(Path::new("/no/such/font.ttf"));
        let page = pdf(SVG, &fonts).unwrap();
        assert!(page.starts_with(b"%PDF-"));
        let picture = png(SVG, &fonts).unwrap();
        assert!(picture.starts_with(b"\x89PNG"));
        assert!(matches!(pdf("<svg", &fonts), Err(ConvertError::Damaged(_))));
    }
}
