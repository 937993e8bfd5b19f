//! Bodies of answers: uncompressed within a limit, and as text.

use std::borrow::Cow;
use std::io::Read;

use brotli_decompressor::Decompressor;
use encoding_rs::Encoding;
use flate2::read::{MultiGzDecoder, ZlibDecoder};

use super::fetched::FetchProblem;

/// The longest body that is read, in bytes, uncompressed.
pub const LARGEST_BODY: u64 = 64_000_000;

/// A body without the codings that a header names, `gzip` or `br` say; the last one named was put on last.
///
/// # Errors
/// It is too long, or broken.
pub fn decoded_body(coding: &str, body: impl Read + Send + 'static) -> Result<Vec<u8>, FetchProblem> {
    let mut reader: Box<dyn Read + Send> = Box::new(body);
    let names: Vec<String> = coding.split(',').map(|own| own.trim().to_ascii_lowercase()).collect();
    for name in names.iter().rev() {
        reader = match name.as_str() {
            "" | "identity" => reader,
            "gzip" | "x-gzip" => Box::new(MultiGzDecoder::new(reader)),
            "deflate" => Box::new(ZlibDecoder::new(reader)),
            "br" => Box::new(Decompressor::new(reader, 4096)),
            other => return Err(FetchProblem::Unreadable(format!("it is in the coding `{other}`"))),
        };
    }
    let mut bytes = Vec::new();
    let read = reader.take(LARGEST_BODY + 1).read_to_end(&mut bytes);
    if bytes.len() as u64 > LARGEST_BODY {
        return Err(FetchProblem::TooLong);
    }
    match read {
        Ok(_) => Ok(bytes),
        Err(error) => Err(FetchProblem::Unreadable(error.to_string())),
    }
}

/// Bytes as text, by the encoding that their type names, or else UTF-8.
pub fn text_of(bytes: &[u8], charset: Option<&str>) -> String {
    let named = charset.and_then(|label| Encoding::for_label(label.as_bytes()));
    named.unwrap_or(encoding_rs::UTF_8).decode(bytes).0.into_owned()
}

/// A text as bytes that are read as UTF-8, whatever the page says of itself.
pub fn as_utf8(text: &str) -> Vec<u8> {
    format!("\u{feff}{}", text.trim_start_matches('\u{feff}')).into_bytes()
}

/// The bytes of a page such that its parser reads them in the encoding that its type names, if it names one.
pub fn page_bytes<'b>(bytes: &'b [u8], charset: Option<&str>) -> Cow<'b, [u8]> {
    match charset {
        Some(charset) => Cow::Owned(as_utf8(&text_of(bytes, Some(charset)))),
        None => Cow::Borrowed(bytes),
    }
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use super::*;

    #[test]
    fn bodies_are_uncompressed_within_a_limit() {
        let packed = |bytes: &[u8]| {
            let mut made = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::best());
            made.write_all(bytes).unwrap();
            made.finish().unwrap()
        };
        let read = |coding: &str, bytes: Vec<u8>| decoded_body(coding, std::io::Cursor::new(bytes));
        assert_eq!(read("", b"a".to_vec()), Ok(b"a".to_vec()));
        assert_eq!(read("GZIP", packed(b"ferry")), Ok(b"ferry".to_vec()));
        assert_eq!(read("gzip, gzip", packed(&packed(b"ferry"))), Ok(b"ferry".to_vec()));
        assert!(matches!(read("gzip", b"ferry".to_vec()), Err(FetchProblem::Unreadable(_))));
        assert!(matches!(read("lzma", b"ferry".to_vec()), Err(FetchProblem::Unreadable(_))));
        let bomb = packed(&packed(&vec![0; LARGEST_BODY as usize + 2]));
        assert!(bomb.len() < 10_000);
        assert_eq!(read("gzip, gzip", bomb), Err(FetchProblem::TooLong));
    }
}
