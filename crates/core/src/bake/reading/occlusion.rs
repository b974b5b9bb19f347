//! Occlusion, as it was measured.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "occlusion",
    "Occlusion",
    "How open the surface lies: 1 in the open, 0 deep in a hollow.",
    ("occlusion", |_| 0),
);
