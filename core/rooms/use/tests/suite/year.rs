//! A year that was simulated from a known truth: what the room says back is held against that truth.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, parse};

use orthavis_model::moment::Moment;
use orthavis_use::health::health;
use orthavis_use::needs::Needs;
use orthavis_use::told::told;
use orthavis_use::year::{Truth, year};

fn now() -> Moment {
    Moment::parse("2026-11-27T19:30:00+01:00").expect("there")
}

/// Sample builds whose battery can be charged.
fn charged() -> Vec<Build> {
    let builds = BUILDS.iter().map(|text| parse(text).expect("there"));
    builds.filter(|build| Needs::of(build).is_some_and(|needs| needs.battery.charging_v().is_some())).collect()
}

#[test]
fn the_capacity_of_a_simulated_year_is_found_within_five_percent() {
    let (mut off, mut beyond) = (Vec::new(), 0);
    for build in charged() {
        let needs = Needs::of(&build).expect("there");
        for seed in 0..12 {
            let truth = Truth { left: 0.95 - 0.015 * seed as f64, left_before: 0.98, ..Truth::USUAL };
            let events = year(&build, truth, 77 + seed, now());
            let found = health(&needs, &told(&events), now());
            let Some(capacity) = found.capacity else { panic!("{}: {} charges", build.name, found.charges) };
            let real = needs.battery.capacity_ah * truth.left;
            let error = capacity.now.value / real - 1.0;
            println!("{} seed {seed}: {:+.3} give {:.3} charges {} readings {}", build.name, error, capacity.give / real, found.charges, found.readings);
            off.push(error.abs());
            beyond += usize::from((capacity.now.value - real).abs() > 3.0 * capacity.give);
            assert!(error.abs() < 0.05, "{}, seed {seed}: {error:+.3} with {} charges", build.name, found.charges);
        }
    }
    off.sort_by(f64::total_cmp);
    assert!(beyond * 20 <= off.len(), "{beyond} of {} lie beyond three standard deviations", off.len());
}
