//! Heat that does not get away: emitters without metal behind them, strips on what keeps them warm.

use super::case::*;
use orthavis_model::dimming::put_before;
use orthavis_model::document::{LedArray, Surface};
use orthavis_model::edit::driver_of;
use orthavis_model::fixing::Site;
use orthavis_model::practice::{BARE_STAR_K_PER_W, DRIVER_A, EMITTER_A, USUAL_C};
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const EMITTER_HOT: Check = Check {
    code: "emitter.hot",
    step: Step::Lights,
    unit: "°C",
    why: "A power LED gives most of what it takes as heat, out of its back. Too hot, it fades within weeks, and what it is glued to lets go or chars.",
    formula: "T = {0} °C + P·n·R_th ≤ {1} °C",
    rule: "The plate under an emitter stays below {1} °C in air of {0} °C; above {2} °C nothing beside it is safe.",
    source: "Heat flow through a thermal resistance; all electrical power taken as heat",
    mend: "Screw it to more metal, or drive it with less current.",
    figures: &[USUAL_C, WARM_C, HOT_C],
};

pub(super) const STRIP_WARM: Check = Check {
    code: "strip.warm",
    step: Step::Lights,
    unit: "W/m",
    why: "Wood, foam, cloth and plastic keep a strip's heat in: its glue lets go, its LEDs fade, and foam or cloth can char.",
    formula: "P / L ≤ {0} W/m without metal",
    rule: "On what does not carry heat away a strip takes up to {0} W/m; on foam or fabric never more than {1} W/m. More wants a metal profile.",
    source: "Common practice with strips",
    mend: "Put it in a metal profile, or run it at less.",
    figures: &[MOST_W_PER_M, CHARS_W_PER_M],
};

/// What the plate under an emitter stands for good, °C.
const WARM_C: f64 = 85.0;
/// Above this what is beside it is in danger, °C.
const HOT_C: f64 = 110.0;
/// Heat sinks on sale, K/W.
const SINKS_K_PER_W: [f64; 10] = [20.0, 15.0, 10.0, 8.0, 6.0, 4.0, 3.0, 2.0, 1.0, 0.5];
const MOST_W_PER_M: f64 = 10.0;
const CHARS_W_PER_M: f64 = 20.0;

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        match &light.load {
            Load::LedArray(array) if array.led.if_a >= EMITTER_A => emitter(case, light, array, found),
            Load::Strip(strip) => lies(case, light, strip.length_m, found),
            Load::Pixels(pixels) => lies(case, light, f64::from(pixels.count) * pixels.pitch_m, found),
            Load::LedArray(_) | Load::Module(_) => {}
        }
    }
}

/// Power of one emitter at its worst, W, and where.
fn emitter_w<'a>(case: &Case<'a>, light: &Light, array: &LedArray) -> Option<(f64, &'a PointReport)> {
    let count = f64::from(array.series * array.parallel);
    let resistors = if array.shared_resistor { 1.0 } else { f64::from(array.parallel) };
    let of = |point: &'a PointReport| {
        let here = point.lights.get(&light.id)?;
        // Of what is pulsed, the resistors take their share of the time.
        let on = here.string_a.filter(|amps| *amps > 0.0).map_or(0.0, |amps| (here.current_a / (amps * f64::from(array.parallel))).min(1.0));
        Some(((here.power_w - resistors * here.resistor_w.unwrap_or(0.0) * on).max(0.0) / count, point))
    };
    case.asked(light).filter_map(of).max_by(|a, b| a.0.total_cmp(&b.0))
}

fn emitter(case: &Case<'_>, light: &Light, array: &LedArray, found: &mut Findings) {
    let Some((watts, point)) = emitter_w(case, light, array) else { return };
    let (sink, together) = (array.sink_k_per_w.unwrap_or(BARE_STAR_K_PER_W), f64::from(array.on_one_sink.unwrap_or(1)));
    let degrees = USUAL_C + watts * together * sink;
    let severity = match degrees {
        hot if above(hot, HOT_C) => Severity::Stop,
        hot if above(hot, WARM_C) => Severity::Fix,
        _ => return,
    };
    let draft = Draft { check: &EMITTER_HOT, severity, subject: &light.id, point: Some(point), value: degrees, limit: WARM_C, excess: degrees };
    found.add(draft, || Words {
        title: format!("{}: its emitters get too hot", light.id),
        message: format!(
            "Each emitter of `{}` takes {} {}; on {} its plate gets {}.",
            light.id,
            plain(watts, "W"),
            moment(case.build, point),
            if array.sink_k_per_w.is_some() { "this heat sink" } else { "a bare star" },
            plain(degrees, "°C")
        ),
        advice: Some("Thermal paste or a pad between plate and metal, screws rather than glue, and air past it."),
        given: vec![
            quantity("P", "of one emitter", watts, "W"),
            quantity("n", "emitters on one heat sink", together, "1"),
            quantity("R_th", "to the air", sink, "K/W"),
        ],
    });
}

/// Power of a light along its length at its worst, W/m, and where.
fn along<'a>(case: &Case<'a>, light: &Light, length_m: f64) -> Option<(f64, &'a PointReport)> {
    case.worst(|point| Some(point.lights.get(&light.id)?.power_w / length_m))
}

fn lies(case: &Case<'_>, light: &Light, length_m: f64, found: &mut Findings) {
    let Some(surface) = Site::noted(case.build, &light.id).filter(|_| !light.profile) else { return };
    let chars = matches!(surface, Surface::Foam | Surface::Fabric);
    if matches!(surface, Surface::PaintedMetal | Surface::BareMetal) {
        return;
    }
    let Some((watts, point)) = along(case, light, length_m).filter(|(watts, _)| above(*watts, MOST_W_PER_M)) else { return };
    let severity = if chars && above(watts, CHARS_W_PER_M) { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &STRIP_WARM, severity, subject: &light.id, point: Some(point), value: watts, limit: MOST_W_PER_M, excess: watts };
    found.add(draft, || Words {
        title: format!("{}: its heat stays in", light.id),
        message: format!(
            "`{}` takes {} {}, and lies on {}, which does not carry heat away.",
            light.id,
            plain(watts, "W/m"),
            moment(case.build, point),
            surface.called()
        ),
        advice: None,
        given: vec![quantity("L", "length", length_m, "m")],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(light) = case.build.lights.iter().find(|light| light.id == finding.subject) else { return Vec::new() };
    match (finding.code, &light.load) {
        ("strip.warm", _) => {
            let profile = propose(case.build, "Put it in a metal profile", |copy| {
                copy.lights.iter_mut().find(|one| one.id == light.id)?.profile = true;
                Some(())
            });
            let share = (10.0 * 0.95 * MOST_W_PER_M / finding.value).floor() / 10.0;
            profile.into_iter().chain((share > 0.0).then(|| dim(case, light, share)).flatten()).collect()
        }
        ("emitter.hot", Load::LedArray(array)) => {
            let Some((watts, _)) = emitter_w(case, light, array) else { return Vec::new() };
            let together = f64::from(array.on_one_sink.unwrap_or(1));
            let sink = SINKS_K_PER_W.into_iter().find(|sink| within(USUAL_C + watts * together * sink, WARM_C));
            let metal = sink.and_then(|sink| {
                propose(case.build, format!("Screw it to metal of {} or better", plain(sink, "K/W")), |copy| {
                    let Load::LedArray(array) = &mut copy.lights.iter_mut().find(|one| one.id == light.id)?.load else { return None };
                    array.sink_k_per_w = Some(sink);
                    Some(())
                })
            });
            metal.into_iter().chain(less_current(case, light, finding)).collect()
        }
        _ => Vec::new(),
    }
}

/// The light at a share of its brightness in every scene.
fn dim(case: &Case<'_>, light: &Light, share: f64) -> Option<Proposal> {
    propose(case.build, format!("Run it at {:.0} % of this brightness", 100.0 * share), |copy| {
        for lit in copy.scenes.iter_mut().filter_map(|scene| scene.lights.get_mut(&light.id)) {
            lit.level = (lit.level * share * 1000.0).round() / 1000.0;
        }
        put_before(copy, &light.id)
    })
}

/// The driver of a light at the next usual setting that leaves its emitters cool enough.
fn less_current(case: &Case<'_>, light: &Light, finding: &Finding) -> Option<Proposal> {
    let driver = driver_of(case.build, light)?;
    let most = driver.set_a()? * (WARM_C - USUAL_C) / (finding.value - USUAL_C);
    let set_a = DRIVER_A.into_iter().rev().find(|amps| within(*amps, most))?;
    propose(case.build, format!("Set its driver to {}", plain(set_a, "A")), |copy| {
        *copy.converters.iter_mut().find(|one| one.id == driver.id)?.conversion.setting_mut() = set_a;
        Some(())
    })
}
