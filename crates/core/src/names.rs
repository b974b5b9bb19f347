//! Names that nothing else has.

/// The first of `name(1)`, `name(2)` … that isn't taken.
pub fn free(name: impl Fn(u32) -> String, taken: impl Fn(&str) -> bool) -> String {
    (1..).map(name).find(|n| !taken(n)).expect("numbers don't end")
}
