//! Who asks.

use orthavis_store::Device;

/// Who asks.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Who {
    /// Someone at this machine.
    Owner,
    /// A device that was let in.
    Let(Device),
    /// Anyone else on the local network.
    Stranger,
}
