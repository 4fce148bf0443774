//! Laws that every opened-up build obeys, over all cases and edited builds.

use orthavis_bench::fault::{At, Fault, FaultKind, every};
use orthavis_bench::joints::{Joint, joints, pieces};
use orthavis_bench::rig::{OHMS_A, Rig, Shot};
use orthavis_bench::seen::seen;
use orthavis_bench::spot::Spot;
use orthavis_model::document::{Build, Consumer, Load};
use orthavis_model::states::State;
use orthavis_physics::network::Side;
use orthavis_testing::{case, cases, table};
use proptest::prelude::*;

/// Every case and every edited build that has a scene and a steady state.
fn builds() -> Vec<(String, Build)> {
    let edited = table().into_iter().map(|(name, build, _)| (name, build));
    cases().into_iter().chain(edited).filter(|(_, build)| !build.scenes.is_empty() && shot(build, &[]).is_some()).collect()
}

fn shot<'a>(build: &'a Build, faults: &[Fault]) -> Option<(Rig<'a>, Shot)> {
    let mut rig = Rig::new(build, faults).ok()?;
    let shot = rig.shot(&build.scenes[0], build.states()[0]).ok()?;
    Some((rig, shot))
}

fn fault(build: &Build, name: &str) -> Fault {
    Fault::parse(build, name).expect(name)
}

#[test]
fn along_a_feed_volts_fall_from_its_supply_to_its_end() {
    for (name, build) in builds() {
        let (rig, shot) = shot(&build, &[]).expect("a solution");
        for (index, feed) in build.feeds().iter().enumerate() {
            let mut before = rig.potential(&shot, Spot::From(index, Side::Plus));
            let current = rig.amps(&shot, index);
            for joint in joints(feed.feed, Side::Plus) {
                let here = match joint {
                    Joint::From => continue,
                    Joint::To => rig.potential(&shot, Spot::To(index, Side::Plus)),
                    joint => rig.potential(&shot, Spot::After(index, joint)),
                };
                assert!((before - here) * current.signum() >= -1e-9, "{name} {} {}: {before} then {here}", feed.id, joint.word());
                before = here;
            }
            // All pieces together lose what the ends differ by.
            let ohm: f64 = pieces(&build, feed.feed, Side::Plus).iter().map(|(_, ohm)| ohm).sum();
            let lost = rig.potential(&shot, Spot::From(index, Side::Plus)) - rig.potential(&shot, Spot::To(index, Side::Plus));
            assert!((lost - ohm.max(1e-7) * current).abs() < 1e-8 + 1e-6 * lost.abs(), "{name} {}: {lost}", feed.id);
        }
    }
}

#[test]
fn an_open_joint_carries_nothing_and_a_light_behind_it_is_dark() {
    for (name, build) in builds() {
        for (index, feed) in build.feeds().into_iter().enumerate() {
            let Consumer::Light(light) = feed.consumer else { continue };
            if build.lights[light].feeds.len() > 1 {
                continue;
            }
            for side in [Side::Plus, Side::Minus] {
                for joint in joints(feed.feed, side) {
                    let open = Fault { kind: FaultKind::Open, at: At::Joint(index, side, joint), size: None };
                    let Some((rig, shot)) = shot(&build, std::slice::from_ref(&open)) else { continue };
                    assert!(rig.amps(&shot, index).abs() < 1e-5, "{name} {}: {} A", open.name(&build), rig.amps(&shot, index));
                    assert!(rig.brightness(&shot, light).iter().all(|bright| *bright < 1e-3), "{name} {}", open.name(&build));
                }
            }
        }
    }
}

#[test]
fn a_worse_joint_takes_more() {
    for (name, build) in builds() {
        for (index, feed) in build.feeds().into_iter().enumerate() {
            // A lamp of constant power takes more current the less voltage it gets; the others take less.
            let Consumer::Light(light) = feed.consumer else { continue };
            if !matches!(build.lights[light].load, Load::LedArray(_)) || driven(&build, light) {
                continue;
            }
            let mut before = f64::INFINITY;
            for ohm in [0.1, 1.0, 10.0, 100.0, 1000.0] {
                let weak = Fault { kind: FaultKind::WeakJoint, at: At::Joint(index, Side::Minus, Joint::To), size: Some(ohm) };
                let Some((rig, shot)) = shot(&build, &[weak]) else { continue };
                let here = rig.amps(&shot, index);
                assert!(here <= before + 1e-12, "{name} {}: {here} A at {ohm} ohm, {before} before", feed.id);
                before = here;
            }
        }
    }
}

fn driven(build: &Build, light: usize) -> bool {
    build.converters.iter().any(|converter| converter.set_a().is_some() && build.lights[light].feeds.iter().any(|feed| feed.from == converter.id))
}

#[test]
fn a_fault_in_one_light_leaves_its_own_rows_to_it() {
    let build = case("trike-arrays");
    let tail = build.lights.iter().position(|light| light.id == "tail").expect("a tail");
    let Load::LedArray(array) = &build.lights[tail].load else { panic!("no array") };
    let (sound, plan) = shot(&build, &[]).expect("a solution");
    let before = sound.brightness(&plan, tail);
    assert_eq!(before.len(), (array.series * array.parallel) as usize);
    let (rig, burnt) = shot(&build, &[fault(&build, "burnt@tail/1.1")]).expect("a solution");
    let after = rig.brightness(&burnt, tail);
    let row = array.series as usize;
    assert!(after[..row].iter().all(|bright| *bright < 1e-6), "{after:?}");
    assert!(after[row..].iter().zip(&before[row..]).all(|(now, then)| now >= then && *now < 1.1 * then), "{after:?}");
    let (rig, bridged) = shot(&build, &[fault(&build, "short@tail/1.1")]).expect("a solution");
    let after = rig.brightness(&bridged, tail);
    assert!(after[0] < 1e-6, "{after:?}");
    assert!(after[1..row].iter().zip(&before[1..row]).all(|(now, then)| now > then), "the others of its row are brighter: {after:?}");
}

#[test]
fn a_light_the_wrong_way_round_is_dark_and_a_bulb_does_not_care() {
    for (name, build) in builds() {
        for (index, feed) in build.feeds().into_iter().enumerate() {
            let Consumer::Light(light) = feed.consumer else { continue };
            if build.lights[light].feeds.len() > 1 {
                continue;
            }
            let (sound, plan) = shot(&build, &[]).expect("a solution");
            let swapped = Fault { kind: FaultKind::Reversed, at: At::Consumer(index), size: None };
            let Some((rig, shot)) = shot(&build, &[swapped]) else { continue };
            let (now, then): (f64, f64) = (rig.brightness(&shot, light).iter().sum(), sound.brightness(&plan, light).iter().sum());
            let bulb = matches!(&build.lights[light].load, Load::Module(module) if matches!(module.draw.word(), "resistive" | "filament"));
            if bulb {
                assert!((now - then).abs() < 1e-3 * then.max(1e-9), "{name} {}", feed.id);
            } else {
                assert!(now < 1e-3 * then.max(1e-9) + 1e-9, "{name} {}: {now}", feed.id);
            }
        }
    }
}

#[test]
fn what_a_short_leaves_is_a_steady_state_with_something_open_or_hot() {
    for (name, build) in cases() {
        let sound = Rig::new(&build, &[]).expect("a rig");
        for index in 0..build.feeds().len() {
            let short = Fault { kind: FaultKind::Short, at: At::Along(index, 1.0), size: None };
            for state in build.states().into_iter().filter(|state| *state != State::Charging) {
                let Ok(found) = seen(&sound, std::slice::from_ref(&short), &build.scenes[0], state, None) else { continue };
                let told = !found.blown.is_empty() || !found.tripped.is_empty() || !found.hot.is_empty();
                let carried = found.rig.amps(&found.shot, index);
                assert!(told || carried < 40.0, "{name} {}: {carried} A and nobody is told", short.name(&build));
                for feed in &found.blown {
                    assert!(found.rig.amps(&found.shot, *feed).abs() < 1e-3, "{name}: a blown fuse carries current");
                }
            }
        }
    }
}

#[test]
fn resistance_is_the_same_from_either_side_and_adds_along_a_wire() {
    for (name, build) in cases() {
        let rig = Rig::new(&build, &[]).expect("a rig");
        for (index, feed) in build.feeds().iter().enumerate() {
            let ends = (Spot::From(index, Side::Minus), Spot::To(index, Side::Minus));
            let there = rig.ohms(ends.0, ends.1).expect("clips").expect("a wire");
            let back = rig.ohms(ends.1, ends.0).expect("clips").expect("a wire");
            assert!((there - back).abs() < 1e-6 + 1e-6 * there, "{name} {}: {there}, {back}", feed.id);
            let wire = feed.feed.back_ohm(build.vehicle.frame_return_ohm);
            // Ways beside it, as along a strip that is fed at both ends, can only make it less.
            assert!(there <= wire + 1e-6 && there > 0.3 * wire - 1e-6, "{name} {}: {there}, wire {wire}", feed.id);
            let mut at = Spot::From(index, Side::Plus);
            let mut sum = 0.0;
            let last = Spot::To(index, Side::Plus);
            let inner = joints(feed.feed, Side::Plus).into_iter().filter(|joint| !matches!(joint, Joint::From | Joint::To));
            let whole = rig.ohms(at, last).expect("clips").expect("a wire");
            let alone = (whole - feed.feed.out_ohm()).abs() < 1e-6;
            for next in inner.map(|joint| Spot::After(index, joint)).chain([last]) {
                sum += rig.ohms(at, next).expect("clips").expect("a wire");
                at = next;
            }
            assert!(!alone || (sum - whole).abs() < 1e-6, "{name} {}: {sum} in parts, {whole} whole", feed.id);
        }
        assert_eq!(rig.ohms(Spot::Source(Side::Plus), Spot::Source(Side::Plus)).expect("clips"), Some(0.0), "{name}");
    }
}

#[test]
fn an_inner_place_has_no_terminal_for_ohms() {
    for (name, build) in cases() {
        let rig = Rig::new(&build, &[]).expect("a rig");
        for spot in Spot::all(&build).into_iter().filter(|spot| matches!(spot, Spot::String { .. } | Spot::Rail(..))).take(4) {
            let error = rig.ohms(spot, Spot::Source(Side::Minus)).expect_err("inside a light");
            assert!(error.remedy.contains("volts"), "{name}: {error}");
            assert!(rig.driven_volts(Spot::Source(Side::Minus), spot, OHMS_A, 3.0).is_err(), "{name}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Two faults put in together are those put in one after the other, whatever their order.
    #[test]
    fn faults_do_not_mind_their_order(which in any::<(prop::sample::Index, prop::sample::Index, prop::sample::Index)>()) {
        let all = cases();
        let (_, build) = which.0.get(&all);
        let faults: Vec<Fault> = every(build).into_iter().filter(|fault| !matches!(fault.at, At::Along(..) | At::Rail(..))).collect();
        let (one, two) = (which.1.get(&faults).clone(), which.2.get(&faults).clone());
        // One part is not burnt out and shorted at once: there the later of two says what it is.
        prop_assume!(one.at != two.at);
        let (Some((a, first)), Some((b, second))) = (shot(build, &[one.clone(), two.clone()]), shot(build, &[two, one])) else { return Ok(()) };
        for spot in Spot::all(build) {
            let (x, y) = (a.potential(&first, spot), b.potential(&second, spot));
            prop_assert!((x - y).abs() < 1e-6 + 1e-6 * x.abs(), "{}: {x}, {y}", spot.name(build));
        }
    }

    /// A pinch of no length from the supply and one at the very end bound every one between.
    #[test]
    fn a_pinch_further_along_carries_less(which in any::<(prop::sample::Index, prop::sample::Index)>(), share in 0.0f64..1.0) {
        let all = cases();
        let (_, build) = which.0.get(&all);
        let feeds = build.feeds();
        let feed = &which.1.get(&feeds).id;
        let at = |share: f64| orthavis_bench::pinch::pinch(build, feed, share).expect("a pinch")[0].fault_a;
        let (near, here, far) = (at(0.0), at(share), at(1.0));
        prop_assert!(near >= here - 1e-9 && here >= far - 1e-9, "{feed}: {near}, {here}, {far}");
    }
}
