//! A pack as a thing of its own: the builds it was in, and how it aged in all of them.

use crate::health::{Health, of_stints};
use crate::needs::Needs;
use crate::told::{Told, What, told};
use orthavis_model::document::{Battery, Build};
use orthavis_model::journal::Event;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::Moment;
use orthavis_model::working::{Fact, Rule, fact, quantity};
use serde::Serialize;

/// A build with its journal.
pub struct Lived<'a> {
    /// Its name.
    pub name: &'a str,
    /// The build.
    pub build: &'a Build,
    /// What happened to it.
    pub events: &'a [Event],
}

/// A time that a pack was in a build.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stint {
    /// Name of the build.
    pub build: String,
    /// From when.
    pub from: String,
    /// Until when; absent: it is in there.
    pub to: Option<String>,
    /// Charges in that time.
    pub charges: usize,
    /// Outings in that time.
    pub rides: usize,
}

/// A pack's life.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Passport {
    /// Where it was, oldest first.
    pub stints: Vec<Stint>,
    /// What went through it, in its own capacities.
    pub cycles: Option<Fact>,
    /// How it is; absent where it was in no build yet.
    pub health: Option<Health>,
}

/// The times between `fitted` (or `replaced` by it) and `removed` (or `replaced` by another), as places in the events.
fn stays(told: &[Told<'_>], pack: &str) -> Vec<(usize, Option<usize>)> {
    let mut stays = Vec::new();
    let mut since = None;
    for (index, one) in told.iter().enumerate() {
        let What::Part { part, change, pack: which } = &one.what else { continue };
        if part != "battery" {
            continue;
        }
        match (change.as_str(), which.as_deref() == Some(pack)) {
            ("fitted" | "replaced", true) => since = since.or(Some(index)),
            ("fitted" | "replaced", false) | ("removed", true) => stays.extend(since.take().map(|from| (from, Some(index)))),
            _ => {}
        }
    }
    stays.extend(since.map(|from| (from, None)));
    stays
}

/// The life of a pack over every build that it was in. `battery` is what its label says.
pub fn passport(pack: &str, battery: &Battery, lived: &[Lived<'_>], now: Moment) -> Passport {
    const CYCLES: Rule = Rule {
        words: "Everything that went into it and stayed, over what is printed on it.",
        formula: "n = Σ Q·η / C_0",
        source: "Charges written down with amp-hours",
    };
    let events: Vec<Vec<Told<'_>>> = lived.iter().map(|lived| told(lived.events)).collect();
    let mut found = Vec::new();
    for (lived, told) in lived.iter().zip(&events) {
        let needs = Needs::of(lived.build).map(|needs| Needs { battery: battery.clone(), ..needs });
        for (from, to) in stays(told, pack) {
            let part = &told[from..to.unwrap_or(told.len())];
            let count = |of: fn(&What) -> bool| part.iter().filter(|one| of(&one.what)).count();
            let stint = Stint {
                build: lived.name.to_owned(),
                from: told[from].event.at.clone(),
                to: to.map(|to| told[to].event.at.clone()),
                charges: count(|what| matches!(what, What::Charge(_))),
                rides: count(|what| matches!(what, What::Ride(_))),
            };
            found.push((told[from].at, stint, needs.clone(), part));
        }
    }
    found.sort_by_key(|(at, ..)| *at);
    let nominal_v = battery.emf_v(0.5);
    let all_ah: f64 = found
        .iter()
        .flat_map(|(.., part)| part.iter())
        .filter_map(|one| match &one.what {
            What::Charge(charge) => charge.ah.or_else(|| Some(charge.wh? / nominal_v)),
            _ => None,
        })
        .sum();
    let kept_ah = all_ah * habits_of(battery.chemistry).charge_efficiency;
    let cycles = (kept_ah > 0.0).then(|| {
        let given = vec![quantity("Q", "stayed in it", kept_ah, "Ah"), quantity("C_0", "printed", battery.capacity_ah, "Ah")];
        fact("cycles", "Charged through", "n", kept_ah / battery.capacity_ah, "", &CYCLES, given)
    });
    let stays: Vec<(&Needs, &[Told<'_>])> = found.iter().filter_map(|(_, _, needs, part)| Some((needs.as_ref()?, *part))).collect();
    let health = (!stays.is_empty()).then(|| of_stints(&stays, now));
    Passport { stints: found.into_iter().map(|(_, stint, ..)| stint).collect(), cycles, health }
}
