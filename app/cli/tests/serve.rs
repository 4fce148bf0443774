//! The server as a process: ports, files, signals, and a second one on the same database.
#![cfg(unix)]

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};
use tempfile::TempDir;

fn command(arguments: &[&str], folder: &Path) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_orthavis"));
    command.args(arguments).env_clear().env("PATH", "/usr/bin:/bin").current_dir(folder).stdout(Stdio::piped()).stderr(Stdio::piped());
    command
}

fn ends(arguments: &[&str], folder: &Path) -> Output {
    command(arguments, folder).output().expect("it ends")
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

struct Server(Child, String);

impl Server {
    fn start(arguments: &[&str], folder: &Path) -> Self {
        let mut child = command(arguments, folder).spawn().expect("it starts");
        let mut line = String::new();
        BufReader::new(child.stdout.as_mut().expect("its output")).read_line(&mut line).expect("a line");
        let address = line.trim().rsplit("http://").next().expect("an address").to_owned();
        Server(child, address)
    }

    fn get(&self, path: &str) -> String {
        let mut stream = TcpStream::connect(&self.1).expect("connected");
        stream.set_read_timeout(Some(Duration::from_secs(30))).expect("a limit");
        write!(stream, "GET {path} HTTP/1.1\r\nHost: {}\r\nConnection: close\r\n\r\n", self.1).expect("sent");
        let mut answer = String::new();
        stream.read_to_string(&mut answer).expect("answered");
        answer
    }

    /// How long it takes to end after Ctrl-C.
    fn interrupt(&mut self) -> Duration {
        let started = Instant::now();
        let killed = Command::new("kill").args(["-INT", &self.0.id().to_string()]).status().expect("kill runs");
        assert!(killed.success());
        self.0.wait().expect("it ends");
        started.elapsed()
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        drop(self.0.kill());
        drop(self.0.wait());
    }
}

#[test]
fn a_second_server_is_told_of_the_first_and_throws_nothing_away() {
    let folder = TempDir::new().expect("folder");
    let first = Server::start(&["demo", "--port", "0", "--db", "d.db"], folder.path());
    for arguments in [&["demo", "--fresh", "--port", "0", "--db", "d.db"][..], &["serve", "--port", "0", "--db", "d.db"]] {
        let second = ends(arguments, folder.path());
        assert_eq!(second.status.code(), Some(2));
        let words = said(&second);
        assert!(words.contains("in use") && words.contains(&first.1) && words.contains(&first.0.id().to_string()), "{words}");
    }
    assert_eq!(first.get("/api/v1/builds").matches("\"revision\":1").count(), 8, "all samples are still there");
}

#[test]
fn a_taken_port_leaves_no_file_and_removes_none() {
    let folder = TempDir::new().expect("folder");
    let taken = TcpListener::bind("127.0.0.1:0").expect("a port");
    let port = taken.local_addr().expect("its address").port().to_string();
    std::fs::write(folder.path().join("old.db"), "something").expect("written");
    let failed = ends(&["serve", "--port", &port, "--db", "new/d.db"], folder.path());
    assert!(failed.status.code() == Some(2) && said(&failed).contains("--port"), "{}", said(&failed));
    assert!(!folder.path().join("new").exists());
    ends(&["demo", "--fresh", "--port", &port, "--db", "old.db"], folder.path());
    assert_eq!(std::fs::read_to_string(folder.path().join("old.db")).expect("still there"), "something");
}

#[test]
fn a_demo_starts_over_only_with_its_file_to_itself() {
    let folder = TempDir::new().expect("folder");
    let demo = ["demo", "--port", "0", "--db", "d.db"];
    Server::start(&demo, folder.path()).interrupt();
    let again = Server::start(&["demo", "--fresh", "--port", "0", "--db", "d.db"], folder.path());
    assert_eq!(again.get("/api/v1/builds").matches("\"revision\":1").count(), 8);
}

#[test]
fn a_home_that_is_none_is_not_written_into() {
    let folder = TempDir::new().expect("folder");
    let (home, data) = (folder.path().join("home"), folder.path().join("data"));
    let start = |home: &str, data: &str| command(&["serve", "--port", "0"], folder.path()).env("HOME", home).env("XDG_DATA_HOME", data).output();
    // Neither is absolute: there is no home.
    for (home, data) in [("", ""), ("here", "there"), ("", "there")] {
        let none = start(home, data).expect("it ends");
        assert!(none.status.code() == Some(2) && said(&none).contains("--db"), "{home} {data}: {}", said(&none));
    }
    assert_eq!(std::fs::read_dir(folder.path()).expect("folder").count(), 0, "nothing was written");
    // A relative one is ignored, the absolute one counts.
    let mut with = command(&["serve", "--port", "0"], folder.path());
    let mut child = with.env("HOME", &home).env("XDG_DATA_HOME", "relative").spawn().expect("it starts");
    let mut line = String::new();
    BufReader::new(child.stdout.as_mut().expect("its output")).read_line(&mut line).expect("a line");
    assert!(home.join(".local/share/orthavis/workshop.db").exists(), "{line}");
    assert!(!folder.path().join("relative").exists() && !data.exists());
    child.kill().expect("ended");
    child.wait().expect("gone");
    for name in [":memory:", "file:x.db"] {
        let refused = ends(&["serve", "--port", "0", "--db", name], folder.path());
        assert!(refused.status.code() == Some(2) && said(&refused).contains("not a file"), "{name}: {}", said(&refused));
    }
}

#[test]
fn it_ends_on_ctrl_c_whatever_is_half_sent_or_computed() {
    let folder = TempDir::new().expect("folder");
    let mut server = Server::start(&["serve", "--port", "0", "--db", "d.db"], folder.path());
    let open = |text: String| {
        let mut stream = TcpStream::connect(&server.1).expect("connected");
        stream.write_all(text.as_bytes()).expect("sent");
        stream
    };
    let head = format!("POST /api/v1/report HTTP/1.1\r\nHost: {}\r\nContent-Type: application/json\r\n", server.1);
    // Half a head, half a body, and a whole question that takes long.
    let half_head = open("GET /api/v1/bui".into());
    let half_body = open(format!("{head}Content-Length: 1000\r\n\r\n{{\"document\":"));
    let lights: Vec<String> = (0..400)
        .map(|n| {
            format!(
                r#"{{"id":"l{n}","feeds":[{{"from":"source","length_m":1,"gauge":{{"awg":22}}}}],"load":{{"kind":"led_array","led":{{"vf_v":2,"if_a":0.02,"if_max_a":0.03}},"series":3,"parallel":1,"resistor_ohm":100}}}}"#
            )
        })
        .collect();
    let lit: Vec<String> = (0..400).map(|n| format!(r#""l{n}":{{}}"#)).collect();
    let scenes: Vec<String> = (0..8).map(|n| format!(r#"{{"id":"s{n}","lights":{{{}}}}}"#, lit.join(","))).collect();
    let body = format!(
        r#"{{"document":{{"format":"orthavis.build/1","name":"x","vehicle":{{"kind":"other","mass_kg":1}},"source":{{"kind":"battery","chemistry":"li_ion","series":3,"capacity_ah":9,"max_current_a":99}},"lights":[{}],"scenes":[{}]}}}}"#,
        lights.join(","),
        scenes.join(",")
    );
    let asking = open(format!("{head}Content-Length: {}\r\n\r\n{body}", body.len()));
    let took = server.interrupt();
    assert!(took < Duration::from_secs(5), "{took:?}");
    drop((half_head, half_body, asking));
}

#[test]
fn a_file_that_is_removed_meanwhile_is_not_saved_into() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start(&["demo", "--port", "0", "--db", "d.db"], folder.path());
    std::fs::remove_file(folder.path().join("d.db")).expect("removed");
    let mut stream = TcpStream::connect(&server.1).expect("connected");
    write!(stream, "POST /api/v1/builds/1/duplicate HTTP/1.1\r\nHost: {}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n", server.1).expect("sent");
    let mut answer = String::new();
    stream.read_to_string(&mut answer).expect("answered");
    assert!(answer.starts_with("HTTP/1.1 507") && answer.contains("removed or replaced"), "{answer}");
}

/// Whoever starts the server and never reads its log is answered all the same.
#[test]
fn a_log_that_nobody_reads_stops_nothing() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start(&["serve", "--port", "0", "--db", "builds.db"], folder.path());
    // Ten times what the pipe of the log holds.
    for _ in 0..4000 {
        let answer = server.get("/api/v1/builds/1");
        assert!(answer.starts_with("HTTP/1.1 404"), "{answer}");
    }
}

/// What a server that opens its door says, until the code has been told.
fn invitation(child: &mut Child) -> Vec<String> {
    let mut lines = Vec::new();
    for line in BufReader::new(child.stdout.as_mut().expect("its output")).lines() {
        lines.push(line.expect("a line"));
        if lines.last().is_some_and(|line| line.contains("not encrypted")) {
            break;
        }
    }
    lines
}

/// An answer on another address of this machine, which stands for one on the network.
fn from_the_network(address: &str, path: &str, host: &str) -> String {
    let mut stream = TcpStream::connect(address).expect("connected");
    stream.set_read_timeout(Some(Duration::from_secs(30))).expect("a limit");
    write!(stream, "GET {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n").expect("sent");
    let mut answer = String::new();
    stream.read_to_string(&mut answer).expect("answered");
    answer
}

#[test]
fn a_door_to_the_network_is_told_of_and_holds() {
    let folder = TempDir::new().expect("folder");
    let child = command(&["demo", "--port", "0", "--db", "d.db", "--lan=127.0.0.2"], folder.path()).spawn().expect("it starts");
    let mut server = Server(child, String::new());
    let lines = invitation(&mut server.0);
    let garage = lines.iter().find_map(|line| line.strip_prefix("On the phone open http://")).expect("an address").to_owned();
    let (address, code) = garage.split_once("/pair#").expect("a code");
    assert!(address.starts_with("127.0.0.2:") && code.len() == 6, "{garage}");
    assert!(lines.iter().any(|line| line.contains(&format!("code {code}"))), "{lines:?}");
    assert!(lines.iter().filter(|line| line.contains('█')).count() > 12, "no picture of the code");
    // At the same port as the machine's own page, which stays as it was.
    let port = address.rsplit(':').next().expect("a port");
    assert!(lines[0].ends_with(&format!("http://127.0.0.1:{port}")), "{}", lines[0]);
    assert!(from_the_network(address, "/api/v1/builds", address).starts_with("HTTP/1.1 401"));
    assert!(from_the_network(address, "/api/v1/builds", &format!("127.0.0.1:{port}")).starts_with("HTTP/1.1 403"));
    assert!(from_the_network(address, "/api/v1/me", address).contains("stranger"));
    let near = format!("127.0.0.1:{port}");
    assert!(from_the_network(&near, "/api/v1/builds", &near).starts_with("HTTP/1.1 200"));
    assert!(server.interrupt() < Duration::from_secs(10));
}

#[test]
fn the_owner_opens_the_door_and_closes_it_again() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start(&["demo", "--port", "0", "--db", "d.db"], folder.path());
    let port = server.1.rsplit(':').next().expect("a port").to_owned();
    let (near, far) = (format!("127.0.0.1:{port}"), format!("127.0.0.2:{port}"));
    let asked = |method: &str, body: &str| {
        let mut stream = TcpStream::connect(&near).expect("it listens");
        let length = body.len();
        let head = format!("{method} /api/v1/garage/door HTTP/1.1\r\nHost: {near}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\n");
        write!(stream, "{head}Connection: close\r\n\r\n{body}").expect("sent");
        let mut answer = String::new();
        stream.read_to_string(&mut answer).expect("answered");
        answer
    };
    assert!(TcpStream::connect(&far).is_err(), "something listens beside loopback");
    for (address, words) in [("0.0.0.0", "is not an address on a local network"), ("127.0.0.1", "is not an address on a local network")] {
        let refused = asked("POST", &format!("{{\"address\":\"{address}\"}}"));
        assert!(refused.starts_with("HTTP/1.1 409") && refused.contains(words), "{refused}");
    }
    // Once more changes nothing.
    for _ in 0..2 {
        let open = asked("POST", "{\"address\":\"127.0.0.2\"}");
        assert!(open.starts_with("HTTP/1.1 200") && open.contains(&format!("\"http://{far}\"")), "{open}");
    }
    assert!(from_the_network(&far, "/api/v1/me", &far).contains("stranger"));
    // A connection that stays open is cut off with the door.
    let mut kept = TcpStream::connect(&far).expect("it listens");
    kept.set_read_timeout(Some(Duration::from_secs(30))).expect("a limit");
    write!(kept, "GET /api/v1/me HTTP/1.1\r\nHost: {far}\r\n\r\n").expect("sent");
    let mut start = [0; 12];
    kept.read_exact(&mut start).expect("answered");
    assert_eq!(&start, b"HTTP/1.1 200");
    assert!(asked("DELETE", "").contains("\"addresses\":[]"));
    let mut rest = Vec::new();
    kept.read_to_end(&mut rest).expect("closed");
    assert!(TcpStream::connect(&far).is_err(), "it listens still");
    // And opens again.
    assert!(asked("POST", "{\"address\":\"127.0.0.2\"}").starts_with("HTTP/1.1 200"));
    assert!(from_the_network(&far, "/api/v1/me", &far).contains("stranger"));
}

#[test]
fn without_the_door_nothing_else_is_listened_on() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start(&["demo", "--port", "0", "--db", "d.db"], folder.path());
    let port = server.1.rsplit(':').next().expect("a port");
    assert!(TcpStream::connect(format!("127.0.0.2:{port}")).is_err(), "something listens beside loopback");
    assert!(server.get("/api/v1/garage").contains("\"addresses\":[]"));
}

#[test]
fn an_address_that_is_none_of_this_machine_is_refused_with_a_remedy() {
    let folder = TempDir::new().expect("folder");
    for (address, words) in
        [("0.0.0.0", "not an address on a local network"), ("127.0.0.1", "not an address on a local network"), ("192.0.2.7", "give an address of this machine")]
    {
        let ended = ends(&["serve", "--port", "0", "--db", "d.db", &format!("--lan={address}")], folder.path());
        assert_eq!(ended.status.code(), Some(2), "{address}");
        assert!(said(&ended).contains(words), "{address}: {}", said(&ended));
        assert!(!folder.path().join("d.db").exists(), "{address}: a file was left behind");
    }
}

/// A program in the place of what opens addresses, which writes down what it was given.
fn opener(folder: &Path) -> String {
    use std::os::unix::fs::PermissionsExt;
    let bin = folder.join("bin");
    std::fs::create_dir(&bin).expect("a folder");
    assert!(Command::new("mkfifo").arg(folder.join("opened")).status().expect("mkfifo runs").success());
    let script = bin.join("xdg-open");
    std::fs::write(&script, format!("#!/bin/sh\necho \"$1\" >> {0}/all\necho \"$1\" > {0}/opened\n", folder.display())).expect("written");
    std::fs::set_permissions(&script, std::fs::Permissions::from_mode(0o755)).expect("may run");
    format!("{}:/usr/bin:/bin", bin.display())
}

#[test]
fn alone_it_opens_the_workshop_in_the_browser_and_one_that_is_open_is_shown() {
    let folder = TempDir::new().expect("folder");
    let path = opener(folder.path());
    let start = |more: &[&str]| {
        let mut command = command(&[&["--db", "own.db"], more].concat(), folder.path());
        command.env("PATH", &path).env("DISPLAY", ":0");
        command
    };
    let mut first = start(&["--port", "0"]).spawn().expect("it starts");
    let mut line = String::new();
    BufReader::new(first.stdout.as_mut().expect("its output")).read_line(&mut line).expect("a line");
    // Reading waits for who writes.
    let opened = || std::fs::read_to_string(folder.path().join("opened")).expect("opened");
    let server = Server(first, line.trim().rsplit("http://").next().expect("an address").to_owned());
    assert_eq!(opened().trim(), format!("http://{}", server.1));
    let second = start(&[]).output().expect("it ends");
    assert!(second.status.success(), "{}", said(&second));
    assert_eq!(String::from_utf8_lossy(&second.stdout), format!("Orthavis is open already, at http://{}\n", server.1));
    assert_eq!(opened().trim(), format!("http://{}", server.1));
    // Who wants no browser gets none: when the fourth has opened one, three have.
    for more in [&["--no-open"][..], &[]] {
        let later = start(more).output().expect("it ends");
        assert!(later.status.success(), "{}", said(&later));
    }
    assert_eq!(opened().trim(), format!("http://{}", server.1));
    assert_eq!(std::fs::read_to_string(folder.path().join("all")).expect("a list").lines().count(), 3);
    assert!(server.get("/api/v1/me").contains("owner"));
}

#[test]
fn a_usual_port_that_is_taken_is_the_next_one_and_a_named_one_is_refused() {
    let folder = TempDir::new().expect("folder");
    // Whoever has it: it is taken now.
    let taken = TcpListener::bind("127.0.0.1:7417");
    let mut child = command(&["serve", "--db", "next.db"], folder.path()).spawn().expect("it starts");
    let mut lines = BufReader::new(child.stdout.as_mut().expect("its output")).lines();
    let (first, second) = (lines.next().expect("a line").expect("read"), lines.next().expect("a line").expect("read"));
    drop(lines);
    let server = Server(child, first.rsplit("http://").next().expect("an address").to_owned());
    assert!(!server.1.ends_with(":7417"), "{first}");
    assert!(second.contains("7417 is taken"), "{second}");
    let refused = ends(&["serve", "--db", "other.db", "--port", server.1.rsplit(':').next().expect("a port")], folder.path());
    assert_eq!(refused.status.code(), Some(2));
    assert!(said(&refused).contains("--port"), "{}", said(&refused));
    assert!(!folder.path().join("other.db").exists());
    drop(taken);
}

#[test]
fn a_page_of_another_folder_is_served_and_one_that_is_none_is_refused() {
    let folder = TempDir::new().expect("folder");
    let refused = ends(&["serve", "--db", "a.db", "--port", "0", "--page", "."], folder.path());
    assert_eq!(refused.status.code(), Some(2));
    assert!(said(&refused).contains("index.html"), "{}", said(&refused));
    let page = folder.path().join("page");
    std::fs::create_dir_all(page.join("assets")).expect("a folder");
    std::fs::write(page.join("index.html"), "<meta name=\"orthavis-version\" content=\"\" />").expect("written");
    std::fs::write(page.join("assets/a.js"), "1").expect("written");
    std::fs::write(folder.path().join("secret.txt"), "nobody's").expect("written");
    let server = Server::start(&["serve", "--db", "a.db", "--port", "0", "--page", "page"], folder.path());
    let version = |answer: &str| answer.split("content=\"").nth(1).and_then(|rest| rest.split('"').next()).expect("a version").to_owned();
    let one = version(&server.get("/"));
    assert_eq!(one.len(), 16);
    let worker = server.get("/worker.js");
    for words in ["\"/\",", "\"/assets/a.js\",", &format!("PAGE = \"{one}\""), "Service-Worker-Allowed: /"] {
        assert!(worker.to_lowercase().contains(&words.to_lowercase()), "{words}: {worker}");
    }
    // A core that may still come is worth asking for again; one of another version never is.
    assert!(server.get("/core.wasm").to_lowercase().contains("retry-after"));
    std::fs::write(page.join("core.wasm"), "core").expect("written");
    assert_eq!(version(&server.get("/")), one, "the core is not a part of the page's version");
    assert!(server.get(&format!("/core.wasm?page={one}")).ends_with("core"));
    assert!(server.get("/worker.js").contains(&format!("\"/core.wasm?page={one}\"")));
    std::fs::write(page.join("assets/a.js"), "2").expect("written");
    assert_ne!(version(&server.get("/")), one);
    let other = server.get(&format!("/core.wasm?page={one}"));
    assert!(other.contains("404") && other.contains("another version"), "{other}");
    for outside in ["/../secret.txt", "/assets/../../secret.txt", "//etc/host.conf"] {
        assert!(server.get(outside).starts_with("HTTP/1.1 404"), "{outside}");
    }
}
