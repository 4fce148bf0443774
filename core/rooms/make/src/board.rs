//! A small circuit on perforated board: where each part goes, which holes are joined on the underside, and the wires over
//! the top that cannot be avoided.
//!
//! Parts stand in a row of columns; which order, which way round and at which height is searched for by small changes from
//! many starts of one fixed sequence of random numbers, so that the same circuit always gives the same board. Conductors
//! are laid hole by hole on the underside by breadth-first search; what finds no way gets a jumper on the top.

use orthavis_model::chance::Dice;
use orthavis_model::data;
use orthavis_model::document::{Build, CircuitParts, SmallCircuit, Through, TimerKind, Transistor};
use orthavis_model::practice::ELECTROLYTIC_F;
use orthavis_model::working::plain;
use std::collections::VecDeque;

/// Distance of holes, m.
pub const PITCH_M: f64 = 2.54e-3;
/// Bare wire that goes down through a hole and is bent over, m.
const THROUGH_M: f64 = 4e-3;
/// A lead is cut this far under the board, m.
const STUB_M: f64 = 2e-3;
/// Rows of the board, and free columns at either end.
const ROWS: usize = 14;
const MARGIN: usize = 2;
/// Starts, and changes tried from each.
const STARTS: usize = 6;
const CHANGES: usize = 90;
/// What a jumper is worth in joined holes.
const JUMPER: usize = 1000;

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

/// A part before it has a place: legs as column and row from its own corner.
struct Loose {
    name: String,
    called: String,
    kind: &'static str,
    legs: Vec<(&'static str, String, [usize; 2])>,
}

impl Loose {
    fn size(&self) -> [usize; 2] {
        let most = |axis: usize| self.legs.iter().map(|(_, _, at)| at[axis]).max().unwrap_or(0);
        [most(0) + 1, most(1) + 1]
    }
}

#[derive(Default)]
struct Parts(Vec<Loose>);

impl Parts {
    fn two(&mut self, name: &str, called: String, kind: &'static str, span: usize, legs: [(&'static str, &str); 2]) {
        let legs = vec![(legs[0].0, legs[0].1.to_owned(), [0, 0]), (legs[1].0, legs[1].1.to_owned(), [0, span])];
        self.0.push(Loose { name: name.to_owned(), called, kind, legs });
    }

    fn resistor(&mut self, name: &str, ohm: f64, nodes: [&str; 2]) {
        let called = format!("{} resistor", plain(ohm, "Ω"));
        self.two(name, called, "resistor", 4, [("one end", nodes[0]), ("other end", nodes[1])]);
    }

    fn capacitor(&mut self, name: &str, farad: f64, nodes: [&str; 2]) {
        let legs = if farad >= ELECTROLYTIC_F { [("plus", nodes[0]), ("minus", nodes[1])] } else { [("one leg", nodes[0]), ("other leg", nodes[1])] };
        self.two(name, format!("{} capacitor", plain(farad, "F")), "capacitor", 2, legs);
    }

    fn diode(&mut self, name: &str, nodes: [&str; 2]) {
        self.two(name, "silicon diode".into(), "diode", 3, [("anode", nodes[0]), ("cathode, the ring", nodes[1])]);
    }

    fn led(&mut self, name: &str, called: &str, nodes: [&str; 2]) {
        self.two(name, called.to_owned(), "led", 1, [("anode, the long leg", nodes[0]), ("cathode", nodes[1])]);
    }

    fn transistor(&mut self, name: &str, mosfet: bool, [collector, base, emitter]: [&str; 3]) {
        let (called, legs) = if mosfet {
            ("small MOSFET", [("gate", base), ("drain", collector), ("source", emitter)])
        } else {
            ("small NPN transistor", [("collector", collector), ("base", base), ("emitter", emitter)])
        };
        let legs = legs.into_iter().enumerate().map(|(at, (leg, node))| (leg, node.to_owned(), [at, 0])).collect();
        self.0.push(Loose { name: name.to_owned(), called: called.to_owned(), kind: "transistor", legs });
    }

    fn terminal(&mut self, called: &str, node: &str) {
        self.0.push(Loose { name: called.to_owned(), called: called.to_owned(), kind: "terminal", legs: vec![("wire", node.to_owned(), [0, 0])] });
    }

    fn lights(&mut self, drives: &[String], plus: &str, minus: &str) {
        for id in drives {
            self.terminal(&format!("{id} +"), plus);
            self.terminal(&format!("{id} −"), minus);
        }
    }
}

fn parts_of(circuit: &SmallCircuit) -> Vec<Loose> {
    let drives = &circuit.drives;
    let mut all = Parts::default();
    match &circuit.parts {
        CircuitParts::TimerFlasher(own) => {
            all.resistor("Ra", own.ra_ohm, ["p", "dis"]);
            all.resistor("Rb", own.rb_ohm, ["dis", "thr"]);
            if own.diode {
                all.diode("D", ["dis", "thr"]);
            }
            // Eight legs, counted from the notch against the clock; the fourth and the eighth both at plus, the fifth free.
            let kind = if own.timer == TimerKind::Cmos { "CMOS timer" } else { "bipolar timer" };
            let legs = [
                ("1 minus", "0", [0, 3]),
                ("2 trigger", "thr", [1, 3]),
                ("3 output", "out", [2, 3]),
                ("4 reset", "p", [3, 3]),
                ("5 control", "", [3, 0]),
                ("6 threshold", "thr", [2, 0]),
                ("7 discharge", "dis", [1, 0]),
                ("8 plus", "p", [0, 0]),
            ];
            let legs = legs.map(|(leg, node, at)| (leg, node.to_owned(), at)).to_vec();
            all.0.push(Loose { name: "IC".into(), called: kind.into(), kind: "timer", legs });
            all.capacitor("C", own.c_f, ["thr", "0"]);
            all.terminal("+", "p");
            all.terminal("−", "0");
            match own.through {
                Through::None => all.lights(drives, "out", "0"),
                through => {
                    all.resistor("R", own.base_ohm.unwrap_or(100.0), ["out", "b"]);
                    all.transistor("Q", through == Through::Mosfet, ["c", "b", "0"]);
                    all.lights(drives, "p", "c");
                }
            }
        }
        CircuitParts::TransistorFlasher(own) => {
            all.transistor("Q1", false, ["c1", "b1", "0"]);
            all.resistor("R1", own.r1_ohm, ["p", "b1"]);
            all.capacitor("C1", own.c1_f, ["c2", "b1"]);
            all.capacitor("C2", own.c2_f, ["c1", "b2"]);
            all.resistor("R2", own.r2_ohm, ["p", "b2"]);
            all.transistor("Q2", false, ["c2", "b2", "0"]);
            for (side, node) in ["c1", "c2"].into_iter().enumerate() {
                match drives.get(side) {
                    Some(id) => all.lights(std::slice::from_ref(id), "p", node),
                    None => all.resistor(&format!("R{}", side + 3), 1000.0, ["p", node]),
                }
            }
            all.terminal("+", "p");
            all.terminal("−", "0");
        }
        CircuitParts::BreakdownFlasher(own) => {
            all.terminal("+", "p");
            all.resistor("R", own.r_ohm, ["p", "n"]);
            all.capacitor("C", own.c_f, ["n", "0"]);
            // Backwards: plus at the emitter, the base left free.
            all.transistor("Q", false, ["l", "", "n"]);
            all.lights(drives, "l", "0");
            all.terminal("−", "0");
        }
        CircuitParts::HoldUp(own) => {
            if own.bridge {
                all.terminal("rail 1", "in");
                all.terminal("rail 2", "back");
                for (name, nodes) in [("D1", ["in", "top"]), ("D2", ["back", "top"]), ("D3", ["0", "in"]), ("D4", ["0", "back"])] {
                    all.diode(name, nodes);
                }
                all.resistor("R", own.charge_ohm, ["top", "held"]);
            } else {
                all.terminal("+", "in");
                all.terminal("−", "0");
                all.resistor("R", own.charge_ohm, ["in", "held"]);
            }
            all.capacitor("C", own.c_f, ["held", "0"]);
            let mut from = "held".to_owned();
            for (number, ohm) in own.taps_ohm.iter().take(own.tap as usize).enumerate() {
                let to = format!("tap{}", number + 1);
                all.resistor(&format!("R{}", number + 1), *ohm, [&from, &to]);
                from = to;
            }
            all.lights(drives, &from, "0");
        }
        CircuitParts::BatteryGauge(own) => {
            all.terminal("+", "p");
            all.resistor("Rs", own.rs_ohm, ["p", "g"]);
            let count = own.diodes;
            let mut from = if count > 0 { "d0".to_owned() } else { "b".to_owned() };
            all.led("good", "LED for a good battery", ["g", &from]);
            for number in 1..=count {
                let to = if number == count { "b".to_owned() } else { format!("d{number}") };
                all.diode(&format!("D{number}"), [&from, &to]);
                from = to;
            }
            all.resistor("Rb", own.rb_ohm, ["b", "0"]);
            all.transistor("Q", false, ["c", "b", "0"]);
            all.resistor("Rc", own.rc_ohm, ["p", "c"]);
            all.led("low", "LED for a low one", ["c", "0"]);
            all.terminal("−", "0");
        }
        CircuitParts::Switch(own) => {
            all.terminal("pin", "logic");
            all.resistor("R", own.base_ohm, ["logic", "b"]);
            all.transistor("Q", own.through == Transistor::Mosfet, ["c", "b", "0"]);
            all.terminal("+", "p");
            all.lights(drives, "p", "c");
            all.terminal("−", "0");
        }
    }
    all.0
}

/// Where parts stand: their order, which are turned round, and how far down each begins.
#[derive(Clone)]
struct Order {
    parts: Vec<usize>,
    turned: Vec<bool>,
    down: Vec<usize>,
}

/// A board with its conductors; holes by row times columns plus column.
struct Laid {
    columns: usize,
    /// By part, by leg: its hole.
    holes: Vec<Vec<[usize; 2]>>,
    tracks: Vec<(usize, Vec<usize>)>,
    jumpers: Vec<(usize, usize, usize)>,
    cost: usize,
}

impl Laid {
    /// A conductor from a hole back to where the search began.
    fn track(&mut self, node: usize, came: &[Option<usize>], end: usize, owner: &mut [usize], joined: &mut Vec<usize>) {
        let mut way = vec![end];
        while let Some(before) = came[way[way.len() - 1]].filter(|before| *before != way[way.len() - 1]) {
            way.push(before);
        }
        for cell in &way {
            owner[*cell] = node;
            if !joined.contains(cell) {
                joined.push(*cell);
            }
        }
        self.cost += way.len();
        self.tracks.push((node, way));
    }
}

const FREE: usize = usize::MAX;
/// A hole with a leg that is joined to nothing.
const TAKEN: usize = usize::MAX - 1;

fn lay(parts: &[Loose], nodes: &[Vec<usize>], order: &Order) -> Laid {
    let mut holes = vec![Vec::new(); parts.len()];
    let mut column = MARGIN;
    for &part in &order.parts {
        let loose = &parts[part];
        let [wide, high] = loose.size();
        let down = order.down[part].min(ROWS - 2 - high) + 1;
        let turned = order.turned[part];
        let place = |at: [usize; 2]| if turned { [column + wide - 1 - at[0], down + high - 1 - at[1]] } else { [column + at[0], down + at[1]] };
        holes[part] = loose.legs.iter().map(|(_, _, at)| place(*at)).collect();
        column += wide + usize::from(loose.kind != "terminal");
    }
    let columns = column + MARGIN;
    let cell = |at: [usize; 2]| at[1] * columns + at[0];
    let mut owner = vec![FREE; columns * ROWS];
    let most = nodes.iter().flatten().filter(|node| **node < TAKEN).max().map_or(0, |most| most + 1);
    let mut wanted: Vec<Vec<usize>> = vec![Vec::new(); most];
    for (legs, own) in holes.iter().zip(nodes) {
        for (hole, node) in legs.iter().zip(own) {
            owner[cell(*hole)] = *node;
            if *node < TAKEN {
                wanted[*node].push(cell(*hole));
            }
        }
    }
    let mut laid = Laid { columns, holes, tracks: Vec::new(), jumpers: Vec::new(), cost: 0 };
    // Short ones first: they have least choice.
    let mut turns: Vec<usize> = (0..wanted.len()).collect();
    let reach = |legs: &[usize]| {
        let (x, y) = (legs.iter().map(|cell| cell % columns), legs.iter().map(|cell| cell / columns));
        let span = |all: &mut dyn Iterator<Item = usize>| {
            let (least, most) = all.fold((usize::MAX, 0), |(least, most), one| (least.min(one), most.max(one)));
            most.saturating_sub(least)
        };
        span(&mut x.into_iter()) + span(&mut y.into_iter())
    };
    turns.sort_by_key(|node| reach(&wanted[*node]));
    for node in turns {
        let mut left: Vec<usize> = wanted[node].clone();
        let Some(first) = left.pop() else { continue };
        let mut joined = vec![first];
        while !left.is_empty() {
            let (found, came) = search(&owner, columns, node, &joined, &left);
            if let Some(goal) = found {
                laid.track(node, &came, goal, &mut owner, &mut joined);
                left.retain(|leg| !joined.contains(leg));
                continue;
            }
            // No way underneath: over the top, between the nearest free holes that either side reaches.
            let (_, other) = search(&owner, columns, node, &left[left.len() - 1..], &[]);
            let apart = |a: usize, b: usize| (a % columns).abs_diff(b % columns) + (a / columns).abs_diff(b / columns);
            let ends = |came: &[Option<usize>]| (0..came.len()).filter(|cell| came[*cell].is_some() && owner[*cell] == FREE).collect::<Vec<_>>();
            let (here, there) = (ends(&came), ends(&other));
            let pair = here.iter().flat_map(|a| there.iter().map(move |b| (*a, *b))).min_by_key(|(a, b)| (apart(*a, *b), *a, *b));
            let Some((a, b)) = pair else {
                laid.cost += 100 * JUMPER;
                left.pop();
                continue;
            };
            for (end, came) in [(a, &came), (b, &other)] {
                laid.track(node, came, end, &mut owner, &mut joined);
            }
            laid.cost += JUMPER + apart(a, b);
            laid.jumpers.push((node, a, b));
            left.retain(|leg| !joined.contains(leg));
        }
    }
    laid.cost += 2 * columns;
    laid
}

/// From any of `from` to the nearest of `to` over free holes or those of the node; by hole, where it was come from.
fn search(owner: &[usize], columns: usize, node: usize, from: &[usize], to: &[usize]) -> (Option<usize>, Vec<Option<usize>>) {
    let mut came: Vec<Option<usize>> = vec![None; owner.len()];
    let mut queue: VecDeque<usize> = VecDeque::new();
    for cell in from {
        came[*cell] = Some(*cell);
        queue.push_back(*cell);
    }
    while let Some(cell) = queue.pop_front() {
        let (x, y) = (cell % columns, cell / columns);
        let beside = [(x > 0).then(|| cell - 1), (x + 1 < columns).then(|| cell + 1), (y > 0).then(|| cell - columns), (y + 1 < ROWS).then(|| cell + columns)];
        for next in beside.into_iter().flatten() {
            if came[next].is_some() || !(owner[next] == FREE || owner[next] == node) {
                continue;
            }
            came[next] = Some(cell);
            if to.contains(&next) {
                return (Some(next), came);
            }
            queue.push_back(next);
        }
    }
    (None, came)
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
