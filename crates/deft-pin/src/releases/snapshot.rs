//! What a board and its files are at one moment, ready to be kept.

use std::collections::BTreeMap;

use deft_pin_core::code::{CodeKind, Owner};
use deft_pin_core::emit::OutputFiles;
use deft_pin_core::plan::{CodeKey, Plan};
use deft_pin_core::source::{FilePath, Files};

use super::store::hash_of;
use crate::noted_files::NotedFiles;
use crate::project::Project;

/// A board with the bytes of everything that it names.
pub struct Snapshot {
    /// The bytes of the board.
    pub board: Vec<u8>,
    /// The files that the board names, and those that these name.
    pub files: BTreeMap<FilePath, Vec<u8>>,
    /// The pins that are on, each with a hash of all that it is.
    pub pins: BTreeMap<String, String>,
}

/// Takes a snapshot; `board` are the board's bytes, and what it names is read from `files`.
pub fn snapshot(project: &Project, board: Vec<u8>, files: &dyn Files) -> Snapshot {
    let noted = NotedFiles::new(files);
    // A page that cannot be read keeps nothing from being kept.
    let plan = project.plan(&noted).unwrap_or_else(|_| Plan::new(&project.board, &noted));
    let output = OutputFiles::new(&plan, "_pins");
    let read = |path: FilePath| Some((path.clone(), files.read(&path).ok()?));
    let table: toml::Table =
        std::str::from_utf8(&board).ok().and_then(|text| text.parse().ok()).unwrap_or_default();
    let kept: BTreeMap<FilePath, Vec<u8>> = noted.into_read().into_iter().filter_map(read).collect();
    let pins = project.board.active_pins().map(|(id, pin)| {
        let mut all: Vec<u8> = Vec::new();
        let own = table.get("pin").and_then(|pins| pins.get(pin.name.as_str()));
        // What is said of it on the board, wherever that stands there.
        all.extend(own.map(toml::Value::to_string).unwrap_or_default().into_bytes());
        for named in own.iter().flat_map(|own| named_files(own)) {
            let bytes = FilePath::parse(&named).ok().and_then(|path| kept.get(&path));
            all.extend_from_slice(bytes.map(Vec::as_slice).unwrap_or_default());
        }
        for kind in [CodeKind::Style, CodeKind::Script] {
            let code = output.code(CodeKey { owner: Owner::Pin(id), kind, number: 0 });
            all.extend(code.map(|code| code.text_from("")).unwrap_or_default().into_bytes());
        }
        (pin.name.to_string(), hash_of(&all))
    });
    Snapshot { pins: pins.collect(), board, files: kept }
}

/// The files that the table of a pin names.
fn named_files(pin: &toml::Value) -> Vec<String> {
    let text = |value: &toml::Value| value.as_str().map(str::to_owned);
    let own = ["style", "script"].iter().filter_map(|key| pin.get(key).and_then(text));
    let markup = pin.get("markup").and_then(toml::Value::as_array).into_iter().flatten();
    own.chain(markup.filter_map(|own| own.get("file").and_then(text))).collect()
}
