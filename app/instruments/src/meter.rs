//! The meter: probes, what it is set to, and what it shows.

use crate::bench::{Bench, Done, none, only, quoted, undefined};
use crate::scpi::{INFINITE, Trouble, Unit, means, nr3};
use orthavis_core::bench::desk::{MILLIAMPS, Meter, Mishap, Place, Shown, clamped, opened_at};
use orthavis_core::bench::meter::Setting;
use orthavis_core::bench::spot::Spot;

/// What it can be set to: the command's node, the setting, and whether the reading is "continuity".
const FUNCTIONS: [(&str, &str, Setting); 5] = [
    ("VOLTage[:DC]", "VOLT", Setting::Volts),
    ("CURRent[:DC]", "CURR", Setting::Amps),
    ("RESistance", "RES", Setting::Ohms),
    ("CONTinuity", "CONT", Setting::Ohms),
    ("DIODe", "DIOD", Setting::Diode),
];

/// The instrument's own troubles, beside those of SCPI.
fn trouble_of(event: Mishap) -> Trouble {
    let code = match event {
        Mishap::FuseBlown => 101,
        Mishap::FuseOpen => 102,
        Mishap::Live => 103,
    };
    Trouble::new(code, event.called())
}

impl Bench {
    /// A command to the meter. What happens on the way is put into `troubles`, and the reading is sent all the same.
    pub(crate) fn meter_does(&mut self, unit: &Unit, troubles: &mut Vec<Trouble>) -> Done {
        let is = |pattern: &str, query: bool| unit.query == query && means(pattern, &unit.path);
        for (index, (node, ..)) in FUNCTIONS.iter().enumerate() {
            if is(&format!("CONFigure:{node}"), false) {
                return self.configure(index, unit).map(|()| None);
            }
            if is(&format!("MEASure[:SCALar]:{node}"), true) {
                self.configure(index, unit)?;
                return self.reading(troubles);
            }
        }
        if is("READ", true) {
            none(unit)?;
            return self.reading(troubles);
        }
        if is("CONFigure", true) {
            none(unit)?;
            let (_, word, _) = FUNCTIONS[self.function()];
            return Ok(Some(quoted(if self.milliamps && word == "CURR" { "CURR 0.4" } else { word })));
        }
        if is("ROUTe:PROBes", false) {
            let [red, black] = unit.parameters.as_slice() else {
                return Err(Trouble::new(-109, "Missing parameter; give two points in quotes, red first"));
            };
            let spot = |text: &str| Spot::parse(&self.on.build, text).map_err(|error| Trouble::new(-224, format!("Illegal parameter value; {error}")));
            (self.probes, self.place) = (Some((spot(red.text()?)?, spot(black.text()?)?)), None);
            return Ok(None);
        }
        if is("ROUTe:PROBes", true) {
            none(unit)?;
            let names = self.probes.map(|(red, black)| [red, black].map(|spot| quoted(&spot.name(&self.on.build))).join(","));
            return Ok(Some(names.unwrap_or_else(|| "\"\",\"\"".to_owned())));
        }
        if is("ROUTe:INSert", false) {
            self.place = Some(opened_at(&self.on.build, only(unit, "a joint in quotes, as \"tail:fuse\"")?.text()?)?);
            return Ok(None);
        }
        if is("ROUTe:CLAMp", false) {
            self.place = Some(clamped(&self.on.build, only(unit, "a feed in quotes, or \"source\"")?.text()?)?);
            return Ok(None);
        }
        if is("ROUTe:OPEN[:ALL]", false) {
            none(unit)?;
            (self.probes, self.place) = (None, None);
            return Ok(None);
        }
        if is("CALibration:ZERO", false) {
            none(unit)?;
            self.meter.zeroed = true;
            return Ok(None);
        }
        if is("SYSTem:FUSE", true) {
            none(unit)?;
            let word = |good: bool| if good { "GOOD" } else { "BLOWN" };
            return Ok(Some(format!("{},{}", word(self.meter.amps_fuse), word(self.meter.milliamps_fuse))));
        }
        if is("SYSTem:FUSE:REPLace", false) {
            none(unit)?;
            (self.meter.amps_fuse, self.meter.milliamps_fuse) = (true, true);
            return Ok(None);
        }
        if is("SYSTem:SERial", true) {
            none(unit)?;
            return Ok(Some(self.meter.serial.0.to_string()));
        }
        if is("SYSTem:SERial", false) {
            let number = only(unit, "a serial number")?.number("a serial number", 0.0, 1e15)?;
            self.meter = Meter::new(number as u64);
            return Ok(None);
        }
        Err(undefined(unit))
    }

    pub(crate) fn meter_reset(&mut self) {
        (self.probes, self.place, self.setting, self.milliamps) = (None, None, Setting::Volts, false);
        self.continuity = false;
        self.meter.zeroed = false;
    }

    fn function(&self) -> usize {
        FUNCTIONS.iter().position(|(_, word, setting)| *setting == self.setting && (*word == "CONT") == self.continuity).unwrap_or(0)
    }

    /// Sets it; amps with a range of up to 0.4 A goes through the milliamps socket.
    fn configure(&mut self, index: usize, unit: &Unit) -> Result<(), Trouble> {
        let (_, word, setting) = FUNCTIONS[index];
        let range = match unit.parameters.as_slice() {
            [] => None,
            [range] if word == "CURR" || word == "VOLT" || word == "RES" => Some(range.number("the range", 0.0, 40e6)?),
            _ => return Err(Trouble::new(-108, "Parameter not allowed; give at most a range")),
        };
        self.setting = setting;
        self.continuity = word == "CONT";
        self.milliamps = word == "CURR" && range.is_some_and(|range| range <= MILLIAMPS.1);
        Ok(())
    }

    fn reading(&mut self, troubles: &mut Vec<Trouble>) -> Done {
        let place = match (self.place, self.probes) {
            (Some(place), _) => place,
            (None, Some((red, black))) => Place::Across(red, black),
            (None, None) => return Err(Trouble::new(-221, "Settings conflict; the probes are nowhere: ROUTe:PROBes \"source+\",\"source-\"")),
        };
        let mut meter = self.meter;
        let shown: Shown = self.desk()?.read(&mut meter, self.setting, self.milliamps, place)?;
        self.meter = meter;
        troubles.extend(shown.event.map(trouble_of));
        Ok(Some(nr3(shown.value.unwrap_or(INFINITE))))
    }
}
