//! A show for other programs: frames as JSON and as a table.

use orthavis_model::document::{Build, Scene};
use orthavis_model::laws::effect::Inputs;
use orthavis_model::table::Table;
use orthavis_physics::show::Show;
use serde::Serialize;
use std::collections::BTreeMap;

/// Codes of every output at a moment, by number: red, green, blue.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ShowFrame))]
pub struct FrameCodes {
    /// When, s.
    pub t_s: f64,
    /// By output, as in `brain/D2`; of a light on no chain by its id.
    pub outputs: BTreeMap<String, Vec<[u8; 3]>>,
}

/// Frames at moments.
pub fn frames(build: &Build, scene: &Scene, times_s: &[f64], inputs: &Inputs) -> Vec<FrameCodes> {
    let show = Show::of(build, scene);
    let told = |t_s: &f64| {
        let frame = show.frame(*t_s, inputs);
        FrameCodes { t_s: *t_s, outputs: show.chains.iter().map(|chain| chain.name.clone()).zip(frame.codes).collect() }
    };
    times_s.iter().map(told).collect()
}

/// The same as rows: moment, output, number, codes.
pub fn table(build: &Build, scene: &Scene, times_s: &[f64], inputs: &Inputs) -> Table {
    let columns =
        [("t_s", "Moment", "s"), ("output", "Output", ""), ("number", "Number", ""), ("red", "Red", ""), ("green", "Green", ""), ("blue", "Blue", "")];
    let mut table = Table::new("frames", "Frames", &columns);
    for frame in frames(build, scene, times_s, inputs) {
        for (output, codes) in &frame.outputs {
            for (number, code) in codes.iter().enumerate() {
                let mut row = vec![frame.t_s.into(), output.as_str().into(), (number as f64).into()];
                row.extend(code.iter().map(|channel| f64::from(*channel).into()));
                table.rows.push(row);
            }
        }
    }
    table
}
