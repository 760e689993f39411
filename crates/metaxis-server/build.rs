//! The page is part of the binary: a new page makes a new binary.
fn main() {
    println!("cargo:rerun-if-changed=../../web/dist");
}
