//! The pure questions over HTTP: each hands the bytes of its body to the core and the core's answer back.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use crate::request::Raw;
use crate::workshop::Workshop;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use orthavis_core::arrives::Arrives;
use orthavis_core::bench::correct::Correction;
use orthavis_core::bench::diagnose::Diagnosis;
use orthavis_core::bench::expect::Check;
use orthavis_core::bench::pinch::Pinch;
use orthavis_core::choose::Choice;
use orthavis_core::choose::pins::{CrossWired, PinsRequest};
use orthavis_core::choose::size::Sized;
use orthavis_core::circuit::CircuitView;
use orthavis_core::circuits::{Choice as CircuitChoice, CircuitFigures};
use orthavis_core::document::Build;
use orthavis_core::drain::discharge::Discharge;
use orthavis_core::drain::what_if::Tried;
use orthavis_core::make::board::Board;
use orthavis_core::make::cuts::CutList;
use orthavis_core::make::diagram::Diagram;
use orthavis_core::make::labels::Label;
use orthavis_core::make::parts::PartsList;
use orthavis_core::report::Report;
use orthavis_core::sheet::{FromLabel, Measured};
use orthavis_core::show::arrives::Arrived;
use orthavis_core::show::cards::Cards;
use orthavis_core::show::play::Played;
use orthavis_core::show::sort::FirstRun;
use orthavis_core::table::Table;
use orthavis_core::upkeep::passport::Passport;
use orthavis_core::upkeep::remind::Reminder;
use orthavis_core::upkeep::said::Said;
use orthavis_core::upkeep::view::JournalView;
use orthavis_operations::DocumentRequest;
use orthavis_operations::bench::{CorrectRequest, DiagnoseRequest, ExpectRequest, NamedFault, PinchRequest, ProbeRequest, Probed};
use orthavis_operations::circuits::CircuitRequest;
use orthavis_operations::costs::{Drained, SceneRequest, TableRequest, TryRequest};
use orthavis_operations::make::{CalendarRequest, Fitted, Made, MakeRequest, MakeTableRequest, NetlistRequest, PartsRequest};
use orthavis_operations::practice::{Dealt, DrillRequest, GuessRequest, LessonRequest, Marked, MeasureRequest, MeterShows, Practice, PracticeRequest, Taught};
use orthavis_operations::questions::{AddRequest, Applied, ApplyRequest, ChooseRequest, Judged, Mending, RemoveRequest, SolveRequest, Solved, Start};
use orthavis_operations::reference::{LabelRequest, MeasuredRequest, Reference};
use orthavis_operations::show::{ShowRequest, ShowView, SortRequest};
use orthavis_operations::upkeep::{ChartRequest, JournalRequest, PackRequest, SaidRequest};
use orthavis_operations::{Media, Pace, operation};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    OpenApiRouter::new()
        .routes(routes!(reference))
        .routes(routes!(starter))
        .routes(routes!(label))
        .routes(routes!(measured))
        .routes(routes!(judge))
        .routes(routes!(solve))
        .routes(routes!(remedies))
        .routes(routes!(report))
        .routes(routes!(apply))
        .routes(routes!(add))
        .routes(routes!(adding))
        .routes(routes!(take_out))
        .routes(routes!(choose))
        .routes(routes!(size))
        .routes(routes!(drain))
        .routes(routes!(discharge))
        .routes(routes!(what_if))
        .routes(routes!(what_if_as_csv))
        .routes(routes!(tables))
        .routes(routes!(csv))
        .routes(routes!(faults))
        .routes(routes!(probe))
        .routes(routes!(pinch))
        .routes(routes!(expect))
        .routes(routes!(diagnose))
        .routes(routes!(correct))
        .routes(routes!(practice))
        .routes(routes!(lesson))
        .routes(routes!(drill))
        .routes(routes!(measure))
        .routes(routes!(answer))
        .routes(routes!(make))
        .routes(routes!(make_as_csv))
        .routes(routes!(make_as_calendar))
        .routes(routes!(cuts))
        .routes(routes!(shopping))
        .routes(routes!(diagram))
        .routes(routes!(diagram_as_svg))
        .routes(routes!(labels))
        .routes(routes!(fit))
        .routes(routes!(diagram_as_dot))
        .routes(routes!(netlist))
        .routes(routes!(circuit))
        .routes(routes!(circuit_view))
        .routes(routes!(circuit_choose))
        .routes(routes!(circuit_board))
        .routes(routes!(pins))
        .routes(routes!(circuit_as_netlist))
        .routes(routes!(circuit_as_csv))
        .routes(routes!(show))
        .routes(routes!(show_frames))
        .routes(routes!(show_arrives))
        .routes(routes!(show_cards))
        .routes(routes!(show_sort))
        .routes(routes!(show_as_json))
        .routes(routes!(show_as_csv))
        .routes(routes!(show_as_map))
        .routes(routes!(show_as_header))
        .routes(routes!(show_as_source))
        .routes(routes!(journal))
        .routes(routes!(journal_due))
        .routes(routes!(journal_said))
        .routes(routes!(journal_pack))
        .routes(routes!(journal_as_csv))
        .routes(routes!(journal_as_calendar))
        .routes(routes!(journal_as_svg))
}

/// An operation of the core, off the executor and on a budget.
async fn asked(hands: Hands, name: &'static str, request: Vec<u8>) -> Answer<Response> {
    let Some(operation) = operation(name) else {
        return Err(Problem::internal());
    };
    let kind = match operation.media {
        Media::Json => "application/json",
        Media::Csv => "text/csv; charset=utf-8; header=present",
        Media::Calendar => "text/calendar; charset=utf-8",
        Media::Svg => "image/svg+xml",
        Media::Text => "text/plain; charset=utf-8",
    };
    let answer = match operation.pace(&request) {
        Pace::Quick => hands.compute(move || Ok(operation.ask(&request)?)).await?,
        Pace::Long => hands.compute_long(move || Ok(operation.ask(&request)?)).await?,
    };
    Ok(([(header::CONTENT_TYPE, kind)], answer).into_response())
}

/// One handler a question: its name in the core, its path, and the shapes that describe it.
macro_rules! questions {
    ($($(#[$doc:meta])+ $name:ident($request:ty) -> $answer:ty $(as $media:literal)?, $operation:literal at $path:literal;)+) => { $(
        $(#[$doc])+
        #[utoipa::path(post, path = $path, request_body = $request,
            responses((status = 200, body = $answer $(, content_type = $media)?), (status = 422, body = Problem)))]
        async fn $name(hands: Hands, Raw(request): Raw) -> Answer<Response> {
            asked(hands, $operation, request).await
        }
    )+ };
}

questions! {
    /// A document with a battery, one scene and nothing lit yet. It is not kept until it is created.
    starter(Start) -> Build, "starter" at "/api/v1/starter";
    /// Cells and capacity from a label.
    label(LabelRequest) -> FromLabel, "label" at "/api/v1/label";
    /// How full the battery is, by its resting voltage.
    measured(MeasuredRequest) -> Measured, "measured" at "/api/v1/measured";
    /// Judges a document without keeping it: its verdict and its findings.
    judge(DocumentRequest) -> Judged, "verdict" at "/api/v1/verdict";
    /// Solves a document without keeping it: what a person looks at, at once.
    solve(SolveRequest) -> Solved, "solve" at "/api/v1/solve";
    /// Tries what could mend a document's findings and says what does, card by card.
    remedies(DocumentRequest) -> Vec<Mending>, "remedies" at "/api/v1/remedies";
    /// The whole report `orthavis.report/1` of a document.
    report(DocumentRequest) -> Report, "report" at "/api/v1/report";
    /// Applies changes to a document, without keeping it, and says what they do.
    apply(ApplyRequest) -> Applied, "apply" at "/api/v1/apply";
    /// Adds a part with sensible figures, without keeping the document.
    add(AddRequest) -> Build, "add" at "/api/v1/add";
    /// What would come with a part that is added, and what it asks; nothing is changed.
    adding(AddRequest) -> Arrives, "adding" at "/api/v1/adding";
    /// Takes a part out with what belongs to it, without keeping the document.
    take_out(RemoveRequest) -> Build, "remove" at "/api/v1/remove";
    /// The ways there are, best first, each with its figures and the change that takes it over.
    choose(ChooseRequest) -> Vec<Choice>, "choose" at "/api/v1/choose";
    /// Gauges and fuses for every feed at once.
    size(DocumentRequest) -> Sized, "size" at "/api/v1/size";
    /// What the lights of a document cost its battery, and its audit.
    drain(DocumentRequest) -> Drained, "drain" at "/api/v1/drain";
    /// A scene from full to its end; `null` for a rail.
    discharge(SceneRequest) -> Option<Discharge>, "discharge" at "/api/v1/discharge";
    /// The plan and a change of it side by side.
    what_if(TryRequest) -> Tried, "what-if" at "/api/v1/what-if";
    /// The same as a table (RFC 4180, UTF-8).
    what_if_as_csv(TryRequest) -> String as "text/csv", "what-if/csv" at "/api/v1/what-if/csv";
    /// Every result of a document as tables.
    tables(DocumentRequest) -> Vec<Table>, "tables" at "/api/v1/tables";
    /// Every single fault that a document's build can have.
    faults(DocumentRequest) -> Vec<NamedFault>, "faults" at "/api/v1/faults";
    /// What every probe reads, how the lights look and what opened, with faults or without.
    probe(ProbeRequest) -> Probed, "probe" at "/api/v1/probe";
    /// What a pinch does at each state of the source.
    pinch(PinchRequest) -> Vec<Pinch>, "pinch" at "/api/v1/pinch";
    /// The checks in which a careful person tries a build, in order.
    expect(ExpectRequest) -> Vec<Check>, "expect" at "/api/v1/expect";
    /// What is wrong, and what to check next.
    diagnose(DiagnoseRequest) -> Diagnosis, "diagnose" at "/api/v1/diagnose";
    /// What readings of the check list say of a build's uncertain figures.
    correct(CorrectRequest) -> Correction, "correct" at "/api/v1/correct";
    /// What there is to practise, and what comes back today.
    practice(PracticeRequest) -> Practice, "practice" at "/api/v1/practice";
    /// A lesson: what to say first, and what happens.
    lesson(LessonRequest) -> Taught, "lesson" at "/api/v1/lesson";
    /// Hides a fault in a build, and says what a person sees of it.
    drill(DrillRequest) -> Dealt, "drill" at "/api/v1/drill";
    /// Takes a reading of a drill.
    measure(MeasureRequest) -> MeterShows, "measure" at "/api/v1/measure";
    /// Marks an answer to a drill.
    answer(GuessRequest) -> Marked, "answer" at "/api/v1/answer";
    /// Every step of a build, laid over the evenings that there are.
    make(MakeRequest) -> Made, "make" at "/api/v1/make";
    /// Steps, cut list or parts as CSV (RFC 4180, UTF-8).
    make_as_csv(MakeTableRequest) -> String as "text/csv", "make/csv" at "/api/v1/make/csv";
    /// The plan of the work as an iCalendar file (RFC 5545).
    make_as_calendar(CalendarRequest) -> String as "text/calendar", "make/calendar" at "/api/v1/make/calendar";
    /// Every piece of wire and strip, and which roll it comes off.
    cuts(DocumentRequest) -> CutList, "cuts" at "/api/v1/cuts";
    /// What the build takes, what is there and what is to be bought.
    shopping(PartsRequest) -> PartsList, "shopping" at "/api/v1/shopping";
    /// The wiring diagram, laid out.
    diagram(DocumentRequest) -> Diagram, "diagram" at "/api/v1/diagram";
    /// The wiring diagram as a drawing for paper (SVG 1.1).
    diagram_as_svg(DocumentRequest) -> String as "image/svg+xml", "diagram/svg" at "/api/v1/diagram/svg";
    /// A label for every wire end and every part.
    labels(DocumentRequest) -> Vec<Label>, "labels" at "/api/v1/labels";
    /// Which part goes into which cavity, what does not fit and by how much; mass and balance.
    fit(DocumentRequest) -> Fitted, "fit" at "/api/v1/fit";
    /// The connections as a graph (the DOT language).
    diagram_as_dot(DocumentRequest) -> String as "text/plain", "diagram/dot" at "/api/v1/diagram/dot";
    /// The build at a scene and state as SPICE text.
    netlist(NetlistRequest) -> String as "text/plain", "netlist" at "/api/v1/netlist";
    /// What a small circuit does at a state of the source.
    circuit(CircuitRequest) -> CircuitFigures, "circuit" at "/api/v1/circuit";
    /// A circuit as its own workshop: schematic, waveforms, every state of the source, tolerances, formulas.
    circuit_view(CircuitRequest) -> CircuitView, "circuit/view" at "/api/v1/circuit/view";
    /// Standard parts that give what is wanted of a circuit, the best first.
    circuit_choose(CircuitRequest) -> Vec<CircuitChoice>, "circuit/choose" at "/api/v1/circuit/choose";
    /// A circuit on perforated board, with as few wires over the top as can be.
    circuit_board(CircuitRequest) -> Board, "circuit/board" at "/api/v1/circuit/board";
    /// Cross-wired LEDs: which pins are high, low and left alone for each.
    pins(PinsRequest) -> CrossWired, "pins" at "/api/v1/pins";
    /// The same circuit as SPICE text, its measurements under the names of the figures.
    circuit_as_netlist(CircuitRequest) -> String as "text/plain", "circuit/netlist" at "/api/v1/circuit/netlist";
    /// Its waveforms as CSV (RFC 4180, UTF-8): of each stretch of time the least and the most.
    circuit_as_csv(CircuitRequest) -> String as "text/csv", "circuit/csv" at "/api/v1/circuit/csv";
    /// One table as CSV (RFC 4180, UTF-8).
    csv(TableRequest) -> String as "text/csv", "csv" at "/api/v1/csv";
    /// Chains of a build, what a scene takes, how many pixels fit, how fast it may be shown.
    show(ShowRequest) -> ShowView, "show" at "/api/v1/show";
    /// Frames of a scene one after the other, and what arrives of them.
    show_frames(ShowRequest) -> Played, "show/frames" at "/api/v1/show/frames";
    /// Each light of pixels at a moment: asked, delivered, and what a second feed would do.
    show_arrives(ShowRequest) -> Vec<Arrived>, "show/arrives" at "/api/v1/show/arrives";
    /// Effects and ready shows to pick from.
    show_cards(DocumentRequest) -> Cards, "show/cards" at "/api/v1/show/cards";
    /// The first run of a chain: which number is red next, or what differs from the plan.
    show_sort(SortRequest) -> FirstRun, "show/sort" at "/api/v1/show/sort";
    /// Chains and frames of a scene as JSON for other programs.
    show_as_json(ShowRequest) -> String as "text/plain", "show/json" at "/api/v1/show/json";
    /// Frames of a scene as CSV: moment, output, number, codes.
    show_as_csv(ShowRequest) -> String as "text/csv", "show/csv" at "/api/v1/show/csv";
    /// Where each number is, as CSV.
    show_as_map(DocumentRequest) -> String as "text/csv", "show/map" at "/api/v1/show/map";
    /// `show.h` of a scene in C99.
    show_as_header(ShowRequest) -> String as "text/plain", "show/header" at "/api/v1/show/header";
    /// `show.c` of a scene in C99.
    show_as_source(ShowRequest) -> String as "text/plain", "show/source" at "/api/v1/show/source";
    /// What the journal of a build says back: next charge, outings against the plan, health, wear, what is due.
    journal(JournalRequest) -> JournalView, "journal" at "/api/v1/journal";
    /// What is due of a build, soonest first.
    journal_due(JournalRequest) -> Vec<Reminder>, "journal/due" at "/api/v1/journal/due";
    /// A line as the event that it says: `ride 40 min, 3 °C`.
    journal_said(SaidRequest) -> Said, "journal/said" at "/api/v1/journal/said";
    /// The life of a pack over every build that it was in.
    journal_pack(PackRequest) -> Passport, "journal/pack" at "/api/v1/journal/pack";
    /// The journal as a table (RFC 4180, UTF-8).
    journal_as_csv(JournalRequest) -> String as "text/csv", "journal/csv" at "/api/v1/journal/csv";
    /// What is due as an iCalendar file (RFC 5545).
    journal_as_calendar(JournalRequest) -> String as "text/calendar", "journal/calendar" at "/api/v1/journal/calendar";
    /// A chart of the journal as a drawing (SVG 1.1).
    journal_as_svg(ChartRequest) -> String as "image/svg+xml", "journal/svg" at "/api/v1/journal/svg";
}

/// Parts, words, vehicles and checks: what ships with the program.
#[utoipa::path(get, path = "/api/v1/reference", responses((status = 200, body = Reference)))]
async fn reference(hands: Hands) -> Answer<Response> {
    asked(hands, "reference", b"{}".to_vec()).await
}
