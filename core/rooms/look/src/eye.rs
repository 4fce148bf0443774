//! From where a build is looked at in the night: an eye with a perspective, and what stands around.

use crate::body::Body;
use crate::mesh::{Vec3, add, cross, dot, length, sub, times, unit};
use orthavis_model::document::Around;

orthavis_model::words! {
    /// From where a build is looked at.
    Viewpoint {
        /// From its right side.
        Beside = "beside",
        /// From behind it.
        Behind = "behind",
        /// From above.
        Above = "above",
        /// From a driver's seat 10 m behind.
        Driver10 = "driver10" called "a driver 10 m behind",
        /// From a driver's seat 50 m behind.
        Driver50 = "driver50" called "a driver 50 m behind",
        /// From a driver's seat 150 m behind.
        Driver150 = "driver150" called "a driver 150 m behind",
    }
}

orthavis_model::words! {
    /// What light there is beside that of the build.
    Sky {
        /// Half an hour after sunset.
        Dusk = "dusk",
        /// A lit street.
        Street = "street" called "lit street",
        /// A village with few lamps.
        Village = "village",
        /// Far from any lamp, with half a moon.
        Dark = "dark" called "dark country",
    }
}

impl Viewpoint {
    /// How far behind a driver sits, m; `None`: nobody drives there.
    pub const fn behind_m(self) -> Option<f64> {
        match self {
            Viewpoint::Driver10 => Some(10.0),
            Viewpoint::Driver50 => Some(50.0),
            Viewpoint::Driver150 => Some(150.0),
            Viewpoint::Beside | Viewpoint::Behind | Viewpoint::Above => None,
        }
    }
}

impl Sky {
    /// What is over a build by what surrounds it; by day its lights are looked at from dusk on.
    pub const fn of(around: Around) -> Sky {
        match around {
            Around::Dark => Sky::Dark,
            Around::Village => Sky::Village,
            Around::Street => Sky::Street,
            Around::Day => Sky::Dusk,
        }
    }

    /// What falls on the ground from everywhere: red, green, blue, lx. Representative: civil dusk, the street class P4 (EN 13201-2), half a moon.
    pub fn ambient_lx(self) -> [f64; 3] {
        let (lx, tint) = match self {
            Sky::Dusk => (15.0, [0.80, 0.98, 1.62]),
            Sky::Street => (5.0, [1.28, 0.96, 0.56]),
            Sky::Village => (0.3, [1.12, 0.98, 0.86]),
            Sky::Dark => (0.04, [0.82, 1.00, 1.50]),
        };
        let bright = crate::falls::luminance(tint);
        tint.map(|channel| lx * channel / bright)
    }

    /// What a white surface is lit by that the eye, used to these surroundings, sees as white, lx.
    pub fn white_lx(self) -> f64 {
        match self {
            Sky::Dusk => 60.0,
            Sky::Street => 25.0,
            Sky::Village => 5.0,
            Sky::Dark => 1.5,
        }
    }
}

/// How wide a picture of something near is, deg; and of a road, which is looked at through no glass.
const NEAR_DEG: f64 = 36.0;
const ROAD_DEG: f64 = 30.0;
/// A driver's eye over the ground, m.
const DRIVER_M: f64 = 1.2;
/// How much of the picture's width or height a body takes.
const FILLS: f64 = 0.62;

/// An eye, its picture, and what stands around a body.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Eye {
    /// Where it is, m.
    pub at: Vec3,
    /// To the right in the picture.
    pub right: Vec3,
    /// Up in the picture.
    pub up: Vec3,
    /// The way it looks.
    pub ahead: Vec3,
    /// Pixels to the unit of tangent.
    pub focal: f64,
    /// Pixels across and down.
    pub size: [usize; 2],
    /// Height of the ground, m.
    pub ground: f64,
    /// A wall behind the body, by a point of it and where it faces.
    pub wall: Option<(Vec3, Vec3)>,
}

impl Eye {
    /// The eye of a viewpoint, its picture so many pixels across and down.
    pub fn of(body: &Body, from: Viewpoint, size: [usize; 2]) -> Eye {
        let [least, most] = body.mesh.bounds();
        let middle = times(add(least, most), 0.5);
        let half = times(sub(most, least), 0.5);
        let reach = length(half);
        // What flies is shown as it hovers over the ground.
        let ground = if body.flies { least[2] - 0.8 * reach } else { least[2].min(0.0) };
        let wide = size[0] as f64;
        let near = |toward: Vec3, seen: [f64; 2]| {
            let focal = wide / 2.0 / (NEAR_DEG.to_radians() / 2.0).tan();
            let fit = (2.0 * seen[0] * focal / (FILLS * wide)).max(2.0 * seen[1] * focal / (FILLS * size[1] as f64));
            // The nearest side of the body is nearer than its middle.
            let deep = (0..3).map(|axis| (toward[axis] * half[axis]).abs()).sum::<f64>();
            (add(middle, times(toward, fit + 0.7 * deep)), focal)
        };
        let looks = |(at, focal): (Vec3, f64), aim: Vec3, over: Vec3, wall: Option<(Vec3, Vec3)>| {
            let ahead = unit(sub(aim, at));
            let right = unit(cross(ahead, over));
            Eye { at, right, up: cross(right, ahead), ahead, focal, size, ground, wall }
        };
        let up = [0.0, 0.0, 1.0];
        let road = |metres: f64| {
            let focal = wide / 2.0 / (ROAD_DEG.to_radians() / 2.0).tan();
            let at = [least[0] - metres, 0.0, ground + DRIVER_M];
            looks((at, focal), [least[0], 0.0, ground + DRIVER_M.min(2.0 * half[2])], up, None)
        };
        match from {
            Viewpoint::Beside => {
                let wall = [0.0, most[1] + 0.9 * reach, 0.0];
                looks(near(unit([-0.12, -1.0, 0.2]), [half[0], half[2]]), middle, up, Some((wall, [0.0, -1.0, 0.0])))
            }
            Viewpoint::Behind => {
                let wall = [most[0] + 1.2 * reach, 0.0, 0.0];
                looks(near(unit([-1.0, -0.16, 0.24]), [half[1].max(0.4 * reach), half[2]]), middle, up, Some((wall, [-1.0, 0.0, 0.0])))
            }
            Viewpoint::Above => looks(near(up, [half[0], half[1]]), middle, [0.0, 1.0, 0.0], None),
            Viewpoint::Driver10 | Viewpoint::Driver50 | Viewpoint::Driver150 => road(from.behind_m().unwrap_or(0.0)),
        }
    }

    /// The way through a pixel, of length 1; a point of the picture in pixels from its upper left corner.
    pub fn ray(&self, x: f64, y: f64) -> Vec3 {
        let [wide, high] = self.size.map(|spots| spots as f64);
        let across = times(self.right, (x - wide / 2.0) / self.focal);
        unit(add(self.ahead, add(across, times(self.up, (high / 2.0 - y) / self.focal))))
    }

    /// Where a point is in the picture, and how far ahead, m; `None`: it is behind the eye.
    pub fn spot(&self, point: Vec3) -> Option<[f64; 3]> {
        let from = sub(point, self.at);
        let ahead = dot(from, self.ahead);
        if ahead < 1e-3 {
            return None;
        }
        let [wide, high] = self.size.map(|spots| spots as f64);
        Some([wide / 2.0 + self.focal * dot(from, self.right) / ahead, high / 2.0 - self.focal * dot(from, self.up) / ahead, ahead])
    }

    /// What stands around where a ray from the eye meets it: its point, where it faces, and what share of light it throws back.
    pub fn around(&self, ray: Vec3) -> Option<(Vec3, Vec3, f64)> {
        let ground = (ray[2] < -1e-6).then(|| (self.ground - self.at[2]) / ray[2]);
        let wall = self.wall.and_then(|(point, faces)| {
            let towards = dot(ray, faces);
            (towards < -1e-6).then(|| (dot(sub(point, self.at), faces) / towards, faces))
        });
        match (ground, wall) {
            (Some(ground), Some((wall, faces))) if wall < ground => Some((add(self.at, times(ray, wall)), faces, WALL)),
            (Some(ground), _) => Some((add(self.at, times(ray, ground)), [0.0, 0.0, 1.0], GROUND)),
            (None, Some((wall, faces))) => Some((add(self.at, times(ray, wall)), faces, WALL)),
            (None, None) => None,
        }
    }
}

/// Shares of light that a road and a plastered wall throw back.
const GROUND: f64 = 0.16;
const WALL: f64 = 0.42;
