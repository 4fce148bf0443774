//! The parts of each kind of circuit, loose on the table: their legs, and which node each is joined to.

use orthavis_model::document::{
    BatteryGauge, BreakdownFlasher, CircuitParts, HoldUp, PinSwitch, SmallCircuit, Through, TimerFlasher, TimerKind, Transistor, TransistorFlasher,
};
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

    fn timer_flasher(&mut self, own: &TimerFlasher, drives: &[String]) {
        self.resistor("Ra", own.ra_ohm, ["p", "dis"]);
        self.resistor("Rb", own.rb_ohm, ["dis", "thr"]);
        if own.diode {
            self.diode("D", ["dis", "thr"]);
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
        self.0.push(Loose { name: "IC".into(), called: kind.into(), kind: "timer", legs });
        self.capacitor("C", own.c_f, ["thr", "0"]);
        self.terminal("+", "p");
        self.terminal("−", "0");
        match own.through {
            Through::None => self.lights(drives, "out", "0"),
            through => {
                self.resistor("R", own.base_ohm.unwrap_or(100.0), ["out", "b"]);
                self.transistor("Q", through == Through::Mosfet, ["c", "b", "0"]);
                self.lights(drives, "p", "c");
            }
        }
    }

    fn transistor_flasher(&mut self, own: &TransistorFlasher, drives: &[String]) {
        self.transistor("Q1", false, ["c1", "b1", "0"]);
        self.resistor("R1", own.r1_ohm, ["p", "b1"]);
        self.capacitor("C1", own.c1_f, ["c2", "b1"]);
        self.capacitor("C2", own.c2_f, ["c1", "b2"]);
        self.resistor("R2", own.r2_ohm, ["p", "b2"]);
        self.transistor("Q2", false, ["c2", "b2", "0"]);
        for (side, node) in ["c1", "c2"].into_iter().enumerate() {
            match drives.get(side) {
                Some(id) => self.lights(std::slice::from_ref(id), "p", node),
                None => self.resistor(&format!("R{}", side + 3), 1000.0, ["p", node]),
            }
        }
        self.terminal("+", "p");
        self.terminal("−", "0");
    }

    fn breakdown_flasher(&mut self, own: &BreakdownFlasher, drives: &[String]) {
        self.terminal("+", "p");
        self.resistor("R", own.r_ohm, ["p", "n"]);
        self.capacitor("C", own.c_f, ["n", "0"]);
        // Backwards: plus at the emitter, the base left free.
        self.transistor("Q", false, ["l", "", "n"]);
        self.lights(drives, "l", "0");
        self.terminal("−", "0");
    }

    fn hold_up(&mut self, own: &HoldUp, drives: &[String]) {
        if own.bridge {
            self.terminal("rail 1", "in");
            self.terminal("rail 2", "back");
            for (name, nodes) in [("D1", ["in", "top"]), ("D2", ["back", "top"]), ("D3", ["0", "in"]), ("D4", ["0", "back"])] {
                self.diode(name, nodes);
            }
            self.resistor("R", own.charge_ohm, ["top", "held"]);
        } else {
            self.terminal("+", "in");
            self.terminal("−", "0");
            self.resistor("R", own.charge_ohm, ["in", "held"]);
        }
        self.capacitor("C", own.c_f, ["held", "0"]);
        let mut from = "held".to_owned();
        for (number, ohm) in own.taps_ohm.iter().take(own.tap as usize).enumerate() {
            let to = format!("tap{}", number + 1);
            self.resistor(&format!("R{}", number + 1), *ohm, [&from, &to]);
            from = to;
        }
        self.lights(drives, &from, "0");
    }

    fn battery_gauge(&mut self, own: &BatteryGauge) {
        self.terminal("+", "p");
        self.resistor("Rs", own.rs_ohm, ["p", "g"]);
        let count = own.diodes;
        let mut from = if count > 0 { "d0".to_owned() } else { "b".to_owned() };
        self.led("good", "LED for a good battery", ["g", &from]);
        for number in 1..=count {
            let to = if number == count { "b".to_owned() } else { format!("d{number}") };
            self.diode(&format!("D{number}"), [&from, &to]);
            from = to;
        }
        self.resistor("Rb", own.rb_ohm, ["b", "0"]);
        self.transistor("Q", false, ["c", "b", "0"]);
        self.resistor("Rc", own.rc_ohm, ["p", "c"]);
        self.led("low", "LED for a low one", ["c", "0"]);
        self.terminal("−", "0");
    }

    fn switch(&mut self, own: &PinSwitch, drives: &[String]) {
        self.terminal("pin", "logic");
        self.resistor("R", own.base_ohm, ["logic", "b"]);
        self.transistor("Q", own.through == Transistor::Mosfet, ["c", "b", "0"]);
        self.terminal("+", "p");
        self.lights(drives, "p", "c");
        self.terminal("−", "0");
    }
}

pub(super) fn parts_of(circuit: &SmallCircuit) -> Vec<Loose> {
    let drives = circuit.drives.as_slice();
    let mut all = Parts::default();
    match &circuit.parts {
        CircuitParts::TimerFlasher(own) => all.timer_flasher(own, drives),
        CircuitParts::TransistorFlasher(own) => all.transistor_flasher(own, drives),
        CircuitParts::BreakdownFlasher(own) => all.breakdown_flasher(own, drives),
        CircuitParts::HoldUp(own) => all.hold_up(own, drives),
        CircuitParts::BatteryGauge(own) => all.battery_gauge(own),
        CircuitParts::Switch(own) => all.switch(own, drives),
    }
    all.0
}
