//! What every rule works with: the case being judged, a finding, and how both are filed.

pub(super) use super::checks::Check;
pub(super) use crate::cautions::Step;
use orthavis_model::budget;
pub(super) use orthavis_model::document::{Build, Light, Load};
pub(super) use orthavis_model::practice::{above, within};
use orthavis_model::states::Lit;
pub(super) use orthavis_model::states::State;
use orthavis_model::topology::Topology;
use orthavis_model::working::filled;
pub(super) use orthavis_model::working::{Quantity, Working, quantity};
pub(super) use orthavis_physics::network::Solution;
pub(super) use orthavis_physics::points::{PointError, PointReport};
pub(super) use serde::Serialize;
use std::borrow::Cow;
use std::collections::BTreeMap;

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
    pub(super) fn most_remedies(self) -> usize {
        match self {
            Severity::Stop | Severity::Fix => 2,
            Severity::Note => 1,
        }
    }
}

/// One thing wrong, at its worst point.
#[derive(Clone, Debug, PartialEq, Serialize)]
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
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub why: Cow<'static, str>,
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
    pub(super) excess: f64,
}

/// One family of findings.
pub(super) struct Family {
    pub(super) find: fn(&Case<'_>, &mut Findings),
    pub(super) mend: fn(&Case<'_>, &Finding) -> Vec<Proposal>,
    /// Proposals for several findings of one code and cause at once.
    pub(super) mend_all: fn(&Case<'_>, &[&Finding]) -> Vec<Proposal>,
}

/// Of a family that mends one by one.
pub(super) fn one_by_one(_: &Case<'_>, _: &[&Finding]) -> Vec<Proposal> {
    Vec::new()
}

/// A solved build being judged.
pub(super) struct Case<'a> {
    pub(super) build: &'a Build,
    pub(super) graph: Topology<'a>,
    pub(super) solved: &'a [PointReport],
    /// Scenes and states without a steady state.
    pub(super) collapsed: &'a [PointError],
}

impl<'a> Case<'a> {
    /// Every point, of a show at every moment that was solved.
    pub(super) fn points(&self) -> impl Iterator<Item = &'a PointReport> + use<'a> {
        self.solved.iter().flat_map(|point| std::iter::once(point).chain(&point.beside))
    }

    /// Every point, and each with all that is dimmed by pulses on: what wires, fuses, switches and supplies carry at the most.
    pub(super) fn peaks(&self) -> impl Iterator<Item = &'a PointReport> + use<'a> {
        self.points().flat_map(|point| std::iter::once(point).chain(point.pulse.as_deref()))
    }

    /// How a light is lit at a point.
    pub(super) fn lit(&self, point: &PointReport, light: &str) -> Lit {
        let index = self.build.lights.iter().position(|known| known.id == light);
        index.and_then(|index| point.lit.get(index)).cloned().unwrap_or(Lit::OFF)
    }

    /// The points at which a scene asks light of a light.
    pub(super) fn asked<'p>(&'p self, light: &'p Light) -> impl Iterator<Item = &'a PointReport> + use<'a, 'p> {
        self.points().filter(|point| light.is_asked(&self.lit(point, &light.id)))
    }

    /// Largest current in a feed's plus conductor at any point, by size, A, and where.
    pub(super) fn worst_current(&self, feed: &str) -> Option<(f64, &'a PointReport)> {
        self.worst_peak(|point| Some(point.feeds.get(feed)?.current_a.abs()))
    }

    /// The largest of a figure over all points and pulses, and where.
    pub(super) fn worst_peak(&self, figure: impl Fn(&PointReport) -> Option<f64>) -> Option<(f64, &'a PointReport)> {
        self.peaks().filter_map(|point| Some((figure(point)?, point))).max_by(|a, b| a.0.total_cmp(&b.0))
    }

    /// The largest of a figure over all points, and where.
    pub(super) fn worst(&self, figure: impl Fn(&PointReport) -> Option<f64>) -> Option<(f64, &'a PointReport)> {
        self.points().filter_map(|point| Some((figure(point)?, point))).max_by(|a, b| a.0.total_cmp(&b.0))
    }
}

/// A finding before it is filed.
pub(super) struct Draft<'a> {
    pub(super) check: &'static Check,
    pub(super) severity: Severity,
    pub(super) subject: &'a str,
    pub(super) point: Option<&'a PointReport>,
    pub(super) value: f64,
    pub(super) limit: f64,
    /// Larger is worse; compared among drafts of one code and subject.
    pub(super) excess: f64,
}

/// The words that go with a code.
pub(super) struct Words {
    pub(super) title: String,
    pub(super) message: String,
    pub(super) advice: Option<&'static str>,
    pub(super) given: Vec<Quantity>,
}

/// Findings so far: one per code and subject, the worst.
#[derive(Default)]
pub(super) struct Findings {
    pub(super) found: BTreeMap<(&'static str, String), Finding>,
    /// Without words: for judging a proposal that nobody reads.
    pub(super) brief: bool,
}

impl Words {
    pub(super) const NONE: Words = Words { title: String::new(), message: String::new(), advice: None, given: Vec::new() };
}

impl Findings {
    pub(super) fn add(&mut self, draft: Draft<'_>, words: impl FnOnce() -> Words) {
        let check = draft.check;
        let key = (check.code, draft.subject.to_owned());
        if self.found.get(&key).is_some_and(|known| (known.severity, -known.excess) <= (draft.severity, -draft.excess)) {
            return;
        }
        let words = if self.brief { Words::NONE } else { words() };
        let mut given = words.given;
        given.push(quantity("limit", "allowed", draft.limit, check.unit));
        let finding = Finding {
            code: check.code,
            severity: draft.severity,
            subject: draft.subject.to_owned(),
            state: draft.point.map(|point| point.state),
            scene: draft.point.map(|point| point.scene.clone()),
            value: draft.value,
            limit: draft.limit,
            unit: check.unit,
            title: words.title,
            message: words.message,
            why: filled(check.why, check.figures),
            follows: None,
            advice: words.advice.map(str::to_owned),
            remedies: Vec::new(),
            working: Working {
                words: filled(check.rule, check.figures).into_owned(),
                formula: filled(check.formula, check.figures),
                given,
                result: quantity("value", "found", draft.value, check.unit),
                source: filled(check.source, check.figures),
            },
            excess: draft.excess,
        };
        self.found.insert(key, finding);
    }
}

/// ` while charging, in scene "Riding"`: where a finding is at its worst.
pub(super) fn moment(build: &Build, point: &PointReport) -> String {
    let name = build.scenes.iter().find(|scene| scene.id == point.scene).map_or(point.scene.as_str(), |scene| &scene.name);
    format!("{}, in scene \u{201c}{name}\u{201d}", point.state.phrase())
}

/// The fault that a finding follows from.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Cause {
    /// Its code.
    pub code: &'static str,
    /// Its subject.
    pub subject: String,
}

/// A change to the document that clears a finding.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Remedy {
    /// What it does, as on a button.
    pub title: String,
    /// RFC 6902 operations on the document.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
}

/// A build edited so that a finding should be gone.
#[derive(Clone)]
pub struct Proposal {
    /// What it does, as on a button.
    pub title: String,
    /// The build with it done.
    pub build: Build,
}

/// A proposal made by editing a copy; `edit` says whether it could.
pub(super) fn propose(build: &Build, title: impl Into<String>, edit: impl FnOnce(&mut Build) -> Option<()>) -> Option<Proposal> {
    budget::spend(20 * parts(build)).ok()?;
    let mut copy = build.clone();
    edit(&mut copy)?;
    Some(Proposal { title: title.into(), build: copy })
}

/// Parts of a build: what copying it goes with.
pub fn parts(build: &Build) -> u64 {
    (build.junctions.len() + 2 * build.converters.len() + 2 * build.lights.len() + build.scenes.iter().map(|scene| scene.lights.len()).sum::<usize>()) as u64
}
