//! Lengths that suit the piece: what is put into a line begins with sizes for a piece of its own size.

use super::{Join, Step, StepKind};
use crate::finish::Finish;
use crate::pattern::placement::USUAL;
use crate::setting::{Param, ParamSpec, ParamType, Settings, Value};

/// A step of a kind as it first comes in: it takes the mask's place.
pub fn fresh(kind: &str) -> Step {
    Step {
        id: String::new(),
        on: true,
        join: Join::Replace,
        amount: 1.0.into(),
        kind: kind.into(),
        settings: Default::default(),
        strokes: Default::default(),
        spot: None,
        note: String::new(),
    }
}

/// Steps whose lengths are meant for a piece with a diagonal of 600 mm, for one with a diagonal of `diagonal` mm. One of about that size is left alone. What
/// readings are measured within follows the piece by itself.
pub fn fitted(mut steps: Vec<Step>, diagonal: f32) -> Vec<Step> {
    steps.iter_mut().for_each(|step| fit(&step.kind, &mut step.settings, diagonal));
    steps
}

/// A finish whose lengths are meant for such a piece, for one with a diagonal of `diagonal` mm. How thick it lies stays as it is.
pub fn fitted_finish(mut finish: Finish, diagonal: f32) -> Finish {
    let params = finish.channels.values_mut().flat_map(|c| c.settings.values_mut());
    params.filter_map(Param::source_mut).for_each(|source| fit(&source.kind, &mut source.settings, diagonal));
    finish
}

fn fit(kind: &str, settings: &mut Settings, diagonal: f32) {
    let ratio = f64::from(diagonal / USUAL);
    if !(0.002..=50.0).contains(&ratio) || (0.6..=1.6).contains(&ratio) {
        return;
    }
    let Some(kind) = StepKind::find(kind).filter(|k| !matches!(k, StepKind::Reading(_))) else { return };
    for spec in kind.specs().iter().filter(|s| s.unit == "mm") {
        let given = match settings.get(spec.key) {
            Some(Param::Const(v)) => v,
            None => &spec.default,
            // What a dial drives stays driven, over lengths that suit.
            Some(Param::Drive(drive)) => {
                let drive = drive.scaled(&|end| (end * ratio).clamp(spec.min, spec.max));
                settings.insert(spec.key.into(), drive.into());
                continue;
            }
            Some(_) => continue,
        };
        let number = match given {
            Value::Number(n) if *n != 0.0 => *n,
            _ => continue,
        };
        settings.insert(spec.key.into(), rounded(spec, number * ratio).into());
    }
}

/// To two places, within the setting's range.
fn rounded(spec: &ParamSpec, number: f64) -> f64 {
    let place = libm::pow(10.0, libm::floor(libm::log10(number.abs())) - 1.0);
    // Divided by a whole number where it can be, so that 0.3 stays 0.3.
    let tens = libm::round(number / place);
    let near = if place < 1.0 { tens / libm::round(1.0 / place) } else { tens * place };
    let near = if spec.kind == ParamType::Integer { near.round() } else { near };
    near.clamp(spec.min, spec.max)
}
