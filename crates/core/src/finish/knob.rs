//! Dials of ready finishes: each drives settings of the finish, one from one end to the other, another by a share of what is there.

use super::channel::AMOUNT;
use super::{ChannelUse, Finish};
use crate::setting::{Drive, Param, Settings, Value as SettingValue};

/// A dial of a ready finish: it drives settings of the finish, each from one end to the other.
pub struct Knob {
    label: &'static str,
    unit: &'static str,
    /// From, to, and where it stands to begin with; of a colour none.
    range: (f64, f64, f64),
    drives: &'static [(&'static str, Part, Reach)],
}

/// A dial that comes with a ready finish.
pub struct FinishDial {
    /// The id by which settings name it.
    pub id: String,
    /// What the artist reads.
    pub label: &'static str,
    /// Unit to show.
    pub unit: &'static str,
    /// Least and greatest value.
    pub range: (f64, f64),
    /// Where it stands.
    pub value: SettingValue,
}

/// What of a channel a knob drives.
#[derive(Clone, Copy)]
pub(super) enum Part {
    /// Its value, everywhere the same.
    Value,
    /// The value of a stop of its ramp.
    Stop(usize),
    /// How much of it is laid.
    Amount,
    /// A setting of the pattern that it is read along.
    Inner(&'static str),
}

/// How far a knob goes.
#[derive(Clone, Copy)]
pub(super) enum Reach {
    /// From one number to another.
    FromTo(f64, f64),
    /// From a share of the number that is there to a multiple of it; at 100 it is what is there.
    Times,
    /// A colour: as it is.
    AsItIs,
}

/// Puts dials to work on a finish: ids `k0`, `k1` …
pub(super) fn put(finish: &mut Finish, knobs: &[Knob]) -> Vec<FinishDial> {
    let mut dials = vec![];
    for (k, knob) in knobs.iter().enumerate() {
        let id = format!("k{k}");
        let (min, max, at) = knob.range;
        let mut value = SettingValue::Number(at);
        for (channel, part, reach) in knob.drives {
            let Some(used) = finish.channels.get_mut(*channel) else { continue };
            if let Some(was) = drive(used, *part, *reach, &id)
                && matches!(reach, Reach::AsItIs)
            {
                value = was;
            }
        }
        dials.push(FinishDial { id, label: knob.label, unit: knob.unit, range: (min, max), value });
    }
    dials
}

/// Lets a dial drive a part of a channel; what was there before.
fn drive(used: &mut ChannelUse, part: Part, reach: Reach, dial: &str) -> Option<SettingValue> {
    let key = if used.settings.contains_key("color") { "color" } else { "value" };
    let by = |was: &Param| {
        let number = match was {
            Param::Const(SettingValue::Number(n)) => *n,
            _ => 0.0,
        };
        match reach {
            Reach::FromTo(low, high) => Drive::ranged(dial, low, high),
            Reach::Times => Drive::ranged(dial, number * SMALLEST, number * LARGEST),
            Reach::AsItIs => Drive::plain(dial),
        }
    };
    let put = |settings: &mut Settings, key: &str| {
        let was = settings.get(key).cloned().unwrap_or(Param::from(1.0));
        settings.insert(key.into(), by(&was).into());
        if let Param::Const(value) = was { Some(value) } else { None }
    };
    match part {
        Part::Value => put(&mut used.settings, key),
        Part::Amount => put(&mut used.settings, AMOUNT),
        Part::Inner(inner) => put(&mut used.settings.get_mut(key)?.source_mut()?.settings, inner),
        Part::Stop(i) => {
            let Some(Param::Ramp(ramp)) = used.settings.get_mut(key) else { return None };
            let stop = ramp.stops.get_mut(i)?;
            stop.by = Some(by(&Param::Const(stop.value.clone())));
            Some(stop.value.clone())
        }
    }
}

/// A size in %, from a little under half to two and a half times.
const SMALLEST: f64 = 0.4;
const LARGEST: f64 = 2.5;
pub(super) const SIZE: (f64, f64, f64) = (100.0 * SMALLEST, 100.0 * LARGEST, 100.0);
/// A share in %, all of it to begin with.
pub(super) const ALL: (f64, f64, f64) = (0.0, 100.0, 100.0);
/// Of colours there is no range.
const COLOR: (f64, f64, f64) = (0.0, 1.0, 0.0);

pub(super) const fn knob(
    label: &'static str,
    unit: &'static str,
    range: (f64, f64, f64),
    drives: &'static [(&'static str, Part, Reach)],
) -> Knob {
    Knob { label, unit, range, drives }
}

pub(super) const fn color(label: &'static str, drives: &'static [(&'static str, Part, Reach)]) -> Knob {
    knob(label, "", COLOR, drives)
}

const fn relief(drives: &'static [(&'static str, Part, Reach)]) -> Knob {
    knob("Relief", "%", ALL, drives)
}

pub(super) const RELIEF: Knob = relief(&[("height", Part::Amount, Reach::FromTo(0.0, 1.0))]);
