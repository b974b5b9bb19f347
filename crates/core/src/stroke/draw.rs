//! What strokes make of a mask, texel by texel.
//!
//! A stroke covers a place as much as that of its segments does that covers it most, so that drawing back and forth within one stroke lays down no more than once. Covered by c, m becomes
//! m + (value − m)·c; many strokes in a row are m·keep + add, whatever m was ([`State`]).
//!
//! *A stroke stays on the side that it was drawn on*: a place counts as far as its normal points the way of the stroke's (fully up to about 70°, nothing from about 84° on), and as far as it lies
//! in the stroke's plane (fully up to half a radius above or below it, nothing from seven tenths on). So it goes through no sheet, over no sharp edge and into no fold that it did not touch.

use std::sync::OnceLock;

use glam::Vec3;
use multiversion::multiversion;
use rayon::prelude::*;

use super::fill::{Fill, Near};
use super::index::{Bounds, Tree};
use super::tip::LANES;
use super::track::Point;
use super::{Pressed, Stroke, Strokes, Tilted, Tip, tip};
use crate::bake::Surface;
use crate::bake::atlas::{Atlas, NONE};
use crate::mesh::Piece;
use crate::task::{Cancel, Cancelled};

/// As far off a stroke's plane, as a share of its radius, a place counts fully.
const LEVEL: f32 = 0.5;
/// Within such a share beyond that it falls to nothing.
const FALLS: f32 = 0.2;
/// From such a share on nothing of a stroke is left.
pub(super) const OFF: f32 = LEVEL + FALLS;
/// So much of the flow a pen that lies flat takes away, where tilt changes that.
const FAINTER: f32 = 0.9;
/// Segments per box of the tree.
const CHUNK: usize = 4;
/// Covered texels that are looked up in the tree together: they lie in a row.
const RUN: usize = 64;
/// A stroke's points are thinned as far as no one of them lies farther off than this share of its radius, and its normal and pressure no farther than this.
const THIN: f32 = 0.01;
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
    segments: Vec<Segment>,
    radius: f32,
    hardness: f32,
    flow: f32,
    value: f32,
    pressed: Pressed,
    tilted: Tilted,
    tip: Tip,
    /// What it covers instead of its way.
    fill: Option<Fill>,
    /// What is random of the tip.
    seed: u32,
    /// The shell it stays on; [`NONE`] for one that goes over all.
    shell: u32,
}

/// From one point to the next.
struct Segment {
    at: Vec3,
    along: Vec3,
    /// One over the square of its length.
    per_length: f32,
    normal: Vec3,
    turns: Vec3,
    pressure: f32,
    presses: f32,
    tilt: f32,
    tilts: f32,
    /// How far from the stroke's beginning it begins, and how long it is, in mm.
    from: f32,
    length: f32,
    /// A unit across it, on the surface.
    side: Vec3,
    /// Around all that it can cover, but for what a border reaches beyond the radius.
    bounds: Bounds,
}

impl Segment {
    fn new(a: &Point, b: &Point, from: f32, radius: f32) -> Segment {
        let along = b.at - a.at;
        Segment {
            at: a.at,
            along,
            per_length: 1.0 / along.length_squared().max(1e-12),
            normal: a.normal,
            turns: b.normal - a.normal,
            pressure: a.pressure,
            presses: b.pressure - a.pressure,
            tilt: a.tilt,
            tilts: b.tilt - a.tilt,
            from,
            length: along.length(),
            side: a.normal.cross(along).normalize_or(a.normal.any_orthonormal_vector()),
            bounds: Bounds::EMPTY.with(a.at).with(b.at).grown(radius),
        }
    }
}

impl Brush {
    fn new(stroke: &Stroke, piece: &Piece) -> Option<Brush> {
        let way = stroke.way().filter(|_| stroke.shown)?;
        let mut brush = Brush::of(stroke, if stroke.covers.is_way() { &way } else { &way[..1] });
        if !stroke.covers.is_way() {
            brush.fill = Some(Fill::new(piece, stroke.covers, stroke.crease, &way[0])?);
        } else if stroke.one_shell {
            brush.shell = shell_near(piece, way[0].at);
        }
        Some(brush)
    }

    /// Of the way of a stroke, over all shells.
    fn of(stroke: &Stroke, way: &[Point]) -> Brush {
        let radius = stroke.radius as f32;
        let widest = if stroke.tilted == Tilted::Width { 2.0 * radius } else { radius };
        let points = thinned(way, radius * THIN);
        let segments = match &points[..] {
            [one] => vec![Segment::new(one, one, 0.0, widest)],
            all => {
                let mut from = 0.0;
                let segment = |p: &[&Point]| {
                    let one = Segment::new(p[0], p[1], from, widest);
                    from += one.length;
                    one
                };
                all.windows(2).map(segment).collect()
            }
        };
        Brush {
            segments,
            radius,
            hardness: stroke.hardness as f32,
            flow: stroke.flow as f32,
            value: if stroke.take { 0.0 } else { stroke.value as f32 },
            pressed: stroke.pressed,
            tilted: stroke.tilted,
            tip: stroke.tip,
            fill: None,
            seed: u32::from_str_radix(stroke.points.hash().get(..8).unwrap_or_default(), 16).unwrap_or(0),
            shell: NONE,
        }
    }
}

/// As few of the points as say where all of them lie, within `off` mm, and how they lean and press.
fn thinned(points: &[Point], off: f32) -> Vec<&Point> {
    /// As many in a row as may be left out: a long straight stroke must not be looked at again and again.
    const MOST: usize = 32;
    let mut kept = vec![&points[0]];
    let mut from = 0;
    while from + 1 < points.len() {
        let says = |to: usize| (from + 1..to).all(|i| lies_between(&points[from], &points[to], &points[i], off));
        let most = (from + MOST).min(points.len() - 1);
        let to = (from + 2..=most).take_while(|to| says(*to)).last().unwrap_or(from + 1);
        kept.push(&points[to]);
        from = to;
    }
    kept
}

fn lies_between(a: &Point, b: &Point, p: &Point, off: f32) -> bool {
    let along = b.at - a.at;
    let t = ((p.at - a.at).dot(along) / along.length_squared().max(1e-12)).clamp(0.0, 1.0);
    (a.at + along * t).distance(p.at) <= off
        && (a.normal + (b.normal - a.normal) * t).distance(p.normal) <= THIN
        && (a.pressure + (b.pressure - a.pressure) * t - p.pressure).abs() <= THIN
        && (a.tilt + (b.tilt - a.tilt) * t - p.tilt).abs() <= THIN
}

/// The shell with the corner that lies nearest to a place.
pub(crate) fn shell_near(piece: &Piece, p: Vec3) -> u32 {
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
            let brushes: Vec<Brush> = self.strokes.par_iter().filter_map(|s| Brush::new(s, piece)).collect();
            let (mut chunks, mut boxes) = (vec![], vec![]);
            for (b, brush) in brushes.iter().enumerate() {
                if brush.fill.is_some() {
                    // It may lie anywhere.
                    chunks.push((b as u32, 0, 0));
                    boxes.push(Bounds { low: Vec3::splat(-1e7), high: Vec3::splat(1e7) });
                    continue;
                }
                for (c, few) in brush.segments.chunks(CHUNK).enumerate() {
                    let first = c * CHUNK;
                    chunks.push((b as u32, first as u32, (first + few.len()) as u32));
                    boxes.push(few.iter().fold(Bounds::EMPTY, |all, s| all.and(s.bounds)));
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
        let mut near = vec![];
        for (r, (add, keep)) in add.chunks_mut(RUN).zip(keep.chunks_mut(RUN)).enumerate() {
            let first = start + r * RUN;
            let blocks: Vec<Block> = (first..first + add.len()).step_by(LANES).map(|i| Block::of(atlas, i)).collect();
            let bounds = blocks.iter().fold(Bounds::EMPTY, |all, b| all.and(b.bounds));
            self.tree.meeting(&bounds, &mut near);
            for group in near.chunk_by(|a, b| self.chunks[*a as usize].0 == self.chunks[*b as usize].0) {
                let brush = &self.brushes[self.chunks[group[0] as usize].0 as usize];
                let mut covered = [[0.0f32; LANES]; RUN / LANES];
                let mut beside = [Beside::NOTHING; RUN / LANES];
                let mut any = false;
                if let Some(fill) = &brush.fill {
                    any = true;
                    for (i, c) in (first..first + add.len()).zip(covered.as_flattened_mut()) {
                        *c = if fill.covers(&surface.piece, atlas, i) { brush.flow } else { 0.0 };
                    }
                }
                for chunk in group {
                    let (_, from, to) = self.chunks[*chunk as usize];
                    for segment in brush.segments[from as usize..to as usize].iter().filter(|s| s.bounds.meets(&bounds))
                    {
                        for ((block, covered), beside) in blocks.iter().zip(&mut covered).zip(&mut beside) {
                            if segment.bounds.meets(&block.bounds) {
                                brush.cover(segment, block, atlas.texel_length, covered, beside);
                                any = true;
                            }
                        }
                    }
                }
                if !any {
                    continue;
                }
                if brush.fill.is_none() {
                    brush.let_through(&blocks, &beside, &mut covered);
                }
                if brush.shell != NONE {
                    for (i, c) in (first..first + add.len()).zip(covered.as_flattened_mut()) {
                        let shell = surface.piece.shell_of[atlas.triangle[i] as usize];
                        *c *= f32::from(u8::from(shell == brush.shell));
                    }
                }
                for ((add, keep), c) in add.iter_mut().zip(keep.iter_mut()).zip(covered.as_flattened()) {
                    *add += (brush.value - *add) * c;
                    *keep -= *keep * c;
                }
            }
        }
    }
}

/// A few covered texels in a row.
struct Block {
    at: [[f32; LANES]; 3],
    normal: [[f32; LANES]; 3],
    /// Around them, and as far beyond as a hard border reaches beyond the radius: half a texel.
    bounds: Bounds,
}

impl Block {
    /// Those from `first` on; where there are no more the last one stands again.
    fn of(atlas: &Atlas, first: usize) -> Block {
        let last = atlas.len() - 1;
        let lanes = |of: &[f32]| std::array::from_fn(|l| of[(first + l).min(last)]);
        let at: [[f32; LANES]; 3] = [lanes(&atlas.px), lanes(&atlas.py), lanes(&atlas.pz)];
        let places = (0..LANES).map(|l| Vec3::new(at[0][l], at[1][l], at[2][l]));
        let bounds = places.fold(Bounds::EMPTY, Bounds::with).grown(atlas.texel_length * 0.5);
        Block { at, normal: [lanes(&atlas.nx), lanes(&atlas.ny), lanes(&atlas.nz)], bounds }
    }
}

impl Brush {
    /// Takes in how far a segment covers some texels; a border is never sharper than `texel` mm.
    fn cover(&self, segment: &Segment, block: &Block, texel: f32, covered: &mut [f32; LANES], beside: &mut Beside) {
        let (flow, width) = match self.pressed {
            Pressed::Flow => (1.0, 0.0),
            Pressed::Width => (0.0, 1.0),
            Pressed::Both => (1.0, 1.0),
            Pressed::Nothing => (0.0, 0.0),
        };
        let tilts = |tilted: Tilted| if self.tilted == tilted { 1.0 } else { 0.0 };
        let shape = Shape {
            radius: self.radius,
            hardness: self.hardness,
            flow: self.flow,
            by_flow: flow,
            by_width: width,
            wider: tilts(Tilted::Width),
            fainter: tilts(Tilted::Flow) * FAINTER,
        };
        let Block { at, normal, .. } = block;
        if self.tip == Tip::Bristle {
            cover_by_hairs(segment, &shape, texel, at, normal, covered, beside);
        } else {
            cover(segment, &shape, texel, at, normal, covered);
        }
    }

    /// Takes away what the tip leaves out.
    fn let_through(&self, blocks: &[Block], beside: &[Beside], covered: &mut [[f32; LANES]]) {
        let all = blocks.iter().zip(beside).zip(covered).filter(|(_, c)| c.iter().any(|c| *c > 0.0));
        all.for_each(|((block, beside), covered)| match self.tip {
            Tip::Round => {}
            Tip::Bristle => tip::bristle(&beside.across, &beside.along, self.radius, self.seed, covered),
            Tip::Sponge => tip::sponge(&block.at, self.radius, self.seed, covered),
            Tip::Splash => tip::splash(&block.at, self.radius, self.seed, covered),
        });
    }
}

/// What of a brush is the same along a stroke.
struct Shape {
    radius: f32,
    hardness: f32,
    flow: f32,
    /// Whether pressure changes the flow, and the width: 0 or 1.
    by_flow: f32,
    by_width: f32,
    /// How much wider, and how much fainter, a pen that lies flat draws: of itself.
    wider: f32,
    fainter: f32,
}

/// Where places lie beside the nearest segment of a stroke, in mm.
#[derive(Clone, Copy)]
struct Beside {
    far: [f32; LANES],
    across: [f32; LANES],
    along: [f32; LANES],
}

impl Beside {
    const NOTHING: Beside = Beside { far: [f32::INFINITY; LANES], across: [0.0; LANES], along: [0.0; LANES] };
}

type Lanes = [[f32; LANES]; 3];

/// Places side by side: the same few operations for all of them, without a branch.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn cover(s: &Segment, brush: &Shape, texel: f32, at: &Lanes, normal: &Lanes, covered: &mut [f32; LANES]) {
    for l in 0..LANES {
        let (at, normal) = ([at[0][l], at[1][l], at[2][l]], [normal[0][l], normal[1][l], normal[2][l]]);
        covered[l] = covered[l].max(covers(s, brush, texel, at, normal).0);
    }
}

/// The same by a brush of hairs: also where each place lies beside the nearest of the segments.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn cover_by_hairs(
    s: &Segment,
    brush: &Shape,
    texel: f32,
    at: &Lanes,
    normal: &Lanes,
    covered: &mut [f32; LANES],
    beside: &mut Beside,
) {
    for l in 0..LANES {
        let (at, normal) = ([at[0][l], at[1][l], at[2][l]], [normal[0][l], normal[1][l], normal[2][l]]);
        let (c, far, across, along) = covers(s, brush, texel, at, normal);
        covered[l] = covered[l].max(c);
        let nearer = far < beside.far[l];
        beside.far[l] = if nearer { far } else { beside.far[l] };
        beside.across[l] = if nearer { across } else { beside.across[l] };
        beside.along[l] = if nearer { along } else { beside.along[l] };
    }
}

/// How far a segment covers a place; how far that lies from it, from its middle line, and from where the stroke begins, in mm.
#[inline(always)]
fn covers(s: &Segment, brush: &Shape, texel: f32, at: [f32; 3], normal: [f32; 3]) -> (f32, f32, f32, f32) {
    let (px, py, pz) = (at[0] - s.at.x, at[1] - s.at.y, at[2] - s.at.z);
    let t = (px * s.along.x + py * s.along.y + pz * s.along.z) * s.per_length;
    let t = t.clamp(0.0, 1.0);
    let (x, y, z) = (px - s.along.x * t, py - s.along.y * t, pz - s.along.z * t);
    let (nx, ny, nz) = (s.normal.x + s.turns.x * t, s.normal.y + s.turns.y * t, s.normal.z + s.turns.z * t);
    let pressure = s.pressure + s.presses * t;
    let tilt = s.tilt + s.tilts * t;
    let radius = brush.radius * (1.0 + (pressure - 1.0) * brush.by_width) * (1.0 + tilt * brush.wider);
    let much = brush.flow * (1.0 + (pressure - 1.0) * brush.by_flow) * (1.0 - tilt * brush.fainter);
    let far = (x * x + y * y + z * z).sqrt();
    // Even up to its hard share, then falling to its border.
    let soft = radius * (1.0 - brush.hardness);
    let (from, wide) = if soft >= texel { (radius - soft, soft) } else { (radius - texel * 0.5, texel) };
    let profile = 1.0 - rise(from, wide, far);
    let facing = rise(0.1, 0.25, nx * normal[0] + ny * normal[1] + nz * normal[2]);
    let depth = 1.0 - rise(LEVEL, FALLS, (x * nx + y * ny + z * nz).abs() / radius.max(1e-6));
    let across = x * s.side.x + y * s.side.y + z * s.side.z;
    (profile * facing * depth * much, far, across, s.from + s.length * t)
}

/// The ids of the strokes that cover a place of a piece, given with its normal, the topmost first.
pub fn covering<'a>(strokes: &'a [Stroke], piece: &Piece, at: Vec3, normal: Vec3) -> Vec<&'a str> {
    /// As much as can be seen.
    const SEEN: f32 = 0.02;
    let Some(near) = Near::of(piece, at, normal) else { return vec![] };
    let (shell, part) = (piece.shell_of[near.triangle as usize], piece.part_at(near.triangle, near.weights));
    let lanes = |v: f32| [v; LANES];
    let block = Block { at: at.to_array().map(lanes), normal: normal.to_array().map(lanes), bounds: Bounds::EMPTY };
    let covers = |stroke: &Stroke| {
        let way = stroke.way().filter(|_| stroke.shown)?;
        if !stroke.covers.is_way() {
            let fill = Fill::new(piece, stroke.covers, stroke.crease, &way[0])?;
            return fill.takes(piece, near.triangle, part).then_some(());
        }
        // Between the hairs of a brush it lies there as well.
        let brush = Brush { tip: Tip::Round, ..Brush::of(stroke, &way) };
        let mut covered = [0.0; LANES];
        brush.segments.iter().for_each(|s| brush.cover(s, &block, 0.01, &mut covered, &mut Beside::NOTHING.clone()));
        (covered[0] > SEEN && (!stroke.one_shell || shell_near(piece, way[0].at) == shell)).then_some(())
    };
    strokes.iter().rev().filter(|s| covers(s).is_some()).map(|s| s.id.as_str()).collect()
}

/// 0 up to `from`, 1 from `wide` beyond it on, smooth between.
#[inline(always)]
fn rise(from: f32, wide: f32, v: f32) -> f32 {
    let t = ((v - from) / wide).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}
