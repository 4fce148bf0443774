//! The same circuit as SPICE text.

use super::elements::THERMAL_V;
use super::{Circuit, Element, Wave};
use std::fmt::Write;

/// Kelvin for each volt of thermal voltage (elementary charge over Boltzmann's constant, CODATA 2018).
const KELVIN_PER_VOLT: f64 = 11_604.518;

impl Circuit {
    /// As text that a general circuit simulator follows for `stop_s`, with a longest step; `measures` are its `.meas` lines.
    pub fn spice(&self, title: &str, stop_s: f64, longest_s: f64, measures: &[String]) -> String {
        let celsius = THERMAL_V * KELVIN_PER_VOLT - 273.15;
        let mut out = format!(
            "* {}\n.options temp={celsius:.6} tnom={celsius:.6} gmin=1e-12 reltol=1e-4 abstol=1e-12 vntol=1e-6 epsmin=1e-60 method=gear\n",
            title.replace(['\n', '\r'], " ")
        );
        let mut models = String::new();
        let mut starts = String::new();
        for part in &self.parts {
            let name = spelled(&part.name);
            let n: Vec<String> = part.nodes.iter().map(|node| if *node == 0 { "0".into() } else { spelled(&self.nodes[*node]) }).collect();
            // Writing into a string does not fail.
            let _ = match &part.element {
                Element::Resistor(ohm) => writeln!(out, "R{name} {} {} {ohm:e}", n[0], n[1]),
                Element::Capacitor(farad, start) => {
                    let at = start.map_or_else(String::new, |volts| format!(" ic={volts:e}"));
                    if let (Some(volts), "0") = (start, n[1].as_str()) {
                        let _ = writeln!(starts, ".ic v({})={volts:e}", n[0]);
                    }
                    writeln!(out, "C{name} {} {} {farad:e}{at}", n[0], n[1])
                }
                Element::Inductor(henry, start) => {
                    writeln!(out, "L{name} {} {} {henry:e}{}", n[0], n[1], start.map_or_else(String::new, |amps| format!(" ic={amps:e}")))
                }
                Element::Voltage(wave) => writeln!(out, "V{name} {} {} {}", n[0], n[1], source(wave, stop_s)),
                // Of a current source the first node is the one it is drawn from.
                Element::Current(wave) => writeln!(out, "I{name} {} {} {}", n[1], n[0], source(wave, stop_s)),
                Element::Diode(diode) => {
                    let breakdown = diode.breakdown_v.map_or_else(String::new, |volts| format!(" bv={volts} ibv={:e}", diode.saturation_a));
                    let _ = writeln!(models, ".model D{name} D(is={:e} n={:.9} rs={:e}{breakdown})", diode.saturation_a, diode.n, diode.rs_ohm);
                    writeln!(out, "D{name} {} {} D{name}", n[0], n[1])
                }
                Element::Bipolar(transistor) => {
                    let kind = if transistor.npn { "NPN" } else { "PNP" };
                    let _ = writeln!(models, ".model Q{name} {kind}(is={:e} bf={} br={})", transistor.saturation_a, transistor.forward, transistor.reverse);
                    // The base breaks down backwards: a diode across it with the transistor's own current there, and forward with
                    // so little that the base has all of its own.
                    let _ = writeln!(
                        models,
                        ".model Z{name} D(is={:e} bv={} ibv={:e})",
                        1e-6 * transistor.saturation_a,
                        transistor.base_breakdown_v,
                        transistor.saturation_a
                    );
                    let (anode, cathode) = if transistor.npn { (&n[1], &n[2]) } else { (&n[2], &n[1]) };
                    writeln!(out, "Q{name} {} {} {} Q{name}\nD{name}_z {anode} {cathode} Z{name}", n[0], n[1], n[2])
                }
                Element::Switch { on_v, off_v, on_ohm, off_ohm } => {
                    let (middle, half) = (0.5 * (on_v + off_v), 0.5 * (on_v - off_v));
                    let _ = writeln!(models, ".model S{name} SW(vt={middle:e} vh={half:e} ron={on_ohm:e} roff={off_ohm:e})");
                    writeln!(out, "S{name} {} {} {} {} S{name}", n[0], n[1], n[2], n[3])
                }
                Element::Timer(timer) => {
                    let [supply, minus, held, discharge, output] = [&n[0], &n[1], &n[2], &n[3], &n[4]];
                    let low = format!("{name}_low");
                    // One switch with hysteresis is the latch: closed while the output is low.
                    let _ = writeln!(models, ".model S{name} SW(vt=0.5 vh={:e} ron=1 roff=1e9)", 1.0 / 6.0);
                    let _ = writeln!(models, ".model S{name}_d SW(vt=0.5 vh=0.1 ron={:e} roff=1e12)", timer.discharge_ohm);
                    let mut text = format!("B{name}_share {name}_share 0 V=v({held},{minus})/max(v({supply},{minus}),1e-3)\n");
                    text += &format!("V{name}_one {name}_one 0 1\nS{name} {name}_one {low} {name}_share 0 S{name}\nR{name}_low {low} 0 1k\n");
                    text += &format!("S{name}_d {discharge} {minus} {low} 0 S{name}_d\n");
                    text += &format!("I{name}_idle {supply} {minus} {:e}\n", timer.idle_a);
                    // What a high output gives comes from the supply.
                    text += &format!(
                        "B{name}_hi {supply} {output} I=v({low})<0.5 ? (v({supply})-v({output})-{})/{} : 0\nB{name}_lo {output} {minus} I=v({low})<0.5 ? 0 : (v({output},{minus})-{})/{}",
                        timer.high_drop_v, timer.out_ohm, timer.low_v, timer.out_ohm
                    );
                    writeln!(out, "{text}")
                }
            };
        }
        out += &models;
        out += &starts;
        let given = self.parts.iter().any(|part| matches!(part.element, Element::Capacitor(_, Some(_)) | Element::Inductor(_, Some(_))));
        let uic = if given { " uic" } else { "" };
        out += &format!(".tran {:e} {stop_s:e} 0 {longest_s:e}{uic}\n", longest_s);
        for measure in measures {
            out += measure;
            out.push('\n');
        }
        out + ".end\n"
    }
}

/// A name as a simulator reads it.
fn spelled(name: &str) -> String {
    name.chars().map(|letter| if letter.is_ascii_alphanumeric() { letter.to_ascii_lowercase() } else { '_' }).collect()
}

fn source(wave: &Wave, stop_s: f64) -> String {
    match wave {
        Wave::Constant(value) => format!("DC {value:e}"),
        Wave::Sine { mean, peak, hz } => format!("SIN({mean:e} {peak:e} {hz:e})"),
        Wave::Pulse { low, high, delay_s, edge_s, width_s, period_s } => {
            format!("PULSE({low:e} {high:e} {delay_s:e} {edge_s:e} {edge_s:e} {width_s:e} {period_s:e})")
        }
        Wave::Points(points) => format!("PWL({})", points.iter().map(|(time, value)| format!("{time:e} {value:e}")).collect::<Vec<_>>().join(" ")),
        Wave::Gated { .. } => {
            // Point by point, close enough to be read and short enough to be written.
            let mut points = vec![(0.0, wave.at(0.0))];
            while points.len() < 4000 && points[points.len() - 1].0 < stop_s {
                let now = points[points.len() - 1].0;
                let next = wave.next_corner(now).min(now + wave.scale_s() / 40.0).min(stop_s);
                points.push((next, wave.at(next)));
            }
            source(&Wave::Points(points), stop_s)
        }
    }
}
