//! What single rules of making say, case by case.

use orthavis_make::calendar::calendar;
use orthavis_make::cuts::{JOINT_M, cuts};
use orthavis_make::diagram::{BoxKind, SymbolKind, diagram};
use orthavis_make::labels::{LabelKind, labels};
use orthavis_make::packing::pack;
use orthavis_make::parts::{Group, parts};
use orthavis_make::schedule::{Standing, plan};
use orthavis_make::steps::{Phase, Step, steps};
use orthavis_model::document::{Build, What, parse_value};
use orthavis_model::parts::library;
use orthavis_testing::{case, changed};
use serde_json::{Value, json};
use std::collections::BTreeMap;

fn feed(from: &str, length_m: f64) -> Value {
    json!({ "from": from, "length_m": length_m, "gauge": { "awg": 20 } })
}

fn build(lights: &Value, more: &Value) -> Build {
    let mut document = json!({
        "format": "orthavis.build/1", "name": "Rules", "vehicle": { "kind": "bicycle", "mass_kg": 20.0 },
        "source": { "kind": "battery", "chemistry": "lifepo4", "series": 4, "capacity_ah": 10.0, "max_current_a": 30.0 },
        "lights": lights, "scenes": [{ "id": "on", "lights": {} }],
    });
    for (key, value) in more.as_object().expect("an object") {
        document[key] = value.clone();
    }
    parse_value(&document).expect("a sound document")
}

fn array(series: u32, parallel: u32) -> Value {
    json!({ "kind": "led_array", "led": { "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 }, "series": series, "parallel": parallel,
        "resistor_ohm": 330.0, "resistor_w": 0.25 })
}

fn strip(length_m: f64) -> Value {
    json!({ "kind": "strip", "voltage_v": 12.0, "power_w_per_m": 9.6, "segment_m": 0.05, "leds_per_segment": 3, "led_vf_v": 3.1, "rail_ohm_per_m": 0.06,
        "length_m": length_m })
}

fn pixels(count: u32) -> Value {
    json!({ "kind": "pixels", "voltage_v": 12.0, "channel_a": [0.012, 0.012, 0.012], "pitch_m": 0.0333333, "rail_ohm_per_m": 0.06,
        "regulation_v": [2.6, 3.6, 3.6], "off_v": [1.7, 2.6, 2.6], "count": count })
}

fn module() -> Value {
    json!({ "kind": "module", "draw": "constant_power", "voltage_v": 12.0, "power_w": 3.0, "min_v": 9.0, "max_v": 30.0 })
}

fn one(load: &Value, feed: &Value) -> Build {
    build(&json!([{ "id": "lamp", "place": "frame", "feeds": [feed], "load": load }]), &json!({}))
}

fn ids(all: &[Step]) -> Vec<&str> {
    all.iter().map(|step| step.id.as_str()).collect()
}

#[test]
fn each_kind_of_light_brings_its_own_steps() {
    let table: Vec<(Value, &[&str], &[&str])> = vec![
        (array(3, 2), &["test-leds:lamp", "rows:lamp", "test-rows:lamp", "solder:lamp", "cover:lamp"], &["cut-strip:lamp"]),
        (strip(1.0), &["cut-strip:lamp", "solder:lamp"], &["rows:lamp", "test-leds:lamp"]),
        (pixels(30), &["cut-strip:lamp", "solder:lamp"], &["rows:lamp"]),
        (module(), &["solder:lamp", "fix:lamp", "run:lamp"], &["cut-strip:lamp", "rows:lamp", "plug:lamp", "inline:lamp", "fuses"]),
    ];
    for (load, there, absent) in table {
        let all = steps(&one(&load, &feed("source", 1.0)));
        for id in there {
            assert!(ids(&all).contains(id), "{load}: {id} is missing from {:?}", ids(&all));
        }
        for id in absent {
            assert!(!ids(&all).contains(id), "{load}: {id} has no business here");
        }
        assert_eq!(all.last().map(|step| step.id.as_str()), Some("outing"));
    }
    assert!(steps(&build(&json!([]), &json!({}))).is_empty(), "nothing to make");
}

#[test]
fn what_sits_in_a_wire_is_put_there_and_the_fuse_goes_in_last() {
    let mut own = feed("source", 1.0);
    own["fuse"] = json!({ "style": "blade", "rating_a": 3.0 });
    own["switch"] = json!({ "rating_a": 5.0 });
    own["contacts"] = json!(2);
    let all = steps(&one(&module(), &own));
    let at = |id: &str| all.iter().position(|step| step.id == id).unwrap_or_else(|| panic!("{id}"));
    assert!(at("run:lamp") < at("plug:lamp") && at("plug:lamp") < at("inline:lamp") && at("inline:lamp") < at("continuity"));
    assert!(at("continuity") < at("fuses") && at("fuses") < at("first-power") && at("first-power") < at("measured"), "no power without its fuse");
    let fuses = &all[at("fuses")];
    assert!(fuses.materials[0].contains("3 A") && fuses.caution.as_deref().is_some_and(|words| words.contains("Never a larger one")));
    assert_eq!(all[at("inline:lamp")].materials[0], "fuse holder and switch");
    assert_eq!(all[at("plug:lamp")].minutes, 16.0, "two plugs");
    assert!(all[at("battery-off")].wants_safe && !all[at("cover:lamp")].wants_safe);
    assert!(all.iter().all(|step| step.wants_safe == (step.phase as usize >= Phase::Vehicle as usize)));
}

#[test]
fn wires_grow_by_their_joints_and_come_in_their_colours() {
    let mut own = feed("source", 1.0);
    own["fuse"] = json!({ "style": "glass", "rating_a": 1.0 });
    own["contacts"] = json!(1);
    own["plus_colour"] = json!("yellow");
    let list = cuts(&one(&module(), &own));
    let length = |of: &str| list.cuts.iter().find(|cut| cut.of == of).unwrap_or_else(|| panic!("{of}")).pieces[0].length_m;
    // Both ends, and two more for each part that sits in it.
    assert!((length("wire 20 AWG, yellow") - (1.0 + 6.0 * JOINT_M)).abs() < 1e-9);
    assert!((length("wire 20 AWG, black") - (1.0 + 4.0 * JOINT_M)).abs() < 1e-9);
    let shrink: u32 = list.shrink.iter().map(|one| one.pieces).sum();
    assert_eq!(shrink, 10, "a piece for every joint");
    // The frame brings it back: no minus is cut.
    let mut framed = feed("source", 1.0);
    framed["return"] = json!("frame");
    let list = cuts(&one(&module(), &framed));
    assert_eq!(list.cuts.iter().map(|cut| cut.of.as_str()).collect::<Vec<_>>(), ["wire 20 AWG, red"]);
    // Pixels have a third.
    let data = cuts(&one(&pixels(10), &feed("source", 1.0)));
    assert!(data.cuts.iter().any(|cut| cut.of == "wire 20 AWG, green" && cut.pieces[0].name == "lamp data"));
}

/// On a chain the data wire runs from piece to piece, back-runs and all.
#[test]
fn data_wires_are_as_long_as_the_chain_says() {
    let owl = orthavis_model::document::parse(orthavis_model::demo::BUILDS[1]).expect("a sample");
    let list = cuts(&owl);
    let pieces: Vec<_> = list.cuts.iter().flat_map(|cut| &cut.pieces).filter(|piece| piece.name.ends_with(" data")).collect();
    let found = |light: &str| pieces.iter().find(|piece| piece.part == light).map(|piece| (piece.length_m, piece.note.as_str())).expect("a data wire");
    // One plug in each: two ends and the plug's two.
    let long = |metres: f64| ((metres + 4.0 * JOINT_M) * 1e4).round() / 1e4;
    assert_eq!(pieces.len(), 6);
    assert_eq!(found("front-left"), (long(0.12), "from its controller"));
    assert_eq!(found("left"), (long(0.18), "from the end of front-left to its far end"));
    assert_eq!(found("rear-right"), (long(0.22), "from the end of left"));
}

#[test]
fn rolls_are_as_long_as_they_need_to_be_or_as_the_person_has_them() {
    let roll = |length_m: f64, make: Value| {
        let build = build(&json!([{ "id": "lamp", "feeds": [feed("source", length_m)], "load": module() }]), &json!({ "make": make }));
        let list = cuts(&build);
        let red = list.cuts.into_iter().find(|cut| cut.of == "wire 20 AWG, red").expect("red wire");
        red.rolls.iter().map(|roll| roll.length_m).collect::<Vec<_>>()
    };
    assert_eq!(roll(0.8, json!({})), [1.0]);
    assert_eq!(roll(1.5, json!({})), [2.0]);
    assert_eq!(roll(4.0, json!({})), [5.0]);
    assert_eq!(roll(4.0, json!({ "rolls": [{ "of": "wire 20 AWG, red", "length_m": 25.0 }] })), [25.0]);
    assert_eq!(roll(14.0, json!({})), [14.06], "nobody joins a wire that a longer roll would spare");
    // A strip is joined, at a mark: 7 m from rolls of 5 m.
    let list = cuts(&one(&strip(7.0), &feed("source", 1.0)));
    let cut = list.cuts.iter().find(|cut| cut.at_marks).expect("a strip");
    assert_eq!((cut.rolls.len(), cut.pieces[0].joints, cut.pieces[0].marks), (2, 1, Some([0, 40])));
    assert!(cut.pieces[0].note.contains("at a mark"));
}

#[test]
fn a_step_longer_than_any_evening_goes_on_in_the_next() {
    let base = one(&array(10, 12), &feed("source", 1.0));
    let short = changed(
        &base,
        &json!([{ "op": "add", "path": "/make", "value": { "begins": "2026-11-27",
        "sessions": [{ "weekday": "friday", "start": "19:00", "minutes": 60 }, { "weekday": "saturday", "start": "19:00", "minutes": 60 }] } }]),
    );
    let all = steps(&short);
    let rows = all.iter().find(|step| step.id == "rows:lamp").expect("rows");
    assert!(rows.minutes > 120.0, "{}", rows.minutes);
    let made = plan(&short, &all, &Standing::default());
    let placed = made.placed.iter().find(|one| one.step == "rows:lamp").expect("placed");
    assert!(placed.at.len() >= 3, "{:?}", placed.at);
    let worked: f64 = placed.at.iter().map(|at| at.to - at.from).sum();
    assert!((worked - rows.minutes).abs() < 1e-6);
    assert!(placed.at.iter().all(|at| at.to - at.from <= 60.0 + 1e-9));
    // In the calendar it is work on each of those evenings.
    let text = calendar("Rules", &made, &all, "20261126T120000Z");
    assert!(text.matches("SUMMARY:Rules: Join the rows of lamp").count() >= 1 && text.matches("BEGIN:VEVENT").count() >= placed.at.len());
}

#[test]
fn what_is_done_is_not_planned_and_everything_done_leaves_nothing() {
    let base = one(&module(), &feed("source", 1.0));
    let all = steps(&base);
    let done: BTreeMap<String, f64> = all.iter().map(|step| (step.id.clone(), 5.0)).collect();
    let made = plan(&base, &all, &Standing { begins: 20_784, now: 10.0, done });
    assert!(made.placed.is_empty() && made.order_by.is_empty());
    assert_eq!((made.work, made.ends), (0.0, 0.0));
    assert_eq!(made.begins, "2026-11-27");
}

#[test]
fn leds_and_resistors_are_counted_together_with_one_in_ten_more() {
    let light = |id: &str, series: u32, parallel: u32| json!({ "id": id, "feeds": [feed("source", 0.5)], "load": array(series, parallel) });
    let both = build(&json!([light("left", 3, 4), light("right", 3, 5)]), &json!({}));
    let list = parts(&both, &steps(&both), &BTreeMap::new());
    let line = |start: &str| list.lines.iter().find(|line| line.of.starts_with(start)).unwrap_or_else(|| panic!("{start}"));
    let led = line("LED red");
    assert_eq!((led.needed, led.spare, led.buy, led.group), (27.0, 3.0, 30.0, Group::Light));
    let resistor = line("resistor 330 ohms");
    assert_eq!((resistor.needed, resistor.spare, resistor.buy), (9.0, 1.0, 10.0));
    assert!(led.price.is_some() && (led.cost.expect("a cost") - led.price.expect("a price") * 30.0).abs() < 0.01);
    assert_eq!((list.unpriced, resistor.price), (0, Some(0.05)), "a resistor costs little, but something");
    assert!(list.lines.windows(2).all(|pair| pair[0].group <= pair[1].group), "by group");
}

/// A cost with unknown things in it is no cost: every line of every sample, and every part of the library, has a price.
#[test]
fn everything_has_a_usual_price() {
    let samples = orthavis_model::demo::BUILDS.iter().map(|text| orthavis_model::document::parse(text).expect("sound"));
    for build in samples.chain(orthavis_testing::cases().into_iter().map(|(_, build)| build)) {
        for line in parts(&build, &steps(&build), &BTreeMap::new()).lines {
            assert!(line.price.is_some_and(|price| price > 0.0), "{}: {} has no price", build.name, line.of);
        }
    }
    for part in orthavis_model::parts::library() {
        assert!(part.price_eur.is_some_and(|price| price > 0.0), "{}", part.id);
    }
}

#[test]
fn a_diagram_says_what_is_in_a_wire_and_where_it_goes() {
    let mut own = feed("source", 1.0);
    own["fuse"] = json!({ "style": "blade", "rating_a": 3.0 });
    own["contacts"] = json!(1);
    own["return"] = json!("frame");
    let drawn = diagram(&one(&pixels(5), &own));
    let kinds: Vec<SymbolKind> = drawn.symbols.iter().map(|symbol| symbol.kind).collect();
    assert!(
        kinds.contains(&SymbolKind::Fuse) && kinds.contains(&SymbolKind::Plug) && kinds.contains(&SymbolKind::Frame) && !kinds.contains(&SymbolKind::Switch)
    );
    let lamp = drawn.boxes.iter().find(|part| part.id == "lamp").expect("a light");
    assert_eq!(lamp.kind, BoxKind::Light);
    let names: Vec<&str> = lamp.terminals.iter().map(|terminal| terminal.name).collect();
    assert_eq!(names, ["+", "−", "DIN"]);
    let source = drawn.boxes.iter().find(|part| part.kind == BoxKind::Source).expect("a battery");
    assert!(source.x < lamp.x, "power runs to the right");
    assert!(source.lines.iter().any(|line| line.contains("iron phosphate")));
    let plus = drawn.texts.iter().find(|text| text.text.starts_with("lamp +")).expect("its name");
    assert!(plus.text.contains("20 AWG") && plus.text.contains("1.00 m"));
    let svg = drawn.svg("A <bold> & \"quoted\" name");
    assert!(svg.contains("A &lt;bold&gt; &amp; &quot;quoted&quot; name") && !svg.contains("<bold>"));
}

#[test]
fn a_strip_with_two_suppliers_is_drawn_once_with_a_band_for_each() {
    let drawn = diagram(&case("two-supplies-one-strip"));
    for part in drawn.boxes.iter().filter(|part| part.kind == BoxKind::Light) {
        let ends = drawn.wires.iter().filter(|wire| wire.feed.split('#').next() == Some(part.id.as_str()) && wire.plus).count();
        let inputs = part.terminals.iter().filter(|terminal| terminal.name == "+").count();
        assert_eq!(ends, inputs, "{}", part.id);
    }
    let mut ids: Vec<&str> = drawn.boxes.iter().map(|part| part.id.as_str()).collect();
    ids.sort_unstable();
    ids.dedup();
    assert_eq!(ids.len(), drawn.boxes.len(), "each part once");
}

#[test]
fn labels_say_the_rating_and_what_a_module_is_set_to() {
    let all = labels(&case("trike-arrays"));
    let of = |kind: LabelKind| all.iter().filter(|label| label.kind == kind).collect::<Vec<_>>();
    assert!(of(LabelKind::Converter).iter().any(|label| label.title == "12 V" && label.line.starts_with("twelve · IN")));
    for fuse in of(LabelKind::Fuse) {
        assert!(fuse.title.ends_with(" A") && fuse.line.ends_with("no larger"), "{fuse:?}");
    }
    let mut own = feed("source", 1.0);
    own["contacts"] = json!(2);
    own["switch"] = json!({ "rating_a": 5.0 });
    let more = labels(&one(&module(), &own));
    assert_eq!(more.iter().filter(|label| label.kind == LabelKind::Plug).map(|label| label.line.as_str()).collect::<Vec<_>>(), ["plug 1 of 2", "plug 2 of 2"]);
    assert_eq!(more.iter().filter(|label| label.kind == LabelKind::Switch).count(), 1);
}

#[test]
fn packing_knows_when_it_is_best() {
    assert_eq!(pack(&[], 10.0).rolls, 0);
    // First fit by falling length takes three here; two will do.
    let hard = [4.0, 4.0, 3.0, 3.0, 3.0, 3.0];
    let packed = pack(&hard, 10.0);
    assert_eq!((packed.rolls, packed.fewest), (2, true));
    let even = pack(&[5.0; 20], 10.0);
    assert_eq!((even.rolls, even.fewest), (10, true));
}

/// As much as a document may hold, hung on each other: everything is still there at once.
#[test]
fn five_hundred_lights_behind_five_hundred_junctions_are_made_within_two_seconds() {
    let junctions: Vec<Value> = (0..500)
        .map(|index| json!({ "id": format!("j{index}"), "feed": feed(&if index < 20 { "source".to_owned() } else { format!("j{}", index % 20) }, 1.0) }))
        .collect();
    let lights: Vec<Value> = (0..500)
        .map(|index| json!({ "id": format!("l{index}"), "feeds": [feed(&format!("j{index}"), 0.5)], "load": if index % 2 == 0 { array(3, 2) } else { strip(0.5) } }))
        .collect();
    let large = build(&json!(lights), &json!({ "junctions": junctions }));
    let clock = std::time::Instant::now();
    let all = steps(&large);
    let made = plan(&large, &all, &Standing { begins: 20_784, ..Standing::default() });
    assert_eq!(made.placed.len(), all.len());
    let list = cuts(&large);
    let shopping = parts(&large, &all, &BTreeMap::new());
    let drawn = diagram(&large);
    assert_eq!((list.cuts.iter().map(|cut| cut.pieces.len()).sum::<usize>(), drawn.wires.len()), (2250, 2000));
    assert!(shopping.lines.len() < 40 && labels(&large).len() == 4500);
    println!("{} steps: {:?}", all.len(), clock.elapsed());
    assert!(clock.elapsed().as_secs_f64() < 2.0, "{:?}", clock.elapsed());
}

/// As many feeds as a document may hold.
#[test]
fn strips_with_a_hundred_feeds_each_are_drawn_and_planned() {
    let lights: Vec<Value> = (0..100)
        .map(|index| {
            let feeds: Vec<Value> =
                (0..100).map(|number| json!({ "from": "source", "length_m": 1.0, "gauge": { "awg": 20 }, "at_m": 0.05 * f64::from(number) })).collect();
            json!({ "id": format!("l{index}"), "feeds": feeds, "load": strip(5.0) })
        })
        .collect();
    let large = build(&json!(lights), &json!({}));
    let clock = std::time::Instant::now();
    let all = steps(&large);
    let made = plan(&large, &all, &Standing { begins: 20_784, ..Standing::default() });
    assert_eq!(made.placed.len(), all.len());
    assert_eq!(diagram(&large).wires.len(), 20_000);
    println!("{} steps: {:?}", all.len(), clock.elapsed());
    assert!(clock.elapsed().as_secs_f64() < 30.0, "whoever asks for others refuses it before: {:?}", clock.elapsed());
}

#[test]
fn sixty_steps_are_planned_within_a_twentieth_of_a_second() {
    let stage = orthavis_model::document::parse(orthavis_model::demo::BUILDS[0]).expect("sound");
    let all = steps(&stage);
    assert!(all.len() > 50);
    let clock = std::time::Instant::now();
    let made = plan(&stage, &all, &Standing { begins: 20_784, ..Standing::default() });
    println!("{} steps planned in {:?}", all.len(), clock.elapsed());
    assert!(clock.elapsed().as_secs_f64() < 0.25, "five times what it may take, for a machine that is busy: {:?}", clock.elapsed());
    assert_eq!(made.placed.len(), all.len());
}

#[test]
fn a_light_is_bought_by_the_name_that_it_is_sold_by() {
    let mut tried = 0;
    for part in library() {
        let What::Light { load, colour, .. } = &part.what else { continue };
        let mut load = serde_json::to_value(load).expect("a load");
        // A ring, a string of pixels or a piece of strip: so much of it as is bought.
        if load["kind"] == "strip" {
            load["length_m"] = json!(1.0);
        }
        let light = |colour: Option<&str>| {
            let mut light = json!({ "id": "lamp", "place": "frame", "feeds": [feed("source", 1.0)], "load": load });
            if let Some(colour) = colour {
                light["colour"] = json!(colour);
            }
            build(&json!([light]), &json!({}))
        };
        let named = |build: &Build| {
            let list = parts(build, &steps(build), &BTreeMap::new());
            list.lines.iter().filter(|line| !line.of.contains("resistor")).map(|line| line.of.clone()).collect::<Vec<_>>()
        };
        let coloured = light((colour != "any").then_some(colour.as_str()));
        let names = named(&coloured);
        // Two parts of one voltage, power and colour are the same thing to buy.
        let same = |name: &str| library().iter().any(|known| known.name == *name && matches!(&known.what, What::Light { colour: own, .. } if own == colour));
        assert!(names.iter().any(|name| same(name)), "{}: {names:?}", part.name);
        let cut = cuts(&coloured).cuts.iter().any(|cut| same(&cut.of));
        assert_eq!(cut, load["kind"] != "module" && load["kind"] != "led_array", "{}", part.name);
        // Of another colour it is said in figures, with that colour.
        if load["kind"] == "module" || load["kind"] == "strip" {
            let other = named(&light(Some("lilac")));
            assert!(other.iter().any(|name| name.ends_with(", lilac")), "{}: {other:?}", part.name);
        }
        tried += 1;
    }
    assert!(tried > 15, "{tried} lights in the library");
}

/// What the table of hazards asks of the work: named at its step, bought with the rest, and nowhere else.
#[test]
fn hazards_are_met_at_their_steps() {
    let list = |build: &Build| parts(build, &steps(build), &BTreeMap::new()).lines;
    let converter = |range: Value| json!({ "id": "five", "feed": feed("source", 0.3), "kind": "buck", "set_v": 5.0, "min_in_v": 6.5, "max_in_v": 30.0, "max_out_a": 3.0, "adjustable": true, "range_v": range });
    let behind = |load: Value, range: Value| {
        let lamp = json!({ "id": "lamp", "place": "rear", "feeds": [feed("five", 1.0)], "load": load, "mass_g": 5.0 });
        build(&json!([lamp]), &json!({ "converters": [converter(range)] }))
    };
    let set = |build: &Build| steps(build).into_iter().find(|step| step.id == "set:five").expect("it is set").how;
    assert!(set(&behind(pixels(10), json!([0.9, 20.0]))).contains("gives 20 V, and that kills lamp"));
    assert!(!set(&behind(pixels(10), json!([0.9, 5.5]))).contains("kills"), "it cannot");
    assert!(!set(&behind(pixels(10), Value::Null)).contains("kills"), "nobody said");
    assert!(!set(&behind(array(1, 1), json!([0.9, 20.0]))).contains("kills"), "its resistor decides");

    // Where somebody looked and found no screw, it is measured, not set.
    let fixed = |adjustable: Value| {
        let mut five = converter(Value::Null);
        five["adjustable"] = adjustable;
        let lamp = json!({ "id": "lamp", "place": "rear", "feeds": [feed("five", 1.0)], "load": pixels(10), "mass_g": 5.0 });
        let build = build(&json!([lamp]), &json!({ "converters": [five] }));
        steps(&build).into_iter().find(|step| step.id == "set:five").expect("its step")
    };
    let measured = fixed(json!(false));
    assert!(measured.title.starts_with("Measure five") && measured.wait.is_none() && !measured.tools.contains(&"small screwdriver"));
    assert!(fixed(Value::Null).title.starts_with("Set five") && fixed(json!(true)).wait.is_some());

    // A chain of pixels has its resistor and its capacitor; a controller of pins has neither.
    let chain = |outputs: Value| {
        let lamp = json!({ "id": "lamp", "place": "rear", "feeds": [feed("source", 1.0)], "load": pixels(10), "mass_g": 5.0 });
        build(&json!([lamp]), &json!({ "controllers": [{ "id": "brain", "feed": feed("source", 0.2), "kind": "microcontroller", "outputs": outputs }] }))
    };
    let bought = |build: &Build| list(build).iter().filter(|part| part.of.contains("470 ohms") || part.of.contains("1000 µF")).count();
    let data = chain(json!([{ "kind": "data", "pin": "D1", "chain": [{ "light": "lamp" }] }]));
    let wired = steps(&data).into_iter().find(|step| step.id == "wire:brain").expect("it is wired");
    assert!(wired.materials.iter().any(|one| one.contains("470")) && wired.checks.iter().any(|check| check.contains("next to the first pixel")));
    assert_eq!((bought(&data), bought(&chain(json!([])))), (2, 0));

    // Plugs that go both ways are marked, dimmers and the volts of contacts are bought.
    let mut own = feed("source", 1.0);
    own["contacts"] = json!(1);
    own["contact_rating_a"] = json!(5.0);
    own["contact_rating_v"] = json!(60.0);
    own["keyed"] = json!(false);
    own["switch"] = json!({ "rating_a": 5.0, "rating_v": 60.0 });
    own["dimmer"] = json!({ "hz": 500.0, "rating_a": 3.0 });
    let lamp = one(&module(), &own);
    let plug = steps(&lamp).into_iter().find(|step| step.id == "plug:lamp").expect("its plug");
    assert!(plug.caution.is_some_and(|words| words.contains("mark plus on both halves")));
    let names: Vec<String> = list(&lamp).into_iter().map(|part| part.of).collect();
    for wanted in ["two-pole plug 5 A, 60 V", "switch 5 A, 60 V direct current", "dimmer 3 A, 500 pulses a second"] {
        assert!(names.iter().any(|name| name == wanted), "{wanted}: {names:?}");
    }
    own["keyed"] = json!(true);
    own["plugs_sealed"] = json!(true);
    let lamp = one(&module(), &own);
    assert!(steps(&lamp).iter().all(|step| step.id != "plug:lamp" || step.caution.is_none()));
    assert!(list(&lamp).iter().any(|part| part.of == "two-pole plug 5 A, 60 V, keyed, sealed"));

    // One resistor where all rows share it.
    let mut shared = array(3, 4);
    shared["shared_resistor"] = json!(true);
    let rows = |load: &Value| steps(&one(load, &feed("source", 1.0))).into_iter().find(|step| step.id == "rows:lamp").expect("its rows").materials;
    assert!(rows(&array(3, 4)).iter().any(|one| one.starts_with("4 resistors")) && rows(&shared).iter().any(|one| one.starts_with("1 resistor ")));
}
