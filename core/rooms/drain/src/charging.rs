//! Charging: how long it takes, what to mind, and what its voltage does to lights that stay on.

use orthavis_judge::findings::Severity;
use orthavis_judge::report::report_at_once;
use orthavis_model::document::{Battery, Build, Chemistry, Source};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::states::State;
use orthavis_model::working::{Fact, Rule, fact, quantity};
use orthavis_physics::points::{PointError, PointReport};
use serde::Serialize;

/// Charging a build's battery.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Charging {
    /// Voltage, and times where the charger's current is known.
    pub facts: Vec<Fact>,
    /// What to mind with this chemistry.
    pub cautions: Vec<&'static str>,
    /// Whether lights may stay on while it charges, in words.
    pub verdict: String,
    /// Whether they may.
    pub lights_may_run: bool,
    /// Every light at its brightest scene: full battery against charging.
    pub lights: Vec<ChargingLight>,
    /// What else forbids it then: converters, runs, the battery.
    pub elsewhere: Vec<String>,
}

/// A light while the battery charges.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChargingLight {
    /// Light id.
    pub id: String,
    /// On a full battery, V.
    pub full_v: f64,
    /// While charging, V.
    pub charging_v: f64,
    /// Brightness on a full battery.
    pub full_output: f64,
    /// Brightness while charging.
    pub charging_output: f64,
    /// What forbids it then.
    pub faults: Vec<String>,
}

/// Charging of a build with a rechargeable battery. `share` is what an outing takes of the usable charge.
pub(super) fn charging(build: &Build, battery: &Battery, share: Option<f64>) -> Option<Charging> {
    let charging_v = battery.charging_v()?;
    const VOLTAGE: Rule =
        Rule { words: "Cells in a row times the voltage that one is charged to.", formula: "V = N_s·V_charge", source: "Usual end voltage of the chemistry" };
    let mut facts = vec![fact(
        "charging_v",
        "The terminals then stand at",
        "V",
        charging_v,
        "V",
        &VOLTAGE,
        vec![quantity("N_s", "cells in a row", f64::from(battery.series), "1")],
    )];
    if let Some(charger_a) = build.usage.charger_a {
        let usable_ah = battery.capacity_ah * battery.usable();
        facts.extend(time("recharge_h", "From reserve to full", battery, charger_a, usable_ah));
        if let Some(share) = share.filter(|share| *share > 0.0) {
            facts.extend(time("recharge_outing_h", "After one outing", battery, charger_a, usable_ah * share.min(1.0)));
        }
    }
    let (lights, elsewhere) = match lights(build) {
        Ok(found) => found,
        // Without figures nothing is allowed.
        Err(error) => (Vec::new(), vec![error.to_string()]),
    };
    let faults = lights.iter().filter(|light| !light.faults.is_empty()).count();
    let primary = orthavis_model::laws::battery::cell_of(battery.chemistry).charge_v.is_none();
    let lights_may_run = faults == 0 && elsewhere.is_empty() && !primary;
    let verdict = if primary {
        "These cells are not charged at all: they are replaced.".into()
    } else if build.lights.is_empty() {
        "There is no light yet that could stay on.".into()
    } else if lights_may_run {
        "The lights may stay on while it charges: none gets more than it stands. It then charges slower by what they draw.".into()
    } else if faults > 0 {
        format!("Keep the lights off while it charges: {faults} of {} would get more than they stand.", lights.len())
    } else {
        "Keep the lights off while it charges: what feeds them would get more than it stands.".into()
    };
    Some(Charging { facts, cautions: cautions(build, battery), verdict, lights_may_run, lights, elsewhere })
}

/// How long charging takes; cells that are not made for it take none.
fn time(key: &'static str, label: &'static str, battery: &Battery, charger_a: f64, ah: f64) -> Option<Fact> {
    const TIME: Rule = Rule {
        words: "The charge that is missing over the charger's current, a little more for what is lost, and a tail at falling current.",
        formula: "t = Q / (I·η) + t_tail",
        source: "Charge balance; efficiency and tail representative of the chemistry",
    };
    let habits = habits_of(battery.chemistry);
    if habits.charge_efficiency <= 0.0 {
        return None;
    }
    let given = vec![
        quantity("Q", "missing", ah, "Ah"),
        quantity("I", "charger", charger_a, "A"),
        quantity("η", "charge out over charge in", habits.charge_efficiency, "1"),
        quantity("t_tail", "last part, at falling current", habits.tail_h, "h"),
    ];
    Some(fact(key, label, "t", ah / (charger_a * habits.charge_efficiency) + habits.tail_h, "h", &TIME, given))
}

/// Each light in the scene where it is brightest, and what charging does to it.
fn lights(build: &Build) -> Result<(Vec<ChargingLight>, Vec<String>), PointError> {
    let mut charged = build.clone();
    if let Source::Battery(battery) = &mut charged.source {
        battery.used_while_charging = true;
    }
    let with = report_at_once(&charged)?;
    // What is at its worst then.
    let new: Vec<_> = with.findings.iter().filter(|found| found.severity == Severity::Stop && found.state == Some(State::Charging)).collect();
    let best = |id: &str| {
        let outputs = with.points.iter().filter(|point| point.state == State::Full).filter_map(|point| Some((point, point.lights.get(id)?.output)));
        outputs.max_by(|a, b| a.1.total_cmp(&b.1)).map(|(point, _)| point)
    };
    let line = |light: &orthavis_model::document::Light| {
        let full = best(&light.id)?;
        let charging = with.points.iter().find(|point: &&PointReport| point.state == State::Charging && point.scene == full.scene)?;
        let (a, b) = (full.lights.get(&light.id)?, charging.lights.get(&light.id)?);
        let faults = new.iter().filter(|found| found.subject == light.id).map(|found| found.title.clone()).collect();
        Some(ChargingLight { id: light.id.clone(), full_v: a.voltage_v, charging_v: b.voltage_v, full_output: a.output, charging_output: b.output, faults })
    };
    let lights: Vec<ChargingLight> = build.lights.iter().filter_map(line).collect();
    let elsewhere = new.iter().filter(|found| build.lights.iter().all(|light| light.id != found.subject)).map(|found| found.title.clone());
    Ok((lights, elsewhere.collect()))
}

fn cautions(build: &Build, battery: &Battery) -> Vec<&'static str> {
    let mut said = match battery.chemistry {
        Chemistry::LiIon | Chemistry::Lifepo4 => vec![
            "Use the charger that belongs to the pack; another end voltage can start a fire.",
            "Never charge below 0 °C: metal plates out inside and shorts the cell later.",
            "Charge where it can be seen, on a ground that does not burn.",
        ],
        Chemistry::Lipo => vec![
            "Only with a balance charger set to the right number of cells, in sight, on a ground that does not burn.",
            "A puffed, dented or over-discharged pack is not charged again.",
            "Never charge below 0 °C.",
        ],
        Chemistry::LeadFlooded => vec![
            "It gasses while charging: open the compartment, no flame, no sparks. Check the water afterwards.",
            "Recharge soon after use; standing half empty ruins it.",
        ],
        Chemistry::LeadAgm => {
            vec!["A charger with an AGM or gel setting; too high a voltage dries it out.", "Recharge soon after use; standing half empty ruins it."]
        }
        Chemistry::Nimh => vec!["A charger that ends by itself; warm is fine, too hot to hold is not."],
        Chemistry::Alkaline => vec!["Primary cells are not recharged: they gas, leak and can burst. There is no charging time for them; replace them."],
        Chemistry::LithiumCoin => {
            vec!["Coin cells are not recharged: they burst. There is no charging time for them; replace them, and keep them from children."]
        }
    };
    let limit_a = habits_of(battery.chemistry).charge_rate * battery.capacity_ah;
    if limit_a > 0.0 && build.usage.charger_a.is_some_and(|charger_a| charger_a > limit_a) {
        said.insert(0, "This charger is strong for so small a battery: check the charging current printed on the pack.");
    }
    said
}
