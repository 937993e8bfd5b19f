//! The strongly connected components of a graph (Tarjan, "Depth-first search and linear graph algorithms").

/// What is known of a node on the way through the graph.
#[derive(Clone, Copy, Default)]
struct Mark {
    /// When the node was met first, from 1 on.
    met: usize,
    /// The earliest node that is reached from it and may be in its component.
    lowest: usize,
    is_open: bool,
}

/// The components of a graph, each with its nodes in their order; a component comes behind all that it leads to. Takes
/// as long as the graph has nodes and edges, however deep it is.
pub(super) fn components(edges: &[Vec<usize>]) -> Vec<Vec<usize>> {
    let mut marks = vec![Mark::default(); edges.len()];
    let (mut open, mut found, mut met) = (Vec::new(), Vec::new(), 0);
    // Nodes that are gone through, each with its next edge.
    let mut way: Vec<(usize, usize)> = Vec::new();
    for start in 0..edges.len() {
        if marks[start].met == 0 {
            way.push((start, 0));
        }
        while let Some((node, edge)) = way.pop() {
            if edge == 0 {
                met += 1;
                marks[node] = Mark { met, lowest: met, is_open: true };
                open.push(node);
            } else {
                let lowest = marks[edges[node][edge - 1]];
                if lowest.is_open {
                    marks[node].lowest = marks[node].lowest.min(lowest.lowest);
                }
            }
            let next = edges[node].get(edge..).unwrap_or_default().iter().position(|to| {
                let to = marks[*to];
                to.met == 0 || to.is_open
            });
            if let Some(offset) = next {
                let at = edge + offset;
                let to = edges[node][at];
                way.push((node, at + 1));
                if marks[to].met == 0 {
                    way.push((to, 0));
                }
                continue;
            }
            if marks[node].lowest == marks[node].met {
                let from = open.iter().rposition(|own| *own == node).unwrap_or_default();
                let mut component = open.split_off(from);
                component.iter().for_each(|own| marks[*own].is_open = false);
                component.sort_unstable();
                found.push(component);
            }
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::components;

    #[test]
    fn what_leads_to_itself_stays_together_and_comes_behind_what_it_leads_to() {
        for (edges, expected) in [
            (vec![], vec![]),
            (vec![vec![1], vec![2], vec![]], vec![vec![2], vec![1], vec![0]]),
            (vec![vec![1], vec![0], vec![0]], vec![vec![0, 1], vec![2]]),
            (vec![vec![0]], vec![vec![0]]),
            (vec![vec![1, 2], vec![3], vec![3, 0], vec![]], vec![vec![3], vec![1], vec![0, 2]]),
            (vec![vec![1], vec![2], vec![3, 0], vec![4], vec![3]], vec![vec![3, 4], vec![0, 1, 2]]),
        ] {
            assert_eq!(components(&edges), expected, "{edges:?}");
        }
    }

    #[test]
    fn a_long_chain_is_no_deep_call() {
        let edges: Vec<Vec<usize>> =
            (0..100_000).map(|at| if at < 99_999 { vec![at + 1] } else { vec![0] }).collect();
        assert_eq!(components(&edges).len(), 1);
    }
}
