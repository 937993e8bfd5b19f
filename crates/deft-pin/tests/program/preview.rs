//! The preview, as a client sees it: what is served, and what is refused.

use std::io::{Read as _, Write as _};
use std::net::TcpStream;
use std::time::{Duration, Instant};

use crate::session::Session;

const BOARD: &str = "[site]\nroot = 'site'\n
[pin.notice]\npages = ['/', '/fares/']\nwithin = 'main'\nstyle = 'pins/notice.css'\n
[pin.bell]\npages = ['/fares/']\nscript = 'pins/bell.js'\n
[[pin.bell.markup]]\ntext = '<p id=bell>Ring the bell</p>'\nplace = 'prepend'\nat = 'main'\n";

fn ferries() -> Session {
    Session::with(&[
        ("deft-pin.toml", BOARD),
        ("pins/notice.css", "h1 { color: teal }"),
        ("pins/bell.js", "document.title = 'bell';"),
        ("secret.txt", "not for the site"),
        ("site/index.html", "<!doctype html><title>x</title><main><h1>Ferries</h1></main>"),
        ("site/fares/index.html", "<!doctype html><title>x</title><main><h1>Fares</h1></main>"),
        ("site/about.html", "<!doctype html><title>x</title><main><h1>About</h1></main>"),
        ("site/css/site.css", "h1 { margin: 0 }"),
        ("site/timetable.txt", "0123456789"),
    ])
}

/// A page without the script that loads it again.
fn own(page: &str) -> String {
    let Some((before, rest)) = page.split_once("<script src=\"/_pins/reload.js\"") else {
        return page.to_owned();
    };
    format!("{before}{}", rest.split_once("</script>").unwrap().1)
}

#[test]
fn pages_are_those_that_build_writes() {
    let session = ferries();
    session.good("build --out out");
    let served = session.preview("");
    for (path, file) in [("/", "index.html"), ("/fares/", "fares/index.html"), ("/about.html", "about.html")]
    {
        let page = served.get(path);
        assert_eq!((page.status, page.header("content-type")), (200, Some("text/html")), "{path}");
        assert!(page.text().contains("reload.js"), "{path}");
        assert_eq!(own(&page.text()), session.read(&format!("out/{file}")), "{path}");
    }
    for (name, bytes) in session.files("out/_pins").into_iter().filter(|(name, _)| name != "build.json") {
        let file = served.get(&format!("/_pins/{name}"));
        assert_eq!((file.status, file.body), (200, bytes), "{name}");
    }
    assert_eq!(served.get("/css/site.css").text(), "h1 { margin: 0 }");
    let plain = session.preview("--plain");
    assert_eq!(plain.get("/fares/").text(), session.read("out/fares/index.html"));
}

#[test]
fn paths_lead_to_pages_as_on_a_server() {
    let session = ferries();
    let served = session.preview("/fares/");
    for (path, status, words) in [
        ("/fares", 302, ""),
        ("/fares/index.html", 200, "Fares"),
        ("/fares/?day=1", 200, "Fares"),
        ("/fare/", 404, "There is a page `/fares/`"),
        ("/_pins/", 200, "Deft Pin"),
        ("/_pins", 302, ""),
        ("/_pins/none.css", 404, "no file of the pins"),
        ("/_pins/page?page=/nowhere/", 404, "no page"),
    ] {
        let got = served.get(path);
        assert_eq!(got.status, status, "{path}: {}", got.text());
        assert!(got.text().contains(words), "{path}: {}", got.text());
    }
    assert_eq!(served.get("/fares").header("location"), Some("/fares/"));
    let head = served.ask("HEAD", "/fares/", "");
    assert_eq!((head.status, head.body.len()), (200, 0));
    assert_eq!(served.ask("POST", "/fares/", "Content-Length: 0\r\n").status, 405);
    session.refused("preview /fars/", "did you mean `/fares/`?");
    session.refused("preview --folder css", "the site has a `css` of its own");
    session.refused("preview --pasted", "whole files can be changed");
    session.refused(&format!("preview --port {}", served.port), "cannot be had");
}

#[test]
fn pins_are_switched_by_the_address() {
    let served = ferries().preview_of_all();
    let has = |query: &str| {
        let page = served.1.get(&format!("/fares/{query}")).text();
        [page.contains("notice."), page.contains("bell.") && page.contains("id=bell")]
    };
    assert_eq!(has(""), [true, true]);
    assert_eq!(has("?_pins="), [false, false]);
    assert_eq!(has("?_pins=notice"), [true, false]);
    assert_eq!(has("?_pins=-notice"), [false, true]);
    assert_eq!(has("?_pins=bell,notice"), [true, true]);
    assert_eq!(has("?x=1&_pins=-bell"), [true, false]);
    let plain = own(&served.1.get("/fares/?_pins=").text());
    assert_eq!(plain, served.0.read("site/fares/index.html"));
}

impl Session {
    fn preview_of_all(self) -> (Session, crate::session::Served) {
        let served = self.preview("");
        (self, served)
    }
}

#[test]
fn parts_of_files_are_served() {
    let session = ferries();
    let served = session.preview("");
    for (range, status, body, content) in [
        ("bytes=2-4", 206, "234", Some("bytes 2-4/10")),
        ("bytes=-3", 206, "789", Some("bytes 7-9/10")),
        ("bytes=8-", 206, "89", Some("bytes 8-9/10")),
        ("bytes=20-30", 416, "", Some("bytes */10")),
        ("bytes=0-1,4-5", 200, "0123456789", None),
        ("lines=1-2", 200, "0123456789", None),
    ] {
        let got = served.ask("GET", "/timetable.txt", &format!("Range: {range}\r\n"));
        assert_eq!((got.status, got.text().as_str()), (status, body), "{range}");
        assert_eq!(got.header("content-range"), content, "{range}");
    }
    assert_eq!(served.get("/timetable.txt").header("accept-ranges"), Some("bytes"));
}

#[test]
fn nothing_outside_of_the_site_is_served() {
    let session = ferries();
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink("../secret.txt", session.path("site/near.txt")).unwrap();
        std::os::unix::fs::symlink("/etc/hostname", session.path("site/far.txt")).unwrap();
        std::os::unix::fs::symlink("..", session.path("site/up")).unwrap();
        std::os::unix::fs::symlink("css/site.css", session.path("site/inside.css")).unwrap();
    }
    let served = session.preview("");
    for path in [
        "/../secret.txt", "/css/../../secret.txt", "/%2e%2e/secret.txt", "/..%2fsecret.txt",
        "/..%5csecret.txt", "/css/%2e%2e/%2e%2e/secret.txt", "//etc/hostname", "/near.txt", "/far.txt",
        "/up/secret.txt", "/_pins/../deft-pin.toml", "/_pins/%2e%2e/deft-pin.toml", "/deft-pin.toml",
        "/secret.txt%00.html",
    ] {
        let got = served.get(path);
        assert!(matches!(got.status, 400..=404), "{path}: {} {}", got.status, got.text());
        assert!(!got.text().contains("not for the site"), "{path}");
    }
    assert_eq!(served.get("/inside.css").text(), "h1 { margin: 0 }");
}

#[test]
fn other_hosts_and_origins_are_refused() {
    let session = ferries();
    let served = session.preview("");
    let port = served.port;
    for host in ["ferries.example", "127.0.0.1", "127.0.0.1:1", "localhost", &format!("x.localhost:{port}")] {
        let got = served.send(&format!("GET / HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n"));
        assert_eq!(got.status, 421, "{host}");
        assert!(!got.text().contains("Ferries"), "{host}");
    }
    let local = format!("GET / HTTP/1.1\r\nHost: localhost:{port}\r\nConnection: close\r\n\r\n");
    assert_eq!(served.send(&local).status, 200);
    for (headers, status) in [
        ("Origin: http://ferries.example\r\n", 403),
        ("Origin: null\r\n", 403),
        ("Sec-Fetch-Site: cross-site\r\nSec-Fetch-Mode: no-cors\r\nSec-Fetch-Dest: script\r\n", 403),
        ("Sec-Fetch-Site: same-site\r\nSec-Fetch-Mode: cors\r\n", 403),
        ("Sec-Fetch-Site: cross-site\r\nSec-Fetch-Mode: navigate\r\nSec-Fetch-Dest: iframe\r\n", 403),
        ("Sec-Fetch-Site: cross-site\r\nSec-Fetch-Mode: navigate\r\nSec-Fetch-Dest: document\r\n", 200),
        ("Sec-Fetch-Site: same-origin\r\nSec-Fetch-Mode: cors\r\n", 200),
    ] {
        for path in ["/", "/_pins/site", "/_pins/page?page=/", "/?_pins="] {
            assert_eq!(served.ask("GET", path, headers).status, status, "{path} {headers}");
        }
    }
    // Nobody gets the news of another origin.
    assert_eq!(served.ask("GET", "/_pins/events", "Origin: http://ferries.example\r\n").status, 403);
}

#[test]
fn huge_pages_many_requests_and_clients_that_hang_are_borne() {
    let session = ferries();
    let huge = std::fs::File::create(session.path("site/huge.html")).unwrap();
    huge.set_len(200 << 20).unwrap();
    std::fs::write(session.path("site/film.bin"), vec![7_u8; 8 << 20]).unwrap();
    let served = session.preview("");
    let got = served.get("/huge.html");
    assert_eq!(got.status, 500);
    assert!(got.text().contains("larger than"), "{}", got.text());
    // Somebody connects and says nothing, or half of it, or never reads.
    let mut hanging: Vec<TcpStream> =
        (0..60).map(|_| TcpStream::connect(("127.0.0.1", served.port)).unwrap()).collect();
    for stream in hanging.iter_mut().take(40) {
        stream.write_all(b"GET /fares/ HTTP/1.1\r\nHost: 127.0").unwrap();
    }
    for stream in hanging.iter_mut().skip(40) {
        let request = format!("GET /film.bin HTTP/1.1\r\nHost: 127.0.0.1:{}\r\n\r\n", served.port);
        stream.write_all(request.as_bytes()).unwrap();
    }
    let before = served.peak_memory();
    let started = Instant::now();
    std::thread::scope(|scope| {
        let all: Vec<_> = (0..500)
            .map(|number| {
                let path = if number % 2 == 0 { "/fares/" } else { "/css/site.css" };
                let server = served.server;
                scope.spawn(move || server.get(path).status)
            })
            .collect();
        for one in all {
            assert_eq!(one.join().unwrap(), 200);
        }
    });
    assert!(started.elapsed() < Duration::from_secs(60));
    assert!(served.peak_memory() < before + 100, "{} MB, {before} MB before", served.peak_memory());
    // Those that hang are let go in the end.
    let mut rest = Vec::new();
    hanging[0].set_read_timeout(Some(Duration::from_secs(40))).unwrap();
    let _ = hanging[0].read_to_end(&mut rest);
    assert_eq!(served.get("/").status, 200);
}

#[test]
fn what_changes_is_told() {
    let session = ferries();
    let mut served = session.preview("");
    served.hear("nothing to say about the board");
    let key = |served: &crate::session::Served| {
        let state: serde_json::Value =
            serde_json::from_slice(&served.get("/_pins/state?address=%2Ffares%2F").body).unwrap();
        (state["key"].as_str().unwrap().to_owned(), state["sheets"].to_string())
    };
    let (first, sheets) = key(&served);
    session.write("pins/notice.css", "h1 { color: teal; colour: red }");
    served.hear("1 new and 0 gone");
    assert!(served.heard.contains("dropped-declaration"), "{}", served.heard);
    let (second, others) = key(&served);
    assert_eq!(first, second, "only a sheet has changed");
    assert_ne!(sheets, others);
    session.write("pins/notice.css", "h1 { color: teal }");
    served.hear("gone: dropped-declaration in pins/notice.css");
    session.write("pins/bell.js", "document.title = 'bells';");
    served.hear("as before");
    assert_ne!(key(&served).0, first);
    // A mistake in the board: what was good is served on.
    session.write("deft-pin.toml", BOARD.replace("pages", "page"));
    served.hear("the last good one is served on");
    assert!(
        served.heard.contains("did you mean `pages`") || served.heard.contains("pages"),
        "{}",
        served.heard
    );
    assert!(served.get("/fares/").text().contains("notice."));
    let site: serde_json::Value = serde_json::from_slice(&served.get("/_pins/site").body).unwrap();
    assert!(site["trouble"].as_str().unwrap().contains("mistake"), "{site}");
    session.write("deft-pin.toml", BOARD.replace("'/fares/'", "'/about.html'"));
    served.hear("the board is good again");
    assert!(!served.get("/fares/").text().contains("notice."));
    let site: serde_json::Value = serde_json::from_slice(&served.get("/_pins/site").body).unwrap();
    assert!(site["trouble"].is_null());
    // A new page is one at once.
    session.write("site/new.html", "<!doctype html><title>x</title><main><h1>New</h1></main>");
    let until = Instant::now() + Duration::from_secs(5);
    while !served.get("/new.html").text().contains("reload.js") {
        assert!(Instant::now() < until, "the page does not come");
        std::thread::sleep(Duration::from_millis(30));
    }
}

#[test]
fn pages_are_shown_as_the_host_serves_them() {
    let session = ferries();
    let board = format!("{BOARD}\n[host]\nkind = 'site-slots'\nfiles = '/uploads/'\n");
    session.write("deft-pin.toml", &board);
    session.write("pins/waves.svg", "<svg xmlns='http://www.w3.org/2000/svg'/>".repeat(9000));
    session.write("pins/notice.css", "h1 { color: teal; background: url(waves.svg) }");
    session.good("paste");
    let pieces = session.files("paste-up/pieces");
    assert!(!pieces.is_empty());
    let served = session.preview("--pasted");
    let page = served.get("/fares/").text();
    for (name, text) in &pieces {
        let text = String::from_utf8(text.clone()).unwrap();
        assert!(page.contains(text.trim()), "{name} is not in {page}");
    }
    let (name, bytes) = session.files("paste-up/files").into_iter().next().unwrap();
    let upload = served.get(&format!("/uploads/{name}"));
    assert_eq!((upload.status, upload.body == bytes), (200, true));
    // With a pin off it is in no box.
    assert!(!served.get("/fares/?_pins=-bell").text().contains("Ring the bell"));
    assert_eq!(own(&served.get("/fares/?_pins=").text()), session.read("site/fares/index.html"));
    // Without --pasted it is what the files would be.
    let files = session.preview("");
    assert!(files.get("/fares/").text().contains("<link rel=\"stylesheet\" href=\"../_pins/notice."));
}

#[test]
fn a_folder_is_shown_without_a_board() {
    let session = ferries();
    let served = session.preview("--site site");
    assert!(served.get("/fares/").text().contains("<h1>Fares</h1>"));
    let page: serde_json::Value =
        serde_json::from_slice(&served.get("/_pins/page?page=/fares/").body).unwrap();
    assert_eq!(page["pins"], serde_json::json!([]));
}
