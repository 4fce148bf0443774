//! How to power a light from the battery: straight, through a regulator, a step-down, a step-up, a driver, or from a
//! pack of its own. What the light needs is held against what the battery gives over its whole range.
//!
//! Modules are used to three quarters of their rating. Efficiencies are representative: switching 0.9, up-down 0.85.

use super::*;
use orthavis_judge::driven::Driven;
use orthavis_model::document::{Conversion, ConverterKind, Efficiency, Light, Load, Source, StepDown, VehicleKind};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::practice::{EMITTER_A, USE_SHARE};
use orthavis_model::topology::Topology;
use orthavis_model::words;
use orthavis_model::working::{Rule, fact, plain, quantity};
use orthavis_physics::protection;

words! {
    /// A way to feed a light.
    Way {
        /// From the battery itself.
        Straight = "straight",
        /// A linear regulator.
        Linear = "linear",
        /// A step-down module.
        Buck = "buck",
        /// A step-up module.
        Boost = "boost",
        /// A module that does either.
        BuckBoost = "buck_boost",
        /// A constant-current driver.
        Driver = "driver",
        /// A small pack of its own.
        OwnPack = "own_pack",
    }
}

/// What a light needs.
#[derive(Clone, Debug)]
pub struct Need {
    /// Voltage it wants, V.
    pub voltage_v: f64,
    /// Lowest at which it is still useful, V.
    pub least_v: f64,
    /// Highest it stands, V.
    pub most_v: f64,
    /// Its current there, A.
    pub current_a: f64,
    /// Whether it wants a set current rather than a set voltage.
    pub emitter: bool,
}

/// What is asked.
#[derive(Clone, Debug)]
pub struct Ask {
    /// Voltage of the battery in each state, V.
    pub volts: Vec<(State, f64)>,
    /// Its discharge limit, A.
    pub limit_a: f64,
    /// What the light needs.
    pub need: Need,
    /// Whether a charger, a warranty or a medical device argues for a pack of its own.
    pub own_pack: bool,
    /// Minutes of light in an outing, for a pack of its own.
    pub minutes: f64,
}

const DROPOUT_V: f64 = 1.0;
const INPUT: Rule = Rule {
    words: "The output's power and what the converter loses, over the lowest input voltage: what a step-up adds in volts it takes in amps.",
    formula: "I_in = V_out·I_out / (η·V_min)",
    source: "Power balance of a converter; representative efficiency",
};
const HEAT: Rule = Rule { words: "What goes in less what comes out.", formula: "P_heat = P_in − P_out", source: "Conservation of energy" };
const RATED: Rule = Rule {
    words: "The light's current with room to spare, the next rating on sale.",
    formula: "I_rated ≥ I_out / u",
    source: "Common practice for converters without airflow",
};
const EFFICIENCY: Rule = Rule {
    words: "Power at the light over power from the battery, averaged over full and reserve.",
    formula: "η = P_out / P_in",
    source: "Representative efficiencies of converters; exact for a linear regulator",
};

/// Every way, the sensible ones first.
///
/// # Errors
/// When a figure is out of range.
pub fn supply(ask: &Ask) -> Result<Vec<Choice>, ChooseError> {
    within("the light's voltage", ask.need.voltage_v, 0.0, 1000.0, "a voltage above 0 and at most 1000 V")?;
    within("the light's current", ask.need.current_a, 0.0, 10_000.0, "a current above 0 and at most 10,000 A")?;
    let (_, high_v) = ends(&ask.volts);
    within("the battery's voltage", high_v, 0.0, 1000.0, "a voltage above 0 and at most 1000 V")?;
    let mut choices: Vec<Choice> = Way::WORDS.iter().map(|(_, way)| one(ask, *way)).collect();
    rank(&mut choices, |choice| {
        let Pick::Supply { way, .. } = &choice.pick else { return (9, 0.0) };
        // Fewest parts first where the light is as good; a linear regulator only for what it wastes little of.
        let class = match way {
            Way::OwnPack if ask.own_pack => 0,
            Way::Driver if ask.need.emitter => 1,
            Way::Straight => 1,
            Way::Buck | Way::Boost => 2,
            Way::Linear => 3,
            Way::Driver | Way::BuckBoost => 4,
            Way::OwnPack => 5,
        };
        (class, -choice.figure("efficiency").unwrap_or(0.0))
    });
    Ok(choices)
}

fn one(ask: &Ask, way: Way) -> Choice {
    let need = &ask.need;
    let (low_v, high_v) = ends(&ask.volts);
    let out_w = need.voltage_v * need.current_a;
    let rating = orthavis_model::practice::rating_above(need.current_a / USE_SHARE, &orthavis_model::practice::OUTPUT_A);
    let eta = |vin: f64| efficiency(way, need, vin);
    let (title, fault, caution) = fitness(ask, way);
    let worst_v = low_v.max(1e-3);
    let in_a = match way {
        Way::Straight | Way::Linear | Way::OwnPack => need.current_a,
        _ => out_w / (eta(worst_v) * worst_v),
    };
    let mean_eta = 0.5 * (eta(high_v) + eta(worst_v));
    let heat_w = match way {
        Way::Straight | Way::OwnPack => 0.0,
        Way::Linear => (high_v - need.voltage_v).max(0.0) * need.current_a,
        _ => out_w / eta(worst_v) - out_w,
    };
    let sets_volts = matches!(way, Way::Linear | Way::Buck | Way::Boost | Way::BuckBoost);
    let fault = fault.or_else(|| {
        let emitter = need.emitter && sets_volts;
        emitter.then(|| "It sets a voltage; a high-power emitter wants a set current, which a driver gives.".to_owned())
    });
    let fault = fault.or_else(|| {
        (in_a > ask.limit_a && way != Way::OwnPack)
            .then(|| format!("At {} it draws {}, more than the battery's {}.", plain(worst_v, "V"), plain(in_a, "A"), plain(ask.limit_a, "A")))
    });
    let converter = module(way, need, low_v, high_v, rating);
    let tradeoff = tradeoff(ask, way, (in_a, heat_w, mean_eta), converter.as_ref().map_or(rating, |c| c.max_out_a));
    let rated_a = converter.as_ref().map_or(rating, |c| c.max_out_a);
    let mut choice = Choice::new(title, tradeoff, Pick::Supply { way, converter: converter.map(Box::new) });
    choice.works = fault.is_none();
    choice.caution = fault.or(caution);
    let given = || {
        vec![
            quantity("V_out", "what the light wants", need.voltage_v, "V"),
            quantity("I_out", "its current", need.current_a, "A"),
            quantity("η", "efficiency", eta(worst_v), "1"),
            quantity("V_min", "lowest input", worst_v, "V"),
            quantity("V_max", "highest input", high_v, "V"),
        ]
    };
    choice.figures = vec![
        fact("in_a", "From the battery, at its lowest", "I_in", in_a, "A", &INPUT, given()).of_limit(ask.limit_a),
        fact("heat_w", "Heat", "P_heat", heat_w, "W", &HEAT, given()),
        fact("efficiency", "Share that arrives", "η", mean_eta, "1", &EFFICIENCY, given()),
    ];
    if !matches!(way, Way::Straight | Way::OwnPack) {
        choice.figures.push(fact(
            "rated_a",
            "Rating to buy",
            "I_rated",
            rated_a,
            "A",
            &RATED,
            vec![quantity("I_out", "the light's current", need.current_a, "A"), quantity("u", "share of its rating that is used", USE_SHARE, "1")],
        ));
    }
    choice
}

/// The share that a way passes on at an input, V.
fn efficiency(way: Way, need: &Need, vin: f64) -> f64 {
    match way {
        Way::Straight => need.voltage_v.min(vin) / vin,
        Way::Linear => need.voltage_v / vin,
        Way::BuckBoost => 0.85,
        Way::OwnPack => 1.0,
        _ => 0.9,
    }
}

/// What a way is called, why it does not do here, and what to know of it.
fn fitness(ask: &Ask, way: Way) -> (String, Option<String>, Option<String>) {
    let need = &ask.need;
    let (low_v, high_v) = ends(&ask.volts);
    let name = |word: &str| format!("{word}, {}", plain(need.voltage_v, "V"));
    match way {
        Way::Straight => {
            let fault = if need.emitter {
                Some("A high-power emitter wants a set current; on a bare battery its current runs away as it warms.".into())
            } else if high_v > need.most_v * (1.0 + 1e-9) {
                Some(format!("The battery shows up to {}; it stands {}.", plain(high_v, "V"), plain(need.most_v, "V")))
            } else if low_v < need.least_v {
                Some(format!("The battery falls to {}; below {} it is dim or dark.", plain(low_v, "V"), plain(need.least_v, "V")))
            } else {
                None
            };
            let sways = (high_v / low_v > 1.12).then(|| "It gets dimmer as the battery empties.".to_owned());
            ("Straight from the battery".into(), fault, sways)
        }
        Way::Linear => {
            let heat = (high_v - need.voltage_v) * need.current_a;
            let fault = if low_v < need.voltage_v + DROPOUT_V {
                Some(format!("It needs {} at the least and the battery falls to {}.", plain(need.voltage_v + DROPOUT_V, "V"), plain(low_v, "V")))
            } else if heat > 5.0 {
                Some(format!("{} of heat need a heat sink as large as a hand.", plain(heat, "W")))
            } else {
                None
            };
            (name("Linear regulator"), fault, (heat > 1.0).then(|| format!("Runs hot: {} to get rid of.", plain(heat, "W"))))
        }
        Way::Buck => {
            let fault = (low_v < need.voltage_v + DROPOUT_V)
                .then(|| format!("It needs {} at the least and the battery falls to {}.", plain(need.voltage_v + DROPOUT_V, "V"), plain(low_v, "V")));
            (name("Step-down converter"), fault, None)
        }
        Way::Boost => {
            let fault = (high_v - 0.4 > need.voltage_v).then(|| format!("It cannot go below its input: the battery shows up to {}.", plain(high_v, "V")));
            let caution = Some("It takes more amps than it gives, so the wire before it is the thick one; and it cannot stop a short behind it.".into());
            (name("Step-up converter"), fault, caution)
        }
        Way::BuckBoost => (name("Step-up-down converter"), None, Some("Dearer and a little less efficient; it works whatever the battery shows.".into())),
        Way::Driver => {
            let fault = if !need.emitter {
                Some("It sets a current; this light wants a set voltage.".into())
            } else if low_v < need.voltage_v + 1.2 {
                Some(format!("It needs {} at the least and the battery falls to {}.", plain(need.voltage_v + 1.2, "V"), plain(low_v, "V")))
            } else {
                None
            };
            (format!("Current driver, {}", plain(need.current_a, "A")), fault, None)
        }
        Way::OwnPack => {
            let caution = if ask.own_pack {
                "One more thing to charge; but the maker's battery, charger and warranty stay untouched."
            } else {
                "One more thing to charge, and dead weight when it is empty."
            };
            ("A pack of its own".into(), None, Some(caution.into()))
        }
    }
}

/// What speaks for and against a way: what it draws, A, loses, W, and the share that arrives.
fn tradeoff(ask: &Ask, way: Way, (in_a, heat_w, mean_eta): (f64, f64, f64), rated_a: f64) -> String {
    let out_w = ask.need.voltage_v * ask.need.current_a;
    match way {
        Way::Straight => format!("No converter. {} from the battery.", plain(in_a, "A")),
        Way::OwnPack => {
            let wh = out_w * ask.minutes / 60.0 / 0.8;
            format!("{} for {:.0} minutes are about {wh:.1} Wh, some {:.0} g of lithium-ion cells.", plain(out_w, "W"), ask.minutes, wh / 0.2)
        }
        _ => format!(
            "{} converter. Draws {} when the battery is lowest; {} of heat; {:.0} % arrive.",
            plain(rated_a, "A"),
            plain(in_a, "A"),
            plain(heat_w, "W"),
            100.0 * mean_eta
        ),
    }
}

/// The module of a way, on a feed that is yet to be laid.
fn module(way: Way, need: &Need, low_v: f64, high_v: f64, rating: f64) -> Option<Converter> {
    let (conversion, least) = match way {
        Way::Linear => (Conversion::linear(need.voltage_v, DROPOUT_V), need.voltage_v + 0.5),
        Way::Buck => {
            (StepDown { set_v: need.voltage_v, dropout_v: DROPOUT_V, efficiency: Efficiency::Constant(0.9), pass_drop_v: None }.into(), need.voltage_v + 0.5)
        }
        Way::Boost => (Conversion::step_up(need.voltage_v, 0.9), (0.6 * low_v).max(0.5)),
        Way::BuckBoost => (Conversion::step_up_down(need.voltage_v, 0.85), (0.6 * low_v).max(0.5)),
        Way::Driver => (Conversion::driver(need.current_a, 1.2, 0.9), (0.6 * need.voltage_v).min(5.0)),
        Way::Straight | Way::OwnPack => return None,
    };
    let driver = way == Way::Driver;
    Some(Converter {
        id: String::new(),
        feed: orthavis_model::edit::plain_feed("source", 0.3, Gauge::Awg(20)),
        conversion,
        min_in_v: (least.min(low_v) * 10.0).round() / 10.0,
        max_in_v: orthavis_model::practice::rating_above(1.1 * high_v, &orthavis_model::practice::INPUT_V),
        max_out_a: if driver { orthavis_model::practice::rating_above(need.current_a / USE_SHARE, &[0.35, 0.7, 1.0, 1.5, 3.0]) } else { rating },
        max_in_a: None,
        idle_a: 0.005,
        max_loss_w: None,
        mass_g: if rating > 5.0 { 60.0 } else { 12.0 },
        ..Converter::PLAIN
    })
}

/// What a light needs, by its part.
pub fn need_of(light: &Light) -> Need {
    match &light.load {
        Load::LedArray(array) => {
            let emitter = array.led.if_a >= EMITTER_A;
            let string = DiodeString::new(&array.led, array.series, if emitter { 0.0 } else { array.row_ohm() });
            let row_a = 0.75 * array.led.if_a;
            let voltage_v = (string.voltage(row_a) * 10.0).ceil() / 10.0;
            Need {
                voltage_v,
                least_v: string.voltage(0.1 * array.led.if_a),
                most_v: string.voltage(array.led.if_max_a),
                current_a: row_a * f64::from(array.parallel),
                emitter,
            }
        }
        Load::Strip(strip) => {
            let (voltage_v, current_a) = DiodeString::strip_rating(strip);
            Need { voltage_v, least_v: 0.85 * voltage_v, most_v: 1.1 * voltage_v, current_a, emitter: false }
        }
        Load::Pixels(pixels) => {
            let current_a = f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a);
            let least_v = pixels.regulation_v.into_iter().fold(0.0, f64::max);
            Need { voltage_v: pixels.voltage_v, least_v, most_v: 1.1 * pixels.voltage_v, current_a, emitter: false }
        }
        Load::Module(module) => {
            let least_v = if module.has_window() { module.min_v } else { 0.85 * module.voltage_v };
            Need { voltage_v: module.voltage_v, least_v, most_v: module.max_v, current_a: module.power_w / module.voltage_v, emitter: false }
        }
    }
}

/// Ways to feed a light of a build, each with the change that takes it over.
///
/// # Errors
/// When there is no such light.
pub fn for_light(build: &Build, id: &str) -> Result<Vec<Choice>, ChooseError> {
    let light = build.lights.iter().find(|light| light.id == id).ok_or(ChooseError::Unknown { what: "light", id: id.into() })?;
    let ask = Ask {
        volts: offered_v(build, "source")?,
        limit_a: build.source.max_current_a(),
        need: need_of(light),
        own_pack: build.vehicle.kind == VehicleKind::Wheelchair,
        minutes: build.usage.minutes.values().copied().fold(0.0, f64::max).max(30.0),
    };
    let battery = matches!(build.source, Source::Battery(_));
    let choices = supply(&ask)?.into_iter().filter(|choice| battery || !matches!(choice.pick, Pick::Supply { way: Way::OwnPack, .. })).map(|choice| {
        let Pick::Supply { way, converter } = choice.pick.clone() else { return choice };
        match (way, converter) {
            (Way::OwnPack, _) => choice,
            (_, converter) => choice.changing(build, |copy| feed_by(copy, id, converter.as_deref())),
        }
    });
    let mut choices: Vec<Choice> = choices.collect();
    // A chip of more volts than there are.
    if ask.need.emitter && choices.iter().all(|choice| !choice.works || matches!(choice.pick, Pick::Supply { way: Way::OwnPack, .. })) {
        choices.extend(lifted(build, id, ends(&ask.volts), ask.limit_a));
    }
    // A strip for more volts than there are may as well be cut again: beside the step-up, with its light.
    let low_v = offered_v(build, "source")?.into_iter().map(|(_, volts)| volts).fold(f64::INFINITY, f64::min);
    if matches!(light.load, Load::Strip(_)) && low_v < ask.need.least_v {
        let cut = super::recut::for_light(build, id)?.into_iter().filter(|choice| choice.works && matches!(choice.pick, Pick::Recut { recut: Some(_), .. }));
        choices.extend(cut.take(RECUTS).map(|choice| Choice { title: format!("Cut it again: {}", choice.title), ..choice }));
    }
    tried(build, choices)
}

/// A step-up and a driver behind it, where one row wants more volts than there are.
fn lifted(build: &Build, id: &str, (low_v, high_v): (f64, f64), limit_a: f64) -> Option<Choice> {
    let light = build.lights.iter().find(|light| light.id == id)?;
    let Load::LedArray(array) = &light.load else { return None };
    let driven = Driven::of(array, low_v, high_v)?;
    let mut copy = build.clone();
    driven.put_before(&mut copy, id)?;
    let driver = copy.converters.pop().map(Box::new);
    let title = format!("Step-up converter, {}, and a {} current driver", plain(driven.lifted_to_v?, "V"), plain(driven.set_a, "A"));
    let tradeoff = format!("Two converters. Draws {} when the battery is lowest.", plain(driven.in_a, "A"));
    let mut choice = Choice::new(title, tradeoff, Pick::Supply { way: Way::Driver, converter: driver });
    if driven.in_a > limit_a {
        choice.works = false;
        choice.caution = Some(format!("That is more than the battery's {}.", plain(limit_a, "A")));
    }
    Some(choice.changing(build, |copy| driven.put_before(copy, id)))
}

/// Ways to cut a strip again that stand beside the modules.
const RECUTS: usize = 2;

/// A lead from the battery brings its fuse: the one that was above, else what is usual there, and wire that it protects.
fn with_fuse(build: &mut Build, id: &str, out_w: f64, above: Option<&Fuse>) -> Option<()> {
    let graph = Topology::of(build);
    let wire = graph.wire(id)?;
    let feed = graph.feed(wire);
    if !protection::wants_fuse(&graph, wire) {
        return None;
    }
    let low_v = offered_v(build, "source").ok()?.into_iter().map(|(_, volts)| volts).fold(f64::INFINITY, f64::min);
    let current_a = out_w / (0.85 * low_v.max(1.0));
    let style = above.map(|fuse| fuse.style).or(protection::seat(&graph, feed.feed).usual().first().copied())?;
    let rating_a = style.smallest_for(current_a)?;
    let carries = |gauge: &Gauge| gauge.ampacity_a(feed.feed.bundled) * build.heat_share(feed.consumer) >= rating_a;
    let gauge = std::iter::once(feed.feed.gauge).chain(feed.feed.gauge.thicker()).find(carries)?;
    super::fuse::put(build, id, &Fuse::of(style, rating_a), Some(gauge))
}

/// Feeds a light through a new module, or from the source itself, keeping its fuse, switch and plugs at the battery.
pub fn feed_by(build: &mut Build, id: &str, converter: Option<&Converter>) -> Option<()> {
    let light = build.lights.iter().find(|light| light.id == id)?.clone();
    let first = light.feeds.first()?;
    let old = build.converters.iter().position(|c| c.id == first.from);
    let above_fuse = old.and_then(|index| build.converters[index].feed.fuse.clone());
    let from = match converter {
        None => "source".to_owned(),
        Some(module) => {
            let mut module = module.clone();
            module.id = orthavis_model::edit::free_id(build, &orthavis_model::edit::converter_name(&module));
            let above = old.map_or(first, |index| &build.converters[index].feed);
            let at_battery = above.from == "source" || old.is_none();
            module.feed.fuse = above.fuse.clone().filter(|_| at_battery);
            module.feed.switch = above.switch.clone().filter(|_| at_battery);
            let id = module.id.clone();
            build.converters.push(module);
            id
        }
    };
    // A module that fed nothing else goes with it.
    if let Some(index) = old {
        let gone = build.converters[index].id.clone();
        let others = build.feeds().iter().filter(|feed| feed.feed.from == gone).count();
        if others == light.feeds.len() {
            build.converters.remove(index);
        }
    }
    let light = build.lights.iter_mut().find(|light| light.id == id)?;
    for feed in &mut light.feeds {
        feed.from.clone_from(&from);
        if converter.is_some() {
            (feed.fuse, feed.switch) = (None, None);
        }
    }
    if let Load::LedArray(array) = &mut light.load
        && converter.is_some_and(|module| module.kind() == ConverterKind::CurrentDriver)
    {
        (array.resistor_ohm, array.shared_resistor) = (0.0, false);
    }
    let need = need_of(light);
    let owners: Vec<String> = build
        .feeds()
        .iter()
        .filter(|feed| feed.feed.from == "source" && feed.id.split('#').next().is_some_and(|owner| owner == id || owner == from))
        .map(|feed| feed.id.clone())
        .collect();
    // A light that is new at the battery's own leads has its fuse asked for like every other.
    if old.is_some() || converter.is_some() {
        for owner in owners {
            with_fuse(build, &owner, need.voltage_v * need.current_a, above_fuse.as_ref());
        }
    }
    Some(())
}
