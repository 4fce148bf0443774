//! All that the journal of a build says back, at a moment.

use crate::chart::{Chart, Dot, charts, dots, table};
use crate::course::{Habit, NextCharge, next_charge};
use crate::health::{Health, health, since_fitted};
use crate::learn::{Offer, offers};
use crate::marks::{Mark, marks};
use crate::needs::Needs;
use crate::remind::{Reminder, reminders};
use crate::rides::{RideSeen, Rides, off_a_rail, rides};
use crate::season::{Season, season};
use crate::told::{Told, told};
use crate::wear::{Again, Wear, again, wear};
use orthavis_model::document::Build;
use orthavis_model::journal::Event;
use orthavis_model::moment::Moment;
use orthavis_model::table::Table;
use serde::Serialize;
use std::collections::BTreeMap;

/// What the journal says back.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JournalView {
    /// When to charge; absent on a rail, which has no charge of its own.
    pub next: Option<NextCharge>,
    /// Minutes of each scene of a usual outing, to be filled in.
    pub usual: BTreeMap<String, f64>,
    /// Outings against the plan; on a rail they are only counted.
    pub rides: Rides,
    /// The last outings, newest first.
    pub last: Vec<RideSeen>,
    /// How the battery is; absent on a rail.
    pub health: Option<Health>,
    /// What wears, most urgent first.
    pub wear: Vec<Wear>,
    /// What failed more than once.
    pub again: Vec<Again>,
    /// Put away and woken up.
    pub season: Season,
    /// What is due, soonest first.
    pub reminders: Vec<Reminder>,
    /// What hardly can be, newest first.
    pub marks: Vec<Mark>,
    /// What the plan should learn.
    pub offers: Vec<Offer>,
    /// Figures over time.
    pub charts: Vec<Chart>,
    /// What happened, by time.
    pub events: Vec<Dot>,
}

/// Outings that are listed.
const LISTED: usize = 30;

struct Read<'a> {
    told: Vec<Told<'a>>,
    needs: Option<Needs>,
    health: Option<Health>,
    capacity_ah: f64,
    rides: Rides,
    seen: Vec<RideSeen>,
}

fn read<'a>(build: &Build, events: &'a [Event], now: Moment) -> Read<'a> {
    let told = told(events);
    let needs = Needs::of(build);
    let health = needs.as_ref().map(|needs| health(needs, &told, now));
    // What was fitted goes before what the plan says.
    let fitted = health.as_ref().and_then(|health| Some(health.capacity.as_ref()?.now.value));
    let capacity_ah = needs.as_ref().map_or(0.0, |needs| fitted.unwrap_or(needs.battery.capacity_ah * needs.left));
    let (mut sum, mut seen) = (off_a_rail(&told), Vec::new());
    if let Some(needs) = &needs {
        // What another pack took says nothing of this one; its hours of light count.
        let here = since_fitted(&told).len();
        let (of_all, all) = rides(needs, capacity_ah, &told);
        let (of_here, _) = rides(needs, capacity_ah, &told[told.len() - here..]);
        sum = Rides { facts: of_all.facts, ..of_here };
        seen = all;
    }
    Read { told, needs, health, capacity_ah, rides: sum, seen }
}

/// What the journal of a build says at a moment.
pub fn view(build: &Build, events: &[Event], now: Moment) -> JournalView {
    let Read { told, needs, health, capacity_ah, rides, seen } = read(build, events, now);
    let habit = Habit::of(build, &told, now);
    let next = needs.as_ref().map(|needs| next_charge(needs, capacity_ah, &told, &habit, now));
    let wear = wear(build, &told, now);
    let season = season(build, needs.as_ref(), capacity_ah, &told, now);
    let reminders = reminders(next.as_ref(), &wear, &season, &told, now);
    let offers = match (&needs, &health) {
        (Some(needs), Some(health)) => offers(build, needs, health, &rides, &habit),
        _ => Vec::new(),
    };
    let charts = charts(needs.as_ref(), capacity_ah, &told, &seen, health.as_ref(), now);
    let mut usual: BTreeMap<String, f64> = habit.minutes.iter().map(|(scene, minutes)| (scene.clone(), minutes.round().max(1.0))).collect();
    if usual.is_empty() {
        usual.extend(build.scenes.first().map(|scene| (scene.id.clone(), 30.0)));
    }
    JournalView {
        usual,
        rides,
        last: seen.into_iter().rev().take(LISTED).collect(),
        marks: marks(build, needs.as_ref(), events, &told, now),
        again: again(&told),
        events: dots(&told),
        next,
        health,
        wear,
        season,
        reminders,
        offers,
        charts,
    }
}

/// What is due of a build, soonest first.
pub fn due(build: &Build, events: &[Event], now: Moment) -> Vec<Reminder> {
    let Read { told, needs, capacity_ah, .. } = read(build, events, now);
    let habit = Habit::of(build, &told, now);
    let next = needs.as_ref().map(|needs| next_charge(needs, capacity_ah, &told, &habit, now));
    let wear = wear(build, &told, now);
    reminders(next.as_ref(), &wear, &season(build, needs.as_ref(), capacity_ah, &told, now), &told, now)
}

/// The journal as a table.
pub fn as_table(build: &Build, events: &[Event], now: Moment) -> Table {
    let Read { told, seen, .. } = read(build, events, now);
    table(&told, &seen)
}
