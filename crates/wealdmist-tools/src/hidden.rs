//! Escapes in startup files that set the terminal's colors: they hide what its own file says.

use memchr::memchr_iter;
use wealdmist_core::reading::{FileProblem, ToolReport};
use wealdmist_core::text;

/// How an escape is spelled that begins such a sequence.
const ESCAPES: [&[u8]; 7] = [
    b"\x1b", b"\\e", b"\\E", b"\\033", b"\\x1b", b"\\x1B", b"\\u001b",
];
/// The numbers of sequences that set a color: text, ground, cursor, selection and the text in it.
const COLORS: [&[u8]; 5] = [b"10;", b"11;", b"12;", b"17;", b"19;"];

/// How much of a sequence says whether it sets a color.
const LONGEST: usize = 16;

/// Whether what stands behind the bracket sets a color, and does not ask for it.
fn sets(behind: &[u8]) -> bool {
    if let Some(rest) = behind.strip_prefix(b"P") {
        // The console's own: a digit and six more.
        return rest.len() > 6 && rest[..7].iter().all(u8::is_ascii_hexdigit);
    }
    let one = COLORS
        .iter()
        .find_map(|number| behind.strip_prefix(*number));
    let indexed = || {
        let rest = behind.strip_prefix(b"4;")?;
        let end = rest.iter().position(|b| *b == b';')?;
        (end < 8).then(|| &rest[end + 1..])
    };
    let value = one.or_else(indexed);
    value.is_some_and(|value| value.first().is_some_and(|b| *b != b'?'))
}

/// The first place of each file where a color of the terminal is set.
#[must_use]
pub fn hides(report: &ToolReport) -> Vec<FileProblem> {
    let mut out = Vec::new();
    for file in &report.files {
        let bytes = &file.bytes[..];
        let mut comment_until = 0;
        let found = memchr_iter(b']', bytes).find(|at| {
            let begins = ESCAPES.iter().any(|escape| bytes[..*at].ends_with(escape));
            let behind = &bytes[at + 1..];
            let behind = &behind[..behind.len().min(LONGEST)];
            let behind = behind.split(|b| matches!(b, b'\r' | b'\n')).next();
            if !begins || *at < comment_until || !behind.is_some_and(sets) {
                return false;
            }
            let line = text::line_range(bytes, *at);
            let is_comment = bytes[line.clone()].trim_ascii_start().starts_with(b"#");
            if is_comment {
                comment_until = line.end;
            }
            !is_comment
        });
        out.extend(found.map(|at| FileProblem {
            path: file.path.clone(),
            at: Some(file.position(at)),
            message: "colors of the terminal are set here by an escape: what its own file says of them is hidden".to_owned(),
            help: "remove it, and have the colors in the setup".to_owned(),
            blocks_edits: false,
        }));
    }
    out
}

#[cfg(test)]
mod tests {
    use crate::access::MemoryAccess;
    use crate::read_all;

    fn told(path: &str, text: &str) -> Vec<usize> {
        let reports = read_all(&MemoryAccess::with(&[(path, text)]));
        let problems = reports.iter().flat_map(|r| &r.problems);
        let of_escapes = problems.filter(|p| p.message.contains("by an escape"));
        of_escapes.map(|p| p.at.unwrap().line).collect()
    }

    #[test]
    fn a_color_that_a_startup_file_sets_is_told_and_a_title_or_a_question_is_not() {
        for line in [
            "printf '\\e]11;#102030\\a'",
            "printf '\\033]4;1;rgb:ff/00/00\\033\\\\'",
            "echo -en \"\\e]P0102030\"",
            "printf '\x1b]12;red\x07'",
        ] {
            assert_eq!(told(".bashrc", &format!("# mine\n{line}\n")), [2], "{line}");
            assert_eq!(
                told(".config/fish/config.fish", &format!("{line}\n")),
                [1],
                "{line}"
            );
        }
        for line in [
            "printf '\\e]0;title\\a'",
            "printf '\\e]11;?\\a'",
            "printf '\\e]112\\a'",
            "# printf '\\e]11;#102030\\a'",
            "a[1]=11; b=]4;1;2",
        ] {
            assert!(told(".bashrc", &format!("{line}\n")).is_empty(), "{line}");
        }
    }
}
