//! Holds a built copy of a real tree of pages against the tree itself: every byte outside of what
//! was put in is the same, and each page's tree is the one that html5ever alone builds of it.
//! Called by `scripts/real-trees.sh` as `real_tree SITE COPY`.

#[path = "../tests/core/drawing/mod.rs"]
mod drawing;

use std::fs;
use std::path::{Path, PathBuf};

use deft_pin_core::markup::parse;
use drawing::{draw_alone, draw_ours};

fn main() {
    let mut arguments = std::env::args_os().skip(1).map(PathBuf::from);
    let (Some(site), Some(copy)) = (arguments.next(), arguments.next()) else {
        eprintln!("real_tree SITE COPY");
        std::process::exit(2);
    };
    let mut held = Held::default();
    held.folder(&site, &copy);
    println!(
        "{} pages ({} customised) and {} other files: {} differ outside of what was put in, {} trees differ from html5ever's",
        held.pages, held.customised, held.others, held.bytes_differ, held.trees_differ
    );
    std::process::exit(i32::from(held.bytes_differ + held.trees_differ > 0 || held.pages == 0));
}

#[derive(Default)]
struct Held {
    pages: usize,
    customised: usize,
    others: usize,
    bytes_differ: usize,
    trees_differ: usize,
}

impl Held {
    fn folder(&mut self, site: &Path, copy: &Path) {
        let mut entries: Vec<_> = fs::read_dir(site).into_iter().flatten().flatten().collect();
        entries.sort_by_key(|entry| entry.file_name());
        for entry in entries {
            let (path, twin) = (entry.path(), copy.join(entry.file_name()));
            match entry.file_type() {
                Ok(kind) if kind.is_dir() => self.folder(&path, &twin),
                Ok(kind) if kind.is_file() => self.file(&path, &twin),
                _ => {}
            }
        }
    }

    fn file(&mut self, path: &Path, twin: &Path) {
        let (own, built) = (fs::read(path).unwrap_or_default(), fs::read(twin).unwrap_or_default());
        let name =
            path.file_name().map(|name| name.to_string_lossy().to_ascii_lowercase()).unwrap_or_default();
        let is_page = name.ends_with(".html") || name.ends_with(".htm");
        if !is_page {
            self.others += 1;
            self.tell_bytes(own == built, path);
            return;
        }
        self.pages += 1;
        self.customised += usize::from(own != built);
        let same = own == built || without_pins(&own, &built);
        self.tell_bytes(same, path);
        let (decoded, document) = parse(&own);
        if draw_ours(&document) != draw_alone(decoded.text()) {
            self.trees_differ += 1;
            println!("another tree: {}", path.display());
        }
    }

    fn tell_bytes(&mut self, same: bool, path: &Path) {
        if !same {
            self.bytes_differ += 1;
            println!("other bytes: {}", path.display());
        }
    }
}

/// Whether a built page is the page itself but for whole elements that carry the mark, with at
/// most a line end beside each, a `<body>` or end tags before them.
fn without_pins(own: &[u8], built: &[u8]) -> bool {
    let (mut at, mut put_in) = (0, false);
    let mut rest = built;
    while !rest.is_empty() {
        // A line end or a `<body>` is the page's own as long as it agrees; an inserted element
        // may begin as the page goes on, so it is looked for before that.
        let shared = ["\r\n", "\n", "<body>"]
            .iter()
            .find(|text| rest.starts_with(text.as_bytes()) && own[at..].starts_with(text.as_bytes()));
        if let Some(shared) = shared {
            at += shared.len();
            rest = &rest[shared.len()..];
        } else if let Some(length) = insertion(rest) {
            rest = &rest[length..];
            let line_end = ["\r\n", "\n"].iter().find(|end| rest.starts_with(end.as_bytes()));
            if let Some(end) = line_end.filter(|end| !own[at..].starts_with(end.as_bytes())) {
                rest = &rest[end.len()..];
            }
            put_in = true;
        } else if own.get(at) == rest.first() {
            at += 1;
            rest = &rest[1..];
        } else {
            return false;
        }
    }
    put_in && at == own.len()
}

/// The length of an inserted element at the start of some bytes, with the line end before it.
fn insertion(bytes: &[u8]) -> Option<usize> {
    let line_end =
        [&b"\r\n"[..], b"\n"].into_iter().find(|end| bytes.starts_with(end)).map_or(0, <[u8]>::len);
    let tag = &bytes[line_end..];
    let body = if tag.starts_with(b"<body><script") { 6 } else { 0 };
    let tag = &tag[body..];
    if !tag.starts_with(b"<link ") && !tag.starts_with(b"<script ") {
        return None;
    }
    let end = tag.iter().position(|b| *b == b'>')? + 1;
    let marked = tag[..end].windows(15).any(|window| window == b"data-deft-pin=\"");
    let closer = if tag.starts_with(b"<script ") { b"</script>".len() } else { 0 };
    marked.then_some(line_end + body + end + closer)
}
