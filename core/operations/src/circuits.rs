//! Small circuits: what one does at a state, as figures, waveforms and a netlist.

use crate::bench::state_of;
use crate::{Answer, Refusal};
use orthavis_core::budget;
use orthavis_core::choose::pins::{CrossWired, PinsError, PinsRequest, cross_wired};
use orthavis_core::circuit::{CircuitView, circuit_view};
use orthavis_core::circuits::{self, ChooseError, CircuitChoice, CircuitError, CircuitFigures, Simulation, Wanted};
use orthavis_core::document::{Build, Fault, parse};
use orthavis_core::make::board::{Board, board};
use orthavis_core::states::State;
use orthavis_core::table::Table;
use serde::Deserialize;
use serde_json::value::RawValue;

/// A circuit at a state.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CircuitRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Id of the circuit.
    pub circuit: String,
    /// State of the source; `null`: the fullest.
    #[serde(default)]
    pub state: Option<String>,
    /// What is wanted of it, where standard parts are asked for.
    #[serde(default)]
    pub wanted: Option<Wanted>,
    /// Only what is seen while a value is dragged: this state, and no tolerances.
    #[serde(default)]
    pub quick: bool,
    /// Of a flasher, how many flashes are followed, where figures, waveforms or a netlist are asked for; `null`: as many as it
    /// takes to tell its figures.
    #[serde(default)]
    pub flashes: Option<u32>,
}

/// Flashes that anybody asks to have followed.
const MOST_FLASHES: u32 = 100;

/// Following a circuit is as much work as solving so many points.
const WORK: u64 = 20_000;
/// Stretches of a waveform in a table.
const STRETCHES: usize = 500;

impl From<CircuitError> for Refusal {
    fn from(error: CircuitError) -> Self {
        Refusal::new("circuit", "The circuit does not run like this", format!("{error}."))
    }
}

fn at<T>(request: &CircuitRequest, ask: impl FnOnce(&Build, usize, State) -> Result<T, CircuitError>) -> Answer<T> {
    let build = parse(request.document.get())?;
    let Some(index) = build.circuits.iter().position(|circuit| circuit.id == request.circuit) else {
        let known: Vec<String> = build.circuits.iter().map(|circuit| format!("`{}`", circuit.id)).collect();
        let there = if known.is_empty() { "It has none.".to_owned() } else { format!("Name one of {}.", known.join(", ")) };
        return Err(Refusal::new("circuit", "No such circuit", format!("`{}` is not a circuit of this build. {there}", request.circuit)));
    };
    if let Some(flashes) = request.flashes {
        let fault = |problem: String, remedy: String| {
            let detail = format!("{problem}. {remedy}.");
            Refusal {
                errors: vec![Fault { pointer: "/flashes".into(), problem, remedy }],
                ..Refusal::new("flashes", "So many flashes cannot be followed", detail)
            }
        };
        if !build.circuits[index].kind().flashes() {
            return Err(fault(format!("`{}` does not flash", request.circuit), "Leave `flashes` out".into()));
        }
        if !(1..=MOST_FLASHES).contains(&flashes) {
            return Err(fault(format!("{flashes} flashes are asked for"), format!("Give a figure from 1 to {MOST_FLASHES}")));
        }
    }
    let state = state_of(&build, request.state.as_deref())?;
    budget::spend(WORK).map_err(|why| Refusal::stopped(why, "a circuit followed over time"))?;
    Ok(ask(&build, index, state)?)
}

/// What a circuit does at a state.
pub fn figures(request: CircuitRequest) -> Answer<CircuitFigures> {
    at(&request, |build, index, state| match request.flashes {
        None => circuits::figures(build, index, state),
        flashes => Simulation::of(build, index, state).over(flashes).figures(),
    })
}

/// A circuit as its own workshop: schematic, waveforms, figures of every state, tolerances and formulas.
pub fn drawn(request: CircuitRequest) -> Answer<CircuitView> {
    at(&request, |build, index, state| circuit_view(build, index, state, request.quick))
}

/// Standard parts that give what is wanted, the best first.
pub fn chosen(request: CircuitRequest) -> Answer<Vec<CircuitChoice>> {
    let wanted = request.wanted.clone().unwrap_or_default();
    at(&request, |build, index, _| Ok(circuits::choose(build, index, &wanted)))?.map_err(|error| match error {
        ChooseError::Circuit(error) => error.into(),
        ChooseError::Wanted { field, problem, remedy } => {
            let detail = format!("{problem}. {remedy}.");
            let fault = Fault { pointer: format!("/wanted/{field}"), problem, remedy };
            Refusal { errors: vec![fault], ..Refusal::new("wanted", "That cannot be had", detail) }
        }
    })
}

/// The circuit on perforated board.
pub fn laid_out(request: CircuitRequest) -> Answer<Board> {
    at(&request, |build, index, _| Ok(board(build, index)))
}

/// Cross-wired LEDs on a few pins.
pub fn pins(request: PinsRequest) -> Answer<CrossWired> {
    cross_wired(&request).map_err(|error: PinsError| {
        let fault = Fault { pointer: format!("/{}", error.field), problem: error.problem.clone(), remedy: error.remedy.to_owned() };
        Refusal { errors: vec![fault], ..Refusal::new("pins", "The pins cannot be used like that", format!("{error}.")) }
    })
}

/// The same circuit as SPICE text.
pub fn as_netlist(request: CircuitRequest) -> Answer<String> {
    at(&request, |build, index, state| Simulation::of(build, index, state).over(request.flashes).spice(&format!("{}: {}", build.name, request.circuit)))
}

/// Its waveforms as CSV: of each stretch of time the least and the most.
pub fn as_csv(request: CircuitRequest) -> Answer<String> {
    at(&request, |build, index, state| {
        let simulation = Simulation::of(build, index, state).over(request.flashes);
        let run = simulation.run()?;
        let shown = simulation.shown(&run);
        let mut table = Table::new("waveforms", "Waveforms", &[("of", "Of", ""), ("time_s", "Time", "s"), ("least", "Least", ""), ("most", "Most", "")]);
        for (name, trace) in &shown {
            let thin = run.thinned(&[trace], STRETCHES);
            let rows = thin.time_s.iter().zip(&thin.span[0]);
            table.rows.extend(rows.map(|(time, [least, most])| vec![name.as_str().into(), (*time).into(), (*least).into(), (*most).into()]));
        }
        Ok(table.csv())
    })
}
