//! Asks a server for addresses.

use std::io::Read as _;
use std::sync::{Mutex, OnceLock};
use std::time::{Duration, Instant, SystemTime};

use anyhow::{Result, bail};
use http::header::{ACCEPT, ACCEPT_ENCODING, CACHE_CONTROL, CONTENT_ENCODING, CONTENT_LENGTH, RETRY_AFTER};
use http::{HeaderMap, Request};
use ureq::Agent;
use url::{Origin, Url};

use super::body::{LARGEST_BODY, decoded_body};
use super::fetched::{FetchProblem, Fetched};
use super::robots::Robots;

/// How a server is asked.
#[derive(Clone, Copy, Debug)]
pub struct Manners {
    /// The pause after each request.
    pub pause: Duration,
    /// Whether the site is the asker's own, so that `robots.txt` is for others.
    pub is_own_site: bool,
}

/// Asks one server.
pub struct Fetcher {
    agent: Agent,
    manners: Manners,
    /// The server.
    pub start: Url,
    robots: OnceLock<Robots>,
    /// When the next request may be made, where the server has asked to wait.
    waits: Mutex<Option<Instant>>,
}

/// Says what it is and where that is written.
const NAME: &str = concat!("DeftPin/", env!("CARGO_PKG_VERSION"), " (looks after a site for its own people)");
/// How many times an address may lead on.
const MOST_REDIRECTS: usize = 8;
/// How many times a server that asks to wait is asked.
const MOST_TRIES: usize = 3;
/// How long one is waited for at most, in seconds.
const LONGEST_WAIT: u64 = 20;
/// How long one answer may take in all.
const PATIENCE: Duration = Duration::from_secs(30);

impl Fetcher {
    /// Makes ready to ask the server of an address.
    ///
    /// # Errors
    /// It is no address of a server.
    pub fn new(address: &str, manners: Manners) -> Result<Self> {
        let Ok(start) = Url::parse(address) else {
            bail!("`{address}` is no address: write it in full, as in `https://www.sorrel-sound.example/`");
        };
        if !matches!(start.scheme(), "http" | "https") || start.host_str().is_none() {
            bail!("`{address}` is no address of a server: it begins with `http://` or `https://`");
        }
        let is_here = matches!(start.host_str(), Some("localhost" | "127.0.0.1" | "[::1]"));
        let mut config = Agent::config_builder()
            .http_status_as_error(false)
            .max_redirects(0)
            .max_redirects_will_error(false)
            .user_agent(NAME)
            .timeout_connect(Some(Duration::from_secs(10)))
            .timeout_recv_response(Some(Duration::from_secs(20)))
            .timeout_global(Some(PATIENCE));
        if is_here {
            config = config.proxy(None);
        }
        Ok(Fetcher {
            agent: Agent::new_with_config(config.build()),
            manners,
            start,
            robots: OnceLock::new(),
            waits: Mutex::new(None),
        })
    }

    /// Whether an address is one of the server.
    pub fn is_of_server(&self, url: &Url) -> bool {
        let origin: Origin = self.start.origin();
        url.origin() == origin
    }

    /// What the server asks of programs.
    pub fn robots(&self) -> &Robots {
        self.robots.get_or_init(|| match self.start.join("/robots.txt") {
            Ok(url) => Robots::of(self.ask(&url, &HeaderMap::new())),
            Err(_) => Robots::Free,
        })
    }

    /// Asks for an address, with redirects that stay on the server, and pauses after that.
    ///
    /// # Errors
    /// There is no answer that can be read.
    pub fn fetch(&self, url: &Url) -> Result<Fetched, FetchProblem> {
        self.fetch_with(url, &HeaderMap::new())
    }

    /// The same past the caches on the way.
    ///
    /// # Errors
    /// There is no answer that can be read.
    pub fn fetch_past_caches(&self, url: &Url) -> Result<Fetched, FetchProblem> {
        let mut url = url.clone();
        let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        url.query_pairs_mut().append_pair("past-caches", &now.as_micros().to_string());
        let mut headers = HeaderMap::new();
        headers.insert(CACHE_CONTROL, http::HeaderValue::from_static("no-cache"));
        self.fetch_with(&url, &headers)
    }

    fn fetch_with(&self, url: &Url, headers: &HeaderMap) -> Result<Fetched, FetchProblem> {
        if !self.manners.is_own_site && self.is_of_server(url) {
            if let Robots::Away(why) = self.robots() {
                return Err(FetchProblem::NoAnswer(format!(
                    "{why}, so that it is left alone (--own-site asks all the same)"
                )));
            }
            if !self.robots().allows(url) {
                return Err(FetchProblem::Robots);
            }
        }
        let answer = self.ask(url, headers);
        std::thread::sleep(self.pause());
        answer
    }

    fn pause(&self) -> Duration {
        let asked = self.robots.get().and_then(Robots::pause).filter(|_| !self.manners.is_own_site);
        asked.unwrap_or_default().max(self.manners.pause)
    }

    /// Asks, and goes where the answer leads.
    fn ask(&self, url: &Url, headers: &HeaderMap) -> Result<Fetched, FetchProblem> {
        let mut seen: Vec<Url> = vec![url.clone()];
        loop {
            let here = &seen[seen.len() - 1];
            let answer = self.patiently(here, headers)?;
            match answer.leads_to() {
                None => return Ok(answer),
                Some(Err(text)) => {
                    return Err(FetchProblem::NoAnswer(format!("it leads to `{text}`, which is no address")));
                }
                Some(Ok(next)) if !self.is_of_server(&next) => {
                    return Err(FetchProblem::Elsewhere(next.to_string()));
                }
                Some(Ok(next)) if seen.contains(&next) || seen.len() > MOST_REDIRECTS => {
                    return Err(FetchProblem::Circle(next.to_string()));
                }
                Some(Ok(next)) => seen.push(next),
            }
        }
    }

    /// Asks once more where the server says when.
    fn patiently(&self, url: &Url, headers: &HeaderMap) -> Result<Fetched, FetchProblem> {
        let mut tries = 0;
        loop {
            tries += 1;
            let until = self.waits.lock().ok().and_then(|waits| *waits);
            if let Some(time) = until.and_then(|until| until.checked_duration_since(Instant::now())) {
                std::thread::sleep(time);
            }
            let answer = self.once(url, headers)?;
            if !matches!(answer.status, 429 | 503) || tries >= MOST_TRIES {
                return Ok(answer);
            }
            let seconds = retry_after(answer.header(&RETRY_AFTER)).unwrap_or(tries as u64);
            // One that wants to be left alone for long is left alone.
            if seconds > LONGEST_WAIT {
                return Ok(answer);
            }
            if let Ok(mut waits) = self.waits.lock() {
                *waits = Some(Instant::now() + Duration::from_secs(seconds));
            }
        }
    }

    fn once(&self, url: &Url, headers: &HeaderMap) -> Result<Fetched, FetchProblem> {
        let mut request = Request::get(url.as_str());
        if let Some(own) = request.headers_mut() {
            own.insert(ACCEPT, http::HeaderValue::from_static("text/html,application/xhtml+xml,*/*;q=0.8"));
            own.insert(ACCEPT_ENCODING, http::HeaderValue::from_static("gzip"));
            own.extend(headers.iter().map(|(name, value)| (name.clone(), value.clone())));
        }
        let no_answer = |error: &dyn std::fmt::Display| {
            let host = url.host_str().unwrap_or_default();
            FetchProblem::NoAnswer(format!("`{host}` does not answer: {error}"))
        };
        let request = request.body(()).map_err(|error| no_answer(&error))?;
        let answer = self.agent.run(request).map_err(|error| no_answer(&said(&error)))?;
        let (parts, body) = answer.into_parts();
        let text = |name| parts.headers.get(name).and_then(|own| own.to_str().ok()).unwrap_or_default();
        let announced = text(CONTENT_LENGTH).trim().parse::<u64>().ok();
        if announced.is_some_and(|bytes| bytes > LARGEST_BODY) {
            return Err(FetchProblem::TooLong);
        }
        let reader = body.into_reader().take(LARGEST_BODY + 1);
        let body = decoded_body(text(CONTENT_ENCODING), reader)?;
        Ok(Fetched { url: url.clone(), status: parts.status.as_u16(), headers: parts.headers, body })
    }
}

/// What went wrong, in plain words where those of the library are not.
fn said(error: &ureq::Error) -> String {
    match error {
        ureq::Error::Timeout(_) => "it takes too long".to_owned(),
        ureq::Error::HostNotFound => "there is no server of that name".to_owned(),
        ureq::Error::ConnectionFailed => "it takes no connection".to_owned(),
        ureq::Error::Rustls(error) => format!("its certificate is not trusted ({error})"),
        ureq::Error::Io(error) => match error.get_ref().map(ToString::to_string) {
            Some(inner) if inner.contains("certificate") => {
                format!("its certificate is not trusted ({inner})")
            }
            _ => error.to_string(),
        },
        other => other.to_string(),
    }
}

/// The seconds that a header asks to wait: a number, or a date (RFC 9110, section 10.2.3).
fn retry_after(value: &str) -> Option<u64> {
    let value = value.trim();
    if let Ok(seconds) = value.parse() {
        return Some(seconds);
    }
    let until = httpdate::parse_http_date(value).ok()?;
    Some(until.duration_since(SystemTime::now()).unwrap_or_default().as_secs())
}
