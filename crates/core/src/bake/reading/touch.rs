//! Touch, as it was measured.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "touch",
    "Touch",
    "Where fingers, palms or boots come to: what stands out to them and lets them in.",
    ("touch", |_| 0),
);
