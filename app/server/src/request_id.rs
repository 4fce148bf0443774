//! A number for each request, in its answer, in the log, and in the problem that it may end in.

use std::sync::atomic::{AtomicU64, Ordering};

tokio::task_local! {
    static CURRENT: String;
}

/// Answers within the number that is handed on to everything it calls.
pub async fn numbered<T>(work: impl Future<Output = T>) -> (String, T) {
    static COUNT: AtomicU64 = AtomicU64::new(1);
    let number = format!("{}-{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed));
    let answered = CURRENT.scope(number.clone(), work).await;
    (number, answered)
}

/// The number of the request that is being answered.
pub fn current() -> Option<String> {
    CURRENT.try_with(Clone::clone).ok()
}
