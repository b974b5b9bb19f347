//! The buoy and the cleat, dressed: rope that sun and water have had, paint that lines wear through, and what the tide leaves.

use dustcoat_core::document::{Document, Layer};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::setting::{Drive, Value};
use serde_json::json;

use super::dressing::{
    clouds, color, dressed, driven, finish, invert, levels, outdoors, palette, parts, share, step, threshold, used,
    variant, within, written,
};
use crate::recipes::recipe;

/// Where a measurement says that it is narrow, as a mask.
fn narrow(black: f64, white: f64) -> [Step; 3] {
    [step(Join::Replace, 1.0, "occlusion", &[]), invert(), levels(black, white)]
}

fn rope() -> Layer {
    // Every strand has its own tone; the grain of its fibres is finer than one sees one by one.
    // Yarns twist against their strand: the strips of a rope stand upright in its sheet.
    let yarns = json!({"kind": "brushed", "settings": {"placement": "uv", "size": 2.2, "length": 160, "octaves": 2, "turn_z": -18}});
    let strands = written(json!({"name": "Strands", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "shell", "settings": {"seed": 6}}, "stops": [{"at": 0, "value": "#8f7346"}, {"at": 0.5, "value": "#a98c5b"}, {"at": 1, "value": "#bba16f"}]}}},
        "metallic": {"on": true, "settings": {"value": 0}},
        "roughness": {"on": true, "settings": {"value": 0.92}},
        "height": {"on": true, "settings": {"value": {"along": yarns, "stops": [{"at": 0.2, "value": -0.55}, {"at": 0.8, "value": 0.35}]}}}
    }}}));
    let yarn = written(json!({"name": "Yarns", "kind": "adjust", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"lightness": {"mask": {"kind": "brushed", "settings": yarns["settings"]}, "low": -0.17, "high": 0.13}}}
    }}}));
    let bleached = written(
        json!({"name": "Grey from the sun", "kind": "coat", "opacity": {"dial": "years", "low": 0.1, "high": 0.85}, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": {"along": {"kind": "perlin", "settings": {"size": 4, "octaves": 4}}, "stops": [{"at": 0, "value": "#8d877b"}, {"at": 1, "value": "#b9b4a6"}]}}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "facing", "join": "replace", "settings": {"direction": "up", "spread": 160}},
            {"id": "s2", "kind": "perlin", "join": "multiply", "amount": 0.6, "settings": {"size": 30, "octaves": 5}}
        ]}}),
    );
    let wet = written(
        json!({"name": "Dark where it was under water", "kind": "coat", "opacity": 0.75, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#3a3122"}}, "roughness": {"on": true, "settings": {"value": 0.7}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "altitude", "join": "replace", "settings": {"low": 100, "high": 250}},
            {"id": "s2", "kind": "invert"},
            {"id": "s3", "kind": "perlin", "join": "add", "amount": 0.4, "settings": {"size": 26, "octaves": 5}},
            {"id": "s4", "kind": "levels", "settings": {"black": 0.35, "white": 0.95}}
        ]}}),
    );
    let lay = written(json!({"name": "Dirt in the lay", "kind": "coat", "opacity": 0.85, "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": "#2b2317"}}, "roughness": {"on": true, "settings": {"value": 0.96}}
    }}}));
    let lay = within("Dirt in the lay", narrow(0.42, 0.95).to_vec(), lay);
    let fuzz = written(json!({"name": "Chafed fibres", "kind": "coat", "opacity": 0.8, "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": "#cdbd95"}}, "roughness": {"on": true, "settings": {"value": 1}},
        "height": {"on": true, "settings": {"value": 0.15}}
    }}, "mask": {"steps": [
        {"id": "s1", "kind": "occlusion", "join": "replace"},
        {"id": "s2", "kind": "levels", "settings": {"black": 0.72, "white": 0.95}},
        {"id": "s3", "kind": "fibres", "join": "multiply", "settings": {"length": 9, "width": 0.5}},
        {"id": "s4", "kind": "perlin", "join": "multiply", "settings": {"size": 45, "octaves": 4}},
        {"id": "s5", "kind": "levels", "settings": {"black": 0.08, "white": 0.4}}
    ]}}));
    written(json!({"name": "Rope", "kind": "group", "layers": [strands, yarn, bleached, wet, lay, fuzz]}))
}

/// The buoy: paint that rusts from within, rope that greys, what grows below the water line and dries above it.
pub fn buoy() -> Document {
    let upper = [
        step(Join::Replace, 1.0, "altitude", &[("low", 300.0.into()), ("high", 400.0.into())]),
        clouds(Join::Add, 0.04, 20.0, 4.0, 3.0),
        threshold(0.56.into(), 0.02),
        step(Join::Multiply, 1.0, "part", &[("part", "float".into())]),
    ];
    let chafe = [
        narrow(0.2, 0.62).as_slice(),
        &[
            clouds(Join::Multiply, 0.75, 12.0, 5.0, 8.0),
            threshold(driven("years", 0.62, 0.2), 0.12),
            step(Join::Multiply, 1.0, "part", &[("part", "float".into())]),
        ],
    ]
    .concat();
    let chafed = written(json!({"name": "Chafed by the harness", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "perlin", "settings": {"size": 7, "octaves": 5}}, "stops": [{"at": 0, "value": "#4a2c1b"}, {"at": 0.55, "value": "#6f4428"}, {"at": 1, "value": "#8b8178"}]}}},
        "metallic": {"on": true, "settings": {"value": {"along": {"kind": "perlin", "settings": {"size": 7, "octaves": 5}}, "stops": [{"at": 0.5, "value": 0}, {"at": 0.8, "value": 0.8}]}}},
        "roughness": {"on": true, "settings": {"value": 0.72}},
        "height": {"on": true, "settings": {"value": -0.25}}
    }}}));
    let scuffs = written(
        json!({"name": "Scuffs of boats", "kind": "coat", "opacity": {"dial": "years", "low": 0.02, "high": 0.8}, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#22262a"}}, "roughness": {"on": true, "settings": {"value": 0.65}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "scratches", "join": "replace", "settings": {"length": 90, "width": 2.6, "direction": 4, "spread": 14, "placement": "triplanar"}},
            {"id": "s2", "kind": "perlin", "join": "multiply", "settings": {"size": 120, "octaves": 3, "seed": 5}},
            {"id": "s3", "kind": "levels", "settings": {"black": 0.15, "white": 0.5}},
            {"id": "s4", "kind": "altitude", "join": "multiply", "settings": {"low": 160, "high": 260}},
            {"id": "s5", "kind": "part", "join": "multiply", "settings": {"part": "float"}}
        ]}}),
    );
    let rust = [
        step(Join::Replace, 1.0, "recesses", &[("radius", "medium".into())]),
        clouds(Join::Add, 0.8, 26.0, 6.0, 4.0),
        threshold(driven("years", 0.98, 0.42), 0.16),
        step(Join::Multiply, 1.0, "part", &[("part", "irons".into())]),
    ];
    let painted = |paint: dustcoat_core::setting::Param| {
        used(
            recipe("rust_from_within"),
            &[("Age", driven("years", 4.0, 74.0)), ("Runs", 70.0.into()), ("Paint", paint)],
        )
    };
    let layers = vec![
        within("Float, painted", parts(&["float"]), painted(Drive::plain("paint").into())),
        within("Upper half, white", upper.to_vec(), painted("#d3cdbc".into())),
        within("Chafed by the harness", chafe, chafed),
        scuffs,
        within("Rubbing band", parts(&["band"]), finish("rubber")),
        within("Irons, galvanised", parts(&["irons"]), finish("galvanised")),
        within("Rust on the irons", rust.to_vec(), finish("old_rust_film")),
        within("Rope", parts(&["rope"]), rope()),
        within(
            "Weed below the water line",
            parts(&["float", "band", "irons"]),
            used(
                recipe("algae_from_water"),
                &[
                    ("Water line", driven("water", 5.0, 60.0)),
                    ("Growth", driven("years", 10.0, 95.0)),
                    ("Barnacles", driven("years", 0.0, 55.0)),
                ],
            ),
        ),
        used(
            recipe("salt_and_gull"),
            &[("Gulls", driven("years", 0.0, 34.0)), ("Salt", driven("years", 5.0, 40.0)), ("Grime", 40.0.into())],
        ),
    ];
    let dials = vec![
        share("years", "Years afloat", "How far water, sun and boats have come with all of it.", 0.45),
        share("water", "Lies in the water", "Up to where weed grows on it.", 0.35),
        color("paint", "Paint", "#b4451d"),
    ];
    let at = Value::Number;
    let mut document = dressed("Buoy", layers, dials);
    document.variants = vec![
        variant("As found", None, &[("years", at(0.45)), ("water", at(0.35))]),
        variant("From the store", Some("As found"), &[("years", at(0.02)), ("water", at(0.0))]),
        variant("Drifted ashore", Some("As found"), &[("years", at(0.95)), ("water", at(0.6))]),
    ];
    outdoors(&mut document, "Twenty years on", 20.0);
    document.study.palettes = vec![palette("Sill marks", &[("#b4451d", 0.5), ("#d3cdbc", 0.3), ("#a98c5b", 0.2)])];
    document
}

/// The cleat: painted iron that lines keep bright where they turn, and rust below it.
pub fn dock_cleat() -> Document {
    let turned_round = [
        // Lines lie between the legs and below the horns, and run off over the ends.
        step(Join::Replace, 1.0, "facing", &[("direction", "up".into()), ("spread", 180.0.into())]),
        step(Join::Multiply, 1.0, "levels", &[("black", 0.3.into()), ("white", 0.95.into())]),
        step(Join::Add, 0.4, "edges", &[("radius", "broad".into())]),
        step(
            Join::Add,
            0.55,
            "perlin",
            &[
                ("size", 15.0.into()),
                ("octaves", 6.0.into()),
                ("gain", 0.6.into()),
                ("stretch_z", 3.0.into()),
                ("seed", 4.0.into()),
            ],
        ),
        step(Join::Multiply, 1.0, "part", &[("part", "cleat".into())]),
        threshold(driven("lines", 1.0, 0.66), 0.1),
    ];
    let bright = written(json!({"name": "Kept bright by lines", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "brushed", "settings": {"size": 1.2, "length": 40, "turn_y": 90}}, "stops": [{"at": 0, "value": "#7d776f"}, {"at": 1, "value": "#b8b1a7"}]}}},
        "metallic": {"on": true, "settings": {"value": 1}},
        "roughness": {"on": true, "settings": {"value": {"along": {"kind": "perlin", "settings": {"size": 8, "octaves": 5}}, "stops": [{"at": 0, "value": 0.2}, {"at": 1, "value": 0.42}]}}},
        // Lines have ground the skin of the casting off.
        "height": {"on": true, "settings": {"value": -0.3, "relief": "replaces"}}
    }}}));
    let rim = written(json!({"name": "Rust at its rim", "kind": "coat", "opacity": 0.9, "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "value", "settings": {"size": 1.8, "octaves": 4}}, "stops": [{"at": 0, "value": "#43220f"}, {"at": 1, "value": "#8b4f27"}]}}},
        "metallic": {"on": true, "settings": {"value": 0}}, "roughness": {"on": true, "settings": {"value": 0.92}},
        "height": {"on": true, "settings": {"value": 0.08}}
    }}, "mask": {"steps": [
        {"id": "s1", "kind": "follow", "join": "replace", "settings": {"name": "bright"}},
        {"id": "s2", "kind": "rim", "settings": {"side": "outside", "width": 3.5, "softness": 0.8}},
        {"id": "s3", "kind": "perlin", "join": "multiply", "settings": {"size": 11, "octaves": 6, "seed": 2}},
        {"id": "s4", "kind": "threshold", "settings": {"cut": 0.3, "softness": 0.25}},
        {"id": "s5", "kind": "part", "join": "multiply", "settings": {"part": "cleat"}}
    ]}}));
    let stain = written(
        json!({"name": "Stain on the plate", "kind": "coat", "opacity": {"dial": "years", "low": 0.1, "high": 0.8}, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#6f3d1c"}}, "roughness": {"on": true, "settings": {"value": 0.88}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "occlusion", "join": "replace"},
            {"id": "s2", "kind": "invert"},
            {"id": "s3", "kind": "levels", "settings": {"black": 0.25, "white": 0.7}},
            {"id": "s4", "kind": "perlin", "join": "multiply", "settings": {"size": 18, "octaves": 6, "seed": 9}},
            {"id": "s5", "kind": "levels", "settings": {"black": 0.1, "white": 0.45}},
            {"id": "s6", "kind": "part", "join": "multiply", "settings": {"part": "plate"}}
        ]}}),
    );
    let splashes = written(json!({"name": "Drops of somebody’s paint", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"dial": "drops"}}}, "metallic": {"on": true, "settings": {"value": 0}},
        "roughness": {"on": true, "settings": {"value": 0.35}}, "height": {"on": true, "settings": {"value": 0.3}}
    }}, "mask": {"steps": [
        {"id": "s1", "kind": "spots", "join": "replace", "settings": {"small": 1.5, "large": 13, "density": 0.3, "seed": 11}},
        {"id": "s2", "kind": "perlin", "join": "multiply", "settings": {"size": 120, "octaves": 2, "seed": 5}},
        {"id": "s3", "kind": "threshold", "settings": {"cut": {"dial": "years", "low": 0.66, "high": 0.4}, "softness": 0.05}},
        {"id": "s4", "kind": "facing", "join": "multiply", "settings": {"direction": "up", "spread": 120}}
    ]}}));
    let layers = vec![
        Layer { name: "Cast iron".into(), ..finish("cast_iron") },
        within(
            "Paint that rust lifts",
            parts(&["cleat", "plate"]),
            used(
                recipe("rust_from_within"),
                &[("Age", driven("years", 6.0, 80.0)), ("Runs", 25.0.into()), ("Paint", Drive::plain("paint").into())],
            ),
        ),
        within(
            "Bolts",
            parts(&["bolts"]),
            used(recipe("oxide_primer"), &[("Age", driven("years", 45.0, 100.0)), ("Primer", "#3a3d3f".into())]),
        ),
        Layer { publish: Some("bright".into()), ..within("Kept bright by lines", turned_round.to_vec(), bright) },
        rim,
        stain,
        splashes,
        written(
            json!({"name": "Dirt where it meets the plate", "kind": "coat", "opacity": 0.85, "finish": {"channels": {
                "base_color": {"on": true, "settings": {"color": "#2b2721"}}, "roughness": {"on": true, "settings": {"value": 0.95}}
            }}, "mask": {"steps": [
                {"id": "s1", "kind": "recesses", "join": "replace", "settings": {"radius": "broad"}},
                {"id": "s2", "kind": "levels", "settings": {"black": 0.1, "white": 0.6}},
                {"id": "s3", "kind": "perlin", "join": "multiply", "amount": 0.6, "settings": {"size": 12, "octaves": 5}}
            ]}}),
        ),
        used(
            recipe("salt_and_gull"),
            &[("Gulls", driven("years", 0.0, 8.0)), ("Salt", driven("years", 0.0, 16.0)), ("Grime", 30.0.into())],
        ),
    ];
    let dials = vec![
        share("years", "Years on the quay", "How far weather has come with all of it.", 0.5),
        share("lines", "Lines", "How much of it lines have kept bright.", 0.6),
        color("paint", "Paint", "#27424a"),
        color("drops", "Somebody’s paint", "#c9c2b0"),
    ];
    let at = Value::Number;
    let mut document = dressed("Dock cleat", layers, dials);
    document.variants = vec![
        variant("As found", None, &[("years", at(0.5)), ("lines", at(0.6))]),
        variant("Newly set", Some("As found"), &[("years", at(0.04)), ("lines", at(0.12))]),
        variant("Out of use", Some("As found"), &[("years", at(1.0)), ("lines", at(0.3))]),
    ];
    outdoors(&mut document, "Thirty years on", 30.0);
    document
}
