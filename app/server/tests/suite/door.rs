//! The door to the local network.

use orthavis_server::{CLOSED_FOR, Door, GOOD_FOR, Knock};
use std::time::{Duration, Instant};

fn door() -> (Door, Instant, String) {
    let (door, now) = (Door::default(), Instant::now());
    let code = door.new_code(now).expect("random numbers");
    (door, now, code)
}

#[test]
fn a_code_lets_one_device_in_once() {
    let (door, now, code) = door();
    let written = format!(" {}-{} ", code[..3].to_lowercase(), &code[3..]);
    assert_eq!(door.knock(&written, now), Knock::In);
    assert_eq!(door.knock(&code, now), Knock::Wrong);
}

#[test]
fn a_code_is_good_for_five_minutes_and_until_the_next() {
    let (door, now, code) = door();
    assert_eq!(door.knock(&code, now + GOOD_FOR), Knock::Wrong);
    let next = door.new_code(now).expect("random numbers");
    assert!(code != next, "two codes are alike");
    assert_eq!(door.knock(&code, now), Knock::Wrong);
    assert_eq!(door.knock(&next, now + GOOD_FOR - Duration::from_secs(1)), Knock::In);
}

#[test]
fn five_wrong_codes_close_the_door_for_a_minute_and_spend_the_code() {
    let (door, now, code) = door();
    for _ in 0..4 {
        assert_eq!(door.knock("AAAAAA", now), Knock::Wrong);
    }
    assert_eq!(door.knock("", now), Knock::Closed(CLOSED_FOR));
    assert_eq!(door.knock(&code, now + Duration::from_secs(20)), Knock::Closed(Duration::from_secs(40)));
    assert_eq!(door.knock(&code, now + CLOSED_FOR), Knock::Wrong);
    let next = door.new_code(now + CLOSED_FOR).expect("random numbers");
    assert_eq!(door.knock(&next, now + CLOSED_FOR), Knock::In);
}

#[test]
fn nothing_opens_a_door_without_a_code() {
    assert_eq!(Door::default().knock("", Instant::now()), Knock::Wrong);
}
