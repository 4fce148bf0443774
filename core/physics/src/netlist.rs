//! A build at one scene and state as SPICE text, for a general circuit simulator to read and agree with.
//!
//! Conductors and rails are resistors, LEDs diodes through their datasheet point, pixels, modules and converters sources
//! whose current or voltage is the law of `orthavis_model::laws`. What is off at that state is left out; the voltages
//! found here are given as first guesses, since what takes constant power has another, unwanted balance near zero.

use crate::circuits::stand_ins;
use crate::network::{Network, Point, Side, Solution, SolveError, Terminal};
use orthavis_model::document::{Build, Consumer, Conversion, Converter, ConverterKind, Draw, Light, Load, Module, Scene};
use orthavis_model::laws::led::{DiodeString, THERMAL_V};
use orthavis_model::states::{Lit, State};
use std::collections::{BTreeMap, HashSet};
use std::fmt::Write;

/// Kelvin for each volt of thermal voltage (elementary charge over Boltzmann's constant, CODATA 2018).
const KELVIN_PER_VOLT: f64 = 11_604.518;
const LEAST_OHM: f64 = 1e-7;
/// Node of a frame that is a way back.
const FRAME: &str = "frame_return";

/// Names that a simulator reads: letters, digits and underscores, no two alike.
#[derive(Default)]
struct Names {
    of: BTreeMap<String, String>,
    taken: HashSet<String>,
}

impl Names {
    fn of(&mut self, id: &str) -> String {
        if let Some(known) = self.of.get(id) {
            return known.clone();
        }
        let plain: String = id.chars().map(|letter| if letter.is_ascii_alphanumeric() { letter.to_ascii_lowercase() } else { '_' }).collect();
        let mut name = plain.clone();
        let mut number = 1;
        while !self.taken.insert(name.clone()) {
            number += 1;
            name = format!("{plain}_{number}");
        }
        self.of.insert(id.to_owned(), name.clone());
        name
    }
}

struct Text {
    out: String,
    guesses: String,
}

impl Text {
    fn line(&mut self, line: &str) {
        self.out += line;
        self.out.push('\n');
    }

    fn guess(&mut self, node: &str, volts: Option<f64>) {
        if let Some(volts) = volts {
            // Writing into a string does not fail.
            let _ = writeln!(self.guesses, ".nodeset v({node})={volts:.9e}");
        }
    }
}

/// The netlist of a scene at a state.
///
/// # Errors
/// When it has no steady state.
pub fn netlist(build: &Build, scene: &Scene, state: State) -> Result<String, SolveError> {
    let mut network = Network::new(build)?;
    let point = Point::of(build, scene, state);
    let solution = network.solve(&point, None)?;
    let parts: Vec<Converter> = build.converters.iter().cloned().chain(stand_ins(build)).collect();
    let mut names = Names::default();
    let mut text = Text { out: String::new(), guesses: String::new() };
    let one_line = |words: &str| words.replace(['\n', '\r'], " ");
    text.line(&format!("* {}: {}, {}", one_line(&build.name), one_line(&scene.name), state.phrase()));
    if let Some(extent) = crate::show::extent(build, scene) {
        text.line(&format!("* the frame of its show at {:.2} s, in which its pixels together take most", extent.worst.time_s));
    }
    text.line("* plus and minus of a part end in _p and _m, a converter's output in _o");
    let celsius = THERMAL_V * KELVIN_PER_VOLT - 273.15;
    text.line(&format!(".options temp={celsius:.6} tnom={celsius:.6} gmin=1e-15 abstol=1e-13 reltol=1e-6 vntol=1e-9 epsmin=1e-60"));
    text.line(&format!("V_source source_emf 0 {}", point.emf_v));
    text.line(&format!("R_source source_emf source_p {}", point.source_ohm.max(LEAST_OHM)));
    if point.standing_a > 0.0 {
        text.line(&format!("I_standing source_p 0 {}", point.standing_a));
    }
    text.guess("source_p", network.potential(&solution, Terminal::Source(Side::Plus)));
    names.taken.extend(["source".into(), FRAME.into()]);

    let frame_ohm = build.vehicle.frame_return_ohm;
    let mut joins: BTreeMap<String, Vec<(f64, usize)>> = BTreeMap::new();
    for (index, feed) in build.feeds().iter().enumerate() {
        let from = if feed.feed.from == "source" { "source".to_owned() } else { names.of(&feed.feed.from) };
        let is_converter = parts.iter().any(|part| part.id == feed.feed.from);
        let (supply_p, supply_m) =
            if from == "source" { ("source_p".into(), "0".into()) } else { (format!("{from}_{}", if is_converter { 'o' } else { 'p' }), format!("{from}_m")) };
        let consumer = names.of(feed.consumer_id(build));
        let along = matches!(feed.consumer, Consumer::Light(light) if length_of(&build.lights[light].load).is_some());
        let end = if along {
            joins.entry(consumer.clone()).or_default().push((feed.feed.at_m, feed.number));
            format!("{consumer}_f{}", feed.number)
        } else {
            consumer
        };
        let out = feed.feed.out_ohm().max(LEAST_OHM);
        let by_frame = feed.feed.by_frame(frame_ohm);
        let supply_m = if by_frame { FRAME.to_owned() } else { supply_m };
        let back = if by_frame { LEAST_OHM } else { feed.feed.back_ohm(frame_ohm).max(LEAST_OHM) };
        let own = names.of(&format!("feed {}", feed.id));
        text.line(&format!("R_{own}_p {supply_p} {end}_p {out:e}"));
        text.line(&format!("R_{own}_m {end}_m {supply_m} {back:e}"));
        text.guess(&format!("{end}_p"), network.potential(&solution, Terminal::To(index, Side::Plus)));
        text.guess(&format!("{end}_m"), network.potential(&solution, Terminal::To(index, Side::Minus)));
    }
    if let Some(ohm) = frame_ohm.filter(|_| build.feeds().iter().any(|feed| feed.feed.by_frame(frame_ohm))) {
        text.line(&format!("R_{FRAME} {FRAME} 0 {:e}", ohm.max(LEAST_OHM)));
    }
    for (index, part) in parts.iter().enumerate() {
        converter(&mut text, &names.of(&part.id), part, &network, &solution, index, driven_level(build, part, &point));
    }
    let mut models = Models::default();
    for (index, one) in build.lights.iter().enumerate() {
        let name = names.of(&one.id);
        let driven = orthavis_model::edit::is_driven(build, one);
        light(&mut text, &mut models, &name, one, &network, &solution, index, &point.lights[index], driven, joins.get(&name).map_or(&[], Vec::as_slice));
    }
    for model in models.lines {
        text.line(&model);
    }
    let guesses = std::mem::take(&mut text.guesses);
    Ok(text.out + &guesses + ".op\n.end\n")
}

/// Distance between taps, resistance of a rail, taps.
fn length_of(load: &Load) -> Option<(f64, f64, u32)> {
    match load {
        Load::Strip(strip) => Some((strip.segment_m, strip.rail_ohm_per_m, strip.segments())),
        Load::Pixels(pixels) => Some((pixels.pitch_m, pixels.rail_ohm_per_m, pixels.count)),
        Load::LedArray(_) | Load::Module(_) => None,
    }
}

/// How a scene dims what a current driver feeds.
fn driven_level(build: &Build, part: &Converter, point: &Point) -> f64 {
    let light = build.lights.iter().position(|light| light.feeds.iter().any(|feed| feed.from == part.id));
    light.map_or(1.0, |light| point.lights[light].level)
}

fn converter(text: &mut Text, name: &str, part: &Converter, network: &Network, solution: &Solution, index: usize, level: f64) {
    let flow = network.converter(solution, index);
    text.guess(&format!("{name}_o"), network.potential(solution, Terminal::Out(index, Side::Plus)));
    if !flow.on {
        // Off: nothing passes but what lets the simulator find a voltage.
        text.line(&format!("R_{name}_off {name}_o {name}_m 1e9"));
        return;
    }
    let vin = format!("v({name}_p,{name}_m)");
    text.line(&format!("V_{name}_i {name}_x {name}_o 0"));
    let driver = part.kind() == ConverterKind::CurrentDriver;
    let driven_a = level * part.set_a().unwrap_or(0.0);
    if driver && flow.out_v < part.output_v(flow.in_v).value - 1e-9 {
        text.line(&format!("I_{name} {name}_m {name}_x {driven_a:e}"));
    } else if flow.out_v > part.output_v(flow.in_v).value + 1e-9 && !driver {
        // Another supply holds its output above its own: it gives nothing.
        text.line(&format!("R_{name}_held {name}_x {name}_m 1e9"));
    } else {
        let down = |set_v: f64, dropout_v: f64| format!("min({set_v}, max({vin}-{dropout_v}, 0))");
        let volts = match &part.conversion {
            Conversion::Buck(own) => down(own.set_v, own.dropout_v),
            Conversion::Linear(own) => down(own.set_v, own.dropout_v),
            Conversion::CurrentDriver(own) => format!("max({vin}-{}, 0)", own.dropout_v),
            Conversion::Boost(own) => format!("max({}, {vin}-{})", own.set_v, own.pass_drop_v),
            Conversion::BuckBoost(own) => format!("{}", own.set_v),
        };
        text.line(&format!("B_{name}_o {name}_x {name}_m V={volts}"));
    }
    let amps = match part.conversion.efficiency() {
        None => format!("i(V_{name}_i)+{}", part.idle_a),
        // As it is at this input.
        Some(efficiency) => format!("v({name}_o,{name}_m)*i(V_{name}_i)/({}*max({vin}, 1e-3))+{}", efficiency.at(flow.in_v).value, part.idle_a),
    };
    text.line(&format!("B_{name}_i {name}_p {name}_m I={amps}"));
}

/// Diode models, each written once.
#[derive(Default)]
struct Models {
    lines: Vec<String>,
    seen: Vec<(f64, f64, f64)>,
}

impl Models {
    fn of(&mut self, string: &DiodeString) -> String {
        let (saturation_a, slope_v, rs_ohm, _) = string.shockley();
        let key = (saturation_a, slope_v, rs_ohm);
        let number = self.seen.iter().position(|known| *known == key).unwrap_or_else(|| {
            self.seen.push(key);
            let number = self.seen.len();
            self.lines.push(format!(".model led{number} D(is={saturation_a:e} n={:.9} rs={rs_ohm:e})", slope_v / THERMAL_V));
            number - 1
        });
        format!("led{}", number + 1)
    }
}

#[allow(clippy::too_many_arguments)]
fn light(
    text: &mut Text,
    models: &mut Models,
    name: &str,
    light: &Light,
    network: &Network,
    solution: &Solution,
    index: usize,
    lit: &Lit,
    driven: bool,
    joins: &[(f64, usize)],
) {
    let mut taps: Vec<String> = vec![name.to_owned()];
    if let Some((step, ohm_per_m, count)) = length_of(&light.load) {
        taps = (0..count).map(|tap| format!("{name}_{}", tap + 1)).collect();
        let own = taps.iter().enumerate().map(|(tap, node)| ((tap as f64 + 0.5) * step, node.clone()));
        let mut along: Vec<(f64, String)> = joins.iter().map(|(at_m, number)| (*at_m, format!("{name}_f{number}"))).chain(own).collect();
        along.sort_by(|a, b| a.0.total_cmp(&b.0));
        for (number, pair) in along.windows(2).enumerate() {
            let ohm = ((pair[1].0 - pair[0].0) * ohm_per_m).max(LEAST_OHM);
            for side in ['p', 'm'] {
                text.line(&format!("R_{name}_rail{number}_{side} {}_{side} {}_{side} {ohm:e}", pair[0].1, pair[1].1));
            }
        }
        for (tap, node) in taps.iter().enumerate() {
            text.guess(&format!("{node}_p"), network.potential(solution, Terminal::Rail(index, tap, Side::Plus)));
            text.guess(&format!("{node}_m"), network.potential(solution, Terminal::Rail(index, tap, Side::Minus)));
        }
    }
    let runs: Vec<f64> = network.taps(solution, index, lit).map(|tap| tap.current_a).collect();
    for (tap, node) in taps.iter().enumerate() {
        match &light.load {
            Load::LedArray(array) => {
                let level = if driven { 1.0 } else { lit.level };
                strings(text, models, node, &DiodeString::of_array(array), level * f64::from(array.parallel));
            }
            Load::Strip(strip) => strings(text, models, node, &DiodeString::of_segment(strip), lit.level),
            Load::Pixels(pixels) => {
                let across = format!("v({node}_p,{node}_m)");
                let colour = lit.colour_of(tap);
                let channels = (0..3).map(|channel| {
                    let (off, span) = (pixels.off_v[channel], pixels.regulation_v[channel] - pixels.off_v[channel]);
                    format!("{:e}*min(max(({across}-{off})/{span}, 0), 1)", lit.level * colour[channel] * pixels.channel_a[channel])
                });
                let all: Vec<String> = channels.chain([format!("{:e}*min(max({across}/2.5, 0), 1)", pixels.idle_a)]).collect();
                text.line(&format!("B_{node} {node}_p {node}_m I={}", all.join("+")));
            }
            Load::Module(module) if runs.get(tap).is_some_and(|amps| *amps > 0.0) => bulb(text, node, module, lit.level),
            Load::Module(_) => {}
        }
    }
}

/// Strings that are alike, dimmed: one string at the same voltage, and its current so many times.
fn strings(text: &mut Text, models: &mut Models, node: &str, string: &DiodeString, times: f64) {
    if times == 0.0 {
        return;
    }
    let (.., resistor_ohm) = string.shockley();
    let model = models.of(string);
    text.line(&format!("E_{node} {node}_s 0 {node}_p {node}_m 1"));
    text.line(&format!("V_{node} {node}_s {node}_a 0"));
    text.line(&format!("D_{node} {node}_a {node}_k {model}"));
    text.line(&format!("R_{node} {node}_k 0 {:e}", resistor_ohm.max(LEAST_OHM)));
    text.line(&format!("F_{node} {node}_p {node}_m V_{node} {times}"));
}

fn bulb(text: &mut Text, node: &str, module: &Module, level: f64) {
    let across = format!("v({node}_p,{node}_m)");
    let (watts, volts) = (level * module.power_w, module.voltage_v);
    let amps = match module.draw {
        Draw::ConstantPower => format!("{watts:e}/max({across}, {:e})", 1e-3 * volts),
        Draw::ConstantCurrent => format!("{:e}", watts / volts),
        Draw::Resistive => format!("{:e}*{across}", watts / (volts * volts)),
        Draw::Filament => format!("{:e}*pow(max({across}, {:e})/{volts}, 0.55)", watts / volts, 1e-3 * volts),
    };
    text.line(&format!("B_{node} {node}_p {node}_m I={amps}"));
}
