//! What a prompt of bash is made of.

use crate::document::sgr::{self, value_of};
use crate::sourced::own::Piece;

/// What stands in a text of `PS1`.
pub fn pieces(bytes: &[u8]) -> Vec<Piece> {
    let uses = sgr::colors_of(bytes, 0..bytes.len(), &sgr::IN_PROMPT);
    let mut out = Vec::new();
    for (n, found) in uses.iter().enumerate() {
        out.push(Piece::Paint {
            layer: found.layer,
            color: found.color.and_then(value_of),
            part: found.span.clone(),
        });
        let next = uses.get(n + 1);
        // Escapes that follow one another at once color the same stretch.
        let end = next.map_or(bytes.len(), |next| next.span.start);
        if next.is_some_and(|next| next.end == found.end) || found.end >= end {
            continue;
        }
        let colored = String::from_utf8_lossy(&bytes[found.end..end]).into_owned();
        if next.is_some() && is_only_escape(&colored) {
            continue;
        }
        out.push(Piece::Drawn {
            job: job_of(&colored),
            ink: has_ink(&colored),
        });
    }
    out
}

/// Whether more is drawn than blanks.
fn has_ink(text: &str) -> bool {
    let mut rest = text.replace("\\[", "").replace("\\]", "");
    for introducer in sgr::IN_PROMPT {
        let introducer = String::from_utf8_lossy(introducer);
        // Other escapes end with the first letter.
        while let Some(at) = rest.find(&*introducer) {
            let end = rest[at + introducer.len()..].find(|c: char| c.is_ascii_alphabetic());
            let end = end.map_or(rest.len(), |n| at + introducer.len() + n + 1);
            rest.replace_range(at..end, "");
        }
    }
    rest.replace("\\n", "")
        .chars()
        .any(|c| !c.is_whitespace() && !c.is_control())
}

/// Whether nothing is drawn: the end of one escape and the beginning of another.
fn is_only_escape(text: &str) -> bool {
    let mut rest = text.replace("\\[", "").replace("\\]", "");
    for introducer in sgr::INTRODUCERS {
        rest = rest.replace(&*String::from_utf8_lossy(introducer), "");
    }
    rest.is_empty()
}

/// The job of a stretch of `PS1`, by the first escape in it that says one.
fn job_of(colored: &str) -> Option<&'static str> {
    const JOBS: [(&str, &str); 7] = [
        ("\\u", "prompt.user"),
        ("\\h", "prompt.host"),
        ("\\H", "prompt.host"),
        ("\\w", "prompt.folder"),
        ("\\W", "prompt.folder"),
        ("git", "prompt.branch"),
        ("\\$", "prompt.sign"),
    ];
    let found = JOBS
        .iter()
        .filter_map(|(mark, role)| Some((colored.find(mark)?, *role)));
    found.min_by_key(|(at, _)| *at).map(|(_, role)| role)
}
