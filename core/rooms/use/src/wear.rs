//! What wears, how far it is, and when to look at it.

use crate::told::{Told, What};
use orthavis_model::document::{Build, Chemistry, Fixing, Load, MovingKind, Source, Trait};
use orthavis_model::fixing::chosen;
use orthavis_model::moment::Moment;
use orthavis_model::moment::date_of;
use serde::Serialize;
use std::collections::BTreeMap;

/// Something that wears.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wear {
    /// Which, as `seal:tail`; a `part` event of this name that says `looked` or `replaced` begins it anew.
    pub id: String,
    /// What, in words.
    pub what: String,
    /// The part of the build, where it is one.
    pub part: Option<String>,
    /// How far it is.
    pub used: f64,
    /// How far it goes until it is looked at.
    pub look_at: f64,
    /// Unit of the two: h, days, or a count.
    pub unit: &'static str,
    /// Whole life as it is usual, in the same unit; absent where it is looked at only.
    pub life: Option<f64>,
    /// The day on which to look, as it goes; absent: not within two years.
    pub due: Option<String>,
    /// What to look for.
    pub look: &'static str,
    /// When it was last looked at or replaced, else first used.
    pub since: String,
}

/// Hours after which an LED gives seven tenths of its light.
const LED_LIFE_H: f64 = 25_000.0;
/// Hours of light after which a look at it pays.
const LED_LOOK_H: f64 = 1000.0;
/// Times that a small plug is parted before it is looked at, and in its life.
const PLUG: (f64, f64) = (50.0, 500.0);
/// Days between looks at seals, and their life.
const SEAL: (f64, f64) = (365.0, 5.0 * 365.0);
/// Days between looks at tape and glue that hold a part.
const HOLD_DAYS: f64 = 182.0;
/// Days between looks at the water of flooded cells.
const WATER_DAYS: f64 = 30.0;
/// Hours of light, as of movement, between looks at a wire that moves.
const MOVING_H: f64 = 40.0;
/// Days between looks at fuse holders and screwed joints.
const FUSE_DAYS: f64 = 365.0;
/// Days ahead for which a date is said.
const AHEAD: f64 = 730.0;

/// Life of a build so far.
struct Past<'a, 'b> {
    told: &'b [Told<'a>],
    now: Moment,
    began: Moment,
    /// Light of a day, h, as it goes.
    lit_day_h: f64,
    charges_a_day: f64,
}

impl Past<'_, '_> {
    /// When something was last looked at or made anew.
    fn since(&self, id: &str) -> Moment {
        let touched =
            |one: &&Told<'_>| matches!(&one.what, What::Part { part, change, .. } if part == id && matches!(change.as_str(), "looked" | "replaced" | "fitted"));
        self.told.iter().rev().find(touched).map_or(self.began, |one| one.at)
    }

    fn rides(&self, since: Moment) -> impl Iterator<Item = &BTreeMap<String, f64>> {
        self.told.iter().filter(move |one| one.at.s >= since.s).filter_map(|one| match &one.what {
            What::Ride(ride) => Some(ride.lit()),
            _ => None,
        })
    }

    fn charges(&self, since: Moment) -> f64 {
        self.told.iter().filter(|one| one.at.s >= since.s && matches!(one.what, What::Charge(_))).count() as f64
    }

    fn days(&self, since: Moment) -> f64 {
        (self.now.s - since.s).max(0) as f64 / 86_400.0
    }

    fn due(&self, used: f64, look_at: f64, a_day: f64) -> Option<String> {
        let days = if a_day > 0.0 { (look_at - used) / a_day } else { f64::INFINITY };
        (days <= AHEAD).then(|| date_of(self.now.day() + days.max(0.0).ceil() as i64))
    }
}

/// What of a build wears, most urgent first. Nothing before it was ever used.
pub fn wear(build: &Build, told: &[Told<'_>], now: Moment) -> Vec<Wear> {
    let used = |one: &&Told<'_>| matches!(one.what, What::Ride(_) | What::Charge(_) | What::Part { .. });
    let Some(first) = told.iter().find(used) else { return Vec::new() };
    let days = ((now.s - first.at.s) as f64 / 86_400.0).max(7.0);
    let mut past = Past { told, now, began: first.at, lit_day_h: 0.0, charges_a_day: 0.0 };
    past.lit_day_h = past.rides(first.at).map(|minutes| minutes.values().sum::<f64>()).sum::<f64>() / 60.0 / days;
    past.charges_a_day = past.charges(first.at) / days;
    let mut all = Vec::new();
    for light in &build.lights {
        all.push(of_light(build, light, &past));
        if build.traits_of(&light.place).contains(&Trait::Wet) {
            let id = format!("seal:{}", light.id);
            let look = "Water behind a lens, a lifted edge, green copper. Dry it and seal it anew; a seal is not mended on top.";
            all.push(by_days(&past, id, format!("Seals of {}", light.id), Some(&light.id), SEAL, look));
        }
        if matches!(chosen(build, &light.id), Fixing::FoamTape | Fixing::ClothTape | Fixing::HotGlue) {
            let id = format!("hold:{}", light.id);
            all.push(by_days(
                &past,
                id,
                format!("What holds {}", light.id),
                Some(&light.id),
                (HOLD_DAYS, f64::INFINITY),
                "Pull at it gently: tape and glue let go slowly, then all at once.",
            ));
        }
    }
    for feed in build.feeds() {
        let part = feed.id.split('#').next().unwrap_or_default().to_owned();
        if feed.feed.from == "source" && feed.feed.contacts > 0 {
            let id = format!("plug:{}", feed.id);
            let since = past.since(&id);
            let parted = past.charges(since);
            let look = "Springs that no longer grip, brown or melted plastic, a plug that gets warm. A loose one is replaced, not bent.";
            all.push(Wear {
                what: format!("Plug at the battery, to {part}"),
                part: Some(part.clone()),
                used: parted,
                look_at: PLUG.0,
                unit: "",
                life: Some(PLUG.1),
                due: past.due(parted, PLUG.0, past.charges_a_day),
                look,
                since: since.date(),
                id,
            });
        }
        if let Some(moving) = &feed.feed.moving {
            let id = format!("moving:{}", feed.id);
            let since = past.since(&id);
            let hours = past.rides(since).map(|minutes| minutes.values().sum::<f64>()).sum::<f64>() / 60.0;
            let look = if matches!(moving.kind, MovingKind::Loop | MovingKind::Hinge) {
                "Bend it and watch the light: a broken strand flickers first. Look at the places where it is held."
            } else {
                "Dirt and burn marks on the contact: clean it dry, never with oil. Light that flickers says it is time."
            };
            all.push(Wear {
                what: format!("What moves on the way to {part}"),
                part: Some(part),
                used: hours,
                look_at: MOVING_H,
                unit: "h",
                life: None,
                due: past.due(hours, MOVING_H, past.lit_day_h),
                look,
                since: since.date(),
                id,
            });
        }
    }
    if let Source::Battery(battery) = &build.source
        && battery.chemistry == Chemistry::LeadFlooded
    {
        let look = "Plates under water to the mark; only distilled water, only when full, gloves and glasses on. No flame near it.";
        all.push(by_days(&past, "water".into(), "Water of the cells".into(), None, (WATER_DAYS, f64::INFINITY), look));
    }
    if build.feeds().iter().any(|feed| feed.feed.fuse.is_some()) {
        let look = "Holders that got brown or loose, screws that turn. With the battery disconnected. A fuse is replaced by one of the same rating.";
        all.push(by_days(&past, "fuses".into(), "Fuse holders and screwed joints".into(), None, (FUSE_DAYS, f64::INFINITY), look));
    }
    all.sort_by(|a, b| (b.used / b.look_at).total_cmp(&(a.used / a.look_at)).then_with(|| a.id.cmp(&b.id)));
    all
}

fn of_light(build: &Build, light: &orthavis_model::document::Light, past: &Past<'_, '_>) -> Wear {
    let id = format!("light:{}", light.id);
    let since = past.since(&id);
    let lit =
        |scene: &str| build.scenes.iter().find(|known| known.id == scene).is_some_and(|known| known.lights.get(&light.id).is_some_and(|lit| lit.level > 0.0));
    let minutes: f64 = past.rides(since).flatten().filter(|(scene, _)| lit(scene)).map(|(_, minutes)| minutes).sum();
    let (used, all) = (minutes / 60.0, past.days(since).max(1.0));
    let look = match light.load {
        Load::Strip(_) | Load::Pixels(_) => "Dark or yellow groups, dim ends, cracks at cuts and corners. Hold it against a new piece of the same strip.",
        Load::LedArray(_) | Load::Module(_) => "Dimmer than it was, flickering, a brown spot. Heat ages LEDs more than hours do.",
    };
    Wear {
        what: format!("Light of {}", light.id),
        part: Some(light.id.clone()),
        used,
        look_at: LED_LOOK_H,
        unit: "h",
        life: Some(LED_LIFE_H),
        due: past.due(used, LED_LOOK_H, used / all),
        look,
        since: since.date(),
        id,
    }
}

fn by_days(past: &Past<'_, '_>, id: String, what: String, part: Option<&str>, (look_at, life): (f64, f64), look: &'static str) -> Wear {
    let since = past.since(&id);
    let used = past.days(since).floor();
    let life = Some(life).filter(|life| life.is_finite());
    Wear { what, part: part.map(str::to_owned), used, look_at, unit: "days", life, due: past.due(used, look_at, 1.0), look, since: since.date(), id }
}

/// A joint that failed more than once.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Again {
    /// The place, as a fault names it.
    pub place: String,
    /// What it was, in words.
    pub words: String,
    /// When, newest last.
    pub at: Vec<String>,
    /// What to do about it.
    pub advice: String,
}

/// Where a fault sits: what follows its kind, without a size.
fn place_of(was: &str) -> &str {
    let place = was.split_once('@').map_or(was, |(_, place)| place);
    place.split('=').next().unwrap_or(place)
}

/// What failed more than once at the same place.
pub fn again(told: &[Told<'_>]) -> Vec<Again> {
    let mut by_place: BTreeMap<String, Vec<(&Told<'_>, &str)>> = BTreeMap::new();
    for one in told {
        if let What::Repair { was, words, .. } = &one.what {
            let place = place_of(was).to_lowercase();
            if !place.is_empty() && place != "none" {
                by_place.entry(place).or_default().push((one, words.as_str()));
            }
        }
    }
    let mut all: Vec<Again> = by_place
        .into_iter()
        .filter(|(_, times)| times.len() > 1)
        .map(|(place, times)| {
            let fuse = times.iter().all(|(one, _)| matches!(&one.what, What::Repair { was, .. } if was.starts_with("blown")));
            let advice = if fuse {
                "A fuse that opens again has a reason: look for a pinched wire and for what draws more than planned. Never put in a larger one."
            } else {
                "Make it another way this time: crimp with the right tool and sleeve it, or solder and hold the wire beside the joint, and take the strain off it."
            };
            let words = times.last().map_or(String::new(), |(_, words)| (*words).to_owned());
            Again { place, words, at: times.iter().map(|(one, _)| one.event.at.clone()).collect(), advice: advice.into() }
        })
        .collect();
    all.sort_by(|a, b| b.at.last().cmp(&a.at.last()));
    all
}
