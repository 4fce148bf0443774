//! Where the bench's instruments stand while they are on.

use orthavis_core::document::Build;
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
