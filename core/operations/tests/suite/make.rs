//! Making as the page asks for it: plans that go on from what is done, lists that agree with each other.

use orthavis_core::budget::{self, Budget};
use orthavis_core::demo;
use orthavis_operations::ask;
use serde_json::{Value, json};

fn builds() -> Vec<Value> {
    demo::BUILDS.iter().map(|text| serde_json::from_str(text).expect("json")).collect()
}

fn answer(name: &str, question: &Value) -> Value {
    let answer = ask(name, question.to_string().as_bytes()).unwrap_or_else(|refusal| panic!("{name}: {}", refusal.detail));
    serde_json::from_slice(&answer).expect("json")
}

fn list<'a>(value: &'a Value, name: &str) -> &'a Vec<Value> {
    value[name].as_array().unwrap_or_else(|| panic!("{name}"))
}

#[test]
fn lists_of_one_build_agree() {
    for build in builds() {
        let document = json!({ "document": build });
        let (cuts, drawn, labels) = (answer("cuts", &document), answer("diagram", &document), answer("labels", &document));
        let shopping = answer("shopping", &json!({ "document": build, "stock": {} }));
        let made = answer("make", &json!({ "document": build, "day": "2026-11-27" }));
        let name = &build["name"];
        // What is cut is bought, and no less of it.
        for cut in list(&cuts, "cuts") {
            let line = list(&shopping, "lines").iter().find(|line| line["of"] == cut["of"]).unwrap_or_else(|| panic!("{name}: {} is not bought", cut["of"]));
            let (buy, length) = (line["buy"].as_f64().expect("a figure"), cut["length_m"].as_f64().expect("a figure"));
            assert!(buy >= length - 1e-6, "{name}: {buy} of {length}");
            let rolls: f64 = list(cut, "rolls").iter().map(|roll| roll["length_m"].as_f64().expect("a length")).sum();
            assert!((rolls - buy).abs() < 1e-3 || buy > rolls, "{name}: {} rolls {rolls}, bought {buy}", cut["of"]);
        }
        // Every conductor that is drawn has its flags.
        for wire in list(&drawn, "wires") {
            let own = labels.as_array().expect("labels").iter().filter(|label| label["kind"] == "wire" && label["part"] == wire["feed"]).count();
            assert!(own >= 2, "{name}: {} has {own} flags", wire["feed"]);
        }
        // Every part is fixed with what comes first, and what is proposed is never ruled out.
        for fixing in list(&made, "fixings") {
            assert_eq!(list(fixing, "ways").len(), 12);
            assert_eq!(fixing["ways"][0]["ruled_out"], false, "{name}: {}", fixing["part"]);
            let step = format!("fix:{}", fixing["part"].as_str().expect("a name"));
            assert!(list(&made, "steps").iter().any(|one| one["id"] == step.as_str()), "{name}: {step}");
        }
        let priced: f64 = list(&shopping, "lines").iter().filter(|line| line["buy"].as_f64() > Some(0.0)).filter_map(|line| line["cost"].as_f64()).sum();
        assert!((priced - shopping["cost"]["EUR"].as_f64().expect("euros")).abs() < 0.01, "{name}");
    }
}

#[test]
fn a_plan_goes_on_from_what_is_done_and_waits_for_what_cures() {
    let rover = builds().remove(2);
    let ask_at = |now: f64, done: Value| answer("make", &json!({ "document": rover, "day": "2026-11-27", "now": now, "done": done }));
    let fresh = ask_at(0.0, json!([]));
    let steps = list(&fresh, "steps");
    assert_eq!(list(&fresh["plan"], "placed").len(), steps.len());
    assert_eq!(fresh["plan"]["placed"][0]["at"][0]["from"], json!(18.5 * 60.0), "Friday at half past six");
    // The first five are ticked on Friday at eight; the rest begins after that, and nothing ticked is planned again.
    let done: Vec<Value> = steps.iter().take(5).map(|step| json!({ "step": step["id"], "at": 1200 })).collect();
    let later = ask_at(1200.0, json!(done));
    let placed = list(&later["plan"], "placed");
    assert_eq!(placed.len(), steps.len() - 5);
    assert!(placed.iter().all(|one| one["at"][0]["from"].as_f64() >= Some(1200.0)));
    assert!(placed.iter().all(|one| !done.iter().any(|tick| tick["step"] == one["step"])));
    // Varnish on a module that was set just now keeps its wiring waiting.
    let set = steps.iter().find(|step| step["id"].as_str().is_some_and(|id| id.starts_with("set:"))).expect("a module");
    let wire = set["id"].as_str().expect("a name").replace("set:", "wire:");
    let cured = ask_at(1150.0, json!([{ "step": set["id"], "at": 1150 }]));
    let begins =
        list(&cured["plan"], "placed").iter().find(|one| one["step"] == wire.as_str()).and_then(|one| one["at"][0]["from"].as_f64()).expect("its wiring");
    assert!(begins >= 1150.0 + set["wait"]["minutes"].as_f64().expect("minutes"), "{begins}");
    // A tick of a step that is no more is passed over.
    assert_eq!(list(&ask_at(0.0, json!([{ "step": "rows:gone", "at": 3 }]))["plan"], "placed").len(), steps.len());
}

#[test]
fn what_stands_against_building_is_named_in_words() {
    let mut named = 0;
    for build in builds() {
        let made = answer("make", &json!({ "document": build, "day": "2026-11-27" }));
        let verdict = answer("verdict", &json!({ "document": build }));
        let safe = !verdict["verdict"]["headline"].as_str().is_some_and(|headline| headline.contains("Not safe"));
        assert_eq!(list(&made, "stops").is_empty(), safe, "{}", build["name"]);
        named += list(&made, "stops").iter().filter(|title| title.as_str().is_some_and(|title| title.contains(": ") && !title.contains('.'))).count();
        // What waits for a safe build is what goes onto the vehicle, and everything after it.
        let waits: Vec<bool> = list(&made, "steps").iter().map(|step| step["wants_safe"] == true).collect();
        let first = waits.iter().position(|waits| *waits).expect("some wait");
        assert!(waits[first..].iter().all(|waits| *waits), "{}: once it waits, all that follows waits", build["name"]);
        assert!(list(&made, "steps")[..first].iter().all(|step| ["fit", "cut", "bench"].contains(&step["phase"].as_str().expect("a phase"))));
    }
    assert!(named >= 2);
}

#[test]
fn more_steps_than_can_be_laid_are_refused_with_what_is_large() {
    let mut trike = builds().pop().expect("a build");
    let strip = json!({ "kind": "strip", "voltage_v": 12.0, "power_w_per_m": 9.6, "segment_m": 0.05, "leds_per_segment": 3, "led_vf_v": 3.1, "rail_ohm_per_m": 0.06, "length_m": 5.0 });
    let feeds: Vec<Value> = (0..100).map(|at| json!({ "from": "source", "length_m": 1.0, "gauge": { "awg": 20 }, "at_m": 0.05 * f64::from(at) })).collect();
    let lights: Vec<Value> = (0..120).map(|index| json!({ "id": format!("l{index}"), "feeds": feeds, "load": strip })).collect();
    trike["lights"] = json!(lights);
    trike["scenes"] = json!([{ "id": "on", "lights": {} }]);
    trike["usage"] = json!({});
    let question = json!({ "document": trike, "day": "2026-11-27" }).to_string();
    let within = |steps| budget::run(Some(Budget::new(steps)), || ask("make", question.as_bytes()));
    let refusal = within(budget::USUAL).expect_err("too many");
    assert_eq!(refusal.kind, "too-large");
    assert!(refusal.detail.contains("steps of making"), "{}", refusal.detail);
    let called_off = Budget::new(budget::USUAL);
    called_off.call_off();
    assert_eq!(budget::run(Some(called_off), || ask("make", question.as_bytes())).expect_err("called off").status, 503);
}

#[test]
fn an_order_is_in_time_and_longer_deliveries_are_ordered_sooner() {
    let mut rover = builds().remove(2);
    let first = |build: &Value| {
        let made = answer("make", &json!({ "document": build, "day": "2026-11-27" }));
        list(&made["plan"], "order_by").iter().filter_map(|one| one["date"].as_str().map(str::to_owned)).min().expect("an order")
    };
    assert_eq!(first(&rover), "2026-11-27", "five days before Friday would be gone: today");
    rover["make"] = json!({ "begins": "2026-12-18" });
    assert_eq!(first(&rover), "2026-12-13", "five days before Friday");
    rover["make"] = json!({ "delivery_days": 21, "begins": "2026-12-18" });
    assert_eq!(first(&rover), "2026-11-27");
    rover["make"] = json!({ "delivery_days": 14, "begins": "2026-12-18" });
    assert_eq!(first(&rover), "2026-12-04");
    rover["make"] = json!({ "delivery_days": 0, "begins": "2026-12-04" });
    assert_eq!(first(&rover), "2026-12-04", "a first day of its own");
}
