//! Findings about what some of the engines that count drop of pins' sheets, and others take.

use rustc_hash::FxHashMap;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use super::repair::repaired;
use crate::code::PinId;
use crate::source::Span;
use crate::style::{
    CascadeRule, ConditionTest, Engines, StyleDeclaration, StyleRules, Validity, is_property, is_vendors,
    selector_takers, takers, unprefixed,
};

pub(super) struct NotEverywhere;

impl Family for NotEverywhere {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        for (pin, _) in input.styles() {
            let Some(rules) = input.context.sheets.of_pin(pin) else { continue };
            let sheet = PinRules { input, pin, rules, counted: input.plan().board.engines };
            let is_asked = |rule: &&CascadeRule| {
                rule.conditions.iter().any(|one| matches!(one.test, ConditionTest::Supports(_)))
            };
            // What `@supports` asks for first has been thought of.
            for rule in rules.rules.iter().filter(|rule| !is_asked(rule)) {
                sheet.selectors(rule, findings);
                sheet.declarations(rule, findings);
            }
        }
    }
}

/// The rules of a pin's sheet, and the engines that count.
struct PinRules<'i> {
    input: &'i CheckInput<'i>,
    pin: PinId,
    rules: &'i StyleRules,
    counted: Engines,
}

/// A declaration with those that it stands beside in its rule: the same property, with a vendor's prefix or
/// without.
struct Read<'r> {
    declaration: &'r StyleDeclaration,
    base: &'r str,
    value: &'r str,
    takers: Engines,
    is_vendors: bool,
}

/// What the declarations of a rule that set the same property come to together.
struct Group {
    /// The engines that take one of them.
    all: Engines,
    /// Those that take one with a vendor's prefix.
    vendors: Engines,
    /// Those that take one before the one that is looked at.
    before: Engines,
    /// How many of them some engine takes.
    taken: usize,
}

impl Default for Group {
    fn default() -> Self {
        Group { all: Engines::NONE, vendors: Engines::NONE, before: Engines::NONE, taken: 0 }
    }
}

impl<'i> PinRules<'i> {
    fn finding(&self, span: Span, message: String, help: String) -> Option<Finding> {
        let (_, span) = self.rules.source(span);
        let finding = Finding::new(Code::NotEverywhere, self.input.in_sheet(self.pin, span)?, message);
        Some(finding.help(help).pin(self.input.pin_name(self.pin)))
    }

    fn selectors(&self, rule: &CascadeRule, findings: &mut Vec<Finding>) {
        for selector in &rule.selectors {
            let written = self.rules.written(selector.span);
            let missing = self.counted.without(selector_takers(written));
            // One with a vendor's prefix is for that vendor's engine alone, on purpose.
            if missing.is_empty() || written.contains(":-") {
                continue;
            }
            let message = format!(
                "{} not know `{written}`, and {} the whole rule",
                does(missing, "does", "do"),
                if missing.iter().count() == 1 { "drops" } else { "drop" }
            );
            let help = "keep it apart from what matters everywhere: a rule of its own".to_owned();
            findings.extend(self.finding(selector.span, message, help));
        }
    }

    fn declarations(&self, rule: &'i CascadeRule, findings: &mut Vec<Finding>) {
        let read = |declaration: &'i StyleDeclaration| {
            let name = declaration.property.name();
            let value = self.rules.text.slice(declaration.value);
            let base = unprefixed(name);
            Read {
                declaration,
                base,
                value,
                takers: takers(name, value),
                is_vendors: is_vendors(name, value),
            }
        };
        let all: Vec<Read<'_>> = rule.declarations.iter().map(read).collect();
        let mut groups: FxHashMap<&str, Group> = FxHashMap::default();
        for own in &all {
            let group = groups.entry(own.base).or_default();
            group.all = group.all.or(own.takers);
            group.taken += usize::from(!own.takers.is_empty());
            if own.is_vendors {
                group.vendors = group.vendors.or(own.takers);
            }
        }
        for own in &all {
            let Some(group) = groups.get_mut(own.base) else { continue };
            let missing = self.counted.without(own.takers);
            if !missing.is_empty() {
                findings.extend(match own.is_vendors {
                    true => self.of_vendor(own, missing, group),
                    false => self.of_standard(own, missing, group),
                });
            }
            group.before = group.before.or(own.takers);
        }
    }

    /// Of names with a vendor's prefix those matter that stand alone and have one without.
    fn of_vendor(&self, own: &Read<'_>, missing: Engines, group: &Group) -> Option<Finding> {
        let name = own.declaration.property.name();
        let has_standard = own.base != name && is_property(own.base);
        let is_alone = group.taken == usize::from(!own.takers.is_empty());
        if !has_standard || !is_alone || missing.without(group.all).is_empty() {
            return None;
        }
        let right = format!("{}: {}", own.base, own.value);
        if takers(own.base, own.value).and(missing).is_empty() {
            return None;
        }
        let message = format!("{} `{name}`", drops(missing));
        self.finding(own.declaration.span, message, format!("write `{right}` behind it"))
    }

    /// Of names without one all matter. Those that an engine takes before it are what it goes by.
    fn of_standard(&self, own: &Read<'_>, missing: Engines, group: &Group) -> Option<Finding> {
        // What nobody takes is told as dropped.
        if own.takers.is_empty() {
            return None;
        }
        let text = self.rules.text.slice(own.declaration.span);
        let bare = missing.without(group.before.or(group.vendors));
        if missing.without(group.vendors).is_empty() {
            return None;
        }
        if bare.is_empty() {
            let message = format!("{} `{text}`, and goes by what stands beside it", drops(missing));
            let message = match missing.iter().count() {
                1 => message,
                _ => message.replace(", and goes by", ", and go by"),
            };
            let help = "all is well where that is meant".to_owned();
            return Some(self.finding(own.declaration.span, message, help)?.severity(Severity::Note));
        }
        let prefixed = format!("-webkit-{}", own.base);
        let meant = repaired(own.base, own.value).filter(|_| own.declaration.validity == Validity::Elsewhere);
        let help = match meant {
            Some(meant) => format!("did you mean `{meant}`?"),
            None => self.fallback_help(own, &prefixed, bare),
        };
        self.finding(own.declaration.span, format!("{} `{text}`", drops(bare)), help)
    }

    fn fallback_help(&self, own: &Read<'_>, prefixed: &str, bare: Engines) -> String {
        match bare.without(takers(prefixed, own.value)).is_empty() {
            true => format!("write `{prefixed}: {}` before it", own.value),
            false => "where it matters there, put before it what all take; `engines` under `[site]` says which browsers count".to_owned(),
        }
    }
}

/// "Firefox and Safari drop", "Safari drops"
fn drops(engines: Engines) -> String {
    does(engines, "drops", "drop")
}

/// "Firefox and Safari do", "Safari does"
fn does(engines: Engines, one: &str, many: &str) -> String {
    let names: Vec<&str> = engines.iter().map(|engine| engine.title()).collect();
    match names.as_slice() {
        [name] => format!("{name} {one}"),
        [all @ .., last] => format!("{} and {last} {many}", all.join(", ")),
        [] => String::new(),
    }
}
