//! Where a pattern lies on the piece: in space, from three sides, from one side, around an axis, or along the UVs; how large, how turned, how it is warped.
//!
//! Places in the piece's space are moved, turned and scaled into the pattern's own, so one pattern serves every placement. Flat patterns are laid on a plane
//! (the pattern's x and y); patterns in space need none.

use glam::{Mat3, Vec3};

use super::{Axes, Field, Pattern};
use crate::bake::Surface;
use crate::lattice::{Octave, clamp, octaves, sum};
use crate::setting::{ParamSpec, Resolved};

/// Diagonal of the piece, in mm, on which sizes that follow the piece are what they say.
pub const USUAL: f32 = 600.0;
/// Sides that count for less than this are left out.
const LEAST: f32 = 0.004;

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    Solid,
    Triplanar,
    Planar,
    Cylindrical,
    Radial,
    Uv,
}

/// Where and how large a pattern lies.
struct Placement {
    kind: Kind,
    axis: usize,
    sharpness: u32,
    radius: f32,
    with_piece: bool,
    stretch: Vec3,
    turn: Mat3,
    offset: Vec3,
    warp: f32,
    noise: Vec<Octave>,
    contrast: f32,
}

/// A pattern's field in its place.
pub struct Placed {
    field: Box<dyn Field>,
    placement: Placement,
}

/// The settings of every pattern's placement.
pub fn specs(axes: Axes) -> Vec<ParamSpec> {
    let all: &[(&str, &str)] = &[
        ("solid", "in space"),
        ("triplanar", "from three sides"),
        ("planar", "from one side"),
        ("cylindrical", "around an axis"),
        ("radial", "outwards from an axis"),
        ("uv", "along the UVs"),
    ];
    let all = if axes == Axes::Two { &all[1..] } else { all };
    // What would change nothing is never offered, but taken from documents that hold it.
    let around: &[&str] = if axes == Axes::One { &["cylindrical"] } else { &["cylindrical", "radial"] };
    let through: &[&str] = if axes == Axes::Three { &["solid"] } else { &[] };
    let ratio =
        |key, label, help| ParamSpec { log: true, ..ParamSpec::number(key, label, "×", (0.02, 50.0), 1.0, help) };
    let across = ratio("stretch_y", "Stretch y", "How many times longer it is along its y.");
    let angle = |key, label, help| ParamSpec::number(key, label, "°", (-180.0, 180.0), 0.0, help);
    let shift = |key, label, help| ParamSpec::number(key, label, "mm", (-5000.0, 5000.0), 0.0, help);
    let placement = [
        ParamSpec::choice("placement", "Placed", all, "How it comes onto the piece."),
        ParamSpec::choice(
            "axis",
            "Axis",
            &[("y", "upright"), ("x", "x"), ("z", "z")],
            "Which axis of the piece it is seen along, or goes around.",
        )
        .only_with("placement", &["planar", "cylindrical", "radial"]),
        ParamSpec::integer(
            "sharpness",
            "Sharpness",
            (1.0, 32.0),
            8.0,
            "How quickly one side gives way to the next where the surface turns.",
        )
        .only_with("placement", &["triplanar"]),
        ParamSpec::length("radius", "Radius", (0.1, 5000.0), 60.0, "How far from the axis its sizes are right.")
            .only_with("placement", around),
        ParamSpec::choice(
            "scale",
            "Sizes",
            &[("mm", "in mm"), ("piece", "with the piece")],
            "Whether its sizes are kept in mm, or taken as on a piece of 600 mm and follow the piece.",
        ),
        ratio("stretch_x", "Stretch x", "How many times longer it is along its x."),
        if axes == Axes::One { across.only_with("placement", &[]) } else { across },
        ratio("stretch_z", "Stretch z", "How many times longer it is along its z.").only_with("placement", through),
        angle("turn_x", "Turn about x", "Turned about the piece's x."),
        angle("turn_y", "Turn about y", "Turned about the piece's upright axis."),
        angle("turn_z", "Turn about z", "Turned about the piece's z."),
        shift("offset_x", "Offset x", "Moved along the piece's x."),
        shift("offset_y", "Offset y", "Moved along the piece's upright axis."),
        shift("offset_z", "Offset z", "Moved along the piece's z."),
    ];
    let shape = [
        ParamSpec::number("warp", "Warp", "mm", (0.0, 500.0), 0.0, "How far it is pulled about by noise."),
        ParamSpec::length("warp_size", "Warp size", (0.1, 5000.0), 40.0, "Over which length it is pulled one way."),
        ParamSpec::number(
            "contrast",
            "Contrast",
            "×",
            (0.0, 8.0),
            1.0,
            "How far values are pushed away from the middle grey.",
        ),
    ];
    let placement = placement.into_iter().map(|s| s.in_group("Placement"));
    placement.chain(shape.into_iter().map(|s| s.in_group("Warp and contrast"))).collect()
}

impl Placement {
    fn new(s: &Resolved) -> Self {
        let vec = |a: &str, b: &str, c: &str| Vec3::new(s.number(a), s.number(b), s.number(c));
        // The functions of libm are the same on every machine.
        let [x, y, z] = vec("turn_x", "turn_y", "turn_z").to_array();
        Self {
            kind: match s.text("placement") {
                "triplanar" => Kind::Triplanar,
                "planar" => Kind::Planar,
                "cylindrical" => Kind::Cylindrical,
                "radial" => Kind::Radial,
                "uv" => Kind::Uv,
                _ => Kind::Solid,
            },
            axis: match s.text("axis") {
                "x" => 0,
                "z" => 2,
                _ => 1,
            },
            sharpness: s.integer("sharpness").max(1),
            radius: s.number("radius").max(0.01),
            with_piece: s.text("scale") == "piece",
            stretch: vec("stretch_x", "stretch_y", "stretch_z").max(Vec3::splat(0.01)),
            turn: turned(x, y, z),
            offset: vec("offset_x", "offset_y", "offset_z"),
            warp: s.number("warp"),
            noise: octaves(s.number("warp_size").max(0.01), 2, 2.0, 0.5, s.integer("seed") ^ 0xa511, 1.0),
            contrast: s.number("contrast"),
        }
    }

    /// Leaves alone what it is given.
    fn is_plain(&self) -> bool {
        self.turn == Mat3::IDENTITY && self.offset == Vec3::ZERO && !self.with_piece && self.warp == 0.0
    }
}

/// The turn back, from the piece's space into the pattern's: about z, then y, then x.
fn turned(x: f32, y: f32, z: f32) -> Mat3 {
    if (x, y, z) == (0.0, 0.0, 0.0) {
        return Mat3::IDENTITY;
    }
    let about = |axis: usize, degrees: f32| {
        let (s, c) = crate::bake::rays::sin_cos_turn(degrees / 360.0);
        let (a, b) = ((axis + 1) % 3, (axis + 2) % 3);
        let mut m = [[0.0f32; 3]; 3];
        m[axis][axis] = 1.0;
        (m[a][a], m[a][b], m[b][a], m[b][b]) = (c, s, -s, c);
        Mat3::from_cols_array_2d(&m)
    };
    (about(2, z) * about(1, y) * about(0, x)).transpose()
}

/// A few thousand places on their way into the pattern's space.
struct Places {
    p: [Vec<f32>; 3],
    n: [Vec<f32>; 3],
}

impl Placed {
    /// A pattern's field with its settings.
    pub fn new(pattern: &Pattern, settings: &Resolved) -> Self {
        Self::of((pattern.field)(settings), settings)
    }

    /// A field in the place that settings of [`specs`] say.
    pub fn of(field: Box<dyn Field>, settings: &Resolved) -> Self {
        Self { field, placement: Placement::new(settings) }
    }

    /// Values 0…1 of the covered texels from `start` on.
    pub fn fill(&self, surface: &Surface, start: usize, out: &mut [f32]) {
        let (a, t, range) = (&surface.atlas, &self.placement, start..start + out.len());
        if t.kind == Kind::Solid && t.is_plain() && t.stretch == Vec3::ONE {
            self.field.sample(&a.px[range.clone()], &a.py[range.clone()], &a.pz[range], out);
        } else {
            let scale = if t.with_piece { USUAL / surface.piece.diagonal().max(1e-6) } else { 1.0 };
            let copy = |v: &Vec<f32>| v[range.clone()].to_vec();
            let mut places =
                Places { p: [copy(&a.px), copy(&a.py), copy(&a.pz)], n: [copy(&a.nx), copy(&a.ny), copy(&a.nz)] };
            if t.kind == Kind::Uv {
                places.p = uv_places(surface, start, out.len());
            }
            places.enter(t, scale);
            self.lay(&places, surface.atlas.texel_length * scale, out);
        }
        if t.contrast != 1.0 {
            out.iter_mut().for_each(|v| *v = clamp(0.5 + (*v - 0.5) * t.contrast));
        }
    }

    fn lay(&self, places: &Places, texel: f32, out: &mut [f32]) {
        let t = &self.placement;
        let [x, y, z] = &places.p;
        let scaled = |v: &[f32], by: f32| v.iter().map(|c| c / by).collect::<Vec<f32>>();
        let on_plane = |u: &[f32], v: &[f32], out: &mut [f32]| {
            let zero = vec![0.0; u.len()];
            let texel = texel / t.stretch.x.max(t.stretch.y);
            self.field.sample_at(&scaled(u, t.stretch.x), &scaled(v, t.stretch.y), &zero, texel, out);
        };
        // Along the upright axis the plane lies flat; the other two stand, with the plane's y upright.
        let plane = |axis: usize| match axis {
            0 => (z, y),
            1 => (x, z),
            _ => (x, y),
        };
        match t.kind {
            Kind::Solid => {
                self.field.sample(&scaled(x, t.stretch.x), &scaled(y, t.stretch.y), &scaled(z, t.stretch.z), out);
            }
            Kind::Uv => on_plane(x, y, out),
            Kind::Planar => {
                let (u, v) = plane(t.axis);
                on_plane(u, v, out);
            }
            Kind::Cylindrical | Kind::Radial => {
                let (a, b) = (&places.p[(t.axis + 1) % 3], &places.p[(t.axis + 2) % 3]);
                let round: Vec<f32> = a.iter().zip(b).map(|(a, b)| libm::atan2f(*a, *b) * t.radius).collect();
                if t.kind == Kind::Cylindrical {
                    on_plane(&round, &places.p[t.axis], out);
                } else {
                    let outwards: Vec<f32> = a.iter().zip(b).map(|(a, b)| (a * a + b * b).sqrt()).collect();
                    on_plane(&outwards, &round, out);
                }
            }
            Kind::Triplanar => {
                out.fill(0.0);
                let shares = places.shares(t.sharpness);
                for axis in 0..3 {
                    let seen: Vec<usize> = (0..out.len()).filter(|i| shares[axis][*i] > LEAST).collect();
                    if seen.is_empty() {
                        continue;
                    }
                    let (u, v) = plane(axis);
                    // Each side has an arrangement of its own.
                    let far = axis as f32 * 1931.0;
                    let gather = |v: &[f32]| seen.iter().map(|i| v[*i] + far).collect::<Vec<f32>>();
                    let mut values = vec![0.0; seen.len()];
                    on_plane(&gather(u), &gather(v), &mut values);
                    for (i, value) in seen.iter().zip(values) {
                        out[*i] += shares[axis][*i] * value;
                    }
                }
            }
        }
    }
}

impl Places {
    /// Into the pattern's space: moved, turned, scaled, warped.
    fn enter(&mut self, t: &Placement, scale: f32) {
        for i in 0..self.p[0].len() {
            let p = Vec3::new(self.p[0][i], self.p[1][i], self.p[2][i]);
            let n = Vec3::new(self.n[0][i], self.n[1][i], self.n[2][i]);
            let (q, m) = (t.turn * (p - t.offset) * scale, t.turn * n);
            for a in 0..3 {
                (self.p[a][i], self.n[a][i]) = (q[a], m[a]);
            }
        }
        if t.warp > 0.0 {
            // Each axis is pulled by the same noise seen elsewhere.
            let pulls: [Vec<f32>; 3] = std::array::from_fn(|k| {
                let far = |v: &[f32], by: f32| v.iter().map(|c| c + by * k as f32).collect::<Vec<f32>>();
                let mut pull = vec![0.0; self.p[0].len()];
                sum(&t.noise, &far(&self.p[0], 613.0), &far(&self.p[1], -271.0), &self.p[2], &mut pull);
                pull
            });
            for (p, pull) in self.p.iter_mut().zip(&pulls) {
                p.iter_mut().zip(pull).for_each(|(p, by)| *p += by * t.warp);
            }
        }
    }

    /// How much each of the three sides counts; the shares add up to 1, but for those that are left out.
    fn shares(&self, sharpness: u32) -> [Vec<f32>; 3] {
        let mut out: [Vec<f32>; 3] =
            std::array::from_fn(|a| self.n[a].iter().map(|n| power(n.abs(), sharpness)).collect());
        for i in 0..out[0].len() {
            let sum = out.iter().map(|s| s[i]).sum::<f32>().max(1e-12);
            out.iter_mut().for_each(|s| s[i] /= sum);
            let kept = out.iter().map(|s| if s[i] > LEAST { s[i] } else { 0.0 }).sum::<f32>().max(1e-12);
            out.iter_mut().for_each(|s| s[i] = if s[i] > LEAST { s[i] / kept } else { 0.0 });
        }
        out
    }
}

/// Places along the UVs, in mm by the mean density of the piece; each sheet has its own.
fn uv_places(surface: &Surface, start: usize, n: usize) -> [Vec<f32>; 3] {
    let (a, side) = (&surface.atlas, surface.atlas.side);
    let along = |f: &dyn Fn([f32; 2]) -> f32| {
        let one = |i: usize| {
            let (uv, sheet) = a.uv(i);
            f(uv) * side + sheet as f32 * 3.0 * side
        };
        (start..start + n).map(one).collect::<Vec<f32>>()
    };
    [along(&|uv| uv[0]), along(&|uv| 1.0 - uv[1]), vec![0.0; n]]
}

/// xⁿ by squaring: the same bits everywhere.
#[inline(always)]
fn power(x: f32, n: u32) -> f32 {
    let (mut out, mut base, mut n) = (1.0, x, n);
    while n > 0 {
        if n & 1 == 1 {
            out *= base;
        }
        base *= base;
        n >>= 1;
    }
    out
}
