//! The board: pictures, notes, frames and arrows, laid out freely. Lengths on it are in *points*, which are pixels where it is seen at full size; y points down.

use std::collections::BTreeSet;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::check::unique;
use super::edit::unknown;
use super::error::{EditError, limits};
use super::ids::fresh;
use super::study::check_words;
use super::{Edit, Study};
use crate::setting::SettingError;

/// How far from the board's middle something may lie, in points.
const FAR: f64 = 100_000.0;
/// The least and the greatest width and height, in points.
const SIDES: std::ops::RangeInclusive<f64> = 20.0..=20_000.0;
/// The least share of a picture that is left of it, along each side.
const LEAST_LEFT: f64 = 0.02;

/// Something on the board.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct BoardItem {
    /// Stable within the board; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// What it is.
    #[serde(flatten)]
    pub kind: BoardKind,
}

/// What lies on the board.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum BoardKind {
    /// A picture.
    Picture {
        /// How it lies; its height follows from what is left of it.
        lies: Lies,
        /// blake3 of the file.
        hash: String,
        /// File name it came with.
        file: String,
        /// Width and height in texels.
        size: [u32; 2],
        /// What is left of it: from the left, from the top, to the right and to the bottom, as shares.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional)]
        crop: Option<[f64; 4]>,
        /// What stands below it.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        #[ts(as = "Option<String>", optional)]
        text: String,
        /// The palette that was pulled from it, by name.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional)]
        palette: Option<String>,
    },
    /// Some words.
    Note {
        /// How it lies; its height follows from the words.
        lies: Lies,
        /// The words.
        text: String,
    },
    /// A frame around what belongs together.
    Frame {
        /// How it lies.
        lies: Lies,
        /// Height in points.
        height: f64,
        /// Its name.
        text: String,
    },
    /// An arrow from one thing, or place, to another.
    Arrow {
        /// Where it begins.
        from: End,
        /// Where it points to.
        to: End,
    },
}

/// How something lies on the board.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Lies {
    /// Its middle, in points.
    pub at: [f64; 2],
    /// Width in points.
    pub width: f64,
    /// How far it is turned, in degrees clockwise.
    #[serde(default, skip_serializing_if = "is_zero")]
    #[ts(as = "Option<f64>", optional)]
    pub turn: f64,
}

fn is_zero(v: &f64) -> bool {
    *v == 0.0
}

/// An end of an arrow.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct End {
    /// What it is fixed to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub item: Option<String>,
    /// The place: in points; on what it is fixed to, as shares of its width and height from its upper left corner; of a picture, those of the whole of it, whatever is left of it.
    pub at: [f64; 2],
}

impl BoardItem {
    /// The file of a picture: blake3 and name.
    pub fn file(&self) -> Option<(&str, &str)> {
        if let BoardKind::Picture { hash, file, .. } = &self.kind { Some((hash, file)) } else { None }
    }

    /// What it is called where something is said of it.
    pub(super) fn what(&self) -> &'static str {
        match self.kind {
            BoardKind::Picture { .. } => "a picture",
            BoardKind::Note { .. } => "a note",
            BoardKind::Frame { .. } => "a frame",
            BoardKind::Arrow { .. } => "an arrow",
        }
    }

    /// What it is fixed to.
    fn fixed_to(&self) -> impl Iterator<Item = &str> {
        let ends = if let BoardKind::Arrow { from, to } = &self.kind { [Some(from), Some(to)] } else { [None, None] };
        ends.into_iter().flatten().filter_map(|e| e.item.as_deref())
    }
}

/// Changes the board.
pub(super) fn change_board(study: &mut Study, edit: &Edit) -> Result<(), EditError> {
    let board = &mut study.board;
    let place = |board: &[BoardItem], id: &str| {
        board.iter().position(|i| i.id == id).ok_or_else(|| unknown("thing on the board", id))
    };
    match edit {
        Edit::PutOnBoard { items } => {
            for item in items {
                if item.id.is_empty() {
                    let id = fresh(board.iter().map(|i| i.id.as_str()), 'b');
                    board.push(BoardItem { id, ..item.clone() });
                } else {
                    let at = place(board, &item.id)?;
                    board[at] = item.clone();
                }
            }
        }
        Edit::TakeOffBoard { items } => {
            items.iter().try_for_each(|id| place(board, id).map(|_| ()))?;
            // What points to it goes with it.
            board.retain(|i| !items.contains(&i.id) && !i.fixed_to().any(|id| items.iter().any(|gone| gone == id)));
        }
        Edit::StackOnBoard { item, index } => {
            let at = place(board, item)?;
            let taken = board.remove(at);
            board.insert((*index).min(board.len()), taken);
        }
        _ => {}
    }
    Ok(())
}

/// Checks all that lies on a board.
pub(super) fn check_board(board: &[BoardItem]) -> Result<(), EditError> {
    if board.len() > limits::BOARD {
        return Err(EditError::TooMany { what: "things on the board", found: board.len(), limit: limits::BOARD });
    }
    let ids: BTreeSet<&str> = board.iter().map(|i| i.id.as_str()).collect();
    let wrong = |setting: &str, wanted: String| {
        let error = SettingError { setting: setting.into(), wanted };
        Err(EditError::Setting { place: "Board".into(), error })
    };
    let near = |at: &[f64; 2]| at.iter().all(|v| v.abs() <= FAR);
    let mut seen = BTreeSet::new();
    for item in board {
        unique(&mut seen, &item.id)?;
        let (lies, text) = match &item.kind {
            BoardKind::Picture { lies, text, .. } | BoardKind::Note { lies, text } => (lies, text),
            BoardKind::Frame { lies, text, height } => {
                if !SIDES.contains(height) {
                    return wrong("Height", format!("a number from {} to {}", SIDES.start(), SIDES.end()));
                }
                (lies, text)
            }
            BoardKind::Arrow { from, to } => {
                for end in [from, to] {
                    if !near(&end.at) {
                        return wrong("Arrow", "a place on the board".into());
                    }
                    // What an end is fixed to lies there, and is no arrow.
                    let to = end.item.as_deref().map(|id| (id, board.iter().find(|i| i.id == id)));
                    if let Some((id, found)) = to
                        && (!ids.contains(id) || found.is_none_or(|i| matches!(i.kind, BoardKind::Arrow { .. })))
                    {
                        return Err(unknown("thing on the board", id));
                    }
                }
                continue;
            }
        };
        check_words(text, "Board")?;
        if !near(&lies.at) {
            return wrong("Place", format!("at most {FAR} points from the middle"));
        }
        if !SIDES.contains(&lies.width) {
            return wrong("Width", format!("a number from {} to {}", SIDES.start(), SIDES.end()));
        }
        if !(-360.0..=360.0).contains(&lies.turn) {
            return wrong("Turn", "an angle from −360 to 360 degrees".into());
        }
        if let BoardKind::Picture { crop: Some([left, top, right, bottom]), .. } = &item.kind {
            let side = |low: f64, high: f64| low >= 0.0 && high <= 1.0 && high - low >= LEAST_LEFT;
            if !side(*left, *right) || !side(*top, *bottom) {
                return wrong("Crop", "shares of the picture, from the left to the right and from the top down".into());
            }
        }
        if let BoardKind::Picture { hash, size, .. } = &item.kind
            && (hash.is_empty() || size.contains(&0))
        {
            return wrong("Picture", "a file with its size".into());
        }
    }
    Ok(())
}
