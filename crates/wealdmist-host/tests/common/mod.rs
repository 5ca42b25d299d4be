//! What several tests share.

use std::fs::OpenOptions;
use std::io::Write;

/// Reports a test, or a part of one, that cannot run here; the test script counts these lines.
pub fn skip(what: &str) {
    let line = format!("skipped: {what}\n");
    eprint!("{line}");
    if let Some(file) = std::env::var_os("WEALDMIST_SKIPPED") {
        let file = OpenOptions::new().create(true).append(true).open(file);
        file.and_then(|mut f| f.write_all(line.as_bytes())).unwrap();
    }
}
