//! What stands in light's way: a body as blocks, coarse enough to be asked a million times.

use crate::mesh::{Mesh, Stuff, Vec3, add, length, sub, times};

/// Blocks along the longest side of a body.
const BLOCKS: f64 = 40.0;
/// Nothing so near to either end of a way is in it, in blocks: lamps sit on surfaces, and light falls on them.
const ENDS: f64 = 2.2;

/// A body as blocks that are hollow or not.
pub struct Blocks {
    least: Vec3,
    block: f64,
    size: [usize; 3],
    /// How many blocks away the nearest full one is, at least; 0 where it is full itself.
    free: Vec<u8>,
}

impl Blocks {
    /// The surface of a body; windows let light through.
    pub fn of(mesh: &Mesh) -> Blocks {
        let [least, most] = mesh.bounds();
        let block = (0..3).map(|axis| most[axis] - least[axis]).fold(1e-3, f64::max) / BLOCKS;
        let size = [0, 1, 2].map(|axis| ((most[axis] - least[axis]) / block) as usize + 1);
        let mut blocks = Blocks { least, block, size, free: vec![u8::MAX; size[0] * size[1] * size[2]] };
        for triangle in mesh.triangles.iter().filter(|triangle| triangle.stuff != Stuff::Glass) {
            let [a, b, c] = triangle.at;
            let (along, across) = (sub(b, a), sub(c, a));
            let steps = |way: Vec3| (2.0 * length(way) / block).ceil().max(1.0) as usize;
            let (most_u, most_v) = (steps(along), steps(across));
            for u in 0..=most_u {
                for v in 0..=most_v {
                    let (u, v) = (u as f64 / most_u as f64, v as f64 / most_v as f64);
                    if u + v <= 1.0 + 1e-9
                        && let Some(at) = blocks.at(add(a, add(times(along, u), times(across, v))))
                    {
                        blocks.free[at] = 0;
                    }
                }
            }
        }
        blocks.measure();
        blocks
    }

    /// Distances by one sweep up and one down: each block is one further than its nearest neighbour.
    fn measure(&mut self) {
        let [wide, deep, high] = self.size;
        let count = wide * deep * high;
        for down in [false, true] {
            for step in 0..count {
                let at = if down { count - 1 - step } else { step };
                let place = [at % wide, at / wide % deep, at / (wide * deep)];
                let mut least = self.free[at];
                // Only what this sweep has been at.
                for beside in if down { 14..27 } else { 0..13 } {
                    let near = [beside % 3, beside / 3 % 3, beside / 9];
                    let inside = (0..3).all(|axis| (1..=self.size[axis]).contains(&(place[axis] + near[axis])));
                    if inside {
                        let [x, y, z] = [0, 1, 2].map(|axis| place[axis] + near[axis] - 1);
                        least = least.min(self.free[(z * deep + y) * wide + x].saturating_add(1));
                    }
                }
                if self.free[at] > 0 {
                    self.free[at] = least;
                }
            }
        }
    }

    fn at(&self, point: Vec3) -> Option<usize> {
        let mut at = [0; 3];
        for axis in 0..3 {
            let place = ((point[axis] - self.least[axis]) / self.block).floor();
            if place < 0.0 || place >= self.size[axis] as f64 {
                return None;
            }
            at[axis] = place as usize;
        }
        Some((at[2] * self.size[1] + at[1]) * self.size[0] + at[0])
    }

    /// Whether something stands between two points.
    pub fn between(&self, from: Vec3, to: Vec3) -> bool {
        let way = sub(to, from);
        let far = length(way);
        let end = ENDS * self.block / far.max(1e-9);
        // Only what lies in the box around the body can be in the way.
        let (mut first, mut last) = (end, 1.0 - end);
        for axis in 0..3 {
            let (near, wide) = (self.least[axis] - from[axis], self.size[axis] as f64 * self.block);
            if way[axis].abs() < 1e-12 {
                if near > 0.0 || near + wide < 0.0 {
                    return false;
                }
                continue;
            }
            let (a, b) = (near / way[axis], (near + wide) / way[axis]);
            (first, last) = (first.max(a.min(b)), last.min(a.max(b)));
        }
        if first >= last {
            return false;
        }
        let step = self.block / far;
        let mut share = first;
        while share < last {
            match self.at(add(from, times(way, share))).map(|at| self.free[at]) {
                Some(0) => return true,
                // Nothing is nearer than the blocks between; a diagonal one is longer than a side.
                Some(free) => share += step * (f64::from(free) - 1.0).max(0.7),
                None => share += 0.7 * step,
            }
        }
        false
    }
}

#[cfg(test)]
mod tests {
    use super::Blocks;
    use crate::mesh::{Mesh, Stuff};

    #[test]
    fn a_slab_is_in_the_way_of_what_is_behind_it_and_of_nothing_else() {
        let mut mesh = Mesh::default();
        mesh.slab([0.0; 3], [2.0, 2.0, 0.1], 0.01, Stuff::Paint);
        let blocks = Blocks::of(&mesh);
        assert!(blocks.between([0.0, 0.0, 1.0], [0.1, 0.2, -1.0]));
        assert!(!blocks.between([0.0, 0.0, 1.0], [0.5, 0.2, 0.3]), "on its own side");
        assert!(!blocks.between([3.0, 0.0, 1.0], [3.0, 0.0, -1.0]), "beside it");
        assert!(!blocks.between([0.0, 0.0, 0.05], [0.0, 0.0, 2.0]), "a lamp on it");
        let mut window = Mesh::default();
        window.slab([0.0; 3], [2.0, 2.0, 0.1], 0.01, Stuff::Glass);
        assert!(!Blocks::of(&window).between([0.0, 0.0, 1.0], [0.0, 0.0, -1.0]), "a window");
    }
}
