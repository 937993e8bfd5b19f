//! Objects that an evaluation makes, and what they are.

use rustc_hash::FxHashMap;

use super::machine::Machine;
use super::value::{Absence, AbsenceId, Kind, Members, Object, ObjectId, Promise, Value};

impl Machine<'_> {
    pub(super) fn make(&mut self, kind: Kind) -> ObjectId {
        self.objects.push(Object {
            setters: Vec::new(),
            marks: FxHashMap::default(),
            kind,
            members: Members::default(),
            is_open: false,
            is_bare: false,
            is_frozen: false,
            parent: None,
            born: self.region,
        });
        ObjectId(self.objects.len() as u32 - 1)
    }

    pub(super) fn made(&mut self, kind: Kind) -> Value {
        Value::Object(self.make(kind))
    }

    pub(super) fn promise(&mut self, promise: Promise) -> ObjectId {
        self.make(Kind::Promise(promise))
    }

    pub(super) fn object(&self, id: ObjectId) -> &Object {
        &self.objects[id.0 as usize]
    }

    pub(super) fn object_mut(&mut self, id: ObjectId) -> &mut Object {
        &mut self.objects[id.0 as usize]
    }

    /// What an object is, with what is in it, which takes the longer the more that is.
    pub(super) fn copied_kind(&self, id: ObjectId) -> Kind {
        let kind = &self.object(id).kind;
        if let Kind::Array(items) | Kind::List(_, items) | Kind::Query(Some(items), _) = kind {
            self.charge(items.len() / 8);
        }
        kind.clone()
    }

    pub(super) fn kind(&self, value: &Value) -> Option<&Kind> {
        match value {
            Value::Object(id) => Some(&self.object(*id).kind),
            _ => None,
        }
    }

    pub(super) fn absent(&mut self, mut absence: Absence) -> AbsenceId {
        if let Absence::Element { span, .. } = &mut absence {
            *span = self.codes.here(*span);
        }
        self.absences.push(absence);
        AbsenceId(self.absences.len() as u32 - 1)
    }
}
