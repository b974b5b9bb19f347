//! From a soup of corners to a checked, indexed piece with findings.

use foldhash::{HashMap, HashMapExt};
use glam::Vec3;

use super::edges::{self, Side, place};
use super::mend::{Faces, Mending, Sharing};
use super::soup::UNTOLD;
use super::{
    Finding, MeshError, Part, PartRule, Piece, Sheet, Soup, connect, curved, palette, sheets, survey, tangents,
};
use crate::task::{OnProgress, silent};

impl Piece {
    /// Checks the soup, drops triangles without area, computes what is missing (normals, UVs), lays the sheets out, and indexes it.
    ///
    /// # Errors
    /// [`MeshError::NotFinite`] for NaN or infinite positions, [`MeshError::Empty`] when no triangle is left.
    pub fn build(soup: Soup) -> Result<Piece, MeshError> {
        Self::build_mended(soup, &Mending::default())
    }

    /// The same with something mended.
    ///
    /// # Errors
    /// As [`build`](Self::build); [`MeshError::Welded`] where nothing is left by welding, [`MeshError::TooLarge`] where UVs that are laid out anew would need a sheet too many.
    pub fn build_mended(soup: Soup, mending: &Mending) -> Result<Piece, MeshError> {
        Self::build_watched(soup, mending, &silent)
    }

    /// The same, told of as it goes on: what is done, and the share of the whole.
    ///
    /// # Errors
    /// As [`build_mended`](Self::build_mended).
    pub fn build_watched(soup: Soup, mending: &Mending, on: OnProgress) -> Result<Piece, MeshError> {
        on("Cleaning", 0.0);
        check_finite(&soup)?;
        let mut soup = soup.mended(mending);
        let mut findings = std::mem::take(&mut soup.findings);
        let soup = match drop_flat(soup, &mut findings) {
            Err(MeshError::Empty) if mending.weld > 0.0 => return Err(MeshError::Welded { within: mending.weld }),
            soup => soup?,
        };
        on("Normals", 0.02);
        let soup = with_normals(soup, &mut findings);
        on("UVs", 0.03);
        let mut soup = soup.with_uvs(mending)?;
        findings.append(&mut soup.findings);
        let (all, sheet_of) = sheets::assign(&mut soup, mending.tiles, &mending.sharing, &mut findings);
        on("Tangents", 0.05);
        let tangents = tangents::corner_tangents(&soup);
        on("Corners", 0.63);
        let mut piece = index(soup, &tangents, all, sheet_of);
        on("Shells and charts", 0.74);
        piece.shell_of = connect::components(&piece.triangles, |v| place(piece.positions[v as usize]));
        piece.shells = connect::count(&piece.shell_of);
        let mut sheet_of_vertex = vec![0; piece.positions.len()];
        for (tri, sheet) in piece.triangles.iter().zip(&piece.sheet_of) {
            tri.iter().for_each(|v| sheet_of_vertex[*v as usize] = *sheet);
        }
        piece.chart_of = connect::components(&piece.triangles, |v| {
            let v = v as usize;
            (place(piece.positions[v]), piece.uvs[v].map(f32::to_bits), sheet_of_vertex[v])
        });
        piece.charts = connect::count(&piece.chart_of);
        measure_parts(&mut piece, &mut findings);
        for part in &mut piece.parts {
            part.shared = mending.sharing.get(&part.key).copied().unwrap_or_default();
        }
        on("Looking it over", 0.8);
        let places = edges::places(&piece.positions);
        let sides = edges::sides(&piece.triangles, &places);
        findings.extend(survey::survey(&piece, &places, &sides));
        piece.see_round(mending.faces, &sides, &mut findings);
        piece.findings = findings;
        piece.hash = hash(&piece);
        on("Done", 1.0);
        Ok(piece)
    }
}

impl Piece {
    /// Settles whether measurements see its faces curved, and says so where they do because the mesh is coarse.
    fn see_round(&mut self, faces: Faces, sides: &[Side], findings: &mut Vec<Finding>) {
        self.round = match faces {
            Faces::Round => true,
            Faces::Flat => false,
            Faces::Told => curved::is_coarse(self, sides),
        };
        if self.round && faces == Faces::Told {
            findings.push(Finding {
                serious: false,
                what: "Its faces are few, and its normals say that they are round.".into(),
                remedy: "Edges, occlusion and thickness are measured on round faces. Set Faces to flat if every facet is meant.".into(),
            });
        }
    }
}

impl Soup {
    /// As it is to be taken, without triangles that have no area, and with normals everywhere.
    ///
    /// # Errors
    /// As [`Piece::build`].
    pub fn cleaned(self, mending: &Mending) -> Result<Soup, MeshError> {
        check_finite(&self)?;
        Ok(with_normals(drop_flat(self.mended(mending), &mut vec![])?, &mut vec![]))
    }
}

pub(super) fn check_finite(soup: &Soup) -> Result<(), MeshError> {
    for (i, p) in soup.positions.iter().enumerate() {
        if p.iter().any(|v| !v.is_finite() || v.abs() > 1e12) {
            return Err(MeshError::NotFinite { index: i + 1, what: "position" });
        }
    }
    Ok(())
}

fn corner_area(p: &[[f32; 3]]) -> f32 {
    let [a, b, c] = [Vec3::from(p[0]), Vec3::from(p[1]), Vec3::from(p[2])];
    (b - a).cross(c - a).length() * 0.5
}

fn drop_flat(soup: Soup, findings: &mut Vec<Finding>) -> Result<Soup, MeshError> {
    let keep: Vec<bool> = soup.positions.chunks_exact(3).map(|p| corner_area(p) > 0.0).collect();
    let dropped = keep.iter().filter(|k| !**k).count();
    if dropped == keep.len() {
        return Err(MeshError::Empty);
    }
    if dropped == 0 {
        return Ok(soup);
    }
    findings.push(Finding {
        serious: false,
        what: format!("{dropped} triangles without any area were left out."),
        remedy: "Nothing needs doing; merging doubled vertices in the modeller removes them.".into(),
    });
    Ok(soup.filtered(|t| keep[t]))
}

/// Cosine of the angle up to which faces are taken for one smooth surface when the file gives no normals: 40°.
const CREASE: f32 = 0.766;
/// A position where more triangles meet than this gets one normal for all, so that a hostile fan doesn't cost the square of its size.
const FAN: usize = 256;

/// Missing or useless normals become the area-weighted mean of the triangles that meet at the position at less than the crease angle.
fn with_normals(mut soup: Soup, findings: &mut Vec<Finding>) -> Soup {
    let useless = |n: &[f32; 3]| n.iter().any(|v| !v.is_finite()) || Vec3::from(*n).length_squared() < 1e-12;
    if soup.normals.iter().any(useless) {
        // Per position: the first faces that meet there with their smoothing groups, and the sum of all.
        #[derive(Default)]
        struct Meeting(Vec<(Vec3, u32)>, Vec3);
        let mut meeting: HashMap<[u32; 3], Meeting> = HashMap::new();
        let group = |t: usize| soup.smoothing.get(t).copied().unwrap_or(UNTOLD);
        let face = |p: &[[f32; 3]]| {
            let [a, b, c] = [Vec3::from(p[0]), Vec3::from(p[1]), Vec3::from(p[2])];
            (b - a).cross(c - a)
        };
        for (t, p) in soup.positions.chunks_exact(3).enumerate() {
            let own = face(p);
            for corner in p {
                let Meeting(faces, sum) = meeting.entry(place(*corner)).or_default();
                *sum += own;
                if faces.len() <= FAN {
                    faces.push((own, group(t)));
                }
            }
        }
        let mut made = vec![];
        for i in (0..soup.normals.len()).filter(|i| useless(&soup.normals[*i])) {
            let own = face(&soup.positions[i / 3 * 3..i / 3 * 3 + 3]);
            let of = group(i / 3);
            let Meeting(faces, all) = &meeting[&place(soup.positions[i])];
            // Faces of one smoothing group are smooth whatever the angle, flat ones (0) and those of others are not; where nothing is said the angle tells.
            let smooth = |(n, other): &&(Vec3, u32)| match (of, *other) {
                (UNTOLD, UNTOLD) => n.dot(own) >= CREASE * n.length() * own.length(),
                (0, _) => false,
                (of, other) => of == other,
            };
            let sum = if of == 0 {
                own
            } else if faces.len() > FAN {
                *all
            } else {
                faces.iter().filter(smooth).map(|f| f.0).sum()
            };
            made.push((i, sum.try_normalize().unwrap_or(Vec3::Y).to_array()));
        }
        let told = soup.smoothing.iter().any(|s| *s != UNTOLD);
        made.into_iter().for_each(|(i, n)| soup.normals[i] = n);
        findings.push(Finding {
            serious: false,
            what: "The file gives no normals for some of the surface.".into(),
            remedy: if told {
                "They were computed as its smoothing groups say.".into()
            } else {
                "They were computed: smooth up to 40°, hard beyond. Export normals to decide it yourself.".into()
            },
        });
    }
    for n in &mut soup.normals {
        *n = Vec3::from(*n).normalize_or(Vec3::Y).to_array();
    }
    soup
}

type Corner = ([u32; 3], [u32; 3], [u32; 2], [u32; 4], [u8; 3], u16);

fn index(soup: Soup, tangents: &[[f32; 4]], sheets: Vec<Sheet>, sheet_of: Vec<u16>) -> Piece {
    let colored = soup.colors.iter().any(Option::is_some);
    let mut seen: HashMap<Corner, u32> = HashMap::with_capacity(soup.positions.len() / 2);
    let mut piece = Piece {
        name: soup.name,
        positions: vec![],
        normals: vec![],
        tangents: vec![],
        uvs: vec![],
        triangles: Vec::with_capacity(soup.parts.len()),
        part_of: soup.parts,
        shell_of: vec![],
        chart_of: vec![],
        sheet_of,
        sheets,
        colors: vec![],
        parts: soup
            .part_names
            .iter()
            .zip(&soup.part_colors)
            .enumerate()
            .map(|(i, (name, c))| part(i, name, *c))
            .collect(),
        round: false,
        rule: PartRule::Triangles,
        stand_ins: Default::default(),
        pictures: Default::default(),
        told: String::new(),
        relief: String::new(),
        shells: 0,
        charts: 0,
        min: [f32::MAX; 3],
        max: [f32::MIN; 3],
        offers: soup.offers,
        findings: vec![],
        hash: String::new(),
    };
    let mut ids = [0u32; 3];
    for i in 0..soup.positions.len() {
        let (p, n, g) = (soup.positions[i], soup.normals[i], tangents[i]);
        let t = soup.uvs[i];
        let color = soup.colors[i].unwrap_or([255; 3]);
        let key = (place(p), place(n), t.map(f32::to_bits), g.map(f32::to_bits), color, piece.sheet_of[i / 3]);
        let id = *seen.entry(key).or_insert_with(|| {
            piece.positions.push(p);
            piece.normals.push(n);
            piece.uvs.push(t);
            piece.tangents.push(g);
            if colored {
                piece.colors.push(color);
            }
            (piece.positions.len() - 1) as u32
        });
        for a in 0..3 {
            piece.min[a] = piece.min[a].min(p[a]);
            piece.max[a] = piece.max[a].max(p[a]);
        }
        ids[i % 3] = id;
        if i % 3 == 2 {
            piece.triangles.push(ids);
        }
    }
    piece
}

fn part(i: usize, name: &str, color: Option<[u8; 3]>) -> Part {
    let color = palette::hex(color.unwrap_or(palette::SHOWN[i % palette::SHOWN.len()]));
    Part { key: name.into(), name: name.into(), color, triangles: 0, area: 0.0, shared: Sharing::First }
}

fn measure_parts(piece: &mut Piece, findings: &mut Vec<Finding>) {
    for (t, tri) in piece.triangles.iter().enumerate() {
        let part = &mut piece.parts[piece.part_of[t] as usize];
        part.triangles += 1;
        part.area += f64::from(corner_area(&tri.map(|v| piece.positions[v as usize])));
    }
    let size = piece.diagonal();
    if !(1.0..=20_000.0).contains(&size) {
        findings.push(Finding {
            serious: true,
            what: format!("The piece is {size:.3} mm across its diagonal."),
            remedy: "That is unusual for a prop: check the unit it was imported with, since patterns are sized in millimetres."
                .into(),
        });
    }
}

fn hash(piece: &Piece) -> String {
    let mut h = blake3::Hasher::new();
    let mut floats = |values: &mut dyn Iterator<Item = f32>| {
        for v in values {
            h.update(&v.to_bits().to_le_bytes());
        }
        h.update(b"|");
    };
    floats(&mut piece.positions.iter().flatten().copied());
    floats(&mut piece.normals.iter().flatten().copied());
    floats(&mut piece.uvs.iter().flatten().copied());
    for t in &piece.triangles {
        t.iter().for_each(|v| _ = h.update(&v.to_le_bytes()));
    }
    for p in &piece.part_of {
        h.update(&p.to_le_bytes());
    }
    for p in &piece.sheet_of {
        h.update(&p.to_le_bytes());
    }
    h.update(piece.colors.as_flattened()).update(b"|");
    for name in piece.parts.iter().map(|p| &p.name).chain(piece.sheets.iter().map(|s| &s.name)) {
        h.update(&name.len().to_le_bytes()).update(name.as_bytes());
    }
    if piece.round {
        h.update(b"|round");
    }
    for (i, _) in piece.parts.iter().enumerate().filter(|(_, p)| p.shared == Sharing::Mean) {
        h.update(b"|mean/2").update(&i.to_le_bytes());
    }
    h.finalize().to_hex().to_string()
}
