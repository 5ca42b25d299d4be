//! The log: what is read, planned, written, told and answered. It holds paths, counts and answers, and
//! never what a file or a variable holds.

use std::sync::Mutex;

use tracing::{error, info};
use tracing_subscriber::filter::LevelFilter;
use wealdmist_host::open_to_append;

use crate::cli::{LogLevel, Place};
use crate::failure::Failure;

/// Starts the log where one is wanted.
pub fn start(place: &Place) -> Result<(), Failure> {
    let Some(path) = &place.log else {
        return Ok(());
    };
    let file = open_to_append(path)?;
    let level = match place.log_level {
        LogLevel::Error => LevelFilter::ERROR,
        LogLevel::Warn => LevelFilter::WARN,
        LogLevel::Info => LevelFilter::INFO,
        LogLevel::Debug => LevelFilter::DEBUG,
        LogLevel::Trace => LevelFilter::TRACE,
    };
    tracing_subscriber::fmt()
        .with_max_level(level)
        .with_writer(Mutex::new(file))
        .with_ansi(false)
        .init();
    info!(
        version = env!("CARGO_PKG_VERSION"),
        pid = std::process::id(),
        "started"
    );
    Ok(())
}

/// Writes down what ended the command.
pub fn failed(failure: &Failure) {
    error!(why = failure.to_string(), "ended");
}
