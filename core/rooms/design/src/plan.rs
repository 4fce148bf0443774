//! One design: a supply, a lamp for each wished light and what feeds them, as a whole build that was judged.

use crate::lamps::Lamp;
use crate::wish::{Wish, wire_m};
use orthavis_judge::findings::{Finding, Severity, rate_switching, solved_for_mending};
use orthavis_model::document::{
    Build, Converter, Direction, Feed, Gauge, Hands, Junction, Load, Make, Part, Purpose, RainbowEffect, SceneLight, Source, Switch, Trait, What, is_sound,
};
use orthavis_model::edit::{converter_name, free_id, plain_feed};
use orthavis_plan::choose::size;
use orthavis_plan::propose;

/// How lamps that want a voltage of their own get it.
#[derive(Clone, Debug, PartialEq)]
pub enum Feeding {
    /// Whatever the helper finds best: straight, or a module of the right rating.
    Best,
    /// Straight from the supply.
    Straight,
    /// A converter of the library.
    By(&'static Part),
}

/// A design before it is drawn up.
#[derive(Clone, Debug)]
pub struct Sketch<'a> {
    /// The supply.
    pub source: Source,
    /// Its pack, where it is one of the lights' own.
    pub pack: Option<&'static Part>,
    /// The lamp of each wished light.
    pub lamps: Vec<&'a Lamp>,
    /// What feeds those that want so many volts.
    pub feeding: Vec<(f64, Feeding)>,
}

/// Switches that are sold, A.
const SWITCH_A: f64 = 6.0;
/// A small plug, A; and slack for what steers or folds, m.
const PLUG_A: f64 = 3.0;
const SLACK_M: f64 = 0.1;
/// From the supply to the block that everything hangs on, m.
const BLOCK_M: f64 = 0.3;

impl Sketch<'_> {
    /// What it is, in a line.
    pub fn words(&self, wish: &Wish) -> String {
        let short = |part: &Part| part.name.split(',').next().unwrap_or(&part.name).to_owned();
        let light = |(light, lamp): (&crate::wish::WishedLight, &&Lamp)| {
            let count = light.count * lamp.lights * if matches!(lamp.part.what, What::Led { .. }) { lamp.count.unwrap_or(1) } else { 1 };
            let many = if count > 1 { format!("{count}× ") } else { String::new() };
            format!("{many}{} at {}", short(lamp.part), light.place)
        };
        let mut words: Vec<String> = wish.lights.iter().zip(&self.lamps).map(light).collect();
        words.extend(self.feeding.iter().filter_map(|(_, feeding)| if let Feeding::By(part) = feeding { Some(format!("by a {}", short(part))) } else { None }));
        words.extend(self.pack.map(|pack| format!("on its own {}", short(pack))));
        words.join(", ")
    }

    /// The build, every part sized; `None` where it cannot be drawn up.
    pub fn drawn(&self, wish: &Wish) -> Option<Build> {
        let mut build = wish.empty(self.source.clone());
        if let Source::Battery(battery) = &mut build.source {
            battery.own = self.pack.is_some();
        }
        let mut converters: Vec<(f64, String)> = Vec::new();
        for (light, lamp) in wish.lights.iter().zip(&self.lamps) {
            let length_m = wire_m(wish.kind, wish.variant.as_deref(), &light.place);
            for _ in 0..light.count * lamp.lights {
                let from = self.from(&mut build, lamp, &mut converters)?;
                let known = build.lights.len();
                let what = propose::Wish::Light {
                    part: Box::new(lamp.part.clone()),
                    count: lamp.count,
                    piece_m: lamp.piece_m,
                    place: light.place.clone(),
                    from,
                    length_m,
                };
                build = propose::add(&build, &what).ok()?;
                let ids: Vec<String> = build.lights[known..].iter().map(|light| light.id.clone()).collect();
                let traits = build.traits_of(&light.place).to_vec();
                for added in &mut build.lights[known..] {
                    added.purpose = Some(light.purpose);
                    added.feeds.iter_mut().for_each(|feed| fitted(feed, &traits));
                }
                for scene in &mut build.scenes {
                    for id in &ids {
                        scene.lights.insert(id.clone(), lit(lamp, light.purpose));
                    }
                }
            }
        }
        with_controller(&mut build)?;
        gathered(&mut build);
        build.make = (wish.hands != Hands::Solder).then(|| Make { hands: Some(wish.hands), ..Make::default() });
        finished(build)
    }

    /// What a lamp is fed from; `None` within: the helper chooses.
    fn from(&self, build: &mut Build, lamp: &Lamp, made: &mut Vec<(f64, String)>) -> Option<Option<String>> {
        let volts = lamp.volts[1];
        // LEDs on their own are arranged for whatever there is.
        if matches!(lamp.part.what, What::Led { .. }) {
            return Some(None);
        }
        let feeding = self.feeding.iter().find(|(known, _)| *known == volts).map_or(&Feeding::Best, |(_, feeding)| feeding);
        match feeding {
            Feeding::Best => Some(None),
            Feeding::Straight => Some(Some("source".into())),
            Feeding::By(part) => {
                if let Some((_, id)) = made.iter().find(|(known, _)| *known == volts) {
                    return Some(Some(id.clone()));
                }
                let What::Converter { figures } = &part.what else { return None };
                let id = free_id(build, &converter_name(figures));
                build.converters.push(Converter { id: id.clone(), feed: plain_feed("source", BLOCK_M, Gauge::Awg(20)), ..figures.clone() });
                made.push((volts, id.clone()));
                Some(Some(id))
            }
        }
    }
}

/// What is taken off has a plug in its wire, what moves has slack.
fn fitted(feed: &mut Feed, traits: &[Trait]) {
    if traits.contains(&Trait::Removable) {
        (feed.contacts, feed.contact_rating_a) = (1, Some(PLUG_A));
    }
    if traits.contains(&Trait::Moving) {
        feed.slack_m = Some(SLACK_M);
        feed.length_m += SLACK_M;
    }
}

fn lit(lamp: &Lamp, purpose: Purpose) -> SceneLight {
    let effect = (purpose == Purpose::Show).then(|| RainbowEffect { period_s: 6.0, direction: Direction::Away }.into());
    SceneLight { colour: lamp.set_to.unwrap_or([1.0; 3]), effect, ..SceneLight::FULL }
}

/// A board for pixels, fed as they are.
fn with_controller(build: &mut Build) -> Option<()> {
    let Some(pixels) = build.lights.iter().find(|light| matches!(light.load, Load::Pixels(_))) else { return Some(()) };
    let from = pixels.feeds[0].from.clone();
    *build = propose::add(build, &propose::Wish::Controller { from }).ok()?;
    Some(())
}

/// Everything on the supply behind one fuse and one switch.
fn gathered(build: &mut Build) {
    let switch = Some(Switch::of(SWITCH_A));
    let count = build.feeds().iter().filter(|feed| feed.feed.from == "source").count();
    let id = free_id(build, "block");
    let feeds = build
        .lights
        .iter_mut()
        .flat_map(|light| &mut light.feeds)
        .chain(build.converters.iter_mut().map(|one| &mut one.feed))
        .chain(build.controllers.iter_mut().map(|one| &mut one.feed))
        .filter(|feed| feed.from == "source");
    if count < 2 {
        for feed in feeds {
            feed.switch.clone_from(&switch);
        }
        return;
    }
    for feed in feeds {
        feed.from.clone_from(&id);
    }
    build.junctions.push(Junction { id, feed: Feed { switch, ..plain_feed("source", BLOCK_M, Gauge::Awg(18)) } });
}

/// With wires, fuses, switches and plugs for what they carry; `None` where something still stands against it.
fn finished(build: Build) -> Option<Build> {
    let mut sized = size::everything_of(&build).ok()?;
    for _ in 0..2 {
        if !is_sound(&sized) {
            return None;
        }
        let (_, found) = solved_for_mending(&sized, &[])?;
        let wrong: Vec<&Finding> = found.iter().filter(|one| one.severity != Severity::Note).collect();
        if wrong.is_empty() {
            return Some(sized);
        }
        let mut mended = sized.clone();
        for over in wrong.iter().filter(|one| matches!(one.code, "switch.over" | "contact.over" | "switch.voltage")) {
            rate_switching(&mut mended, over.code, &over.subject, over.value);
        }
        if mended == sized {
            return None;
        }
        sized = size::everything_of(&mended).ok()?;
    }
    None
}
