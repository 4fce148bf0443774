//! What a show takes of the supply of each controller: in its worst frame, in the mean, and by a planner's rule of thumb.

use crate::Stage;
use orthavis_model::data;
use orthavis_model::document::{Build, Load, Scene};
use orthavis_model::laws::effect::Inputs;
use orthavis_model::laws::pixels::asked_a;
use orthavis_model::topology::Topology;
use orthavis_model::working::{Fact, Quantity, Rule, fact, quantity};
use orthavis_physics::network::Solution;
use orthavis_physics::points::PointError;
use orthavis_physics::show::{FRAMES_A_SECOND, LONGEST_S, Show};
use serde::Serialize;

data! {
    /// The frame that takes most.
    pub struct WorstFrame {
        /// When, s.
        pub t_s: f64,
        /// What the supply gives then, A.
        pub current_a: f64,
    }

    /// What a show takes at one supply.
    pub struct SupplyPower {
        /// The controller; of lights on no chain nothing.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub controller: Option<String>,
        /// What feeds it.
        pub supply: String,
        /// Its worst frame.
        pub worst: WorstFrame,
        /// In the mean, A.
        pub mean_a: f64,
        /// All its pixels full and white, A.
        pub rule_of_thumb_a: f64,
        /// The same with their working.
        pub facts: Vec<Fact>,
    }

    /// What a show takes.
    pub struct ShowPower {
        /// The frame that takes most of the supplies of all controllers.
        pub worst: WorstFrame,
        /// In the mean, A.
        pub mean_a: f64,
        /// All pixels full and white, A.
        pub rule_of_thumb_a: f64,
        /// Once around of everything, s; 0 where nothing moves.
        pub period_s: f64,
        /// By controller.
        pub supplies: Vec<SupplyPower>,
    }
}

/// What every one of its pixels takes full and white, A, dark share included.
pub(crate) fn all_white_a(build: &Build, lights: &[usize]) -> f64 {
    let own = lights.iter().filter_map(|light| if let Load::Pixels(pixels) = &build.lights[*light].load { Some(pixels) } else { None });
    own.map(|pixels| f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a)).sum()
}

/// Lights of pixels, each controller's together, and those on no chain: who says data to them, and what feeds them.
pub(crate) fn groups(show: &Show<'_>, build: &Build) -> Vec<(Option<usize>, String, Vec<usize>)> {
    let graph = Topology::of(build);
    let mut groups: Vec<(Option<usize>, String, Vec<usize>)> = Vec::new();
    for chain in &show.chains {
        let lights: Vec<usize> = chain.pieces.iter().flat_map(|piece| piece.lights.clone()).collect();
        let from = match chain.controller {
            Some(index) => Some(&build.controllers[index].feed),
            None => lights.first().and_then(|light| build.lights[*light].feeds.first()),
        };
        let supply = from.map_or("source", |feed| graph.supplier(feed)).to_owned();
        match groups.iter_mut().find(|group| group.0 == chain.controller && group.1 == supply) {
            Some(group) => group.2.extend(lights),
            None => groups.push((chain.controller, supply, lights)),
        }
    }
    groups
}

const WORST: Rule = Rule {
    words: "Every frame of once around is compared by what its pixels ask for; the one that leads is solved with each pixel's own colour.",
    formula: "I = max_t Σ I_pixel(t)",
    source: "Fifty frames a second over once around of everything, sixty seconds at most",
};
const MEAN: Rule = Rule {
    words: "The network solved with every channel at the mean of its codes over the same time.",
    formula: "I = mean_t Σ I_pixel(t)",
    source: "A channel's current is its code's share of its full current",
};
const THUMB: Rule = Rule {
    words: "What planners reckon with before there is a picture: every pixel full and white at once.",
    formula: "I = n·(I_R + I_G + I_B + I_0)",
    source: "Rule of thumb",
};

/// What a scene takes while its inputs say this; at the state of an ordinary day.
///
/// # Errors
/// When the network has no steady state at its worst frame.
pub fn power(build: &Build, scene: &Scene, inputs: &Inputs) -> Result<ShowPower, PointError> {
    let show = Show::of(build, scene);
    let mut stage = Stage::of(build, scene)?;
    let found = show.extent(Some(inputs));
    let solved = |stage: &mut Stage<'_>, lit: &[orthavis_model::states::Lit]| {
        let point = stage.point(lit.to_vec());
        stage.solve(&point, None)
    };
    let (worst, mean) = (solved(&mut stage, &found.worst.lit)?, solved(&mut stage, &found.mean)?);
    let groups = groups(&show, build);
    // What the pixels of a group ask for, dark share included.
    let own_a = |lit: &[orthavis_model::states::Lit], lights: &[usize]| -> f64 {
        let one = |light: &usize| match &build.lights[*light].load {
            Load::Pixels(pixels) => {
                (0..pixels.count as usize).map(|pixel| asked_a(pixels, lit[*light].level, lit[*light].colour_of(pixel)) + pixels.idle_a).sum()
            }
            _ => 0.0,
        };
        lights.iter().map(one).sum()
    };
    let supplies: Vec<SupplyPower> = groups
        .iter()
        .map(|(controller, supply, lights)| {
            let (worst_a, mean_a, thumb_a) = (stage.given_a(&worst, supply), stage.given_a(&mean, supply), all_white_a(build, lights));
            let count = lights.iter().map(|light| if let Load::Pixels(pixels) = &build.lights[*light].load { f64::from(pixels.count) } else { 0.0 }).sum();
            let pixels = quantity("n", "pixels, copies counted each", count, "1");
            let frame = vec![pixels.clone(), quantity("t", "worst frame", found.worst.time_s, "s"), quantity("f", "frames a second", FRAMES_A_SECOND, "1")];
            SupplyPower {
                controller: controller.map(|index| build.controllers[index].id.clone()),
                supply: supply.clone(),
                worst: WorstFrame { t_s: found.worst.time_s, current_a: worst_a },
                mean_a,
                rule_of_thumb_a: thumb_a,
                facts: facts(worst_a, own_a(&found.worst.lit, lights), mean_a, thumb_a, frame, pixels, found.period_s),
            }
        })
        .collect();
    let mut named: Vec<&str> = groups.iter().map(|group| group.1.as_str()).collect();
    named.sort_unstable();
    named.dedup();
    let all = |solution: &Solution| named.iter().map(|supply| stage.given_a(solution, supply)).sum::<f64>();
    Ok(ShowPower {
        worst: WorstFrame { t_s: found.worst.time_s, current_a: all(&worst) },
        mean_a: all(&mean),
        rule_of_thumb_a: supplies.iter().map(|supply| supply.rule_of_thumb_a).sum(),
        period_s: found.period_s,
        supplies,
    })
}

fn facts(worst_a: f64, own_a: f64, mean_a: f64, thumb_a: f64, frame: Vec<Quantity>, pixels: Quantity, period_s: f64) -> Vec<Fact> {
    const OWN: Rule = Rule {
        words: "What its pixels ask for in that frame, dark ones included.",
        formula: "I = Σ (I_R·R + I_G·G + I_B·B + I_0)",
        source: "Codes of the frame over 255",
    };
    const FACTOR: Rule =
        Rule { words: "The rule of thumb over what the pixels take in the worst frame.", formula: "k = I_white / I_pixels", source: "Both as told here" };
    let span = quantity("T", "looked at", if period_s > 0.0 { period_s.min(LONGEST_S) } else { 0.0 }, "s");
    vec![
        fact("worst_a", "Highest moment", "I", worst_a, "A", &WORST, frame),
        fact("pixels_a", "Used by the pixels", "I", own_a, "A", &OWN, vec![pixels.clone()]),
        fact("mean_a", "Mean", "I", mean_a, "A", &MEAN, vec![span]),
        fact("rule_of_thumb_a", "By rule of thumb", "I", thumb_a, "A", &THUMB, vec![pixels]),
        fact(
            "factor",
            "The rule of thumb is too high by a factor of",
            "k",
            if own_a > 0.0 { thumb_a / own_a } else { 0.0 },
            "",
            &FACTOR,
            vec![quantity("I_white", "by rule of thumb", thumb_a, "A"), quantity("I_pixels", "pixels in the worst frame", own_a, "A")],
        ),
    ]
}

/// Current of each supply over once around, A: what is drawn under a show.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Course {
    /// Moments, s.
    pub t_s: Vec<f64>,
    /// What all pixels ask for at each, A.
    pub current_a: Vec<f64>,
}

/// Points of a course at most.
const POINTS: usize = 600;

/// What all pixels ask for over once around; of what stands still, two points.
pub fn course(build: &Build, scene: &Scene, inputs: &Inputs) -> Course {
    let show = Show::of(build, scene);
    let period = show.period_s();
    // Frames that are shown, every so many of them: between two of them nobody sees anything.
    let count = ((period * FRAMES_A_SECOND).ceil() as usize).max(1);
    let span = if period > 0.0 { period } else { 1.0 };
    let mut frame = orthavis_physics::show::Frame::default();
    let frames = (0..count).step_by(count.div_ceil(POINTS)).map(|step| step as f64 / FRAMES_A_SECOND).filter(|time| *time < span - 1e-9);
    let mut moments: Vec<f64> = frames.collect();
    let current = moments.iter().map(|time| {
        show.frame_into(*time, inputs, &mut frame);
        show.nominal_a(&frame)
    });
    let mut current: Vec<f64> = current.collect();
    // It begins again; what takes longer than anybody looks does not.
    if span < LONGEST_S {
        moments.push(span);
        current.push(current[0]);
    }
    Course { current_a: current, t_s: moments }
}
