//! What a valid document is. Checked on every edit and on every file that comes in.

use std::collections::BTreeSet;

use super::{Dial, Document, FORMAT, Layer, LayerKind, opacity_spec};
use crate::bake::{Extent, measurement, reading};
use crate::finish::channel;
use crate::mask::{Step, StepKind, amount_spec};
use crate::mesh::Intake;
use crate::raster::is_texture_size;
use crate::setting::{MaskDrive, MaskSource, Param, ParamSpec, ParamType, RampDrive, SettingError, Settings, Value};

/// How much a document may hold.
pub mod limits {
    /// Layers, all told.
    pub const LAYERS: usize = 256;
    /// Groups within groups.
    pub const DEPTH: usize = 16;
    /// Steps in a mask line.
    pub const STEPS: usize = 64;
    /// Stops of a ramp.
    pub const STOPS: usize = 16;
    /// Numbers of a step, besides its amount, that masks drive.
    pub const DRIVEN: usize = 2;
    /// Dials.
    pub const DIALS: usize = 128;
    /// Pictures brought in for the piece.
    pub const PICTURES: usize = 64;
    /// Characters in a name.
    pub const NAME: usize = 120;
}

/// Why an edit or a document was refused. Nothing was changed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum EditError {
    /// Written by something else.
    #[error(
        "This document's format is “{found}”; this version of Dust Coat reads “{FORMAT}”. Open it with the version that wrote it."
    )]
    Format {
        /// What it says.
        found: String,
    },
    /// An id that is not there.
    #[error(
        "There is no {what} “{id}” any more; it may have been removed in another window. Reload the page to see what is there."
    )]
    Unknown {
        /// Layer, step, dial …
        what: &'static str,
        /// The id.
        id: String,
    },
    /// A kind that is not in the catalog.
    #[error("“{kind}” is not a kind of {family} that this version knows.")]
    UnknownKind {
        /// Step, channel, reading.
        family: &'static str,
        /// The kind.
        kind: String,
    },
    /// A key that the step or channel doesn't have.
    #[error("{place} has no setting called “{key}”.")]
    UnknownSetting {
        /// Layer and step.
        place: String,
        /// The key.
        key: String,
    },
    /// A value out of range.
    #[error("{place}: {error}")]
    Setting {
        /// Layer and step.
        place: String,
        /// What it takes.
        error: SettingError,
    },
    /// Past a limit.
    #[error("That would make {found} {what}; the most is {limit}. Remove some first.")]
    TooMany {
        /// What there is too much of.
        what: &'static str,
        /// How many.
        found: usize,
        /// The limit.
        limit: usize,
    },
    /// An empty or endless name.
    #[error("A {what} needs a name of 1 to {} characters.", limits::NAME)]
    Name {
        /// Layer, dial, project.
        what: &'static str,
    },
    /// A dial whose range or default make no sense.
    #[error("The dial “{label}” can't be: {why}.")]
    Dial {
        /// Its label.
        label: String,
        /// What is wrong.
        why: &'static str,
    },
    /// Driven by a dial that is not there.
    #[error("{place}: “{setting}” is driven by a dial that is gone (“{dial}”). Give it a value or another dial.")]
    DialGone {
        /// Layer and step.
        place: String,
        /// Label of the setting.
        setting: String,
        /// The dial's id.
        dial: String,
    },
    /// A colour driven by a number or the other way round.
    #[error("{place}: “{setting}” can't be driven by the dial “{dial}”: one is a colour, the other a number.")]
    DialKind {
        /// Layer and step.
        place: String,
        /// Label of the setting.
        setting: String,
        /// The dial's label.
        dial: String,
    },
    /// A mask that can't drive a number.
    #[error("{place}: “{setting}” can't be driven by that mask: {why}.")]
    MaskDrive {
        /// Layer and step.
        place: String,
        /// Label of the setting.
        setting: String,
        /// What is wrong, and what would be right.
        why: &'static str,
    },
    /// A ramp that can't be read.
    #[error("{place}: “{setting}” can't be that ramp: {why}.")]
    Ramp {
        /// Layer and channel.
        place: String,
        /// Label of the setting.
        setting: String,
        /// What is wrong, and what would be right.
        why: &'static str,
    },
    /// Into itself, or into something that holds nothing.
    #[error("A layer can only be moved into a group, and not into itself.")]
    Place,
    /// Two layers publish under one name.
    #[error("Two layers publish their mask as “{name}”. Give one of them another name.")]
    PublishedTwice {
        /// The name.
        name: String,
    },
    /// Masks that follow each other round.
    #[error("These masks follow each other in a circle: {circle}. Let one of them follow something else.")]
    Circle {
        /// Names of the layers, the first one again at the end.
        circle: String,
    },
    /// A recipe that would be cut off from a mask.
    #[error(
        "{layer} follows the mask “{name}”, which a layer outside of what is saved publishes. Put both into one group and save that."
    )]
    FollowsOutside {
        /// The layer.
        layer: String,
        /// The name under which the mask is published.
        name: String,
    },
    /// Two things of one id.
    #[error("The document names “{id}” twice.")]
    Twice {
        /// The id.
        id: String,
    },
}

/// Checks a whole document.
///
/// # Errors
/// The first thing found wrong, with its place.
pub fn check(document: &Document) -> Result<(), EditError> {
    if document.format != FORMAT {
        return Err(EditError::Format { found: document.format.chars().take(40).collect() });
    }
    name(&document.name, "project")?;
    if !is_texture_size(document.draft_size) {
        let error = SettingError { setting: "Draft size".into(), wanted: "a power of two from 64 to 4096".into() };
        return Err(EditError::Setting { place: "Project".into(), error });
    }
    for (kind, settings) in &document.readings {
        let Some(m) = measurement::find(kind) else {
            return Err(EditError::UnknownKind { family: "measurement", kind: kind.clone() });
        };
        check_settings(m.label, &(m.specs)(Extent::default()), settings, &[])?;
    }
    check_intake(&document.intake)?;
    scope(&document.layers, &document.dials)
}

fn check_intake(intake: &Intake) -> Result<(), EditError> {
    if intake.pictures.len() > limits::PICTURES {
        return Err(EditError::TooMany { what: "pictures", found: intake.pictures.len(), limit: limits::PICTURES });
    }
    let wrong = |setting: &str, wanted: &str| {
        let error = SettingError { setting: setting.into(), wanted: wanted.into() };
        Err(EditError::Setting { place: "Piece".into(), error })
    };
    if !(0.0..=1.0).contains(&intake.tolerance) {
        return wrong("Tolerance", "a number from 0 to 1");
    }
    if intake.finer.as_ref().and_then(|f| f.cage).is_some_and(|c| !(c > 0.0 && c <= 10_000.0)) {
        return wrong("Cage", "a length from 0 to 10000 mm");
    }
    for look in intake.parts.values() {
        if let Some(text) = &look.name {
            name(text, "part")?;
        }
        if look.color.as_deref().is_some_and(|c| crate::setting::parse_hex(c).is_none()) {
            return wrong("Colour of a part", "a colour written as #rrggbb");
        }
    }
    for p in &intake.pictures {
        let known = matches!(p.purpose.as_str(), "" | "normal" | "parts" | "curvature" | "mask")
            || reading::find(&p.purpose).is_some();
        if !known {
            return Err(EditError::UnknownKind { family: "purpose", kind: p.purpose.clone() });
        }
    }
    Ok(())
}

/// Checks layers with the dials that drive them: a document, or a recipe.
pub(crate) fn scope(layers: &[Layer], dials: &[Dial]) -> Result<(), EditError> {
    if dials.len() > limits::DIALS {
        return Err(EditError::TooMany { what: "dials", found: dials.len(), limit: limits::DIALS });
    }
    let mut ids = BTreeSet::new();
    for d in dials {
        check_dial(d)?;
        unique(&mut ids, &d.id)?;
    }
    let mut ids = BTreeSet::new();
    check_layers(layers, dials, 0, &mut ids)?;
    super::follows::check(layers)?;
    if ids.len() > limits::LAYERS {
        return Err(EditError::TooMany { what: "layers", found: ids.len(), limit: limits::LAYERS });
    }
    Ok(())
}

fn unique(ids: &mut BTreeSet<String>, id: &str) -> Result<(), EditError> {
    if id.len() <= 40 && ids.insert(id.to_owned()) { Ok(()) } else { Err(EditError::Twice { id: id.into() }) }
}

fn name(text: &str, what: &'static str) -> Result<(), EditError> {
    let n = text.trim().chars().count();
    if n == 0 || n > limits::NAME { Err(EditError::Name { what }) } else { Ok(()) }
}

fn check_dial(d: &Dial) -> Result<(), EditError> {
    name(&d.label, "dial")?;
    let wrong = |why| Err(EditError::Dial { label: d.label.clone(), why });
    if d.group.chars().count() > limits::NAME || d.unit.chars().count() > 12 {
        return wrong("its group or unit is too long");
    }
    match (&d.default, &d.value) {
        (Value::Number(a), Value::Number(b)) => {
            if !(d.min.is_finite() && d.max.is_finite() && d.min < d.max) {
                return wrong("its range must run from a lower to a higher number");
            }
            let inside = |v: &f64| v.is_finite() && (d.min..=d.max).contains(v);
            if inside(a) && inside(b) { Ok(()) } else { wrong("its value and its default must lie within its range") }
        }
        (Value::Text(a), Value::Text(b)) => {
            let color = |t: &str| crate::setting::parse_hex(t).is_some();
            if color(a) && color(b) { Ok(()) } else { wrong("a colour is written as #rrggbb") }
        }
        _ => wrong("its value must be a number or a colour, like its default"),
    }
}

fn check_layers(layers: &[Layer], dials: &[Dial], depth: usize, ids: &mut BTreeSet<String>) -> Result<(), EditError> {
    if depth > limits::DEPTH {
        return Err(EditError::TooMany { what: "groups within groups", found: depth, limit: limits::DEPTH });
    }
    for l in layers {
        name(&l.name, "layer")?;
        if let Some(published) = &l.publish {
            name(published, "published mask")?;
        }
        unique(ids, &l.id)?;
        check_param(&l.name, &opacity_spec(), &l.opacity, dials)?;
        if l.mask.steps.len() > limits::STEPS {
            let found = l.mask.steps.len();
            return Err(EditError::TooMany { what: "steps in a mask line", found, limit: limits::STEPS });
        }
        let mut steps = BTreeSet::new();
        for s in &l.mask.steps {
            unique(&mut steps, &s.id)?;
            check_step(&l.name, s, dials)?;
        }
        match &l.kind {
            LayerKind::Group { layers } => check_layers(layers, dials, depth + 1, ids)?,
            LayerKind::Coat { .. } | LayerKind::Adjust { .. } => check_finish(l, dials)?,
            LayerKind::Use { recipe, values } => {
                recipe.check()?;
                for (id, value) in values {
                    let Some(d) = recipe.dials.iter().find(|d| d.id == *id) else {
                        return Err(EditError::Unknown { what: "dial", id: id.clone() });
                    };
                    check_dial(&Dial { value: value.clone(), ..d.clone() })?;
                }
            }
        }
    }
    Ok(())
}

fn check_finish(layer: &Layer, dials: &[Dial]) -> Result<(), EditError> {
    let Some((finish, role)) = layer.kind.finish() else { return Ok(()) };
    for (key, ch) in &finish.channels {
        let Some(channel) = channel::find(key) else {
            return Err(EditError::UnknownKind { family: "channel", kind: key.clone() });
        };
        let place = format!("{} › {}", layer.name, channel.label);
        check_channel(&place, &channel.settings(role), &ch.settings, dials)?;
    }
    Ok(())
}

fn check_step(layer: &str, s: &Step, dials: &[Dial]) -> Result<(), EditError> {
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
    check_settings(&place, &specs, rest, dials)
}

/// Settings of a channel: its value may be read along a ramp, and its numbers along a mask.
fn check_channel(place: &str, specs: &[ParamSpec], settings: &Settings, dials: &[Dial]) -> Result<(), EditError> {
    for (key, param) in settings {
        match (specs.iter().find(|s| s.key == key), param) {
            (Some(spec), Param::Mask(drive)) if spec.varies => check_mask_drive(place, spec, drive, true, dials)?,
            (Some(spec), Param::Ramp(drive)) if spec.ramps => check_ramp(place, spec, drive, dials)?,
            _ => check_settings(place, specs, [(key, param)], dials)?,
        }
    }
    Ok(())
}

fn check_ramp(place: &str, spec: &ParamSpec, drive: &RampDrive, dials: &[Dial]) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::Ramp { place: place.into(), setting: spec.label.into(), why });
    if drive.stops.is_empty() || drive.stops.len() > limits::STOPS {
        return wrong("it needs 1 to 16 stops");
    }
    if !drive.stops.iter().all(|s| (0.0..=1.0).contains(&s.at)) || !drive.stops.is_sorted_by(|a, b| a.at <= b.at) {
        return wrong("its stops must lie from 0 to 1, in the order of their places");
    }
    if !(1..=64).contains(&drive.repeat) {
        return wrong("it can run through 1 to 64 times");
    }
    for stop in &drive.stops {
        spec.check(&stop.value).map_err(|error| EditError::Setting { place: place.into(), error })?;
    }
    check_source(place, spec, &drive.along, true, dials)
}

fn check_mask_drive(
    place: &str,
    spec: &ParamSpec,
    drive: &MaskDrive,
    finish: bool,
    dials: &[Dial],
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
    dials: &[Dial],
) -> Result<(), EditError> {
    let wrong = |why| Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
    let Some(kind) = StepKind::find(&source.kind) else {
        return Err(EditError::UnknownKind { family: "mask step", kind: source.kind.clone() });
    };
    if kind.is_of_finish() && !finish {
        return wrong("a line can't read the mask that it makes; take a reading, a pattern or a published mask");
    }
    if matches!(kind, StepKind::Shaper(_)) {
        return wrong("a shaper brings nothing in by itself; take a reading, a pattern or a published mask");
    }
    let inner = format!("{place} › {} › {}", spec.label, kind.label());
    check_settings(&inner, &kind.specs(), &source.settings, dials)
}

fn check_settings<'a>(
    place: &str,
    specs: &[ParamSpec],
    settings: impl IntoIterator<Item = (&'a String, &'a Param)>,
    dials: &[Dial],
) -> Result<(), EditError> {
    for (key, param) in settings {
        let Some(spec) = specs.iter().find(|s| s.key == key) else {
            return Err(EditError::UnknownSetting { place: place.into(), key: key.clone() });
        };
        check_param(place, spec, param, dials)?;
    }
    Ok(())
}

fn check_param(place: &str, spec: &ParamSpec, param: &Param, dials: &[Dial]) -> Result<(), EditError> {
    let drive = match param {
        Param::Const(v) => {
            return spec.check(v).map_err(|error| EditError::Setting { place: place.into(), error });
        }
        Param::Dial(drive) => drive,
        Param::Ramp(_) => {
            let why = "only what a coat lays down is read along a ramp; give it a value or a dial";
            return Err(EditError::Ramp { place: place.into(), setting: spec.label.into(), why });
        }
        Param::Mask(_) => {
            let why = "only numbers of the steps of a mask line and of a finish can vary over the surface, and those of a mask that drives one can't";
            return Err(EditError::MaskDrive { place: place.into(), setting: spec.label.into(), why });
        }
    };
    let setting = || spec.label.to_owned();
    let Some(dial) = dials.iter().find(|d| d.id == drive.dial) else {
        return Err(EditError::DialGone { place: place.into(), setting: setting(), dial: drive.dial.clone() });
    };
    let numeric = matches!(spec.default, Value::Number(_));
    if numeric != matches!(dial.value, Value::Number(_)) {
        return Err(EditError::DialKind { place: place.into(), setting: setting(), dial: dial.label.clone() });
    }
    for end in [drive.low, drive.high].into_iter().flatten() {
        if !end.is_finite() || end < spec.min || end > spec.max {
            let error = spec.check(&Value::Number(end)).err();
            let error = error.unwrap_or_else(|| SettingError { setting: setting(), wanted: "a number".into() });
            return Err(EditError::Setting { place: place.into(), error });
        }
    }
    Ok(())
}
