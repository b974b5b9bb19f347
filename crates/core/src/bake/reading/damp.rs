//! Damp, as the flow of water leaves it.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "damp",
    "Damp",
    "Where damp holds: where water stays, out of the sun, and up from the ground. Moss, rot and salt lines.",
    ("flow", |_| 4),
);
