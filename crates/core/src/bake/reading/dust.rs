//! Dust, as it was measured.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "dust",
    "Dust",
    "Where dust settles and stays: on what looks up, in corners and in the lee of the wind.",
    ("dust", |_| 0),
);
