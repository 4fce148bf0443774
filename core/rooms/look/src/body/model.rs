//! Models that stay on the ground, on the water and on rails.

use super::{BACK, Body, DOWN, FRONT, LEFT, RIGHT, UP, edge, lamp};
use crate::mesh::{Mesh, Stuff, Vec3};

const AXLE: Vec3 = [0.0, 1.0, 0.0];

pub fn rover() -> Body {
    let mut mesh = Mesh::default();
    mesh.both_sides(|mesh| {
        for x in [-0.16, 0.17] {
            mesh.solid([x, 0.125, 0.065], AXLE, 0.065, 0.055);
            // Treads.
            for step in 0..14 {
                let turn = std::f64::consts::TAU * f64::from(step) / 14.0;
                mesh.slab([x + 0.066 * turn.cos(), 0.125, 0.065 + 0.066 * turn.sin()], [0.012, 0.052, 0.012], 0.002, Stuff::Rubber);
            }
            mesh.tube(&[[x, 0.09, 0.07], [x * 0.8, 0.06, 0.12]], 0.007, Stuff::Metal);
        }
        mesh.slab([0.0, 0.1, 0.115], [0.2, 0.025, 0.02], 0.006, Stuff::Metal);
    });
    // Body, cabin, load bed, bumpers.
    mesh.side(&[[-0.26, 0.11], [0.27, 0.11], [0.28, 0.16], [0.26, 0.185], [0.1, 0.2], [-0.25, 0.2], [-0.27, 0.17]], [-0.09, 0.09], 0.014, Stuff::Paint);
    mesh.side(&[[-0.1, 0.195], [0.13, 0.195], [0.06, 0.275], [-0.1, 0.28]], [-0.08, 0.08], 0.016, Stuff::Panel);
    mesh.both_sides(|mesh| mesh.side(&[[-0.07, 0.21], [0.09, 0.21], [0.045, 0.262], [-0.07, 0.264]], [0.078, 0.084], 0.002, Stuff::Glass));
    mesh.side(&[[0.125, 0.205], [0.135, 0.205], [0.072, 0.268], [0.062, 0.268]], [-0.06, 0.06], 0.001, Stuff::Glass);
    mesh.slab([-0.18, 0.0, 0.215], [0.15, 0.16, 0.03], 0.008, Stuff::Cloth);
    mesh.slab([0.285, 0.0, 0.135], [0.02, 0.16, 0.035], 0.006, Stuff::Rubber);
    mesh.slab([-0.28, 0.0, 0.135], [0.02, 0.16, 0.035], 0.006, Stuff::Rubber);
    mesh.both_sides(|mesh| mesh.tube(&[[-0.09, 0.07, 0.29], [0.05, 0.07, 0.285]], 0.005, Stuff::Metal));
    mesh.tube(&[[-0.2, 0.05, 0.23], [-0.2, 0.05, 0.46]], 0.004, Stuff::Metal);
    mesh.ball([-0.2, 0.05, 0.465], [0.012; 3], Stuff::Metal);
    let places = vec![
        lamp("mast", [-0.2, 0.05, 0.46], UP),
        lamp("front", [0.28, 0.0, 0.165], FRONT),
        lamp("rear", [-0.275, 0.0, 0.175], BACK),
        edge("roof", &[[-0.08, 0.0, 0.29], [0.05, 0.0, 0.285]], UP),
        edge("underbody", &[[-0.22, 0.0, 0.105], [0.22, 0.0, 0.105]], DOWN),
        lamp("cabin", [-0.01, 0.0, 0.235], DOWN),
    ];
    Body { name: "Rover", mesh, places, pack: [0.0, 0.0, 0.15], stands: true, flies: false }
}

pub fn boat() -> Body {
    let mut mesh = Mesh::default();
    // The hull: its keel deepens towards the middle, its bow rises.
    let hull = [
        [-0.46, 0.085, 0.09, 0.055],
        [-0.45, 0.08, 0.115, 0.062],
        [-0.25, 0.072, 0.135, 0.072],
        [0.0, 0.07, 0.14, 0.075],
        [0.22, 0.078, 0.118, 0.07],
        [0.38, 0.095, 0.07, 0.056],
        [0.48, 0.115, 0.025, 0.036],
        [0.52, 0.13, 0.004, 0.02],
    ];
    mesh.hull(&hull, Stuff::Paint);
    let deck: Vec<[f64; 2]> = vec![
        [-0.46, -0.1],
        [-0.25, -0.132],
        [0.0, -0.138],
        [0.22, -0.116],
        [0.38, -0.07],
        [0.49, -0.02],
        [0.5, 0.02],
        [0.38, 0.07],
        [0.22, 0.116],
        [0.0, 0.138],
        [-0.25, 0.132],
        [-0.46, 0.1],
    ];
    mesh.plate(&deck, [0.105, 0.122], 0.006, Stuff::Cloth);
    // Cabin, wheelhouse, funnel, rail.
    mesh.side(&[[-0.22, 0.12], [0.2, 0.12], [0.17, 0.18], [-0.22, 0.18]], [-0.085, 0.085], 0.014, Stuff::Panel);
    mesh.side(&[[-0.06, 0.18], [0.13, 0.18], [0.08, 0.27], [-0.06, 0.27]], [-0.065, 0.065], 0.012, Stuff::Panel);
    mesh.slab([0.01, 0.0, 0.276], [0.17, 0.15, 0.012], 0.004, Stuff::Paint);
    mesh.both_sides(|mesh| {
        mesh.side(&[[-0.04, 0.215], [0.085, 0.215], [0.065, 0.255], [-0.04, 0.255]], [0.062, 0.068], 0.002, Stuff::Glass);
        for x in [-0.18, -0.12, -0.06, 0.0, 0.06] {
            mesh.drum([x, 0.084, 0.15], [x, 0.09, 0.15], 0.012, Stuff::Glass);
        }
        mesh.tube(&[[-0.44, 0.1, 0.165], [-0.26, 0.128, 0.165]], 0.0035, Stuff::Metal);
        for x in [-0.43, -0.35, -0.27] {
            mesh.tube(&[[x, 0.112, 0.12], [x, 0.112, 0.165]], 0.003, Stuff::Metal);
        }
        mesh.tube(&[[0.24, 0.11, 0.165], [0.38, 0.066, 0.168], [0.47, 0.02, 0.175]], 0.0035, Stuff::Metal);
        for (x, y) in [(0.25, 0.105), (0.36, 0.07), (0.45, 0.03)] {
            mesh.tube(&[[x, y, 0.12], [x, y, 0.168]], 0.003, Stuff::Metal);
        }
    });
    mesh.side(&[[0.11, 0.2], [0.128, 0.2], [0.096, 0.26], [0.08, 0.26]], [-0.05, 0.05], 0.001, Stuff::Glass);
    mesh.cone([-0.15, 0.0, 0.18], [-0.16, 0.0, 0.3], [0.032, 0.026], Stuff::Paint);
    mesh.tube(&[[-0.03, 0.0, 0.28], [-0.04, 0.0, 0.47]], 0.006, Stuff::Metal);
    mesh.tube(&[[-0.04, -0.06, 0.4], [-0.04, 0.06, 0.4]], 0.004, Stuff::Metal);
    mesh.slab([-0.47, 0.0, 0.05], [0.01, 0.006, 0.09], 0.001, Stuff::Metal);
    let side = |y: f64, w: f64| -> Vec<Vec3> { vec![[-0.4, y - w, 0.1], [0.0, y, 0.1], [0.3, y - 3.0 * w, 0.11]] };
    let places = vec![
        lamp("mast", [-0.04, 0.0, 0.47], UP),
        lamp("bow", [0.5, 0.0, 0.14], FRONT),
        lamp("stern", [-0.46, 0.0, 0.13], BACK),
        edge("left side", &side(0.14, 0.012), LEFT),
        edge("right side", &side(-0.14, -0.012), RIGHT),
        lamp("cabin", [0.02, 0.0, 0.235], DOWN),
    ];
    Body { name: "Boat", mesh, places, pack: [-0.05, 0.0, 0.085], stands: true, flies: false }
}

pub fn coach() -> Body {
    let mut mesh = Mesh::default();
    // A scale of about 1 to 87; the rails are part of how one knows it.
    let (half, wide) = (0.15, 0.0165);
    mesh.slab([0.0, 0.0, 0.0275], [2.0 * half, 2.0 * wide, 0.025], 0.002, Stuff::Paint);
    // The roof, round over the whole length.
    mesh.hull(
        &[[-half, 0.039, 0.0155, 0.0035], [-half + 0.002, 0.04, wide, 0.0068], [half - 0.002, 0.04, wide, 0.0068], [half, 0.039, 0.0155, 0.0035]],
        Stuff::Metal,
    );
    mesh.both_sides(|mesh| {
        for index in 0..9 {
            let x = -0.108 + 0.027 * f64::from(index);
            mesh.side(
                &[[x - 0.0095, 0.0272], [x + 0.0095, 0.0272], [x + 0.0095, 0.0372], [x - 0.0095, 0.0372]],
                [wide - 0.0002, wide + 0.0006],
                0.0003,
                Stuff::Glass,
            );
        }
        for x in [-0.136, 0.136] {
            mesh.side(
                &[[x - 0.006, 0.0175], [x + 0.006, 0.0175], [x + 0.006, 0.0385], [x - 0.006, 0.0385]],
                [wide - 0.0002, wide + 0.0005],
                0.0003,
                Stuff::Cloth,
            );
        }
        mesh.slab([0.0, wide + 0.0003, 0.0215], [0.24, 0.0008, 0.002], 0.0002, Stuff::Panel);
        // Bogies and their wheels.
        for x in [-0.1, 0.1] {
            mesh.slab([x, 0.0135, 0.0085], [0.046, 0.002, 0.006], 0.0006, Stuff::Rubber);
            for wheel in [x - 0.0155, x + 0.0155] {
                mesh.solid([wheel, 0.0095, 0.0058], AXLE, 0.0058, 0.003);
            }
        }
        mesh.slab([0.0, 0.011, 0.0105], [0.07, 0.008, 0.008], 0.001, Stuff::Cloth);
        // Buffers.
        for way in [-1.0, 1.0] {
            mesh.drum([way * half, 0.009, 0.0125], [way * (half + 0.005), 0.009, 0.0125], 0.0016, Stuff::Metal);
            mesh.drum([way * (half + 0.005), 0.009, 0.0125], [way * (half + 0.006), 0.009, 0.0125], 0.0032, Stuff::Metal);
        }
        mesh.slab([0.0, 0.00825, 0.0], [0.34, 0.0016, 0.003], 0.0004, Stuff::Metal);
    });
    for index in 0..21 {
        let x = -0.165 + 0.0165 * f64::from(index);
        mesh.slab([x, 0.0, -0.003], [0.006, 0.032, 0.003], 0.0004, Stuff::Rubber);
    }
    for way in [-1.0, 1.0] {
        mesh.slab([way * (half + 0.001), 0.0, 0.028], [0.003, 0.012, 0.022], 0.0006, Stuff::Rubber);
        mesh.both_sides(|mesh| mesh.slab([way * half, 0.011, 0.032], [0.0012, 0.006, 0.008], 0.0003, Stuff::Glass));
    }
    for x in [-0.09, -0.03, 0.03, 0.09] {
        mesh.slab([x, 0.0, 0.0472], [0.012, 0.008, 0.0022], 0.0006, Stuff::Cloth);
    }
    let places = vec![
        edge("inside", &[[-0.12, 0.0, 0.0375], [0.12, 0.0, 0.0375]], DOWN),
        lamp("front end", [half + 0.001, 0.0, 0.019], FRONT),
        lamp("rear end", [-half - 0.001, 0.0, 0.019], BACK),
        edge("roof", &[[-0.13, 0.0, 0.048], [0.13, 0.0, 0.048]], UP),
        edge("underfloor", &[[-0.06, 0.0, 0.0075], [0.06, 0.0, 0.0075]], DOWN),
    ];
    Body { name: "Railway coach", mesh, places, pack: [0.0, 0.0, 0.0115], stands: true, flies: false }
}
