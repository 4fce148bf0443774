//! The simulated pixel controller: what it hears by universe, what went missing, and what it shows.

use super::packet::{Data, decode};
use std::collections::{BTreeMap, VecDeque};
use std::io;
use std::net::{Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio::net::UdpSocket;
use tokio::sync::Notify;
use tokio::task::JoinSet;

/// Without a packet for so long a sender is gone (E1.31, section 6.7.1).
pub const SILENCE: Duration = Duration::from_millis(2500);
/// A number so far behind is late, and not the begin of a new count (section 6.7.2).
const LATE: u8 = 20;
/// Senders of one universe, and universes, that are kept in mind; what else comes is counted and passed over.
const MOST_SENDERS: usize = 8;
const MOST_UNIVERSES: usize = 64;
/// The largest packet, and one octet more.
const ROOM: usize = 639;

struct Sender {
    id: [u8; 16],
    name: String,
    priority: u8,
    sequence: u8,
    heard: Instant,
    channels: Vec<u8>,
    /// Numbers that were passed over and may come late.
    missing: Vec<u8>,
}

/// One universe as it is kept.
#[derive(Default)]
struct Kept {
    senders: Vec<Sender>,
    received: u64,
    lost: u64,
    late: u64,
    arrivals: VecDeque<Instant>,
}

/// What a universe heard.
#[derive(Clone, Debug, PartialEq)]
pub struct Universe {
    /// Its number.
    pub universe: u16,
    /// Who is shown; nothing at rest.
    pub sender: Option<String>,
    /// Packets in all.
    pub received: u64,
    /// Numbers that never came.
    pub lost: u64,
    /// Packets that came after a later one, and were not shown.
    pub late: u64,
    /// Packets within the last second.
    pub a_second: usize,
    /// What it shows; dark at rest.
    pub channels: Vec<u8>,
}

/// What the controller heard.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Heard {
    /// By number.
    pub universes: Vec<Universe>,
    /// Packets that were none.
    pub malformed: u64,
    /// Packets for which there was no room.
    pub passed_over: u64,
}

#[derive(Default)]
struct Memory {
    universes: BTreeMap<u16, Kept>,
    malformed: u64,
    passed_over: u64,
}

impl Memory {
    fn take(&mut self, octets: &[u8], now: Instant) {
        match decode(octets) {
            Ok(data) => self.heard(data, now),
            Err(_) => self.malformed += 1,
        }
    }

    fn heard(&mut self, data: Data, now: Instant) {
        // What is for a preview, or no levels, is shown by nobody.
        if data.preview || data.start_code != 0 {
            self.passed_over += 1;
            return;
        }
        if !self.universes.contains_key(&data.universe) && self.universes.len() >= MOST_UNIVERSES {
            self.passed_over += 1;
            return;
        }
        let kept = self.universes.entry(data.universe).or_default();
        kept.senders.retain(|sender| now.duration_since(sender.heard) < SILENCE);
        let known = kept.senders.iter().position(|sender| sender.id == data.sender);
        if data.terminated {
            kept.received += 1;
            if let Some(at) = known {
                kept.senders.remove(at);
            }
            return;
        }
        match known {
            Some(at) => {
                let sender = &mut kept.senders[at];
                let ahead = data.sequence.wrapping_sub(sender.sequence);
                if ahead == 0 || ahead.wrapping_neg() < LATE {
                    kept.late += 1;
                    // It was counted as lost when a later one came; a second copy of it was not.
                    if let Some(at) = sender.missing.iter().position(|number| *number == data.sequence) {
                        sender.missing.swap_remove(at);
                        kept.lost = kept.lost.saturating_sub(1);
                    }
                    return;
                }
                // A sender that begins anew is no loss.
                let passed = if ahead < 128 { ahead - 1 } else { 0 };
                kept.lost += u64::from(passed);
                sender.missing.extend((1..=passed).map(|step| sender.sequence.wrapping_add(step)));
                sender.missing.retain(|number| (1..LATE).contains(&data.sequence.wrapping_sub(*number)));
                (sender.sequence, sender.heard, sender.priority) = (data.sequence, now, data.priority);
                sender.channels = data.channels;
            }
            None if kept.senders.len() >= MOST_SENDERS => {
                self.passed_over += 1;
                return;
            }
            None => kept.senders.push(Sender {
                id: data.sender,
                name: data.name,
                priority: data.priority,
                sequence: data.sequence,
                heard: now,
                channels: data.channels,
                missing: Vec::new(),
            }),
        }
        kept.received += 1;
        kept.arrivals.push_back(now);
        while kept.arrivals.front().is_some_and(|first| now.duration_since(*first) >= Duration::from_secs(1)) {
            kept.arrivals.pop_front();
        }
    }

    fn told(&self, now: Instant) -> Heard {
        let universe = |(number, kept): (&u16, &Kept)| {
            let alive = kept.senders.iter().filter(|sender| now.duration_since(sender.heard) < SILENCE);
            // Of equal ones the first that came stays.
            let shown = alive.fold(None, |best: Option<&Sender>, next| if best.is_some_and(|best| best.priority >= next.priority) { best } else { Some(next) });
            Universe {
                universe: *number,
                sender: shown.map(|sender| sender.name.clone()),
                received: kept.received,
                lost: kept.lost,
                late: kept.late,
                a_second: kept.arrivals.iter().filter(|at| now.duration_since(**at) < Duration::from_secs(1)).count(),
                channels: shown.map(|sender| sender.channels.clone()).unwrap_or_default(),
            }
        };
        Heard { universes: self.universes.iter().map(universe).collect(), malformed: self.malformed, passed_over: self.passed_over }
    }
}

/// A controller that listens; it stops when this is dropped.
pub struct Controller {
    /// Where it listens.
    pub address: SocketAddr,
    memory: Arc<Mutex<Memory>>,
    changed: Arc<Notify>,
    _tasks: JoinSet<()>,
}

impl Controller {
    /// Listens on loopback; port 0 takes any that is free.
    ///
    /// # Errors
    /// When the port is taken.
    pub async fn listen(port: u16) -> io::Result<Self> {
        let socket = UdpSocket::bind((Ipv4Addr::LOCALHOST, port)).await.map_err(|error| io::Error::new(error.kind(), format!("port {port}: {error}")))?;
        let address = socket.local_addr()?;
        let (memory, changed) = (Arc::new(Mutex::new(Memory::default())), Arc::new(Notify::new()));
        let mut tasks = JoinSet::new();
        tasks.spawn(hear(socket, memory.clone(), changed.clone()));
        Ok(Controller { address, memory, changed, _tasks: tasks })
    }

    /// What it heard so far.
    pub fn heard(&self) -> Heard {
        self.memory.lock().unwrap_or_else(PoisonError::into_inner).told(Instant::now())
    }

    /// Begins to count anew.
    pub fn forget(&self) {
        *self.memory.lock().unwrap_or_else(PoisonError::into_inner) = Memory::default();
    }

    /// Waits for the next packet.
    pub async fn next(&self) {
        self.changed.notified().await;
    }
}

async fn hear(socket: UdpSocket, memory: Arc<Mutex<Memory>>, changed: Arc<Notify>) {
    let mut room = [0; ROOM];
    loop {
        match socket.recv(&mut room).await {
            Ok(length) => {
                memory.lock().unwrap_or_else(PoisonError::into_inner).take(&room[..length], Instant::now());
                changed.notify_waiters();
            }
            Err(error) => {
                tracing::warn!(%error, "the controller cannot hear");
                tokio::task::yield_now().await;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn data(sequence: u8, sender: u8, priority: u8, first: u8) -> Data {
        Data {
            sender: [sender; 16],
            name: format!("sender {sender}"),
            priority,
            sequence,
            preview: false,
            terminated: false,
            universe: 1,
            start_code: 0,
            channels: vec![first, 0, 0],
        }
    }

    #[test]
    fn lost_and_late_packets_are_counted_and_late_ones_not_shown() {
        let (mut memory, now) = (Memory::default(), Instant::now());
        // By sequence: what came, then lost, late and what is shown.
        for (sequence, lost, late, shown) in
            [(250, 0, 0, 250), (251, 0, 0, 251), (254, 2, 0, 254), (252, 1, 1, 254), (252, 1, 2, 254), (254, 1, 3, 254), (1, 3, 3, 1), (100, 101, 3, 100)]
        {
            memory.heard(data(sequence, 1, 100, sequence), now);
            let told = &memory.told(now).universes[0];
            assert_eq!((told.lost, told.late, told.channels[0]), (lost, late, shown), "{sequence}");
        }
    }

    #[test]
    fn the_highest_priority_is_shown_until_it_falls_silent_or_ends() {
        let (mut memory, now) = (Memory::default(), Instant::now());
        let shown = |memory: &Memory, now| memory.told(now).universes[0].channels.first().copied();
        memory.heard(data(0, 1, 100, 11), now);
        memory.heard(data(0, 2, 150, 22), now);
        memory.heard(data(0, 3, 150, 33), now);
        assert_eq!(shown(&memory, now), Some(22));
        memory.heard(Data { terminated: true, ..data(1, 2, 150, 0) }, now);
        assert_eq!(shown(&memory, now), Some(33));
        let later = now + SILENCE;
        memory.heard(data(1, 1, 100, 12), later);
        assert_eq!(shown(&memory, later), Some(12));
        // At rest it is dark.
        assert_eq!(shown(&memory, later + SILENCE), None);
    }

    #[test]
    fn what_floods_it_is_passed_over() {
        let (mut memory, now) = (Memory::default(), Instant::now());
        for universe in 1..=200 {
            memory.heard(Data { universe, ..data(0, 1, 100, 1) }, now);
        }
        for sender in 0..100 {
            memory.heard(data(0, sender, 100, 1), now);
        }
        memory.heard(Data { preview: true, ..data(9, 1, 100, 9) }, now);
        let told = memory.told(now);
        assert_eq!(told.universes.len(), MOST_UNIVERSES);
        assert!(told.passed_over > 200 && memory.universes[&1].senders.len() <= MOST_SENDERS);
    }
}
