//! The fields of what hurts beside volts and amperes: what they stand for, what is refused, what helps.

use orthavis_model::dimming::{is_dimmed, put_before};
use orthavis_model::document::{Build, ChargedBy, FuseSide, Ground, Load, Source, Surface, parse_value};
use orthavis_model::edit::driver_of;
use orthavis_model::fixing::Site;
use orthavis_model::states::State;
use orthavis_model::topology::Topology;
use serde_json::{Value, json};

fn feed(from: &str) -> Value {
    json!({ "from": from, "length_m": 1.0, "gauge": { "awg": 20 } })
}

fn whole() -> Value {
    let led = json!({ "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 });
    let emitter = json!({ "vf_v": 3.1, "if_a": 0.35, "if_max_a": 0.7 });
    json!({
        "format": "orthavis.build/1", "name": "any",
        "vehicle": { "kind": "rc_model", "mass_kg": 2.0 },
        "source": { "kind": "battery", "chemistry": "lead_agm", "series": 6, "capacity_ah": 7.0, "max_current_a": 20.0 },
        "converters": [{ "id": "driver", "feed": feed("source"), "kind": "current_driver", "set_a": 0.35, "min_in_v": 5.0, "max_in_v": 30.0, "max_out_a": 0.5 }],
        "lights": [
            { "id": "rows", "place": "rear", "feeds": [feed("source")], "load": { "kind": "led_array", "led": led, "series": 4, "parallel": 3, "resistor_ohm": 68.0 } },
            { "id": "spot", "feeds": [feed("driver")], "load": { "kind": "led_array", "led": emitter, "series": 2, "parallel": 1, "resistor_ohm": 0.0 } },
            { "id": "bulb", "feeds": [feed("source")], "load": { "kind": "module", "draw": "filament", "voltage_v": 12.0, "power_w": 5.0 } },
        ],
        "scenes": [{ "id": "all", "lights": { "rows": {}, "spot": {}, "bulb": {} } }],
    })
}

fn changed(pointer: &str, value: Value) -> Result<Build, Vec<(String, String)>> {
    let mut document = whole();
    let (parent, field) = pointer.rsplit_once('/').expect("a pointer");
    document.pointer_mut(parent).expect("an object")[field] = value;
    parse_value(&document).map_err(|errors| errors.faults.into_iter().map(|fault| (fault.pointer, fault.remedy)).collect())
}

fn build() -> Build {
    parse_value(&whole()).expect("sound")
}

#[test]
fn what_cannot_be_is_refused_by_its_field() {
    let fuse = |more: Value| {
        let mut fuse = json!({ "style": "blade", "rating_a": 3.0 });
        fuse.as_object_mut().expect("a fuse").extend(more.as_object().expect("fields").clone());
        fuse
    };
    let table = [
        ("/converters/0/feed/fuse", fuse(json!({ "at_m": 1.2 })), "/converters/0/feed/fuse/at_m", "at most `length_m`"),
        ("/converters/0/feed/fuse", fuse(json!({ "at_m": -0.1 })), "/converters/0/feed/fuse/at_m", "from 0"),
        ("/converters/0/feed/fuse", fuse(json!({ "side": "middle" })), "/converters/0/feed/fuse/side", "plus"),
        ("/converters/0/feed/switch", json!({ "rating_a": 1.0, "rating_v": 0.0 }), "/converters/0/feed/switch/rating_v", "above 0"),
        ("/converters/0/range_v", json!([3.0]), "/converters/0/range_v", "Give"),
        ("/converters/0/range_v", json!([3.0, 6.0, 9.0]), "/converters/0/range_v", "2"),
        ("/converters/0/inrush_a", json!("much"), "/converters/0/inrush_a", "number"),
        ("/lights/0/load/sink_k_per_w", json!(0.0), "/lights/0/load/sink_k_per_w", "above 0"),
        ("/lights/0/load/on_one_sink", json!(0), "/lights/0/load/on_one_sink", "from 1"),
        ("/lights/0/sealed", json!("yes"), "/lights/0/sealed", "true or false"),
        ("/source/charged_by", json!("wind"), "/source/charged_by", "engine"),
        ("/make", json!({ "positions": [{ "part": "receiver", "at_mm": [0, 0] }] }), "/make/positions/0/at_mm", "three numbers"),
        ("/make", json!({ "positions": [{ "part": "gimbal", "at_mm": [0, 0, 0] }] }), "/make/positions/0/part", "Name a light"),
        ("/places", json!([{ "name": "rear", "traits": [], "surface": "stone" }]), "/places/0/surface", "wood"),
    ];
    for (pointer, value, at, words) in table {
        let faults = changed(pointer, value.clone()).expect_err(at);
        let there = faults.iter().find(|(path, _)| path == at).unwrap_or_else(|| panic!("{pointer} {value}: {faults:?}"));
        assert!(there.1.contains(words), "{at}: {}", there.1);
    }
    for ear in ["receiver", "antenna", "compass", "source"] {
        changed("/make", json!({ "positions": [{ "part": ear, "at_mm": [1, 2, 3] }] })).expect(ear);
    }
}

#[test]
fn what_is_not_said_is_not_written() {
    let written = build().to_value();
    for (pointer, fields) in [
        ("/converters/0/feed", &["keyed", "contact_rating_v", "plugs_sealed"][..]),
        ("/converters/0", &["adjustable", "range_v", "critical", "reverse_ok", "inrush_a", "sealed", "place"]),
        ("/lights/0", &["reverse_ok", "sealed", "profile"]),
        ("/lights/0/load", &["shared_resistor", "sink_k_per_w", "on_one_sink"]),
        ("/lights/2/load", &["inrush_a"]),
        ("/source", &["charged_by"]),
    ] {
        let object = written.pointer(pointer).and_then(Value::as_object).expect("an object");
        assert!(fields.iter().all(|field| !object.contains_key(*field)), "{pointer}: {:?}", object.keys().collect::<Vec<_>>());
    }
    let said = changed("/converters/0/feed/fuse", json!({ "style": "blade", "rating_a": 3.0, "at_m": 0.5, "side": "minus" })).expect("sound");
    let fuse = said.converters[0].feed.fuse.clone().expect("a fuse");
    assert_eq!((fuse.at_m, fuse.side), (Some(0.5), Some(FuseSide::Minus)));
    assert_eq!(said.to_value()["converters"][0]["feed"]["fuse"]["side"], "minus");
}

#[test]
fn an_engine_charges_while_it_drives() {
    let states = |by: Option<ChargedBy>| {
        let mut build = build();
        let Source::Battery(battery) = &mut build.source else { panic!("a battery") };
        battery.charged_by = by;
        build.states()
    };
    assert!(states(Some(ChargedBy::Engine)).contains(&State::Charging));
    for other in [None, Some(ChargedBy::Charger), Some(ChargedBy::Sun), Some(ChargedBy::None)] {
        assert!(!states(other).contains(&State::Charging), "{other:?}");
    }
}

#[test]
fn rows_behind_one_resistor_have_its_drop_in_common() {
    let build = build();
    let Load::LedArray(array) = &build.lights[0].load else { panic!("an array") };
    assert_eq!((array.row_ohm(), array.resistor_a(0.01)), (68.0, 0.01), "each its own");
    let shared = orthavis_model::document::LedArray { shared_resistor: true, ..array.clone() };
    // Three rows of 10 mA drop 30 mA · 68 Ω, as one row of 10 mA does behind 204 Ω.
    assert_eq!((shared.row_ohm(), shared.resistor_a(0.01)), (204.0, 0.03));
}

#[test]
fn a_dimmer_goes_where_nothing_dims_yet() {
    let mut build = build();
    let dimmed = |build: &Build, id: &str| {
        let light = build.lights.iter().find(|light| light.id == id).expect("a light");
        is_dimmed(&Topology::of(build), light)
    };
    assert!(!dimmed(&build, "rows") && !dimmed(&build, "bulb"));
    put_before(&mut build, "bulb").expect("a light");
    assert!(dimmed(&build, "bulb") && !dimmed(&build, "rows"));
    let dimmer = build.lights[2].feeds[0].dimmer.clone().expect("a dimmer");
    // 5 W at 12 V, and a quarter to spare: 0.52 A.
    assert_eq!((dimmer.rating_a, dimmer.hz >= 200.0), (2.0, true));
    put_before(&mut build, "bulb").expect("a light");
    assert_eq!(build.lights[2].feeds[0].dimmer, Some(dimmer), "one is enough");
    // What dims a driver sits before it, not behind.
    assert_eq!(driver_of(&build, &build.lights[1]).map(|driver| driver.id.as_str()), Some("driver"));
    put_before(&mut build, "spot").expect("a light");
    assert_eq!(build.lights[1].feeds[0].dimmer, None);
    build.converters[0].feed.dimmer = build.lights[2].feeds[0].dimmer.clone();
    assert!(dimmed(&build, "spot"));
    assert_eq!(put_before(&mut build, "none"), None);
}

#[test]
fn a_place_says_what_parts_are_fixed_on() {
    let place = |ground: &str| changed("/places", json!([{ "name": "rear", "traits": [], "surface": ground }])).expect("sound");
    assert_eq!(Site::noted(&build(), "rows"), None);
    assert_eq!(Site::of(&build(), "rows").surface, Surface::Abs, "as such models usually have it");
    for (word, ground, surface) in [
        ("wood", Ground::Wood, Surface::Wood),
        ("foam", Ground::Foam, Surface::Foam),
        ("fabric", Ground::Fabric, Surface::Fabric),
        ("plastic", Ground::Plastic, Surface::Abs),
        ("metal", Ground::Metal, Surface::PaintedMetal),
    ] {
        assert_eq!(ground.as_surface(), surface);
        assert_eq!(Site::of(&place(word), "rows").surface, surface, "{word}");
        assert_eq!(Site::noted(&place(word), "bulb"), None, "it sits elsewhere");
    }
    let mut own = place("wood");
    own.make = Some(orthavis_model::document::Make {
        fixings: vec![orthavis_model::document::Fixed { part: "rows".into(), fixing: None, surface: Some(Surface::BareMetal), coat: false }],
        ..orthavis_model::document::Make::default()
    });
    assert_eq!(Site::of(&own, "rows").surface, Surface::BareMetal, "what was said of the part itself counts first");
}

#[test]
fn a_place_is_as_high_as_it_is_drawn() {
    let height = |kind: &str, variant: Option<&str>, place: &str| {
        let mut document = whole();
        document["vehicle"]["kind"] = json!(kind);
        document["vehicle"]["variant"] = json!(variant);
        parse_value(&document).expect("sound").height_m(place)
    };
    let truck = height("skateboard", None, "front truck").expect("it is drawn");
    let bar = height("bicycle", Some("bicycle"), "handlebar").expect("it is drawn");
    assert!((0.02..0.2).contains(&truck) && (0.8..1.3).contains(&bar), "{truck} m, {bar} m");
    assert_eq!(height("skateboard", None, "in my pocket"), None);
    assert_eq!(height("drone", None, "arms"), None, "it flies");
}

#[test]
fn what_keeps_water_out_and_what_steers_is_usual_for_its_kind() {
    let build = build();
    assert!(build.lights.iter().all(orthavis_model::document::Light::is_sealed), "LEDs and modules");
    let bare = changed("/lights/2/sealed", json!(false)).expect("sound");
    assert!(!bare.lights[2].is_sealed());
    let rail = |kind: &str, critical: Option<bool>| {
        let mut document = whole();
        document["source"] = json!({ "kind": "rail", "voltage_v": 12.0, "max_current_a": 3.0, "critical": critical });
        document["vehicle"]["kind"] = json!(kind);
        parse_value(&document).expect("sound").source_steers()
    };
    assert!(rail("drone", None) && rail("rc_model", None) && !rail("rv", None));
    assert!(!rail("drone", Some(false)) && rail("rv", Some(true)));
    assert!(!build.source_steers(), "a battery is judged by its own limits");
}
