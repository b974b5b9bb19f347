//! Mending: what is changed of a mesh as it is taken in, by settings that can be switched at any time. The file stays as it came; what is handed off has been mended.
//!
//! In this order: the axis that points up and the scale, corners welded, faces turned one way, UVs laid out anew. What was done is said among the findings.

use std::collections::{BTreeMap, BTreeSet};

use foldhash::{HashMap, HashMapExt};
use glam::{IVec3, Vec3};

use super::edges::{self, places};
pub use super::sheets::{Sharing, Tiles};
use super::soup::Slots;
use super::{Finding, MeshError, Piece, Soup, Unit, sheets, unwrap};
use crate::setting::{DialStates, Param, ParamSpec, Settings, resolve};

/// The settings.
pub fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::choice(
            "faces",
            "Faces",
            &[("told", "as told"), ("round", "round"), ("flat", "flat")],
            "Whether edges, occlusion and thickness see a coarse mesh as round as its normals say, or as flat as its triangles are; as told: round where its faces are few.",
        ),
        ParamSpec::choice(
            "up",
            "Up",
            &[("y", "y"), ("z", "z"), ("x", "x")],
            "The axis of the file that points up. glTF says y; many modellers write z.",
        ),
        ParamSpec {
            log: true,
            ..ParamSpec::number(
                "scale",
                "Scale",
                "×",
                (0.0001, 10_000.0),
                1.0,
                "How many times as large the piece is as the file says.",
            )
        },
        ParamSpec::number(
            "weld",
            "Weld",
            "mm",
            (0.0, 100.0),
            0.0,
            "Corners no farther apart than this are one place, so that gaps between faces close. 0 leaves them as they are.",
        ),
        ParamSpec::choice(
            "winding",
            "Winding",
            &[("kept", "kept"), ("one", "one way")],
            "Whether faces that look the other way than those around them are turned, and closed shells turned outwards.",
        ),
        ParamSpec::integer(
            "uv_set",
            "UV set",
            (0.0, 7.0),
            0.0,
            "Which of the file’s sets of UVs is taken, where it has several: from 0 on.",
        ),
        ParamSpec::choice(
            "tiles",
            "UV tiles",
            &[("told", "as told"), ("sheets", "sheets"), ("repeats", "repeats")],
            "What UVs beyond the first square mean: sheets of their own, or the first sheet again and again; as told: repeats where they cross the borders of squares, or where there are too many of them.",
        ),
        ParamSpec::choice(
            "unwrap",
            "UVs",
            &[("marked", "kept"), ("all", "all anew")],
            "Whether all UVs are laid out anew here. If not, those of parts that are ticked in the list of parts are, on a sheet of their own.",
        ),
    ]
}

/// Whether measurements see faces curved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Faces {
    /// If the mesh is coarse and its normals say that it is round.
    #[default]
    Told,
    /// Wherever normals say so.
    Round,
    /// Never.
    Flat,
}

/// The axis of a file that points up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Up {
    /// The first.
    X,
    /// The second.
    #[default]
    Y,
    /// The third.
    Z,
}

/// What is mended.
#[derive(Debug, Clone, PartialEq)]
pub struct Mending {
    /// Which faces are round.
    pub faces: Faces,
    /// Which axis points up.
    pub up: Up,
    /// Times the size.
    pub scale: f32,
    /// Distance up to which corners are one, in mm; 0 for none.
    pub weld: f32,
    /// Whether faces are turned one way.
    pub turn: bool,
    /// Which set of UVs is taken.
    pub uv_set: u32,
    /// What UVs beyond the first square are.
    pub tiles: Tiles,
    /// Whether all UVs are laid out anew.
    pub unwrap: bool,
    /// Keys of parts whose UVs are.
    pub marked: BTreeSet<String>,
    /// What becomes of shared texels, by key of the part, where that is not the first.
    pub sharing: BTreeMap<String, Sharing>,
}

impl Default for Mending {
    fn default() -> Self {
        Self::new(&Settings::new(), BTreeSet::new())
    }
}

/// How a mesh file is taken: how long its unit is, if not as its format says, and what is mended.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Taking {
    /// The unit.
    pub unit: Option<Unit>,
    /// What is mended.
    pub mending: Mending,
    /// What of the file tells its parts apart.
    pub slots: Slots,
}

impl Taking {
    /// The settings of mending that a mesh asks for by itself when it is taken in for the first time. They are kept like any other, so that what is laid on it stays as it is
    /// whatever later versions make of such a mesh.
    pub fn shown_by(&self, piece: &Piece) -> Settings {
        let repeats = piece.offers.copied && self.mending.tiles == Tiles::Told && !self.mending.unwrap;
        if repeats { Settings::from([("tiles".into(), Param::from("repeats"))]) } else { Settings::new() }
    }

    /// Reads a mesh that is taken in for the first time, again where it asks for settings by itself; and those settings.
    ///
    /// # Errors
    /// Those of reading.
    pub fn first<P: std::ops::Deref<Target = Piece>, E>(
        self,
        mut read: impl FnMut(Taking) -> Result<P, E>,
    ) -> Result<(P, Settings), E> {
        let piece = read(self.clone())?;
        let shown = self.shown_by(&piece);
        if shown.is_empty() {
            return Ok((piece, shown));
        }
        let tiles = Mending::new(&shown, BTreeSet::new()).tiles;
        let again = Taking { mending: Mending { tiles, ..self.mending }, ..self };
        Ok((read(again)?, shown))
    }
}

impl From<Option<Unit>> for Taking {
    fn from(unit: Option<Unit>) -> Self {
        Self { unit, ..Self::default() }
    }
}

impl Mending {
    /// Of settings, and the keys of the parts that are marked.
    pub fn new(settings: &Settings, marked: BTreeSet<String>) -> Self {
        let s = resolve(&specs(), settings, &DialStates::new());
        Self {
            faces: match s.text("faces") {
                "round" => Faces::Round,
                "flat" => Faces::Flat,
                _ => Faces::Told,
            },
            up: match s.text("up") {
                "x" => Up::X,
                "z" => Up::Z,
                _ => Up::Y,
            },
            scale: s.number("scale"),
            weld: s.number("weld"),
            turn: s.text("winding") == "one",
            uv_set: s.integer("uv_set"),
            tiles: match s.text("tiles") {
                "sheets" => Tiles::Sheets,
                "repeats" => Tiles::Repeats,
                _ => Tiles::Told,
            },
            unwrap: s.text("unwrap") == "all",
            marked,
            sharing: BTreeMap::new(),
        }
    }

    /// The same, with what becomes of shared texels.
    pub fn sharing(self, sharing: BTreeMap<String, Sharing>) -> Self {
        Self { sharing, ..self }
    }

    /// The same without what only concerns how a piece is laid out: for a mesh that another takes relief from.
    pub fn of_shape(&self) -> Self {
        Self { up: self.up, scale: self.scale, ..Self::default() }
    }
}

fn said(findings: &mut Vec<Finding>, what: String, remedy: &str) {
    findings.push(Finding { serious: false, what, remedy: remedy.into() });
}

fn times(n: usize, one: &str, many: &str) -> String {
    if n == 1 { format!("1 {one}") } else { format!("{n} {many}") }
}

impl Soup {
    /// As it is to be taken, but for its UVs.
    pub fn mended(mut self, mending: &Mending) -> Soup {
        let upright = |[x, y, z]: [f32; 3]| match mending.up {
            Up::X => [-y, x, z],
            Up::Y => [x, y, z],
            Up::Z => [x, z, -y],
        };
        if mending.up != Up::Y {
            self.normals.iter_mut().for_each(|n| *n = upright(*n));
        }
        if mending.up != Up::Y || mending.scale != 1.0 {
            self.positions.iter_mut().for_each(|p| *p = upright(*p).map(|v| v * mending.scale));
        }
        if mending.weld > 0.0 {
            let moved = weld(&mut self.positions, mending.weld);
            let what = format!(
                "{} to a place within {} mm.",
                times(moved, "corner was moved", "corners were moved"),
                mending.weld
            );
            said(
                &mut self.findings,
                what,
                "Welding is a setting of the mesh; 0 mm leaves them where the file has them.",
            );
        }
        if mending.turn {
            let turned = turn(&mut self);
            let what = format!(
                "{} to look the same way as the others.",
                times(turned, "face was turned", "faces were turned")
            );
            said(&mut self.findings, what, "Winding is a setting of the mesh. What is handed off has them turned.");
        }
        self
    }

    /// Lays UVs out anew where that is asked for, or where some are missing and nothing says otherwise.
    ///
    /// # Errors
    /// [`MeshError::TooLarge`] where marked parts would need a sheet that can't be numbered.
    pub(super) fn with_uvs(mut self, mending: &Mending) -> Result<Soup, MeshError> {
        let missing = |t: usize| self.uvs[3 * t..3 * t + 3].iter().any(|uv| uv.iter().any(|v| !v.is_finite()));
        let marked = |t: usize| mending.marked.contains(&self.part_names[usize::from(self.parts[t])]);
        let anew: Vec<bool> = (0..self.len()).map(|t| mending.unwrap || marked(t)).collect();
        let without = (0..self.len()).filter(|t| missing(*t) && !anew[*t]).count();
        if without > 0 {
            // Half a layout can't be kept apart from the other half.
            let share = 100.0 * without as f64 / self.len() as f64;
            let charts = unwrap::unwrap(&mut self);
            said(
                &mut self.findings,
                format!(
                    "The file gives no UVs for {share:.0} % of the faces; the piece was unwrapped here, into {}.",
                    times(charts, "chart", "charts")
                ),
                "Coats are laid in space and don't mind. Unwrap it in the modeller if you want to choose where the cuts run.",
            );
        } else if anew.iter().all(|a| *a) {
            let charts = unwrap::unwrap(&mut self);
            said(
                &mut self.findings,
                format!("All UVs were laid out anew, into {}.", times(charts, "chart", "charts")),
                "What is handed off has these UVs: use the mesh that comes with it. Set UVs back to have the file’s own.",
            );
        } else if anew.contains(&true) {
            let tile = free_tile(&self, &anew).ok_or(MeshError::TooLarge {
                what: "sheets",
                found: sheets::MOST + 1,
                limit: sheets::MOST,
            })?;
            let mut parts = self.filtered(|t| anew[t]);
            let charts = unwrap::unwrap(&mut parts);
            let mut next = parts.uvs.chunks_exact(3);
            for t in (0..self.len()).filter(|t| anew[*t]) {
                let corners = next.next().expect("as many as were taken");
                for (uv, new) in self.uvs[3 * t..3 * t + 3].iter_mut().zip(corners) {
                    *uv = [new[0] + (tile % 10) as f32, new[1] - (tile / 10) as f32];
                }
            }
            let names: BTreeSet<&str> = (0..self.len())
                .filter(|t| anew[*t])
                .map(|t| self.part_names[usize::from(self.parts[t])].as_str())
                .collect();
            let what = format!(
                "The UVs of {} were laid out anew, into {} on sheet {}.",
                names.into_iter().collect::<Vec<_>>().join(", "),
                times(charts, "chart", "charts"),
                1001 + tile
            );
            said(
                &mut self.findings,
                what,
                "What is handed off has these UVs: use the mesh that comes with it. Take the marks off to have the file’s own.",
            );
        }
        Ok(self)
    }
}

/// Moves each position to the first one that lies no farther away. Returns how many were moved.
fn weld(positions: &mut [[f32; 3]], within: f32) -> usize {
    let cell = |p: Vec3| (p / within).floor().as_ivec3();
    let mut held: HashMap<IVec3, Vec<Vec3>> = HashMap::new();
    let mut to: HashMap<[u32; 3], [f32; 3]> = HashMap::with_capacity(positions.len() / 4);
    let mut moved = 0;
    for position in positions {
        let own = *position;
        *position = *to.entry(edges::place(own)).or_insert_with(|| {
            let (p, at) = (Vec3::from(own), cell(Vec3::from(own)));
            let around = (0..27).map(|i| at + IVec3::new(i % 3 - 1, i / 3 % 3 - 1, i / 9 - 1));
            let near =
                around.filter_map(|c| held.get(&c)).flatten().filter(|q| q.distance_squared(p) <= within * within);
            match near.min_by(|a, b| a.distance_squared(p).total_cmp(&b.distance_squared(p))) {
                Some(found) => found.to_array(),
                None => {
                    held.entry(at).or_default().push(p);
                    own
                }
            }
        });
        moved += usize::from(*position != own);
    }
    moved
}

/// Turns faces so that all that hang together over edges of two faces look the same way: outwards where they are closed, otherwise as the file's normals say, or as
/// most of their surface did. Returns how many were turned.
fn turn(soup: &mut Soup) -> usize {
    let triangles: Vec<[u32; 3]> = (0..soup.len() as u32).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
    let sides = edges::sides(&triangles, &places(&soup.positions));
    // Per face, what lies over each edge, and whether it is wound the other way.
    let mut beside: Vec<Vec<(u32, bool)>> = vec![vec![]; soup.len()];
    let mut open = vec![false; soup.len()];
    for meeting in edges::meetings(&sides) {
        if let [a, b] = meeting {
            let against = a.forward == b.forward;
            beside[a.triangle as usize].push((b.triangle, against));
            beside[b.triangle as usize].push((a.triangle, against));
        } else {
            meeting.iter().for_each(|s| open[s.triangle as usize] = true);
        }
    }
    let (mut seen, mut flips) = (vec![false; soup.len()], vec![false; soup.len()]);
    let middle = soup.positions.iter().map(|p| Vec3::from(*p)).sum::<Vec3>() / soup.positions.len().max(1) as f32;
    for first in 0..soup.len() {
        if seen[first] {
            continue;
        }
        seen[first] = true;
        let (mut all, mut next) = (vec![first], 0);
        while next < all.len() {
            let t = all[next];
            next += 1;
            for (other, against) in &beside[t] {
                let o = *other as usize;
                if !seen[o] {
                    seen[o] = true;
                    flips[o] = flips[t] != *against;
                    all.push(o);
                }
            }
        }
        // Positive where they look out, or as the file says.
        let closed = all.iter().all(|t| !open[*t]);
        let told = |t: usize| {
            soup.normals[3 * t..3 * t + 3].iter().map(|n| Vec3::from(*n)).filter(|n| n.is_finite()).sum::<Vec3>()
        };
        let spoken = !closed && all.iter().any(|t| told(*t) != Vec3::ZERO);
        let says = |t: usize| {
            let [a, b, c] = [0, 1, 2].map(|k| Vec3::from(soup.positions[3 * t + k]) - middle);
            let normal = (b - a).cross(c - a);
            let sign = if flips[t] { -1.0 } else { 1.0 };
            f64::from(match (closed, spoken) {
                (true, _) => sign * a.dot(b.cross(c)),
                (false, true) => sign * normal.dot(told(t)),
                (false, false) => sign * normal.length(),
            })
        };
        if all.iter().map(|t| says(*t)).sum::<f64>() < 0.0 {
            all.iter().for_each(|t| flips[*t] = !flips[*t]);
        }
    }
    for t in (0..soup.len()).filter(|t| flips[*t]) {
        let (a, b) = (3 * t + 1, 3 * t + 2);
        soup.positions.swap(a, b);
        soup.normals.swap(a, b);
        soup.uvs.swap(a, b);
        soup.colors.swap(a, b);
    }
    // A normal that looks to the back of its face would shade it from within.
    for t in 0..soup.len() {
        let [a, b, c] = [0, 1, 2].map(|k| Vec3::from(soup.positions[3 * t + k]));
        let face = (b - a).cross(c - a);
        for n in &mut soup.normals[3 * t..3 * t + 3] {
            if Vec3::from(*n).dot(face) < 0.0 {
                *n = n.map(|v| -v);
            }
        }
    }
    flips.into_iter().filter(|f| *f).count()
}

/// The number of the first UDIM tile that none of the faces that keep their UVs lies in.
fn free_tile(soup: &Soup, anew: &[bool]) -> Option<usize> {
    let taken: BTreeSet<[i32; 2]> = (0..soup.len()).filter(|t| !anew[*t]).map(|t| sheets::tile(soup, t)).collect();
    (0..sheets::MOST).find(|n| !taken.contains(&[(n % 10) as i32, (n / 10) as i32]))
}
