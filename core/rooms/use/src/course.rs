//! How full the battery is by what was written down: charges and rested voltages say it, outings and days take from it.

use crate::health::{filled_to, put_in, since_fitted};
use crate::needs::Needs;
use crate::told::{Told, What};
use orthavis_model::document::{Build, Chemistry};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::date_of;
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::working::{Fact, Rule, fact, quantity};
use serde::Serialize;
use std::collections::BTreeMap;

/// How full it is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Charged {
    /// State of charge, 0 to 1.
    pub soc: f64,
    /// How far that may be off (one standard deviation).
    pub give: f64,
    /// When.
    pub at: Moment,
}

/// What the plan takes may be off by, as a share of it.
const PLAN: f64 = 0.15;
/// A state of charge is worth telling while it is no further off.
const TELLS: f64 = 0.35;

impl Charged {
    /// Joined with what a voltage says.
    fn join(&mut self, soc: f64, give: f64) {
        let (a, b) = (1.0 / (self.give * self.give), 1.0 / (give * give));
        self.soc = (self.soc * a + soc * b) / (a + b);
        self.give = 1.0 / (a + b).sqrt();
    }

    fn take(&mut self, share: f64, give: f64) {
        self.soc = (self.soc - share).clamp(0.0, 1.0);
        self.give = (self.give * self.give + give * give).sqrt();
    }

    fn wait(&mut self, needs: &Needs, capacity_ah: f64, until: Moment) {
        let days = (until.s - self.at.s).max(0) as f64 / DAY_S as f64;
        let net = days * (needs.day(capacity_ah) - needs.gain_ah / capacity_ah);
        self.take(net, PLAN * net.abs());
        self.at = until;
    }
}

/// How full the battery is at a moment; `None` where nothing was ever said of it. The second is each moment on the way.
pub fn charged(needs: &Needs, capacity_ah: f64, told: &[Told<'_>], now: Moment) -> (Option<Charged>, Vec<Charged>) {
    let mut state: Option<Charged> = None;
    let mut way = Vec::new();
    let voltage = |state: &mut Option<Charged>, volts: Option<f64>, at: Moment| {
        let Some(volts) = volts else { return };
        let (soc, give) = (needs.battery.soc_at(volts), needs.give(volts));
        match state {
            Some(state) => state.join(soc, give),
            None => *state = Some(Charged { soc, give, at }),
        }
    };
    for one in since_fitted(told).iter().filter(|one| one.at.s <= now.s) {
        if let Some(state) = &mut state {
            state.wait(needs, capacity_ah, one.at);
        }
        match &one.what {
            What::Ride(ride) => {
                voltage(&mut state, ride.from_v, one.at);
                if let Some(state) = &mut state {
                    let share = needs.outing(ride.lit(), ride.distance_km, capacity_ah, ride.temperature_c);
                    state.take(share, PLAN * share);
                }
                voltage(&mut state, ride.to_v, one.at);
            }
            What::Charge(charge) => {
                voltage(&mut state, charge.from_v, one.at);
                if let Some(to_v) = charge.to_v {
                    let (soc, give) = filled_to(needs, to_v);
                    state = Some(Charged { soc, give, at: one.at });
                } else if let (Some(state), Some(ah)) = (&mut state, put_in(needs, charge.ah, charge.wh)) {
                    let share = ah * habits_of(needs.battery.chemistry).charge_efficiency / capacity_ah;
                    state.take(-share, PLAN * share);
                } else if charge.ah.is_none() && charge.wh.is_none() {
                    // A charge of which nothing is said was let run to its end.
                    state = Some(Charged { soc: 1.0, give: 0.05, at: one.at });
                }
            }
            What::Reading(reading) => voltage(&mut state, reading.resting_v, one.at),
            _ => continue,
        }
        way.extend(state);
    }
    if let Some(state) = &mut state {
        state.wait(needs, capacity_ah, now);
    }
    (state.filter(|state| state.give <= TELLS), way)
}

/// When it is to be charged.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextCharge {
    /// The day; absent where it needs none as it is used.
    pub due: Option<String>,
    /// Days from now; 0: now.
    pub in_days: Option<f64>,
    /// In a few words.
    pub title: String,
    /// Why.
    pub why: String,
    /// How full it is, what an outing takes, outings left.
    pub facts: Vec<Fact>,
}

/// How it is used: from what was written down, else as the plan has it.
pub struct Habit {
    /// Minutes of each scene.
    pub minutes: BTreeMap<String, f64>,
    /// Mean way of an outing, km; absent where none is said.
    pub way_km: Option<f64>,
    /// Outings a week.
    pub a_week: f64,
    /// How warm it was, °C.
    pub temperature_c: Option<f64>,
    /// Outings that it comes from; 0: the plan's.
    pub rides: usize,
}

/// Days of which the habit is made.
const HABIT_DAYS: i64 = 56;
/// Rides that make a habit.
pub const HABIT_RIDES: usize = 4;

impl Habit {
    /// Of a build and what was written down.
    pub fn of(build: &Build, told: &[Told<'_>], now: Moment) -> Self {
        let rides: Vec<_> = told
            .iter()
            .filter(|one| one.at.s <= now.s && one.at.s > now.s - HABIT_DAYS * DAY_S)
            .filter_map(|one| match &one.what {
                What::Ride(ride) if ride.hours() > 0.0 => Some((one.at, ride)),
                _ => None,
            })
            .collect();
        let plan = || build.usage.minutes.iter().filter(|(_, minutes)| **minutes > 0.0).map(|(scene, minutes)| (scene.clone(), *minutes)).collect();
        if rides.len() < HABIT_RIDES {
            return Habit { minutes: plan(), way_km: None, a_week: build.usage.outings_per_week, temperature_c: build.usage.temperature_c, rides: 0 };
        }
        let mut lit: BTreeMap<&String, Vec<f64>> = BTreeMap::new();
        for (scene, minutes) in rides.iter().flat_map(|(_, ride)| ride.lit()) {
            lit.entry(scene).or_default().push(*minutes);
        }
        let mut minutes: BTreeMap<String, f64> = lit.into_iter().map(|(scene, lit)| (scene.clone(), usual_sum(lit) / rides.len() as f64)).collect();
        minutes.retain(|scene, lit| *lit > 0.0 && build.scenes.iter().any(|known| known.id == *scene));
        let degrees: Vec<f64> = rides.iter().filter_map(|(_, ride)| ride.temperature_c).collect();
        let temperature_c = (!degrees.is_empty()).then(|| degrees.iter().sum::<f64>() / degrees.len() as f64);
        let ways: Vec<f64> = rides.iter().filter_map(|(_, ride)| ride.distance_km).collect();
        let way_km = (!ways.is_empty()).then_some(ways.len() as f64).map(|count| usual_sum(ways) / count);
        let since = (now.s - rides[0].0.s).max(7 * DAY_S) as f64 / DAY_S as f64;
        Habit { minutes, way_km, a_week: 7.0 * rides.len() as f64 / since, temperature_c, rides: rides.len() }
    }
}

/// A figure beyond so many times the usual one is taken for a slip of the pen.
const SLIP: f64 = 4.0;

/// Sum of figures, slips taken for the usual one.
fn usual_sum(mut figures: Vec<f64>) -> f64 {
    figures.sort_by(f64::total_cmp);
    let usual = figures.get(figures.len() / 2).copied().unwrap_or(0.0);
    figures.iter().map(|figure| if *figure > SLIP * usual { usual } else { *figure }).sum()
}

/// Days looked ahead.
const AHEAD: f64 = 365.0;

/// When to charge next, by what was written down and the plan's drain.
pub fn next_charge(needs: &Needs, capacity_ah: f64, told: &[Told<'_>], habit: &Habit, now: Moment) -> NextCharge {
    let battery = &needs.battery;
    let outing = needs.outing(&habit.minutes, habit.way_km, capacity_ah, habit.temperature_c);
    let (state, _) = charged(needs, capacity_ah, told, now);
    let Some(state) = state else {
        let why = "Nothing written down says how full it is. Write down a charge, or what a meter shows after an hour's rest, and it can be told.";
        return NextCharge { due: None, in_days: None, title: "How full it is, is not known".into(), why: why.into(), facts: Vec::new() };
    };
    let reserve = battery.reserve_soc();
    let spare = (state.soc - reserve).max(0.0);
    let facts = charge_facts(needs, &state, habit, (capacity_ah, outing, reserve));
    let a_day = habit.a_week / 7.0 * outing + needs.day(capacity_ah) - needs.gain_ah / capacity_ah;
    let primary = habits_of(battery.chemistry).charge_efficiency <= 0.0;
    let verb = if primary { "Replace the cells" } else { "Charge" };
    let due = |days: f64| date_of(now.day() + days.floor() as i64);
    let (filled, one) = (percent(state.soc), percent(outing));
    let says = |in_days: f64, why: String, facts: Vec<Fact>| NextCharge {
        due: Some(due(in_days)),
        in_days: Some(in_days),
        title: if in_days < 1.0 { format!("{verb} now") } else { format!("{verb} by {}", due(in_days)) },
        why,
        facts,
    };
    if spare <= 0.0 {
        return says(0.0, format!("It is at {filled}, and {} % stay in it as reserve.", (100.0 * reserve).round()), facts);
    }
    if outing > 0.0 && spare < outing {
        return says(
            0.0,
            format!("It is at {filled}; the next outing takes {one} and would reach into the reserve of {} %.", (100.0 * reserve).round()),
            facts,
        );
    }
    if matches!(battery.chemistry, Chemistry::LeadFlooded | Chemistry::LeadAgm) && state.soc < LEAD_FULL {
        return says(
            0.0,
            format!("It is at {filled}, and a lead battery that stands part empty hardens (sulphates). Charge it soon after use, however little is missing."),
            facts,
        );
    }
    let days = match (habit.a_week > 0.0 && outing > 0.0, a_day > 0.0) {
        // After the last outing that ends above the reserve.
        (true, _) => {
            let between = 7.0 / habit.a_week;
            let each = outing + between * (needs.day(capacity_ah) - needs.gain_ah / capacity_ah);
            if each > 0.0 { between * (spare / each).floor() } else { f64::INFINITY }
        }
        (false, true) => spare / a_day,
        (false, false) => f64::INFINITY,
    };
    if days > AHEAD {
        let title = "No charge needed as it is used".into();
        let why = format!("It is at {filled}, and as much comes back as goes, or nearly so. Look at its voltage once a season.");
        return NextCharge { due: None, in_days: None, title, why, facts };
    }
    let rhythm = rhythm(needs, habit, capacity_ah, outing);
    says(days, format!("It is at {filled}; {rhythm}, and {} % stay in it as reserve.", (100.0 * reserve).round()), facts)
}

/// How full it is, what an outing takes, and how many are left.
fn charge_facts(needs: &Needs, state: &Charged, habit: &Habit, (capacity_ah, outing, reserve): (f64, f64, f64)) -> Vec<Fact> {
    const FULLNESS: Rule = Rule {
        words: "From the last charge or rested voltage on: less what the outings since took by the plan, and what each day takes.",
        formula: "s = s_0 − Σ Q/C − d·q",
        source: "Charge balance over the journal",
    };
    const OUTING: Rule = Rule {
        words: "Minutes of each scene times what an hour of it takes, and the way times what the motor takes where it is on this battery; on the battery as it is.",
        formula: "s = (Σ t_i·q_i + t_way·q_motor) / C",
        source: "The plan's discharge; minutes of the last outings",
    };
    const LEFT: Rule = Rule {
        words: "What is above the reserve over what an outing takes, whole outings only.",
        formula: "n = ⌊(s − r) / s_outing⌋",
        source: "Charge balance",
    };
    let mut facts = vec![fact(
        "soc",
        "How full it is",
        "s",
        state.soc,
        "1",
        &FULLNESS,
        vec![
            quantity("σ", "may be off by", state.give, "1"),
            quantity("C", "what it holds", capacity_ah, "Ah"),
            quantity("q", "a day takes", needs.day(capacity_ah), "1"),
        ],
    )];
    if outing > 0.0 {
        let given =
            vec![quantity("t", "light in it", habit.minutes.values().sum::<f64>(), "min"), quantity("n", "outings it comes from", habit.rides as f64, "")];
        facts.push(fact("outing", "An outing takes", "s", outing, "1", &OUTING, given));
        let given = vec![quantity("s", "how full", state.soc, "1"), quantity("r", "reserve", reserve, "1"), quantity("s_outing", "an outing", outing, "1")];
        facts.push(fact("outings_left", "Outings left", "n", ((state.soc - reserve).max(0.0) / outing + 1e-9).floor(), "", &LEFT, given));
    }
    facts
}

/// A share of the charge in words.
fn percent(share: f64) -> String {
    if share < 0.01 { format!("{:.1} %", 100.0 * share) } else { format!("{} %", (100.0 * share).round()) }
}

/// What empties it, and how often.
fn rhythm(needs: &Needs, habit: &Habit, capacity_ah: f64, outing: f64) -> String {
    let one = percent(outing);
    // What empties it while nobody is out is named where it counts.
    let day = needs.day(capacity_ah);
    let idler = needs.idler.as_ref().filter(|_| 24.0 * needs.idle_a > 0.5 * day * capacity_ah);
    let standing = match idler {
        Some((id, share)) if *share > 0.95 => format!("a day of standing takes {}: the idle draw of {id}", percent(day)),
        Some((id, _)) => format!("a day of standing takes {}, most of it the idle draw of {id}", percent(day)),
        None => format!("a day of standing takes {}", percent(day)),
    };
    if habit.a_week > 0.0 && outing > 0.0 {
        let counted = if habit.rides > 0 {
            format!("the last {} were {:.1} a week", habit.rides, habit.a_week)
        } else {
            format!("by the plan there are {:.1} a week", habit.a_week)
        };
        let counts = 7.0 * day > NOTED * habit.a_week * outing;
        format!("{} takes {one}, {counted}{}", needs.outing_word(), if counts { format!("; {standing}") } else { String::new() })
    } else {
        standing
    }
}

/// Standing that takes more than this share of what outings take is named.
const NOTED: f64 = 0.1;
/// A lead battery that is this full may stand.
const LEAD_FULL: f64 = 0.9;
