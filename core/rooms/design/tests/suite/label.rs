//! Labels as people type them: what each is taken as, what is asked, what is assumed.

use orthavis_design::label::{LabelRead, read};
use orthavis_model::document::{Chemistry, Source, VehicleKind, parse_value};
use orthavis_plan::propose::starter;
use proptest::prelude::*;

/// Label, likeliest supply, and what is asked: a table that was written by hand.
const TABLE: &str = include_str!("../../../../testing/labels.txt");

fn in_short(source: &Source) -> String {
    match source {
        Source::Battery(b) => {
            format!("{} {}s{}p {} Ah {} A {} h", b.chemistry.word(), b.series, b.parallel, b.capacity_ah, b.max_current_a, b.rated_hours)
        }
        Source::Rail(rail) => format!("rail {} V {} A", rail.voltage_v, rail.max_current_a),
        Source::Track(_) => "track".into(),
    }
}

fn asked(read: &LabelRead) -> String {
    match &read.question {
        None => String::new(),
        Some(question) if question.choices.is_empty() => question.says.clone(),
        Some(question) => question.choices.iter().map(|choice| in_short(&choice.source)).collect::<Vec<_>>().join("; "),
    }
}

#[test]
fn labels_are_read_as_they_are_printed() {
    let lines: Vec<&str> = TABLE.lines().filter(|line| !line.starts_with('#')).collect();
    assert!(lines.len() >= 150, "{}", lines.len());
    for line in lines {
        let [label, source, question] = &line.split('|').map(str::trim).chain(["", ""]).take(3).collect::<Vec<_>>()[..] else { unreachable!() };
        match read(label) {
            Err(_) => assert_eq!(*source, "unreadable", "{label}"),
            Ok(read) => {
                assert_eq!(
                    (&read.source.as_ref().map_or("none".to_owned(), in_short), &asked(&read)),
                    (&(*source).to_owned(), &(*question).to_owned()),
                    "{label}"
                );
                assert!(!read.understood.is_empty(), "{label}");
            }
        }
    }
}

/// What a limit hangs on is never taken silently.
#[test]
fn what_matters_to_a_limit_is_said_or_asked() {
    let said = |label: &str| read(label).unwrap_or_else(|_| panic!("{label}"));
    assert!(said("36V 14Ah li-ion").assumed.iter().any(|line| line.contains("at most 14 A")));
    assert!(said("36V 14Ah li-ion 20A").assumed.is_empty());
    assert!(said("3S1P 11.1 V 2200 mAh 30C").assumed.iter().any(|line| line.contains("lithium polymer")));
    assert!(said("USB").assumed.iter().any(|line| line.contains("1 A")));
    let open = said("36V 14Ah").question.expect("what is inside");
    assert!(open.choices.len() == 3 && open.says.contains("10 cells") && open.says.contains("12 cells") && open.says.ends_with('?'));
    let joined = said("2x 12V 50Ah AGM").question.expect("how they are joined");
    assert!(joined.choices[0].says.contains("series") && joined.choices[1].says.contains("parallel"));
}

proptest! {
    /// Whatever is typed: it is read or refused, and what is read is a supply that a build can have.
    #[test]
    fn anything_may_be_typed(text in "[0-9]{0,4}[.,]?[0-9]{0,3} ?[vVaAhHsSpPcCxX×mwW/]{0,4} ?(li-ion|AGM|AA|USB|LiFePO4|in series)? ?[0-9]{0,5} ?[mawhvcs]{0,3}") {
        if let Ok(found) = read(&text) {
            let choices = found.question.iter().flat_map(|question| &question.choices).map(|choice| &choice.source);
            for source in found.source.iter().chain(choices) {
                let mut build = starter("label", VehicleKind::Other, None, Chemistry::LiIon, 1, 1.0);
                build.source = source.clone();
                let fields = |source: &Source| match source {
                    Source::Battery(b) => b.series <= 400 && b.capacity_ah > 0.0 && b.capacity_ah <= 100_000.0 && b.max_current_a > 0.0,
                    Source::Rail(r) => r.voltage_v > 0.0 && r.max_current_a > 0.0,
                    Source::Track(_) => false,
                };
                prop_assert!(fields(source), "{text}: {}", in_short(source));
                prop_assert!(parse_value(&build.to_value()).is_ok(), "{text}: {}", in_short(source));
            }
        }
    }
}
