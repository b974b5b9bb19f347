//! The study: what was gathered before the work. Palettes, that every colour can be taken from; the board; the plan; and notes on what was made.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::board::BoardItem;
use super::edit::{layer_mut, step_at, unknown};
use super::elements::Element;
use super::error::{EditError, limits};
use super::{Document, layers};
use crate::setting::{SettingError, Swatch, parse_hex};

/// What was gathered.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema, TS)]
pub struct Study {
    /// The palettes.
    #[serde(default)]
    pub palettes: Vec<Palette>,
    /// What lies on the board, from the lowest to the highest.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<BoardItem>>", optional)]
    pub board: Vec<BoardItem>,
    /// The plan: what the piece is to be made of.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(as = "Option<Vec<Element>>", optional)]
    pub plan: Vec<Element>,
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
        self.palettes.is_empty() && self.board.is_empty() && self.plan.is_empty()
    }

    /// The files that it needs: blake3 and name.
    pub fn files(&self) -> impl Iterator<Item = (&str, &str)> {
        self.board.iter().filter_map(BoardItem::file)
    }
}

/// What a note is on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[allow(missing_docs, reason = "the fields are ids of the document")]
pub enum Noted {
    /// A layer.
    Layer { layer: String },
    /// A step of its mask line.
    Step { layer: String, step: String },
    /// A dial.
    Dial { dial: String },
}

/// Writes a note on something; empty takes it away.
pub(super) fn set_note(d: &mut Document, on: &Noted, text: &str) -> Result<(), EditError> {
    let note = match on {
        Noted::Layer { layer } => &mut layer_mut(d, layer)?.note,
        Noted::Step { layer, step } => {
            let layer = layer_mut(d, layer)?;
            let at = step_at(layer, step)?;
            &mut layer.mask.steps[at].note
        }
        Noted::Dial { dial } => {
            let found = d.dials.iter_mut().find(|x| x.id == *dial);
            &mut found.ok_or_else(|| unknown("dial", dial))?.note
        }
    };
    text.trim().clone_into(note);
    Ok(())
}

/// Forgets which layers answered elements of the plan, where they are gone.
pub(super) fn forget_answers(d: &mut Document) {
    let there: Vec<&str> = layers(&d.layers).iter().map(|l| l.id.as_str()).collect();
    let gone = |id: &String| !there.contains(&id.as_str());
    d.study.plan.iter_mut().filter(|e| e.layer.as_ref().is_some_and(gone)).for_each(|e| e.layer = None);
}

/// Checks words that are written on something.
pub(super) fn check_words(text: &str, place: &'static str) -> Result<(), EditError> {
    if text.chars().count() <= limits::WORDS {
        return Ok(());
    }
    let error = SettingError { setting: "Text".into(), wanted: format!("at most {} characters", limits::WORDS) };
    Err(EditError::Setting { place: place.into(), error })
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
