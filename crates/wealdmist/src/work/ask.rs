//! Asking programs what the dotfiles come to. Each is started by a process of ours that gives up what it need
//! not have: writing outside a folder of its own, the network, other processes.

use std::ffi::OsString;
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::Command;

use wealdmist_core::reading::ToolId;
use wealdmist_host::platform::confine::confine;
use wealdmist_host::platform::signals;
use wealdmist_host::{Heard, Survey};

/// The argument by which the program knows that it is to become another with fewer rights.
pub const ARGUMENT: &str = "--run-confined";

/// What is said before anything is started.
pub const SAID: &str =
    "your configuration is run, each program on a server or in a shell of its own";

/// Becomes the program that the arguments name behind the folder it may write in; returns what went wrong.
pub fn become_confined() -> String {
    let mut words = std::env::args_os().skip(2);
    let (Some(folder), Some(program)) = (words.next(), words.next()) else {
        return "a folder and a program are wanted".to_owned();
    };
    // An interactive shell would take the terminal from us, and we would be stopped.
    signals::detach();
    match confine(&PathBuf::from(folder)) {
        // A system that cannot confine it leaves it as it would be in the person's own session.
        Ok(_) => Command::new(program).args(words).exec().to_string(),
        Err(error) => error.to_string(),
    }
}

/// Asks; each tool with what came of it.
pub fn ask(survey: &mut Survey) -> Vec<(ToolId, Heard)> {
    survey.ask(&confined())
}

/// The words of a command that starts a program with fewer rights, away from the terminal.
pub fn confined() -> Vec<OsString> {
    match std::env::current_exe() {
        Ok(own) => vec![own.into(), ARGUMENT.into()],
        Err(_) => Vec::new(),
    }
}

/// What came of asking one tool.
pub fn said(heard: &Heard) -> String {
    match heard {
        Heard::Answered { same, other: 0 } => format!("says the same of {same} values"),
        Heard::Answered { same, other } => {
            format!("says the same of {same} values and another of {other}: its answer counts")
        }
        Heard::Silent => "cannot be asked".to_owned(),
        Heard::NotInstalled => "is not installed here".to_owned(),
        Heard::NoAnswer => "did not answer".to_owned(),
    }
}

/// The same of all of them, in a line.
pub fn summary(heard: &[(ToolId, Heard)]) -> String {
    let names = |is: &dyn Fn(&Heard) -> Option<String>| {
        let named = heard
            .iter()
            .filter_map(|(tool, h)| Some(format!("{tool}{}", is(h)?)));
        named.collect::<Vec<_>>().join(", ")
    };
    let others = names(&|h| match h {
        Heard::Answered { other, .. } if *other > 0 => Some(format!(" {other}")),
        _ => None,
    });
    let same = names(&|h| match h {
        Heard::Answered { same, .. } => Some(format!(" {same}")),
        _ => None,
    });
    let none = names(&|h| match h {
        Heard::Answered { .. } => None,
        _ => Some(String::new()),
    });
    let mut out = Vec::new();
    if !others.is_empty() {
        out.push(format!("otherwise than read: {others}"));
    }
    if !same.is_empty() {
        out.push(format!("as read: {same}"));
    }
    if !none.is_empty() {
        out.push(format!("no answer: {none}"));
    }
    out.join("; ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_differs_comes_first() {
        let answered = |same, other| Heard::Answered { same, other };
        let heard = [
            (ToolId("kitty"), answered(49, 0)),
            (ToolId("foot"), Heard::Silent),
            (ToolId("nvim"), answered(20, 3)),
        ];
        assert_eq!(
            summary(&heard),
            "otherwise than read: nvim 3; as read: kitty 49, nvim 20; no answer: foot"
        );
        assert_eq!(said(&heard[0].1), "says the same of 49 values");
    }
}
