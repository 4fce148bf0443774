//! A suspect, and how it is mended, in words.

use super::*;

pub(super) fn how(build: &Build, setting: Setting, probes: &Probes) -> String {
    match (setting, probes) {
        (Setting::Volts, Probes::Between(red, black)) => {
            let (red_at, black_at) = (red.words(build), black.words(build));
            format!("Measure the volts between two points. Red probe: {red_at}. Black probe: {black_at}.")
        }
        (Setting::Ohms | Setting::Diode, Probes::Between(red, black)) => {
            let (red_at, black_at) = (red.words(build), black.words(build));
            let what = if setting == Setting::Ohms { "measure the ohms between two points" } else { "take the diode test" };
            format!("Battery off and disconnected, switches on. Then {what}. Red probe: {red_at}. Black probe: {black_at}.")
        }
        (Setting::Clamp, probes) => format!("Zero the clamp, then close it around one wire of {}.", probes.names(build).join(" ")),
        (Setting::Amps, probes) => {
            format!("Switch off, open {} at its start, put the meter in line on its 10 A socket, switch on.", probes.names(build).join(" "))
        }
        (_, probes) => format!("{}: {}.", setting.word(), probes.names(build).join(" and ")),
    }
}

/// A fault in words.
pub fn in_words(build: &Build, fault: &Fault) -> String {
    let feeds = build.feeds();
    let feed = |index: usize| feeds.get(index).map_or("?", |feed| feed.id.as_str());
    let light = |index: usize| build.lights[index].id.as_str();
    let ohms = fault.size.map_or_else(String::new, |ohm| format!(", {ohm} ohms"));
    let weak = fault.kind == FaultKind::WeakJoint;
    match fault.at {
        At::Joint(index, side, joint) => {
            let conductor = if side == Side::Plus { "plus" } else { "minus" };
            let place = match joint {
                Joint::From => format!("in the {conductor} wire of {}, at its supply", feed(index)),
                Joint::To => format!("in the {conductor} wire of {}, at its far end", feed(index)),
                other => format!("behind the {} of {}", other.word(), feed(index)),
            };
            if weak { format!("a weak joint {place}{ohms}") } else { format!("a break {place}") }
        }
        At::Part(index, Joint::Fuse) => format!("the fuse of {} is blown", feed(index)),
        At::Part(index, _) => format!("the switch of {} does not close", feed(index)),
        At::Along(index, share) if share >= 1.0 => format!("plus touches minus at the far end of {}", feed(index)),
        At::Along(index, share) if share <= 0.0 => format!("plus touches minus where {} begins", feed(index)),
        At::Along(index, share) => format!("{} is pinched {:.0} % of the way along", feed(index), 100.0 * share),
        At::Consumer(index) => format!("plus and minus of {} are swapped", feed(index)),
        At::String(index, string) => format!("row {} of {} is off", string + 1, light(index)),
        At::Led(index, string, led) => {
            let what = match fault.kind {
                FaultKind::Short => "bridged",
                FaultKind::Reversed => "the wrong way round",
                _ => "burnt",
            };
            format!("LED {} in row {} of {} is {what}", led + 1, string + 1, light(index))
        }
        At::Rail(index, tap, side) => {
            let step = taps(&build.lights[index].load).map_or(0.0, |(step, _)| step);
            let rail = if side == Side::Plus { "plus" } else { "minus" };
            format!("the {rail} copper of {} is broken about {:.2} m from its start", light(index), (tap as f64 + 1.0) * step)
        }
        At::Resistor(index) => format!("the resistors of {} are {} times what was planned", light(index), fault.size.unwrap_or(1.0)),
        At::Setting(index) => {
            let (part, size) = (&build.converters[index], fault.size.unwrap_or(0.0));
            if part.set_v().is_some() { format!("{} is set to {size:.2} V", part.id) } else { format!("{} is set to {size:.3} A", part.id) }
        }
        At::Source if fault.kind == FaultKind::Reversed => "one cell sits the wrong way round in its holder".to_owned(),
        At::Source => "the battery is tired: three times its resistance".to_owned(),
        At::Pixel(index, pixel) => format!("pixel {} of {} is dead and passes nothing on", pixel + 1, light(index)),
        At::Data(index) => format!("the data wire of {} is cut", light(index)),
    }
}

/// What mends a fault.
pub fn repair(fault: &Fault) -> &'static str {
    match (fault.kind, fault.at) {
        (FaultKind::Open | FaultKind::WeakJoint, At::Joint(_, _, Joint::Plug)) => "Part the plug, look for a bent or pushed-back pin, clean it, crimp it anew.",
        (FaultKind::Open | FaultKind::WeakJoint, At::Joint(_, _, Joint::Fuse)) => "Take the fuse out, clean its holder, press its springs together.",
        (FaultKind::Open | FaultKind::WeakJoint, At::Joint(..)) => "Battery off. Pull gently at the joint, make it anew, and cover it.",
        (FaultKind::Blown, _) => "Find what blew it before you put in another, of the same rating.",
        (FaultKind::StuckOpen, _) => "Battery off. Bridge nothing: put in another switch.",
        (FaultKind::Short, At::Along(..)) => "Battery off at once. Cut the wire free where it is squeezed, renew it, and protect the place.",
        (FaultKind::Reversed, At::Led(..)) => "Battery off. Turn that LED round; it may have suffered.",
        (FaultKind::Reversed, At::Source) => {
            "Take the cells out. Put each in as its holder shows, its flat end to the spring; renew the one that was turned if it is warm or wet."
        }
        (FaultKind::Reversed, _) => "Battery off. Swap the two wires, and look whether the part still works.",
        (FaultKind::WrongValue, At::Resistor(_)) => "Battery off. Read the rings of the resistors again and put in the planned ones.",
        (FaultKind::WrongValue, _) => "Take off what it feeds, set it with a meter, mark the screw.",
        (FaultKind::Tired, _) => "Charge it fully and measure again; renew it if it stays so. Do not open it.",
        (FaultKind::DeadPixel, _) => "Battery off. Cut the pixel out and put one in, arrows in line.",
        (FaultKind::CutData, _) => "Battery off. Follow the data wire from the controller and make it anew.",
        (FaultKind::Open, At::Rail(..)) => "Battery off. Bridge the break with a wire, or cut there and feed the rest by itself.",
        _ => "Battery off. Put in another of the same kind.",
    }
}
