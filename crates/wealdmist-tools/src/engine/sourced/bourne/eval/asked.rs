//! What tests answer: `[ … ]` and `[[ … ]]`.

use std::sync::Arc;

use super::words::matches;
use super::{MOST, Said, Shell, Status};
use crate::document::shell::{Kin, Part, Word};
use crate::evaluated::Ground;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;
use crate::shell_test;

impl Shell<'_> {
    /// Asks something of words, for each of the values they may have.
    pub(super) fn asked(words: &[Vec<Said>], ask: &dyn Fn(&[&str]) -> Option<bool>) -> Status {
        let mut combinations: Vec<(Vec<String>, Option<Why>)> = vec![(Vec::new(), None)];
        for word in words {
            let mut next = Vec::new();
            for (so_far, why) in &combinations {
                for (text, more) in word {
                    if let Some(unknown) = &text.unknown {
                        return Err(Arc::clone(unknown));
                    }
                    let mut all = so_far.clone();
                    all.push(text.lossy());
                    next.push((all, why.clone().or_else(|| more.clone())));
                }
            }
            next.truncate(MOST);
            combinations = next;
        }
        let mut answer: Option<bool> = None;
        let depends = || Why::from("what a test says");
        for (words, why) in &combinations {
            let words: Vec<&str> = words.iter().map(String::as_str).collect();
            let yes = ask(&words).ok_or_else(depends)?;
            if answer.is_some_and(|before| before != yes) {
                return Err(why.clone().unwrap_or_else(depends));
            }
            answer = Some(yes);
        }
        answer.ok_or_else(depends)
    }

    /// `[[ … ]]`: what is joined by signs, from the left.
    pub(super) fn test(&mut self, words: &[Word], ground: &Ground) -> Status {
        let plain = |word: &Word| match word.parts.as_slice() {
            [Part::Plain(bytes, _, false)] => Some(String::from_utf8_lossy(bytes).into_owned()),
            _ => None,
        };
        let sign = |word: &Word| plain(word).filter(|s| s == "&&" || s == "||");
        for joined in ["||", "&&"] {
            let at = words
                .iter()
                .position(|w| sign(w).as_deref() == Some(joined));
            if let Some(at) = at {
                let left = self.test(&words[..at], ground);
                let right = self.test(&words[at + 1..], ground);
                let any = joined == "||";
                return match (left, right) {
                    (Ok(a), _) if a == any => Ok(any),
                    (_, Ok(b)) if b == any => Ok(any),
                    (Ok(_), Ok(_)) => Ok(!any),
                    (Err(why), _) | (_, Err(why)) => Err(why),
                };
            }
        }
        if words
            .iter()
            .any(|w| plain(w).is_some_and(|s| s == "(" || s == ")"))
        {
            return Err("a test in brackets".into());
        }
        if let Some((first, rest)) = words.split_first()
            && plain(first).as_deref() == Some("!")
        {
            return self.test(rest, ground).map(|yes| !yes);
        }
        if let [left, sign, right] = words {
            match plain(sign).as_deref() {
                Some("=" | "==" | "!=") => {
                    let wanted = plain(sign).as_deref() != Some("!=");
                    let pattern = self.pattern(right);
                    let left = self.expand(left, ground);
                    let Some(pattern) = &pattern else {
                        return Err("a pattern".into());
                    };
                    return Self::asked(&[left], &|w| Some(matches(pattern, w[0]) == wanted));
                }
                Some("=~") => return Err("a regular expression".into()),
                _ => {}
            }
        }
        self.asked_of_test(words, ground)
    }

    pub(super) fn asked_of_test(&mut self, words: &[Word], ground: &Ground) -> Status {
        if self.kin == Kin::Zsh
            && let [flag, name] = words
            && let [[(flag, None)], [(name, None)]] = [
                self.expand(flag, ground).as_slice(),
                self.expand(name, ground).as_slice(),
            ]
            && flag.bytes == b"-o"
        {
            return self.option(&name.lossy());
        }
        if let [flag, name] = words {
            let texts = self.texts(&[flag.clone(), name.clone()], ground);
            if let [[(flag, None)], [(name, None)]] = [texts[0].as_slice(), texts[1].as_slice()]
                && flag.bytes == b"-v"
            {
                let values = self.values(&name.lossy());
                let is_set = |v: &(Option<Text>, Option<Why>)| v.0.is_some();
                return match values.iter().find_map(|v| v.0.as_ref()?.unknown.clone()) {
                    Some(why) => Err(why),
                    None if values.iter().all(is_set) => Ok(true),
                    None if !values.iter().any(is_set) => Ok(false),
                    None => Err(format!("whether {} is set", name.lossy()).into()),
                };
            }
        }
        let texts = self.texts(words, ground);
        // Something that is put together of what is not known is not empty where the rest is not.
        if let [[(flag, None)], rest] = texts
            .iter()
            .map(Vec::as_slice)
            .collect::<Vec<_>>()
            .as_slice()
        {
            let sure = |said: &Said| match &said.0.unknown {
                Some(_) => None,
                None => Some(said.0.bytes.is_empty()),
            };
            let empty: Vec<Option<bool>> = rest.iter().map(sure).collect();
            let wants = match flag.bytes.as_slice() {
                b"-z" => Some(true),
                b"-n" => Some(false),
                _ => None,
            };
            // The prompt and the version are set to something before the file is read.
            let is_prompt = matches!(words.last(), Some(Word { parts, .. }) if matches!(parts.as_slice(), [Part::Variable(name, ..)] if matches!(self.called(name).as_str(), "PS1" | "PROMPT" | "BASH_VERSION" | "ZSH_VERSION")));
            if let Some(wants) = wants
                && is_prompt
                && empty.iter().all(Option::is_none)
            {
                return Ok(!wants);
            }
        }
        let access = self.access;
        Self::asked(&texts, &|operands| shell_test::test(operands, access))
    }
}
