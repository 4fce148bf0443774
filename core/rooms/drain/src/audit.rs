//! What is on the battery now, bulb by bulb, and what replacing the bulbs changes.
//!
//! The bulbs are solved on the battery like any light (a hot filament draws less than its rating at low voltage, an
//! LED driver more), wires left out: a usual evening, everything on, and nothing on. Beside the computed currents
//! stand the measured ones.

use orthavis_model::document::{AuditBulb, Battery, Build, Draw, Gauge, Light, Load, Part, Scene, SceneLight, Source, What};
use orthavis_model::laws::battery::cell_of;
use orthavis_model::laws::conditions::conditioned;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::parts;
use orthavis_model::practice::within;
use orthavis_model::states::State;
use orthavis_model::working::{Fact, Rule, fact, quantity};
use orthavis_physics::endurance::draw;
use orthavis_physics::network::Network;
use orthavis_physics::parked::standing_a;
use orthavis_physics::points::{PointError, finished, solved};
use serde::Serialize;
use std::collections::BTreeMap;

/// An audit's answer.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AuditReport {
    /// Every type of bulb, in document order.
    pub lines: Vec<AuditLine>,
    /// Currents by load case, before and after, beside the measured ones.
    pub cases: Vec<AuditCase>,
    /// The day and the nights, before and after.
    pub outcomes: Vec<AuditOutcome>,
    /// The two ways to the same nights: use less, or carry more.
    pub ways: Vec<AuditWay>,
    /// How to measure without harm.
    pub instructions: &'static [&'static str],
}

/// Bulbs of one type.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AuditLine {
    /// Id in the audit.
    pub id: String,
    /// What they are.
    pub name: String,
    /// What replaces them.
    pub replacement: Option<String>,
    /// Current of one now, at half charge.
    pub before_a: Fact,
    /// Current of one replacement.
    pub after_a: Option<Fact>,
    /// Charge they take in a day, now, Ah.
    pub before_ah: f64,
    /// Charge they take in a day, replaced where a replacement is chosen, Ah.
    pub after_ah: f64,
    /// Price of the replacements, all of them, euro.
    pub cost_eur: Option<f64>,
    /// What fits the same holder, best match of brightness first.
    pub candidates: Vec<Candidate>,
}

/// A bulb that fits.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Candidate {
    /// Id of the part.
    pub part: String,
    /// Its name.
    pub name: String,
    /// Its light over that of the old one.
    pub brightness: f64,
    /// Colour of its light, K.
    pub colour_k: f64,
    /// Power, W.
    pub power_w: f64,
    /// Typical price, euro.
    pub price_eur: Option<f64>,
    /// Whether it stands all that the battery shows.
    pub stands: bool,
    /// What to mind: polarity, brightness, colour, voltage.
    pub notes: Vec<String>,
}

/// A load case.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AuditCase {
    /// Stable name: `usual`, `all`, `rest`, `disconnected`.
    pub case: &'static str,
    /// In words.
    pub title: &'static str,
    /// Computed now.
    pub before_a: Fact,
    /// Computed with the replacements.
    pub after_a: Fact,
    /// Measured now, A.
    pub measured_a: Option<f64>,
    /// Measured with the replacements, A.
    pub measured_after_a: Option<f64>,
    /// With the replacements over now: measured where both were measured, else computed; absent where nothing is drawn.
    pub ratio: Option<f64>,
    /// What a difference between measured and computed says.
    pub remark: Option<String>,
}

/// A figure before and after.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AuditOutcome {
    /// Stable name.
    pub key: &'static str,
    /// What it is.
    pub label: &'static str,
    /// As it is; absent where there is no end to it.
    pub before: Option<Fact>,
    /// As it would be; absent where there is no end to it.
    pub after: Option<Fact>,
}

/// A way to the nights that the replacements buy.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AuditWay {
    /// In words.
    pub title: String,
    /// Cost, mass, nights.
    pub facts: Vec<Fact>,
    /// What else it means.
    pub remark: String,
}

const INSTRUCTIONS: [&str; 6] = [
    "Chargers and solar off, and the battery rested for an hour: else you measure them as well.",
    "A clamp is zeroed with nothing in it, then closed around one conductor only.",
    "An in-line meter is limited to about 10 A: leave it out when everything is on.",
    "Take the probes out of the current socket before you measure volts: in there they are a short circuit.",
    "The usual evening first, then everything on, then everything off, then the main disconnect open.",
    "What still flows with the disconnect open is wired ahead of it. A gas alarm belongs there; never switch it off.",
];

/// Reads an audit: the answer, or `None` where a build has none, or a rail.
///
/// # Errors
/// A load case that the battery cannot feed.
pub fn audit(build: &Build) -> Result<Option<AuditReport>, PointError> {
    let (Some(audit), Source::Battery(_)) = (&build.audit, &build.source) else { return Ok(None) };
    let aged = conditioned(build);
    let Source::Battery(battery) = &aged.source else { return Ok(None) };
    let (before, after) = (Side::of(&aged, battery, &audit.bulbs, false)?, Side::of(&aged, battery, &audit.bulbs, true)?);
    let lines = audit.bulbs.iter().enumerate().map(|(index, bulb)| line(build, battery, bulb, before.each_a[index], after.each_a[index]));
    let lines: Vec<AuditLine> = lines.collect();
    let rest = |key| fact(key, "Everything off", "I", standing_a(&aged, false), "A", &REST, vec![]);
    let disconnected = |key| fact(key, "Main disconnect open", "I", standing_a(&aged, true), "A", &REST, vec![]);
    let (measured, after_it) = (&audit.measured, &audit.measured_after);
    let cases = vec![
        case("usual", "A usual evening", before.current(0), after.current(0), (measured.usual_a, after_it.usual_a)),
        case("all", "Everything on", before.current(1), after.current(1), (measured.all_a, after_it.all_a)),
        case("rest", "Everything off", rest("current_a"), rest("current_a"), (measured.rest_a, after_it.rest_a)),
        case("disconnected", "Main disconnect open", disconnected("current_a"), disconnected("current_a"), (measured.disconnected_a, after_it.disconnected_a)),
    ];
    let (was, becomes) = (before.facts(&aged, battery), after.facts(&aged, battery));
    let outcomes = OUTCOMES.iter().map(|&(key, label)| {
        let of = |facts: &[Fact]| facts.iter().find(|fact| fact.key == key).cloned();
        AuditOutcome { key, label, before: of(&was), after: of(&becomes) }
    });
    let outcomes = outcomes.collect();
    let ways = ways(&aged, battery, &lines, &before, &after);
    finished(build)?;
    Ok(Some(AuditReport { lines, cases, outcomes, ways, instructions: &INSTRUCTIONS }))
}

/// Figures of both sides, with their names.
const OUTCOMES: [(&str, &str); 6] = [
    ("day_ah", "A day takes"),
    ("nights", "Nights away on one charge"),
    ("usual_h", "To reserve, a usual evening left on"),
    ("usual_even_h", "The same without Peukert's law"),
    ("all_h", "To reserve, everything left on"),
    ("all_even_h", "The same without Peukert's law"),
];

const REST: Rule = Rule { words: "What lives on the battery besides the lights, as a mean of the day.", formula: "I = Σ I_s·h_s / 24", source: "As entered" };

/// The battery with its bulbs, before or after.
struct Side {
    /// Current of one bulb of each type at half charge, A.
    each_a: Vec<f64>,
    /// All of them, usual evening and everything on, at half charge, A.
    case_a: [f64; 2],
    /// From full to reserve in both cases, each with Peukert's law and without, h; `None` where nothing is drawn.
    hours: [Option<f64>; 4],
    /// A day, Ah.
    day_ah: f64,
    /// What a day takes of the charge beyond that, because a usual evening discharges fast, Ah.
    fast_ah: f64,
}

impl Side {
    fn of(build: &Build, battery: &Battery, bulbs: &[AuditBulb], replaced: bool) -> Result<Side, PointError> {
        let now = with_bulbs(build, bulbs, replaced);
        // A figure of nothing would be no comparison.
        let solved = solved(&now, &[])?;
        if let Some(collapsed) = solved.collapsed.into_iter().next() {
            return Err(collapsed);
        }
        let solved = solved.points;
        let at = |scene: &str| solved.iter().find(|point| point.scene == scene && point.state == State::Half);
        let case = |scene: &str| at(scene).map_or(0.0, |point| point.source.current_a);
        let each =
            |bulb: &AuditBulb| at("all").and_then(|point| point.lights.get(&bulb.id)).map_or(0.0, |light| light.current_a / f64::from(bulb.count.max(1)));
        let each_a: Vec<f64> = bulbs.iter().map(each).collect();
        let lights_ah: f64 = bulbs.iter().zip(&each_a).map(|(bulb, a)| f64::from(bulb.usual) * a * bulb.hours_per_day).sum();
        let mut hours = [None; 4];
        let even = Battery { peukert: Some(1.0), ..battery.clone() };
        if let Ok(mut network) = Network::new(&now) {
            for (hours, scene) in hours.chunks_mut(2).zip(&now.scenes) {
                let reserve = battery.reserve_soc();
                let drawn = draw(&now, battery, &mut network, scene, reserve);
                for (hours, battery) in hours.iter_mut().zip([battery, &even]) {
                    *hours = drawn.run(battery, reserve, |_, _| 0.0).map(|run| run.hours);
                }
            }
        }
        let usual_a = case("usual");
        Ok(Side {
            each_a,
            case_a: [usual_a, case("all")],
            hours,
            day_ah: lights_ah + 24.0 * standing_a(build, false),
            fast_ah: lights_ah * (battery.peukert_factor(usual_a) - 1.0),
        })
    }

    fn current(&self, case: usize) -> Fact {
        const RULE: Rule = Rule {
            words: "Every bulb solved at half charge, and what else lives on the battery.",
            formula: "I = Σ n·I_bulb(V) + I_s",
            source: "Lamp and driver characteristics; wires left out",
        };
        let label = ["A usual evening", "Everything on"][case];
        fact("current_a", label, "I", self.case_a[case], "A", &RULE, vec![])
    }

    /// Nights on one charge; `None` where as much comes back as is used.
    fn nights(&self, build: &Build, battery: &Battery) -> Option<f64> {
        let gain = build.usage.gain.as_ref().map_or(0.0, |gain| gain.hours_per_day * gain.current_a * habits_of(battery.chemistry).charge_efficiency);
        let left = self.day_ah + self.fast_ah - gain;
        (left > 1e-9).then(|| battery.capacity_ah * battery.usable() / left)
    }

    fn facts(&self, build: &Build, battery: &Battery) -> Vec<Fact> {
        const DAY: Rule = Rule {
            words: "Each bulb's current times its hours, and what else lives on the battery all day.",
            formula: "Q = Σ n·I·h + 24·I_s",
            source: "Currents at half charge",
        };
        const NIGHTS: Rule =
            Rule {
                words: "What may be used over what a day takes more than it brings.", formula: "n = C·u / (Q + Q_fast − Q_gain)", source: "Charge balance"
            };
        const HOURS: Rule =
            Rule { words: "From full to reserve with the load left on.", formula: "t = ∫ C / (I·p) d soc", source: "Discharge simulation; Peukert's law" };
        let usable = battery.capacity_ah * battery.usable();
        let day = vec![quantity("I_s", "standing loads, mean", standing_a(build, false), "A")];
        let [(day_key, day_label), (nights_key, nights_label), ends @ ..] = OUTCOMES;
        let mut facts = vec![fact(day_key, day_label, "Q", self.day_ah, "Ah", &DAY, day)];
        let given = || {
            vec![
                quantity("C·u", "may be used", usable, "Ah"),
                quantity("Q", "a day takes", self.day_ah, "Ah"),
                quantity("Q_fast", "more by fast discharge (Peukert)", self.fast_ah, "Ah"),
            ]
        };
        facts.extend(self.nights(build, battery).map(|nights| fact(nights_key, nights_label, "n", nights, "", &NIGHTS, given())));
        for ((key, label), hours) in ends.into_iter().zip(self.hours) {
            let given = vec![quantity("C", "capacity as it is", battery.capacity_ah, "Ah")];
            facts.extend(hours.map(|hours| fact(key, label, "t", hours, "h", &HOURS, given)));
        }
        facts
    }
}

/// The build's battery and standing loads with the audited bulbs as its only lights.
fn with_bulbs(build: &Build, bulbs: &[AuditBulb], replaced: bool) -> Build {
    let mut now = build.clone();
    now.junctions.clear();
    now.converters.clear();
    if let Source::Battery(battery) = &mut now.source {
        battery.used_while_charging = false;
    }
    let mut levels = BTreeMap::new();
    now.lights = bulbs
        .iter()
        .filter(|bulb| bulb.count > 0)
        .filter_map(|bulb| {
            let id = bulb.replacement.as_ref().filter(|_| replaced).unwrap_or(&bulb.part);
            let What::Bulb { load: Load::Module(module), .. } = &parts::bulb(build, id)?.what else { return None };
            let mut together = module.clone();
            together.power_w *= f64::from(bulb.count);
            levels.insert(bulb.id.clone(), f64::from(bulb.usual) / f64::from(bulb.count));
            let feeds = vec![orthavis_model::edit::plain_feed("source", 0.01, Gauge::Mm2(100.0))];
            Some(Light {
                id: bulb.id.clone(),
                place: String::new(),
                feeds,
                load: Load::Module(together),
                mass_g: 0.0,
                colour: None,
                purpose: None,
                reverse_ok: None,
                sealed: None,
                profile: false,
                shine: None,
            })
        })
        .collect();
    let lit = |level: &dyn Fn(&str) -> f64| {
        let lights = now.lights.iter().map(|light| (light.id.clone(), SceneLight { level: level(&light.id), ..SceneLight::FULL }));
        lights.collect::<BTreeMap<_, _>>()
    };
    now.scenes = vec![
        Scene { id: "usual".into(), name: "A usual evening".into(), lights: lit(&|id| levels.get(id).copied().unwrap_or(0.0)) },
        Scene { id: "all".into(), name: "Everything on".into(), lights: lit(&|_| 1.0) },
    ];
    now
}

fn line(build: &Build, battery: &Battery, bulb: &AuditBulb, before_a: f64, after_a: f64) -> AuditLine {
    const ONE: Rule = Rule { words: "One of them on the half-charged battery.", formula: "I = I(V)", source: "Lamp or driver characteristic" };
    let name = |id: &str| parts::bulb(build, id).map_or_else(|| id.to_owned(), |part| part.name.clone());
    let of = |id: &str, amps| {
        let watts = parts::bulb(build, id).and_then(module_w).unwrap_or(0.0);
        fact(
            "each_a",
            "Current of one",
            "I",
            amps,
            "A",
            &ONE,
            vec![quantity("V", "battery at half", battery.emf_v(0.5), "V"), quantity("P", "printed on it", watts, "W")],
        )
    };
    let chosen = bulb.replacement.as_deref();
    let ah = |amps: f64| f64::from(bulb.usual) * amps * bulb.hours_per_day;
    AuditLine {
        id: bulb.id.clone(),
        name: name(&bulb.part),
        replacement: chosen.map(name),
        before_a: of(&bulb.part, before_a),
        after_a: chosen.map(|id| of(id, after_a)),
        before_ah: ah(before_a),
        after_ah: ah(after_a),
        cost_eur: chosen.and_then(|id| parts::bulb(build, id)?.price_eur).map(|price| price * f64::from(bulb.count)),
        candidates: candidates(build, battery, &bulb.part),
    }
}

fn module_w(part: &Part) -> Option<f64> {
    match &part.what {
        What::Bulb { load: Load::Module(module), .. } => Some(module.power_w),
        _ => None,
    }
}

/// Bulbs of the same holder that are no filament, best match of brightness first.
fn candidates(build: &Build, battery: &Battery, old: &str) -> Vec<Candidate> {
    let Some(What::Bulb { holder, lumens, colour_k, .. }) = parts::bulb(build, old).map(|part| &part.what) else { return Vec::new() };
    let top_v = battery.charging_v().unwrap_or_else(|| battery.emf_v(1.0)).max(battery.emf_v(1.0));
    let fits = |part: &Part| {
        let What::Bulb { load: Load::Module(module), holder: its, lumens: lm, colour_k: its_k, polarised } = &part.what else { return None };
        if its != holder || module.draw == Draw::Filament {
            return None;
        }
        let brightness = lm / lumens;
        let mut notes = Vec::new();
        if *polarised {
            notes.push("works one way round only: if it stays dark, turn it".to_owned());
        }
        if !(0.75..=1.5).contains(&brightness) {
            notes.push(if brightness < 1.0 { "clearly dimmer".to_owned() } else { "clearly brighter".to_owned() });
        }
        if its_k - colour_k > 700.0 {
            notes.push(format!("colder light, {its_k:.0} K instead of {colour_k:.0} K"));
        }
        let stands = within(top_v, module.max_v);
        if !stands {
            notes.push(format!("stands {} V, the battery reaches {:.1} V: not straight on it", module.max_v, top_v));
        }
        Some(Candidate {
            part: part.id.clone(),
            name: part.name.clone(),
            brightness,
            colour_k: *its_k,
            power_w: module.power_w,
            price_eur: part.price_eur,
            stands,
            notes,
        })
    };
    let mut found: Vec<Candidate> = parts::library().iter().chain(&build.parts).filter_map(fits).collect();
    found.sort_by(|a, b| b.stands.cmp(&a.stands).then(a.brightness.ln().abs().total_cmp(&b.brightness.ln().abs())));
    found
}

fn case(case: &'static str, title: &'static str, before_a: Fact, after_a: Fact, (measured_a, measured_after_a): (Option<f64>, Option<f64>)) -> AuditCase {
    let said = |measured: f64, computed: f64| {
        if (measured - computed).abs() <= 0.1 * computed + 0.02 {
            "agrees within a tenth".to_owned()
        } else if measured > computed {
            format!("{:.2} A more than computed: something draws that is not listed", measured - computed)
        } else {
            format!("{:.2} A less than computed: a bulb is out, or a rating is not what is printed", computed - measured)
        }
    };
    let now = measured_a.map(|measured| said(measured, before_a.value));
    let then = measured_after_a.map(|measured| said(measured, after_a.value));
    let remark = match (now, then) {
        (Some(now), Some(then)) if now != then => Some(format!("now {now}; afterwards {then}")),
        (now, then) => then.or(now),
    };
    let (over, under) = measured_after_a.zip(measured_a).unwrap_or((after_a.value, before_a.value));
    AuditCase { case, title, ratio: (under > 0.0).then(|| over / under), before_a, after_a, measured_a, measured_after_a, remark }
}

/// Use less, or carry more.
fn ways(build: &Build, battery: &Battery, lines: &[AuditLine], before: &Side, after: &Side) -> Vec<AuditWay> {
    let cost: f64 = lines.iter().filter_map(|line| line.cost_eur).sum();
    if lines.iter().all(|line| line.replacement.is_none()) {
        return Vec::new();
    }
    const COST: Rule = Rule { words: "Typical prices of the parts.", formula: "K = Σ n·k", source: "Parts library; prices are a rough guide" };
    const NIGHTS: Rule = Rule { words: "Nights with them less nights without.", formula: "Δn = n_after − n_before", source: "Charge balance" };
    const SAVED: Rule = Rule { words: "A day before less a day after.", formula: "ΔQ = Q_before − Q_after", source: "Charge balance" };
    const MORE: Rule = Rule {
        words: "The capacity at which the old bulbs give the same nights, less what is there.",
        formula: "ΔC = n_after·(Q_before − Q_gain) / u − C",
        source: "Charge balance",
    };
    const LIKE: Rule = Rule {
        words: "Price and mass of a battery of its kind from the parts library, by the watt-hour.",
        formula: "K = ΔC·k",
        source: "Parts library; prices are a rough guide",
    };
    let saved = fact(
        "saved_ah",
        "Saved a day",
        "ΔQ",
        before.day_ah - after.day_ah,
        "Ah",
        &SAVED,
        vec![quantity("Q_before", "before", before.day_ah, "Ah"), quantity("Q_after", "after", after.day_ah, "Ah")],
    );
    let mut less = AuditWay {
        title: "Use less: replace the bulbs".into(),
        facts: vec![fact("cost_eur", "Cost", "K", cost, "€", &COST, vec![]), saved],
        remark: "The same light from the same battery, and less heat at the lamps.".into(),
    };
    let (Some(old), Some(new)) = (before.nights(build, battery), after.nights(build, battery)) else {
        less.remark += " Then as much comes back in a day as is used: the nights have no end.";
        return vec![less];
    };
    let given = vec![quantity("n_after", "after", new, ""), quantity("n_before", "before", old, "")];
    let bought = fact("nights_won", "Nights won", "Δn", new - old, "", &NIGHTS, given);
    less.facts.insert(1, bought.clone());
    let extra_ah = battery.capacity_ah * (new / old - 1.0);
    let mut facts = vec![bought, fact("extra_ah", "More capacity", "ΔC", extra_ah, "Ah", &MORE, vec![quantity("C", "there is", battery.capacity_ah, "Ah")])];
    if let Some((eur_wh, g_wh)) = like(battery) {
        let wh = extra_ah * f64::from(battery.series) * cell_of(battery.chemistry).nominal_v;
        let given = || vec![quantity("ΔC", "more capacity", extra_ah, "Ah")];
        facts.insert(0, fact("cost_eur", "Cost", "K", wh * eur_wh, "€", &LIKE, given()));
        facts.push(fact("extra_kg", "More mass", "m", 0.001 * wh * g_wh, "kg", &LIKE, given()));
    }
    let more = AuditWay {
        title: "Carry more: a larger battery".into(),
        facts,
        remark: "Nothing is rewired at the lamps, but charging takes longer, and batteries side by side want to be of one kind and age.".into(),
    };
    vec![less, more]
}

/// Price and mass of a battery of this kind, by the watt-hour: euro, g.
fn like(battery: &Battery) -> Option<(f64, f64)> {
    let kind = |part: &&Part| matches!(&part.what, What::Battery { battery: known } if known.chemistry == battery.chemistry);
    let wh = |part: &Part| match &part.what {
        What::Battery { battery } => battery.capacity_ah * f64::from(battery.series) * cell_of(battery.chemistry).nominal_v,
        _ => 1.0,
    };
    let here = battery.capacity_ah * f64::from(battery.series) * cell_of(battery.chemistry).nominal_v;
    let nearest = parts::library().iter().filter(kind).min_by(|a, b| (wh(a) / here).ln().abs().total_cmp(&(wh(b) / here).ln().abs()))?;
    Some((nearest.price_eur? / wh(nearest), nearest.mass_g? / wh(nearest)))
}
