//! What holds of every show, on shows that nobody composed.

use orthavis_model::document::{Build, Load, Pixels};
use orthavis_model::laws::effect::Inputs;
use orthavis_model::table::Cell;
use orthavis_show::arrives::{SEEN, arrived, delivered, difference};
use orthavis_show::fits::fits;
use orthavis_show::frames::{frames, table};
use orthavis_show::map::{chain_maps, map, spread};
use orthavis_show::play::{most_speed, played};
use orthavis_show::power::{course, power};
use orthavis_show::sort::{SawRed, first_run};
use orthavis_testing::changed;
use orthavis_testing::shows::{build, chain, effect};
use proptest::prelude::*;
use serde_json::{Value, json};

/// Two chains: one of two lights, and one that two share.
fn two(a: &Value, b: &Value, limit_a: Option<f64>) -> Build {
    let outputs =
        json!([{"pin": "1", "kind": "data", "chain": chain(&[0, 1])}, {"pin": "2", "kind": "data", "chain": [{"copies": ["p2", "p3"], "wire_m": 0.2}]}]);
    build(&[6, 9, 5, 5], outputs, limit_a, json!({"p0": {"effect": a}, "p1": {"effect": b, "level": 0.8}, "p2": {"effect": a}}))
}

fn pixels(build: &Build) -> &Pixels {
    let Load::Pixels(pixels) = &build.lights[0].load else { unreachable!("all its lights are pixels") };
    pixels
}

fn figure(cell: &Cell) -> f64 {
    if let Cell::Number(value) = cell { *value } else { f64::NAN }
}

fn fact(facts: &[orthavis_model::working::Fact], key: &str) -> f64 {
    facts.iter().find(|fact| fact.key == key).unwrap_or_else(|| panic!("no {key}")).value
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// Frames as JSON, as a table and as they are played are the same frames.
    #[test]
    fn a_frame_is_the_same_however_it_is_told(a in effect(), b in effect(), from_s in 0.0..20.0f64, step_s in 0.01..0.5f64) {
        let build = two(&a, &b, None);
        let (scene, inputs) = (&build.scenes[0], Inputs::default());
        let times = [from_s, from_s + step_s, from_s + 2.0 * step_s];
        let told = frames(&build, scene, &times, &inputs);
        let rows = table(&build, scene, &times, &inputs).rows;
        let all: Vec<[u8; 3]> = told.iter().flat_map(|frame| frame.outputs.values().flatten().copied()).collect();
        prop_assert_eq!((told.len(), all.len(), rows.len()), (3, 3 * (15 + 5), all.len()));
        for (row, code) in rows.iter().zip(&all) {
            for channel in 0..3 {
                prop_assert_eq!(figure(&row[3 + channel]), f64::from(code[channel]));
            }
        }
        let shown = played(&build, scene, from_s, step_s, 3, &inputs, false).map_err(|error| TestCaseError::fail(error.to_string()))?;
        for (light, (output, from)) in shown.lights.iter().zip([("brain/1", 0), ("brain/1", 6), ("brain/2", 0), ("brain/2", 0)]) {
            prop_assert_eq!(light.asked.len(), 3 * 6 * light.count);
            let codes = told.iter().flat_map(|frame| &frame.outputs[output][from..from + light.count]);
            let hex: String = codes.flatten().map(|code| format!("{code:02x}")).collect();
            prop_assert_eq!(&light.asked, &hex, "{}", light.light);
        }
    }

    /// Nothing arrives brighter than it was asked for, nothing has more volts than the rail, and a difference is told where one is seen.
    #[test]
    fn what_arrives_is_at_most_what_is_asked(a in effect(), b in effect(), time_s in 0.0..20.0f64, rail in 0.05..4.0f64) {
        let changes: Vec<Value> = (0..4).map(|at| json!({"op": "replace", "path": format!("/lights/{at}/load/rail_ohm_per_m"), "value": rail})).collect();
        let build = changed(&two(&a, &b, None), &json!(changes));
        let found = arrived(&build, &build.scenes[0], time_s, &Inputs::default()).map_err(|error| TestCaseError::fail(error.to_string()))?;
        prop_assert_eq!(found.len(), 4);
        for light in &found {
            for (asked, given) in light.asked.iter().zip(&light.delivered) {
                prop_assert!(asked.iter().zip(given).all(|(asked, given)| *given <= asked + 1e-12 && *given >= 0.0), "{asked:?} {given:?}");
            }
            prop_assert!(light.volts.iter().all(|volts| *volts <= 5.0 + 1e-9 && *volts > 0.0), "{:?}", light.volts);
            prop_assert_eq!(light.seen_from.is_some(), light.difference > SEEN, "{} {:?}", light.difference, light.seen_from);
            if let Some(cure) = &light.cure {
                prop_assert!(cure.difference < light.difference);
                let again = changed(&build, &json!(cure.changes));
                let after = arrived(&again, &again.scenes[0], time_s, &Inputs::default()).map_err(|error| TestCaseError::fail(error.to_string()))?;
                let same = after.iter().find(|other| other.light == light.light).map(|other| other.difference);
                prop_assert_eq!(same, Some(cure.difference), "what taking it over gives");
            }
        }
    }

    /// Less voltage never makes a channel brighter; blue goes before red.
    #[test]
    fn a_pixel_fades_with_its_voltage(volts in 0.0..6.0f64, less in 0.0..3.0f64, colour in prop::array::uniform3(0.0..=1.0f64)) {
        let build = two(&json!({"kind": "steady"}), &json!({"kind": "steady"}), None);
        let (high, low) = (delivered(pixels(&build), &colour, volts), delivered(pixels(&build), &colour, volts - less));
        prop_assert!(high.iter().zip(&low).all(|(high, low)| low <= high));
        let white = delivered(pixels(&build), &[1.0; 3], volts);
        prop_assert!(white[0] >= white[2] && white[1] == white[2], "{white:?}");
    }

    /// A colour differs from itself by nothing, and from another as much as that differs from it.
    #[test]
    fn differences_are_mutual(a in prop::array::uniform3(0.0..=1.0f64), b in prop::array::uniform3(0.0..=1.0f64)) {
        prop_assert!(difference(&a, &a) < 1e-9);
        prop_assert!((difference(&a, &b) - difference(&b, &a)).abs() < 1e-6 * (1.0 + difference(&a, &b)));
    }

    /// The mean is no more than the worst frame, that no more than the rule of thumb, and no moment of the course above it.
    #[test]
    fn a_show_takes_at_most_its_worst_frame(a in effect(), b in effect()) {
        let build = two(&a, &b, None);
        let (scene, inputs) = (&build.scenes[0], Inputs::default());
        let found = power(&build, scene, &inputs).map_err(|error| TestCaseError::fail(error.to_string()))?;
        prop_assert!(found.mean_a <= found.worst.current_a + 1e-6, "{found:?}");
        prop_assert!((found.rule_of_thumb_a - 25.0 * 0.0368).abs() < 1e-9, "{}", found.rule_of_thumb_a);
        let facts = &found.supplies[0].facts;
        let own = fact(facts, "pixels_a");
        prop_assert!(own <= found.rule_of_thumb_a + 1e-9);
        prop_assert!((fact(facts, "factor") - found.rule_of_thumb_a / own).abs() < 1e-9);
        let run = course(&build, scene, &inputs);
        prop_assert!(run.t_s.windows(2).all(|pair| pair[0] < pair[1]) && run.t_s.len() == run.current_a.len());
        let most = run.current_a.iter().copied().fold(0.0, f64::max);
        prop_assert!(most <= own + 1e-6, "{most} A in the course, {own} A in the worst frame");
    }

    /// A tighter limit fits no fewer pixels than the show as it is, and dims it to what the limit says.
    #[test]
    fn what_fits_grows_as_the_picture_dims(a in effect(), b in effect(), limit in 0.05..1.0f64) {
        for limit_a in [None, Some(limit)] {
            let build = two(&a, &b, limit_a);
            for one in fits(&build, &build.scenes[0]).map_err(|error| TestCaseError::fail(error.to_string()))? {
                prop_assert_eq!(one.count, 25);
                let (white, worst, limited) = (fact(&one.facts, "white"), fact(&one.facts, "worst"), fact(&one.facts, "limited"));
                prop_assert!(white <= worst && worst <= limited, "{white} {worst} {limited}");
                prop_assert_eq!(white, ((30.0 - 0.05) / 0.0368_f64).floor());
                if limit_a.is_some() {
                    let dimmed = fact(&one.facts, "dimmed");
                    prop_assert!((0.0..=1.0).contains(&dimmed));
                }
            }
        }
    }

    /// A show may be played faster by as much as it is slower, up to the fastest; nothing is played faster than ten times.
    #[test]
    fn how_fast_it_may_be_played_goes_with_its_period(tenths in 2u32..30, slower in 1.0..3.0f64) {
        let speed = |period_s: f64| {
            let blink = json!({"kind": "blink", "period_s": period_s, "colours": [[1, 1, 1]]});
            let build = two(&blink, &json!({"kind": "steady"}), None);
            most_speed(&build, &build.scenes[0])
        };
        let period = f64::from(tenths) / 10.0;
        let (fast, slow) = (speed(period), speed(period * slower));
        prop_assert!(fast <= 10.0 && slow <= 10.0 && fast <= 3.0 * period + 1e-6, "{fast} of {period} s");
        prop_assert!(slow >= fast - 0.03 * fast, "{fast} then {slow}");
    }

    /// Whatever somebody sees on the first run, the chain that is taken over is that one; and then nothing differs any more.
    #[test]
    fn the_first_run_ends_with_what_was_seen(order in Just(vec![0usize, 1, 2]).prop_shuffle(), far in prop::array::uniform3(any::<bool>())) {
        let outputs = json!([{"pin": "1", "kind": "data", "chain": chain(&[0, 1, 2])}]);
        let steady = json!({"effect": {"kind": "steady"}});
        let build = build(&[4, 7, 5], outputs, None, json!({"p0": steady, "p1": steady, "p2": steady}));
        let seen: Vec<SawRed> = order.iter().zip(far).map(|(light, far)| SawRed { lights: vec![format!("p{light}")], far }).collect();
        let mut red = 0;
        for (number, one) in seen.iter().enumerate() {
            let asked = first_run(&build, "brain/1", &seen[..number]).map_err(|error| TestCaseError::fail(error.to_string()))?;
            prop_assert_eq!((asked.red, asked.left.len()), (Some(red), 3 - number), "before {:?}", one);
            red += [4, 7, 5][order[number]];
        }
        let end = first_run(&build, "brain/1", &seen).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let mended = changed(&build, &json!(end.changes));
        let pieces: Vec<(String, bool)> = chain_maps(&mended)[0].pieces.iter().map(|piece| (piece.light.clone(), piece.against)).collect();
        prop_assert_eq!(pieces, order.iter().zip(far).map(|(light, far)| (format!("p{light}"), far)).collect::<Vec<_>>());
        let again = first_run(&mended, "brain/1", &seen).map_err(|error| TestCaseError::fail(error.to_string()))?;
        prop_assert!(again.red.is_none() && again.differs.is_empty() && again.changes.0.is_empty(), "{:?}", again.differs);
    }

    /// Spots along a straight line are equally far apart, and half of that from its ends.
    #[test]
    fn spots_are_evenly_spread(count in 1usize..60, across in -200.0..200.0f64, down in -100.0..100.0f64) {
        prop_assume!(across.hypot(down) > 1.0);
        let found = spread(&format!("M10 20L{} {}", 10.0 + across, 20.0 + down), count);
        prop_assert_eq!(found.len(), count);
        for (number, spot) in found.iter().enumerate() {
            let share = (number as f64 + 0.5) / count as f64;
            prop_assert!((spot[0] - 10.0 - share * across).abs() < 1e-6 && (spot[1] - 20.0 - share * down).abs() < 1e-6, "{number}: {spot:?}");
        }
    }
}

/// Every number of every output is in the map once for each light that has it, and copies share theirs.
#[test]
fn every_number_is_in_the_map() {
    let steady = json!({"kind": "steady"});
    let build = two(&steady, &steady, None);
    let found = map(&build);
    let text = |cell: &Cell| if let Cell::Text(words) = cell { words.clone() } else { String::new() };
    let mut numbers: Vec<(String, String, usize)> = found.rows.iter().map(|row| (text(&row[0]), text(&row[2]), figure(&row[1]) as usize)).collect();
    numbers.sort();
    let mut expected: Vec<(String, String, usize)> = Vec::new();
    for (output, light, first, count) in [("brain/1", "p0", 0, 6), ("brain/1", "p1", 6, 9), ("brain/2", "p2", 0, 5), ("brain/2", "p3", 0, 5)] {
        expected.extend((first..first + count).map(|number| (output.to_owned(), light.to_owned(), number)));
    }
    assert_eq!(numbers, expected);
    let maps = chain_maps(&build);
    assert_eq!(maps.iter().map(|chain| (chain.output.as_str(), chain.count)).collect::<Vec<_>>(), [("brain/1", 15), ("brain/2", 5)]);
    assert_eq!(maps[1].pieces.iter().map(|piece| (piece.copy, piece.first, piece.last)).collect::<Vec<_>>(), [(true, 0, 4), (true, 0, 4)]);
    assert!(maps[0].pieces.iter().all(|piece| !piece.copy && piece.place == "arms"));
}
