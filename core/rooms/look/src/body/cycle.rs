//! What has pedals.

use super::{BACK, Body, DOWN, FRONT, LEFT, RIGHT, edge, lamp};
use crate::mesh::{Mesh, Stuff, Vec3};

const AXLE: Vec3 = [0.0, 1.0, 0.0];

/// Cranks, chain ring, pedals and the chain to a rear hub.
fn drive(mesh: &mut Mesh, bottom: Vec3, hub: Vec3) {
    let [x, _, z] = bottom;
    mesh.drum([x, -0.05, z], [x, 0.05, z], 0.025, Stuff::Metal);
    mesh.ring([x, -0.055, z], AXLE, 0.085, 0.008, Stuff::Metal);
    mesh.drum([x, -0.058, z], [x, -0.052, z], 0.045, Stuff::Metal);
    mesh.tube(&[[x, -0.075, z], [x + 0.12, -0.08, z - 0.12]], 0.01, Stuff::Metal);
    mesh.tube(&[[x, 0.075, z], [x - 0.12, 0.08, z + 0.12]], 0.01, Stuff::Metal);
    mesh.slab([x + 0.12, -0.13, z - 0.12], [0.09, 0.09, 0.022], 0.005, Stuff::Rubber);
    mesh.slab([x - 0.12, 0.13, z + 0.12], [0.09, 0.09, 0.022], 0.005, Stuff::Rubber);
    mesh.ring([hub[0], -0.055, hub[2]], AXLE, 0.035, 0.008, Stuff::Metal);
    for way in [0.08, -0.08] {
        mesh.tube(&[[x, -0.055, z + way], [hub[0], -0.055, hub[2] + 0.42 * way]], 0.005, Stuff::Rubber);
    }
}

fn saddle(mesh: &mut Mesh, at: Vec3) {
    let [x, y, z] = at;
    mesh.hull(
        &[
            [x - 0.15, z, 0.02, 0.02],
            [x - 0.12, z + 0.01, 0.085, 0.03],
            [x - 0.03, z, 0.07, 0.028],
            [x + 0.06, z - 0.005, 0.03, 0.02],
            [x + 0.14, z - 0.012, 0.012, 0.012],
        ],
        Stuff::Rubber,
    );
    mesh.tube(&[[x - 0.03, y, z - 0.03], [x - 0.03, y, z - 0.06]], 0.018, Stuff::Metal);
}

pub fn bicycle() -> Body {
    let mut mesh = Mesh::default();
    let (rear, front, radius): (Vec3, Vec3, f64) = ([-0.5, 0.0, 0.34], [0.55, 0.0, 0.34], 0.34);
    let (bottom, seat, head, crown): (Vec3, Vec3, Vec3, Vec3) = ([-0.06, 0.0, 0.28], [-0.2, 0.0, 0.72], [0.33, 0.0, 0.83], [0.37, 0.0, 0.7]);
    for at in [rear, front] {
        mesh.spoked(at, AXLE, radius, 0.021, 20);
    }
    // The frame.
    mesh.tube(&[bottom, [-0.185, 0.0, 0.68], seat], 0.017, Stuff::Paint);
    mesh.tube(&[[-0.19, 0.0, 0.68], head], 0.016, Stuff::Paint);
    mesh.tube(&[bottom, crown], 0.021, Stuff::Paint);
    mesh.tube(&[[0.32, 0.0, 0.86], crown], 0.023, Stuff::Paint);
    mesh.both_sides(|mesh| {
        mesh.tube(&[bottom, [-0.3, 0.055, 0.31], [rear[0], 0.06, rear[2]]], 0.011, Stuff::Paint);
        mesh.tube(&[[-0.19, 0.02, 0.66], [rear[0], 0.06, rear[2]]], 0.009, Stuff::Paint);
        mesh.tube(&[[0.375, 0.045, 0.69], [0.45, 0.05, 0.5], [front[0], 0.05, front[2]]], 0.013, Stuff::Paint);
        // The rack and its stays.
        mesh.tube(&[[-0.22, 0.05, 0.73], [-0.72, 0.06, 0.73], [-0.74, 0.0, 0.73]], 0.006, Stuff::Metal);
        mesh.tube(&[[-0.6, 0.06, 0.73], [rear[0], 0.07, rear[2]]], 0.006, Stuff::Metal);
        mesh.tube(&[[-0.4, 0.06, 0.73], [rear[0], 0.07, rear[2]]], 0.006, Stuff::Metal);
        // The bar and a grip.
        mesh.tube(&[[0.34, 0.0, 0.96], [0.36, 0.1, 0.97], [0.3, 0.27, 0.98]], 0.012, Stuff::Metal);
        mesh.tube(&[[0.3, 0.25, 0.98], [0.22, 0.3, 0.97]], 0.017, Stuff::Rubber);
    });
    mesh.tube(&[[0.375, -0.045, 0.69], [0.375, 0.045, 0.69]], 0.018, Stuff::Paint);
    mesh.slab([-0.5, 0.0, 0.745], [0.42, 0.12, 0.012], 0.003, Stuff::Metal);
    // Mudguards follow the wheels.
    for (at, from, to) in [(rear, 20.0, 200.0), (front, 40.0, 190.0)] {
        let arc: Vec<Vec3> = (0..=12)
            .map(|step| {
                let turn = (from + (to - from) * f64::from(step) / 12.0_f64).to_radians();
                [at[0] + 0.375 * turn.cos(), 0.0, at[2] + 0.375 * turn.sin()]
            })
            .collect();
        mesh.tube(&arc, 0.014, Stuff::Cloth);
    }
    mesh.tube(&[[0.32, 0.0, 0.86], [0.33, 0.0, 0.96]], 0.014, Stuff::Metal);
    mesh.tube(&[seat, [-0.235, 0.0, 0.84]], 0.013, Stuff::Metal);
    saddle(&mut mesh, [-0.23, 0.0, 0.89]);
    drive(&mut mesh, bottom, rear);
    // The pack on the down tube.
    mesh.hull(&[[0.06, 0.47, 0.01, 0.01], [0.07, 0.475, 0.045, 0.05], [0.24, 0.645, 0.045, 0.05], [0.25, 0.65, 0.01, 0.01]], Stuff::Cloth);
    let places = vec![
        lamp("handlebar", [0.39, 0.0, 0.93], FRONT),
        edge("frame", &[[-0.15, 0.0, 0.695], [0.29, 0.0, 0.81]], LEFT),
        edge("fork", &[[0.38, -0.05, 0.66], [0.54, -0.055, 0.38]], RIGHT),
        lamp("seat post", [-0.24, 0.0, 0.8], BACK),
        edge("rear rack", &[[-0.28, -0.06, 0.73], [-0.72, -0.06, 0.73]], BACK),
        lamp("front wheel", front, RIGHT),
        lamp("rear wheel", rear, RIGHT),
    ];
    Body { name: "Bicycle", mesh, places, pack: [0.155, 0.0, 0.56], stands: true, flies: false }
}

pub fn trike() -> Body {
    let mut mesh = Mesh::default();
    let (rear, front, radius): (Vec3, Vec3, f64) = ([-0.62, 0.0, 0.3], [0.68, 0.0, 0.3], 0.3);
    let (bottom, seat, head, crown): (Vec3, Vec3, Vec3, Vec3) = ([0.02, 0.0, 0.28], [-0.12, 0.0, 0.62], [0.46, 0.0, 0.78], [0.5, 0.0, 0.6]);
    mesh.spoked(front, AXLE, radius, 0.024, 18);
    mesh.both_sides(|mesh| {
        mesh.spoked([rear[0], 0.36, rear[2]], AXLE, radius, 0.024, 18);
        mesh.tube(&[[0.505, 0.045, 0.6], [front[0], 0.05, front[2]]], 0.013, Stuff::Paint);
        mesh.tube(&[[0.44, 0.0, 0.92], [0.4, 0.12, 0.98], [0.24, 0.3, 0.98]], 0.012, Stuff::Metal);
        mesh.tube(&[[0.27, 0.28, 0.98], [0.16, 0.31, 0.97]], 0.017, Stuff::Rubber);
        mesh.tube(&[[-0.4, 0.2, 0.34], [-0.42, 0.2, 0.52]], 0.01, Stuff::Paint);
        mesh.tube(&[[-0.86, 0.2, 0.34], [-0.84, 0.2, 0.52]], 0.01, Stuff::Paint);
    });
    // Step-through frame, the rear axle and its cradle.
    mesh.tube(&[[0.45, 0.0, 0.82], crown], 0.023, Stuff::Paint);
    mesh.tube(&[[0.47, 0.0, 0.7], [0.22, 0.0, 0.36], bottom, [-0.3, 0.0, 0.34], rear], 0.02, Stuff::Paint);
    mesh.tube(&[head, [0.2, 0.0, 0.5], [-0.08, 0.0, 0.46]], 0.017, Stuff::Paint);
    mesh.tube(&[bottom, seat], 0.017, Stuff::Paint);
    mesh.tube(&[[rear[0], -0.36, rear[2]], [rear[0], 0.36, rear[2]]], 0.015, Stuff::Metal);
    mesh.tube(&[[-0.86, -0.2, 0.34], [-0.4, -0.2, 0.34], [-0.4, 0.2, 0.34], [-0.86, 0.2, 0.34], [-0.86, -0.2, 0.34]], 0.011, Stuff::Paint);
    // The basket: posts, hoops and a floor.
    let hoop = |mesh: &mut Mesh, z: f64, long: f64, wide: f64, radius: f64| {
        let (a, b) = (-0.64 - long, -0.64 + long);
        mesh.tube(&[[a, -wide, z], [b, -wide, z], [b, wide, z], [a, wide, z], [a, -wide, z]], radius, Stuff::Metal);
    };
    for (z, radius) in [(0.53, 0.006), (0.6, 0.004), (0.67, 0.004), (0.74, 0.004), (0.81, 0.011)] {
        let grow = 0.24 + 0.05 * (z - 0.53) / 0.28;
        hoop(&mut mesh, z, grow, grow + 0.04, radius);
    }
    for step in 0..9 {
        let share = f64::from(step) / 8.0;
        let (x, y) = (-0.88 + 0.48 * share, -0.28 + 0.56 * share);
        mesh.both_sides(|mesh| mesh.tube(&[[x, 0.28, 0.53], [-0.64 + (x + 0.64) * 1.2, 0.33, 0.81]], 0.004, Stuff::Metal));
        for (low, high) in [(-0.88, -0.93), (-0.4, -0.35)] {
            mesh.tube(&[[low, y, 0.53], [high, y * 1.17, 0.81]], 0.004, Stuff::Metal);
        }
    }
    mesh.slab([-0.64, 0.0, 0.53], [0.48, 0.56, 0.012], 0.003, Stuff::Cloth);
    // Books on their way.
    mesh.slab([-0.8, -0.06, 0.72], [0.05, 0.3, 0.36], 0.006, Stuff::Paint);
    mesh.slab([-0.73, 0.0, 0.7], [0.06, 0.34, 0.32], 0.006, Stuff::Panel);
    mesh.slab([-0.65, 0.02, 0.73], [0.05, 0.3, 0.38], 0.006, Stuff::Cloth);
    mesh.slab([-0.57, 0.0, 0.69], [0.06, 0.36, 0.3], 0.006, Stuff::Paint);
    mesh.tube(&[seat, [-0.16, 0.0, 0.76]], 0.014, Stuff::Metal);
    saddle(&mut mesh, [-0.16, 0.0, 0.81]);
    mesh.tube(&[[0.45, 0.0, 0.82], [0.44, 0.0, 0.93]], 0.014, Stuff::Metal);
    drive(&mut mesh, bottom, rear);
    let guard: Vec<Vec3> = (0..=10)
        .map(|step| {
            let turn = (30.0 + 15.0 * f64::from(step)).to_radians();
            [front[0] + 0.335 * turn.cos(), 0.0, front[2] + 0.335 * turn.sin()]
        })
        .collect();
    mesh.tube(&guard, 0.016, Stuff::Cloth);
    mesh.slab([0.24, 0.0, 0.42], [0.2, 0.09, 0.1], 0.02, Stuff::Cloth);
    let places = vec![
        lamp("handlebar", [0.5, 0.0, 0.9], FRONT),
        lamp("basket rear", [-0.94, 0.0, 0.72], BACK),
        edge("basket rim", &[[-0.35, -0.33, 0.81], [-0.93, -0.33, 0.81], [-0.93, 0.33, 0.81], [-0.35, 0.33, 0.81]], BACK),
        edge("frame", &[[0.44, 0.0, 0.75], [0.2, 0.0, 0.5], [-0.06, 0.0, 0.46]], DOWN),
        lamp("front wheel", front, RIGHT),
        lamp("rear wheel", [rear[0], -0.36, rear[2]], RIGHT),
    ];
    Body { name: "Trike", mesh, places, pack: [0.24, 0.0, 0.42], stands: true, flies: false }
}
