//! What settings take: values in range, dials that are there, masks, ramps and pictures where they can be read.

use super::error::{EditError, limits};
use crate::mask::{Step, StepKind, amount_spec};
use crate::setting::{
    Between, DialStates, MaskDrive, MaskSource, Param, ParamSpec, ParamType, RampDrive, Settings, Value, palette_spec,
};

/// Settings of a channel: its value may be read along a ramp, and its numbers along a mask.
pub(super) fn check_channel(
    place: &str,
    specs: &[ParamSpec],
    settings: &Settings,
    dials: &DialStates,
) -> Result<(), EditError> {
    for (key, param) in settings {
        match (specs.iter().find(|s| s.key == key), param) {
            (Some(spec), Param::Mask(drive)) if spec.varies => check_mask_drive(place, spec, drive, true, dials)?,
            (Some(spec), Param::Ramp(drive)) if spec.ramps => check_ramp(place, spec, drive, dials)?,
            (Some(spec), Param::Colors(drive)) if spec.ramps => check_colors(place, spec, &drive.colors, dials)?,
            _ => check_settings(place, specs, [(key, param)], dials)?,
        }
    }
    Ok(())
}

fn check_ramp(place: &str, spec: &ParamSpec, drive: &RampDrive, dials: &DialStates) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::Ramp { place: place.into(), setting: spec.label.into(), why });
    if drive.stops.is_empty() || drive.stops.len() > limits::STOPS {
        return wrong("it needs 1 to 16 stops");
    }
    let within = drive.stops.iter().all(|s| (0.0..=1.0).contains(&s.at));
    if drive.between == Between::Palette {
        if !within || drive.stops.iter().all(|s| s.at == 0.0) {
            return wrong("its weights must lie from 0 to 1, and one of them above 0");
        }
    } else if !within || !drive.stops.is_sorted_by(|a, b| a.at <= b.at) {
        return wrong("its stops must lie from 0 to 1, in the order of their places");
    }
    if let Some(by) = &drive.palette {
        if drive.between != Between::Palette || spec.kind != ParamType::Color {
            return wrong("a palette sets its colours, and it is none");
        }
        check_param(place, &palette_spec(&drive.stops), &Param::Drive(by.clone()), dials)?;
    }
    if !(1..=64).contains(&drive.repeat) {
        return wrong("it can run through 1 to 64 times");
    }
    for stop in &drive.stops {
        spec.check(&stop.value).map_err(|error| EditError::Setting { place: place.into(), error })?;
        if let Some(by) = &stop.by {
            check_param(place, spec, &Param::Drive(by.clone()), dials)?;
        }
    }
    check_source(place, spec, &drive.along, true, dials)
}

fn check_colors(place: &str, spec: &ParamSpec, source: &MaskSource, dials: &DialStates) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
    if spec.kind != ParamType::Color {
        return wrong("it takes a number, and a picture’s colours are none; let it vary with the picture as a mask");
    }
    let Some(kind) = StepKind::find(&source.kind).filter(|k| k.is_of_colors()) else {
        return wrong("only a picture brings in colours");
    };
    check_settings(&format!("{place} › {} › {}", spec.label, kind.label()), kind.specs(), &source.settings, dials)
}

fn check_mask_drive(
    place: &str,
    spec: &ParamSpec,
    drive: &MaskDrive,
    finish: bool,
    dials: &DialStates,
) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
    if !matches!(spec.kind, ParamType::Number | ParamType::Integer) {
        return wrong("only numbers can vary over the surface; give it a value or a dial");
    }
    for end in [drive.low, drive.high] {
        spec.check(&Value::Number(end)).map_err(|error| EditError::Setting { place: place.into(), error })?;
    }
    check_source(place, spec, &drive.mask, finish, dials)
}

fn check_source(
    place: &str,
    spec: &ParamSpec,
    source: &MaskSource,
    finish: bool,
    dials: &DialStates,
) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
    let Some(kind) = StepKind::find(&source.kind) else {
        return Err(EditError::UnknownKind { family: "mask step", kind: source.kind.clone() });
    };
    if kind.is_of_finish() && !finish {
        return wrong("a line can't read the mask that it makes; take a reading, a pattern or a published mask");
    }
    if kind.is_of_colors() {
        return wrong("a picture’s colours are no mask; take the picture as a mask, with the number that is wanted");
    }
    if kind.is_by_hand() {
        return wrong("what is laid by hand stands in a mask line; let a layer publish its mask, and follow that");
    }
    if matches!(kind, StepKind::Shaper(_)) {
        return wrong("a shaper brings nothing in by itself; take a reading, a pattern or a published mask");
    }
    let inner = format!("{place} › {} › {}", spec.label, kind.label());
    check_settings(&inner, kind.specs(), &source.settings, dials)
}

pub(super) fn check_settings<'a>(
    place: &str,
    specs: &[ParamSpec],
    settings: impl IntoIterator<Item = (&'a String, &'a Param)>,
    dials: &DialStates,
) -> Result<(), EditError> {
    for (key, param) in settings {
        let Some(spec) = specs.iter().find(|s| s.key == key) else {
            return Err(EditError::UnknownSetting { place: place.into(), key: key.clone() });
        };
        check_param(place, spec, param, dials)?;
    }
    Ok(())
}

pub(super) fn check_param(place: &str, spec: &ParamSpec, param: &Param, dials: &DialStates) -> Result<(), EditError> {
    let drive = match param {
        Param::Const(v) => {
            return spec.check(v).map_err(|error| EditError::Setting { place: place.into(), error });
        }
        Param::Drive(drive) => drive,
        Param::Colors(_) => {
            let why = "only colours of a finish are read from a picture; give it a value or a dial";
            return Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
        }
        Param::Ramp(_) => {
            let why = "only what a coat lays down is read along a ramp; give it a value or a dial";
            return Err(EditError::Ramp { place: place.into(), setting: spec.label.into(), why });
        }
        Param::Mask(_) => {
            let why = "only numbers of the steps of a mask line and of a finish can vary over the surface, and those of a mask that drives one can't";
            return Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
        }
    };
    let refused = |why| EditError::Drive { place: place.into(), setting: spec.label.into(), why };
    drive.check(spec, dials).map_err(refused)
}

pub(super) fn check_step(layer: &str, s: &Step, dials: &DialStates) -> Result<(), EditError> {
    let unknown = || EditError::UnknownKind { family: "mask step", kind: s.kind.clone() };
    let kind = StepKind::find(&s.kind).filter(|k| !k.is_of_finish()).ok_or_else(unknown)?;
    let place = format!("{layer} › {}", kind.label());
    let specs = kind.specs();
    let mut driven = 0;
    for (key, param) in [("amount", &s.amount)].into_iter().chain(s.settings.iter().map(|(k, p)| (k.as_str(), p))) {
        let Param::Mask(drive) = param else { continue };
        let amount = amount_spec();
        let Some(spec) = specs.iter().chain([&amount]).find(|s| s.key == key) else { continue };
        check_mask_drive(&place, spec, drive, false, dials)?;
        driven += usize::from(key != "amount");
        if driven > limits::DRIVEN {
            let why = "two numbers of a step already are; give one of them a value first";
            return Err(EditError::MaskDrive { place, setting: spec.label.into(), why });
        }
    }
    // What masks drive has been checked; the rest may not be driven by one.
    let plain = |p: &Param| !matches!(p, Param::Mask(_));
    if plain(&s.amount) {
        check_param(&place, &amount_spec(), &s.amount, dials)?;
    }
    let rest = s.settings.iter().filter(|(key, p)| plain(p) || !specs.iter().any(|s| s.key == key.as_str()));
    check_settings(&place, specs, rest, dials)
}
