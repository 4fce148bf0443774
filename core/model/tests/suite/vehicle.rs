//! The sheets of the vehicles are whole, and every place that light can go is drawn.

use orthavis_model::document::{Trait, VehicleKind};
use orthavis_model::vehicle::{Seen, form, read_sheets, variants};
use orthavis_testing::case;
use std::collections::BTreeSet;

#[test]
fn every_kind_has_a_sheet_of_its_own() {
    let sheets = read_sheets().expect("sound files");
    let kinds: BTreeSet<VehicleKind> = sheets.iter().map(|sheet| sheet.kind).collect();
    assert_eq!(kinds, VehicleKind::WORDS.iter().map(|(_, kind)| *kind).collect());
    let offered: Vec<VehicleKind> = sheets.iter().map(|sheet| sheet.kind).collect();
    assert_eq!(offered, VehicleKind::WORDS.iter().map(|(_, kind)| *kind).collect::<Vec<_>>(), "in the order of the words");
    for sheet in sheets.iter().flat_map(|sheet| &sheet.variants) {
        assert!(sheet.mass_kg > 0.0 && sheet.battery.series > 0 && sheet.battery.capacity_ah > 0.0, "{}", sheet.name);
    }
}

#[test]
fn places_are_drawn_in_every_view_and_on_the_canvas() {
    for sheet in read_sheets().expect("sound files").into_iter().flat_map(|sheet| sheet.variants) {
        let seen: BTreeSet<Seen> = sheet.views.iter().map(|view| view.seen).collect();
        assert_eq!((seen.len(), sheet.views.len()), (3, 3), "{}", sheet.name);
        let usual: BTreeSet<&str> = sheet.places.iter().map(|place| place.name.as_str()).collect();
        for view in &sheet.views {
            let drawn: BTreeSet<&str> = view.places.iter().map(|place| place.name.as_str()).collect();
            assert_eq!(drawn, usual, "{}", view.title);
            assert_eq!(drawn.len(), view.places.len(), "{}: a place is drawn twice", view.title);
            let on = |x: f64, y: f64| (0.0..=560.0).contains(&x) && (0.0..=300.0).contains(&y);
            assert!(on(view.pack.x, view.pack.y), "{}", view.title);
            for place in &view.places {
                assert!(on(place.x, place.y), "{}: {}", view.title, place.name);
                let path = |text: &str| text.starts_with('M') && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || b" .-".contains(&byte));
                assert!(place.along.as_deref().is_none_or(path), "{}: {}", view.title, place.name);
                assert!(view.tones.len() == 5 && view.tones.iter().all(|tone| tone.is_empty() || path(tone)), "{}", view.title);
            }
        }
    }
}

#[test]
fn what_is_noted_of_a_place_goes_before_what_is_usual() {
    let mut build = case("trike-arrays");
    build.vehicle.kind = VehicleKind::Bicycle;
    build.places.clear();
    assert_eq!(build.traits_of("handlebar"), [Trait::Wet, Trait::Moving]);
    assert!(build.traits_of("somewhere else").is_empty());
    build.places.push(orthavis_model::document::Place {
        name: "handlebar".into(),
        traits: vec![Trait::Hot],
        surface: None,
        note: String::new(),
        string_m: None,
    });
    assert_eq!(build.traits_of("handlebar"), [Trait::Hot]);
}

#[test]
fn every_form_goes_by_its_own_name_and_the_first_stands_for_none() {
    for (_, kind) in VehicleKind::WORDS {
        let all = variants(*kind);
        let names: BTreeSet<&str> = all.iter().map(|form| form.id.as_str()).collect();
        assert_eq!(names.len(), all.len(), "{kind:?}");
        assert_eq!(form(*kind, None), all.first(), "{kind:?}");
        for known in all {
            assert_eq!(form(*kind, Some(&known.id)), Some(known));
        }
    }
    let of = |kind: VehicleKind| variants(kind).iter().map(|form| form.id.as_str()).collect::<Vec<_>>();
    assert_eq!(of(VehicleKind::RcModel), ["rover", "boat", "plane", "coach", "glider"]);
    assert_eq!(of(VehicleKind::Drone), ["hexacopter", "quadcopter", "octocopter"]);
    let mut build = case("hex-rail");
    build.vehicle.variant = Some("submarine".into());
    let error = orthavis_model::document::parse_value(&build.to_value()).expect_err("no such form");
    assert_eq!(error.faults[0].pointer, "/vehicle/variant");
}
