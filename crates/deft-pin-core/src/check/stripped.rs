//! Findings about what does not survive in the boxes of the host: tags, attributes, at-rules, and names that are
//! rewritten.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::{BoxTakes, ClassNames, MarksBy};
use crate::code::{CodeKind, Owner, PinId};
use crate::emit::fits_frame;
use crate::markup::{MarkupPiece, NamedPart, markup_pieces, names_in, tag_attributes};
use crate::plan::{CodeKey, FileText, Part};
use crate::source::Span;
use crate::style::{AtRule, Item, Rule, Sheet};

pub(super) struct Stripped;

impl Family for Stripped {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        let plan = input.plan();
        if plan.board.host.changes_files {
            return;
        }
        for (pin, _) in plan.board.active_pins() {
            if let Some(style) = &plan.pins[pin].style {
                at_rules(input, Owner::Pin(pin), 0, &style.file, findings);
            }
            // Elsewhere a script puts markup in, and what a host looks through is HTML.
            if plan.board.host.is_framed && fits_frame(plan, pin) {
                for markup in &plan.pins[pin].markup {
                    tags(input, pin, &markup.text, findings);
                }
            }
            rewritten_marks(input, pin, findings);
        }
        for (library, planned) in plan.libraries.entries() {
            for (number, file) in (0..).zip(&planned.styles) {
                if let Some(file) = file.read() {
                    at_rules(input, Owner::Library(library), number, file, findings);
                }
            }
        }
    }
}

/// At-rules of a sheet that do not survive in its box.
fn at_rules(input: &CheckInput<'_>, owner: Owner, number: u32, file: &FileText, findings: &mut Vec<Finding>) {
    let host = &input.plan().board.host;
    let part = Part::Code(CodeKey { owner, kind: CodeKind::Style, number });
    let Some(of) = input.context.layout.of(part) else { return };
    let is_css = of.takes == BoxTakes::Css;
    let is_gone = |name: &str| {
        host.strips.has_at_rule(name)
            || is_css && host.css.at_rules.as_ref().is_some_and(|own| !own.iter().any(|own| own == name))
    };
    if host.strips.at_rules.is_empty() && host.css.at_rules.is_none() {
        return;
    }
    let sheet = Sheet::parse(file.text.as_str());
    let mut found: Vec<&AtRule> = Vec::new();
    let mut waiting: Vec<&Rule> = sheet.rules.iter().rev().collect();
    while let Some(rule) = waiting.pop() {
        let items = match rule {
            Rule::At(at) if is_gone(&at.name) => {
                found.push(at);
                continue;
            }
            Rule::At(at) => at.block.as_ref().map(|block| &block.items),
            Rule::Style(style) => Some(&style.block.items),
        };
        waiting.extend(items.into_iter().flatten().rev().filter_map(|item| match item {
            Item::Rule(rule) => Some(rule),
            Item::Declaration(_) => None,
        }));
    }
    for at in found {
        let end = at.block.as_ref().map_or(at.span.end, |block| block.span.start);
        let place = Place::new(&file.path, &file.text, Span { start: at.span.start, end });
        let what = if at.block.is_some() { ", and all that stands in it," } else { "" };
        let message = format!("the host takes out `@{}`: this{what} does not count there", at.name);
        let mut finding = Finding::new(Code::Stripped, place, message).help(instead_of_at_rule(&at.name));
        if let Owner::Pin(pin) = owner {
            finding = finding.pin(input.pin_name(pin));
        }
        findings.push(finding);
    }
}

/// What survives in the place of an at-rule.
fn instead_of_at_rule(name: &str) -> &'static str {
    match name {
        "import" => "put the rules of that sheet into the pin's own, or make a library of its address",
        "font-face" => "use a font that the site loads, or one of a library by its address",
        "media" | "container" => {
            "rules without it that hold at every width survive: `clamp()`, `min()`, flexible grids"
        }
        "supports" => "write what every browser takes first, and the newer declaration behind it",
        "layer" => "write the rules without a layer, in the order in which they are to win",
        "scope" => "name what it is for with `within` on the board, or with a class",
        "keyframes" => "a `transition` between two classes survives",
        _ => "write it without this rule",
    }
}

/// Tags, attributes and class names of markup that is pasted as HTML.
fn tags(input: &CheckInput<'_>, pin: PinId, file: &FileText, findings: &mut Vec<Finding>) {
    let host = &input.plan().board.host;
    let html = file.text.as_str();
    let mut tell = |span: Span, code: Code, message: String, help: String| {
        let place = Place::new(&file.path, &file.text, span);
        findings.push(Finding::new(code, place, message).help(help).pin(input.pin_name(pin)));
    };
    for (span, piece) in markup_pieces(html) {
        let MarkupPiece::StartTag { name, .. } = piece else { continue };
        if host.strips.has_tag(&name) {
            let help = instead_of_tag(&name);
            tell(span, Code::Stripped, format!("the host takes out `<{name}>`"), help.to_owned());
            continue;
        }
        let tag = &html[span.range()];
        for own in tag_attributes(tag).1 {
            let attribute = tag[own.name.range()].to_ascii_lowercase();
            let at = |part: Span| Span { start: span.start + part.start, end: span.start + part.end };
            if host.strips.has_attribute(&attribute) {
                let message = format!("the host takes out `{attribute}` on `<{name}>`");
                tell(at(own.name), Code::Stripped, message, instead_of_attribute(&attribute).to_owned());
                continue;
            }
            let Some(value) = own.value.filter(|_| attribute == "class") else { continue };
            let written = &tag[value.range()];
            let becomes = host.class_names.rewritten(written);
            if becomes != written {
                let (message, help) = as_rewritten(written, &becomes);
                tell(at(value), Code::Rewritten, message, help);
            }
        }
    }
}

fn instead_of_tag(name: &str) -> &'static str {
    match name {
        "script" => "a script of the pin is pasted by itself, where a box takes scripts",
        "style" | "link" => "the pin's `style` is pasted by itself, where a box takes styles",
        "iframe" | "object" | "embed" => "a link to what it shows survives",
        "button" => "an `<a class=\"button\" href=\"#\">` with a listener in the pin's script survives",
        "section" | "article" | "aside" | "nav" | "header" | "footer" | "main" => {
            "a `<div>` with a class and a `role` survives"
        }
        "svg" | "path" => "an `<img>` of the drawing, or a background in the pin's sheet, survives",
        _ => "a `<div>` or a `<span>` with a class survives",
    }
}

fn instead_of_attribute(name: &str) -> &'static str {
    match name {
        "style" => "a class, and a rule for it in the pin's sheet, survive",
        "id" => "a class survives: chained, such as `.notice.of-storm`, it is as strong as need be",
        "class" => "an `id` survives, or a selector by the element's place",
        name if name.starts_with("on") => "a listener that the pin's script adds survives",
        name if name.starts_with("data-") => "a class survives in its place",
        _ => "write it without",
    }
}

/// Classes that somebody gives by hand, and that the editor of the host rewrites.
fn rewritten_marks(input: &CheckInput<'_>, pin: PinId, findings: &mut Vec<Finding>) {
    let plan = input.plan();
    let host = &plan.board.host;
    if host.marks == MarksBy::ByScript || host.class_names == ClassNames::Kept {
        return;
    }
    for mark in &plan.board.pins[pin].marks {
        let classes: Vec<&str> = mark.classes.iter().map(|class| class.as_str()).collect();
        let written = classes.join(" ");
        let becomes = host.class_names.rewritten(&written);
        let Some(first) = mark.classes.first().filter(|_| becomes != written) else { continue };
        let (message, help) = as_rewritten(&written, &becomes);
        let mut finding = Finding::new(Code::Rewritten, input.on_board(first.span), message).help(help);
        if let Some(place) = use_of(input, pin, &classes) {
            finding =
                finding.related("the pin's sheet has the old name here, and matches nothing with it", place);
        }
        findings.push(finding.pin(input.pin_name(pin)));
    }
}

fn as_rewritten(written: &str, becomes: &str) -> (String, String) {
    let message = format!(
        "the host makes the class `{becomes}` of `{written}`: nothing finds it by the name written here"
    );
    (message, format!("write `{becomes}`, here and in the pin's sheet and script"))
}

/// Where the sheet of a pin names one of some classes.
fn use_of(input: &CheckInput<'_>, pin: PinId, classes: &[&str]) -> Option<Place> {
    let style = input.plan().pins[pin].style.as_ref()?;
    let is_named = |name: &NamedPart| matches!(name, NamedPart::Class(class) if classes.contains(&&**class));
    let own = style.selectors().find(|own| names_in(&own.written).iter().any(is_named))?;
    input.in_sheet(pin, own.span)
}
