//! A kit of shapes: profiles swept around sections, each with charts of its own, packed into one square.

mod normals;
mod pack;
mod section;
mod sweep;
mod tube;

use dustcoat_core::mesh::{Piece, Soup};
use glam::{Mat4, Quat, Vec2, Vec3};

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
    sheet: u16,
    /// Whether it runs along its x, and is to stand upright in the square, so that what is laid along the UVs runs with it.
    upright: bool,
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
    sheet: u16,
}

impl Kit {
    /// What is added from now on lies on that sheet, counted from 0.
    pub fn on_sheet(&mut self, sheet: u16) {
        self.sheet = sheet;
    }

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
        self.add(part, tube::tube_of(path, bar, tube::BAR, closed), place);
    }

    /// Bends the shape that was added last, where it lies.
    pub fn bend(&mut self, to: impl Fn(Vec3) -> Vec3) {
        for chart in self.charts.iter_mut().filter(|c| c.shape == self.shapes) {
            chart.positions.iter_mut().for_each(|p| *p = to(*p));
        }
    }

    /// A closed turn of twine: a bar too thin to be seen to be six-sided.
    pub fn twine(&mut self, part: &str, path: &[Vec3], bar: f32, place: Mat4) {
        self.shapes += 1;
        self.add(part, tube::tube_of(path, bar, 6, true), place);
    }

    /// A rope of three strands along a path, of radius `radius`; its open ends are whipped with twine of the same part.
    pub fn rope(&mut self, part: &str, path: &[Vec3], radius: f32, closed: bool, place: Mat4) {
        for strand in tube::strands(path, radius, closed) {
            self.shapes += 1;
            self.add(part, tube::tube_of(&strand, radius * tube::STRAND, 10, closed), place);
        }
        if closed {
            return;
        }
        let n = path.len();
        for (end, before) in [(path[0], path[1]), (path[n - 1], path[n - 2])] {
            let out = Quat::from_rotation_arc(Vec3::Y, (end - before).normalize());
            let whipping =
                [(0.95, -1.6), (1.06, -1.5), (1.06, 0.1), (0.9, 0.25), (0.0, 0.25)].map(|p| Vec2::from(p) * radius);
            let at = place * Mat4::from_rotation_translation(out, end);
            self.sweep(part, &round(&whipping, radius * 0.1), &Section::Circle(20), Unfold::Flower, at);
        }
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
                sheet: self.sheet,
                upright: c.upright,
                shape: self.shapes,
                positions: c.positions.iter().map(|p| place.transform_point3(*p)).collect(),
                flat: c.flat,
                triangles: c.triangles,
            });
        }
    }

    /// Packs the charts of each sheet, computes normals, and builds the piece.
    pub fn finish(mut self, name: &str) -> Piece {
        self.charts.sort_by_key(|c| c.sheet);
        let of_one_sheet = self.charts.chunk_by_mut(|a, b| a.sheet == b.sheet);
        let uvs: Vec<Vec<Vec2>> = of_one_sheet.flat_map(pack::pack).collect();
        let normals = normals::corner_normals(&self.charts);
        let mut soup = Soup { name: name.into(), ..Soup::default() };
        for (c, chart) in self.charts.iter().enumerate() {
            let part = soup.part(&chart.part);
            for (t, tri) in chart.triangles.iter().enumerate() {
                let corner = |k: usize| {
                    let v = tri[k] as usize;
                    let uv = uvs[c][v] + Vec2::new(f32::from(chart.sheet), 0.0);
                    (chart.positions[v].to_array(), normals[c][t * 3 + k].to_array(), uv.to_array())
                };
                soup.push(part, [corner(0), corner(1), corner(2)]);
            }
        }
        Piece::build(soup).expect("the kit makes valid meshes")
    }
}
