//! MaterialX 1.38: one standard surface for each sheet (or one for all, where UDIM tells them apart), over the pictures that were written.

use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesEnd, BytesStart, Event};

use super::super::inputs::{Found, Input, Shape, find, of_kind};
use super::super::picture::Picture;
use super::super::plan::{Plan, PlannedFile};
use super::{file_of, safe};
use crate::document::FileKind;
use crate::evaluate::Highest;
use crate::mesh::Piece;

/// An element with what it says of itself, written at once or begun.
struct Doc {
    out: Writer<Vec<u8>>,
}

type Said<'a> = &'a [(&'a str, &'a str)];

impl Doc {
    fn tag<'a>(name: &'a str, said: Said<'a>) -> BytesStart<'a> {
        BytesStart::new(name).with_attributes(said.iter().copied())
    }

    fn event(&mut self, event: Event) {
        self.out.write_event(event).expect("writing to memory does not fail");
    }

    fn open(&mut self, name: &str, said: Said) {
        self.event(Event::Start(Self::tag(name, said)));
    }

    fn close(&mut self, name: &str) {
        self.event(Event::End(BytesEnd::new(name)));
    }

    fn empty(&mut self, name: &str, said: Said) {
        self.event(Event::Empty(Self::tag(name, said)));
    }

    fn value(&mut self, name: &str, kind: &str, value: &str) {
        self.empty("input", &[("name", name), ("type", kind), ("value", value)]);
    }

    fn node(&mut self, name: &str, kind: &str, of: &str) {
        self.empty("input", &[("name", name), ("type", kind), ("nodename", of)]);
    }
}

/// The document.
pub(super) fn write(plan: &Plan, piece: &Piece, highest: &Highest) -> Vec<u8> {
    let mut doc = Doc { out: Writer::new_with_indent(Vec::new(), b' ', 2) };
    doc.event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)));
    doc.open("materialx", &[("version", "1.38"), ("colorspace", "lin_rec709")]);
    let (pictures, files): (Vec<Picture>, Vec<Vec<&PlannedFile>>) =
        plan.pictures().map(|(p, f)| (p.clone(), f)).unzip();
    let sheets = if plan.udim { 1 } else { piece.sheets.len() };
    for sheet in 0..sheets {
        let several = if sheets > 1 { format!(" {}", piece.sheets[sheet].name) } else { String::new() };
        let name = safe(&format!("{}{several}", piece.name));
        let name_of = |picture: usize| file_of(plan, &files[picture], sheet, piece);
        material(&mut doc, &name, &pictures, &name_of, highest);
    }
    doc.close("materialx");
    doc.out.into_inner()
}

fn material(doc: &mut Doc, name: &str, pictures: &[Picture], name_of: &dyn Fn(usize) -> String, highest: &Highest) {
    let graph = format!("{name}_pictures");
    let found: Vec<(&Input, Found)> = of_kind(FileKind::MaterialX)
        .iter()
        .filter(|i| i.is_wanted(highest))
        .filter_map(|i| Some((i, find(i, pictures)?)))
        .collect();
    doc.open("nodegraph", &[("name", &graph)]);
    for (input, found) in &found {
        read(doc, input, found, &pictures[found.picture], &name_of(found.picture));
    }
    doc.close("nodegraph");
    let has = |called: &str| found.iter().any(|(i, _)| i.called == called);
    let shader = format!("{name}_surface");
    doc.open("standard_surface", &[("name", &shader), ("type", "surfaceshader")]);
    doc.value("base", "float", "1");
    if has("sheen_color") {
        doc.value("sheen", "float", "1");
    }
    if has("emission_color") && !has("emission") {
        doc.value("emission", "float", "1");
    }
    for (input, _) in found.iter().filter(|(i, _)| i.called != "displacement") {
        let kind = output(input);
        doc.empty(
            "input",
            &[
                ("name", input.called),
                ("type", kind),
                ("nodegraph", &graph),
                ("output", &format!("{}_out", input.called)),
            ],
        );
    }
    doc.close("standard_surface");
    let moved = format!("{name}_displacement");
    if has("displacement") {
        doc.open("displacement", &[("name", &moved), ("type", "displacementshader")]);
        doc.empty(
            "input",
            &[("name", "displacement"), ("type", "float"), ("nodegraph", &graph), ("output", "displacement_out")],
        );
        // Heights are in millimetres.
        doc.empty(
            "input",
            &[("name", "scale"), ("type", "float"), ("value", "1"), ("unit", "millimeter"), ("unittype", "distance")],
        );
        doc.close("displacement");
    }
    doc.open("surfacematerial", &[("name", name), ("type", "material")]);
    doc.node("surfaceshader", "surfaceshader", &shader);
    if has("displacement") {
        doc.node("displacementshader", "displacementshader", &moved);
    }
    doc.close("surfacematerial");
}

/// The type that an input of the surface has.
fn output(input: &Input) -> &'static str {
    match (input.called, input.shape) {
        ("opacity", _) | (_, Shape::Color) => "color3",
        (_, Shape::Direction) => "vector3",
        _ => "float",
    }
}

/// Nodes that read an input out of its picture, to an output of the graph.
fn read(doc: &mut Doc, input: &Input, found: &Found, picture: &Picture, file: &str) {
    let name = input.called;
    let image = format!("{name}_image");
    // As many channels as the file has: one that is read as fewer would be refused by some.
    let kind = match (found.of, input.shape) {
        (1, _) => "float",
        (4, Shape::Color) => "color4",
        (_, Shape::Color) => "color3",
        (4, _) => "vector4",
        (3, _) => "vector3",
        _ => "vector2",
    };
    doc.open("image", &[("name", &image), ("type", kind)]);
    let space = match (found.encoded, picture.kind) {
        (true, _) => Some("srgb_texture"),
        (false, FileKind::Exr) if input.shape == Shape::Color => Some("lin_rec709"),
        _ => None,
    };
    let mut said = vec![("name", "file"), ("type", "filename"), ("value", file)];
    said.extend(space.map(|s| ("colorspace", s)));
    doc.empty("input", &said);
    doc.value("uaddressmode", "string", "periodic");
    doc.value("vaddressmode", "string", "periodic");
    doc.close("image");
    let mut last = image;
    let mut kind = kind;
    if input.shape == Shape::Number && found.of > 1 {
        let channel = format!("{name}_channel");
        doc.open("extract", &[("name", &channel), ("type", "float")]);
        doc.node("in", kind, &last);
        doc.value("index", "integer", &found.channel.to_string());
        doc.close("extract");
        (last, kind) = (channel, "float");
    }
    if kind == "color4" || kind == "vector4" {
        let three = format!("{name}_three");
        let to = if kind == "color4" { "color3" } else { "vector3" };
        doc.open("convert", &[("name", &three), ("type", to)]);
        doc.node("in", kind, &last);
        doc.close("convert");
        (last, kind) = (three, to);
    }
    if input.shape == Shape::Direction {
        // The node wants 0 to 1, as pictures of 8 and 16 bits hold it.
        if picture.kind == FileKind::Exr && found.scale == 1.0 {
            last = scaled(doc, name, "vector3", &last, 0.5, 0.5);
        }
        let turned = format!("{name}_normal");
        doc.open("normalmap", &[("name", &turned), ("type", "vector3")]);
        doc.node("in", "vector3", &last);
        doc.close("normalmap");
        last = turned;
    } else if (found.scale, found.bias) != (1.0, 0.0) {
        last = scaled(doc, name, kind, &last, found.scale, found.bias);
    }
    if name == "specular_rotation" {
        // A share of the whole turn.
        last = scaled(doc, "specular_turn", "float", &last, 1.0 / 360.0, 0.0);
    }
    if name == "opacity" {
        let three = "opacity_three";
        doc.open("convert", &[("name", three), ("type", "color3")]);
        doc.node("in", "float", &last);
        doc.close("convert");
        last = three.into();
    }
    doc.empty("output", &[("name", &format!("{name}_out")), ("type", output(input)), ("nodename", &last)]);
}

fn scaled(doc: &mut Doc, name: &str, kind: &str, of: &str, scale: f32, bias: f32) -> String {
    let (times, plus) = (format!("{name}_scaled"), format!("{name}_placed"));
    doc.open("multiply", &[("name", &times), ("type", kind)]);
    doc.node("in1", kind, of);
    doc.value("in2", "float", &scale.to_string());
    doc.close("multiply");
    doc.open("add", &[("name", &plus), ("type", kind)]);
    doc.node("in1", kind, &times);
    doc.value("in2", "float", &bias.to_string());
    doc.close("add");
    plus
}
