//! One cause, one card: findings of one code that one change may mend stand together.

use super::case::*;
use orthavis_model::topology::Topology;

/// What a person reads as one thing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Card {
    /// Code of its findings.
    pub code: &'static str,
    /// How bad.
    pub severity: Severity,
    /// Subject of the first; with the code it names the card.
    pub subject: String,
    /// What is wrong in a few words, with every name.
    pub title: String,
    /// Its findings, by their place in the report.
    pub findings: Vec<usize>,
    /// The fault that it follows from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub follows: Option<Cause>,
    /// What only the person can do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub advice: Option<String>,
    /// Changes that clear all of it, best first.
    pub remedies: Vec<Remedy>,
}

/// Names that are read out one by one; more are counted.
const NAMED: usize = 3;

/// Cards in the order of their first findings; what follows from another fault comes right after it.
pub fn cards(build: &Build, findings: &[Finding]) -> Vec<Card> {
    let graph = Topology::of(build);
    let supplier = |subject: &str| graph.wire(subject).map(|wire| graph.supplier(graph.laid(wire)));
    let mut keys: Vec<Key<'_>> = Vec::new();
    let mut groups: Vec<Vec<usize>> = Vec::new();
    for (index, finding) in findings.iter().enumerate() {
        let key = key(&supplier, finding);
        match keys.iter().position(|known| *known == key) {
            Some(group) => groups[group].push(index),
            None => {
                keys.push(key);
                groups.push(vec![index]);
            }
        }
    }
    groups.into_iter().map(|group| card(findings, group)).collect()
}

/// What findings of one card have in common.
#[derive(PartialEq)]
struct Key<'a> {
    code: &'static str,
    severity: Severity,
    follows: Option<&'a Cause>,
    /// What else has to agree: the supplier, whether it is only while charging, the subject itself.
    cause: (Option<&'a str>, bool, Option<&'a str>),
}

fn key<'a>(supplier: &impl Fn(&str) -> Option<&'a str>, finding: &'a Finding) -> Key<'a> {
    let of = |cause| Key { code: finding.code, severity: finding.severity, follows: finding.follows.as_ref(), cause };
    if finding.follows.is_some() {
        return of((None, false, None));
    }
    let charging = finding.state == Some(State::Charging);
    match finding.code {
        "light.over_voltage" | "light.dark" | "light.dim" | "led.uneven" | "wire.drop" => of((supplier(&finding.subject), charging, None)),
        "fuse.missing" | "fuse.voltage" | "fuse.breaking" | "switch.voltage" => of((supplier(&finding.subject), false, None)),
        "frame.not_a_conductor"
        | "frame.medical"
        | "place.slack"
        | "place.plug"
        | "circuit.no_start"
        | "circuit.output_over"
        | "circuit.part_over"
        | "circuit.reverse_base"
        | "circuit.unsaturated"
        | "flash.fast"
        | "flash.red"
        | "chain.missing"
        | "dimmer.missing"
        | "emi.near"
        | "light.wet"
        | "polarity.open"
        | "strip.warm"
        | "surge.engine"
        | "holdup.inrush"
        | "holdup.short"
        | "fixing.drilled"
        | "fixing.fogs"
        | "fixing.for_good"
        | "fixing.lets_go"
        | "fixing.near_cells"
        | "fixing.tape_wet" => of((None, false, None)),
        _ => of((None, false, Some(&finding.subject))),
    }
}

fn card(findings: &[Finding], group: Vec<usize>) -> Card {
    let first = &findings[group[0]];
    let title = if group.len() == 1 {
        first.title.clone()
    } else {
        let names: Vec<&str> = group.iter().map(|index| findings[*index].subject.as_str()).collect();
        let who = if names.len() <= NAMED { and(&names) } else { format!("{} and {} more", names[..NAMED - 1].join(", "), names.len() + 1 - NAMED) };
        // A title begins with its subject, or names none.
        match first.title.strip_prefix(first.subject.as_str()) {
            Some(rest) => format!("{who}: {}", rest.trim_start_matches([':', ' '])),
            None => format!("{}: {who}", first.title),
        }
    };
    Card {
        code: first.code,
        severity: first.severity,
        subject: first.subject.clone(),
        title,
        findings: group,
        follows: first.follows.clone(),
        advice: None,
        remedies: Vec::new(),
    }
}

/// `a, b and c`.
pub(super) fn and(names: &[&str]) -> String {
    match names {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [most @ .., last] => format!("{} and {last}", most.join(", ")),
    }
}
