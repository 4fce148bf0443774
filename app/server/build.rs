//! The page is embedded; a new build of it means a new binary.

fn main() {
    println!("cargo:rerun-if-changed=../../web/dist");
}
