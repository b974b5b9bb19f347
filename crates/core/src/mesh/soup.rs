//! Triangles as importers deliver them: corners by value, nothing shared, nothing checked.

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
    /// Part per triangle.
    pub parts: Vec<u16>,
    /// Names of the parts.
    pub part_names: Vec<String>,
}

impl Soup {
    /// The index of the part called `name`, made if it is new.
    pub fn part(&mut self, name: &str) -> u16 {
        let found = self.part_names.iter().position(|n| n == name);
        found.unwrap_or_else(|| {
            self.part_names.push(name.to_owned());
            self.part_names.len() - 1
        }) as u16
    }

    /// Adds one triangle; `normals` of zero and `uvs` of NaN stand for "not given".
    pub fn push(&mut self, part: u16, corners: [([f32; 3], [f32; 3], [f32; 2]); 3]) {
        for (p, n, t) in corners {
            self.positions.push(p);
            self.normals.push(n);
            self.uvs.push(t);
        }
        self.parts.push(part);
    }
}
