//! USD as text: the piece in millimetres with its parts as subsets of faces, bound to preview surfaces over the pictures that were written.

use std::collections::BTreeMap;
use std::fmt::{Display, Write};

use super::super::inputs::{Found, Input, Shape, find, of_kind};
use super::super::picture::Picture;
use super::super::plan::{Plan, PlannedFile};
use super::{file_of, safe};
use crate::document::FileKind;
use crate::evaluate::Highest;
use crate::mesh::Piece;
use crate::mesh::write::tiled_uvs;

/// Text that grows by lines, each as far in as it lies.
struct Doc {
    out: String,
    depth: usize,
}

impl Doc {
    fn line(&mut self, text: impl Display) {
        let _ = writeln!(self.out, "{:1$}{text}", "", 4 * self.depth);
    }

    fn open(&mut self, text: impl Display) {
        self.line(text);
        self.line("{");
        self.depth += 1;
    }

    fn close(&mut self) {
        self.depth -= 1;
        self.line("}");
    }

    /// A row of values, in brackets.
    fn row<T>(&mut self, what: &str, values: impl Iterator<Item = T>, one: impl Fn(&mut String, T), over: &str) {
        let mut text = format!("{what} = [");
        for (i, value) in values.enumerate() {
            text.push_str(if i > 0 { ", " } else { "" });
            one(&mut text, value);
        }
        text.push(']');
        if !over.is_empty() {
            let _ = write!(text, " (interpolation = \"{over}\")");
        }
        self.line(text);
    }
}

/// A text in quotes.
fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\"").replace(['\n', '\r'], " "))
}

fn three(out: &mut String, [x, y, z]: [f32; 3]) {
    let _ = write!(out, "({x}, {y}, {z})");
}

/// The layer.
pub(super) fn write(plan: &Plan, piece: &Piece, highest: &Highest) -> String {
    let root = safe(&piece.name);
    let mut doc = Doc { out: "#usda 1.0\n".into(), depth: 0 };
    doc.line(format!(
        "(\n    defaultPrim = \"{root}\"\n    doc = \"Written by Dust Coat\"\n    metersPerUnit = 0.001\n    upAxis = \"Y\"\n)\n"
    ));
    doc.open(format!("def Xform \"{root}\" (\n    kind = \"component\"\n    displayName = {}\n)", quoted(&piece.name)));
    let sheets = if plan.udim { 1 } else { piece.sheets.len() };
    let materials: Vec<String> = (0..sheets)
        .map(|s| if sheets > 1 { safe(&format!("sheet {}", piece.sheets[s].name)) } else { "dressed".into() })
        .collect();
    mesh(&mut doc, plan, piece, &|sheet| format!("</{root}/materials/{}>", materials[sheet.min(sheets - 1)]));
    doc.open("def Scope \"materials\"");
    let (pictures, files): (Vec<Picture>, Vec<Vec<&PlannedFile>>) =
        plan.pictures().map(|(p, f)| (p.clone(), f)).unzip();
    for (sheet, name) in materials.iter().enumerate() {
        let path = format!("/{root}/materials/{name}");
        let name_of = |picture: usize| file_of(plan, &files[picture], sheet, piece);
        material(&mut doc, &path, name, &pictures, &name_of, highest);
    }
    doc.close();
    doc.close();
    doc.out
}

fn mesh(doc: &mut Doc, plan: &Plan, piece: &Piece, material_of: &dyn Fn(usize) -> String) {
    doc.open("def Mesh \"mesh\" (\n        prepend apiSchemas = [\"MaterialBindingAPI\"]\n    )");
    doc.line("uniform token subdivisionScheme = \"none\"");
    doc.line("uniform bool doubleSided = 0");
    doc.row("float3[] extent", [piece.min, piece.max].into_iter(), three, "");
    let whole = |out: &mut String, v: u32| {
        let _ = write!(out, "{v}");
    };
    doc.row("int[] faceVertexCounts", piece.triangles.iter().map(|_| 3u32), whole, "");
    doc.row("int[] faceVertexIndices", piece.triangles.iter().flatten().copied(), whole, "");
    doc.row("point3f[] points", piece.positions.iter().copied(), three, "");
    doc.row("normal3f[] normals", piece.normals.iter().copied(), three, "vertex");
    let uvs = if plan.udim { tiled_uvs(piece) } else { piece.uvs.clone() };
    let two = |out: &mut String, [u, v]: [f32; 2]| {
        let _ = write!(out, "({u}, {})", 1.0 - v);
    };
    doc.row("texCoord2f[] primvars:st", uvs.into_iter(), two, "vertex");
    doc.line("uniform token subsetFamily:materialBind:familyType = \"partition\"");
    let mut faces: BTreeMap<(u16, u16), Vec<u32>> = BTreeMap::new();
    for (t, (part, sheet)) in piece.part_of.iter().zip(&piece.sheet_of).enumerate() {
        faces.entry((*part, if plan.udim { 0 } else { *sheet })).or_default().push(t as u32);
    }
    for ((part, sheet), faces) in faces {
        let name = &piece.parts[usize::from(part)].name;
        let called = safe(&format!("{name} {part} {sheet}"));
        doc.open(format!(
            "def GeomSubset \"{called}\" (\n            displayName = {}\n            prepend apiSchemas = [\"MaterialBindingAPI\"]\n        )",
            quoted(name)
        ));
        doc.line("uniform token elementType = \"face\"");
        doc.line("uniform token familyName = \"materialBind\"");
        doc.row("int[] indices", faces.into_iter(), whole, "");
        doc.line(format!("rel material:binding = {}", material_of(usize::from(sheet))));
        doc.close();
    }
    doc.close();
}

fn material(
    doc: &mut Doc,
    path: &str,
    name: &str,
    pictures: &[Picture],
    name_of: &dyn Fn(usize) -> String,
    highest: &Highest,
) {
    let found: Vec<(&Input, Found)> = of_kind(FileKind::Usd)
        .iter()
        .filter(|i| i.is_wanted(highest))
        .filter_map(|i| Some((i, find(i, pictures)?)))
        .collect();
    doc.open(format!("def Material \"{name}\""));
    doc.line(format!("token outputs:surface.connect = <{path}/surface.outputs:surface>"));
    doc.line(format!("token outputs:displacement.connect = <{path}/surface.outputs:displacement>"));
    doc.open("def Shader \"surface\"");
    doc.line("uniform token info:id = \"UsdPreviewSurface\"");
    for (input, found) in &found {
        let kind = match input.shape {
            Shape::Color => "color3f",
            Shape::Direction => "normal3f",
            Shape::Number => "float",
        };
        doc.line(format!(
            "{kind} inputs:{0}.connect = <{path}/{0}_picture.outputs:{1}>",
            input.called,
            output(input, found)
        ));
    }
    doc.line("token outputs:surface");
    doc.line("token outputs:displacement");
    doc.close();
    doc.open("def Shader \"place\"");
    doc.line("uniform token info:id = \"UsdPrimvarReader_float2\"");
    doc.line("string inputs:varname = \"st\"");
    doc.line("float2 outputs:result");
    doc.close();
    for (input, found) in &found {
        doc.open(format!("def Shader \"{}_picture\"", input.called));
        doc.line("uniform token info:id = \"UsdUVTexture\"");
        doc.line(format!("asset inputs:file = @./{}@", name_of(found.picture)));
        doc.line(format!("token inputs:sourceColorSpace = \"{}\"", if found.encoded { "sRGB" } else { "raw" }));
        doc.line("token inputs:wrapS = \"repeat\"");
        doc.line("token inputs:wrapT = \"repeat\"");
        doc.line(format!("float2 inputs:st.connect = <{path}/place.outputs:result>"));
        if (found.scale, found.bias) != (1.0, 0.0) {
            let (s, b) = (found.scale, found.bias);
            doc.line(format!("float4 inputs:scale = ({s}, {s}, {s}, {s})"));
            doc.line(format!("float4 inputs:bias = ({b}, {b}, {b}, {b})"));
        }
        let kind = if input.shape == Shape::Number { "float" } else { "float3" };
        doc.line(format!("{kind} outputs:{}", output(input, found)));
        doc.close();
    }
    doc.close();
}

/// What of a picture is read.
fn output(input: &Input, found: &Found) -> &'static str {
    match input.shape {
        Shape::Number => ["r", "g", "b", "a"][found.channel],
        Shape::Color | Shape::Direction => "rgb",
    }
}
