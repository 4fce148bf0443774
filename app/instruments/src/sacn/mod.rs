//! Streaming ACN (ANSI E1.31-2018): a pixel controller that listens on this machine, and what plays a show to it.

pub mod packet;
mod player;
mod receiver;

pub use player::{PLAYER_HZ, Player, Script, universes};
pub use receiver::{Controller, Heard, Universe};

/// Where receivers listen (E1.31, section 6.2).
pub const PORT: u16 = 5568;
/// Pixels of one universe: three channels each, of 512.
pub const PIXELS: usize = 170;
