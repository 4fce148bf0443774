//! Where a probe can touch, by the names that people see.

use crate::joints::{Joint, joints};
use crate::{BenchError, or_list};
use orthavis_model::document::{Build, Consumer, Load};
use orthavis_model::topology::{Node, Topology};
use orthavis_physics::network::Side;

/// A place that a probe can touch. Feeds go by their place in [`Build::feeds`], parts by theirs in the document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spot {
    /// A terminal of the battery or rail.
    Source(Side),
    /// A terminal of what supplies a feed.
    From(usize, Side),
    /// On the plus side of a feed, right after a part.
    After(usize, Joint),
    /// A terminal of what a feed feeds.
    To(usize, Side),
    /// A terminal of a converter's input.
    In(usize, Side),
    /// A terminal of a converter's output.
    Out(usize, Side),
    /// In a string of an array, counted from 0: after its resistor (0) or after LED 1, 2, 3.
    String {
        /// Which light.
        light: usize,
        /// Which string.
        string: usize,
        /// After how many LEDs.
        after: usize,
    },
    /// A rail of a strip or of pixels at one of its taps.
    Rail(usize, usize, Side),
}

/// `+` or `-` at the end of a name.
pub(crate) fn split_side(text: &str) -> Option<(&str, Side)> {
    text.strip_suffix('+').map(|rest| (rest, Side::Plus)).or_else(|| text.strip_suffix('-').map(|rest| (rest, Side::Minus)))
}

pub(crate) fn sign(side: Side) -> char {
    if side == Side::Plus { '+' } else { '-' }
}

/// Distance between the taps of a light, m, and how many it has; `None` where it has no length.
pub(crate) fn taps(load: &Load) -> Option<(f64, usize)> {
    match load {
        Load::Strip(strip) => Some((strip.segment_m, strip.segments() as usize)),
        Load::Pixels(pixels) => Some((pixels.pitch_m, pixels.count as usize)),
        Load::LedArray(_) | Load::Module(_) => None,
    }
}

/// Place of a tap along its light, m from its start.
pub(crate) fn tap_m(step_m: f64, tap: usize) -> f64 {
    (tap as f64 + 0.5) * step_m
}

/// Metres without the noise of binary fractions, as names have them.
pub(crate) fn metres(value: f64) -> String {
    let text = format!("{value:.4}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// The feed of this name, by its place.
pub(crate) fn feed_index(build: &Build, id: &str) -> Option<usize> {
    build.feeds().iter().position(|feed| feed.id == id)
}

fn unknown(what: &str, problem: String) -> BenchError {
    let remedy = "Name a point as `source+`, `tail:fuse`, `tail:to-`, `tail/2.0` or `edge@0.35+`; `orthavis probe FILE --all` lists them";
    BenchError::new(what, problem, remedy)
}

impl Spot {
    /// The same terminal under one name: what supplies a feed and what it feeds have several.
    pub(crate) fn terminal(self, build: &Build) -> Spot {
        let feeds = build.feeds();
        let fed = |consumer: Consumer| feeds.iter().position(|feed| feed.consumer == consumer);
        match self {
            Spot::From(feed, side) => match Topology::of(build).node(&feeds[feed].feed.from) {
                Some(Node::Source) => Spot::Source(side),
                Some(Node::Converter(index)) => Spot::Out(index, side).terminal(build),
                Some(Node::Junction(index)) => fed(Consumer::Junction(index)).map_or(self, |feed| Spot::To(feed, side)),
                _ => self,
            },
            // A converter's output shares its input's minus.
            Spot::Out(index, Side::Minus) => Spot::In(index, Side::Minus).terminal(build),
            Spot::In(index, side) => fed(Consumer::Converter(index)).map_or(self, |feed| Spot::To(feed, side)),
            other => other,
        }
    }

    /// The place of this name.
    ///
    /// # Errors
    /// When the build has no such place.
    pub fn parse(build: &Build, text: &str) -> Result<Self, BenchError> {
        let text = text.trim();
        if let Some(("source", side)) = split_side(text) {
            return Ok(Spot::Source(side));
        }
        if let Some((id, place)) = text.rsplit_once('@') {
            return rail(build, text, id, place);
        }
        if let Some((id, place)) = text.rsplit_once('/') {
            return string(build, text, id, place);
        }
        let Some((id, place)) = text.rsplit_once(':') else { return Err(unknown(text, format!("`{text}` is not a point of this build"))) };
        if let Some((end @ ("in" | "out"), side)) = split_side(place) {
            let index = build.converters.iter().position(|converter| converter.id == id);
            let index = index.ok_or_else(|| unknown(text, format!("there is no converter `{id}`")))?;
            return Ok(if end == "in" { Spot::In(index, side) } else { Spot::Out(index, side) });
        }
        let feed = feed_index(build, id).ok_or_else(|| unknown(text, format!("there is no feed `{id}`")))?;
        match split_side(place) {
            Some(("from", side)) => return Ok(Spot::From(feed, side)),
            Some(("to", side)) => return Ok(Spot::To(feed, side)),
            _ => {}
        }
        let inner: Vec<Joint> = inner(build, feed);
        inner.iter().find(|joint| joint.word() == place).map(|joint| Spot::After(feed, *joint)).ok_or_else(|| {
            let words: Vec<String> = inner.iter().map(|joint| joint.word().to_owned()).collect();
            unknown(text, format!("feed `{id}` has no `{place}`; along it there is {}", or_list(&words)))
        })
    }

    /// Its name.
    pub fn name(self, build: &Build) -> String {
        let feeds = build.feeds();
        let feed = |index: usize| feeds.get(index).map_or("?", |feed| feed.id.as_str());
        match self {
            Spot::Source(side) => format!("source{}", sign(side)),
            Spot::From(index, side) => format!("{}:from{}", feed(index), sign(side)),
            Spot::After(index, joint) => format!("{}:{}", feed(index), joint.word()),
            Spot::To(index, side) => format!("{}:to{}", feed(index), sign(side)),
            Spot::In(index, side) => format!("{}:in{}", build.converters[index].id, sign(side)),
            Spot::Out(index, side) => format!("{}:out{}", build.converters[index].id, sign(side)),
            Spot::String { light, string, after } => format!("{}/{}.{after}", build.lights[light].id, string + 1),
            Spot::Rail(light, tap, side) => {
                let step = taps(&build.lights[light].load).map_or(0.0, |(step, _)| step);
                format!("{}@{}{}", build.lights[light].id, metres(tap_m(step, tap)), sign(side))
            }
        }
    }

    /// Where it is, in words.
    pub fn words(self, build: &Build) -> String {
        let feeds = build.feeds();
        let feed = |index: usize| feeds.get(index).map_or("?", |feed| feed.id.as_str());
        let pole = |side: Side| if side == Side::Plus { "plus" } else { "minus" };
        let supply = build.source.called();
        match self {
            Spot::Source(side) => format!("the {supply}'s {}", pole(side)),
            Spot::From(index, side) => format!("the {} wire of {}, at its supply", pole(side), feed(index)),
            Spot::After(index, joint) => format!("{}, right behind its {}", feed(index), joint.word()),
            Spot::To(index, side) => format!("{}, at its own {}", feed(index), pole(side)),
            Spot::In(index, side) => format!("{}, {} of its input", build.converters[index].id, pole(side)),
            Spot::Out(index, side) => format!("{}, {} of its output", build.converters[index].id, pole(side)),
            Spot::String { light, string, after: 0 } => format!("row {} of {}, behind its resistor", string + 1, build.lights[light].id),
            Spot::String { light, string, after } => format!("row {} of {}, behind LED {after}", string + 1, build.lights[light].id),
            Spot::Rail(light, tap, side) => {
                let step = taps(&build.lights[light].load).map_or(0.0, |(step, _)| step);
                format!("the {} side of {}, {} m from its start", pole(side), build.lights[light].id, metres(tap_m(step, tap)))
            }
        }
    }

    /// Every place of a build, from the source on.
    pub fn all(build: &Build) -> Vec<Spot> {
        const SIDES: [Side; 2] = [Side::Plus, Side::Minus];
        let mut all: Vec<Spot> = SIDES.map(Spot::Source).into();
        for index in 0..build.feeds().len() {
            all.extend(inner(build, index).into_iter().map(|joint| Spot::After(index, joint)));
            all.extend(SIDES.map(|side| Spot::From(index, side)));
            all.extend(SIDES.map(|side| Spot::To(index, side)));
        }
        for index in 0..build.converters.len() {
            all.extend(SIDES.map(|side| Spot::In(index, side)));
            all.extend(SIDES.map(|side| Spot::Out(index, side)));
        }
        for (light, part) in build.lights.iter().enumerate() {
            if let Load::LedArray(array) = &part.load {
                let strings = 0..array.parallel as usize;
                all.extend(strings.flat_map(|string| (0..=array.series as usize).map(move |after| Spot::String { light, string, after })));
            }
            let count = taps(&part.load).map_or(0, |(_, count)| count);
            all.extend((0..count).flat_map(|tap| SIDES.map(|side| Spot::Rail(light, tap, side))));
        }
        all
    }
}

/// The parts along the plus side of a feed.
fn inner(build: &Build, feed: usize) -> Vec<Joint> {
    let all = joints(build.feeds()[feed].feed, Side::Plus);
    all.into_iter().filter(|joint| !matches!(joint, Joint::From | Joint::To)).collect()
}

fn light_index(build: &Build, what: &str, id: &str) -> Result<usize, BenchError> {
    build.lights.iter().position(|light| light.id == id).ok_or_else(|| unknown(what, format!("there is no light `{id}`")))
}

fn rail(build: &Build, text: &str, id: &str, place: &str) -> Result<Spot, BenchError> {
    let light = light_index(build, text, id)?;
    let (step, count) = taps(&build.lights[light].load).ok_or_else(|| unknown(text, format!("`{id}` has no rails: it is not a strip and has no pixels")))?;
    let (at, side) = split_side(place).ok_or_else(|| unknown(text, format!("`{text}` does not say which rail; end it with + or -")))?;
    let at: f64 = at.parse().map_err(|_| unknown(text, format!("`{at}` is not a place along `{id}`")))?;
    let length = step * count as f64;
    if !(-1e-9..=length + 1e-9).contains(&at) {
        return Err(unknown(text, format!("`{id}` is {} m long; {at} m is beyond it", metres(length))));
    }
    // The nearest tap; of two equally near ones the first.
    let tap = ((at / step - 0.5 - 1e-9).round().max(0.0) as usize).min(count.saturating_sub(1));
    Ok(Spot::Rail(light, tap, side))
}

fn string(build: &Build, text: &str, id: &str, place: &str) -> Result<Spot, BenchError> {
    let light = light_index(build, text, id)?;
    let Load::LedArray(array) = &build.lights[light].load else { return Err(unknown(text, format!("`{id}` has no strings: it is not an LED array"))) };
    let numbers = place.split_once('.').and_then(|(string, after)| Some((string.parse::<usize>().ok()?, after.parse::<usize>().ok()?)));
    let fits = |&(string, after): &(usize, usize)| (1..=array.parallel as usize).contains(&string) && after <= array.series as usize;
    let (string, after) = numbers.filter(fits).ok_or_else(|| {
        let problem =
            format!("`{id}` has {} strings of {} LEDs: name one as `{id}/1.0` to `{id}/{}.{}`", array.parallel, array.series, array.parallel, array.series);
        unknown(text, problem)
    })?;
    Ok(Spot::String { light, string: string - 1, after })
}
