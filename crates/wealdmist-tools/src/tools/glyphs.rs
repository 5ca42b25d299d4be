//! Characters outside ASCII in dotfiles: collecting them, and the edits that replace them as the
//! setup says.

use std::path::Path;
use std::sync::Arc;

use wealdmist_core::glyph::{self, Escape, Syntax, is_symbol};
use wealdmist_core::plan::{Change, FileEdit, Splice};
use wealdmist_core::reading::{GlyphUse, Place, SourceFile, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::{Setup, SymbolLevel};
use wealdmist_core::text;

use super::shared::reading;

/// Collects the characters of every file, and the symbol level they amount to. What begins a comment
/// is one of `comment`; files of ours are passed over.
pub fn collect(
    report: &mut ToolReport,
    comment: &[&str],
    syntax: impl Fn(&Path) -> Syntax,
    ours: impl Fn(&Path) -> bool,
) {
    let mut glyphs = Vec::new();
    for file in report.files.iter().filter(|f| !ours(&f.path)) {
        glyphs.extend(used(file, syntax(&file.path), comment));
    }
    let highest = glyphs
        .iter()
        .filter(|g| !g.in_comment && is_symbol(g.character))
        .max_by_key(|g| (glyph::level(g.character), std::cmp::Reverse(g.place.at)));
    if let Some(found) = highest
        && let Some(file) = report.file(&found.place.path)
    {
        let level: SymbolLevel = glyph::level(found.character);
        let value = Value::Text(level.key().to_owned());
        let span = found.place.span.clone();
        let mut r = reading(file, &[], RoleId::known("symbols"), "symbols", value, span);
        r.editable = false;
        report.readings.push(r);
    }
    report.glyphs = glyphs;
}

/// The characters outside ASCII of one file.
#[must_use]
pub fn used(file: &SourceFile, syntax: Syntax, comment: &[&str]) -> Vec<GlyphUse> {
    let bytes = &file.bytes[..];
    let path: Arc<Path> = file.path.as_path().into();
    let (mut line, mut line_start, mut counted) = (1, 0, 0);
    let (mut quoting, mut walked) = (Quoting::Bare, 0);
    let hits = glyph::scan(bytes, syntax);
    hits.into_iter()
        .map(|hit| {
            // Lines are counted once over the whole file, not from its start for each hit.
            for (i, _) in bytes[counted..hit.span.start]
                .iter()
                .enumerate()
                .filter(|(_, b)| **b == b'\n')
            {
                line += 1;
                line_start = counted + i + 1;
            }
            counted = hit.span.start;
            let head = &bytes[line_start..hit.span.start];
            let opens = |c: &&str| head.trim_ascii_start().starts_with(c.as_bytes());
            let in_comment = comment.iter().any(opens)
                || match syntax {
                    Syntax::Shell if comment.contains(&"#") && head.contains(&b'#') => {
                        // The sign may stand in quotes that an earlier line has opened.
                        quoting = quoting.walk(&bytes[walked..line_start]).0;
                        walked = line_start;
                        quoting.walk(head).1
                    }
                    Syntax::Lua => comment.contains(&"--") && ends_in_lua_comment(head),
                    _ => false,
                };
            let column = String::from_utf8_lossy(&bytes[line_start..hit.span.start])
                .chars()
                .count()
                + 1;
            GlyphUse {
                character: hit.character(),
                after: after(bytes, hit.span.end),
                place: Place {
                    path: Arc::clone(&path),
                    span: hit.span,
                    at: text::Position { line, column },
                },
                in_comment,
                cluster: hit.text,
                escape: hit.escape,
            }
        })
        .collect()
}

/// Whether a line of Lua has come to a comment behind something else: `--` outside quotes. Behind long
/// brackets, which may quote over lines, it is not said.
fn ends_in_lua_comment(head: &[u8]) -> bool {
    let (mut quote, mut at) = (None, 0);
    while let Some(byte) = head.get(at) {
        match (quote, byte) {
            (None, b'-') if head[at..].starts_with(b"--") => return true,
            (None, b'[') if matches!(head.get(at + 1), Some(b'[' | b'=')) => return false,
            (None, b'\'' | b'"') => quote = Some(*byte),
            (Some(q), b) if q == *b => quote = None,
            (Some(_), b'\\') => at += 1,
            _ => {}
        }
        at += 1;
    }
    false
}

/// The character drawn behind a place: none at a line's end, nor before a quote or an escape.
fn after(bytes: &[u8], at: usize) -> Option<char> {
    let next = &bytes[at..bytes.len().min(at + 4)];
    let valid = match std::str::from_utf8(next) {
        Ok(text) => text,
        Err(e) => std::str::from_utf8(&next[..e.valid_up_to()]).ok()?,
    };
    valid
        .chars()
        .next()
        .filter(|c| !matches!(c, '\n' | '\r' | '"' | '\'' | '\\' | '`' | ']'))
}

/// Adds to the edits of a tool what the setup says instead of characters in its dotfiles. What
/// another edit touches already, and what cannot be written safely where it stands, is left.
pub fn replace(
    setup: &Setup,
    report: &ToolReport,
    syntax: impl Fn(&Path) -> Syntax,
    edits: &mut Vec<FileEdit>,
) {
    for found in report.glyphs.iter().filter(|g| !g.in_comment) {
        let Some(text) = setup.replacement(report.tool.0, found.character) else {
            continue;
        };
        let Some(file) = report.file(&found.place.path) else {
            continue;
        };
        let Some(with) = written(
            &text,
            found,
            file,
            syntax(&file.path),
            report.tool.0 == "tmux",
        ) else {
            continue;
        };
        let code = |t: &str| {
            t.chars()
                .map(|c| format!("U+{:04X}", c as u32))
                .collect::<Vec<_>>()
                .join(" ")
        };
        let why = match text.is_empty() {
            true => format!("symbols: {} left out", code(&found.cluster)),
            false => format!(
                "symbols: {} → {} {}",
                code(&found.cluster),
                text::visible_with(&text, false),
                code(&text)
            ),
        };
        let splice = Splice {
            range: found.place.span.clone(),
            with: with.into_bytes(),
            why,
            role: Some(RoleId::known("symbols")),
            needs: None,
        };
        add(report, file, splice, edits);
    }
}

fn add(report: &ToolReport, file: &SourceFile, splice: Splice, edits: &mut Vec<FileEdit>) {
    let existing = edits.iter_mut().find(|e| e.path == file.path);
    let Some(edit) = existing else {
        edits.push(FileEdit {
            tool: report.tool,
            path: file.path.clone(),
            target: file.target.clone(),
            before: Some(Arc::clone(&file.bytes)),
            change: Change::Splices(vec![splice]),
        });
        return;
    };
    // A file of ours is written whole, with its own signs.
    if let Change::Splices(splices) = &mut edit.change {
        let touches =
            |s: &Splice| s.range.start < splice.range.end && splice.range.start < s.range.end;
        if !splices.iter().any(touches) {
            splices.push(splice);
            splices.sort_by_key(|s| s.range.start);
        }
    }
}

/// A replacement as it has to be written where a character stands; `None` where that cannot be
/// done without changing what the line means.
fn written(
    text: &str,
    found: &GlyphUse,
    file: &SourceFile,
    syntax: Syntax,
    formats: bool,
) -> Option<String> {
    let quoting = match syntax {
        Syntax::Shell => Quoting::at(&file.bytes, found.place.span.start)?,
        Syntax::Lua | Syntax::Data => Quoting::Double,
        Syntax::Raw | Syntax::Any => Quoting::Verbatim,
    };
    let mut out = String::new();
    for c in text.chars() {
        match (c, found.escape) {
            (c, Some(escape)) if !c.is_ascii() => out.push_str(&form(escape, c, syntax)),
            (c, None) if !c.is_ascii() => out.push(c),
            ('#', _) if formats => out.push_str("##"),
            (c, _) => out.push_str(&quoting.write(c)?),
        }
    }
    Some(out)
}

/// A character in the notation another had there.
fn form(escape: Escape, c: char, syntax: Syntax) -> String {
    match escape {
        // Four digits are not enough, and not every syntax has eight.
        Escape::Short if c as u32 > 0xffff && syntax == Syntax::Data => Escape::Pair.write(c),
        escape => escape.write(c),
    }
}

/// What quotes a place stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Quoting {
    /// The syntax takes text as it is.
    Verbatim,
    /// No quotes.
    Bare,
    /// Single quotes, in which nothing is special and a single quote cannot stand.
    Single,
    /// Double quotes.
    Double,
    /// `$'…'`.
    Dollar,
}

impl Quoting {
    /// The quotes a place of a shell-like file stands in. They are counted from the file's start
    /// and from the line's; where the two disagree the place is not understood.
    fn at(bytes: &[u8], at: usize) -> Option<Self> {
        let line = text::line_range(bytes, at);
        let (whole, own) = (
            Self::Bare.walk(&bytes[..at]).0,
            Self::Bare.walk(&bytes[line.start..at]).0,
        );
        (whole == own).then_some(own)
    }

    /// The quotes behind text that begins in these, at the start of a line; and whether a comment
    /// stands open there.
    fn walk(self, bytes: &[u8]) -> (Self, bool) {
        let mut state = self;
        let mut at = 0;
        let mut blank = true;
        while let Some(byte) = bytes.get(at) {
            let next = bytes.get(at + 1);
            state = match (state, byte) {
                (Self::Bare, b'#') if blank => {
                    let Some(end) = bytes[at..].iter().position(|b| *b == b'\n') else {
                        return (state, true);
                    };
                    at += end;
                    continue;
                }
                (Self::Bare, b'$') if next == Some(&b'\'') => {
                    at += 1;
                    Self::Dollar
                }
                (Self::Bare | Self::Double | Self::Dollar, b'\\') => {
                    at += 1;
                    state
                }
                (Self::Bare, b'\'') => Self::Single,
                (Self::Bare, b'"') => Self::Double,
                (Self::Single | Self::Dollar, b'\'') | (Self::Double, b'"') => Self::Bare,
                _ => state,
            };
            blank = byte.is_ascii_whitespace();
            at += 1;
        }
        (state, false)
    }

    /// An ASCII character so that it stands for itself.
    fn write(self, c: char) -> Option<String> {
        let escaped = |special: &str| match special.contains(c) {
            true => format!("\\{c}"),
            false => c.to_string(),
        };
        match self {
            Self::Verbatim => Some(c.to_string()),
            Self::Bare => Some(
                match c.is_ascii_alphanumeric() || "@%+=:,./-_".contains(c) {
                    true => c.to_string(),
                    false => format!("\\{c}"),
                },
            ),
            Self::Single => (c != '\'').then(|| c.to_string()),
            Self::Double => Some(escaped("\"\\$`")),
            Self::Dollar => Some(escaped("'\\")),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::tools::testing::whole_plan;
    use proptest::prelude::*;

    const SETUP: &str = "[palettes.a]\n[tools.nvim]\ngenerate=false\n[tools.bash]\ngenerate=false\n[symbols]\nlevel='icons'\n[symbols.replace]\n'U+F64F'=\"\\U000F0150\"\n'U+E0B0'='>'\n'✗'=''\n";

    fn after(path: &str, content: &str, setup: &str) -> String {
        let access = MemoryAccess::with(&[(path, content)]);
        let changed = whole_plan(&access, setup);
        changed
            .into_iter()
            .find(|f| f.0.ends_with(path))
            .map_or_else(|| content.to_owned(), |f| f.1)
    }

    #[test]
    fn characters_are_replaced_in_the_notation_they_have() {
        let conf = "set -g status-left \"\u{f64f} \\uf64f $x\\ue0b0 ✗.\"\n# \u{f64f} in a comment\nset -g status-right '\u{e0b0}'\n";
        let text = after(".config/tmux/tmux.conf", conf, SETUP);
        assert!(
            text.starts_with("set -g status-left \"\u{f0150} \\U000f0150 $x> .\"\n# \u{f64f} in"),
            "{text}"
        );
        assert!(text.contains("status-right '>'"), "{text}");
    }

    #[test]
    fn comments_may_stand_behind_something() {
        let seen = |path: &str, text: &str, syntax, comment: &[&str]| {
            let file = SourceFile {
                path: path.into(),
                target: path.into(),
                bytes: text.as_bytes().into(),
                included_from: None,
            };
            let all = used(&file, syntax, comment);
            all.iter().map(|g| g.in_comment).collect::<Vec<_>>()
        };
        let shell = |text: &str| seen("a", text, Syntax::Shell, &["#"]);
        assert_eq!(shell("x='✗' # ✗\n✗ #✗\n"), [false, true, false, true]);
        assert_eq!(shell("x=\"a # ✗\" y#✗ \\# ✗\n"), [false; 3]);
        assert_eq!(shell("x='a\\' # ✗\ny=\"\\\" # ✗\"\n"), [true, false]);
        // A string over lines: the sign stands in it.
        assert_eq!(shell("x='one\ntwo # ✗\n' # ✗\n"), [false, true]);
        let lua = |text: &str| seen("a.lua", text, Syntax::Lua, &["--"]);
        assert_eq!(
            lua("x = '✗' -- ✗\ny = \"-- ✗\" --✗\n"),
            [false, true, false, true]
        );
        assert_eq!(lua("x = [[ -- ✗ ]]\ny = 'it\\'s -- ✗'\n"), [false, false]);
        // Where only whole lines are comments.
        assert_eq!(
            seen("k", "a # ✗\n# ✗\n", Syntax::Raw, &["#"]),
            [false, true]
        );
    }

    #[test]
    fn what_is_special_there_is_escaped() {
        let setup = SETUP.replace("'>'", "'$\"#'");
        let text = after(
            ".config/tmux/tmux.conf",
            "set -g status-left \"\u{e0b0}\"\n",
            &setup,
        );
        assert!(text.contains("\"\\$\\\"##\""), "{text}");
        let single = SETUP.replace("'>'", "\"'\"");
        let conf = "set -g status-left '\u{e0b0}'\n";
        assert_eq!(
            after(".config/tmux/tmux.conf", conf, &single),
            conf,
            "a quote cannot stand there"
        );
        let bare = after(
            ".bashrc",
            "alias x=\u{e0b0}\nPS1=$'\\ue0b0 \\xee\\x82\\xb0'\n",
            SETUP,
        );
        assert!(
            bare.contains("alias x=\\>\n") && bare.contains("PS1=$'> >'"),
            "{bare}"
        );
    }

    #[test]
    fn a_lower_level_replaces_every_sign_of_one_tool() {
        let setup = "[palettes.a]\n[symbols]\nlevel='icons'\n[tools.tmux]\nsymbols='ascii'\n[tools.nvim]\ngenerate=false\n";
        let conf = "set -g status-left '\u{f07b} é → …'\n";
        assert!(after(".config/tmux/tmux.conf", conf, setup).contains("'/ é > ...'"));
        assert_eq!(
            after(".config/nvim/init.lua", "x = '\u{f07b}'\n", setup),
            "x = '\u{f07b}'\n"
        );
    }

    #[test]
    fn a_second_plan_is_empty() {
        let conf = "set -g status-left \"\u{f64f} \\uf64f ✗\"\n";
        let once = after(".config/tmux/tmux.conf", conf, SETUP);
        assert_ne!(once, conf);
        assert_eq!(after(".config/tmux/tmux.conf", &once, SETUP), once);
    }

    #[test]
    fn quotes_are_told_by_file_and_by_line() {
        let at = |text: &str| Quoting::at(text.as_bytes(), text.find('@').unwrap());
        for (text, want) in [
            ("x=@", Some(Quoting::Bare)),
            ("x='@'", Some(Quoting::Single)),
            ("x=\"a'b@\"", Some(Quoting::Double)),
            ("x=$'a\\'@'", Some(Quoting::Dollar)),
            ("x='a' @", Some(Quoting::Bare)),
            ("# don't\nx=@", Some(Quoting::Bare)),
            ("x=\\\"@", Some(Quoting::Bare)),
            ("x=a#'@", Some(Quoting::Single)),
            // What began on another line is not understood.
            ("x='a\nb@'", None),
        ] {
            assert_eq!(at(text), want, "{text}");
        }
    }

    #[test]
    fn uses_know_their_line_column_and_neighbour() {
        let file = SourceFile {
            path: "f".into(),
            target: "f".into(),
            bytes: "a\n  é\u{e0b0}x\n# \u{f07b}\"\n\\ue0b0".as_bytes().into(),
            included_from: None,
        };
        let found = used(&file, Syntax::Shell, &["#"]);
        let told: Vec<(char, usize, usize, Option<char>, bool)> = found
            .iter()
            .map(|g| {
                (
                    g.character,
                    g.place.at.line,
                    g.place.at.column,
                    g.after,
                    g.in_comment,
                )
            })
            .collect();
        assert_eq!(
            told,
            [
                ('é', 2, 3, Some('\u{e0b0}'), false),
                ('\u{e0b0}', 2, 4, Some('x'), false),
                ('\u{f07b}', 3, 3, None, true),
                ('\u{e0b0}', 4, 1, None, false),
            ]
        );
    }

    proptest! {
        #[test]
        fn only_the_characters_meant_are_touched(
            parts in proptest::collection::vec(prop_oneof![
                Just("set -g a 'x'\n"), Just("\u{f64f}"), Just("\\uf64f"), Just("\""), Just("'"), Just(" # \u{f64f}\n"),
                Just("é"), Just("\u{e0a0}"), Just("#[fg=red]"), Just("\n"), Just("$x"), Just("\\"),
            ], 0..20),
        ) {
            let conf: String = parts.concat();
            let text = after(".config/tmux/tmux.conf", &conf, SETUP);
            // Taking the replacement back gives the file as it was: nothing else was changed.
            let own = |t: &str| t.replace('\u{f0150}', "\u{f64f}").replace("\\U000f0150", "\\uf64f");
            let lines = |t: &str| t.lines().filter(|l| !l.contains("terminal-") && !l.contains("-style")).map(str::to_owned).collect::<Vec<_>>();
            prop_assert_eq!(lines(&own(&text)), lines(&own(&conf)));
        }
    }
}
