//! Rain, as it was measured.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "rain",
    "Rain",
    "How much rain strikes: 1 where it falls square on in the open, 0 in the dry.",
    ("rain", |_| 0),
);
