//! What is said after what is known: suspects, and the next check.

use super::words::{in_words, repair};
use super::*;

impl FaultDictionary {
    /// [`Self::diagnose`] among what is held possible as it stands.
    pub(super) fn concluded(&self, known: &Known) -> Result<Diagnosis, BenchError> {
        let mut shares = self.shares(known)?;
        let unexplained = self.unexplained(known, &shares)?;
        if unexplained.is_some() {
            // What does not fit is not the whole truth, however much better it is than the rest.
            shares.iter_mut().for_each(|share| *share *= MISFIT);
        }
        let order = self.by_share(&shares);
        let with_ohms = self.with_ohms(known, &shares);
        // Those that look alike are one suspect under the likeliest of them.
        let mut groups: Vec<Vec<usize>> = Vec::new();
        for index in order.into_iter().take_while(|index| shares[*index] > 1e-4).take(120) {
            match groups.iter_mut().find(|group| self.alike(group[0], index, with_ohms && shares[index] > LIVES)) {
                Some(group) => group.push(index),
                None => groups.push(vec![index]),
            }
        }
        let share = |group: &Vec<usize>| group.iter().map(|index| shares[*index]).sum::<f64>();
        groups.sort_by(|a, b| share(b).total_cmp(&share(a)));
        let found = groups.first().is_some_and(|group| share(group) >= SURE);
        let next = if found { None } else { self.next(known, &shares, &groups) };
        // The same place at another size is no other suspect.
        let others = |group: &[usize]| {
            let (first, rest) = (group[0], group[1..].to_vec());
            rest.into_iter().filter(move |index| !sizes::is_one_place(&self.hypotheses[first], &self.hypotheses[*index])).take(12)
        };
        let suspects = groups
            .iter()
            .take(8)
            .map(|group| {
                let faults = &self.hypotheses[group[0]].faults;
                let repairs: Vec<&str> = faults.iter().map(repair).collect();
                Suspect {
                    fault: self.name(group[0]),
                    words: self.in_words(group[0]),
                    share: share(group),
                    like: others(group).map(|index| self.name(index)).collect(),
                    like_words: others(group).map(|index| self.in_words(index)).collect(),
                    repair: if faults.is_empty() { "Nothing to mend: look again what was seen.".to_owned() } else { repairs.join(" Then: ") },
                }
            })
            .collect();
        Ok(Diagnosis { first: is_hot(known).then_some(HOT_FIRST), unexplained, suspects, next, found, hypotheses: self.hypotheses.len() })
    }

    /// Where the likeliest of all is far outside the band of a reading, in words.
    fn unexplained(&self, known: &Known, shares: &[f64]) -> Result<Option<String>, BenchError> {
        let Some(best) = self.by_share(shares).first().copied() else { return Ok(None) };
        for ((candidate, read), (setting, probes, _)) in on_checks(self, known)?.iter().zip(&known.read) {
            let off = self.read(&self.hypotheses[best], candidate).map_or(f64::INFINITY, |value| (read - value).abs() / candidate.spread(value));
            if off > OUTSIDE {
                let places = probes.words(&self.build);
                return Ok(Some(format!(
                    "Nothing on the list explains what was read as {} at {places}: take that reading once more. If it stays, there may be two faults, or one that is not on the list.",
                    setting.word()
                )));
            }
        }
        Ok(None)
    }

    fn in_words(&self, index: usize) -> String {
        let words: Vec<String> = self.hypotheses[index].faults.iter().map(|fault| in_words(&self.build, fault)).collect();
        if words.is_empty() { "nothing is wrong".to_owned() } else { words.join(", and ") }
    }

    fn name(&self, index: usize) -> String {
        let names: Vec<String> = self.hypotheses[index].faults.iter().map(|fault| fault.name(&self.build)).collect();
        if names.is_empty() { "none".to_owned() } else { names.join(" + ") }
    }

    /// Whether two readings are of the same places, whatever they are called and whichever probe is where.
    fn is_same(&self, one: &Probes, two: &Probes) -> bool {
        match (one, two) {
            (Probes::Between(red, black), Probes::Between(other_red, other_black)) => {
                let [red, black, other_red, other_black] = [red, black, other_red, other_black].map(|spot| spot.terminal(&self.build));
                (red, black) == (other_red, other_black) || (red, black) == (other_black, other_red)
            }
            (one, two) => one == two,
        }
    }

    /// The check from which most is learnt for a second of work.
    fn next(&self, known: &Known, shares: &[f64], groups: &[Vec<usize>]) -> Option<NextCheck> {
        let live: Vec<usize> = (0..shares.len()).filter(|index| shares[*index] > 1e-5).collect();
        let mut best: Option<(f64, NextCheck)> = None;
        let mut offer = |bits: f64, work_s: f64, make: &dyn Fn() -> NextCheck| {
            if bits >= NOTHING_BITS && best.as_ref().is_none_or(|(score, _)| bits / work_s > *score) {
                best = Some((bits / work_s, make()));
            }
        };
        let main = || groups.iter().take(5).map(|group| group[0]);
        let hot = is_hot(known);
        let few: Vec<usize> = live.iter().copied().filter(|index| shares[*index] > LIVES).collect();
        let powered = self.candidates.iter().filter(|_| !hot).map(|candidate| (candidate, &live));
        let unpowered = self.dead.iter().filter(|_| self.with_ohms(known, shares)).map(|candidate| (candidate, &few));
        for (candidate, among) in powered.chain(unpowered) {
            if known.read.iter().any(|(setting, probes, _)| *setting == candidate.setting && self.is_same(probes, &candidate.probes)) {
                continue;
            }
            let values = among.iter().filter_map(|one| Some((self.read(&self.hypotheses[*one], candidate)?, shares[*one])));
            let bits = learnt(values.collect(), |value| candidate.apart(value));
            let work_s = candidate.setting.work_s();
            offer(bits, work_s, &|| NextCheck {
                setting: candidate.setting,
                probes: candidate.probes.names(&self.build),
                places: candidate.probes.places(&self.build),
                how: how(&self.build, candidate.setting, &candidate.probes),
                plan: candidate.off_scale(candidate.plan),
                expected: main().filter_map(|one| Some((self.name(one), candidate.off_scale(self.read(&self.hypotheses[one], candidate)?)))).collect(),
                unit: candidate.setting.unit(),
                bits,
                work_s,
            });
        }
        for (light, part) in self.build.lights.iter().enumerate().filter(|_| !hot) {
            if known.seen.iter().any(|saw| saw.light == Some(light)) {
                continue;
            }
            let mut classes: BTreeMap<(&str, Option<usize>), f64> = BTreeMap::new();
            for one in &live {
                let look = self.hypotheses[*one].looks[light];
                let symptom = look.symptom();
                *classes.entry((symptom.word(), look.dark_from.filter(|_| symptom == Symptom::Part))).or_default() += shares[*one];
            }
            let bits = entropy(&classes.into_values().collect::<Vec<_>>()) * (1.0 - 2.0 * MISREPORT);
            offer(bits, Setting::Look.work_s(), &|| NextCheck {
                setting: Setting::Look,
                probes: vec![part.id.clone()],
                places: vec![part.id.clone()],
                how: format!("Look at {}: is it fine, dim, dark, or dark from some point on?", part.id),
                plan: Some(1.0),
                expected: main().map(|one| (self.name(one), Some(self.hypotheses[one].looks[light].share))).collect(),
                unit: "1",
                bits,
                work_s: Setting::Look.work_s(),
            });
        }
        best.map(|(_, next)| next)
    }
}

/// What comes before any check of a hot wire.
const HOT_FIRST: &str =
    "Battery off and disconnected, now. Touch nothing until it is cold; smoke or a swelling cell: leave, and call for help. What follows needs no power.";

fn entropy(shares: &[f64]) -> f64 {
    let sum: f64 = shares.iter().sum();
    shares.iter().filter(|share| **share > 0.0).map(|share| -(share / sum) * (share / sum).log2()).sum()
}

/// What a reading is expected to tell, bits: the entropy of the clusters into which the simulated values fall.
fn learnt(mut values: Vec<(f64, f64)>, apart: impl Fn(f64) -> f64) -> f64 {
    values.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut clusters: Vec<(f64, f64)> = Vec::new();
    let mut before = f64::NEG_INFINITY;
    for (value, share) in values {
        let gap = apart(value);
        match clusters.last_mut() {
            // A cluster is no longer than three times what parts it from the next.
            Some((first, sum)) if value - before < gap && value - *first < 3.0 * gap => *sum += share,
            _ => clusters.push((value, share)),
        }
        before = value;
    }
    entropy(&clusters.iter().map(|(_, share)| *share).collect::<Vec<_>>())
}
