//! Round bars along a path: bails, bars of a cage, cables, links of a chain.

use std::f32::consts::TAU;

use glam::{Quat, Vec3};

use super::sweep::{Flat, LONGEST};

/// Points around a bar.
const BAR: usize = 16;

/// A smooth path through some points: a Catmull-Rom spline, `steps` points to a span; closed, it comes back to the first.
pub fn smooth(through: &[Vec3], steps: usize, closed: bool) -> Vec<Vec3> {
    let n = through.len() as isize;
    let at = |i: isize| through[if closed { i.rem_euclid(n) } else { i.clamp(0, n - 1) } as usize];
    let spans = if closed { n } else { n - 1 };
    let mut out: Vec<Vec3> = (0..spans)
        .flat_map(|i| (0..steps).map(move |k| (i, k as f32 / steps as f32)))
        .map(|(i, t)| {
            let [a, b, c, d] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
            0.5 * (2.0 * b
                + (c - a) * t
                + (2.0 * a - 5.0 * b + 4.0 * c - d) * t * t
                + (3.0 * (b - c) + d - a) * t * t * t)
        })
        .collect();
    if !closed {
        out.push(at(n - 1));
    }
    out
}

/// Directions along a path at each of its points, and one across it that turns as little as it can; closed, the turn that is left over is spread along it.
fn frames(path: &[Vec3], closed: bool) -> Vec<(Vec3, Vec3)> {
    let n = path.len();
    let along = |i: usize| {
        let (before, after) = if closed {
            (path[(i + n - 1) % n], path[(i + 1) % n])
        } else {
            (path[i.saturating_sub(1)], path[(i + 1).min(n - 1)])
        };
        (after - before).normalize()
    };
    let mut across = along(0).any_orthonormal_vector();
    let mut out = vec![(along(0), across)];
    for i in 1..n {
        across = Quat::from_rotation_arc(along(i - 1), along(i)) * across;
        out.push((along(i), across));
    }
    if closed {
        let last = Quat::from_rotation_arc(along(n - 1), along(0)) * across;
        let (first, axis) = (out[0].1, along(0));
        let off = libm::atan2f(last.cross(first).dot(axis), last.dot(first));
        for (i, (along, across)) in out.iter_mut().enumerate() {
            *across = Quat::from_axis_angle(*along, off * i as f32 / n as f32) * *across;
        }
    }
    out
}

/// A bar of radius `bar` along a path, in strips of at most [`LONGEST`] mm. The ends of an open one are open: they are sunk into something.
pub fn tube(path: &[Vec3], bar: f32, closed: bool) -> Vec<Flat> {
    let frames = frames(path, closed);
    let count = if closed { path.len() + 1 } else { path.len() };
    let ring = |i: usize| {
        let (p, (along, across)) = (path[i % path.len()], frames[i % path.len()]);
        let other = along.cross(across);
        (0..=BAR).map(move |j| {
            let turn = j as f32 / BAR as f32 * TAU;
            p + (across * libm::cosf(turn) + other * libm::sinf(turn)) * bar
        })
    };
    let mut strips = vec![];
    let (mut from, mut length) = (0, 0.0);
    for i in 1..count {
        length += path[i % path.len()].distance(path[i - 1]);
        if i < count - 1 && length < LONGEST {
            continue;
        }
        let mut out = Flat::default();
        let mut at = 0.0;
        for k in from..=i {
            at += if k > from { path[k % path.len()].distance(path[k - 1]) } else { 0.0 };
            for (j, p) in ring(k).enumerate() {
                out.positions.push(p);
                out.flat.push(glam::Vec2::new(at, j as f32 / BAR as f32 * TAU * bar));
            }
        }
        for k in 0..(i - from) as u32 {
            for j in 0..BAR as u32 {
                let a = k * (BAR as u32 + 1) + j;
                let b = a + BAR as u32 + 1;
                out.triangles.extend([[a, a + 1, b], [b, a + 1, b + 1]]);
            }
        }
        strips.push(out);
        (from, length) = (i, 0.0);
    }
    strips
}
