//! A channel of a layer's finish with every setting worked out.

use std::sync::Arc;

use crate::bake::Surface;
use crate::finish::ChannelUse;
use crate::finish::channel::{AMOUNT, Channel};
use crate::finish::ramp::Ramp;
use crate::mask::graded::Amount;
use crate::mask::line::{Around, BATCH, Bringing, Field, Fields};
use crate::setting::{DialStates, Param, Resolved, resolve};

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
        let value = match given.settings.get(spec.key) {
            Some(Param::Ramp(drive)) if !drive.stops.is_empty() => {
                let field = bringing.brought(&drive.along, &mut h);
                h.update(&[drive.between as u8]).update(&drive.repeat.to_le_bytes());
                for stop in &drive.stops {
                    h.update(&stop.at.to_bits().to_le_bytes());
                    stop.value.hash_into(&mut h);
                }
                Coating::Along(Arc::new(field), Ramp::new(drive))
            }
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

    /// Lays a run of it over what lies below: `weight` is mask × opacity from the texel at `start` on, and `below` its components there.
    pub fn lay(
        &self,
        surface: &Surface,
        fields: &dyn Fields,
        start: usize,
        weight: &[f32],
        Scratch { scaled, t, values }: &mut Scratch,
        below: &mut [&mut [f32]],
    ) {
        let n = weight.len();
        let (scaled, t) = (&mut scaled[..n], &mut t[..n]);
        self.amount.fill(surface, fields, start, scaled);
        scaled.iter_mut().zip(weight).for_each(|(a, w)| *a *= w);
        match &self.value {
            Coating::Even(value) => values.iter_mut().zip(value).for_each(|(v, value)| v[..n].fill(*value)),
            Coating::Along(field, ramp) => {
                field.fill(surface, fields, start, t);
                ramp.read(t, &mut values.each_mut().map(|v| &mut v[..n])[..below.len()]);
            }
        }
        let all = values.each_ref().map(|v| &v[..n]);
        (self.channel.meet)(&self.settings, &all[..below.len()], scaled, below);
    }

    /// The greatest value that it lays down anywhere.
    pub fn highest(&self) -> f32 {
        match &self.value {
            Coating::Even(value) => value.iter().copied().fold(f32::MIN, f32::max),
            Coating::Along(_, ramp) => ramp.highest(),
        }
    }

    /// The fields that it reads.
    pub fn fields(&self) -> Vec<&Field> {
        let value = if let Coating::Along(field, _) = &self.value { Some(field.as_ref()) } else { None };
        value.into_iter().chain(self.amount.driver()).collect()
    }
}
