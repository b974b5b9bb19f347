//! The plan: what the piece is to be made of, element by element, and the block-in that begins with it: a layer in flat colour for each.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;
use ts_rs::TS;

use super::check::{name, unique};
use super::edit::unknown;
use super::error::{EditError, limits};
use super::ids::fresh;
use super::study::check_words;
use super::tree::row_of;
use super::{Document, Edit, Layer, LayerKind, layers};
use crate::finish::Finish;
use crate::mask::{MaskLine, Step};
use crate::setting::{SettingError, parse_hex};

/// Where an element lies on the piece.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Whereabouts {
    /// All over; what lies above leaves its share of it.
    #[default]
    AllOver,
    /// Where the piece stands out.
    Edges,
    /// Where it closes in.
    Recesses,
    /// On what looks up.
    Above,
    /// Near the ground.
    Below,
    /// In patches, anywhere.
    Patches,
    /// On one part of it.
    Part,
}

impl Whereabouts {
    /// All of them, with what they are called.
    pub const ALL: [(Whereabouts, &str); 7] = [
        (Whereabouts::AllOver, "all over"),
        (Whereabouts::Edges, "edges"),
        (Whereabouts::Recesses, "recesses"),
        (Whereabouts::Above, "what looks up"),
        (Whereabouts::Below, "near the ground"),
        (Whereabouts::Patches, "patches"),
        (Whereabouts::Part, "one part"),
    ];

    /// The pattern or reading that it is told by.
    fn told_by(self) -> Option<serde_json::Value> {
        Some(match self {
            Whereabouts::AllOver | Whereabouts::Part => return None,
            Whereabouts::Edges => json!({"kind": "edges", "settings": {"radius": "medium"}}),
            Whereabouts::Recesses => json!({"kind": "recesses", "settings": {"radius": "medium"}}),
            Whereabouts::Above => json!({"kind": "facing"}),
            Whereabouts::Below => json!({"kind": "ground"}),
            Whereabouts::Patches => json!({"kind": "perlin", "settings": {"size": 60}}),
        })
    }
}

/// A row of the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Element {
    /// Stable within the plan; empty asks for a fresh one.
    #[serde(default)]
    pub id: String,
    /// What it is: body, recess grime, worn edges.
    pub name: String,
    /// Of what.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub material: String,
    /// sRGB hex.
    pub color: String,
    /// Where.
    #[serde(default)]
    pub place: Whereabouts,
    /// The part, by name, where it lies on one.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub part: String,
    /// How much of the piece's surface is to be seen of it, 0…1, where that is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub share: Option<f64>,
    /// The layer that answers it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub layer: Option<String>,
    /// Whether nothing is left to be done for it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(as = "Option<bool>", optional)]
    pub done: bool,
    /// What else is to be minded.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[ts(as = "Option<String>", optional)]
    pub note: String,
}

/// The share that is covered where the plan says none.
const UNSAID: f64 = 0.1;
/// How far what is there of an element may be from what was planned, and still answer it.
pub const NEAR: f64 = 0.05;

/// What is planned in all, where that is more than there is of the piece; as a share of it.
pub fn planned_over(plan: &[Element]) -> Option<f64> {
    let all: f64 = plan.iter().filter_map(|e| e.share).sum();
    (all > 1.001).then_some(all)
}

impl Element {
    /// A further row, to begin with.
    pub fn fresh(plan: &[Element]) -> Element {
        let name = |n| if n == 1 { "element".into() } else { format!("element {n}") };
        Element {
            id: String::new(),
            name: crate::names::free(name, |name| plan.iter().any(|e| e.name == name)),
            material: String::new(),
            color: "#8a8a86".into(),
            place: Whereabouts::default(),
            part: String::new(),
            share: None,
            layer: None,
            done: false,
            note: String::new(),
        }
    }

    /// Its mask: where it lies, cut so that its share is covered. Clouds break up what geometry alone would leave smooth.
    fn mask(&self) -> MaskLine {
        let mut line: Vec<serde_json::Value> = vec![];
        if self.place == Whereabouts::Part {
            line.push(json!({"kind": "part", "join": "replace", "settings": {"part": self.part}}));
        }
        if let Some(mut told) = self.place.told_by() {
            told["join"] = json!("replace");
            line.push(told);
            if self.place != Whereabouts::Patches {
                line.push(json!({"kind": "perlin", "join": "replace", "amount": 0.2, "settings": {"size": 30}}));
            }
            let coverage = self.share.unwrap_or(UNSAID);
            line.push(
                json!({"kind": "threshold", "settings": {"by": "coverage", "coverage": coverage, "softness": 0.03}}),
            );
        }
        let step = |value| serde_json::from_value::<Step>(value).expect("the steps are written right, as a test tells");
        MaskLine { steps: line.into_iter().map(step).collect() }
    }
}

/// A coat of one colour.
pub(super) fn flat_coat(id: String, name: &str, color: &str, mask: MaskLine) -> Layer {
    let mut finish = Finish::plain();
    if let Some(laid) = finish.channels.get_mut("base_color") {
        laid.settings.insert("color".into(), color.into());
    }
    Layer { id, mask, ..Layer::everywhere(name, LayerKind::Coat { finish }) }
}

/// Where the layer of a row goes: right over that of the nearest row before it that has one; else right below that of the nearest one after it; else over everything.
fn lay(d: &mut Document, row: usize) {
    let answered = |e: &Element| e.layer.clone();
    let below = d.study.plan[..row].iter().rev().find_map(answered);
    let above = d.study.plan[row + 1..].iter().find_map(answered);
    let id = fresh(layers(&d.layers).iter().map(|l| l.id.as_str()), 'l');
    let element = &d.study.plan[row];
    let layer = flat_coat(id.clone(), &element.name, &element.color, element.mask());
    let beside = |d: &mut Document, id: &Option<String>, over: usize, layer: Layer| {
        let (inside, at) = id.as_deref().and_then(|id| row_of(&mut d.layers, id))?;
        inside.insert(at + over, layer);
        Some(())
    };
    let laid = beside(d, &below, 1, layer.clone()).or_else(|| beside(d, &above, 0, layer.clone()));
    if laid.is_none() {
        d.layers.push(layer);
    }
    d.study.plan[row].layer = Some(id);
}

/// Changes the plan.
pub(super) fn change_plan(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    let place = |d: &Document, id: &str| {
        d.study.plan.iter().position(|e| e.id == id).ok_or_else(|| unknown("element of the plan", id))
    };
    match edit {
        Edit::SetElement { element } if element.id.is_empty() => {
            let id = fresh(d.study.plan.iter().map(|e| e.id.as_str()), 'e');
            d.study.plan.push(Element { id, ..element.clone() });
        }
        Edit::SetElement { element } => {
            let at = place(d, &element.id)?;
            d.study.plan[at] = element.clone();
        }
        Edit::RemoveElement { element } => {
            let at = place(d, element)?;
            d.study.plan.remove(at);
        }
        Edit::MoveElement { element, index } => {
            let at = place(d, element)?;
            let taken = d.study.plan.remove(at);
            d.study.plan.insert((*index).min(d.study.plan.len()), taken);
        }
        Edit::BlockIn { elements } => {
            for id in elements {
                let at = place(d, id)?;
                if d.study.plan[at].layer.is_none() {
                    lay(d, at);
                }
            }
        }
        _ => {}
    }
    Ok(())
}

/// Checks a plan; the layers that answer it are there, as is seen to before.
pub(super) fn check_plan(plan: &[Element]) -> Result<(), EditError> {
    if plan.len() > limits::ELEMENTS {
        return Err(EditError::TooMany { what: "elements in the plan", found: plan.len(), limit: limits::ELEMENTS });
    }
    let mut ids = std::collections::BTreeSet::new();
    for element in plan {
        unique(&mut ids, &element.id)?;
        name(&element.name, "element of the plan")?;
        [&element.material, &element.note, &element.part].into_iter().try_for_each(|t| check_words(t, "Plan"))?;
        let wrong = |setting: &str, wanted: &str| {
            let error = SettingError { setting: setting.into(), wanted: wanted.into() };
            Err(EditError::Setting { place: element.name.clone(), error })
        };
        if parse_hex(&element.color).is_none() {
            return wrong("Colour", "a colour written as #rrggbb");
        }
        if element.share.is_some_and(|s| !(0.0..=1.0).contains(&s)) {
            return wrong("Share", "a number from 0 to 100 %");
        }
    }
    Ok(())
}
