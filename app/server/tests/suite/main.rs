//! The server as its clients meet it.

mod api;
mod compute;
mod door;
mod garage;
