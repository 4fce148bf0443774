//! Diodes, transistors and timers: their laws, each with its slope.

/// Thermal voltage at 300 K, V.
pub const THERMAL_V: f64 = 0.02585;
/// Conductance across every junction, S: so that no node floats behind one that blocks.
pub(super) const LEAK_S: f64 = 1e-12;

/// After a step of this length across a junction nothing is left of the next one, V.
const CLOSE_V: f64 = 1e-10;

/// A diode: `i = Is (exp(v / (n Vt)) − 1)`, with a resistance in series and a breakdown.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Diode {
    /// Saturation current, A.
    pub saturation_a: f64,
    /// Emission coefficient.
    pub n: f64,
    /// In series, ohm.
    pub rs_ohm: f64,
    /// Breaks down backwards at, V.
    pub breakdown_v: Option<f64>,
}

impl Diode {
    /// A silicon diode (representative, 1 A).
    pub const SILICON: Diode = Diode { saturation_a: 5e-9, n: 1.8, rs_ohm: 0.05, breakdown_v: None };

    /// So many of the same in a row, as one.
    pub fn in_series(self, count: f64) -> Diode {
        Diode { n: count * self.n, rs_ohm: count * self.rs_ohm, breakdown_v: self.breakdown_v.map(|volts| count * volts), ..self }
    }

    /// Current at a voltage across junction and resistance, A, and its slope, S.
    pub(super) fn current(&self, volts: f64) -> (f64, f64) {
        let (amps, slope, _) = self.current_from(volts, f64::INFINITY);
        (amps, slope)
    }

    /// The same, with the junction's share of the voltage, V, looked for from where it was last.
    pub(super) fn current_from(&self, volts: f64, last_v: f64) -> (f64, f64, f64) {
        if self.rs_ohm <= 0.0 {
            let (amps, slope) = self.junction(volts);
            return (amps, slope, volts);
        }
        // Newton's method on the junction's share, from where it was: close by it needs no bounds.
        let slope_v = self.n * THERMAL_V;
        let step = |own: f64| {
            let (amps, slope) = self.junction(own);
            let step = (own + self.rs_ohm * amps - volts) / (1.0 + self.rs_ohm * slope);
            // What it carries after the step, exact to the square of that.
            (step, amps - slope * step, slope)
        };
        let mut own = last_v;
        if own.is_finite() {
            for _ in 0..8 {
                let (off, amps, slope) = step(own);
                if off.is_nan() || off.abs() > slope_v {
                    break;
                }
                own -= off;
                if off.abs() < CLOSE_V {
                    return (amps, slope / (1.0 + self.rs_ohm * slope), own);
                }
            }
        }
        // Beyond the first step it comes nearer from one side, and within these bounds that step goes nowhere that an
        // exponential would not come back from.
        let most = |volts: f64, slope_v: f64| slope_v * (volts / (self.rs_ohm * self.saturation_a)).ln_1p();
        let top = if volts > 0.0 { volts.min(most(volts, slope_v)) } else { f64::INFINITY };
        own = match self.breakdown_v {
            Some(at) if volts < -at => volts.max(-at - most(-volts, THERMAL_V)),
            _ => volts.min(top),
        };
        for _ in 0..60 {
            let (off, amps, slope) = step(own);
            own = (own - off).min(top);
            if off.abs() < CLOSE_V {
                return (amps, slope / (1.0 + self.rs_ohm * slope), own);
            }
        }
        let (amps, slope) = self.junction(own);
        (amps, slope / (1.0 + self.rs_ohm * slope), own)
    }

    /// The same of the junction alone.
    fn junction(&self, volts: f64) -> (f64, f64) {
        let (mut amps, mut slope) = junction(self.saturation_a, self.n * THERMAL_V, volts);
        if let Some(at) = self.breakdown_v {
            let (more, steeper) = junction(self.saturation_a, THERMAL_V, -(volts + at));
            // Below its knee it adds nothing that the leak does not.
            amps -= more + self.saturation_a;
            slope += steeper;
        }
        (amps + LEAK_S * volts, slope + LEAK_S)
    }

    /// Where its current begins to matter, V: Newton's steps beyond are limited.
    pub(super) fn knee(&self) -> f64 {
        knee(self.saturation_a, self.n * THERMAL_V)
    }
}

/// `Is (exp(v / s) − 1)` and its slope, continued straight on where it would overflow.
fn junction(saturation_a: f64, slope_v: f64, volts: f64) -> (f64, f64) {
    const MOST: f64 = 80.0;
    let x = volts / slope_v;
    if x < -MOST {
        return (-saturation_a, 0.0);
    }
    if x > MOST {
        let grown = saturation_a * MOST.exp();
        return (grown * (1.0 + x - MOST) - saturation_a, grown / slope_v);
    }
    let grown = saturation_a * x.exp();
    (grown - saturation_a, grown / slope_v)
}

fn knee(saturation_a: f64, slope_v: f64) -> f64 {
    slope_v * (slope_v / (std::f64::consts::SQRT_2 * saturation_a)).ln()
}

/// A step of Newton's method across a junction, shortened where the exponential would run away.
pub(super) fn limited(next: f64, before: f64, slope_v: f64, knee: f64) -> f64 {
    if next <= knee || (next - before).abs() <= 2.0 * slope_v {
        return next;
    }
    if before > 0.0 {
        let grown = 1.0 + (next - before) / slope_v;
        if grown > 0.0 { before + slope_v * grown.ln() } else { knee }
    } else {
        slope_v * (next / slope_v).max(1e-9).ln().max(1.0)
    }
}

/// A bipolar transistor after Ebers and Moll in its transport form.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Bipolar {
    /// Whether it is an NPN.
    pub npn: bool,
    /// Saturation current, A.
    pub saturation_a: f64,
    /// Forward gain.
    pub forward: f64,
    /// Reverse gain.
    pub reverse: f64,
    /// Emitter and base break down backwards at, V.
    pub base_breakdown_v: f64,
}

impl Bipolar {
    /// A small NPN transistor (representative): 45 V, 100 mA, 0.5 W.
    pub const SMALL_NPN: Bipolar = Bipolar { npn: true, saturation_a: 2e-14, forward: 250.0, reverse: 3.0, base_breakdown_v: 7.0 };
    /// What it carries for long, A.
    pub const MOST_A: f64 = 0.1;
    /// What heat it stands, W.
    pub const MOST_W: f64 = 0.5;
    /// What it blocks, V.
    pub const MOST_V: f64 = 45.0;

    /// Currents into collector and base, A, and their slopes over the two junctions' voltages, S: base to emitter first.
    pub(super) fn currents(&self, vbe: f64, vbc: f64) -> ([f64; 2], [[f64; 2]; 2]) {
        let (forward, forward_s) = junction(self.saturation_a, THERMAL_V, vbe);
        let (reverse, reverse_s) = junction(self.saturation_a, THERMAL_V, vbc);
        let (back, back_s) = junction(self.saturation_a, THERMAL_V, -(vbe + self.base_breakdown_v));
        let base_e = forward / self.forward - (back + self.saturation_a) + LEAK_S * vbe;
        let base_e_s = forward_s / self.forward + back_s + LEAK_S;
        let base_c = reverse / self.reverse + LEAK_S * vbc;
        let base_c_s = reverse_s / self.reverse + LEAK_S;
        ([forward - reverse - base_c, base_e + base_c], [[forward_s, -reverse_s - base_c_s], [base_e_s, base_c_s]])
    }

    pub(super) fn knee(&self) -> f64 {
        knee(self.saturation_a, THERMAL_V)
    }
}

/// A timer whose trigger and threshold are one: high below a third of its supply, low above two thirds.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Timer {
    /// Discharge to minus while low, ohm.
    pub discharge_ohm: f64,
    /// What a high output lacks to the supply, V.
    pub high_drop_v: f64,
    /// A low output, V.
    pub low_v: f64,
    /// Behind either, ohm.
    pub out_ohm: f64,
    /// What it takes itself, A.
    pub idle_a: f64,
    /// What its output gives, A.
    pub most_a: f64,
    /// Least and largest supply, V.
    pub supply_v: [f64; 2],
}

impl Timer {
    /// The bipolar kind (representative).
    pub const BIPOLAR: Timer = Timer { discharge_ohm: 10.0, high_drop_v: 1.5, low_v: 0.1, out_ohm: 10.0, idle_a: 0.004, most_a: 0.2, supply_v: [4.5, 16.0] };
    /// The CMOS kind (representative).
    pub const CMOS: Timer = Timer { discharge_ohm: 10.0, high_drop_v: 0.0, low_v: 0.0, out_ohm: 100.0, idle_a: 0.000_1, most_a: 0.02, supply_v: [2.0, 15.0] };
}
