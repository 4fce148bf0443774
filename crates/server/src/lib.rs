//! HTTP: the API under `/api/v1`, and the page with everything it needs from inside the binary.
//!
//! Loopback only. A page on another site can neither read nor write builds: the `Host` must be an address this
//! server listens on (which defeats rebinding) and an `Origin`, where there is one, must be the server's own.

mod api;
mod drain;
mod guard;
mod page;
mod problem;
mod schema;

pub use schema::build_schema;

use axum::Router;
use orthavis_store::Store;
use std::net::SocketAddr;
use tokio::net::TcpListener;

/// Everything this server answers, for clients on `address`.
pub fn app(store: Store, address: SocketAddr) -> Router {
    let (api, _) = api::router().split_for_parts();
    let router = api.with_state(store).fallback(page::serve);
    guard::guarded(router, address)
}

/// The API's description, OpenAPI 3.1 as JSON.
pub fn openapi() -> String {
    let (_, description) = api::router().split_for_parts();
    description.to_pretty_json().unwrap_or_default() + "\n"
}

/// Serves until the process is asked to stop; requests under way are finished.
///
/// # Errors
/// When the listener fails.
pub async fn serve(listener: TcpListener, store: Store) -> std::io::Result<()> {
    let address = listener.local_addr()?;
    axum::serve(listener, app(store, address)).with_graceful_shutdown(asked_to_stop()).await
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
