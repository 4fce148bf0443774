//! Builds as people might draw them on a bad day: any source, converters behind converters, strips fed at several
//! places, fuses of any size. The same number always gives the same build.

use serde_json::{Map, Value, json};

/// SplitMix64.
pub struct Dice(pub u64);

impl Dice {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    fn share(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }

    fn between(&mut self, low: f64, high: f64) -> f64 {
        // Four figures, as people type them.
        let value = low + (high - low) * self.share();
        format!("{value:.3e}").parse().expect("a number")
    }

    fn upto(&mut self, most: u64) -> u64 {
        self.next() % (most + 1)
    }

    fn chance(&mut self, share: f64) -> bool {
        self.share() < share
    }

    fn pick<T: Clone>(&mut self, from: &[T]) -> T {
        from[self.next() as usize % from.len()].clone()
    }

    /// Dice of their own: what came later leaves the builds as they were.
    fn beside(&self) -> Dice {
        Dice(self.0 ^ 0x5851_F42D_4C95_7F2D)
    }

    /// More such dice, one of each for what is drawn with them.
    fn aside(&self, of: u64) -> Dice {
        Dice(self.0 ^ 0x9E37_79B9_7F4A_7C15u64.wrapping_mul(of + 1))
    }

    fn maybe(&mut self, share: f64, value: impl FnOnce(&mut Self) -> Value) -> Value {
        if self.chance(share) { value(self) } else { Value::Null }
    }

    fn feed(&mut self, from: &str, at_m: f64) -> Value {
        let gauge = if self.chance(0.6) {
            json!({ "awg": self.pick(&[28, 26, 24, 22, 20, 18, 16, 14, 12]) })
        } else {
            json!({ "mm2": self.pick(&[0.14, 0.25, 0.5, 0.75, 1.0, 1.5, 2.5]) })
        };
        let fuse = self.maybe(0.5, |dice| {
            let (style, ratings) = dice.pick(&[
                ("blade", [1.0, 3.0, 5.0, 10.0, 6.0]),
                ("blade_58v", [1.0, 3.0, 7.5, 15.0, 8.0]),
                ("ceramic", [0.5, 2.0, 3.15, 10.0, 3.0]),
                ("glass", [0.5, 1.0, 2.0, 5.0, 3.0]),
                ("ptc", [0.5, 1.1, 2.0, 3.0, 4.0]),
            ]);
            let side = dice.aside(2).maybe(0.15, |dice| json!(dice.pick(&["plus", "minus"])));
            json!({ "style": style, "rating_a": dice.pick(&ratings), "side": side })
        });
        let mut hazards = self.aside(3);
        let (keyed, contact_v) = (hazards.maybe(0.3, |dice| json!(dice.chance(0.5))), hazards.maybe(0.5, |dice| json!(dice.pick(&[24.0, 36.0, 60.0]))));
        let switch_v = hazards.maybe(0.6, |dice| json!(dice.pick(&[14.0, 24.0, 60.0])));
        let length_m = self.between(0.05, 4.0);
        let fuse = far(fuse, length_m, hazards.maybe(0.2, |dice| json!(dice.share())));
        json!({ "from": from, "at_m": at_m, "length_m": length_m, "keyed": keyed, "contact_rating_v": contact_v, "gauge": gauge, "return": if self.chance(0.2) { "frame" } else { "wire" }, "fuse": fuse,
            "switch": self.maybe(0.2, |dice| json!({ "rating_a": dice.pick(&[0.5, 1.0, 3.0, 10.0]), "rating_v": switch_v })), "contacts": self.upto(3), "moving": self.beside().maybe(0.1, |dice| json!({ "kind": "slip_ring", "resistance_ohm": dice.between(0.0, 0.15), "bounce_share": dice.between(0.0, 0.05) })),
            "contact_rating_a": self.maybe(0.3, |dice| json!(dice.pick(&[0.3, 1.0, 3.0, 10.0]))), "bundled": self.pick(&[1, 1, 1, 2, 4, 8]) })
    }

    fn led(&mut self, high_power: bool) -> Value {
        let (vf, rated) = (self.between(1.9, 3.4), if high_power { self.pick(&[0.3, 0.35, 0.7]) } else { self.pick(&[0.01, 0.02, 0.05, 0.15]) });
        json!({ "colour": "white", "vf_v": vf, "if_a": rated, "if_max_a": rated * self.pick(&[1.1, 1.5]), "n": self.maybe(0.3, |dice| json!(dice.between(1.2, 3.0))),
            "rs_ohm": self.maybe(0.3, |dice| json!(dice.between(0.02, 0.15) * vf / rated)) })
    }

    /// A light for about this voltage, and its length.
    fn load(&mut self, volts: f64) -> (Value, f64) {
        let fit = volts * self.between(0.85, 1.25);
        match self.upto(3) {
            0 => {
                let high_power = self.chance(0.15);
                let led = self.led(high_power);
                let (vf, rated) = (led["vf_v"].as_f64().expect("set"), led["if_a"].as_f64().expect("set"));
                let series = ((fit * self.between(0.4, 0.95) / vf).floor()).max(1.0);
                let ohm = if self.chance(0.05) { 0.0 } else { ((fit - series * vf) / rated * self.between(0.7, 2.0)).abs().max(0.5) };
                let array = json!({ "kind": "led_array", "led": led, "series": series as u64, "parallel": 1 + self.upto(7), "resistor_ohm": ohm, "resistor_w": self.pick(&[0.125, 0.25, 0.5, 2.0]),
                    "shared_resistor": self.aside(4).chance(0.3), "sink_k_per_w": self.aside(5).maybe(0.5, |dice| json!(dice.pick(&[4.0, 15.0, 60.0]))) });
                (array, 0.0)
            }
            1 => {
                let (vf, rated_v) = (self.between(2.0, 3.3), self.pick(&[5.0f64, 12.0, 24.0]));
                let rated_v = if (rated_v - fit).abs() > 0.5 * fit { fit } else { rated_v };
                let count = ((rated_v * 0.85 / vf).floor()).max(1.0);
                let volt = rated_v.max(count * vf * 1.05);
                let segment = self.pick(&[0.05, 0.1, 0.0167]);
                let length = segment * (2 + self.upto(12)) as f64 * if self.chance(0.15) { 1.03 } else { 1.0 };
                let rails = self.pick(&[0.03, 0.1, 0.8]);
                let recut = self.beside().maybe(0.25, |dice| {
                    let rows = 1 + dice.upto(count as u64 - 1);
                    json!({ "groups": rows, "used": rows, "resistor_ohm": dice.between(20.0, 800.0) })
                });
                (
                    json!({ "kind": "strip", "recut": recut, "voltage_v": volt, "power_w_per_m": self.between(3.0, 30.0), "segment_m": segment, "leds_per_segment": count as u64, "led_vf_v": vf,
                    "rail_ohm_per_m": rails, "rail_max_a": self.maybe(0.3, |dice| json!(dice.between(0.1, 3.0))), "length_m": length }),
                    length,
                )
            }
            2 => {
                let (pitch, count) = (self.pick(&[0.0167, 0.0333, 0.1]), 1 + self.upto(25));
                let (low, high) = (self.between(0.35, 0.55), self.between(0.6, 0.8));
                (
                    json!({ "kind": "pixels", "voltage_v": fit, "channel_a": [0.012, self.between(0.005, 0.02), 0.012], "idle_a": 0.0008, "pitch_m": pitch, "rail_ohm_per_m": self.pick(&[0.06, 0.2, 2.0]),
                    "regulation_v": [low * fit, high * fit, high * fit], "off_v": [0.3 * fit, 0.5 * fit, 0.5 * fit], "count": count }),
                    pitch * count as f64,
                )
            }
            _ => {
                let draw = self.pick(&["constant_power", "constant_current", "resistive", "filament"]);
                (
                    json!({ "kind": "module", "draw": draw, "voltage_v": fit, "power_w": self.between(0.2, 15.0), "min_v": fit * self.between(0.4, 0.95), "max_v": fit * self.between(1.02, 2.5), "inrush_a": self.aside(6).maybe(0.3, |dice| json!(dice.between(0.5, 30.0))) }),
                    0.0,
                )
            }
        }
    }

    fn source(&mut self) -> (Value, f64) {
        if self.chance(0.2) {
            let volts = self.pick(&[5.0, 12.0, 24.0]);
            return (
                json!({ "kind": "rail", "voltage_v": volts, "resistance_ohm": self.between(0.005, 0.1), "max_current_a": self.between(0.5, 8.0), "other_load_a": self.between(0.0, 0.6), "min_load_a": self.aside(7).maybe(0.4, |dice| json!(dice.between(0.02, 1.5))) }),
                volts,
            );
        }
        let (chemistry, cell) = self.pick(&[
            ("li_ion", 3.7),
            ("lipo", 3.8),
            ("lifepo4", 3.26),
            ("lead_flooded", 2.0),
            ("lead_agm", 2.03),
            ("nimh", 1.25),
            ("alkaline", 1.25),
            ("lithium_coin", 2.92),
        ]);
        let series = (self.between(5.0, 40.0) / cell).ceil();
        let capacity = self.between(1.0, 80.0);
        let battery = json!({ "kind": "battery", "chemistry": chemistry, "series": series as u64, "parallel": 1, "capacity_ah": capacity, "rated_hours": self.pick(&[1.0, 5.0, 20.0]),
            "resistance_ohm": self.maybe(0.3, |dice| json!(dice.between(0.005, 0.3))), "max_current_a": self.between(1.0, 30.0), "usable_fraction": self.maybe(0.3, |dice| json!(dice.between(0.3, 0.95))),
            "peukert": self.maybe(0.3, |dice| json!(dice.between(1.0, 1.3))), "charge_v": null, "used_while_charging": self.chance(0.4), "charged_by": self.aside(8).maybe(0.5, |dice| json!(dice.pick(&["charger", "engine", "sun"]))),
            "protected": self.maybe(0.3, |dice| json!(dice.chance(0.5))), "tap": self.pick(&["main", "main", "main", "accessory", "balance_lead", "one_of_series"]), "tap_limit_a": self.maybe(0.3, |dice| json!(dice.between(0.3, 5.0))) });
        (battery, series * cell)
    }

    fn converter(&mut self, id: &str, from: &str, volts: f64) -> (Value, f64) {
        let kind = self.pick(&["buck", "buck", "boost", "buck_boost", "linear", "current_driver"]);
        let set = match kind {
            "boost" => volts * self.between(0.9, 2.0),
            "buck_boost" => volts * self.between(0.4, 1.8),
            _ => volts * self.between(0.25, 1.05),
        };
        let efficiency = if self.chance(0.6) {
            json!(self.between(0.7, 0.97))
        } else {
            json!([{ "vin_v": 0.6 * volts, "efficiency": self.between(0.6, 0.9) }, { "vin_v": volts, "efficiency": 0.93 }, { "vin_v": 1.5 * volts, "efficiency": 0.85 }])
        };
        let driver = kind == "current_driver";
        let part = json!({ "id": id, "feed": self.feed(from, 0.0), "kind": kind, "set_v": if driver { Value::Null } else { json!(set) }, "set_a": if driver { json!(self.between(0.1, 0.8)) } else { Value::Null },
            "min_in_v": volts * self.pick(&[0.3, 0.5, 0.7, 0.9, 0.97]), "max_in_v": volts * self.pick(&[1.05, 1.3, 3.0]), "max_out_a": self.between(0.3, 8.0), "max_in_a": self.maybe(0.3, |dice| json!(dice.between(0.3, 5.0))),
            "dropout_v": self.between(0.05, 1.5), "pass_drop_v": self.between(0.1, 0.8), "efficiency": efficiency, "idle_a": self.between(0.0, 0.02), "max_loss_w": self.maybe(0.4, |dice| json!(dice.between(0.2, 8.0))), "mass_g": 8.0,
            "reverse_ok": self.aside(9).maybe(0.3, |dice| json!(dice.chance(0.5))), "inrush_a": self.aside(10).maybe(0.3, |dice| json!(dice.between(1.0, 40.0))) });
        (part, set)
    }

    pub fn build(&mut self) -> Value {
        let (source, volts) = self.source();
        // Who can supply, at about what voltage.
        let mut gives: Vec<(String, f64)> = vec![("source".into(), volts)];
        let mut drivers: Vec<(String, f64)> = Vec::new();
        let (mut junctions, mut converters) = (Vec::new(), Vec::new());
        for index in 0..self.upto(5) {
            let (from, volts) = self.pick(&gives);
            if self.chance(0.4) {
                let id = format!("block-{index}");
                junctions.push(json!({ "id": id, "feed": self.feed(&from, 0.0) }));
                gives.push((id, volts));
                continue;
            }
            let id = format!("converter-{index}");
            let (part, out) = self.converter(&id, &from, volts);
            if part["kind"] == "current_driver" {
                drivers.push((id, volts))
            } else {
                gives.push((id, out))
            }
            converters.push(part);
        }
        let mut lights = Vec::new();
        for (index, (driver, volts)) in drivers.into_iter().enumerate() {
            let led = self.led(true);
            let series = (volts * self.between(0.2, 1.0) / led["vf_v"].as_f64().expect("set")).floor().max(1.0) as u64;
            let array = json!({ "kind": "led_array", "led": led, "series": series, "parallel": 1 + self.upto(1), "resistor_ohm": 0.0, "resistor_w": 0.25 });
            lights.push(json!({ "id": format!("driven-{index}"), "feeds": [self.feed(&driver, 0.0)], "load": array, "mass_g": 5.0 }));
        }
        for index in 0..1 + self.upto(4) {
            let (from, volts) = self.pick(&gives);
            let (load, length) = self.load(volts);
            let mut feeds = vec![self.feed(&from, 0.0)];
            for _ in 0..if length > 0.0 { self.upto(2) } else { 0 } {
                let at = length * self.pick(&[0.5, 1.0, 0.37]);
                // Now and then from another supply of about the same voltage.
                let twins: Vec<String> = gives.iter().filter(|(_, other)| (other / volts - 1.0).abs() < 0.25).map(|(id, _)| id.clone()).collect();
                let other = if self.chance(0.4) { self.pick(&twins) } else { from.clone() };
                feeds.push(self.feed(&other, at));
            }
            let place = if self.beside().chance(0.2) { "motor" } else { "rail" };
            let (profile, reverse_ok) = (self.aside(12).chance(0.3), self.aside(13).maybe(0.2, |dice| json!(dice.chance(0.5))));
            lights.push(json!({ "id": format!("light-{index}"), "place": place, "feeds": feeds, "load": load, "mass_g": 5.0, "profile": profile, "reverse_ok": reverse_ok }));
        }
        let mut scenes = Vec::new();
        for index in 0..1 + self.upto(1) {
            let mut lit = Map::new();
            for light in &lights {
                if self.chance(0.8) {
                    let level = if self.chance(0.5) { 1.0 } else { self.between(0.15, 1.0) };
                    let colour = self.pick(&[json!([1, 1, 1]), json!([1, 0, 0]), json!([1, 0.5, 0]), json!([0, 0, 1]), json!([0, 0, 0])]);
                    lit.insert(
                        light["id"].as_str().expect("set").into(),
                        json!({ "level": level, "colour": colour, "duty": if self.chance(0.2) { 0.5 } else { 1.0 } }),
                    );
                }
            }
            scenes.push(json!({ "id": format!("scene-{index}"), "lights": lit }));
        }
        let kind = self.pick(&["skateboard", "bicycle", "wheelchair", "rc_model", "drone", "rv", "other"]);
        // Up to what sags the pack by a tenth.
        let of_source = |field: &str| source[field].as_f64().unwrap_or(0.0);
        let most_w = of_source("series") * of_source("max_current_a");
        let propulsion = self.beside().maybe(0.3, |dice| json!({ "power_w": dice.between(0.0, most_w), "speed_kmh": 12.0 }));
        json!({ "format": "orthavis.build/1", "name": "any", "vehicle": { "kind": kind, "mass_kg": 10.0, "frame_return_ohm": self.maybe(0.5, |dice| json!(dice.between(0.01, 0.4))),
            "propulsion": propulsion }, "places": [{ "name": "motor", "traits": ["hot"] }, { "name": "rail", "traits": [], "surface": self.aside(11).pick(&["wood", "foam", "metal", "plastic"]) }], "source": source,
            "junctions": junctions, "converters": converters, "lights": lights, "standing": [{ "id": "alarm", "current_a": self.between(0.0, 0.1), "hours_per_day": 24.0 }], "scenes": scenes })
    }
}

/// A fuse so far down its wire, where this says how far.
fn far(mut fuse: Value, length_m: f64, share: Value) -> Value {
    if let (Some(share), false) = (share.as_f64(), fuse.is_null()) {
        fuse["at_m"] = json!(share * length_m);
    }
    fuse
}
