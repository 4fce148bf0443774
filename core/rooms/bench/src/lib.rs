//! The bench: a build opened up so that a probe can touch any point and a fault can sit anywhere.
//!
//! [`rig::Rig`] is the build's own network with faults in it; everything else asks it. Nothing here has figures of
//! its own but those of instruments and of fuses opening.

use orthavis_model::budget;
use orthavis_model::document::Build;

pub mod band;
pub mod charge;
pub mod correct;
pub mod desk;
pub mod diagnose;
pub mod expect;
pub mod fault;
pub mod joints;
pub mod lessons;
pub mod meter;
pub mod pinch;
pub mod practice;
pub mod reading;
pub mod rig;
pub mod seen;
pub mod spot;

/// Networks that are made and solved for one question, times the size of each: some two seconds and 200 MB.
const MOST: u64 = 1_200_000;

/// Refuses a question for which so many networks of this build would be made, before any is.
pub(crate) fn affordable(build: &Build, networks: usize) -> Result<(), BenchError> {
    let taps: usize = build.lights.iter().map(|light| spot::taps(&light.load).map_or(1, |(_, count)| count)).sum();
    let feeds = build.junctions.len() + build.converters.len() + build.circuits.len() + build.lights.iter().map(|light| light.feeds.len()).sum::<usize>();
    let work = (networks as u64).saturating_mul((10 + taps + 6 * feeds) as u64);
    if work > MOST || budget::spend(work).is_err() {
        let problem = format!("{} lights with {taps} points of light are too many to be tried one fault and one tolerance at a time", build.lights.len());
        return Err(BenchError::new("build", problem, "Make the part that you look at a build of its own"));
    }
    Ok(())
}

/// What was asked of the bench and cannot be: what, and what to do instead.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{problem}. {remedy}")]
pub struct BenchError {
    /// What was named, as it was written.
    pub what: String,
    /// What is wrong with it.
    pub problem: String,
    /// What to do.
    pub remedy: String,
}

impl From<orthavis_physics::network::SolveError> for BenchError {
    fn from(error: orthavis_physics::network::SolveError) -> Self {
        BenchError::new("build", format!("there is no steady state: {error}"), "Look at another scene or state, or let fuses open first")
    }
}

impl BenchError {
    pub(crate) fn new(what: &str, problem: impl Into<String>, remedy: impl Into<String>) -> Self {
        BenchError { what: what.to_owned(), problem: problem.into(), remedy: remedy.into() }
    }
}

/// As in `fuse, switch or plug`.
pub(crate) fn or_list(words: &[String]) -> String {
    match words {
        [] => "nothing".to_owned(),
        [one] => one.clone(),
        [rest @ .., last] => format!("{} or {last}", rest.join(", ")),
    }
}
