//! Laws of what knows nothing of builds: dates, calendars, tables, dice, budgets.

use orthavis_model::budget::{self, Budget, Stopped};
use orthavis_model::chance::Dice;
use orthavis_model::icalendar::{Entry, Span, file};
use orthavis_model::moment::{DAY_S, Moment, date_of, day_of};
use orthavis_model::table::{Cell, Table};
use proptest::prelude::*;
use std::sync::atomic::{AtomicU64, Ordering};

/// Any words, with what files have their own use for.
fn words() -> impl Strategy<Value = String> {
    "[a-zäßλ ,;:\\\\\"\n'=+@-]{0,120}"
}

/// Lines of a calendar put together again where they were folded.
fn unfolded(file: &str) -> Vec<String> {
    file.replace("\r\n ", "").split("\r\n").filter(|line| !line.is_empty()).map(str::to_owned).collect()
}

/// What RFC 5545 makes of an escaped text.
fn unescaped(text: &str) -> String {
    let (mut out, mut letters) = (String::new(), text.chars());
    while let Some(letter) = letters.next() {
        match (letter, letter == '\\') {
            (_, true) => match letters.next() {
                Some('n') => out.push('\n'),
                Some(other) => out.push(other),
                None => {}
            },
            (letter, false) => out.push(letter),
        }
    }
    out
}

proptest! {
    /// A day is written and read back, and the day after it is the next.
    #[test]
    fn a_day_is_read_back(days in -700_000i64..2_000_000) {
        let date = date_of(days);
        prop_assert_eq!(day_of(&date), Some(days), "{}", date);
        prop_assert!(date_of(days + 1) > date, "{} then {}", date, date_of(days + 1));
        prop_assert_eq!(date.len(), 10);
    }

    /// A moment is written and read back, wherever its clock is, and keeps its order.
    #[test]
    fn a_moment_is_read_back(s in 0i64..4_000_000_000, quarters in -48i64..=56, later in 0i64..10_000_000) {
        let moment = Moment { s, offset_s: 900 * quarters };
        prop_assert_eq!(Moment::parse(&moment.text()), Some(moment), "{}", moment.text());
        prop_assert_eq!(moment.day() * DAY_S + moment.of_day_s(), s + moment.offset_s);
        prop_assert_eq!(day_of(&moment.date()), Some(moment.day()));
        let after = moment.later(later);
        prop_assert!(after >= moment && after.s - moment.s == later && after.offset_s == moment.offset_s);
    }

    /// A calendar says what it was given, and no line of it is longer than 75 octets.
    #[test]
    fn a_calendar_says_what_it_was_given(all in prop::collection::vec((words(), words(), any::<bool>()), 0..5)) {
        let entries: Vec<Entry> = all
            .iter()
            .enumerate()
            .map(|(at, (summary, words, whole_day))| Entry {
                uid: format!("entry-{at}"),
                span: if *whole_day {
                    Span::Day("20261127".into(), "20261128".into())
                } else {
                    Span::Times("20261127T180000".into(), "20261127T190000".into())
                },
                summary: summary.clone(),
                words: words.clone(),
            })
            .collect();
        let text = file("work", "20261127T180000Z", &entries);
        prop_assert!(text.split("\r\n").all(|line| line.len() <= 75 && !line.contains('\n')), "{}", text);
        let lines = unfolded(&text);
        let of = |name: &str| lines.iter().filter_map(|line| line.strip_prefix(name)).map(unescaped).collect::<Vec<_>>();
        prop_assert_eq!(of("SUMMARY:"), all.iter().map(|one| one.0.clone()).collect::<Vec<_>>());
        prop_assert_eq!(of("DESCRIPTION:"), all.iter().map(|one| one.1.clone()).collect::<Vec<_>>());
        prop_assert_eq!(of("BEGIN:VEVENT").len(), all.len());
        prop_assert_eq!(of("DTSTART;VALUE=DATE:").len(), all.iter().filter(|one| one.2).count());
        prop_assert_eq!((lines.first().map(String::as_str), lines.last().map(String::as_str)), (Some("BEGIN:VCALENDAR"), Some("END:VCALENDAR")));
    }

    /// A table is read back by any reader of its format, and nothing in it is run as a formula.
    #[test]
    fn a_table_is_read_back(rows in prop::collection::vec((words(), -1e6f64..1e6, any::<bool>()), 0..12)) {
        let mut table = Table::new("any", "Any", &[("what", "What", ""), ("figure", "Figure", "V"), ("rest", "Rest", "")]);
        for (text, figure, there) in &rows {
            table.rows.push(vec![text.as_str().into(), (*figure).into(), there.then_some(1.0).into()]);
        }
        let text = table.csv();
        let mut reader = csv::Reader::from_reader(text.as_bytes());
        prop_assert_eq!(reader.headers().expect("a head").iter().collect::<Vec<_>>(), ["what", "figure", "rest"]);
        let read: Vec<csv::StringRecord> = reader.records().map(|record| record.expect("a line")).collect();
        prop_assert_eq!(read.len(), rows.len());
        for (record, (text, figure, there)) in read.iter().zip(&rows) {
            prop_assert!(!record[0].starts_with(['=', '+', '-', '@', '\t', '\r']), "{}", &record[0]);
            prop_assert_eq!(record[0].strip_prefix('\'').filter(|_| !text.starts_with('\'')).unwrap_or(&record[0]), text.as_str());
            prop_assert_eq!(record[1].parse::<f64>().expect("a number"), *figure);
            prop_assert_eq!(&record[2], if *there { "1" } else { "" });
        }
        prop_assert_eq!(Cell::from(None::<f64>), Cell::Empty);
    }

    /// The same seed gives the same, each figure lies where it should, and none of them is far off in the mean.
    #[test]
    fn dice_are_fair_and_the_same_again(seed in any::<u64>(), most in 1usize..50, low in -5.0f64..5.0, wide in 0.1f64..10.0) {
        let (mut one, mut other) = (Dice::new(seed), Dice::new(seed));
        let rolls: Vec<usize> = (0..400).map(|_| one.below(most)).collect();
        prop_assert!(rolls.iter().all(|roll| *roll < most));
        prop_assert!(rolls.iter().copied().eq((0..400).map(|_| other.below(most))));
        let between: Vec<f64> = (0..400).map(|_| one.between(low, low + wide)).collect();
        prop_assert!(between.iter().all(|value| (low..=low + wide).contains(value)));
        let mean = between.iter().sum::<f64>() / 400.0;
        prop_assert!((mean - low - 0.5 * wide).abs() < 0.1 * wide, "{mean}");
        let normal: Vec<f64> = (0..1000).map(|_| one.normal()).collect();
        let square = normal.iter().map(|value| value * value).sum::<f64>() / 1000.0;
        prop_assert!((0.75..1.3).contains(&square), "{square}");
    }

    /// A budget gives what it has and no step more, whoever spends it.
    #[test]
    fn a_budget_is_spent_once(steps in 1u64..1000, spends in prop::collection::vec(1u64..200, 1..30)) {
        let budget = Budget::new(steps);
        let mut left = steps;
        budget::run(Some(budget.clone()), || -> Result<(), TestCaseError> {
            for spend in spends {
                let enough = left >= spend;
                prop_assert_eq!(budget::spend(spend), if enough { Ok(()) } else { Err(Stopped::TooMuch) });
                left = left.saturating_sub(spend);
                prop_assert_eq!(budget::stopped(), (left == 0).then_some(Stopped::TooMuch));
            }
            Ok(())
        })?;
        // Outside nothing is counted.
        prop_assert_eq!((budget::spend(u64::MAX), budget::stopped()), (Ok(()), None));
        budget.call_off();
        prop_assert_eq!(budget::run(Some(budget), || budget::spend(1)), Err(Stopped::CalledOff));
    }
}

#[test]
fn who_listens_hears_of_progress_and_the_budget_before_comes_back() {
    static HEARD: AtomicU64 = AtomicU64::new(0);
    let outer = Budget::new(10);
    let inner = Budget::heard(10, Box::new(|done, of| HEARD.store(100 * done / of, Ordering::Relaxed)));
    budget::run(Some(outer.clone()), || {
        budget::progress(1, 2);
        assert_eq!(HEARD.load(Ordering::Relaxed), 0, "nobody listens to the outer one");
        let broken = std::panic::AssertUnwindSafe(|| {
            budget::run(Some(inner), || {
                budget::progress(3, 4);
                panic!("it breaks")
            })
        });
        let panicked: Result<(), _> = std::panic::catch_unwind(broken);
        assert!(panicked.is_err());
        assert_eq!(HEARD.load(Ordering::Relaxed), 75);
        assert!(std::sync::Arc::ptr_eq(&budget::current().expect("the outer one"), &outer));
    });
    assert!(budget::current().is_none());
}
