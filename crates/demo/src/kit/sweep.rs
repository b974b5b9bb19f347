//! Sweeping profiles around sections, and unfolding the result into flat charts.

use std::f32::consts::TAU;

use glam::{Vec2, Vec3};

use super::{Section, Unfold};

/// A chart in its own space: points, their place on the flat sheet in mm, triangles.
#[derive(Default)]
pub struct Flat {
    pub positions: Vec<Vec3>,
    pub flat: Vec<Vec2>,
    pub triangles: Vec<[u32; 3]>,
}

/// Rounds the corners of a profile off with arcs of that radius (less where a side is too short).
pub fn round(profile: &[Vec2], radius: f32) -> Vec<Vec2> {
    let n = profile.len();
    let mut out = vec![profile[0]];
    for i in 1..n - 1 {
        let (a, p, b) = (profile[i - 1], profile[i], profile[i + 1]);
        let (da, db) = ((a - p).normalize_or_zero(), (b - p).normalize_or_zero());
        let half = libm::acosf(da.dot(db).clamp(-1.0, 1.0)) * 0.5;
        let bend = std::f32::consts::PI - 2.0 * half;
        if bend < 0.2 || half < 0.05 {
            out.push(p);
            continue;
        }
        let room = (a - p).length().min((b - p).length()) * 0.45;
        let reach = (radius / libm::tanf(half)).min(room);
        let r = reach * libm::tanf(half);
        let centre = p + (da + db).normalize() * (r / libm::sinf(half));
        let steps = (bend / 0.4).ceil().max(2.0) as usize;
        let (from, to) = (p + da * reach - centre, p + db * reach - centre);
        let angle = from.angle_to(to);
        for k in 0..=steps {
            let t = angle * k as f32 / steps as f32;
            out.push(centre + Vec2::new(libm::cosf(t), libm::sinf(t)).rotate(from));
        }
    }
    out.push(profile[n - 1]);
    out
}

/// All charts of a swept profile.
pub fn charts(profile: &[Vec2], section: &Section, unfold: Unfold) -> Vec<Flat> {
    if unfold == Unfold::Flower {
        return vec![flower(profile, section, true)];
    }
    let mut out = vec![];
    let mut start = 0;
    let disc = |i: usize| {
        let d = profile[i + 1] - profile[i];
        d.x.abs() > d.y.abs() * 1.6
    };
    for i in 1..profile.len() {
        let ends = i == profile.len() - 1 || disc(i) != disc(start);
        if ends {
            let run = &profile[start..=i];
            // Seen from above when the profile runs inwards, else from below.
            if disc(start) {
                out.push(flower(run, section, run[0].x > run[i - start].x));
            } else {
                out.extend(cut(strip(run, section), section.points()));
            }
            start = i;
        }
    }
    out
}

fn rings(profile: &[Vec2], section: &Section, closed: bool) -> Flat {
    let n = section.points();
    let across = if closed { n } else { n + 1 };
    let mut out = Flat::default();
    for p in profile {
        for i in 0..across {
            let q = section.point(i % n, p.x);
            out.positions.push(Vec3::new(q.x, p.y, q.y));
        }
    }
    // Where a rectangle has been eaten up to a line, its corners fall together.
    let flat = |out: &Flat, t: [usize; 3]| {
        let [a, b, c] = t.map(|v| out.positions[v]);
        a.distance_squared(b).min(b.distance_squared(c)).min(c.distance_squared(a)) < 1e-8
    };
    for j in 0..profile.len() - 1 {
        for i in 0..n {
            let (a, b) = ((j * across + i) as u32, (j * across + (i + 1) % across) as u32);
            let (c, d) = (a + across as u32, b + across as u32);
            // At a pole one of the two triangles has no area and is left out. A rectangle's is where the offset has eaten it up.
            let pole = |p: Vec2| match section {
                Section::Rect { half, .. } => p.x <= 1e-4 - half.max_element(),
                _ => p.x <= 1e-4,
            };
            for (t, at) in [([a, c, b], j), ([b, c, d], j + 1)] {
                if !pole(profile[at]) && !flat(&out, t.map(|v| v as usize)) {
                    out.triangles.push(t);
                }
            }
        }
    }
    out
}

/// A strip: along the section × along the profile.
fn strip(profile: &[Vec2], section: &Section) -> Flat {
    let n = section.points();
    let mut out = rings(profile, section, false);
    let widest = profile.iter().map(|p| p.x).fold(f32::MIN, f32::max);
    let mut along = vec![0.0];
    for i in 0..n {
        let step = section.point(i, widest).distance(section.point((i + 1) % n, widest));
        along.push(along[i] + step);
    }
    let mut up = 0.0;
    for (j, p) in profile.iter().enumerate() {
        up += if j > 0 { p.distance(profile[j - 1]) } else { 0.0 };
        // Narrower rings keep to the middle, so that density stays even.
        let scale = (p.x / widest).clamp(0.35, 1.0);
        let scale = if matches!(section, Section::Rect { .. }) { 1.0 } else { scale };
        out.flat.extend(along.iter().map(|a| Vec2::new((a - along[n] * 0.5) * scale, up)));
    }
    out
}

/// The longest strip that is left in one piece, in mm: longer ones make packing wasteful.
pub(super) const LONGEST: f32 = 260.0;

/// Cuts a strip of `n` quads across into pieces of about equal length.
fn cut(strip: Flat, n: usize) -> Vec<Flat> {
    let across = n + 1;
    let widest = |row: &[Vec2]| row[n].x - row[0].x;
    let length = strip.flat.chunks(across).map(widest).fold(0.0, f32::max);
    let pieces = (length / LONGEST).ceil().max(1.0) as usize;
    (0..pieces)
        .map(|p| {
            let (from, to) = (p * n / pieces, (p + 1) * n / pieces);
            let mut out = Flat::default();
            for row in 0..strip.flat.len() / across {
                let range = row * across + from..=row * across + to;
                out.positions.extend(&strip.positions[range.clone()]);
                out.flat.extend(&strip.flat[range]);
            }
            let inside = |v: u32| (from..=to).contains(&(v as usize % across));
            let moved = |v: u32| ((v as usize / across) * (to - from + 1) + v as usize % across - from) as u32;
            out.triangles =
                strip.triangles.iter().filter(|t| t.iter().all(|v| inside(*v))).map(|t| t.map(moved)).collect();
            out
        })
        .collect()
}

/// A flower: rings around the innermost, each as far out as the profile is long. `above` says which end is the middle: the last.
fn flower(profile: &[Vec2], section: &Section, above: bool) -> Flat {
    let n = section.points();
    let mut out = rings(profile, section, true);
    let last = profile.len() - 1;
    let mut radius = vec![0.0; profile.len()];
    let order: Vec<usize> = if above { (0..=last).rev().collect() } else { (0..=last).collect() };
    radius[order[0]] = profile[order[0]].x;
    for w in order.windows(2) {
        radius[w[1]] = radius[w[0]] + profile[w[0]].distance(profile[w[1]]);
    }
    for r in radius {
        for i in 0..n {
            let q = section.point(i, r);
            out.flat.push(if above { q } else { Vec2::new(q.x, -q.y) });
        }
    }
    out
}

/// A ring of a round bar, in four strips.
pub fn torus(ring: f32, bar: f32) -> Vec<Flat> {
    const AROUND: usize = 96;
    const BAR: usize = 20;
    let quarter = AROUND / 4;
    (0..4)
        .map(|q| {
            let mut out = Flat::default();
            for i in 0..=quarter {
                let t = (q * quarter + i) as f32 / AROUND as f32;
                let (c, s) = (libm::cosf(t * TAU), libm::sinf(t * TAU));
                for j in 0..=BAR {
                    let u = j as f32 / BAR as f32;
                    let r = ring - bar * libm::cosf(u * TAU);
                    out.positions.push(Vec3::new(r * c, bar * libm::sinf(u * TAU), r * s));
                    out.flat.push(Vec2::new(t * TAU * ring, u * TAU * bar));
                }
            }
            for i in 0..quarter as u32 {
                for j in 0..BAR as u32 {
                    let a = i * (BAR as u32 + 1) + j;
                    let b = a + BAR as u32 + 1;
                    out.triangles.extend([[a, b, a + 1], [b, b + 1, a + 1]]);
                }
            }
            out
        })
        .collect()
}
