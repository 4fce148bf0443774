//! The search over whole designs: estimated first, by sums; the best of them drawn up, solved at every state and judged.

use crate::lamps::{Lamp, lamps};
use crate::measures::{Measures, measures};
use crate::plan::{Feeding, Sketch};
use crate::wish::{OwnPack, Wish, usable_wh};
use orthavis_judge::findings::Card;
use orthavis_judge::report::report_at_once;
use orthavis_model::budget;
use orthavis_model::document::{Build, Hands, Load, Part, Source, What};
use orthavis_model::parts::library;
use orthavis_model::working::plain;
use orthavis_physics::points::PointError;
use serde::Serialize;
use std::collections::BTreeMap;

/// A design that is offered.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Design {
    /// In a line: what it is, and what it costs against the first.
    pub says: String,
    /// What it is best at among those found.
    pub good_at: Vec<&'static str>,
    /// Its measures.
    pub measures: Measures,
    /// Cost, mass, hours, joints and headroom, each as a share between the best (0) and the worst (1) of all that none beats: what
    /// weights are put on.
    pub shares: [f64; 5],
    /// What is to be noted of it; nothing of it stops.
    pub notes: Vec<String>,
    /// The whole plan.
    pub build: Build,
}

/// What a wish comes to.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Designs {
    /// Three to five, the balanced one first; fewer where there are no more.
    pub designs: Vec<Design>,
    /// Designs that were estimated.
    pub considered: usize,
    /// Sound ones that none beats in all that counts.
    pub not_beaten: usize,
    /// Why there is none, and what comes nearest.
    pub impossible: Option<Impossible>,
    /// Measures of all that none beats, those that are offered first.
    pub found: Vec<Measures>,
}

/// Why a wish cannot be had.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Impossible {
    /// Which wishes stand against each other, and by how much.
    pub why: String,
    /// The nearest design; `None`: nothing like it can be built.
    pub nearest: Option<Box<Design>>,
}

/// Designs that are drawn up and judged.
const DRAWN: usize = 60;
/// Lights in all of them: a build of many takes longer to solve.
const DRAWN_LIGHTS: usize = 300;
/// Own packs that are looked at.
const PACKS: usize = 5;
/// A design that gives a little less than was wished is not lost for it.
const ENOUGH: f64 = 0.995;
/// Share of the battery's power that reaches a light through a converter, for an estimate.
const PASSED: f64 = 0.88;
/// Most offered.
const OFFERED: usize = 5;

/// A supply that lights may hang on.
#[derive(Clone)]
struct Supply {
    source: Source,
    pack: Option<&'static Part>,
}

/// An estimate of a design, cheap enough to be made of all of them.
struct Estimate {
    supply: usize,
    lamps: Vec<usize>,
    feeding: usize,
    cost: f64,
    mass_g: f64,
    hours: f64,
    joints: f64,
}

/// A design that was drawn up and judged.
struct Drawn {
    build: Build,
    measures: Measures,
    words: String,
}

/// What a search found: what is as wished, and what falls short of it.
#[derive(Default)]
struct Found {
    good: Vec<Drawn>,
    short: Vec<Drawn>,
    considered: usize,
}

/// Designs for a wish.
///
/// # Errors
/// When work was stopped.
pub fn designs(wish: &Wish) -> Result<Designs, PointError> {
    let lights: u32 = wish.lights.iter().map(|light| light.count).sum();
    designs_of(wish, (DRAWN_LIGHTS / lights.max(1) as usize).clamp(DRAWN_LESS, DRAWN))
}

/// The same with so many designs drawn up at most: all of them, and the answer is exact.
///
/// # Errors
/// When work was stopped.
pub fn designs_of(wish: &Wish, most: usize) -> Result<Designs, PointError> {
    let ways: Vec<Vec<Lamp>> = wish.lights.iter().map(|light| lamps(wish, light)).collect();
    let without = ways.iter().position(Vec::is_empty);
    let found = if without.is_some() { Found::default() } else { search(wish, &ways, most)? };
    let considered = found.considered;
    let best = not_beaten(found.good);
    if best.is_empty() {
        let impossible = impossible(wish, found.short, without)?;
        return Ok(Designs { designs: Vec::new(), considered, not_beaten: 0, impossible: Some(impossible), found: Vec::new() });
    }
    offered(best, considered)
}

impl Drawn {
    /// As it is offered, with what is to be noted of it.
    fn offered(self, says: String, good_at: Vec<&'static str>, shares: [f64; 5]) -> Result<Design, PointError> {
        let cards = report_at_once(&self.build)?.cards;
        let named = |card: Card| if card.title.contains(&card.subject) { card.title } else { format!("{}: {}", card.subject, card.title) };
        let notes = cards.into_iter().filter(|card| card.follows.is_none()).map(named).collect();
        Ok(Design { says, good_at, measures: self.measures, shares, notes, build: self.build })
    }
}

fn search(wish: &Wish, ways: &[Vec<Lamp>], most: usize) -> Result<Found, PointError> {
    let supplies = supplies(wish, ways);
    let mut all = estimates(wish, ways, &supplies);
    let considered = all.len();
    // What clearly cannot last, or costs or weighs too much, is not drawn up unless nothing else is there.
    let able = |one: &Estimate| {
        one.hours >= 0.8 * wish.hours
            && wish.most_cost.is_none_or(|most| one.cost <= 1.1 * most)
            && wish.most_mass_g.is_none_or(|most| one.mass_g <= 1.1 * most)
    };
    all.sort_by_key(|one| !able(one));
    let possible = all.iter().filter(|one| able(one)).count();
    let mut found = Found { considered, ..Found::default() };
    let mut left = most;
    for index in order(&all[..if possible > 0 { possible } else { all.len() }]) {
        if left == 0 || budget::stopped().is_some() {
            break;
        }
        let Some(sketch) = sketch(wish, ways, &supplies, &all[index]) else { continue };
        left -= 1;
        let Some(build) = sketch.drawn(wish) else { continue };
        let measures = measures(&build, &drawer(wish, &build))?;
        let lasts = measures.hours.is_none_or(|hours| hours >= ENOUGH * wish.hours);
        let within = wish.most_cost.is_none_or(|most| measures.cost <= most) && wish.most_mass_g.is_none_or(|most| measures.mass_g <= most);
        let drawn = Drawn { build, measures, words: sketch.words(wish) };
        if lasts && within { &mut found.good } else { &mut found.short }.push(drawn);
    }
    Ok(found)
}

/// Why no part does for a light.
fn no_lamp(wish: &Wish, index: usize) -> String {
    let light = &wish.lights[index];
    let hands = if wish.hands == Hands::Solder { String::new() } else { format!(" that goes without soldering ({})", wish.hands.called()) };
    let long = light.length_m.map(|length| format!(" in {}", plain(length, "m"))).unwrap_or_default();
    format!(
        "no part here gives {} of {} light{long} at {}{hands}; less light there, another colour{}",
        plain(light.least_lm(), "lm"),
        light.colour,
        light.place,
        if wish.hands == Hands::Solder { " or several lights would do" } else { " or soldered joints would do" }
    )
}

/// Supplies that the wish allows: the vehicle's own, and packs that last as long as is wished.
fn supplies(wish: &Wish, ways: &[Vec<Lamp>]) -> Vec<Supply> {
    let mut all = Vec::new();
    if wish.own_pack != OwnPack::Must {
        all.extend(wish.source.clone().map(|source| Supply { source, pack: None }));
    }
    if wish.own_pack != OwnPack::No || wish.source.is_none() {
        let least = |lamps: &Vec<Lamp>| lamps.iter().map(|lamp| lamp.watts).fold(f64::INFINITY, f64::min);
        let watts: f64 = wish.lights.iter().zip(ways).map(|(light, lamps)| f64::from(light.count) * least(lamps)).sum();
        let mut packs: Vec<(&'static Part, f64)> = library()
            .iter()
            .filter_map(|part| match &part.what {
                What::Battery { battery } if !part.retired => Some((part, usable_wh(battery))),
                _ => None,
            })
            .filter(|(_, wh)| *wh >= watts * wish.hours)
            .collect();
        if packs.is_empty() {
            packs =
                library().iter().filter_map(|part| if let What::Battery { battery } = &part.what { Some((part, usable_wh(battery))) } else { None }).collect();
            packs.sort_by(|a, b| b.1.total_cmp(&a.1));
            packs.truncate(2);
        }
        // The lightest, the cheapest and what lies between.
        let weight = |part: &Part| part.price_eur.unwrap_or(50.0) + 0.05 * part.mass_g.unwrap_or(1000.0);
        packs.sort_by(|a, b| weight(a.0).total_cmp(&weight(b.0)));
        for (part, _) in packs.into_iter().take(PACKS) {
            if let What::Battery { battery } = &part.what {
                all.push(Supply { source: Source::Battery(battery.clone()), pack: Some(part) });
            }
        }
    }
    all
}

/// Converters of the library that give a voltage from a supply, the cheapest and the strongest that hands can wire.
fn feedings(wish: &Wish, supply: &Supply, volts: f64, watts: f64) -> Vec<Feeding> {
    let mut all = vec![Feeding::Best];
    let (low, high) = ends(wish, supply);
    let mut able: Vec<&'static Part> = library()
        .iter()
        .filter(|part| !part.retired)
        .filter(|part| match &part.what {
            What::Converter { figures } => {
                figures.set_v().is_some_and(|set| (set / volts - 1.0).abs() < 0.02)
                    && low >= figures.min_in_v
                    && high <= figures.max_in_v
                    && figures.max_out_a * volts >= 1.25 * watts
                    && (wish.hands == Hands::Solder || part.mass_g.unwrap_or(0.0) >= WITH_LEADS_G)
            }
            _ => false,
        })
        .collect();
    able.sort_by(|a, b| a.price_eur.unwrap_or(9.0).total_cmp(&b.price_eur.unwrap_or(9.0)));
    let cheapest = able.first().copied();
    let strongest = able.last().copied().filter(|last| cheapest.is_none_or(|first| first.id != last.id));
    all.extend(cheapest.into_iter().chain(strongest).map(Feeding::By));
    if wish.hands != Hands::Solder && all.len() > 1 {
        // Bare boards want an iron; sealed ones have leads.
        all.remove(0);
    }
    all
}

/// Converters from this mass on are sealed, with leads; lighter ones are bare boards with pads, g.
const WITH_LEADS_G: f64 = 30.0;

/// Ways of feeding that are tried for a set of lamps.
const FEEDINGS: usize = 3;

fn estimates(wish: &Wish, ways: &[Vec<Lamp>], supplies: &[Supply]) -> Vec<Estimate> {
    let mut all = Vec::new();
    for (supply_at, supply) in supplies.iter().enumerate() {
        let (wh, rail) = match &supply.source {
            Source::Battery(battery) => (usable_wh(battery), false),
            Source::Rail(_) | Source::Track(_) => (f64::INFINITY, true),
        };
        let pack = supply.pack.map_or((0.0, 0.0), |part| (part.price_eur.unwrap_or(0.0), part.mass_g.unwrap_or(0.0)));
        let mut chosen = vec![0; ways.len()];
        loop {
            let lamps: Vec<&Lamp> = chosen.iter().zip(ways).map(|(at, ways)| &ways[*at]).collect();
            let sum = |of: fn(&Lamp) -> f64| wish.lights.iter().zip(&lamps).map(|(light, lamp)| f64::from(light.count) * of(lamp)).sum::<f64>();
            let watts = sum(|lamp| lamp.watts) / PASSED;
            for feeding in 0..FEEDINGS {
                all.push(Estimate {
                    supply: supply_at,
                    lamps: chosen.clone(),
                    feeding,
                    cost: sum(|lamp| lamp.cost) + pack.0 + 6.0 * feeding as f64,
                    mass_g: sum(|lamp| lamp.mass_g) + pack.1 + 60.0 * feeding as f64,
                    hours: if rail { f64::INFINITY } else { wh / watts.max(1e-9) },
                    joints: sum(|lamp| f64::from(lamp.joints)),
                });
            }
            if !next(&mut chosen, ways) || all.len() > MOST_ESTIMATES || budget::spend(1).is_err() {
                break;
            }
        }
    }
    all
}

/// More than these are not looked at: twelve lights of six ways each would be two thousand million.
const MOST_ESTIMATES: usize = 60_000;

/// The next choice, as a counter with a digit for each light.
fn next(chosen: &mut [usize], ways: &[Vec<Lamp>]) -> bool {
    for (digit, ways) in chosen.iter_mut().zip(ways) {
        *digit += 1;
        if *digit < ways.len() {
            return true;
        }
        *digit = 0;
    }
    false
}

/// In which order they are drawn up: the best by each measure in turn, so that each end of the field is looked at first.
fn order(all: &[Estimate]) -> Vec<usize> {
    let keys: [fn(&Estimate) -> f64; 5] = [
        |one| one.cost + 0.02 * one.mass_g + 0.3 * one.joints - 0.5 * one.hours.min(50.0),
        |one| one.cost,
        |one| one.mass_g,
        |one| -one.hours,
        |one| one.joints,
    ];
    let ranked: Vec<Vec<usize>> = keys
        .iter()
        .map(|key| {
            let mut order: Vec<usize> = (0..all.len()).collect();
            order.sort_by(|a, b| (key(&all[*a]), all[*a].cost).partial_cmp(&(key(&all[*b]), all[*b].cost)).unwrap_or(std::cmp::Ordering::Equal));
            order
        })
        .collect();
    let mut taken = vec![false; all.len()];
    let mut out = Vec::with_capacity(all.len());
    for place in 0..all.len() {
        for order in &ranked {
            if !std::mem::replace(&mut taken[order[place]], true) {
                out.push(order[place]);
            }
        }
    }
    out
}

/// A design to draw up; `None` where another way of feeding it is the same.
fn sketch<'a>(wish: &Wish, ways: &'a [Vec<Lamp>], supplies: &[Supply], one: &Estimate) -> Option<Sketch<'a>> {
    let supply = &supplies[one.supply];
    let lamps: Vec<&Lamp> = one.lamps.iter().zip(ways).map(|(at, ways)| &ways[*at]).collect();
    let (low, high) = ends(wish, supply);
    let mut feeding: Vec<(f64, Feeding)> = Vec::new();
    let mut several = one.feeding == 0;
    for lamp in &lamps {
        let volts = lamp.volts[1];
        // Single LEDs are arranged for whatever there is.
        if matches!(lamp.part.what, What::Led { .. }) || feeding.iter().any(|(known, _)| *known == volts) {
            continue;
        }
        if low >= lamp.volts[0] && high <= lamp.volts[2] {
            feeding.push((volts, Feeding::Straight));
            continue;
        }
        let watts: f64 =
            wish.lights.iter().zip(&lamps).filter(|(_, other)| other.volts[1] == volts).map(|(light, other)| f64::from(light.count) * other.watts).sum();
        let mut ways = feedings(wish, supply, volts, watts);
        let at = one.feeding.min(ways.len().checked_sub(1)?);
        several |= at == one.feeding;
        feeding.push((volts, ways.swap_remove(at)));
    }
    several.then(|| Sketch { source: supply.source.clone(), pack: supply.pack, lamps, feeding })
}

/// Lowest and highest voltage of a supply, V.
fn ends(wish: &Wish, supply: &Supply) -> (f64, f64) {
    let build = wish.empty(supply.source.clone());
    let at = build.states().into_iter().map(|state| build.thevenin(state).0);
    at.fold((f64::INFINITY, 0.0), |(low, high), volts| (low.min(volts), high.max(volts)))
}

/// What lies in the drawer, by the names that the parts list of a build has for it.
fn drawer(wish: &Wish, build: &Build) -> BTreeMap<String, f64> {
    let mut stock = BTreeMap::new();
    for (id, count) in &wish.have {
        let Some(part) = library().iter().find(|part| part.id == *id) else { continue };
        *stock.entry(part.name.clone()).or_insert(0.0) += count;
        // Strips and pixels are listed by what they are.
        for light in &build.lights {
            if let (Load::Strip(_) | Load::Pixels(_), What::Light { .. }) = (&light.load, &part.what)
                && let Some(name) = orthavis_make::cuts::strip_name(light)
            {
                stock.insert(name, *count);
            }
        }
    }
    stock
}

/// Measures that count, each so that less is better.
pub(crate) fn weighed(measures: &Measures) -> [f64; 5] {
    [measures.cost, measures.mass_g, -measures.hours.unwrap_or(1e6), f64::from(measures.joints), -measures.headroom]
}

/// What each is called to be good at.
const GOOD: [&str; 5] = ["cheap", "light to carry", "long on a charge", "few joints", "margin"];

/// Those that no other beats: none is as good in everything and better in something.
fn not_beaten(mut all: Vec<Drawn>) -> Vec<Drawn> {
    let figures: Vec<[f64; 5]> = all.iter().map(|one| weighed(&one.measures)).collect();
    let beats = |a: &[f64; 5], b: &[f64; 5]| a.iter().zip(b).all(|(a, b)| a <= b) && a != b;
    let keep: Vec<bool> =
        (0..all.len()).map(|at| !figures.iter().enumerate().any(|(other, own)| beats(own, &figures[at]) || (other < at && *own == figures[at]))).collect();
    let mut keep = keep.into_iter();
    all.retain(|_| keep.next().unwrap_or(false));
    all
}

/// Each measure as a share between the best and the worst of these.
pub fn shares(all: &[Measures]) -> Vec<[f64; 5]> {
    let figures: Vec<[f64; 5]> = all.iter().map(weighed).collect();
    let ends = [0, 1, 2, 3, 4].map(|at: usize| {
        let values = figures.iter().map(|own| own[at]);
        values.fold((f64::INFINITY, f64::NEG_INFINITY), |(least, most): (f64, f64), value| (least.min(value), most.max(value)))
    });
    let share = |own: &[f64; 5]| [0, 1, 2, 3, 4].map(|at: usize| (own[at] - ends[at].0) / (ends[at].1 - ends[at].0).max(1e-12));
    figures.iter().map(share).collect()
}

fn offered(all: Vec<Drawn>, considered: usize) -> Result<Designs, PointError> {
    let not_beaten = all.len();
    let measured: Vec<Measures> = all.iter().map(|one| one.measures.clone()).collect();
    let shares = shares(&measured);
    // The most balanced has the least of all shares together.
    let sums: Vec<f64> = shares.iter().map(|own| own.iter().sum()).collect();
    let first = (0..all.len()).min_by(|a, b| sums[*a].total_cmp(&sums[*b])).unwrap_or(0);
    // Beside the balanced one, the best at each thing; where one is best at several there are fewer.
    let mut chosen = vec![first];
    for at in 0..5 {
        let best = (0..all.len())
            .min_by(|a, b| (weighed(&measured[*a])[at], sums[*a]).partial_cmp(&(weighed(&measured[*b])[at], sums[*b])).unwrap_or(std::cmp::Ordering::Equal));
        if let Some(best) = best.filter(|best| !chosen.contains(best) && chosen.len() < OFFERED) {
            chosen.push(best);
        }
    }
    let mut rest: Vec<usize> = (0..all.len()).filter(|at| !chosen.contains(at)).collect();
    rest.sort_by(|a, b| sums[*a].total_cmp(&sums[*b]));
    while chosen.len() < 3 && !rest.is_empty() {
        chosen.push(rest.remove(0));
    }
    let good_at = |at: usize| {
        let own = weighed(&measured[at]);
        (0..5)
            .filter(|key| measured.iter().all(|other| own[*key] <= weighed(other)[*key]) && measured.iter().any(|other| own[*key] < weighed(other)[*key]))
            .map(|key| GOOD[key])
            .collect::<Vec<_>>()
    };
    let found = chosen.iter().chain(&rest).map(|at| measured[*at].clone()).collect();
    let mut all: Vec<Option<Drawn>> = all.into_iter().map(Some).collect();
    let mut designs = Vec::new();
    for at in &chosen {
        let Some(drawn) = all[*at].take() else { continue };
        let good_at = good_at(*at);
        let says = says(&drawn.words, &good_at, &drawn.measures, &measured[first], *at == first);
        designs.push(drawn.offered(says, good_at, shares[*at])?);
    }
    Ok(Designs { designs, considered, not_beaten, impossible: None, found })
}

/// What it is good at, and how it differs from the first.
fn says(words: &str, good_at: &[&str], own: &Measures, first: &Measures, is_first: bool) -> String {
    if is_first {
        return format!("The balanced one: {words}.");
    }
    let mut parts = Vec::new();
    let cost = own.cost - first.cost;
    if cost.abs() >= 0.5 {
        parts.push(format!("{:.0} {} {}", cost.abs(), own.currency, if cost < 0.0 { "less" } else { "more" }));
    }
    let mass = own.mass_g - first.mass_g;
    if mass.abs() >= 1.0 {
        parts.push(format!("{:.0} g {}", mass.abs(), if mass < 0.0 { "lighter" } else { "heavier" }));
    }
    if let (Some(hours), Some(before)) = (own.hours, first.hours)
        && (hours - before).abs() >= 0.1
    {
        parts.push(format!("{:.1} h {}", (hours - before).abs(), if hours > before { "longer" } else { "shorter" }));
    }
    let joints = i64::from(own.joints) - i64::from(first.joints);
    if joints != 0 {
        parts.push(format!(
            "{} {} {}",
            joints.abs(),
            if joints < 0 { "fewer" } else { "more" },
            if joints.abs() == 1 { "joint to solder" } else { "joints to solder" }
        ));
    }
    let margin = 100.0 * (own.headroom - first.headroom);
    if margin.abs() >= 5.0 {
        parts.push(format!("{} margin ({:.0} % against {:.0} %)", if margin > 0.0 { "more" } else { "less" }, 100.0 * own.headroom, 100.0 * first.headroom));
    }
    let what = if good_at.is_empty() { "Another way".to_owned() } else { capital(&good_at.join(", ")) };
    if parts.is_empty() { format!("{what}: {words}; much like the first.") } else { format!("{what}: {words}; {}.", parts.join(", ")) }
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// Shares of the light that are tried where all of it cannot be had.
const LESS: [f64; 8] = [0.75, 0.5, 0.35, 0.25, 0.15, 0.1, 0.05, 0.02];
/// Designs that are drawn up for each.
const DRAWN_LESS: usize = 12;

/// Which wishes stand against each other and by how much, with the design that gives most of them.
fn impossible(wish: &Wish, mut short: Vec<Drawn>, without: Option<usize>) -> Result<Impossible, PointError> {
    let lasts = |one: &Measures| one.hours.map_or(1.0, |hours| (hours / wish.hours).min(1.0));
    let over = |value: f64, most: Option<f64>| most.map_or(0.0, |most| (value / most.max(0.01) - 1.0).max(0.0));
    let away = |one: &Measures| 1.0 - lasts(one) + over(one.cost, wish.most_cost) + over(one.mass_g, wish.most_mass_g);
    short.sort_by(|a, b| away(&a.measures).total_cmp(&away(&b.measures)));
    let whole = short.into_iter().next();
    let mut why: Vec<String> = without.map(|index| no_lamp(wish, index)).into_iter().collect();
    if let Some(one) = &whole {
        why.extend(falls_short(wish, &one.build, &one.measures));
    }
    // Less light, for all of the time or for as much of it as there can be.
    let mut nearest = whole;
    let mut least = nearest.as_ref().map_or(f64::INFINITY, |one| away(&one.measures));
    let mut less = false;
    for share in LESS {
        if least <= 1.0 - share {
            break;
        }
        let mut dimmer = wish.clone();
        dimmer.lights.iter_mut().for_each(|light| light.share = share);
        let ways: Vec<Vec<Lamp>> = dimmer.lights.iter().map(|light| lamps(&dimmer, light)).collect();
        if ways.iter().any(Vec::is_empty) {
            continue;
        }
        let found = search(&dimmer, &ways, DRAWN_LESS)?;
        for one in found.good.into_iter().chain(found.short) {
            let far = 1.0 - share + away(&one.measures);
            if far < least {
                (least, nearest, less) = (far, Some(one), true);
            }
        }
    }
    if why.is_empty() {
        why.push(wants(wish));
    }
    if let Some(one) = nearest.as_ref().filter(|_| less) {
        let asked: f64 = wish.lights.iter().map(|light| f64::from(light.count) * light.least_lm()).sum();
        let time = one.measures.hours.map_or_else(|| "as long as you like".to_owned(), |hours| plain((10.0 * hours).round() / 10.0, "h"));
        why.push(format!(
            "there can be {}, {:.0} % of the light, for {time}",
            plain(one.measures.lm, "lm"),
            100.0 * (one.measures.lm / asked.max(1e-9)).min(1.0)
        ));
    }
    let why = format!("{}.", capital(&why.join("; ")));
    let nearest = match nearest {
        Some(drawn) => {
            let says = format!("The nearest to it: {}.", drawn.words);
            Some(Box::new(drawn.offered(says, Vec::new(), [0.0; 5])?))
        }
        None => None,
    };
    Ok(Impossible { why, nearest })
}

/// How a design that is safe falls short of a wish.
fn falls_short(wish: &Wish, build: &Build, measures: &Measures) -> Vec<String> {
    let mut why = Vec::new();
    if let (Some(hours), Source::Battery(battery)) = (measures.hours.filter(|hours| *hours < ENOUGH * wish.hours), &build.source) {
        let (has, share) = (usable_wh(battery), hours / wish.hours);
        why.push(format!(
            "{} want {}; this battery gives {}: {}, or {:.0} % brightness",
            plain(wish.hours, "h"),
            plain(has / share, "Wh"),
            plain(has, "Wh"),
            plain((10.0 * hours).round() / 10.0, "h"),
            100.0 * share
        ));
    }
    if let Some(most) = wish.most_cost.filter(|most| measures.cost > *most) {
        let (cost, currency) = (measures.cost, &measures.currency);
        why.push(format!("the cheapest that is safe costs {cost:.0} {currency}, {:.0} more than you said", cost - most));
    }
    if let Some(most) = wish.most_mass_g.filter(|most| measures.mass_g > *most) {
        why.push(format!("the lightest that is safe weighs {:.0} g, {:.0} g more than you said", measures.mass_g, measures.mass_g - most));
    }
    why
}

/// Light to the watt of a good white lamp, with what is lost on the way: what a wish asks at least.
const LM_PER_W: f64 = 80.0;

/// What a wish asks of its battery, roughly, and what that has.
fn wants(wish: &Wish) -> String {
    let lm: f64 = wish.lights.iter().map(|light| f64::from(light.count) * light.least_lm()).sum();
    let watts = lm / LM_PER_W;
    let asks = format!("{} for {} want about {} and {}", plain(lm, "lm"), plain(wish.hours, "h"), plain(watts, "W"), plain(watts * wish.hours, "Wh"));
    match &wish.source {
        Some(Source::Battery(battery)) if wish.own_pack != OwnPack::Must => {
            let limit_a = battery.tap_limit_a.unwrap_or(battery.max_current_a).min(battery.max_current_a);
            let (has_w, has_wh) = (limit_a * battery.emf_v(0.5), usable_wh(battery));
            let enough = has_w >= watts && has_wh >= watts * wish.hours;
            let but = if enough { ", but nothing that was tried lights well at its voltage" } else { "" };
            format!("{asks}; this battery gives {} and {}{but}", plain(has_w, "W"), plain(has_wh, "Wh"))
        }
        _ => format!("{asks}; nothing that was tried carries that safely"),
    }
}
