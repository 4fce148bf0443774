//! The charger: set to a battery, switched on, and time let pass.

use crate::bench::{Bench, Done, none, only, undefined};
use crate::scpi::{Trouble, Unit, means, nr3};
use orthavis_core::bench::charge::{ChargeError, Charger, Phase};
use orthavis_core::states::State;
use std::time::Instant;

/// Fastest that its time runs.
const MOST_SPEED: f64 = 100_000.0;
const MOST_A: f64 = 200.0;

impl std::convert::From<ChargeError> for Trouble {
    fn from(error: ChargeError) -> Self {
        let code = match error {
            ChargeError::NotRechargeable => 201,
            ChargeError::Cells { .. } => 202,
            ChargeError::TooLong => 203,
        };
        Trouble::new(code, error.to_string())
    }
}

impl Bench {
    /// The charger as it is by now; time has run on since it was last looked at.
    fn charger(&mut self) -> Result<&mut Charger, Trouble> {
        let passed = self.looked.elapsed().as_secs_f64() * self.speed;
        self.looked = Instant::now();
        let battery = self.battery()?.clone();
        let soc = match self.on.state {
            State::Reserve | State::UnderWay => battery.reserve_soc(),
            State::Half => 0.5,
            State::Full | State::Charging | State::Rail | State::Track | State::Gap => 1.0,
        };
        let charger = self.charger.get_or_insert_with(|| Charger::of(&battery, soc));
        charger.advance(&battery, passed)?;
        Ok(charger)
    }

    pub(crate) fn charger_does(&mut self, unit: &Unit) -> Done {
        let is = |pattern: &str, query: bool| unit.query == query && means(pattern, &unit.path);
        if is("TIMe:SPEed", false) {
            let speed = only(unit, "how many times as fast as the clock")?.number("speed", 0.0, MOST_SPEED)?;
            self.charger()?;
            self.speed = speed;
            return Ok(None);
        }
        if is("TIMe:SPEed", true) {
            none(unit)?;
            return Ok(Some(nr3(self.speed)));
        }
        if unit.query {
            return self.charger_says(unit);
        }
        let battery = self.battery()?.clone();
        let charger = self.charger()?;
        let off = |charger: &Charger| match charger.phase {
            Phase::Current | Phase::Voltage => Err(Trouble::new(-221, "Settings conflict; it is charging: OUTPut OFF first")),
            _ => Ok(()),
        };
        if is("CELLs", false) {
            off(charger)?;
            charger.cells = only(unit, "cells in series")?.number("cells", 1.0, 400.0)?.round() as u32;
        } else if is("CURRent", false) {
            charger.current_a = only(unit, "amps")?.number("amps", 0.01, MOST_A)?;
        } else if is("CURRent:CUToff", false) {
            charger.cutoff_a = only(unit, "amps")?.number("amps", 0.001, MOST_A)?;
        } else if is("CHARge", false) {
            off(charger)?;
            charger.soc = only(unit, "a share from 0 to 1")?.number("charge", 0.0, 1.0)?;
        } else if is("OUTPut[:STATe]", false) {
            if only(unit, "ON or OFF")?.switch()? {
                charger.start(&battery)?;
            } else {
                charger.phase = Phase::Off;
            }
        } else if is("TIMe:ADVance", false) {
            charger.advance(&battery, only(unit, "seconds")?.number("seconds", 0.0, 1e6)?)?;
        } else {
            return Err(undefined(unit));
        }
        Ok(None)
    }

    fn charger_says(&mut self, unit: &Unit) -> Done {
        let is = |pattern: &str| means(pattern, &unit.path);
        none(unit)?;
        let battery = self.battery()?.clone();
        let charger = self.charger()?;
        let (amps, volts) = charger.now(&battery);
        Ok(Some(if is("CELLs") {
            charger.cells.to_string()
        } else if is("CURRent") {
            nr3(charger.current_a)
        } else if is("CURRent:CUToff") {
            nr3(charger.cutoff_a)
        } else if is("CHARge") {
            nr3(charger.soc)
        } else if is("CHARge:GIVen") {
            nr3(charger.given_ah)
        } else if is("OUTPut[:STATe]") {
            u8::from(matches!(charger.phase, Phase::Current | Phase::Voltage)).to_string()
        } else if is("PHASe") {
            charger.phase.word().to_owned()
        } else if is("TIMe") {
            nr3(charger.time_s)
        } else if is("MEASure[:SCALar]:VOLTage[:DC]") {
            nr3(volts)
        } else if is("MEASure[:SCALar]:CURRent[:DC]") {
            nr3(amps)
        } else {
            return Err(undefined(unit));
        }))
    }

    pub(crate) fn charger_reset(&mut self) {
        self.charger = None;
        self.speed = 1.0;
    }
}
