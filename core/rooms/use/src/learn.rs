//! What the plan should learn from the journal: offered with what it rests on, never taken by itself, and only where two
//! kinds of evidence agree.

use crate::course::{HABIT_RIDES, Habit};
use crate::health::Health;
use crate::needs::Needs;
use crate::rides::Rides;
use orthavis_model::document::{Build, Source};
use orthavis_model::working::{counted, plain};
use serde::Serialize;
use serde_json::{Value, json};

/// A figure of the plan that the journal speaks against.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Offer {
    /// Where it stands in the document.
    pub at: String,
    /// What it is.
    pub words: String,
    /// What the plan says, in `unit`; absent where it says nothing.
    pub from: Option<f64>,
    /// What the journal says.
    pub to: f64,
    /// How far that may be off (one standard deviation).
    pub give: Option<f64>,
    /// Unit of the three.
    pub unit: &'static str,
    /// What it rests on.
    pub why: String,
    /// The change that takes it over (RFC 6902).
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: Vec<Value>,
}

/// A figure moves that is off by this many standard deviations, and by this share.
const MOVES: (f64, f64) = (2.0, 0.04);
/// Outings with both voltages that make an evidence.
const OUTINGS: usize = 4;
/// Two figures agree that are no further apart than this many standard deviations.
const AGREES: f64 = 2.5;
/// A habit differs by this share.
const HABIT: f64 = 0.2;

/// Two figures: more nobody knows.
fn rounded(value: f64, digits: i32) -> f64 {
    if value == 0.0 {
        return 0.0;
    }
    let size = 10f64.powi(digits - 1 - value.abs().log10().floor() as i32);
    (value * size).round() / size
}

/// Every figure that should change.
pub fn offers(build: &Build, needs: &Needs, health: &Health, rides: &Rides, habit: &Habit) -> Vec<Offer> {
    let mut all = Vec::new();
    let differs = |from: f64, to: f64, give: f64| (to - from).abs() > MOVES.0 * give && (to - from).abs() > MOVES.1 * from.abs();
    // The same load, by the voltages of outings and by what the charges put in.
    let load = rides.extra.as_ref().map(|extra| extra.value).zip(rides.extra_give).zip(rides.by_charges);
    let load = load.filter(|((amps, give), (charged, off))| *charged > MOVES.0 * off && (amps - charged).abs() < AGREES * give.hypot(*off));
    // Charges say what it holds; the outings agree where nothing of theirs is left to explain.
    let outings = rides.compared >= OUTINGS && (rides.extra.is_none() || load.is_some());
    if let (Some(trend), Some(left)) = (health.capacity.as_ref().filter(|_| outings), &health.left) {
        let give = trend.give / needs.battery.capacity_ah;
        let to = rounded(left.value.clamp(0.1, 1.0), 3);
        if differs(needs.left, left.value, give) && to != needs.left {
            all.push(Offer {
                at: "/usage/capacity_left".into(),
                words: "capacity left through age".into(),
                from: Some(needs.left),
                to,
                give: Some(give),
                unit: "1",
                why: format!(
                    "{} with both voltages say that it holds {}, and {} took what that makes of the plan.",
                    counted(health.charges as f64, "charge"),
                    plain(trend.now.value, "Ah"),
                    counted(rides.compared as f64, "outing")
                ),
                changes: vec![json!({ "op": "add", "path": "/usage/capacity_left", "value": to })],
            });
        }
    }
    if let Some(trend) = &health.resistance {
        let (from, to) = (needs.battery.pack_ohm(), rounded(trend.now.value, 3));
        // A pack that has aged holds less, too; one that only reads so has a bad joint on its way.
        let aged = health.left.as_ref().is_some_and(|left| left.value < 1.0 - MOVES.1) == (trend.now.value > from);
        if aged && differs(from, trend.now.value, trend.give) && matches!(build.source, Source::Battery(_)) {
            all.push(Offer {
                at: "/source/resistance_ohm".into(),
                words: "resistance of the battery".into(),
                from: Some(from),
                to,
                give: Some(trend.give),
                unit: "ohm",
                why: format!("{} at rest and under load; what the charges say of its age agrees.", counted(health.readings as f64, "pair of readings")),
                changes: vec![json!({ "op": "add", "path": "/source/resistance_ohm", "value": to })],
            });
        }
    }
    if let Some(((amps, give), (charged, off))) = load {
        // A load that runs while it is out, spread over the day: standing loads are told by their hours.
        let hours = (habit.minutes.values().sum::<f64>() / 60.0 * habit.a_week / 7.0).clamp(0.0, 24.0);
        if amps > 0.0 && habit.rides >= HABIT_RIDES && hours > 0.0 {
            // Both together, each by how sure it is.
            let (one, two) = (1.0 / (give * give), 1.0 / (off * off));
            let give = 1.0 / (one + two).sqrt();
            let to = rounded((one * amps + two * charged) / (one + two), 2);
            let taken = |id: &String| build.standing.iter().any(|load| load.id == *id);
            let id = (1..).map(|n| if n == 1 { "found".to_owned() } else { format!("found-{n}") }).find(|id| !taken(id)).unwrap_or_default();
            let load = json!({ "id": id, "current_a": to, "hours_per_day": rounded(hours, 2) });
            all.push(Offer {
                at: "/standing/-".into(),
                words: "a load that is not in the plan, on while it is lit".into(),
                from: None,
                to,
                give: Some(give),
                unit: "A",
                why: "Outings take that much more than the plan computes, cold and age taken into account, and the charges put it back.".into(),
                changes: vec![json!({ "op": "add", "path": "/standing/-", "value": load })],
            });
        }
    }
    if habit.rides >= HABIT_RIDES {
        all.extend(habits(build, habit));
    }
    all
}

fn habits(build: &Build, habit: &Habit) -> Vec<Offer> {
    let mut all = Vec::new();
    let why = format!("The last {} outings.", habit.rides);
    let mut offer = |at: String, words: String, from: f64, to: f64, unit: &'static str| {
        if (to - from).abs() > HABIT * from.max(to) {
            let changes = vec![json!({ "op": "add", "path": at, "value": to })];
            all.push(Offer { at, words, from: Some(from), to, give: None, unit, why: why.clone(), changes });
        }
    };
    offer("/usage/outings_per_week".into(), "outings a week".into(), build.usage.outings_per_week, rounded(habit.a_week, 2), "");
    for scene in &build.scenes {
        let from = build.usage.minutes.get(&scene.id).copied().unwrap_or(0.0);
        let to = habit.minutes.get(&scene.id).copied().unwrap_or(0.0).round();
        let path = format!("/usage/minutes/{}", scene.id.replace('~', "~0").replace('/', "~1"));
        let name = if scene.name.is_empty() { &scene.id } else { &scene.name };
        offer(path, format!("minutes of {name} in an outing"), from, to, "min");
    }
    all
}
