//! A kit of shapes: profiles swept around sections, each with charts of its own, packed into one square.

mod normals;
mod pack;
mod section;
mod sweep;
mod tube;

use dustcoat_core::mesh::{Piece, Soup};
use glam::{Mat4, Vec2, Vec3};

pub use section::Section;
pub use sweep::round;
pub use tube::smooth;

/// A profile of (radius, height) points.
pub fn points(list: &[(f32, f32)]) -> Vec<Vec2> {
    list.iter().map(|p| Vec2::from(*p)).collect()
}

/// How a shape is unfolded.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unfold {
    /// Like a flower from its top: small parts in one chart.
    Flower,
    /// Discs as discs, walls as strips.
    Parts,
}

/// One UV chart: points with their place on the flat sheet in mm.
pub(crate) struct Chart {
    part: String,
    shape: u32,
    positions: Vec<Vec3>,
    flat: Vec<Vec2>,
    triangles: Vec<[u32; 3]>,
}

/// Shapes being put together.
#[derive(Default)]
pub struct Kit {
    charts: Vec<Chart>,
    shapes: u32,
}

impl Kit {
    /// Sweeps a profile of (radius, height) points, from the bottom up, around a section, and places it. The ends are open unless the
    /// radius falls to 0 there.
    pub fn sweep(&mut self, part: &str, profile: &[Vec2], section: &Section, unfold: Unfold, place: Mat4) {
        self.shapes += 1;
        let charts = sweep::charts(profile, section, unfold);
        self.add(part, charts, place);
    }

    /// A ring of radius `ring` around y, of a round bar of radius `bar`.
    pub fn torus(&mut self, part: &str, ring: f32, bar: f32, place: Mat4) {
        self.shapes += 1;
        self.add(part, sweep::torus(ring, bar), place);
    }

    /// A round bar along a path; the ends of an open one are open.
    pub fn tube(&mut self, part: &str, path: &[Vec3], bar: f32, closed: bool, place: Mat4) {
        self.shapes += 1;
        self.add(part, tube::tube(path, bar, closed), place);
    }

    /// A board or a bar with broken edges: half sizes along x and z, and its height from `from` to `to`.
    pub fn slab(&mut self, part: &str, half: Vec2, [from, to]: [f32; 2], bevel: f32, place: Mat4) {
        let inmost = -half.min_element();
        let profile = [(inmost, from), (0.0, from), (0.0, to), (inmost, to)].map(Vec2::from);
        let section = Section::Rect { half, corner: bevel };
        self.sweep(part, &round(&profile, bevel), &section, Unfold::Parts, place);
    }

    fn add(&mut self, part: &str, charts: Vec<sweep::Flat>, place: Mat4) {
        for mut c in charts {
            // Seen from outside, every chart lies in the square the right way round.
            let double = |t: &[u32; 3]| {
                let [a, b, c] = t.map(|v| c.flat[v as usize]);
                (b - a).perp_dot(c - a)
            };
            if c.triangles.iter().map(double).sum::<f32>() < 0.0 {
                c.flat.iter_mut().for_each(|p| p.x = -p.x);
            }
            self.charts.push(Chart {
                part: part.into(),
                shape: self.shapes,
                positions: c.positions.iter().map(|p| place.transform_point3(*p)).collect(),
                flat: c.flat,
                triangles: c.triangles,
            });
        }
    }

    /// Packs the charts, computes normals, and builds the piece.
    pub fn finish(mut self, name: &str) -> Piece {
        let uvs = pack::pack(&mut self.charts);
        let normals = normals::corner_normals(&self.charts);
        let mut soup = Soup { name: name.into(), ..Soup::default() };
        for (c, chart) in self.charts.iter().enumerate() {
            let part = soup.part(&chart.part);
            for (t, tri) in chart.triangles.iter().enumerate() {
                let corner = |k: usize| {
                    let v = tri[k] as usize;
                    (chart.positions[v].to_array(), normals[c][t * 3 + k].to_array(), uvs[c][v].to_array())
                };
                soup.push(part, [corner(0), corner(1), corner(2)]);
            }
        }
        Piece::build(soup).expect("the kit makes valid meshes")
    }
}
