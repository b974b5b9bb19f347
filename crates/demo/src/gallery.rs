//! The gallery: stills of the demo's props, as found, in their variants, and in recipes of the cabinet that none of them was made for.

use dustcoat_core::document::{Document, Edit, apply};
use dustcoat_core::still::shoot::{StillSettings, Surround};

use crate::recipes::recipe;
use crate::studio::Studio;

/// What a prop is dressed in.
#[derive(Debug, Clone, Copy)]
pub enum Dress {
    /// Its project in a variant.
    Variant(&'static str),
    /// A recipe of the cabinet in a preset, over the prop's own project or over plain steel.
    Recipe {
        /// Its file.
        key: &'static str,
        /// The preset.
        preset: &'static str,
        /// Whether what lies below is the prop's own project.
        over: bool,
    },
}

/// One still.
#[derive(Debug, Clone, Copy)]
pub struct Shot {
    /// The prop's key.
    pub prop: &'static str,
    /// What it wears.
    pub dress: Dress,
    /// Key of the light.
    pub light: &'static str,
    /// Where the eye is, what it looks at, and its opening in degrees; none for all of it.
    pub near: Option<([f32; 3], [f32; 3], f32)>,
}

impl Shot {
    /// What is seen, in words.
    pub fn title(&self) -> String {
        let prop = crate::piece(self.prop).map_or("", |p| p.name);
        match self.dress {
            Dress::Variant(name) => format!("{prop}, {}", name.to_lowercase()),
            Dress::Recipe { key, preset, .. } => format!("{prop}: {}, {}", recipe(key).name, preset.to_lowercase()),
        }
    }

    /// Its document.
    ///
    /// # Panics
    /// When the list below names what is not there; a test goes through it.
    pub fn document(&self, studio: &Studio) -> Document {
        let own = crate::piece(self.prop).and_then(|p| p.dress).map(|d| (d.document)());
        let make = |d: &Document, edit: Edit| apply(d, &edit).unwrap_or_else(|e| panic!("{}: {e}", self.title()));
        match self.dress {
            Dress::Variant(name) => make(&own.expect("it is dressed"), Edit::TakeVariant { name: name.into() }),
            Dress::Recipe { key, preset, over } => {
                let below = own.filter(|_| over).unwrap_or_else(|| Document::new("Bare"));
                let said = recipe(key).to_use_on(studio.piece(), Some(preset), &Default::default());
                let layer = said.unwrap_or_else(|e| panic!("{}: {e}", self.title()));
                make(&below, Edit::AddLayer { inside: None, index: usize::MAX, layer, dials: vec![] })
            }
        }
    }

    /// From where and in which light, `side` pixels square.
    pub fn settings(&self, side: u32, samples: u32) -> StillSettings {
        let all = StillSettings {
            width: side,
            height: side,
            samples,
            light: self.light.into(),
            surround: Surround::Grey,
            ground: true,
            relief: true,
            denoise: true,
            ..StillSettings::default()
        };
        match self.near {
            Some((eye, target, fov)) => StillSettings { eye: Some(eye), target, fov, ..all },
            None => all,
        }
    }
}

const fn variant(prop: &'static str, name: &'static str, light: &'static str) -> Shot {
    Shot { prop, dress: Dress::Variant(name), light, near: None }
}

const fn in_recipe(prop: &'static str, key: &'static str, preset: &'static str, over: bool) -> Shot {
    Shot { prop, dress: Dress::Recipe { key, preset, over }, light: "quay", near: None }
}

/// All of them, the four that the README shows first.
pub static GALLERY: &[Shot] = &[
    variant("gate-valve", "As found", "quay"),
    variant("buoy", "As found", "quay"),
    variant("harbour-lamp", "As found", "quay"),
    variant("mooring-post", "As found", "quay"),
    variant("dock-cleat", "As found", "quay"),
    variant("louvre-shutter", "As found", "quay"),
    variant("buoy", "Drifted ashore", "quay"),
    variant("gate-valve", "Neglected", "quay"),
    variant("gate-valve", "Painted anew", "quay"),
    variant("mooring-post", "Newly set", "quay"),
    variant("mooring-post", "Given up", "quay"),
    variant("harbour-lamp", "Polished", "quay"),
    variant("harbour-lamp", "Left out", "quay"),
    variant("louvre-shutter", "Painted last spring", "quay"),
    variant("louvre-shutter", "Never again", "quay"),
    in_recipe("gate-valve", "oxide_primer", "Neglected", false),
    in_recipe("gate-valve", "rust_from_within", "Used", false),
    in_recipe("louvre-shutter", "varnish_that_peels", "Used", false),
    in_recipe("louvre-shutter", "tarred_timber_dried", "Used", false),
    in_recipe("gate-valve", "brass_handled", "Used", false),
    in_recipe("mooring-post", "ice_windward", "Used", true),
    in_recipe("gate-valve", "tape_and_stencils", "Used", true),
    in_recipe("swatch-tile", "limewash_over_brick", "Used", false),
    in_recipe("gate-valve", "algae_from_water", "Neglected", true),
    in_recipe("gate-valve", "years_outdoors", "Neglected", true),
    in_recipe("mooring-post", "years_outdoors", "Neglected", true),
    in_recipe("dock-cleat", "years_outdoors", "Neglected", true),
];
