//! What is soldered on a strip and what moves: segments cut again, contacts that lose touch.

use super::case::*;
use orthavis_model::document::{CircuitKind, Consumer, HoldUp, Load, SmallCircuit, Strip};
use orthavis_model::edit::{feed_mut, free_id, plain_feed};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::practice::{BOUNCE, capacitor_for};
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const CONTACT_MOVING: Check = Check {
    code: "contact.moving",
    step: Step::Wires,
    unit: "1",
    why: "A contact that loses touch makes lights flicker, pits itself, and pixels forget what they were told.",
    formula: "t_lost / t ≤ {0}",
    rule: "A contact that moves loses touch for less than {0%} of the time, and pixels behind it are held up.",
    source: "Common practice",
    mend: "Clean the ring, press harder, take the minus back by a contact of its own, or put a hold-up behind it.",
    figures: &[LOST],
};

pub(super) const RECUT_OVER: Check = Check {
    code: "recut.over",
    step: Step::Lights,
    unit: "A",
    why: "LEDs of a strip are glued to plastic and cannot get rid of more heat than they were made for.",
    formula: "I_f ≤ {0} · I_rated; stop above {1} · I_rated",
    rule: "Cut again or not, an LED of a strip carries what it carried as bought.",
    source: "The strip's label: power, segment and voltage",
    mend: "Take a larger resistor for each row.",
    figures: &[RATED, MOST],
};

/// Above this share of its rated current an LED counts as overdriven, and above that it fades within hours: no strip's
/// label gives an absolute limit.
const RATED: f64 = 1.02;
const MOST: f64 = 1.5;
/// Share of the time without contact from which it is worth saying.
const LOST: f64 = 0.01;

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        if let Load::Strip(strip) = &light.load
            && strip.recut.is_some()
        {
            recut(case, light, strip, found);
        }
    }
    for feed in case.build.feeds() {
        let Some(moving) = feed.feed.moving.as_ref().filter(|moving| above(moving.bounce_share, LOST)) else { continue };
        let bare = pixels_behind(case.build, &feed.id);
        let severity = if bare.is_empty() { Severity::Note } else { Severity::Fix };
        let draft =
            Draft { check: &CONTACT_MOVING, severity, subject: &feed.id, point: None, value: moving.bounce_share, limit: LOST, excess: moving.bounce_share };
        found.add(draft, || {
            let what = match bare.first() {
                None => "the lights behind it flicker".to_owned(),
                Some(light) => format!("the pixels of `{light}` start again from nothing each time, with no hold-up to carry them over"),
            };
            Words {
                title: format!("{}: drops out", feed.id),
                message: format!(
                    "`{}` goes over {}, which drops out about {:.0} % of the time: {what}.",
                    feed.id,
                    moving.kind.called(),
                    100.0 * moving.bounce_share
                ),
                advice: Some(
                    "A sprung contact wants a clean ring and its own wire back: a bearing full of grease is none. Or give what turns a battery of its own.",
                ),
                given: vec![quantity("R", "resistance of the contact", moving.resistance_ohm, "ohm")],
            }
        });
    }
}

fn recut(case: &Case<'_>, light: &Light, strip: &Strip, found: &mut Findings) {
    let rated_a = DiodeString::strip_led_a(strip);
    // Dimmed by switching: while it is on, an LED carries all of it.
    let share = |point: &PointReport| {
        let level = case.lit(point, &light.id).level;
        (level > 0.0).then_some(point.lights.get(&light.id)?.highest_output / level)
    };
    let Some((output, point)) = case.worst(share) else { return };
    let led_a = output * rated_a;
    if within(led_a, RATED * rated_a) {
        return;
    }
    let (severity, limit) = if above(led_a, MOST * rated_a) { (Severity::Stop, MOST * rated_a) } else { (Severity::Fix, rated_a) };
    let draft = Draft { check: &RECUT_OVER, severity, subject: &light.id, point: Some(point), value: led_a, limit, excess: led_a };
    found.add(draft, || Words {
        title: format!("{}: too much through its LEDs", light.id),
        message: format!(
            "Cut like this, each LED of `{}` carries {} {}; as bought it carries {}.",
            light.id,
            plain(led_a, "A"),
            moment(case.build, point),
            plain(rated_a, "A")
        ),
        advice: None,
        given: vec![quantity("I_f", "current of an LED as bought", rated_a, "A"), quantity("I_lim", "limit", limit, "A")],
    });
}

/// Lights of pixels behind a feed with no hold-up in between.
fn pixels_behind<'a>(build: &'a Build, moving: &str) -> Vec<&'a str> {
    let feeds = build.feeds();
    let goes_over = |light: usize| {
        let mut ways: Vec<&orthavis_model::document::FeedRef<'_>> =
            feeds.iter().filter(|feed| matches!(feed.consumer, Consumer::Light(own) if own == light)).collect();
        let mut left = feeds.len() * feeds.len() + 1;
        while let Some(feed) = ways.pop() {
            if feed.id == moving {
                return true;
            }
            left = left.saturating_sub(1);
            let held = build.circuits.iter().any(|circuit| circuit.id == feed.feed.from && circuit.kind() == CircuitKind::HoldUp);
            if left > 0 && !held {
                ways.extend(feeds.iter().filter(|above| above.id == feed.feed.from));
            }
        }
        false
    };
    let pixels = build.lights.iter().enumerate().filter(|(_, light)| matches!(light.load, Load::Pixels(_)));
    pixels.filter(|(index, _)| goes_over(*index)).map(|(_, light)| light.id.as_str()).collect()
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    match finding.code {
        "recut.over" => larger_resistor(case, finding),
        "contact.moving" => hold_up(case, finding),
        _ => Vec::new(),
    }
}

fn larger_resistor(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(light) = case.build.lights.iter().find(|light| light.id == finding.subject) else { return Vec::new() };
    let Load::Strip(strip) = &light.load else { return Vec::new() };
    let (Some(recut), Some((volts, _))) = (&strip.recut, case.worst(|point| Some(point.lights.get(&light.id)?.highest_v))) else { return Vec::new() };
    let rated_a = DiodeString::strip_led_a(strip);
    let row = DiodeString::of_segment(strip);
    // The rows without their resistor; what is left over goes into it.
    let rest = volts - (row.voltage(row.if_a) - recut.resistor_ohm * rated_a);
    let ohm = resistor::above(Series::E24, rest / rated_a);
    let proposal = propose(case.build, format!("Use {} in each row", plain(ohm, "Ω")), |copy| {
        let Load::Strip(strip) = &mut copy.lights.iter_mut().find(|known| known.id == light.id)?.load else { return None };
        strip.recut.as_mut()?.resistor_ohm = ohm;
        Some(())
    });
    proposal.into_iter().collect()
}

fn hold_up(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let bare = pixels_behind(case.build, &finding.subject);
    let [id] = bare[..] else { return Vec::new() };
    held_up(case, id, false).into_iter().collect()
}

/// A light behind a capacitor that carries it over a bounce, with a bridge before it or without.
pub(super) fn held_up(case: &Case<'_>, id: &str, bridge: bool) -> Option<Proposal> {
    let light = case.build.lights.iter().find(|light| light.id == id && light.feeds.len() == 1)?;
    let amps = case.worst(|point| Some(point.lights.get(id)?.current_a)).map_or(0.0, |(value, _)| value);
    let volts = case.worst(|point| Some(point.lights.get(id)?.highest_v)).map_or(0.0, |(value, _)| value);
    let most_a = case.build.source.max_current_a();
    let farad = 1e-12 * resistor::above(Series::E6, 1e12 * amps * BOUNCE.0 / BOUNCE.1);
    let title = format!("Put a hold-up of {}{} before `{id}`", plain(farad, "F"), if bridge { " with a bridge" } else { "" });
    propose(case.build, title, |copy| {
        let own = free_id(copy, &format!("{id}-hold-up"));
        let feed = feed_mut(copy, id)?;
        let (before, gauge) = (feed.clone(), feed.gauge);
        *feed = plain_feed(&own, 0.1, gauge);
        let parts = HoldUp {
            bridge,
            charge_ohm: resistor::above(Series::E24, (1.1 * volts / most_a).max(0.1)),
            c_f: farad,
            c_rated_v: Some(capacitor_for(volts)?),
            esr_ohm: 0.05,
            taps_ohm: Vec::new(),
            tap: 1,
            wanted_s: None,
        };
        let place = light.place.clone();
        copy.circuits.push(SmallCircuit { id: own, parts: parts.into(), feed: before, drives: vec![id.to_owned()], mass_g: 8.0, place });
        Some(())
    })
}
