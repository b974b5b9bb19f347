//! Taking in a new version of a mesh: which of its parts are the old ones, by name and then by place.

use std::collections::BTreeMap;

use glam::Vec3;

use super::Piece;
use super::intake::{PartLook, Swapped};

/// How the parts of a new mesh answer to those of the old.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Matching {
    /// Looks for parts of the new mesh, so that they carry on the names and colours that layers know.
    pub looks: BTreeMap<String, PartLook>,
    /// Names of old parts that none of the new ones answers to.
    pub lost: Vec<String>,
    /// Old and new name of parts that were matched by place.
    pub placed: Vec<(String, String)>,
    /// Names of new parts that answer to no old one.
    pub fresh: Vec<String>,
}

impl Matching {
    /// What the artist is told of it, after a swap from the file named.
    pub fn report(self, from: &str) -> Option<Swapped> {
        let Matching { lost, placed, fresh, .. } = self;
        Some(Swapped { from: from.into(), lost, placed, fresh }).filter(|s| !s.is_plain())
    }
}

/// How far apart the middles of two parts may lie to be the same one, as a share of the piece's size.
const NEAR: f32 = 0.08;

/// The middle of each part, as a share of the bounding box, and its share of the surface.
fn places(piece: &Piece) -> Vec<(Vec3, f64)> {
    let mut sums = vec![(Vec3::ZERO, 0.0f64); piece.parts.len()];
    let (min, size) = (Vec3::from(piece.min), (Vec3::from(piece.max) - Vec3::from(piece.min)).max(Vec3::splat(1e-9)));
    let mut total = 0.0;
    for (t, part) in piece.part_of.iter().enumerate() {
        let [a, b, c] = piece.corners(t as u32);
        let area = (b - a).cross(c - a).length() * 0.5;
        let s = &mut sums[usize::from(*part)];
        s.0 += ((a + b + c) / 3.0 - min) / size * area;
        s.1 += f64::from(area);
        total += f64::from(area);
    }
    sums.into_iter().map(|(p, area)| (p / (area as f32).max(1e-9), area / total)).collect()
}

/// Matches the parts of a `new` mesh, as it was imported, to those of the `old` piece. Equal names are the same part. Of the others, those are that lie in
/// the same place and are of about the same size, the nearest first.
pub fn match_parts(old: &Piece, new: &Piece) -> Matching {
    let mut out = Matching::default();
    let named = |name: &str| new.parts.iter().position(|p| p.key == name);
    let mut free_old = vec![];
    let mut taken = vec![false; new.parts.len()];
    for (i, part) in old.parts.iter().enumerate() {
        match named(&part.key).or_else(|| named(&part.name)) {
            Some(j) if !taken[j] => {
                taken[j] = true;
                keep(&mut out, old, i, new, j);
            }
            _ => free_old.push(i),
        }
    }
    let (here, there) = (places(old), places(new));
    let mut pairs = vec![];
    for i in free_old.iter().copied() {
        for j in (0..new.parts.len()).filter(|j| !taken[*j]) {
            let (distance, ratio) = ((here[i].0 - there[j].0).length(), here[i].1 / there[j].1.max(1e-12));
            if distance < NEAR && (0.5..=2.0).contains(&ratio) {
                pairs.push((distance, i, j));
            }
        }
    }
    pairs.sort_by(|a, b| a.0.total_cmp(&b.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    for (_, i, j) in pairs {
        if taken[j] || !free_old.contains(&i) {
            continue;
        }
        taken[j] = true;
        free_old.retain(|o| *o != i);
        out.placed.push((old.parts[i].name.clone(), new.parts[j].key.clone()));
        keep(&mut out, old, i, new, j);
    }
    out.fresh = new.parts.iter().zip(&taken).filter(|(_, t)| !**t).map(|(p, _)| p.name.clone()).collect();
    out.lost = free_old.iter().map(|i| old.parts[*i].name.clone()).collect();
    out
}

fn keep(out: &mut Matching, old: &Piece, i: usize, new: &Piece, j: usize) {
    let (was, is) = (&old.parts[i], &new.parts[j]);
    let look = PartLook {
        name: (was.name != is.name).then(|| was.name.clone()),
        color: (was.color != is.color).then(|| was.color.clone()),
        ..PartLook::default()
    };
    if look != PartLook::default() {
        out.looks.insert(is.key.clone(), look);
    }
}
