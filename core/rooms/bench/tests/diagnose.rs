//! Random single faults, found by following the next check: how many checks it takes, and whether it is the right one.

use orthavis_bench::board::Board;
use orthavis_bench::diagnose::{Bench, Known, Look, Saw, Symptom, hypotheses};
use orthavis_bench::fault::Fault;
use orthavis_bench::meter::{Serial, Setting};
use orthavis_bench::reading::{Probes, value};
use orthavis_bench::seen::seen;
use orthavis_model::demo;
use orthavis_model::document::{Build, Scene, SceneLight, parse};
use std::time::Instant;

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

/// Everything on, as one looks for a fault.
fn all_on(build: &Build) -> Scene {
    let on = |id: &String| {
        let lit = build.scenes.iter().find_map(|scene| scene.lights.get(id).filter(|lit| lit.level > 0.0));
        lit.cloned().unwrap_or(SceneLight { level: 1.0, colour: [1.0; 3], duty: 1.0 })
    };
    Scene { id: "all".into(), name: "All".into(), lights: build.lights.iter().map(|light| (light.id.clone(), on(&light.id))).collect() }
}

struct Walk {
    checks: usize,
    right: bool,
}

/// A person who answers what is asked, with a meter of their own.
fn walk(build: &Build, bench: &Bench, fault: &Fault, scene: &Scene, serial: u64, slowest: &mut f64) -> Option<Walk> {
    let state = build.source.states()[0];
    let sound = Board::new(build, &[]).expect("a board");
    let shot = sound_shot(build, scene);
    let found = seen(&sound, std::slice::from_ref(fault), scene, state, None).ok()?;
    let look = |light: usize| {
        let look = Look::of(&found.board.brightness(&found.shot, light), &sound.brightness(&shot, light));
        Saw { light: Some(light), symptom: look.symptom(), from: look.dark_from.filter(|_| look.symptom() == Symptom::Part) }
    };
    // What a person sees of every light is what they come with; it is no check.
    let mut known = Known { seen: (0..build.lights.len()).map(look).collect(), read: Vec::new() };
    let most = ((bench.hypotheses() as f64).log2() + 2.0).floor() as usize;
    for checks in 0..=most + 10 {
        let start = Instant::now();
        let diagnosis = bench.diagnose(&known).expect("a diagnosis");
        *slowest = slowest.max(start.elapsed().as_secs_f64());
        let Some(next) = diagnosis.next else {
            let name = fault.name(build);
            let lead = diagnosis.suspects.first()?;
            return Some(Walk { checks, right: lead.fault == name || lead.like.contains(&name) });
        };
        if next.setting == Setting::Look {
            let light = build.lights.iter().position(|light| light.id == next.probes[0]).expect("a light");
            known.seen.push(look(light));
        } else {
            let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
            let probes = Probes::parse(build, &names).expect("probes");
            let read = Serial(serial).shows(next.setting, value(&found.board, &found.shot, next.setting, &probes));
            known.read.push((next.setting, probes, read));
        }
    }
    Some(Walk { checks: most + 10, right: false })
}

fn sound_shot(build: &Build, scene: &Scene) -> orthavis_bench::board::Shot {
    Board::new(build, &[]).expect("a board").shot(scene, build.source.states()[0]).expect("a solution")
}

#[test]
fn the_true_fault_leads_within_a_few_checks() {
    let count: usize = std::env::var("ORTHAVIS_FAULTS").ok().and_then(|text| text.parse().ok()).unwrap_or(60);
    let (mut all, mut within, mut right) = (Vec::new(), 0, 0);
    let mut random = 0x2545_f491_4f6c_dd1du64;
    let mut slowest = 0.0;
    for build in samples() {
        // Pixels that show a picture have something to lose.
        let scene = all_on(&build);
        let start = Instant::now();
        let bench = Bench::new(&build, &scene, build.source.states()[0]).expect("a bench");
        let made = start.elapsed().as_secs_f64();
        let faults = hypotheses(&build);
        let most = ((bench.hypotheses() as f64).log2() + 2.0).floor() as usize;
        let (mut checks, mut good, mut early) = (Vec::new(), 0, 0);
        for turn in 0..count / 6 {
            random ^= random << 13;
            random ^= random >> 7;
            random ^= random << 17;
            let fault = &faults[(random % faults.len() as u64) as usize];
            let Some(walk) = walk(&build, &bench, fault, &scene, turn as u64, &mut slowest) else { continue };
            if !walk.right {
                println!("  missed {}: after {} checks", fault.name(&build), walk.checks);
            }
            good += usize::from(walk.right);
            early += usize::from(walk.right && walk.checks <= most);
            checks.push(walk.checks);
        }
        checks.sort_unstable();
        let at = |share: f64| checks[((checks.len() - 1) as f64 * share).round() as usize];
        println!(
            "{}: {} hypotheses (made in {:.0} ms), checks median {}, 90 % {}, worst {} (at most {most}); right {good} of {}",
            build.name,
            bench.hypotheses(),
            made * 1e3,
            at(0.5),
            at(0.9),
            at(1.0),
            checks.len()
        );
        within += early;
        right += good;
        all.extend(checks);
    }
    all.sort_unstable();
    println!(
        "all {}: median {}, 90 % {}, worst {}; right {right}, within {within}; slowest answer {:.1} ms",
        all.len(),
        all[all.len() / 2],
        all[all.len() * 9 / 10],
        all[all.len() - 1],
        slowest * 1e3
    );
    assert!(within * 10 >= all.len() * 9, "{within} of {}", all.len());
}

#[test]
fn a_sound_build_is_said_to_be_sound() {
    let build = &samples()[0];
    let scene = all_on(build);
    let bench = Bench::new(build, &scene, build.source.states()[0]).expect("a bench");
    let mut known = Known::default();
    let (board, shot) = (Board::new(build, &[]).expect("a board"), sound_shot(build, &scene));
    while let Some(next) = bench.diagnose(&known).expect("a diagnosis").next {
        if next.setting == Setting::Look {
            let light = build.lights.iter().position(|light| light.id == next.probes[0]).expect("a light");
            known.seen.push(Saw { light: Some(light), symptom: Symptom::Fine, from: None });
            continue;
        }
        let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
        let probes = Probes::parse(build, &names).expect("probes");
        let read = value(&board, &shot, next.setting, &probes);
        known.read.push((next.setting, probes, read));
        assert!(known.read.len() < 40, "it never ends");
    }
    let lead = bench.diagnose(&known).expect("a diagnosis").suspects.remove(0);
    assert!(lead.fault == "none" || lead.like.contains(&"none".to_owned()), "{lead:?}");
}
