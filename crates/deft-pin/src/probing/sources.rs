//! Where the text of a page comes from: the server itself, or a browser in which its scripts have run.

use std::path::PathBuf;
use std::sync::Mutex;

use anyhow::{Context as _, Result};
use tokio::runtime::Runtime;

use crate::browser::{Driver, Window};

/// How pages are looked at.
pub enum Looking {
    /// As the server sends them.
    Served,
    /// As a browser has them after a while.
    InBrowser(Box<Mutex<BrowserLook>>),
}

/// A browser.
pub struct BrowserLook {
    runtime: Runtime,
    _driver: Driver,
    window: Window,
}

impl Looking {
    /// Starts a browser; its driver may be named.
    ///
    /// # Errors
    /// There is none, or it does not start.
    pub fn in_browser(driver: Option<&PathBuf>, moment: u64) -> Result<Self> {
        let runtime = tokio::runtime::Builder::new_multi_thread()
            .worker_threads(1)
            .enable_all()
            .build()
            .context("a browser cannot be driven")?;
        let (driver, window) = runtime.block_on(async {
            let driver = Driver::start(driver.map(PathBuf::as_path)).await?;
            let window = Window::open(&driver, moment).await?;
            anyhow::Ok((driver, window))
        })?;
        Ok(Looking::InBrowser(Box::new(Mutex::new(BrowserLook { runtime, _driver: driver, window }))))
    }

    /// Whether scripts have run in what is looked at.
    pub fn has_run(&self) -> bool {
        matches!(self, Looking::InBrowser(_))
    }

    /// The page as a browser has it; none where none is asked.
    pub(super) fn in_window(&self, url: &str) -> Option<Result<String>> {
        let Looking::InBrowser(own) = self else { return None };
        let Ok(own) = own.lock() else { return Some(Err(anyhow::anyhow!("the browser has gone"))) };
        Some(own.runtime.block_on(own.window.markup(url)))
    }

    /// Ends the browser.
    pub fn close(self) {
        if let Looking::InBrowser(own) = self
            && let Ok(own) = own.into_inner()
        {
            own.runtime.block_on(own.window.close());
        }
    }
}
