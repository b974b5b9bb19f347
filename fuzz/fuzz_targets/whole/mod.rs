//! What every mesh reader promises, whatever the bytes.

use dustcoat_core::mesh::import::{MeshLimits, import as read, pictures};

/// Lets a panic that the reader catches pass: some crates panic on damaged files, and the reader makes a refusal of it. One that escapes still ends
/// the fuzzer.
pub fn let_caught_panics_pass() {
    static ONCE: std::sync::Once = std::sync::Once::new();
    ONCE.call_once(|| std::panic::set_hook(Box::new(|_| {})));
}

/// Imports the bytes under tight limits and looks over what comes of it.
pub fn import(name: &str, bytes: &[u8]) {
    let_caught_panics_pass();
    let limits = MeshLimits { bytes: 1 << 20, triangles: 4096 };
    _ = pictures(name, bytes, limits);
    let Ok(piece) = read(name, bytes, None, limits) else { return };
    assert!(!piece.triangles.is_empty() && piece.triangles.len() <= limits.triangles);
    let finite = |all: &[[f32; 3]]| all.as_flattened().iter().all(|v| v.is_finite());
    assert!(finite(&piece.positions) && finite(&piece.normals));
    assert!(piece.triangles.as_flattened().iter().all(|v| (*v as usize) < piece.positions.len()));
    assert!(piece.sheet_of.iter().all(|s| usize::from(*s) < piece.sheets.len()));
    assert!(piece.part_of.iter().all(|p| usize::from(*p) < piece.parts.len()));
}
