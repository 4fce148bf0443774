//! A charger on the battery: constant current, then constant voltage, until little flows any more.
//!
//! The battery is the model's: its rested voltage by its charge, behind its resistance. Time is what the caller says.

use orthavis_model::document::Battery;
use orthavis_model::words;

/// Longest step of the simulation, s.
const STEP_S: f64 = 10.0;
/// A charge that takes longer is broken off, s.
const MOST_S: f64 = 48.0 * 3600.0;

words! {
    /// What a charger is doing.
    Phase {
        /// Nothing.
        Off = "OFF",
        /// Its set current.
        Current = "CC",
        /// Its end voltage, while the current falls.
        Voltage = "CV",
        /// Done.
        Done = "DONE",
        /// It stopped: something is wrong.
        Fault = "FAULT",
    }
}

/// Why a charger does not charge.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ChargeError {
    /// Not rechargeable.
    #[error("these cells must not be charged")]
    NotRechargeable,
    /// Set to another number of cells.
    #[error("set to {set} cells, but the battery has {found}; set CELLs {found}")]
    Cells {
        /// As set.
        set: u32,
        /// As found.
        found: u32,
    },
    /// It takes too long.
    #[error("not full after 48 h; more is drawn from it than the charger gives, or the current is too low")]
    TooLong,
}

/// A charger with the battery on it.
#[derive(Clone, Debug, PartialEq)]
pub struct Charger {
    /// Cells in series that it is set to.
    pub cells: u32,
    /// Charging current, A.
    pub current_a: f64,
    /// Below this it is done, A.
    pub cutoff_a: f64,
    /// What it is doing.
    pub phase: Phase,
    /// Charge of the battery, 0 to 1.
    pub soc: f64,
    /// Since it was switched on, s.
    pub time_s: f64,
    /// Given since then, Ah.
    pub given_ah: f64,
}

impl Charger {
    /// Set to a battery of this charge: a fifth of its capacity an hour, done at a fiftieth.
    pub fn of(battery: &Battery, soc: f64) -> Self {
        Charger {
            cells: battery.series,
            current_a: 0.2 * battery.capacity_ah,
            cutoff_a: 0.02 * battery.capacity_ah,
            phase: Phase::Off,
            soc,
            time_s: 0.0,
            given_ah: 0.0,
        }
    }

    /// Switches it on.
    ///
    /// # Errors
    /// When it does not fit the battery; then it stays off.
    pub fn start(&mut self, battery: &Battery) -> Result<(), ChargeError> {
        self.phase = Phase::Fault;
        if battery.charging_v().is_none() {
            return Err(ChargeError::NotRechargeable);
        }
        if self.cells != battery.series {
            return Err(ChargeError::Cells { set: self.cells, found: battery.series });
        }
        (self.phase, self.time_s, self.given_ah) = (Phase::Current, 0.0, 0.0);
        Ok(())
    }

    /// Current into the battery, A, and voltage at its terminals, V.
    pub fn now(&self, battery: &Battery) -> (f64, f64) {
        let (emf_v, ohm) = (battery.emf_v(self.soc), battery.pack_ohm());
        let target_v = battery.charging_v().unwrap_or(emf_v);
        match self.phase {
            Phase::Current | Phase::Voltage => {
                let amps = self.current_a.min(((target_v - emf_v) / ohm.max(1e-6)).max(0.0));
                (amps, (emf_v + amps * ohm).min(target_v.max(emf_v)))
            }
            Phase::Off | Phase::Done | Phase::Fault => (0.0, emf_v),
        }
    }

    /// Lets time pass, s.
    ///
    /// # Errors
    /// When it takes too long; it then stops.
    pub fn advance(&mut self, battery: &Battery, seconds: f64) -> Result<(), ChargeError> {
        let mut left = seconds;
        while left > 0.0 && matches!(self.phase, Phase::Current | Phase::Voltage) {
            let step = left.min(STEP_S);
            left -= step;
            let (amps, _) = self.now(battery);
            self.phase = if amps < self.current_a { Phase::Voltage } else { Phase::Current };
            // Full by its voltage, or by its charge where the resistance is too small to tell.
            if amps <= self.cutoff_a || self.soc >= 1.0 {
                self.phase = Phase::Done;
                break;
            }
            let ah = amps * step / 3600.0;
            self.soc = (self.soc + ah / battery.capacity_ah).min(1.0);
            self.given_ah += ah;
            self.time_s += step;
            if self.time_s >= MOST_S {
                self.phase = Phase::Fault;
                return Err(ChargeError::TooLong);
            }
        }
        Ok(())
    }
}
