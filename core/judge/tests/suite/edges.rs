//! A severity changes exactly at its limit: a thousandth below it is one thing, the limit itself still that, a
//! thousandth above another. Limits of parts do not change the currents, so the figure is read once and the limit is
//! then put where it has to be.

use orthavis_judge::findings::{Finding, Severity};
use orthavis_judge::report::report;
use orthavis_model::document::Build;
use orthavis_testing::{case, changed};
use serde_json::{Value, json};

/// Which side of the comparison the field of the document is.
#[derive(Clone, Copy)]
enum Field {
    Limit,
    Figure,
}

/// What is found when figure / limit has this value.
type Step = (f64, Option<(Severity, &'static str)>);

struct Edge {
    base: &'static str,
    /// Edits before anything else.
    first: Value,
    /// The field that is moved, and a value at which the last step's finding is there.
    pointer: &'static str,
    there: f64,
    field: Field,
    subject: &'static str,
    steps: Vec<Step>,
}

const STOP: Severity = Severity::Stop;
const FIX: Severity = Severity::Fix;
const NOTE: Severity = Severity::Note;

/// One limit: nothing up to it, `code` above it.
fn one(severity: Severity, code: &'static str) -> Vec<Step> {
    vec![(0.5, None), (0.999, None), (1.0, None), (1.001, Some((severity, code))), (2.5, Some((severity, code)))]
}

/// Two limits, the first at a share of the second.
fn two(first: f64, mild: (Severity, &'static str), second: f64, hard: (Severity, &'static str)) -> Vec<Step> {
    vec![
        (0.5 * first, None),
        (0.999 * first, None),
        (first, None),
        (1.001 * first, Some(mild)),
        (0.999 * second, Some(mild)),
        (second, Some(mild)),
        (1.001 * second, Some(hard)),
        (2.0 * second, Some(hard)),
    ]
}

fn edges() -> Vec<Edge> {
    let limit = |base, pointer, there, subject, steps| Edge { base, first: json!([]), pointer, there, field: Field::Limit, subject, steps };
    vec![
        limit("deck-pixels", "/converters/0/feed/switch/rating_a", 0.01, "five", one(STOP, "switch.over")),
        limit("deck-pixels", "/converters/0/feed/contact_rating_a", 0.01, "five", one(STOP, "contact.over")),
        limit("hex-rail", "/source/max_current_a", 0.01, "source", two(0.8, (FIX, "source.near_limit"), 1.0, (STOP, "source.over"))),
        limit("deck-pixels", "/source/max_current_a", 0.01, "source", one(STOP, "source.over")),
        limit("chair-24v", "/source/tap_limit_a", 0.01, "source", one(STOP, "tap.over")),
        limit("deck-pixels", "/converters/0/max_out_a", 0.01, "five", two(0.8, (FIX, "converter.near_limit"), 1.0, (STOP, "converter.overload"))),
        limit("boost-and-driver", "/converters/0/max_in_a", 0.01, "lift", two(0.8, (FIX, "converter.near_limit"), 1.0, (STOP, "converter.overload"))),
        limit("bare-lipo-linear", "/converters/0/max_loss_w", 0.01, "five", two(0.6, (FIX, "converter.hot"), 1.0, (STOP, "converter.hot"))),
        limit("trike-arrays", "/converters/0/max_loss_w", 0.01, "twelve", two(0.6, (FIX, "converter.hot"), 1.0, (STOP, "converter.hot"))),
        limit("trike-arrays", "/converters/0/max_in_v", 20.0, "twelve", one(STOP, "converter.input_high")),
        limit("trike-arrays", "/lights/1/load/resistor_w", 0.001, "tail", two(0.6, (FIX, "resistor.hot"), 1.0, (STOP, "resistor.hot"))),
        limit("eight-metres-one-end", "/lights/0/load/rail_max_a", 0.1, "around", one(STOP, "strip.rail_over")),
        Edge {
            // Off, as a module above its limit draws nothing: lit just below, it would pull its own voltage down.
            first: json!([
                { "op": "replace", "path": "/lights/2/load/min_v", "value": 2.0 },
                { "op": "replace", "path": "/scenes", "value": [{ "id": "off", "name": "Off", "lights": {} }] },
                { "op": "replace", "path": "/usage/minutes", "value": {} },
            ]),
            ..limit("van-strips", "/lights/2/load/max_v", 3.0, "spots", one(STOP, "light.over_voltage"))
        },
        // Above the rated current, whatever the absolute limit says.
        Edge {
            first: json!([{ "op": "replace", "path": "/lights/1/load/resistor_ohm", "value": 82.0 }]),
            ..limit(
                "trike-arrays",
                "/lights/1/load/led/if_max_a",
                0.0201,
                "tail",
                vec![(0.9, Some((FIX, "led.over_rated"))), (1.0, Some((FIX, "led.over_rated"))), (1.001, Some((STOP, "led.over_max")))],
            )
        },
        // A strip that is off sees the whole voltage, and draws nothing that would change it.
        Edge {
            first: json!([
                { "op": "replace", "path": "/scenes/0/lights", "value": {} },
                { "op": "replace", "path": "/lights/0/load/led_vf_v", "value": 1.5 },
            ]),
            ..limit(
                "eight-metres-one-end",
                "/lights/0/load/voltage_v",
                10.0,
                "around",
                two(1.1, (FIX, "light.over_voltage"), 1.2, (STOP, "light.over_voltage")),
            )
        },
        Edge {
            first: json!([{ "op": "add", "path": "/lights/0/feeds/0/fuse", "value": { "style": "glass", "rating_a": 3.15 } }]),
            field: Field::Figure,
            ..limit(
                "rail-thin-wire",
                "/source/max_current_a",
                5000.0,
                "step",
                [
                    two(1.0, (NOTE, "fuse.breaking"), 3.0, (FIX, "fuse.breaking")),
                    vec![(9.999, Some((FIX, "fuse.breaking"))), (10.001, Some((STOP, "fuse.breaking")))],
                ]
                .concat(),
            )
        },
    ]
}

/// Of the codes of the steps, what is found of the subject.
fn found(build: &Build, edge: &Edge) -> Vec<Finding> {
    let codes: Vec<&str> = edge.steps.iter().filter_map(|(_, what)| what.map(|(_, code)| code)).collect();
    let report = report(build).unwrap_or_else(|error| panic!("{} {}: {error}", edge.base, edge.pointer));
    report.findings.into_iter().filter(|finding| finding.subject == edge.subject && codes.contains(&finding.code)).collect()
}

#[test]
fn a_severity_changes_at_its_limit_and_nowhere_else() {
    let mut wrong = Vec::new();
    for edge in edges() {
        let start = changed(&case(edge.base), &edge.first);
        let at = |value: f64| changed(&start, &json!([{ "op": "add", "path": edge.pointer, "value": value }]));
        let there = found(&at(edge.there), &edge);
        let [finding] = &there[..] else { panic!("{} {}: {} findings to start with", edge.base, edge.pointer, there.len()) };
        for &(ratio, expected) in &edge.steps {
            let value = match edge.field {
                Field::Limit => finding.value / ratio,
                Field::Figure => finding.limit * ratio,
            };
            let got: Vec<_> = found(&at(value), &edge).iter().map(|finding| (finding.severity, finding.code)).collect();
            if got != Vec::from_iter(expected) {
                wrong.push(format!("{} {} at {ratio} of the limit ({value}): {got:?}, not {expected:?}", edge.base, edge.pointer));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// A wire that no fuse protects is judged by how warm its supply can make it in the end.
#[test]
fn a_wire_without_a_fuse_is_judged_by_its_heat() {
    let start = case("rail-thin-wire");
    let feed = start.lights.iter().find(|light| light.id == "step").expect("a light").feeds[0].clone();
    let ends_c = |amps: f64| feed.gauge.settled_c(feed.bundled, amps);
    // The current that makes it just so warm, by halving.
    let amps = |degrees: f64| {
        (0..60).fold((0.0, 100.0), |(low, high), _| if ends_c(0.5 * (low + high)) < degrees { (0.5 * (low + high), high) } else { (low, 0.5 * (low + high)) }).0
    };
    let found = |amps: f64| {
        let build = changed(&start, &json!([{ "op": "replace", "path": "/source/max_current_a", "value": amps }]));
        let report = report(&build).expect("solved");
        report.findings.into_iter().find(|finding| finding.code == "fuse.missing" && finding.subject == "step").map(|finding| (finding.severity, finding.value))
    };
    for (degrees, expected) in [(79.9, None), (80.1, Some(FIX)), (104.9, Some(FIX)), (105.1, Some(STOP)), (400.0, Some(STOP))] {
        let found = found(amps(degrees));
        assert_eq!(found.map(|(severity, _)| severity), expected, "{degrees} °C");
        assert!(found.is_none_or(|(_, value)| (value - degrees).abs() < 0.01), "{degrees} °C: {found:?}");
    }
    assert!(amps(80.0) > feed.gauge.ampacity_a(feed.bundled), "ampacity is the careful figure");
}

/// Small packs of mild cells set nothing on fire: without a fuse they are a fix at most.
#[test]
fn mild_cells_want_a_fuse_and_are_no_danger() {
    let pack = |chemistry: &str, series: u32, capacity_ah: f64| {
        json!([{ "op": "replace", "path": "/source/chemistry", "value": chemistry }, { "op": "replace", "path": "/source/series", "value": series },
            { "op": "replace", "path": "/source/capacity_ah", "value": capacity_ah }, { "op": "replace", "path": "/converters/0/feed/fuse", "value": null }])
    };
    let severity = |changes: &Value| {
        let report = report(&changed(&case("trike-arrays"), changes)).expect("a report");
        report.findings.into_iter().find(|f| f.code == "fuse.missing").map(|f| f.severity)
    };
    assert_eq!(severity(&pack("nimh", 6, 2.0)), Some(FIX), "17 Wh");
    assert_eq!(severity(&pack("nimh", 10, 2.0)), Some(STOP), "28 Wh");
    assert_eq!(severity(&pack("lipo", 3, 1.0)), Some(STOP), "lithium burns however small");
    assert_eq!(severity(&pack("lithium_coin", 4, 0.22)), None, "a coin cell warms no wire");
}

/// The worst point is the one that is told: moving the limit past it silences the finding in every state and scene.
#[test]
fn the_figure_of_a_finding_is_the_worst_there_is() {
    for edge in edges().iter().filter(|edge| matches!(edge.field, Field::Limit)) {
        let start = changed(&case(edge.base), &edge.first);
        let build = changed(&start, &json!([{ "op": "add", "path": edge.pointer, "value": edge.there }]));
        let finding = &found(&build, edge)[0];
        let points = report(&build).expect("a solution").points;
        let worst = |figure: &dyn Fn(&orthavis_physics::points::PointReport) -> Option<f64>| {
            points.iter().filter_map(figure).fold(0.0_f64, |most, here| most.max(here.abs()))
        };
        let expected = match finding.code {
            "switch.over" | "contact.over" => worst(&|point| Some(point.feeds[edge.subject].current_a)),
            "source.over" | "tap.over" => worst(&|point| Some(point.source.current_a)),
            "converter.hot" => worst(&|point| Some(point.converters[edge.subject].loss_w)),
            "converter.input_high" => worst(&|point| Some(point.converters[edge.subject].in_v)),
            "converter.overload" if edge.pointer.ends_with("max_in_a") => worst(&|point| Some(point.converters[edge.subject].in_a)),
            "converter.overload" => worst(&|point| Some(point.converters[edge.subject].out_a)),
            "light.over_voltage" => worst(&|point| Some(point.lights[edge.subject].voltage_v)),
            _ => continue,
        };
        assert!((finding.value - expected).abs() <= 1e-12 * expected, "{} {}: {} of {expected}", edge.base, finding.code, finding.value);
    }
}
