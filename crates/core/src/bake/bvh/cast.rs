//! Rays through the tree, packet by packet; compiled for several instruction sets.

use glam::Vec3;
use multiversion::multiversion;

use super::{Bvh, MISSED, Node, Packet, WIDTH};
use crate::bake::triangles::Triangle;

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
pub(super) fn occluded(nodes: &[Node], triangles: &[Triangle], packet: &mut Packet) -> [bool; WIDTH] {
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
pub(super) fn nearest(nodes: &[Node], triangles: &[Triangle], packet: &mut Packet) -> [f32; WIDTH] {
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
pub(super) fn closest(nodes: &[Node], triangles: &[Triangle], packet: &mut Packet) -> ([f32; WIDTH], [u32; WIDTH]) {
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
pub(super) fn occluded_by(bvh: &Bvh, packet: &mut Packet, shell: &[u32; WIDTH], shell_of: &[u32]) -> [bool; WIDTH] {
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
pub(super) fn inside_shares(
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

/// The most crossings of a lane that are kept.
const CROSSINGS: usize = 32;

/// Where the lanes cross the surface: of each lane how often, and the distances, nearest first, with +1 where it goes in and −1 where it comes out.
struct Crossings {
    count: [usize; WIDTH],
    at: [[(f32, f32); CROSSINGS]; WIDTH],
}

/// The crossings of each lane between near and far; of more than [`CROSSINGS`] the farthest are left out.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn crossings(nodes: &[Node], triangles: &[Triangle], packet: &Packet, out: &mut Crossings) {
    out.count = [0; WIDTH];
    let mut p = packet.clone();
    walk(nodes, &mut p, |p, range| {
        for t in &triangles[range] {
            let (dist, side) = meet(t, p);
            for l in (0..WIDTH).filter(|l| dist[*l] >= 0.0) {
                let (lane, count) = (&mut out.at[l], &mut out.count[l]);
                let mut k = *count;
                if k == CROSSINGS && lane[k - 1].0 <= dist[l] {
                    continue;
                }
                k = k.min(CROSSINGS - 1);
                *count = (*count + 1).min(CROSSINGS);
                // Kept in order as they come: there are few.
                while k > 0 && lane[k - 1].0 > dist[l] {
                    lane[k] = lane[k - 1];
                    k -= 1;
                }
                lane[k] = (dist[l], side[l]);
            }
        }
        false
    });
}

/// The stretches of each lane that lie within solids, however many lie over one another there, told one after the other: lane, begin and end, up to the lane's far end.
/// `depth` says in how many solids each lane begins.
pub(super) fn within(
    nodes: &[Node],
    triangles: &[Triangle],
    packet: &Packet,
    depth: &[f32; WIDTH],
    mut tell: impl FnMut(usize, f32, f32),
) {
    let mut all = Crossings { count: [0; WIDTH], at: [[(0.0, 0.0); CROSSINGS]; WIDTH] };
    crossings(nodes, triangles, packet, &mut all);
    for l in (0..WIDTH).filter(|l| packet.far[*l] >= 0.0) {
        let lane = &all.at[l][..all.count[l]];
        let (mut deep, mut since) = (depth[l], 0.0);
        for (at, side) in lane {
            let next = deep + side;
            if deep > 0.5 && next <= 0.5 {
                tell(l, since, *at);
            } else if deep <= 0.5 && next > 0.5 {
                since = *at;
            }
            deep = next;
        }
        if deep > 0.5 {
            tell(l, since, packet.far[l]);
        }
    }
}

/// In how many solids each lane begins, if it ends in the open: as many as it leaves more often than it enters.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
pub(super) fn depth(nodes: &[Node], triangles: &[Triangle], packet: &Packet) -> [f32; WIDTH] {
    let mut out = [0.0; WIDTH];
    let mut p = packet.clone();
    walk(nodes, &mut p, |p, range| {
        for t in &triangles[range] {
            let (dist, side) = meet(t, p);
            for l in 0..WIDTH {
                out[l] -= if dist[l] >= 0.0 { side[l] } else { 0.0 };
            }
        }
        false
    });
    out
}

pub(super) fn first_hit(bvh: &Bvh, origin: Vec3, direction: Vec3) -> Option<(f32, u32, [f32; 2])> {
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
