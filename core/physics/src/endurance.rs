//! How long a scene lasts, from full to reserve.
//!
//! `d soc/dt = -I_avg(soc) p / C` with `p = max(1, I_avg / I_rated)^(k - 1)`. The current depends on the state of
//! charge only through the open-circuit voltage, so it is solved at few voltages, chosen where a parabola through
//! its neighbours is not good enough, and the integral over the charge is taken on those. A blinking light counts
//! with its duty: the mean current is the full one less `(1 - duty)` of what that light adds.

use crate::network::{Network, Point, Solution};
use orthavis_model::budget;
use orthavis_model::document::{Battery, Build, Converter, Scene, Source};
use orthavis_model::states::Lit;
use orthavis_model::states::margin;
use serde::Serialize;

/// What ends a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Ends {
    /// The battery is at its reserve.
    Reserve,
    /// No light of the scene gives a tenth of what it is asked for.
    Dark,
}

/// How long a scene lasts.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Endurance {
    /// Scene id.
    pub scene: String,
    /// From full, h; `None` where nothing is drawn.
    pub hours: Option<f64>,
    /// Drawn in that time, Ah; `None` where nothing is drawn.
    pub ah: Option<f64>,
    /// What comes first.
    pub ends: Ends,
}

/// A scene at one open-circuit voltage.
#[derive(Clone, Copy, Debug)]
struct Sample {
    emf_v: f64,
    mean_a: f64,
    /// See [`margin`].
    margin: f64,
}

/// A sample with the solution that it was read from; `None` where the supply gives way.
type Sampled = (Sample, Option<Solution>);

/// Interpolation error of the current that is good enough.
const CURRENT_SHARE: f64 = 1e-3;
/// Intervals are not cut finer than this share of the whole range; a switching threshold is then placed to it.
const FINEST: f64 = 1.0 / 512.0;
/// So many times its least input a module is near its limit.
const NEAR: f64 = 1.1;
/// There no interval is left longer than this share of the range.
const COARSE: f64 = 1.0 / 16.0;
/// Steps of the integral over the charge; each costs an interpolation, not a solve.
const STEPS: usize = 400;

/// Endurance of every scene; empty for a rail. `known` are the solutions of its points, or nothing.
pub fn endurance(build: &Build, network: &mut Network, known: &[Solution]) -> Vec<Endurance> {
    let build = &*crate::circuits::flashing(build);
    let Source::Battery(battery) = &build.source else { return Vec::new() };
    // Those at rest come first; what the motor sags is a state of the moment.
    let of_scenes = known.chunks(build.source.states().len()).chain(std::iter::repeat(&[][..]));
    build.scenes.iter().zip(of_scenes).map(|(scene, known)| of_scene(build, battery, network, scene, known)).collect()
}

fn of_scene(build: &Build, battery: &Battery, network: &mut Network, scene: &Scene, known: &[Solution]) -> Endurance {
    let drawn = draw_from(build, battery, network, scene, battery.reserve_soc(), known);
    let run = drawn.run(battery, battery.reserve_soc(), |_, _| 0.0);
    Endurance { scene: scene.id.clone(), hours: run.map(|run| run.hours), ah: run.map(|run| run.ah), ends: run.map_or(Ends::Reserve, |run| run.ends) }
}

/// The mean current of a scene over the open-circuit voltages from full down to a state of charge.
pub fn draw(build: &Build, battery: &Battery, network: &mut Network, scene: &Scene, low_soc: f64) -> Draw {
    draw_from(build, battery, network, scene, low_soc, &[])
}

/// [`draw`], begun from what is known of the scene, fullest state first.
fn draw_from(build: &Build, battery: &Battery, network: &mut Network, scene: &Scene, low_soc: f64, known: &[Solution]) -> Draw {
    let (low, high) = (battery.emf_v(low_soc), battery.emf_v(1.0));
    let coarse_v = (high - low) * COARSE;
    let mut curve = Curve { build, battery, network, scene, samples: Vec::new(), finest_v: (high - low) * FINEST, coarse_v };
    curve.build_up(low, high, known);
    Draw { samples: curve.samples }
}

/// What a scene draws.
pub struct Draw {
    /// By rising voltage.
    samples: Vec<Sample>,
}

/// A discharge from full.
#[derive(Clone, Copy, Debug)]
pub struct Run {
    /// How long, h.
    pub hours: f64,
    /// What went out, Ah.
    pub ah: f64,
    /// What ended it.
    pub ends: Ends,
}

struct Curve<'a> {
    build: &'a Build,
    battery: &'a Battery,
    network: &'a mut Network,
    scene: &'a Scene,
    /// By rising voltage once built.
    samples: Vec<Sample>,
    finest_v: f64,
    coarse_v: f64,
}

impl Curve<'_> {
    fn build_up(&mut self, low: f64, high: f64, known: &[Solution]) {
        let top = self.sample(high, known.first());
        let bottom = self.sample(low, known.last().or(top.1.as_ref()));
        self.refine(&top, &bottom);
        self.samples.sort_by(|a, b| a.emf_v.total_cmp(&b.emf_v));
    }

    /// Halves the interval until a straight line through the ends meets the middle, in voltage over current.
    fn refine(&mut self, a: &Sampled, b: &Sampled) {
        if (a.0.emf_v - b.0.emf_v).abs() <= self.finest_v || budget::stopped().is_some() {
            return;
        }
        // Half way between two solutions is nearly the one half way between their voltages.
        let near = match (&a.1, &b.1) {
            (Some(one), Some(other)) => one.halfway(other).or_else(|| b.1.clone()),
            (one, other) => one.as_ref().or(other.as_ref()).cloned(),
        };
        let middle = self.sample(0.5 * (a.0.emf_v + b.0.emf_v), near.as_ref());
        let line = 0.5 * (a.0.mean_a + b.0.mean_a);
        let bent = (middle.0.mean_a - line).abs() > CURRENT_SHARE * middle.0.mean_a.abs() + 1e-9;
        let crosses = (a.0.margin < 1.0) != (b.0.margin < 1.0);
        // A module near its limit may give way between two states at which it runs.
        let wide = (a.0.emf_v - b.0.emf_v).abs() > self.coarse_v;
        if bent || crosses || (wide && [a, b].into_iter().any(|one| self.is_near_limit(one))) {
            self.refine(a, &middle);
            self.refine(&middle, b);
        }
    }

    /// Whether a module runs within a tenth of the least that it runs from.
    fn is_near_limit(&self, (_, solution): &Sampled) -> bool {
        let near = |(index, module): (usize, &Converter)| {
            let in_v = |solution: &Solution| self.network.converter(solution, index).in_v;
            solution.as_ref().is_some_and(|solution| (module.min_in_v..NEAR * module.min_in_v).contains(&in_v(solution)))
        };
        self.build.converters.iter().enumerate().any(near)
    }

    fn sample(&mut self, emf_v: f64, near: Option<&Solution>) -> Sampled {
        let lights = crate::show::mean_lit(self.build, self.scene);
        let point = Point { emf_v, source_ohm: self.battery.pack_ohm(), standing_a: self.build.standing_a(), lights };
        let solved = self.solved(point, near);
        self.samples.push(solved.0);
        solved
    }

    fn solved(&mut self, point: Point, near: Option<&Solution>) -> Sampled {
        let emf_v = point.emf_v;
        let Ok(solution) = self.network.solve_in_passing(&point, near) else {
            // The supply gives way: no light to count on.
            return (Sample { emf_v, mean_a: point.standing_a, margin: 0.0 }, None);
        };
        let shares = point.lights.iter().enumerate().filter_map(|(index, lit)| self.build.lights[index].share(lit, self.network.output(&solution, index, lit)));
        let margin = margin(shares);
        let (_, all_a) = self.network.source(&solution);
        let mut mean_a = all_a;
        for (index, light) in self.build.lights.iter().enumerate() {
            let duty = self.scene.lights.get(&light.id).map_or(1.0, |lit| lit.duty);
            if duty < 1.0 && point.lights[index].level > 0.0 {
                let mut without = point.clone();
                without.lights[index] = Lit::OFF;
                if let Ok(rest) = self.network.solve_in_passing(&without, Some(&solution)) {
                    mean_a -= (1.0 - duty) * (all_a - self.network.source(&rest).1);
                }
            }
        }
        // Where blinking lights share a weak supply, each counts for more than there is to take away.
        (Sample { emf_v, mean_a: mean_a.max(point.standing_a), margin }, Some(solution))
    }
}

impl Draw {
    /// Of a source that has no charge to follow.
    pub const NOTHING: Draw = Draw { samples: Vec::new() };

    /// From full to a state of charge, with `extra(emf_v, mean_a)` drawn beside the scene, A; `None` where nothing
    /// is drawn.
    pub fn run(&self, battery: &Battery, to_soc: f64, extra: impl Fn(f64, f64) -> f64) -> Option<Run> {
        let step = (1.0 - to_soc) / STEPS as f64;
        let mut run = Run { hours: 0.0, ah: 0.0, ends: Ends::Reserve };
        let mut idle = false;
        for index in 0..STEPS {
            let soc = 1.0 - (index as f64 + 0.5) * step;
            let emf_v = battery.emf_v(soc);
            let here = self.at(emf_v);
            if here.margin < 1.0 {
                run.ends = Ends::Dark;
                break;
            }
            let mean_a = here.mean_a + extra(emf_v, here.mean_a);
            if mean_a <= 1e-12 {
                idle = true;
                continue;
            }
            let time = battery.capacity_ah * step / (mean_a * battery.peukert_factor(mean_a));
            run.hours += time;
            run.ah += time * mean_a;
        }
        (!idle || run.ends == Ends::Dark).then_some(run)
    }

    /// Linear between samples.
    fn at(&self, emf_v: f64) -> Sample {
        let above = self.samples.partition_point(|sample| sample.emf_v < emf_v);
        if above == 0 || above == self.samples.len() {
            return self.samples[above.min(self.samples.len() - 1)];
        }
        let (a, b) = (self.samples[above - 1], self.samples[above]);
        let share = if b.emf_v > a.emf_v { (emf_v - a.emf_v) / (b.emf_v - a.emf_v) } else { 0.0 };
        // Infinite margins (nothing lit) must not meet in a subtraction.
        let margin = if a.margin == b.margin { a.margin } else { a.margin + share * (b.margin - a.margin) };
        Sample { emf_v, mean_a: a.mean_a + share * (b.mean_a - a.mean_a), margin }
    }
}
