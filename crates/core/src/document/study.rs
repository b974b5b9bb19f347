//! The study: what was gathered before the work. So far that is palettes; every colour can be taken from them.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::error::{EditError, limits};
use crate::setting::{SettingError, Swatch, parse_hex};

/// What was gathered.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct Study {
    /// The palettes.
    #[serde(default)]
    pub palettes: Vec<Palette>,
}

/// Some colours that belong together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Palette {
    /// Name, its own among the palettes.
    pub name: String,
    /// Its colours, in order.
    pub colors: Vec<Swatch>,
}

impl Study {
    /// Whether nothing was gathered.
    pub fn is_empty(&self) -> bool {
        self.palettes.is_empty()
    }
}

/// Checks a palette but for its name.
pub(super) fn check_palette(palette: &Palette) -> Result<(), EditError> {
    let wrong = |setting: String, wanted: &str| {
        let error = SettingError { setting, wanted: wanted.into() };
        Err(EditError::Setting { place: format!("Palette {}", palette.name), error })
    };
    if palette.colors.is_empty() || palette.colors.len() > limits::STOPS {
        return wrong("Colours".into(), &format!("1 to {} of them", limits::STOPS));
    }
    for (i, swatch) in palette.colors.iter().enumerate() {
        if parse_hex(&swatch.color).is_none() {
            return wrong(format!("Colour {}", i + 1), "a colour written as #rrggbb");
        }
        if !(0.0..=1.0).contains(&swatch.weight) {
            return wrong(format!("Weight of colour {}", i + 1), "a number from 0 to 1");
        }
    }
    Ok(())
}
