//! Giving a setting a value or a drive, wherever it stands.

use super::check_settings::check_param;
use super::edit::{layer_mut, step_at, unknown};
use super::{Document, EditError, LayerKind, Target, dial_states, opacity_spec};
use crate::bake::{Extent, measurement};
use crate::finish::{ChannelUse, channel};
use crate::mask::{StepKind, amount_spec};
use crate::mesh::mend;
use crate::setting::{PALETTE, Param, ParamSpec, RampDrive, Settings, Value, palette_spec, palette_stops, resolve_one};

/// Where a setting is kept.
enum Slot<'a> {
    /// Among others, under its key; one that is missing stands at its default.
    Among(&'a mut Settings),
    /// By itself.
    Alone(&'a mut Param),
    /// The colours of a ramp, all together.
    Palette(&'a mut RampDrive),
}

/// Sets a setting; `None` resets it.
pub(super) fn set_param(d: &mut Document, target: &Target, value: Option<Param>) -> Result<(), EditError> {
    let (spec, slot) = slot(d, target)?;
    match (slot, value) {
        (Slot::Among(settings), Some(value)) => _ = settings.insert(key(target).into(), value),
        (Slot::Among(settings), None) => _ = settings.remove(key(target)),
        (Slot::Alone(param), value) => *param = value.unwrap_or(Param::Const(spec.default)),
        (Slot::Palette(ramp), Some(Param::Drive(drive))) => ramp.palette = Some(drive),
        (Slot::Palette(ramp), value) => {
            // Without a value its colours stay.
            let value = value.unwrap_or(Param::Const(spec.default.clone()));
            check_param(spec.label, &spec, &value, &Default::default())?;
            if let Param::Const(value) = value {
                ramp.stops = palette_stops(&value).unwrap_or_else(|| std::mem::take(&mut ramp.stops));
            }
            ramp.palette = None;
        }
    }
    Ok(())
}

/// The description of a setting, and what it stands at.
pub(super) fn standing(d: &mut Document, target: &Target) -> Result<(ParamSpec, Value), EditError> {
    let states = dial_states(&d.dials, &Default::default());
    let (spec, slot) = slot(d, target)?;
    let value = match slot {
        Slot::Among(settings) => resolve_one(&spec, settings.get(key(target)), &states),
        Slot::Alone(param) => resolve_one(&spec, Some(param), &states),
        Slot::Palette(_) => spec.default.clone(),
    };
    Ok((spec, value))
}

/// The key under which a setting stands among others.
fn key(target: &Target) -> &str {
    match (&target.dial, &target.inner) {
        (Some(dial), _) => dial,
        (None, Some(inner)) => inner,
        (None, None) => &target.key,
    }
}

fn slot<'a>(d: &'a mut Document, target: &Target) -> Result<(ParamSpec, Slot<'a>), EditError> {
    let key = target.key.as_str();
    if let Some(kind) = &target.reading {
        let (label, specs) =
            measurement::settings_of(kind, Extent::default()).ok_or_else(|| unknown("measurement", kind))?;
        let spec = spec_of(specs, label, key)?;
        return Ok((spec, Slot::Among(d.readings.entry(kind.clone()).or_default())));
    }
    if target.mending {
        return Ok((spec_of(mend::specs(), "Mesh", key)?, Slot::Among(&mut d.intake.mending)));
    }
    let layer = layer_mut(d, target.layer.as_deref().unwrap_or_default())?;
    if let Some(id) = &target.dial {
        let LayerKind::Use { recipe, values } = &mut layer.kind else { return Err(EditError::Place) };
        let dial = recipe.dials.iter().find(|x| x.id == *id).ok_or_else(|| unknown("dial", id))?;
        return Ok((dial.spec(), Slot::Among(values)));
    }
    if let Some(id) = &target.step {
        let i = step_at(layer, id)?;
        let step = &mut layer.mask.steps[i];
        let kind = StepKind::find(&step.kind).ok_or_else(|| unknown("kind of step", &step.kind))?;
        if let Some(inner) = &target.inner {
            return inner_slot(
                if key == "amount" { Some(&mut step.amount) } else { step.settings.get_mut(key) },
                key,
                inner,
            );
        }
        if key == "amount" {
            return Ok((amount_spec(), Slot::Alone(&mut step.amount)));
        }
        return Ok((spec_of(kind.specs().to_vec(), kind.label(), key)?, Slot::Among(&mut step.settings)));
    }
    if let Some(kind) = &target.channel {
        let (finish, role) = layer.kind.finish_mut().ok_or(EditError::Place)?;
        let c = channel::find(kind).ok_or_else(|| unknown("channel", kind))?;
        let spec = spec_of(c.settings(role), c.label, key)?;
        if let Some(inner) = &target.inner {
            return inner_slot(finish.channels.get_mut(kind).and_then(|c| c.settings.get_mut(key)), key, inner);
        }
        let fresh = || ChannelUse { on: true, settings: Default::default() };
        return Ok((spec, Slot::Among(&mut finish.channels.entry(kind.clone()).or_insert_with(fresh).settings)));
    }
    let spec = spec_of(vec![opacity_spec()], &layer.name, key)?;
    Ok((spec, Slot::Alone(&mut layer.opacity)))
}

/// A setting of the mask that drives a param, or the colours of its ramp.
fn inner_slot<'a>(driven: Option<&'a mut Param>, key: &str, inner: &str) -> Result<(ParamSpec, Slot<'a>), EditError> {
    let none = || unknown("mask that drives", key);
    let driven = driven.ok_or_else(none)?;
    if inner == PALETTE {
        let Param::Ramp(ramp) = driven else { return Err(unknown("ramp of", key)) };
        return Ok((palette_spec(&ramp.stops), Slot::Palette(ramp)));
    }
    let source = driven.source_mut().ok_or_else(none)?;
    let kind = StepKind::find(&source.kind).ok_or_else(|| unknown("kind of step", &source.kind))?;
    Ok((spec_of(kind.specs().to_vec(), kind.label(), inner)?, Slot::Among(&mut source.settings)))
}

fn spec_of(specs: Vec<ParamSpec>, place: &str, key: &str) -> Result<ParamSpec, EditError> {
    let missing = || EditError::UnknownSetting { place: place.into(), key: key.into() };
    specs.into_iter().find(|s| s.key == key).ok_or_else(missing)
}
