//! A site as a folder: from a server, and from archives.

use std::collections::BTreeMap;
use std::io::Write as _;
use std::process::{Command, Stdio};
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant};

use crate::session::{Answer, OddServer, Session, send};
use base64::Engine as _;
use serde_json::{Value, json};

/// A small site with what addresses can be.
fn odd_site() -> Vec<(&'static str, Vec<u8>)> {
    let page = |body: &str| {
        format!("<!doctype html><meta charset=utf-8><title>x</title><body>{body}\r\n").into_bytes()
    };
    vec![
        (
            "index.html",
            page(
                "<link rel=stylesheet href=css/site.css?v=3><script src=/js/site.js defer></script>
                 <script type=module src=js/tide.mjs></script>
                 <a href=fares/>Fares</a> <a href=about.html#crew>About</a> <a href='a%20b/caf%C3%A9.html'>Café</a>
                 <a href=mailto:quay@sorrel.example>m</a> <a href=javascript:void(0)>j</a> <a href=/nowhere.html>n</a>
                 <a href=/members/>Members</a> <a href=/old.html>Old</a> <a href=https://elsewhere.example/>e</a>
                 <a href='/..%2f..%2f..%2fetc/passwd'>p</a> <a href=../../../../outside.html>o</a>
                 <img src=img/a.png srcset='img/b.png 2x, img/c.png 3x'><img src=https://pictures.example/x.png>
                 <video poster=img/poster.png></video><iframe src=map.html></iframe>",
            ),
        ),
        ("fares/index.html", page("<a href=..>Home</a><a href=index.html>again</a><a href='../list/?page=2'>two</a>")),
        ("about.html", b"<!doctype html><meta charset=windows-1252><p>Caf\xe9 <base href=/deep/down/><a href=page.html>".to_vec()),
        ("deep/down/page.html", page("<p style='background: url(/img/under.png)'>")),
        ("a b/café.html", page("<style>p { background: url('../img/d.svg') }</style>")),
        ("list/index.html", page("<p>list</p>")),
        ("map.html", page("<svg><use href='img/i.svg#x'/></svg>")),
        ("outside.html", page("<p>inside</p>")),
        ("only-in-the-map.html", page("<p>found</p>")),
        ("css/site.css", b"@import 'more.css';\n@font-face { font-family: quay; src: url(../fonts/quay.woff2) }\n".to_vec()),
        ("css/more.css", b"h1 { background: image-set('../img/e.png' 1x) }\n".to_vec()),
        ("fonts/quay.woff2", vec![0, 1, 2, 255]),
        ("js/site.js", b"document.title += '!';\n".to_vec()),
        ("js/tide.mjs", b"import { low } from './low.mjs';\nexport * from '/js/high.mjs';\n".to_vec()),
        ("js/low.mjs", b"export const low = 1;\n".to_vec()),
        ("js/high.mjs", b"export const high = 1;\n".to_vec()),
        ("img/a.png", b"a".to_vec()),
        ("img/b.png", b"b".to_vec()),
        ("img/c.png", b"c".to_vec()),
        ("img/d.svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>".to_vec()),
        ("img/e.png", b"e".to_vec()),
        ("img/i.svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>".to_vec()),
        ("img/poster.png", b"poster".to_vec()),
        ("img/under.png", b"under".to_vec()),
    ]
}

const SERVER: &str = "gzip on; gzip_min_length 1; gzip_types text/css text/javascript;
  types { text/html html; text/css css; text/javascript js mjs; image/png png; image/svg+xml svg; font/woff2 woff2; }
  location /members/ { return 401; }
  location = /old.html { return 301 /fares/; }
  location = /robots.txt { return 200 \"Sitemap: http://$http_host/map.xml\\n\"; }
  location = /map.xml { types {} default_type text/xml; return 200 '<?xml version=\"1.0\"?><urlset><url><loc>http://$http_host/only-in-the-map.html</loc></url></urlset>'; }";

fn odd(session: &Session) {
    odd_site().into_iter().for_each(|(path, bytes)| session.write(&format!("served/{path}"), bytes));
}

/// The files of a captured folder, without the journal.
fn captured(session: &Session, folder: &str) -> BTreeMap<String, Vec<u8>> {
    session.files(folder).into_iter().filter(|(name, _)| !name.starts_with(".deft-pin")).collect()
}

fn left(answer: &Answer) -> Vec<String> {
    let json = answer.json();
    let path = |own: &Value| {
        let url = own["url"].as_str().unwrap();
        url.splitn(4, '/').nth(3).unwrap_or_default().to_owned()
    };
    let rows = json["left"].as_array().unwrap().iter();
    rows.map(|own| format!("{} /{}", own["why"].as_str().unwrap(), path(own))).collect()
}

#[test]
fn a_site_comes_whole_from_a_server() {
    let session = Session::new();
    odd(&session);
    let nginx = session.nginx("served", SERVER);
    let answer = session.good(&format!("capture {} --into site --pause 0 --format json", nginx.url("/")));
    let mut there = captured(&session, "site");
    let two = there.remove("list/index@page=2.html").expect("the page with a query has a file of its own");
    let expected: BTreeMap<String, Vec<u8>> = odd_site()
        .into_iter()
        .map(|(path, bytes)| (path.to_owned(), bytes))
        .filter(|(path, _)| path != "list/index.html")
        .collect();
    assert_eq!(two, odd_site().iter().find(|(path, _)| *path == "list/index.html").unwrap().1);
    assert_eq!(there.keys().collect::<Vec<_>>(), expected.keys().collect::<Vec<_>>());
    assert_eq!(there, expected);
    let json = answer.json();
    assert_eq!(
        left(&answer),
        ["login /members/", "missing /nowhere.html", "problem /..%2f..%2f..%2fetc/passwd"]
    );
    assert_eq!(json["elsewhere"], json!({"pictures.example": 1}));
    assert_eq!(json["redirects"].as_array().unwrap().len(), 1);
    assert!(json["renamed"][0]["to"].as_str().unwrap().contains("list/index@page=2.html"), "{json}");
    // Nothing got out, and what is there is a site.
    assert!(!session.path("etc").exists() && !session.path("outside.html").exists());
    let survey = session.good("survey --site site --format json").json();
    assert_eq!(survey["pages"].as_array().unwrap().len(), 9);
    // It is whole: nobody asks again, unless that is wanted.
    session.refused(&format!("capture {} --into site", nginx.url("/")), "captured whole");
    session.write("served/about.html", "<!doctype html><p>new");
    std::fs::remove_file(session.path("served/only-in-the-map.html")).unwrap();
    session.good(&format!("capture {} --into site --pause 0 --again", nginx.url("/")));
    let again = captured(&session, "site");
    assert_eq!(again["about.html"], b"<!doctype html><p>new");
    assert!(!again.contains_key("only-in-the-map.html") && !again.contains_key("deep/down/page.html"));
    // Somebody else's folder is left alone, and so is another site's.
    session.refused(&format!("capture {} --into served", nginx.url("/")), "not empty");
    let other = session.nginx("served", "");
    session.refused(&format!("capture {} --into site --again", other.url("/")), "holds the site of");
}

#[test]
fn limits_are_kept_to() {
    let session = Session::new();
    odd(&session);
    let nginx = session.nginx("served", SERVER);
    let pages = |more: &str| {
        let _ = std::fs::remove_dir_all(session.path("some"));
        let answer =
            session.good(&format!("capture {} --into some --pause 0 --format json {more}", nginx.url("/")));
        let names = captured(&session, "some").into_keys().filter(|name| name.ends_with(".html"));
        (names.collect::<Vec<_>>(), answer.json()["beyond"].as_u64().unwrap())
    };
    assert_eq!(pages("--pages 1"), (vec!["index.html".to_owned()], 10));
    assert_eq!(pages("--pages 3").0.len(), 3);
    let (names, beyond) = pages("--depth 0");
    assert_eq!((names, beyond > 0), (vec!["index.html".to_owned(), "only-in-the-map.html".to_owned()], true));
    assert_eq!(pages("--below /fares/").0, ["fares/index.html", "index.html"]);
    session.refused(&format!("capture {} --into x --below fares", nginx.url("/")), "begins with `/`");
    // What turns out to be no page takes no page's place.
    let gone: String = (0..9).map(|number| format!("<a href=/gone{number}>")).collect();
    session.write(
        "served/many.html",
        format!("<!doctype html>{gone}<a href=/about.html><a href=/outside.html>"),
    );
    let answer = session.good(&format!("capture {} --into few --pause 0 --pages 3", nginx.url("/many.html")));
    assert!(answer.stderr.contains("captured 3 pages"), "{}", answer.stderr);
}

#[test]
fn addresses_that_no_two_files_can_have_are_kept_apart() {
    let pages = [
        (
            "/",
            "<a href=/fares>f</a><a href=/fares.html>g</a><a href=/piers>p</a><a href=/piers/marram>m</a>\
            <a href=/data>d</a><a href=/data/x.html>x</a><link rel=stylesheet href=/t.css?a><link rel=stylesheet href=/t.css?b>\
            <link rel=stylesheet href=/u.css?1><link rel=stylesheet href=/u.css?2>",
        ),
        ("/fares", "fares one"),
        ("/fares.html", "fares two"),
        ("/piers", "piers"),
        ("/piers/marram", "marram"),
        ("/data/x.html", "x"),
    ];
    let server = OddServer::start(move |stream, path, _| match path {
        "/data" => send(stream, "200 OK", "Content-Type: application/octet-stream\r\n", b"data"),
        "/t.css?a" => send(stream, "200 OK", "Content-Type: text/css\r\n", b"a {}"),
        "/t.css?b" => send(stream, "200 OK", "Content-Type: text/css\r\n", b"b {}"),
        "/u.css?1" | "/u.css?2" => send(stream, "200 OK", "Content-Type: text/css\r\n", b"u {}"),
        path => match pages.iter().find(|(own, _)| *own == path) {
            Some((_, text)) => {
                send(stream, "200 OK", "Content-Type: text/html; charset=utf-8\r\n", text.as_bytes())
            }
            None => send(stream, "404 Not Found", "", b""),
        },
    });
    let session = Session::new();
    let answer = session.good(&format!("capture {} --into site --pause 0 --format json", server.url("/")));
    let there = captured(&session, "site");
    let text = |name: &str| String::from_utf8_lossy(&there[name]).into_owned();
    assert_eq!(text("fares.html"), "fares one");
    let two: Vec<&String> =
        there.iter().filter(|(_, own)| *own == b"fares two").map(|(name, _)| name).collect();
    assert!(matches!(two[..], [name] if name.starts_with("fares@")), "{two:?}");
    assert_eq!((text("piers.html").as_str(), text("piers/marram.html").as_str()), ("piers", "marram"));
    assert_eq!(text("data"), "data");
    assert_eq!(text("data@/x.html"), "x");
    assert_eq!(
        (text("t.css").as_str(), text("t@b.css").as_str(), text("u.css").as_str()),
        ("a {}", "b {}", "u {}")
    );
    assert!(!there.contains_key("u@2.css"));
    let renamed = answer.json()["renamed"].as_array().unwrap().len();
    assert_eq!(renamed, 5, "{}", answer.stdout);
    assert!(server.requests.lock().unwrap().iter().all(|own| own.starts_with("GET ")));
}

#[test]
fn a_run_that_was_stopped_goes_on() {
    let count = 40;
    let server = OddServer::start(move |stream, path, _| {
        std::thread::sleep(Duration::from_millis(15));
        let number = path.trim_start_matches("/p").trim_end_matches(".html").parse::<usize>().unwrap_or(0);
        match path {
            "/robots.txt" | "/sitemap.xml" => send(stream, "404 Not Found", "", b""),
            path if path.starts_with("/s") => {
                send(stream, "200 OK", "Content-Type: text/css\r\n", path.as_bytes())
            }
            _ => {
                let next: String =
                    (1..4).map(|more| format!("<a href=/p{}.html>", (number * 3 + more) % count)).collect();
                let text = format!("<!doctype html><link rel=stylesheet href=/s{number}.css>{number}{next}");
                send(stream, "200 OK", "Content-Type: text/html\r\n", text.as_bytes());
            }
        }
    });
    let session = Session::new();
    let arguments = |into: &str| format!("capture {} --into {into} --pause 0", server.url("/p0.html"));
    session.good(&arguments("whole"));
    let whole = captured(&session, "whole");
    assert_eq!(whole.len(), 2 * count);
    assert_eq!(server.at_once.load(Ordering::SeqCst), 2);
    let asked = server.paths().len();
    let mut kills = 0;
    loop {
        let mut child = session.command(&arguments("site")).stderr(Stdio::piped()).spawn().unwrap();
        std::thread::sleep(Duration::from_millis(150 + 30 * kills));
        if let Some(status) = child.try_wait().unwrap() {
            let said = std::io::read_to_string(child.stderr.unwrap()).unwrap();
            // The one before may have been stopped when it was through, and had not ended yet.
            let was_through = said.contains("is captured whole");
            assert!(status.success() || was_through, "after {kills} kills: {said}");
            break;
        }
        child.kill().unwrap();
        child.wait().unwrap();
        // What is there is whole, whenever it ended.
        for (name, bytes) in captured(&session, "site") {
            assert_eq!(bytes, whole[&name], "{name}");
        }
        kills += 1;
        assert!(kills < 40, "it never ends");
    }
    assert!(kills > 1, "it was stopped in the middle");
    assert_eq!(captured(&session, "site"), whole);
    // At each stop two addresses were on their way, and robots.txt and the map are asked for each time; what was
    // fetched in a batch that was not noted yet may be fetched again.
    let more = server.paths().len() - 2 * asked;
    assert!(more <= kills as usize * 36, "{more} more requests after {kills} stops");
}

#[test]
fn a_server_that_cannot_be_captured_is_told() {
    let session = Session::new();
    let table = [
        (
            "HTTP/1.1 302 Found\r\nLocation: https://www.sorrel.example/\r\nContent-Length: 0\r\n\r\n",
            "leads to another server",
        ),
        ("HTTP/1.1 404 Not Found\r\nContent-Length: 0\r\n\r\n", "answers 404"),
        ("HTTP/1.1 401 Unauthorized\r\nContent-Length: 0\r\n\r\n", "wants a login"),
        ("HTTP/1.1 200 OK\r\nContent-Length: 10000000000\r\n\r\n", "longer than"),
        ("nonsense\r\n\r\n", "does not answer"),
    ];
    for (text, words) in table {
        let server = OddServer::start(move |stream, path, _| match path {
            "/" => drop(stream.write_all(text.as_bytes())),
            _ => send(stream, "404 Not Found", "", b""),
        });
        let _ = std::fs::remove_dir_all(session.path("bad"));
        session.refused(&format!("capture {} --into bad --pause 0", server.url("/")), words);
    }
    session.refused("capture http://127.0.0.1:1/ --into bad2", "does not answer");
    session.refused("capture nothing.har --into bad3", "no file");
    // A trap of links without end stops at the limits.
    let server = OddServer::start(|stream, path, _| {
        let text = format!("<a href='{path}x/'>on</a><a href='?{}'>and on</a>", path.len());
        match path {
            "/robots.txt" | "/sitemap.xml" => send(stream, "404 Not Found", "", b""),
            _ => send(stream, "200 OK", "Content-Type: text/html\r\n", text.as_bytes()),
        }
    });
    let answer =
        session.good(&format!("capture {} --into trap --pause 0 --pages 50 --format json", server.url("/")));
    assert_eq!(answer.json()["pages"], 50);
}

fn entry(url: &str, status: u16, kind: &str, content: Value) -> Value {
    let mut content = content;
    content["mimeType"] = json!(kind);
    json!({"request": {"method": "GET", "url": url}, "response": {"status": status, "headers": [], "content": content}})
}

#[test]
fn a_har_file_is_a_site() {
    let session = Session::new();
    let packed = |bytes: &[u8]| json!({"text": base64::engine::general_purpose::STANDARD.encode(bytes), "encoding": "base64"});
    let mut moved = entry("https://f.example/old", 301, "", json!({}));
    moved["response"]["headers"] = json!([{"name": "Location", "value": "/fares/"}]);
    let mut posted = entry("https://f.example/form.html", 200, "text/html", json!({"text": "posted"}));
    posted["request"]["method"] = json!("POST");
    let entries = [
        entry("https://ads.example/frame.html", 200, "text/html", json!({"text": "ad"})),
        entry(
            "https://f.example/",
            200,
            "text/html; charset=utf-8",
            json!({"text": "<link rel=stylesheet href=a.css><img src=lost.png><img src=gone.png>first"}),
        ),
        entry(
            "https://f.example/",
            200,
            "text/html; charset=utf-8",
            json!({"text": "<link rel=stylesheet href=a.css><img src=lost.png><img src=gone.png>second"}),
        ),
        entry("https://f.example/fares/", 200, "text/html; charset=windows-1252", json!({"text": "Café"})),
        entry("https://f.example/a.css", 200, "text/css", packed(b"a {}")),
        entry("https://f.example/p.png", 200, "image/png", packed(&[0, 255, 1])),
        entry("https://f.example/lost.png", 200, "image/png", json!({})),
        entry("https://f.example/p.png", 200, "image/png", json!({})),
        entry("https://f.example/private/", 403, "text/html", json!({"text": "no"})),
        moved,
        posted,
    ];
    let har = json!({"log": {"version": "1.2", "creator": {"name": "x"}, "pages": [], "entries": entries, "comment": ""}});
    session.write("ferries.har", har.to_string());
    let answer = session.good("capture ferries.har --into site --format json");
    let there = captured(&session, "site");
    assert_eq!(there.keys().collect::<Vec<_>>(), ["a.css", "fares/index.html", "index.html", "p.png"]);
    assert!(there["index.html"].ends_with(b"second"), "the newer of two answers");
    assert_eq!((&there["fares/index.html"][..], &there["p.png"][..]), (&b"Caf\xe9"[..], &[0, 255, 1][..]));
    assert_eq!(
        left(&answer),
        ["login /private/", "missing /gone.png", "missing /lost.png", "problem /lost.png"]
    );
    assert_eq!(answer.json()["elsewhere"], json!({"https://ads.example": 1}));
    let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    packed.write_all(har.to_string().as_bytes()).unwrap();
    session.write("ferries.har.gz", packed.finish().unwrap());
    session.write("marked.har", format!("\u{feff}{har}"));
    for (number, name) in ["ferries.har.gz", "marked.har"].iter().enumerate() {
        session.good(&format!("capture {name} --into other{number}"));
        assert_eq!(captured(&session, &format!("other{number}")), there, "{name}");
    }
    for (text, words) in [
        ("{\"log\": {}}", "no HAR as it should be"),
        ("{\"log\": {\"entries\": [{\"request\": 1}]}}", "no HAR as it should be"),
        ("{\"log\": {\"entries\": []}}", "there is no page"),
        (&har.to_string()[..900], "no HAR as it should be"),
        (&format!("{{\"log\": {}", "[".repeat(100_000)), "no HAR as it should be"),
        ("PK\u{3}\u{4}", "neither a HAR nor a WARC"),
    ] {
        session.write("bad.har", text);
        session.refused("capture bad.har --into bad", words);
    }
}

#[test]
fn a_warc_file_is_a_site() {
    let session = Session::new();
    let record = |kind: &str, url: &str, more: &str, block: &[u8]| {
        let mut bytes = format!(
            "WARC/1.0\r\nWARC-Type: {kind}\r\nWARC-Target-URI: {url}\r\n{more}Content-Length: {}\r\n\r\n",
            block.len()
        )
        .into_bytes();
        bytes.extend_from_slice(block);
        bytes.extend_from_slice(b"\r\n\r\n");
        bytes
    };
    let gz = |bytes: &[u8]| {
        let mut made = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        made.write_all(bytes).unwrap();
        made.finish().unwrap()
    };
    let packed = gz(b"a {}");
    let mut sheet = format!(
        "HTTP/1.1 200 OK\r\nContent-Type: text/css\r\nContent-Encoding: gzip\r\nContent-Length: {}\r\n\r\n",
        packed.len()
    )
    .into_bytes();
    sheet.extend_from_slice(&packed);
    let records = [
        record("warcinfo", "", "", b"software: x\r\n"),
        record("request", "http://f.example/", "", b"GET / HTTP/1.1\r\n\r\n"),
        record("response", "<http://f.example/>", "WARC-Payload-Digest: sha1:AA\r\n", b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nTransfer-Encoding: chunked\r\n\r\n5\r\n<p>on\r\n4\r\ne!<p\r\n1\r\n>\r\n0\r\n\r\n"),
        record("response", "http://f.example/a.css", "", &sheet),
        record("resource", "http://f.example/n.png", "Content-Type: image/png\r\n", b"png"),
        record("revisit", "http://f.example/again.html", "WARC-Payload-Digest: sha1:AA\r\n", b"HTTP/1.1 200 OK\r\n\r\n"),
        record("revisit", "http://f.example/named.html", "WARC-Refers-To-Target-URI: http://f.example/\r\n", b""),
        record("response", "http://f.example/gone", "", b"HTTP/1.1 404 Not Found\r\n\r\n"),
        record("response", "http://f.example/..%2F..%2Fx.html", "", b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n\r\nin"),
    ];
    let expected = ["..-..-x.html", "a.css", "again.html", "index.html", "n.png", "named.html"];
    let each: Vec<u8> = records.iter().flat_map(|own| gz(own)).collect();
    for (name, bytes) in
        [("plain.warc", records.concat()), ("packed.warc.gz", gz(&records.concat())), ("each.warc.gz", each)]
    {
        session.write(name, &bytes);
        let answer = session.good(&format!("capture {name} --into {name}.site --format json"));
        let there = captured(&session, &format!("{name}.site"));
        assert_eq!(there.keys().collect::<Vec<_>>(), expected, "{name}");
        assert_eq!(there["index.html"], b"<p>one!<p>");
        assert_eq!((&there["a.css"][..], &there["again.html"]), (&b"a {}"[..], &there["index.html"]));
        assert_eq!(left(&answer), ["missing /gone"]);
    }
    let whole = records.concat();
    for (bytes, words) in [
        (&whole[..whole.len() - 20], "it was cut off"),
        (&b"WARC/1.0\r\nWARC-Type: response\r\n\r\n"[..], "how long it is"),
        (&b"WARC/1.0\r\nContent-Length: 99999999999\r\n\r\nx"[..], "there is no page"),
        (&[&whole[..], b"\r\nbroken\r\n"].concat()[..], "is broken there"),
    ] {
        session.write("bad.warc", bytes);
        session.refused("capture bad.warc --into bad", words);
    }
    session.write("bad.warc.gz", [0x1f, 0x8b, 8, 0, 1, 2, 3]);
    let answer = session.run("capture bad.warc.gz --into bad");
    assert_eq!(answer.status, 2, "{}", answer.stderr);
}

/// What `wget` notes of a site is the site.
#[test]
fn what_an_archiver_wrote_is_the_site() {
    let session = Session::new();
    odd(&session);
    let nginx = session.nginx("served", SERVER);
    session.good(&format!("capture {} --into crawled --pause 0", nginx.url("/")));
    let status = Command::new("wget")
        .args([
            "-q",
            "-r",
            "-l",
            "9",
            "-p",
            "-e",
            "robots=off",
            "--warc-file=ferries",
            "-P",
            "mirror",
            &nginx.url("/"),
        ])
        .args([
            &nginx.url("/only-in-the-map.html"),
            &nginx.url("/js/low.mjs"),
            &nginx.url("/js/high.mjs"),
            &nginx.url("/css/more.css"),
        ])
        .current_dir(session.path("."))
        .status()
        .expect("wget is installed: ./test sees to it");
    assert!(session.path("ferries.warc.gz").exists(), "{status}");
    let started = Instant::now();
    let answer = session.good("capture ferries.warc.gz --into archived --format json");
    let (there, crawled) = (captured(&session, "archived"), captured(&session, "crawled"));
    for (name, bytes) in &crawled {
        // What this wget does not follow is not in its archive.
        if let Some(own) = there.get(name) {
            assert_eq!(own, bytes, "{name}");
        }
    }
    let lacking: Vec<&String> = crawled.keys().filter(|name| !there.contains_key(*name)).collect();
    let told = left(&answer).join(" ");
    for name in lacking {
        assert!(
            told.contains(name.rsplit('/').next().unwrap()) || name.ends_with(".html"),
            "{name} is not told: {told}"
        );
    }
    assert!(there.len() + 6 >= crawled.len(), "{} of {}", there.len(), crawled.len());
    assert!(started.elapsed() < Duration::from_secs(20));
}
