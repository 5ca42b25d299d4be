//! Words: quotes, variables, what commands write, assignments.

use super::{Parsed, Parser, Part, Value, Word, is_end, is_name};

impl Parser<'_> {
    /// The name of an assignment that begins here, whether it adds, whether it is of one element, and how
    /// long it is with its sign.
    pub(super) fn assignment(&self) -> Option<(String, bool, bool, usize)> {
        let rest = self.rest();
        let part = |b: &u8| b.is_ascii_alphanumeric() || *b == b'_';
        let mut length = rest.iter().take_while(|b| part(b)).count();
        let name = rest.get(..length).filter(|n| is_name(n))?;
        let element = rest.get(length) == Some(&b'[');
        if element {
            length += memchr::memchr(b']', &rest[length..])? + 1;
        }
        let adds = rest.get(length) == Some(&b'+');
        length += usize::from(adds);
        (rest.get(length) == Some(&b'=')).then(|| {
            let name = String::from_utf8_lossy(name).into_owned();
            (name, adds, element, length + 1)
        })
    }

    pub(super) fn array(&mut self) -> Parsed<Value> {
        self.at += 1;
        let mut words = Vec::new();
        loop {
            self.between();
            match self.peek() {
                None => return self.fail(),
                Some(b')') => break,
                Some(_) => words.push(self.word()?),
            }
        }
        self.at += 1;
        Ok(Value::Many(words))
    }

    pub(super) fn word(&mut self) -> Parsed<Word> {
        self.deeper(|parser| {
            let start = parser.at;
            let mut parts = Vec::new();
            while let Some(b) = parser.peek() {
                match b {
                    b'<' | b'>'
                        if parser.at == start && parser.bytes.get(start + 1) == Some(&b'(') =>
                    {
                        parser.at += 1;
                        parser.output(start, &mut parts)?;
                        let span = start..parser.at;
                        parts = vec![Part::Other(span)];
                    }
                    b'=' if parser.zsh
                        && parser.at == start
                        && parser.rest().starts_with(b"=(") =>
                    {
                        parser.at += 1;
                        parser.output(start, &mut parts)?;
                        let span = start..parser.at;
                        parts = vec![Part::Other(span)];
                    }
                    b'(' if parser.zsh
                        && (parser.at > start || parser.brackets)
                        && !parser.rest().starts_with(b"()") =>
                    {
                        parser.bracket(&mut parts)?;
                    }
                    _ if is_end(b) => break,
                    b'\r' if parser.bytes.get(parser.at + 1) == Some(&b'\n') => break,
                    b'\'' => parser.single(&mut parts)?,
                    b'"' => parser.double(&mut parts)?,
                    b'$' if parser.rest().starts_with(b"$'") => parser.decoded(&mut parts)?,
                    b'$' if parser.rest().starts_with(b"$\"") => parser.at += 1,
                    b'$' => parser.dollar(&mut parts, false)?,
                    b'`' => parser.backtick(&mut parts)?,
                    b'\\' => {
                        if parser.rest().starts_with(b"\\\n") {
                            parser.at += 2;
                            continue;
                        }
                        parser.at += 1;
                        if parser.peek().is_some() {
                            parser.plain(&mut parts, true);
                        }
                    }
                    _ => parser.plain(&mut parts, false),
                }
            }
            if parser.at == start {
                return parser.fail();
            }
            let span = start..parser.at;
            Ok(Word { span, parts })
        })
    }

    /// Takes what stands in brackets within a word: what is said of the files that a pattern names, or a part of a
    /// pattern.
    fn bracket(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        let (start, mut open, mut plain) = (self.at, 0usize, true);
        while let Some(b) = self.peek() {
            self.at += 1;
            match b {
                b'(' => open += 1,
                b')' => open -= 1,
                b'\\' => {
                    self.at += 1;
                    plain = false;
                }
                b'\n' | b';' => break,
                b'$' | b'`' | b'\'' | b'"' => plain = false,
                _ => {}
            }
            if open == 0 {
                // A choice within a pattern is beyond this.
                let inner = &self.bytes[start + 1..self.at - 1];
                if plain && self.peek().is_none_or(is_end) && !inner.contains(&b'|') {
                    let end = self.at;
                    self.at = start;
                    while self.at < end {
                        self.plain(parts, false);
                    }
                } else {
                    parts.push(Part::Other(start..self.at));
                }
                return Ok(());
            }
        }
        self.fail()
    }

    /// The length of a subscript that follows a variable directly.
    fn subscript(&self) -> usize {
        if !self.zsh || self.peek() != Some(b'[') {
            return 0;
        }
        let mut open = 0usize;
        for (i, b) in self.rest().iter().enumerate() {
            match b {
                b'[' => open += 1,
                b']' => open -= 1,
                b'\n' => return 0,
                _ => {}
            }
            if open == 0 {
                return i + 1;
            }
        }
        0
    }

    /// Takes a byte as it is.
    pub(super) fn plain(&mut self, parts: &mut Vec<Part>, quoted: bool) {
        push(parts, self.bytes[self.at], self.at, quoted);
        self.at += 1;
    }

    pub(super) fn single(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        self.at += 1;
        empty(parts);
        loop {
            match self.peek() {
                None => return self.fail(),
                Some(b'\'') => break,
                Some(_) => self.plain(parts, true),
            }
        }
        self.at += 1;
        Ok(())
    }

    pub(super) fn double(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        self.at += 1;
        empty(parts);
        loop {
            match self.rest() {
                [] => return self.fail(),
                [b'"', ..] => break,
                [b'\\', b'\n', ..] => self.at += 2,
                [b'\\', b'$' | b'`' | b'"' | b'\\', ..] => {
                    self.at += 1;
                    self.plain(parts, true);
                }
                [b'$', ..] => self.dollar(parts, true)?,
                [b'`', ..] => self.backtick(parts)?,
                _ => self.plain(parts, true),
            }
        }
        self.at += 1;
        Ok(())
    }

    /// `$'…'`: escapes of C; each byte they stand for is written where the escape begins.
    pub(super) fn decoded(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        self.at += 2;
        empty(parts);
        loop {
            let start = self.at;
            match self.rest() {
                [] => return self.fail(),
                [b'\'', ..] => break,
                [b'\\', sign, ..] => {
                    let sign = *sign;
                    self.at += 2;
                    let simple = match sign {
                        b'e' | b'E' => Some(0x1b),
                        b'n' => Some(b'\n'),
                        b't' => Some(b'\t'),
                        b'r' => Some(b'\r'),
                        b'a' => Some(7),
                        b'b' => Some(8),
                        b'f' => Some(12),
                        b'v' => Some(11),
                        b'\\' | b'\'' | b'"' | b'?' => Some(sign),
                        _ => None,
                    };
                    if let Some(byte) = simple {
                        push(parts, byte, start, true);
                        continue;
                    }
                    let (radix, most) = match sign {
                        b'x' => (16, 2),
                        b'u' => (16, 4),
                        b'U' => (16, 8),
                        b'0'..=b'7' => {
                            self.at -= 1;
                            (8, 3)
                        }
                        _ => {
                            push(parts, b'\\', start, true);
                            push(parts, sign, start + 1, true);
                            continue;
                        }
                    };
                    let is_digit = |b: &&u8| char::from(**b).is_digit(radix);
                    let digits = self.rest().iter().take(most).take_while(is_digit).count();
                    let text = String::from_utf8_lossy(&self.rest()[..digits]).into_owned();
                    self.at += digits;
                    let value = u32::from_str_radix(&text, radix).unwrap_or(0);
                    if matches!(sign, b'u' | b'U') {
                        let c = char::from_u32(value).unwrap_or('\u{fffd}');
                        for byte in c.encode_utf8(&mut [0; 4]).bytes() {
                            push(parts, byte, start, true);
                        }
                    } else {
                        push(parts, value as u8, start, true);
                    }
                }
                _ => self.plain(parts, true),
            }
        }
        self.at += 1;
        Ok(())
    }

    pub(super) fn dollar(&mut self, parts: &mut Vec<Part>, quoted: bool) -> Parsed<()> {
        let start = self.at;
        match self.rest() {
            [b'$', b'(', b'(', ..] => {
                self.at += 1;
                self.arithmetic()?;
                parts.push(Part::Other(start..self.at));
            }
            [b'$', b'(', ..] => {
                self.at += 1;
                self.output(start, parts)?;
            }
            [b'$', b'{', ..] => {
                self.at += 2;
                let asks = self.zsh && self.peek() == Some(b'+');
                let length = usize::from(asks)
                    + self.rest()[usize::from(asks)..]
                        .iter()
                        .take_while(|b| b.is_ascii_alphanumeric() || **b == b'_')
                        .count();
                let name = &self.rest()[..length];
                let name = String::from_utf8_lossy(name).into_owned();
                self.at += length;
                let operation = self.at;
                self.braces()?;
                let operation =
                    String::from_utf8_lossy(&self.bytes[operation..self.at - 1]).into_owned();
                parts.push(match name.is_empty() {
                    true => Part::Other(start..self.at),
                    false => Part::Variable(name, operation, start..self.at, quoted),
                });
            }
            [b'$', next, ..] if next.is_ascii_alphabetic() || *next == b'_' => {
                self.at += 1;
                let length = self
                    .rest()
                    .iter()
                    .take_while(|b| b.is_ascii_alphanumeric() || **b == b'_')
                    .count();
                let name = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
                self.at += length;
                let length = self.subscript();
                let subscript = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
                self.at += length;
                parts.push(Part::Variable(name, subscript, start..self.at, quoted));
            }
            [b'$', b'+', next, ..] if self.zsh && (next.is_ascii_alphabetic() || *next == b'_') => {
                self.at += 2;
                let is_part = |b: &&u8| b.is_ascii_alphanumeric() || **b == b'_';
                let length = self.rest().iter().take_while(is_part).count();
                let name = format!("+{}", String::from_utf8_lossy(&self.rest()[..length]));
                self.at += length;
                let length = self.subscript();
                let subscript = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
                self.at += length;
                parts.push(Part::Variable(name, subscript, start..self.at, quoted));
            }
            [b'$', next, ..] if next.is_ascii_digit() || b"@*#?-$!".contains(next) => {
                let name = String::from(char::from(*next));
                self.at += 2;
                parts.push(Part::Variable(name, String::new(), start..self.at, quoted));
            }
            _ => self.plain(parts, quoted),
        }
        Ok(())
    }

    /// Passes the rest of `${…}`.
    pub(super) fn braces(&mut self) -> Parsed<()> {
        let mut open = 1usize;
        let mut quote = None;
        while let Some(b) = self.peek() {
            self.at += 1;
            match (quote, b) {
                (None | Some(b'"'), b'\\') => self.at += 1,
                (None, b'{') => open += 1,
                (None, b'}') => {
                    open -= 1;
                    if open == 0 {
                        return Ok(());
                    }
                }
                (None, b'\'' | b'"') => quote = Some(b),
                (Some(q), b) if q == b => quote = None,
                _ => {}
            }
        }
        self.fail()
    }

    /// `(…)`, the output of which stands there.
    pub(super) fn output(&mut self, start: usize, parts: &mut Vec<Part>) -> Parsed<()> {
        self.at += 1;
        let nodes = self.list(&[])?;
        if self.peek() != Some(b')') {
            return self.fail();
        }
        self.at += 1;
        parts.push(Part::Output(nodes, start..self.at));
        Ok(())
    }

    pub(super) fn backtick(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        let start = self.at;
        self.at += 1;
        while let Some(b) = self.peek() {
            self.at += 1;
            match b {
                b'\\' => self.at += 1,
                b'`' => {
                    parts.push(Part::Other(start..self.at));
                    return Ok(());
                }
                _ => {}
            }
        }
        self.fail()
    }
}

/// Adds a byte to a word.
fn push(parts: &mut Vec<Part>, byte: u8, at: usize, quoted: bool) {
    if let Some(Part::Plain(bytes, map, same)) = parts.last_mut()
        && *same == quoted
    {
        bytes.push(byte);
        map.push(at);
        return;
    }
    parts.push(Part::Plain(vec![byte], vec![at], quoted));
}

/// Quotes make a word even where nothing is in them.
fn empty(parts: &mut Vec<Part>) {
    if !matches!(parts.last(), Some(Part::Plain(_, _, true))) {
        parts.push(Part::Plain(Vec::new(), Vec::new(), true));
    }
}
