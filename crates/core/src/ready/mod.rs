//! Ready finishes: materials that are good out of the box and open to change, each a recipe in a file of its own beside this one.
//!
//! A file is what *Export* in the cabinet gives as `recipe.json`: one is made in the app and put here. Laid, its layers are layers like any others (one alone, or a group
//! of several) and its dials are the project's; nothing follows the file. What is not metal keeps its base colour between that of charcoal and that of fresh snow; metals
//! have the reflectance that was measured of them (n and k of Johnson & Christy 1972, and the CRC Handbook, through CIE 1931 and D65). Lengths are meant for a piece
//! about as large as a gate valve.

use std::sync::LazyLock;

use crate::document::{Dial, Layer, LayerKind, Recipe, dial_states, forget_ids, params_mut};
use crate::mask::fit::{fitted, fitted_finish};
use crate::setting::Param;

/// Tag of what lies over other things.
const OVER: &str = "over";

/// A ready finish.
pub struct Ready {
    /// Key.
    pub kind: &'static str,
    /// Its name, its one sentence, its layers and its dials.
    pub recipe: Recipe,
}

impl Ready {
    /// What laying it lays: its layer, or a group of its layers.
    pub fn layer(&self) -> Layer {
        let mut layer = match self.recipe.layers.as_slice() {
            [one] => Layer { name: self.recipe.name.clone(), ..one.clone() },
            all => Layer { kind: LayerKind::Group { layers: all.to_vec() }, ..self.recipe.to_use() },
        };
        forget_ids(&mut layer, &|_| true);
        layer
    }

    /// The same as its dials stand, without them.
    pub fn plain(&self) -> Layer {
        let (mut layer, dials) = (self.layer(), dial_states(&self.recipe.dials, &Default::default()));
        params_mut(std::slice::from_mut(&mut layer), &mut |spec, param| {
            if let Param::Drive(drive) = param {
                *param = Param::Const(drive.value(spec, &dials));
            }
        });
        layer
    }

    /// Whether it is meant to lie over other things and leaves most of them to be seen.
    pub fn lies_over_others(&self) -> bool {
        lies_over_others(&self.recipe)
    }

    /// The dials that come with it, in a group of its name.
    pub fn dials(&self) -> Vec<Dial> {
        let grouped = |d: &Dial| Dial { group: self.recipe.name.clone(), ..d.clone() };
        self.recipe.dials.iter().map(grouped).collect()
    }
}

/// Whether a recipe is meant to lie over other things and leaves most of them to be seen, as a tag of it says.
pub fn lies_over_others(recipe: &Recipe) -> bool {
    recipe.tags.iter().any(|t| t == OVER)
}

/// A layer whose lengths are meant for a piece of the usual size, for one with a diagonal of `diagonal` mm.
pub fn fitted_layer(mut layer: Layer, diagonal: f32) -> Layer {
    layer.mask.steps = fitted(layer.mask.steps, diagonal);
    layer.kind = match layer.kind {
        LayerKind::Coat { finish } => LayerKind::Coat { finish: fitted_finish(finish, diagonal) },
        LayerKind::Adjust { finish } => LayerKind::Adjust { finish: fitted_finish(finish, diagonal) },
        LayerKind::Group { layers } => {
            LayerKind::Group { layers: layers.into_iter().map(|l| fitted_layer(l, diagonal)).collect() }
        }
        used @ LayerKind::Use { .. } => used,
    };
    layer
}

macro_rules! files {
    ($($kind:literal),* $(,)?) => { [$(($kind, include_str!(concat!($kind, ".json")))),*] };
}

/// All of them, family by family, in the order in which they are offered.
pub static READY: LazyLock<Vec<Ready>> = LazyLock::new(|| {
    let read = |(kind, text)| {
        let recipe =
            serde_json::from_str(text).unwrap_or_else(|e| panic!("{kind}.json is written right, as a test tells: {e}"));
        Ready { kind, recipe }
    };
    FILES.into_iter().map(read).collect()
});

static FILES: [(&str, &str); 44] = files![
    // Metals.
    "bare_steel",
    "cast_iron",
    "galvanised",
    "brushed_brass",
    "tempered_steel",
    "oxidised_aluminium",
    "copper_patina",
    "verdigris",
    "metal_leaf",
    // Rust, young and old: a stain, a film, a scale.
    "bright_rust_stain",
    "bright_rust_film",
    "bright_rust_scale",
    "old_rust_stain",
    "old_rust_film",
    "old_rust_scale",
    // Paints and washes.
    "dock_paint",
    "signal_enamel",
    "zinc_white",
    "limewash",
    "old_coats",
    // Timber, leather, cloth, rope.
    "tarred_timber",
    "weathered_teak",
    "shutter_planks",
    "cork",
    "tool_leather",
    "bench_cloth",
    "canvas",
    "oilskin",
    "felt",
    "velvet",
    "rope",
    "rubber",
    // Stone and brick.
    "slate",
    "brick",
    "wet_concrete",
    // What lies over other things.
    "algae",
    "salt_crust",
    "gull_marks",
    "soot",
    // Wax, glaze, glass, ice, glow.
    "wax",
    "porcelain",
    "lamp_glass",
    "rime",
    "brazier_coals",
];

/// The finish of that kind.
pub fn find(kind: &str) -> Option<&'static Ready> {
    READY.iter().find(|r| r.kind == kind)
}
