//! What tells the parts of a piece apart: its material slots, the colours of its vertices, or an ID picture; and how an intake's pictures get
//! onto the piece.

use std::collections::BTreeMap;
use std::collections::btree_map::Entry;
use std::sync::Arc;

use glam::{Vec2, Vec3};

use super::intake::{Intake, PartsBy, PictureUse};
use super::mend::{Mending, Up};
use super::palette::{self, Seen};
use super::sheets::Sharing;
use super::{Finding, Part, Piece};
use crate::raster::oklab::oklab;
use crate::raster::picture::{Grid, Picture, around};
use crate::raster::pyramid::{Level, MaskPicture};
use crate::raster::srgb;

/// How the part of a spot is found.
#[derive(Debug, Clone, PartialEq, Default)]
pub enum PartRule {
    /// By its triangle.
    #[default]
    Triangles,
    /// By the texel of its sheet's ID picture under its UV.
    Picture(BySheet<Grid<u16>>),
    /// By the nearest of some OKLab colours to that of the vertices around it.
    Colors(Vec<[f32; 3]>),
}

/// One for each sheet; several sheets may share one.
pub type BySheet<T> = Vec<Arc<T>>;

/// The numbers of pictures that stand in for something measured.
#[derive(Debug, Clone, PartialEq)]
pub enum StandIn {
    /// One number, 0…1.
    Number(BySheet<Level>),
    /// Tangent-space normals.
    Normal(BySheet<NormalPicture>),
}

/// A picture of tangent-space normals.
#[derive(Debug, PartialEq)]
pub struct NormalPicture {
    picture: Picture,
    green_down: bool,
}

impl NormalPicture {
    /// The normal at a place of the unit square, y up the texture: mixed from the four texels around it and not of unit length.
    pub fn smooth(&self, uv: [f32; 2]) -> Vec3 {
        let [width, height] = self.picture.size();
        let all = around(width, height, uv);
        all.iter().map(|(i, w)| Vec3::from(self.picture.normal(*i, self.green_down)) * *w).sum()
    }
}

impl StandIn {
    /// About how many bytes it takes in memory.
    pub fn bytes(&self) -> usize {
        match self {
            StandIn::Number(levels) => levels.iter().map(|l| l.bytes()).sum(),
            StandIn::Normal(pictures) => pictures.iter().map(|p| p.picture.bytes_held()).sum(),
        }
    }
}

/// Edges of the grid of samples that a whole UV square is given.
const SAMPLES: f32 = 512.0;

/// The bytes of a picture, if they are still there.
pub type Bytes<'a> = &'a dyn Fn(&PictureUse) -> Option<Vec<u8>>;

impl Piece {
    /// The part of a spot on a triangle, by its barycentrics.
    pub fn part_at(&self, triangle: u32, weights: Vec3) -> u16 {
        match &self.rule {
            PartRule::Triangles => self.part_of[triangle as usize],
            PartRule::Picture(labels) => {
                labels[usize::from(self.sheet_of[triangle as usize])].nearest(self.uv_at(triangle, weights).to_array())
            }
            PartRule::Colors(palette) => {
                let mix: Vec3 = self.triangles[triangle as usize]
                    .iter()
                    .zip(weights.to_array())
                    .map(|(v, w)| Vec3::from(self.colors[*v as usize].map(f32::from)) * w)
                    .sum();
                palette::nearest(oklab(mix.to_array().map(|c| c.clamp(0.0, 255.0).round() as u8)), palette)
            }
        }
    }

    fn uv_at(&self, triangle: u32, weights: Vec3) -> Vec2 {
        let [a, b, c] = self.triangles[triangle as usize].map(|v| Vec2::from(self.uvs[v as usize]));
        a * weights.x + b * weights.y + c * weights.z
    }

    /// The piece of an intake, from its mesh as it was imported. What can't be used is said among the findings; nothing fails.
    pub fn take_in(&self, intake: &Intake, bytes: Bytes) -> Piece {
        let mut piece = self.clone();
        let mut told = blake3::Hasher::new();
        piece.tell_parts(intake, bytes, &mut told);
        if told.count() > 0 {
            piece.told = told.finalize().to_hex().to_string();
        }
        piece.rename_parts(intake);
        piece.take_pictures(intake, bytes);
        let mut relief = blake3::Hasher::new();
        if let Some(finer) = &intake.finer {
            let unit = finer.mesh.unit.map_or(0.0, crate::mesh::Unit::millimetres);
            relief.update(finer.mesh.hash.as_bytes()).update(&unit.to_bits().to_le_bytes());
            relief.update(&finer.cage_on(&piece).to_bits().to_le_bytes());
            let Mending { up, scale, .. } = intake.taking_finer(finer).mending;
            if (up, scale) != (Up::Y, 1.0) {
                relief.update(&[up as u8]).update(&scale.to_bits().to_le_bytes());
            }
        }
        if let Some((hash, _)) = piece.stand_ins.get("normal") {
            relief.update(b"|").update(hash.as_bytes());
        }
        if relief.count() > 0 {
            piece.relief = relief.finalize().to_hex().to_string();
        }
        piece
    }

    fn found(&mut self, serious: bool, what: String, remedy: &str) {
        self.findings.push(Finding { serious, what, remedy: remedy.into() });
    }

    fn decode(&mut self, used: &PictureUse, bytes: Bytes) -> Option<Picture> {
        let Some(bytes) = bytes(used) else {
            self.found(true, format!("The picture “{}” is gone.", used.file), "Bring it in again, or take it off.");
            return None;
        };
        let decoded = Picture::decode(&used.file, &bytes);
        decoded.map_err(|e| self.found(true, e.to_string(), "It is left out until then.")).ok()
    }

    /// The picture that serves a purpose on each sheet. Where some sheets have none it serves on none, and a finding says which they are.
    fn pictures_for<'a>(&mut self, intake: &'a Intake, purpose: &str) -> Option<Vec<&'a PictureUse>> {
        let found: Vec<_> = self.sheets.iter().map(|s| intake.picture_for(purpose, &s.name)).collect();
        let without: Vec<&str> =
            self.sheets.iter().zip(&found).filter(|(_, f)| f.is_none()).map(|(s, _)| s.name.as_str()).collect();
        if !without.is_empty() {
            let what = match purpose {
                "parts" => "ID picture".to_owned(),
                "normal" => "picture of normals".to_owned(),
                other => format!("picture of {other}"),
            };
            let remedy =
                "None of them is used until every sheet has one. Bring the others in, or let one serve all sheets.";
            self.found(true, format!("No {what} serves sheet {}.", without.join(", ")), remedy);
        }
        found.into_iter().collect()
    }

    /// What is read from each sheet's picture, each picture read once; none when one of them can't be.
    fn each<T>(
        &mut self,
        used: &[&PictureUse],
        bytes: Bytes,
        key: impl Fn(&PictureUse) -> String,
        read: impl Fn(Picture, &PictureUse) -> T,
    ) -> Option<BySheet<T>> {
        let mut done: BTreeMap<String, Arc<T>> = BTreeMap::new();
        for u in used {
            if let Entry::Vacant(free) = done.entry(key(u)) {
                let picture = self.decode(u, bytes)?;
                free.insert(Arc::new(read(picture, u)));
            }
        }
        Some(used.iter().map(|u| done[&key(u)].clone()).collect())
    }

    fn tell_parts(&mut self, intake: &Intake, bytes: Bytes, told: &mut blake3::Hasher) {
        match intake.parts_by {
            PartsBy::Materials | PartsBy::Groups | PartsBy::Objects => {}
            PartsBy::Colors if self.colors.is_empty() => self.found(
                true,
                "Parts are told by the colours of the vertices, but this mesh has none.".into(),
                "They are told by its materials instead. Tell them by something else, or export the mesh with its colours.",
            ),
            PartsBy::Colors => {
                let seen: Vec<Seen> = (0..self.triangles.len() as u32).flat_map(|t| self.seen_colors(t)).collect();
                let colors = palette::cluster(&seen, intake.tolerance);
                told.update(b"colors").update(&colors.concat());
                self.rule = PartRule::Colors(colors.iter().map(|c| oklab(*c)).collect());
                self.set_parts(&colors);
            }
            PartsBy::Picture => {
                if !intake.pictures.iter().any(|p| p.purpose == "parts") {
                    let remedy = "They are told by the mesh's materials until a picture is given that purpose.";
                    return self.found(false, "Parts are to be told by an ID picture, but there is none.".into(), remedy);
                }
                let Some(used) = self.pictures_for(intake, "parts") else { return };
                told.update(b"picture").update(&intake.tolerance.to_bits().to_le_bytes());
                used.iter().for_each(|u| _ = told.update(u.hash.as_bytes()));
                let key = |u: &PictureUse| u.hash.clone();
                let Some(grids) = self.each(&used, bytes, key, |p, _| p.bytes()) else { return };
                let grid_of = |t: u32| &grids[usize::from(self.sheet_of[t as usize])];
                let seen: Vec<Seen> =
                    (0..self.triangles.len() as u32).flat_map(|t| self.seen_texels(t, grid_of(t))).collect();
                let colors = palette::cluster(&seen, intake.tolerance);
                let labelled: BTreeMap<*const _, _> =
                    grids.iter().map(|g| (Arc::as_ptr(g), Arc::new(labels(g, &colors)))).collect();
                self.rule = PartRule::Picture(grids.iter().map(|g| labelled[&Arc::as_ptr(g)].clone()).collect());
                self.set_parts(&colors);
            }
        }
    }

    /// Spots of a triangle, spread evenly: barycentrics and the area that each stands for, in mm².
    fn spots(&self, triangle: u32) -> impl Iterator<Item = (Vec3, f64)> {
        let [a, b, c] = self.triangles[triangle as usize].map(|v| Vec2::from(self.uvs[v as usize]) * SAMPLES);
        let n = ((b - a).perp_dot(c - a).abs() * 0.5).ceil().clamp(1.0, 4096.0) as u32;
        let [p, q, r] = self.corners(triangle);
        let share = f64::from((q - p).cross(r - p).length()) * 0.5 / f64::from(n);
        (0..n).map(move |k| {
            // The R2 sequence (Roberts 2018), folded into the triangle.
            let (x, y) = ((0.5 + k as f32 * 0.754_877_7).fract(), (0.5 + k as f32 * 0.569_840_3).fract());
            let (x, y) = if x + y > 1.0 { (1.0 - x, 1.0 - y) } else { (x, y) };
            (Vec3::new(1.0 - x - y, x, y), share)
        })
    }

    fn seen_colors(&self, t: u32) -> Vec<Seen> {
        let [a, b, c] = self.triangles[t as usize].map(|v| self.colors[v as usize]);
        let [p, q, r] = self.corners(t);
        let weight = f64::from((q - p).cross(r - p).length()) / 6.0;
        [a, b, c].into_iter().map(|color| Seen { color, weight, flat: a == b && b == c }).collect()
    }

    fn seen_texels(&self, t: u32, grid: &Grid<[u8; 3]>) -> Vec<Seen> {
        let step = Vec2::new(1.0 / grid.width as f32, 1.0 / grid.height as f32);
        let one = |(weights, weight): (Vec3, f64)| {
            let uv = self.uv_at(t, weights);
            let at = |dx: f32, dy: f32| grid.nearest((uv + step * Vec2::new(dx, dy)).to_array());
            let color = at(0.0, 0.0);
            let close = |other: [u8; 3]| (0..3).all(|a| other[a].abs_diff(color[a]) <= 4);
            let flat = [(-1.0, 0.0), (1.0, 0.0), (0.0, -1.0), (0.0, 1.0)].iter().all(|(x, y)| close(at(*x, *y)));
            Seen { color, weight, flat }
        };
        self.spots(t).map(one).collect()
    }

    /// Gives the piece one part for each colour, measured by the rule in force; each triangle counts to the part that has most of it.
    fn set_parts(&mut self, colors: &[[u8; 3]]) {
        let names = palette::names(colors);
        let part = |(name, color): (String, &[u8; 3])| Part {
            key: name.clone(),
            name,
            color: palette::hex(*color),
            triangles: 0,
            area: 0.0,
            shared: Sharing::First,
        };
        let mut parts: Vec<Part> = names.into_iter().zip(colors).map(part).collect();
        if parts.is_empty() {
            self.rule = PartRule::Triangles;
            return;
        }
        let mut part_of = Vec::with_capacity(self.triangles.len());
        for t in 0..self.triangles.len() as u32 {
            let mut areas: BTreeMap<u16, f64> = BTreeMap::new();
            for (weights, share) in self.spots(t) {
                *areas.entry(self.part_at(t, weights)).or_default() += share;
            }
            for (p, area) in &areas {
                parts[*p as usize].area += area;
            }
            let most = areas.iter().max_by(|a, b| a.1.total_cmp(b.1).then(b.0.cmp(a.0))).map_or(0, |m| *m.0);
            parts[most as usize].triangles += 1;
            part_of.push(most);
        }
        (self.parts, self.part_of) = (parts, part_of);
    }

    fn rename_parts(&mut self, intake: &Intake) {
        for p in &mut self.parts {
            let Some(look) = intake.parts.get(&p.key) else { continue };
            p.name = look.name.clone().unwrap_or_else(|| p.name.clone());
            p.color = look.color.clone().unwrap_or_else(|| p.color.clone());
        }
    }

    fn take_pictures(&mut self, intake: &Intake, bytes: Bytes) {
        let mut purposes: Vec<&str> = intake.pictures.iter().map(|p| p.purpose.as_str()).collect();
        purposes.sort_unstable();
        purposes.dedup();
        for used in intake.pictures.iter().filter(|p| p.purpose == "mask") {
            if let Some(picture) = self.decode(used, bytes) {
                self.pictures.insert(used.file.clone(), (used.hash.clone(), Arc::new(MaskPicture::new(picture))));
            }
        }
        for purpose in purposes.into_iter().filter(|p| !matches!(*p, "" | "mask")) {
            let mut earlier: Vec<&PictureUse> = vec![];
            for used in self.sheets.iter().filter_map(|s| intake.picture_for(purpose, &s.name)) {
                if used.mesh != intake.mesh.hash && !earlier.contains(&used) {
                    earlier.push(used);
                }
            }
            for used in earlier {
                self.found(
                    false,
                    format!("The picture “{}” was brought in for an earlier mesh.", used.file),
                    "It fits if the UVs are the same. Look at it on the piece, and take it off or bring in a new one if it does not.",
                );
            }
            if purpose == "parts" {
                continue;
            }
            let Some(used) = self.pictures_for(intake, purpose) else { continue };
            let stand_in = match purpose {
                "normal" => self.each(&used, bytes, stand_in_hash, normals).map(StandIn::Normal),
                _ => self.each(&used, bytes, stand_in_hash, numbers).map(StandIn::Number),
            };
            let Some(stand_in) = stand_in else { continue };
            let mut hash = blake3::Hasher::new();
            used.iter().for_each(|u| _ = hash.update(stand_in_hash(u).as_bytes()));
            let hash = hash.finalize().to_hex().to_string();
            self.stand_ins.insert(purpose.to_owned(), (hash, Arc::new(stand_in)));
        }
    }
}

fn stand_in_hash(used: &PictureUse) -> String {
    let mut h = blake3::Hasher::new();
    h.update(used.hash.as_bytes());
    h.update(&[used.channel as u8, u8::from(used.invert), u8::from(used.encoded), u8::from(used.green_down)]);
    h.finalize().to_hex().to_string()
}

fn normals(picture: Picture, used: &PictureUse) -> NormalPicture {
    NormalPicture { picture, green_down: used.green_down }
}

fn numbers(picture: Picture, used: &PictureUse) -> Level {
    let [width, height] = picture.size();
    Level::words((width, height), (0.0, 1.0), |i| {
        let v = picture.number(i, used.channel).clamp(0.0, 1.0);
        let v = if used.encoded { srgb::decode(v) } else { v };
        if used.invert { 1.0 - v } else { v }
    })
}

/// The index of the nearest colour for each texel, through a table of 32³ colours.
fn labels(grid: &Grid<[u8; 3]>, colors: &[[u8; 3]]) -> Grid<u16> {
    let labs: Vec<[f32; 3]> = colors.iter().map(|c| oklab(*c)).collect();
    let middle = |i: usize| (i as u8) << 3 | 4;
    let table: Vec<u16> = (0..1usize << 15)
        .map(|i| palette::nearest(oklab([middle(i >> 10), middle((i >> 5) & 31), middle(i & 31)]), &labs))
        .collect();
    let index = |[r, g, b]: [u8; 3]| usize::from(r >> 3) << 10 | usize::from(g >> 3) << 5 | usize::from(b >> 3);
    // A texel of one of the colours themselves is never rounded to a neighbour's.
    let exact: BTreeMap<[u8; 3], u16> = colors.iter().enumerate().map(|(i, c)| (*c, i as u16)).collect();
    let label = |c: &[u8; 3]| exact.get(c).copied().unwrap_or_else(|| table[index(*c)]);
    Grid { width: grid.width, height: grid.height, values: grid.values.iter().map(label).collect() }
}
