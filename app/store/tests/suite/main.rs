//! What is kept, and how it is kept.

mod copies;
mod devices;
mod file;
mod journal;
mod stock;
mod store;
mod workshop;
