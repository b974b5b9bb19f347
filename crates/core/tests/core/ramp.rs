//! Ramps: their stops, what lies between, and how often they run through.

use dustcoat_core::finish::ramp::Ramp;
use dustcoat_core::setting::{Between, MaskSource, RampDrive, Stop, Value};

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
