//! What the empty fields of a build stand for, where a figure does.

use super::build::Build;
use super::things::{Load, Source};
use super::validate::feed_path;
use crate::practice::{BARE_STAR_K_PER_W, EMITTER_A, RAIL_MAX_A, SMALL_CONTACT_V, USUAL_C};
use serde::Serialize;

/// The figure that an empty field stands for.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stand {
    /// JSON pointer to the field.
    pub at: String,
    /// The figure, in the unit of the field; 1 or 0 for true or false.
    pub value: f64,
}

/// Every empty field for which a figure is used, in the order of the document.
pub fn stands(build: &Build) -> Vec<Stand> {
    let mut found = Vec::new();
    let mut stand = |at: String, written: bool, value: Option<f64>| {
        if let Some(value) = value.filter(|_| !written) {
            found.push(Stand { at, value });
        }
    };
    if let Source::Battery(battery) = &build.source {
        let usual = |name: &str| format!("/source/{name}");
        stand(usual("resistance_ohm"), battery.resistance_ohm.is_some(), Some(battery.pack_ohm()));
        stand(usual("usable_fraction"), battery.usable_fraction.is_some(), Some(battery.usable()));
        stand(usual("peukert"), battery.peukert.is_some(), Some(battery.exponent()));
        let charge_v = battery.charging_v().map(|volts| volts / f64::from(battery.series));
        stand(usual("charge_v"), battery.charge_v.is_some(), charge_v);
        stand(usual("protected"), battery.protected.is_some(), Some(f64::from(u8::from(battery.is_protected()))));
    }
    if let Source::Rail(rail) = &build.source {
        stand("/source/critical".into(), rail.critical.is_some(), Some(f64::from(u8::from(build.source_steers()))));
    }
    for feed in build.feeds() {
        let at = feed_path(&feed);
        if let Some(switch) = &feed.feed.switch {
            stand(format!("{at}/switch/rating_v"), switch.rating_v.is_some(), Some(SMALL_CONTACT_V));
        }
        if feed.feed.contacts > 0 {
            stand(format!("{at}/contact_rating_v"), feed.feed.contact_rating_v.is_some(), Some(SMALL_CONTACT_V));
        }
    }
    for (index, converter) in build.converters.iter().enumerate() {
        stand(format!("/converters/{index}/max_loss_w"), converter.max_loss_w.is_some(), converter.heat_limit_w());
    }
    for (index, light) in build.lights.iter().enumerate() {
        let at = |name: &str| format!("/lights/{index}/load/{name}");
        match &light.load {
            Load::LedArray(array) => {
                stand(at("led/n"), array.led.n.is_some(), Some(array.led.ideality()));
                stand(at("led/rs_ohm"), array.led.rs_ohm.is_some(), Some(array.led.series_ohm()));
                let heats = array.led.if_a >= EMITTER_A;
                stand(at("sink_k_per_w"), array.sink_k_per_w.is_some(), heats.then_some(BARE_STAR_K_PER_W));
            }
            Load::Strip(strip) => stand(at("rail_max_a"), strip.rail_max_a.is_some(), Some(RAIL_MAX_A)),
            Load::Pixels(pixels) => stand(at("rail_max_a"), pixels.rail_max_a.is_some(), Some(RAIL_MAX_A)),
            Load::Module(_) => {}
        }
    }
    stand("/usage/temperature_c".into(), build.usage.temperature_c.is_some(), Some(USUAL_C));
    stand("/usage/capacity_left".into(), build.usage.capacity_left.is_some(), Some(1.0));
    found
}
