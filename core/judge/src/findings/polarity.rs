//! Plus and minus that can be swapped before something that dies of it.

use super::case::*;
use orthavis_model::document::{Draw, LoadKind};
use orthavis_model::edit::feed_mut;
use orthavis_model::topology::{Node, Wire};

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const POLARITY_OPEN: Check = Check {
    code: "polarity.open",
    step: Step::Wires,
    unit: "1",
    why: "Plugged in the wrong way round once, in the dark and in a hurry, it is dead before anyone sees a spark.",
    formula: "n_unkeyed = 0",
    rule: "A plug before what dies with plus and minus swapped goes together one way round only.",
    source: "Common practice; integrated circuits conduct backwards through their own protection diodes",
    mend: "Use a plug with a key, or a part that stands being swapped.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for wire in case.graph.wires().filter(|wire| case.graph.laid(*wire).keyed == Some(false)) {
        let dies = dies_behind(case, wire);
        let Some(first) = dies.first() else { continue };
        let (feed, count) = (case.graph.feed(wire), dies.len() as f64);
        let draft = Draft { check: &POLARITY_OPEN, severity: Severity::Note, subject: &feed.id, point: None, value: count, limit: 0.0, excess: count };
        found.add(draft, || Words {
            title: format!("{}: its plug goes together both ways round", feed.id),
            message: format!(
                "The plug or terminal in the wire to `{}` can be joined with plus and minus swapped; `{first}`{} would not outlive that.",
                feed.id,
                if dies.len() > 1 { format!(" and {} more", dies.len() - 1) } else { String::new() }
            ),
            advice: Some("Where the plug has to stay: a diode in plus before it, or a fuse with a clamp behind it, saves what hangs on it. Mark both halves in any case."),
            given: vec![],
        });
    }
}

/// Ids of what is fed through a wire, converters included but not what hangs on them, and dies with its poles swapped.
fn dies_behind<'a>(case: &Case<'a>, wire: Wire) -> Vec<&'a str> {
    let build = case.build;
    let (mut dies, mut next) = (Vec::new(), vec![case.graph.to(wire)]);
    while let Some(node) = next.pop() {
        let stands = match node {
            Node::Light(at) => stands_swapped(&build.lights[at]),
            Node::Converter(at) => build.converters[at].reverse_ok.unwrap_or(false),
            Node::Controller(at) => build.controllers[at].reverse_ok.unwrap_or(false),
            Node::Circuit(_) => false,
            Node::Source | Node::Junction(_) => true,
        };
        if !stands {
            dies.push(case.graph.id(node));
        }
        if node.passes() {
            next.extend(case.graph.hanging(node).iter().map(|below| case.graph.to(*below)));
        }
    }
    dies.sort_unstable();
    dies.dedup();
    dies
}

/// LEDs stay dark and filaments do not mind; chips die.
fn stands_swapped(light: &Light) -> bool {
    let filament = matches!(&light.load, Load::Module(module) if module.draw == Draw::Filament);
    light.reverse_ok.unwrap_or(filament || light.load.kind() == LoadKind::LedArray)
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "polarity.open" {
        return Vec::new();
    }
    let keyed = propose(case.build, "Use a plug that goes together one way round only", |copy| {
        let feed = feed_mut(copy, &finding.subject)?;
        feed.keyed = Some(true);
        feed.contacts = feed.contacts.max(1);
        Some(())
    });
    keyed.into_iter().collect()
}
