//! The jobs that were taken in, and where each of them is.

use crate::problem::{Answer, Problem};
use axum::http::StatusCode;
use orthavis_core::mend::MendedAll;
use serde::Serialize;
use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::watch;
use tokio::task::AbortHandle;
use utoipa::ToSchema;

/// Where a job is.
#[derive(Clone, Debug, Serialize, ToSchema)]
#[serde(tag = "state", rename_all = "snake_case")]
pub(crate) enum Job {
    /// It goes on.
    Running {
        /// Its number.
        id: i64,
        /// So much is done.
        done: u64,
        /// Of so much; 0 while that is not known.
        of: u64,
    },
    /// It has ended.
    Done {
        /// Its number.
        id: i64,
        /// What came of it.
        #[schema(value_type = MendedAll)]
        answer: Arc<MendedAll>,
    },
    /// It has ended without an answer.
    Failed {
        /// Its number.
        id: i64,
        /// Why.
        #[schema(value_type = Problem)]
        problem: Arc<Problem>,
    },
}

impl Job {
    pub(crate) fn has_ended(&self) -> bool {
        !matches!(self, Job::Running { .. })
    }
}

pub(crate) struct Known {
    pub(crate) state: watch::Receiver<Job>,
    pub(crate) task: AbortHandle,
}

/// The jobs that were taken in.
#[derive(Default)]
pub(crate) struct Jobs(Mutex<Book>);

#[derive(Default)]
pub(crate) struct Book {
    pub(crate) last: i64,
    pub(crate) known: BTreeMap<i64, Known>,
}

impl Jobs {
    pub(crate) fn book<T>(&self, with: impl FnOnce(&mut Book) -> T) -> T {
        with(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    pub(crate) fn find(&self, id: i64) -> Answer<watch::Receiver<Job>> {
        self.book(|book| book.known.get(&id).map(|job| job.state.clone())).ok_or_else(unknown)
    }
}

pub(crate) fn unknown() -> Problem {
    Problem::new(StatusCode::NOT_FOUND, "job", "No such job", "It was never taken in, was called off, or is forgotten by now. Ask again.")
}
