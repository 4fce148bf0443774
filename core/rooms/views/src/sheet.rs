//! The battery as a person meets it: what it shows, what it gives, where to tap it, and what a measurement says.

use orthavis_model::document::{Battery, Build, Rail, Source, Tap, Track, VehicleKind};
use orthavis_model::laws::battery::cell_of;
use orthavis_model::states::State;
use orthavis_model::working::{Fact, Quantity, Rule, fact, quantity};
use serde::Serialize;

/// What to know of a source.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SourceSheet {
    /// Voltages, charge and limits, each with its working.
    pub facts: Vec<Fact>,
    /// Where it may be tapped and where not; empty for a rail.
    pub taps: Vec<TapAdvice>,
    /// What speaks for a pack of its own here.
    pub own_pack_for: Vec<&'static str>,
    /// What speaks against it.
    pub own_pack_against: Vec<&'static str>,
    /// What its label would say; absent for a rail.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub label: Option<Label>,
}

/// What is printed on a battery like this one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Label {
    /// By the names of its cells, V.
    pub nominal_v: f64,
    /// Energy at that voltage, Wh.
    pub energy_wh: f64,
}

/// A way to tap a battery.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TapAdvice {
    /// Which.
    pub tap: Tap,
    /// Whether it is a right one.
    pub right: bool,
    /// Why.
    pub why: &'static str,
}

/// What a resting voltage says.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measured {
    /// State of charge, 0 to 1.
    pub soc: f64,
    /// By how much it may be off when the reading is off by 1 %, 0 to 1.
    pub uncertainty: f64,
    /// In words.
    pub words: String,
}

const REST: Rule = Rule {
    words: "Cells in a row times the voltage of one, rested and with nothing drawn.",
    formula: "E = N_s·V_cell",
    source: "Representative cell voltages of the chemistry",
};
const UNDER_WAY: Rule = Rule {
    words: "At reserve, less what the pack's own resistance takes of it while the motor draws its usual current.",
    formula: "E = E_r − P/E_r·R",
    source: "Ohm's law; the motor's mean power",
};
const CHARGING: Rule =
    Rule { words: "What the charger holds the terminals at in the end.", formula: "V = N_s·V_charge", source: "Usual end voltage of the chemistry" };
const USABLE: Rule = Rule { words: "The share that may be used without harm.", formula: "Q = C·u", source: "Common practice for the chemistry" };
const ENERGY: Rule = Rule { words: "Usable charge times the voltage at half.", formula: "W = Q·E_half", source: "Mean voltage taken as that at half charge" };
const LIMIT: Rule = Rule { words: "What the pack, its protection board or its label allows.", formula: "I ≤ I_max", source: "As entered" };
const MEASURED: Rule = Rule { words: "As it was measured or read from the pack's sheet.", formula: "R as entered", source: "As entered" };
const RESISTANCE: Rule = Rule {
    words: "Cells in a row times that of one; larger cells have less.",
    formula: "R = N_s·k / C",
    source: "As entered, else representative of the chemistry",
};

/// The sheet of a build's source.
pub fn source_sheet(build: &Build) -> SourceSheet {
    match &build.source {
        Source::Battery(battery) => battery_sheet(build, battery),
        Source::Rail(Rail { voltage_v, max_current_a, other_load_a, .. }) | Source::Track(Track { voltage_v, max_current_a, other_load_a, .. }) => {
            let left = (max_current_a - other_load_a).max(0.0);
            const LEFT: Rule = Rule { words: "Its limit less what else lives on it.", formula: "I = I_max − I_other", source: "As entered" };
            let given = vec![quantity("I_max", "limit", *max_current_a, "A"), quantity("I_other", "other loads", *other_load_a, "A")];
            SourceSheet {
                facts: vec![fact("rail_v", "Voltage", "V", *voltage_v, "V", &LIMIT, vec![]), fact("left_a", "Left for lights", "I", left, "A", &LEFT, given)],
                taps: Vec::new(),
                own_pack_for: vec!["The supply feeds something that must not stop: a receiver, a flight controller, a drive."],
                own_pack_against: vec!["One more thing to charge, and more mass."],
                label: None,
            }
        }
    }
}

/// What makes a pack sag under way.
fn sagging(build: &Build) -> Vec<Quantity> {
    let (emf_v, ohm) = build.thevenin(State::Reserve);
    vec![
        quantity("E_r", "at reserve", emf_v, "V"),
        quantity("P", "the motor takes", build.motor_w().unwrap_or(0.0), "W"),
        quantity("R", "resistance of the pack", ohm, "ohm"),
    ]
}

fn battery_sheet(build: &Build, battery: &Battery) -> SourceSheet {
    let cells = || quantity("N_s", "cells in a row", f64::from(battery.series), "1");
    let mut facts = Vec::new();
    for state in build.states() {
        let (key, label, rule) = match state {
            State::Charging => ("charging_v", "While charging", &CHARGING),
            State::Full => ("full_v", "Full", &REST),
            State::Half => ("half_v", "Half", &REST),
            State::UnderWay => ("under_way_v", "Under way, at reserve", &UNDER_WAY),
            _ => ("reserve_v", "At reserve", &REST),
        };
        let emf_v = build.thevenin(state).0;
        let (symbol, one) = if state == State::Charging { ("V_charge", "end voltage of a cell") } else { ("V_cell", "rested cell at this charge") };
        let of_cells = || vec![cells(), quantity(symbol, one, emf_v / f64::from(battery.series), "V")];
        let given = if state == State::UnderWay { sagging(build) } else { of_cells() };
        facts.push(fact(key, label, "E", emf_v, "V", rule, given));
    }
    let usable_ah = battery.usable() * battery.capacity_ah;
    let capacity = || vec![quantity("C", "capacity", battery.capacity_ah, "Ah"), quantity("u", "usable share", battery.usable(), "1")];
    facts.push(fact("usable_ah", "Usable capacity", "Q", usable_ah, "Ah", &USABLE, capacity()));
    let energy = vec![quantity("Q", "usable charge", usable_ah, "Ah"), quantity("E_half", "voltage at half", battery.emf_v(0.5), "V")];
    facts.push(fact("usable_wh", "Energy in that", "W", usable_ah * battery.emf_v(0.5), "Wh", &ENERGY, energy));
    facts.push(fact("limit_a", "Highest current", "I_max", battery.max_current_a, "A", &LIMIT, vec![]));
    let k = quantity("k", "of one cell, per amp-hour", cell_of(battery.chemistry).ohm_ah, "ohm·Ah");
    let (rule, given) = match battery.resistance_ohm {
        Some(_) => (&MEASURED, Vec::new()),
        None => (&RESISTANCE, vec![cells(), k, quantity("C", "capacity", battery.capacity_ah, "Ah")]),
    };
    facts.push(fact("pack_ohm", "Its own resistance", "R", battery.pack_ohm(), "ohm", rule, given));

    let taps = [
        (Tap::Main, true, "The main leads carry whatever the pack gives. Put the fuse right there."),
        (Tap::Accessory, true, "An output that the maker meant for it; keep to its limit."),
        (
            Tap::BalanceLead,
            false,
            "Thin wires for the charger only. Drawing from them empties some cells before others: the pack swells, or burns while charging.",
        ),
        (Tap::OneOfSeries, false, "One battery of a pair empties before its neighbour. The charger then overcharges one and starves the other."),
    ];
    let taps =
        taps.into_iter().filter(|(tap, ..)| *tap != Tap::BalanceLead || battery.is_lithium()).map(|(tap, right, why)| TapAdvice { tap, right, why }).collect();
    let nominal_v = f64::from(battery.series) * cell_of(battery.chemistry).nominal_v;
    let mut own_pack_for = Vec::new();
    if build.vehicle.kind == VehicleKind::Wheelchair {
        own_pack_for.push("A medical device stays as its maker built it.");
    }
    if build.vehicle.kind == VehicleKind::Drone {
        own_pack_for.push("A fault in the lights cannot bring it down.");
    }
    if build.vehicle.propulsion.is_some() {
        own_pack_for.push("Warranty and charger of the drive battery stay untouched, and no range is lost.");
    }
    own_pack_for.push("The lights still shine when the vehicle's battery is empty or away.");
    SourceSheet {
        facts,
        taps,
        own_pack_for,
        own_pack_against: vec!["One more thing to charge, and to forget.", "More mass and one more box to find a dry place for."],
        label: Some(Label { nominal_v, energy_wh: nominal_v * battery.capacity_ah }),
    }
}

/// State of charge from a voltage measured at rest, V.
pub fn measured(battery: &Battery, volts: f64) -> Measured {
    let soc = battery.soc_at(volts);
    let uncertainty = (0.5 * (battery.soc_at(1.01 * volts) - battery.soc_at(0.99 * volts))).abs();
    let (empty, full) = (battery.emf_v(0.0), battery.emf_v(1.0));
    let words = if volts > 1.03 * full {
        format!("{volts:.1} V is more than {} cells show at rest: check the number of cells, or let it rest after charging.", battery.series)
    } else if volts < 0.97 * empty {
        format!("{volts:.1} V is less than {} cells ever should show: check the number of cells; do not charge a pack that is that low.", battery.series)
    } else if uncertainty > 0.12 {
        format!("About {:.0} % full, give or take {:.0} %: this chemistry hardly changes its voltage in between.", 100.0 * soc, 100.0 * uncertainty)
    } else {
        format!("About {:.0} % full, if it has rested for an hour.", 100.0 * soc)
    };
    Measured { soc, uncertainty, words }
}
