//! How long solving takes, beside the sparse LU alone on the same rails; `cargo xtask bench` prints the table.

#![allow(missing_docs, reason = "criterion's macros")]

use criterion::{Criterion, criterion_group, criterion_main};
use faer::dyn_stack::{MemBuffer, MemStack};
use faer::sparse::linalg::lu::{LuSymbolicParams, NumericLu, factorize_symbolic_lu};
use faer::sparse::{SparseColMat, Triplet};
use orthavis_core::bench::rig::Rig;
use orthavis_core::bench::spot::Spot;
use orthavis_core::document::{Build, parse, parse_value};
use orthavis_core::drain::discharge::discharge;
use orthavis_core::drain::drain;
use orthavis_core::drain::what_if::{WhatIf, what_if};
use orthavis_core::network::{Network, Point};
use orthavis_core::report::{report, report_at_once};
use serde_json::json;
use std::hint::black_box;

/// One rail of pixels fed at both ends.
fn pixels(count: u32) -> Build {
    let share = 300.0 / f64::from(count);
    let feed = |at_m: f64| json!({ "from": "source", "at_m": at_m, "length_m": 1.0, "gauge": { "awg": 16 } });
    let load = json!({ "kind": "pixels", "voltage_v": 5.0, "channel_a": [0.004 * share, 0.004 * share, 0.004 * share], "idle_a": 0.0006 * share,
        "pitch_m": 0.0333333 * share, "rail_ohm_per_m": 0.06, "regulation_v": [2.6, 3.6, 3.6], "off_v": [1.7, 2.6, 2.6], "count": count });
    parse_value(&json!({
        "format": "orthavis.build/1", "name": "pixels", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": 5.0, "resistance_ohm": 0.02, "max_current_a": 20.0 },
        "lights": [{ "id": "strip", "feeds": [feed(0.0), feed(9.99)], "load": load }],
        "scenes": [{ "id": "on", "lights": { "strip": { "level": 1.0 } } }],
    }))
    .expect("a sound document")
}

/// The matrix that the same pixels make when every tap is a node: two rails, a conductance at each tap.
fn factorizations(c: &mut Criterion, count: usize) {
    let mut entries = Vec::new();
    let mut between = |a: usize, b: usize, g: f64| entries.extend([(a, a, g), (b, b, g), (a, b, -g), (b, a, -g)].map(|(r, c, v)| Triplet::new(r, c, v)));
    for pixel in 0..count {
        between(2 * pixel, 2 * pixel + 1, 0.01);
        if pixel + 1 < count {
            between(2 * pixel, 2 * pixel + 2, 500.0);
            between(2 * pixel + 1, 2 * pixel + 3, 500.0);
        }
    }
    entries.extend([Triplet::new(0, 0, 50.0), Triplet::new(1, 1, 50.0)]);
    let matrix = SparseColMat::<usize, f64>::try_new_from_triplets(2 * count, 2 * count, &entries).expect("a matrix");
    let symbolic = factorize_symbolic_lu(matrix.symbolic(), LuSymbolicParams::default()).expect("an order");
    let mut scratch = MemBuffer::new(symbolic.factorize_numeric_lu_scratch::<f64>(faer::Par::Seq, Default::default()));
    let mut numeric = NumericLu::new();
    c.bench_function(&format!("lu_{count}"), |b| {
        b.iter(|| {
            let stack = MemStack::new(&mut scratch);
            black_box(symbolic.factorize_numeric_lu(&mut numeric, matrix.as_ref(), faer::Par::Seq, stack, Default::default()).is_ok())
        });
    });
}

fn solving(c: &mut Criterion) {
    for count in [300, 3000] {
        let build = pixels(count);
        let mut network = Network::new(&build).expect("a network");
        let point = Point::of(&build, &build.scenes[0], build.states()[0]);
        c.bench_function(&format!("pixels_{count}"), |b| b.iter(|| black_box(network.solve(&point, None).expect("a solution"))));
        factorizations(c, count as usize);
    }
}

fn reports(c: &mut Criterion) {
    for text in orthavis_core::demo::BUILDS {
        let build = parse(text).expect("a sample build");
        let name = build.name.to_lowercase().replace(' ', "-");
        c.bench_function(&format!("report_{name}"), |b| b.iter(|| black_box(report(&build).expect("a report"))));
    }
    let stage = parse(orthavis_core::demo::BUILDS[0]).expect("a sample build");
    let scene = &stage.scenes[0].id;
    let change = WhatIf { brightness_factor: 0.8, capacity_factor: 1.5, temperature_c: 10.0, hours_factor: 1.2 };
    c.bench_function("verdict_stage", |b| b.iter(|| black_box(report_at_once(&stage).expect("a report"))));
    c.bench_function("drain_stage", |b| b.iter(|| black_box(drain(&stage).expect("solved"))));
    c.bench_function("discharge_stage", |b| b.iter(|| black_box(discharge(&stage, scene).expect("a solution").expect("a battery"))));
    c.bench_function("what_if_stage", |b| b.iter(|| black_box(what_if(&stage, scene, &change).expect("solved"))));
    // What the meter shows of every point, once the rig is there: strips of the stage have some hundreds of them.
    let spots = Spot::all(&stage);
    let mut rig = Rig::new(&stage, &[]).expect("a rig");
    let (scene, state) = (&stage.scenes[0], stage.states()[0]);
    c.bench_function(&format!("{}_probes_stage", spots.len()), |b| {
        b.iter(|| {
            let shot = rig.shot(scene, state).expect("a solution");
            black_box(spots.iter().map(|spot| rig.potential(&shot, *spot)).sum::<f64>())
        });
    });
    let van = parse(include_str!("../../testing/cases/van-strips.json")).expect("a case");
    c.bench_function("report_van-strips", |b| b.iter(|| black_box(report(&van).expect("a report"))));
}

criterion_group! { name = benches; config = Criterion::default().sample_size(20).measurement_time(std::time::Duration::from_secs(2)).warm_up_time(std::time::Duration::from_millis(500)); targets = solving, reports }
criterion_main!(benches);
