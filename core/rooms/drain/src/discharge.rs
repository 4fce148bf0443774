//! A scene from a full battery to its end: voltage, current and every light's brightness over time.
//!
//! The network is solved at even steps of the state of charge; time follows from
//! `dt = C d soc / (I_avg p)`, `p` Peukert's factor, by the trapezoid rule.

use orthavis_model::document::{Battery, Build, Scene, Source};
use orthavis_model::laws::conditions::conditioned;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::practice::DIM;
use orthavis_model::states::Lit;
use orthavis_model::states::margin;
use orthavis_physics::network::{Network, Point, Solution};
use orthavis_physics::points::{PointError, finished};
use serde::Serialize;

/// Steps of the state of charge from full to empty.
const STEPS: usize = 80;
/// A converter that gives less than this share of its set voltage has dropped out.
const HOLDS: f64 = 0.98;

/// What happens on the way.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Event {
    /// A converter no longer holds its voltage.
    DropOut,
    /// A light gives half of what is asked.
    Half,
    /// No light of the scene gives a tenth.
    Dark,
    /// What may be used is used.
    Reserve,
    /// The voltage at which protection cuts off, or should.
    CutOff,
    /// Nothing is left.
    Empty,
}

/// A moment that matters.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mark {
    /// When, h from full.
    pub at_h: f64,
    /// What.
    pub event: Event,
    /// Converter or light that it happens to.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<String>,
    /// In words.
    pub words: String,
}

/// One moment.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Moment {
    /// From full, h.
    pub at_h: f64,
    /// State of charge, 0 to 1.
    pub soc: f64,
    /// At the battery's terminals, V.
    pub terminal_v: f64,
    /// Mean current, A.
    pub current_a: f64,
    /// Brightness of every light that the scene turns on, relative to rated, in document order of `lights`.
    pub outputs: Vec<f64>,
}

/// A discharge.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Discharge {
    /// Scene id.
    pub scene: String,
    /// Lights that the scene turns on.
    pub lights: Vec<String>,
    /// From full to the end; empty where nothing is drawn.
    pub moments: Vec<Moment>,
    /// In order of time.
    pub marks: Vec<Mark>,
}

/// Follows a scene from full to its end, the battery as cold and old as the usage says; `None` for a rail or an
/// unknown scene.
///
/// # Errors
/// What solving the build refuses.
pub fn discharge(build: &Build, scene: &str) -> Result<Option<Discharge>, PointError> {
    let build = &*orthavis_physics::circuits::flashing(build);
    let found = followed(build, scene);
    finished(build)?;
    Ok(found)
}

/// [`discharge`] of a build that was solved already.
pub fn followed(build: &Build, scene: &str) -> Option<Discharge> {
    let build = &*orthavis_physics::circuits::flashing(build);
    let build = &conditioned(build);
    let Source::Battery(battery) = &build.source else { return None };
    let scene = build.scenes.iter().find(|known| known.id == scene)?;
    let mut network = Network::new(build).ok()?;
    let lit = orthavis_physics::show::mean_lit(build, scene);
    let on: Vec<usize> = (0..lit.len()).filter(|&index| lit[index].level > 0.0).collect();
    let mut trace = Trace { build, battery, scene, network: &mut network, lit, on, near: None };
    Some(trace.follow())
}

struct Trace<'a> {
    build: &'a Build,
    battery: &'a Battery,
    scene: &'a Scene,
    network: &'a mut Network,
    lit: Vec<Lit>,
    on: Vec<usize>,
    near: Option<Solution>,
}

/// One solved step.
struct Step {
    moment: Moment,
    /// Converters that hold their voltage.
    holding: Vec<bool>,
    /// What each light that is on delivers of what is asked; `None` where nothing is.
    shares: Vec<Option<f64>>,
}

impl Trace<'_> {
    fn follow(&mut self) -> Discharge {
        let mut steps: Vec<Step> = Vec::new();
        let mut end = None;
        let cutoff_v = habits_of(self.battery.chemistry).cutoff_v * f64::from(self.battery.series);
        for index in 0..=STEPS {
            let soc = 1.0 - index as f64 / STEPS as f64;
            let Some(mut step) = self.step(soc) else {
                end = Some((Event::Dark, "the supply gives way"));
                break;
            };
            if step.moment.current_a <= 1e-9 {
                break;
            }
            if let Some(last) = steps.last() {
                step.moment.at_h = last.moment.at_h + self.hours(&last.moment, &step.moment);
            }
            let empty = step.moment.terminal_v <= cutoff_v;
            steps.push(step);
            if empty && index < STEPS {
                end = Some((Event::CutOff, "protection cuts off, or should"));
                break;
            }
        }
        let mut marks = self.marks(&steps);
        if let (Some(last), true) = (steps.last(), steps.len() > 1) {
            let (event, words) = end.unwrap_or((Event::Empty, "nothing is left"));
            marks.push(Mark { at_h: last.moment.at_h, event, subject: None, words: words.into() });
        }
        marks.sort_by(|a, b| a.at_h.total_cmp(&b.at_h).then(a.event.cmp(&b.event)));
        let lights = self.on.iter().map(|&index| self.build.lights[index].id.clone()).collect();
        Discharge { scene: self.scene.id.clone(), lights, moments: steps.into_iter().map(|step| step.moment).collect(), marks }
    }

    /// Time between two steps, h.
    fn hours(&self, a: &Moment, b: &Moment) -> f64 {
        let slowness = |moment: &Moment| 1.0 / (moment.current_a * self.battery.peukert_factor(moment.current_a));
        self.battery.capacity_ah * (a.soc - b.soc) * 0.5 * (slowness(a) + slowness(b))
    }

    fn step(&mut self, soc: f64) -> Option<Step> {
        let battery = self.battery;
        let point = Point { emf_v: battery.emf_v(soc), source_ohm: battery.pack_ohm(), standing_a: self.build.standing_a(), lights: self.lit.clone() };
        let solution = self.network.solve_in_passing(&point, self.near.as_ref()).ok()?;
        let (_, all_a) = self.network.source(&solution);
        let delivered: Vec<f64> = self.on.iter().map(|&index| self.network.output(&solution, index, &point.lights[index])).collect();
        let of = |(&index, &output): (&usize, &f64)| (&self.build.lights[index], &point.lights[index], output);
        let each = || self.on.iter().zip(&delivered).map(of);
        let outputs = each().map(|(light, lit, output)| light.brightness(lit, output)).collect();
        let shares = each().map(|(light, lit, output)| light.share(lit, output)).collect();
        let holding = self.build.converters.iter().enumerate().map(|(index, converter)| {
            let flow = self.network.converter(&solution, index);
            flow.on && converter.set_v().is_none_or(|set_v| flow.out_v >= HOLDS * set_v)
        });
        let holding = holding.collect();
        self.near = Some(solution);
        let mut current_a = all_a;
        for &index in &self.on {
            let duty = self.scene.lights.get(&self.build.lights[index].id).map_or(1.0, |lit| lit.duty);
            if duty < 1.0 {
                let mut without = point.clone();
                without.lights[index] = Lit::OFF;
                let rest = self.network.solve_in_passing(&without, self.near.as_ref()).ok()?;
                current_a -= (1.0 - duty) * (all_a - self.network.source(&rest).1);
            }
        }
        // As in the time of light: never less than what stands beside the lights.
        let current_a = current_a.max(point.standing_a);
        Some(Step { moment: Moment { at_h: 0.0, soc, terminal_v: point.emf_v - current_a * point.source_ohm, current_a, outputs }, holding, shares })
    }

    fn marks(&self, steps: &[Step]) -> Vec<Mark> {
        let mut marks = Vec::new();
        let reserve = self.battery.reserve_soc();
        let mut note = |at_h: Option<f64>, event, subject: Option<&str>, words: String| {
            marks.extend(at_h.map(|at_h| Mark { at_h, event, subject: subject.map(str::to_owned), words }));
        };
        note(crossing(steps, |step| step.moment.soc - reserve), Event::Reserve, None, "at its reserve".into());
        for (index, converter) in self.build.converters.iter().enumerate() {
            // One that never held, or always does, has nothing to lose on the way.
            if steps.first().is_some_and(|step| step.holding[index]) {
                let at = steps.iter().find(|step| !step.holding[index]).map(|step| step.moment.at_h);
                note(at, Event::DropOut, Some(&converter.id), format!("{} no longer holds its voltage", converter.id));
            }
        }
        for (slot, &index) in self.on.iter().enumerate() {
            let id = &self.build.lights[index].id;
            let at = crossing(steps, |step| step.shares[slot].map_or(f64::INFINITY, |share| share - DIM));
            note(at, Event::Half, Some(id), format!("{id} at half of what is asked"));
        }
        let best = |step: &Step| margin(step.shares.iter().copied().flatten()) - 1.0;
        if !self.on.is_empty() {
            note(crossing(steps, best), Event::Dark, None, "every light is dark".into());
        }
        marks
    }
}

/// When a figure that starts above zero first reaches it, h, linear between steps.
fn crossing(steps: &[Step], figure: impl Fn(&Step) -> f64) -> Option<f64> {
    steps.windows(2).find_map(|pair| {
        let (a, b) = (figure(&pair[0]), figure(&pair[1]));
        (a > 0.0 && b <= 1e-12).then(|| {
            let share = (a / (a - b)).clamp(0.0, 1.0);
            pair[0].moment.at_h + share * (pair[1].moment.at_h - pair[0].moment.at_h)
        })
    })
}
