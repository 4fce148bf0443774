//! What comes with a part that is added, and what goes with one that is taken out.

use orthavis_judge::report::report;
use orthavis_model::demo;
use orthavis_model::document::{Battery, Build, Chemistry, ConverterKind, Draw, Led, Link, Load, Source, Tap, VehicleKind, What, library, parse, parse_value};
use orthavis_model::edit::plain_feed;
use orthavis_plan::arrives::arrives;
use orthavis_plan::propose::{LightWish, PrintedBulb, Wish, WishError, add, piece, starter};
use orthavis_plan::remove::{Removal, RemovalError, remove};
use orthavis_testing::case;

fn samples() -> impl Iterator<Item = Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("a sample build"))
}

fn sound(build: &Build) {
    assert_eq!(&parse_value(&build.to_value()).expect("sound"), build);
}

#[test]
fn whatever_is_taken_out_the_rest_is_still_a_build() {
    for build in samples() {
        let mut ways: Vec<Removal> = build.lights.iter().map(|one| Removal::Light(one.id.clone())).collect();
        ways.extend(build.converters.iter().filter(|one| one.kind() != ConverterKind::CurrentDriver).map(|one| Removal::Converter(one.id.clone())));
        ways.extend(build.junctions.iter().map(|one| Removal::Junction(one.id.clone())));
        ways.extend(build.standing.iter().map(|one| Removal::Standing(one.id.clone())));
        ways.extend(build.controllers.iter().map(|one| Removal::Controller(one.id.clone())));
        ways.extend(build.circuits.iter().map(|one| Removal::Circuit(one.id.clone())));
        // The only scene of a build stays.
        ways.extend(build.scenes.iter().filter(|_| build.scenes.len() > 1).map(|one| Removal::Scene(one.id.clone())));
        ways.extend(build.audit.iter().flat_map(|audit| &audit.bulbs).map(|one| Removal::Bulbs(one.id.clone())));
        for way in ways {
            let left = remove(&build, &way).unwrap_or_else(|error| panic!("{}: {way:?}: {error}", build.name));
            sound(&left);
            assert_eq!(remove(&left, &way).map_err(|error| matches!(error, RemovalError::Unknown(_))), Err(true), "{way:?} twice");
        }
    }
}

#[test]
fn what_a_part_fed_falls_back_on_what_fed_it() {
    let mut build = case("trike-arrays");
    let converter = build.converters[0].id.clone();
    let over = build.converters[0].feed.from.clone();
    let left = remove(&build, &Removal::Converter(converter.clone())).expect("left");
    assert!(left.lights.iter().all(|light| light.feeds.iter().all(|feed| feed.from == over)));
    // A block in between goes the same way.
    build.junctions.push(orthavis_model::document::Junction { id: "block".into(), feed: plain_feed(&converter, 0.2, build.lights[0].feeds[0].gauge) });
    build.lights[0].feeds[0].from = "block".into();
    let left = remove(&build, &Removal::Junction("block".into())).expect("left");
    assert_eq!(left.lights[0].feeds[0].from, converter);
}

/// What takes something out by its id.
type TakesOut = fn(String) -> Removal;

/// Ways to add something, with what takes it out again.
fn both_ways(build: &Build) -> Vec<(Wish, TakesOut)> {
    let mut ways: Vec<(Wish, TakesOut)> = vec![(Wish::Standing, Removal::Standing), (Wish::Scene { like: None }, Removal::Scene)];
    let suppliers = build.converters.iter().filter(|one| one.kind() != ConverterKind::CurrentDriver).map(|one| &one.id);
    let suppliers: Vec<String> = ["source".to_owned()].into_iter().chain(suppliers.chain(build.junctions.iter().map(|one| &one.id)).cloned()).collect();
    for from in suppliers {
        ways.push((Wish::Junction { from: from.clone() }, Removal::Junction));
        ways.push((Wish::Leds { colour: "red".into(), count: 3, place: "rear".into(), from: Some(from), length_m: 0.7 }, Removal::Light));
    }
    ways.extend(build.scenes.iter().map(|scene| (Wish::Scene { like: Some(scene.id.clone()) }, Removal::Scene as TakesOut)));
    ways.extend(build.lights.iter().map(|light| (Wish::CopyLight { id: light.id.clone() }, Removal::Light as TakesOut)));
    ways
}

#[test]
fn what_is_added_and_taken_out_again_leaves_the_build_as_it_was() {
    for build in samples() {
        let ids = |build: &Build| -> Vec<String> {
            let others = build.standing.iter().map(|one| &one.id).chain(build.scenes.iter().map(|one| &one.id));
            build.part_ids().chain(others).cloned().collect()
        };
        for (wish, way) in both_ways(&build) {
            let Ok(added) = add(&build, &wish) else { continue };
            sound(&added);
            let before = ids(&build);
            let new: Vec<String> = ids(&added).into_iter().filter(|id| !before.contains(id)).collect();
            assert!(!new.is_empty(), "{}: {wish:?} added nothing", build.name);
            let mut left = added;
            // A light may have brought its own module or driver.
            for id in new.iter().rev() {
                let out = if left.converters.iter().any(|one| one.id == *id) { Removal::Converter(id.clone()) } else { way(id.clone()) };
                left = remove(&left, &out).unwrap_or_else(|error| panic!("{}: {wish:?}, {out:?}: {error}", build.name));
            }
            assert_eq!(left, build, "{}: {wish:?}", build.name);
        }
    }
}

#[test]
fn nothing_of_the_wire_before_a_part_is_lost_with_it() {
    let text = |gauges: [u32; 2], trunk: &str, branch: &str| {
        format!(
            r#"{{ "format": "orthavis.build/1", "name": "cart", "vehicle": {{ "kind": "other", "mass_kg": 1.0 }},
            "source": {{ "kind": "rail", "voltage_v": 12.0, "max_current_a": 5.0 }},
            "junctions": [{{ "id": "block", "feed": {{ "from": "source", "length_m": 1.5, "gauge": {{ "awg": {} }}, {trunk} }} }}],
            "lights": [{{ "id": "lamp", "feeds": [{{ "from": "block", "length_m": 0.3, "gauge": {{ "awg": {} }}, {branch} }}], "load": {{ "kind": "module", "voltage_v": 12.0, "power_w": 3.0, "draw": "resistive" }} }}],
            "scenes": [{{ "id": "on", "lights": {{ "lamp": {{}} }} }}] }}"#,
            gauges[0], gauges[1]
        )
    };
    let fused = r#""fuse": { "style": "blade", "rating_a": 5.0 }, "contacts": 1, "contact_rating_a": 8.0, "slack_m": 0.2, "bundled": 3"#;
    let plain = r#""contacts": 2"#;
    let left = |gauges, trunk: &str, branch: &str| {
        let build = parse(&text(gauges, trunk, branch)).unwrap_or_else(|error| panic!("{error}"));
        let left = remove(&build, &Removal::Junction("block".into())).expect("left");
        // The rules of the document hold, and it can be solved.
        assert_eq!(parse(&left.to_value().to_string()).expect("a build"), left);
        sound(&left);
        left.lights[0].feeds[0].clone()
    };
    let feed = left([16, 22], fused, plain);
    assert_eq!(
        (feed.from.as_str(), feed.length_m, feed.contacts, feed.contact_rating_a, feed.slack_m, feed.bundled),
        ("source", 1.8, 3, Some(8.0), Some(0.2), 3)
    );
    assert_eq!(feed.fuse.as_ref().map(|fuse| fuse.rating_a), Some(5.0), "the fuse at the source stays");
    assert!((feed.gauge.area_mm2() - 0.326).abs() < 0.01, "the thinner of the two counts: {:?}", feed.gauge);
    let feed = left([24, 18], plain, fused);
    assert!((feed.gauge.area_mm2() - 0.205).abs() < 0.01, "{:?}", feed.gauge);
    assert_eq!((feed.length_m, feed.contacts, feed.fuse.map(|fuse| fuse.rating_a)), (1.8, 3, Some(5.0)));
}

#[test]
fn a_driver_leaves_with_the_light_it_drove_and_the_light_leaves_its_scenes() {
    let build = case("boost-and-driver");
    let driver = build.converters.iter().find(|one| one.kind() == ConverterKind::CurrentDriver).expect("a driver").id.clone();
    let driven = build.lights.iter().find(|light| light.feeds[0].from == driver).expect("its light").id.clone();
    let left = remove(&build, &Removal::Light(driven.clone())).expect("left");
    assert!(left.converters.iter().all(|one| one.id != driver));
    assert_eq!(left.converters.len(), build.converters.len() - 1);
    assert!(left.scenes.iter().all(|scene| !scene.lights.contains_key(&driven)));
    sound(&left);
}

#[test]
fn the_last_scene_stays() {
    let build = starter("one", VehicleKind::Bicycle, None, Chemistry::LiIon, 10, 14.0);
    assert_eq!(remove(&build, &Removal::Scene("ride".into())), Err(RemovalError::LastScene("ride".into())));
    let two = add(&build, &Wish::Scene { like: Some("ride".into()) }).expect("two scenes");
    assert_eq!((two.scenes.len(), two.usage.minutes.len()), (2, 2));
    let one = remove(&two, &Removal::Scene("ride".into())).expect("one left");
    assert_eq!((one.scenes.len(), one.usage.minutes.contains_key("ride")), (1, false));
    assert_eq!(add(&build, &Wish::Scene { like: Some("nowhere".into()) }), Err(WishError::UnknownScene("nowhere".into())));
}

#[test]
fn a_form_brings_its_mass_and_a_chemistry_its_rating() {
    let glider = starter("g", VehicleKind::RcModel, Some("glider"), Chemistry::Lipo, 1, 0.3);
    assert_eq!((glider.vehicle.mass_kg, glider.vehicle.variant.as_deref()), (0.25, Some("glider")));
    let Source::Battery(lead) = starter("w", VehicleKind::Wheelchair, None, Chemistry::LeadAgm, 12, 36.0).source else { panic!("a battery") };
    assert_eq!(lead.rated_hours, 20.0);
    sound(&glider);
}

#[test]
fn another_pack_is_tapped_and_used_as_the_one_before() {
    let mut build = case("trike-arrays");
    let Source::Battery(old) = &mut build.source else { panic!("a battery") };
    (old.tap, old.tap_limit_a, old.used_while_charging) = (Tap::Accessory, Some(2.0), true);
    let pack = library::library().iter().find_map(|part| if let What::Battery { battery } = &part.what { Some(battery.clone()) } else { None });
    let pack: Battery = pack.expect("a pack in the library");
    let changed = add(
        &build,
        &Wish::Pack { part: Box::new(orthavis_model::document::Part { what: What::Battery { battery: pack.clone() }, ..library::library()[0].clone() }) },
    )
    .expect("changed");
    let Source::Battery(now) = &changed.source else { panic!("a battery") };
    assert_eq!(*now, Battery { tap: Tap::Accessory, tap_limit_a: Some(2.0), used_while_charging: true, ..pack });
    let rail = add(&changed, &Wish::Rail).expect("a rail");
    assert!(matches!(rail.source, Source::Rail(_)));
    sound(&rail);
}

#[test]
fn a_bulb_by_what_is_printed_on_it_travels_with_the_build() {
    let build = starter("van", VehicleKind::Rv, None, Chemistry::Lifepo4, 4, 100.0);
    let old = PrintedBulb { draw: Draw::Filament, holder: " BA 15s ".into(), volts: 12.0, watts: 10.0, lumens: 120.0, colour_k: 2700.0 };
    let once = add(&build, &Wish::OwnBulb(old.clone())).expect("kept");
    let part = &once.parts[0];
    let What::Bulb { load: Load::Module(module), holder, .. } = &part.what else { panic!("a bulb") };
    assert_eq!((holder.as_str(), module.max_v), ("BA 15s", 15.0));
    // An old one is there; a new one may replace it, and is not counted.
    assert_eq!(once.audit.as_ref().expect("an audit").bulbs[0].part, part.id);
    let new = add(&once, &Wish::OwnBulb(PrintedBulb { draw: Draw::ConstantPower, ..old.clone() })).expect("kept");
    assert_eq!((new.parts.len(), new.audit.as_ref().expect("an audit").bulbs.len()), (2, 1));
    // The same again gets a name of its own.
    let again = add(&once, &Wish::OwnBulb(old)).expect("kept");
    assert_ne!(again.parts[0].id, again.parts[1].id);
    sound(&new);
    sound(&again);
}

#[test]
fn small_things_get_names_of_their_own() {
    let mut build = starter("many", VehicleKind::Rv, None, Chemistry::Lifepo4, 4, 100.0);
    for _ in 0..3 {
        build = add(&build, &Wish::Standing).expect("a load");
        build = add(&build, &Wish::Junction { from: "source".into() }).expect("a block");
    }
    build = add(&build, &Wish::Leds { colour: "red".into(), count: 3, place: "rear".into(), from: None, length_m: 1.0 }).expect("a light");
    assert_eq!(build.standing.iter().map(|one| one.id.as_str()).collect::<Vec<_>>(), ["alarm", "alarm-2", "alarm-3"]);
    assert_eq!(build.junctions.iter().map(|one| one.id.as_str()).collect::<Vec<_>>(), ["block", "block-2", "block-3"]);
    sound(&build);
    assert_eq!(add(&build, &Wish::Junction { from: "nowhere".into() }), Err(WishError::UnknownSupplier("nowhere".into())));
    assert_eq!(add(&build, &Wish::Bulbs { part: "strip-12v-white-48".into() }), Err(WishError::UnknownBulb("strip-12v-white-48".into())));
}

#[test]
fn a_new_controller_numbers_all_pixels_that_have_none() {
    let mut build = case("deck-pixels");
    let first = add(&build, &Wish::Controller { from: "five".into() }).expect("a controller");
    sound(&first);
    let own = &first.controllers[0];
    let lights: Vec<&String> = own.outputs.iter().flat_map(|output| output.links()).flat_map(|link| link.lights()).collect();
    assert_eq!(lights, ["left-rail", "right-rail"]);
    assert!(own.min_in_v <= 5.0 && own.max_in_v >= 5.0, "a bare board on five volts");
    let second = add(&first, &Wish::Controller { from: "source".into() }).expect("a controller");
    sound(&second);
    assert!(second.controllers[1].outputs.is_empty(), "no piece is on two chains");
    assert!(second.controllers[1].max_in_v > 30.0, "on seven cells it has a regulator of its own");
    // A piece that is taken out leaves its chain, and an output without pieces goes with the last.
    let one = remove(&first, &Removal::Light("left-rail".into())).expect("gone");
    sound(&one);
    assert_eq!(one.controllers[0].outputs[0].links().len(), 1);
    let none = remove(&one, &Removal::Light("right-rail".into())).expect("gone");
    sound(&none);
    assert!(none.controllers[0].outputs.is_empty());
    // Copies stand together; the last of them goes with its link.
    build = first;
    build.controllers[0].outputs[0].data_mut().expect("data").chain =
        vec![Link { light: None, copies: Some(vec!["left-rail".into(), "right-rail".into()]), mounted: None, wire_m: 0.2 }];
    sound(&build);
    let left = remove(&build, &Removal::Light("left-rail".into())).expect("gone");
    sound(&left);
    assert_eq!(left.controllers[0].outputs[0].links()[0].copies.as_deref(), Some(&["right-rail".to_owned()][..]));
}

/// As many as were asked for, in the rows there are: never one more without a word.
#[test]
fn a_number_of_leds_is_that_number() {
    let build = case("trike-arrays");
    for count in 1..=13u32 {
        let wish = Wish::Leds { colour: "red".into(), count, place: "front".into(), from: Some("twelve".into()), length_m: 0.8 };
        let with = add(&build, &wish).expect("added");
        let leds = |build: &Build| -> u32 {
            build.lights.iter().map(|light| if let Load::LedArray(array) = &light.load { array.series * array.parallel } else { 0 }).sum()
        };
        assert_eq!(leds(&with) - leds(&build), count);
        assert_eq!(parse_value(&with.to_value()).expect("sound"), with);
    }
}

/// Sixty to the metre are sixty on a metre, however the distance between them was rounded.
#[test]
fn pixels_by_the_metre_are_counted() {
    for (pitch_m, per_metre) in [(0.0333, 30u32), (0.0167, 60), (1.0 / 60.0, 60), (0.00694, 144), (0.1, 10)] {
        for (metres, share) in [(1.0, 1.0), (0.5, 0.5), (2.5, 2.5)] {
            let mut pixels = usual_pixels();
            pixels.pitch_m = pitch_m;
            let LightWish::Load { load, .. } = piece(Load::Pixels(pixels), None, Some(metres), "white".into(), 0.0) else { panic!("a load") };
            let Load::Pixels(cut) = *load else { panic!("pixels") };
            assert_eq!(cut.count, (f64::from(per_metre) * share) as u32, "{per_metre}/m on {metres} m");
        }
    }
}

fn usual_pixels() -> orthavis_model::document::Pixels {
    let build = case("deck-pixels");
    build.lights.iter().find_map(|light| if let Load::Pixels(pixels) = &light.load { Some(pixels.clone()) } else { None }).expect("pixels")
}

/// A chip of thirty volts on three lithium cells: a step-up before its driver comes with it, and what it takes is said.
#[test]
fn a_chip_of_more_volts_than_there_are_gets_a_step_up_and_a_driver() {
    let build = starter("pack", VehicleKind::Bicycle, None, Chemistry::LiIon, 3, 10.0);
    let led = Led { colour: "white".into(), vf_v: 30.0, if_a: 0.35, if_max_a: 0.5, n: None, rs_ohm: None };
    let part = Box::new(orthavis_model::document::Part { what: What::Led { led }, ..library::library()[0].clone() });
    let wish = Wish::Light { part, count: Some(1), piece_m: None, place: "front".into(), from: None, length_m: 0.5 };
    let after = add(&build, &wish).expect("added");
    let kinds: Vec<ConverterKind> = after.converters.iter().map(|module| module.kind()).collect();
    assert_eq!(kinds, [ConverterKind::Boost, ConverterKind::CurrentDriver]);
    let said = arrives(&build, &after);
    // Ten and a half watts and what two modules lose, from some nine volts.
    let amps = said.source_a.expect("it can be solved");
    assert!(amps > 8.0 / 9.0 && amps < 2.0, "{amps} A");
    assert!(said.parts.iter().any(|line| line.contains("step-up on the battery")), "{:?}", said.parts);
    let lit = report(&after).expect("a report");
    assert!(lit.points.iter().all(|point| point.lights["front"].output > 0.5), "it shines");
}

/// Five are five, whatever the rows, and what comes with them is said.
#[test]
fn what_comes_with_a_light_is_said_before_it_is_taken() {
    let build = starter("pack", VehicleKind::Bicycle, None, Chemistry::LiIon, 3, 10.0);
    for count in 1..=9u32 {
        let wish = Wish::Leds { colour: "white".into(), count, place: "rear".into(), from: None, length_m: 0.5 };
        let after = add(&build, &wish).expect("added");
        let leds: u32 = after.lights.iter().map(|light| if let Load::LedArray(array) = &light.load { array.series * array.parallel } else { 0 }).sum();
        assert_eq!(leds, count);
        let said = arrives(&build, &after);
        assert_eq!(said.parts.len(), after.lights.len() + after.converters.len(), "{:?}", said.parts);
        assert!(said.eur > 0.0 && said.minutes > 0.0 && said.grams > 0.0, "{said:?}");
        assert!(said.source_a.expect("it can be solved") > 0.003, "{said:?}");
    }
    assert_eq!(arrives(&build, &build).parts, Vec::<String>::new());
}

/// A strip for more volts than there are: cutting it again stands beside the modules that lift the volts.
#[test]
fn a_strip_on_a_low_rail_is_cut_again_or_lifted() {
    let mut build = starter("pack", VehicleKind::Drone, None, Chemistry::LiIon, 2, 2.0);
    build = add(&build, &Wish::Rail).expect("a rail");
    let part = library::library().iter().find(|part| matches!(&part.what, What::Light { load: Load::Strip(strip), .. } if strip.voltage_v == 12.0));
    let part = Box::new(part.expect("a strip").clone());
    let wish = Wish::Light { part, count: None, piece_m: Some(0.3), place: "belly".into(), from: Some("source".into()), length_m: 0.2 };
    build = add(&build, &wish).expect("added");
    let choices = orthavis_plan::choose::supply::for_light(&build, &build.lights[0].id).expect("choices");
    let works = |choice: &&orthavis_plan::choose::Choice| choice.works;
    let titles: Vec<&str> = choices.iter().filter(works).map(|choice| choice.title.as_str()).collect();
    assert!(titles.iter().any(|title| title.contains("tep-up")) && titles.iter().any(|title| title.starts_with("Cut it again")), "{titles:?}");
}
