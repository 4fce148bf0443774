//! Events as the room reads them: what a ride, a charge, a reading, a repair says, corrections taken into account.

use orthavis_model::journal::{self, Event, Happened, PartChange, Repair, TickState, Timer};
pub use orthavis_model::journal::{Charge, Ride};
use orthavis_model::moment::Moment;
use serde_json::Value;
use std::collections::HashSet;

/// A reading of the battery.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Reading {
    /// Rested, V.
    pub resting_v: Option<f64>,
    /// Under the load of `scene`, V.
    pub loaded_v: Option<f64>,
    /// What was lit.
    pub scene: Option<String>,
    /// Temperature of the battery, °C.
    pub temperature_c: Option<f64>,
}

/// What an event says.
#[derive(Clone, Debug, PartialEq)]
pub enum What {
    /// An outing.
    Ride(Ride),
    /// A charge.
    Charge(Charge),
    /// A reading of the battery.
    Reading(Reading),
    /// What was wrong: the fault, in words, and what mended it.
    Repair {
        /// The fault as diagnosis names it, or as a person does.
        was: String,
        /// In words.
        words: String,
        /// What was done.
        mended: String,
    },
    /// A part: `replaced`, `fitted`, `removed`, `bought`, `looked`.
    Part {
        /// Which.
        part: String,
        /// What became of it.
        change: String,
        /// The pack that it is, where it is one of the drawer.
        pack: Option<String>,
    },
    /// Something waits.
    Timer {
        /// For what.
        what: String,
        /// Until when.
        until: Moment,
    },
    /// A step was ticked: its id, and whether it is done.
    Tick(String, bool),
    /// Anything else.
    Other,
}

/// An event, read.
#[derive(Clone, Debug, PartialEq)]
pub struct Told<'a> {
    /// As it is kept.
    pub event: &'a Event,
    /// When.
    pub at: Moment,
    /// What.
    pub what: What,
}

/// A rested pack is measured across itself.
fn is_of_source(reading: &journal::Reading) -> bool {
    reading.probes.iter().flatten().all(|probe| matches!(probe.as_str(), "source+" | "source-"))
}

fn what(happened: Happened) -> What {
    match happened {
        Happened::Ride(ride) => What::Ride(ride),
        Happened::Charge(charge) => What::Charge(charge),
        Happened::Reading(reading) if is_of_source(&reading) => {
            let scene = reading.scene.filter(|scene| !scene.is_empty());
            let volts = matches!(reading.quantity.as_deref(), None | Some("" | "volts"));
            let value = reading.value.filter(|_| volts);
            What::Reading(Reading {
                resting_v: reading.resting_v.or(if scene.is_none() { value } else { None }),
                loaded_v: if scene.is_some() { value } else { None },
                scene,
                temperature_c: reading.temperature_c,
            })
        }
        Happened::Fault(Repair { was, words, mended, .. }) => {
            What::Repair { was: was.unwrap_or_default(), words: words.unwrap_or_default(), mended: mended.unwrap_or_default() }
        }
        Happened::Part(PartChange { part, change, pack }) => {
            What::Part { part: part.unwrap_or_default(), change: change.unwrap_or_default(), pack: pack.filter(|pack| !pack.is_empty()) }
        }
        Happened::Timer(Timer { what, until: Some(until) }) => What::Timer { what: what.unwrap_or_default(), until },
        Happened::Tick(tick) => What::Tick(tick.step.unwrap_or_default(), tick.state == Some(TickState::Done)),
        Happened::Reading(_) | Happened::Timer(_) | Happened::Drill(_) | Happened::Note(_) => What::Other,
    }
}

/// Events in the order in which they happened, without those that another corrects, and without corrections that only
/// strike one out.
pub fn told(events: &[Event]) -> Vec<Told<'_>> {
    let replaced: HashSet<&str> = events.iter().filter_map(|event| event.replaces.as_deref()).collect();
    let stands = |event: &&Event| !replaced.contains(event.id.as_str()) && event.data.get("struck") != Some(&Value::Bool(true));
    let mut told: Vec<Told<'_>> = events
        .iter()
        .filter(stands)
        .filter_map(|event| Some(Told { event, at: Moment::parse(&event.at)?, what: Happened::of(event).map_or(What::Other, |(happened, _)| what(happened)) }))
        .collect();
    told.sort_by(|a, b| (a.at.s, &a.event.id).cmp(&(b.at.s, &b.event.id)));
    told
}
