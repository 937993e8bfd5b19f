//! WARC: what an archive noted of its requests (ISO 28500). It is read record by record.

use std::collections::HashMap;
use std::io::{BufRead, Cursor, Read};

use anyhow::{Context as _, Result, bail};
use http::header::{CONTENT_ENCODING, CONTENT_TYPE, HeaderName, TRANSFER_ENCODING};
use http::{HeaderMap, HeaderValue};
use url::Url;

use super::archived::Archived;
use crate::fetching::{Fetched, LARGEST_BODY, decoded_body};

/// The longest head of a record, in bytes.
const LONGEST_HEAD: usize = 64 * 1024;
/// The most headers that an answer may have.
const MOST_HEADERS: usize = 200;

/// Hands every answer on, in the order of the file.
pub(super) fn each(mut reader: impl BufRead, take: &mut dyn FnMut(Archived) -> Result<()>) -> Result<()> {
    // The first address of each payload, for records that say that theirs is the same.
    let mut payloads: HashMap<String, Url> = HashMap::new();
    while let Some(record) = Record::read(&mut reader)? {
        let Some(url) = record.url() else { continue };
        if let (Some(digest), "response") = (record.get("warc-payload-digest"), record.kind()) {
            payloads.entry(digest.to_owned()).or_insert_with(|| url.clone());
        }
        let Some(bytes) = record.body.as_deref() else {
            take(Archived::WithoutBody(url, 200))?;
            continue;
        };
        let own = match record.kind() {
            "response" => answer(url, bytes),
            "resource" => {
                let mut headers = HeaderMap::new();
                if let Some(Ok(kind)) = record.get("content-type").map(HeaderValue::from_str) {
                    headers.insert(CONTENT_TYPE, kind);
                }
                Some(Archived::Answer(Fetched { url, status: 200, headers, body: bytes.to_vec() }))
            }
            "revisit" => {
                let named = record.get("warc-refers-to-target-uri").and_then(|own| Url::parse(own).ok());
                let by_digest = || payloads.get(record.get("warc-payload-digest")?).cloned();
                named.or_else(by_digest).map(|before| Archived::Again(url, before))
            }
            _ => None,
        };
        own.map_or(Ok(()), &mut *take)?;
    }
    Ok(())
}

/// A record: its headers, in lower case, and its block.
struct Record {
    headers: HashMap<String, String>,
    /// The block; none where that is longer than anybody would want.
    body: Option<Vec<u8>>,
}

impl Record {
    /// Reads the next record; none at the end.
    fn read(reader: &mut dyn BufRead) -> Result<Option<Self>> {
        let mut head = Vec::new();
        // Between records there are empty lines.
        loop {
            let count = line(reader, &mut head)?;
            if count == 0 {
                return Ok(None);
            }
            if !head.trim_ascii().is_empty() {
                break;
            }
            head.clear();
        }
        if !head.starts_with(b"WARC/") {
            bail!("a record does not begin with `WARC/`: the file is broken there, or is no WARC");
        }
        let mut headers: HashMap<String, String> = HashMap::new();
        let mut last = String::new();
        loop {
            let mut text = Vec::new();
            if line(reader, &mut text)? == 0 {
                bail!("the file ends in the head of a record: it was cut off");
            }
            let text = String::from_utf8_lossy(&text);
            let text = text.trim_end_matches(['\r', '\n']);
            if text.is_empty() {
                break;
            }
            if headers.len() > MOST_HEADERS {
                bail!("a record has more headers than any should");
            }
            match text.split_once(':') {
                // A line that begins with a blank goes on with the one before.
                _ if text.starts_with([' ', '\t']) => {
                    if let Some(value) = headers.get_mut(&last) {
                        value.push_str(text.trim());
                    }
                }
                Some((name, value)) => {
                    last = name.trim().to_ascii_lowercase();
                    headers.insert(last.clone(), value.trim().to_owned());
                }
                None => {}
            }
        }
        let length = headers.get("content-length").and_then(|own| own.parse::<u64>().ok());
        let length = length.context("a record does not say how long it is")?;
        let mut block = reader.take(length);
        if length > LARGEST_BODY + LONGEST_HEAD as u64 {
            std::io::copy(&mut block, &mut std::io::sink())?;
            return Ok(Some(Record { headers, body: None }));
        }
        let mut body = Vec::new();
        block.read_to_end(&mut body)?;
        if (body.len() as u64) < length {
            bail!("the file ends in the middle of a record: it was cut off");
        }
        Ok(Some(Record { headers, body: Some(body) }))
    }

    fn get(&self, name: &str) -> Option<&str> {
        self.headers.get(name).map(String::as_str)
    }

    fn kind(&self) -> &str {
        self.get("warc-type").unwrap_or_default()
    }

    /// The address, which some writers put into angle brackets.
    fn url(&self) -> Option<Url> {
        let text = self.get("warc-target-uri")?.trim_start_matches('<').trim_end_matches('>');
        Url::parse(text).ok()
    }
}

fn line(reader: &mut dyn BufRead, out: &mut Vec<u8>) -> Result<usize> {
    let count = reader.take(LONGEST_HEAD as u64).read_until(b'\n', out)?;
    if count == LONGEST_HEAD {
        bail!("the head of a record is longer than any should be");
    }
    Ok(count)
}

/// The answer of a server, as it was sent.
fn answer(url: Url, bytes: &[u8]) -> Option<Archived> {
    let mut room = [httparse::EMPTY_HEADER; MOST_HEADERS];
    let mut head = httparse::Response::new(&mut room);
    let Ok(httparse::Status::Complete(at)) = head.parse(bytes) else { return None };
    let status = head.code?;
    let mut headers = HeaderMap::new();
    for own in head.headers.iter() {
        if let (Ok(name), Ok(value)) = (HeaderName::try_from(own.name), HeaderValue::from_bytes(own.value)) {
            headers.append(name, value);
        }
    }
    let text =
        |name: HeaderName| headers.get(name).and_then(|own| own.to_str().ok()).unwrap_or_default().to_owned();
    let mut body = bytes[at..].to_vec();
    if text(TRANSFER_ENCODING).to_ascii_lowercase().contains("chunked") {
        let mut whole = Vec::new();
        let decoded = chunked_transfer::Decoder::new(&body[..]).read_to_end(&mut whole);
        // Some writers note the body without its chunks, and the header all the same.
        if decoded.is_ok() {
            body = whole;
        }
    }
    let coding = text(CONTENT_ENCODING);
    match decoded_body(&coding, Cursor::new(body)) {
        Ok(body) => Some(Archived::Answer(Fetched { url, status, headers, body })),
        Err(_) => Some(Archived::WithoutBody(url, status)),
    }
}
