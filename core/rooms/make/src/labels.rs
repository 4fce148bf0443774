//! Labels: a flag for every wire end, and one for every fuse, converter, switch and plug, in the names used everywhere.

use orthavis_model::document::{Build, Converter, Return};
use orthavis_model::words;
use serde::Serialize;

words! {
    /// What a label is for.
    LabelKind {
        /// The end of a wire.
        Wire = "wire",
        /// A fuse.
        Fuse = "fuse",
        /// A switch.
        Switch = "switch",
        /// A plug.
        Plug = "plug",
        /// A converter.
        Converter = "converter",
        /// A junction.
        Junction = "junction",
        /// A small circuit.
        Circuit = "circuit",
        /// A controller.
        Controller = "controller",
    }
}

/// One label.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WireLabel))]
pub struct Label {
    /// What it is for.
    pub kind: LabelKind,
    /// The feed or part that it is about.
    pub part: String,
    /// Large, as in `tail +`.
    pub title: String,
    /// Small, as in `to tail · 20 AWG`.
    pub line: String,
}

/// Every label of a build, feed by feed.
pub fn labels(build: &Build) -> Vec<Label> {
    let mut all = Vec::new();
    let mut add = |kind: LabelKind, part: &str, title: String, line: String| all.push(Label { kind, part: part.to_owned(), title, line });
    for feed in build.feeds() {
        let (id, own) = (&feed.id, feed.feed);
        let consumer = id.split('#').next().unwrap_or(id);
        let mut signs = vec!["+"];
        if own.return_path == Return::Wire {
            signs.push("−");
        }
        for sign in signs {
            add(LabelKind::Wire, id, format!("{id} {sign}"), format!("from {} · {}", own.from, own.gauge.name()));
            add(LabelKind::Wire, id, format!("{id} {sign}"), format!("to {consumer} · {}", own.gauge.name()));
        }
        if let Some(fuse) = &own.fuse {
            add(LabelKind::Fuse, id, format!("{} A", fuse.rating_a), format!("{id} · no larger"));
        }
        if own.switch.is_some() {
            add(LabelKind::Switch, id, id.clone(), "on / off".into());
        }
        for number in 1..=own.contacts {
            let which = if own.contacts > 1 { format!("plug {number} of {}", own.contacts) } else { "plug".into() };
            add(LabelKind::Plug, id, id.clone(), which);
        }
    }
    for part in &build.converters {
        add(LabelKind::Converter, &part.id, set_to(part), format!("{} · IN {} to {} V", part.id, part.min_in_v, part.max_in_v));
    }
    for part in &build.circuits {
        add(LabelKind::Circuit, &part.id, part.id.clone(), format!("{} · from {}", part.kind().called(), part.feed.from));
    }
    for part in &build.controllers {
        add(LabelKind::Controller, &part.id, part.id.clone(), format!("{} · {} to {} V", part.kind.called(), part.min_in_v, part.max_in_v));
    }
    for part in &build.junctions {
        add(LabelKind::Junction, &part.id, part.id.clone(), format!("from {}", part.feed.from));
    }
    all
}

/// What a converter is set to, as on its label.
pub(crate) fn set_to(part: &Converter) -> String {
    match part.setting() {
        (amps, "A") => format!("{:.0} mA", 1e3 * amps),
        (value, unit) => format!("{value} {unit}"),
    }
}
