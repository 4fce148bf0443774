//! Light: how much leaves a light, in which direction, how far that is seen and what it shows.
//!
//! Efficacies and half angles are representative figures of common parts; the laws are textbook photometry, each with its
//! source. Angles are in degrees from the axis of a light.

pub use crate::document::{Air, Around};
use crate::document::{CoatKind, Coats, Draw, Led, Light, Load, Module, Pixels, Purpose, Shine, Strip, Usage};
use std::f64::consts::TAU;

impl Around {
    /// Illuminance at the eye from which a point of light is seen by who looks for it, lx (IALA E200-2).
    pub const fn seen_lx(self) -> f64 {
        match self {
            Around::Dark => 2e-7,
            Around::Village => 2e-6,
            Around::Street => 2e-5,
            Around::Day => 1e-3,
        }
    }
}

impl Usage {
    /// What surrounds it at night; a lit street where nobody said.
    pub fn around(&self) -> Around {
        self.around.unwrap_or(Around::Street)
    }
}

impl Air {
    /// Meteorological visibility: the distance over which air lets a twentieth of light pass, m.
    pub const fn visibility_m(self) -> f64 {
        match self {
            Air::Clear => 20_000.0,
            Air::Rain => 4000.0,
            Air::Fog => 200.0,
        }
    }
}

impl CoatKind {
    /// Share of light that passes one coat (representative).
    pub const fn passes(self) -> f64 {
        match self {
            CoatKind::White => 0.2,
            CoatKind::Silver => 0.02,
            CoatKind::Black => 0.005,
            CoatKind::Paint => 0.1,
        }
    }
}

impl Coats {
    /// Share of the light that comes through all of them.
    pub fn leak(&self) -> f64 {
        self.kind.passes().powi(self.count as i32)
    }
}

/// So much brighter than what is just seen is noticed by who looks elsewhere.
pub const NOTICED: f64 = 1000.0;
/// What a surface needs for a person to see what is on it, lx.
pub const SEE_BY_LX: f64 = 1.0;
/// Time that an eye gathers light, s (Blondel and Rey).
const EYE_S: f64 = 0.2;
/// Current of a channel at which [`PIXEL_LM`] holds, A.
const PIXEL_A: f64 = 0.012;
/// Flux of red, green and blue of a pixel, lm (representative).
const PIXEL_LM: [f64; 3] = [1.2, 2.2, 0.6];
/// Flux of an LED lamp by its power, lm/W: the LEDs' own less optics and electronics.
const LAMP_LM_PER_W: f64 = 90.0;
/// The same of a filament.
const FILAMENT_LM_PER_W: f64 = 12.0;
/// Rated current from which an LED has no lens of its own, A.
const BARE_A: f64 = 0.3;
/// Half angle of what has no lens of its own, and of what a diffuser spreads, deg.
pub const WIDE_DEG: f64 = 60.0;
/// Contrast of a row below which it is a line to the eye.
pub const EVEN: f64 = 0.05;
/// Points so far apart that they merge, as distance over pitch: one minute of arc.
pub const MERGE: f64 = 3438.0;

/// Light by power in LEDs of a colour, lm/W (representative).
pub fn efficacy(colour: &str) -> f64 {
    match colour {
        "white" => 110.0,
        "cool white" => 115.0,
        "warm white" => 95.0,
        "red" | "orange" => 45.0,
        "yellow" => 35.0,
        "green" => 80.0,
        "blue" => 18.0,
        "violet" => 5.0,
        // No eye sees it.
        "infrared" => 0.0,
        _ => 40.0,
    }
}

impl Light {
    /// Colour of its light by name: its load's, else its own; white where nobody said.
    pub fn shines(&self) -> &str {
        match &self.load {
            Load::LedArray(array) => &array.led.colour,
            _ => self.colour.as_deref().unwrap_or("white"),
        }
    }

    /// Luminous flux at rated current, lm; of pixels, all three channels on. As stated, else by kind and colour.
    pub fn rated_lm(&self) -> f64 {
        self.shine.as_ref().and_then(|shine| shine.lm).unwrap_or_else(|| self.usual_lm())
    }

    /// Luminous flux at rated current as usual for its kind and colour, lm.
    pub fn usual_lm(&self) -> f64 {
        let efficacy = efficacy(self.shines());
        match &self.load {
            Load::LedArray(array) => led_lm(&array.led) * f64::from(array.series * array.parallel),
            Load::Strip(strip) => efficacy * strip.power_w_per_m * strip.length_m * in_leds(strip),
            Load::Pixels(pixels) => channel_lm(pixels).iter().sum::<f64>() * f64::from(pixels.count),
            Load::Module(module) => module_lm(module, efficacy),
        }
    }

    /// Flux of each channel of one of its pixels at full current, lm.
    pub fn pixel_lm(&self, pixels: &Pixels) -> [f64; 3] {
        let usual = channel_lm(pixels);
        let all = usual.iter().sum::<f64>() * f64::from(pixels.count);
        let share = if all > 0.0 { self.rated_lm() / all } else { 0.0 };
        usual.map(|lm| lm * share)
    }

    /// Half angle as usual for its kind, deg; `None`: it shines all round.
    pub fn usual_half_angle_deg(&self) -> Option<f64> {
        match &self.load {
            Load::LedArray(array) => Some(if array.led.if_a < BARE_A { 15.0 } else { WIDE_DEG }),
            Load::Strip(_) | Load::Pixels(_) => Some(WIDE_DEG),
            Load::Module(module) => (module.draw != Draw::Filament).then_some(30.0),
        }
    }

    /// Its beam before a diffuser: as a lens, a label or its kind has it.
    pub fn bare_beam(&self) -> Beam {
        let shine = self.shine.as_ref();
        let lens = shine.and_then(|shine| shine.lens.as_ref()).map(|lens| lens.half_angle_deg);
        let own = || shine.and_then(|shine| shine.half_angle_deg).or_else(|| self.usual_half_angle_deg());
        lens.or_else(own).map_or(Beam::ROUND, Beam::of_half_angle)
    }

    /// Its beam as it leaves: a diffuser spreads whatever was before.
    pub fn beam(&self) -> Beam {
        let diffused = self.shine.as_ref().is_some_and(|shine| shine.diffuser.is_some());
        if diffused { Beam::of_half_angle(WIDE_DEG) } else { self.bare_beam() }
    }

    /// Distance from one LED of a row to the next, m; `None`: it is no row.
    pub fn row_pitch_m(&self) -> Option<f64> {
        match &self.load {
            Load::Strip(strip) => Some(strip.segment_m / f64::from(strip.recut.as_ref().map_or(strip.leds_per_segment, |recut| recut.used).max(1))),
            Load::Pixels(pixels) => Some(pixels.pitch_m),
            Load::LedArray(_) | Load::Module(_) => None,
        }
    }

    /// Length of its row, m; `None`: it is no row.
    pub fn row_m(&self) -> Option<f64> {
        match &self.load {
            Load::Strip(strip) => Some(strip.length_m),
            Load::Pixels(pixels) => Some(pixels.pitch_m * f64::from(pixels.count)),
            Load::LedArray(_) | Load::Module(_) => None,
        }
    }

    /// Whether anything is said of how it is to shine: only then is it judged by that.
    pub fn is_looked_at(&self) -> bool {
        self.shine.is_some() || self.purpose.is_some()
    }

    /// Its axis below level where somebody said so, deg: as measured, or straight down where it is to glow or to read by.
    pub fn down_deg(&self) -> Option<f64> {
        let measured = self.shine.as_ref().and_then(|shine| shine.down_deg);
        measured.or_else(|| matches!(self.purpose, Some(Purpose::Glow | Purpose::Read)).then_some(90.0))
    }
}

impl Shine {
    /// Share of the light that passes lens and diffuser.
    pub fn through(&self) -> f64 {
        self.lens.as_ref().map_or(1.0, |lens| lens.through) * self.diffuser.as_ref().map_or(1.0, |diffuser| diffuser.through)
    }
}

/// Flux of one LED at its rated current, lm.
pub fn led_lm(led: &Led) -> f64 {
    efficacy(&led.colour) * led.vf_v * led.if_a
}

/// Share of a strip's power that its LEDs take; its resistors take the rest.
fn in_leds(strip: &Strip) -> f64 {
    strip.led_vf_v * f64::from(strip.leds_per_segment) / strip.voltage_v
}

fn channel_lm(pixels: &Pixels) -> [f64; 3] {
    [0, 1, 2].map(|channel| PIXEL_LM[channel] * pixels.channel_a[channel] / PIXEL_A)
}

fn module_lm(module: &Module, of_colour: f64) -> f64 {
    if module.draw == Draw::Filament { FILAMENT_LM_PER_W * module.power_w } else { LAMP_LM_PER_W * of_colour / efficacy("white") * module.power_w }
}

/// How intensity goes with the angle from the axis: `I(θ) = I₀ cosᵐ θ`, or the same all round.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Beam {
    /// Exponent; `None`: all round.
    pub m: Option<f64>,
}

impl Beam {
    /// The same in every direction.
    pub const ROUND: Beam = Beam { m: None };

    /// The beam that has half its intensity at an angle, deg, above 0 and at most 90: `m = ln ½ / ln cos`.
    ///
    /// ```
    /// use orthavis_model::laws::light::Beam;
    ///
    /// let beam = Beam::of_half_angle(20.0);
    /// let peak = beam.peak_cd(100.0);
    /// assert!((beam.cd(100.0, 20.0) / peak - 0.5).abs() < 1e-12);
    /// // A narrower beam of the same flux is brighter on its axis.
    /// assert!(Beam::of_half_angle(10.0).peak_cd(100.0) > 3.0 * peak);
    /// ```
    pub fn of_half_angle(deg: f64) -> Beam {
        Beam { m: Some(0.5_f64.ln() / deg.to_radians().cos().max(f64::MIN_POSITIVE).ln()) }
    }

    /// Intensity on the axis of a flux, cd: `I₀ = Φ (m + 1) / 2π`, all round `Φ / 4π`.
    pub fn peak_cd(self, lm: f64) -> f64 {
        self.m.map_or(lm / (2.0 * TAU), |m| lm * (m + 1.0) / TAU)
    }

    /// Share of the peak at a cosine of the angle from the axis; nothing behind, unless it shines all round.
    pub fn share(self, cos: f64) -> f64 {
        match self.m {
            None => 1.0,
            Some(_) if cos <= 0.0 => 0.0,
            Some(m) => cos.powf(m),
        }
    }

    /// Intensity of a flux at an angle from the axis, cd.
    pub fn cd(self, lm: f64, deg: f64) -> f64 {
        self.peak_cd(lm) * self.share(deg.to_radians().cos())
    }
}

/// Distance at which an intensity, cd, still gives an illuminance, lx, through air of a visibility, m (Allard's law):
/// `I e^(−3 d / V) / d² = E`. 0 where there is no light.
///
/// ```
/// use orthavis_model::laws::light::{Air, Around, seen_m};
///
/// // A candle on a clear dark night, and through fog.
/// assert!(seen_m(1.0, Around::Dark.seen_lx(), Air::Clear) > 1500.0);
/// assert!(seen_m(1.0, Around::Dark.seen_lx(), Air::Fog) < 500.0);
/// ```
pub fn seen_m(cd: f64, lx: f64, air: Air) -> f64 {
    if cd <= 0.0 {
        return 0.0;
    }
    // With x = 3 d / 2 V it is x eˣ = c: Newton's way from above, where it never overshoots.
    let reach = 2.0 * air.visibility_m() / 3.0;
    let c = (cd / lx).sqrt() / reach;
    let mut x = c.ln_1p();
    for _ in 0..60 {
        let next = x - (x * x.exp() - c) / ((x + 1.0) * x.exp());
        if (next - x).abs() <= 1e-14 * x {
            break;
        }
        x = next;
    }
    reach * x
}

/// Share of its intensity that a light counts for which is on for `on_s` at a time: `t / (0.2 s + t)` (Blondel and Rey).
pub fn flash_share(on_s: f64) -> f64 {
    on_s / (EYE_S + on_s)
}

/// How bright a share of the rated light looks, 0 to 1: lightness over its largest, `L* / 100` (CIE 1976).
pub fn looks(share: f64) -> f64 {
    const KNEE: f64 = 216.0 / 24_389.0;
    let share = share.clamp(0.0, 1.0);
    if share > KNEE { 1.16 * share.cbrt() - 0.16 } else { share * 243.89 / 27.0 }
}

/// Share of the rated light that looks so bright: the inverse of [`looks`].
pub fn share_that_looks(looks: f64) -> f64 {
    let looks = looks.clamp(0.0, 1.0);
    if looks > 0.08 { ((looks + 0.16) / 1.16).powi(3) } else { looks * 27.0 / 243.89 }
}

/// Speed from which one can stop within a distance, m/s: 1.5 s to react, then 3 m/s² (a wet road, an unloaded bicycle).
pub fn stop_within_m_s(distance_m: f64) -> f64 {
    const REACT_S: f64 = 1.5;
    const BRAKE_M_S2: f64 = 3.0;
    BRAKE_M_S2 * ((REACT_S * REACT_S + 2.0 * distance_m.max(0.0) / BRAKE_M_S2).sqrt() - REACT_S)
}

/// How much brighter a diffuser is over the LEDs of a long row than between them: `(E₀ − E½) / (E₀ + E½)`, with
/// `E(x) = Σ cosᵐ⁺¹ θₖ / (h² + (x − k p)²)`, for LEDs of exponent `m` a `pitch` apart behind a diffuser at a `distance`.
pub fn contrast(beam: Beam, pitch: f64, distance: f64) -> f64 {
    // All round, intensity goes with no cosine of its own; the diffuser still turns away.
    let power = 0.5 * (beam.m.unwrap_or(0.0) + 3.0);
    let ratio = distance / pitch;
    let far = (30.0 + 30.0 * ratio).min(20_000.0) as i32;
    let at = |x: f64| (-far..=far).map(|k| (1.0 + ((x - f64::from(k)) / ratio).powi(2)).powf(-power)).sum::<f64>();
    let (over, between) = (at(0.0), at(0.5));
    (over - between) / (over + between)
}

/// Least distance of a diffuser at which a row looks even, in the unit of its `pitch`.
pub fn even_distance(beam: Beam, pitch: f64) -> f64 {
    let (mut near, mut far) = (0.01, 20.0);
    for _ in 0..60 {
        let middle = 0.5 * (near + far);
        if contrast(beam, 1.0, middle) > EVEN { near = middle } else { far = middle }
    }
    far * pitch
}
