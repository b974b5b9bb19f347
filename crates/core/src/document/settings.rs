//! Giving a setting a value or a drive, wherever it stands.

use super::edit::{layer_mut, step_at, unknown};
use super::{Document, EditError, Target, opacity_spec};
use crate::bake::{Extent, measurement};
use crate::finish::{ChannelUse, channel};
use crate::mask::{StepKind, amount_spec};
use crate::setting::{Param, ParamSpec};

pub(super) fn set_param(d: &mut Document, target: &Target, value: Option<Param>) -> Result<(), EditError> {
    let key = target.key.as_str();
    if let Some(kind) = &target.reading {
        let m = measurement::find(kind).ok_or_else(|| unknown("measurement", kind))?;
        spec_of((m.specs)(Extent::default()), m.label, key)?;
        let settings = d.readings.entry(kind.clone()).or_default();
        put(settings, key, value);
        return Ok(());
    }
    let layer = layer_mut(d, target.layer.as_deref().unwrap_or_default())?;
    if let Some(id) = &target.step {
        let i = step_at(layer, id)?;
        let step = &mut layer.mask.steps[i];
        let kind = StepKind::find(&step.kind).ok_or_else(|| unknown("kind of step", &step.kind))?;
        if let Some(inner) = &target.inner {
            let driven = if key == "amount" { Some(&mut step.amount) } else { step.settings.get_mut(key) };
            return put_inner(driven, key, inner, value);
        }
        if key == "amount" {
            step.amount = value.unwrap_or(Param::Const(amount_spec().default));
            return Ok(());
        }
        spec_of(kind.specs(), kind.label(), key)?;
        put(&mut step.settings, key, value);
        return Ok(());
    }
    if let Some(kind) = &target.channel {
        let (finish, role) = layer.kind.finish_mut().ok_or(EditError::Place)?;
        let c = channel::find(kind).ok_or_else(|| unknown("channel", kind))?;
        spec_of(c.settings(role), c.label, key)?;
        if let Some(inner) = &target.inner {
            let driven = finish.channels.get_mut(kind).and_then(|c| c.settings.get_mut(key));
            return put_inner(driven, key, inner, value);
        }
        let fresh = || ChannelUse { on: true, settings: Default::default() };
        put(&mut finish.channels.entry(kind.clone()).or_insert_with(fresh).settings, key, value);
        return Ok(());
    }
    spec_of(vec![opacity_spec()], &layer.name, key)?;
    layer.opacity = value.unwrap_or(Param::Const(opacity_spec().default));
    Ok(())
}

/// Sets a setting of the mask that drives a param.
fn put_inner(driven: Option<&mut Param>, key: &str, inner: &str, value: Option<Param>) -> Result<(), EditError> {
    let Some(source) = driven.and_then(Param::source_mut) else { return Err(unknown("mask that drives", key)) };
    let kind = StepKind::find(&source.kind).ok_or_else(|| unknown("kind of step", &source.kind))?;
    spec_of(kind.specs(), kind.label(), inner)?;
    put(&mut source.settings, inner, value);
    Ok(())
}

fn put(settings: &mut crate::setting::Settings, key: &str, value: Option<Param>) {
    match value {
        Some(v) => _ = settings.insert(key.into(), v),
        None => _ = settings.remove(key),
    }
}

fn spec_of(specs: Vec<ParamSpec>, place: &str, key: &str) -> Result<ParamSpec, EditError> {
    let missing = || EditError::UnknownSetting { place: place.into(), key: key.into() };
    specs.into_iter().find(|s| s.key == key).ok_or_else(missing)
}
