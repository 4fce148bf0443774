//! Helpers that decide: each lists the ways there are, best first, with what each costs in figures, how the figures
//! came about, and the change that takes it over. What is usual differs between schools; both are listed.

pub mod fuse;
pub mod looks;
pub mod pins;
pub mod pixels;
pub mod recut;
pub mod size;
pub mod strings;
pub mod strip;
pub mod supply;
pub mod wire;

use orthavis_judge::findings::{self, Finding, Severity};
use orthavis_model::budget;
use orthavis_model::document::{Build, Converter, Fuse, Gauge, parse_value};
use orthavis_model::states::State;
use orthavis_model::working::Fact;
use orthavis_physics::network::SolveError;
use orthavis_physics::offered;
use orthavis_physics::points::{PointReport, finished, peaks, solved};
use serde::Serialize;

/// One way to do it.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Choice {
    /// What it is, as on a button.
    pub title: String,
    /// What it gives and what it costs, in a sentence with figures.
    pub tradeoff: String,
    /// What speaks against it; `None`: nothing found.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caution: Option<String>,
    /// Whether it does what was asked; the others are listed to say why not.
    pub works: bool,
    /// What is chosen.
    pub pick: Pick,
    /// Its figures, each with its working.
    pub figures: Vec<Fact>,
    /// RFC 6902 operations that take it over; `None` where there is no build to change.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Vec<Object>>))]
    pub changes: Option<json_patch::Patch>,
}

impl Choice {
    fn new(title: String, tradeoff: String, pick: Pick) -> Self {
        Choice { title, tradeoff, caution: None, works: true, pick, figures: Vec::new(), changes: None }
    }

    /// The figure with this key, in its unit.
    pub fn figure(&self, key: &str) -> Option<f64> {
        self.figures.iter().find(|fact| fact.key == key).map(|fact| fact.value)
    }

    /// Adds the change that takes it over; a change that leaves the build as it is is none.
    fn changing(mut self, build: &Build, edit: impl FnOnce(&mut Build) -> Option<()>) -> Self {
        if budget::spend(100 * findings::parts(build)).is_err() {
            return self;
        }
        let mut copy = build.clone();
        if edit(&mut copy).is_some() {
            self.changes = Some(json_patch::diff(&build.to_value(), &copy.to_value()));
        }
        self
    }
}

/// What a choice stands for.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Pick {
    /// LEDs in rows.
    Strings(strings::Split),
    /// A way to feed a light.
    Supply {
        /// Which.
        way: supply::Way,
        /// The converter it takes, if any.
        converter: Option<Box<Converter>>,
    },
    /// A conductor size.
    Wire {
        /// It.
        gauge: Gauge,
    },
    /// A fuse.
    Fuse {
        /// It; `None` where no standard rating will do.
        fuse: Option<Fuse>,
        /// Thickness that the wire must grow to first.
        grow: Option<Gauge>,
    },
    /// A piece of strip and where to feed it.
    Strip {
        /// Whole segments.
        segments: u32,
        /// Their length, m.
        length_m: f64,
        /// Where to feed it, m from its start.
        feeds_at_m: Vec<f64>,
    },
    /// A strip cut again.
    Recut {
        /// How; `None`: as bought.
        recut: Option<orthavis_model::document::Recut>,
        /// What is soldered.
        soldering: Option<recut::Soldering>,
    },
    /// How bright a scene has a light.
    Level {
        /// 0 to 1.
        level: f64,
    },
    /// The resistor of each row of LEDs.
    Resistor {
        /// ohm.
        resistor_ohm: f64,
    },
    /// What a converter is set to.
    Rail {
        /// V.
        set_v: f64,
    },
    /// Pixels on a regulator.
    Pixels {
        /// How many.
        count: u32,
        /// At which level, 0 to 1.
        level: f64,
    },
}

/// Why there are no choices.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ChooseError {
    /// No such part.
    #[error("there is no {what} `{id}` in this build; name one of its own")]
    Unknown {
        /// light, feed or supplier.
        what: &'static str,
        /// What was asked for.
        id: String,
    },
    /// The question does not fit the part.
    #[error("`{id}` is {is}; this helper is for {wants}")]
    Misplaced {
        /// The part.
        id: String,
        /// What it is.
        is: &'static str,
        /// What it should be.
        wants: &'static str,
    },
    /// A figure out of its range.
    #[error("{field} is {value}; give {remedy}")]
    Figure {
        /// Which.
        field: &'static str,
        /// What it is.
        value: f64,
        /// What it should be.
        remedy: &'static str,
    },
    /// The build has no steady state.
    #[error("the build as it is cannot be solved: {0}")]
    Unsolved(String),
}

impl From<SolveError> for ChooseError {
    fn from(error: SolveError) -> Self {
        ChooseError::Unsolved(error.to_string())
    }
}

impl From<orthavis_physics::points::PointError> for ChooseError {
    fn from(error: orthavis_physics::points::PointError) -> Self {
        ChooseError::Unsolved(error.to_string())
    }
}

fn within(field: &'static str, value: f64, low: f64, high: f64, remedy: &'static str) -> Result<f64, ChooseError> {
    if value > low && value <= high { Ok(value) } else { Err(ChooseError::Figure { field, value, remedy }) }
}

/// Voltage that a supplier offers with nothing drawn, in every state of the source, V.
///
/// # Errors
/// When there is no such supplier.
pub fn offered_v(build: &Build, from: &str) -> Result<Vec<(State, f64)>, ChooseError> {
    offered::offered_v(build, from).ok_or_else(|| ChooseError::Unknown { what: "supplier", id: from.into() })
}

/// Lowest and highest of a range, V.
fn ends(volts: &[(State, f64)]) -> (f64, f64) {
    volts.iter().fold((f64::INFINITY, 0.0), |(low, high), (_, v)| (low.min(*v), high.max(*v)))
}

/// Choices whose effect on the rest of the build is tried however large it is; the best are listed first.
const TRIED: usize = 8;

/// Takes each choice over on trial: one that puts another part at fault says so and comes after those that do not.
///
/// # Errors
/// Where there is no time for it: an untried choice must not pass for a good one.
fn tried(build: &Build, choices: Vec<Choice>) -> Result<Vec<Choice>, ChooseError> {
    let stops = |build: &Build| -> Option<Vec<Finding>> {
        let solved = solved(build, &[]).ok()?;
        let found = findings::findings(build, &solved.points, &solved.collapsed);
        Some(found.into_iter().filter(|finding| finding.severity == Severity::Stop).collect())
    };
    let Some(before) = stops(build) else { return finished(build).map(|()| choices).map_err(ChooseError::from) };
    let document = build.to_value();
    let mut left = findings::affordable(build).max(TRIED);
    let mut against = |choice: &Choice| {
        let changes = choice.changes.as_ref().filter(|_| choice.works)?;
        left = left.checked_sub(1).filter(|_| budget::stopped().is_none())?;
        let mut edited = document.clone();
        json_patch::patch(&mut edited, changes).ok()?;
        let judged = parse_value(&edited).ok().and_then(|edited| stops(&edited));
        if budget::stopped().is_some() {
            return None;
        }
        let Some(after) = judged else { return Some("It was not tried: the computation was stopped.".to_owned()) };
        let new = after.iter().find(|stop| !before.iter().any(|known| known.code == stop.code && known.subject == stop.subject))?;
        Some(format!("With it comes a new stop: {}.", new.title))
    };
    let mut judged: Vec<(Option<String>, Choice)> = choices.into_iter().map(|choice| (against(&choice), choice)).collect();
    judged.sort_by_key(|(against, choice)| (!choice.works, against.is_some()));
    let word = |(against, mut choice): (Option<String>, Choice)| {
        choice.caution = match (choice.caution.take(), against) {
            (Some(known), Some(against)) => Some(format!("{known} {against}")),
            (known, against) => known.or(against),
        };
        choice
    };
    finished(build)?;
    Ok(judged.into_iter().map(word).collect())
}

/// Best first by a key that falls with worth.
fn rank<K: PartialOrd>(choices: &mut [Choice], key: impl Fn(&Choice) -> K) {
    choices.sort_by(|a, b| (!a.works).cmp(&!b.works).then(key(a).partial_cmp(&key(b)).unwrap_or(std::cmp::Ordering::Equal)));
}
