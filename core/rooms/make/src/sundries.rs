//! What small things usually cost: resistors, holders, heat-shrink, ties, and what else the library has no part for. A
//! rough guide, in euros by the piece or metre, so that a list adds up to what a shop will ask; a price that the person
//! has noted comes first.

/// How a line begins, what one costs, and what each unit of one of its figures adds.
struct Sundry {
    begins: &'static str,
    eur: f64,
    /// Which figure of the line, counted from 0, and EUR for each of it.
    grows: Option<(usize, f64)>,
}

const fn flat(begins: &'static str, eur: f64) -> Sundry {
    Sundry { begins, eur, grows: None }
}

const fn growing(begins: &'static str, eur: f64, figure: usize, each: f64) -> Sundry {
    Sundry { begins, eur, grows: Some((figure, each)) }
}

/// The first that fits counts. Representative shop prices for small numbers.
const SUNDRIES: [Sundry; 50] = [
    // By the metre: watts a metre, pixels a metre.
    growing("LED strip ", 1.5, 1, 0.35),
    growing("one-wire pixel strip ", 3.0, 1, 0.1),
    // By their watts.
    growing("sealed lamp ", 2.5, 1, 0.9),
    growing("bulb ", 1.0, 1, 0.1),
    growing("LED ", 0.1, 1, 0.004),
    // Ohms, then watts.
    growing("resistor ", 0.03, 1, 0.08),
    growing("electrolytic capacitor ", 0.2, 0, 0.0004),
    flat("film capacitor ", 0.3),
    growing("dimmer ", 2.0, 0, 0.5),
    flat("timer, ", 0.6),
    flat("small NPN transistor", 0.1),
    flat("small MOSFET", 0.5),
    flat("silicon diode", 0.08),
    flat("bridge rectifier", 0.4),
    flat("perforated board", 1.5),
    flat("microcontroller board", 8.0),
    flat("pixel controller", 15.0),
    flat("flight controller", 30.0),
    // Amps a part gives.
    growing("step-up-down ", 4.0, 1, 1.5),
    growing("step-up ", 3.0, 1, 1.2),
    growing("step-down ", 2.5, 1, 1.0),
    flat("linear regulator", 0.6),
    flat("constant-current driver", 4.0),
    flat("blade fuse", 0.3),
    flat("glass fuse", 0.25),
    flat("ceramic fuse", 0.4),
    flat("holder for self-resetting fuse", 0.5),
    flat("holder for ", 1.8),
    flat("self-resetting fuse", 0.4),
    growing("switch ", 2.0, 0, 0.1),
    growing("two-pole plug", 0.8, 0, 0.03),
    // Bore in mm, by the metre.
    growing("heat-shrink ", 0.4, 0, 0.12),
    flat("sleeve", 1.2),
    flat("cable tie", 0.03),
    flat("insulated butt connector", 0.12),
    flat("lever clamp", 0.35),
    flat("clip-on strip connector", 0.7),
    flat("rubber-lined clamp", 0.8),
    flat("clip", 0.15),
    flat("screw", 0.12),
    flat("hot glue", 0.3),
    flat("five-minute epoxy", 6.0),
    flat("slow epoxy", 8.0),
    flat("superglue", 3.0),
    flat("contact adhesive", 5.0),
    flat("neutral silicone", 6.5),
    flat("foam mounting tape", 3.5),
    flat("cloth tape", 4.0),
    flat("opaque paint", 5.0),
    flat("wire ", 0.3),
];

/// For each mm² of copper, EUR a metre.
const COPPER_EUR: f64 = 0.3;

/// What one of a line of the list usually costs, EUR a piece or metre; `None`: nobody can say.
pub(crate) fn usual_price(of: &str) -> Option<f64> {
    let found = SUNDRIES.iter().find(|sundry| of.starts_with(sundry.begins))?;
    let digits = |letter: char| !letter.is_ascii_digit() && letter != '.';
    let figures: Vec<f64> = of.split(digits).filter_map(|text| text.parse().ok()).collect();
    let grown = match found.begins {
        "wire " => COPPER_EUR * copper_mm2(of, figures.first().copied().unwrap_or(0.0)),
        _ => found.grows.map_or(0.0, |(figure, each)| each * figures.get(figure).copied().unwrap_or(0.0)),
    };
    Some(((found.eur + grown) * 100.0).round().max(1.0) / 100.0)
}

/// Cross-section of a wire by its name.
fn copper_mm2(of: &str, figure: f64) -> f64 {
    let gauge = if of.contains("AWG") { orthavis_model::document::Gauge::Awg(figure as i32) } else { orthavis_model::document::Gauge::Mm2(figure) };
    gauge.area_mm2()
}

#[cfg(test)]
mod tests {
    use super::usual_price;

    #[test]
    fn a_line_costs_what_its_figures_say() {
        for (of, eur) in [
            ("resistor 150 ohms, 0.25 W", 0.05),
            ("resistor 1.8 ohms, 2 W", 0.19),
            ("electrolytic capacitor 3300 µF, 10 V", 1.52),
            ("heat-shrink 9.5 mm", 1.54),
            ("wire 6 mm², red", 2.1),
            ("sealed lamp 24 V 3 W, red", 5.2),
            ("one-wire pixel strip 5 V, 40/m", 7.0),
            ("step-up-down 12 V 3 A", 8.5),
            ("step-up 12 V 2 A", 5.4),
        ] {
            assert_eq!(usual_price(of), Some(eur), "{of}");
        }
        assert_eq!(usual_price("a thing nobody sells"), None);
    }
}
