//! Slots: a recipe names no part and no picture by itself. What its layers name becomes a dial that says which one is meant on the piece at hand.

use std::collections::BTreeMap;

use crate::document::{Dial, Layer, LayerKind, Recipe, params_mut};
use crate::setting::{DialKind, Drive, Param, Value};

/// Whether a dial is one that a piece has to fill.
pub(super) fn is_slot(dial: &Dial) -> bool {
    matches!(dial.kind(), DialKind::Part | DialKind::Picture)
}

impl Recipe {
    /// The same with a slot for every part and every picture that its layers name, those of recipes within it as well. It looks the same where the piece has them.
    pub fn with_slots(mut self) -> Recipe {
        let mut slots = Slots { dials: &mut self.dials, made: BTreeMap::new() };
        params_mut(&mut self.layers, &mut |spec, param| {
            let Some(kind) = DialKind::of_setting(spec.kind, spec.key) else { return };
            if let Param::Const(Value::Text(name)) = param
                && matches!(kind, DialKind::Part | DialKind::Picture)
                && !name.is_empty()
            {
                *param = slots.drive(kind, name.clone(), "").into();
            }
        });
        fill_uses(&mut self.layers, &mut slots);
        self
    }
}

/// Lets the slots of recipes within follow slots of the one around them, where nothing else fills them.
fn fill_uses(all: &mut [Layer], slots: &mut Slots) {
    for layer in all {
        match &mut layer.kind {
            LayerKind::Group { layers } => fill_uses(layers, slots),
            LayerKind::Use { recipe, values } => {
                for dial in recipe.dials.iter().filter(|d| is_slot(d) && d.formula.is_none()) {
                    if !values.contains_key(&dial.id)
                        && let Value::Text(name) = &dial.value
                    {
                        values.insert(dial.id.clone(), slots.drive(dial.kind(), name.clone(), &dial.label).into());
                    }
                }
            }
            LayerKind::Coat { .. } | LayerKind::Adjust { .. } => {}
        }
    }
}

struct Slots<'a> {
    dials: &'a mut Vec<Dial>,
    /// By kind and name; what is named nowhere is known by its label.
    made: BTreeMap<(bool, String), String>,
}

impl Slots<'_> {
    /// What lets a setting follow the slot for a part or picture, which is made where there is none yet.
    fn drive(&mut self, kind: DialKind, name: String, label: &str) -> Drive {
        let label = if name.is_empty() { label } else { &name };
        let key = (kind == DialKind::Part, label.to_owned());
        if let Some(id) = self.made.get(&key) {
            return Drive::plain(id);
        }
        let (what, group) = if kind == DialKind::Part { ("part", "Parts") } else { ("picture", "Pictures") };
        // Known by what it is for, whatever else the next version has.
        let id = format!("{what} {}", &blake3::hash(label.as_bytes()).to_hex()[..12]);
        let taken = |text: &str| self.dials.iter().any(|d| d.label.eq_ignore_ascii_case(text));
        let label = if taken(label) { format!("{label} ({what})") } else { label.to_owned() };
        let help = format!("Which {what} of the piece is meant.");
        let dial = Dial { group: group.into(), help, ..Dial::new(&id, &label, kind, Value::Text(name)) };
        self.dials.push(dial);
        self.made.insert(key, id.clone());
        Drive::plain(&id)
    }
}

/// The labels of a recipe's slots of a kind.
pub(super) fn labels(recipe: &Recipe, kind: DialKind) -> Vec<String> {
    recipe.dials.iter().filter(|d| d.kind() == kind && d.formula.is_none()).map(|d| d.label.clone()).collect()
}
