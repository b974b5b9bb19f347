//! Measurements: what costs rays. Each is taken once per piece, size and settings, and kept; its settings belong to the project. One file each, one line
//! each in [`MEASUREMENTS`]. Readings are what masks take of them.

mod curvature;
mod dust;
pub mod flow;
mod frost;
mod hidden;
mod occlusion;
mod rain;
mod rays;
mod sun;
mod thickness;
mod touch;

use std::collections::BTreeMap;

use glam::Vec3;
use rayon::prelude::*;

use super::atlas::metric;
use super::bvh::{Packet, WIDTH};
use super::frame::{barycentrics, drawn_in};
use super::shared::Others;
use super::{Solid, Surface, weather};
use crate::mesh::Piece;
use crate::raster::Plane;
use crate::setting::{DialStates, ParamSpec, Resolved, Settings, resolve};
use crate::task::{Cancel, Cancelled, OnProgress, Progress, silent};

/// Texels per batch: enough to keep packets coherent, and small enough that the cores share the work evenly.
const BATCH: usize = 2048;

/// What defaults are taken from: how large the piece is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Extent {
    /// Length of the bounding box's diagonal in mm.
    pub diagonal: f32,
}

impl Default for Extent {
    /// A piece as large as a gate valve.
    fn default() -> Self {
        Self { diagonal: 600.0 }
    }
}

impl Extent {
    /// Of a piece.
    pub fn of(piece: &Piece) -> Self {
        Self { diagonal: piece.diagonal() }
    }

    /// A length that is a share of the diagonal, to two significant places.
    pub fn share(self, of: f64) -> f64 {
        let length = f64::from(self.diagonal) * of;
        let unit = libm::exp10(libm::log10(length.max(1e-6)).floor() - 1.0);
        ((length / unit).round() * unit).clamp(0.01, 100_000.0)
    }
}

/// A run of covered texels to measure.
pub struct Run<'a> {
    /// The surface.
    pub surface: &'a Surface,
    /// What its rays meet.
    pub solid: &'a Solid,
    /// The covered texels.
    pub texels: &'a [u32],
    /// Where in each texel it is measured, from its centre, in texels.
    pub offset: [f32; 2],
    /// Somebody may ask to stop; then what is filled in is not used.
    pub cancel: &'a Cancel,
}

/// A measurement: description and computation.
pub struct Measurement {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// Its settings for a piece of that size.
    pub specs: fn(Extent) -> Vec<ParamSpec>,
    /// Settings of the weather that it follows, by key.
    pub weather: &'static [&'static str],
    /// The planes it consists of: key and label.
    pub planes: &'static [(&'static str, &'static str)],
    /// Whether it reads otherwise at every size, since a corner is sharper than a texel: small maps read it at a larger one.
    pub by_size: bool,
    /// How it is taken.
    pub work: Work,
}

/// How a measurement is taken.
pub enum Work {
    /// Texel by texel: fills a run of each plane with values 0…1.
    Texels(fn(&Run, &Resolved, &mut [&mut [f32]])),
    /// All of a surface at once, plane after plane.
    Surface(fn(&Surface, &Solid, &Resolved, &Cancel, OnProgress) -> Result<Plane, Cancelled>),
}

impl Measurement {
    /// All that it depends on for a piece of that size: its own settings and those of the weather that it follows.
    pub fn all_specs(&self, extent: Extent) -> Vec<ParamSpec> {
        let mut specs = (self.specs)(extent);
        specs.extend(weather::some(self.weather));
        specs
    }
}

/// What has settings that belong to the project, for a piece of that size: a measurement, or the weather. Its label and its own settings.
pub fn settings_of(kind: &str, extent: Extent) -> Option<(&'static str, Vec<ParamSpec>)> {
    if kind == weather::KIND {
        return Some((weather::LABEL, weather::specs()));
    }
    find(kind).map(|m| (m.label, (m.specs)(extent)))
}

/// All measurements.
pub static MEASUREMENTS: &[&Measurement] = &[
    &occlusion::MEASUREMENT,
    &curvature::MEASUREMENT,
    &thickness::MEASUREMENT,
    &rain::MEASUREMENT,
    &flow::MEASUREMENT,
    &sun::MEASUREMENT,
    &dust::MEASUREMENT,
    &touch::MEASUREMENT,
    &frost::MEASUREMENT,
];

/// The measurement of that kind.
pub fn find(kind: &str) -> Option<&'static Measurement> {
    MEASUREMENTS.iter().copied().find(|m| m.kind == kind)
}

/// The settings of a measurement out of those that a project keeps by kind: its own, and those of the weather that it follows.
pub fn settings_among(kept: &BTreeMap<String, Settings>, kind: &str) -> Settings {
    let mut own = kept.get(kind).cloned().unwrap_or_default();
    let follows = find(kind).map_or(&[][..], |m| m.weather);
    let weather = kept.get(weather::KIND).into_iter().flatten();
    own.extend(weather.filter(|(k, _)| follows.contains(&k.as_str())).map(|(k, v)| (k.clone(), v.clone())));
    own
}

/// A measurement with its settings: what a mask line needs and what is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct MeasurementKey {
    /// Kind of the measurement.
    pub kind: &'static str,
    /// Its settings.
    pub settings: Resolved,
    /// The size at which it is measured, where its values are drawn from another one.
    pub drawn_from: Option<u32>,
}

impl MeasurementKey {
    /// A measurement of a piece of that size, by a project's settings.
    pub fn new(measurement: &Measurement, extent: Extent, settings: &Settings) -> Self {
        let settings = resolve(&measurement.all_specs(extent), settings, &DialStates::new());
        Self { kind: measurement.kind, settings, drawn_from: None }
    }

    /// The same measured with few rays and no finer edges: good enough to look at until the real one is done.
    pub fn provisional(&self) -> Self {
        let rays = self.settings.number("rays").min(12.0);
        let settings = self.settings.clone().with_number("rays", f64::from(rays)).with_text("smooth", "off");
        Self { settings, ..self.clone() }
    }

    /// The same, measured at another size and drawn down or up from that.
    pub fn drawn_from(&self, size: u32) -> Self {
        Self { drawn_from: Some(size), ..self.clone() }
    }

    /// How much work it is on a surface, in rays.
    pub fn work(&self, texels: usize) -> f64 {
        texels as f64 * f64::from(self.settings.number("rays"))
    }

    /// blake3 over everything the values depend on: piece, size, kind and settings. Hex.
    pub fn hash(&self, piece_hash: &str, size: u32) -> String {
        let mut h = blake3::Hasher::new();
        h.update(b"measurement/4|").update(piece_hash.as_bytes()).update(&size.to_le_bytes());
        h.update(self.kind.as_bytes());
        self.hash_into(&mut h);
        h.finalize().to_hex().to_string()
    }

    /// How it is measured, without the piece and the size.
    pub fn hash_into(&self, h: &mut blake3::Hasher) {
        self.settings.hash_into(h);
        if let Some(from) = self.drawn_from {
            h.update(b"|drawn from").update(&from.to_le_bytes());
        }
    }
}

impl Run<'_> {
    /// Where the `i`-th texel of the run lies on what rays meet, drawn `by` mm in from its face's border, and the unit normal of that face.
    fn spot(&self, i: usize, by: f32) -> (Vec3, Vec3) {
        let (atlas, piece, i) = (&self.surface.atlas, &self.surface.piece, self.texels[i] as usize);
        let mut p = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
        let triangle = atlas.triangle[i];
        if self.offset != [0.0; 2] {
            let (du, dv) = metric(piece, triangle, atlas.size);
            p = inside(p + du * self.offset[0] + dv * self.offset[1], piece.corners(triangle));
        }
        let ([a, b, c], p) = self.solid.spot(piece, triangle, p);
        (drawn_in(p, [a, b, c], by), (b - a).cross(c - a).normalize_or(Vec3::Y))
    }

    /// In how many other solids each spot of the run lies, just outside of its own face: the winding number, as the mean over directions of what is crossed outwards less
    /// what is crossed inwards, so that an open end, or a sheet that lies over a spot, misleads none. [`WIDTH`] spots at a time; those of texels' centres are kept.
    fn depths(&self) -> Vec<[f32; WIDTH]> {
        let groups = self.texels.len().div_ceil(WIDTH);
        if self.offset == [0.0; 2]
            && let Some(known) = self.surface.found.depths.get()
        {
            let lane = |at: usize| self.texels.get(at).map_or(0.0, |i| f32::from(known[*i as usize]));
            return (0..groups).map(|g| std::array::from_fn(|l| lane(g * WIDTH + l))).collect();
        }
        let by = self.surface.piece.diagonal() * 4e-5;
        let spot = |i: usize| self.spot(i, by);
        let far = self.surface.piece.diagonal() * 2.0;
        let all = |group: usize| {
            let first = group * WIDTH;
            let spots: [_; WIDTH] = std::array::from_fn(|l| (first + l < self.texels.len()).then(|| spot(first + l)));
            let mut sum = [0.0f32; WIDTH];
            for way in AROUND {
                let mut packet = Packet::default();
                for (l, (place, normal)) in spots.iter().enumerate().filter_map(|(l, s)| Some((l, (*s)?))) {
                    packet.set(l, (place + normal * far * 1e-6).to_array(), way, 0.0, far);
                }
                sum.iter_mut().zip(self.solid.bvh.depth(&packet)).for_each(|(s, d)| *s += d / AROUND.len() as f32);
            }
            let mut depth = sum.map(|w| (w + 1.0 - SURELY).floor().max(0.0));
            let unsure: [bool; WIDTH] =
                std::array::from_fn(|l| (DOUBTFUL..SURELY).contains(&(sum[l] - sum[l].floor())));
            if unsure.contains(&true) {
                let shut = self.shut_in(&spots, unsure, far);
                (0..WIDTH).for_each(|l| depth[l] += if shut[l] { 1.0 } else { 0.0 });
            }
            depth
        };
        (0..groups).map(all).collect()
    }

    /// Which of some spots nothing can see: all ways out from them are barred. So is what lies below a shell that stands on it with an open end, and not what lies
    /// below a sheet.
    fn shut_in(&self, spots: &[Option<(Vec3, Vec3)>; WIDTH], asked: [bool; WIDTH], far: f32) -> [bool; WIDTH] {
        let mut shut = asked;
        for ray in 0..WAYS_OUT {
            let mut packet = Packet::default();
            let mut sent = [false; WIDTH];
            // Spread evenly: a spiral by the golden angle.
            let y = 1.0 - (2.0 * ray as f32 + 1.0) / WAYS_OUT as f32;
            let (sin, cos) = libm::sincosf(ray as f32 * 2.399_963_2);
            let way = Vec3::new(cos, 0.0, sin) * (1.0 - y * y).sqrt() + Vec3::Y * y;
            for (l, (place, normal)) in spots.iter().enumerate().filter_map(|(l, s)| Some((l, (*s)?))) {
                if shut[l] && way.dot(normal) > 0.02 {
                    sent[l] = true;
                    packet.set(l, (place + normal * far * 1e-6).to_array(), way.to_array(), 0.0, far);
                }
            }
            let barred = self.solid.bvh.occluded(&mut packet);
            (0..WIDTH).for_each(|l| shut[l] &= !sent[l] || barred[l]);
        }
        shut
    }

    /// Unit shading normal of the `i`-th texel of the run.
    fn normal(&self, i: usize) -> Vec3 {
        let (atlas, i) = (&self.surface.atlas, self.texels[i] as usize);
        Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i])
    }
}

/// A point of a triangle's plane, drawn into the triangle if it lies outside (by clamping its barycentrics).
fn inside(p: Vec3, corners: [Vec3; 3]) -> Vec3 {
    let [a, b, c] = corners;
    let Some(weights) = barycentrics(p, corners) else { return a };
    let weights = weights.max(Vec3::ZERO);
    let weights = weights / weights.element_sum();
    a * weights.x + b * weights.y + c * weights.z
}

/// Winding number from which on a spot lies within a solid: under a sheet that covers half of what it sees, one side of it, it is ½.
const SURELY: f32 = 0.75;
/// Winding number from which on it may lie within one that is open where it stands on the spot's own.
const DOUBTFUL: f32 = 0.35;
/// Directions that are tried for a way out of such a place.
const WAYS_OUT: u32 = 96;
/// Directions in which it is asked how deep a spot lies in other solids: the corners of an icosahedron, turned off all axes.
const AROUND: [[f32; 3]; 12] = [
    [0.174429, -0.002729, 0.984666],
    [-0.616742, 0.708524, -0.342962],
    [0.616742, -0.708524, 0.342962],
    [-0.174429, 0.002729, -0.984666],
    [0.051685, 0.892791, 0.447496],
    [0.767363, -0.249210, -0.590803],
    [-0.767363, 0.249210, 0.590803],
    [-0.051685, -0.892791, -0.447496],
    [0.907109, 0.300878, 0.294322],
    [0.418139, 0.740457, -0.526197],
    [-0.418139, -0.740457, 0.526197],
    [-0.907109, -0.300878, -0.294322],
];
/// Places in a texel at which texels on edges are measured again, in texels from the centre: a rotated grid.
const PLACES: [[f32; 2]; 4] = [[-0.125, -0.375], [0.375, -0.125], [0.125, 0.375], [-0.375, 0.125]];
/// A texel whose neighbour's value differs by more than this lies on an edge.
const EDGE: f32 = 0.12;

/// Measures over the whole surface on all cores: the planes one after the other. The same bytes for every thread count.
///
/// Texels whose neighbours read quite otherwise are measured at four more places, so that an edge is as smooth as the texels allow; with settings that have
/// `smooth` off they are not.
///
/// # Errors
/// [`Cancelled`] when asked to stop, within a few milliseconds.
pub fn measure(
    measurement: &Measurement,
    surface: &Surface,
    settings: &Resolved,
    cancel: &Cancel,
    on: OnProgress,
) -> Result<Plane, Cancelled> {
    let solid = surface.solid(cancel)?;
    let label = format!("Measuring {}", measurement.label.to_lowercase());
    let progress = Progress::new(label, surface.atlas.len().div_ceil(BATCH), on);
    let hidden = hidden(surface, solid, cancel)?;
    let fill = match measurement.work {
        Work::Texels(fill) => fill,
        Work::Surface(take) => {
            let mut out = take(surface, solid, settings, cancel, on)?;
            if hidden.contains(&true) {
                hidden::carry_on(surface, &mut out, &hidden);
            }
            return Ok(out);
        }
    };
    let work = Taking { planes: measurement.planes.len(), fill, solid, settings, progress: &progress, cancel };
    let mut out = work.centres(surface)?;
    if settings.text("smooth") == "on" {
        work.edges(surface, &hidden, &mut out)?;
    }
    if let Some(others) = surface.others() {
        self::hidden(&others.surface, solid, cancel)?;
        work.others(others, surface.atlas.len(), &mut out)?;
    }
    if hidden.contains(&true) {
        hidden::carry_on(surface, &mut out, &hidden);
    }
    Ok(out)
}

/// What is measured of a surface, and how.
struct Taking<'a> {
    planes: usize,
    fill: fn(&Run, &Resolved, &mut [&mut [f32]]),
    solid: &'a Solid,
    settings: &'a Resolved,
    progress: &'a Progress<'a>,
    cancel: &'a Cancel,
}

impl Taking<'_> {
    /// The values of texels, plane by plane, so far from their centres.
    fn fill(&self, surface: &Surface, texels: &[u32], offset: [f32; 2]) -> Vec<f32> {
        let mut values = vec![0.0; texels.len() * self.planes];
        let mut planes: Vec<&mut [f32]> = values.chunks_mut(texels.len()).collect();
        let run = Run { surface, solid: self.solid, texels, offset, cancel: self.cancel };
        (self.fill)(&run, self.settings, &mut planes);
        values
    }

    /// Every texel at its centre.
    fn centres(&self, surface: &Surface) -> Result<Plane, Cancelled> {
        let all: Vec<u32> = (0..surface.atlas.len() as u32).collect();
        let n = self.planes;
        let mut out = vec![0.0; all.len() * n];
        let centre = |texels: &[u32]| self.fill(surface, texels, [0.0; 2]);
        for (start, values) in batches(&all, &centre, self.progress, self.cancel)? {
            put(&mut out, all.len(), &all[start..start + values.len() / n], &values);
        }
        Ok(out)
    }

    /// Texels on edges of what was measured, again: the mean over four places in each, of those that can be seen.
    fn edges(&self, surface: &Surface, hidden: &[bool], out: &mut [f32]) -> Result<(), Cancelled> {
        let n = self.planes;
        let edges = on_edges(surface, out, n, hidden);
        let again = |texels: &[u32]| {
            let mut sum = vec![0.0f32; texels.len() * n];
            let mut seen = vec![0.0f32; texels.len()];
            for offset in PLACES {
                let run = Run { surface, solid: self.solid, texels, offset, cancel: self.cancel };
                let depths = if self.solid.sunken { run.depths() } else { vec![] };
                let counts = |i: usize| depths.get(i / WIDTH).is_none_or(|d| d[i % WIDTH] == 0.0);
                let values = self.fill(surface, texels, offset);
                for i in (0..texels.len()).filter(|i| counts(*i)) {
                    seen[i] += 1.0;
                    (0..n).for_each(|plane| sum[plane * texels.len() + i] += values[plane * texels.len() + i]);
                }
            }
            // Where each place lies within another shell the texel stays as it is.
            (0..sum.len()).map(|k| sum[k] / seen[k % texels.len()]).collect()
        };
        for (start, values) in batches(&edges, &again, self.progress, self.cancel)? {
            put(out, surface.atlas.len(), &edges[start..start + values.len() / n], &values);
        }
        Ok(())
    }

    /// What else lies on shared texels, into the mean of each of the `len` texels. What lies within another shell there tells nothing and is left out.
    fn others(&self, others: &Others, len: usize, out: &mut [f32]) -> Result<(), Cancelled> {
        let n = self.planes;
        let depths = others.surface.found.depths.get();
        let texels: Vec<u32> =
            (0..others.of.len() as u32).filter(|i| depths.is_none_or(|d| d[*i as usize] == 0)).collect();
        let mut count = vec![1.0f32; len];
        texels.iter().for_each(|i| count[others.of[*i as usize] as usize] += 1.0);
        let centre = |texels: &[u32]| self.fill(&others.surface, texels, [0.0; 2]);
        for (start, values) in batches(&texels, &centre, self.progress, self.cancel)? {
            let run = values.len() / n;
            for (k, v) in values.into_iter().enumerate() {
                out[k / run * len + others.of[texels[start + k % run] as usize] as usize] += v;
            }
        }
        out.chunks_exact_mut(len).for_each(|plane| plane.iter_mut().zip(&count).for_each(|(v, n)| *v /= n));
        Ok(())
    }
}

/// Which texels lie within another shell; none of them where no shells lie in one another. How deep each lies is kept.
pub(super) fn hidden(surface: &Surface, solid: &Solid, cancel: &Cancel) -> Result<Vec<bool>, Cancelled> {
    if !solid.sunken {
        return Ok(vec![]);
    }
    if surface.found.depths.get().is_none() {
        let all: Vec<u32> = (0..surface.atlas.len() as u32).collect();
        let work = |texels: &[u32]| {
            cancel.check()?;
            let depths = Run { surface, solid, texels, offset: [0.0; 2], cancel }.depths();
            Ok(depths.into_iter().flatten().take(texels.len()).map(|d| d.min(255.0) as u8).collect::<Vec<u8>>())
        };
        let known: Vec<Vec<u8>> = all.par_chunks(BATCH).map(work).collect::<Result<_, Cancelled>>()?;
        // Whoever comes second has found the same.
        _ = surface.found.depths.set(known.concat());
    }
    Ok(surface.found.depths.get().expect("it was set").iter().map(|d| *d > 0).collect())
}

/// As many covered texels as are measured where it is to be seen at once.
const AT_ONCE: usize = 60_000;

/// The same at a size that is measured in a moment, drawn up to the surface's own: to look at until the real one is done. Edges are as soft as the texels
/// of that size are long.
///
/// # Errors
/// [`Cancelled`] when asked to stop, within a few milliseconds.
pub fn measure_coarsely(
    measurement: &Measurement,
    surface: &Surface,
    settings: &Resolved,
    cancel: &Cancel,
) -> Result<Plane, Cancelled> {
    // Each goes through all triangles, mostly by itself: among millions that is waited for.
    let (solid, levels) = rayon::join(
        || surface.solid(cancel).map(|_| ()),
        || {
            let levels = surface.down_to_texels(AT_ONCE);
            levels.windows(2).for_each(|pair| _ = pair[0].between());
            levels
        },
    );
    solid?;
    let planes = measure(measurement, levels[levels.len() - 1], settings, cancel, &silent)?;
    Ok(Surface::drawn_up(&levels, &planes))
}

type Batches = Vec<(usize, Vec<f32>)>;

fn batches(
    texels: &[u32],
    work: &(dyn Fn(&[u32]) -> Vec<f32> + Sync),
    progress: &Progress,
    cancel: &Cancel,
) -> Result<Batches, Cancelled> {
    texels
        .par_chunks(BATCH)
        .enumerate()
        .map(|(b, chunk)| {
            cancel.check()?;
            let values = work(chunk);
            cancel.check()?;
            progress.advance();
            Ok((b * BATCH, values))
        })
        .collect()
}

/// Scatters a batch's planes into the whole ones; what is no number leaves what is there.
fn put(out: &mut [f32], len: usize, texels: &[u32], values: &[f32]) {
    for (plane, values) in values.chunks_exact(texels.len()).enumerate() {
        for (t, v) in texels.iter().zip(values).filter(|(_, v)| !v.is_nan()) {
            out[plane * len + *t as usize] = *v;
        }
    }
}

/// Covered texels with a neighbour, right or below or left or above, that reads quite otherwise in some plane; of those that can be seen.
fn on_edges(surface: &Surface, values: &[f32], planes: usize, hidden: &[bool]) -> Vec<u32> {
    let (atlas, len) = (&surface.atlas, surface.atlas.len());
    let differs = |i: usize, j: usize| (0..planes).any(|p| (values[p * len + i] - values[p * len + j]).abs() > EDGE);
    let seen = |i: usize| hidden.get(i).is_none_or(|h| !h);
    let edge = |i: &u32| seen(*i as usize) && atlas.neighbours(*i).any(|j| seen(j) && differs(*i as usize, j));
    (0..len as u32).into_par_iter().filter(edge).collect()
}

/// The setting that all measurements have: whether edges are measured more finely.
fn smooth_spec() -> ParamSpec {
    ParamSpec::choice(
        "smooth",
        "At edges",
        &[("on", "finer"), ("off", "the same")],
        "Texels on an edge of the reading are measured at four more places, or only at their centres.",
    )
}
