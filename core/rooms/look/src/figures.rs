//! Light in figures, each with its working.

use crate::body::{Body, body};
use orthavis_model::data;
use orthavis_model::document::{Air, Around, Build, Light, Load, Purpose};
use orthavis_model::laws::light::{NOTICED, SEE_BY_LX, share_that_looks, stop_within_m_s};
use orthavis_model::states::State;
use orthavis_model::working::{Fact, Quantity, Rule, fact, plain, quantity};
use orthavis_physics::light::{LightFigures, blink_on_s, lights};
use orthavis_physics::points::{PointError, PointReport, solved};
use std::collections::BTreeMap;

data! {
    /// Light in figures, by light.
    pub struct Lights {
        /// By id.
        pub lights: BTreeMap<String, LightFigures>,
    }

    /// What the light of a build comes to.
    pub struct BuildLook {
        /// Scene that is on.
        pub scene: String,
        /// State of the source.
        pub state: State,
        /// What surrounds it.
        pub around: Around,
        /// How clear the air is.
        pub air: Air,
        /// Every light, in document order.
        pub lights: Vec<LightSeen>,
    }

    /// What one light comes to.
    pub struct LightSeen {
        /// Its id.
        pub id: String,
        /// What it is for.
        pub purpose: Option<Purpose>,
        /// In one line, as in `seen 400 m, noticed 60 m`.
        pub words: String,
        /// Whether its row shows as points: from where, or through its diffuser; empty where it is no row.
        pub row: String,
        /// Each figure with its working.
        pub facts: Vec<Fact>,
        /// Half angle of its kind, which it has where nobody says another, deg; `None`: it shines all round.
        pub usual_half_angle_deg: Option<f64>,
        /// Flux of its kind, which it has where nobody says another, lm.
        pub usual_lm: f64,
        /// Distance from which on a diffuser looks even, mm, where it is a row.
        pub even_mm: Option<f64>,
    }
}

/// Why there is no light to look at.
#[derive(Clone, Debug)]
pub enum LookError {
    /// Work was stopped, or the scene has no steady state.
    Unsolved(PointError),
    /// There is no scene of that name.
    NoScene(String),
    /// The source has no such state.
    NoState(String),
}

/// Where and when a build is looked at.
#[derive(Clone, Copy, Debug)]
pub struct Moment<'a> {
    /// Scene; `None`: the first.
    pub scene: Option<&'a str>,
    /// State of the source; `None`: the fullest.
    pub state: Option<State>,
    /// What surrounds it; `None`: what the build says.
    pub around: Option<Around>,
    /// How clear the air is; `None`: clear.
    pub air: Option<Air>,
}

/// The point of a scene and state.
///
/// # Errors
/// As [`figures`].
pub fn point(build: &Build, moment: &Moment<'_>) -> Result<PointReport, LookError> {
    let scene = match moment.scene {
        Some(id) => build.scenes.iter().find(|scene| scene.id == id),
        None => build.scenes.first(),
    };
    let scene = scene.ok_or_else(|| {
        let known: Vec<&str> = build.scenes.iter().map(|scene| scene.id.as_str()).collect();
        LookError::NoScene(match moment.scene {
            Some(id) => format!("There is no scene `{id}`. Name one of {}.", known.join(", ")),
            None => "This build has no scene. Add one.".into(),
        })
    })?;
    let states = build.states();
    let state = moment.state.unwrap_or(states[0]);
    if !states.contains(&state) {
        let known: Vec<&str> = states.iter().map(|state| state.word()).collect();
        return Err(LookError::NoState(format!("This source has no state `{}`. Name one of {}.", state.word(), known.join(", "))));
    }
    // Only that scene is solved.
    let alone = Build { scenes: vec![scene.clone()], ..build.clone() };
    let found = solved(&alone, &[]).map_err(LookError::Unsolved)?;
    let collapsed = || found.collapsed.into_iter().find(|error| error.state == state);
    match found.points.into_iter().find(|point| point.state == state) {
        Some(point) => Ok(point),
        None => Err(collapsed().map_or_else(|| LookError::NoState(format!("It has no steady state {}.", state.phrase())), LookError::Unsolved)),
    }
}

/// Light in figures.
///
/// # Errors
/// Where there is no such scene or state, or it has no steady solution.
pub fn figures(build: &Build, moment: &Moment<'_>) -> Result<Lights, LookError> {
    let point = point(build, moment)?;
    let (around, air) = (moment.around.unwrap_or(build.usage.around()), moment.air.unwrap_or(Air::Clear));
    Ok(Lights { lights: lights(build, &point, around, air) })
}

/// The same with words and workings.
///
/// # Errors
/// As [`figures`].
pub fn look(build: &Build, moment: &Moment<'_>) -> Result<BuildLook, LookError> {
    let point = point(build, moment)?;
    let (around, air) = (moment.around.unwrap_or(build.usage.around()), moment.air.unwrap_or(Air::Clear));
    let mut all = lights(build, &point, around, air);
    let body = build.form().and_then(|form| body(build.vehicle.kind, &form.id));
    let scene = build.scenes.iter().find(|scene| scene.id == point.scene);
    let lights = build.lights.iter().filter_map(|light| {
        let figures = all.remove(&light.id)?;
        let on_s = scene.and_then(|scene| blink_on_s(scene.lights.get(&light.id)?));
        let output = point.lights.get(&light.id).map_or(0.0, |report| report.output);
        let sits = body.as_ref().and_then(|body| Sits::of(light, body));
        Some(light_look(light, figures, output, on_s, around, air, sits))
    });
    let lights = lights.collect();
    Ok(BuildLook { scene: point.scene, state: point.state, around, air, lights })
}

/// How high a light sits over the ground, m, and how far below level it is aimed, deg.
struct Sits {
    height_m: f64,
    down_deg: f64,
}

/// Aimed flatter than this, light reaches the ground nowhere in particular, deg.
const FLAT_DEG: f64 = 8.0;
/// Height of a table, m.
const TABLE_M: f64 = 0.75;

impl Sits {
    fn of(light: &Light, body: &Body) -> Option<Sits> {
        let place = body.place(&light.place)?;
        let height_m = place.along[place.along.len() / 2][2] - body.mesh.bounds()[0][2].min(0.0);
        let own = -place.aim[2].clamp(-1.0, 1.0).asin().to_degrees();
        let down_deg = light.down_deg().unwrap_or(own);
        (down_deg >= FLAT_DEG && height_m > 0.0).then_some(Sits { height_m, down_deg })
    }

    /// What falls below it: on a table where it is to read by, else on the ground.
    fn facts(&self, light: &Light, cd: f64) -> Option<Fact> {
        let over_table = light.purpose == Some(Purpose::Read) && self.height_m > TABLE_M + 0.1;
        let (key, label, height_m) =
            if over_table { ("table_lx", "On a table below it", self.height_m - TABLE_M) } else { ("ground_lx", "On the ground", self.height_m) };
        let lx = cd * self.down_deg.to_radians().sin().powi(3) / (height_m * height_m);
        let given = vec![
            quantity("I₀", "straight ahead", cd, "cd"),
            quantity("δ", "aimed below level", self.down_deg, "°"),
            quantity("h", if over_table { "over a table of 75 cm" } else { "over the ground, as drawn" }, height_m, "m"),
        ];
        (cd > 0.0).then(|| fact(key, label, "E", lx, "lx", &GROUND, given))
    }
}

fn light_look(light: &Light, figures: LightFigures, output: f64, on_s: Option<f64>, around: Around, air: Air, sits: Option<Sits>) -> LightSeen {
    let below = sits.and_then(|sits| sits.facts(light, figures.cd));
    let words = if figures.lm > 0.0 { format!("seen {}, noticed {}", far(figures.seen_m), far(figures.noticed_m)) } else { "dark in this scene".to_owned() };
    LightSeen {
        id: light.id.clone(),
        purpose: light.purpose,
        words,
        row: row_words(light, &figures),
        facts: facts(light, &figures, output, on_s, around, air).into_iter().chain(below).collect(),
        usual_half_angle_deg: light.usual_half_angle_deg(),
        usual_lm: light.usual_lm(),
        even_mm: figures.even_mm,
    }
}

/// A distance as people say it: a lamp is not seen to the metre.
fn far(metres: f64) -> String {
    let step = [(10_000.0, 1000.0), (1000.0, 100.0), (100.0, 10.0), (10.0, 1.0)].into_iter().find(|(from, _)| metres >= *from).map_or(0.5, |(_, step)| step);
    plain((metres / step).round() * step, "m")
}

fn row_words(light: &Light, figures: &LightFigures) -> String {
    let (Some(merge_m), Some(even_mm)) = (figures.merge_m, figures.even_mm) else { return String::new() };
    let even = even_mm.ceil();
    match (figures.contrast, light.shine.as_ref().is_some_and(|shine| shine.diffuser.is_some())) {
        (Some(contrast), _) if contrast <= 0.05 => "one even line".into(),
        (Some(contrast), _) => format!("points show through the diffuser, {:.0} % brighter; even from {even:.0} mm on", 100.0 * contrast),
        (None, true) => format!("even where the diffuser is {even:.0} mm away"),
        (None, false) => format!("single points; from {} on they merge", far(merge_m)),
    }
}

const FLUX: Rule = Rule {
    words: "The light of its kind and colour at rated power, times what it gets of that here, times what lens and diffuser let pass.",
    formula: "Φ = Φ_rated · output · T",
    source: "Efficacy by colour and kind, representative; the label where it states one",
};
const INTENSITY: Rule = Rule {
    words: "The narrower the beam, the more of its light goes where it is aimed.",
    formula: "I₀ = Φ (m + 1) / 2π, m = ln ½ / ln cos(half angle)",
    source: "Photometry: flux is intensity over the sphere; cosine-power beam",
};
const ROUND: Rule = Rule { words: "It shines the same all round.", formula: "I = Φ / 4π", source: "Photometry: flux is intensity over the sphere" };
const SEEN: Rule = Rule {
    words: "As far as what reaches the eye is what it needs; haze takes its share on the way.",
    formula: "I · e^(−3 d / V) / d² = E",
    source: "Allard's law; what an eye needs: IALA E200-2",
};
const NOTICE: Rule = Rule {
    words: "Who looks elsewhere needs a thousand times what who looks for it needs.",
    formula: "I · e^(−3 d / V) / d² = 1000 · E",
    source: "Allard's law; the factor is representative",
};
const SEE_BY: Rule = Rule {
    words: "As far as a surface that faces it gets enough to tell what is on it.",
    formula: "I · e^(−3 d / V) / d² = 1 lx",
    source: "Inverse square; 1 lx is about what four full moons give",
};
const STOP: Rule = Rule {
    words: "What it covers while you react and brake must not be longer than what you see.",
    formula: "1.5 s · v + v² / (2 · 3 m/s²) = d",
    source: "Kinematics; a wet road and an ordinary brake, representative",
};
const LOOKS: Rule = Rule { words: "An eye takes a fifth of the light for half as bright.", formula: "L*/100 of Φ / Φ_rated", source: "CIE 1976 lightness" };
const MERGES: Rule = Rule {
    words: "Two points closer than a minute of arc are one to the eye.",
    formula: "d = 3438 · p",
    source: "Resolution of a healthy eye: one minute of arc",
};
const CONTRAST: Rule = Rule {
    words: "The light of all LEDs of the row on the diffuser, over one of them and between two.",
    formula: "E(x) = Σ cosᵐ⁺¹ θₖ / (h² + (x − k p)²), (E₀ − E½) / (E₀ + E½)",
    source: "Inverse square and the beam of the LED",
};
const GROUND: Rule = Rule {
    words: "As far as its axis goes until it meets the ground or table, and as flat as it meets it.",
    formula: "E = I₀ sin³ δ / h²",
    source: "Inverse square and cosine of incidence, on the axis",
};
const LEAK: Rule = Rule { words: "Each coat lets its share pass.", formula: "Tⁿ", source: "Representative transmission of a coat" };

fn facts(light: &Light, figures: &LightFigures, output: f64, on_s: Option<f64>, around: Around, air: Air) -> Vec<Fact> {
    let rated = light.rated_lm();
    let through = light.shine.as_ref().map_or(1.0, orthavis_model::document::Shine::through);
    let output = quantity("output", if matches!(light.load, Load::Pixels(_)) { "of what is asked" } else { "of its rated light" }, output, "1");
    let beam = light.beam();
    let intensity = match beam.m {
        Some(m) => {
            fact("cd", "Straight ahead", "I₀", figures.cd, "cd", &INTENSITY, vec![quantity("Φ", "light", figures.lm, "lm"), quantity("m", "exponent", m, "")])
        }
        None => fact("cd", "All round", "I", figures.cd, "cd", &ROUND, vec![quantity("Φ", "light", figures.lm, "lm")]),
    };
    let sight = |needs: f64| -> Vec<Quantity> {
        let mut given = vec![
            quantity("I", "intensity", figures.cd, "cd"),
            quantity("E", format!("what an eye needs, {}", around.called()), needs, "lx"),
            quantity("V", format!("how far one sees through {}", air.called()), air.visibility_m(), "m"),
        ];
        given.extend(on_s.map(|on_s| quantity("t", "it blinks and is on for; counts t / (0.2 s + t) of its intensity", on_s, "s")));
        given
    };
    let mut facts = vec![
        fact("looks", "Looks", "L", figures.looks, "1", &LOOKS, vec![quantity("Φ", "share of its rated light", share_that_looks(figures.looks), "1")]),
        fact("seen_m", "Seen from", "d", figures.seen_m, "m", &SEEN, sight(around.seen_lx())),
        fact("noticed_m", "Noticed from", "d", figures.noticed_m, "m", &NOTICE, sight(NOTICED * around.seen_lx())),
        fact(
            "see_m",
            "You see by it",
            "d",
            figures.see_m,
            "m",
            &SEE_BY,
            vec![quantity("I", "intensity", figures.cd, "cd"), quantity("E", "enough", SEE_BY_LX, "lx")],
        ),
        fact(
            "lm",
            "Light",
            "Φ",
            figures.lm,
            "lm",
            &FLUX,
            vec![quantity("Φ_rated", "at rated power", rated, "lm"), output, quantity("T", "passes", through, "1")],
        ),
        intensity,
    ];
    if light.purpose == Some(Purpose::See) {
        let speed = 3.6 * stop_within_m_s(figures.see_m);
        facts.push(fact("stop_km_h", "You can stop within that from", "v", speed, "km/h", &STOP, vec![quantity("d", "you see by it", figures.see_m, "m")]));
    }
    if let (Some(merge_m), Some(pitch_m)) = (figures.merge_m, light.row_pitch_m()) {
        facts.push(fact("merge_m", "Its points merge from", "d", merge_m, "m", &MERGES, vec![quantity("p", "from LED to LED", pitch_m, "m")]));
        let given = |mm: f64| vec![quantity("p", "from LED to LED", 1e3 * pitch_m, "mm"), quantity("h", "to the diffuser", mm, "mm")];
        let distance_mm = light.shine.as_ref().and_then(|shine| shine.diffuser.as_ref()?.distance_mm);
        if let (Some(contrast), Some(mm)) = (figures.contrast, distance_mm) {
            facts.push(fact("contrast", "Points brighter than between", "C", contrast, "1", &CONTRAST, given(mm)));
        }
        if let Some(even_mm) = figures.even_mm {
            facts.push(fact("even_mm", "Even behind a diffuser from", "h", even_mm, "mm", &CONTRAST, given(even_mm)));
        }
    }
    if let Some(coats) = light.shine.as_ref().and_then(|shine| shine.coats.as_ref()) {
        let given =
            vec![quantity("T", format!("a coat of {}", coats.kind.called()), coats.kind.passes(), "1"), quantity("n", "coats", f64::from(coats.count), "")];
        facts.push(fact("leak", "Comes through the coats", "T", coats.leak(), "1", &LEAK, given));
    }
    facts
}
