//! Which stretches of which strokes come near a place: boxes around a few segments each, in a tree.

use glam::Vec3;

/// A box along the axes, in mm.
#[derive(Debug, Clone, Copy)]
pub struct Bounds {
    /// Least corner.
    pub low: Vec3,
    /// Greatest corner.
    pub high: Vec3,
}

impl Bounds {
    /// Around nothing.
    pub const EMPTY: Bounds = Bounds { low: Vec3::INFINITY, high: Vec3::NEG_INFINITY };

    /// With a point.
    pub fn with(self, p: Vec3) -> Bounds {
        Bounds { low: self.low.min(p), high: self.high.max(p) }
    }

    /// With another box.
    pub fn and(self, other: Bounds) -> Bounds {
        Bounds { low: self.low.min(other.low), high: self.high.max(other.high) }
    }

    /// Grown to all sides.
    pub fn grown(self, by: f32) -> Bounds {
        Bounds { low: self.low - by, high: self.high + by }
    }

    /// Whether the two have a place in common.
    pub fn meets(&self, other: &Bounds) -> bool {
        self.low.cmple(other.high).all() && other.low.cmple(self.high).all()
    }
}

/// Boxes that fill a leaf.
const LEAF: usize = 8;

/// Boxes in a tree of halves; the left half of a node follows it, the right half is where `right` says.
#[derive(Debug)]
pub struct Tree {
    nodes: Vec<Node>,
    /// Numbers of the boxes, leaf by leaf.
    order: Vec<u32>,
    boxes: Vec<Bounds>,
}

#[derive(Debug)]
struct Node {
    bounds: Bounds,
    /// Of a leaf: its boxes in `order`.
    leaf: Option<std::ops::Range<u32>>,
    right: u32,
}

impl Tree {
    /// Of some boxes.
    pub fn build(boxes: Vec<Bounds>) -> Tree {
        let mut tree = Tree { nodes: vec![], order: (0..boxes.len() as u32).collect(), boxes };
        if !tree.boxes.is_empty() {
            let mut order = std::mem::take(&mut tree.order);
            let all = order.len();
            tree.split(&mut order, 0, all);
            tree.order = order;
        }
        tree
    }

    fn split(&mut self, order: &mut [u32], first: usize, last: usize) {
        let part = &mut order[first..last];
        let bounds = part.iter().fold(Bounds::EMPTY, |all, i| all.and(self.boxes[*i as usize]));
        let me = self.nodes.len();
        let leaf = (part.len() <= LEAF).then_some(first as u32..last as u32);
        let is_leaf = leaf.is_some();
        self.nodes.push(Node { bounds, leaf, right: 0 });
        if is_leaf {
            return;
        }
        let size = bounds.high - bounds.low;
        let axis = if size.x >= size.y && size.x >= size.z { 0 } else { 1 + usize::from(size.z > size.y) };
        let middle = |i: &u32| self.boxes[*i as usize].low[axis] + self.boxes[*i as usize].high[axis];
        let half = part.len() / 2;
        part.select_nth_unstable_by(half, |a, b| middle(a).total_cmp(&middle(b)).then(a.cmp(b)));
        self.split(order, first, first + half);
        self.nodes[me].right = self.nodes.len() as u32;
        self.split(order, first + half, last);
    }

    /// The numbers of the boxes that meet one, in order.
    pub fn meeting(&self, bounds: &Bounds, out: &mut Vec<u32>) {
        out.clear();
        if self.nodes.is_empty() {
            return;
        }
        let mut waiting = vec![0u32];
        while let Some(i) = waiting.pop() {
            let node = &self.nodes[i as usize];
            if !node.bounds.meets(bounds) {
                continue;
            }
            match &node.leaf {
                Some(range) => {
                    let all = &self.order[range.start as usize..range.end as usize];
                    out.extend(all.iter().filter(|b| self.boxes[**b as usize].meets(bounds)));
                }
                None => waiting.extend([i + 1, node.right]),
            }
        }
        out.sort_unstable();
    }
}
