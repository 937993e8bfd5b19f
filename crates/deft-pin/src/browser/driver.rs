//! The driver of a browser: a program of its own, which starts browsers and takes commands.

use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::Duration;

use anyhow::{Context as _, Result, bail};
use tokio::io::{AsyncBufReadExt as _, BufReader};
use tokio::process::{Child, Command};

/// A driver that listens. It ends with this value, and its browsers with it.
pub struct Driver {
    // Kept: the program ends when this is dropped.
    _program: Child,
    /// The port that it listens on.
    pub port: u16,
}

/// What drivers of Chromium are called.
const NAMES: [&str; 2] = ["chromedriver", "chromium.chromedriver"];

/// How long a driver may take to say that it listens.
const PATIENCE: Duration = Duration::from_secs(20);

impl Driver {
    /// Starts a driver: the one that is named, or the one that is found on the path.
    ///
    /// # Errors
    /// There is none, or it does not begin to listen.
    pub async fn start(named: Option<&Path>) -> Result<Self> {
        let program = match named {
            Some(path) => path.to_owned(),
            None => on_path().context(
                "there is no `chromedriver` on the path, and pages are compared in Chromium: on Debian and Ubuntu `apt install chromium chromium-driver`, elsewhere the driver that comes with the browser; --driver names one that stands elsewhere",
            )?,
        };
        let mut last = String::new();
        // On a busy machine a driver may not get the port that it chose: another one does.
        for _ in 0..3 {
            match listening(&program).await {
                Ok(driver) => return Ok(driver),
                Err(error) => last = format!("{error:#}"),
            }
        }
        bail!("the driver `{}` does not listen: {last}", program.display())
    }
}

async fn listening(program: &Path) -> Result<Driver> {
    let mut child = Command::new(program)
        .arg("--port=0")
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .kill_on_drop(true)
        .spawn()
        .context("it cannot be started")?;
    let out = child.stdout.take().context("it says nothing")?;
    let port = tokio::time::timeout(PATIENCE, port_in(out)).await.context("it says nothing for long")??;
    Ok(Driver { _program: child, port })
}

async fn port_in(out: tokio::process::ChildStdout) -> Result<u16> {
    let mut lines = BufReader::new(out).lines();
    while let Some(line) = lines.next_line().await? {
        let port = line.split("successfully on port ").nth(1);
        if let Some(port) = port.and_then(|port| port.trim_end_matches('.').trim().parse().ok()) {
            // What it says later has to go somewhere.
            tokio::spawn(async move { while let Ok(Some(_)) = lines.next_line().await {} });
            return Ok(port);
        }
    }
    bail!("it ended without a word of where it listens")
}

fn on_path() -> Option<PathBuf> {
    let path = std::env::var_os("PATH")?;
    let folders: Vec<PathBuf> = std::env::split_paths(&path).collect();
    NAMES.iter().find_map(|name| {
        let suffix = std::env::consts::EXE_SUFFIX;
        folders.iter().map(|folder| folder.join(format!("{name}{suffix}"))).find(|file| file.is_file())
    })
}
