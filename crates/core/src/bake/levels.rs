//! The same surface at coarser sizes: what reaches far is worked out where a texel is about as long as it needs to be, so that it costs little and looks alike
//! at every texture size.

use rayon::prelude::*;

use super::Surface;
use super::atlas::NONE;
use crate::raster::Plane;

/// The least size that is gone down to.
const LEAST: u32 = 64;

impl Surface {
    /// The surface at the coarsest size at which a texel is not longer than that, and the ones on the way there, finest first.
    pub fn down_to(&self, millimetres: f32) -> Vec<&Surface> {
        let mut all = vec![self];
        loop {
            let last = all[all.len() - 1];
            if last.atlas.size / 2 < LEAST || last.atlas.texel_length * 2.0 > millimetres {
                return all;
            }
            all.push(last.coarser());
        }
    }
}

/// A plane of the finest of some levels on the coarsest.
pub fn down(levels: &[&Surface], plane: &[f32]) -> Plane {
    levels.windows(2).fold(plane.to_vec(), |plane, pair| halve(pair[0], pair[1], &plane))
}

/// A plane of the coarsest of some levels on the finest.
pub fn up(levels: &[&Surface], plane: Plane) -> Plane {
    levels.windows(2).rev().fold(plane, |plane, pair| double(pair[1], pair[0], &plane))
}

/// The mean of the up to four texels that lie on each coarse one and are of its chart.
fn halve(fine: &Surface, coarse: &Surface, plane: &[f32]) -> Plane {
    let (a, b) = (&fine.atlas, &coarse.atlas);
    let (to, from) = (&coarse.links().chart, &fine.links().chart);
    let (places, square) = (&coarse.links().place, b.size * b.size);
    let one = |i: usize| {
        let sheet = if b.sheets > 1 { b.texel[i] / square } else { 0 };
        let [x, y] = places[i].map(u32::from);
        let child = |k: u32| {
            let at = sheet * a.size * a.size + (2 * y + k / 2) * a.size + 2 * x + k % 2;
            Some(a.lookup[at as usize]).filter(|j| *j != NONE)
        };
        let own = (0..4).filter_map(child).filter(|j| from[*j as usize] == to[i]);
        let (sum, count) = own.fold((0.0f32, 0u32), |(sum, n), j| (sum + plane[j as usize], n + 1));
        if count > 0 {
            return sum / count as f32;
        }
        let uv = [(x as f32 + 0.5) / b.size as f32, (y as f32 + 0.5) / b.size as f32];
        a.at_uv(sheet as u16, uv).map_or(0.0, |j| plane[j as usize])
    };
    (0..b.len()).into_par_iter().with_min_len(4096).map(one).collect()
}

/// Mixed from the four coarse texels around each fine one, or from what lies across the seam where they end.
fn double(coarse: &Surface, fine: &Surface, plane: &[f32]) -> Plane {
    let (a, b) = (&coarse.atlas, &fine.atlas);
    let (from, to) = (&coarse.links().chart, &fine.links().chart);
    let square = coarse.seams().square(a, plane);
    let places = &fine.links().place;
    let one = |i: usize| {
        let sheet = if b.sheets > 1 { b.texel[i] / (b.size * b.size) } else { 0 };
        let [x, y] = places[i].map(u32::from);
        let place = |v: u32| (v as f32 + 0.5) * 0.5 - 0.5;
        let (u, v) = (place(x), place(y));
        let (low_x, low_y) = (u.floor(), v.floor());
        let (mut sum, mut total) = (0.0f32, 0.0f32);
        for k in 0..4 {
            let (dx, dy) = ((k % 2) as f32, (k / 2) as f32);
            let (cx, cy) = (low_x + dx, low_y + dy);
            if cx < 0.0 || cy < 0.0 || cx >= a.size as f32 || cy >= a.size as f32 {
                continue;
            }
            let at = (sheet * a.size * a.size + cy as u32 * a.size + cx as u32) as usize;
            let covered = a.lookup[at];
            let elsewhere = covered != NONE && from[covered as usize] != to[i];
            let weight = (1.0 - (u - cx).abs()).max(0.0) * (1.0 - (v - cy).abs()).max(0.0);
            if !elsewhere && !square[at].is_nan() {
                sum += square[at] * weight;
                total += weight;
            }
        }
        if total > 1e-3 {
            return sum / total;
        }
        let uv = [(x as f32 + 0.5) / b.size as f32, (y as f32 + 0.5) / b.size as f32];
        a.at_uv(sheet as u16, uv).map_or(0.0, |j| plane[j as usize])
    };
    (0..b.len()).into_par_iter().with_min_len(4096).map(one).collect()
}
