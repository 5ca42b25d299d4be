//! Rasters as images on terminals that can show them: by the terminal graphics protocol (escapes that
//! carry compressed pixels) or by sixels (six rows of pixels to a line of characters, one color at a
//! time, as the VT340 had them).

use std::collections::BTreeSet;
use std::io::Write;

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use flate2::Compression;
use flate2::write::ZlibEncoder;
use wealdmist_core::Rgb;
use wealdmist_core::color::mix;
use wealdmist_core::font::raster::Raster;
use wealdmist_core::terminal::Images;
use wealdmist_host::{Home, Picture, Terminals, own_terminal};
use wealdmist_tools::{images_by_name, is_multiplexed};

/// The most bytes of one escape of the graphics protocol.
const CHUNK: usize = 4096;
/// How many shades sixels have: the least number of color registers a terminal with sixels has.
const SHADES: u16 = 16;

/// By which protocol the terminal we run in can be shown images: it is known by its name, or it
/// answered when it was measured.
#[must_use]
pub fn protocol(home: &Home) -> Images {
    let var = |name: &str| std::env::var(name).ok().filter(|v| !v.is_empty());
    let multiplexed = is_multiplexed(var);
    let (name, version) = own_terminal();
    let known = Terminals::open(home);
    let answered = known
        .find(&name, &version)
        .map_or(Images::None, |r| r.images);
    match answered {
        // A multiplexer that says so passes sixels on; the other protocol does not get through.
        Images::Sixel => Images::Sixel,
        _ if multiplexed => Images::None,
        Images::Graphics => Images::Graphics,
        Images::None => images_by_name(var),
    }
}

/// The pixels of a cell: width and height, where the terminal tells them.
#[must_use]
pub fn cell_pixels() -> Option<(u32, u32)> {
    let size = crossterm::terminal::window_size().ok()?;
    let (width, height) = (u32::from(size.width), u32::from(size.height));
    let (columns, rows) = (u32::from(size.columns.max(1)), u32::from(size.rows.max(1)));
    (width >= columns && height >= rows).then(|| (width / columns, height / rows))
}

/// The escapes that show a raster where the cursor is, in shades from `ground` to `text`. The cursor
/// stays where it is with the graphics protocol and goes below the image with sixels.
#[must_use]
pub fn escapes(raster: &Raster, (ground, text): (Rgb, Rgb), by: Images) -> Vec<u8> {
    match by {
        Images::None => Vec::new(),
        Images::Sixel => {
            let palette: Vec<Rgb> = (0..SHADES)
                .map(|n| mix(ground, text, f64::from(n) / f64::from(SHADES - 1)))
                .collect();
            let shade = |pixel: &u8| ((u16::from(*pixel) * (SHADES - 1) + 127) / 255) as u8;
            let shades: Vec<u8> = raster.pixels.iter().map(shade).collect();
            sixels(
                (raster.width as usize, raster.height as usize),
                &shades,
                &palette,
            )
        }
        Images::Graphics => {
            let mut out = Vec::new();
            let control = format!(
                "a=T,f=24,o=z,s={},v={},C=1,q=2",
                raster.width, raster.height
            );
            carry(&mut out, &control, &pixels(raster, ground, text));
            out
        }
    }
}

/// The escapes that show a picture in its own colors where the cursor is. Sixels have the 216 colors of six levels each of
/// red, green and blue.
#[must_use]
pub fn colored(picture: &Picture, by: Images) -> Vec<u8> {
    let (width, height) = (picture.width, picture.height);
    match by {
        Images::None => Vec::new(),
        Images::Graphics => {
            let mut out = Vec::new();
            let control = format!("a=T,f=24,o=z,s={width},v={height},C=1,q=2");
            carry(&mut out, &control, &packed(&picture.pixels));
            out
        }
        Images::Sixel => {
            let level = |n: usize| (n * 51) as u8;
            let palette: Vec<Rgb> = (0..216)
                .map(|n| Rgb::new(level(n / 36), level(n / 6 % 6), level(n % 6)))
                .collect();
            let near = |v: u8| (v + 25) / 51;
            let near =
                |p: &[u8]| near(p[0].min(230)) * 36 + near(p[1].min(230)) * 6 + near(p[2].min(230));
            let all: Vec<u8> = picture.pixels.chunks_exact(3).map(near).collect();
            sixels((width, height), &all, &palette)
        }
    }
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
    packed(&bytes)
}

fn packed(bytes: &[u8]) -> Vec<u8> {
    let mut packed = ZlibEncoder::new(Vec::new(), Compression::fast());
    let _ = packed.write_all(bytes);
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

/// Pixels as sixels, each one of a few colors, which are known beforehand.
fn sixels((width, height): (usize, usize), pixels: &[u8], palette: &[Rgb]) -> Vec<u8> {
    // Pixels one to one; what is not painted stays as it is.
    let mut out = format!("\x1bP0;1;0q\"1;1;{width};{height}");
    for (n, color) in palette.iter().enumerate() {
        let percent = [color.r, color.g, color.b].map(|v| (u32::from(v) * 100 + 127) / 255);
        let [r, g, b] = percent;
        out.push_str(&format!("#{n};2;{r};{g};{b}"));
    }
    for top in (0..height).step_by(6) {
        let rows = 6.min(height - top);
        let band = &pixels[top * width..(top + rows) * width];
        let used: BTreeSet<u8> = band.iter().copied().collect();
        for n in used {
            let sixel = |x: usize| {
                (0..rows)
                    .filter(|y| band[y * width + x] == n)
                    .fold(0u8, |bits, y| bits | 1 << y)
            };
            let line: Vec<u8> = (0..width).map(sixel).collect();
            // Nothing is written for what stands empty at the end of a line.
            let Some(last) = line.iter().rposition(|bits| *bits != 0) else {
                continue;
            };
            out.push_str(&format!("#{n}"));
            for run in line[..=last].chunk_by(|a, b| a == b) {
                let sign = char::from(b'?' + run[0]);
                match run.len() {
                    count @ 0..=3 => (0..count).for_each(|_| out.push(sign)),
                    count => out.push_str(&format!("!{count}{sign}")),
                }
            }
            out.push('$');
        }
        out.push('-');
    }
    out.push_str("\x1b\\");
    out.into_bytes()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Read;

    const BLACK: Rgb = Rgb::new(0, 0, 0);
    const WHITE: Rgb = Rgb::new(255, 255, 255);

    fn noise(width: u32, height: u32) -> Raster {
        Raster {
            width,
            height,
            pixels: (0..width * height)
                .map(|i| (i.wrapping_mul(2_654_435_761) >> 13) as u8)
                .collect(),
        }
    }

    #[test]
    fn pixels_arrive_as_they_were_in_pieces_that_are_allowed() {
        let raster = noise(300, 100);
        let out = escapes(&raster, (BLACK, WHITE), Images::Graphics);
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
            text.starts_with("\x1b_Ga=T,") && text.contains("\x1b_Gm=0;"),
            "{}",
            &text[..20]
        );
        let packed = BASE64_STANDARD.decode(joined).unwrap();
        let mut bytes = Vec::new();
        flate2::read::ZlibDecoder::new(&packed[..])
            .read_to_end(&mut bytes)
            .unwrap();
        for (pixel, shown) in raster.pixels.iter().zip(bytes.chunks(3)) {
            let Rgb { r, g, b } = mix(BLACK, WHITE, f64::from(*pixel) / 255.0);
            assert_eq!(shown, [r, g, b]);
        }
        assert_eq!(bytes.len(), 3 * raster.pixels.len());
    }

    /// Paints sixels as a terminal does: the number of the shade of each pixel, `None` where nothing
    /// was painted.
    fn painted(text: &str, width: usize, height: usize) -> Vec<Option<u16>> {
        let body = text.split_once('q').unwrap().1;
        let body = body.strip_suffix("\x1b\\").unwrap();
        let mut out = vec![None; width * (height + 6)];
        let (mut x, mut top, mut color) = (0, 0, 0);
        let mut rest = body.trim_start_matches(|c: char| c != '#');
        while let Some(c) = rest.chars().next() {
            rest = &rest[1..];
            let digits = |rest: &str| rest.chars().take_while(char::is_ascii_digit).count();
            let mut count = 1;
            let sign = match c {
                '#' => {
                    let n = digits(rest);
                    color = rest[..n].parse().unwrap();
                    rest = &rest[n..];
                    while rest.starts_with(';') {
                        rest = &rest[1 + digits(&rest[1..])..];
                    }
                    continue;
                }
                '$' | '-' => {
                    x = 0;
                    top += if c == '-' { 6 } else { 0 };
                    continue;
                }
                '!' => {
                    let n = digits(rest);
                    count = rest[..n].parse().unwrap();
                    let sign = rest[n..].chars().next().unwrap();
                    rest = &rest[n + 1..];
                    sign
                }
                sign => sign,
            };
            for _ in 0..count {
                for y in (0..6).filter(|y| (sign as u8 - b'?') & (1 << y) != 0) {
                    out[(top + y) * width + x] = Some(color);
                }
                x += 1;
            }
        }
        out
    }

    #[test]
    fn sixels_paint_every_pixel_in_its_shade_and_none_beside() {
        for (width, height) in [(1, 1), (7, 5), (300, 100), (64, 12)] {
            let raster = noise(width, height);
            let out = escapes(&raster, (BLACK, WHITE), Images::Sixel);
            let text = String::from_utf8(out).unwrap();
            assert!(text.starts_with(&format!("\x1bP0;1;0q\"1;1;{width};{height}#0;2;0;0;0#1;")));
            assert!(text.contains("#15;2;100;100;100"));
            let painted = painted(&text, width as usize, height as usize);
            let (inside, below) = painted.split_at((width * height) as usize);
            for (pixel, shade) in raster.pixels.iter().zip(inside) {
                let shown = f64::from(shade.expect("every pixel")) * 17.0;
                assert!((shown - f64::from(*pixel)).abs() <= 8.5, "{pixel} {shown}");
            }
            assert!(below.iter().all(Option::is_none));
        }
    }

    #[test]
    fn a_picture_keeps_its_colors_or_the_nearest_of_those_there_are() {
        let picture = Picture {
            width: 2,
            height: 1,
            pixels: vec![255, 0, 51, 10, 120, 255],
        };
        let text = String::from_utf8(colored(&picture, Images::Sixel)).unwrap();
        let red = 5 * 36 + 1;
        let blue = 2 * 6 + 5;
        assert!(text.contains(&format!("#{red};2;100;0;20")), "{text}");
        assert_eq!(painted(&text, 2, 1)[..2], [Some(red), Some(blue)]);
        let graphics = colored(&picture, Images::Graphics);
        assert!(String::from_utf8(graphics).unwrap().contains("s=2,v=1"));
        assert!(colored(&picture, Images::None).is_empty());
    }

    #[test]
    fn long_runs_are_counted() {
        let raster = Raster {
            width: 500,
            height: 12,
            pixels: vec![255; 6000],
        };
        let out = escapes(&raster, (BLACK, WHITE), Images::Sixel);
        assert!(out.len() < 500, "{} bytes", out.len());
        assert!(escapes(&raster, (BLACK, WHITE), Images::None).is_empty());
    }
}
