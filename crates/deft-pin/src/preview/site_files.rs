//! The site's own files: what is in its folder, and nothing that a link there leads out to.

use std::io::ErrorKind;

use axum::http::{HeaderMap, StatusCode};
use axum::response::Response;
use deft_pin_core::source::{FileError, FilePath};

use super::answers::{answer, file, said};
use crate::folder::Folder;

/// A file of the site, or the part of it that was asked for.
pub fn serve(folder: &Folder, path: &FilePath, asked: &HeaderMap, head: bool) -> Option<Response> {
    let opened = match folder.open_file(path) {
        Ok(opened) => opened,
        Err(FileError::Outside) => {
            let why = format!("`{path}` is a link to something outside of the site's folder.");
            return Some(said(StatusCode::FORBIDDEN, "This leads out of the site", &why));
        }
        // A folder, or nothing at all.
        Err(_) => return None,
    };
    let kind = kind_of(path);
    if head {
        let mut response = answer(StatusCode::OK, &kind, axum::body::Body::empty());
        if let Ok(about) = opened.metadata() {
            response.headers_mut().insert("content-length", about.len().into());
        }
        return Some(response);
    }
    match file(opened, &kind, asked) {
        Ok(response) => Some(response),
        Err(error) if error.kind() == ErrorKind::NotFound => None,
        Err(error) => {
            Some(said(StatusCode::INTERNAL_SERVER_ERROR, "This file cannot be read", &error.to_string()))
        }
    }
}

/// The type of a file by its name. Texts are sent without an encoding, so that it is told from what is in them.
pub fn kind_of(path: &FilePath) -> String {
    mime_guess::from_path(path.as_str()).first_or_octet_stream().essence_str().to_owned()
}
