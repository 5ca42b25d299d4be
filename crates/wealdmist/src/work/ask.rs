//! Asking programs what the dotfiles come to. Each is started by a process of ours that gives up what it need
//! not have: writing outside a folder of its own, the network, other processes.

use std::ffi::OsString;
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::Command;

use wealdmist_core::reading::ToolId;
use wealdmist_host::platform::confine::confine;
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
    match confine(&PathBuf::from(folder)) {
        // A system that cannot confine it leaves it as it would be in the person's own session.
        Ok(_) => Command::new(program).args(words).exec().to_string(),
        Err(error) => error.to_string(),
    }
}

/// Asks, and gives what came of it in a line for each tool.
pub fn ask(survey: &mut Survey) -> Vec<(ToolId, String)> {
    let confined: Vec<OsString> = match std::env::current_exe() {
        Ok(own) => vec![own.into(), ARGUMENT.into()],
        Err(_) => Vec::new(),
    };
    let said = |heard: &Heard| match heard {
        Heard::Answered { same, other: 0 } => format!("says the same of {same} values"),
        Heard::Answered { same, other } => {
            format!("says the same of {same} values and another of {other}: its answer counts")
        }
        Heard::Silent => "there is no way to ask it".to_owned(),
        Heard::NotInstalled => "is not installed here".to_owned(),
        Heard::NoAnswer => "did not answer".to_owned(),
    };
    let heard = survey.ask(&confined);
    heard.iter().map(|(tool, h)| (*tool, said(h))).collect()
}
