//! What current becomes: the light of each light at a solved point, how far it is seen and what it shows.

use crate::points::PointReport;
use orthavis_model::data;
use orthavis_model::document::{Build, Light, Load, PixelEffect, SceneLight, Shine};
use orthavis_model::laws::light::{self, Air, Around, MERGE, NOTICED};
use orthavis_model::states::Lit;
use std::collections::BTreeMap;

data! {
    /// Light in figures.
    pub struct LightFigures {
        /// Luminous flux that leaves it, lm.
        pub lm: f64,
        /// Intensity on its axis, cd.
        pub cd: f64,
        /// Intensity 30° beside it, cd.
        pub cd_30: f64,
        /// Intensity 60° beside it, cd.
        pub cd_60: f64,
        /// From how far it is seen on its axis by who looks for it, m.
        pub seen_m: f64,
        /// The same 60° beside its axis, m.
        pub seen_60_m: f64,
        /// From how far it is noticed by who looks elsewhere, m.
        pub noticed_m: f64,
        /// How far one sees by it, m.
        pub see_m: f64,
        /// How bright it looks beside its rated light, 0 to 1.
        pub looks: f64,
        /// From how far the points of its row merge, m.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub merge_m: Option<f64>,
        /// Least distance to a diffuser at which its row is even, mm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub even_mm: Option<f64>,
        /// How much brighter its diffuser is over a point than between two, 0 to 1.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub contrast: Option<f64>,
    }
}

/// Flux that leaves a light's LEDs, lm, lit so and with an output of the report.
pub fn source_lm(light: &Light, lit: &Lit, output: f64) -> f64 {
    let Load::Pixels(pixels) = &light.load else { return light.rated_lm() * output };
    let channels = light.pixel_lm(pixels);
    let of = |colour: &[f64; 3]| channels.iter().zip(colour).map(|(lm, share)| lm * share).sum::<f64>();
    let all = match &lit.each {
        Some(each) => each.iter().take(pixels.count as usize).map(of).sum(),
        None => of(&lit.colour) * f64::from(pixels.count),
    };
    all * lit.level * output
}

/// How long a light is on at a time, s; `None`: it does not blink. A second is its period where nothing says another.
pub fn blink_on_s(lit: &SceneLight) -> Option<f64> {
    let period_s = 1.0;
    match &lit.effect {
        // Between two colours it never goes out.
        Some(PixelEffect::Blink(blink)) if blink.colours.iter().flatten().skip(1).take(1).all(|second| *second == [0.0; 3]) => {
            Some(blink.duty * blink.period_s)
        }
        _ if lit.duty > 0.0 && lit.duty < 1.0 => Some(lit.duty * period_s),
        _ => None,
    }
}

/// The light of one light at a point of a scene, in surroundings and air.
pub fn figures(light: &Light, asked: Option<&SceneLight>, lit: &Lit, output: f64, around: Around, air: Air) -> LightFigures {
    let source_lm = source_lm(light, lit, output);
    let lm = source_lm * light.shine.as_ref().map_or(1.0, Shine::through);
    let (bare, beam) = (light.bare_beam(), light.beam());
    let counts = asked.and_then(blink_on_s).map_or(1.0, light::flash_share);
    let cd = beam.cd(lm, 0.0);
    let seen = |cd: f64, lx: f64| light::seen_m(cd * counts, lx, air);
    let pitch_m = light.row_pitch_m();
    let distance_mm = light.shine.as_ref().and_then(|shine| shine.diffuser.as_ref()?.distance_mm);
    let (cd_30, cd_60) = (beam.cd(lm, 30.0), beam.cd(lm, 60.0));
    LightFigures {
        lm,
        cd,
        cd_30,
        cd_60,
        seen_m: seen(cd, around.seen_lx()),
        seen_60_m: seen(cd_60, around.seen_lx()),
        noticed_m: seen(cd, NOTICED * around.seen_lx()),
        see_m: light::seen_m(cd, light::SEE_BY_LX, air),
        looks: if source_lm > 0.0 { light::looks(source_lm / light.rated_lm()) } else { 0.0 },
        merge_m: pitch_m.map(|pitch| MERGE * pitch),
        even_mm: pitch_m.map(|pitch| 1e3 * light::even_distance(bare, pitch)),
        contrast: pitch_m.zip(distance_mm).map(|(pitch, mm)| light::contrast(bare, pitch, 1e-3 * mm)),
    }
}

/// The light of every light at a point, by id.
pub fn lights(build: &Build, point: &PointReport, around: Around, air: Air) -> BTreeMap<String, LightFigures> {
    let scene = build.scenes.iter().find(|scene| scene.id == point.scene);
    let of = |(index, light): (usize, &Light)| {
        let output = point.lights.get(&light.id).map_or(0.0, |report| report.output);
        let lit = point.lit.get(index).cloned().unwrap_or(Lit::OFF);
        (light.id.clone(), figures(light, scene.and_then(|scene| scene.lights.get(&light.id)), &lit, output, around, air))
    };
    build.lights.iter().enumerate().map(of).collect()
}
