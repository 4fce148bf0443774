//! What of the journal cannot be, or hardly: kept as it was written, marked and asked about.

use crate::health::put_in;
use crate::needs::Needs;
use crate::told::{Charge, Ride, Told, What};
use orthavis_model::document::Build;
use orthavis_model::journal::{Event, Happened, Unclear};
use orthavis_model::laws::battery::cell_of;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::working::plain;
use serde::Serialize;
use std::collections::HashSet;

/// Something that hardly can be.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = EventMark))]
pub struct Mark {
    /// The event.
    pub id: String,
    /// When it is said to have been.
    pub at: String,
    /// What is odd.
    pub problem: String,
    /// What to do.
    pub remedy: String,
}

/// More than a battery holds, by this factor, is asked about: labels are not exact.
const HOLDS: f64 = 1.15;
/// Outside a pack's voltages by this share is asked about.
const OUTSIDE: f64 = 0.03;

/// Two readings of one meter differ by this share without meaning anything.
const SCATTERS: f64 = 0.01;

/// Every event that is asked about, newest first.
pub fn marks(build: &Build, needs: Option<&Needs>, events: &[Event], told: &[Told<'_>], now: Moment) -> Vec<Mark> {
    let mut marks = Vec::new();
    let known: HashSet<&str> = events.iter().map(|event| event.id.as_str()).collect();
    for one in told {
        let mut ask = |problem: String, remedy: &str| marks.push(Mark { id: one.event.id.clone(), at: one.event.at.clone(), problem, remedy: remedy.into() });
        if one.at.s > now.s + DAY_S {
            ask(format!("{} is still to come", one.at.date()), "Write it down again with the day that it was");
        }
        if let Some((happened, unclear)) = Happened::of(one.event) {
            of_unclear(&happened, &unclear, &mut ask);
        }
        match &one.what {
            What::Ride(ride) => of_ride(build, needs, one.at, ride, &mut ask),
            What::Charge(charge) => of_charge(needs, charge, &mut ask),
            What::Reading(reading) => {
                for volts in [reading.resting_v, reading.loaded_v].into_iter().flatten() {
                    of_volts(needs, "it", volts, &mut ask);
                }
                if let (Some(rest), Some(load)) = (reading.resting_v, reading.loaded_v)
                    && load > rest
                {
                    ask(format!("{} under load is more than {} at rest", plain(load, "V"), plain(rest, "V")), "Look which was which");
                }
            }
            _ => {}
        }
        if let Some(of) = &one.event.replaces
            && !known.contains(of.as_str())
        {
            ask("it corrects an event that is not in this journal".into(), "Take in the file that the other is in, or look whether it is of another build");
        }
    }
    marks.reverse();
    marks
}

/// What an event does not say, or says so that nobody can read it.
fn of_unclear(happened: &Happened, unclear: &Unclear, ask: &mut impl FnMut(String, &str)) {
    for name in &unclear.unread {
        // A field's name without its unit is a word.
        let word = ["_c", "_v", "_km"].iter().find_map(|unit| name.strip_suffix(unit)).unwrap_or(name);
        ask(format!("what it says of \u{201c}{}\u{201d} cannot be read", word.replace('_', " ")), "Write it down again");
    }
    for name in &unclear.missing {
        let what = match (happened, *name) {
            (Happened::Ride(_), _) => "how long it was",
            (Happened::Tick(_), "step") => "which step it was",
            (Happened::Tick(_), _) => "whether the step is done",
            (Happened::Timer(_), "until") => "until when to wait",
            (Happened::Timer(_), _) => "what to wait for",
            (Happened::Part(_), "part") => "which part it was",
            (Happened::Part(_), _) => "what became of the part",
            (Happened::Fault(_), _) => "what it was",
            _ => "anything",
        };
        ask(format!("it does not say {what}"), "Write it down again with that");
    }
}

fn of_volts(needs: Option<&Needs>, what: &str, volts: f64, ask: &mut impl FnMut(String, &str)) {
    let Some(needs) = needs else { return };
    let battery = &needs.battery;
    let low = f64::from(battery.series) * habits_of(battery.chemistry).cutoff_v.min(cell_of(battery.chemistry).ocv_v[0]);
    let high = battery.charging_v().unwrap_or_else(|| battery.emf_v(1.0)).max(battery.emf_v(1.0));
    if volts > high * (1.0 + OUTSIDE) {
        ask(
            format!("{what} shows {}, and this battery never stands above {}", plain(volts, "V"), plain(high, "V")),
            "Look at the figure, and whether it is this battery",
        );
    } else if volts < low * (1.0 - OUTSIDE) {
        ask(
            format!("{what} shows {}, below {} at which this battery is empty and comes to harm", plain(volts, "V"), plain(low, "V")),
            "Look at the figure; if it is right, do not charge a lithium pack that was so low: bring it to who takes used ones",
        );
    }
}

fn of_ride(build: &Build, needs: Option<&Needs>, at: Moment, ride: &Ride, ask: &mut impl FnMut(String, &str)) {
    if let Some(began) = ride.began {
        if began.s > at.s {
            ask(format!("it ends before it starts: it began {} and ended {}", began.text(), at.text()), "Write it down again with both times");
        } else if 3600.0 * ride.hours() > (at.s - began.s) as f64 + 300.0 {
            ask(format!("{} min of light do not fit between its start and its end", plain(60.0 * ride.hours(), "")), "Look at the minutes, or at the times");
        }
    }
    for (scene, minutes) in ride.lit() {
        if *minutes < 0.0 {
            ask(format!("{} min of {scene} are less than none", plain(*minutes, "")), "Write it down again with the minutes it was lit");
        }
        if build.scenes.iter().all(|known| known.id != *scene) {
            ask(format!("`{scene}` is not a scene of this build any more"), "Its minutes count as light, not as charge; name a scene that there is");
        }
    }
    if ride.hours() > 24.0 {
        ask(format!("{} h of light are more than a day has", plain(ride.hours(), "")), "Write each outing down by itself");
    }
    if let (Some(from), Some(to)) = (ride.from_v, ride.to_v)
        && to > from * (1.0 + SCATTERS)
    {
        ask(
            format!("it ended at {}, above the {} at which it started", plain(to, "V"), plain(from, "V")),
            "Look which was which; a battery that rested long may also stand higher",
        );
    }
    for (what, volts) in [("the start", ride.from_v), ("the end", ride.to_v)] {
        if let Some(volts) = volts {
            of_volts(needs, what, volts, ask);
        }
    }
}

fn of_charge(needs: Option<&Needs>, charge: &Charge, ask: &mut impl FnMut(String, &str)) {
    if let (Some(from), Some(to)) = (charge.from_v, charge.to_v)
        && to < from * (1.0 - SCATTERS)
    {
        ask(format!("it ended at {}, below the {} at which it started", plain(to, "V"), plain(from, "V")), "Look which was which");
    }
    for (what, volts) in [("the start", charge.from_v), ("the end", charge.to_v)] {
        if let Some(volts) = volts {
            of_volts(needs, what, volts, ask);
        }
    }
    let Some(needs) = needs else { return };
    let habits = habits_of(needs.battery.chemistry);
    if habits.charge_efficiency <= 0.0 {
        ask("these cells are not made to be charged".into(), "Never charge primary cells: they leak or burst. If they were replaced, write that down");
        return;
    }
    if let Some(ah) = put_in(needs, charge.ah, charge.wh) {
        let holds = needs.battery.capacity_ah * HOLDS / habits.charge_efficiency;
        if ah > holds {
            ask(
                format!("{} went in, and a battery of {} takes {} at most", plain(ah, "Ah"), plain(needs.battery.capacity_ah, "Ah"), plain(holds, "Ah")),
                "Look at the figure and its unit, and at the capacity that the plan gives the battery",
            );
        }
    }
}
