//! One archive for this platform: the program with everything it needs in it, and what a system wants beside it.

use crate::{newest, root, stage, text};
use serde_json::Value;
use std::collections::BTreeMap;
use std::env::consts::{ARCH, OS};
use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::process::Command;

/// Licences of everything inside the program: of its crates, and of what the page holds.
pub const LICENCES: &str = "packaging/licences.html";
/// Files that go in as they are: from where, and where to.
const AS_THEY_ARE: [(&str, &str); 8] = [
    ("packaging/README.md", "README.md"),
    ("packaging/orthavis.service", "share/orthavis.service"),
    ("packaging/orthavis.desktop", "share/orthavis.desktop"),
    ("web/public/lantern.svg", "share/orthavis.svg"),
    (LICENCES, "licences.html"),
    ("LICENSE", "LICENSE"),
    ("LICENSE-APACHE", "LICENSE-APACHE"),
    ("LICENSE-MIT", "LICENSE-MIT"),
];
/// Commands that lay the archive down the same way every time.
const TAR: [&str; 6] = ["--sort=name", "--owner=0", "--group=0", "--numeric-owner", "--mode=u+rwX,go+rX,go-w", "--format=ustar"];

/// What the archive and the folder in it are called.
pub fn name() -> String {
    format!("orthavis-{}-{OS}-{ARCH}", env!("CARGO_PKG_VERSION"))
}

/// Seconds since 1970 that every file in the archive is of: of the commit, so that the same sources give the same bytes.
fn moment() -> String {
    let asked = std::env::var("SOURCE_DATE_EPOCH").ok();
    let commit = || Command::new("git").args(["log", "-1", "--format=%ct"]).current_dir(root()).output().ok();
    let commit = || commit().map(|said| String::from_utf8_lossy(&said.stdout).trim().to_owned());
    asked.or_else(commit).filter(|text| text.parse::<u64>().is_ok()).unwrap_or_else(|| "0".into())
}

fn said(command: &mut Command) -> Result<String, String> {
    let line = format!("{command:?}");
    let output = command.output().map_err(|error| format!("{line}: {error}"))?;
    if output.status.success() {
        Ok(String::from_utf8_lossy(&output.stdout).into_owned())
    } else {
        Err(format!("{line}: {}\n{}", output.status, String::from_utf8_lossy(&output.stderr)))
    }
}

/// All files below `folder`, as paths from there, in order.
fn files(folder: &Path) -> Vec<PathBuf> {
    fn below(folder: &Path, found: &mut Vec<PathBuf>) {
        for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
            if entry.path().is_dir() { below(&entry.path(), found) } else { found.push(entry.path()) }
        }
    }
    let mut found = Vec::new();
    below(folder, &mut found);
    let mut found: Vec<PathBuf> = found.iter().filter_map(|path| path.strip_prefix(folder).ok().map(Path::to_path_buf)).collect();
    found.sort();
    found
}

/// Packs `binary` into `to`; gives the archive's path.
///
/// # Errors
/// What is missing, or cannot be written.
pub fn pack(binary: &Path, to: &Path) -> Result<PathBuf, String> {
    let folder = to.join(name());
    let failed = |path: &Path| {
        let path = path.display().to_string();
        move |error: std::io::Error| format!("{path}: {error}")
    };
    if folder.exists() {
        std::fs::remove_dir_all(&folder).map_err(failed(&folder))?;
    }
    std::fs::create_dir_all(folder.join("share")).map_err(failed(&folder))?;
    std::fs::copy(binary, folder.join("orthavis")).map_err(failed(binary))?;
    for (from, into) in AS_THEY_ARE {
        std::fs::copy(root().join(from), folder.join(into)).map_err(failed(Path::new(from)))?;
    }
    said(Command::new(folder.join("orthavis")).arg("pages").arg(&folder))?;
    let names = files(&folder);
    let sums = said(Command::new("sha256sum").args(&names).current_dir(&folder))?;
    std::fs::write(folder.join("SHA256SUMS"), sums).map_err(failed(&folder))?;
    let archive = to.join(format!("{}.tar.gz", name()));
    let tar = to.join(format!("{}.tar", name()));
    said(Command::new("tar").args(TAR).arg(format!("--mtime=@{}", moment())).arg("-cf").arg(&tar).arg("-C").arg(to).arg(name()))?;
    // Neither a name nor a time goes into what packs it.
    said(Command::new("gzip").args(["-n", "-f"]).arg(&tar))?;
    std::fs::remove_dir_all(&folder).map_err(failed(&folder))?;
    let sum = said(Command::new("sha256sum").arg(format!("{}.tar.gz", name())).current_dir(to))?;
    std::fs::write(archive.with_extension("gz.sha256"), sum).map_err(failed(&archive))?;
    Ok(archive)
}

/// Names and versions of crates, as a lock file has them.
fn locked(lock: &str) -> BTreeMap<String, Vec<String>> {
    let mut found: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let mut name = "";
    for line in lock.lines() {
        let value = |key: &str| line.strip_prefix(key).map(|rest| rest.trim_matches('"'));
        if let Some(known) = value("name = ") {
            name = known;
        } else if let Some(version) = value("version = ") {
            found.entry(name.to_owned()).or_default().push(version.to_owned());
        }
    }
    found
}

/// Where the list of licences and what is built differ: crates that are built and not listed, and the other way round.
fn differences(list: &str, built: &[String], lock: &str) -> Vec<String> {
    let listed: Vec<&str> = list.lines().filter_map(|line| line.trim().strip_prefix("<li data-crate=\"")?.split('"').next()).collect();
    let locked = locked(lock);
    let is_locked = |one: &str| one.split_once(' ').is_some_and(|(name, version)| locked.get(name).is_some_and(|all| all.iter().any(|known| known == version)));
    let missing = built.iter().filter(|one| !listed.contains(&one.as_str())).map(|one| format!("{one} is missing"));
    missing.chain(listed.iter().filter(|one| !is_locked(one)).map(|one| format!("{one} is not built"))).collect()
}

/// Whether the list of licences is of what is built.
///
/// # Errors
/// What differs, and how it is made anew.
pub fn licences_are_of_today() -> Result<(), String> {
    let tree =
        said(&mut crate::cargo_with(&["tree", "--locked", "--package", "orthavis", "--edges", "normal,no-proc-macro", "--prefix", "none", "--format", "{p}"]))?;
    // As in `axum v0.8.9`; what has a path is ours.
    let built: Vec<String> = tree.lines().filter(|line| !line.contains('/')).filter_map(|line| Some(line.split(" (").next()?.replacen(" v", " ", 1))).collect();
    let differ = differences(&text(&root().join(LICENCES)), &built, &text(&root().join("Cargo.lock")));
    if differ.is_empty() { Ok(()) } else { Err(format!("{LICENCES} is not of today: {}. Make it anew by `cargo xtask licences`", differ.join(", "))) }
}

/// The whole way to an archive in target/dist.
///
/// # Errors
/// Whatever fails on it.
pub fn dist() -> Result<(), String> {
    licences_are_of_today()?;
    crate::whole_page()?;
    let to = root().join("target/dist");
    // Where it was built is nobody's business, and no reason for other bytes.
    let home = std::env::var("CARGO_HOME").unwrap_or_else(|_| format!("{}/.cargo", std::env::var("HOME").unwrap_or_default()));
    let flags = format!("--remap-path-prefix={}=/orthavis --remap-path-prefix={home}=/cargo", root().display());
    let mut build = crate::cargo_with(&["build", "--release", "--locked", "--package", "orthavis", "--target-dir"]);
    stage::run("the program as it is released", 540, build.arg(to.join("build")).env("RUSTFLAGS", flags))?;
    let archive = pack(&to.join("build/release/orthavis"), &to)?;
    let size = std::fs::metadata(&archive).map_or(0, |data| data.len());
    println!("{} is ready, {:.1} MB; its checksum lies beside it.", archive.display(), size as f64 / 1e6);
    println!("Built again from this commit by the same compilers it has the same bytes, in whichever folder.");
    Ok(())
}

/// Makes the list of licences anew, by tools that are fetched for it.
///
/// # Errors
/// Whatever fails on it.
pub fn licences() -> Result<(), String> {
    let tools = root().join("target/licences");
    let about = tools.join("bin/cargo-about");
    if newest(&about).is_none() {
        let mut install = crate::cargo_with(&["install", "cargo-about", "--version", "0.9.3", "--locked", "--features", "cli", "--root"]);
        stage::run("what reads licences of crates", 420, install.arg(&tools))?;
    }
    // Nothing but the crates themselves is asked: what they bring along counts.
    said(&mut crate::cargo_with(&["fetch", "--locked"]))?;
    let crates = said(
        Command::new(about)
            .args(["generate", "--offline", "--locked", "--format", "json", "--config", "packaging/about.toml", "--manifest-path", "app/cli/Cargo.toml"])
            .current_dir(root()),
    )?;
    let page = said(
        Command::new("npx").args(["--yes", "license-checker-rseidelsohn@4.4.2", "--production", "--json", "--excludePrivatePackages"]).current_dir(root()),
    )?;
    let read = |text: &str| serde_json::from_str::<Value>(text).map_err(|error| format!("licences: {error}"));
    let (crates, page) = (read(&crates)?, read(&page)?);
    let mut texts = Texts::default();
    for licence in crates["licenses"].as_array().into_iter().flatten() {
        for user in licence["used_by"].as_array().into_iter().flatten() {
            let word = |key: &str| user["crate"][key].as_str().unwrap_or_default();
            let name = format!("{} {}", word("name"), word("version"));
            texts.add(licence["text"].as_str().unwrap_or_default(), licence["name"].as_str().unwrap_or_default(), &name, true);
        }
    }
    for (name, of) in page.as_object().into_iter().flatten() {
        // Where there is no file of that kind the tool names another one that mentions it.
        let file = of["licenseFile"].as_str().map(Path::new).filter(|path| path.file_stem().is_some_and(|stem| !stem.eq_ignore_ascii_case("readme")));
        texts.add(&file.map(text).unwrap_or_default(), of["licenses"].as_str().unwrap_or_default(), name, false);
    }
    std::fs::write(root().join(LICENCES), texts.page()).map_err(|error| format!("{LICENCES}: {error}"))
}

/// A licence's name, its text, and what is under it; `true`: a crate of the program's, else of the page.
type Licence = (String, String, Vec<(String, bool)>);

/// Licences by their names and words: line breaks do not make another text.
#[derive(Default)]
struct Texts(BTreeMap<(String, String), Licence>);

impl Texts {
    fn add(&mut self, text: &str, licence: &str, user: &str, is_crate: bool) {
        let words = text.split_whitespace().collect::<Vec<_>>().join(" ");
        // One without a text of its own is known by its name alone.
        let key = (if words.is_empty() { licence.to_owned() } else { String::new() }, words);
        let known = self.0.entry(key).or_insert_with(|| (licence.to_owned(), text.trim().to_owned(), Vec::new()));
        known.2.push((user.to_owned(), is_crate));
    }

    fn page(&self) -> String {
        let escaped = |text: &str| text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;");
        let mut page = HEAD.to_owned();
        for (licence, text, users) in self.0.values() {
            let _ = write!(page, "<h2>{}</h2>\n<ul>\n", escaped(licence));
            for (user, is_crate) in users {
                let user = escaped(user);
                let _ = if *is_crate { writeln!(page, "<li data-crate=\"{user}\">{user}</li>") } else { writeln!(page, "<li>{user}, in the page</li>") };
            }
            let _ = write!(page, "</ul>\n<pre>{}</pre>\n", escaped(text));
        }
        page + "</body>\n</html>\n"
    }
}

/// What stands before the licences.
const HEAD: &str = "\
<!doctype html>
<html lang=\"en\">
<head>
<meta charset=\"utf-8\">
<title>Licences of what is inside Orthavis</title>
<style>body { font: 1rem/1.5 sans-serif; max-width: 50rem; margin: 2rem auto; padding: 0 1rem } pre { white-space: pre-wrap; font-size: 0.8rem }</style>
</head>
<body>
<h1>Licences of what is inside Orthavis</h1>
<p>The program is built from these works of others. SQLite, which is inside too, is in the public domain; the standard library of Rust, by the
Rust project's contributors, is under the MIT licence or the Apache licence 2.0, both below.</p>
";

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::{BufRead, BufReader, Read, Write};
    use std::net::TcpStream;
    use std::process::Stdio;

    #[test]
    fn a_list_of_something_else_is_not_of_today() {
        let lock = "[[package]]\nname = \"axum\"\nversion = \"0.8.9\"\n\n[[package]]\nname = \"syn\"\nversion = \"1.0.0\"\n\n[[package]]\nname = \"syn\"\nversion = \"2.0.0\"\n";
        let of = |names: &[&str]| {
            let list: String = names.iter().map(|name| format!("  <li data-crate=\"{name}\">x</li>\n")).collect();
            differences(&list, &["axum 0.8.9".to_owned()], lock)
        };
        assert_eq!(of(&["axum 0.8.9", "syn 1.0.0", "syn 2.0.0"]), Vec::<String>::new());
        assert_eq!(of(&["axum 0.8.8", "gone 1.0.0"]), ["axum 0.8.9 is missing", "axum 0.8.8 is not built", "gone 1.0.0 is not built"]);
    }

    #[test]
    fn a_text_stands_once_with_all_that_is_under_it() {
        let mut texts = Texts::default();
        texts.add("Do as you\n like.", "Free", "one 1.0.0", true);
        texts.add("Do as you like.", "Free", "two@2.0.0", false);
        texts.add("Ask <first> & \"wait\".", "Less so", "three 3.0.0", true);
        texts.add("", "Named only", "four@4.0.0", false);
        texts.add("", "Named otherwise", "five@5.0.0", false);
        let page = texts.page();
        assert_eq!((page.matches("<pre>").count(), page.matches("<h2>Free</h2>").count()), (4, 1));
        assert!(page.contains("<li data-crate=\"one 1.0.0\">") && page.contains("<li>two@2.0.0, in the page</li>"), "{page}");
        assert!(page.contains("Ask &lt;first&gt; &amp; &quot;wait&quot;."), "{page}");
    }

    #[test]
    fn licences_in_the_archive_are_of_what_is_built() {
        assert_eq!(licences_are_of_today(), Ok(()));
    }

    /// Runs in a folder without anything of a toolchain's in reach.
    fn bare(program: &Path, folder: &Path) -> Command {
        let mut command = Command::new(program);
        command.env_clear().env("PATH", folder.join("nothing")).current_dir(folder);
        command
    }

    #[test]
    fn the_same_program_gives_the_same_archive() {
        use std::os::unix::fs::PermissionsExt;
        let folder = tempfile::TempDir::new().expect("folder");
        let binary = folder.path().join("program");
        std::fs::write(&binary, "#!/bin/sh\nmkdir -p \"$2/man\" && echo page > \"$2/man/orthavis.1\"\n").expect("written");
        std::fs::set_permissions(&binary, std::fs::Permissions::from_mode(0o700)).expect("may run");
        let bytes = |name: &str| {
            let to = folder.path().join(name);
            std::fs::create_dir(&to).expect("a folder");
            std::fs::read(pack(&binary, &to).expect("packed")).expect("read")
        };
        let one = bytes("one");
        std::fs::set_permissions(&binary, std::fs::Permissions::from_mode(0o755)).expect("may run");
        assert!(one == bytes("two"), "the archive depends on when and where it is packed");
    }

    #[test]
    fn the_archive_runs_in_an_empty_folder_without_a_toolchain() {
        let own = std::env::current_exe().expect("this program");
        let binary = own.ancestors().nth(2).expect("a folder above").join("orthavis");
        assert!(binary.exists(), "{} is not built: run `cargo xtask test`", binary.display());
        let folder = tempfile::TempDir::new().expect("folder");
        let archive = pack(&binary, folder.path()).expect("packed");
        let empty = folder.path().join("empty");
        std::fs::create_dir(&empty).expect("a folder");
        said(Command::new("tar").arg("-xzf").arg(&archive).arg("-C").arg(&empty)).expect("unpacked");
        let place = empty.join(name());
        said(Command::new("sha256sum").args(["--check", "--quiet", "SHA256SUMS"]).current_dir(&place)).expect("whole");
        for file in ["README.md", "licences.html", "man/orthavis.1", "man/orthavis-check.1", "completions/orthavis.bash", "share/orthavis.service"] {
            assert!(place.join(file).is_file(), "{file}");
        }
        let program = place.join("orthavis");
        let mut server = bare(&program, &place).args(["demo", "--port", "0", "--db", "demo.db"]).stdout(Stdio::piped()).spawn().expect("it starts");
        let mut line = String::new();
        BufReader::new(server.stdout.as_mut().expect("its output")).read_line(&mut line).expect("a line");
        let address = line.trim().rsplit("http://").next().expect("an address").to_owned();
        let get = |path: &str| {
            let mut stream = TcpStream::connect(&address).expect("connected");
            write!(stream, "GET {path} HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n\r\n").expect("sent");
            let mut answer = Vec::new();
            stream.read_to_end(&mut answer).expect("answered");
            String::from_utf8_lossy(&answer).into_owned()
        };
        let (page, shelf, worker) = (get("/"), get("/api/v1/builds"), get("/worker.js"));
        drop(server.kill());
        drop(server.wait());
        assert!(page.starts_with("HTTP/1.1 200") && page.contains("orthavis-version"), "{page}");
        assert!(shelf.contains("Camp rover"), "{shelf}");
        assert!(worker.contains("/assets/"), "{worker}");
    }
}
