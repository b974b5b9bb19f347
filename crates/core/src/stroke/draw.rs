//! What strokes make of a mask, texel by texel.
//!
//! A stroke covers a place by its distance from the nearest of its segments, so that drawing back and forth within one stroke lays down no more than once. Covered by c, m becomes
//! m + (value − m)·c; many strokes in a row are m·keep + add, whatever m was ([`State`]).
//!
//! *A stroke stays on the side that it was drawn on*: a place counts as far as its normal points the way of the stroke's (fully up to about 70°, nothing from about 84° on), and as far as it lies
//! in the stroke's plane (fully up to half a radius above or below it, nothing from seven tenths on). So it goes through no sheet, over no sharp edge and into no fold that it did not touch.

use std::sync::{Arc, OnceLock};

use glam::Vec3;
use rayon::prelude::*;

use super::index::{Bounds, Tree};
use super::track::Track;
use super::{Pressed, Stroke, Strokes};
use crate::bake::Surface;
use crate::bake::atlas::NONE;
use crate::mesh::Piece;
use crate::task::{Cancel, Cancelled};

/// Segments per box of the tree.
const CHUNK: usize = 8;
/// Covered texels that are looked up in the tree together: they lie in a row.
const RUN: usize = 64;
/// Texels per task.
const BATCH: usize = 4096;

/// What strokes do to whatever mask comes before them: m ← m·keep + add, one of each per covered texel.
#[derive(Debug, Clone, PartialEq)]
pub struct State {
    /// What is laid down, and then what is left of the mask before.
    pub planes: Vec<f32>,
}

impl State {
    /// Before any stroke.
    pub fn untouched(texels: usize) -> State {
        let mut planes = vec![0.0; texels * 2];
        planes[texels..].fill(1.0);
        State { planes }
    }
}

/// Strokes that are ready to be drawn on a piece.
pub struct Drawing {
    strokes: Strokes,
    made: OnceLock<Made>,
}

struct Made {
    brushes: Vec<Brush>,
    /// Of each box of the tree: its brush, and its first segment and the one after its last.
    chunks: Vec<(u32, u32, u32)>,
    tree: Tree,
}

struct Brush {
    track: Arc<Track>,
    radius: f32,
    hardness: f32,
    flow: f32,
    value: f32,
    pressed: Pressed,
    /// The shell it stays on; [`NONE`] for one that goes over all.
    shell: u32,
}

impl Brush {
    fn new(stroke: &Stroke, piece: &Piece) -> Option<Brush> {
        let track = stroke.points.track().filter(|_| stroke.shown)?.clone();
        let shell = if stroke.one_shell { shell_near(piece, track.points[0].at) } else { NONE };
        Some(Brush::of(stroke, track, shell))
    }

    fn of(stroke: &Stroke, track: Arc<Track>, shell: u32) -> Brush {
        Brush {
            radius: stroke.radius as f32,
            hardness: stroke.hardness as f32,
            flow: stroke.flow as f32,
            value: if stroke.take { 0.0 } else { stroke.value as f32 },
            pressed: stroke.pressed,
            shell,
            track,
        }
    }

    /// Its segments; a single point is one without length.
    fn segments(&self) -> u32 {
        (self.track.points.len().max(2) - 1) as u32
    }
}

/// The shell with the corner that lies nearest to a place.
fn shell_near(piece: &Piece, p: Vec3) -> u32 {
    let far = |v: u32| Vec3::from(piece.positions[v as usize]).distance_squared(p);
    let nearest = |t: &[u32; 3]| t.iter().map(|v| far(*v)).fold(f32::INFINITY, f32::min);
    let all = piece.triangles.par_iter().zip(&piece.shell_of).map(|(t, shell)| (nearest(t), *shell));
    all.reduce(|| (f32::INFINITY, NONE), |a, b| if b.0 < a.0 || (b.0 == a.0 && b.1 < a.1) { b } else { a }).1
}

impl Drawing {
    /// Of strokes in their order.
    pub fn new(strokes: Strokes) -> Drawing {
        Drawing { strokes, made: OnceLock::new() }
    }

    fn made(&self, piece: &Piece) -> &Made {
        self.made.get_or_init(|| {
            let brushes: Vec<Brush> = self.strokes.iter().filter_map(|s| Brush::new(s, piece)).collect();
            let (mut chunks, mut boxes) = (vec![], vec![]);
            for (b, brush) in brushes.iter().enumerate() {
                for first in (0..brush.segments()).step_by(CHUNK) {
                    let last = (first + CHUNK as u32).min(brush.segments());
                    chunks.push((b as u32, first, last));
                    let points = brush.track.points.iter().skip(first as usize).take((last - first) as usize + 1);
                    boxes.push(points.fold(Bounds::EMPTY, |all, p| all.with(p.at)).grown(brush.radius));
                }
            }
            Made { brushes, chunks, tree: Tree::build(boxes) }
        })
    }

    /// Draws over what was drawn before, on the whole surface: only where a stroke comes near is anything worked out.
    ///
    /// # Errors
    /// [`Cancelled`] when asked to stop.
    pub fn over(&self, surface: &Surface, state: State, cancel: &Cancel) -> Result<State, Cancelled> {
        let (made, texels) = (self.made(&surface.piece), surface.atlas.len());
        let mut planes = state.planes;
        let (add, keep) = planes.split_at_mut(texels);
        add.par_chunks_mut(BATCH).zip(keep.par_chunks_mut(BATCH)).enumerate().try_for_each(|(b, (add, keep))| {
            cancel.check()?;
            made.draw(surface, b * BATCH, add, keep);
            Ok(())
        })?;
        Ok(State { planes })
    }

    /// What is laid down at the covered texels from `start` on, and what is left there of the mask before.
    pub fn fill(&self, surface: &Surface, start: usize, add: &mut [f32], keep: &mut [f32]) {
        add.fill(0.0);
        keep.fill(1.0);
        self.made(&surface.piece).draw(surface, start, add, keep);
    }
}

impl Made {
    fn draw(&self, surface: &Surface, start: usize, add: &mut [f32], keep: &mut [f32]) {
        let atlas = &surface.atlas;
        let place = |i: usize| Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
        let mut near = vec![];
        for (r, (add, keep)) in add.chunks_mut(RUN).zip(keep.chunks_mut(RUN)).enumerate() {
            let first = start + r * RUN;
            let texels = first..first + add.len();
            // A hard border reaches half a texel beyond the radius.
            let bounds =
                texels.clone().fold(Bounds::EMPTY, |all, i| all.with(place(i))).grown(atlas.texel_length * 0.5);
            self.tree.meeting(&bounds, &mut near);
            for group in near.chunk_by(|a, b| self.chunks[*a as usize].0 == self.chunks[*b as usize].0) {
                let brush = &self.brushes[self.chunks[group[0] as usize].0 as usize];
                let mut covered = [0.0f32; RUN];
                for chunk in group {
                    let (_, from, to) = self.chunks[*chunk as usize];
                    for segment in from..to {
                        brush.cover(surface, segment as usize, first, &mut covered[..add.len()]);
                    }
                }
                for ((add, keep), c) in add.iter_mut().zip(keep.iter_mut()).zip(&covered) {
                    *add += (brush.value - *add) * c;
                    *keep -= *keep * c;
                }
            }
        }
    }
}

impl Brush {
    /// Takes in how far a segment covers some texels in a row.
    fn cover(&self, surface: &Surface, segment: usize, first: usize, covered: &mut [f32]) {
        let atlas = &surface.atlas;
        for (i, covered) in (first..).zip(covered) {
            if self.shell != NONE && surface.piece.shell_of[atlas.triangle[i] as usize] != self.shell {
                continue;
            }
            let p = Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
            let n = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
            *covered = covered.max(self.cover_at(segment, p, n, atlas.texel_length));
        }
    }

    /// How far a segment covers a place with its normal; a border is never sharper than `texel` mm.
    #[inline]
    fn cover_at(&self, segment: usize, p: Vec3, n: Vec3, texel: f32) -> f32 {
        let points = &self.track.points;
        let (a, b) = (&points[segment], &points[(segment + 1).min(points.len() - 1)]);
        let along = b.at - a.at;
        let t = ((p - a.at).dot(along) / along.length_squared().max(1e-12)).clamp(0.0, 1.0);
        let off = p - (a.at + along * t);
        let pressure = a.pressure + (b.pressure - a.pressure) * t;
        let (wide, much) = match self.pressed {
            Pressed::Flow => (1.0, pressure),
            Pressed::Width => (pressure, 1.0),
            Pressed::Both => (pressure, pressure),
            Pressed::Nothing => (1.0, 1.0),
        };
        let radius = self.radius * wide;
        let far = off.length_squared();
        let reach = radius + texel * 0.5;
        if far >= reach * reach {
            return 0.0;
        }
        let normal = a.normal + (b.normal - a.normal) * t;
        let normal = normal / normal.length().max(1e-6);
        let depth = off.dot(normal).abs() / radius.max(1e-6);
        profile(far.sqrt(), radius, self.hardness, texel)
            * rise(0.1, 0.35, normal.dot(n))
            * (1.0 - rise(0.5, 0.7, depth))
            * self.flow
            * much
    }
}

/// The ids of the strokes that cover a place of a piece, given with its normal, the topmost first. Whether they stay on one shell is not asked.
pub fn covering(strokes: &[Stroke], at: Vec3, normal: Vec3) -> Vec<&str> {
    /// As much as can be seen.
    const SEEN: f32 = 0.02;
    let covers = |stroke: &Stroke| {
        let track = stroke.points.track().filter(|_| stroke.shown)?.clone();
        let brush = Brush::of(stroke, track, NONE);
        (0..brush.segments()).any(|s| brush.cover_at(s as usize, at, normal, 0.01) > SEEN).then_some(())
    };
    strokes.iter().rev().filter(|s| covers(s).is_some()).map(|s| s.id.as_str()).collect()
}

/// How much of a brush is laid down so far from its middle: even up to its hard share, then falling to its border; the border is never sharper than a texel.
fn profile(far: f32, radius: f32, hardness: f32, texel: f32) -> f32 {
    let soft = radius * (1.0 - hardness);
    let (from, to) = if soft >= texel { (radius - soft, radius) } else { (radius - texel * 0.5, radius + texel * 0.5) };
    1.0 - rise(from, to, far)
}

/// 0 up to `from`, 1 from `to` on, smooth between.
fn rise(from: f32, to: f32, v: f32) -> f32 {
    let t = ((v - from) / (to - from)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}
