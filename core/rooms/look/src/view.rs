//! A thing as it is seen: each spot of a picture with what is nearest there.

use crate::mesh::{Mesh, Vec3, cross, dot, sub, unit};
use orthavis_model::vehicle::Seen;

/// From where a thing is seen.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Camera {
    /// To the right in the picture.
    pub right: Vec3,
    /// Up in the picture.
    pub up: Vec3,
    /// Towards the eye.
    pub near: Vec3,
    /// What is in the middle of the picture.
    pub middle: Vec3,
    /// Spots for a metre.
    pub scale: f64,
    /// Spots across and down.
    pub size: [usize; 2],
}

/// Right, up and towards the eye.
pub const fn axes(seen: Seen) -> [Vec3; 3] {
    match seen {
        Seen::Beside => [[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]],
        Seen::Behind => [[0.0, -1.0, 0.0], [0.0, 0.0, 1.0], [-1.0, 0.0, 0.0]],
        Seen::Above => [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]],
    }
}

impl Camera {
    /// A thing from one of the usual sides, as large as fits with a margin, all in spots.
    pub fn fitted(mesh: &Mesh, seen: Seen, size: [usize; 2], margin: f64) -> Camera {
        let [right, up, near] = axes(seen);
        let bounds = mesh.bounds();
        let middle = [0, 1, 2].map(|axis| 0.5 * (bounds[0][axis] + bounds[1][axis]));
        let half = sub(bounds[1], middle);
        let extent = |way: Vec3| (0..3).map(|axis| (way[axis] * half[axis]).abs()).sum::<f64>().max(1e-6);
        let room = |spots: usize, way: Vec3| (spots as f64 - 2.0 * margin) / (2.0 * extent(way));
        Camera { right, up, near, middle, scale: room(size[0], right).min(room(size[1], up)), size }
    }

    /// Where a point is in the picture, from its upper left corner, and how near it is, m.
    pub fn spot(&self, point: Vec3) -> [f64; 3] {
        let from = sub(point, self.middle);
        let [width, height] = self.size.map(|spots| spots as f64);
        [width / 2.0 + self.scale * dot(from, self.right), height / 2.0 - self.scale * dot(from, self.up), dot(from, self.near)]
    }
}

/// What is nearest at a spot.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Hit {
    /// How near: the nearer, the larger.
    pub depth: f64,
    /// Which triangle.
    pub triangle: u32,
}

/// What is nearest at every spot, row by row from the top; nothing where there is none.
pub fn hits(mesh: &Mesh, camera: &Camera) -> Vec<Option<Hit>> {
    nearest(mesh, camera.size, |point| Some(camera.spot(point)))
}

/// The same of any picture: `spot` says where a point is and how near, by a figure that goes straight from corner to corner of
/// a triangle; nothing of a triangle is seen where it says nothing of a corner.
pub fn nearest(mesh: &Mesh, [width, height]: [usize; 2], spot: impl Fn(Vec3) -> Option<[f64; 3]>) -> Vec<Option<Hit>> {
    let mut found: Vec<Option<Hit>> = vec![None; width * height];
    for (number, triangle) in mesh.triangles.iter().enumerate() {
        let [Some(a), Some(b), Some(c)] = triangle.at.map(&spot) else { continue };
        let area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
        if area.abs() < 1e-12 {
            continue;
        }
        let range = |axis: usize, most: usize| {
            let least = a[axis].min(b[axis]).min(c[axis]).floor().max(0.0) as usize;
            let last = a[axis].max(b[axis]).max(c[axis]).ceil().min(most as f64 - 1.0).max(-1.0);
            least..(last + 1.0) as usize
        };
        for y in range(1, height) {
            for x in range(0, width) {
                let (px, py) = (x as f64 + 0.5, y as f64 + 0.5);
                let share = |p: [f64; 3], q: [f64; 3]| ((q[0] - p[0]) * (py - p[1]) - (q[1] - p[1]) * (px - p[0])) / area;
                let (wa, wb, wc) = (share(b, c), share(c, a), share(a, b));
                if wa < 0.0 || wb < 0.0 || wc < 0.0 {
                    continue;
                }
                let depth = wa * a[2] + wb * b[2] + wc * c[2];
                let here = &mut found[y * width + x];
                if here.is_none_or(|known| known.depth < depth) {
                    *here = Some(Hit { depth, triangle: number as u32 });
                }
            }
        }
    }
    found
}

/// Towards the light of a drawing, in the picture's own directions: over the left shoulder of who looks.
const LIGHT: Vec3 = [-0.42, 0.72, 0.55];
/// Share of the light that comes from everywhere.
const EVERYWHERE: f64 = 0.36;

/// How light each spot of a drawing is, 0 to 1; below 0 where there is nothing.
pub fn shades(mesh: &Mesh, camera: &Camera, hits: &[Option<Hit>]) -> Vec<f32> {
    let light = unit(LIGHT);
    let towards = [0, 1, 2].map(|axis| light[0] * camera.right[axis] + light[1] * camera.up[axis] + light[2] * camera.near[axis]);
    let of_triangle: Vec<f32> = mesh
        .triangles
        .iter()
        .map(|triangle| {
            let normal = unit(cross(sub(triangle.at[1], triangle.at[0]), sub(triangle.at[2], triangle.at[0])));
            // What is seen of a surface is its outside.
            let faces = if dot(normal, camera.near) < 0.0 { -dot(normal, towards) } else { dot(normal, towards) };
            (triangle.stuff.albedo() * (EVERYWHERE + (1.0 - EVERYWHERE) * faces.max(0.0))) as f32
        })
        .collect();
    hits.iter().map(|hit| hit.map_or(-1.0, |hit| of_triangle[hit.triangle as usize])).collect()
}

/// Darkens the edges at which one part stands before another, by so many spots.
pub fn with_edges(mesh: &Mesh, camera: &Camera, hits: &[Option<Hit>], shades: &mut [f32], wide: usize) {
    let [width, height] = camera.size;
    // A step in depth that a hand would draw a line at.
    let step = 14.0 / camera.scale;
    let edge = |x: usize, y: usize| {
        let Some(here) = hits[y * width + x] else { return false };
        let part = mesh.triangles[here.triangle as usize].part;
        let (left, right) = (x.saturating_sub(wide), (x + wide).min(width - 1));
        let (top, bottom) = (y.saturating_sub(wide), (y + wide).min(height - 1));
        [(left, y), (right, y), (x, top), (x, bottom)].into_iter().any(|(x, y)| {
            hits[y * width + x].is_some_and(|there| {
                let apart = there.depth - here.depth;
                mesh.triangles[there.triangle as usize].part != part && apart > step
            })
        })
    };
    let dark: Vec<bool> = (0..width * height).map(|at| edge(at % width, at / width)).collect();
    for (shade, dark) in shades.iter_mut().zip(dark) {
        if dark {
            *shade = shade.min(0.05);
        }
    }
}
