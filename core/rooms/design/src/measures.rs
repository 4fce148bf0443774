//! What builds are compared by, each measure defined here and nowhere else.

use orthavis_make::parts::parts;
use orthavis_make::steps::steps;
use orthavis_model::document::{Build, Light, Load, Scene, SceneLight, Source};
use orthavis_model::states::Lit;
use orthavis_physics::endurance::endurance;
use orthavis_physics::light::source_lm;
use orthavis_physics::network::Network;
use orthavis_physics::points::{PointError, PointReport, SolvedBuild, solved};
use serde::Serialize;
use std::collections::BTreeMap;

/// The measures of a build.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measures {
    /// What the parts list would have one buy, in `currency`.
    pub cost: f64,
    /// ISO 4217.
    pub currency: String,
    /// Lines of it without a price.
    pub unpriced: usize,
    /// Mass of the parts, g.
    pub mass_g: f64,
    /// All lights on, from full to reserve, h; `None`: a supply without a battery of its own.
    pub hours: Option<f64>,
    /// Soldered joints.
    pub joints: u32,
    /// Hands-on work of all steps, min.
    pub minutes: f64,
    /// One less the largest share of any limit in use, all lights on, at any state.
    pub headroom: f64,
    /// Light, all on, lm.
    pub lm: f64,
}

/// Prices that ship with the program are in this currency.
const USUAL_CURRENCY: &str = "EUR";

/// A build with one scene: every light full on.
pub fn all_on(build: &Build) -> Build {
    let mut lit = build.clone();
    let lights: BTreeMap<String, SceneLight> = build.lights.iter().map(|light| (light.id.clone(), SceneLight::FULL)).collect();
    lit.scenes = vec![Scene { id: "all-on".into(), name: "All on".into(), lights }];
    lit.usage.minutes = BTreeMap::from([("all-on".into(), 60.0)]);
    lit
}

/// Measures a build; `have` is what lies in the drawer, by the names of the parts list, and costs nothing.
///
/// # Errors
/// When work was stopped.
pub fn measures(build: &Build, have: &BTreeMap<String, f64>) -> Result<Measures, PointError> {
    let lit = all_on(build);
    let solved = solved(&lit, &[])?;
    let steps = steps(build);
    let list = parts(build, &steps, have);
    let currency = list.cost.iter().max_by(|a, b| a.1.total_cmp(b.1)).map_or_else(|| USUAL_CURRENCY.to_owned(), |(currency, _)| currency.clone());
    let round = |value: f64| (value * 100.0).round() / 100.0;
    Ok(Measures {
        cost: round(list.cost.get(&currency).copied().unwrap_or(0.0)),
        currency,
        unpriced: list.unpriced,
        mass_g: round(list.mass_g),
        hours: hours(&lit, &solved),
        joints: steps.iter().map(|step| step.joints).sum(),
        minutes: steps.iter().map(|step| step.minutes).sum(),
        headroom: 1.0 - solved.points.iter().map(|point| most_used(&lit, point)).fold(0.0, f64::max),
        lm: round(solved.points.first().map_or(0.0, |point| light(&lit, point))),
    })
}

/// Hours of all lights from full to reserve.
fn hours(lit: &Build, solved: &SolvedBuild) -> Option<f64> {
    let mut network = Network::new(lit).ok()?;
    endurance(lit, &mut network, &solved.solutions).first().and_then(|one| one.hours)
}

/// Light of all lamps as they are fed, lm.
fn light(lit: &Build, point: &PointReport) -> f64 {
    let of = |light: &Light| {
        let output = point.lights.get(&light.id).map_or(0.0, |report| report.output);
        source_lm(light, &Lit::of(&SceneLight::FULL), output) * light.shine.as_ref().map_or(1.0, orthavis_model::document::Shine::through)
    };
    lit.lights.iter().map(of).sum()
}

/// The largest share of a limit in use at a point: of supply and tap, wires, switches, plugs, converters, LEDs and their
/// resistors. A fuse is chosen to its wire and is no limit of its own.
pub fn most_used(build: &Build, point: &PointReport) -> f64 {
    let mut most = 0.0_f64;
    let mut used = |value: f64, limit: f64| most = most.max(if limit > 0.0 { value / limit } else { 0.0 });
    match &build.source {
        Source::Battery(battery) => {
            used(point.source.current_a, battery.max_current_a);
            battery.tap_limit_a.iter().for_each(|limit| used(point.source.current_a, *limit));
        }
        Source::Rail(rail) => used(point.source.current_a + rail.other_load_a, rail.max_current_a),
        Source::Track(track) => used(point.source.current_a + track.other_load_a, track.max_current_a),
    }
    for feed in build.feeds() {
        let Some(carried) = point.feeds.get(&feed.id) else { continue };
        let amps = carried.current_a.abs().max(carried.back_a.abs());
        used(amps, feed.feed.gauge.ampacity_a(feed.feed.bundled));
        feed.feed.switch.iter().for_each(|switch| used(amps, switch.rating_a));
        feed.feed.contact_rating_a.filter(|_| feed.feed.contacts > 0).iter().for_each(|limit| used(amps, *limit));
    }
    for converter in &build.converters {
        let Some(report) = point.converters.get(&converter.id) else { continue };
        // A driver gives what it is set to; only beyond it a limit is used.
        if converter.set_a().is_none() {
            used(report.out_a, converter.max_out_a);
        }
        converter.max_in_a.iter().for_each(|limit| used(report.in_a, *limit));
        converter.max_loss_w.iter().for_each(|limit| used(report.loss_w, *limit));
    }
    for light in &build.lights {
        let (Load::LedArray(array), Some(report)) = (&light.load, point.lights.get(&light.id)) else { continue };
        report.string_a.iter().for_each(|amps| used(*amps, array.led.if_max_a));
        report.resistor_w.iter().for_each(|watts| used(*watts, array.resistor_w));
    }
    most
}
