//! Links Debian's Embree 3.
fn main() {
    println!("cargo:rustc-link-lib=embree3");
}
