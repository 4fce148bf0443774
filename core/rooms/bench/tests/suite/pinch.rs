//! Pinches: opening times against their tables, heat against hand sums, currents by law.

use orthavis_bench::pinch::{Pinch, pinch};
use orthavis_model::demo;
use orthavis_model::document::{Build, Fuse, FuseStyle, Source, parse};
use orthavis_model::states::State;
use orthavis_testing::{case, cases};

fn sample(word: &str) -> Build {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).find(|build| build.name.contains(word)).expect("a sample build")
}

fn at(build: &Build, feed: &str, share: f64, state: State) -> Pinch {
    pinch(build, feed, share).expect("a pinch").into_iter().find(|pinch| pinch.state == state).expect("its state")
}

#[test]
fn fuses_open_between_the_limits_of_their_kind() {
    use FuseStyle::{Blade, Blade58v, Ceramic, Glass, Ptc};
    // Style, multiple of the rating, fast and slow limit: the knots, half way on log–log paper, beyond either end.
    let half = |a: f64, b: f64| (a * b).sqrt();
    type Row = (FuseStyle, f64, Option<(f64, f64)>);
    let table: Vec<Row> = vec![
        (Blade, 1.0, None),
        (Blade, 1.349, None),
        (Blade, 1.35, Some((0.75, 600.0))),
        (Blade, half(1.35, 2.0), Some((half(0.75, 0.15), half(600.0, 5.0)))),
        (Blade, 2.0, Some((0.15, 5.0))),
        (Blade58v, 3.5, Some((0.04, 0.5))),
        (Blade58v, half(3.5, 6.0), Some((half(0.04, 0.02), half(0.5, 0.1)))),
        (Blade, 6.0, Some((0.02, 0.1))),
        (Blade, 600.0, Some((0.02 / 1e4, 0.1 / 1e4))),
        (Glass, 2.0, None),
        (Glass, 2.1, Some((0.1, 1800.0))),
        (Ceramic, 2.75, Some((0.05, 2.0))),
        (Glass, half(2.75, 4.0), Some((half(0.05, 0.01), half(2.0, 0.3)))),
        (Ceramic, 10.0, Some((0.002, 0.02))),
        (Ptc, 1.99, None),
        (Ptc, 2.0, Some((1.0, 20.0))),
        (Ptc, half(5.0, 10.0), Some((half(0.1, 0.02), half(3.0, 0.5)))),
        (Ptc, 50.0, Some((0.02 / 25.0, 0.5 / 25.0))),
    ];
    for (style, multiple, expected) in table {
        for rating in [0.5, 5.0, 30.0] {
            let found = Fuse::of(style, rating).opens_s(multiple * rating);
            match (found, expected) {
                (None, None) => {}
                (Some([fast, slow]), Some((want_fast, want_slow))) => {
                    assert!((fast / want_fast - 1.0).abs() < 1e-9 && (slow / want_slow - 1.0).abs() < 1e-9, "{style:?} ×{multiple}: {fast}, {slow}");
                }
                _ => panic!("{style:?} ×{multiple}: {found:?}, want {expected:?}"),
            }
        }
    }
}

/// Every file of the folder: what an independent program makes of a pinch.
#[test]
fn pinches_agree_with_an_independent_program() {
    let mut count = 0;
    for (name, case) in orthavis_testing::pinches() {
        let state = State::WORDS.iter().find(|(word, _)| case["state"] == *word).expect("a state").1;
        let build = orthavis_model::document::parse_value(&case["document"]).unwrap_or_else(|error| panic!("{name}: {error}"));
        let found = at(&build, case["feed"].as_str().expect("a feed"), case["at"].as_f64().expect("a share"), state);
        let want = &case["expected"];
        let close = |got: f64, want: &serde_json::Value| (got / want.as_f64().expect("a figure") - 1.0).abs() < 1e-4;
        assert!(close(found.fault_a, &want["fault_a"]) && close(found.peak_c, &want["peak_c"]), "{name}: {found:?}");
        assert_eq!((found.fuse.as_deref(), Some(found.survives)), (want["fuse"].as_str(), want["survives"].as_bool()), "{name}");
        match (found.opens_s, want["opens_s"].as_array()) {
            (Some([fast, slow]), Some(times)) => assert!(close(fast, &times[0]) && close(slow, &times[1]), "{name}: {found:?}"),
            (None, None) => {}
            other => panic!("{name}: {other:?}"),
        }
        count += 1;
    }
    assert!(count >= 3, "the cases are there");
}

/// A fuse that the verdict says cannot break a short is not said to open in it.
#[test]
fn a_fuse_that_cannot_break_a_short_does_not_open() {
    let mut build = case("van-strips");
    let junction = build.junctions[0].id.clone();
    build.junctions[0].feed.fuse = Some(Fuse::of(FuseStyle::Glass, 10.0));
    let near = at(&build, &junction, 0.0, State::Full);
    assert!(near.fault_a > 35.0 && near.fuse.is_none() && !near.survives, "{near:?}");
    build.junctions[0].feed.fuse = Some(Fuse::of(FuseStyle::Ceramic, 10.0));
    assert_eq!(at(&build, &junction, 0.0, State::Full).fuse, Some(junction));
}

/// What hangs behind a small circuit is protected by the circuit's fuse, and by the limit above it.
#[test]
fn a_pinch_behind_a_circuit_sees_what_is_before_it() {
    let mut build = sample("coach");
    let circuit = build.circuits.iter().position(|circuit| build.lights.iter().any(|light| light.feeds[0].from == circuit.id)).expect("a circuit with a light");
    let id = build.circuits[circuit].id.clone();
    let light = build.lights.iter().find(|light| light.feeds[0].from == id).expect("its light").id.clone();
    build.circuits[circuit].feed.fuse = Some(Fuse::of(FuseStyle::Ptc, 0.1));
    let state = build.states()[0];
    let found = at(&build, &light, 1.0, state);
    assert_eq!(found.fuse, Some(id), "{found:?}");
    assert!(found.fault_a <= build.source.max_current_a());
}

#[test]
fn a_battery_gives_what_its_way_lets_through() {
    let build = case("van-strips");
    let (emf, source) = build.thevenin(State::Reserve);
    let block = build.junctions.first().expect("a junction").feed.clone();
    let block_ohm = block.out_ohm() + block.back_ohm(None);
    let light = build.lights.iter().find(|light| light.feeds[0].from == build.junctions[0].id).expect("a light on it");
    let feed = &light.feeds[0];
    let wire = feed.gauge.ohm(feed.length_m);
    for share in [0.0, 0.3, 1.0] {
        let ohm = source + 0.005 + block_ohm + feed.out_ohm() - (1.0 - share) * wire + share * wire;
        let found = at(&build, &light.id, share, State::Reserve).fault_a;
        assert!((found - emf / ohm).abs() < 1e-6 * found, "{share}: {found}, want {}", emf / ohm);
    }
}

#[test]
fn a_module_and_a_rail_give_no_more_than_they_can() {
    let trike = case("trike-arrays");
    let module = trike.converters.first().expect("a module");
    let light = trike.lights.iter().find(|light| light.feeds[0].from == module.id).expect("a light on it");
    for pinch in pinch(&trike, &light.id, 0.5).expect("a pinch") {
        assert!((pinch.fault_a - module.max_out_a).abs() < 1e-12, "{pinch:?}");
    }
    let rail = case("rail-thin-wire");
    let Source::Rail(limit) = &rail.source else { panic!("no rail") };
    for feed in rail.feeds().into_iter().filter(|feed| feed.feed.from == "source") {
        assert!(at(&rail, &feed.id, 0.0, State::Rail).fault_a <= limit.max_current_a);
    }
}

#[test]
fn the_fuse_that_is_quickest_opens() {
    let mut build = case("van-strips");
    let junction = build.junctions[0].id.clone();
    let light = build.lights.iter().position(|light| light.feeds[0].from == junction).expect("a light on it");
    let id = build.lights[light].id.clone();
    build.junctions[0].feed.fuse = Some(Fuse::of(FuseStyle::Blade, 30.0));
    build.lights[light].feeds[0].fuse = Some(Fuse::of(FuseStyle::Blade, 3.0));
    assert_eq!(at(&build, &id, 1.0, State::Full).fuse, Some(id.clone()));
    build.lights[light].feeds[0].fuse = None;
    assert_eq!(at(&build, &id, 1.0, State::Full).fuse, Some(junction));
    build.junctions[0].feed.fuse = None;
    let bare = at(&build, &id, 1.0, State::Full);
    assert_eq!((bare.fuse, bare.opens_s, bare.survives), (None, None, false));
    assert!((bare.peak_c - 1083.0).abs() < 1e-9);
}

#[test]
fn a_wire_within_its_ampacity_only_gets_warm() {
    let mut trike = case("trike-arrays");
    let light = trike.lights.iter().position(|light| light.feeds[0].from != "source").expect("a light behind a module");
    let id = trike.lights[light].id.clone();
    trike.lights[light].feeds[0].fuse = None;
    let found = at(&trike, &id, 1.0, State::Full);
    let feed = &trike.lights[light].feeds[0];
    assert!(found.fault_a <= feed.gauge.ampacity_a(feed.bundled), "{} A", found.fault_a);
    let settled = feed.gauge.settled_c(feed.bundled, found.fault_a);
    assert!(found.survives && settled < 80.0 && (found.peak_c - settled).abs() < 1.0, "{} °C of {settled}", found.peak_c);
    assert!(found.warming.iter().all(|warm| warm.temperature_c <= settled + 1e-9));
}

#[test]
fn warming_rises_to_its_peak_in_every_case() {
    for (name, build) in cases() {
        for feed in build.feeds() {
            for pinch in pinch(&build, &feed.id, 0.5).expect("a pinch") {
                let rises = pinch.warming.windows(2).all(|pair| pair[0].time_s < pair[1].time_s && pair[0].temperature_c <= pair[1].temperature_c + 1e-9);
                assert!(rises, "{name} {}", feed.id);
                assert_eq!(pinch.fuse.is_some(), pinch.opens_s.is_some(), "{name} {}", feed.id);
                if pinch.fuse.is_some() {
                    let last = pinch.warming.last().expect("moments");
                    assert!((last.temperature_c - pinch.peak_c).abs() < 1e-6, "{name} {}: {last:?}, {}", feed.id, pinch.peak_c);
                }
            }
        }
    }
}

#[test]
fn what_cannot_be_pinched_is_refused() {
    let build = sample("trike");
    for (feed, share) in [("nowhere", 0.5), ("tail", -0.1), ("tail", 1.5), ("tail", f64::NAN)] {
        let error = pinch(&build, feed, share).expect_err(feed);
        assert!(!error.remedy.is_empty(), "{feed} {share}");
    }
}
