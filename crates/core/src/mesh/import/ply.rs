//! PLY (text and binary, both byte orders) through `ply-rs-bw`. Vertices may carry normals, UVs and colours; faces may be polygons.

use std::io::{BufReader, Read};

use ply_rs_bw::parser::{Parser, Reader};
use ply_rs_bw::ply::{PropertyAccess, PropertyAccessResult};

use super::{MeshError, Reading, Soup, polygon, unreadable};

/// One element of either kind; whatever else the file holds is passed over.
struct Element {
    position: [f64; 3],
    normal: [f32; 3],
    uv: [f32; 2],
    color: [Option<u8>; 3],
    corners: Vec<u32>,
    corner_uvs: Vec<f32>,
}

/// What some names stand for in files of other makers.
const ALSO: [(&str, &str); 17] = [
    ("texture_s", "s"),
    ("texture_u", "s"),
    ("texture_t", "t"),
    ("texture_v", "t"),
    ("u", "s"),
    ("v", "t"),
    ("tu", "s"),
    ("tv", "t"),
    ("r", "red"),
    ("g", "green"),
    ("b", "blue"),
    ("diffuse_red", "red"),
    ("diffuse_green", "green"),
    ("diffuse_blue", "blue"),
    ("normal_x", "nx"),
    ("normal_y", "ny"),
    ("normal_z", "nz"),
];

/// The header with what is no part of it left out (comments, notes on the object, stray lines), and where the rest begins.
fn tidied(bytes: &[u8]) -> Result<(Vec<u8>, usize), MeshError> {
    let (mut out, mut at) = (vec![], 0);
    loop {
        let rest = &bytes[at..];
        let end = rest
            .iter()
            .position(|b| matches!(b, b'\n' | b'\r'))
            .ok_or_else(|| unreadable("its header has no end; it was cut off"))?;
        let line = String::from_utf8_lossy(&rest[..end]);
        let words: Vec<&str> = line.split_whitespace().collect();
        // A line may end as on any system.
        at += end + if rest[end..].starts_with(b"\r\n") { 2 } else { 1 };
        let known = words.first().is_some_and(|w| ["ply", "format", "element", "property", "end_header"].contains(w));
        if known {
            out.extend(words.join(" ").bytes().chain([b'\n']));
        }
        if words.first() == Some(&"end_header") {
            return Ok((out, at));
        }
        if at > 1 << 20 {
            return Err(unreadable("its header has no end"));
        }
    }
}

/// Reads a PLY; v is flipped to point down. It knows neither parts nor several sets of UVs.
pub fn read(bytes: &[u8], reading: &Reading) -> Result<Soup, MeshError> {
    let (scale, limits) = (reading.scale, reading.limits);
    let (head, body) = tidied(bytes)?;
    let mut reader = Reader::new(BufReader::new(head.chain(&bytes[body..])));
    let parser = Parser::<Element>::new();
    let header = parser.read_header(&mut reader).map_err(|_| unreadable("its header is none of a PLY"))?;
    for (element, what) in [("vertex", "vertices"), ("face", "triangles"), ("tristrips", "triangles")] {
        let found = header.elements.get(element).map_or(0, |e| e.count);
        // A file can't hold more elements than bytes, whatever its header says.
        if found > limits.triangles.saturating_mul(3).min(bytes.len()) {
            return Err(MeshError::TooLarge { what, found, limit: limits.triangles });
        }
    }
    let count = |element: &str| header.elements.get(element).map_or(0, |e| e.count);
    if count("vertex") > 0 && count("face") + count("tristrips") == 0 {
        return Err(MeshError::Unsupported {
            what: "it is a cloud of points without faces".into(),
            remedy: "Make a surface of it in the program that made it, and export that.".into(),
        });
    }
    let payload = parser
        .read_payload(&mut reader, &header)
        .map_err(|_| unreadable("what it holds is less, or other, than its header says"))?;
    let empty = Vec::new();
    let of = |element: &str| payload.get(element).unwrap_or(&empty);
    let vertices = of("vertex");
    let mut soup = Soup::default();
    let part = soup.part("body");
    let mut add = |face: &Element, at: [usize; 3]| {
        let missing = || unreadable("a face names a vertex that is not there");
        let mut corners = [([0.0; 3], [0.0; 3], [f32::NAN; 2]); 3];
        let mut colors = [None; 3];
        for (c, i) in at.into_iter().enumerate() {
            let v = vertices.get(face.corners[i] as usize).ok_or_else(missing)?;
            let uv = face.corner_uvs.get(2 * i..2 * i + 2).map_or(v.uv, |t| [t[0], t[1]]);
            corners[c] = (v.position.map(|p| p as f32 * scale), v.normal, [uv[0], 1.0 - uv[1]]);
            colors[c] = v.color[0].zip(v.color[1]).zip(v.color[2]).map(|((r, g), b)| [r, g, b]);
        }
        soup.push_colored(part, corners, colors);
        let found = soup.len();
        let many = found > limits.triangles;
        if many { Err(MeshError::TooLarge { what: "triangles", found, limit: limits.triangles }) } else { Ok(()) }
    };
    for face in of("face") {
        let place = |i: &u32| vertices.get(*i as usize).map_or([0.0; 3], |v| v.position.map(|p| p as f32));
        let places: Vec<[f32; 3]> = face.corners.iter().map(place).collect();
        polygon::cut(&places).try_for_each(|three| add(face, three))?;
    }
    for strip in of("tristrips") {
        // Every other triangle of a strip is turned over; a negative index begins the next strip.
        let mut from = 0;
        for k in 0..strip.corners.len() {
            if strip.corners[k] == NONE {
                from = k + 1;
            } else if k >= from + 2 {
                let (a, b) = if (k - from) % 2 == 0 { (k - 2, k - 1) } else { (k - 1, k - 2) };
                add(strip, [a, b, k])?;
            }
        }
    }
    Ok(soup)
}

/// What stands for a negative index, which names no vertex; that is told when the face is made.
const NONE: u32 = u32::MAX;

/// The name that a property usually has.
fn usual(name: &str) -> &str {
    ALSO.iter().find(|(also, _)| *also == name).map_or(name, |(_, usual)| usual)
}

impl Element {
    fn set(&mut self, name: &str, value: f64) -> PropertyAccessResult {
        match usual(name) {
            "x" => self.position[0] = value,
            "y" => self.position[1] = value,
            "z" => self.position[2] = value,
            "nx" => self.normal[0] = value as f32,
            "ny" => self.normal[1] = value as f32,
            "nz" => self.normal[2] = value as f32,
            "s" => self.uv[0] = value as f32,
            "t" => self.uv[1] = value as f32,
            _ => return PropertyAccessResult::Ignored,
        }
        PropertyAccessResult::Set
    }

    /// `value` is 0…255.
    fn tint(&mut self, name: &str, value: f64) -> PropertyAccessResult {
        let channel = match usual(name) {
            "red" => 0,
            "green" => 1,
            "blue" => 2,
            _ => return self.set(name, value),
        };
        self.color[channel] = Some(value.clamp(0.0, 255.0).round() as u8);
        PropertyAccessResult::Set
    }

    fn corner_list(&mut self, name: &str, list: impl Iterator<Item = i64>) -> PropertyAccessResult {
        // Of a face's lists of whole numbers the first is its corners, whatever it is called, unless one is called so.
        if !self.corners.is_empty() && !matches!(name, "vertex_indices" | "vertex_index") {
            return PropertyAccessResult::Ignored;
        }
        self.corners = list.map(|i| u32::try_from(i).unwrap_or(NONE)).collect();
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
        if matches!(usual(name), "red" | "green" | "blue") {
            self.tint(name, value / 257.0)
        } else {
            self.set(name, value)
        }
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
        if matches!(usual(name), "red" | "green" | "blue") {
            self.tint(name, value * 255.0)
        } else {
            self.set(name, value)
        }
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
