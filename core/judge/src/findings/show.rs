//! Chains of pixels: their numbers, their data, the supply that they share, and how fast they flash.

use super::case::*;
use super::circuit::FLASH_FAST;
use orthavis_model::document::{Controller, Link, Output, Source};
use orthavis_model::practice::MOST_FLASHES;
use orthavis_model::practice::RAIL_SHIFT_V;
use orthavis_model::topology::Topology;
use orthavis_model::working::plain;
use orthavis_physics::show::{Chain, Flashes, chains, extent};

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const CHAIN_COPIES: Check = Check {
    code: "chain.copies",
    step: Step::Show,
    unit: "1",
    why: "Pieces that share their numbers pass data on after as many pixels as they have; what comes after is out of step.",
    formula: "n_copy = n_first",
    rule: "Copies have as many pixels as each other.",
    source: "How one-wire pixels pass data on",
    mend: "Cut them to one length, or give each its own numbers.",
    figures: &[],
};

pub(super) const CHAIN_LIMIT: Check = Check {
    code: "chain.limit",
    step: Step::Show,
    unit: "1",
    why: "A controller sends so many colours and no more; the last pixels stay dark or show what was left over.",
    formula: "n ≤ n_max",
    rule: "A controller's chains have no more numbers than it gives.",
    source: "The controller's documentation",
    mend: "Let pieces share their numbers, or add an output or a controller.",
    figures: &[],
};

pub(super) const CHAIN_MISSING: Check = Check {
    code: "chain.missing",
    step: Step::Show,
    unit: "1",
    why: "A pixel without data keeps dark, or shows whatever it woke up with.",
    formula: "n_chains = 1",
    rule: "Every light of pixels is on a chain.",
    source: "How one-wire pixels take data",
    mend: "Put it on a chain, or beside a piece that may show the same.",
    figures: &[],
};

pub(super) const CHAIN_TWICE: Check = Check {
    code: "chain.twice",
    step: Step::Show,
    unit: "1",
    why: "Two outputs on one wire work against each other: one says high while the other says low, and both get hot.",
    formula: "n_chains = 1",
    rule: "A light of pixels is on one chain, once.",
    source: "Push-pull outputs are not joined",
    mend: "Leave it in one place.",
    figures: &[],
};

pub(super) const DATA_FAR: Check = Check {
    code: "data.far",
    step: Step::Show,
    unit: "m",
    why: "On a long wire the edges of data are rounded off, and what runs beside it couples in: single pixels flicker.",
    formula: "l ≤ {0} m",
    rule: "Data runs no more than {0} m without a buffer.",
    source: "Common practice for one-wire pixels at 800 kbit/s",
    mend: "Put a buffer halfway, or move the controller.",
    figures: &[DATA_M],
};

pub(super) const FLASH_RED: Check = Check {
    code: "flash.red",
    step: Step::Show,
    unit: "1",
    why: "Saturated red that flashes brings on seizures sooner than any other colour.",
    formula: "f_red ≤ {0}",
    rule: "Saturated red flashes no more than {0w} times within any second.",
    source: "WCAG 2.2, general and red flash thresholds",
    mend: "Make it slower, or another colour.",
    figures: &[MOST_FLASHES],
};

pub(super) const GROUND_APART: Check = Check {
    code: "ground.apart",
    step: Step::Show,
    unit: "V",
    why: "Data is a voltage against minus. Where the two minuses differ, pixels misread it, and the current between them takes the data wire.",
    formula: "|V_minus,1 − V_minus,2| ≤ {0} V",
    rule: "The minus of a controller is that of its pixels.",
    source: "Absolute ratings of logic inputs: no more than {0} V below minus or above plus",
    mend: "Run a minus wire beside the data wire.",
    figures: &[RAIL_SHIFT_V],
};

pub(super) const SUPPLY_LIMIT: Check = Check {
    code: "supply.limit",
    step: Step::Show,
    unit: "A",
    why: "A supply that is asked for too much lets its voltage fall: the controller starts anew in the brightest moment, again and again.",
    formula: "I_worst ≤ I_max",
    rule: "The worst frame of a show takes no more than its supply gives.",
    source: "The supply's data sheet; worst of fifty frames a second over once around, sixty seconds at most",
    mend: "Set a limit in the controller, dim the show, or take a larger supply.",
    figures: &[],
};

/// Data wire that needs no buffer, m.
const DATA_M: f64 = 2.0;
/// What is left free when a limit is set, as a share.
const SPARE: f64 = 0.03;

fn find(case: &Case<'_>, found: &mut Findings) {
    let chains = chains(case.build);
    for controller in &case.build.controllers {
        numbers(controller, &chains, case.build, found);
        wires(controller, found);
        apart(case, controller, found);
        supply(case, controller, found);
    }
    pieces(case.build, &chains, found);
    flashing(case.build, found);
}

fn plainly(title: String, message: String) -> Words {
    Words { title, message, advice: None, given: Vec::new() }
}

/// How many numbers it is asked for.
fn numbers(controller: &Controller, chains: &[Chain], build: &Build, found: &mut Findings) {
    let Some(limit) = controller.pixel_limit.map(f64::from) else { return };
    let own = |chain: &&Chain| chain.controller.is_some_and(|index| build.controllers[index].id == controller.id);
    let count: usize = chains.iter().filter(own).map(|chain| chain.count).sum();
    let count = count as f64;
    if above(count, limit) {
        let id = &controller.id;
        found.add(Draft { check: &CHAIN_LIMIT, severity: Severity::Stop, subject: id, point: None, value: count, limit, excess: count }, || Words {
            advice: Some("Pieces that may show the same can share their numbers: two data wires from one pin."),
            ..plainly(
                format!("{id}: more pixels than it can number"),
                format!("The chains of `{id}` have {count:.0} numbers; it gives {limit:.0}. What comes after stays dark or shows anything."),
            )
        });
    }
}

/// Data wires that are too long for what a pin gives.
fn wires(controller: &Controller, found: &mut Findings) {
    for link in controller.outputs.iter().flat_map(|output| output.links()) {
        if above(link.wire_m, DATA_M) {
            let id = &controller.id;
            let to = link.lights().next().map_or("", String::as_str);
            let draft = Draft { check: &DATA_FAR, severity: Severity::Note, subject: id, point: None, value: link.wire_m, limit: DATA_M, excess: link.wire_m };
            found.add(draft, || Words {
                advice: Some(
                    "Put a buffer, or a pixel that stays dark and is counted, halfway; run the data beside its own minus; a resistor of some 330 ohm where it begins.",
                ),
                ..plainly(
                    format!("{id}: a long data wire"),
                    format!("Data runs {} to `{to}`; beyond {} it is rounded off and picks up noise.", plain(link.wire_m, "m"), plain(DATA_M, "m")),
                )
            });
        }
    }
}

/// How far its minus is from that of its pixels.
fn apart(case: &Case<'_>, controller: &Controller, found: &mut Findings) {
    let id = &controller.id;
    let Some((volts, point)) = case.worst(|point| point.apart_v.get(id).copied()).filter(|(volts, _)| above(*volts, RAIL_SHIFT_V)) else { return };
    found.add(
        Draft { check: &GROUND_APART, severity: Severity::Stop, subject: id, point: Some(point), value: volts, limit: RAIL_SHIFT_V, excess: volts },
        || Words {
            advice: Some("Run a minus wire from the controller straight to where data enters the first pixels, beside the data wire."),
            ..plainly(
                format!("{id}: its minus is not that of its pixels"),
                format!(
                    "Between the minus of `{id}` and that of its pixels are {} {}. More than {} flows through the data wire and kills the first pixel.",
                    plain(volts, "V"),
                    moment(case.build, point),
                    plain(RAIL_SHIFT_V, "V")
                ),
            )
        },
    );
}

/// What feeds the first pixels of a controller.
fn supplier<'a>(graph: &Topology<'a>, controller: &Controller) -> Option<&'a str> {
    let data = controller.outputs.iter().filter(|output| output.data().is_some());
    let first = data.flat_map(|output| output.links()).flat_map(Link::lights).next()?;
    Some(graph.supplier(graph.laid(graph.inlet(graph.node(first)?)?)))
}

/// Whether the pixels of a controller hang on a supplier.
pub(super) fn feeds(build: &Build, controller: &str, from: &str) -> bool {
    let controller = build.controllers.iter().find(|known| known.id == controller);
    controller.and_then(|controller| supplier(&Topology::of(build), controller)) == Some(from)
}

/// What a supplier gives at a point, A, and at most.
fn given(build: &Build, id: &str, point: &PointReport) -> Option<(f64, f64)> {
    if let Some(converter) = build.converters.iter().find(|converter| converter.id == id) {
        return Some((point.converters.get(id)?.out_a, converter.max_out_a));
    }
    // Of a battery there is a finding of its own; a rail has what it says.
    matches!(build.source, Source::Rail(_)).then(|| (point.source.current_a, build.source.max_current_a()))
}

/// What its pixels and everything beside them take of their supply in the worst frame.
fn supply(case: &Case<'_>, controller: &Controller, found: &mut Findings) {
    let Some(from) = supplier(&case.graph, controller) else { return };
    let Some((amps, point)) = case.worst(|point| Some(given(case.build, from, point)?.0)) else { return };
    let Some((_, limit)) = given(case.build, from, point).filter(|(amps, limit)| above(*amps, *limit)) else { return };
    let id = &controller.id;
    let called = if from == "source" { "its supply".to_owned() } else { format!("`{from}`") };
    found.add(Draft { check: &SUPPLY_LIMIT, severity: Severity::Stop, subject: id, point: Some(point), value: amps, limit, excess: amps }, || Words {
        advice: Some("A limit in the controller dims the whole picture for the moments at which it would take more, and nobody sees it."),
        ..plainly(
            format!("{id}: its pixels take more than their supply gives"),
            format!("In the worst frame {called} would have to give {} {}; it gives {}.", plain(amps, "A"), moment(case.build, point), plain(limit, "A")),
        )
    });
}

/// Pieces on no chain, on two, and copies that cannot be alike.
fn pieces(build: &Build, all: &[Chain], found: &mut Findings) {
    let wired = all.iter().any(|chain| chain.controller.is_some());
    for (index, light) in build.lights.iter().enumerate().filter(|(_, light)| matches!(light.load, Load::Pixels(_))) {
        let id = &light.id;
        let times = all.iter().filter(|chain| chain.controller.is_some()).flat_map(|chain| &chain.pieces).flat_map(|piece| &piece.lights);
        let times = times.filter(|known| **known == index).count() as f64;
        if wired && times == 0.0 {
            found.add(Draft { check: &CHAIN_MISSING, severity: Severity::Fix, subject: id, point: None, value: 0.0, limit: 1.0, excess: 1.0 }, || {
                plainly(format!("{id}: no data reaches it"), format!("No data wire reaches `{id}`: nothing tells its pixels what to show, and they stay dark."))
            });
        }
        if times > 1.0 {
            found.add(Draft { check: &CHAIN_TWICE, severity: Severity::Stop, subject: id, point: None, value: times, limit: 1.0, excess: times }, || {
                plainly(
                    format!("{id}: data reaches it twice"),
                    format!("`{id}` is in {times:.0} places of the chains. Two outputs against each other on one data wire harm both."),
                )
            });
        }
    }
    for piece in all.iter().flat_map(|chain| &chain.pieces) {
        let count = |light: &usize| if let Load::Pixels(pixels) = &build.lights[*light].load { pixels.count } else { 0 };
        let (Some(least), Some(most)) = (piece.lights.iter().min_by_key(|light| count(light)), piece.lights.iter().max_by_key(|light| count(light))) else {
            continue;
        };
        let (value, limit) = (f64::from(count(least)), f64::from(count(most)));
        if above(limit, value) {
            let id = &build.lights[*least].id;
            found.add(Draft { check: &CHAIN_COPIES, severity: Severity::Stop, subject: id, point: None, value, limit, excess: limit - value }, || {
                plainly(
                    format!("{id}: a copy of another length"),
                    format!(
                        "`{id}` has {value:.0} pixels and shares its numbers with `{}`, which has {limit:.0}; what follows them is out of step.",
                        build.lights[*most].id
                    ),
                )
            });
        }
    }
}

/// The worst of a scene's flashes for each light.
fn worst(build: &Build, of: impl Fn(&Flashes) -> usize) -> Vec<(&Light, &str, usize)> {
    let mut found: Vec<(&Light, &str, usize)> = Vec::new();
    for scene in &build.scenes {
        let Some(extent) = extent(build, scene) else { continue };
        for flashes in &extent.flashes {
            let (light, rate) = (&build.lights[flashes.light], of(flashes));
            match found.iter_mut().find(|known| known.0.id == light.id) {
                Some(known) if rate > known.2 => (known.1, known.2) = (&scene.name, rate),
                Some(_) => {}
                None => found.push((light, &scene.name, rate)),
            }
        }
    }
    found
}

fn flashing(build: &Build, found: &mut Findings) {
    let red = worst(build, |flashes| flashes.red_a_second).into_iter().map(|one| (&FLASH_RED, one));
    let all = worst(build, |flashes| flashes.a_second).into_iter().map(|one| (&FLASH_FAST, one));
    for (check, (light, scene, rate)) in all.chain(red) {
        let rate = rate as f64;
        if above(rate, MOST_FLASHES) {
            let id = &light.id;
            let of = if check.code == FLASH_RED.code { "flashes red" } else { "flashes" };
            let draft = Draft { check, severity: Severity::Stop, subject: id, point: None, value: rate, limit: MOST_FLASHES, excess: rate };
            found.add(draft, || {
                plainly(
                    format!("{id}: {of} too fast"),
                    format!(
                        "`{id}` {of} {rate:.0} times within a second, in scene \u{201c}{scene}\u{201d}. Above three a second flashing can bring on a seizure."
                    ),
                )
            });
        }
    }
}

/// Every effect of a light made slower, or steady where nobody would see it move any more.
fn slower(build: &Build, light: &str, factor: f64) -> Option<Proposal> {
    fn slow(effect: &mut orthavis_model::document::PixelEffect, factor: f64) {
        if let Some(period_s) = effect.period_s_mut() {
            *period_s = (*period_s * factor * 100.0).ceil() / 100.0;
        }
        effect.nested_mut().for_each(|own| slow(own, factor));
    }
    propose(build, format!("{light}: {factor:.0} times as slow"), |copy| {
        // Copies show what the first of them is told.
        let alike: Vec<String> = copy
            .controllers
            .iter()
            .flat_map(|controller| &controller.outputs)
            .flat_map(|output| output.links())
            .filter(|link| link.lights().any(|id| id == light))
            .flat_map(|link| link.lights().cloned().collect::<Vec<_>>())
            .collect();
        let own = |id: &String| id == light || alike.contains(id);
        for (_, lit) in copy.scenes.iter_mut().flat_map(|scene| scene.lights.iter_mut()).filter(|(id, _)| own(id)) {
            if let Some(effect) = &mut lit.effect {
                slow(effect, factor);
            }
        }
        Some(())
    })
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let build = case.build;
    let edit = |title: String, change: &dyn Fn(&mut Controller) -> Option<()>| {
        propose(build, title, |copy| change(copy.controllers.iter_mut().find(|known| known.id == finding.subject)?))
    };
    let proposal = match finding.code {
        "supply.limit" => {
            let Some(controller) = build.controllers.iter().find(|known| known.id == finding.subject) else { return Vec::new() };
            let Some(from) = supplier(&case.graph, controller) else { return Vec::new() };
            // What everything else takes of that supply stays.
            let own = |point: &PointReport| -> f64 {
                let ids = controller.outputs.iter().flat_map(|output| output.links()).flat_map(Link::lights);
                ids.filter_map(|id| Some(point.lights.get(id)?.current_a)).sum()
            };
            let others = case.points().filter_map(|point| Some(given(build, from, point)?.0 - own(point))).fold(0.0, f64::max);
            let room = (100.0 * (1.0 - SPARE) * (finding.limit - others)).floor() / 100.0;
            if room <= 0.0 {
                return Vec::new();
            }
            edit(format!("Let {} keep its pixels below {}", controller.id, plain(room, "A")), &|copy| {
                copy.limit_a = Some(copy.limit_a.map_or(room, |known| known.min(room)));
                Some(())
            })
        }
        "chain.missing" => {
            // Behind the last piece of the output that has the fewest.
            let outputs = build.controllers.iter().flat_map(|controller| controller.outputs.iter().map(move |output| (controller, output)));
            let data = outputs.filter_map(|(controller, output)| Some((controller, output.data()?))).min_by_key(|(_, output)| output.chain.len());
            data.and_then(|(controller, output)| {
                propose(build, format!("Put {} at the end of {}, {}", finding.subject, controller.id, output.pin), |copy| {
                    let controller = copy.controllers.iter_mut().find(|known| known.id == controller.id)?;
                    let output = controller.outputs.iter_mut().find(|known| known.pin() == output.pin)?;
                    output.data_mut()?.chain.push(Link { light: Some(finding.subject.clone()), copies: None, mounted: None, wire_m: 0.2 });
                    Some(())
                })
            })
        }
        "chain.twice" => propose(build, format!("Leave {} in its first place only", finding.subject), |copy| {
            let mut seen = false;
            for output in copy.controllers.iter_mut().flat_map(|controller| &mut controller.outputs).filter_map(Output::data_mut) {
                for link in &mut output.chain {
                    let mut keep = |id: &String| *id != finding.subject || !std::mem::replace(&mut seen, true);
                    link.light = link.light.take().filter(&mut keep);
                    if let Some(copies) = &mut link.copies {
                        copies.retain(keep);
                    }
                    if link.copies.as_ref().is_some_and(Vec::is_empty) {
                        link.copies = None;
                    }
                }
                output.chain.retain(|link| link.light.is_some() || link.copies.is_some());
            }
            for controller in &mut copy.controllers {
                controller.outputs.retain(|output| output.data().is_none_or(|data| !data.chain.is_empty()));
            }
            Some(())
        }),
        "chain.copies" => propose(build, "Give each of them numbers of its own".to_string(), |copy| {
            for output in copy.controllers.iter_mut().flat_map(|controller| &mut controller.outputs).filter_map(Output::data_mut) {
                let chain = &mut output.chain;
                let Some(at) = chain.iter().position(|link| link.copies.as_ref().is_some_and(|copies| copies.contains(&finding.subject))) else { continue };
                let link = chain.remove(at);
                for (place, id) in link.copies.iter().flatten().enumerate() {
                    chain.insert(at + place, Link { light: Some(id.clone()), copies: None, mounted: link.mounted, wire_m: link.wire_m });
                }
            }
            Some(())
        }),
        "chain.limit" => {
            // A pair of pieces of one length, one after the other, as copies of each other.
            edit("Let pieces of one length share their numbers".into(), &|copy| {
                for output in &mut copy.outputs {
                    if let Some(data) = output.data_mut() {
                        share_numbers(build, &mut data.chain);
                    }
                }
                Some(())
            })
        }
        "flash.fast" | "flash.red" => slower(build, &finding.subject, (finding.value / MOST_FLASHES).ceil().max(2.0)),
        _ => None,
    };
    proposal.into_iter().collect()
}

/// Pieces of one length become copies of the first of them.
fn share_numbers(build: &Build, chain: &mut Vec<Link>) {
    let count = |link: &Link| {
        let first = link.lights().next()?;
        build.lights.iter().find(|light| light.id == *first).and_then(|light| if let Load::Pixels(pixels) = &light.load { Some(pixels.count) } else { None })
    };
    let mut shared: Vec<Link> = Vec::new();
    for link in chain.drain(..) {
        match shared.iter_mut().find(|known| count(known) == count(&link) && known.mounted == link.mounted) {
            Some(known) => {
                let mut all: Vec<String> = known.lights().cloned().collect();
                all.extend(link.lights().cloned());
                (known.light, known.copies) = (None, Some(all));
            }
            None => shared.push(link),
        }
    }
    *chain = shared;
}
