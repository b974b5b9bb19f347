//! The atlas: for each texel of the piece's sheets that the surface covers, where it lies on the piece. The sheets' squares lie one below the other.
//!
//! Texels are kept as a compact structure of arrays in row order; [`Atlas::lookup`] leads from a texel of the square into
//! it. A texel is covered when its centre lies in a triangle (the first triangle wins), or else, conservatively, when a
//! triangle comes within [`BORDER`] of its centre: such border texels take the nearest point and weigh nothing. Gutter texels beyond them are copied
//! from the nearest covered texel.

use std::ops::Range;

use glam::{Vec2, Vec3};
use rayon::prelude::*;

use super::flat::Flat;
use crate::mesh::Piece;

/// In [`Atlas::lookup`]: nothing lies on this texel.
pub const NONE: u32 = u32::MAX;
/// How far from its centre, in texels, a triangle still covers a border texel: just over half a texel's diagonal.
const BORDER: f32 = 0.75;
/// Rows that are laid out in one go.
pub const BAND: u32 = 32;
/// Triangles that are told apart by bands in one go.
const RUN: usize = 1 << 17;

/// Covered texels of all sheets. All vectors have one entry per covered texel unless said.
#[derive(Debug, Default, PartialEq)]
pub struct Atlas {
    /// Side of the square in texels.
    pub size: u32,
    /// Number of sheets.
    pub sheets: u32,
    /// The first row of the squares that it holds: 0 but for a band of a surface too large to hold whole, and for a patch.
    pub first_row: u32,
    /// The columns that it holds: all but for a patch.
    pub columns: Range<u32>,
    /// Index into the squares, row by row from the top, one sheet after the other.
    pub texel: Vec<u32>,
    /// Position in mm, x.
    pub px: Vec<f32>,
    /// Position in mm, y.
    pub py: Vec<f32>,
    /// Position in mm, z.
    pub pz: Vec<f32>,
    /// Unit shading normal, x.
    pub nx: Vec<f32>,
    /// Unit shading normal, y.
    pub ny: Vec<f32>,
    /// Unit shading normal, z.
    pub nz: Vec<f32>,
    /// Triangle.
    pub triangle: Vec<u32>,
    /// Part.
    pub part: Vec<u16>,
    /// Surface area of the texel in mm²; 0 for border texels.
    pub area: Vec<f32>,
    /// Rows × columns, from the first ones held on: index of the covered texel, or [`NONE`].
    pub lookup: Vec<u32>,
    /// Gutter texels as (index into the squares, covered texel to copy).
    pub gutter: Vec<(u32, u32)>,
    /// The covered texels that more than one triangle covers.
    pub overlaps: Vec<u32>,
    /// Sum of `area`.
    pub total_area: f64,
    /// Mean length of a texel's side on the surface, in mm; of the whole surface in a subset too.
    pub texel_length: f32,
    /// Length of a square's side on the surface, in mm, by the mean length of a texel.
    pub side: f32,
    /// Where in their squares texels lie that are none of the square's own, 0…1; empty where they are.
    pub(super) exact: Vec<[f32; 2]>,
}

struct Texel {
    at: u32,
    triangle: u32,
    weights: Vec3,
    inside: bool,
    distance: f32,
    overlapped: bool,
}

impl Texel {
    /// Where it lies on the piece, and its area there: none where its centre is only near it.
    fn lies(&self, piece: &Piece, size: u32) -> (Lies, f32) {
        let (du, dv) = metric(piece, self.triangle, size);
        let area = if self.inside { du.cross(dv).length() } else { 0.0 };
        (Lies::at(piece, self.triangle, self.weights), area)
    }
}

/// A place on the piece.
pub(super) struct Lies {
    triangle: u32,
    p: Vec3,
    n: Vec3,
    part: u16,
}

impl Lies {
    /// In a triangle, by the shares of its corners.
    pub fn at(piece: &Piece, triangle: u32, shares: Vec3) -> Self {
        let tri = piece.triangles[triangle as usize];
        let mix = |of: &[[f32; 3]]| {
            let [a, b, c] = tri.map(|v| Vec3::from(of[v as usize]));
            a * shares.x + b * shares.y + c * shares.z
        };
        let (p, n) = (mix(&piece.positions), mix(&piece.normals).normalize_or(Vec3::Y));
        Self { triangle, p, n, part: piece.part_at(triangle, shares) }
    }
}

impl Atlas {
    /// Lays a piece out at `size` × `size` texels. The same on every machine and thread count.
    pub fn build(piece: &Piece, size: u32) -> Atlas {
        let mut atlas = Self::rows(piece, size, 0..piece.sheets.len() as u32 * size);
        let inner = atlas.area.iter().filter(|a| **a > 0.0).count().max(1);
        atlas.texel_length = (atlas.total_area / inner as f64).sqrt() as f32;
        atlas.side = atlas.texel_length * size as f32;
        atlas
    }

    /// Some rows of it, which begin and end at multiples of [`BAND`] in their square or at its end; the length of a texel is the caller's to say.
    pub fn rows(piece: &Piece, size: u32, rows: Range<u32>) -> Atlas {
        Self::part(piece, size, rows, 0..size)
    }

    /// Some rows of one sheet, or of all, and some columns; the length of a texel is the caller's to say.
    pub fn part(piece: &Piece, size: u32, rows: Range<u32>, columns: Range<u32>) -> Atlas {
        let (sheets, first_row) = (piece.sheets.len() as u32, rows.start);
        let lookup = vec![NONE; rows.len() * columns.len()];
        let mut atlas = Atlas { size, sheets, first_row, columns: columns.clone(), lookup, ..Atlas::default() };
        let group = |row: u32| (row / size * size.div_ceil(BAND) + row % size / BAND) as usize;
        let groups = group(rows.start)..group(rows.end - 1) + 1;
        let bands = bin_triangles(piece, size, groups.clone());
        let raster = |(b, list): (usize, &Vec<u32>)| raster_band(piece, size, b as u32, &columns, list);
        let texels: Vec<Vec<Texel>> = groups.into_par_iter().zip(&bands).map(raster).collect();
        let held: Vec<&Texel> = texels.iter().flatten().filter(|t| rows.contains(&(t.at / size))).collect();
        let lying: Vec<(Lies, f32)> = held.par_iter().map(|t| t.lies(piece, size)).collect();
        for (t, (lies, area)) in held.into_iter().zip(lying) {
            atlas.push(t, &lies, area);
        }
        atlas.total_area = atlas.area.iter().map(|a| f64::from(*a)).sum();
        atlas.fill_gutter();
        atlas
    }

    /// Where a texel of the squares stands in `lookup`.
    #[inline]
    pub fn place(&self, at: u32) -> usize {
        if self.columns.len() as u32 == self.size {
            return (at - self.first_row * self.size) as usize;
        }
        let (x, y) = (at % self.size - self.columns.start, at / self.size - self.first_row);
        (y * self.columns.len() as u32 + x) as usize
    }

    /// The rows of the squares that it holds.
    pub fn held(&self) -> Range<u32> {
        self.first_row..self.first_row + (self.lookup.len() / self.columns.len().max(1)) as u32
    }

    /// Whether a texel of the squares has its centre on the piece, rather than only near it.
    #[inline]
    pub fn is_inner(&self, at: u32) -> bool {
        let covered = self.lookup[self.place(at)];
        covered != NONE && self.area[covered as usize] > 0.0
    }

    /// Whether it holds all rows.
    pub fn is_whole(&self) -> bool {
        self.lookup.len() == (self.sheets * self.size * self.size) as usize
    }

    /// Number of covered texels.
    pub fn len(&self) -> usize {
        self.texel.len()
    }

    /// Whether no texel is covered.
    pub fn is_empty(&self) -> bool {
        self.texel.is_empty()
    }

    /// The covered texels at `which`, in that order, without a square around them.
    pub fn subset(&self, which: &[u32]) -> Atlas {
        fn pick<T: Copy>(of: &[T], which: &[u32]) -> Vec<T> {
            which.iter().map(|i| of[*i as usize]).collect()
        }
        Atlas {
            size: self.size,
            columns: 0..self.size,
            sheets: self.sheets,
            texel_length: self.texel_length,
            side: self.side,
            exact: if self.exact.is_empty() { vec![] } else { pick(&self.exact, which) },
            texel: pick(&self.texel, which),
            px: pick(&self.px, which),
            py: pick(&self.py, which),
            pz: pick(&self.pz, which),
            nx: pick(&self.nx, which),
            ny: pick(&self.ny, which),
            nz: pick(&self.nz, which),
            triangle: pick(&self.triangle, which),
            part: pick(&self.part, which),
            area: pick(&self.area, which),
            ..Atlas::default()
        }
    }

    /// Where in its square a covered texel lies, 0…1 across and down, and which square that is.
    #[inline]
    pub fn uv(&self, i: usize) -> ([f32; 2], usize) {
        let (at, size) = (self.texel[i], self.size);
        let centre = || [at % size, at / size % size].map(|c| (c as f32 + 0.5) / size as f32);
        (self.exact.get(i).copied().unwrap_or_else(centre), (at / (size * size)) as usize)
    }

    /// How far from a chart's border its gutter reaches, in texels.
    pub fn padding(&self) -> u32 {
        (self.size / 64).max(4)
    }

    /// The covered texels right, left, below and above of a covered one, as far as there are any in its sheet and held.
    pub fn neighbours(&self, i: u32) -> impl Iterator<Item = usize> {
        let (at, size) = (self.texel[i as usize], self.size);
        let (x, y) = (at % size, at / size % size);
        let inside = [x + 1 < self.columns.end, x > self.columns.start, y + 1 < size, y > 0];
        let (place, row) = (self.place(at), self.columns.len());
        let (right, below) = (place.wrapping_add(1), place.wrapping_add(row));
        let to = [right, place.wrapping_sub(1), below, place.wrapping_sub(row)];
        let there = move |(inside, to): (bool, usize)| self.lookup.get(to).copied().filter(|j| inside && *j != NONE);
        inside.into_iter().zip(to).filter_map(there).map(|j| j as usize)
    }

    /// The covered texel at a place of a sheet's square, or the nearest beside it.
    pub fn at_uv(&self, sheet: u16, uv: [f32; 2]) -> Option<u32> {
        let size = self.size as i32;
        let place = uv.map(|v| (v * self.size as f32) as i32);
        const AROUND: [(i32, i32); 9] = [(0, 0), (-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)];
        AROUND.iter().find_map(|(dx, dy)| {
            let (x, y) = ((place[0] + dx).clamp(0, size - 1), (place[1] + dy).clamp(0, size - 1));
            let at = u32::from(sheet) * self.size * self.size + (y * size + x) as u32;
            self.lookup.get(at as usize).copied().filter(|i| *i != NONE)
        })
    }

    /// What a plane over covered texels holds at a place of a sheet, between the middles of the texels there (bilinear over those that are covered); none far from all charts.
    pub fn between(&self, plane: &[f32], sheet: u16, uv: [f32; 2]) -> Option<f32> {
        let size = self.size as i32;
        let at = uv.map(|v| v * self.size as f32 - 0.5);
        let [x, y] = at.map(|v| v.floor());
        let [fx, fy] = [at[0] - x, at[1] - y];
        let (mut sum, mut weights) = (0.0, 0.0);
        for (dx, dy, weight) in
            [(0, 0, (1.0 - fx) * (1.0 - fy)), (1, 0, fx * (1.0 - fy)), (0, 1, (1.0 - fx) * fy), (1, 1, fx * fy)]
        {
            let (x, y) = ((x as i32 + dx).clamp(0, size - 1), (y as i32 + dy).clamp(0, size - 1));
            let place = u32::from(sheet) * self.size * self.size + (y * size + x) as u32;
            if let Some(i) = self.lookup.get(place as usize).filter(|i| **i != NONE) {
                (sum, weights) = (sum + plane[*i as usize] * weight, weights + weight);
            }
        }
        if weights > 1e-4 { Some(sum / weights) } else { self.at_uv(sheet, uv).map(|i| plane[i as usize]) }
    }

    fn push(&mut self, t: &Texel, lies: &Lies, area: f32) {
        let place = self.place(t.at);
        self.lookup[place] = self.texel.len() as u32;
        self.add(t.at, lies, area);
        if t.overlapped {
            self.overlaps.push((self.texel.len() - 1) as u32);
        }
    }

    /// One more texel: its index into the squares, where it lies and its area.
    pub(super) fn add(&mut self, at: u32, lies: &Lies, area: f32) {
        self.texel.push(at);
        self.px.push(lies.p.x);
        self.py.push(lies.p.y);
        self.pz.push(lies.p.z);
        self.nx.push(lies.n.x);
        self.ny.push(lies.n.y);
        self.nz.push(lies.n.z);
        self.triangle.push(lies.triangle);
        self.part.push(lies.part);
        self.area.push(area);
    }

    /// Copies outward from the borders, ring by ring, each texel from its first filled neighbour in a fixed order.
    fn fill_gutter(&mut self) {
        let size = self.size as i32;
        let padding = self.padding();
        let mut source = self.lookup.clone();
        let (held, columns) = (self.held(), self.columns.start as i32..self.columns.end as i32);
        let mut front: Vec<u32> = self.texel.clone();
        const AROUND: [(i32, i32); 8] = [(-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)];
        for _ in 0..padding {
            let mut next = vec![];
            for &from in &front {
                let square = from / (self.size * self.size) * self.size * self.size;
                let (x, y) = ((from - square) as i32 % size, (from - square) as i32 / size);
                for (dx, dy) in AROUND {
                    let (x, y) = (x + dx, y + dy);
                    if !columns.contains(&x) || y < 0 || y >= size {
                        continue;
                    }
                    let to = square + (y * size + x) as u32;
                    if !held.contains(&(to / self.size)) {
                        continue;
                    }
                    let (there, here) = (self.place(to), self.place(from));
                    if source[there] == NONE {
                        source[there] = source[here];
                        next.push(to);
                        self.gutter.push((to, source[here]));
                    }
                }
            }
            front = next;
        }
    }
}

/// Millimetres on the surface per texel along u and along v (down), as vectors: the metric's two columns.
pub fn metric(piece: &Piece, triangle: u32, size: u32) -> (Vec3, Vec3) {
    let tri = piece.triangles[triangle as usize];
    let [a, b, c] = piece.corners(triangle);
    let [s, t, u] = tri.map(|v| Vec2::from(piece.uvs[v as usize]));
    let (e1, e2, d1, d2) = (b - a, c - a, t - s, u - s);
    let det = d1.perp_dot(d2);
    if det.abs() < 1e-20 {
        return (Vec3::ZERO, Vec3::ZERO);
    }
    let r = 1.0 / (det * size as f32);
    ((e1 * d2.y - e2 * d1.y) * r, (e2 * d1.x - e1 * d2.x) * r)
}

/// Triangles per band of rows, for some of the bands; each sheet has bands of its own, one sheet after the other.
fn bin_triangles(piece: &Piece, size: u32, of: Range<usize>) -> Vec<Vec<u32>> {
    let per_sheet = size.div_ceil(BAND) as usize;
    let binned = |start: usize, end: usize| {
        let mut bands = vec![vec![]; of.len()];
        for t in start as u32..end as u32 {
            let c = Flat::of(piece, t, size).corners;
            let (low, high) = (c[0].y.min(c[1].y).min(c[2].y) - 1.0, c[0].y.max(c[1].y).max(c[2].y) + 1.0);
            if high < 0.0 || low >= size as f32 {
                continue;
            }
            let first = usize::from(piece.sheet_of[t as usize]) * per_sheet;
            let band = |y: f32| first + ((y.max(0.0) as u32 / BAND) as usize).min(per_sheet - 1);
            for band in band(low).max(of.start)..(band(high) + 1).min(of.end) {
                bands[band - of.start].push(t);
            }
        }
        bands
    };
    let all = piece.triangles.len();
    let runs: Vec<Vec<Vec<u32>>> =
        (0..all.div_ceil(RUN)).into_par_iter().map(|r| binned(r * RUN, all.min((r + 1) * RUN))).collect();
    // In the order of the triangles, since the first of those that cover a texel counts.
    (0..of.len()).map(|b| runs.iter().flat_map(|bands| &bands[b]).copied().collect()).collect()
}

fn raster_band(piece: &Piece, size: u32, band: u32, columns: &Range<u32>, list: &[u32]) -> Vec<Texel> {
    let per_sheet = size.div_ceil(BAND);
    let (sheet, band) = (band / per_sheet, band % per_sheet);
    let (top, bottom) = (band * BAND, ((band + 1) * BAND).min(size));
    let mut cells: Vec<Option<Texel>> = (0..(bottom - top) * columns.len() as u32).map(|_| None).collect();
    for &t in list {
        let flat = Flat::of(piece, t, size);
        if flat.is_line() {
            continue;
        }
        let (xs, ys) = flat.reach(BORDER, columns, &(top..bottom));
        for y in ys {
            for x in xs.clone() {
                let centre = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
                let cell = &mut cells[((y - top) * columns.len() as u32 + x - columns.start) as usize];
                visit(cell, t, sheet * size * size + y * size + x, centre, &flat);
            }
        }
    }
    cells.into_iter().flatten().collect()
}

fn visit(cell: &mut Option<Texel>, triangle: u32, at: u32, p: Vec2, flat: &Flat) {
    let weights = flat.shares(p);
    let inside = weights.min_element() >= 0.0;
    match cell {
        // A centre on the edge between two triangles is no overlap.
        Some(old) if old.inside => old.overlapped |= weights.min_element() > 1e-3,
        _ if inside => *cell = Some(Texel { at, triangle, weights, inside, distance: 0.0, overlapped: false }),
        _ => {
            let (weights, distance) = flat.nearest(p);
            if distance <= BORDER && cell.as_ref().is_none_or(|old| distance < old.distance) {
                *cell = Some(Texel { at, triangle, weights, inside, distance, overlapped: false });
            }
        }
    }
}
