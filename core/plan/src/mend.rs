//! Mend everything: a short list of changes after which nothing stands against building it.
//!
//! A search from the build as it is: at each step every card that stops is offered what its rules propose, and the
//! change that leaves least wrong for the least effort is taken. A change that clears its own card but brings another
//! stop may be taken where nothing better is there; what was seen before is not gone back to.

use crate::choose::size;
use orthavis_judge::effect::{Effect, effect};
use orthavis_judge::effort::effort;
use orthavis_judge::findings::solved_for_mending;
use orthavis_judge::findings::{Card, Finding, Severity, Trials, cards, rate_switching};
use orthavis_judge::report::{report, report_at_once};
use orthavis_model::budget;
use orthavis_model::document::{Build, is_sound, parse_value};
use orthavis_model::topology::Topology;
use orthavis_physics::network::Solution;
use orthavis_physics::points::{PointError, SolvedBuild};
use serde::Serialize;

/// What mends a whole build.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MendedAll {
    /// What is done, in order, in words.
    pub steps: Vec<String>,
    /// RFC 6902 operations that do all of it.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
    /// What all of it does together.
    pub effect: Effect,
    /// What still stands against building it, and what the person can do about that.
    pub left: Vec<Left>,
}

/// What no change here clears.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Left {
    /// What is wrong.
    pub title: String,
    /// What only the person can do.
    pub advice: String,
}

/// Changes in a row; a longer list is not followed by anyone.
const STEPS: usize = 16;
/// Proposals tried for each card in one step.
const EACH: usize = 6;
/// Changed builds judged in all, for a small build; fewer for a large one.
const TRIED: usize = 600;
/// Changes in a row that leave as many stops as there were.
const SIDEWAYS: usize = 2;

/// A build on the way.
struct Place {
    build: Build,
    solved: SolvedBuild,
    found: Vec<Finding>,
}

impl Place {
    fn of(build: Build, near: &[Solution]) -> Option<Self> {
        let (solved, found) = solved_for_mending(&build, near)?;
        Some(Place { build, solved, found })
    }

    fn stops(&self) -> usize {
        self.found.iter().filter(|f| f.severity == Severity::Stop).count()
    }

    /// Stops, and where it is to be sound fixes too.
    fn wrong(&self, until: Until) -> (usize, usize) {
        let fixes = self.found.iter().filter(|f| f.severity == Severity::Fix).count();
        (self.stops(), if until == Until::Sound { fixes } else { 0 })
    }

    /// What is wrong, in the currency of effort: a stop outweighs any work.
    fn weight(&self, from: &Build) -> f64 {
        let fixes = self.found.iter().filter(|f| f.severity == Severity::Fix).count();
        1000.0 * self.stops() as f64 + 40.0 * fixes as f64 + effort(from, &self.build).score()
    }

    /// Cards of a severity, causes before what follows from them; what follows only where nothing else is left.
    fn cards(&self, severity: Severity) -> Vec<Card> {
        let mut all = cards(&self.build, &self.found);
        all.retain(|card| card.severity == severity);
        if all.iter().any(|card| card.follows.is_none()) {
            all.retain(|card| card.follows.is_none());
        }
        all
    }

    /// Fixes that may be the cause of a stop, or lie on its way: what mends them may clear the stop too.
    fn beside_stops(&self) -> Vec<Card> {
        let owner = |subject: &str| subject.split('#').next().unwrap_or(subject).to_owned();
        let graph = Topology::of(&self.build);
        let supplier = |subject: &str| graph.wire(subject).map(|wire| graph.supplier(graph.laid(wire)).to_owned());
        let near = |finding: &Finding| [Some(owner(&finding.subject)), supplier(&finding.subject)];
        let stops: Vec<String> = self.found.iter().filter(|f| f.severity == Severity::Stop).flat_map(near).flatten().collect();
        let mut all = self.cards(Severity::Fix);
        all.retain(|card| card.findings.iter().any(|index| near(&self.found[*index]).iter().flatten().any(|part| stops.contains(part))));
        all
    }
}

/// How far a search goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Until {
    /// Nothing stands against building it.
    Safe,
    /// What is wrong without being a danger is mended too.
    Sound,
}

/// Searches the changes.
///
/// # Errors
/// When work was stopped.
pub fn everything(build: &Build, until: Until) -> Result<MendedAll, PointError> {
    let before = report_at_once(build)?;
    let mut steps: Vec<String> = Vec::new();
    let mut here = Place::of(build.clone(), &[]);
    let small = orthavis_judge::findings::parts(build) < 500;
    let mut left = if small { TRIED.min(orthavis_judge::findings::affordable(build) * 4).max(40) } else { 30 };
    let mut seen: Vec<Build> = Vec::new();
    let (mut sideways, mut best) = (0, None::<((usize, usize), usize, Build)>);
    let begun = here.as_ref().map_or(0, Place::stops);
    while let Some(place) = &here {
        let stops = place.stops();
        let wrong = place.wrong(until);
        budget::progress(begun.saturating_sub(stops) as u64, begun as u64);
        if best.as_ref().is_none_or(|(fewest, ..)| wrong < *fewest) {
            best = Some((wrong, steps.len(), place.build.clone()));
        }
        if wrong == (0, 0) || steps.len() == STEPS || left == 0 || budget::stopped().is_some() {
            break;
        }
        seen.push(place.build.clone());
        let Some((title, next)) = step(place, &seen, &mut left, until) else { break };
        sideways = if next.wrong(until) < wrong { 0 } else { sideways + 1 };
        if sideways > SIDEWAYS {
            break;
        }
        steps.push(title);
        here = Some(next);
    }
    let (_, count, mended) = best.unwrap_or(((0, 0), 0, build.clone()));
    steps.truncate(count);
    // What is handed out has passed the whole grammar.
    let value = mended.to_value();
    let mended = parse_value(&value).unwrap_or_else(|_| build.clone());
    // What mends the rest is looked for only where something is left.
    let mut after = report_at_once(&mended)?;
    let remains = |f: &&Finding| f.follows.is_none() && (f.severity == Severity::Stop || until == Until::Sound && f.severity == Severity::Fix);
    if after.findings.iter().any(|finding| remains(&finding)) {
        after = report(&mended)?;
    }
    let left = after.findings.iter().filter(remains).map(|f| Left {
        title: f.title.clone(),
        advice: f.advice.clone().unwrap_or_else(|| f.remedies.first().map_or(String::new(), |remedy| format!("{}.", remedy.title))),
    });
    let left = left.collect();
    Ok(MendedAll { changes: json_patch::diff(&build.to_value(), &mended.to_value()), effect: effect(&before, &after), steps, left })
}

/// The best change from here.
fn step(place: &Place, seen: &[Build], left: &mut usize, until: Until) -> Option<(String, Place)> {
    let bench = Trials::new(&place.build, &place.solved, &place.found);
    let mut best: Option<(f64, String, Place)> = None;
    let mut offer = |title: String, next: Place| {
        let weight = next.weight(&place.build);
        if !seen.contains(&next.build) && best.as_ref().is_none_or(|(least, ..)| weight < *least) {
            best = Some((weight, title, next));
        }
    };
    let counts = |f: &&Finding| f.severity == Severity::Stop || until == Until::Sound && f.severity == Severity::Fix;
    if place.found.iter().any(|f| counts(&f) && in_wires(f)) {
        *left = left.saturating_sub(4);
        if let Some(next) = sized(place) {
            offer("Size wires, fuses, switches and plugs for what they carry".into(), next);
        }
    }
    let dangers = place.cards(Severity::Stop);
    let mut all = if dangers.is_empty() && until == Until::Sound { place.cards(Severity::Fix) } else { dangers };
    if place.stops() > 0 {
        all.extend(place.beside_stops());
    }
    for card in all {
        if *left == 0 || budget::stopped().is_some() {
            break;
        }
        let members: Vec<&Finding> = card.findings.iter().map(|index| &place.found[*index]).collect();
        let mut proposals = bench.proposals(&members);
        if members.len() > 1 {
            proposals.truncate(EACH);
            proposals.extend(bench.proposals(&members[..1]));
        }
        for proposal in proposals.into_iter().take(2 * EACH) {
            if *left == 0 {
                break;
            }
            *left -= 1;
            if !is_sound(&proposal.build) {
                continue;
            }
            let Some(next) = Place::of(proposal.build, &place.solved.solutions) else { continue };
            // What mends several at once says so itself.
            let title = if members.len() > 1 { proposal.title } else { format!("{}: {}", card.subject, proposal.title) };
            // A new part may want thicker wire or another fuse; that is one thing with it.
            if next.found.iter().any(|f| f.severity == Severity::Stop && in_wires(f))
                && let Some(fitted) = sized(&next)
                && fitted.stops() < next.stops()
            {
                *left = left.saturating_sub(4);
                offer(format!("{title}, wires and fuses to match"), fitted);
            }
            offer(title, next);
        }
    }
    best.map(|(_, title, next)| (title, next))
}

fn in_wires(finding: &Finding) -> bool {
    ["wire.", "fuse.", "switch.", "contact."].iter().any(|of| finding.code.starts_with(of))
}

/// With wires, fuses, switches and plugs for what they carry.
fn sized(place: &Place) -> Option<Place> {
    let mut sized = size::everything_of(&place.build).ok()?;
    for over in place.found.iter().filter(|f| matches!(f.code, "switch.over" | "contact.over")) {
        rate_switching(&mut sized, over.code, &over.subject, over.value);
    }
    (sized != place.build && is_sound(&sized)).then(|| Place::of(sized, &place.solved.solutions)).flatten()
}
