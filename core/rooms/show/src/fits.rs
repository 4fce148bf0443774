//! How many pixels fit a supply: full and white, at this show's worst frame, and with a limit in the controller.

use crate::Stage;
use crate::power::{all_white_a, groups};
use orthavis_model::document::{Build, Load, Scene};
use orthavis_model::states::Lit;
use orthavis_model::working::{Fact, Rule, fact, quantity};
use orthavis_physics::points::PointError;
use orthavis_physics::show::{Show, lit};
use serde::Serialize;

/// A limit that dims the worst frame below this share is told as too tight.
const HALF: f64 = 0.5;

/// How many pixels like its own a supply feeds.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = PixelsThatFit))]
pub struct Fits {
    /// The controller; of lights on no chain nothing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub controller: Option<String>,
    /// What feeds it.
    pub supply: String,
    /// How many it has.
    pub count: usize,
    /// Counts with their working: `white`, `worst`, `limited`.
    pub facts: Vec<Fact>,
}

/// How many fit each supply of a scene's pixels, the rest of what it feeds as it is in the worst frame.
///
/// # Errors
/// When the network has no steady state then.
pub fn fits(build: &Build, scene: &Scene) -> Result<Vec<Fits>, PointError> {
    let show = Show::of(build, scene);
    let mut stage = Stage::of(build, scene)?;
    // A limit that is there already is what one of the three figures is about.
    let mut free = build.clone();
    for controller in &mut free.controllers {
        controller.limit_a = None;
    }
    let worst_lit = lit(&free, scene);
    let nominal = |lights: &[usize]| -> f64 { lights.iter().map(|light| asked_a(build, *light, &worst_lit[*light])).sum() };
    let mut found = Vec::new();
    for (controller, supply, lights) in groups(&show, build) {
        let limit_a = match build.converters.iter().find(|converter| converter.id == supply) {
            Some(converter) => converter.max_out_a,
            None => build.source.max_current_a(),
        };
        // Without its pixels, what is left on that supply.
        let mut without = worst_lit.clone();
        for light in &lights {
            without[*light] = Lit::OFF;
        }
        let pixels = |light: &usize| if let Load::Pixels(pixels) = &build.lights[*light].load { Some(pixels) } else { None };
        let idle_a: f64 = lights.iter().filter_map(pixels).map(|pixels| f64::from(pixels.count) * pixels.idle_a).sum();
        let point = stage.point(without);
        let solution = stage.solve(&point, None)?;
        let others_a = (stage.given_a(&solution, &supply) - idle_a).max(0.0);
        let room_a = (limit_a - others_a).max(0.0);
        let count: usize = lights.iter().filter_map(pixels).map(|pixels| pixels.count as usize).sum();
        if count == 0 {
            continue;
        }
        let each = |amps: f64| amps / count as f64;
        let (white_a, worst_a) = (each(all_white_a(build, &lights)), each(nominal(&lights)));
        let half_a = each(idle_a) + HALF * (worst_a - each(idle_a));
        let many = |amps: f64| if amps > 0.0 { (room_a / amps + 1e-9).floor() } else { 0.0 };
        const WHITE: Rule =
            Rule { words: "Every pixel full and white at once.", formula: "n = ⌊(I_max − I_rest) / I_white⌋", source: "What channels take at most" };
        const WORST: Rule = Rule {
            words: "As many as the worst frame of this show leaves room for, if more of the same are added.",
            formula: "n = ⌊(I_max − I_rest) / I_worst⌋",
            source: "This show's worst frame, shared among its pixels",
        };
        const LIMITED: Rule = Rule {
            words: "With a limit in the controller, as many as still show the worst frame at half its brightness.",
            formula: "n = ⌊(I_max − I_rest) / (I_0 + (I_worst − I_0)/2)⌋",
            source: "The limit dims every channel alike",
        };
        let given = |symbol: &'static str, label: &str, amps: f64| {
            vec![
                quantity("I_max", "the supply gives", limit_a, "A"),
                quantity("I_rest", "everything else there", others_a, "A"),
                quantity(symbol, label, amps, "A"),
            ]
        };
        let facts = vec![
            fact("white", "All full and white", "n", many(white_a), "", &WHITE, given("I_white", "one pixel, full and white", white_a)),
            fact("worst", "In this show", "n", many(worst_a), "", &WORST, given("I_worst", "one pixel in the worst frame", worst_a)),
            fact("limited", "With a limit in the controller", "n", many(half_a), "", &LIMITED, given("I_half", "one pixel at half of that", half_a)),
        ];
        const DIMMED: Rule = Rule {
            words: "What the controller's limit leaves of the worst frame.",
            formula: "k = I_limited / I_worst",
            source: "The limit dims every channel alike",
        };
        let mut facts = facts;
        if let Some(index) = controller.filter(|index| build.controllers[*index].limit_a.is_some()) {
            let (limited_a, free_a) = (lights.iter().map(|light| asked_a(build, *light, &lit(build, scene)[*light])).sum::<f64>(), nominal(&lights));
            let limit_a = build.controllers[index].limit_a.unwrap_or(0.0);
            let given = vec![
                quantity("I_limited", "kept to", limited_a, "A"),
                quantity("I_worst", "without a limit", free_a, "A"),
                quantity("I_max", "limit", limit_a, "A"),
            ];
            facts.push(fact(
                "dimmed",
                "The limit dims the worst frame to",
                "k",
                if free_a > 0.0 { (limited_a / free_a).min(1.0) } else { 1.0 },
                "1",
                &DIMMED,
                given,
            ));
        }
        found.push(Fits { controller: controller.map(|index| build.controllers[index].id.clone()), supply, count, facts });
    }
    Ok(found)
}

/// What a light of pixels asks for, before any limit that its scene already has, A.
fn asked_a(build: &Build, light: usize, lit: &Lit) -> f64 {
    let Load::Pixels(pixels) = &build.lights[light].load else { return 0.0 };
    let asked = |pixel: usize| orthavis_model::laws::pixels::asked_a(pixels, lit.level, lit.colour_of(pixel)) + pixels.idle_a;
    (0..pixels.count as usize).map(asked).sum()
}
