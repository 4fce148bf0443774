//! Strings of an array that are no longer alike.

use super::*;

/// What has become of an LED.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum LedIs {
    Sound,
    Shorted,
    Burnt,
    Reversed,
}

/// The strings of an array that are no longer alike.
#[derive(Clone, Debug)]
pub(super) struct Strings {
    pub(super) leds: Vec<Vec<LedIs>>,
    pub(super) open: Vec<bool>,
    pub(super) resistor_factor: f64,
}

impl Rig<'_> {
    pub(super) fn strings_of(&mut self, light: usize) -> Option<&mut Strings> {
        let Load::LedArray(array) = &self.plan.lights[light].load else { return None };
        Some(self.strings.entry(light).or_insert_with(|| Strings {
            leds: vec![vec![LedIs::Sound; array.series as usize]; array.parallel as usize],
            open: vec![false; array.parallel as usize],
            resistor_factor: 1.0,
        }))
    }

    /// Potential within a string of an array.
    pub(super) fn in_string(&self, shot: &Shot, light: usize, string: usize, after: usize) -> f64 {
        let first = self.feed_of(light);
        let plus = self.potential(shot, Spot::To(first, Side::Plus));
        let minus = self.potential(shot, Spot::To(first, Side::Minus));
        let Load::LedArray(array) = &self.plan.lights[light].load else { return minus };
        if self.reversed.contains(&light) {
            // What little leaks through leaves nothing at the resistor; the LEDs share what they hold back.
            return plus - (plus - minus) * after as f64 / f64::from(array.series);
        }
        let sound = vec![LedIs::Sound; array.series as usize];
        let (leds, open, factor) = match self.strings.get(&light) {
            Some(strings) => (&strings.leds[string], strings.open[string], strings.resistor_factor),
            None => (&sound, false, 1.0),
        };
        let resistor = array.row_ohm() * factor;
        let reversed = leds.contains(&LedIs::Reversed);
        let blocked = if open || leds.contains(&LedIs::Burnt) { OPEN_OHM } else { 0.0 };
        let forward = leds.iter().filter(|led| **led == LedIs::Sound).count() as u32;
        let shorted = leds.iter().filter(|led| **led == LedIs::Shorted).count() as f64 * LED_SHORT_OHM;
        let whole = string_of(&array.led, forward, resistor + blocked + shorted);
        let current = whole.current(plus - minus).0;
        let current = if reversed { current.min(LEAK_A) } else { current };
        let one = DiodeString::new(&array.led, 1, 0.0);
        let drop = |led: LedIs| match led {
            LedIs::Sound => {
                if current > 0.0 {
                    // What only leaks does not hold its voltage against the ten megohms of a meter.
                    one.voltage(current).min(current * METER_OHM)
                } else {
                    0.0
                }
            }
            LedIs::Shorted => current * LED_SHORT_OHM,
            // What is left over lies across what blocks.
            LedIs::Burnt | LedIs::Reversed => 0.0,
        };
        let known: f64 = current * resistor + leds.iter().map(|led| drop(*led)).sum::<f64>();
        let rest = (plus - minus) - known;
        let blockers = leds.iter().filter(|led| matches!(led, LedIs::Burnt | LedIs::Reversed)).count();
        let each = if blockers > 0 { rest / blockers as f64 } else { 0.0 };
        // A string that came off did so where its resistor begins.
        let start = plus - if open && blockers == 0 { rest } else { 0.0 } - current * resistor;
        start - leds[..after].iter().map(|led| drop(*led) + if matches!(led, LedIs::Burnt | LedIs::Reversed) { each } else { 0.0 }).sum::<f64>()
    }
}

/// One string as an array of one; a string whose LEDs are all bridged is a resistor.
pub(super) fn string_led(led: &Led, forward: u32) -> (Led, u32) {
    if forward > 0 {
        return (led.clone(), forward);
    }
    (Led { vf_v: 1e-3, n: Some(1e-3), rs_ohm: Some(0.0), ..led.clone() }, 1)
}

pub(super) fn string_of(led: &Led, forward: u32, ohm: f64) -> DiodeString {
    let (led, series) = string_led(led, forward);
    DiodeString::new(&led, series, ohm)
}

/// A string that lets more through than a leak.
pub(super) fn conducting(array: &LedArray, strings: &Strings, string: usize) -> Option<LedArray> {
    let leds = &strings.leds[string];
    if leds.contains(&LedIs::Reversed) {
        return None;
    }
    let blocked = if strings.open[string] || leds.contains(&LedIs::Burnt) { OPEN_OHM } else { 0.0 };
    let shorted = leds.iter().filter(|led| **led == LedIs::Shorted).count() as f64 * LED_SHORT_OHM;
    let (led, series) = string_led(&array.led, leds.iter().filter(|led| **led == LedIs::Sound).count() as u32);
    // Of a resistor that all share, each string has as much to itself as there are strings that conduct.
    let sharing = if array.shared_resistor { strings.open.iter().filter(|open| !**open).count().max(1) } else { 1 };
    let resistor_ohm = array.resistor_ohm * sharing as f64 * strings.resistor_factor + blocked + shorted;
    Some(LedArray { led, series, parallel: 1, resistor_ohm, shared_resistor: false, ..array.clone() })
}
