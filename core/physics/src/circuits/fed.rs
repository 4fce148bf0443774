//! What a circuit hangs on and what it drives.

use orthavis_model::document::{Build, Feed, Light, SmallCircuit, Source, TrackWave};
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology};

/// What a circuit is fed with.
#[derive(Clone, Debug)]
pub(super) struct Fed {
    /// Without load, V; of an alternating supply its peak.
    pub(super) emf_v: f64,
    /// Supply and wires, ohm.
    pub(super) ohm: f64,
    /// Of an alternating supply, Hz.
    pub(super) hz: Option<f64>,
}

impl Fed {
    pub(super) fn of(build: &Build, own: &SmallCircuit, state: State) -> Fed {
        let both = |feed: &Feed| feed.out_ohm() + feed.back_ohm(build.vehicle.frame_return_ohm);
        let topology = Topology::of(build);
        let above = topology.node(&own.feed.from).unwrap_or(Node::Source);
        let ohm = both(&own.feed) + topology.leading_to(above).map(|wire| both(topology.laid(wire))).sum::<f64>();
        if let Node::Converter(at) = topology.supply(above)
            && let Some(set) = build.converters[at].set_v()
        {
            return Fed { emf_v: set, ohm, hz: None };
        }
        let (emf_v, source_ohm) = build.thevenin(state);
        let hz = match &build.source {
            Source::Track(track) if track.wave == TrackWave::Ac => Some(track.frequency_hz),
            _ => None,
        };
        let peak = if hz.is_some() { emf_v * std::f64::consts::SQRT_2 } else { emf_v };
        Fed { emf_v: peak, ohm: ohm + source_ohm, hz }
    }

    /// The highest that it is ever fed with, and a tenth more, V.
    pub(super) fn highest(build: &Build, own: &SmallCircuit) -> f64 {
        build.states().into_iter().map(|state| 1.1 * Fed::of(build, own, state).emf_v).fold(0.0, f64::max)
    }
}

/// A circuit where it stands: what it hangs on, and what it drives.
pub(super) struct Site<'a> {
    pub(super) build: &'a Build,
    pub(super) own: &'a SmallCircuit,
    pub(super) fed: Fed,
    pub(super) driven: Vec<&'a Light>,
}

impl<'a> Site<'a> {
    pub(super) fn of(build: &'a Build, own: &'a SmallCircuit, fed: Fed) -> Self {
        let driven = own.drives.iter().filter_map(|id| build.lights.iter().find(|light| light.id == *id)).collect();
        Site { build, own, fed, driven }
    }

    /// The same with nothing between it and a supply of this voltage.
    pub(super) fn fed_with(&self, volts: f64) -> Site<'a> {
        Site { build: self.build, own: self.own, fed: Fed { emf_v: volts, ohm: 0.0, ..self.fed.clone() }, driven: self.driven.clone() }
    }
}
