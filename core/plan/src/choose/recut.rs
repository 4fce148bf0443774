//! A strip cut again for a lower rail: which tracks to cut, which LEDs to leave out, which resistors to add, and what light
//! and current that gives over the whole range of the rail.

use super::*;
use orthavis_model::document::{Light, Load, Recut, Strip};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::working::{Rule, counted, fact, plain, quantity};

/// An LED is given this share of what it carries as bought.
const SHARE: f64 = 0.9;
/// Light that is worth the soldering, as a share of the strip's as bought.
const WORTH: f64 = 0.3;

const LED: Rule = Rule {
    words: "Each row is its LEDs and its resistor between the rails, at the highest voltage of the supply.",
    formula: "R = (V − Σ V_f) / I",
    source: "Shockley diodes with the strip's own figures; preferred values of IEC 60063",
};
const LIGHT: Rule = Rule {
    words: "Light of the LEDs that are used, of what the segment gives as bought.",
    formula: "n · I / (N · I_rated)",
    source: "Light in step with current",
};
const HEAT: Rule = Rule { words: "Heat in one resistor.", formula: "P = I² R", source: "Ohm's law" };

/// What is done to one segment.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Soldering {
    /// Rows side by side.
    pub groups: u32,
    /// LEDs in each row.
    pub series: u32,
    /// LEDs in the segment; those behind the rows are left out.
    pub leds: u32,
    /// Resistor of each row, ohm.
    pub resistor_ohm: f64,
    /// Its rating, W.
    pub resistor_w: f64,
    /// What to do, in order.
    pub steps: Vec<String>,
}

/// What is done to a segment for so many rows of so many LEDs.
fn soldering(strip: &Strip, recut: &Recut, resistor_w: f64) -> Soldering {
    let (groups, series, leds) = (recut.groups, recut.series(), strip.leds_per_segment);
    let mut steps = Vec::new();
    let last = |group: u32| (group + 1) * series;
    for group in 0..groups {
        let end = last(group);
        if end < leds {
            steps.push(format!("Cut the track between LED {end} and LED {}.", end + 1));
        }
    }
    if recut.used < leds {
        let out: Vec<String> = (recut.used + 1..=leds).map(|number| number.to_string()).collect();
        steps.push(format!("LED {} stays dark.", out.join(" and ")));
    }
    if recut.used == leds {
        steps.push("Cut the track between the last LED and the strip's own resistor.".into());
    }
    for group in 1..groups {
        steps.push(format!("Lead plus from the plus copper to the free pad of LED {}.", group * series + 1));
    }
    for group in 0..groups {
        steps.push(format!("Solder {} from the end of LED {} to the minus copper.", plain(recut.resistor_ohm, "Ω"), last(group)));
    }
    steps.push("Measure from plus to minus before it gets power: no short, and each row lights alone.".into());
    Soldering { groups, series, leds, resistor_ohm: recut.resistor_ohm, resistor_w, steps }
}

/// Ways to cut a light's strip again for what feeds it, the most light at the lowest voltage first; a strip that is lit as
/// bought is listed first.
///
/// # Errors
/// When there is no such light, or it is not a strip.
pub fn for_light(build: &Build, id: &str) -> Result<Vec<Choice>, ChooseError> {
    let light: &Light = build.lights.iter().find(|light| light.id == id).ok_or(ChooseError::Unknown { what: "light", id: id.into() })?;
    let Load::Strip(strip) = &light.load else { return Err(ChooseError::Misplaced { id: id.into(), is: "no strip", wants: "cut-to-length strip" }) };
    let from = light.feeds.first().map_or("source", |feed| feed.from.as_str());
    let (low, high) = ends(&offered_v(build, from)?);
    let rated_a = DiodeString::strip_led_a(strip);
    let leds = strip.leds_per_segment;
    let mut found: Vec<(f64, Choice)> = Vec::new();
    let as_bought = Strip { recut: None, ..strip.clone() };
    let bought = DiodeString::of_segment(&as_bought);
    let lit = |row: &DiodeString, rows: f64, used: f64, volts: f64| row.current(volts).0 / rows * used / (f64::from(leds) * rated_a);
    let own = lit(&bought, 1.0, f64::from(leds), low);
    if own >= WORTH {
        let title = "Leave it as bought".to_owned();
        let tradeoff = format!("It gives {:.0} % of its light at {} and needs no soldering.", 100.0 * own.min(1.0), plain(low, "V"));
        let pick = Pick::Recut { recut: None, soldering: None };
        found.push((own + 1.0, Choice::new(title, tradeoff, pick).changing(build, |copy| set(copy, id, None))));
    }
    for used in 1..=leds {
        for groups in (1..=used).filter(|groups| used.is_multiple_of(*groups)) {
            // As many LEDs in a row as there were: that is the strip as bought.
            let series = used / groups;
            if series == leds {
                continue;
            }
            let over = high - f64::from(series) * strip.led_vf_v;
            if over <= 0.05 * high {
                continue;
            }
            let resistor_ohm = resistor::above(Series::E24, over / (SHARE * rated_a));
            let recut = Recut { groups, resistor_ohm, used };
            let cut = Strip { recut: Some(recut.clone()), ..strip.clone() };
            let row = DiodeString::of_segment(&cut);
            let rows = f64::from(groups);
            let (at_low, at_high) = (lit(&row, rows, f64::from(used), low), lit(&row, rows, f64::from(used), high));
            let led_a = row.current(high).0 / rows;
            let heat = led_a * led_a * resistor_ohm;
            let Some(resistor_w) = resistor::rating_for(heat) else { continue };
            let segments = f64::from(strip.segments());
            let total_a = row.current(high).0 * segments;
            let rows_words = if groups == 1 { "one row".to_owned() } else { format!("{groups} rows") };
            let title = format!("{rows_words} of {series}, {} each", plain(resistor_ohm, "Ω"));
            let tradeoff = format!(
                "{:.0} % of the light as bought at {}, {:.0} % at {}; {} in all. {} and as many joints to solder on {}.",
                100.0 * at_low,
                plain(low, "V"),
                100.0 * at_high,
                plain(high, "V"),
                plain(total_a, "A"),
                counted(groups * strip.segments(), "resistor"),
                counted(segments, "segment"),
            );
            let pick = Pick::Recut { recut: Some(recut.clone()), soldering: Some(soldering(strip, &recut, resistor_w)) };
            let mut choice = Choice::new(title, tradeoff, pick);
            choice.works = at_low >= WORTH;
            if !choice.works {
                choice.caution = Some(format!("At {} hardly any light is left.", plain(low, "V")));
            } else if at_low < 0.6 * at_high {
                choice.caution = Some("It dims a good deal as the battery empties.".into());
            }
            let given = || {
                vec![
                    quantity("V", "highest voltage of the supply", high, "V"),
                    quantity("V_f", "forward voltage of an LED", strip.led_vf_v, "V"),
                    quantity("R", "resistor of a row", resistor_ohm, "ohm"),
                ]
            };
            choice.figures = vec![
                fact("led_a", "Each LED carries at most", "I", led_a, "A", &LED, given()),
                fact("light_low", "Light at the lowest voltage", "n·I / N·I_rated", at_low, "1", &LIGHT, given()),
                fact("light_high", "Light at the highest", "n·I / N·I_rated", at_high, "1", &LIGHT, given()),
                fact("current_a", "Whole strip at most", "I", total_a, "A", &LED, given()),
                fact("heat_w", "Heat in each resistor", "P", heat, "W", &HEAT, given()),
            ];
            found.push((at_low, choice.changing(build, |copy| set(copy, id, Some(recut)))));
        }
    }
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    let mut choices: Vec<Choice> = found.into_iter().map(|(_, choice)| choice).collect();
    rank(&mut choices, |_| 0);
    choices.truncate(6);
    tried(build, choices)
}

fn set(copy: &mut Build, id: &str, recut: Option<Recut>) -> Option<()> {
    let Load::Strip(strip) = &mut copy.lights.iter_mut().find(|light| light.id == id)?.load else { return None };
    strip.recut = recut;
    Some(())
}
