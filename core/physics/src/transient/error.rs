//! Why a circuit is not followed.

use orthavis_model::budget::Stopped;

/// Why there is no waveform.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum TransientError {
    /// Nothing connects a node with ground.
    #[error("`{part}` hangs in the air: nothing connects its node `{node}` with minus. Connect it")]
    Floating {
        /// A part at that node.
        part: String,
        /// The node.
        node: String,
    },
    /// Voltages in a circle.
    #[error("`{part}` closes a loop of voltages in which nothing limits the current. Put a resistor into it")]
    Loop {
        /// The part that closes it.
        part: String,
    },
    /// A figure that no part has.
    #[error("`{part}` has {what}. Give a figure above 0")]
    Figure {
        /// The part.
        part: String,
        /// What is wrong.
        what: String,
    },
    /// Newton's method found nothing.
    #[error("no balance was found at {time_s:.6} s near `{node}`")]
    NotConverged {
        /// When, s.
        time_s: f64,
        /// The node that moved last.
        node: String,
    },
    /// It switches without end at one instant.
    #[error("`{part}` switches on and off without end at {time_s:.6} s")]
    Hunting {
        /// The part.
        part: String,
        /// When, s.
        time_s: f64,
    },
    /// More steps than anybody waits for.
    #[error("the circuit changes too fast to be followed that long")]
    TooMuch,
    /// Nobody waits for it any more.
    #[error("the computation was called off")]
    CalledOff,
}

impl From<Stopped> for TransientError {
    fn from(why: Stopped) -> Self {
        match why {
            Stopped::CalledOff => TransientError::CalledOff,
            Stopped::TooMuch => TransientError::TooMuch,
        }
    }
}
