//! A small circuit on perforated board: where each part goes, which holes are joined on the underside, and the wires over
//! the top that cannot be avoided.
//!
//! Parts stand in a row of columns; which order, which way round and at which height is searched for by small changes from
//! many starts of one fixed sequence of random numbers, so that the same circuit always gives the same board. Conductors
//! are laid hole by hole on the underside by breadth-first search; what finds no way gets a jumper on the top.

mod lay;
mod loose;

use lay::{Laid, Order, ROWS, TAKEN, lay};
use loose::{Loose, parts_of};
use orthavis_model::chance::Dice;
use orthavis_model::data;
use orthavis_model::document::Build;

/// Distance of holes, m.
pub const PITCH_M: f64 = 2.54e-3;
/// Bare wire that goes down through a hole and is bent over, m.
const THROUGH_M: f64 = 4e-3;
/// A lead is cut this far under the board, m.
const STUB_M: f64 = 2e-3;
/// Starts, and changes tried from each.
const STARTS: usize = 6;
const CHANGES: usize = 90;

data! {
    /// A leg of a part in its hole.
    pub struct Leg {
        /// What it is called, as in `base`.
        pub called: String,
        /// The node that it belongs to; empty: it stays free.
        pub node: String,
        /// Column and row, from 0.
        pub hole: [usize; 2],
        /// The same as printed, as in `C7`.
        pub label: String,
    }

    /// A part on the board.
    pub struct BoardPart {
        /// Its name.
        pub name: String,
        /// What it is, with its value.
        pub called: String,
        /// `resistor`, `capacitor`, `diode`, `led`, `transistor`, `timer` or `terminal`.
        pub kind: &'static str,
        /// Its legs in their order.
        pub legs: Vec<Leg>,
    }

    /// Holes joined on the underside.
    #[cfg_attr(feature = "schema", schema(as = BoardTrack))]
    pub struct Track {
        /// The node.
        pub node: String,
        /// From hole to hole.
        pub holes: Vec<[usize; 2]>,
    }

    /// An insulated wire over the top.
    pub struct Jumper {
        /// The node.
        pub node: String,
        /// From.
        pub from: [usize; 2],
        /// To.
        pub to: [usize; 2],
    }

    /// A piece of wire to cut, or leads to bend and cut.
    pub struct LeadCut {
        /// What.
        pub what: String,
        /// Its length, m.
        pub length_m: f64,
        /// How many.
        pub count: usize,
    }

    /// A circuit laid out.
    pub struct Board {
        /// Columns, named A, B and so on.
        pub columns: usize,
        /// Rows, numbered from 1 at the top.
        pub rows: usize,
        /// Width and height, m.
        pub size_m: [f64; 2],
        /// Its parts.
        pub parts: Vec<BoardPart>,
        /// What is joined underneath.
        pub tracks: Vec<Track>,
        /// What goes over the top.
        pub jumpers: Vec<Jumper>,
        /// What to cut.
        pub cuts: Vec<LeadCut>,
    }
}

/// A hole as it is printed.
fn label(hole: [usize; 2]) -> String {
    let letter = |at: usize| char::from(b'A' + (at % 26) as u8);
    let column = if hole[0] < 26 { letter(hole[0]).to_string() } else { format!("{}{}", letter(hole[0] / 26 - 1), letter(hole[0])) };
    format!("{column}{}", hole[1] + 1)
}

/// The board of a circuit.
pub fn board(build: &Build, index: usize) -> Board {
    let circuit = &build.circuits[index];
    let parts = parts_of(circuit);
    let mut names: Vec<String> = Vec::new();
    let nodes: Vec<Vec<usize>> = parts
        .iter()
        .map(|part| {
            let number = |node: &String| {
                if node.is_empty() {
                    return TAKEN;
                }
                names.iter().position(|known| known == node).unwrap_or_else(|| {
                    names.push(node.clone());
                    names.len() - 1
                })
            };
            part.legs.iter().map(|(_, node, _)| node).map(number).collect()
        })
        .collect();
    let count = parts.len();
    let mut dice = Dice::new(0x0417_4A71);
    let mut best: Option<Laid> = None;
    for start in 0..STARTS {
        let mut order = Order { parts: (0..count).collect(), turned: vec![false; count], down: vec![ROWS / 2 - 3; count] };
        if start > 0 {
            for at in (1..count).rev() {
                order.parts.swap(at, dice.below(at + 1));
            }
        }
        let mut laid = lay(&parts, &nodes, &order);
        for _ in 0..CHANGES {
            let mut next = order.clone();
            match dice.below(4) {
                0 => {
                    let (a, b) = (dice.below(count), dice.below(count));
                    next.parts.swap(a, b);
                }
                1 => {
                    let part = next.parts.remove(dice.below(count));
                    next.parts.insert(dice.below(count), part);
                }
                2 => {
                    let part = dice.below(count);
                    next.turned[part] = !next.turned[part];
                }
                _ => {
                    let part = dice.below(count);
                    next.down[part] = dice.below(ROWS - 2);
                }
            }
            let tried = lay(&parts, &nodes, &next);
            if tried.cost <= laid.cost {
                (order, laid) = (next, tried);
            }
        }
        if best.as_ref().is_none_or(|best| laid.cost < best.cost) {
            best = Some(laid);
        }
    }
    let laid = best.unwrap_or_else(|| lay(&parts, &nodes, &Order { parts: Vec::new(), turned: Vec::new(), down: Vec::new() }));
    told(parts, &names, laid)
}

fn told(parts: Vec<Loose>, names: &[String], laid: Laid) -> Board {
    let columns = laid.columns;
    let hole = |cell: usize| [cell % columns, cell / columns];
    // Rows above and below that nothing uses are left off, but for one.
    let used = laid.holes.iter().flatten().map(|hole| hole[1]).chain(laid.tracks.iter().flat_map(|(_, way)| way.iter().map(|cell| cell / columns)));
    let (top, bottom) = used.fold((ROWS, 0), |(top, bottom), row| (top.min(row), bottom.max(row)));
    let (top, bottom) = (top.saturating_sub(1).min(bottom), (bottom + 1).min(ROWS - 1));
    let shift = |hole: [usize; 2]| [hole[0], hole[1] - top.min(hole[1])];
    let placed = parts.into_iter().zip(&laid.holes).map(|(part, holes)| {
        let leg = |((called, node, _), at): ((&'static str, String, [usize; 2]), &[usize; 2])| {
            let hole = shift(*at);
            Leg { called: called.to_owned(), node, hole, label: label(hole) }
        };
        BoardPart { name: part.name, called: part.called, kind: part.kind, legs: part.legs.into_iter().zip(holes).map(leg).collect() }
    });
    let placed: Vec<BoardPart> = placed.collect();
    let tracks: Vec<Track> = laid
        .tracks
        .iter()
        .filter(|(_, way)| way.len() > 1)
        .map(|(node, way)| Track { node: names[*node].clone(), holes: way.iter().map(|cell| shift(hole(*cell))).collect() })
        .collect();
    let jumpers: Vec<Jumper> =
        laid.jumpers.iter().map(|(node, a, b)| Jumper { node: names[*node].clone(), from: shift(hole(*a)), to: shift(hole(*b)) }).collect();
    let rows = bottom - top + 1;
    let cuts = cuts(&placed, &tracks, &jumpers);
    Board { columns, rows, size_m: [columns as f64 * PITCH_M, rows as f64 * PITCH_M], parts: placed, tracks, jumpers, cuts }
}

fn cuts(parts: &[BoardPart], tracks: &[Track], jumpers: &[Jumper]) -> Vec<LeadCut> {
    let mut all: Vec<LeadCut> = Vec::new();
    let mut add = |what: String, length_m: f64| match all.iter_mut().find(|known| known.what == what && (known.length_m - length_m).abs() < 1e-6) {
        Some(known) => known.count += 1,
        None => all.push(LeadCut { what, length_m, count: 1 }),
    };
    for track in tracks {
        add("bare wire along the underside".into(), (track.holes.len() - 1) as f64 * PITCH_M);
    }
    for jumper in jumpers {
        let far = ((jumper.from[0] as f64 - jumper.to[0] as f64).powi(2) + (jumper.from[1] as f64 - jumper.to[1] as f64).powi(2)).sqrt();
        add("insulated wire over the top".into(), far * PITCH_M + 2.0 * THROUGH_M);
    }
    for part in parts.iter().filter(|part| matches!(part.kind, "resistor" | "diode")) {
        let [a, b] = [&part.legs[0], &part.legs[1]];
        let far = a.hole[0].abs_diff(b.hole[0]).max(a.hole[1].abs_diff(b.hole[1]));
        add(format!("{}: legs bent {} holes apart", part.called, far), far as f64 * PITCH_M);
    }
    let legs = parts.iter().filter(|part| !matches!(part.kind, "terminal" | "timer")).map(|part| part.legs.len()).sum();
    all.push(LeadCut { what: "legs cut off under the board, this far from it".into(), length_m: STUB_M, count: legs });
    all
}
