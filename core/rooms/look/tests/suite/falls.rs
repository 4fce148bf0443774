//! Light as it falls keeps the laws of light.

use orthavis_look::body::body;
use orthavis_look::falls::{Emitter, colour_of, emitters, falls, luminance};
use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, parse};
use orthavis_model::laws::light::Beam;
use orthavis_physics::light::source_lm;
use orthavis_physics::points::{PointReport, points};
use proptest::prelude::*;
use std::f64::consts::TAU;

fn lamp(height: f64, beam: Beam, lm: f64) -> Emitter {
    Emitter { at: [0.0, 0.0, height], aim: [0.0, 0.0, -1.0], beam, cd: [beam.peak_cd(lm); 3], light: 0 }
}

const UP: [f64; 3] = [0.0, 0.0, 1.0];

proptest! {
    /// Twice as far is a quarter of the light.
    #[test]
    fn twice_the_distance_is_a_quarter(half in 5.0..80.0_f64, near in 0.2..20.0_f64) {
        let lamp = |height| falls([0.0; 3], UP, &[lamp(height, Beam::of_half_angle(half), 100.0)])[0];
        prop_assert!((lamp(near) / lamp(2.0 * near) - 4.0).abs() < 1e-9);
    }

    /// What leaves a lamp is what falls on the ground and what goes beyond it, within a hundredth.
    #[test]
    fn no_light_is_lost(half in 8.0..80.0_f64, height in 0.1..3.0_f64, reach in 2.0..30.0_f64) {
        let (lm, beam) = (100.0, Beam::of_half_angle(half));
        let emitters = [lamp(height, beam, lm)];
        // Rings that widen with the distance, so that the bright middle is fine.
        let edge = |step: i32| height * (f64::from(step) / 4000.0 * (reach * reach + 1.0).ln()).exp_m1().max(0.0).sqrt();
        let ring = |step: i32| {
            let (inner, outer) = (edge(step), edge(step + 1));
            let middle = (0.5 * (inner * inner + outer * outer)).sqrt();
            falls([middle, 0.0, 0.0], UP, &emitters)[0] * 0.5 * TAU * (outer * outer - inner * inner)
        };
        let on_ground: f64 = (0..4000).map(ring).sum();
        // Beyond the edge go the directions flatter than that to it.
        let flat = (edge(4000) / height).atan();
        let cone = |step: i32| {
            let angle = flat + (f64::from(step) + 0.5) / 4000.0 * (TAU / 4.0 - flat);
            beam.cd(lm, angle.to_degrees()) * TAU * angle.sin() * (TAU / 4.0 - flat) / 4000.0
        };
        let beyond: f64 = (0..4000).map(cone).sum();
        prop_assert!(((on_ground + beyond) / lm - 1.0).abs() < 0.01, "{on_ground} + {beyond} of {lm}");
    }
}

fn first_points() -> impl Iterator<Item = (Build, PointReport)> {
    BUILDS.iter().map(|text| {
        let build = parse(text).expect("a sample");
        let point = points(&build).expect("solved").remove(0);
        (build, point)
    })
}

/// The points that a light is put together from give its flux and no more, and lie on its body.
#[test]
fn every_light_of_every_sample_shines_its_flux_from_its_body() {
    for (build, point) in first_points() {
        let body = body(build.vehicle.kind, &build.form().expect("a form").id).expect("a body");
        let all = emitters(&build, &body, &point);
        for (index, light) in build.lights.iter().enumerate() {
            let own: Vec<&Emitter> = all.iter().filter(|emitter| emitter.light == index).collect();
            let output = point.lights.get(&light.id).map_or(0.0, |report| report.output);
            let lm = source_lm(light, &point.lit[index], output) * light.shine.as_ref().map_or(1.0, |shine| shine.through());
            let sum: f64 = own.iter().map(|emitter| luminance(emitter.cd)).sum();
            assert!((sum - light.beam().peak_cd(lm)).abs() <= 1e-9 * sum.max(1.0), "{} {}: {sum}", build.name, light.id);
            for emitter in own {
                let bounds = body.mesh.bounds();
                assert!((0..3).all(|axis| emitter.at[axis] > bounds[0][axis] - 0.5 && emitter.at[axis] < bounds[1][axis] + 0.5), "{}", light.id);
            }
        }
    }
}

/// Black where nothing shines, and behind what shines.
#[test]
fn where_nothing_shines_it_is_black() {
    assert_eq!(falls([1.0, 0.0, 0.0], UP, &[]), [0.0; 3]);
    let down = lamp(1.0, Beam::of_half_angle(60.0), 100.0);
    assert_eq!(falls([0.0, 0.0, 2.0], [0.0, 0.0, -1.0], &[down]), [0.0; 3]);
    assert_eq!(falls([0.0; 3], [0.0, 0.0, -1.0], &[down]), [0.0; 3], "the side that is turned away");
    for (build, mut point) in first_points() {
        for light in point.lights.values_mut() {
            light.output = 0.0;
        }
        let body = body(build.vehicle.kind, &build.form().expect("a form").id).expect("a body");
        assert_eq!(emitters(&build, &body, &point), []);
    }
}

/// Colours are as bright as they say, and look like their names.
#[test]
fn colours_look_like_their_names() {
    for name in ["white", "warm white", "cool white", "red", "orange", "amber", "yellow", "green", "blue", "violet"] {
        let rgb = colour_of(name);
        assert!((luminance(rgb) - 1.0).abs() < 1e-9 && rgb.iter().all(|channel| *channel >= 0.0), "{name} {rgb:?}");
    }
    let strongest = |name: &str| (0..3).max_by(|a, b| colour_of(name)[*a].total_cmp(&colour_of(name)[*b]));
    assert_eq!(["red", "green", "blue"].map(strongest), [Some(0), Some(1), Some(2)]);
    let [red, green, blue] = colour_of("warm white");
    assert!(red > green && green > blue, "a bulb is yellowish");
}
