//! Thickness, as it was measured.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "thickness",
    "Thickness",
    "How much material lies behind the surface: 0 at thin fins and rims, 1 where it is as thick as the distance.",
    ("thickness", |_| 0),
);
