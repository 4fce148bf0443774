//! What every handler may reach.

use crate::compute::Pool;
use crate::door::Door;
use crate::job_book::Jobs;
use crate::rack::Rack;
use axum::extract::FromRef;
use orthavis_store::Store;
use std::sync::Arc;

/// The store, those that compute, what they were given to do, the door to the local network, and the bench's
/// instruments with the pixel controller.
#[derive(Clone)]
pub(crate) struct Workshop {
    pub(crate) store: Store,
    pub(crate) pool: Arc<Pool>,
    pub(crate) jobs: Arc<Jobs>,
    pub(crate) door: Arc<Door>,
    pub(crate) rack: Arc<Rack>,
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

impl FromRef<Workshop> for Arc<Door> {
    fn from_ref(workshop: &Workshop) -> Arc<Door> {
        workshop.door.clone()
    }
}

impl FromRef<Workshop> for Arc<Rack> {
    fn from_ref(workshop: &Workshop) -> Arc<Rack> {
        workshop.rack.clone()
    }
}
