//! The workshop in a browser, and the instruments: what runs until it is stopped.

use crate::keep::home;
use crate::out::{Document, End, Failure, Out, Outcome, flush};
use clap::Args;
use orthavis_core::document::{Build, DocumentError, parse};
use orthavis_core::journal::Event;
use orthavis_core::moment::Moment;
use orthavis_core::upkeep::year::{Truth, year};
use orthavis_instruments::{Bench, Instruments, Kind, OnBench, PORTS};
use orthavis_server::{Door, Rack, asked_to_stop};
use orthavis_store::{Owner, Store, StoreError};
use serde_json::json;
use std::collections::BTreeMap;
use std::io::IsTerminal;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tokio::net::TcpListener;
use tracing_appender::non_blocking::{NonBlockingBuilder, WorkerGuard};
use tracing_subscriber::filter::{LevelFilter, Targets};
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

/// Where a workshop is kept and where it listens.
#[derive(Args)]
pub struct Place {
    /// Database file; made if missing [default: a folder of the current user]
    #[arg(long)]
    db: Option<PathBuf>,
    /// Port on 127.0.0.1; 0 takes any free one [default: 7417, or the next that is free]
    #[arg(long)]
    port: Option<u16>,
    /// Serve the page of this folder in place of the one inside
    #[arg(long, hide = true)]
    page: Option<PathBuf>,
    /// Also listen on the local network, for a phone in the garage; the phone has to be let in by a code
    ///
    /// Without an address: on every private address of this machine. What goes over the network is not encrypted:
    /// use it in a network that you trust.
    #[arg(long, value_name = "ADDRESS", num_args = 0..=1, require_equals = true)]
    lan: Option<Option<IpAddr>>,
    /// Have the bench's instruments on from the start, on 127.0.0.1, ports 5025 to 5027
    #[arg(long)]
    instruments: bool,
}

/// Which workshop is opened.
#[derive(Clone, Copy)]
pub struct Workshop {
    /// Its file in the folder of the current user.
    file: &'static str,
    /// The sample builds are in it.
    samples: bool,
    /// What is in it is thrown away first.
    fresh: bool,
}

impl Workshop {
    /// A person's own.
    pub const OWN: Workshop = Workshop { file: "workshop.db", samples: false, fresh: false };

    /// That of the sample builds, as it was left or anew.
    pub const fn demo(fresh: bool) -> Workshop {
        Workshop { file: "demo.db", samples: true, fresh }
    }
}

/// Lines that may wait for whoever reads the log. Room for them is made at once, and costs a serving process nothing.
const LOG_LINES: usize = 8192;

/// Begins the log of a process that serves; what answers one question has none, and starts without it.
pub fn log() -> WorkerGuard {
    // Written by a thread of its own, which drops lines rather than wait: nobody need read what a server logs.
    let (log, written_until_the_end) = NonBlockingBuilder::default().buffered_lines_limit(LOG_LINES).lossy(true).finish(std::io::stderr());
    let asked = std::env::var("RUST_LOG").ok().and_then(|levels| levels.parse::<Targets>().ok());
    let usual = || Targets::new().with_default(LevelFilter::WARN).with_target("orthavis_server", LevelFilter::INFO);
    let lines = tracing_subscriber::fmt::layer().with_writer(log).with_ansi(std::io::stderr().is_terminal());
    tracing_subscriber::registry().with(lines).with(asked.unwrap_or_else(usual)).init();
    written_until_the_end
}

pub fn instruments(file: &Path, port: u16, serial: u64, out: Out) -> Outcome {
    let _written_until_the_end = log();
    let Document { build, .. } = Document::read(file)?;
    let next = |by: u16| {
        if port == 0 {
            Ok(0)
        } else {
            port.checked_add(by).ok_or_else(|| Failure::Usage(format!("--port {port} leaves no room for three; give at most 65533")))
        }
    };
    let ports = [(Kind::Meter, next(0)?), (Kind::Supply, next(1)?), (Kind::Charger, next(2)?)];
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string())?;
    runtime.block_on(async {
        let on = OnBench::of(Arc::new(build));
        let (name, scene, state) = (on.build.name.clone(), on.scene.clone(), on.state.phrase());
        let instruments = Instruments::listen(Bench::new(on, serial), ports).await.map_err(|error| format!("{error}. Choose others with --port."))?;
        let addresses: Vec<(String, String)> = instruments.addresses.iter().map(|(kind, at)| (kind.name().to_lowercase(), at.to_string())).collect();
        out.put(&json!({ "build": name, "scene": scene, "state": state, "addresses": addresses.iter().cloned().collect::<BTreeMap<_, _>>() }), || {
            let lines: String = addresses.iter().map(|(kind, at)| format!("  {kind:<8} {at}\n")).collect();
            format!("On the bench: {name}, scene {scene}, {state}\n{lines}  stop with Ctrl-C\n")
        })?;
        flush()?;
        tokio::select! { () = instruments.run() => {}, _ = tokio::signal::ctrl_c() => {} }
        Ok(End::Fine)
    })
}

/// Switches the instruments on with a sample build, until the page puts its own on the bench.
async fn instruments_on(rack: &Rack) -> Result<String, String> {
    let build = parse(orthavis_core::demo::BUILDS[0]).map_err(|error| format!("sample build: {error}"))?;
    rack.switch_on(Arc::new(build)).await.map_err(|error| format!("{error}. Close what listens there, or leave --instruments out."))?;
    Ok(PORTS.iter().map(|(kind, port)| format!("  {:<8} 127.0.0.1:{port}\n", kind.name().to_lowercase())).collect())
}

/// How a phone gets in, for the terminal; nothing where there is no door.
fn invitation(door: &Door) -> Result<String, String> {
    let Some(invitation) = door.invitation().map_err(|error| error.to_string())? else { return Ok(String::new()) };
    let (address, code, picture) = (invitation.address, invitation.code, invitation.picture);
    Ok(format!(
        "\nOn the phone open {address}\n  or point its camera at this; good once, for five minutes (a new code: Phone, on the shelf)\n\n{picture}\n  code {code}\n  \
         not encrypted: for a network that you trust\n"
    ))
}

/// The sample builds, each with a year behind it that ends today.
fn lived() -> Result<Vec<(Build, Vec<Event>)>, DocumentError> {
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |since| since.as_secs() as i64);
    let ends = Moment { s: now, offset_s: 0 };
    let sample = |(text, seed): (&&str, u64)| {
        let build = parse(text)?;
        let events = year(&build, Truth::USUAL, seed, ends);
        Ok((build, events))
    };
    orthavis_core::demo::BUILDS.iter().zip(1..).map(sample).collect()
}

/// The port that is taken where nobody names one, and how many after it are tried.
const PORT: u16 = 7417;
const PORTS_TRIED: u16 = 20;

/// Listens on the port that is asked for, or on the usual one or the next that is free; says which others are taken.
async fn near(asked: Option<u16>) -> Result<(TcpListener, String), String> {
    let on = |port: u16| TcpListener::bind(SocketAddr::from((Ipv4Addr::LOCALHOST, port)));
    if let Some(port) = asked {
        return on(port).await.map(|listener| (listener, String::new())).map_err(|error| format!("port {port}: {error}. Choose another with --port."));
    }
    for port in PORT..PORT + PORTS_TRIED {
        match on(port).await {
            Ok(listener) if port == PORT => return Ok((listener, String::new())),
            Ok(listener) => return Ok((listener, format!("  port {PORT} is taken by another program, so this is the next free one\n"))),
            Err(error) if error.kind() == std::io::ErrorKind::AddrInUse => {}
            Err(error) => return Err(format!("port {port}: {error}. Choose another with --port.")),
        }
    }
    Err(format!("ports {PORT} to {} are all taken. Choose another with --port.", PORT + PORTS_TRIED - 1))
}

/// The address, so that it is seen: in a frame for a person at a terminal, in a line for who reads lines.
fn large(address: SocketAddr) -> String {
    let url = format!("http://{address}");
    if !std::io::stdout().is_terminal() {
        return format!("Orthavis is open at {url}\n");
    }
    let (line, space) = ("─".repeat(url.len() + 6), " ".repeat(url.len() + 6));
    format!("\n  Orthavis is open at\n  ┌{line}┐\n  │{space}│\n  │   \x1b[1m{url}\x1b[0m   │\n  │{space}│\n  └{line}┘\n\n")
}

/// Opens `address` in the browser of this machine, where there is one; a machine without a screen has none.
fn browse(address: &str) {
    let screen = ["DISPLAY", "WAYLAND_DISPLAY"].iter().any(|name| std::env::var_os(name).is_some_and(|value| !value.is_empty()));
    if (screen || cfg!(not(target_os = "linux"))) && open::that_detached(address).is_err() {
        eprintln!("No browser was found here: open {address} in yours.");
    }
}

/// The workshop in the browser; one that is open already is shown as it is.
pub fn open_up(place: &Place, open: bool, out: Out) -> Outcome {
    let path = place.db.clone().map_or_else(|| home(Workshop::OWN.file), Ok)?;
    let browse = |address: &str| {
        if open {
            browse(address)
        }
    };
    // It is asked before a port is taken, and only to see who has it.
    if let Err(StoreError::Owned { at: Some(address), .. }) = Owner::take(&path).map(drop) {
        out.put(&json!({ "address": address, "builds": path }), || format!("Orthavis is open already, at {address}\n"))?;
        browse(&address);
        return Ok(End::Fine);
    }
    serve(place, &Workshop::OWN, out, browse)
}

pub fn serve(place: &Place, workshop: &Workshop, out: Out, then: impl Fn(&str)) -> Outcome {
    let _written_until_the_end = log();
    if let Some(folder) = &place.page {
        orthavis_server::page_from(folder)?;
    }
    let path = place.db.clone().map_or_else(|| home(workshop.file), Ok)?;
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string())?;
    let outcome = runtime.block_on(async {
        // The port first: what fails on it must leave no file behind, and remove none.
        let (listener, taken) = near(place.port).await?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        let door = Arc::new(Door::at(address.port(), Vec::new()));
        if let Some(lan) = place.lan {
            door.open(lan).await.map_err(|shut| format!("--lan: {shut}."))?;
        }
        let mut owner = Owner::take(&path).map_err(|error| error.to_string())?;
        owner.sign(&format!("http://{address}")).map_err(|error| error.to_string())?;
        if workshop.fresh {
            owner.clear().map_err(|error| error.to_string())?;
        }
        let store = Store::open_owned(owner).map_err(|error| error.to_string())?;
        if workshop.samples {
            store.create_once("demo", lived().map_err(|error| format!("sample build: {error}"))?).await.map_err(|error| error.to_string())?;
        }
        let rack = Arc::new(Rack::default());
        let instruments = if place.instruments { instruments_on(&rack).await? } else { String::new() };
        let invitation = invitation(&door)?;
        let url = format!("http://{address}");
        // Whoever reads the address may stop it in the same moment.
        let stop = asked_to_stop().map_err(|error| error.to_string())?;
        out.put(&json!({ "address": url, "builds": path }), || {
            format!("{}{taken}  builds are kept in {}\n{instruments}  stop with Ctrl-C\n{invitation}", large(address), path.display())
        })?;
        flush()?;
        then(&url);
        orthavis_server::serve(listener, store, door, rack, stop).await.map_err(|error| Failure::from(error.to_string()))
    });
    // What still computes is not waited for.
    runtime.shutdown_timeout(std::time::Duration::from_secs(1));
    outcome.map(|()| End::Fine)
}
