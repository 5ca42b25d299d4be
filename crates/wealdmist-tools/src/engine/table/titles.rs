//! What tabs are called: a text with words in it that stand for something.
//!
//! In a setup `{title}` is what the program gave itself, `{number}` the tab's place, `{folder}` where it is and `{program}`
//! what runs in it. Every terminal has signs of its own for these, and may have others that we have no word for: such a
//! title is told as it stands. In one of them a title is a program that is carried out, so nothing is written but words of
//! the table and signs that mean themselves.

use std::ops::Range;

use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Value;
use wealdmist_core::role::RoleId;

use super::Compound;
use crate::Wanted;

/// How a terminal writes them.
pub struct Titles {
    /// Its words, each with ours.
    pub words: &'static [(&'static str, &'static str)],
    /// What begins a word of its own that is none of these.
    pub begins: &'static [char],
    /// What it takes literally by another spelling.
    pub literal: &'static [(&'static str, char)],
    /// What stands around a text and is none of it.
    pub quotes: &'static [char],
}

/// Signs beside letters and digits that mean themselves everywhere.
const PLAIN: &str = " -_.,:;/|()[]<>+*=~@&!?·–—…›»•";

impl Titles {
    /// What is between the quotes.
    fn inner(&self, text: &str) -> Range<usize> {
        let around = self.quotes.iter();
        let mut around = around.filter(|q| text.starts_with(**q) && text.ends_with(**q));
        match around.next() {
            Some(quote) if text.len() > quote.len_utf8() => {
                quote.len_utf8()..text.len() - quote.len_utf8()
            }
            _ => 0..text.len(),
        }
    }

    /// A title in our words; `None` where it holds others.
    fn ours(&self, text: &str) -> Option<String> {
        let mut out = String::new();
        let mut rest = text;
        while let Some(c) = rest.chars().next() {
            let word = self
                .words
                .iter()
                .find(|(theirs, _)| rest.starts_with(theirs));
            let literal = self
                .literal
                .iter()
                .find(|(theirs, _)| rest.starts_with(theirs));
            let (taken, said) = match (word, literal) {
                (Some((theirs, ours)), _) => (theirs.len(), (*ours).to_owned()),
                (_, Some((theirs, sign))) => (theirs.len(), in_ours(*sign)),
                _ if self.begins.contains(&c) => return None,
                _ => (c.len_utf8(), in_ours(c)),
            };
            out.push_str(&said);
            rest = &rest[taken..];
        }
        Some(out)
    }

    /// A title of ours in the terminal's words; `None` where it has none for one of them.
    fn theirs(&self, text: &str) -> Option<String> {
        let mut out = String::new();
        let mut rest = text;
        while let Some(c) = rest.chars().next() {
            let word = self.words.iter().find(|(_, ours)| rest.starts_with(ours));
            if let Some((theirs, ours)) = word {
                out.push_str(theirs);
                rest = &rest[ours.len()..];
                continue;
            }
            let taken = match c {
                '{' | '}' if !rest[1..].starts_with(c) => return None,
                '{' | '}' => 2,
                _ => c.len_utf8(),
            };
            match self.literal.iter().find(|(_, sign)| *sign == c) {
                Some((theirs, _)) => out.push_str(theirs),
                None if c.is_alphanumeric() || PLAIN.contains(c) => out.push(c),
                None => return None,
            }
            rest = &rest[taken..];
        }
        Some(out)
    }
}

/// A sign as it stands in a title of ours.
fn in_ours(sign: char) -> String {
    match sign {
        '{' | '}' => format!("{sign}{sign}"),
        _ => sign.to_string(),
    }
}

impl Compound for Titles {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let at = self.inner(text);
        let inner = &text[at.clone()];
        let said = self.ours(inner).unwrap_or_else(|| inner.to_owned());
        vec![(Property::TabTitle.into(), Value::Text(said), at)]
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let Value::Text(title) = Property::TabTitle.of(wanted.setup)? else {
            return None;
        };
        let code = quote(&self.theirs(&title)?, &[quoting])?;
        let at = self.inner(text);
        let mut around = [Code::default(), Code::default()];
        if let (true, Some('"')) = (text.is_empty(), self.quotes.last()) {
            around = [Code::fixed("\""), Code::fixed("\"")];
        }
        Some(vec![(
            at,
            Code::join(&[around[0].clone(), code, around[1].clone()], ""),
        )])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::TabTitle]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const BRACES: Titles = Titles {
        words: &[("{title}", "{title}"), ("{index}", "{number}")],
        begins: &['{', '}'],
        literal: &[("{{", '{'), ("}}", '}')],
        quotes: &['\'', '"'],
    };
    const SIGNS: Titles = Titles {
        words: &[("%#", "{number}"), ("%d", "{folder}")],
        begins: &['%'],
        literal: &[("{", '{'), ("}", '}')],
        quotes: &[],
    };

    #[test]
    fn titles_are_said_in_each_others_words() {
        assert_eq!(
            BRACES.ours("{index}: {title}").unwrap(),
            "{number}: {title}"
        );
        assert_eq!(SIGNS.ours("%#: {%d}").unwrap(), "{number}: {{{folder}}}");
        assert_eq!(BRACES.ours("{fmt.fg.red}{title}"), None);
        assert_eq!(BRACES.theirs("{number} {{a}}").unwrap(), "{index} {{a}}");
        assert_eq!(SIGNS.theirs("{number} {{{folder}}}").unwrap(), "%# {%d}");
        for (titles, text) in [(&BRACES, "{folder}"), (&SIGNS, "{title}"), (&SIGNS, "100%")] {
            assert_eq!(titles.theirs(text), None);
        }
        assert_eq!(BRACES.read("\"{index}\"")[0].2, 1..8);
    }

    proptest! {
        /// Whatever a title of a received setup holds, it stays a text and words of the table.
        #[test]
        fn what_is_written_holds_no_other_words(text in "[{}a-z\"'\\\\()%#._$`; ]{0,24}") {
            if let Some(written) = BRACES.theirs(&text) {
                let rest = written.replace("{{", "").replace("}}", "");
                let rest = rest.replace("{title}", "").replace("{index}", "");
                prop_assert!(!rest.contains(['{', '}', '"', '\\', '\'']), "{}", written);
                prop_assert_eq!(BRACES.ours(&written), Some(text.clone()));
            }
            if let Some(written) = SIGNS.theirs(&text) {
                prop_assert_eq!(SIGNS.ours(&written), Some(text));
            }
        }
    }
}
