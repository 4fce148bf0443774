//! What flies.

use super::{BACK, Body, DOWN, FRONT, Place, edge, lamp};
use crate::mesh::{Mesh, Stuff, Vec3, add, times, unit};

/// A wing: from its root to a tip, on the left; mirrored to the right.
fn wings(mesh: &mut Mesh, root: [f64; 2], tip: [f64; 2], span: f64, z: [f64; 2], thick: f64, stuff: Stuff) {
    mesh.both_sides(|mesh| {
        // Slices along the span, each a flat lens.
        let slice = |share: f64| {
            let (front, back) = (root[0] + share * (tip[0] - root[0]), root[1] + share * (tip[1] - root[1]));
            (front, back, share * span, z[0] + share * (z[1] - z[0]), thick * (1.0 - 0.5 * share))
        };
        mesh.foil(&[slice(0.0), slice(0.5), slice(0.93), slice(1.0)], stuff);
    });
}

pub fn plane() -> Body {
    let mut mesh = Mesh::default();
    mesh.hull(
        &[
            [-0.56, 0.205, 0.012, 0.02],
            [-0.45, 0.2, 0.025, 0.034],
            [-0.15, 0.185, 0.052, 0.068],
            [0.08, 0.18, 0.062, 0.08],
            [0.26, 0.17, 0.058, 0.068],
            [0.36, 0.165, 0.045, 0.05],
            [0.37, 0.165, 0.03, 0.034],
        ],
        Stuff::Paint,
    );
    wings(&mut mesh, [0.2, -0.04], [0.15, -0.01], 0.72, [0.255, 0.285], 0.028, Stuff::Panel);
    wings(&mut mesh, [-0.43, -0.58], [-0.47, -0.57], 0.25, [0.215, 0.215], 0.012, Stuff::Panel);
    mesh.side(
        &[[-0.42, 0.21], [-0.58, 0.21], [-0.6, 0.4], [-0.54, 0.42]].map(|[x, z]| [x, z]).into_iter().rev().collect::<Vec<_>>(),
        [-0.007, 0.007],
        0.004,
        Stuff::Panel,
    );
    // Cabin windows, cowl, propeller, wheels.
    mesh.both_sides(|mesh| {
        mesh.side(&[[-0.02, 0.205], [0.19, 0.205], [0.14, 0.25], [0.0, 0.252]], [0.044, 0.062], 0.004, Stuff::Glass);
        mesh.tube(&[[0.12, 0.04, 0.12], [0.13, 0.17, 0.05]], 0.007, Stuff::Metal);
        mesh.solid([0.13, 0.185, 0.045], [0.0, 1.0, 0.0], 0.045, 0.03);
        mesh.tube(&[[0.1, 0.05, 0.15], [0.09, 0.36, 0.258]], 0.006, Stuff::Metal);
    });
    mesh.tube(&[[-0.53, 0.0, 0.18], [-0.55, 0.0, 0.03]], 0.005, Stuff::Metal);
    mesh.solid([-0.55, 0.0, 0.022], [0.0, 1.0, 0.0], 0.022, 0.016);
    mesh.cone([0.37, 0.0, 0.165], [0.43, 0.0, 0.165], [0.03, 0.006], Stuff::Metal);
    mesh.side(&[[0.385, 0.02], [0.397, 0.02], [0.397, 0.31], [0.385, 0.31]], [-0.014, 0.014], 0.004, Stuff::Cloth);
    let places = vec![
        lamp("left wing tip", [0.07, 0.72, 0.285], [0.0, 1.0, 0.0]),
        lamp("right wing tip", [0.07, -0.72, 0.285], [0.0, -1.0, 0.0]),
        edge("wing edge", &[[0.15, 0.66, 0.28], [0.2, 0.06, 0.258]], FRONT),
        lamp("nose", [0.36, 0.0, 0.12], FRONT),
        lamp("tail", [-0.6, 0.0, 0.38], BACK),
        edge("belly", &[[0.2, 0.0, 0.1], [-0.2, 0.0, 0.12]], DOWN),
    ];
    Body { name: "Plane", mesh, places, pack: [0.22, 0.0, 0.165], stands: true, flies: true }
}

pub fn glider() -> Body {
    let mut mesh = Mesh::default();
    mesh.hull(
        &[
            [-0.4, 0.128, 0.006, 0.007],
            [-0.2, 0.122, 0.01, 0.012],
            [0.02, 0.115, 0.022, 0.028],
            [0.16, 0.11, 0.026, 0.032],
            [0.25, 0.108, 0.018, 0.022],
            [0.28, 0.108, 0.004, 0.006],
        ],
        Stuff::Paint,
    );
    wings(&mut mesh, [0.13, -0.04], [0.05, -0.02], 0.5, [0.142, 0.185], 0.016, Stuff::Panel);
    wings(&mut mesh, [-0.3, -0.4], [-0.33, -0.4], 0.15, [0.132, 0.132], 0.007, Stuff::Panel);
    mesh.side(&[[-0.41, 0.13], [-0.3, 0.13], [-0.36, 0.25], [-0.41, 0.26]], [-0.004, 0.004], 0.002, Stuff::Panel);
    mesh.hull(&[[0.07, 0.138, 0.003, 0.003], [0.1, 0.14, 0.014, 0.014], [0.18, 0.134, 0.014, 0.012], [0.23, 0.12, 0.003, 0.003]], Stuff::Glass);
    let places = vec![
        lamp("left wing tip", [0.015, 0.5, 0.185], [0.0, 1.0, 0.0]),
        lamp("right wing tip", [0.015, -0.5, 0.185], [0.0, -1.0, 0.0]),
        lamp("nose", [0.275, 0.0, 0.108], FRONT),
        lamp("tail", [-0.41, 0.0, 0.25], BACK),
        edge("body", &[[0.2, 0.0, 0.085], [-0.3, 0.0, 0.118]], DOWN),
    ];
    Body { name: "Thrown glider", mesh, places, pack: [0.17, 0.0, 0.105], stands: false, flies: true }
}

/// A multirotor with so many arms; those of six and eight have one to each side of ahead.
pub fn copter(arms: usize) -> Body {
    let mut mesh = Mesh::default();
    let (reach, high, blade) = match arms {
        4 => (0.27, 0.2, 0.13),
        6 => (0.38, 0.26, 0.15),
        _ => (0.46, 0.28, 0.15),
    };
    let half_turn = std::f64::consts::PI / arms as f64;
    let way = |arm: usize| {
        let turn = half_turn * (2.0 * arm as f64 + if arms == 6 { 0.0 } else { 1.0 });
        // Six arms: one to each side, as a hexagon that flies flat side ahead.
        let turn = if arms == 6 { turn + half_turn } else { turn };
        [turn.cos(), turn.sin(), 0.0]
    };
    let hub: Vec3 = [0.0, 0.0, high];
    // Two plates with a stack between them, the pack on top, a camera ahead.
    let ring = |radius: f64| -> Vec<[f64; 2]> {
        (0..2 * arms)
            .map(|corner| {
                let turn = half_turn * corner as f64 + half_turn / 2.0;
                [radius * turn.cos(), radius * turn.sin()]
            })
            .collect()
    };
    mesh.plate(&ring(0.3 * reach), [high - 0.022, high - 0.016], 0.002, Stuff::Paint);
    mesh.plate(&ring(0.3 * reach), [high + 0.016, high + 0.022], 0.002, Stuff::Paint);
    mesh.slab([0.0, 0.0, high], [0.32 * reach, 0.32 * reach, 0.03], 0.006, Stuff::Rubber);
    mesh.slab([-0.02 * reach, 0.0, high + 0.045], [0.5 * reach, 0.24 * reach, 0.045], 0.012, Stuff::Cloth);
    mesh.ball([0.3 * reach, 0.0, high - 0.045], [0.03, 0.03, 0.03], Stuff::Rubber);
    mesh.drum([0.3 * reach + 0.02, 0.0, high - 0.045], [0.3 * reach + 0.034, 0.0, high - 0.045], 0.016, Stuff::Glass);
    mesh.tube(&[[0.28 * reach, 0.0, high - 0.02], [0.3 * reach, 0.0, high - 0.045]], 0.008, Stuff::Metal);
    for arm in 0..arms {
        let out = way(arm);
        let tip = add(hub, times(out, reach));
        mesh.tube(&[add(hub, times(out, 0.2 * reach)), tip], 0.011, Stuff::Paint);
        mesh.drum(add(tip, [0.0, 0.0, -0.02]), add(tip, [0.0, 0.0, 0.03]), 0.02, Stuff::Metal);
        mesh.drum(add(tip, [0.0, 0.0, 0.03]), add(tip, [0.0, 0.0, 0.042]), 0.008, Stuff::Rubber);
        // A propeller of two blades, each at its own turn.
        let turn = 0.5 + 1.1 * arm as f64;
        let along = [turn.cos(), turn.sin(), 0.0];
        let wide = [-0.013 * turn.sin(), 0.013 * turn.cos(), 0.0];
        let middle = add(tip, [0.0, 0.0, 0.036]);
        for side in [-1.0, 1.0] {
            let end = add(middle, times(along, side * blade));
            let root = add(middle, times(along, side * 0.01));
            mesh.flat(
                &[
                    add(root, times(wide, 0.4)),
                    add(add(root, times(along, side * 0.35 * blade)), wide),
                    end,
                    add(add(root, times(along, side * 0.35 * blade)), times(wide, -0.9)),
                ],
                0.003,
                Stuff::Metal,
            );
        }
    }
    mesh.both_sides(|mesh| {
        mesh.tube(&[[0.06, 0.16 * reach, high - 0.02], [0.08, 0.42 * reach, 0.02]], 0.007, Stuff::Cloth);
        mesh.tube(&[[-0.06, 0.16 * reach, high - 0.02], [-0.08, 0.42 * reach, 0.02]], 0.007, Stuff::Cloth);
        mesh.tube(&[[-0.19, 0.42 * reach, 0.01], [0.19, 0.42 * reach, 0.01]], 0.008, Stuff::Cloth);
    });
    let below = |point: Vec3| add(point, [0.0, 0.0, -0.014]);
    let along_arm = |out: Vec3| vec![below(add(hub, times(out, 0.3 * reach))), below(add(hub, times(out, 0.95 * reach)))];
    let nearest = |wanted: Vec3| (0..arms).map(way).max_by(|a, b| crate::mesh::dot(*a, wanted).total_cmp(&crate::mesh::dot(*b, wanted))).unwrap_or(FRONT);
    let arm_of = |name, wanted: Vec3| edge(name, &along_arm(nearest(unit(wanted))), DOWN);
    let mut places: Vec<Place> = vec![
        edge("arms", &along_arm(nearest(unit([-0.5, -1.0, 0.0]))), DOWN),
        lamp("front", add(hub, [0.31 * reach, 0.0, 0.0]), FRONT),
        lamp("rear", add(hub, [-0.31 * reach, 0.0, 0.0]), BACK),
        arm_of("left arm", [0.02, 1.0, 0.0]),
        arm_of("right arm", [0.02, -1.0, 0.0]),
    ];
    if arms == 6 {
        places.extend([
            arm_of("front left arm", [1.0, 0.5, 0.0]),
            arm_of("front right arm", [1.0, -0.5, 0.0]),
            arm_of("rear left arm", [-1.0, 0.5, 0.0]),
            arm_of("rear right arm", [-1.0, -0.5, 0.0]),
        ]);
    }
    places.push(lamp("belly", [0.0, 0.0, high - 0.03], DOWN));
    let name = match arms {
        4 => "Quadcopter",
        6 => "Hexacopter",
        _ => "Octocopter",
    };
    Body { name, mesh, places, pack: [-0.02 * reach, 0.0, high + 0.045], stands: false, flies: true }
}
