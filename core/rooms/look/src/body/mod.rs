//! Vehicles as things: each form by its parts in metres, with the places where light goes on it.

mod cycle;
mod flying;
mod home;
mod model;
mod rolling;

use crate::mesh::{Mesh, Vec3};
use orthavis_model::document::VehicleKind;
use orthavis_model::vehicle::Seen;

/// A place on a body.
#[derive(Clone, Debug)]
pub struct Place {
    /// As lights name it.
    pub name: &'static str,
    /// From one end of it to the other, m; a single point where a lamp sits.
    pub along: Vec<Vec3>,
    /// Where a light there shines, of length 1.
    pub aim: Vec3,
}

/// A form of vehicle.
#[derive(Clone, Debug)]
pub struct Body {
    /// As people call it.
    pub name: &'static str,
    /// Its surface.
    pub mesh: Mesh,
    /// Where light goes.
    pub places: Vec<Place>,
    /// Where the battery sits.
    pub pack: Vec3,
    /// Whether it stands on wheels, keel or rails where it is drawn.
    pub stands: bool,
    /// Whether it flies.
    pub flies: bool,
}

impl Body {
    /// What a drawing of it shows.
    pub fn title(&self, seen: Seen) -> String {
        match seen {
            Seen::Beside => format!("{}, right side", self.name),
            Seen::Behind => format!("{}, from behind", self.name),
            Seen::Above => format!("{}, from above; it faces right", self.name),
        }
    }

    /// The place of a light, by its words: the same name, else one that is in the other.
    pub fn place(&self, words: &str) -> Option<&Place> {
        let words = words.to_lowercase();
        let near = |place: &&Place| !words.is_empty() && (place.name.contains(&words) || words.contains(place.name));
        self.places.iter().find(|place| place.name == words).or_else(|| self.places.iter().find(near))
    }
}

pub(crate) const FRONT: Vec3 = [1.0, 0.0, 0.0];
pub(crate) const BACK: Vec3 = [-1.0, 0.0, 0.0];
pub(crate) const LEFT: Vec3 = [0.0, 1.0, 0.0];
pub(crate) const RIGHT: Vec3 = [0.0, -1.0, 0.0];
pub(crate) const UP: Vec3 = [0.0, 0.0, 1.0];
pub(crate) const DOWN: Vec3 = [0.0, 0.0, -1.0];

pub(crate) fn lamp(name: &'static str, at: Vec3, aim: Vec3) -> Place {
    Place { name, along: vec![at], aim }
}

pub(crate) fn edge(name: &'static str, along: &[Vec3], aim: Vec3) -> Place {
    Place { name, along: along.to_vec(), aim }
}

/// A form of a kind of vehicle by its id; `None`: there is none.
pub fn body(kind: VehicleKind, form: &str) -> Option<Body> {
    Some(match (kind, form) {
        (VehicleKind::Bicycle, "trike") => cycle::trike(),
        (VehicleKind::Bicycle, "bicycle") => cycle::bicycle(),
        (VehicleKind::Skateboard, "deck") => rolling::deck(),
        (VehicleKind::Wheelchair, "chair") => rolling::chair(),
        (VehicleKind::RcModel, "rover") => model::rover(),
        (VehicleKind::RcModel, "boat") => model::boat(),
        (VehicleKind::RcModel, "coach") => model::coach(),
        (VehicleKind::RcModel, "plane") => flying::plane(),
        (VehicleKind::RcModel, "glider") => flying::glider(),
        (VehicleKind::Drone, "hexacopter") => flying::copter(6),
        (VehicleKind::Drone, "quadcopter") => flying::copter(4),
        (VehicleKind::Drone, "octocopter") => flying::copter(8),
        (VehicleKind::Rv, "van") => home::van(),
        (VehicleKind::Rv, "trailer") => home::trailer(),
        (VehicleKind::Other, "other") => rolling::cart(),
        _ => return None,
    })
}
