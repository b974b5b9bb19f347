//! The study: a board whose things hang together, a plan that is blocked in and measured against, notes that go where what they are on goes, and what a spot of a photograph says.

use std::collections::BTreeMap;

use crate::common::{coat, cube, document, evaluated, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{
    BoardItem, BoardKind, Document, Edit, Element, End, Lies, Noted, Whereabouts, apply, copied, label, limits,
};
use dustcoat_core::mask::Join;
use dustcoat_core::raster::picture::{Grid, Picture};
use dustcoat_core::raster::srgb::{decode, encode};
use dustcoat_core::raster::tone::Tone;
use dustcoat_core::recipe::package::{PackageLimits, Project, read_project, write_project};

fn element(name: &str, color: &str, place: Whereabouts, share: Option<f64>) -> Element {
    Element { name: name.into(), color: color.into(), place, share, ..Element::fresh(&[]) }
}

fn done(d: &Document, edits: &[Edit]) -> Document {
    edits.iter().fold(d.clone(), |d, e| apply(&d, e).unwrap())
}

fn plan(elements: Vec<Element>) -> Document {
    let edits: Vec<Edit> = elements.into_iter().map(|element| Edit::SetElement { element }).collect();
    done(&document(vec![]), &edits)
}

fn block_in(d: &Document) -> Document {
    let elements = d.study.plan.iter().map(|e| e.id.clone()).collect();
    done(d, &[Edit::BlockIn { elements }])
}

fn lies(x: f64, y: f64) -> Lies {
    Lies { at: [x, y], width: 200.0, turn: 0.0 }
}

fn picture(hash: &str, at: Lies) -> BoardItem {
    let kind = BoardKind::Picture {
        lies: at,
        hash: hash.into(),
        file: "flange.png".into(),
        size: [640, 480],
        crop: None,
        text: String::new(),
        palette: None,
    };
    BoardItem { id: String::new(), kind }
}

fn note(text: &str) -> BoardItem {
    BoardItem { id: String::new(), kind: BoardKind::Note { lies: lies(0.0, 0.0), text: text.into() } }
}

fn arrow(from: &str, to: &str) -> BoardItem {
    let end = |item: &str| End { item: Some(item.into()), at: [0.5, 0.5] };
    BoardItem { id: String::new(), kind: BoardKind::Arrow { from: end(from), to: end(to) } }
}

fn refused(d: &Document, edit: Edit) -> String {
    apply(d, &edit).unwrap_err().to_string()
}

#[test]
fn a_plan_is_blocked_in_with_as_much_of_each_as_was_planned() {
    let d = plan(vec![
        element("body", "#2f605a", Whereabouts::AllOver, Some(0.6)),
        element("recess grime", "#5c2a18", Whereabouts::Recesses, Some(0.12)),
        element("tops", "#cfc8b6", Whereabouts::Above, Some(0.2)),
        element("worn edges", "#9a9a94", Whereabouts::Edges, Some(0.08)),
        element("algae", "#2c3a1e", Whereabouts::Below, None),
        element("patches", "#a3532b", Whereabouts::Patches, Some(0.3)),
        Element { part: "+x".into(), ..element("one side", "#ffffff", Whereabouts::Part, None) },
    ]);
    let blocked = block_in(&d);
    let names: Vec<&str> = blocked.layers.iter().map(|l| l.name.as_str()).collect();
    let planned: Vec<&str> = d.study.plan.iter().map(|e| e.name.as_str()).collect();
    assert_eq!(names, planned, "from the bottom up, as the plan has them");
    let surface = Surface::new(cube(100.0), 128);
    let e = evaluated(&blocked, &surface);
    for (element, wanted) in blocked.study.plan.iter().zip([1.0, 0.12, 0.2, 0.08, 0.1, 0.3, 1.0 / 6.0]) {
        let id = element.layer.as_deref().expect("a layer answers it");
        let there = e.coverage.iter().find(|c| c.layer == id).expect("it is counted");
        assert!((there.mask - wanted).abs() < 0.012, "{}: {} of {wanted}", element.name, there.mask);
        let flat = blocked.layers.iter().find(|l| l.id == id).unwrap();
        let (finish, _) = flat.kind.finish().unwrap();
        assert_eq!(finish.channels["base_color"].settings["color"], element.color.as_str().into());
    }
    assert_eq!(block_in(&blocked), blocked, "what is answered is not laid again");
}

#[test]
fn a_row_that_comes_later_is_laid_between_its_neighbours_and_a_layer_that_goes_leaves_its_row() {
    let d = block_in(&plan(vec![
        element("body", "#2f605a", Whereabouts::AllOver, None),
        element("salt", "#cfc8b6", Whereabouts::Above, None),
    ]));
    // Something else lies on top by now.
    let top = Edit::AddLayer { inside: None, index: 2, layer: coat("", "#000000", vec![]), dials: vec![] };
    let rust = Edit::SetElement { element: element("rust", "#5c2a18", Whereabouts::Recesses, None) };
    let d = done(&d, &[top, rust]);
    let id = d.study.plan[2].id.clone();
    let d =
        done(&d, &[Edit::MoveElement { element: id.clone(), index: 1 }, Edit::BlockIn { elements: vec![id.clone()] }]);
    let names: Vec<&str> = d.layers.iter().map(|l| l.name.as_str()).collect();
    assert_eq!(names, ["body", "rust", "salt", "Coat "]);
    let layer = d.study.plan[1].layer.clone().unwrap();
    let without = done(&d, &[Edit::RemoveLayer { layer: layer.clone() }]);
    assert_eq!(without.study.plan[1].layer, None);
    // A part that is called otherwise is so in the plan as well.
    let of_part = Element { part: "+x".into(), ..element("side", "#ffffff", Whereabouts::Part, None) };
    let rename = Edit::SetPart { part: "+x".into(), was: "+x".into(), name: Some("Hatch".into()), color: None };
    let renamed = done(&d, &[Edit::SetElement { element: of_part }, rename]);
    assert_eq!(renamed.study.plan.last().unwrap().part, "Hatch");
    // A row that goes leaves its layer.
    let unplanned = done(&d, &[Edit::RemoveElement { element: id }]);
    assert!(unplanned.layers.iter().any(|l| l.id == layer));
    assert_eq!(Element::fresh(&d.study.plan).name, "element");
    assert_eq!(Element::fresh(&[element("element", "#ffffff", Whereabouts::AllOver, None)]).name, "element 2");
}

#[test]
fn the_first_row_laid_last_goes_below_the_others() {
    let d = plan(vec![
        element("body", "#2f605a", Whereabouts::AllOver, None),
        element("salt", "#cfc8b6", Whereabouts::Above, None),
    ]);
    let [body, salt] = [0, 1].map(|i| d.study.plan[i].id.clone());
    let d = done(&d, &[Edit::BlockIn { elements: vec![salt] }, Edit::BlockIn { elements: vec![body] }]);
    assert_eq!(d.layers.iter().map(|l| l.name.as_str()).collect::<Vec<_>>(), ["body", "salt"]);
}

#[test]
fn what_lies_on_the_board_is_changed_stacked_and_taken_off_with_its_arrows() {
    let d = document(vec![]);
    let put = Edit::PutOnBoard { items: vec![picture("aa", lies(0.0, 0.0)), note("salt only on tops")] };
    assert_eq!(label(&d, &put), "put 2 things on the board");
    let d = done(&d, &[put]);
    let d = done(&d, &[Edit::PutOnBoard { items: vec![arrow("b2", "b1")] }]);
    let ids: Vec<&str> = d.study.board.iter().map(|i| i.id.as_str()).collect();
    assert_eq!(ids, ["b1", "b2", "b3"]);
    let moved = BoardItem { id: "b1".into(), ..picture("aa", lies(40.0, -20.0)) };
    let change = Edit::PutOnBoard { items: vec![moved.clone()] };
    assert_eq!(label(&d, &change), "change a picture on the board");
    let d = done(&d, &[change, Edit::StackOnBoard { item: "b1".into(), index: 1 }]);
    assert_eq!(d.study.board[1], moved, "and its place in the stack is its own");
    assert_eq!(d.files(), [("aa", "flange.png")]);
    let off = Edit::TakeOffBoard { items: vec!["b2".into()] };
    assert_eq!(label(&d, &off), "take a note off the board");
    let d = done(&d, &[off]);
    assert_eq!(d.study.board, [moved], "the arrow went with the note that it came from");
}

#[test]
fn what_cannot_lie_on_a_board_or_stand_in_a_plan_is_refused_with_a_sentence() {
    let d = done(&document(vec![]), &[Edit::PutOnBoard { items: vec![note("here")] }]);
    let put = |item: BoardItem| Edit::PutOnBoard { items: vec![item] };
    assert!(refused(&d, put(arrow("b1", "b9"))).contains("thing on the board “b9”"));
    let d2 = done(&d, &[put(note("there")), put(arrow("b1", "b2"))]);
    assert!(refused(&d2, put(arrow("b1", "b3"))).contains("b3"), "no arrow points at an arrow");
    assert!(refused(&d, put(picture("aa", lies(f64::NAN, 0.0)))).contains("Place"));
    assert!(refused(&d, put(picture("aa", lies(2e5, 0.0)))).contains("100000 points"));
    assert!(refused(&d, put(picture("aa", Lies { width: 1.0, ..lies(0.0, 0.0) }))).contains("20 to 20000"));
    assert!(refused(&d, put(picture("aa", Lies { turn: 400.0, ..lies(0.0, 0.0) }))).contains("360 degrees"));
    assert!(refused(&d, put(picture("", lies(0.0, 0.0)))).contains("a file with its size"));
    let mut cropped = picture("aa", lies(0.0, 0.0));
    if let BoardKind::Picture { crop, .. } = &mut cropped.kind {
        *crop = Some([0.6, 0.0, 0.6, 1.0]);
    }
    assert!(refused(&d, put(cropped)).contains("Crop"));
    assert!(refused(&d, put(note(&"x".repeat(limits::WORDS + 1)))).contains("at most 2000 characters"));
    let many = Edit::PutOnBoard { items: vec![note("again"); limits::BOARD] };
    assert!(refused(&d, many).contains("the most is 1000"));
    assert!(refused(&d, Edit::TakeOffBoard { items: vec!["b7".into()] }).contains("b7"));

    let set = |e: Element| Edit::SetElement { element: e };
    let body = || element("body", "#2f605a", Whereabouts::AllOver, None);
    assert!(refused(&d, set(Element { name: " ".into(), ..body() })).contains("needs a name"));
    assert!(refused(&d, set(Element { color: "teal".into(), ..body() })).contains("#rrggbb"));
    assert!(refused(&d, set(Element { share: Some(1.2), ..body() })).contains("0 to 100 %"));
    assert!(refused(&d, set(Element { id: "e4".into(), ..body() })).contains("element of the plan “e4”"));
    assert!(refused(&d, Edit::BlockIn { elements: vec!["e4".into()] }).contains("e4"));
    let elsewhere = done(&d, &[set(Element { layer: Some("l44".into()), ..body() })]);
    assert_eq!(elsewhere.study.plan[0].layer, None, "a layer that isn't there answers nothing");
}

#[test]
fn a_board_goes_with_the_package_of_its_project() {
    let bytes = b"a picture as it came".to_vec();
    let hash = blake3::hash(&bytes).to_hex().to_string();
    let mesh = b"the mesh".to_vec();
    let mut d = done(&document(vec![]), &[Edit::PutOnBoard { items: vec![picture(&hash, lies(3.0, 4.0)), note("n")] }]);
    d.intake.mesh.file = "crate.glb".into();
    d.intake.mesh.hash = blake3::hash(&mesh).to_hex().to_string();
    let files = BTreeMap::from([(hash.clone(), bytes.clone()), (d.intake.mesh.hash.clone(), mesh)]);
    let packed = write_project(&Project { document: d.clone(), files }, None);
    let back = read_project(&packed, PackageLimits::default()).unwrap();
    assert_eq!(back.document.study, d.study);
    assert_eq!(back.files[&hash], bytes);
}

#[test]
fn notes_stand_on_layers_steps_and_dials_and_go_with_copies() {
    let clouds = step(Join::Replace, "perlin", &[]);
    let mut d = document(vec![coat("l1", "#3366cc", vec![clouds])]);
    let dial = Edit::MakeDial {
        target: crate::common::of_step("l1", "s1", "size"),
        label: "Wear".into(),
        group: String::new(),
        low: None,
        high: None,
    };
    d = done(&d, &[dial]);
    let dial = d.dials[0].id.clone();
    let on = |on: Noted, text: &str| Edit::SetNote { on, text: text.into() };
    let layer = || Noted::Layer { layer: "l1".into() };
    let step = || Noted::Step { layer: "l1".into(), step: "s1".into() };
    assert_eq!(label(&d, &on(step(), "")), "note on Clouds");
    let noted = done(
        &d,
        &[
            on(layer(), " thicker in the corners "),
            on(step(), "as large as a hand"),
            on(Noted::Dial { dial: dial.clone() }, "0.3 is a year"),
        ],
    );
    assert_eq!(noted.layers[0].note, "thicker in the corners");
    assert_eq!(noted.layers[0].mask.steps[0].note, "as large as a hand");
    assert_eq!(noted.dials[0].note, "0.3 is a year");
    let twice = done(&noted, &[Edit::DuplicateLayer { layer: "l1".into() }]);
    assert_eq!(twice.layers[1].note, "thicker in the corners");
    let text = copied(&noted, "l1").unwrap();
    let pasted = done(&document(vec![]), &[Edit::PasteLayer { inside: None, index: 0, copied: text }]);
    assert_eq!(pasted.layers[0].mask.steps[0].note, "as large as a hand");
    assert_eq!(done(&noted, &[on(layer(), "  ")]).layers[0].note, "");
    assert!(refused(&d, on(Noted::Dial { dial: "d9".into() }, "x")).contains("d9"));
    assert!(refused(&d, on(layer(), &"x".repeat(limits::WORDS + 1))).contains("at most 2000"));
    let surface = Surface::new(cube(50.0), 64);
    assert_eq!(evaluated(&noted, &surface).channels, evaluated(&d, &surface).channels, "words change no pixel");
}

#[test]
fn a_spot_is_the_mean_in_linear_light_and_a_named_grey_takes_the_lights_colour_out() {
    // One half in dark and light stripes, one half grey under a warm light, one corner clear.
    let (w, h) = (250u32, 250u32);
    let warm = [1.0, 0.8, 0.5];
    let grey = warm.map(|c| (encode(0.18 * c) * 255.0).round() as u8);
    let texel = |x: u32, y: u32| match (x < w / 2, x.is_multiple_of(2)) {
        (true, _) if y > 200 => [9, 9, 9, 0],
        (true, true) => [255, 255, 255, 255],
        (true, false) => [0, 0, 0, 255],
        (false, _) => [grey[0], grey[1], grey[2], 255],
    };
    let values = (0..h).flat_map(|y| (0..w).map(move |x| texel(x, y))).collect();
    let picture = Grid { width: w, height: h, values };
    let stripes = Tone::of(&picture, [0.25, 0.3]).unwrap();
    // Three columns: two of one kind and one of the other.
    let luminance = stripes.luminance();
    assert!((luminance - 1.0 / 3.0).abs() < 1e-3 || (luminance - 2.0 / 3.0).abs() < 1e-3, "{luminance}");
    assert_eq!(Tone::of(&picture, [0.1, 0.95]), None, "where it is clear there is no colour");
    let known = Tone::of(&picture, [0.8, 0.5]).unwrap();
    assert_eq!(known.color(), grey);
    let told = known.against(&known, 0.18);
    assert!((told.luminance() - 0.18).abs() < 1e-5);
    // What gives back half as much in red under the same light.
    let red = [0.09 * warm[0], 0.18 * warm[1], 0.18 * warm[2]];
    let told = Tone { linear: red }.against(&known, 0.18);
    for (got, want) in told.linear.iter().zip([0.09, 0.18, 0.18]) {
        assert!((got - want).abs() < 0.002, "{got} {want}");
    }
    assert!(Tone { linear: [0.5; 3] }.against(&Tone { linear: [0.0; 3] }, 0.18).luminance().is_finite());
}

#[test]
fn pictures_of_linear_floats_are_shown_encoded_and_large_ones_as_jpeg() {
    let mut exr = vec![];
    let floats = image::Rgb32FImage::from_pixel(64, 32, image::Rgb([0.18, 0.5, 1.0]));
    floats.write_to(&mut std::io::Cursor::new(&mut exr), image::ImageFormat::OpenExr).unwrap();
    let shown = Picture::decode("sky.exr", &exr).unwrap().shown(16);
    assert_eq!((shown.width, shown.height), (16, 8));
    for (c, v) in [0.18, 0.5, 1.0].into_iter().enumerate() {
        assert!((decode(f32::from(shown.values[5][c]) / 255.0) - v).abs() < 0.004, "{:?}", shown.values[5]);
    }
    let png = |clear: bool| {
        let mut out = vec![];
        let alpha = if clear { 128 } else { 255 };
        let to = &mut std::io::Cursor::new(&mut out);
        if clear {
            image::RgbaImage::from_pixel(40, 20, image::Rgba([10, 90, 200, alpha]))
                .write_to(to, image::ImageFormat::Png)
        } else {
            image::RgbImage::from_pixel(40, 20, image::Rgb([10, 90, 200])).write_to(to, image::ImageFormat::Png)
        }
        .unwrap();
        Picture::decode("a.png", &out).unwrap()
    };
    assert_eq!(png(true).jpeg(4096), None, "what is clear has no place in a JPEG");
    let jpeg = Picture::decode("a.jpg", &png(false).jpeg(20).unwrap()).unwrap();
    assert_eq!(jpeg.size(), [20, 10]);
    let [r, g, b, _] = jpeg.shown(20).values[55];
    assert!(r < 20 && (85..95).contains(&g) && (195..205).contains(&b), "{r} {g} {b}");
}
