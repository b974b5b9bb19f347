//! Paths: strokes that are led through a few points which were set, and may be moved later.
//!
//! From one point to the next the way bends as the two normals say, as if the surface were curved evenly in between: on a plane it is straight, and around a cylinder or a sphere it is an arc
//! within 3e-4 of its radius. It asks nothing of the mesh, so it is the same on any of the same shape; where the surface is more uneven than that, another point is set.

use std::borrow::Cow;

use glam::Vec3;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::Point;

/// How a stroke gets from point to point.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Led {
    /// As the hand went.
    #[default]
    Hand,
    /// By the shortest way to the next point, with a corner there.
    Corners,
    /// In one sweep through all of them.
    Curve,
}

impl Led {
    /// Whether it is what one begins with.
    pub fn is_hand(&self) -> bool {
        *self == Led::Hand
    }
}

/// As far as the way may turn from one of its points to the next, in radians.
const TURNS: f32 = 0.06;
/// As many points are put in between two.
const MOST: usize = 200;

/// All points of the way through some; a closed one comes back to its first.
pub fn way(points: &[Point], led: Led, closed: bool) -> Cow<'_, [Point]> {
    if led.is_hand() || points.len() < 2 {
        return points.into();
    }
    // Twice the same place is one point: it leads nowhere.
    let mut set: Vec<Point> = Vec::with_capacity(points.len() + 1);
    set.extend(points.iter().filter({
        let mut last = None;
        move |p| last.replace(p.at) != Some(p.at)
    }));
    if closed && set.len() > 2 {
        if set[0].at == set[set.len() - 1].at {
            set.pop();
        }
        set.push(set[0]);
    }
    if set.len() < 2 {
        return set.into();
    }
    let round = closed && set.len() > 3;
    let mut out = vec![set[0]];
    for i in 0..set.len() - 1 {
        let (a, b) = (&set[i], &set[i + 1]);
        let (from, to) = match led {
            Led::Curve => (heading(&set, i, round), heading(&set, i + 1, round)),
            _ => (flat(b.at - a.at, a.normal), flat(b.at - a.at, b.normal)),
        };
        between((a, from), (b, to), &mut out);
    }
    out.into()
}

/// A direction without what of it stands up from the surface, as a unit.
fn flat(v: Vec3, normal: Vec3) -> Vec3 {
    v.reject_from(normal).try_normalize().unwrap_or_else(|| v.normalize_or(normal.any_orthonormal_vector()))
}

/// Which way a curve goes through one of its points: from the one before to the one after, and at its ends as an arc would.
fn heading(set: &[Point], i: usize, round: bool) -> Vec3 {
    let last = set.len() - 1;
    let here = &set[i];
    let middle = |before: &Point, after: &Point| {
        // The nearer neighbour says more, so that a short stretch beside a long one has no bulge.
        let (back, on) = (here.at - before.at, after.at - here.at);
        let (a, b) = (back.length().max(1e-9), on.length().max(1e-9));
        flat(back / a * b + on / b * a, here.normal)
    };
    if round && (i == 0 || i == last) {
        return middle(&set[last - 1], &set[1]);
    }
    if i > 0 && i < last {
        return middle(&set[i - 1], &set[i + 1]);
    }
    let (along, next) = if i == 0 { (set[1].at - here.at, 1) } else { (here.at - set[last - 1].at, last - 1) };
    if last == 1 {
        return flat(along, here.normal);
    }
    // As steep to the chord as where the curve gets to, on its other side.
    let chord = along.normalize();
    let there = heading(set, next, false);
    flat(chord * (2.0 * there.dot(chord)) - there, here.normal)
}

/// The angle between two directions, in radians.
fn angle(a: Vec3, b: Vec3) -> f32 {
    libm::atan2f(a.cross(b).length(), a.dot(b))
}

/// A unit on the way from one to another that is `angle` radians away, turned evenly.
fn leaning(a: Vec3, b: Vec3, angle: f32, t: f32) -> Vec3 {
    let sin = libm::sinf(angle);
    let both = if sin < 1e-3 {
        a.lerp(b, t)
    } else {
        a * (libm::sinf(angle * (1.0 - t)) / sin) + b * (libm::sinf(angle * t) / sin)
    };
    both.normalize_or(a)
}

/// Puts points on the way from one to the next, which it leaves and gets to in given directions, and the next one itself.
fn between((a, from): (&Point, Vec3), (b, to): (&Point, Vec3), out: &mut Vec<Point>) {
    let chord = b.at - a.at;
    let length = chord.length();
    let leans = angle(a.normal, b.normal);
    let bends = angle(from, chord) + angle(to, chord) + leans;
    let steps = ((bends / TURNS).ceil() as usize).clamp(1, MOST);
    // A cubic with tangents as long as these is an arc where it may be one.
    let cos = libm::cosf(angle(from, to) * 0.25);
    let pull = length / (cos * cos);
    for k in 1..steps {
        let t = k as f32 / steps as f32;
        let (t2, t3) = (t * t, t * t * t);
        let at = a.at * (2.0 * t3 - 3.0 * t2 + 1.0)
            + from * (pull * (t3 - 2.0 * t2 + t))
            + b.at * (3.0 * t2 - 2.0 * t3)
            + to * (pull * (t3 - t2));
        let mix = |a: f32, b: f32| a + (b - a) * t;
        out.push(Point {
            at,
            normal: leaning(a.normal, b.normal, leans, t),
            pressure: mix(a.pressure, b.pressure),
            tilt: mix(a.tilt, b.tilt),
            time: (f64::from(a.time) + (f64::from(b.time) - f64::from(a.time)) * f64::from(t)) as u32,
        });
    }
    out.push(*b);
}
