//! At the bench: where lights go, what is cut, joined, set and soldered before anything is on the vehicle.

use super::*;
use crate::parts::{DATA_CAPACITOR, DATA_RESISTOR};
use orthavis_model::document::{Converter, LedArray};
use orthavis_model::practice::FAR_OVER_VOLTAGE;
use orthavis_model::topology::{Node, Topology};
use orthavis_model::working::plain;

impl Gathered<'_> {
    pub(super) fn fit(&mut self) {
        let build = self.build;
        let (lights, feeds) = (build.lights.len(), build.feeds());
        self.add(Step {
            how:
                "Hold every light and converter where it will sit, with a bit of tape. Look from where others will see it, and at whatever turns, folds or steers."
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

    pub(super) fn cut(&mut self) {
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
                why: "Beside the mark a segment stays dark, and there is no pad to join a wire to.",
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
    pub(super) fn join(&mut self, light: &Light) {
        let id = &light.id;
        let mut after = vec!["mark-wires".to_owned()];
        after.extend(self.known(&[format!("cut-strip:{id}")]));
        if let Load::LedArray(array) = &light.load {
            self.join_rows(id, array);
            after.push(format!("test-rows:{id}"));
        }
        let wires = light.feeds.len();
        let pads = !matches!(light.load, Load::Module(_));
        let data = matches!(light.load, Load::Pixels(_));
        let lamp = Join { pads, data, wires };
        let hands = self.hands();
        self.add(Step {
            how: lamp.how(hands),
            why: lamp.why(hands),
            about: Some(id.clone()),
            tools: lamp.tools(hands),
            materials: lamp.materials(hands),
            joints: if hands == Hands::Solder { 2 * wires as u32 + u32::from(data) } else { 0 },
            after,
            checks: lamp.checks(hands),
            caution: (hands == Hands::Solder).then(|| FUMES.into()),
            undo: if hands == Hands::Plug { "nothing" } else { "a new joint" },
            ..step(joined(hands, id), Phase::Bench, lamp.title(hands, id), lamp.minutes(hands))
        });
        if hands == Hands::Plug {
            // A clamp covers what is in it.
            self.coat(id, joined(hands, id));
        } else {
            self.cover(id, wires);
            self.coat(id, format!("cover:{id}"));
        }
    }

    fn cover(&mut self, id: &str, wires: usize) {
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
            about: Some(id.to_owned()),
            tools: if coat { vec!["brush"] } else { vec![HEAT] },
            materials: vec![cover.to_owned()],
            wait: coat.then(|| Wait { minutes: 12.0 * 60.0, what: "the coat dries".into() }),
            after: vec![joined(self.hands(), id)],
            checks: vec![format!("No metal to be seen: {why}.")],
            undo: "a piece of tubing",
            ..step(format!("cover:{id}"), Phase::Bench, format!("Cover the joints of {id}"), 2.0 + 1.5 * wires as f64)
        });
    }

    /// Paint against stray light, where it is wanted.
    fn coat(&mut self, id: &str, bare: String) {
        if self.build.make.as_ref().and_then(|make| make.fixed(id)).is_some_and(|fixed| fixed.coat) {
            let dries = coat_min(workshop_c(self.build));
            for (number, before) in [(1, bare), (2, format!("coat-1:{id}"))] {
                self.add(Step {
                    how: "Mask what shall shine, then one thin coat. Hold it against the light, switched on from the bench supply.".into(),
                    why: "Two thin coats leave no pinholes; one thick one runs.",
                    about: Some(id.to_owned()),
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

    /// LEDs of an array, tested, joined to rows and tested again.
    fn join_rows(&mut self, id: &str, array: &LedArray) {
        let (count, rows) = (array.series * array.parallel, array.parallel);
        let spare = (f64::from(count) * 0.1).ceil().max(1.0) as u32;
        self.add(Step {
            how: format!(
                "Touch each of {} LEDs to a supply that is limited to {:.0} mA, long leg to plus. Lay like with like.",
                count + spare,
                1e3 * array.led.if_a.min(0.01)
            ),
            why: "One dead or odd LED darkens its whole row, and is hard to find once it sits.",
            about: Some(id.to_owned()),
            tools: vec!["bench supply or tester"],
            materials: vec![format!("{}, {}", counted(count + spare, "LED"), array.led.colour)],
            checks: vec![format!("{count} that look alike; dead ones thrown away at once.")],
            caution: Some("Do not look into a bright LED from near; point it at paper.".into()),
            after: vec!["measure-ways".into()],
            ..step(format!("test-leds:{id}"), Phase::Bench, format!("Sort and test the LEDs of {id}"), 3.0 + 0.4 * f64::from(count + spare))
        });
        let resistors = match array.resistor_ohm > 0.0 {
            true if array.shared_resistor => 1,
            true => rows,
            false => 0,
        };
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
            about: Some(id.to_owned()),
            tools: vec![IRON, CUTTERS, "third hand", GLASSES],
            materials,
            joints: 2 * (count + resistors),
            after: vec![format!("test-leds:{id}")],
            checks: vec!["Every LED the same way round.".into(), "No bridge of solder between two legs.".into()],
            caution: Some("The iron is 350 °C hot and lead snippets fly: glasses on, a window open, hands washed before you eat.".into()),
            undo: "a few LEDs",
            ..step(format!("rows:{id}"), Phase::Bench, format!("Join the rows of {id}"), 4.0 + 2.5 * f64::from(count + resistors))
        });
        self.add(Step {
            how: format!("Each row at its planned voltage, limited to {:.0} mA.", 1e3 * array.led.if_a * 1.2),
            why: "A row that is dark now is one bad joint; later it is a search.",
            about: Some(id.to_owned()),
            tools: vec!["bench supply", METER],
            after: vec![format!("rows:{id}")],
            checks: vec![format!("All {rows} shine alike, at about {:.0} mA each.", 1e3 * array.led.if_a)],
            ..step(format!("test-rows:{id}"), Phase::Bench, format!("Test every row of {id}"), 2.0 + 1.0 * f64::from(rows))
        });
    }

    pub(super) fn set(&mut self, index: usize) {
        let hands = self.hands();
        let part = &self.build.converters[index];
        let id = &part.id;
        let (setting, turns) = (set_to(part), part.adjustable != Some(false));
        let figure = format!("{setting} {}", if part.set_a().is_some() { "into a short or its LEDs" } else { "with nothing behind it" });
        self.add(Step {
            how: if turns {
                format!(
                    "Feed it from a limited supply, nothing connected behind it. Turn its screw until the meter shows {figure}. A dab of varnish on the screw.{}",
                    self.dies_at_the_top(part)
                )
            } else {
                format!("Feed it from a limited supply, nothing connected behind it: the meter shows {figure}. It has no screw; another figure means another part.")
            },
            why: "A converter from the bag may be set to anything, and the first thing that hangs on it pays for that.",
            about: Some(id.clone()),
            tools: if turns { vec![METER, "bench supply", "small screwdriver"] } else { vec![METER, "bench supply"] },
            materials: if turns { vec!["varnish".into()] } else { vec![] },
            wait: turns.then(|| Wait { minutes: 30.0, what: "the varnish dries".into() }),
            after: vec!["measure-ways".into()],
            checks: vec![format!("It still shows {setting} after it was moved and shaken, within 2 %.")],
            caution: Some("Plus and minus at its input, IN+ and IN−, twice: the wrong way round it is dead at once.".into()),
            readings: vec![Stage::Converter],
            ..step(format!("set:{id}"), Phase::Bench, if turns { format!("Set {id} to {setting}") } else { format!("Measure {id}: {setting}") }, if turns { 8.0 } else { 3.0 })
        });
        self.add(Step {
            how: match hands {
                Hands::Solder => "Wires to IN+ and IN−, OUT+ and OUT−. Heat-shrink over the whole converter if it runs cool, so that nothing metal touches it.",
                Hands::Crimp => {
                    "Its leads and the wires into butt connectors, red to plus: IN from the battery, OUT to the lights. Press each, then pull at it."
                }
                Hands::Plug => "Its leads and the wires into lever clamps, red to plus: IN from the battery, OUT to the lights. Pull at each.",
            }
            .into(),
            why: if hands == Hands::Solder { "Its underside is bare copper." } else { "What comes loose on the road is found in the dark." },
            about: Some(id.clone()),
            tools: if hands == Hands::Solder { vec![IRON, STRIPPER, HEAT, GLASSES] } else { pressing(hands) },
            materials: match hands {
                Hands::Solder => vec!["large heat-shrink".into()],
                _ => vec![counted(4_u32, connector(hands))],
            },
            joints: if hands == Hands::Solder { 4 } else { 0 },
            after: vec![format!("set:{id}"), "mark-wires".into()],
            checks: vec!["IN is where the battery comes from; measured at OUT, it still shows what it was set to.".into()],
            caution: (hands == Hands::Solder).then(|| FUMES.into()),
            undo: "a new joint",
            ..step(format!("wire:{id}"), Phase::Bench, format!("Wire {id}"), if hands == Hands::Solder { 12.0 } else { 6.0 })
        });
    }

    /// What hangs on a converter and dies where its screw is turned all the way up, as the end of a sentence or nothing.
    fn dies_at_the_top(&self, part: &Converter) -> String {
        let (Some(range), None) = (&part.range_v, part.set_a()) else { return String::new() };
        let Some(top_v) = range.iter().copied().reduce(f64::max) else { return String::new() };
        let build = self.build;
        let graph = Topology::of(build);
        let stands = |node: Node| match node {
            Node::Light(at) => match &build.lights[at].load {
                Load::Module(module) => Some(module.max_v),
                Load::Strip(strip) => Some(FAR_OVER_VOLTAGE * strip.voltage_v),
                Load::Pixels(pixels) => Some(FAR_OVER_VOLTAGE * pixels.voltage_v),
                Load::LedArray(_) => None,
            },
            Node::Converter(at) => Some(build.converters[at].max_in_v),
            Node::Controller(at) => Some(build.controllers[at].max_in_v),
            _ => None,
        };
        let on_it = graph.node(&part.id).map_or_else(Vec::new, |node| graph.below(node));
        let on_it = on_it.into_iter().filter(|node| graph.inlet(*node).is_some_and(|wire| graph.supplier(graph.laid(wire)) == part.id));
        let dies: Vec<&str> = on_it.filter(|node| stands(*node).is_some_and(|volts| volts < top_v)).map(|node| graph.id(node)).collect();
        if dies.is_empty() {
            return String::new();
        }
        format!(" All the way up it gives {}, and that kills {}: nothing hangs on it before it was measured.", plain(top_v, "V"), dies.join(", "))
    }

    /// A small circuit: soldered, tried by itself, wired.
    pub(super) fn solder(&mut self, index: usize) {
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
                "No bridge between two holes: look with a magnifier; from plus to minus the meter must not beep.".into(),
            ],
            caution: Some(format!("{FUMES} An electrolytic capacitor the wrong way round bursts.")),
            undo: "a new part",
            joints: BOARD_JOINTS,
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
            readings: vec![Stage::Circuit],
            caution: Some(FUMES.into()),
            undo: "a new joint",
            joints: 4,
            ..step(format!("wire:{id}"), Phase::Bench, format!("Wire {id}"), 12.0)
        });
    }

    /// A controller: given its program, tried on one piece, wired.
    pub(super) fn program(&mut self, index: usize) {
        let hands = self.hands();
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
            how: if hands == Hands::Solder {
                "Plus, minus and the data or pin wires, each named at both ends. Its minus goes to the minus of what it drives."
            } else {
                "Plus, minus and the data or pin wires under its screws, each named at both ends. Its minus goes to the minus of what it drives."
            }
            .into(),
            why: "Without a minus in common data has nothing to be measured against, and nothing lights.",
            about: Some(id.clone()),
            tools: if hands == Hands::Solder { vec![IRON, STRIPPER, HEAT, GLASSES] } else { vec![STRIPPER, "small screwdriver"] },
            materials: {
                let mut all = vec![if hands == Hands::Solder { "heat-shrink".to_owned() } else { "board with screw terminals".to_owned() }];
                if pixels {
                    all.extend([DATA_RESISTOR.to_owned(), DATA_CAPACITOR.to_owned()]);
                }
                all
            },
            joints: if hands == Hands::Solder { 2 + part.outputs.len() as u32 + if pixels { 4 } else { 0 } } else { 0 },
            after: vec![format!("program:{id}"), "mark-wires".into()],
            checks: {
                let mut all = vec![format!("At its input the meter reads {} to {} V before it is connected.", part.min_in_v, part.max_in_v)];
                if pixels {
                    all.push(
                        "The resistor sits in the data wire next to the first pixel, the capacitor across its plus and minus, its stripe at minus.".into(),
                    );
                }
                all
            },
            caution: (hands == Hands::Solder).then(|| FUMES.into()),
            undo: "a new joint",
            ..step(format!("wire:{id}"), Phase::Bench, format!("Wire {id}"), 15.0)
        });
    }
}

/// Joints of a small circuit on its board: two legs of some ten parts.
const BOARD_JOINTS: u32 = 20;

/// The step that joins a light to its wires.
pub(crate) fn joined(hands: Hands, id: &str) -> String {
    format!("{}:{id}", if hands == Hands::Solder { "solder" } else { "join" })
}

/// What wires are joined by without an iron.
pub(crate) fn connector(hands: Hands) -> &'static str {
    if hands == Hands::Crimp { "insulated butt connector" } else { "lever clamp for two wires" }
}

/// Tools for those.
pub(crate) fn pressing(hands: Hands) -> Vec<&'static str> {
    if hands == Hands::Crimp { vec!["crimping pliers", STRIPPER] } else { vec![STRIPPER] }
}

/// How a light is joined to its wires: pads or leads of its own, with data or without.
struct Join {
    pads: bool,
    data: bool,
    wires: usize,
}

impl Join {
    fn title(&self, hands: Hands, id: &str) -> String {
        if hands == Hands::Solder { format!("Solder the wires to {id}") } else { format!("Join the wires to {id}") }
    }

    fn minutes(&self, hands: Hands) -> f64 {
        let (begin, each) = match hands {
            Hands::Solder => (5.0, 4.0),
            Hands::Crimp => (3.0, 2.5),
            Hands::Plug => (2.0, 1.5),
        };
        begin + each * self.wires as f64 + if self.data { 2.0 } else { 0.0 }
    }

    fn how(&self, hands: Hands) -> String {
        let into = if hands == Hands::Crimp { "into butt connectors, pressed with the pliers" } else { "into lever clamps" };
        match (hands, self.pads) {
            (Hands::Solder, false) => "Its own leads to the wires: twist, solder, cover. Red to plus, unless its label says otherwise.".into(),
            (Hands::Solder, true) => format!(
                "Slide the heat-shrink onto the wire first. Melt a little solder on to each pad and each wire end first, then two seconds a joint{}.",
                if self.data { ", the data wire to the end that says IN" } else { "" }
            ),
            (_, false) => format!("Its own leads and the wires {into}. Red to plus, unless its label says otherwise."),
            (_, true) => format!(
                "Slide the end of the strip into a clip-on connector until it stops, its plus under the plus of the clip, and close it{}. The leads of the clip and the wires {into}.",
                if self.data { "; the end that says IN" } else { "" }
            ),
        }
    }

    fn why(&self, hands: Hands) -> &'static str {
        match hands {
            Hands::Solder => "What moves at a solder joint breaks it: a blob of glue beside it takes the strain.",
            _ => "Each wire is pulled at once: what comes out now would come out on the road.",
        }
    }

    fn tools(&self, hands: Hands) -> Vec<&'static str> {
        match (hands, self.pads) {
            (Hands::Solder, true) => vec![IRON, STRIPPER, GLASSES],
            (Hands::Solder, false) => vec![IRON, STRIPPER, CUTTERS, GLASSES],
            _ => pressing(hands),
        }
    }

    fn materials(&self, hands: Hands) -> Vec<String> {
        if hands == Hands::Solder {
            return vec![format!("{} cm of heat-shrink", 6 * self.wires)];
        }
        let mut all = vec![counted(2 * self.wires as u32, connector(hands))];
        if self.pads {
            all.push(counted(self.wires as u32, CLIP));
        }
        all
    }

    fn checks(&self, hands: Hands) -> Vec<String> {
        let hair = "No hair of wire from plus to minus: look with a magnifier; the meter must not beep.".to_owned();
        match hands {
            Hands::Solder => vec!["The heat-shrink is on the wire before the joint is made.".into(), hair],
            // Tin creeps away under pressure, and the wire comes out.
            _ => vec!["The strands are bare copper: coated ends come loose under pressure.".into(), "Pull at each wire: it stays.".into(), hair],
        }
    }
}

/// What a strip is connected by without an iron.
pub(crate) const CLIP: &str = "clip-on strip connector with leads";
