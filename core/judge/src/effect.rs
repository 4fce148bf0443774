//! What a change does: a report before against one after.

use crate::findings::{Finding, Severity};
use crate::report::Report;
use serde::Serialize;

/// The difference between two reports of one build.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Effect {
    /// Findings that are gone, or milder.
    pub cleared: Vec<Change>,
    /// Findings that are new, or worse.
    pub added: Vec<Change>,
    /// Hours of light of each scene that the change moves by more than half a percent.
    pub hours: Vec<HoursChange>,
    /// Headline before.
    pub headline_before: String,
    /// Headline after.
    pub headline_after: String,
}

/// A finding that comes or goes.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Change {
    /// Its severity where it is worse.
    pub severity: Severity,
    /// Its title.
    pub title: String,
    /// Its severity where it is milder; `None`: not there at all.
    pub becomes: Option<Severity>,
}

/// Hours of light before and after.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HoursChange {
    /// Scene id.
    pub scene: String,
    /// Before, h.
    pub before: Option<f64>,
    /// After, h.
    pub after: Option<f64>,
}

/// Compares two reports.
pub fn effect(before: &Report, after: &Report) -> Effect {
    let worse_in = |here: &Report, there: &Report| {
        let twin = |f: &Finding| there.findings.iter().find(|g| g.code == f.code && g.subject == f.subject);
        let worse = here.findings.iter().filter(|f| twin(f).is_none_or(|g| g.severity > f.severity));
        worse.map(|f| Change { severity: f.severity, title: f.title.clone(), becomes: twin(f).map(|g| g.severity) }).collect()
    };
    let hours = before.endurance.iter().filter_map(|old| {
        let new = after.endurance.iter().find(|new| new.scene == old.scene)?;
        let same = match (old.hours, new.hours) {
            (Some(a), Some(b)) => (a - b).abs() <= 0.005 * a.max(b),
            (None, None) => true,
            _ => false,
        };
        (!same).then(|| HoursChange { scene: old.scene.clone(), before: old.hours, after: new.hours })
    });
    Effect {
        cleared: worse_in(before, after),
        added: worse_in(after, before),
        hours: hours.collect(),
        headline_before: before.verdict.headline.clone(),
        headline_after: after.verdict.headline.clone(),
    }
}
