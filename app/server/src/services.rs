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
pub(crate) struct Services {
    pub(crate) store: Store,
    pub(crate) pool: Arc<Pool>,
    pub(crate) jobs: Arc<Jobs>,
    pub(crate) door: Arc<Door>,
    pub(crate) rack: Arc<Rack>,
}

impl FromRef<Services> for Store {
    fn from_ref(workshop: &Services) -> Store {
        workshop.store.clone()
    }
}

impl FromRef<Services> for Arc<Pool> {
    fn from_ref(workshop: &Services) -> Arc<Pool> {
        workshop.pool.clone()
    }
}

impl FromRef<Services> for Arc<Jobs> {
    fn from_ref(workshop: &Services) -> Arc<Jobs> {
        workshop.jobs.clone()
    }
}

impl FromRef<Services> for Arc<Door> {
    fn from_ref(workshop: &Services) -> Arc<Door> {
        workshop.door.clone()
    }
}

impl FromRef<Services> for Arc<Rack> {
    fn from_ref(workshop: &Services) -> Arc<Rack> {
        workshop.rack.clone()
    }
}
