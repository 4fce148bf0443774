//! What a life leaves behind that finding a fault can use: what failed before, and what is known to have been built right.

use crate::told::{Told, What};
use orthavis_model::document::Build;
use orthavis_model::topology::{Node, Topology};
use serde::Serialize;
use std::collections::HashSet;

/// What has shown itself on outings.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Proven {
    /// Faults that diagnosis named before, once for each time, in their order.
    pub failed: Vec<String>,
    /// Lights that shone on an outing since they, or anything on their way to the source, were last changed.
    pub worked: Vec<String>,
    /// Outings there have been.
    pub outings: usize,
}

/// Reads `told`, events in their order, for the lights of `build`. Faults in a person's own words are left out: no search
/// knows them.
pub fn proven(build: &Build, told: &[Told<'_>]) -> Proven {
    let last_ride = told.iter().rposition(|one| matches!(one.what, What::Ride(_)));
    let outings = told.iter().filter(|one| matches!(one.what, What::Ride(_))).count();
    let failed = told.iter().filter_map(|one| match &one.what {
        What::Repair { was, .. } if was.contains('@') => Some(was.clone()),
        _ => None,
    });
    let changed: HashSet<&str> = (told.iter().skip(last_ride.unwrap_or(0)))
        .filter_map(|one| match &one.what {
            What::Part { part, change, .. } if change != "looked" => Some(part.as_str()),
            _ => None,
        })
        .collect();
    let graph = Topology::of(build);
    let stands = |light: usize| {
        let node = Node::Light(light);
        let above = graph.inlets(node).flat_map(|wire| [wire].into_iter().chain(graph.path_to_source(graph.from(wire))));
        !changed.contains(graph.id(node)) && above.into_iter().all(|wire| !changed.contains(graph.id(graph.from(wire))))
    };
    let worked = (build.lights.iter().enumerate()).filter(|(light, _)| last_ride.is_some() && stands(*light)).map(|(_, light)| light.id.clone());
    Proven { failed: failed.collect(), worked: worked.collect(), outings }
}
