//! Every scene of a build at every state of its source, solved: the figures that everything else judges.

use crate::network::{Network, Point, Side, Solution, SolveError, Terminal};
use orthavis_model::budget::{self, Stopped};
use orthavis_model::data;
use orthavis_model::document::{Build, FeedRef, Load};
use orthavis_model::edit::is_driven;
use orthavis_model::laws::led::DiodeString;
use orthavis_model::states::{Lit, State};
use orthavis_model::topology::{Node, Topology};
use std::collections::BTreeMap;
use std::sync::Arc;

data! {
    /// One scene at one state.
    pub struct PointReport {
        /// Scene id.
        pub scene: String,
        /// State of the source.
        pub state: State,
        /// The source.
        pub source: SourceReport,
        /// By feed id.
        pub feeds: BTreeMap<String, FeedReport>,
        /// By converter id.
        pub converters: BTreeMap<String, ConverterReport>,
        /// By light id.
        pub lights: BTreeMap<String, LightReport>,
        /// How every light was lit, in document order; of what moves, where all of it takes most.
        #[serde(skip)]
        pub lit: Arc<[Lit]>,
        /// By controller id: the voltage at its input, V.
        #[serde(skip)]
        pub controllers_v: BTreeMap<String, f64>,
        /// By controller id: the largest voltage between its minus and that of the pixels it says data to, V.
        #[serde(skip)]
        pub apart_v: BTreeMap<String, f64>,
        /// The same scene and state at other moments of a show: those at which single lights take most.
        #[serde(skip)]
        pub beside: Vec<PointReport>,
        /// Of a show, when in it this is, s: the frame in which its pixels together take most.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub frame_s: Option<f64>,
        /// The same scene and state while everything that is dimmed by pulses is on; absent where nothing is.
        #[serde(skip)]
        pub pulse: Option<Box<PointReport>>,
    }

    /// The source at one point.
    pub struct SourceReport {
        /// Without load, V.
        pub emf_v: f64,
        /// At its terminals, V.
        pub terminal_v: f64,
        /// Drawn from it, A.
        pub current_a: f64,
    }

    /// A feed at one point.
    pub struct FeedReport {
        /// In its plus conductor, from supply to consumer, A.
        pub current_a: f64,
        /// In its minus conductor, from consumer to supply, A; another figure only where feeds share a consumer.
        pub back_a: f64,
        /// Lost out and back, V.
        pub drop_v: f64,
        /// Lost in all that it contains, W.
        pub loss_w: f64,
        /// Power that leaves the supply through it, counted from the source's minus, W.
        #[serde(skip)]
        pub sent_w: f64,
    }

    /// A converter at one point.
    pub struct ConverterReport {
        /// Whether it runs.
        pub on: bool,
        /// Input, V.
        pub in_v: f64,
        /// Input, A.
        pub in_a: f64,
        /// Output, V.
        pub out_v: f64,
        /// Output, A.
        pub out_a: f64,
        /// Its heat, W.
        pub loss_w: f64,
    }

    /// A light at one point.
    pub struct LightReport {
        /// Where its first feed joins, V.
        pub voltage_v: f64,
        /// Drawn in all, A.
        pub current_a: f64,
        /// Taken in all, W.
        pub power_w: f64,
        /// Light relative to rated; of pixels, to what the scene asks.
        pub output: f64,
        /// Lowest voltage along it, V.
        pub lowest_v: f64,
        /// Output of its dimmest part.
        pub lowest_output: f64,
        /// Highest voltage along it, V.
        pub highest_v: f64,
        /// Output of its brightest part.
        pub highest_output: f64,
        /// Largest current along either rail of a strip or of pixels, A.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rail_a: Option<f64>,
        /// Current of one string of an LED array while it is pulsed on, A; of a dark array, what it would be.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub string_a: Option<f64>,
        /// Power in each resistor of an LED array at that current, W.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub resistor_w: Option<f64>,
    }
}

impl PointReport {
    /// Voltage at the terminals of what a feed hangs on, V; what a small circuit keeps to itself is not taken off.
    pub fn supply_v(&self, build: &Build, topology: &Topology<'_>, from: &str) -> f64 {
        let Some(node) = topology.node(from) else { return self.source.terminal_v };
        let lost: f64 = topology.leading_to(node).filter_map(|wire| self.feeds.get(&topology.feed(wire).id)).map(|feed| feed.drop_v).sum();
        let set_v = match topology.supply(node) {
            Node::Converter(at) => self.converters.get(&build.converters[at].id).map_or(0.0, |converter| converter.out_v),
            _ => self.source.terminal_v,
        };
        set_v - lost
    }
}

/// Points, each with what all that is dimmed by pulses does while it is on: what wires, fuses and supplies have to carry.
pub fn peaks(points: &[PointReport]) -> impl Iterator<Item = &PointReport> {
    points.iter().flat_map(|point| std::iter::once(point).chain(point.pulse.as_deref()))
}

/// A point that has no figures.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("scene `{scene}`, {}: {error}", state.phrase())]
pub struct PointError {
    /// Scene id.
    pub scene: String,
    /// State of the source.
    pub state: State,
    /// Why.
    pub error: SolveError,
}

/// A solved build: its points, and the network with the solution of each.
pub struct SolvedBuild {
    /// Scenes in document order, fullest state first, then those under way; without those that have no steady state.
    pub points: Vec<PointReport>,
    /// The scenes and states that have none.
    pub collapsed: Vec<PointError>,
    /// The network that was solved.
    pub network: Network,
    /// One for each point.
    pub solutions: Vec<Solution>,
}

/// Every scene at every state that has a steady solution, without judging.
///
/// # Errors
/// When work was stopped.
pub fn points(build: &Build) -> Result<Vec<PointReport>, PointError> {
    Ok(solved(build, &[])?.points)
}

/// Refuses what was found where work was stopped meanwhile: it is not the whole.
///
/// # Errors
/// When it was.
pub fn finished(build: &Build) -> Result<(), PointError> {
    let error = match budget::stopped() {
        None => return Ok(()),
        Some(Stopped::CalledOff) => SolveError::CalledOff,
        Some(Stopped::TooMuch) => SolveError::TooMuch { size: format!("{} lights in {} scenes", build.lights.len(), build.scenes.len()) },
    };
    let scene = build.scenes.first().map_or(String::new(), |scene| scene.id.clone());
    Err(PointError { scene, state: build.states()[0], error })
}

/// Solves every point. With solutions of a similar build the figures are only good for judging.
///
/// # Errors
/// When work was stopped, or the build is not a network at all.
pub fn solved(build: &Build, similar: &[Solution]) -> Result<SolvedBuild, PointError> {
    let at = |scene: &str, state, error| PointError { scene: scene.to_owned(), state, error };
    let states = build.states();
    let feeds = build.feeds();
    let mut network = Network::new(build).map_err(|error| at("", states[0], error))?;
    if !similar.is_empty() {
        network.judge_only();
    }
    let (mut points, mut solutions, mut collapsed): (Vec<_>, Vec<Solution>, Vec<PointError>) = Default::default();
    // Under way comes last, after every scene at rest.
    let (at_rest, moving) = states.split_at(build.source.states().len());
    let extents: Vec<_> = build.scenes.iter().map(|scene| crate::show::extent(build, scene)).collect();
    for (states, (scene, extent)) in [at_rest, moving].into_iter().flat_map(|states| std::iter::repeat(states).zip(build.scenes.iter().zip(&extents))) {
        for (index, &state) in states.iter().enumerate() {
            let point = Point::of(build, scene, state);
            let twin = similar.get(points.len()).filter(|twin| twin.unknowns() == network.unknowns());
            let near = twin.or(if index > 0 { solutions.last() } else { None }).cloned();
            let near = near.as_ref();
            let mut of_point = || {
                let solution = network.solve(&point, near)?;
                let mut report = point_report(build, &feeds, &network, &scene.id, state, &point, &solution);
                report.frame_s = extent.as_ref().map(|extent| extent.worst.time_s);
                for moment in extent.iter().flat_map(|extent| &extent.beside) {
                    let other = Point { lights: moment.lit.to_vec(), ..point.clone() };
                    let found = network.solve(&other, Some(&solution))?;
                    report.beside.push(point_report(build, &feeds, &network, &scene.id, state, &other, &found));
                }
                let pulse = pulsed(build, &point);
                // What gives way to a pulse of a millisecond is carried by the capacitors there; then its mean is judged.
                if let Some(found) = pulse.as_ref().and_then(|pulse| network.solve(pulse, Some(&solution)).ok()) {
                    let pulse = pulse.as_ref().unwrap_or(&point);
                    report.pulse = Some(Box::new(point_report(build, &feeds, &network, &scene.id, state, pulse, &found)));
                }
                Ok((report, solution))
            };
            match of_point() {
                Ok((report, solution)) => {
                    points.push(report);
                    solutions.push(solution);
                }
                Err(error) if SolveError::is_unfinished(&error) => return Err(at(&scene.id, state, error)),
                Err(error) => collapsed.push(at(&scene.id, state, error)),
            }
        }
    }
    Ok(SolvedBuild { points, collapsed, network, solutions })
}

fn point_report(build: &Build, feeds: &[FeedRef<'_>], network: &Network, scene: &str, state: State, point: &Point, solution: &Solution) -> PointReport {
    let (terminal_v, current_a) = network.source(solution);
    let feeds = feeds.iter().enumerate().map(|(index, feed)| {
        let flow = network.feed(solution, index);
        (feed.id.clone(), FeedReport { current_a: flow.current_a, back_a: flow.back_a, drop_v: flow.drop_v, loss_w: flow.loss_w, sent_w: flow.sent_w })
    });
    let converters = build.converters.iter().enumerate().map(|(index, converter)| {
        let flow = network.converter(solution, index);
        let loss_w = flow.in_v * flow.in_a - flow.out_v * flow.out_a;
        let report = ConverterReport { on: flow.on, in_v: flow.in_v, in_a: flow.in_a, out_v: flow.out_v, out_a: flow.out_a, loss_w };
        (converter.id.clone(), report)
    });
    let lights = build.lights.iter().enumerate().map(|(index, light)| {
        let lit = &point.lights[index];
        let taps = network.taps(solution, index, lit);
        let asked = |tap: usize| lit.each.is_none() || lit.colour_of(tap).iter().any(|share| *share > 0.0);
        let mut report = light_report(&light.load, is_driven(build, light), network.light_v(solution, index), taps, asked);
        report.rail_a = network.rail_a(solution, index, lit);
        (light.id.clone(), report)
    });
    PointReport {
        scene: scene.to_owned(),
        state,
        source: SourceReport { emf_v: point.emf_v, terminal_v, current_a },
        feeds: feeds.collect(),
        converters: converters.collect(),
        lights: lights.collect(),
        lit: point.lights.as_slice().into(),
        controllers_v: controllers_v(build, network, solution),
        apart_v: apart_v(build, network, solution),
        beside: Vec::new(),
        frame_s: None,
        pulse: None,
    }
}

/// A point with everything on that is dimmed by pulses: strips, lamps and arrays, but not what a driver feeds (its current
/// is less), nor pixels (each pulses by itself). `None`: nothing is dimmed so.
fn pulsed(build: &Build, point: &Point) -> Option<Point> {
    let pulses = |index: usize| {
        let (light, level) = (&build.lights[index], point.lights[index].level);
        level > 0.0 && level < 1.0 && !matches!(light.load, Load::Pixels(_)) && !is_driven(build, light)
    };
    let dimmed: Vec<usize> = (0..build.lights.len()).filter(|index| pulses(*index)).collect();
    if dimmed.is_empty() {
        return None;
    }
    let mut peak = point.clone();
    dimmed.into_iter().for_each(|index| peak.lights[index].level = 1.0);
    Some(peak)
}

/// What each controller gets, V.
fn controllers_v(build: &Build, network: &Network, solution: &Solution) -> BTreeMap<String, f64> {
    if build.controllers.is_empty() {
        return BTreeMap::new();
    }
    let feeds = build.feeds();
    let at = |id: &str| {
        let feed = feeds.iter().position(|feed| feed.id == id)?;
        let of = |side| network.potential(solution, Terminal::To(feed, side));
        Some(of(Side::Plus)? - of(Side::Minus)?)
    };
    build.controllers.iter().filter_map(|one| Some((one.id.clone(), at(&one.id)?))).collect()
}

/// How far the minus of each controller is from where data enters the pieces of its chains, V: the wire passes from piece to piece.
fn apart_v(build: &Build, network: &Network, solution: &Solution) -> BTreeMap<String, f64> {
    if build.controllers.is_empty() {
        return BTreeMap::new();
    }
    let feeds = build.feeds();
    let chains = crate::show::chains(build);
    let minus = |at: Terminal| network.potential(solution, at);
    let of = |index: usize| -> Option<f64> {
        let feed = feeds.iter().position(|feed| feed.id == build.controllers[index].id)?;
        let own = minus(Terminal::To(feed, Side::Minus))?;
        let entries = chains.iter().filter(|chain| chain.controller == Some(index)).filter_map(|chain| chain.pieces.first());
        let entered = entries.flat_map(|piece| {
            let tap = if piece.against { piece.count.saturating_sub(1) } else { 0 };
            piece.lights.iter().filter_map(move |light| minus(Terminal::Rail(*light, tap, Side::Minus)))
        });
        Some(entered.map(|volts| (volts - own).abs()).fold(0.0, f64::max))
    };
    (0..build.controllers.len()).filter_map(|index| Some((build.controllers[index].id.clone(), of(index)?))).collect()
}

/// `asked` says which of its pixels a frame asks for light.
fn light_report(load: &Load, driven: bool, voltage_v: f64, taps: impl Iterator<Item = crate::network::TapFlow>, asked: impl Fn(usize) -> bool) -> LightReport {
    let mut report = LightReport {
        voltage_v,
        current_a: 0.0,
        power_w: 0.0,
        output: 0.0,
        lowest_v: f64::INFINITY,
        lowest_output: f64::INFINITY,
        highest_v: voltage_v,
        highest_output: 0.0,
        rail_a: None,
        string_a: None,
        resistor_w: None,
    };
    let mut count = 0.0;
    for (index, tap) in taps.enumerate() {
        report.current_a += tap.current_a;
        report.power_w += tap.voltage_v * tap.current_a;
        report.lowest_v = report.lowest_v.min(tap.voltage_v);
        report.highest_v = report.highest_v.max(tap.voltage_v);
        if !asked(index) {
            continue;
        }
        count += 1.0;
        report.output += tap.output;
        report.lowest_output = report.lowest_output.min(tap.output);
        report.highest_output = report.highest_output.max(tap.output);
    }
    if count == 0.0 {
        // A strip shorter than one segment has nothing to light, and a black frame asks for nothing.
        (report.lowest_v, report.lowest_output) = (report.lowest_v.min(voltage_v), 0.0);
    } else {
        report.output /= count;
    }
    if let Load::LedArray(array) = load {
        let string_a = if driven { report.current_a / f64::from(array.parallel) } else { DiodeString::of_array(array).current(voltage_v).0 };
        report.string_a = Some(string_a);
        report.resistor_w = Some(array.resistor_a(string_a).powi(2) * array.resistor_ohm);
    }
    report
}
