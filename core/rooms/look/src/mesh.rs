//! Things made of parts in metres, as triangles: x forward, y to the left, z up, the ground at 0.

use std::f64::consts::TAU;

/// A point or a direction.
pub type Vec3 = [f64; 3];

pub(crate) fn add(a: Vec3, b: Vec3) -> Vec3 {
    [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
}

pub(crate) fn sub(a: Vec3, b: Vec3) -> Vec3 {
    [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
}

pub(crate) fn times(a: Vec3, by: f64) -> Vec3 {
    a.map(|x| x * by)
}

pub(crate) fn dot(a: Vec3, b: Vec3) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

pub(crate) fn cross(a: Vec3, b: Vec3) -> Vec3 {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

pub(crate) fn length(a: Vec3) -> f64 {
    dot(a, a).sqrt()
}

/// A direction of length 1; straight up where there is none.
pub(crate) fn unit(a: Vec3) -> Vec3 {
    let size = length(a);
    if size > 0.0 { times(a, 1.0 / size) } else { [0.0, 0.0, 1.0] }
}

/// What a part is made of: how much light it throws back.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stuff {
    /// Tyres, grips, cables.
    Rubber,
    /// Seats, bags, wood in the shade.
    Cloth,
    /// Painted frames and hulls.
    Paint,
    /// Bare metal and spokes.
    Metal,
    /// Bright panels.
    Panel,
    /// Windows: they mirror the sky.
    Glass,
}

impl Stuff {
    /// Share of light that it throws back.
    pub fn albedo(self) -> f64 {
        match self {
            Stuff::Rubber => 0.16,
            Stuff::Cloth => 0.34,
            Stuff::Glass => 0.26,
            Stuff::Paint => 0.62,
            Stuff::Metal => 0.8,
            Stuff::Panel => 0.94,
        }
    }
}

/// A flat piece of a surface.
#[derive(Clone, Copy, Debug)]
pub struct Triangle {
    /// Its corners, anticlockwise from outside.
    pub at: [Vec3; 3],
    /// What it is made of.
    pub stuff: Stuff,
    /// Which part it belongs to.
    pub part: u16,
}

impl Triangle {
    /// Outward, of length 1.
    pub fn normal(&self) -> Vec3 {
        unit(cross(sub(self.at[1], self.at[0]), sub(self.at[2], self.at[0])))
    }
}

/// A thing that is put together part by part.
#[derive(Clone, Debug, Default)]
pub struct Mesh {
    /// All of its surface.
    pub triangles: Vec<Triangle>,
    parts: u16,
}

/// Sides of what is round.
const SIDES: usize = 20;

impl Mesh {
    fn begin(&mut self) -> u16 {
        self.parts += 1;
        self.parts
    }

    fn face(&mut self, at: [Vec3; 3], stuff: Stuff, part: u16) {
        self.triangles.push(Triangle { at, stuff, part });
    }

    fn quad(&mut self, at: [Vec3; 4], stuff: Stuff, part: u16) {
        self.face([at[0], at[1], at[2]], stuff, part);
        self.face([at[0], at[2], at[3]], stuff, part);
    }

    /// A skin over rings of as many points each, anticlockwise as seen from the first ring's outside; closed at both ends.
    fn skin(&mut self, rings: &[Vec<Vec3>], stuff: Stuff, part: u16) {
        for pair in rings.windows(2) {
            let count = pair[0].len();
            for index in 0..count {
                let next = (index + 1) % count;
                self.quad([pair[0][index], pair[1][index], pair[1][next], pair[0][next]], stuff, part);
            }
        }
        if let (Some(first), Some(last)) = (rings.first(), rings.last()) {
            self.cap(first, stuff, part);
            self.cap(&last.iter().rev().copied().collect::<Vec<_>>(), stuff, part);
        }
    }

    /// A flat polygon without holes, by its ears.
    fn cap(&mut self, ring: &[Vec3], stuff: Stuff, part: u16) {
        for [a, b, c] in ears(ring) {
            self.face([a, b, c], stuff, part);
        }
    }

    /// A round bar along points, with round joints.
    pub fn tube(&mut self, points: &[Vec3], radius: f64, stuff: Stuff) {
        let part = self.begin();
        for pair in points.windows(2) {
            self.cone_of(pair[0], pair[1], [radius, radius], stuff, part);
        }
        for point in points {
            self.ball_of(*point, [radius; 3], stuff, part);
        }
    }

    /// A round bar that grows thinner.
    pub fn cone(&mut self, from: Vec3, to: Vec3, radii: [f64; 2], stuff: Stuff) {
        let part = self.begin();
        self.cone_of(from, to, radii, stuff, part);
    }

    fn cone_of(&mut self, from: Vec3, to: Vec3, radii: [f64; 2], stuff: Stuff, part: u16) {
        let axis = unit(sub(to, from));
        let (u, v) = across(axis);
        let ring = |at: Vec3, radius: f64| (0..SIDES).map(|side| around(at, u, v, radius, radius, TAU * side as f64 / SIDES as f64)).collect::<Vec<_>>();
        self.skin(&[ring(from, radii[0]), ring(to, radii[1])], stuff, part);
    }

    /// A disc, a drum or a motor.
    pub fn drum(&mut self, from: Vec3, to: Vec3, radius: f64, stuff: Stuff) {
        self.cone(from, to, [radius, radius], stuff);
    }

    /// A ball, or an egg, by its half sizes.
    pub fn ball(&mut self, at: Vec3, half: Vec3, stuff: Stuff) {
        let part = self.begin();
        self.ball_of(at, half, stuff, part);
    }

    fn ball_of(&mut self, at: Vec3, half: Vec3, stuff: Stuff, part: u16) {
        const RINGS: usize = 9;
        let rings: Vec<Vec<Vec3>> = (0..=RINGS)
            .map(|ring| {
                let up = std::f64::consts::PI * (ring as f64 / RINGS as f64 - 0.5);
                let point = |side: usize| {
                    let turn = TAU * side as f64 / SIDES as f64;
                    add(at, [half[0] * up.cos() * turn.cos(), half[1] * up.cos() * turn.sin(), half[2] * up.sin()])
                };
                (0..SIDES).map(point).collect()
            })
            .collect();
        for pair in rings.windows(2) {
            for index in 0..SIDES {
                let next = (index + 1) % SIDES;
                self.quad([pair[0][index], pair[0][next], pair[1][next], pair[1][index]], stuff, part);
            }
        }
    }

    /// A box by its middle and size, its edges taken off by `bevel`.
    pub fn slab(&mut self, at: Vec3, size: Vec3, bevel: f64, stuff: Stuff) {
        let [length, _, height] = size;
        let profile = [[-length / 2.0, -height / 2.0], [length / 2.0, -height / 2.0], [length / 2.0, height / 2.0], [-length / 2.0, height / 2.0]];
        let moved: Vec<[f64; 2]> = profile.iter().map(|[x, z]| [at[0] + x, at[2] + z]).collect();
        self.side(&moved, [at[1] - size[1] / 2.0, at[1] + size[1] / 2.0], bevel, stuff);
    }

    /// A profile seen from the right, (x, z) anticlockwise there, from one y to another; its edges taken off by `bevel`.
    pub fn side(&mut self, profile: &[[f64; 2]], y: [f64; 2], bevel: f64, stuff: Stuff) {
        let part = self.begin();
        let inner = inset(profile, bevel);
        let ring = |profile: &[[f64; 2]], y: f64| profile.iter().map(|[x, z]| [*x, y, *z]).collect::<Vec<Vec3>>();
        let edge = bevel.min(0.45 * (y[1] - y[0]));
        self.skin(&[ring(&inner, y[0]), ring(profile, y[0] + edge), ring(profile, y[1] - edge), ring(&inner, y[1])], stuff, part);
    }

    /// A plan seen from above, (x, y) anticlockwise there, from one z to another; its edges taken off by `bevel`.
    pub fn plate(&mut self, plan: &[[f64; 2]], z: [f64; 2], bevel: f64, stuff: Stuff) {
        let part = self.begin();
        let inner = inset(plan, bevel);
        let ring = |plan: &[[f64; 2]], z: f64| plan.iter().rev().map(|[x, y]| [*x, *y, z]).collect::<Vec<Vec3>>();
        let edge = bevel.min(0.45 * (z[1] - z[0]));
        self.skin(&[ring(&inner, z[0]), ring(plan, z[0] + edge), ring(plan, z[1] - edge), ring(&inner, z[1])], stuff, part);
    }

    /// A hull: along x, at each its middle height, half width and half height.
    pub fn hull(&mut self, sections: &[[f64; 4]], stuff: Stuff) {
        let part = self.begin();
        let ring = |[x, z, wide, high]: &[f64; 4]| {
            let point = |side: usize| {
                let turn = TAU * side as f64 / SIDES as f64;
                [*x, wide * turn.cos(), z + high * turn.sin()]
            };
            (0..SIDES).map(point).collect::<Vec<Vec3>>()
        };
        let rings: Vec<Vec<Vec3>> = sections.iter().map(ring).collect();
        self.skin(&rings.into_iter().rev().collect::<Vec<_>>(), stuff, part);
    }

    /// A wing: slices along its span, each with where it begins and ends along x, its y, its height and its thickness.
    pub fn foil(&mut self, slices: &[(f64, f64, f64, f64, f64)], stuff: Stuff) {
        let part = self.begin();
        let ring = |(front, back, y, z, thick): &(f64, f64, f64, f64, f64)| -> Vec<Vec3> {
            let chord = front - back;
            // Over and under a line from its nose to its tail.
            [(0.0, 0.0), (0.05, 0.35), (0.3, 0.6), (0.7, 0.35), (1.0, 0.03), (0.7, -0.2), (0.3, -0.35), (0.05, -0.25)]
                .iter()
                .map(|(along, up)| [front - along * chord, *y, z + up * thick])
                .collect()
        };
        let rings: Vec<Vec<Vec3>> = slices.iter().map(ring).collect();
        self.skin(&rings, stuff, part);
    }

    /// A flat blade in the plane of the ground, so thick.
    pub fn flat(&mut self, outline: &[Vec3], thick: f64, stuff: Stuff) {
        let part = self.begin();
        let moved = |by: f64| outline.iter().map(|point| add(*point, [0.0, 0.0, by])).collect::<Vec<Vec3>>();
        self.skin(&[moved(-thick / 2.0), moved(thick / 2.0)], stuff, part);
    }

    /// A ring around an axle: a tyre or a rim.
    pub fn ring(&mut self, at: Vec3, axle: Vec3, radius: f64, thick: f64, stuff: Stuff) {
        let part = self.begin();
        const AROUND: usize = 56;
        const THICK: usize = 10;
        let (u, v) = across(unit(axle));
        let axle = unit(axle);
        let point = |step: usize, side: usize| {
            let (turn, tilt) = (TAU * step as f64 / AROUND as f64, TAU * side as f64 / THICK as f64);
            let out = add(times(u, turn.cos()), times(v, turn.sin()));
            add(at, add(times(out, radius + thick * tilt.cos()), times(axle, thick * tilt.sin())))
        };
        for step in 0..AROUND {
            for side in 0..THICK {
                let (s, t) = (step + 1, (side + 1) % THICK);
                let s = s % AROUND;
                self.quad([point(step, side), point(s, side), point(s, t), point(step, t)], stuff, part);
            }
        }
    }

    /// A wheel with a tyre, a rim, a hub and spokes.
    pub fn spoked(&mut self, at: Vec3, axle: Vec3, radius: f64, tyre: f64, spokes: usize) {
        let axle = unit(axle);
        let (u, v) = across(axle);
        self.ring(at, axle, radius - tyre, tyre, Stuff::Rubber);
        self.ring(at, axle, radius - 2.3 * tyre, 0.45 * tyre, Stuff::Metal);
        self.drum(add(at, times(axle, -1.5 * tyre)), add(at, times(axle, 1.5 * tyre)), 1.1 * tyre, Stuff::Metal);
        for spoke in 0..spokes {
            let turn = TAU * (spoke as f64 + 0.25) / spokes as f64;
            let out = add(times(u, turn.cos()), times(v, turn.sin()));
            self.tube(&[add(at, times(out, tyre)), add(at, times(out, radius - 2.3 * tyre))], (0.07 * tyre).max(0.0016), Stuff::Metal);
        }
    }

    /// A wheel with a tyre around a disc.
    pub fn solid(&mut self, at: Vec3, axle: Vec3, radius: f64, width: f64) {
        let axle = unit(axle);
        let half = times(axle, width / 2.0);
        let rim = 0.62 * radius;
        self.drum(sub(at, half), add(at, half), radius, Stuff::Rubber);
        for way in [-1.0, 1.0] {
            let face = add(at, times(half, way));
            self.drum(sub(face, times(axle, 0.002 * way)), add(face, times(axle, way * 0.1 * width)), rim, Stuff::Metal);
            self.drum(face, add(face, times(axle, way * 0.2 * width)), 0.22 * radius, Stuff::Rubber);
        }
    }

    /// The same things mirrored to the other side, as well.
    pub fn both_sides(&mut self, build: impl Fn(&mut Mesh)) {
        let mut one = Mesh { parts: self.parts, ..Mesh::default() };
        build(&mut one);
        let count = one.parts - self.parts;
        let mirrored = one.triangles.iter().map(|triangle| {
            let [a, b, c] = triangle.at.map(|[x, y, z]| [x, -y, z]);
            Triangle { at: [a, c, b], part: triangle.part + count, ..*triangle }
        });
        self.triangles.extend(mirrored);
        self.triangles.extend(one.triangles);
        self.parts += 2 * count;
    }

    /// Least and largest of each axis.
    pub fn bounds(&self) -> [Vec3; 2] {
        let mut bounds = [[f64::INFINITY; 3], [f64::NEG_INFINITY; 3]];
        for point in self.triangles.iter().flat_map(|triangle| triangle.at) {
            for axis in 0..3 {
                bounds[0][axis] = bounds[0][axis].min(point[axis]);
                bounds[1][axis] = bounds[1][axis].max(point[axis]);
            }
        }
        bounds
    }
}

/// Two directions across an axis and each other.
fn across(axis: Vec3) -> (Vec3, Vec3) {
    let other = if axis[2].abs() < 0.9 { [0.0, 0.0, 1.0] } else { [1.0, 0.0, 0.0] };
    let u = unit(cross(other, axis));
    (u, cross(axis, u))
}

fn around(at: Vec3, u: Vec3, v: Vec3, ru: f64, rv: f64, turn: f64) -> Vec3 {
    // The way round that faces outward from the first ring.
    add(at, add(times(u, ru * turn.cos()), times(v, -rv * turn.sin())))
}

/// A polygon moved inward by so much at every corner, along the line that halves it.
fn inset(ring: &[[f64; 2]], by: f64) -> Vec<[f64; 2]> {
    let count = ring.len();
    let way = |from: [f64; 2], to: [f64; 2]| {
        let [x, y] = [to[0] - from[0], to[1] - from[1]];
        let size = x.hypot(y).max(1e-12);
        [x / size, y / size]
    };
    (0..count)
        .map(|index| {
            let (before, here, after) = (ring[(index + count - 1) % count], ring[index], ring[(index + 1) % count]);
            let (a, b) = (way(before, here), way(here, after));
            // Inward is to the left of an anticlockwise way.
            let inward = [-(a[1] + b[1]), a[0] + b[0]];
            let size = inward[0].hypot(inward[1]).max(1e-12);
            let sharp = (1.0 + a[0] * b[0] + a[1] * b[1]).max(0.5) / 2.0;
            let step = by / sharp.sqrt();
            [here[0] + step * inward[0] / size, here[1] + step * inward[1] / size]
        })
        .collect()
}

/// Triangles of a flat polygon without holes that does not cross itself, by cutting ears.
fn ears(ring: &[Vec3]) -> Vec<[Vec3; 3]> {
    let mut left: Vec<Vec3> = ring.to_vec();
    let mut normal = [0.0; 3];
    for index in 0..left.len() {
        normal = add(normal, cross(left[index], left[(index + 1) % left.len()]));
    }
    let mut found = Vec::new();
    while left.len() > 3 {
        let count = left.len();
        let ear = (0..count).find(|index| {
            let (a, b, c) = (left[(index + count - 1) % count], left[*index], left[(index + 1) % count]);
            let out = dot(cross(sub(b, a), sub(c, b)), normal);
            let inside = |p: &Vec3| {
                let turns = |from: Vec3, to: Vec3| dot(cross(sub(to, from), sub(*p, from)), normal) > 0.0;
                turns(a, b) && turns(b, c) && turns(c, a)
            };
            out > 0.0 && !left.iter().any(inside)
        });
        // A sliver has no ear; its corner adds nothing.
        let at = ear.unwrap_or(0);
        let (a, b, c) = (left[(at + count - 1) % count], left[at], left[(at + 1) % count]);
        found.push([a, b, c]);
        left.remove(at);
    }
    if let [a, b, c] = left[..] {
        found.push([a, b, c]);
    }
    found
}
