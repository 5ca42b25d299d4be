//! The design of the prompt written to the setup file: only what differs from what stands there.

use std::ops::Range;

use toml_edit::{Item, Table};

use super::prompt::{PAST, STYLES};
use super::splice::{appended, document, find, line_break, put, spliced, taken_out};
use super::{EditError, SetupDoc, literal};
use crate::character::SymbolLevel;
use crate::prompt::{Design, KNOWN, Kind, Known, Line, Part, Shape, When, place};
use crate::text;

/// A key and its value as it is written.
type Entry = (&'static str, String);

impl SetupDoc {
    /// The setup with another design of the prompt. Lines, parts and keys that say the same stay as they
    /// are written, with the comments beside them; a part that is no longer in the design keeps its table.
    ///
    /// # Errors
    /// When the file cannot hold the design.
    pub fn with_design(&self, wanted: &Design) -> Result<Self, EditError> {
        let wanted = &spelled_out(wanted);
        if self.setup.prompt == *wanted {
            return Ok(self.clone());
        }
        match self.spliced_design(wanted) {
            Ok(doc) if doc.setup.prompt == *wanted => Ok(doc),
            // Written in a manner that cannot be spliced: inline tables, dotted keys.
            _ => {
                let doc = self.with_prompt(&toml(wanted))?;
                match doc.setup.prompt == *wanted {
                    true => Ok(doc),
                    false => Err(EditError::Breaks("the file cannot hold this design".into())),
                }
            }
        }
    }

    fn spliced_design(&self, wanted: &Design) -> Result<Self, EditError> {
        let mut text = self.text.clone();
        // Parts of the person's own have to be there before a line names them.
        for part in wanted.parts().filter(|p| Known::named(&p.name).is_none()) {
            let path = ["prompt", "parts", &part.name];
            if find(document(&text)?.as_table(), &path).is_none() {
                text = appended(&text, &lines_of(&block(part), &text));
            }
        }
        // The plain design has parts that are not as usual, but for whom no table speaks.
        let is_plain = find(document(&text)?.as_table(), &["prompt", "line"]).is_none();
        let same = match is_plain {
            true => self.setup.prompt.lines == wanted.lines,
            false => same_lines(&self.setup.prompt, wanted),
        };
        if !same {
            text = with_lines(&text, &wanted.lines)?;
        }
        let doc = self.rewritten(&text)?;
        let mut text = doc.text.clone();
        let mut change =
            |path: &[&str], had: &[Entry], wanted: &[Entry]| -> Result<(), EditError> {
                for (key, value) in wanted.iter().filter(|e| !had.contains(e)) {
                    text = put(&text, &[path, &[*key]].concat(), value)?;
                }
                for (key, _) in had.iter().filter(|h| wanted.iter().all(|w| w.0 != h.0)) {
                    if let Some(without) = taken_out(&text, &[path, &[*key]].concat())? {
                        text = without;
                    }
                }
                Ok(())
            };
        let had = &doc.setup.prompt;
        change(&["prompt"], &entries(had), &entries(wanted))?;
        for (had, wanted) in had.parts().zip(wanted.parts()) {
            let path = ["prompt", "parts", wanted.name.as_str()];
            change(&path, &part_entries(had), &part_entries(wanted))?;
        }
        self.rewritten(&text)
    }
}

/// A design as a setup's `[prompt]` holds it.
fn toml(design: &Design) -> String {
    let design = &spelled_out(design);
    let mut out: String = (entries(design).iter())
        .map(|(key, value)| format!("{key} = {value}\n"))
        .collect();
    out.push_str(&line_tables(&design.lines));
    for part in design.parts() {
        if !part_entries(part).is_empty() {
            out.push_str(&block(part));
        }
    }
    out
}

/// A design without what cannot be said: where a part would have nothing of its own in a state in which it
/// usually has, it has what it has otherwise.
fn spelled_out(design: &Design) -> Design {
    let mut out = design.clone();
    for part in out
        .lines
        .iter_mut()
        .flat_map(|l| l.left.iter_mut().chain(&mut l.right))
    {
        let usual = Part::usual(base(part));
        if part.signs_failed.is_none() && usual.signs_failed.is_some() {
            part.signs_failed = Some(part.signs.clone());
        }
        if part.signs_root.is_none() && usual.signs_root.is_some() {
            part.signs_root = Some(part.signs.clone());
        }
        if part.text_failed.is_none() && usual.text_failed.is_some() {
            part.text_failed = Some(part.text.clone());
        }
    }
    // The level, and what follows from it, is the setup's.
    let usual = Design::of(Vec::new());
    Design {
        level: usual.level,
        elided: usual.elided,
        items: usual.items,
        ..out
    }
}

fn same_lines(a: &Design, b: &Design) -> bool {
    let names = |line: &Line| {
        let of = |side: &[Part]| side.iter().map(|p| p.name.clone()).collect::<Vec<_>>();
        (of(&line.left), of(&line.right))
    };
    a.lines.iter().map(names).eq(b.lines.iter().map(names))
}

/// The text with these lines: where there are as many, each side is changed where it stands.
fn with_lines(text: &str, lines: &[Line]) -> Result<String, EditError> {
    let read = document(text)?;
    let tables = find(read.as_table(), &["prompt", "line"]).and_then(Item::as_array_of_tables);
    let Some(tables) = tables else {
        // The keys of the plain design say nothing beside lines.
        let mut text = text.to_owned();
        for key in ["lines", "user", "git", "folders"] {
            if let Some(without) = taken_out(&text, &["prompt", key])? {
                text = without;
            }
        }
        let head = match find(document(&text)?.as_table(), &["prompt"]) {
            Some(_) => "",
            None => "\n[prompt]\n",
        };
        let block = format!("{head}{}", line_tables(lines));
        return Ok(appended(&text, &lines_of(&block, &text)));
    };
    let bytes = text.as_bytes();
    let no_place = || EditError::Missing("prompt.line".into());
    // The end of the last line of a table.
    let end_of = |table: &Table| {
        let values = table.iter().filter_map(|(_, i)| i.span());
        let last = values.map(|s| s.end).max().or(table.span().map(|s| s.end));
        last.map(|at| text::line_range(bytes, at).end)
            .ok_or_else(no_place)
    };
    let mut splices: Vec<(Range<usize>, String)> = Vec::new();
    for (n, table) in tables.iter().enumerate() {
        let end = end_of(table)?;
        let Some(line) = lines.get(n) else {
            let header = table.span().ok_or_else(no_place)?;
            let mut start = text::line_range(bytes, header.start).start;
            // One blank line before it goes with it.
            if start >= 1 && text::line_range(bytes, start - 1).is_empty() {
                start = text::line_range(bytes, start - 1).start;
            }
            splices.push((start..end + line_break(bytes, end), String::new()));
            continue;
        };
        for (key, side) in [("left", &line.left), ("right", &line.right)] {
            let had = table.get(key);
            let same = had.and_then(Item::as_array).is_some_and(|a| {
                let had = a.iter().map(|v| v.as_str());
                had.eq(side.iter().map(|p| Some(p.name.as_str())))
            });
            match had.and_then(Item::span) {
                Some(_) if same => {}
                Some(span) => splices.push((span, names(side))),
                None if side.is_empty() => {}
                None => {
                    let entry = format!("\n{key} = {}", names(side));
                    splices.push((end..end, lines_of(&entry, text)));
                }
            }
        }
        if n + 1 == tables.len() && lines.len() > n + 1 {
            let block = line_tables(&lines[n + 1..]);
            let block = lines_of(&format!("\n{}", block.trim_end()), text);
            splices.push((end..end, block));
        }
    }
    // From the last one on, so that places stay true; of those at one place the last comes first.
    splices.reverse();
    splices.sort_by_key(|(span, _)| std::cmp::Reverse(span.start));
    let done = splices
        .into_iter()
        .fold(text.to_owned(), |text, (span, with)| {
            spliced(&text, span, &with)
        });
    Ok(done)
}

/// A block with the line ends of a text.
fn lines_of(block: &str, of: &str) -> String {
    block.replace('\n', text::line_end(of.as_bytes()))
}

fn line_tables(lines: &[Line]) -> String {
    let mut out = String::new();
    for line in lines {
        out.push_str("\n[[prompt.line]]\n");
        for (key, side) in [("left", &line.left), ("right", &line.right)] {
            if !side.is_empty() {
                out.push_str(&format!("{key} = {}\n", names(side)));
            }
        }
    }
    out
}

fn names(parts: &[Part]) -> String {
    list(parts.iter().map(|p| p.name.as_str()))
}

fn list<'a>(texts: impl Iterator<Item = &'a str>) -> String {
    let all: Vec<String> = texts.map(literal::text).collect();
    format!("[{}]", all.join(", "))
}

/// A part as a table of its own.
fn block(part: &Part) -> String {
    let mut out = format!("\n[prompt.parts.{}]\n", literal::key(&part.name));
    for (key, value) in part_entries(part) {
        out.push_str(&format!("{key} = {value}\n"));
    }
    out
}

/// The keys of the design itself that are not as usual.
fn entries(design: &Design) -> Vec<Entry> {
    let usual = Design::of(Vec::new());
    let mut out = Vec::new();
    let mut say = |key, differs: bool, value: String| {
        if differs {
            out.push((key, value));
        }
    };
    say("gap", design.gap != usual.gap, literal::text(&design.gap));
    let stretch = design.stretch.to_string();
    say(
        "stretch",
        design.stretch != usual.stretch,
        literal::text(&stretch),
    );
    for (key, shape) in [
        ("joint", design.joint),
        ("open", design.open),
        ("close", design.close),
    ] {
        say(key, shape != Shape::default(), literal::text(shape.word()));
    }
    say("blank", design.blank, "true".into());
    say("tie", design.tie, "true".into());
    let past = PAST.iter().find(|(_, p)| *p == design.past);
    let past = past.map_or("whole", |(word, _)| word);
    let more = signs(&design.more, &usual.more);
    say("more", design.more != usual.more, more);
    say("past", design.past != usual.past, literal::text(past));
    out
}

/// The known part that a part is made from, so that the least has to be said.
fn base(part: &Part) -> &'static Known {
    if let Some(known) = Known::named(&part.name).filter(|k| k.kind == part.kind) {
        return known;
    }
    let of_kind = KNOWN.iter().filter(|k| k.kind == part.kind);
    let least = of_kind.min_by_key(|k| differing(part, &Part::usual(k)).len());
    least.unwrap_or(&KNOWN[0])
}

/// The keys of a part that are not as usual.
fn part_entries(part: &Part) -> Vec<Entry> {
    let base = base(part);
    let mut out = Vec::new();
    if base.name != part.name {
        out.push(("kind", literal::text(base.name)));
    }
    out.extend(differing(part, &Part::usual(base)));
    out
}

fn differing(part: &Part, usual: &Part) -> Vec<Entry> {
    let mut out = Vec::new();
    let mut say = |key, differs: bool, value: String| {
        if differs {
            out.push((key, value));
        }
    };
    let word = |all: &[(&'static str, When)]| {
        let found = all.iter().find(|(_, w)| *w == part.when);
        literal::text(found.map_or("always", |(word, _)| word))
    };
    say("when", part.when != usual.when, word(&When::ALL));
    say(
        "sign",
        part.signs != usual.signs,
        signs(&part.signs, &usual.signs),
    );
    for (key, own, usual) in [
        ("sign-failed", &part.signs_failed, &usual.signs_failed),
        ("sign-root", &part.signs_root, &usual.signs_root),
        ("sign-command", &part.signs_command, &usual.signs_command),
    ] {
        if let Some(own) = own {
            // What is left out is as the sign otherwise is.
            let is_usual = usual.as_ref() == Some(own);
            say(key, !is_usual, signs(own, &part.signs));
        }
    }
    for (key, own, usual) in [
        ("before", &part.before, &usual.before),
        ("after", &part.after, &usual.after),
        ("says", &part.tells.says, &usual.tells.says),
        ("variable", &part.tells.variable, &usual.tells.variable),
    ] {
        say(key, own != usual, literal::text(own));
    }
    let own_root = part.text_root.is_some() && part.text_root != usual.text_root;
    let says_text =
        part.text != usual.text || (part.text_root.is_none() && usual.text_root.is_some());
    say("text", says_text, literal::text(part.text.as_str()));
    for (key, own, differs) in [
        (
            "text-failed",
            &part.text_failed,
            part.text_failed != usual.text_failed,
        ),
        (
            "text-command",
            &part.text_command,
            part.text_command.is_some(),
        ),
        // A text of its own takes the one for root away.
        (
            "text-root",
            &part.text_root,
            own_root || (says_text && part.text_root.is_some()),
        ),
        ("ground", &part.ground, part.ground != usual.ground),
    ] {
        if let Some(role) = own {
            say(key, differs, literal::text(role.as_str()));
        }
    }
    let (tells, other) = (&part.tells, &usual.tells);
    say("gives-way", part.rank != usual.rank, part.rank.to_string());
    say(
        "folders",
        tells.folders != other.folders,
        tells.folders.to_string(),
    );
    say("within", tells.within, "true".into());
    say("beginnings", tells.beginnings, "true".into());
    say(
        "longest",
        tells.longest != other.longest,
        tells.longest.to_string(),
    );
    let style = STYLES.iter().find(|(_, s)| *s == tells.style);
    let style = literal::text(style.map_or("one", |(word, _)| word));
    say("as", tells.style != other.style, style);
    // Written in seconds and in whole loads.
    let above = match part.kind {
        Kind::Duration => format!("{}", f64::from(tells.above) / 1000.0),
        Kind::Load => format!("{}", f64::from(tells.above) / 100.0),
        _ => tells.above.to_string(),
    };
    say("above", tells.above != other.above, above);
    say("below", tells.below != other.below, tells.below.to_string());
    say("twelve", tells.twelve, "true".into());
    say("seconds", tells.seconds, "true".into());
    say("version", tells.version, "true".into());
    for (key, own, usual) in [
        ("files", &tells.files, &other.files),
        ("asks", &tells.asks, &other.asks),
    ] {
        say(key, own != usual, list(own.iter().map(String::as_str)));
    }
    out
}

/// Signs: one where they are all the same, else those of the levels that are not as `other`.
fn signs(own: &[String; 3], other: &[String; 3]) -> String {
    if own.iter().all(|s| *s == own[0]) {
        return literal::text(&own[0]);
    }
    let levels = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii];
    let differing = levels
        .into_iter()
        .filter(|l| own[place(*l)] != other[place(*l)]);
    let all: Vec<String> = differing
        .map(|l| format!("{} = {}", l.key(), literal::text(&own[place(l)])))
        .collect();
    format!("{{ {} }}", all.join(", "))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::prompt::tests::any_design;
    use crate::prompt::{Past, ready};
    use crate::role::RoleId;

    const TEXT: &str = "# mine\r\n[palettes.a]\r\n[prompt] # how it looks\r\ngap = '  ' # wide\r\n\r\n[[prompt.line]]\r\nleft = ['folder', 'branch'] # where\r\n# on the right\r\nright = ['time']\r\n[[prompt.line]]\r\nleft = ['input']\r\n\r\n[prompt.parts.branch]\r\nbefore = 'at ' # a word\r\nlongest = 12\r\n\r\n[window]\r\nopacity = 0.9\r\n";

    fn doc(text: &str) -> SetupDoc {
        SetupDoc::parse("s.toml", text.as_bytes()).unwrap_or_else(|e| panic!("{e}\n{text}"))
    }

    #[test]
    fn what_does_not_change_stays_as_it_is_written() {
        let doc = doc(TEXT);
        let changed = |change: &dyn Fn(&mut Design)| {
            let mut design = doc.setup().prompt.clone();
            change(&mut design);
            doc.with_design(&design).unwrap().text().to_owned()
        };
        assert_eq!(changed(&|_| {}), TEXT);
        // A part is carried to the other side.
        let carried = changed(&|d| {
            let part = d.lines[0].left.remove(1);
            d.lines[0].right.push(part);
        });
        let wanted = TEXT
            .replace("['folder', 'branch']", "[\"folder\"]")
            .replace("['time']", "[\"time\", \"branch\"]");
        assert_eq!(carried, wanted);
        // A word goes, a number and a key come.
        let said = changed(&|d| {
            let part = &mut d.lines[0].left[1];
            part.before.clear();
            part.tells.longest = 20;
            d.past = Past::Sign;
        });
        let wanted = TEXT
            .replace("before = 'at ' # a word\r\n", "")
            .replace("longest = 12", "longest = 20")
            .replace("# wide\r\n", "# wide\r\npast = \"sign\"\r\n");
        assert_eq!(said, wanted);
        // Two lines into one and a third one behind.
        let one = changed(&|d| {
            let input = d.lines.remove(1).left;
            d.lines[0].left.extend(input);
        });
        let wanted = TEXT
            .replace(
                "['folder', 'branch']",
                "[\"folder\", \"branch\", \"input\"]",
            )
            .replace("[[prompt.line]]\r\nleft = ['input']\r\n", "");
        assert_eq!(one, wanted);
        let three = changed(&|d| {
            let input = d.lines[1].left.clone();
            d.lines[1].left = Part::named("jobs").into_iter().collect();
            d.lines.push(Line {
                left: input,
                right: Vec::new(),
            });
        });
        let wanted = TEXT.replace(
            "left = ['input']\r\n",
            "left = [\"jobs\"]\r\n\r\n[[prompt.line]]\r\nleft = [\"input\"]\r\n",
        );
        assert_eq!(three, wanted);
    }

    #[test]
    fn the_plain_design_becomes_lines_when_a_part_changes() {
        let text =
            "[palettes.a]\n[prompt]\nlines = 1 # one\nuser = 'always'\npast = 'line' # short\n";
        let doc = doc(text);
        let mut design = doc.setup().prompt.clone();
        design.tie = true;
        let tied = doc.with_design(&design).unwrap();
        assert_eq!(tied.text(), format!("{text}tie = true\n"));
        design.lines[0].left[0].text = RoleId::known("prompt.host");
        let new = doc.with_design(&design).unwrap();
        assert!(
            new.text().contains("past = 'line' # short\ntie = true\n"),
            "{}",
            new.text()
        );
        assert!(new.text().contains("before = \"on \""), "{}", new.text());
        assert!(!new.text().contains("lines ="));
    }

    /// Any design with parts that differ from what is usual in any way.
    fn any_changed() -> impl Strategy<Value = Design> {
        let one = (0..KNOWN.len(), any::<[u8; 12]>(), "[a-z'\"\\\\ é]{0,5}");
        (any_design(), prop::collection::vec(one, 0..4)).prop_map(|(mut design, own)| {
            for (n, (known, dice, text)) in own.into_iter().enumerate() {
                if KNOWN[known].kind == Kind::Input {
                    continue;
                }
                let mut part = Part::usual(&KNOWN[known]);
                if dice[0] % 2 == 0 || design.parts().any(|p| p.name == part.name) {
                    part.name = format!("own{n}");
                }
                let role =
                    |d: u8| RoleId::known(["red", "prompt.user", "selection"][usize::from(d % 3)]);
                part.when = When::ALL[usize::from(dice[1]) % When::ALL.len()].1;
                if dice[2] % 2 == 0 {
                    part.signs =
                        std::array::from_fn(|i| if i == 0 { text.clone() } else { "~".into() });
                }
                part.signs_failed = (dice[3] % 3 == 0).then(|| part.signs.clone());
                part.signs_command = (dice[3] % 5 == 0).then(|| part.signs.clone());
                part.text_command = (dice[3] % 7 == 0).then(|| role(dice[3]));
                part.after.clone_from(&text);
                if dice[4] % 3 == 0 {
                    part.text = role(dice[4] / 3);
                    part.text_root = (dice[5] % 2 == 0).then(|| role(dice[5] / 2));
                }
                part.ground = (dice[6] % 2 == 0).then(|| role(dice[6] / 2));
                part.rank = dice[7] % 100;
                let tells = &mut part.tells;
                tells.folders = dice[8] % 10;
                tells.longest = u16::from(dice[8]);
                tells.above = u32::from(dice[9]) * 10;
                tells.below = u32::from(dice[9] % 101);
                tells.style = STYLES[usize::from(dice[10]) % 4].1;
                tells.twelve = dice[11] & 1 > 0;
                tells.seconds = dice[11] & 2 > 0;
                tells.version = dice[11] & 4 > 0;
                tells.within = dice[11] & 8 > 0;
                tells.beginnings = dice[11] & 32 > 0;
                if dice[11] & 16 > 0 && part.kind == Kind::Language {
                    tells.files.push("tide.toml".into());
                }
                let line = usize::from(dice[0]) % design.lines.len();
                let side = match dice[11] & 32 {
                    0 => &mut design.lines[line].right,
                    _ => &mut design.lines[line].left,
                };
                side.insert(0, part);
            }
            design
        })
    }

    proptest! {
        #[test]
        fn any_design_is_written_and_read_again(a in any_changed(), b in any_changed(), crlf: bool) {
            let end = if crlf { "\r\n" } else { "\n" };
            let text = "[palettes.a]\n# above\n[window]\nopacity = 0.5\n".replace('\n', end);
            let mut doc = doc(&text);
            // Each is written over the one before, spliced wherever it can be.
            for design in [&a, &b, &a] {
                let wanted = spelled_out(design);
                doc = doc.with_design(design).unwrap_or_else(|e| panic!("{e}\n{}\n{}", doc.text(), toml(design)));
                prop_assert_eq!(&doc.setup().prompt, &wanted);
                prop_assert!(doc.text().starts_with(&text));
                prop_assert!(!crlf || !doc.text().replace("\r\n", "").contains('\n'));
            }
        }
    }

    #[test]
    fn ready_designs_are_written_as_short_as_they_are() {
        for one in ready::ALL {
            let with = doc("[palettes.a]\n").with_prompt(one.toml).unwrap();
            let written = toml(&with.setup().prompt);
            assert!(
                written.len() <= one.toml.len() + 8,
                "{}:\n{written}",
                one.name
            );
        }
    }
}
