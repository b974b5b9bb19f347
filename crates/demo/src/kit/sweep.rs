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
    /// Whether it runs along its x.
    pub upright: bool,
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
            let (inmost, outmost) = (run[0].x.min(run[i - start].x), run[0].x.max(run[i - start].x));
            match section {
                Section::Circle(_) if !disc(start) || inmost > HOLE * outmost => out.extend(sectors(run, section)),
                _ if disc(start) => out.push(flower(run, section, run[0].x > run[i - start].x)),
                _ => out.extend(strip(run, section)),
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

/// The longest strip that is left in one piece, in mm: longer ones make packing wasteful.
pub(super) const LONGEST: f32 = 260.0;
/// A round disc with a larger hole than this share of it is cut into bows, which lie in one another.
const HOLE: f32 = 0.35;
/// By what share a row of a sector may be wider or narrower than it is on the piece.
const OFF: f32 = 0.12;

/// Cuts rings of `n` quads around into pieces; `flat` says where a point lies, by its row, how far around the piece it is (0 to 1), and in which piece.
fn cut(rings: &Flat, n: usize, pieces: usize, flat: impl Fn(usize, usize, usize) -> Vec2) -> Vec<Flat> {
    let across = n + 1;
    (0..pieces)
        .map(|p| {
            let (from, to) = (p * n / pieces, (p + 1) * n / pieces);
            let mut out = Flat::default();
            for row in 0..rings.positions.len() / across {
                out.positions.extend(&rings.positions[row * across + from..=row * across + to]);
                out.flat.extend((from..=to).map(|i| flat(row, i, p)));
            }
            let inside = |v: u32| (from..=to).contains(&(v as usize % across));
            let moved = |v: u32| ((v as usize / across) * (to - from + 1) + v as usize % across - from) as u32;
            out.triangles =
                rings.triangles.iter().filter(|t| t.iter().all(|v| inside(*v))).map(|t| t.map(moved)).collect();
            out
        })
        .collect()
}

/// How far along a profile each of its points lies.
fn lengths(profile: &[Vec2]) -> Vec<f32> {
    let mut out = vec![0.0];
    for w in profile.windows(2) {
        out.push(out[out.len() - 1] + w[0].distance(w[1]));
    }
    out
}

/// Strips of a wall whose section isn't round: along the section × along the profile.
fn strip(profile: &[Vec2], section: &Section) -> Vec<Flat> {
    let n = section.points();
    let widest = profile.iter().map(|p| p.x).fold(f32::MIN, f32::max);
    let mut along = vec![0.0];
    for i in 0..n {
        let step = section.point(i, widest).distance(section.point((i + 1) % n, widest));
        along.push(along[i] + step);
    }
    let up = lengths(profile);
    let pieces = (along[n] / LONGEST).ceil().max(1.0) as usize;
    cut(&rings(profile, section, false), n, pieces, |row, i, _| Vec2::new(along[i], up[row]))
}

/// Sectors of a surface of revolution: each as a cone unrolls, around a centre that suits its rows best, so that nothing is sheared and rows keep their width to
/// [`OFF`]. A profile that turns away from a cone is cut into several.
fn sectors(profile: &[Vec2], section: &Section) -> Vec<Flat> {
    let n = section.points();
    let mut out = vec![];
    let mut start = 0;
    while start + 1 < profile.len() {
        // As many rows as lie on one cone; two always do.
        let mut end = start + 2;
        while end < profile.len() && Cone::through(&profile[start..=end]).off <= OFF {
            end += 1;
        }
        let run = &profile[start..end];
        let cone = Cone::through(run);
        let widest = run.iter().map(|p| p.x).fold(0.0, f32::max) * TAU;
        let pieces = (widest / LONGEST).ceil().max((cone.angle.abs() / 1.6).ceil().max(1.0)) as usize;
        let up = lengths(run);
        out.extend(cut(&rings(run, section, false), n, pieces, |row, i, p| {
            let middle = (p * n / pieces + (p + 1) * n / pieces) as f32 / 2.0;
            cone.unrolled(up[row], (i as f32 - middle) / n as f32)
        }));
        start = end - 1;
    }
    out
}

/// The cone that unrolls most like some rows of a surface of revolution.
struct Cone {
    /// What once around comes to when it is unrolled, in radians; negative if it narrows upwards, near 0 for a cylinder.
    angle: f32,
    /// Width of the first row, unrolled, in mm.
    first: f32,
    /// The greatest share by which a row is wider or narrower than unrolled.
    off: f32,
}

impl Cone {
    /// Least squares of the rows' widths over how far up they lie.
    fn through(rows: &[Vec2]) -> Cone {
        let (up, widths) = (lengths(rows), rows.iter().map(|p| p.x * TAU).collect::<Vec<_>>());
        let n = rows.len() as f32;
        let mean = |all: &[f32]| all.iter().sum::<f32>() / n;
        let (u, w) = (mean(&up), mean(&widths));
        let (mut both, mut square) = (0.0, 0.0);
        for (a, b) in up.iter().zip(&widths) {
            both += (a - u) * (b - w);
            square += (a - u) * (a - u);
        }
        let angle = if square > 0.0 { both / square } else { 0.0 };
        let first = w - angle * u;
        let off = |(a, b): (&f32, &f32)| ((first + angle * a) / b.max(1.0) - 1.0).abs();
        let off = up.iter().zip(&widths).map(off).fold(0.0, f32::max);
        Cone { angle, first, off }
    }

    /// Where a point lies that is `up` along the profile and `around` of a turn from the middle of its piece.
    fn unrolled(&self, up: f32, around: f32) -> Vec2 {
        if self.angle.abs() < 0.05 {
            return Vec2::new((self.first + self.angle * up) * around, up);
        }
        let (from, turn) = (up + self.first / self.angle, self.angle * around);
        Vec2::new(from * libm::sinf(turn), from * libm::cosf(turn))
    }
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
