//! A window of a browser in which pages are shown with time held still: nothing is kept from the page before, and a
//! clock runs as fast as there is something to do, from the same moment to the same moment each time.

use std::path::Path;
use std::time::{Duration, SystemTime};

use anyhow::{Context as _, Result, anyhow, bail};
use base64::Engine as _;
use deft_pin_core::compare::SeenPage;
use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use tokio::time::{Instant, sleep, timeout};

use super::command::Extended;
use super::driver::Driver;
use super::snapshot;

/// A window of a browser.
pub struct Window {
    client: Client,
    properties: Vec<String>,
}

/// What was shown.
pub struct Shown {
    /// The whole page as a picture, in PNG.
    pub picture: Vec<u8>,
    /// Its elements.
    pub seen: SeenPage,
    /// What the console said, errors and warnings, a line each.
    pub console: Vec<String>,
    /// For each list of selectors that was asked for the elements that match, by their places.
    pub matched: Vec<Vec<usize>>,
    /// Whether the page came to rest in time; or else this is what had been seen by then.
    pub is_settled: bool,
}

/// How long a page's own clock runs before somebody scrolls, and after that, in milliseconds.
const FIRST: u32 = 5000;
const SECOND: u32 = 1000;

/// How long a page may take by our clock.
const PATIENCE: Duration = Duration::from_secs(12);

/// How long the browser may take for one command.
const COMMAND: Duration = Duration::from_secs(30);

/// The highest picture, in pixels: a browser draws no higher ones.
const HIGHEST: u64 = 16_000;

/// How high the window is, in pixels.
const HEIGHT: u32 = 800;

/// Scrolls down as somebody does who reads, a window at a time, and back to the top. Each step is drawn.
const SCROLL: &str = "const done = arguments[arguments.length - 1], root = document.scrollingElement || document.documentElement;
document.querySelectorAll('img[loading=lazy], iframe[loading=lazy]').forEach(own => own.loading = 'eager');
let y = 0, steps = 0;
const end = () => requestAnimationFrame(() => requestAnimationFrame(() => done(true)));
const step = () => { if (y + innerHeight < root.scrollHeight && ++steps < 60) { y += innerHeight; scrollTo({ top: y, behavior: 'instant' }); requestAnimationFrame(step); } else { scrollTo({ top: 0, behavior: 'instant' }); end(); } };
step();";

/// Holds what moves still: what ends is at its end, what does not at its beginning.
const STILL: &str = "document.getAnimations().forEach(own => { try { if (own.effect.getComputedTiming().endTime === Infinity) { own.pause(); own.currentTime = 0; } else { own.finish(); } } catch (error) { own.cancel(); } });
if (document.activeElement && document.activeElement !== document.body) { document.activeElement.blur(); }
scrollTo({ top: 0, left: 0, behavior: 'instant' });";

/// What each page finds before it begins: a clock that starts with it at one moment, nothing in the storage of its tab,
/// and nobody to answer a dialog. The browser's own clock is kept for us.
const BEGIN: &str = "(() => {
const real = Date, ticks = performance.now.bind(performance), start = ticks(), now = () => MOMENT + Math.floor(ticks() - start);
Object.defineProperty(performance, 'now', { value: () => ticks() - start, writable: true, configurable: true });
const held = new Proxy(real, {
  construct: (of, given, made) => Reflect.construct(of, given.length ? given : [now()], made === held ? of : made),
  apply: () => new real(now()).toString(),
  get: (of, name) => name === 'now' ? now : Reflect.get(of, name),
});
real.prototype.constructor = held;
Object.defineProperty(window, 'Date', { value: held, writable: true, configurable: true });
Object.defineProperty(real, Symbol.for('deft-pin clock'), { value: () => real.now() });
window.alert = () => {}; window.confirm = () => false; window.prompt = () => null; window.print = () => {};
if (window === top) { window.name = ''; }
try { sessionStorage.clear(); } catch (error) {}
})();";

/// The browser's own clock, in milliseconds, and where it stands.
const CLOCK: &str = "const own = Date[Symbol.for('deft-pin clock')]; return [own ? own() : Date.now(), location.href, !!window[Symbol.for('deft-pin left')]]";

/// Marks a page that is about to be left, so that it is not taken for the next one.
const LEAVE: &str = "window[Symbol.for('deft-pin left')] = true; const own = Date[Symbol.for('deft-pin clock')]; return own ? own() : Date.now()";

/// The places of elements that selectors match, in tree order.
const MATCHED: &str = "const all = new Map([...document.querySelectorAll('*')].map((own, at) => [own, at]));
return [all.size, Math.ceil(Math.max(document.documentElement.scrollHeight, document.documentElement.getBoundingClientRect().height)), arguments[0].map(list => { const found = new Set(); list.forEach(selector => { try { document.querySelectorAll(selector).forEach(own => found.add(all.get(own))); } catch (error) {} }); return [...found].sort((a, b) => a - b); })];";

/// A Chromium without a surface, where Debian has it. What is on the path there is a script that starts it, and does not end
/// it.
const WITHOUT_SURFACE: &str = "/usr/lib/chromium/chromium-headless-shell";

impl Window {
    /// Opens a window, in which it is a moment, in seconds since 1970.
    ///
    /// # Errors
    /// There is no browser, or it does not start.
    pub async fn open(driver: &Driver, moment: u64) -> Result<Self> {
        let is_root = cfg!(unix) && rustix::process::geteuid().is_root();
        let mut client: Result<Client> = Err(anyhow!("it is not tried"));
        // What does not start, or is of another version than the driver, is not needed.
        if Path::new(WITHOUT_SURFACE).is_file() {
            client = connect(driver, Some(WITHOUT_SURFACE), is_root).await;
        }
        if client.is_err() {
            client = connect(driver, None, is_root).await;
        }
        // In many a container the browser cannot lock itself in.
        if client.is_err() && !is_root {
            client = connect(driver, None, true).await;
        }
        let client = client.context(
            "the driver cannot start Chromium; on Debian and Ubuntu `apt install chromium` brings it, and both have to be of one version",
        )?;
        let mut window = Window { client, properties: Vec::new() };
        let names = window.run("return [...getComputedStyle(document.documentElement)].filter(name => !name.startsWith('--'))", vec![]).await?;
        let begin = BEGIN.replace("MOMENT", &(moment * 1000).to_string());
        window.devtools("Page.addScriptToEvaluateOnNewDocument", json!({"source": begin})).await?;
        let pause = json!({"policy": "pause", "initialVirtualTime": past(moment)});
        window.devtools("Emulation.setVirtualTimePolicy", pause).await?;
        window.properties = serde_json::from_value(names).context("the browser names no properties")?;
        Ok(window)
    }

    async fn devtools(&self, command: &'static str, parameters: Value) -> Result<Value> {
        let issued = timeout(COMMAND, self.client.issue_cmd(Extended::DevTools(command, parameters))).await;
        issued.map_err(|_| anyhow!("the browser does not answer"))?.with_context(|| format!("`{command}`"))
    }

    async fn run(&self, script: &str, arguments: Vec<Value>) -> Result<Value> {
        let run = timeout(COMMAND, self.client.execute(script, arguments)).await;
        run.map_err(|_| anyhow!("the browser does not answer"))?.context("a script of ours")
    }

    /// Shows a page at a width, in CSS pixels.
    ///
    /// # Errors
    /// The browser does not answer, or says that there is no such page.
    pub async fn show(&self, url: &str, width: u32, selectors: &[Vec<String>]) -> Result<Shown> {
        let is_settled = self.settle(url, width).await?;
        self.run(STILL, vec![]).await?;
        let asked = vec![serde_json::to_value(selectors)?];
        let found = self.run(MATCHED, asked).await?;
        let (count, height, places): (usize, u64, Vec<Vec<usize>>) = serde_json::from_value(found)?;
        let snapshot = json!({"computedStyles": self.properties});
        let seen =
            snapshot::read(self.devtools("DOMSnapshot.captureSnapshot", snapshot).await?, &self.properties)?;
        let picture = self.picture(width, height.clamp(1, HIGHEST)).await?;
        let console = self.console().await?;
        let matched = places_in(&seen, count, places);
        Ok(Shown { picture, seen, console, matched, is_settled })
    }

    /// The tree of a page as text, once it has come to rest and somebody has scrolled through it.
    ///
    /// # Errors
    /// The browser does not answer, or says that there is no such page.
    pub async fn markup(&self, url: &str) -> Result<String> {
        self.settle(url, 1280).await?;
        let text = self.run("return document.documentElement.outerHTML", vec![]).await?;
        Ok(format!("<!doctype html>{}", text.as_str().unwrap_or_default()))
    }

    /// Goes to a page and waits until it has come to rest; whether it did in time.
    async fn settle(&self, url: &str, width: u32) -> Result<bool> {
        let clock = self.make_ready(url, width).await?;
        let _ = self.console().await;
        timeout(COMMAND, self.client.goto(url))
            .await
            .map_err(|_| anyhow!("the browser does not answer"))??;
        if !self.advance(FIRST, clock + f64::from(FIRST)).await? {
            return Ok(false);
        }
        let scrolled = timeout(PATIENCE, self.client.execute_async(SCROLL, vec![])).await;
        Ok(matches!(scrolled, Ok(Ok(_))) && self.advance(SECOND, clock + f64::from(FIRST + SECOND)).await?)
    }

    /// Ends the browser.
    pub async fn close(self) {
        // One that does not answer ends with its driver.
        let _ = timeout(Duration::from_secs(5), self.client.close()).await;
    }

    /// Makes ready for a page of an origin, with nothing left of the one before, and gives the browser's clock.
    async fn make_ready(&self, url: &str, width: u32) -> Result<f64> {
        let clock = self.run(LEAVE, vec![]).await?.as_f64().context("the browser has no clock")?;
        let origin = url.splitn(4, '/').take(3).collect::<Vec<_>>().join("/");
        self.devtools("Storage.clearDataForOrigin", json!({"origin": origin, "storageTypes": "all"})).await?;
        let metrics = json!({"width": width, "height": HEIGHT, "deviceScaleFactor": 1, "mobile": false});
        self.devtools("Emulation.setDeviceMetricsOverride", metrics).await?;
        self.devtools("Emulation.setVirtualTimePolicy", json!({"policy": "pause"})).await?;
        Ok(clock)
    }

    /// Lets the browser's clock run on to a moment, as fast as it gets there; whether it did in time.
    async fn advance(&self, by: u32, to: f64) -> Result<bool> {
        let budget = json!({"policy": "pauseIfNetworkFetchesPending", "budget": by, "maxVirtualTimeTaskStarvationCount": 100_000});
        self.devtools("Emulation.setVirtualTimePolicy", budget).await?;
        let until = Instant::now() + PATIENCE;
        loop {
            let now = self.run(CLOCK, vec![]).await?;
            let place = now[1].as_str().unwrap_or_default();
            if place.starts_with("chrome-error") {
                bail!("the page does not answer");
            }
            let is_next = place.starts_with("http") && now[2] == false;
            if is_next && now[0].as_f64().is_some_and(|now| now + 2.0 >= to) {
                return Ok(true);
            }
            if Instant::now() > until {
                return Ok(false);
            }
            sleep(Duration::from_millis(6)).await;
        }
    }

    async fn picture(&self, width: u32, height: u64) -> Result<Vec<u8>> {
        let wanted = json!({"format": "png", "optimizeForSpeed": true, "captureBeyondViewport": true,
            "clip": {"x": 0, "y": 0, "width": width, "height": height, "scale": 1}});
        let made = self.devtools("Page.captureScreenshot", wanted).await?;
        let text = made["data"].as_str().context("the browser gives no picture")?;
        Ok(base64::engine::general_purpose::STANDARD.decode(text)?)
    }

    async fn console(&self) -> Result<Vec<String>> {
        let said = timeout(COMMAND, self.client.issue_cmd(Extended::Console)).await;
        let said = said.map_err(|_| anyhow!("the browser does not answer"))??;
        let rows = said.as_array().cloned().unwrap_or_default();
        let is_told = |row: &&Value| matches!(row["level"].as_str(), Some("SEVERE" | "WARNING"));
        let line = |row: &Value| {
            let kind = if row["level"] == "SEVERE" { "error" } else { "warning" };
            format!("{kind}: {}", row["message"].as_str().unwrap_or_default())
        };
        Ok(rows.iter().filter(is_told).map(line).collect())
    }
}

/// Places among all elements that a script saw, as places among those of a snapshot: that has pseudo-elements and
/// shadow trees besides.
fn places_in(seen: &SeenPage, count: usize, places: Vec<Vec<usize>>) -> Vec<Vec<usize>> {
    let is_plain =
        |own: &usize| !seen.elements[*own].name.starts_with("::") && !seen.elements[*own].is_in_shadow;
    let plain: Vec<usize> = (0..seen.elements.len()).filter(is_plain).collect();
    if plain.len() != count {
        return vec![Vec::new(); places.len()];
    }
    places
        .into_iter()
        .map(|list| list.into_iter().filter_map(|own| plain.get(own).copied()).collect())
        .collect()
}

/// Where the browser's own clock begins: at the moment, or at noon of yesterday where that is still to come. A clock that
/// begins in the future lets nothing be drawn until then. Pages see a clock of their own.
fn past(moment: u64) -> u64 {
    let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default().as_secs();
    let day = 24 * 60 * 60;
    moment.min((now / day * day).saturating_sub(day / 2))
}

/// Starts a browser: a program of its own without a surface, which starts in a third of the time, or the one that the driver
/// knows.
async fn connect(driver: &Driver, program: Option<&str>, is_open: bool) -> Result<Client> {
    let mut arguments = vec![
        "--headless",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--disable-dev-shm-usage",
        "--disable-background-timer-throttling",
        "--disable-backgrounding-occluded-windows",
        "--disable-renderer-backgrounding",
        "--hide-scrollbars",
        "--mute-audio",
        "--force-device-scale-factor=1",
        "--font-render-hinting=none",
        "--js-flags=--random-seed=1",
        "--blink-settings=imageAnimationPolicy=2",
        "--disable-features=BackForwardCache,Translate,MediaRouter,OptimizationHints,Prerender2",
        "--disable-extensions",
        "--disable-component-extensions-with-background-pages",
        "--disable-default-apps",
        "--window-size=1280,800",
    ];
    if is_open {
        arguments.push("--no-sandbox");
    }
    let mut options = json!({"args": arguments});
    if let Some(program) = program {
        options["binary"] = json!(program);
    }
    let capabilities = json!({
        "pageLoadStrategy": "none",
        "unhandledPromptBehavior": "dismiss",
        "goog:loggingPrefs": {"browser": "ALL"},
        "goog:chromeOptions": options
    });
    let mut builder = ClientBuilder::new(HttpConnector::new());
    builder.capabilities(capabilities.as_object().cloned().unwrap_or_default());
    let address = format!("http://127.0.0.1:{}", driver.port);
    let connected = timeout(COMMAND, builder.connect(&address)).await;
    Ok(connected.map_err(|_| anyhow!("the driver does not answer"))??)
}
