//! The layers of the house, held by what each crate may depend on and what each folder of the page imports: arrows go down,
//! rooms do not know each other, and the core knows neither shells nor the world.

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

/// Folders of the page (`web/src`) from the lowest up: each may use those before it, and none beside it in its row.
const PAGE: [&[&str]; 9] =
    [&["base", "core"], &["api", "ui"], &["document"], &["job", "garage", "journal"], &["scene"], &["steps", "shelf"], &["drawer"], &["workbench"], &["sheet"]];

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

/// Folders of the page that a file's imports name, from its own folder.
fn imported(text: &str) -> impl Iterator<Item = &str> {
    let after = |line: &'static str| text.split(line).skip(1).filter_map(|rest| rest.split('"').next());
    let specifiers = after("from \"").chain(after("import(\"")).chain(after("import \""));
    specifiers
        .filter(|specifier| specifier.starts_with("../"))
        .filter_map(|specifier| specifier.trim_start_matches("../").split_once('/'))
        .map(|(folder, _)| folder)
}

/// Every import of the page that points the wrong way, in words; `files` by their path below `web/src`.
fn wrong_in_page(files: &[(String, String)]) -> Vec<String> {
    let layer = |folder: &str| PAGE.iter().position(|row| row.contains(&folder));
    let mut found = Vec::new();
    for (file, text) in files {
        // What lies beside the folders starts the page, or is words and units for all.
        let Some((own, _)) = file.split_once('/') else { continue };
        let Some(here) = layer(own) else {
            found.push(format!("web/src/{own} is in no layer: name it in xtask/src/layers.rs"));
            continue;
        };
        for folder in imported(text).filter(|folder| *folder != own) {
            if layer(folder).is_some_and(|there| there >= here) {
                found.push(format!("web/src/{file} uses {folder}/, which is not below {own}/"));
            }
        }
    }
    found
}

fn read_page(folder: &Path, under: &str, files: &mut Vec<(String, String)>) {
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let (path, name) = (entry.path(), format!("{under}{}", entry.file_name().to_string_lossy()));
        if path.is_dir() {
            read_page(&path, &format!("{name}/"), files);
        } else if name.ends_with(".ts") || name.ends_with(".tsx") {
            files.push((name, std::fs::read_to_string(&path).unwrap_or_default()));
        }
    }
}

/// Holds every crate of the house, and every folder of the page, against its layer.
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
    let mut page = Vec::new();
    read_page(&root.join("web/src"), "", &mut page);
    let mut wrong = wrong(&manifests);
    wrong.extend(wrong_in_page(&page));
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
    fn folders_of_the_page_use_those_below_them() {
        let page = |file: &str, text: &str| wrong_in_page(&[(file.to_owned(), text.to_owned())]);
        for text in ["import { a } from \"../base/kept\";", "import { b } from \"./Own\";", "import { say } from \"../units\";", "import \"../ui/a.css\";"] {
            assert_eq!(page("document/useBuild.ts", text), Vec::<String>::new(), "{text}");
        }
        for (file, text, words) in [
            ("ui/Field.tsx", "import type { Edit } from \"../document/useBuild\";", "uses document/, which is not below ui/"),
            ("steps/make/MakeView.tsx", "const later = import(\"../../workbench/Saving\");", "uses workbench/"),
            ("core/ask.ts", "export * from \"../base/paint\";", "uses base/"),
            ("loft/a.ts", "", "in no layer"),
        ] {
            let found = page(file, text);
            assert!(found.len() == 1 && found[0].contains(words), "{file}: {found:?}");
        }
    }

    #[test]
    fn this_house_is_in_order() {
        assert_eq!(check(Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/.."))), Ok(()));
    }
}
