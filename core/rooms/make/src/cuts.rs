//! The cut list: every piece of wire and strip, and which roll it comes off.

use crate::packing::pack;
use orthavis_model::document::{Build, Feed, Hands, Light, Link, Load, Mounted, Part, Return, What};
use orthavis_model::parts::library;
use orthavis_model::practice::white_of;
use orthavis_model::working::plain;
use serde::Serialize;
use std::collections::BTreeMap;

/// Wire that one joint takes, m.
pub const JOINT_M: f64 = 0.03;
/// A piece of heat-shrink over a joint, m.
pub const SHRINK_M: f64 = 0.03;
/// What wire and strip usually come in, m: the shortest that holds all of it, else the longest.
const WIRE_ROLLS_M: [f64; 4] = [1.0, 2.0, 5.0, 10.0];
const STRIP_ROLLS_M: [f64; 2] = [1.0, 5.0];

/// One piece.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = CutPiece))]
pub struct Piece {
    /// Its name, as on its labels.
    pub name: String,
    /// The feed or light that it is for.
    pub part: String,
    /// Length, m.
    pub length_m: f64,
    /// Of a strip: marks it is cut at, counted from the start of the roll's printed marks; else `None`.
    pub marks: Option<[u32; 2]>,
    /// Joints within it, where one roll is too short.
    pub joints: u32,
    /// Where it is cut again for what sits in it.
    pub note: String,
}

/// Where a piece, or part of one, lies on a roll.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OnRoll {
    /// Which piece, from 0.
    pub piece: usize,
    /// From, m.
    pub from_m: f64,
    /// To, m.
    pub to_m: f64,
}

/// One roll, with what is cut from it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = RollCut))]
pub struct RollCut {
    /// Its length, m.
    pub length_m: f64,
    /// Pieces, in order.
    pub pieces: Vec<OnRoll>,
    /// What is left over, m.
    pub left_m: f64,
}

/// Everything that is cut from one kind of roll.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Cut {
    /// What, as in `wire 22 AWG, red`.
    pub of: String,
    /// Whether it is strip or pixels, which are cut at marks only.
    pub at_marks: bool,
    /// Its pieces.
    pub pieces: Vec<Piece>,
    /// Rolls, with what is cut from each.
    pub rolls: Vec<RollCut>,
    /// Together, m.
    pub length_m: f64,
    /// Whether fewer rolls are known not to do.
    pub fewest: bool,
}

/// Heat-shrink of one size.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Shrink {
    /// Bore before shrinking, mm.
    pub bore_mm: f64,
    /// Pieces of [`SHRINK_M`].
    pub pieces: u32,
}

/// The whole list.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CutList {
    /// By what is cut, wire first.
    pub cuts: Vec<Cut>,
    /// Heat-shrink for every joint.
    pub shrink: Vec<Shrink>,
    /// How long a piece of it is, m.
    pub shrink_piece_m: f64,
    /// Sleeve, m: over every run that moves.
    pub sleeve_m: f64,
}

/// Joints at one conductor of a feed: both ends, and two for each part that sits in it.
fn joints(feed: &Feed, plus: bool) -> u32 {
    if plus { 2 + 2 * (u32::from(feed.fuse.is_some()) + u32::from(feed.switch.is_some()) + feed.contacts) } else { 2 + 2 * feed.contacts }
}

/// The piece before a light on its data wire, if there is one, and its own link; `None`: it is on no chain.
fn data_link<'a>(build: &'a Build, light: &str) -> Option<(Option<&'a Link>, &'a Link)> {
    let chains = build.controllers.iter().flat_map(|controller| &controller.outputs).map(|output| output.links());
    chains.into_iter().find_map(|links| {
        let at = links.iter().position(|link| link.lights().any(|id| id == light))?;
        Some((at.checked_sub(1).map(|before| &links[before]), &links[at]))
    })
}

/// Where the data wire of a light comes from, and to which end it goes.
fn data_note(build: &Build, light: &str) -> String {
    let Some((before, link)) = data_link(build, light) else { return String::new() };
    let from = before.and_then(|link| link.lights().next()).map_or("from its controller".to_owned(), |id| format!("from the end of {id}"));
    if link.mounted == Some(Mounted::Against) { format!("{from} to its far end") } else { from }
}

/// Name of a wire by size and colour.
pub fn wire_name(feed: &Feed, colour: &str) -> String {
    format!("wire {}, {colour}", feed.gauge.name())
}

/// What a light is bought as: the part of the library with its figures and its colour.
pub(crate) fn bought(light: &Light) -> Option<&'static Part> {
    let like = |load: &Load| match (load, &light.load) {
        (Load::Strip(known), Load::Strip(own)) => {
            known.voltage_v == own.voltage_v && known.power_w_per_m == own.power_w_per_m && (known.segment_m - own.segment_m).abs() < 1e-4
        }
        (Load::Pixels(known), Load::Pixels(own)) => known.voltage_v == own.voltage_v && (known.pitch_m - own.pitch_m).abs() < 1e-4,
        (Load::Module(known), Load::Module(own)) => {
            known.draw == own.draw && (known.voltage_v - own.voltage_v).abs() < 0.05 && (known.power_w - own.power_w).abs() < 0.05
        }
        _ => false,
    };
    // Pixels have every colour; of others it is what tells two apart.
    let coloured = |colour: &str| matches!(light.load, Load::Pixels(_)) || light.colour.as_deref() == Some(colour);
    library().iter().find(|part| match &part.what {
        What::Light { load, colour, .. } => like(load) && coloured(colour),
        What::Bulb { load, colour_k, .. } => like(load) && (light.colour.is_none() || coloured(white_of(*colour_k))),
        _ => false,
    })
}

/// Its colour behind a name, where it has one.
pub(crate) fn in_colour(name: String, light: &Light) -> String {
    light.colour.as_ref().map_or_else(|| name.clone(), |colour| format!("{name}, {colour}"))
}

/// Name of a strip or of pixels; `None` of what is not cut.
pub fn strip_name(light: &Light) -> Option<String> {
    let figures = match &light.load {
        Load::Strip(strip) => {
            in_colour(format!("LED strip {} V {} W/m, {:.1} mm a segment", strip.voltage_v, strip.power_w_per_m, 1e3 * strip.segment_m), light)
        }
        Load::Pixels(pixels) => format!("one-wire pixel strip {} V, {:.0}/m", pixels.voltage_v, 1.0 / pixels.pitch_m),
        Load::LedArray(_) | Load::Module(_) => return None,
    };
    Some(bought(light).map_or(figures, |part| part.name.clone()))
}

/// Every piece that a build needs, and the rolls they come off.
pub fn cuts(build: &Build) -> CutList {
    let mut wires: BTreeMap<String, Vec<Piece>> = BTreeMap::new();
    let mut shrink: BTreeMap<u32, u32> = BTreeMap::new();
    let mut sleeve_m = 0.0;
    for feed in build.feeds() {
        let own = feed.feed;
        let between: Vec<&str> = [(own.fuse.is_some(), "fuse"), (own.switch.is_some(), "switch"), (own.contacts > 0, "plug")]
            .into_iter()
            .filter_map(|(there, what)| there.then_some(what))
            .collect();
        let mut add = |plus: bool, sign: &str, colour: &str, run_m: f64| {
            let count = joints(own, plus);
            let length_m = round(run_m + JOINT_M * f64::from(count));
            let note = if sign == "data" {
                data_note(build, &feed.id)
            } else if plus && !between.is_empty() {
                format!("cut once more where the {} goes", between.join(", its "))
            } else {
                String::new()
            };
            let slack =
                own.slack_m.filter(|slack| *slack > 0.0 && sign != "data").map(|slack| format!("{} of it hang as a U where it moves", plain(slack, "m")));
            let note = [note, slack.unwrap_or_default()].into_iter().filter(|said| !said.is_empty()).collect::<Vec<_>>().join("; ");
            let piece = Piece { name: format!("{} {sign}", feed.id), part: feed.id.clone(), length_m, marks: None, joints: 0, note };
            wires.entry(wire_name(own, colour)).or_default().push(piece);
            // Tubing goes over the insulation: about three times the conductor, and shrinks to half.
            let conductor_mm = 2.0 * (own.gauge.area_mm2() / std::f64::consts::PI).sqrt();
            *shrink.entry(bore_tenths(3.0 * conductor_mm)).or_default() += count;
        };
        add(true, "+", own.plus_colour.as_deref().unwrap_or("red"), own.length_m);
        if own.return_path == Return::Wire {
            add(false, "−", own.minus_colour.as_deref().unwrap_or("black"), own.length_m);
        }
        let light = build.lights.iter().find(|light| feed.id.split('#').next() == Some(light.id.as_str()));
        if let Some(light) = light {
            if matches!(light.load, Load::Pixels(_)) && feed.number == 0 {
                // On a chain it comes from the piece before; else from where the plus comes from.
                add(false, "data", "green", data_link(build, &light.id).map_or(own.length_m, |(_, link)| link.wire_m));
            }
            if build.traits_of(&light.place).contains(&orthavis_model::document::Trait::Moving) {
                sleeve_m += own.length_m;
            }
        }
    }
    let mut all: Vec<Cut> = wires.into_iter().map(|(of, pieces)| cut_wire(build, of, pieces)).collect();
    let mut strips: BTreeMap<String, (f64, Vec<(String, u32)>)> = BTreeMap::new();
    for light in &build.lights {
        let Some(name) = strip_name(light) else { continue };
        let (step, count) = match &light.load {
            Load::Strip(strip) => (strip.segment_m, strip.segments()),
            Load::Pixels(pixels) => (pixels.pitch_m, pixels.count),
            Load::LedArray(_) | Load::Module(_) => continue,
        };
        // A piece without one whole segment is not cut from anything.
        if count == 0 {
            continue;
        }
        strips.entry(name).or_insert_with(|| (step, Vec::new())).1.push((light.id.clone(), count));
    }
    all.extend(strips.into_iter().map(|(of, (step, wanted))| cut_strip(build, of, step, &wanted)));
    let shrink = shrink.into_iter().map(|(tenths, pieces)| Shrink { bore_mm: f64::from(tenths) / 10.0, pieces }).collect();
    CutList { cuts: all, shrink, shrink_piece_m: SHRINK_M, sleeve_m: round(sleeve_m) }
}

/// The next usual bore, tenths of a millimetre.
fn bore_tenths(least_mm: f64) -> u32 {
    const USUAL: [u32; 9] = [16, 24, 32, 48, 64, 95, 127, 191, 254];
    USUAL.into_iter().find(|tenths| f64::from(*tenths) / 10.0 >= least_mm).unwrap_or(254)
}

fn round(metres: f64) -> f64 {
    (metres * 1e4).round() / 1e4
}

fn roll_of(build: &Build, of: &str, total_m: f64, usual: &[f64]) -> f64 {
    let own = build.make.iter().flat_map(|make| &make.rolls).find(|roll| roll.of == of).map(|roll| roll.length_m);
    let holds = usual.iter().copied().find(|roll| *roll >= total_m - 1e-9).or(usual.last().copied());
    own.or(holds).unwrap_or(total_m)
}

fn cut_wire(build: &Build, of: String, mut pieces: Vec<Piece>) -> Cut {
    let roll = roll_of(build, &of, pieces.iter().map(|piece| piece.length_m).sum(), &WIRE_ROLLS_M);
    pieces.sort_by(|a, b| b.length_m.total_cmp(&a.length_m).then(a.name.cmp(&b.name)));
    // A wire longer than a roll is bought in its length: nobody joins a wire that a longer roll would spare.
    let (short, long): (Vec<usize>, Vec<usize>) = (0..pieces.len()).partition(|index| pieces[*index].length_m <= roll + 1e-9);
    let lengths: Vec<f64> = short.iter().map(|index| pieces[*index].length_m).collect();
    let packed = pack(&lengths, roll);
    let mut rolls: Vec<RollCut> = (0..packed.rolls).map(|_| RollCut { length_m: roll, pieces: Vec::new(), left_m: roll }).collect();
    for (place, index) in short.iter().enumerate() {
        lie(&mut rolls[packed.roll[place]], *index, pieces[*index].length_m);
    }
    for index in long {
        let length_m = pieces[index].length_m;
        let mut own = RollCut { length_m, pieces: Vec::new(), left_m: length_m };
        lie(&mut own, index, length_m);
        rolls.push(own);
    }
    Cut { length_m: round(pieces.iter().map(|piece| piece.length_m).sum()), of, at_marks: false, pieces, rolls, fewest: packed.fewest }
}

fn lie(roll: &mut RollCut, piece: usize, length_m: f64) {
    let from_m = roll.length_m - roll.left_m;
    roll.pieces.push(OnRoll { piece, from_m: round(from_m), to_m: round(from_m + length_m) });
    roll.left_m = round(roll.left_m - length_m);
}

/// Strip in whole segments; what is longer than a roll takes whole rolls first and is joined at a mark.
fn cut_strip(build: &Build, of: String, step: f64, wanted: &[(String, u32)]) -> Cut {
    let irons = build.make.as_ref().and_then(|make| make.hands).is_none_or(|hands| hands == Hands::Solder);
    // Where one segment is longer than any roll, a roll is a segment.
    let roll = roll_of(build, &of, wanted.iter().map(|(_, count)| f64::from(*count) * step).sum(), &STRIP_ROLLS_M).max(step);
    let most = ((roll / step + 1e-9).floor() as u32).max(1);
    let mut pieces = Vec::new();
    let mut parts: Vec<(usize, u32)> = Vec::new();
    let mut rolls: Vec<RollCut> = Vec::new();
    for (light, count) in wanted {
        let index = pieces.len();
        let (whole, rest) = ((count - 1) / most, (count - 1) % most + 1);
        pieces.push(Piece {
            name: light.clone(),
            part: light.clone(),
            length_m: round(f64::from(*count) * step),
            marks: None,
            joints: whole,
            note: if whole > 0 {
                let how = if irons { "solder both rails, and glue under it" } else { "a clip-on joint for each" };
                format!("{whole} joint{} at a mark: {how}", if whole == 1 { "" } else { "s" })
            } else {
                String::new()
            },
        });
        for _ in 0..whole {
            let mut own = RollCut { length_m: roll, pieces: Vec::new(), left_m: roll };
            lie(&mut own, index, f64::from(most) * step);
            rolls.push(own);
        }
        parts.push((index, rest));
    }
    let lengths: Vec<f64> = parts.iter().map(|(_, count)| f64::from(*count)).collect();
    let packed = pack(&lengths, f64::from(most));
    let first = rolls.len();
    rolls.extend((0..packed.rolls).map(|_| RollCut { length_m: roll, pieces: Vec::new(), left_m: roll }));
    let mut used = vec![0u32; packed.rolls];
    for (place, (index, count)) in parts.iter().enumerate() {
        let own = packed.roll[place];
        lie(&mut rolls[first + own], *index, f64::from(*count) * step);
        pieces[*index].marks = Some([used[own], used[own] + count]);
        used[own] += count;
    }
    Cut { length_m: round(pieces.iter().map(|piece| piece.length_m).sum()), of, at_marks: true, pieces, rolls, fewest: packed.fewest }
}
