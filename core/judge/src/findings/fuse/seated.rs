//! Where a fuse sits: at the supply, and in plus.

use super::super::case::*;
use orthavis_model::document::{Battery, Feed, Fuse, FuseSide, Return, Source};
use orthavis_model::edit::feed_mut;
use orthavis_model::laws::wire::{PVC_ALWAYS_C, PVC_HOURS_C};
use orthavis_model::topology::Wire;
use orthavis_model::working::plain;
use orthavis_physics::protection::{limiter_above, most_fault_a};

pub(in super::super) const FUSE_FAR: Check = Check {
    code: "fuse.far",
    step: Step::Wires,
    unit: "m",
    why: "A fuse protects what comes after it. The wire between battery and fuse has nothing: where it is pinched it gives all that the battery has.",
    formula: "L_before ≤ {0} m",
    rule: "A fuse sits within a hand's width of the supply's plus: no more than {0} m of wire before it.",
    source: "ISO 10133 and ISO 13297 for small craft ask for 0.2 m; common practice elsewhere",
    mend: "Put the fuse at the supply.",
    figures: &[HAND_M],
};

pub(in super::super) const FUSE_MINUS: Check = Check {
    code: "fuse.minus",
    step: Step::Wires,
    unit: "1",
    why: "A fuse in minus does not see a short from plus to the frame, and after it has opened everything behind it still has the battery's plus.",
    formula: "side = plus",
    rule: "A fuse sits in plus.",
    source: "Common practice with one earthed or framed pole",
    mend: "Put the fuse into plus.",
    figures: &[],
};

/// Wire that may go unprotected to a fuse, m.
const HAND_M: f64 = 0.2;

pub(super) fn find(case: &Case<'_>, wire: Wire, fuse: &Fuse, found: &mut Findings) {
    if fuse.side == Some(FuseSide::Minus) { minus(case, wire, found) } else { far(case, wire, fuse, found) }
}

/// Whether minus is the frame: a short to it closes the circuit.
fn framed(case: &Case<'_>) -> bool {
    case.build.vehicle.frame_return_ohm.is_some() || case.graph.wires().any(|wire| case.graph.laid(wire).return_path == Return::Frame)
}

fn minus(case: &Case<'_>, wire: Wire, found: &mut Findings) {
    let id = &case.graph.feed(wire).id;
    let severity = if framed(case) { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &FUSE_MINUS, severity, subject: id, point: None, value: 1.0, limit: 0.0, excess: 1.0 };
    found.add(draft, || Words {
        title: format!("{id}: its fuse is in minus"),
        message: if severity == Severity::Stop {
            format!("The fuse in the wire to `{id}` sits in minus, and the frame is minus too: it cannot see a short from plus to the frame.")
        } else {
            format!("The fuse in the wire to `{id}` sits in minus: after it has opened, everything behind it still carries the battery's plus.")
        },
        advice: None,
        given: vec![],
    });
}

fn far(case: &Case<'_>, wire: Wire, fuse: &Fuse, found: &mut Findings) {
    let (feed, graph) = (case.graph.feed(wire), &case.graph);
    let Some(at_m) = fuse.at_m.filter(|at_m| above(*at_m, HAND_M)) else { return };
    // A fuse further up protects the piece before this one.
    if graph.leading_a_short_to(graph.from(wire)).any(|above| graph.laid(above).fuse.is_some()) {
        return;
    }
    let bare = Feed { length_m: at_m, fuse: None, ..feed.feed.clone() };
    let fault = most_fault_a(graph, &bare);
    let degrees = bare.gauge.settled_c(bare.bundled, fault);
    let strong = matches!(&case.build.source, Source::Battery(battery) if !Battery::is_harmless(battery)) && limiter_above(graph, feed.feed).is_none();
    if !strong && within(degrees, PVC_ALWAYS_C) {
        return;
    }
    let severity = if above(degrees, PVC_HOURS_C) && framed(case) { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &FUSE_FAR, severity, subject: &feed.id, point: None, value: at_m, limit: HAND_M, excess: at_m };
    found.add(draft, || Words {
        title: format!("{}: wire before its fuse", feed.id),
        message: format!("{} of wire lie before the fuse of `{}`; a pinch there carries {}, and nothing opens.", plain(at_m, "m"), feed.id, plain(fault, "A")),
        advice: None,
        given: vec![quantity("I_fault", "short right before the fuse", fault, "A"), quantity("θ", "the wire there in the end", degrees, "°C")],
    });
}

pub(super) fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let moved = |title: &str, change: fn(&mut Fuse)| {
        propose(case.build, title, |copy| {
            change(feed_mut(copy, &finding.subject)?.fuse.as_mut()?);
            Some(())
        })
    };
    let proposal = match finding.code {
        "fuse.far" => moved("Put the fuse at the supply", |fuse| fuse.at_m = None),
        "fuse.minus" => moved("Put the fuse into plus", |fuse| fuse.side = None),
        _ => None,
    };
    proposal.into_iter().collect()
}
