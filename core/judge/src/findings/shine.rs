//! Light that is not noticed, dazzles, shows as points or leaks. Judged where somebody said what a light is for or how it
//! shines; nothing here stops a build.

use super::case::*;
use orthavis_model::document::{CoatKind, Coats, Purpose, Scene, Shine};
use orthavis_model::laws::light::{Air, Beam, EVEN, NOTICED, contrast, even_distance};
use orthavis_physics::light::{LightFigures, figures};

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

/// From nearer than this, who looks elsewhere has no time left, m.
const NOTICED_M: f64 = 50.0;
/// Where the eyes are that a light must not dazzle, m.
const EYES_M: f64 = 10.0;
/// What such eyes bear at night, lx.
const DAZZLES_LX: f64 = 2.0;
/// Contrast of a diffuser from which single points are plain.
const SPOTS: f64 = 0.2;
/// Share of the light that shows at night where none should be.
const LEAK: f64 = 0.01;
const LAW: &str = "Law and standards for lights on vehicles differ from place to place; this is no approval.";

pub(super) const LIGHT_DAZZLES: Check = Check {
    code: "light.dazzles",
    step: Step::Look,
    unit: "lx",
    why: "Whoever comes towards you looks into it and sees nothing else for a while.",
    formula: "I(down) / ({0} m)² ≤ {1} lx",
    rule: "At the height of the lamp, {0} m away, at most {1} lx reach an eye.",
    source: "Inverse square; the limit is representative of glare limits for vehicle lamps",
    mend: "Aim it down, so that its beam meets the ground.",
    figures: &[EYES_M, DAZZLES_LX],
};

pub(super) const LIGHT_LEAKS: Check = Check {
    code: "light.leaks",
    step: Step::Look,
    unit: "1",
    why: "At night it shows through where no light should be.",
    formula: "Tⁿ ≤ {0%}",
    rule: "Each coat lets a share of the light pass; what passes all of them must stay below {0%}.",
    source: "Representative transmission of a coat",
    mend: "Another coat, black below the colour. Then look at it in the dark with the light on: holes and seams leak first.",
    figures: &[LEAK],
};

pub(super) const LIGHT_SPOTS: Check = Check {
    code: "light.spots",
    step: Step::Look,
    unit: "1",
    why: "Single points show through the diffuser instead of a line.",
    formula: "(E₀ − E½) / (E₀ + E½) ≤ {0}",
    rule: "Light on the diffuser over an LED and between two, of a long row of them; even to the eye below {1}.",
    source: "Inverse square and the beam of the LED, added up along the row",
    mend: "Put the diffuser farther away, or take LEDs that sit closer.",
    figures: &[SPOTS, EVEN],
};

pub(super) const LIGHT_UNNOTICED: Check = Check {
    code: "light.unnoticed",
    step: Step::Look,
    unit: "m",
    why: "Somebody who does not look for you notices it too late to stop.",
    formula: "d_noticed ≥ {0} m",
    rule: "To be noticed without being looked for, a light must give the eye a thousand times what it just sees.",
    source: "Allard's law; IALA E200-2 for what an eye sees; the factor is representative",
    mend: "More light, a lens that sends it where the others are, or no diffuser.",
    figures: &[NOTICED_M],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in case.build.lights.iter().filter(|light| light.is_looked_at()) {
        unnoticed(case, light, found);
        dazzles(case, light, found);
        spots(light, found);
        leaks(light, found);
    }
}

/// A light at a point, in the surroundings of the build.
fn at(case: &Case<'_>, light: &Light, point: &PointReport) -> Option<LightFigures> {
    let scene = case.build.scenes.iter().find(|scene| scene.id == point.scene)?;
    let output = point.lights.get(&light.id)?.output;
    Some(figures(light, scene.lights.get(&light.id), &case.lit(point, &light.id), output, case.build.usage.around(), Air::Clear))
}

/// In the scene in which it is noticed best, at the emptiest.
fn noticed_in<'a>(case: &Case<'a>, light: &Light) -> Option<(f64, &'a PointReport)> {
    let scenes = case.build.scenes.iter().filter_map(|scene| {
        let asked = case.solved.iter().filter(|point| point.scene == scene.id && light.is_asked(&case.lit(point, &light.id)));
        asked.filter_map(|point| Some((at(case, light, point)?.noticed_m, point))).min_by(|a, b| a.0.total_cmp(&b.0))
    });
    scenes.max_by(|a, b| a.0.total_cmp(&b.0))
}

fn unnoticed(case: &Case<'_>, light: &Light, found: &mut Findings) {
    if light.purpose != Some(Purpose::Seen) {
        return;
    }
    let Some((metres, point)) = noticed_in(case, light).filter(|(metres, _)| *metres < NOTICED_M) else { return };
    let draft = Draft {
        check: &LIGHT_UNNOTICED,
        severity: Severity::Note,
        subject: &light.id,
        point: Some(point),
        value: metres,
        limit: NOTICED_M,
        excess: NOTICED_M - metres,
    };
    found.add(draft, || Words {
        title: format!("{} is noticed from {metres:.0} m only", light.id),
        message: format!(
            "`{}` is there to be seen. {} ({}), somebody who looks elsewhere notices it from {metres:.0} m; {NOTICED_M:.0} m give time to stop. {LAW}",
            light.id,
            capital(&moment(case.build, point)),
            case.build.usage.around().called(),
        ),
        advice: None,
        given: vec![quantity("E", "what the eye needs to notice it", NOTICED * case.build.usage.around().seen_lx(), "lx")],
    });
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// What an eye at its height gets, lx.
fn at_eyes_lx(light: &Light, lm: f64) -> f64 {
    light.beam().cd(lm, light.down_deg().unwrap_or(0.0)) / (EYES_M * EYES_M)
}

fn dazzles(case: &Case<'_>, light: &Light, found: &mut Findings) {
    let asked = case.asked(light).filter_map(|point| Some((at_eyes_lx(light, at(case, light, point)?.lm), point)));
    let Some((lx, point)) = asked.max_by(|a, b| a.0.total_cmp(&b.0)).filter(|(lx, _)| above(*lx, DAZZLES_LX)) else { return };
    let draft = Draft { check: &LIGHT_DAZZLES, severity: Severity::Note, subject: &light.id, point: Some(point), value: lx, limit: DAZZLES_LX, excess: lx };
    found.add(draft, || Words {
        title: format!("{} dazzles", light.id),
        message: format!("{EYES_M:.0} m before `{}`, at its height, an eye gets {lx:.1} lx; {DAZZLES_LX:.0} lx are bearable at night. {LAW}", light.id),
        advice: None,
        given: vec![quantity("down", "its axis below level", light.down_deg().unwrap_or(0.0), "deg")],
    });
}

/// What a row looks like through its diffuser, where somebody measured how far that is.
fn spots(light: &Light, found: &mut Findings) {
    let Some((distance_mm, shows)) = diffused(light).filter(|(_, shows)| *shows > SPOTS) else { return };
    let draft = Draft { check: &LIGHT_SPOTS, severity: Severity::Note, subject: &light.id, point: None, value: shows, limit: SPOTS, excess: shows };
    found.add(draft, || Words {
        title: format!("{}: single points show", light.id),
        message: format!(
            "{distance_mm:.0} mm before the LEDs of `{}` the diffuser is {:.0} % brighter over each than between two. It looks even from {:.0} mm on.",
            light.id,
            100.0 * shows,
            even_mm(light).unwrap_or(distance_mm).ceil()
        ),
        advice: None,
        given: vec![quantity("h", "distance to the diffuser", distance_mm, "mm"), quantity("p", "from LED to LED", 1e3 * pitch(light), "mm")],
    });
}

fn pitch(light: &Light) -> f64 {
    light.row_pitch_m().unwrap_or(0.0)
}

fn diffused(light: &Light) -> Option<(f64, f64)> {
    let distance_mm = light.shine.as_ref()?.diffuser.as_ref()?.distance_mm?;
    Some((distance_mm, contrast(light.bare_beam(), light.row_pitch_m()?, 1e-3 * distance_mm)))
}

fn even_mm(light: &Light) -> Option<f64> {
    Some(1e3 * even_distance(light.bare_beam(), light.row_pitch_m()?))
}

fn leaks(light: &Light, found: &mut Findings) {
    let Some(coats) = light.shine.as_ref().and_then(|shine| shine.coats.as_ref()) else { return };
    let leak = coats.leak();
    if !above(leak, LEAK) {
        return;
    }
    let draft = Draft { check: &LIGHT_LEAKS, severity: Severity::Note, subject: &light.id, point: None, value: leak, limit: LEAK, excess: leak };
    found.add(draft, || Words {
        title: format!("{} shines through its coats", light.id),
        message: format!(
            "{} of {} let {:.1} % of the light of `{}` pass. Above {:.0} % it shows at night.",
            if coats.count == 1 { "One coat".to_owned() } else { format!("{} coats", coats.count) },
            coats.kind.called(),
            100.0 * leak,
            light.id,
            100.0 * LEAK
        ),
        advice: None,
        given: vec![quantity("T", "what passes a coat", coats.kind.passes(), "1"), quantity("n", "coats", f64::from(coats.count), "")],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(light) = case.build.lights.iter().find(|light| light.id == finding.subject) else { return Vec::new() };
    let shine = |title: String, change: &dyn Fn(&mut Shine)| {
        propose(case.build, title, |copy| {
            let light = copy.lights.iter_mut().find(|light| light.id == finding.subject)?;
            change(light.shine.get_or_insert_default());
            Some(())
        })
    };
    let proposals = match finding.code {
        "light.spots" => {
            let Some(even) = even_mm(light).map(f64::ceil) else { return Vec::new() };
            vec![shine(format!("Put the diffuser {even:.0} mm away"), &|shine| {
                if let Some(diffuser) = &mut shine.diffuser {
                    diffuser.distance_mm = Some(even);
                }
            })]
        }
        "light.leaks" => {
            let enough = |kind: CoatKind| (1..=20).find(|count| Coats { kind, count: *count }.leak() <= LEAK);
            let Some(count) = enough(CoatKind::Black) else { return Vec::new() };
            vec![shine(format!("{} of black paint", if count == 1 { "One coat".to_owned() } else { format!("{count} coats") }), &|shine| {
                shine.coats = Some(Coats { kind: CoatKind::Black, count });
            })]
        }
        "light.dazzles" => {
            let Some(down) = aimed_down(light, finding.value) else { return Vec::new() };
            vec![shine(format!("Aim it {down:.0}° down"), &|shine| shine.down_deg = Some(down))]
        }
        "light.unnoticed" => vec![brighter(case, light), without_diffuser(case, light)],
        _ => Vec::new(),
    };
    proposals.into_iter().flatten().collect()
}

/// Whole degrees below level at which a light that gives an eye so much, lx, dazzles nobody.
fn aimed_down(light: &Light, lx: f64) -> Option<f64> {
    let beam: Beam = light.beam();
    let now = light.down_deg().unwrap_or(0.0);
    let at = |deg: f64| beam.share(deg.to_radians().cos());
    (1..=90).map(f64::from).find(|deg| *deg > now && lx * at(*deg) / at(now) <= DAZZLES_LX)
}

/// Full light in every scene that dims it.
fn brighter(case: &Case<'_>, light: &Light) -> Option<Proposal> {
    let dimmed = |scene: &Scene| scene.lights.get(&light.id).is_some_and(|lit| lit.level > 0.0 && lit.level < 1.0);
    if !case.build.scenes.iter().any(dimmed) {
        return None;
    }
    propose(case.build, "Let it shine at full brightness", |copy| {
        for lit in copy.scenes.iter_mut().filter_map(|scene| scene.lights.get_mut(&light.id)).filter(|lit| lit.level > 0.0) {
            lit.level = 1.0;
        }
        Some(())
    })
}

fn without_diffuser(case: &Case<'_>, light: &Light) -> Option<Proposal> {
    light.shine.as_ref()?.diffuser.as_ref()?;
    propose(case.build, "Take the diffuser off", |copy| {
        copy.lights.iter_mut().find(|known| known.id == light.id)?.shine.as_mut()?.diffuser = None;
        Some(())
    })
}
