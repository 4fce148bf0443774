//! What may shine where a light is wished for: parts of the library that give its light in its colour, and that hands can join.

use crate::wish::{Wish, WishedLight};
use orthavis_model::document::{Hands, Load, Part, Purpose, What};
use orthavis_model::parts::library;
use orthavis_model::practice::EMITTER_A;

/// A way to have a wished light.
#[derive(Clone, Debug, PartialEq)]
pub struct Lamp {
    /// The part.
    pub part: &'static Part,
    /// How many lights of it stand for one that is wished.
    pub lights: u32,
    /// LEDs or pixels in each.
    pub count: Option<u32>,
    /// Length of each, m.
    pub piece_m: Option<f64>,
    /// Colour that pixels are set to; `None`: its own, or a show.
    pub set_to: Option<[f64; 3]>,
    /// What it draws, W.
    pub watts: f64,
    /// What it costs, EUR.
    pub cost: f64,
    /// What it weighs, g.
    pub mass_g: f64,
    /// Joints to solder, with hands that do.
    pub joints: u32,
    /// Volts that it wants: least, usual and most.
    pub volts: [f64; 3],
}

/// Most of one kind of lamp for one wished light.
const MOST_LAMPS: u32 = 4;
/// Most single LEDs for one, and most emitters.
const MOST_LEDS: u32 = 40;
const MOST_EMITTERS: u32 = 12;
/// To see by, light is aimed: no wider than this from its axis to half its intensity, deg.
const AIMED_DEG: f64 = 45.0;
/// A piece of strip is a point up to this length, m.
const POINT_M: f64 = 0.3;
/// Pixels to the metre of a show, at least.
const SHOW_PER_M: f64 = 30.0;
/// Length of a show where the wish names none, m.
const SHOW_M: f64 = 0.5;
/// Ways that are kept for one wished light.
const KEPT: usize = 6;

/// Whether a part's colour is what was wished.
fn of_colour(own: &str, wished: &str) -> bool {
    match wished {
        "any" => true,
        "white" => own.contains("white"),
        "orange" | "yellow" => own == wished || own == "amber",
        "warm white" | "cool white" => own == wished || own == "white",
        _ => own == wished,
    }
}

/// Red, green and blue of a colour that pixels can be set to.
fn pixel_colour(wished: &str) -> Option<[f64; 3]> {
    Some(match wished {
        "red" => [1.0, 0.0, 0.0],
        "green" => [0.0, 1.0, 0.0],
        "blue" => [0.0, 0.0, 1.0],
        "amber" | "orange" | "yellow" => [1.0, 0.5, 0.0],
        "violet" => [0.5, 0.0, 1.0],
        "white" | "warm white" | "cool white" => [1.0, 1.0, 1.0],
        _ => return None,
    })
}

/// Ways to have a wished light, none of which is beaten in all that counts; a few.
pub fn lamps(wish: &Wish, light: &WishedLight) -> Vec<Lamp> {
    let mut all: Vec<Lamp> = library().iter().filter(|part| !part.retired).flat_map(|part| of_part(wish, light, part)).collect();
    if light.purpose == Purpose::Show {
        all.retain(|lamp| matches!(&lamp.part.what, What::Light { load: Load::Pixels(_), .. }));
    } else if all.iter().any(|lamp| lamp.set_to.is_none()) {
        // A board to say one colour is not asked of anyone where a plain strip has it.
        all.retain(|lamp| lamp.set_to.is_none());
    }
    // Lamps for a ceiling or a bed light no road.
    let inside = |lamp: &Lamp| ["reading", "puck"].iter().any(|word| lamp.part.id.starts_with(word));
    if !matches!(light.purpose, Purpose::Read | Purpose::Glow | Purpose::Orient) && all.iter().any(|lamp| !inside(lamp)) {
        all.retain(|lamp| !inside(lamp));
    }
    let aimed = |lamp: &Lamp| lamp.part.light.as_ref().and_then(|light| light.half_angle_deg).is_some_and(|deg| deg <= AIMED_DEG);
    if light.purpose == Purpose::See && all.iter().any(aimed) {
        all.retain(aimed);
    }
    let beaten = |one: &Lamp| {
        all.iter().any(|other| {
            let no_worse = other.watts <= one.watts && other.cost <= one.cost && other.mass_g <= one.mass_g && other.joints <= one.joints;
            let same_volts = other.volts[1] == one.volts[1] || (other.volts[0] <= one.volts[0] && other.volts[2] >= one.volts[2]);
            no_worse && same_volts && other.part.id != one.part.id && (other.watts, other.cost, other.mass_g) != (one.watts, one.cost, one.mass_g)
        })
    };
    let mut kept: Vec<Lamp> = all.iter().filter(|lamp| !beaten(lamp)).cloned().collect();
    // Some of each: the cheapest, the lightest, the thriftiest, and those with fewest joints.
    kept.sort_by(|a, b| score(a).total_cmp(&score(b)));
    let mut chosen: Vec<Lamp> = Vec::new();
    let by: [fn(&Lamp) -> f64; 4] = [|lamp| lamp.cost, |lamp| lamp.mass_g, |lamp| lamp.watts, |lamp| f64::from(lamp.joints)];
    for key in by {
        chosen.extend(kept.iter().min_by(|a, b| (key(a), score(a)).partial_cmp(&(key(b), score(b))).unwrap_or(std::cmp::Ordering::Equal)).cloned());
    }
    chosen.extend(kept);
    let mut seen: Vec<Lamp> = Vec::new();
    for lamp in chosen {
        if !seen.contains(&lamp) && seen.len() < KEPT {
            seen.push(lamp);
        }
    }
    seen
}

/// A rough figure of all that counts, to rank by.
fn score(lamp: &Lamp) -> f64 {
    lamp.cost + 3.0 * lamp.watts + 0.05 * lamp.mass_g + 0.5 * f64::from(lamp.joints)
}

fn of_part(wish: &Wish, light: &WishedLight, part: &'static Part) -> Option<Lamp> {
    let lm = part.light.as_ref().map_or(0.0, |light| light.lm);
    let least = light.least_lm();
    let have = wish.have.get(&part.id).copied().unwrap_or(0.0);
    let (price, mass) = (if have > 0.0 { 0.0 } else { part.price_eur.unwrap_or(2.0) }, part.mass_g.unwrap_or(5.0));
    let irons = wish.hands == Hands::Solder;
    let lamp = |lights: u32, watts: f64, scale: f64, joints: u32, volts: [f64; 3]| Lamp {
        part,
        lights,
        count: None,
        piece_m: None,
        set_to: None,
        watts: watts * f64::from(lights),
        cost: price * scale * f64::from(lights),
        mass_g: mass * scale * f64::from(lights),
        joints: if irons { joints * lights } else { 0 },
        volts,
    };
    match &part.what {
        What::Light { load: Load::Module(module), colour, .. } if light.length_m.is_none() && of_colour(colour, &light.colour) && lm > 0.0 => {
            let lights = (least / lm).ceil().max(1.0) as u32;
            // So much more light than was asked for dazzles, and empties the battery.
            (lights <= MOST_LAMPS)
                .then(|| lamp(lights, module.power_w, 1.0, 2, [module.min_v.max(0.8 * module.voltage_v.min(module.max_v)), module.voltage_v, module.max_v]))
        }
        What::Led { led } if irons && light.length_m.is_none() && of_colour(&led.colour, &light.colour) && lm > 0.0 => {
            let emitter = led.if_a >= EMITTER_A;
            // Fed at three quarters of their current, as rows are sized.
            let count = (least / (0.75 * lm)).ceil().max(1.0) as u32;
            let few = if emitter { MOST_EMITTERS } else { MOST_LEDS };
            (count <= few).then(|| {
                let share = f64::from(count);
                Lamp { count: Some(count), ..lamp(1, 1.3 * led.vf_v * led.if_a * share, share, 4 * count, [led.vf_v + 0.8, 12.0, 60.0]) }
            })
        }
        What::Light { load: Load::Strip(strip), colour, .. } if of_colour(colour, &light.colour) && lm > 0.0 && light.purpose != Purpose::Show => {
            let whole = |length: f64| (length / strip.segment_m + 1e-6).floor() * strip.segment_m;
            let piece = match light.length_m {
                Some(length) => whole(length),
                None => (least / lm / strip.segment_m).ceil() * strip.segment_m,
            };
            let fits = piece >= strip.segment_m && (light.length_m.is_some() || piece <= POINT_M) && lm * piece >= least * 0.999;
            let volts = [0.9 * strip.voltage_v, strip.voltage_v, 1.1 * strip.voltage_v];
            fits.then(|| Lamp { piece_m: Some((1e6 * piece).round() / 1e6), ..lamp(1, strip.power_w_per_m * piece, piece, 2, volts) })
        }
        What::Light { load: Load::Pixels(pixels), .. } => {
            let show = light.purpose == Purpose::Show;
            let set_to = if show { None } else { Some(pixel_colour(&light.colour)?) };
            let per_m = 1.0 / pixels.pitch_m;
            let length = light.length_m.unwrap_or(SHOW_M);
            let count = (length * per_m + 1e-6).floor() as u32;
            let dense = !show || per_m >= SHOW_PER_M - 0.5;
            let watts = f64::from(count) * (pixels.voltage_v * pixels.channel_a.iter().sum::<f64>());
            let scale = f64::from(count) * pixels.pitch_m;
            // Rings and strings come as they are.
            let strip = !part.id.contains("ring") && !part.id.contains("string");
            let volts = [0.9 * pixels.voltage_v, pixels.voltage_v, 1.06 * pixels.voltage_v];
            (count > 0 && dense && strip).then(|| Lamp { count: Some(count), set_to, ..lamp(1, watts, scale, 3, volts) })
        }
        _ => None,
    }
}
