//! A server on this machine, for what browsers do not do with files.

use std::collections::HashMap;
use std::io::{BufRead as _, BufReader, Write as _};
use std::net::TcpListener;
use std::sync::{Arc, Mutex};
use std::time::Duration;

/// Files, each with its type and its text.
pub type Served = Arc<Mutex<HashMap<String, (&'static str, String)>>>;

/// How files are served.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Serving {
    /// At once, each time that they are asked for.
    AtOnce,
    /// Everything but pages comes late, by a delay that each request draws anew.
    Late,
    /// At once; what is no page and stays as it is, a browser asks for once.
    Once,
}

/// Serves files on this machine.
pub fn serve(files: Served, serving: Serving) -> u16 {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    std::thread::spawn(move || {
        for (number, stream) in listener.incoming().map_while(Result::ok).enumerate() {
            let files = Arc::clone(&files);
            std::thread::spawn(move || {
                let mut line = String::new();
                let mut reader = BufReader::new(&stream);
                let _ = reader.read_line(&mut line);
                let mut header = String::new();
                while reader.read_line(&mut header).is_ok_and(|length| length > 2) {
                    header.clear();
                }
                let path = line.split(' ').nth(1).unwrap_or_default().split('?').next().unwrap_or_default();
                let found = files.lock().unwrap().get(path).cloned();
                if serving == Serving::Late && !path.ends_with(".html") {
                    std::thread::sleep(Duration::from_millis((number as u64 * 7919 % 97) / 2));
                }
                let (status, (kind, text)) = match found {
                    Some(found) => ("200 OK", found),
                    None => ("404 Not Found", ("text/plain", String::new())),
                };
                let caching =
                    match serving == Serving::Once && !path.ends_with('/') && !path.ends_with(".html") {
                        true => "max-age=600",
                        false => "no-store",
                    };
                let _ = write!(
                    &stream,
                    "HTTP/1.1 {status}\r\nContent-Type: {kind}\r\nContent-Length: {}\r\nCache-Control: {caching}\r\nConnection: close\r\n\r\n{text}",
                    text.len()
                );
            });
        }
    });
    port
}
