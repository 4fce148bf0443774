//! What the plan weighs, and where that moves the centre of mass: for what flies, is thrown or is steered by leaning.

use orthavis_model::document::{Build, Chemistry, Source, VehicleKind};
use orthavis_model::working::{Fact, Rule, fact, quantity};
use serde::Serialize;
use std::collections::BTreeMap;

/// A shift below this is trimmed out unnoticed, as a share of the craft's reach to its outermost part that has a position.
const UNNOTICED: f64 = 0.02;

/// Mass and balance.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Balance {
    /// Each figure with its working.
    pub facts: Vec<Fact>,
    /// Shift of the centre of mass: forward, to the left, up, mm.
    pub shift_mm: [f64; 3],
    /// Parts that weigh something and have no position.
    pub unplaced: Vec<String>,
    /// What that means for the craft.
    pub meaning: String,
}

/// Energy that a kilogram of battery holds, Wh: representative of whole packs with their case.
fn wh_per_kg(chemistry: Chemistry) -> f64 {
    match chemistry {
        Chemistry::LiIon => 180.0,
        Chemistry::Lipo => 150.0,
        Chemistry::Lifepo4 => 110.0,
        Chemistry::Nimh => 65.0,
        _ => 35.0,
    }
}

/// Mass of each part and of its wires, g: a wire hangs half on either end.
fn masses(build: &Build) -> BTreeMap<&str, f64> {
    let mut all: BTreeMap<&str, f64> = BTreeMap::new();
    for light in &build.lights {
        *all.entry(&light.id).or_default() += light.mass_g;
    }
    for part in &build.converters {
        *all.entry(&part.id).or_default() += part.mass_g;
    }
    for part in &build.controllers {
        *all.entry(&part.id).or_default() += part.mass_g;
    }
    for part in &build.circuits {
        *all.entry(&part.id).or_default() += part.mass_g;
    }
    for feed in build.feeds() {
        let half = 0.5 * feed.feed.mass_g();
        *all.entry(feed.feed.from.as_str()).or_default() += half;
        *all.entry(feed.consumer_id(build)).or_default() += half;
    }
    all
}

/// What the plan weighs and where that pulls the craft; `None` where nobody said where anything sits and it does not fly.
pub fn balance(build: &Build) -> Option<Balance> {
    let positions = build.make.as_ref().map_or(&[][..], |make| &make.positions);
    let flies = build.vehicle.kind == VehicleKind::Drone;
    if positions.is_empty() && !flies {
        return None;
    }
    let at: BTreeMap<&str, [f64; 3]> = positions.iter().map(|one| (one.part.as_str(), one.at_mm)).collect();
    let masses = masses(build);
    let added: f64 = masses.values().sum();
    let mut moment = [0.0; 3];
    let mut unplaced = Vec::new();
    for (part, grams) in &masses {
        match at.get(part) {
            Some(place) => (0..3).for_each(|axis| moment[axis] += grams * place[axis]),
            // The battery was there before; its half of the wires is next to nothing.
            None if *grams > 0.0 && *part != "source" => unplaced.push((*part).to_owned()),
            None => {}
        }
    }
    let craft = 1000.0 * build.vehicle.mass_kg;
    let shift_mm = moment.map(|moment| moment / (craft + added));
    let level = (shift_mm[0].powi(2) + shift_mm[1].powi(2)).sqrt();
    const ADDED: Rule = Rule {
        words: "Lights and converters as entered; wires by their copper, half as much again for insulation.",
        formula: "m = Σ m_parts + 1.5·Σ 2·L·A·ρ",
        source: "Density of copper 8960 kg/m³; insulation representative",
    };
    const SHIFT: Rule = Rule {
        words: "Every part pulls by its mass times its distance from the reference point; a wire hangs half on either end.",
        formula: "Δ = Σ m·r / (M + Σ m)",
        source: "Centre of mass; the craft without the plan balances at the reference point",
    };
    let shifted = |key, label, axis: usize| {
        let given =
            vec![quantity("Σ m·r", "moment of the parts", moment[axis], "g·mm"), quantity("M", "craft", craft, "g"), quantity("Σ m", "added", added, "g")];
        fact(key, label, "Δ", shift_mm[axis], "mm", &SHIFT, given)
    };
    let mut facts = vec![
        fact("added_g", "Mass that the plan adds", "m", added, "g", &ADDED, vec![]),
        shifted("shift_forward_mm", "Centre of mass moves forward by", 0),
        shifted("shift_left_mm", "to the left by", 1),
        shifted("shift_up_mm", "and up by", 2),
    ];
    let battery_g = match &build.source {
        Source::Battery(battery) => Some(1000.0 * battery.capacity_ah * battery.emf_v(0.5) / wh_per_kg(battery.chemistry)),
        Source::Rail(_) | Source::Track(_) => None,
    };
    let slide = battery_g.map(|grams| (-moment[0] / grams, -moment[1] / grams, grams));
    if let Some((forward, left, grams)) = slide {
        const SLIDE: Rule = Rule {
            words: "The battery is the heaviest thing that can be moved: its mass times its way takes back what the parts pull.",
            formula: "s = −Σ m·r / m_battery",
            source: "Mass of the battery by its energy: 35 (lead) to 180 Wh/kg (lithium-ion), representative",
        };
        let given = |axis: usize| vec![quantity("Σ m·r", "moment of the parts", moment[axis], "g·mm"), quantity("m_battery", "battery, about", grams, "g")];
        facts.push(fact("battery_forward_mm", "Moving the battery forward by … evens it out", "s", forward, "mm", &SLIDE, given(0)));
        facts.push(fact("battery_left_mm", "and to the left by", "s", left, "mm", &SLIDE, given(1)));
    }
    let reach = at.values().map(|place| (place[0].powi(2) + place[1].powi(2)).sqrt()).fold(0.0, f64::max);
    let meaning = meaning(build, level, shift_mm[2], reach, at.is_empty(), &unplaced, slide.map(|(forward, left, _)| (forward, left)));
    Some(Balance { facts, shift_mm, unplaced, meaning })
}

fn meaning(build: &Build, level: f64, up: f64, reach: f64, nowhere: bool, unplaced: &[String], slide: Option<(f64, f64)>) -> String {
    if nowhere {
        return "Measure where each part sits from the point at which the craft balances now, and the shift is worked out.".into();
    }
    let way = |value: f64, plus: &str, minus: &str| format!("{:.0} mm {}", value.abs(), if value >= 0.0 { plus } else { minus });
    let mut words = if level <= UNNOTICED * reach || level < 0.5 {
        "It stays in balance: nobody will notice the shift.".to_owned()
    } else {
        let cure = slide.map_or_else(
            || "Move something heavy the other way".to_owned(),
            |(forward, left)| format!("Move the battery {} and {}", way(forward, "forward", "back"), way(left, "to the left", "to the right")),
        );
        let effect = match build.vehicle.kind {
            VehicleKind::Drone => "the motors on that side work harder all the time, and have less left to steer with",
            VehicleKind::Skateboard => "the board turns over to that side more readily when it leaves the ground",
            VehicleKind::RcModel => "a plane flies nose up or down, a car pulls to that side",
            _ => "it leans and steers to that side",
        };
        format!("It moves by {level:.1} mm: {effect}. {cure}, or put as much on the other side.")
    };
    if up.abs() >= 1.0 && up.abs() > UNNOTICED * reach {
        words += &format!(" It also sits {}: higher tips sooner.", way(up, "higher", "lower"));
    }
    if !unplaced.is_empty() {
        words += &format!(
            " {} {} no position yet and {} not counted.",
            unplaced.join(", "),
            if unplaced.len() == 1 { "has" } else { "have" },
            if unplaced.len() == 1 { "is" } else { "are" }
        );
    }
    words + " Check it on two fingers before the first flight or ride."
}
