//! Faults by name: `KIND@PLACE`, with `=SIZE` where it has one. Each is a change to the opened-up network.

use crate::joints::{Joint, joints};
use crate::spot::{feed_index, metres, sign, split_side, tap_m, taps};
use crate::{BenchError, or_list};
use orthavis_model::document::{Build, Chemistry, Consumer, Load, Source};
use orthavis_model::words;
use orthavis_physics::network::Side;

words! {
    /// Kind of fault.
    FaultKind {
        /// Nothing gets through.
        Open = "open",
        /// A joint with resistance.
        WeakJoint = "weak_joint",
        /// Plus touches minus.
        Short = "short",
        /// Plus and minus swapped.
        Reversed = "reversed",
        /// An LED burnt open.
        Burnt = "burnt",
        /// A part that is not what the plan says.
        WrongValue = "wrong_value",
        /// A fuse that is open.
        Blown = "blown",
        /// A switch that does not close.
        StuckOpen = "stuck_open",
        /// A battery with three times its resistance.
        Tired = "tired",
        /// A pixel that is dark and passes no data on.
        DeadPixel = "dead_pixel",
        /// A data wire that is cut.
        CutData = "cut_data",
    }
}

/// Resistance of what does not conduct, ohm.
pub const OPEN_OHM: f64 = 1e9;
/// Smallest and largest resistance of a weak joint, ohm.
pub const WEAK_OHM: (f64, f64) = (0.001, 1e6);
/// What is left of a battery's voltage when one of its cells is the wrong way round in its holder; `None` where cells are
/// welded or cast into one pack, or there is only one.
pub fn turned_cell(build: &Build) -> Option<f64> {
    let Source::Battery(battery) = &build.source else { return None };
    let loose = matches!(battery.chemistry, Chemistry::Alkaline | Chemistry::Nimh | Chemistry::LithiumCoin) && battery.parallel == 1;
    (loose && battery.series > 1).then(|| (f64::from(battery.series) - 2.0) / f64::from(battery.series))
}

/// What a tired battery's resistance is multiplied by.
pub const TIRED: f64 = 3.0;

/// Where a fault sits. Feeds go by their place in [`Build::feeds`], parts by theirs in the document, strings and LEDs are
/// counted from 0.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum At {
    /// A joint of a feed.
    Joint(usize, Side, Joint),
    /// The fuse or the switch of a feed.
    Part(usize, Joint),
    /// A share of a feed's length, 0 to 1.
    Along(usize, f64),
    /// What a feed feeds.
    Consumer(usize),
    /// A string of an array.
    String(usize, usize),
    /// An LED of a string.
    Led(usize, usize, usize),
    /// A rail after one of its taps.
    Rail(usize, usize, Side),
    /// The resistors of an array.
    Resistor(usize),
    /// What a converter is set to.
    Setting(usize),
    /// The battery.
    Source,
    /// A pixel.
    Pixel(usize, usize),
    /// The data wire of a chain.
    Data(usize),
}

/// A fault.
#[derive(Clone, Debug, PartialEq)]
pub struct Fault {
    /// What kind.
    pub kind: FaultKind,
    /// Where.
    pub at: At,
    /// Its size where it has one: ohms of a weak joint, a factor of a resistor, volts or amps of a setting.
    pub size: Option<f64>,
}

fn wrong(what: &str, problem: impl Into<String>, remedy: impl Into<String>) -> BenchError {
    BenchError::new(what, problem, remedy)
}

impl Fault {
    /// The fault of this name.
    ///
    /// # Errors
    /// When there is no such kind, place or size in this build.
    pub fn parse(build: &Build, text: &str) -> Result<Self, BenchError> {
        let text = text.trim();
        let (word, rest) = text.split_once('@').ok_or_else(|| wrong(text, format!("`{text}` names no place"), "Write it as `open@tail:plug`, KIND@PLACE"))?;
        let kind = FaultKind::WORDS.iter().find(|(known, _)| *known == word).map(|(_, kind)| *kind).ok_or_else(|| {
            let known: Vec<String> = FaultKind::WORDS.iter().map(|(word, _)| (*word).to_owned()).collect();
            wrong(text, format!("`{word}` is not a kind of fault"), format!("Use {}", or_list(&known)))
        })?;
        let (place, size) = match rest.rsplit_once('=') {
            None => (rest, None),
            Some((place, size)) => {
                let number = size.parse::<f64>().ok().filter(|number| number.is_finite());
                (place, Some(number.ok_or_else(|| wrong(text, format!("`{size}` is not a number"), "Write the size as `=3`"))?))
            }
        };
        let (at, size) = placed(build, text, kind, place, size)?;
        Ok(Fault { kind, at, size })
    }

    /// Its name.
    pub fn name(&self, build: &Build) -> String {
        let feeds = build.feeds();
        let feed = |index: usize| feeds.get(index).map_or("?", |feed| feed.id.as_str());
        let light = |index: usize| build.lights[index].id.as_str();
        let mut size = self.size.map_or_else(String::new, |size| format!("={size}"));
        let place = match self.at {
            At::Joint(index, side, joint @ (Joint::From | Joint::To)) => format!("{}:{}{}", feed(index), joint.word(), sign(side)),
            At::Joint(index, _, joint) => format!("{}:{}", feed(index), joint.word()),
            At::Part(index, _) | At::Consumer(index) => feed(index).to_owned(),
            At::Along(index, share) => {
                size = format!("={share}");
                feed(index).to_owned()
            }
            At::String(index, string) => format!("{}/{}", light(index), string + 1),
            At::Led(index, string, led) => format!("{}/{}.{}", light(index), string + 1, led + 1),
            At::Rail(index, tap, side) => {
                // Half way to the next tap, where nobody can take it for another.
                let step = taps(&build.lights[index].load).map_or(0.0, |(step, _)| step);
                format!("{}@{}{}", light(index), metres(tap_m(step, tap) + 0.5 * step), sign(side))
            }
            At::Resistor(index) => format!("{}.resistor", light(index)),
            At::Setting(index) => {
                let part = &build.converters[index];
                format!("{}.{}", part.id, part.setting_field())
            }
            At::Source => "source".to_owned(),
            At::Pixel(index, pixel) => {
                size = format!("={}", pixel + 1);
                light(index).to_owned()
            }
            At::Data(index) => light(index).to_owned(),
        };
        format!("{}@{place}{size}", self.kind.word())
    }
}

/// Where a fault of this kind sits, and its size.
fn placed(build: &Build, text: &str, kind: FaultKind, place: &str, size: Option<f64>) -> Result<(At, Option<f64>), BenchError> {
    let sized = |at: At| Ok((at, None));
    if size.is_some() && !matches!(kind, FaultKind::WeakJoint | FaultKind::Short | FaultKind::WrongValue | FaultKind::DeadPixel) {
        return Err(wrong(text, format!("`{}` has no size", kind.word()), "Leave `=` and what follows away"));
    }
    match kind {
        FaultKind::Open => sized(joint(build, text, place)?),
        FaultKind::WeakJoint => {
            let ohm = size.filter(|ohm| (WEAK_OHM.0..=WEAK_OHM.1).contains(ohm));
            let ohm = ohm.ok_or_else(|| wrong(text, "a weak joint needs its resistance", "Write it as `weak_joint@tail:plug=3`, 0.001 to 1e6 ohms"))?;
            Ok((joint(build, text, place)?, Some(ohm)))
        }
        FaultKind::Short if place.contains('/') => {
            if size.is_some() {
                return Err(wrong(text, "a short across one LED has no size", "Leave `=` and what follows away"));
            }
            sized(led(build, text, place)?)
        }
        FaultKind::Short => {
            let share = size.unwrap_or(1.0);
            if !(0.0..=1.0).contains(&share) {
                return Err(wrong(text, format!("{share} is not a share of a length"), "Give 0 at the supply to 1 at the far end"));
            }
            sized(At::Along(feed(build, text, place)?, share))
        }
        FaultKind::Reversed if place.contains('/') => sized(led(build, text, place)?),
        FaultKind::Reversed if place == "source" => match turned_cell(build) {
            Some(_) => sized(At::Source),
            None => Err(wrong(text, "no cell of this source can be put in the wrong way round", "Name a light or a converter")),
        },
        FaultKind::Reversed => {
            let index = feed(build, text, place)?;
            match build.feeds()[index].consumer {
                Consumer::Junction(_) => Err(wrong(text, format!("`{place}` is a junction, which has no polarity"), "Name a light or a converter")),
                Consumer::Circuit(_) => Err(wrong(text, format!("`{place}` is a circuit, which is tried by itself"), "Name a light or a converter")),
                Consumer::Controller(_) => Err(wrong(text, format!("`{place}` is a controller, which is tried by itself"), "Name a light or a converter")),
                _ => sized(At::Consumer(index)),
            }
        }
        FaultKind::Burnt => sized(led(build, text, place)?),
        FaultKind::Blown | FaultKind::StuckOpen => {
            let index = feed(build, text, place)?;
            let (part, there) = match kind {
                FaultKind::Blown => (Joint::Fuse, build.feeds()[index].feed.fuse.is_some()),
                _ => (Joint::Switch, build.feeds()[index].feed.switch.is_some()),
            };
            if !there {
                return Err(wrong(text, format!("feed `{place}` has no {}", part.word()), "Name a feed that has one"));
            }
            sized(At::Part(index, part))
        }
        FaultKind::WrongValue => wrong_value(build, text, place, size),
        FaultKind::Tired if place == "source" => sized(At::Source),
        FaultKind::Tired => Err(wrong(text, format!("`{place}` is not a battery"), "Write it as `tired@source`")),
        FaultKind::DeadPixel => {
            let (light, count) = pixels(build, text, place)?;
            let pixel = size.filter(|number| number.fract() == 0.0 && (1.0..=count as f64).contains(number));
            let pixel = pixel.ok_or_else(|| wrong(text, format!("`{place}` has pixels 1 to {count}"), format!("Write it as `dead_pixel@{place}=17`")))?;
            sized(At::Pixel(light, pixel as usize - 1))
        }
        FaultKind::CutData => sized(At::Data(pixels(build, text, place)?.0)),
    }
}

fn feed(build: &Build, text: &str, id: &str) -> Result<usize, BenchError> {
    feed_index(build, id).ok_or_else(|| {
        let known: Vec<String> = build.feeds().into_iter().map(|feed| feed.id).collect();
        wrong(text, format!("there is no feed `{id}`"), format!("Name {}", or_list(&known)))
    })
}

fn light(build: &Build, text: &str, id: &str) -> Result<usize, BenchError> {
    build.lights.iter().position(|light| light.id == id).ok_or_else(|| {
        let known: Vec<String> = build.lights.iter().map(|light| light.id.clone()).collect();
        wrong(text, format!("there is no light `{id}`"), format!("Name {}", or_list(&known)))
    })
}

fn pixels(build: &Build, text: &str, id: &str) -> Result<(usize, usize), BenchError> {
    let index = light(build, text, id)?;
    match &build.lights[index].load {
        Load::Pixels(pixels) => Ok((index, pixels.count as usize)),
        _ => Err(wrong(text, format!("`{id}` has no pixels"), "Name a light with addressable pixels")),
    }
}

/// A joint of a feed, a string of an array or a place on a rail.
fn joint(build: &Build, text: &str, place: &str) -> Result<At, BenchError> {
    if let Some((id, at)) = place.rsplit_once('@') {
        let index = light(build, text, id)?;
        let (step, count) = taps(&build.lights[index].load).ok_or_else(|| wrong(text, format!("`{id}` has no rails"), "Name a strip or pixels"))?;
        let (at, side) = split_side(at).ok_or_else(|| wrong(text, format!("`{place}` does not say which rail"), "End it with + or -"))?;
        let metre = at.parse::<f64>().ok().filter(|at| (0.0..=step * count as f64 + 1e-9).contains(at));
        let metre = metre.ok_or_else(|| wrong(text, format!("`{at}` is not a place along `{id}`"), format!("Give 0 to {} m", metres(step * count as f64))))?;
        // Between the taps on either side of it.
        let before = (metre / step - 0.5 + 1e-9).floor();
        if count < 2 || before < 0.0 || before as usize + 1 >= count {
            return Err(wrong(text, format!("at {at} m there is no tap of `{id}` on one of its sides"), "Name a place between two taps"));
        }
        return Ok(At::Rail(index, before as usize, side));
    }
    if let Some((id, string)) = place.rsplit_once('/') {
        let index = light(build, text, id)?;
        let Load::LedArray(array) = &build.lights[index].load else { return Err(wrong(text, format!("`{id}` has no strings"), "Name an LED array")) };
        let number = string.parse::<usize>().ok().filter(|number| (1..=array.parallel as usize).contains(number));
        let number = number.ok_or_else(|| wrong(text, format!("`{id}` has strings 1 to {}", array.parallel), format!("Write it as `open@{id}/1`")))?;
        return Ok(At::String(index, number - 1));
    }
    let (id, word) =
        place.rsplit_once(':').ok_or_else(|| wrong(text, format!("`{place}` names no joint"), "Write it as `tail:from+`, `tail:plug` or `tail:to-`"))?;
    let index = feed(build, text, id)?;
    let feeds = build.feeds();
    let (word, side) = split_side(word).unwrap_or((word, Side::Plus));
    let there = joints(feeds[index].feed, side);
    there.iter().find(|joint| joint.word() == word).map(|joint| At::Joint(index, side, *joint)).ok_or_else(|| {
        let known: Vec<String> = there.iter().map(|joint| joint.word().to_owned()).collect();
        wrong(text, format!("that side of feed `{id}` has no joint `{word}`"), format!("Name {}", or_list(&known)))
    })
}

/// `tail/2.1`: LED 1 of string 2.
fn led(build: &Build, text: &str, place: &str) -> Result<At, BenchError> {
    let (id, numbers) = place.rsplit_once('/').ok_or_else(|| wrong(text, format!("`{place}` names no LED"), "Write it as `tail/2.1`: string 2, LED 1"))?;
    let index = light(build, text, id)?;
    let Load::LedArray(array) = &build.lights[index].load else { return Err(wrong(text, format!("`{id}` has no LEDs to be named"), "Name an LED array")) };
    let found = numbers.split_once('.').and_then(|(string, led)| Some((string.parse::<usize>().ok()?, led.parse::<usize>().ok()?)));
    let fits = |&(string, led): &(usize, usize)| (1..=array.parallel as usize).contains(&string) && (1..=array.series as usize).contains(&led);
    let (string, led) = found
        .filter(fits)
        .ok_or_else(|| wrong(text, format!("`{id}` has no LED `{numbers}`"), format!("Name `{id}/1.1` to `{id}/{}.{}`", array.parallel, array.series)))?;
    Ok(At::Led(index, string - 1, led - 1))
}

fn wrong_value(build: &Build, text: &str, place: &str, size: Option<f64>) -> Result<(At, Option<f64>), BenchError> {
    let usage = "Write it as `wrong_value@tail.resistor=10` (a factor) or `wrong_value@five-volt.set_v=5.6`";
    let size = size.filter(|size| (1e-6..=1e6).contains(size)).ok_or_else(|| wrong(text, "a wrong value needs its size", usage))?;
    let (id, field) = place.rsplit_once('.').ok_or_else(|| wrong(text, format!("`{place}` names no value"), usage))?;
    if field == "resistor" {
        let index = light(build, text, id)?;
        return match &build.lights[index].load {
            Load::LedArray(array) if array.resistor_ohm > 0.0 => Ok((At::Resistor(index), Some(size))),
            _ => Err(wrong(text, format!("`{id}` has no resistor"), usage)),
        };
    }
    let index = build.converters.iter().position(|converter| converter.id == id);
    let index = index.ok_or_else(|| wrong(text, format!("there is no converter `{id}`"), usage))?;
    let own = build.converters[index].setting_field();
    if field != own {
        return Err(wrong(text, format!("`{id}` is set by `{own}`"), usage));
    }
    Ok((At::Setting(index), Some(size)))
}

/// Every single fault that a build can have, at every place, in the sizes that are told apart: a weak joint of 0.5, 3 and
/// 20 ohms, a pinch at both ends and in the middle, a tenth and ten times a resistor, a setting a fifth off.
pub fn every(build: &Build) -> Vec<Fault> {
    let mut all = Vec::new();
    let mut add = |kind: FaultKind, at: At, size: Option<f64>| all.push(Fault { kind, at, size });
    let bad = |add: &mut dyn FnMut(FaultKind, At, Option<f64>), at: At| {
        add(FaultKind::Open, at, None);
        for ohm in [0.5, 3.0, 20.0] {
            add(FaultKind::WeakJoint, at, Some(ohm));
        }
    };
    for (index, feed) in build.feeds().iter().enumerate() {
        for side in [Side::Plus, Side::Minus] {
            for joint in joints(feed.feed, side) {
                bad(&mut add, At::Joint(index, side, joint));
            }
        }
        if feed.feed.fuse.is_some() {
            add(FaultKind::Blown, At::Part(index, Joint::Fuse), None);
        }
        if feed.feed.switch.is_some() {
            add(FaultKind::StuckOpen, At::Part(index, Joint::Switch), None);
        }
        for share in [0.0, 0.5, 1.0] {
            add(FaultKind::Short, At::Along(index, share), None);
        }
        let alone = match feed.consumer {
            Consumer::Junction(_) | Consumer::Circuit(_) | Consumer::Controller(_) => false,
            Consumer::Converter(_) => true,
            // A strip with several feeds the wrong way round at one of them is a short.
            Consumer::Light(_) => true,
        };
        if alone {
            add(FaultKind::Reversed, At::Consumer(index), None);
        }
    }
    for (light, part) in build.lights.iter().enumerate() {
        match &part.load {
            Load::LedArray(array) => {
                for string in 0..array.parallel as usize {
                    add(FaultKind::Open, At::String(light, string), None);
                    for led in 0..array.series as usize {
                        for kind in [FaultKind::Burnt, FaultKind::Short, FaultKind::Reversed] {
                            add(kind, At::Led(light, string, led), None);
                        }
                    }
                }
                if array.resistor_ohm > 0.0 {
                    for factor in [0.1, 10.0] {
                        add(FaultKind::WrongValue, At::Resistor(light), Some(factor));
                    }
                }
            }
            Load::Pixels(pixels) => {
                for pixel in 0..pixels.count as usize {
                    add(FaultKind::DeadPixel, At::Pixel(light, pixel), None);
                }
                add(FaultKind::CutData, At::Data(light), None);
            }
            Load::Strip(_) | Load::Module(_) => {}
        }
        let count = taps(&part.load).map_or(0, |(_, count)| count);
        for tap in 0..count.saturating_sub(1) {
            for side in [Side::Plus, Side::Minus] {
                add(FaultKind::Open, At::Rail(light, tap, side), None);
            }
        }
    }
    for (index, converter) in build.converters.iter().enumerate() {
        let (set, _) = converter.setting();
        for factor in [0.8, 1.2] {
            add(FaultKind::WrongValue, At::Setting(index), Some((factor * set * 1e9).round() / 1e9));
        }
    }
    if matches!(build.source, Source::Battery(_)) {
        add(FaultKind::Tired, At::Source, None);
    }
    if turned_cell(build).is_some() {
        add(FaultKind::Reversed, At::Source, None);
    }
    all
}
