//! A vehicle drawn: filled in tones of one light, from beside, behind and above.

use crate::body::{Body, body};
use crate::mesh::Vec3;
use crate::trace::path;
use crate::view::{Camera, hits, shades, with_edges};
use orthavis_model::document::VehicleKind;
use orthavis_model::vehicle::{DrawnPlace, Seen, Spot, VehicleView};

/// Units of a drawing, across and down.
const CANVAS: [usize; 2] = [560, 300];
/// Spots for a unit while it is traced.
const FINE: usize = 4;
/// Room around a vehicle, units.
const MARGIN: f64 = 26.0;
/// Shades from which on each tone is laid over the one before.
const TONES: [f32; 5] = [0.0, 0.17, 0.33, 0.52, 0.74];
/// How far an outline may be off, units; and areas left out below, square units.
const OFF: f64 = 0.3;
const LEAST: f64 = 2.0;

/// All drawings of a form of vehicle; none where there is no such form.
pub fn drawings(kind: VehicleKind, form: &str) -> Vec<VehicleView> {
    let Some(body) = body(kind, form) else { return Vec::new() };
    // What flies shows its arms and wings from above.
    let order = if body.flies { [Seen::Above, Seen::Beside, Seen::Behind] } else { [Seen::Beside, Seen::Behind, Seen::Above] };
    order.into_iter().map(|seen| drawing(&body, seen)).collect()
}

fn drawing(body: &Body, seen: Seen) -> VehicleView {
    let size = CANVAS.map(|units| units * FINE);
    let camera = Camera::fitted(&body.mesh, seen, size, MARGIN * FINE as f64);
    let hits = hits(&body.mesh, &camera);
    let mut shade = shades(&body.mesh, &camera, &hits);
    with_edges(&body.mesh, &camera, &hits, &mut shade, FINE);
    let tones = TONES.iter().map(|least| path(size, FINE as f64, OFF, LEAST, |x, y| shade[y * size[0] + x] >= *least)).collect();
    let spot = |point: Vec3| {
        let [x, y, _] = camera.spot(point);
        [x, y].map(|value| (10.0 * value / FINE as f64).round() / 10.0)
    };
    let places = body.places.iter().map(|place| {
        let way: Vec<[f64; 2]> = place.along.iter().map(|point| spot(*point)).collect();
        let middle = middle_of(&way);
        let long = way.windows(2).map(|pair| (pair[1][0] - pair[0][0]).hypot(pair[1][1] - pair[0][1])).sum::<f64>();
        DrawnPlace { name: place.name.into(), x: middle[0], y: middle[1], along: (way.len() > 1 && long > 6.0).then(|| along(&way)) }
    });
    let [x, y] = spot(body.pack);
    let ends = body.mesh.bounds().map(|corner| spot(corner)[0]);
    VehicleView {
        seen,
        title: body.title(seen),
        tones,
        ground: (seen != Seen::Above && body.stands).then(|| spot([body.pack[0], body.pack[1], 0.0])[1]),
        reach: [ends[0].min(ends[1]), ends[0].max(ends[1])],
        per_m: (10.0 * camera.scale / FINE as f64).round() / 10.0,
        pack: Spot { x, y },
        places: places.collect(),
    }
}

fn along(way: &[[f64; 2]]) -> String {
    let points: Vec<String> = way.iter().map(|[x, y]| format!("{x} {y}")).collect();
    format!("M{}", points.join("L"))
}

/// Half way along.
fn middle_of(way: &[[f64; 2]]) -> [f64; 2] {
    let long = |pair: &[[f64; 2]]| (pair[1][0] - pair[0][0]).hypot(pair[1][1] - pair[0][1]);
    let mut left = 0.5 * way.windows(2).map(long).sum::<f64>();
    for pair in way.windows(2) {
        let step = long(pair);
        if left <= step && step > 0.0 {
            let share = left / step;
            return [0, 1].map(|axis| (10.0 * (pair[0][axis] + share * (pair[1][axis] - pair[0][axis]))).round() / 10.0);
        }
        left -= step;
    }
    way.first().copied().unwrap_or([0.0, 0.0])
}
