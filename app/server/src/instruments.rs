//! The bench's instruments: off until they are switched on, then on this machine alone.

use crate::problem::{Answer, Problem};
use crate::rack::Rack;
use crate::request::Body;
use crate::services::Services;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use orthavis_core::bench::fault::Fault;
use orthavis_core::document::{Build, parse};
use orthavis_core::states::State as SourceState;
use orthavis_instruments::{Instruments, OnBench};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::sync::Arc;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new().routes(routes!(instruments, switch)).routes(routes!(put_on_bench))
}

/// Where one instrument listens.
#[derive(Serialize, ToSchema)]
struct Listening {
    /// `meter`, `supply` or `charger`.
    instrument: String,
    /// Host and port of its lines.
    address: String,
}

/// What is connected to the instruments.
#[derive(Serialize, ToSchema)]
struct Connected {
    /// Name of the build.
    build: String,
    /// The scene that is on.
    scene: String,
    /// How full its battery is.
    state: SourceState,
    /// Faults in it.
    faults: Vec<String>,
}

/// The instruments.
#[derive(Serialize, ToSchema)]
struct OnRack {
    /// Where they listen; empty while they are off.
    listening: Vec<Listening>,
    /// What is connected; absent while they are off.
    connected: Option<Connected>,
}

fn said(instruments: Option<&Instruments>) -> OnRack {
    let Some(instruments) = instruments else { return OnRack { listening: Vec::new(), connected: None } };
    let listening =
        instruments.addresses.iter().map(|(kind, address)| Listening { instrument: kind.name().to_lowercase(), address: address.to_string() }).collect();
    let connected = instruments.with(|bench| {
        let on = bench.connected();
        let faults = on.faults.iter().map(|fault| fault.name(&on.build)).collect();
        Connected { build: on.build.name.clone(), scene: on.scene.clone(), state: on.state, faults }
    });
    OnRack { listening, connected: Some(connected) }
}

/// Whether the bench's instruments are on, and what is connected.
#[utoipa::path(get, path = "/api/v1/instruments", responses((status = 200, body = OnRack)))]
async fn instruments(State(rack): State<Arc<Rack>>) -> Json<OnRack> {
    Json(said(rack.on.lock().await.as_ref()))
}

/// What is put on the bench.
#[derive(Deserialize, ToSchema)]
struct PutOnBench {
    /// The build.
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// The scene that is on; the first by default.
    scene: Option<String>,
    /// State of the source; the fullest by default.
    #[schema(value_type = Option<SourceState>)]
    state: Option<String>,
    /// Faults in it, as `KIND@PLACE=SIZE`.
    #[serde(default)]
    faults: Vec<String>,
}

impl PutOnBench {
    fn read(self) -> Answer<OnBench> {
        let wrong = |detail: String| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "bench", "The bench cannot do that", detail);
        let mut on = OnBench::of(Arc::new(parse(self.document.get())?));
        if let Some(scene) = self.scene {
            if !on.build.scenes.iter().any(|known| known.id == scene) {
                return Err(wrong(format!("There is no scene `{scene}` in this build. Name one of its own.")));
            }
            on.scene = scene;
        }
        if let Some(word) = self.state {
            let states = on.build.states();
            let state = states.iter().find(|state| state.word() == word);
            on.state = *state.ok_or_else(|| wrong(format!("This source has no state `{word}`. Name one of its own.")))?;
        }
        let faults = self.faults.iter().map(|name| Fault::parse(&on.build, name)).collect::<Result<_, _>>();
        on.faults = faults.map_err(|error| wrong(format!("{error}.")))?;
        Ok(on)
    }
}

/// On, with a build, or off.
#[derive(Deserialize, ToSchema)]
struct Switched {
    /// Whether they are on.
    on: bool,
    /// What is put on the bench; needed to switch them on.
    bench: Option<PutOnBench>,
}

/// Switches the instruments on with a build on the bench, or off.
#[utoipa::path(put, path = "/api/v1/instruments", request_body = Switched,
    responses((status = 200, body = OnRack), (status = 409, body = Problem, content_type = "application/problem+json"), (status = 422, body = Problem)))]
async fn switch(State(rack): State<Arc<Rack>>, Body(switched): Body<Switched>) -> Answer<Json<OnRack>> {
    if !switched.on {
        rack.on.lock().await.take();
        return Ok(Json(said(None)));
    }
    let Some(bench) = switched.bench else {
        let detail = "Nothing is on the bench: give `bench` the build that the instruments are connected to.";
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "bench", "The bench is empty", detail));
    };
    let on = bench.read()?;
    rack.switch_on(on.build.clone()).await.map_err(|error| {
        let detail = format!("{error}. Something else listens there; close it and try again.");
        Problem::new(StatusCode::CONFLICT, "port", "A port is taken", detail)
    })?;
    let kept = rack.on.lock().await;
    if let Some(instruments) = kept.as_ref() {
        instruments.with(|bench| bench.put(on));
    }
    Ok(Json(said(kept.as_ref())))
}

/// Puts another build, scene, state or faults on the bench.
#[utoipa::path(put, path = "/api/v1/instruments/bench", request_body = PutOnBench,
    responses((status = 200, body = OnRack), (status = 409, body = Problem, content_type = "application/problem+json"), (status = 422, body = Problem)))]
async fn put_on_bench(State(rack): State<Arc<Rack>>, Body(bench): Body<PutOnBench>) -> Answer<Json<OnRack>> {
    let on = bench.read()?;
    let kept = rack.on.lock().await;
    let Some(instruments) = kept.as_ref() else {
        let detail = "The instruments are off. Switch them on at the bench, or start with `orthavis serve --instruments`.";
        return Err(Problem::new(StatusCode::CONFLICT, "off", "Nothing to connect to", detail));
    };
    instruments.with(|bench| bench.put(on));
    Ok(Json(said(Some(instruments))))
}
