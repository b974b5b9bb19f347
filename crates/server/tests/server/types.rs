//! The front end's types are those of the Rust types.

use std::path::Path;

#[test]
fn the_front_ends_types_are_up_to_date() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/src/api/types.ts");
    let wanted = dustcoat::types::typescript();
    if std::env::var_os("DUSTCOAT_WRITE_TYPES").is_some() {
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, &wanted).unwrap();
    }
    let found = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(found == wanted, "web/src/api/types.ts is out of date: run `make types` and commit it");
}
