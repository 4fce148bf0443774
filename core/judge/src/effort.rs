//! What a change to a build asks of the person who makes it: parts to get, work, money, mass, and light given up.
//!
//! Rough figures of a garage bench. They only rank one way against another.

use orthavis_model::document::{Build, Controller, Converter, Feed, Gauge, Load, Source};

/// The cost of a change.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Effort {
    /// Parts to get.
    pub parts: f64,
    /// Work, min.
    pub minutes: f64,
    /// Money, euro.
    pub eur: f64,
    /// Added mass, g.
    pub grams: f64,
    /// Light given up: sum over scenes and lights of the level lost.
    pub lost: f64,
}

impl Effort {
    /// One figure to rank by, in minutes: a part to get is worth a quarter of an hour; light is what it is all for, and
    /// none of it is given up lightly.
    pub fn score(&self) -> f64 {
        let lost = if self.lost > 1e-9 { 60.0 + 150.0 * self.lost } else { 0.0 };
        self.minutes + 12.0 * self.parts + 2.0 * self.eur + 0.05 * self.grams.max(0.0) + lost
    }

    fn add(&mut self, parts: f64, minutes: f64, eur: f64) {
        self.parts += parts;
        self.minutes += minutes;
        self.eur += eur;
    }
}

/// What it takes to make `after` out of `before`.
pub fn effort(before: &Build, after: &Build) -> Effort {
    let mut cost = Effort::default();
    for converter in &after.converters {
        match before.converters.iter().find(|old| old.id == converter.id) {
            None => {
                cost.add(1.0, 25.0, 5.0);
                cost.grams += converter.mass_g;
            }
            Some(old) if !same_part(old, converter) => {
                cost.add(1.0, 20.0, 5.0);
                cost.grams += converter.mass_g - old.mass_g;
            }
            Some(old) if old.setting() != converter.setting() => cost.add(0.0, 3.0, 0.0),
            Some(old) if old.sealed != converter.sealed => sealed(&mut cost),
            Some(_) => {}
        }
    }
    let new = after.junctions.iter().filter(|junction| before.junctions.iter().all(|old| old.id != junction.id)).count();
    cost.add(new as f64, 10.0 * new as f64, 2.0 * new as f64);
    let old_feeds = before.feeds();
    for feed in after.feeds() {
        match old_feeds.iter().find(|old| old.id == feed.id) {
            None => {
                cost.add(0.0, 15.0 + 5.0 * feed.feed.length_m, feed.feed.length_m);
                cost.grams += wire_g(feed.feed);
                if feed.feed.fuse.is_some() {
                    cost.add(1.0, 8.0, 1.5);
                }
            }
            Some(old) => changed_feed(old.feed, feed.feed, &mut cost),
        }
    }
    for light in &after.lights {
        match (before.lights.iter().find(|old| old.id == light.id).map(|old| &old.load), &light.load) {
            (None, _) => cost.add(1.0, 15.0, 3.0),
            // More metal behind it; its rows stay as they are.
            (Some(Load::LedArray(old)), Load::LedArray(new)) if old.sink_k_per_w != new.sink_k_per_w => cost.add(1.0, 10.0, 4.0),
            (Some(Load::LedArray(old)), Load::LedArray(new)) if old != new => {
                let rows = f64::from(new.parallel.min(30));
                let rewired = (old.series, old.parallel) != (new.series, new.parallel);
                cost.add(0.0, rows * if rewired { 4.0 } else { 2.0 }, 0.05 * rows);
            }
            // Another strip, taken off and put on.
            (Some(Load::Strip(old)), Load::Strip(new)) if old.voltage_v != new.voltage_v => cost.add(1.0, 25.0, 4.0 + 6.0 * new.length_m),
            (Some(old), new) if old != new => cost.add(0.0, 10.0, 0.0),
            _ => {}
        }
    }
    for (old, new) in before.lights.iter().filter_map(|old| Some((old, after.lights.iter().find(|new| new.id == old.id)?))) {
        if old.sealed != new.sealed {
            sealed(&mut cost);
        }
        if new.profile && !old.profile {
            cost.add(1.0, 12.0, 6.0);
        }
    }
    let sealed_now = |one: &Controller| before.controllers.iter().any(|old| old.id == one.id && old.sealed != one.sealed);
    after.controllers.iter().filter(|one| sealed_now(one)).for_each(|_| sealed(&mut cost));
    let at = |build: &Build| build.make.as_ref().map_or_else(Vec::new, |make| make.positions.clone());
    cost.add(0.0, 10.0 * at(after).iter().filter(|one| !at(before).contains(one)).count() as f64, 0.0);
    for scene in &before.scenes {
        let Some(now) = after.scenes.iter().find(|now| now.id == scene.id) else { continue };
        for (id, lit) in &scene.lights {
            cost.lost += (lit.level - now.lights.get(id).map_or(0.0, |lit| lit.level)).max(0.0);
        }
    }
    if let (Source::Rail(old), Source::Rail(new)) = (&before.source, &after.source)
        && old.min_load_a != new.min_load_a
    {
        cost.add(1.0, 5.0, 15.0);
    }
    if let (Source::Battery(old), Source::Battery(new)) = (&before.source, &after.source) {
        if old.tap != new.tap {
            cost.add(0.0, 15.0, 1.0);
        }
        // A habit to keep costs more than a screw to turn once.
        if old.used_while_charging && !new.used_while_charging {
            cost.add(0.0, 15.0, 0.0);
        }
    }
    cost
}

/// A closed sleeve, potting, or the sealed kind of a part.
fn sealed(cost: &mut Effort) {
    cost.add(1.0, 15.0, 3.0);
}

/// Whether two converters are one and the same on a shelf, whatever they are set to.
fn same_part(a: &Converter, b: &Converter) -> bool {
    let figures = |c: &Converter| (c.kind(), c.min_in_v, c.max_in_v, c.max_out_a, c.max_in_a, c.max_loss_w);
    figures(a) == figures(b)
}

fn wire_g(feed: &Feed) -> f64 {
    // Copper out and back with its insulation.
    2.0 * feed.length_m * feed.gauge.area_mm2() * 12.0
}

fn changed_feed(old: &Feed, new: &Feed, cost: &mut Effort) {
    if old.gauge != new.gauge {
        cost.add(0.0, 8.0 + 4.0 * new.length_m, 0.5 * new.length_m);
        cost.grams += wire_g(new) - wire_g(old);
    } else if old.length_m != new.length_m || old.return_path != new.return_path {
        cost.add(0.0, 8.0 + 4.0 * new.length_m, 0.3 * new.length_m);
    }
    if old.from != new.from || old.at_m != new.at_m {
        cost.add(0.0, 8.0, 0.0);
    }
    match (&old.fuse, &new.fuse) {
        (None, Some(_)) => cost.add(1.0, 8.0, 1.5),
        // Put elsewhere in its wire.
        (Some(a), Some(b)) if (a.at_m, a.side) != (b.at_m, b.side) => cost.add(0.0, 10.0, 0.5),
        (Some(a), Some(b)) if a != b => cost.add(if a.style == b.style { 0.3 } else { 1.0 }, if a.style == b.style { 2.0 } else { 8.0 }, 0.5),
        (Some(_), None) => cost.add(0.0, 2.0, 0.0),
        _ => {}
    }
    if old.switch != new.switch && new.switch.is_some() {
        cost.add(1.0, 12.0, 3.0);
    }
    let plug = |feed: &Feed| (feed.contacts, feed.contact_rating_a, feed.contact_rating_v, feed.keyed, feed.plugs_sealed);
    if plug(old) != plug(new) {
        cost.add(1.0, 10.0, 2.0);
    }
    match (&old.dimmer, &new.dimmer) {
        (Some(a), Some(b)) if a.rating_a == b.rating_a && a.hz != b.hz => cost.add(0.0, 5.0, 0.0),
        (a, b) if a != b && b.is_some() => cost.add(1.0, 12.0, 4.0),
        _ => {}
    }
    if old.bundled != new.bundled {
        cost.add(0.0, 10.0, 0.0);
    }
}

/// How many common sizes thicker a conductor became; 0 where it did not.
pub fn sizes_thicker(old: Gauge, new: Gauge) -> usize {
    old.thicker().iter().position(|size| *size == new).map_or(0, |index| index + 1)
}
