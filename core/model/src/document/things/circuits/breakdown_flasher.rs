//! A transistor used backwards, which breaks down and lets go.

use super::super::super::read::Object;
use super::super::*;
use super::RESISTOR;

record! {
    /// Parts of a flasher with one transistor.
    pub struct BreakdownFlasher with lets_go_below {
        /// From plus to its capacitor, ohm.
        pub r_ohm: f64 = number(RESISTOR).label("Resistor"),
        /// Capacitor, F.
        pub c_f: f64 = number(FARAD).label("Capacitor").shown("µF"),
        /// It breaks down at, V.
        pub fire_v: f64 = number(VOLT).or(9.0).label("Fires at"),
        /// It lets go at, V.
        pub let_go_v: f64 = number(VOLT).or(7.0).label("Lets go at"),
    }
}

fn lets_go_below(parts: &mut BreakdownFlasher, o: &mut Object<'_, '_>) {
    if parts.let_go_v >= parts.fire_v {
        let problem = format!("{} V is not below the {} V at which it fires", parts.let_go_v, parts.fire_v);
        o.fault("let_go_v", problem, "Give less than `fire_v`");
    }
}
