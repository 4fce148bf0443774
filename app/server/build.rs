//! Where the page is embedded, a new build of it means a new binary; elsewhere it is read from its folder.

fn main() {
    let read = std::env::var_os("CARGO_CFG_DEBUG_ASSERTIONS").is_some() && std::env::var_os("CARGO_FEATURE_EMBED").is_none();
    println!("cargo:rerun-if-changed={}", if read { "build.rs" } else { "../../web/dist" });
}
