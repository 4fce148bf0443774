//! How much computing one question may take: counted in steps, not in time, and looked at in the innermost loops.
//!
//! Whoever asks on behalf of others runs the question in [`run`]; without it nothing is counted. A question that takes
//! more, or that nobody waits for any more, ends with [`Stopped`] and never with a figure.

use std::cell::RefCell;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

/// Steps that a question may take: some one and a half seconds of one core. A step is about what half a tap of a strip
/// takes in one Newton step; an unknown of the sparse matrix counts as forty, a part of a build that is copied as
/// twenty.
pub const USUAL: u64 = 20_000_000;

/// Hears how far a question has come: so much done, of so much.
pub type Listener = Box<dyn Fn(u64, u64) + Send + Sync>;

/// What is left, shared by all threads that work on one question.
pub struct Budget {
    left: AtomicU64,
    called_off: AtomicBool,
    listener: Option<Listener>,
}

/// Why a computation ended without an answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stopped {
    /// It takes more than it may.
    TooMuch,
    /// Nobody waits for it any more.
    CalledOff,
}

impl Budget {
    /// So many steps.
    pub fn new(steps: u64) -> Arc<Self> {
        Arc::new(Budget { left: AtomicU64::new(steps), called_off: AtomicBool::new(false), listener: None })
    }

    /// So many steps, with someone who hears of progress.
    pub fn heard(steps: u64, listener: Listener) -> Arc<Self> {
        Arc::new(Budget { left: AtomicU64::new(steps), called_off: AtomicBool::new(false), listener: Some(listener) })
    }

    /// Ends whatever runs on it at its next step.
    pub fn call_off(&self) {
        self.called_off.store(true, Ordering::Relaxed);
    }

    fn take(&self, steps: u64) -> Option<Stopped> {
        if self.called_off.load(Ordering::Relaxed) {
            return Some(Stopped::CalledOff);
        }
        let before = self.left.fetch_update(Ordering::Relaxed, Ordering::Relaxed, |left| Some(left.saturating_sub(steps)));
        (before.unwrap_or(0) < steps).then_some(Stopped::TooMuch)
    }

    fn stopped(&self) -> Option<Stopped> {
        if self.called_off.load(Ordering::Relaxed) { Some(Stopped::CalledOff) } else { (self.left.load(Ordering::Relaxed) == 0).then_some(Stopped::TooMuch) }
    }
}

thread_local! {
    static CURRENT: RefCell<Option<Arc<Budget>>> = const { RefCell::new(None) };
}

/// Puts the budget before back, also when the work panics.
struct Restore(Option<Arc<Budget>>);

impl Drop for Restore {
    fn drop(&mut self) {
        CURRENT.with(|current| *current.borrow_mut() = self.0.take());
    }
}

/// Does work on a budget; what it calls on this thread is counted.
pub fn run<T>(budget: Option<Arc<Budget>>, work: impl FnOnce() -> T) -> T {
    let _before = Restore(CURRENT.with(|current| current.replace(budget)));
    work()
}

/// The budget that work on this thread counts on; to be handed to threads that help.
pub fn current() -> Option<Arc<Budget>> {
    CURRENT.with(|current| current.borrow().clone())
}

/// Counts steps.
///
/// # Errors
/// When there are no more, or the work was called off.
pub fn spend(steps: u64) -> Result<(), Stopped> {
    CURRENT.with(|current| current.borrow().as_ref().and_then(|budget| budget.take(steps)).map_or(Ok(()), Err))
}

/// Tells whoever listens how far the work on this thread has come.
pub fn progress(done: u64, of: u64) {
    if let Some(budget) = current()
        && let Some(listener) = &budget.listener
    {
        listener(done, of);
    }
}

/// Whether work on this thread has been stopped: what it found meanwhile is not the whole.
pub fn stopped() -> Option<Stopped> {
    CURRENT.with(|current| current.borrow().as_ref().and_then(|budget| budget.stopped()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_budget_ends_and_can_be_called_off() {
        assert_eq!(spend(u64::MAX), Ok(()), "nothing is counted outside");
        let budget = Budget::new(10);
        run(Some(budget.clone()), || {
            assert_eq!((spend(6), stopped()), (Ok(()), None));
            assert_eq!(spend(6), Err(Stopped::TooMuch));
            assert_eq!(stopped(), Some(Stopped::TooMuch));
        });
        assert_eq!(stopped(), None);
        budget.call_off();
        run(Some(budget), || assert_eq!(spend(0), Err(Stopped::CalledOff)));
    }

    #[test]
    fn progress_is_told_to_whoever_listens() {
        progress(1, 2);
        let told = Arc::new(std::sync::Mutex::new(Vec::new()));
        let hear = told.clone();
        let budget = Budget::heard(10, Box::new(move |done, of| hear.lock().expect("heard").push((done, of))));
        run(Some(budget), || (1..=3).for_each(|done| progress(done, 3)));
        assert_eq!(*told.lock().expect("told"), [(1, 3), (2, 3), (3, 3)]);
    }

    #[test]
    fn a_panic_leaves_no_budget_behind() {
        let work = std::panic::AssertUnwindSafe(|| run(Some(Budget::new(0)), || panic!("on purpose")));
        assert!(std::panic::catch_unwind(work).is_err());
        assert_eq!(spend(1), Ok(()));
    }
}
