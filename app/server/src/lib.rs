//! HTTP: the API under `/api/v1`, and the page with everything it needs from inside the binary.
//!
//! Loopback only. A page on another site can neither read nor write builds: the `Host` must be an address this
//! server listens on (which defeats rebinding) and an `Origin`, where there is one, must be the server's own.

mod api;
mod builds;
mod compute;
mod describe;
mod guard;
mod job_book;
mod jobs;
mod journal;
mod own_parts;
mod page;
mod problem;
mod questions;
mod request;
mod request_id;
mod schema;
mod shelf;
mod stored;
mod workshop;

pub use schema::{build_schema, fields};

use axum::Router;
use axum::http::header;
use axum::routing::get;
use compute::Pool;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use orthavis_store::Store;
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;
use tokio::net::TcpListener;
use tokio::sync::Semaphore;
use workshop::Workshop;

/// Everything this server answers, for clients on `address`.
pub fn app(store: Store, address: SocketAddr) -> Router {
    app_on(store, Pool::new(), address)
}

fn app_on(store: Store, pool: Arc<Pool>, address: SocketAddr) -> Router {
    let (api, _) = api::router().split_for_parts();
    let described = get(|| async { ([(header::CONTENT_TYPE, "application/json")], openapi()) });
    let router = guard::of_this_moment(api.route("/api/v1/openapi.json", described))
        .with_state(Workshop { store, pool, jobs: Default::default() })
        .fallback(page::serve);
    guard::guarded(router, address)
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

/// Connections at a time; more wait to be accepted.
const CONNECTIONS: usize = 256;
/// How long the head of a request may take to arrive.
const HEAD: Duration = Duration::from_secs(10);
/// How long requests under way may take to end once the process is asked to stop.
const ENDING: Duration = Duration::from_secs(2);

/// Serves until the process is asked to stop; requests under way are finished as far as a moment allows.
///
/// # Errors
/// When the listener fails.
pub async fn serve(listener: TcpListener, store: Store) -> std::io::Result<()> {
    let address = listener.local_addr()?;
    let pool = Pool::new();
    let app = app_on(store, pool.clone(), address);
    let mut http = hyper::server::conn::http1::Builder::new();
    // A date is no use to a page on the same machine, and a clock before 1970 has none to give.
    http.timer(TokioTimer::new()).header_read_timeout(HEAD).auto_date_header(false);
    let graceful = GracefulShutdown::new();
    let room = Arc::new(Semaphore::new(CONNECTIONS));
    let mut stop = std::pin::pin!(asked_to_stop());
    loop {
        let accepted = async {
            let seat = room.clone().acquire_owned().await;
            (listener.accept().await, seat)
        };
        let (connection, seat) = tokio::select! { accepted = accepted => accepted, () = &mut stop => break };
        let stream = match connection {
            Ok((stream, _)) => stream,
            Err(error) => {
                // Out of file handles, or a client that left: the next may do.
                tracing::warn!(%error, "a connection was not accepted");
                tokio::time::sleep(Duration::from_millis(50)).await;
                continue;
            }
        };
        let serving = graceful.watch(http.serve_connection(TokioIo::new(stream), TowerToHyperService::new(app.clone())));
        tokio::spawn(async move {
            if let Err(error) = serving.await {
                tracing::debug!(%error, "a connection ended early");
            }
            drop(seat);
        });
    }
    drop(listener);
    pool.close();
    if tokio::time::timeout(ENDING, graceful.shutdown()).await.is_err() {
        tracing::info!("stopped with requests under way");
    }
    Ok(())
}

async fn asked_to_stop() {
    let interrupt = async { tokio::signal::ctrl_c().await.is_ok() };
    #[cfg(unix)]
    let terminate = async {
        match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
            Ok(mut signal) => signal.recv().await.is_some(),
            Err(_) => std::future::pending().await,
        }
    };
    #[cfg(not(unix))]
    let terminate = std::future::pending::<bool>();
    tokio::select! { _ = interrupt => {}, _ = terminate => {} }
    tracing::info!("stopping");
}
