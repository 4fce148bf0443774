//! A small circuit added with parts that do something sensible at once: a flash a second, a second of hold-up, thresholds
//! between full and empty.

use crate::wish::WishError;
use orthavis_model::document::*;
use orthavis_model::edit::{free_id, plain_feed};
use orthavis_model::practice::capacitor_for;
use orthavis_physics::circuits::{Wanted, choose};
use orthavis_physics::offered::offered_v;

/// What a new flasher and a new hold-up are to do.
const FLASH: Wanted = Wanted { period_s: Some(1.0), duty: Some(0.5), half_s: None, low_below_v: None, good_above_v: None };
const HOLD: Wanted = Wanted { period_s: None, duty: None, half_s: Some(1.0), low_below_v: None, good_above_v: None };
/// A light of a hold-up is dimmed by resistors of this much in a row, at 12 V, ohm.
const TAP_OHM: f64 = 470.0;

fn indicator(colour: &str, vf_v: f64) -> Led {
    Led { colour: colour.into(), vf_v, if_a: 0.01, if_max_a: 0.02, n: None, rs_ohm: None }
}

/// Parts to begin with, from which better ones are looked for.
fn rough(build: &Build, kind: CircuitKind, highest_v: f64) -> CircuitParts {
    match kind {
        CircuitKind::TimerFlasher => TimerFlasher {
            ra_ohm: 10e3,
            rb_ohm: 68e3,
            c_f: 10e-6,
            timer: if highest_v > 15.0 { TimerKind::Bipolar } else { TimerKind::Cmos },
            diode: false,
            through: Through::Mosfet,
            base_ohm: Some(100.0),
        }
        .into(),
        CircuitKind::TransistorFlasher => TransistorFlasher { r1_ohm: 4.7e3, r2_ohm: 4.7e3, c1_f: 150e-6, c2_f: 150e-6 }.into(),
        CircuitKind::BreakdownFlasher => BreakdownFlasher { r_ohm: 4.7e3, c_f: 220e-6, fire_v: 9.0, let_go_v: 7.0 }.into(),
        CircuitKind::HoldUp => HoldUp {
            bridge: matches!(build.source, Source::Track(_)),
            charge_ohm: 100.0,
            c_f: 1e-3,
            c_rated_v: capacitor_for(highest_v),
            esr_ohm: 0.1,
            taps_ohm: vec![TAP_OHM; 3],
            tap: 1,
            wanted_s: None,
        }
        .into(),
        CircuitKind::BatteryGauge => {
            BatteryGauge { rs_ohm: 470.0, rb_ohm: 1e3, rc_ohm: 1e3, diodes: 0, led_good: indicator("green", 2.1), led_low: indicator("red", 1.9) }.into()
        }
        CircuitKind::Switch => PinSwitch { base_ohm: 1e3, through: Transistor::Npn, logic_v: 5.0 }.into(),
    }
}

/// Adds a circuit of a kind before a light; a gauge hangs on the source alone.
///
/// # Errors
/// When there is no such light, or it has several feeds.
pub fn add_circuit(build: &mut Build, kind: CircuitKind, light: Option<&str>) -> Result<(), WishError> {
    let unknown = |id: &str| WishError::UnknownLight(id.to_owned());
    let word = kind.word().replace('_', "-");
    let (feed, drives, place, name) = match light.filter(|_| kind != CircuitKind::BatteryGauge) {
        Some(id) => {
            let light = build.lights.iter().find(|light| light.id == id).ok_or_else(|| unknown(id))?;
            let [feed] = &light.feeds[..] else { return Err(WishError::SeveralFeeds(id.to_owned())) };
            if build.circuits.iter().any(|circuit| circuit.id == feed.from) {
                return Err(WishError::DrivenAlready(id.to_owned()));
            }
            (feed.clone(), vec![id.to_owned()], light.place.clone(), format!("{id}-{word}"))
        }
        None => (plain_feed("source", 0.2, Gauge::Awg(24)), Vec::new(), String::new(), word),
    };
    let volts: Vec<f64> = offered_v(build, &feed.from).unwrap_or_default().into_iter().map(|(_, volts)| volts).collect();
    let (lowest_v, highest_v) = volts.iter().fold((f64::INFINITY, 0.0_f64), |(low, high), volts| (low.min(*volts), high.max(*volts)));
    let id = free_id(build, &name);
    for driven in &drives {
        if let Some(light) = build.lights.iter_mut().find(|light| light.id == *driven) {
            light.feeds = vec![plain_feed(&id, 0.1, feed.gauge)];
        }
        // How long it is on is the circuit's to say.
        for lit in build.scenes.iter_mut().filter_map(|scene| scene.lights.get_mut(driven)).filter(|_| kind.flashes()) {
            lit.duty = 1.0;
        }
    }
    let parts = rough(build, kind, highest_v);
    build.circuits.push(SmallCircuit { id, parts, feed, drives, mass_g: 5.0, place });
    let index = build.circuits.len() - 1;
    let wanted = match kind {
        CircuitKind::HoldUp => HOLD,
        // A third and two thirds of the way from empty to full.
        CircuitKind::BatteryGauge if highest_v > lowest_v => {
            let at = |share: f64| Some(lowest_v + share * (highest_v - lowest_v));
            Wanted { low_below_v: at(0.33), good_above_v: at(0.67), ..Wanted::default() }
        }
        CircuitKind::BatteryGauge => Wanted { low_below_v: Some(0.85 * highest_v), good_above_v: Some(0.95 * highest_v), ..Wanted::default() },
        _ => FLASH,
    };
    match choose(build, index, &wanted).ok().and_then(|found| found.into_iter().next()) {
        Some(best) => build.circuits[index].parts = best.parts,
        // With parts for another voltage it would be a heater.
        None if kind == CircuitKind::BatteryGauge => return Err(WishError::NoGauge { supply_v: highest_v }),
        None => {}
    }
    Ok(())
}
