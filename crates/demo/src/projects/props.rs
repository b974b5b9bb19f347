//! The mooring post, the harbour lamp and the shutter, dressed: mostly with recipes of the cabinet, whose dials follow a few of the project's own.

use dustcoat_core::document::{Document, Layer};
use dustcoat_core::mask::{Join, Step};
use dustcoat_core::setting::{Drive, Value};
use serde_json::json;

use super::dressing::{
    clouds, color, dressed, driven, finish, outdoors, palette, parts, share, step, threshold, used, variant, within,
    written,
};
use crate::recipes::recipe;

/// The mooring post: cast iron under paint that rust lifts, bright where lines go round it, green up from the water.
pub fn mooring_post() -> Document {
    let painted = ["post", "cap", "eye"];
    let neck = [
        // Where lines lie: a band of the neck, more on its shoulders than in its middle.
        step(Join::Replace, 1.0, "altitude", &[("low", 190.0.into()), ("high", 420.0.into())]),
        step(
            Join::Multiply,
            1.0,
            "curve",
            &[
                ("at0", 0.0.into()),
                ("at25", 0.75.into()),
                ("at50", 1.0.into()),
                ("at75", 0.35.into()),
                ("at100", 0.0.into()),
            ],
        ),
        step(Join::Multiply, 1.0, "part", &[("part", "post".into())]),
        step(
            Join::Add,
            0.5,
            "perlin",
            &[
                ("size", 16.0.into()),
                ("octaves", 6.0.into()),
                ("stretch_x", 3.0.into()),
                ("stretch_z", 3.0.into()),
                ("seed", 4.0.into()),
            ],
        ),
        threshold(driven("lines", 1.0, 0.5), 0.14),
        step(Join::Multiply, 1.0, "part", &[("part", "post".into())]),
    ];
    let worn = written(json!({"name": "Worn by lines", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "brushed", "settings": {"size": 1.6, "length": 60, "turn_z": 90}}, "stops": [{"at": 0, "value": "#77716a"}, {"at": 1, "value": "#b5aea3"}]}}},
        "metallic": {"on": true, "settings": {"value": 1}},
        "roughness": {"on": true, "settings": {"value": {"along": {"kind": "perlin", "settings": {"size": 9, "octaves": 5}}, "stops": [{"at": 0, "value": 0.22}, {"at": 1, "value": 0.42}]}}}
    }}}));
    let stain = written(json!({"name": "Rust below the neck", "kind": "coat", "opacity": 0.7, "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": "#6b3719"}}, "roughness": {"on": true, "settings": {"value": 0.85}}
    }}, "mask": {"steps": [
        {"id": "s1", "kind": "follow", "join": "replace", "settings": {"name": "worn"}},
        {"id": "s2", "kind": "run", "settings": {"length": 120, "width": 4, "density": 0.45, "fade": 0.7, "keep": "streaks"}},
        {"id": "s3", "kind": "perlin", "join": "multiply", "amount": 0.6, "settings": {"size": 10, "octaves": 5}}
    ]}}));
    let links = written(json!({"name": "Links, each its own", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "shell", "settings": {"seed": 3}}, "stops": [{"at": 0, "value": "#4b2a18"}, {"at": 0.5, "value": "#74431f"}, {"at": 1, "value": "#8f5a30"}]}}},
        "metallic": {"on": true, "settings": {"value": 0.1}},
        "roughness": {"on": true, "settings": {"value": 0.9}},
        "height": {"on": true, "settings": {"value": {"along": {"kind": "billow", "settings": {"size": 2.6, "octaves": 4}}, "stops": [{"at": 0, "value": -0.25}, {"at": 1, "value": 0.3}]}}}
    }}}));
    let rubbed = written(
        json!({"name": "Rubbed where links touch", "kind": "coat", "opacity": 0.85, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#8a857e"}}, "metallic": {"on": true, "settings": {"value": 1}}, "roughness": {"on": true, "settings": {"value": 0.32}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "occlusion", "join": "replace"},
            {"id": "s2", "kind": "edges", "join": "add", "amount": 0.5, "settings": {"radius": "broad"}},
            {"id": "s3", "kind": "perlin", "join": "multiply", "amount": 0.7, "settings": {"size": 9, "octaves": 5}},
            {"id": "s4", "kind": "threshold", "settings": {"cut": 0.66, "softness": 0.2}}
        ]}}),
    );
    let chain = written(json!({"name": "Chain", "kind": "group", "layers": [links, rubbed]}));
    let layers = vec![
        Layer { name: "Cast iron".into(), ..finish("cast_iron") },
        within(
            "Paint that rust lifts",
            parts(&painted),
            used(
                recipe("rust_from_within"),
                &[("Age", driven("years", 15.0, 85.0)), ("Runs", 45.0.into()), ("Paint", Drive::plain("paint").into())],
            ),
        ),
        within(
            "Cap, painted white",
            parts(&["cap"]),
            used(
                recipe("rust_from_within"),
                &[("Age", driven("years", 8.0, 70.0)), ("Runs", 70.0.into()), ("Paint", "#cfcabb".into())],
            ),
        ),
        within(
            "Plate and bolts",
            parts(&["base plate", "bolts"]),
            used(recipe("oxide_primer"), &[("Age", driven("years", 40.0, 100.0))]),
        ),
        within("Chain", parts(&["chain"]), chain),
        Layer { publish: Some("worn".into()), ..within("Worn by lines", neck.to_vec(), worn) },
        stain,
        used(
            recipe("algae_from_water"),
            &[
                ("Water line", 26.0.into()),
                ("Growth", driven("algae", 0.0, 100.0)),
                ("Barnacles", driven("algae", 0.0, 60.0)),
            ],
        ),
        used(recipe("salt_and_gull"), &[("Gulls", driven("years", 5.0, 60.0)), ("Salt", driven("years", 10.0, 60.0))]),
    ];
    let dials = vec![
        share("years", "Years on the quay", "How far weather has come with all of it.", 0.55),
        share("lines", "Lines", "How much of the neck lines have worn bright.", 0.55),
        share("algae", "Algae", "How much grows up from the water.", 0.5),
        color("paint", "Paint", "#33393b"),
    ];
    let at = Value::Number;
    let mut document = dressed("Mooring post", layers, dials);
    document.variants = vec![
        variant("As found", None, &[("years", at(0.55)), ("lines", at(0.55)), ("algae", at(0.5))]),
        variant("Newly set", Some("As found"), &[("years", at(0.04)), ("lines", at(0.1)), ("algae", at(0.0))]),
        variant("Given up", Some("As found"), &[("years", at(1.0)), ("lines", at(0.25)), ("algae", at(0.95))]),
    ];
    outdoors(&mut document, "Thirty years on", 30.0);
    document.study.palettes = vec![palette("Quay irons", &[("#33393b", 0.5), ("#cfcabb", 0.3), ("#7f3b2b", 0.2)])];
    document
}

/// The harbour lamp: brass that was handled and went green, a lens that glows, rubber, rust on its bolts, soot on its cap.
pub fn harbour_lamp() -> Document {
    let brass = ["housing", "cap", "bail", "gland", "cage"];
    let glow = written(json!({"name": "Light within", "kind": "coat", "finish": {"channels": {
        "emissive": {"on": true, "settings": {"color": {"along": {"kind": "gradient", "settings": {"shape": "linear", "size": 130, "offset_y": -114}}, "stops": [{"at": 0, "value": "#7a3d10"}, {"at": 0.5, "value": "#ffcf8c"}, {"at": 1, "value": "#8a4c17"}]}}},
        "emissive_strength": {"on": true, "settings": {"value": {"dial": "lit", "low": 0.01, "high": 2.6}}}
    }}}));
    let bolts = written(json!({"name": "Rust on bolts, each its own", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "value", "settings": {"size": 2.2, "octaves": 4}}, "stops": [{"at": 0, "value": "#4a2212"}, {"at": 1, "value": "#96562a"}]}}},
        "metallic": {"on": true, "settings": {"value": 0}}, "roughness": {"on": true, "settings": {"value": 0.92}},
        "height": {"on": true, "settings": {"value": 0.12}}
    }}, "mask": {"steps": [
        {"id": "s1", "kind": "shell", "join": "replace", "settings": {"seed": 2}},
        {"id": "s2", "kind": "perlin", "join": "add", "amount": 0.7, "settings": {"size": 7, "octaves": 5}},
        {"id": "s3", "kind": "threshold", "settings": {"cut": {"dial": "years", "low": 0.95, "high": 0.35}, "softness": 0.15}},
        {"id": "s4", "kind": "part", "join": "multiply", "settings": {"part": "bolts"}}
    ]}}));
    let layers = vec![
        within(
            "Brass",
            parts(&brass),
            used(
                recipe("brass_handled"),
                &[("Tarnish", driven("years", 4.0, 92.0)), ("Handling", driven("years", 35.0, 60.0))],
            ),
        ),
        within("Bolts", parts(&["bolts"]), finish("bare_steel")),
        bolts,
        within("Rubber", parts(&["gasket", "cable"]), finish("rubber")),
        within("Lens", parts(&["lens"]), finish("lamp_glass")),
        within("Light within", parts(&["lens"]), glow),
        within(
            "Verdigris",
            parts(&brass),
            used(
                recipe("verdigris_runs"),
                &[("How much", driven("years", 0.0, 78.0)), ("Length of its runs", driven("years", 10.0, 60.0))],
            ),
        ),
        within(
            "Soot",
            parts(&["cap", "bail"]),
            used(recipe("soot_above_flame"), &[("Soot", driven("years", 5.0, 62.0)), ("Wiped", 55.0.into())]),
        ),
        used(
            recipe("salt_and_gull"),
            &[
                ("Gulls", driven("years", 0.0, 6.0)),
                ("Salt", driven("years", 0.0, 34.0)),
                ("Grime", driven("years", 15.0, 80.0)),
            ],
        ),
    ];
    let dials = vec![
        share("years", "Years on the sluice", "How far weather and hands have come with all of it.", 0.5),
        share("lit", "Lit", "How bright it burns.", 0.35),
    ];
    let at = Value::Number;
    let mut document = dressed("Harbour lamp", layers, dials);
    document.variants = vec![
        variant("As found", None, &[("years", at(0.5)), ("lit", at(0.35))]),
        variant("Polished", Some("As found"), &[("years", at(0.03)), ("lit", at(0.0))]),
        variant("Left out", Some("As found"), &[("years", at(1.0)), ("lit", at(0.0))]),
    ];
    outdoors(&mut document, "Forty years on", 40.0);
    document
}

/// The shutter: boards with their own grain, paint that peels off them, rust on its irons.
pub fn louvre_shutter() -> Document {
    let grain = |name: &str, along: &str, seed: u32| {
        let settings = json!({"size": 2.0, "octaves": 5, "gain": 0.6, along: 16, "seed": seed});
        let ramp = |low: &str, middle: &str, high: &str| json!({"along": {"kind": "perlin", "settings": settings}, "stops": [{"at": 0, "value": low}, {"at": 0.5, "value": middle}, {"at": 1, "value": high}]});
        written(json!({"name": name, "kind": "coat", "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": ramp("#5f574c", "#8b8376", "#a9a294")}},
            "metallic": {"on": true, "settings": {"value": 0}},
            "roughness": {"on": true, "settings": {"value": 0.9}},
            "height": {"on": true, "settings": {"value": {"along": {"kind": "perlin", "settings": settings}, "stops": [{"at": 0, "value": -0.2}, {"at": 1, "value": 0.2}]}}}
        }}}))
    };
    let checks = |name: &str, along: &str, seed: u32, mut where_at: Vec<Step>| {
        let settings =
            [("size", 24.0), ("width", 0.6), ("wander", 0.25), ("closed", 0.6), ("finer", 0.4), (along, 10.0)];
        let join = if where_at.is_empty() { Join::Replace } else { Join::Multiply };
        let mut cracks = step(join, 1.0, "cracks", &settings.map(|(key, value)| (key, value.into())));
        cracks.settings.insert("seed".into(), f64::from(seed).into());
        where_at.push(cracks);
        let laid = written(json!({"name": name, "kind": "coat", "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#2c2721"}}, "roughness": {"on": true, "settings": {"value": 0.95}},
            "height": {"on": true, "settings": {"value": -0.5}}
        }}}));
        within(name, where_at, laid)
    };
    let own = written(json!({"name": "Each board its own", "kind": "adjust", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"lightness": {"mask": {"kind": "shell", "settings": {"seed": 5}}, "low": -0.1, "high": 0.09}}}
    }}}));
    let across = ["rails", "slats"];
    let peeled = [
        step(Join::Replace, 1.0, "facing", &[("spread", 170.0.into())]),
        step(Join::Multiply, 1.0, "levels", &[("out_high", 0.4.into())]),
        step(Join::Add, 0.5, "edges", &[("radius", "broad".into())]),
        clouds(Join::Add, 0.7, 34.0, 6.0, 12.0),
        step(Join::Add, 0.2, "shell", &[("seed", 7.0.into())]),
        clouds(Join::Overlay, 0.5, 5.0, 4.0, 3.0),
        threshold(driven("sun", 1.0, 0.45), 0.03),
        step(Join::Multiply, 1.0, "invert", &[]),
    ];
    let paint = written(json!({"name": "Paint", "kind": "coat", "publish": "paint", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": {"along": {"kind": "perlin", "settings": {"size": 60, "octaves": 4, "seed": 2}}, "stops": [{"at": 0, "value": "#2f5663", "by": {"dial": "paint"}}, {"at": 1, "value": "#2f5663", "by": {"dial": "paint"}}]}}},
        "metallic": {"on": true, "settings": {"value": 0}},
        "roughness": {"on": true, "settings": {"value": {"along": {"kind": "perlin", "settings": {"size": 12, "octaves": 4}}, "stops": [{"at": 0, "value": 0.42}, {"at": 1, "value": 0.62}]}}},
        "height": {"on": true, "settings": {"value": 0.28}}
    }}}));
    let rim = written(json!({"name": "Chalky rim", "kind": "coat", "opacity": 0.85, "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": "#a9b3ae"}}, "roughness": {"on": true, "settings": {"value": 0.8}}, "height": {"on": true, "settings": {"value": 0.12}}
    }}, "mask": {"steps": [
        {"id": "s1", "kind": "follow", "join": "replace", "settings": {"name": "paint"}},
        {"id": "s2", "kind": "rim", "settings": {"side": "inside", "width": 1.2, "softness": 0.7}}
    ]}}));
    let bleached = written(
        json!({"name": "Bleached", "kind": "coat", "opacity": {"dial": "sun", "low": 0.05, "high": 0.6}, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#8fa7a6"}}, "roughness": {"on": true, "settings": {"value": 0.78}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "follow", "join": "replace", "settings": {"name": "paint"}},
            {"id": "s2", "kind": "facing", "join": "multiply", "settings": {"direction": "up", "spread": 150}},
            {"id": "s3", "kind": "perlin", "join": "multiply", "amount": 0.7, "settings": {"size": 40, "octaves": 5, "seed": 6}}
        ]}}),
    );
    let layers = vec![
        grain("Boards, upright", "stretch_y", 3),
        within("Boards, across", parts(&across), grain("", "stretch_x", 8)),
        own,
        checks("Checks along the stiles", "stretch_y", 4, vec![]),
        checks("Checks along rails and slats", "stretch_x", 9, parts(&across)),
        Layer { publish: Some("paint".into()), ..within("Paint", peeled.to_vec(), paint) },
        rim,
        bleached,
        within("Irons", parts(&["hinges", "latch"]), finish("cast_iron")),
        within(
            "Rust on the irons",
            parts(&["hinges", "latch"]),
            used(recipe("oxide_primer"), &[("Age", driven("sun", 55.0, 100.0)), ("Primer", "#26282a".into())]),
        ),
        written(json!({"name": "Dirt where boards meet", "kind": "coat", "opacity": 0.8, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": "#2a2620"}}, "roughness": {"on": true, "settings": {"value": 0.9}}
        }}, "mask": {"steps": [
            {"id": "s1", "kind": "occlusion", "join": "replace"},
            {"id": "s2", "kind": "invert"},
            {"id": "s3", "kind": "levels", "settings": {"black": 0.45, "white": 1}},
            {"id": "s4", "kind": "perlin", "join": "multiply", "amount": 0.6, "settings": {"size": 14, "octaves": 5}}
        ]}})),
        used(
            recipe("algae_from_water"),
            &[("Water line", 8.0.into()), ("Growth", driven("sun", 0.0, 70.0)), ("Barnacles", 0.0.into())],
        ),
    ];
    let dials = vec![
        share("sun", "Sun and rain", "How much of the paint they have taken, and what came of it.", 0.5),
        color("paint", "Paint", "#2f5663"),
    ];
    let at = Value::Number;
    let mut document = dressed("Louvre shutter", layers, dials);
    document.variants = vec![
        variant("As found", None, &[("sun", at(0.5))]),
        variant(
            "Painted last spring",
            Some("As found"),
            &[("sun", at(0.05)), ("paint", Value::Text("#6f2f26".into()))],
        ),
        variant("Never again", Some("As found"), &[("sun", at(0.95))]),
    ];
    outdoors(&mut document, "Twenty years on", 20.0);
    document
}
