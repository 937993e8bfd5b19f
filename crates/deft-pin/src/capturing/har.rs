//! HAR: what a browser noted of its requests (HTTP Archive 1.2). It is read entry by entry.

use std::fmt;
use std::io::Read;

use anyhow::{Context as _, Result};
use base64::Engine as _;
use http::header::{CONTENT_TYPE, HeaderName, LOCATION};
use http::{HeaderMap, HeaderValue};
use serde::Deserialize;
use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use url::Url;

use super::archived::Archived;
use crate::fetching::{Fetched, LARGEST_BODY, charset_in};

/// Hands every answer on, in the order of the file.
pub(super) fn each(file: impl Read, take: &mut dyn FnMut(Archived) -> Result<()>) -> Result<()> {
    let mut failed = None;
    let mut take = |own: Archived| {
        if failed.is_none() {
            failed = take(own).err();
        }
        failed.is_none()
    };
    let mut reader = serde_json::Deserializer::from_reader(file);
    let read = Object { key: "log", inner: Entries(&mut take) }.deserialize(&mut reader);
    match failed {
        Some(error) => Err(error),
        None => read.context("it is no HAR as it should be"),
    }
}

#[derive(Deserialize)]
struct Entry {
    request: AskedEntry,
    response: AnswerEntry,
}

#[derive(Deserialize)]
struct AskedEntry {
    method: String,
    url: String,
}

#[derive(Deserialize)]
struct AnswerEntry {
    status: i64,
    #[serde(default)]
    headers: Vec<HeaderEntry>,
    #[serde(default)]
    content: Content,
}

#[derive(Deserialize)]
struct HeaderEntry {
    name: String,
    value: String,
}

#[derive(Default, Deserialize)]
#[serde(rename_all = "camelCase")]
struct Content {
    mime_type: Option<String>,
    text: Option<String>,
    encoding: Option<String>,
}

impl Entry {
    fn archived(self) -> Option<Archived> {
        let url = Url::parse(&self.request.url).ok()?;
        let status = u16::try_from(self.response.status).ok().filter(|own| *own >= 100)?;
        if !self.request.method.eq_ignore_ascii_case("GET") {
            return None;
        }
        let mut headers = HeaderMap::new();
        for own in &self.response.headers {
            let name = own.name.to_ascii_lowercase();
            // The body is noted without its codings.
            if !matches!(name.as_str(), "content-encoding" | "content-length" | "transfer-encoding")
                && let (Ok(name), Ok(value)) = (HeaderName::try_from(name), HeaderValue::from_str(&own.value))
            {
                headers.append(name, value);
            }
        }
        if !headers.contains_key(CONTENT_TYPE)
            && let Some(Ok(kind)) = self.response.content.mime_type.as_deref().map(HeaderValue::from_str)
        {
            headers.insert(CONTENT_TYPE, kind);
        }
        let is_redirect = headers.contains_key(LOCATION) && (300..400).contains(&status);
        let body = match (&self.response.content.text, &self.response.content.encoding) {
            (Some(text), Some(encoding)) if encoding.eq_ignore_ascii_case("base64") => {
                let clean: String = text.split_whitespace().collect();
                base64::engine::general_purpose::STANDARD.decode(clean).ok()
            }
            (Some(text), _) => Some(self.response.content.bytes_of(text, &headers)),
            (None, _) if is_redirect || status != 200 => Some(Vec::new()),
            (None, _) => None,
        };
        Some(match body.filter(|body| body.len() as u64 <= LARGEST_BODY) {
            Some(body) => Archived::Answer(Fetched { url, status, headers, body }),
            None => Archived::WithoutBody(url, status),
        })
    }
}

impl Content {
    /// The bytes that a text was: browsers note texts decoded. It is put back into the encoding that was named.
    fn bytes_of(&self, text: &str, headers: &HeaderMap) -> Vec<u8> {
        let kind = headers.get(CONTENT_TYPE).and_then(|own| own.to_str().ok());
        let kind = kind.or(self.mime_type.as_deref()).unwrap_or_default();
        let encoding = charset_in(kind).and_then(|own| encoding_rs::Encoding::for_label(own.as_bytes()));
        match encoding {
            Some(encoding) if encoding != encoding_rs::UTF_8 => encoding.encode(text).0.into_owned(),
            _ => text.as_bytes().to_vec(),
        }
    }
}

/// An object of which one member matters.
struct Object<'k, S> {
    key: &'k str,
    inner: S,
}

impl<'de, S: DeserializeSeed<'de, Value = ()>> DeserializeSeed<'de> for Object<'_, S> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<(), D::Error> {
        reader.deserialize_map(self)
    }
}

impl<'de, S: DeserializeSeed<'de, Value = ()>> Visitor<'de> for Object<'_, S> {
    type Value = ();

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "an object with `{}`", self.key)
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        let mut inner = Some(self.inner);
        while let Some(key) = map.next_key::<String>()? {
            match inner.take_if(|_| key == self.key) {
                Some(inner) => map.next_value_seed(inner)?,
                None => {
                    map.next_value::<IgnoredAny>()?;
                }
            }
        }
        match inner {
            Some(_) => Err(serde::de::Error::custom(format!("there is no `{}`", self.key))),
            None => Ok(()),
        }
    }
}

/// The log: its entries one by one.
struct Entries<'t>(&'t mut dyn FnMut(Archived) -> bool);

impl<'de> DeserializeSeed<'de> for Entries<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<(), D::Error> {
        Object { key: "entries", inner: List(self.0) }.deserialize(reader)
    }
}

struct List<'t>(&'t mut dyn FnMut(Archived) -> bool);

impl<'de> DeserializeSeed<'de> for List<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<(), D::Error> {
        reader.deserialize_seq(self)
    }
}

impl<'de> Visitor<'de> for List<'_> {
    type Value = ();

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "a list of entries")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<(), A::Error> {
        while let Some(entry) = list.next_element::<Entry>()? {
            if let Some(own) = entry.archived()
                && !(self.0)(own)
            {
                return Err(serde::de::Error::custom("stopped"));
            }
        }
        Ok(())
    }
}
