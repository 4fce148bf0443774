//! The simulated pixel controller: what is played to it over E1.31, and what it heard.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use crate::rack::Rack;
use crate::request::Body;
use crate::services::Services;
use axum::Json;
use axum::extract::{Query, State};
use axum::http::StatusCode;
use orthavis_core::document::{Build, parse};
use orthavis_core::pixels_over_time::Frame;
use orthavis_core::show::play::{Played, most_speed, received};
use orthavis_instruments::sacn::{Heard, Script, universes};
use orthavis_operations::Refusal;
use orthavis_operations::show::{Says, inputs};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;
use std::sync::Arc;
use std::time::Duration;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// Nobody waits longer for a packet.
const WAIT: Duration = Duration::from_millis(250);

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new().routes(routes!(controller, play))
}

/// What one universe heard.
#[derive(Serialize, ToSchema)]
struct UniverseHeard {
    /// Its number.
    universe: u16,
    /// Who is shown; absent at rest.
    #[serde(skip_serializing_if = "Option::is_none")]
    sender: Option<String>,
    /// Packets in all.
    received: u64,
    /// Numbers that never came.
    lost: u64,
    /// Packets that came after a later one.
    late: u64,
    /// Packets within the last second.
    a_second: usize,
}

/// The controller.
#[derive(Serialize, ToSchema)]
struct ControllerHeard {
    /// Where it listens; absent while it is off.
    #[serde(skip_serializing_if = "Option::is_none")]
    address: Option<String>,
    /// The scene that is played to it; absent while nothing is.
    #[serde(skip_serializing_if = "Option::is_none")]
    scene: Option<String>,
    /// How fast it is played: 1 as it is.
    speed: f64,
    /// By number.
    universes: Vec<UniverseHeard>,
    /// Packets that were none.
    malformed: u64,
    /// What the lights show by what it heard; absent while nothing is played.
    #[serde(skip_serializing_if = "Option::is_none")]
    shows: Option<Played>,
}

/// How the controller is asked.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Asked {
    /// Wait for the next packet, a quarter of a second at most.
    #[serde(default)]
    wait: bool,
    /// With what arrives at each pixel.
    #[serde(default)]
    delivered: bool,
}

fn told(heard: &Heard, address: Option<String>, script: Option<&Script>, shows: Option<Played>) -> ControllerHeard {
    let universe = |one: &orthavis_instruments::sacn::Universe| UniverseHeard {
        universe: one.universe,
        sender: one.sender.clone(),
        received: one.received,
        lost: one.lost,
        late: one.late,
        a_second: one.a_second,
    };
    ControllerHeard {
        address,
        scene: script.map(|script| script.scene.clone()),
        speed: script.map_or(1.0, |script| script.speed),
        universes: heard.universes.iter().map(universe).collect(),
        malformed: heard.malformed,
        shows,
    }
}

/// Codes of every output by what the universes heard.
fn codes(build: &Build, heard: &Heard) -> Frame {
    let chains = orthavis_core::pixels_over_time::chains(build);
    let mut frame = Frame { codes: chains.iter().map(|chain| vec![[0; 3]; chain.count]).collect() };
    for (universe, output, first, count) in universes(build) {
        let Some(own) = heard.universes.iter().find(|one| one.universe == universe) else { continue };
        for (pixel, code) in own.channels.chunks_exact(3).take(count).enumerate() {
            frame.codes[output][first + pixel] = [code[0], code[1], code[2]];
        }
    }
    frame
}

/// What the controller heard, and what the lights show by it.
#[utoipa::path(get, path = "/api/v1/controller", params(Asked), responses((status = 200, body = ControllerHeard), (status = 422, body = Problem)))]
async fn controller(State(rack): State<Arc<Rack>>, hands: Hands, Query(asked): Query<Asked>) -> Answer<Json<ControllerHeard>> {
    let (controller, script) = match rack.stage.on.lock().await.as_ref() {
        None => return Ok(Json(told(&Heard::default(), None, None, None))),
        Some(on) => (on.controller.clone(), on.playing.as_ref().map(|(script, _)| script.clone())),
    };
    if asked.wait && script.is_some() {
        // Silence is an answer, too.
        drop(tokio::time::timeout(WAIT, controller.next()).await);
    }
    let heard = controller.heard();
    let shows = match &script {
        None => None,
        Some(script) => {
            let (script, frame) = (script.clone(), codes(&script.build, &heard));
            let answer = move || {
                let scene = script.build.scenes.iter().find(|scene| scene.id == script.scene).ok_or_else(Problem::internal)?;
                Ok(received(&script.build, scene, &frame, asked.delivered).map_err(Refusal::from)?)
            };
            Some(hands.compute(answer).await?)
        }
    };
    Ok(Json(told(&heard, Some(controller.address.to_string()), script.as_ref(), shows)))
}

/// What is played.
#[derive(Deserialize, ToSchema)]
struct ToPlay {
    /// The build.
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Scene id.
    scene: String,
    /// What inputs say, by name: a share or a word.
    #[serde(default)]
    inputs: BTreeMap<String, Says>,
    /// How fast: 1 as it is. What flashes is never played faster than three times a second.
    #[serde(default = "one")]
    speed: f64,
    /// From this moment of the show on, s.
    #[serde(default)]
    from_s: f64,
}

fn one() -> f64 {
    1.0
}

/// What plays, or nothing.
#[derive(Deserialize, ToSchema)]
struct OnController {
    /// What is played; `null` ends it, and is said.
    #[serde(deserialize_with = "Option::deserialize")]
    #[schema(required = true)]
    play: Option<ToPlay>,
}

/// Plays a scene to the controller over E1.31, goes on with another without a gap, or ends it.
#[utoipa::path(put, path = "/api/v1/controller", request_body = OnController,
    responses((status = 200, body = ControllerHeard), (status = 409, body = Problem, content_type = "application/problem+json"), (status = 422, body = Problem)))]
async fn play(State(rack): State<Arc<Rack>>, Body(asked): Body<OnController>) -> Answer<Json<ControllerHeard>> {
    let port = |error: std::io::Error| Problem::new(StatusCode::CONFLICT, "port", "No way to the controller", format!("{error}. Try again in a moment."));
    match asked.play {
        None => rack.stage.stop().await.map_err(port)?,
        Some(play) => {
            let build = parse(play.document.get())?;
            let wrong = |detail: String| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "show", "The show cannot be played like this", detail);
            let scene = build.scenes.iter().find(|scene| scene.id == play.scene);
            let scene = scene.ok_or_else(|| wrong(format!("There is no scene `{}` in this build. Name one of its own.", play.scene)))?;
            if !(play.speed.is_finite() && (0.0..=10.0).contains(&play.speed) && play.from_s.is_finite() && play.from_s >= 0.0) {
                return Err(wrong("A show is played at 0 to 10 times its speed, from 0 s or later on.".into()));
            }
            // Nobody is shown more than three flashes a second.
            let speed = play.speed.min(most_speed(&build, scene));
            let script = Script { inputs: inputs(&play.inputs)?, scene: play.scene, speed, from_s: play.from_s, build: Arc::new(build) };
            rack.stage.play(script).await.map_err(port)?;
        }
    }
    let on = rack.stage.on.lock().await;
    let heard = on.as_ref().map(|on| on.controller.heard()).unwrap_or_default();
    let script = on.as_ref().and_then(|on| on.playing.as_ref()).map(|(script, _)| script);
    Ok(Json(told(&heard, on.as_ref().map(|on| on.controller.address.to_string()), script, None)))
}
