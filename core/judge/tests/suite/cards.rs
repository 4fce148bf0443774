//! One cause, one card; remedies that a practitioner would agree with.

use orthavis_judge::findings::{Card, Severity};
use orthavis_judge::report::{Report, report};
use orthavis_model::document::{Build, parse_value};
use orthavis_testing::{case, changed};
use serde_json::{Value, json};

fn solved(build: &Build) -> Report {
    report(build).expect("a solution")
}

fn card<'a>(report: &'a Report, code: &str) -> Vec<&'a Card> {
    report.cards.iter().filter(|card| card.code == code).collect()
}

fn titles(card: &Card) -> Vec<&str> {
    card.remedies.iter().map(|remedy| remedy.title.as_str()).collect()
}

fn feed(from: &str, length_m: f64, awg: i32, fuse: Value) -> Value {
    json!({ "from": from, "length_m": length_m, "gauge": { "awg": awg }, "fuse": fuse })
}

fn strip(id: &str, feed: &Value, volts: f64, length_m: f64) -> Value {
    json!({ "id": id, "feeds": [feed], "load": { "kind": "strip", "voltage_v": volts, "power_w_per_m": 9.6, "segment_m": 0.05, "leds_per_segment": 3,
        "led_vf_v": 3.1, "rail_ohm_per_m": 0.03, "length_m": length_m } })
}

fn build(source: Value, lights: Vec<Value>) -> Build {
    let lit: serde_json::Map<String, Value> = lights.iter().map(|light| (light["id"].as_str().expect("an id").to_owned(), json!({}))).collect();
    let document = json!({ "format": "orthavis.build/1", "name": "any", "vehicle": { "kind": "other", "mass_kg": 10.0 }, "source": source, "lights": lights,
        "scenes": [{ "id": "on", "name": "On", "lights": lit }] });
    parse_value(&document).unwrap_or_else(|error| panic!("{error}"))
}

fn lead(cells: u32, charging: bool) -> Value {
    json!({ "kind": "battery", "chemistry": "lead_agm", "series": cells, "capacity_ah": 60.0, "rated_hours": 20.0, "max_current_a": 60.0, "used_while_charging": charging })
}

#[test]
fn three_lights_too_high_while_charging_are_one_card_and_one_change() {
    let own = feed("source", 1.0, 18, json!({ "style": "blade", "rating_a": 3.0 }));
    let lights = ["left", "right", "rear"].map(|id| strip(id, &own, 12.0, 1.0));
    let there = build(lead(6, true), lights.to_vec());
    let report = solved(&there);
    let cards = card(&report, "light.over_voltage");
    assert_eq!(cards.len(), 1);
    assert_eq!(cards[0].findings.len(), 3);
    assert!(["left", "right", "rear"].iter().all(|id| cards[0].title.contains(id)), "{}", cards[0].title);
    for remedy in &cards[0].remedies {
        let after = solved(&changed(&there, &json!(remedy.changes)));
        assert!(card(&after, "light.over_voltage").is_empty(), "{} leaves some", remedy.title);
        assert!(after.verdict.stops <= report.verdict.stops, "{}", remedy.title);
    }
    assert!(titles(cards[0]).contains(&"Keep the lights off while charging"), "{:?}", titles(cards[0]));
}

#[test]
fn unfused_branches_get_one_fused_junction() {
    let bare = feed("source", 1.0, 16, Value::Null);
    let there = build(lead(6, false), ["left", "right", "rear"].map(|id| strip(id, &bare, 12.0, 1.0)).to_vec());
    let report = solved(&there);
    let cards = card(&report, "fuse.missing");
    assert_eq!((cards.len(), cards[0].findings.len()), (1, 3));
    let first = &cards[0].remedies[0];
    assert!(first.title.starts_with("One ") && first.title.ends_with("for all 3 wires, through one terminal block"), "{:?}", titles(cards[0]));
    let after = changed(&there, &json!(first.changes));
    assert_eq!(after.feeds().iter().filter(|feed| feed.feed.fuse.is_some()).count(), 1, "one holder in place of three");
    assert_eq!(solved(&after).verdict.stops, 0);
}

#[test]
fn what_follows_waits_for_its_cause() {
    // A 12 V strip on 24 V draws far more than its wire and its fuse are made for.
    let own = feed("source", 1.0, 24, json!({ "style": "blade", "rating_a": 3.0 }));
    let report = solved(&build(lead(12, false), vec![strip("edge", &own, 12.0, 2.0)]));
    let cause = report.findings.iter().find(|f| f.code == "light.over_voltage").expect("the cause");
    assert!(cause.follows.is_none() && !cause.remedies.is_empty());
    for code in ["wire.ampacity", "fuse.nuisance"] {
        let effect = report.findings.iter().find(|f| f.code == code).expect(code);
        assert_eq!(effect.follows.as_ref().map(|cause| (cause.code, cause.subject.as_str())), Some(("light.over_voltage", "edge")), "{code}");
        assert!(effect.remedies.is_empty() && effect.advice.as_ref().is_some_and(|advice| advice.contains(&cause.title)), "{code}: {:?}", effect.advice);
    }
    // A wire that is too thin for what the strip is made for is a fault of its own.
    let own = feed("source", 1.0, 30, json!({ "style": "blade", "rating_a": 3.0 }));
    let thin = solved(&build(lead(12, false), vec![strip("edge", &own, 12.0, 2.0)]));
    assert!(thin.findings.iter().find(|f| f.code == "wire.ampacity").expect("thin").follows.is_none());
    // Lights behind a converter that is off are dark because of that.
    let off = changed(
        &case("trike-arrays"),
        &json!([{ "op": "replace", "path": "/converters/0/min_in_v", "value": 50.0 }, { "op": "replace", "path": "/converters/0/max_in_v", "value": 60.0 }]),
    );
    let off = solved(&off);
    let dark: Vec<_> = off.findings.iter().filter(|f| f.code == "light.dark").collect();
    assert!(!dark.is_empty() && dark.iter().all(|f| f.follows.as_ref().is_some_and(|cause| cause.code == "converter.input_low")), "{dark:?}");
}

#[test]
fn a_pair_is_tapped_as_a_whole_with_what_follows() {
    let mut source = lead(6, false);
    source["tap"] = json!("one_of_series");
    let own = feed("source", 1.0, 18, json!({ "style": "blade", "rating_a": 3.0 }));
    let there = build(source, vec![strip("edge", &own, 12.0, 2.0)]);
    let report = solved(&there);
    let tap = card(&report, "tap.unbalanced")[0];
    assert!(!tap.remedies.is_empty());
    for remedy in &tap.remedies {
        let after = changed(&there, &json!(remedy.changes));
        let orthavis_model::document::Source::Battery(battery) = &after.source else { panic!("a battery") };
        assert_eq!(battery.series, 12, "the main leads of a pair have twice the cells: {}", remedy.title);
        assert_eq!(solved(&after).verdict.stops, 0, "{}", remedy.title);
    }
}

#[test]
fn remedies_fit_the_size_of_the_thing() {
    let cell = |series: u32| json!({ "kind": "battery", "chemistry": "alkaline", "series": series, "capacity_ah": 2.4, "max_current_a": 2.0 });
    let led = json!({ "id": "nose", "feeds": [feed("source", 0.15, 28, Value::Null)], "load": { "kind": "led_array", "led": { "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 },
        "series": 1, "parallel": 2, "resistor_ohm": 68.0, "resistor_w": 0.25 } });
    let toy = solved(&build(cell(2), vec![led]));
    let fuse = card(&toy, "fuse.missing")[0];
    assert!(!fuse.remedies.is_empty() && fuse.remedies.iter().all(|remedy| !remedy.title.contains("blade")), "{:?}", titles(fuse));
    // No module that takes amps from one small cell.
    let hungry = build(cell(1), vec![strip("edge", &feed("source", 0.3, 22, json!({ "style": "glass", "rating_a": 2.0 })), 12.0, 2.0)]);
    for remedy in solved(&hungry).findings.iter().flat_map(|f| &f.remedies) {
        assert!(!remedy.title.contains("module"), "{}", remedy.title);
    }
    // A note on a hand's width of wire is not worth new wire.
    let mut short = feed("source", 0.15, 26, json!({ "style": "blade", "rating_a": 2.0 }));
    short["contacts"] = json!(25);
    let noted = solved(&build(lead(6, false), vec![strip("edge", &short, 12.0, 2.0)]));
    let drop = card(&noted, "wire.drop");
    assert_eq!(drop.iter().map(|card| card.severity).collect::<Vec<_>>(), [Severity::Note]);
    assert!(titles(drop[0]).iter().all(|title| !title.contains("AWG") && !title.contains("thicker")), "{:?}", titles(drop[0]));
    // A strip that fades wants a second feed, not a cable.
    let long = strip("edge", &feed("source", 1.0, 18, json!({ "style": "blade", "rating_a": 5.0 })), 12.0, 4.0);
    let mut long = long;
    long["load"]["rail_ohm_per_m"] = json!(0.06);
    let fading = solved(&build(lead(6, false), vec![long]));
    assert_eq!(titles(card(&fading, "strip.fade")[0])[0], "Feed it from both ends");
}

#[test]
fn a_refusal_names_the_stop_that_a_change_would_bring() {
    let mut named = 0;
    for (name, build, _) in orthavis_testing::table() {
        for finding in solved(&build).findings.iter().filter(|f| f.remedies.is_empty() && f.follows.is_none()) {
            let advice = finding.advice.as_deref().unwrap_or_default();
            assert!(!advice.is_empty(), "{name}: {}", finding.code);
            if let Some((_, stop)) = advice.split_once("bring a new danger: ") {
                assert!(stop.len() > 5, "{name}: {advice}");
                named += 1;
            }
        }
    }
    assert!(named > 0, "no refusal in the table names a stop");
}

/// The remedy of a light's card whose title begins so, and what the build is after it.
fn taken(build: &Build, code: &str, begins: &str) -> (String, Build) {
    let report = solved(build);
    let cards = card(&report, code);
    let all = cards.iter().flat_map(|card| &card.remedies).collect::<Vec<_>>();
    let remedy = all.iter().find(|remedy| remedy.title.starts_with(begins));
    let remedy = remedy.unwrap_or_else(|| panic!("{code}: no `{begins}` among {:?}", all.iter().map(|remedy| &remedy.title).collect::<Vec<_>>()));
    (remedy.title.clone(), changed(build, &json!(remedy.changes)))
}

/// A long strip for twice the voltage is not fed through a large step-up: the strip for this battery has the wire, the fuse
/// and the switch that its current wants.
#[test]
fn a_strip_wrong_for_its_voltage_is_exchanged() {
    let mut own = feed("source", 1.0, 14, json!({ "style": "ceramic", "rating_a": 5.0 }));
    own["switch"] = json!({ "rating_a": 10.0 });
    let mut long = strip("awning", &own, 24.0, 5.0);
    long["load"]["leds_per_segment"] = json!(6);
    long["load"]["segment_m"] = json!(0.1);
    let there = build(lead(6, false), vec![long]);
    let (title, after) = taken(&there, "light.dark", "Use a 12 V strip");
    assert!(title.ends_with("in its place"), "{title}");
    let (light, report) = (&after.lights[0], solved(&after));
    assert!(light.feeds[0].switch.is_some() && light.feeds[0].fuse.as_ref().is_some_and(|fuse| fuse.rating_a >= 5.0));
    assert!(card(&report, "light.dark").is_empty() && report.verdict.stops == 0, "{}", report.verdict.headline);
    let cards = solved(&there).cards;
    let offered: Vec<&str> = cards.iter().filter(|card| card.code == "light.dark").flat_map(titles).collect();
    assert!(offered.iter().all(|title| !title.contains("step-up")), "48 W through a step-up: {offered:?}");
    // Of what shines too brightly the strip is good as it is: a step-down is offered beside its exchange.
    let bright = build(lead(12, false), vec![strip("awning", &own, 12.0, 1.0)]);
    let report = solved(&bright);
    let offered = titles(card(&report, "light.over_voltage")[0]);
    assert!(["Use a 24 V strip", "Put a 12 V step-down"].iter().all(|begins| offered.iter().any(|title| title.starts_with(begins))), "{offered:?}");
}

/// A module before a light takes over its switch, large enough for what goes into it.
#[test]
fn a_module_keeps_the_switch() {
    let mut own = feed("source", 1.0, 18, json!({ "style": "blade", "rating_a": 3.0 }));
    own["switch"] = json!({ "rating_a": 1.0 });
    let there = build(lead(12, false), vec![strip("rear", &own, 12.0, 1.0)]);
    let (_, after) = taken(&there, "light.over_voltage", "Put a 12 V step-down");
    assert!(after.converters[0].feed.switch.as_ref().is_some_and(|switch| switch.rating_a >= 1.0));
}

/// One large chip of thirty volts on twelve wants a step-up before its driver, and what that draws is said.
#[test]
fn a_large_chip_gets_a_step_up_before_its_driver() {
    let chip = json!({ "id": "flood", "feeds": [feed("source", 1.0, 18, json!({ "style": "blade", "rating_a": 5.0 }))], "load": { "kind": "led_array",
        "led": { "colour": "white", "vf_v": 30.0, "if_a": 0.35, "if_max_a": 0.7 }, "series": 1, "parallel": 1, "resistor_ohm": 0.0, "resistor_w": 0.25 } });
    let there = build(lead(6, false), vec![chip]);
    let (title, after) = taken(&there, "led.no_resistor", "Put a 34 V step-up and a 350 mA current driver");
    assert!(title.contains("from the supply"), "{title}");
    let report = solved(&after);
    assert_eq!(report.verdict.stops, 0, "{}", report.verdict.headline);
    let full = &report.points[0];
    assert!((full.lights["flood"].string_a.expect("a string") - 0.35).abs() < 1e-3);
    let said: f64 = title.split(": up to ").nth(1).and_then(|rest| rest.split(' ').next()).and_then(|figure| figure.parse().ok()).expect("a figure");
    let drawn = report.points.iter().map(|point| point.source.current_a).fold(0.0, f64::max);
    assert!(drawn <= said && said < 1.3 * drawn, "{drawn} A of at most {said} A");
}

/// What a fuse style breaks is the same for all of its ratings.
#[test]
fn a_fuse_that_cannot_break_is_exchanged_for_another_style() {
    let own = feed("source", 1.0, 18, json!({ "style": "glass", "rating_a": 3.15 }));
    let report = solved(&build(lead(6, false), vec![strip("rear", &own, 12.0, 1.0)]));
    for remedy in card(&report, "fuse.breaking").iter().flat_map(|card| &card.remedies) {
        assert!(!remedy.title.contains("glass"), "{}", remedy.title);
    }
}
