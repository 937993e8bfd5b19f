//! The sheets of a plan, each made ready for the cascade once.

use std::sync::Arc;

use super::code_key::CodeKey;
use super::library::LibraryFile;
use super::plan::Plan;
use crate::code::{CodeKind, LibraryId, Owner, PinId, Table};
use crate::source::FilePath;
use crate::style::{FontUse, NameUse, StyleRules, font_uses, name_uses};

/// A sheet that is ready for the cascade.
#[derive(Clone, Debug)]
pub struct ReadySheet {
    /// Its rules.
    pub rules: Arc<StyleRules>,
    /// Its file, as seen from the board.
    pub file: FilePath,
}

/// The sheets of a plan, confined as they will be.
#[derive(Debug, Default)]
pub struct ReadySheets {
    pins: Table<PinId, Option<ReadySheet>>,
    fonts: Table<PinId, Vec<FontUse>>,
    names: Table<PinId, Vec<NameUse>>,
    libraries: Table<LibraryId, Vec<Option<ReadySheet>>>,
}

impl ReadySheets {
    /// Makes the sheets of a plan ready.
    pub fn new(plan: &Plan<'_>) -> Self {
        let pins = plan.pins.map(|(_, pin)| {
            let style = pin.style.as_ref()?;
            let rules = StyleRules::edited(&style.file.text, style.edits.clone());
            Some(ReadySheet { rules: Arc::new(rules), file: style.file.path.clone() })
        });
        let fonts =
            pins.map(|(_, sheet)| sheet.as_ref().map(|sheet| font_uses(&sheet.rules)).unwrap_or_default());
        let names =
            pins.map(|(_, sheet)| sheet.as_ref().map(|sheet| name_uses(&sheet.rules)).unwrap_or_default());
        let of_file = |file: &LibraryFile| {
            let file = file.read()?;
            let rules = StyleRules::new(file.text.as_str().to_owned());
            Some(ReadySheet { rules: Arc::new(rules), file: file.path.clone() })
        };
        let libraries = plan.libraries.map(|(_, library)| library.styles.iter().map(of_file).collect());
        ReadySheets { pins, fonts, names, libraries }
    }

    /// A sheet of the plan, as far as it is beside the board.
    pub fn get(&self, code: CodeKey) -> Option<&ReadySheet> {
        match (code.kind, code.owner) {
            (CodeKind::Script, _) => None,
            (CodeKind::Style, Owner::Pin(pin)) => self.pins.get(pin)?.as_ref(),
            (CodeKind::Style, Owner::Library(library)) => {
                self.libraries.get(library)?.get(code.number as usize)?.as_ref()
            }
        }
    }

    /// The rules of a pin's sheet.
    pub fn of_pin(&self, pin: PinId) -> Option<&Arc<StyleRules>> {
        self.pins.get(pin)?.as_ref().map(|sheet| &sheet.rules)
    }

    /// The rules of a library's sheets, as far as they are beside the board.
    pub fn of_library(&self, library: LibraryId) -> impl Iterator<Item = &Arc<StyleRules>> {
        let sheets = self.libraries.get(library).into_iter().flatten().flatten();
        sheets.map(|sheet| &sheet.rules)
    }

    /// What a pin's sheet uses of fonts.
    pub fn fonts_of(&self, pin: PinId) -> &[FontUse] {
        self.fonts.get(pin).map_or(&[], Vec::as_slice)
    }

    /// The keyframes and custom properties that a pin's sheet cannot do without.
    pub fn names_of(&self, pin: PinId) -> &[NameUse] {
        self.names.get(pin).map_or(&[], Vec::as_slice)
    }
}
