//! A show on its way out of the tool, what it takes, and what of it arrives.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, Scene, ShowInput, parse};
use orthavis_model::laws::effect::Inputs;
use orthavis_physics::points::points;
use orthavis_physics::show::Show;
use orthavis_show::arrives::{SEEN, arrived, difference};
use orthavis_show::fits::fits;
use orthavis_show::frames::frames;
use orthavis_show::map::{chain_maps, map, spread};
use orthavis_show::play::{most_speed, played};
use orthavis_show::power::power;
use orthavis_show::ready::ready;
use orthavis_show::sort::{SawRed, SortError, first_run};
use orthavis_show::source::source;
use orthavis_testing::{changed, show_cases};
use serde_json::json;
use std::process::Command;

const FLAGS: [&str; 5] = ["-std=c99", "-Wall", "-Wextra", "-Werror", "-pedantic"];
/// Prints codes of `argv[1]` frames from 0 on, 25 ms apart, inputs as they usually are and then each from 0 to 1.
const MAIN: &str = r#"#include "show.h"
#include <stdio.h>
int main(void) {
    static uint8_t out[3 * SHOW_PIXELS];
    static double inputs[SHOW_INPUTS];
    uint32_t frame;
    int k;
    for (frame = 0; frame < 600; frame++) {
        for (k = 0; k < SHOW_INPUTS; k++) inputs[k] = (double)(frame % 11) / 10.0;
        show_frame(frame * 25, frame < 300 ? (const double *)0 : inputs, out);
        fwrite(out, 1, sizeof out, stdout);
    }
    return 0;
}
"#;

/// Compiles a scene and runs 600 frames of it; the largest difference of a code from the tool's.
fn largest_difference(build: &Build, scene: &Scene, folder: &std::path::Path) -> u8 {
    let made = source(build, scene, None);
    std::fs::write(folder.join("show.h"), &made.header).expect("written");
    std::fs::write(folder.join("show.c"), &made.body).expect("written");
    std::fs::write(folder.join("main.c"), MAIN).expect("written");
    let compiled = Command::new("cc").args(FLAGS).args(["-O1", "show.c", "main.c", "-o", "show"]).current_dir(folder).output().expect("cc is there");
    assert!(compiled.status.success(), "{}: {}\n{}", scene.name, String::from_utf8_lossy(&compiled.stderr), made.body);
    let found = Command::new(folder.join("show")).output().expect("it runs").stdout;
    let show = Show::of(build, scene);
    let pixels: usize = show.chains.iter().map(|chain| chain.count).sum();
    assert_eq!(found.len(), 600 * 3 * pixels, "{}", scene.name);
    let mut inputs = Inputs::default();
    let mut worst = 0;
    for (frame, codes) in found.chunks_exact(3 * pixels).enumerate() {
        if frame >= 300 {
            for (_, input) in ShowInput::WORDS {
                inputs.set(*input, (frame % 11) as f64 / 10.0);
            }
        }
        let ours = show.frame((25 * frame) as f64 / 1000.0, &inputs);
        worst = ours.codes.iter().flatten().flatten().zip(codes).map(|(a, b)| a.abs_diff(*b)).max().unwrap_or(0).max(worst);
    }
    worst
}

fn hexacopter() -> Build {
    parse(BUILDS[1]).expect("a sample")
}

/// Every ready show and every case says the same compiled as here, at most one code apart.
#[test]
fn compiled_shows_say_the_same() {
    let folder = tempfile::TempDir::new().expect("folder");
    let build = hexacopter();
    for one in ready(&build) {
        let mut copy = build.clone();
        copy.scenes.push(one.scene.clone());
        assert!(largest_difference(&copy, &one.scene, folder.path()) <= 1, "{}", one.name);
    }
    for (name, case) in show_cases() {
        let scene = case.build.scenes.iter().find(|scene| scene.id == case.scene).expect("a scene");
        assert!(largest_difference(&case.build, scene, folder.path()) <= 1, "{name}");
    }
}

/// Every ready show can be built into every sample with pixels, solved, and played as fast as it is.
#[test]
fn ready_shows_are_ready() {
    let mut tried = 0;
    for text in BUILDS {
        let build = parse(text).expect("a sample");
        for one in ready(&build) {
            let mut copy = build.clone();
            copy.scenes.push(one.scene.clone());
            let again = parse(&copy.print()).unwrap_or_else(|error| panic!("{}: {error}", one.name));
            assert_eq!(again.scenes.last(), Some(&one.scene));
            assert!(points(&again).is_ok(), "{} in {}", one.name, build.name);
            assert!(most_speed(&again, &one.scene) >= 1.0, "{} flashes", one.name);
            tried += 1;
        }
    }
    assert!(tried >= 18);
}

/// However fast somebody wants it, no second has more than three flashes: a blink of a period may be played so many times its speed.
#[test]
fn nothing_is_played_so_fast_that_it_flashes() {
    let (_, case) = show_cases().into_iter().find(|(name, _)| name == "steady-and-breathe").expect("a case");
    for (period, most) in [(0.2, 0.6), (1.0 / 3.0, 1.0), (0.7, 2.1), (2.0, 6.0), (60.0, 10.0)] {
        let blink = json!({"kind": "blink", "period_s": period, "colours": [[0, 0, 1]]});
        let build = changed(&case.build, &json!([{"op": "add", "path": "/scenes/0/lights/b/effect", "value": blink}]));
        let found = most_speed(&build, &build.scenes[0]);
        assert!((found - most).abs() < 0.03 * most && found <= most + 1e-9, "{period} s: {found}");
    }
}

/// Where the rule of thumb, the worst frame and the mean are known by hand.
#[test]
fn power_of_a_breath_is_half_of_its_peak() {
    let (_, case) = show_cases().into_iter().find(|(name, _)| name == "steady-and-breathe").expect("a case");
    let changes = json!([{"op": "remove", "path": "/scenes/0/lights/a"}]);
    let build = changed(&case.build, &changes);
    let found = power(&build, &build.scenes[0], &Inputs::default()).expect("a steady state");
    // Six pixels of blue at 12 mA, ten dark at 0.8 mA, and the controller's own 50 mA.
    assert!((found.worst.current_a - (6.0 * 0.012 + 10.0 * 0.0008 + 0.05)).abs() < 1e-6, "{found:?}");
    assert!((found.worst.t_s - 1.0).abs() < 0.1);
    assert!((found.mean_a - (3.0 * 0.012 + 10.0 * 0.0008 + 0.05)).abs() < 2e-4, "{found:?}");
    assert!((found.rule_of_thumb_a - 10.0 * 0.0368).abs() < 1e-9);
}

/// White that starves turns pinkish: red arrives, blue does not; a second feed mends it.
#[test]
fn the_far_end_turns_pinkish_until_it_is_fed() {
    let text = orthavis_testing::file("cases/deck-pixels.json");
    let mut build = parse(&text).expect("a case");
    let scene = build.scenes.iter().position(|scene| scene.lights.contains_key("left-rail")).expect("a scene");
    build = changed(
        &build,
        &json!([{"op": "add", "path": format!("/scenes/{scene}/lights/left-rail"), "value": {"level": 1.0, "colour": [1, 1, 1]}},
        {"op": "replace", "path": "/lights/0/load/rail_ohm_per_m", "value": 1.2}]),
    );
    let found = arrived(&build, &build.scenes[scene], 0.0, &Inputs::default()).expect("a steady state");
    let light = found.iter().find(|light| light.light == build.lights[0].id).expect("the light");
    let last = light.delivered.last().expect("pixels");
    assert!(light.seen_from.is_some_and(|pixel| pixel > 1) && light.difference > SEEN, "{:?} {}", light.seen_from, light.difference);
    assert!(last[0] > last[2] + 0.05, "{last:?}");
    let cure = light.cure.as_ref().expect("a second feed helps");
    assert!(cure.difference < 0.5 * light.difference && points(&changed(&build, &json!(cure.changes))).is_ok());
    // Known pairs: nothing differs from itself, and a channel that is missing is seen.
    assert!(difference(&[0.4, 0.5, 0.6], &[0.4, 0.5, 0.6]) < 1e-12 && difference(&[1.0; 3], &[1.0, 1.0, 0.5]) > SEEN);
}

/// More fit the dimmer the picture: white, then this show, then with a limit.
#[test]
fn more_fit_a_show_than_full_white() {
    for (name, case) in show_cases() {
        let found = fits(&case.build, &case.build.scenes[0]).expect("a steady state");
        let counts: Vec<f64> = found[0].facts.iter().take(3).map(|fact| fact.value).collect();
        assert!(counts[0] > 0.0 && counts[0] <= counts[1] && counts[1] <= counts[2], "{name}: {counts:?}");
    }
    // 3 A at the rail less 50 mA of the controller, 36.8 mA each.
    let (_, case) = show_cases().remove(0);
    assert_eq!(fits(&case.build, &case.build.scenes[0]).expect("a steady state")[0].facts[0].value, (2.95f64 / 0.0368).floor());
}

/// What is played is what is told, and a slower player gets every frame of it.
#[test]
fn played_frames_are_those_that_are_told() {
    let (_, case) = show_cases().into_iter().find(|(name, _)| name == "chase-with-copies").expect("a case");
    let scene = &case.build.scenes[0];
    let shown = played(&case.build, scene, 0.5, 0.1, 3, &Inputs::default(), true).expect("a steady state");
    let told = frames(&case.build, scene, &[0.5, 0.6, 0.7], &Inputs::default());
    for (number, frame) in told.iter().enumerate() {
        let codes = &frame.outputs["brain/D2"];
        let hex: String = codes[..8].iter().flatten().map(|code| format!("{code:02x}")).collect();
        for light in &shown.lights[..2] {
            assert_eq!(light.asked[48 * number..48 * (number + 1)], hex, "{} {number}", light.light);
            assert_eq!(light.delivered.as_ref().map(String::len), Some(light.asked.len()));
        }
    }
}

/// The first run ends with the chain that was soldered, whatever the plan said.
#[test]
fn the_first_run_puts_the_chain_right() {
    let (_, case) = show_cases().into_iter().find(|(name, _)| name == "steady-and-breathe").expect("a case");
    let build = case.build;
    let ask = |seen: &[SawRed]| first_run(&build, "brain/D2", seen);
    let saw = |id: &str, far: bool| SawRed { lights: vec![id.into()], far };
    let begun = ask(&[]).expect("a question");
    assert_eq!((begun.red, begun.left.len()), (Some(0), 2));
    // As planned: nothing differs.
    let same = ask(&[saw("a", false), saw("b", true)]).expect("an end");
    assert!(same.red.is_none() && same.differs.is_empty() && same.changes.0.is_empty());
    // The other way round.
    assert_eq!(ask(&[saw("b", false)]).expect("a question").red, Some(6));
    let other = ask(&[saw("b", false), saw("a", false)]).expect("an end");
    let mended = changed(&build, &json!(other.changes));
    let pieces: Vec<(String, usize, bool)> = chain_maps(&mended)[0].pieces.iter().map(|piece| (piece.light.clone(), piece.first, piece.against)).collect();
    assert_eq!(pieces, [("b".to_owned(), 0, false), ("a".to_owned(), 6, false)]);
    assert_eq!(ask(&[saw("c", false)]).expect_err("no such piece"), SortError::Piece("c".into()));
    assert_eq!(ask(&[SawRed { lights: vec![], far: false }]).expect_err("nothing"), SortError::Nothing);
    assert_eq!(first_run(&build, "brain/D9", &[]).expect_err("no output"), SortError::Output("brain/D9".into()));
}

/// Spots are spread evenly along every line that drawings are made of.
#[test]
fn spots_lie_along_the_path() {
    let cases = [
        ("M0 0H10", 2, vec![[2.5, 0.0], [7.5, 0.0]]),
        ("M0 0V-4", 1, vec![[0.0, -2.0]]),
        ("M0 0L3 4M10 0L10 5", 2, vec![[1.5, 2.0], [10.0, 2.5]]),
        ("M1,1", 0, vec![]),
    ];
    for (path, count, expected) in cases {
        let found = spread(path, count);
        assert_eq!(found.len(), expected.len(), "{path}");
        for (a, b) in found.iter().zip(&expected) {
            assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 1e-9, "{path}: {found:?}");
        }
    }
    let arc = spread("M0 0Q5 10 10 0", 3);
    assert!((arc[1][0] - 5.0).abs() < 0.05 && (arc[1][1] - 5.0).abs() < 0.05 && (arc[0][0] + arc[2][0] - 10.0).abs() < 0.05, "{arc:?}");
    let table = map(&hexacopter());
    assert!(table.rows.len() >= 30 && table.csv().lines().count() == table.rows.len() + 1);
}
