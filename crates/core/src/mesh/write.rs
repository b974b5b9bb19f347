//! A piece as files: GLB 2.0 (metres, one primitive per part, optionally with a material) and OBJ (millimetres).

use std::collections::BTreeSet;
use std::fmt::Write;

use serde_json::{Value, json};

use super::Piece;

/// Where the pictures of a dressed piece are, sheet by sheet, in the order of the maps.
#[derive(Debug, Clone, Copy)]
pub enum Pictures<'a> {
    /// PNGs, in the file.
    Inside(&'a [Vec<Vec<u8>>]),
    /// Addresses of files beside it.
    Beside(&'a [Vec<String>]),
}

/// Adds a map to a material of glTF: the material, how a map is told of there, the factor that its values are multiplied by, and what the material has below its surface.
pub type AddMap = fn(&mut Value, &Value, f32, Option<&Body>);

/// What light passes through below a surface.
#[derive(Debug, Clone, Copy)]
pub struct Body {
    /// What it does to light: its linear colour after a distance in mm.
    pub tint: Option<([f32; 3], f32)>,
}

/// How a piece is dressed.
pub struct Dressing<'a> {
    /// How each map is put into a material, and the factor that its values are multiplied by.
    pub maps: Vec<(AddMap, f32)>,
    /// The pictures.
    pub pictures: Pictures<'a>,
    /// Whether alpha of the base color is opacity.
    pub see_through: bool,
    /// The body, if a map holds its thickness.
    pub body: Option<Body>,
}

#[derive(Default)]
struct Bin {
    bytes: Vec<u8>,
    views: Vec<Value>,
}

impl Bin {
    fn add(&mut self, data: impl IntoIterator<Item = u8>, target: Option<u32>) -> usize {
        let start = self.bytes.len();
        self.bytes.extend(data);
        let mut view = json!({"buffer": 0, "byteOffset": start, "byteLength": self.bytes.len() - start});
        if let Some(t) = target {
            view["target"] = t.into();
        }
        while !self.bytes.len().is_multiple_of(4) {
            self.bytes.push(0);
        }
        self.views.push(view);
        self.views.len() - 1
    }

    fn floats<const N: usize>(&mut self, data: &[[f32; N]], scale: f32) -> usize {
        self.add(data.iter().flatten().flat_map(|v| (v * scale).to_le_bytes()), Some(34962))
    }
}

/// Writes the piece as GLB. Each part is a primitive with a material of its name, one per sheet that it lies on. Without a dressing
/// its UVs stand in the tiles that they came from.
pub fn glb(piece: &Piece, dressing: Option<&Dressing>) -> Vec<u8> {
    let (root, bin) = document(piece, dressing, None);
    pack(&root, bin)
}

/// Writes a dressed piece as glTF with its numbers in a file beside it: the document, and that file.
pub fn gltf(piece: &Piece, dressing: &Dressing, bin: &str) -> (Vec<u8>, Vec<u8>) {
    let (root, bytes) = document(piece, Some(dressing), Some(bin));
    (serde_json::to_vec_pretty(&root).expect("it is plain data"), bytes)
}

/// A piece as glTF, and its numbers, which lie at the address `beside`, or in the same file.
fn document(piece: &Piece, dressing: Option<&Dressing>, beside: Option<&str>) -> (Value, Vec<u8>) {
    let mut bin = Bin::default();
    let count = piece.positions.len();
    let mm = 0.001;
    let (position, normal) = (bin.floats(&piece.positions, mm), bin.floats(&piece.normals, 1.0));
    let uvs = if dressing.is_some() { piece.uvs.clone() } else { tiled_uvs(piece) };
    let (tangent, uv) = (bin.floats(&piece.tangents, 1.0), bin.floats(&uvs, 1.0));
    let mut accessors = vec![
        json!({"bufferView": position, "componentType": 5126, "count": count, "type": "VEC3",
               "min": piece.min.map(|v| v * mm), "max": piece.max.map(|v| v * mm)}),
        json!({"bufferView": normal, "componentType": 5126, "count": count, "type": "VEC3"}),
        json!({"bufferView": tangent, "componentType": 5126, "count": count, "type": "VEC4"}),
        json!({"bufferView": uv, "componentType": 5126, "count": count, "type": "VEC2"}),
    ];
    let attributes = json!({"POSITION": 0, "NORMAL": 1, "TANGENT": 2, "TEXCOORD_0": 3});
    let (mut primitives, mut materials) = (vec![], vec![]);
    let keys: BTreeSet<(u16, u16)> = piece.part_of.iter().copied().zip(piece.sheet_of.iter().copied()).collect();
    for (part, sheet) in keys {
        let of = |t: &usize| piece.part_of[*t] == part && piece.sheet_of[*t] == sheet;
        let mine: Vec<u32> = (0..piece.triangles.len()).filter(of).flat_map(|t| piece.triangles[t]).collect();
        let view = bin.add(mine.iter().flat_map(|v| v.to_le_bytes()), Some(34963));
        accessors.push(json!({"bufferView": view, "componentType": 5125, "count": mine.len(), "type": "SCALAR"}));
        primitives.push(json!({"attributes": attributes, "indices": accessors.len() - 1,
                               "material": materials.len(), "mode": 4}));
        materials.push(material(piece, part, sheet, dressing));
    }
    let extended =
        |m: &Value| m["extensions"].as_object().map_or(vec![], |all| all.keys().cloned().collect::<Vec<_>>());
    let used: BTreeSet<String> = materials.iter().flat_map(extended).collect();
    let mut root = json!({
        "asset": {"version": "2.0", "generator": "Dust Coat"}, "scene": 0, "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": piece.name}], "meshes": [{"name": piece.name, "primitives": primitives}],
        "materials": materials,
    });
    if let Some(dressing) = dressing {
        if !used.is_empty() {
            root["extensionsUsed"] = used.into_iter().collect();
        }
        let images: Vec<Value> = match dressing.pictures {
            Pictures::Inside(all) => {
                let mut held =
                    |p: &Vec<u8>| json!({"bufferView": bin.add(p.iter().copied(), None), "mimeType": "image/png"});
                all.iter().flatten().map(&mut held).collect()
            }
            Pictures::Beside(all) => all.iter().flatten().map(|uri| json!({"uri": uri})).collect(),
        };
        root["textures"] = (0..images.len()).map(|i| json!({"source": i, "sampler": 0})).collect();
        root["images"] = images.into();
        root["samplers"] = json!([{"magFilter": 9729, "minFilter": 9987}]);
    }
    root["accessors"] = accessors.into();
    root["bufferViews"] = bin.views.into();
    root["buffers"] = json!([{"byteLength": bin.bytes.len()}]);
    if let Some(uri) = beside {
        root["buffers"][0]["uri"] = uri.into();
    }
    (root, bin.bytes)
}

fn material(piece: &Piece, part: u16, sheet: u16, dressing: Option<&Dressing>) -> Value {
    let name = &piece.parts[usize::from(part)].name;
    let Some(dressing) = dressing else { return json!({"name": name}) };
    let (first, many) = (usize::from(sheet) * dressing.maps.len(), piece.sheets.len() > 1);
    let name = if many { format!("{name} {}", piece.sheets[usize::from(sheet)].name) } else { name.clone() };
    let mut out = json!({"name": name, "pbrMetallicRoughness": {}});
    for (k, (put, factor)) in dressing.maps.iter().enumerate() {
        put(&mut out, &json!({"index": first + k}), *factor, dressing.body.as_ref());
    }
    if dressing.see_through {
        out["alphaMode"] = "BLEND".into();
    }
    out
}

/// UVs moved back from their sheets' squares into the tiles that UDIM numbers them by.
pub(crate) fn tiled_uvs(piece: &Piece) -> Vec<[f32; 2]> {
    let mut out = piece.uvs.clone();
    let mut done = vec![false; out.len()];
    for (tri, sheet) in piece.triangles.iter().zip(&piece.sheet_of) {
        let tile = f32::from(piece.sheets[usize::from(*sheet)].udim - 1001);
        let (u, v) = (tile % 10.0, (tile / 10.0).floor());
        for i in tri.map(|v| v as usize) {
            if !std::mem::replace(&mut done[i], true) {
                out[i] = [out[i][0] + u, out[i][1] - v];
            }
        }
    }
    out
}

fn pack(root: &Value, bin: Vec<u8>) -> Vec<u8> {
    let json = root.to_string().into_bytes();
    let glb = gltf::binary::Glb {
        header: gltf::binary::Header { magic: *b"glTF", version: 2, length: 0 },
        json: json.into(),
        bin: Some(bin.into()),
    };
    glb.to_vec().expect("writing a GLB to memory does not fail")
}

/// Writes the piece as OBJ in millimetres, one `usemtl` per part.
pub fn obj(piece: &Piece) -> String {
    let mut out = format!("# {} (millimetres, y up)\no {}\n", piece.name, piece.name.replace(' ', "_"));
    for p in &piece.positions {
        let _ = writeln!(out, "v {} {} {}", p[0], p[1], p[2]);
    }
    for t in &tiled_uvs(piece) {
        let _ = writeln!(out, "vt {} {}", t[0], 1.0 - t[1]);
    }
    for n in &piece.normals {
        let _ = writeln!(out, "vn {} {} {}", n[0], n[1], n[2]);
    }
    for (i, part) in piece.parts.iter().enumerate() {
        let _ = writeln!(out, "usemtl {}", part.name);
        for (t, _) in piece.triangles.iter().zip(&piece.part_of).filter(|(_, p)| usize::from(**p) == i) {
            let [a, b, c] = t.map(|v| v + 1);
            let _ = writeln!(out, "f {a}/{a}/{a} {b}/{b}/{b} {c}/{c}/{c}");
        }
    }
    out
}
