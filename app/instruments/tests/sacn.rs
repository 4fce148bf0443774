//! Streaming ACN through its sockets: what is played is what is heard, here and by a receiver that nobody here wrote.

use orthavis_core::document::{Build, parse};
use orthavis_core::effects::Inputs;
use orthavis_core::pixels_over_time::Show;
use orthavis_instruments::sacn::packet::{Data, Malformed, decode, encode};
use orthavis_instruments::sacn::{Controller, PIXELS, PLAYER_HZ, Player, Script, universes};
use orthavis_testing::changed;
use proptest::prelude::*;
use serde_json::json;
use std::collections::BTreeMap;
use std::io::{BufRead, BufReader};
use std::net::{SocketAddr, UdpSocket};
use std::path::Path;
use std::process::{Command, Stdio};
use std::sync::Arc;

fn hexacopter() -> Build {
    parse(orthavis_core::demo::BUILDS[1]).expect("a sample")
}

fn runtime() -> tokio::runtime::Runtime {
    tokio::runtime::Builder::new_multi_thread().enable_all().build().expect("a runtime")
}

fn script(build: &Arc<Build>, scene: &str) -> Script {
    Script { build: build.clone(), scene: scene.into(), inputs: Inputs::default(), speed: 1.0, from_s: 0.0 }
}

fn packet() -> impl Strategy<Value = Data> {
    let channels = prop::collection::vec(any::<u8>(), 0..=512);
    (any::<[u8; 16]>(), "[a-zé ]{0,40}", 0u8..=200, any::<u8>(), any::<(bool, bool)>(), 1u16..=63_999, channels).prop_map(
        |(sender, name, priority, sequence, (preview, terminated), universe, channels)| Data {
            sender,
            name: name.chars().take(30).collect(),
            priority,
            sequence,
            preview,
            terminated,
            universe,
            start_code: 0,
            channels,
        },
    )
}

proptest! {
    /// What is written is read as it was; cut short or longer, it is refused.
    #[test]
    fn packets_are_read_as_they_were_written(data in packet(), cut in 1usize..40) {
        let octets = encode(&data);
        prop_assert_eq!(decode(&octets), Ok(data));
        prop_assert!(decode(&octets[..octets.len() - cut]).is_err());
        prop_assert!(decode(&[&octets[..], &[0; 3]].concat()).is_err());
    }
}

/// One octet wrong in each field that the standard fixes.
#[test]
fn a_wrong_field_is_named() {
    let octets = encode(&Data {
        sender: [7; 16],
        name: "lamp".into(),
        priority: 10,
        sequence: 3,
        preview: false,
        terminated: false,
        universe: 2,
        start_code: 0,
        channels: vec![1, 2, 3],
    });
    let table = [
        (0, Malformed::NotAcn),
        (5, Malformed::NotAcn),
        (17, Malformed::Length),
        (21, Malformed::Vector),
        (39, Malformed::Length),
        (43, Malformed::Vector),
        (108, Malformed::Range),
        (116, Malformed::Length),
        (117, Malformed::Vector),
        (118, Malformed::Vector),
        (122, Malformed::Vector),
        (124, Malformed::Length),
    ];
    for (at, expected) in table {
        let mut spoiled = octets.clone();
        spoiled[at] ^= 0xff;
        assert_eq!(decode(&spoiled), Err(expected), "octet {at}");
    }
    let mut nameless = octets.clone();
    nameless[44..108].fill(b'x');
    assert_eq!(decode(&nameless), Err(Malformed::Name));
}

/// A hundred thousand packets that are none, and some that nearly are: it goes on and shows what is one.
#[test]
fn nothing_that_is_sent_to_a_controller_stops_it() {
    let runtime = runtime();
    let controller = runtime.block_on(Controller::listen(0)).expect("a free port");
    let socket = UdpSocket::bind("127.0.0.1:0").expect("a socket");
    socket.connect(controller.address).expect("an address");
    let good = Data {
        sender: [1; 16],
        name: "good".into(),
        priority: 100,
        sequence: 0,
        preview: false,
        terminated: false,
        universe: 9,
        start_code: 0,
        channels: vec![1, 2, 3],
    };
    let whole = encode(&good);
    let mut state = 0x1234_5678_9abc_def0_u64;
    let mut random = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        state as usize
    };
    for round in 0..100_000 {
        let mut spoiled = whole.clone();
        for _ in 0..1 + random() % 4 {
            let at = random() % spoiled.len();
            spoiled[at] = random() as u8;
        }
        spoiled.truncate(random() % (spoiled.len() + 1));
        if round % 3 == 0 {
            spoiled = (0..random() % 700).map(|_| random() as u8).collect();
        }
        // Beyond what a socket holds packets are lost, which is all that may happen to them.
        socket.send(&spoiled).expect("sent");
    }
    let mut sequence = 1u8;
    loop {
        socket.send(&encode(&Data { sequence, sender: [2; 16], priority: 200, ..good.clone() })).expect("sent");
        let heard = controller.heard();
        if heard.universes.iter().any(|one| one.universe == 9 && one.sender.as_deref() == Some("good") && one.channels == [1, 2, 3]) {
            assert!(heard.malformed > 0 && heard.universes.len() <= 64, "{}", heard.malformed);
            break;
        }
        sequence = sequence.wrapping_add(1);
        std::thread::yield_now();
    }
}

/// Numbers beyond one universe go on in the next, and every output begins one of its own.
#[test]
fn outputs_are_spread_over_universes() {
    let long = changed(
        &hexacopter(),
        &json!([{"op": "replace", "path": "/lights/0/load/count", "value": 400}, {"op": "remove", "path": "/controllers/0/outputs/0/chain/4"}]),
    );
    let found = universes(&long);
    let sizes: Vec<usize> = found.iter().map(|one| one.3).collect();
    // 400 and three of six; then the light that is on no chain.
    assert_eq!(sizes, [PIXELS, PIXELS, 418 - 2 * PIXELS, 6]);
    assert!(found.iter().enumerate().all(|(at, one)| usize::from(one.0) == at + 1));
}

/// What our own controller hears is the show, without loss, and dark once it was stopped.
#[test]
fn a_show_arrives_and_ends() {
    let build = Arc::new(hexacopter());
    runtime().block_on(async {
        let controller = Controller::listen(0).await.expect("a free port");
        let player = Player::start(script(&build, "landing"), controller.address).await.expect("a socket");
        while controller.heard().universes.iter().all(|one| one.received < 20) {
            controller.next().await;
        }
        let heard = &controller.heard().universes[0];
        let codes = Show::of(&build, &build.scenes[1]).frame(0.0, &Inputs::default()).codes;
        assert_eq!(heard.channels, codes[0].iter().flatten().copied().collect::<Vec<u8>>());
        assert_eq!((heard.lost, heard.late), (0, 0));
        player.stop().await.expect("it ends");
        while controller.heard().universes[0].sender.is_some() {
            controller.next().await;
        }
        assert!(controller.heard().universes[0].channels.is_empty());
    });
}

/// A receiver from the Python registry sees 300 frames at forty a second, each code of each, and the end.
#[test]
fn a_receiver_from_elsewhere_sees_the_same() {
    const FRAMES: usize = 300;
    let python = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/python/bin/python");
    assert!(python.exists(), "the Python clients are not installed: run `cargo xtask test`");
    let build = Arc::new(hexacopter());
    let numbers: Vec<String> = universes(&build).iter().map(|one| one.0.to_string()).collect();
    // A port that is free now.
    let port = UdpSocket::bind("127.0.0.1:0").expect("a socket").local_addr().expect("an address").port();
    let mut child = Command::new(python)
        .arg(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/listener.py"))
        .args([port.to_string(), numbers.join(","), FRAMES.to_string()])
        .stdout(Stdio::piped())
        .spawn()
        .expect("a listener");
    let mut lines = BufReader::new(child.stdout.take().expect("its lines")).lines().map(|line| line.expect("a line"));
    assert_eq!(lines.next().as_deref(), Some("ready"));
    let runtime = runtime();
    let to: SocketAddr = ([127, 0, 0, 1], port).into();
    let mut player = Some(runtime.block_on(Player::start(script(&build, "homing"), to)).expect("a socket"));
    let mut heard: BTreeMap<u16, Vec<(u8, String)>> = BTreeMap::new();
    let mut ended = None;
    for line in lines {
        let words: Vec<&str> = line.split(' ').collect();
        match words[..] {
            ["data", universe, sequence, codes] => {
                heard.entry(universe.parse().expect("a number")).or_default().push((sequence.parse().expect("a number"), codes.to_owned()));
            }
            ["enough"] => {
                if let Some(player) = player.take() {
                    runtime.block_on(player.stop()).expect("it ends");
                }
            }
            ["ended", all] => ended = Some(all.to_owned()),
            _ => panic!("{line}"),
        }
    }
    assert!(child.wait().expect("it ends").success());
    assert_eq!(ended, Some(numbers.join(",")));
    let scene = build.scenes.iter().find(|scene| scene.id == "homing").expect("a scene");
    let show = Show::of(&build, scene);
    for (universe, output, first, count) in universes(&build) {
        let packets = &heard[&universe];
        assert!(packets.len() >= FRAMES, "{universe}: {}", packets.len());
        // A player that a busy machine held up leaves frames out and keeps the show's time.
        let mut next = 0;
        for (at, (sequence, codes)) in packets.iter().take(FRAMES).enumerate() {
            assert_eq!(usize::from(*sequence), at % 256, "a packet of universe {universe} was lost");
            let got: Vec<u8> = (0..3 * count).map(|channel| u8::from_str_radix(&codes[2 * channel..2 * channel + 2], 16).expect("a code")).collect();
            let alike = |frame: &usize| {
                let expected = &show.frame(*frame as f64 / PLAYER_HZ, &Inputs::default()).codes[output][first..first + count];
                expected.iter().flatten().zip(&got).all(|(a, b)| a.abs_diff(*b) <= 1)
            };
            let late = 3.0 * PLAYER_HZ;
            let found = (next..next + late as usize).find(alike);
            next = 1 + found.unwrap_or_else(|| panic!("packet {at} of universe {universe} is not a frame from {next} on: {got:?}"));
        }
    }
}
