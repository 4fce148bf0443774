//! What is lit together, and what is always there.

use super::*;
use std::collections::BTreeMap;

record! {
    /// A load that is always there.
    pub struct Standing {
        /// Unique among standing loads.
        pub id: String = id(),
        /// Current at the source, A.
        pub current_a: f64 = number(AMP_OR_ZERO).label("Draws"),
        /// Hours it is on, per day.
        pub hours_per_day: f64 = number(DAY).or(24.0).label("a day"),
        /// It is wired ahead of the main disconnect and stays on: a gas alarm, a bilge pump.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub ahead_of_disconnect: bool = thing().or_flag(false).label("stays on with the main disconnect open"),
    }

    /// What is lit together. A light that is not named is off.
    pub struct Scene with sense::scene {
        /// Unique among scenes.
        pub id: String = id(),
        /// Name for people.
        pub name: String = text(200).or_word("").label("Name"),
        /// By light id.
        pub lights: BTreeMap<String, SceneLight> = list(MAX_LIST),
    }

    /// How a scene lights one light.
    pub struct SceneLight {
        /// 0 to 1.
        pub level: f64 = number(SHARE).or(1.0).label("Brightness").term("level").shown("%"),
        /// Red, green, blue, each 0 to 1; used by pixels.
        pub colour: [f64; 3] = number(SHARE).or(1.0).label("Colour"),
        /// Share of the time it is on, 0 to 1.
        pub duty: f64 = number(SHARE).or(1.0).label("Share of each blink it is on").term("duty").shown("%"),
        /// What its pixels do over time, in place of `colour`.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub effect: Option<PixelEffect> = thing(),
    }
}

impl SceneLight {
    /// Fully on, white, always.
    pub const FULL: SceneLight = SceneLight { level: 1.0, colour: [1.0; 3], duty: 1.0, effect: None };
}

mod sense {
    use super::super::super::read::Object;
    use super::Scene;

    /// A scene that nobody named goes by its id.
    pub(super) fn scene(scene: &mut Scene, o: &mut Object<'_, '_>) {
        if !o.has("name") {
            scene.name.clone_from(&scene.id);
        }
    }
}
