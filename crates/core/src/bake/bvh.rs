//! A bounding volume hierarchy over triangles and packets of rays against it.
//!
//! The tree is binary, built by binned surface area heuristic (Wald 2007). Rays go through it in packets of [`WIDTH`] lanes that share the
//! walk: neighbouring texels send like-directed rays, so the lanes visit the same nodes, and the arithmetic over lanes is left to
//! the vectoriser, compiled for several instruction sets. No fused multiply-add is used, so every machine gets the same bits.

use glam::{Vec3, Vec3A};
use multiversion::multiversion;
use rayon::prelude::*;

use super::triangles::Triangle;
use crate::mesh::Piece;
use crate::task::{Cancel, Cancelled};

/// Lanes of a packet.
pub const WIDTH: usize = 16;
const BINS: usize = 16;
const LEAF: usize = 4;

/// Inner nodes have `count` 0 and children at `first` and `first + 1`; leaves hold `count` triangles from `first`.
#[derive(Debug, Clone, Copy)]
struct Node {
    min: [f32; 3],
    first: u32,
    max: [f32; 3],
    count: u16,
    axis: u16,
}

/// The hierarchy.
pub struct Bvh {
    nodes: Vec<Node>,
    triangles: Vec<Triangle>,
    /// What the triangles were numbered before they were sorted into leaves.
    index: Vec<u32>,
}

/// No triangle.
pub const MISSED: u32 = u32::MAX;

/// [`WIDTH`] rays. A lane with `far` < 0 is off.
#[derive(Debug, Clone)]
#[repr(align(64))]
pub struct Packet {
    /// Origins, by axis.
    pub origin: [[f32; WIDTH]; 3],
    /// Directions, by axis; their length is the unit of distances.
    pub direction: [[f32; WIDTH]; 3],
    /// Least distance.
    pub near: [f32; WIDTH],
    /// Greatest distance.
    pub far: [f32; WIDTH],
}

impl Default for Packet {
    fn default() -> Self {
        let z = [0.0; WIDTH];
        Self { origin: [z; 3], direction: [z; 3], near: z, far: [-1.0; WIDTH] }
    }
}

impl Packet {
    /// Sets one lane.
    #[inline]
    pub fn set(&mut self, lane: usize, origin: [f32; 3], direction: [f32; 3], near: f32, far: f32) {
        for a in 0..3 {
            self.origin[a][lane] = origin[a];
            self.direction[a][lane] = direction[a];
        }
        self.near[lane] = near;
        self.far[lane] = far;
    }
}

impl Bvh {
    /// Builds the hierarchy of a piece.
    pub fn of_piece(piece: &Piece) -> Bvh {
        Bvh::build(&(0..piece.triangles.len() as u32).map(|t| piece.corners(t)).collect::<Vec<_>>())
    }

    /// As [`of_piece`](Self::of_piece), for as long as nobody asks to stop.
    ///
    /// # Errors
    /// [`Cancelled`], within some milliseconds.
    pub fn of_piece_unless(piece: &Piece, cancel: &Cancel) -> Result<Bvh, Cancelled> {
        let corners = |t| cancel.check().map(|()| piece.corners(t));
        let all: Result<Vec<_>, _> = (0..piece.triangles.len() as u32).into_par_iter().map(corners).collect();
        Bvh::build_unless(&all?, cancel)
    }

    /// Builds the hierarchy of triangles; cost grows as n log n.
    pub fn build(all: &[[Vec3; 3]]) -> Bvh {
        Bvh::build_unless(all, &Cancel::default()).expect("nobody can ask it to stop")
    }

    fn build_unless(all: &[[Vec3; 3]], cancel: &Cancel) -> Result<Bvh, Cancelled> {
        cancel.check()?;
        let mut items: Vec<Item> = all.par_iter().enumerate().map(|(i, t)| Item::new(i as u32, t)).collect();
        let nodes = tree(&mut items, 0, 0, cancel);
        cancel.check()?;
        let triangle = |i: &Item| cancel.check().map(|()| Triangle::new(all[i.index as usize]));
        let triangles = items.par_iter().map(triangle).collect::<Result<_, _>>()?;
        Ok(Bvh { nodes, triangles, index: items.iter().map(|i| i.index).collect() })
    }

    /// Which lanes hit anything between `near` and `far`.
    pub fn occluded(&self, packet: &mut Packet) -> [bool; WIDTH] {
        occluded(&self.nodes, &self.triangles, packet)
    }

    /// Distance of each lane's nearest hit between `near` and `far`, or `far` where there is none.
    pub fn nearest(&self, packet: &mut Packet) -> [f32; WIDTH] {
        nearest(&self.nodes, &self.triangles, packet)
    }

    /// As [`nearest`](Self::nearest), with the triangle that each lane hits; [`MISSED`] where it hits none.
    pub fn closest(&self, packet: &mut Packet) -> ([f32; WIDTH], [u32; WIDTH]) {
        let (far, hit) = closest(&self.nodes, &self.triangles, packet);
        (far, hit.map(|h| if h == MISSED { MISSED } else { self.index[h as usize] }))
    }

    /// As [`occluded`](Self::occluded), but a lane is stopped by triangles of one shell alone: `shell[lane]`, by `shell_of` per triangle.
    pub fn occluded_by(&self, packet: &mut Packet, shell: &[u32; WIDTH], shell_of: &[u32]) -> [bool; WIDTH] {
        occluded_by(self, packet, shell, shell_of)
    }

    /// All hits of each lane between `near` and `far`, in no order: `weight[k][lane]` gains ±(1 − (t/radii[k])³) for each nearer than the radius, plus where the
    /// ray enters the front of a triangle, minus where it leaves by the back. With unit directions this sums the share of the ball's cone
    /// that lies inside the solid, but for whether the ray starts inside. `far` must be the largest of the radii.
    pub fn inside_shares(&self, packet: &Packet, radii: [f32; 3], weight: &mut [[f32; WIDTH]; 3]) {
        inside_shares(&self.nodes, &self.triangles, packet, radii, weight);
    }

    /// The nearest hit of one ray: distance, triangle, barycentrics of the second and third corner.
    pub fn first_hit(&self, origin: Vec3, direction: Vec3) -> Option<(f32, u32, [f32; 2])> {
        first_hit(self, origin, direction)
    }
}

struct Item {
    min: Vec3A,
    max: Vec3A,
    index: u32,
}

impl Item {
    fn new(index: u32, t: &[Vec3; 3]) -> Self {
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
struct Bounds {
    min: Vec3A,
    max: Vec3A,
    first: Vec3A,
    last: Vec3A,
}

impl Bounds {
    fn of(items: &[Item]) -> Self {
        let (far, near) = (Vec3A::splat(f32::MAX), Vec3A::splat(f32::MIN));
        items.iter().fold(Self { min: far, max: near, first: far, last: near }, |b, i| Self {
            min: b.min.min(i.min),
            max: b.max.max(i.max),
            first: b.first.min(i.middle()),
            last: b.last.max(i.middle()),
        })
    }
}

const EMPTY: Node = Node { min: [0.0; 3], first: 0, max: [0.0; 3], count: 0, axis: 0 };

/// Above this number of triangles both halves are built side by side.
const SHARED: usize = 4096;

/// The nodes over some items, the root first. The same for every number of threads: only who builds a half depends on it. Left unfinished when
/// somebody asks to stop.
fn tree(items: &mut [Item], offset: usize, depth: usize, cancel: &Cancel) -> Vec<Node> {
    let mut nodes = vec![EMPTY];
    if cancel.is_cancelled() {
        return nodes;
    }
    if items.len() <= SHARED || depth >= DEEP {
        if !items.is_empty() {
            split(&mut nodes, 0, items, offset, depth);
        }
        return nodes;
    }
    let bounds = Bounds::of(items);
    let cut = best_cut(items, &bounds);
    // Among millions each of these goes takes a noticeable while.
    if cancel.is_cancelled() {
        return nodes;
    }
    let (axis, left) = cut.map_or((0, items.len() / 2), |cut| (cut.0, part(items, cut)));
    nodes[0] = Node { min: bounds.min.into(), first: 1, max: bounds.max.into(), count: 0, axis: axis as u16 };
    let (a, b) = items.split_at_mut(left);
    let (l, r) = rayon::join(|| tree(a, offset, depth + 1, cancel), || tree(b, offset + left, depth + 1, cancel));
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

/// Brings the items before a cut to the front; says how many they are, but never all or none.
fn part(items: &mut [Item], (axis, position): Cut) -> usize {
    let mut left = 0;
    for i in 0..items.len() {
        if items[i].middle()[axis] < position {
            items.swap(i, left);
            left += 1;
        }
    }
    if left == 0 || left == items.len() { items.len() / 2 } else { left }
}

/// Below this depth triangles are halved by number, so that no mesh, however contrived, makes a tree deeper than the walk's stack.
const DEEP: usize = 36;

fn split(nodes: &mut Vec<Node>, at: usize, items: &mut [Item], offset: usize, depth: usize) {
    let bounds = Bounds::of(items);
    nodes[at].min = bounds.min.into();
    nodes[at].max = bounds.max.into();
    if depth >= DEEP && items.len() > LEAF {
        return halve(nodes, at, items, offset, 0, items.len() / 2, depth);
    }
    let cut = if items.len() <= LEAF { None } else { best_cut(items, &bounds) };
    let Some((axis, position)) = cut else {
        if items.len() > usize::from(u16::MAX) {
            // Thousands of triangles in one spot: halve them anyhow, a leaf must stay small.
            return halve(nodes, at, items, offset, 0, items.len() / 2, depth);
        }
        nodes[at].first = offset as u32;
        nodes[at].count = items.len() as u16;
        return;
    };
    let left = part(items, (axis, position));
    halve(nodes, at, items, offset, axis, left, depth);
}

fn halve(nodes: &mut Vec<Node>, at: usize, items: &mut [Item], offset: usize, axis: usize, left: usize, depth: usize) {
    let first = nodes.len();
    nodes[at].first = first as u32;
    nodes[at].axis = axis as u16;
    nodes.extend([EMPTY, EMPTY]);
    let (a, b) = items.split_at_mut(left);
    split(nodes, first, a, offset, depth + 1);
    split(nodes, first + 1, b, offset + left, depth + 1);
}

/// The plane with the least expected cost, or none when a leaf is cheaper. All axes are binned in one go over the items.
fn best_cut(items: &[Item], b: &Bounds) -> Option<Cut> {
    let span = b.last - b.first;
    let usable = span.cmpgt(Vec3A::ZERO);
    let scale = Vec3A::select(usable, Vec3A::splat(BINS as f32) / span, Vec3A::ZERO);
    let (far, near) = (Vec3A::splat(f32::MAX), Vec3A::splat(f32::MIN));
    let mut bins = [[(far, near, 0usize); BINS]; 3];
    for i in items {
        let at = ((i.middle() - b.first) * scale).to_array();
        for (bins, at) in bins.iter_mut().zip(at) {
            let bin = &mut bins[(at as usize).min(BINS - 1)];
            *bin = (bin.0.min(i.min), bin.1.max(i.max), bin.2 + 1);
        }
    }
    let mut best: Option<(f32, usize, f32)> = None;
    for axis in (0..3).filter(|a| usable.test(*a)) {
        let bins = &bins[axis];
        let mut right = [0.0f32; BINS];
        let (mut lo, mut hi, mut n) = (far, near, 0);
        for k in (1..BINS).rev() {
            (lo, hi, n) = (lo.min(bins[k].0), hi.max(bins[k].1), n + bins[k].2);
            right[k] = half_area(lo, hi) * n as f32;
        }
        let (mut lo, mut hi, mut n) = (far, near, 0);
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

#[inline(always)]
fn lesser(a: f32, b: f32) -> f32 {
    if a < b { a } else { b }
}

#[inline(always)]
fn greater(a: f32, b: f32) -> f32 {
    if a > b { a } else { b }
}

#[inline(always)]
fn inverse(p: &Packet) -> [[f32; WIDTH]; 3] {
    let mut inv = [[0.0; WIDTH]; 3];
    for a in 0..3 {
        for l in 0..WIDTH {
            let d = p.direction[a][l];
            // Axis-parallel rays get a huge finite slope, so that no NaN arises in the slab test.
            let d = if d.abs() < 1e-12 { 1e-12 } else { d };
            inv[a][l] = 1.0 / d;
        }
    }
    inv
}

/// Whether any lane meets the node's box.
#[inline(always)]
fn any_meets(node: &Node, p: &Packet, inv: &[[f32; WIDTH]; 3]) -> bool {
    let mut any = 0u32;
    for l in 0..WIDTH {
        let (mut enter, mut leave) = (p.near[l], p.far[l]);
        for a in 0..3 {
            let t0 = (node.min[a] - p.origin[a][l]) * inv[a][l];
            let t1 = (node.max[a] - p.origin[a][l]) * inv[a][l];
            enter = greater(enter, lesser(t0, t1));
            leave = lesser(leave, greater(t0, t1));
        }
        // A hair of slack pays for rounding, so that nothing on a box's face is missed.
        any |= u32::from(enter <= leave * 1.000_001 && p.far[l] >= 0.0);
    }
    any != 0
}

/// Möller–Trumbore over the lanes: distance where it hits between near and far, else −1, and the sign of the facing
/// (+1 where the ray meets the front).
#[inline(always)]
fn meet(t: &Triangle, p: &Packet) -> ([f32; WIDTH], [f32; WIDTH]) {
    let (mut dist, mut side) = ([-1.0; WIDTH], [0.0; WIDTH]);
    for l in 0..WIDTH {
        let d = [p.direction[0][l], p.direction[1][l], p.direction[2][l]];
        let s = [p.origin[0][l] - t.a[0], p.origin[1][l] - t.a[1], p.origin[2][l] - t.a[2]];
        let h = cross(d, t.e2);
        let det = dot(t.e1, h);
        let inv = 1.0 / det;
        let u = dot(s, h) * inv;
        let q = cross(s, t.e1);
        let v = dot(d, q) * inv;
        let w = dot(t.e2, q) * inv;
        // Comparisons with the NaN of a parallel ray are false, so it misses.
        let hit = (u >= 0.0) & (v >= 0.0) & (u + v <= 1.0) & (w >= p.near[l]) & (w <= p.far[l]);
        dist[l] = if hit { w } else { -1.0 };
        side[l] = if det > 0.0 { 1.0 } else { -1.0 };
    }
    (dist, side)
}

#[inline(always)]
fn cross(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

#[inline(always)]
fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

/// Walks the tree for all lanes, calls `leaf` with each triangle of each leaf met; stops when that returns true.
#[inline(always)]
fn walk(nodes: &[Node], p: &mut Packet, mut leaf: impl FnMut(&mut Packet, std::ops::Range<usize>) -> bool) {
    let inv = inverse(p);
    let mut stack = [0u32; 64];
    let mut top = 1;
    let lead = (0..WIDTH).find(|l| p.far[*l] >= 0.0).unwrap_or(0);
    let down = [p.direction[0][lead] < 0.0, p.direction[1][lead] < 0.0, p.direction[2][lead] < 0.0];
    while top > 0 {
        top -= 1;
        let node = &nodes[stack[top] as usize];
        if !any_meets(node, p, &inv) {
            continue;
        }
        if node.count > 0 {
            let first = node.first as usize;
            if leaf(p, first..first + usize::from(node.count)) {
                return;
            }
        } else if node.first > 0 && top + 2 <= stack.len() {
            // The child that the leading ray meets first is walked first.
            let flip = u32::from(down[usize::from(node.axis)]);
            stack[top] = node.first + 1 - flip;
            stack[top + 1] = node.first + flip;
            top += 2;
        }
    }
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn occluded(nodes: &[Node], triangles: &[Triangle], packet: &mut Packet) -> [bool; WIDTH] {
    let mut hit = [false; WIDTH];
    walk(nodes, packet, |p, range| {
        for t in &triangles[range] {
            let (dist, _) = meet(t, p);
            for l in 0..WIDTH {
                p.far[l] = if dist[l] >= 0.0 { -1.0 } else { p.far[l] };
                hit[l] |= dist[l] >= 0.0;
            }
        }
        p.far.iter().all(|f| *f < 0.0)
    });
    hit
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn nearest(nodes: &[Node], triangles: &[Triangle], packet: &mut Packet) -> [f32; WIDTH] {
    walk(nodes, packet, |p, range| {
        for t in &triangles[range] {
            let (dist, _) = meet(t, p);
            for l in 0..WIDTH {
                p.far[l] = if dist[l] >= 0.0 { dist[l] } else { p.far[l] };
            }
        }
        false
    });
    packet.far
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn closest(nodes: &[Node], triangles: &[Triangle], packet: &mut Packet) -> ([f32; WIDTH], [u32; WIDTH]) {
    let mut hit = [MISSED; WIDTH];
    walk(nodes, packet, |p, range| {
        for i in range {
            let (dist, _) = meet(&triangles[i], p);
            for l in 0..WIDTH {
                let nearer = dist[l] >= 0.0;
                p.far[l] = if nearer { dist[l] } else { p.far[l] };
                hit[l] = if nearer { i as u32 } else { hit[l] };
            }
        }
        false
    });
    (packet.far, hit)
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn occluded_by(bvh: &Bvh, packet: &mut Packet, shell: &[u32; WIDTH], shell_of: &[u32]) -> [bool; WIDTH] {
    let mut hit = [false; WIDTH];
    walk(&bvh.nodes, packet, |p, range| {
        for i in range {
            let own = shell_of[bvh.index[i] as usize];
            let (dist, _) = meet(&bvh.triangles[i], p);
            for l in 0..WIDTH {
                let stops = (dist[l] >= 0.0) & (shell[l] == own);
                p.far[l] = if stops { -1.0 } else { p.far[l] };
                hit[l] |= stops;
            }
        }
        p.far.iter().all(|f| *f < 0.0)
    });
    hit
}

#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn inside_shares(
    nodes: &[Node],
    triangles: &[Triangle],
    packet: &Packet,
    radii: [f32; 3],
    weight: &mut [[f32; WIDTH]; 3],
) {
    let mut p = packet.clone();
    walk(nodes, &mut p, |p, range| {
        for t in &triangles[range] {
            let (dist, side) = meet(t, p);
            for k in 0..3 {
                for l in 0..WIDTH {
                    let r = dist[l] / radii[k];
                    let gain = side[l] * (1.0 - r * r * r);
                    weight[k][l] += if (dist[l] >= 0.0) & (dist[l] <= radii[k]) { gain } else { 0.0 };
                }
            }
        }
        false
    });
}

fn first_hit(bvh: &Bvh, origin: Vec3, direction: Vec3) -> Option<(f32, u32, [f32; 2])> {
    let inv = direction.to_array().map(|d| 1.0 / if d.abs() < 1e-12 { 1e-12 } else { d });
    let (o, d) = (origin.to_array(), direction.to_array());
    let mut best: Option<(f32, u32, [f32; 2])> = None;
    let mut stack = vec![0u32];
    while let Some(at) = stack.pop() {
        let node = &bvh.nodes[at as usize];
        let (mut enter, mut leave) = (0.0f32, best.map_or(f32::MAX, |b| b.0));
        for a in 0..3 {
            let (t0, t1) = ((node.min[a] - o[a]) * inv[a], (node.max[a] - o[a]) * inv[a]);
            enter = greater(enter, lesser(t0, t1));
            leave = lesser(leave, greater(t0, t1));
        }
        if enter > leave * 1.000_001 {
            continue;
        }
        if node.count == 0 {
            if node.first > 0 {
                let flip = u32::from(d[usize::from(node.axis)] < 0.0);
                stack.extend([node.first + 1 - flip, node.first + flip]);
            }
            continue;
        }
        for i in node.first..node.first + u32::from(node.count) {
            let t = &bvh.triangles[i as usize];
            let h = cross(d, t.e2);
            let inv_det = 1.0 / dot(t.e1, h);
            let s = [o[0] - t.a[0], o[1] - t.a[1], o[2] - t.a[2]];
            let q = cross(s, t.e1);
            let (u, v, w) = (dot(s, h) * inv_det, dot(d, q) * inv_det, dot(t.e2, q) * inv_det);
            if u >= 0.0 && v >= 0.0 && u + v <= 1.0 && w > 0.0 && best.is_none_or(|b| w < b.0) {
                best = Some((w, bvh.index[i as usize], [u, v]));
            }
        }
    }
    best
}
