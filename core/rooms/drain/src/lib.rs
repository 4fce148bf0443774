//! What the lights cost the battery, in the terms of the person: outings per charge, days parked, range, seconds of
//! flight, nights away.
//!
//! Everything is computed on the battery as it is: [`conditioned`] makes it as cold and as old as the
//! build's usage says. With neither given the figures are those of the report.

pub mod audit;
mod charging;
mod conditions;
pub mod discharge;
mod motion;
mod rest;
pub mod tables;
pub mod what_if;

pub use charging::{Charging, ChargingLight};
pub use rest::Parked;

use orthavis_model::document::{Battery, Build, Scene, Source, VehicleKind};
use orthavis_model::laws::conditions::conditioned;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::working::{Fact, Rule, counted, fact, quantity};
use orthavis_physics::endurance::{Draw, Ends, Run, draw};
use orthavis_physics::network::{Network, Point, Solution};
use orthavis_physics::points::{PointError, finished};
use serde::Serialize;
use std::collections::BTreeMap;

/// What the lights cost.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Drain {
    /// What matters most for this vehicle, most important first.
    pub headline: Vec<Fact>,
    /// When to charge, in words.
    pub rhythm: String,
    /// Every scene: time of light, and what an outing takes.
    pub scenes: Vec<SceneUse>,
    /// One outing: its share of the charge, and how many there are in it.
    pub outing: Vec<Fact>,
    /// Capacity and resistance of the battery as cold and as old as it is; empty for a rail.
    pub conditions: Vec<Fact>,
    /// The day: what it takes, what it may take, nights away.
    pub day: Vec<Fact>,
    /// Ways to park; empty for a rail.
    pub parked: Vec<Parked>,
    /// Range or flight lost; empty where nothing moves on this battery.
    pub motion: Vec<Fact>,
    /// Mass that the plan adds.
    pub mass: Vec<Fact>,
    /// Charging; absent for a rail and for cells that cannot be charged.
    pub charging: Option<Charging>,
}

/// What a scene costs.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SceneUse {
    /// Scene id.
    pub scene: String,
    /// Its name.
    pub name: String,
    /// Minutes of it in an outing.
    pub minutes: f64,
    /// What ends it.
    pub ends: Ends,
    /// Time of light, mean current, charge and share of an outing.
    pub facts: Vec<Fact>,
}

/// A scene's current over the battery's voltage, and the discharge from full.
pub struct Drawn {
    name: String,
    minutes: f64,
    draw: Draw,
    /// `None` where nothing is drawn.
    run: Option<Run>,
    /// Mean power of the lights and what is lost on the way, standing loads left out, at half charge, W.
    /// `None` where the scene has no steady state.
    mean_w: Option<f64>,
}

/// A scene on the half-charged battery or on the rail.
pub fn at_half(build: &Build, scene: &Scene) -> Point {
    Point::of(build, scene, build.source.usual())
}

/// What the lights of a build cost its battery.
///
/// # Errors
/// The first scene without a steady solution at half charge.
pub fn drain(build: &Build) -> Result<Drain, PointError> {
    let build = &*orthavis_physics::circuits::flashing(build);
    let mut drain = drain_apart(build)?;
    let there = conditioned(build);
    if let Source::Battery(battery) = &there.source {
        let share = drain.outing.iter().find(|fact| fact.key == "outing_share").map(|fact| fact.value);
        drain.charging = charging::charging(&there, battery, share);
    }
    finished(build)?;
    Ok(drain)
}

/// [`drain`] without charging, which solves the whole build once more.
pub fn drain_apart(plan: &Build) -> Result<Drain, PointError> {
    let plan = &*orthavis_physics::circuits::flashing(plan);
    let build = &conditioned(plan);
    let mut network = network_of(build)?;
    let Source::Battery(battery) = &build.source else { return rail(build, &mut network) };
    let mut drawn = Vec::new();
    for scene in &build.scenes {
        let draw = draw(build, battery, &mut network, scene, battery.reserve_soc());
        let run = draw.run(battery, battery.reserve_soc(), |_, _| 0.0);
        let mean_w = power_w(build, &mut network, scene)?;
        let minutes = build.usage.minutes.get(&scene.id).copied().unwrap_or(0.0);
        drawn.push(Drawn { name: scene.name.clone(), minutes, draw, run, mean_w });
    }
    let rest = draw(build, battery, &mut network, &nothing_lit(), battery.reserve_soc());
    let outing = Outing::of(battery, &drawn);
    let day = Day::of(build, battery, &outing)?;
    let motion = motion::range(build, battery, &drawn, &rest).into_iter().chain(motion::flight(build, &drawn)).collect::<Vec<_>>();
    let parked = rest::parked(build, battery, &drawn)?;
    let headline = headline(build, &outing, &day, &motion, &parked);
    Ok(Drain {
        headline,
        rhythm: day.rhythm(build, battery, &outing),
        scenes: build.scenes.iter().zip(&drawn).map(|(scene, drawn)| scene_use(battery, scene, drawn)).collect(),
        outing: outing.facts(),
        conditions: if let Source::Battery(new) = &plan.source { conditions::facts(plan, new) } else { Vec::new() },
        day: day.facts,
        parked,
        motion,
        mass: motion::mass(build),
        charging: None,
    })
}

/// A scene that turns nothing on.
pub fn nothing_lit() -> Scene {
    Scene { id: String::new(), name: String::new(), lights: BTreeMap::new() }
}

fn network_of(build: &Build) -> Result<Network, PointError> {
    Network::new(build).map_err(|error| PointError { scene: String::new(), state: build.states()[0], error })
}

/// A rail has no charge of its own; what counts is what its lights weigh and, where it flies, what they cost there.
fn rail(build: &Build, network: &mut Network) -> Result<Drain, PointError> {
    let mut drawn = Vec::new();
    for scene in &build.scenes {
        let mean_w = power_w(build, network, scene)?;
        let minutes = build.usage.minutes.get(&scene.id).copied().unwrap_or(0.0);
        drawn.push(Drawn { name: scene.name.clone(), minutes, draw: Draw::NOTHING, run: None, mean_w });
    }
    let motion = motion::flight(build, &drawn);
    let mass = motion::mass(build);
    let scenes = build.scenes.iter().zip(&drawn).map(|(scene, drawn)| SceneUse {
        scene: scene.id.clone(),
        name: scene.name.clone(),
        minutes: drawn.minutes,
        ends: Ends::Reserve,
        facts: drawn.mean_w.map(power).into_iter().collect(),
    });
    let flies = !motion.is_empty();
    Ok(Drain {
        headline: motion.iter().take(1).chain(&mass).cloned().collect(),
        rhythm: match (flies, build.vehicle.kind) {
            (true, _) => "The supply draws on the flight battery: what the lights cost is flight.".into(),
            (false, VehicleKind::Drone) => "Say how long it hovers and on how much power, and see what the lights cost in flight.".into(),
            _ => "This supply has no charge of its own: what the lights cost is up to the battery behind it.".into(),
        },
        scenes: scenes.collect(),
        outing: Vec::new(),
        conditions: Vec::new(),
        day: Vec::new(),
        parked: Vec::new(),
        motion,
        mass,
        charging: None,
    })
}

fn power(mean_w: f64) -> Fact {
    const RULE: Rule = Rule {
        words: "Voltage times current at the source, without what else lives on it; a blinking light counts with its duty.",
        formula: "P = V·I",
        source: "Solved at half charge, or on the supply",
    };
    fact("mean_w", "Power, mean", "P", mean_w, "W", &RULE, vec![])
}

/// Mean power that a scene's lights take from the source, standing loads left out, W; `None` where it has no steady state.
fn power_w(build: &Build, network: &mut Network, scene: &Scene) -> Result<Option<f64>, PointError> {
    let point = Point { standing_a: 0.0, ..at_half(build, scene) };
    let failed = |error| PointError { scene: scene.id.clone(), state: build.source.usual(), error };
    let all = match network.solve(&point, None) {
        Ok(all) => all,
        Err(error) if error.is_unfinished() => return Err(failed(error)),
        Err(_) => return Ok(None),
    };
    let watts = |network: &Network, solution: &Solution| {
        let (terminal_v, current_a) = network.source(solution);
        terminal_v * current_a
    };
    let all_w = watts(network, &all);
    let mut mean_w = all_w;
    for (index, light) in build.lights.iter().enumerate() {
        let duty = scene.lights.get(&light.id).map_or(1.0, |lit| lit.duty);
        if duty < 1.0 && point.lights[index].level > 0.0 {
            let mut without = point.clone();
            without.lights[index] = orthavis_model::states::Lit::OFF;
            let rest = match network.solve(&without, Some(&all)) {
                Ok(rest) => rest,
                Err(error) if error.is_unfinished() => return Err(failed(error)),
                Err(_) => return Ok(None),
            };
            mean_w -= (1.0 - duty) * (all_w - watts(network, &rest));
        }
    }
    Ok(Some(mean_w.max(0.0)))
}

fn scene_use(battery: &Battery, scene: &Scene, drawn: &Drawn) -> SceneUse {
    const HOURS: Rule = Rule {
        words: "The usable charge over the mean current, followed from full to reserve as the voltage falls; fast discharge counts for more (Peukert).",
        formula: "t = ∫ C / (I(soc)·p) d soc",
        source: "Discharge simulation over the solved network; Peukert's law",
    };
    const MEAN: Rule = Rule { words: "What goes out over the time it takes, standing loads included.", formula: "I = Q / t", source: "Discharge simulation" };
    const SHARE: Rule = Rule {
        words: "Minutes of the scene over the minutes that a full battery lasts.",
        formula: "s = t_outing / t",
        source: "As entered, and the time of light",
    };
    const OF_ALL: Rule = Rule { words: "The share of what may be used, times how much of the whole that is.", formula: "s_all = s·u", source: "As above" };
    let mut facts = Vec::new();
    if let Some(run) = drawn.run {
        let usable = quantity("u", "usable share", battery.usable(), "1");
        facts.push(fact(
            "hours",
            "Time of light",
            "t",
            run.hours,
            "h",
            &HOURS,
            vec![quantity("C", "capacity as it is", battery.capacity_ah, "Ah"), usable, quantity("Q", "drawn until the end", run.ah, "Ah")],
        ));
        if run.hours > 0.0 {
            facts.push(fact(
                "mean_a",
                "Mean current",
                "I",
                run.ah / run.hours,
                "A",
                &MEAN,
                vec![quantity("Q", "drawn", run.ah, "Ah"), quantity("t", "in", run.hours, "h")],
            ));
            let given = vec![quantity("t_outing", "minutes in an outing", drawn.minutes, "min"), quantity("t", "time of light", run.hours, "h")];
            let share = drawn.minutes / 60.0 / run.hours;
            facts.push(fact("share", "Share of the charge per outing", "s", share, "1", &SHARE, given));
            let given = vec![quantity("s", "of what may be used", share, "1"), quantity("u", "usable share", battery.usable(), "1")];
            facts.push(fact("of_all", "Of the whole battery per outing", "s", share * battery.usable(), "1", &OF_ALL, given));
        }
    }
    facts.extend(drawn.mean_w.map(power));
    SceneUse { scene: scene.id.clone(), name: scene.name.clone(), minutes: drawn.minutes, ends: drawn.run.map_or(Ends::Reserve, |run| run.ends), facts }
}

/// One outing.
struct Outing {
    /// Light in it, h.
    hours: f64,
    /// Drawn in it, Ah.
    ah: f64,
    /// Of the usable charge; `None` where it has no minutes or nothing is drawn.
    share: Option<f64>,
}

impl Outing {
    fn of(battery: &Battery, drawn: &[Drawn]) -> Self {
        let mut outing = Outing { hours: 0.0, ah: 0.0, share: None };
        for drawn in drawn.iter().filter(|drawn| drawn.minutes > 0.0) {
            outing.hours += drawn.minutes / 60.0;
            if let Some(run) = drawn.run.filter(|run| run.hours > 0.0) {
                let share = drawn.minutes / 60.0 / run.hours;
                // A scene that goes dark early leaves charge behind: its share is of what was drawn till then.
                let of_charge = share * (run.ah / (battery.capacity_ah * battery.usable())).min(1.0);
                *outing.share.get_or_insert(0.0) += if run.ends == Ends::Dark { of_charge } else { share };
                outing.ah += share * run.ah;
            }
        }
        outing
    }

    fn facts(&self) -> Vec<Fact> {
        const SHARE: Rule =
            Rule {
                words: "The shares of its scenes together.", formula: "s = Σ t_i / T_i", source: "Minutes as entered over the time of light of each scene"
            };
        const COUNT: Rule = Rule { words: "Whole outings until the reserve, if it is charged only then.", formula: "n = 1 / s", source: "Share of one outing" };
        let Some(share) = self.share.filter(|share| *share > 0.0) else { return Vec::new() };
        vec![
            fact(
                "outing_share",
                "Of the charge for one outing",
                "s",
                share,
                "1",
                &SHARE,
                vec![quantity("Q", "drawn in it", self.ah, "Ah"), quantity("t", "light in it", self.hours, "h")],
            ),
            fact("outings", "Outings on one charge", "n", (1.0 / share + 1e-9).floor(), "", &COUNT, vec![quantity("s", "share of one", share, "1")]),
        ]
    }
}

/// A mean day: outings, the time between, and what comes back.
struct Day {
    facts: Vec<Fact>,
    /// Days from full to reserve; `None` where as much comes back.
    days: Option<f64>,
}

impl Day {
    fn of(build: &Build, battery: &Battery, outing: &Outing) -> Result<Self, PointError> {
        const NEED: Rule = Rule {
            words: "What the outings of a mean day draw, and what is drawn in the background for the rest of it.",
            formula: "Q = n/7·Q_outing + I_b·(24 h − t_lit)",
            source: "Sum over a day; the outings include the standing loads while they last",
        };
        const GAIN: Rule = Rule {
            words: "Hours times amps, less what charging loses.",
            formula: "Q = h·I·η",
            source: "As entered; charge efficiency usual for the chemistry",
        };
        const NIGHTS: Rule = Rule {
            words: "What may be used over what a day takes more than it brings.",
            formula: "n = C·u / (Q_day + Q_fast − Q_gain)",
            source: "Charge balance",
        };
        let a_day = build.usage.outings_per_week / 7.0;
        let background_a = rest::background_a(build)?;
        let lit_h = (a_day * outing.hours).min(24.0);
        let self_ah = 24.0 * battery.capacity_ah * habits_of(battery.chemistry).self_month / (24.0 * 30.4);
        let need_ah = a_day * outing.ah + background_a * (24.0 - lit_h) + self_ah;
        let usable_ah = battery.capacity_ah * battery.usable();
        let given = vec![
            quantity("n", "outings a week", build.usage.outings_per_week, ""),
            quantity("Q_outing", "one outing", outing.ah, "Ah"),
            quantity("I_b", "in the background", background_a, "A"),
            quantity("t_lit", "lit on a mean day", lit_h, "h"),
            quantity("Q_self", "lost by itself", self_ah, "Ah"),
        ];
        let mut facts = vec![fact("day_ah", "A day takes", "Q", need_ah, "Ah", &NEED, given)];
        // Fast discharge takes more of the charge than comes out.
        let fast_ah = a_day * (outing.share.unwrap_or(0.0) * usable_ah - outing.ah).max(0.0);
        let mut left_ah = need_ah + fast_ah;
        if let Some(gain) = &build.usage.gain {
            let efficiency = habits_of(battery.chemistry).charge_efficiency;
            let gain_ah = gain.hours_per_day * gain.current_a * efficiency;
            let given = vec![
                quantity("h", "hours", gain.hours_per_day, "h"),
                quantity("I", "current", gain.current_a, "A"),
                quantity("η", "charge out over charge in", efficiency, "1"),
            ];
            facts.push(fact("gain_ah", "A day brings back", "Q", gain_ah, "Ah", &GAIN, given));
            left_ah -= gain_ah;
        }
        let days = (left_ah > 1e-9).then(|| usable_ah / left_ah);
        if let Some(days) = days {
            let given = vec![
                quantity("C·u", "may be used", usable_ah, "Ah"),
                quantity("Q_fast", "more of it by fast discharge (Peukert)", fast_ah, "Ah"),
                quantity("Q_day + Q_fast − Q_gain", "a day takes in the end", left_ah, "Ah"),
            ];
            let label = if build.vehicle.kind == VehicleKind::Rv { "Nights away on one charge" } else { "Days on one charge" };
            facts.push(fact("nights", label, "n", days, "", &NIGHTS, given));
        }
        Ok(Day { facts, days })
    }

    /// When to charge.
    fn rhythm(&self, build: &Build, battery: &Battery, outing: &Outing) -> String {
        use orthavis_model::document::Chemistry;
        let Some(days) = self.days else { return "As much comes back as is used: it need not be charged for the lights.".into() };
        if outing.share.is_some_and(|share| share > 1.0) {
            return "One charge does not last an outing: a larger battery, less light, or charging on the way.".into();
        }
        let often = match days {
            days if days < 1.0 => "Charge it every day, and more than once on a long one".to_owned(),
            days if days < 2.0 => "Charge it every day".to_owned(),
            days if days < 21.0 => format!("Charge it every {}", counted(days.floor(), "day")),
            days if days < 75.0 => format!("Charge it every {}", counted((days / 7.0).floor(), "week")),
            days => format!("Charge it every {}", counted((days / 30.4).floor(), "month")),
        };
        let shares = build.vehicle.propulsion.is_some();
        let why = if shares { "for the lights alone; the motor will ask sooner" } else { "before it comes to its reserve" };
        match battery.chemistry {
            Chemistry::LeadFlooded | Chemistry::LeadAgm => format!("{often}, {why}; a lead battery lives longer when it is charged after every outing."),
            Chemistry::Alkaline | Chemistry::LithiumCoin => {
                format!("New cells every {}, {why}.", counted(days.floor().max(1.0), "day").trim_start_matches("1 "))
            }
            _ => format!("{often}, {why}."),
        }
    }
}

/// The few figures that answer the person's question, most important first.
fn headline(build: &Build, outing: &Outing, day: &Day, motion: &[Fact], parked: &[Parked]) -> Vec<Fact> {
    let of = |facts: &[Fact], key: &str| facts.iter().find(|fact| fact.key == key).cloned();
    let parked_days = parked.first().and_then(|way| of(&way.facts, "reserve_days"));
    let outing = outing.facts();
    let found = match build.vehicle.kind {
        VehicleKind::Rv => vec![of(&day.facts, "nights"), of(&day.facts, "day_ah"), of(&outing, "outing_share"), parked_days],
        VehicleKind::Drone => vec![of(motion, "flight_lost_s"), of(motion, "flight_min"), of(&outing, "outing_share"), of(&outing, "outings")],
        _ => vec![of(&outing, "outing_share"), of(&outing, "outings"), of(motion, "range_lost_km"), of(motion, "travel_lost_min"), parked_days],
    };
    found.into_iter().flatten().take(4).collect()
}
