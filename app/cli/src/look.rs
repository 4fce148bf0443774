//! Looking, from the command line: the light of each light in figures.

use crate::out::{Document, Out, Outcome};
use clap::Args;
use orthavis_core::working::plain;
use orthavis_operations::look::{LookRequest, lights, look};
use std::path::PathBuf;

#[derive(Args)]
pub struct Light {
    /// A build document (orthavis.build/1); `-` reads standard input
    file: PathBuf,
    /// Scene that is on [default: the first]
    #[arg(long)]
    scene: Option<String>,
    /// State of the battery, as in `full`, `half`, `reserve` [default: the fullest]
    #[arg(long)]
    state: Option<String>,
    /// What surrounds it: dark, village, street or day [default: what the build says, else street]
    #[arg(long)]
    around: Option<String>,
    /// How clear the air is: clear, rain or fog [default: clear]
    #[arg(long)]
    air: Option<String>,
}

pub fn run(asked: &Light, out: Out) -> Outcome {
    let document = Document::read(&asked.file)?;
    let question = || -> Result<LookRequest, crate::out::Failure> {
        let Light { scene, state, around, air, .. } = asked;
        Ok(LookRequest { document: document.raw()?, scene: scene.clone(), state: state.clone(), around: around.clone(), air: air.clone() })
    };
    let figures = lights(question()?)?;
    let found = look(question()?)?;
    out.put(&figures, || {
        let mut words = format!("{}, {}, {}\n", document.build.name, found.around.called(), found.air.called());
        for light in &found.lights {
            words += &format!("\n{}: {}\n", light.id, light.words);
            if !light.row.is_empty() {
                words += &format!("  {}\n", light.row);
            }
            for fact in &light.facts {
                words += &format!("  {:<32}{}\n", fact.label, plain(fact.value, fact.unit));
            }
        }
        words + "\nLaw and standards for lights on vehicles differ from place to place; this is no approval.\n"
    })
}
