//! Sizes every wire and fuse of a build at once, by the rules of [`super::wire`] and [`super::fuse`].
//!
//! Thicker wire changes the currents a little, so it is repeated until nothing moves. Sizes only ever follow the
//! rules: a wire thicker than needed, or a fuse that keeps every rule, is left as the person chose it.

use super::*;
use orthavis_model::budget;
use orthavis_model::document::{Consumer, ControllerKind, FeedRef, FuseStyle};
use orthavis_model::edit::feed_mut;
use orthavis_model::laws::fuse::{HEADROOM, PROMPT_MULTIPLE};
use orthavis_model::practice::{COLD_FILAMENT, SWITCH_A, above, rating_above, within};
use orthavis_model::topology::Topology;
use orthavis_physics::protection::wants_fuse;

/// Rounds after which whatever still moves is left; thicker wire moves currents by a percent at most.
const ROUNDS: usize = 6;
/// Steps of the budget that looking at another feed takes, twice.
const LOOKS: u64 = 1;

/// What was sized.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sized {
    /// RFC 6902 operations on the document.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
    /// By feed, what changes.
    pub lines: Vec<SizedLine>,
}

/// What changes in one feed.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SizedLine {
    /// The feed.
    pub feed: String,
    /// Before, as in `24 AWG, no fuse`.
    pub before: String,
    /// After.
    pub after: String,
    /// Why.
    pub why: String,
}

/// Gauges and fuses for every feed: 3 % loss where a common size allows it, a fuse at each battery lead and wherever
/// there is one already.
///
/// # Errors
/// When the build has no steady state.
pub fn everything(build: &Build) -> Result<Sized, ChooseError> {
    let sized = everything_of(build)?;
    let rated = |feed: &orthavis_model::document::Feed| (feed.switch.as_ref().map(|switch| switch.rating_a), feed.contact_rating_a);
    let lines = build.feeds().into_iter().zip(sized.feeds()).filter(|(a, b)| a.feed != b.feed).map(|(a, b)| SizedLine {
        feed: a.id,
        before: words(a.feed),
        after: words(b.feed) + if rated(a.feed) == rated(b.feed) { "" } else { ", a stronger switch or plug" },
        why: match (a.feed.gauge == b.feed.gauge, a.feed.fuse == b.feed.fuse) {
            (false, true) => "for its current and 3 % loss".into(),
            (true, false) => "a quarter above its largest current, within what the wire carries".into(),
            _ => "for its current, 3 % loss and the fuse before it".into(),
        },
    });
    let lines = lines.collect();
    Ok(Sized { changes: json_patch::diff(&build.to_value(), &sized.to_value()), lines })
}

/// [`everything`] as a build.
pub fn everything_of(build: &Build) -> Result<Build, ChooseError> {
    let mut sized = build.clone();
    let mut first: Option<Vec<f64>> = None;
    for _ in 0..ROUNDS {
        let before = sized.clone();
        let points = orthavis_physics::points::points(&before)?;
        let feeds = before.feeds();
        let carried: Vec<f64> = feeds.iter().map(|feed| most_a(&points, &feed.id)).collect();
        let at_first = first.get_or_insert_with(|| carried.clone());
        for ((feed, was), now) in feeds.iter().zip(at_first.iter()).zip(&carried) {
            contacts(&mut sized, feed, *was, *now);
        }
        // Each feed looks through the others for what it hangs on and what hangs on it.
        let work = LOOKS * feeds.len() as u64;
        for feed in &feeds {
            count(&before, work)?;
            size_feed(&mut sized, &before, &points, feed)?;
        }
        // From the ends towards the battery, so that a fuse sees the wires as they will be.
        for feed in feeds.iter().rev() {
            count(&before, work)?;
            // A fuse in the own lead of a flight controller would bring the craft down.
            let flies = matches!(feed.consumer, Consumer::Controller(at) if before.controllers[at].kind == ControllerKind::FlightController);
            let graph = Topology::of(&sized);
            let unfused = !flies && graph.wire(&feed.id).is_some_and(|now| wants_fuse(&graph, now));
            if unfused || feed.feed.fuse.is_some() {
                fuse_feed(&mut sized, &points, &feed.id)?;
            }
        }
        if sized == before {
            break;
        }
    }
    Ok(sized)
}

/// Largest current in a feed, pulses and all, A.
fn most_a(points: &[PointReport], id: &str) -> f64 {
    peaks(points).filter_map(|point| point.feeds.get(id)).map(|feed| feed.current_a.abs()).fold(0.0, f64::max)
}

/// Exchanges a switch or a plug that carried what flowed, and carries too much since thicker wire brings it more.
fn contacts(sized: &mut Build, feed: &FeedRef<'_>, was_a: f64, now_a: f64) {
    let fewer = |rating: f64| within(was_a, rating) && above(now_a, rating);
    let Some(own) = feed_mut(sized, &feed.id) else { return };
    if let Some(switch) = own.switch.as_mut().filter(|switch| fewer(switch.rating_a)) {
        switch.rating_a = rating_above(HEADROOM * now_a, &SWITCH_A);
    }
    if own.contacts > 0 && own.contact_rating_a.is_some_and(fewer) {
        own.contact_rating_a = Some(rating_above(HEADROOM * now_a, &SWITCH_A));
    }
}

/// Counts work on the budget.
fn count(build: &Build, steps: u64) -> Result<(), ChooseError> {
    if budget::spend(steps).is_err() {
        orthavis_physics::points::finished(build)?;
    }
    Ok(())
}

fn words(feed: &orthavis_model::document::Feed) -> String {
    let fuse = feed.fuse.as_ref().map_or("no fuse".to_owned(), |fuse| format!("{} {}", orthavis_model::working::plain(fuse.rating_a, "A"), fuse.style.name()));
    format!("{}, {fuse}", feed.gauge.name())
}

fn size_feed(sized: &mut Build, before: &Build, points: &[PointReport], feed: &FeedRef<'_>) -> Result<(), ChooseError> {
    let mut ask = super::wire::ask_of(before, points, &feed.id)?;
    // Room for the fuse that goes with it.
    let fused = FuseStyle::Blade.smallest_for(ask.current_a).filter(|_| feed.feed.fuse.is_some() || feed.feed.from == "source");
    let drop_a = ask.current_a;
    ask.current_a = fused.unwrap_or(drop_a).max(drop_a);
    ask.fuse_a = None;
    // The loss is judged at the current that flows, not at the fuse's.
    ask.supply_v = (ask.supply_v * ask.current_a.max(1e-12) / drop_a.max(1e-12)).clamp(1e-6, 1000.0);
    let choices = super::wire::wire(&ask)?;
    let Some(Pick::Wire { gauge }) = choices.first().map(|choice| choice.pick.clone()) else { return Ok(()) };
    if let Some(feed) = feed_mut(sized, &feed.id)
        && feed.gauge.area() < gauge.area() * (1.0 - 1e-9)
    {
        feed.gauge = gauge;
    }
    Ok(())
}

fn fuse_feed(sized: &mut Build, points: &[PointReport], id: &str) -> Result<(), ChooseError> {
    let ask = super::fuse::ask_of(sized, points, id)?;
    let present = feed_mut(sized, id).and_then(|feed| feed.fuse.clone());
    let style = present.as_ref().map(|fuse| fuse.style);
    // A fuse that keeps every rule is left as the person chose it.
    let keeps = |fuse: &orthavis_model::document::Fuse| {
        let rating = fuse.rating_a;
        let fits = within(HEADROOM * ask.current_a, rating) && within(rating, ask.ampacity_a) && ask.parts_a.is_none_or(|parts| within(rating, parts));
        let better = || !ask.seat.suits(fuse) && ask.seat.fuses(None, |_| Some(rating)).first().is_some_and(|best| ask.seat.suits(best));
        let fits = fits && fuse.holds((ask.cold_a, COLD_FILAMENT.1), ask.charges_a2s);
        fits && within(PROMPT_MULTIPLE * rating, ask.fault_a) && fuse.style.ratings_a().contains(&rating) && ask.seat.can(fuse) && !better()
    };
    if present.as_ref().is_some_and(keeps) {
        return Ok(());
    }
    let choices = super::fuse::fuse(&ask)?;
    // The person's style where it can do it, else the best of those that can, else what at least carries the current.
    let part = |choice: &Choice| if let Pick::Fuse { fuse, .. } = &choice.pick { fuse.clone() } else { None };
    let can = |choice: &&Choice| choice.works && part(choice).is_some_and(|fuse| ask.seat.suits(&fuse));
    let may = |choice: &&Choice| choice.works && part(choice).is_some_and(|fuse| ask.seat.can(&fuse));
    let theirs = |choice: &&Choice| part(choice).is_some_and(|fuse| Some(fuse.style) == style);
    let chosen = (choices.iter().filter(can).find(theirs)).or_else(|| choices.iter().find(can)).or_else(|| choices.iter().find(may));
    // A switch that is too small is exchanged; a fuse whose arc stays is not put in for it.
    let sound = |choice: &&Choice| part(choice).is_some_and(|fuse| ask.seat.can(&fuse));
    let chosen =
        chosen.or_else(|| choices.iter().find(sound)).or_else(|| choices.iter().find(theirs)).or_else(|| choices.iter().find(|choice| part(choice).is_some()));
    if let Some(Pick::Fuse { fuse: Some(fuse), grow }) = chosen.map(|choice| choice.pick.clone()) {
        super::fuse::put(sized, id, &fuse, grow);
    }
    Ok(())
}
