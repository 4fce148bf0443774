//! Plays a show: frame after frame over E1.31, ended as the standard wants it.

use super::PIXELS;
use super::packet::{Data, encode};
use orthavis_core::document::{Build, Scene};
use orthavis_core::effects::Inputs;
use orthavis_core::pixels_over_time::{Frame, Show};
use std::io;
use std::net::{Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::net::UdpSocket;
use tokio::sync::watch;
use tokio::task::JoinHandle;
use tokio::time::{Instant, MissedTickBehavior, interval};

/// Frames a second.
pub const PLAYER_HZ: f64 = 40.0;
/// Packets that say that it ends (E1.31, section 6.2.6).
const FAREWELLS: usize = 3;
const PRIORITY: u8 = 100;
/// Who sends: the same at every start, so that a receiver does not take a second start for a second sender.
const SENDER: [u8; 16] = *b"orthavis player.";

/// What is played.
#[derive(Clone, Debug)]
pub struct Script {
    /// The build.
    pub build: Arc<Build>,
    /// The scene.
    pub scene: String,
    /// What inputs say.
    pub inputs: Inputs,
    /// How fast: 1 as it is.
    pub speed: f64,
    /// From this moment of the show on, s.
    pub from_s: f64,
}

impl Script {
    fn scene(&self) -> Option<&Scene> {
        self.build.scenes.iter().find(|scene| scene.id == self.scene)
    }
}

/// The universes of a build's outputs: number of the universe, output by its place, first number, how many.
pub fn universes(build: &Build) -> Vec<(u16, usize, usize, usize)> {
    let mut found = Vec::new();
    let mut next = 1u16;
    for (output, chain) in orthavis_core::pixels_over_time::chains(build).iter().enumerate() {
        for first in (0..chain.count.max(1)).step_by(PIXELS) {
            found.push((next, output, first, PIXELS.min(chain.count - first.min(chain.count))));
            next += 1;
        }
    }
    found
}

/// A show that is being played; it is dropped without a farewell, and [`Player::stop`]ped with one.
pub struct Player {
    script: Arc<Mutex<Script>>,
    stop: watch::Sender<bool>,
    task: JoinHandle<io::Result<u64>>,
}

impl Player {
    /// Begins to play to a receiver.
    ///
    /// # Errors
    /// When there is no socket to send from.
    pub async fn start(script: Script, to: SocketAddr) -> io::Result<Self> {
        let socket = UdpSocket::bind((Ipv4Addr::LOCALHOST, 0)).await?;
        socket.connect(to).await?;
        let (stop, stopped) = watch::channel(false);
        let script = Arc::new(Mutex::new(script));
        let task = tokio::spawn(play(socket, script.clone(), stopped));
        Ok(Player { script, stop, task })
    }

    /// Goes on with something else, without a gap.
    pub fn change(&self, change: impl FnOnce(&mut Script)) {
        change(&mut self.script.lock().unwrap_or_else(PoisonError::into_inner));
    }

    /// Ends with the farewells of the standard; how many frames were sent.
    ///
    /// # Errors
    /// When the socket failed meanwhile.
    pub async fn stop(self) -> io::Result<u64> {
        // Where it ended by itself nobody listens any more.
        let _ = self.stop.send(true);
        self.task.await.map_err(io::Error::other)?
    }
}

async fn play(socket: UdpSocket, script: Arc<Mutex<Script>>, mut stopped: watch::Receiver<bool>) -> io::Result<u64> {
    let mut ticks = interval(Duration::from_secs_f64(1.0 / PLAYER_HZ));
    ticks.set_missed_tick_behavior(MissedTickBehavior::Skip);
    let mut frame = Frame::default();
    let mut sequence = 0u8;
    let mut sent = 0u64;
    // The show's own clock: since when it runs at this speed, and where it was then.
    let mut since: Option<(Instant, f64, f64)> = None;
    let mut at = 0.0;
    loop {
        tokio::select! {
            now = ticks.tick() => {
                let now_playing = script.lock().unwrap_or_else(PoisonError::into_inner).clone();
                let (begun, from_s, speed) = *since.get_or_insert((now, now_playing.from_s, now_playing.speed));
                at = from_s + speed * now.duration_since(begun).as_secs_f64();
                if speed != now_playing.speed {
                    since = Some((now, at, now_playing.speed));
                }
                send(&socket, &now_playing, at, sequence, &mut frame, false).await?;
                sequence = sequence.wrapping_add(1);
                sent += 1;
            }
            // A sender that is gone is a stop, too.
            _ = stopped.changed() => break,
        }
    }
    let last_played = script.lock().unwrap_or_else(PoisonError::into_inner).clone();
    for _ in 0..FAREWELLS {
        send(&socket, &last_played, at, sequence, &mut frame, true).await?;
        sequence = sequence.wrapping_add(1);
    }
    Ok(sent)
}

async fn send(socket: &UdpSocket, script: &Script, time_s: f64, sequence: u8, frame: &mut Frame, terminated: bool) -> io::Result<()> {
    let Some(scene) = script.scene() else { return Ok(()) };
    Show::of(&script.build, scene).frame_into(time_s, &script.inputs, frame);
    for (universe, output, first, count) in universes(&script.build) {
        let channels = frame.codes[output][first..first + count].iter().flatten().copied().collect();
        let data = Data {
            sender: SENDER,
            name: format!("orthavis: {}", script.build.name),
            priority: PRIORITY,
            sequence,
            preview: false,
            terminated,
            universe,
            start_code: 0,
            channels,
        };
        match socket.send(&encode(&data)).await {
            Ok(_) => {}
            // Nobody listens yet; what is not heard is not kept.
            Err(error) if error.kind() == io::ErrorKind::ConnectionRefused => {}
            Err(error) => return Err(error),
        }
    }
    Ok(())
}
