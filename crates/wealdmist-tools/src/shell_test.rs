//! Conditions that a shell would be asked for, where they can be told without one: files that are
//! there, programs, comparisons of known texts.

use std::sync::Arc;

use crate::access::{Access, Loaded, Variable};

/// Whether a command would succeed.
///
/// # Errors
/// What it depends on, where that cannot be told.
pub fn holds(
    command: &str,
    access: &dyn Access,
    variables: &dyn Fn(&str) -> Variable,
) -> Result<bool, Arc<str>> {
    let depends = || Arc::from(format!("what the command `{}` answers", command.trim()));
    let tokens = tokens(command, access, variables).ok_or_else(depends)?;
    // Left to right; both signs bind alike.
    let mut result = None;
    let mut sign = "";
    for part in split(&tokens) {
        match part {
            Part::Sign(next) => sign = next,
            Part::Command(words) => {
                let skipped = matches!((sign, result), ("&&", Some(false)) | ("||", Some(true)));
                if !skipped {
                    result = Some(single(words, access).ok_or_else(depends)?);
                }
            }
        }
    }
    result.ok_or_else(depends)
}

enum Part<'a> {
    Sign(&'static str),
    Command(&'a [String]),
}

/// The commands and the signs between them.
fn split(tokens: &[String]) -> Vec<Part<'_>> {
    let mut out = Vec::new();
    let mut start = 0;
    for (at, token) in tokens.iter().enumerate() {
        let sign = match token.as_str() {
            "\0&&" => "&&",
            "\0||" => "||",
            "\0;" => ";",
            _ => continue,
        };
        if start < at {
            out.push(Part::Command(&tokens[start..at]));
        }
        out.push(Part::Sign(sign));
        start = at + 1;
    }
    if start < tokens.len() {
        out.push(Part::Command(&tokens[start..]));
    }
    out
}

/// The words of a command with variables put in; signs have a zero byte before them. `None` for what is
/// beyond this.
fn tokens(
    command: &str,
    access: &dyn Access,
    variables: &dyn Fn(&str) -> Variable,
) -> Option<Vec<String>> {
    let mut out = Vec::new();
    let mut word: Option<String> = None;
    let mut signs = command.chars().peekable();
    while let Some(sign) = signs.next() {
        match sign {
            ' ' | '\t' | '\n' => out.extend(word.take()),
            '\'' => {
                let word = word.get_or_insert_default();
                loop {
                    match signs.next()? {
                        '\'' => break,
                        inner => word.push(inner),
                    }
                }
            }
            '"' => {
                word.get_or_insert_default();
                loop {
                    match signs.next()? {
                        '"' => break,
                        '$' => {
                            let value = variable(&mut signs, variables)?;
                            word.get_or_insert_default().push_str(&value);
                        }
                        '`' => return None,
                        '\\' => word.get_or_insert_default().push(signs.next()?),
                        inner => word.get_or_insert_default().push(inner),
                    }
                }
            }
            // An unquoted value would be split into words.
            '$' => {
                let value = variable(&mut signs, variables)?;
                if value.contains([' ', '\t', '\n', '*', '?', '[']) {
                    return None;
                }
                if !value.is_empty() {
                    word.get_or_insert_default().push_str(&value);
                }
            }
            '~' if word.is_none() && matches!(signs.peek(), Some('/') | None) => {
                word = Some(access.home().display().to_string());
            }
            '\\' => word.get_or_insert_default().push(signs.next()?),
            ';' => {
                out.extend(word.take());
                out.push("\0;".to_owned());
            }
            '&' | '|' => {
                out.extend(word.take());
                if signs.next()? != sign {
                    return None;
                }
                out.push(format!("\0{sign}{sign}"));
            }
            '>' => {
                // Only what is thrown away.
                let whole: String = signs
                    .clone()
                    .take_while(|c| !matches!(c, ';' | '|'))
                    .collect();
                let target = whole.trim_start_matches('&').trim_start();
                let thrown = ["/dev/null 2>&1", "/dev/null", "1"]
                    .iter()
                    .find(|t| target.starts_with(**t))?;
                let passed = whole.len() - target.len() + thrown.len();
                signs.nth(passed.checked_sub(1)?);
                if word
                    .as_deref()
                    .is_some_and(|w| w == "1" || w == "2" || w == "&")
                {
                    word = None;
                }
            }
            '`' | '(' | ')' | '<' | '{' | '}' | '#' | '*' | '?' => return None,
            other => word.get_or_insert_default().push(other),
        }
    }
    out.extend(word);
    Some(out)
}

fn variable(
    signs: &mut std::iter::Peekable<std::str::Chars<'_>>,
    variables: &dyn Fn(&str) -> Variable,
) -> Option<String> {
    let braced = signs.next_if_eq(&'{').is_some();
    let mut name = String::new();
    while let Some(c) = signs.next_if(|c| c.is_ascii_alphanumeric() || *c == '_') {
        name.push(c);
    }
    if name.is_empty() || (braced && signs.next()? != '}') {
        return None;
    }
    match variables(&name) {
        Variable::Set(value) => Some(value),
        Variable::Unset => Some(String::new()),
        Variable::Unknown => None,
    }
}

/// Whether a single command succeeds.
fn single(words: &[String], access: &dyn Access) -> Option<bool> {
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    match words.as_slice() {
        ["!", rest @ ..] => {
            let rest: Vec<String> = rest.iter().map(|w| (*w).to_owned()).collect();
            single(&rest, access).map(|yes| !yes)
        }
        ["true" | ":"] => Some(true),
        ["false"] => Some(false),
        ["test", rest @ ..] => test(rest, access),
        ["[", rest @ .., "]"] | ["[[", rest @ .., "]]"] => test(rest, access),
        ["command", "-v", program] | ["which" | "type" | "hash", program] => {
            let plain = !program.contains('/');
            plain.then(|| access.has_program(program))
        }
        _ => None,
    }
}

/// What `test` says of its operands.
pub fn test(operands: &[&str], access: &dyn Access) -> Option<bool> {
    let number = |text: &str| text.trim().parse::<i64>().ok();
    match operands {
        [] => Some(false),
        ["!", rest @ ..] => test(rest, access).map(|yes| !yes),
        [one] => Some(!one.is_empty()),
        ["-n", text] => Some(!text.is_empty()),
        ["-z", text] => Some(text.is_empty()),
        ["-f" | "-r" | "-s", path] => {
            let path = access.expand(path, access.home());
            match access.read(&path) {
                Loaded::File { bytes, .. } => Some(operands[0] != "-s" || !bytes.is_empty()),
                Loaded::Missing => Some(false),
                Loaded::Problem { .. } => None,
            }
        }
        ["-e" | "-d", path] => {
            let path = access.expand(path, access.home());
            match (access.read(&path), operands[0]) {
                (Loaded::Missing, _) => Some(false),
                (Loaded::File { .. }, flag) => Some(flag == "-e"),
                // What is there and is no file.
                (Loaded::Problem { .. }, _) => Some(true),
            }
        }
        ["-x", path] => {
            let name = path.rsplit('/').next().unwrap_or_default();
            let there = access.read(&access.expand(path, access.home())) != Loaded::Missing;
            match (there, access.has_program(name)) {
                (false, _) => Some(false),
                (true, true) => Some(true),
                (true, false) => None,
            }
        }
        // There is a person at a terminal.
        ["-t", _] => Some(true),
        [left, "-a", right @ ..] if !right.is_empty() => {
            Some(test(&[left], access)? && test(right, access)?)
        }
        [a, "=" | "==", b] => Some(a == b),
        [a, "!=", b] => Some(a != b),
        [a, "-eq", b] => Some(number(a)? == number(b)?),
        [a, "-ne", b] => Some(number(a)? != number(b)?),
        [a, "-lt", b] => Some(number(a)? < number(b)?),
        [a, "-le", b] => Some(number(a)? <= number(b)?),
        [a, "-gt", b] => Some(number(a)? > number(b)?),
        [a, "-ge", b] => Some(number(a)? >= number(b)?),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;

    #[test]
    fn what_can_be_told_without_a_shell_is_told() {
        let mut access = MemoryAccess::with(&[(".mist", "x"), ("empty", "")]);
        access.vars.insert("SIDE".into(), "dark".into());
        access.programs.push("fish".into());
        let told = |command: &str| holds(command, &access, &|name| access.variable(name)).ok();
        for (command, expected) in [
            ("true", Some(true)),
            ("! false && true", Some(true)),
            ("false || [ -f ~/.mist ]", Some(true)),
            ("test -s $HOME/empty", Some(false)),
            ("[ \"$SIDE\" = dark ]", Some(true)),
            ("[ \"$SIDE\" != 'dark' ]; false", Some(false)),
            ("test -n \"$NOSUCH\"", Some(false)),
            ("[ 3 -ge 2 ]", Some(true)),
            ("command -v fish >/dev/null 2>&1", Some(true)),
            ("which nosuch > /dev/null", Some(false)),
            ("uname | grep -q Linux", None),
            ("[ \"$(uname)\" = Linux ]", None),
            ("ping -c1 somewhere", None),
            ("", None),
        ] {
            assert_eq!(told(command), expected, "{command}");
        }
    }
}
