//! What a build consists of, one type a thing.

mod audit;
mod circuits;
mod controller;
mod converter;
mod effect;
mod feed;
mod light;
mod lists;
mod make;
mod scene;
mod source;
mod usage;
mod vehicle;

pub use audit::*;
pub use circuits::*;
pub use controller::*;
pub use converter::*;
pub use effect::*;
pub use feed::*;
pub use light::*;
pub use lists::*;
pub use make::*;
pub use scene::*;
pub use source::*;
pub use usage::*;
pub use vehicle::*;

use super::field::{Empty, Range, Rule, count, id, list, number, text, thing};
use super::limits::{LEAST_PITCH_M, LEAST_SEGMENT_M, MAX_FEEDS, MAX_LIST, MAX_TAPS};
use super::record::{choice, record};
use crate::practice::{INSULATION, LED_COLOURS};
use serde::Serialize;

pub(super) const VOLT: Range = Range::above_zero(1000.0, "V");
const VOLT_OR_ZERO: Range = Range::within(0.0, 1000.0, "V");
pub(super) const AMP: Range = Range::above_zero(10_000.0, "A");
const AMP_OR_ZERO: Range = Range::within(0.0, 10_000.0, "A");
const WATT: Range = Range::above_zero(1e6, "W");
const WATT_OR_ZERO: Range = Range::within(0.0, 1e6, "W");
const OHM: Range = Range::within(0.0, 1e9, "ohm");
const OHM_PER_METRE: Range = Range::within(0.0, 1e9, "ohm/m");
const METRE: Range = Range::above_zero(10_000.0, "m");
/// Nothing is cut or spaced finer; shorter ones would only ask for more work than there is.
const SEGMENT: Range = Range::within(LEAST_SEGMENT_M, 10_000.0, "m");
const PITCH: Range = Range::within(LEAST_PITCH_M, 10_000.0, "m");
const METRE_OR_ZERO: Range = Range::within(0.0, 10_000.0, "m");
const SHARE: Range = Range::within(0.0, 1.0, "1");
const SHARE_ABOVE_ZERO: Range = Range::above_zero(1.0, "1");
const DAY: Range = Range::within(0.0, 24.0, "h");
const FARAD: Range = Range::above_zero(100.0, "F");
/// Colours of one effect.
const MAX_COLOURS: usize = 64;
const MILLIMETRE: Range = Range::above_zero(20_000.0, "mm");
/// More than any lamp of a vehicle gives.
const LUMEN: Range = Range::above_zero(1e6, "lm");
const HALF_ANGLE: Range = Range::above_zero(90.0, "deg");
const GRAM: Range = Range::within(0.0, 1e6, "g");
