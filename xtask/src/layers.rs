//! The layers of the house, held by what each crate may depend on and what each folder of the page imports: arrows go down,
//! rooms do not know each other, and the core knows neither shells nor the world.

use cargo_metadata::{DependencyKind, MetadataCommand, Package};
use std::collections::BTreeMap;
use std::path::Path;

/// Folders from the lowest layer up; a crate depends on crates of lower layers only.
const LAYERS: [&[&str]; 13] = [
    &["core/model"],
    &["core/physics"],
    &["core/judge"],
    &["core/plan"],
    &["core/rooms/bench", "core/rooms/drain", "core/rooms/look", "core/rooms/make", "core/rooms/show", "core/rooms/use", "core/rooms/views"],
    // What builds are compared by is work, parts and money: it stands on the room that knows them.
    &["core/rooms/design"],
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
/// (`time` and `uuid` come without the features that do.)
const PURE: [&str; 13] = ["base64", "csv", "faer", "json-patch", "palette", "serde", "serde_json", "strsim", "thiserror", "time", "uom", "utoipa", "uuid"];

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
    /// A package of the workspace, as Cargo itself reads it.
    fn of(package: &Package, root: &Path) -> Self {
        let folder = package.manifest_path.parent().and_then(|folder| folder.as_std_path().strip_prefix(root).ok());
        let of_kind = |kind: DependencyKind| package.dependencies.iter().filter(|one| one.kind == kind).map(|one| one.name.to_string()).collect();
        Manifest {
            folder: folder.map(|folder| folder.to_string_lossy().into_owned()).unwrap_or_default(),
            name: package.name.to_string(),
            needs: of_kind(DependencyKind::Normal),
            tests_need: of_kind(DependencyKind::Development),
        }
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
    let root = root.canonicalize().map_err(|error| error.to_string())?;
    let read = MetadataCommand::new().manifest_path(root.join("Cargo.toml")).no_deps().exec().map_err(|error| error.to_string())?;
    let own = |manifest: &Manifest| manifest.folder.starts_with("core/") || manifest.folder.starts_with("app/");
    let manifests: Vec<Manifest> = read.packages.iter().map(|package| Manifest::of(package, &root)).filter(own).collect();
    let mut page = Vec::new();
    read_page(&root.join("web/src"), "", &mut page);
    let mut wrong = wrong(&manifests);
    wrong.extend(wrong_in_page(&page));
    if wrong.is_empty() { Ok(()) } else { Err(format!("the layers are mixed:\n  {}", wrong.join("\n  "))) }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn manifest(folder: &str, name: &str, needs: &[&str]) -> Manifest {
        let needs = needs.iter().map(|name| (*name).to_owned()).collect();
        Manifest { folder: folder.into(), name: name.into(), needs, tests_need: vec![TESTING.into()] }
    }

    fn house(drain_needs: &[&str]) -> Vec<Manifest> {
        vec![
            manifest("core/model", "orthavis-model", &["serde"]),
            manifest("core/rooms/views", "orthavis-views", &["orthavis-model"]),
            manifest("core/rooms/drain", "orthavis-drain", drain_needs),
            manifest("app/store", "orthavis-store", &["orthavis-model", "rusqlite"]),
            manifest("core/testing", TESTING, &["orthavis-model"]),
        ]
    }

    #[test]
    fn arrows_go_down_only() {
        assert_eq!(wrong(&house(&["orthavis-model"])), Vec::<String>::new());
        for (needs, words) in [
            ("orthavis-views", "core/rooms/drain uses core/rooms/views"),
            ("orthavis-store", "core/rooms/drain uses app/store"),
            (TESTING, "core/rooms/drain uses core/testing"),
            ("tokio", "the core is pure"),
        ] {
            let found = wrong(&house(&[needs]));
            assert!(found.len() == 1 && found[0].contains(words), "{needs}: {found:?}");
        }
        let mut stray = house(&[]);
        stray.push(manifest("core/loft", "orthavis-loft", &[]));
        assert!(wrong(&stray)[0].contains("in no layer"));
    }

    /// What Cargo says of this very crate: where it is, and that its tests need what only they need.
    #[test]
    fn a_manifest_is_read_as_cargo_reads_it() {
        let root = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/..")).canonicalize().expect("the house");
        let read = MetadataCommand::new().manifest_path(root.join("Cargo.toml")).no_deps().exec().expect("cargo");
        let own = read.packages.iter().find(|package| package.name.as_str() == "xtask").expect("this crate");
        let found = Manifest::of(own, &root);
        assert_eq!((found.folder.as_str(), found.name.as_str(), found.layer()), ("xtask", "xtask", None));
        assert!(found.needs.contains(&"cargo_metadata".into()) && found.tests_need == ["tempfile"]);
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
