//! What each outing took, measured by rested voltages, against what the plan computes, and why they differ.

use crate::needs::Needs;
use crate::told::{Told, What};
use orthavis_model::working::{Fact, Rule, fact, plain, quantity};
use serde::Serialize;

/// An outing as it was.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RideSeen {
    /// The event.
    pub id: String,
    /// When it ended.
    pub at: String,
    /// Light in it, min.
    pub minutes: f64,
    /// Temperature outside, °C.
    pub temperature_c: Option<f64>,
    /// Share of the charge that the plan computes, on the new battery at 25 °C.
    pub plan: f64,
    /// The same as cold as it was and on the battery as it is.
    pub computed: f64,
    /// Share that the rested voltages tell; absent without both.
    pub measured: Option<f64>,
    /// How far that may be off (one standard deviation).
    pub give: Option<f64>,
    /// Why the two differ, where they do.
    pub reason: Option<String>,
}

/// Outings together.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rides {
    /// In a sentence.
    pub words: String,
    /// Hours of light so far, outings, distance.
    pub facts: Vec<Fact>,
    /// Current that the plan does not have, A, while lit; absent where none shows.
    pub extra: Option<Fact>,
    /// How far that may be off (one standard deviation).
    pub extra_give: Option<f64>,
}

/// Outings that are held against the plan.
const COMPARED: usize = 25;
/// A difference of this many standard deviations is one.
const DIFFERS: f64 = 2.0;
/// And this share of what was computed.
const MATTERS: f64 = 0.10;
/// What wrong minutes and a plan scatter by, as a share.
const MINUTES: f64 = 0.08;
/// What the power of a motor scatters by, as a share.
const WAY: f64 = 0.25;

/// Outings together, and each with what it took, oldest first. `capacity_ah` is what the battery holds at 25 °C.
pub fn rides(needs: &Needs, capacity_ah: f64, told: &[Told<'_>]) -> (Rides, Vec<RideSeen>) {
    let mut seen: Vec<RideSeen> = Vec::new();
    // Normal equation of the current that explains the rest of what was measured.
    let mut rest: Vec<(f64, f64, f64)> = Vec::new();
    for one in told {
        let What::Ride(ride) = &one.what else { continue };
        let plan = needs.outing(&ride.minutes, ride.distance_km, needs.battery.capacity_ah, None);
        let computed = needs.outing(&ride.minutes, ride.distance_km, capacity_ah, ride.temperature_c);
        let measured = ride.from_v.zip(ride.to_v).map(|(from, to)| {
            let give = (needs.give(from).powi(2) + needs.give(to).powi(2)).sqrt();
            (needs.battery.soc_at(from) - needs.battery.soc_at(to), give)
        });
        if let Some((measured, give)) = measured.filter(|_| ride.hours() > 0.0) {
            let real_ah = capacity_ah * needs.cold(ride.temperature_c);
            // A motor's mean power is known far less well than what lights draw.
            let (_, way) = needs.parts(&ride.minutes, ride.distance_km);
            let way = WAY * way * needs.battery.capacity_ah / real_ah;
            rest.push(((measured - computed) * real_ah, ride.hours(), (give * give + (MINUTES * computed).powi(2) + way * way).sqrt() * real_ah));
        }
        let (_, way) = needs.parts(&ride.minutes, ride.distance_km);
        let reason = measured
            .map(|(measured, give)| (measured, (give * give + (WAY * way).powi(2)).sqrt()))
            .and_then(|(measured, give)| reason(needs, capacity_ah, ride.temperature_c, ride.hours(), (plan, computed), (measured, give)));
        seen.push(RideSeen {
            id: one.event.id.clone(),
            at: one.event.at.clone(),
            minutes: 60.0 * ride.hours(),
            temperature_c: ride.temperature_c,
            plan,
            computed,
            measured: measured.map(|(share, _)| share),
            give: measured.map(|(_, give)| give),
            reason,
        });
    }
    let recent = &rest[rest.len().saturating_sub(COMPARED)..];
    let extra = extra(recent);
    let lit_a: f64 = mean_a(needs, &seen, told);
    let shows = extra.filter(|(amps, give)| amps.abs() > DIFFERS * give && amps.abs() > MATTERS * lit_a);
    let words = match (recent.len(), shows) {
        (0, _) if seen.is_empty() => "No outing is written down yet.".to_owned(),
        (0, _) => "Write down the rested voltage before and after an outing, and what it takes can be held against the plan.".to_owned(),
        (n, None) => format!("The last {n} outings with both voltages took what the plan computes, as far as a meter can tell."),
        (n, Some((amps, _))) if amps > 0.0 => {
            format!(
                "The last {n} outings took more than the plan computes: as if {} more were on whenever it is lit. Look for a load that is not in the plan.",
                plain(amps, "A")
            )
        }
        (n, Some((amps, _))) => {
            format!("The last {n} outings took less than the plan computes, by {}: lights were off for part of the time, or dimmed.", plain(-amps, "A"))
        }
    };
    const EXTRA: Rule = Rule {
        words: "What was measured less what is computed, cold and age taken into account, over the hours of light; fitted over the last outings.",
        formula: "I = Σ w·t·ΔQ / Σ w·t²",
        source: "Weighted least squares over the journal",
    };
    let fact_of = |(amps, give): (f64, f64)| {
        fact(
            "extra_a",
            "Not in the plan",
            "I",
            amps,
            "A",
            &EXTRA,
            vec![quantity("n", "outings", recent.len() as f64, ""), quantity("σ", "may be off by", give, "A")],
        )
    };
    let extra_give = shows.map(|(_, give)| give);
    (Rides { words, facts: counted(told), extra: shows.map(fact_of), extra_give }, seen)
}

/// Hours of light and way of every outing.
pub fn counted(told: &[Told<'_>]) -> Vec<Fact> {
    const HOURS: Rule = Rule { words: "Minutes of every scene of every outing together.", formula: "t = Σ t_i", source: "The journal" };
    const WAY: Rule = Rule { words: "Every distance written down together.", formula: "d = Σ d_i", source: "The journal" };
    let (mut hours, mut count, mut distance_km) = (0.0, 0u32, 0.0);
    for one in told {
        let What::Ride(ride) = &one.what else { continue };
        hours += ride.hours();
        count += 1;
        distance_km += ride.distance_km.unwrap_or(0.0);
    }
    let outings = || vec![quantity("n", "outings", f64::from(count), "")];
    let mut facts = vec![fact("light_hours", "Hours of light so far", "t", hours, "h", &HOURS, outings())];
    if distance_km > 0.0 {
        facts.push(fact("distance_km", "Way so far", "d", distance_km, "km", &WAY, outings()));
    }
    facts
}

/// Outings of a build that runs off a rail: counted, and no more.
pub fn off_a_rail(told: &[Told<'_>]) -> Rides {
    Rides { words: "Outings are counted; what they take is up to the battery behind the rail.".into(), facts: counted(told), extra: None, extra_give: None }
}

/// Mean current of the plan over the outings, A.
fn mean_a(needs: &Needs, seen: &[RideSeen], told: &[Told<'_>]) -> f64 {
    let (mut charge, mut minutes) = (0.0, 0.0);
    for one in told {
        let What::Ride(ride) = &one.what else { continue };
        for (scene, lit) in &ride.minutes {
            charge += lit * needs.scenes.get(scene).map_or(0.0, |need| need.mean_a);
            minutes += lit;
        }
    }
    if seen.is_empty() || minutes <= 0.0 { 0.0 } else { charge / minutes }
}

/// Current and its standard deviation; `None` without outings that were measured.
fn extra(rest: &[(f64, f64, f64)]) -> Option<(f64, f64)> {
    let (mut top, mut bottom) = (0.0, 0.0);
    for (charge, hours, give) in rest {
        top += hours * charge / (give * give);
        bottom += hours * hours / (give * give);
    }
    if bottom <= 0.0 {
        return None;
    }
    let amps = top / bottom;
    let chi: f64 = rest.iter().map(|(charge, hours, give)| ((charge - amps * hours) / give).powi(2)).sum();
    let swell = (chi / (rest.len() as f64 - 1.0).max(1.0)).max(1.0);
    Some((amps, (swell / bottom).sqrt()))
}

/// Which of cold, age and a load that is not in the plan explains most of what was measured beyond the plan.
fn reason(
    needs: &Needs,
    capacity_ah: f64,
    temperature_c: Option<f64>,
    hours: f64,
    (plan, computed): (f64, f64),
    (measured, give): (f64, f64),
) -> Option<String> {
    if (measured - plan).abs() < DIFFERS * give || (measured - plan).abs() < MATTERS * plan || plan <= 0.0 {
        return None;
    }
    let cold = plan / needs.cold(temperature_c) - plan;
    let age = plan * needs.battery.capacity_ah / capacity_ah - plan;
    let rest = measured - computed;
    if rest.abs() >= DIFFERS * give && rest.abs() > cold.abs().max(age.abs()) {
        let amps = rest * capacity_ah * needs.cold(temperature_c) / hours.max(1e-3);
        return Some(if amps > 0.0 {
            format!("as if {} more were on: a load that is not in the plan?", plain(amps, "A"))
        } else {
            "it was lit for less than was written down".to_owned()
        });
    }
    if cold > age && cold > MATTERS * 0.3 * plan {
        return temperature_c
            .map(|degrees| format!("cold: at {} °C the battery gives {} % less", plain(degrees, ""), (100.0 * (1.0 - needs.cold(temperature_c))).round()));
    }
    (age > MATTERS * 0.3 * plan)
        .then(|| format!("age: the battery holds {} % of what is printed on it", (100.0 * capacity_ah / needs.battery.capacity_ah).round()))
}
