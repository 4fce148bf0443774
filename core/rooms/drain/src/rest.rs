//! What the battery loses while nobody is there, and how long a parked vehicle lasts.
//!
//! Three ways to park: as it is (every switch closed, every light off), with the wires' switches open, and with the
//! main disconnect open. `t = C (1 - soc_end) / (I + I_self)`, from full.

use super::Drawn;
use orthavis_model::document::{Battery, Build};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::working::{Fact, Rule, fact, quantity};
use orthavis_physics::parked::{days_to, idle_a, self_discharge_a, standing_a, switches_open};
use orthavis_physics::points::PointError;
use serde::Serialize;

/// A way to park.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Parked {
    /// Stable name: `as_is`, `switched_off`, `disconnected`, or `forgotten` for a scene left on.
    pub way: &'static str,
    /// In words.
    pub title: String,
    /// Current, days to the reserve and days to lasting harm; days are absent where nothing is lost.
    pub facts: Vec<Fact>,
}

/// Mean current while nobody is there and every light is off, A.
pub(super) fn background_a(build: &Build) -> Result<f64, PointError> {
    Ok(idle_a(build)? + standing_a(build, false))
}

/// Every way to park that this build offers. `build` has the battery as it is, `drawn` what each scene takes.
///
/// # Errors
/// Where there is no steady solution with every light off.
pub(super) fn parked(build: &Build, battery: &Battery, drawn: &[Drawn]) -> Result<Vec<Parked>, PointError> {
    const AS_IS: Rule = Rule {
        words: "Every light off, every switch as it was: what idle converters and pixels draw, and the standing loads over a whole day.",
        formula: "I = I_idle + Σ I_s·h_s / 24",
        source: "Solved with every light off at half charge",
    };
    let idle = idle_a(build)?;
    let standing = standing_a(build, false);
    let current = |key, label, idle, standing| {
        let given = vec![quantity("I_idle", "idle converters and pixels", idle, "A"), quantity("I_s", "standing loads, mean of a day", standing, "A")];
        fact(key, label, "I", idle + standing, "A", &AS_IS, given)
    };
    let mut ways = vec![way(battery, "as_is", "Parked, lights off", current("background_a", "Drawn in the background", idle, standing))];
    if build.feeds().iter().any(|feed| feed.feed.switch.is_some()) {
        let rest = idle_a(&switches_open(build))?;
        ways.push(way(battery, "switched_off", "Its switches off", current("background_a", "Drawn in the background", rest, standing)));
    }
    let ahead = standing_a(build, true);
    ways.push(way(battery, "disconnected", "Main disconnect open", current("background_a", "Drawn in the background", 0.0, ahead)));
    // The scene that does most harm when it is forgotten, of those in use.
    let mean_a = |drawn: &&Drawn| drawn.run.filter(|run| run.hours > 0.0).map_or(0.0, |run| run.ah / run.hours);
    let used = drawn.iter().any(|drawn| drawn.minutes > 0.0);
    let hungriest = drawn.iter().filter(|drawn| !used || drawn.minutes > 0.0).max_by(|a, b| mean_a(a).total_cmp(&mean_a(b)));
    if let Some(drawn) = hungriest
        && let Some(run) = drawn.run.filter(|run| run.hours > 0.0)
    {
        const FORGOTTEN: Rule =
            Rule { words: "The mean current of the scene, from full to its end.", formula: "I = Q / t", source: "Discharge over the solved network" };
        let given = vec![quantity("Q", "drawn until the end", run.ah, "Ah"), quantity("t", "time of light", run.hours, "h")];
        let current = fact("background_a", "Drawn in the background", "I", run.ah / run.hours, "A", &FORGOTTEN, given);
        ways.push(way(battery, "forgotten", &format!("\u{201c}{}\u{201d} forgotten on", drawn.name), current));
    }
    Ok(ways)
}

fn way(battery: &Battery, way: &'static str, title: &str, current: Fact) -> Parked {
    const DAYS: Rule = Rule {
        words: "The charge from full down to there, over what is drawn and what the battery loses by itself.",
        formula: "t = C·(1 − soc) / ((I + I_self)·24 h)",
        source: "Charge balance; self-discharge as is usual for the chemistry at room temperature",
    };
    let habits = habits_of(battery.chemistry);
    let self_a = self_discharge_a(battery);
    let days = |key, label, soc: f64| {
        let given = vec![
            quantity("C", "capacity as it is", battery.capacity_ah, "Ah"),
            quantity("soc", "charge left then", soc, "1"),
            quantity("I", "drawn", current.value, "A"),
            quantity("I_self", "lost by itself", self_a, "A"),
        ];
        fact(key, label, "t", days_to(battery, current.value, soc), "d", &DAYS, given)
    };
    let mut facts = vec![];
    if current.value + self_a > 0.0 {
        facts.push(days("reserve_days", "Reaches reserve after", battery.reserve_soc()));
        facts.push(days("harm_days", "Battery damaged after", habits.harm_soc.min(battery.reserve_soc())));
    }
    facts.insert(0, current);
    Parked { way, title: title.into(), facts }
}
