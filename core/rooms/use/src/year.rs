//! A year that nobody lived: what the journal of a build would hold after twelve months of rides, charges, cold weeks, a
//! joint that failed twice and a pack that ages. The same seed gives the same year.

use crate::needs::Needs;
use orthavis_model::chance::Dice;
use orthavis_model::document::{Build, Chemistry};
use orthavis_model::journal::{Charge, Event, Happened, Note, PartChange, Reading, Repair, Ride, Timer};
use orthavis_model::laws::conditions::resistance_factor;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::{DAY_S, Moment};
use std::collections::BTreeMap;
use std::f64::consts::TAU;

/// Days of it.
pub const DAYS: i64 = 365;

/// What is true of a simulated pack, and what a person cannot see.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Truth {
    /// What it holds at the end of the year, of what is printed, at 25 °C.
    pub left: f64,
    /// What it held at the beginning.
    pub left_before: f64,
    /// Its resistance at the end over the plan's, at 25 °C.
    pub resistance: f64,
    /// A load that is not in the plan, A, while it is lit.
    pub extra_a: f64,
    /// What the meter shows over what is there, all the time.
    pub meter: f64,
    /// What the charger counts over what goes in, all the time.
    pub counter: f64,
}

impl Truth {
    /// A pack that aged as most do.
    pub const USUAL: Truth = Truth { left: 0.86, left_before: 0.94, resistance: 1.35, extra_a: 0.0, meter: 1.0, counter: 1.0 };
}

/// Share of the range that an outing takes at most.
const RANGE: f64 = 0.5;

/// Two cold weeks, days of the year.
const COLD: [std::ops::Range<i64>; 2] = [18..25, 344..351];

/// Mean temperature of a day, °C.
fn outside_c(day: i64, dice: &mut Dice) -> f64 {
    // Day of a year of 365.25 days from 1970 on: near enough to the calendar's.
    let of_year = (day as f64).rem_euclid(365.25);
    let season = 10.0 - 9.5 * (TAU * (of_year - 20.0) / 365.25).cos();
    let cold = if COLD.iter().any(|week| week.contains(&(of_year as i64))) { -9.0 } else { 0.0 };
    (season + cold + 2.5 * dice.normal()).round()
}

/// A UUID of version 7 for a moment.
fn uuid(at: Moment, dice: &mut Dice) -> String {
    let (ms, a, b) = (1000 * at.s.max(0) as u64, dice.bits(), dice.bits());
    let text = format!("{:012x}7{:03x}{:01x}{:015x}", ms & 0xffff_ffff_ffff, a & 0xfff, 8 + (a >> 12 & 3), b & 0x0fff_ffff_ffff_ffff);
    [&text[..8], &text[8..12], &text[12..16], &text[16..20], &text[20..]].join("-")
}

/// As a hand-held meter shows it, which repeats itself to a tenth of a percent.
fn shown(volts: f64, dice: &mut Dice) -> f64 {
    let steps = if volts < 40.0 { 100.0 } else { 10.0 };
    (steps * volts * (1.0 + 0.001 * dice.normal())).round() / steps
}

/// Two decimals, as people write.
fn cents(value: f64) -> f64 {
    (100.0 * value).round() / 100.0
}

struct Year<'a> {
    build: &'a Build,
    needs: Option<Needs>,
    truth: Truth,
    dice: Dice,
    events: Vec<Event>,
    soc: f64,
    /// Share of the year that is over.
    over: f64,
}

impl Year<'_> {
    fn write(&mut self, at: Moment, happened: &Happened, replaces: Option<String>) -> String {
        let id = uuid(at, &mut self.dice);
        self.events.push(Event { id: id.clone(), build: None, at: at.text(), kind: happened.kind().into(), data: happened.data(), replaces });
        id
    }

    fn part(&mut self, at: Moment, part: String, change: &str) {
        self.write(at, &Happened::Part(PartChange { part: Some(part), change: Some(change.into()), pack: None }), None);
    }

    fn capacity_ah(&self, needs: &Needs) -> f64 {
        needs.battery.capacity_ah * (self.truth.left_before + (self.truth.left - self.truth.left_before) * self.over)
    }

    fn ride(&mut self, at: Moment, degrees: f64) {
        let stretch = self.dice.between(0.7, 1.3);
        let usual: Vec<(String, f64)> =
            self.build.usage.minutes.iter().filter(|(_, minutes)| **minutes > 0.0).map(|(scene, minutes)| (scene.clone(), *minutes)).collect();
        let mut minutes: BTreeMap<String, f64> = usual.iter().map(|(scene, usual)| (scene.clone(), (usual * stretch).round().max(1.0))).collect();
        if minutes.is_empty() {
            let Some(scene) = self.build.scenes.first() else { return };
            minutes.insert(scene.id.clone(), (25.0 * stretch).round());
        }
        let hours = minutes.values().sum::<f64>() / 60.0;
        let speed_kmh = self.build.vehicle.propulsion.as_ref().map(|propulsion| propulsion.speed_kmh);
        // Nobody goes farther than brings them home.
        let range_h = self.needs.as_ref().map_or(f64::INFINITY, |needs| RANGE * needs.battery.usable() / needs.moving_per_h.max(1e-9));
        let moving_h = (hours * self.dice.between(0.6, 0.95)).min(range_h * self.dice.between(0.6, 1.0));
        let distance_km = speed_kmh.map(|speed| (10.0 * speed * moving_h).round() / 10.0);
        let (mut from_v, mut to_v) = (None, None);
        if let Some(needs) = self.needs.clone() {
            let capacity_ah = self.capacity_ah(&needs);
            let warm = degrees.clamp(0.0, 25.0);
            let took = needs.outing(&minutes, distance_km, capacity_ah, Some(warm)) + self.truth.extra_a * hours / (capacity_ah * needs.cold(Some(warm)));
            // Nobody goes out on a battery that will not last; they charge first.
            if self.soc - took < needs.battery.reserve_soc() {
                self.charge(at.later(-4 * 3600), degrees, 1.0);
            }
            let measured = self.dice.unit() < 0.55;
            let before = self.soc;
            self.soc = (self.soc - took * (1.0 + 0.03 * self.dice.normal())).max(0.0);
            if measured {
                from_v = Some(shown(self.truth.meter * needs.battery.emf_v(before), &mut self.dice));
                to_v = Some(shown(self.truth.meter * needs.battery.emf_v(self.soc), &mut self.dice));
            }
        }
        let ride = Ride { minutes: Some(minutes), distance_km, temperature_c: Some(degrees), from_v, to_v, began: None };
        self.write(at, &Happened::Ride(ride), None);
    }

    fn charge(&mut self, at: Moment, degrees: f64, to: f64) {
        let Some(needs) = self.needs.clone() else { return };
        let habits = habits_of(needs.battery.chemistry);
        if habits.charge_efficiency <= 0.0 {
            self.part(at, "battery".into(), "replaced");
            self.soc = 1.0;
            return;
        }
        if to - self.soc < 0.03 {
            return;
        }
        let indoors = degrees.clamp(8.0, 25.0);
        let ah = (to - self.soc) * self.capacity_ah(&needs) * needs.cold(Some(indoors)) / habits.charge_efficiency;
        let from_v = shown(self.truth.meter * needs.battery.emf_v(self.soc), &mut self.dice);
        let end_v = if to >= 1.0 { needs.battery.charging_v().unwrap_or_else(|| needs.battery.emf_v(1.0)) } else { needs.battery.emf_v(to) };
        let minutes = self.build.usage.charger_a.map(|amps| (60.0 * ah / amps + if to >= 1.0 { 60.0 * habits.tail_h } else { 0.0 }).round());
        let charge = Charge {
            from_v: Some(from_v),
            to_v: Some(shown(self.truth.meter * end_v, &mut self.dice)),
            ah: Some(cents(self.truth.counter * ah * (1.0 + 0.01 * self.dice.normal()))),
            minutes,
            temperature_c: Some(indoors.round()),
            wh: None,
        };
        // Once in the year a decimal point slips, is asked about, and is corrected.
        if self.over > 0.6 && self.events.iter().all(|event| event.replaces.is_none()) {
            let slipped = Charge { ah: Some(10.0 * ah.round()), ..charge.clone() };
            let wrong = self.write(at, &Happened::Charge(slipped), None);
            self.write(at.later(60), &Happened::Charge(charge), Some(wrong));
        } else {
            self.write(at, &Happened::Charge(charge), None);
        }
        self.soc = to;
    }

    /// What a meter shows at rest and under the load of the scene that draws most.
    fn pair(&mut self, at: Moment, degrees: f64) {
        let Some(needs) = self.needs.clone() else { return };
        let Some((scene, need)) = needs.scenes.iter().max_by(|a, b| a.1.mean_a.total_cmp(&b.1.mean_a)) else { return };
        if need.mean_a <= 0.0 {
            return;
        }
        let (warm, rest_v) = (degrees.clamp(0.0, 25.0), needs.battery.emf_v(self.soc));
        let grown = 1.0 + (self.truth.resistance - 1.0) * self.over;
        let ohm = needs.battery.pack_ohm() * grown * resistance_factor(needs.battery.chemistry, warm, 1.0);
        let step = if rest_v < 40.0 { 0.01 } else { 0.1 };
        let near = |volts: f64| ((volts / step).round() * step * 1000.0).round() / 1000.0;
        let reading = Reading {
            probes: Some(vec!["source+".into(), "source-".into()]),
            quantity: Some("volts".into()),
            unit: Some("V".into()),
            scene: Some(scene.clone()),
            resting_v: Some(near(rest_v)),
            value: Some(near(rest_v - ohm * need.mean_a)),
            temperature_c: Some(warm),
            ..Reading::default()
        };
        self.write(at, &Happened::Reading(reading), None);
    }

    fn mishaps(&mut self, day: i64, at: Moment) {
        let lights = &self.build.lights;
        let Some(light) = lights.iter().max_by(|a, b| a.feeds[0].length_m.total_cmp(&b.feeds[0].length_m)) else { return };
        let id = light.id.clone();
        let was = if light.feeds[0].contacts > 0 { format!("weak_joint@{id}:plug") } else { format!("weak_joint@{id}:to+") };
        let fault = |year: &mut Self, mended: &str| {
            let repair = Repair {
                symptom: Some(format!("{id}: flickers")),
                was: Some(was.clone()),
                words: Some(format!("A weak joint on the way to {id}")),
                mended: Some(mended.into()),
            };
            year.write(at, &Happened::Fault(repair), None);
        };
        match day {
            97 => fault(self, "Twisted the strands again and taped it."),
            201 => {
                fault(self, "Crimped anew, sleeved, and the wire tied beside it.");
                let timer = Timer { what: Some("silicone on the joint".into()), until: Some(at.later(DAY_S)) };
                self.write(at.later(600), &Happened::Timer(timer), None);
            }
            // An afternoon of looking at what wears.
            150 | 290 => {
                let lights = self.build.lights.iter().flat_map(|light| [format!("seal:{}", light.id), format!("hold:{}", light.id)]);
                let feeds = self.build.feeds().into_iter().map(|feed| format!("plug:{}", feed.id));
                let all: Vec<String> = if day == 150 { lights.collect() } else { feeds.chain(["fuses".to_owned(), "water".to_owned()]).collect() };
                for (minute, part) in (0..).zip(all) {
                    self.part(at.later(60 * minute), part, "looked");
                }
            }
            330 => {
                let text = Some("Lantern parade of Lowmarsh: out with everyone, all lit, no fault.".into());
                self.write(at, &Happened::Note(Note { text, photo: None }), None);
            }
            _ => {}
        }
    }
}

/// The year that ends at a moment.
pub fn year(build: &Build, truth: Truth, seed: u64, ends: Moment) -> Vec<Event> {
    let needs = Needs::of(build);
    let mut year = Year { build, needs, truth, dice: Dice::new(seed), events: Vec::new(), soc: 1.0, over: 0.0 };
    let a_day = (build.usage.outings_per_week / 7.0).clamp(0.15, 2.0);
    let lead = matches!(year.needs.as_ref().map(|needs| needs.battery.chemistry), Some(Chemistry::LeadFlooded | Chemistry::LeadAgm));
    let midnight = ends.later(-ends.of_day_s());
    for index in 0..DAYS {
        year.over = index as f64 / DAYS as f64;
        let day = midnight.later((index - DAYS) * DAY_S);
        let degrees = outside_c(day.day(), &mut year.dice);
        if let Some(needs) = year.needs.clone() {
            let capacity_ah = year.capacity_ah(&needs);
            let back = needs.gain_ah / capacity_ah;
            year.soc = (year.soc - needs.day(capacity_ah) + back).clamp(0.02, 1.0);
        }
        // Fewer go out in the frost.
        let wish = a_day * if degrees < 0.0 { 0.45 } else { 1.0 };
        let evening = day.later(17 * 3600 + 3600 * year.dice.below(4) as i64 + 60 * year.dice.below(60) as i64);
        let noon = day.later(12 * 3600 + 60 * year.dice.below(120) as i64);
        if year.dice.unit() < wish.min(1.0) {
            year.ride(evening, degrees);
        }
        if wish > 1.0 && year.dice.unit() < wish - 1.0 {
            year.ride(noon, degrees);
        }
        let low = if lead { 0.8 } else { 0.45 };
        if year.soc < low + 0.1 * year.dice.normal() {
            let full = year.dice.unit() < 0.7;
            let to = if full || lead { 1.0 } else { (year.soc + year.dice.between(0.25, 0.45)).min(0.95) };
            let night = day.later(21 * 3600 + 60 * year.dice.below(100) as i64);
            year.charge(night, degrees, to);
        }
        if index % 30 == 15 {
            year.pair(day.later(10 * 3600), degrees);
        }
        year.mishaps(index, evening.later(1800));
    }
    let mut events = year.events;
    events.sort_by(|a, b| (Moment::parse(&a.at), &a.id).cmp(&(Moment::parse(&b.at), &b.id)));
    events
}
