//! The manual page: the whole program on one page, with its files, its environment and examples.

use std::io::{self, Write};

use clap::{Arg, Command};
use clap_mangen::Man;
use clap_mangen::roff::{Inline, Roff, bold, italic, roman};

/// Writes the page.
pub fn write(out: &mut dyn Write) -> io::Result<()> {
    let command = super::command();
    let man = Man::new(command.clone());
    man.render_title(out)?;
    man.render_name_section(out)?;
    man.render_synopsis_section(out)?;
    man.render_description_section(out)?;
    man.render_options_section(out)?;
    let mut roff = Roff::new();
    roff.control("SH", ["COMMANDS"]);
    for sub in command.get_subcommands() {
        one(&mut roff, sub, "wealdmist");
    }
    listed(&mut roff, "FILES", FILES);
    listed(&mut roff, "ENVIRONMENT", ENVIRONMENT);
    listed(&mut roff, "EXIT STATUS", EXITS);
    roff.control("SH", ["EXAMPLES"]);
    for (line, what) in super::examples::GENERAL {
        item(&mut roff, [bold(*line)], what);
    }
    roff.to_writer(out)
}

const FILES: &[(&str, &str)] = &[
    (
        "$XDG_CONFIG_HOME/wealdmist/setup.toml",
        "the setup; ~/.config stands for the variable where it is not set",
    ),
    (
        "$XDG_CONFIG_HOME/wealdmist/generated/",
        "what is generated and loaded by dotfiles, such as the prompt",
    ),
    (
        "$XDG_STATE_HOME/wealdmist/",
        "the journal with the old and new bytes of what was applied; ~/.local/state where it is not set",
    ),
    (
        "$XDG_CACHE_HOME/wealdmist/",
        "the index of fonts, which can be removed at any time; ~/.cache where it is not set",
    ),
];

const ENVIRONMENT: &[(&str, &str)] = &[
    ("HOME", "the home worked on, where --home names no other"),
    (
        "COLORTERM, TERM",
        "how many colors the terminal has, where --colors does not say",
    ),
    ("NO_COLOR", "when set and not empty, nothing is colored"),
    ("WEALDMIST_LOG", "as --log"),
    ("WEALDMIST_LOG_LEVEL", "as --log-level"),
];

const EXITS: &[(&str, &str)] = &[
    ("0", "fine"),
    (
        "1",
        "something was found: drift, findings, pairs below their target, a plan that is not empty, a program that was not told or shows something else",
    ),
    ("2", "wrong usage"),
    ("3", "it could not be done; what and where is told"),
];

fn item(roff: &mut Roff, head: impl IntoIterator<Item = Inline>, text: &str) {
    roff.control("TP", []);
    roff.text(head.into_iter().collect::<Vec<_>>());
    roff.text([roman(text)]);
}

fn listed(roff: &mut Roff, title: &str, items: &[(&str, &str)]) {
    roff.control("SH", [title]);
    for (head, text) in items {
        item(roff, [bold(*head)], text);
    }
}

/// A command with its own options, and the commands below it.
fn one(roff: &mut Roff, command: &Command, before: &str) {
    let name = format!("{before} {}", command.get_name());
    let positional = command.get_positionals().map(argument);
    let head: Vec<String> = std::iter::once(name.clone()).chain(positional).collect();
    roff.control("SS", [head.join(" ").as_str()]);
    if let Some(about) = command.get_about() {
        roff.text([roman(about.to_string())]);
    }
    for argument in command.get_arguments().filter(|a| !a.is_global_set()) {
        if argument.get_id() == "help" || argument.get_id() == "version" {
            continue;
        }
        explained(roff, argument);
    }
    for (line, what) in super::examples::of(&name) {
        item(roff, [roman("Example: "), bold(*line)], what);
    }
    for sub in command.get_subcommands().filter(|s| s.get_name() != "help") {
        one(roff, sub, &name);
    }
}

/// A positional argument as it stands in a command.
fn argument(argument: &Arg) -> String {
    let names: Vec<String> = match argument.get_value_names() {
        Some(names) => names.iter().map(ToString::to_string).collect(),
        None => vec![argument.get_id().to_string().to_uppercase()],
    };
    let names = names.join(" ");
    match argument.is_required_set() {
        true => names,
        false => format!("[{names}]"),
    }
}

fn explained(roff: &mut Roff, argument: &Arg) {
    let mut head = Vec::new();
    if let Some(short) = argument.get_short() {
        head.push(bold(format!("-{short}")));
    }
    if let Some(long) = argument.get_long() {
        if !head.is_empty() {
            head.push(roman(", "));
        }
        head.push(bold(format!("--{long}")));
    }
    let takes_value = argument.get_action().takes_values();
    if takes_value {
        if !head.is_empty() {
            head.push(roman(" "));
        }
        let names = self::argument(argument);
        head.push(italic(names.trim_matches(['[', ']'])));
    }
    let mut text = argument
        .get_help()
        .map(ToString::to_string)
        .unwrap_or_default();
    let values = argument.get_possible_values();
    if takes_value && !values.is_empty() {
        let names: Vec<&str> = values
            .iter()
            .map(clap::builder::PossibleValue::get_name)
            .collect();
        text.push_str(&format!(" ({})", names.join(", ")));
    }
    item(roff, head, &text);
}
