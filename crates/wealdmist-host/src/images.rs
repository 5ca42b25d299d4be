//! Images on disk: wallpapers and pictures to take colors from.

use std::io::BufReader;
use std::path::{Path, PathBuf};

use image::{ColorType, DynamicImage, ImageDecoder, ImageReader, Limits};
use wealdmist_core::color::Rgb;
use wealdmist_core::guard::guarded;

use crate::files::open_regular;

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

/// The most memory that an image may take while it is decoded and turned into 8-bit colors, in
/// bytes: enough for 60 megapixels of a photograph.
const MOST_MEMORY: u64 = 190 << 20;
/// The most memory that a decoder may take beside the image itself, in bytes: for texts and color
/// profiles in the file.
const MOST_BESIDE: u64 = 16 << 20;
/// The most pixels on a side.
const LONGEST_SIDE: u32 = 40_000;

/// The limits of a decoder, its own buffers counted beside the image's.
fn left_of(decoder: &impl ImageDecoder) -> Limits {
    let mut limits = Limits::default();
    limits.max_alloc = Some(decoder.total_bytes().saturating_add(MOST_BESIDE));
    limits.max_image_width = Some(LONGEST_SIDE);
    limits.max_image_height = Some(LONGEST_SIDE);
    limits
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
        let reader = ImageReader::new(BufReader::new(file)).with_guessed_format();
        let mut reader = reader.map_err(|e| fail(e.to_string()))?;
        let mut limits = Limits::default();
        limits.max_alloc = Some(MOST_BESIDE);
        limits.max_image_width = Some(LONGEST_SIDE);
        limits.max_image_height = Some(LONGEST_SIDE);
        reader.limits(limits);
        // What it will take is known from its head, before anything is set aside for it.
        let decode = || -> Result<image::RgbImage, String> {
            let mut decoder = reader.into_decoder().map_err(|e| e.to_string())?;
            let (width, height) = decoder.dimensions();
            let pixels = u64::from(width) * u64::from(height);
            let turned = match decoder.color_type() {
                ColorType::Rgb8 => 0,
                _ => pixels.saturating_mul(3),
            };
            if decoder.total_bytes().saturating_add(turned) > MOST_MEMORY {
                return Err(format!("its {width}×{height} pixels take too much memory"));
            }
            decoder
                .set_limits(left_of(&decoder))
                .map_err(|e| e.to_string())?;
            let image = DynamicImage::from_decoder(decoder).map_err(|e| e.to_string())?;
            Ok(image.into_rgb8())
        };
        let decoded = guarded(decode).map_err(|e| fail(e.to_string()))?;
        let image = decoded.map_err(fail)?;
        Ok(Self {
            width: image.width() as usize,
            height: image.height() as usize,
            pixels: image.into_raw(),
        })
    }

    /// A pixel; outside is the nearest one inside.
    #[must_use]
    pub fn pixel(&self, x: usize, y: usize) -> Rgb {
        let at = (y.min(self.height - 1) * self.width + x.min(self.width - 1)) * 3;
        Rgb::new(self.pixels[at], self.pixels[at + 1], self.pixels[at + 2])
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
