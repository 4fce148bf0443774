//! What each outing took, measured by rested voltages, against what the plan computes, and why they differ.

use crate::health::{LEAST, filled_to, put_in};
use crate::needs::Needs;
use crate::told::{Told, What};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::working::{Fact, Rule, counted, fact, plain, quantity};
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
    /// Outings with both voltages that were held against the plan.
    #[serde(skip)]
    pub compared: usize,
    /// What the charges say of such a current, A, and how far that may be off; absent where they cannot tell.
    #[serde(skip)]
    pub by_charges: Option<(f64, f64)>,
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

/// Rounds of the fit.
const ROUNDS: usize = 16;
/// Outings beyond this many standard deviations count less.
const FAR: f64 = 2.5;
/// Standard deviation over the median of the sizes of what is scattered so.
const MEDIAN: f64 = 1.4826;
/// What a charger's count, a full battery and days of standing scatter by, as shares.
const COUNTED: f64 = 0.02;
const FILLED: f64 = 0.015;
const DAYS: f64 = 0.3;

/// Outings together, and each with what it took, oldest first. `capacity_ah` is what the battery holds at 25 °C.
pub fn rides(needs: &Needs, capacity_ah: f64, told: &[Told<'_>]) -> (Rides, Vec<RideSeen>) {
    let mut seen: Vec<RideSeen> = Vec::new();
    // Normal equation of the current that explains the rest of what was measured.
    let mut rest: Vec<(f64, f64, f64)> = Vec::new();
    for one in told {
        let What::Ride(ride) = &one.what else { continue };
        let plan = needs.outing(ride.lit(), ride.distance_km, needs.battery.capacity_ah, None);
        let computed = needs.outing(ride.lit(), ride.distance_km, capacity_ah, ride.temperature_c);
        let measured = ride.from_v.zip(ride.to_v).map(|(from, to)| {
            let give = (needs.give(from).powi(2) + needs.give(to).powi(2)).sqrt();
            (needs.battery.soc_at(from) - needs.battery.soc_at(to), give)
        });
        if let Some((measured, give)) = measured.filter(|_| ride.hours() > 0.0) {
            let real_ah = capacity_ah * needs.cold(ride.temperature_c);
            // A motor's mean power is known far less well than what lights draw.
            let (_, way) = needs.parts(ride.lit(), ride.distance_km);
            let way = WAY * way * needs.battery.capacity_ah / real_ah;
            rest.push(((measured - computed) * real_ah, ride.hours(), (give * give + (MINUTES * computed).powi(2) + way * way).sqrt() * real_ah));
        }
        let (_, way) = needs.parts(ride.lit(), ride.distance_km);
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
        (n, None) => format!("The last {} with both voltages took what the plan computes, as far as a meter can tell.", counted(n as f64, "outing")),
        (n, Some((amps, _))) if amps > 0.0 => {
            format!(
                "The last {} took more than the plan computes: as if {} more were on whenever it is lit. Look for a load that is not in the plan.",
                counted(n as f64, "outing"),
                plain(amps, "A")
            )
        }
        (n, Some((amps, _))) => {
            format!(
                "The last {} took less than the plan computes, by {}: lights were off for part of the time, or dimmed.",
                counted(n as f64, "outing"),
                plain(-amps, "A")
            )
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
    let by_charges = balance(needs, told);
    // What the voltages say alone may be age as well; both together are a load.
    let words = match (&shows, by_charges) {
        (Some((amps, _)), Some((charged, give))) if *amps > 0.0 && charged < DIFFERS * give => {
            format!("{words} What the charges put in does not say so: measure once more before you change the plan.")
        }
        _ => words,
    };
    (Rides { words, facts: sums(told), extra: shows.map(fact_of), extra_give, compared: recent.len(), by_charges }, seen)
}

/// Hours of light and way of every outing.
pub fn sums(told: &[Told<'_>]) -> Vec<Fact> {
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
    let words = "Outings are counted; what they take is up to the battery behind the rail.".into();
    Rides { words, facts: sums(told), extra: None, extra_give: None, compared: 0, by_charges: None }
}

/// Mean current of the plan over the outings, A.
fn mean_a(needs: &Needs, seen: &[RideSeen], told: &[Told<'_>]) -> f64 {
    let (mut charge, mut minutes) = (0.0, 0.0);
    for one in told {
        let What::Ride(ride) = &one.what else { continue };
        for (scene, lit) in ride.lit() {
            charge += lit * needs.scenes.get(scene).map_or(0.0, |need| need.mean_a);
            minutes += lit;
        }
    }
    if seen.is_empty() || minutes <= 0.0 { 0.0 } else { charge / minutes }
}

/// Current and its standard deviation; `None` without outings that were measured. What lies far off counts less, so that
/// one wrong entry neither makes a load nor hides one.
fn extra(rest: &[(f64, f64, f64)]) -> Option<(f64, f64)> {
    let mut alone: Vec<f64> = rest.iter().map(|(charge, hours, _)| charge / hours).collect();
    alone.sort_by(f64::total_cmp);
    let mut amps = *alone.get(alone.len() / 2)?;
    let (mut bottom, mut swell) = (0.0, 1.0);
    for _ in 0..ROUNDS {
        let off = |(charge, hours, give): &(f64, f64, f64)| (charge - amps * hours).abs() / give;
        let mut sizes: Vec<f64> = rest.iter().map(off).collect();
        sizes.sort_by(f64::total_cmp);
        let spread: f64 = MEDIAN * sizes[sizes.len() / 2];
        swell = (spread * spread).max(1.0);
        let mut top = 0.0;
        bottom = 0.0;
        for one in rest {
            let (charge, hours, give) = one;
            let weight = (FAR * swell.sqrt() / off(one)).powi(2).min(1.0) / (give * give);
            top += weight * hours * charge;
            bottom += weight * hours * hours;
        }
        amps = top / bottom;
    }
    amps.is_finite().then_some((amps, (swell / bottom).sqrt()))
}

/// What the charges say of a current that the plan does not have, A, and its standard deviation: between two full charges
/// what went in is what outings and days took. No voltage and no capacity is in it.
pub fn balance(needs: &Needs, told: &[Told<'_>]) -> Option<(f64, f64)> {
    let kept = habits_of(needs.battery.chemistry).charge_efficiency;
    let mut all = Vec::new();
    // Charge computed and put in, hours of light, and the square of what they scatter by, since it was full.
    let mut since: Option<(Moment, [f64; 4])> = None;
    for one in told {
        match &one.what {
            What::Ride(ride) => {
                let Some((_, [computed, _, hours, scatter])) = &mut since else { continue };
                let (lights, way) = needs.parts(ride.lit(), ride.distance_km);
                let [lights, way] = [lights, way].map(|share| share * needs.battery.capacity_ah);
                *computed += lights + way;
                *hours += ride.hours();
                *scatter += (MINUTES * lights).powi(2) + (WAY * way).powi(2);
            }
            What::Charge(charge) => {
                let in_ah = put_in(needs, charge.ah, charge.wh);
                let full = charge.to_v.is_some_and(|to_v| filled_to(needs, to_v).0 >= 1.0);
                if let (Some((_, [_, put, ..])), Some(ah)) = (&mut since, in_ah) {
                    *put += ah * kept;
                } else {
                    since = None;
                }
                if !full {
                    continue;
                }
                if let Some((at, [computed, put, hours, scatter])) = since.filter(|(_, sums)| sums[2] > 0.0) {
                    let days = (one.at.s - at.s) as f64 / DAY_S as f64;
                    let standing = days * (needs.day(needs.battery.capacity_ah) * needs.battery.capacity_ah - needs.gain_ah);
                    let give = scatter + (COUNTED * put).powi(2) + (FILLED * needs.battery.capacity_ah).powi(2) + (DAYS * standing).powi(2);
                    all.push((put - computed - standing, hours, give.sqrt()));
                }
                since = Some((one.at, [0.0; 4]));
            }
            _ => {}
        }
    }
    if all.len() < LEAST { None } else { extra(&all[all.len().saturating_sub(COMPARED)..]) }
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
