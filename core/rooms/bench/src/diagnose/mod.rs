//! What is wrong: every single fault that the build can have is simulated, and what a person sees and reads makes some of
//! them likelier (Bayes' rule). The next check is the one from which most is learnt for a second of work.

use crate::BenchError;
use crate::band::{Likeness, sigma, variations};
use crate::fault::{At, Fault, FaultKind, every};
use crate::joints::{Joint, joints};
use crate::meter::Setting;
use crate::reading::{Probes, unpowered};
use crate::rig::{Rig, Shot};
use crate::seen::{Seen, seen};
use crate::spot::{Spot, taps};
use orthavis_model::document::{Build, Consumer, Load, Scene};
use orthavis_model::practice::{DARK, SEEN_DIM};
use orthavis_model::states::State;
use orthavis_model::words;
use orthavis_physics::network::Side;
use serde::Serialize;
use std::cell::OnceCell;
use std::collections::BTreeMap;
use std::rc::Rc;

mod answer;
mod hypotheses;
mod simulated;
mod sizes;
mod unpowered;
mod words;

pub use hypotheses::hypotheses;
use hypotheses::{candidates, class, invited, is_across, is_built_wrong, spots};
use simulated::{Figures, Hypothesis, Reads};
use unpowered::{dead_candidates, dead_value, on_checks};
use words::how;
pub use words::{in_words, repair};

words! {
    /// What a person sees of a light, or of the build.
    Symptom {
        /// As it should be.
        Fine = "fine",
        /// Dark.
        Dark = "dark",
        /// Dim.
        Dim = "dim",
        /// Dark from a point on, or in part.
        Part = "part" called "part of it is dark",
        /// Comes and goes.
        Flickers = "flickers",
        /// Its far end turns pink or dark.
        Pinkish = "pinkish" called "its far end is pinkish",
        /// A fuse opens.
        Blows = "blows" called "a fuse blows",
        /// A wire gets hot.
        Hot = "hot" called "a wire gets hot",
        /// The wire that was hot is cold again.
        Cold = "cold" called "it is cold again",
        /// The battery is empty too soon.
        Empty = "empty" called "the battery is empty too soon",
    }
}

/// People who report what is not so.
const MISREPORT: f64 = 0.05;
/// A suspect with this share is the one.
pub const SURE: f64 = 0.9;
/// Less than this is not learnt from any check, bits: what is left looks alike.
const NOTHING_BITS: f64 = 0.05;
/// Places along one light at which faults are told apart.
const PLACES: usize = 24;
/// What the best is worth where a reading is this many spreads from it.
const MISFIT: f64 = 0.5;
const OUTSIDE: f64 = 5.0;
/// What a hand meter on its usual range tells apart, V.
const TOLD_V: f64 = 0.005;
/// How much likelier each time makes a fault that was found at the same place before, and how often that counts (representative).
const AGAIN: f64 = 4.0;
const AGAIN_MOST: usize = 3;
/// What is left of the prior of a mistake in building once what hangs on it has worked: somebody may have rewired it since.
const BUILT_RIGHT: f64 = 0.02;
/// Share of readings that are wrong altogether: a slipped probe, a misread figure.
const SLIP: f64 = 0.01;

/// What was seen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Saw {
    /// Of which light, by its place in the document; `None`: of the build.
    pub light: Option<usize>,
    /// What.
    pub symptom: Symptom,
    /// Where it begins, where part of it is dark: the first LED, pixel or segment, counted from 0.
    pub from: Option<usize>,
}

/// How a light looks beside its plan.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Look {
    /// Its light, as a share of the plan's.
    pub share: f64,
    /// The first point that is dark while others shine.
    pub dark_from: Option<usize>,
}

impl Look {
    /// A light as it is beside as it should be, point by point.
    pub fn of(now: &[f64], plan: &[f64]) -> Look {
        let whole: f64 = plan.iter().sum();
        if whole <= 0.0 {
            return Look { share: 1.0, dark_from: None };
        }
        let lit = now.iter().zip(plan).enumerate().filter(|(_, (_, plan))| **plan > 0.0);
        let dark: Vec<usize> = lit.clone().filter(|(_, (now, plan))| **now < DARK * **plan).map(|(index, _)| index).collect();
        let all = lit.count();
        Look { share: now.iter().sum::<f64>() / whole, dark_from: dark.first().copied().filter(|_| dark.len() < all) }
    }

    /// What a person says of it.
    pub fn symptom(self) -> Symptom {
        match self {
            Look { share, .. } if share < DARK => Symptom::Dark,
            Look { dark_from: Some(_), .. } => Symptom::Part,
            Look { share, .. } if share < SEEN_DIM => Symptom::Dim,
            Look { .. } => Symptom::Fine,
        }
    }
}

/// What is known so far.
#[derive(Clone, Debug, Default)]
pub struct Known {
    /// What was seen.
    pub seen: Vec<Saw>,
    /// What was read; `None`: open, which only ohms and the diode test are.
    pub read: Vec<(Setting, Probes, Option<f64>)>,
    /// Names of faults that were found here before; what failed once fails again sooner than what never did.
    pub failed: Vec<String>,
    /// Lights that have worked as they are wired now, by their places in the document: nothing of theirs was built wrong.
    pub worked: Vec<usize>,
}

/// A suspect.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suspect {
    /// The fault, as `KIND@PLACE`; `none`: nothing is wrong.
    pub fault: String,
    /// In words.
    pub words: String,
    /// How likely, 0 to 1, those that look alike included.
    pub share: f64,
    /// Others that no check here can tell from it.
    pub like: Vec<String>,
    /// The same in words.
    pub like_words: Vec<String>,
    /// What mends it.
    pub repair: String,
}

/// The next thing to check.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextCheck {
    /// What the meter is set to.
    pub setting: Setting,
    /// Where it goes: two points, a feed, or a light to look at.
    pub probes: Vec<String>,
    /// The same in words.
    pub places: Vec<String>,
    /// How, in a sentence.
    pub how: String,
    /// What it reads where nothing is wrong; `null`: open.
    pub plan: Option<f64>,
    /// What it reads for each main suspect (of a look: the share of its light); `null`: open.
    pub expected: BTreeMap<String, Option<f64>>,
    /// Unit of both.
    pub unit: &'static str,
    /// What it is expected to tell, bits.
    pub bits: f64,
    /// Time it takes, s.
    pub work_s: f64,
}

/// What is wrong, as far as it is known.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Diagnosis {
    /// What comes before any check, where someone can get hurt.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub first: Option<&'static str>,
    /// Where nothing on the list fits within its bands: which reading, and what to do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unexplained: Option<String>,
    /// Likeliest first.
    pub suspects: Vec<Suspect>,
    /// Absent once one is sure, or nothing more can be told.
    pub next: Option<NextCheck>,
    /// Whether one suspect holds nine tenths.
    pub found: bool,
    /// How many faults were tried.
    pub hypotheses: usize,
}

/// Who asks for pairs holds two faults together for as likely as one.
const SECOND: f64 = 0.5;
/// How many single faults are paired with each other.
const PAIRED: usize = 40;
/// With more suspects times checks than this left, taking the power off to tell them apart is not worth it yet.
const FEW: usize = 450;
/// A suspect with less than this is none to ask the meter about.
const LIVES: f64 = 3e-3;
/// A suspect this much less likely than the first is not brought back by ohms.
const LOST: f64 = 1e-5;
/// What does not conduct reads as this, ohm and V.
const OPEN_READS: (f64, f64) = (1e8, 3.5);
/// What wires and contacts scatter by, as a share of a resistance; what LEDs do in the diode test, V.
const DEAD_SPREAD: (f64, f64) = (0.1, 0.06);

/// One thing that could be checked. Volts and amps stand as they are; ohms as the logarithm of one more than they are, so
/// that a share of each counts alike and what is open is far away.
#[derive(Clone)]
struct Candidate {
    setting: Setting,
    probes: Probes,
    reads: Reads,
    plan: f64,
    sigma: f64,
    /// What a slipped probe may read at most.
    scale: f64,
}

/// A build with everything that can be wrong with it simulated: made once for a scene and a state, asked often.
pub struct FaultDictionary {
    build: Build,
    spots: Vec<Spot>,
    hypotheses: Vec<Rc<Hypothesis>>,
    candidates: Vec<Candidate>,
    /// The checks with the power off.
    dead: Vec<Candidate>,
    /// How a sound build shines, light by light, and what it does.
    light: Vec<Vec<f64>>,
    shot: Shot,
    scene: Scene,
    state: State,
    /// The plan, and what its tolerances make of it.
    plan: Figures,
    varied: Vec<Figures>,
}

impl FaultDictionary {
    /// Simulates everything that can be wrong with a build in a scene at a state.
    ///
    /// # Errors
    /// When the plan has no steady state there.
    pub fn new(build: &Build, scene: &Scene, state: State) -> Result<Self, BenchError> {
        let mut sound = Rig::new(build, &[])?;
        let shot = sound.shot(scene, state).map_err(|error| BenchError::new(&scene.id, error.to_string(), "Mend the plan first"))?;
        let faults = hypotheses(build);
        // A fault takes twice as long as a tolerance: fuses may open, and the network is solved again.
        crate::affordable(build, 2 * faults.len() + crate::band::count(build))?;
        let wanted = candidates(build);
        let copies = variations(build);
        let mut like = Likeness::new(build, &copies)?;
        let varied = like.shots(&mut sound, scene, state, &shot);
        let spots = spots(build);
        let plan = Figures::of(&sound, &shot, &spots);
        let varied: Vec<Figures> = varied.iter().map(|(index, shot)| Figures::of(like.rig(&sound, *index), shot, &spots)).collect();
        let light: Vec<Vec<f64>> = (0..build.lights.len()).map(|light| sound.brightness(&shot, light)).collect();
        let mut counts = BTreeMap::new();
        for fault in &faults {
            *counts.entry(class(fault).0).or_insert(0usize) += 1;
        }
        let (feeds, mut all) = (build.feeds(), vec![(Vec::new(), 0.05)]);
        all.extend(faults.into_iter().map(|fault| {
            let (class, share) = class(&fault);
            let prior = share / counts[&class] as f64 * invited(build, &feeds, &fault);
            (vec![fault], prior)
        }));
        let (scene, build) = (scene.clone(), build.clone());
        let mut dictionary =
            FaultDictionary { build, spots, hypotheses: Vec::new(), candidates: Vec::new(), dead: Vec::new(), light, shot, scene, state, plan, varied };
        dictionary.hypotheses = all.into_iter().map(|(faults, prior)| Rc::new(dictionary.simulated(&sound, faults, prior))).collect();
        dictionary.candidates = wanted.into_iter().map(|(setting, probes)| dictionary.candidate(setting, &probes)).collect::<Result<_, _>>()?;
        dictionary.dead = dead_candidates(&dictionary.build, &sound);
        Ok(dictionary)
    }

    /// What a build with faults shows.
    fn simulated(&self, sound: &Rig<'_>, faults: Vec<Fault>, prior: f64) -> Hypothesis {
        let found = seen(sound, &faults, &self.scene, self.state, Some(&self.shot)).ok();
        let figures = found.as_ref().map(|seen| Figures::of(&seen.rig, &seen.shot, &self.spots));
        let look = |seen: &Seen<'_>| self.light.iter().enumerate().map(|(index, plan)| Look::of(&seen.rig.brightness(&seen.shot, index), plan)).collect();
        let looks: Vec<Look> = found.as_ref().map_or_else(|| vec![Look { share: 0.0, dark_from: None }; self.light.len()], look);
        let pinkish = looks.iter().map(|look| look.dark_from.is_some() || (DARK..0.95).contains(&look.share)).collect();
        let blows = found.as_ref().is_none_or(|seen| !seen.blown.is_empty() || !seen.tripped.is_empty());
        let hot = found.as_ref().is_none_or(|seen| !seen.hot.is_empty());
        let all = found.map_or_else(|| faults.clone(), |seen| seen.faults);
        Hypothesis { faults, all, prior, passing: false, dead: OnceCell::new(), figures, looks, pinkish, blows, hot }
    }

    /// The same dictionary with pairs of faults among what is held possible: those single ones that explain most of what is
    /// known, or some of it best, each with each other.
    ///
    /// # Errors
    /// As [`Self::diagnose`].
    pub fn with_pairs(&self, known: &Known) -> Result<FaultDictionary, BenchError> {
        let mut single: Vec<usize> = Vec::new();
        let alone = |seen: &[Saw], read: &[(Setting, Probes, Option<f64>)]| {
            self.shares(&Known { seen: seen.to_vec(), read: read.to_vec(), failed: known.failed.clone(), worked: known.worked.clone() })
        };
        let mut weights = vec![alone(&known.seen, &known.read)?];
        weights.extend(known.seen.iter().map(|saw| alone(std::slice::from_ref(saw), &[])).collect::<Result<Vec<_>, _>>()?);
        weights.extend(known.read.iter().map(|read| alone(&[], std::slice::from_ref(read))).collect::<Result<Vec<_>, _>>()?);
        let orders: Vec<Vec<usize>> = weights.iter().map(|shares| self.by_share(shares)).collect();
        for rank in 0..self.hypotheses.len() {
            for order in &orders {
                let index = order[rank];
                if single.len() < PAIRED && !single.contains(&index) && !self.hypotheses[index].faults.is_empty() {
                    single.push(index);
                }
            }
        }
        let sound = Rig::new(&self.build, &[])?;
        let mut pairs = Vec::new();
        for (place, one) in single.iter().enumerate() {
            for two in &single[place + 1..] {
                let (one, two) = (&self.hypotheses[*one], &self.hypotheses[*two]);
                // Two faults at one place are one.
                if one.faults[0].at != two.faults[0].at {
                    let faults = vec![one.faults[0].clone(), two.faults[0].clone()];
                    pairs.push(self.simulated(&sound, faults, one.prior * two.prior));
                }
            }
        }
        let single: f64 = self.hypotheses.iter().map(|one| one.prior).sum();
        let weight = SECOND / (1.0 - SECOND) * single / pairs.iter().map(|pair| pair.prior).sum::<f64>().max(f64::MIN_POSITIVE);
        let mut both = self.and(pairs.into_iter().map(|pair| Hypothesis { prior: weight * pair.prior, ..pair }));
        // Between two ends that may both be at fault a reading says little.
        both.candidates.retain(|candidate| !is_across(&candidate.probes));
        Ok(both)
    }

    /// The same dictionary with more that is held possible.
    fn and(&self, more: impl Iterator<Item = Hypothesis>) -> FaultDictionary {
        let FaultDictionary { build, spots, candidates, dead, light, shot, scene, plan, varied, .. } = self;
        FaultDictionary {
            build: build.clone(),
            spots: spots.clone(),
            hypotheses: self.hypotheses.iter().cloned().chain(more.map(Rc::new)).collect(),
            candidates: candidates.clone(),
            dead: dead.clone(),
            light: light.clone(),
            shot: shot.clone(),
            scene: scene.clone(),
            state: self.state,
            plan: plan.clone(),
            varied: varied.clone(),
        }
    }

    /// What a hypothesis reads with the power off.
    fn dead_reading(&self, one: &Hypothesis, check: usize) -> f64 {
        // One that was made for this question alone is asked about what was read, not about all that could be.
        if one.passing && one.dead.get().is_none() {
            let rig = Rig::new(&self.build, &one.all);
            return rig.map_or_else(|_| self.dead[check].on_scale(None).unwrap_or(0.0), |rig| dead_value(&rig, &self.dead[check]));
        }
        let worked_out = || {
            let rig = Rig::new(&self.build, &one.all);
            let read = |candidate: &Candidate| rig.as_ref().ok().map_or_else(|| candidate.on_scale(None).unwrap_or(0.0), |rig| dead_value(rig, candidate));
            self.dead.iter().map(read).collect()
        };
        one.dead.get_or_init(worked_out)[check]
    }

    /// What a check reads of a hypothesis, as its scale has it; `None` where there is no steady state.
    fn read(&self, one: &Hypothesis, candidate: &Candidate) -> Option<f64> {
        match candidate.reads {
            Reads::Dead(check) => Some(self.dead_reading(one, check)),
            reads => Some(one.figures.as_ref()?.read(reads)),
        }
    }

    /// Where a place is among those simulated; along a long light the nearest.
    fn index(&self, spot: Spot) -> Result<usize, BenchError> {
        let same = |known: &Spot| match (*known, spot) {
            (Spot::Rail(light, tap, side), Spot::Rail(wanted, at, of)) if light == wanted && side == of => Some(tap.abs_diff(at)),
            (known, wanted) => (known == wanted).then_some(0),
        };
        let near = self.spots.iter().enumerate().filter_map(|(index, known)| Some((same(known)?, index))).min();
        near.map(|(_, index)| index).ok_or_else(|| {
            let name = spot.name(&self.build);
            BenchError::new(&name, format!("`{name}` is not one of the places looked at"), "Take one of the first rows, or the light's terminals")
        })
    }

    /// How many hypotheses there are, the sound build among them.
    pub fn hypotheses(&self) -> usize {
        self.hypotheses.len()
    }

    /// A check with its plan and the scatter of sound builds.
    fn candidate(&self, setting: Setting, probes: &Probes) -> Result<Candidate, BenchError> {
        let reads = match (setting, probes) {
            (Setting::Volts, Probes::Between(red, black)) => Reads::Between(self.index(*red)?, self.index(*black)?),
            (Setting::Amps | Setting::Clamp, Probes::Feed(feed)) => Reads::Feed(*feed),
            (Setting::Amps | Setting::Clamp, Probes::Source) => Reads::Source,
            (Setting::Ohms | Setting::Diode, Probes::Between(..)) => {
                let known = self.dead.iter().find(|known| known.setting == setting && known.probes == *probes);
                let ask = || {
                    let what = format!("{} {}", setting.word(), probes.names(&self.build).join(" "));
                    let remedy = "With the power off read ohms along a wire, from its supply to its end, or between plus and minus at its end";
                    BenchError::new(&what, "this reading is not among those that are held against the suspects", remedy)
                };
                return known.cloned().ok_or_else(ask);
            }
            _ => {
                let what = format!("{} {}", setting.word(), probes.names(&self.build).join(" "));
                return Err(BenchError::new(&what, "this reading tells nothing here", "Read volts between two points, or amps in a feed, with the power on"));
            }
        };
        let plan = self.plan.read(reads);
        let sigma = sigma(plan, setting, self.varied.iter().map(|figures| figures.read(reads)));
        let scale = if setting == Setting::Volts { self.plan.most_v() } else { self.plan.source_a.abs() }.max(plan.abs());
        Ok(Candidate { setting, probes: probes.clone(), reads, plan, sigma, scale })
    }

    /// Shares of all hypotheses after what is known.
    ///
    /// # Errors
    /// A reading of a place that is not among the checks.
    fn shares(&self, known: &Known) -> Result<Vec<f64>, BenchError> {
        let mut logs: Vec<f64> = self.hypotheses.iter().map(|one| one.prior.ln() + self.lived(one, known).ln()).collect();
        for saw in &known.seen {
            for (log, one) in logs.iter_mut().zip(&self.hypotheses) {
                *log += one.likelihood(saw).ln();
            }
        }
        // Those with the power off last: what they would read of a suspect takes a while to work out.
        let (off, on): (Vec<_>, Vec<_>) = on_checks(self, known)?.into_iter().partition(|(candidate, _)| matches!(candidate.reads, Reads::Dead(_)));
        for (candidate, read) in on.into_iter().chain(off) {
            let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
            for (log, one) in logs.iter_mut().zip(&self.hypotheses) {
                let lost = matches!(candidate.reads, Reads::Dead(_)) && *log < most + LOST.ln();
                let simulated = if lost { None } else { self.read(one, &candidate) };
                *log += simulated.map_or(SLIP, |simulated| candidate.likelihood(simulated, read)).ln();
            }
        }
        let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let raw: Vec<f64> = logs.iter().map(|log| (log - most).exp()).collect();
        let sum: f64 = raw.iter().sum();
        Ok(raw.into_iter().map(|share| share / sum).collect())
    }

    /// What the life of a build so far makes of a prior.
    fn lived(&self, one: &Hypothesis, known: &Known) -> f64 {
        let of = |fault: &Fault| {
            // A weak joint of another size is the same joint.
            let place = |name: &str| name.split('=').next().unwrap_or_default().to_owned();
            let name = place(&fault.name(&self.build));
            let times = known.failed.iter().filter(|before| place(before) == name).count().min(AGAIN_MOST);
            let built_right = is_built_wrong(fault) && self.hang_on(fault).iter().all(|light| known.worked.contains(light));
            AGAIN.powi(times as i32) * if built_right { BUILT_RIGHT } else { 1.0 }
        };
        one.faults.iter().map(of).product()
    }

    /// The lights that would have been wrong with it from the start; all of the build where that is not told apart.
    fn hang_on(&self, fault: &Fault) -> Vec<usize> {
        match fault.at {
            At::Consumer(feed) => match self.build.feeds()[feed].consumer {
                Consumer::Light(light) => vec![light],
                _ => (0..self.build.lights.len()).collect(),
            },
            At::Resistor(light) | At::String(light, _) | At::Led(light, ..) => vec![light],
            _ => (0..self.build.lights.len()).collect(),
        }
    }

    /// Whether it is time to take the power off: at once where a wire is hot, else once few suspects are left.
    fn with_ohms(&self, known: &Known, shares: &[f64]) -> bool {
        is_hot(known) || shares.iter().filter(|share| **share > LIVES).count() * self.dead.len() <= FEW
    }

    /// Whether no check tells two hypotheses apart, or they differ in nothing but a size.
    fn alike(&self, a: usize, b: usize, with_ohms: bool) -> bool {
        let (one, two) = (&self.hypotheses[a], &self.hypotheses[b]);
        if sizes::is_one_place(one, two) {
            return true;
        }
        let looks = one.looks.iter().zip(&two.looks).all(|(x, y)| x.symptom() == y.symptom() && x.dark_from == y.dark_from);
        let (Some(first), Some(second)) = (&one.figures, &two.figures) else { return looks && one.figures.is_none() == two.figures.is_none() };
        let same = |candidate: &Candidate| {
            let (a, b) = (first.read(candidate.reads), second.read(candidate.reads));
            (a - b).abs() < candidate.apart(a)
        };
        let off = |candidate: &Candidate| {
            let (a, b) = (self.read(one, candidate).unwrap_or(0.0), self.read(two, candidate).unwrap_or(0.0));
            (a - b).abs() < candidate.apart(a)
        };
        looks && self.candidates.iter().all(same) && (!with_ohms || self.dead.iter().all(off))
    }

    /// Likeliest first.
    fn by_share(&self, shares: &[f64]) -> Vec<usize> {
        let mut order: Vec<usize> = (0..shares.len()).collect();
        order.sort_by(|a, b| shares[*b].total_cmp(&shares[*a]).then(a.cmp(b)));
        order
    }

    /// What is wrong after what is known, and what to check next.
    ///
    /// # Errors
    /// As [`Self::shares`].
    pub fn diagnose(&self, known: &Known) -> Result<Diagnosis, BenchError> {
        let fitted = self.fitted(known)?;
        if fitted.is_empty() { self.concluded(known) } else { self.and(fitted.into_iter()).concluded(known) }
    }
}

/// Whether a wire is hot and nobody has said since that it is cold: then nothing is asked that needs power.
fn is_hot(known: &Known) -> bool {
    let said = |symptom: Symptom| known.seen.iter().any(|saw| saw.symptom == symptom);
    said(Symptom::Hot) && !said(Symptom::Cold)
}
