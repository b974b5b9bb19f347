//! A piece as files: GLB 2.0 (metres, one primitive per part, optionally with a material) and OBJ (millimetres).

use std::collections::BTreeSet;
use std::fmt::Write;

use serde_json::{Value, json};

use super::Piece;

/// PNG pictures for the materials of one sheet of a dressed piece.
pub struct Dressing<'a> {
    /// sRGB base color.
    pub base_color: &'a [u8],
    /// Occlusion, roughness, metallic in red, green, blue.
    pub orm: &'a [u8],
    /// Tangent-space normals, Y+.
    pub normal: &'a [u8],
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

/// Writes the piece as GLB. Each part is a primitive with a material of its name, one per sheet that it lies on. `dressings` are the pictures of each sheet, or none
/// for an undressed piece; its UVs then stand in the tiles that they came from.
pub fn glb(piece: &Piece, dressings: &[Dressing]) -> Vec<u8> {
    let mut bin = Bin::default();
    let count = piece.positions.len();
    let mm = 0.001;
    let (position, normal) = (bin.floats(&piece.positions, mm), bin.floats(&piece.normals, 1.0));
    let uvs = if dressings.is_empty() { tiled_uvs(piece) } else { piece.uvs.clone() };
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
        materials.push(material(piece, part, sheet, !dressings.is_empty()));
    }
    let mut root = json!({
        "asset": {"version": "2.0", "generator": "Dust Coat"}, "scene": 0, "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": piece.name}], "meshes": [{"name": piece.name, "primitives": primitives}],
        "materials": materials,
    });
    if !dressings.is_empty() {
        let pictures = dressings.iter().flat_map(|d| [d.base_color, d.orm, d.normal]);
        let views: Vec<usize> = pictures.map(|p| bin.add(p.iter().copied(), None)).collect();
        root["textures"] = (0..views.len()).map(|i| json!({"source": i, "sampler": 0})).collect();
        root["images"] = views.iter().map(|v| json!({"bufferView": v, "mimeType": "image/png"})).collect();
        root["samplers"] = json!([{"magFilter": 9729, "minFilter": 9987}]);
    }
    root["accessors"] = accessors.into();
    root["bufferViews"] = bin.views.into();
    root["buffers"] = json!([{"byteLength": bin.bytes.len()}]);
    pack(&root, bin.bytes)
}

fn material(piece: &Piece, part: u16, sheet: u16, dressed: bool) -> Value {
    let name = &piece.parts[usize::from(part)].name;
    if !dressed {
        return json!({"name": name});
    }
    let (first, many) = (usize::from(sheet) * 3, piece.sheets.len() > 1);
    let name = if many { format!("{name} {}", piece.sheets[usize::from(sheet)].name) } else { name.clone() };
    json!({
        "name": name,
        "pbrMetallicRoughness": {"baseColorTexture": {"index": first}, "metallicRoughnessTexture": {"index": first + 1}},
        "occlusionTexture": {"index": first + 1}, "normalTexture": {"index": first + 2},
    })
}

/// UVs moved back from their sheets' squares into the tiles that UDIM numbers them by.
fn tiled_uvs(piece: &Piece) -> Vec<[f32; 2]> {
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
