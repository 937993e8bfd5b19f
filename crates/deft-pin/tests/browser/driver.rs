//! Chromium, driven over WebDriver.

use std::io::{BufRead as _, BufReader};
use std::process::{Child, Command, Stdio};

use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use tokio::runtime::{Builder, Runtime};

/// A browser with one window. Gone at the end of the test.
pub struct Browser {
    runtime: Runtime,
    client: Client,
    driver: Child,
}

impl Browser {
    pub fn open() -> Self {
        Browser::with(json!({}))
    }

    /// A browser that runs no scripts but those of the test.
    pub fn without_scripts() -> Self {
        Browser::with(json!({"profile.managed_default_content_settings.javascript": 2}))
    }

    fn with(preferences: Value) -> Self {
        let mut driver = Command::new("chromedriver")
            .arg("--port=0")
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver is installed: ./test sees to it");
        let lines = BufReader::new(driver.stdout.take().unwrap()).lines().map_while(Result::ok);
        let port = lines
            .into_iter()
            .find_map(|line| {
                line.split("successfully on port ").nth(1).map(|port| port.trim_end_matches('.').to_owned())
            })
            .expect("chromedriver says which port it listens on");
        let options = json!({
            "goog:chromeOptions": {"prefs": preferences, "args": [
                "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
                "--disable-background-networking", "--disable-component-update", "--disable-sync",
                "--disable-dev-shm-usage", "--hide-scrollbars", "--force-device-scale-factor=1"
            ]}
        });
        let runtime = Builder::new_current_thread().enable_all().build().unwrap();
        let client = runtime.block_on(async {
            let capabilities = options.as_object().unwrap().clone();
            let mut builder = ClientBuilder::new(HttpConnector::new());
            builder.capabilities(capabilities).connect(&format!("http://127.0.0.1:{port}")).await
        });
        Browser { runtime, client: client.expect("a session"), driver }
    }

    pub fn go(&self, url: &str) {
        self.runtime.block_on(self.client.goto(url)).unwrap();
    }

    /// What a script gives back; its arguments are in `arguments`.
    pub fn run(&self, script: &str, arguments: Vec<Value>) -> Value {
        self.runtime.block_on(self.client.execute(script, arguments)).unwrap()
    }

    /// The size of the page's own part of the window, in CSS pixels.
    pub fn resize(&self, width: u32, height: u32) {
        self.runtime.block_on(self.client.set_window_size(width, height)).unwrap();
        let inner = self.run("return [innerWidth, innerHeight]", vec![]);
        let (dx, dy) =
            (width as i64 - inner[0].as_i64().unwrap(), height as i64 - inner[1].as_i64().unwrap());
        let outer = ((i64::from(width) + dx) as u32, (i64::from(height) + dy) as u32);
        self.runtime.block_on(self.client.set_window_size(outer.0, outer.1)).unwrap();
        assert_eq!(self.run("return [innerWidth, innerHeight]", vec![]), json!([width, height]));
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.runtime.block_on(self.client.clone().close());
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}
