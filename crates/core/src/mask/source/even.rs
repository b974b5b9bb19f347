//! Even: one value everywhere.

use super::{Origin, Source};
use crate::bake::Surface;
use crate::setting::{ParamSpec, Resolved, Settings};

pub static SOURCE: Source = Source {
    kind: "even",
    label: "Even",
    help: "The same value everywhere: a base to build on, or a lift for the whole mask.",
    specs,
    origin: Origin::Here(FILL),
};

pub fn specs() -> Vec<ParamSpec> {
    vec![ParamSpec::share("value", "Value", 1.0, "The value everywhere.")]
}

/// The settings of one that is even at `value`.
pub fn settings(value: f32) -> Settings {
    Settings::from([("value".to_owned(), f64::from(value).into())])
}

/// Fills with it.
pub const FILL: fn(&Surface, &Resolved, usize, &mut [f32]) = |_, s, _, out| out.fill(s.number("value"));
