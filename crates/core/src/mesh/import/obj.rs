//! Wavefront OBJ. Parts come from `usemtl`, whether or not a material library is at hand (with one, they have its diffuse colours), or from `g` or `o`. Smoothing groups count
//! where there are no normals.
//!
//! It is read here and not by a library, since those refuse much of what is around (Latin-1, lines that go on, names with spaces, faces of two corners) and can't say in which
//! line something is wrong. Libraries of materials are read by `tobj`.

use std::collections::BTreeSet;
use std::io::BufReader;

use super::text::{decode, lines, shown};
use super::{Folder, MeshError, Reading, Slots, Soup, polygon, unreadable};
use crate::mesh::Finding;
use crate::mesh::soup::{Corner, UNTOLD};

/// What the lines so far have brought in.
#[derive(Default)]
struct Vertices {
    positions: Vec<[f32; 3]>,
    colors: Vec<Option<[u8; 3]>>,
    uvs: Vec<[f32; 2]>,
    normals: Vec<[f32; 3]>,
}

/// Reads an OBJ; v is flipped to point down.
pub fn read(name: &str, bytes: &[u8], folder: &Folder, reading: &Reading) -> Result<Soup, MeshError> {
    let text = decode(bytes);
    let wanted = match reading.slots {
        Slots::Materials => "usemtl",
        Slots::Groups => "g",
        Slots::Objects => "o",
    };
    let several = named(&text, wanted).collect::<BTreeSet<_>>().len() > 1;
    parts_by(if several { wanted } else { "usemtl" }, name, &text, folder, reading)
}

/// What the part is called of faces that lie in none.
const UNNAMED: &str = "body";

/// Reads it with the parts that a word begins.
fn parts_by(slot: &str, name: &str, text: &str, folder: &Folder, reading: &Reading) -> Result<Soup, MeshError> {
    let limits = reading.limits;
    let mut soup = Soup::default();
    if slot == "usemtl" {
        for (part, color) in part_colors(name, text, folder, &mut soup.findings) {
            let part = soup.part(&part);
            soup.part_colors[part as usize] = Some(color);
        }
    }
    let mut all = Vertices::default();
    let (mut part, mut left_out, mut smooth) = (None, 0, UNTOLD);
    let mut names = [BTreeSet::new(), BTreeSet::new()];
    for (at, line) in lines(text) {
        let (word, rest) = line.split_once(char::is_whitespace).unwrap_or((&line, ""));
        match word {
            "v" => {
                let v = numbers::<6>(rest, 3, at)?;
                all.positions.push([v[0], v[1], v[2]].map(|v| v * reading.scale));
                // Three more are a colour; a fourth alone is a weight.
                let colored = v[5].is_finite() && rest.split_whitespace().count() < 8;
                all.colors.push(colored.then(|| bytes_of([v[3], v[4], v[5]])));
            }
            "vt" => {
                let v = numbers::<2>(rest, 1, at)?;
                all.uvs.push([v[0], 1.0 - if v[1].is_nan() { 0.0 } else { v[1] }]);
            }
            "vn" => all.normals.push(numbers::<3>(rest, 3, at)?),
            "usemtl" | "g" | "o" if !rest.trim().is_empty() => {
                let called = spaced_once(rest);
                if word == slot {
                    part = Some(soup.part(&called));
                }
                if word != "usemtl" {
                    names[usize::from(word == "o")].insert(called);
                }
            }
            "s" => smooth = if rest.trim() == "off" { 0 } else { rest.trim().parse().unwrap_or(UNTOLD) },
            "f" => {
                let here = part.unwrap_or_else(|| soup.part(UNNAMED));
                part = Some(here);
                let before = soup.len();
                left_out += usize::from(!all.face(rest, at, here, &mut soup)?);
                if smooth != UNTOLD || !soup.smoothing.is_empty() {
                    soup.smoothing.resize(before, UNTOLD);
                    soup.smoothing.resize(soup.len(), smooth);
                }
                if soup.len() > limits.triangles {
                    return Err(MeshError::TooLarge { what: "triangles", found: soup.len(), limit: limits.triangles });
                }
            }
            _ => {}
        }
    }
    (soup.offers.groups, soup.offers.objects) = (names[0].len() > 1, names[1].len() > 1);
    if left_out > 0 {
        soup.findings.push(Finding {
            serious: false,
            what: format!("Faces of fewer than three corners have no surface and were left out: {left_out}."),
            remedy: "Nothing needs doing.".into(),
        });
    }
    Ok(soup)
}

impl Vertices {
    /// Adds a face, cut into triangles; false when it has fewer than three corners.
    fn face(&self, rest: &str, at: usize, part: u16, soup: &mut Soup) -> Result<bool, MeshError> {
        let corners = rest.split_whitespace().map(|text| self.corner(text, at)).collect::<Result<Vec<_>, _>>()?;
        let places: Vec<[f32; 3]> = corners.iter().map(|c| c.0.0).collect();
        for three in polygon::cut(&places) {
            let three = three.map(|k| corners[k]);
            soup.push_colored(part, three.map(|c| c.0), three.map(|c| c.1));
        }
        Ok(corners.len() > 2)
    }

    /// A corner as `3`, `3/1`, `3//2` or `3/1/2`.
    fn corner(&self, text: &str, at: usize) -> Result<(Corner, Option<[u8; 3]>), MeshError> {
        let mut words = text.split('/');
        let mut next = |what: &str, count: usize| match words.next().filter(|w| !w.is_empty()) {
            None => Ok(None),
            Some(word) => index(word, count).map(Some).ok_or_else(|| {
                unreadable(format!("the face in line {at} names {what} “{}” where there are {count}", shown(word)))
            }),
        };
        let v = next("vertex", self.positions.len())?
            .ok_or_else(|| unreadable(format!("the face in line {at} names no vertex")))?;
        let t = next("UV", self.uvs.len())?.map_or([f32::NAN; 2], |t| self.uvs[t]);
        let n = next("normal", self.normals.len())?.map_or([0.0; 3], |n| self.normals[n]);
        Ok(((self.positions[v], n, t), self.colors[v]))
    }
}

/// An index from 1 on, or from the end on where it is negative.
fn index(word: &str, count: usize) -> Option<usize> {
    let i: i64 = word.parse().ok()?;
    let from_start = if i < 0 { count as i64 + i } else { i - 1 };
    usize::try_from(from_start).ok().filter(|i| *i < count)
}

/// Numbers of a line, of which the first `needed` have to be there; NaN for others that are not.
fn numbers<const N: usize>(rest: &str, needed: usize, at: usize) -> Result<[f32; N], MeshError> {
    let mut out = [f32::NAN; N];
    let mut words = rest.split_whitespace();
    for (i, slot) in out.iter_mut().enumerate() {
        let Some(word) = words.next() else {
            if i < needed {
                return Err(unreadable(format!("line {at} has {i} numbers and not {needed}")));
            }
            break;
        };
        *slot = word.parse().map_err(|_| unreadable(format!("“{}” in line {at} is no number", shown(word))))?;
    }
    Ok(out)
}

fn bytes_of(color: [f32; 3]) -> [u8; 3] {
    color.map(|c| (c.clamp(0.0, 1.0) * 255.0).round() as u8)
}

/// A name that may have spaces in it, one between two words.
fn spaced_once(rest: &str) -> String {
    rest.split_whitespace().collect::<Vec<_>>().join(" ")
}

fn named<'a>(text: &'a str, word: &'a str) -> impl Iterator<Item = String> + 'a {
    lines(text).filter_map(move |(_, line)| {
        let (first, rest) = line.split_once(char::is_whitespace)?;
        (first == word).then(|| spaced_once(rest))
    })
}

/// The material libraries that it names.
pub fn names_beside(bytes: &[u8]) -> Vec<String> {
    named(&decode(bytes), "mtllib").collect()
}

/// The diffuse colours of the materials in use, as far as libraries came with the file. They are taken as sRGB, as modellers show them.
fn part_colors(name: &str, text: &str, folder: &Folder, findings: &mut Vec<Finding>) -> Vec<(String, [u8; 3])> {
    let used: Vec<String> = named(text, "usemtl").collect();
    let mut missing = |library: &str, why: &str| {
        findings.push(Finding {
            serious: false,
            what: format!("The material library “{}” {why}: its colours are not known.", shown(library)),
            remedy:
                "The parts are told by their materials all the same. Give the folder, or a ZIP, to have the colours."
                    .into(),
        });
    };
    let mut out: Vec<(String, [u8; 3])> = vec![];
    for library in named(text, "mtllib") {
        let Some(bytes) = folder.beside(name, &library) else {
            missing(&library, "did not come with the file");
            continue;
        };
        let text = decode(bytes);
        // Only what is read of it: what else is broken there is no matter.
        let wanted = |line: &str| ["newmtl", "Kd"].contains(&line.split_whitespace().next().unwrap_or(""));
        let bare: String = lines(&text).filter(|(_, l)| wanted(l)).map(|(_, l)| format!("{l}\n")).collect();
        match tobj::load_mtl_buf(&mut BufReader::new(bare.as_bytes())) {
            Ok((materials, _)) => {
                let colored = materials.into_iter().filter_map(|m| Some((spaced_once(&m.name), bytes_of(m.diffuse?))));
                out.extend(colored.filter(|(name, _)| used.contains(name)));
            }
            Err(_) => missing(&library, "can't be read"),
        }
    }
    out
}
