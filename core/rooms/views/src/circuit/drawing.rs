//! The schematic of each kind of circuit, symbol by symbol.

use super::{Dot, Drawing, Symbol, Wire};
use orthavis_model::document::{
    BatteryGauge, BreakdownFlasher, Build, CircuitParts, HoldUp, Light, Load, PinSwitch, SmallCircuit, Through, TimerFlasher, TimerKind, Transistor,
    TransistorFlasher,
};
use orthavis_model::practice::ELECTROLYTIC_F;

/// A schematic while it is drawn.
struct Sheet {
    out: Drawing,
}

impl Sheet {
    fn part(&mut self, name: &str, kind: &'static str, ends: [[f64; 2]; 2]) -> &mut Symbol {
        let symbol = Symbol {
            name: name.to_owned(),
            kind,
            from: ends[0],
            to: ends[1],
            flipped: false,
            called: String::new(),
            value: None,
            unit: "",
            field: None,
            unused: false,
        };
        self.out.symbols.push(symbol);
        let last = self.out.symbols.len() - 1;
        &mut self.out.symbols[last]
    }

    fn resistor(&mut self, called: &str, field: &'static str, value: f64, ends: [[f64; 2]; 2]) {
        let one = self.part(field.trim_end_matches("_ohm"), "resistor", ends);
        (one.called, one.value, one.unit, one.field) = (called.to_owned(), Some(value), "ohm", Some(field));
    }

    fn capacitor(&mut self, called: &str, field: &'static str, value: f64, ends: [[f64; 2]; 2]) {
        let kind = if value >= ELECTROLYTIC_F { "polarised" } else { "capacitor" };
        let one = self.part(field.trim_end_matches("_f"), kind, ends);
        (one.called, one.value, one.unit, one.field) = (called.to_owned(), Some(value), "F", Some(field));
    }

    fn named(&mut self, name: &str, kind: &'static str, called: &str, ends: [[f64; 2]; 2]) -> &mut Symbol {
        let one = self.part(name, kind, ends);
        called.clone_into(&mut one.called);
        one
    }

    fn wire(&mut self, node: &'static str, points: &[[f64; 2]]) {
        self.out.wires.push(Wire { node, points: points.to_vec() });
    }

    fn dot(&mut self, node: &'static str, at: [f64; 2]) {
        self.out.dots.push(Dot { node, at });
    }

    /// Plus at the top and minus at the bottom, each up to where its last part stands.
    fn rails(&mut self, from: f64, [plus, minus]: [f64; 2], height: f64) {
        self.wire("p", &[[from, 0.0], [plus, 0.0]]);
        self.wire("0", &[[from, height], [minus, height]]);
        self.named("plus", "terminal", "+", [[from, 0.0], [from, 0.0]]);
        self.named("minus", "terminal", "−", [[from, height], [from, height]]);
    }

    /// Lights side by side between two heights, joined at both ends; where the last one stands.
    fn lights(&mut self, driven: &[&Light], x: f64, top: (&'static str, f64), bottom: (&'static str, f64)) -> f64 {
        let last = x + 3.0 * driven.len().saturating_sub(1) as f64;
        if driven.len() > 1 {
            for (node, y) in [top, bottom] {
                self.wire(node, &[[x, y], [last, y]]);
            }
        }
        for (number, light) in driven.iter().enumerate() {
            let x = x + 3.0 * number as f64;
            let kind = if matches!(light.load, Load::LedArray(_) | Load::Strip(_)) { "led" } else { "light" };
            self.named(&format!("light{}", number + 1), kind, &light.id, [[x, top.1], [x, bottom.1]]);
            if number > 0 {
                self.dot(top.0, [x, top.1]);
                self.dot(bottom.0, [x, bottom.1]);
            }
        }
        last
    }
}

/// The schematic of a circuit.
pub fn drawing(build: &Build, circuit: &SmallCircuit) -> Drawing {
    let driven: Vec<&Light> = circuit.drives.iter().filter_map(|id| build.lights.iter().find(|light| light.id == *id)).collect();
    let empty = Drawing { width: 0.0, height: 0.0, symbols: Vec::new(), wires: Vec::new(), dots: Vec::new() };
    let mut sheet = Sheet { out: empty };
    match &circuit.parts {
        CircuitParts::TimerFlasher(own) => timer(&mut sheet, own, &driven),
        CircuitParts::TransistorFlasher(own) => two(&mut sheet, own, &driven),
        CircuitParts::BreakdownFlasher(own) => breakdown(&mut sheet, own, &driven),
        CircuitParts::HoldUp(own) => hold_up(&mut sheet, own, &driven),
        CircuitParts::BatteryGauge(own) => gauge(&mut sheet, own),
        CircuitParts::Switch(own) => switch(&mut sheet, own, &driven),
    }
    let all = sheet.out.symbols.iter().flat_map(|one| [one.from, one.to]).chain(sheet.out.wires.iter().flat_map(|wire| wire.points.clone()));
    let (width, height) = all.fold((0.0_f64, 0.0_f64), |(x, y), at| (x.max(at[0]), y.max(at[1])));
    (sheet.out.width, sheet.out.height) = (width, height);
    sheet.out
}

fn timer(s: &mut Sheet, parts: &TimerFlasher, driven: &[&Light]) {
    s.resistor("Ra", "ra_ohm", parts.ra_ohm, [[2.0, 0.0], [2.0, 3.0]]);
    s.resistor("Rb", "rb_ohm", parts.rb_ohm, [[2.0, 3.0], [2.0, 6.0]]);
    s.capacitor("C", "c_f", parts.c_f, [[2.0, 6.0], [2.0, 10.0]]);
    if parts.diode {
        s.named("diode", "diode", "D", [[5.5, 3.0], [5.5, 6.0]]);
        s.dot("dis", [5.5, 3.0]);
        s.dot("thr", [5.5, 6.0]);
    }
    s.wire("dis", &[[2.0, 3.0], [8.0, 3.0]]);
    s.wire("thr", &[[2.0, 6.0], [8.0, 6.0]]);
    let kind = if parts.timer == TimerKind::Cmos { "CMOS timer" } else { "bipolar timer" };
    s.named("timer", "timer", kind, [[8.0, 2.0], [12.0, 8.0]]);
    s.wire("p", &[[10.0, 0.0], [10.0, 2.0]]);
    s.wire("0", &[[10.0, 8.0], [10.0, 10.0]]);
    let ends = match parts.through {
        Through::None => {
            s.wire("out", &[[12.0, 5.0], [15.0, 5.0]]);
            let last = s.lights(driven, 15.0, ("out", 5.0), ("0", 10.0));
            [10.0, if driven.is_empty() { 10.0 } else { last }]
        }
        through => {
            s.resistor("R", "base_ohm", parts.base_ohm.unwrap_or(0.0), [[12.0, 5.0], [15.0, 5.0]]);
            let kind = if through == Through::Npn { "npn" } else { "mosfet" };
            s.named("q", kind, "Q", [[16.0, 4.0], [16.0, 6.0]]);
            s.wire("0", &[[16.0, 6.0], [16.0, 10.0]]);
            let last = s.lights(driven, 16.0, ("p", 0.0), ("c", 4.0));
            [if driven.is_empty() { 10.0 } else { last }, 16.0]
        }
    };
    s.rails(0.0, ends, 10.0);
    for (node, at) in [("p", [2.0, 0.0]), ("p", [10.0, 0.0]), ("dis", [2.0, 3.0]), ("thr", [2.0, 6.0]), ("0", [2.0, 10.0]), ("0", [10.0, 10.0])] {
        s.dot(node, at);
    }
}

fn two(s: &mut Sheet, parts: &TransistorFlasher, driven: &[&Light]) {
    for (side, x, node) in [(0, 2.0, "c1"), (1, 14.0, "c2")] {
        match driven.get(side) {
            Some(light) => {
                s.lights(&[*light], x, ("p", 0.0), (node, 4.0));
            }
            None => {
                let one = s.named(&format!("nothing{}", side + 1), "resistor", "R", [[x, 0.0], [x, 4.0]]);
                (one.value, one.unit) = (Some(1000.0), "ohm");
            }
        }
    }
    s.resistor("R2", "r2_ohm", parts.r2_ohm, [[6.0, 0.0], [6.0, 4.0]]);
    s.resistor("R1", "r1_ohm", parts.r1_ohm, [[10.0, 0.0], [10.0, 4.0]]);
    s.capacitor("C2", "c2_f", parts.c2_f, [[2.0, 4.0], [6.0, 4.0]]);
    s.capacitor("C1", "c1_f", parts.c1_f, [[14.0, 4.0], [10.0, 4.0]]);
    s.named("q1", "npn", "Q1", [[2.0, 7.0], [2.0, 9.0]]).flipped = true;
    s.named("q2", "npn", "Q2", [[14.0, 7.0], [14.0, 9.0]]);
    s.wire("c1", &[[2.0, 4.0], [2.0, 7.0]]);
    s.wire("c2", &[[14.0, 4.0], [14.0, 7.0]]);
    s.wire("b2", &[[6.0, 4.0], [6.0, 5.0], [12.0, 8.0], [13.0, 8.0]]);
    s.wire("b1", &[[10.0, 4.0], [10.0, 5.0], [4.0, 8.0], [3.0, 8.0]]);
    s.wire("0", &[[2.0, 9.0], [2.0, 11.0]]);
    s.wire("0", &[[14.0, 9.0], [14.0, 11.0]]);
    s.rails(0.0, [14.0, 14.0], 11.0);
    for (node, at) in [("c1", [2.0, 4.0]), ("b2", [6.0, 4.0]), ("b1", [10.0, 4.0]), ("c2", [14.0, 4.0])] {
        s.dot(node, at);
    }
    for x in [2.0, 6.0, 10.0] {
        s.dot("p", [x, 0.0]);
    }
    s.dot("0", [2.0, 11.0]);
}

fn breakdown(s: &mut Sheet, parts: &BreakdownFlasher, driven: &[&Light]) {
    s.resistor("R", "r_ohm", parts.r_ohm, [[2.0, 0.0], [2.0, 4.0]]);
    s.capacitor("C", "c_f", parts.c_f, [[2.0, 4.0], [2.0, 9.0]]);
    s.wire("n", &[[2.0, 4.0], [6.0, 4.0]]);
    s.named("breaks", "npn_reversed", "Q, base open", [[6.0, 4.0], [6.0, 6.0]]);
    let end = if driven.is_empty() {
        let one = s.named("nothing", "resistor", "R", [[6.0, 6.0], [6.0, 9.0]]);
        (one.value, one.unit) = (Some(1000.0), "ohm");
        6.0
    } else {
        s.lights(driven, 6.0, ("l", 6.0), ("0", 9.0))
    };
    s.wire("p", &[[0.0, 0.0], [2.0, 0.0]]);
    s.wire("0", &[[0.0, 9.0], [end, 9.0]]);
    s.named("plus", "terminal", "+", [[0.0, 0.0]; 2]);
    s.named("minus", "terminal", "−", [[0.0, 9.0]; 2]);
    s.dot("n", [2.0, 4.0]);
    s.dot("0", [2.0, 9.0]);
}

fn hold_up(s: &mut Sheet, parts: &HoldUp, driven: &[&Light]) {
    let height = 10.0;
    let begins = if parts.bridge {
        for (name, ends) in
            [("d3", [[3.0, height], [3.0, 6.0]]), ("d1", [[3.0, 4.0], [3.0, 0.0]]), ("d4", [[6.0, height], [6.0, 6.0]]), ("d2", [[6.0, 4.0], [6.0, 0.0]])]
        {
            s.named(name, "diode", &name.to_uppercase(), ends);
        }
        s.wire("in", &[[3.0, 4.0], [3.0, 6.0]]);
        s.wire("back", &[[6.0, 4.0], [6.0, 6.0]]);
        s.wire("in", &[[0.0, 4.5], [3.0, 4.5]]);
        s.wire("back", &[[0.0, 6.5], [4.5, 6.5], [4.5, 5.0], [6.0, 5.0]]);
        s.named("rail1", "terminal", "rail", [[0.0, 4.5]; 2]);
        s.named("rail2", "terminal", "rail", [[0.0, 6.5]; 2]);
        s.wire("top", &[[3.0, 0.0], [7.0, 0.0]]);
        s.dot("top", [6.0, 0.0]);
        s.dot("in", [3.0, 4.5]);
        s.dot("back", [6.0, 5.0]);
        s.dot("0", [6.0, height]);
        7.0
    } else {
        s.wire("in", &[[0.0, 0.0], [2.0, 0.0]]);
        s.named("plus", "terminal", "+", [[0.0, 0.0]; 2]);
        s.named("minus", "terminal", "−", [[0.0, height]; 2]);
        2.0
    };
    s.resistor("R", "charge_ohm", parts.charge_ohm, [[begins, 0.0], [begins + 3.0, 0.0]]);
    let held = begins + 4.0;
    s.wire("held", &[[begins + 3.0, 0.0], [held + 1.0, 0.0]]);
    s.capacitor("C", "c_f", parts.c_f, [[held, 0.0], [held, height]]);
    s.dot("held", [held, 0.0]);
    s.dot("0", [held, height]);
    let taps = &parts.taps_ohm;
    let used = (parts.tap as usize).min(taps.len());
    let mut x = held + 1.0;
    let mut light = x;
    for (number, ohm) in taps.iter().enumerate() {
        let one = s.named(&format!("tap{}", number + 1), "resistor", &format!("R{}", number + 1), [[x, 0.0], [x + 3.0, 0.0]]);
        (one.value, one.unit, one.unused) = (Some(*ohm), "ohm", number >= used);
        x += 3.0;
        if number + 1 == used {
            light = x;
        }
    }
    // Several lights hang below one another's joint, clear of the resistors that are not used.
    let end = if driven.len() > 1 && used < taps.len() {
        s.wire("sense_p", &[[light, 0.0], [light, 3.0]]);
        s.lights(driven, light, ("sense_p", 3.0), ("0", height))
    } else if driven.is_empty() {
        let one = s.named("nothing", "resistor", "R", [[light, 0.0], [light, height]]);
        (one.value, one.unit) = (Some(1000.0), "ohm");
        light
    } else {
        s.lights(driven, light, ("sense_p", 0.0), ("0", height))
    };
    s.dot("sense_p", [light, 0.0]);
    s.wire("0", &[[if parts.bridge { 3.0 } else { 0.0 }, height], [end, height]]);
}

fn gauge(s: &mut Sheet, parts: &BatteryGauge) {
    s.resistor("Rs", "rs_ohm", parts.rs_ohm, [[2.0, 0.0], [2.0, 3.0]]);
    s.named("led_good", "led", "good", [[2.0, 3.0], [2.0, 6.0]]);
    let count = parts.diodes;
    let end = if count > 0 {
        let one = s.named("diodes", "diode", &format!("{count} diode{}", if count == 1 { "" } else { "s" }), [[2.0, 6.0], [2.0, 9.0]]);
        one.field = Some("diodes");
        9.0
    } else {
        6.0
    };
    let height = end + 4.0;
    s.resistor("Rb", "rb_ohm", parts.rb_ohm, [[2.0, end], [2.0, height]]);
    s.wire("b", &[[2.0, end], [6.0, end]]);
    s.named("q", "npn", "Q", [[7.0, end - 1.0], [7.0, end + 1.0]]);
    s.wire("0", &[[7.0, end + 1.0], [7.0, height]]);
    s.resistor("Rc", "rc_ohm", parts.rc_ohm, [[7.0, 0.0], [7.0, 3.0]]);
    s.wire("c", &[[7.0, 3.0], [7.0, end - 1.0]]);
    s.wire("c", &[[7.0, 4.0], [11.0, 4.0]]);
    s.named("led_low", "led", "low", [[11.0, 4.0], [11.0, height]]);
    s.rails(0.0, [7.0, 7.0], height);
    s.wire("0", &[[7.0, height], [11.0, height]]);
    for (node, at) in [("p", [2.0, 0.0]), ("b", [2.0, end]), ("c", [7.0, 4.0]), ("0", [2.0, height]), ("0", [7.0, height])] {
        s.dot(node, at);
    }
}

fn switch(s: &mut Sheet, parts: &PinSwitch, driven: &[&Light]) {
    s.named("pin", "terminal", "pin", [[0.0, 5.0]; 2]);
    s.wire("logic", &[[0.0, 5.0], [1.0, 5.0]]);
    s.resistor("R", "base_ohm", parts.base_ohm, [[1.0, 5.0], [4.0, 5.0]]);
    let kind = if parts.through == Transistor::Mosfet { "mosfet" } else { "npn" };
    s.named("q", kind, "Q", [[5.0, 4.0], [5.0, 6.0]]);
    s.wire("0", &[[5.0, 6.0], [5.0, 9.0]]);
    let end = if driven.is_empty() {
        let one = s.named("nothing", "resistor", "R", [[5.0, 0.0], [5.0, 4.0]]);
        (one.value, one.unit) = (Some(1000.0), "ohm");
        5.0
    } else {
        s.lights(driven, 5.0, ("p", 0.0), ("c", 4.0))
    };
    s.rails(0.0, [end, 5.0], 9.0);
}
