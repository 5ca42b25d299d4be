//! Parsers of others, kept from taking the program down.
//!
//! What reads files of other people may panic or nest without bound, for all the care of those who
//! wrote it. Behind this guard a panic is an error like any other, and nothing is printed of it.

use std::cell::Cell;
use std::panic::{self, AssertUnwindSafe};
use std::sync::Once;

thread_local! {
    static GUARDED: Cell<usize> = const { Cell::new(0) };
}

static QUIET: Once = Once::new();

/// The stack of [`guarded_deep`], in bytes. Only what is used of it takes memory.
const DEEP: usize = 64 << 20;

/// A parser that gave up in a way it should not have.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("the parser of this format failed: {0}")]
pub struct Failed(pub String);

/// Whether this thread is behind the guard: a panic here ends nothing.
#[must_use]
pub fn is_guarded() -> bool {
    GUARDED.with(Cell::get) > 0
}

/// Runs a parser; a panic of it is an error.
///
/// # Errors
/// When it panicked, with what it said.
pub fn guarded<T>(parse: impl FnOnce() -> T) -> Result<T, Failed> {
    QUIET.call_once(|| {
        let previous = panic::take_hook();
        panic::set_hook(Box::new(move |info| {
            if !is_guarded() {
                previous(info);
            }
        }));
    });
    GUARDED.with(|g| g.set(g.get() + 1));
    let outcome = panic::catch_unwind(AssertUnwindSafe(parse));
    GUARDED.with(|g| g.set(g.get().saturating_sub(1)));
    outcome.map_err(|payload| {
        let text = payload
            .downcast_ref::<String>()
            .map(String::as_str)
            .or_else(|| payload.downcast_ref::<&str>().copied());
        let text = text.unwrap_or("no reason given").lines().next();
        Failed(text.unwrap_or_default().chars().take(200).collect())
    })
}

/// The same on a stack of its own, for parsers that call themselves for what is nested. The caller
/// bounds the nesting.
///
/// # Errors
/// When it panicked, or no thread could be started.
pub fn guarded_deep<T: Send>(parse: impl FnOnce() -> T + Send) -> Result<T, Failed> {
    std::thread::scope(|scope| {
        let thread = std::thread::Builder::new()
            .stack_size(DEEP)
            .spawn_scoped(scope, || guarded(parse))
            .map_err(|e| Failed(e.to_string()))?;
        thread
            .join()
            .unwrap_or_else(|_| Err(Failed("no reason given".to_owned())))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_panic_is_an_error() {
        assert_eq!(guarded(|| 1), Ok(1));
        let said = guarded(|| -> u8 { panic!("at {}", 7) }).unwrap_err();
        assert_eq!(said, Failed("at 7".to_owned()));
        assert!(!is_guarded());
        let deep = guarded_deep(|| -> u8 {
            assert!(is_guarded());
            panic!("deep")
        });
        assert_eq!(deep, Err(Failed("deep".to_owned())));
    }
}
