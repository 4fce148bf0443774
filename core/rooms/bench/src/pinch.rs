//! A wire pinched against its neighbour: what flows, which fuse opens and when, what the wire makes of it.
//!
//! Opening times lie between a fast and a slow limit, straight on log–log paper: blade fuses after ISO 8820-3, cartridges
//! quick-acting after IEC 60127-2, resettable ones representative. A wire survives while `I² t <= (115 A_mm2)²`; until
//! then it warms without losing heat, `θ = 264.5 exp(I² t / (226 A_mm2)²) − 234.5` °C from 30 °C (IEC 60949, copper).

use crate::BenchError;
use crate::board::PINCH_OHM;
use crate::spot::feed_index;
use orthavis_model::document::{Build, Feed, FuseStyle, Source};
use orthavis_model::states::State;
use orthavis_physics::protection::converter_above;
use serde::Serialize;

/// Multiple of the rating, fast and slow limit, s.
type Limits = [(f64, f64, f64)];
const BLADE: &Limits = &[(1.35, 0.75, 600.0), (2.0, 0.15, 5.0), (3.5, 0.04, 0.5), (6.0, 0.02, 0.1)];
const CARTRIDGE: &Limits = &[(2.1, 0.1, 1800.0), (2.75, 0.05, 2.0), (4.0, 0.01, 0.3), (10.0, 0.002, 0.02)];
const RESETTABLE: &Limits = &[(2.0, 1.0, 20.0), (5.0, 0.1, 3.0), (10.0, 0.02, 0.5)];

/// Copper melts, °C: nothing is told beyond it.
const MELTS_C: f64 = 1083.0;
/// Ambient of both rules, °C, and what a wire at its ampacity is above it, K.
const AMBIENT_C: f64 = 30.0;
const AT_AMPACITY_K: f64 = 50.0;
/// How long is told of where nothing opens, s.
const WATCHED_S: f64 = 600.0;

/// Fast and slow limit of a fuse's opening at a current, s; `None`: it may never open.
pub fn opens_s(style: FuseStyle, rating_a: f64, current_a: f64) -> Option<[f64; 2]> {
    let limits = match style {
        FuseStyle::Blade | FuseStyle::Blade58v => BLADE,
        FuseStyle::Glass | FuseStyle::Ceramic => CARTRIDGE,
        FuseStyle::Ptc => RESETTABLE,
    };
    let multiple = current_a / rating_a;
    let above = limits.iter().position(|(at, ..)| multiple < *at).unwrap_or(limits.len());
    if above == 0 {
        return None;
    }
    let (m0, fast0, slow0) = limits[above - 1];
    let Some(&(m1, fast1, slow1)) = limits.get(above) else { return Some([fast0, slow0]) };
    let share = (multiple / m0).ln() / (m1 / m0).ln();
    Some([fast0 * (fast1 / fast0).powf(share), slow0 * (slow1 / slow0).powf(share)])
}

/// Temperature of a wire after a time, °C, without loss of heat.
pub fn heated_c(area_mm2: f64, current_a: f64, time_s: f64) -> f64 {
    let share = current_a * current_a * time_s / (226.0 * area_mm2).powi(2);
    (264.5 * share.exp() - 234.5).min(MELTS_C)
}

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
    /// Temperature that the thinnest wire reaches, °C; at most that of melting copper.
    pub peak_c: f64,
    /// The feed with that wire.
    pub hottest: String,
    /// How it warms there.
    pub warming: Vec<Warm>,
}

/// One feed on the way from the supply to the pinch.
struct Stretch<'a> {
    id: String,
    feed: &'a Feed,
    /// Out and back, ohm.
    ohm: f64,
}

/// A pinch at a share of a feed's length, 0 at its supply to 1 at its end, at each state of the source.
///
/// # Errors
/// When there is no such feed or share.
pub fn pinch(build: &Build, feed: &str, share: f64) -> Result<Vec<Pinch>, BenchError> {
    let index = feed_index(build, feed).ok_or_else(|| {
        let known: Vec<String> = build.feeds().into_iter().map(|feed| feed.id).collect();
        BenchError::new(feed, format!("there is no feed `{feed}`"), format!("Name {}", crate::or_list(&known)))
    })?;
    if !(0.0..=1.0).contains(&share) {
        return Err(BenchError::new(feed, format!("{share} is no share of a length"), "Give 0 at the supply to 1 at the far end"));
    }
    let way = way(build, index, share);
    Ok(build.source.states().into_iter().map(|state| at_state(build, &way, state)).collect())
}

/// From the pinch up to the source or the converter that feeds it.
fn way(build: &Build, index: usize, share: f64) -> Vec<Stretch<'_>> {
    let frame = build.vehicle.frame_return_ohm;
    let feeds = build.feeds();
    let own = feeds[index].feed;
    let wire = own.gauge.ohm(own.length_m);
    let ohm = own.out_ohm() - (1.0 - share) * wire + share * own.back_ohm(frame);
    let mut way = vec![Stretch { id: feeds[index].id.clone(), feed: own, ohm }];
    let mut from = own.from.as_str();
    while let Some(junction) = build.junctions.iter().find(|junction| junction.id == from) {
        way.push(Stretch { id: junction.id.clone(), feed: &junction.feed, ohm: junction.feed.out_ohm() + junction.feed.back_ohm(frame) });
        from = &junction.feed.from;
    }
    way
}

fn at_state(build: &Build, way: &[Stretch<'_>], state: State) -> Pinch {
    let (emf_v, source_ohm) = build.source.thevenin(state);
    let by_ohm = |volts: f64, ohm: f64| volts / (ohm + PINCH_OHM + way.iter().map(|stretch| stretch.ohm).sum::<f64>());
    let fault_a = match (converter_above(build, way[0].feed), &build.source) {
        (Some(converter), _) => converter.max_out_a,
        (None, Source::Rail(_) | Source::Track(_)) => by_ohm(emf_v, source_ohm).min(build.source.max_current_a()),
        (None, Source::Battery(_)) => by_ohm(emf_v, source_ohm),
    };
    let fuses = way.iter().filter_map(|stretch| {
        let fuse = stretch.feed.fuse.as_ref()?;
        Some((stretch.id.clone(), opens_s(fuse.style, fuse.rating_a, fault_a)?))
    });
    let first = fuses.min_by(|a, b| a.1[1].total_cmp(&b.1[1]));
    let area = |stretch: &&Stretch<'_>| stretch.feed.gauge.area_mm2();
    let hottest = way.iter().min_by(|a, b| area(a).total_cmp(&area(b))).unwrap_or(&way[0]);
    let area_mm2 = area(&hottest);
    let ampacity_a = hottest.feed.gauge.ampacity_a(1);
    let steady_c = AMBIENT_C + AT_AMPACITY_K * (fault_a / ampacity_a).powi(2);
    let (survives, peak_c, until_s) = match &first {
        Some((_, [_, slow])) => (fault_a * fault_a * slow <= (115.0 * area_mm2).powi(2), heated_c(area_mm2, fault_a, *slow), *slow),
        // For as long as it lasts a wire within its ampacity only warms to what it is rated for.
        None if fault_a <= ampacity_a => (true, steady_c, WATCHED_S),
        None => (false, MELTS_C, WATCHED_S),
    };
    let steps = 40;
    let warming = (0..=steps)
        .map(|step| {
            // From a thousandth of it on, evenly by factors: short times matter as much as long ones.
            let time_s = until_s * 10f64.powf(-3.0 * (1.0 - f64::from(step) / f64::from(steps)));
            let free = heated_c(area_mm2, fault_a, time_s);
            Warm { time_s, temperature_c: if first.is_none() && survives { free.min(steady_c) } else { free } }
        })
        .collect();
    let (fuse, opens_s) = first.map_or((None, None), |(id, times)| (Some(id), Some(times)));
    Pinch { state, fault_a, fuse, opens_s, survives, peak_c, hottest: hottest.id.clone(), warming }
}
