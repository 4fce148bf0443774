//! What cold, age and time do to the battery of a build, with their working.

use orthavis_model::document::{Battery, Build};
use orthavis_model::laws::conditions::{capacity_factor, of_usage, resistance_factor};
use orthavis_model::working::{Fact, Rule, fact, quantity};

/// Capacity and resistance as they are, with their working.
pub(super) fn facts(build: &Build, battery: &Battery) -> Vec<Fact> {
    const CAPACITY: Rule = Rule {
        words: "The printed capacity times what the temperature and the battery's age leave of it.",
        formula: "C = C_0·f(ϑ)·a",
        source: "Representative curves of the chemistry; datasheets of the cells go first",
    };
    const RESISTANCE: Rule = Rule {
        words: "Cold slows the chemistry and age wears it; both show as resistance.",
        formula: "R = R_0·g(ϑ)·(1 + 2.5·(1 − a))",
        source: "Representative curves of the chemistry; 1.5 times at 80 % of the capacity",
    };
    const RESERVE: Rule = Rule {
        words: "What stays in the battery so that it comes to no harm.",
        formula: "r = 1 − u",
        source: "Common practice for the chemistry, or as entered",
    };
    let (temperature_c, left) = of_usage(build);
    let (capacity, resistance) = (capacity_factor(battery.chemistry, temperature_c, left), resistance_factor(battery.chemistry, temperature_c, left));
    let given = |symbol, label: &str, value, unit| {
        vec![
            quantity(symbol, label, value, unit),
            quantity("ϑ", "temperature of the battery", temperature_c, "°C"),
            quantity("a", "capacity left through age", left, "1"),
        ]
    };
    vec![
        fact("capacity_ah", "Capacity as it is", "C", battery.capacity_ah * capacity, "Ah", &CAPACITY, given("C_0", "printed", battery.capacity_ah, "Ah")),
        fact(
            "pack_ohm",
            "Resistance as it is",
            "R",
            battery.pack_ohm() * resistance,
            "ohm",
            &RESISTANCE,
            given("R_0", "new, at 25 °C", battery.pack_ohm(), "ohm"),
        ),
        fact("reserve", "Stays as reserve", "r", battery.reserve_soc(), "1", &RESERVE, vec![quantity("u", "usable share", battery.usable(), "1")]),
    ]
}
