//! The steps of making a build, in an order in which a mistake is still cheap: cut before anything is glued, tested on
//! the bench before it is out of reach, the fuse last before power.

use crate::parts::set_to;
use orthavis_model::document::{Build, Consumer, FeedRef, Fixing, Light, Load, Return, Trait, VehicleKind};
use orthavis_model::fixing::{Protection, Site, chosen, coat_min, curing, protection, workshop_c};
use orthavis_model::words;
use orthavis_model::working::counted;
use serde::Serialize;
use std::collections::BTreeSet;

words! {
    /// What part of the work a step belongs to, in order.
    Phase {
        /// Trying it on, with a tape measure.
        Fit = "fit" called "Try it on",
        /// Cutting and marking.
        Cut = "cut" called "Cut and mark",
        /// On the bench.
        Bench = "bench" called "On the bench",
        /// On the vehicle.
        Vehicle = "vehicle" called "On the vehicle",
        /// Power.
        Power = "power" called "Power",
        /// Closing it up.
        Close = "close" called "Close it up",
    }
}

/// What waits after a step, by itself.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wait {
    /// How long, min.
    pub minutes: f64,
    /// What for, as in `five-minute epoxy cures`.
    pub what: String,
}

/// One step.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = MakeStep))]
pub struct Step {
    /// Stays the same while the part that it is about stays: ticks name it.
    pub id: String,
    /// What part of the work.
    pub phase: Phase,
    /// Verb and object.
    pub title: String,
    /// How, in a few sentences.
    pub how: String,
    /// Why it is here.
    pub why: &'static str,
    /// The part or feed that it is about.
    pub about: Option<String>,
    /// Tools.
    pub tools: Vec<&'static str>,
    /// What is used up or put in.
    pub materials: Vec<String>,
    /// Hands on it, min.
    pub minutes: f64,
    /// What waits afterwards.
    pub wait: Option<Wait>,
    /// Ids of the steps that come before.
    pub after: Vec<String>,
    /// What to look at before going on.
    pub checks: Vec<String>,
    /// The caution that belongs here.
    pub caution: Option<String>,
    /// What undoing it costs.
    pub undo: &'static str,
    /// It is not done before the bench has found the build safe.
    pub wants_safe: bool,
}

const IRON: &str = "soldering iron";
const CUTTERS: &str = "side cutters";
const FUMES: &str = "Solder fumes hurt the lungs: a window open, and not over a battery.";
const STRIPPER: &str = "wire stripper";
const METER: &str = "multimeter";
const TAPE: &str = "tape measure";
const HEAT: &str = "hot-air gun or lighter";
const GLASSES: &str = "safety glasses";

/// Steps being gathered, with what each of them waits for.
struct Gathered<'a> {
    build: &'a Build,
    steps: Vec<Step>,
    ids: BTreeSet<String>,
}

/// A step without what most steps lack.
fn step(id: String, phase: Phase, title: String, minutes: f64) -> Step {
    Step {
        id,
        phase,
        title,
        how: String::new(),
        why: "",
        about: None,
        tools: Vec::new(),
        materials: Vec::new(),
        minutes,
        wait: None,
        after: Vec::new(),
        checks: Vec::new(),
        caution: None,
        undo: "nothing",
        wants_safe: phase as usize >= Phase::Vehicle as usize,
    }
}

/// Every step of a build, each after all that it waits for.
pub fn steps(build: &Build) -> Vec<Step> {
    let mut all = Gathered { build, steps: Vec::new(), ids: BTreeSet::new() };
    if build.lights.is_empty() {
        return all.steps;
    }
    all.fit();
    all.cut();
    for light in &build.lights {
        all.join(light);
    }
    for index in 0..build.converters.len() {
        all.set(index);
    }
    for index in 0..build.circuits.len() {
        all.solder(index);
    }
    for index in 0..build.controllers.len() {
        all.program(index);
    }
    all.vehicle();
    all.power();
    all.close();
    all.steps
}

impl Gathered<'_> {
    fn add(&mut self, step: Step) {
        self.ids.insert(step.id.clone());
        self.steps.push(step);
    }

    fn has(&self, id: &str) -> bool {
        self.ids.contains(id)
    }

    /// Those of these that there are.
    fn known(&self, ids: &[String]) -> Vec<String> {
        ids.iter().filter(|id| self.has(id)).cloned().collect()
    }

    /// Ids of all steps that begin so.
    fn all_of(&self, prefixes: &[&str]) -> Vec<String> {
        self.steps.iter().filter(|step| prefixes.iter().any(|prefix| step.id.starts_with(prefix))).map(|step| step.id.clone()).collect()
    }

    fn fit(&mut self) {
        let build = self.build;
        let (lights, feeds) = (build.lights.len(), build.feeds());
        self.add(Step {
            how:
                "Hold every light and module where it will sit, with a bit of tape. Look from where others will see it, and at whatever turns, folds or steers."
                    .into(),
            why: "A place that looks good on paper may be in the way of a knee, a chain or a hand.",
            tools: vec!["masking tape"],
            checks: vec!["Nothing is touched when everything that moves has moved both ways.".into()],
            ..step("fit".into(), Phase::Fit, "Try every light in its place".into(), 8.0 + 4.0 * lights as f64)
        });
        let ways: Vec<String> = feeds.iter().map(|feed| format!("{}: {:.2} m", feed.id, feed.feed.length_m)).collect();
        self.add(Step {
            how: "Lay a string where each wire will go, slack included, and measure it against the plan.".into(),
            why: "A wire that is too short has to be joined, and a joint is where it fails.",
            tools: vec![TAPE, "string"],
            after: vec!["fit".into()],
            checks: vec![format!("No string is longer than planned. {}.", ways.join(", "))],
            ..step("measure-ways".into(), Phase::Fit, "Measure every way with a string".into(), 3.0 + 3.0 * feeds.len() as f64)
        });
    }

    fn cut(&mut self) {
        let build = self.build;
        for light in &build.lights {
            let (what, marks) = match &light.load {
                Load::Strip(strip) => (format!("{:.2} m of strip", strip.length_m), strip.segments()),
                Load::Pixels(pixels) => (counted(pixels.count, "pixel"), pixels.count),
                Load::LedArray(_) | Load::Module(_) => continue,
            };
            self.add(Step {
                how: format!(
                    "Count {} and cut across the printed mark, through the middle of its copper.",
                    counted(marks, if matches!(light.load, Load::Pixels(_)) { "pixel" } else { "segment" })
                ),
                why: "Beside the mark a segment stays dark, and there is no pad to solder to.",
                about: Some(light.id.clone()),
                tools: vec!["scissors", TAPE],
                materials: vec![what.clone()],
                after: vec!["measure-ways".into()],
                checks: vec![format!("{marks} between the two cuts; half a pad of copper on each end.")],
                undo: "a joint at the mark",
                ..step(format!("cut-strip:{}", light.id), Phase::Cut, format!("Cut {what} for {}", light.id), 5.0)
            });
        }
        let feeds = build.feeds();
        let pieces: usize = feeds.iter().map(|feed| 1 + usize::from(feed.feed.return_path == Return::Wire)).sum();
        self.add(Step {
            how: "Cut every wire of the cut list, the longest first. Its lengths hold slack and joints already.".into(),
            why: "The long ones decide what is left for the short ones.",
            tools: vec![CUTTERS, TAPE],
            materials: vec![format!("{}, as on the cut list", counted(pieces as f64, "piece of wire"))],
            after: vec!["measure-ways".into()],
            checks: vec!["Each piece against the list, before the next is cut.".into()],
            undo: "a piece of wire",
            ..step("cut-wires".into(), Phase::Cut, "Cut the wires".into(), 4.0 + 1.5 * pieces as f64)
        });
        self.add(Step {
            how: "A flag on both ends of each piece: the name of its feed, and plus or minus.".into(),
            why: "Once they are drawn, every wire looks alike.",
            tools: vec!["pen"],
            materials: vec![counted(2.0 * pieces as f64, "label")],
            after: vec!["cut-wires".into()],
            checks: vec!["Pull at one end: the one that moves has the same name.".into()],
            ..step("mark-wires".into(), Phase::Cut, "Mark both ends of every wire".into(), 2.0 + 1.0 * pieces as f64)
        });
    }

    /// What is done to a light on the bench.
    fn join(&mut self, light: &Light) {
        let id = &light.id;
        let mut after = vec!["mark-wires".to_owned()];
        after.extend(self.known(&[format!("cut-strip:{id}")]));
        match &light.load {
            Load::LedArray(array) => {
                let (count, rows) = (array.series * array.parallel, array.parallel);
                let spare = (f64::from(count) * 0.1).ceil().max(1.0) as u32;
                self.add(Step {
                    how: format!(
                        "Touch each of {} LEDs to a supply that is limited to {:.0} mA, long leg to plus. Lay like with like.",
                        count + spare,
                        1e3 * array.led.if_a.min(0.01)
                    ),
                    why: "One dead or odd LED darkens its whole row, and is hard to find once it sits.",
                    about: Some(id.clone()),
                    tools: vec!["bench supply or tester"],
                    materials: vec![format!("{}, {}", counted(count + spare, "LED"), array.led.colour)],
                    checks: vec![format!("{count} that look alike; dead ones thrown away at once.")],
                    caution: Some("Do not look into a bright LED from near; point it at paper.".into()),
                    after: vec!["measure-ways".into()],
                    ..step(format!("test-leds:{id}"), Phase::Bench, format!("Sort and test the LEDs of {id}"), 3.0 + 0.4 * f64::from(count + spare))
                });
                let resistors = if array.resistor_ohm > 0.0 { rows } else { 0 };
                let mut materials = vec![format!("{}, {}", counted(count, "LED"), array.led.colour)];
                if resistors > 0 {
                    materials.push(counted(resistors, &format!("resistor of {} ohms, {} W", array.resistor_ohm, array.resistor_w)));
                }
                self.add(Step {
                    how: format!(
                        "{rows} {} of {} LEDs: long leg to short leg, the resistor at the plus end. A lead that was snipped off makes a jumper. Two seconds a joint, no longer.",
                        if rows == 1 { "row" } else { "rows" },
                        array.series
                    ),
                    why: "Joined on the bench, a row can be tested before anything is glued.",
                    about: Some(id.clone()),
                    tools: vec![IRON, CUTTERS, "third hand", GLASSES],
                    materials,
                    after: vec![format!("test-leds:{id}")],
                    checks: vec!["Every LED the same way round.".into(), "No bridge of solder between two legs.".into()],
                    caution: Some("The iron is 350 °C hot and lead snippets fly: glasses on, a window open, hands washed before you eat.".into()),
                    undo: "a few LEDs",
                    ..step(format!("rows:{id}"), Phase::Bench, format!("Join the rows of {id}"), 4.0 + 2.5 * f64::from(count + resistors))
                });
                self.add(Step {
                    how: format!("Each row at its planned voltage, limited to {:.0} mA.", 1e3 * array.led.if_a * 1.2),
                    why: "A row that is dark now is one bad joint; later it is a search.",
                    about: Some(id.clone()),
                    tools: vec!["bench supply", METER],
                    after: vec![format!("rows:{id}")],
                    checks: vec![format!("All {rows} shine alike, at about {:.0} mA each.", 1e3 * array.led.if_a)],
                    ..step(format!("test-rows:{id}"), Phase::Bench, format!("Test every row of {id}"), 2.0 + 1.0 * f64::from(rows))
                });
                after.push(format!("test-rows:{id}"));
            }
            Load::Strip(_) | Load::Pixels(_) | Load::Module(_) => {}
        }
        let wires = light.feeds.len();
        let pads = !matches!(light.load, Load::Module(_));
        let data = matches!(light.load, Load::Pixels(_));
        let how = match &light.load {
            Load::Module(_) => "Its own leads to the wires: twist, solder, cover. Red to plus, unless its label says otherwise.".to_owned(),
            _ => format!(
                "Slide the heat-shrink onto the wire first. Tin the pads and the wire ends, then two seconds a joint{}.",
                if data { ", the data wire to the end that says IN" } else { "" }
            ),
        };
        self.add(Step {
            how,
            why: "What moves at a solder joint breaks it: a blob of glue beside it takes the strain.",
            about: Some(id.clone()),
            tools: if pads { vec![IRON, STRIPPER, GLASSES] } else { vec![IRON, STRIPPER, CUTTERS, GLASSES] },
            materials: vec![format!("{} cm of heat-shrink", 6 * wires)],
            after,
            checks: vec![
                "The heat-shrink is on the wire before the joint is made.".into(),
                "No hair of wire from plus to minus: look with a glass, then the meter says open.".into(),
            ],
            caution: Some(FUMES.into()),
            undo: "a new joint",
            ..step(format!("solder:{id}"), Phase::Bench, format!("Solder the wires to {id}"), 5.0 + 4.0 * wires as f64 + if data { 2.0 } else { 0.0 })
        });
        let site = Site::of(self.build, id);
        let (kind, why) = protection(&site);
        let cover = match kind {
            Protection::Nothing | Protection::HeatShrink => "heat-shrink",
            Protection::GlueShrink => "heat-shrink with glue",
            Protection::Sleeve => "heat-shrink, and a sleeve over it",
            Protection::ConformalCoat => "conformal coat",
            Protection::Potting => "potting",
        };
        let coat = kind == Protection::ConformalCoat;
        self.add(Step {
            how: format!("Push it over the joint and shrink it, or coat it: {cover}."),
            why: "Bare metal finds other metal.",
            about: Some(id.clone()),
            tools: if coat { vec!["brush"] } else { vec![HEAT] },
            materials: vec![cover.to_owned()],
            wait: coat.then(|| Wait { minutes: 12.0 * 60.0, what: "the coat dries".into() }),
            after: vec![format!("solder:{id}")],
            checks: vec![format!("No metal to be seen: {why}.")],
            undo: "a piece of tubing",
            ..step(format!("cover:{id}"), Phase::Bench, format!("Cover the joints of {id}"), 2.0 + 1.5 * wires as f64)
        });
        if self.build.make.as_ref().and_then(|make| make.fixed(id)).is_some_and(|fixed| fixed.coat) {
            let dries = coat_min(workshop_c(self.build));
            for (number, before) in [(1, format!("cover:{id}")), (2, format!("coat-1:{id}"))] {
                self.add(Step {
                    how: "Mask what shall shine, then one thin coat. Hold it against the light, switched on from the bench supply.".into(),
                    why: "Two thin coats leave no pinholes; one thick one runs.",
                    about: Some(id.clone()),
                    tools: vec!["brush", "masking tape"],
                    materials: vec!["opaque paint".into()],
                    wait: Some(Wait { minutes: dries, what: "the paint dries".into() }),
                    after: vec![before],
                    checks: vec!["No leak of light where it shall be dark.".into()],
                    caution: Some("Solvents: outside, or with a window open, and no flame.".into()),
                    undo: "a new light",
                    ..step(
                        format!("coat-{number}:{id}"),
                        Phase::Bench,
                        format!("Coat {id} against stray light, {}", if number == 1 { "first" } else { "again" }),
                        12.0,
                    )
                });
            }
        }
    }

    fn set(&mut self, index: usize) {
        let part = &self.build.converters[index];
        let id = &part.id;
        let setting = set_to(part);
        let figure = format!("{setting} {}", if part.set_a().is_some() { "into a short or its LEDs" } else { "with nothing behind it" });
        self.add(Step {
            how: format!(
                "Feed it from a limited supply, nothing connected behind it. Turn its screw until the meter shows {figure}. A dab of varnish on the screw."
            ),
            why: "A module from the bag may be set to anything, and the first thing that hangs on it pays for that.",
            about: Some(id.clone()),
            tools: vec![METER, "bench supply", "small screwdriver"],
            materials: vec!["varnish".into()],
            wait: Some(Wait { minutes: 30.0, what: "the varnish dries".into() }),
            after: vec!["measure-ways".into()],
            checks: vec![format!("It still shows {setting} after it was moved and shaken, within 2 %.")],
            caution: Some("Plus and minus at its input, IN+ and IN−, twice: the wrong way round it is dead at once.".into()),
            ..step(format!("set:{id}"), Phase::Bench, format!("Set {id} to {setting}"), 8.0)
        });
        self.add(Step {
            how: "Wires to IN+ and IN−, OUT+ and OUT−. Heat-shrink over the whole module if it runs cool, so that nothing metal touches it.".into(),
            why: "Its underside is bare copper.",
            about: Some(id.clone()),
            tools: vec![IRON, STRIPPER, HEAT, GLASSES],
            materials: vec!["large heat-shrink".into()],
            after: vec![format!("set:{id}"), "mark-wires".into()],
            checks: vec!["IN is where the battery comes from; measured at OUT, it still shows what it was set to.".into()],
            caution: Some(FUMES.into()),
            undo: "a new joint",
            ..step(format!("wire:{id}"), Phase::Bench, format!("Wire {id}"), 12.0)
        });
    }

    /// A small circuit: soldered, tried by itself, wired.
    fn solder(&mut self, index: usize) {
        let part = &self.build.circuits[index];
        let (id, kind) = (&part.id, part.kind().called());
        self.add(Step {
            how: "On perforated board, the flattest parts first: resistors and diodes, then transistors or the timer, capacitors last. A lead snipped from a resistor makes a jumper.".into(),
            why: "What lies flat keeps the next part from falling out when the board is turned over.",
            about: Some(id.clone()),
            tools: vec![IRON, GLASSES, CUTTERS, METER],
            materials: vec![format!("parts of a {kind}"), "perforated board".into(), "solder".into()],
            after: vec!["measure-ways".into()],
            checks: vec![
                "The stripe of each electrolytic capacitor is at minus, the ring of each diode where its bar is drawn.".into(),
                "No bridge between two holes: look with a glass; plus to minus the meter says open.".into(),
            ],
            caution: Some(format!("{FUMES} An electrolytic capacitor the wrong way round bursts.")),
            undo: "a new part",
            ..step(format!("board:{id}"), Phase::Bench, format!("Solder the {kind} {id}"), 35.0)
        });
        self.add(Step {
            how: "Wires to its plus and minus, and to what it drives. Try it from the bench supply with a limit, then heat-shrink over the whole of it.".into(),
            why: "On the bench a wrong part costs a minute, on the vehicle an evening.",
            about: Some(id.clone()),
            tools: vec![IRON, STRIPPER, HEAT, GLASSES, "bench supply"],
            materials: vec!["large heat-shrink".into()],
            after: vec![format!("board:{id}"), "mark-wires".into()],
            checks: vec!["It does on the bench what the plan says of it.".into()],
            caution: Some(FUMES.into()),
            undo: "a new joint",
            ..step(format!("wire:{id}"), Phase::Bench, format!("Wire {id}"), 12.0)
        });
    }

    /// A controller: given its program, tried on one piece, wired.
    fn program(&mut self, index: usize) {
        let part = &self.build.controllers[index];
        let (id, kind) = (&part.id, part.kind.called());
        let pixels = part.outputs.iter().any(|output| !output.links().is_empty());
        self.add(Step {
            how: "Give it its program on the desk, fed from its own cable. Then one piece on its first output, at low light.".into(),
            why: "On the desk a wrong number costs a minute, on the vehicle an evening.",
            about: Some(id.clone()),
            tools: vec![METER],
            materials: vec![kind.into()],
            after: vec!["measure-ways".into()],
            checks: if pixels {
                vec!["The first piece lights where the plan says its first pixel is; red is red, green is green.".into()]
            } else {
                vec!["Each pin does what the plan says, seen with the meter.".into()]
            },
            caution: Some("Never from its own cable and the vehicle's supply at once.".into()),
            undo: "the program again",
            ..step(format!("program:{id}"), Phase::Bench, format!("Give {id} its program"), 30.0)
        });
        self.add(Step {
            how: "Plus, minus and the data or pin wires, each named at both ends. Its minus goes to the minus of what it drives.".into(),
            why: "Without a minus in common data has nothing to be measured against, and nothing lights.",
            about: Some(id.clone()),
            tools: vec![IRON, STRIPPER, HEAT, GLASSES],
            materials: vec!["heat-shrink".into()],
            after: vec![format!("program:{id}"), "mark-wires".into()],
            checks: vec![format!("At its input the meter reads {} to {} V before it is connected.", part.min_in_v, part.max_in_v)],
            caution: Some(FUMES.into()),
            undo: "a new joint",
            ..step(format!("wire:{id}"), Phase::Bench, format!("Wire {id}"), 15.0)
        });
    }

    fn vehicle(&mut self) {
        let build = self.build;
        let track = matches!(build.source, orthavis_model::document::Source::Track(_));
        self.add(Step {
            how: if track {
                "Lift it off the rails; the throttle of the track to nothing."
            } else {
                "The main fuse out or the battery unplugged, and where nobody plugs it in again by mistake."
            }
            .into(),
            why: "From here on metal tools are near the battery's wires.",
            tools: vec![],
            after: self.all_of(&["cover:", "coat-2:", "wire:"]),
            checks: vec!["The meter shows nothing where the lights will be connected.".into()],
            caution: Some(battery_caution(build)),
            ..step("battery-off".into(), Phase::Vehicle, if track { "Take it off the track" } else { "Take the battery off" }.into(), 5.0)
        });
        let parts: Vec<(String, String, Vec<String>)> = (build.lights.iter())
            .map(|light| (light.id.clone(), light.place.clone(), vec![format!("cover:{}", light.id), format!("coat-2:{}", light.id)]))
            .chain(build.converters.iter().map(|part| (part.id.clone(), String::new(), vec![format!("wire:{}", part.id)])))
            .chain(build.junctions.iter().map(|part| (part.id.clone(), String::new(), vec!["mark-wires".into()])))
            .chain(build.circuits.iter().map(|part| (part.id.clone(), part.place.clone(), vec![format!("wire:{}", part.id)])))
            .chain(build.controllers.iter().map(|part| (part.id.clone(), String::new(), vec![format!("wire:{}", part.id)])))
            .collect();
        for (id, place, before) in parts {
            let site = Site::of(build, &id);
            let fixing = chosen(build, &id);
            let mut after = self.known(&before);
            after.push("battery-off".into());
            if fixing == Fixing::Screws {
                self.add(Step {
                    how: "Mark with the part in place, look what is behind, start small, and file to size.".into(),
                    why: "A hole can be made larger, not smaller.",
                    about: Some(id.clone()),
                    tools: vec!["drill", "file", GLASSES],
                    materials: vec!["grommet".into()],
                    after: after.clone(),
                    checks: vec!["No burr: a finger, then a rag, slides over its edge.".into()],
                    caution: Some("Know what is behind: wires, a tank, a cell. Glasses on.".into()),
                    undo: "a hole to be closed",
                    ..step(format!("holes:{id}"), Phase::Vehicle, format!("Make the holes for {id}"), 12.0)
                });
                after = vec![format!("holes:{id}")];
            }
            let cures = curing(fixing, workshop_c(build));
            let no_holes = site.traits.contains(&Trait::NoDrill) || site.medical;
            let whereto = if place.is_empty() { String::new() } else { format!(" at {place}") };
            self.add(Step {
                how: format!("{}{}", fixing_how(fixing), if no_holes { " Nothing is drilled here: it goes around what is there." } else { "" }),
                why: "What hangs by its wire will short.",
                about: Some(id.clone()),
                tools: fixing_tools(fixing),
                materials: vec![fixing.called().to_owned()],
                wait: (cures.load_min > 0.0).then(|| Wait { minutes: cures.load_min, what: format!("{} cures", fixing.called()) }),
                after,
                checks: vec!["It does not move when you push it with a thumb, and the wire has slack beside it.".into()],
                caution: fixing_caution(fixing).map(str::to_owned),
                undo: if matches!(fixing, Fixing::Ties | Fixing::Clamps | Fixing::Clips | Fixing::Screws) { "nothing" } else { "scraping it off" },
                ..step(format!("fix:{id}"), Phase::Vehicle, format!("Fix {id}{whereto} with {}", fixing.called()), 6.0 + if no_holes { 3.0 } else { 0.0 })
            });
        }
        for feed in build.feeds() {
            self.run(&feed);
        }
    }

    fn run(&mut self, feed: &FeedRef<'_>) {
        let build = self.build;
        let (id, own) = (&feed.id, feed.feed);
        let place = match feed.consumer {
            Consumer::Light(light) => build.lights[light].place.as_str(),
            Consumer::Circuit(circuit) => build.circuits[circuit].place.as_str(),
            _ => "",
        };
        let traits = build.traits_of(place);
        let moving = traits.contains(&Trait::Moving);
        let consumer = id.split('#').next().unwrap_or(id);
        let mut after = vec![format!("fix:{consumer}")];
        after.extend(self.known(&[format!("fix:{}", own.from)]));
        let ties = (own.length_m / 0.15).ceil().max(1.0);
        let mut checks = vec![format!("{ties:.0} ties, none so tight that it bites; no edge under the wire without a grommet.")];
        if moving {
            checks.push("Whatever moves there, moved both ways: the wire is never tight, and never in a gap that closes.".into());
        }
        self.add(Step {
            how: format!(
                "Draw plus and {} together and tie them every 15 cm.",
                if own.return_path == Return::Wire { "minus" } else { "whatever goes with it" }
            ),
            why: "A wire that is held cannot chafe, and one beside the other keeps the loop small.",
            about: Some(id.clone()),
            tools: vec![CUTTERS],
            materials: vec![format!("{ties:.0} cable ties"), format!("{:.2} m of wire", own.length_m)],
            after,
            checks,
            caution: moving.then(|| "A pinched wire is a short: keep out of every gap that closes.".to_owned()),
            undo: "new ties",
            ..step(format!("run:{id}"), Phase::Vehicle, format!("Draw the wires of {id}"), 4.0 + 4.0 * own.length_m)
        });
        let mut last = format!("run:{id}");
        if own.contacts > 0 {
            self.add(Step {
                how: "Crimp the pins, pull at each, push it home until it clicks. The side that stays live gets the covered contacts.".into(),
                why: "A pin that was not pulled at comes out on the road.",
                about: Some(id.clone()),
                tools: vec!["crimping pliers", STRIPPER],
                materials: vec![format!("{} plug{}", own.contacts, if own.contacts == 1 { "" } else { "s" })],
                after: vec![last],
                checks: vec!["Plus to plus through the plug: the meter beeps. Plus to minus it does not.".into()],
                undo: "a new plug",
                ..step(format!("plug:{id}"), Phase::Vehicle, format!("Put the plug into {id}"), 8.0 * f64::from(own.contacts))
            });
            last = format!("plug:{id}");
        }
        if own.fuse.is_some() || own.switch.is_some() {
            let (fuse, switch) = (own.fuse.is_some(), own.switch.is_some());
            let what = match (fuse, switch) {
                (true, true) => "fuse holder and switch",
                (true, false) => "fuse holder",
                _ => "switch",
            };
            self.add(Step {
                how: if fuse {
                    "In the plus wire, within a hand of the supply. The fuse itself stays in its bag.".into()
                } else {
                    "In the plus wire, where a hand finds it in the dark.".into()
                },
                why: if fuse { "The wire between supply and fuse is the one that nothing protects." } else { "A switch in minus leaves everything live." },
                about: Some(id.clone()),
                tools: vec![IRON, STRIPPER, HEAT],
                materials: vec![what.to_owned(), "heat-shrink".into()],
                after: vec![last],
                checks: vec![if fuse { "Empty: the meter says open across the holder.".into() } else { "On it beeps, off it does not.".into() }],
                undo: "a new joint",
                ..step(format!("inline:{id}"), Phase::Vehicle, format!("Put the {what} into {id}"), 8.0)
            });
        }
    }

    fn power(&mut self) {
        let build = self.build;
        let fused: Vec<FeedRef<'_>> = build.feeds().into_iter().filter(|feed| feed.feed.fuse.is_some()).collect();
        self.add(Step {
            how: "With the battery off: every run from end to end, then plus against minus at every end. The bench's check list says what to expect.".into(),
            why: "A short found now costs nothing.",
            tools: vec![METER],
            after: self.all_of(&["run:", "plug:", "inline:"]),
            checks: vec!["Every run beeps; no plus beeps to a minus; LEDs conduct one way only.".into()],
            caution: Some("Ohms are read with the power off, always.".into()),
            wants_safe: true,
            ..step("continuity".into(), Phase::Power, "Check every run without power".into(), 4.0 + 2.0 * build.feeds().len() as f64)
        });
        let fuses: Vec<String> = fused
            .iter()
            .map(|feed| {
                format!(
                    "{} A, {}, for {}",
                    feed.feed.fuse.as_ref().map_or(0.0, |fuse| fuse.rating_a),
                    feed.feed.fuse.as_ref().map_or("", |fuse| fuse.style.word()),
                    feed.id
                )
            })
            .collect();
        if !fuses.is_empty() {
            self.add(Step {
                how: "Each of its own rating, and no other.".into(),
                why: "Until now there was no way for the battery to do harm; from the first volt on they have to be there.",
                materials: fuses.clone(),
                after: vec!["continuity".into()],
                checks: vec![format!("The number on each fuse against this list: {}.", fuses.join("; "))],
                caution: Some("Never a larger one, never a wire instead.".into()),
                ..step("fuses".into(), Phase::Power, "Put the fuses in".into(), 1.0 + 1.0 * fused.len() as f64)
            });
        }
        let before = if self.has("fuses") { "fuses" } else { "continuity" };
        self.add(Step {
            how: "A bench supply in the battery's place first, limited to a little more than the dimmest scene takes, scene by scene; without one, the battery through a bulb or a small fuse. Only then the battery itself.".into(),
            why: "With a limit a mistake is a dim light, not smoke.",
            tools: vec!["bench supply", METER],
            after: vec![before.into()],
            checks: vec!["Nothing warm, nothing smells, each light does what it should.".into()],
            caution: Some("One hand away from metal; off at the first smell.".into()),
            ..step("first-power".into(), Phase::Power, "First power, with a limit".into(), 10.0)
        });
        self.add(Step {
            how: "The battery on. The readings of the bench's check list, each at its scene; then everything on for ten minutes, hand and meter again.".into(),
            why: "What reads as planned was built as planned.",
            tools: vec![METER],
            wait: Some(Wait { minutes: 10.0, what: "everything on, to see what gets warm".into() }),
            after: vec!["first-power".into()],
            checks: vec!["Every reading within its band; nothing too hot to hold.".into()],
            caution: Some(battery_caution(build)),
            ..step("measured".into(), Phase::Power, "Measure against what is expected".into(), 12.0 + 2.0 * build.lights.len() as f64)
        });
    }

    fn close(&mut self) {
        let build = self.build;
        let wet: Vec<&Light> = build.lights.iter().filter(|light| Site::of(build, &light.id).traits.contains(&Trait::Wet)).collect();
        for light in &wet {
            let cures = curing(Fixing::Silicone, workshop_c(build));
            self.add(Step {
                how:
                    "A bead of neutral silicone around every joint and cut end, smoothed with a wet finger. Leave a hole at the lowest point for what gets in."
                        .into(),
                why: "Water gets in along the wire, and stays.",
                about: Some(light.id.clone()),
                tools: vec!["cartridge gun"],
                materials: vec!["neutral silicone".into()],
                wait: Some(Wait { minutes: cures.load_min, what: "silicone cures".into() }),
                after: vec!["measured".into()],
                checks: vec!["The bead is whole all the way round.".into()],
                caution: Some("Neutral-curing only: what smells of vinegar eats copper.".into()),
                undo: "cutting it out",
                ..step(format!("seal:{}", light.id), Phase::Close, format!("Seal {} against water", light.id), 6.0)
            });
        }
        let mut after = self.all_of(&["seal:"]);
        after.push("measured".into());
        self.add(Step {
            how: "Lids, grips and panels back on, one after the other; the lights stay on meanwhile.".into(),
            why: "A light that goes out tells which lid pinches what.",
            tools: vec!["screwdriver"],
            after,
            checks: vec!["No wire between lid and edge.".into()],
            caution: Some("A pinched wire is a short: watch each edge as it closes.".into()),
            ..step("close-up".into(), Phase::Close, "Close it up".into(), 10.0)
        });
        let mut last = "close-up";
        if matches!(build.vehicle.kind, VehicleKind::Drone | VehicleKind::RcModel) {
            self.add(Step {
                how: "On the scale, then on two fingers where it balanced before.".into(),
                why: "Lights weigh, and where they weigh decides how it flies or floats.",
                tools: vec!["scale"],
                after: vec![last.into()],
                checks: vec!["It balances where it did; else move the pack, not the lights.".into()],
                caution: Some("Flight rules: lights of your own do not replace those that the law asks for, and must not be taken for them.".into()),
                ..step("balance".into(), Phase::Close, "Weigh and balance it".into(), 10.0)
            });
            last = "balance";
        }
        self.add(Step {
            how: "Ten minutes near home, the tools with you. Then look and feel again: warm spots, loose ties, a wire that moved.".into(),
            why: "What comes loose comes loose first.",
            after: vec![last.into()],
            checks: vec!["Everything where it was; the battery no warmer than without the lights.".into()],
            caution: Some("Road rules decide which lights may shine, where and in which colour; yours may differ. This is advice, not a certificate.".into()),
            ..step("outing".into(), Phase::Close, "A short first outing, and look again".into(), 20.0)
        });
    }
}

fn battery_caution(build: &Build) -> String {
    use orthavis_model::document::{Chemistry, Source};
    let medical = if build.vehicle.kind == VehicleKind::Wheelchair { " It is a medical device: nothing is changed that moves or steers it." } else { "" };
    let words = match &build.source {
        Source::Battery(battery) => match battery.chemistry {
            Chemistry::LiIon | Chemistry::Lipo => "Lithium cells burn when they are shorted: cover bare ends, no rings, no loose tools.",
            _ => "It can give hundreds of amperes: cover bare ends, no rings, no loose tools.",
        },
        Source::Track(_) => "Off the track while you work: what is on the rails is on your circuit.",
        Source::Rail(_) => "The rail has a flight battery behind it: off while you work.",
    };
    format!("{words}{medical}")
}

fn fixing_how(fixing: Fixing) -> &'static str {
    match fixing {
        Fixing::HotGlue => "A ring of glue around it, on a roughened and clean place.",
        Fixing::QuickEpoxy | Fixing::SlowEpoxy => "Roughen, clean with alcohol, mix equal parts, and tape it down until it holds.",
        Fixing::Superglue => "One drop, pressed for half a minute.",
        Fixing::ContactAdhesive => "Thin on both sides, wait until it is dry to the touch, then press once.",
        Fixing::Silicone => "A bead under it, pressed to 2 mm, taped until it has a skin.",
        Fixing::FoamTape => "Clean with alcohol, stick once, press for half a minute.",
        Fixing::ClothTape => "Twice around, pulled tight.",
        Fixing::Ties => "Two ties, a bit of rubber under them, ends cut flush.",
        Fixing::Clamps => "The lined clamp around the tube, its screw outwards.",
        Fixing::Clips => "Clips first, then the part snaps in.",
        Fixing::Screws => "Screws hand-tight, a drop of threadlock.",
    }
}

fn fixing_tools(fixing: Fixing) -> Vec<&'static str> {
    match fixing {
        Fixing::HotGlue => vec!["glue gun"],
        Fixing::Ties | Fixing::ClothTape => vec![CUTTERS],
        Fixing::Clamps | Fixing::Screws => vec!["screwdriver"],
        Fixing::QuickEpoxy | Fixing::SlowEpoxy => vec!["sandpaper", "gloves"],
        _ => vec!["alcohol and a rag"],
    }
}

fn fixing_caution(fixing: Fixing) -> Option<&'static str> {
    match fixing {
        Fixing::HotGlue => Some("The glue is 180 °C hot and sticks to skin."),
        Fixing::QuickEpoxy | Fixing::SlowEpoxy => Some("Epoxy on skin makes allergic: gloves."),
        Fixing::Superglue => Some("It glues fingers in a second, and its vapour stings."),
        Fixing::ContactAdhesive => Some("Its solvent burns: no flame, a window open."),
        _ => None,
    }
}
