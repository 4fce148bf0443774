//! Put away for a season, and woken up: what to do, by chemistry and by how cold and hot it gets.

use crate::needs::Needs;
use crate::told::{Told, What};
use orthavis_model::document::{Battery, Build, Chemistry};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::words;
use orthavis_model::working::{counted, plain};
use serde::Serialize;

words! {
    /// Which of the two lists it is time for.
    SeasonNow {
        /// It is in use.
        InUse = "in_use",
        /// It has stood for weeks: put it away well.
        PutAway = "put_away",
        /// It is put away: this comes before it is used again.
        WakeUp = "wake_up",
    }
}

/// Something to do.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SeasonItem {
    /// What a `tick` event names as its step.
    pub step: String,
    /// What to do.
    pub what: String,
    /// Why.
    pub why: &'static str,
    /// Whether it was ticked since the last outing.
    pub done: bool,
}

/// The two lists.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Season {
    /// Which it is time for.
    pub now: SeasonNow,
    /// Why, in a sentence.
    pub why: String,
    /// Before it stands for more than a month.
    pub put_away: Vec<SeasonItem>,
    /// Before the first outing after that.
    pub wake_up: Vec<SeasonItem>,
    /// Days between looks at the battery while it stands; absent without one.
    pub look_days: Option<f64>,
}

/// Days without an outing after which it counts as standing.
const STANDS_DAYS: i64 = 28;
/// Below this it freezes, above this it cooks, °C.
const FROST_C: f64 = 0.0;
const HEAT_C: f64 = 30.0;

/// How a chemistry is stored: state of charge, and days between looks.
fn stored(chemistry: Chemistry) -> (f64, f64) {
    match chemistry {
        Chemistry::LiIon => (0.5, 90.0),
        Chemistry::Lipo => (0.5, 60.0),
        Chemistry::Lifepo4 => (0.5, 120.0),
        Chemistry::LeadFlooded => (1.0, 30.0),
        Chemistry::LeadAgm => (1.0, 60.0),
        Chemistry::Nimh => (0.4, 180.0),
        Chemistry::Alkaline => (1.0, 90.0),
        Chemistry::LithiumCoin => (1.0, 365.0),
    }
}

/// The lists of a build.
pub fn season(build: &Build, needs: Option<&Needs>, capacity_ah: f64, told: &[Told<'_>], now: Moment) -> Season {
    let last = told.iter().rev().find(|one| matches!(one.what, What::Ride(_)));
    let since_s = last.map_or(i64::MIN, |one| one.at.s);
    let degrees: Vec<f64> = told
        .iter()
        .filter_map(|one| match &one.what {
            What::Ride(ride) => ride.temperature_c,
            What::Charge(charge) => charge.temperature_c,
            What::Reading(reading) => reading.temperature_c,
            _ => None,
        })
        .chain(build.usage.temperature_c)
        .collect();
    let (cold, hot) = (degrees.iter().any(|degrees| *degrees < FROST_C), degrees.iter().any(|degrees| *degrees > HEAT_C));
    let done = |step: &str| {
        let ticked = told.iter().rev().find_map(|one| match &one.what {
            What::Tick(known, done) if known == step => Some((one.at.s, *done)),
            _ => None,
        });
        ticked.is_some_and(|(s, done)| done && s >= since_s)
    };
    let item = |list: &str, name: &str, what: String, why: &'static str| {
        let step = format!("season:{list}:{name}");
        SeasonItem { done: done(&step), step, what, why }
    };
    let battery = needs.map(|needs| &needs.battery);
    let mut put_away = Vec::new();
    if let (Some(needs), Some(battery)) = (needs, battery) {
        let (soc, look_days) = stored(battery.chemistry);
        put_away.push(charge_item(battery, soc, &|what, why| item("put_away", "charge", what, why)));
        let harm = habits_of(battery.chemistry).harm_soc;
        let idle_days = (soc - harm).max(0.0) * capacity_ah / (24.0 * needs.idle_a).max(1e-9);
        if needs.idle_a > 1e-6 {
            let what = format!(
                "Take the battery off, or open its main disconnect: what stays on draws {} and empties it in {}.",
                plain(needs.idle_a, "A"),
                counted(idle_days.clamp(1.0, 9999.0).round(), "day")
            );
            put_away.push(item("put_away", "disconnect", what, "A battery that is drawn empty while it stands is often lost."));
        }
        put_away.extend(place_items(battery, cold, hot).into_iter().map(|(name, what, why)| item("put_away", name, what, why)));
        put_away.push(item(
            "put_away",
            "look",
            format!("Look at its voltage every {look_days} days."),
            "It loses some by itself, and one weak cell more than the others.",
        ));
    }
    put_away.push(item("put_away", "dry", "Dry it, wipe the contacts, cover plugs that are open.".into(), "What stands wet for a winter comes out green."));
    let mut wake_up = vec![
        item("wake_up", "wires", "Look along every wire: chafed, pinched, gnawed, green at a joint.".into(), "What was sound in autumn need not be."),
        item(
            "wake_up",
            "plugs",
            "Part and mate every plug once, pull gently at every joint.".into(),
            "Contacts get a skin while they stand; joints let go in the cold.",
        ),
    ];
    if let Some(battery) = battery {
        let low = f64::from(battery.series) * habits_of(battery.chemistry).cutoff_v;
        let (what, why) = if battery.is_lithium() {
            (
                format!(
                    "Measure it before it is charged. Below {} do not charge it; swollen, dented or smelling packs go to who takes used ones.",
                    plain(low, "V")
                ),
                "A lithium cell that was drawn too low can short inside when it is charged.",
            )
        } else if habits_of(battery.chemistry).charge_efficiency <= 0.0 {
            (format!("Put new cells in, all of one kind and age; leaked ones out with gloves. Below {} they are empty.", plain(low, "V")), "Old ones leak.")
        } else {
            (
                format!("Measure it at rest, then charge it full. It should stand above {} an hour after.", plain(battery.emf_v(0.9), "V")),
                "A lead or nickel pack that does not come back up has lost a cell.",
            )
        };
        wake_up.insert(0, item("wake_up", "measure", what, why));
        if battery.chemistry == Chemistry::LeadFlooded {
            wake_up.insert(
                1,
                item("wake_up", "water", "Water over the plates? Fill with distilled water after it is charged.".into(), "Plates that stood dry are lost."),
            );
        }
    }
    wake_up.push(item("wake_up", "light", "Every scene once, in the dark, before it counts.".into(), "Better at home than on the road."));
    let stood = now.s.saturating_sub(since_s) / DAY_S;
    let put = put_away.iter().filter(|item| item.done).count();
    let (which, why) = match last {
        None => (SeasonNow::InUse, "No outing is written down yet; the lists wait until it stands.".to_owned()),
        Some(_) if stood < STANDS_DAYS => (SeasonNow::InUse, format!("Last out {} ago; the lists wait until it stands for a month or more.", days(stood))),
        Some(_) if put * 2 >= put_away.len() => {
            (SeasonNow::WakeUp, format!("It has stood for {} and is put away. This comes before it goes out again.", days(stood)))
        }
        Some(_) => (SeasonNow::PutAway, format!("It has stood for {}. If it goes on standing, do this now.", days(stood))),
    };
    Season { now: which, why, put_away, wake_up, look_days: battery.map(|battery| stored(battery.chemistry).1) }
}

fn days(count: i64) -> String {
    if count == 1 { "a day".into() } else { format!("{count} days") }
}

fn charge_item(battery: &Battery, soc: f64, item: &dyn Fn(String, &'static str) -> SeasonItem) -> SeasonItem {
    let rested = plain(battery.emf_v(soc), "V");
    match battery.chemistry {
        Chemistry::LiIon | Chemistry::Lipo | Chemistry::Lifepo4 => {
            item(format!("Bring it to about half: {rested} after an hour's rest."), "A full lithium pack ages while it stands, an empty one dies.")
        }
        Chemistry::LeadFlooded | Chemistry::LeadAgm => item(
            format!("Charge it full: {rested} after a night's rest."),
            "A lead battery hardens part empty, and empty it freezes at −10 °C already; full, only below −50 °C.",
        ),
        Chemistry::Nimh => item(
            "Leave it somewhat below half; charge and use it once every half year.".into(),
            "Nickel cells forget nothing, but they dry out when hot and full.",
        ),
        Chemistry::Alkaline => item("Take the cells out.".into(), "They leak, and what leaks eats contacts."),
        Chemistry::LithiumCoin => item("Take the coin cells out, and keep them from children.".into(), "A coin cell that is swallowed burns within hours."),
    }
}

/// Where it stands: name, what, why.
fn place_items(battery: &Battery, cold: bool, hot: bool) -> Vec<(&'static str, String, &'static str)> {
    let mut all = Vec::new();
    if battery.is_lithium() {
        all.push((
            "place",
            "Keep it cool and dry, on stone or metal, away from what burns and from the way out.".to_owned(),
            "A pack that fails does so without warning.",
        ));
        if cold {
            all.push((
                "frost",
                "It may stand in frost, but is not charged below 0 °C: bring it in for a few hours first.".to_owned(),
                "Lithium plates out in the cold and shorts the cell later.",
            ));
        }
    } else if cold {
        all.push(("frost", "Where it stays above freezing, or full.".to_owned(), "What freezes bursts."));
    }
    if hot {
        all.push(("heat", "Out of the sun and out of a closed car.".to_owned(), "Ten degrees more halve the years a battery has."));
    }
    all
}
