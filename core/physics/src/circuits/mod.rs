//! The small circuits of a build: their schematics, and what they do at a state of the source.

mod battery_gauge;
mod breakdown_flasher;
mod choose;
mod fed;
mod figures;
mod flashing;
mod following;
mod hold_up;
mod kind;
mod schematic;
mod simulation;
mod spread;
mod steady;
mod switch;
mod timer_flasher;
mod transistor_flasher;
mod wanted;

pub use choose::{CircuitChoice, choose};
pub use figures::{Band, CircuitError, CircuitFigures, Formula, Held, LIT_A, Spread};
pub use hold_up::tap_name;
pub use simulation::Simulation;
pub use spread::{AtState, at_state, at_states, formulas, told, tolerances};
pub use steady::{controller_stand_in, flashing, output_limit_a, stand_in, stand_ins};
pub use wanted::{ChooseError, Wanted, WantedField, wishes};

pub use crate::transient::Trace;
use crate::transient::TransientError;
use fed::Fed;
use orthavis_model::document::{Build, Light, Source};
use orthavis_model::states::State;
use std::cell::RefCell;
use std::collections::HashMap;

thread_local! {
    /// What was found already: a plan is judged again and again with the same circuit in it.
    static KNOWN: RefCell<HashMap<String, Result<CircuitFigures, CircuitError>>> = RefCell::new(HashMap::new());
}
/// More than this is forgotten.
const REMEMBERED: usize = 256;

/// What the circuit of a place in the document does at a state.
///
/// # Errors
/// When it does not run then, or cannot be followed.
pub fn figures(build: &Build, index: usize, state: State) -> Result<CircuitFigures, CircuitError> {
    let own = &build.circuits[index];
    let driven: Vec<&Light> = build.lights.iter().filter(|light| own.drives.contains(&light.id)).collect();
    let gaps = if let Source::Track(track) = &build.source { track.gaps.clone() } else { None };
    let key = format!("{own:?}{:?}{driven:?}{state:?}{gaps:?}{}", Fed::of(build, own, state), Fed::highest(build, own));
    if let Some(known) = KNOWN.with_borrow(|known| known.get(&key).cloned()) {
        return known;
    }
    let found = Simulation::of(build, index, state).figures();
    let unfinished = matches!(&found, Err(CircuitError::Transient { error: TransientError::CalledOff | TransientError::TooMuch, .. }));
    if !unfinished {
        KNOWN.with_borrow_mut(|known| {
            if known.len() >= REMEMBERED {
                known.clear();
            }
            known.insert(key, found.clone());
        });
    }
    found
}
