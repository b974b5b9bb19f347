//! Even: one value everywhere.

use super::{Origin, Source};
use crate::setting::ParamSpec;

pub static SOURCE: Source = Source {
    kind: "even",
    label: "Even",
    help: "The same value everywhere: a base to build on, or a lift for the whole mask.",
    specs: || vec![ParamSpec::share("value", "Value", 1.0, "The value everywhere.")],
    origin: Origin::Here(|_, s, _, out| out.fill(s.number("value"))),
};
