//! What is proposed, chosen and mended.

mod choose;
mod guidance;
mod helpers;
mod mend;
mod parts;
mod soldered;
