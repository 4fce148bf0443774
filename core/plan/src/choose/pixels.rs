//! How many pixels a supply carries, and how bright they may be.
//!
//! Planned with every channel at the asked colour and level, the controllers' own current added; a regulator is used
//! to 80 % of its limit.

use super::*;
use orthavis_model::document::{Load, Pixels};
use orthavis_model::practice::SUPPLY_SHARE;
use orthavis_model::topology::Topology;
use orthavis_model::working::{Rule, fact, plain, quantity};

/// What is asked.
#[derive(Clone, Debug)]
pub struct Ask {
    /// The pixel; its count is what is wished for.
    pub pixels: Pixels,
    /// What the regulator or rail gives, A, less what else it feeds.
    pub limit_a: f64,
    /// Red, green, blue, each 0 to 1.
    pub colour: [f64; 3],
    /// 0 to 1.
    pub level: f64,
}

const EACH: Rule = Rule {
    words: "Every channel at the asked colour and level, and the controller's own current.",
    formula: "I = level·Σ colour_c·I_c + I_idle",
    source: "The pixel's datasheet",
};
const FITS: Rule = Rule {
    words: "What the share of the limit that is used carries.",
    formula: "n = floor(u·I_limit / I)",
    source: "Regulators last when they are not run at their limit",
};
const LEVEL: Rule = Rule {
    words: "The level at which all of them stay within the share of the limit that is used.",
    formula: "level = (u·I_limit / n − I_idle) / Σ colour_c·I_c",
    source: "Solved for the level",
};

/// All of them as asked, all of them dimmer, or fewer.
///
/// # Errors
/// When a figure is out of range.
pub fn pixels(ask: &Ask) -> Result<Vec<Choice>, ChooseError> {
    within("the limit", ask.limit_a, 0.0, 10_000.0, "a limit above 0 and at most 10,000 A")?;
    let count = f64::from(ask.pixels.count);
    let full = orthavis_model::laws::pixels::asked_a(&ask.pixels, 1.0, &ask.colour);
    let white = orthavis_model::laws::pixels::asked_a(&ask.pixels, 1.0, &[1.0; 3]) + ask.pixels.idle_a;
    let each = ask.level * full + ask.pixels.idle_a;
    let usable = SUPPLY_SHARE * ask.limit_a;
    let fits = if each > 0.0 { (usable / each + 1e-9).floor().clamp(0.0, 20_000.0) } else { 20_000.0 };
    let level = if full > 0.0 { ((usable / count - ask.pixels.idle_a) / full).clamp(0.0, 1.0) } else { 1.0 };
    // Rounded down to a whole percent, so that it truly fits.
    let level = (level * 100.0 + 1e-9).floor() / 100.0;
    let level_fits = level;
    let given = |level: f64| {
        vec![
            quantity("level", "level", level, "1"),
            quantity("Σ", "all channels at this colour", full, "A"),
            quantity("I_idle", "each controller", ask.pixels.idle_a, "A"),
            quantity("n", "pixels", count, "1"),
            quantity("I_limit", "the supply's limit", ask.limit_a, "A"),
            quantity("u", "share of it that is used", SUPPLY_SHARE, "1"),
        ]
    };
    let facts = |count: f64, level: f64| {
        let each = level * full + ask.pixels.idle_a;
        vec![
            fact("each_a", "Each pixel", "I", each, "A", &EACH, given(level)),
            fact("total_a", "All of them", "n·I", count * each, "A", &EACH, given(level)).of_limit(ask.limit_a),
            fact("fits", "How many fit at this level", "n", fits, "", &FITS, given(ask.level)),
            fact("level_fits", "The level at which all fit", "level", level_fits, "1", &LEVEL, given(ask.level)),
            fact(
                "white_a",
                "All of them, full white",
                "n·I",
                f64::from(ask.pixels.count) * white,
                "A",
                &EACH,
                vec![quantity("I", "one, full white", white, "A"), quantity("n", "pixels", f64::from(ask.pixels.count), "1")],
            )
            .of_limit(ask.limit_a),
        ]
    };
    let mut as_asked = Choice::new(
        format!("All {} at {:.0} %", ask.pixels.count, 100.0 * ask.level),
        format!("{} of {}; full white would want {}.", plain(count * each, "A"), plain(ask.limit_a, "A"), plain(count * white, "A")),
        Pick::Pixels { count: ask.pixels.count, level: ask.level },
    );
    as_asked.works = count <= fits;
    if !as_asked.works {
        as_asked.caution = Some(format!("More than four fifths of the limit: the regulator runs hot, sags or shuts down. {fits:.0} fit at this level."));
    }
    as_asked.figures = facts(count, ask.level);
    let mut choices = vec![as_asked];
    if count > fits {
        let mut dimmer = Choice::new(
            format!("All {} at {:.0} %", ask.pixels.count, 100.0 * level),
            format!("Fits {} with a fifth to spare.", plain(ask.limit_a, "A")),
            Pick::Pixels { count: ask.pixels.count, level },
        );
        dimmer.works = level > 0.0;
        dimmer.caution = (level <= 0.0).then(|| "Their controllers alone draw more than that, even dark.".into());
        dimmer.figures = facts(count, level);
        let mut fewer = Choice::new(
            format!("{fits:.0} pixels at {:.0} %", 100.0 * ask.level),
            format!("{:.0} fewer, as bright as asked.", count - fits),
            Pick::Pixels { count: fits as u32, level: ask.level },
        );
        fewer.works = fits >= 1.0;
        fewer.figures = facts(fits, ask.level);
        choices.extend([dimmer, fewer]);
    }
    rank(&mut choices, |_| 0);
    Ok(choices)
}

/// What fits for the pixels of a light, at the brightest that a scene asks of them.
///
/// # Errors
/// When there is no such light, or it is none of pixels.
pub fn for_light(build: &Build, id: &str) -> Result<Vec<Choice>, ChooseError> {
    let light = build.lights.iter().find(|light| light.id == id).ok_or(ChooseError::Unknown { what: "light", id: id.into() })?;
    let Load::Pixels(part) = &light.load else { return Err(ChooseError::Misplaced { id: id.into(), is: "no string of pixels", wants: "addressable pixels" }) };
    let asked = build.scenes.iter().filter_map(|scene| scene.lights.get(id)).max_by(|a, b| {
        let of = |lit: &orthavis_model::document::SceneLight| orthavis_model::laws::pixels::asked_a(part, lit.level, &lit.colour);
        of(a).total_cmp(&of(b))
    });
    let (level, colour) = asked.map_or((1.0, [1.0; 3]), |lit| (lit.level, lit.colour));
    let from = Topology::of(build).supplier(&light.feeds[0]);
    let others: f64 = orthavis_physics::points::points(build)?
        .iter()
        .map(|point| match build.converters.iter().find(|c| c.id == from) {
            Some(converter) => point.converters[&converter.id].out_a - point.lights[id].current_a,
            None => point.source.current_a - point.lights[id].current_a,
        })
        .fold(0.0, f64::max);
    let limit = build.converters.iter().find(|c| c.id == from).map_or(build.source.max_current_a(), |c| c.max_out_a);
    let ask = Ask { pixels: part.clone(), limit_a: (limit - others).max(1e-6), colour, level };
    let choices = pixels(&ask)?.into_iter().map(|choice| {
        let Pick::Pixels { count, level } = choice.pick else { return choice };
        choice.changing(build, |copy| {
            if let Load::Pixels(pixels) = &mut copy.lights.iter_mut().find(|light| light.id == id)?.load {
                pixels.count = count;
                let end = f64::from(count) * pixels.pitch_m;
                let light = copy.lights.iter_mut().find(|light| light.id == id)?;
                for feed in &mut light.feeds {
                    feed.at_m = feed.at_m.min(end);
                }
            }
            for lit in copy.scenes.iter_mut().filter_map(|scene| scene.lights.get_mut(id)) {
                lit.level = lit.level.min(level);
            }
            Some(())
        })
    });
    tried(build, choices.collect())
}
