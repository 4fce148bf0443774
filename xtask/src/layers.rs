//! The layers of the house, held by what each crate may depend on: arrows go down, rooms do not know each other, and
//! the core knows neither shells nor the world.

use std::collections::BTreeMap;
use std::path::Path;

/// Folders from the lowest layer up; a crate depends on crates of lower layers only.
const LAYERS: [&[&str]; 12] = [
    &["core/model"],
    &["core/physics"],
    &["core/judge"],
    &["core/plan"],
    &["core/rooms/"],
    &["core/facade"],
    &["core/operations"],
    &["app/page-core"],
    &["app/instruments"],
    &["app/store"],
    &["app/server"],
    &["app/cli"],
];
/// What the tests of every layer share; no crate depends on it otherwise.
const TESTING: &str = "orthavis-testing";
/// What the core may use: data, arithmetic and texts. Nothing that reads, waits, listens or looks at a clock.
const PURE: [&str; 10] = ["csv", "faer", "json-patch", "palette", "serde", "serde_json", "strsim", "thiserror", "uom", "utoipa"];

/// A crate as its manifest says: where it is, what it is called, what it depends on and what its tests do.
#[derive(Debug, Default, PartialEq)]
struct Manifest {
    folder: String,
    name: String,
    needs: Vec<String>,
    tests_need: Vec<String>,
}

impl Manifest {
    fn read(folder: &str, text: &str) -> Self {
        let mut manifest = Manifest { folder: folder.to_owned(), ..Manifest::default() };
        let mut section = "";
        for line in text.lines().map(str::trim) {
            if line.starts_with('[') {
                section = line;
                continue;
            }
            let Some((key, value)) = line.split_once('=') else { continue };
            let key = key.trim().trim_end_matches(".workspace");
            match section {
                "[package]" if key == "name" => manifest.name = value.trim().trim_matches('"').to_owned(),
                "[dependencies]" => manifest.needs.push(key.to_owned()),
                "[dev-dependencies]" => manifest.tests_need.push(key.to_owned()),
                _ => {}
            }
        }
        manifest
    }

    fn layer(&self) -> Option<usize> {
        let here = |place: &&str| if place.ends_with('/') { self.folder.starts_with(*place) } else { self.folder == **place };
        LAYERS.iter().position(|places| places.iter().any(&here))
    }
}

/// Every arrow that points the wrong way, in words.
fn wrong(manifests: &[Manifest]) -> Vec<String> {
    let by_name: BTreeMap<&str, &Manifest> = manifests.iter().map(|manifest| (manifest.name.as_str(), manifest)).collect();
    let mut found = Vec::new();
    for from in manifests.iter().filter(|manifest| manifest.name != TESTING) {
        let Some(here) = from.layer() else {
            found.push(format!("{} is in no layer: name its folder in xtask/src/layers.rs", from.folder));
            continue;
        };
        for (name, of_tests) in from.needs.iter().map(|name| (name, false)).chain(from.tests_need.iter().map(|name| (name, true))) {
            if name == TESTING && of_tests {
                continue;
            }
            match by_name.get(name.as_str()).map(|to| (to, to.layer())) {
                Some((_, Some(there))) if there < here => {}
                Some((to, _)) => found.push(format!("{} uses {}, which is not below it", from.folder, to.folder)),
                None if from.folder.starts_with("core/") && !of_tests && !PURE.contains(&name.as_str()) => {
                    found.push(format!("{} uses `{name}`: the core is pure; {} are what it may use", from.folder, PURE.join(", ")));
                }
                None => {}
            }
        }
    }
    found
}

/// Holds every crate of the house against its layer.
///
/// # Errors
/// Every arrow that points the wrong way.
pub fn check(root: &Path) -> Result<(), String> {
    let mut manifests = Vec::new();
    for above in ["core", "core/rooms", "app"] {
        let entries = std::fs::read_dir(root.join(above)).map_err(|error| format!("{above}: {error}"))?;
        for entry in entries.flatten() {
            let folder = format!("{above}/{}", entry.file_name().to_string_lossy());
            if let Ok(text) = std::fs::read_to_string(root.join(&folder).join("Cargo.toml")) {
                manifests.push(Manifest::read(&folder, &text));
            }
        }
    }
    let wrong = wrong(&manifests);
    if wrong.is_empty() { Ok(()) } else { Err(format!("the layers are mixed:\n  {}", wrong.join("\n  "))) }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn house(drain_needs: &str) -> Vec<Manifest> {
        let text =
            |name: &str, needs: &str| format!("[package]\nname = \"{name}\"\n\n[dependencies]\n{needs}\n[dev-dependencies]\n{TESTING}.workspace = true\n");
        vec![
            Manifest::read("core/model", &text("orthavis-model", "serde.workspace = true")),
            Manifest::read("core/rooms/views", &text("orthavis-views", "orthavis-model.workspace = true")),
            Manifest::read("core/rooms/drain", &text("orthavis-drain", drain_needs)),
            Manifest::read("app/store", &text("orthavis-store", "orthavis-model.workspace = true\nrusqlite = \"0.40\"")),
            Manifest::read("core/testing", &text(TESTING, "orthavis-model.workspace = true")),
        ]
    }

    #[test]
    fn arrows_go_down_only() {
        assert_eq!(wrong(&house("orthavis-model.workspace = true")), Vec::<String>::new());
        for (needs, words) in [
            ("orthavis-views.workspace = true", "core/rooms/drain uses core/rooms/views"),
            ("orthavis-store = { path = \"../../app/store\" }", "core/rooms/drain uses app/store"),
            ("orthavis-testing.workspace = true", "core/rooms/drain uses core/testing"),
            ("tokio = \"1\"", "the core is pure"),
        ] {
            let found = wrong(&house(needs));
            assert!(found.len() == 1 && found[0].contains(words), "{needs}: {found:?}");
        }
        let mut stray = house("");
        stray.push(Manifest::read("core/loft", "[package]\nname = \"orthavis-loft\"\n"));
        assert!(wrong(&stray)[0].contains("in no layer"));
    }

    #[test]
    fn this_house_is_in_order() {
        assert_eq!(check(Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/.."))), Ok(()));
    }
}
