//! HTTP: the API under `/api/v1`, and the page with everything it needs from inside the binary.
//!
//! Loopback only, unless it is told to listen on the local network too; there whoever asks has to be let in by a code.
//! A page on another site can neither read nor write builds: the `Host` must be an address this server listens on
//! (which defeats rebinding) and an `Origin`, where there is one, must be the server's own.

mod api;
mod builds;
mod compute;
mod controller;
mod describe;
mod devices;
mod door;
mod guard;
mod instruments;
mod job_book;
mod jobs;
mod journal;
mod own_parts;
mod page;
mod problem;
mod questions;
mod rack;
mod request;
mod request_id;
mod schema;
mod seats;
mod services;
mod sheet;
mod shelf;
mod stock;
mod stored;
mod who;
mod whole;

pub use compute::{Hands, Pool};
pub use door::{CLOSED_FOR, Door, GOOD_FOR, Invitation, Knock, Shut, listen};
pub use page::page_from;
pub use problem::{Answer, Problem};
pub use rack::Rack;
pub use schema::{build_schema, fields};
pub use sheet::{NoCore, Of, sheet};

use axum::Router;
use axum::http::header;
use axum::routing::get;
use door::Listening;
use futures_util::future::join_all;
use guard::Side;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use orthavis_store::Store;
use seats::{Peer, Seats};
use services::Services;
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;
use tokio::net::TcpListener;
use tokio::sync::{Semaphore, watch};

/// Everything this server answers, for clients on `address` of this machine.
pub fn app(store: Store, address: SocketAddr) -> Router {
    app_on(store.clone(), Pool::new(), Arc::new(Door::default()), Arc::default(), Side::Near(address))
}

/// The same as devices on the local network meet it, and as the owner does, on one door.
pub fn apps_with_door(store: Store, near: SocketAddr, garage: SocketAddr) -> (Router, Router) {
    let (pool, door, rack) = (Pool::new(), Arc::new(Door::at(garage.port(), vec![garage])), Arc::<Rack>::default());
    let owners = app_on(store.clone(), pool.clone(), door.clone(), rack.clone(), Side::Near(near));
    (owners, app_on(store.clone(), pool, door, rack, Side::Garage(garage, store, Seats::default())))
}

fn app_on(store: Store, pool: Arc<Pool>, door: Arc<Door>, rack: Arc<Rack>, side: Side) -> Router {
    let (api, _) = api::router().split_for_parts();
    let described = get(|| async { ([(header::CONTENT_TYPE, "application/json")], openapi()) });
    let router = guard::of_this_moment(api.route("/api/v1/openapi.json", described), store.path())
        .with_state(Services { store, pool, jobs: Default::default(), door, rack })
        .fallback(page::serve);
    guard::guarded(router, side)
}

/// The API's description, OpenAPI 3.1 as JSON.
pub fn openapi() -> String {
    let (_, mut description) = api::router().split_for_parts();
    describe::complete(&mut description);
    let mut described = serde_json::to_value(description).unwrap_or_default();
    for (name, schema) in described["components"]["schemas"].as_object_mut().into_iter().flatten() {
        schema::annotate(name, schema);
    }
    serde_json::to_string_pretty(&described).unwrap_or_default() + "\n"
}

/// Connections of this machine at a time; more wait to be accepted.
const CONNECTIONS: usize = 256;
/// How long the head of a request may take to arrive.
const HEAD: Duration = Duration::from_secs(10);
/// How long requests under way may take to end once the process is asked to stop.
const ENDING: Duration = Duration::from_secs(2);

/// Serves this machine, and the local network while the door is open, until `stop`; requests under way are finished as
/// far as a moment allows.
///
/// # Errors
/// When a listener fails.
pub async fn serve(near: TcpListener, store: Store, door: Arc<Door>, rack: Arc<Rack>, stop: impl Future<Output = ()>) -> std::io::Result<()> {
    let pool = Pool::new();
    let graceful = GracefulShutdown::new();
    let app = |side| app_on(store.clone(), pool.clone(), door.clone(), rack.clone(), side);
    let owner = accept(&near, app(Side::Near(near.local_addr()?)), None, &graceful);
    let network = async {
        // Each side has its own seats, so that none on the network can take the owner's.
        let seats = Seats::default();
        let (mut listening, mut changes) = (door.listening(), door.listening());
        loop {
            changes.mark_unchanged();
            let listeners = listening.borrow_and_update().clone();
            let accepting = listeners.iter().filter_map(|listener| {
                let side = Side::Garage(listener.local_addr().ok()?, store.clone(), seats.clone());
                Some(accept(listener, app(side), Some((seats.clone(), listening.clone())), &graceful))
            });
            let accepting = join_all(accepting);
            // Without a listener nothing is accepted; that is not an end.
            tokio::select! { _ = accepting, if !listeners.is_empty() => {}, changed = changes.changed() => if changed.is_err() { break } }
        }
    };
    tokio::select! { () = owner => {}, () = network => {}, () = stop => {} }
    pool.close();
    if tokio::time::timeout(ENDING, graceful.shutdown()).await.is_err() {
        tracing::info!("stopped with requests under way");
    }
    Ok(())
}

/// Takes connections for ever; on the local network as many as there are seats, each until the door is closed.
async fn accept(listener: &TcpListener, app: Router, network: Option<(Seats, watch::Receiver<Listening>)>, graceful: &GracefulShutdown) {
    let mut http = hyper::server::conn::http1::Builder::new();
    // A date is no use to a page on the same machine, and a clock before 1970 has none to give.
    http.timer(TokioTimer::new()).header_read_timeout(HEAD).auto_date_header(false);
    let room = Arc::new(Semaphore::new(CONNECTIONS));
    loop {
        let seat = if network.is_none() { room.clone().acquire_owned().await.ok() } else { None };
        let (stream, peer) = match listener.accept().await {
            Ok(accepted) => accepted,
            Err(error) => {
                // Out of file handles, or a client that left: the next may do.
                tracing::warn!(%error, "a connection was not accepted");
                tokio::time::sleep(Duration::from_millis(50)).await;
                continue;
            }
        };
        let taken = network.as_ref().map(|(seats, _)| seats.take(peer.ip()));
        // One too many is turned away at once: it waits for nobody, and nobody for it.
        if matches!(taken, Some(None)) {
            continue;
        }
        let app = app.clone().layer(axum::Extension(Peer(peer.ip())));
        let serving = graceful.watch(http.serve_connection(TokioIo::new(stream), TowerToHyperService::new(app)));
        let door = network.as_ref().map(|(_, listening)| listening.clone());
        tokio::spawn(async move {
            let closed = async {
                match door {
                    Some(mut door) => drop(door.changed().await),
                    None => std::future::pending().await,
                }
            };
            let ended = tokio::select! { ended = serving => ended, () = closed => Ok(()) };
            if let Err(error) = ended {
                tracing::debug!(%error, "a connection ended early");
            }
            drop((seat, taken));
        });
    }
}

/// Ctrl-C, or the system's word to end. It is heard from here on, not only once it is waited for.
///
/// # Errors
/// When the system hands out no signals.
pub fn asked_to_stop() -> std::io::Result<impl Future<Output = ()>> {
    #[cfg(unix)]
    let asked = {
        use tokio::signal::unix::{SignalKind, signal};
        let (mut interrupt, mut terminate) = (signal(SignalKind::interrupt())?, signal(SignalKind::terminate())?);
        async move {
            tokio::select! { _ = interrupt.recv() => {}, _ = terminate.recv() => {} }
        }
    };
    #[cfg(not(unix))]
    let asked = async { drop(tokio::signal::ctrl_c().await) };
    Ok(async {
        asked.await;
        tracing::info!("stopping");
    })
}
