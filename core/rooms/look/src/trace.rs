//! Areas of a picture as outlines.

use std::collections::HashMap;
use std::fmt::Write;

/// Outlines of where `inside` holds, as closed ways along the edges of its spots, each turning around what is inside.
fn outlines(size: [usize; 2], inside: impl Fn(usize, usize) -> bool) -> Vec<Vec<[i32; 2]>> {
    let [width, height] = size;
    let at = |x: i32, y: i32| x >= 0 && y >= 0 && (x as usize) < width && (y as usize) < height && inside(x as usize, y as usize);
    // From each corner the edges that leave it, what is inside on their right.
    let mut leaving: HashMap<[i32; 2], Vec<[i32; 2]>> = HashMap::new();
    let mut starts = Vec::new();
    for y in 0..height as i32 {
        for x in 0..width as i32 {
            if !at(x, y) {
                continue;
            }
            let sides = [
                ([x, y], [x + 1, y], (x, y - 1)),
                ([x + 1, y], [x + 1, y + 1], (x + 1, y)),
                ([x + 1, y + 1], [x, y + 1], (x, y + 1)),
                ([x, y + 1], [x, y], (x - 1, y)),
            ];
            for (from, to, (nx, ny)) in sides {
                if !at(nx, ny) {
                    leaving.entry(from).or_default().push(to);
                    starts.push(from);
                }
            }
        }
    }
    let mut found = Vec::new();
    for start in starts {
        let Some(first) = leaving.get_mut(&start).and_then(Vec::pop) else { continue };
        let (mut way, mut before, mut here) = (vec![start], start, first);
        while here != start {
            way.push(here);
            let Some(choices) = leaving.get_mut(&here) else { break };
            // Where two outlines touch in a corner, each goes on around what it is around.
            let (dx, dy) = (here[0] - before[0], here[1] - before[1]);
            let right = choices.iter().position(|next| [next[0] - here[0], next[1] - here[1]] == [-dy, dx]);
            let next = choices.swap_remove(right.unwrap_or(choices.len() - 1).min(choices.len() - 1));
            if choices.is_empty() {
                leaving.remove(&here);
            }
            (before, here) = (here, next);
        }
        found.push(way);
    }
    found
}

/// The points of an open way that its shape needs: no other is farther from it than `most` (Douglas and Peucker).
fn simplified(way: &[[f64; 2]], most: f64) -> Vec<[f64; 2]> {
    let mut keep = vec![false; way.len()];
    let mut spans = vec![(0, way.len() - 1)];
    (keep[0], keep[way.len() - 1]) = (true, true);
    while let Some((from, to)) = spans.pop() {
        let (a, b) = (way[from], way[to]);
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let size = dx.hypot(dy);
        let off = |p: &[f64; 2]| if size > 0.0 { (dx * (p[1] - a[1]) - dy * (p[0] - a[0])).abs() / size } else { (p[0] - a[0]).hypot(p[1] - a[1]) };
        let farthest = (from + 1..to).map(|index| (off(&way[index]), index)).max_by(|a, b| a.0.total_cmp(&b.0));
        if let Some((distance, index)) = farthest
            && distance > most
        {
            keep[index] = true;
            spans.extend([(from, index), (index, to)]);
        }
    }
    way.iter().zip(keep).filter_map(|(point, keep)| keep.then_some(*point)).collect()
}

fn area(way: &[[f64; 2]]) -> f64 {
    let next = way.iter().cycle().skip(1);
    0.5 * way.iter().zip(next).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum::<f64>().abs()
}

/// The area where `inside` holds as one SVG path, `per` spots a unit, in tenths of a unit. What is smaller than `least`
/// square units is left out; nothing lies farther from the area than `most` units.
pub fn path(size: [usize; 2], per: f64, most: f64, least: f64, inside: impl Fn(usize, usize) -> bool) -> String {
    let mut text = String::new();
    for way in outlines(size, inside) {
        // The middles of its edges: a slant is a line, not a staircase.
        let next = way.iter().cycle().skip(1);
        let mut fine: Vec<[f64; 2]> = way.iter().zip(next).map(|(a, b)| [0, 1].map(|axis| 0.5 * f64::from(a[axis] + b[axis]) / per)).collect();
        if fine.len() < 4 || area(&fine) < least {
            continue;
        }
        // Begun at the corner farthest from its middle, which every shape of it has.
        let count = fine.len() as f64;
        let middle = fine.iter().fold([0.0, 0.0], |sum, point| [sum[0] + point[0] / count, sum[1] + point[1] / count]);
        let far = |point: &[f64; 2]| (point[0] - middle[0]).hypot(point[1] - middle[1]);
        let begin = (0..fine.len()).max_by(|a, b| far(&fine[*a]).total_cmp(&far(&fine[*b]))).unwrap_or(0);
        fine.rotate_left(begin);
        fine.push(fine[0]);
        let mut ends = simplified(&fine, most);
        ends.pop();
        if ends.len() < 3 {
            continue;
        }
        let tenths = |point: [f64; 2]| point.map(|value| (10.0 * value).round() as i64);
        let mut last = tenths(ends[0]);
        let _ = write!(text, "M{} {}", short(last[0]), short(last[1]));
        text.push('l');
        for (index, point) in ends[1..].iter().enumerate() {
            let here = tenths(*point);
            let (dx, dy) = (short(here[0] - last[0]), short(here[1] - last[1]));
            let gap = if index == 0 || dx.starts_with('-') { "" } else { " " };
            let _ = write!(text, "{gap}{dx}{}{dy}", if dy.starts_with('-') { "" } else { " " });
            last = here;
        }
        text.push('z');
    }
    text
}

/// Tenths as SVG writes them shortest.
fn short(tenths: i64) -> String {
    let (sign, whole, rest) = (if tenths < 0 { "-" } else { "" }, tenths.abs() / 10, tenths.abs() % 10);
    match (whole, rest) {
        (whole, 0) => format!("{}{whole}", if whole == 0 { "" } else { sign }),
        (0, rest) => format!("{sign}.{rest}"),
        (whole, rest) => format!("{sign}{whole}.{rest}"),
    }
}
