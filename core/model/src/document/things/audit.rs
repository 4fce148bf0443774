//! What is on the battery now, before anything is replaced.

use super::*;

record! {
    /// What is on the battery now, before anything is replaced.
    #[derive(Default)]
    pub struct Audit {
        /// Bulbs by type.
        pub bulbs: Vec<AuditBulb> = list(200),
        /// What a meter said, A.
        pub measured: AuditMeasured = thing().or_blank(),
        /// What it said once the bulbs were replaced, A.
        pub measured_after: AuditMeasured = thing().or_blank(),
    }

    /// Bulbs of one type.
    pub struct AuditBulb with sense::audit_bulb {
        /// Unique in the audit.
        pub id: String = id(),
        /// Id of a bulb in the library or among the build's own parts.
        pub part: String = text(80).label("Bulb"),
        /// How many there are.
        pub count: u32 = count(0, 10_000).label("How many"),
        /// How many are on in a usual evening.
        pub usual: u32 = count(0, 10_000).or(0.0).label("How many on at once"),
        /// Hours a day that those are on.
        pub hours_per_day: f64 = number(DAY).or(0.0).label("for"),
        /// Id of the bulb that replaces them.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub replacement: Option<String> = text(80).label("Replaced by"),
    }

    /// Currents that a meter showed at the battery, A.
    #[derive(Default)]
    pub struct AuditMeasured {
        /// In a usual evening.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub usual_a: Option<f64> = number(AMP_OR_ZERO).label("A usual evening"),
        /// With everything on.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub all_a: Option<f64> = number(AMP_OR_ZERO).label("Everything on"),
        /// With every light off.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rest_a: Option<f64> = number(AMP_OR_ZERO).label("Everything off"),
        /// With the main disconnect open.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub disconnected_a: Option<f64> = number(AMP_OR_ZERO).label("Disconnect open"),
    }
}

mod sense {
    use super::super::super::read::Object;
    use super::AuditBulb;

    pub(super) fn audit_bulb(bulb: &mut AuditBulb, o: &mut Object<'_, '_>) {
        if bulb.usual > bulb.count {
            o.fault("usual", format!("{} on of {} that there are", bulb.usual, bulb.count), "Give at most `count`");
        }
    }
}
