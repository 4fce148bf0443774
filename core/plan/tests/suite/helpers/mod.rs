//! Every question of the helpers, asked of a build.

use orthavis_model::document::{Build, Load};
use orthavis_model::laws::resistor::Series;
use orthavis_plan::choose::{Choice, fuse, pixels, strings, strip, wire};

/// What the helpers say of every light and feed of a build, but how to supply them.
pub fn choices(build: &Build) -> Vec<Choice> {
    let mut all: Vec<Choice> = Vec::new();
    for light in &build.lights {
        all.extend(match &light.load {
            Load::LedArray(_) => strings::for_light(build, &light.id, Series::E24).unwrap_or_default(),
            Load::Strip(_) => strip::for_light(build, &light.id, None).expect("ways"),
            Load::Pixels(_) => pixels::for_light(build, &light.id).expect("ways"),
            Load::Module(_) => Vec::new(),
        });
    }
    for feed in build.feeds() {
        all.extend(wire::for_feed(build, &feed.id).expect("sizes"));
        all.extend(fuse::for_feed(build, &feed.id).expect("fuses"));
    }
    all
}
