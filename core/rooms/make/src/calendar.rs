//! The plan as an iCalendar file (RFC 5545): one event for each evening of work, one for each wait that ends. Times are
//! those of the wall clock where the work is done.

use crate::schedule::Plan;
use crate::steps::Step;
use orthavis_model::icalendar::{Entry, Span, file};
use orthavis_model::moment::{date_of, day_of};
use std::collections::BTreeMap;

const DAY: f64 = 1440.0;
/// Waits shorter than this need no calendar, min.
const LONG_WAIT: f64 = 60.0;

/// A local time as RFC 5545 has it.
fn stamp(first: i64, minutes: f64) -> String {
    let day = (minutes / DAY).floor();
    let of_day = (minutes - day * DAY).round() as i64;
    // Rounding up may reach midnight.
    let (day, of_day) = (day as i64 + of_day / 1440, of_day % 1440);
    format!("{}T{:02}{:02}00", date_of(first + day).replace('-', ""), of_day / 60, of_day % 60)
}

/// The file. `made` is when, as `20261127T180000Z`; `name` is the build's.
pub fn calendar(name: &str, plan: &Plan, steps: &[Step], made: &str) -> String {
    let first = day_of(&plan.begins).unwrap_or(0);
    let by_id: BTreeMap<&str, &Step> = steps.iter().map(|step| (step.id.as_str(), step)).collect();
    let mut entries = Vec::new();
    let mut event = |uid: String, from: f64, to: f64, summary: String, words: String| {
        entries.push(Entry { uid, span: Span::Times(stamp(first, from), stamp(first, to)), summary, words });
    };
    // Stretches of one evening are one event.
    let mut evenings: Vec<(f64, f64, Vec<&str>)> = Vec::new();
    let mut stretches: Vec<(f64, f64, &str)> = plan.placed.iter().flat_map(|one| one.at.iter().map(|at| (at.from, at.to, one.step.as_str()))).collect();
    stretches.sort_by(|a, b| a.0.total_cmp(&b.0));
    for (from, to, step) in stretches {
        match evenings.last_mut().filter(|(_, ends, _)| from - *ends < 30.0) {
            Some((_, ends, ids)) => {
                *ends = ends.max(to);
                ids.push(step);
            }
            None => evenings.push((from, to, vec![step])),
        }
    }
    for (from, to, ids) in evenings {
        let titles: Vec<&str> = ids.iter().filter_map(|id| Some(by_id.get(id)?.title.as_str())).collect();
        event(format!("work-{}-{}", first, from.round()), from, to, format!("{name}: {}", titles.first().copied().unwrap_or("work")), titles.join("\n"));
    }
    for one in &plan.placed {
        let Some(wait) = by_id.get(one.step.as_str()).and_then(|step| step.wait.as_ref()).filter(|wait| wait.minutes >= LONG_WAIT) else { continue };
        event(format!("wait-{}", one.step), one.ready, one.ready + 15.0, format!("{name}: done: {}", wait.what), format!("After: {}", one.step));
    }
    file("Making", made, &entries)
}
