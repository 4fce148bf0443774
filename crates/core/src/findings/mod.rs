//! What is wrong with a build, and what clears it.
//!
//! Each file here knows one family of findings: [`Rule::find`] looks at the solved points, [`Rule::mend`] proposes
//! edits. A proposal is offered only after the edited build was solved again and the finding was gone or milder
//! with no new stop. To add a family: one file, one line in [`RULES`].

mod converter;
mod frame;
mod fuse;
mod led;
mod light;
mod place;
mod resistor;
mod source;
mod strip;
mod switching;
mod wire;

pub(crate) use fuse::{fault_a, seat as fuse_seat, wants_fuse, zone as fuse_zone};
pub(crate) use led::resize as resize_array;
pub(crate) use light::{INPUT_V, OUTPUT_A, feed_mut, free_id, plain_feed, rating_above};

use crate::document::{Build, Light, Load, parse_value};
use crate::network::{Lit, Solution};
use crate::practice::{above, within};
use crate::report::{PointReport, judged_near};
use crate::states::State;
use crate::working::{Quantity, Working, quantity};
use serde::Serialize;
use std::collections::BTreeMap;

const RULES: [Rule; 11] =
    [led::RULE, light::RULE, resistor::RULE, strip::RULE, converter::RULE, wire::RULE, fuse::RULE, switching::RULE, source::RULE, frame::RULE, place::RULE];

/// Trying a proposal costs a solve of every point. This many taps times points are tried in one report, shared by
/// its findings; some ten milliseconds.
const TRIALS: usize = 60_000;
/// Below this much work another thread costs more than it saves.
const ALONE: usize = 500;

/// How bad it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// Someone or something can be hurt: do not build it.
    Stop,
    /// It will not do what it should.
    Fix,
    /// Good to know.
    Note,
}

impl Severity {
    /// Most remedies offered for one finding: a choice where it matters, and not a list to read.
    fn most_remedies(self) -> usize {
        match self {
            Severity::Stop | Severity::Fix => 2,
            Severity::Note => 1,
        }
    }
}

/// One thing wrong, at its worst point.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Finding {
    /// What kind; a code never changes its meaning.
    pub code: &'static str,
    /// How bad.
    pub severity: Severity,
    /// Id of the part, feed or `source`.
    pub subject: String,
    /// State at the worst point; `None` when it is wrong in every state.
    pub state: Option<State>,
    /// Scene at the worst point.
    pub scene: Option<String>,
    /// The figure.
    pub value: f64,
    /// What it should keep to.
    pub limit: f64,
    /// Unit of both.
    pub unit: &'static str,
    /// What is wrong in a few words.
    pub title: String,
    /// What, where and by how much.
    pub message: String,
    /// Why it matters.
    pub why: &'static str,
    /// What only the person can do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub advice: Option<&'static str>,
    /// Changes that clear it, best first.
    pub remedies: Vec<Remedy>,
    /// How the figure came about.
    pub working: Working,
    /// How far beyond its limit; larger is worse.
    #[serde(skip)]
    excess: f64,
}

/// A change to the document that clears a finding.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Remedy {
    /// What it does, as on a button.
    pub title: String,
    /// RFC 6902 operations on the document.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
}

/// One family of findings.
struct Rule {
    find: fn(&Case<'_>, &mut Findings),
    mend: fn(&Case<'_>, &Finding) -> Vec<Proposal>,
}

/// A build edited so that a finding should be gone.
struct Proposal {
    title: String,
    build: Build,
}

/// A proposal made by editing a copy; `edit` says whether it could.
fn propose(build: &Build, title: impl Into<String>, edit: impl FnOnce(&mut Build) -> Option<()>) -> Option<Proposal> {
    let mut copy = build.clone();
    edit(&mut copy)?;
    Some(Proposal { title: title.into(), build: copy })
}

/// A solved build being judged.
struct Case<'a> {
    build: &'a Build,
    points: &'a [PointReport],
}

impl Case<'_> {
    /// How a point's scene lights a light.
    fn lit(&self, point: &PointReport, light: &str) -> Lit {
        self.build.scenes.iter().find(|scene| scene.id == point.scene).map_or(Lit::OFF, |scene| scene.lit(light))
    }

    /// The points at which a scene asks light of a light.
    fn asked<'p>(&'p self, light: &'p Light) -> impl Iterator<Item = &'p PointReport> {
        self.points.iter().filter(|point| light.is_asked(&self.lit(point, &light.id)))
    }

    /// Largest current in a feed's plus conductor at any point, by size, A, and where.
    fn worst_current(&self, feed: &str) -> Option<(f64, &PointReport)> {
        self.worst(|point| Some(point.feeds.get(feed)?.current_a.abs()))
    }

    /// The largest of a figure over all points, and where.
    fn worst(&self, figure: impl Fn(&PointReport) -> Option<f64>) -> Option<(f64, &PointReport)> {
        self.points.iter().filter_map(|point| Some((figure(point)?, point))).max_by(|a, b| a.0.total_cmp(&b.0))
    }
}

/// A finding before it is filed.
struct Draft<'a> {
    code: &'static str,
    severity: Severity,
    subject: &'a str,
    point: Option<&'a PointReport>,
    value: f64,
    limit: f64,
    unit: &'static str,
    /// Larger is worse; compared among drafts of one code and subject.
    excess: f64,
}

/// The words that go with a code.
struct Words {
    title: String,
    message: String,
    why: &'static str,
    advice: Option<&'static str>,
    formula: &'static str,
    rule: &'static str,
    source: &'static str,
    given: Vec<Quantity>,
}

/// Findings so far: one per code and subject, the worst.
#[derive(Default)]
struct Findings {
    found: BTreeMap<(&'static str, String), Finding>,
    /// Without words: for judging a proposal that nobody reads.
    brief: bool,
}

impl Words {
    const NONE: Words = Words { title: String::new(), message: String::new(), why: "", advice: None, formula: "", rule: "", source: "", given: Vec::new() };
}

impl Findings {
    fn add(&mut self, draft: Draft<'_>, words: impl FnOnce() -> Words) {
        let key = (draft.code, draft.subject.to_owned());
        if self.found.get(&key).is_some_and(|known| (known.severity, -known.excess) <= (draft.severity, -draft.excess)) {
            return;
        }
        let words = if self.brief { Words::NONE } else { words() };
        let mut given = words.given;
        given.push(quantity("limit", "allowed", draft.limit, draft.unit));
        let finding = Finding {
            code: draft.code,
            severity: draft.severity,
            subject: draft.subject.to_owned(),
            state: draft.point.map(|point| point.state),
            scene: draft.point.map(|point| point.scene.clone()),
            value: draft.value,
            limit: draft.limit,
            unit: draft.unit,
            title: words.title,
            message: words.message,
            why: words.why,
            advice: words.advice,
            remedies: Vec::new(),
            working: Working {
                words: words.rule.into(),
                formula: words.formula,
                given,
                result: quantity("value", "found", draft.value, draft.unit),
                source: words.source,
            },
            excess: draft.excess,
        };
        self.found.insert(key, finding);
    }
}

/// ` while charging, in scene "Riding"`: where a finding is at its worst.
fn moment(build: &Build, point: &PointReport) -> String {
    let name = build.scenes.iter().find(|scene| scene.id == point.scene).map_or(point.scene.as_str(), |scene| &scene.name);
    format!("{}, in scene \u{201c}{name}\u{201d}", point.state.phrase())
}

/// All findings of a solved build, worst first; remedies are added by [`add_remedies`].
pub fn findings(build: &Build, points: &[PointReport]) -> Vec<Finding> {
    find(build, points, false)
}

/// [`findings`] without words.
pub(crate) fn brief(build: &Build, points: &[PointReport]) -> Vec<Finding> {
    find(build, points, true)
}

fn find(build: &Build, points: &[PointReport], brief: bool) -> Vec<Finding> {
    let mut found = Findings { brief, ..Findings::default() };
    let case = Case { build, points };
    for rule in &RULES {
        (rule.find)(&case, &mut found);
    }
    let mut all: Vec<Finding> = found.found.into_values().collect();
    all.sort_by(|a, b| (a.severity, a.code, &a.subject).cmp(&(b.severity, b.code, &b.subject)));
    all
}

/// Where no proposal is offered.
const NOTHING_HELPS: &str = "No single change that was tried clears this without a new stop. Mend what else is wrong first, or feed this part in another way.";

/// Solves what the rules propose and keeps what helps; a finding that nothing helps is given advice.
///
/// `solutions` are those of the points, from which similar builds are solved faster.
pub fn add_remedies(build: &Build, points: &[PointReport], solutions: &[Solution], findings: &mut [Finding]) {
    let before: Vec<(&'static str, String, Severity)> = findings.iter().map(|f| (f.code, f.subject.clone(), f.severity)).collect();
    let document = build.to_value();
    let cost = cost(build, points.len());
    // Every finding has its best proposal tried, and as many more as its share of the work allows.
    let trials = (TRIALS / (cost * findings.len().max(1))).max(1);
    let mend = |finding: &mut Finding| {
        let case = Case { build, points };
        let mut left = trials;
        for proposal in RULES.iter().flat_map(|rule| (rule.mend)(&case, finding)).collect::<Vec<_>>() {
            if finding.remedies.len() == finding.severity.most_remedies() || left == 0 {
                break;
            }
            if proposal.build == *build || finding.remedies.iter().any(|known| known.title == proposal.title) {
                continue;
            }
            left -= 1;
            if !helps(finding, &proposal.build, solutions, &before) {
                continue;
            }
            let edited = proposal.build.to_value();
            let changes = json_patch::diff(&document, &edited);
            // What is offered has passed the whole grammar, not only the rules that solving relies on.
            if finding.remedies.iter().all(|known| known.changes != changes) && parse_value(&edited).is_ok() {
                finding.remedies.push(Remedy { title: proposal.title, changes });
            }
        }
        if finding.remedies.is_empty() {
            finding.advice = finding.advice.or(Some(NOTHING_HELPS));
        }
    };
    let hands = std::thread::available_parallelism().map_or(1, usize::from).min(4);
    if hands == 1 || findings.len() * cost < ALONE {
        findings.iter_mut().for_each(mend);
        return;
    }
    let queue = std::sync::Mutex::new(findings.iter_mut());
    let next = || queue.lock().ok().and_then(|mut rest| rest.next());
    std::thread::scope(|scope| {
        for _ in 0..hands {
            scope.spawn(|| std::iter::from_fn(next).for_each(mend));
        }
    });
}

/// What one trial costs, in taps times points.
fn cost(build: &Build, points: usize) -> usize {
    points.max(1) * (10 + taps(build))
}

/// How many edited builds can be tried for the work that a report takes.
pub(crate) fn affordable(build: &Build) -> usize {
    TRIALS / cost(build, build.scenes.len().max(1) * build.source.states().len())
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

/// Whether the edited document is sound, rid of the finding or with a milder form of it, and free of new stops.
fn helps(finding: &Finding, edited: &Build, solutions: &[Solution], before: &[(&'static str, String, Severity)]) -> bool {
    if !edited.is_sound() {
        return false;
    }
    let Ok(after) = judged_near(edited, solutions) else { return false };
    let milder = match after.iter().find(|f| f.code == finding.code && f.subject == finding.subject) {
        None => true,
        Some(rest) => rest.severity > finding.severity,
    };
    let new_stop = |f: &Finding| {
        f.severity == Severity::Stop && !before.iter().any(|(code, subject, severity)| *severity == Severity::Stop && *code == f.code && *subject == f.subject)
    };
    milder && !after.iter().any(new_stop)
}
