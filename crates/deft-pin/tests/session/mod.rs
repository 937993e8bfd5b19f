//! A session at a terminal, in a fresh folder: files are written, the built program is run, and
//! what it answers is looked at.

#![allow(dead_code, unused_imports, reason = "each test file uses a part of it")]

mod nginx;
mod odd_server;
mod preview;

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use serde_json::Value;
use tempfile::TempDir;

pub use nginx::Nginx;
pub use odd_server::{OddServer, send};
pub use preview::{Got, Served, Server};

/// A fresh folder, gone at the end of the test.
pub struct Session(TempDir);

/// What a run of the program answered.
pub struct Answer {
    pub status: i32,
    pub stdout: String,
    pub stderr: String,
}

impl Session {
    pub fn new() -> Self {
        Session(tempfile::tempdir().unwrap())
    }

    /// A session with these files in its folder.
    pub fn with(files: &[(&str, &str)]) -> Self {
        let session = Session::new();
        files.iter().for_each(|(path, text)| session.write(path, text));
        session
    }

    pub fn path(&self, path: &str) -> PathBuf {
        self.0.path().join(path)
    }

    pub fn write(&self, path: &str, bytes: impl AsRef<[u8]>) {
        let path = self.path(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, bytes).unwrap();
    }

    pub fn read(&self, path: &str) -> String {
        fs::read_to_string(self.path(path)).unwrap()
    }

    pub fn command(&self, arguments: &str) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_deft-pin"));
        command.current_dir(self.0.path()).args(arguments.split_ascii_whitespace());
        command.env_remove("NO_COLOR");
        command
    }

    /// Runs the program with arguments that are parted by blanks.
    pub fn run(&self, arguments: &str) -> Answer {
        let Output { status, stdout, stderr } = self.command(arguments).output().unwrap();
        let text = |bytes| String::from_utf8(bytes).unwrap();
        Answer { status: status.code().unwrap(), stdout: text(stdout), stderr: text(stderr) }
    }

    /// Runs the program, which has to end well.
    pub fn good(&self, arguments: &str) -> Answer {
        let answer = self.run(arguments);
        assert_eq!(answer.status, 0, "{}{}", answer.stdout, answer.stderr);
        answer
    }

    /// Runs the program, which has to refuse with one message that has these words in it.
    pub fn refused(&self, arguments: &str, words: &str) {
        let answer = self.run(arguments);
        let told = answer.stderr.split_whitespace().collect::<Vec<_>>().join(" ");
        assert_eq!(answer.status, 2, "{}", answer.stderr);
        assert!(told.contains(words), "{words:?} is not in {told:?}");
        assert!(answer.stdout.is_empty(), "{}", answer.stdout);
    }

    /// The files below a folder, with their bytes.
    pub fn files(&self, folder: &str) -> BTreeMap<String, Vec<u8>> {
        let mut files = BTreeMap::new();
        collect(&self.path(folder), &self.path(folder), &mut files);
        files
    }
}

fn collect(root: &Path, folder: &Path, files: &mut BTreeMap<String, Vec<u8>>) {
    for entry in fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            collect(root, &path, files);
        } else {
            let name = path.strip_prefix(root).unwrap().to_str().unwrap().to_owned();
            files.insert(name, fs::read(&path).unwrap());
        }
    }
}

impl Answer {
    pub fn json(&self) -> Value {
        serde_json::from_str(&self.stdout)
            .unwrap_or_else(|error| panic!("{error}: {}{}", self.stdout, self.stderr))
    }

    /// The codes of the findings of a JSON answer, in order.
    pub fn codes(&self) -> Vec<String> {
        let answer = self.json();
        let findings = answer["findings"].as_array().unwrap();
        findings.iter().map(|finding| finding["code"].as_str().unwrap().to_owned()).collect()
    }
}
