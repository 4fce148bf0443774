//! What is wrong with a build, and what clears it.
//!
//! Each file here knows one family of findings: [`Rule::find`] looks at the solved points, [`Rule::mend`] proposes
//! edits. A proposal is offered only after the edited build was solved again and the finding was gone or milder
//! with no new stop (`remedy`). What follows from another fault is found by its figures (`follow`); what one change may
//! mend together is one card (`cards`). To add a family: one file, one line in [`RULES`].

mod cards;
mod converter;
mod follow;
mod frame;
mod fuse;
mod led;
mod light;
mod place;
mod remedy;
mod resistor;
mod source;
mod strip;
mod switching;
mod wire;

pub use cards::Card;
pub use follow::Cause;
pub(crate) use fuse::{fault_a, seat as fuse_seat, wants_fuse, zone as fuse_zone};
pub(crate) use led::resize as resize_array;
pub(crate) use light::{INPUT_V, OUTPUT_A, feed_mut, free_id, plain_feed, rating_above};

pub(crate) use remedy::{Bench, affordable, parts};
use remedy::{Proposal, propose};
pub use remedy::{Remedy, add_remedies};
pub(crate) use switching::rate as rate_switching;

use crate::document::{Build, Light, Load};
use crate::network::{Lit, Solution};
use crate::practice::{above, within};
use crate::report::PointReport;
use crate::states::State;
use crate::working::{Quantity, Working, quantity};
use serde::Serialize;
use std::collections::BTreeMap;

const RULES: [Rule; 11] =
    [led::RULE, light::RULE, resistor::RULE, strip::RULE, converter::RULE, wire::RULE, fuse::RULE, switching::RULE, source::RULE, frame::RULE, place::RULE];

/// Every code that there is; a code never changes its meaning.
pub const CODES: [&str; 40] = [
    "contact.over",
    "converter.back_fed",
    "converter.hot",
    "converter.input_high",
    "converter.input_low",
    "converter.near_limit",
    "converter.overload",
    "converter.pass_through",
    "emitter.voltage_driven",
    "frame.medical",
    "frame.not_a_conductor",
    "fuse.above_wire",
    "fuse.breaking",
    "fuse.missing",
    "fuse.nuisance",
    "fuse.odd_rating",
    "fuse.slow",
    "fuse.voltage",
    "led.no_resistor",
    "led.over_max",
    "led.over_rated",
    "led.uneven",
    "light.dark",
    "light.dim",
    "light.over_voltage",
    "pixels.starved",
    "place.plug",
    "place.slack",
    "resistor.hot",
    "source.no_cutoff",
    "source.not_rechargeable",
    "source.over",
    "strip.cut",
    "strip.fade",
    "strip.rail_over",
    "switch.over",
    "tap.over",
    "tap.unbalanced",
    "wire.ampacity",
    "wire.drop",
];

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
    /// The fault that it follows from: mend that, and this is gone.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub follows: Option<Cause>,
    /// What only the person can do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub advice: Option<String>,
    /// Changes that clear it, best first.
    pub remedies: Vec<Remedy>,
    /// How the figure came about.
    pub working: Working,
    /// How far beyond its limit; larger is worse.
    #[serde(skip)]
    excess: f64,
}

/// One family of findings.
struct Rule {
    find: fn(&Case<'_>, &mut Findings),
    mend: fn(&Case<'_>, &Finding) -> Vec<Proposal>,
    /// Proposals for several findings of one code and cause at once.
    mend_all: fn(&Case<'_>, &[&Finding]) -> Vec<Proposal>,
}

/// Of a family that mends one by one.
fn one_by_one(_: &Case<'_>, _: &[&Finding]) -> Vec<Proposal> {
    Vec::new()
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
        debug_assert!(CODES.contains(&draft.code), "{} is not among the codes", draft.code);
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
            follows: None,
            advice: words.advice.map(str::to_owned),
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
    follow::trace(&case, &mut all);
    all
}

/// Findings as a person reads them: one cause, one card.
pub fn cards(build: &Build, findings: &[Finding]) -> Vec<Card> {
    cards::cards(build, findings)
}
