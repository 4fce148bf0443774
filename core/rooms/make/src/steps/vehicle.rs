//! On the vehicle: parts in place, wires run, first power, and closed up.

use super::lights::{connector, joined, pressing};
use super::*;

impl Gathered<'_> {
    pub(super) fn vehicle(&mut self) {
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
            after: self.all_of(&[if self.hands() == Hands::Plug { "join:" } else { "cover:" }, "coat-2:", "wire:"]),
            checks: vec!["The meter shows nothing where the lights will be connected.".into()],
            caution: Some(battery_caution(build)),
            ..step("battery-off".into(), Phase::Vehicle, if track { "Take it off the track" } else { "Take the battery off" }.into(), 5.0)
        });
        let hands = self.hands();
        let bare = |id: &str| if hands == Hands::Plug { joined(hands, id) } else { format!("cover:{id}") };
        let parts: Vec<(String, String, Vec<String>)> = (build.lights.iter())
            .map(|light| (light.id.clone(), light.place.clone(), vec![bare(&light.id), format!("coat-2:{}", light.id)]))
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
                ..step(format!("fix:{id}"), Phase::Vehicle, format!("Fasten {id}{whereto} with {}", fixing.called()), 6.0 + if no_holes { 3.0 } else { 0.0 })
            });
        }
        for feed in build.feeds() {
            self.run(&feed);
        }
    }

    pub(super) fn run(&mut self, feed: &FeedRef<'_>) {
        let (build, hands) = (self.build, self.hands());
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
        let mut checks = vec![format!("{} that do not bite into the wire; a grommet at every edge that it passes.", counted(ties, "tie"))];
        if traits.contains(&Trait::Hot) {
            checks.push("A hand's width from brake, exhaust and motor all along, or a glass-fibre sleeve: plain insulation melts there.".into());
        }
        if moving {
            checks.push("Whatever moves there, moved both ways: the wire is never tight, and never in a gap that closes.".into());
        }
        self.add(Step {
            how: format!("Run plus and {} together and tie them every 15 cm.", if own.return_path == Return::Wire { "minus" } else { "whatever goes with it" }),
            why: "A wire that is held cannot chafe, and one beside the other keeps the loop small.",
            about: Some(id.clone()),
            tools: vec![CUTTERS],
            materials: vec![counted(ties, "cable tie"), format!("{:.2} m of wire", own.length_m)],
            after,
            checks,
            caution: moving.then(|| "A pinched wire is a short: keep out of every gap that closes.".to_owned()),
            undo: "new ties",
            ..step(format!("run:{id}"), Phase::Vehicle, format!("Run the wires to {id}"), 4.0 + 4.0 * own.length_m)
        });
        let mut last = format!("run:{id}");
        if own.contacts > 0 {
            self.add(Step {
                how: if hands == Hands::Plug {
                    "A pair with leads, as it is sold: its leads and the wires into lever clamps. The side that stays live gets the covered contacts.".into()
                } else {
                    "Crimp the pins, pull at each, push it home until it clicks. The side that stays live gets the covered contacts.".into()
                },
                why: "A pin that was not pulled at comes out on the road.",
                about: Some(id.clone()),
                tools: if hands == Hands::Plug { vec![STRIPPER] } else { vec!["crimping pliers", STRIPPER] },
                materials: vec![counted(own.contacts, "plug")],
                after: vec![last],
                checks: vec!["Plus to plus through the plug: the meter beeps. Plus to minus it does not.".into()],
                caution: (own.keyed == Some(false)).then(|| "It goes together both ways round: mark plus on both halves before anything hangs on it.".into()),
                undo: "a new plug",
                ..step(format!("plug:{id}"), Phase::Vehicle, format!("Fit the plug in the wire to {id}"), 8.0 * f64::from(own.contacts))
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
                tools: if hands == Hands::Solder { vec![IRON, STRIPPER, HEAT] } else { pressing(hands) },
                materials: vec![what.to_owned(), if hands == Hands::Solder { "heat-shrink".into() } else { counted(2_u32, connector(hands)) }],
                joints: if hands == Hands::Solder { 2 * (u32::from(fuse) + u32::from(switch)) } else { 0 },
                after: vec![last],
                checks: vec![if fuse { "Empty: the meter says open across the holder.".into() } else { "On it beeps, off it does not.".into() }],
                undo: "a new joint",
                ..step(format!("inline:{id}"), Phase::Vehicle, format!("Fit the {what} in the wire to {id}"), 8.0)
            });
        }
    }

    pub(super) fn power(&mut self) {
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
            readings: vec![Stage::Unpowered],
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
            readings: vec![Stage::Converter, Stage::FirstLight],
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
            readings: vec![Stage::Light, Stage::Scene, Stage::Warm],
            ..step("measured".into(), Phase::Power, "Measure against what is expected".into(), 12.0 + 2.0 * build.lights.len() as f64)
        });
    }

    pub(super) fn close(&mut self) {
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
        Fixing::QuickEpoxy | Fixing::SlowEpoxy => Some("Epoxy can cause allergy: wear gloves."),
        Fixing::Superglue => Some("It glues fingers in a second, and its vapour stings."),
        Fixing::ContactAdhesive => Some("Its solvent burns: no flame, a window open."),
        _ => None,
    }
}
