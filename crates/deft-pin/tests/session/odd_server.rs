//! A server that answers as a test wants it, badly too.

use std::cell::RefCell;
use std::io::{Read as _, Write as _};
use std::net::{TcpListener, TcpStream};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};

use super::Server;

/// A server of a test. It ends with the test's process.
pub struct OddServer {
    pub server: Server,
    /// Every request, as it was made.
    pub requests: Arc<Mutex<Vec<String>>>,
    /// How many were being answered at once, at most.
    pub at_once: Arc<AtomicUsize>,
}

impl std::ops::Deref for OddServer {
    type Target = Server;

    fn deref(&self) -> &Server {
        &self.server
    }
}

impl OddServer {
    /// A server that has each request, and the path in it, answered in its own thread.
    pub fn start(answer: impl Fn(&mut TcpStream, &str, &str) + Send + Sync + 'static) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let port = listener.local_addr().unwrap().port();
        let (requests, at_once, now) =
            <(Arc<Mutex<Vec<String>>>, Arc<AtomicUsize>, Arc<AtomicUsize>)>::default();
        let (answer, noted, most) = (Arc::new(answer), requests.clone(), at_once.clone());
        std::thread::spawn(move || {
            for stream in listener.incoming() {
                let Ok(mut stream) = stream else { continue };
                let (answer, noted, most, now) = (answer.clone(), noted.clone(), most.clone(), now.clone());
                std::thread::spawn(move || {
                    let mut bytes = Vec::new();
                    let mut part = [0; 1024];
                    while !bytes.windows(4).any(|end| end == b"\r\n\r\n") {
                        match stream.read(&mut part) {
                            Ok(count) if count > 0 => bytes.extend_from_slice(&part[..count]),
                            _ => return,
                        }
                    }
                    let request = String::from_utf8_lossy(&bytes).into_owned();
                    let path = request.split(' ').nth(1).unwrap_or_default().to_owned();
                    most.fetch_max(now.fetch_add(1, Ordering::SeqCst) + 1, Ordering::SeqCst);
                    noted.lock().unwrap().push(request.clone());
                    // Who has the answer may ask again at once: it is over when it begins to be sent.
                    OPEN.with(|open| *open.borrow_mut() = Some(now));
                    answer(&mut stream, &path, &request);
                    sent();
                });
            }
        });
        OddServer { server: Server { port }, requests, at_once }
    }

    /// The paths that were asked for, in order.
    pub fn paths(&self) -> Vec<String> {
        let requests = self.requests.lock().unwrap();
        requests.iter().map(|own| own.split(' ').nth(1).unwrap_or_default().to_owned()).collect()
    }
}

thread_local! {
    /// The count of what is being answered, until this thread's answer is sent.
    static OPEN: RefCell<Option<Arc<AtomicUsize>>> = const { RefCell::new(None) };
}

fn sent() {
    if let Some(now) = OPEN.with(|open| open.borrow_mut().take()) {
        now.fetch_sub(1, Ordering::SeqCst);
    }
}

/// Sends an answer; more headers end in line ends.
pub fn send(stream: &mut TcpStream, status: &str, headers: &str, body: &[u8]) {
    sent();
    let head =
        format!("HTTP/1.1 {status}\r\nContent-Length: {}\r\nConnection: close\r\n{headers}\r\n", body.len());
    let _ = stream.write_all(head.as_bytes());
    let _ = stream.write_all(body);
}
