//! What the lights do: played, seen as it arrives, what it takes, how many pixels fit, and the way out of the tool.

pub mod arrives;
pub mod cards;
pub mod fits;
pub mod frames;
pub mod map;
pub mod play;
pub mod power;
pub mod ready;
pub mod sort;
pub mod source;

use orthavis_model::document::{Build, Scene};
use orthavis_model::states::State;
use orthavis_physics::network::{Network, Point, Solution, SolveError};
use orthavis_physics::points::PointError;

/// A scene with the network that feeds it.
pub(crate) struct Stage<'a> {
    pub(crate) build: &'a Build,
    pub(crate) scene: &'a Scene,
    pub(crate) network: Network,
    pub(crate) state: State,
}

impl<'a> Stage<'a> {
    pub(crate) fn of(build: &'a Build, scene: &'a Scene) -> Result<Self, PointError> {
        let state = build.source.usual();
        let network = Network::new(build).map_err(|error| PointError { scene: scene.id.clone(), state, error })?;
        Ok(Stage { build, scene, network, state })
    }

    /// The network with every light lit like this.
    pub(crate) fn point(&self, lights: Vec<orthavis_model::states::Lit>) -> Point {
        let (emf_v, source_ohm) = self.build.thevenin(self.state);
        Point { emf_v, source_ohm, standing_a: self.build.standing_a(), lights }
    }

    pub(crate) fn solve(&mut self, point: &Point, near: Option<&Solution>) -> Result<Solution, PointError> {
        self.network.solve(point, near).map_err(|error| self.failed(error))
    }

    fn failed(&self, error: SolveError) -> PointError {
        PointError { scene: self.scene.id.clone(), state: self.state, error }
    }

    /// What a supplier gives, A.
    pub(crate) fn given_a(&self, solution: &Solution, supplier: &str) -> f64 {
        match self.build.converters.iter().position(|converter| converter.id == supplier) {
            Some(index) => self.network.converter(solution, index).out_a,
            None => self.network.source(solution).1,
        }
    }
}
