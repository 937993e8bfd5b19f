//! A live site held against the releases.

use std::io::Write as _;
use std::net::TcpStream;
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant};

use crate::session::{Answer, OddServer, Session, send};
use serde_json::Value;

const BOARD: &str = "[site]\nroot = 'site'\n
[library.bells]\nscript = 'vendor/bells.js'\n
[pin.notice]\npages = ['/', '/fares/*']\nwithin = 'main'\nstyle = 'pins/notice.css'\nneeds = ['bells']\n
[[pin.notice.markup]]\ntext = '<p class=\"notice\">No sailings this evening</p>'\nplace = 'append'\nat = 'main'\n
[pin.bell]\npages = ['/fares/']\nscript = 'pins/bell.js'\n
[[pin.bell.mark]]\nat = 'h1'\nid = 'rates'\n";

fn ferries() -> Session {
    let page = |title: &str| {
        format!(
            "<!doctype html><html lang=en><head><title>{title}</title></head><body><main><h1>{title}</h1></main></body></html>"
        )
    };
    Session::with(&[
        ("deft-pin.toml", BOARD),
        ("pins/notice.css", "h1 { color: teal; background: url(../img/waves.svg) }\n.notice { margin: 0 }\n"),
        ("pins/bell.js", "document.title = 'The fares of this winter';\n"),
        ("img/waves.svg", "<svg xmlns='http://www.w3.org/2000/svg'/>"),
        ("vendor/bells.js", "window.bells = { ring: function () { return 'ding'; } };\n"),
        ("site/index.html", &page("Ferries")),
        ("site/fares/index.html", &page("Fares")),
        ("site/about.html", &page("About")),
    ])
}

/// What was said, as `page: pin part state release`, all that is not live.
fn not_live(answer: &Answer) -> Vec<String> {
    let json = answer.json();
    let mut rows = Vec::new();
    for page in json["pages"].as_array().unwrap() {
        if page["status"] != 200 {
            rows.push(format!("{} {}", page["page"].as_str().unwrap(), page["status"]));
        }
        for own in page["pins"].as_array().unwrap().iter().filter(|own| own["state"] != "live") {
            let name = [&own["pin"], &own["library"], &own["piece"]];
            let name = name.into_iter().find_map(Value::as_str).unwrap_or("-");
            let release = own["release"].as_u64().map(|own| format!(" {own}")).unwrap_or_default();
            let words = ["part", "state"].map(|key| own[key].as_str().unwrap());
            rows.push(format!("{} {name} {}{release}", page["page"].as_str().unwrap(), words.join(" ")));
        }
    }
    for own in json["assets"].as_array().unwrap().iter().filter(|own| own["state"] != "live") {
        let name = own["file"].as_str().unwrap().split('.').next().unwrap();
        rows.push(format!("{name} {}", own["state"].as_str().unwrap()));
    }
    rows
}

/// The name of a file in a folder by its beginning and its end.
fn file(session: &Session, folder: &str, start: &str, end: &str) -> String {
    let names = session.files(folder).into_keys();
    let mut names = names.filter(|name| name.starts_with(start) && name.ends_with(end));
    format!("{folder}/{}", names.next().unwrap())
}

#[test]
fn what_a_server_has_of_a_published_site_is_told() {
    let session = ferries();
    let nothing = session.run("probe http://127.0.0.1:1/");
    assert_eq!(nothing.status, 2, "{}", nothing.stderr);
    assert!(nothing.stderr.contains("nothing has been published yet"), "{}", nothing.stderr);
    session.good("publish");
    std::fs::create_dir(session.path("live")).unwrap();
    let copy = |from: &str| {
        for (name, bytes) in session.files(from) {
            session.write(&format!("live/{name}"), bytes);
        }
    };
    copy("published");
    let nginx = session.nginx("live", "location = /moved.html { return 301 /; }");
    let probe = |more: &str| session.run(&format!("probe {} --pause 0 --format json {more}", nginx.url("/")));
    let first = probe("");
    assert_eq!((first.status, not_live(&first)), (0, vec![]), "{}", first.stdout);
    assert_eq!(first.json()["pages"].as_array().unwrap().len(), 2);
    let parts = first.json()["pages"][1]["pins"].as_array().unwrap().clone();
    let parts: Vec<String> = parts
        .iter()
        .map(|own| {
            format!(
                "{}{} {}",
                own["pin"].as_str().unwrap_or(""),
                own["library"].as_str().unwrap_or(""),
                own["part"].as_str().unwrap()
            )
        })
        .collect();
    assert_eq!(parts, ["notice style", "bells script", "bell script", "notice markup", "bell mark"]);

    // A change that is published here and nowhere else.
    session.write(
        "pins/notice.css",
        "h1 { color: navy; background: url(../img/waves.svg) }\n.notice { margin: 0 }\n",
    );
    session.good("publish");
    let told = probe("");
    assert_eq!(told.status, 1);
    assert_eq!(
        not_live(&told),
        ["/ notice style stale 1", "/fares/ notice style stale 1", "_pins/notice missing"]
    );
    copy("published");
    assert_eq!(not_live(&probe("")), [""; 0]);

    // A file that is an old one under its new name; one that is not there; one of another type.
    let (sheet, old) = (
        file(&session, "published", "_pins/notice", "css").replace("published", "live"),
        "h1 { color: teal; background: url(../img/waves.svg) }\n.notice { margin: 0 }\n",
    );
    let new = session.read(&sheet);
    let kept = session
        .files("releases")
        .into_iter()
        .find(|(_, bytes)| bytes.starts_with(b"h1:is(main") && bytes.windows(4).any(|own| own == b"teal"));
    session.write(&sheet, kept.unwrap_or_else(|| panic!("the built sheet of release 1 is kept: {old}")).1);
    assert_eq!(
        not_live(&probe("")),
        ["/ notice style stale 1", "/fares/ notice style stale 1", "_pins/notice stale"]
    );
    session.write(&sheet, format!("{new} /* cut"));
    assert_eq!(
        not_live(&probe("")),
        ["/ notice style altered", "/fares/ notice style altered", "_pins/notice altered"]
    );
    session.write(&sheet, &new);
    let svg = file(&session, "published", "_pins/waves", "svg").replace("published", "live");
    let picture = session.read(&svg);
    std::fs::remove_file(session.path(&svg)).unwrap();
    assert_eq!(not_live(&probe("")), ["_pins/waves missing"]);
    session.write(&svg, picture);

    // The same text by other ways: in the page itself, among other code, as a file of the site, as it was written.
    let whole = session.read("live/fares/index.html");
    let bell = session.read(&file(&session, "published", "_pins/bell", "js"));
    let link = whole.split("<link").nth(1).unwrap().split('>').next().unwrap();
    let sheet_link = format!("<link{link}>");
    let written = session.read("pins/notice.css");
    session.write("live/own/bell.js", &bell);
    session.write("live/own/all.css", format!("body {{ margin: 0 }}\n{new}"));
    let doubled = |more: &str, at: &str| whole.replace(at, &format!("{more}{at}"));
    for (page, expected) in [
        (doubled(&format!("<script>{bell}</script>"), "</body>"), "/fares/ bell script doubled 2"),
        (doubled("<script src=/own/bell.js></script>", "</body>"), "/fares/ bell script doubled 2"),
        (doubled("<link rel=stylesheet href=../own/all.css>", "</head>"), "/fares/ notice style doubled 2"),
        (doubled(&format!("<style>{written}</style>"), "</head>"), "/fares/ notice style doubled 2"),
        (whole.replace(&sheet_link, &format!("<style>{written}</style>")), "/fares/ notice style altered"),
        (whole.replace(&sheet_link, ""), "/fares/ notice style missing"),
    ] {
        session.write("live/fares/index.html", &page);
        assert_eq!(not_live(&probe("")), [expected], "{page}");
    }
    // A host that puts all sheets into one, or into the page, has it all the same.
    for other in [format!("<style>{new}</style>"), "<link rel=stylesheet href=/own/all.css>".to_owned()] {
        session.write("live/fares/index.html", whole.replace(&sheet_link, &other));
        assert_eq!(not_live(&probe("")), [""; 0], "{other}");
    }
    session.write("live/fares/index.html", &whole);

    // Pages that are gone, moved, or changed by somebody.
    let page = session.read("live/fares/index.html");
    session
        .write("live/fares/index.html", page.replace(" id=\"rates\"", "").replace("this evening", "today"));
    assert_eq!(not_live(&probe("")), ["/fares/ notice markup altered", "/fares/ bell mark missing"]);
    std::fs::remove_dir_all(session.path("live/fares")).unwrap();
    let gone = probe("");
    assert_eq!(not_live(&gone), ["/fares/ 404"]);
    assert!(gone.json()["pages"][1]["message"].as_str().unwrap().contains("gone"));
    let text = session.run(&format!("probe {} --pause 0", nginx.url("/"))).stdout;
    assert!(text.contains("/fares/  404 the page is gone"), "{text}");
    session.write("live/fares/index.html", page);

    // Pages by patterns, a sample, a pin that is gone from the board.
    assert_eq!(probe("--pages /about.html").json()["pages"][0]["pins"], Value::Array(vec![]));
    assert_eq!(probe("--sample 1").json()["not_asked"], 1);
    session.refused(&format!("probe {} --pages /nowhere/*", nginx.url("/")), "no page is meant");
    session.refused(&format!("probe {} --pages (", nginx.url("/")), "--pages (");
    session.refused("probe sorrel-sound.example", "write it in full");
    session.refused("probe ftp://sorrel-sound.example", "begins with `http://`");
    session.write("deft-pin.toml", BOARD.replace("[pin.bell]", "[pin.bell]\noff = true"));
    session.good("publish");
    assert_eq!(not_live(&probe("")), ["/fares/ bell script stale 2"]);
}

fn served(session: &Session) -> Vec<(String, Vec<u8>)> {
    session.files("published").into_iter().map(|(name, bytes)| (format!("/{name}"), bytes)).collect()
}

/// Answers with the published files.
fn answer(files: &[(String, Vec<u8>)], stream: &mut TcpStream, path: &str, headers: &str) {
    let name = path.split('?').next().unwrap();
    let name = if name.ends_with('/') { format!("{name}index.html") } else { name.to_owned() };
    let kind = match name.rsplit('.').next() {
        Some("html") => "text/html",
        Some("css") => "text/css",
        Some("js") => "text/javascript",
        _ => "image/svg+xml",
    };
    match files.iter().find(|(own, _)| *own == name) {
        Some((_, bytes)) => send(stream, "200 OK", &format!("Content-Type: {kind}\r\n{headers}"), bytes),
        None => send(stream, "404 Not Found", "", b""),
    }
}

#[test]
fn a_server_is_asked_politely() {
    let session = ferries();
    session.good("publish");
    let files = served(&session);
    let server = OddServer::start(move |stream, path, _| match path {
        "/robots.txt" => send(stream, "200 OK", "", b"User-agent: *\nDisallow: /fares/\nCrawl-delay: 0.3\n"),
        path => {
            std::thread::sleep(Duration::from_millis(30));
            answer(&files, stream, path, "");
        }
    });
    let started = Instant::now();
    let told = session.run(&format!("probe {} --pause 0 --format json", server.url("/")));
    assert!(started.elapsed() > Duration::from_millis(600), "the server asked for pauses");
    assert_eq!(told.status, 1);
    assert_eq!(not_live(&told), ["/fares/ null"], "{}", told.stdout);
    assert!(told.stdout.contains("robots.txt"));
    assert_eq!(server.at_once.load(Ordering::SeqCst), 2);
    let paths = server.paths();
    assert!(!paths.iter().any(|path| path.starts_with("/fares")), "{paths:?}");
    assert_eq!(paths.iter().filter(|path| *path == "/robots.txt").count(), 1);
    assert!(
        server
            .requests
            .lock()
            .unwrap()
            .iter()
            .all(|own| own.contains("ser-agent: DeftPin/") || own.contains("ser-Agent: DeftPin/"))
    );
    let own = session.run(&format!("probe {} --pause 0 --own-site --format json", server.url("/")));
    assert_eq!((own.status, not_live(&own)), (0, vec![]), "{}", own.stdout);
}

#[test]
fn an_old_copy_in_a_cache_is_told_from_an_old_page() {
    let session = ferries();
    session.good("publish");
    let old = served(&session);
    session.write("pins/bell.js", "document.title = 'The fares of next winter';\n");
    session.good("publish");
    let new = served(&session);
    let server = OddServer::start(move |stream, path, _| {
        let is_past = path.contains("past-caches") || path.starts_with("/_pins/");
        let files = if is_past { &new } else { &old };
        answer(files, stream, path, "Cache-Control: max-age=600\r\nAge: 71\r\n");
    });
    let told = session.run(&format!("probe {} --pause 0 --format json", server.url("/")));
    assert_eq!(not_live(&told), ["/fares/ bell script stale 1"]);
    let page = &told.json()["pages"][1];
    let message = page["message"].as_str().unwrap();
    assert!(
        message.contains("a cache holds an old copy (`Cache-Control: max-age=600`): past it, it is live"),
        "{message}"
    );
}

#[test]
fn a_bad_server_gets_an_answer() {
    let session = ferries();
    session.good("publish");
    let endless = |stream: &mut TcpStream, head: &str, part: &[u8]| {
        let _ = stream.write_all(head.as_bytes());
        while stream.write_all(part).is_ok() {}
    };
    let bomb = {
        let mut made = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        let zeros = vec![b' '; 1 << 20];
        (0..200).for_each(|_| made.write_all(&zeros).unwrap());
        made.finish().unwrap()
    };
    let files = served(&session);
    type Bad = Box<dyn Fn(&mut TcpStream, &str) + Send + Sync>;
    let table: Vec<(&str, Bad)> = vec![
        (
            "leads in a circle",
            Box::new(|s, path| {
                let next = if path == "/" { "/a" } else { "/" };
                send(s, "302 Found", &format!("Location: {next}\r\n"), b"");
            }),
        ),
        (
            "leads in a circle",
            Box::new(|s, path| {
                send(s, "302 Found", &format!("Location: {path}x\r\n"), b"");
            }),
        ),
        (
            "leads to another server",
            Box::new(|s, _| send(s, "302 Found", "Location: http://127.0.0.2:9/\r\n", b"")),
        ),
        ("is no address", Box::new(|s, _| send(s, "302 Found", "Location: http://[\r\n", b""))),
        (
            "longer than 64 MB",
            Box::new(move |s, _| {
                endless(s, "HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n\r\n", &[b'x'; 65536])
            }),
        ),
        (
            "longer than 64 MB",
            Box::new(|s, _| {
                let _ = s.write_all(b"HTTP/1.1 200 OK\r\nContent-Length: 10000000000\r\n\r\nx");
                std::thread::sleep(Duration::from_secs(60));
            }),
        ),
        ("longer than 64 MB", Box::new(move |s, _| send(s, "200 OK", "Content-Encoding: gzip\r\n", &bomb))),
        ("cannot be read", Box::new(|s, _| send(s, "200 OK", "Content-Encoding: gzip\r\n", b"no gzip"))),
        ("in the coding `zstd`", Box::new(|s, _| send(s, "200 OK", "Content-Encoding: zstd\r\n", b"x"))),
        (
            "cannot be read",
            Box::new(|s, _| {
                let _ = s.write_all(b"HTTP/1.1 200 OK\r\nContent-Length: 1000\r\n\r\nshort");
            }),
        ),
        (
            "does not answer",
            Box::new(|s, _| {
                let _ = s.write_all(b"nonsense\r\n\r\n");
            }),
        ),
        (
            "429 Too Many Requests",
            Box::new(|s, _| send(s, "429 Too Many Requests", "Retry-After: 3600\r\n", b"")),
        ),
        (
            "503 Service Unavailable",
            Box::new(|s, _| send(s, "503 Service Unavailable", "Retry-After: 1\r\n", b"")),
        ),
        ("500 Internal Server Error", Box::new(|s, _| send(s, "500 Internal Server Error", "", b""))),
        ("wants a login", Box::new(|s, _| send(s, "401 Unauthorized", "WWW-Authenticate: Basic\r\n", b""))),
        (
            "it comes as `application/pdf`",
            Box::new(|s, _| send(s, "200 OK", "Content-Type: application/pdf\r\n", b"x")),
        ),
        (
            "the page is gone",
            Box::new(|s, path| match path {
                "/" => send(s, "301 Moved", "Location: /welcome\r\n", b""),
                _ => send(s, "200 OK", "Content-Type: text/html\r\n", b"<p>"),
            }),
        ),
    ];
    for (words, bad) in table {
        let files = files.clone();
        let server = OddServer::start(move |stream, path, _| match path {
            "/robots.txt" => send(stream, "404 Not Found", "", b""),
            path if path.starts_with("/_pins") || path.starts_with("/fares") => {
                answer(&files, stream, path, "")
            }
            path => bad(stream, path),
        });
        let started = Instant::now();
        let told = session.run(&format!("probe {} --pause 0 --format json", server.url("/")));
        assert_eq!(told.status, 1, "{words}: {}{}", told.stdout, told.stderr);
        let page = &told.json()["pages"][0];
        let message = page["message"].as_str().unwrap_or_default();
        assert!(message.contains(words), "{words}: {page}");
        assert!(started.elapsed() < Duration::from_secs(45), "{words}");
        // The other page is held against the release all the same.
        assert!(not_live(&told).iter().all(|row| row.starts_with("/ ")), "{words}: {:?}", not_live(&told));
    }
    // One that asks to wait is waited for.
    let files = served(&session);
    let server = OddServer::start(move |stream, path, _| {
        static ASKED: std::sync::atomic::AtomicUsize = std::sync::atomic::AtomicUsize::new(0);
        match path {
            "/" if ASKED.fetch_add(1, Ordering::SeqCst) == 0 => {
                send(stream, "503 Service Unavailable", "Retry-After: 1\r\n", b"");
            }
            path => answer(&files, stream, path, ""),
        }
    });
    let told = session.run(&format!("probe {} --pause 0 --format json", server.url("/")));
    assert_eq!((told.status, not_live(&told)), (0, vec![]), "{}", told.stdout);
    // Nobody there at all.
    let told = session.run("probe http://127.0.0.1:1/ --format json");
    assert!(told.stdout.contains("does not answer"), "{}", told.stdout);
    let told = session.run("probe http://nowhere.invalid/ --format json");
    assert!(told.stdout.contains("does not answer"), "{}", told.stdout);
}

#[test]
fn a_certificate_that_nobody_trusts_is_told() {
    let session = ferries();
    session.good("publish");
    let made = rcgen::generate_simple_self_signed(vec!["localhost".to_owned()]).unwrap();
    session.write("cert.pem", made.cert.pem());
    session.write("key.pem", made.signing_key.serialize_pem());
    let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let at = |name: &str| session.path(name).display().to_string();
    let block = format!(
        "listen 127.0.0.1:{port} ssl; ssl_certificate {}; ssl_certificate_key {};",
        at("cert.pem"),
        at("key.pem")
    );
    let _nginx = session.nginx("published", &block);
    let told = session.run(&format!("probe https://localhost:{port}/ --format json"));
    assert_eq!(told.status, 1);
    assert!(told.stdout.contains("certificate is not trusted"), "{}", told.stdout);
    session.refused(&format!("capture https://localhost:{port}/ --into x"), "certificate is not trusted");
}

#[test]
fn what_stands_in_a_frame_is_found_there() {
    let session = Session::with(&[
        ("deft-pin.toml", "[site]\nroot = 'site'\n[host]\nkind = 'framed-blocks'\n
            [pin.note]\npages = ['/']\nstyle = 'note.css'\n[[pin.note.markup]]\ntext = '<p class=\"note\">No sailings this evening</p>'\nplace = 'append'\nat = 'main'\n"),
        ("note.css", ".note { color: teal; padding: 4px }\n"),
        ("site/index.html", "<!doctype html><title>x</title><main><h1>Ferries</h1></main>"),
    ]);
    session.good("publish");
    let server = session.preview("--pasted --plain");
    let told = session.run(&format!("probe {} --pause 0 --format json", server.url("/")));
    assert_eq!((told.status, not_live(&told)), (0, vec![]), "{}", told.stdout);
    let parts = told.json()["pages"][0]["pins"].as_array().unwrap().len();
    assert_eq!(parts, 2, "{}", told.stdout);
}
