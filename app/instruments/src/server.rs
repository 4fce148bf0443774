//! Lines over sockets: one task for each connection, on loopback only.

use crate::bench::{Bench, Done, undefined};
use crate::scpi::{self, LONGEST, Trouble, Unit, means};
use orthavis_core::budget::{self, Budget};
use std::collections::VecDeque;
use std::io;
use std::net::{Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::Semaphore;
use tokio::task::JoinSet;

/// An instrument.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// Volts, amps, ohms.
    Meter,
    /// Volts with a limit.
    Supply,
    /// Charges the battery.
    Charger,
}

impl Kind {
    /// As `*IDN?` has it.
    pub fn name(self) -> &'static str {
        match self {
            Kind::Meter => "METER",
            Kind::Supply => "SUPPLY",
            Kind::Charger => "CHARGER",
        }
    }
}

/// Where each listens unless told otherwise.
pub const PORTS: [(Kind, u16); 3] = [(Kind::Meter, 5025), (Kind::Supply, 5026), (Kind::Charger, 5027)];

/// Connections that are served at a time; who comes beyond waits at the door.
const MOST: usize = 100;
/// Troubles that are kept for whoever asks.
const KEPT: usize = 20;

/// Instruments that listen; they stop when this is dropped.
pub struct Instruments {
    /// What they listen at.
    pub addresses: Vec<(Kind, SocketAddr)>,
    bench: Arc<Mutex<Bench>>,
    tasks: JoinSet<()>,
}

impl Instruments {
    /// Listens on loopback; port 0 takes any that is free.
    ///
    /// # Errors
    /// When a port is taken.
    pub async fn listen(bench: Bench, ports: [(Kind, u16); 3]) -> io::Result<Self> {
        let bench = Arc::new(Mutex::new(bench));
        let mut listeners = Vec::new();
        for (kind, port) in ports {
            let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, port)).await;
            listeners.push((kind, listener.map_err(|error| io::Error::new(error.kind(), format!("port {port}: {error}")))?));
        }
        let addresses = listeners.iter().map(|(kind, listener)| Ok((*kind, listener.local_addr()?))).collect::<io::Result<_>>()?;
        let mut tasks = JoinSet::new();
        let places = Arc::new(Semaphore::new(MOST));
        for (kind, listener) in listeners {
            tasks.spawn(accept(kind, listener, bench.clone(), places.clone()));
        }
        Ok(Instruments { addresses, bench, tasks })
    }

    /// Does something with the bench.
    pub fn with<T>(&self, work: impl FnOnce(&mut Bench) -> T) -> T {
        work(&mut self.bench.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Runs until they are stopped.
    pub async fn run(mut self) {
        while self.tasks.join_next().await.is_some() {}
    }
}

async fn accept(kind: Kind, listener: TcpListener, bench: Arc<Mutex<Bench>>, places: Arc<Semaphore>) {
    let mut connections = JoinSet::new();
    loop {
        let Ok(place) = places.clone().acquire_owned().await else { return };
        match listener.accept().await {
            Ok((stream, _)) => {
                let session = Session { kind, bench: bench.clone(), troubles: VecDeque::new(), events: 0 };
                connections.spawn(async move {
                    // Who hangs up in the middle of a line is gone; nobody is to be told.
                    drop(session.serve(stream).await);
                    drop(place);
                });
            }
            Err(error) => {
                tracing::warn!(%error, "an instrument cannot take a connection");
                tokio::task::yield_now().await;
            }
        }
        while connections.try_join_next().is_some() {}
    }
}

/// A connection: its own queue of troubles.
struct Session {
    kind: Kind,
    bench: Arc<Mutex<Bench>>,
    troubles: VecDeque<Trouble>,
    /// The standard event register of IEEE 488.2.
    events: u8,
}

/// Operation complete, and the kinds of trouble, in the standard event register.
const COMPLETE: u8 = 1;

impl Session {
    async fn serve(mut self, stream: TcpStream) -> io::Result<()> {
        stream.set_nodelay(true)?;
        let (from, mut to) = stream.into_split();
        let mut from = BufReader::with_capacity(LONGEST, from);
        let mut line = Vec::new();
        while next_line(&mut from, &mut line).await? {
            let reply = if line.len() > LONGEST {
                self.note(Trouble::new(-363, format!("Input buffer overrun; a line has at most {LONGEST} bytes")));
                None
            } else if let Ok(text) = std::str::from_utf8(&line) {
                let text = text.to_owned();
                // The core computes beside the sockets.
                let (session, reply) = tokio::task::spawn_blocking(move || {
                    let reply = budget::run(Some(Budget::new(budget::USUAL)), || self.answer(&text));
                    (self, reply)
                })
                .await
                .map_err(io::Error::other)?;
                self = session;
                reply
            } else {
                self.note(Trouble::new(-101, "Invalid character; lines are ASCII"));
                None
            };
            if let Some(reply) = reply {
                to.write_all(reply.as_bytes()).await?;
                to.write_all(b"\n").await?;
            }
        }
        Ok(())
    }

    fn note(&mut self, trouble: Trouble) {
        self.events |= match trouble.code {
            -199..=-100 => 0x20,
            -299..=-200 => 0x10,
            _ => 0x08,
        };
        match self.troubles.len() {
            KEPT => self.troubles[KEPT - 1] = Trouble::new(-350, "Queue overflow"),
            _ => self.troubles.push_back(trouble),
        }
    }

    /// A line, and what is sent for it.
    fn answer(&mut self, line: &str) -> Option<String> {
        let mut replies = Vec::new();
        for unit in scpi::units(line) {
            match unit.and_then(|unit| self.unit(&unit)) {
                Ok(reply) => replies.extend(reply),
                Err(trouble) => self.note(trouble),
            }
        }
        (!replies.is_empty()).then(|| replies.join(";"))
    }

    fn unit(&mut self, unit: &Unit) -> Done {
        if let Some(done) = self.common(unit) {
            return done;
        }
        let mut troubles = Vec::new();
        let done = {
            let mut bench = self.bench.lock().unwrap_or_else(PoisonError::into_inner);
            bench.commanded(unit).unwrap_or_else(|| match self.kind {
                Kind::Meter => bench.meter_does(unit, &mut troubles),
                Kind::Supply => bench.supply_does(unit),
                Kind::Charger => bench.charger_does(unit),
            })
        };
        for trouble in troubles {
            self.note(trouble);
        }
        done
    }

    /// The common commands of IEEE 488.2 and the `SYSTem` ones that SCPI asks for; `None`: another command.
    fn common(&mut self, unit: &Unit) -> Option<Done> {
        let is = |pattern: &str, query: bool| unit.query == query && means(pattern, &unit.path);
        if !unit.path[0].starts_with('*') && !is("SYSTem:ERRor[:NEXT]", true) && !is("SYSTem:VERSion", true) {
            return None;
        }
        if !is("*ESE", false) && !is("*SRE", false) && !unit.parameters.is_empty() {
            return Some(crate::bench::none(unit).map(|()| None));
        }
        Some(Ok(match (unit.path[0].as_str(), unit.query) {
            ("*IDN", true) => Some(format!("ORTHAVIS,{},{},{}", self.kind.name(), self.serial(), env!("CARGO_PKG_VERSION"))),
            ("*RST", false) => {
                let mut bench = self.bench.lock().unwrap_or_else(PoisonError::into_inner);
                match self.kind {
                    Kind::Meter => bench.meter_reset(),
                    Kind::Supply => bench.supply_reset(),
                    Kind::Charger => bench.charger_reset(),
                }
                None
            }
            ("*CLS", false) => {
                self.troubles.clear();
                self.events = 0;
                None
            }
            // Each command is done before the next is read.
            ("*OPC", true) => Some("1".to_owned()),
            ("*OPC", false) => {
                self.events |= COMPLETE;
                None
            }
            ("*ESR", true) => Some(std::mem::take(&mut self.events).to_string()),
            ("*STB", true) => Some((if self.troubles.is_empty() { 0 } else { 4 } + if self.events == 0 { 0 } else { 32 }).to_string()),
            ("*TST", true) => Some("0".to_owned()),
            ("*WAI" | "*ESE" | "*SRE", false) => None,
            ("*ESE" | "*SRE", true) => Some("0".to_owned()),
            (path, true) if !path.starts_with('*') && means("SYSTem:VERSion", &unit.path) => Some("1999.0".to_owned()),
            (path, true) if !path.starts_with('*') => {
                Some(self.troubles.pop_front().map_or_else(|| "0,\"No error\"".to_owned(), |trouble| trouble.to_string()))
            }
            _ => return Some(Err(undefined(unit))),
        }))
    }

    fn serial(&self) -> u64 {
        match self.kind {
            Kind::Meter => self.bench.lock().unwrap_or_else(PoisonError::into_inner).meter.serial.0,
            Kind::Supply | Kind::Charger => 1,
        }
    }
}

/// The next line without its end; of one that is too long only so much that it can be told. `false`: they hung up.
async fn next_line(from: &mut (impl AsyncBufReadExt + Unpin), line: &mut Vec<u8>) -> io::Result<bool> {
    line.clear();
    loop {
        let room = from.fill_buf().await?;
        if room.is_empty() {
            // Half a line is none.
            return Ok(false);
        }
        let end = room.iter().position(|byte| *byte == b'\n');
        let take = end.unwrap_or(room.len());
        if line.len() <= LONGEST {
            line.extend_from_slice(&room[..take.min(LONGEST + 1)]);
        }
        from.consume(end.map_or(take, |end| end + 1));
        if end.is_some() {
            if line.last() == Some(&b'\r') {
                line.pop();
            }
            return Ok(true);
        }
    }
}
