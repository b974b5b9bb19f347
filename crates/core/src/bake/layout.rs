//! How well a piece is laid out in UV: density, its spread, stretch, and what lies over one another.

use glam::{Vec2, Vec3};
use serde::Serialize;
use ts_rs::TS;

use super::Atlas;
use crate::mesh::{Finding, Piece};

/// The report. Shares are of the surface's area.
#[derive(Debug, Clone, PartialEq, Default, Serialize, TS)]
pub struct UvReport {
    /// Texels per mm at the size asked for: as dense as half of the surface.
    pub density: f32,
    /// A twentieth of the surface is coarser than this, in texels per mm.
    pub coarse: f32,
    /// A twentieth of the surface is finer than this.
    pub fine: f32,
    /// Mean ratio of the longer to the shorter side of what was a square on the surface; 1 = not stretched.
    pub stretch: f32,
    /// A twentieth of the surface is stretched by more than this.
    pub worst_stretch: f32,
    /// Share of the square's texels that are covered.
    pub filled: f32,
    /// Share of the covered texels that more than one triangle covers.
    pub overlap: f32,
    /// What is wrong with the UVs of each part, in words: nothing where they are sound.
    pub faults: Vec<Vec<String>>,
    /// Whether triangles of each part share texels with others, noticeably.
    pub shared: Vec<bool>,
}

/// Shares of the texels below this are exporters' rounding.
const NOTICED: f32 = 0.002;
/// Share of a part above which something is wrong with its UVs.
const FAULTY: f64 = 0.01;
/// Mean ratio of the longer to the shorter side of what was a square on a part, above which it is called stretched.
const STRETCHED: f64 = 1.6;

impl UvReport {
    /// What is said of UVs that lie over one another; none where they don't.
    pub fn finding(&self) -> Option<Finding> {
        (self.overlap > NOTICED).then(|| Finding {
            serious: true,
            what: format!("{:.1} % of the texels are covered more than once.", self.overlap * 100.0),
            remedy: "What lies over one another looks alike, as the first of it does: fine for copies that are meant to. If each is to wear in its own way, \
                     tick its part in the list of parts to have its UVs laid out anew, or lay the charts apart in the modeller."
                .into(),
        })
    }
}

/// Largest and smallest singular value of the map from the surface (mm) to the square (texels), of one triangle; none where it has no area.
fn singular(piece: &Piece, t: u32, size: f32) -> Option<(f32, f32)> {
    let [a, b, c] = piece.corners(t);
    let [s, u, v] = piece.triangles[t as usize].map(|i| Vec2::from(piece.uvs[i as usize]) * size);
    let x = (b - a).normalize_or(Vec3::X);
    let y = x.cross(c - a).cross(x).normalize_or(Vec3::Y);
    let (p, q) = (Vec2::new((b - a).length(), 0.0), Vec2::new((c - a).dot(x), (c - a).dot(y)));
    let det = p.x * q.y;
    if det.abs() < 1e-20 {
        return None;
    }
    let (d1, d2) = (u - s, v - s);
    let along = d1 / p.x;
    let up = (d2 * p.x - d1 * q.x) / det;
    let (e, f, g) = (along.dot(along), along.dot(up), up.dot(up));
    let root = ((e - g) * (e - g) + 4.0 * f * f).sqrt();
    Some((((e + g + root) * 0.5).sqrt(), ((e + g - root).max(0.0) * 0.5).sqrt()))
}

/// Reports on a piece as it is laid out in an atlas.
pub fn report(piece: &Piece, atlas: &Atlas) -> UvReport {
    let size = atlas.size;
    let mut all: Vec<(f32, f32, f64)> = vec![];
    let mut filled = 0.0f64;
    for t in 0..piece.triangles.len() as u32 {
        let [a, b, c] = piece.corners(t);
        let area = f64::from((b - a).cross(c - a).length()) * 0.5;
        let Some((long, short)) = singular(piece, t, size as f32).filter(|s| s.1 > 0.0) else { continue };
        filled += area * f64::from(long * short);
        all.push(((long * short).sqrt(), long / short, area));
    }
    let total: f64 = all.iter().map(|a| a.2).sum();
    if total <= 0.0 {
        return UvReport::default();
    }
    let quantile = |of: &dyn Fn(&(f32, f32, f64)) -> f32, share: f64| {
        let mut sorted: Vec<(f32, f64)> = all.iter().map(|a| (of(a), a.2)).collect();
        sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut sum = 0.0;
        let found = sorted.iter().find(|(_, area)| {
            sum += area;
            sum >= share * total
        });
        found.or(sorted.last()).map_or(0.0, |f| f.0)
    };
    let (density, stretch) = (|a: &(f32, f32, f64)| a.0, |a: &(f32, f32, f64)| a.1);
    let mean = all.iter().map(|a| f64::from(a.1) * a.2).sum::<f64>() / total;
    let square = f64::from(size) * f64::from(size) * piece.sheets.len().max(1) as f64;
    UvReport {
        density: quantile(&density, 0.5),
        coarse: quantile(&density, 0.05),
        fine: quantile(&density, 0.95),
        stretch: mean as f32,
        worst_stretch: quantile(&stretch, 0.95),
        filled: (filled / square).min(1.0) as f32,
        faults: faults(piece, atlas),
        shared: shares(piece, atlas).into_iter().map(|[all, shared]| shared > FAULTY * all.max(1.0)).collect(),
        overlap: atlas.overlaps.len() as f32 / atlas.len().max(1) as f32,
    }
}

/// How many texels each part covers, and how many of them more than one triangle does.
fn shares(piece: &Piece, atlas: &Atlas) -> Vec<[f64; 2]> {
    let mut covered = vec![[0.0; 2]; piece.parts.len()];
    for part in &atlas.part {
        covered[usize::from(*part)][0] += 1.0;
    }
    for i in &atlas.overlaps {
        covered[usize::from(atlas.part[*i as usize])][1] += 1.0;
    }
    covered
}

/// What is wrong with the UVs of each part.
fn faults(piece: &Piece, atlas: &Atlas) -> Vec<Vec<String>> {
    let covered = shares(piece, atlas);
    // Area in all, without any in the UVs, out of its tile; and stretch times area.
    let mut areas = vec![[0.0f64; 4]; piece.parts.len()];
    for t in 0..piece.triangles.len() as u32 {
        let [a, b, c] = piece.corners(t);
        let area = f64::from((b - a).cross(c - a).length()) * 0.5;
        let uvs = piece.triangles[t as usize].map(|v| piece.uvs[v as usize]);
        let out = uvs.iter().flatten().any(|v| !(-0.001..=1.001).contains(v));
        let of = &mut areas[usize::from(piece.part_at(t, Vec3::splat(1.0 / 3.0)))];
        of[0] += area;
        of[2] += if out { area } else { 0.0 };
        match singular(piece, t, 1.0).filter(|s| s.1 > 0.0) {
            Some((long, short)) => of[3] += area * f64::from(long / short),
            None => of[1] += area,
        }
    }
    let percent = |share: f64| format!("{:.0} %", (share * 100.0).max(1.0));
    let told = |([texels, shared], [area, flat, out, stretch]): ([f64; 2], [f64; 4])| {
        let shares = [
            (shared / texels.max(1.0), "of it lies over other faces"),
            (flat / area.max(1e-12), "of it has no area"),
            (out / area.max(1e-12), "of it stands out of its square"),
        ];
        let said = |(share, what): &(f64, &str)| (*share > FAULTY).then(|| format!("{} {what}", percent(*share)));
        let mean = stretch / (area - flat).max(1e-12);
        let stretched = (mean > STRETCHED)
            .then(|| if mean < 10.0 { format!("stretched ×{mean:.1}") } else { "stretched by more than ×10".into() });
        shares.iter().filter_map(said).chain(stretched).collect()
    };
    covered.into_iter().zip(areas).map(told).collect()
}
