//! What a source gives over time.

/// A figure over time.
#[derive(Clone, Debug, PartialEq)]
pub enum Wave {
    /// Always the same.
    Constant(f64),
    /// `mean + peak sin(2π hz t)`.
    Sine {
        /// Middle.
        mean: f64,
        /// Above the middle.
        peak: f64,
        /// A second.
        hz: f64,
    },
    /// Between two figures, over and over, beginning with the rise to the second.
    Pulse {
        /// At first.
        low: f64,
        /// After the rise.
        high: f64,
        /// Until the first rise, s.
        delay_s: f64,
        /// Length of each edge, s.
        edge_s: f64,
        /// From the end of the rise to the beginning of the fall, s.
        width_s: f64,
        /// From rise to rise, s.
        period_s: f64,
    },
    /// Straight lines between moments, s, flat outside.
    Points(Vec<(f64, f64)>),
    /// Another, while a gate is open; 0 while it is shut.
    Gated {
        /// What passes.
        wave: Box<Wave>,
        /// Open where it is above a half.
        gate: Box<Wave>,
    },
}

impl Wave {
    /// A square wave of half its period on, with edges of this length.
    pub fn square(low: f64, high: f64, hz: f64, edge_s: f64) -> Wave {
        let period_s = 1.0 / hz;
        Wave::Pulse { low, high, delay_s: 0.0, edge_s, width_s: 0.5 * period_s - edge_s, period_s }
    }

    /// Its value.
    pub fn at(&self, time_s: f64) -> f64 {
        match self {
            Wave::Constant(value) => *value,
            Wave::Sine { mean, peak, hz } => mean + peak * (std::f64::consts::TAU * hz * time_s).sin(),
            Wave::Pulse { low, high, delay_s, edge_s, width_s, period_s } => {
                if time_s < *delay_s {
                    return *low;
                }
                let since = (time_s - delay_s).rem_euclid(*period_s);
                let edge = edge_s.max(1e-15);
                if since < *edge_s {
                    low + (high - low) * since / edge
                } else if since <= edge_s + width_s {
                    *high
                } else {
                    (high - (high - low) * (since - edge_s - width_s) / edge).max(low.min(*high)).min(low.max(*high))
                }
            }
            Wave::Points(points) => {
                let after = points.partition_point(|point| point.0 <= time_s);
                match (after.checked_sub(1).map(|at| points[at]), points.get(after)) {
                    (Some((t0, v0)), Some((t1, v1))) => v0 + (v1 - v0) * (time_s - t0) / (t1 - t0),
                    (Some((_, value)), None) => value,
                    (None, first) => first.map_or(0.0, |first| first.1),
                }
            }
            Wave::Gated { wave, gate } => {
                if gate.at(time_s) > 0.5 {
                    wave.at(time_s)
                } else {
                    0.0
                }
            }
        }
    }

    /// The next moment after this one at which it bends or jumps, s.
    pub fn next_corner(&self, after_s: f64) -> f64 {
        // A corner that is as good as now is over.
        let later = |moment: f64, scale: f64| moment > after_s + 1e-12 * scale.max(after_s);
        match self {
            Wave::Constant(_) | Wave::Sine { .. } => f64::INFINITY,
            Wave::Pulse { delay_s, edge_s, width_s, period_s, .. } => {
                let first = ((after_s - delay_s) / period_s).floor().max(0.0);
                let corners = [0.0, *edge_s, edge_s + width_s, 2.0 * edge_s + width_s];
                let all = [first, first + 1.0].into_iter().flat_map(|round| corners.map(|corner| delay_s + round * period_s + corner));
                all.filter(|moment| later(*moment, *period_s)).fold(f64::INFINITY, f64::min)
            }
            Wave::Points(points) => points.iter().map(|point| point.0).find(|moment| later(*moment, *moment)).unwrap_or(f64::INFINITY),
            Wave::Gated { wave, gate } => wave.next_corner(after_s).min(gate.next_corner(after_s)),
        }
    }

    /// The shortest time in which it does something, s.
    pub fn scale_s(&self) -> f64 {
        match self {
            Wave::Constant(_) => f64::INFINITY,
            Wave::Sine { hz, .. } => 1.0 / hz,
            Wave::Pulse { period_s, .. } => *period_s,
            Wave::Points(points) => points.windows(2).map(|pair| pair[1].0 - pair[0].0).fold(f64::INFINITY, f64::min),
            Wave::Gated { wave, gate } => wave.scale_s().min(gate.scale_s()),
        }
    }
}
