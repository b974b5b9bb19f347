//! How far each texel lies from the mask's border, in mm along the surface: what grow, rim and lift are made of.
//!
//! The border runs where the mask is ½, found between texels by its slope. Each texel is told the nearest spot of it by its four neighbours, in sweeps down and up the
//! rows and to both sides in each (Danielsson 1980, whose error on a plane is a fraction of a texel at rare places between two fronts). Bands of rows are swept side
//! by side; then they tell each other, and what lies across seams and sheets, until nobody learns anything new: the way goes over edges, but never through the piece.

use glam::Vec3;
use multiversion::multiversion;
use rayon::prelude::*;

use crate::bake::Surface;
use crate::bake::links::place;
use crate::bake::rows::Rows;
use crate::raster::Plane;
use crate::task::{Cancel, Cancelled};

/// Rows that are swept by one thread at a time. A power of two, as squares are, so that none lies on two sheets.
const BAND: usize = 128;
/// A coordinate that is nowhere, whose square is still a number.
const NOWHERE: f32 = 1e18;

/// Signed distance in mm, positive where the mask is ½ or more; ±`reach` from there on.
///
/// # Errors
/// [`Cancelled`] when asked to stop.
pub fn signed(surface: &Surface, mask: &[f32], reach: f32, cancel: &Cancel) -> Result<Plane, Cancelled> {
    let rows = surface.rows();
    let mut known = Known::new(surface, reach);
    known.find_border(surface, rows, mask);
    let height = BAND.min(surface.atlas.size as usize);
    let bands: Vec<usize> = (0..rows.len() / height).collect();
    let mut waiting: Vec<bool> = known.bands(rows, height).iter().map(Band::knows_any).collect();
    while waiting.contains(&true) {
        cancel.check()?;
        known.bands(rows, height).into_par_iter().zip(&bands).zip(&waiting).for_each(|((mut band, b), waits)| {
            if *waits {
                band.sweep(surface, rows, b * height);
            }
        });
        waiting.fill(false);
        for b in 1..bands.len() {
            let (above, below) = (b * height - 1, b * height);
            for (i, j, n) in rows.pairs(above, below) {
                for k in 0..n {
                    waiting[b - 1] |= known.tell(surface, j + k, i + k);
                    waiting[b] |= known.tell(surface, i + k, j + k);
                }
            }
        }
        for (i, j) in &rows.crossings {
            if known.tell(surface, *i as usize, *j as usize) {
                waiting[(surface.atlas.texel[*j as usize] / surface.atlas.size) as usize / height] = true;
            }
        }
    }
    let mut out = known.squared;
    out.par_iter_mut().zip(mask).for_each(|(d, m)| *d = if *m >= 0.5 { d.sqrt() } else { -d.sqrt() });
    Ok(out)
}

/// Of each texel: the nearest spot of the border that it has been told of, and its squared distance; beyond reach, nowhere.
struct Known {
    spot: [Vec<f32>; 3],
    squared: Vec<f32>,
}

impl Known {
    fn new(surface: &Surface, reach: f32) -> Known {
        let n = surface.atlas.len();
        Known { spot: [vec![NOWHERE; n], vec![NOWHERE; n], vec![NOWHERE; n]], squared: vec![reach * reach; n] }
    }

    /// The rows cut into bands.
    fn bands(&mut self, rows: &Rows, height: usize) -> Vec<Band<'_>> {
        let [x, y, z] = &mut self.spot;
        let mut rest = [&mut x[..], &mut y[..], &mut z[..], &mut self.squared[..]];
        let band = |b: usize| {
            let texels = rows.texels(b * height..(b + 1) * height);
            let [x, y, z, squared] = rest.each_mut().map(|v| {
                let (first, others) = std::mem::take(v).split_at_mut(texels.len());
                *v = others;
                first
            });
            Band { start: texels.start, height, x, y, z, squared }
        };
        (0..rows.len() / height).map(band).collect()
    }

    /// Tells a texel of the spot that another one knows. Whether it is nearer than what it knew.
    fn tell(&mut self, surface: &Surface, from: usize, to: usize) -> bool {
        let spot = Vec3::new(self.spot[0][from], self.spot[1][from], self.spot[2][from]);
        self.learn(place(surface, to as u32), spot, to)
    }

    fn learn(&mut self, at: Vec3, spot: Vec3, to: usize) -> bool {
        let d = at.distance_squared(spot);
        let nearer = d < self.squared[to];
        if nearer {
            self.squared[to] = d;
            (self.spot[0][to], self.spot[1][to], self.spot[2][to]) = (spot.x, spot.y, spot.z);
        }
        nearer
    }

    /// The spots where the mask is ½ between a texel and its neighbours.
    fn find_border(&mut self, surface: &Surface, rows: &Rows, mask: &[f32]) {
        let height = BAND.min(surface.atlas.size as usize);
        self.bands(rows, height).into_par_iter().enumerate().for_each(|(b, mut band)| {
            for row in b * height..(b + 1) * height {
                for run in rows.runs(row) {
                    for i in run.start + 1..run.end {
                        band.part(surface, mask, i - 1, i);
                        band.part(surface, mask, i, i - 1);
                    }
                }
                for other in [row.wrapping_sub(1), row + 1] {
                    for (i, j, n) in rows.pairs(row, other) {
                        (0..n).for_each(|k| band.part(surface, mask, i + k, j + k));
                    }
                }
            }
        });
        for (i, j) in &rows.crossings {
            let i = *i as usize;
            if let Some(spot) = between(surface, mask, i, *j as usize) {
                self.learn(place(surface, i as u32), spot, i);
            }
        }
    }
}

/// Where the mask is ½ on the way from one texel to its neighbour, if it is anywhere.
#[inline(always)]
fn between(surface: &Surface, mask: &[f32], i: usize, j: usize) -> Option<Vec3> {
    let (a, b) = (mask[i], mask[j]);
    if (a >= 0.5) == (b >= 0.5) {
        return None;
    }
    Some(place(surface, i as u32).lerp(place(surface, j as u32), ((0.5 - a) / (b - a)).clamp(0.0, 1.0)))
}

/// What the texels of a band of rows know.
struct Band<'a> {
    /// Its first texel.
    start: usize,
    /// How many rows.
    height: usize,
    x: &'a mut [f32],
    y: &'a mut [f32],
    z: &'a mut [f32],
    squared: &'a mut [f32],
}

impl Band<'_> {
    fn knows_any(&self) -> bool {
        self.x.iter().any(|x| *x != NOWHERE)
    }

    /// Lets a texel know of the border between it and a neighbour.
    #[inline(always)]
    fn part(&mut self, surface: &Surface, mask: &[f32], i: usize, j: usize) {
        let Some(spot) = between(surface, mask, i, j) else { return };
        let (d, k) = (place(surface, i as u32).distance_squared(spot), i - self.start);
        if d < self.squared[k] {
            (self.squared[k], self.x[k], self.y[k], self.z[k]) = (d, spot.x, spot.y, spot.z);
        }
    }

    /// Down and up, and to both sides in each row.
    fn sweep(&mut self, surface: &Surface, rows: &Rows, first: usize) {
        for row in first..first + self.height {
            if row > first {
                self.learn_from_row(surface, rows, row, row - 1);
            }
            self.along(surface, rows, row);
        }
        for row in (first..first + self.height).rev() {
            if row + 1 < first + self.height {
                self.learn_from_row(surface, rows, row, row + 1);
            }
            self.along(surface, rows, row);
        }
    }

    fn learn_from_row(&mut self, surface: &Surface, rows: &Rows, row: usize, other: usize) {
        let a = &surface.atlas;
        for (i, j, n) in rows.pairs(row, other) {
            let (to, from) = (i - self.start, j - self.start);
            let [x, y, z] = [&mut *self.x, &mut *self.y, &mut *self.z].map(|v| apart(v, to, from, n));
            tell_run([&a.px[i..i + n], &a.py[i..i + n], &a.pz[i..i + n]], x, y, z, &mut self.squared[to..to + n]);
        }
    }

    fn along(&mut self, surface: &Surface, rows: &Rows, row: usize) {
        for run in rows.runs(row) {
            let (low, high) = (run.start - self.start, run.end - self.start);
            let mut told = [NOWHERE; 3];
            (low..high).for_each(|k| self.pass_on(surface, k, &mut told));
            told = [NOWHERE; 3];
            (low..high).rev().for_each(|k| self.pass_on(surface, k, &mut told));
        }
    }

    /// A texel hears of a spot, and passes on the nearer of it and its own.
    #[inline(always)]
    fn pass_on(&mut self, surface: &Surface, k: usize, told: &mut [f32; 3]) {
        let (a, i) = (&surface.atlas, self.start + k);
        let (x, y, z) = (a.px[i] - told[0], a.py[i] - told[1], a.pz[i] - told[2]);
        let d = x * x + y * y + z * z;
        if d < self.squared[k] {
            self.squared[k] = d;
            [self.x[k], self.y[k], self.z[k]] = *told;
        } else {
            *told = [self.x[k], self.y[k], self.z[k]];
        }
    }
}

/// Two stretches of one slice that don't overlap: to write to, and to read.
fn apart(v: &mut [f32], to: usize, from: usize, n: usize) -> (&mut [f32], &[f32]) {
    if to < from {
        let (low, high) = v.split_at_mut(from);
        (&mut low[to..to + n], &high[..n])
    } else {
        let (low, high) = v.split_at_mut(to);
        (&mut high[..n], &low[from..from + n])
    }
}

type ToFrom<'a> = (&'a mut [f32], &'a [f32]);

/// Texels at `p` hear of the spots that those beside them know.
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512dq+avx512vl+avx2", "x86_64+avx2"))]
fn tell_run(p: [&[f32]; 3], x: ToFrom, y: ToFrom, z: ToFrom, squared: &mut [f32]) {
    let n = squared.len();
    let (px, py, pz) = (&p[0][..n], &p[1][..n], &p[2][..n]);
    let (tx, fx, ty, fy, tz, fz) = (&mut x.0[..n], &x.1[..n], &mut y.0[..n], &y.1[..n], &mut z.0[..n], &z.1[..n]);
    for k in 0..n {
        let (dx, dy, dz) = (px[k] - fx[k], py[k] - fy[k], pz[k] - fz[k]);
        let d = dx * dx + dy * dy + dz * dz;
        let nearer = d < squared[k];
        squared[k] = if nearer { d } else { squared[k] };
        tx[k] = if nearer { fx[k] } else { tx[k] };
        ty[k] = if nearer { fy[k] } else { ty[k] };
        tz[k] = if nearer { fz[k] } else { tz[k] };
    }
}

/// 0 to 1 over `width` mm around 0, smooth at both ends.
pub fn edge(distance: f32, width: f32) -> f32 {
    let t = (distance / width + 0.5).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}
