//! The first run: one pixel is red, somebody says where, and the chain in the plan becomes the one that was soldered.

use orthavis_model::document::{Build, Link, Load, Mounted};
use serde::{Deserialize, Serialize};

/// What somebody saw: which pieces had a red pixel, and at which end.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SawRed {
    /// The pieces; more than one where data is split.
    pub lights: Vec<String>,
    /// At the far end of the place's path.
    #[serde(default)]
    pub far: bool,
}

/// What is asked next, or what was found.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FirstRun {
    /// The number that is red now; nothing once all pieces are found.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub red: Option<usize>,
    /// Pieces that were not seen yet.
    pub left: Vec<String>,
    /// What differs from the plan, in words; empty where nothing does.
    pub differs: Vec<String>,
    /// Changes that make the plan what was soldered; empty where nothing differs or something is still asked.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
}

/// Why an answer cannot be.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum SortError {
    /// There is no such output.
    #[error("`{0}` is not a data output of this build")]
    Output(String),
    /// It is not a piece of that chain, or was seen before.
    #[error("`{0}` is not a piece of this chain that is still to be found")]
    Piece(String),
    /// Nothing was seen.
    #[error("name at least one piece")]
    Nothing,
}

/// What is asked after these answers about an output, named as in `brain/D2`.
///
/// # Errors
/// When an answer names what is not there.
pub fn first_run(build: &Build, output: &str, seen: &[SawRed]) -> Result<FirstRun, SortError> {
    let place = build.controllers.iter().enumerate().find_map(|(at, controller)| {
        let own = controller.outputs.iter().position(|known| format!("{}/{}", controller.id, known.pin()) == output && !known.links().is_empty())?;
        Some((at, own))
    });
    let (controller, own) = place.ok_or_else(|| SortError::Output(output.to_owned()))?;
    let planned = build.controllers[controller].outputs[own].links();
    let count = |id: &String| {
        build.lights.iter().find(|light| light.id == *id).map_or(0, |light| if let Load::Pixels(pixels) = &light.load { pixels.count as usize } else { 0 })
    };
    let mut left: Vec<String> = planned.iter().flat_map(Link::lights).cloned().collect();
    let mut red = 0;
    let mut found: Vec<Link> = Vec::new();
    for saw in seen {
        if saw.lights.is_empty() {
            return Err(SortError::Nothing);
        }
        for id in &saw.lights {
            let at = left.iter().position(|known| known == id).ok_or_else(|| SortError::Piece(id.clone()))?;
            left.remove(at);
        }
        red += saw.lights.iter().map(count).max().unwrap_or(0);
        let mounted = Some(if saw.far { Mounted::Against } else { Mounted::Along });
        // The wire to a piece stays with it.
        let wire_m = planned.iter().find(|link| link.lights().any(|id| *id == saw.lights[0])).map_or(0.0, |link| link.wire_m);
        let alone = saw.lights.len() == 1;
        found.push(Link { light: alone.then(|| saw.lights[0].clone()), copies: (!alone).then(|| saw.lights.clone()), mounted, wire_m });
    }
    if !left.is_empty() {
        return Ok(FirstRun { red: Some(red), left, differs: Vec::new(), changes: json_patch::Patch(Vec::new()) });
    }
    let mut differs = Vec::new();
    let names = |link: &Link| link.lights().map(String::as_str).collect::<Vec<_>>().join(" and ");
    for (number, (was, is)) in planned.iter().zip(&found).enumerate() {
        if names(was) != names(is) {
            differs.push(format!("Piece {} is {}, not {}", number + 1, names(is), names(was)));
        } else if was.mounted.unwrap_or(Mounted::Along) != is.mounted.unwrap_or(Mounted::Along) {
            differs.push(format!("{} runs the other way", names(is)));
        }
    }
    if planned.len() != found.len() {
        differs.push(format!("There are {} pieces one after the other, not {}", found.len(), planned.len()));
    }
    let mut copy = build.clone();
    if !differs.is_empty()
        && let Some(data) = copy.controllers[controller].outputs[own].data_mut()
    {
        data.chain = found;
    }
    Ok(FirstRun { red: None, left, changes: json_patch::diff(&build.to_value(), &copy.to_value()), differs })
}
