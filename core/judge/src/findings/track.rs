//! A track whose polarity turns over: what has a plus and a minus needs a bridge before it.

use super::case::*;
use orthavis_model::document::{Build, CircuitKind, Feed, SmallCircuit, Source, TrackWave};
use orthavis_model::topology::Topology;
use orthavis_physics::protection::way;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const TRACK_POLARISED: Check = Check {
    code: "track.polarised",
    step: Step::Power,
    unit: "1",
    why: "The track turns its polarity over many times a second: what is made for one polarity conducts backwards, gets hot and can burst.",
    formula: "n_bridge ≥ 1",
    rule: "What has a plus and a minus hangs on a digital or alternating track through a bridge.",
    source: "Electrolytic capacitors and electronics stand one polarity",
    mend: "Put a bridge of four diodes before it.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    let build = case.build;
    let Source::Track(track) = &build.source else { return };
    if track.wave == TrackWave::Dc {
        return;
    }
    for (subject, what, why) in polarised(build) {
        let draft = Draft { check: &TRACK_POLARISED, severity: Severity::Stop, subject, point: None, value: 0.0, limit: 1.0, excess: 1.0 };
        found.add(draft, || Words {
            title: format!("{subject}: {what} on a track that turns its polarity over"),
            message: format!("`{subject}` hangs on a {} track without a bridge: {why}.", track.wave.called()),
            advice: Some("A keep-alight circuit with a bridge turns the track's current into direct current for all that hangs behind it."),
            given: vec![],
        });
    }
}

fn is_bridged(circuit: &SmallCircuit) -> bool {
    circuit.hold_up().is_some_and(|parts| parts.bridge)
}

/// Parts with a plus and a minus that no bridge protects: id, what it is, what happens.
fn polarised(build: &Build) -> Vec<(&str, &'static str, &'static str)> {
    let bridges = |id: &str| build.circuits.iter().any(|circuit| circuit.id == id && is_bridged(circuit));
    let graph = Topology::of(build);
    let bare = |feed: &Feed| !way(&graph, feed).any(|feed| bridges(&feed.from)) && graph.supplier(feed) == "source";
    let circuits = build.circuits.iter().filter(|circuit| !is_bridged(circuit) && bare(&circuit.feed)).map(|circuit| {
        let (what, why) = match circuit.kind() {
            CircuitKind::HoldUp => ("a capacitor", "its electrolytic capacitor is charged backwards half of the time, gets hot and can burst"),
            CircuitKind::BatteryGauge => ("a gauge", "its base breaks down backwards, and what it shows means nothing"),
            _ => ("a circuit with a plus and a minus", "its parts conduct backwards half of the time and get hot"),
        };
        (circuit.id.as_str(), what, why)
    });
    let lights = build.lights.iter().filter(|light| light.feeds.iter().any(bare)).filter_map(|light| {
        let (what, why) = match &light.load {
            Load::Strip(_) => ("a strip", "its LEDs take the whole voltage backwards half of the time, which ages them fast, and they flicker"),
            Load::Pixels(_) => ("pixels", "their chips conduct backwards half of the time, and burn"),
            Load::LedArray(_) | Load::Module(_) => return None,
        };
        Some((light.id.as_str(), what, why))
    });
    circuits.chain(lights).collect()
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "track.polarised" {
        return Vec::new();
    }
    let id = finding.subject.as_str();
    let bridge = propose(case.build, "Put a bridge before it", |copy| {
        copy.circuits.iter_mut().find(|circuit| circuit.id == id)?.hold_up_mut()?.bridge = true;
        Some(())
    });
    let before = super::soldered::held_up(case, id, true);
    let without = propose(case.build, "Leave the gauge out: it shows a battery, and here is none", |copy| {
        let at = copy.circuits.iter().position(|circuit| circuit.id == id && circuit.kind() == CircuitKind::BatteryGauge && circuit.drives.is_empty())?;
        copy.circuits.remove(at);
        Some(())
    });
    bridge.into_iter().chain(before).chain(without).collect()
}
