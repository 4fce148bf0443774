//! Where the bench's instruments stand while they are on, and the pixel controller that shows are played to.

use orthavis_core::document::Build;
use orthavis_instruments::sacn::{Controller, PORT, Player, Script};
use orthavis_instruments::{Bench, Instruments, OnBench, PORTS};
use std::io;
use std::sync::Arc;
use tokio::sync::Mutex;

/// Serial number of the workshop's meter.
const METER: u64 = 7;

/// The instruments, while they are on.
#[derive(Default)]
pub struct Rack {
    pub(crate) on: Mutex<Option<Instruments>>,
    pub(crate) stage: Stage,
}

impl Rack {
    /// Switches them on with a build on the bench.
    ///
    /// # Errors
    /// When a port is taken.
    pub async fn switch_on(&self, build: Arc<Build>) -> io::Result<()> {
        let mut on = self.on.lock().await;
        if on.is_none() {
            *on = Some(Instruments::listen(Bench::new(OnBench::of(build), METER), PORTS).await?);
        }
        Ok(())
    }
}

/// A controller that listens, and what is played to it.
pub(crate) struct OnStage {
    pub(crate) controller: Arc<Controller>,
    pub(crate) playing: Option<(Script, Player)>,
}

/// The controller, from the first show on.
#[derive(Default)]
pub(crate) struct Stage {
    pub(crate) on: Mutex<Option<OnStage>>,
}

impl Stage {
    /// Plays a show to the controller, which is switched on for it; what plays already goes on without a gap.
    ///
    /// # Errors
    /// When there is no socket for it.
    pub(crate) async fn play(&self, script: Script) -> io::Result<()> {
        let mut on = self.on.lock().await;
        if on.is_none() {
            // Where something else hears E1.31 on this machine already, ours takes a port of its own.
            let controller = match Controller::listen(PORT).await {
                Err(error) if error.kind() == io::ErrorKind::AddrInUse => Controller::listen(0).await?,
                other => other?,
            };
            *on = Some(OnStage { controller: Arc::new(controller), playing: None });
        }
        let Some(stage) = on.as_mut() else { return Ok(()) };
        match &mut stage.playing {
            Some((known, player)) => {
                player.change(|now| now.clone_from(&script));
                *known = script;
            }
            None => {
                stage.controller.forget();
                let player = Player::start(script.clone(), stage.controller.address).await?;
                stage.playing = Some((script, player));
            }
        }
        Ok(())
    }

    /// Ends what plays.
    ///
    /// # Errors
    /// When the socket failed meanwhile.
    pub(crate) async fn stop(&self) -> io::Result<()> {
        let playing = self.on.lock().await.as_mut().and_then(|stage| stage.playing.take());
        if let Some((_, player)) = playing {
            player.stop().await?;
        }
        Ok(())
    }
}
