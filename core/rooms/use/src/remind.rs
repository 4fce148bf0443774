//! What is due: shown on the shelf and in the build, taken into any calendar. Nothing leaves the machine.

use crate::course::NextCharge;
use crate::season::{Season, SeasonNow};
use crate::told::{Told, What};
use crate::wear::Wear;
use orthavis_model::icalendar::{Entry, Span, file};
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::moment::{date_of, day_of};
use serde::Serialize;

/// Something that is due.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reminder {
    /// The same for the same thing.
    pub id: String,
    /// The day.
    pub due: String,
    /// Days until then; below 0: overdue.
    pub in_days: f64,
    /// What, in a few words.
    pub title: String,
    /// Why.
    pub why: String,
}

/// Days ahead for which upkeep is reminded of.
const AHEAD_DAYS: f64 = 30.0;
/// Days after its end for which a timer is still shown.
const ENDED_DAYS: i64 = 3;

/// Everything that is due soon, soonest first.
pub fn reminders(next: Option<&NextCharge>, wear: &[Wear], season: &Season, told: &[Told<'_>], now: Moment) -> Vec<Reminder> {
    let mut all = Vec::new();
    let mut add = |id: String, due: &str, title: String, why: String| {
        if let Some(day) = day_of(due) {
            all.push(Reminder { id, due: due.into(), in_days: (day - now.day()) as f64, title, why });
        }
    };
    let standing = season.now != SeasonNow::InUse;
    if let Some((next, due)) = next.and_then(|next| Some((next, next.due.as_ref()?))) {
        // What is put away is looked at, not kept ready.
        if !standing {
            add("charge".into(), due, next.title.clone(), next.why.clone());
        }
    }
    for one in told {
        if let What::Timer { what, until } = &one.what
            && until.s > now.s - ENDED_DAYS * DAY_S
        {
            let title = if until.s <= now.s { format!("Done: {what}") } else { format!("{what} until {}", &until.text()[11..16]) };
            add(format!("timer:{}", one.event.id), &until.date(), title, format!("Set {}", one.at.date()));
        }
    }
    for one in wear {
        if let Some(due) = &one.due
            && day_of(due).is_some_and(|day| ((day - now.day()) as f64) <= AHEAD_DAYS)
        {
            add(format!("wear:{}", one.id), due, format!("Look at: {}", one.what), one.look.into());
        }
    }
    if let (true, Some(days)) = (standing, season.look_days) {
        let volts = told
            .iter()
            .rev()
            .find(|one| matches!(&one.what, What::Charge(_) | What::Ride(_)) || matches!(&one.what, What::Reading(reading) if reading.resting_v.is_some()));
        if let Some(last) = volts {
            let day = (last.at.day() + days as i64).max(now.day());
            add(
                "stands".into(),
                &date_of(day),
                "Measure the battery that stands".into(),
                format!("Last looked at {}; every {days} days while it stands.", last.at.date()),
            );
        }
    }
    all.sort_by(|a, b| (&a.due, &a.id).cmp(&(&b.due, &b.id)));
    all
}

/// Reminders as an iCalendar file; `name` is the build's. What is overdue is on today.
pub fn calendar(name: &str, reminders: &[Reminder], now: Moment) -> String {
    let day = |date: &str, more: i64| date_of(day_of(date).unwrap_or(0).max(now.day()) + more).replace('-', "");
    let utc = Moment { offset_s: 0, ..now }.text();
    let made = format!("{}Z", utc[..19].replace(['-', ':'], ""));
    let entries: Vec<Entry> = reminders
        .iter()
        .map(|one| Entry {
            uid: format!("{}-{}", one.id.replace([':', '#'], "-"), one.due),
            span: Span::Day(day(&one.due, 0), day(&one.due, 1)),
            summary: format!("{name}: {}", one.title),
            words: one.why.clone(),
        })
        .collect();
    file("Journal", &made, &entries)
}
