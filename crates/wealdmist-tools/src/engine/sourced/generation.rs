//! Telling one generation of a script from the next: each shell notes which one it has loaded, and
//! looks for a newer one before each prompt.

use wealdmist_core::quote::Code;

use crate::document::lines;

/// What the first line of a script says behind the sign of a comment.
const MARK: &str = " wealdmist prompt ";

/// A script with its first line, which differs where the script does.
#[must_use]
pub fn marked(comment: &'static str, body: &Code) -> Code {
    let mark = Code::hex(fingerprint(body), 16);
    Code::of(
        "{}{}{}\n{}",
        &[&Code::fixed(comment), &Code::fixed(MARK), &mark, body],
    )
}

/// The first line of a script, which shells compare to see whether theirs is the present one.
#[must_use]
pub fn generation(comment: &str, bytes: &[u8]) -> Option<String> {
    let line = lines::lines(bytes).next()?;
    let text = std::str::from_utf8(&bytes[line.span]).ok()?;
    let is_mark = text.strip_prefix(comment)?.starts_with(MARK);
    is_mark.then(|| text.to_owned())
}

/// FNV-1a, 64 bits: enough to tell one generation of the file from the next.
fn fingerprint(bytes: &[u8]) -> u64 {
    bytes.iter().fold(0xcbf2_9ce4_8422_2325, |h, b| {
        (h ^ u64::from(*b)).wrapping_mul(0x0100_0000_01b3)
    })
}
