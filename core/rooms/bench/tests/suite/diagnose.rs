//! Random single faults, found by following the next check: how many checks it takes, and whether it is the right one.

use orthavis_bench::diagnose::{FaultDictionary, Known, Look, Saw, Symptom, hypotheses};
use orthavis_bench::fault::Fault;
use orthavis_bench::meter::{Serial, Setting};
use orthavis_bench::reading::{Probes, unpowered, value};
use orthavis_bench::rig::{Rig, Shot};
use orthavis_bench::seen::{Seen, seen};
use orthavis_bench::spot::Spot;
use orthavis_model::demo;
use orthavis_model::document::{Build, Scene, SceneLight, parse};
use orthavis_model::states::State;
use orthavis_testing::{cases, random};
use serde_json::json;
use std::time::Instant;

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

/// Everything on, as one looks for a fault.
fn all_on(build: &Build) -> Scene {
    let on = |id: &String| {
        let lit = build.scenes.iter().find_map(|scene| scene.lights.get(id).filter(|lit| lit.level > 0.0));
        lit.cloned().unwrap_or(SceneLight::FULL)
    };
    Scene { id: "all".into(), name: "All".into(), lights: build.lights.iter().map(|light| (light.id.clone(), on(&light.id))).collect() }
}

fn saw(light: usize, found: &Seen<'_>, sound: &Rig<'_>, plan: &Shot) -> Saw {
    let look = Look::of(&found.rig.brightness(&found.shot, light), &sound.brightness(plan, light));
    Saw { light: Some(light), symptom: look.symptom(), from: look.dark_from.filter(|_| look.symptom() == Symptom::Part) }
}

struct Walk {
    checks: usize,
    right: bool,
}

/// A person who answers what is asked, with a meter of their own.
fn walk(build: &Build, dictionary: &FaultDictionary, fault: &Fault, scene: &Scene, serial: u64, slowest: &mut f64) -> Option<Walk> {
    let state = build.states()[0];
    let sound = Rig::new(build, &[]).expect("a rig");
    let shot = sound_shot(build, scene);
    let found = seen(&sound, std::slice::from_ref(fault), scene, state, None).ok()?;
    let look = |light: usize| saw(light, &found, &sound, &shot);
    // What a person sees of every light is what they come with; it is not a check.
    let mut known = Known { seen: (0..build.lights.len()).map(look).collect(), ..Known::default() };
    let most = ((dictionary.hypotheses() as f64).log2() + 2.0).floor() as usize;
    for checks in 0..=most + 10 {
        let start = Instant::now();
        let diagnosis = dictionary.diagnose(&known).expect("a diagnosis");
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
            let read = reads(&found.rig, &found.shot, next.setting, &probes);
            known.read.push((next.setting, probes, read.map(|read| Serial(serial).shows(next.setting, read))));
        }
    }
    Some(Walk { checks: most + 10, right: false })
}

/// What a meter without error reads; `None`: open.
fn reads(rig: &Rig<'_>, shot: &Shot, setting: Setting, probes: &Probes) -> Option<f64> {
    match setting {
        Setting::Ohms | Setting::Diode => unpowered(rig, setting, probes).expect("a place to clip to"),
        setting => Some(value(rig, shot, setting, probes)),
    }
}

fn sound_shot(build: &Build, scene: &Scene) -> Shot {
    Rig::new(build, &[]).expect("a rig").shot(scene, build.states()[0]).expect("a solution")
}

/// Two people without the program: volts of one point after another against the battery's minus. One goes down the list of
/// points in its order; the other always takes the point that halves what is left. Both know by heart what each fault would
/// read there, and take nothing for granted that is within three percent and twenty millivolts.
struct Rivals {
    /// By fault: how each light looks, and every point's voltage; `None` where there is no steady state.
    all: Vec<Option<(Vec<Symptom>, Vec<f64>)>>,
}

impl Rivals {
    fn of(build: &Build, faults: &[Fault], scene: &Scene) -> Self {
        let (state, spots) = (build.states()[0], Spot::all(build));
        let sound = Rig::new(build, &[]).expect("a rig");
        let plan = sound_shot(build, scene);
        let one = |fault: &Fault| {
            let found = seen(&sound, std::slice::from_ref(fault), scene, state, Some(&plan)).ok()?;
            let look = |light| Look::of(&found.rig.brightness(&found.shot, light), &sound.brightness(&plan, light)).symptom();
            Some(((0..build.lights.len()).map(look).collect(), spots.iter().map(|spot| found.rig.potential(&found.shot, *spot)).collect()))
        };
        Rivals { all: faults.iter().map(one).collect() }
    }

    fn alike(a: f64, b: f64) -> bool {
        (a - b).abs() <= 0.03 * a.abs().max(b.abs()) + 0.02
    }

    /// Points that each of the two reads until what is left cannot be told from the truth by any point.
    fn checks(&self, truth: usize) -> Option<[usize; 2]> {
        let (looks, real) = self.all[truth].as_ref()?;
        let known = |index: &usize| self.all[*index].as_ref().filter(|(other, _)| other == looks).map(|(_, volts)| volts);
        let left: Vec<usize> = (0..self.all.len()).filter(|index| known(index).is_some()).collect();
        let at = |index: usize, point: usize| known(&index).map_or(0.0, |volts| volts[point]);
        let twin = |index: &usize| (0..real.len()).all(|point| Self::alike(at(*index, point), real[point]));
        let keep = |left: &mut Vec<usize>, point: usize| left.retain(|index| Self::alike(at(*index, point), real[point]));
        let done = |left: &[usize]| left.iter().all(&twin);
        let (mut ordered, mut halved) = (left.clone(), left);
        let in_order = (0..real.len()).find(|point| {
            done(&ordered) || {
                keep(&mut ordered, *point);
                false
            }
        });
        let mut halves = 0;
        while !done(&halved) {
            // The likeliest reading of each point, and how many would show something else there.
            let off = |point: &usize| {
                let most = halved.iter().map(|index| halved.iter().filter(|other| Self::alike(at(*index, *point), at(**other, *point))).count()).max();
                (2 * most.unwrap_or(0)).abs_diff(halved.len())
            };
            let middle = (0..real.len()).min_by_key(off)?;
            let before = halved.len();
            keep(&mut halved, middle);
            halves += 1;
            if halved.len() == before {
                break;
            }
        }
        Some([in_order.unwrap_or(real.len()), halves])
    }
}

#[test]
fn the_true_fault_leads_within_a_few_checks() {
    let count: usize = std::env::var("ORTHAVIS_FAULTS").ok().and_then(|text| text.parse().ok()).unwrap_or(60);
    let (mut all, mut within, mut right) = (Vec::new(), 0, 0);
    let mut rivals: [Vec<usize>; 2] = Default::default();
    let mut bits = 0x2545_f491_4f6c_dd1du64;
    let mut slowest = 0.0;
    let builds: Vec<Build> = {
        // A plan whose own fuses open is mended before anything is looked for in it.
        let sound = |build: &Build| {
            let rig = Rig::new(build, &[]).expect("a rig");
            seen(&rig, &[], &all_on(build), build.states()[0], None).is_ok_and(|seen| seen.blown.is_empty())
        };
        let random = random::builds(8).into_iter().filter(sound);
        samples().into_iter().chain(cases().into_iter().map(|(_, build)| build)).chain(random).collect()
    };
    let each = count.div_ceil(builds.len());
    for build in builds {
        // Pixels that show a picture have something to lose.
        let scene = all_on(&build);
        let start = Instant::now();
        let dictionary = FaultDictionary::new(&build, &scene, build.states()[0]).expect("a dictionary");
        let made = start.elapsed().as_secs_f64();
        let faults = hypotheses(&build);
        let others = Rivals::of(&build, &faults, &scene);
        let most = ((dictionary.hypotheses() as f64).log2() + 2.0).floor() as usize;
        let (mut checks, mut good, mut early) = (Vec::new(), 0, 0);
        for turn in 0..each {
            bits ^= bits << 13;
            bits ^= bits >> 7;
            bits ^= bits << 17;
            let index = (bits % faults.len() as u64) as usize;
            let fault = &faults[index];
            let Some(walk) = walk(&build, &dictionary, fault, &scene, turn as u64, &mut slowest) else { continue };
            if !walk.right {
                println!("  missed {}: after {} checks", fault.name(&build), walk.checks);
            }
            good += usize::from(walk.right);
            early += usize::from(walk.right && walk.checks <= most);
            checks.push(walk.checks);
            for (all, one) in rivals.iter_mut().zip(others.checks(index).into_iter().flatten()) {
                all.push(one);
            }
        }
        checks.sort_unstable();
        let at = |share: f64| checks[((checks.len() - 1) as f64 * share).round() as usize];
        println!(
            "{}: {} hypotheses (made in {:.0} ms), checks median {}, 90 % {}, worst {} (at most {most}); right {good} of {}",
            build.name,
            dictionary.hypotheses(),
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
    for (name, checks) in ["in a fixed order", "always halving"].iter().zip(&mut rivals) {
        checks.sort_unstable();
        let at = |share: f64| checks[((checks.len() - 1) as f64 * share).round() as usize];
        println!("{name}: median {}, 90 % {}, worst {}", at(0.5), at(0.9), at(1.0));
    }
    assert!(within * 10 >= all.len() * 9, "{within} of {}", all.len());
    // Nobody who goes down the list of points gets there sooner, although they make no mistakes.
    assert!(all[all.len() * 9 / 10] <= rivals[0][rivals[0].len() * 9 / 10]);
}

#[test]
fn a_sound_build_is_said_to_be_sound() {
    let build = &samples()[0];
    let scene = all_on(build);
    let dictionary = FaultDictionary::new(build, &scene, build.states()[0]).expect("a dictionary");
    let mut known = Known::default();
    let (rig, shot) = (Rig::new(build, &[]).expect("a rig"), sound_shot(build, &scene));
    while let Some(next) = dictionary.diagnose(&known).expect("a diagnosis").next {
        if next.setting == Setting::Look {
            let light = build.lights.iter().position(|light| light.id == next.probes[0]).expect("a light");
            known.seen.push(Saw { light: Some(light), symptom: Symptom::Fine, from: None });
            continue;
        }
        let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
        let probes = Probes::parse(build, &names).expect("probes");
        let read = reads(&rig, &shot, next.setting, &probes);
        known.read.push((next.setting, probes, read));
        assert!(known.read.len() < 40, "it never ends");
    }
    let lead = dictionary.diagnose(&known).expect("a diagnosis").suspects.remove(0);
    assert!(lead.fault == "none" || lead.like.contains(&"none".to_owned()), "{lead:?}");
}

#[test]
fn two_faults_are_found_when_pairs_are_asked_for() {
    let build = &samples()[3];
    let (scene, state) = (all_on(build), build.states()[0]);
    let dictionary = FaultDictionary::new(build, &scene, state).expect("a dictionary");
    let (sound, plan) = (Rig::new(build, &[]).expect("a rig"), sound_shot(build, &scene));
    let lights: Vec<&str> = build.lights.iter().map(|light| light.id.as_str()).collect();
    let (mut tried, mut led) = (0, 0);
    // One fault at each of two lights, each of which darkens its own.
    for (one, two) in [(0, 1), (1, 2), (0, 2)] {
        for (first, second) in [("open@A:to-", "reversed@B"), ("reversed@A", "open@B:to+"), ("open@A:from+", "open@B:to+")] {
            let named = |text: &str| Fault::parse(build, &text.replace('A', lights[one]).replace('B', lights[two])).expect("a fault");
            let faults = [named(first), named(second)];
            let Ok(found) = seen(&sound, &faults, &scene, state, None) else { continue };
            let mut known = Known { seen: (0..lights.len()).map(|light| saw(light, &found, &sound, &plan)).collect(), ..Known::default() };
            let mut asked = dictionary.with_pairs(&known).expect("a dictionary");
            while let (Some(next), true) = (asked.diagnose(&known).expect("a diagnosis").next, known.read.len() < 20) {
                let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
                let probes = Probes::parse(build, &names).expect("probes");
                known.read.push((next.setting, probes.clone(), reads(&found.rig, &found.shot, next.setting, &probes)));
                asked = dictionary.with_pairs(&known).expect("a dictionary");
            }
            tried += 1;
            let lead = asked.diagnose(&known).expect("a diagnosis").suspects.remove(0);
            let both = |name: &str| {
                let names: Vec<&str> = name.split(" + ").collect();
                names.len() == 2 && faults.iter().all(|fault| names.contains(&fault.name(build).as_str()))
            };
            println!("  {} + {}: {} ({} readings)", faults[0].name(build), faults[1].name(build), lead.fault, known.read.len());
            led += usize::from(both(&lead.fault) || lead.like.iter().any(|name| both(name)));
        }
    }
    println!("pairs: {led} of {tried}");
    assert!(tried >= 7 && led * 10 >= tried * 7, "{led} of {tried}");
}

#[test]
fn where_a_wire_is_hot_only_checks_without_power_are_asked_for() {
    let build = &samples()[7];
    let scene = all_on(build);
    let dictionary = FaultDictionary::new(build, &scene, build.states()[0]).expect("a dictionary");
    let known = Known { seen: vec![Saw { light: None, symptom: Symptom::Hot, from: None }], ..Known::default() };
    let next = dictionary.diagnose(&known).expect("a diagnosis").next.expect("a check");
    assert!(matches!(next.setting, Setting::Ohms | Setting::Diode), "{next:?}");
    let first = |seen: &[Symptom]| {
        let seen = seen.iter().map(|symptom| Saw { light: None, symptom: *symptom, from: None }).collect();
        dictionary.diagnose(&Known { seen, ..Known::default() }).expect("a diagnosis").first
    };
    assert!(first(&[Symptom::Hot]).is_some_and(|first| first.starts_with("Battery off")));
    assert_eq!(first(&[Symptom::Hot, Symptom::Cold]), None);
    assert_eq!(first(&[Symptom::Blows]), None);
    // What is read with the power off stays with what was seen, two faults at once included.
    let open = Probes::parse(build, &["tail:from+", "tail:to+"]).expect("probes");
    let known = Known { read: vec![(Setting::Ohms, open, None)], ..Known::default() };
    for asked in [dictionary.with_pairs(&known).expect("a dictionary"), FaultDictionary::new(build, &scene, build.states()[0]).expect("a dictionary")] {
        let found = asked.diagnose(&known).expect("a diagnosis");
        let all: f64 = found.suspects.iter().map(|suspect| suspect.share).sum();
        assert!(found.suspects[0].fault.contains("@tail") && all > 0.5 && all < 1.0 + 1e-9, "{all}: {:?}", found.suspects);
    }
    let live = Known { read: vec![(Setting::Volts, Probes::Source, None)], ..Known::default() };
    assert!(dictionary.diagnose(&live).is_err(), "volts are never open");
}

/// A hazard that a build states makes its fault likelier, and what keeps it out less likely; nothing stated changes nothing.
#[test]
fn hazards_shift_what_is_likely() {
    let share = |change: &dyn Fn(&mut Build), fault: &str| {
        let mut build = orthavis_testing::case("chair-24v");
        change(&mut build);
        let scene = all_on(&build);
        let tail = build.lights.iter().position(|light| light.id == "tail").expect("its tail");
        let known = Known { seen: vec![Saw { light: Some(tail), symptom: Symptom::Dark, from: None }], ..Known::default() };
        let found = FaultDictionary::new(&build, &scene, build.states()[0]).expect("a dictionary").diagnose(&known).expect("a diagnosis");
        let of = |suspect: &&orthavis_bench::diagnose::Suspect| suspect.fault == fault || suspect.like.iter().any(|other| other == fault);
        found.suspects.iter().find(of).map_or(0.0, |suspect| suspect.share)
    };
    let tail = |build: &mut Build| build.lights.iter().position(|light| light.id == "tail").expect("its tail");
    let keyed = |keyed: Option<bool>| {
        let change = move |build: &mut Build| {
            let at = tail(build);
            build.lights[at].feeds[0].keyed = keyed;
        };
        share(&change, "reversed@tail")
    };
    let usual = keyed(None);
    assert!(usual > 0.0 && keyed(Some(false)) > 1.3 * usual && keyed(Some(true)) < 0.5 * usual, "{usual}, {}, {}", keyed(Some(false)), keyed(Some(true)));
}

/// The same terminals under other names, or with the probes the other way round, are the same check.
#[test]
fn no_check_is_asked_twice() {
    let build = orthavis_testing::case("trike-arrays");
    let scene = all_on(&build);
    let dictionary = FaultDictionary::new(&build, &scene, State::Half).expect("a dictionary");
    let mut known = Known {
        seen: [Symptom::Fine, Symptom::Dim].into_iter().enumerate().map(|(light, symptom)| Saw { light: Some(light), symptom, from: None }).collect(),
        ..Known::default()
    };
    let next = dictionary.diagnose(&known).expect("a diagnosis").next.expect("a check");
    let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
    assert_eq!(names.len(), 2, "{next:?}");
    let swapped = Probes::parse(&build, &[names[1], names[0]]).expect("probes");
    known.read.push((next.setting, swapped, next.plan.map(|value| -value)));
    let after = dictionary.diagnose(&known).expect("a diagnosis").next.expect("another check");
    assert_ne!(after.probes, next.probes);
    // What feeds the lights is the output of the module, and the input of the module is where its own feed arrives.
    for (one, other) in [(["tail:from+", "tail:from-"], ["twelve:out+", "twelve:out-"]), (["twelve:to+", "twelve:to-"], ["twelve:in+", "twelve:in-"])] {
        let [one, other] = [one, other].map(|names| Probes::parse(&build, &names).expect("probes"));
        let at = |probes: Probes| dictionary.diagnose(&Known { read: vec![(Setting::Volts, probes, Some(1.0))], ..Known::default() }).expect("a diagnosis");
        assert_eq!(at(one).next.map(|next| next.probes), at(other).next.map(|next| next.probes));
    }
}

/// A sound LED of a row that is broken elsewhere holds nothing against a meter.
#[test]
fn a_broken_row_reads_next_to_nothing() {
    let build = orthavis_testing::case("trike-arrays");
    let mut rig = Rig::new(&build, &[Fault::parse(&build, "burnt@tail/1.2").expect("a fault")]).expect("a rig");
    let shot = rig.shot(&all_on(&build), State::Full).expect("a solution");
    let at = |name: &str| rig.potential(&shot, Spot::parse(&build, name).expect("a point"));
    let sound = at("tail/1.0") - at("tail/1.1");
    assert!((0.0..0.2).contains(&sound), "a sound LED reads {sound} V");
    let row = at("tail:to+") - at("tail:to-");
    assert!(at("tail/1.1") - at("tail/1.2") > 0.9 * row, "what is burnt holds nearly all of it");
    assert!((at("tail/2.0") - at("tail/2.1") - 2.0).abs() < 0.2, "the other rows shine");
}

/// Weak joints of any size, not only those that are simulated beforehand: the place is found, or one that no check tells
/// from it, and its size.
#[test]
fn weak_joints_of_any_size_are_found() {
    let count: usize = std::env::var("ORTHAVIS_FAULTS").ok().and_then(|text| text.parse().ok()).unwrap_or(40);
    let builds: Vec<Build> = samples().into_iter().chain(cases().into_iter().map(|(_, build)| build)).collect();
    let mut bits = 0x9e37_79b9_7f4a_7c15u64;
    let mut share = move || {
        bits ^= bits << 13;
        bits ^= bits >> 7;
        bits ^= bits << 17;
        (bits >> 11) as f64 / (1u64 << 53) as f64
    };
    let (mut tried, mut right, mut quick, mut slowest) = (0, 0, 0, 0.0f64);
    let mut wrong = Vec::new();
    for build in &builds {
        let scene = all_on(build);
        let state = build.states()[0];
        let sound = Rig::new(build, &[]).expect("a rig");
        let plan = sound_shot(build, &scene);
        let dictionary = FaultDictionary::new(build, &scene, state).expect("a dictionary");
        let joints: Vec<Fault> = hypotheses(build).into_iter().filter(|fault| fault.name(build).starts_with("weak_joint@")).collect();
        for number in 0..count.div_ceil(builds.len()) {
            let size = 0.2 * 250f64.powf(share());
            let fault = Fault { size: Some((1e3 * size).round() / 1e3), ..joints[(share() * joints.len() as f64) as usize].clone() };
            // A module that goes on and off behind it has no one reading.
            let Ok(found) = seen(&sound, std::slice::from_ref(&fault), &scene, state, None) else { continue };
            let mut known = Known { seen: (0..build.lights.len()).map(|light| saw(light, &found, &sound, &plan)).collect(), ..Known::default() };
            let place = fault.name(build).split('=').next().expect("a place").to_owned() + "=";
            tried += 1;
            for checks in 0..=20 {
                let start = Instant::now();
                let told = dictionary.diagnose(&known).expect("a diagnosis");
                slowest = slowest.max(start.elapsed().as_secs_f64());
                let lead = &told.suspects[0];
                let Some(next) = told.next.filter(|next| next.setting != Setting::Look) else {
                    // What takes so little that no reading shows it is not looked for.
                    let unseen = lead.fault == "none" || lead.like.contains(&"none".to_owned());
                    let is_right = unseen || lead.fault.starts_with(&place) || lead.like.iter().any(|name| name.starts_with(&place));
                    right += usize::from(is_right);
                    quick += usize::from(checks <= 6);
                    if !is_right {
                        wrong.push(format!("{}: {} taken for {} ({checks} checks, {number})", build.name, fault.name(build), lead.fault));
                    }
                    break;
                };
                let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
                let probes = Probes::parse(build, &names).expect("probes");
                let read = reads(&found.rig, &found.shot, next.setting, &probes);
                known.read.push((next.setting, probes, read.map(|read| Serial(7).shows(next.setting, read))));
            }
        }
    }
    println!("{right} of {tried} right, {quick} within six checks, slowest answer {:.0} ms\n{}", 1e3 * slowest, wrong.join("\n"));
    assert!(100 * right >= 95 * tried && 10 * quick >= 9 * tried, "{right} of {tried} right, {quick} within six checks\n{}", wrong.join("\n"));
}

/// Readings that nothing on the list explains are said to be so, and nobody is sure of anything.
#[test]
fn what_does_not_fit_is_said() {
    let build = orthavis_testing::case("trike-arrays");
    let dictionary = FaultDictionary::new(&build, &all_on(&build), State::Half).expect("a dictionary");
    let read = |names: [&str; 2], volts: f64| (Setting::Volts, Probes::parse(&build, &names).expect("probes"), Some(volts));
    let strange = Known {
        read: vec![read(["source+", "source-"], 37.2), read(["twelve:out+", "twelve:out-"], 3.3), read(["tail:to+", "tail:to-"], 9.9)],
        ..Known::default()
    };
    let told = dictionary.diagnose(&strange).expect("a diagnosis");
    assert!(told.unexplained.is_some() && !told.found, "{:?}", told.suspects[0]);
    assert!(told.suspects.iter().map(|suspect| suspect.share).sum::<f64>() <= 0.5 + 1e-9);
    // In words for whoever holds the probes, the names behind them.
    let said = told.unexplained.expect("said");
    assert!(["source+ and source-", "twelve:out+ and twelve:out-", "tail:to+ and tail:to-"].iter().any(|names| said.contains(&format!("({names})"))), "{said}");
    assert!(["battery's plus", "plus of its output", "at its own plus"].iter().any(|words| said.contains(words)), "{said}");
    let plain = Known { read: vec![read(["source+", "source-"], 37.2)], ..Known::default() };
    assert_eq!(dictionary.diagnose(&plain).expect("a diagnosis").unexplained, None);
}

/// One of three cells put in the wrong way round: a third of the voltage is left, and it is found.
#[test]
fn a_cell_the_wrong_way_round_is_found() {
    let cells = |chemistry: &str| json!([{ "op": "replace", "path": "/source", "value": { "kind": "battery", "chemistry": chemistry, "series": 4, "capacity_ah": 2.5, "max_current_a": 2.0 } }]);
    let build = orthavis_testing::changed(&orthavis_testing::case("bare-lipo-linear"), &cells("alkaline"));
    let fault = Fault::parse(&build, "reversed@source").expect("a fault");
    assert_eq!(fault.name(&build), "reversed@source");
    let scene = all_on(&build);
    let state = build.states()[0];
    let dictionary = FaultDictionary::new(&build, &scene, state).expect("a dictionary");
    let sound = Rig::new(&build, &[]).expect("a rig");
    let found = seen(&sound, std::slice::from_ref(&fault), &scene, state, None).expect("seen");
    let volts = reads(&found.rig, &found.shot, Setting::Volts, &Probes::parse(&build, &["source+", "source-"]).expect("probes")).expect("volts");
    assert!((volts / build.thevenin(state).0 - 0.5).abs() < 0.05, "{volts} V");
    let plan = sound_shot(&build, &scene);
    let mut known = Known { seen: (0..build.lights.len()).map(|light| saw(light, &found, &sound, &plan)).collect(), ..Known::default() };
    for checks in 0..8 {
        let told = dictionary.diagnose(&known).expect("a diagnosis");
        let Some(next) = told.next else {
            assert_eq!(told.suspects[0].fault, "reversed@source", "{:?}", told.suspects);
            assert!(told.suspects[0].words.contains("one cell") && told.suspects[0].like.len() == told.suspects[0].like_words.len());
            return;
        };
        assert!(checks < 7, "{:?}", told.suspects);
        let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
        let probes = Probes::parse(&build, &names).expect("probes");
        let read = reads(&found.rig, &found.shot, next.setting, &probes);
        known.read.push((next.setting, probes, read.map(|read| Serial(7).shows(next.setting, read))));
    }
    let welded = orthavis_testing::changed(&build, &cells("li_ion"));
    assert!(Fault::parse(&welded, "reversed@source").is_err_and(|error| error.to_string().contains("wrong way round")));
}

#[test]
fn what_failed_before_is_likelier_and_what_worked_was_built_right() {
    let build = orthavis_testing::case("trike-arrays");
    let dictionary = FaultDictionary::new(&build, &all_on(&build), State::Half).expect("a dictionary");
    let tail = build.lights.iter().position(|light| light.id == "tail").expect("a tail light");
    let dark =
        || (0..build.lights.len()).map(|light| Saw { light: Some(light), symptom: if light == tail { Symptom::Dark } else { Symptom::Fine }, from: None });
    let share = |known: &Known, fault: &str| {
        let suspects = dictionary.diagnose(known).expect("a diagnosis").suspects;
        suspects.iter().filter(|one| one.fault == fault || one.like.iter().any(|like| like == fault)).map(|one| one.share).sum::<f64>()
    };
    let plain = Known { seen: dark().collect(), ..Known::default() };
    let (joint, swapped) = ("open@tail:from+", "reversed@tail");
    let (joint_at_first, swapped_at_first) = (share(&plain, joint), share(&plain, swapped));
    assert!(swapped_at_first > 0.1, "{swapped_at_first}");
    // Each time makes it likelier, up to a point; a fault elsewhere changes nothing between these two.
    let mut before = joint_at_first;
    for times in 1..=3 {
        let again = share(&Known { failed: vec![joint.into(); times], ..plain.clone() }, joint);
        assert!(again > before, "{times} times: {again} after {before}");
        before = again;
    }
    let often = share(&Known { failed: vec![joint.into(); 50], ..plain.clone() }, joint);
    assert!((often - before).abs() < 1e-12, "{often} against {before}");
    let elsewhere = Known { failed: vec!["something else entirely".into()], ..plain.clone() };
    assert_eq!(share(&elsewhere, swapped), swapped_at_first);
    // A lamp that has worked was not wired the wrong way round; another that worked says nothing of it.
    let worked = share(&Known { worked: vec![tail], ..plain.clone() }, swapped);
    assert!(worked < 0.1 * swapped_at_first, "{worked} of {swapped_at_first}");
    let other = (tail + 1) % build.lights.len();
    assert!(share(&Known { worked: vec![other], ..plain.clone() }, swapped) >= swapped_at_first, "what remains is shared among the others");
    // What is read outweighs what was lived: swapped wires are found though it worked once.
    let there = Fault::parse(&build, swapped).expect("a fault");
    let (sound, scene) = (Rig::new(&build, &[]).expect("a rig"), all_on(&build));
    let found = seen(&sound, &[there], &scene, State::Half, None).expect("it is seen");
    let mut known = Known { worked: (0..build.lights.len()).collect(), ..plain };
    while let Some(next) = dictionary.diagnose(&known).expect("a diagnosis").next {
        let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
        if next.setting == Setting::Look {
            known.seen.extend(dark().nth(tail));
            continue;
        }
        let probes = Probes::parse(&build, &names).expect("probes");
        let read = reads(&found.rig, &found.shot, next.setting, &probes);
        known.read.push((next.setting, probes, read));
        assert!(known.read.len() < 20, "it goes on and on");
    }
    let lead = dictionary.diagnose(&known).expect("a diagnosis").suspects.remove(0);
    assert!(lead.fault == swapped || lead.like.iter().any(|like| like == swapped), "{lead:?}");
}
