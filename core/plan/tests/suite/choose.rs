//! The helpers against figures worked out by hand, and against the laws that their choices promise.

use crate::helpers::choices;
use orthavis_judge::findings::Severity;
use orthavis_judge::report::report;
use orthavis_model::document::What;
use orthavis_model::document::{Build, FuseStyle, Gauge, Led, Load, parse_value};
use orthavis_model::laws::fuse::Seat;
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::parts;
use orthavis_model::states::State;
use orthavis_plan::choose::{self, Choice, ChooseError, Pick, fuse, pixels, size, strings, strip, supply, wire};
use orthavis_plan::propose::LightWish;
use orthavis_testing::{case, changed};
use proptest::prelude::*;
use serde_json::json;

const RED: Led = Led { colour: String::new(), vf_v: 2.0, if_a: 0.02, if_max_a: 0.03, n: None, rs_ohm: None };

fn close(got: f64, want: f64, what: &str) {
    assert!((got - want).abs() <= 2e-3 * want.abs() + 1e-9, "{what}: {got}, expected {want}");
}

fn split(choice: &Choice) -> &strings::Split {
    match &choice.pick {
        Pick::Strings(split) => split,
        other => panic!("{other:?}"),
    }
}

fn demo_builds() -> Vec<Build> {
    orthavis_model::demo::BUILDS.iter().map(|text| orthavis_model::document::parse(text).expect("a sample build")).collect()
}

/// At a small 12 V battery that gives 25 A into a short.
const SEAT: Seat = Seat { highest_v: 12.8, battery: Some((12.8, 0.476)), limit_a: f64::INFINITY, small: false };

#[test]
fn preferred_values_are_the_next_larger() {
    for (series, ohm, want) in
        [(Series::E24, 331.0, 360.0), (Series::E24, 330.0, 330.0), (Series::E12, 331.0, 390.0), (Series::E12, 9.2, 10.0), (Series::E24, 0.95, 1.0)]
    {
        close(resistor::above(series, ohm), want, &format!("{ohm} Ω"));
    }
    assert_eq!([0.07, 0.16, 4.0, 7.0].map(resistor::rating_for), [Some(0.125), Some(0.5), Some(10.0), None]);
}

#[test]
fn strings_on_a_twelve_volt_rail() {
    let ask = strings::Ask { volts: vec![(State::Rail, 12.0)], led: RED, count: 7, series: Series::E24 };
    let choices = strings::strings(&ask).expect("choices");
    // Seven red in one row would want 14 V; five in a row and one of two is the most efficient that fits.
    assert!(choices.iter().all(|choice| split(choice).series <= 6), "no row longer than the supply");
    let best = &choices[0];
    assert!(best.works && best.figure("efficiency").expect("figure") > 0.75, "{}", best.title);
    let fives: Vec<usize> = (0..choices.len()).filter(|at| split(&choices[*at]).series == 5).collect();
    assert_eq!(fives.iter().map(|at| split(&choices[*at]).share).collect::<Vec<_>>(), strings::SHARES, "three quarters is the default");
    assert_eq!(fives[1], fives[0] + 1, "full current stands beside it");
    for choice in &choices {
        let part = split(choice);
        assert_eq!(part.series * part.parallel + part.rest, 7, "{}: every LED is placed", choice.title);
        let string = DiodeString::new(&RED, part.series, part.resistor_ohm);
        let amps = string.current(12.0).0;
        assert!(amps <= part.share * 0.02 * 1.0001, "{}: {amps} A", choice.title);
        assert!(amps * amps * part.resistor_ohm <= 0.6 * part.resistor_w, "{}: resistor", choice.title);
        close(choice.figure("full_a").expect("figure"), amps, &choice.title);
    }
    // One LED at three quarters: (12 − V_f(15 mA)) / 15 mA, with V_f from the diode law.
    let single = choices.iter().find(|c| split(c).series == 1 && split(c).share < 1.0).expect("one in a row");
    let vf = 2.0 + 2.0 * 0.02585 * 0.75f64.ln() + 8.0 * (0.015 - 0.02);
    close(split(single).resistor_ohm, resistor::above(Series::E24, (12.0 - vf) / 0.015), "resistor");
    close(single.figure("bench_470").expect("figure"), DiodeString::new(&RED, 1, 470.0).current(12.0).0, "bench value");
    assert!(matches!(strings::strings(&strings::Ask { count: 0, ..ask }), Err(ChooseError::Figure { .. })));
}

#[test]
fn a_row_that_starves_on_an_empty_battery_is_not_first() {
    let volts = vec![(State::Full, 12.6), (State::Half, 11.16), (State::Reserve, 10.7)];
    let led = Led { vf_v: 3.1, ..RED };
    let choices = strings::strings(&strings::Ask { volts, led, count: 12, series: Series::E24 }).expect("choices");
    let first = choices.iter().position(|c| split(c).series == 4);
    assert!(first.is_none_or(|at| at > 3), "four white in a row have nothing left at reserve");
    assert!(split(&choices[0]).series < 4 && split(&choices[0]).rest == 0, "{}", choices[0].title);
}

#[test]
fn every_way_to_feed_five_volts() {
    let ask = |volts: [f64; 2], current_a: f64| supply::Ask {
        volts: vec![(State::Full, volts[0]), (State::Reserve, volts[1])],
        limit_a: 20.0,
        need: supply::Need { voltage_v: 5.0, least_v: 4.0, most_v: 5.5, current_a, emitter: false },
        own_pack: false,
        minutes: 60.0,
    };
    let works = |ask: &supply::Ask| -> Vec<supply::Way> {
        let choices = supply::supply(ask).expect("choices").into_iter().filter(|c| c.works);
        choices.map(|c| if let Pick::Supply { way, .. } = c.pick { way } else { panic!("{c:?}") }).collect()
    };
    use supply::Way::{Boost, Buck, BuckBoost, Linear, OwnPack, Straight};
    assert_eq!(works(&ask([12.6, 10.8], 2.0)), [Buck, BuckBoost, OwnPack], "12 V: 15 W would burn in a linear regulator");
    assert_eq!(works(&ask([12.6, 10.8], 0.1)), [Buck, Linear, BuckBoost, OwnPack]);
    assert_eq!(works(&ask([4.2, 3.4], 1.0)), [Boost, BuckBoost, OwnPack], "one cell");
    assert_eq!(works(&ask([5.5, 4.2], 1.0)), [Straight, BuckBoost, OwnPack], "within what it stands");
    let boost = supply::supply(&ask([4.2, 3.4], 1.0)).expect("choices").remove(0);
    close(boost.figure("in_a").expect("figure"), 5.0 / (0.9 * 3.4), "what a step-up adds in volts it takes in amps");
    close(boost.figure("rated_a").expect("figure"), 2.0, "1 A with a quarter to spare");
}

#[test]
fn the_thinnest_wire_that_will_do() {
    let ask = wire::Ask {
        current_a: 2.0,
        length_m: 3.0,
        supply_v: 12.0,
        bundled: 1,
        heat_share: 1.0,
        metric: false,
        least_mm2: 0.0,
        frame_v: None,
        parts_ohm: 0.0,
        fuse_a: None,
    };
    let gauges = |ask: &wire::Ask| -> Vec<Gauge> {
        wire::wire(ask).expect("choices").iter().map(|c| if let Pick::Wire { gauge } = c.pick { gauge } else { panic!("{c:?}") }).collect()
    };
    // 3 % of 12 V is 0.36 V over 6 m at 2 A: 0.03 ohm/m, thicker than 20 AWG's 0.0333; 10 %: 0.1 ohm/m, 24 AWG.
    assert_eq!(gauges(&ask), [Gauge::Awg(18), Gauge::Awg(24), Gauge::Awg(26)]);
    assert_eq!(gauges(&wire::Ask { metric: true, ..ask.clone() })[0], Gauge::Mm2(0.75));
    assert_eq!(gauges(&wire::Ask { fuse_a: Some(15.0), length_m: 0.1, ..ask.clone() }), [Gauge::Awg(18)], "no thinner than its fuse protects");
    assert_eq!(gauges(&wire::Ask { bundled: 3, length_m: 0.1, ..ask.clone() }), [Gauge::Awg(24)], "a bundle carries less");
    assert!(wire::wire(&wire::Ask { supply_v: 0.0, ..ask }).is_err());
}

#[test]
fn a_fuse_between_current_and_wire() {
    let ask = fuse::Ask {
        current_a: 2.0,
        ampacity_a: 10.0,
        parts_a: None,
        fault_a: 60.0,
        metric: false,
        bundled: 1,
        heat_share: 1.0,
        place: "here".into(),
        seat: SEAT,
        cold_a: 0.0,
        charges_a2s: 0.0,
    };
    let of = |ask: &fuse::Ask, style: FuseStyle| {
        let choices = fuse::fuse(ask).expect("choices");
        let found = choices.into_iter().find(|c| matches!(&c.pick, Pick::Fuse { fuse: Some(f), .. } if f.style == style)).expect("a fuse");
        let Pick::Fuse { fuse: Some(part), grow } = found.pick.clone() else { panic!("a fuse") };
        (part.rating_a, grow, found.caution.is_some(), found.works)
    };
    assert_eq!(of(&ask, FuseStyle::Blade), (3.0, None, false, true));
    assert_eq!(of(&ask, FuseStyle::Glass), (2.5, None, false, true));
    assert_eq!(of(&fuse::Ask { ampacity_a: 2.2, ..ask.clone() }, FuseStyle::Blade), (3.0, Some(Gauge::Awg(24)), false, true), "the wire grows first");
    assert_eq!(of(&fuse::Ask { parts_a: Some(2.0), ..ask.clone() }, FuseStyle::Blade), (3.0, None, true, false), "the switch is too small");
    // Cold bulbs, and a capacitor that fills: the smaller ones would open.
    assert_eq!(of(&fuse::Ask { cold_a: 15.0, ..ask.clone() }, FuseStyle::Blade).0, 5.0, "cold filaments");
    assert_eq!(of(&fuse::Ask { charges_a2s: 10.0, ..ask.clone() }, FuseStyle::Blade).0, 4.0, "a capacitor");
    assert_eq!(of(&fuse::Ask { fault_a: 9.0, ..ask.clone() }, FuseStyle::Blade), (3.0, None, true, true), "too slow behind a converter");
    // What a style stands: volts, and amperes into a short right behind it.
    let at = |highest_v: f64, ohm: f64| fuse::Ask { seat: Seat { highest_v, battery: Some((highest_v, ohm)), ..SEAT }, ..ask.clone() };
    assert_eq!(of(&at(42.0, 0.5), FuseStyle::Blade), (3.0, None, true, false), "42 V on a blade fuse");
    assert_eq!(of(&at(42.0, 0.5), FuseStyle::Blade58v), (3.0, None, false, true));
    assert_eq!(of(&at(12.8, 0.15), FuseStyle::Glass), (2.5, None, true, true), "70 A on a glass fuse that breaks 35");
    assert_eq!(of(&at(12.8, 0.01), FuseStyle::Glass), (2.5, None, true, false), "278 A");
    assert_eq!(of(&at(12.8, 0.01), FuseStyle::Blade), (3.0, None, false, true));
    assert!(!fuse::fuse(&fuse::Ask { current_a: 90.0, ..ask }).expect("choices")[0].works);
}

#[test]
fn strips_are_whole_segments_fed_where_they_need_it() {
    let Some(Load::Strip(part)) =
        parts::find("strip-12v-white-144").and_then(|p| if let What::Light { load, .. } = &p.what { Some(load.clone()) } else { None })
    else {
        panic!("a strip")
    };
    let short = strip::strip(&strip::Ask { strip: part.clone(), measured_m: 0.98 }).expect("choices");
    let Pick::Strip { segments, length_m, feeds_at_m } = &short[0].pick else { panic!("a strip") };
    assert_eq!((*segments, feeds_at_m.len()), (19, 1), "one feed is enough for a metre");
    close(*length_m, 0.95, "whole segments");
    close(short[0].figure("lost_m").expect("figure"), 0.03, "the rest stays dark");
    let long = strip::strip(&strip::Ask { strip: part.clone(), measured_m: 5.0 }).expect("choices");
    let best = &long[0];
    assert!(best.figure("fade").expect("figure") >= strip::EVEN, "{}", best.title);
    assert!(long.iter().any(|c| !c.works && c.title.ends_with("at one end")), "five metres from one end fade");
    let fades: Vec<f64> = ["at one end", "in the middle", "at both ends and in the middle"]
        .iter()
        .map(|words| long.iter().find(|c| c.title.ends_with(words)).and_then(|c| c.figure("fade")).expect("a way"))
        .collect();
    assert!(fades.is_sorted(), "more feeds fade less: {fades:?}");
    assert!(strip::strip(&strip::Ask { strip: part, measured_m: 0.01 }).is_err());
}

#[test]
fn pixels_on_a_small_rail() {
    let build = case("hex-rail");
    let light = build.lights.iter().find(|l| matches!(l.load, Load::Pixels(_))).expect("pixels");
    let Load::Pixels(part) = light.load.clone() else { panic!("pixels") };
    let each = part.channel_a.iter().sum::<f64>() + part.idle_a;
    let ask = pixels::Ask { pixels: orthavis_model::document::Pixels { count: 32, ..part.clone() }, limit_a: 1.0, colour: [1.0; 3], level: 1.0 };
    let choices = pixels::pixels(&ask).expect("choices");
    let fits = (0.8 / each).floor();
    close(choices[0].figure("fits").expect("figure"), fits, "how many");
    assert!(choices.iter().filter(|c| c.works).all(|c| c.figure("total_a").expect("figure") <= 0.8 * 1.0001), "what works fits");
    assert!(choices.iter().all(|c| c.figure("level_fits") == choices[0].figure("level_fits")), "one level fits, whatever is chosen");
    let Pick::Pixels { count: 32, level } = choices[0].pick else { panic!("all of them, dimmer, comes first: {:?}", choices[0].pick) };
    close(level, (((0.8 / 32.0 - part.idle_a) / part.channel_a.iter().sum::<f64>()) * 100.0).floor() / 100.0, "level");
}

/// What a helper says of a build's part can be taken over, and does not bring a new stop.
#[test]
fn choices_can_be_taken_over() {
    let mut builds = demo_builds();
    builds.extend(["chair-24v", "van-strips", "boost-and-driver", "deck-pixels"].map(case));
    let mut taken = 0;
    for build in builds {
        let stops = |build: &Build| report(build).map(|r| r.findings.iter().filter(|f| f.severity == Severity::Stop).count());
        let before = stops(&build).expect("a report");
        let all = choices(&build);
        for light in &build.lights {
            assert!(supply::for_light(&build, &light.id).expect("ways").iter().any(|c| c.works), "{}: some way to feed it", light.id);
        }
        for choice in all.iter().filter(|c| c.works && c.caution.is_none()) {
            let Some(changes) = &choice.changes else { continue };
            let after = changed(&build, &json!(changes));
            assert!(stops(&after).expect(&choice.title) <= before, "{}: {}", build.name, choice.title);
            taken += 1;
        }
        for choice in &all {
            assert!(!choice.figures.is_empty() || !choice.works, "{}", choice.title);
            assert!(choice.figures.iter().all(|f| f.working.result.value == f.value && !f.working.formula.is_empty()), "{}", choice.title);
        }
    }
    assert!(taken > 50, "only {taken} choices were tried");
}

#[test]
fn sizing_everything_leaves_no_wire_or_fuse_at_fault() {
    let mut builds = demo_builds();
    builds.extend(["chair-24v", "van-strips", "boost-and-driver", "deck-pixels", "trike-arrays"].map(case));
    for mut build in builds {
        for (list, index) in [(0, 0), (1, 0)] {
            // Thin wires and no fuses, so that there is something to do.
            let feed = if list == 0 { build.lights.get_mut(index).map(|l| &mut l.feeds[0]) } else { build.converters.get_mut(index).map(|c| &mut c.feed) };
            if let Some(feed) = feed {
                (feed.gauge, feed.fuse) = (Gauge::Awg(28), None);
            }
        }
        let sized = size::everything(&build).expect("sizes");
        // What a small rail or a track gives warms no wire that anybody would lay.
        let little = build.source.max_current_a() <= 2.0;
        assert!(little || !sized.lines.is_empty(), "{}: nothing was sized", build.name);
        let after = report(&changed(&build, &json!(sized.changes))).expect("a report");
        let left: Vec<_> = after
            .findings
            .iter()
            .filter(|f| ["wire.ampacity", "fuse.missing", "fuse.above_wire", "fuse.nuisance"].contains(&f.code))
            .map(|f| (f.code, &f.subject))
            .collect();
        assert!(left.is_empty(), "{}: {left:?} {:?}", build.name, sized.lines);
    }
}

#[test]
fn the_library_is_sound() {
    let parts = parts::read_library().expect("a sound library");
    let ids: std::collections::BTreeSet<&str> = parts.iter().map(|p| p.id.as_str()).collect();
    assert_eq!(ids.len(), parts.len(), "ids are unique");
    for part in &parts {
        assert!(part.figures_from.len() > 20, "{}: says where its figures come from", part.id);
        let text = serde_json::to_value(part).expect("json");
        assert_eq!(&orthavis_model::document::parse_part(&text).expect("its own print"), part);
    }
    let kinds: std::collections::BTreeSet<String> =
        parts.iter().map(|p| serde_json::to_value(&p.what).expect("json")["kind"].as_str().expect("kind").to_owned()).collect();
    assert_eq!(kinds.len(), 9, "{kinds:?}");
    // A person's own part travels inside the build.
    let mut document = case("chair-24v").to_value();
    document["parts"] = json!([parts[0]]);
    assert_eq!(parse_value(&document).expect("a build with a part").parts, vec![parts[0].clone()]);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_split_overdrives_an_led(low in 2.0..48.0f64, span in 1.0..1.5f64, vf in 1.2..4.0f64, amps in 0.005..0.7f64, count in 1u32..40) {
        let led = Led { colour: "any".into(), vf_v: vf, if_a: amps, if_max_a: 1.3 * amps, n: None, rs_ohm: None };
        let ask = strings::Ask { volts: vec![(State::Full, low * span), (State::Reserve, low)], led: led.clone(), count, series: Series::E12 };
        for choice in strings::strings(&ask).expect("choices") {
            let part = split(&choice).clone();
            prop_assert_eq!(part.series * part.parallel + part.rest, count);
            for (row, ohm) in [(part.series, part.resistor_ohm)].into_iter().chain(part.rest_ohm.map(|ohm| (part.rest, ohm))) {
                prop_assert!(DiodeString::new(&led, row, ohm).current(low * span).0 <= part.share * amps * 1.0001);
            }
        }
    }

    #[test]
    fn thicker_is_never_asked_for_less_current(amps in 0.01..20.0f64, more in 1.0..3.0f64, length in 0.1..10.0f64) {
        let ask = |current_a: f64| wire::Ask { current_a, length_m: length, supply_v: 24.0, bundled: 1, heat_share: 1.0, metric: false, least_mm2: 0.0, frame_v: None, parts_ohm: 0.0, fuse_a: None };
        let thinnest = |current_a: f64| match wire::wire(&ask(current_a)).expect("sizes").last().map(|c| c.pick.clone()) {
            Some(Pick::Wire { gauge }) => gauge.area_mm2(),
            _ => f64::INFINITY,
        };
        prop_assert!(thinnest(amps) <= thinnest(amps * more));
    }

    #[test]
    fn supplies_are_listed_whatever_is_asked(high in 0.5..100.0f64, dip in 0.5..1.0f64, want in 0.5..60.0f64, amps in 0.01..20.0f64, emitter in any::<bool>()) {
        let ask = supply::Ask {
            volts: vec![(State::Full, high), (State::Reserve, high * dip)],
            limit_a: 1000.0,
            need: supply::Need { voltage_v: want, least_v: 0.85 * want, most_v: 1.1 * want, current_a: amps, emitter },
            own_pack: false,
            minutes: 30.0,
        };
        let choices = supply::supply(&ask).expect("choices");
        prop_assert_eq!(choices.len(), supply::Way::WORDS.len());
        prop_assert!(choices[0].works);
        prop_assert!(choices.iter().all(|c| c.works || c.caution.is_some()), "what does not work says why");
        prop_assert!(choices.iter().all(|c| c.figures.iter().all(|f| f.value.is_finite())));
    }

    #[test]
    fn offered_voltages_never_rise_as_the_battery_empties(series in 2u32..14) {
        let mut build = case("trike-arrays");
        if let orthavis_model::document::Source::Battery(battery) = &mut build.source { battery.series = series; }
        for from in ["source", "twelve"] {
            let volts: Vec<f64> = choose::offered_v(&build, from).expect("volts").into_iter().map(|(_, v)| v).collect();
            prop_assert!(volts.windows(2).all(|pair| pair[1] <= pair[0]), "{volts:?}");
        }
    }
}

/// A part of the library becomes the light that it is: white by its temperature, whole segments, pixels by the metre.
#[test]
fn a_part_of_the_library_becomes_a_light() {
    let part = |id: &str| parts::find(id).unwrap_or_else(|| panic!("{id}")).clone();
    let colour = |mut part: orthavis_model::document::Part, kelvin: f64| {
        if let What::Bulb { colour_k, .. } = &mut part.what {
            *colour_k = kelvin;
        }
        match LightWish::of(part, None, None) {
            Some(LightWish::Load { colour, .. }) => colour,
            other => panic!("{other:?}"),
        }
    };
    for (kelvin, words) in [(2700.0, "warm white"), (3299.0, "warm white"), (3300.0, "white"), (6500.0, "white")] {
        assert_eq!(colour(part("led-pin-2w"), kelvin).as_deref(), Some(words), "{kelvin} K");
    }
    let mut pieces = 0;
    for known in parts::library() {
        let lit = matches!(known.what, What::Led { .. } | What::Light { .. } | What::Bulb { .. });
        let wish = LightWish::of(known.clone(), None, Some(0.47));
        assert_eq!(wish.is_some(), lit, "{}", known.id);
        if let Some(LightWish::Load { load, mass_g, .. }) = wish {
            let whole = |length: f64, step: f64| (length / step - (length / step).round()).abs() < 1e-4;
            match *load {
                Load::Strip(strip) => assert!(strip.length_m <= 0.47 + 1e-9 && whole(strip.length_m, strip.segment_m), "{}", known.id),
                Load::Pixels(pixels) => assert!(f64::from(pixels.count) * pixels.pitch_m <= 0.47 + 1e-6, "{}", known.id),
                _ => continue,
            }
            assert!(known.mass_g.is_none_or(|mass| mass_g < mass), "{}: less than a metre is lighter", known.id);
            pieces += 1;
        }
    }
    assert!(pieces > 10, "{pieces} pieces");
}

/// A light that is fed from the battery itself brings its fuse, and wire that the fuse protects; so does a new module there.
#[test]
fn a_lead_from_the_battery_brings_its_fuse() {
    let bare = |build: &Build| -> Vec<String> {
        report(build).expect("a report").findings.into_iter().filter(|finding| finding.code == "fuse.missing").map(|finding| finding.subject).collect()
    };
    let mut straight = case("trike-arrays");
    let light = straight.lights[0].id.clone();
    assert!(straight.lights[0].feeds[0].fuse.is_none() && straight.lights[0].feeds[0].from != "source");
    supply::feed_by(&mut straight, &light, None).expect("a light");
    let feed = &straight.lights[0].feeds[0];
    let fuse = feed.fuse.as_ref().expect("its fuse came with it");
    assert_eq!(fuse.style, FuseStyle::Blade, "as the module had it");
    assert!(feed.gauge.ampacity_a(feed.bundled) >= fuse.rating_a);
    assert!(!bare(&straight).contains(&light), "{:?}", bare(&straight));
    // A module in place of a bare lead.
    let unfused = changed(&case("trike-arrays"), &json!([{ "op": "replace", "path": "/converters/0/feed/fuse", "value": null }]));
    assert_eq!(bare(&unfused), [unfused.converters[0].id.clone()]);
    let choices = supply::for_light(&unfused, &light).expect("choices");
    let module = choices.iter().find_map(|choice| match &choice.pick {
        Pick::Supply { converter: Some(module), .. } if choice.works => Some(module.clone()),
        _ => None,
    });
    let mut own = unfused.clone();
    supply::feed_by(&mut own, &light, module.as_deref()).expect("a light");
    let added = own.converters.iter().find(|one| unfused.converters.iter().all(|old| old.id != one.id)).expect("a module of its own");
    assert!(added.feed.fuse.is_some() && !bare(&own).contains(&added.id), "{:?}", bare(&own));
}

/// Behind a circuit on a module the module's voltage is the supply, and the fuse before the circuit is the one that protects.
#[test]
fn a_wire_behind_a_circuit_knows_its_supply_and_the_fuse_above() {
    let build = demo_builds().into_iter().find(|build| build.name == "Firefly bicycle").expect("a sample");
    let at = build.circuits.iter().position(|circuit| circuit.id == "wheel-keeper").expect("its circuit");
    let module_v = build.converters.iter().find(|one| one.id == build.circuits[at].feed.from).and_then(|one| one.set_v()).expect("its setting");
    for choice in wire::for_feed(&build, "fireflies").expect("sizes") {
        let share = choice.figures.iter().find(|fact| fact.key == "drop_share").expect("its share");
        let supply = share.working.given.iter().find(|given| given.symbol == "V").expect("the supply").value;
        assert!(supply > 0.7 * module_v && supply <= module_v + 1e-9, "{}: {supply} V of {module_v}", choice.title);
    }
    let gauges = |rating: f64| {
        let fused = changed(&build, &json!([{ "op": "add", "path": format!("/circuits/{at}/feed/fuse"), "value": { "style": "blade", "rating_a": rating } }]));
        wire::for_feed(&fused, "fireflies").expect("sizes").into_iter().map(|choice| choice.title).collect::<Vec<_>>()
    };
    assert_ne!(gauges(2.0), gauges(15.0), "no thinner than the fuse above protects");
}

/// Half as bright to the eye is a fifth of the light, by whatever way.
#[test]
fn a_light_looks_as_bright_as_wished() {
    let build = case("trike-arrays");
    let id = &build.lights[1].id;
    for wish in [0.3, 0.5, 0.8] {
        let choices = choose::looks::for_light(&build, id, Some("ride"), wish).expect("choices");
        let ways: Vec<&str> = choices.iter().map(|choice| word_of(&choice.pick)).collect();
        assert!(ways.contains(&"level") && ways.contains(&"resistor"), "{ways:?}");
        for choice in choices.iter().filter(|choice| choice.works) {
            let looks = choice.figure("looks").expect("a figure");
            assert!((looks - wish).abs() <= 0.03, "{}: {looks} for {wish}", choice.title);
        }
        let Some(Pick::Level { level }) = choices.iter().find(|choice| word_of(&choice.pick) == "level").map(|choice| choice.pick.clone()) else {
            panic!("a level")
        };
        // What the scene asks for is what arrives, or a little less: as much light as that brightness takes.
        let share = ((wish + 0.16) / 1.16_f64).powi(3);
        assert!((level / share - 1.0).abs() < 0.1, "{level} for {share}");
    }
    assert!(choose::looks::for_light(&build, id, None, 0.0).is_err());
    assert!(choose::looks::for_light(&build, "moon", None, 0.5).is_err());
    assert!(choose::looks::for_light(&build, id, Some("moon"), 0.5).is_err());
}

fn word_of(pick: &Pick) -> &'static str {
    match pick {
        Pick::Level { .. } => "level",
        Pick::Resistor { .. } => "resistor",
        Pick::Rail { .. } => "rail",
        _ => "another",
    }
}

/// A strip that has a converter for itself can be turned down there; what shares one cannot.
#[test]
fn a_rail_is_turned_down_only_where_nothing_else_hangs_on_it() {
    let shared = case("trike-arrays");
    let ways = |build: &Build, id: &str| {
        choose::looks::for_light(build, id, None, 0.5).expect("choices").iter().map(|choice| word_of(&choice.pick)).collect::<Vec<_>>()
    };
    assert!(!ways(&shared, &shared.lights[0].id).contains(&"rail"));
    let alone = changed(
        &shared,
        &json!([
            { "op": "remove", "path": "/lights/1" },
            { "op": "remove", "path": "/scenes/1" },
            { "op": "remove", "path": "/scenes/0/lights/tail" },
            { "op": "replace", "path": "/usage", "value": {} }
        ]),
    );
    assert!(ways(&alone, &alone.lights[0].id).contains(&"rail"));
}
