//! Choices of kinds, moments and days: laws that hold for all of them.

use orthavis_model::document::tables::{CHOICES, Placing, TABLES, field, word_lists};
use orthavis_model::document::{Conversion, Direction, EffectKind, PixelEffect, ShowInput};
use orthavis_model::laws::effect::Inputs;
use orthavis_model::moment::{DAY_S, Moment, date_of, day_of};
use proptest::prelude::*;
use std::collections::BTreeSet;

#[test]
fn every_choice_names_a_list_of_words_and_records_that_there_are() {
    for choice in CHOICES {
        let list = word_lists().into_iter().find(|list| list.name == choice.kind).unwrap_or_else(|| panic!("{} has no words", choice.name));
        let words: BTreeSet<&str> = list.words.iter().map(|(word, _)| *word).collect();
        assert_eq!(choice.kinds.iter().map(|(word, _)| *word).collect::<BTreeSet<_>>(), words, "{}", choice.name);
        for (word, record) in choice.kinds {
            assert!(TABLES.iter().any(|table| table.name == *record), "{} {word}: {record} has no table", choice.name);
            assert_eq!(choice.record(word), Some(*record));
        }
        match choice.place {
            Placing::Own => {}
            // The object that holds it has a field of that type.
            Placing::Among(holder) => {
                assert!(TABLES.iter().any(|table| table.name == holder && table.fields.iter().any(|field| field.item() == choice.name)), "{}", choice.name);
            }
            Placing::Beside(content) => assert!(TABLES.iter().any(|table| field(table.name, content).is_some_and(|field| field.item() == choice.name))),
        }
        assert_eq!(choice.record("clockwork"), None);
    }
}

/// What two kinds both have means the same in both: unit, range and words.
#[test]
fn kinds_say_the_same_of_what_they_share() {
    for choice in CHOICES {
        let all = choice.kinds.iter().flat_map(|(_, record)| TABLES.iter().filter(move |table| table.name == *record)).flat_map(|table| table.fields);
        let all: Vec<_> = all.filter(|field| !field.rule.carried && field.name != "length_m").collect();
        for (at, one) in all.iter().enumerate() {
            for other in all[..at].iter().filter(|other| other.name == one.name && choice.name != "Source" && choice.name != "Load") {
                let said = |field: &orthavis_model::document::field::Field| (field.rule.range.unit, field.rule.range.max, field.rule.shown, field.shape);
                assert_eq!(said(one), said(other), "{} of {}", one.name, choice.name);
            }
        }
    }
}

fn conversion() -> impl Strategy<Value = Conversion> {
    (0.5..60.0f64, 0.0..3.0f64, 0.05..1.0f64, 0usize..5).prop_map(|(set, drop, share, kind)| match kind {
        0 => Conversion::step_down(set, share),
        1 => Conversion::step_up(set, share),
        2 => Conversion::step_up_down(set, share),
        3 => Conversion::linear(set, drop),
        _ => Conversion::driver(set / 20.0, drop, share),
    })
}

proptest! {
    /// More voltage in never gives less out; what steps down gives no more than it gets, what steps up no less than it is set to.
    #[test]
    fn a_converter_gives_more_for_more(own in conversion(), vin in 0.0..80.0f64, more in 0.0..20.0f64) {
        let (low, high) = (own.output_v(vin), own.output_v(vin + more));
        prop_assert!(high.value >= low.value - 1e-12 && low.value >= 0.0);
        match &own {
            Conversion::Buck(_) | Conversion::Linear(_) | Conversion::CurrentDriver(_) => prop_assert!(low.value <= vin),
            Conversion::Boost(own) => prop_assert!(low.value >= own.set_v),
            Conversion::BuckBoost(own) => prop_assert_eq!(low.value, own.set_v),
        }
        let mut turned = own.clone();
        *turned.setting_mut() *= 2.0;
        prop_assert_eq!(turned.kind(), own.kind());
        prop_assert_eq!(own.efficiency().is_none(), matches!(own, Conversion::Linear(_)));
    }

    /// A day is the one after the day before it, whichever calendar it is counted in.
    #[test]
    fn days_follow_each_other(day in -700_000i64..2_900_000) {
        let (one, next) = (date_of(day), date_of(day + 1));
        prop_assert_eq!((day_of(&one), day_of(&next)), (Some(day), Some(day + 1)));
        prop_assert!(one < next, "{} before {}", one, next);
        let number = |date: &str| -> (i64, u32, u32) { (date[..4].parse().expect("a year"), date[5..7].parse().expect("a month"), date[8..].parse().expect("a day")) };
        let ((year, month, of_month), (next_year, next_month, next_of_month)) = (number(&one), number(&next));
        let last = match month { 2 => 28 + u32::from(year % 4 == 0 && (year % 100 != 0 || year % 400 == 0)), 4 | 6 | 9 | 11 => 30, _ => 31 };
        let expected = if of_month < last { (year, month, of_month + 1) } else if month < 12 { (year, month + 1, 1) } else { (year + 1, 1, 1) };
        prop_assert_eq!((next_year, next_month, next_of_month), expected);
    }

    /// A moment is read back as it was written, and an hour is an hour wherever it is.
    #[test]
    fn a_moment_reads_back(s in -2_000_000_000i64..4_000_000_000, quarters in -56i64..57) {
        let there = Moment { s, offset_s: 900 * quarters };
        prop_assert_eq!(Moment::parse(&there.text()), Some(there));
        prop_assert_eq!((there.later(DAY_S).day(), there.later(DAY_S).of_day_s()), (there.day() + 1, there.of_day_s()));
        prop_assert_eq!(DAY_S * there.day() + there.of_day_s(), s + there.offset_s);
    }
}

#[test]
fn an_effect_says_what_it_follows_and_whether_it_moves() {
    let moving: Vec<EffectKind> = EffectKind::WORDS
        .iter()
        .map(|(_, kind)| *kind)
        .filter(|kind| !matches!(kind, EffectKind::Steady | EffectKind::Level | EffectKind::Mix | EffectKind::Table))
        .collect();
    let red = Some(vec![[1.0, 0.0, 0.0]]);
    let chase: PixelEffect = orthavis_model::document::ChaseEffect { period_s: 2.0, colours: red.clone(), spread: 3.0, direction: Direction::Towards }.into();
    let level: PixelEffect = orthavis_model::document::LevelEffect { colours: red, input: ShowInput::Speed }.into();
    assert!(moving.contains(&chase.kind()) && chase.moves() && chase.input().is_none() && chase.period_s() == Some(2.0));
    assert!(!moving.contains(&level.kind()) && !level.moves() && level.input() == Some(ShowInput::Speed) && level.period_s().is_none());
    // Towards the controller the spot is at the first pixel when away from it at the last.
    let lit = |effect: &PixelEffect, time_s: f64| (0..8).map(|pixel| effect.colour(pixel, 8, time_s, &Inputs::default())[0]).collect::<Vec<f64>>();
    let brightest = |time_s: f64| lit(&chase, time_s).iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).map(|(pixel, _)| pixel);
    assert!(brightest(0.25) > brightest(0.75) && brightest(0.75) > brightest(1.25), "it runs towards the first");
}
