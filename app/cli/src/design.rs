//! Designing, from the command line: what a label says, designs for a wish, what a build is compared by.

use crate::out::{Document, Failure, Out, Outcome, folder, read_text, write};
use clap::Subcommand;
use orthavis_core::design::measures::Measures;
use orthavis_core::working::plain;
use orthavis_operations::design::{LabelRequest, WishRequest, designs, label, measured};
use serde_json::value::RawValue;
use std::path::{Path, PathBuf};

#[derive(Subcommand)]
pub enum Design {
    /// Print what a battery's label says, what is assumed, and what it leaves open
    Label {
        /// As it is printed, as in "36V 14Ah" or "3S 2200mAh 30C"
        text: String,
    },
    /// Print designs for a wish, each safe: what it is good at, and what it costs
    Designs {
        /// A wish (orthavis.wish/1); `-` reads standard input
        file: PathBuf,
        /// Folder for the builds
        #[arg(long)]
        out: Option<PathBuf>,
    },
    /// Print what a build is compared by: cost, mass, hours, joints, minutes, headroom, light
    Measures {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
    },
}

pub fn run(asked: &Design, out: Out) -> Outcome {
    match asked {
        Design::Label { text } => read_label(text, out),
        Design::Designs { file, out: to } => design(file, to.as_deref(), out),
        Design::Measures { file } => {
            let measures = measured(Document::read(file)?.alone()?)?;
            out.put(&measures, || in_words(&measures) + "\n")
        }
    }
}

fn read_label(text: &str, out: Out) -> Outcome {
    let read = label(LabelRequest { text: text.to_owned() })?;
    out.put(&read, || {
        let mut words: String = read.understood.iter().map(|line| format!("read: {line}\n")).collect();
        words.extend(read.assumed.iter().map(|line| format!("assumed: {line}\n")));
        if let Some(question) = &read.question {
            words += &format!("open: {}\n", question.says);
            words.extend(question.choices.iter().map(|choice| format!("  {}\n", choice.says)));
        }
        words
    })
}

fn design(file: &Path, to: Option<&Path>, out: Out) -> Outcome {
    let text = read_text(file)?;
    let wish = RawValue::from_string(text).map_err(|error| Failure::Input(format!("{}: {error}", file.display())))?;
    let found = designs(WishRequest { wish })?;
    let builds = found.designs.iter().chain(found.impossible.iter().filter_map(|one| one.nearest.as_deref()));
    if let Some(to) = to {
        folder(to)?;
        for (number, design) in builds.enumerate() {
            let text = serde_json::to_string_pretty(&design.build.to_value()).map_err(|error| error.to_string())?;
            write(&to.join(format!("design-{}.json", number + 1)), text + "\n")?;
        }
    }
    out.put(&found, || {
        let mut words = String::new();
        for (number, design) in found.designs.iter().enumerate() {
            words += &format!("{}. {}\n   {}\n", number + 1, design.says, in_words(&design.measures));
            words.extend(design.notes.iter().map(|note| format!("   note: {note}\n")));
        }
        if let Some(impossible) = &found.impossible {
            words += &format!("{}\n", impossible.why);
            words.extend(impossible.nearest.iter().map(|nearest| format!("{}\n   {}\n", nearest.says, in_words(&nearest.measures))));
        }
        words + &format!("{} considered, {} not beaten\n", found.considered, found.not_beaten)
    })
}

fn in_words(measures: &Measures) -> String {
    let Measures { cost, currency, unpriced, mass_g, hours, joints, minutes, headroom, lm } = measures;
    let unpriced = if *unpriced > 0 { format!(" and {unpriced} without a price") } else { String::new() };
    let hours = hours.map_or_else(|| "as long as its supply".to_owned(), |hours| plain(hours, "h"));
    format!(
        "{cost:.2} {currency}{unpriced}, {}, {hours}, {joints} joints, {minutes:.0} min of work, {:.0} % headroom, {}",
        plain(*mass_g, "g"),
        100.0 * headroom,
        plain(*lm, "lm")
    )
}
