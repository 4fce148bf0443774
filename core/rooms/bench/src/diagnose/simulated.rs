//! What a hypothesis shows, simulated beforehand.

use super::*;

/// Every figure that a meter can take of a build as it is.
#[derive(Clone)]
pub(super) struct Figures {
    /// By place, in the order of [`FaultDictionary::spots`].
    pub(super) volts: Vec<f64>,
    /// By feed.
    pub(super) amps: Vec<f64>,
    pub(super) source_a: f64,
}

impl Figures {
    pub(super) fn of(rig: &Rig<'_>, shot: &Shot, spots: &[Spot]) -> Self {
        Figures {
            volts: spots.iter().map(|spot| rig.potential(shot, *spot)).collect(),
            amps: (0..rig.plan().feeds().len()).map(|feed| rig.amps(shot, feed)).collect(),
            source_a: rig.source(shot).1,
        }
    }

    /// The most volts that there are between any two places.
    pub(super) fn most_v(&self) -> f64 {
        let (least, most) = self.volts.iter().fold((0.0f64, 0.0f64), |(least, most), volts| (least.min(*volts), most.max(*volts)));
        most - least
    }

    pub(super) fn read(&self, at: Reads) -> f64 {
        match at {
            Reads::Between(red, black) => self.volts[red] - self.volts[black],
            Reads::Feed(feed) => self.amps[feed],
            Reads::Source => self.source_a,
            Reads::Dead(_) => 0.0,
        }
    }
}

/// Where a meter is put, by places of [`Figures`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Reads {
    Between(usize, usize),
    Feed(usize),
    Source,
    /// With the power off.
    Dead(usize),
}

/// A hypothesis, simulated: without a fault it is the sound build.
#[derive(Clone)]
pub(super) struct Hypothesis {
    pub(super) faults: Vec<Fault>,
    /// Those, and what opened because of them.
    pub(super) all: Vec<Fault>,
    pub(super) prior: f64,
    /// Whether it was made for one question alone.
    pub(super) passing: bool,
    /// With the power off, check by check in the order of [`FaultDictionary::dead`]; worked out when first asked for.
    pub(super) dead: OnceCell<Vec<f64>>,
    /// Absent where there is no steady state.
    pub(super) figures: Option<Figures>,
    /// By light.
    pub(super) looks: Vec<Look>,
    pub(super) pinkish: Vec<bool>,
    pub(super) blows: bool,
    pub(super) hot: bool,
}

impl Hypothesis {
    pub(super) fn likelihood(&self, saw: &Saw) -> f64 {
        let told = |so: bool| if so { 1.0 - MISREPORT } else { MISREPORT };
        let kind = |kinds: &[FaultKind]| self.faults.iter().any(|fault| kinds.contains(&fault.kind));
        match (saw.symptom, saw.light) {
            (Symptom::Blows, _) => told(self.blows),
            (Symptom::Hot, _) => told(self.hot),
            (Symptom::Cold, _) => 1.0,
            (Symptom::Empty, _) => told(kind(&[FaultKind::Tired, FaultKind::Short])),
            // What comes and goes is something that barely touches.
            (Symptom::Flickers, _) => told(kind(&[FaultKind::WeakJoint, FaultKind::Open, FaultKind::StuckOpen])),
            (Symptom::Pinkish, Some(light)) => told(self.pinkish.get(light).copied().unwrap_or(false)),
            (symptom, Some(light)) => {
                let look = self.looks.get(light).copied().unwrap_or(Look { share: 1.0, dark_from: None });
                told(look.symptom() == symptom && saw.from.is_none_or(|from| look.dark_from == Some(from)))
            }
            (_, None) => 1.0,
        }
    }
}
