//! Work off the executor: turns, budgets, and what is called off.

use axum::http::StatusCode;
use orthavis_core::budget::{Stopped, spend};
use orthavis_server::{Answer, Hands, Pool};
use tokio::sync::mpsc::{UnboundedSender, unbounded_channel};

/// Work that says that it has begun, and computes until it is stopped.
fn endless(begun: UnboundedSender<()>, ended: UnboundedSender<Stopped>) -> impl FnOnce() -> Answer<()> + Send {
    move || {
        begun.send(()).expect("someone waits");
        let why = loop {
            if let Err(why) = spend(0) {
                break why;
            }
        };
        ended.send(why).expect("someone waits");
        Ok(())
    }
}

#[tokio::test]
async fn what_nobody_waits_for_ends_and_gives_its_turn_back() {
    let hands = Hands::of(Pool::new());
    let turns = hands.0.free();
    let ((begun, mut begins), (ended, mut ends)) = (unbounded_channel(), unbounded_channel());
    // More than there are turns: each of them has to come back.
    for _ in 0..2 * turns {
        let (hands, work) = (hands.clone(), endless(begun.clone(), ended.clone()));
        let asked = tokio::spawn(async move { hands.compute(work).await });
        begins.recv().await.expect("it begins");
        asked.abort();
        assert_eq!(ends.recv().await.expect("it ends"), Stopped::CalledOff);
    }
    assert_eq!(hands.compute(|| Ok(7)).await.ok(), Some(7));
}

#[tokio::test]
async fn closing_ends_what_runs_and_takes_nothing_more() {
    let hands = Hands::of(Pool::new());
    let ((begun, mut begins), (ended, mut ends)) = (unbounded_channel(), unbounded_channel());
    let (asking, work) = (hands.clone(), endless(begun, ended));
    let asked = tokio::spawn(async move { asking.compute(work).await.is_ok() });
    begins.recv().await.expect("it begins");
    hands.0.close();
    assert_eq!(ends.recv().await.expect("it ends"), Stopped::CalledOff);
    assert!(asked.await.expect("an end"));
    let refused = hands.compute(|| Ok(())).await.expect_err("a refusal");
    assert_eq!(refused.refusal.status, StatusCode::SERVICE_UNAVAILABLE.as_u16());
}

#[tokio::test]
async fn a_panic_is_a_problem_and_costs_no_turn() {
    let hands = Hands::of(Pool::new());
    for _ in 0..2 * hands.0.free() {
        let broken = hands.compute(|| -> Answer<()> { panic!("on purpose") }).await.expect_err("a refusal");
        assert_eq!(broken.refusal.status, StatusCode::INTERNAL_SERVER_ERROR.as_u16());
    }
    assert_eq!(hands.compute(|| Ok(7)).await.ok(), Some(7));
}

#[tokio::test]
async fn work_is_counted_on_its_own_budget() {
    let hands = Hands::of(Pool::new());
    let spent = hands.compute_within(10, || Ok((spend(6), spend(6)))).await.ok();
    assert_eq!(spent, Some((Ok(()), Err(Stopped::TooMuch))));
    assert_eq!(hands.compute(|| Ok(spend(11))).await.ok(), Some(Ok(())));
}

/// Searches keep no keystroke waiting, and one who asks for several has them one after the other.
#[tokio::test]
async fn long_questions_have_a_lane_of_their_own() {
    let hands = Hands::of(Pool::new());
    let ((begun, mut begins), (ended, _ends)) = (unbounded_channel(), unbounded_channel());
    let searching: Vec<_> = (0..8)
        .map(|_| {
            let (hands, work) = (hands.clone(), endless(begun.clone(), ended.clone()));
            tokio::spawn(async move { hands.compute_long(work).await })
        })
        .collect();
    begins.recv().await.expect("one begins");
    assert_eq!(hands.0.free(), Pool::new().free(), "quick turns are all free");
    assert_eq!(hands.compute(|| Ok(7)).await.ok(), Some(7));
    assert!(begins.try_recv().is_err(), "the others wait for theirs");
    searching.iter().for_each(tokio::task::JoinHandle::abort);
    hands.0.close();
}
