//! A build as an electrical network, solved for one scene and state.
//!
//! Modified nodal analysis. Unknowns are the voltage of every node against the source's minus, and the current of
//! every branch that fixes a voltage: the source, both conductors of each feed, each converter's output. Equations
//! are Kirchhoff's current law at every node and one voltage equation a branch. The inside of a strip is a ladder of
//! its own, see `ladder`; what a tap draws depends on the voltage between the rails there.
//!
//! A network has three parts. How everything hangs together and in which order it is eliminated is found once in
//! [`Network::new`] and shared by [`Network::fork`]; what the elements are, [`Network::change`] can override one by
//! one (a fault, a measured figure) and [`Network::restore`] puts back; the third is room to work in. A [`Point`] says
//! what is lit and how full the battery is; [`Network::solve`] finds the voltages, [`Network::potential`] reads any.

mod build;
mod change;
mod ladder;
mod law;
mod matrix;
mod modes;
mod newton;
mod probe;
mod wiring;

pub use change::{Change, RailCut, Side};
pub use probe::Terminal;

use ladder::{Elimination, Ladder};
use law::{Law, Row};
use matrix::{Matrix, Slot};
use orthavis_model::budget::Stopped;
use orthavis_model::document::{Build, Converter, Scene};
use orthavis_model::laws::led::{DiodeString, Near};
use orthavis_model::states::{Lit, State};
use std::sync::Arc;
use wiring::{Along, BranchStamp, Conductor, ConverterNet, ConverterStamp, Item, LightNet, Meeting, Quad, Rail, Spot, Tap, Wiring};

/// Index of an unknown; `None` is ground.
type Node = Option<usize>;

/// What one solve is made for.
#[derive(Clone, Debug, PartialEq)]
pub struct Point {
    /// Open-circuit voltage of the source, V.
    pub emf_v: f64,
    /// Its resistance, ohm.
    pub source_ohm: f64,
    /// What is drawn at its terminals besides the lights, A.
    pub standing_a: f64,
    /// How each light is lit, in document order.
    pub lights: Vec<Lit>,
}

impl Point {
    /// A scene of a build at a state of its source.
    pub fn of(build: &Build, scene: &Scene, state: State) -> Self {
        let (emf_v, source_ohm) = build.thevenin(state);
        Point { emf_v, source_ohm, standing_a: build.standing_a(), lights: crate::show::lit(build, scene) }
    }
}

/// Why there are no figures. `place` is the id of the part at fault.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum SolveError {
    /// Newton's method found no operating point.
    #[error("no operating point was found; the currents do not balance at `{place}`")]
    NotConverged {
        /// Part of the worst node.
        place: String,
    },
    /// The supply gives way before everything draws what it wants.
    #[error("`{place}` cannot be fed: with every load raised together, the supply gives way at {:.0} % of what is asked", 100.0 * share)]
    Overloaded {
        /// The part that takes the most there.
        place: String,
        /// Share of all loads that could still be fed, 0 to 1.
        share: f64,
    },
    /// A part switches on and off without end.
    #[error("`{place}` cannot stay on: running, its input sags to {running_v:.2} V, outside its range; resting, it sees {resting_v:.2} V and starts again")]
    Hunting {
        /// The part.
        place: String,
        /// Its input while it tries to run, V.
        running_v: f64,
        /// Its input while it is off, V.
        resting_v: f64,
    },
    /// It asks for more computing than it may.
    #[error("the build is too large to be computed: {size}")]
    TooMuch {
        /// What makes it large.
        size: String,
    },
    /// Nobody waits for it any more.
    #[error("the computation was called off")]
    CalledOff,
    /// Two different sets of parts can run, each in balance.
    #[error("`{place}` may or may not start: the network is in balance either way, so its figures are not settled")]
    Several {
        /// A part that runs in one balance and not in the other.
        place: String,
    },
}

/// What the elements are: as the document says, or as a change has them.
#[derive(Clone, Debug)]
struct Values {
    /// Of each conductor, ohm.
    ohms: Vec<f64>,
    /// Between the terminals of what a feed feeds, S; feeds without one are not named.
    across: Vec<(usize, f64)>,
    /// What an instrument drives into a node, A.
    injected: Vec<(Node, f64)>,
    converters: Vec<Converter>,
    laws: Vec<Law>,
}

/// Room to work in.
struct Work {
    elimination: Elimination,
    matrix: Matrix,
    residual: Vec<f64>,
    step: Vec<f64>,
    trial: Vec<f64>,
    steps: usize,
    /// Kirchhoff's law is met to this, A, and to this share of the largest branch current, before Newton stops.
    close: (f64, f64),
}

impl Work {
    fn of(wiring: &Wiring) -> Self {
        let zeros = || vec![0.0; wiring.size + wiring.cells];
        Work {
            elimination: Elimination::of(wiring.size, wiring.cells),
            matrix: Matrix::of(wiring.order.clone()),
            residual: zeros(),
            step: zeros(),
            trial: zeros(),
            steps: 0,
            close: newton::TIGHT,
        }
    }
}

/// A build as a network.
pub struct Network {
    wiring: Arc<Wiring>,
    /// As the document has them.
    given: Arc<Values>,
    values: Values,
    work: Work,
}

/// Which converters and modules run.
#[derive(Clone, Debug, PartialEq)]
struct Modes {
    converters: Vec<bool>,
    lights: Vec<bool>,
}

/// The unknowns of one solved point.
#[derive(Clone, Debug)]
pub struct Solution {
    x: Vec<f64>,
    modes: Modes,
}

impl Solution {
    /// Number of unknowns of the network that it solves.
    pub fn unknowns(&self) -> usize {
        self.x.len()
    }

    /// Half way to another one in which the same parts run: where a solution between them is looked for first.
    pub fn halfway(&self, other: &Solution) -> Option<Solution> {
        let x = || self.x.iter().zip(&other.x).map(|(a, b)| 0.5 * (a + b)).collect();
        (self.modes == other.modes && self.x.len() == other.x.len()).then(|| Solution { x: x(), modes: self.modes.clone() })
    }
}

/// One conductor pair of a feed in a solution.
#[derive(Clone, Copy, Debug)]
pub struct FeedFlow {
    /// Current in the plus conductor, from supply to consumer, A.
    pub current_a: f64,
    /// Current in the minus conductor, from consumer to supply, A.
    pub back_a: f64,
    /// Voltage lost out and back, V.
    pub drop_v: f64,
    /// Power lost, W.
    pub loss_w: f64,
    /// Power that leaves the supply through it, counted from the source's minus, W.
    pub sent_w: f64,
}

/// A converter in a solution.
#[derive(Clone, Copy, Debug)]
pub struct ConverterFlow {
    /// Whether it runs.
    pub on: bool,
    /// Between its input terminals, V.
    pub in_v: f64,
    /// Input current, A.
    pub in_a: f64,
    /// Between its output terminals, V.
    pub out_v: f64,
    /// Output current, A.
    pub out_a: f64,
}

/// One tap of a light in a solution.
#[derive(Clone, Copy, Debug)]
pub struct TapFlow {
    /// Between the rails, V.
    pub voltage_v: f64,
    /// Current drawn, A.
    pub current_a: f64,
    /// Part of it that makes light, relative to full current of this tap.
    pub output: f64,
}

impl Network {
    /// The network of a build.
    ///
    /// # Errors
    /// When the equations cannot be ordered, which a parsed build does not cause.
    pub fn new(build: &Build) -> Result<Self, SolveError> {
        build::network(build, &[], &[])
    }

    /// The network of a build with places along its strips at which a rail is cut or corroded, and feeds, by their place
    /// in [`Build::feeds`], whose two wires are swapped where they join.
    ///
    /// # Errors
    /// As [`Self::new`].
    pub fn opened(build: &Build, cuts: &[RailCut], swapped: &[usize]) -> Result<Self, SolveError> {
        build::network(build, cuts, swapped)
    }

    /// Another network of the same build, unchanged, with room of its own; nothing is ordered anew.
    #[must_use]
    pub fn fork(&self) -> Self {
        Network { wiring: self.wiring.clone(), given: self.given.clone(), values: (*self.given).clone(), work: Work::of(&self.wiring) }
    }

    /// Number of unknowns.
    pub fn unknowns(&self) -> usize {
        self.work.residual.len()
    }

    /// Lets Newton stop where the balance is good enough to be accepted: for judging, where no figure is shown.
    pub fn judge_only(&mut self) {
        self.work.close = newton::ACCEPTED;
    }

    /// Newton steps taken since it was made.
    pub fn steps(&self) -> usize {
        self.work.steps
    }

    /// Voltages and currents of one point; `near` is a solution of a similar point to start from.
    ///
    /// # Errors
    /// When there is no steady state, or more than one; never a figure then.
    pub fn solve(&mut self, point: &Point, near: Option<&Solution>) -> Result<Solution, SolveError> {
        modes::settle(self, point, near, false)
    }

    /// [`Self::solve`] on the way down a discharge: a part that switches on and off without end, as it does while
    /// the battery passes its lower limit, counts as resting.
    ///
    /// # Errors
    /// When there is no steady state but for such parts, or more than one.
    pub fn solve_in_passing(&mut self, point: &Point, near: Option<&Solution>) -> Result<Solution, SolveError> {
        modes::settle(self, point, near, true)
    }

    /// Source terminal voltage, V, and current, A.
    pub fn source(&self, solution: &Solution) -> (f64, f64) {
        (voltage(&solution.x, self.wiring.source_plus), solution.x[self.wiring.source_branch])
    }

    /// A feed, by its place in [`Build::feeds`].
    pub fn feed(&self, solution: &Solution, index: usize) -> FeedFlow {
        let (plus, minus) = (&self.wiring.conductors[2 * index], &self.wiring.conductors[2 * index + 1]);
        let (out, back) = (solution.x[plus.branch], solution.x[minus.branch]);
        let at = |node: Node| voltage(&solution.x, node);
        let supply_minus = self.wiring.supply_minus[index];
        let drop_v = at(plus.from) - at(plus.to) + at(minus.from) - at(supply_minus);
        // What goes by the frame comes back at the source: each feed bears its part of the frame's loss.
        let back_to = if minus.to == supply_minus { at(minus.to) } else { 0.0 };
        let loss_w = (at(plus.from) - at(plus.to)) * out + (at(minus.from) - back_to) * back;
        FeedFlow { current_a: out, back_a: back, drop_v, loss_w, sent_w: at(plus.from) * out - back_to * back }
    }

    /// A converter, by its place in the document.
    pub fn converter(&self, solution: &Solution, index: usize) -> ConverterFlow {
        let (net, part) = (&self.wiring.converters[index], &self.values.converters[index]);
        let on = solution.modes.converters[index];
        let minus = voltage(&solution.x, net.minus);
        let in_v = voltage(&solution.x, net.in_plus) - minus;
        let out_v = voltage(&solution.x, net.out_plus) - minus;
        // What the equations leave of no current is none.
        let out_a = if solution.x[net.branch].abs() < 1e-15 { 0.0 } else { solution.x[net.branch] };
        let in_a = if on { part.input_a(in_v, out_v, out_a).value } else { 0.0 };
        ConverterFlow { on, in_v, in_a, out_v, out_a }
    }

    /// Voltage between the nodes that a light's first feed joins, V.
    pub fn light_v(&self, solution: &Solution, index: usize) -> f64 {
        let (plus, minus) = self.wiring.lights[index].entry;
        voltage(&solution.x, plus) - voltage(&solution.x, minus)
    }

    /// Every tap of a light, by its place in the document.
    pub fn taps<'a>(&'a self, solution: &'a Solution, index: usize, lit: &'a Lit) -> impl Iterator<Item = TapFlow> + 'a {
        let (light, law) = (&self.wiring.lights[index], &self.values.laws[index]);
        let runs = solution.modes.lights[index];
        let mut near = Near::default();
        light.spots.iter().enumerate().map(move |(tap, spot)| {
            let voltage_v = match *spot {
                Spot::Nodes(plus, minus) => voltage(&solution.x, plus) - voltage(&solution.x, minus),
                Spot::Cell(cell) => solution.x[cell],
            };
            let (current_a, output) = law.drawn(lit, tap, runs, voltage_v, &mut near);
            TapFlow { voltage_v, current_a, output }
        })
    }

    /// Mean output of a light over its taps, of a frame over the pixels that are asked for light; 0 where there are none.
    pub fn output(&self, solution: &Solution, index: usize, lit: &Lit) -> f64 {
        let dark = |tap: usize| lit.each.is_some() && lit.colour_of(tap).iter().all(|share| *share == 0.0);
        let asked = self.taps(solution, index, lit).enumerate().filter(|(tap, _)| !dark(*tap));
        let (sum, count) = asked.fold((0.0, 0.0), |(sum, n), (_, tap)| (sum + tap.output, n + 1.0));
        if count > 0.0 { sum / count } else { 0.0 }
    }

    /// Largest current along either rail of a strip or of pixels, A; `None` for what has no rails.
    ///
    /// What passes a place is what the feeds before it bring less what the taps before it take, in either rail.
    pub fn rail_a(&self, solution: &Solution, index: usize, lit: &Lit) -> Option<f64> {
        let along = &self.wiring.lights[index].along;
        if along.is_empty() {
            return None;
        }
        let drawn: Vec<f64> = self.taps(solution, index, lit).map(|tap| tap.current_a).collect();
        let (mut plus, mut minus, mut most) = (0.0f64, 0.0f64, 0.0f64);
        for (place, here) in along.iter().enumerate() {
            match here.item {
                Item::Feed(feed) => {
                    plus += solution.x[self.wiring.conductors[2 * feed].branch];
                    minus += solution.x[self.wiring.conductors[2 * feed + 1].branch];
                }
                Item::Tap(tap) => {
                    plus -= drawn[tap];
                    minus -= drawn[tap];
                }
            }
            // Between two things at one place nothing flows along the strip.
            if along.get(place + 1).is_some_and(|next| next.at_m > here.at_m) {
                most = most.max(plus.abs()).max(minus.abs());
            }
        }
        Some(most)
    }

    /// Largest imbalance of Kirchhoff's current law at any node, A, and the largest branch current, A.
    pub fn balance(&mut self, point: &Point, solution: &Solution) -> (f64, f64) {
        self.assemble(point, &solution.modes, &solution.x, 1.0);
        (self.worst_node().1, self.largest_current(&solution.x))
    }
}

impl SolveError {
    /// Whether the computation ended before it could find out.
    pub fn is_unfinished(&self) -> bool {
        matches!(self, SolveError::TooMuch { .. } | SolveError::CalledOff)
    }
}

impl Network {
    /// Why work was stopped, with what makes this network large.
    fn stopped(&self, why: Stopped) -> SolveError {
        match why {
            Stopped::CalledOff => SolveError::CalledOff,
            Stopped::TooMuch => {
                let taps = self.wiring.lights.iter().map(|light| light.spots.len()).sum::<usize>();
                SolveError::TooMuch {
                    size: format!("{} lights with {taps} segments and pixels, {} converters", self.wiring.lights.len(), self.wiring.converters.len()),
                }
            }
        }
    }
}

fn voltage(x: &[f64], node: Node) -> f64 {
    node.map_or(0.0, |index| x[index])
}
