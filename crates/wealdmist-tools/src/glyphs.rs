//! Characters outside ASCII in dotfiles: collecting them, and the edits that replace them as the
//! setup says.

use std::ops::Range;
use std::path::Path;
use std::sync::Arc;

use wealdmist_core::character::{self, SymbolLevel, is_symbol};
use wealdmist_core::escape::Escape;
use wealdmist_core::glyph::{self, Syntax, replacement_of};
use wealdmist_core::plan::{Change, FileEdit, Left, Splice};
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{GlyphUse, Place, SourceFile, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;
use wealdmist_core::text;

use crate::Adapter;
use crate::document::lua_words;
use crate::shared::reading;

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
        .max_by_key(|g| (character::level(g.character), std::cmp::Reverse(g.place.at)));
    if let Some(found) = highest
        && let Some(file) = report.file(&found.place.path)
    {
        let level: SymbolLevel = character::level(found.character);
        let value = Value::Text(level.key().to_owned());
        let span = found.place.span.clone();
        let mut r = reading(
            file,
            &[],
            RoleId::from(Property::Symbols),
            "symbols",
            value,
            span,
        );
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
    // Everything is counted and walked once over the whole file, not from a start for each hit.
    let (mut column, mut columns_to) = (1, 0);
    let mut quotes = Walk::new(bytes);
    let remarks = match syntax {
        Syntax::Lua if comment.contains(&"--") => lua_comments(bytes),
        _ => Vec::new(),
    };
    let hits = glyph::scan(bytes, syntax);
    hits.into_iter()
        .map(|hit| {
            for i in memchr::memchr_iter(b'\n', &bytes[counted..hit.span.start]) {
                line += 1;
                line_start = counted + i + 1;
                (column, columns_to) = (1, line_start);
            }
            counted = hit.span.start;
            let between = &bytes[columns_to..hit.span.start];
            column += String::from_utf8_lossy(between).chars().count();
            columns_to = hit.span.start;
            let head = &bytes[line_start..hit.span.start];
            let opens = |c: &&str| head.trim_ascii_start().starts_with(c.as_bytes());
            let in_comment = comment.iter().any(opens)
                || match syntax {
                    Syntax::Shell if comment.contains(&"#") => {
                        // The sign may stand in quotes that an earlier line has opened.
                        quotes.to(hit.span.start);
                        quotes.comment
                    }
                    Syntax::Lua => {
                        let next =
                            remarks.partition_point(|r: &Range<usize>| r.start <= hit.span.start);
                        next > 0 && remarks[next - 1].contains(&hit.span.start)
                    }
                    _ => false,
                };
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

/// Where the comments of a Lua file stand.
fn lua_comments(bytes: &[u8]) -> Vec<Range<usize>> {
    let words = lua_words::words(bytes);
    let comments = words.filter(|w| w.kind == lua_words::Kind::Comment);
    comments.map(|w| w.span).collect()
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
/// another edit touches already is left; so is what cannot be written safely where it stands, and
/// those places are returned.
pub fn replace(
    setup: &Setup,
    report: &ToolReport,
    adapter: &dyn Adapter,
    edits: &mut Vec<FileEdit>,
) -> Vec<Left> {
    let mut left = Vec::new();
    for file in &report.files {
        let here = report
            .glyphs
            .iter()
            .filter(|g| !g.in_comment && *g.place.path == *file.path)
            .filter_map(|g| Some((g, replacement_of(setup, report.tool, &g.cluster)?)));
        let here: Vec<(&GlyphUse, String)> = here.collect();
        let places: Vec<usize> = here.iter().map(|h| h.0.place.span.start).collect();
        if places.is_empty() {
            continue;
        }
        let syntax = adapter.syntax(&file.path);
        let mut splices = Vec::new();
        for ((found, text), quoting) in here.into_iter().zip(adapter.quoting(file, &places)) {
            let Some(quoting) = quoting else {
                left.push(stays(
                    report,
                    found,
                    &text,
                    "what reads the text here is not understood",
                ));
                continue;
            };
            // Behind these, some languages read the next character in a way of their own.
            let introduced = found.place.span.start > 0
                && b"\\$#%&!`".contains(&file.bytes[found.place.span.start - 1]);
            let first = text.chars().next();
            let plain = first.is_some_and(|c| c.is_alphanumeric() || !c.is_ascii() || c == ' ');
            let with = written(&text, found, syntax, &quoting).filter(|_| !introduced || plain);
            let Some(with) = with else {
                left.push(stays(
                    report,
                    found,
                    &text,
                    "it would not stay a text there",
                ));
                continue;
            };
            let why = match text.is_empty() {
                true => format!("symbols: {} left out", text::code_points(&found.cluster)),
                false => format!(
                    "symbols: {} → {} {}",
                    text::code_points(&found.cluster),
                    text::visible_with(&text, false),
                    text::code_points(&text)
                ),
            };
            splices.push(Splice {
                range: found.place.span.clone(),
                with,
                why,
                role: Some(RoleId::from(Property::Symbols)),
                needs: None,
            });
        }
        add(report, file, splices, edits);
    }
    left
}

fn stays(report: &ToolReport, found: &GlyphUse, text: &str, why: &'static str) -> Left {
    Left {
        tool: report.tool,
        place: found.place.clone(),
        what: format!(
            "{} → {}",
            text::code_points(&found.cluster),
            text::visible_with(text, false)
        ),
        why,
    }
}

fn add(report: &ToolReport, file: &SourceFile, more: Vec<Splice>, edits: &mut Vec<FileEdit>) {
    if more.is_empty() {
        return;
    }
    let existing = edits.iter_mut().find(|e| e.path == file.path);
    let Some(edit) = existing else {
        edits.push(FileEdit {
            tool: report.tool,
            also: Vec::new(),
            path: file.path.clone(),
            target: file.target.clone(),
            before: Some(Arc::clone(&file.bytes)),
            change: Change::Splices(more),
        });
        return;
    };
    // A file of ours is written whole, with its own signs.
    if let Change::Splices(splices) = &mut edit.change {
        splices.sort_by_key(|s| s.range.start);
        let free: Vec<Splice> = more
            .into_iter()
            .filter(|new| {
                // The last that begins before its end is the only one that can touch it.
                let next = splices.partition_point(|s| s.range.start < new.range.end);
                next == 0 || splices[next - 1].range.end <= new.range.start
            })
            .collect();
        splices.extend(free);
        splices.sort_by_key(|s| s.range.start);
    }
}

/// A replacement as it has to be written where a character stands; `None` where that cannot be
/// done without changing what the line means.
fn written(text: &str, found: &GlyphUse, syntax: Syntax, quoting: &[Quoting]) -> Option<Code> {
    let mut out = Code::default();
    if text.is_empty() {
        return Some(out);
    }
    let whole = quote(text, quoting)?;
    if found.escape.is_none() || text.is_ascii() {
        return Some(whole);
    }
    for c in text.chars() {
        match found.escape {
            Some(escape) if !c.is_ascii() => out.push(&form(escape, c, syntax)?),
            _ => out.push(&quote(&c.to_string(), quoting)?),
        }
    }
    Some(out)
}

/// A character in the notation another had there.
fn form(escape: Escape, c: char, syntax: Syntax) -> Option<Code> {
    Code::escaped(
        c,
        match escape {
            // Four digits are not enough, and not every syntax has eight.
            Escape::Short if c as u32 > 0xffff && syntax == Syntax::Data => Escape::Pair,
            escape => escape,
        },
    )
}

/// Whether a string holds a sign alone: beside the bytes at `sign` there are only blanks and
/// characters outside ASCII. Such a string is drawn; it is no command.
pub fn is_sign_alone(bytes: &[u8], inner: &Range<usize>, sign: usize) -> bool {
    if !inner.contains(&sign) {
        return false;
    }
    let escape = bytes[sign..inner.end].first() == Some(&b'\\');
    let len = match escape {
        true => {
            1 + bytes[sign + 1..inner.end]
                .iter()
                .take_while(|b| b.is_ascii_alphanumeric() || **b == b'{' || **b == b'}')
                .count()
        }
        false => 0,
    };
    let drawn = |b: &u8| *b >= 0x80 || *b == b' ';
    bytes[inner.start..sign].iter().all(drawn) && bytes[sign + len..inner.end].iter().all(drawn)
}

/// What reads the text at places of a shell-like file, by the quotes they stand in alone.
pub fn shell_quotes(bytes: &[u8], places: &[usize]) -> Vec<Option<Quoting>> {
    // Walked once over the whole file, and once over each line: where the two disagree about the
    // quotes a place stands in, it is not understood.
    let (mut whole, mut own) = (Walk::new(bytes), Walk::new(bytes));
    let mut looked = 0;
    let mut out = vec![None; places.len()];
    let mut order: Vec<usize> = (0..places.len()).collect();
    order.sort_by_key(|i| places[*i]);
    for i in order {
        let at = places[i].min(bytes.len());
        if let Some(end) = memchr::memrchr(b'\n', &bytes[looked..at]) {
            own = Walk {
                at: looked + end + 1,
                ..Walk::new(bytes)
            };
        }
        looked = at;
        whole.to(at);
        own.to(at);
        out[i] = (whole.state == own.state).then(|| own.state.quoting());
    }
    out
}

/// A walk through a shell-like file that knows in which quotes it is.
struct Walk<'a> {
    bytes: &'a [u8],
    at: usize,
    state: Quotes,
    /// Whether a comment may begin here: at the start of a line or behind a blank.
    blank: bool,
    /// Whether a comment stands open.
    comment: bool,
}

impl<'a> Walk<'a> {
    const fn new(bytes: &'a [u8]) -> Self {
        Self {
            bytes,
            at: 0,
            state: Quotes::Bare,
            blank: true,
            comment: false,
        }
    }

    /// Goes on to a place that is not before the last one.
    fn to(&mut self, to: usize) {
        while self.at < to {
            let byte = self.bytes[self.at];
            if self.comment {
                let end = memchr::memchr(b'\n', &self.bytes[self.at..to]);
                let Some(end) = end else {
                    self.at = to;
                    return;
                };
                self.at += end;
                self.comment = false;
                continue;
            }
            let next = self.bytes.get(self.at + 1);
            self.state = match (self.state, byte) {
                (Quotes::Bare, b'#') if self.blank => {
                    self.comment = true;
                    continue;
                }
                (Quotes::Bare, b'$') if next == Some(&b'\'') => {
                    self.at += 1;
                    Quotes::Dollar
                }
                (Quotes::Bare | Quotes::Double | Quotes::Dollar, b'\\') => {
                    self.at += 1;
                    self.state
                }
                (Quotes::Bare, b'\'') => Quotes::Single,
                (Quotes::Bare, b'"') => Quotes::Double,
                (Quotes::Single | Quotes::Dollar, b'\'') | (Quotes::Double, b'"') => Quotes::Bare,
                (state, _) => state,
            };
            self.blank = byte.is_ascii_whitespace();
            self.at += 1;
        }
    }
}

/// What quotes a place stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Quotes {
    /// No quotes.
    Bare,
    /// Single quotes, in which nothing is special and a single quote cannot stand.
    Single,
    /// Double quotes.
    Double,
    /// `$'…'`.
    Dollar,
}

impl Quotes {
    const fn quoting(self) -> Quoting {
        match self {
            Self::Bare => Quoting::Bare,
            Self::Single => Quoting::Single,
            Self::Double => Quoting::Double,
            Self::Dollar => Quoting::Dollar,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing::whole_plan;
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
                lines: Default::default(),
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
    fn a_text_is_only_written_where_it_stays_one() {
        let with = |text: &str| SETUP.replace("'>'", &format!("'{text}'"));
        let mux = |conf: &str, text: &str| after(".config/tmux/tmux.conf", conf, &with(text));
        // What a bar's format or the quotes would read is left alone, and said.
        for text in ["#(x)", "$x", "}", "\"", "%H"] {
            let conf = "set -g status-left \"\u{e0b0}\"\n";
            assert_eq!(mux(conf, text), conf, "{text}");
        }
        let drawn = mux("set -g status-left ' \u{e0b0}| #(a \u{e0b0})'\n", "| ;");
        assert!(drawn.contains("' | ;| #(a \u{e0b0})'"), "{drawn}");
        let run =
            "run-shell 'echo \u{e0b0}'\nset -g @x '\u{e0b0}'\nset -g status-left '#\u{e0b0}'\n";
        assert_eq!(mux(run, "[x]"), run);
        assert!(mux(run, "ok").starts_with("run-shell 'echo ok'\nset -g @x 'ok'\n"));
        let shell = |rc: &str, text: &str| after(".bashrc", rc, &with(text));
        let rc = "PS1=$'\\ue0b0 \\xee\\x82\\xb0'\n";
        assert_eq!(shell(rc, ">"), "PS1=$'> >'\n");
        let code = "alias x='a \u{e0b0}'\nPS1='$(a \u{e0b0})'\ntrap \"a \u{e0b0}\" EXIT\n";
        assert_eq!(shell(code, "; a"), code);
        let sign = "sep='\u{e0b0} '\nPS1=\"a \u{e0b0}\"\n";
        assert_eq!(shell(sign, "|"), "sep='| '\nPS1=\"a |\"\n");
        assert_eq!(shell(sign, "$(a)"), sign);
        let lua = "x = { sign = '\u{e0b0} ', cmd = 'a \u{e0b0}' }\nf('\u{e0b0}')\n";
        let text = after(".config/nvim/init.lua", lua, &with(">"));
        assert_eq!(
            text,
            "x = { sign = '> ', cmd = 'a \u{e0b0}' }\nf('\u{e0b0}')\n"
        );
        let doc = wealdmist_core::setup::SetupDoc::parse("s", with("|").as_bytes()).unwrap();
        let access = MemoryAccess::with(&[(".bashrc", code)]);
        let reports = crate::tools::read_all(&access);
        let look = wealdmist_core::look::Look::new(doc.setup());
        let plan = crate::tools::plan(doc.setup(), &look, &reports, &access, None);
        assert_eq!(plan.left.len(), 3);
        assert_eq!(plan.left[0].place.at.line, 1);
        assert_eq!(plan.left[0].what, "U+E0B0 → |");
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
        let at = |text: &str| shell_quotes(text.as_bytes(), &[text.find('@').unwrap()])[0];
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
            lines: Default::default(),
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
