//! Parts against figures worked out by hand, and networks small enough to solve on paper.

use orthavis_core::document::{Build, Chemistry, Fuse, FuseStyle, Gauge, Source, parse_value};
use orthavis_core::endurance::Ends;
use orthavis_core::network::{Network, Point, SolveError};
use orthavis_core::propose::{Wish, WishError, add, starter, usual_led};
use orthavis_core::report::{Report, report};
use orthavis_core::states::State;
use orthavis_testing::{case, changed};
use serde_json::{Value, json};

fn close(got: f64, want: f64, what: &str) {
    assert!((got - want).abs() <= 1e-4 * want.abs() + 1e-9, "{what}: {got}, expected {want}");
}

#[test]
fn wires_by_the_book() {
    // ASTM B258: 20 AWG is 0.8118 mm across and 0.5176 mm²; 1.724e-8 ohm·m over 1 m of it.
    close(Gauge::Awg(36).area_mm2(), 0.012668, "36 AWG");
    close(Gauge::Awg(20).ohm(1.0), 0.033306, "20 AWG, 1 m");
    for (gauge, bundled, amps) in [
        (Gauge::Awg(20), 1, 10.0),
        (Gauge::Awg(20), 2, 7.0),
        (Gauge::Awg(20), 6, 6.0),
        (Gauge::Awg(20), 7, 5.0),
        (Gauge::Awg(21), 1, 6.0),
        (Gauge::Awg(4), 1, 100.0),
        // 0.5 mm² is thinner than 20 AWG, 6 mm² thicker than 10 AWG.
        (Gauge::Mm2(0.5), 1, 6.0),
        (Gauge::Mm2(6.0), 1, 50.0),
    ] {
        close(gauge.ampacity_a(bundled), amps, &gauge.name());
    }
    assert!(Gauge::Awg(34).ampacity_a(1) < 0.5, "thinner than the table carries less than its thinnest");
    let fault = uom::si::f64::ElectricCurrent::new::<uom::si::electric_current::ampere>(115.0);
    close(Gauge::Mm2(1.0).withstand(fault).get::<uom::si::time::second>(), 1.0, "1 mm² stands 115 A for 1 s");
}

#[test]
fn fuses_open_by_their_limits() {
    let fuse = Fuse::of(FuseStyle::Blade, 10.0);
    for (amps, seconds) in [(13.4, None), (13.5, Some(600.0)), (20.0, Some(5.0)), (35.0, Some(0.5)), (60.0, Some(0.1)), (600.0, Some(0.001))] {
        match (fuse.opens_s(amps), seconds) {
            (Some([_, got]), Some(want)) => close(got, want, &format!("{amps} A")),
            (got, want) => assert_eq!(got.is_some(), want.is_some(), "{amps} A"),
        }
    }
    // Half way on log–log paper between 2x 5 s and 3.5x 0.5 s.
    close(fuse.opens_s(10.0 * (2.0f64 * 3.5).sqrt()).expect("it opens")[1], (5.0f64 * 0.5).sqrt(), "between");
    close(fuse.cold_ohm(), 0.009, "cold");
    assert_eq!(FuseStyle::Blade.smallest_for(1.6), Some(2.0));
    assert_eq!(FuseStyle::Glass.smallest_for(20.0), None);
}

#[test]
fn batteries_by_their_table() {
    let build = starter("pack", orthavis_core::document::VehicleKind::Bicycle, None, Chemistry::LiIon, 10, 14.0);
    let Source::Battery(pack) = &build.source else { panic!("a battery") };
    for (soc, volts) in [(1.0, 42.0), (0.5, 37.2), (0.25, 36.05), (0.0, 30.0), (-1.0, 30.0), (2.0, 42.0)] {
        close(pack.emf_v(soc), volts, &format!("at {soc}"));
    }
    close(pack.pack_ohm(), 10.0 * 0.110 / 14.0, "resistance");
    close(pack.peukert_factor(1.0), 1.0, "below its rated current");
    close(pack.peukert_factor(28.0), 10f64.powf(0.03), "ten times its rated current");
    assert_eq!(build.states(), [State::Full, State::Half, State::Reserve]);
    let primary = starter("cells", orthavis_core::document::VehicleKind::Other, None, Chemistry::Alkaline, 4, 2.0);
    let Source::Battery(mut cells) = primary.source.clone() else { panic!("a battery") };
    cells.used_while_charging = true;
    assert!(!Source::Battery(cells).states().contains(&State::Charging), "a primary cell is never charged");
}

/// One rail, one resistive lamp and its wires: a voltage divider.
fn lamp(changes: Value) -> Build {
    let feed = json!({ "from": "source", "length_m": 1.0, "gauge": { "mm2": 0.5 } });
    let build = parse_value(&json!({
        "format": "orthavis.build/1", "name": "lamp", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": 12.0, "resistance_ohm": 0.1, "max_current_a": 100.0 },
        "lights": [{ "id": "lamp", "feeds": [feed], "load": { "kind": "module", "draw": "resistive", "voltage_v": 12.0, "power_w": 12.0, "max_v": 30.0 } }],
        "scenes": [{ "id": "on", "lights": { "lamp": {} } }],
    }))
    .expect("a sound document");
    changed(&build, &changes)
}

fn collapsing(build: &Build) -> Vec<orthavis_core::points::PointError> {
    orthavis_core::points::solved(build, &[]).expect("a network").collapsed
}

fn solved(build: &Build) -> Report {
    report(build).unwrap_or_else(|error| panic!("{}: {error}", build.name))
}

#[test]
fn a_divider_on_paper() {
    let wire = 1.724e-8 / 0.5e-6;
    let amps = 12.0 / (12.0 + 0.1 + 2.0 * wire);
    let report = solved(&lamp(json!([])));
    let point = &report.points[0];
    close(point.source.current_a, amps, "current");
    close(point.lights["lamp"].voltage_v, 12.0 * amps, "voltage at the lamp");
    close(point.feeds["lamp"].drop_v, 2.0 * wire * amps, "drop");
    close(point.lights["lamp"].output, amps, "output");
    // The measured frame takes the place of one wire.
    let frame =
        json!([{ "op": "add", "path": "/vehicle/frame_return_ohm", "value": 0.5 }, { "op": "add", "path": "/lights/0/feeds/0/return", "value": "frame" }]);
    close(solved(&lamp(frame)).points[0].source.current_a, 12.0 / (12.0 + 0.1 + wire + 0.5), "through the frame");
    // Plugs, a switch and a fuse sit on the positive side.
    let parts = json!([{ "op": "add", "path": "/lights/0/feeds/0/contacts", "value": 3 }, { "op": "add", "path": "/lights/0/feeds/0/switch", "value": { "rating_a": 5 } },
        { "op": "add", "path": "/lights/0/feeds/0/fuse", "value": { "style": "blade", "rating_a": 3 } }]);
    close(solved(&lamp(parts)).points[0].source.current_a, 12.0 / (12.1 + 2.0 * wire + 0.03 + 0.01 + 0.03), "with its parts");
}

#[test]
fn lamps_follow_their_laws() {
    let at_half = |draw: &str| {
        let changes = json!([{ "op": "replace", "path": "/lights/0/load/draw", "value": draw }, { "op": "replace", "path": "/lights/0/load/voltage_v", "value": 24.0 },
            { "op": "replace", "path": "/source/resistance_ohm", "value": 0.0 }, { "op": "replace", "path": "/lights/0/feeds/0/length_m", "value": 0.0 }]);
        let light = solved(&lamp(changes)).points[0].lights["lamp"].clone();
        (light.current_a, light.output)
    };
    for (draw, amps, output) in
        [("constant_power", 1.0, 1.0), ("constant_current", 0.5, 1.0), ("resistive", 0.25, 0.5), ("filament", 0.5 * 0.5f64.powf(0.55), 0.5f64.powf(3.4))]
    {
        let (current, light) = at_half(draw);
        close(current, amps, draw);
        close(light, output, draw);
    }
}

#[test]
fn converters_at_their_edges() {
    // In drop-out a step-down follows its input; a pass-through step-up likewise.
    let buck = changed(
        &case("trike-arrays"),
        &json!([{ "op": "replace", "path": "/source/series", "value": 3 }, { "op": "replace", "path": "/converters/0/min_in_v", "value": 5 }]),
    );
    let point = &solved(&buck).points[2];
    let twelve = &point.converters["twelve"];
    close(twelve.out_v, twelve.in_v - 1.0, "drop-out");
    let boost = changed(&case("boost-and-driver"), &json!([{ "op": "replace", "path": "/source/series", "value": 7 }]));
    let lift = &solved(&boost).points[0].converters["lift"];
    close(lift.out_v, lift.in_v - 0.4, "pass-through");
    // A driver holds its current until its output meets the input, then the string takes what is left.
    let driver = changed(&case("boost-and-driver"), &json!([{ "op": "replace", "path": "/lights/1/load/series", "value": 4 }]));
    let drv = &solved(&driver).points[2].converters["drv"];
    close(drv.out_v, drv.in_v - 1.2, "driver in drop-out");
    assert!(drv.out_a < 0.35, "{} A", drv.out_a);
    // Off below its input: no output, no input current.
    let off = changed(&case("trike-arrays"), &json!([{ "op": "replace", "path": "/converters/0/min_in_v", "value": 50 }]));
    let twelve = &solved(&off).points[0].converters["twelve"];
    assert_eq!((twelve.on, twelve.in_a), (false, 0.0));
    assert!(twelve.out_v.abs() < 1e-6 && twelve.out_a.abs() < 1e-6, "{} V, {} A", twelve.out_v, twelve.out_a);
}

#[test]
fn what_has_no_steady_state_is_a_stop_that_names_the_part() {
    // On, the long thin wire pulls its input below the limit; off, it recovers.
    let hunting = json!([{ "op": "replace", "path": "/converters/0/feed", "value": { "from": "source", "length_m": 60.0, "gauge": { "awg": 30 } } },
        { "op": "replace", "path": "/converters/0/min_in_v", "value": 35.0 }]);
    let weak = json!([{ "op": "replace", "path": "/source/resistance_ohm", "value": 8.0 }, { "op": "replace", "path": "/lights/0/load/draw", "value": "constant_power" },
        { "op": "replace", "path": "/lights/0/load/power_w", "value": 40.0 }]);
    for (build, place) in [(changed(&case("trike-arrays"), &hunting), "twelve"), (lamp(weak), "lamp")] {
        let collapsed = collapsing(&build);
        let error = collapsed.first().unwrap_or_else(|| panic!("{place}: expected no steady state"));
        assert!(matches!(&error.error, SolveError::Hunting { place: here, .. } if here == place), "{error}");
        assert!(error.to_string().contains(&error.scene), "{error}");
        let report = report(&build).expect("what can be solved is shown");
        let finding = report.findings.iter().find(|finding| finding.code == "source.collapses").expect("the rest is a stop");
        assert!(finding.title.contains(place) && finding.message.contains("asks"), "{}: {}", finding.title, finding.message);
        assert!((0.0..1.0).contains(&finding.value) && finding.scene.is_some() && finding.state.is_some(), "{finding:?}");
        assert!(!finding.remedies.is_empty(), "{place}: nothing clears it");
        assert_eq!(report.points.len() + collapsed.len(), build.scenes.len() * build.states().len(), "every point is shown or named");
    }
}

/// Between two states of charge a module may start and give way again without end: what flickers is not counted as light.
#[test]
fn light_ends_where_its_module_begins_to_hunt() {
    for (length, least) in [(8.0, 36.5), (20.0, 36.2), (40.0, 36.9)] {
        let thin = json!([{ "op": "replace", "path": "/converters/0/feed", "value": { "from": "source", "length_m": length, "gauge": { "awg": 26 } } },
            { "op": "replace", "path": "/converters/0/min_in_v", "value": least }]);
        let build = changed(&case("trike-arrays"), &thin);
        let Source::Battery(pack) = &build.source else { panic!("a battery") };
        let mut network = Network::new(&build).expect("a network");
        let scene = &build.scenes[0];
        let mut runs = |soc: f64| {
            let point = Point { emf_v: pack.emf_v(soc), source_ohm: pack.pack_ohm(), standing_a: build.standing_a(), lights: build.lit(scene) };
            network.solve(&point, None).is_ok_and(|solution| network.output(&solution, 0, &point.lights[0]) > 0.5)
        };
        let first_dark = (0..=1000).map(|step| 1.0 - f64::from(step) / 1000.0).find(|soc| !runs(*soc)).expect("it gives way");
        let endurance = &solved(&build).endurance[0];
        let ends = 1.0 - endurance.ah.expect("something is drawn") / pack.capacity_ah;
        assert_eq!(endurance.ends, Ends::Dark, "{length} m");
        assert!((ends - first_dark).abs() < 0.01, "{length} m: lit down to {ends}, steady down to {first_dark}");
    }
}

/// A step-up that cannot hold its input, with another one behind it that has nothing on it.
#[test]
fn a_chain_that_cannot_hold_its_input_names_the_first_part_at_fault() {
    let feed = |from: &str, length: f64| json!({ "from": from, "length_m": length, "gauge": { "awg": 20 } });
    let boost = |id: &str, from: &str, set_v: f64| json!({ "id": id, "feed": feed(from, 0.4), "kind": "boost", "set_v": set_v, "min_in_v": 6.0, "max_in_v": 60.0, "max_out_a": 10.0, "efficiency": 0.85, "idle_a": 0.004 });
    let strip = |watts: f64| json!({ "kind": "strip", "voltage_v": 12.0, "power_w_per_m": watts, "segment_m": 0.05, "leds_per_segment": 3, "led_vf_v": 3.1, "rail_ohm_per_m": 0.08, "length_m": 1.9 });
    let build = |watts: f64| {
        parse_value(&json!({
            "format": "orthavis.build/1", "name": "chain", "vehicle": { "kind": "other", "mass_kg": 1.0 },
            "source": { "kind": "battery", "chemistry": "li_ion", "series": 2, "capacity_ah": 22.0, "max_current_a": 100.0 },
            "converters": [boost("main", "source", 22.0), boost("lift", "main", 14.0)],
            "lights": [{ "id": "strip", "feeds": [feed("main", 2.7)], "load": strip(watts) }],
            "scenes": [{ "id": "on", "lights": { "strip": {} } }],
        }))
        .expect("a sound document")
    };
    assert!(collapsing(&build(2.0)).is_empty(), "a light load is carried");
    let collapsed = collapsing(&build(20.0));
    assert!(collapsed.iter().all(|error| matches!(&error.error, SolveError::Hunting { place, .. } if place == "main")), "{collapsed:?}");
    assert!(!collapsed.is_empty() && collapsed.iter().all(|error| error.state != State::Full), "a full battery holds it: {collapsed:?}");
}

#[test]
fn long_strings_of_pixels_are_solved() {
    for count in [300, 1000] {
        let share = 45.0 / f64::from(count);
        let pixels = json!({ "kind": "pixels", "voltage_v": 5.0, "channel_a": [0.012 * share, 0.012 * share, 0.012 * share], "idle_a": 0.0008 * share, "pitch_m": 0.0333333 * share,
            "rail_ohm_per_m": 0.06, "regulation_v": [2.6, 3.6, 3.6], "off_v": [1.7, 2.6, 2.6], "count": count });
        let build = changed(
            &case("deck-pixels"),
            &json!([{ "op": "replace", "path": "/lights/0/load", "value": pixels }, { "op": "replace", "path": "/scenes/1/lights", "value": {} }]),
        );
        // Many small pixels on the same length of strip are the same load as few large ones.
        let light = &solved(&build).points[0].lights["left-rail"];
        close(light.current_a, 1.656, "current");
        assert!((light.lowest_v - 4.807).abs() < 0.01, "{} V", light.lowest_v);
    }
}

#[test]
fn endurance_ends_in_the_dark_where_the_light_goes_first() {
    // Twenty-two red LEDs straight on the pack have too little left well before the reserve.
    let changes = json!([{ "op": "replace", "path": "/lights/1/feeds/0/from", "value": "source" }, { "op": "replace", "path": "/lights/1/load/series", "value": 22 },
        { "op": "replace", "path": "/scenes/0/lights", "value": { "tail": {} } }]);
    let report = solved(&changed(&case("trike-arrays"), &changes));
    assert_eq!(report.endurance[0].ends, Ends::Dark);
    assert_eq!(report.endurance[1].ends, Ends::Dark);
    let dark = changed(
        &case("trike-arrays"),
        &json!([{ "op": "replace", "path": "/converters/0/idle_a", "value": 0 }, { "op": "replace", "path": "/scenes/0/lights", "value": {} }]),
    );
    let nothing = &solved(&dark).endurance[0];
    assert_eq!((nothing.hours, nothing.ends), (None, Ends::Reserve));
}

#[test]
fn added_parts_have_figures_that_work() {
    let empty = starter("new", orthavis_core::document::VehicleKind::Bicycle, None, Chemistry::LiIon, 10, 14.0);
    let leds = |colour: &str, count: u32, from: &str| Wish::Leds { colour: colour.into(), count, place: "rear".into(), from: Some(from.into()), length_m: 1.0 };
    let build = add(&empty, &Wish::StepDown { set_v: 12.0 }).expect("added");
    let build = add(&build, &leds("white", 18, "step-down-12v")).expect("added");
    let build = add(&build, &leds("red", 12, "step-down-12v")).expect("added");
    let report = solved(&build);
    let codes: Vec<_> = report.findings.iter().map(|f| f.code).collect();
    assert_eq!(codes, ["fuse.missing"], "only the fuse is left to the person");
    for light in report.points[0].lights.values() {
        assert!((0.6..0.8).contains(&light.output), "three quarters of rated, got {}", light.output);
    }
    assert_eq!(build.lights[1].id, "rear-2", "ids stay unique");
    assert!(matches!(usual_led("beige"), Err(WishError::UnknownColour(_))));
    assert!(matches!(add(&build, &leds("red", 1, "moon")), Err(WishError::UnknownSupplier(_))));
    let low = starter("low", orthavis_core::document::VehicleKind::Other, None, Chemistry::Alkaline, 1, 2.0);
    assert!(matches!(add(&low, &leds("white", 1, "source")), Err(WishError::SupplyTooLow { .. })));
}

#[test]
fn endurance_takes_few_solves() {
    for name in ["trike-arrays", "van-strips", "deck-pixels", "chair-24v", "boost-and-driver"] {
        let build = case(name);
        let mut network = orthavis_core::network::Network::new(&build).expect("a network");
        let all = orthavis_core::endurance::endurance(&build, &mut network, &[]);
        // A solve is one step at least, so this bounds the solves too.
        assert!(network.steps() < 40 * all.len(), "{name}: {} steps for {} scenes", network.steps(), all.len());
    }
}

#[test]
fn measured_voltages_say_how_full_it_is() {
    use orthavis_core::sheet::measured;
    let build = starter("pack", orthavis_core::document::VehicleKind::Rv, None, Chemistry::Lifepo4, 4, 100.0);
    let Source::Battery(pack) = &build.source else { panic!("a battery") };
    for step in 0..=20 {
        let soc = 0.05 * f64::from(step);
        close(pack.soc_at(pack.emf_v(soc)), soc, "there and back");
    }
    assert!(measured(pack, 13.04).words.contains("give or take"), "a flat curve says little");
    assert!(measured(pack, 9.0).words.contains("do not charge"), "too low");
}

#[test]
fn cautions_follow_the_vehicle_and_its_parts() {
    use orthavis_core::cautions::{Step, cautions};
    let titles = |build: &Build| -> Vec<&str> { cautions(build).into_iter().map(|c| c.title).collect() };
    let chair = case("chair-24v");
    assert!(titles(&chair).contains(&"A medical device") && titles(&chair).contains(&"Lead battery"));
    let boost = case("boost-and-driver");
    assert!(titles(&boost).contains(&"A step-up does not protect") && titles(&boost).contains(&"Eyes and fingers"));
    let mut blinking = case("trike-arrays");
    blinking.scenes[0].lights.values_mut().for_each(|lit| lit.duty = 0.5);
    assert!(titles(&blinking).contains(&"Blinking light"));
    let steps: Vec<Step> = cautions(&boost).iter().map(|c| c.step).collect();
    assert!(steps.is_sorted(), "in the order of the job");
}

#[test]
fn parts_find_a_supply_that_fits() {
    use orthavis_core::parts::find;
    let wish = |id: &str, piece_m: Option<f64>| {
        let part = Box::new(find(id).expect(id).clone());
        let count = matches!(part.what, orthavis_core::document::What::Led { .. }).then_some(3);
        Wish::Light { part, count, piece_m, place: "frame".into(), from: None, length_m: 0.6 }
    };
    for (chemistry, series, id, expect) in [
        (Chemistry::LiIon, 10, "strip-12v-white-48", "step-down-12v"),
        (Chemistry::LiIon, 2, "strip-12v-white-48", "step-up-12v"),
        (Chemistry::LeadAgm, 6, "strip-12v-white-48", "source"),
        (Chemistry::LeadAgm, 12, "marker-24v-red", "source"),
        (Chemistry::Lipo, 3, "pixel-5v-60", "step-down-5v"),
        (Chemistry::LiIon, 10, "emitter-1w-white", "driver-262ma"),
    ] {
        let empty = starter("new", orthavis_core::document::VehicleKind::Other, None, chemistry, series, 10.0);
        let built = add(&empty, &wish(id, Some(0.5))).expect(id);
        assert_eq!(built.lights[0].feeds[0].from, expect, "{id} on {series} cells");
        let stops: Vec<_> = solved(&built).findings.iter().map(|f| f.code).filter(|code| !code.starts_with("fuse.")).collect();
        assert!(stops.iter().all(|code| ["wire.drop", "led.uneven", "source.no_cutoff"].contains(code)), "{id} on {series} cells: {stops:?}");
        let copied = add(&built, &Wish::CopyLight { id: "frame".into() }).expect("a copy");
        assert_eq!(copied.lights[1].id, "frame-2");
        assert!(report(&copied).is_ok());
    }
}
