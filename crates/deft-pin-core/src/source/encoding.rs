//! From the bytes of a file to its characters, as a browser decides it: the encoding
//! sniffing of the HTML standard ("determining the character encoding") and the decoders of the Encoding standard, with a
//! way back from each place in the text to the byte that it came from.
//!
//! It is long since the standard's prescan is carried out step by step, under the names of its steps.

use std::borrow::Cow;

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};

use super::text::{Span, offset};

/// How far into a file the standard's prescan looks for a `<meta>` that names an encoding.
const PRESCAN_BYTES: usize = 1024;

/// A file's characters, and which bytes of the file they came from.
#[derive(Debug)]
pub struct Decoded<'a> {
    text: Cow<'a, str>,
    encoding: &'static Encoding,
    certain: bool,
    /// Whether the file itself says its encoding.
    is_said: bool,
    origins: Origins,
}

/// Which byte of the file each byte of the text came from.
#[derive(Debug)]
enum Origins {
    /// Each stands this many bytes further on in the file (a byte order mark was taken off).
    Shifted(u32),
    /// From each of these offsets in the text on, the file goes on from the offset beside it,
    /// byte for byte up to the next row.
    Rows(Vec<(u32, u32)>),
}

impl<'a> Decoded<'a> {
    /// Decodes an HTML file: by its byte order mark, else by the `<meta>` in its first 1024
    /// bytes, else as UTF-8 where it is that, else as windows-1252.
    pub fn html(bytes: &'a [u8]) -> Self {
        if let Some((encoding, mark)) = Encoding::for_bom(bytes) {
            return decode(bytes, encoding, mark, true);
        }
        let named = prescan(&bytes[..bytes.len().min(PRESCAN_BYTES)]);
        match named {
            Some(encoding) => decode(bytes, encoding, 0, false),
            None => {
                let is_utf8 = std::str::from_utf8(bytes).is_ok();
                let guessed = decode(bytes, if is_utf8 { UTF_8 } else { WINDOWS_1252 }, 0, false);
                Decoded { is_said: false, ..guessed }
            }
        }
    }

    /// Decodes the same file again after the parser has met a `<meta>` that names an encoding
    /// (HTML, "changing the encoding while parsing"). `None` where that changes nothing.
    pub fn html_as(&self, bytes: &'a [u8], label: &str) -> Option<Self> {
        if self.certain {
            return None;
        }
        let encoding = meta_encoding(label.as_bytes())?;
        (encoding != self.encoding && self.encoding != UTF_16BE && self.encoding != UTF_16LE)
            .then(|| decode(bytes, encoding, 0, true))
    }

    /// Other bytes, in the same encoding; none where their characters would have to be found one by one.
    pub fn of_bytes(&self, bytes: &[u8]) -> Option<Decoded<'static>> {
        let Origins::Shifted(by) = self.origins else { return None };
        let text = std::str::from_utf8(bytes.get(by as usize..)?).ok()?;
        Some(Decoded {
            text: Cow::Owned(text.to_owned()),
            encoding: self.encoding,
            certain: self.certain,
            is_said: self.is_said,
            origins: Origins::Shifted(by),
        })
    }

    /// The same, with a text of its own.
    pub fn into_owned(self) -> Decoded<'static> {
        let Decoded { text, encoding, certain, is_said, origins } = self;
        Decoded { text: Cow::Owned(text.into_owned()), encoding, certain, is_said, origins }
    }

    /// The characters, without a byte order mark.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Whether the file says itself that it is in UTF-8. One that says nothing is in whatever encoding its server
    /// or a browser's guess says, and so are the files that it links.
    pub fn says_utf8(&self) -> bool {
        self.is_said && self.encoding == UTF_8
    }

    /// The encoding of the file.
    pub fn encoding(&self) -> &'static Encoding {
        self.encoding
    }

    /// The byte of the file that a byte offset of the text came from.
    pub fn origin(&self, at: u32) -> u32 {
        match &self.origins {
            Origins::Shifted(by) => at + by,
            Origins::Rows(rows) => {
                let row = rows.partition_point(|&(text, _)| text <= at).saturating_sub(1);
                rows.get(row).map_or(at, |&(text, file)| file + (at - text))
            }
        }
    }

    /// The bytes of the file that a part of the text came from.
    pub fn origin_span(&self, span: Span) -> Span {
        Span { start: self.origin(span.start), end: self.origin(span.end) }
    }

    /// A text in the bytes of this file's encoding; `None` where the encoding has no bytes for
    /// one of its characters.
    pub fn encode<'t>(&self, text: &'t str) -> Option<Cow<'t, [u8]>> {
        if self.encoding == UTF_16LE {
            return Some(Cow::Owned(text.encode_utf16().flat_map(u16::to_le_bytes).collect()));
        }
        if self.encoding == UTF_16BE {
            return Some(Cow::Owned(text.encode_utf16().flat_map(u16::to_be_bytes).collect()));
        }
        let (bytes, _, unmappable) = self.encoding.encode(text);
        (!unmappable).then_some(bytes)
    }
}

/// Bytes of ISO-2022-JP in ASCII, whatever set of characters holds where they are put; behind them
/// that one holds again (Encoding, "ISO-2022-JP decoder").
pub fn unshifted(insertion: Vec<u8>, bytes: &[u8], at: usize) -> Vec<u8> {
    const ASCII: &[u8] = b"\x1b(B";
    let sets: [&[u8]; 5] = [ASCII, b"\x1b(J", b"\x1b(I", b"\x1b$@", b"\x1b$B"];
    let before = &bytes[..at.min(bytes.len())];
    let escapes = memchr::memrchr_iter(0x1b, before);
    let set = escapes.filter_map(|escape| sets.iter().find(|set| before[escape..].starts_with(set))).next();
    match set {
        None | Some(&ASCII) => insertion,
        // Another escape right behind would be an error.
        Some(_) if bytes.get(at) == Some(&0x1b) => [ASCII, &insertion].concat(),
        Some(set) => [ASCII, &insertion, set].concat(),
    }
}

fn decode<'a>(bytes: &'a [u8], encoding: &'static Encoding, mark: usize, certain: bool) -> Decoded<'a> {
    if encoding == UTF_8
        && let Ok(text) = std::str::from_utf8(&bytes[mark..])
    {
        return Decoded {
            text: Cow::Borrowed(text),
            encoding,
            certain,
            is_said: true,
            origins: Origins::Shifted(offset(mark)),
        };
    }
    let (text, rows) = decode_slowly(&bytes[mark..], encoding, offset(mark));
    Decoded { text: Cow::Owned(text), encoding, certain, is_said: true, origins: Origins::Rows(rows) }
}

/// Decodes byte by byte, so that each character is known by the bytes that made it.
fn decode_slowly(bytes: &[u8], encoding: &'static Encoding, first: u32) -> (String, Vec<(u32, u32)>) {
    let mut decoder = encoding.new_decoder_without_bom_handling();
    let mut text = String::with_capacity(bytes.len());
    let mut rows = vec![(0, first)];
    // Where the character that is being read began.
    let mut began = 0;
    let mut buffer = [0u8; 32];
    let steps = (0..bytes.len()).map(|at| (at, false)).chain([(bytes.len(), true)]);
    for (at, last) in steps {
        let input = bytes.get(at..at + 1).unwrap_or_default();
        let (_, _, written, _) = decoder.decode_to_utf8(input, &mut buffer, last);
        if written == 0 {
            continue;
        }
        let piece = std::str::from_utf8(&buffer[..written]).unwrap_or("\u{fffd}");
        // A character before the last of this piece was an error that this byte brought to
        // light; the byte itself made the last one.
        let mut pieces = piece.chars().peekable();
        while let Some(character) = pieces.next() {
            let from = if pieces.peek().is_none() && piece.chars().count() > 1 { at } else { began };
            let row = (offset(text.len()), first + offset(from));
            if let Some(&(text_start, file_start)) = rows.last()
                && row.1.wrapping_sub(file_start) != row.0 - text_start
            {
                rows.push(row);
            }
            text.push(character);
        }
        began = at + 1;
    }
    // The end of the text is the end of the file, less half a character that UTF-16 may end in:
    // what is put there has to begin where a character can.
    let halves = if encoding == UTF_16BE || encoding == UTF_16LE { bytes.len() % 2 } else { 0 };
    rows.push((offset(text.len()), first + offset(bytes.len() - halves)));
    (text, rows)
}

/// The encoding that a label in a `<meta>` stands for: UTF-16 in ASCII bytes can only be UTF-8
/// (HTML, the last steps of "prescan a byte stream to determine its encoding").
fn meta_encoding(label: &[u8]) -> Option<&'static Encoding> {
    let encoding = Encoding::for_label(label)?;
    if encoding == UTF_16BE || encoding == UTF_16LE {
        Some(UTF_8)
    } else if encoding.name() == "x-user-defined" {
        Some(WINDOWS_1252)
    } else {
        Some(encoding)
    }
}

/// The characters of a file that has to be in UTF-8, without a byte order mark.
///
/// # Errors
/// The first byte that is no part of a character.
pub fn utf8_text(bytes: Vec<u8>) -> Result<String, usize> {
    let mut text = String::from_utf8(bytes).map_err(|error| error.utf8_error().valid_up_to())?;
    if text.starts_with('\u{feff}') {
        text.drain(..'\u{feff}'.len_utf8());
    }
    Ok(text)
}

/// The characters of a style sheet, and its encoding: by its byte order mark, else by the `@charset`
/// at its very start, else that of what loads it (css-syntax-3, "determine the fallback encoding").
pub fn decode_sheet(bytes: &[u8], environment: &'static Encoding) -> (String, &'static Encoding) {
    decode_with(bytes, charset_rule(bytes).unwrap_or(environment))
}

/// The characters of a classic script: by its byte order mark, else in the encoding of the page that
/// loads it (HTML, "fetch a classic script").
pub fn decode_script(bytes: &[u8], environment: &'static Encoding) -> String {
    decode_with(bytes, environment).0
}

fn decode_with(bytes: &[u8], encoding: &'static Encoding) -> (String, &'static Encoding) {
    let (text, encoding, _) = encoding.decode(bytes);
    (text.into_owned(), encoding)
}

/// The encoding that `@charset "…";` at the start of a sheet names, written just so.
fn charset_rule(bytes: &[u8]) -> Option<&'static Encoding> {
    let label = bytes[..bytes.len().min(PRESCAN_BYTES)].strip_prefix(b"@charset \"")?;
    let end = memchr::memmem::find(label, b"\";")?;
    meta_encoding(&label[..end])
}

/// "Prescan a byte stream to determine its encoding" (HTML).
fn prescan(bytes: &[u8]) -> Option<&'static Encoding> {
    let mut at = 0;
    while at < bytes.len() {
        let rest = &bytes[at..];
        if rest.starts_with(b"<!--") {
            // The two dashes of the start may be those of the end: `<!-->`.
            at += 2 + memchr::memmem::find(&rest[2..], b"-->")? + 3;
        } else if starts_tag(rest, b"<meta") {
            at += 6;
            if let Some(encoding) = prescan_meta(bytes, &mut at) {
                return Some(encoding);
            }
        } else if is_tag(rest) {
            at += 1 + rest[1..].iter().position(|&b| b.is_ascii_whitespace() || b == b'>')?;
            while attribute(bytes, &mut at).is_some() {}
            at += 1;
        } else if matches!(rest, [b'<', b'!' | b'/' | b'?', ..]) {
            at += memchr::memchr(b'>', rest)? + 1;
        } else {
            at += 1;
        }
    }
    None
}

fn starts_tag(bytes: &[u8], tag: &[u8]) -> bool {
    bytes.len() > tag.len()
        && bytes[..tag.len()].eq_ignore_ascii_case(tag)
        && (bytes[tag.len()].is_ascii_whitespace() || bytes[tag.len()] == b'/')
}

fn is_tag(bytes: &[u8]) -> bool {
    match bytes {
        [b'<', b'/', letter, ..] | [b'<', letter, ..] => letter.is_ascii_alphabetic(),
        _ => false,
    }
}

fn prescan_meta(bytes: &[u8], at: &mut usize) -> Option<&'static Encoding> {
    let mut seen: Vec<Vec<u8>> = Vec::new();
    let mut got_pragma = false;
    let mut need_pragma = None;
    let mut label: Option<Vec<u8>> = None;
    while let Some((name, value)) = attribute(bytes, at) {
        if seen.contains(&name) {
            continue;
        }
        match &name[..] {
            b"http-equiv" => got_pragma |= value == b"content-type",
            b"content" if label.is_none() => {
                if let Some(found) = charset_in(&value) {
                    label = Some(found.to_vec());
                    need_pragma = Some(true);
                }
            }
            b"charset" => {
                label = Some(value);
                need_pragma = Some(false);
            }
            _ => {}
        }
        seen.push(name);
    }
    match need_pragma {
        Some(true) if !got_pragma => None,
        Some(_) => meta_encoding(&label?),
        None => None,
    }
}

/// "Get an attribute" of that prescan (HTML), with name and value in lower case.
fn attribute(bytes: &[u8], at: &mut usize) -> Option<(Vec<u8>, Vec<u8>)> {
    let blank = |b: &u8| matches!(b, b'\t' | b'\n' | 0x0c | b'\r' | b' ');
    let skip = |at: &mut usize, also: u8| {
        while bytes.get(*at).is_some_and(|b| blank(b) || *b == also) {
            *at += 1;
        }
    };
    skip(at, b'/');
    let mut name = Vec::new();
    loop {
        match *bytes.get(*at)? {
            b'>' if name.is_empty() => return None,
            b'=' if !name.is_empty() => break,
            b if blank(&b) => {
                skip(at, b' ');
                if bytes.get(*at) != Some(&b'=') {
                    return Some((name, Vec::new()));
                }
                break;
            }
            b'/' | b'>' => return Some((name, Vec::new())),
            b => name.push(b.to_ascii_lowercase()),
        }
        *at += 1;
    }
    *at += 1;
    skip(at, b' ');
    let mut value = Vec::new();
    match *bytes.get(*at)? {
        quote @ (b'"' | b'\'') => {
            let rest = &bytes[*at + 1..];
            let length = memchr::memchr(quote, rest)?;
            value.extend(rest[..length].to_ascii_lowercase());
            *at += length + 2;
        }
        _ => {
            while let Some(b) = bytes.get(*at).filter(|b| !blank(b) && **b != b'>') {
                value.push(b.to_ascii_lowercase());
                *at += 1;
            }
        }
    }
    Some((name, value))
}

/// "Extracting a character encoding from a meta element", up to the label (HTML).
fn charset_in(content: &[u8]) -> Option<&[u8]> {
    let mut rest = content;
    loop {
        let at = memchr::memmem::find(rest, b"charset")?;
        rest = rest[at + 7..].trim_ascii_start();
        if let [b'=', value @ ..] = rest {
            let value = value.trim_ascii_start();
            return match value {
                [quote @ (b'"' | b'\''), label @ ..] => {
                    memchr::memchr(*quote, label).map(|end| &label[..end])
                }
                label => {
                    let end = label.iter().position(|b| b.is_ascii_whitespace() || *b == b';');
                    Some(&label[..end.unwrap_or(label.len())])
                }
            };
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_encoding_is_the_one_that_a_browser_takes() {
        let table: [(&[u8], &str); 12] = [
            (b"<p>plain", "UTF-8"),
            (b"\xef\xbb\xbf<meta charset=latin1>", "UTF-8"),
            (b"\xff\xfe<\0p\0>\0", "UTF-16LE"),
            (b"<p>caf\xe9", "windows-1252"),
            (b"<p>caf\xc3\xa9", "UTF-8"),
            (b"<meta charset=ISO-8859-2><p>\xe9", "ISO-8859-2"),
            (b"<META CharSet = 'shift_jis' />", "Shift_JIS"),
            (b"<meta content='text/html; charset=koi8-r' http-equiv=content-type>", "KOI8-R"),
            (b"<meta content='text/html; charset=koi8-r'>", "UTF-8"),
            (b"<!-- <meta charset=gbk> --><meta charset=big5>", "Big5"),
            (b"<a title='<meta charset=gbk>'><meta charset=euc-kr>", "EUC-KR"),
            (b"<meta charset=utf-16>", "UTF-8"),
        ];
        for (bytes, expected) in table {
            let found = Decoded::html(bytes).encoding().name();
            assert_eq!(found, expected, "{}", bytes.escape_ascii());
        }
    }

    #[test]
    fn a_sheet_takes_its_own_encoding_or_that_of_what_loads_it() {
        let table: [(&[u8], &str, &str); 8] = [
            (b".caf\xc3\xa9", ".café", "UTF-8"),
            (b"@charset \"iso-8859-1\"; .\xe9", "@charset \"iso-8859-1\"; .é", "windows-1252"),
            (b"@charset \"utf-16\"; .\xc3\xa9", "@charset \"utf-16\"; .é", "UTF-8"),
            (b"@charset 'koi8-r'; .a", "@charset 'koi8-r'; .a", "UTF-8"),
            (b" @charset \"koi8-r\"; .a", " @charset \"koi8-r\"; .a", "UTF-8"),
            (b"@charset \"nonsense\"; .a", "@charset \"nonsense\"; .a", "UTF-8"),
            (b"\xef\xbb\xbf@charset \"koi8-r\"; .a", "@charset \"koi8-r\"; .a", "UTF-8"),
            (b"\xff\xfe.\0a\0", ".a", "UTF-16LE"),
        ];
        for (bytes, text, encoding) in table {
            let (found, by) = decode_sheet(bytes, UTF_8);
            assert_eq!((found.as_str(), by.name()), (text, encoding), "{}", bytes.escape_ascii());
        }
        assert_eq!(decode_sheet(b".\xe9", WINDOWS_1252).0, ".é");
        assert_eq!(decode_script(b"\xef\xbb\xbf'\xc3\xa9'", WINDOWS_1252), "'é'");
        assert_eq!(decode_script(b"'\xe9'", WINDOWS_1252), "'é'");
    }

    #[test]
    fn every_place_in_the_text_leads_back_to_its_bytes() {
        let table = [
            ("utf-8", "<p id=ñ>日本</p>\r\n<b>x</b>"),
            ("utf-16le", "<p id=ñ>日𝄞本</p>\r\n<b>x</b>"),
            ("utf-16be", "<p id=ñ>日𝄞本</p>\r\n<b>x</b>"),
            ("shift_jis", "<p id=日本>ﾀ</p>\r\n<b>x</b>"),
            ("gb18030", "<p id=ñ>日𝄞本</p>\r\n<b>x</b>"),
            ("windows-1252", "<p id=ñ>é€</p>\r\n<b>x</b>"),
        ];
        for (label, text) in table {
            let encoding = Encoding::for_label(label.as_bytes()).unwrap();
            let probe = Decoded {
                text: Cow::Borrowed(""),
                encoding,
                certain: true,
                is_said: true,
                origins: Origins::Shifted(0),
            };
            let bytes = probe.encode(text).unwrap().into_owned();
            let decoded = decode(&bytes, encoding, 0, true);
            assert_eq!(decoded.text(), text, "{label}");
            for (at, character) in text.char_indices() {
                let span = Span::new(at, at + character.len_utf8());
                let origin = decoded.origin_span(span);
                let mut utf8 = [0; 4];
                let alone = probe.encode(character.encode_utf8(&mut utf8)).unwrap();
                assert_eq!(&bytes[origin.range()], &*alone, "{label}: {character} at {at}");
            }
        }
    }

    #[test]
    fn bytes_that_are_no_characters_keep_their_places() {
        let bytes = b"<meta charset=utf-8>\xff<i>\xe2\x82</i>\xf0\x9f";
        let decoded = Decoded::html(bytes);
        assert_eq!(decoded.text(), "<meta charset=utf-8>\u{fffd}<i>\u{fffd}</i>\u{fffd}");
        let at = decoded.text().find("</i>").unwrap();
        let origin = decoded.origin_span(Span::new(at, at + 4));
        assert_eq!(&bytes[origin.range()], b"</i>");
        assert_eq!(decoded.origin(offset(decoded.text().len())) as usize, bytes.len());
    }
}
