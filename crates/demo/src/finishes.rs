//! Finishes and recipes on the swatch ball, for the page that offers them and for the sheet in the docs.

use std::sync::{Arc, LazyLock};

use dustcoat_core::bake::{Surface, measure, measurement};
use dustcoat_core::document::{Document, Layer, LayerKind};
use dustcoat_core::evaluate::{Cache, Context, Measured, evaluate, needs};
use dustcoat_core::finish::Finish;
use dustcoat_core::mask::MaskLine;
use dustcoat_core::recipe::Recipe;
use dustcoat_core::setting::{DialKind, Param, Value};
use dustcoat_core::still::shoot::{StillSettings, Surround, shoot};
use dustcoat_core::task::{Cancel, silent};

/// Side of the ball's texture.
const SIZE: u32 = 512;

static BALL: LazyLock<Surface> = LazyLock::new(|| {
    let ball = crate::piece("swatch-ball").expect("the demo has a swatch ball").imported();
    Surface::new(Arc::clone(&ball), SIZE)
});

fn reads_mask(finish: &Finish) -> bool {
    let params = finish.channels.values().flat_map(|c| c.settings.values());
    params.filter_map(Param::source).any(|source| source.kind == "own")
}

/// Thins out in patches, but never quite to nothing.
fn soft_mask() -> MaskLine {
    let steps = serde_json::json!([
        {"id": "s1", "kind": "perlin", "join": "replace", "settings": {"size": 70, "octaves": 5}},
        {"id": "s2", "kind": "levels", "settings": {"black": 0.2, "white": 0.52, "out_low": 0.08}}
    ]);
    serde_json::from_value(serde_json::json!({"steps": steps})).expect("it is written right")
}

/// RGBA8 pixels of a finish on the ball, traced with some samples to a pixel. It reads nothing that must be measured; one that reads its layer's mask is shown with a soft one.
pub fn picture(finish: &Finish, width: u32, height: u32, samples: u32) -> Vec<u8> {
    let layer = Layer {
        id: "finish".into(),
        name: "Finish".into(),
        shown: true,
        opacity: 1.0.into(),
        mask: if reads_mask(finish) { soft_mask() } else { Default::default() },
        publish: None,
        kind: LayerKind::Coat { finish: finish.clone() },
    };
    let document = Document { layers: vec![layer], ..Document::new("Finish") };
    dressed(&document, width, height, samples)
}

/// RGBA8 pixels of a recipe on the ball, its dials at their defaults. Whichever part it asks for is the ball itself.
pub fn recipe(recipe: &Recipe, width: u32, height: u32, samples: u32) -> Vec<u8> {
    let ball = BALL.piece.parts.first().map(|p| Value::Text(p.name.clone())).unwrap_or(Value::Text(String::new()));
    let parts = recipe.dials.iter().filter(|d| d.kind() == DialKind::Part && d.formula.is_none());
    let values = parts.map(|d| (d.id.clone(), ball.clone())).collect();
    let used = recipe.to_use_on(&BALL.piece, None, &values).unwrap_or_else(|_| recipe.to_use());
    let layer = Layer { id: "recipe".into(), ..used };
    dressed(&Document { layers: vec![layer], ..Document::new("Recipe") }, width, height, samples)
}

/// Rays a texel: few do for a thumbnail.
const RAYS: f64 = 24.0;

fn dressed(document: &Document, width: u32, height: u32, samples: u32) -> Vec<u8> {
    let surface = &*BALL;
    let (cache, cancel) = (Cache::new(1 << 26), Cancel::default());
    let never = "nobody stops it";
    let measured = needs(document, &surface.piece).into_iter().filter_map(|key| {
        let settings = key.settings.clone().with_number("rays", RAYS);
        let plane = measure(measurement::find(key.kind)?, surface, &settings, &cancel, &silent).expect(never);
        Some((key.hash(&surface.piece.hash, SIZE), Arc::new(plane)))
    });
    let measured: Measured = measured.collect();
    let context = Context { surface, measured: &measured, cache: &cache, cancel: &cancel, progress: &silent };
    let e = evaluate(document, &context).expect("all that it needs was measured");
    let settings = StillSettings { width, height, samples, surround: Surround::Clear, ..StillSettings::default() };
    shoot(surface, &e, &settings, &cancel, &silent).expect(never).swap_remove(0)
}

#[cfg(test)]
mod tests {
    use dustcoat_core::finish::starter;

    #[test]
    fn every_ready_finish_makes_a_picture_of_its_own() {
        let kinds: Vec<&str> = starter::all().map(|s| s.kind).collect();
        let all: Vec<Vec<u8>> = starter::all().map(|s| super::picture(&s.finish(), 64, 48, 16)).collect();
        for (i, a) in all.iter().enumerate() {
            for (j, b) in all.iter().enumerate().skip(i + 1) {
                let apart = a.iter().zip(b).filter(|(a, b)| a.abs_diff(**b) > 6).count();
                assert!(apart > a.len() / 20, "{} and {} look alike", kinds[i], kinds[j]);
            }
        }
    }
}
