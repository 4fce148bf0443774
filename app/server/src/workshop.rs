//! What every handler may reach.

use crate::compute::Pool;
use axum::extract::FromRef;
use orthavis_store::Store;
use std::sync::Arc;

/// The store, and those that compute.
#[derive(Clone)]
pub(crate) struct Workshop {
    pub(crate) store: Store,
    pub(crate) pool: Arc<Pool>,
}

impl FromRef<Workshop> for Store {
    fn from_ref(workshop: &Workshop) -> Store {
        workshop.store.clone()
    }
}

impl FromRef<Workshop> for Arc<Pool> {
    fn from_ref(workshop: &Workshop) -> Arc<Pool> {
        workshop.pool.clone()
    }
}
