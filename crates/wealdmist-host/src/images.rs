//! Images on disk: wallpapers and pictures to take colors from.

use std::fs::File;
use std::io::{BufReader, Read, Seek};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use image_webp::WebPDecoder;
use wealdmist_core::color::Rgb;
use wealdmist_core::condition::Backdrop;
use wealdmist_core::guard::guarded;
use wealdmist_core::property::NO_FILE;
use wealdmist_core::window::{Images, Known};
use zune_jpeg::JpegDecoder;
use zune_jpeg::zune_core::colorspace::ColorSpace;
use zune_jpeg::zune_core::options::DecoderOptions;

use crate::Home;
use crate::files::open_regular;
use crate::limits;

/// An image in 8-bit sRGB, without its alpha channel.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Picture {
    /// Width in pixels.
    pub width: usize,
    /// Height in pixels.
    pub height: usize,
    /// Three bytes a pixel, row by row.
    pub pixels: Vec<u8>,
}

/// Why an image cannot be read.
#[derive(Debug, thiserror::Error)]
#[error("the image {} cannot be read: {message}; give a PNG, JPEG or WebP file", path.display())]
pub struct ImageError {
    /// The file.
    pub path: PathBuf,
    /// What is wrong with it.
    pub message: String,
}

/// Pixels as a decoder gives them: width, height, how many bytes each has.
type Decoded = (usize, usize, usize, Vec<u8>);

/// Whether an image of this size may be decoded: known from its head, before anything is set aside
/// for it. `each` is how many bytes a pixel has while it is decoded.
fn admit(width: usize, height: usize, each: usize) -> Result<(), String> {
    let turned = if each == 3 { 0 } else { 3 };
    let bytes = (width as u64)
        .saturating_mul(height as u64)
        .saturating_mul((each + turned) as u64);
    let fits = width.max(height) <= limits::IMAGE_SIDE && bytes <= limits::IMAGE_MEMORY;
    match fits && width.min(height) > 0 {
        true => Ok(()),
        false => Err(format!("its {width}×{height} pixels take too much memory")),
    }
}

fn read_png(file: BufReader<File>) -> Result<Decoded, String> {
    let limits = png::Limits {
        bytes: limits::IMAGE_BESIDE,
    };
    let mut decoder = png::Decoder::new_with_limits(file, limits);
    decoder.set_transformations(png::Transformations::normalize_to_color8());
    decoder.set_ignore_text_chunk(true);
    decoder.set_ignore_iccp_chunk(true);
    let head = decoder.read_header_info().map_err(|e| e.to_string())?;
    let (width, height) = (head.width as usize, head.height as usize);
    admit(width, height, 4)?;
    // The rows of an interlaced image are kept until all are there.
    decoder.set_limits(png::Limits {
        bytes: limits::IMAGE_MEMORY as usize,
    });
    let mut reader = decoder.read_info().map_err(|e| e.to_string())?;
    let each = reader.output_color_type().0.samples();
    let mut pixels = vec![0; reader.output_buffer_size()];
    reader.next_frame(&mut pixels).map_err(|e| e.to_string())?;
    Ok((width, height, each, pixels))
}

fn read_jpeg(file: BufReader<File>) -> Result<Decoded, String> {
    let options = DecoderOptions::default()
        .set_max_width(limits::IMAGE_SIDE)
        .set_max_height(limits::IMAGE_SIDE)
        .jpeg_set_out_colorspace(ColorSpace::RGB);
    let mut decoder = JpegDecoder::new_with_options(file, options);
    decoder.decode_headers().map_err(|e| e.to_string())?;
    let (width, height) = decoder.dimensions().ok_or("it has no size")?;
    admit(width, height, 3)?;
    let pixels = decoder.decode().map_err(|e| e.to_string())?;
    Ok((width, height, 3, pixels))
}

fn read_webp(file: BufReader<File>) -> Result<Decoded, String> {
    let mut decoder = WebPDecoder::new(file).map_err(|e| e.to_string())?;
    let (width, height) = decoder.dimensions();
    let (width, height) = (width as usize, height as usize);
    let each = if decoder.has_alpha() { 4 } else { 3 };
    admit(width, height, each)?;
    decoder.set_memory_limit(limits::IMAGE_MEMORY as usize);
    let size = decoder.output_buffer_size().ok_or("it is too large")?;
    let mut pixels = vec![0; size];
    decoder.read_image(&mut pixels).map_err(|e| e.to_string())?;
    Ok((width, height, each, pixels))
}

/// The image in a file, whatever its name says.
fn decode(mut file: BufReader<File>) -> Result<Decoded, String> {
    let mut head = Vec::new();
    let begin = file.by_ref().take(12).read_to_end(&mut head);
    begin
        .and_then(|_| file.rewind())
        .map_err(|e| e.to_string())?;
    match &head[..] {
        [0x89, b'P', b'N', b'G', ..] => read_png(file),
        [0xff, 0xd8, 0xff, ..] => read_jpeg(file),
        [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P'] => read_webp(file),
        _ => Err("it is no image of these kinds".to_owned()),
    }
}

/// Pixels of 1 to 4 bytes as red, green and blue.
fn to_rgb(each: usize, pixels: Vec<u8>) -> Vec<u8> {
    match each {
        3 => pixels,
        1 | 2 => pixels.chunks_exact(each).flat_map(|p| [p[0]; 3]).collect(),
        _ => pixels
            .chunks_exact(each)
            .flat_map(|p| [p[0], p[1], p[2]])
            .collect(),
    }
}

impl Picture {
    /// Reads a PNG, JPEG or WebP file, whatever its name says.
    ///
    /// # Errors
    /// When there is no such file, or it is no image, damaged, or too large.
    pub fn open(path: &Path) -> Result<Self, ImageError> {
        let fail = |message: String| ImageError {
            path: path.to_owned(),
            message,
        };
        let opened = open_regular(path).map_err(|e| fail(e.to_string()))?;
        let file = opened.ok_or_else(|| fail("there is no such file".to_owned()))?;
        let decoded = guarded(|| decode(BufReader::new(file)));
        let decoded = decoded.map_err(|e| fail(e.to_string()))?;
        let (width, height, each, pixels) = decoded.map_err(fail)?;
        let pixels = to_rgb(each, pixels);
        if pixels.len() != width * height * 3 {
            return Err(ImageError {
                path: path.to_owned(),
                message: "it has fewer pixels than it says".to_owned(),
            });
        }
        Ok(Self {
            width,
            height,
            pixels,
        })
    }

    /// A pixel; outside is the nearest one inside.
    #[must_use]
    pub fn pixel(&self, x: usize, y: usize) -> Rgb {
        let at = (y.min(self.height - 1) * self.width + x.min(self.width - 1)) * 3;
        Rgb::new(self.pixels[at], self.pixels[at + 1], self.pixels[at + 2])
    }
}

/// The cells a wallpaper is reduced to: columns and rows.
const WALLPAPER_CELLS: (usize, usize) = (160, 48);

/// An image file as what lies behind a window.
///
/// # Errors
/// When it cannot be read, or has no pixels.
pub fn read_backdrop(path: &Path) -> Result<Backdrop, ImageError> {
    let picture = Picture::open(path)?;
    let size = (picture.width, picture.height);
    let found = Backdrop::new(&picture.pixels, size, WALLPAPER_CELLS);
    found.ok_or_else(|| ImageError {
        path: path.to_owned(),
        message: "it has no pixels".to_owned(),
    })
}

/// The images that the windows of a home show, by the names the setup and the dotfiles have for them.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct WantedImages {
    /// On the ground of a window.
    pub image: Option<String>,
    /// Behind the windows.
    pub wallpaper: Option<String>,
}

/// What is wrong with one of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WrongImage {
    /// By its name.
    pub name: String,
    /// What is wrong.
    pub message: String,
    /// What helps.
    pub mend: &'static str,
    /// Whether the terminal cannot show it at all.
    pub is_missing: bool,
}

/// Images that were read, and what is wrong with them.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct SeenImages {
    /// What they show.
    pub images: Images,
    /// What is wrong.
    pub wrong: Vec<WrongImage>,
}

/// The most pixels an image on a window's ground may have without a word: a screen of 5120 by 2880.
const LARGE: usize = 5120 * 2880;

/// Reads the images that windows show.
#[must_use]
pub fn read_images(home: &Home, wanted: &WantedImages) -> SeenImages {
    let mut out = SeenImages::default();
    let mut read = |name: &Option<String>| {
        let name = name.as_ref().filter(|name| *name != NO_FILE)?;
        let path = wealdmist_tools::access::expand(home.home_path(), name);
        let mut tell = |message: String, mend, is_missing| {
            out.wrong.push(WrongImage {
                name: name.clone(),
                message,
                mend,
                is_missing,
            });
        };
        let picture = match Picture::open(&path) {
            Ok(picture) => picture,
            Err(_) if !path.exists() => {
                let others = ["/home/", "/Users/", "/root/"];
                let windows = name.get(1..3).is_some_and(|s| matches!(s, ":\\" | ":/"));
                let elsewhere = others.iter().any(|p| name.starts_with(p)) || windows;
                match elsewhere {
                    true => tell(
                        format!("'{name}' is a path of another machine"),
                        "put the image below your home and name it from ~/ on",
                        true,
                    ),
                    false => tell(
                        format!("there is no image '{name}'"),
                        "name one that is there, or none",
                        true,
                    ),
                }
                return None;
            }
            Err(e) => {
                tell(e.to_string(), "take a PNG, JPEG or WebP image", true);
                return None;
            }
        };
        if picture.width.saturating_mul(picture.height) > LARGE {
            tell(
                format!(
                    "'{name}' has {} by {} pixels: each window keeps them all",
                    picture.width, picture.height
                ),
                "make it as large as your screen",
                false,
            );
        }
        if is_animated(&path) {
            tell(
                format!("'{name}' moves: text over it is never read twice the same"),
                "take one of its pictures",
                false,
            );
        }
        let size = (picture.width, picture.height);
        let backdrop = Backdrop::new(&picture.pixels, size, WALLPAPER_CELLS)?;
        Some(Known {
            path: name.clone(),
            backdrop: Arc::new(backdrop),
        })
    };
    let (image, wallpaper) = (read(&wanted.image), read(&wanted.wallpaper));
    out.images = Images { image, wallpaper };
    out
}

/// Whether a PNG or WebP file says in its head that it has several pictures.
fn is_animated(path: &Path) -> bool {
    let Ok(Some(file)) = open_regular(path) else {
        return false;
    };
    let mut head = Vec::new();
    if file.take(4096).read_to_end(&mut head).is_err() {
        return false;
    }
    let holds = |sign: &[u8]| memchr::memmem::find(&head, sign).is_some();
    match &head[..] {
        [0x89, b'P', b'N', b'G', ..] => holds(b"acTL"),
        [b'R', b'I', b'F', b'F', ..] => holds(b"ANIM"),
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn images_are_read_and_others_refused_with_their_name() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("two.png");
        let mut image = image::RgbImage::new(2, 1);
        image.put_pixel(1, 0, image::Rgb([200, 100, 50]));
        image.save(&path).unwrap();
        let picture = Picture::open(&path).unwrap();
        assert_eq!((picture.width, picture.height), (2, 1));
        assert_eq!(picture.pixel(9, 9), Rgb::new(200, 100, 50));
        std::fs::write(&path, b"no image").unwrap();
        let said = Picture::open(&path).unwrap_err().to_string();
        assert!(
            said.contains("two.png") && said.contains("PNG, JPEG or WebP"),
            "{said}"
        );
        assert!(Picture::open(folder.path()).is_err());
    }

    /// What an independent decoder makes of the same file.
    #[test]
    fn every_kind_is_read_as_another_decoder_reads_it() {
        let folder = tempfile::tempdir().unwrap();
        let color = image::RgbaImage::from_fn(61, 47, |x, y| {
            image::Rgba([x as u8 * 4, y as u8 * 5, (x * y) as u8, 255 - x as u8])
        });
        let all = image::DynamicImage::from(color);
        for (name, picture) in [
            ("a.png", all.clone()),
            ("gray.png", all.to_luma8().into()),
            ("gray-alpha.png", all.to_luma_alpha8().into()),
            ("deep.png", all.to_rgb16().into()),
            ("deep-gray.png", all.to_luma16().into()),
            ("rgb.png", all.to_rgb8().into()),
            ("rgb.jpeg", all.to_rgb8().into()),
            ("gray.jpeg", all.to_luma8().into()),
            ("rgb.webp", all.to_rgb8().into()),
            ("alpha.webp", all.clone()),
        ] {
            let path = folder.path().join(name);
            picture.save(&path).unwrap();
            let other = image::open(&path).unwrap().into_rgb8();
            let ours = Picture::open(&path).unwrap();
            assert_eq!((ours.width, ours.height), (61, 47), "{name}");
            let differs = |(a, b): (&u8, &u8)| a.abs_diff(*b);
            let most = ours.pixels.iter().zip(other.as_raw()).map(differs).max();
            assert!(most <= Some(1), "{name}: {most:?}");
        }
    }

    #[test]
    fn half_an_image_is_refused() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("half.png");
        image::RgbImage::new(64, 64).save(&path).unwrap();
        let whole = std::fs::read(&path).unwrap();
        std::fs::write(&path, &whole[..whole.len() / 2]).unwrap();
        assert!(Picture::open(&path).is_err());
    }
}
