//! A piece as files: GLB 2.0 (metres, one primitive per part, optionally with a material) and OBJ (millimetres).

use std::fmt::Write;

use serde_json::{Value, json};

use super::Piece;

/// PNG pictures for the one material of a dressed piece.
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

/// Writes the piece as GLB. Each part is a primitive with a material of its name; with a `dressing`, all parts share its pictures.
pub fn glb(piece: &Piece, dressing: Option<&Dressing>) -> Vec<u8> {
    let mut bin = Bin::default();
    let count = piece.positions.len();
    let mm = 0.001;
    let position = bin.floats(&piece.positions, mm);
    let normal = bin.floats(&piece.normals, 1.0);
    let mut accessors = vec![
        json!({"bufferView": position, "componentType": 5126, "count": count, "type": "VEC3",
               "min": piece.min.map(|v| v * mm), "max": piece.max.map(|v| v * mm)}),
        json!({"bufferView": normal, "componentType": 5126, "count": count, "type": "VEC3"}),
    ];
    let mut attributes = json!({"POSITION": 0, "NORMAL": 1});
    if piece.has_uvs() {
        let (tangent, uv) = (bin.floats(&piece.tangents, 1.0), bin.floats(&piece.uvs, 1.0));
        accessors.push(json!({"bufferView": tangent, "componentType": 5126, "count": count, "type": "VEC4"}));
        accessors.push(json!({"bufferView": uv, "componentType": 5126, "count": count, "type": "VEC2"}));
        attributes["TANGENT"] = 2.into();
        attributes["TEXCOORD_0"] = 3.into();
    }
    let mut primitives = vec![];
    for (i, part) in piece.parts.iter().enumerate().filter(|(_, p)| p.triangles > 0) {
        let mine = piece.triangles.iter().zip(&piece.part_of).filter(|(_, p)| usize::from(**p) == i);
        let view = bin.add(mine.flat_map(|(t, _)| t.iter().flat_map(|v| v.to_le_bytes())), Some(34963));
        accessors
            .push(json!({"bufferView": view, "componentType": 5125, "count": part.triangles * 3, "type": "SCALAR"}));
        primitives.push(json!({"attributes": attributes, "indices": accessors.len() - 1, "material": i, "mode": 4}));
    }
    let mut root = json!({
        "asset": {"version": "2.0", "generator": "Dust Coat"}, "scene": 0, "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": piece.name}], "meshes": [{"name": piece.name, "primitives": primitives}],
        "materials": piece.parts.iter().map(|p| json!({"name": p.name})).collect::<Vec<_>>(),
    });
    if let Some(d) = dressing {
        let pictures = [d.base_color, d.orm, d.normal].map(|p| bin.add(p.iter().copied(), None));
        root["images"] = pictures.iter().map(|v| json!({"bufferView": v, "mimeType": "image/png"})).collect();
        root["textures"] = (0..3).map(|i| json!({"source": i, "sampler": 0})).collect();
        root["samplers"] = json!([{"magFilter": 9729, "minFilter": 9987}]);
        for m in root["materials"].as_array_mut().into_iter().flatten() {
            m["pbrMetallicRoughness"] =
                json!({"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 1}});
            m["occlusionTexture"] = json!({"index": 1});
            m["normalTexture"] = json!({"index": 2});
        }
    }
    root["accessors"] = accessors.into();
    root["bufferViews"] = bin.views.into();
    root["buffers"] = json!([{"byteLength": bin.bytes.len()}]);
    pack(&root, bin.bytes)
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
    for t in &piece.uvs {
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
