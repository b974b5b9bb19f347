//! Ramps: numbers and colours read along a mask.
//!
//! A palette is a stepped ramp whose stops say how often they are wanted instead of where they lie.
//!
//! Colours are mixed in linear light. Smooth ramps are monotone cubics (Fritsch & Carlson 1980): between two stops they never leave what lies between their values.

use crate::setting::{Between, RampDrive, Value, parse_hex};

/// A ramp with its values worked out; up to three components.
pub struct Ramp {
    at: Vec<f32>,
    /// Per component, one value per stop.
    values: Vec<Vec<f32>>,
    /// Per component, the slope at each stop; empty unless smooth.
    slopes: Vec<Vec<f32>>,
    between: Between,
    repeat: f32,
}

impl Ramp {
    /// Of a document's ramp with at least one stop, in the order of their places.
    pub fn new(drive: &RampDrive) -> Ramp {
        let places: Vec<f32> = drive.stops.iter().map(|s| s.at as f32).collect();
        let at = if drive.between == Between::Palette { shares(&places) } else { places };
        let parts: Vec<Vec<f32>> = drive.stops.iter().map(|s| components(&s.value)).collect();
        let count = parts.first().map_or(0, Vec::len);
        let values: Vec<Vec<f32>> =
            (0..count).map(|c| parts.iter().map(|p| p.get(c).copied().unwrap_or(0.0)).collect()).collect();
        let slopes = match drive.between {
            Between::Smooth => values.iter().map(|v| slopes(&at, v)).collect(),
            Between::Linear | Between::Stepped | Between::Palette => vec![],
        };
        Ramp { at, values, slopes, between: drive.between, repeat: drive.repeat.max(1) as f32 }
    }

    /// Two numbers, evenly between.
    pub fn of_ends(low: f32, high: f32) -> Ramp {
        Ramp {
            at: vec![0.0, 1.0],
            values: vec![vec![low, high]],
            slopes: vec![],
            between: Between::Linear,
            repeat: 1.0,
        }
    }

    /// The greatest value of any stop; no ramp goes beyond.
    pub fn highest(&self) -> f32 {
        self.values.iter().flatten().copied().fold(f32::MIN, f32::max)
    }

    /// The components at its far end.
    pub fn last(&self) -> Vec<f32> {
        self.values.iter().filter_map(|v| v.last().copied()).collect()
    }

    /// Reads its components at places 0…1. Slices of one length, one for each component.
    pub fn read(&self, t: &[f32], out: &mut [&mut [f32]]) {
        let last = self.at.len() - 1;
        for (k, t) in t.iter().enumerate() {
            let t = if self.repeat == 1.0 {
                *t
            } else {
                // The far end belongs to the last round.
                let rounds = t * self.repeat;
                if rounds >= self.repeat { 1.0 } else { rounds - rounds.floor() }
            };
            let after = self.at.iter().filter(|a| **a <= t).count();
            for (c, out) in out.iter_mut().enumerate() {
                out[k] = match after {
                    0 => self.values[c][0],
                    _ if after > last => self.values[c][last],
                    _ => self.between(c, after - 1, t),
                };
            }
        }
    }

    #[inline(always)]
    fn between(&self, component: usize, i: usize, t: f32) -> f32 {
        let v = &self.values[component];
        let h = self.at[i + 1] - self.at[i];
        let u = if h > 0.0 { (t - self.at[i]) / h } else { 0.0 };
        match self.between {
            Between::Stepped | Between::Palette => v[i],
            Between::Linear => v[i] + (v[i + 1] - v[i]) * u,
            Between::Smooth => {
                let (s, rise) = (&self.slopes[component], v[i + 1] - v[i]);
                let (a, b) = (s[i] * h, s[i + 1] * h);
                v[i] + u * (a + u * (3.0 * rise - 2.0 * a - b + u * (a + b - 2.0 * rise)))
            }
        }
    }
}

/// Where each of a palette's values begins, so that of even numbers 0…1 each gets as many as its weight says.
fn shares(weights: &[f32]) -> Vec<f32> {
    let total: f32 = weights.iter().sum();
    let even = 1.0 / weights.len().max(1) as f32;
    let mut begun = 0.0;
    let share = |w: &f32| {
        let at = begun;
        begun += if total > 0.0 { w / total } else { even };
        at
    };
    weights.iter().map(share).collect()
}

fn components(value: &Value) -> Vec<f32> {
    match value {
        Value::Number(n) => vec![*n as f32],
        Value::Text(t) => parse_hex(t).unwrap_or_default().to_vec(),
        Value::Bool(_) => vec![],
    }
}

/// Slopes that keep every stretch between its ends: the weighted harmonic mean of both sides, level at turning points and at both ends' far sides.
fn slopes(at: &[f32], v: &[f32]) -> Vec<f32> {
    let n = v.len();
    let step = |i: usize| (at[i + 1] - at[i]).max(1e-6);
    let rise = |i: usize| (v[i + 1] - v[i]) / step(i);
    (0..n)
        .map(|i| {
            if i == 0 || i + 1 == n {
                return 0.0;
            }
            let (a, b) = (rise(i - 1), rise(i));
            if a * b <= 0.0 {
                return 0.0;
            }
            let (wa, wb) = (2.0 * step(i) + step(i - 1), step(i) + 2.0 * step(i - 1));
            (wa + wb) / (wa / a + wb / b)
        })
        .collect()
}
