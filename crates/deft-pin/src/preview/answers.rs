//! What is answered, whatever was asked: headers that all answers have, pages that only say something, parts of files.

use std::io::{Seek as _, SeekFrom};

use axum::body::Body;
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::Response;
use tokio_util::io::ReaderStream;

use crate::output::html_text;

/// An answer with a body of a type. Nothing is kept by the browser: the next answer may be another one.
pub fn answer(status: StatusCode, kind: &str, body: impl Into<Body>) -> Response {
    let mut response = Response::new(body.into());
    *response.status_mut() = status;
    let headers = response.headers_mut();
    if let Ok(kind) = HeaderValue::from_str(kind) {
        headers.insert(header::CONTENT_TYPE, kind);
    }
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static("no-store"));
    headers.insert("cross-origin-resource-policy", HeaderValue::from_static("same-origin"));
    response
}

/// What a program asked for.
pub fn json(value: &impl serde::Serialize) -> Response {
    match serde_json::to_vec(value) {
        Ok(bytes) => answer(StatusCode::OK, "application/json", bytes),
        Err(error) => {
            said(StatusCode::INTERNAL_SERVER_ERROR, "This could not be written", &error.to_string())
        }
    }
}

/// A page that says something.
pub fn said(status: StatusCode, head: &str, text: &str) -> Response {
    let page = format!(
        "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{head}</title>\
         <style>:root {{ color-scheme: light dark }} body {{ font: 16px/1.5 system-ui, sans-serif; max-width: 40rem; margin: 4rem auto; padding: 0 1rem }} p {{ white-space: pre-wrap; overflow-wrap: anywhere }}</style>\
         <h1>{}</h1><p>{}</p>",
        html_text(head),
        html_text(text),
        head = html_text(head)
    );
    answer(status, "text/html; charset=utf-8", page)
}

/// A way to another address of this server.
pub fn moved(to: &str) -> Response {
    let mut response = answer(StatusCode::FOUND, "text/plain; charset=utf-8", "moved\n");
    if let Ok(to) = HeaderValue::from_str(to) {
        response.headers_mut().insert(header::LOCATION, to);
    }
    response
}

/// A file, or the part of it that was asked for (RFC 9110, section 14). It is sent as it is read.
///
/// # Errors
/// The file cannot be read.
pub fn file(mut file: std::fs::File, kind: &str, asked: &HeaderMap) -> std::io::Result<Response> {
    let size = file.metadata()?.len();
    let range = asked.get(header::RANGE).and_then(|range| range.to_str().ok());
    let parsed = range.and_then(|range| http_range_header::parse_range_header(range).ok());
    let mut response = match parsed.map(|ranges| ranges.validate(size)) {
        // Of several parts the whole is sent, which is allowed.
        Some(Ok(ranges)) if ranges.len() == 1 => {
            let (start, end) = (*ranges[0].start(), *ranges[0].end());
            file.seek(SeekFrom::Start(start))?;
            let mut response = streamed(StatusCode::PARTIAL_CONTENT, kind, file, end - start + 1);
            insert(&mut response, header::CONTENT_RANGE, &format!("bytes {start}-{end}/{size}"));
            response
        }
        Some(Err(_)) => {
            let mut response = answer(StatusCode::RANGE_NOT_SATISFIABLE, kind, Body::empty());
            insert(&mut response, header::CONTENT_RANGE, &format!("bytes */{size}"));
            response
        }
        _ => streamed(StatusCode::OK, kind, file, size),
    };
    insert(&mut response, header::ACCEPT_RANGES, "bytes");
    Ok(response)
}

fn streamed(status: StatusCode, kind: &str, file: std::fs::File, length: u64) -> Response {
    let part = tokio::io::AsyncReadExt::take(tokio::fs::File::from_std(file), length);
    let mut response = answer(status, kind, Body::from_stream(ReaderStream::with_capacity(part, 64 << 10)));
    insert(&mut response, header::CONTENT_LENGTH, &length.to_string());
    response
}

fn insert(response: &mut Response, name: header::HeaderName, value: &str) {
    if let Ok(value) = HeaderValue::from_str(value) {
        response.headers_mut().insert(name, value);
    }
}
