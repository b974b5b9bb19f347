//! Which texels lie next to each other on the surface, and walking along it, across seams and from sheet to sheet.

use glam::Vec3;

use super::Surface;
use super::atlas::{NONE, metric};

/// The neighbours of every texel of a surface.
pub struct Links {
    /// Per texel of the squares: the covered texel that lies there across a seam, or [`NONE`].
    beyond: Vec<u32>,
    /// Chart of each covered texel.
    pub chart: Vec<u32>,
    /// Place of each covered texel in its square: across and down.
    pub place: Vec<[u16; 2]>,
    /// How far apart neighbours may lie, in mm: a link that is longer leads astray.
    reach: f32,
}

/// The eight directions.
pub const AROUND: [(i32, i32); 8] = [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, 1), (1, -1), (-1, -1)];

impl Links {
    /// Of a surface.
    pub fn build(surface: &Surface) -> Links {
        let atlas = &surface.atlas;
        let mut beyond = vec![NONE; atlas.lookup.len()];
        for a in &surface.seams().across {
            let heaviest = (0..4).max_by(|i, j| a.weight[*i].total_cmp(&a.weight[*j])).unwrap_or(0);
            beyond[a.at as usize] = a.from[heaviest];
        }
        let chart = atlas.triangle.iter().map(|t| surface.piece.chart_of[*t as usize]).collect();
        let place = |at: &u32| [(at % atlas.size) as u16, (at / atlas.size % atlas.size) as u16];
        Links { beyond, chart, place: atlas.texel.iter().map(place).collect(), reach: surface.atlas.texel_length * 6.0 }
    }

    /// The texel next to a covered one, if the surface goes on there; and whether it lies across a seam. `dx` and `dy` are −1, 0 or 1.
    #[inline]
    pub fn next(&self, surface: &Surface, i: u32, dx: i32, dy: i32) -> Option<(u32, bool)> {
        let atlas = &surface.atlas;
        let (at, size) = (atlas.texel[i as usize], atlas.size as i32);
        let [x, y] = self.place[i as usize];
        let (x, y) = (i32::from(x) + dx, i32::from(y) + dy);
        if x < 0 || y < 0 || x >= size || y >= size {
            return None;
        }
        let to = (at as i32 + dy * size + dx) as usize;
        let j = atlas.lookup[to];
        if j != NONE && self.chart[j as usize] == self.chart[i as usize] {
            return Some((j, false));
        }
        let far = self.beyond[to];
        (far != NONE && (place(surface, far) - place(surface, i)).length() < self.reach).then_some((far, true))
    }
}

/// Where a covered texel lies, in mm.
#[inline]
pub fn place(surface: &Surface, i: u32) -> Vec3 {
    let (a, i) = (&surface.atlas, i as usize);
    Vec3::new(a.px[i], a.py[i], a.pz[i])
}

/// The shading normal of a covered texel.
#[inline]
pub fn normal(surface: &Surface, i: u32) -> Vec3 {
    let (a, i) = (&surface.atlas, i as usize);
    Vec3::new(a.nx[i], a.ny[i], a.nz[i])
}

/// A way along the surface from a covered texel, in mm in space, as texels along both sides of the square: at most one. None where the UVs are degenerate.
pub fn in_texels(surface: &Surface, texel: u32, by: Vec3) -> Option<[f32; 2]> {
    let (du, dv) = metric(&surface.piece, surface.atlas.triangle[texel as usize], surface.atlas.size);
    let (uu, uv, vv) = (du.dot(du), du.dot(dv), dv.dot(dv));
    let det = uu * vv - uv * uv;
    if det < 1e-20 {
        return None;
    }
    let (bu, bv) = (by.dot(du), by.dot(dv));
    let (a, b) = ((vv * bu - uv * bv) / det, (uu * bv - uv * bu) / det);
    let long = a.abs().max(b.abs()).max(1.0);
    Some([a / long, b / long])
}

/// Somebody on the surface: a covered texel, and how far from its centre, in texels.
#[derive(Debug, Clone, Copy)]
pub struct Walker {
    /// The texel.
    pub texel: u32,
    /// From its centre, −½…½ along both sides of the square.
    pub offset: [f32; 2],
}

impl Walker {
    /// Stands in the middle of a texel.
    pub fn at(texel: u32) -> Self {
        Self { texel, offset: [0.0; 2] }
    }

    /// Goes `by` (in mm, in space) along the surface, as far as the plane of the texel's triangle lets it; at most one texel on. False at an open border.
    pub fn step(&mut self, surface: &Surface, links: &Links, by: Vec3) -> bool {
        match in_texels(surface, self.texel, by) {
            Some(by) => self.shift(surface, links, by),
            None => false,
        }
    }

    /// Goes by so much of a texel along both sides of the square; at most one texel on. False at an open border.
    #[inline]
    pub fn shift(&mut self, surface: &Surface, links: &Links, by: [f32; 2]) -> bool {
        self.offset[0] += by[0];
        self.offset[1] += by[1];
        let cell = self.offset.map(|o| {
            if o > 0.5 {
                1
            } else if o < -0.5 {
                -1
            } else {
                0
            }
        });
        if cell == [0, 0] {
            return true;
        }
        match links.next(surface, self.texel, cell[0], cell[1]) {
            Some((j, false)) => {
                self.texel = j;
                self.offset = [self.offset[0] - cell[0] as f32, self.offset[1] - cell[1] as f32];
                true
            }
            Some((j, true)) => {
                *self = Walker::at(j);
                true
            }
            None => false,
        }
    }

    /// A plane's value where it stands, mixed from the texels around.
    pub fn value(&self, surface: &Surface, links: &Links, plane: &[f32]) -> f32 {
        let sign = |o: f32| if o < 0.0 { -1 } else { 1 };
        let (sx, sy) = (sign(self.offset[0]), sign(self.offset[1]));
        let (wx, wy) = (self.offset[0].abs().min(0.5), self.offset[1].abs().min(0.5));
        let own = plane[self.texel as usize];
        let at = |dx: i32, dy: i32| links.next(surface, self.texel, dx, dy).map_or(own, |n| plane[n.0 as usize]);
        let (near, far) = (own + (at(sx, 0) - own) * wx, (at(0, sy), at(sx, sy)));
        near + (far.0 + (far.1 - far.0) * wx - near) * wy
    }
}
