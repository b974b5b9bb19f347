//! Finishes on the swatch ball, for the page that offers them and for the sheet in the docs.

use std::sync::{Arc, LazyLock};

use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Layer, LayerKind};
use dustcoat_core::evaluate::{Cache, Context, evaluate};
use dustcoat_core::finish::Finish;
use dustcoat_core::mask::MaskLine;
use dustcoat_core::setting::Param;
use dustcoat_core::still::{Camera, Shot, lit};
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

/// RGBA8 pixels of a finish on the ball. It reads nothing that must be measured; one that reads its layer's mask is shown with a soft one.
pub fn picture(finish: &Finish, width: u32, height: u32) -> Vec<u8> {
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
    let surface = &*BALL;
    let (cache, cancel) = (Cache::new(1 << 26), Cancel::default());
    let context = Context { surface, readings: &|_| None, cache: &cache, cancel: &cancel, tag: "", progress: &silent };
    let e = evaluate(&document, &context).expect("starters read patterns alone, as a test tells");
    let camera = Camera::framing(&surface.piece, width as f32 / height as f32, 1.0);
    lit::picture(&Shot::new(surface, camera, width, height), surface, &e, None)
}

#[cfg(test)]
mod tests {
    use dustcoat_core::finish::starter::STARTERS;

    #[test]
    fn every_ready_finish_makes_a_picture_of_its_own() {
        let all: Vec<Vec<u8>> = STARTERS.iter().map(|s| super::picture(&s.finish(), 64, 48)).collect();
        for (i, a) in all.iter().enumerate() {
            for (j, b) in all.iter().enumerate().skip(i + 1) {
                let apart = a.iter().zip(b).filter(|(a, b)| a.abs_diff(**b) > 6).count();
                assert!(apart > a.len() / 20, "{} and {} look alike", STARTERS[i].kind, STARTERS[j].kind);
            }
        }
    }
}
