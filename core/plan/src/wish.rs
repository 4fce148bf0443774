//! Why a part cannot be added.

/// Why a part cannot be added as wished.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum WishError {
    /// The supply is too low for even one LED.
    #[error("{supply_v:.1} V from `{from}` cannot light a {colour} LED; feed it from a supply with a higher voltage")]
    SupplyTooLow {
        /// The supplier.
        from: String,
        /// Its voltage, V.
        supply_v: f64,
        /// The LED.
        colour: String,
    },
    /// Not in the table.
    #[error("`{0}` is no colour known here; use one of white, red, amber, green, blue, violet, infrared")]
    UnknownColour(String),
    /// No such supplier.
    #[error("`{0}` is no supplier in this build; name `source`, a converter or a junction")]
    UnknownSupplier(String),
    /// No such light.
    #[error("`{0}` is no light in this build; name one of its own")]
    UnknownLight(String),
    /// A circuit goes before one feed.
    #[error("`{0}` is fed at several places; leave it one feed, and a circuit can go before it")]
    SeveralFeeds(String),
    /// One circuit drives it already.
    #[error("`{0}` hangs on a circuit already; take that out first")]
    DrivenAlready(String),
    /// Two LEDs and some diodes tell only so many volts.
    #[error("a gauge of two LEDs cannot be set for {supply_v:.1} V; hang it on one cell or a few of them, or read the battery with a meter")]
    NoGauge {
        /// Highest voltage of the supply, V.
        supply_v: f64,
    },
    /// No such scene.
    #[error("`{0}` is no scene in this build; name one of its own")]
    UnknownScene(String),
    /// A part of another kind.
    #[error("this place is for {0}; choose one")]
    Misplaced(&'static str),
    /// No such bulb.
    #[error("`{0}` is no bulb of the library or of this build; name one")]
    UnknownBulb(String),
}
