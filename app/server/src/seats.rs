//! Seats on the local network: how many connections there are at a time, counted by address, with room of their own for
//! the addresses of devices that were let in.

use std::collections::{HashMap, HashSet};
use std::net::IpAddr;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

/// Where a connection comes from.
#[derive(Clone, Copy)]
pub(crate) struct Peer(pub(crate) IpAddr);

/// Connections of all addresses that nobody was let in from.
const STRANGERS: usize = 128;
/// Connections of one such address.
const EACH: usize = 12;
/// Connections of one address that a device was let in from.
const KNOWN: usize = 64;
/// Requests of one address of strangers within [`MINUTE`].
const REQUESTS: u32 = 240;
const MINUTE: Duration = Duration::from_secs(60);

#[derive(Default)]
struct Counted {
    open: HashMap<IpAddr, usize>,
    strangers: usize,
    known: HashSet<IpAddr>,
    /// Since when, and how many requests.
    asked: HashMap<IpAddr, (Instant, u32)>,
}

/// The seats of one listener, or of several that share them.
#[derive(Clone, Default)]
pub(crate) struct Seats(Arc<Mutex<Counted>>);

/// A seat; given up when dropped.
pub(crate) struct Seat {
    seats: Seats,
    address: IpAddr,
    known: bool,
}

impl Drop for Seat {
    fn drop(&mut self) {
        let mut counted = self.seats.lock();
        if !self.known {
            counted.strangers = counted.strangers.saturating_sub(1);
        }
        if let Some(open) = counted.open.get_mut(&self.address) {
            *open -= 1;
            if *open == 0 {
                counted.open.remove(&self.address);
            }
        }
    }
}

impl Seats {
    fn lock(&self) -> MutexGuard<'_, Counted> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A seat for a connection from this address; `None`: it has all that it gets.
    pub(crate) fn take(&self, address: IpAddr) -> Option<Seat> {
        let mut counted = self.lock();
        let known = counted.known.contains(&address);
        let open = counted.open.get(&address).copied().unwrap_or(0);
        let room = if known { open < KNOWN } else { open < EACH && counted.strangers < STRANGERS };
        if !room {
            return None;
        }
        *counted.open.entry(address).or_default() += 1;
        if !known {
            counted.strangers += 1;
        }
        Some(Seat { seats: self.clone(), address, known })
    }

    /// A device that was let in asks from this address: its next connections have room of their own.
    pub(crate) fn know(&self, address: IpAddr) {
        let mut counted = self.lock();
        if !counted.known.contains(&address) {
            // Addresses change; those of a season are no burden, those of years would be.
            if counted.known.len() >= 256 {
                counted.known.clear();
            }
            counted.known.insert(address);
        }
    }

    /// Whether a stranger at this address may ask once more.
    pub(crate) fn may_ask(&self, address: IpAddr, now: Instant) -> bool {
        let mut counted = self.lock();
        counted.asked.retain(|_, (since, _)| now.duration_since(*since) < MINUTE);
        let (_, asked) = counted.asked.entry(address).or_insert((now, 0));
        *asked += 1;
        *asked <= REQUESTS
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(last: u8) -> IpAddr {
        IpAddr::from([192, 168, 1, last])
    }

    #[test]
    fn strangers_take_no_seat_of_a_device_that_was_let_in() {
        let seats = Seats::default();
        seats.know(at(1));
        let mut taken = Vec::new();
        for address in 2..=200 {
            let own: Vec<Seat> = std::iter::from_fn(|| seats.take(at(address))).collect();
            assert!(own.len() <= EACH, "{} of one address", own.len());
            taken.extend(own);
        }
        assert_eq!(taken.len(), STRANGERS);
        let phone: Vec<Seat> = std::iter::from_fn(|| seats.take(at(1))).collect();
        assert_eq!(phone.len(), KNOWN);
        drop(taken);
        assert!(seats.take(at(7)).is_some(), "seats come back");
        assert_eq!(seats.lock().strangers, 0, "and none is left over");
    }

    #[test]
    fn a_stranger_asks_so_often_and_then_waits() {
        let (seats, now) = (Seats::default(), Instant::now());
        assert!((0..REQUESTS).all(|_| seats.may_ask(at(3), now)));
        assert!(!seats.may_ask(at(3), now) && seats.may_ask(at(4), now), "others are not held up");
        assert!(seats.may_ask(at(3), now + MINUTE), "after a minute it may again");
    }
}
