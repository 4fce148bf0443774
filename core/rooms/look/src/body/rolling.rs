//! A deck, a power chair, and a cart for anything else.

use super::{BACK, Body, DOWN, FRONT, LEFT, RIGHT, UP, edge, lamp};
use crate::mesh::{Mesh, Stuff, Vec3};

const AXLE: Vec3 = [0.0, 1.0, 0.0];

pub fn deck() -> Body {
    let mut mesh = Mesh::default();
    // The board: flat in the middle, its ends kicked up.
    let (half, top) = (0.225 / 2.0, 0.135);
    let bent = |x: f64| top + (((x.abs() - 0.3).max(0.0)) * 0.32);
    let sections: Vec<f64> = (0..=28).map(|step| -0.41 * (std::f64::consts::PI * f64::from(step) / 28.0).cos()).collect();
    let wide = |x: f64| {
        let straight = 0.41 - half;
        let beyond = (x.abs() - straight).max(0.0);
        (half * half - beyond * beyond).max(0.0004).sqrt()
    };
    let strip: Vec<[f64; 4]> = sections.iter().map(|x| [*x, bent(*x), wide(*x), 0.007]).collect();
    mesh.hull(&strip, Stuff::Paint);
    // Grip tape on top.
    let grip: Vec<[f64; 4]> = sections.iter().map(|x| [0.985 * x, bent(*x) + 0.006, 0.95 * wide(*x), 0.003]).collect();
    mesh.hull(&grip, Stuff::Rubber);
    for (x, way) in [(0.245, 1.0), (-0.245, -1.0)] {
        mesh.slab([x, 0.0, 0.118], [0.1, 0.075, 0.014], 0.004, Stuff::Metal);
        mesh.cone([x + 0.02 * way, 0.0, 0.115], [x, 0.0, 0.07], [0.028, 0.02], Stuff::Metal);
        mesh.tube(&[[x, -0.1, 0.055], [x, 0.1, 0.055]], 0.013, Stuff::Metal);
        mesh.drum([x, -0.03, 0.062], [x, 0.03, 0.062], 0.024, Stuff::Metal);
        mesh.both_sides(|mesh| mesh.solid([x, 0.105, 0.05], AXLE, 0.05, 0.055));
    }
    // The pack and the drive below the board.
    mesh.slab([0.0, 0.0, 0.103], [0.27, 0.16, 0.045], 0.012, Stuff::Cloth);
    mesh.drum([-0.19, -0.075, 0.065], [-0.19, -0.01, 0.065], 0.032, Stuff::Metal);
    let rail = |y: f64| -> Vec<Vec3> { [-0.29, 0.0, 0.29].iter().map(|x| [*x, y, top - 0.004]).collect() };
    let places = vec![
        lamp("nose", [0.4, 0.0, bent(0.4)], FRONT),
        lamp("tail", [-0.4, 0.0, bent(0.4)], BACK),
        edge("left rail", &rail(half), DOWN),
        edge("right rail", &rail(-half), DOWN),
        lamp("front truck", [0.245, -0.06, 0.07], DOWN),
        lamp("rear truck", [-0.245, -0.06, 0.07], DOWN),
    ];
    Body { name: "Deck", mesh, places, pack: [0.0, 0.0, 0.103], stands: true, flies: false }
}

pub fn chair() -> Body {
    let mut mesh = Mesh::default();
    // The base with its motors, two driven wheels and two castors.
    mesh.side(&[[-0.34, 0.14], [0.3, 0.14], [0.33, 0.22], [0.18, 0.34], [-0.3, 0.34], [-0.36, 0.24]], [-0.2, 0.2], 0.03, Stuff::Paint);
    mesh.both_sides(|mesh| {
        mesh.solid([-0.14, 0.265, 0.18], AXLE, 0.18, 0.085);
        mesh.solid([0.36, 0.22, 0.1], AXLE, 0.1, 0.055);
        mesh.tube(&[[0.36, 0.165, 0.1], [0.35, 0.17, 0.24], [0.24, 0.17, 0.27]], 0.016, Stuff::Metal);
        mesh.solid([-0.46, 0.16, 0.06], AXLE, 0.06, 0.035);
        mesh.tube(&[[-0.46, 0.13, 0.07], [-0.33, 0.13, 0.2]], 0.014, Stuff::Metal);
        // Arm rest with its post.
        mesh.tube(&[[-0.16, 0.27, 0.5], [-0.17, 0.27, 0.68]], 0.014, Stuff::Metal);
        mesh.slab([0.0, 0.27, 0.7], [0.38, 0.065, 0.05], 0.018, Stuff::Cloth);
        // Leg rest and foot plate.
        mesh.tube(&[[0.26, 0.15, 0.47], [0.36, 0.15, 0.42], [0.44, 0.14, 0.16]], 0.014, Stuff::Metal);
        mesh.slab([0.53, 0.11, 0.14], [0.2, 0.16, 0.022], 0.006, Stuff::Paint);
    });
    // Seat and back.
    mesh.slab([0.02, 0.0, 0.39], [0.4, 0.34, 0.05], 0.01, Stuff::Metal);
    mesh.slab([0.03, 0.0, 0.49], [0.5, 0.46, 0.11], 0.04, Stuff::Cloth);
    mesh.side(&[[-0.24, 0.5], [-0.13, 0.52], [-0.22, 1.08], [-0.26, 1.12], [-0.34, 1.1], [-0.33, 1.02]], [-0.22, 0.22], 0.035, Stuff::Cloth);
    mesh.side(&[[-0.36, 1.16], [-0.27, 1.15], [-0.28, 1.3], [-0.34, 1.32], [-0.38, 1.28]], [-0.12, 0.12], 0.03, Stuff::Cloth);
    mesh.tube(&[[-0.3, 0.0, 1.06], [-0.33, 0.0, 1.2]], 0.014, Stuff::Metal);
    mesh.tube(&[[-0.28, -0.17, 0.42], [-0.37, -0.17, 1.0]], 0.013, Stuff::Metal);
    mesh.tube(&[[-0.28, 0.17, 0.42], [-0.37, 0.17, 1.0]], 0.013, Stuff::Metal);
    // The joystick on the right arm.
    mesh.slab([0.22, -0.27, 0.75], [0.09, 0.06, 0.05], 0.014, Stuff::Rubber);
    mesh.tube(&[[0.22, -0.27, 0.78], [0.23, -0.27, 0.83]], 0.008, Stuff::Rubber);
    mesh.ball([0.23, -0.27, 0.84], [0.018; 3], Stuff::Rubber);
    let side = |y: f64| -> Vec<Vec3> { vec![[0.28, y, 0.3], [-0.32, y, 0.3]] };
    let places = vec![
        edge("frame left", &side(0.21), LEFT),
        edge("frame right", &side(-0.21), RIGHT),
        edge("back rest", &[[-0.35, -0.18, 1.02], [-0.35, 0.18, 1.02]], BACK),
        lamp("armrest", [0.18, -0.27, 0.67], FRONT),
        edge("foot rest", &[[0.62, -0.17, 0.13], [0.62, 0.17, 0.13]], FRONT),
        lamp("rear", [-0.36, 0.0, 0.27], BACK),
    ];
    Body { name: "Power chair", mesh, places, pack: [-0.02, 0.0, 0.24], stands: true, flies: false }
}

/// A hand cart with a drawer for whatever is none of the others.
pub fn cart() -> Body {
    let mut mesh = Mesh::default();
    mesh.both_sides(|mesh| {
        mesh.solid([0.3, 0.28, 0.14], AXLE, 0.14, 0.05);
        mesh.solid([-0.36, 0.28, 0.14], AXLE, 0.14, 0.05);
        mesh.tube(&[[-0.5, 0.22, 0.62], [-0.72, 0.22, 0.98]], 0.014, Stuff::Metal);
    });
    mesh.tube(&[[-0.72, -0.22, 0.98], [-0.72, 0.22, 0.98]], 0.018, Stuff::Rubber);
    mesh.slab([0.0, 0.0, 0.24], [1.0, 0.5, 0.06], 0.02, Stuff::Metal);
    mesh.slab([0.0, 0.0, 0.47], [0.98, 0.52, 0.38], 0.035, Stuff::Paint);
    mesh.slab([0.0, 0.0, 0.68], [1.04, 0.58, 0.05], 0.02, Stuff::Panel);
    for x in [-0.24, 0.24] {
        mesh.both_sides(|mesh| mesh.slab([x, 0.262, 0.47], [0.4, 0.012, 0.28], 0.006, Stuff::Cloth));
    }
    let places = vec![
        lamp("front", [0.5, 0.0, 0.5], FRONT),
        lamp("rear", [-0.5, 0.0, 0.5], BACK),
        edge("left", &[[0.44, 0.265, 0.32], [-0.44, 0.265, 0.32]], LEFT),
        edge("right", &[[0.44, -0.265, 0.32], [-0.44, -0.265, 0.32]], RIGHT),
        lamp("inside", [0.1, -0.1, 0.5], UP),
        edge("top", &[[0.46, 0.0, 0.72], [-0.46, 0.0, 0.72]], UP),
    ];
    Body { name: "The vehicle", mesh, places, pack: [-0.15, 0.0, 0.36], stands: true, flies: false }
}
