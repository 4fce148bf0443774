//! The label of a battery, as people type it off: `36V 14Ah`, `3S1P 11.1 V 2200 mAh 30C`, `2× 12 V 50 Ah AGM in series`.
//!
//! What it says is taken as it stands, what it leaves open is assumed and said so, and where two batteries of different limits
//! could bear it, that one thing is asked.

mod words;

use orthavis_model::document::{Battery, Chemistry, Rail, Source};
use orthavis_model::edit::plain_battery;
use orthavis_model::laws::battery::cell_of;
use orthavis_model::working::{counted, plain};
use serde::Serialize;
use words::Said;

/// What a label says.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LabelRead {
    /// The supply; while a question is open the likeliest, `None` where it cannot be told at all.
    pub source: Option<Source>,
    /// What was read, in words.
    pub understood: Vec<String>,
    /// What it does not say and was taken as usual.
    pub assumed: Vec<String>,
    /// What is open.
    pub question: Option<LabelQuestion>,
}

/// The one thing that a label leaves open.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LabelQuestion {
    /// As it is asked.
    pub says: String,
    /// The answers, the likeliest first; none: it wants a figure.
    pub choices: Vec<LabelChoice>,
}

/// An answer to it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LabelChoice {
    /// In words.
    pub says: String,
    /// The supply then.
    pub source: Source,
}

/// A label that says nothing known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unreadable;

/// Cells in a row of a chemistry.
type Cells = (Chemistry, u32);

/// Reads a label.
///
/// # Errors
/// Where there is neither a voltage nor a number or kind of cells in it.
pub fn read(text: &str) -> Result<LabelRead, Unreadable> {
    let said = Said::of(text);
    let read = match said.cell {
        _ if said.is_rail() => rail(&said),
        Some(cell) => Ok(loose_cells(&said, cell)),
        None => pack(&said),
    }?;
    let choices = read.question.iter().flat_map(|question| &question.choices).map(|choice| &choice.source);
    if read.source.iter().chain(choices).all(is_sound) { Ok(read) } else { Err(Unreadable) }
}

/// Whether a build can have it: a slip of the finger gives thousands of cells.
fn is_sound(source: &Source) -> bool {
    let within = |value: f64, most: f64| value > 0.0 && value <= most;
    match source {
        Source::Battery(one) => {
            (1..=400).contains(&one.series)
                && (1..=10_000).contains(&one.parallel)
                && within(one.capacity_ah, 100_000.0)
                && within(one.max_current_a, 10_000.0)
                && within(one.rated_hours, 1000.0)
        }
        Source::Rail(rail) => within(rail.voltage_v, 1000.0) && within(rail.max_current_a, 10_000.0),
        Source::Track(_) => false,
    }
}

/// What keeps a usual power bank awake, A.
const BANK_AWAKE_A: f64 = 0.06;

/// An outlet of a power bank or a regulator: volts and amps, and no charge.
fn rail(said: &Said) -> Result<LabelRead, Unreadable> {
    let mut assumed = Vec::new();
    let voltage_v = match said.volts {
        Some(volts) => volts,
        None if said.usb => {
            assumed.push("5 V, as every USB outlet gives".to_owned());
            5.0
        }
        None => return Err(Unreadable),
    };
    let max_current_a = said.amps.or_else(|| said.watts.map(|watts| watts / voltage_v)).unwrap_or_else(|| {
        assumed.push("1 A, which the weakest outlets give; look what is printed beside it".to_owned());
        1.0
    });
    if said.usb && said.ah.is_some() {
        assumed.push("its capacity counts for the cells inside; how long it lasts is not worked out".to_owned());
    }
    let sleeps = said.bank || (said.usb && said.ah.is_some());
    if sleeps {
        assumed.push(format!("it goes to sleep below {}, as most banks do", plain(BANK_AWAKE_A, "A")));
    }
    let min_load_a = sleeps.then_some(BANK_AWAKE_A);
    let source =
        Source::Rail(Rail { voltage_v, resistance_ohm: if said.usb { 0.1 } else { 0.02 }, max_current_a, other_load_a: 0.0, min_load_a, critical: None });
    let understood = vec![format!("an outlet of {}, up to {}", plain(voltage_v, "V"), plain(max_current_a, "A"))];
    Ok(LabelRead { source: Some(source), understood, assumed, question: None })
}

/// Cells by their size, in a holder: every one in a row unless it says otherwise.
fn loose_cells(said: &Said, cell: words::CellSize) -> LabelRead {
    let in_row = if said.parallel_words { 1 } else { said.count.or(said.series).unwrap_or(1) };
    let parallel = said.parallel.unwrap_or(if said.parallel_words { said.count.unwrap_or(1) } else { 1 });
    // Printed on one cell, or on all of them.
    let bears =
        |volts: f64, chemistry: Chemistry| [1, in_row].iter().any(|cells| (volts / f64::from(*cells) / cell_of(chemistry).nominal_v - 1.0).abs() < 0.05);
    let fits = |kind: &&(Chemistry, f64)| match said.chemistry {
        Some(chemistry) => kind.0 == chemistry,
        None => said.volts.is_some_and(|volts| bears(volts, kind.0)),
    };
    let named = said.chemistry.map(|chemistry| (chemistry, cell.kinds[0].1));
    let kinds: Vec<(Chemistry, f64)> = match cell.kinds.iter().find(fits).copied().or(named) {
        Some(kind) => vec![kind],
        None => cell.kinds.to_vec(),
    };
    // What is printed on one cell counts for each of them side by side; on a pack it counts for all.
    let beside = if said.ah.is_none() || said.count.is_some() { f64::from(parallel) } else { 1.0 };
    let make = |(chemistry, usual): (Chemistry, f64)| battery(said, (chemistry, in_row * cell.in_row), parallel, said.ah.unwrap_or(usual) * beside);
    let (source, more) = make(kinds[0]);
    let mut assumed = Vec::new();
    if said.ah.is_none() {
        assumed.push(format!("{} a cell, usual for its size", plain(kinds[0].1, "Ah")));
    }
    assumed.extend(more);
    let question = (kinds.len() > 1).then(|| LabelQuestion {
        says: format!("Is it {}?", either(kinds.iter().map(|kind| kind.0.called().to_owned()))),
        choices: kinds.iter().map(|kind| LabelChoice { says: kind.0.called().into(), source: make(*kind).0 }).collect(),
    });
    let mut understood = vec![format!("{} {}", counted(in_row * parallel, "cell"), cell.name)];
    understood.extend(said.ah.map(|ah| plain(ah, "Ah")));
    if question.is_none() {
        understood.push(kinds[0].0.called().into());
    }
    LabelRead { source: Some(source), understood, assumed, question }
}

fn pack(said: &Said) -> Result<LabelRead, Unreadable> {
    let mut assumed = Vec::new();
    let charge = said.ah.map(|ah| plain(ah, "Ah")).or_else(|| said.wh.map(|wh| plain(wh, "Wh")));
    if let (None, None, Some(charge)) = (said.volts, said.series, charge) {
        let question = LabelQuestion { says: "How many volts does it have?".into(), choices: vec![] };
        return Ok(LabelRead { source: None, understood: vec![charge], assumed, question: Some(question) });
    }
    let kinds = kinds(said, &mut assumed)?;
    let mut understood: Vec<String> = said.volts.iter().map(|volts| plain(*volts, "V")).collect();
    let each = said.count.unwrap_or(1);
    let joined = |kind: Cells, in_row: bool| if in_row { ((kind.0, kind.1 * each), 1) } else { (kind, each) };
    let ah = said.ah.or_else(|| said.wh.and_then(|wh| Some(wh / said.volts.unwrap_or(f64::from(kinds.first()?.1) * cell_of(kinds.first()?.0).nominal_v))));
    understood.extend(said.ah.map(|ah| plain(ah, "Ah")));
    understood.extend(said.wh.map(|wh| plain(wh, "Wh")));
    understood.extend(said.c_rate.map(|rate| format!("up to {rate} times its capacity an hour")));
    understood.extend(said.amps.map(|amps| format!("up to {}", plain(amps, "A"))));
    understood.extend(said.hours.map(|hours| format!("its capacity over {}", plain(hours, "h"))));
    let Some(ah) = ah.filter(|ah| *ah > 0.0 && ah.is_finite()) else {
        let says = "How many amp-hours (Ah) or watt-hours (Wh) does it have?".to_owned();
        return Ok(LabelRead { source: None, understood, assumed, question: Some(LabelQuestion { says, choices: vec![] }) });
    };
    // Two batteries and no word of how they are joined: twice the volts, or twice the hours.
    let ways: Vec<bool> = match (each > 1, said.series_words, said.parallel_words) {
        (false, ..) | (true, true, _) => vec![true],
        (true, _, true) => vec![false],
        (true, false, false) => vec![true, false],
    };
    let make = |kind: Cells, in_row: bool| {
        let (cells, beside) = joined(kind, in_row);
        battery(said, cells, said.parallel.unwrap_or(1) * beside, ah * f64::from(beside))
    };
    let (source, more) = make(kinds[0], ways[0]);
    let question = if kinds.len() > 1 {
        Some(LabelQuestion {
            says: format!("What is inside: {}?", either(kinds.iter().map(|kind| in_words(joined(*kind, ways[0]).0)))),
            choices: kinds.iter().map(|kind| LabelChoice { says: in_words(joined(*kind, ways[0]).0), source: make(*kind, ways[0]).0 }).collect(),
        })
    } else if ways.len() > 1 {
        let says = |in_row: bool| if in_row { "in a row (in series): the volts add up" } else { "side by side (in parallel): the amp-hours add up" };
        Some(LabelQuestion {
            says: format!("How are the {each} joined?"),
            choices: ways.iter().map(|way| LabelChoice { says: says(*way).into(), source: make(kinds[0], *way).0 }).collect(),
        })
    } else {
        None
    };
    if kinds.len() == 1 {
        understood.push(in_words(joined(kinds[0], ways[0]).0));
    }
    if said.wh.is_some() && said.ah.is_none() {
        assumed.push(format!("{}, its watt-hours over its volts", plain((100.0 * ah).round() / 100.0, "Ah")));
    }
    assumed.extend(more);
    Ok(LabelRead { source: Some(source), understood, assumed, question })
}

fn either(mut all: impl DoubleEndedIterator<Item = String>) -> String {
    let last = all.next_back().unwrap_or_default();
    let before: Vec<String> = all.collect();
    if before.is_empty() { last } else { format!("{} or {last}", before.join(", ")) }
}

fn in_words((chemistry, series): Cells) -> String {
    match chemistry {
        Chemistry::LithiumCoin => counted(series, "lithium coin cell"),
        _ => format!("{} of {}", counted(series, "cell"), chemistry.called()),
    }
}

/// The battery, and what was assumed for it.
fn battery(said: &Said, (chemistry, series): Cells, parallel: u32, ah: f64) -> (Source, Vec<String>) {
    let mut assumed = Vec::new();
    let capacity_ah = (ah * 1e4).round() / 1e4;
    let beside = if said.count.is_some() && parallel > 1 { f64::from(parallel) } else { 1.0 };
    let stated = said.c_rate.map(|rate| rate * capacity_ah).or_else(|| said.amps.map(|amps| amps * beside));
    let max_current_a = stated.unwrap_or_else(|| {
        let most = usual_rate(chemistry) * capacity_ah;
        assumed.push(format!("it gives at most {}: the label does not say; cells of this kind stand that", plain(most, "A")));
        most
    });
    let plain = plain_battery(chemistry, series, capacity_ah, (max_current_a * 1e4).round() / 1e4);
    let battery = Battery { parallel, rated_hours: said.hours.unwrap_or(plain.rated_hours), ..plain };
    (Source::Battery(battery), assumed)
}

/// What any pack of a chemistry stands, as a multiple of its capacity an hour: on the careful side of what is sold.
fn usual_rate(chemistry: Chemistry) -> f64 {
    match chemistry {
        Chemistry::Lipo => 10.0,
        Chemistry::Nimh => 2.0,
        Chemistry::Alkaline => 0.4,
        Chemistry::LithiumCoin => 0.1,
        _ => 1.0,
    }
}

/// Chemistry and cells in a row that bear the label, the likeliest first.
fn kinds(said: &Said, assumed: &mut Vec<String>) -> Result<Vec<Cells>, Unreadable> {
    match (said.chemistry, said.series, said.volts) {
        (Some(chemistry), Some(series), Some(volts)) => {
            let by_volts = cells_at(chemistry, volts);
            // 36 V and 10S agree; 14.8 V and 3S do not, and one of the two is a slip.
            let per_cell = volts / f64::from(series) / cell_of(chemistry).nominal_v;
            let agree = (0.8..1.2).contains(&per_cell) || by_volts == series;
            Ok(if agree { vec![(chemistry, series)] } else { vec![(chemistry, series), (chemistry, by_volts)] })
        }
        (Some(chemistry), Some(series), None) => Ok(vec![(chemistry, series)]),
        (Some(chemistry), None, Some(volts)) => {
            if is_full(chemistry, volts) {
                assumed.push(format!("{} is what it shows when it is full", plain(volts, "V")));
            }
            Ok(vec![(chemistry, cells_at(chemistry, volts).max(1))])
        }
        (None, Some(series), volts) => Ok(of_cells(said, series, volts, assumed)),
        (None, None, Some(volts)) => of_volts(said, volts, assumed).ok_or(Unreadable),
        (Some(_), None, None) | (None, None, None) => Err(Unreadable),
    }
}

/// So many cells without a word of what they are.
fn of_cells(said: &Said, series: u32, volts: Option<f64>, assumed: &mut Vec<String>) -> Vec<Cells> {
    let lithium = if said.c_rate.is_some() { Chemistry::Lipo } else { Chemistry::LiIon };
    let Some(each) = volts.map(|volts| volts / f64::from(series)) else {
        assumed.push(format!("{}, as packs are whose cells are counted in S", lithium.called()));
        return vec![(lithium, series)];
    };
    let chemistry = match each {
        v if v < 1.35 => Chemistry::Nimh,
        v if v < 1.7 => Chemistry::Alkaline,
        v if v < 2.3 => Chemistry::LeadAgm,
        v if (3.0..3.4).contains(&v) => Chemistry::Lifepo4,
        v if (3.4..4.4).contains(&v) => lithium,
        _ => return vec![(lithium, series), (lithium, cells_at(lithium, volts.unwrap_or_default()).max(1))],
    };
    assumed.push(format!("{}, by the volts of a cell", chemistry.called()));
    vec![(chemistry, series)]
}

/// Volts of labels that say no more, with what bears them: nominal voltages that one chemistry has to itself, and those that
/// several share. Those of a tool battery are of cells of 3.6 V.
const BY_VOLTS: &[(f64, &[Cells])] = {
    use Chemistry::{Alkaline, LeadAgm, LiIon, Lifepo4, LithiumCoin, Nimh};
    &[
        (1.2, &[(Nimh, 1)]),
        (1.5, &[(Alkaline, 1)]),
        (2.4, &[(Nimh, 2)]),
        (3.0, &[(Alkaline, 2), (LithiumCoin, 1)]),
        (3.2, &[(Lifepo4, 1)]),
        (3.6, &[(LiIon, 1), (Nimh, 3)]),
        (4.5, &[(Alkaline, 3)]),
        (4.8, &[(Nimh, 4)]),
        (6.0, &[(LeadAgm, 3), (Nimh, 5), (Alkaline, 4)]),
        (6.4, &[(Lifepo4, 2)]),
        (7.2, &[(Nimh, 6), (LiIon, 2)]),
        (8.4, &[(Nimh, 7), (LiIon, 2)]),
        (9.0, &[(Alkaline, 6)]),
        (9.6, &[(Nimh, 8), (Lifepo4, 3)]),
        (12.0, &[(LeadAgm, 6), (Lifepo4, 4), (LiIon, 3)]),
        (12.8, &[(Lifepo4, 4)]),
        (20.0, &[(LiIon, 5)]),
        (24.0, &[(LeadAgm, 12), (Lifepo4, 8), (LiIon, 7)]),
        (25.6, &[(Lifepo4, 8)]),
        (36.0, &[(LiIon, 10), (Lifepo4, 12), (LeadAgm, 18)]),
        (38.4, &[(Lifepo4, 12)]),
        (48.0, &[(LiIon, 13), (Lifepo4, 16), (LeadAgm, 24)]),
        (51.2, &[(Lifepo4, 16)]),
        (60.0, &[(LiIon, 16), (LeadAgm, 30)]),
        (72.0, &[(LiIon, 20), (LeadAgm, 36)]),
    ]
};

fn of_volts(said: &Said, volts: f64, assumed: &mut Vec<String>) -> Option<Vec<Cells>> {
    let lead = |series: u32| series.is_multiple_of(3) && (f64::from(series) * 2.0 - volts).abs() < 0.1 * volts;
    // Hours beside a capacity are printed on lead.
    if said.hours.is_some_and(|hours| hours >= 8.0) && lead(cells_at(Chemistry::LeadAgm, volts)) {
        assumed.push("sealed lead (AGM), as batteries are whose label states hours".to_owned());
        return Some(vec![(Chemistry::LeadAgm, cells_at(Chemistry::LeadAgm, volts))]);
    }
    if said.c_rate.is_some() {
        assumed.push("lithium polymer, as packs are whose label states a C".to_owned());
        return Some(vec![(Chemistry::Lipo, cells_at(Chemistry::Lipo, volts).max(1))]);
    }
    if let Some((_, kinds)) = BY_VOLTS.iter().find(|(known, _)| (volts / known - 1.0).abs() < 0.004) {
        if let [(chemistry, _)] = kinds {
            assumed.push(format!("{}, by its volts", chemistry.called()));
        }
        return Some(kinds.to_vec());
    }
    for (each, full) in [(3.7, false), (3.6, false), (4.2, true)] {
        let cells = (volts / each).round();
        if cells >= 1.0 && (volts / (cells * each) - 1.0).abs() < 0.006 {
            assumed.push(if full { format!("lithium-ion, full: {} is what it shows then", plain(volts, "V")) } else { "lithium-ion, by its volts".to_owned() });
            return Some(vec![(Chemistry::LiIon, cells as u32)]);
        }
    }
    let cells = cells_at(Chemistry::LiIon, volts);
    if cells >= 2 && (volts / (f64::from(cells) * 3.6) - 1.0).abs() < 0.06 {
        assumed.push("lithium-ion, by its volts".to_owned());
        return Some(vec![(Chemistry::LiIon, cells)]);
    }
    None
}

/// Whether volts are those of a full pack rather than its name.
fn is_full(chemistry: Chemistry, volts: f64) -> bool {
    let Some(full) = cell_of(chemistry).charge_v.filter(|_| matches!(chemistry, Chemistry::LiIon | Chemistry::Lipo | Chemistry::Lifepo4)) else { return false };
    let whole = |each: f64| (volts / each - (volts / each).round()).abs() < 0.006 * volts / each;
    whole(full) && !whole(3.6) && !whole(3.7) && !whole(cell_of(chemistry).nominal_v) && !ROUND.contains(&volts)
}

/// Volts that packs are called by, whatever their cells come to.
const ROUND: [f64; 7] = [6.0, 12.0, 24.0, 36.0, 48.0, 60.0, 72.0];

/// Cells in a row of a chemistry by the volts that a label states.
fn cells_at(chemistry: Chemistry, volts: f64) -> u32 {
    let called = |counts: [u32; 7]| ROUND.iter().position(|known| (volts / known - 1.0).abs() < 0.004).map(|at| counts[at]);
    let round = |each: f64| (volts / each).round() as u32;
    match chemistry {
        Chemistry::LiIon | Chemistry::Lipo => called([2, 3, 7, 10, 13, 16, 20]).unwrap_or_else(|| {
            if is_full(chemistry, volts) {
                return round(4.2);
            }
            let near = |each: f64| (volts / each - (volts / each).round()).abs() < 0.02 * volts / each;
            if near(3.7) { round(3.7) } else { round(3.6) }
        }),
        Chemistry::Lifepo4 => called([2, 4, 8, 12, 16, 20, 24]).unwrap_or_else(|| if is_full(chemistry, volts) { round(3.65) } else { round(3.2) }),
        // Blocks of three cells; a block of one or four is as its volts say.
        Chemistry::LeadAgm | Chemistry::LeadFlooded if (volts / 6.0).round() >= 1.0 && (volts / 6.0 - (volts / 6.0).round()).abs() < 0.07 * volts / 6.0 => {
            3 * (volts / 6.0).round() as u32
        }
        Chemistry::LeadAgm | Chemistry::LeadFlooded => round(2.0),
        _ => round(cell_of(chemistry).nominal_v),
    }
}
