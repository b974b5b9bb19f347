//! PLY (text and binary, both byte orders) through `ply-rs-bw`. Vertices may carry normals, UVs and colours; faces may be polygons.

use std::io::BufReader;

use ply_rs_bw::parser::{Parser, Reader};
use ply_rs_bw::ply::{PropertyAccess, PropertyAccessResult};

use super::{MeshError, MeshLimits, Soup};

/// One element of either kind; whatever else the file holds is passed over.
struct Element {
    position: [f64; 3],
    normal: [f32; 3],
    uv: [f32; 2],
    color: [Option<u8>; 3],
    corners: Vec<u32>,
    corner_uvs: Vec<f32>,
}

/// Reads a PLY; positions are multiplied by `scale`, v is flipped to point down.
pub fn read(bytes: &[u8], scale: f32, limits: MeshLimits) -> Result<Soup, MeshError> {
    let unreadable = |why: &dyn std::fmt::Display| MeshError::Unreadable { why: why.to_string() };
    let mut reader = Reader::new(BufReader::new(bytes));
    let parser = Parser::<Element>::new();
    let header = parser.read_header(&mut reader).map_err(|e| unreadable(&e))?;
    for (element, what) in [("vertex", "vertices"), ("face", "triangles")] {
        let found = header.elements.get(element).map_or(0, |e| e.count);
        // A file can't hold more elements than bytes, whatever its header says.
        if found > limits.triangles.saturating_mul(3).min(bytes.len()) {
            return Err(MeshError::TooLarge { what, found, limit: limits.triangles });
        }
    }
    let payload = parser.read_payload(&mut reader, &header).map_err(|e| unreadable(&e))?;
    let empty = Vec::new();
    let vertices = payload.get("vertex").unwrap_or(&empty);
    let mut soup = Soup::default();
    let part = soup.part("body");
    for face in payload.get("face").unwrap_or(&empty) {
        for k in 2..face.corners.len() {
            let at = [0, k - 1, k];
            let missing = || unreadable(&"a face names a vertex that is not there");
            let mut corners = [([0.0; 3], [0.0; 3], [f32::NAN; 2]); 3];
            let mut colors = [None; 3];
            for (c, i) in at.into_iter().enumerate() {
                let v = vertices.get(face.corners[i] as usize).ok_or_else(missing)?;
                let uv = face.corner_uvs.get(2 * i..2 * i + 2).map_or(v.uv, |t| [t[0], t[1]]);
                corners[c] = (v.position.map(|p| p as f32 * scale), v.normal, [uv[0], 1.0 - uv[1]]);
                colors[c] = v.color[0].zip(v.color[1]).zip(v.color[2]).map(|((r, g), b)| [r, g, b]);
            }
            soup.push_colored(part, corners, colors);
            if soup.len() > limits.triangles {
                return Err(MeshError::TooLarge { what: "triangles", found: soup.len(), limit: limits.triangles });
            }
        }
    }
    Ok(soup)
}

impl Element {
    fn set(&mut self, name: &str, value: f64) -> PropertyAccessResult {
        match name {
            "x" => self.position[0] = value,
            "y" => self.position[1] = value,
            "z" => self.position[2] = value,
            "nx" => self.normal[0] = value as f32,
            "ny" => self.normal[1] = value as f32,
            "nz" => self.normal[2] = value as f32,
            "s" | "u" | "texture_u" => self.uv[0] = value as f32,
            "t" | "v" | "texture_v" => self.uv[1] = value as f32,
            _ => return PropertyAccessResult::Ignored,
        }
        PropertyAccessResult::Set
    }

    /// `value` is 0…255.
    fn tint(&mut self, name: &str, value: f64) -> PropertyAccessResult {
        let channel = match name {
            "red" => 0,
            "green" => 1,
            "blue" => 2,
            _ => return self.set(name, value),
        };
        self.color[channel] = Some(value.clamp(0.0, 255.0).round() as u8);
        PropertyAccessResult::Set
    }

    fn corner_list(&mut self, name: &str, list: impl Iterator<Item = i64>) -> PropertyAccessResult {
        if !matches!(name, "vertex_indices" | "vertex_index") {
            return PropertyAccessResult::Ignored;
        }
        // A negative index names no vertex; it is told when the face is made.
        self.corners = list.map(|i| u32::try_from(i).unwrap_or(u32::MAX)).collect();
        PropertyAccessResult::Set
    }
}

impl PropertyAccess for Element {
    fn new() -> Self {
        Element {
            position: [0.0; 3],
            normal: [0.0; 3],
            uv: [f32::NAN; 2],
            color: [None; 3],
            corners: vec![],
            corner_uvs: vec![],
        }
    }

    fn set_char(&mut self, name: &str, value: i8) -> PropertyAccessResult {
        self.set(name, value.into())
    }

    fn set_uchar(&mut self, name: &str, value: u8) -> PropertyAccessResult {
        self.tint(name, value.into())
    }

    fn set_short(&mut self, name: &str, value: i16) -> PropertyAccessResult {
        self.set(name, value.into())
    }

    fn set_ushort(&mut self, name: &str, value: u16) -> PropertyAccessResult {
        let value = f64::from(value);
        if matches!(name, "red" | "green" | "blue") { self.tint(name, value / 257.0) } else { self.set(name, value) }
    }

    fn set_int(&mut self, name: &str, value: i32) -> PropertyAccessResult {
        self.set(name, value.into())
    }

    fn set_uint(&mut self, name: &str, value: u32) -> PropertyAccessResult {
        self.set(name, value.into())
    }

    fn set_float(&mut self, name: &str, value: f32) -> PropertyAccessResult {
        self.set_double(name, value.into())
    }

    fn set_double(&mut self, name: &str, value: f64) -> PropertyAccessResult {
        if matches!(name, "red" | "green" | "blue") { self.tint(name, value * 255.0) } else { self.set(name, value) }
    }

    fn set_list_char(&mut self, name: &str, value: Vec<i8>) -> PropertyAccessResult {
        self.corner_list(name, value.into_iter().map(i64::from))
    }

    fn set_list_uchar(&mut self, name: &str, value: Vec<u8>) -> PropertyAccessResult {
        self.corner_list(name, value.into_iter().map(i64::from))
    }

    fn set_list_short(&mut self, name: &str, value: Vec<i16>) -> PropertyAccessResult {
        self.corner_list(name, value.into_iter().map(i64::from))
    }

    fn set_list_ushort(&mut self, name: &str, value: Vec<u16>) -> PropertyAccessResult {
        self.corner_list(name, value.into_iter().map(i64::from))
    }

    fn set_list_int(&mut self, name: &str, value: Vec<i32>) -> PropertyAccessResult {
        self.corner_list(name, value.into_iter().map(i64::from))
    }

    fn set_list_uint(&mut self, name: &str, value: Vec<u32>) -> PropertyAccessResult {
        self.corner_list(name, value.into_iter().map(i64::from))
    }

    fn set_list_float(&mut self, name: &str, value: Vec<f32>) -> PropertyAccessResult {
        if name != "texcoord" {
            return PropertyAccessResult::Ignored;
        }
        self.corner_uvs = value;
        PropertyAccessResult::Set
    }
}
