//! How a battery ages, from what went into it at charges and how far its voltage gave way under known loads.
//!
//! A charge from one rested voltage to another (or to full) moves the state of charge by `Δs`, with `Q·η` of charge kept.
//! What scatters is `Δs`, not `Q`, so `Δs·f(ϑ) = Q·η / C` is fitted for `C`, which may change evenly with time; the
//! other way round scatter would make every pack look smaller than it is. Charges that lie far off count less.

use crate::needs::{CURVE, Needs};
use crate::told::{Told, What};
use orthavis_model::laws::conditions::resistance_factor;
use orthavis_model::laws::habits::habits_of;
use orthavis_model::moment::date_of;
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::working::{Fact, Rule, fact, plain, quantity};
use serde::Serialize;

/// Charges that a capacity wants at least.
pub const LEAST: usize = 3;
/// Share of the printed capacity at which a pack is called worn out.
pub const WORN: f64 = 0.7;
/// Share of the charge below which a charge tells nothing of the capacity.
const TOO_SMALL: f64 = 0.05;
/// What a charger's or meter's count of charge scatters by.
const COUNT: f64 = 0.02;
/// How far "full" may be off, as a share of the charge.
const FULL: f64 = 0.01;
/// Of the voltage at which the charger holds it: from here on it is full.
const HELD: f64 = 0.985;
/// What a meter may be wrong by all the time, as a share of what it shows: half of its printed accuracy.
const METER: f64 = 0.0025;
/// What the counter of a charger may be wrong by all the time.
const COUNTER: f64 = 0.01;
/// Growth of the capacity in a year before anything is known, relative, and how far that may be off.
const AGES: (f64, f64) = (-0.05, 0.15);
/// The same of the resistance.
const STIFFENS: (f64, f64) = (0.05, 0.3);
/// Rounds of the fit.
const ROUNDS: usize = 16;
/// Residuals beyond this many standard deviations count less.
const FAR: f64 = 2.5;
/// Observations beyond this many tell their own scatter; it is taken for no less than this share of the expected.
const MANY: usize = 9;
/// Standard deviation over the median of the sizes of what is scattered so.
const MEDIAN: f64 = 1.4826;
const LITTLE: f64 = 0.15;
/// Days over which a trend can be told at all.
const TREND_DAYS: f64 = 45.0;
const YEAR_S: f64 = 365.25 * DAY_S as f64;

/// What one charge or reading says.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = SeenFigure))]
pub struct Seen {
    /// The event.
    pub id: String,
    /// When.
    pub at: String,
    /// What it says by itself, Ah or ohm, at 25 °C.
    pub value: f64,
    /// How far that may be off (one standard deviation).
    pub give: f64,
}

/// A figure that changes with time.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Trend {
    /// Now.
    pub now: Fact,
    /// How far that may be off (one standard deviation).
    pub give: f64,
    /// Change in a year, in the unit of `now`; absent where the time is too short to tell.
    pub a_year: Option<f64>,
    /// How far the change may be off (one standard deviation).
    pub a_year_give: Option<f64>,
    /// What it was at the first observation, and is now.
    pub line: Vec<TrendPoint>,
    /// What each event says by itself.
    pub seen: Vec<Seen>,
}

/// A figure at a moment, as it was fitted.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrendPoint {
    /// When.
    pub at: String,
    /// The figure.
    pub value: f64,
    /// How far it may be off (one standard deviation).
    pub give: f64,
}

/// When a pack is worn out.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WornOut {
    /// The day, as the trend goes.
    pub date: String,
    /// The day if it goes as fast as it well may.
    pub early: String,
    /// The day if it goes as slowly as it well may; absent: not within twenty years.
    pub late: Option<String>,
}

/// How the battery is.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Health {
    /// In a sentence.
    pub words: String,
    /// What it holds; absent until three part charges are written down.
    pub capacity: Option<Trend>,
    /// Of what is printed on it; absent with the capacity.
    pub left: Option<Fact>,
    /// Its resistance; absent until three pairs of readings at rest and under load are written down.
    pub resistance: Option<Trend>,
    /// When it is down to 70 %; absent where no loss shows.
    pub worn_out: Option<WornOut>,
    /// Charges with voltages and charge that went in.
    pub charges: usize,
    /// Pairs of readings at rest and under a known load.
    pub readings: usize,
}

/// An observation of a figure that changes evenly with time.
struct Point {
    id: String,
    at: Moment,
    /// What was seen: the resistance itself, or how far a charge moved the state of charge.
    y: f64,
    give: f64,
    /// The charge that moved it, `y = q / C`; `None`: `y` is the figure itself.
    q: Option<f64>,
    /// How far `y` is off, as a share, where the meter, the counter and the curve are wrong all the time.
    lasting: f64,
    /// The figure by itself.
    alone: f64,
    alone_give: f64,
}

impl Point {
    /// The figure that this observation asks for beside a figure that is nearly right, and its scatter.
    fn beside(&self, near: f64) -> (f64, f64) {
        match self.q {
            None => (self.y, self.give),
            // Straight line through `q / C` at that figure.
            Some(q) => {
                let slope = q / (near * near);
                (near - (self.y - q / near) / slope, self.give / slope)
            }
        }
    }
}

/// `g + h·τ`, with its covariance; τ in years from `mid_s`.
struct Line {
    g: f64,
    h: f64,
    var: [f64; 3],
    mid_s: f64,
    long: bool,
    /// What stays off however many observations there are, as a share.
    lasting: f64,
}

impl Line {
    /// Value and standard deviation.
    fn at(&self, s: i64) -> (f64, f64) {
        let tau = (s as f64 - self.mid_s) / YEAR_S;
        let (value, scatter) = (self.g + self.h * tau, (self.var[0] + 2.0 * tau * self.var[1] + tau * tau * self.var[2]).max(0.0));
        (value, scatter.sqrt().hypot(self.lasting * value))
    }
}

/// Least squares (Gauss and Newton) with far points weighed less. `growth` is what `h/g` is expected to be in a year, and
/// how far off: one more observation. Over a short time it is the only one of the growth.
fn fitted(points: &[Point], growth: (f64, f64)) -> Option<Line> {
    let (first, last) = (points.first()?.at.s as f64, points.last()?.at.s as f64);
    let long = (last - first) / DAY_S as f64 >= TREND_DAYS && points.len() > LEAST;
    let mut alone: Vec<f64> = points.iter().map(|point| point.alone).collect();
    alone.sort_by(f64::total_cmp);
    let level = alone[alone.len() / 2];
    let weights = points.iter().map(|point| 1.0 / point.beside(level).1.powi(2));
    let mid_s = points.iter().zip(weights.clone()).map(|(point, weight)| weight * point.at.s as f64).sum::<f64>() / weights.sum::<f64>();
    let mut line = Line { g: level, h: 0.0, var: [0.0; 3], mid_s, long, lasting: 0.0 };
    let (mut far, mut swell) = (vec![1.0; points.len()], 1.0);
    for _ in 0..ROUNDS {
        let sure = if long { 1.0 } else { 1e6 };
        let prior = sure / (growth.1 * line.g).powi(2);
        let (mut m, mut r) = ([0.0, 0.0, prior], [0.0, prior * growth.0 * line.g]);
        for (point, far) in points.iter().zip(&far) {
            let tau = (point.at.s as f64 - mid_s) / YEAR_S;
            let (value, give) = point.beside(line.at(point.at.s).0.max(0.1 * level));
            let weight = far / (give * give * swell);
            m[0] += weight;
            m[1] += weight * tau;
            m[2] += weight * tau * tau;
            r[0] += weight * value;
            r[1] += weight * tau * value;
        }
        let det = m[0] * m[2] - m[1] * m[1];
        if det.is_nan() || det <= 0.0 {
            return None;
        }
        line.g = (r[0] * m[2] - r[1] * m[1]) / det;
        line.h = (m[0] * r[1] - m[1] * r[0]) / det;
        line.var = [m[2] / det, -m[1] / det, m[0] / det];
        let off: Vec<f64> = points
            .iter()
            .map(|point| {
                let near = line.at(point.at.s).0.max(0.1 * level);
                (point.y - point.q.map_or(near, |q| q / near)).abs() / point.give
            })
            .collect();
        // What scatters more than expected is less sure; many that scatter less are surer. The median is not led astray by a few.
        let mut sorted = off.clone();
        sorted.sort_by(f64::total_cmp);
        let spread = MEDIAN * sorted[sorted.len() / 2];
        swell = (spread * spread).max(if points.len() >= MANY { LITTLE } else { 1.0 });
        for (far, off) in far.iter_mut().zip(&off) {
            *far = (FAR * swell.sqrt() / off).powi(2).min(1.0);
        }
    }
    let weights = || points.iter().zip(&far).map(|(point, far)| far / (point.give / point.y).powi(2));
    line.lasting = weights().zip(points).map(|(weight, point)| weight * point.lasting).sum::<f64>() / weights().sum::<f64>();
    (line.g > 0.0).then_some(line)
}

/// State of charge that a charge ends at, and how far that may be off.
pub(crate) fn filled_to(needs: &Needs, to_v: f64) -> (f64, f64) {
    let held = needs.battery.charging_v().is_some_and(|volts| to_v >= HELD * volts);
    if held || to_v >= needs.battery.emf_v(1.0) { (1.0, FULL) } else { (needs.battery.soc_at(to_v), needs.give(to_v)) }
}

/// What went in, Ah.
pub(crate) fn put_in(needs: &Needs, ah: Option<f64>, wh: Option<f64>) -> Option<f64> {
    let nominal_v = needs.battery.emf_v(0.5);
    ah.or_else(|| Some(wh? / nominal_v)).filter(|ah| *ah > 0.0)
}

/// The battery's own events: from when it was put in, where it was replaced.
pub fn since_fitted<'a, 'b>(told: &'b [Told<'a>]) -> &'b [Told<'a>] {
    let new = |told: &Told<'_>| matches!(&told.what, What::Part { part, change, .. } if part == "battery" && matches!(change.as_str(), "replaced" | "fitted"));
    let from = told.iter().rposition(new).map_or(0, |index| index + 1);
    &told[from..]
}

fn charges(needs: &Needs, told: &[Told<'_>]) -> Vec<Point> {
    let kept = habits_of(needs.battery.chemistry).charge_efficiency;
    let mut temperature_c: Option<(i64, f64)> = None;
    let mut points = Vec::new();
    for one in told {
        match &one.what {
            What::Ride(ride) => temperature_c = ride.temperature_c.map(|degrees| (one.at.s, degrees)).or(temperature_c),
            What::Charge(charge) => {
                let (Some(from_v), Some(to_v), Some(ah)) = (charge.from_v, charge.to_v, put_in(needs, charge.ah, charge.wh)) else { continue };
                // As cold as it was on the outing before, unless it is said.
                let cold = needs.cold(charge.temperature_c.or(temperature_c.filter(|(s, _)| one.at.s - s < DAY_S).map(|(_, degrees)| degrees)));
                let (to, to_give) = filled_to(needs, to_v);
                let moved = to - needs.battery.soc_at(from_v);
                let q = ah * kept;
                if kept <= 0.0 || moved < TOO_SMALL || q > 3.0 * needs.battery.capacity_ah {
                    continue;
                }
                let from = to - moved;
                let give = (needs.give_at(from).powi(2) + to_give.powi(2) + (COUNT * moved).powi(2)).sqrt();
                // A meter that shows too much does so before and after; what the charger fills is full whatever it shows.
                let after = if to_give > FULL { needs.per_volt(to) * to_v } else { 0.0 };
                let wrong = METER * (needs.per_volt(from) * from_v - after);
                let lasting = (wrong / moved).hypot(CURVE / moved).hypot(COUNTER);
                let alone = q / (moved * cold);
                points.push(Point {
                    id: one.event.id.clone(),
                    at: one.at,
                    q: Some(q),
                    y: moved * cold,
                    give: give * cold,
                    lasting,
                    alone,
                    alone_give: alone * give / moved,
                });
            }
            _ => {}
        }
    }
    points
}

/// One count of a hand-held meter of 4,000 at a voltage, V.
fn count_v(volts: f64) -> f64 {
    [4.0, 40.0, 400.0].into_iter().find(|range| volts <= *range).unwrap_or(4000.0) / 4000.0
}

fn resistances(needs: &Needs, told: &[Told<'_>]) -> Vec<Point> {
    let mut points = Vec::new();
    for one in told {
        let What::Reading(reading) = &one.what else { continue };
        let (Some(resting_v), Some(loaded_v), Some(scene)) = (reading.resting_v, reading.loaded_v, &reading.scene) else { continue };
        let Some(need) = needs.scenes.get(scene).filter(|need| need.mean_a > 0.0) else { continue };
        let worth = reading.temperature_c.map_or(1.0, |degrees| resistance_factor(needs.battery.chemistry, degrees, 1.0));
        let (ohm, give) = ((resting_v - loaded_v) / need.mean_a / worth, count_v(resting_v) / need.mean_a / worth);
        if ohm > 0.0 {
            points.push(Point { id: one.event.id.clone(), at: one.at, q: None, y: ohm, give, lasting: METER, alone: ohm, alone_give: give });
        }
    }
    points
}

fn seen(points: &[Point]) -> Vec<Seen> {
    points.iter().map(|point| Seen { id: point.id.clone(), at: point.at.text(), value: point.alone, give: point.alone_give }).collect()
}

/// What the events of a build say of the pack that is in it, as it is at a moment.
pub fn health(needs: &Needs, told: &[Told<'_>], now: Moment) -> Health {
    of_stints(&[(needs, since_fitted(told))], now)
}

/// The same over every build that a pack was in, in order; the last one's needs say what is printed on it.
///
/// # Panics
/// Without any build.
pub fn of_stints(stints: &[(&Needs, &[Told<'_>])], now: Moment) -> Health {
    let needs = stints[stints.len() - 1].0;
    let mut filled: Vec<Point> = stints.iter().flat_map(|(needs, told)| charges(needs, told)).collect();
    let mut loaded: Vec<Point> = stints.iter().flat_map(|(needs, told)| resistances(needs, told)).collect();
    filled.sort_by_key(|point| point.at);
    loaded.sort_by_key(|point| point.at);
    let printed = needs.battery.capacity_ah;
    let capacity = (filled.len() >= LEAST).then(|| fitted(&filled, AGES)).flatten().map(|line| capacity(needs, &filled, &line, now));
    let resistance = (loaded.len() >= LEAST).then(|| fitted(&loaded, STIFFENS)).flatten().map(|line| resistance(needs, &loaded, &line, now));
    let left = capacity.as_ref().map(|trend| left(trend, printed));
    let worn_out = capacity.as_ref().and_then(|trend| worn_out(trend, printed, now));
    let words = words(needs, &capacity, &worn_out, filled.len());
    Health { words, capacity, left, resistance, worn_out, charges: filled.len(), readings: loaded.len() }
}

fn capacity(needs: &Needs, points: &[Point], line: &Line, now: Moment) -> Trend {
    const RULE: Rule = Rule {
        words: "The charge that stays of what went in, over how far it moved the state of charge that the rested voltages tell, at 25 °C, fitted over all charges; it may change evenly with time.",
        formula: "C = Q·η / (Δs·f(ϑ))",
        source: "Weighted least squares over the charges written down; curves of the chemistry",
    };
    let (ah, give) = line.at(now.s);
    let given = vec![
        quantity("n", "charges", points.len() as f64, ""),
        quantity("C_0", "printed", needs.battery.capacity_ah, "Ah"),
        quantity("σ", "may be off by", give, "Ah"),
    ];
    Trend {
        now: fact("capacity_ah", "What it holds", "C", ah, "Ah", &RULE, given),
        give,
        a_year: line.long.then_some(line.h),
        a_year_give: line.long.then_some(line.var[2].max(0.0).sqrt()),
        line: along(line, points, now),
        seen: seen(points),
    }
}

/// The fitted line at its first observation and now.
fn along(line: &Line, points: &[Point], now: Moment) -> Vec<TrendPoint> {
    [points[0].at, now]
        .map(|at| {
            let (value, give) = line.at(at.s);
            TrendPoint { at: at.text(), value, give }
        })
        .to_vec()
}

fn resistance(needs: &Needs, points: &[Point], line: &Line, now: Moment) -> Trend {
    const RULE: Rule = Rule {
        words: "How far the voltage gives way over the plan's current in that scene, at 25 °C, fitted over all pairs of readings; it may change evenly with time.",
        formula: "R = (V_rest − V_load) / (I·g(ϑ))",
        source: "Weighted least squares over the readings written down",
    };
    let (ohm, give) = line.at(now.s);
    let given = vec![quantity("n", "pairs of readings", points.len() as f64, ""), quantity("R_0", "as the plan has it", needs.battery.pack_ohm(), "ohm")];
    Trend {
        now: fact("pack_ohm", "Its resistance", "R", ohm, "ohm", &RULE, given),
        give,
        a_year: line.long.then_some(line.h),
        a_year_give: line.long.then_some(line.var[2].max(0.0).sqrt()),
        line: along(line, points, now),
        seen: seen(points),
    }
}

fn left(trend: &Trend, printed: f64) -> Fact {
    const RULE: Rule = Rule { words: "What it holds over what is printed on it.", formula: "a = C / C_0", source: "As fitted, and as labelled" };
    let given = vec![quantity("C", "what it holds", trend.now.value, "Ah"), quantity("C_0", "printed", printed, "Ah")];
    fact("left", "Of what is printed on it", "a", trend.now.value / printed, "1", &RULE, given)
}

/// Years that a trend is followed.
const FAR_YEARS: f64 = 20.0;

fn worn_out(trend: &Trend, printed: f64, now: Moment) -> Option<WornOut> {
    let (loss, give) = (-trend.a_year?, trend.a_year_give?);
    // A loss that could as well be none has no date.
    if loss <= 2.0 * give {
        return None;
    }
    let spare = trend.now.value - WORN * printed;
    let date = |loss: f64, spare: f64| {
        let years = (spare / loss).max(0.0);
        (loss > 0.0 && years <= FAR_YEARS).then(|| date_of(now.day() + (years * 365.25).round() as i64))
    };
    Some(WornOut { date: date(loss, spare)?, early: date(loss + give, spare - trend.give)?, late: date(loss - give, spare + trend.give) })
}

/// A figure to the digits that its give leaves it.
fn give_or_take(value: f64, give: f64, unit: &str) -> String {
    let digits = (-give.max(1e-9).log10().floor()).clamp(0.0, 4.0) as usize;
    format!("{value:.digits$} ± {give:.digits$} {unit}")
}

fn words(needs: &Needs, capacity: &Option<Trend>, worn_out: &Option<WornOut>, charges: usize) -> String {
    let Some(trend) = capacity else {
        if habits_of(needs.battery.chemistry).charge_efficiency <= 0.0 {
            return "These cells are not charged: what they hold shows only in how long they last.".into();
        }
        let missing = LEAST.saturating_sub(charges);
        let more = if missing == 0 { "Charges that fill it by more".to_owned() } else { format!("{missing} more") };
        return format!("{more} with both rested voltages and the amp-hours that went in, and its true capacity can be told.");
    };
    let share = trend.now.value / needs.battery.capacity_ah;
    let holds = format!(
        "It holds {} of the {} printed on it ({} %).",
        give_or_take(trend.now.value, trend.give, "Ah"),
        plain(needs.battery.capacity_ah, "Ah"),
        (100.0 * share).round()
    );
    let rest = match worn_out {
        _ if share <= WORN => " That is worn out: it sags early and may fail in the cold. Plan its replacement.".to_owned(),
        Some(worn) => format!(" As it goes it is down to 70 % about {}.", worn.date),
        None if trend.a_year.is_none() => " How fast it ages takes some months of charges to tell.".to_owned(),
        None => " No loss shows yet that is larger than what readings scatter.".to_owned(),
    };
    holds + &rest
}
