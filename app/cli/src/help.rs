//! What the program says of itself: its commands by the job, man pages and completions; all from one definition.

use clap::Command;
use std::fmt::Write;
use std::path::Path;

/// The job's parts with their commands, each with an example. Every command that is not hidden is in one of them.
const GROUPS: [(&str, &[(&str, &str)]); 5] = [
    (
        "Plan: is it safe, and how long does it last",
        &[
            ("label", "orthavis label 36V14Ah"),
            ("designs", "orthavis designs wish.json --out designs"),
            ("measures", "orthavis measures trike.json"),
            ("check", "orthavis check trike.json"),
            ("mend", "orthavis mend trike.json --out safe.json"),
            ("solve", "orthavis solve trike.json"),
            ("tables", "orthavis tables trike.json --out tables"),
            ("light", "orthavis light trike.json --around village"),
            ("circuit", "orthavis circuit trike.json blinker --state half"),
        ],
    ),
    (
        "Try: readings, faults, light that moves",
        &[
            ("probe", "orthavis probe trike.json tail:to+ source-"),
            ("pinch", "orthavis pinch trike.json --feed tail"),
            ("expect", "orthavis expect trike.json"),
            ("diagnose", "orthavis diagnose trike.json --saw tail=dark"),
            ("netlist", "orthavis netlist trike.json"),
            ("show", "orthavis show trike.json --scene ride --times 0,0.25"),
            ("play", "orthavis play trike.json --scene ride"),
            ("controller", "orthavis controller"),
            ("instruments", "orthavis instruments trike.json"),
        ],
    ),
    (
        "Make: what to buy, cut and solder",
        &[
            ("steps", "orthavis steps trike.json"),
            ("parts", "orthavis parts trike.json"),
            ("cuts", "orthavis cuts trike.json"),
            ("labels", "orthavis labels trike.json"),
            ("fit", "orthavis fit trike.json"),
            ("diagram", "orthavis diagram trike.json --format svg"),
            ("sheet", "orthavis sheet trike.json --out trike.html"),
        ],
    ),
    (
        "Use: the workshop in a browser, the journal",
        &[("demo", "orthavis demo"), ("serve", "orthavis serve"), ("journal", "orthavis journal trike.json trike.jsonl")],
    ),
    (
        "Keep: copies, open formats, the program itself",
        &[
            ("backup", "orthavis backup lights.backup"),
            ("restore", "orthavis restore lights.backup"),
            ("export", "orthavis export --all lights"),
            ("import", "orthavis import lights"),
            ("schema", "orthavis schema"),
            ("checks", "orthavis checks"),
            ("completions", "orthavis completions bash"),
        ],
    ),
];

/// Columns before what a command does.
const INDENT: usize = 14;

/// The command line with its help by the job.
pub fn grouped(command: Command) -> Command {
    let mut text = String::new();
    for (title, members) in GROUPS {
        let _ = write!(text, "\n{title}\n");
        for (name, example) in members {
            let about = command.find_subcommand(name).and_then(Command::get_about).map(ToString::to_string).unwrap_or_default();
            let _ = writeln!(text, "  {name:<width$}{about}\n{:INDENT$}$ {example}", "", width = INDENT - 2);
        }
    }
    let template = format!("{{about-with-newline}}\n{{usage-heading}} {{usage}}\n{text}\nOptions of `orthavis` alone\n{{options}}{{after-help}}");
    command.help_template(template)
}

/// Man pages of every command, and completions for three shells, into `folder`.
///
/// # Errors
/// When a file cannot be written.
pub fn write_all(mut command: Command, folder: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(folder.join("man"))?;
    std::fs::create_dir_all(folder.join("completions"))?;
    clap_mangen::generate_to(command.clone(), folder.join("man"))?;
    for shell in [clap_complete::Shell::Bash, clap_complete::Shell::Fish, clap_complete::Shell::Zsh] {
        clap_complete::generate_to(shell, &mut command, "orthavis", folder.join("completions"))?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Cli;
    use clap::{CommandFactory, Parser};

    #[test]
    fn every_command_is_in_one_group_with_an_example_that_it_takes() {
        let mut grouped: Vec<&str> = GROUPS.iter().flat_map(|(_, members)| members.iter().map(|(name, _)| *name)).collect();
        grouped.sort_unstable();
        let command = Cli::command();
        let mut known: Vec<&str> = command.get_subcommands().filter(|one| !one.is_hide_set()).map(Command::get_name).collect();
        known.sort_unstable();
        assert_eq!(grouped, known);
        for (name, example) in GROUPS.iter().flat_map(|(_, members)| members.iter()) {
            assert!(example.starts_with(&format!("orthavis {name}")), "{example}");
            assert!(Cli::try_parse_from(example.split(' ')).is_ok(), "{example}");
        }
    }

    #[test]
    fn pages_and_completions_name_every_command() {
        let folder = tempfile::TempDir::new().expect("folder");
        write_all(crate::command(), folder.path()).expect("written");
        let bash = std::fs::read_to_string(folder.path().join("completions/orthavis.bash")).expect("read");
        for (name, _) in GROUPS.iter().flat_map(|(_, members)| members.iter()) {
            assert!(folder.path().join(format!("man/orthavis-{name}.1")).exists(), "{name}");
            assert!(bash.contains(name), "{name}");
        }
    }
}
