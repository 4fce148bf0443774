//! Small circuits that are soldered: what all have, and by their kind their parts.

mod battery_gauge;
mod breakdown_flasher;
mod hold_up;
mod switch;
mod timer_flasher;
mod transistor_flasher;

pub use battery_gauge::BatteryGauge;
pub use breakdown_flasher::BreakdownFlasher;
pub use hold_up::HoldUp;
pub use switch::PinSwitch;
pub use timer_flasher::TimerFlasher;
pub use transistor_flasher::TransistorFlasher;

use super::*;

/// What spares an output the charge of a gate, ohm.
const GATE_OHM: f64 = 100.0;
/// A resistor that has to be there.
const RESISTOR: Range = Range::above_zero(1e9, "ohm");

record! {
    /// A small circuit that is soldered: it hangs on a feed, and the lights it drives hang on it.
    pub struct SmallCircuit {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// Which it is, with its parts.
        #[serde(flatten)]
        pub parts: CircuitParts = thing(),
        /// What feeds it.
        pub feed: Feed = thing(),
        /// Ids of the lights that it switches or carries.
        pub drives: Vec<String> = list(50),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass"),
        /// Where it is.
        pub place: String = text(200).or_word("").label("Place"),
    }
}

choice! {
    /// What a small circuit is made of.
    pub enum CircuitParts of CircuitKind, beside "parts" {
        /// A timer that flashes what hangs on its output.
        TimerFlasher(TimerFlasher),
        /// Two transistors that switch each other.
        TransistorFlasher(TransistorFlasher),
        /// A transistor used backwards.
        BreakdownFlasher(BreakdownFlasher),
        /// A capacitor that carries lights over a broken contact.
        HoldUp(HoldUp),
        /// Two LEDs that tell how full the battery is.
        BatteryGauge(BatteryGauge),
        /// A transistor that a controller's pin switches.
        Switch(PinSwitch),
    }
}

impl SmallCircuit {
    /// Which circuit it is.
    pub fn kind(&self) -> CircuitKind {
        self.parts.kind()
    }

    /// Its parts where it is a hold-up.
    pub fn hold_up(&self) -> Option<&HoldUp> {
        if let CircuitParts::HoldUp(parts) = &self.parts { Some(parts) } else { None }
    }

    /// The same, to be changed.
    pub fn hold_up_mut(&mut self) -> Option<&mut HoldUp> {
        if let CircuitParts::HoldUp(parts) = &mut self.parts { Some(parts) } else { None }
    }
}

impl CircuitParts {
    /// Its capacitors.
    pub fn capacitors_mut(&mut self) -> Vec<&mut f64> {
        match self {
            CircuitParts::TimerFlasher(own) => vec![&mut own.c_f],
            CircuitParts::TransistorFlasher(own) => vec![&mut own.c1_f, &mut own.c2_f],
            CircuitParts::BreakdownFlasher(own) => vec![&mut own.c_f],
            CircuitParts::HoldUp(own) => vec![&mut own.c_f],
            CircuitParts::BatteryGauge(_) | CircuitParts::Switch(_) => Vec::new(),
        }
    }

    /// The same, F.
    pub fn capacitors(&self) -> Vec<f64> {
        self.clone().capacitors_mut().into_iter().map(|farad| *farad).collect()
    }

    /// The resistor into the base or gate of what carries the lights.
    pub fn base_ohm_mut(&mut self) -> Option<&mut f64> {
        match self {
            CircuitParts::TimerFlasher(own) => own.base_ohm.as_mut(),
            CircuitParts::Switch(own) => Some(&mut own.base_ohm),
            _ => None,
        }
    }

    /// Lets a MOSFET carry the lights, where a transistor can; whether it now does.
    pub fn carry_by_mosfet(&mut self) -> bool {
        match self {
            CircuitParts::TimerFlasher(own) => {
                own.through = Through::Mosfet;
                own.base_ohm = own.base_ohm.or(Some(GATE_OHM));
            }
            CircuitParts::Switch(own) => own.through = Transistor::Mosfet,
            _ => return false,
        }
        true
    }
}

impl CircuitKind {
    /// Whether its lights go on and off.
    pub fn flashes(self) -> bool {
        matches!(self, CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher | CircuitKind::BreakdownFlasher)
    }

    /// What it is for, in a sentence.
    pub fn about(self) -> &'static str {
        match self {
            CircuitKind::TimerFlasher => "Flashes a light steadily, whatever the battery does. The best flasher to begin with.",
            CircuitKind::TransistorFlasher => "Two lights in turn from parts out of the drawer; its rate shifts with the battery.",
            CircuitKind::BreakdownFlasher => "The fewest parts, from about 11 V on; every one flashes differently.",
            CircuitKind::HoldUp => "Carries a light over a moment without contact, and dims it.",
            CircuitKind::BatteryGauge => "Two LEDs that say good, charge soon, charge now.",
            CircuitKind::Switch => "Lets a controller's pin switch more than it can carry.",
        }
    }

    /// The most lights that it drives.
    pub fn most_lights(self) -> usize {
        match self {
            CircuitKind::TransistorFlasher => 2,
            CircuitKind::BatteryGauge => 0,
            CircuitKind::TimerFlasher | CircuitKind::BreakdownFlasher | CircuitKind::HoldUp | CircuitKind::Switch => usize::MAX,
        }
    }
}
