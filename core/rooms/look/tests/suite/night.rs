//! Pictures of the night keep the laws of light.

use orthavis_look::body::body;
use orthavis_look::eye::{Eye, Sky, Viewpoint};
use orthavis_look::falls::luminance;
use orthavis_look::night::{Falling, Glow, Sight};
use orthavis_look::octets::text;
use orthavis_look::shade::Blocks;
use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Around, Build, parse};
use orthavis_physics::points::{PointReport, points};
use proptest::prelude::*;

const SIZE: [usize; 2] = [160, 90];

fn sample(name: &str) -> (Build, PointReport) {
    let text = BUILDS.iter().find(|text| text.contains(name)).expect("a sample");
    let build = parse(text).expect("a build");
    let point = points(&build).expect("solved").remove(0);
    (build, point)
}

fn sight(build: &Build, from: Viewpoint) -> Sight {
    let body = body(build.vehicle.kind, &build.form().expect("a form").id).expect("a body");
    Sight::of(build, &body, &Blocks::of(&body.mesh), from, SIZE)
}

fn looked(build: &Build, point: &PointReport, from: Viewpoint, level: f64) -> Falling {
    let mut glow = Glow::of(build, point, 0.0, false);
    glow.output.iter_mut().for_each(|output| *output *= level);
    sight(build, from).falling(build, &glow, Sky::Dark)
}

/// Every viewpoint of every sample has its vehicle in the picture, and light that falls where lights are lit.
#[test]
fn every_sample_is_seen_from_everywhere() {
    for source in BUILDS {
        let build = parse(source).expect("a sample");
        let point = points(&build).expect("solved").remove(0);
        let body = body(build.vehicle.kind, &build.form().expect("a form").id).expect("a body");
        let [least, most] = body.mesh.bounds();
        for (word, from) in Viewpoint::WORDS {
            let eye = Eye::of(&body, *from, SIZE);
            let middle = eye.spot([0, 1, 2].map(|axis| 0.5 * (least[axis] + most[axis]))).expect("before the eye");
            assert!((0..2).all(|axis| middle[axis] > 0.0 && middle[axis] < SIZE[axis] as f64), "{} {word}: {middle:?}", build.name);
            let sight = sight(&build, *from);
            let scenery = sight.scenery();
            let nothing = text(&[0; SIZE[0] * SIZE[1]]);
            // From a driver's seat a small one is less than a pixel of so small a picture.
            assert!(scenery.body != nothing || word.starts_with("driver"), "{} {word}", build.name);
            assert!(scenery.around != nothing, "{} {word}", build.name);
            let falling = sight.falling(&build, &Glow::of(&build, &point, 0.0, true), Sky::Street);
            assert!(falling.white_lx >= Sky::Street.white_lx() && falling.white_lx.is_finite());
            assert!(falling.brightest_lx >= 0.0 && falling.brightest_lx.is_finite(), "{} {word}", build.name);
        }
    }
}

/// Nothing but the sky is there while every light is dark.
#[test]
fn a_dark_build_gives_no_light() {
    let (build, point) = sample("Trail deck");
    let dark = looked(&build, &point, Viewpoint::Beside, 0.0);
    assert_eq!((dark.brightest_lx, dark.points.as_str()), (0.0, ""));
    let cells = SIZE.map(|pixels| pixels.div_ceil(4));
    assert!(dark.around == text(&vec![0; 6 * cells[0] * cells[1]]));
    assert!(looked(&build, &point, Viewpoint::Beside, 1.0).brightest_lx > 1.0, "its lights under the deck light the ground");
}

/// What is over a build follows from what surrounds it; the darker that is, the less light makes white.
#[test]
fn a_darker_sky_is_used_to_less_light() {
    let skies = [Around::Day, Around::Street, Around::Village, Around::Dark].map(Sky::of);
    for pair in skies.windows(2) {
        assert!(pair[0].white_lx() > pair[1].white_lx(), "{pair:?}");
        assert!(luminance(pair[0].ambient_lx()) > luminance(pair[1].ambient_lx()), "{pair:?}");
    }
    // A driver farther behind sees less of it.
    let (build, point) = sample("Book-delivery trike");
    let [near, far] = [Viewpoint::Driver10, Viewpoint::Driver150].map(|from| {
        assert!(from.behind_m().is_some());
        looked(&build, &point, from, 1.0)
    });
    assert!(near != far && !far.points.is_empty(), "its lamps are points from there");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    /// Light adds up: twice the output is twice the lux.
    #[test]
    fn lux_go_with_the_output(level in 0.05..0.5_f64) {
        let (build, point) = sample("Camp rover");
        let [half, whole] = [level, 2.0 * level].map(|level| looked(&build, &point, Viewpoint::Behind, level).brightest_lx);
        prop_assert!((whole / half - 2.0).abs() < 1e-3, "{half} {whole}");
    }

    /// A ray through the spot of a point comes back to it, from every viewpoint.
    #[test]
    fn what_is_seen_lies_on_its_ray(which in 0..6_usize, at in prop::array::uniform3(-0.4..0.4_f64)) {
        let (build, _) = sample("Camp rover");
        let body = body(build.vehicle.kind, &build.form().expect("a form").id).expect("a body");
        let eye = Eye::of(&body, Viewpoint::WORDS[which].1, SIZE);
        let [x, y, ahead] = eye.spot(at).expect("before the eye");
        let ray = eye.ray(x, y);
        let cos: f64 = (0..3).map(|axis| ray[axis] * eye.ahead[axis]).sum();
        for axis in 0..3 {
            prop_assert!((eye.at[axis] + ray[axis] * ahead / cos - at[axis]).abs() < 1e-6 * (1.0 + ahead));
        }
    }
}
