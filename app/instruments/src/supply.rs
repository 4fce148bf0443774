//! The bench supply: volts, a limit, an output, and what it gives.

use crate::bench::{Bench, Done, From, none, only, undefined};
use crate::scpi::{Trouble, Unit, means, nr3};
use orthavis_core::bench::desk::Mode;

/// The most that it can be set to.
const MOST_V: f64 = 60.0;
const MOST_A: f64 = 10.0;

impl Bench {
    pub(crate) fn supply_does(&mut self, unit: &Unit) -> Done {
        const VOLTS: &str = "[SOURce]:VOLTage[:LEVel][:IMMediate][:AMPLitude]";
        const AMPS: &str = "[SOURce]:CURRent[:LEVel][:IMMediate][:AMPLitude]";
        let is = |pattern: &str, query: bool| unit.query == query && means(pattern, &unit.path);
        if is(VOLTS, false) {
            self.supply.volts = only(unit, "volts")?.number("volts", 0.0, MOST_V)?;
        } else if is(AMPS, false) {
            self.supply.limit_a = only(unit, "amps")?.number("amps", 0.001, MOST_A)?;
        } else if is("APPLy", false) {
            let [volts, amps] = unit.parameters.as_slice() else { return Err(Trouble::new(-109, "Missing parameter; give volts and amps")) };
            let (volts, amps) = (volts.number("volts", 0.0, MOST_V)?, amps.number("amps", 0.001, MOST_A)?);
            (self.supply.volts, self.supply.limit_a) = (volts, amps);
        } else if is("OUTPut[:STATe]", false) {
            self.supply.on = only(unit, "ON or OFF")?.switch()?;
        } else {
            return self.supply_says(unit).map(Some);
        }
        Ok(None)
    }

    fn supply_says(&self, unit: &Unit) -> Result<String, Trouble> {
        let is = |pattern: &str| unit.query && means(pattern, &unit.path);
        none(unit)?;
        Ok(if is("[SOURce]:VOLTage[:LEVel][:IMMediate][:AMPLitude]") {
            nr3(self.supply.volts)
        } else if is("[SOURce]:CURRent[:LEVel][:IMMediate][:AMPLitude]") {
            nr3(self.supply.limit_a)
        } else if is("OUTPut[:STATe]") {
            u8::from(self.supply.on).to_string()
        } else if is("OUTPut:MODE") {
            self.gives()?.2.word().to_owned()
        } else if is("MEASure[:SCALar]:VOLTage[:DC]") {
            nr3(self.gives()?.0)
        } else if is("MEASure[:SCALar]:CURRent[:DC]") {
            nr3(self.gives()?.1)
        } else if is("MEASure[:SCALar]:POWer[:DC]") {
            let (volts, amps, _) = self.gives()?;
            nr3(volts * amps)
        } else {
            return Err(undefined(unit));
        })
    }

    /// What it gives: with nothing connected its voltage and no current.
    fn gives(&self) -> Result<(f64, f64, Mode), Trouble> {
        match (self.supply.on, self.from) {
            (false, _) => Ok((0.0, 0.0, Mode::Off)),
            (true, From::Supply) => Ok(self.desk()?.feeding()?),
            (true, _) => Ok((self.supply.volts, 0.0, Mode::Voltage)),
        }
    }

    pub(crate) fn supply_reset(&mut self) {
        self.supply.on = false;
        self.supply.limit_a = 0.5;
    }
}
