//! One addressable pixel: three current sinks and a controller on two rails.
//!
//! Channel: `I = level * colour * I_full * clamp((V - off) / (regulation - off), 0, 1)`; the controller draws
//! `idle * clamp(V / 2.5, 0, 1)`. A straight line between dark and regulated is a simplification of the real knee.

use crate::document::Pixels;

/// Supply from which the controller draws its full idle current, V.
const CONTROLLER_V: f64 = 2.5;

/// Current of one pixel, A, its slope, S, and the part that makes light, A.
pub fn current(pixels: &Pixels, level: f64, colour: &[f64; 3], voltage_v: f64) -> (f64, f64, f64) {
    let (mut lit, mut slope) = (0.0, 0.0);
    for (channel, share) in colour.iter().enumerate() {
        let full = level * share * pixels.channel_a[channel];
        let span = pixels.regulation_v[channel] - pixels.off_v[channel];
        let (fraction, rising) = ramp((voltage_v - pixels.off_v[channel]) / span);
        lit += full * fraction;
        slope += if rising { full / span } else { 0.0 };
    }
    let (fraction, rising) = ramp(voltage_v / CONTROLLER_V);
    slope += if rising { pixels.idle_a / CONTROLLER_V } else { 0.0 };
    (lit + pixels.idle_a * fraction, slope, lit)
}

/// Channel current that a scene asks of one pixel, A.
pub fn asked_a(pixels: &Pixels, level: f64, colour: &[f64; 3]) -> f64 {
    (0..3).map(|channel| level * colour[channel] * pixels.channel_a[channel]).sum()
}

fn ramp(x: f64) -> (f64, bool) {
    (x.clamp(0.0, 1.0), x > 0.0 && x < 1.0)
}
