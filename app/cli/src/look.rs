//! Looking, from the command line: the light of each light in figures.

use crate::out::{Document, Out, Outcome};
use clap::Args;
use orthavis_core::document::VehicleKind;
use orthavis_core::look::drawing;
use orthavis_core::vehicle;
use orthavis_core::working::plain;
use orthavis_operations::look::{LookRequest, lights, look};
use std::collections::BTreeMap;
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
    if out.json {
        return out.put(&lights(question()?)?, String::new);
    }
    let found = look(question()?)?;
    out.put(&found, || {
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

/// Every form of a kind of vehicle, drawn anew: what `core/model/data/drawings` holds.
pub fn drawings(kind: &str) -> Outcome {
    let known = VehicleKind::WORDS.iter().find(|(word, _)| *word == kind).map(|(_, kind)| *kind);
    let kind = known.ok_or_else(|| {
        format!("`{kind}` is not a kind of vehicle. Name one of {}.", VehicleKind::WORDS.iter().map(|(word, _)| *word).collect::<Vec<_>>().join(", "))
    })?;
    let forms = vehicle::variants(kind).iter().map(|form| (form.id.as_str(), drawing::drawings(kind, &form.id)));
    let text = serde_json::to_string(&forms.collect::<BTreeMap<_, _>>()).map_err(|error| error.to_string())?;
    crate::out::print(&(text + "\n")).map(|()| crate::out::End::Fine)
}
