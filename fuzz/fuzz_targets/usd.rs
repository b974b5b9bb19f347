//! Any bytes as layers of USD, as text and binary: read or refused, never a panic, and what is read is a sound piece.
#![no_main]

mod whole;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| whole::import("piece.usd", bytes));
