//! Ready shows: what people want of lights that move, one click each.

use orthavis_model::document::{
    BlinkEffect, BreatheEffect, Build, ChaseEffect, Direction, GradientEffect, LevelEffect, Light, Load, PixelEffect, PixelEffectRow, Scene, SceneLight,
    ShowInput, TableEffect,
};
use orthavis_model::laws::effect::Colour;
use orthavis_model::vehicle::Seen;
use orthavis_model::words;
use serde::Serialize;

words! {
    /// A ready show.
    ReadyShow {
        /// Which way it points.
        Orientation = "orientation" called "Which way it points",
        /// Charge.
        Gauge = "gauge" called "Charge gauge",
        /// Armed or not.
        Readiness = "readiness" called "State of readiness",
        /// What is wrong.
        Warning = "warning" called "Warning",
        /// Brake and turn.
        BrakeAndTurn = "brake_and_turn" called "Brake and turn",
        /// A trail.
        Trail = "trail" called "Motion trail",
        /// Find me.
        FindMe = "find_me" called "Find me",
        /// One colour.
        OneColour = "one_colour" called "One colour for the day",
        /// Parade.
        Parade = "parade" called "Parade",
    }
}

impl ReadyShow {
    /// What it is for, in a sentence.
    pub fn about(self) -> &'static str {
        match self {
            ReadyShow::Orientation => "Red to the left, green to the right, white behind, as the rules of air and water have it.",
            ReadyShow::Gauge => "As many pixels as there is charge, red when it is low, green when it is full.",
            ReadyShow::Readiness => "Breathing green while motors cannot turn, steady amber as soon as they can: stand back.",
            ReadyShow::Warning => "Dim white while all is well; red for the battery, amber for heat, blue for a lost radio.",
            ReadyShow::BrakeAndTurn => "A red rear that brightens with the brake, and amber on the side it turns to.",
            ReadyShow::Trail => "A bright spot with a tail runs along every piece.",
            ReadyShow::FindMe => "A white pulse once a second, for whoever looks for it.",
            ReadyShow::OneColour => "One warm colour on everything: the least work for the eye and the battery.",
            ReadyShow::Parade => "Lantern colours that wander slowly from piece to piece.",
        }
    }
}

/// A ready show with what it would be in a build.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ready {
    /// Which.
    pub show: ReadyShow,
    /// What it is called.
    pub name: &'static str,
    /// What it is for.
    pub about: &'static str,
    /// The scene that it becomes.
    pub scene: Scene,
}

const RED: Colour = [1.0, 0.0, 0.0];
const GREEN: Colour = [0.0, 1.0, 0.0];
const WHITE: Colour = [1.0; 3];
const AMBER: Colour = [1.0, 0.35, 0.0];
const BLUE: Colour = [0.0, 0.1, 1.0];
const LANTERN: Colour = [1.0, 0.42, 0.08];
/// An indicator blinks so often, s: some ninety times a minute.
const TURN_S: f64 = 0.67;
/// A trail once along, s: a short piece brightens with every pixel that it reaches, which is not to be a flicker.
const TRAIL_S: f64 = 3.6;
/// A pulse a second lasts so much of it.
const PULSE: f64 = 0.12;
/// A rear light that does not brake.
const TAIL: f64 = 0.25;

/// Which side of the vehicle a light is on.
#[derive(Clone, Copy, PartialEq)]
enum Side {
    Left,
    Right,
    Rear,
    Front,
    Elsewhere,
}

/// By what its place or it itself is called; else by where the place is drawn against the middle of a view from above.
fn side(build: &Build, light: &Light) -> Side {
    let words = format!("{} {}", light.place, light.id).to_lowercase();
    let says = |all: &[&str]| all.iter().any(|word| words.contains(word));
    if says(&["rear", "tail", "back", "stern"]) {
        Side::Rear
    } else if says(&["left", "port"]) {
        Side::Left
    } else if says(&["right", "starboard"]) {
        Side::Right
    } else if says(&["front", "nose", "head", "bow"]) {
        Side::Front
    } else {
        // The nose points right: what is drawn above the middle is on the left.
        let above = build.form().and_then(|form| form.views.iter().find(|view| view.seen == Seen::Above));
        match above.and_then(|view| view.places.iter().find(|known| known.name == light.place)) {
            Some(spot) if spot.y < 140.0 => Side::Left,
            Some(spot) if spot.y > 160.0 => Side::Right,
            _ => Side::Elsewhere,
        }
    }
}

fn colours(colours: &[Colour]) -> Option<Vec<Colour>> {
    Some(colours.to_vec())
}

fn steady(colour: Colour) -> PixelEffect {
    PixelEffect::steady_in(&[colour])
}

fn blink(colour: Colour, period_s: f64) -> PixelEffect {
    BlinkEffect { period_s, colours: colours(&[colour]), duty: 0.5, direction: Direction::Away }.into()
}

fn dim(colour: Colour, share: f64) -> Colour {
    colour.map(|channel| share * channel)
}

fn table(input: ShowInput, rows: Vec<(&str, PixelEffect)>) -> PixelEffect {
    let rows = rows.into_iter().map(|(word, effect)| PixelEffectRow { word: word.to_owned(), colour: None, effect: Some(effect) });
    TableEffect { input, table: rows.collect() }.into()
}

fn effect(show: ReadyShow, side: Side) -> PixelEffect {
    match show {
        ReadyShow::Orientation => steady(match side {
            Side::Left => RED,
            Side::Right => GREEN,
            Side::Rear => WHITE,
            Side::Front | Side::Elsewhere => dim(WHITE, 0.3),
        }),
        ReadyShow::Gauge => LevelEffect { colours: colours(&[RED, AMBER, GREEN]), input: ShowInput::Battery }.into(),
        ReadyShow::Readiness => {
            let ready = BreatheEffect { period_s: 3.0, colours: colours(&[GREEN]), direction: Direction::Away }.into();
            table(ShowInput::Armed, vec![("off", ready), ("on", steady(AMBER))])
        }
        ReadyShow::Warning => table(
            ShowInput::Warning,
            vec![("none", steady(dim(WHITE, 0.15))), ("battery", blink(RED, 1.0)), ("heat", blink(AMBER, 1.0)), ("signal", blink(BLUE, 1.0))],
        ),
        ReadyShow::BrakeAndTurn => match side {
            Side::Rear => table(ShowInput::Brake, vec![("off", steady(dim(RED, TAIL))), ("on", steady(RED))]),
            Side::Left => table(ShowInput::Turn, vec![("off", steady([0.0; 3])), ("left", blink(AMBER, TURN_S))]),
            Side::Right => table(ShowInput::Turn, vec![("off", steady([0.0; 3])), ("right", blink(AMBER, TURN_S))]),
            Side::Front | Side::Elsewhere => steady(dim(WHITE, 0.3)),
        },
        ReadyShow::Trail => ChaseEffect { period_s: TRAIL_S, colours: colours(&[LANTERN]), spread: 5.0, direction: Direction::Away }.into(),
        ReadyShow::FindMe => BlinkEffect { period_s: 1.0, colours: colours(&[WHITE]), duty: PULSE, direction: Direction::Away }.into(),
        ReadyShow::OneColour => steady(LANTERN),
        ReadyShow::Parade => {
            let ring = colours(&[LANTERN, [0.9, 0.1, 0.25], [0.25, 0.1, 0.8], [0.05, 0.5, 0.35]]);
            GradientEffect { period_s: 12.0, colours: ring, direction: Direction::Away }.into()
        }
    }
}

/// The ready shows of a build; none where it has no pixels. Other lights are as in its first scene.
pub fn ready(build: &Build) -> Vec<Ready> {
    let is_pixels = |light: &&Light| matches!(light.load, Load::Pixels(_));
    if !build.lights.iter().any(|light| is_pixels(&light)) {
        return Vec::new();
    }
    let first = build.scenes.first();
    let made = |show: ReadyShow| {
        let others = build.lights.iter().filter(|light| !is_pixels(light));
        let kept = others.filter_map(|light| Some((light.id.clone(), first?.lights.get(&light.id)?.clone())));
        let lit = build
            .lights
            .iter()
            .filter(is_pixels)
            .map(|light| (light.id.clone(), SceneLight { effect: Some(effect(show, side(build, light))), ..SceneLight::FULL }));
        let mut id = show.word().to_owned();
        let mut number = 2;
        while build.scenes.iter().any(|scene| scene.id == id) {
            id = format!("{}-{number}", show.word());
            number += 1;
        }
        Ready { show, name: show.called(), about: show.about(), scene: Scene { id, name: show.called().to_owned(), lights: kept.chain(lit).collect() } }
    };
    ReadyShow::WORDS.iter().map(|(_, show)| made(*show)).collect()
}
