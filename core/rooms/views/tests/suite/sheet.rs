//! The battery's sheet: what its label, its voltages and its facts say of each other, over every battery there is.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Battery, Build, Source, Tap, VehicleKind, parse};
use orthavis_model::laws::battery::cell_of;
use orthavis_testing::cases;
use orthavis_views::sheet::{measured, source_sheet};

/// Every build of the samples and the cases.
fn builds() -> Vec<(String, Build)> {
    let samples = BUILDS.iter().map(|text| parse(text).expect("a sample")).map(|build| (build.name.clone(), build));
    samples.chain(cases()).collect()
}

fn batteries() -> Vec<(String, Build, Battery)> {
    let with = |(name, build): (String, Build)| if let Source::Battery(battery) = build.source.clone() { Some((name, build, battery)) } else { None };
    builds().into_iter().filter_map(with).collect()
}

#[test]
fn facts_of_a_battery_add_up() {
    let all = batteries();
    assert!(all.len() > 8, "{} batteries", all.len());
    for (name, build, battery) in all {
        let sheet = source_sheet(&build);
        let value = |key: &str| sheet.facts.iter().find(|fact| fact.key == key).unwrap_or_else(|| panic!("{name}: no {key}")).value;
        let close = |a: f64, b: f64, what: &str| assert!((a - b).abs() < 1e-9 * (1.0 + b.abs()), "{name}: {what}: {a} and {b}");
        close(value("full_v"), battery.emf_v(1.0), "full");
        close(value("half_v"), battery.emf_v(0.5), "half");
        assert!(value("full_v") > value("half_v"), "{name}: it falls as it empties");
        // Where half of it may be used, half is the reserve.
        assert_eq!(value("half_v") > value("reserve_v"), battery.usable() > 0.5, "{name}: {} V at reserve", value("reserve_v"));
        close(value("usable_ah"), battery.capacity_ah * battery.usable(), "usable");
        close(value("usable_wh"), value("usable_ah") * value("half_v"), "energy");
        close(value("limit_a"), battery.max_current_a, "limit");
        assert!(value("pack_ohm") > 0.0 && value("pack_ohm") < value("full_v") / value("limit_a"), "{name}: it gives its limit");
        let label = sheet.label.unwrap_or_else(|| panic!("{name}: no label"));
        close(label.nominal_v, f64::from(battery.series) * cell_of(battery.chemistry).nominal_v, "nominal");
        close(label.energy_wh, label.nominal_v * battery.capacity_ah, "energy of the label");
        assert!(label.nominal_v < value("full_v") + 1e-9, "{name}: a full one shows more than its name");
        // Every fact says how it came about, with its unit.
        assert!(sheet.facts.iter().all(|fact| !fact.label.is_empty() && !fact.working.words.is_empty() && !fact.unit.is_empty()), "{name}");
        // Nobody is sent to a balance lead, or to one of a pair.
        for tap in &sheet.taps {
            assert_eq!(tap.right, matches!(tap.tap, Tap::Main | Tap::Accessory), "{name}: {:?}", tap.tap);
            assert!(tap.why.ends_with('.'), "{name}");
        }
        assert_eq!(sheet.taps.iter().any(|tap| tap.tap == Tap::BalanceLead), battery.is_lithium(), "{name}: only lithium packs have one");
        assert_eq!(sheet.own_pack_for.iter().any(|why| why.contains("medical")), build.vehicle.kind == VehicleKind::Wheelchair, "{name}");
        assert!(!sheet.own_pack_for.is_empty() && !sheet.own_pack_against.is_empty(), "{name}");
    }
}

#[test]
fn a_rail_leaves_what_others_do_not_take() {
    let mut seen = 0;
    for (name, build) in builds() {
        let (limit, other) = match &build.source {
            Source::Battery(_) => continue,
            Source::Rail(rail) => (rail.max_current_a, rail.other_load_a),
            Source::Track(track) => (track.max_current_a, track.other_load_a),
        };
        let sheet = source_sheet(&build);
        let left = sheet.facts.iter().find(|fact| fact.key == "left_a").unwrap_or_else(|| panic!("{name}")).value;
        assert!((left - (limit - other).max(0.0)).abs() < 1e-12, "{name}: {left}");
        assert!(sheet.taps.is_empty() && sheet.label.is_none(), "{name}: a rail has neither taps nor a label");
        seen += 1;
    }
    assert!(seen >= 2, "{seen} rails");
}

#[test]
fn a_voltage_at_rest_says_how_full_it_is() {
    for (name, _, battery) in batteries() {
        let mut last = -1.0;
        for step in 0..=50 {
            let soc = f64::from(step) / 50.0;
            let said = measured(&battery, battery.emf_v(soc));
            assert!(
                (said.soc - soc).abs() < 1e-6 || said.uncertainty > 0.0 && (said.soc - soc).abs() <= said.uncertainty + 0.02,
                "{name}: {soc} read as {}",
                said.soc
            );
            assert!(said.soc >= last, "{name}: more volts, less charge");
            assert!((0.0..=1.0).contains(&said.uncertainty), "{name}: {}", said.uncertainty);
            assert!(said.words.starts_with("About ") && said.words.ends_with('.'), "{name}: {}", said.words);
            last = said.soc;
        }
        for (volts, soc, words) in
            [(1.05 * battery.emf_v(1.0), 1.0, "is more than"), (0.9 * battery.emf_v(0.0), 0.0, "do not charge"), (0.0, 0.0, "is less than")]
        {
            let said = measured(&battery, volts);
            assert!(said.soc == soc && said.words.contains(words), "{name}: {volts} V: {}", said.words);
        }
    }
}
