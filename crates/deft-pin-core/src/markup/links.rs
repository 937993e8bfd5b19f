//! The links between the nodes of a tree, on the bare arena.

use html5ever::interface::NodeOrText;
use html5ever::tendril::StrTendril;

use super::document::{Node, NodeData, NodeId};

/// A node that is linked to none.
pub(super) fn node(data: NodeData) -> Node {
    Node { data, parent: None, previous: None, next: None, first_child: None, last_child: None }
}

/// Takes a node out of its place.
pub(super) fn detach(nodes: &mut [Node], id: NodeId) {
    let Node { parent, previous, next, .. } = nodes[id.index()];
    if let Some(previous) = previous {
        nodes[previous.index()].next = next;
    } else if let Some(parent) = parent {
        nodes[parent.index()].first_child = next;
    }
    if let Some(next) = next {
        nodes[next.index()].previous = previous;
    } else if let Some(parent) = parent {
        nodes[parent.index()].last_child = previous;
    }
    let node = &mut nodes[id.index()];
    (node.parent, node.previous, node.next) = (None, None, None);
}

/// Puts a node before another, or last into a parent.
pub(super) fn insert(nodes: &mut [Node], parent: NodeId, before: Option<NodeId>, id: NodeId) {
    detach(nodes, id);
    let previous = match before {
        Some(next) => nodes[next.index()].previous,
        None => nodes[parent.index()].last_child,
    };
    let node = &mut nodes[id.index()];
    (node.parent, node.previous, node.next) = (Some(parent), previous, before);
    match previous {
        Some(previous) => nodes[previous.index()].next = Some(id),
        None => nodes[parent.index()].first_child = Some(id),
    }
    match before {
        Some(next) => nodes[next.index()].previous = Some(id),
        None => nodes[parent.index()].last_child = Some(id),
    }
}

/// Puts a node or text in place; text joins a text node right before it.
pub(super) fn place(
    nodes: &mut Vec<Node>,
    parent: NodeId,
    before: Option<NodeId>,
    child: NodeOrText<NodeId>,
) {
    match child {
        NodeOrText::AppendNode(id) => insert(nodes, parent, before, id),
        NodeOrText::AppendText(text) => {
            let previous = match before {
                Some(next) => nodes[next.index()].previous,
                None => nodes[parent.index()].last_child,
            };
            if !joined(nodes, previous, &text) {
                nodes.push(node(NodeData::Text(text)));
                let id = NodeId::from_index(nodes.len() - 1);
                insert(nodes, parent, before, id);
            }
        }
    }
}

fn joined(nodes: &mut [Node], previous: Option<NodeId>, text: &StrTendril) -> bool {
    if let Some(previous) = previous
        && let NodeData::Text(there) = &mut nodes[previous.index()].data
    {
        there.push_tendril(text);
        return true;
    }
    false
}
