//! A wire pinched against its neighbour: what flows, which fuse opens and when, what the wire makes of it.
//!
//! A fuse opens between the limits of its style (`laws::fuse`), where it can break that current at all. Until then the
//! wires on the way warm and lose heat to the air (`laws::wire`); insulation survives up to 160 °C.

use crate::BenchError;
use crate::rig::PINCH_OHM;
use orthavis_model::document::{Build, Feed, Source};
use orthavis_model::laws::wire::PVC_MOMENT_C;
use orthavis_model::practice::within;
use orthavis_model::states::State;
use orthavis_model::topology::{Topology, Wire};
use orthavis_physics::protection::{self, diodes_v, limiter_above, seat};
use serde::Serialize;

/// How long is told of where nothing opens, s.
const WATCHED_S: f64 = 600.0;

/// A moment of a wire warming.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Warm {
    /// After, s.
    pub time_s: f64,
    /// °C.
    pub temperature_c: f64,
}

/// A pinch at one state of the source.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pinch {
    /// State of the source.
    pub state: State,
    /// Current, A.
    pub fault_a: f64,
    /// The feed whose fuse opens first; `None`: nothing opens.
    pub fuse: Option<String>,
    /// Between these times, s: fast and slow limit.
    pub opens_s: Option<[f64; 2]>,
    /// Whether every wire on the way survives.
    pub survives: bool,
    /// Temperature that the hottest wire reaches, °C; at most that of melting copper.
    pub peak_c: f64,
    /// The feed with that wire.
    pub hottest: String,
    /// How it warms there.
    pub warming: Vec<Warm>,
}

/// A pinch at a share of a feed's length, 0 at its supply to 1 at its end, at each state of the source.
///
/// # Errors
/// When there is no such feed or share.
pub fn pinch(build: &Build, feed: &str, share: f64) -> Result<Vec<Pinch>, BenchError> {
    let graph = Topology::of(build);
    let wire = graph.wire(feed).ok_or_else(|| {
        let known: Vec<String> = build.feeds().into_iter().map(|feed| feed.id).collect();
        BenchError::new(feed, format!("there is no feed `{feed}`"), format!("Name {}", crate::or_list(&known)))
    })?;
    if !(0.0..=1.0).contains(&share) {
        return Err(BenchError::new(feed, format!("{share} is not a share of a length"), "Give 0 at the supply to 1 at the far end"));
    }
    let way: Vec<Wire> = std::iter::once(wire).chain(graph.leading_a_short_to(graph.from(wire))).collect();
    let ohm = PINCH_OHM + way_ohm(&graph, graph.laid(wire), share);
    Ok(build.states().into_iter().map(|state| at_state(&graph, &way, ohm, state)).collect())
}

/// Resistance out and back to a pinch at a share of a feed, ohm. The frame does not shorten with the wire beside it.
fn way_ohm(graph: &Topology<'_>, own: &Feed, share: f64) -> f64 {
    let frame = graph.build().vehicle.frame_return_ohm;
    let back = if own.by_frame(frame) { 0.0 } else { (1.0 - share) * own.back_ohm(frame) };
    protection::way_ohm(graph, own) - (1.0 - share) * own.gauge.ohm(own.length_m) - back
}

/// `way`: from the pinched feed up to the source or the converter that limits a short.
fn at_state(graph: &Topology<'_>, way: &[Wire], ohm: f64, state: State) -> Pinch {
    let (build, pinched) = (graph.build(), graph.laid(way[0]));
    let (emf_v, source_ohm) = build.thevenin(state);
    let by_ohm = |volts: f64, source_ohm: f64| volts / (source_ohm + ohm);
    // What the diode of a step-up keeps.
    let emf_v = (emf_v - diodes_v(graph, pinched)).max(0.0);
    let fault_a = match (limiter_above(graph, pinched), &build.source) {
        (Some(converter), _) => converter.max_out_a,
        (None, Source::Rail(_) | Source::Track(_)) => by_ohm(emf_v, source_ohm).min(build.source.max_current_a()),
        (None, Source::Battery(_)) => by_ohm(emf_v, source_ohm),
    };
    let fuses = way.iter().map(|wire| graph.feed(*wire)).filter_map(|feed| {
        let fuse = feed.feed.fuse.as_ref()?;
        let times = fuse.opens_s(fault_a).filter(|_| fuse.breaks(fault_a, seat(graph, feed.feed).highest_v))?;
        Some((feed.id.clone(), times))
    });
    let first = fuses.min_by(|a, b| a.1[1].total_cmp(&b.1[1]));
    let until_s = first.as_ref().map_or(WATCHED_S, |(_, [_, slow])| *slow);
    let after = |wire: Wire, time_s: f64| graph.laid(wire).gauge.heated_c(graph.laid(wire).bundled, fault_a, time_s);
    let hottest = way.iter().copied().max_by(|a, b| after(*a, until_s).total_cmp(&after(*b, until_s))).unwrap_or(way[0]);
    let peak_c = after(hottest, until_s);
    let steps = 40;
    let warming = (0..=steps)
        .map(|step| {
            // From a thousandth of it on, evenly by factors: short times matter as much as long ones.
            let time_s = until_s * 10f64.powf(-3.0 * (1.0 - f64::from(step) / f64::from(steps)));
            Warm { time_s, temperature_c: after(hottest, time_s) }
        })
        .collect();
    let (fuse, opens_s) = first.map_or((None, None), |(id, times)| (Some(id), Some(times)));
    Pinch { state, fault_a, fuse, opens_s, survives: within(peak_c, PVC_MOMENT_C), peak_c, hottest: graph.feed(hottest).id.clone(), warming }
}
