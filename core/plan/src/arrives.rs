//! What comes into a build with a part that is added, in words and figures, before it is taken.

use orthavis_judge::effort::effort;
use orthavis_model::document::{Build, Converter, Light, Load, Source};
use orthavis_model::working::{counted, plain};
use orthavis_physics::points::solved;
use serde::Serialize;

/// What an addition brings, and what it asks.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Arrives {
    /// Each part that comes with it, in a few words.
    pub parts: Vec<String>,
    /// What it takes of the source at most, everything else as it was, A; absent where one of the two cannot be solved.
    pub source_a: Option<f64>,
    /// Money, euro, roughly.
    pub eur: f64,
    /// Work, min, roughly.
    pub minutes: f64,
    /// Mass, g.
    pub grams: f64,
}

/// What `after` has that `before` had not.
pub fn arrives(before: &Build, after: &Build) -> Arrives {
    let lights = after.lights.iter().filter(|light| before.lights.iter().all(|old| old.id != light.id)).map(of_light);
    let modules = after.converters.iter().filter(|one| before.converters.iter().all(|old| old.id != one.id));
    let most = |build: &Build| {
        let solved = solved(build, &[]).ok()?;
        let amps = solved.points.iter().map(|point| point.source.current_a).fold(0.0, f64::max);
        solved.collapsed.is_empty().then_some(amps)
    };
    let source_a = most(after).zip(most(before).or(before.lights.is_empty().then_some(0.0))).map(|(after, before)| (after - before).max(0.0));
    let cost = effort(before, after);
    let parts = lights.chain(modules.map(|module| of_module(after, module))).collect();
    let mass_g = |build: &Build| build.lights.iter().map(|light| light.mass_g).sum::<f64>();
    Arrives { parts, source_a, eur: cost.eur, minutes: cost.minutes, grams: mass_g(after) - mass_g(before) + cost.grams }
}

fn of_light(light: &Light) -> String {
    match &light.load {
        Load::LedArray(array) => {
            let rows = if array.parallel == 1 { "one row".to_owned() } else { format!("{} rows", array.parallel) };
            let resistors = match (array.resistor_ohm > 0.0, array.parallel) {
                (false, _) => String::new(),
                (true, 1) => format!(", with {}", plain(array.resistor_ohm, "Ω")),
                (true, _) => format!(", each with {}", plain(array.resistor_ohm, "Ω")),
            };
            format!("{}: {rows} of {}{resistors}", light.id, array.series)
        }
        Load::Strip(strip) => format!("{}: {} of strip, {}", light.id, plain(strip.length_m, "m"), counted(strip.segments(), "segment")),
        Load::Pixels(pixels) => format!("{}: {}", light.id, counted(pixels.count, "pixel")),
        Load::Module(module) => format!("{}: {}", light.id, plain(module.power_w, "W")),
    }
}

fn of_module(build: &Build, module: &Converter) -> String {
    let (value, unit) = module.setting();
    let set = plain(value, unit);
    let from = match (module.feed.from.as_str(), &build.source) {
        ("source", Source::Battery(_)) => "the battery",
        ("source", _) => "the supply",
        (other, _) => other,
    };
    format!("{}: a {set} {} on {from}", module.id, module.kind().called())
}
