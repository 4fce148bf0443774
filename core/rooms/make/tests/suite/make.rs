//! Steps, schedule, cut list and parts of the samples and of builds that nobody planned.

use orthavis_make::calendar::calendar;
use orthavis_make::cuts::{CutList, cuts};
use orthavis_make::diagram::diagram;
use orthavis_make::labels::{LabelKind, labels};
use orthavis_make::packing::pack;
use orthavis_make::parts::parts;
use orthavis_make::schedule::{Plan, Standing, plan};
use orthavis_make::steps::{Phase, Step, steps};
use orthavis_make::tables::{of_cuts, of_parts, of_steps};
use orthavis_model::demo;
use orthavis_model::document::{Build, Load, parse};
use orthavis_testing::{case, changed, random};
use proptest::prelude::*;
use serde_json::json;
use std::collections::{BTreeMap, BTreeSet};

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

/// What holds for the steps of any build.
fn sound(build: &Build, all: &[Step]) {
    let mut before: BTreeSet<&str> = BTreeSet::new();
    for step in all {
        assert!(before.insert(&step.id), "{}: {} comes twice", build.name, step.id);
        for id in &step.after {
            assert!(before.contains(id.as_str()) && id != &step.id, "{}: {} waits for {id}, which is not before it", build.name, step.id);
        }
        assert!(step.minutes > 0.0 && !step.title.is_empty() && !step.how.is_empty() && !step.why.is_empty() && !step.checks.is_empty(), "{}", step.id);
        assert!(step.wait.as_ref().is_none_or(|wait| wait.minutes > 0.0), "{} cures in no time", step.id);
        let cures = ["epoxy", "silicone", "paint", "contact adhesive", "hot glue", "varnish"];
        if step.materials.iter().any(|what| cures.iter().any(|glue| what.contains(glue))) {
            assert!(step.wait.is_some(), "{}: {} has to wait for what cures", build.name, step.id);
        }
        // A caution is about what its step does.
        let said = step.caution.clone().unwrap_or_default();
        for (word, tools) in
            [("iron is", "soldering iron"), ("Solder fumes", "soldering iron"), ("Epoxy", "gloves"), ("glue is 180", "glue gun"), ("what is behind", "drill")]
        {
            assert!(!said.contains(word) || step.tools.contains(&tools), "{}: {said}", step.id);
        }
        if let Some(about) = &step.about {
            let known = build.feeds().iter().any(|feed| feed.id == *about) || build.lights.iter().any(|light| light.id == *about);
            assert!(known, "{} is about {about}, which is not there", step.id);
        }
    }
    // The last step is reached from every other: nothing hangs loose.
    let mut leads: BTreeSet<&str> = all.last().map(|step| step.id.as_str()).into_iter().collect();
    for step in all.iter().rev() {
        assert!(leads.contains(step.id.as_str()), "{}: nothing waits for {}", build.name, step.id);
        leads.extend(step.after.iter().map(String::as_str));
    }
    let at = |id: &str| all.iter().position(|step| step.id == id);
    if let (Some(fuses), Some(continuity)) = (at("fuses"), at("continuity")) {
        assert!(continuity < fuses && all.iter().filter(|step| step.phase as usize <= Phase::Vehicle as usize).count() <= fuses);
    }
}

#[test]
fn the_steps_of_samples_and_random_builds_have_no_gap() {
    for build in samples() {
        let all = steps(&build);
        sound(&build, &all);
        let made = plan(&build, &all, &Standing { begins: 20_784, ..Standing::default() });
        println!("{}: {} steps, {:.0} min of work, done after {:.1} days", build.name, all.len(), made.work, made.ends / 1440.0);
        for feed in build.feeds() {
            assert!(all.iter().any(|step| step.id == format!("run:{}", feed.id)), "{} is not drawn", feed.id);
        }
        for light in &build.lights {
            assert!(all.iter().any(|step| step.id == format!("fix:{}", light.id)), "{} is not fixed", light.id);
        }
    }
    for build in random::builds(300) {
        sound(&build, &steps(&build));
    }
}

#[test]
fn steps_know_what_the_person_decided() {
    let base = case("trike-arrays");
    let build = changed(
        &base,
        &json!([
            { "op": "add", "path": "/places", "value": [{ "name": "rear", "traits": ["wet", "no_drill"] }] },
            { "op": "replace", "path": "/lights/1/place", "value": "rear" },
            { "op": "add", "path": "/make", "value": { "workshop_c": 6, "fixings": [
                { "part": "tail", "fixing": "slow_epoxy", "coat": true }, { "part": "twelve", "fixing": "screws" } ] } }
        ]),
    );
    let all = steps(&build);
    sound(&build, &all);
    let find = |id: &str| all.iter().find(|step| step.id == id);
    let fix = find("fix:tail").expect("a step");
    assert_eq!(fix.wait.as_ref().map(|wait| wait.minutes), Some(720.0), "cold doubles six hours");
    assert!(fix.how.contains("Nothing is drilled here"));
    assert_eq!(find("coat-2:tail").and_then(|step| step.wait.as_ref()).map(|wait| wait.minutes), Some(2880.0));
    assert!(find("holes:twelve").is_some() && find("holes:tail").is_none());
    assert!(find("seal:tail").is_some(), "what gets wet is sealed");
    // By itself nothing is drilled into a wheelchair: it goes around.
    let chair = &samples()[3];
    let all = steps(chair);
    assert!(!all.iter().any(|step| step.id.starts_with("holes:")));
    assert!(all.iter().any(|step| step.id.starts_with("fix:") && (step.title.contains("ties") || step.title.contains("clamps"))));
}

/// Nobody does two things at once, nothing begins before what it waits for, and all of it in an evening.
fn possible(build: &Build, all: &[Step], made: &Plan, now: f64, done: &BTreeMap<String, f64>) {
    let by_id: BTreeMap<&str, &Step> = all.iter().map(|step| (step.id.as_str(), step)).collect();
    assert_eq!(made.placed.len() + done.len(), all.len(), "{}", build.name);
    let first = orthavis_model::moment::day_of(&made.begins).expect("a day");
    for one in &made.placed {
        let step = by_id[one.step.as_str()];
        let worked: f64 = one.at.iter().map(|at| at.to - at.from).sum();
        assert!((worked - step.minutes).abs() < 1e-6, "{}", step.id);
        let begins = one.at[0].from;
        assert!(begins >= now - 1e-9);
        for before in &step.after {
            let ready = match done.get(before) {
                Some(at) => at + by_id[before.as_str()].wait.as_ref().map_or(0.0, |wait| wait.minutes),
                None => made.placed.iter().find(|other| other.step == *before).expect("placed").ready,
            };
            assert!(begins >= ready - 1e-6, "{} begins before {before} is ready", step.id);
        }
        for at in &one.at {
            let monday = (first + 3).rem_euclid(7) as f64 * 1440.0;
            let inside = made.evenings.iter().any(|[from, to]| {
                let shift = (at.from + monday - f64::from(*from)).rem_euclid(7.0 * 1440.0);
                shift + (at.to - at.from) <= f64::from(to - from) + 1e-6
            });
            assert!(inside, "{} at {} is in no evening", step.id, at.from);
        }
    }
    for (index, one) in made.placed.iter().enumerate() {
        for other in made.placed[index + 1..].iter().filter(|other| other.person == one.person) {
            let apart = one.at.iter().all(|a| other.at.iter().all(|b| a.to <= b.from + 1e-9 || b.to <= a.from + 1e-9));
            assert!(apart, "{} and {} at once", one.step, other.step);
        }
    }
}

#[test]
fn a_plan_is_possible_with_one_or_more_people_and_goes_on_from_what_is_done() {
    for build in samples().into_iter().chain(random::builds(20)) {
        let all = steps(&build);
        let mut ends = Vec::new();
        for people in [1, 2] {
            let with = changed(
                &build,
                &json!([{ "op": "add", "path": "/make", "value": { "people": people, "begins": "2026-11-27", "sessions": [
                    { "weekday": "friday", "start": "19:00", "minutes": 90 }, { "weekday": "sunday", "start": "23:00", "minutes": 120 },
                    { "weekday": "saturday", "start": "09:30", "minutes": 200 } ] } }]),
            );
            let made = plan(&with, &all, &Standing::default());
            possible(&with, &all, &made, 0.0, &BTreeMap::new());
            ends.push(made.ends);
            // Half of it is ticked on Saturday noon: the rest begins after that.
            let now = 1440.0 + 720.0;
            let done: BTreeMap<String, f64> = all.iter().take(all.len() / 2).map(|step| (step.id.clone(), now)).collect();
            let rest = plan(&with, &all, &Standing { begins: 0, now, done: done.clone() });
            possible(&with, &all, &rest, now, &done);
        }
        assert!(ends[1] <= ends[0] + 1e-6, "{}: two people are slower than one", build.name);
    }
}

#[test]
fn a_calendar_can_be_read_by_others() {
    let build = &samples()[0];
    let all = steps(build);
    let made = plan(build, &all, &Standing { begins: 20_784, ..Standing::default() });
    let text = calendar(&build.name, &made, &all, "20261126T120000Z");
    assert!(text.starts_with("BEGIN:VCALENDAR\r\n") && text.ends_with("END:VCALENDAR\r\n"));
    assert!(text.split("\r\n").all(|line| line.len() <= 75), "lines are folded");
    assert_eq!(text.matches("BEGIN:VEVENT").count(), text.matches("END:VEVENT").count());
    assert!(text.contains("DTSTART:20261127T183000") && text.contains("DTSTAMP:20261126T120000Z"));
    let uids: BTreeSet<&str> = text.lines().filter(|line| line.starts_with("UID:")).collect();
    assert_eq!(uids.len(), text.matches("BEGIN:VEVENT").count(), "each event has a name of its own");
}

fn fits(list: &CutList) {
    for cut in &list.cuts {
        let mut cut_off = vec![0.0; cut.pieces.len()];
        for roll in &cut.rolls {
            let mut at = 0.0;
            for on in &roll.pieces {
                assert!((on.from_m - at).abs() < 1e-3 && on.to_m <= roll.length_m + 1e-6, "{}: {on:?} of {}", cut.of, roll.length_m);
                at = on.to_m;
                cut_off[on.piece] += on.to_m - on.from_m;
            }
            assert!((roll.length_m - at - roll.left_m).abs() < 1e-3);
        }
        for (piece, got) in cut.pieces.iter().zip(cut_off) {
            assert!((piece.length_m - got).abs() < 1e-3, "{}: {} of {}", piece.name, got, piece.length_m);
        }
    }
}

#[test]
fn every_piece_comes_off_a_roll_and_strips_are_cut_at_marks() {
    for build in samples().into_iter().chain(random::builds(60)) {
        let list = cuts(&build);
        fits(&list);
        for cut in list.cuts.iter().filter(|cut| cut.at_marks) {
            for piece in &cut.pieces {
                let light = build.lights.iter().find(|light| light.id == piece.part).expect("a light");
                let step = match &light.load {
                    Load::Strip(strip) => strip.segment_m,
                    Load::Pixels(pixels) => pixels.pitch_m,
                    _ => panic!("{} is not cut", light.id),
                };
                let [from, to] = piece.marks.expect("marks");
                assert!(to > from && (piece.length_m / step - (piece.length_m / step).round()).abs() < 1e-2, "{} is cut beside a mark", piece.name);
                let whole = f64::from(to - from) * step;
                assert!(piece.joints > 0 || (whole - piece.length_m).abs() < 1e-3);
            }
        }
    }
    // 12 m of strip from 5 m rolls: two joints, at marks.
    let van = case("eight-metres-one-end");
    let list = cuts(&van);
    let strip = list.cuts.iter().find(|cut| cut.at_marks).expect("a strip");
    assert_eq!((strip.pieces[0].joints, strip.rolls.len()), (1, 2));
}

#[test]
fn what_is_to_be_bought_follows_spares_packs_and_the_drawer() {
    let build = case("trike-arrays");
    let all = steps(&build);
    let list = parts(&build, &all, &BTreeMap::new());
    let led = list.lines.iter().find(|line| line.of.starts_with("LED red")).expect("LEDs");
    assert!(led.spare >= 1.0 && led.buy >= led.needed + led.spare && led.buy % 10.0 == 0.0, "{led:?}");
    let fuse = list.lines.iter().find(|line| line.of.starts_with("blade fuse")).expect("a fuse");
    assert_eq!(fuse.spare, 2.0, "a fuse of each rating twice");
    let stock = BTreeMap::from([(led.of.clone(), led.needed + led.spare)]);
    let with = parts(&build, &all, &stock);
    assert_eq!(with.lines.iter().find(|line| line.of == led.of).expect("LEDs").buy, 0.0, "the drawer has them");
    assert!(with.cost["EUR"] < list.cost["EUR"]);
    let priced = changed(&build, &json!([{ "op": "add", "path": "/make", "value": { "prices": [{ "of": fuse.of, "price": 2.5, "currency": "SEK" }] } }]));
    let other = parts(&priced, &all, &BTreeMap::new());
    assert_eq!(other.cost["SEK"], 2.5 * (fuse.needed + fuse.spare));
    for table in [of_steps(&all), of_cuts(&cuts(&build)), of_parts(&list)] {
        let csv = table.csv();
        assert_eq!(csv.trim_end().lines().count(), table.rows.len() + 1, "{}", table.name);
    }
    assert!(list.tools.contains(&"soldering iron") && list.tools.contains(&"multimeter"));
}

/// The fewest bins by trying everything.
fn fewest(pieces: &[f64], roll: f64) -> usize {
    fn walk(place: usize, pieces: &[f64], roll: f64, left: &mut Vec<f64>, best: &mut usize) {
        if left.len() >= *best {
            return;
        }
        if place == pieces.len() {
            *best = left.len();
            return;
        }
        for index in 0..left.len() {
            if left[index] >= pieces[place] - 1e-9 {
                left[index] -= pieces[place];
                walk(place + 1, pieces, roll, left, best);
                left[index] += pieces[place];
            }
        }
        left.push(roll - pieces[place]);
        walk(place + 1, pieces, roll, left, best);
        left.pop();
    }
    let mut best = pieces.len() + 1;
    walk(0, pieces, roll, &mut Vec::new(), &mut best);
    best
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 128, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_way_opens_fewer_rolls(pieces in proptest::collection::vec(0.1f64..9.9, 1..9)) {
        let packed = pack(&pieces, 10.0);
        prop_assert_eq!(packed.rolls, fewest(&pieces, 10.0));
        prop_assert!(packed.fewest);
    }

    #[test]
    fn many_pieces_stay_within_one_roll_of_what_is_needed_at_least(pieces in proptest::collection::vec(0.1f64..3.0, 21..60)) {
        let packed = pack(&pieces, 10.0);
        let least = (pieces.iter().sum::<f64>() / 10.0).ceil() as usize;
        prop_assert!(packed.rolls <= least + 1, "{} rolls, at least {}", packed.rolls, least);
        let mut used = vec![0.0; packed.rolls];
        for (piece, roll) in pieces.iter().zip(&packed.roll) {
            used[*roll] += piece;
        }
        prop_assert!(used.iter().all(|used| *used <= 10.0 + 1e-6));
    }
}

/// Left, top, right, bottom.
type Frame = [f64; 4];

fn apart(a: &Frame, b: &Frame) -> bool {
    a[2] <= b[0] + 1e-6 || b[2] <= a[0] + 1e-6 || a[3] <= b[1] + 1e-6 || b[3] <= a[1] + 1e-6
}

#[test]
fn nothing_in_a_diagram_lies_on_something_else() {
    for build in samples().into_iter().chain(random::builds(200)).chain(orthavis_testing::cases().into_iter().map(|(_, build)| build)) {
        let drawn = diagram(&build);
        let texts: Vec<Frame> = drawn.texts.iter().map(|text| [text.x, text.y, text.x + text.w, text.y + text.h]).collect();
        let boxes: Vec<Frame> = drawn.boxes.iter().map(|part| [part.x, part.y, part.x + part.w, part.y + part.h]).collect();
        let symbols: Vec<Frame> = drawn.symbols.iter().map(|one| [one.x - 16.0, one.y - 12.0, one.x + 16.0, one.y + 12.0]).collect();
        for (number, text) in texts.iter().enumerate() {
            assert!(text[0] >= 0.0 && text[2] <= drawn.width && text[1] >= 0.0 && text[3] <= drawn.height);
            for other in texts[number + 1..].iter().chain(&boxes) {
                assert!(apart(text, other), "{}: {:?} and {other:?}", build.name, drawn.texts[number]);
            }
            for symbol in &symbols {
                assert!(apart(text, symbol), "{}: {:?} and a symbol", build.name, drawn.texts[number]);
            }
            // No bar runs through it.
            for bar in &drawn.bars {
                let [x, low, high] = [bar.points[1][0], bar.points[2][1], bar.points[3][1]];
                assert!(x <= text[0] || x >= text[2] || high <= text[1] || low >= text[3], "{}: {:?} under a bar", build.name, drawn.texts[number]);
            }
        }
        for (number, part) in boxes.iter().enumerate() {
            assert!(boxes[number + 1..].iter().all(|other| apart(part, other)), "{}: boxes overlap", build.name);
            // No conductor runs through a box that is not its own.
            for wire in &drawn.wires {
                let ([x0, y], [x1, _]) = (wire.points[0], wire.points[1]);
                let through = y > part[1] && y < part[3] && x0 < part[2] - 1e-6 && x1 > part[0] + 1e-6;
                assert!(!through, "{}: {} runs through {}", build.name, wire.feed, drawn.boxes[number].id);
            }
        }
        // Every conductor ends at a terminal of its consumer.
        for wire in &drawn.wires {
            let end = wire.points[wire.points.len() - 1];
            let met = drawn.boxes.iter().flat_map(|part| &part.terminals).any(|one| (one.x - end[0]).abs() < 1e-6 && (one.y - end[1]).abs() < 1e-6);
            assert!(met, "{}: {} ends nowhere", build.name, wire.feed);
        }
        let feeds = build.feeds();
        assert_eq!(drawn.wires.len(), 2 * feeds.len());
        // A bar is crossed once by each feed of its supplier but one, and by what passes it on the way further.
        assert!(drawn.crossings <= 2 * feeds.len() * feeds.len(), "{} crossings", drawn.crossings);
        let svg = drawn.svg(&build.name);
        assert!(svg.starts_with("<svg") && svg.ends_with("</svg>\n"));
    }
    for build in samples() {
        let drawn = diagram(&build);
        println!("{}: {} feeds, {} crossings, {:.0} x {:.0}", build.name, build.feeds().len(), drawn.crossings, drawn.width, drawn.height);
    }
}

#[test]
fn every_wire_has_two_flags_and_every_part_its_own() {
    for build in samples() {
        let all = labels(&build);
        for feed in build.feeds() {
            let flags = all.iter().filter(|label| label.kind == LabelKind::Wire && label.part == feed.id).count();
            let conductors = 1 + usize::from(feed.feed.return_path == orthavis_model::document::Return::Wire);
            assert_eq!(flags, 2 * conductors, "{}", feed.id);
            let fuses = all.iter().filter(|label| label.kind == LabelKind::Fuse && label.part == feed.id).count();
            assert_eq!(fuses, usize::from(feed.feed.fuse.is_some()));
        }
        assert_eq!(all.iter().filter(|label| label.kind == LabelKind::Converter).count(), build.converters.len());
    }
}
