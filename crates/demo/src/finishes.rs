//! Finishes and recipes on the swatch ball, for the page that offers them and for the sheet in the docs.

use std::sync::LazyLock;

use dustcoat_core::document::{Document, Edit, Layer, apply};
use dustcoat_core::mask::Step;
use dustcoat_core::ready::{self, Ready};
use dustcoat_core::recipe::Recipe;
use dustcoat_core::setting::{DialKind, Value};
use dustcoat_core::still::shoot::{StillSettings, Surround};

use crate::studio::Studio;

/// Side of the ball's texture.
const SIZE: u32 = 512;

/// Rays a texel: few do for a thumbnail.
const RAYS: f64 = 24.0;

static BALL: LazyLock<Studio> = LazyLock::new(|| Studio::of("swatch-ball", SIZE, Some(RAYS)));

/// RGBA8 pixels of a ready finish on the ball, traced with some samples to a pixel. What lies over other things lies over old paint.
pub fn picture(finish: &Ready, width: u32, height: u32, samples: u32) -> Vec<u8> {
    let below = finish.lies_over_others().then(old_paint);
    let mut document = Document::new("Finish");
    for layer in below.into_iter().chain([finish.plain()]) {
        let laid = Edit::AddLayer { inside: None, index: usize::MAX, layer, dials: vec![] };
        document = apply(&document, &laid).expect("a document takes it, as a test tells");
    }
    dressed(&document, width, height, samples)
}

/// What is below when a finish is one that lies over others.
fn old_paint() -> Layer {
    let laid = serde_json::json!({"name": "Old paint", "kind": "coat", "finish": {"channels": {
        "base_color": {"on": true, "settings": {"color": "#8a9a96"}}, "roughness": {"on": true, "settings": {"value": 0.5}}
    }}});
    serde_json::from_value(laid).expect("it is written right")
}

/// RGBA8 pixels of a recipe on the ball, its dials at their defaults, over old paint if it is one that lies over others. Whichever part it asks for is the ball itself.
pub fn recipe(recipe: &Recipe, width: u32, height: u32, samples: u32) -> Vec<u8> {
    let ball = BALL.piece().parts.first().map(|p| Value::Text(p.name.clone())).unwrap_or(Value::Text(String::new()));
    let parts = recipe.dials.iter().filter(|d| d.kind() == DialKind::Part && d.formula.is_none());
    let values = parts.map(|d| (d.id.clone(), ball.clone())).collect();
    let used = recipe.to_use_on(BALL.piece(), None, &values).unwrap_or_else(|_| recipe.to_use());
    let layer = Layer { id: "recipe".into(), ..used };
    let below = ready::lies_over_others(recipe).then(|| Layer { id: "below".into(), ..old_paint() });
    let layers = below.into_iter().chain([layer]).collect();
    dressed(&Document { layers, ..Document::new("Recipe") }, width, height, samples)
}

/// RGBA8 pixels of a mask line on the ball: dark paint where it is whole, on pale paint.
pub fn line(steps: &[Step], width: u32, height: u32, samples: u32) -> Vec<u8> {
    let paint = |name: &str, color: &str, steps: &[Step]| {
        let laid = serde_json::json!({"id": name, "name": name, "kind": "coat", "mask": {"steps": steps}, "finish": {"channels": {
            "base_color": {"on": true, "settings": {"color": color}}, "roughness": {"on": true, "settings": {"value": 0.6}}
        }}});
        serde_json::from_value(laid).expect("it is written right")
    };
    let layers = vec![paint("pale", "#d6d0c2", &[]), paint("dark", "#3a3f3c", steps)];
    dressed(&Document { layers, ..Document::new("Line") }, width, height, samples)
}

fn dressed(document: &Document, width: u32, height: u32, samples: u32) -> Vec<u8> {
    let settings =
        StillSettings { width, height, samples, surround: Surround::Clear, denoise: true, ..StillSettings::default() };
    BALL.take(document, &settings)
}
