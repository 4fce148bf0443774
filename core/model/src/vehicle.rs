//! What is known of each kind of vehicle before anyone measures it: where light usually goes and what such a place
//! does to a light and its wire.

use crate::document::{Trait, VehicleKind};
use serde::Serialize;

/// A usual place for a light.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UsualPlace {
    /// As lights name it.
    pub name: &'static str,
    /// What it does to a light and its wire.
    pub traits: &'static [Trait],
    /// What to think of there.
    pub hint: &'static str,
}

/// A kind of vehicle with its usual places.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VehicleSheet {
    /// Which.
    pub kind: VehicleKind,
    /// Its places.
    pub places: &'static [UsualPlace],
}

use Trait::{Hot, Moving, NoDrill, Removable, Wet};

const fn place(name: &'static str, traits: &'static [Trait], hint: &'static str) -> UsualPlace {
    UsualPlace { name, traits, hint }
}

const BICYCLE: &[UsualPlace] = &[
    place("handlebar", &[Wet, Moving], "It steers: leave a loop of slack before the head tube, and turn the bar both ways before you tie it."),
    place("basket rear", &[Wet, Removable], "The basket comes off: end the wire in a plug there."),
    place("basket rim", &[Wet, Removable], "The basket comes off: end the wire in a plug there."),
    place("frame", &[Wet, NoDrill], "Follow the brake cable; ties, no holes."),
    place("front wheel", &[Wet, Moving], "A spinning wheel needs sliding contacts or a pack of its own."),
    place("rear wheel", &[Wet, Moving], "A spinning wheel needs sliding contacts or a pack of its own."),
];
const SKATEBOARD: &[UsualPlace] = &[
    place("nose", &[Wet], "Kerbs hit it first: set the light back and under the edge."),
    place("tail", &[Wet], "It scrapes when you kick: keep it clear of the ground."),
    place("left rail", &[Wet], "Feet and hands grip it; a clear tube keeps knocks off."),
    place("right rail", &[Wet], "Feet and hands grip it; a clear tube keeps knocks off."),
    place("front truck", &[Wet, Moving], "It turns under you: slack, and nothing near the wheels."),
    place("rear truck", &[Wet, Hot, Moving], "Motor and belt are here: slack, and well away from both."),
];
const WHEELCHAIR: &[UsualPlace] = &[
    place("frame left", &[NoDrill], "Ties or clamps only: the frame of a medical device is not drilled."),
    place("frame right", &[NoDrill], "Ties or clamps only: the frame of a medical device is not drilled."),
    place("back rest", &[Moving, Removable], "It folds for the car: slack and a plug."),
    place("armrest", &[Moving, Removable], "It swings up for transfers: slack and a plug, and no wire where a hand goes."),
    place("foot rest", &[Wet, Removable], "It comes off for transfers: a plug, and no wire to step on."),
    place("rear", &[Wet, NoDrill], "Low and in the spray of the wheels: a sealed light."),
];
const RC: &[UsualPlace] = &[
    place("mast", &[Moving], "It whips when the model lands: soft wire, fixed at both ends."),
    place("front", &[Wet, Removable], "The shell comes off: a plug where it parts."),
    place("rear", &[Wet, Removable], "The shell comes off: a plug where it parts."),
    place("roof", &[Removable], "The shell comes off: a plug where it parts."),
    place("underbody", &[Wet, Hot], "Mud, stones and the motor: sealed, and not beside the motor."),
    place("cabin", &[Removable], "Shaded by the windows; little air to cool anything."),
];
const DRONE: &[UsualPlace] = &[
    place("arms", &[Moving], "Folding arms: slack at the hinge; nothing may reach a propeller."),
    place("front", &[], "A colour of its own tells which way it points."),
    place("rear", &[], "A colour of its own tells which way it points."),
    place("left arm", &[Moving], "Red to the left, green to the right, as on ships and aircraft."),
    place("right arm", &[Moving], "Red to the left, green to the right, as on ships and aircraft."),
    place("belly", &[], "Keep it off the compass and out of the camera's view."),
];
const RV: &[UsualPlace] = &[
    place("inside", &[NoDrill], "Behind panels run gas and mains: no drilling where you cannot see."),
    place("outside left", &[Wet], "Seal the passage through the wall; lead the wire in from below."),
    place("outside right", &[Wet], "Seal the passage through the wall; lead the wire in from below."),
    place("front", &[Wet, Hot], "Engine heat and rain; road lights have rules of their own."),
    place("rear", &[Wet, Moving], "Doors flex the wire: a rubber sleeve and slack."),
    place("step", &[Wet, Moving], "It folds away: slack, and a light that stands a kick."),
];
const OTHER: &[UsualPlace] =
    &[place("front", &[], ""), place("rear", &[], ""), place("left", &[], ""), place("right", &[], ""), place("inside", &[], ""), place("top", &[], "")];

/// Usual places of a kind of vehicle.
pub fn places(kind: VehicleKind) -> &'static [UsualPlace] {
    match kind {
        VehicleKind::Bicycle => BICYCLE,
        VehicleKind::Skateboard => SKATEBOARD,
        VehicleKind::Wheelchair => WHEELCHAIR,
        VehicleKind::RcModel => RC,
        VehicleKind::Drone => DRONE,
        VehicleKind::Rv => RV,
        VehicleKind::Other => OTHER,
    }
}

/// Every kind.
pub fn sheets() -> Vec<VehicleSheet> {
    VehicleKind::WORDS.iter().map(|(_, kind)| VehicleSheet { kind: *kind, places: places(*kind) }).collect()
}

impl crate::document::Build {
    /// What is known of a place: what the person noted, else what is usual for the vehicle.
    pub fn traits_of(&self, place: &str) -> Vec<Trait> {
        if let Some(noted) = self.places.iter().find(|known| known.name == place) {
            return noted.traits.clone();
        }
        places(self.vehicle.kind).iter().find(|known| known.name == place).map_or_else(Vec::new, |known| known.traits.to_vec())
    }
}
