//! How to arrange single LEDs: every split into rows, with its resistor.
//!
//! The resistor holds the wished share of rated current at the highest voltage that the supply ever shows, so that
//! no state overdrives the LEDs: `R = (V_max − N V_f(I)) / I`, the next larger preferred value.

use super::*;
use orthavis_model::document::{Led, Load};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::working::{Rule, fact, plain, quantity};

/// What is asked.
#[derive(Clone, Debug)]
pub struct Ask {
    /// Voltage of the supply in each state, V.
    pub volts: Vec<(State, f64)>,
    /// The LED.
    pub led: Led,
    /// How many.
    pub count: u32,
    /// Which resistors are at hand.
    pub series: Series,
}

/// One split.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Split {
    /// LEDs in a row.
    pub series: u32,
    /// Whole rows.
    pub parallel: u32,
    /// Resistor of each, ohm.
    pub resistor_ohm: f64,
    /// Its rating, W.
    pub resistor_w: f64,
    /// Share of rated current aimed at.
    pub share: f64,
    /// LEDs left over for one shorter row.
    pub rest: u32,
    /// That row's resistor, ohm.
    pub rest_ohm: Option<f64>,
}

/// Values that lie on a bench, ohm.
pub const BENCH_OHM: [f64; 3] = [220.0, 330.0, 470.0];
const BENCH: [(&str, &str); 3] =
    [("bench_220", "With 220 Ω from the bench"), ("bench_330", "With 330 Ω from the bench"), ("bench_470", "With 470 Ω from the bench")];
/// Both schools: easy on the LED, and all it is rated for.
pub const SHARES: [f64; 2] = [0.75, 1.0];

/// Ways that are worked out for a build; nobody reads on.
const LISTED: usize = 40;

const RESISTOR: Rule = Rule {
    words: "What the LEDs leave of the highest voltage, over the current wished for; the next larger preferred value.",
    formula: "R ≥ (V_max − N·V_f) / I",
    source: "Ohm's law; preferred values by IEC 60063",
};
const CURRENT: Rule = Rule {
    words: "The current at which the LEDs' forward voltages and the resistor's share add up to the voltage there is.",
    formula: "V = N·V_f(I) + I·R",
    source: "Shockley diode equation with series resistance, through the datasheet point",
};
const HEAT: Rule =
    Rule {
        words: "Current squared times resistance, at the highest voltage.", formula: "P = I²·R", source: "Joule's law; parts used to 60 % of their rating"
    };
const EFFICIENCY: Rule =
    Rule {
        words: "The LEDs' share of the voltage; the resistor turns the rest into heat.", formula: "η = (V − I·R) / V", source: "Same current through both"
    };

/// Every split, best first: even light before efficiency, no odd row before one.
///
/// # Errors
/// When the count is zero or a figure is out of range.
pub fn strings(ask: &Ask) -> Result<Vec<Choice>, ChooseError> {
    within("the number of LEDs", f64::from(ask.count), 0.0, 10_000.0, "a whole number from 1 to 10,000")?;
    let (low_v, high_v) = ends(&ask.volts);
    within("the highest supply voltage", high_v, 0.0, 1000.0, "a supply between 0 and 1000 V")?;
    let mut choices: Vec<Choice> = (1..=ask.count.min(1000))
        .take_while(|n| f64::from(*n) * ask.led.vf_v < 1.2 * high_v)
        .flat_map(|n| SHARES.map(|share| split(ask, n, share, low_v, high_v)))
        .flatten()
        .collect();
    rank(&mut choices, |choice| {
        let Pick::Strings(split) = &choice.pick else { return (9, 0.0, 0.0) };
        let evenness = choice.figure("evenness").unwrap_or(0.0);
        let class = if evenness * 1.5 >= 1.0 {
            0
        } else if evenness >= 0.5 {
            1
        } else {
            2
        };
        let odd = if split.rest > 0 { 0.08 } else { 0.0 };
        // The split decides by its voltage, so that both schools of one split stand together, the gentler first.
        (class, odd - f64::from(split.series) * ask.led.vf_v / high_v, split.share)
    });
    Ok(choices)
}

/// Splits for the LEDs of a light, each with the change that takes it over.
///
/// # Errors
/// When there is no such light, or it is none of single LEDs.
pub fn for_light(build: &Build, id: &str, series: Series) -> Result<Vec<Choice>, ChooseError> {
    let light = build.lights.iter().find(|light| light.id == id).ok_or(ChooseError::Unknown { what: "light", id: id.into() })?;
    let Load::LedArray(array) = &light.load else {
        return Err(ChooseError::Misplaced { id: id.into(), is: "no array of single LEDs", wants: "single LEDs" });
    };
    if orthavis_model::edit::is_driven(build, light) {
        return Err(ChooseError::Misplaced { id: id.into(), is: "fed by a current driver, which takes the resistor's place", wants: "LEDs on a set voltage" });
    }
    let ask = Ask { volts: offered_v(build, &light.feeds[0].from)?, led: array.led.clone(), count: array.series * array.parallel, series };
    let choices = strings(&ask)?.into_iter().take(LISTED).map(|choice| {
        let Pick::Strings(split) = choice.pick.clone() else { return choice };
        choice.changing(build, |copy| apply(copy, id, &split))
    });
    tried(build, choices.collect())
}

/// Puts a split in the place of an array; a shorter last row becomes a light beside it.
fn apply(build: &mut Build, id: &str, split: &Split) -> Option<()> {
    let rest_id = orthavis_model::edit::free_id(build, &format!("{id}-rest"));
    let light = build.lights.iter_mut().find(|light| light.id == id)?;
    let Load::LedArray(array) = &mut light.load else { return None };
    (array.series, array.parallel, array.resistor_ohm, array.resistor_w) = (split.series, split.parallel, split.resistor_ohm, split.resistor_w);
    array.shared_resistor = false;
    if let Some(rest_ohm) = split.rest_ohm {
        let mut rest = light.clone();
        rest.id = rest_id.clone();
        if let Load::LedArray(array) = &mut rest.load {
            (array.series, array.parallel, array.resistor_ohm) = (split.rest, 1, rest_ohm);
        }
        build.lights.push(rest);
        for scene in &mut build.scenes {
            if let Some(lit) = scene.lights.get(id).cloned() {
                scene.lights.insert(rest_id.clone(), lit);
            }
        }
    }
    Some(())
}

fn split(ask: &Ask, series: u32, share: f64, low_v: f64, high_v: f64) -> Option<Choice> {
    let led = &ask.led;
    let target = share * led.if_a;
    let sized = |n: u32| {
        let bare = DiodeString::new(led, n, 0.0);
        let over = high_v - bare.voltage(target);
        (over > 0.0).then(|| resistor::above(ask.series, over / target))
    };
    let (parallel, rest) = (ask.count / series, ask.count % series);
    let resistor_ohm = sized(series)?;
    let rest_ohm = if rest > 0 { Some(sized(rest)?) } else { None };
    let string = DiodeString::new(led, series, resistor_ohm);
    let (high_a, low_a) = (string.current(high_v).0, string.current(low_v).0);
    let heat_w = (high_a * high_a * resistor_ohm).max(rest_ohm.map_or(0.0, |ohm| DiodeString::new(led, rest, ohm).current(high_v).0.powi(2) * ohm));
    let resistor_w = resistor::rating_for(heat_w)?;
    let total = |v: f64| f64::from(parallel) * string.current(v).0 + rest_ohm.map_or(0.0, |ohm| DiodeString::new(led, rest, ohm).current(v).0);
    let efficiency = 1.0 - high_a * resistor_ohm / high_v;
    let evenness = if high_a > 0.0 { low_a / high_a } else { 0.0 };

    let odd = if rest > 0 { format!(" and one of {rest}") } else { String::new() };
    let school = if share < 1.0 { "three quarters of rated: cooler, and lasts" } else { "full rated current: all the light there is" };
    let title = format!("{parallel} × {series} in a row{odd}, {} each", plain(resistor_ohm, "Ω"));
    let tradeoff = format!(
        "{school}. {:.0} % bright at the highest voltage, {:.0} % at the lowest; {:.0} % of the power reaches the LEDs.",
        100.0 * high_a / led.if_a,
        100.0 * low_a / led.if_a,
        100.0 * efficiency
    );
    let pick = Pick::Strings(Split { series, parallel, resistor_ohm, resistor_w, share, rest, rest_ohm });
    let mut choice = Choice::new(title, tradeoff, pick);
    choice.works = high_a <= led.if_max_a && low_a > 0.0;
    choice.caution = if evenness < 0.1 {
        Some(format!(
            "Dark before the battery is empty: {} in a row want {} and the supply falls to {}.",
            series,
            plain(string.voltage(0.1 * led.if_a), "V"),
            plain(low_v, "V")
        ))
    } else if evenness * 1.5 < 1.0 {
        Some(format!("Dims to {:.0} % as the battery empties: little voltage is left for the resistor.", 100.0 * evenness))
    } else if rest > 0 {
        Some(format!("{rest} left over sit in a shorter row of their own; {} more would make the rows even.", series - rest))
    } else {
        None
    };
    choice.works &= evenness >= 0.1;
    let volts = |v: f64| {
        vec![
            quantity("V", "supply", v, "V"),
            quantity("N", "LEDs in a row", f64::from(series), "1"),
            quantity("V_f", "forward voltage at rated current", led.vf_v, "V"),
        ]
    };
    let with = |v: f64, ohm: f64| {
        let mut given = volts(v);
        given.push(quantity("R", "resistor", ohm, "ohm"));
        given
    };
    let mut given = volts(high_v);
    given.push(quantity("I", "wished", target, "A"));
    choice.figures = vec![
        fact("resistor_ohm", "Resistor of each row", "R", resistor_ohm, "ohm", &RESISTOR, given),
        fact(
            "heat_w",
            "Heat in each resistor",
            "P",
            heat_w,
            "W",
            &HEAT,
            vec![quantity("I", "row current", high_a, "A"), quantity("R", "resistor", resistor_ohm, "ohm")],
        )
        .of_limit(resistor_w),
        fact("full_a", "Row current, highest voltage", "I", high_a, "A", &CURRENT, with(high_v, resistor_ohm)).of_limit(led.if_a),
        fact("reserve_a", "Row current, lowest voltage", "I", low_a, "A", &CURRENT, with(low_v, resistor_ohm)),
        fact("total_a", "All rows together, highest voltage", "I", total(high_v), "A", &CURRENT, with(high_v, resistor_ohm)),
        fact("efficiency", "Share that reaches the LEDs", "η", efficiency, "1", &EFFICIENCY, with(high_v, resistor_ohm)),
        fact(
            "evenness",
            "Light at the lowest against the highest voltage",
            "I_min / I_max",
            evenness,
            "1",
            &Rule { words: "The eye notices when light falls to two thirds.", formula: "I_min / I_max", source: "Ratio of the two currents" },
            vec![quantity("I_min", "lowest", low_a, "A"), quantity("I_max", "highest", high_a, "A")],
        ),
    ];
    for (ohm, (key, label)) in BENCH_OHM.into_iter().zip(BENCH) {
        let bench = DiodeString::new(led, series, ohm).current(high_v).0;
        choice.figures.push(fact(key, label, "I", bench, "A", &CURRENT, with(high_v, ohm)).of_limit(led.if_a));
    }
    Some(choice)
}
