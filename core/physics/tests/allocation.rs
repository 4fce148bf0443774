//! The Newton loop works in what it was given: more steps do not mean more memory.

use orthavis_physics::network::{Network, Point};
use orthavis_testing::case;
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};
use std::alloc::System;

#[global_allocator]
static GLOBAL: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

#[test]
fn steps_after_the_first_allocate_nothing() {
    for name in ["van-strips", "deck-pixels", "boost-and-driver", "chair-24v"] {
        let build = case(name);
        let mut network = Network::new(&build).expect("a network");
        let point = Point::of(&build, &build.scenes[0], build.states()[0]);
        let mut solved = |near: Option<&orthavis_physics::network::Solution>| {
            let before = network.steps();
            let region = Region::new(GLOBAL);
            let solution = network.solve(&point, near).expect("a solution");
            (solution, network.steps() - before, region.change().allocations)
        };
        // The first solve of all makes room for the factors.
        let (solution, ..) = solved(None);
        let (_, many, from_nothing) = solved(None);
        let (_, few, from_itself) = solved(Some(&solution));
        assert!(many > few + 1, "{name}: {many} steps from nothing, {few} from the solution");
        assert_eq!(from_nothing, from_itself, "{name}: {} more steps", many - few);
    }
}
