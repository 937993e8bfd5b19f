//! Pictures of pages: read, held against each other, and drawn with what differs in colour.

use std::io::Cursor;

use anyhow::{Context as _, Result};
use deft_pin_core::compare::{Difference, Picture, difference};
use png::{BitDepth, ColorType, Compression, Decoder, Encoder, Transformations};

/// A picture in memory.
pub struct Pixels {
    width: u32,
    height: u32,
    /// Red, green, blue and opacity of each pixel, a byte each, row by row.
    parts: Vec<u8>,
}

impl Pixels {
    /// Reads a picture in PNG.
    ///
    /// # Errors
    /// It is none.
    pub fn read(png: &[u8]) -> Result<Self> {
        Self::decoded(png).context("the browser's picture cannot be read")
    }

    fn decoded(png: &[u8]) -> Result<Self> {
        let mut decoder = Decoder::new(Cursor::new(png));
        decoder.set_transformations(Transformations::normalize_to_color8() | Transformations::ALPHA);
        let mut reader = decoder.read_info()?;
        let mut parts = vec![0; reader.output_buffer_size().context("it is larger than the memory")?];
        let frame = reader.next_frame(&mut parts)?;
        parts.truncate(frame.buffer_size());
        if frame.color_type == ColorType::GrayscaleAlpha {
            parts =
                parts.chunks_exact(2).flat_map(|pixel| [pixel[0], pixel[0], pixel[0], pixel[1]]).collect();
        }
        Ok(Pixels { width: frame.width, height: frame.height, parts })
    }

    /// How high it is.
    pub fn height(&self) -> u32 {
        self.height
    }

    fn picture(&self) -> Picture<'_> {
        Picture { width: self.width, height: self.height, pixels: &self.parts }
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
        let (width, height) = (self.width.max(after.width), self.height.max(after.height));
        let mut drawn = Vec::with_capacity(4 * width as usize * height as usize);
        for (y, x) in (0..height).flat_map(|y| (0..width).map(move |x| (y, x))) {
            let (old, new) = (self.pixel(x, y), after.pixel(x, y));
            let grey = new.or(old).map_or(255, |own| {
                let sum: u32 = own[..3].iter().map(|part| u32::from(*part)).sum();
                (176 + sum * 79 / 765) as u8
            });
            drawn.extend(if old == new { [grey, grey, grey, 255] } else { [200, 30, 90, 255] });
        }
        let mut png = Vec::new();
        let mut encoder = Encoder::new(&mut png, width, height);
        encoder.set_color(ColorType::Rgba);
        encoder.set_depth(BitDepth::Eight);
        encoder.set_compression(Compression::Fast);
        encoder.write_header()?.write_image_data(&drawn)?;
        Ok(png)
    }

    fn pixel(&self, x: u32, y: u32) -> Option<&[u8]> {
        let at = 4 * (y as usize * self.width as usize + x as usize);
        (x < self.width && y < self.height).then(|| &self.parts[at..at + 4])
    }
}
