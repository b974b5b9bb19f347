//! Edits of dials: made, described, moved, turned and taken away.

use serde::Serialize;
use ts_rs::TS;

use super::edit::unknown;
use super::ids::fresh;
use super::settings::{set_param, standing};
use super::tree::params_mut;
use super::{Dial, Document, Edit, EditError, LayerKind, apply, derived, dial_states, dials_behind, standings};
use crate::setting::formula::FormulaError;
use crate::setting::{DialStates, Drive, DriveError, FormulaDrive, Param, Value, formula_from_labels};

pub(super) fn change_dials(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    match edit {
        Edit::MakeDial { target, label, group, low, high } => {
            let (spec, value) = standing(d, target)?;
            let no_dial = || EditError::Dial { label: label.clone(), why: "nothing but its own layer can set that" };
            let mut dial = Dial::of_setting(&spec, label, group, value.clone()).ok_or_else(no_dial)?;
            let mut drive = Drive::plain("");
            if let (Value::Number(n), true) = (value, low.is_some() || high.is_some()) {
                let (low, high) = (low.unwrap_or(spec.min), high.unwrap_or(spec.max));
                let share = if low == high { 0.0 } else { ((n - low) / (high - low)).clamp(0.0, 1.0) };
                dial.value = dial.bounded(Value::Number(spec.between(spec.min, spec.max, share)));
                dial.default = dial.value.clone();
                drive = Drive::ranged("", low, high);
            }
            let id = add_dial(d, dial);
            drive.rename(&|_| Some(id.clone()));
            set_param(d, target, Some(drive.into()))?;
        }
        Edit::AddDial { dial } => _ = add_dial(d, dial.clone()),
        Edit::SetDial { dial } => {
            let i = place(d, &dial.id)?;
            d.dials[i] = dial.clone();
        }
        Edit::MoveDial { dial, index, group } => {
            let i = place(d, dial)?;
            let moved = d.dials.remove(i);
            d.dials.insert((*index).min(d.dials.len()), Dial { group: group.clone(), ..moved });
        }
        Edit::FollowFormula { dial, text } => {
            let states = dial_states(&d.dials, &Default::default());
            let i = place(d, dial)?;
            let read = |text: &String| formula_from_labels(text, &states);
            let formula = text.as_ref().map(read).transpose().map_err(|e| wrong(&d.dials[i].label, e))?;
            // One that follows no longer stays where it was led.
            if let (None, Some(state)) = (&formula, states.get(dial)) {
                d.dials[i].value = state.value.clone();
            }
            d.dials[i].formula = formula;
        }
        Edit::SetFormula { target, text } => {
            let states = dial_states(&d.dials, &Default::default());
            let (spec, _) = standing(d, target)?;
            let formula = formula_from_labels(text, &states).map_err(|e| wrong(spec.label, e))?;
            set_param(d, target, Some(Drive::formula(&formula).into()))?;
        }
        Edit::TurnDial { layer: None, dial, value } => {
            let i = place(d, dial)?;
            turnable(&d.dials[i])?;
            d.dials[i].value = value.clone();
        }
        Edit::TurnDial { layer: Some(layer), dial, value } => {
            let LayerKind::Use { recipe, values } = &mut super::edit::layer_mut(d, layer)?.kind else {
                return Err(EditError::Place);
            };
            turnable(recipe.dials.iter().find(|x| x.id == *dial).ok_or_else(|| unknown("dial", dial))?)?;
            values.insert(dial.clone(), Param::Const(value.clone()));
        }
        Edit::RemoveDial { dial } => remove_dial(d, dial)?,
        _ => {}
    }
    Ok(())
}

/// What a formula would come to if it were kept.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct TriedFormula {
    /// What it sets stands at then; none if it can't be kept.
    pub value: Option<Value>,
    /// Why that isn't what it gives, if it isn't.
    pub bounded: Option<String>,
    /// Why it can't be kept, and where.
    pub error: Option<FormulaError>,
}

/// Tries an edit that brings in a formula, without keeping it.
pub fn try_formula(document: &Document, edit: &Edit) -> TriedFormula {
    let failed = |error| TriedFormula { value: None, bounded: None, error: Some(error) };
    let tried = match apply(document, edit) {
        Ok(tried) => tried,
        Err(EditError::Drive { why: DriveError::Formula(error), .. }) => return failed(error),
        Err(other) => {
            return failed(FormulaError { at: 0, length: 0, why: other.to_string().trim_end_matches('.').into() });
        }
    };
    let stands = |value: Value, bounded| TriedFormula { value: Some(value), bounded, error: None };
    let none = TriedFormula { value: None, bounded: None, error: None };
    match edit {
        Edit::SetFormula { target, .. } => {
            standings(&tried).into_iter().find(|s| s.target == *target).map_or(none, |s| stands(s.value, s.bounded))
        }
        Edit::FollowFormula { dial, .. } => {
            derived(&tried.dials).remove(dial).map_or(none, |d| stands(d.value, d.bounded))
        }
        _ => none,
    }
}

fn wrong(setting: &str, error: FormulaError) -> EditError {
    EditError::Drive { place: "Formula".into(), setting: setting.into(), why: DriveError::Formula(error) }
}

fn place(d: &Document, id: &str) -> Result<usize, EditError> {
    d.dials.iter().position(|x| x.id == *id).ok_or_else(|| unknown("dial", id))
}

/// Adds a dial under an id of its own; that id.
fn add_dial(d: &mut Document, dial: Dial) -> String {
    let id = fresh(d.dials.iter().map(|x| x.id.as_str()), 'd');
    d.dials.push(Dial { id: id.clone(), ..dial });
    id
}

fn turnable(dial: &Dial) -> Result<(), EditError> {
    let led = || EditError::Dial { label: dial.label.clone(), why: "it follows a formula and is not turned" };
    if dial.formula.is_none() { Ok(()) } else { Err(led()) }
}

/// Takes away the dials that came with a layer and drive nothing any more.
pub(super) fn remove_idle(d: &mut Document, layer: &str) -> Result<(), EditError> {
    let left = dials_behind(&d.layers, &d.dials);
    let idle = |x: &&Dial| x.of.as_deref() == Some(layer) && left.iter().all(|l| l.id != x.id);
    let idle: Vec<String> = d.dials.iter().filter(idle).map(|x| x.id.clone()).collect();
    idle.iter().try_for_each(|id| remove_dial(d, id))
}

/// Takes a dial away; what followed it keeps what it gave.
pub(super) fn remove_dial(d: &mut Document, id: &str) -> Result<(), EditError> {
    let i = place(d, id)?;
    let states = dial_states(&d.dials, &Default::default());
    params_mut(&mut d.layers, &mut |spec, param| {
        if let Param::Drive(drive) = param
            && drive.follows(id)
        {
            *param = drive.without(id, spec, &states);
        }
    });
    d.dials.remove(i);
    for dial in &mut d.dials {
        let_go(dial, id, &states);
    }
    Ok(())
}

/// Lets a dial follow no longer one that goes.
fn let_go(dial: &mut Dial, gone: &str, states: &DialStates) {
    dial.when = dial.when.take().filter(|w| w.dial != gone);
    if let Some(formula) = dial.formula.take() {
        let mut drive = FormulaDrive { formula };
        drive.hold(gone, states);
        dial.formula = Some(drive.formula);
    }
}
