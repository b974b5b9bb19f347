//! Recipes of the demo, each in a file of its own beside this one, as *Export* in the cabinet writes them as `recipe.json`. Every one has
//! a master dial or two and three presets: new, used, neglected. None knows a piece: lengths are meant for things about as large as a gate valve.

use std::sync::LazyLock;

use dustcoat_core::recipe::Recipe;

macro_rules! files {
    ($($key:literal),* $(,)?) => { [$(($key, include_str!(concat!($key, ".json")))),*] };
}

static FILES: [(&str, &str); 16] = files![
    "oxide_primer",
    "enamel_on_iron",
    "rust_from_within",
    "salt_and_gull",
    "tarred_timber_dried",
    "varnish_that_peels",
    "limewash_over_brick",
    "verdigris_runs",
    "brass_handled",
    "oilskin_cracked",
    "algae_from_water",
    "soot_above_flame",
    "scorched_tarpaulin",
    "ice_windward",
    "tape_and_stencils",
    "years_outdoors",
];

static RECIPES: LazyLock<Vec<(&str, Recipe)>> = LazyLock::new(|| {
    let read = |(key, text)| {
        let recipe: Recipe =
            serde_json::from_str(text).unwrap_or_else(|e| panic!("{key}.json is written right, as a test tells: {e}"));
        (key, recipe)
    };
    FILES.into_iter().map(read).collect()
});

/// The recipe of that file.
///
/// # Panics
/// When there is none: keys are written down in the code alone.
pub fn recipe(key: &str) -> &'static Recipe {
    let found = RECIPES.iter().find(|(k, _)| *k == key);
    found.map(|(_, r)| r).unwrap_or_else(|| panic!("there is no {key}.json"))
}

/// All of them, each with the name of its file but for the ending.
pub fn files() -> impl Iterator<Item = (String, Recipe)> {
    RECIPES.iter().map(|(key, r)| (key.replace('_', "-"), r.clone()))
}
