//! Questions to the core, off the executor: a few at a time, each on a budget, called off when nobody waits any more.
//!
//! Quick questions and long ones have a lane each, so that a search never keeps a keystroke waiting; in the long lane a
//! client has one turn at a time, so that nobody keeps it from the others.

use crate::problem::{Answer, Problem};
use crate::who::Who;
use axum::extract::{FromRef, FromRequestParts};
use axum::http::StatusCode;
use axum::http::request::Parts;
use orthavis_core::budget::{self, Budget};
use std::collections::HashMap;
use std::convert::Infallible;
use std::sync::{Arc, Mutex, Weak};
use std::time::Duration;
use tokio::sync::Semaphore;
use tokio::time::timeout;

/// How long a question may wait for its turn.
const TURN: Duration = Duration::from_secs(20);
/// How long an answer may take where the machine is too slow for the budget to end it first.
const PATIENCE: Duration = Duration::from_secs(15);

/// Those that compute.
pub struct Pool {
    turns: Arc<Semaphore>,
    /// The lane of what takes long.
    long: Arc<Semaphore>,
    /// The one long turn of each client that has asked for one.
    clients: Mutex<HashMap<Client, Weak<Semaphore>>>,
    /// What is being computed, to be called off when the server stops.
    running: Mutex<Vec<Weak<Budget>>>,
}

impl Pool {
    /// As many as there are processors, and one more for the one that waits for memory.
    pub fn new() -> Arc<Self> {
        let hands = std::thread::available_parallelism().map_or(2, usize::from) + 1;
        let lane = |size: usize| Arc::new(Semaphore::new(size));
        Arc::new(Pool { turns: lane(hands), long: lane((hands - 1).max(1)), clients: Mutex::default(), running: Mutex::default() })
    }

    /// The one long turn of a client.
    fn turn_of(&self, client: Client) -> Arc<Semaphore> {
        let Ok(mut clients) = self.clients.lock() else { return Arc::new(Semaphore::new(1)) };
        clients.retain(|_, turn| turn.strong_count() > 0);
        let known = clients.get(&client).and_then(Weak::upgrade);
        known.unwrap_or_else(|| {
            let turn = Arc::new(Semaphore::new(1));
            clients.insert(client, Arc::downgrade(&turn));
            turn
        })
    }

    /// Turns that nobody has.
    pub fn free(&self) -> usize {
        self.turns.available_permits()
    }

    /// Ends all that is being computed, and takes nothing more.
    pub fn close(&self) {
        self.turns.close();
        self.long.close();
        if let Ok(running) = self.running.lock() {
            running.iter().filter_map(Weak::upgrade).for_each(|budget| budget.call_off());
        }
    }

    fn register(&self, budget: &Arc<Budget>) {
        if let Ok(mut running) = self.running.lock() {
            running.retain(|known| known.strong_count() > 0);
            running.push(Arc::downgrade(budget));
        }
    }
}

/// Calls a computation off when whoever asked has gone.
struct CallOff(Arc<Budget>);

impl Drop for CallOff {
    fn drop(&mut self) {
        self.0.call_off();
    }
}

fn busy() -> Problem {
    Problem::new(StatusCode::SERVICE_UNAVAILABLE, "busy", "Too much at once", "The server is busy or closing. Try again in a moment.")
}

/// Who asks, as far as turns go: the owner, or a device by its key.
type Client = Option<i64>;

/// Access to the pool, for a handler.
#[derive(Clone)]
pub struct Hands(pub Arc<Pool>, Client);

impl<S: Send + Sync> FromRequestParts<S> for Hands
where
    Arc<Pool>: FromRef<S>,
{
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Infallible> {
        let client = match parts.extensions.get::<Who>() {
            Some(Who::Let(device)) => Some(device.id),
            _ => None,
        };
        Ok(Hands(Arc::from_ref(state), client))
    }
}

impl Hands {
    /// The owner's own access, for what the server does by itself.
    pub fn of(pool: Arc<Pool>) -> Self {
        Hands(pool, None)
    }

    /// Long work on the usual budget, in its own lane.
    pub async fn compute_long<T: Send + 'static>(&self, work: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
        let own = self.0.turn_of(self.1);
        let mine = timeout(TURN, own.acquire_owned()).await.map_err(|_| busy())?.map_err(|_| busy())?;
        let turn = timeout(TURN, self.0.long.clone().acquire_owned()).await.map_err(|_| busy())?.map_err(|_| busy())?;
        self.carried_out(Budget::new(budget::USUAL), (mine, turn), work).await
    }

    /// Work on the usual budget.
    pub async fn compute<T: Send + 'static>(&self, work: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
        self.compute_within(budget::USUAL, work).await
    }

    /// Work on a budget of its own.
    pub async fn compute_within<T: Send + 'static>(&self, steps: u64, work: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
        self.compute_on(Budget::new(steps), work).await
    }

    /// Work on a budget that is there already.
    pub async fn compute_on<T: Send + 'static>(&self, budget: Arc<Budget>, work: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
        let turn = timeout(TURN, self.0.turns.clone().acquire_owned()).await.map_err(|_| busy())?.map_err(|_| busy())?;
        self.carried_out(budget, turn, work).await
    }

    /// Work that has its turn; the turn is given up when the work ends, not when nobody waits for it any more.
    async fn carried_out<T: Send + 'static>(
        &self,
        budget: Arc<Budget>,
        turn: impl Send + 'static,
        work: impl FnOnce() -> Answer<T> + Send + 'static,
    ) -> Answer<T> {
        self.0.register(&budget);
        let waiting = CallOff(budget.clone());
        let task = tokio::task::spawn_blocking(move || {
            let outcome = budget::run(Some(budget), work);
            // Only now is there a turn for the next, whether or not anyone still waits for this.
            drop(turn);
            outcome
        });
        let outcome = timeout(PATIENCE, task).await;
        drop(waiting);
        match outcome {
            Ok(Ok(answer)) => answer,
            Ok(Err(_)) => Err(Problem::internal()),
            Err(_) => Err(Problem::new(
                StatusCode::UNPROCESSABLE_ENTITY,
                "too-large",
                "Too large to compute",
                "This takes too long here. Make the build smaller, or divide it.",
            )),
        }
    }
}
