//! Wires that carry too much, or lose too much voltage.

use super::case::*;
use orthavis_model::document::{Consumer, Gauge, Light, Return};
use orthavis_model::edit::feed_mut;
use orthavis_model::practice::{DROP_EASY, DROP_MOST, OVER_AMPACITY};
use orthavis_model::topology::Topology;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const WIRE_AMPACITY: Check = Check {
    code: "wire.ampacity",
    step: Step::Wires,
    unit: "A",
    why: "An overloaded wire softens its insulation, shorts and can start a fire, often where nobody sees it.",
    formula: "I ≤ I_ampacity · k_bundle",
    rule: "A wire carries no more than its ampacity, less in a bundle.",
    source: "Representative ampacities, PVC 80 °C in 30 °C free air",
    mend: "Use thicker wire, or draw less through it.",
    figures: &[],
};

pub(super) const WIRE_DROP: Check = Check {
    code: "wire.drop",
    step: Step::Wires,
    unit: "1",
    why: "What is lost on the way heats the wire and dims the light; behind a step-up it also pulls more current.",
    formula: "ΔV / V = (V_start − V_end) / V_start",
    rule: "Keep the loss to {0%} where it is easy, and under {1%} always. Count the way out and the way back.",
    source: "R = ρ·L/A with IEC 60028 copper at 20 °C; budgets by common practice",
    mend: "Use thicker or shorter wire, or a higher voltage up to the light.",
    figures: &[DROP_EASY, DROP_MOST],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for feed in case.build.feeds() {
        let ampacity = case.build.ampacity_a(&feed);
        // A measured frame is not a wire; without a measurement it was solved as one.
        let framed = feed.feed.return_path == Return::Frame && case.build.vehicle.frame_return_ohm.is_some();
        let carried = |point: &PointReport| {
            let here = point.feeds.get(&feed.id)?;
            Some(here.current_a.abs().max(if framed { 0.0 } else { here.back_a.abs() }))
        };
        if let Some((current, point)) = case.worst_peak(carried).filter(|(current, _)| above(*current, ampacity)) {
            over(case, &feed, current, ampacity, point, found);
        }
        // What a circuit drops on purpose is no loss of a wire.
        let behind = case.build.circuits.iter().any(|circuit| circuit.id == feed.feed.from);
        if behind || feed.number > 0 || matches!(feed.consumer, Consumer::Junction(_) | Consumer::Circuit(_)) {
            continue;
        }
        let supply = case.graph.supplier(feed.feed);
        for point in case.peaks() {
            let end_v = match feed.consumer {
                Consumer::Light(_) => point.lights.get(&feed.id).map(|l| l.voltage_v),
                _ => point.converters.get(&feed.id).map(|c| c.in_v),
            };
            let start_v = match supply {
                "source" => Some(point.source.terminal_v),
                id => point.converters.get(id).filter(|c| c.on).map(|c| c.out_v),
            };
            if let (Some(end_v), Some(start_v)) = (end_v, start_v.filter(|v| *v > 1e-6)) {
                drop(case, &feed.id, start_v, end_v, point, found);
            }
        }
    }
}

fn over(case: &Case<'_>, feed: &orthavis_model::document::FeedRef<'_>, current: f64, ampacity: f64, point: &PointReport, found: &mut Findings) {
    let severity = if above(current, OVER_AMPACITY * ampacity) { Severity::Stop } else { Severity::Fix };
    let here = point.feeds.get(&feed.id);
    // Where feeds share a strip, more may come back through a wire than went out through its twin.
    let back = here.is_some_and(|here| here.back_a.abs() > here.current_a.abs() * (1.0 + 1e-6));
    let reverse = here.is_some_and(|here| if back { here.back_a < 0.0 } else { here.current_a < 0.0 });
    let draft = Draft { check: &WIRE_AMPACITY, severity, subject: &feed.id, point: Some(point), value: current, limit: ampacity, excess: current };
    found.add(draft, || Words {
        title: format!("{}: wire too thin", feed.id),
        message: format!(
            "The {} {} of `{}` carries {}{} {}; {} it may carry {}.",
            feed.feed.gauge.name(),
            if back { "minus wire" } else { "wire" },
            feed.id,
            plain(current, "A"),
            if reverse { " the wrong way round" } else { "" },
            moment(case.build, point),
            match (feed.feed.bundled > 1, case.build.is_hot(feed.consumer)) {
                (true, true) => "bundled with others, in a hot place,",
                (true, false) => "bundled with others",
                (false, true) => "in a hot place",
                (false, false) => "in free air",
            },
            plain(ampacity, "A")
        ),
        advice: None,
        given: vec![
            quantity("A", "cross-section", feed.feed.gauge.area_mm2(), "mm²"),
            quantity("n", "circuits in the bundle", f64::from(feed.feed.bundled), "1"),
        ],
    });
}

fn drop(case: &Case<'_>, id: &str, start_v: f64, end_v: f64, point: &PointReport, found: &mut Findings) {
    let share = (start_v - end_v) / start_v;
    let (severity, limit) = match share {
        _ if above(share, DROP_MOST) => (Severity::Fix, DROP_MOST),
        _ if above(share, DROP_EASY) => (Severity::Note, DROP_EASY),
        _ => return,
    };
    let draft = Draft { check: &WIRE_DROP, severity, subject: id, point: Some(point), value: share, limit, excess: share };
    found.add(draft, || Words {
        title: format!("{id}: voltage lost on the way"),
        message: format!(
            "Of {} only {} reach `{id}` {}: {:.1} % are lost in wire, fuse, switch and plugs.",
            plain(start_v, "V"),
            plain(end_v, "V"),
            moment(case.build, point),
            100.0 * share
        ),
        advice: None,
        given: vec![quantity("V_start", "at the supply", start_v, "V"), quantity("V_end", "at the consumer", end_v, "V")],
    });
}

/// Steps of thicker wire for one feed, up to `steps` sizes.
pub(super) fn thicker_feed(build: &Build, id: &str, steps: usize) -> Vec<Proposal> {
    let Some(feed) = build.feed(id) else { return Vec::new() };
    let sizes = feed.feed.gauge.thicker();
    sizes.into_iter().take(steps).filter_map(|gauge| propose(build, format!("Use {} wire", gauge.name()), |copy| set_gauge(copy, id, gauge))).collect()
}

fn set_gauge(build: &mut Build, id: &str, gauge: Gauge) -> Option<()> {
    feed_mut(build, id)?.gauge = gauge;
    Some(())
}

/// Every wire between the supplying converter or source and a light, one to three sizes thicker.
pub(super) fn thicker_path(case: &Case<'_>, light: &Light) -> Vec<Proposal> {
    (1..=3).filter_map(|steps| thicken_path(case.build, &light.id, steps)).collect()
}

fn thicken_path(build: &Build, id: &str, steps: usize) -> Option<Proposal> {
    propose(build, format!("Use wire {steps} {} thicker all the way", if steps == 1 { "size" } else { "sizes" }), |copy| {
        let mut ids: Vec<String> = build.feeds().into_iter().filter(|feed| feed.id == id || feed.id.starts_with(&format!("{id}#"))).map(|f| f.id).collect();
        let topology = Topology::of(build);
        ids.extend(topology.leading_to(topology.node(&build.feed(id)?.feed.from)?).map(|wire| topology.feed(wire).id.clone()));
        for id in ids {
            let gauge = build.feed(&id)?.feed.gauge;
            if let Some(size) = gauge.thicker().into_iter().take(steps).next_back() {
                set_gauge(copy, &id, size)?;
            }
        }
        Some(())
    })
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let id = finding.subject.as_str();
    match finding.code {
        "wire.ampacity" => {
            let Some(feed) = case.build.feed(id) else { return Vec::new() };
            let gauge = feed.feed.gauge.thicker().into_iter().find(|g| g.ampacity_a(feed.feed.bundled) * case.build.heat_share(feed.consumer) >= finding.value);
            let thicker = gauge.and_then(|gauge| propose(case.build, format!("Use {} wire", gauge.name()), |copy| set_gauge(copy, id, gauge)));
            let apart = propose(case.build, "Run it apart from the others", |copy| {
                feed_mut(copy, id)?.bundled = 1;
                Some(())
            });
            thicker.into_iter().chain(apart).collect()
        }
        "wire.drop" => {
            // What the wire itself loses falls with its resistance; sizes that cannot be enough are not tried.
            let limit = if finding.severity == Severity::Note { DROP_EASY } else { DROP_MOST };
            let ohm = |gauge: Gauge| gauge.ohm(1.0);
            let enough = |gauge: &Gauge| case.build.feed(id).is_some_and(|feed| finding.value * ohm(*gauge) / ohm(feed.feed.gauge) <= limit);
            let mut proposals = Vec::new();
            if let Some(feed) = case.build.feed(id) {
                for gauge in feed.feed.gauge.thicker().into_iter().filter(enough).take(3) {
                    proposals.extend(propose(case.build, format!("Use {} wire", gauge.name()), |copy| set_gauge(copy, id, gauge)));
                }
            }
            proposals.extend((1..=5).filter_map(|steps| thicken_path(case.build, id, steps)));
            proposals
        }
        _ => Vec::new(),
    }
}
