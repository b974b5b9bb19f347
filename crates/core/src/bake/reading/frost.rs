//! Frost and spray, as it was measured.

use super::Reading;

pub static READING: Reading = Reading::as_measured(
    "frost",
    "Frost and spray",
    "What the wind brings and leaves where it strikes first: rime, salt spray, driven snow.",
    ("frost", |_| 0),
);
