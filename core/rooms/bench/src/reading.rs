//! A reading: where the probes are, what the meter is set to, what it shows.

use crate::BenchError;
use crate::meter::Setting;
use crate::rig::{Rig, Shot};
use crate::spot::{Spot, feed_index};
use orthavis_model::document::Build;

/// Where a meter is put.
#[derive(Clone, Debug, PartialEq)]
pub enum Probes {
    /// Red and black.
    Between(Spot, Spot),
    /// In, or around, the plus conductor of a feed, by its place in [`Build::feeds`].
    Feed(usize),
    /// In, or around, what leaves the source.
    Source,
}

impl Probes {
    /// As people and commands write it.
    pub fn names(&self, build: &Build) -> Vec<String> {
        match self {
            Probes::Between(red, black) => vec![red.name(build), black.name(build)],
            Probes::Feed(index) => vec![build.feeds()[*index].id.clone()],
            Probes::Source => vec!["source".to_owned()],
        }
    }

    /// Each in words, without its name.
    pub fn places(&self, build: &Build) -> Vec<String> {
        match self {
            Probes::Between(red, black) => vec![red.words(build), black.words(build)],
            Probes::Feed(index) => vec![format!("the plus wire of {}", build.feeds()[*index].id)],
            Probes::Source => vec![format!("the wire that leaves the {}", build.source.called())],
        }
    }

    /// In words, the names behind them.
    pub fn words(&self, build: &Build) -> String {
        let names = self.names(build).join(" and ");
        match self {
            Probes::Between(red, black) => format!("{} and {} ({names})", red.words(build), black.words(build)),
            Probes::Feed(_) => format!("the plus wire of {names}"),
            Probes::Source => format!("the wire that leaves the {}", build.source.called()),
        }
    }

    /// From names.
    ///
    /// # Errors
    /// When there is no such place.
    pub fn parse(build: &Build, names: &[&str]) -> Result<Self, BenchError> {
        match names {
            ["source"] => Ok(Probes::Source),
            [feed] => feed_index(build, feed)
                .map(Probes::Feed)
                .ok_or_else(|| BenchError::new(feed, format!("there is no feed `{feed}`"), "Name a feed for a current, two points for anything else")),
            [red, black] => Ok(Probes::Between(Spot::parse(build, red)?, Spot::parse(build, black)?)),
            other => Err(BenchError::new(&other.join(" "), "a meter has two probes", "Name two points, or a feed for a current")),
        }
    }
}

/// What a meter without error shows; of ohms and the diode test with the power off see [`unpowered`].
pub fn value(rig: &Rig<'_>, shot: &Shot, setting: Setting, probes: &Probes) -> f64 {
    match (setting, probes) {
        (Setting::Volts, Probes::Between(red, black)) => rig.potential(shot, *red) - rig.potential(shot, *black),
        (_, Probes::Feed(feed)) => rig.amps(shot, *feed),
        (_, Probes::Source) => rig.source(shot).1,
        (setting, Probes::Between(..)) => unpowered(rig, setting, probes).ok().flatten().unwrap_or(f64::INFINITY),
    }
}

/// Test current of the diode range, A, and the most that it shows, V.
pub const DIODE: (f64, f64) = (1e-3, 3.0);

/// Ohms, or volts of the diode test, with the power off; `None`: open.
///
/// # Errors
/// A place that has no terminal to clip to.
pub fn unpowered(rig: &Rig<'_>, setting: Setting, probes: &Probes) -> Result<Option<f64>, BenchError> {
    let Probes::Between(red, black) = probes else { return Ok(None) };
    match setting {
        Setting::Diode => rig.driven_volts(*red, *black, DIODE.0, DIODE.1),
        _ => rig.ohms(*red, *black),
    }
}
