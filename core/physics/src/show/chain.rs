//! Which number each pixel has.

use orthavis_model::document::{Build, Load, Mounted};

/// A run of numbers: one light of pixels, or several that share them.
#[derive(Clone, Debug, PartialEq)]
pub struct Piece {
    /// Places of its lights in the document.
    pub lights: Vec<usize>,
    /// Its first number.
    pub first: usize,
    /// How many it has.
    pub count: usize,
    /// Data enters at the far end of its place's path.
    pub against: bool,
    /// Data wire to it, m.
    pub wire_m: f64,
}

/// What hangs on one data output.
#[derive(Clone, Debug, PartialEq)]
pub struct Chain {
    /// Controller and pin, as in `brain/D2`; of a light on no chain its id.
    pub name: String,
    /// Its controller's place in the document.
    pub controller: Option<usize>,
    /// The output's place in the controller.
    pub output: usize,
    /// Its pieces, in the order in which data passes them.
    pub pieces: Vec<Piece>,
    /// Numbers in all.
    pub count: usize,
}

/// The data outputs of a build in document order, then every light of pixels that is on none, as if alone on one.
pub fn chains(build: &Build) -> Vec<Chain> {
    let count = |light: usize| if let Load::Pixels(pixels) = &build.lights[light].load { pixels.count as usize } else { 0 };
    let mut chains = Vec::new();
    let mut placed = vec![false; build.lights.len()];
    for (index, controller) in build.controllers.iter().enumerate() {
        for (output, pin) in controller.outputs.iter().enumerate().filter(|(_, pin)| pin.data().is_some()) {
            let mut chain = Chain { name: format!("{}/{}", controller.id, pin.pin()), controller: Some(index), output, pieces: Vec::new(), count: 0 };
            for link in pin.links() {
                let lights: Vec<usize> = link.lights().filter_map(|id| build.lights.iter().position(|light| light.id == *id)).collect();
                for light in &lights {
                    placed[*light] = true;
                }
                let own = lights.iter().map(|light| count(*light)).max().unwrap_or(0);
                let against = link.mounted == Some(Mounted::Against);
                chain.pieces.push(Piece { lights, first: chain.count, count: own, against, wire_m: link.wire_m });
                chain.count += own;
            }
            chains.push(chain);
        }
    }
    for (light, known) in build.lights.iter().enumerate().filter(|(light, known)| matches!(known.load, Load::Pixels(_)) && !placed[*light]) {
        let piece = Piece { lights: vec![light], first: 0, count: count(light), against: false, wire_m: 0.0 };
        chains.push(Chain { name: known.id.clone(), controller: None, output: 0, count: piece.count, pieces: vec![piece] });
    }
    chains
}
