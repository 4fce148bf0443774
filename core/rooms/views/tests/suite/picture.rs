//! What people look at adds up: the river loses nothing it does not show as heat, and an effect is the difference.

use orthavis_judge::effect::effect;
use orthavis_judge::findings::Severity;
use orthavis_judge::report::report;
use orthavis_model::document::Build;
use orthavis_model::states::State;
use orthavis_model::working::plain;
use orthavis_testing::{case, changed};
use orthavis_views::picture::{Picture, ReachKind, picture};
use serde_json::json;
use std::collections::BTreeSet;

const CASES: [&str; 7] = ["trike-arrays", "van-strips", "deck-pixels", "boost-and-driver", "chair-24v", "hex-rail", "two-supplies-one-strip"];

fn pictures(build: &Build) -> Vec<Picture> {
    let report = report(build).expect("a solution");
    report.points.iter().map(|point| picture(build, &report, &point.scene, point.state).expect("a picture")).collect()
}

#[test]
fn a_river_only_loses_to_heat() {
    for name in CASES {
        let build = case(name);
        for picture in pictures(&build) {
            for reach in &picture.reaches {
                let crumb = 1e-9 * (1.0 + reach.sent_w.abs());
                assert!(reach.sent_w + crumb >= reach.arrives_w && reach.arrives_w + crumb >= reach.leaves_w, "{name}: {} gains power", reach.id);
                // What a supplier passes on is what its consumers are sent.
                let sent: f64 = picture.reaches.iter().filter(|r| r.from.as_deref() == Some(reach.id.as_str())).map(|r| r.sent_w).sum();
                if reach.kind == ReachKind::Junction || reach.kind == ReachKind::Converter {
                    assert!((sent - reach.leaves_w).abs() <= 1e-6 * (1.0 + sent), "{name}: {} passes on {} W of {sent} W", reach.id, reach.leaves_w);
                }
            }
            let lost: f64 = picture.reaches.iter().filter(|r| r.kind != ReachKind::Source).map(|r| r.sent_w - r.leaves_w).sum();
            assert!((lost - picture.heat_w).abs() <= 1e-6 * (1.0 + picture.source_w), "{name}: {lost} W of {} W heat", picture.heat_w);
        }
    }
}

#[test]
fn every_part_is_in_the_river_once_and_after_its_supplier() {
    for name in CASES {
        let build = case(name);
        let picture = &pictures(&build)[0];
        let ids: Vec<&str> = picture.reaches.iter().map(|reach| reach.id.as_str()).collect();
        // A strip has a reach for each of its suppliers.
        let ways: usize = build.lights.iter().map(|light| light.feeds.iter().map(|feed| &feed.from).collect::<BTreeSet<_>>().len()).sum();
        assert_eq!(ids.len(), 1 + build.junctions.len() + build.converters.len() + ways, "{name}");
        for (index, reach) in picture.reaches.iter().enumerate().skip(1) {
            let from = reach.from.as_deref().expect("a supplier");
            assert!(ids[..index].contains(&from), "{name}: {} before {from}", reach.id);
        }
    }
}

/// The result of a formula with these figures; `None` where it is not a formula but a rule in words.
fn evaluated(formula: &str, given: impl Fn(&str) -> f64) -> Option<f64> {
    Some(match formula {
        "V = E − I·R" => given("E") - given("I") * given("R"),
        "P = V·I" => given("V") * given("I"),
        "P = I²·R" => given("I").powi(2) * given("R"),
        "ΔV = I·(ρ·L/A + R_parts) + I_back·ρ·L/A" => {
            let wire = given("ρ") * given("L") / (1e-6 * given("A"));
            given("I") * (wire + given("R_parts")) + given("I_back") * wire
        }
        "ΔV = I·(ρ·L/A + R_parts) + I_frame·R_frame − V_minus" => {
            let wire = given("ρ") * given("L") / (1e-6 * given("A"));
            given("I") * (wire + given("R_parts")) + given("I_frame") * given("R_frame") - given("V_minus")
        }
        "P_heat = V_in·I_in − V_out·I_out" => given("V_in") * given("I_in") - given("V_out") * given("I_out"),
        "I_in = V_out·I_out / (η·V_in) + I_idle" => given("V_out") * given("I_out") / (given("η") * given("V_in")) + given("I_idle"),
        "I_in = I_out + I_idle" => given("I_out") + given("I_idle"),
        "E = E_r − P/E_r·R" => given("E_r") - given("P") / given("E_r") * given("R"),
        "output = I / I_rated" => given("I") / given("I_rated"),
        "output = P / P_rated" => given("P") / given("P_rated"),
        "output = level·(V / V_rated)^3.4" => given("level") * (given("V") / given("V_rated")).powf(3.4),
        "E = N_s·V_cell" => given("N_s") * given("V_cell"),
        "V = N_s·V_charge" => given("N_s") * given("V_charge"),
        "R = N_s·k / C" => given("N_s") * given("k") / given("C"),
        "Q = C·u" => given("C") * given("u"),
        "W = Q·E_half" => given("Q") * given("E_half"),
        "I = I_max − I_other" => (given("I_max") - given("I_other")).max(0.0),
        "C = I · t / ΔV" => given("I").abs() * given("t") / given("ΔV"),
        _ => return None,
    })
}

/// The cases, and two of them whose lights go back by a frame: behind a converter, and from the source.
fn builds() -> Vec<(String, Build)> {
    let framed = ["trike-arrays", "van-strips"].map(|name| {
        let build = case(name);
        let mut changes = vec![json!({ "op": "add", "path": "/vehicle/frame_return_ohm", "value": 0.08 })];
        for (index, light) in build.lights.iter().enumerate() {
            let feeds = 0..light.feeds.len();
            changes.extend(feeds.map(|feed| json!({ "op": "add", "path": format!("/lights/{index}/feeds/{feed}/return"), "value": "frame" })));
        }
        (format!("{name} by its frame"), changed(&build, &json!(changes)))
    });
    CASES.into_iter().map(|name| (name.to_owned(), case(name))).chain(framed).collect()
}

/// Whoever puts the figures of a working into its formula gets its result.
#[test]
fn a_working_adds_up() {
    let mut checked = std::collections::BTreeMap::new();
    let mut words = BTreeSet::new();
    for (name, build) in builds() {
        let sheet = orthavis_views::sheet::source_sheet(&build).facts;
        let pictures = pictures(&build);
        for fact in pictures.iter().flat_map(|picture| &picture.reaches).flat_map(|reach| &reach.facts).chain(&sheet) {
            let given = |symbol: &str| {
                let found = fact.working.given.iter().find(|quantity| quantity.symbol == symbol);
                found.unwrap_or_else(|| panic!("{name}: {} lacks {symbol}", fact.key)).value
            };
            let Some(computed) = evaluated(&fact.working.formula, given) else {
                words.insert(fact.working.formula.clone().into_owned());
                continue;
            };
            assert!((computed - fact.value).abs() <= 1e-6 * (1.0 + fact.value.abs()), "{name}: {}: {computed} is not {}", fact.key, fact.value);
            *checked.entry(fact.working.formula.clone()).or_insert(0) += 1;
        }
    }
    // What the whole network, or many parts together, decide.
    let whole = ["I ≤ I_max", "P = Σ V·I", "V = N·V_f(I) + I·R", "output = Σ I_c / Σ I_asked", "ΣI = 0 at every node"];
    assert_eq!(words, whole.map(str::to_owned).into_iter().collect(), "rules in words");
    assert!(checked.len() >= 15, "{checked:?}");
}

/// All that goes back by the frame adds up there.
#[test]
fn lights_share_the_drop_of_a_frame() {
    const FRAME_OHM: f64 = 0.08;
    let (_, build) = builds().pop().expect("framed from the source");
    for point in &report(&build).expect("a solution").points {
        let (mut frame_a, mut lost_w, mut wires_w) = (0.0, 0.0, 0.0);
        for (id, here) in &point.feeds {
            let feed = build.feed(id).expect("a feed").feed;
            lost_w += here.loss_w;
            wires_w += here.current_a.powi(2) * feed.out_ohm();
            match feed.by_frame(Some(FRAME_OHM)) {
                true => frame_a += here.back_a,
                false => wires_w += here.back_a.powi(2) * feed.back_ohm(None),
            }
        }
        let frame_w = frame_a.powi(2) * FRAME_OHM;
        assert!((lost_w - wires_w - frame_w).abs() < 1e-5, "{}: {lost_w} W, {wires_w} W in wires, {frame_w} W in the frame", point.scene);
        for light in &build.lights {
            let (here, feed) = (&point.feeds[&light.id], &light.feeds[0]);
            if feed.from == "block" {
                let drop_v = here.current_a * feed.out_ohm() + frame_a * FRAME_OHM
                    - point.feeds["block"].back_a * build.feed("block").expect("a feed").feed.back_ohm(None);
                assert!((here.drop_v - drop_v).abs() < 1e-6, "{}: {} loses {} V, not {drop_v}", point.scene, light.id, here.drop_v);
            }
        }
    }
}

#[test]
fn glows_show_what_a_scene_asks_for() {
    let build = case("deck-pixels");
    let amber = pictures(&build).into_iter().find(|p| p.scene == "amber" && p.state == State::Full).expect("amber");
    // Half brightness asked for and given in full.
    assert_eq!(amber.glows[0].rgb, Some([1.0, 0.45, 0.0]));
    assert!((amber.glows[0].output - 0.5).abs() < 1e-9);
    // A row is drawn as long as it is, its pixels as far apart as they are; a bunch of LEDs is no row.
    let (long, pitch) = (amber.glows[0].row_m.expect("a row"), amber.glows[0].pitch_m.expect("a row"));
    assert!(amber.glows[0].along && (long / pitch - 45.0).abs() < 1e-9, "{long} {pitch}");
    let dark = pictures(&case("trike-arrays")).into_iter().find(|p| p.scene == "parked").expect("parked");
    assert_eq!(dark.glows[0].output, 0.0, "a light that the scene does not name");
    assert_eq!(dark.glows[1].colour.as_deref(), Some("red"));
}

#[test]
fn an_effect_is_what_changed() {
    let before = changed(&case("trike-arrays"), &json!([{ "op": "replace", "path": "/converters/0/feed/fuse", "value": null }]));
    let after = changed(&case("trike-arrays"), &json!([{ "op": "replace", "path": "/scenes/0/lights/front/level", "value": 0.5 }]));
    let effect = effect(&report(&before).expect("a solution"), &report(&after).expect("a solution"));
    assert_eq!(effect.cleared.iter().map(|change| change.severity).collect::<Vec<_>>(), [Severity::Stop]);
    // The fuse that comes is one for 32 V, and nothing is there to dim the front.
    assert_eq!(effect.added.iter().map(|change| change.severity).collect::<Vec<_>>(), [Severity::Fix; 2]);
    // Only the scene whose brightness changed moves by more than half a percent.
    let moved: Vec<_> = effect.hours.iter().map(|change| change.scene.as_str()).collect();
    assert_eq!(moved, ["ride"]);
    assert!(effect.hours[0].after > effect.hours[0].before);
    assert_eq!((effect.headline_before.as_str(), effect.headline_after.as_str()), ("Not safe to build yet", "Lights up, but fix these first"));
}

#[test]
fn figures_read_as_people_say_them() {
    for (value, unit, text) in [
        (0.0184, "A", "18.4 mA"),
        (1.0, "A", "1 A"),
        (0.0, "W", "0 W"),
        (294.3, "A", "294 A"),
        (4700.0, "Ω", "4.7 kΩ"),
        (12.04, "V", "12 V"),
        (2e-6, "A", "2 µA"),
        (0.5, "1", "50 %"),
        (0.05, "m", "0.05 m"),
    ] {
        assert_eq!(plain(value, unit), text);
    }
}
