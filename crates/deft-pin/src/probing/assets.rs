//! Files that pages link: each is asked for once, whatever number of pages links it.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, OnceLock};

use deft_pin_core::live::{AssetText, PartKind, PartState};
use url::Url;

use super::probed::ProbedAsset;
use super::publication::{Publication, PublishedAsset};
use crate::fetching::{FetchProblem, Fetched, Fetcher, text_of};
use crate::releases::hash_of;

/// The files that were asked for.
pub(super) struct Assets<'a> {
    pub(super) fetcher: &'a Fetcher,
    pub(super) publication: &'a Publication,
    seen: Mutex<HashMap<String, Arc<OnceLock<Arc<SeenAsset>>>>>,
}

/// A file that was asked for.
pub(super) struct SeenAsset {
    /// Its text, where it was answered.
    pub(super) text: Option<AssetText>,
    answer: Result<Answer, FetchProblem>,
}

/// What of an answer is kept.
struct Answer {
    status: u16,
    kind: String,
    is_nosniff: bool,
    sha256: String,
    cache: Option<String>,
}

impl<'a> Assets<'a> {
    pub(super) fn new(fetcher: &'a Fetcher, publication: &'a Publication) -> Self {
        Assets { fetcher, publication, seen: Mutex::new(HashMap::new()) }
    }

    /// A file by its address. Two who ask at once wait for one answer.
    pub(super) fn get(&self, url: &Url, kind: Option<PartKind>) -> Arc<SeenAsset> {
        let mut key = url.clone();
        key.set_fragment(None);
        let slot = match self.seen.lock() {
            Ok(mut seen) => seen.entry(key.to_string()).or_default().clone(),
            Err(_) => Arc::default(),
        };
        slot.get_or_init(|| Arc::new(SeenAsset::of(&key, kind, self.fetcher.fetch(&key)))).clone()
    }

    /// What has come of a file of the release at an address.
    pub(super) fn probed(&self, own: &PublishedAsset, url: &Url) -> ProbedAsset {
        let kind = match own.place.rsplit('.').next() {
            Some("css") => Some(PartKind::Style),
            Some("js") => Some(PartKind::Script),
            _ => None,
        };
        let seen = self.get(url, kind);
        let row =
            |state: PartState, release: Option<u32>, status: Option<u16>, message: String| ProbedAsset {
                place: own.place.clone(),
                address: Some(url.to_string()),
                status,
                state,
                release,
                message,
            };
        let answer = match &seen.answer {
            Ok(answer) => answer,
            Err(problem) => return row(PartState::Missing, None, None, problem.to_string()),
        };
        let status = Some(answer.status);
        if answer.status != 200 {
            return row(PartState::Missing, None, status, answered(answer.status));
        }
        if let Some(refused) = answer.refused(kind) {
            return row(PartState::Altered, None, status, refused);
        }
        let release = self.publication.asset_releases.get(&answer.sha256).copied();
        let last = self.publication.release.release;
        if answer.sha256 == own.sha256 {
            return row(PartState::Live, Some(last), status, String::new());
        }
        let cache = answer.cache.as_deref().map(|said| format!("; {said}")).unwrap_or_default();
        match release {
            Some(release) => {
                let message = format!("the bytes of release {release} are there{cache}");
                row(PartState::Stale, Some(release), status, message)
            }
            None => {
                let message = format!("its bytes are other ones than were published{cache}");
                row(PartState::Altered, None, status, message)
            }
        }
    }
}

impl SeenAsset {
    fn of(url: &Url, kind: Option<PartKind>, answer: Result<Fetched, FetchProblem>) -> Self {
        let text = match (&answer, kind) {
            (Ok(answer), Some(kind)) if answer.status == 200 => {
                let text = text_of(&answer.body, answer.charset());
                Some(AssetText::new(url.to_string(), kind, &text))
            }
            _ => None,
        };
        let answer = answer.map(|answer| Answer {
            status: answer.status,
            kind: answer.kind(),
            is_nosniff: answer.is_nosniff(),
            sha256: hash_of(&answer.body),
            cache: answer.cache(),
        });
        SeenAsset { text, answer }
    }
}

impl Answer {
    /// Why a browser refuses the file, by its type (Fetch, "should response be blocked due to its MIME type";
    /// HTML, "link type stylesheet"); none where it takes it.
    fn refused(&self, kind: Option<PartKind>) -> Option<String> {
        let own = if self.kind.is_empty() { "no type" } else { self.kind.as_str() };
        match kind? {
            // A type that is missing is guessed, where it may be.
            PartKind::Style if self.kind != "text/css" && (self.is_nosniff || !self.kind.is_empty()) => {
                Some(format!("it comes as `{own}`, and browsers take a sheet as `text/css` alone"))
            }
            PartKind::Script => {
                let is_script = self.kind.ends_with("javascript") || self.kind.ends_with("ecmascript");
                let is_blocked = ["audio/", "image/", "video/", "text/csv"]
                    .iter()
                    .any(|start| self.kind.starts_with(start));
                (is_blocked || (self.is_nosniff && !is_script)).then(|| {
                    format!(
                        "it comes as `{own}`, and browsers do not run that: it has to be `text/javascript`"
                    )
                })
            }
            _ => None,
        }
    }
}

/// What a server answered, by its status in words.
pub(super) fn answered(status: u16) -> String {
    let reason = http::StatusCode::from_u16(status).ok().and_then(|own| own.canonical_reason());
    format!("the server answers {status} {}", reason.unwrap_or_default()).trim_end().to_owned()
}
