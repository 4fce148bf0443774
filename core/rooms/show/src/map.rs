//! Where each number is: light, piece, place, and the spot in the vehicle's outline.

use orthavis_model::data;
use orthavis_model::document::{Build, Load};
use orthavis_model::table::{Cell, Table};
use orthavis_model::vehicle::DrawnPlace;
use orthavis_physics::show::{Chain, chains};

data! {
    /// One light's run of numbers.
    pub struct PieceMap {
        /// The light.
        pub light: String,
        /// Where it is.
        pub place: String,
        /// Its first number.
        pub first: usize,
        /// Its last number.
        pub last: usize,
        /// Data enters at the far end of its place's path.
        pub against: bool,
        /// It shares its numbers with others.
        pub copy: bool,
        /// Data wire to it, m.
        pub wire_m: f64,
    }

    /// One data output.
    pub struct ChainMap {
        /// Controller and pin; of a light on no chain its id.
        pub output: String,
        /// The controller; nothing for a light on no chain.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub controller: Option<String>,
        /// Numbers in all.
        pub count: usize,
        /// In the order in which data passes them; copies one after the other.
        pub pieces: Vec<PieceMap>,
    }
}

/// The chains of a build with their numbers.
pub fn chain_maps(build: &Build) -> Vec<ChainMap> {
    let map = |chain: Chain| ChainMap {
        controller: chain.controller.map(|index| build.controllers[index].id.clone()),
        output: chain.name,
        count: chain.count,
        pieces: chain
            .pieces
            .iter()
            .flat_map(|piece| {
                piece.lights.iter().map(|light| PieceMap {
                    light: build.lights[*light].id.clone(),
                    place: build.lights[*light].place.clone(),
                    first: piece.first,
                    last: (piece.first + piece.count).saturating_sub(1),
                    against: piece.against,
                    copy: piece.lights.len() > 1,
                    wire_m: piece.wire_m,
                })
            })
            .collect(),
    };
    chains(build).into_iter().map(map).collect()
}

/// Where a place is drawn, if it is.
fn drawn(build: &Build, place: &str) -> Option<&'static DrawnPlace> {
    build.form()?.views.iter().flat_map(|view| &view.places).find(|known| known.name == place)
}

/// Every number of every output: light, piece, place and, where the place is drawn, the spot on a canvas of 560 by 300.
pub fn map(build: &Build) -> Table {
    let mut table = Table::new(
        "map",
        "Numbers",
        &[
            ("output", "Output", ""),
            ("number", "Number", ""),
            ("light", "Light", ""),
            ("piece", "Piece", ""),
            ("place", "Place", ""),
            ("x", "x", ""),
            ("y", "y", ""),
        ],
    );
    for chain in chains(build) {
        for (at, piece) in chain.pieces.iter().enumerate() {
            for light in &piece.lights {
                let own = &build.lights[*light];
                let count = if let Load::Pixels(pixels) = &own.load { pixels.count as usize } else { 0 };
                let along = drawn(build, &own.place);
                let spots = along.and_then(|place| place.along.as_deref()).map(|path| spread(path, count));
                for number in 0..count {
                    let pixel = if piece.against { count - 1 - number } else { number };
                    // A place without a way is one spot.
                    let spot = spots.as_ref().map_or_else(|| along.map(|place| [place.x, place.y]), |spots| spots.get(pixel).copied());
                    let told = |value: Option<f64>| Cell::from(value.map(|value| (10.0 * value).round() / 10.0));
                    table.rows.push(vec![
                        chain.name.as_str().into(),
                        ((piece.first + number) as f64).into(),
                        own.id.as_str().into(),
                        ((at + 1) as f64).into(),
                        own.place.as_str().into(),
                        told(spot.map(|spot| spot[0])),
                        told(spot.map(|spot| spot[1])),
                    ]);
                }
            }
        }
    }
    table
}

/// Stretches that a curve is cut into.
const STRETCHES: usize = 32;

/// So many spots spread evenly along the lines of a path, each in the middle of its share. Knows M, L, H, V and Q, absolute.
pub fn spread(path: &str, count: usize) -> Vec<[f64; 2]> {
    let mut lines: Vec<([f64; 2], [f64; 2])> = Vec::new();
    let (mut here, mut numbers) = ([0.0, 0.0], Vec::new());
    let mut command = ' ';
    let end = |command: char, numbers: &mut Vec<f64>, here: &mut [f64; 2], lines: &mut Vec<([f64; 2], [f64; 2])>| {
        let size = match command {
            'M' | 'L' => 2,
            'H' | 'V' => 1,
            'Q' => 4,
            _ => return,
        };
        for step in numbers.chunks_exact(size) {
            let to = match command {
                'H' => [step[0], here[1]],
                'V' => [here[0], step[0]],
                'Q' => [step[2], step[3]],
                _ => [step[0], step[1]],
            };
            match command {
                'M' => {}
                'Q' => {
                    let at = |t: f64| std::array::from_fn(|axis: usize| (1.0 - t).powi(2) * here[axis] + 2.0 * t * (1.0 - t) * step[axis] + t * t * to[axis]);
                    let mut last = *here;
                    for part in 1..=STRETCHES {
                        let next: [f64; 2] = at(part as f64 / STRETCHES as f64);
                        lines.push((last, next));
                        last = next;
                    }
                }
                _ => lines.push((*here, to)),
            }
            *here = to;
        }
        numbers.clear();
    };
    for token in tokens(path) {
        match token.parse::<f64>() {
            Ok(number) => numbers.push(number),
            Err(_) => {
                end(command, &mut numbers, &mut here, &mut lines);
                command = token.chars().next().unwrap_or(' ');
            }
        }
    }
    end(command, &mut numbers, &mut here, &mut lines);
    let length = |line: &([f64; 2], [f64; 2])| (line.1[0] - line.0[0]).hypot(line.1[1] - line.0[1]);
    let whole: f64 = lines.iter().map(length).sum();
    (0..count)
        .filter_map(|number| {
            let mut left = whole * (number as f64 + 0.5) / count as f64;
            let last = lines.len().checked_sub(1)?;
            for (at, line) in lines.iter().enumerate() {
                let own = length(line);
                if left <= own || at == last {
                    let share = if own > 0.0 { (left / own).min(1.0) } else { 0.0 };
                    return Some(std::array::from_fn(|axis| line.0[axis] + share * (line.1[axis] - line.0[axis])));
                }
                left -= own;
            }
            None
        })
        .collect()
}

/// Letters and numbers of a path.
fn tokens(path: &str) -> Vec<String> {
    let mut found: Vec<String> = Vec::new();
    let mut number = String::new();
    for letter in path.chars() {
        let continues = letter.is_ascii_digit() || letter == '.' || (letter == '-' && number.is_empty());
        if !continues && !number.is_empty() {
            found.push(std::mem::take(&mut number));
        }
        if continues || letter == '-' {
            number.push(letter);
        } else if letter.is_ascii_alphabetic() {
            found.push(letter.to_string());
        }
    }
    if !number.is_empty() {
        found.push(number);
    }
    found
}
