//! What is said of something that goes wrong where a script runs.

use super::finding::counted;
use crate::script::{Certainty, HandedOver, RunFaultKind};
use crate::site::ImportFlawKind;

/// What is said, and what to do.
pub struct RunFaultWords {
    /// What is wrong, and what follows.
    pub message: String,
    /// What to do.
    pub help: Option<String>,
}

/// What follows from something that throws where a script comes to it, as certainly as that.
pub(super) fn what_follows(certainty: Certainty) -> &'static str {
    match certainty {
        Certainty::Certain => "so the script stops here",
        Certainty::FirstVisit => {
            "so the script stops here on a visit with nothing stored, no cookie and no query in the address"
        }
        Certainty::SomeVisit | Certainty::Perhaps => "so this fails once it comes to it",
    }
}

/// What is said of something that goes wrong where a script runs, and is as certain as that.
pub fn run_fault_words(kind: &RunFaultKind, certainty: Certainty) -> RunFaultWords {
    let then = what_follows(certainty);
    let words = |message: String, help: Option<String>| RunFaultWords { message, help };
    match kind {
        RunFaultKind::NoElement { selector } if selector.is_empty() => {
            words(format!("an empty text finds nothing on the page, {then}"), None)
        }
        RunFaultKind::NoElement { selector } => words(
            format!("`{selector}` finds nothing there, {then}"),
            Some(
                "the page as it is served has one: it is not in what is looked in, or the script has taken it out or changed it before this"
                    .to_owned(),
            ),
        ),
        RunFaultKind::EarlyElement { selector } => {
            words(format!("`{selector}` is looked up before it is there, {then}"), None)
        }
        RunFaultKind::NoGlobal { name } => {
            words(format!("nothing on the page defines `{name}`, {then}"), None)
        }
        RunFaultKind::NoMember { of, name, near: _ } if of == "jQuery" => words(
            format!("nothing on the page adds `{name}` to jQuery, {then}"),
            Some("bring in the library that adds it, before this".to_owned()),
        ),
        RunFaultKind::NoMember { of, name, near } => words(
            format!("{} has no `{name}`, {then}", a(of)),
            near.as_ref().map(|near| format!("did you mean `{near}`?")),
        ),
        RunFaultKind::IgnoredMember { of, name, near } if of == "style" => words(
            format!("there is no property `{name}`, so nothing comes of this"),
            Some(format!("did you mean `{near}`?")),
        ),
        RunFaultKind::IgnoredMember { of, name, near } => words(
            format!("{} has no `{name}`, so nothing comes of this", a(of)),
            Some(format!("did you mean `{near}`?")),
        ),
        RunFaultKind::ReadOnly { of, name, throws } => {
            let what = if *throws { then } else { "so nothing comes of this" };
            match of.as_str() {
                "freeze" => words(
                    format!("what is frozen cannot be changed, nor its `{name}`, {what}"),
                    Some("make a changed copy: `{ ...old, name: value }`, `[...old, value]`".to_owned()),
                ),
                "defineProperty" => words(
                    format!("`{name}` was made by `defineProperty` so that it cannot be set, {what}"),
                    Some("write `writable: true` there".to_owned()),
                ),
                "" => words(
                    format!("`{name}` has a getter alone and cannot be set, {what}"),
                    Some(format!("write a setter as well: `set {name}(value) {{ … }}`")),
                ),
                of => words(format!("`{name}` of {} can be read and not set, {what}", a(of)), None),
            }
        }
        RunFaultKind::OfList { of, name, throws } => {
            let what = if *throws { then } else { "so nothing comes of this" };
            if of == "jQuery's sets" {
                return words(
                    format!("this is a set of jQuery, and only what is in it has `{name}`, {what}"),
                    Some("take one of its elements, `[0]`, or go over all of them: `.each(…)`".to_owned()),
                );
            }
            words(
                format!("this is a list of elements ({of}), and only an element has `{name}`, {what}"),
                Some("take one of them, `[0]`, or go over all of them: `forEach`, `for … of`".to_owned()),
            )
        }
        RunFaultKind::NotAFunction { what } => {
            if let Some(what) = what.strip_suffix("[Symbol.iterator]") {
                return words(format!("`{what}` is nothing that can be gone over, {then}"), None);
            }
            words(format!("`{what}` is no function, {then}"), None)
        }
        RunFaultKind::NoSemicolon { before } => words(
            format!("no `;` ends the line `{before}`, so it is read on with the next one, {then}"),
            Some("put a `;` at its end".to_owned()),
        ),
        RunFaultKind::NoOwnMember { what, near, is_called } => {
            let fails = if *is_called { "is no function" } else { "has no value here" };
            words(format!("`{what}` {fails}, {then}"), Some(format!("did you mean `{near}`?")))
        }
        RunFaultKind::Nothing { what } => words(
            format!("`{what}` has no value here, {then}"),
            Some("ask for it first: `?.`, or an `if`".to_owned()),
        ),
        RunFaultKind::Detached { name } => words(
            format!("`{name}` is called without what it belongs to, {then}"),
            Some(format!(
                "call it on its object, as in `object.{name}(…)`, or bind it to that: `object.{name}.bind(object)`"
            )),
        ),
        RunFaultKind::RefusedArgument { method, given, takes, write } => words(
            format!("`{method}` is given `{given}` and takes {takes}, {then}"),
            write.as_ref().map(|write| format!("write `{write}`")),
        ),
        RunFaultKind::TooFewArguments { method, takes, given } => words(
            format!(
                "`{method}` is given {} and needs {takes}, {then}",
                counted(*given, "argument", "arguments")
            ),
            None,
        ),
        RunFaultKind::VainArgument { method, given, takes, write } => words(
            format!("`{method}` is given `{given}` and takes {takes}, so nothing comes of this"),
            write.as_ref().map(|write| format!("write `{write}`")),
        ),
        RunFaultKind::Vain { says, write } => words(
            format!("{says}, so nothing comes of this"),
            write.as_ref().map(|write| format!("write `{write}`")),
        ),
        RunFaultKind::Commas { list } => {
            let is_short = list.len() <= 40 && !list.contains('`');
            let what = if is_short { format!("the list `{list}`") } else { "a list".to_owned() };
            let help = match is_short {
                true => format!("write `{list}.join(\"\")`"),
                false => "put `.join(\"\")` behind it".to_owned(),
            };
            words(format!("{what} becomes a text, and commas are shown between its items"), Some(help))
        }
        RunFaultKind::Mixed { what } => words(
            format!("{what}, {then}"),
            Some("say what it becomes: `Number(value)`, `String(value)`, `BigInt(value)`".to_owned()),
        ),
        RunFaultKind::TooEarly { name } => words(
            format!("`{name}` is used before its declaration has run, {then}"),
            Some("move the declaration up, before its first use".to_owned()),
        ),
        RunFaultKind::ConstantSet { name } => words(
            format!("`{name}` is a constant and cannot be set again, {then}"),
            Some(format!("declare it with `let {name}`")),
        ),
        RunFaultKind::EmptySet { selector, near } => words(
            format!("`{selector}` finds nothing on the page, so nothing comes of this"),
            near.as_ref().map(|near| format!("did you mean `{near}`?")),
        ),
        RunFaultKind::HandedOver { selector, to, how, near } => words(
            match how {
                HandedOver::Nothing => {
                    format!("`{selector}` finds nothing on the page, so `{to}` is given `null`")
                }
                HandedOver::Early => format!(
                    "`{selector}` comes further down on the page than this script, so `{to}` is given `null`"
                ),
                HandedOver::Selector => {
                    format!("`{selector}` finds nothing on the page, so `{to}` has nothing to work on")
                }
                HandedOver::Name => format!(
                    "`{to}` is given `{}`, and no element has such an ID",
                    selector.trim_start_matches('#')
                ),
            },
            match (how, near) {
                (HandedOver::Early, _) => Some("put the script at the foot: `slot = \"foot\"`".to_owned()),
                (HandedOver::Name, Some(near)) => {
                    Some(format!("did you mean `{}`?", near.trim_start_matches('#')))
                }
                (_, near) => near.as_ref().map(|near| format!("did you mean `{near}`?")),
            },
        ),
        RunFaultKind::CalledAtOnce { what } => words(
            format!(
                "`{what}` is called here at once, and what it gives is no function: nothing is called later"
            ),
            Some(format!("hand over the function itself: `{what}`, or `() => {what}(…)`")),
        ),
        RunFaultKind::UnheardMember { name, near } => words(
            format!("no script of the page has `{name}`, so this fails most likely"),
            Some(format!("did you mean `{near}`?")),
        ),
        RunFaultKind::NoSuper => words(
            format!("the constructor of this class does not call that of the class that it extends, {then}"),
            Some("begin it with `super(…)`".to_owned()),
        ),
        RunFaultKind::EarlyThis => words(
            format!("`this` is used before the constructor calls that of the class that it extends, {then}"),
            Some("begin the constructor with `super(…)`".to_owned()),
        ),
        RunFaultKind::Inside { kind } => words(
            format!(
                "in the function of another script that is called here: {}",
                run_fault_words(kind, certainty).message
            ),
            None,
        ),
        RunFaultKind::Thrown => words(format!("this is thrown, and nothing catches it, {then}"), None),
        RunFaultKind::NoDate { written, becomes: Some(day) } => words(
            format!("there is no such day as `{written}`: a browser makes {day} of it"),
            Some(format!("write the day that is meant, as `{day}`")),
        ),
        RunFaultKind::NoDate { written, becomes: None } => words(
            format!("a browser makes no date of `{written}`: each part of it is `NaN`"),
            Some("write it as `2027-01-05T09:00:00`".to_owned()),
        ),
        RunFaultKind::Wipes => words(
            "all of the page is parsed by then: what is written takes the place of the whole page".to_owned(),
            Some("put it in beside an element: `element.insertAdjacentHTML(\"beforeend\", …)`, or as the pin's `markup`".to_owned()),
        ),
        RunFaultKind::NotWritten => words(
            "a script that the page does not wait for may write nothing into it: a browser passes over this".to_owned(),
            Some("put it in beside an element: `element.insertAdjacentHTML(\"beforeend\", …)`".to_owned()),
        ),
        RunFaultKind::NoMonth { becomes } => words(
            format!("months count from 0 here, so there is no month 12: a browser makes {becomes} of it"),
            Some("write 11 for December".to_owned()),
        ),
        RunFaultKind::NoCallback { name, near } => words(
            format!("the address names `{name}` to be called back, and nothing on the page defines that"),
            Some(match near {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("define it before the address is loaded: `function {name}() {{ … }}`"),
            }),
        ),
        RunFaultKind::BareSpecifier { specifier } => words(
            format!(
                "`{specifier}` is no address, and the page has no import map that says what it means: nothing is loaded"
            ),
            Some(format!("begin it with `./`: `./{specifier}` lies beside the script")),
        ),
        RunFaultKind::MissingFile { address, near } => words(
            format!(
                "`{address}` is no file of the site, nor one beside the script: nothing is there to be loaded"
            ),
            Some(match near {
                Some(near) => format!("did you mean `{near}`?"),
                None => {
                    "put the file beside the script, or into the site, unless a server makes it".to_owned()
                }
            }),
        ),
        RunFaultKind::PastDate { day } => words(
            format!("{day} is past, and this asks what is left until then"),
            Some("set a later date, or take this pin off: `off = true`".to_owned()),
        ),
    }
}

/// What is said of an import that keeps a module from running; `module` is the one that it stands in, where that is
/// another.
pub fn import_words(module: Option<&str>, kind: &ImportFlawKind) -> RunFaultWords {
    let whose = module.map_or("so a browser runs none of this script".to_owned(), |module| {
        format!("in `{module}`, which this imports, so a browser runs none of either")
    });
    let did_you_mean = |near: &Option<String>, otherwise: &str| {
        Some(near.as_ref().map_or(otherwise.to_owned(), |near| format!("did you mean `{near}`?")))
    };
    match kind {
        ImportFlawKind::Missing { specifier, near } => RunFaultWords {
            message: format!("there is no module `{specifier}`, {whose}"),
            help: did_you_mean(near, "put the file there, or take the import out"),
        },
        ImportFlawKind::Bare { specifier, near } => RunFaultWords {
            message: format!(
                "`{specifier}` is no address, and no import map of the page says what it means, {whose}"
            ),
            help: did_you_mean(
                near,
                "begin it with `./`, `../` or `/`, or give the page an import map before its first module",
            ),
        },
        ImportFlawKind::NotExported { name, specifier, near } => RunFaultWords {
            message: match name.as_str() {
                "default" => format!("`{specifier}` has no default export, {whose}"),
                name => format!("`{specifier}` exports no `{name}`, {whose}"),
            },
            help: match name.as_str() {
                "default" => Some("take what it exports by its name: `import { … }`".to_owned()),
                _ => did_you_mean(near, "export it there, or import another name"),
            },
        },
    }
}

/// An interface, as it is spoken of.
fn a(of: &str) -> String {
    match of {
        "String" => "a text".to_owned(),
        "Array" => "an array".to_owned(),
        "Number" => "a number".to_owned(),
        "HTMLDocument" => "the document".to_owned(),
        "HTMLElement" => "an element".to_owned(),
        _ if of.starts_with(['A', 'E', 'I', 'O', 'H']) => format!("an `{of}`"),
        _ => format!("a `{of}`"),
    }
}
