//! What we write as SPICE is read by a general circuit simulator, which finds the same voltages.

use orthavis_model::demo;
use orthavis_model::document::{Build, parse};
use orthavis_physics::netlist::netlist;
use orthavis_physics::network::{Network, Point};
use orthavis_testing::{cases, random, spice};

/// The largest difference from ours, V, over the terminals of the source, feeds' ends and converters' outputs.
fn largest(build: &Build) -> f64 {
    let mut worst = 0.0f64;
    for scene in &build.scenes {
        for state in build.states() {
            let Ok(text) = netlist(build, scene, state) else { continue };
            let theirs = spice::run(&text, "op\nprint all");
            let mut network = Network::new(build).expect("a network");
            let solution = network.solve(&Point::of(build, scene, state), None).expect("solved");
            // Every voltage that we give as a first guess is one that we found.
            let ours = text.lines().filter_map(|line| line.strip_prefix(".nodeset v(")?.split_once(")="));
            let mut seen = 0;
            for (node, volts) in ours {
                let volts: f64 = volts.parse().expect("a voltage");
                let found =
                    theirs.get(node).or_else(|| theirs.get(&format!("v({node})"))).unwrap_or_else(|| panic!("{}: {node} is not in {theirs:?}", build.name));
                let off = (found - volts).abs();
                assert!(off < 2e-3 + 1e-3 * volts.abs(), "{}, {} {}: {node} is {volts} here, {found} there", build.name, scene.id, state.phrase());
                worst = worst.max(off);
                seen += 1;
            }
            assert!(seen > 2 && network.source(&solution).0 > 0.0);
        }
    }
    worst
}

#[test]
fn a_general_simulator_finds_the_same_voltages() {
    for text in demo::BUILDS {
        let build = parse(text).expect("sound");
        println!("{}: {:.1e} V", build.name, largest(&build));
    }
    for (name, build) in cases() {
        println!("{name}: {:.1e} V", largest(&build));
    }
    for build in random::builds(12) {
        println!("{}: {:.1e} V", build.name, largest(&build));
    }
}

#[test]
fn names_that_a_simulator_cannot_read_are_written_otherwise_and_stay_apart() {
    let mut build = parse(demo::BUILDS[0]).expect("sound");
    build.lights[0].id = "a b".into();
    build.lights[1].id = "a-b".into();
    build.name = "two\nlines".into();
    let text = netlist(&build, &build.scenes[0], build.states()[0]).expect("a netlist");
    assert!(text.starts_with("* two lines: ") && text.contains(" a_b_p ") | text.contains(" a_b_f0_p ") && text.contains("a_b_2"));
    spice::run(&text, "op\nprint all");
}
