//! What the files set, option by option: for bringing a running server to what a fresh start
//! would give, and for asking it.

use std::collections::BTreeMap;

use wealdmist_core::reading::ToolReport;

use crate::StatedOption;
use crate::document::commands::{self, Command, Word};

/// Every option the files set, for undoing what reading a file again would do twice.
#[must_use]
pub fn stated_options(report: &ToolReport) -> Vec<StatedOption> {
    let mut out: BTreeMap<(String, String), bool> = BTreeMap::new();
    for file in &report.files {
        let Ok(commands) = commands::parse(&file.bytes) else {
            continue;
        };
        each_command(&commands, &mut |command| {
            if let Some(set) = SetCommand::read(command) {
                let name = set.option.lossy();
                let name = name.split('[').next().unwrap_or_default().to_owned();
                *out.entry((set.scope().to_owned(), name)).or_default() |= set.append;
            }
        });
    }
    out.into_iter()
        .map(|((scope, name), appended)| StatedOption {
            scope,
            name,
            appended,
        })
        .collect()
}

fn each_command<'a>(commands: &'a [Command], visit: &mut dyn FnMut(&'a Command)) {
    for command in commands {
        visit(command);
        // What a key or an event does is not done when the file is read.
        let name = command.words[0].lossy();
        if name.starts_with("bind") || name == "set-hook" {
            continue;
        }
        for word in &command.words {
            if let Some(block) = &word.block {
                each_command(block, visit);
            }
        }
    }
}

/// A `set-option` or `set-window-option` command.
pub(super) struct SetCommand<'a> {
    pub(super) window: bool,
    pub(super) server: bool,
    pub(super) global: bool,
    pub(super) append: bool,
    pub(super) unset: bool,
    pub(super) option: &'a Word,
    pub(super) value: Option<&'a Word>,
}

impl<'a> SetCommand<'a> {
    pub(super) fn read(command: &'a Command) -> Option<Self> {
        let name = command.words[0].lossy();
        let window = match name.as_str() {
            "set" | "set-option" => false,
            "setw" | "set-window-option" => true,
            n if n.len() >= 5 && "set-option".starts_with(n) => false,
            n if n.len() >= 5 && "set-window-option".starts_with(n) => true,
            _ => return None,
        };
        let mut set = Self {
            window,
            server: false,
            global: false,
            append: false,
            unset: false,
            option: &command.words[0],
            value: None,
        };
        let mut words = command.words[1..].iter().peekable();
        while let Some(word) = words.next_if(|w| w.text.len() > 1 && w.text[0] == b'-') {
            for flag in &word.text[1..] {
                match flag {
                    b'w' => set.window = true,
                    b's' => set.server = true,
                    b'g' => set.global = true,
                    b'a' => set.append = true,
                    b'u' | b'U' => set.unset = true,
                    _ => {}
                }
            }
            // The target of -t is a word of its own when the flag stands last.
            if word.text.last() == Some(&b't') {
                words.next();
            }
        }
        set.option = words.next()?;
        set.value = words.next();
        Some(set)
    }

    const fn scope(&self) -> &'static str {
        match (self.server, self.window, self.global) {
            (true, ..) => "-s",
            (_, true, true) => "-gw",
            (_, true, false) => "-w",
            (_, _, true) => "-g",
            _ => "",
        }
    }
}

/// What the program lists of its options, in the scopes that lines such as `@-g` name, as commands.
pub(super) fn as_commands(listed: &str) -> String {
    let mut scope = "-g";
    let mut out = String::new();
    for line in listed.lines() {
        match line.strip_prefix('@') {
            Some(next @ ("-s" | "-g" | "-gw")) => scope = next,
            _ if line.is_empty() => {}
            _ => {
                let (name, value) = line.split_once(' ').unwrap_or((line, ""));
                // The program lists colors as they are, and reads them so as a comment.
                let quote = if value.starts_with('#') { "\"" } else { "" };
                for part in [
                    "set-option ",
                    scope,
                    " ",
                    name,
                    " ",
                    quote,
                    value,
                    quote,
                    "\n",
                ] {
                    out.push_str(part);
                }
            }
        }
    }
    out
}
