//! The journal over time: series with the events on them, as figures, as a drawing (SVG 1.1) and as a table.

use crate::course::charged;
use crate::health::Health;
use crate::needs::Needs;
use crate::rides::RideSeen;
use crate::told::{Told, What};
use orthavis_model::journal::{EventKind, Happened, Kind, Reading};
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::table::Table;
use orthavis_model::working::plain;
use serde::Serialize;
use std::collections::BTreeMap;
use std::fmt::Write;

/// A point: seconds since 1970, and the figure.
pub type ChartPoint = (f64, f64);

/// One figure over time.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ChartSeries))]
pub struct Series {
    /// `soc`, `measured`, `computed`, `capacity`, `capacity_trend`, `resistance`, `resistance_trend`, `temperature`, `put_in`.
    pub key: &'static str,
    /// In words.
    pub label: &'static str,
    /// Unit of the figures.
    pub unit: &'static str,
    /// Joined by a line; else dots.
    pub line: bool,
    /// By time.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<[f64; 2]>))]
    pub points: Vec<ChartPoint>,
}

/// An event on a chart.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ChartEvent))]
pub struct Dot {
    /// The event.
    pub id: String,
    /// Seconds since 1970.
    pub s: f64,
    /// Its kind.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub kind: Kind,
    /// What it says, in a line.
    pub words: String,
}

/// A chart: series that share an axis, and what happened.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = JournalChart))]
pub struct Chart {
    /// `charge`, `outings`, `capacity`, `resistance`, `temperature`.
    pub key: &'static str,
    /// In words.
    pub title: &'static str,
    /// What is drawn.
    pub series: Vec<Series>,
}

/// A figure of each event that says it.
fn points(told: &[Told<'_>], of: impl Fn(&What) -> Option<f64>) -> Vec<ChartPoint> {
    told.iter().filter_map(|one| Some((one.at.s as f64, of(&one.what)?))).collect()
}

fn series(key: &'static str, label: &'static str, unit: &'static str, line: bool, points: Vec<ChartPoint>) -> Series {
    Series { key, label, unit, line, points }
}

fn seconds(text: &str) -> f64 {
    Moment::parse(text).map_or(0.0, |at| at.s as f64)
}

/// Every chart that has something on it.
pub fn charts(needs: Option<&Needs>, capacity_ah: f64, told: &[Told<'_>], rides: &[RideSeen], health: Option<&Health>, now: Moment) -> Vec<Chart> {
    let mut all = Vec::new();
    if let Some(needs) = needs {
        let (_, way) = charged(needs, capacity_ah, told, now);
        let way = way.iter().map(|state| (state.at.s as f64, 100.0 * state.soc)).collect();
        all.push(Chart { key: "charge", title: "How full", series: vec![series("soc", "How full, by charges, voltages and outings", "%", true, way)] });
    }
    let of = |figure: fn(&RideSeen) -> Option<f64>| rides.iter().filter_map(|ride| Some((seconds(&ride.at), 100.0 * figure(ride)?))).collect::<Vec<_>>();
    all.push(Chart {
        key: "outings",
        title: "Outings",
        series: vec![
            series("computed", "Computed, on the battery as it is", "%", true, of(|ride| Some(ride.computed))),
            series("measured", "Measured by rested voltages", "%", false, of(|ride| ride.measured)),
        ],
    });
    for (key, title, trend) in [
        ("capacity", "Capacity", health.and_then(|health| health.capacity.as_ref())),
        ("resistance", "Resistance", health.and_then(|health| health.resistance.as_ref())),
    ] {
        let Some(trend) = trend else { continue };
        let (unit, dots, line) =
            if key == "capacity" { ("Ah", "Each charge by itself", "Fitted over all") } else { ("ohm", "Each pair of readings", "Fitted over all") };
        let seen = trend.seen.iter().map(|seen| (seconds(&seen.at), seen.value)).collect();
        let fit = trend.line.iter().map(|point| (seconds(&point.at), point.value)).collect();
        let name = if key == "capacity" { ("capacity_trend", "capacity") } else { ("resistance_trend", "resistance") };
        all.push(Chart { key, title, series: vec![series(name.0, line, unit, true, fit), series(name.1, dots, unit, false, seen)] });
    }
    let degrees = points(told, |what| match what {
        What::Ride(ride) => ride.temperature_c,
        What::Charge(charge) => charge.temperature_c,
        _ => None,
    });
    all.push(Chart { key: "temperature", title: "Temperature", series: vec![series("temperature", "Outside", "°C", true, degrees)] });
    for chart in &mut all {
        chart.series.retain(|series| !series.points.is_empty());
    }
    all.retain(|chart| !chart.series.is_empty());
    all
}

/// A figure as it was written, without what arithmetic leaves behind its third decimal.
fn tidy(value: f64) -> f64 {
    (1e3 * value).round() / 1e3
}

/// What an event says, in a line.
pub fn in_words(one: &Told<'_>) -> String {
    match &one.what {
        What::Ride(ride) => {
            let mut said = format!("{} min out", plain((60.0 * ride.hours()).round(), "").trim());
            for (value, unit) in [(ride.distance_km, "km"), (ride.temperature_c, "°C")] {
                if let Some(value) = value.map(tidy) {
                    let _ = write!(said, ", {value} {unit}");
                }
            }
            if let (Some(from), Some(to)) = (ride.from_v.map(tidy), ride.to_v.map(tidy)) {
                let _ = write!(said, ", {from} to {to} V");
            }
            said
        }
        What::Charge(charge) => {
            let mut said = match (charge.from_v.map(tidy), charge.to_v.map(tidy)) {
                (Some(from), Some(to)) => format!("Charged from {from} to {to} V"),
                (Some(from), None) => format!("Charged from {from} V"),
                (None, Some(to)) => format!("Charged to {to} V"),
                (None, None) => "Charged".to_owned(),
            };
            for (value, unit) in [(charge.ah, "Ah"), (charge.wh, "Wh"), (charge.minutes, "min")] {
                if let Some(value) = value.map(tidy) {
                    let _ = write!(said, ", {value} {unit}");
                }
            }
            said
        }
        What::Reading(reading) => match (reading.resting_v.map(tidy), reading.loaded_v.map(tidy)) {
            (Some(rest), Some(load)) => format!("{rest} V at rest, {load} V with {}", reading.scene.as_deref().unwrap_or("lights on")),
            (Some(rest), None) => format!("{rest} V at rest"),
            (None, Some(load)) => format!("{load} V with {}", reading.scene.as_deref().unwrap_or("lights on")),
            (None, None) => "A reading".to_owned(),
        },
        What::Repair { was, words, mended } => {
            let what = if words.is_empty() { was } else { words };
            if mended.is_empty() { what.clone() } else { format!("{what}. {mended}") }
        }
        What::Part { part, change, pack } => match (change.as_str(), pack) {
            ("looked", _) => format!("Looked at {part}"),
            (change, Some(pack)) => format!("{part} {change}: {pack}"),
            (change, None) => format!("{part} {change}"),
        },
        What::Timer { what, until } => format!("{what} until {}", until.text().replace('T', " ").get(..16).unwrap_or_default()),
        What::Tick(step, done) => format!("{} {step}", if *done { "Done:" } else { "Not done:" }),
        What::Other => match Happened::of(one.event) {
            Some((Happened::Note(note), _)) => note.text.unwrap_or_default(),
            Some((Happened::Drill(drill), _)) => format!("Practised: {}", drill.fault.or(drill.topic).unwrap_or_default()),
            Some((Happened::Reading(reading), _)) => reading_in_words(&reading),
            Some((other, _)) => format!("A {}", other.kind().word()),
            None => format!("{}, which a newer version wrote", one.event.kind.word()),
        },
    }
}

/// A reading at the bench: where, what, and how it was judged then.
fn reading_in_words(reading: &Reading) -> String {
    let probes = reading.probes.iter().flatten().map(String::as_str).collect::<Vec<_>>();
    let mut said = if probes.is_empty() { "A reading".to_owned() } else { format!("Read {}", probes.join(" to ")) };
    let shown = reading.value.map_or_else(|| "open".to_owned(), |value| plain(value, reading.unit.as_deref().unwrap_or_default()));
    let _ = write!(said, ": {shown}");
    if let Some(verdict) = &reading.verdict {
        let _ = write!(said, ", {verdict}");
    }
    said
}

/// Every event that stands, as points on the charts.
pub fn dots(told: &[Told<'_>]) -> Vec<Dot> {
    told.iter().map(|one| Dot { id: one.event.id.clone(), s: one.at.s as f64, kind: one.event.kind.clone(), words: in_words(one) }).collect()
}

/// The journal as a table: one row an event, its figures in columns.
pub fn table(told: &[Told<'_>], rides: &[RideSeen]) -> Table {
    const COLUMNS: [(&str, &str, &str); 10] = [
        ("at", "When", ""),
        ("kind", "Kind", ""),
        ("words", "What", ""),
        ("minutes", "Time", "min"),
        ("temperature_c", "Temperature", "°C"),
        ("from_v", "From", "V"),
        ("to_v", "To", "V"),
        ("ah", "Put in", "Ah"),
        ("measured", "Took, measured", "1"),
        ("computed", "Took, computed", "1"),
    ];
    let by_id: BTreeMap<&str, &RideSeen> = rides.iter().map(|ride| (ride.id.as_str(), ride)).collect();
    let mut table = Table::new("journal", "What happened", &COLUMNS);
    for one in told {
        let (mut minutes, mut degrees, mut from, mut to, mut ah) = (None, None, None, None, None);
        match &one.what {
            What::Ride(ride) => (minutes, degrees, from, to) = (Some(60.0 * ride.hours()), ride.temperature_c, ride.from_v, ride.to_v),
            What::Charge(charge) => (minutes, degrees, from, to, ah) = (charge.minutes, charge.temperature_c, charge.from_v, charge.to_v, charge.ah),
            What::Reading(reading) => (degrees, from, to) = (reading.temperature_c, reading.resting_v, reading.loaded_v),
            _ => {}
        }
        let seen = by_id.get(one.event.id.as_str());
        table.rows.push(vec![
            one.event.at.as_str().into(),
            one.event.kind.word().into(),
            in_words(one).as_str().into(),
            minutes.into(),
            degrees.into(),
            from.into(),
            to.into(),
            ah.into(),
            seen.and_then(|ride| ride.measured).into(),
            seen.map(|ride| ride.computed).into(),
        ]);
    }
    table
}

/// Width and height of a drawing, and what is left around the figures, in points.
const SIZE: (f64, f64) = (960.0, 360.0);
const ROOM: [f64; 4] = [16.0, 20.0, 34.0, 56.0];

/// A chart from one moment to another as a drawing of its own. Nothing where it has no points.
pub fn svg(chart: &Chart, dots: &[Dot], from: f64, to: f64) -> String {
    let within = |point: &&ChartPoint| point.0 >= from && point.0 <= to;
    let values: Vec<f64> = chart.series.iter().flat_map(|series| series.points.iter().filter(within).map(|point| point.1)).collect();
    let (low, high) = values.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| (low.min(*value), high.max(*value)));
    let (low, high) = if values.is_empty() {
        (0.0, 1.0)
    } else if high - low < 1e-9 {
        (low - 1.0, high + 1.0)
    } else {
        (low - 0.05 * (high - low), high + 0.05 * (high - low))
    };
    let x = |s: f64| ROOM[3] + (s - from) / (to - from).max(1.0) * (SIZE.0 - ROOM[3] - ROOM[1]);
    let y = |value: f64| SIZE.1 - ROOM[2] - (value - low) / (high - low) * (SIZE.1 - ROOM[0] - ROOM[2]);
    let escaped = |text: &str| text.replace('&', "&amp;").replace('<', "&lt;").replace('"', "&quot;");
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" viewBox=\"0 0 {} {}\" font-family=\"sans-serif\" font-size=\"12\">\n<title>{}</title>\n",
        SIZE.0,
        SIZE.1,
        escaped(chart.title)
    );
    for mark in ticks(low, high, 5) {
        let at = y(mark);
        let _ = writeln!(out, "<line x1=\"{}\" x2=\"{}\" y1=\"{at:.1}\" y2=\"{at:.1}\" stroke=\"#ccc\"/>", ROOM[3], SIZE.0 - ROOM[1]);
        let _ = writeln!(out, "<text x=\"{}\" y=\"{:.1}\" text-anchor=\"end\">{}</text>", ROOM[3] - 6.0, at + 4.0, plain_mark(mark, high - low));
    }
    for (s, label) in months(from, to) {
        let at = x(s);
        let _ = writeln!(out, "<line x1=\"{at:.1}\" x2=\"{at:.1}\" y1=\"{}\" y2=\"{}\" stroke=\"#eee\"/>", ROOM[0], SIZE.1 - ROOM[2]);
        let _ = writeln!(out, "<text x=\"{at:.1}\" y=\"{}\">{label}</text>", SIZE.1 - ROOM[2] + 18.0);
    }
    for dot in dots.iter().filter(|dot| dot.s >= from && dot.s <= to && matches!(dot.kind, Kind::Known(EventKind::Fault | EventKind::Part))) {
        let at = x(dot.s);
        let _ = writeln!(
            out,
            "<line x1=\"{at:.1}\" x2=\"{at:.1}\" y1=\"{}\" y2=\"{}\" stroke=\"#b3261e\" stroke-dasharray=\"3 3\"><title>{}</title></line>",
            ROOM[0],
            SIZE.1 - ROOM[2],
            escaped(&dot.words)
        );
    }
    for (index, series) in chart.series.iter().enumerate() {
        let colour = ["#8a5a00", "#005ea8"][index % 2];
        let shown: Vec<&ChartPoint> = series.points.iter().filter(within).collect();
        if series.line {
            let way: Vec<String> = shown.iter().map(|(s, value)| format!("{:.1},{:.1}", x(*s), y(*value))).collect();
            let _ = writeln!(out, "<polyline fill=\"none\" stroke=\"{colour}\" stroke-width=\"1.5\" points=\"{}\"/>", way.join(" "));
        } else {
            for (s, value) in shown {
                let _ = writeln!(out, "<circle cx=\"{:.1}\" cy=\"{:.1}\" r=\"3\" fill=\"{colour}\"/>", x(*s), y(*value));
            }
        }
        let _ = writeln!(
            out,
            "<text x=\"{}\" y=\"{}\" fill=\"{colour}\">{} {}, {}</text>",
            ROOM[3] + 8.0,
            ROOM[0] + 14.0 * (index as f64 + 1.0),
            if series.line { "—" } else { "●" },
            escaped(series.label),
            series.unit
        );
    }
    out + "</svg>\n"
}

/// Round figures between two.
fn ticks(low: f64, high: f64, count: usize) -> Vec<f64> {
    let raw = (high - low) / count as f64;
    let size = 10f64.powf(raw.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0].into_iter().map(|times| times * size).find(|step| *step >= raw).unwrap_or(raw);
    let first = (low / step).ceil() as i64;
    (first..).map(|n| n as f64 * step).take_while(|mark| *mark <= high).take(2 * count + 2).collect()
}

fn plain_mark(mark: f64, span: f64) -> String {
    let digits = (1.0 - span.max(1e-9).log10().floor()).clamp(0.0, 4.0) as usize;
    format!("{mark:.digits$}")
}

/// First days of months, no more than a dozen.
fn months(from: f64, to: f64) -> Vec<(f64, String)> {
    use orthavis_model::moment::{date_of, day_of};
    let (first, last) = ((from / DAY_S as f64).floor() as i64, (to / DAY_S as f64).ceil() as i64);
    if last - first > 400 * 366 {
        return Vec::new();
    }
    let mut all = Vec::new();
    let mut day = first;
    while day <= last {
        let date = date_of(day);
        let begin = if date.ends_with("-01") {
            all.push((day as f64 * DAY_S as f64, date[..7].to_owned()));
            day
        } else {
            day_of(&format!("{}-01", &date[..7])).unwrap_or(day)
        };
        day = begin + 32;
        day = day_of(&format!("{}-01", &date_of(day)[..7])).unwrap_or(day);
    }
    let each = all.len().div_ceil(12).max(1);
    all.into_iter().filter(|(s, _)| *s >= from && *s <= to).step_by(each).collect()
}
