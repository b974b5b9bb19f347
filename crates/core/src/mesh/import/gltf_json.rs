//! The JSON of a glTF before the `gltf` crate sees it: what can't be read is refused in words, and what is only untidy is put in order.

use gltf::binary::Glb;
use gltf::{Document, json};
use serde_json::{Map, Value, json};

use super::packed::{self, Packed};
use super::{MeshError, unreadable};
use crate::mesh::Finding;

/// Extensions that a file may ask for and whose shape is read all the same: they say what surfaces and lights look like, or are understood.
const HARMLESS: [&str; 6] = [
    "KHR_mesh_quantization",
    "KHR_texture_transform",
    "KHR_lights_punctual",
    "KHR_xmp_json_ld",
    "EXT_meshopt_compression",
    "KHR_meshopt_compression",
];

/// Extensions that pack what we need, and how to do without.
const PACKED: [(&str, &str); 1] = [("KHR_draco_mesh_compression", "Draco")];

/// A glTF file: its document, the bytes that a GLB carries, and what was found.
pub struct Opened {
    pub document: Document,
    pub blob: Option<Vec<u8>>,
    pub findings: Vec<Finding>,
    /// Whether its UVs are those that its materials make of them: a file that requires KHR_texture_transform means no others.
    pub laid_by_materials: bool,
    /// Views that are packed; the document's last buffers hold what they hold.
    pub packed: Vec<Packed>,
    /// Buffers that hold nothing, and stand for what is unpacked.
    pub empty: Vec<usize>,
}

/// Opens a GLB or glTF.
pub fn open(bytes: &[u8]) -> Result<Opened, MeshError> {
    let (text, blob) = chunks(bytes)?;
    let mut root: Value =
        serde_json::from_slice(&text).map_err(|e| unreadable(format!("its JSON breaks off at {}", at(&e))))?;
    let Some(all) = root.as_object_mut() else { return Err(unreadable("its JSON is no object")) };
    let mut findings = vec![];
    check_version(all)?;
    let laid_by_materials = check_extensions(all)?;
    tidy(all, &mut findings);
    let (packed, empty) = packed::parted(all)?;
    let root: json::Root = serde_json::from_value(root)
        .map_err(|_| unreadable("something in it is not laid out as glTF 2.0 lays it out"))?;
    Ok(Opened {
        document: Document::from_json_without_validation(root),
        blob,
        findings,
        laid_by_materials,
        packed,
        empty,
    })
}

fn at(e: &serde_json::Error) -> String {
    format!("line {}, column {}", e.line(), e.column())
}

/// The JSON, and what a GLB carries beside it.
fn chunks(bytes: &[u8]) -> Result<(Vec<u8>, Option<Vec<u8>>), MeshError> {
    if !bytes.starts_with(b"glTF") {
        let text = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
        return Ok((text.to_vec(), None));
    }
    if bytes.get(4..8) == Some(&[1, 0, 0, 0]) {
        return Err(old());
    }
    let glb = Glb::from_slice(bytes)
        .map_err(|_| unreadable("the GLB was cut off, or its chunks are not as long as they say"))?;
    Ok((glb.json.into_owned(), glb.bin.map(|b| b.into_owned())))
}

fn old() -> MeshError {
    let remedy = "Open it in a modeller or a converter, and export glTF 2.0 or a GLB.";
    MeshError::Unsupported { what: "it is glTF 1.0, and glTF is read from 2.0 on".into(), remedy: remedy.into() }
}

fn check_version(all: &Map<String, Value>) -> Result<(), MeshError> {
    let version = all.get("asset").and_then(|a| a.get("version"));
    let said = version.map(|v| v.as_str().map_or_else(|| v.to_string(), str::to_owned)).unwrap_or_default();
    match said.split('.').next() {
        // Buffers, meshes and the rest by name, and not by number: 1.0, whatever the file says.
        _ if all.get("meshes").is_some_and(Value::is_object) => Err(old()),
        Some("2") => Ok(()),
        Some("1" | "0") => Err(old()),
        _ if all.contains_key("meshes") || all.contains_key("scenes") => {
            Err(unreadable("it doesn't say which version of glTF it is"))
        }
        _ => Err(unreadable("it is JSON, but no glTF")),
    }
}

/// Whether what the file requires can be read; and whether KHR_texture_transform is among it.
fn check_extensions(all: &Map<String, Value>) -> Result<bool, MeshError> {
    let listed = all.get("extensionsRequired").and_then(Value::as_array);
    let required: Vec<&str> = listed.into_iter().flatten().filter_map(Value::as_str).collect();
    for (name, how) in PACKED {
        if required.contains(&name) {
            return Err(MeshError::Unsupported {
                what: format!("its triangles are packed with {how} ({name}), which isn't unpacked here"),
                remedy: "Export it without compression of meshes.".into(),
            });
        }
    }
    let laid = required.contains(&"KHR_texture_transform");
    // Materials and textures are not read, so nothing that is said of them stands in the way.
    let of_looks = |n: &str| {
        n.starts_with("KHR_materials_") || ["texture", "technique", "lights"].iter().any(|word| n.contains(word))
    };
    let unknown: Vec<&str> = required.into_iter().filter(|n| !HARMLESS.contains(n) && !of_looks(n)).collect();
    if unknown.is_empty() {
        return Ok(laid);
    }
    Err(MeshError::Unsupported {
        what: format!("it can't be shown without {}, which isn't known here", unknown.join(", ")),
        remedy: "Export it without that.".into(),
    })
}

/// Puts in order what the reader doesn't need or the standard lets be told otherwise.
fn tidy(all: &mut Map<String, Value>, findings: &mut Vec<Finding>) {
    let has =
        |all: &Map<String, Value>, key: &str| all.get(key).and_then(Value::as_array).is_some_and(|a| !a.is_empty());
    let (skins, moves) = (has(all, "skins"), has(all, "animations"));
    let shapes = arrays(all, "meshes").flat_map(|m| m.get("primitives").and_then(Value::as_array)).flatten();
    let shapes = shapes.filter_map(|p| p.get("targets")).count() > 0;
    if skins || moves || shapes {
        let moved = [(skins, "bones"), (shapes, "other shapes that it can take"), (moves, "movement")];
        let named: Vec<&str> = moved.iter().filter(|m| m.0).map(|m| m.1).collect();
        findings.push(Finding {
            serious: false,
            what: format!("The file has {}: the piece was read as it stands at rest.", named.join(", ")),
            remedy: "Nothing needs doing; to dress it in another pose, export it in that one.".into(),
        });
    }
    for unused in ["animations", "cameras", "extensionsRequired", "extensions"] {
        all.remove(unused);
    }
    // Cameras, lights and movement hang on nodes; none of them is looked at.
    for node in arrays_mut(all, "nodes") {
        node.retain(|key, _| key != "camera" && key != "extensions");
    }
    // Every corner is looked at, so what the file says of the box of its positions is not.
    for accessor in arrays_mut(all, "accessors") {
        for end in ["min", "max"] {
            accessor.insert(end.into(), json!([0, 0, 0]));
        }
    }
    // A scene may hold nothing, and then needn't say so.
    for scene in arrays_mut(all, "scenes") {
        scene.entry("nodes").or_insert_with(|| json!([]));
    }
    if !arrays(all, "scenes").any(|s| s["nodes"].as_array().is_some_and(|n| !n.is_empty())) {
        let nodes = all.get("nodes").and_then(Value::as_array).map_or(0, Vec::len);
        let children: Vec<u64> = arrays(all, "nodes")
            .filter_map(|n| n.get("children")?.as_array())
            .flatten()
            .filter_map(Value::as_u64)
            .collect();
        let roots: Vec<usize> = (0..nodes).filter(|i| !children.contains(&(*i as u64))).collect();
        all.insert("scenes".into(), json!([{ "nodes": roots }]));
        all.remove("scene");
    }
    let scenes = all.get("scenes").and_then(Value::as_array).map_or(0, Vec::len) as u64;
    if all.get("scene").is_some_and(|s| s.as_u64().is_none_or(|s| s >= scenes)) {
        all.remove("scene");
    }
}

fn arrays<'a>(all: &'a Map<String, Value>, key: &str) -> impl Iterator<Item = &'a Map<String, Value>> {
    all.get(key).and_then(Value::as_array).into_iter().flatten().filter_map(Value::as_object)
}

fn arrays_mut<'a>(all: &'a mut Map<String, Value>, key: &str) -> impl Iterator<Item = &'a mut Map<String, Value>> {
    all.get_mut(key).and_then(Value::as_array_mut).into_iter().flatten().filter_map(Value::as_object_mut)
}
