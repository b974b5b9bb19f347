//! Evaluation against a plain, unfused, double-precision account of what a document means, and against itself after changes.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::common::{
    add_box, coat, cube, document, evaluated, evaluated_with, group, numbers, of_channel, plate, step,
};
use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Dial, Document, Edit, Layer, LayerKind, apply, check};
use dustcoat_core::evaluate::{
    Cache, Context, EvaluateError, Evaluation, Measured, evaluate, evaluate_channels, mask, steps,
};
use dustcoat_core::mask::shaper::SHAPERS;
use dustcoat_core::mask::starter::STARTERS;
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::pattern::{Axes, PATTERNS};
use dustcoat_core::setting::{Drive, Param, Value};
use dustcoat_core::task::{Cancel, silent};
use proptest::prelude::*;

fn surface() -> Surface {
    Surface::new(cube(80.0), 128)
}

/// What a join means, from the table in the docs.
fn joined(join: Join, m: f64, f: f64) -> f64 {
    let v = match join {
        Join::Replace => f,
        Join::Multiply => m * f,
        Join::Add => m + f,
        Join::Subtract => m - f,
        Join::Max => m.max(f),
        Join::Min => m.min(f),
        Join::Screen => m + f - m * f,
        Join::Overlay if m <= 0.5 => 2.0 * m * f,
        Join::Overlay => 2.0 * (m + f - m * f) - 1.0,
    };
    v.clamp(0.0, 1.0)
}

fn number(step: &Step, key: &str, default: f64) -> f64 {
    match step.settings.get(key) {
        Some(Param::Const(Value::Number(n))) => *n,
        _ => default,
    }
}

/// The mask of a line of sources of position and of shapers, texel by texel.
fn account(steps: &[Step], altitude: f64) -> f64 {
    steps.iter().filter(|s| s.on).fold(1.0, |m, s| {
        let Param::Const(Value::Number(amount)) = s.amount else { panic!("plain amounts only") };
        let after = match s.kind.as_str() {
            "altitude" => {
                let (low, high) = (number(s, "low", 0.0), number(s, "high", 200.0));
                joined(s.join, m, ((altitude - low) / (high - low)).clamp(0.0, 1.0))
            }
            "even" => joined(s.join, m, number(s, "value", 0.5)),
            "invert" => 1.0 - m,
            "levels" => {
                let t = ((m - number(s, "black", 0.0)) / (number(s, "white", 1.0) - number(s, "black", 0.0)))
                    .clamp(0.0, 1.0);
                t.powf(1.0 / number(s, "gamma", 1.0))
            }
            "threshold" => {
                let (cut, width) = (number(s, "cut", 0.5), number(s, "softness", 0.1).max(1.0 / 256.0));
                let t = ((m - cut) / width + 0.5).clamp(0.0, 1.0);
                t * t * (3.0 - 2.0 * t)
            }
            other => panic!("no account of {other}"),
        };
        m + (after - m) * amount
    })
}

fn any_step() -> impl Strategy<Value = Step> {
    let joins = prop::sample::select(vec![
        Join::Replace,
        Join::Multiply,
        Join::Add,
        Join::Subtract,
        Join::Max,
        Join::Min,
        Join::Screen,
        Join::Overlay,
    ]);
    let kinds = prop::sample::select(vec!["altitude", "even", "invert", "levels", "threshold"]);
    (joins, kinds, 0.0..=1.0f64, 0.05..0.45f64, 0.55..1.0f64, any::<bool>()).prop_map(
        |(join, kind, amount, a, b, off)| {
            let settings: &[(&str, f64)] = match kind {
                "altitude" => &[("low", a * 80.0), ("high", b * 80.0)],
                "even" => &[("value", a)],
                "levels" => &[("black", a), ("white", b), ("gamma", 0.5 + a * 3.0)],
                "threshold" => &[("cut", a), ("softness", b)],
                _ => &[],
            };
            let settings: Vec<(&str, Param)> = settings.iter().map(|(k, v)| (*k, Param::from(*v))).collect();
            Step { on: !off || amount > 0.5, amount: amount.into(), ..step(join, kind, &settings) }
        },
    )
}

fn context<'a>(surface: &'a Surface, cache: &'a Cache, cancel: &'a Cancel) -> Context<'a> {
    Context { surface, measured: Measured::NONE, cache, cancel, progress: &silent }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn fused_lines_mean_what_their_steps_say(line in prop::collection::vec(any_step(), 0..9)) {
        let surface = surface();
        let (cache, cancel) = (Cache::new(1 << 26), Cancel::default());
        let d = document(vec![coat("l1", "#ffffff", line)]);
        let LayerKind::Coat { .. } = d.layers[0].kind else { unreachable!() };
        let (m, _) = mask(&d, "l1", &context(&surface, &cache, &cancel)).unwrap();
        for i in (0..m.len()).step_by(61) {
            let expected = account(&d.layers[0].mask.steps, f64::from(surface.atlas.py[i]) + 40.0);
            prop_assert!((f64::from(m[i]) - expected).abs() < 2e-4, "{} against {expected}", m[i]);
        }
    }

    #[test]
    fn a_starved_cache_and_another_number_of_threads_give_the_same_bytes(line in prop::collection::vec(any_step(), 1..5), threads in 1usize..5) {
        let surface = surface();
        let d = document(vec![coat("l1", "#336699", line), coat("l2", "#aa8844", vec![step(Join::Replace, "perlin", &[])])]);
        let plenty = evaluated(&d, &surface);
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        let starved = pool.install(|| evaluated_with(&d, &surface, &Cache::new(1000)));
        prop_assert_eq!(&plenty.channels, &starved.channels);
        prop_assert_eq!(plenty.coverage, starved.coverage);
    }
}

fn names(e: &Evaluation) -> Vec<&str> {
    e.computed.iter().map(String::as_str).collect()
}

/// Three coats with patterns of their own, the middle one driven by a dial.
fn three_coats() -> Document {
    let drive = Param::Drive(Drive::ranged("wear", 0.2, 0.8));
    let cloud = |seed: f64| step(Join::Replace, "perlin", &[("size", 20.0.into()), ("seed", seed.into())]);
    let mut d = document(vec![
        coat("l1", "#808080", vec![cloud(1.0)]),
        coat("l2", "#703010", vec![cloud(2.0), step(Join::Multiply, "threshold", &[("cut", drive)])]),
        coat("l3", "#d0d0c0", vec![cloud(3.0), step(Join::Multiply, "levels", &[("black", 0.4.into())])]),
    ]);
    d.dials = vec![Dial::number("wear", "Wear", "", (0.0, 1.0), 0.5)];
    d
}

#[test]
fn only_what_changed_is_computed_again() {
    let (surface, cache) = (surface(), Cache::new(1 << 28));
    let d = three_coats();
    assert!(names(&evaluated_with(&d, &surface, &cache)).len() > 8, "everything the first time");
    assert_eq!(names(&evaluated_with(&d, &surface, &cache)), Vec::<&str>::new(), "nothing when nothing changed");

    let turned = apply(&d, &Edit::TurnDial { layer: None, dial: "wear".into(), value: Value::Number(0.7) }).unwrap();
    let e = evaluated_with(&turned, &surface, &cache);
    let masks: Vec<&str> =
        names(&e).into_iter().filter(|n| n.starts_with("mask") || n.starts_with("pattern")).collect();
    assert_eq!(masks, ["mask of Coat l2"], "the dial's own mask, and its pattern is not sampled again");

    let target = of_channel("l3", "roughness", "value");
    let rougher = apply(&turned, &Edit::SetParam { target, value: Some(0.9.into()) }).unwrap();
    let state = ["state below Coat l3", "channel roughness"];
    assert_eq!(names(&evaluated_with(&rougher, &surface, &cache)), state, "what is changed once is likely to be again");
    let target = of_channel("l3", "roughness", "value");
    let smoother = apply(&turned, &Edit::SetParam { target, value: Some(0.1.into()) }).unwrap();
    assert_eq!(
        names(&evaluated_with(&smoother, &surface, &cache)),
        ["channel roughness"],
        "over the state that is kept"
    );

    let back = evaluated_with(&d, &surface, &cache);
    assert_eq!(names(&back), Vec::<&str>::new(), "the way back is remembered");
    assert_eq!(back.channels, evaluated(&d, &surface).channels, "and is what a cold evaluation gives");
}

#[test]
fn coats_lie_over_one_another_by_mask_and_opacity() {
    let surface = surface();
    let mut top = coat("l2", "#ffffff", vec![step(Join::Replace, "even", &[("value", 0.5.into())])]);
    top.opacity = 0.5.into();
    let e = evaluated(&document(vec![coat("l1", "#000000", vec![]), top]), &surface);
    let n = surface.atlas.len();
    assert!(
        e.channels["base_color"].iter().all(|c| (c - 0.25).abs() < 1e-5),
        "a quarter of white over black, in linear light"
    );
    assert!(e.channels["roughness"].iter().all(|r| (r - 0.25).abs() < 1e-5));
    assert_eq!(e.channels["base_color"].len(), 3 * n);
    assert!((e.coverage[1].visible - 0.25).abs() < 1e-4 && (e.coverage[1].mask - 0.5).abs() < 1e-4);
    assert!((e.coverage[0].visible - 0.75).abs() < 1e-4, "what the top leaves free");
}

#[test]
fn what_is_hidden_or_transparent_changes_nothing() {
    let surface = surface();
    let bottom = || coat("l1", "#204060", vec![step(Join::Replace, "perlin", &[])]);
    let plain = evaluated(&document(vec![bottom()]), &surface);
    let hidden = Layer { shown: false, ..coat("l2", "#ffffff", vec![]) };
    let clear = Layer { opacity: 0.0.into(), ..coat("l2", "#ffffff", vec![]) };
    let boxed = Layer { shown: false, ..group("l3", vec![coat("l2", "#ffffff", vec![])]) };
    for over in [hidden, clear, boxed] {
        let e = evaluated(&document(vec![bottom(), over]), &surface);
        assert_eq!(e.channels, plain.channels);
        assert_eq!(e.coverage[1].visible, 0.0);
    }
}

#[test]
fn a_group_passes_its_mask_and_opacity_on_to_what_it_holds() {
    let surface = surface();
    let half = || vec![step(Join::Replace, "altitude", &[("low", 20.0.into()), ("high", 60.0.into())])];
    let mut g = group("l1", vec![coat("l2", "#ffffff", vec![])]);
    g.mask.steps = half();
    g.mask.steps[0].id = "s1".into();
    g.opacity = 0.6.into();
    let grouped = evaluated(&document(vec![g]), &surface);
    let mut alone = coat("l2", "#ffffff", half());
    alone.opacity = 0.6.into();
    let alone = evaluated(&document(vec![alone]), &surface);
    assert_eq!(grouped.channels, alone.channels);
    assert!(
        (grouped.coverage[0].visible - alone.coverage[0].visible).abs() < 1e-6,
        "a group is seen as much as its layers"
    );
}

#[test]
fn tiles_show_the_same_mask_as_the_texture() {
    let (surface, cache, cancel) = (surface(), Cache::new(1 << 26), Cancel::default());
    let d = three_coats();
    let c = context(&surface, &cache, &cancel);
    let texels: Vec<u32> = (0..surface.atlas.len() as u32).step_by(7).collect();
    let tiles = steps::after_each(&d, "l2", &c, &texels, &surface.subset(&texels)).unwrap();
    assert_eq!(tiles.iter().map(|t| t.0.as_str()).collect::<Vec<_>>(), ["s1", "s2"]);
    let (whole, _) = mask(&d, "l2", &c).unwrap();
    let seen: Vec<f32> = texels.iter().map(|i| whole[*i as usize]).collect();
    assert_eq!(tiles[1].1, seen);
    let bins = steps::histogram(&surface, &whole, 16);
    assert!((bins.iter().sum::<f32>() - 1.0).abs() < 1e-4);
}

#[test]
fn it_says_which_reading_is_missing_and_stops_when_asked() {
    let surface = surface();
    let (cache, cancel) = (Cache::new(1 << 20), Cancel::default());
    let d = document(vec![coat("l1", "#ffffff", vec![step(Join::Replace, "edges", &[])])]);
    let answer = evaluate(&d, &context(&surface, &cache, &cancel));
    assert!(matches!(&answer, Err(EvaluateError::Missing(key)) if key.kind == "curvature"));
    assert!(answer.err().unwrap().to_string().contains("Surface room"));
    cancel.cancel();
    let d = document(vec![coat("l1", "#ffffff", vec![step(Join::Replace, "perlin", &[])])]);
    assert!(matches!(evaluate(&d, &context(&surface, &cache, &cancel)), Err(EvaluateError::Cancelled(_))));
}

#[test]
fn the_same_reading_with_other_settings_is_another_input() {
    let surface = surface();
    let d = document(vec![coat("l1", "#ffffff", vec![step(Join::Replace, "edges", &[])])]);
    let mut other = d.clone();
    other.readings =
        BTreeMap::from([("curvature".to_owned(), BTreeMap::from([("medium".to_owned(), Param::from(20.0))]))]);
    let cache = Cache::new(1 << 26);
    let (a, b) = (evaluated_with(&d, &surface, &cache), evaluated_with(&other, &surface, &cache));
    assert!(b.coverage[0].mask > a.coverage[0].mask * 1.5, "a larger radius reads wider edges");
}

#[test]
fn chroma_of_what_lies_below_tells_brass_from_iron() {
    let surface = Surface::new(plate(50.0), 32);
    let read = |color: &str| {
        let seen = coat("seen", "#000000", vec![step(Join::Replace, "below", &[("channel", "chroma".into())])]);
        evaluated(&document(vec![coat("metal", color, vec![]), seen]), &surface).coverage[1].mask
    };
    // OKLCH of sRGB by its definition, over 0.3.
    for (color, wanted) in
        [("#808080", 0.0), ("#ffffff", 0.0), ("#d2aa55", 0.378), ("#ff0000", 0.859), ("#0000ff", 1.0)]
    {
        assert!((read(color) - wanted).abs() < 0.01, "{color}: {} is not {wanted}", read(color));
    }
}

#[test]
fn a_mask_follows_another_and_knows_what_lies_below() {
    let surface = Surface::new(plate(50.0), 64);
    let part = |of: &str| step(Join::Replace, "gradient", &[("size", of.parse::<f64>().unwrap().into())]);
    let mut chips =
        coat("chips", "#804020", vec![part("50"), step(Join::Replace, "threshold", &numbers([("softness", 0.0)]))]);
    chips.publish = Some("chips".into());
    let named = |kind: &str, key: &'static str, name: &str| step(Join::Replace, kind, &[(key, Param::from(name))]);
    // The follower lies below what it follows.
    let rust = coat("rust", "#a05020", vec![named("follow", "name", "chips")]);
    let metal = coat("metal", "#808080", vec![part("50")]);
    let wear = coat("wear", "#ffffff", vec![named("below", "channel", "metallic")]);
    let dielectric = |mut l: Layer| {
        let LayerKind::Coat { finish } = &mut l.kind else { unreachable!() };
        finish.channels.remove("metallic");
        l
    };
    let d = document(vec![metal, dielectric(rust), dielectric(chips), wear]);
    assert!(check(&d).is_ok(), "{:?}", check(&d));
    let e = evaluated(&d, &surface);
    let share = |e: &Evaluation, id: &str| e.coverage.iter().find(|c| c.layer == id).unwrap().mask;
    assert!((share(&e, "rust") - share(&e, "chips")).abs() < 1e-6 && (share(&e, "rust") - 0.5).abs() < 0.02);
    assert!((share(&e, "wear") - share(&e, "metal")).abs() < 1e-3, "white as metallic as what lies below");
    // What is read changes when what it is read from does; a hidden layer's mask can still be followed.
    let mut other = d.clone();
    other.layers[2].mask.steps[1].settings.insert("cut".into(), 0.75.into());
    other.layers[2].shown = false;
    let e = evaluated(&other, &surface);
    assert!((share(&e, "rust") - 0.25).abs() < 0.02, "{}", share(&e, "rust"));
    other.layers[2].publish = None;
    assert_eq!(share(&evaluated(&other, &surface), "rust"), 0.0, "what is gone is nothing");

    // Circles are refused by name: directly, through two, and through what lies below.
    let refuse = |change: &dyn Fn(&mut Document)| {
        let mut d = d.clone();
        change(&mut d);
        check(&d).unwrap_err().to_string()
    };
    let own = refuse(&|d| d.layers[2].mask.steps.push(Step { id: "s9".into(), ..named("follow", "name", "chips") }));
    assert!(own.contains("Coat chips → Coat chips"), "{own}");
    let two = refuse(&|d| {
        d.layers[1].publish = Some("rust".into());
        d.layers[2].mask.steps.push(Step { id: "s9".into(), ..named("follow", "name", "rust") });
    });
    assert!(
        two.contains("Coat rust → Coat chips → Coat rust") || two.contains("Coat chips → Coat rust → Coat chips"),
        "{two}"
    );
    let below =
        refuse(&|d| d.layers[2].mask.steps.push(Step { id: "s9".into(), ..named("below", "channel", "metallic") }));
    assert!(below.contains("circle"), "chips lies on rust, which follows it: {below}");
    let twice = refuse(&|d| d.layers[0].publish = Some("chips".into()));
    assert!(twice.contains("Two layers publish"), "{twice}");
}

#[test]
fn a_line_with_whole_mask_steps_is_kept_step_by_step() {
    let surface = Surface::new(plate(50.0), 64);
    let steps = |cut: f64| {
        vec![
            step(Join::Replace, "perlin", &numbers([("size", 12.0)])),
            step(Join::Replace, "blur", &numbers([("radius", 2.0)])),
            step(Join::Replace, "threshold", &numbers([("cut", cut)])),
        ]
    };
    let cache = Cache::new(1 << 28);
    let first = evaluated_with(&document(vec![coat("a", "#ffffff", steps(0.5))]), &surface, &cache);
    assert!(first.computed.iter().any(|c| c.contains("a step of")), "{:?}", first.computed);
    let second = evaluated_with(&document(vec![coat("a", "#ffffff", steps(0.4))]), &surface, &cache);
    assert!(!second.computed.iter().any(|c| c.contains("step of") || c.contains("pattern")), "{:?}", second.computed);
    let fresh = evaluated(&document(vec![coat("a", "#ffffff", steps(0.4))]), &surface);
    assert_eq!(second.channels["base_color"], fresh.channels["base_color"], "kept or not, the same");
}

#[test]
fn a_tile_shows_what_the_mask_holds_there() {
    let surface = surface();
    let texels: Vec<u32> = (0..surface.atlas.len() as u32).step_by(13).collect();
    let subset = surface.subset(&texels);
    let cache = Cache::new(1 << 28);
    let (cancel, progress) = (Cancel::default(), silent);
    let context =
        Context { surface: &surface, measured: Measured::NONE, cache: &cache, cancel: &cancel, progress: &progress };
    let compare = |what: &str, steps: Vec<Step>| {
        let d = document(vec![coat("a", "#ffffff", steps)]);
        let whole = mask(&d, "a", &context).unwrap().0;
        let tiles = steps::after_each(&d, "a", &context, &texels, &subset).unwrap();
        let last = &tiles.last().unwrap().1;
        let off = texels.iter().zip(last).map(|(i, v)| (whole[*i as usize] - v).abs()).fold(0.0f32, f32::max);
        assert!(off < 1e-6, "{what}: off by {off}");
    };
    for pattern in PATTERNS {
        for placement in ["solid", "triplanar", "planar", "cylindrical", "radial", "uv"] {
            if pattern.axes == Axes::Two && placement == "solid" {
                continue;
            }
            let settings = [("placement", Param::from(placement)), ("warp", 3.0.into()), ("turn_y", 20.0.into())];
            compare(&format!("{} {placement}", pattern.kind), vec![step(Join::Replace, pattern.kind, &settings)]);
        }
    }
    for shaper in SHAPERS {
        let around = vec![
            step(Join::Replace, "perlin", &numbers([("size", 20.0)])),
            step(Join::Replace, shaper.kind, &[]),
            step(Join::Multiply, "worley", &[]),
        ];
        compare(shaper.kind, around);
    }
}

#[test]
fn the_mask_before_a_step_is_asked_for_where_the_step_cuts_it() {
    let surface = Surface::new(plate(50.0), 64);
    let d = document(vec![coat(
        "a",
        "#ffffff",
        vec![
            step(Join::Replace, "gradient", &numbers([("size", 50.0)])),
            step(Join::Replace, "invert", &[]),
            step(Join::Replace, "threshold", &numbers([("cut", 0.8)])),
        ],
    )]);
    let (cache, cancel, progress) = (Cache::new(1 << 24), Cancel::default(), silent);
    let context =
        Context { surface: &surface, measured: Measured::NONE, cache: &cache, cancel: &cancel, progress: &progress };
    let before = |id: &str| steps::before(&d, "a", id, &context).unwrap();
    assert!(before("s1").is_none() && before("s2").is_none() && before("s9").is_none());
    let ramp = before("s3").unwrap();
    let shares = steps::histogram(&surface, &ramp, 4);
    assert!(shares.iter().all(|s| (s - 0.25).abs() < 0.03), "a ramp, not what the cut leaves of it: {shares:?}");
}

#[test]
fn starters_make_something_of_a_piece() {
    // A post on a slab: edges, tops, and a hollow all round.
    let mut soup = Soup::default();
    add_box(&mut soup, [-60.0, 0.0, -60.0], [60.0, 12.0, 60.0], [0.0, 0.0, 0.5, 1.0]);
    add_box(&mut soup, [-14.0, 12.0, -14.0], [14.0, 90.0, 14.0], [0.5, 0.0, 1.0, 1.0]);
    let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 256);
    for starter in STARTERS {
        let mut layer = coat("a", "#ffffff", starter.steps());
        layer.name = starter.label.into();
        let e = evaluated(&document(vec![layer]), &surface);
        let covers = e.coverage[0].mask;
        assert!((0.001..0.9).contains(&covers), "{}: {covers}", starter.kind);
    }
}

/// One change of a line of five steps: which step, and what is done to it.
fn any_change() -> impl Strategy<Value = (usize, u8, u32)> {
    (0usize..5, 0u8..3, 0u32..4)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// Whatever is changed in whatever order: with a cache that has seen all of it, the pixels are those of a fresh one.
    #[test]
    fn a_cache_that_has_seen_much_gives_no_other_pixels(changes in prop::collection::vec(any_change(), 1..8)) {
        let surface = Surface::new(plate(40.0), 64);
        let cache = Cache::new(1 << 26);
        let mut base = coat("base", "#204060", vec![step(Join::Replace, "perlin", &numbers([("size", 9.0)])), step(Join::Replace, "threshold", &[])]);
        base.publish = Some("spots".into());
        let line = vec![
            step(Join::Replace, "follow", &[("name", "spots".into())]),
            step(Join::Replace, "grow", &numbers([("by", 1.0)])),
            step(Join::Multiply, "worley", &numbers([("size", 7.0)])),
            step(Join::Replace, "blur", &numbers([("radius", 1.0)])),
            step(Join::Max, "below", &[("channel", "roughness".into())]),
        ];
        let mut d = document(vec![base, coat("top", "#ffffff", line)]);
        for (at, what, by) in changes {
            match what {
                0 => d.layers[1].mask.steps[at].on ^= true,
                1 => d.layers[1].mask.steps[at].amount = (0.25 + 0.25 * f64::from(by)).into(),
                _ => _ = d.layers[0].mask.steps[1].settings.insert("cut".into(), (0.3 + 0.1 * f64::from(by)).into()),
            }
            let (kept, fresh) = (evaluated_with(&d, &surface, &cache), evaluated(&d, &surface));
            for (kind, plane) in &fresh.channels {
                prop_assert_eq!(&kept.channels[kind], plane, "{}", kind);
            }
            prop_assert_eq!(&kept.coverage, &fresh.coverage);
        }
    }
}

/// One change of a stack: which layer, what is done to it, and by how much.
fn any_move() -> impl Strategy<Value = (usize, u8, u32)> {
    (0usize..6, 0u8..6, 0u32..4)
}

/// Six coats and changes that overlap, some channels in some of them alone, one reading what lies below it.
fn stack() -> Vec<Layer> {
    let cloud = |seed: f64| step(Join::Replace, "perlin", &numbers([("size", 9.0), ("seed", seed)]));
    let cut = || step(Join::Replace, "threshold", &[]);
    let mut layers: Vec<Layer> =
        (0..6).map(|k| coat(&format!("c{k}"), "#204060", vec![cloud(f64::from(k)), cut()])).collect();
    for (k, color) in ["#204060", "#803010", "#e0e0d0", "#101010", "#40a080", "#f0c040"].into_iter().enumerate() {
        let LayerKind::Coat { finish } = &mut layers[k].kind else { continue };
        finish.channels.get_mut("base_color").unwrap().settings.insert("color".into(), color.into());
        let rough = finish.channels.get_mut("roughness").unwrap();
        (rough.on, _) = (k % 2 == 0, rough.settings.insert("value".into(), (0.15 * k as f64).into()));
    }
    layers[4].mask.steps.push(step(Join::Multiply, "below", &[("channel", "roughness".into())]));
    layers
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// Whatever is changed in whatever layer: laid over the state that is kept below it, the pixels are those of a stack that is laid anew.
    #[test]
    fn the_state_that_is_kept_below_a_layer_gives_no_other_pixels(moves in prop::collection::vec(any_move(), 1..12)) {
        let surface = Surface::new(plate(40.0), 48);
        let (cache, cancel) = (Cache::new(1 << 26), Cancel::default());
        let mut d = document(stack());
        for (at, what, by) in moves {
            let share = 0.2 + 0.25 * f64::from(by);
            match what {
                0 => d.layers[at].shown ^= true,
                1 => d.layers[at].opacity = share.into(),
                2 => d.layers.swap(at, by as usize),
                3 => _ = d.layers[at].mask.steps[1].settings.insert("cut".into(), share.into()),
                4 => {
                    let LayerKind::Coat { finish } = &mut d.layers[at].kind else { continue };
                    let color = ["#101010", "#d0d0d0", "#a02020", "#2020a0"][by as usize];
                    _ = finish.channels.get_mut("base_color").unwrap().settings.insert("color".into(), color.into());
                }
                _ => {
                    let LayerKind::Coat { finish } = &mut d.layers[at].kind else { continue };
                    finish.channels.get_mut("base_color").unwrap().on ^= true;
                }
            }
            let kept = evaluate_channels(&d, &context(&surface, &cache, &cancel)).unwrap();
            let fresh = evaluated(&d, &surface);
            prop_assert_eq!(kept.channels, fresh.channels);
        }
    }
}
