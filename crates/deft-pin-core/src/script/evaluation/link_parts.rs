//! The parts of the address that a link goes to (HTML, "HTMLHyperlinkElementUtils"; URL, "API").

use super::machine::Machine;
use super::piece::SitePart;
use super::value::{Node, Value};
use crate::code::site_host;

impl Machine<'_> {
    /// A part of the address of a link; none of what is no link, and where that cannot be told.
    pub(super) fn link_part(&mut self, node: Node, key: &str) -> Option<Value> {
        const PARTS: &[&str] = &["hash", "host", "hostname", "href", "origin", "pathname", "search"];
        if !PARTS.contains(&key) || !matches!(&*self.tag_of(node), "a" | "area") {
            return None;
        }
        let address = match self.attribute_at_present(node, "href") {
            Some(Value::Text(address)) => address,
            Some(Value::Null(_)) => return Some(Value::text("")),
            _ => return None,
        };
        if key == "hash" {
            let hash = address.find('#').map_or("", |at| &address[at..]);
            return Some(Value::text(if hash.len() > 1 { hash } else { "" }));
        }
        let has_base = |this: &Self| {
            this.world.document().elements().any(|element| &*element.data().name.local == "base")
        };
        if self.once("#base", has_base) {
            return None;
        }
        let mut here = site_host();
        here.set_path(self.world.path()?);
        let target = here.join(&address).ok()?;
        let part = match key {
            "pathname" => target.path(),
            "search" => {
                let query = target.query().filter(|query| !query.is_empty());
                return Some(Value::text(&query.map(|query| format!("?{query}")).unwrap_or_default()));
            }
            // The query of the page stays.
            "href" if (address.is_empty() || address.starts_with('#')) && !self.is_first() => return None,
            "href" if target.host() != here.host() => target.as_str(),
            "href" => return Some(Self::address_on_site(&target[url::Position::BeforePath..])),
            _ if target.host() == here.host() => {
                return SitePart::of(key).map(SitePart::value);
            }
            _ => return None,
        };
        Some(Value::text(part))
    }
}
