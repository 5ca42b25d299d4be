//! Characters written as escapes.

/// How a character is written as an escape.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Escape {
    /// `\u` and four hexadecimal digits.
    Short,
    /// `\U` and up to eight hexadecimal digits.
    Long,
    /// `\u{…}`.
    Braced,
    /// Two `\u` with a surrogate pair.
    Pair,
    /// Its UTF-8 bytes, each as `\xHH`.
    Hex,
    /// Its UTF-8 bytes, each as three octal digits.
    Octal,
    /// Its UTF-8 bytes, each as three decimal digits.
    Decimal,
}

impl Escape {
    /// A character written this way; as a longer form where this one is too short for it.
    #[must_use]
    pub fn write(self, c: char) -> String {
        let code = c as u32;
        let mut buffer = [0; 4];
        let bytes = c.encode_utf8(&mut buffer).as_bytes();
        let all = |write: fn(&u8) -> String| bytes.iter().map(write).collect();
        match self {
            Self::Short if code <= 0xffff => format!("\\u{code:04x}"),
            Self::Short | Self::Long => format!("\\U{code:08x}"),
            Self::Braced => format!("\\u{{{code:x}}}"),
            Self::Pair => {
                let mut units = [0; 2];
                let units = c.encode_utf16(&mut units).iter();
                units.map(|u| format!("\\u{u:04x}")).collect()
            }
            Self::Hex => all(|b| format!("\\x{b:02x}")),
            Self::Octal => all(|b| format!("\\{b:03o}")),
            Self::Decimal => all(|b| format!("\\{b:03}")),
        }
    }
}
