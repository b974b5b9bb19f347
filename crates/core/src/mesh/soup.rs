//! Triangles as importers deliver them: corners by value, nothing shared, nothing checked.

use serde::Serialize;
use ts_rs::TS;

use super::Finding;

/// Unchecked corners, three to a triangle. `normals` and `uvs` may be empty when the file had none.
#[derive(Debug, Clone, Default)]
pub struct Soup {
    /// A name to show.
    pub name: String,
    /// Corner positions in mm.
    pub positions: Vec<[f32; 3]>,
    /// Corner normals; a zero vector means "not given".
    pub normals: Vec<[f32; 3]>,
    /// Corner texture coordinates, v down; NaN means "not given".
    pub uvs: Vec<[f32; 2]>,
    /// Corner colours, sRGB; none means "not given".
    pub colors: Vec<Option<[u8; 3]>>,
    /// Part per triangle.
    pub parts: Vec<u16>,
    /// Names of the parts.
    pub part_names: Vec<String>,
    /// Colours that the file gives its parts, sRGB; as long as `part_names`.
    pub part_colors: Vec<Option<[u8; 3]>>,
    /// Smoothing group per triangle, 0 for a flat one; [`UNTOLD`] and an empty list say nothing.
    pub smoothing: Vec<u32>,
    /// What else of the file could have been taken.
    pub offers: Offers,
    /// What the importer found.
    pub findings: Vec<Finding>,
}

/// In [`Soup::smoothing`]: the file doesn't say.
pub const UNTOLD: u32 = u32::MAX;

/// What a mesh file holds that is chosen among.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, TS)]
pub struct Offers {
    /// How many sets of UVs.
    pub uv_sets: u32,
    /// Whether its faces lie in named groups.
    pub groups: bool,
    /// Whether they lie in named objects.
    pub objects: bool,
    /// Whether its UVs reach beyond the first square.
    pub tiled: bool,
    /// Whether what lies beyond the first square looks like mirrored or repeated pieces of what lies in it: all of it lies exactly over triangles there, turned over or over
    /// some of them only. Whole squares that are alike are more likely things that each wear in their own way.
    pub copied: bool,
}

/// What of a file tells the parts of its mesh apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Slots {
    /// The materials of its faces.
    #[default]
    Materials,
    /// Its groups (`g`), or the meshes that its nodes show.
    Groups,
    /// Its objects (`o`), nodes or solids.
    Objects,
}

impl Slots {
    /// Whether a file has several of them.
    pub(super) fn are_in(self, offers: Offers) -> bool {
        match self {
            Slots::Materials => true,
            Slots::Groups => offers.groups,
            Slots::Objects => offers.objects,
        }
    }
}

/// A corner of a triangle: position, normal, texture coordinates.
pub type Corner = ([f32; 3], [f32; 3], [f32; 2]);

impl Soup {
    /// The index of the part called `name`, made if it is new.
    pub fn part(&mut self, name: &str) -> u16 {
        let found = self.part_names.iter().position(|n| n == name);
        found.unwrap_or_else(|| {
            self.part_names.push(name.to_owned());
            self.part_colors.push(None);
            self.part_names.len() - 1
        }) as u16
    }

    /// Adds one triangle; `normals` of zero and `uvs` of NaN stand for "not given".
    pub fn push(&mut self, part: u16, corners: [Corner; 3]) {
        self.push_colored(part, corners, [None; 3]);
    }

    /// Adds one triangle whose corners have colours.
    pub fn push_colored(&mut self, part: u16, corners: [Corner; 3], colors: [Option<[u8; 3]>; 3]) {
        for (p, n, t) in corners {
            self.positions.push(p);
            self.normals.push(n);
            self.uvs.push(t);
        }
        self.colors.extend(colors);
        self.parts.push(part);
    }

    /// Number of triangles.
    pub fn len(&self) -> usize {
        self.parts.len()
    }

    /// Whether there is no triangle.
    pub fn is_empty(&self) -> bool {
        self.parts.is_empty()
    }

    /// The triangles for which `keep` holds, with the same parts.
    pub fn filtered(&self, keep: impl Fn(usize) -> bool) -> Soup {
        let mut out = Soup {
            name: self.name.clone(),
            part_names: self.part_names.clone(),
            part_colors: self.part_colors.clone(),
            findings: self.findings.clone(),
            offers: self.offers,
            smoothing: self.smoothing.iter().enumerate().filter(|(t, _)| keep(*t)).map(|(_, s)| *s).collect(),
            ..Soup::default()
        };
        for t in (0..self.len()).filter(|t| keep(*t)) {
            let at = [3 * t, 3 * t + 1, 3 * t + 2];
            let corners = at.map(|i| (self.positions[i], self.normals[i], self.uvs[i]));
            out.push_colored(self.parts[t], corners, at.map(|i| self.colors[i]));
        }
        out
    }
}
