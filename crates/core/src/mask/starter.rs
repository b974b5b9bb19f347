//! Starters: ready mask lines, built from ordinary steps, good out of the box and open to change. One entry each in [`STARTERS`].
//!
//! Lengths are meant for a piece about as large as a gate valve; readings bring their own radii, which follow the piece.

use serde_json::{Value, json};

use super::{MaskLine, Step};
use crate::setting::{DialStates, Param, ParamSpec, resolve_one};

/// A line that goes its own way: what dials drive stands where they stand, its steps have no ids, and what was drawn stays with its piece.
pub fn by_itself(line: &MaskLine, dials: &DialStates) -> Vec<Step> {
    let settle = |spec: &ParamSpec, param: &mut Param| {
        if param.drive().is_some() {
            *param = Param::Const(resolve_one(spec, Some(param), dials));
        }
    };
    let mut steps = line.steps.clone();
    for step in &mut steps {
        step.id.clear();
        step.leave_bare();
        step.each_param(&mut |spec, param| settle(spec, param));
    }
    steps
}

/// A ready mask line.
pub struct Starter {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    line: fn() -> Value,
}

impl Starter {
    /// Its steps; the first takes the mask's place.
    pub fn steps(&self) -> Vec<Step> {
        serde_json::from_value((self.line)()).expect("starters are written right, as a test tells")
    }
}

/// All starters.
pub static STARTERS: &[Starter] = &[
    Starter {
        kind: "bare_edges",
        label: "Bare edges",
        help: "Edges rubbed down to the metal, unevenly.",
        line: || {
            json!([
                {"kind": "edges", "join": "replace", "settings": {"radius": "medium"}},
                {"kind": "perlin", "join": "overlay", "amount": 0.75, "settings": {"size": 26, "octaves": 6, "gain": 0.62}},
                {"kind": "threshold", "settings": {"cut": 0.24, "softness": 0.1}}
            ])
        },
    },
    Starter {
        kind: "rubbed_corners",
        label: "Rubbed corners",
        help: "Only what stands out furthest, softly polished by hands.",
        line: || {
            json!([
                {"kind": "edges", "join": "replace", "settings": {"radius": "broad"}},
                {"kind": "levels", "settings": {"black": 0.18, "white": 0.5, "gamma": 0.9}},
                {"kind": "simplex", "join": "multiply", "amount": 0.5, "settings": {"size": 70, "octaves": 3, "contrast": 1.5}},
                {"kind": "blur", "settings": {"radius": 1.5}}
            ])
        },
    },
    Starter {
        kind: "recess_grime",
        label: "Recess grime",
        help: "Dirt that has gathered where no cloth comes: inner corners, the feet of bolts.",
        line: || {
            json!([
                {"kind": "recesses", "join": "replace", "settings": {"radius": "medium"}},
                {"kind": "levels", "settings": {"black": 0.03, "white": 0.34, "gamma": 1.3}},
                {"kind": "occlusion", "join": "subtract", "amount": 0.25},
                {"kind": "perlin", "join": "multiply", "amount": 0.55, "settings": {"size": 18, "octaves": 6, "gain": 0.6}},
                {"kind": "levels", "settings": {"black": 0.05, "white": 0.55}}
            ])
        },
    },
    Starter {
        kind: "dust_above",
        label: "Dust from above",
        help: "Settled dust on all that looks up and lies sheltered, thinner where it is rubbed off.",
        line: || {
            json!([
                {"kind": "facing", "join": "replace"},
                {"kind": "levels", "settings": {"black": 0.25, "white": 0.95, "gamma": 0.8}},
                {"kind": "edges", "join": "subtract", "amount": 0.8, "settings": {"radius": "medium"}},
                {"kind": "perlin", "join": "multiply", "amount": 0.45, "settings": {"size": 55, "octaves": 7, "gain": 0.58}},
                {"kind": "levels", "settings": {"black": 0.06, "white": 0.72}}
            ])
        },
    },
    Starter {
        kind: "ground_splash",
        label: "Splash from the ground",
        help: "Mud thrown up from what it stands on: a closed coat below, drops above.",
        line: || {
            json!([
                {"kind": "ground", "join": "replace"},
                {"kind": "perlin", "join": "overlay", "amount": 0.6, "settings": {"size": 45, "octaves": 5}},
                {"kind": "threshold", "settings": {"cut": 0.5, "softness": 0.35}},
                {"kind": "spots", "join": "max", "amount": 0.9, "settings": {"small": 0.8, "large": 9, "density": 0.3}},
                {"kind": "ground", "join": "multiply"},
                {"kind": "levels", "settings": {"black": 0.12, "white": 0.45}}
            ])
        },
    },
    Starter {
        kind: "rain_runs",
        label: "Rain runs",
        help: "Streaks that rain draws down from ledges and heads of bolts.",
        line: || {
            json!([
                {"kind": "recesses", "join": "replace", "settings": {"radius": "medium"}},
                {"kind": "edges", "join": "add", "amount": 0.7, "settings": {"radius": "medium"}},
                {"kind": "threshold", "settings": {"cut": 0.2, "softness": 0.15}},
                {"kind": "run", "settings": {"length": 85, "width": 4, "density": 0.45, "wander": 0.12, "keep": "streaks"}},
                {"kind": "perlin", "join": "multiply", "amount": 0.35, "settings": {"size": 14, "octaves": 4, "contrast": 1.6}}
            ])
        },
    },
    Starter {
        kind: "chipped_paint",
        label: "Chipped paint",
        help: "Flakes broken off at edges and here and there on flats, with sharp borders.",
        line: || {
            json!([
                {"kind": "edges", "join": "replace", "settings": {"radius": "medium"}},
                {"kind": "worley", "join": "add", "amount": 0.32, "settings": {"output": "cell", "size": 9, "warp": 4, "warp_size": 7}},
                {"kind": "perlin", "join": "overlay", "amount": 0.7, "settings": {"size": 32, "octaves": 6, "gain": 0.6}},
                {"kind": "threshold", "settings": {"cut": 0.42, "softness": 0.02}},
                {"kind": "warp", "settings": {"by": 1.2, "size": 4}}
            ])
        },
    },
    Starter {
        kind: "pitting",
        label: "Pitting",
        help: "Small pits eaten into the metal, in patches.",
        line: || {
            json!([
                {"kind": "spots", "join": "replace", "settings": {"output": "border", "small": 0.7, "large": 4.5, "density": 0.75, "ragged": 0.45}},
                {"kind": "perlin", "join": "multiply", "settings": {"size": 60, "octaves": 4, "contrast": 2.6}},
                {"kind": "levels", "settings": {"black": 0.06, "white": 0.6}}
            ])
        },
    },
    Starter {
        kind: "use_scratches",
        label: "Scratches of use",
        help: "Scratches mostly one way, denser where the surface stands out.",
        line: || {
            json!([
                {"kind": "scratches", "join": "replace", "settings": {"length": 60, "width": 0.7, "density": 4, "direction": 15, "spread": 14}},
                {"kind": "scratches", "join": "max", "amount": 0.7, "settings": {"length": 22, "width": 0.45, "density": 5, "direction": 40, "spread": 60, "seed": 7}},
                {"kind": "perlin", "join": "multiply", "amount": 0.8, "settings": {"size": 80, "octaves": 3, "contrast": 2}},
                {"kind": "edges", "join": "add", "amount": 0.25, "settings": {"radius": "fine"}}
            ])
        },
    },
    Starter {
        kind: "water_line",
        label: "Water line",
        help: "A tide mark around the piece: the wet part below and a crust where the water stood.",
        line: || {
            json!([
                {"kind": "altitude", "join": "replace"},
                {"kind": "perlin", "join": "overlay", "amount": 0.12, "settings": {"size": 90, "octaves": 5}},
                {"kind": "invert"},
                {"kind": "threshold", "settings": {"by": "coverage", "coverage": 0.4, "softness": 0.004}},
                {"kind": "rim", "settings": {"side": "inside", "width": 14, "softness": 9}},
                {"kind": "perlin", "join": "multiply", "amount": 0.55, "settings": {"size": 16, "octaves": 6, "contrast": 1.8}}
            ])
        },
    },
    Starter {
        kind: "soot",
        label: "Soot",
        help: "Smoke that has risen along the piece out of its hollows.",
        line: || {
            json!([
                {"kind": "occlusion", "join": "replace"},
                {"kind": "invert"},
                {"kind": "levels", "settings": {"black": 0.3, "white": 0.85}},
                {"kind": "run", "settings": {"towards": "up", "length": 90, "width": 14, "density": 0.75, "wander": 0.35, "fade": 0.8}},
                {"kind": "blur", "settings": {"radius": 3}},
                {"kind": "perlin", "join": "overlay", "amount": 0.5, "settings": {"size": 40, "octaves": 5}}
            ])
        },
    },
    Starter {
        kind: "wet_moss",
        label: "Moss in the wet",
        help: "Cushions of growth in sheltered hollows and on what looks up, creeping outwards.",
        line: || {
            json!([
                {"kind": "recesses", "join": "replace", "settings": {"radius": "broad"}},
                {"kind": "facing", "join": "add", "amount": 0.35},
                {"kind": "perlin", "join": "overlay", "amount": 0.8, "settings": {"size": 50, "octaves": 4}},
                {"kind": "threshold", "settings": {"by": "coverage", "coverage": 0.16, "softness": 0.04}},
                {"kind": "creep", "settings": {"distance": 16, "size": 6, "ragged": 0.55}},
                {"kind": "billow", "join": "multiply", "amount": 0.6, "settings": {"size": 5, "octaves": 3, "contrast": 1.8}}
            ])
        },
    },
    Starter {
        kind: "finger_marks",
        label: "Finger marks",
        help: "Greasy smudges of hands on smooth, reachable places.",
        line: || {
            json!([
                {"kind": "spots", "join": "replace", "settings": {"output": "border", "small": 12, "large": 24, "density": 0.35, "ragged": 0.12}},
                {"kind": "bands", "join": "multiply", "amount": 0.6, "settings": {"shape": "wave", "size": 0.9, "warp": 6, "warp_size": 9}},
                {"kind": "perlin", "join": "multiply", "amount": 0.75, "settings": {"size": 60, "octaves": 4, "contrast": 2.6}},
                {"kind": "occlusion", "join": "multiply"},
                {"kind": "levels", "settings": {"white": 0.7, "gamma": 1.1}}
            ])
        },
    },
    Starter {
        kind: "sun_bleach",
        label: "Sun-bleached tops",
        help: "Colour paled by years of sun: on what looks up and lies open, evenly and softly.",
        line: || {
            json!([
                {"kind": "facing", "join": "replace"},
                {"kind": "occlusion", "join": "multiply"},
                {"kind": "curve", "settings": {"at0": 0, "at25": 0.2, "at50": 0.62, "at75": 0.9, "at100": 1}},
                {"kind": "blur", "settings": {"radius": 4}},
                {"kind": "value", "join": "multiply", "amount": 0.3, "settings": {"size": 70, "octaves": 3}}
            ])
        },
    },
    Starter {
        kind: "water_runs",
        label: "Runs of water",
        help: "Streaks where rain has run down: dark where most of it passes, fine at their ends.",
        line: || {
            json!([
                {"kind": "flow", "join": "replace", "settings": {"tells": "passes"}},
                {"kind": "levels", "settings": {"black": 0.08, "white": 0.7, "gamma": 0.9}},
                {"kind": "perlin", "join": "multiply", "amount": 0.7, "settings": {"size": 7, "octaves": 5, "stretch_y": 6}},
                {"kind": "levels", "settings": {"black": 0.08, "white": 0.75}}
            ])
        },
    },
    Starter {
        kind: "washed_tops",
        label: "Washed clean",
        help: "Where rain has taken along what lay there: tops and the steep beginnings of its ways.",
        line: || {
            json!([
                {"kind": "flow", "join": "replace", "settings": {"tells": "washed"}},
                {"kind": "rain", "join": "add", "amount": 0.3},
                {"kind": "perlin", "join": "overlay", "amount": 0.45, "settings": {"size": 24, "octaves": 6, "gain": 0.6}},
                {"kind": "levels", "settings": {"black": 0.25, "white": 0.85}}
            ])
        },
    },
    Starter {
        kind: "lee_dust",
        label: "Dust in the lee",
        help: "Dust that the wind left: on what looks up, in corners, behind what stands in its way.",
        line: || {
            json!([
                {"kind": "dust", "join": "replace"},
                {"kind": "perlin", "join": "overlay", "amount": 0.5, "settings": {"size": 26, "octaves": 6, "gain": 0.6}},
                {"kind": "levels", "settings": {"black": 0.12, "white": 0.75}}
            ])
        },
    },
    Starter {
        kind: "sun_side",
        label: "Bleached by the sun",
        help: "The side that the sun sees over the years, paled softly.",
        line: || {
            json!([
                {"kind": "sun", "join": "replace"},
                {"kind": "levels", "settings": {"black": 0.25, "white": 0.95, "gamma": 1.1}},
                {"kind": "value", "join": "multiply", "amount": 0.3, "settings": {"size": 60, "octaves": 3}}
            ])
        },
    },
    Starter {
        kind: "handled_bright",
        label: "Handled bright",
        help: "Rubbed bright where hands come to: what stands out and lets them in.",
        line: || {
            json!([
                {"kind": "touch", "join": "replace"},
                {"kind": "perlin", "join": "overlay", "amount": 0.5, "settings": {"size": 22, "octaves": 5}},
                {"kind": "levels", "settings": {"black": 0.3, "white": 0.75}},
                {"kind": "blur", "settings": {"radius": 1}}
            ])
        },
    },
    Starter {
        kind: "damp_foot",
        label: "Damp foot",
        help: "Damp that has risen from the ground and stands in a ragged line.",
        line: || {
            json!([
                {"kind": "ground", "join": "replace", "settings": {"reach": 150}},
                {"kind": "damp", "join": "add", "amount": 0.4},
                {"kind": "perlin", "join": "overlay", "amount": 0.5, "settings": {"size": 45, "octaves": 6, "gain": 0.6}},
                {"kind": "threshold","settings":{"by":"coverage","coverage":0.22,"softness":0.12}}
            ])
        },
    },
    Starter {
        kind: "damp_moss",
        label: "Moss in the damp",
        help: "Cushions where water stays and the sun doesn't look.",
        line: || {
            json!([
                {"kind": "damp", "join": "replace"},
                {"kind": "recesses", "join": "add", "amount": 0.35, "settings": {"radius": "broad"}},
                {"kind": "perlin", "join": "overlay", "amount": 0.8, "settings": {"size": 28, "octaves": 6, "gain": 0.62}},
                {"kind": "threshold", "settings": {"by": "coverage", "coverage": 0.14, "softness": 0.04}},
                {"kind": "billow", "join": "multiply", "amount": 0.55, "settings": {"size": 5, "octaves": 3, "contrast": 1.8}}
            ])
        },
    },
    Starter {
        kind: "rust_stain",
        label: "Rust stain",
        help: "Rust that begins at wet edges, washed down the ways that water takes.",
        line: || {
            json!([
                {"kind": "edges", "join": "replace", "settings": {"radius": "medium"}},
                {"kind": "recesses", "join": "add", "amount": 0.6, "settings": {"radius": "medium"}},
                {"kind": "rain", "join": "multiply", "amount": 0.5},
                {"kind": "perlin", "join": "overlay", "amount": 0.75, "settings": {"size": 30, "octaves": 6, "gain": 0.62}},
                {"kind": "threshold", "settings": {"by": "coverage", "coverage": 0.05, "softness": 0.05}},
                {"kind": "wash", "settings": {"length": 140, "strength": 0.6}}
            ])
        },
    },
    Starter {
        kind: "soot_washed",
        label: "Soot washed down",
        help: "Soot from sheltered hollows that rain has carried on: dark below them, clean in between.",
        line: || {
            json!([
                {"kind": "occlusion", "join": "replace"},
                {"kind": "invert"},
                {"kind": "levels", "settings": {"black": 0.3, "white": 0.8}},
                {"kind": "wash", "settings": {"length": 180, "strength": 0.25}},
                {"kind": "flow", "join": "subtract", "amount": 0.5, "settings": {"tells": "washed"}},
                {"kind": "perlin", "join": "overlay", "amount": 0.4, "settings": {"size": 30, "octaves": 5}}
            ])
        },
    },
    Starter {
        kind: "salt_line",
        label: "Salt line",
        help: "White lines where damp ends and what it carried stays behind.",
        line: || {
            json!([
                {"kind": "damp", "join": "replace"},
                {"kind": "perlin", "join": "overlay", "amount": 0.3, "settings": {"size": 40, "octaves": 6, "gain": 0.6}},
                {"kind": "threshold", "settings": {"cut": 0.45, "softness": 0.03}},
                {"kind": "rim", "settings": {"side": "inside", "width": 7, "softness": 5}},
                {"kind": "perlin", "join": "multiply", "amount": 0.7, "settings": {"size": 8, "octaves": 6, "contrast": 1.8}}
            ])
        },
    },
    Starter {
        kind: "wind_frost",
        label: "Frost on the windward side",
        help: "Rime that the wind has left, thick at edges and thin on what is broad.",
        line: || {
            json!([
                {"kind": "frost", "join": "replace"},
                {"kind": "perlin", "join": "overlay", "amount": 0.4, "settings": {"size": 8, "octaves": 6, "gain": 0.65}},
                {"kind": "levels", "settings": {"black": 0.15, "white": 0.8}}
            ])
        },
    },
];
