//! A channel of a layer's finish with every setting worked out.

use std::sync::Arc;

use crate::bake::Surface;
use crate::finish::ChannelUse;
use crate::finish::adjust::{self, Change};
use crate::finish::channel::{AMOUNT, Channel};
use crate::finish::ramp::Ramp;
use crate::mask::bring::{Around, Bringing, Components};
use crate::mask::field::{BATCH, Field, Fields};
use crate::mask::graded::Amount;
use crate::raster::srgb::encode;
use crate::setting::{DialStates, Param, ParamSpec, Resolved, resolve};

/// What a layer lays down in one channel.
pub struct Laid {
    /// The channel.
    pub channel: &'static Channel,
    /// Its settings.
    pub settings: Resolved,
    /// How much of it is laid down.
    pub amount: Amount,
    /// The value.
    pub value: Coating,
    /// blake3 of everything it depends on but for piece and size.
    pub hash: blake3::Hash,
}

/// What a batch is worked out in, made once for all that is laid.
pub struct Scratch {
    scaled: [f32; BATCH],
    t: [f32; BATCH],
    values: [[f32; BATCH]; 3],
}

impl Scratch {
    /// Nothing in it yet.
    pub fn new() -> Self {
        Self { scaled: [0.0; BATCH], t: [0.0; BATCH], values: [[0.0; BATCH]; 3] }
    }
}

/// A value of a finish.
pub enum Coating {
    /// The same everywhere, component by component.
    Even(Vec<f32>),
    /// Read along a mask.
    Along(Arc<Field>, Ramp),
    /// Read from a picture, component by component.
    Picture(Box<[Field; 3]>),
    /// None: what lies below is changed, by a number for each change.
    Changes(&'static [Change], Vec<Amount>),
}

impl Laid {
    /// Works a channel out.
    pub fn new(channel: &'static Channel, given: &ChannelUse, dials: &DialStates, around: &mut dyn Around) -> Laid {
        let specs = (channel.specs)();
        let settings = resolve(&specs, &given.settings, dials);
        let mut h = blake3::Hasher::new();
        settings.hash_into(&mut h);
        let mut bringing = Bringing { dials, around };
        let spec = channel.value();
        let read = match channel.is_direction() {
            true if settings.text("green") == "down" => Components::DirectionsDown,
            true => Components::DirectionsUp,
            false => Components::Colors,
        };
        let value = match given.settings.get(spec.key) {
            Some(Param::Ramp(drive)) if !drive.stops.is_empty() => {
                let field = bringing.brought(&drive.along, &mut h);
                let mut drive = drive.clone();
                drive.follow(&spec, dials);
                h.update(&[drive.between as u8]).update(&drive.repeat.to_le_bytes());
                for stop in &drive.stops {
                    h.update(&stop.at.to_bits().to_le_bytes());
                    stop.value.hash_into(&mut h);
                }
                Coating::Along(Arc::new(field), Ramp::new(&drive))
            }
            Some(Param::Colors(drive)) => match bringing.components(&drive.colors, read, &mut h) {
                Some(fields) => Coating::Picture(Box::new(fields)),
                // A picture that is gone leaves what stands for it.
                None => Coating::Even(settings.color(spec.key).to_vec()),
            },
            Some(Param::Mask(drive)) => {
                let field = bringing.brought(&drive.mask, &mut h);
                h.update(&drive.low.to_bits().to_le_bytes()).update(&drive.high.to_bits().to_le_bytes());
                Coating::Along(Arc::new(field), Ramp::of_ends(drive.low as f32, drive.high as f32))
            }
            _ if channel.bare.len() == 3 => Coating::Even(settings.color(spec.key).to_vec()),
            _ => Coating::Even(vec![settings.number(spec.key)]),
        };
        let full = Param::from(1.0);
        let amount = bringing.amount(given.settings.get(AMOUNT).unwrap_or(&full), &mut h);
        Laid { channel, settings, amount, value, hash: h.finalize() }
    }

    /// Works out how a channel of what lies below is changed.
    pub fn changing(
        channel: &'static Channel,
        given: &ChannelUse,
        dials: &DialStates,
        around: &mut dyn Around,
    ) -> Laid {
        let specs = adjust::specs(channel);
        let mut h = blake3::Hasher::new();
        h.update(b"changes");
        let mut bringing = Bringing { dials, around };
        let mut number = |spec: &ParamSpec| {
            h.update(spec.key.as_bytes());
            bringing.number(spec, given.settings.get(spec.key), &mut h)
        };
        let changes = adjust::changes(channel);
        let numbers = specs[..changes.len()].iter().map(&mut number).collect();
        let amount = number(&specs[changes.len()]);
        let settings = resolve(&specs, &given.settings, dials);
        Laid { channel, settings, amount, value: Coating::Changes(changes, numbers), hash: h.finalize() }
    }

    /// Lays a run of it over what lies below: `weight` is mask × opacity from the texel at `start` on, and `below` its components there.
    pub fn lay(
        &self,
        surface: &Surface,
        of: &dyn Fields,
        start: usize,
        weight: &[f32],
        Scratch { scaled, t, values }: &mut Scratch,
        below: &mut [&mut [f32]],
    ) {
        let n = weight.len();
        let (scaled, t) = (&mut scaled[..n], &mut t[..n]);
        self.amount.fill(surface, of, start, scaled);
        scaled.iter_mut().zip(weight).for_each(|(a, w)| *a *= w);
        match &self.value {
            Coating::Even(value) => values.iter_mut().zip(value).for_each(|(v, value)| v[..n].fill(*value)),
            Coating::Along(field, ramp) => {
                field.fill(surface, of, start, t);
                ramp.read(t, &mut values.each_mut().map(|v| &mut v[..n])[..below.len()]);
            }
            Coating::Picture(fields) => {
                values.iter_mut().zip(fields.iter()).for_each(|(v, f)| f.fill(surface, of, start, &mut v[..n]));
            }
            Coating::Changes(changes, numbers) => {
                return change(self.channel, (changes, numbers), surface, of, start, scaled, below);
            }
        }
        if self.channel.is_direction() && !matches!(self.value, Coating::Picture(_)) {
            // What is no picture is a colour that stands for a direction.
            let up = if self.settings.text("green") == "down" { -1.0 } else { 1.0 };
            for (v, sign) in values.iter_mut().zip([1.0, up, 1.0]) {
                v[..n].iter_mut().for_each(|v| *v = (encode(*v) * 255.0 - 128.0) / 127.0 * sign);
            }
        }
        let all = values.each_ref().map(|v| &v[..n]);
        (self.channel.meet)(&self.settings, &all[..below.len()], scaled, below);
    }

    /// The greatest value that there can be, if what lies below goes up to one.
    pub fn highest(&self, below: f32) -> f32 {
        match &self.value {
            Coating::Even(value) => value.iter().copied().fold(below, f32::max),
            Coating::Along(_, ramp) => ramp.highest().max(below),
            Coating::Picture(_) => below.max(1.0),
            Coating::Changes(changes, numbers) => {
                let most = |change: Change| {
                    let at = changes.iter().position(|c| *c == change);
                    at.map_or(change.neutral(), |i| numbers[i].highest())
                };
                let spec = self.channel.value();
                let limit = if self.channel.bare.len() == 3 { 1.0 } else { spec.max as f32 };
                if changes.contains(&Change::Times) {
                    below.max(below * most(Change::Times) + most(Change::Plus)).min(limit)
                } else {
                    limit
                }
            }
        }
    }

    /// The value that stands for all of them where only one can be used: the same everywhere, or a ramp's far end.
    pub fn main(&self) -> Option<Vec<f32>> {
        match &self.value {
            Coating::Even(value) => Some(value.clone()),
            Coating::Along(_, ramp) => Some(ramp.last()),
            Coating::Picture(_) | Coating::Changes(..) => None,
        }
    }

    /// The fields that it reads.
    pub fn fields(&self) -> Vec<&Field> {
        let value: Vec<&Field> = match &self.value {
            Coating::Even(_) => vec![],
            Coating::Along(field, _) => vec![field],
            Coating::Picture(fields) => fields.iter().collect(),
            Coating::Changes(_, numbers) => numbers.iter().filter_map(Amount::driver).collect(),
        };
        value.into_iter().chain(self.amount.driver()).collect()
    }
}

/// Changes what lies below by its weight: `below` ← mix(below, changed, weight).
fn change(
    channel: &Channel,
    (changes, numbers): (&[Change], &[Amount]),
    surface: &Surface,
    fields: &dyn Fields,
    start: usize,
    weight: &[f32],
    below: &mut [&mut [f32]],
) {
    let n = weight.len();
    let mut by = vec![0.0f32; n * numbers.len()];
    for (number, by) in numbers.iter().zip(by.chunks_mut(n)) {
        number.fill(surface, fields, start, by);
    }
    let spec = channel.value();
    let range = if channel.bare.len() == 3 { (0.0, 1.0) } else { (spec.min as f32, spec.max as f32) };
    let (mut one, mut value) = (vec![0.0f32; numbers.len()], vec![0.0f32; below.len()]);
    for i in (0..n).filter(|i| weight[*i] > 0.0) {
        one.iter_mut().enumerate().for_each(|(k, o)| *o = by[k * n + i]);
        value.iter_mut().zip(below.iter()).for_each(|(v, b)| *v = b[i]);
        adjust::apply(changes, &one, range, &mut value);
        below.iter_mut().zip(&value).for_each(|(b, v)| b[i] += (v - b[i]) * weight[i]);
    }
}
