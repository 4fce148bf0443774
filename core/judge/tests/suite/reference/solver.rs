//! A second solver for the same physics, on the raw JSON of a build: dense, plain and slow.
//!
//! It shares no code with the core. Every tap of a strip is a pair of nodes, the matrix is dense, the forward voltage
//! of an LED is inverted by bisection, and loads are raised in steps where Newton's method fails outright.

use serde_json::{Map, Value, json};

/// Boltzmann's constant times 300 K over the charge of an electron, V.
const THERMAL_V: f64 = 0.02585;

pub fn number(value: &Value, field: &str, default: f64) -> f64 {
    value[field].as_f64().unwrap_or(default)
}

pub fn text<'a>(value: &'a Value, field: &str) -> &'a str {
    value[field].as_str().unwrap_or_default()
}

pub fn list<'a>(value: &'a Value, field: &str) -> &'a [Value] {
    value[field].as_array().map_or(&[], Vec::as_slice)
}

/// mm² of a gauge.
pub fn area_mm2(gauge: &Value) -> f64 {
    let awg = || 0.127 * 92f64.powf((36.0 - number(gauge, "awg", 0.0)) / 39.0);
    gauge["mm2"].as_f64().unwrap_or_else(|| std::f64::consts::PI / 4.0 * awg().powi(2))
}

fn wire_ohm(feed: &Value) -> f64 {
    1.724e-8 * number(feed, "length_m", 0.0) / (area_mm2(&feed["gauge"]) * 1e-6)
}

/// Resistance of the frame, where a feed goes back by it: one conductor for all that do.
pub fn frame_ohm(build: &Value, feed: &Value) -> Option<f64> {
    build["vehicle"]["frame_return_ohm"].as_f64().filter(|_| text(feed, "return") == "frame")
}

/// Out, and back where that is by wire, ohm.
pub fn feed_ohm(build: &Value, feed: &Value) -> (f64, f64) {
    let mut out = wire_ohm(feed) + 0.01 * number(feed, "contacts", 0.0) + number(&feed["moving"], "resistance_ohm", 0.0);
    if !feed["fuse"].is_null() {
        out += 0.09 / number(&feed["fuse"], "rating_a", 0.0);
    }
    if !feed["switch"].is_null() {
        out += 0.01;
    }
    (out, if frame_ohm(build, feed).is_some() { 0.0 } else { wire_ohm(feed) })
}

/// All feeds with their names and consumers, in the order of the contract.
pub fn feeds(build: &Value) -> Vec<(String, String, Value)> {
    let mut all = Vec::new();
    for part in list(build, "junctions").iter().chain(list(build, "converters")) {
        all.push((text(part, "id").to_owned(), text(part, "id").to_owned(), part["feed"].clone()));
    }
    for light in list(build, "lights") {
        for (index, feed) in list(light, "feeds").iter().enumerate() {
            let id = text(light, "id");
            all.push((if index == 0 { id.to_owned() } else { format!("{id}#{index}") }, id.to_owned(), feed.clone()));
        }
    }
    all
}

/// Rested cell voltage at 0, 0.1 … 1; usable fraction, Peukert exponent, charging volts a cell, mΩ·Ah a cell.
fn chemistry(name: &str) -> ([f64; 11], f64, f64, Option<f64>, f64) {
    match name {
        "li_ion" => ([3.0, 3.45, 3.58, 3.63, 3.67, 3.72, 3.80, 3.89, 3.98, 4.08, 4.20], 0.8, 1.03, Some(4.2), 110.0),
        "lipo" => ([3.27, 3.69, 3.73, 3.77, 3.79, 3.82, 3.87, 3.95, 4.02, 4.11, 4.2], 0.8, 1.03, Some(4.2), 25.0),
        "lifepo4" => ([2.5, 3.0, 3.2, 3.22, 3.25, 3.26, 3.27, 3.3, 3.32, 3.35, 3.4], 0.85, 1.02, Some(3.65), 60.0),
        "lead_flooded" => ([1.893, 1.918, 1.943, 1.968, 1.993, 2.017, 2.04, 2.062, 2.083, 2.103, 2.122], 0.5, 1.2, Some(2.45), 80.0),
        "lead_agm" => ([1.92, 1.945, 1.967, 1.99, 2.012, 2.033, 2.055, 2.077, 2.098, 2.12, 2.142], 0.5, 1.1, Some(2.42), 50.0),
        "nimh" => ([1.0, 1.18, 1.21, 1.23, 1.24, 1.25, 1.26, 1.28, 1.3, 1.34, 1.4], 0.9, 1.05, Some(1.55), 60.0),
        "lithium_coin" => ([2.0, 2.6, 2.75, 2.84, 2.89, 2.92, 2.94, 2.96, 2.98, 3.0, 3.2], 0.9, 1.2, None, 4400.0),
        _ => ([0.9, 1.06, 1.13, 1.18, 1.22, 1.25, 1.29, 1.33, 1.38, 1.45, 1.58], 0.9, 1.15, None, 300.0),
    }
}

/// Open-circuit voltage, V, and resistance, ohm, of the source in a state.
pub fn thevenin(build: &Value, state: &str) -> (f64, f64) {
    let source = &build["source"];
    if text(source, "kind") == "rail" {
        return (number(source, "voltage_v", 0.0), number(source, "resistance_ohm", 0.0));
    }
    let (_, usable, _, charge, _) = chemistry(text(source, "chemistry"));
    if state == "under_way" {
        // The motor's current through the pack takes its part, half of it at most.
        let (emf, ohm) = thevenin(build, "reserve");
        let sag = number(&build["vehicle"]["propulsion"], "power_w", 0.0) * ohm / emf;
        return (emf - sag.min(0.5 * emf), ohm);
    }
    let soc = match state {
        "charging" => return (number(source, "series", 0.0) * number(source, "charge_v", charge.unwrap_or(0.0)), 0.0),
        "full" => 1.0,
        "half" => 0.5,
        _ => 1.0 - number(source, "usable_fraction", usable),
    };
    at_soc(source, soc)
}

fn at_soc(source: &Value, soc: f64) -> (f64, f64) {
    let (ocv, _, _, _, milliohm) = chemistry(text(source, "chemistry"));
    let series = number(source, "series", 0.0);
    let below = ((soc * 10.0).floor() as usize).min(9);
    let cell = ocv[below] + (soc * 10.0 - below as f64) * (ocv[below + 1] - ocv[below]);
    (series * cell, number(source, "resistance_ohm", series * milliohm / 1000.0 / number(source, "capacity_ah", 0.0)))
}

/// What a charger holds a cell of this chemistry at, V.
pub fn charging_v(build: &Value) -> Option<f64> {
    chemistry(text(&build["source"], "chemistry")).3
}

pub fn states(build: &Value) -> Vec<&'static str> {
    let source = &build["source"];
    if text(source, "kind") == "rail" {
        return vec!["rail"];
    }
    let held = source["used_while_charging"] == true || text(source, "charged_by") == "engine";
    let charging = held && charging_v(build).is_some();
    let moves = number(&build["vehicle"]["propulsion"], "power_w", 0.0) > 0.0;
    let all = [("charging", charging), ("full", true), ("half", true), ("reserve", true), ("under_way", moves)];
    all.into_iter().filter_map(|(state, there)| there.then_some(state)).collect()
}

/// Level and colour of a light.
pub type Lit = (f64, [f64; 3]);

/// How a scene lights a light.
pub fn lit(scene: &Value, id: &str) -> Lit {
    let here = &scene["lights"][id];
    let colour = |c: usize| here["colour"][c].as_f64().unwrap_or(1.0);
    (if here.is_null() { 0.0 } else { number(here, "level", 1.0) }, [colour(0), colour(1), colour(2)])
}

/// Whether a scene asks a load for light.
pub fn asked(load: &Value, (level, colour): Lit) -> bool {
    level > 0.0 && (text(load, "kind") != "pixels" || (0..3).any(|c| colour[c] * load["channel_a"][c].as_f64().unwrap_or(0.0) > 0.0))
}

/// Current of one string of LEDs behind a resistor, A.
pub fn string_a(led: (f64, f64, f64, f64), series: f64, ohm: f64, volts: f64) -> f64 {
    let (vf, rated, n, rs) = led;
    let at = |log: f64| series * (vf + n * THERMAL_V * (log - rated.ln()) + rs * (log.exp() - rated)) + ohm * log.exp();
    let (mut low, mut high) = (-100.0f64, 8.0f64);
    if volts <= 0.0 || at(low) > volts {
        return 0.0;
    }
    for _ in 0..60 {
        let middle = 0.5 * (low + high);
        if at(middle) < volts { low = middle } else { high = middle }
    }
    low.exp()
}

/// One tap of a light: its current, A, and its output relative to rated (pixels: to what is asked).
fn tap(load: &Value, level: f64, colour: [f64; 3], driven: bool, runs: bool, volts: f64) -> (f64, f64) {
    let led = |vf: f64, rated: f64, n: &Value, rs: &Value| (vf, rated, n.as_f64().unwrap_or(2.0), rs.as_f64().unwrap_or(0.08 * vf / rated));
    match text(load, "kind") {
        "led_array" => {
            let parallel = number(load, "parallel", 1.0);
            // A driver dims by its own current; the array behind it is not pulsed.
            let pulse = if driven && level > 0.0 { 1.0 } else { level };
            let current = pulse * parallel * string_of(load, volts);
            (current, current / (parallel * number(&load["led"], "if_a", 0.0)))
        }
        "strip" => {
            let (volt, count, vf) = (number(load, "voltage_v", 0.0), number(load, "leds_per_segment", 0.0), number(load, "led_vf_v", 0.0));
            let rated = number(load, "power_w_per_m", 0.0) * number(load, "segment_m", 0.0) / volt;
            let one = led(vf, rated, &Value::Null, &Value::Null);
            if load["recut"].is_object() {
                let (rows, used) = (number(&load["recut"], "groups", 1.0), number(&load["recut"], "used", 1.0));
                let current = level * rows * string_a(one, used / rows, number(&load["recut"], "resistor_ohm", 0.0), volts);
                return (current, current / (rows * rated));
            }
            let current = level * string_a(one, count, (volt - count * vf) / rated, volts);
            (current, current / rated)
        }
        "pixels" => {
            let (mut light, mut asked) = (0.0, 0.0);
            for (channel, share) in colour.iter().enumerate() {
                let of = |field: &str| load[field][channel].as_f64().unwrap_or(0.0);
                let most = level * share * of("channel_a");
                asked += most;
                light += most * ((volts - of("off_v")) / (of("regulation_v") - of("off_v"))).clamp(0.0, 1.0);
            }
            let idle = number(load, "idle_a", 0.0) * (volts / 2.5).clamp(0.0, 1.0);
            (light + idle, if asked > 0.0 { light / asked } else { 0.0 })
        }
        _ => {
            let (volt, power) = (number(load, "voltage_v", 0.0), number(load, "power_w", 0.0));
            let ratio = (volts / volt).max(0.0);
            let current = level
                * match text(load, "draw") {
                    "resistive" => power * ratio / volt,
                    "filament" => power / volt * ratio.powf(0.55),
                    _ if !runs => 0.0,
                    "constant_power" => power / volts,
                    _ => power / volt,
                };
            let output = match text(load, "draw") {
                "filament" => level * ratio.powf(3.4),
                "constant_power" => current * volts / power,
                _ => current * volt / power,
            };
            (current, output)
        }
    }
}

fn string_of(load: &Value, volts: f64) -> f64 {
    let led = &load["led"];
    let (vf, rated) = (number(led, "vf_v", 0.0), number(led, "if_a", 0.0));
    let law = (vf, rated, number(led, "n", 2.0), number(led, "rs_ohm", 0.08 * vf / rated));
    // Through a resistor that all rows share flows the current of all of them.
    let rows = if load["shared_resistor"] == true { number(load, "parallel", 1.0) } else { 1.0 };
    string_a(law, number(load, "series", 1.0), rows * number(load, "resistor_ohm", 0.0), volts)
}

struct Light {
    load: Value,
    id: String,
    taps: Vec<(usize, usize)>,
    entry: (usize, usize),
    /// The converter that drives it, when that is a current driver.
    driver: Option<usize>,
    /// Both rails, piece by piece.
    rails: Vec<(usize, usize, f64)>,
}

struct Converter {
    part: Value,
    input: (usize, usize),
    out: usize,
    /// Shares a strip with another supply.
    shares: bool,
}

/// Nodes and elements of a build; node 0 is the source's minus, node 1 its plus.
pub struct Net<'a> {
    build: &'a Value,
    nodes: usize,
    wires: Vec<(usize, usize, f64)>,
    /// Each feed: its name, plus and minus of supply and consumer, ohm out and back, and where its way back ends.
    runs: Vec<(String, [usize; 4], f64, f64, usize)>,
    lights: Vec<Light>,
    converters: Vec<Converter>,
}

/// A state of affairs: source, how each light is lit, what runs.
struct Moment<'m> {
    emf_v: f64,
    ohm: f64,
    lit: &'m [Lit],
    converters: Vec<bool>,
    lights: Vec<bool>,
    /// Every load is scaled by this on the way to one.
    share: f64,
}

pub struct Solved {
    x: Vec<f64>,
    running: (Vec<bool>, Vec<bool>),
    emf_v: f64,
    ohm: f64,
}

/// What keeps the output of a resting converter from floating, S.
const LEAK_S: f64 = 1e-3;

impl<'a> Net<'a> {
    pub fn new(build: &'a Value) -> Self {
        let mut net = Net { build, nodes: 2, wires: Vec::new(), runs: Vec::new(), lights: Vec::new(), converters: Vec::new() };
        // Where each supplier and consumer is; a converter's output shares its input's minus.
        let mut gives: Map<String, Value> = Map::new();
        gives.insert("source".into(), json!([1, 0]));
        let mut takes: Map<String, Value> = Map::new();
        for junction in list(build, "junctions") {
            let pair = net.pair();
            gives.insert(text(junction, "id").into(), json!([pair.0, pair.1]));
            takes.insert(text(junction, "id").into(), json!([[pair.0, pair.1]]));
        }
        for part in list(build, "converters") {
            let input = net.pair();
            let out = net.node();
            gives.insert(text(part, "id").into(), json!([out, input.1]));
            takes.insert(text(part, "id").into(), json!([[input.0, input.1]]));
            let above = |feed: &Value| super::judge::supplier(build, text(feed, "from"));
            let shares = list(build, "lights").iter().any(|light| {
                let from: Vec<String> = list(light, "feeds").iter().map(above).collect();
                from.iter().any(|id| id == text(part, "id")) && from.iter().any(|id| id != text(part, "id"))
            });
            net.converters.push(Converter { part: part.clone(), input, out, shares });
        }
        for light in list(build, "lights") {
            let ends = net.light(light);
            takes.insert(text(light, "id").into(), json!(ends));
        }
        let mut seen: Map<String, Value> = Map::new();
        // One frame for all.
        let frame = feeds(build).iter().find_map(|(.., feed)| frame_ohm(build, feed)).map(|ohm| {
            let node = net.node();
            net.wire(node, 0, ohm);
            node
        });
        for (name, consumer, feed) in feeds(build) {
            let turn = seen.get(&consumer).and_then(Value::as_u64).unwrap_or(0);
            seen.insert(consumer.clone(), json!(turn + 1));
            let at = |pair: &Value, side: usize| pair[side].as_u64().expect("a node") as usize;
            let (from, to) = (&gives[text(&feed, "from")], &takes[&consumer][turn as usize]);
            let nodes = [at(from, 0), at(from, 1), at(to, 0), at(to, 1)];
            let (out, back) = feed_ohm(build, &feed);
            net.wire(nodes[0], nodes[2], out);
            let ends = frame.filter(|_| frame_ohm(build, &feed).is_some()).unwrap_or(nodes[1]);
            net.wire(nodes[3], ends, back);
            net.runs.push((name, nodes, out.max(1e-7), back.max(1e-7), ends));
        }
        net
    }

    fn node(&mut self) -> usize {
        self.nodes += 1;
        self.nodes - 1
    }

    fn pair(&mut self) -> (usize, usize) {
        (self.node(), self.node())
    }

    fn wire(&mut self, a: usize, b: usize, ohm: f64) {
        self.wires.push((a, b, 1.0 / ohm.max(1e-7)));
    }

    /// Nodes of a light; gives where its feeds join.
    fn light(&mut self, light: &Value) -> Vec<(usize, usize)> {
        let load = light["load"].clone();
        let (pitch, count) = match text(&load, "kind") {
            "strip" => (number(&load, "segment_m", 0.0), (number(&load, "length_m", 0.0) / number(&load, "segment_m", 1.0) + 1e-9).floor() as usize),
            "pixels" => (number(&load, "pitch_m", 0.0), number(&load, "count", 0.0) as usize),
            _ => (0.0, 1),
        };
        let mut places: Vec<(f64, (usize, usize))> = Vec::new();
        let mut at = |net: &mut Self, metres: f64| match places.iter().find(|(place, _)| (place - metres).abs() < 1e-12) {
            Some((_, pair)) => *pair,
            None => {
                let pair = net.pair();
                places.push((metres, pair));
                pair
            }
        };
        let along = pitch > 0.0;
        let taps: Vec<_> = (0..count).map(|i| at(self, (i as f64 + 0.5) * pitch)).collect();
        let ends: Vec<_> = list(light, "feeds").iter().map(|feed| at(self, if along { number(feed, "at_m", 0.0) } else { 0.0 })).collect();
        places.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut rails = Vec::new();
        for next in places.windows(2) {
            let ohm = number(&load, "rail_ohm_per_m", 0.0) * (next[1].0 - next[0].0);
            for (a, b) in [(next[0].1.0, next[1].1.0), (next[0].1.1, next[1].1.1)] {
                self.wire(a, b, ohm);
                rails.push((a, b, ohm));
            }
        }
        let from = text(&light["feeds"][0], "from");
        let driver = self.converters.iter().position(|c| text(&c.part, "id") == from && text(&c.part, "kind") == "current_driver");
        self.lights.push(Light { load, id: text(light, "id").into(), taps, entry: ends[0], driver, rails });
        ends
    }

    fn leak_s(&self, index: usize, moment: &Moment) -> f64 {
        let idles = self.lights.iter().zip(moment.lit).any(|(light, lit)| light.driver == Some(index) && lit.0 == 0.0);
        match (moment.converters[index] && !idles, self.converters[index].shares) {
            (true, _) => 0.0,
            // Held by the other supply already; more would be a load of its own.
            (false, true) => 1e-7,
            (false, false) => LEAK_S,
        }
    }

    /// Input current of a converter, A, and what is wrong with its output.
    fn converter_laws(&self, index: usize, moment: &Moment, x: &[f64]) -> (f64, f64) {
        let Converter { part, input, out, shares } = &self.converters[index];
        let (volts_in, volts_out, current) = (x[input.0] - x[input.1], x[*out] - x[input.1], x[self.nodes + index]);
        if !moment.converters[index] {
            return (0.0, current);
        }
        let (set, drop) = (number(part, "set_v", 0.0), number(part, "dropout_v", 0.0));
        let idle = number(part, "idle_a", 0.0);
        let input_a = if text(part, "kind") == "linear" { current + idle } else { volts_out * current / (efficiency(part, volts_in) * volts_in) + idle };
        // Where another supply holds its output higher it gives nothing.
        let idle_or = |law: f64| if *shares { law.min(current) } else { law };
        let law = match text(part, "kind") {
            "boost" => idle_or(volts_out - set.max(volts_in - number(part, "pass_drop_v", 0.0))),
            "buck_boost" => idle_or(volts_out - set),
            "current_driver" => {
                let light = self.lights.iter().position(|light| light.driver == Some(index));
                let wanted = light.map_or(0.0, |light| moment.lit[light].0) * number(part, "set_a", 0.0) * moment.share;
                (current - wanted).max(volts_out - (volts_in - drop))
            }
            _ => idle_or(volts_out - set.min(volts_in - drop)),
        };
        (input_a, law)
    }

    fn tap_a(&self, light: usize, moment: &Moment, volts: f64) -> f64 {
        let Light { load, driver, .. } = &self.lights[light];
        let (level, colour) = moment.lit[light];
        let share = if driver.is_some() { 1.0 } else { moment.share };
        share * tap(load, level, colour, driver.is_some(), moment.lights[light], volts).0
    }

    /// Imbalance of every node but ground, A, then the law of every converter.
    fn residual(&self, moment: &Moment, x: &[f64]) -> Vec<f64> {
        let mut sums = vec![0.0; x.len()];
        sums[1] += (x[1] - moment.emf_v) / moment.ohm + self.standing_a();
        for (a, b, siemens) in &self.wires {
            let current = (x[*a] - x[*b]) * siemens;
            sums[*a] += current;
            sums[*b] -= current;
        }
        for (index, light) in self.lights.iter().enumerate() {
            for (plus, minus) in &light.taps {
                let current = self.tap_a(index, moment, x[*plus] - x[*minus]);
                sums[*plus] += current;
                sums[*minus] -= current;
            }
        }
        for (index, converter) in self.converters.iter().enumerate() {
            let (input_a, law) = self.converter_laws(index, moment, x);
            let leak = self.leak_s(index, moment) * (x[converter.out] - x[converter.input.1]);
            let current = x[self.nodes + index];
            sums[converter.input.0] += input_a;
            sums[converter.input.1] -= input_a - current + leak;
            sums[converter.out] += leak - current;
            sums[self.nodes + index] = law;
        }
        sums[0] = 0.0;
        sums
    }

    pub fn standing_a(&self) -> f64 {
        number(&self.build["source"], "other_load_a", 0.0) + list(self.build, "standing").iter().map(|load| number(load, "current_a", 0.0)).sum::<f64>()
    }

    /// Slopes of the residual: wires exactly, the rest by small differences.
    fn slopes(&self, moment: &Moment, x: &[f64]) -> Vec<Vec<f64>> {
        let mut matrix = vec![vec![0.0; x.len()]; x.len()];
        let mut between = |a: usize, b: usize, siemens: f64| {
            matrix[a][a] += siemens;
            matrix[a][b] -= siemens;
            matrix[b][b] += siemens;
            matrix[b][a] -= siemens;
        };
        self.wires.iter().for_each(|(a, b, siemens)| between(*a, *b, *siemens));
        for (index, light) in self.lights.iter().enumerate() {
            for (plus, minus) in &light.taps {
                let (volts, h) = (x[*plus] - x[*minus], 1e-6);
                between(*plus, *minus, (self.tap_a(index, moment, volts + h) - self.tap_a(index, moment, volts - h)) / (2.0 * h));
            }
        }
        matrix[1][1] += 1.0 / moment.ohm;
        for (index, converter) in self.converters.iter().enumerate() {
            let (plus, minus, out, own) = (converter.input.0, converter.input.1, converter.out, self.nodes + index);
            for column in [plus, minus, out, own] {
                let (mut up, mut down, h) = (x.to_vec(), x.to_vec(), 1e-6);
                up[column] += h;
                down[column] -= h;
                let (above, below) = (self.converter_laws(index, moment, &up), self.converter_laws(index, moment, &down));
                let slope = (above.0 - below.0) / (2.0 * h);
                matrix[plus][column] += slope;
                matrix[minus][column] -= slope;
                matrix[own][column] += (above.1 - below.1) / (2.0 * h);
            }
            let leak = self.leak_s(index, moment);
            matrix[minus][own] += 1.0;
            matrix[out][own] -= 1.0;
            matrix[out][out] += leak;
            matrix[out][minus] -= leak;
            matrix[minus][out] -= leak;
            matrix[minus][minus] += leak;
        }
        matrix[0].fill(0.0);
        matrix[0][0] = 1.0;
        matrix
    }

    fn newton(&self, moment: &Moment, start: &[f64]) -> Option<Vec<f64>> {
        let mut x = start.to_vec();
        let norm = |r: &[f64]| r.iter().map(|v| v * v).sum::<f64>();
        let mut rest = self.residual(moment, &x);
        for _ in 0..80 {
            if !norm(&rest).is_finite() {
                return None;
            }
            if rest.iter().all(|r| r.abs() < 1e-7) {
                return Some(x);
            }
            let step = eliminate(self.slopes(moment, &x), rest.clone())?;
            let longest = step.iter().fold(0.0f64, |most, s| most.max(s.abs()));
            let mut share = (20.0 / longest).min(1.0);
            loop {
                let trial: Vec<f64> = x.iter().zip(&step).map(|(x, s)| x - share * s).collect();
                let there = self.residual(moment, &trial);
                if norm(&there) < norm(&rest) || share < 1e-3 {
                    (x, rest) = (trial, there);
                    break;
                }
                share *= 0.5;
            }
        }
        None
    }

    /// Newton from `near`; failing that, with all loads raised from nothing.
    fn find(&self, moment: &mut Moment, near: Option<&[f64]>) -> Option<Vec<f64>> {
        moment.share = 1.0;
        // Consumers start at the source's voltage: converters need an input to begin with.
        let mut cold: Vec<f64> = (0..self.nodes + self.converters.len()).map(|node| if node == 1 { moment.emf_v } else { 0.0 }).collect();
        for (_, nodes, ..) in &self.runs {
            cold[nodes[2]] = moment.emf_v;
        }
        for converter in &self.converters {
            cold[converter.input.0] = moment.emf_v;
            cold[converter.out] = number(&converter.part, "set_v", 0.5 * moment.emf_v);
        }
        if let Some(found) = near.and_then(|near| self.newton(moment, near)).or_else(|| self.newton(moment, &cold)) {
            return Some(found);
        }
        moment.share = 0.0;
        let mut x = self.newton(moment, &cold)?;
        let mut step = 0.1;
        let mut done = 0.0f64;
        while done < 1.0 {
            moment.share = (done + step).min(1.0);
            match self.newton(moment, &x) {
                Some(found) => (x, done) = (found, moment.share),
                None if step < 1e-3 => return None,
                None => step *= 0.5,
            }
        }
        Some(x)
    }

    /// Solves one moment; `None` where nothing settles.
    pub fn solve(&self, from: (f64, f64), lit: &[Lit], near: Option<&Solved>) -> Option<Solved> {
        self.settle(from, lit, near, false).or_else(|| self.settle(from, lit, near, true)).or_else(|| self.any_balance(from, lit))
    }

    fn windowed(&self, light: usize, lit: &[Lit]) -> bool {
        lit[light].0 > 0.0 && ["constant_power", "constant_current"].contains(&text(&self.lights[light].load, "draw"))
    }

    fn starts(&self, converter: usize, x: &[f64]) -> bool {
        let Converter { part, input, .. } = &self.converters[converter];
        x[input.0] - x[input.1] >= number(part, "min_in_v", 0.0)
    }

    fn inside(&self, light: usize, x: &[f64]) -> bool {
        let Light { load, entry, .. } = &self.lights[light];
        let volts = x[entry.0] - x[entry.1];
        volts >= number(load, "min_v", 0.0) && volts <= number(load, "max_v", f64::INFINITY)
    }

    /// Every choice of what runs, one after another, until one agrees with its own voltages.
    fn any_balance(&self, (emf_v, ohm): (f64, f64), lit: &[Lit]) -> Option<Solved> {
        let lights: Vec<usize> = (0..self.lights.len()).filter(|i| self.windowed(*i, lit)).collect();
        let count = self.converters.len();
        (0..1u32 << (count + lights.len())).rev().find_map(|choice| {
            let runs = |unit: usize| choice >> unit & 1 == 1;
            let mut moment =
                Moment { emf_v, ohm: ohm.max(1e-7), lit, converters: (0..count).map(runs).collect(), lights: vec![true; self.lights.len()], share: 1.0 };
            for (unit, light) in lights.iter().enumerate() {
                moment.lights[*light] = runs(count + unit);
            }
            // Nothing runs behind a converter at rest.
            let fed =
                |id: &str| moment.lights.iter().zip(&self.lights).all(|(on, light)| light.id != id || !on || !lights.iter().any(|i| self.lights[*i].id == id));
            let resting = (0..count).filter(|i| !moment.converters[*i]).flat_map(|i| below(self.build, text(&self.converters[i].part, "id")));
            let sound = |id: String| fed(&id) && self.converters.iter().zip(&moment.converters).all(|(c, on)| text(&c.part, "id") != id || !on);
            if !resting.into_iter().all(sound) {
                return None;
            }
            let x = self.find(&mut moment, None)?;
            let agrees = (0..count).all(|i| moment.converters[i] == self.starts(i, &x)) && lights.iter().all(|i| moment.lights[*i] == self.inside(*i, &x));
            agrees.then_some(Solved { x, running: (moment.converters, moment.lights), emf_v, ohm: ohm.max(1e-7) })
        })
    }

    /// Everything runs to begin with; what cannot is switched off one after another, converters or lights first.
    fn settle(&self, (emf_v, ohm): (f64, f64), lit: &[Lit], near: Option<&Solved>, lights_first: bool) -> Option<Solved> {
        let mut moment =
            Moment { emf_v, ohm: ohm.max(1e-7), lit, converters: vec![true; self.converters.len()], lights: vec![true; self.lights.len()], share: 1.0 };
        loop {
            let start = near.filter(|near| near.running == (moment.converters.clone(), moment.lights.clone())).map(|near| near.x.as_slice());
            let x = self.find(&mut moment, start)?;
            let converter = (0..self.converters.len()).find(|i| moment.converters[*i] && !self.starts(*i, &x));
            let light = (0..self.lights.len()).find(|i| moment.lights[*i] && self.windowed(*i, lit) && !self.inside(*i, &x));
            match (converter, light) {
                (_, Some(index)) if lights_first || converter.is_none() => moment.lights[index] = false,
                (Some(index), _) => {
                    // What hangs below it rests too.
                    let rests = below(self.build, text(&self.converters[index].part, "id"));
                    for (i, converter) in self.converters.iter().enumerate() {
                        moment.converters[i] &= !rests.iter().any(|id| id == text(&converter.part, "id"));
                    }
                    for (i, light) in self.lights.iter().enumerate() {
                        moment.lights[i] &= !self.windowed(i, lit) || !rests.contains(&light.id);
                    }
                }
                _ => {
                    let again = (0..self.converters.len()).any(|i| !moment.converters[i] && self.starts(i, &x))
                        || (0..self.lights.len()).any(|i| !moment.lights[i] && self.inside(i, &x));
                    return (!again).then_some(Solved { x, running: (moment.converters, moment.lights), emf_v, ohm: ohm.max(1e-7) });
                }
            }
        }
    }

    /// What the source gives, A.
    pub fn source_a(&self, solved: &Solved) -> f64 {
        (solved.emf_v - solved.x[1]) / solved.ohm
    }

    /// Mean output of each light.
    pub fn outputs(&self, solved: &Solved, lit: &[Lit]) -> Vec<f64> {
        let mean = |(index, light): (usize, &Light)| {
            let taps = light.taps.iter().map(|(p, m)| self.at(index, lit, solved, solved.x[*p] - solved.x[*m]).1);
            taps.sum::<f64>() / light.taps.len().max(1) as f64
        };
        self.lights.iter().enumerate().map(mean).collect()
    }

    fn at(&self, index: usize, lit: &[Lit], solved: &Solved, volts: f64) -> (f64, f64) {
        let light = &self.lights[index];
        tap(&light.load, lit[index].0, lit[index].1, light.driver.is_some(), solved.running.1[index], volts)
    }

    /// One point of the report.
    pub fn report(&self, scene: &str, state: &str, solved: &Solved, lit: &[Lit]) -> Value {
        let x = &solved.x;
        let mut feeds = Map::new();
        for (name, [from, from_minus, to, to_minus], out, back, ends) in &self.runs {
            let (there, here) = (x[*from] - x[*to], x[*to_minus] - x[*ends]);
            // Of the frame's loss each bears what its own current makes there.
            let shared = if ends == from_minus { 0.0 } else { x[*ends] * here / back };
            let loss_w = there * there / out + here * here / back + shared;
            let figures = json!({ "current_a": there / out, "back_a": here / back, "drop_v": there + x[*to_minus] - x[*from_minus], "loss_w": loss_w });
            feeds.insert(name.clone(), figures);
        }
        let mut converters = Map::new();
        for (index, converter) in self.converters.iter().enumerate() {
            let moment = Moment { emf_v: 0.0, ohm: 1.0, lit, converters: solved.running.0.clone(), lights: solved.running.1.clone(), share: 1.0 };
            let (in_v, out_v) = (x[converter.input.0] - x[converter.input.1], x[converter.out] - x[converter.input.1]);
            let (in_a, out_a) = (self.converter_laws(index, &moment, x).0, x[self.nodes + index]);
            let on = solved.running.0[index];
            let figures = json!({ "on": on, "in_v": in_v, "in_a": in_a, "out_v": out_v, "out_a": out_a, "loss_w": in_v * in_a - out_v * out_a });
            converters.insert(text(&converter.part, "id").into(), figures);
        }
        let mut lights = Map::new();
        for (index, light) in self.lights.iter().enumerate() {
            let taps: Vec<(f64, f64, f64)> = light
                .taps
                .iter()
                .map(|(plus, minus)| {
                    let volts = x[*plus] - x[*minus];
                    let (current, output) = self.at(index, lit, solved, volts);
                    (volts, current, output)
                })
                .collect();
            let sum = |of: fn(&(f64, f64, f64)) -> f64| taps.iter().map(of).sum::<f64>();
            let least = |of: fn(&(f64, f64, f64)) -> f64| taps.iter().map(of).fold(f64::INFINITY, f64::min);
            let most = |of: fn(&(f64, f64, f64)) -> f64| taps.iter().map(of).fold(f64::NEG_INFINITY, f64::max);
            let entry = x[light.entry.0] - x[light.entry.1];
            let mut figures = json!({ "voltage_v": entry, "current_a": sum(|t| t.1), "power_w": sum(|t| t.0 * t.1), "output": sum(|t| t.2) / taps.len().max(1) as f64,
                "lowest_v": least(|t| t.0), "lowest_output": least(|t| t.2), "highest_v": most(|t| t.0).max(entry), "highest_output": most(|t| t.2).max(0.0) });
            if ["strip", "pixels"].contains(&text(&light.load, "kind")) {
                figures["rail_a"] = json!(light.rails.iter().map(|(a, b, ohm)| ((x[*a] - x[*b]) / ohm).abs()).fold(0.0, f64::max));
            }
            if text(&light.load, "kind") == "led_array" {
                let string = string_of(&light.load, entry);
                figures["string_a"] = json!(string);
                let through = if light.load["shared_resistor"] == true { string * number(&light.load, "parallel", 1.0) } else { string };
                figures["resistor_w"] = json!(through * through * number(&light.load, "resistor_ohm", 0.0));
            }
            lights.insert(light.id.clone(), figures);
        }
        let source = json!({ "emf_v": solved.emf_v, "terminal_v": x[1], "current_a": self.source_a(solved) });
        json!({ "scene": scene, "state": state, "source": source, "feeds": feeds, "converters": converters, "lights": lights })
    }
}

/// A supplier and everything that it feeds, by id.
fn below(build: &Value, id: &str) -> Vec<String> {
    let fed = feeds(build).into_iter().filter(|(_, _, feed)| text(feed, "from") == id);
    std::iter::once(id.to_owned()).chain(fed.flat_map(|(_, consumer, _)| below(build, &consumer))).collect()
}

fn efficiency(part: &Value, volts: f64) -> f64 {
    let Some(table) = part["efficiency"].as_array() else { return number(part, "efficiency", 1.0) };
    let at = |i: usize| (number(&table[i], "vin_v", 0.0), number(&table[i], "efficiency", 1.0));
    let last = table.len() - 1;
    match (0..=last).find(|i| at(*i).0 >= volts) {
        None => at(last).1,
        Some(0) => at(0).1,
        Some(i) => at(i - 1).1 + (volts - at(i - 1).0) / (at(i).0 - at(i - 1).0) * (at(i).1 - at(i - 1).1),
    }
}

/// Gauss with row pivoting.
fn eliminate(mut matrix: Vec<Vec<f64>>, mut right: Vec<f64>) -> Option<Vec<f64>> {
    let size = right.len();
    for column in 0..size {
        let pivot = (column..size).max_by(|a, b| matrix[*a][column].abs().total_cmp(&matrix[*b][column].abs()))?;
        if matrix[pivot][column].abs() < 1e-30 {
            return None;
        }
        matrix.swap(column, pivot);
        right.swap(column, pivot);
        let (top, below) = matrix.split_at_mut(column + 1);
        let row = &top[column];
        for (offset, other) in below.iter_mut().enumerate() {
            let factor = other[column] / row[column];
            if factor != 0.0 {
                for (entry, above) in other[column..].iter_mut().zip(&row[column..]) {
                    *entry -= factor * above;
                }
                right[column + 1 + offset] -= factor * right[column];
            }
        }
    }
    for column in (0..size).rev() {
        let rest: f64 = (column + 1..size).map(|k| matrix[column][k] * right[k]).sum();
        right[column] = (right[column] - rest) / matrix[column][column];
    }
    Some(right)
}

/// Hours and ampere-hours from full to reserve or darkness, in small steps of charge.
pub fn endurance(build: &Value, net: &Net, scene: &Value) -> Option<(Option<f64>, Option<f64>, &'static str)> {
    let source = &build["source"];
    let (_, usable, peukert, _, _) = chemistry(text(source, "chemistry"));
    let (usable, peukert) = (number(source, "usable_fraction", usable), number(source, "peukert", peukert));
    let capacity = number(source, "capacity_ah", 0.0);
    let rated = capacity / number(source, "rated_hours", if text(source, "chemistry").starts_with("lead") { 20.0 } else { 5.0 });
    let steps = 80;
    let (mut hours, mut ah, mut idle) = (0.0, 0.0, false);
    let all: Vec<Lit> = list(build, "lights").iter().map(|light| lit(scene, text(light, "id"))).collect();
    let mut last: Option<Solved> = None;
    for step in 0..steps {
        let soc = 1.0 - usable * (step as f64 + 0.5) / f64::from(steps);
        let full = net.solve(at_soc(source, soc), &all, last.as_ref())?;
        let outputs = net.outputs(&full, &all);
        let loads = list(build, "lights");
        let on: Vec<usize> = (0..all.len()).filter(|i| asked(&loads[*i]["load"], all[*i])).collect();
        let share = |i: &usize| if text(&loads[*i]["load"], "kind") == "pixels" { outputs[*i] } else { outputs[*i] / all[*i].0 };
        if !on.is_empty() && on.iter().all(|i| share(i) < 0.1) {
            return Some((Some(hours), Some(ah), "dark"));
        }
        let mut mean = net.source_a(&full);
        for light in on {
            let duty = number(&scene["lights"][text(&list(build, "lights")[light], "id")], "duty", 1.0);
            if duty < 1.0 {
                let mut without = all.clone();
                without[light] = (0.0, [1.0; 3]);
                let rest = net.solve(at_soc(source, soc), &without, None)?;
                mean -= (1.0 - duty) * (net.source_a(&full) - net.source_a(&rest));
            }
        }
        last = Some(full);
        mean = mean.max(net.standing_a());
        if mean <= 1e-12 {
            idle = true;
            continue;
        }
        let time = capacity * usable / f64::from(steps) / (mean * (mean / rated).max(1.0).powf(peukert - 1.0));
        hours += time;
        ah += time * mean;
    }
    Some(if idle { (None, None, "reserve") } else { (Some(hours), Some(ah), "reserve") })
}
