//! A preview that is served while a test runs.

use std::io::{BufRead as _, BufReader, Read as _, Write as _};
use std::net::{Shutdown, TcpStream};
use std::process::{Child, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

use super::Session;

/// A preview that is being served. Gone at the end of the test.
pub struct Served {
    child: Child,
    pub server: Server,
    said: Receiver<String>,
    /// What has been said so far.
    pub heard: String,
}

/// A server on this machine.
#[derive(Clone, Copy, Debug)]
pub struct Server {
    pub port: u16,
}

impl std::ops::Deref for Served {
    type Target = Server;

    fn deref(&self) -> &Server {
        &self.server
    }
}

/// An answer of a server.
#[derive(Debug)]
pub struct Got {
    pub status: u16,
    pub head: String,
    pub body: Vec<u8>,
}

impl Got {
    pub fn text(&self) -> String {
        String::from_utf8_lossy(&self.body).into_owned()
    }

    pub fn header(&self, name: &str) -> Option<&str> {
        let mut lines = self.head.lines().filter_map(|line| line.split_once(": "));
        lines.find(|(own, _)| own.eq_ignore_ascii_case(name)).map(|(_, value)| value)
    }
}

impl Session {
    /// Starts a preview with arguments that are parted by blanks, and waits until it listens.
    pub fn preview(&self, arguments: &str) -> Served {
        let mut command = self.command(&format!("preview {arguments}"));
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let mut errors = BufReader::new(child.stderr.take().unwrap());
        let Some(port) = line.split(':').nth(2).and_then(|rest| rest.split('/').next()?.parse().ok()) else {
            let mut why = String::new();
            let _ = errors.read_to_string(&mut why);
            panic!("no address in {line:?}: {why}");
        };
        let (sender, said) = channel();
        std::thread::spawn(move || {
            errors.lines().map_while(Result::ok).try_for_each(|line| sender.send(line))
        });
        Served { child, server: Server { port }, said, heard: String::new() }
    }
}

impl Server {
    pub fn url(&self, path: &str) -> String {
        format!("http://127.0.0.1:{}{path}", self.port)
    }

    /// Sends bytes, and reads what is answered until the other side has said all.
    pub fn send(&self, request: &str) -> Got {
        let mut stream = TcpStream::connect(("127.0.0.1", self.port)).unwrap();
        stream.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
        stream.write_all(request.as_bytes()).unwrap();
        let mut bytes = Vec::new();
        let _ = stream.read_to_end(&mut bytes);
        let _ = stream.shutdown(Shutdown::Both);
        let at = bytes.windows(4).position(|part| part == b"\r\n\r\n").unwrap_or_else(|| panic!("{bytes:?}"));
        let head = String::from_utf8(bytes[..at].to_vec()).unwrap();
        let status = head.split(' ').nth(1).unwrap().parse().unwrap();
        let mut got = Got { status, head, body: bytes[at + 4..].to_vec() };
        if got.header("transfer-encoding") == Some("chunked") {
            got.body = unchunked(&got.body);
        }
        got
    }

    pub fn ask(&self, method: &str, path: &str, headers: &str) -> Got {
        let host = self.port;
        self.send(&format!(
            "{method} {path} HTTP/1.1\r\nHost: 127.0.0.1:{host}\r\nConnection: close\r\n{headers}\r\n"
        ))
    }

    pub fn get(&self, path: &str) -> Got {
        self.ask("GET", path, "")
    }
}

impl Served {
    /// Waits until something is said that has these words in it.
    pub fn hear(&mut self, words: &str) -> &str {
        let until = Instant::now() + Duration::from_secs(20);
        while !self.heard.contains(words) {
            let left = until.saturating_duration_since(Instant::now());
            let line = self.said.recv_timeout(left);
            let line = line.unwrap_or_else(|_| panic!("{words:?} was not said, but {:?}", self.heard));
            self.heard.push_str(&line);
            self.heard.push('\n');
        }
        &self.heard
    }

    /// How much memory it has taken at most, in megabytes.
    pub fn peak_memory(&self) -> u64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.child.id())).unwrap();
        let line = status.lines().find(|line| line.starts_with("VmHWM")).unwrap();
        line.split_ascii_whitespace().nth(1).unwrap().parse::<u64>().unwrap() / 1024
    }
}

fn unchunked(mut bytes: &[u8]) -> Vec<u8> {
    let mut whole = Vec::new();
    while let Some(at) = bytes.windows(2).position(|part| part == b"\r\n") {
        let length = usize::from_str_radix(std::str::from_utf8(&bytes[..at]).unwrap().trim(), 16).unwrap();
        whole.extend_from_slice(&bytes[at + 2..at + 2 + length]);
        bytes = &bytes[at + 4 + length..];
        if length == 0 {
            break;
        }
    }
    whole
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
