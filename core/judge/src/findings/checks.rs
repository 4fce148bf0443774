//! What each code stands for, said once beside its rule: findings take their words from there, and the API, the page's rail,
//! the documentation and the tests walk the list of them.

use super::{
    circuit, collapse, converter, dimmer, fixing, frame, fuse, heat, led, light, near, pins, place, polarity, resistor, shared, shine, show, sleeps, soldered,
    source, strip, surge, switching, track, wet, wire,
};
use crate::cautions::Step;
use orthavis_model::working::filled;
use serde::Serialize;
use std::borrow::Cow;

/// One kind of finding. Its texts take the figures that they name from [`Check::figures`], see [`filled`]: what is said is
/// what is held against.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Check {
    /// Its name; a code never changes its meaning.
    pub code: &'static str,
    /// The step of the job at which a person mends it.
    pub step: Step,
    /// Unit of its value and its limit.
    pub unit: &'static str,
    /// Why it matters.
    pub why: &'static str,
    /// What is held against what, in symbols.
    pub formula: &'static str,
    /// The same in words.
    pub rule: &'static str,
    /// Where the rule is from.
    pub source: &'static str,
    /// What usually mends it; a finding's own remedies say how here.
    pub mend: &'static str,
    /// What its texts name.
    pub figures: &'static [f64],
}

/// A [`Check`] as it is read.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = Check))]
pub struct CheckSaid {
    /// Its name; a code never changes its meaning.
    pub code: &'static str,
    /// The step of the job at which a person mends it.
    pub step: Step,
    /// Unit of its value and its limit.
    pub unit: &'static str,
    /// Why it matters.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub why: Cow<'static, str>,
    /// What is held against what, in symbols.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub formula: Cow<'static, str>,
    /// The same in words.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub rule: Cow<'static, str>,
    /// Where the rule is from.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub source: Cow<'static, str>,
    /// What usually mends it; a finding's own remedies say how here.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub mend: Cow<'static, str>,
}

impl Check {
    /// Its texts with their figures.
    pub fn said(&self) -> CheckSaid {
        let said = |text| filled(text, self.figures);
        CheckSaid {
            code: self.code,
            step: self.step,
            unit: self.unit,
            why: said(self.why),
            formula: said(self.formula),
            rule: said(self.rule),
            source: said(self.source),
            mend: said(self.mend),
        }
    }
}

/// Every kind of finding that there is, in the order of their codes; each is declared beside its rule.
pub const CHECKS: [Check; 95] = [
    show::CHAIN_COPIES,
    show::CHAIN_LIMIT,
    show::CHAIN_MISSING,
    show::CHAIN_TWICE,
    circuit::CIRCUIT_NO_START,
    circuit::CIRCUIT_OUTPUT_OVER,
    circuit::CIRCUIT_PART_OVER,
    circuit::CIRCUIT_REVERSE_BASE,
    circuit::CIRCUIT_UNSATURATED,
    soldered::CONTACT_MOVING,
    switching::CONTACT_OVER,
    pins::CONTROLLER_INPUT_HIGH,
    pins::CONTROLLER_INPUT_LOW,
    converter::CONVERTER_BACK_FED,
    converter::CONVERTER_HOT,
    converter::CONVERTER_INPUT_HIGH,
    converter::CONVERTER_INPUT_LOW,
    converter::CONVERTER_NEAR_LIMIT,
    converter::CONVERTER_OVERLOAD,
    converter::CONVERTER_PASS_THROUGH,
    show::DATA_FAR,
    pins::DATA_LEVEL,
    dimmer::DIMMER_MISSING,
    dimmer::DIMMER_OVER,
    near::EMI_NEAR,
    heat::EMITTER_HOT,
    led::EMITTER_VOLTAGE_DRIVEN,
    fixing::FIXING_DRILLED,
    fixing::FIXING_FOGS,
    fixing::FIXING_FOR_GOOD,
    fixing::FIXING_LETS_GO,
    fixing::FIXING_NEAR_CELLS,
    fixing::FIXING_TAPE_WET,
    circuit::FLASH_FAST,
    show::FLASH_RED,
    pins::FLICKER_SLOW,
    frame::FRAME_MEDICAL,
    frame::FRAME_NOT_A_CONDUCTOR,
    fuse::FUSE_ABOVE_WIRE,
    fuse::FUSE_BREAKING,
    fuse::FUSE_FAR,
    fuse::FUSE_INRUSH,
    fuse::FUSE_MINUS,
    fuse::FUSE_MISSING,
    fuse::FUSE_NUISANCE,
    fuse::FUSE_ODD_RATING,
    fuse::FUSE_SLOW,
    fuse::FUSE_VOLTAGE,
    show::GROUND_APART,
    circuit::HOLDUP_INRUSH,
    circuit::HOLDUP_SHORT,
    led::LED_HOT,
    led::LED_NO_RESISTOR,
    led::LED_OVER_MAX,
    led::LED_OVER_RATED,
    shared::LED_SHARED,
    led::LED_UNEVEN,
    light::LIGHT_DARK,
    shine::LIGHT_DAZZLES,
    light::LIGHT_DIM,
    shine::LIGHT_LEAKS,
    light::LIGHT_OVER_VOLTAGE,
    shine::LIGHT_SPOTS,
    shine::LIGHT_UNNOTICED,
    wet::LIGHT_WET,
    pins::PIN_OVER,
    pins::PINS_TOTAL,
    strip::PIXELS_STARVED,
    place::PLACE_PLUG,
    place::PLACE_SLACK,
    polarity::POLARITY_OPEN,
    sleeps::RAIL_SLEEPS,
    soldered::RECUT_OVER,
    resistor::RESISTOR_HOT,
    source::SOURCE_CHARGING_LIT,
    collapse::SOURCE_COLLAPSES,
    source::SOURCE_NEAR_LIMIT,
    source::SOURCE_NO_CUTOFF,
    source::SOURCE_NOT_RECHARGEABLE,
    source::SOURCE_OVER,
    source::SOURCE_PARKED,
    strip::STRIP_CUT,
    strip::STRIP_FADE,
    strip::STRIP_RAIL_OVER,
    heat::STRIP_WARM,
    show::SUPPLY_LIMIT,
    surge::SURGE_ENGINE,
    switching::SWITCH_INRUSH,
    switching::SWITCH_OVER,
    switching::SWITCH_VOLTAGE,
    source::TAP_OVER,
    source::TAP_UNBALANCED,
    track::TRACK_POLARISED,
    wire::WIRE_AMPACITY,
    wire::WIRE_DROP,
];

/// The check of a code; `None`: there is no such code.
pub fn check(code: &str) -> Option<&'static Check> {
    CHECKS.binary_search_by(|check| check.code.cmp(code)).ok().map(|index| &CHECKS[index])
}

/// All checks as a table for people who read documentation, in Markdown.
pub fn as_markdown() -> String {
    let mut text = String::from(
        "# Findings\n\nEvery code that a report may have, from the table that the program itself uses (`cargo xtask api` writes this page). A finding\nsays where it is at its worst, the figure, the limit, and the changes that were tried and clear it.\n",
    );
    for (word, step) in Step::WORDS {
        let here: Vec<&Check> = CHECKS.iter().filter(|check| check.step == *step).collect();
        if here.is_empty() {
            continue;
        }
        text.push_str(&format!("\n## Mended at the step {}\n", word[..1].to_uppercase() + &word[1..]));
        for check in here.into_iter().map(Check::said) {
            let unit = if check.unit == "1" { "ratio" } else { check.unit };
            text.push_str(&format!(
                "\n### `{}`\n\n{} {}\n\n- Rule: `{}` ({unit}). {}\n- Source: {}.\n",
                check.code, check.why, check.mend, check.formula, check.rule, check.source
            ));
        }
    }
    text
}
