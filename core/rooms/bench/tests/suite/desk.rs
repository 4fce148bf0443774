//! The desk: what instruments show, and what becomes of them, held against circuits that can be worked out by hand.

use orthavis_bench::desk::{AMPS, Desk, Fed, MILLIAMPS, Meter, Mishap, Mode, Place, clamped, opened_at};
use orthavis_bench::fault::Fault;
use orthavis_bench::joints::Joint;
use orthavis_bench::meter::Setting;
use orthavis_bench::rig::Rig;
use orthavis_bench::spot::Spot;
use orthavis_model::document::{Build, Scene, parse_value};
use orthavis_model::states::State;
use orthavis_physics::network::Side;
use orthavis_testing::case;
use proptest::prelude::*;
use serde_json::json;

/// A lamp of 12 ohms on a battery of twelve volts and something.
fn lamp() -> Build {
    let document = json!({
        "format": "orthavis.build/1", "name": "Lamp", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "battery", "chemistry": "lead_agm", "series": 6, "capacity_ah": 7.0, "resistance_ohm": 0.05, "max_current_a": 50.0 },
        "lights": [{ "id": "lamp", "feeds": [{ "from": "source", "length_m": 1.0, "gauge": { "mm2": 1.0 }, "fuse": { "style": "blade", "rating_a": 5.0 } }],
            "load": { "kind": "module", "draw": "resistive", "voltage_v": 12.0, "power_w": 12.0, "min_v": 0.0, "max_v": 40.0 } }],
        "scenes": [{ "id": "on", "lights": { "lamp": {} } }],
    });
    parse_value(&document).expect("a sound document")
}

fn desk<'a>(build: &'a Build, scene: &'a Scene, fed: Fed, faults: &[&str]) -> Desk<'a> {
    let faults = faults.iter().map(|name| Fault::parse(build, name).expect("a fault")).collect();
    Desk::new(build, faults, scene, State::Full, fed)
}

/// A meter so good that it shows what is there to a count.
fn meter() -> Meter {
    let good = (0..5000).map(Meter::new).min_by(|a, b| {
        let off = |meter: &Meter| (meter.serial.shows(Setting::Volts, 12.0) - 12.0).abs() + (meter.serial.shows(Setting::Amps, 1.0) - 1.0).abs();
        off(a).total_cmp(&off(b))
    });
    Meter { zeroed: true, ..good.expect("a meter") }
}

const ACROSS: Place = Place::Across(Spot::To(0, Side::Plus), Spot::To(0, Side::Minus));

#[test]
fn a_supply_holds_its_voltage_until_its_limit_and_then_its_current() {
    let build = lamp();
    let scene = &build.scenes[0];
    for (volts, limit_a, mode) in [(12.0, 3.0, Mode::Voltage), (12.0, 0.5, Mode::Current), (3.0, 0.5, Mode::Voltage), (24.0, 1.0, Mode::Current)] {
        let (at, amps, how) = desk(&build, scene, Fed::Supply { volts, limit_a }, &[]).feeding().expect("a state");
        assert_eq!(how, mode, "{volts} V, {limit_a} A");
        assert!(amps <= limit_a + 1e-6 && at <= volts + 1e-9, "{at} V, {amps} A");
        // Ohm's law of the lamp and its wires: a little more than 12 ohms.
        assert!((12.0..12.2).contains(&(at / amps)), "{}", at / amps);
        if mode == Mode::Current {
            assert!((amps - limit_a).abs() < 1e-3, "{amps}");
        }
    }
    assert_eq!(desk(&build, scene, Fed::Off, &[]).feeding().expect("off"), (0.0, 0.0, Mode::Off));
    let (at, amps, _) = desk(&build, scene, Fed::Own, &[]).feeding().expect("its own battery");
    assert!(at > 12.0 && (amps - at / 12.05).abs() < 0.02, "{at} V, {amps} A");
}

#[test]
fn a_short_pulls_a_limited_supply_down_and_spoils_nothing() {
    let build = lamp();
    let (volts, amps, mode) = desk(&build, &build.scenes[0], Fed::Supply { volts: 12.0, limit_a: 0.5 }, &["short@lamp=1"]).feeding().expect("a state");
    assert_eq!(mode, Mode::Current);
    assert!((amps - 0.5).abs() < 1e-3 && volts < 0.1, "{volts} V, {amps} A");
}

#[test]
fn amps_in_line_cost_what_the_meter_puts_in_the_way() {
    let build = lamp();
    let scene = &build.scenes[0];
    let own = desk(&build, scene, Fed::Own, &[]);
    let mut rig = Rig::new(&build, &[]).expect("a rig");
    let shot = rig.shot(scene, State::Full).expect("a solution");
    let true_a = rig.amps(&shot, 0);
    let read = |milliamps: bool, meter: &mut Meter| own.read(meter, Setting::Amps, milliamps, Place::InLine(0, Joint::From)).expect("a reading");
    let shown = read(false, &mut meter()).value.expect("amps");
    assert!((shown - true_a).abs() < 0.01 * true_a && shown > 1.0, "{shown}, {true_a}");
    // A whole ampere through the milliamps socket blows its fuse, and only that one.
    let mut own_meter = meter();
    let blown = read(true, &mut own_meter);
    assert_eq!((blown.value, blown.event), (None, Some(Mishap::FuseBlown)));
    assert_eq!((own_meter.milliamps_fuse, own_meter.amps_fuse), (false, true));
    assert_eq!(read(true, &mut own_meter).event, Some(Mishap::FuseOpen));
    assert!(read(false, &mut own_meter).value.is_some(), "the other socket is whole");
    // With less current it reads, and its ohm is felt.
    let dim = desk(&build, scene, Fed::Supply { volts: 3.0, limit_a: 1.0 }, &[]);
    let amps = |milliamps: bool| dim.read(&mut meter(), Setting::Amps, milliamps, Place::InLine(0, Joint::From)).expect("a reading").value.expect("amps");
    let ratio = amps(true) / amps(false);
    let expected = (12.05 + AMPS.0) / (12.05 + MILLIAMPS.0);
    assert!((ratio - expected).abs() < 0.01, "{ratio}, {expected}");
}

#[test]
fn a_meter_on_amps_across_is_a_wire() {
    let build = lamp();
    let scene = &build.scenes[0];
    let mut own = meter();
    let shown = desk(&build, scene, Fed::Own, &[]).read(&mut own, Setting::Amps, false, ACROSS).expect("a reading");
    assert_eq!((shown.value, shown.event, own.amps_fuse), (None, Some(Mishap::FuseBlown), false));
    // Across nothing that gives anything it shows nothing, and lives.
    let mut own = meter();
    let off = desk(&build, scene, Fed::Off, &[]).read(&mut own, Setting::Amps, false, ACROSS).expect("a reading");
    assert_eq!((off.value, off.event, own.amps_fuse), (Some(0.0), None, true));
    // Behind an open joint hardly anything comes.
    let open = desk(&build, scene, Fed::Own, &["open@lamp:from+"]).read(&mut own, Setting::Amps, false, ACROSS).expect("a reading");
    assert!(own.amps_fuse && open.value.is_some_and(|amps| amps.abs() < 0.01), "{open:?}");
}

#[test]
fn ohms_want_the_power_off_and_beep_below_thirty() {
    let build = lamp();
    let scene = &build.scenes[0];
    let wire = Place::Across(Spot::From(0, Side::Minus), Spot::To(0, Side::Minus));
    let read = |fed: Fed, setting: Setting, place: Place, faults: &[&str]| {
        desk(&build, scene, fed, faults).read(&mut meter(), setting, false, place).expect("a reading")
    };
    let whole = read(Fed::Off, Setting::Ohms, wire, &[]);
    assert!(whole.beeps && whole.event.is_none() && whole.value.is_some_and(|ohm| ohm < 0.5), "{whole:?}");
    let cut = read(Fed::Off, Setting::Ohms, wire, &["open@lamp:to-"]);
    assert!(!cut.beeps && cut.value.is_none(), "{cut:?}");
    let weak = read(Fed::Off, Setting::Ohms, wire, &["weak_joint@lamp:to-=20"]);
    assert!(weak.beeps && weak.value.is_some_and(|ohm| (19.5..21.0).contains(&ohm)), "{weak:?}");
    let live = read(Fed::Own, Setting::Ohms, ACROSS, &[]);
    assert_eq!(live.event, Some(Mishap::Live));
    assert!(live.value.is_some_and(|ohm| ohm > 1000.0), "a figure that means nothing: {live:?}");
}

#[test]
fn a_clamp_is_off_by_the_same_until_it_is_zeroed() {
    let build = lamp();
    let scene = &build.scenes[0];
    let around = clamped(&build, "lamp").expect("a feed");
    let read = |meter: &Meter, fed: Fed| {
        desk(&build, scene, fed, &[]).read(&mut meter.clone(), Setting::Clamp, false, around).expect("a reading").value.expect("amps")
    };
    for serial in 0..50 {
        let fresh = Meter::new(serial);
        let zeroed = Meter { zeroed: true, ..fresh };
        let off = read(&fresh, Fed::Off) - read(&zeroed, Fed::Off);
        assert!(off.abs() <= 0.3 + 1e-9, "meter {serial}: {off}");
        assert!((read(&fresh, Fed::Own) - read(&zeroed, Fed::Own) - off).abs() < 1e-9, "the offset does not depend on the current");
    }
}

#[test]
fn what_cannot_be_done_is_refused_with_what_to_do() {
    let build = case("trike-arrays");
    let scene = &build.scenes[0];
    let own = desk(&build, scene, Fed::Own, &[]);
    let refused = |setting: Setting, place: Place| own.read(&mut Meter::new(1), setting, false, place).expect_err("a refusal").to_string();
    assert!(refused(Setting::Look, ACROSS).contains("Choose volts, amps, ohms"));
    assert!(refused(Setting::Clamp, ACROSS).contains("around one feed"));
    assert!(refused(Setting::Volts, Place::InLineAtSource).contains("Take it out"));
    assert!(refused(Setting::Ohms, Place::AroundSource).contains("Put the probes on two points"));
    assert!(opened_at(&build, "tail:to-").expect_err("minus").to_string().contains("Name a joint of a plus side"));
    assert!(opened_at(&build, "nowhere:fuse").is_err() && clamped(&build, "nobody").is_err());
    assert_eq!(opened_at(&build, "source").expect("the battery"), Place::InLineAtSource);
    assert_eq!(clamped(&build, "source").expect("the battery"), Place::AroundSource);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_supply_never_gives_more_than_it_may(volts in 0.5f64..30.0, limit_a in 0.05f64..4.0) {
        let build = lamp();
        let (at, amps, mode) = desk(&build, &build.scenes[0], Fed::Supply { volts, limit_a }, &[]).feeding().expect("a state");
        prop_assert!(amps <= limit_a * (1.0 + 1e-6) && at <= volts + 1e-9);
        // It is at its limit only where its voltage alone would give more; between the two, the wires decide.
        prop_assert!(volts / 12.0 >= limit_a || mode == Mode::Voltage);
        prop_assert!(volts / 12.1 <= limit_a || mode == Mode::Current);
    }

    #[test]
    fn volts_are_read_within_the_meters_error(serial in 0u64..400) {
        let build = lamp();
        let mut own = Meter::new(serial);
        let shown = desk(&build, &build.scenes[0], Fed::Supply { volts: 12.0, limit_a: 5.0 }, &[]).read(&mut own, Setting::Volts, false, ACROSS).expect("a reading");
        let volts = shown.value.expect("volts");
        prop_assert!((volts - 11.95).abs() <= Setting::Volts.error(12.0) + 0.06, "{}", volts);
    }
}
