//! Wealdmist: one look across terminal, multiplexer, editor and prompt.
//!
//! The program holds no computation of its own: the command line and the interface call the same
//! functions of the crates below.

#![cfg_attr(test, allow(clippy::disallowed_methods))]

/// Prints a line; a reader that went away ends the command quietly instead of in a panic.
macro_rules! say {
    ($($text:tt)*) => {
        ::std::io::Write::write_fmt(&mut $crate::screen::line_out(), format_args!("{}\n", format_args!($($text)*)))?
    };
}

/// Prints a line to the error output, without what a terminal would act on. When it cannot be
/// printed there is nobody to tell.
macro_rules! warn {
    ($($text:tt)*) => {
        $crate::screen::warn(format_args!($($text)*))
    };
}

mod cli;
mod command;
mod failure;
mod log;
mod screen;
mod tui;
mod work;

use std::process::ExitCode;

fn main() -> ExitCode {
    match std::env::args_os().nth(1) {
        Some(first) if first == screen::guardian::ARGUMENT => {
            screen::guardian::run();
            return ExitCode::SUCCESS;
        }
        Some(first) if first == work::ask::ARGUMENT => {
            warn!("{}", work::ask::become_confined());
            return ExitCode::FAILURE;
        }
        _ => {}
    }
    cli::complete::answer();
    let arguments = match cli::parse() {
        Ok(arguments) => arguments,
        Err(error) if error.use_stderr() => {
            // What was typed stands in it.
            warn!("{}", error.render().to_string().trim_end());
            return ExitCode::from(2);
        }
        Err(help) => {
            return match help.print() {
                Ok(()) => ExitCode::SUCCESS,
                Err(error) => ended(&error.into()),
            };
        }
    };
    let place = &arguments.place;
    screen::prefer(screen::depth(place.colors));
    let run = |()| match &arguments.command {
        Some(command) => command::run(command, place, tui::open),
        None => command::survey(place).and_then(|survey| tui::open(survey, place)),
    };
    match log::start(place).and_then(run) {
        Ok(code) => ExitCode::from(code),
        Err(failure) => ended(&failure),
    }
}

/// The exit code of a failure, which is told unless nobody listens any more.
fn ended(failure: &failure::Failure) -> ExitCode {
    /// That of a program ended by SIGPIPE, as the shell gives it.
    const BROKEN_PIPE: u8 = 141;
    if failure.is_broken_pipe() {
        return ExitCode::from(BROKEN_PIPE);
    }
    log::failed(failure);
    failure.report();
    ExitCode::from(failure.code())
}
