//! Strings that share one resistor: the one that lets through most takes the current of all.

use super::case::*;
use orthavis_model::document::LedArray;
use orthavis_model::edit::is_driven;
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series, rating_for};
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const LED_SHARED: Check = Check {
    code: "led.shared",
    step: Step::Lights,
    unit: "A",
    why: "No two LEDs are alike. The one that wants a tenth of a volt less takes most of the current, dies first, and leaves its share to the next.",
    formula: "I_weak ≤ {0}·I_rated, V_weak(I) = V(I) − {1} V",
    rule: "Of strings behind one resistor, one with {1} V less than the others takes no more than {0} times the rated current.",
    source: "Shockley diode equation for unlike strings at one voltage; spread of one batch by datasheet",
    mend: "Give each string a resistor of its own.",
    figures: &[FAR_OVER, SPREAD_V],
};

/// Above this multiple of the rated current a weak string does not last.
const FAR_OVER: f64 = 1.5;
/// Usual resistors are at least so large, W.
const LEAST_W: f64 = 0.25;
/// Difference of forward voltage within one bag of LEDs, V.
const SPREAD_V: f64 = 0.1;

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        let Load::LedArray(array) = &light.load else { continue };
        if !array.shared_resistor || array.parallel < 2 || is_driven(case.build, light) {
            continue;
        }
        let of = |point: &PointReport| Some(weak_a(array, point.lights.get(&light.id)?.voltage_v));
        let Some((amps, point)) = case.asked(light).filter_map(|point| Some((of(point)?, point))).max_by(|a, b| a.0.total_cmp(&b.0)) else { continue };
        let limit = FAR_OVER * array.led.if_a;
        let severity = match amps {
            amps if above(amps, array.led.if_max_a) => Severity::Stop,
            amps if above(amps, limit) => Severity::Fix,
            _ => Severity::Note,
        };
        let draft = Draft { check: &LED_SHARED, severity, subject: &light.id, point: Some(point), value: amps, limit, excess: amps };
        found.add(draft, || Words {
            title: format!("{}: its rows share one resistor", light.id),
            message: format!(
                "The {} rows of `{}` share one resistor. One with {} less than the others takes {} {}; its LEDs are rated for {}.",
                array.parallel,
                light.id,
                plain(SPREAD_V, "V"),
                plain(amps, "A"),
                moment(case.build, point),
                plain(array.led.if_a, "A")
            ),
            advice: None,
            given: vec![quantity("n", "rows behind it", f64::from(array.parallel), "1"), quantity("R", "the resistor", array.resistor_ohm, "ohm")],
        });
    }
}

/// Current of a string with [`SPREAD_V`] less than the others, at the voltage of all with their resistor, A.
fn weak_a(array: &LedArray, voltage_v: f64) -> f64 {
    let one = DiodeString::new(&array.led, array.series, 0.0);
    let (others, mut low, mut high) = (f64::from(array.parallel - 1), 0.0, voltage_v);
    let taken = |at_v: f64| others * one.current(at_v).0 + one.current(at_v + SPREAD_V).0;
    // What the strings take grows with their voltage while what the resistor passes falls.
    for _ in 0..60 {
        let middle = 0.5 * (low + high);
        if middle + array.resistor_ohm * taken(middle) > voltage_v { high = middle } else { low = middle }
    }
    one.current(low + SPREAD_V).0
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "led.shared" {
        return Vec::new();
    }
    let each = propose(case.build, "Give each row a resistor of its own", |copy| {
        let light = copy.lights.iter_mut().find(|light| light.id == finding.subject)?;
        let Load::LedArray(array) = &mut light.load else { return None };
        let ohm = resistor::above(Series::E24, array.row_ohm());
        let heat_w = case.worst(|point| Some(point.lights.get(&light.id)?.string_a?.powi(2) * ohm)).map_or(0.0, |(watts, _)| watts);
        (array.shared_resistor, array.resistor_ohm) = (false, ohm);
        array.resistor_w = rating_for(heat_w)?.max(LEAST_W);
        Some(())
    });
    each.into_iter().collect()
}
