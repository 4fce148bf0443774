//! High-power LEDs behind a current driver, and a step-up before it where the supply has too few volts for one row.

use orthavis_model::document::{Build, Conversion, Converter, LedArray, Load};
use orthavis_model::edit::{free_id, plain_feed};
use orthavis_model::practice::{INPUT_V, OUTPUT_A, USE_SHARE, driver_for, rating_above};

/// What a step-down driver keeps of its input, V; usual for small ones.
const DRIVER_DROP_V: f64 = 1.2;
/// Highest output of a small step-up, V, and how well it does.
const STEP_UP_V: f64 = 60.0;
const STEP_UP_EFFICIENCY: f64 = 0.88;

/// How LEDs are driven by current from a supply.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Driven {
    /// LEDs in a row.
    pub series: u32,
    /// Rows.
    pub parallel: u32,
    /// What the driver is set to, A.
    pub set_a: f64,
    /// What a step-up before it is set to, V; `None`: the supply has enough.
    pub lifted_to_v: Option<f64>,
    /// What it takes of the supply at its lowest, A.
    pub in_a: f64,
    lowest_v: f64,
    highest_v: f64,
}

impl Driven {
    /// From a supply's lowest and highest volts; `None` where no small step-up reaches what one LED needs. Rows side by side
    /// share a driver's current badly: as many LEDs in one row as the lowest supply carries.
    pub fn of(array: &LedArray, lowest_v: f64, highest_v: f64) -> Option<Self> {
        let total = array.series * array.parallel;
        let most = (((lowest_v - DRIVER_DROP_V) / (1.05 * array.led.vf_v)).floor() as u32).clamp(1, total.max(1));
        let series = (1..=most).rev().find(|series| total.is_multiple_of(*series)).unwrap_or(1);
        let parallel = total / series;
        let set_a = driver_for(array.led.if_a) * f64::from(parallel);
        let string_v = f64::from(series) * array.led.vf_v;
        let before_v = (1.05 * string_v + DRIVER_DROP_V + 1.0).ceil();
        let lifts = lowest_v < 1.05 * string_v + DRIVER_DROP_V;
        if lifts && (before_v <= highest_v || before_v > STEP_UP_V) {
            return None;
        }
        let in_a = if lifts { before_v * set_a / (STEP_UP_EFFICIENCY * lowest_v.max(1.0)) } else { set_a };
        Some(Driven { series, parallel, set_a, lifted_to_v: lifts.then_some(before_v), in_a, lowest_v, highest_v })
    }

    /// Puts driver, and step-up, before a light of the build; `None` where it is not a light of LEDs.
    pub fn put_before(&self, build: &mut Build, id: &str) -> Option<()> {
        let light = build.lights.iter().find(|light| light.id == id)?;
        let string_v = match &light.load {
            Load::LedArray(array) => f64::from(self.series) * array.led.vf_v,
            _ => return None,
        };
        let mut feed = light.feeds.first()?.clone();
        let driver = free_id(build, &format!("{id}-driver"));
        if let Some(before_v) = self.lifted_to_v {
            let lift = free_id(build, &format!("{id}-step-up"));
            build.converters.push(Converter {
                id: lift.clone(),
                feed: feed.clone(),
                conversion: Conversion::step_up(before_v, STEP_UP_EFFICIENCY),
                min_in_v: (0.7 * self.lowest_v).clamp(0.9, 9.0),
                max_in_v: rating_above(1.1 * self.highest_v, &INPUT_V),
                max_out_a: rating_above(self.set_a / USE_SHARE, &OUTPUT_A),
                max_in_a: None,
                idle_a: 0.005,
                max_loss_w: None,
                mass_g: 15.0,
                ..Converter::PLAIN
            });
            feed = plain_feed(&lift, 0.1, feed.gauge);
        }
        build.converters.push(Converter {
            id: driver.clone(),
            feed: feed.clone(),
            conversion: Conversion::driver(self.set_a, DRIVER_DROP_V, 0.9),
            min_in_v: (string_v * 0.6).min(5.0),
            max_in_v: rating_above(1.1 * self.lifted_to_v.unwrap_or(self.highest_v), &[36.0, 60.0, 75.0, 100.0]),
            max_out_a: rating_above(self.set_a / USE_SHARE, &[0.35, 0.7, 1.0, 1.5, 3.0]),
            max_in_a: None,
            idle_a: 0.003,
            max_loss_w: None,
            mass_g: 6.0,
            ..Converter::PLAIN
        });
        let light = build.lights.iter_mut().find(|light| light.id == id)?;
        light.feeds = vec![plain_feed(&driver, 0.1, feed.gauge)];
        let Load::LedArray(array) = &mut light.load else { return None };
        (array.resistor_ohm, array.shared_resistor, array.series, array.parallel) = (0.0, false, self.series, self.parallel);
        Some(())
    }
}
