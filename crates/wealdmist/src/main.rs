//! Wealdmist: one look across terminal, multiplexer, editor and prompt.
//!
//! The program holds no computation of its own: the command line and the interface call the same
//! functions of the crates below.

#![allow(clippy::print_stdout, clippy::print_stderr)]

mod cli;
mod cli_font;
mod command;
mod failure;
mod image;
mod tui;

use std::process::ExitCode;

use clap::Parser;

fn main() -> ExitCode {
    let arguments = match cli::Cli::try_parse() {
        Ok(arguments) => arguments,
        Err(error) => {
            let _ = error.print();
            return ExitCode::from(if error.use_stderr() { 2 } else { 0 });
        }
    };
    match command::run(&arguments) {
        Ok(code) => ExitCode::from(code),
        Err(failure) if failure.is_broken_pipe() => ExitCode::SUCCESS,
        Err(failure) => {
            failure.report();
            ExitCode::from(3)
        }
    }
}
