//! What a change asks of a person: nothing for nothing, more for more, and light last of all.

use orthavis_judge::effort::{Effort, effort, sizes_thicker};
use orthavis_judge::findings::Severity;
use orthavis_judge::report::report;
use orthavis_model::document::{Build, Dimmer, Fuse, FuseSide, FuseStyle, Gauge, Load, Source, Switch};
use orthavis_model::edit::feed_mut;
use orthavis_testing::{case, cases, table};

type Edit = fn(&mut Build);

fn cost(edit: Edit) -> Effort {
    let before = case("trike-arrays");
    let mut after = before.clone();
    edit(&mut after);
    assert!(before != after, "the edit changes nothing");
    effort(&before, &after)
}

fn first_light(build: &mut Build) -> &mut orthavis_model::document::Feed {
    let id = build.lights[0].id.clone();
    feed_mut(build, &id).expect("its feed")
}

fn source_fuse(build: &mut Build) -> &mut Fuse {
    build.converters[0].feed.fuse.as_mut().expect("a fuse")
}

fn sink(build: &mut Build, k_per_w: f64) {
    let Load::LedArray(array) = &mut build.lights[0].load else { panic!("an array") };
    array.sink_k_per_w = Some(k_per_w);
}

#[test]
fn nothing_costs_nothing() {
    for (name, build) in cases() {
        assert_eq!(effort(&build, &build), Effort::default(), "{name}");
        assert_eq!(effort(&build, &build).score(), 0.0);
    }
}

#[test]
fn each_change_asks_what_it_takes() {
    // Edit, parts to get, whether it takes work, whether money, whether it adds mass.
    let rows: [(&str, Edit, f64, bool, bool, bool); 17] = [
        ("a fuse", |b| first_light(b).fuse = Some(Fuse::of(FuseStyle::Blade, 1.0)), 1.0, true, true, false),
        ("a switch", |b| first_light(b).switch = Some(Switch::of(10.0)), 1.0, true, true, false),
        ("a fuse further down its wire", |b| source_fuse(b).at_m = Some(0.3), 0.0, true, true, false),
        ("a fuse in the other wire", |b| source_fuse(b).side = Some(FuseSide::Minus), 0.0, true, true, false),
        ("a plug with a key", |b| first_light(b).keyed = Some(true), 1.0, true, true, false),
        ("a sealed light", |b| b.lights[0].sealed = Some(true), 1.0, true, true, false),
        ("a sealed module", |b| b.converters[0].sealed = Some(true), 1.0, true, true, false),
        ("a metal profile", |b| b.lights[0].profile = true, 1.0, true, true, false),
        ("a dimmer", |b| first_light(b).dimmer = Some(Dimmer { hz: 500.0, rating_a: 2.0 }), 1.0, true, true, false),
        ("more metal", |b| sink(b, 5.0), 1.0, true, true, false),
        ("a plug", |b| first_light(b).contacts += 1, 1.0, true, true, false),
        ("thicker wire", |b| first_light(b).gauge = Gauge::Awg(14), 0.0, true, true, true),
        ("a longer way", |b| first_light(b).length_m += 1.0, 0.0, true, true, false),
        ("a turned screw", |b| *b.converters[0].conversion.setting_mut() -= 0.5, 0.0, true, false, false),
        ("a larger module", |b| b.converters[0].max_out_a *= 2.0, 1.0, true, true, false),
        ("a wire out of the bundle", |b| first_light(b).bundled += 1, 0.0, true, false, false),
        (
            "another light",
            |b| {
                let mut copy = b.lights[0].clone();
                copy.id = "another".into();
                b.lights.push(copy);
            },
            1.0,
            true,
            true,
            true,
        ),
    ];
    for (what, edit, parts, work, money, mass) in rows {
        let cost = cost(edit);
        assert_eq!(cost.parts, parts, "{what}");
        assert_eq!((cost.minutes > 0.0, cost.eur > 0.0, cost.grams > 0.0), (work, money, mass), "{what}: {cost:?}");
        assert_eq!(cost.lost, 0.0, "{what}");
    }
}

#[test]
fn light_is_given_up_last() {
    let dimmed = cost(|build| {
        let id = build.lights[0].id.clone();
        build.scenes[0].lights.get_mut(&id).expect("lit").level *= 0.8;
    });
    let module = cost(|build| build.converters[0].max_out_a *= 2.0);
    let both = cost(|build| {
        build.converters[0].max_out_a *= 2.0;
        first_light(build).gauge = Gauge::Awg(14);
    });
    assert!(dimmed.score() > both.score() && both.score() > module.score(), "{dimmed:?} {both:?} {module:?}");
    let brighter = {
        let mut before = case("trike-arrays");
        let id = before.lights[0].id.clone();
        let after = before.clone();
        before.scenes[0].lights.get_mut(&id).expect("lit").level = 0.5;
        effort(&before, &after)
    };
    assert_eq!(brighter.lost, 0.0, "more light is no loss");
}

#[test]
fn a_habit_weighs_as_much_as_a_way_to_move() {
    let before = case("van-strips");
    let mut after = before.clone();
    let Source::Battery(battery) = &mut after.source else { panic!("a battery") };
    assert!(battery.used_while_charging);
    battery.used_while_charging = false;
    assert_eq!(effort(&before, &after).minutes, 15.0);
    // Taking the habit up again is free.
    assert_eq!(effort(&after, &before).minutes, 0.0);
}

#[test]
fn sizes_are_counted_as_they_are_sold() {
    for (old, new, count) in [
        (Gauge::Awg(22), Gauge::Awg(22), 0),
        (Gauge::Awg(22), Gauge::Awg(20), 1),
        (Gauge::Awg(22), Gauge::Awg(16), 3),
        (Gauge::Awg(16), Gauge::Awg(22), 0),
        (Gauge::Mm2(0.5), Gauge::Mm2(1.0), 2),
        (Gauge::Mm2(0.5), Gauge::Awg(16), 0),
    ] {
        assert_eq!(sizes_thicker(old, new), count, "{} to {}", old.name(), new.name());
    }
}

/// The verdict counts what the findings say, and is never safer than the worst of them.
#[test]
fn a_verdict_sums_up_its_findings() {
    let mut heads = std::collections::BTreeSet::new();
    for (name, build) in cases().into_iter().chain(table().into_iter().map(|(name, build, _)| (name, build))) {
        let report = report(&build).unwrap_or_else(|error| panic!("{name}: {error}"));
        let count = |severity| report.findings.iter().filter(|finding| finding.severity == severity).count();
        let verdict = &report.verdict;
        assert_eq!((verdict.stops, verdict.fixes, verdict.notes), (count(Severity::Stop), count(Severity::Fix), count(Severity::Note)), "{name}");
        assert_eq!(verdict.safe, verdict.stops == 0 && !build.lights.is_empty(), "{name}");
        let expected = match (build.lights.is_empty(), verdict.stops, verdict.fixes) {
            (true, ..) => "Add a light to see if it is safe",
            (_, 1.., _) => "Not safe to build yet",
            (_, 0, 1..) => "Lights up, but fix these first",
            _ => "No problems found",
        };
        assert_eq!(verdict.headline, expected, "{name}");
        heads.insert(verdict.headline.clone());
        let battery = matches!(build.source, Source::Battery(_));
        assert_eq!(verdict.costs.len(), if battery { build.scenes.len() } else { 0 }, "{name}");
        for (cost, scene) in verdict.costs.iter().zip(&build.scenes) {
            assert_eq!(cost.scene, scene.id, "{name}");
            if let (Some(share), Some(hours), Some(minutes)) = (cost.share, cost.hours, cost.minutes) {
                assert!((share * hours * 60.0 / minutes - 1.0).abs() < 1e-9, "{name}: {share} of {hours} h in {minutes} min");
            }
        }
    }
    assert!(heads.len() >= 3, "only {heads:?} were met");
}
