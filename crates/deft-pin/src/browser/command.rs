//! Commands that the driver of Chromium knows beside those of the standard.

use fantoccini::wd::WebDriverCompatibleCommand;
use serde_json::{Value, json};
use url::{ParseError, Url};

/// A command beside those of the standard.
#[derive(Debug)]
pub enum Extended {
    /// A command of the DevTools protocol.
    DevTools(&'static str, Value),
    /// What the console said since it was asked last.
    Console,
}

impl WebDriverCompatibleCommand for Extended {
    fn endpoint(&self, base_url: &Url, session_id: Option<&str>) -> Result<Url, ParseError> {
        let path = match self {
            Extended::DevTools(..) => "goog/cdp/execute",
            Extended::Console => "se/log",
        };
        base_url.join(&format!("session/{}/{path}", session_id.unwrap_or_default()))
    }

    fn method_and_body(&self, _: &Url) -> (http::Method, Option<String>) {
        let body = match self {
            Extended::DevTools(command, parameters) => json!({"cmd": command, "params": parameters}),
            Extended::Console => json!({"type": "browser"}),
        };
        (http::Method::POST, Some(body.to_string()))
    }
}
