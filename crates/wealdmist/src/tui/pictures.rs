//! Images on terminals that can show them, by the terminal graphics protocol: escapes that carry
//! pixels and put them over cells.

use std::hash::{DefaultHasher, Hash, Hasher};
use std::io::Write;

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use flate2::Compression;
use flate2::write::ZlibEncoder;
use wealdmist_core::Rgb;
use wealdmist_core::color::{Depth, mix};
use wealdmist_core::font::raster::Raster;
use wealdmist_core::role::Slot;
use wealdmist_core::terminal::Images;
use wealdmist_host::{Home, Terminals, own_terminal};

use super::app::App;
use super::view::Hits;

/// The most bytes of one escape (the protocol's limit).
const CHUNK: usize = 4096;

/// The pixels of a cell, where this terminal can be shown images: it says so by its name, or it
/// answered when it was measured. Inside a multiplexer images do not get through.
pub fn cell_pixels(home: &Home, depth: Depth) -> Option<(u32, u32)> {
    let set = |name: &str| std::env::var_os(name).is_some_and(|v| !v.is_empty());
    if depth != Depth::TrueColor || set("TMUX") || set("STY") {
        return None;
    }
    let (name, version) = own_terminal();
    let known = Terminals::open(home);
    let answered = known
        .find(&name, &version)
        .is_some_and(|r| r.images == Images::Graphics);
    if !answered && !set("KITTY_WINDOW_ID") {
        return None;
    }
    let size = crossterm::terminal::window_size().ok()?;
    let (width, height) = (u32::from(size.width), u32::from(size.height));
    let (columns, rows) = (u32::from(size.columns.max(1)), u32::from(size.rows.max(1)));
    (width >= columns && height >= rows).then(|| (width / columns, height / rows))
}

/// What tells whether the images of a frame are those on the screen already; `None` for none.
pub fn mark(app: &App, hits: &Hits) -> Option<u64> {
    if hits.images.is_empty() {
        return None;
    }
    let mut hasher = DefaultHasher::new();
    let look = &app.derived.look;
    (look.slot(Slot::Background), look.slot(Slot::Foreground)).hash(&mut hasher);
    for (area, panel) in &hits.images {
        area.hash(&mut hasher);
        if let Some(raster) = app.fonts.panels.get(*panel).and_then(|p| p.raster.as_ref()) {
            raster.pixels.hash(&mut hasher);
        }
    }
    Some(hasher.finish())
}

/// The escapes that bring the images of a frame to the screen: what was shown before is removed.
pub fn escapes(app: &App, hits: &Hits, ground: Rgb, text: Rgb) -> Vec<u8> {
    let mut out = Vec::new();
    // Delete every image, quietly.
    out.extend_from_slice(b"\x1b_Ga=d,d=A,q=2\x1b\\");
    for (area, panel) in &hits.images {
        let Some(raster) = app.fonts.panels.get(*panel).and_then(|p| p.raster.as_ref()) else {
            continue;
        };
        let place = format!("\x1b7\x1b[{};{}H", area.y + 1, area.x + 1);
        out.extend_from_slice(place.as_bytes());
        let control = format!(
            "a=T,f=24,o=z,s={},v={},C=1,q=2",
            raster.width, raster.height
        );
        carry(&mut out, &control, &pixels(raster, ground, text));
        out.extend_from_slice(b"\x1b8");
    }
    out
}

/// The raster as compressed RGB.
fn pixels(raster: &Raster, ground: Rgb, text: Rgb) -> Vec<u8> {
    // 256 mixes are worked out once, not one for each pixel.
    let shades: Vec<Rgb> = (0..=255u8)
        .map(|n| mix(ground, text, f64::from(n) / 255.0))
        .collect();
    let mut bytes = Vec::with_capacity(raster.pixels.len() * 3);
    for pixel in &raster.pixels {
        let color = shades[usize::from(*pixel)];
        bytes.extend_from_slice(&[color.r, color.g, color.b]);
    }
    let mut packed = ZlibEncoder::new(Vec::new(), Compression::fast());
    let _ = packed.write_all(&bytes);
    packed.finish().unwrap_or_default()
}

/// Adds the escapes that carry a payload, in pieces of the length that is allowed.
fn carry(out: &mut Vec<u8>, control: &str, payload: &[u8]) {
    let text = BASE64_STANDARD.encode(payload);
    let chunks: Vec<&[u8]> = text.as_bytes().chunks(CHUNK).collect();
    for (i, chunk) in chunks.iter().enumerate() {
        let more = u8::from(i + 1 < chunks.len());
        let keys = if i == 0 {
            format!("{control},m={more}")
        } else {
            format!("m={more}")
        };
        out.extend_from_slice(format!("\x1b_G{keys};").as_bytes());
        out.extend_from_slice(chunk);
        out.extend_from_slice(b"\x1b\\");
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Read;

    #[test]
    fn pixels_arrive_as_they_were_in_pieces_that_are_allowed() {
        let raster = Raster {
            width: 300,
            height: 100,
            pixels: (0..30_000u32)
                .map(|i| (i.wrapping_mul(2_654_435_761) >> 13) as u8)
                .collect(),
        };
        let (black, white) = (Rgb::new(0, 0, 0), Rgb::new(255, 255, 255));
        let mut out = Vec::new();
        carry(&mut out, "a=T", &pixels(&raster, black, white));
        let text = String::from_utf8(out).unwrap();
        let mut joined = String::new();
        for part in text.split("\x1b_G").skip(1) {
            let (keys, body) = part.split_once(';').unwrap();
            let body = body.strip_suffix("\x1b\\").unwrap();
            assert!(body.len() <= CHUNK);
            assert!(keys.contains("m="));
            joined.push_str(body);
        }
        assert!(
            text.starts_with("\x1b_Ga=T,m=1;") && text.contains("\x1b_Gm=0;"),
            "{}",
            &text[..20]
        );
        let packed = BASE64_STANDARD.decode(joined).unwrap();
        let mut bytes = Vec::new();
        flate2::read::ZlibDecoder::new(&packed[..])
            .read_to_end(&mut bytes)
            .unwrap();
        assert_eq!(bytes.len(), 300 * 100 * 3);
        assert_eq!(bytes[0], 0);
    }
}
