//! What holds of every waveform, read and given: means between least and most, energy over parts of the time, corners in order.

use orthavis_physics::transient::{Trace, Wave};
use proptest::prelude::*;

/// Steps of time as moments, the first at 0.
fn moments(steps: Vec<(f64, f64)>) -> Vec<(f64, f64)> {
    let mut now = 0.0;
    let at = |(step, value): (f64, f64)| {
        let moment = now;
        now += step;
        (moment, value)
    };
    steps.into_iter().map(at).collect()
}

/// A trace of rising moments.
fn trace() -> impl Strategy<Value = Trace> {
    prop::collection::vec((1e-3f64..2.0, -10.0f64..10.0), 2..40).prop_map(|steps| {
        let (time_s, value) = moments(steps).into_iter().unzip();
        Trace { time_s, value }
    })
}

/// Waves that bend or jump.
fn wave() -> impl Strategy<Value = Wave> {
    let pulse = (-5.0f64..5.0, -5.0f64..5.0, 0.0f64..2.0, 1e-3f64..0.1, 0.1f64..1.0, 0.2f64..2.0)
        .prop_map(|(low, high, delay_s, edge_s, width_s, rest)| Wave::Pulse { low, high, delay_s, edge_s, width_s, period_s: 2.0 * edge_s + width_s + rest });
    let points = prop::collection::vec((1e-2f64..1.0, -5.0f64..5.0), 2..8).prop_map(|steps| Wave::Points(moments(steps)));
    prop_oneof![pulse, points, (-5.0f64..5.0).prop_map(Wave::Constant)]
}

fn near(a: f64, b: f64, scale: f64) -> bool {
    (a - b).abs() <= 1e-9 * (1.0 + scale)
}

proptest! {
    /// A mean lies between the least and the most, and below the root of the mean square.
    #[test]
    fn a_mean_lies_within(trace in trace()) {
        let (least, mean, peak, rms) = (trace.least(), trace.mean(), trace.peak(), trace.rms());
        prop_assert!(least - 1e-9 <= mean && mean <= peak + 1e-9, "{least} {mean} {peak}");
        prop_assert!(mean.abs() <= rms + 1e-9, "{mean} against {rms}");
        prop_assert!(near(trace.total(), mean * trace.span_s(), trace.total().abs()));
    }

    /// Raised by a figure its mean rises by that; made so many times larger all of it is.
    #[test]
    fn a_mean_is_linear(trace in trace(), more in -5.0f64..5.0, times in 0.1f64..8.0) {
        let raised = Trace { value: trace.value.iter().map(|value| value + more).collect(), ..trace.clone() };
        prop_assert!(near(raised.mean(), trace.mean() + more, 10.0));
        let larger = Trace { value: trace.value.iter().map(|value| value * times).collect(), ..trace.clone() };
        prop_assert!(near(larger.rms(), times * trace.rms(), 100.0) && near(larger.total(), times * trace.total(), 1e3));
    }

    /// What was before a moment and what came after it are the whole.
    #[test]
    fn a_whole_is_the_sum_of_its_parts(trace in trace(), at in any::<prop::sample::Index>()) {
        let cut = at.index(trace.time_s.len());
        let moment = trace.time_s[cut];
        let before = Trace { time_s: trace.time_s[..=cut].to_vec(), value: trace.value[..=cut].to_vec() };
        let after = trace.from(moment);
        prop_assert_eq!(after.time_s[0], moment);
        prop_assert!(near(before.total() + after.total(), trace.total(), trace.total().abs() + 100.0));
        prop_assert_eq!(before.peak().max(after.peak()), trace.peak());
        prop_assert!(near(before.span_s() + after.span_s(), trace.span_s(), trace.span_s()));
        // Between two moments it lies on the line between them.
        prop_assert!(near(trace.at(moment), trace.value[cut], 10.0));
        if let Some(next) = trace.time_s.get(cut + 1) {
            prop_assert!(near(trace.at(0.5 * (moment + next)), 0.5 * (trace.value[cut] + trace.value[cut + 1]), 10.0));
        }
    }

    /// Rises and falls through a level take turns, and at each of them the level is what it reads.
    #[test]
    fn rises_and_falls_take_turns(trace in trace(), level in -8.0f64..8.0) {
        prop_assume!(trace.value.iter().all(|value| (value - level).abs() > 1e-6));
        let (ups, downs) = (trace.crossings(level, true), trace.crossings(level, false));
        prop_assert!(ups.len().abs_diff(downs.len()) <= 1, "{} rises and {} falls", ups.len(), downs.len());
        for moment in ups.iter().chain(&downs) {
            prop_assert!((trace.at(*moment) - level).abs() < 1e-6, "{} at {moment}", trace.at(*moment));
        }
        let mut all: Vec<(f64, bool)> = ups.iter().map(|at| (*at, true)).chain(downs.iter().map(|at| (*at, false))).collect();
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        prop_assert!(all.windows(2).all(|pair| pair[0].1 != pair[1].1), "{all:?}");
        // A mean period is the time from its first rise to its last, shared out.
        match trace.swings(level, usize::MAX) {
            None => prop_assert!(ups.len() < 2),
            Some((period, on, [first, last])) => {
                prop_assert!(near(period, (last - first) / (ups.len() - 1) as f64, last));
                prop_assert!(on > 0.0 && on < period, "on for {on} of {period}");
            }
        }
    }

    /// Between two corners a wave is a straight line, and the next corner is always ahead.
    #[test]
    fn corners_come_in_order_and_between_them_it_is_straight(wave in wave(), from in 0.0f64..3.0) {
        let mut now = from;
        for _ in 0..12 {
            let next = wave.next_corner(now);
            prop_assert!(next > now, "{next} after {now}");
            if !next.is_finite() {
                // Nothing more happens: it stays as it is.
                prop_assert!(near(wave.at(now + 1.0), wave.at(now + 7.0), 10.0));
                break;
            }
            // Not at the corners themselves, where it may jump.
            let inside = |share: f64| wave.at(now + share * (next - now));
            prop_assert!((inside(0.5) - 0.5 * (inside(0.1) + inside(0.9))).abs() < 1e-6, "{now} to {next} of {wave:?}");
            now = next;
        }
    }

    /// A pulse repeats, and never leaves what it lies between.
    #[test]
    fn a_pulse_repeats(low in -5.0f64..5.0, high in -5.0f64..5.0, hz in 0.5f64..20.0, time in 0.0f64..4.0) {
        let wave = Wave::square(low, high, hz, 0.01 / hz);
        let value = wave.at(time);
        prop_assert!(value >= low.min(high) - 1e-12 && value <= low.max(high) + 1e-12);
        // On an edge a rounding of time is a step of the value.
        let edge = (time * hz).rem_euclid(0.5) < 0.02 || (time * hz).rem_euclid(0.5) > 0.48;
        prop_assert!(edge || near(value, wave.at(time + 3.0 / hz), 10.0));
        prop_assert!((wave.scale_s() - 1.0 / hz).abs() < 1e-12);
    }

    /// Behind a gate there is all of it or nothing.
    #[test]
    fn a_gate_is_open_or_shut(inner in wave(), gate in wave(), time in 0.0f64..4.0) {
        let gated = Wave::Gated { wave: Box::new(inner.clone()), gate: Box::new(gate.clone()) };
        prop_assert_eq!(gated.at(time), if gate.at(time) > 0.5 { inner.at(time) } else { 0.0 });
        prop_assert_eq!(gated.next_corner(time), inner.next_corner(time).min(gate.next_corner(time)));
        prop_assert!(gated.scale_s() <= inner.scale_s());
    }
}
