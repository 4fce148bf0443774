//! Cautions: what no computation shows, said at the step of the job where it matters. They never forbid; local
//! rules, the vehicle's maker and licensed people have the last word.

use orthavis_model::document::{Battery, Build, Chemistry, Controller, Converter, ConverterKind, Light, Load, RemoteKind, Return, Source, Trait, VehicleKind};
use orthavis_model::practice::EMITTER_A;
use orthavis_model::words;
use serde::Serialize;

words! {
    /// A step of the job.
    Step {
        /// What have I got?
        Battery = "battery",
        /// Where should light go?
        Places = "places",
        /// Which light?
        Lights = "lights",
        /// What does it look like?
        Look = "look",
        /// How is it powered?
        Power = "power",
        /// Wires, switches, fuses, connectors.
        Wires = "wires",
        /// What does it cost the battery?
        Drain = "drain",
        /// What the lights do.
        Show = "show",
    }
}

/// Something to keep in mind.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Caution {
    /// Where it matters.
    pub step: Step,
    /// In a few words.
    pub title: &'static str,
    /// In a sentence or two.
    pub text: &'static str,
    /// The part it is about, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<String>,
}

/// Cautions for this vehicle and these parts, in the order of the job.
pub fn cautions(build: &Build) -> Vec<Caution> {
    let mut said = Said::default();
    if let Source::Battery(battery) = &build.source {
        said.of_cells(battery.chemistry);
        said.of_packs(battery);
        said.of_storage(battery.chemistry);
    }
    said.of_vehicle(build);
    for light in &build.lights {
        said.of_place(build, light);
        said.of_eyes(light);
    }
    said.of_flashes(build);
    for controller in &build.controllers {
        said.of_remote(controller);
    }
    for converter in &build.converters {
        said.of_converter(converter);
    }
    said.of_wires(build);
    // One of a kind is enough: the first part that it is about.
    let mut seen = std::collections::BTreeSet::new();
    let mut all = said.0;
    all.retain(|caution| seen.insert((caution.step, caution.title)));
    all.sort_by_key(|caution| caution.step);
    all
}

/// What was said so far.
#[derive(Default)]
struct Said(Vec<Caution>);

impl Said {
    fn say(&mut self, step: Step, title: &'static str, text: &'static str, subject: Option<&str>) {
        self.0.push(Caution { step, title, text, subject: subject.map(str::to_owned) });
    }

    fn of_cells(&mut self, chemistry: Chemistry) {
        match chemistry {
            Chemistry::LiIon | Chemistry::Lipo => self.say(
                Step::Battery,
                "Lithium cells",
                "Pierced, crushed, over-discharged or overheated they burn. Tap only what the maker meant to be tapped, and do not charge unattended.",
                None,
            ),
            Chemistry::Lifepo4 => self.say(
                Step::Battery,
                "Lithium-iron cells",
                "Calmer than other lithium, but they give hundreds of amps into a short. Cover the terminals while you work.",
                None,
            ),
            Chemistry::LeadFlooded | Chemistry::LeadAgm => self.say(
                Step::Battery,
                "Lead battery",
                "A spanner across the terminals welds itself on. Charging gives off gas that a spark ignites: air, and no flame.",
                None,
            ),
            Chemistry::LithiumCoin => self.say(
                Step::Battery,
                "Coin cells",
                "A coin cell that a child swallows burns through within two hours. Close the holder with a screw, and keep spares out of reach.",
                None,
            ),
            Chemistry::Nimh | Chemistry::Alkaline => {}
        }
    }

    /// What several cells ask for, whatever they are.
    fn of_packs(&mut self, battery: &Battery) {
        if battery.series * battery.parallel > 1 {
            self.say(
                Step::Battery,
                "Cells that belong together",
                "Never mix old with new, or one kind with another: the weakest is driven backwards. A pack that is swollen, dented or smells is not used again.",
                None,
            );
        }
    }

    fn of_storage(&mut self, chemistry: Chemistry) {
        let (title, text) = match chemistry {
            Chemistry::LiIon | Chemistry::Lipo | Chemistry::Lifepo4 => (
                "Putting it away",
                "Lithium cells keep best half full, cool and dry. What draws in the background empties them past their reserve; a pack that was flat for weeks is not charged again.",
            ),
            Chemistry::LeadFlooded | Chemistry::LeadAgm => (
                "Putting it away",
                "A lead battery is stored full and topped up every month or two; half empty it hardens within weeks. Charge it in sight, with air about it.",
            ),
            Chemistry::Nimh => ("Putting it away", "Store it charged; it loses a good part of its charge each month by itself."),
            Chemistry::Alkaline => ("Putting it away", "Take the cells out: an empty one leaks and eats its contacts."),
            Chemistry::LithiumCoin => ("Putting it away", "Take the cells out, tape over both sides of old ones, and keep them from children."),
        };
        self.say(Step::Drain, title, text, None);
    }

    fn of_vehicle(&mut self, build: &Build) {
        if matches!(build.source, Source::Battery(_)) && build.vehicle.kind == VehicleKind::Rv {
            self.say(
                Step::Drain,
                "The gas alarm stays on",
                "It is small, and it is there for the night in which it counts. Save elsewhere. Work on shore power and gas is for licensed people.",
                None,
            );
        }
        if build.vehicle.kind == VehicleKind::Drone {
            self.say(
                Step::Drain,
                "Time to land",
                "These are computed minutes. Land with a third in hand, sooner in cold and wind; the rules of your airspace come first.",
                None,
            );
        }
        match build.vehicle.kind {
            VehicleKind::Wheelchair => self.say(
                Step::Battery,
                "A medical device",
                "Ask its service technician before tapping it. No drilling, no current through the frame, nothing that can stop it from driving. A pack of its own avoids the question.",
                None,
            ),
            VehicleKind::Rv => self.say(
                Step::Battery,
                "Mains, gas and brakes",
                "Anything on shore power, gas or the brakes is for licensed people. Never switch off the gas alarm to save its current.",
                None,
            ),
            VehicleKind::Drone => self.say(
                Step::Places,
                "Airspace",
                "Every gram costs flight time and moves the balance. Flying by night, over people or with added lights has rules: look up your local ones.",
                None,
            ),
            VehicleKind::Bicycle | VehicleKind::Skateboard => self.say(
                Step::Lights,
                "On the road",
                "What may shine which way, in which colour and whether it may blink differs from place to place. Look up your local rule before you ride.",
                None,
            ),
            VehicleKind::RcModel | VehicleKind::Other => {}
        }
    }

    fn of_place(&mut self, build: &Build, light: &Light) {
        let traits = build.traits_of(&light.place);
        let has = |wanted| traits.contains(&wanted);
        if has(Trait::NoDrill) {
            self.say(
                Step::Places,
                "No holes there",
                "Ties, clamps or tape; what is behind the surface may carry gas, mains or the vehicle's strength.",
                Some(&light.id),
            );
        }
        if has(Trait::Wet) {
            self.say(
                Step::Places,
                "Wet place",
                "A sealed light, joints in glue-lined heat-shrink, and the wire leading in from below so that drops run off.",
                Some(&light.id),
            );
        }
        if has(Trait::Hot) {
            self.say(
                Step::Places,
                "Hot place",
                "LEDs age and glue lets go in the heat. Keep light and wire a hand's width off motor, brake and exhaust, and let air past.",
                Some(&light.id),
            );
        }
    }

    fn of_eyes(&mut self, light: &Light) {
        let (emitter, infrared) = match &light.load {
            Load::LedArray(array) => (array.led.if_a >= EMITTER_A, array.led.colour == "infrared"),
            Load::Module(module) => (module.power_w >= 5.0, false),
            _ => (false, false),
        };
        if emitter {
            self.say(
                Step::Lights,
                "Eyes and fingers",
                "Do not look into it, nor point it at people. It needs metal to cool it and gets too hot to touch.",
                Some(&light.id),
            );
        }
        if infrared {
            self.say(Step::Lights, "Light you cannot see", "The eye does not blink at infrared: never look into it from close by.", Some(&light.id));
        }
    }

    fn of_flashes(&mut self, build: &Build) {
        let blinking = build.scenes.iter().flat_map(|scene| &scene.lights).find(|(_, lit)| lit.duty < 1.0 && lit.level > 0.0);
        if let Some((id, _)) = blinking {
            self.say(
                Step::Lights,
                "Blinking light",
                "Three to thirty flashes a second can cause seizures: stay well below three. Blinking and some colours are reserved for emergency vehicles in many places.",
                Some(id),
            );
        }
    }

    fn of_remote(&mut self, controller: &Controller) {
        match controller.remote.as_ref().map(|remote| remote.kind) {
            Some(RemoteKind::Infrared) => self.say(
                Step::Power,
                "The receiver must see the remote",
                "Infrared needs a clear view: dirt, snow, bright sun or a sleeve blinds it. Put the receiver where the hand points anyway; outdoors radio is surer. It draws all the time.",
                Some(&controller.id),
            ),
            Some(RemoteKind::Radio) => self.say(
                Step::Power,
                "A radio remote",
                "Take one for the licence-free band of your country, pair it on the bench before it is closed in, and keep its wire away from metal and motor. It draws all the time.",
                Some(&controller.id),
            ),
            None => {}
        }
    }

    fn of_converter(&mut self, converter: &Converter) {
        match converter.kind() {
            ConverterKind::Boost => self.say(
                Step::Power,
                "A step-up does not protect",
                "It cannot stop a short behind it and takes more amps than it gives: fuse its input for what the wire before it carries.",
                Some(&converter.id),
            ),
            ConverterKind::CurrentDriver => self.say(
                Step::Power,
                "Light first, then power",
                "Connect the light before the driver is switched on: an open driver runs up to full voltage and hits the LED with it.",
                Some(&converter.id),
            ),
            ConverterKind::Buck | ConverterKind::BuckBoost => {
                self.say(Step::Power, "Set it before you connect", "Turn it to its voltage with a meter while no light hangs on it.", Some(&converter.id))
            }
            ConverterKind::Linear => self.say(Step::Power, "It gets hot", "Screw it to metal, and keep foam and wood away.", Some(&converter.id)),
        }
    }

    fn of_wires(&mut self, build: &Build) {
        let feeds = build.feeds();
        if let Some(feed) = feeds.iter().find(|feed| feed.feed.return_path == Return::Frame) {
            self.say(
                Step::Wires,
                "Frame as the return wire",
                "Measure it under load, bare metal to bare metal, and never through a bearing, a brake cable or a wheelchair.",
                Some(&feed.id),
            );
        }
        if !feeds.is_empty() {
            self.say(
                Step::Wires,
                "Before the first power",
                "Look along every wire for a pinch, check plus to minus for a short with the meter, and put the fuse in last.",
                None,
            );
        }
    }
}
