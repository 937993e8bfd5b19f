//! What something is, as far as the script that makes it tells, and what is left of that after what scripts may do to
//! it.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::handled::Handling;
use super::{ClassId, FunctionId};

/// The members of an object.
pub type SketchedMembers = Vec<(Arc<str>, Sketch)>;

/// What something is, as far as the script that makes it tells.
#[derive(Clone, Debug, PartialEq)]
pub enum Sketch {
    /// Nobody can tell.
    Unknown,
    /// It may not be there at all: a member that is set somewhere, of this object or another.
    Perhaps,
    /// A text, a number or a boolean, by its interface.
    Primitive(&'static str),
    /// A text that is known.
    Text(Arc<str>),
    /// A number that is known.
    Number(f64),
    /// A boolean that is known.
    Boolean(bool),
    /// `undefined`.
    Nothing,
    /// `null`.
    Null,
    /// A promise.
    Promise,
    /// A list; what is in it, where that is known.
    List(Option<Vec<Sketch>>),
    /// An object that has these members, and no others; by the number of the variable that has it.
    Object(SketchedMembers, Option<u32>),
    /// The object that a variable has, by its number.
    Same(u32),
    /// What a function is called on.
    Receiver,
    /// A function.
    Function {
        /// Its own members; none where it may have others.
        members: Option<SketchedMembers>,
        /// What calls of it come to.
        result: Box<Sketch>,
        /// What it makes with `new`; nothing where it cannot be called so.
        makes: Box<Sketch>,
        /// What it does: the number of the program and that of the function there.
        code: (u32, FunctionId),
    },
    /// A class.
    Class {
        /// Its own members.
        members: SketchedMembers,
        /// What is one of it.
        makes: Box<Sketch>,
        /// Where it is declared: the number of the program and that of the class there.
        code: (u32, ClassId),
    },
    /// What a lookup in the document comes to, or in an element: the method, which argument of the call it is given, and
    /// which is the element, where there is one.
    LookUp {
        /// The method.
        method: Arc<str>,
        /// The number of the argument that is looked up.
        argument: usize,
        /// The number of the argument that it is looked up in.
        within: Option<usize>,
    },
    /// The element of the document that a script looks up while it runs from top to bottom.
    Element {
        /// The method.
        method: Arc<str>,
        /// What it is given.
        given: Arc<str>,
        /// How far the page is parsed by then, in bytes, as far as that is known: none where it is through.
        until: Option<Option<u32>>,
    },
    /// What a constructor of the platform makes, with the members that it is given.
    Instance(Arc<str>, SketchedMembers),
    /// What a global of the platform, or a member of a member of it, comes to, or a call of that.
    OfPlatform {
        /// The names that lead to it.
        path: Vec<Arc<str>>,
        /// Whether it is called.
        is_called: bool,
        /// The member of what the call comes to, where one is asked for.
        then: Option<Arc<str>>,
    },
}

impl Sketch {
    pub(super) const TEXT: Sketch = Sketch::Primitive("String");
    pub(super) const NUMBER: Sketch = Sketch::Primitive("Number");
    pub(super) const BOOLEAN: Sketch = Sketch::Primitive("Boolean");

    /// The interface of a text, a number or a boolean.
    pub(super) fn primitive(&self) -> Option<&'static str> {
        match self {
            Sketch::Primitive(of) => Some(of),
            Sketch::Text(_) => Some("String"),
            Sketch::Number(_) => Some("Number"),
            Sketch::Boolean(_) => Some("Boolean"),
            _ => None,
        }
    }

    /// The same where nobody tells which text, number or boolean it is.
    pub(super) fn without_value(self) -> Sketch {
        match (self.primitive(), self) {
            (Some(of), _) => Sketch::Primitive(of),
            (None, Sketch::Element { .. }) => Sketch::Unknown,
            (None, other) => other,
        }
    }

    /// The same of a script that runs when so much of the page is parsed.
    pub fn looked_up_by(self, parsed: Option<u32>) -> Sketch {
        match self {
            Sketch::Element { method, given, .. } => Sketch::Element { method, given, until: Some(parsed) },
            Sketch::Object(members, of) => {
                let each = members.into_iter().map(|(name, own)| (name, own.looked_up_by(parsed)));
                Sketch::Object(each.collect(), of)
            }
            other => other,
        }
    }

    fn members(&mut self) -> Option<&mut SketchedMembers> {
        match self {
            Sketch::Object(members, _) | Sketch::Class { members, .. } | Sketch::Instance(_, members) => {
                Some(members)
            }
            Sketch::Function { members, .. } => members.as_mut(),
            _ => None,
        }
    }

    /// A member, by its name.
    pub(super) fn member(&self, name: &str) -> Option<&Sketch> {
        let members = match self {
            Sketch::Object(members, _) | Sketch::Class { members, .. } | Sketch::Instance(_, members) => {
                members
            }
            Sketch::Function { members, .. } => members.as_ref()?,
            _ => return None,
        };
        members.iter().find(|(own, _)| **own == *name).map(|(_, member)| member)
    }

    fn makes(&mut self) -> Option<&mut Sketch> {
        match self {
            Sketch::Function { makes, .. } | Sketch::Class { makes, .. } => Some(makes),
            _ => None,
        }
    }

    /// A member of a member, by the names that lead to it.
    fn at(&mut self, path: &[Arc<str>]) -> Option<&mut Sketch> {
        let mut at = self;
        for name in path {
            at = match (**name == *"prototype", at) {
                (true, Sketch::Function { makes, .. } | Sketch::Class { makes, .. }) => makes,
                (_, at) => at.members()?.iter_mut().find(|(own, _)| own == name).map(|(_, member)| member)?,
            };
        }
        Some(at)
    }

    /// Either of two.
    pub(super) fn or(self, other: Sketch) -> Sketch {
        match (self, other) {
            (one, other) if one == other => one,
            (Sketch::List(_), Sketch::List(_)) => Sketch::List(None),
            (one, other) if one.primitive().is_some() && one.primitive() == other.primitive() => {
                one.without_value()
            }
            _ => Sketch::Unknown,
        }
    }

    /// A member is set, by the names that lead to it.
    pub(super) fn set(&mut self, path: &[Arc<str>], value: Sketch, is_certain: bool) {
        let Some((last, before)) = path.split_last() else {
            *self = Sketch::Unknown;
            return;
        };
        let Some(of) = self.at(before) else { return };
        if let (true, Some(makes)) = (**last == *"prototype", of.makes()) {
            // What has the methods of all that it makes.
            *makes = match (&makes, value) {
                (Sketch::Object(own, _), Sketch::Object(methods, _)) if own.is_empty() && is_certain => {
                    Sketch::Object(methods, None)
                }
                _ => Sketch::Unknown,
            };
            return;
        }
        if let Sketch::List(_) = of {
            // `list.length = 0`
            *of = Sketch::List(None);
        }
        let Some(members) = of.members() else { return };
        match members.iter_mut().find(|(own, _)| own == last) {
            Some((_, known)) => *known = std::mem::replace(known, Sketch::Unknown).or(value),
            None => members.push((Arc::clone(last), if is_certain { value } else { Sketch::Perhaps })),
        }
    }

    /// It is given to something that nobody looked into, which may set members of it.
    fn give(&mut self, path: &[Arc<str>]) {
        let Some(given) = self.at(path) else { return };
        match given {
            own if own.primitive().is_some() => {}
            Sketch::Nothing
            | Sketch::Null
            | Sketch::Promise
            | Sketch::Element { .. }
            | Sketch::OfPlatform { .. } => {}
            Sketch::List(_) => *given = Sketch::List(None),
            // It is called, and is what it was.
            Sketch::Function { members, makes, .. } => (*members, **makes) = (None, Sketch::Unknown),
            _ => *given = Sketch::Unknown,
        }
    }

    /// The same where nobody tells what a function is called on.
    pub(super) fn without_receiver(self) -> Sketch {
        if self == Sketch::Receiver { Sketch::Unknown } else { self }
    }

    /// What is left of it where members of any name may be set.
    pub(super) fn without_members(self) -> Sketch {
        match self {
            Sketch::Object(..) | Sketch::Class { .. } | Sketch::Instance(..) => Sketch::Unknown,
            Sketch::List(_) => Sketch::List(None),
            Sketch::Function { result, code, .. } => Sketch::Function {
                members: None,
                result: Box::new(result.without_members()),
                makes: Box::new(Sketch::Unknown),
                code,
            },
            other => other,
        }
    }

    /// What is left of it where lists may be changed.
    pub(super) fn without_items(self) -> Sketch {
        match self {
            Sketch::List(_) => Sketch::List(None),
            other => other.each(&|inner| inner.without_items()),
        }
    }

    /// What is left of it after what is done to it by its name. What members are set to is asked for.
    pub(super) fn handled(
        mut self,
        handling: &Handling,
        value: impl Fn(super::ExpressionId) -> (Sketch, bool),
    ) -> Sketch {
        let mut sets: Vec<_> = handling.set.iter().collect();
        sets.sort_by_key(|(path, _)| path.len());
        for (path, target) in sets {
            let (value, is_certain) = value(*target);
            self.set(path, value, is_certain);
        }
        handling.given.iter().for_each(|path| self.give(path));
        for path in &handling.lists {
            if let Some(list @ Sketch::List(_)) = self.at(path) {
                *list = Sketch::List(None);
            }
        }
        self
    }

    /// Each member of it, changed.
    fn each(self, change: &dyn Fn(Sketch) -> Sketch) -> Sketch {
        let all = |members: SketchedMembers| {
            members.into_iter().map(|(name, member)| (name, change(member))).collect::<SketchedMembers>()
        };
        match self {
            Sketch::Object(members, of) => Sketch::Object(all(members), of),
            Sketch::Instance(of, members) => Sketch::Instance(of, all(members)),
            Sketch::List(items) => Sketch::List(items.map(|items| items.into_iter().map(change).collect())),
            Sketch::Function { members, result, makes, code } => Sketch::Function {
                members: members.map(all),
                result: Box::new(change(*result)),
                makes: Box::new(change(*makes)),
                code,
            },
            Sketch::Class { members, makes, code } => {
                Sketch::Class { members: all(members), makes: Box::new(change(*makes)), code }
            }
            other => other,
        }
    }

    /// The same where members by any of some names may have been set to something else.
    pub(super) fn with_sets(self, names: &FxHashSet<Arc<str>>) -> Sketch {
        let mut sketch = self.each(&|inner| inner.with_sets(names));
        let members = sketch.members().into_iter().flatten();
        members.filter(|(name, _)| names.contains(name)).for_each(|(_, own)| *own = Sketch::Unknown);
        if let (true, Some(makes)) = (names.contains("prototype"), sketch.makes()) {
            *makes = Sketch::Unknown;
        }
        sketch
    }

    /// The names of its members, and of theirs.
    pub(super) fn names(&self, found: &mut FxHashSet<Arc<str>>) {
        let mut all = |members: &SketchedMembers| {
            for (name, member) in members {
                found.insert(Arc::clone(name));
                member.names(found);
            }
        };
        match self {
            Sketch::Object(members, _) | Sketch::Instance(_, members) => all(members),
            Sketch::List(Some(items)) => items.iter().for_each(|item| item.names(found)),
            Sketch::Function { members, makes, .. } => {
                all(members.as_ref().unwrap_or(&Vec::new()));
                makes.names(found);
            }
            Sketch::Class { members, makes, .. } => {
                all(members);
                makes.names(found);
            }
            _ => {}
        }
    }

    /// How many values it tells of.
    pub(super) fn size(&self) -> u32 {
        let all = |members: &SketchedMembers| members.iter().map(|(_, member)| member.size()).sum::<u32>();
        1 + match self {
            Sketch::Object(members, _) | Sketch::Instance(_, members) => all(members),
            Sketch::List(Some(items)) => items.iter().map(Sketch::size).sum(),
            Sketch::Function { members, result, makes, .. } => {
                members.as_ref().map_or(0, all) + result.size() + makes.size()
            }
            Sketch::Class { members, makes, .. } => all(members) + makes.size(),
            _ => 0,
        }
    }

    /// One that several scripts make together.
    pub(super) fn together(self, other: Sketch) -> Sketch {
        match (self, other) {
            (Sketch::Object(mut members, of), Sketch::Object(others, _)) => {
                for (name, member) in others {
                    match members.iter_mut().find(|(own, _)| *own == name) {
                        Some((_, own)) => *own = std::mem::replace(own, Sketch::Unknown).either(member),
                        None => members.push((name, member)),
                    }
                }
                Sketch::Object(members, of)
            }
            _ => Sketch::Unknown,
        }
    }

    /// Either of two, or both together: what neither has is not there.
    fn either(self, other: Sketch) -> Sketch {
        match (self, other) {
            (Sketch::Object(members, _), Sketch::Object(others, _)) => {
                let mut others: FxHashMap<Arc<str>, Sketch> = others.into_iter().collect();
                let mut both = SketchedMembers::new();
                for (name, member) in members {
                    let member = others.remove(&name).map_or(Sketch::Perhaps, |same| member.or(same));
                    both.push((name, member));
                }
                both.extend(others.into_keys().map(|name| (name, Sketch::Perhaps)));
                // In one order each time.
                both.sort_by(|(a, _), (b, _)| a.cmp(b));
                Sketch::Object(both, None)
            }
            (one, other) => one.or(other),
        }
    }
}
