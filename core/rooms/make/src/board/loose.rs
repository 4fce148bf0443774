//! The parts of each kind of circuit, loose on the table: their legs, and which node each is joined to.

use orthavis_model::document::{CircuitParts, SmallCircuit, Through, TimerKind, Transistor};
use orthavis_model::practice::ELECTROLYTIC_F;
use orthavis_model::working::plain;

/// A part before it has a place: legs as column and row from its own corner.
pub(super) struct Loose {
    pub(super) name: String,
    pub(super) called: String,
    pub(super) kind: &'static str,
    pub(super) legs: Vec<(&'static str, String, [usize; 2])>,
}

impl Loose {
    pub(super) fn size(&self) -> [usize; 2] {
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

pub(super) fn parts_of(circuit: &SmallCircuit) -> Vec<Loose> {
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
