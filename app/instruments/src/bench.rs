//! What stands on the bench, and the commands that every instrument knows.

use crate::scpi::{Parameter, Trouble, Unit, means};
use orthavis_core::bench::BenchError;
use orthavis_core::bench::charge::Charger;
use orthavis_core::bench::desk::{Desk, Fed, Meter, Place};
use orthavis_core::bench::fault::Fault;
use orthavis_core::bench::meter::Setting;
use orthavis_core::bench::spot::Spot;
use orthavis_core::document::{Battery, Build, Scene, Source};
use orthavis_core::states::State;
use std::sync::Arc;
use std::time::Instant;

/// What is connected.
#[derive(Clone, Debug)]
pub struct OnBench {
    /// The build.
    pub build: Arc<Build>,
    /// Id of the scene that is on.
    pub scene: String,
    /// How full its battery is.
    pub state: State,
    /// Faults in it.
    pub faults: Vec<Fault>,
}

impl OnBench {
    /// A build at its first scene and fullest state.
    pub fn of(build: Arc<Build>) -> Self {
        let scene = build.scenes.first().map_or_else(String::new, |scene| scene.id.clone());
        let state = build.states()[0];
        OnBench { build, scene, state, faults: Vec::new() }
    }
}

/// Which source feeds the build.
#[derive(Clone, Copy, PartialEq)]
pub(crate) enum From {
    Off,
    Own,
    Supply,
}

/// What a bench supply is set to.
#[derive(Clone, Copy)]
pub(crate) struct Supply {
    pub volts: f64,
    pub limit_a: f64,
    pub on: bool,
}

/// The bench, with all that stands on it.
pub struct Bench {
    pub(crate) on: OnBench,
    pub(crate) from: From,
    pub(crate) meter: Meter,
    pub(crate) probes: Option<(Spot, Spot)>,
    /// In line, or around a wire.
    pub(crate) place: Option<Place>,
    pub(crate) setting: Setting,
    pub(crate) milliamps: bool,
    /// Ohms that beep.
    pub(crate) continuity: bool,
    pub(crate) supply: Supply,
    pub(crate) charger: Option<Charger>,
    pub(crate) speed: f64,
    pub(crate) looked: Instant,
}

/// What an instrument answers; `None`: nothing was asked.
pub(crate) type Done = Result<Option<String>, Trouble>;

impl std::convert::From<BenchError> for Trouble {
    fn from(error: BenchError) -> Self {
        Trouble::new(-221, format!("Settings conflict; {error}."))
    }
}

/// The one parameter of a command.
pub(crate) fn only<'a>(unit: &'a Unit, what: &str) -> Result<&'a Parameter, Trouble> {
    match unit.parameters.as_slice() {
        [one] => Ok(one),
        [] => Err(Trouble::new(-109, format!("Missing parameter; give {what}"))),
        _ => Err(Trouble::new(-108, format!("Parameter not allowed; give {what} alone"))),
    }
}

/// A command without parameters.
pub(crate) fn none(unit: &Unit) -> Result<(), Trouble> {
    if unit.parameters.is_empty() { Ok(()) } else { Err(Trouble::new(-108, format!("Parameter not allowed; {} takes none", unit.header()))) }
}

/// Words for `SYSTem:ERRor?` where nothing of an instrument's goes by that name.
pub(crate) fn undefined(unit: &Unit) -> Trouble {
    Trouble::new(-113, format!("Undefined header; {}: docs/instruments.md lists what this instrument knows", unit.header()))
}

pub(crate) fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('"', "\"\""))
}

impl Bench {
    /// A build on the bench, its own source on, a meter with this serial number beside it.
    pub fn new(on: OnBench, serial: u64) -> Self {
        let volts = on.build.thevenin(on.state).0;
        Bench {
            on,
            from: From::Own,
            meter: Meter::new(serial),
            probes: None,
            place: None,
            setting: Setting::Volts,
            milliamps: false,
            continuity: false,
            supply: Supply { volts: (volts * 10.0).round() / 10.0, limit_a: 0.5, on: false },
            charger: None,
            speed: 1.0,
            looked: Instant::now(),
        }
    }

    /// Puts something else on the bench; probes come off what is no longer there.
    pub fn put(&mut self, on: OnBench) {
        let before = std::mem::replace(&mut self.on, on);
        let (old, new) = (&before.build, &self.on.build);
        if **old != **new {
            let again = |spot: Spot| Spot::parse(new, &spot.name(old)).ok();
            self.probes = self.probes.and_then(|(red, black)| Some((again(red)?, again(black)?)));
            let feeds = |build: &Build| build.feeds().into_iter().map(|feed| feed.id).collect::<Vec<_>>();
            self.place = self.place.filter(|_| feeds(old) == feeds(new));
        }
        if old.source != new.source || before.state != self.on.state {
            self.charger = None;
        }
    }

    /// What is connected.
    pub fn connected(&self) -> &OnBench {
        &self.on
    }

    pub(crate) fn fed(&self) -> Fed {
        match self.from {
            From::Own => Fed::Own,
            From::Supply if self.supply.on => Fed::Supply { volts: self.supply.volts, limit_a: self.supply.limit_a },
            From::Off | From::Supply => Fed::Off,
        }
    }

    fn scene(&self) -> Result<&Scene, Trouble> {
        let found = self.on.build.scenes.iter().find(|scene| scene.id == self.on.scene);
        found.ok_or_else(|| Trouble::new(-221, "Settings conflict; this build has no scene yet: add one in the workshop"))
    }

    /// What is on the bench, for the core.
    pub(crate) fn desk(&self) -> Result<Desk<'_>, Trouble> {
        Ok(Desk::new(&self.on.build, self.on.faults.clone(), self.scene()?, self.on.state, self.fed()))
    }

    pub(crate) fn battery(&self) -> Result<&Battery, Trouble> {
        match &self.on.build.source {
            Source::Battery(battery) => Ok(battery),
            Source::Rail(_) | Source::Track(_) => {
                Err(Trouble::new(-221, "Settings conflict; a rail or track is not charged: put a build with a battery on the bench"))
            }
        }
    }

    /// `BENCh:…`, which says what is connected; `None`: another command.
    pub(crate) fn commanded(&mut self, unit: &Unit) -> Option<Done> {
        let is = |pattern: &str, query: bool| unit.query == query && means(pattern, &unit.path);
        Some(if is("BENCh:SCENe", true) {
            none(unit).map(|()| Some(quoted(&self.on.scene)))
        } else if is("BENCh:SCENe", false) {
            self.set_scene(unit)
        } else if is("BENCh:STATe", true) {
            none(unit).map(|()| Some(self.on.state.word().to_owned()))
        } else if is("BENCh:STATe", false) {
            self.set_state(unit)
        } else if is("BENCh:SOURce", true) {
            let word = match self.from {
                From::Off => "OFF",
                From::Own => "OWN",
                From::Supply => "SUPP",
            };
            none(unit).map(|()| Some(word.to_owned()))
        } else if is("BENCh:SOURce", false) {
            self.set_source(unit)
        } else if is("BENCh:FAULt", false) {
            self.add_fault(unit)
        } else if is("BENCh:FAULt", true) {
            let names: Vec<String> = self.on.faults.iter().map(|fault| quoted(&fault.name(&self.on.build))).collect();
            none(unit).map(|()| Some(if names.is_empty() { quoted("") } else { names.join(",") }))
        } else if is("BENCh:FAULt:CLEar", false) {
            none(unit).map(|()| {
                self.on.faults.clear();
                None
            })
        } else if is("BENCh:POINts", true) {
            none(unit).map(|()| Some(Spot::all(&self.on.build).into_iter().map(|spot| quoted(&spot.name(&self.on.build))).collect::<Vec<_>>().join(",")))
        } else if is("BENCh:FEEDs", true) {
            none(unit).map(|()| Some(self.on.build.feeds().iter().map(|feed| quoted(&feed.id)).collect::<Vec<_>>().join(",")))
        } else {
            return None;
        })
    }

    fn set_scene(&mut self, unit: &Unit) -> Done {
        let id = only(unit, "a scene, in quotes")?.text()?;
        let known: Vec<&str> = self.on.build.scenes.iter().map(|scene| scene.id.as_str()).collect();
        if !known.contains(&id) {
            return Err(Trouble::new(-224, format!("Illegal parameter value; no scene {id}: use one of {}", known.join(", "))));
        }
        self.on.scene = id.to_owned();
        Ok(None)
    }

    fn set_state(&mut self, unit: &Unit) -> Done {
        let word = only(unit, "a state of the source")?.text()?;
        let states = self.on.build.states();
        let state = states.iter().find(|state| state.word().eq_ignore_ascii_case(word)).copied();
        let known: Vec<&str> = states.iter().map(|state| state.word()).collect();
        self.on.state = state.ok_or_else(|| Trouble::new(-224, format!("Illegal parameter value; no state {word}: use one of {}", known.join(", "))))?;
        self.charger = None;
        Ok(None)
    }

    fn set_source(&mut self, unit: &Unit) -> Done {
        let word = only(unit, "OFF, OWN or SUPPly")?.text()?.to_ascii_uppercase();
        self.from = match word.as_str() {
            "OFF" => From::Off,
            "OWN" => From::Own,
            "SUPP" | "SUPPLY" => From::Supply,
            _ => return Err(Trouble::new(-224, format!("Illegal parameter value; {word}: use OFF, OWN or SUPPly"))),
        };
        Ok(None)
    }

    fn add_fault(&mut self, unit: &Unit) -> Done {
        let name = only(unit, "a fault as KIND@PLACE, in quotes")?.text()?;
        let fault = Fault::parse(&self.on.build, name).map_err(|error| Trouble::new(-224, format!("Illegal parameter value; {error}")))?;
        self.on.faults.push(fault);
        Ok(None)
    }
}
