//! Pictures of pages: read, held against each other, and drawn with what differs in colour.

use anyhow::{Context as _, Result};
use deft_pin_core::compare::{Difference, Picture, difference};
use image::codecs::png::{CompressionType, FilterType, PngEncoder};
use image::{ExtendedColorType, ImageEncoder as _, RgbaImage};

/// A picture in memory.
pub struct Pixels(RgbaImage);

impl Pixels {
    /// Reads a picture in PNG.
    ///
    /// # Errors
    /// It is none.
    pub fn read(png: &[u8]) -> Result<Self> {
        let image = image::load_from_memory_with_format(png, image::ImageFormat::Png);
        Ok(Pixels(image.context("the browser's picture cannot be read")?.into_rgba8()))
    }

    /// How high it is.
    pub fn height(&self) -> u32 {
        self.0.height()
    }

    fn picture(&self) -> Picture<'_> {
        Picture { width: self.0.width(), height: self.0.height(), pixels: self.0.as_raw() }
    }

    /// How this picture and the one after differ.
    pub fn difference(&self, after: &Pixels) -> Difference {
        difference(self.picture(), after.picture())
    }

    /// The picture after in pale grey, with what differs in a strong colour, as PNG.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn drawn_difference(&self, after: &Pixels) -> Result<Vec<u8>> {
        let (width, height) = (self.0.width().max(after.0.width()), self.height().max(after.height()));
        let mut drawn = RgbaImage::new(width, height);
        for (x, y, pixel) in drawn.enumerate_pixels_mut() {
            let (old, new) = (self.0.get_pixel_checked(x, y), after.0.get_pixel_checked(x, y));
            let grey = new.or(old).map_or(255, |own| {
                let sum: u32 = own.0[..3].iter().map(|part| u32::from(*part)).sum();
                (176 + sum * 79 / 765) as u8
            });
            pixel.0 = if old == new { [grey, grey, grey, 255] } else { [200, 30, 90, 255] };
        }
        let mut png = Vec::new();
        let encoder = PngEncoder::new_with_quality(&mut png, CompressionType::Fast, FilterType::Sub);
        encoder.write_image(drawn.as_raw(), width, height, ExtendedColorType::Rgba8)?;
        Ok(png)
    }
}
