//! The parts list: counted, with spares, in packs as sold, less what lies in the drawer; with price, mass and the tools.

use crate::cuts::{CutList, SHRINK_M, bought, cuts, in_colour};
use crate::labels::set_to;
use crate::steps::{CLIP, Step, connector};
use crate::sundries::usual_price;
use orthavis_model::document::{
    Build, CircuitParts, Converter, Draw, Fixing, FuseStyle, Hands, Led, Load, Output, Part, PinThrough, Source, Through, Transistor, What,
};
use orthavis_model::fixing::chosen;
use orthavis_model::parts::library;
use orthavis_model::practice::{ELECTROLYTIC_F, SMALL_CONTACT_V};
use orthavis_model::words;
use serde::Serialize;
use std::collections::BTreeMap;

words! {
    /// What a part is for, in the order of a shopping list.
    Group {
        /// Lights.
        Light = "light" called "Lights",
        /// Converters.
        Power = "power" called "Power",
        /// Fuses, switches and plugs.
        Safety = "safety" called "Fuses, switches, plugs",
        /// Wire and what covers it.
        Wire = "wire" called "Wire",
        /// What holds and seals.
        Fixing = "fixing" called "Holding and sealing",
    }
}

/// One line of the list.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = PartLine))]
pub struct Line {
    /// What, by which prices, rolls and stock name it.
    pub of: String,
    /// What it is for.
    pub group: Group,
    /// How much the build takes.
    pub needed: f64,
    /// How much more to have.
    pub spare: f64,
    /// Of what that is: `piece` or `m`.
    pub unit: &'static str,
    /// How much is in the drawer.
    pub have: f64,
    /// How much is bought: in packs, or whole rolls.
    pub buy: f64,
    /// How much is in a pack.
    pub pack: f64,
    /// Price of one, or of one metre; `null`: not known.
    pub price: Option<f64>,
    /// In which currency.
    pub currency: String,
    /// What is to be paid; `null`: not known.
    pub cost: Option<f64>,
    /// Mass of what the build takes, g; `null`: not known.
    pub mass_g: Option<f64>,
    /// Length, width, height of one, mm; `null`: not known.
    pub size_mm: Option<[f64; 3]>,
}

/// The whole list.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartsList {
    /// By group.
    pub lines: Vec<Line>,
    /// To be paid, by currency.
    pub cost: BTreeMap<String, f64>,
    /// Lines that are bought and whose price is not known.
    pub unpriced: usize,
    /// Mass of what is known, g.
    pub mass_g: f64,
    /// Tools that the steps name.
    pub tools: Vec<&'static str>,
}

/// Prices that ship with the program are in this currency.
const USUAL_CURRENCY: &str = "EUR";
/// One spare in so many of what dies easily.
const SPARE_OF: f64 = 10.0;
/// Cable ties, a tie every so many metres.
const TIE_M: f64 = 0.15;

struct Counting<'a> {
    build: &'a Build,
    stock: &'a BTreeMap<String, f64>,
    lines: Vec<Line>,
}

struct Wanted {
    of: String,
    group: Group,
    needed: f64,
    spare: f64,
    unit: &'static str,
    pack: f64,
}

fn piece(of: String, group: Group, needed: f64, spare: f64, pack: f64) -> Wanted {
    Wanted { of, group, needed, spare, unit: "piece", pack }
}

impl Counting<'_> {
    /// Adds to a line, or begins it.
    fn add(&mut self, wanted: Wanted, known: Option<&Part>) {
        if let Some(line) = self.lines.iter_mut().find(|line| line.of == wanted.of) {
            line.needed += wanted.needed;
            return;
        }
        let own = self.build.make.iter().flat_map(|make| &make.prices).find(|price| price.of == wanted.of);
        let price = own.map(|own| own.price).or_else(|| known.and_then(|part| part.price_eur)).or_else(|| usual_price(&wanted.of));
        self.lines.push(Line {
            have: self.stock.get(&wanted.of).copied().unwrap_or(0.0),
            currency: own.map_or_else(|| USUAL_CURRENCY.to_owned(), |own| own.currency.clone()),
            mass_g: known.and_then(|part| part.mass_g),
            size_mm: known.and_then(|part| part.size_mm),
            of: wanted.of,
            group: wanted.group,
            needed: wanted.needed,
            spare: wanted.spare,
            unit: wanted.unit,
            buy: 0.0,
            pack: wanted.pack,
            price,
            cost: None,
        });
    }
}

/// Counts everything that a build takes; `stock` by the names of the lines.
pub fn parts(build: &Build, steps: &[Step], stock: &BTreeMap<String, f64>) -> PartsList {
    let list = cuts(build);
    let mut all = Counting { build, stock, lines: Vec::new() };
    lights(&mut all);
    pack(&mut all);
    circuits(&mut all);
    controllers(&mut all);
    for part in &build.converters {
        all.add(piece(converter_name(part), Group::Power, 1.0, 0.0, 1.0), like_converter(part));
    }
    safety(&mut all);
    wire(&mut all, &list);
    joints(&mut all);
    fixings(&mut all, steps);
    let mut lines = all.lines;
    for line in &mut lines {
        // Of what dies easily one in ten; a fuse of each rating twice is counted already.
        if line.spare < 0.0 {
            line.spare = (line.needed / SPARE_OF).ceil().max(1.0);
        }
        let short = (line.needed + line.spare - line.have).max(0.0);
        line.buy = (short / line.pack - 1e-9).ceil().max(0.0) * line.pack;
        line.cost = line.price.map(|price| (price * line.buy * 100.0).round() / 100.0);
        line.mass_g = line.mass_g.map(|one| one * line.needed);
    }
    lines.sort_by(|a, b| (a.group, &a.of).cmp(&(b.group, &b.of)));
    let mut cost: BTreeMap<String, f64> = BTreeMap::new();
    for line in lines.iter().filter(|line| line.buy > 0.0) {
        if let Some(paid) = line.cost {
            *cost.entry(line.currency.clone()).or_default() += paid;
        }
    }
    for paid in cost.values_mut() {
        *paid = (*paid * 100.0).round() / 100.0;
    }
    let mut tools: Vec<&'static str> = steps.iter().flat_map(|step| step.tools.iter().copied()).collect();
    tools.sort_unstable();
    tools.dedup();
    PartsList {
        cost,
        unpriced: lines.iter().filter(|line| line.buy > 0.0 && line.price.is_none()).count(),
        mass_g: lines.iter().filter_map(|line| line.mass_g).sum(),
        lines,
        tools,
    }
}

/// One in ten more, at least one: worked out once everything is counted.
const ONE_IN_TEN: f64 = -1.0;

fn lights(all: &mut Counting<'_>) {
    let build = all.build;
    for light in &build.lights {
        match &light.load {
            Load::LedArray(array) => {
                let count = f64::from(array.series * array.parallel);
                all.add(piece(led_name(&array.led), Group::Light, count, ONE_IN_TEN, 10.0), like_led(&array.led));
                if array.resistor_ohm > 0.0 {
                    let name = format!("resistor {} ohms, {} W", array.resistor_ohm, array.resistor_w);
                    let count = if array.shared_resistor { 1 } else { array.parallel };
                    all.add(piece(name, Group::Light, f64::from(count), ONE_IN_TEN, 10.0), None);
                }
            }
            Load::Module(module) => {
                let like = bought(light);
                let name = || {
                    let kind = if module.draw == Draw::Filament { "bulb" } else { "sealed lamp" };
                    in_colour(format!("{kind} {} V {} W", module.voltage_v, module.power_w), light)
                };
                all.add(piece(like.map_or_else(name, |part| part.name.clone()), Group::Light, 1.0, 0.0, 1.0), like);
            }
            Load::Strip(_) | Load::Pixels(_) => {}
        }
    }
}

/// A pack of the lights' own; the vehicle's is there.
fn pack(all: &mut Counting<'_>) {
    let Source::Battery(own) = &all.build.source else { return };
    if !own.own {
        return;
    }
    let like = library().iter().find(|part| {
        let What::Battery { battery } = &part.what else { return false };
        (battery.chemistry, battery.series, battery.capacity_ah) == (own.chemistry, own.series, own.capacity_ah)
    });
    let name = || format!("battery, {} cells of {}, {} Ah", own.series, own.chemistry.called(), own.capacity_ah);
    all.add(piece(like.map_or_else(name, |part| part.name.clone()), Group::Power, 1.0, 0.0, 1.0), like);
}

/// Boards that tell lights what to do, and resistors and transistors at their pins.
fn controllers(all: &mut Counting<'_>) {
    let build = all.build;
    for controller in &build.controllers {
        let mut count = |name: String, count: f64, spare: f64| all.add(piece(name, Group::Light, count, spare, 1.0), None);
        count(format!("{}, pins at {} V", controller.kind.called(), controller.logic_v), 1.0, 0.0);
        // What the first pixel is spared: the ringing of a long data wire, and the swing of its supply.
        for _ in controller.outputs.iter().filter(|output| !output.links().is_empty()) {
            count(DATA_RESISTOR.into(), 1.0, ONE_IN_TEN);
            count(DATA_CAPACITOR.into(), 1.0, 0.0);
        }
        for output in controller.outputs.iter().filter_map(Output::one_light) {
            if output.ohm > 0.0 {
                count(format!("resistor {} ohms, 0.25 W", output.ohm), 1.0, ONE_IN_TEN);
            }
            match output.through {
                PinThrough::Npn => count(NPN.into(), 1.0, 0.0),
                PinThrough::Mosfet => count(MOSFET.into(), 1.0, 0.0),
                PinThrough::Pin => {}
            }
        }
    }
}

/// In the data wire, next to the first pixel.
pub(crate) const DATA_RESISTOR: &str = "resistor 470 ohms, 0.25 W";
/// Between plus and minus of the first pixel.
pub(crate) const DATA_CAPACITOR: &str = "electrolytic capacitor 1000 µF, 16 V";
const NPN: &str = "small NPN transistor";
const MOSFET: &str = "small MOSFET, logic level";

/// What a circuit is soldered from, but for its capacitors.
#[derive(Default)]
struct Needed<'a> {
    ohms: Vec<f64>,
    others: Vec<(String, u32)>,
    leds: Vec<&'a Led>,
}

fn needed(parts: &CircuitParts) -> Needed<'_> {
    let none = Needed::default();
    let diodes = |count: u32| ("silicon diode 1 A".to_owned(), count);
    let carried = |through: Through| match through {
        Through::None => None,
        Through::Npn => Some((NPN.to_owned(), 1)),
        Through::Mosfet => Some((MOSFET.to_owned(), 1)),
    };
    match parts {
        CircuitParts::TimerFlasher(own) => {
            let others = [Some((format!("timer, {}", own.timer.called()), 1)), carried(own.through), own.diode.then(|| diodes(1))];
            let ohms = [own.ra_ohm, own.rb_ohm].into_iter().chain(own.base_ohm).collect();
            Needed { ohms, others: others.into_iter().flatten().collect(), ..none }
        }
        CircuitParts::TransistorFlasher(own) => Needed { ohms: vec![own.r1_ohm, own.r2_ohm], others: vec![(NPN.into(), 2)], ..none },
        CircuitParts::BreakdownFlasher(own) => Needed { ohms: vec![own.r_ohm], others: vec![(NPN.into(), 1)], ..none },
        CircuitParts::HoldUp(own) => {
            let ohms = [own.charge_ohm].into_iter().chain(own.taps_ohm.iter().take(own.tap as usize).copied()).collect();
            Needed { ohms, others: own.bridge.then(|| ("bridge rectifier 1 A".into(), 1)).into_iter().collect(), ..none }
        }
        CircuitParts::BatteryGauge(own) => {
            let others = [Some((NPN.to_owned(), 1)), (own.diodes > 0).then(|| diodes(own.diodes))];
            Needed { ohms: vec![own.rb_ohm, own.rs_ohm, own.rc_ohm], others: others.into_iter().flatten().collect(), leds: vec![&own.led_good, &own.led_low] }
        }
        CircuitParts::Switch(own) => {
            let carries = if own.through == Transistor::Npn { NPN } else { MOSFET };
            Needed { ohms: vec![own.base_ohm], others: vec![(carries.into(), 1)], ..none }
        }
    }
}

/// What small circuits are soldered from.
fn circuits(all: &mut Counting<'_>) {
    let build = all.build;
    for circuit in &build.circuits {
        let parts = &circuit.parts;
        let mut count = |name: String, count: f64, spare: f64| all.add(piece(name, Group::Light, count, spare, 1.0), None);
        let needed = needed(parts);
        for ohm in needed.ohms.into_iter().filter(|ohm| *ohm > 0.0) {
            count(format!("resistor {ohm} ohms, 0.25 W"), 1.0, ONE_IN_TEN);
        }
        for farad in parts.capacitors() {
            let kind = if farad >= ELECTROLYTIC_F { "electrolytic capacitor" } else { "film capacitor" };
            let rated = circuit.hold_up().and_then(|parts| parts.c_rated_v).map_or_else(String::new, |volts| format!(", {volts} V"));
            count(format!("{kind} {} µF{rated}", (farad * 1e9).round() / 1e3), 1.0, 0.0);
        }
        for (name, pieces) in needed.others {
            count(name, f64::from(pieces), 0.0);
        }
        count("perforated board".into(), 1.0, 0.0);
        for led in needed.leds {
            all.add(piece(led_name(led), Group::Light, 1.0, ONE_IN_TEN, 10.0), like_led(led));
        }
    }
}

fn safety(all: &mut Counting<'_>) {
    let build = all.build;
    for feed in build.feeds() {
        if let Some(fuse) = &feed.feed.fuse {
            let style = style_name(fuse.style);
            let like =
                library().iter().find(|part| matches!(&part.what, What::Fuse { fuse: known } if known.style == fuse.style && known.rating_a == fuse.rating_a));
            all.add(piece(format!("{style} {} A", fuse.rating_a), Group::Safety, 1.0, 2.0, 1.0), like);
            all.add(piece(format!("holder for {style}"), Group::Safety, 1.0, 0.0, 1.0), None);
        }
        if let Some(switch) = &feed.feed.switch {
            let breaks = |volts: Option<f64>| volts.unwrap_or(SMALL_CONTACT_V) >= switch.rating_v.unwrap_or(0.0);
            let fits = |what: &What| if let What::Switch { rating_a, rating_v } = what { breaks(*rating_v).then_some(*rating_a) } else { None };
            let like = nearest(fits, switch.rating_a);
            let volts = switch.rating_v.map_or_else(String::new, |volts| format!(", {volts} V direct current"));
            all.add(piece(format!("switch {} A{volts}", switch.rating_a), Group::Safety, 1.0, 0.0, 1.0), like);
        }
        if let Some(dimmer) = &feed.feed.dimmer {
            all.add(piece(format!("dimmer {} A, {} pulses a second", dimmer.rating_a, dimmer.hz), Group::Light, 1.0, 0.0, 10.0), None);
        }
        if feed.feed.contacts > 0 {
            let rating = feed.feed.contact_rating_a;
            let own = feed.feed;
            let fits = |what: &What| match what {
                What::Connector { rating_a, poles: 2, rating_v, keyed, sealed } => {
                    let breaks = rating_v.unwrap_or(SMALL_CONTACT_V) >= own.contact_rating_v.unwrap_or(0.0);
                    let as_asked = (*keyed || own.keyed != Some(true)) && (*sealed || own.plugs_sealed != Some(true));
                    (breaks && as_asked).then_some(*rating_a)
                }
                _ => None,
            };
            let like = nearest(fits, rating.unwrap_or(1.0));
            let mut name = rating.map_or_else(|| "two-pole plug".to_owned(), |rating| format!("two-pole plug {rating} A"));
            if let Some(volts) = feed.feed.contact_rating_v {
                name.push_str(&format!(", {volts} V"));
            }
            for (wanted, word) in [(feed.feed.keyed, ", keyed"), (feed.feed.plugs_sealed, ", sealed")] {
                if wanted == Some(true) {
                    name.push_str(word);
                }
            }
            all.add(piece(name, Group::Safety, f64::from(feed.feed.contacts), 0.0, 1.0), like);
        }
    }
}

/// What joins wires where nothing is soldered.
fn joints(all: &mut Counting<'_>) {
    let build = all.build;
    let hands = build.make.as_ref().and_then(|make| make.hands).unwrap_or(Hands::Solder);
    if hands == Hands::Solder {
        return;
    }
    let lights: usize = build.lights.iter().map(|light| 2 * light.feeds.len()).sum();
    let clips: usize = build.lights.iter().filter(|light| matches!(light.load, Load::Strip(_) | Load::Pixels(_))).map(|light| light.feeds.len()).sum();
    let inline = build.feeds().iter().filter(|feed| feed.feed.fuse.is_some() || feed.feed.switch.is_some()).count();
    // Plugs with leads of their own are joined on both sides.
    let plugs: u32 = if hands == Hands::Plug { build.feeds().iter().map(|feed| 4 * feed.feed.contacts).sum() } else { 0 };
    let count = lights + 4 * build.converters.len() + 2 * inline + plugs as usize;
    all.add(piece(connector(hands).into(), Group::Wire, count as f64, ONE_IN_TEN, 10.0), None);
    if clips > 0 {
        all.add(piece(CLIP.into(), Group::Light, clips as f64, ONE_IN_TEN, 1.0), None);
    }
}

fn wire(all: &mut Counting<'_>, list: &CutList) {
    let build = all.build;
    for cut in &list.cuts {
        let whole: f64 = cut.rolls.iter().map(|roll| roll.length_m).sum();
        let group = if cut.at_marks { Group::Light } else { Group::Wire };
        let like = if cut.at_marks { like_strip(build, &cut.of) } else { like_wire(build, &cut.of) };
        let pack = cut.rolls.first().map_or(1.0, |roll| roll.length_m);
        // Whole rolls: what is left over is spare.
        all.add(Wanted { of: cut.of.clone(), group, needed: cut.length_m, spare: whole - cut.length_m, unit: "m", pack }, like);
    }
    for shrink in &list.shrink {
        let metres = SHRINK_M * f64::from(shrink.pieces);
        all.add(Wanted { of: format!("heat-shrink {} mm", shrink.bore_mm), group: Group::Wire, needed: metres, spare: 0.0, unit: "m", pack: 1.0 }, None);
    }
    if list.sleeve_m > 0.0 {
        all.add(Wanted { of: "sleeve, split".into(), group: Group::Wire, needed: list.sleeve_m, spare: 0.0, unit: "m", pack: 1.0 }, None);
    }
    let ties: f64 = build.feeds().iter().map(|feed| (feed.feed.length_m / TIE_M).ceil()).sum();
    if ties > 0.0 {
        all.add(piece("cable tie".into(), Group::Fixing, ties, 0.0, 100.0), None);
    }
}

const SILICONE: &str = "neutral silicone, cartridge";

fn fixings(all: &mut Counting<'_>, steps: &[Step]) {
    let build = all.build;
    let ids = build.lights.iter().map(|one| &one.id).chain(build.converters.iter().map(|one| &one.id)).chain(build.junctions.iter().map(|one| &one.id));
    let mut count: BTreeMap<Fixing, f64> = BTreeMap::new();
    for id in ids {
        *count.entry(chosen(build, id)).or_default() += 1.0;
    }
    for (fixing, times) in count {
        let (name, needed, pack) = match fixing {
            Fixing::Ties => ("cable tie", 2.0 * times, 100.0),
            Fixing::Clamps => ("rubber-lined clamp", times, 1.0),
            Fixing::Clips => ("clip", 2.0 * times, 10.0),
            Fixing::Screws => ("screw with washer", 2.0 * times, 10.0),
            Fixing::Silicone => (SILICONE, 1.0, 1.0),
            other => (other.called(), 1.0, 1.0),
        };
        all.add(piece(name.to_owned(), Group::Fixing, needed, 0.0, pack), None);
    }
    // One cartridge holds and seals.
    if steps.iter().any(|step| step.id.starts_with("seal:")) && all.lines.iter().all(|line| line.of != SILICONE) {
        all.add(piece(SILICONE.into(), Group::Fixing, 1.0, 0.0, 1.0), None);
    }
    if steps.iter().any(|step| step.id.starts_with("coat-")) {
        all.add(piece("opaque paint".into(), Group::Fixing, 1.0, 0.0, 1.0), None);
    }
}

fn led_name(led: &Led) -> String {
    format!("LED {}, {} V {:.0} mA", led.colour, led.vf_v, 1e3 * led.if_a)
}

fn converter_name(part: &Converter) -> String {
    let name = format!("{} {}", part.kind().called(), set_to(part));
    if part.set_v().is_some() { format!("{name} {} A", part.max_out_a) } else { name }
}

fn style_name(style: FuseStyle) -> &'static str {
    if style == FuseStyle::Ptc { "self-resetting fuse" } else { style.called() }
}

/// The smallest part of the library that carries as much.
fn nearest(rating: impl Fn(&What) -> Option<f64>, need_a: f64) -> Option<&'static Part> {
    let able = library().iter().filter_map(|part| Some((rating(&part.what).filter(|rating| *rating >= need_a - 1e-9)?, part)));
    able.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, part)| part)
}

fn like_led(led: &Led) -> Option<&'static Part> {
    library().iter().find(|part| matches!(&part.what, What::Led { led: known } if known.colour == led.colour && known.if_a == led.if_a))
}

pub(crate) fn like_converter(part: &Converter) -> Option<&'static Part> {
    let able = library().iter().filter_map(|known| match &known.what {
        What::Converter { figures } if figures.kind() == part.kind() && figures.max_out_a >= part.max_out_a - 1e-9 => Some((figures.max_out_a, known)),
        _ => None,
    });
    able.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, part)| part)
}

fn like_wire(build: &Build, of: &str) -> Option<&'static Part> {
    let gauge = build.feeds().into_iter().map(|feed| feed.feed.gauge).find(|gauge| of.starts_with(&format!("wire {},", gauge.name())))?;
    library().iter().find(|part| matches!(&part.what, What::Wire { gauge: known, conductors: 1 } if (known.area_mm2() - gauge.area_mm2()).abs() < 1e-3))
}

fn like_strip(build: &Build, of: &str) -> Option<&'static Part> {
    bought(build.lights.iter().find(|light| crate::cuts::strip_name(light).as_deref() == Some(of))?)
}
