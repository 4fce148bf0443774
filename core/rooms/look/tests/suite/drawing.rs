//! Vehicles as things: every form has a body, its places lie on it, and its drawings are made from it.

use orthavis_look::body::body;
use orthavis_look::drawing::drawings;
use orthavis_look::mesh::Mesh;
use orthavis_look::view::{Camera, hits};
use orthavis_model::vehicle::{Seen, read_sheets};
use std::collections::BTreeSet;

#[test]
fn every_form_has_a_body_with_its_places_on_it() {
    for sheet in read_sheets().expect("sound files") {
        for form in &sheet.variants {
            let body = body(sheet.kind, &form.id).unwrap_or_else(|| panic!("{} has no body", form.name));
            let usual: BTreeSet<&str> = form.places.iter().map(|place| place.name.as_str()).collect();
            assert_eq!(body.places.iter().map(|place| place.name).collect::<BTreeSet<_>>(), usual, "{}", form.name);
            let bounds = body.mesh.bounds();
            let size = (0..3).map(|axis| bounds[1][axis] - bounds[0][axis]).fold(0.0, f64::max);
            let inside = |point: [f64; 3]| (0..3).all(|axis| point[axis] > bounds[0][axis] - 0.08 * size && point[axis] < bounds[1][axis] + 0.08 * size);
            assert!(inside(body.pack), "{}: the pack", form.name);
            for place in &body.places {
                assert!(!place.along.is_empty() && place.along.iter().all(|point| inside(*point)), "{}: {}", form.name, place.name);
                let long = place.aim.iter().map(|x| x * x).sum::<f64>();
                assert!((long - 1.0).abs() < 1e-9, "{}: {} aims nowhere", form.name, place.name);
            }
            if body.stands && !body.flies {
                assert!(bounds[0][2].abs() < 0.06 * size, "{} stands on the ground: {}", form.name, bounds[0][2]);
            }
        }
    }
    assert!(body(orthavis_model::document::VehicleKind::Rv, "submarine").is_none());
}

/// The files that ship are what the bodies give: `cargo xtask api` writes them anew.
#[test]
fn drawings_are_made_from_the_bodies() {
    for sheet in read_sheets().expect("sound files") {
        for form in &sheet.variants {
            assert_eq!(drawings(sheet.kind, &form.id), form.views, "{}: run `cargo xtask api`", form.name);
        }
    }
}

/// A metre of a drawing is a metre of the body, and it fills its canvas in one direction.
#[test]
fn drawings_are_to_scale() {
    for sheet in read_sheets().expect("sound files") {
        for form in &sheet.variants {
            let bounds = body(sheet.kind, &form.id).expect("there").mesh.bounds();
            for view in &form.views {
                let (across, up) = match view.seen {
                    Seen::Beside => (0, 2),
                    Seen::Behind => (1, 2),
                    Seen::Above => (0, 1),
                };
                let spans = [(across, 508.0), (up, 248.0)].map(|(axis, room): (usize, f64)| (bounds[1][axis] - bounds[0][axis]) * view.per_m / room);
                let wide = (bounds[1][across] - bounds[0][across]) * view.per_m;
                assert!((view.reach[1] - view.reach[0] - wide).abs() < 1.0 + 0.01 * wide, "{}", view.title);
                let most = spans[0].max(spans[1]);
                assert!((most - 1.0).abs() < 0.01, "{}: {most}", view.title);
            }
        }
    }
}

/// What is nearest hides what is behind it.
#[test]
fn what_is_nearer_hides() {
    let mut mesh = Mesh::default();
    mesh.slab([0.0, 0.3, 0.0], [1.0, 0.1, 1.0], 0.01, orthavis_look::mesh::Stuff::Paint);
    mesh.slab([0.0, -0.3, 0.0], [0.4, 0.1, 0.4], 0.01, orthavis_look::mesh::Stuff::Rubber);
    let camera = Camera::fitted(&mesh, Seen::Beside, [60, 60], 5.0);
    let hits = hits(&mesh, &camera);
    let at = |x: usize, y: usize| hits[y * 60 + x].map(|hit| mesh.triangles[hit.triangle as usize].stuff);
    // From the right the smaller one stands before the larger.
    assert_eq!(at(30, 30), Some(orthavis_look::mesh::Stuff::Rubber));
    assert_eq!(at(10, 30), Some(orthavis_look::mesh::Stuff::Paint));
    assert_eq!(at(1, 1), None);
    let behind = Camera::fitted(&mesh, Seen::Above, [60, 60], 5.0);
    assert!(behind.spot([0.0, 0.3, 0.0])[1] < behind.spot([0.0, -0.3, 0.0])[1], "left is up where it faces right");
}
