//! The list of questions: each is declared here and nowhere else.
//!
//! A line says what the question does, how the server is asked for it, its name as a function, its pace, what its answer is
//! written in, its name, what goes in and what comes out, and the function that answers. Server, description, page and
//! command line walk it; what is not in it cannot be asked.

use crate::{Answer, Media, Operation, Pace, Refusal};
use crate::{bench, circuits, costs, design, look, make, practice, questions, reference, show, upkeep};
use serde::de::DeserializeOwned;

/// Hands every question to the macro `$then`, as
///
/// ```text
/// /// What it does.
/// door function Pace Media "name" (Request) -> Answer = function of this crate;
/// ```
///
/// where `door` is `get` or `post`, or `job` for what the server does beside its answers.
#[macro_export]
macro_rules! every_operation {
    ($then:ident) => {
        $then! {
            /// Parts, words, vehicles and checks: what ships with the program.
            get reference Quick Json "reference" ($crate::reference::Nothing) -> $crate::reference::Reference = reference::reference;
            /// A document with a battery, one scene and nothing lit yet. It is not kept until it is created.
            post starter Quick Json "starter" ($crate::questions::Start) -> orthavis_core::document::Build = questions::starter;
            /// What a battery's label says, what is assumed, and the one thing that it leaves open.
            post label Quick Json "label" ($crate::design::LabelRequest) -> orthavis_core::design::label::LabelRead = design::label;
            /// Whole designs for a wish, each safe and judged; or why there are none, and the nearest.
            post designs Search Json "designs" ($crate::design::WishRequest) -> orthavis_core::design::search::Designs = design::designs;
            /// What a build is compared by: cost, mass, hours, joints, minutes, headroom, light.
            post measures Tries Json "measures" ($crate::DocumentRequest) -> orthavis_core::design::measures::Measures = design::measured;
            /// How full the battery is, by its resting voltage.
            post measured Quick Json "measured" ($crate::reference::MeasuredRequest) -> orthavis_core::sheet::Measured = reference::measured;
            /// Judges a document without keeping it: its verdict and its findings.
            post judge Quick Json "verdict" ($crate::DocumentRequest) -> $crate::questions::Judged = questions::judge;
            /// Solves a document without keeping it: what a person looks at, at once.
            post solve Quick Json "solve" ($crate::questions::SolveRequest) -> $crate::questions::Solved = questions::solve;
            /// Tries what could mend a document's findings and says what does, card by card.
            post remedies Search Json "remedies" ($crate::DocumentRequest) -> Vec<$crate::questions::Mending> = questions::remedies;
            /// A short list of changes after which nothing stands against building it. The server does it as a job.
            job mend Search Json "mend" ($crate::questions::MendRequest) -> orthavis_core::mend::MendedAll = questions::mend;
            /// The whole report `orthavis.report/1` of a document.
            post report Search Json "report" ($crate::DocumentRequest) -> orthavis_core::report::Report = questions::whole_report;
            /// Applies changes to a document, without keeping it, and says what they do.
            post apply Quick Json "apply" ($crate::questions::ApplyRequest) -> $crate::questions::Applied = questions::apply;
            /// Adds a part with sensible figures, without keeping the document.
            post add Quick Json "add" ($crate::questions::AddRequest) -> orthavis_core::document::Build = questions::add;
            /// What would come with a part that is added, and what it asks; nothing is changed.
            post adding Quick Json "adding" ($crate::questions::AddRequest) -> orthavis_core::arrives::Arrives = questions::adding;
            /// Takes a part out with what belongs to it, without keeping the document.
            post take_out Quick Json "remove" ($crate::questions::RemoveRequest) -> orthavis_core::document::Build = questions::take_out;
            /// The ways there are, best first, each with its figures and the change that takes it over.
            post choose Tries Json "choose" ($crate::questions::ChooseRequest) -> Vec<orthavis_core::choose::Choice> = questions::choose;
            /// Gauges and fuses for every feed at once.
            post size Tries Json "size" ($crate::DocumentRequest) -> orthavis_core::choose::size::Sized = questions::size;
            /// What the lights of a document cost its battery, and its audit.
            post drain Search Json "drain" ($crate::DocumentRequest) -> $crate::costs::Drained = costs::drained;
            /// A scene from full to its end; `null` for a rail.
            post discharge Search Json "discharge" ($crate::costs::SceneRequest) -> Option<orthavis_core::drain::discharge::Discharge> = costs::discharged;
            /// The plan and a change of it side by side.
            post what_if Tries Json "what-if" ($crate::costs::TryRequest) -> orthavis_core::drain::what_if::Tried = costs::tried;
            /// The same as a table (RFC 4180, UTF-8).
            post what_if_as_csv Search Csv "what-if/csv" ($crate::costs::TryRequest) -> String = costs::tried_as_csv;
            /// Every result of a document as tables.
            post tables Search Json "tables" ($crate::DocumentRequest) -> Vec<orthavis_core::table::Table> = costs::tabled;
            /// Every single fault that a document's build can have.
            post faults Quick Json "faults" ($crate::DocumentRequest) -> Vec<$crate::bench::NamedFault> = bench::faults;
            /// What every probe reads, how the lights look and what opened, with faults or without.
            post probe Quick Json "probe" ($crate::bench::ProbeRequest) -> $crate::bench::Probed = bench::probe;
            /// What a pinch does at each state of the source.
            post pinch Quick Json "pinch" ($crate::bench::PinchRequest) -> Vec<orthavis_core::bench::pinch::Pinch> = bench::pinched;
            /// The checks in which a careful person tries a build, in order.
            post expect Tries Json "expect" ($crate::bench::ExpectRequest) -> Vec<orthavis_core::bench::expect::Check> = bench::expected;
            /// What is wrong, and what to check next.
            post diagnose Search Json "diagnose" ($crate::bench::DiagnoseRequest) -> orthavis_core::bench::diagnose::Diagnosis = bench::diagnosed;
            /// What readings of the check list say of a build's uncertain figures.
            post correct Search Json "correct" ($crate::bench::CorrectRequest) -> orthavis_core::bench::correct::Correction = bench::corrected;
            /// What there is to practise, and what comes back today.
            post practice Quick Json "practice" ($crate::practice::PracticeRequest) -> $crate::practice::Practice = practice::practice;
            /// A lesson: what to say first, and what happens.
            post lesson Quick Json "lesson" ($crate::practice::LessonRequest) -> $crate::practice::Taught = practice::taught;
            /// Hides a fault in a build, and says what a person sees of it.
            post drill Tries Json "drill" ($crate::practice::DrillRequest) -> $crate::practice::Dealt = practice::dealt;
            /// Takes a reading of a drill.
            post measure Quick Json "measure" ($crate::practice::MeasureRequest) -> $crate::practice::MeterShows = practice::measured;
            /// Marks an answer to a drill.
            post answer Search Json "answer" ($crate::practice::GuessRequest) -> $crate::practice::Marked = practice::marked;
            /// A vehicle from beside, behind and above, filled in tones of one light.
            post drawings Quick Json "drawings" ($crate::look::DrawingsRequest) -> Vec<orthavis_core::vehicle::VehicleView> = look::drawings;
            /// The light of each light: how much, how far it is seen and noticed, what it shows.
            post light Quick Json "light" ($crate::look::LookRequest) -> orthavis_core::look::figures::Lights = look::lights;
            /// What the light of a build comes to, each figure with its working.
            post look Quick Json "look" ($crate::look::LookRequest) -> orthavis_core::look::figures::BuildLook = look::look;
            /// What stands in a picture of the night, whatever shines.
            post night_scenery Quick Json "night/scenery" ($crate::look::NightRequest) -> orthavis_core::look::night::Scenery = look::scenery;
            /// The light of a moment in a picture of the night.
            post night Quick Json "night" ($crate::look::NightRequest) -> $crate::look::Night = look::night;
            /// Every step of a build, laid over the evenings that there are.
            post make Tries Json "make" ($crate::make::MakeRequest) -> $crate::make::Made = make::made;
            /// Steps, cut list or parts as CSV (RFC 4180, UTF-8).
            post make_as_csv Search Csv "make/csv" ($crate::make::MakeTableRequest) -> String = make::as_csv;
            /// The plan of the work as an iCalendar file (RFC 5545).
            post make_as_calendar Search Calendar "make/calendar" ($crate::make::CalendarRequest) -> String = make::as_calendar;
            /// Every piece of wire and strip, and which roll it comes off.
            post cuts Quick Json "cuts" ($crate::DocumentRequest) -> orthavis_core::make::cuts::CutList = make::cut_list;
            /// What the build takes, what is there and what is to be bought.
            post shopping Tries Json "shopping" ($crate::make::PartsRequest) -> orthavis_core::make::parts::PartsList = make::parts_list;
            /// The wiring diagram, laid out.
            post diagram Quick Json "diagram" ($crate::DocumentRequest) -> orthavis_core::make::diagram::Diagram = make::drawn;
            /// The wiring diagram as a drawing for paper (SVG 1.1).
            post diagram_as_svg Search Svg "diagram/svg" ($crate::DocumentRequest) -> String = make::as_svg;
            /// A label for every wire end and every part.
            post labels Quick Json "labels" ($crate::DocumentRequest) -> Vec<orthavis_core::make::labels::Label> = make::flags;
            /// Which part goes into which cavity, what does not fit and by how much; mass and balance.
            post fit Tries Json "fit" ($crate::DocumentRequest) -> $crate::make::Fitted = make::fitted;
            /// The connections as a graph (the DOT language).
            post diagram_as_dot Search Text "diagram/dot" ($crate::DocumentRequest) -> String = make::as_dot;
            /// The build at a scene and state as SPICE text.
            post netlist Search Text "netlist" ($crate::make::NetlistRequest) -> String = make::as_netlist;
            /// What a small circuit does at a state of the source.
            post circuit Search Json "circuit" ($crate::circuits::CircuitRequest) -> orthavis_core::circuits::CircuitFigures = circuits::figures;
            /// A circuit as its own workshop: schematic, waveforms, every state of the source, tolerances, formulas.
            post circuit_view Quick Json "circuit/view" ($crate::circuits::CircuitRequest) -> orthavis_core::circuit::CircuitView = circuits::drawn;
            /// Standard parts that give what is wanted of a circuit, the best first.
            post circuit_choose Search Json "circuit/choose" ($crate::circuits::CircuitRequest) -> Vec<orthavis_core::circuits::CircuitChoice> = circuits::chosen;
            /// A circuit on perforated board, with as few wires over the top as can be.
            post circuit_board Search Json "circuit/board" ($crate::circuits::CircuitRequest) -> orthavis_core::make::board::Board = circuits::laid_out;
            /// Cross-wired LEDs: which pins are high, low and left alone for each.
            post pins Quick Json "pins" (orthavis_core::choose::pins::PinsRequest) -> orthavis_core::choose::pins::CrossWired = circuits::pins;
            /// The same circuit as SPICE text, its measurements under the names of the figures.
            post circuit_as_netlist Search Text "circuit/netlist" ($crate::circuits::CircuitRequest) -> String = circuits::as_netlist;
            /// Its waveforms as CSV (RFC 4180, UTF-8): of each stretch of time the least and the most.
            post circuit_as_csv Search Csv "circuit/csv" ($crate::circuits::CircuitRequest) -> String = circuits::as_csv;
            /// One table as CSV (RFC 4180, UTF-8).
            post csv Search Csv "csv" ($crate::costs::TableRequest) -> String = costs::as_csv;
            /// Chains of a build, what a scene takes, how many pixels fit, how fast it may be shown.
            post show Quick Json "show" ($crate::show::ShowRequest) -> $crate::show::ShowView = show::view;
            /// Frames of a scene one after the other, and what arrives of them.
            post show_frames Quick Json "show/frames" ($crate::show::ShowRequest) -> orthavis_core::show::play::Played = show::play;
            /// Each light of pixels at a moment: asked, delivered, and what a second feed would do.
            post show_arrives Quick Json "show/arrives" ($crate::show::ShowRequest) -> Vec<orthavis_core::show::arrives::Arrived> = show::arrive;
            /// Effects and ready shows to pick from.
            post show_cards Tries Json "show/cards" ($crate::DocumentRequest) -> orthavis_core::show::cards::Cards = show::pick;
            /// The first run of a chain: which number is red next, or what differs from the plan.
            post show_sort Quick Json "show/sort" ($crate::show::SortRequest) -> orthavis_core::show::sort::FirstRun = show::sort;
            /// Chains and frames of a scene as JSON for other programs.
            post show_as_json Search Text "show/json" ($crate::show::ShowRequest) -> String = show::as_json;
            /// Frames of a scene as CSV: moment, output, number, codes.
            post show_as_csv Search Csv "show/csv" ($crate::show::ShowRequest) -> String = show::as_csv;
            /// Where each number is, as CSV.
            post show_as_map Search Csv "show/map" ($crate::DocumentRequest) -> String = show::as_map;
            /// `show.h` of a scene in C99.
            post show_as_header Search Text "show/header" ($crate::show::ShowRequest) -> String = show::as_header;
            /// `show.c` of a scene in C99.
            post show_as_source Search Text "show/source" ($crate::show::ShowRequest) -> String = show::as_source;
            /// What the journal of a build says back: next charge, outings against the plan, health, wear, what is due.
            post journal Search Json "journal" ($crate::upkeep::JournalRequest) -> orthavis_core::upkeep::view::JournalView = upkeep::journal;
            /// What is due of a build, soonest first.
            post journal_due Search Json "journal/due" ($crate::upkeep::JournalRequest) -> Vec<orthavis_core::upkeep::remind::Reminder> = upkeep::reminders;
            /// A line as the event that it says: `ride 40 min, 3 °C`.
            post journal_said Quick Json "journal/said" ($crate::upkeep::SaidRequest) -> orthavis_core::upkeep::said::Said = upkeep::understood;
            /// The life of a pack over every build that it was in.
            post journal_pack Search Json "journal/pack" ($crate::upkeep::PackRequest) -> orthavis_core::upkeep::passport::Passport = upkeep::pack;
            /// What failed before, and which lights are known to have been built right: what finding a fault can use.
            post journal_proven Quick Json "journal/proven" ($crate::upkeep::JournalRequest) -> orthavis_core::upkeep::proven::Proven = upkeep::proven;
            /// The journal as a table (RFC 4180, UTF-8).
            post journal_as_csv Search Csv "journal/csv" ($crate::upkeep::JournalRequest) -> String = upkeep::as_csv;
            /// What is due as an iCalendar file (RFC 5545).
            post journal_as_calendar Search Calendar "journal/calendar" ($crate::upkeep::JournalRequest) -> String = upkeep::as_calendar;
            /// A chart of the journal as a drawing (SVG 1.1).
            post journal_as_svg Search Svg "journal/svg" ($crate::upkeep::ChartRequest) -> String = upkeep::as_svg;
        }
    };
}

fn read<T: DeserializeOwned>(request: &[u8]) -> Answer<T> {
    serde_json::from_slice(request).map_err(|error| Refusal::unreadable(&error))
}

fn json(answer: &impl serde::Serialize) -> Answer<Vec<u8>> {
    serde_json::to_vec(answer).map_err(|error| Refusal::new("answer", "The answer cannot be written", format!("{error}. Report the build.")))
}

/// The bytes of an answer: JSON of its value, or its text as it is.
macro_rules! written {
    (Json, $answer:expr) => {
        json(&$answer)
    };
    ($text:ident, $answer:expr) => {
        Ok(String::into_bytes($answer))
    };
}

macro_rules! operations {
    ($(#[doc = $about:literal] $door:ident $function:ident $pace:ident $media:ident $name:literal ($request:ty) -> $answer:ty = $($path:ident)::+;)+) => {
        /// Every question, in the order in which people meet them.
        pub const OPERATIONS: &[Operation] = &[$(
            Operation {
                name: $name,
                about: $about,
                media: Media::$media,
                pace: Pace::$pace,
                run: |request| {
                    let answer: $answer = $($path)::+(read::<$request>(request)?)?;
                    written!($media, answer)
                },
            }
        ),+];
    };
}

every_operation!(operations);
