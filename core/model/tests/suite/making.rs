//! What a build says of how it is made: what is refused, and with which remedy; dates; and what holds where.

use orthavis_model::document::{Build, Fixing, Surface, Trait, parse_value};
use orthavis_model::fixing::{Against, Protection, Site, chosen, coat_min, curing, objections, protection, ranked};
use orthavis_model::moment::{date_of, day_of};
use orthavis_testing::case;
use proptest::prelude::*;
use serde_json::{Value, json};

fn with(make: &Value) -> Result<Build, Vec<(String, String)>> {
    let mut document = case("trike-arrays").to_value();
    document["make"] = make.clone();
    parse_value(&document).map_err(|error| error.faults.into_iter().map(|fault| (fault.pointer, format!("{}. {}", fault.problem, fault.remedy))).collect())
}

#[test]
fn what_cannot_be_is_refused_at_its_place_with_a_remedy() {
    let session = |weekday: &str, start: &str, minutes: i32| json!({ "weekday": weekday, "start": start, "minutes": minutes });
    let table: Vec<(Value, &str, &str)> = vec![
        (json!({ "sessions": [session("friday", "19:00", -30)] }), "/make/sessions/0/minutes", "5"),
        (json!({ "sessions": [session("friday", "19:00", 2000)] }), "/make/sessions/0/minutes", "960"),
        (json!({ "sessions": [session("friday", "25:00", 60)] }), "/make/sessions/0/start", "Write it as 19:30"),
        (json!({ "sessions": [session("friday", "7 pm", 60)] }), "/make/sessions/0/start", "Write it as 19:30"),
        (json!({ "sessions": [session("freeday", "19:00", 60)] }), "/make/sessions/0/weekday", "friday"),
        (json!({ "sessions": [session("friday", "19:00", 120), session("friday", "20:00", 60)] }), "/make/sessions/1", "Shorten one of them"),
        (json!({ "sessions": [session("sunday", "22:00", 300), session("monday", "01:00", 60)] }), "/make/sessions/1", "overlaps with sunday 22:00"),
        (json!({ "sessions": [session("monday", "01:00", 60), session("sunday", "22:00", 300)] }), "/make/sessions/1", "overlaps with monday 01:00"),
        (json!({ "people": 0 }), "/make/people", "1"),
        (json!({ "begins": "2026-02-30" }), "/make/begins", "Write it as 2026-11-27"),
        (json!({ "begins": "27.11.2026" }), "/make/begins", "Write it as 2026-11-27"),
        (json!({ "workshop_c": 90 }), "/make/workshop_c", "50"),
        (json!({ "delivery_days": -1 }), "/make/delivery_days", "0"),
        (json!({ "fixings": [{ "part": "nobody", "fixing": "ties" }] }), "/make/fixings/0/part", "Name a light, converter, junction or circuit"),
        (json!({ "fixings": [{ "part": "tail" }, { "part": "tail" }] }), "/make/fixings/1/part", "Keep one entry"),
        (json!({ "fixings": [{ "part": "tail", "fixing": "spit" }] }), "/make/fixings/0/fixing", "hot_glue"),
        (json!({ "rolls": [{ "of": "wire 20 AWG, red", "length_m": 0 }] }), "/make/rolls/0/length_m", "above 0"),
        (json!({ "prices": [{ "of": "clip", "price": -1, "currency": "EUR" }] }), "/make/prices/0/price", "0"),
        (json!({ "prices": [{ "of": "clip", "price": 1 }] }), "/make/prices/0/currency", ""),
        (json!({ "prices": [{ "of": "clip", "price": 1, "currency": "eu" }] }), "/make/prices/0/currency", "as in EUR"),
        (json!({ "evenings": [] }), "/make/evenings", ""),
        (json!({ "spaces": [{ "id": "box", "size_mm": [60, 0, 20] }] }), "/make/spaces/0/size_mm/1", "above 0"),
        (json!({ "spaces": [{ "id": "box" }] }), "/make/spaces/0/size_mm", ""),
        (json!({ "spaces": [{ "id": "outside", "size_mm": [60, 30, 20] }] }), "/make/spaces/0/id", "another id"),
        (json!({ "spaces": [{ "id": "a", "size_mm": [1, 1, 1] }, { "id": "a", "size_mm": [1, 1, 1] }] }), "/make/spaces/1/id", "its own id"),
        (
            json!({ "spaces": [{ "id": "a", "size_mm": [1, 1, 1], "openings": [{ "width_mm": 14, "height_mm": -9 }] }] }),
            "/make/spaces/0/openings/0/height_mm",
            "above 0",
        ),
        (json!({ "inside": [{ "part": "tail", "space": "box" }] }), "/make/inside/0/space", "or `outside`"),
        (json!({ "inside": [{ "part": "source" }] }), "/make/inside/0/part", "Name a light, converter, junction or circuit"),
        (json!({ "inside": [{ "part": "tail", "size_mm": [10, 10, -1] }] }), "/make/inside/0/size_mm/2", "above 0"),
        (json!({ "positions": [{ "part": "tail", "at_mm": [0, 0, 0] }, { "part": "tail", "at_mm": [0, 0, 0] }] }), "/make/positions/1/part", "Keep one entry"),
        (json!({ "positions": [{ "part": "tail", "at_mm": [0, 0, 90000] }] }), "/make/positions/0/at_mm/2", "20000"),
    ];
    for (make, pointer, words) in table {
        let faults = with(&make).expect_err(pointer);
        let there = faults.iter().find(|(at, _)| at == pointer).unwrap_or_else(|| panic!("{make}: {faults:?}"));
        assert!(there.1.contains(words), "{pointer}: {}", there.1);
    }
}

#[test]
fn what_is_whole_comes_back_as_it_was() {
    let make = json!({
        "people": 2, "begins": "2026-11-27", "workshop_c": 8.0, "delivery_days": 3,
        "sessions": [{ "weekday": "sunday", "start": "22:00", "minutes": 180 }, { "weekday": "monday", "start": "01:00", "minutes": 60 }],
        "fixings": [{ "part": "tail", "fixing": "clamps", "surface": "bare_metal", "coat": true }, { "part": "twelve", "surface": "foam" }],
        "rolls": [{ "of": "wire 20 AWG, red", "length_m": 25.0 }],
        "prices": [{ "of": "clip", "price": 0.2, "currency": "SEK" }],
        "spaces": [{ "id": "lamp", "size_mm": [80.0, 40.0, 30.0], "openings": [{ "width_mm": 14.0, "height_mm": 9.0 }], "cells": true }],
        "inside": [{ "part": "twelve", "space": "lamp", "size_mm": [48.0, 24.0, 14.0] }, { "part": "tail", "space": "outside" }],
        "positions": [{ "part": "source", "at_mm": [-20.0, 0.0, 4.0] }],
    });
    let build = with(&make).expect("sound");
    assert_eq!(build.to_value()["make"], make);
    assert_eq!(chosen(&build, "tail"), Fixing::Clamps);
    assert_eq!(Site::of(&build, "twelve").surface, Surface::Foam);
    // Midnight between Sunday and Monday is no clash where the one ends as the other begins.
    assert_eq!(build.make.as_ref().map(|make| make.sessions[0].span()), Some((6 * 1440 + 1320, 7 * 1440 + 60)));
    assert!(with(&json!({})).expect("sound").make.is_some_and(|make| make.sessions.is_empty()));
    assert_eq!(case("trike-arrays").make, None, "who says nothing has nothing written");
}

#[test]
fn known_days_have_their_numbers() {
    for (date, day) in [("1970-01-01", 0), ("1969-12-31", -1), ("2000-02-29", 11_016), ("2026-11-27", 20_784), ("2100-03-01", 47_541)] {
        assert_eq!(day_of(date), Some(day), "{date}");
        assert_eq!(date_of(day), date);
    }
    for none in ["2026-02-30", "2100-02-29", "2026-13-01", "2026-00-10", "2026-1-1", "today", "", "2026-11-27T10:00", "-001-01-01"] {
        assert_eq!(day_of(none), None, "{none}");
    }
}

proptest! {
    #[test]
    fn days_and_dates_are_one(day in -700_000i64..2_900_000) {
        let date = date_of(day);
        if let Some(back) = day_of(&date) {
            prop_assert_eq!(back, day);
        } else {
            // Only years of other than four figures are not read back.
            prop_assert!(date.len() != 10 || date.starts_with('0'), "{}", date);
        }
        prop_assert!(date_of(day + 1) > date || date.len() != date_of(day + 1).len() || date.starts_with('-'));
    }
}

fn site(traits: &[Trait], surface: Surface) -> Site {
    Site { traits: traits.to_vec(), surface, near_cells: false, medical: false, mass_g: 20.0 }
}

#[test]
fn the_best_way_is_one_that_people_would_take() {
    let table: Vec<(Site, &[Fixing])> = vec![
        (site(&[Trait::Wet, Trait::NoDrill], Surface::PaintedMetal), &[Fixing::Ties, Fixing::Clamps]),
        (site(&[Trait::Removable], Surface::PaintedMetal), &[Fixing::Ties, Fixing::Clamps]),
        (site(&[], Surface::Wood), &[Fixing::Screws, Fixing::Clips]),
        (site(&[Trait::Wet, Trait::Removable], Surface::Abs), &[Fixing::Clips]),
        (site(&[], Surface::Foam), &[Fixing::HotGlue, Fixing::ContactAdhesive]),
        (site(&[], Surface::Fabric), &[Fixing::ContactAdhesive]),
        (Site { mass_g: 400.0, ..site(&[Trait::Wet], Surface::BareMetal) }, &[Fixing::Clamps]),
    ];
    for (site, good) in table {
        let best = ranked(&site, 20.0).remove(0);
        assert!(good.contains(&best.fixing), "{site:?}: {best:?}");
        assert!(!best.pro.is_empty(), "it says why");
    }
}

#[test]
fn what_does_not_hold_is_said_with_its_code() {
    let cells = Site { near_cells: true, ..site(&[], Surface::Abs) };
    let chair = Site { medical: true, ..site(&[], Surface::PaintedMetal) };
    let table: Vec<(Fixing, Site, &[Against])> = vec![
        (Fixing::Superglue, site(&[], Surface::ClearPlastic), &[Against::Fogs]),
        (Fixing::Superglue, site(&[], Surface::Abs), &[]),
        (Fixing::HotGlue, site(&[Trait::Hot], Surface::Abs), &[Against::LetsGo]),
        (Fixing::HotGlue, site(&[Trait::Wet, Trait::Moving], Surface::Abs), &[Against::LetsGo]),
        (Fixing::HotGlue, site(&[Trait::Wet], Surface::Abs), &[]),
        (Fixing::Screws, cells, &[Against::NearCells]),
        (Fixing::Screws, chair.clone(), &[Against::Drilled]),
        (Fixing::Clamps, chair, &[]),
        (Fixing::Screws, site(&[Trait::NoDrill], Surface::Wood), &[Against::Drilled]),
        (Fixing::FoamTape, site(&[Trait::Wet], Surface::Abs), &[Against::TapeWet]),
        (Fixing::ClothTape, site(&[Trait::Wet, Trait::Removable], Surface::Abs), &[Against::TapeWet]),
        (Fixing::SlowEpoxy, site(&[Trait::Removable], Surface::Wood), &[Against::ForGood]),
        (Fixing::Ties, site(&[Trait::Removable], Surface::PaintedMetal), &[]),
    ];
    for (fixing, site, codes) in table {
        let found: Vec<Against> = objections(fixing, &site).into_iter().map(|one| one.against).collect();
        assert_eq!(found, codes, "{fixing:?} at {site:?}");
    }
}

#[test]
fn cold_doubles_what_cures_and_nothing_else() {
    for (_, fixing) in Fixing::WORDS {
        let (warm, cold) = (curing(*fixing, 20.0), curing(*fixing, 9.9));
        assert_eq!((cold.holds_min, cold.load_min, cold.full_min), (2.0 * warm.holds_min, 2.0 * warm.load_min, 2.0 * warm.full_min), "{fixing:?}");
        assert!(warm.holds_min <= warm.load_min && warm.load_min <= warm.full_min, "{fixing:?} is loaded before it holds");
    }
    assert_eq!((coat_min(20.0), coat_min(5.0)), (1440.0, 2880.0));
    assert_eq!(curing(Fixing::QuickEpoxy, 20.0).load_min, 60.0);
}

#[test]
fn water_heat_and_movement_decide_what_covers_a_joint() {
    let of = |traits: &[Trait]| protection(&site(traits, Surface::Abs)).0;
    assert_eq!(of(&[]), Protection::HeatShrink);
    assert_eq!(of(&[Trait::Moving]), Protection::Sleeve);
    assert_eq!(of(&[Trait::Wet, Trait::Moving]), Protection::GlueShrink);
    assert_eq!(of(&[Trait::Wet, Trait::Hot]), Protection::ConformalCoat);
}

fn any_site() -> impl Strategy<Value = Site> {
    let all = [Trait::Wet, Trait::Hot, Trait::Moving, Trait::Removable, Trait::NoDrill];
    let traits = proptest::sample::subsequence(all.to_vec(), 0..=5);
    let surfaces: Vec<Surface> = Surface::WORDS.iter().map(|(_, surface)| *surface).collect();
    (traits, proptest::sample::select(surfaces), any::<bool>(), any::<bool>(), 1.0..2000.0f64).prop_map(|(traits, surface, near_cells, medical, mass_g)| Site {
        traits,
        surface,
        near_cells,
        medical,
        mass_g,
    })
}

proptest! {
    #[test]
    fn what_is_ruled_out_is_never_proposed(site in any_site()) {
        let all = ranked(&site, 20.0);
        prop_assert_eq!(all.len(), Fixing::WORDS.len());
        prop_assert!(!all[0].ruled_out, "something holds everywhere");
        for way in &all {
            prop_assert_eq!(way.ruled_out, !objections(way.fixing, &site).is_empty());
        }
        // All that is possible stands before all that is not.
        prop_assert!(all.windows(2).all(|pair| pair[0].ruled_out <= pair[1].ruled_out));
    }
}
