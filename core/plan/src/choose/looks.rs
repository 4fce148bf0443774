//! How bright a light should look: the level of a scene, the resistor or the setting of a converter that gives it.
//!
//! An eye takes a fifth of the light for half as bright, so the share of light follows from the wish by CIE lightness, and
//! each way is searched for by solving the build.

use super::*;
use orthavis_model::document::{Conversion, Converter, Light, Load, Scene};
use orthavis_model::laws::light::{looks, share_that_looks};
use orthavis_model::laws::resistor::Series;
use orthavis_model::states::Lit;
use orthavis_model::topology::{Node, Topology};
use orthavis_model::working::{Rule, fact, plain, quantity};
use orthavis_physics::light::source_lm;

/// Halvings of a search: a thousandth of its range is finer than an eye.
const STEPS: usize = 14;
/// How far from the wish still looks the same.
const SAME: f64 = 0.03;

const LOOKS: Rule = Rule { words: "An eye takes a fifth of the light for half as bright.", formula: "L*/100 of Φ / Φ_rated", source: "CIE 1976 lightness" };

/// A light of a scene as bright as it should look, 0 to 1: each way there is.
///
/// # Errors
/// When there is no such light or scene, or the wish is out of range.
pub fn for_light(build: &Build, light: &str, scene: Option<&str>, wish: f64) -> Result<Vec<Choice>, ChooseError> {
    within("how bright it should look", wish, 0.0, 1.0, "a share above 0 and at most 1")?;
    let index = build.lights.iter().position(|known| known.id == light).ok_or_else(|| ChooseError::Unknown { what: "light", id: light.into() })?;
    let scene = match scene {
        Some(id) => build.scenes.iter().find(|known| known.id == id).ok_or_else(|| ChooseError::Unknown { what: "scene", id: id.into() })?,
        None => build.scenes.first().ok_or_else(|| ChooseError::Unknown { what: "scene", id: String::new() })?,
    };
    let search = Search { build, index, scene: scene.clone(), wanted: share_that_looks(wish) };
    let mut choices = vec![search.level(wish)];
    choices.extend(search.resistor(wish));
    choices.extend(search.rail(wish));
    rank(&mut choices, |choice| (choice.figure("looks").unwrap_or(0.0) - wish).abs() > SAME);
    tried(build, choices)
}

struct Search<'a> {
    build: &'a Build,
    index: usize,
    scene: Scene,
    wanted: f64,
}

impl Search<'_> {
    fn light(&self) -> &Light {
        &self.build.lights[self.index]
    }

    /// Share of its rated light in every state, fullest first, with a change made; nothing where it cannot be solved.
    fn shares(&self, edit: &dyn Fn(&mut Build)) -> Option<Vec<(State, f64)>> {
        let mut copy = Build { scenes: vec![self.scene.clone()], ..self.build.clone() };
        edit(&mut copy);
        let light = &copy.lights[self.index];
        let rated = light.rated_lm();
        let found = solved(&copy, &[]).ok()?;
        let share = |point: &PointReport| {
            let output = point.lights.get(&light.id).map_or(0.0, |report| report.output);
            let lit = point.lit.get(self.index).cloned().unwrap_or(Lit::OFF);
            (point.state, if rated > 0.0 { source_lm(light, &lit, output) / rated } else { 0.0 })
        };
        (!found.points.is_empty()).then(|| found.points.iter().map(share).collect())
    }

    /// The least of a range, scanned by ratio where `by_ratio`, at which the fullest state gives the wanted share; light grows
    /// from `dim` to `bright`.
    fn found(&self, dim: f64, bright: f64, by_ratio: bool, edit: &dyn Fn(&mut Build, f64)) -> Option<f64> {
        let at = |share: f64| if by_ratio { dim * (bright / dim).powf(share) } else { dim + share * (bright - dim) };
        let (mut low, mut high) = (0.0, 1.0);
        for _ in 0..STEPS {
            let middle = 0.5 * (low + high);
            let shares = self.shares(&|build| edit(build, at(middle)))?;
            if shares[0].1 < self.wanted { low = middle } else { high = middle }
        }
        Some(at(high))
    }

    /// What a change gives, as a choice.
    fn choice(&self, title: String, wish: f64, pick: Pick, edit: &dyn Fn(&mut Build)) -> Choice {
        let shares = self.shares(edit).unwrap_or_default();
        let seen: Vec<(State, f64)> = shares.iter().map(|(state, share)| (*state, looks(*share))).collect();
        let full = seen.first().map_or(0.0, |(_, looks)| *looks);
        let last = seen.last().map_or(0.0, |(_, looks)| *looks);
        let steady = (full - last).abs() < SAME;
        let tradeoff = if steady {
            format!("Looks {:.0} % as bright, from full to reserve.", 100.0 * full)
        } else {
            format!("Looks {:.0} % as bright when full, {:.0} % at its emptiest.", 100.0 * full, 100.0 * last)
        };
        let mut choice = Choice::new(title, tradeoff, pick);
        choice.works = (full - wish).abs() <= SAME;
        if !choice.works {
            choice.caution = Some(format!("It only reaches {:.0} %.", 100.0 * full));
        }
        let given = |share: f64| vec![quantity("Φ/Φ_rated", "share of its rated light", share, "1")];
        if let (Some(first), Some(end)) = (shares.first(), shares.last()) {
            choice.figures = vec![
                fact("looks", "Looks, when full", "L", full, "1", &LOOKS, given(first.1)),
                fact("looks_last", "Looks, at its emptiest", "L", last, "1", &LOOKS, given(end.1)),
            ];
        }
        choice
    }

    /// Dimmed in this scene.
    fn level(&self, wish: f64) -> Choice {
        let id = self.light().id.clone();
        let set = |build: &mut Build, level: f64, scene: &str| {
            for known in build.scenes.iter_mut().filter(|known| known.id == scene) {
                known.lights.entry(id.clone()).or_insert(orthavis_model::document::SceneLight::FULL).level = level;
            }
        };
        let scene = self.scene.id.clone();
        let found = self.found(0.0, 1.0, false, &|build, level| set(build, level, &scene)).unwrap_or(1.0);
        let level = (found * 1000.0).round().max(1.0) / 1000.0;
        let name = &self.scene.name;
        let title = format!("Dim it to {} in \u{201c}{name}\u{201d}", plain(level, "1"));
        self.choice(title, wish, Pick::Level { level }, &|build| set(build, level, &scene)).changing(self.build, |copy| {
            set(copy, level, &scene);
            Some(())
        })
    }

    /// Another resistor in each row of an array.
    fn resistor(&self, wish: f64) -> Option<Choice> {
        let Load::LedArray(array) = &self.light().load else { return None };
        if array.resistor_ohm <= 0.0 {
            return None;
        }
        let index = self.index;
        let set = move |build: &mut Build, ohm: f64| {
            if let Load::LedArray(array) = &mut build.lights[index].load {
                array.resistor_ohm = ohm;
            }
        };
        let found = self.found(1000.0 * array.resistor_ohm, 0.2 * array.resistor_ohm, true, &|build, ohm| set(build, ohm))?;
        // The next one up: less light, and less current.
        let ohm = orthavis_model::laws::resistor::above(Series::E24, 0.98 * found);
        let choice = self.choice(format!("{} in each row", plain(ohm, "ohm")), wish, Pick::Resistor { resistor_ohm: ohm }, &|build| set(build, ohm));
        Some(choice.changing(self.build, |copy| {
            set(copy, ohm);
            Some(())
        }))
    }

    /// Another setting of the converter that feeds it, where it feeds nothing else and the light follows its voltage.
    fn rail(&self, wish: f64) -> Option<Choice> {
        if matches!(self.light().load, Load::Pixels(_)) {
            return None;
        }
        let graph = Topology::of(self.build);
        let node = Node::Light(self.index);
        let Node::Converter(at) = graph.supply(graph.from(graph.inlet(node)?)) else { return None };
        let others = graph.below(Node::Converter(at)).into_iter().any(|below| below != node && !below.passes());
        let now = self.build.converters[at].set_v()?;
        if others || set_of(&mut self.build.converters[at].clone()).is_none() {
            return None;
        }
        let set = move |build: &mut Build, volts: f64| {
            if let Some(set_v) = set_of(&mut build.converters[at]) {
                *set_v = volts;
            }
        };
        let tenth = |volts: f64| (10.0 * volts).round() / 10.0;
        let found = tenth(self.found(0.2 * now, now, false, &|build, volts| set(build, volts))?);
        let id = &self.build.converters[at].id;
        let choice = self.choice(format!("Set {id} to {}", plain(found, "V")), wish, Pick::Rail { set_v: found }, &|build| set(build, found));
        Some(choice.changing(self.build, |copy| {
            set(copy, found);
            Some(())
        }))
    }
}

/// What a converter is set to, where it is set to a voltage.
fn set_of(converter: &mut Converter) -> Option<&mut f64> {
    match &mut converter.conversion {
        Conversion::Buck(own) => Some(&mut own.set_v),
        Conversion::Boost(own) => Some(&mut own.set_v),
        Conversion::BuckBoost(own) => Some(&mut own.set_v),
        Conversion::Linear(own) => Some(&mut own.set_v),
        Conversion::CurrentDriver(_) => None,
    }
}
