//! Options: `:set` and what setting one does.

use super::Editor;
use super::flow::{Run, Stop};
use super::value::Value;
use crate::document::vim::Line;
use crate::evaluated::Ground;
use crate::evaluated::text::Text;

impl Editor<'_> {
    /// One word of `:set`.
    pub(super) fn set_word(&mut self, word: &Line, ground: &Ground) -> Run<()> {
        let letters = |b: &u8| b.is_ascii_alphanumeric() || *b == b'_';
        let length = word.bytes.iter().take_while(|b| letters(b)).count();
        let name = String::from_utf8_lossy(&word.bytes[..length]).into_owned();
        let rest = &word.bytes[length..];
        let whole = Some(self.to_text(word, ground));
        match rest {
            [] => match name.strip_prefix("no") {
                Some(off) => self.set_option(off, Value::Bool(false), whole),
                _ => self.set_option(&name, Value::Bool(true), whole),
            },
            [b'&', ..] => self.set_option(&name, Value::Nil, whole),
            [b'!', ..] => {
                let now = self.store.field(self.tables.options, full_name(&name));
                let other = now.map(&mut |v| Value::Bool(!matches!(v, Value::Bool(true))));
                self.set_option(&name, other, None)
            }
            [b'=' | b':', ..] => {
                let value = unescaped(&word.behind(length + 1));
                let value = Value::Text(self.to_text(&value, ground));
                self.set_option(&name, value, None)
            }
            [b'+', b'=', ..] => {
                let value = unescaped(&word.behind(length + 2));
                let added = self.to_text(&value, ground);
                let name = full_name(&name);
                let mut now = self
                    .store
                    .field(self.tables.options, name)
                    .as_text()
                    .unwrap_or_default();
                if !now.bytes.is_empty() {
                    now.push(&Text::nowhere(","));
                }
                now.push(&added);
                self.set_option(name, Value::Text(now), None)
            }
            // What else is done to the folders is not followed, only seen.
            _ if FOLDERS.contains(&full_name(&name)) => self.set_option(&name, Value::Nil, None),
            _ => Ok(()),
        }
    }

    /// Sets an option. `source` is where a word for yes or no stands.
    pub(super) fn set_option(&mut self, name: &str, value: Value, source: Option<Text>) -> Run<()> {
        let name = full_name(name);
        if FOLDERS.contains(&name) {
            self.open(&"what is in folders that the files add to the runtime path".into());
            return Ok(());
        }
        if name == "background" {
            let fits = match &value {
                Value::Text(text) => {
                    text.unknown.is_some() || matches!(text.bytes.as_slice(), b"dark" | b"light")
                }
                _ => true,
            };
            let value = match value {
                Value::Text(Text {
                    unknown: Some(why), ..
                }) => Value::Unknown(why),
                other => other,
            };
            return match fits {
                true => self.background(&value),
                false => Err(Stop::Error("the background is dark or light".into())),
            };
        }
        let value = match (name, value) {
            // A list of fonts.
            ("guifont", Value::Table(table)) => {
                Value::Text(self.store.joined(table, &Text::nowhere(",")))
            }
            ("termguicolors", Value::Number(n)) => Value::Bool(n != 0.0),
            (_, value) => value,
        };
        self.store.put(self.tables.options, name, value.clone());
        let source = match (source, &value) {
            (Some(source), _) => Value::Text(source),
            // It is put together, and nothing that could be changed where it stands.
            (None, Value::Bool(on)) => {
                Value::Text(self.placed(&Text::nowhere(if *on { "1" } else { "0" })))
            }
            _ => Value::Nil,
        };
        self.store
            .put(self.tables.options, &format!("{name}\0at"), source);
        if name == "termguicolors" || name == "guifont" {
            let now = self.store.field(self.tables.options, name);
            let at = self
                .store
                .field(self.tables.options, &format!("{name}\0at"));
            self.noted(name, now, at);
        }
        Ok(())
    }
}

/// Options that say where plugins and themes are looked for.
pub(super) const FOLDERS: [&str; 4] = ["rtp", "runtimepath", "packpath", "pp"];

/// An option by its full name.
pub(super) fn full_name(name: &str) -> &str {
    match name {
        "bg" => "background",
        "tgc" => "termguicolors",
        "gfn" => "guifont",
        "cul" => "cursorline",
        "nu" => "number",
        "rnu" => "relativenumber",
        other => other,
    }
}

/// The value of `:set` without the backslashes that keep it together.
fn unescaped(line: &Line) -> Line {
    let (mut bytes, mut map) = (Vec::new(), Vec::new());
    let mut at = 0;
    while at < line.bytes.len() {
        if line.bytes[at] == b'\\' && at + 1 < line.bytes.len() {
            at += 1;
        }
        bytes.push(line.bytes[at]);
        map.push(line.map[at]);
        at += 1;
    }
    Line {
        bytes: bytes.into(),
        map: map.into(),
    }
}
