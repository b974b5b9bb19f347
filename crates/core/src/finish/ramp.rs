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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setting::{MaskSource, Stop};

    fn ramp(stops: &[(f64, f64)], between: Between, repeat: u32) -> Ramp {
        let along = MaskSource { kind: "even".into(), settings: Default::default() };
        let stops = stops.iter().map(|(at, v)| Stop { at: *at, value: Value::Number(*v), by: None }).collect();
        Ramp::new(&RampDrive { along, stops, between, repeat, palette: None })
    }

    fn read(ramp: &Ramp, t: f32) -> f32 {
        let mut out = [0.0];
        ramp.read(&[t], &mut [&mut out]);
        out[0]
    }

    #[test]
    fn stops_are_met_and_what_lies_between_is_as_it_says() {
        let stops = [(0.2, 1.0), (0.4, 3.0), (0.8, 2.0)];
        let linear = ramp(&stops, Between::Linear, 1);
        for (t, wanted) in [(0.0, 1.0), (0.2, 1.0), (0.3, 2.0), (0.4, 3.0), (0.6, 2.5), (1.0, 2.0)] {
            assert!((read(&linear, t) - wanted).abs() < 1e-5, "linear at {t}");
        }
        let stepped = ramp(&stops, Between::Stepped, 1);
        for (t, wanted) in [(0.0, 1.0), (0.39, 1.0), (0.4, 3.0), (0.79, 3.0), (0.9, 2.0)] {
            assert_eq!(read(&stepped, t), wanted, "stepped at {t}");
        }
        let smooth = ramp(&[(0.0, 0.0), (0.3, 0.1), (0.5, 0.9), (1.0, 1.0)], Between::Smooth, 1);
        let all: Vec<f32> = (0..=1000).map(|i| read(&smooth, i as f32 / 1000.0)).collect();
        assert!(all.windows(2).all(|w| w[1] >= w[0] - 1e-6), "it never turns back");
        assert!((read(&smooth, 0.3) - 0.1).abs() < 1e-5 && (read(&smooth, 0.5) - 0.9).abs() < 1e-5);
        assert!(all.windows(2).all(|w| w[1] - w[0] < 0.02), "without a jump");
    }

    #[test]
    fn a_ramp_runs_through_as_often_as_it_is_told() {
        let saw = ramp(&[(0.0, 0.0), (1.0, 1.0)], Between::Linear, 4);
        for (t, wanted) in [(0.0, 0.0), (0.125, 0.5), (0.25, 0.0), (0.9375, 0.75), (1.0, 1.0)] {
            assert!((read(&saw, t) - wanted).abs() < 1e-5, "{t}");
        }
    }
}
