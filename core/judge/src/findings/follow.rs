//! What follows from another fault, by its figures: mend the cause and it is gone.

use super::case::*;
use orthavis_model::document::Load;
use orthavis_model::laws::led::DiodeString;
use orthavis_model::topology::{Node, Topology};

/// Faults that make a light draw more than it is made for.
const DRAWS_MORE: [&str; 4] = ["light.over_voltage", "led.no_resistor", "led.over_max", "led.over_rated"];
/// What too much current does on the way.
const CURRENTS: [&str; 10] = [
    "wire.ampacity",
    "fuse.nuisance",
    "switch.over",
    "contact.over",
    "source.over",
    "tap.over",
    "strip.rail_over",
    "converter.overload",
    "converter.near_limit",
    "converter.hot",
];
/// What too little voltage does at its end.
const STARVED: [&str; 5] = ["light.dark", "light.dim", "pixels.starved", "led.uneven", "strip.fade"];

/// Names the cause of each finding that has one among the others.
pub(super) fn trace(case: &Case<'_>, findings: &mut [Finding]) {
    let overdriven = overdriven(case.build, findings);
    let nearest: Vec<Option<Cause>> = findings.iter().map(|finding| cause_of(case, finding, findings, &overdriven)).collect();
    // A cause that itself follows from another is not a place to begin.
    let above = |cause: &Cause| findings.iter().position(|f| f.code == cause.code && f.subject == cause.subject).and_then(|index| nearest[index].clone());
    let root = |cause: Cause| std::iter::successors(Some(cause), above).take(4).last();
    let causes: Vec<Option<Cause>> = nearest.iter().cloned().map(|cause| cause.and_then(root)).collect();
    for (finding, cause) in findings.iter_mut().zip(causes) {
        finding.follows = cause;
    }
}

/// Lights that draw more than they are made for, each with the finding that says so.
fn overdriven<'a>(build: &Build, all: &'a [Finding]) -> Vec<(usize, &'a Finding)> {
    let at = |finding: &&Finding| DRAWS_MORE.iter().position(|code| *code == finding.code);
    let mut found: Vec<(usize, &Finding)> = Vec::new();
    for finding in all.iter().filter(|finding| at(finding).is_some()) {
        let Some(light) = build.lights.iter().position(|light| light.id == finding.subject) else { continue };
        match found.iter_mut().find(|(known, _)| *known == light) {
            Some((_, known)) if at(&finding) < at(&&**known) => *known = finding,
            Some(_) => {}
            None => found.push((light, finding)),
        }
    }
    found
}

fn cause_of(case: &Case<'_>, finding: &Finding, all: &[Finding], overdriven: &[(usize, &Finding)]) -> Option<Cause> {
    let found = |code: &str, subject: &str| all.iter().find(|other| other.code == code && other.subject == subject);
    let name = |other: &Finding| Cause { code: other.code, subject: other.subject.clone() };
    let point = case.points().find(|point| Some(&point.scene) == finding.scene.as_ref() && Some(point.state) == finding.state)?;
    // What a picture takes too much of its supply is mended in the picture.
    if matches!(finding.code, "converter.overload" | "converter.near_limit" | "source.over")
        && let Some(show) = all.iter().find(|other| other.code == "supply.limit" && super::show::feeds(case.build, &other.subject, &finding.subject))
    {
        return Some(name(show));
    }
    match finding.code {
        // A resistor that only the overdriven string overheats.
        "resistor.hot" => {
            let over = ["led.over_max", "led.over_rated"].iter().find_map(|code| found(code, &finding.subject))?;
            let light = case.build.lights.iter().find(|light| light.id == finding.subject)?;
            let Load::LedArray(array) = &light.load else { return None };
            let rated_w = array.resistor_a(array.led.if_a).powi(2) * array.resistor_ohm;
            within(rated_w, finding.limit).then(|| name(over))
        }
        // Strings without a resistor are overdriven because of that.
        "led.over_max" | "led.over_rated" => {
            let bare = found("led.no_resistor", &finding.subject);
            bare.or_else(|| passed_on(case, &finding.subject, all)).map(name)
        }
        "light.over_voltage" => passed_on(case, &finding.subject, all).map(name),
        code if CURRENTS.contains(&code) => {
            let (excess, worst) = overdrawn(case, finding, point, overdriven)?;
            within(finding.value - excess, finding.limit).then(|| name(worst))
        }
        code if STARVED.contains(&code) => {
            let light = case.build.lights.iter().find(|light| light.id == finding.subject)?;
            let off = suppliers(case.build, &light.feeds.first()?.from).into_iter().find(|id| point.converters.get(*id).is_some_and(|c| !c.on))?;
            found("converter.input_low", off).map(name)
        }
        _ => None,
    }
}

/// The step-up that lets its input through to a light.
fn passed_on<'a>(case: &Case<'_>, light: &str, all: &'a [Finding]) -> Option<&'a Finding> {
    let light = case.build.lights.iter().find(|known| known.id == light)?;
    let above = suppliers(case.build, &light.feeds.first()?.from);
    all.iter().find(|other| other.code == "converter.pass_through" && above.contains(&other.subject.as_str()))
}

/// Ids of the converters that feed what hangs on `from`, nearest first.
pub(super) fn suppliers<'a>(build: &'a Build, from: &str) -> Vec<&'a str> {
    let topology = Topology::of(build);
    let converters = topology.node(from).into_iter().flat_map(|node| topology.converters_above(node));
    converters.map(|converter| converter.id.as_str()).collect()
}

/// How much less would flow through a finding's subject at its point if overdriven lights drew what they are made
/// for, A or W, and the one that draws most too much.
fn overdrawn<'a>(case: &Case<'_>, finding: &Finding, point: &PointReport, overdriven: &[(usize, &'a Finding)]) -> Option<(f64, &'a Finding)> {
    let (mut sum, mut most, mut worst) = (0.0, 0.0, None);
    for &(index, fault) in overdriven {
        let light = &case.build.lights[index];
        let lit = case.lit(point, &light.id);
        let here = point.lights.get(&light.id)?;
        let rated_a = lit.level * rated_a(&light.load)?;
        let excess_a = here.current_a - rated_a;
        if excess_a <= 0.0 {
            continue;
        }
        let Some(share) = carried(case.build, finding, index) else { continue };
        // Heat in a converter goes with its current.
        let heat = if finding.code == "converter.hot" { point.converters.get(&finding.subject).map_or(0.0, |c| c.loss_w / c.out_a.max(1e-9)) } else { 1.0 };
        let excess = excess_a * share * heat;
        sum += excess;
        if excess > most {
            (most, worst) = (excess, Some(fault));
        }
    }
    worst.map(|worst| (sum, worst))
}

/// What a light draws when it gets what it is made for, A; of what draws the same at any voltage nothing is too much.
fn rated_a(load: &Load) -> Option<f64> {
    Some(match load {
        Load::LedArray(array) => f64::from(array.parallel) * array.led.if_a,
        Load::Strip(strip) => f64::from(strip.segments()) * DiodeString::of_segment(strip).if_a,
        Load::Module(module) => module.power_w / module.voltage_v,
        Load::Pixels(_) => return None,
    })
}

/// The share of a light's current that passes the subject; `None` where it does not, or a converter lies between.
fn carried(build: &Build, finding: &Finding, light: usize) -> Option<f64> {
    let topology = Topology::of(build);
    let part = &build.lights[light];
    if finding.subject == part.id && finding.code == "strip.rail_over" {
        return Some(1.0);
    }
    let count = part.feeds.len() as f64;
    let supplies = finding.code.starts_with("converter.") || finding.subject == "source";
    let own = topology.wires().filter(|wire| topology.to(*wire) == Node::Light(light));
    let through = own.filter(|wire| {
        let from = topology.from(*wire);
        if supplies {
            return topology.node(&finding.subject) == Some(topology.supply(from));
        }
        std::iter::once(*wire).chain(topology.leading_to(from)).any(|above| topology.feed(above).id == finding.subject)
    });
    let through = through.count() as f64;
    (through > 0.0).then_some(through / count)
}
