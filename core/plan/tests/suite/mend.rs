//! Mend everything, on builds with two to five faults put in.

use orthavis_judge::findings::Severity;
use orthavis_judge::report::report_at_once;
use orthavis_model::document::{Build, Fuse, FuseStyle, Gauge, Load, Source, Tap, parse};
use orthavis_plan::mend::{Until, everything};
use orthavis_testing::{cases, changed};
use serde_json::json;
use std::time::{Duration, Instant};

/// SplitMix64: the same number always gives the same faults.
struct Dice(u64);

impl Dice {
    fn upto(&mut self, below: usize) -> usize {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((z ^ (z >> 31)) % below as u64) as usize
    }
}

/// One mistake as people make them; `None` where the build has no place for it.
#[allow(clippy::unit_arg, reason = "each arm makes one mistake where it can")]
fn spoil(build: &mut Build, dice: &mut Dice) -> Option<()> {
    let light = dice.upto(build.lights.len());
    let converter = dice.upto(build.converters.len().max(1));
    let feed = dice.upto(build.feeds().len());
    match dice.upto(18) {
        0 => on_feed(build, feed, |f| f.fuse = None),
        1 => on_feed(build, feed, |f| f.gauge = Gauge::Awg(30)),
        2 => on_feed(build, feed, |f| f.fuse = Some(Fuse::of(FuseStyle::Blade, 40.0))),
        3 => on_feed(build, feed, |f| f.bundled = 9),
        4 => on_feed(build, feed, |f| f.switch = Some(orthavis_model::document::Switch::of(0.1))),
        5 => on_feed(build, feed, |f| (f.contacts, f.contact_rating_a) = (1, Some(0.1))),
        6 => on_feed(build, feed, |f| f.return_path = orthavis_model::document::Return::Frame),
        7 => on_feed(build, feed, |f| f.fuse = Some(Fuse::of(FuseStyle::Glass, 0.1))),
        8 | 9 => match &mut build.lights[light].load {
            Load::LedArray(array) => Some(array.resistor_ohm *= [0.3, 0.0, 4.0][dice.upto(3)]),
            Load::Strip(strip) => {
                Some(strip.voltage_v *= [0.8, 1.6][dice.upto(2)]).filter(|()| strip.voltage_v > 1.05 * f64::from(strip.leds_per_segment) * strip.led_vf_v)
            }
            Load::Pixels(pixels) => Some(pixels.voltage_v *= 0.7).filter(|()| pixels.voltage_v > pixels.regulation_v[2]),
            Load::Module(module) => Some(module.max_v = (0.8 * module.max_v).max(module.min_v)),
        },
        10 => match &mut build.lights[light].load {
            Load::LedArray(array) => Some(array.series += 2),
            Load::Strip(strip) => Some(strip.length_m *= 3.0).filter(|()| strip.length_m < 12.0),
            Load::Pixels(pixels) => Some(pixels.count *= 3),
            Load::Module(module) => Some(module.power_w *= 3.0),
        },
        11 => Some(build.converters.get_mut(converter)?.max_out_a *= 0.3),
        12 => {
            let c = build.converters.get_mut(converter)?;
            Some(c.max_in_v = (0.5 * c.max_in_v).max(c.min_in_v))
        }
        13 => {
            let c = build.converters.get_mut(converter)?;
            Some(c.min_in_v = (1.6 * c.min_in_v).min(c.max_in_v))
        }
        14 => build.converters.get_mut(converter).filter(|c| c.set_v().is_some()).map(|c| *c.conversion.setting_mut() *= [0.6, 1.5][dice.upto(2)]),
        15 => build
            .converters
            .get_mut(converter)
            .filter(|c| c.set_v().is_some())
            .map(|c| c.conversion = orthavis_model::document::Conversion::linear(c.target_v(), c.dropout_v().unwrap_or(1.0))),
        16 => match &mut build.source {
            Source::Battery(battery) => Some(battery.tap = [Tap::BalanceLead, Tap::OneOfSeries][dice.upto(2)]),
            Source::Rail(_) | Source::Track(_) => None,
        },
        _ => match &mut build.source {
            Source::Battery(battery) => Some(battery.used_while_charging = true),
            Source::Rail(_) | Source::Track(_) => None,
        },
    }
}

fn on_feed(build: &mut Build, index: usize, change: impl FnOnce(&mut orthavis_model::document::Feed)) -> Option<()> {
    let (junctions, converters) = (build.junctions.len(), build.converters.len());
    let feed = if index < junctions {
        &mut build.junctions[index].feed
    } else if index < junctions + converters {
        &mut build.converters[index - junctions].feed
    } else {
        build.lights.iter_mut().flat_map(|light| &mut light.feeds).nth(index - junctions - converters)?
    };
    change(feed);
    Some(())
}

/// Sound builds with two to five faults in them, of which at least one stops.
fn spoiled(seed: u64) -> Option<Build> {
    let mut bases: Vec<Build> = orthavis_model::demo::BUILDS.iter().map(|text| parse(text).expect("a sample build")).collect();
    bases.extend(cases().into_iter().map(|(_, build)| build));
    let mut dice = Dice(seed);
    let mut build = bases[dice.upto(bases.len())].clone();
    let wanted = 2 + dice.upto(4);
    let mut done = 0;
    for _ in 0..40 {
        let mut next = build.clone();
        if done < wanted && spoil(&mut next, &mut dice).is_some() && orthavis_model::document::parse_value(&next.to_value()).is_ok() {
            (build, done) = (next, done + 1);
        }
    }
    let report = report_at_once(&build).ok()?;
    (done >= 2 && report.verdict.stops > 0).then_some(build)
}

const BUILDS: usize = 100;

#[test]
fn nearly_all_are_safe_in_the_end() {
    let (mut tried, mut safe, mut slowest, mut total) = (0, 0, Duration::ZERO, Duration::ZERO);
    let (mut steps, mut left) = (0, Vec::new());
    let count: usize = std::env::var("ORTHAVIS_BUILDS").ok().and_then(|count| count.parse().ok()).unwrap_or(BUILDS);
    for (seed, build) in (0..).filter_map(|seed| Some((seed, spoiled(seed)?))).take(count) {
        let started = Instant::now();
        let mended = everything(&build, Until::Safe).expect("it was solved");
        let took = started.elapsed();
        (slowest, total) = (slowest.max(took), total + took);
        let after = changed(&build, &json!(mended.changes));
        let report = report_at_once(&after).expect("a solution");
        tried += 1;
        steps += mended.steps.len();
        // What it says of the end is what is there.
        let stops = report.findings.iter().filter(|f| f.severity == Severity::Stop && f.follows.is_none()).count();
        assert_eq!(mended.left.len(), stops, "{seed}: {:?}", mended.left);
        assert!(mended.left.iter().all(|left| !left.title.is_empty() && !left.advice.is_empty()), "{seed}: {:?}", mended.left);
        if report.verdict.stops == 0 {
            safe += 1;
            assert_eq!(mended.effect.headline_after, report.verdict.headline, "{seed}");
        } else {
            left.push(format!(
                "{seed} {}: {:?} then {:?}",
                build.name,
                mended.steps,
                report.findings.iter().filter(|f| f.severity == Severity::Stop).map(|f| (f.code, &f.subject)).collect::<Vec<_>>()
            ));
        }
    }
    println!(
        "{safe} of {tried} safe, {:.1} changes each, {} ms each, {} ms at most",
        steps as f64 / tried as f64,
        total.as_millis() as usize / tried,
        slowest.as_millis()
    );
    println!("{}", left.join("\n"));
    assert!(safe * 100 >= tried * 95, "{safe} of {tried} safe\n{}", left.join("\n"));
}

#[test]
fn a_sound_build_is_left_alone() {
    for (name, build) in cases() {
        let report = report_at_once(&build).expect("a solution");
        if report.verdict.stops == 0 {
            let mended = everything(&build, Until::Safe).expect("a solution");
            assert!(mended.steps.is_empty() && mended.changes.0.is_empty() && mended.left.is_empty(), "{name}: {:?}", mended.steps);
        }
    }
}
