//! A preview in front of a server that is not ours: what it sends comes through, with the pins in its pages.

use std::io::Read as _;

use crate::session::{Got, Session};

const BOARD: &str = "[site]\nroot = 'site'\n
[pin.notice]\npages = ['/', '/guide/*']\nwithin = 'main'\nstyle = 'pins/notice.css'\n
[pin.bell]\npages = ['/guide/*']\nscript = 'pins/bell.js'\n";

const SERVER: &str = "gzip on; gzip_min_length 1; gzip_types text/css; gzip_proxied any;
  location = /old { return 301 http://$http_host/guide/1.html; }
  location = /away { return 302 https://elsewhere.example/x; }
  location = /cookie.html { add_header Set-Cookie 'seen=yes; Domain=staging.example; Path=/; HttpOnly'; add_header Set-Cookie 'two=2'; }
  location = /who { return 200 \"$host $http_referer $http_origin $http_cookie $request_method $arg_day\"; }
  location = /strict.html { add_header Content-Security-Policy \"default-src 'self'; script-src 'none'; frame-ancestors 'none'\"; add_header X-Frame-Options DENY; }
  location = /slow.css { limit_rate 200k; }
  error_page 404 /missing.html;";

fn page(number: usize) -> Vec<u8> {
    let text = format!("<p>Tide {number}</p>\r\n").repeat(1 + number % 40);
    let head = match number % 5 {
        0 => {
            "<!DOCTYPE html>\n<html lang=en>\n<head>\n<meta charset=\"utf-8\">\n<title>T</title>\n</head>\n<body>"
        }
        1 => "<title>T</title>\r\n",
        2 => "<!-- by hand --><html><body class=guide>",
        3 => "\u{feff}<!doctype html><head><title>\u{2014}</title></head>",
        _ => "<!doctype html><meta charset=iso-8859-1><title>T</title>",
    };
    let mut bytes = format!("{head}<main><h1>{number}</h1>{text}</main>").into_bytes();
    if number % 5 == 4 {
        bytes.extend_from_slice(b"<p>caf\xe9</p>");
    }
    bytes
}

fn tree() -> Session {
    let session = Session::with(&[
        ("deft-pin.toml", BOARD),
        ("pins/notice.css", "h1 { color: rgb(1, 2, 3) }"),
        ("pins/bell.js", "document.documentElement.dataset.bell = 'rung';"),
        (
            "site/index.html",
            "<!doctype html><title>x</title><main><h1>Guide</h1><a href=guide/1.html>1</a></main>",
        ),
        ("site/cookie.html", "<!doctype html><title>x</title><main>cookie</main>"),
        ("site/strict.html", "<!doctype html><title>x</title><main><h1>strict</h1></main>"),
        ("site/missing.html", "<!doctype html><title>x</title><main>not here</main>"),
        ("site/guide.css", "h1 { margin: 0 }"),
        ("site/slow.css", "h1 { margin: 0 }"),
        ("site/film.txt", "0123456789"),
    ]);
    (0..1000).for_each(|number| session.write(&format!("site/guide/{number}.html"), page(number)));
    session
}

/// A page without the script that loads it again.
fn own(got: &Got) -> Vec<u8> {
    let mark = b"<script src=\"/_pins/reload.js\"";
    let Some(at) = got.body.windows(mark.len()).position(|part| part == mark) else {
        return got.body.clone();
    };
    let end = got.body[at..].windows(9).position(|part| part == b"</script>").unwrap() + at + 9;
    [&got.body[..at], &got.body[end..]].concat()
}

#[test]
fn every_page_comes_as_it_is_with_its_pins_put_in() {
    let session = tree();
    let nginx = session.nginx("site", SERVER);
    session.good("build --out out");
    let served = session.preview(&format!("--of http://127.0.0.1:{}", nginx.port));
    for number in 0..1000 {
        let path = format!("/guide/{number}.html");
        let got = served.ask("GET", &path, "Accept-Encoding: gzip, br\r\n");
        assert_eq!((got.status, got.header("content-encoding")), (200, None), "{path}");
        assert_eq!(got.header("content-type"), Some("text/html"), "{path}");
        assert!(got.body.len() > own(&got).len(), "{path}");
        let built = std::fs::read(session.path(&format!("out/guide/{number}.html"))).unwrap();
        assert!(own(&got) == built, "{path}: {}", String::from_utf8_lossy(&got.body));
        let plain = served.get(&format!("{path}?_pins="));
        assert!(own(&plain) == page(number), "{path}");
    }
}

#[test]
fn what_is_no_page_comes_through_untouched() {
    let session = tree();
    let nginx = session.nginx("site", SERVER);
    let served = session.preview(&format!("--of http://127.0.0.1:{}", nginx.port));
    let here = served.url("");
    // Compression is passed on.
    let sheet = served.ask("GET", "/guide.css", "Accept-Encoding: gzip\r\n");
    assert_eq!(sheet.header("content-encoding"), Some("gzip"));
    let mut text = String::new();
    flate2::read::GzDecoder::new(&*sheet.body).read_to_string(&mut text).unwrap();
    assert_eq!(text, "h1 { margin: 0 }");
    assert_eq!(served.get("/guide.css").header("content-encoding"), None);
    // Ranges.
    let part = served.ask("GET", "/film.txt", "Range: bytes=2-4\r\n");
    assert_eq!(
        (part.status, part.text().as_str(), part.header("content-range")),
        (206, "234", Some("bytes 2-4/10"))
    );
    // Redirects lead here, and others away.
    let moved = served.get("/old");
    assert_eq!(
        (moved.status, moved.header("location")),
        (301, Some(format!("{here}/guide/1.html").as_str()))
    );
    assert_eq!(served.get("/away").header("location"), Some("https://elsewhere.example/x"));
    // Cookies are for this server.
    let cookie = served.get("/cookie.html");
    let cookies: Vec<&str> =
        cookie.head.lines().filter(|line| line.to_lowercase().starts_with("set-cookie")).collect();
    assert_eq!(cookies, ["set-cookie: seen=yes; Path=/; HttpOnly", "set-cookie: two=2"]);
    // What is asked for is what the other server hears.
    let who = served.ask("GET", "/who?day=3&_pins=", &format!("Referer: {here}/x\r\nCookie: seen=yes\r\n"));
    let there = format!("http://127.0.0.1:{}", nginx.port);
    assert_eq!(who.text(), format!("127.0.0.1 {there}/x  seen=yes GET 3"));
    let posted = served.ask("POST", "/who?day=4", &format!("Origin: {here}\r\nContent-Length: 0\r\n"));
    assert_eq!(posted.text(), format!("127.0.0.1  {there}  POST 4"));
    // A page that is missing is the other server's.
    let missing = served.get("/nowhere");
    assert_eq!((missing.status, missing.text().contains("not here")), (404, true));
    // An unchanged file.
    let tag = nginx.get("/film.txt").header("etag").unwrap().to_owned();
    assert_eq!(served.ask("GET", "/film.txt", &format!("If-None-Match: {tag}\r\n")).status, 304);
}

#[test]
fn a_policy_is_loosened_as_far_as_pins_need_and_that_is_told() {
    let session = tree();
    let nginx = session.nginx("site", SERVER);
    let mut served = session.preview(&format!("--of http://127.0.0.1:{}", nginx.port));
    let got = served.get("/strict.html");
    let folder = served.url("/_pins/");
    let policy = got.header("content-security-policy").unwrap();
    let expected =
        format!("default-src 'self'; script-src 'none'; frame-ancestors 'self'; script-src-elem {folder}");
    assert_eq!(policy, expected);
    assert_eq!(got.header("x-frame-options"), None);
    let data: serde_json::Value =
        serde_json::from_slice(&served.get("/_pins/page?page=/strict.html").body).unwrap();
    assert_eq!(data["policy"].as_array().unwrap().len(), 3, "{data}");
    served.hear("policy of /strict.html, in this preview alone");
}

#[test]
fn a_server_that_does_not_answer_is_told() {
    let session = tree();
    let free = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let served = session.preview(&format!("--of http://127.0.0.1:{free}"));
    let got = served.get("/");
    assert_eq!(got.status, 502);
    assert!(got.text().contains("does not answer"), "{}", got.text());
    session.refused("preview --of ferries", "names no server");
    session.refused("preview --of http://127.0.0.1:1/fares/", "names a page");
}

#[test]
fn a_page_that_is_too_large_comes_through_as_it_is() {
    let session = tree();
    let large = std::fs::File::create(session.path("site/guide/large.html")).unwrap();
    large.set_len(70 << 20).unwrap();
    let bomb = std::process::Command::new("sh")
        .args(["-c", "head -c 200000000 /dev/zero | gzip > site/guide/bomb.html.gz"])
        .current_dir(session.path(""))
        .status();
    assert!(bomb.unwrap().success());
    let packed = "location = /guide/bomb.html { gzip off; default_type text/html; types { } add_header Content-Encoding gzip; try_files /guide/bomb.html.gz =404; }";
    let nginx = session.nginx("site", packed);
    let served = session.preview(&format!("--of http://127.0.0.1:{}", nginx.port));
    for (path, length) in [("/guide/large.html", 70 << 20), ("/guide/bomb.html", 200_000_000)] {
        let got = served.ask("GET", path, "Accept-Encoding: gzip\r\n");
        assert_eq!((got.status, got.body.len()), (200, length), "{path}");
        assert!(got.body.iter().all(|byte| *byte == 0), "{path}");
    }
    assert!(served.peak_memory() < 400, "{} MB", served.peak_memory());
    assert_eq!(served.get("/guide/1.html").status, 200);
}
