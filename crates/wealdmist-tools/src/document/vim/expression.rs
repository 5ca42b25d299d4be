//! Expressions of the editor's own command language.

use super::{DEEP, Line};

/// An expression.
#[derive(Debug, Clone, PartialEq)]
pub enum Expression {
    /// A number.
    Number(f64),
    /// A string: its bytes, and for each of them its place in the source.
    Text(Vec<u8>, Vec<usize>),
    /// A variable with its scope.
    Name(String),
    /// `&option`
    Option(String),
    /// `$NAME`
    Environment(String),
    /// `[…]`
    List(Vec<Expression>),
    /// `{…}`
    Dictionary(Vec<(Expression, Expression)>),
    /// `a[b]`
    Index(Box<Expression>, Box<Expression>),
    /// `a.b`: a field, or two texts joined.
    Dot(Box<Expression>, String),
    /// A call.
    Call(Box<Expression>, Vec<Expression>),
    /// `a->f()`
    Method(Box<Expression>, String, Vec<Expression>),
    /// Two operands and what stands between them.
    Binary(Box<Expression>, String, Box<Expression>),
    /// `!a`
    Not(Box<Expression>),
    /// `-a`
    Minus(Box<Expression>),
    /// `a ? b : c`
    Choice(Box<Expression>, Box<Expression>, Box<Expression>),
    /// What is not understood.
    Other,
}

struct Parser<'a> {
    line: &'a Line,
    at: usize,
    deep: usize,
}

/// The expressions that a text begins with, one behind another.
#[must_use]
pub fn expressions(line: &Line) -> Vec<Expression> {
    let mut parser = Parser {
        line,
        at: 0,
        deep: 0,
    };
    let mut out = Vec::new();
    parser.blanks();
    while parser.at < line.bytes.len() {
        let before = parser.at;
        match parser.choice() {
            Some(expression) if parser.at > before => out.push(expression),
            _ => {
                out.push(Expression::Other);
                break;
            }
        }
        parser.blanks();
    }
    out
}

/// The one expression of a text.
#[must_use]
pub fn expression(line: &Line) -> Expression {
    let mut all = expressions(line);
    match all.len() {
        1 => all.remove(0),
        _ => Expression::Other,
    }
}

impl Parser<'_> {
    fn rest(&self) -> &[u8] {
        &self.line.bytes[self.at.min(self.line.bytes.len())..]
    }

    fn blanks(&mut self) {
        self.at += self
            .rest()
            .iter()
            .take_while(|b| b.is_ascii_whitespace())
            .count();
    }

    fn take(&mut self, sign: &str) -> bool {
        let there = self.rest().starts_with(sign.as_bytes());
        if there {
            self.at += sign.len();
        }
        there
    }

    fn choice(&mut self) -> Option<Expression> {
        self.deep += 1;
        if self.deep > DEEP {
            return None;
        }
        let first = self.binary(0)?;
        self.blanks();
        let out = if self.rest().starts_with(b"?") && !self.rest().starts_with(b"??") {
            self.at += 1;
            let yes = self.choice()?;
            self.blanks();
            if !self.take(":") {
                return None;
            }
            let no = self.choice()?;
            Expression::Choice(Box::new(first), Box::new(yes), Box::new(no))
        } else {
            first
        };
        self.deep -= 1;
        Some(out)
    }

    /// The sign of a level that stands here.
    fn sign(&self, level: usize) -> Option<String> {
        let signs: &[&str] = match level {
            0 => &["||"],
            1 => &["&&"],
            2 => &[
                "==#", "==?", "==", "!=#", "!=?", "!=", ">=#", ">=?", ">=", "<=#", "<=?", "<=",
                "=~#", "=~?", "=~", "!~#", "!~?", "!~", ">#", ">?", ">", "<#", "<?", "<", "isnot#",
                "isnot", "is#", "is",
            ],
            3 => &["..", "+", "-", "."],
            _ => &["*", "/", "%"],
        };
        let rest = self.rest();
        let fits = |sign: &&&str| {
            let word = sign.starts_with('i');
            let behind = rest.get(sign.len());
            rest.starts_with(sign.as_bytes())
                && !(word && behind.is_some_and(|b| b.is_ascii_alphanumeric() || *b == b'_'))
        };
        signs.iter().find(fits).map(|s| (*s).to_owned())
    }

    fn binary(&mut self, level: usize) -> Option<Expression> {
        if level > 4 {
            return self.unary();
        }
        let mut left = self.binary(level + 1)?;
        loop {
            self.blanks();
            let Some(sign) = self.sign(level) else {
                return Some(left);
            };
            self.at += sign.len();
            let right = self.binary(level + 1)?;
            left = Expression::Binary(Box::new(left), sign, Box::new(right));
        }
    }

    fn unary(&mut self) -> Option<Expression> {
        self.blanks();
        match self.rest().first()? {
            sign @ (b'!' | b'-') => {
                let not = *sign == b'!';
                self.at += 1;
                self.deep += 1;
                let inner = Box::new((self.deep <= DEEP).then(|| self.unary())??);
                self.deep -= 1;
                Some(match not {
                    true => Expression::Not(inner),
                    false => Expression::Minus(inner),
                })
            }
            b'+' => {
                self.at += 1;
                self.unary()
            }
            _ => self.suffixed(),
        }
    }

    fn suffixed(&mut self) -> Option<Expression> {
        let mut out = self.operand()?;
        loop {
            let rest = self.rest();
            match rest {
                [b'[', ..] => {
                    self.at += 1;
                    self.blanks();
                    let index = self.choice()?;
                    self.blanks();
                    if self.take("]") {
                        out = Expression::Index(Box::new(out), Box::new(index));
                    } else {
                        // A part of a text or list.
                        let close = self.rest().iter().position(|b| *b == b']')?;
                        self.at += close + 1;
                        out = Expression::Other;
                    }
                }
                [b'(', ..] => {
                    self.at += 1;
                    let all = self.list(")")?;
                    out = Expression::Call(Box::new(out), all);
                }
                [b'-', b'>', ..] => {
                    self.at += 2;
                    let name = self.name();
                    if !self.take("(") {
                        return None;
                    }
                    let all = self.list(")")?;
                    out = Expression::Method(Box::new(out), name, all);
                }
                [b'.', b, ..]
                    if (b.is_ascii_alphabetic() || *b == b'_')
                        && matches!(
                            out,
                            Expression::Name(_)
                                | Expression::Dot(..)
                                | Expression::Index(..)
                                | Expression::Call(..)
                        ) =>
                {
                    // A name with a scope behind a dot is joined.
                    let scoped = rest.get(2) == Some(&b':');
                    if scoped {
                        return Some(out);
                    }
                    self.at += 1;
                    let name = self.name();
                    out = Expression::Dot(Box::new(out), name);
                }
                _ => return Some(out),
            }
        }
    }

    fn name(&mut self) -> String {
        let length = self
            .rest()
            .iter()
            .take_while(|b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'#'))
            .count();
        let name = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
        self.at += length;
        name
    }

    /// What is listed up to a closing sign.
    fn list(&mut self, close: &str) -> Option<Vec<Expression>> {
        let mut out = Vec::new();
        loop {
            self.blanks();
            if self.take(close) {
                return Some(out);
            }
            out.push(self.choice()?);
            self.blanks();
            let more = self.take(",");
            if !more {
                self.blanks();
                return self.take(close).then_some(out);
            }
        }
    }

    fn operand(&mut self) -> Option<Expression> {
        self.blanks();
        let start = self.at;
        match *self.rest().first()? {
            b'(' => {
                self.at += 1;
                let inner = self.choice()?;
                self.blanks();
                self.take(")").then_some(inner)
            }
            b'[' => {
                self.at += 1;
                Some(Expression::List(self.list("]")?))
            }
            b'{' => self.dictionary(false),
            b'#' if self.rest().starts_with(b"#{") => {
                self.at += 1;
                self.dictionary(true)
            }
            b'\'' => {
                let (mut bytes, mut map) = (Vec::new(), Vec::new());
                self.at += 1;
                loop {
                    match self.rest() {
                        [b'\'', b'\'', ..] => {
                            bytes.push(b'\'');
                            map.push(self.line.map[self.at]);
                            self.at += 2;
                        }
                        [b'\'', ..] => {
                            self.at += 1;
                            return Some(Expression::Text(bytes, map));
                        }
                        [byte, ..] => {
                            bytes.push(*byte);
                            map.push(self.line.map[self.at]);
                            self.at += 1;
                        }
                        [] => return None,
                    }
                }
            }
            b'"' => self.string(),
            b'&' => {
                self.at += 1;
                if self.rest().get(1) == Some(&b':') {
                    self.at += 2;
                }
                Some(Expression::Option(self.name()))
            }
            b'$' => {
                self.at += 1;
                Some(Expression::Environment(self.name()))
            }
            b if b.is_ascii_digit() => {
                let hex = self.rest().starts_with(b"0x") || self.rest().starts_with(b"0X");
                if hex {
                    self.at += 2;
                }
                let fits = |b: &&u8| match hex {
                    true => b.is_ascii_hexdigit(),
                    false => b.is_ascii_digit(),
                };
                let mut length = self.rest().iter().take_while(fits).count();
                let is_float = !hex
                    && self.rest().get(length) == Some(&b'.')
                    && self.rest().get(length + 1).is_some_and(u8::is_ascii_digit);
                if is_float {
                    length += 1;
                    length += self.rest()[length..].iter().take_while(fits).count();
                }
                let text = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
                self.at += length;
                let number = match hex {
                    true => u64::from_str_radix(&text, 16).ok()? as f64,
                    false => text.parse().ok()?,
                };
                Some(Expression::Number(number))
            }
            b if b.is_ascii_alphabetic() || b == b'_' || b == b'<' => {
                if b == b'<' {
                    // `<SID>name`
                    let close = self.rest().iter().position(|b| *b == b'>')?;
                    self.at += close + 1;
                    let name = self.name();
                    return Some(Expression::Name(format!("s:{name}")));
                }
                let scoped = self.rest().get(1) == Some(&b':')
                    && b"gslbwtav".contains(&b)
                    && self.rest().get(2).is_none_or(|b| !b.is_ascii_whitespace());
                if scoped {
                    self.at += 2;
                }
                let mut name =
                    String::from_utf8_lossy(&self.line.bytes[start..self.at]).into_owned();
                name.push_str(&self.name());
                Some(Expression::Name(name))
            }
            _ => None,
        }
    }

    fn dictionary(&mut self, literal: bool) -> Option<Expression> {
        self.at += 1;
        let mut out = Vec::new();
        loop {
            self.blanks();
            if self.take("}") {
                return Some(Expression::Dictionary(out));
            }
            let key = match literal {
                true => {
                    let length = self
                        .rest()
                        .iter()
                        .take_while(|b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'-'))
                        .count();
                    let bytes = self.rest()[..length].to_vec();
                    let map = self.line.map[self.at..self.at + length].to_vec();
                    self.at += length;
                    Expression::Text(bytes, map)
                }
                false => self.choice()?,
            };
            self.blanks();
            if !self.take(":") {
                // A function: what it does is not looked at.
                let close = self.rest().iter().rposition(|b| *b == b'}')?;
                self.at += close + 1;
                return Some(Expression::Other);
            }
            let value = self.choice()?;
            out.push((key, value));
            self.blanks();
            if !self.take(",") {
                self.blanks();
                return self.take("}").then_some(Expression::Dictionary(out));
            }
        }
    }

    fn string(&mut self) -> Option<Expression> {
        let (mut bytes, mut map) = (Vec::new(), Vec::new());
        self.at += 1;
        loop {
            let from = *self.line.map.get(self.at)?;
            let rest = self.rest();
            let (one, length): (Vec<u8>, usize) = match rest {
                [b'"', ..] => {
                    self.at += 1;
                    return Some(Expression::Text(bytes, map));
                }
                [b'\\', b'u' | b'U' | b'x', digits @ ..]
                    if digits.first().is_some_and(u8::is_ascii_hexdigit) =>
                {
                    let most = match rest[1] {
                        b'x' => 2,
                        b'u' => 4,
                        _ => 8,
                    };
                    let n = digits
                        .iter()
                        .take(most)
                        .take_while(|b| b.is_ascii_hexdigit())
                        .count();
                    let text = std::str::from_utf8(&digits[..n]).ok()?;
                    let sign = char::from_u32(u32::from_str_radix(text, 16).ok()?)?;
                    (sign.to_string().into_bytes(), n + 2)
                }
                [b'\\', byte, ..] => {
                    let byte = match byte {
                        b'n' => b'\n',
                        b't' => b'\t',
                        b'r' => b'\r',
                        b'e' => 0x1b,
                        b'b' => 8,
                        b'f' => 12,
                        other => *other,
                    };
                    (vec![byte], 2)
                }
                [byte, ..] => (vec![*byte], 1),
                [] => return None,
            };
            map.extend(std::iter::repeat_n(from, one.len()));
            bytes.extend(one);
            self.at += length;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn line(text: &str) -> Line {
        Line {
            bytes: text.as_bytes().to_vec().into(),
            map: (0..text.len()).collect(),
        }
    }

    #[test]
    fn expressions_have_their_precedence() {
        let of = |text: &str| expression(&line(text));
        assert!(matches!(
            of("&background ==# 'dark' ? 'a' : \"b\""),
            Expression::Choice(..)
        ));
        assert!(
            matches!(of("has('x') && !exists('g:y') || $Z =~ 'w'"), Expression::Binary(_, s, _) if s == "||")
        );
        assert!(matches!(of("s:p.ground"), Expression::Dot(_, name) if name == "ground"));
        assert!(matches!(
            of("get(g:, 'mood', 'calm')"),
            Expression::Call(..)
        ));
        assert!(matches!(of("'hi X guifg=' . s:c"), Expression::Binary(_, s, _) if s == "."));
        assert!(
            matches!(of("{'a': '#010203', 'b': [1, 2]}"), Expression::Dictionary(d) if d.len() == 2)
        );
        assert_eq!(expressions(&line("'hi' g:a 'x'")).len(), 3);
        assert_eq!(of("{ -> 1 }"), Expression::Other);
    }
}
