//! What attributes of the platform's objects refuse by their types (WebIDL, "attributes"), and by what HTML says of them.

use super::machine::{Machine, Run};
use super::platform::Interface;
use super::platform_calls::attribute_type;
use super::value::{ObjectId, Value};
use crate::source::Span;

/// Attributes that take an element of some tags alone, with what is thrown for others (HTML, "HierarchyRequestError").
const OF_TAGS: &[(&str, &[&str], &str)] = &[
    ("body", &["body", "frameset"], "a `body`"),
    ("tHead", &["thead"], "a `thead`"),
    ("tFoot", &["tfoot"], "a `tfoot`"),
];

impl Machine<'_> {
    /// Throws where an attribute refuses what it is set to.
    pub(super) fn refused_attribute(
        &mut self,
        id: ObjectId,
        of: Interface,
        key: &str,
        value: &Value,
        span: Span,
    ) -> Run<()> {
        let Some((wanted, may_be_null)) = attribute_type(of, key) else { return Ok(()) };
        let is_nothing = matches!(value, Value::Undefined(_) | Value::Null(_));
        // `document.body` is told of what it is not.
        if is_nothing && may_be_null && key != "body" {
            return Ok(());
        }
        if let Some(refusal) = self.refusal(value, wanted) {
            if self.has_own_member(id, key) || self.may_be_added(of, key) {
                return Ok(());
            }
            let given = refusal.given.unwrap_or_else(|| self.named(value));
            let takes = if key == "valueAsDate" { "a `Date`, or `null`" } else { &refusal.takes };
            return Err(self.refused(&format!("{key} ="), given, takes, refusal.write.as_deref(), span));
        }
        let Some((_, tags, takes)) = OF_TAGS.iter().find(|(own, ..)| *own == key) else { return Ok(()) };
        let tag = self.node_of(value).map(|node| self.tag_of(node).to_string());
        match tag {
            Some(tag) if !tags.contains(&&*tag) => {
                Err(self.refused(&format!("{key} ="), tag, takes, None, span))
            }
            _ => Ok(()),
        }
    }

    /// Whether an object has been given a member of that name by itself, or by what it inherits from.
    fn has_own_member(&self, id: ObjectId, key: &str) -> bool {
        // What was set before is a member too, by which nothing is defined.
        let defines = self.text.contains(".definePropert");
        let has = |id: ObjectId| {
            let object = self.object(id);
            object.setters.iter().any(|(name, _)| &**name == key)
                || defines && object.members.contains_key(key)
        };
        has(id) || self.object(id).parent.is_some_and(has)
    }
}
