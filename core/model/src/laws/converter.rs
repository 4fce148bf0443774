//! A non-isolated converter: input and output share the negative.
//!
//! Output voltage by kind: buck and linear `min(set, V_in - dropout)`; boost `max(set, V_in - pass_drop)`, since its
//! diode conducts when the input is higher; buck-boost `set`. Input current of the switching kinds
//! `V_out I_out / (efficiency V_in) + idle`, of a linear regulator `I_out + idle`. A current driver holds
//! `level * set_a` until its output meets `V_in - dropout`. Below `min_in_v` a converter is off.

use crate::document::{Conversion, Converter, Efficiency};
use crate::practice::LINEAR_MAX_LOSS_W;

/// A value with its slope over input voltage.
#[derive(Clone, Copy, Debug)]
pub struct Slope {
    /// The value.
    pub value: f64,
    /// Its derivative over `V_in`.
    pub per_vin: f64,
}

/// Input current, A, and its partial derivatives.
#[derive(Clone, Copy, Debug)]
pub struct InputCurrent {
    /// The current, A.
    pub value: f64,
    /// Over input voltage, S.
    pub per_vin: f64,
    /// Over output voltage, S.
    pub per_vout: f64,
    /// Over output current.
    pub per_iout: f64,
}

impl Efficiency {
    /// Efficiency at an input voltage: linear between points, flat outside.
    pub fn at(&self, vin_v: f64) -> Slope {
        let points = match self {
            Efficiency::Constant(value) => return Slope { value: *value, per_vin: 0.0 },
            Efficiency::Table(points) => points,
        };
        let above = points.partition_point(|point| point.vin_v <= vin_v);
        if above == 0 || above == points.len() {
            return Slope { value: points[above.saturating_sub(1)].efficiency, per_vin: 0.0 };
        }
        let (low, high) = (&points[above - 1], &points[above]);
        let per_vin = (high.efficiency - low.efficiency) / (high.vin_v - low.vin_v);
        Slope { value: low.efficiency + per_vin * (vin_v - low.vin_v), per_vin }
    }
}

/// Least input of a step-down over its output: what its input leaves for that, V.
fn headroom_v(vin_v: f64, dropout_v: f64) -> Slope {
    let value = vin_v - dropout_v;
    if value > 0.0 { Slope { value, per_vin: 1.0 } } else { Slope { value: 0.0, per_vin: 0.0 } }
}

/// A step-down's output: what it is set to, or what its input leaves.
fn stepped_down(vin_v: f64, set_v: f64, dropout_v: f64) -> Slope {
    let headroom = headroom_v(vin_v, dropout_v);
    if headroom.value < set_v { headroom } else { Slope { value: set_v, per_vin: 0.0 } }
}

impl Conversion {
    /// Output voltage while it runs, V; of a driver the most that its output may have.
    pub fn output_v(&self, vin_v: f64) -> Slope {
        match self {
            Conversion::Buck(own) => stepped_down(vin_v, own.set_v, own.dropout_v),
            Conversion::Linear(own) => stepped_down(vin_v, own.set_v, own.dropout_v),
            Conversion::Boost(own) => {
                let passed = vin_v - own.pass_drop_v;
                if passed > own.set_v { Slope { value: passed, per_vin: 1.0 } } else { Slope { value: own.set_v, per_vin: 0.0 } }
            }
            Conversion::BuckBoost(own) => Slope { value: own.set_v, per_vin: 0.0 },
            Conversion::CurrentDriver(own) => headroom_v(vin_v, own.dropout_v),
        }
    }
}

impl Converter {
    /// Below this a running converter is continued as a resistor, so that the network keeps a solution to find. Where
    /// its data names no lower end, a thousandth of what it gives (of a volt, for a driver) stands for nothing.
    fn floor_v(&self) -> f64 {
        self.min_in_v.max(1e-3 * self.set_v().unwrap_or(1.0))
    }

    fn is_linear(&self) -> bool {
        matches!(self.conversion, Conversion::Linear(_))
    }

    /// Heat that it can get rid of, W; `None` where nobody said.
    pub fn heat_limit_w(&self) -> Option<f64> {
        self.max_loss_w.or(self.is_linear().then_some(LINEAR_MAX_LOSS_W))
    }

    /// Whether it can run at this input voltage.
    pub fn runs_at(&self, vin_v: f64) -> bool {
        vin_v >= self.min_in_v - 1e-9 && (self.is_linear() || vin_v >= self.floor_v() - 1e-9)
    }

    /// The voltage it is set to; a driver has none.
    pub fn target_v(&self) -> f64 {
        self.set_v().unwrap_or(0.0)
    }

    /// Output voltage of a running converter, V; of a driver the most that its output may have.
    pub fn output_v(&self, vin_v: f64) -> Slope {
        self.conversion.output_v(vin_v)
    }

    /// Input current of a running converter.
    pub fn input_a(&self, vin_v: f64, vout_v: f64, iout_a: f64) -> InputCurrent {
        let floor = self.floor_v();
        // Below its window the idle current fades like the rest: behind a converter that is off there is nobody to
        // give it, and a network must keep a solution in which this one is found to be off too.
        let low = if self.is_linear() { self.min_in_v } else { floor };
        let (idle_a, idle_per_vin) = if vin_v >= low || low <= 0.0 { (self.idle_a, 0.0) } else { (self.idle_a * vin_v / low, self.idle_a / low) };
        let Some(efficiency) = self.conversion.efficiency() else {
            return InputCurrent { value: iout_a + idle_a, per_vin: idle_per_vin, per_vout: 0.0, per_iout: 1.0 };
        };
        let power = vout_v * iout_a;
        // `1 / (efficiency V_in)` and its slope, continued as a straight line through zero below the floor.
        let (gain, per_vin) = if vin_v >= floor {
            let eta = efficiency.at(vin_v);
            let gain = 1.0 / (eta.value * vin_v);
            (gain, -gain / vin_v - gain * eta.per_vin / eta.value)
        } else {
            let per_vin = 1.0 / (efficiency.at(floor).value * floor * floor);
            (per_vin * vin_v, per_vin)
        };
        InputCurrent { value: power * gain + idle_a, per_vin: power * per_vin + idle_per_vin, per_vout: iout_a * gain, per_iout: vout_v * gain }
    }
}
