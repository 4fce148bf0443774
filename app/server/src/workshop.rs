//! What every handler may reach.

use crate::compute::Pool;
use crate::job_book::Jobs;
use axum::extract::FromRef;
use orthavis_store::Store;
use std::sync::Arc;

/// The store, those that compute, and what they were given to do.
#[derive(Clone)]
pub(crate) struct Workshop {
    pub(crate) store: Store,
    pub(crate) pool: Arc<Pool>,
    pub(crate) jobs: Arc<Jobs>,
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

impl FromRef<Workshop> for Arc<Jobs> {
    fn from_ref(workshop: &Workshop) -> Arc<Jobs> {
        workshop.jobs.clone()
    }
}
