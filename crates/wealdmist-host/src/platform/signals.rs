//! Signals to ourselves.

use std::io;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use signal_hook::consts::{
    SIGALRM, SIGHUP, SIGINT, SIGIO, SIGPROF, SIGQUIT, SIGSYS, SIGTERM, SIGTRAP, SIGTSTP, SIGUSR1,
    SIGUSR2, SIGVTALRM, SIGXCPU, SIGXFSZ,
};
use signal_hook::iterator::Signals;

/// The signals that end a program unless it catches them, and that can be caught. An abort is not
/// among them: whoever asks for one has to end.
const ENDING: [i32; 14] = [
    SIGTERM, SIGHUP, SIGINT, SIGQUIT, SIGUSR1, SIGUSR2, SIGALRM, SIGVTALRM, SIGPROF, SIGXCPU,
    SIGXFSZ, SIGIO, SIGSYS, SIGTRAP,
];

/// The exit code of a program whose terminal has gone away, as shells give it.
pub const HUNG_UP: i32 = 128 + SIGHUP;

/// From now on, signals that would end the program have `end` called with the exit code instead, on a
/// thread of its own and once.
///
/// # Errors
/// When they cannot be caught.
pub fn on_end(end: impl FnOnce(i32) + Send + 'static) -> io::Result<()> {
    let mut signals = Signals::new(ENDING)?;
    std::thread::spawn(move || {
        if let Some(signal) = signals.forever().next() {
            end(128 + signal);
        }
    });
    Ok(())
}

/// From now on, being told to stop sets a flag instead.
///
/// # Errors
/// When that cannot be caught.
pub fn on_stop(flag: &Arc<AtomicBool>) -> io::Result<()> {
    signal_hook::flag::register(SIGTSTP, Arc::clone(flag))?;
    Ok(())
}

/// Stops this program as its terminal would; comes back when it goes on.
///
/// # Errors
/// When it cannot be stopped.
pub fn stop() -> io::Result<()> {
    let own = rustix::process::getpid();
    rustix::process::kill_process(own, rustix::process::Signal::STOP)?;
    Ok(())
}

/// Puts this process into a session of its own, away from the terminal's signals and free to set its
/// modes from the background.
pub fn detach() {
    let _ = rustix::process::setsid();
}
