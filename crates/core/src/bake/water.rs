//! The ways that water takes down a surface: over edges and seams, round what stands in its way, from shell to shell, and as drops from overhangs.
//!
//! A solver on the graph of texels, not particles: each texel hands what comes to it on to the two neighbours between which its way down points (D∞, Tarboton 1997), and
//! all texels are gone through once, from the top down, so that one pass is exact, keeps every drop, has no noise, and takes as long as sorting. Hollows fill up
//! to their lowest rim and overflow there (priority flood, Barnes, Lehman & Mulla 2014): the order in which the flood reaches texels is the order in which water leaves them, turned round.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use glam::Vec3;
use rayon::prelude::*;

use super::Surface;
use super::atlas::NONE;
use super::links::{AROUND, in_texels, normal, place};
use crate::lattice::value_noise;
use crate::mesh::Piece;
use crate::mesh::{meetings, places, sides};
use crate::raster::Plane;
use crate::task::{Cancel, Cancelled};

/// What becomes of water that comes to a texel.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Goes {
    /// On along the surface.
    On,
    /// Off it, as drops.
    Drops,
    /// The surface ends, or nothing lies lower: it runs off.
    Off,
}

/// Ways of water over a surface.
pub struct Water {
    /// All texels, so that each comes before those that its water goes on to; drops may land before.
    pub order: Vec<u32>,
    /// What becomes of each texel's water.
    pub goes: Vec<Goes>,
    /// Sine of each texel's slope: 0 level, 1 upright.
    pub slope: Vec<f32>,
    /// Length of its front over each texel, across its way, in mm.
    pub wide: Vec<f32>,
    /// How deep water stands over each texel before it overflows, in mm.
    pub pooled: Vec<f32>,
    to: Vec<[u32; 2]>,
    /// The share of the first.
    share: Vec<f32>,
}

/// What came of something that water carried down.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ended<const K: usize> {
    /// What fell to the ground as drops.
    pub dropped: [f64; K],
    /// What ran off where the surface ends.
    pub ran_off: [f64; K],
}

/// An underside that looks down further than this lets go of water; what is steeper keeps it by its skin.
const OVERHANG: f32 = -0.5;
/// Sine of the slope below which a texel gives no direction.
const LEVEL: f32 = 0.02;
/// How large the noises are that lead water astray, in mm across and down, and how far each of them does, as a share of its way: the skin of water breaks into threads, and
/// some of these run together.
const THREADS: [(Vec3, f32); 2] = [(Vec3::new(6.0, 15.0, 6.0), 0.35), (Vec3::new(21.0, 60.0, 21.0), 0.4)];
/// How broad a thread of water is, from its middle to where three fifths of it are left, in mm.
const BROAD: f32 = 1.5;
/// A short way, in lengths of a texel.
const SHORT: f32 = 0.05;
/// How often drops may fall onto what has been gone through already.
const ROUNDS: usize = 4;

/// A height as an integer that sorts as it does.
fn key(height: f32) -> u32 {
    let bits = height.to_bits();
    if bits >> 31 == 1 { !bits } else { bits | 0x8000_0000 }
}

/// Where a texel's own slope sends its water.
struct Down {
    goes: Goes,
    slope: f32,
    wide: f32,
    /// Whether the surface ends beside it: what stands there may run off.
    ends: bool,
    to: [u32; 2],
    share: f32,
}

impl Water {
    /// Finds the ways over a surface. `hidden` says which texels lie within another shell, where any do.
    ///
    /// # Errors
    /// [`Cancelled`]
    pub fn find(surface: &Surface, hidden: &[bool], cancel: &Cancel) -> Result<Water, Cancelled> {
        let len = surface.atlas.len();
        let open = open_sides(&surface.piece);
        let one = |i: usize| {
            if i.is_multiple_of(1024) {
                cancel.check()?;
            }
            Ok(down(surface, i as u32, hidden, &open))
        };
        let downs: Vec<Down> =
            (0..len).into_par_iter().with_min_len(1024).map(one).collect::<Result<_, Cancelled>>()?;
        let flood = Flood::over(surface, &downs, cancel)?;
        let mut water = Water {
            order: flood.reached.iter().rev().copied().collect(),
            goes: Vec::with_capacity(len),
            slope: Vec::with_capacity(len),
            wide: Vec::with_capacity(len),
            pooled: Vec::with_capacity(len),
            to: Vec::with_capacity(len),
            share: Vec::with_capacity(len),
        };
        for (i, d) in downs.into_iter().enumerate() {
            let lower = |j: u32| j != NONE && flood.rank[j as usize] < flood.rank[i];
            let (goes, to, share) = match (d.goes, d.to) {
                // Drops land wherever they do.
                (Goes::Drops, to) => (Goes::Drops, to, 1.0),
                (Goes::Off, _) => (Goes::Off, [NONE; 2], 1.0),
                (Goes::On, [a, b]) => match (lower(a), lower(b)) {
                    (true, true) => (Goes::On, [a, b], d.share),
                    (true, false) => (Goes::On, [a, NONE], 1.0),
                    (false, true) => (Goes::On, [b, NONE], 1.0),
                    (false, false) => match flood.from[i] {
                        [NONE, _] => (Goes::Off, [NONE; 2], 1.0),
                        [a, NONE] => (Goes::On, [a, NONE], 1.0),
                        both => (Goes::On, both, 0.5),
                    },
                },
            };
            water.goes.push(goes);
            water.slope.push(d.slope);
            water.wide.push(d.wide);
            water.pooled.push((flood.level[i] - surface.atlas.py[i]).max(0.0));
            water.to.push(to);
            water.share.push(share);
        }
        Ok(water)
    }

    /// Lets something go down. `pass` gets a texel, what comes to it, and whether that is the first time; it says what goes on.
    ///
    /// # Errors
    /// [`Cancelled`]
    pub fn down<const K: usize>(
        &self,
        cancel: &Cancel,
        mut pass: impl FnMut(usize, [f32; K], bool) -> [f32; K],
    ) -> Result<Ended<K>, Cancelled> {
        let mut ended = Ended { dropped: [0.0; K], ran_off: [0.0; K] };
        let mut coming = vec![[0.0f32; K]; self.order.len()];
        let mut done = vec![false; self.order.len()];
        for round in 0..ROUNDS {
            let mut late = false;
            done.fill(false);
            for (n, i) in self.order.iter().enumerate() {
                if n.is_multiple_of(65_536) {
                    cancel.check()?;
                }
                let i = *i as usize;
                done[i] = true;
                let here = std::mem::replace(&mut coming[i], [0.0; K]);
                if round > 0 && here.iter().all(|v| *v == 0.0) {
                    continue;
                }
                let on = pass(i, here, round == 0);
                match (self.goes[i], self.to[i]) {
                    (Goes::Off, _) => (0..K).for_each(|k| ended.ran_off[k] += f64::from(on[k])),
                    (Goes::Drops, [NONE, _]) => (0..K).for_each(|k| ended.dropped[k] += f64::from(on[k])),
                    (_, [a, b]) => {
                        let first = if b == NONE { 1.0 } else { self.share[i] };
                        late |= done[a as usize];
                        for k in 0..K {
                            let mine = on[k] * first;
                            coming[a as usize][k] += mine;
                            if b != NONE {
                                coming[b as usize][k] += on[k] - mine;
                            }
                        }
                    }
                }
            }
            if !late {
                break;
            }
        }
        // What still falls in circles stays where it is: nothing worth going on for.
        for left in coming {
            (0..K).for_each(|k| ended.ran_off[k] += f64::from(left[k]));
        }
        Ok(ended)
    }
}

fn down(surface: &Surface, i: u32, hidden: &[bool], open: &[u8]) -> Down {
    let (n, at, links) = (lie(surface, i), place(surface, i), surface.links());
    let length = surface.atlas.texel_length;
    let slope = (1.0 - n.y * n.y).max(0.0).sqrt();
    let area = surface.atlas.area[i as usize];
    let square = if area > 0.0 { area.sqrt() } else { length };
    let no_further = || AROUND[..4].iter().any(|(dx, dy)| links.next(surface, i, *dx, *dy).is_none());
    let ends = is_beside(surface, i, at, open, length * 2.0) && no_further();
    let nowhere = |goes| Down { goes, slope, wide: square, ends, to: [NONE; 2], share: 1.0 };
    let is_hidden = |j: u32| hidden.get(j as usize).copied().unwrap_or(false);
    if n.y < OVERHANG {
        let landing =
            falls(surface, at + n * length * 0.25 + Vec3::NEG_Y * length * 0.25, Vec3::NEG_Y, f32::MAX, &is_hidden);
        return Down { to: [landing.unwrap_or(NONE), NONE], ..nowhere(Goes::Drops) };
    }
    if slope < LEVEL {
        return nowhere(Goes::On);
    }
    let way = (Vec3::NEG_Y + n * n.y) / slope;
    let way = way + n.cross(way) * astray(at);
    // Short enough to be told in texels as it is.
    let Some([a, b]) = in_texels(surface, i, way * length * SHORT) else { return nowhere(Goes::On) };
    let (sx, sy) = (if a < 0.0 { -1 } else { 1 }, if b < 0.0 { -1 } else { 1 });
    let (most, least) = (a.abs().max(b.abs()), a.abs().min(b.abs()));
    let straight = if a.abs() >= b.abs() { (sx, 0) } else { (0, sy) };
    // Between the side's neighbour and the corner's, by the angle.
    let corner = libm::atan2f(least, most) / std::f32::consts::FRAC_PI_4;
    // An even sheet of water takes as many texels down its way as it crosses sides of them: the rest of their area is its front.
    let wide = if area > 0.0 { area * most / (length * SHORT) } else { length };
    let next = |(dx, dy): (i32, i32)| links.next(surface, i, dx, dy).map(|n| n.0);
    let (first, second) = (next(straight), next((sx, sy)));
    if first.is_none() && second.is_none() {
        return nowhere(if ends { Goes::Off } else { Goes::On });
    }
    let mut to = [first, second].map(|j| j.unwrap_or(NONE));
    if to.iter().any(|j| *j != NONE && is_hidden(*j)) && !is_hidden(i) {
        // It meets another shell: what stands there takes it over.
        let over = falls(surface, at + n * length * 0.3, (way - n * 0.25).normalize(), length * 6.0, &is_hidden);
        to = [over.unwrap_or(to[0]), NONE];
        if over.is_some() {
            return Down { wide, to, ..nowhere(Goes::On) };
        }
    }
    Down { wide, to, share: 1.0 - corner, ..nowhere(Goes::On) }
}

/// Which sides of each triangle nothing goes on beyond, as bits.
fn open_sides(piece: &Piece) -> Vec<u8> {
    let mut open = vec![0; piece.triangles.len()];
    let all = sides(&piece.triangles, &places(&piece.positions));
    for alone in meetings(&all).filter(|m| m.len() != 2).flatten() {
        open[alone.triangle as usize] |= 1 << alone.k;
    }
    open
}

/// Whether a texel lies within so many mm of a side of its triangle that nothing goes on beyond.
fn is_beside(surface: &Surface, i: u32, at: Vec3, open: &[u8], within: f32) -> bool {
    let triangle = surface.atlas.triangle[i as usize];
    let corners = surface.piece.corners(triangle);
    (0..3).filter(|k| open[triangle as usize] >> k & 1 == 1).any(|k| {
        let (a, along) = (corners[k], corners[(k + 1) % 3] - corners[k]);
        let share = ((at - a).dot(along) / along.length_squared().max(1e-12)).clamp(0.0, 1.0);
        (at - a - along * share).length() < within
    })
}

/// Which way the surface looks there, as water feels it: as the smooth normal, so that facets don't lead it, but as the face itself where the two differ by more than
/// some degrees, so that it finds into grooves.
fn lie(surface: &Surface, i: u32) -> Vec3 {
    let smooth = normal(surface, i);
    let [a, b, c] = surface.piece.corners(surface.atlas.triangle[i as usize]);
    let face = (b - a).cross(c - a).normalize_or(smooth);
    let face = if face.dot(smooth) < 0.0 { -face } else { face };
    let (near, far) = (0.996, 0.966);
    smooth.lerp(face, ((near - face.dot(smooth)) / (near - far)).clamp(0.0, 1.0)).normalize_or(smooth)
}

/// The texel on which what goes a way from a place lands, if something that is seen lies there within `far` mm.
fn falls(surface: &Surface, from: Vec3, way: Vec3, far: f32, is_hidden: &dyn Fn(u32) -> bool) -> Option<u32> {
    let (t, triangle, [b, c]) = surface.bvh().first_hit(from, way)?;
    if t > far {
        return None;
    }
    let piece = &surface.piece;
    let uv = piece.triangles[triangle as usize].map(|v| piece.uvs[v as usize]);
    let a = 1.0 - b - c;
    let uv = [0, 1].map(|k| uv[0][k] * a + uv[1][k] * b + uv[2][k] * c);
    surface.atlas.at_uv(piece.sheet_of[triangle as usize], uv).filter(|j| !is_hidden(*j))
}

/// How far a way strays to the side there, as a share of its length.
fn astray(at: Vec3) -> f32 {
    let noise = |p: Vec3, seed: u32| value_noise(p.x, p.y, p.z, seed) * 2.0 - 1.0;
    THREADS.iter().zip(1u32..).map(|((size, by), seed)| noise(at / *size, seed) * by).sum()
}

/// Spreads what passed each texel over as much of the surface as a thread of water is broad. The ways that are found are one texel wide, however large texels are; spread
/// they look the same on all sizes whose texels are smaller than a thread.
///
/// By passes that mix each texel with those some steps from it along both sides of the square, farther ones first.
pub fn spread(surface: &Surface, planes: &mut [Plane]) {
    let (len, links) = (surface.atlas.len() as u32, surface.links());
    // Each pass adds a quarter of its steps squared to the variance, in texels.
    let mut left = (BROAD / surface.atlas.texel_length).powi(2);
    let mut steps = vec![];
    while left >= 0.125 {
        let far = [16u32, 8, 4, 2].into_iter().find(|s| 0.75 * (s * s) as f32 <= left).unwrap_or(1);
        left -= 0.25 * (far * far) as f32;
        steps.push(far);
    }
    let next = |i: u32| std::array::from_fn(|k| links.next(surface, i, AROUND[k].0, AROUND[k].1).map_or(i, |n| n.0));
    let one: Vec<[u32; 4]> = (0..len).into_par_iter().with_min_len(4096).map(next).collect();
    let mut beside = (0, vec![]);
    for far in steps {
        if beside.0 != far {
            let go = |i: u32| std::array::from_fn(|k| (0..far).fold(i, |at, _| one[at as usize][k]));
            beside = (far, (0..len).into_par_iter().with_min_len(4096).map(go).collect::<Vec<[u32; 4]>>());
        }
        for plane in &mut *planes {
            let mixed = |i: usize| {
                let around: f32 = beside.1[i].iter().map(|j| plane[*j as usize]).sum();
                plane[i] * 0.5 + around * 0.125
            };
            *plane = (0..plane.len()).into_par_iter().with_min_len(4096).map(mixed).collect();
        }
    }
}

/// The flood that rises from where water leaves.
struct Flood {
    /// All texels in the order in which it reaches them.
    reached: Vec<u32>,
    /// Place of each texel in that order.
    rank: Vec<u32>,
    /// How high it stands over each texel when it gets there, in mm.
    level: Vec<f32>,
    /// From which texels it came, at most two.
    from: Vec<[u32; 2]>,
}

impl Flood {
    fn over(surface: &Surface, downs: &[Down], cancel: &Cancel) -> Result<Flood, Cancelled> {
        let (len, py, links) = (downs.len(), &surface.atlas.py, surface.links());
        let mut out = Flood {
            reached: Vec::with_capacity(len),
            rank: vec![u32::MAX; len],
            level: py.clone(),
            from: vec![[NONE; 2]; len],
        };
        let mut seen = vec![false; len];
        // On a level, what is fewer steps from a way off comes first: water takes the short way.
        let mut steps = vec![0u32; len];
        let mut heap = BinaryHeap::new();
        for (i, d) in downs.iter().enumerate() {
            if d.goes != Goes::On || d.ends {
                seen[i] = true;
                heap.push(Reverse((key(py[i]), 0, i as u32)));
            }
        }
        let mut lowest: Vec<u32> = (0..len as u32).collect();
        lowest.par_sort_unstable_by_key(|i| (key(py[*i as usize]), *i));
        let mut lowest = lowest.into_iter();
        loop {
            while let Some(Reverse((_, _, i))) = heap.pop() {
                let at = i as usize;
                if out.reached.len().is_multiple_of(65_536) {
                    cancel.check()?;
                }
                out.rank[at] = out.reached.len() as u32;
                out.reached.push(i);
                for (dx, dy) in AROUND {
                    let Some((j, _)) = links.next(surface, i, dx, dy) else { continue };
                    let to = j as usize;
                    if !seen[to] {
                        seen[to] = true;
                        out.level[to] = py[to].max(out.level[at]);
                        out.from[to] = [i, NONE];
                        steps[to] = steps[at] + 1;
                        heap.push(Reverse((key(out.level[to]), steps[to], j)));
                    } else if out.rank[to] == u32::MAX && out.from[to][1] == NONE && out.from[to][0] != NONE {
                        out.from[to][1] = i;
                    }
                }
            }
            // A shell with no way off: its water leaves where it is lowest.
            let Some(i) = lowest.find(|i| !seen[*i as usize]) else { return Ok(out) };
            seen[i as usize] = true;
            heap.push(Reverse((key(py[i as usize]), 0, i)));
        }
    }
}
