//! Builds the tree: binned surface area heuristic (Wald 2007), both halves side by side where they are large.

use glam::{Vec3, Vec3A};
use rayon::prelude::*;

use super::Node;
use crate::task::Cancel;

const BINS: usize = 16;
const LEAF: usize = 4;

pub(super) struct Item {
    min: Vec3A,
    max: Vec3A,
    pub(super) index: u32,
}

impl Item {
    pub(super) fn new(index: u32, t: &[Vec3; 3]) -> Self {
        let [a, b, c] = t.map(Vec3A::from);
        Self { index, min: a.min(b).min(c), max: a.max(b).max(c) }
    }

    /// Twice the middle of its box: all that is asked is on which side of another one it lies.
    #[inline(always)]
    fn middle(&self) -> Vec3A {
        self.min + self.max
    }
}

#[inline(always)]
fn half_area(min: Vec3A, max: Vec3A) -> f32 {
    let d = (max - min).max(Vec3A::ZERO);
    d.x * d.y + d.y * d.z + d.z * d.x
}

/// The box around some items and the box around their middles.
#[derive(Clone, Copy)]
pub(super) struct Bounds {
    min: Vec3A,
    max: Vec3A,
    first: Vec3A,
    last: Vec3A,
}

const FAR: Vec3A = Vec3A::splat(f32::MAX);
const NEAR: Vec3A = Vec3A::splat(f32::MIN);

impl Bounds {
    const NONE: Self = Self { min: FAR, max: NEAR, first: FAR, last: NEAR };

    #[inline(always)]
    fn and(self, i: &Item) -> Self {
        let middle = i.middle();
        Self {
            min: self.min.min(i.min),
            max: self.max.max(i.max),
            first: self.first.min(middle),
            last: self.last.max(middle),
        }
    }

    fn joined(self, other: Self) -> Self {
        Self {
            min: self.min.min(other.min),
            max: self.max.max(other.max),
            first: self.first.min(other.first),
            last: self.last.max(other.last),
        }
    }

    /// Of any number of items, by all threads.
    pub(super) fn of_all(items: &[Item]) -> Self {
        items.par_chunks(MANY).map(Self::of).reduce(|| Self::NONE, Self::joined)
    }

    fn of(items: &[Item]) -> Self {
        items.iter().fold(Self::NONE, Self::and)
    }
}

const EMPTY: Node = Node { min: [0.0; 3], first: 0, max: [0.0; 3], count: 0, axis: 0 };

/// Above this number of triangles both halves are built side by side.
const SHARED: usize = 4096;

/// Above this number of triangles their bins are filled by all threads, so many in one go.
const MANY: usize = 1 << 15;

/// The nodes over some items within such bounds, the root first. The same for every number of threads: only who builds a half depends on it. Left unfinished when
/// somebody asks to stop.
pub(super) fn tree(items: &mut [Item], bounds: &Bounds, offset: usize, depth: usize, cancel: &Cancel) -> Vec<Node> {
    let mut nodes = vec![EMPTY];
    if cancel.is_cancelled() {
        return nodes;
    }
    if items.len() <= SHARED || depth >= DEEP {
        if !items.is_empty() {
            split(&mut nodes, 0, items, bounds, offset, depth);
        }
        return nodes;
    }
    let cut = best_cut(items, bounds);
    // Among millions each of these goes takes a noticeable while.
    if cancel.is_cancelled() {
        return nodes;
    }
    let (axis, (left, within)) = match cut {
        Some(cut) => (cut.0, part(items, cut)),
        None => (0, halved(items)),
    };
    nodes[0] = Node { min: bounds.min.into(), first: 1, max: bounds.max.into(), count: 0, axis: axis as u16 };
    let (a, b) = items.split_at_mut(left);
    let (l, r) = rayon::join(
        || tree(a, &within[0], offset, depth + 1, cancel),
        || tree(b, &within[1], offset + left, depth + 1, cancel),
    );
    // Both roots stand side by side, and what is below them moves up behind them.
    let moved = |n: &Node, by: usize| {
        let inner = n.count == 0 && n.first > 0;
        Node { first: if inner { n.first + by as u32 } else { n.first }, ..*n }
    };
    let (by_left, by_right) = (2, l.len() + 1);
    nodes.reserve(l.len() + r.len());
    nodes.extend([moved(&l[0], by_left), moved(&r[0], by_right)]);
    nodes.extend(l[1..].iter().map(|n| moved(n, by_left)));
    nodes.extend(r[1..].iter().map(|n| moved(n, by_right)));
    nodes
}

/// A plane between items: its axis, and twice where it stands on it.
type Cut = (usize, f32);

/// How many items lie in the first half, and the bounds of both.
type Halves = (usize, [Bounds; 2]);

/// Brings the items before a cut to the front: never all or none.
fn part(items: &mut [Item], (axis, position): Cut) -> Halves {
    let (mut left, mut within) = (0, [Bounds::NONE; 2]);
    for i in 0..items.len() {
        if items[i].middle()[axis] < position {
            within[0] = within[0].and(&items[i]);
            items.swap(i, left);
            left += 1;
        } else {
            within[1] = within[1].and(&items[i]);
        }
    }
    if left == 0 || left == items.len() { halved(items) } else { (left, within) }
}

/// Half of the items each, as they come.
fn halved(items: &[Item]) -> Halves {
    let (a, b) = items.split_at(items.len() / 2);
    (a.len(), [Bounds::of(a), Bounds::of(b)])
}

/// Below this depth triangles are halved by number, so that no mesh, however contrived, makes a tree deeper than the walk's stack.
const DEEP: usize = 36;

fn split(nodes: &mut Vec<Node>, at: usize, items: &mut [Item], bounds: &Bounds, offset: usize, depth: usize) {
    nodes[at].min = bounds.min.into();
    nodes[at].max = bounds.max.into();
    if depth >= DEEP && items.len() > LEAF {
        return halve(nodes, at, items, offset, 0, halved(items), depth);
    }
    let cut = if items.len() <= LEAF { None } else { best_cut(items, bounds) };
    let Some((axis, position)) = cut else {
        if items.len() > usize::from(u16::MAX) {
            // Thousands of triangles in one spot: halve them anyhow, a leaf must stay small.
            return halve(nodes, at, items, offset, 0, halved(items), depth);
        }
        nodes[at].first = offset as u32;
        nodes[at].count = items.len() as u16;
        return;
    };
    let halves = part(items, (axis, position));
    halve(nodes, at, items, offset, axis, halves, depth);
}

fn halve(
    nodes: &mut Vec<Node>,
    at: usize,
    items: &mut [Item],
    offset: usize,
    axis: usize,
    (left, within): Halves,
    depth: usize,
) {
    let first = nodes.len();
    nodes[at].first = first as u32;
    nodes[at].axis = axis as u16;
    nodes.extend([EMPTY, EMPTY]);
    let (a, b) = items.split_at_mut(left);
    split(nodes, first, a, &within[0], offset, depth + 1);
    split(nodes, first + 1, b, &within[1], offset + left, depth + 1);
}

/// What lies in a bin: its box, and how many items.
type Bin = (Vec3A, Vec3A, usize);
/// The bins along each axis.
type Bins = [[Bin; BINS]; 3];
const EMPTY_BINS: Bins = [[(FAR, NEAR, 0); BINS]; 3];

fn joined(mut a: Bins, b: Bins) -> Bins {
    for (a, b) in a.as_flattened_mut().iter_mut().zip(b.as_flattened()) {
        *a = (a.0.min(b.0), a.1.max(b.1), a.2 + b.2);
    }
    a
}

/// The plane with the least expected cost, or none when a leaf is cheaper. All axes are binned in one go over the items.
fn best_cut(items: &[Item], b: &Bounds) -> Option<Cut> {
    let span = b.last - b.first;
    let usable = span.cmpgt(Vec3A::ZERO);
    let scale = Vec3A::select(usable, Vec3A::splat(BINS as f32) / span, Vec3A::ZERO);
    let binned = |items: &[Item]| {
        let mut bins = EMPTY_BINS;
        for i in items {
            let at = ((i.middle() - b.first) * scale).to_array();
            for (bins, at) in bins.iter_mut().zip(at) {
                let bin = &mut bins[(at as usize).min(BINS - 1)];
                *bin = (bin.0.min(i.min), bin.1.max(i.max), bin.2 + 1);
            }
        }
        bins
    };
    let bins = if items.len() > MANY {
        items.par_chunks(MANY).map(binned).reduce(|| EMPTY_BINS, joined)
    } else {
        binned(items)
    };
    let mut best: Option<(f32, usize, f32)> = None;
    for axis in (0..3).filter(|a| usable.test(*a)) {
        let bins = &bins[axis];
        let mut right = [0.0f32; BINS];
        let (mut lo, mut hi, mut n) = (FAR, NEAR, 0);
        for k in (1..BINS).rev() {
            (lo, hi, n) = (lo.min(bins[k].0), hi.max(bins[k].1), n + bins[k].2);
            right[k] = half_area(lo, hi) * n as f32;
        }
        let (mut lo, mut hi, mut n) = (FAR, NEAR, 0);
        for k in 0..BINS - 1 {
            (lo, hi, n) = (lo.min(bins[k].0), hi.max(bins[k].1), n + bins[k].2);
            if n == 0 || n == items.len() {
                continue;
            }
            let cost = half_area(lo, hi) * n as f32 + right[k + 1];
            if best.is_none_or(|b| cost < b.0) {
                best = Some((cost, axis, b.first[axis] + span[axis] * (k + 1) as f32 / BINS as f32));
            }
        }
    }
    let whole = half_area(b.min, b.max);
    best.filter(|b| items.len() > 12 || b.0 + whole < whole * items.len() as f32).map(|b| (b.1, b.2))
}
