//! Numbers of a picture as octets, and octets as text.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;

/// The largest half of a float.
const MOST: f32 = 65504.0;

/// A number that is not negative as a half of a float (IEEE 754 binary16), to the nearest; what is larger becomes the largest.
pub fn half(value: f32) -> u16 {
    if value.is_nan() || value <= 0.0 {
        return 0;
    }
    let bits = value.min(MOST).to_bits();
    let exponent = (bits >> 23) as i32 - 112;
    if exponent <= 0 {
        // Too small for an exponent of its own: steps of 2⁻²⁴.
        return (value * 16_777_216.0 + 0.5) as u16;
    }
    let rounded = (bits & 0x7f_ffff) + 0x1000;
    (((exponent as u32) << 10) + (rounded >> 13)).min(0x7bff) as u16
}

/// A colour as three halves, the low octet first.
pub fn halves(rgb: [f32; 3]) -> [u8; 6] {
    let [[a, b], [c, d], [e, f]] = rgb.map(|channel| half(channel).to_le_bytes());
    [a, b, c, d, e, f]
}

/// Octets as base 64 (RFC 4648).
pub fn text(octets: &[u8]) -> String {
    STANDARD.encode(octets)
}

#[cfg(test)]
mod tests {
    use super::half;

    /// The value of a half, by the standard's own definition.
    fn value(half: u16) -> f64 {
        let (exponent, fraction) = (i32::from(half >> 10), f64::from(half & 0x3ff));
        if exponent == 0 { fraction * 2.0_f64.powi(-24) } else { (1.0 + fraction / 1024.0) * 2.0_f64.powi(exponent - 15) }
    }

    #[test]
    fn a_half_is_the_nearest_there_is() {
        for known in [0.0, 1.0, 0.5, 2.0, 1024.0, 65504.0] {
            assert_eq!(value(half(known as f32)), known);
        }
        for code in 1..0x7bff_u16 {
            assert_eq!(half(value(code) as f32), code);
            let between = 0.3 * value(code) + 0.7 * value(code + 1);
            assert_eq!(half(between as f32), code + 1, "{between}");
        }
        assert_eq!([half(1e9), half(f32::NAN), half(-1.0)], [0x7bff, 0, 0]);
    }
}
