//! Chromium, driven over WebDriver.

use std::io::{BufRead as _, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use fantoccini::wd::WebDriverCompatibleCommand;
use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use tokio::runtime::{Builder, Runtime};
use url::{ParseError, Url};

/// A browser with one window. Gone at the end of the test.
pub struct Browser {
    runtime: Runtime,
    client: Client,
    driver: Child,
}

impl Browser {
    /// A browser without a surface, where there is one: it takes a fraction of the time.
    pub fn open() -> Self {
        // What stands on the path is a script that starts it, and does not end it.
        const WITHOUT_SURFACE: &str = "/usr/lib/chromium/chromium-headless-shell";
        let is_there = Path::new(WITHOUT_SURFACE).exists();
        let browser =
            is_there.then(|| Browser::started(json!({}), json!({"binary": WITHOUT_SURFACE}))).flatten();
        // One of another version than the driver does not start.
        browser.unwrap_or_else(Browser::whole)
    }

    /// A browser as people have it, but for the screen: what has no surface takes its first element for hovered at times.
    pub fn whole() -> Self {
        Browser::with(json!({}), json!({}))
    }

    /// A browser that runs no scripts but those of the test.
    pub fn without_scripts() -> Self {
        Browser::with(json!({"profile.managed_default_content_settings.javascript": 2}), json!({}))
    }

    /// A browser in which pages may read the clipboard.
    pub fn reading_the_clipboard() -> Self {
        Browser::with(
            json!({"profile.content_settings.exceptions.clipboard": {"*,*": {"setting": 1}}}),
            json!({}),
        )
    }

    fn with(preferences: Value, options: Value) -> Self {
        Browser::started(preferences, options).expect("a session")
    }

    fn started(preferences: Value, mut options: Value) -> Option<Self> {
        // On a busy machine a driver may not get its port: another one does.
        let (mut driver, port) =
            (0..5).find_map(|_| start_driver()).expect("chromedriver says which port it listens on");
        options["prefs"] = preferences;
        options["args"] = json!([
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            // Names of other hosts are asked of nobody: where there is no network, that takes long.
            "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost, EXCLUDE *.localhost",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--force-device-scale-factor=1"
        ]);
        let options = json!({"goog:chromeOptions": options});
        let runtime = Builder::new_current_thread().enable_all().build().unwrap();
        let client = runtime.block_on(async {
            let capabilities = options.as_object().unwrap().clone();
            let mut builder = ClientBuilder::new(HttpConnector::new());
            builder.capabilities(capabilities).connect(&format!("http://127.0.0.1:{port}")).await
        });
        match client {
            Ok(client) => Some(Browser { runtime, client, driver }),
            Err(_) => {
                let _ = driver.kill();
                let _ = driver.wait();
                None
            }
        }
    }

    /// Whether a case is one that the Chromium which the tables are made from takes in its way, and this one, an older
    /// one, in another: those are not held against it, and said.
    pub fn is_too_old_for(&self, case: &str) -> bool {
        let agent = self.run("return navigator.userAgent", vec![]);
        let version = agent
            .as_str()
            .and_then(|text| text.split("Chrome/").nth(1)?.split('.').next()?.parse::<u32>().ok());
        let is_old =
            version.is_some_and(|version| version < TABLES) && NEWER.iter().any(|part| case.contains(part));
        if is_old {
            println!("Chromium {version:?} is too old for `{case}`");
        }
        is_old
    }

    /// Goes to an address, until all of its page is loaded: on a busy machine the driver comes back before that.
    pub fn go(&self, url: &str) {
        self.runtime.block_on(self.client.goto(url)).unwrap();
        for _ in 0..200 {
            if self.run("return document.readyState", vec![]) == json!("complete") {
                return;
            }
            std::thread::sleep(std::time::Duration::from_millis(20));
        }
    }

    /// What a script gives back; its arguments are in `arguments`.
    pub fn run(&self, script: &str, arguments: Vec<Value>) -> Value {
        self.runtime.block_on(self.client.execute(script, arguments)).unwrap()
    }

    /// What a script hands to the function that is its only argument.
    pub fn run_async(&self, script: &str) -> String {
        let given = self.runtime.block_on(self.client.execute_async(script, vec![])).unwrap();
        given.as_str().unwrap_or_default().to_owned()
    }

    /// Presses Enter on an element, as somebody at the keyboard does.
    pub fn press_enter(&self, selector: &str) {
        self.runtime.block_on(async {
            let element = self.client.find(fantoccini::Locator::Css(selector)).await.unwrap();
            element.send_keys("\u{e007}").await.unwrap();
        });
    }

    /// The size that pages are shown at, in CSS pixels, also where no window is that narrow.
    pub fn show_at(&self, width: u32, height: u32) {
        let metrics = json!({"width": width, "height": height, "deviceScaleFactor": 1, "mobile": false});
        let command = DevTools("Emulation.setDeviceMetricsOverride", metrics);
        self.runtime.block_on(self.client.issue_cmd(command)).unwrap();
        assert_eq!(self.run("return innerWidth", vec![]), json!(width));
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

/// A command of the DevTools protocol.
#[derive(Debug)]
struct DevTools(&'static str, Value);

impl WebDriverCompatibleCommand for DevTools {
    fn endpoint(&self, base_url: &Url, session_id: Option<&str>) -> Result<Url, ParseError> {
        base_url.join(&format!("session/{}/goog/cdp/execute", session_id.unwrap_or_default()))
    }

    fn method_and_body(&self, _: &Url) -> (http::Method, Option<String>) {
        (http::Method::POST, Some(json!({"cmd": self.0, "params": self.1}).to_string()))
    }
}

/// A driver, and the port that it listens on; none where it ended before.
fn start_driver() -> Option<(Child, String)> {
    let mut driver = Command::new("chromedriver")
        .arg("--port=0")
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .expect("chromedriver is installed: ./test sees to it");
    let lines = BufReader::new(driver.stdout.take().unwrap()).lines().map_while(Result::ok);
    let port = lines.into_iter().find_map(|line| {
        line.split("successfully on port ").nth(1).map(|port| port.trim_end_matches('.').to_owned())
    });
    let Some(port) = port else {
        let _ = driver.kill();
        let _ = driver.wait();
        return None;
    };
    Some((driver, port))
}

/// The version of Chromium that the tables are made from.
const TABLES: u32 = 156;

/// Parts of cases that Chromium judged otherwise before that: 148 did.
const NEWER: &[&str] = &[
    "random(", "light-dark(url(", "light-dark(linear-gradient(", "background-clip: border-area",
    "::picker(foo)", "<select disabled><option class=x>", "<select disabled><optgroup>",
];

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.runtime.block_on(self.client.clone().close());
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}
