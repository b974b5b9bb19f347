//! Layouts that are ready to take, made for what a document lays and names. One each in [`READY`].

use crate::document::{Document, FileChannel, FileKind, FileRow, Layout, layers};
use crate::evaluate::Highest;
use crate::evaluate::packing::{PACKED, Packed};
use crate::finish::channel::CHANNELS;
use crate::mesh::write::AddMap;

/// A ready layout.
pub struct Ready {
    /// Key, as the command line takes it.
    pub key: &'static str,
    /// What the artist reads, and what the layout is called.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    files: fn(&Document, &Highest) -> Vec<FileRow>,
}

/// All of them.
pub static READY: [Ready; 7] = [
    Ready {
        key: "gltf",
        label: "glTF 2.0",
        help: "Base color, the packed map, normals, height, what the extensions read, and the dressed piece as GLB.",
        files: |_, _| gltf(),
    },
    Ready {
        key: "separate",
        label: "Separate files",
        help: "A file for each channel: for renderers that take them one by one.",
        files: |_, highest| separate(highest),
    },
    Ready {
        key: "packed",
        label: "Packed by four",
        help: "Base color with opacity, then roughness, metallic, occlusion and height in one: for engines that count files.",
        files: |_, _| packed(),
    },
    Ready {
        key: "reflectance",
        label: "Reflectance and glossiness",
        help: "Diffuse, reflectance and glossiness, normals with green down: for renderers that know no metallic.",
        files: |_, _| reflectance(),
    },
    Ready {
        key: "masks",
        label: "Masks packed by four",
        help: "The masks of the layers, four to a file, those that are published first: for shaders that mix materials themselves.",
        files: |document, _| masks(document),
    },
    Ready {
        key: "readings",
        label: "Readings",
        help: "What is known of the piece itself: occlusion, edges, recesses, thickness, altitude and what faces up.",
        files: |_, _| readings(),
    },
    Ready {
        key: "floats",
        label: "One EXR",
        help: "All channels in one file as layers in half floats, with nothing cut off.",
        files: |_, highest| floats(highest),
    },
];

/// The ready layout of that key or name.
pub fn find(name: &str) -> Option<&'static Ready> {
    READY.iter().find(|r| r.key == name || r.label.eq_ignore_ascii_case(name))
}

impl Ready {
    /// The layout for a document with so many sheets.
    pub fn layout(&self, document: &Document, highest: &Highest, sheets: usize) -> Layout {
        Layout {
            name: self.label.into(),
            size: document.draft_size,
            pattern: if sheets > 1 { "{piece}_{sheet}_{map}" } else { "{piece}_{map}" }.into(),
            height_range: 1.0,
            files: (self.files)(document, highest),
        }
    }
}

/// What is handed off of a document for which nothing was said.
pub fn usual(document: &Document, sheets: usize) -> Layout {
    READY[0].layout(document, &Highest::default(), sheets)
}

fn slots(from: &[&str]) -> Vec<FileChannel> {
    from.iter().map(|f| FileChannel::of(f)).collect()
}

fn picture(map: &str, bits: u32, srgb: bool, from: &[&str]) -> FileRow {
    FileRow { map: map.into(), kind: FileKind::Png, bits, srgb, slots: slots(from), on: true }
}

fn inverted(mut row: FileRow, slot: usize) -> FileRow {
    row.slots[slot].invert = true;
    row
}

fn scene(map: &str, kind: FileKind) -> FileRow {
    FileRow { map: map.into(), kind, bits: 0, srgb: false, slots: vec![], on: true }
}

/// A colour with its three components.
fn color(kind: &str) -> [String; 3] {
    ["r", "g", "b"].map(|c| format!("{kind}.{c}"))
}

fn base_color() -> FileRow {
    picture("base_color", 8, true, &["base_color.r", "base_color.g", "base_color.b", "opacity"])
}

fn orm() -> FileRow {
    picture("orm", 8, false, &["occlusion", "roughness", "metallic"])
}

const NORMAL: [&str; 3] = ["normal.x", "normal.y", "normal.z"];

fn normal() -> FileRow {
    picture("normal", 8, false, &NORMAL)
}

fn normal_y_down() -> FileRow {
    inverted(picture("normal_y_down", 8, false, &NORMAL), 1)
}

fn height() -> FileRow {
    picture("height", 16, false, &["height"])
}

/// What an extension of glTF reads.
fn further(p: &Packed) -> FileRow {
    let channels = if p.alpha { "rgba" } else { "rgb" };
    let from: Vec<String> = channels.chars().map(|c| format!("gltf_{}.{c}", p.key)).collect();
    picture(p.key, 8, p.srgb, &from.iter().map(String::as_str).collect::<Vec<_>>())
}

fn gltf() -> Vec<FileRow> {
    let down = FileRow { on: false, ..normal_y_down() };
    let scenes = [
        scene("dressed", FileKind::Glb),
        FileRow { on: false, ..scene("dressed", FileKind::Gltf) },
        FileRow { on: false, ..scene("material", FileKind::MaterialX) },
        FileRow { on: false, ..scene("dressed", FileKind::Usd) },
    ];
    [base_color(), orm(), normal(), down, height()]
        .into_iter()
        .chain(PACKED.iter().map(further))
        .chain(scenes)
        .collect()
}

/// A picture that lies in a dressed piece, or beside it.
pub(super) struct Inside {
    /// What it holds.
    pub row: FileRow,
    /// How it is added to the material.
    pub add: AddMap,
    /// What its values are multiplied by.
    pub factor: f32,
}

/// The pictures that lie in a dressed piece, or beside it, by what is laid on it.
pub(super) fn inside(highest: &Highest) -> Vec<Inside> {
    let usual: [(FileRow, AddMap); 3] = [
        (base_color(), |m, texture, _, _| m["pbrMetallicRoughness"]["baseColorTexture"] = texture.clone()),
        (orm(), |m, texture, _, _| {
            m["pbrMetallicRoughness"]["metallicRoughnessTexture"] = texture.clone();
            m["occlusionTexture"] = texture.clone();
        }),
        (normal(), |m, texture, _, _| m["normalTexture"] = texture.clone()),
    ];
    let laid = PACKED.iter().filter(|p| p.is_among(|kind| highest.contains_key(kind)));
    let packed = laid.map(|p| Inside { row: further(p), add: p.gltf, factor: p.factor(highest) });
    usual.into_iter().map(|(row, add)| Inside { row, add, factor: 1.0 }).chain(packed).collect()
}

/// A file for a channel by itself, as it is usually written.
pub(super) fn alone(kind: &str) -> Option<FileRow> {
    match kind {
        "normal" => return Some(normal()),
        "occlusion" => return Some(picture("occlusion", 8, false, &["occlusion"])),
        _ => {}
    }
    let c = crate::finish::channel::find(kind)?;
    if c.bare.len() == 3 && !c.is_direction() {
        let from = color(kind);
        return Some(picture(kind, 8, true, &from.each_ref().map(String::as_str)));
    }
    if c.is_direction() {
        let from = ["x", "y", "z"].map(|a| format!("{kind}.{a}"));
        return Some(picture(kind, 8, false, &from.each_ref().map(String::as_str)));
    }
    let fine = matches!(kind, "height" | "ior" | "thickness" | "emissive_strength");
    Some(picture(kind, if fine { 16 } else { 8 }, false, &[kind]))
}

fn separate(highest: &Highest) -> Vec<FileRow> {
    // A body's colour is one number for a material, which no picture holds.
    let written = |kind: &str| !["attenuation_color", "attenuation_distance"].contains(&kind);
    let laid = CHANNELS.iter().map(|c| c.kind).filter(|k| highest.contains_key(k) && written(k));
    let first = ["base_color", "roughness", "metallic", "occlusion", "normal", "height"];
    let more = laid.filter(|k| !first.contains(k));
    first.into_iter().chain(more).filter_map(alone).collect()
}

fn packed() -> Vec<FileRow> {
    let surface = picture("surface", 8, false, &["roughness", "metallic", "occlusion", "height"]);
    vec![base_color(), surface, normal()]
}

fn reflectance() -> Vec<FileRow> {
    let of = |kind: &str| {
        let from = color(kind);
        picture(kind, 8, true, &from.each_ref().map(String::as_str))
    };
    let glossiness = inverted(picture("glossiness", 8, false, &["roughness"]), 0);
    let occlusion = picture("occlusion", 8, false, &["occlusion"]);
    vec![of("diffuse"), of("reflectance"), glossiness, occlusion, normal_y_down(), height()]
}

fn masks(document: &Document) -> Vec<FileRow> {
    let all = layers(&document.layers);
    let published = all.iter().filter_map(|l| l.publish.as_ref()).map(|name| format!("published:{name}"));
    let mut named: Vec<String> = vec![];
    for layer in all.iter().filter(|l| l.publish.is_none()) {
        let name = format!("mask:{}", layer.name);
        if !named.contains(&name) {
            named.push(name);
        }
    }
    let from: Vec<String> = published.chain(named).collect();
    let four = |(i, some): (usize, &[String])| {
        picture(&format!("masks_{}", i + 1), 8, false, &some.iter().map(String::as_str).collect::<Vec<_>>())
    };
    // Two alone would be taken for grey and opacity.
    from.chunks(4).enumerate().map(four).map(padded).collect()
}

fn readings() -> Vec<FileRow> {
    let one = |kind: &str| picture(kind, 16, false, &[&format!("reading:{kind}")]);
    ["occlusion", "edges", "recesses", "thickness", "altitude", "facing"].into_iter().map(one).collect()
}

fn floats(highest: &Highest) -> Vec<FileRow> {
    let pictures = separate(highest);
    let slots = pictures.into_iter().flat_map(|row| row.slots).collect();
    let all = FileRow { map: "channels".into(), kind: FileKind::Exr, bits: 16, srgb: false, slots, on: true };
    vec![all]
}

fn padded(mut row: FileRow) -> FileRow {
    if row.slots.len() == 2 {
        row.slots.push(FileChannel::of("0"));
    }
    row
}
