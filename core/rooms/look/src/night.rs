//! The night: what falls on a body, the ground and a wall behind it, and what an eye has of it.
//!
//! A [`Sight`] is all that depends only on where things are: what each pixel shows, and how much each spot that shines gives to
//! each sample. Light of any colour and strength is then one sum over it, which is what makes a show play.
//!
//! A picture is put together as `A · E_body + C · E_around + S · E_sky + glare` and the points that shine, all over π where light
//! is thrown back. The body throws shadows, as coarse as its [`Blocks`].

use crate::body::Body;
use crate::eye::{Eye, Sky, Viewpoint};
use crate::falls::{Spot, leds, luminance, shines, spots};
use crate::mesh::{Vec3, add, dot, length, sub, times};
use crate::octets::{halves, text};
use crate::shade::Blocks;
use crate::view::{Camera, hits, nearest};
use orthavis_model::data;
use orthavis_model::document::{Build, Light, Load};
use orthavis_model::laws::effect::Inputs;
use orthavis_model::states::Lit;
use orthavis_model::vehicle::Seen;
use orthavis_physics::points::PointReport;
use orthavis_physics::show::Show;

/// Pixels of a picture to a sample of light, and to a sample of glare, across and down.
const CELL: usize = 4;
const GLARE_CELL: usize = 8;
/// Rays to a pixel, across and down.
const RAYS: usize = 2;
/// How much of the sky's light a surface has that faces down, of what one has that faces up.
const UNDERSIDE: f64 = 0.22;
/// Radius of what shines by what it is, m; and the least that is drawn, pixels.
const LED_M: f64 = 0.003;
const LAMP_M: f64 = 0.015;
const LEAST_PIXELS: f64 = 0.9;
/// Veiling luminance in an eye: `L = 10 E / θ²` (CIE 146), no nearer to the light than this, deg. An eye takes most of it for its
/// own and does not see it; what is left is representative.
const GLARE: f64 = 0.35 * 10.0;
const GLARE_FROM_DEG: f64 = 0.7;
/// Glare is that of someone who stands so far away at least, m: a small model is not held before the eye.
const STANDS_M: f64 = 3.0;
/// An eye turns down what it has until so much of the picture is not above white: points that shine are not counted.
const BELOW_WHITE: f64 = 0.96;
/// A lamp lies on a surface as drawn, not to the millimetre: so much of a body it may lie behind it.
const SUNK: f64 = 0.05;

data! {
    /// What stands in a picture of the night, whatever shines: three planes of octets in base 64, row by row from the top. A value
    /// v stands for (v / 255)².
    pub struct Scenery {
        /// Pixels across.
        pub wide: usize,
        /// Pixels down.
        pub high: usize,
        /// Samples of falling light across.
        pub light_wide: usize,
        /// Samples of falling light down.
        pub light_high: usize,
        /// Samples of glare across.
        pub glare_wide: usize,
        /// Samples of glare down.
        pub glare_high: usize,
        /// Share of falling light that the body throws back.
        pub body: String,
        /// Share that ground and wall throw back.
        pub around: String,
        /// Share of the sky's light that comes back from either.
        pub sky: String,
    }

    /// The light of a moment in the same picture, in base 64: of each colour red, green and blue in linear sRGB, halves of floats
    /// (IEEE 754 binary16) with the low octet first.
    pub struct Falling {
        /// Illuminance of the body, lx.
        pub body: String,
        /// Illuminance of ground and wall, lx.
        pub around: String,
        /// What an eye has over all of it from looking into light, cd/m².
        pub glare: String,
        /// What shines towards the eye: for each twelve octets, x and y in 1/32 and the radius in 1/64 of a pixel, 16 bits each with
        /// the low octet first, and its luminance, cd/m², as a colour.
        pub points: String,
        /// What falls from the sky: red, green, blue, lx.
        pub sky_lx: [f64; 3],
        /// What a white surface is lit by that is seen as white, lx: as an eye has it that is used to the surroundings, or to more
        /// where the lights are brighter.
        pub white_lx: f64,
        /// The brightest that light of the build gives on ground or wall in the picture, lx.
        pub brightest_lx: f64,
    }
}

/// How lights are lit at a moment: by light in document order.
#[derive(Clone, Debug)]
pub struct Glow {
    /// What is asked of each.
    pub lit: Vec<Lit>,
    /// How much of that it gives, 0 to 1.
    pub output: Vec<f64>,
}

impl Glow {
    /// A scene at a solved point and a moment of its show; with `asked` as if every light got all that is asked for it.
    pub fn of(build: &Build, point: &PointReport, t_s: f64, asked: bool) -> Glow {
        let scene = build.scenes.iter().find(|scene| scene.id == point.scene);
        let show = scene.map(|scene| Show::of(build, scene)).filter(Show::needs_frames);
        let lit = show.map_or_else(|| point.lit.to_vec(), |show| show.lit(&show.frame(t_s, &Inputs::default())));
        let gives = |light: &Light| if asked { 1.0 } else { point.lights.get(&light.id).map_or(0.0, |report| report.output) };
        Glow { lit, output: build.lights.iter().map(gives).collect() }
    }
}

/// A point of a picture that shines.
struct Point {
    spot: Spot,
    at: [f64; 2],
    radius: f64,
    /// Luminance over its disc for an intensity of 1 cd on its axis, cd/m².
    per_cd: f64,
}

/// All of a picture that is the same whatever shines.
pub struct Sight {
    eye: Eye,
    scenery: [Vec<u8>; 3],
    light_size: [usize; 2],
    glare_size: [usize; 2],
    /// Which sample is seen at each cell of the body; `usize::MAX`: none near.
    body_of: Vec<usize>,
    /// Samples in all: the cells around first, then the body's, then glare.
    samples: usize,
    spots: Vec<Spot>,
    /// By spot: lx at each sample for 1 cd on its axis.
    factors: Vec<Vec<f32>>,
    points: Vec<Point>,
}

/// A piece of a surface.
#[derive(Clone, Copy)]
struct Sample {
    at: Vec3,
    faces: Vec3,
}

impl Sight {
    /// What a build is seen as from a viewpoint, in a picture of so many pixels.
    pub fn of(build: &Build, body: &Body, blocks: &Blocks, from: Viewpoint, size: [usize; 2]) -> Sight {
        let eye = Eye::of(body, from, size);
        let seen = Surfaces::of(body, &eye);
        let light_size = size.map(|pixels| pixels.div_ceil(CELL));
        let glare_size = size.map(|pixels| pixels.div_ceil(GLARE_CELL));
        let around = cells(light_size).map(|[x, y]| eye.around(eye.ray(middle(x), middle(y))).map(|(at, faces, _)| Sample { at, faces }));
        let around: Vec<Option<Sample>> = around.collect();
        let (body_samples, body_of) = seen.samples(light_size);
        let spots = spots(build, body);
        let reach = reach(body);
        let factors = spots
            .iter()
            .map(|spot| {
                let on = |sample: &Sample| {
                    let lx = spot_lx(spot, sample) as f32;
                    if lx > 0.0 && blocks.between(spot.at, sample.at) { 0.0 } else { lx }
                };
                let mut all: Vec<f32> = around.iter().map(|sample| sample.as_ref().map_or(0.0, on)).collect();
                all.extend(body_samples.iter().map(on));
                let towards = seen.to_eye(spot, reach);
                let away = length(sub(spot.at, eye.at));
                let towards = towards * (away / away.max(STANDS_M)).powi(2);
                let glare = |[x, y]: [usize; 2]| glare_of(&eye, spot.at, towards, [glare_middle(x), glare_middle(y)]) as f32;
                all.extend(cells(glare_size).map(glare));
                all
            })
            .collect();
        let lights = build.lights.iter().enumerate().flat_map(|(index, light)| leds(light, index, body));
        let points = lights.filter_map(|spot| seen.point(build, spot, reach)).collect();
        let samples = around.len() + body_samples.len() + glare_size[0] * glare_size[1];
        Sight { scenery: seen.scenery(body), eye, light_size, glare_size, body_of, samples, spots, factors, points }
    }

    /// Whether it is of the same picture: then only what shines may have changed.
    pub fn still_shows(&self, build: &Build, body: &Body, size: [usize; 2]) -> bool {
        self.eye.size == size && self.spots == spots(build, body)
    }

    /// Its planes.
    pub fn scenery(&self) -> Scenery {
        let [body, around, sky] = &self.scenery;
        Scenery {
            wide: self.eye.size[0],
            high: self.eye.size[1],
            light_wide: self.light_size[0],
            light_high: self.light_size[1],
            glare_wide: self.glare_size[0],
            glare_high: self.glare_size[1],
            body: text(body),
            around: text(around),
            sky: text(sky),
        }
    }

    /// What falls at every sample: red, green, blue, lx; around, then body, then glare in cd/m².
    fn fallen(&self, build: &Build, glow: &Glow) -> [Vec<f32>; 3] {
        let mut sums = [0; 3].map(|_| vec![0.0_f32; self.samples]);
        for (spot, factors) in self.spots.iter().zip(&self.factors) {
            let cd = shines(build, spot, &glow.lit[spot.light], glow.output[spot.light]);
            for (sum, cd) in sums.iter_mut().zip(cd.map(|cd| cd as f32)) {
                if cd > 0.0 {
                    sum.iter_mut().zip(factors).for_each(|(sum, factor)| *sum += cd * factor);
                }
            }
        }
        sums
    }

    /// What most of the picture is not brighter than, as what a white surface would be lit by, lx.
    fn white_lx(&self, [red, green, blue]: [&[f32]; 3]) -> f64 {
        let [wide, high] = self.light_size;
        let around = wide * high;
        let glare = red.len() - self.glare_size[0] * self.glare_size[1];
        let bright = |at: usize| luminance([red[at], green[at], blue[at]].map(f64::from));
        // Every second cell across and down is enough to tell.
        let mut seen: Vec<f64> = cells(self.light_size)
            .filter(|[x, y]| x % 2 == 0 && y % 2 == 0)
            .map(|[x, y]| {
                let cell = y * wide + x;
                let [px, py] = [0, 1].map(|axis| ([x, y][axis] * CELL + CELL / 2).min(self.eye.size[axis] - 1));
                let pixel = py * self.eye.size[0] + px;
                let share = |plane: usize| (f64::from(self.scenery[plane][pixel]) / 255.0).powi(2);
                let of_body = if self.body_of[cell] == usize::MAX { 0.0 } else { bright(around + self.body_of[cell]) };
                let veil = glare + (py / GLARE_CELL) * self.glare_size[0] + px / GLARE_CELL;
                share(0) * of_body + share(1) * bright(cell) + std::f64::consts::PI * bright(veil)
            })
            .collect();
        let at = (BELOW_WHITE * (seen.len() - 1) as f64) as usize;
        *seen.select_nth_unstable_by(at, f64::total_cmp).1
    }

    /// The light of a moment under a sky.
    pub fn falling(&self, build: &Build, glow: &Glow, sky: Sky) -> Falling {
        let [red, green, blue] = self.fallen(build, glow);
        let colour = |at: usize| [red[at], green[at], blue[at]];
        let around = self.light_size[0] * self.light_size[1];
        let glare = red.len() - self.glare_size[0] * self.glare_size[1];
        let brightest = (0..around).map(|at| luminance(colour(at).map(f64::from))).fold(0.0, f64::max);
        let of_body = |sample: &usize| if *sample == usize::MAX { [0.0; 3] } else { colour(around + sample) };
        let body: Vec<[f32; 3]> = self.body_of.iter().map(of_body).collect();
        let ground: Vec<[f32; 3]> = (0..around).map(colour).collect();
        Falling {
            body: coded(blended(&body, self.light_size, |at| self.body_of[at] != usize::MAX).into_iter()),
            around: coded(blended(&ground, self.light_size, |_| true).into_iter()),
            glare: coded((glare..red.len()).map(colour)),
            points: text(&self.points.iter().flat_map(|point| point.octets(build, glow)).collect::<Vec<u8>>()),
            sky_lx: sky.ambient_lx(),
            white_lx: sky.white_lx().max(self.white_lx([&red, &green, &blue])),
            brightest_lx: brightest,
        }
    }
}

/// Each cell blended with those beside it, 1 to 2 to 1 both ways: shadows are coarse, and no edge of a block is to be seen.
fn blended(cells: &[[f32; 3]], [wide, high]: [usize; 2], counts: impl Fn(usize) -> bool) -> Vec<[f32; 3]> {
    let along = |from: &[[f32; 3]], step: usize, at: usize, own: usize, count: usize| {
        let mut sum = [0.0; 3];
        let mut all = 0.0;
        let mut take = |at: usize, weight: f32| {
            if counts(at) {
                (0..3).for_each(|channel| sum[channel] += weight * from[at][channel]);
                all += weight;
            }
        };
        take(at, 2.0);
        if own > 0 {
            take(at - step, 1.0);
        }
        if own + 1 < count {
            take(at + step, 1.0);
        }
        if all > 0.0 { sum.map(|channel| channel / all) } else { [0.0; 3] }
    };
    let rows: Vec<[f32; 3]> = (0..cells.len()).map(|at| along(cells, 1, at, at % wide, wide)).collect();
    (0..cells.len()).map(|at| along(&rows, wide, at, at / wide, high)).collect()
}

fn coded(colours: impl ExactSizeIterator<Item = [f32; 3]>) -> String {
    let mut octets = Vec::with_capacity(6 * colours.len());
    colours.for_each(|colour| octets.extend_from_slice(&halves(colour)));
    text(&octets)
}

impl Point {
    fn octets(&self, build: &Build, glow: &Glow) -> Vec<u8> {
        let cd = shines(build, &self.spot, &glow.lit[self.spot.light], glow.output[self.spot.light]);
        if luminance(cd) <= 0.0 {
            return Vec::new();
        }
        let low_first = |value: f64, parts: f64| ((value * parts).round().clamp(0.0, f64::from(u16::MAX)) as u16).to_le_bytes();
        let colour = halves(cd.map(|cd| (cd * self.per_cd) as f32));
        [&low_first(self.at[0], 32.0)[..], &low_first(self.at[1], 32.0), &low_first(self.radius, 64.0), &colour].concat()
    }
}

fn cells([wide, high]: [usize; 2]) -> impl Iterator<Item = [usize; 2]> {
    (0..wide * high).map(move |at| [at % wide, at / wide])
}

fn middle(cell: usize) -> f64 {
    CELL as f64 * (cell as f64 + 0.5)
}

fn glare_middle(cell: usize) -> f64 {
    GLARE_CELL as f64 * (cell as f64 + 0.5)
}

fn reach(body: &Body) -> f64 {
    let [least, most] = body.mesh.bounds();
    0.5 * length(sub(most, least))
}

/// Illuminance of a sample by a spot of 1 cd on its axis, lx.
fn spot_lx(spot: &Spot, sample: &Sample) -> f64 {
    let ray = sub(sample.at, spot.at);
    // No nearer than the lamp is large.
    let square = dot(ray, ray).max(LAMP_M * LAMP_M);
    let far = square.sqrt();
    let facing = -dot(ray, sample.faces);
    if facing <= 0.0 {
        return 0.0;
    }
    share(spot, dot(ray, spot.aim) / far) * facing / (far * square)
}

/// Share of the intensity on the axis; most beams are as wide as bare LEDs, whose exponent is 1.
fn share(spot: &Spot, cos: f64) -> f64 {
    match spot.beam.m {
        Some(m) if (m - 1.0).abs() < 1e-9 => cos.max(0.0),
        _ => spot.beam.share(cos),
    }
}

fn glare_of(eye: &Eye, at: Vec3, towards_lx: f64, [x, y]: [f64; 2]) -> f64 {
    if towards_lx <= 0.0 {
        return 0.0;
    }
    let way = sub(at, eye.at);
    let cos = dot(eye.ray(x, y), way) / length(way);
    let square_deg = 2.0 * (1.0 - cos).max(0.0) * 180.0_f64.powi(2) / std::f64::consts::PI.powi(2);
    GLARE * towards_lx / (square_deg + GLARE_FROM_DEG.powi(2))
}

/// What is seen through each of the rays of a picture.
struct Surfaces<'a> {
    body: &'a Body,
    eye: &'a Eye,
    fine: Eye,
    hits: Vec<Option<crate::view::Hit>>,
}

impl<'a> Surfaces<'a> {
    fn of(body: &'a Body, eye: &'a Eye) -> Self {
        let fine = Eye { focal: eye.focal * RAYS as f64, size: eye.size.map(|pixels| pixels * RAYS), ..*eye };
        // In a perspective the inverse of the distance goes straight.
        let hits = nearest(&body.mesh, fine.size, |point| fine.spot(point).map(|[x, y, ahead]| [x, y, 1.0 / ahead]));
        Surfaces { body, eye, fine, hits }
    }

    /// The piece of the body at a ray.
    fn sample(&self, x: usize, y: usize) -> Option<Sample> {
        let hit = self.hits[y * self.fine.size[0] + x]?;
        let ray = self.fine.ray(x as f64 + 0.5, y as f64 + 0.5);
        let normal = self.body.mesh.triangles[hit.triangle as usize].normal();
        // What is seen of a surface is its outside.
        let faces = if dot(normal, ray) > 0.0 { times(normal, -1.0) } else { normal };
        Some(Sample { at: add(self.eye.at, times(ray, 1.0 / (hit.depth * dot(ray, self.eye.ahead)))), faces })
    }

    /// Samples of the body, and which of them each cell of the light's picture has. Cells beside the body have their
    /// neighbour's, so that its edge is not dark.
    fn samples(&self, size: [usize; 2]) -> (Vec<Sample>, Vec<usize>) {
        const NONE: usize = usize::MAX;
        let per = CELL * RAYS;
        let mut samples = Vec::new();
        let mut of: Vec<usize> = cells(size)
            .map(|[x, y]| {
                // From the middle of the cell outwards.
                let rays = |at: usize, most: usize| (0..per).map(move |step| (at * per + (per / 2 + step) % per).min(most - 1));
                let found = rays(y, self.fine.size[1]).find_map(|y| rays(x, self.fine.size[0]).find_map(|x| self.sample(x, y)));
                found.map_or(NONE, |sample| {
                    samples.push(sample);
                    samples.len() - 1
                })
            })
            .collect();
        for _ in 0..2 {
            let before = of.clone();
            for [x, y] in cells(size).filter(|[x, y]| before[y * size[0] + x] == NONE) {
                let beside = [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)];
                let near = beside.into_iter().filter(|(x, y)| *x < size[0] && *y < size[1]).map(|(x, y)| before[y * size[0] + x]);
                if let Some(known) = near.into_iter().find(|known| *known != NONE) {
                    of[y * size[0] + x] = known;
                }
            }
        }
        (samples, of)
    }

    /// Body, around and sky: the shares that each pixel throws back, as octets.
    fn scenery(&self, body: &Body) -> [Vec<u8>; 3] {
        let shade = Shade::of(body, self.eye.ground);
        let [wide, high] = self.eye.size;
        let mut planes = [0; 3].map(|_| Vec::with_capacity(wide * high));
        for [x, y] in cells([wide, high]) {
            let mut sums = [0.0; 3];
            let mut free = 0.0;
            for ray in 0..RAYS * RAYS {
                let (fx, fy) = (x * RAYS + ray % RAYS, y * RAYS + ray / RAYS);
                let Some(hit) = self.hits[fy * self.fine.size[0] + fx] else {
                    free += 1.0;
                    continue;
                };
                let triangle = &body.mesh.triangles[hit.triangle as usize];
                let normal = triangle.normal();
                let seen = if dot(normal, self.eye.ahead) > 0.0 { -normal[2] } else { normal[2] };
                sums[0] += triangle.stuff.albedo();
                sums[2] += triangle.stuff.albedo() * (UNDERSIDE + (1.0 - UNDERSIDE) * 0.5 * (1.0 + seen));
            }
            if free > 0.0 {
                let (mut back, mut sky) = (0.0, SKY);
                if let Some((at, faces, albedo)) = self.eye.around(self.eye.ray(x as f64 + 0.5, y as f64 + 0.5)) {
                    back = albedo;
                    sky = albedo * if faces[2] > 0.5 { shade.open(at) } else { 0.6 };
                }
                sums[1] += free * back;
                sums[2] += free * sky;
            }
            for (plane, sum) in planes.iter_mut().zip(sums) {
                plane.push((255.0 * (sum / (RAYS * RAYS) as f64).sqrt() + 0.5) as u8);
            }
        }
        planes
    }

    /// What reaches the eye of a spot of 1 cd on its axis, lx; nothing where the body hides it.
    fn to_eye(&self, spot: &Spot, reach: f64) -> f64 {
        let Some([x, y, ahead]) = self.fine.spot(spot.at) else { return 0.0 };
        let inside = x >= 0.0 && y >= 0.0 && x < self.fine.size[0] as f64 && y < self.fine.size[1] as f64;
        let hit = if inside { self.hits[y as usize * self.fine.size[0] + x as usize] } else { None };
        if hit.is_some_and(|hit| 1.0 / hit.depth < ahead - SUNK * reach) {
            return 0.0;
        }
        let way = sub(self.eye.at, spot.at);
        let square = dot(way, way);
        share(spot, dot(way, spot.aim) / square.sqrt()) / square
    }

    fn point(&self, build: &Build, spot: Spot, reach: f64) -> Option<Point> {
        let towards = self.to_eye(&spot, reach);
        let [x, y, ahead] = self.eye.spot(spot.at)?;
        let inside = x >= 0.0 && y >= 0.0 && x < self.eye.size[0] as f64 && y < self.eye.size[1] as f64;
        if towards <= 0.0 || !inside {
            return None;
        }
        let large = if matches!(build.lights[spot.light].load, Load::Module(_)) { LAMP_M } else { LED_M };
        let radius = (large * self.eye.focal / ahead).max(LEAST_PIXELS);
        // A disc of so many pixels is so large a part of what surrounds the eye.
        let solid = std::f64::consts::PI * radius * radius / (self.eye.focal * self.eye.focal);
        Some(Point { spot, at: [x, y], radius, per_cd: towards / solid })
    }
}

/// Share of white that a sky over the horizon shows, of what it gives to the ground.
const SKY: f64 = 0.09;

/// How much of the sky the ground has under and beside a body.
struct Shade {
    camera: Camera,
    covered: Vec<f64>,
}

impl Shade {
    /// Spots across and down; and how far a shade is soft, in them.
    const SIZE: usize = 96;
    const SOFT: usize = 4;

    fn of(body: &Body, ground: f64) -> Shade {
        let size = [Self::SIZE; 2];
        let camera = Camera::fitted(&body.mesh, Seen::Above, size, 4.0 * Self::SOFT as f64);
        let hits = hits(&body.mesh, &camera);
        // What is higher over the ground leaves more of the sky to it.
        let height = (body.mesh.bounds()[0][2] - ground).max(0.0);
        let dark = 0.85 / (1.0 + 2.0 * height / reach(body));
        let mut covered: Vec<f64> = hits.iter().map(|hit| if hit.is_some() { dark } else { 0.0 }).collect();
        for _ in 0..2 {
            covered = softer(&covered, size, Self::SOFT);
        }
        Shade { camera, covered }
    }

    /// Share of the sky at a point of the ground.
    fn open(&self, at: Vec3) -> f64 {
        let [x, y, _] = self.camera.spot(at);
        let most = (Self::SIZE - 1) as f64;
        if x < 0.0 || y < 0.0 || x >= most || y >= most {
            return 1.0;
        }
        let (left, top) = (x as usize, y as usize);
        let (across, down) = (x.fract(), y.fract());
        let of = |x: usize, y: usize| self.covered[y * Self::SIZE + x];
        let upper = of(left, top) + across * (of(left + 1, top) - of(left, top));
        let lower = of(left, top + 1) + across * (of(left + 1, top + 1) - of(left, top + 1));
        1.0 - (upper + down * (lower - upper))
    }
}

/// Each spot as the mean of those so near.
fn softer(values: &[f64], [wide, high]: [usize; 2], near: usize) -> Vec<f64> {
    let mean = |values: &[f64], along: usize, count: usize, at: usize, own: usize| {
        let (from, to) = (own.saturating_sub(near), (own + near).min(count - 1));
        (from..=to).map(|other| values[at + other * along - own * along]).sum::<f64>() / (2 * near + 1) as f64
    };
    let rows: Vec<f64> = (0..wide * high).map(|at| mean(values, 1, wide, at, at % wide)).collect();
    (0..wide * high).map(|at| mean(&rows, wide, high, at, at / wide)).collect()
}
