//! A year that was simulated from a known truth: what the room says back is held against that truth.

use orthavis_model::chance::Dice;
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

/// Meters and counters that are a little wrong all the time, each year another: the bands hold what is true.
#[test]
fn bands_hold_what_is_true() {
    let mut sigmas = Vec::new();
    let mut off = Vec::new();
    let mut dice = Dice::new(11);
    for build in charged() {
        let needs = Needs::of(&build).expect("there");
        for seed in 0..15 {
            let (meter, counter) = (1.0 + 0.0025 * dice.normal(), 1.0 + 0.01 * dice.normal());
            let truth = Truth { left: dice.between(0.75, 0.95), left_before: 0.97, meter, counter, ..Truth::USUAL };
            let events = year(&build, truth, 300 + seed, now());
            let capacity = health(&needs, &told(&events), now()).capacity.expect("a year of charges");
            let real = needs.battery.capacity_ah * truth.left;
            sigmas.push(((capacity.now.value - real) / capacity.give, build.name.clone(), capacity.give / real));
            off.push(capacity.now.value / real - 1.0);
        }
    }
    let beyond = sigmas.iter().filter(|(sigma, ..)| sigma.abs() > 2.0).count();
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    println!("{beyond} of {} beyond two sigmas, mean {:+.2} %", off.len(), 100.0 * mean);
    for build in charged() {
        let of: Vec<f64> = sigmas.iter().zip(&off).filter(|((_, name, _), _)| *name == build.name).map(|(_, off)| *off).collect();
        println!("{}: {:?}", build.name, of.iter().map(|off| (1000.0 * off).round() / 10.0).collect::<Vec<_>>());
    }
    assert!(10 * beyond <= off.len(), "{beyond} of {} lie beyond two standard deviations", off.len());
    assert!(mean.abs() < 0.01, "{mean:+.3}");
}
