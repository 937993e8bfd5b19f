//! Prototypes of the platform's interfaces, and what scripts give to all of an interface by them (ECMA-262, "Properties of
//! the Array Prototype Object" and the like).

use std::sync::Arc;

use super::machine::Machine;
use super::platform::{self, Interface};
use super::value::{Kind, ObjectId, Value};

/// Before the name of an interface, where its prototype is kept.
const PLACE: &str = "#prototype of ";
/// Where a prototype says of which interface it is.
const OF: &str = "#of";

impl Machine<'_> {
    /// The prototype of an interface: what a script gives it is kept with it.
    pub(super) fn prototype_of_interface(&mut self, of: Interface) -> Value {
        let place: Arc<str> = Arc::from(format!("{PLACE}{of}"));
        if let Some(known) = self.globals.get(&place) {
            return known.clone();
        }
        let region = std::mem::replace(&mut self.region, 0);
        let made = self.make(Kind::Plain);
        self.region = region;
        let object = self.object_mut(made);
        object.is_open = true;
        object.members.insert(Arc::from(OF), Value::text(of));
        self.globals.insert(place, Value::Object(made));
        self.has_prototypes = true;
        Value::Object(made)
    }

    /// A function that a prototype of the platform has by itself; none of other objects.
    pub(super) fn member_of_prototype(&mut self, id: ObjectId, key: &Arc<str>) -> Option<Value> {
        let Some(Value::Text(of)) = self.object(id).members.get(OF) else { return None };
        let of = platform::interface(of)?;
        let is_function = platform::member(of, key).is_some_and(|own| own.is_function);
        is_function.then(|| self.made(Kind::Native(of, Arc::clone(key))))
    }

    /// A member that the script has given to all of an interface, or of one that it extends.
    pub(super) fn given_to_all(&self, of: Interface, key: &str) -> Option<Value> {
        if !self.has_prototypes || key.starts_with('#') {
            return None;
        }
        let line = std::iter::successors(Some(of), |of| platform::parent(of)).chain(["Object"]);
        let given = line.take(20).find_map(|of| match self.globals.get(&*format!("{PLACE}{of}")) {
            Some(Value::Object(id)) => self.object(*id).members.get(key).cloned(),
            _ => None,
        })?;
        // A getter is called on what it is asked of, which is not known here.
        let is_getter = matches!(self.kind(&given), Some(Kind::Getter(_)));
        Some(if is_getter { Value::OPEN } else { given })
    }
}
