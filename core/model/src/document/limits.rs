//! What a document may ask for. The reader, the JSON Schema and its description name the same figures.

/// Longest document that is read or kept, bytes.
pub const MAX_BYTES: usize = 4 << 20;
/// Most junctions, converters, lights, standing loads, places and parts, of each.
pub const MAX_LIST: usize = 500;
/// Most scenes.
pub const MAX_SCENES: usize = 100;
/// Most feeds of one light.
pub const MAX_FEEDS: usize = 100;
/// Most segments and pixels in one build.
pub const MAX_TAPS: usize = 20_000;
/// Most converters and junctions in a row between the source and a light.
pub const MAX_DEPTH: usize = 32;
/// Most parts and feeds times scenes: what a report has figures of at every state.
pub const MAX_FIGURES: usize = 30_000;
/// Shortest segment of a strip, m: nothing is cut finer.
pub const LEAST_SEGMENT_M: f64 = 0.002;
/// Least distance between pixels, m.
pub const LEAST_PITCH_M: f64 = 0.001;
