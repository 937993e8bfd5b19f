//! What is asked for, and who answers it: the frame page and what it needs under the folder of pins, pages with their
//! pins, and everything else as the site has it.

use std::convert::Infallible;
use std::sync::Arc;

use axum::body::{Body, to_bytes};
use axum::extract::{Request, State};
use axum::http::{HeaderValue, StatusCode, Uri, header};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse as _, Response};
use deft_pin_core::board::Board;
use deft_pin_core::check::Finding;
use deft_pin_core::code::encode_path;
use deft_pin_core::emit::put_in_front;
use deft_pin_core::site::Page;
use deft_pin_core::source::{FilePath, nearest};

use super::answers::{answer as answered, json, moved, said};
use super::choice::PinChoice;
use super::frame_data::{FrameFinding, FramePage, FramePageName, FramePin, FrameSite};
use super::planned_site::{PlannedSite, ServedPage, stem};
use super::request::{Asked, decoded, file_of, value_of, without_choice};
use super::{Preview, gate, site_files};
use crate::output;

/// What all requests share.
pub struct Served {
    /// The preview.
    pub preview: Arc<Preview>,
    /// The port that it is served on.
    pub port: u16,
}

/// The most that somebody may send to a server that the preview stands in front of.
const LARGEST_REQUEST: usize = 64 << 20;

/// Answers a request.
pub async fn answer(State(served): State<Arc<Served>>, request: Request) -> Response {
    let (parts, body) = request.into_parts();
    if let Err(refusal) = gate::check(&parts.method, &parts.headers, served.port) {
        return said(refusal.status(), "This is not answered", refusal.message());
    }
    let asked = Asked { method: parts.method, uri: parts.uri, headers: parts.headers };
    let own = format!("/{}/", served.preview.showing.making.folder);
    match asked.uri.path().strip_prefix(&own) {
        Some(name) => served.own(name, &asked).await,
        None if asked.uri.path() == own.trim_end_matches('/') => moved(&own),
        None if served.preview.upstream.is_some() => {
            let Ok(body) = to_bytes(body, LARGEST_REQUEST).await else {
                return said(StatusCode::PAYLOAD_TOO_LARGE, "This is too much", "More than 64 MB were sent.");
            };
            served.upstream_answer(&asked, body).await
        }
        None if !asked.only_reads() => only_shown(),
        None if served.preview.showing.is_still && asked.is_for_media() => {
            said(StatusCode::NOT_FOUND, "Films are kept still", "They run by a clock of their own.")
        }
        None => served.page_or_file(&asked).await,
    }
}
/// What somebody is told who wants more than to see something.
fn only_shown() -> Response {
    let mut response =
        said(StatusCode::METHOD_NOT_ALLOWED, "This is not done here", "A preview only shows pages.");
    response.headers_mut().insert(header::ALLOW, HeaderValue::from_static("GET, HEAD"));
    response
}

impl Served {
    pub(super) fn origin(&self) -> String {
        format!("http://127.0.0.1:{}", self.port)
    }

    pub(super) fn choice(&self, asked: &Asked) -> PinChoice {
        match asked.query(&self.preview.showing.making.folder) {
            Some(text) => PinChoice::parse(&text),
            None => self.preview.showing.choice.clone(),
        }
    }

    /// What the frame page and the script for reloading need, and the files of pins.
    async fn own(&self, name: &str, asked: &Asked) -> Response {
        if !asked.only_reads() {
            return only_shown();
        }
        let text = |kind: &str, text: &'static str| answered(StatusCode::OK, kind, text);
        match name {
            "" => {
                let mut response = text("text/html; charset=utf-8", include_str!("frame.html"));
                let policy = "default-src 'self'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'none'";
                response
                    .headers_mut()
                    .insert(header::CONTENT_SECURITY_POLICY, HeaderValue::from_static(policy));
                response
            }
            "frame.css" => text("text/css; charset=utf-8", include_str!("frame.css")),
            "frame.js" => text("text/javascript; charset=utf-8", include_str!("frame.js")),
            "reload.js" => text("text/javascript; charset=utf-8", include_str!("reload.js")),
            "events" => self.events(),
            "site" => self.site().await,
            "page" => self.page_data(asked).await,
            "state" => self.page_state(asked).await,
            name => {
                let name = decoded(name);
                if let Some(bytes) = self.preview.file(&name) {
                    let kind = FilePath::parse(&name).map(|path| site_files::kind_of(&path));
                    return answered(StatusCode::OK, &kind.unwrap_or_default(), bytes);
                }
                // A site that was built already has such a folder itself.
                if let Some(response) = self.site_file(asked).await {
                    return response;
                }
                let why = format!("`{name}` is no file of the pins as they are now.");
                said(StatusCode::NOT_FOUND, "There is no such file", &why)
            }
        }
    }

    fn events(&self) -> Response {
        let receiver = self.preview.news.subscribe();
        let stream = futures_util::stream::unfold(receiver, |mut receiver| async move {
            loop {
                match receiver.recv().await {
                    Ok(news) => return Some((Ok::<_, Infallible>(Event::default().data(&*news)), receiver)),
                    // Whoever was too slow has missed something, and the next news tell what is now.
                    Err(tokio::sync::broadcast::error::RecvError::Lagged(_)) => {}
                    Err(_) => return None,
                }
            }
        });
        let mut response = Sse::new(stream).keep_alive(KeepAlive::default()).into_response();
        response.headers_mut().insert(header::CACHE_CONTROL, HeaderValue::from_static("no-store"));
        response
    }

    async fn site(&self) -> Response {
        let number = self.preview.number();
        let current = self.preview.current();
        let pages = current.ask(|site: &PlannedSite<'_>| site.pages()).await.unwrap_or_default();
        let project = &current.project;
        let name = match project.board_file.as_str() {
            "" => project.site_path().file_name().map(|name| name.to_string_lossy().into_owned()),
            file => Some(file.to_owned()),
        };
        json(&FrameSite {
            name: name.unwrap_or_default(),
            pages: pages.into_iter().map(|(path, pins)| FramePageName { path, pins }).collect(),
            pasted: self.preview.showing.making.is_pasted,
            plain: self.preview.showing.is_plain,
            of: self.preview.upstream.as_ref().map(|upstream| upstream.origin.clone()),
            trouble: self.preview.state().trouble.clone(),
            number,
        })
    }

    /// The pins of a page and what was found on it.
    async fn page_data(&self, asked: &Asked) -> Response {
        let page = asked.query("page").unwrap_or_default();
        let current = self.preview.current();
        let wanted = page.clone();
        let foreign = match &self.preview.upstream {
            Some(_) => self.foreign_bytes(&wanted, asked).await,
            None => None,
        };
        let of_pins = move |site: &PlannedSite<'_>| {
            let pins = match (site.find(&wanted), foreign) {
                (_, Some((file, bytes))) => site.foreign_pins(file, &bytes),
                (Some(id), None) => site.pins_on(id).ok()?,
                (None, None) => return None,
            };
            let board: &Board = &site.project.board;
            let plan = site.context.plan;
            let row = |own: super::planned_site::PinOnPage| {
                let (pin, planned) = (&board.pins[own.pin], &plan.pins[own.pin]);
                let mut holds = Vec::new();
                if pin.style.is_some() {
                    holds.push("style");
                }
                if pin.script.is_some() {
                    holds.push("script");
                }
                if !planned.markup.is_empty() {
                    holds.push("markup");
                }
                if !pin.marks.is_empty() {
                    holds.push("marks");
                }
                FramePin {
                    name: pin.name.to_string(),
                    within: pin.within.as_ref().map(|within| within.text.clone()),
                    holds,
                    off: pin.off,
                    here: own.is_on_page,
                    touched: own.touched,
                }
            };
            Some(pins.into_iter().map(row).collect::<Vec<FramePin>>())
        };
        let Some(pins) = current.ask(of_pins).await.flatten() else {
            return said(
                StatusCode::NOT_FOUND,
                "There is no such page",
                &format!("`{page}` is no page of the site."),
            );
        };
        let state = self.preview.state();
        let findings = state.findings.as_ref().map(|all| {
            let is_own = |own: &&Finding| match own.pages.is_empty() {
                // What is said of a file is said wherever its pin is.
                true => own.pin.as_ref().is_none_or(|pin| pins.iter().any(|own| own.name == *pin)),
                false => own.pages.iter().any(|own| own.as_str() == page),
            };
            let own = all.iter().filter(is_own);
            own.map(FrameFinding::of).collect()
        });
        let policy = state.policies.get(&page).cloned().unwrap_or_default();
        json(&FramePage { page, pins, findings, policy })
    }

    /// What an open page asks to learn whether it has to be loaded again: what changed since the reading that it has.
    async fn page_state(&self, asked: &Asked) -> Response {
        // Whatever changes while this is answered is of a later number, and asked for again.
        let number = self.preview.number();
        let since = asked.query("since").and_then(|since| since.parse().ok());
        if since == Some(number) {
            return json(&serde_json::json!({"number": number}));
        }
        let files = self.preview.changed_since(since.unwrap_or(number));
        let address = asked.query("address").unwrap_or_default();
        let Ok(uri) = address.parse::<Uri>() else {
            return said(StatusCode::BAD_REQUEST, "This is no address", &address);
        };
        let folder = &self.preview.showing.making.folder;
        let choice =
            uri.query().and_then(|query| value_of(query, folder)).map(|text| PinChoice::parse(&text));
        let choice = choice.unwrap_or_else(|| self.preview.showing.choice.clone());
        let page = match &self.preview.upstream {
            Some(_) => match self.foreign_bytes(&without_choice(&uri, folder).to_string(), asked).await {
                Some((file, bytes)) => {
                    let current = self.preview.current();
                    current.ask(move |site| Some(site.foreign_page(file, &bytes, &choice))).await.flatten()
                }
                None => None,
            },
            None => self.page(uri.path(), choice).await.and_then(Result::ok),
        };
        match page {
            Some(page) => {
                let sheets = page.sheets.iter().map(|sheet| (stem(sheet), sheet)).collect::<Vec<_>>();
                json(
                    &serde_json::json!({"number": number, "key": page.key, "sheets": sheets, "files": files}),
                )
            }
            None => json(&serde_json::json!({"number": number, "key": "", "sheets": [], "files": files})),
        }
    }

    /// A page of the folder with its pins; none where the path is no page's.
    async fn page(&self, path: &str, choice: PinChoice) -> Option<Result<ServedPage, String>> {
        let path = decoded(path);
        let current = self.preview.current();
        let _turn = self.preview.turns.acquire().await.ok()?;
        let make = move |site: &PlannedSite<'_>| {
            let id = site.find(&path).or_else(|| {
                let file = FilePath::parse(path.strip_prefix('/')?).ok()?;
                site.find(Page::new(file).path.as_str())
            })?;
            Some(site.page(id, &choice).map_err(|error| output::reasons(&error)))
        };
        current.ask(make).await.unwrap_or_else(|| Some(Err("it could not be worked out".to_owned())))
    }

    async fn page_or_file(&self, asked: &Asked) -> Response {
        let path = asked.uri.path();
        let number = self.preview.number();
        match self.page(path, self.choice(asked)).await {
            Some(Ok(page)) => {
                let file = file_of(path).unwrap_or_default();
                let bytes = self.with_script(&Page::new(file), &page, number, None);
                return self.html(asked, bytes);
            }
            Some(Err(why)) => {
                return said(StatusCode::INTERNAL_SERVER_ERROR, "This page cannot be shown", &why);
            }
            None => {}
        }
        if let Some(response) = self.site_file(asked).await {
            return response;
        }
        match self.uploaded(path) {
            Some(response) => response,
            None => self.missing(path).await,
        }
    }

    /// A file that the site has.
    async fn site_file(&self, asked: &Asked) -> Option<Response> {
        let file = file_of(asked.uri.path())?;
        let current = self.preview.current();
        let (headers, head) = (asked.headers.clone(), asked.is_head());
        let serve = move || site_files::serve(&current.site_folder, &file, &headers, head);
        tokio::task::spawn_blocking(serve).await.ok().flatten()
    }

    /// A file that the paste-up says to upload, where the host would have it.
    fn uploaded(&self, path: &str) -> Option<Response> {
        let current = self.preview.current();
        let at = current.project.board.host.files.as_deref();
        let at = at.filter(|_| self.preview.showing.making.is_pasted)?;
        let name = decoded(path.strip_prefix(at.trim_end_matches('/'))?.trim_start_matches('/'));
        let bytes = self.preview.file(&name)?;
        let kind = FilePath::parse(&name).map(|path| site_files::kind_of(&path)).unwrap_or_default();
        Some(answered(StatusCode::OK, &kind, bytes))
    }

    /// There is no such page or file: a folder's page may be meant, or one of nearly this name.
    pub(super) async fn missing(&self, path: &str) -> Response {
        let path = decoded(path);
        let current = self.preview.current();
        let asked = path.clone();
        let pages = current.ask(|site: &PlannedSite<'_>| site.pages()).await.unwrap_or_default();
        let folder = format!("{asked}/");
        if pages.iter().any(|(page, _)| *page == folder) {
            return moved(&encode_path(&folder));
        }
        let near = nearest(&asked, pages.iter().map(|(page, _)| page.as_str()));
        let hint = near.map(|near| format!(" There is a page `{near}`.")).unwrap_or_default();
        said(StatusCode::NOT_FOUND, "There is no such page", &format!("The site has no `{path}`.{hint}"))
    }

    fn html(&self, asked: &Asked, bytes: Vec<u8>) -> Response {
        let length = bytes.len();
        let body = if asked.is_head() { Body::empty() } else { Body::from(bytes) };
        let mut response = answered(StatusCode::OK, "text/html", body);
        response.headers_mut().insert(header::CONTENT_LENGTH, length.into());
        response
    }

    /// A page of a reading with the script that loads it again; as it is where it is to stay plain.
    pub(super) fn with_script(
        &self,
        page: &Page,
        served: &ServedPage,
        number: u64,
        nonce: Option<&str>,
    ) -> Vec<u8> {
        if self.preview.showing.is_plain {
            return served.bytes.clone();
        }
        let folder = &self.preview.showing.making.folder;
        let nonce = nonce.map(|nonce| format!(" nonce=\"{nonce}\"")).unwrap_or_default();
        let of = match &self.preview.upstream {
            Some(upstream) => format!(" data-of=\"{}\"", upstream.origin.replace(['"', '&', '<'], "")),
            None => String::new(),
        };
        let script = format!(
            "<script src=\"/{folder}/reload.js\" data-folder=\"{folder}\" data-key=\"{}\" data-number=\"{number}\"{of}{nonce}></script>",
            served.key
        );
        put_in_front(page, &served.bytes, &script).unwrap_or_else(|| served.bytes.clone())
    }
}
