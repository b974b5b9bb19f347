//! The demo pieces are what a good model is: solid, bevelled, unwrapped without overlap at one density; and the demo's dials do what they say.

use std::collections::HashMap;
use std::sync::Arc;

use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, Variant, apply};
use dustcoat_core::evaluate::{Cache, Context, Evaluation, MasksOf, Measured, evaluate, needs, needs_to_look_at};
use dustcoat_core::mesh::Piece;
use dustcoat_core::setting::Value;
use dustcoat_core::task::{Cancel, silent};
use dustcoat_demo::kit::smooth;
use dustcoat_demo::pieces::post;
use dustcoat_demo::{PIECES, piece, projects};
use glam::{Mat2, Vec2, Vec3};

fn at(piece: &Piece, v: u32) -> Vec3 {
    Vec3::from(piece.positions[v as usize])
}

/// Edges as pairs of positions to 2 µm, each with the triangles that run along it and whether they run from the lesser end.
fn edges(piece: &Piece) -> HashMap<[[i64; 3]; 2], Vec<(usize, bool)>> {
    let key = |v: u32| piece.positions[v as usize].map(|x| (f64::from(x) * 500.0).round() as i64);
    let mut out: HashMap<_, Vec<_>> = HashMap::new();
    for (t, tri) in piece.triangles.iter().enumerate() {
        for k in 0..3 {
            let (a, b) = (key(tri[k]), key(tri[(k + 1) % 3]));
            out.entry(if a < b { [a, b] } else { [b, a] }).or_default().push((t, a < b));
        }
    }
    out
}

#[test]
fn they_are_solid_and_wound_one_way() {
    for demo in PIECES {
        let piece = demo.imported();
        let all = edges(&piece);
        let twisted = all.values().filter(|e| e.len() == 2 && e[0].1 == e[1].1).count();
        assert_eq!(twisted, 0, "{}: triangles that meet are wound alike", demo.name);
        // Ends that are sunk into another part are left open; a single shell has none.
        let open = all.values().filter(|e| e.len() == 1).count() as f64 / all.len() as f64;
        assert!(open < if piece.shells == 1 { 1e-9 } else { 0.06 }, "{}: {open} of its edges are open", demo.name);
        let volume: f64 = piece
            .triangles
            .iter()
            .map(|t| {
                let [a, b, c] = t.map(|v| at(&piece, v).as_dvec3());
                a.dot(b.cross(c)) / 6.0
            })
            .sum();
        assert!(volume > 0.0, "{} faces outwards: {volume} mm³", demo.name);
    }
}

#[test]
fn their_normals_agree_with_their_faces() {
    for demo in PIECES {
        let piece = demo.imported();
        for t in &piece.triangles {
            let [a, b, c] = t.map(|v| at(&piece, v));
            let face = (b - a).cross(c - a).normalize();
            for v in t {
                let n = Vec3::from(piece.normals[*v as usize]);
                assert!((n.length() - 1.0).abs() < 1e-3, "{}", demo.name);
                assert!(n.dot(face) > 0.3, "{}: a normal points away from its face", demo.name);
            }
        }
    }
}

#[test]
fn no_edge_is_knife_sharp() {
    for demo in PIECES {
        let piece = demo.imported();
        let face = |t: usize| {
            let [a, b, c] = piece.triangles[t].map(|v| at(&piece, v));
            (b - a).cross(c - a).normalize()
        };
        let sharp = edges(&piece).values().filter(|e| e.len() == 2 && face(e[0].0).dot(face(e[1].0)) < 0.25).count();
        let share = sharp as f64 / edges(&piece).len() as f64;
        assert!(share < 0.02, "{}: {:.2} % of its edges are sharper than 75°", demo.name, share * 100.0);
    }
}

/// The share of a piece's surface whose UVs are longer in one direction than in the other by more than that.
fn stretched(piece: &Piece, by: f32) -> f32 {
    let (mut over, mut all) = (0.0, 0.0);
    for t in &piece.triangles {
        let [a, b, c] = t.map(|v| at(piece, v));
        let [p, q, r] = t.map(|v| Vec2::from(piece.uvs[v as usize]));
        let normal = (b - a).cross(c - a);
        let x = (b - a).normalize();
        let y = normal.normalize().cross(x);
        let flat = |v: Vec3| Vec2::new(v.dot(x), v.dot(y));
        let map = Mat2::from_cols(q - p, r - p) * Mat2::from_cols(flat(b - a), flat(c - a)).inverse();
        // Singular values of the map from the triangle to the square.
        let (e, g) = (map.x_axis.length_squared(), map.y_axis.length_squared());
        let (middle, f) = ((e + g) / 2.0, map.x_axis.dot(map.y_axis));
        let spread = ((e - g).powi(2) / 4.0 + f * f).sqrt();
        all += normal.length();
        if middle + spread > by * by * (middle - spread).max(0.0) {
            over += normal.length();
        }
    }
    over / all
}

#[test]
fn they_are_unwrapped_without_overlap_at_one_density() {
    for demo in PIECES {
        let piece = demo.imported();
        let grave: Vec<_> = piece.findings.iter().filter(|f| f.serious).collect();
        let sheets = if ["buoy", "harbour-lamp"].contains(&demo.key) { 2 } else { 1 };
        assert!(grave.is_empty() && piece.sheets.len() == sheets, "{}: {grave:?}", demo.name);
        let surface = Surface::new(Arc::clone(&piece), 512);
        assert_eq!(surface.atlas.overlaps.len(), 0, "{}", demo.name);
        let used = surface.atlas.len() as f64 / (512.0 * 512.0 * sheets as f64);
        assert!(used > 0.47, "{} uses {:.0} % of its square", demo.name, used * 100.0);
        let stretched = stretched(&piece, 1.6);
        assert!(stretched < 0.035, "{}: {:.1} % is stretched by more than 1.6", demo.name, stretched * 100.0);
        // Area per texel, of texels inside a chart: the middle 90 % lie within a factor of three.
        let mut areas: Vec<f32> = surface.atlas.area.iter().copied().filter(|a| *a > 0.0).collect();
        areas.sort_by(f32::total_cmp);
        let (low, high) = (areas[areas.len() / 20], areas[areas.len() * 19 / 20]);
        assert!(high / low < 3.0, "{}: {low} to {high} mm² a texel", demo.name);
    }
}

#[test]
fn the_gate_valve_has_what_it_is_told_by() {
    let valve = piece("gate-valve").expect("it is there").imported();
    assert!((20_000..=80_000).contains(&valve.triangles.len()));
    let parts: Vec<&str> = valve.parts.iter().map(|p| p.name.as_str()).collect();
    for part in ["body", "handwheel", "bolts", "name plate"] {
        assert!(parts.contains(&part), "{part} in {parts:?}");
    }
    let bolts = valve.part_named("bolts").expect("it has bolts");
    let mut shells: Vec<u32> =
        (0..valve.triangles.len()).filter(|t| valve.part_of[*t] == bolts).map(|t| valve.shell_of[t]).collect();
    shells.sort_unstable();
    shells.dedup();
    assert!(shells.len() >= 12, "{} bolts", shells.len());
    assert!(valve.max[1] - valve.min[1] > 200.0, "as large as a valve is: {:?} to {:?}", valve.min, valve.max);
}

#[test]
fn an_id_picture_tells_the_parts_of_the_buoy_as_they_were_built() {
    let buoy = piece("buoy").expect("it is there");
    let (built, told) = ((buoy.build)(), buoy.imported());
    let names = |p: &Piece| {
        let mut names: Vec<String> = p.parts.iter().map(|p| p.name.clone()).collect();
        names.sort();
        names
    };
    assert_eq!(names(&told), names(&built));
    let areas = |p: &Piece, name: &str| p.parts.iter().find(|q| q.name == name).map_or(0.0, |q| q.area);
    for name in names(&built) {
        let (a, b) = (areas(&told, &name), areas(&built, &name));
        assert!((a / b - 1.0).abs() < 0.02, "{name}: {a} mm² of {b}");
    }
}

#[test]
fn the_cleat_is_of_few_polygons_and_shaded_smooth() {
    let cleat = piece("dock-cleat").expect("it is there").imported();
    assert!(cleat.triangles.len() < 3200, "{}", cleat.triangles.len());
    // The normals of what is round stand off its faces by half of what one turns against the next.
    let cast = cleat.part_named("cleat").expect("its bar and legs");
    let (mut round, mut all) = (0.0, 0.0);
    for (t, _) in cleat.triangles.iter().zip(&cleat.part_of).filter(|(_, part)| **part == cast) {
        let [a, b, c] = t.map(|v| at(&cleat, v));
        let face = (b - a).cross(c - a);
        let off = t.iter().map(|v| face.normalize().dot(Vec3::from(cleat.normals[*v as usize]))).fold(1.0, f32::min);
        all += face.length();
        round += if off < 0.985 { face.length() } else { 0.0 };
    }
    assert!(round / all > 0.8, "{} of it is shaded as if it were round", round / all);
}

#[test]
fn they_are_built_the_same_every_time() {
    for demo in PIECES {
        assert_eq!(demo.file(), demo.file(), "{}", demo.name);
        assert!(piece(demo.key).is_some_and(|p| p.name == demo.name) && !demo.note.is_empty());
    }
    assert!(piece("anchor").is_none());
}

struct Dressed {
    surface: Surface,
    document: Document,
    readings: Measured,
    cache: Cache,
}

impl Dressed {
    fn new(key: &str, document: Document, size: u32) -> Dressed {
        let surface = Surface::new(piece(key).expect("it is there").imported(), size);
        let keys = needs_to_look_at(&document, &surface.piece, MasksOf::All);
        let readings = Measured::take(&keys, &surface, &Cancel::default(), &silent).expect("nobody stops it");
        Dressed { surface, document, readings, cache: Cache::new(1 << 28) }
    }

    fn turned(&self, dial: &str, value: Value) -> Evaluation {
        let edit = Edit::TurnDial { layer: None, dial: dial.into(), value };
        let document = apply(&self.document, &edit).expect("the dial is there");
        let cancel = Cancel::default();
        let context = Context {
            surface: &self.surface,
            measured: &self.readings,
            cache: &self.cache,
            cancel: &cancel,
            progress: &silent,
        };
        evaluate(&document, &context).expect("the demo can be evaluated")
    }
}

fn visible(e: &Evaluation, name: &str) -> f64 {
    e.coverage.iter().find(|c| c.name == name).unwrap_or_else(|| panic!("{name} is a layer")).visible
}

#[test]
fn wear_wears_the_paint_and_lets_rust_come() {
    let dressed = Dressed::new("gate-valve", projects::gate_valve(), 256);
    let at = |wear: f64| dressed.turned("wear", Value::Number(wear));
    let steps: Vec<Evaluation> = [0.0, 0.25, 0.5, 0.75, 1.0].into_iter().map(at).collect();
    let falling: Vec<f64> = steps.iter().map(|e| visible(e, "Dock paint")).collect();
    let rising: Vec<f64> = steps.iter().map(|e| visible(e, "Recess rust")).collect();
    assert!(falling.windows(2).all(|w| w[1] < w[0]), "{falling:?}");
    assert!(rising.windows(2).all(|w| w[1] > w[0]), "{rising:?}");
    assert!(falling[0] > 0.6 && falling[4] < 0.35, "from nearly new to nearly bare: {falling:?}");
    for e in &steps {
        let coats: f64 = e.coverage.iter().map(|c| c.visible).sum();
        assert!((coats - 1.0).abs() < 1e-3, "the steel lies everywhere, so all is covered once: {coats}");
    }
}

#[test]
fn the_other_dials_move_what_they_name() {
    let dressed = Dressed::new(
        "swatch-tile",
        Document {
            layers: projects::dock_paint().layers,
            dials: projects::dock_paint().dials,
            ..projects::swatch_tile()
        },
        128,
    );
    let number = |dial: &str, v: f64| dressed.turned(dial, Value::Number(v));
    assert_eq!(visible(&number("salt", 0.0), "Salt bloom"), 0.0);
    assert!(visible(&number("salt", 1.0), "Salt bloom") > 0.05);
    assert_eq!(visible(&number("grime", 0.0), "Grime"), 0.0);
    let mean = |color: &str| {
        let e = dressed.turned("paint", Value::Text(color.into()));
        let n = dressed.surface.atlas.len();
        [0, 1, 2].map(|k| e.channels["base_color"][k * n..(k + 1) * n].iter().sum::<f32>() / n as f32)
    };
    let (red, blue) = (mean("#a01010"), mean("#1020b0"));
    assert!(red[0] > 2.0 * blue[0] && blue[2] > 2.0 * red[2], "{red:?} against {blue:?}");
}

#[test]
fn years_outdoors_lay_nothing_at_none_and_age_every_piece() {
    let dressed = PIECES.iter().map(|p| (p.key, p.document(true))).filter(|(_, d)| !d.variants.is_empty());
    let mut all = 0;
    for (key, document) in dressed {
        all += 1;
        let turns = |v: &Variant| v.values.get("outdoors").cloned();
        let (found, later) = (document.variants.first().and_then(turns), document.variants.last().and_then(turns));
        let Some(Value::Number(years)) = later else { panic!("{key}: the last variant says how many years") };
        assert_eq!(found, Some(Value::Number(0.0)), "{key}: at first it is as it was found");
        let dressed = Dressed::new(key, document, 128);
        // Nothing of the weather is measured before it is shown.
        let kinds = |d: &Document| -> Vec<&str> { needs(d, &dressed.surface.piece).iter().map(|k| k.kind).collect() };
        assert!(!kinds(&dressed.document).contains(&"flow"), "{key}");
        let edit = Edit::TurnDial { layer: None, dial: "outdoors".into(), value: Value::Number(years) };
        let turned = kinds(&apply(&dressed.document, &edit).expect("the dial is there"));
        assert!(["flow", "sun", "dust"].iter().all(|k| turned.contains(k)), "{key}: {turned:?}");
        let [new, old] = [0.0, years].map(|y| dressed.turned("outdoors", Value::Number(y)));
        let over = &dressed.document.layers.last().expect("it has layers").id;
        let laid = |e: &Evaluation| e.coverage.iter().find(|c| c.layer == *over).map(|c| c.visible);
        assert!(laid(&new) == Some(0.0) && laid(&old).is_some_and(|v| v > 0.1), "{key}: {:?}", laid(&old));
        let (a, b) = (&new.channels["base_color"], &old.channels["base_color"]);
        let changed = a.iter().zip(b.iter()).filter(|(a, b)| (*a - *b).abs() > 0.02).count();
        assert!(changed * 5 > a.len(), "{key}: {changed} of {} numbers", a.len());
    }
    assert_eq!(all, 6);
}

#[test]
fn a_link_closes_and_a_smooth_path_goes_through_its_points() {
    let path = post::link();
    let longest = (0..path.len()).map(|i| path[i].distance(path[(i + 1) % path.len()])).fold(0.0, f32::max);
    assert!(longest < 27.0, "no gap is longer than a straight: {longest}");
    let through = [Vec3::ZERO, Vec3::X, Vec3::new(2.0, 1.0, 0.0)];
    let smoothed = smooth(&through, 4, false);
    assert!(smoothed.len() == 9 && through.iter().all(|p| smoothed.iter().any(|q| q.distance(*p) < 1e-6)));
}
