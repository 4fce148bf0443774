//! Readings of a build that is switched off, and of the list of checks.

use super::*;

/// The checks with the power off: along each conductor, and between the two at its end; LEDs where a meter can light them.
pub(super) fn dead_candidates(build: &Build, sound: &Rig<'_>) -> Vec<Candidate> {
    let mut all = Vec::new();
    let mut add = |setting: Setting, red: Spot, black: Spot| {
        let probes = Probes::Between(red, black);
        let mut candidate = Candidate { setting, probes, reads: Reads::Dead(all.len()), plan: 0.0, sigma: 0.0, scale: 0.0 };
        candidate.scale = candidate.on_scale(None).unwrap_or(0.0);
        candidate.plan = dead_value(sound, &candidate);
        all.push(candidate);
    };
    for (index, feed) in build.feeds().iter().enumerate() {
        add(Setting::Ohms, Spot::From(index, Side::Plus), Spot::To(index, Side::Plus));
        add(Setting::Ohms, Spot::From(index, Side::Minus), Spot::To(index, Side::Minus));
        add(Setting::Ohms, Spot::To(index, Side::Plus), Spot::To(index, Side::Minus));
        if matches!(feed.consumer, Consumer::Light(light) if matches!(&build.lights[light].load, Load::LedArray(array) if array.series == 1)) {
            add(Setting::Diode, Spot::To(index, Side::Plus), Spot::To(index, Side::Minus));
        }
    }
    all
}

/// Every reading as a check with its value on that check's scale, in order.
///
/// # Errors
/// A reading of a place that is not among the checks.
pub(super) fn on_checks(dictionary: &FaultDictionary, known: &Known) -> Result<Vec<(Candidate, f64)>, BenchError> {
    let mut all = Vec::new();
    for (setting, probes, read) in &known.read {
        let candidate = dictionary.candidate(*setting, probes)?;
        let read = candidate.on_scale(*read).ok_or_else(|| {
            let what = format!("{} {}", setting.word(), probes.names(&dictionary.build).join(" "));
            BenchError::new(&what, "only ohms and the diode test read open", "Type what the meter shows")
        })?;
        all.push((candidate, read));
    }
    Ok(all)
}

/// What a meter reads of a dead circuit, on the check's scale.
pub(super) fn dead_value(rig: &Rig<'_>, candidate: &Candidate) -> f64 {
    let read = unpowered(rig, candidate.setting, &candidate.probes).ok().flatten();
    candidate.on_scale(read).unwrap_or(0.0)
}

impl Candidate {
    /// A reading on the check's scale; `None`: open, where nothing reads open.
    pub(super) fn on_scale(&self, read: Option<f64>) -> Option<f64> {
        match self.setting {
            Setting::Ohms => Some(read.unwrap_or(OPEN_READS.0).clamp(0.0, OPEN_READS.0).ln_1p()),
            Setting::Diode => Some(read.unwrap_or(OPEN_READS.1)),
            _ => read,
        }
    }

    /// A reading from the check's scale; `None`: open.
    pub(super) fn off_scale(&self, value: f64) -> Option<f64> {
        match self.setting {
            Setting::Ohms => Some(value.exp_m1()).filter(|ohm| *ohm < 0.99 * OPEN_READS.0),
            Setting::Diode => Some(value).filter(|volts| *volts < OPEN_READS.1),
            _ => Some(value),
        }
    }

    /// Half-width of what readings of one hypothesis scatter by.
    pub(super) fn spread(&self, value: f64) -> f64 {
        if self.setting == Setting::Ohms {
            let ohm = value.exp_m1();
            let meter = self.setting.error(ohm) / (1.0 + ohm);
            return (DEAD_SPREAD.0 * ohm / (1.0 + ohm)).hypot(meter);
        }
        if self.setting == Setting::Diode {
            return DEAD_SPREAD.1;
        }
        (self.sigma.powi(2) + self.setting.error(value).powi(2)).sqrt().max(1e-6)
    }

    /// Two values closer than this are one.
    pub(super) fn apart(&self, value: f64) -> f64 {
        let least = if self.setting == Setting::Volts { TOLD_V } else { 0.0 };
        (2.5 * self.spread(value)).max(least)
    }

    pub(super) fn likelihood(&self, simulated: f64, read: f64) -> f64 {
        let spread = self.spread(simulated);
        let normal = (-0.5 * ((read - simulated) / spread).powi(2)).exp() / spread;
        // Whatever was read may be a slip, as likely anywhere on the scale.
        (1.0 - SLIP) * normal + SLIP / (self.scale + 10.0 * spread)
    }
}
