//! Pieces small enough to know everything about, and short ways to measure and evaluate on them.

use std::collections::BTreeMap;
use std::sync::Arc;

use dustcoat_core::bake::{Extent, Measurement, MeasurementKey, Surface, measure, reading};
use dustcoat_core::document::{Dial, Document, Edit, Layer, LayerKind, Target, apply};
use dustcoat_core::evaluate::{Cache, Context, Evaluation, Measured, evaluate, needs};
use dustcoat_core::finish::{ChannelUse, Finish};
use dustcoat_core::mask::{Join, MaskLine, Step};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::raster::Plane;
use dustcoat_core::setting::{Drive, Param, Settings};
use dustcoat_core::task::{Cancel, silent};
use glam::Vec3;

const NOT_GIVEN: [f32; 3] = [0.0; 3];

/// Adds a flat quadrilateral whose corners run counter-clockwise seen from outside, with a UV rectangle (u0, v0, u1, v1).
pub fn quad(soup: &mut Soup, part: &str, corners: [[f32; 3]; 4], [u0, v0, u1, v1]: [f32; 4]) {
    let part = soup.part(part);
    let uvs = [[u0, v1], [u1, v1], [u1, v0], [u0, v0]];
    for t in [[0, 1, 2], [0, 2, 3]] {
        soup.push(part, t.map(|k| (corners[k], NOT_GIVEN, uvs[k])));
    }
}

pub fn built(soup: Soup) -> Arc<Piece> {
    Arc::new(Piece::build(soup).unwrap())
}

/// The mean of a plane over the texels whose place is among those asked for.
pub fn mean_where(surface: &Surface, plane: &[f32], holds: impl Fn(Vec3, Vec3) -> bool) -> f64 {
    let a = &surface.atlas;
    let there = (0..a.len())
        .filter(|i| {
            let (at, n) = (Vec3::new(a.px[*i], a.py[*i], a.pz[*i]), Vec3::new(a.nx[*i], a.ny[*i], a.nz[*i]));
            a.area[*i] > 0.0 && holds(at, n)
        })
        .map(|i| f64::from(plane[i]));
    let (sum, n) = there.fold((0.0, 0.0), |(s, n), v| (s + v, n + 1.0));
    assert!(n > 0.0, "no texel lies there");
    sum / n
}

/// A square of `side` mm in the plane y = 0 around the origin, facing up, filling the UV square.
pub fn plate(side: f32) -> Arc<Piece> {
    let mut soup = Soup::default();
    let h = side / 2.0;
    quad(&mut soup, "plate", [[-h, 0.0, h], [h, 0.0, h], [h, 0.0, -h], [-h, 0.0, -h]], [0.0, 0.0, 1.0, 1.0]);
    Arc::new(Piece::build(soup).unwrap())
}

/// A closed box from `min` to `max`; its faces +x, −x, +y, −y, +z, −z are parts of those names, in a grid of three by two charts.
pub fn add_box(soup: &mut Soup, min: [f32; 3], max: [f32; 3], uv: [f32; 4]) {
    for (i, name) in ["+x", "-x", "+y", "-y", "+z", "-z"].iter().enumerate() {
        let axis = i / 2;
        let (a, b) = ((axis + 1) % 3, (axis + 2) % 3);
        let outwards = i % 2 == 0;
        let corner = |s: bool, t: bool| {
            let mut p = [0.0; 3];
            p[axis] = if outwards { max[axis] } else { min[axis] };
            p[a] = if s { max[a] } else { min[a] };
            p[b] = if t { max[b] } else { min[b] };
            p
        };
        let mut corners = [corner(false, false), corner(true, false), corner(true, true), corner(false, true)];
        if !outwards {
            corners.reverse();
        }
        let (w, h) = ((uv[2] - uv[0]) / 3.0, (uv[3] - uv[1]) / 2.0);
        let (u, v) = (uv[0] + (i % 3) as f32 * w, uv[1] + (i / 3) as f32 * h);
        let gap = 0.01;
        quad(soup, name, corners, [u + gap, v + gap, u + w - gap, v + h - gap]);
    }
}

/// A sphere around the origin, smooth, one chart along longitude and latitude, cut at the back (azimuth ±180°).
pub fn sphere(radius: f32) -> Arc<Piece> {
    sphere_of(radius, 128, 64)
}

/// The same of so many quads across and down.
pub fn sphere_of(radius: f32, across: u32, down: u32) -> Arc<Piece> {
    turned("sphere", [across, down], [true; 2], |around, u, v| {
        let (azimuth, height) = ((around - 0.5) * std::f32::consts::TAU, (0.5 - v) * std::f32::consts::PI);
        let n = [height.cos() * azimuth.cos(), height.sin(), height.cos() * azimuth.sin()];
        (n.map(|c| c * radius), n, [u, v])
    })
}

/// Place, normal and UV of a corner.
pub type Corner = ([f32; 3], [f32; 3], [f32; 2]);

/// A surface of revolution of so many quads across and down, which may end in a point above and below: `corner` is given the share of the turn, the same on both sides of the
/// cut, the same as it goes on beyond the cut, and the share of the way down.
pub fn turned(
    name: &str,
    [across, down]: [u32; 2],
    ends_in_points: [bool; 2],
    corner: impl Fn(f32, f32, f32) -> Corner,
) -> Arc<Piece> {
    let at = |i: u32, j: u32| {
        let share = |i: u32| i as f32 / across as f32;
        corner(share(i % across), share(i), j as f32 / down as f32)
    };
    let mut soup = Soup::default();
    let part = soup.part(name);
    for (i, j) in (0..down).flat_map(|j| (0..across).map(move |i| (i, j))) {
        let [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
        if j > 0 || !ends_in_points[0] {
            soup.push(part, [a, b, c]);
        }
        if j + 1 < down || !ends_in_points[1] {
            soup.push(part, [a, c, d]);
        }
    }
    Arc::new(Piece::build(soup).unwrap())
}

/// A cylinder without ends, 200 mm long, around the y axis, cut at the back.
pub fn cylinder(radius: f32) -> Arc<Piece> {
    turned("cylinder", [256, 1], [false; 2], |around, u, v| {
        let (turn, up) = (around * std::f32::consts::TAU, 1.0 - v);
        let n = [-turn.cos(), 0.0, turn.sin()];
        ([n[0] * radius, (0.5 - up) * 200.0, n[2] * radius], n, [u, up])
    })
}

pub fn cube(side: f32) -> Arc<Piece> {
    let mut soup = Soup::default();
    let h = side / 2.0;
    add_box(&mut soup, [-h; 3], [h; 3], [0.0, 0.0, 1.0, 1.0]);
    Arc::new(Piece::build(soup).unwrap())
}

/// A reading with settings of its measurement and of its own, measured on all cores.
pub fn measured(surface: &Surface, kind: &str, settings: &[(&str, Param)]) -> Plane {
    let r = reading::find(kind).unwrap();
    let given: Settings = settings.iter().map(|(k, v)| ((*k).to_owned(), v.clone())).collect();
    let planes = r.measurement().map(|m| planes(surface, m, &given));
    r.plane(surface, &r.settings(&given, &given), planes.as_ref())
}

/// What a mask covers, in mm².
pub fn area(surface: &Surface, mask: &[f32]) -> f64 {
    mask.iter().zip(&surface.atlas.area).map(|(m, a)| f64::from(*m) * f64::from(*a)).sum()
}

pub fn planes(surface: &Surface, m: &Measurement, settings: &Settings) -> Plane {
    let key = MeasurementKey::new(m, Extent::of(&surface.piece), settings);
    measure(m, surface, &key.settings, &Cancel::default(), &silent).unwrap()
}

/// Numbers as settings.
pub fn numbers<const N: usize>(of: [(&'static str, f64); N]) -> [(&'static str, Param); N] {
    of.map(|(k, v)| (k, v.into()))
}

pub fn step(join: Join, kind: &str, settings: &[(&str, Param)]) -> Step {
    let settings = settings.iter().map(|(k, v)| ((*k).to_owned(), v.clone())).collect();
    Step {
        id: String::new(),
        on: true,
        join,
        amount: 1.0.into(),
        kind: kind.into(),
        settings,
        strokes: Default::default(),
        spot: None,
        note: String::new(),
    }
}

/// A setting of a step.
pub fn of_step(layer: &str, step: &str, key: &str) -> Target {
    Target { step: Some(step.into()), ..of_layer(layer, key) }
}

/// A setting of a channel.
pub fn of_channel(layer: &str, channel: &str, key: &str) -> Target {
    Target { channel: Some(channel.into()), ..of_layer(layer, key) }
}

/// A setting of a layer itself.
pub fn of_layer(layer: &str, key: &str) -> Target {
    Target { layer: Some(layer.into()), key: key.into(), ..Target::default() }
}

/// A coat with all four channels on.
pub fn coat(id: &str, color: &str, steps: Vec<Step>) -> Layer {
    let mut steps = steps;
    for (i, s) in steps.iter_mut().enumerate() {
        s.id = format!("s{}", i + 1);
    }
    let on = |list: &[(&str, Param)]| ChannelUse {
        on: true,
        settings: list.iter().map(|(k, v)| ((*k).to_owned(), v.clone())).collect(),
    };
    let channels = BTreeMap::from([
        ("base_color".to_owned(), on(&[("color", color.into())])),
        ("roughness".to_owned(), on(&[("value", 0.25.into())])),
        ("metallic".to_owned(), on(&[("value", 1.0.into())])),
        ("height".to_owned(), on(&[("value", 0.5.into())])),
    ]);
    Layer {
        id: id.into(),
        name: format!("Coat {id}"),
        shown: true,
        opacity: 1.0.into(),
        mask: MaskLine { steps },
        publish: None,
        note: String::new(),
        kind: LayerKind::Coat { finish: Finish { channels } },
    }
}

pub fn group(id: &str, layers: Vec<Layer>) -> Layer {
    Layer { kind: LayerKind::Group { layers }, mask: MaskLine::default(), ..coat(id, "#000000", vec![]) }
}

pub fn document(layers: Vec<Layer>) -> Document {
    Document { layers, ..Document::new("Test piece") }
}

/// Evaluates with a cache of its own, measuring what is needed.
pub fn evaluated(document: &Document, surface: &Surface) -> Evaluation {
    evaluated_with(document, surface, &Cache::new(1 << 28))
}

pub fn evaluated_with(document: &Document, surface: &Surface, cache: &Cache) -> Evaluation {
    with_context(document, surface, cache, |context| evaluate(document, context).unwrap())
}

/// What can be done with a document's context on a surface, everything that it needs measured.
pub fn with_context<R>(document: &Document, surface: &Surface, cache: &Cache, go: impl FnOnce(&Context) -> R) -> R {
    let keys = needs(document, &surface.piece);
    let measured = Measured::take(&keys, surface, &Cancel::default(), &silent).unwrap();
    go(&Context { surface, measured: &measured, cache, cancel: &Cancel::default(), progress: &silent })
}

/// A random number generator for oracles (xorshift of Marsaglia 2003): 0…1.
pub struct Dice(pub u64);

impl Dice {
    pub fn roll(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }
}

/// The document with a dial of that description added, which drives a setting from one number to another.
pub fn driven_by(d: &Document, dial: Dial, target: &Target, low: f64, high: f64) -> Document {
    let d = apply(d, &Edit::AddDial { dial }).unwrap();
    let drive = Drive::ranged(&d.dials.last().unwrap().id, low, high);
    apply(&d, &Edit::SetParam { target: target.clone(), value: Some(drive.into()) }).unwrap()
}
