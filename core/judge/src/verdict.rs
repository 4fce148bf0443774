//! The verdict: safe to build or not, and what each scene costs the battery.

use crate::findings::{Finding, Severity};
use orthavis_model::document::Build;
use orthavis_model::working::{Working, quantity};
use orthavis_physics::endurance::{Ends, Endurance};
use serde::Serialize;

/// The answer at a glance.
#[derive(Clone, Debug, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Verdict {
    /// Nothing found that forbids building it. Never a certificate.
    pub safe: bool,
    /// In a few words.
    pub headline: String,
    /// Findings that forbid building it.
    pub stops: usize,
    /// Findings to mend.
    pub fixes: usize,
    /// Findings good to know.
    pub notes: usize,
    /// By scene, in document order; empty for a rail.
    pub costs: Vec<SceneCost>,
}

/// What a scene costs the battery.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SceneCost {
    /// Scene id.
    pub scene: String,
    /// Light from full, h; `None` where nothing is drawn.
    pub hours: Option<f64>,
    /// What comes first.
    pub ends: Ends,
    /// Minutes of this scene in an outing.
    pub minutes: Option<f64>,
    /// Share of the usable charge that an outing takes, 0 to 1.
    pub share: Option<f64>,
    /// How the hours came about.
    pub working: Working,
}

/// Sums up what was found.
pub fn verdict(build: &Build, findings: &[Finding], endurance: &[Endurance]) -> Verdict {
    let count = |severity| findings.iter().filter(|f| f.severity == severity).count();
    let (stops, fixes, notes) = (count(Severity::Stop), count(Severity::Fix), count(Severity::Note));
    let headline = if stops > 0 {
        "Not safe to build yet"
    } else if build.lights.is_empty() {
        "Add a light to see if it is safe"
    } else if fixes > 0 {
        "Lights up, but fix these first"
    } else {
        "No problems found"
    };
    let costs = endurance.iter().map(|endurance| {
        let minutes = build.usage.minutes.get(&endurance.scene).copied();
        let share = endurance.hours.zip(minutes).filter(|(hours, _)| *hours > 0.0).map(|(hours, minutes)| minutes / 60.0 / hours);
        let mean_a = endurance.hours.zip(endurance.ah).filter(|(hours, _)| *hours > 0.0).map_or(0.0, |(hours, ah)| ah / hours);
        let (usable, capacity_ah) = match &build.source {
            orthavis_model::document::Source::Battery(battery) => (battery.usable(), battery.capacity_ah),
            orthavis_model::document::Source::Rail(_) | orthavis_model::document::Source::Track(_) => (1.0, 0.0),
        };
        let working = Working {
            words: "The usable charge over the mean current, followed from full to reserve as the voltage falls; fast discharge counts for more (Peukert)."
                .into(),
            formula: "t = ∫ C / (I(soc)·p) d soc".into(),
            given: vec![
                quantity("C", "capacity", capacity_ah, "Ah"),
                quantity("u", "usable share", usable, "1"),
                quantity("I", "mean current, standing loads included", mean_a, "A"),
                quantity("Q", "drawn until the end", endurance.ah.unwrap_or(0.0), "Ah"),
            ],
            result: quantity("t", "time of light", endurance.hours.unwrap_or(0.0), "h"),
            source: "Discharge simulation over the solved network; Peukert's law".into(),
        };
        SceneCost { scene: endurance.scene.clone(), hours: endurance.hours, ends: endurance.ends, minutes, share, working }
    });
    Verdict { safe: stops == 0 && !build.lights.is_empty(), headline: headline.into(), stops, fixes, notes, costs: costs.collect() }
}
