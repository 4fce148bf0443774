//! What people live in.

use super::{BACK, Body, DOWN, FRONT, LEFT, RIGHT, edge, lamp};
use crate::mesh::{Mesh, Stuff, Vec3};

const AXLE: Vec3 = [0.0, 1.0, 0.0];

/// A wheel under an arch.
fn wheel(mesh: &mut Mesh, x: f64, y: f64, radius: f64) {
    mesh.both_sides(|mesh| mesh.solid([x, y, radius], AXLE, radius, 0.22));
}

/// A pane in the right and the left wall.
fn panes(mesh: &mut Mesh, profile: &[[f64; 2]], y: f64) {
    mesh.both_sides(|mesh| mesh.side(profile, [y - 0.012, y + 0.012], 0.01, Stuff::Glass));
}

pub fn van() -> Body {
    let mut mesh = Mesh::default();
    let hull = [
        [-2.62, 0.42],
        [-1.95, 0.42],
        [-1.87, 0.62],
        [-1.68, 0.77],
        [-1.46, 0.8],
        [-1.24, 0.77],
        [-1.05, 0.62],
        [-0.97, 0.42],
        [1.02, 0.42],
        [1.1, 0.62],
        [1.29, 0.77],
        [1.51, 0.8],
        [1.73, 0.77],
        [1.92, 0.62],
        [2.0, 0.42],
        [2.5, 0.42],
        [2.66, 0.55],
        [2.66, 0.9],
        [2.5, 1.12],
        [1.98, 1.3],
        [1.36, 2.18],
        [1.1, 2.42],
        [-2.5, 2.46],
        [-2.64, 2.34],
        [-2.68, 1.2],
    ];
    mesh.side(&hull, [-0.96, 0.96], 0.1, Stuff::Panel);
    // Below the belt a darker band.
    mesh.both_sides(|mesh| {
        mesh.slab([0.03, 0.955, 0.72], [1.9, 0.02, 0.12], 0.006, Stuff::Paint);
        mesh.slab([2.62, 0.62, 0.86], [0.1, 0.34, 0.16], 0.03, Stuff::Glass);
        mesh.slab([-2.66, 0.84, 1.3], [0.05, 0.1, 0.5], 0.02, Stuff::Rubber);
        mesh.slab([1.55, 1.03, 1.42], [0.14, 0.1, 0.24], 0.03, Stuff::Rubber);
    });
    panes(&mut mesh, &[[0.98, 1.4], [1.78, 1.4], [1.32, 2.08], [0.98, 2.1]], 0.955);
    panes(&mut mesh, &[[-0.5, 1.5], [0.6, 1.5], [0.6, 2.05], [-0.5, 2.05]], 0.955);
    panes(&mut mesh, &[[-2.2, 1.5], [-1.1, 1.5], [-1.1, 2.05], [-2.2, 2.05]], 0.955);
    // Windscreen and rear windows.
    mesh.side(&[[1.42, 2.12], [1.99, 1.33], [2.02, 1.35], [1.46, 2.15]], [-0.8, 0.8], 0.005, Stuff::Glass);
    mesh.both_sides(|mesh| mesh.slab([-2.675, 0.44, 1.78], [0.02, 0.62, 0.5], 0.01, Stuff::Glass));
    mesh.slab([-2.69, 0.0, 1.4], [0.02, 0.03, 1.7], 0.005, Stuff::Rubber);
    mesh.slab([2.66, 0.0, 0.52], [0.12, 1.8, 0.2], 0.05, Stuff::Rubber);
    mesh.slab([-2.68, 0.0, 0.5], [0.12, 1.84, 0.18], 0.05, Stuff::Rubber);
    // The sliding door's step, on the right; an awning on the left; a vent and a solar panel on the roof.
    mesh.slab([0.1, -0.99, 0.36], [0.9, 0.22, 0.06], 0.02, Stuff::Metal);
    mesh.side(&[[-1.1, 2.28], [1.0, 2.28], [1.0, 2.4], [-1.1, 2.4]], [0.96, 1.08], 0.03, Stuff::Metal);
    mesh.slab([-0.5, 0.0, 2.5], [1.4, 1.1, 0.05], 0.01, Stuff::Glass);
    mesh.slab([-1.9, 0.0, 2.51], [0.4, 0.4, 0.12], 0.04, Stuff::Metal);
    wheel(&mut mesh, 1.51, 0.83, 0.36);
    wheel(&mut mesh, -1.46, 0.83, 0.36);
    let wall = |y: f64| -> Vec<Vec3> { vec![[0.9, y, 2.25], [-2.3, y, 2.25]] };
    let places = vec![
        edge("inside", &[[0.8, 0.0, 2.3], [-2.2, 0.0, 2.3]], DOWN),
        edge("outside left", &wall(1.0), LEFT),
        edge("outside right", &wall(-0.97), RIGHT),
        lamp("front", [2.66, 0.0, 0.86], FRONT),
        lamp("rear", [-2.69, 0.0, 2.2], BACK),
        lamp("step", [0.1, -1.02, 0.42], DOWN),
    ];
    Body { name: "Van", mesh, places, pack: [-0.7, 0.0, 0.62], stands: true, flies: false }
}

pub fn trailer() -> Body {
    let mut mesh = Mesh::default();
    let hull = [
        [-1.9, 0.5],
        [-0.66, 0.5],
        [-0.6, 0.66],
        [-0.42, 0.78],
        [-0.2, 0.78],
        [-0.02, 0.66],
        [0.04, 0.5],
        [1.85, 0.5],
        [2.06, 0.72],
        [2.12, 1.3],
        [1.98, 2.0],
        [1.62, 2.4],
        [0.9, 2.54],
        [-1.2, 2.54],
        [-1.8, 2.42],
        [-2.06, 2.05],
        [-2.12, 1.4],
        [-2.08, 0.75],
    ];
    mesh.side(&hull, [-1.06, 1.06], 0.12, Stuff::Panel);
    mesh.both_sides(|mesh| {
        mesh.slab([0.0, 1.055, 1.02], [3.7, 0.02, 0.16], 0.006, Stuff::Paint);
        mesh.slab([-2.08, 0.8, 0.9], [0.06, 0.16, 0.4], 0.02, Stuff::Rubber);
    });
    panes(&mut mesh, &[[0.75, 1.4], [1.6, 1.4], [1.6, 1.95], [0.75, 1.95]], 1.055);
    panes(&mut mesh, &[[-1.7, 1.4], [-0.9, 1.4], [-0.9, 1.95], [-1.7, 1.95]], 1.055);
    // The door on the right.
    mesh.side(&[[-0.55, 0.6], [0.35, 0.6], [0.35, 2.3], [-0.55, 2.3]], [-1.085, -1.055], 0.01, Stuff::Metal);
    mesh.side(&[[-0.4, 1.6], [0.2, 1.6], [0.2, 2.1], [-0.4, 2.1]], [-1.1, -1.08], 0.01, Stuff::Glass);
    mesh.side(&[[2.11, 1.32], [2.16, 1.32], [2.02, 1.98], [1.97, 1.98]], [-0.8, 0.8], 0.005, Stuff::Glass);
    mesh.side(&[[-2.16, 1.42], [-2.11, 1.42], [-2.05, 1.98], [-2.1, 1.98]], [-0.8, 0.8], 0.005, Stuff::Glass);
    mesh.slab([-0.1, -1.16, 0.34], [0.6, 0.3, 0.05], 0.015, Stuff::Metal);
    mesh.both_sides(|mesh| mesh.tube(&[[1.8, 0.5, 0.47], [3.2, 0.02, 0.45]], 0.035, Stuff::Metal));
    mesh.ball([3.25, 0.0, 0.48], [0.07; 3], Stuff::Metal);
    mesh.drum([2.9, 0.0, 0.12], [2.9, 0.0, 0.62], 0.03, Stuff::Metal);
    mesh.solid([2.9, 0.0, 0.12], AXLE, 0.12, 0.07);
    mesh.slab([2.45, 0.0, 0.62], [0.5, 0.6, 0.26], 0.05, Stuff::Paint);
    mesh.slab([0.3, 0.0, 2.57], [0.5, 0.5, 0.1], 0.03, Stuff::Metal);
    wheel(&mut mesh, -0.31, 0.93, 0.33);
    let wall = |y: f64| -> Vec<Vec3> { vec![[1.6, y, 2.32], [-1.7, y, 2.32]] };
    let places = vec![
        edge("inside", &[[1.4, 0.0, 2.4], [-1.6, 0.0, 2.4]], DOWN),
        edge("outside left", &wall(1.07), LEFT),
        edge("outside right", &wall(-1.07), RIGHT),
        lamp("front", [2.06, 0.0, 2.2], FRONT),
        lamp("rear", [-2.1, 0.0, 2.2], BACK),
        lamp("step", [-0.1, -1.12, 0.5], DOWN),
    ];
    Body { name: "Caravan", mesh, places, pack: [1.2, 0.0, 0.68], stands: true, flies: false }
}
