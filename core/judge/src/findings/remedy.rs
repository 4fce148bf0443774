//! What clears a finding: proposals of the rules, the least effort first, each tried by solving the changed build.

use super::cards::Card;
use super::case::*;
use super::checks::check;
use super::rules::{FAMILIES, find, judged_near, solved_for_mending};
use crate::effort::{effort, sizes_thicker};
use orthavis_model::budget;
use orthavis_model::document::{Gauge, Source, is_sound, parse_value};
use orthavis_model::topology::Topology;
use orthavis_physics::points::{SolvedBuild, solved};

/// Trying a proposal costs a solve of every point. This many taps times points are tried in one report, shared by
/// its cards; some ten milliseconds.
const TRIALS: usize = 60_000;
/// A change that leaves less than this of what is too much is worth naming.
const NEARER: f64 = 0.9;
/// Changes tried to clear what another change brought.
const PAIRED: usize = 4;
/// Below this much work another thread costs more than it saves.
const ALONE: usize = 500;

/// What trying a change showed.
enum Outcome {
    /// Gone, or (`false`) only milder; nothing new stands against building it.
    Helps(bool),
    /// It helps, but brings a new stop.
    Brings(Box<Finding>),
    /// It stays; by this factor it is less far beyond its limit.
    Nearer(f64),
    /// Nothing is won.
    Not,
}

/// What else was learnt from changes that clear nothing.
#[derive(Default)]
struct Tried {
    /// The first that would clear it but brings a new stop, with that stop.
    refused: Option<(Proposal, Finding)>,
    /// The one that comes nearest, with what is left of the finding's value.
    nearest: Option<(f64, String)>,
}

/// A solved build with what is wrong with it, against which changes are tried.
pub struct Trials<'a> {
    build: &'a Build,
    points: &'a [PointReport],
    collapsed: &'a [PointError],
    solutions: &'a [Solution],
    found: &'a [Finding],
}

impl<'a> Trials<'a> {
    /// A solved build and what is wrong with it.
    pub fn new(build: &'a Build, solved: &'a SolvedBuild, found: &'a [Finding]) -> Self {
        Trials { build, points: &solved.points, collapsed: &solved.collapsed, solutions: &solved.solutions, found }
    }

    fn case(&self) -> Case<'a> {
        Case { build: self.build, graph: Topology::of(self.build), solved: self.points, collapsed: self.collapsed }
    }

    /// What the rules propose for these findings of one code, the least effort first; nothing that a careful person
    /// would laugh at.
    pub fn proposals(&self, findings: &[&Finding]) -> Vec<Proposal> {
        let Some(first) = findings.first() else { return Vec::new() };
        let case = self.case();
        let alone = FAMILIES.iter().flat_map(|rule| (rule.mend)(&case, first));
        let together = FAMILIES.iter().flat_map(|rule| if findings.len() > 1 { (rule.mend_all)(&case, findings) } else { Vec::new() });
        let mut ranked: Vec<(f64, Proposal)> = Vec::new();
        for proposal in together.chain(alone) {
            let known = ranked.iter().any(|(_, known)| known.title == proposal.title || known.build == proposal.build);
            if !known && proposal.build != *self.build && is_sensible(self.build, &proposal.build, first.severity) {
                ranked.push((effort(self.build, &proposal.build).score(), proposal));
            }
        }
        ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
        ranked.into_iter().map(|(_, proposal)| proposal).collect()
    }

    fn tries(&self, findings: &[&Finding], edited: &Build) -> Outcome {
        if budget::spend(20 * parts(edited)).is_err() || !is_sound(edited) {
            return Outcome::Not;
        }
        let Ok(after) = judged_near(edited, self.solutions) else { return Outcome::Not };
        let rest = |finding: &Finding| after.iter().find(|f| f.code == finding.code && f.subject == finding.subject);
        if findings.iter().any(|finding| rest(finding).is_some_and(|rest| rest.severity <= finding.severity)) {
            // How far it still is from its limit, beside how far it was.
            let far = |f: &Finding| (f.value - f.limit).abs();
            let left = findings.iter().filter_map(|finding| Some(far(rest(finding)?) / far(finding).max(1e-12))).fold(0.0, f64::max);
            return if left < NEARER { Outcome::Nearer(left) } else { Outcome::Not };
        }
        let stops = |list: &[Finding], f: &Finding| list.iter().any(|old| old.severity == Severity::Stop && old.code == f.code && old.subject == f.subject);
        match after.iter().find(|f| f.severity == Severity::Stop && !stops(self.found, f)) {
            Some(new) => Outcome::Brings(Box::new(new.clone())),
            None => Outcome::Helps(findings.iter().all(|finding| rest(finding).is_none())),
        }
    }

    /// The first few proposals that help, those that clear all of it before those that only ease it; and what was learnt
    /// from those that do not.
    fn mend(&self, findings: &[&Finding], most: usize, mut left: usize) -> (Vec<Proposal>, Tried) {
        let (mut clear, mut ease, mut tried) = (Vec::new(), Vec::new(), Tried::default());
        for proposal in self.proposals(findings) {
            // What there was no time to try is not offered.
            if clear.len() == most || left == 0 || budget::stopped().is_some() {
                break;
            }
            left -= 1;
            match self.tries(findings, &proposal.build) {
                Outcome::Helps(true) => clear.push(proposal),
                Outcome::Helps(false) => ease.push(proposal),
                Outcome::Brings(stop) => tried.refused = tried.refused.or(Some((proposal, *stop))),
                Outcome::Nearer(rest) if tried.nearest.as_ref().is_none_or(|(best, _)| rest < *best) => tried.nearest = Some((rest, proposal.title)),
                Outcome::Nearer(_) | Outcome::Not => {}
            }
        }
        clear.extend(ease);
        clear.truncate(most);
        (clear, tried)
    }

    /// A change that would bring a new stop, together with one that clears that stop.
    fn pair(&self, findings: &[&Finding], first: &Proposal, stop: &Finding) -> Option<Proposal> {
        let (solved, found) = solved_for_mending(&first.build, self.solutions)?;
        let here = found.iter().find(|f| f.code == stop.code && f.subject == stop.subject)?;
        let bench = Trials::new(&first.build, &solved, &found);
        let (second, _) = bench.mend(&[here], 1, PAIRED);
        let second = second.into_iter().next()?;
        let title = format!("{}; and for {}: {}", first.title, stop.subject, second.title);
        matches!(self.tries(findings, &second.build), Outcome::Helps(_)).then_some(Proposal { title, build: second.build })
    }

    /// A change that mends every one of these findings, put together from what mends each.
    fn mend_each(&self, findings: &[&Finding], mut left: usize) -> Option<Proposal> {
        let mut now = self.build.clone();
        let mut titles: Vec<String> = Vec::new();
        for finding in findings {
            let (solved, found) = solved_for_mending(&now, self.solutions)?;
            let Some(here) = found.iter().find(|f| f.code == finding.code && f.subject == finding.subject) else { continue };
            let bench = Trials::new(&now, &solved, &found);
            let (mended, _) = bench.mend(&[here], 1, left.clamp(1, 4));
            left = left.saturating_sub(4);
            let step = mended.into_iter().next()?;
            titles.push(step.title);
            now = step.build;
        }
        let count = titles.len();
        titles.sort();
        titles.dedup();
        let title = match &titles[..] {
            [one] if count > 1 => format!("{one}, for each of the {count}"),
            few => few.join("; "),
        };
        matches!(self.tries(findings, &now), Outcome::Helps(_)).then_some(Proposal { title, build: now })
    }
}

/// Largest output of a module that people buy for lights on a small vehicle, A.
const LARGEST_MODULE_A: f64 = 30.0;
/// Below this voltage a source is a few small cells.
const FEW_CELLS_V: f64 = 6.0;
/// What a module takes from them at the most, A.
const FEW_CELLS_A: f64 = 3.0;
/// A wire shorter than this is not replaced for a note, m.
const SHORT_M: f64 = 0.3;

/// Whether a careful person would make this change at all.
fn is_sensible(before: &Build, after: &Build, severity: Severity) -> bool {
    let (low_v, full_v) = after.states().into_iter().map(|state| after.thevenin(state).0).fold((f64::MAX, 0.0f64), |(l, h), v| (l.min(v), h.max(v)));
    let few_cells = full_v < FEW_CELLS_V && matches!(after.source, Source::Battery(_));
    let modules = after.converters.iter().all(|converter| {
        let known = before.converters.iter().any(|old| old.id == converter.id && old.max_out_a >= converter.max_out_a && old.kind() == converter.kind());
        let watts = converter.set_v().unwrap_or(0.0) * converter.max_out_a;
        known
            || converter.max_out_a <= LARGEST_MODULE_A
                // What it would take from the source at three quarters of its rating.
                && 0.75 * watts <= 0.9 * low_v * after.source.max_current_a().min(if few_cells { FEW_CELLS_A } else { f64::MAX })
    });
    let most = if severity == Severity::Note { 2 } else { 4 };
    let old = before.feeds();
    let wires = after.feeds().iter().all(|feed| {
        let Some(was) = old.iter().find(|was| was.id == feed.id) else { return true };
        let same_kind = matches!((was.feed.gauge, feed.feed.gauge), (Gauge::Awg(_), Gauge::Awg(_)) | (Gauge::Mm2(_), Gauge::Mm2(_)));
        let thicker = sizes_thicker(was.feed.gauge, feed.feed.gauge);
        // For a stop a wire grows to what it has to be.
        severity == Severity::Stop || !same_kind || thicker <= most && (thicker == 0 || severity != Severity::Note || feed.feed.length_m >= SHORT_M)
    });
    modules && wires
}

/// Solves what the rules propose and keeps what helps: remedies of each finding, and of each card as a whole. What
/// nothing helps is given advice; what follows from another fault waits for that.
///
/// Similar builds are solved faster from its solutions.
pub fn add_remedies(build: &Build, solved: &SolvedBuild, findings: &mut [Finding], cards: &mut [Card]) {
    let cost = cost(build, solved.points.len() + solved.collapsed.len());
    // Every card has its best proposal tried, and as many more as its share of the work allows.
    let trials = (TRIALS / (cost * findings.len().max(1))).max(2);
    let known: Vec<Finding> = findings.to_vec();
    let bench = Trials::new(build, solved, &known);
    let document = build.to_value();
    let work = |card: &Card| mend_card(&bench, &document, card, trials);
    let hands = std::thread::available_parallelism().map_or(1, usize::from).min(4);
    let mended: Vec<Mended> = if hands == 1 || findings.len() * cost < ALONE {
        cards.iter().map(work).collect()
    } else {
        let done = std::sync::Mutex::new(Vec::new());
        let queue = std::sync::Mutex::new(cards.iter().enumerate());
        let next = || queue.lock().ok().and_then(|mut rest| rest.next());
        let help = || {
            for (index, card) in std::iter::from_fn(next) {
                let mended = work(card);
                if let Ok(mut done) = done.lock() {
                    done.push((index, mended));
                }
            }
        };
        let shared = budget::current();
        std::thread::scope(|scope| {
            for _ in 0..hands {
                scope.spawn(|| budget::run(shared.clone(), help));
            }
        });
        let mut done = done.into_inner().unwrap_or_default();
        done.sort_by_key(|(index, _)| *index);
        done.into_iter().map(|(_, mended)| mended).collect()
    };
    for (card, mended) in cards.iter_mut().zip(mended) {
        for (index, (remedies, advice)) in card.findings.iter().zip(mended.each) {
            let finding = &mut findings[*index];
            finding.remedies = remedies;
            finding.advice = advice;
        }
        (card.remedies, card.advice) = mended.whole;
    }
}

/// Remedies with advice.
type Helped = (Vec<Remedy>, Option<String>);

struct Mended {
    each: Vec<Helped>,
    whole: Helped,
}

fn mend_card(bench: &Trials<'_>, document: &serde_json::Value, card: &Card, trials: usize) -> Mended {
    let members: Vec<&Finding> = card.findings.iter().map(|index| &bench.found[*index]).collect();
    if let Some(cause) = &card.follows {
        let title = bench.found.iter().find(|f| f.code == cause.code && f.subject == cause.subject).map_or("another fault", |f| &f.title);
        let advice = Some(format!("It follows from \u{201c}{title}\u{201d}: fix that first."));
        return Mended { each: members.iter().map(|_| (Vec::new(), advice.clone())).collect(), whole: (Vec::new(), advice) };
    }
    let most = card.severity.most_remedies();
    let each: Vec<Helped> = members
        .iter()
        .map(|finding| {
            let (mut found, tried) = bench.mend(&[finding], most, trials);
            if found.is_empty()
                && finding.severity == Severity::Stop
                && let Some((first, stop)) = &tried.refused
            {
                found.extend(bench.pair(&[finding], first, stop));
            }
            let remedies = offered(bench, document, found);
            let advice = advice(finding, remedies.is_empty(), tried);
            (remedies, advice)
        })
        .collect();
    if members.len() == 1 {
        let whole = each[0].clone();
        return Mended { each, whole };
    }
    let (mut found, tried) = bench.mend(&members, most, trials);
    if found.len() < most {
        found.extend(bench.mend_each(&members, trials).filter(|each| found.iter().all(|known| known.build != each.build)));
    }
    let remedies = offered(bench, document, found);
    let advice = advice(members[0], remedies.is_empty(), tried);
    Mended { each, whole: (remedies, advice) }
}

/// Proposals as changes; what is offered has passed the whole grammar, not only the rules that solving relies on.
fn offered(bench: &Trials<'_>, document: &serde_json::Value, found: Vec<Proposal>) -> Vec<Remedy> {
    let mut remedies: Vec<Remedy> = Vec::new();
    for proposal in found.into_iter().filter(|proposal| proposal.build != *bench.build) {
        if budget::spend(100 * parts(bench.build)).is_err() {
            break;
        }
        let edited = proposal.build.to_value();
        let changes = json_patch::diff(document, &edited);
        if remedies.iter().all(|known| known.changes != changes) && parse_value(&edited).is_ok() {
            remedies.push(Remedy { title: proposal.title, changes });
        }
    }
    remedies
}

/// What the finding says of its own, and where nothing helps why that is so.
fn advice(finding: &Finding, bare: bool, tried: Tried) -> Option<String> {
    if !bare {
        return finding.advice.clone();
    }
    let usual = || check(finding.code).map_or(String::new(), |check| format!(" What usually helps: {}", lower(&check.said().mend)));
    let why = match tried.refused {
        // The new stop has no words yet: it was found in brief.
        Some((proposal, stop)) => {
            let worded = solved(&proposal.build, &[]).map(|solved| find(&proposal.build, &solved.points, &solved.collapsed, false)).unwrap_or_default();
            let title = worded.into_iter().find(|f| f.code == stop.code && f.subject == stop.subject).map_or(stop.code.to_owned(), |f| f.title);
            format!("\u{201c}{}\u{201d} would fix it but bring a new danger: {title}.", proposal.title)
        }
        None if budget::stopped().is_some() => "The build is too large for every change to be tried: fix the others first, or divide it.".into(),
        None => match &tried.nearest {
            Some((rest, title)) => format!("\u{201c}{title}\u{201d} comes nearest: {:.0} % of what is too much is left.{}", 100.0 * rest, usual()),
            None => format!("We could not find a one-click fix.{}", usual()),
        },
    };
    Some(finding.advice.as_ref().map_or(why.clone(), |known| format!("{known} {why}")))
}

/// A sentence as the end of another.
fn lower(sentence: &str) -> String {
    let mut letters = sentence.chars();
    letters.next().map_or(String::new(), |first| first.to_lowercase().chain(letters).collect())
}

/// What one trial costs, in taps times points.
fn cost(build: &Build, points: usize) -> usize {
    points.max(1) * (10 + taps(build))
}

/// How many edited builds can be tried for the work that a report takes.
pub fn affordable(build: &Build) -> usize {
    TRIALS / cost(build, build.scenes.len().max(1) * build.states().len())
}

/// Segments, pixels and single lights: what the size of the network goes with.
fn taps(build: &Build) -> usize {
    let count = |load: &Load| match load {
        Load::Strip(strip) => strip.segments() as usize,
        Load::Pixels(pixels) => pixels.count as usize,
        Load::LedArray(_) | Load::Module(_) => 1,
    };
    build.lights.iter().map(|light| count(&light.load)).sum()
}
