//! Lua files: the calls and assignments in them, with the places of their strings.
//!
//! Parsing is the business of `full_moon`; nothing is run.

use std::ops::Range;

use full_moon::ast::{
    Assignment, Call, Expression, Field, FunctionArgs, FunctionCall, Index, Prefix, Suffix, Var,
};
use full_moon::tokenizer::{TokenReference, TokenType};
use full_moon::visitors::Visitor;
use wealdmist_core::guard::{guarded, guarded_deep};

use super::lua_words;
use crate::limits;

/// A value in the source.
#[derive(Debug, Clone, PartialEq)]
pub enum Value {
    /// A string: what stands between its quotes, as written.
    Text {
        /// The characters between the quotes, escapes not decoded.
        raw: String,
        /// Where they stand.
        span: Range<usize>,
    },
    /// A table's fields with names.
    Table(Vec<(String, Value)>),
    /// Anything else, as written.
    Other {
        /// The source text.
        text: String,
        /// Where it stands.
        span: Range<usize>,
    },
}

/// One thing a file does.
#[derive(Debug, Clone, PartialEq)]
pub enum Event {
    /// A call: the function's name with dots, and its arguments.
    Call {
        /// Such as `vim.api.nvim_set_hl`.
        name: String,
        /// The arguments.
        arguments: Vec<Value>,
        /// Where the call begins.
        at: usize,
    },
    /// An assignment to a name with dots.
    Assign {
        /// Such as `vim.o.guifont`.
        name: String,
        /// The value.
        value: Value,
        /// Where the name begins.
        at: usize,
    },
}

impl Event {
    /// Where it begins.
    #[must_use]
    pub const fn at(&self) -> usize {
        match self {
            Self::Call { at, .. } | Self::Assign { at, .. } => *at,
        }
    }
}

/// A file that is not Lua.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct Problem {
    /// Where.
    pub at: usize,
    /// What.
    pub message: String,
}

/// The calls and assignments of a file, in the order they stand.
///
/// # Errors
/// When the file is not UTF-8 or not Lua.
pub fn events(bytes: &[u8]) -> Result<Vec<Event>, Problem> {
    if bytes.len() > limits::LUA {
        let message = format!("the file has {} KiB, too much to parse", bytes.len() >> 10);
        return Err(Problem { at: 0, message });
    }
    let text = std::str::from_utf8(bytes).map_err(|e| Problem {
        at: e.valid_up_to(),
        message: "the file is not UTF-8".into(),
    })?;
    let deepest = lua_words::nesting(bytes).map_err(|(at, why)| Problem {
        at,
        message: why.to_owned(),
    })?;
    // Hand-written files do not nest so deep that they need a stack of their own.
    let parse = match deepest {
        0..=20 => guarded(|| parsed(text)),
        _ => guarded_deep(|| parsed(text)),
    };
    parse.unwrap_or_else(|failed| {
        // The place is not told: most often it is a character that Lua does not have.
        let odd = lua_words::words(bytes).find(|w| {
            matches!(
                w.kind,
                lua_words::Kind::Sign(b'`' | b'$' | b'!' | b'?' | b'@' | b'\\')
            )
        });
        Err(Problem {
            at: odd.map_or(0, |w| w.span.start),
            message: format!("the file is not Lua: {failed}"),
        })
    })
}

fn parsed(text: &str) -> Result<Vec<Event>, Problem> {
    let ast = full_moon::parse(text).map_err(|errors| {
        let first = errors.first();
        let at = first.map_or(0, |e| e.range().0.bytes());
        let message = first.map_or_else(|| "not Lua".to_owned(), ToString::to_string);
        Problem {
            at,
            message: format!("the file is not Lua: {message}"),
        }
    })?;
    let mut collector = Collector { events: Vec::new() };
    collector.visit_ast(&ast);
    collector.events.sort_by_key(Event::at);
    Ok(collector.events)
}

struct Collector {
    events: Vec<Event>,
}

impl Visitor for Collector {
    fn visit_function_call(&mut self, call: &FunctionCall) {
        let Prefix::Name(first) = call.prefix() else {
            return;
        };
        let at = first.token().start_position().bytes();
        let mut name = first.token().to_string();
        for suffix in call.suffixes() {
            match suffix {
                Suffix::Index(Index::Dot { name: part, .. }) => {
                    name.push('.');
                    name.push_str(&part.token().to_string());
                }
                Suffix::Call(Call::AnonymousCall(arguments)) => {
                    let arguments = arguments_of(arguments);
                    self.events.push(Event::Call {
                        name,
                        arguments,
                        at,
                    });
                    return;
                }
                _ => return,
            }
        }
    }

    fn visit_assignment(&mut self, assignment: &Assignment) {
        for (variable, value) in assignment.variables().iter().zip(assignment.expressions()) {
            if let Some((name, at)) = name_of(variable) {
                self.events.push(Event::Assign {
                    name,
                    value: value_of(value),
                    at,
                });
            }
        }
    }
}

fn name_of(variable: &Var) -> Option<(String, usize)> {
    match variable {
        Var::Name(token) => Some((
            token.token().to_string(),
            token.token().start_position().bytes(),
        )),
        Var::Expression(expression) => {
            let Prefix::Name(first) = expression.prefix() else {
                return None;
            };
            let mut name = first.token().to_string();
            for suffix in expression.suffixes() {
                let Suffix::Index(Index::Dot { name: part, .. }) = suffix else {
                    return None;
                };
                name.push('.');
                name.push_str(&part.token().to_string());
            }
            Some((name, first.token().start_position().bytes()))
        }
        _ => None,
    }
}

fn arguments_of(arguments: &FunctionArgs) -> Vec<Value> {
    match arguments {
        FunctionArgs::Parentheses { arguments, .. } => arguments.iter().map(value_of).collect(),
        FunctionArgs::String(token) => vec![text_of(token)],
        FunctionArgs::TableConstructor(table) => vec![Value::Table(fields_of(table))],
        _ => Vec::new(),
    }
}

fn fields_of(table: &full_moon::ast::TableConstructor) -> Vec<(String, Value)> {
    table
        .fields()
        .iter()
        .filter_map(|field| match field {
            Field::NameKey { key, value, .. } => Some((key.token().to_string(), value_of(value))),
            Field::ExpressionKey { key, value, .. } => match value_of(key) {
                Value::Text { raw, .. } => Some((raw, value_of(value))),
                _ => None,
            },
            _ => None,
        })
        .collect()
}

fn value_of(expression: &Expression) -> Value {
    match expression {
        Expression::String(token) => text_of(token),
        Expression::TableConstructor(table) => Value::Table(fields_of(table)),
        Expression::Number(token) | Expression::Symbol(token) => {
            let start = token.token().start_position().bytes();
            let text = token.token().to_string();
            Value::Other {
                span: start..start + text.len(),
                text,
            }
        }
        other => Value::Other {
            text: other.to_string().trim().to_owned(),
            span: 0..0,
        },
    }
}

fn text_of(token: &TokenReference) -> Value {
    let start = token.token().start_position().bytes();
    match token.token().token_type() {
        TokenType::StringLiteral {
            literal,
            multi_line_depth,
            quote_type,
        } => {
            let open = match quote_type {
                full_moon::tokenizer::StringLiteralQuoteType::Brackets => multi_line_depth + 2,
                _ => 1,
            };
            let raw = literal.to_string();
            Value::Text {
                span: start + open..start + open + raw.len(),
                raw,
            }
        }
        _ => Value::Other {
            text: token.to_string(),
            span: 0..0,
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn strings_are_where_they_are_said_to_be() {
        let source = "-- é\nvim.cmd('colorscheme x')\nvim.cmd [[hi A guifg=#010203]]\nlocal f = vim.api.nvim_set_hl\nf(0, \"B\", { fg = \"#040506\", ['bg'] = \"NONE\", bold = true })\nvim.o.guifont = \"F:h1\"\nif a then vim.cmd.colorscheme 'y' end";
        let events = events(source.as_bytes()).unwrap();
        let names: Vec<&str> = events
            .iter()
            .map(|e| match e {
                Event::Call { name, .. } | Event::Assign { name, .. } => name.as_str(),
            })
            .collect();
        assert_eq!(
            names,
            [
                "vim.cmd",
                "vim.cmd",
                "f",
                "vim.o.guifont",
                "vim.cmd.colorscheme"
            ]
        );
        let mut texts = Vec::new();
        fn walk(v: &Value, out: &mut Vec<(String, Range<usize>)>) {
            match v {
                Value::Text { raw, span } => out.push((raw.clone(), span.clone())),
                Value::Table(fields) => fields.iter().for_each(|f| walk(&f.1, out)),
                Value::Other { .. } => {}
            }
        }
        for event in &events {
            match event {
                Event::Call { arguments, .. } => arguments.iter().for_each(|a| walk(a, &mut texts)),
                Event::Assign { value, .. } => walk(value, &mut texts),
            }
        }
        assert_eq!(texts.len(), 7);
        for (raw, span) in texts {
            assert_eq!(&source[span], raw);
        }
    }

    #[test]
    fn what_is_not_lua_is_refused_with_its_place() {
        let bad = events(b"x = 1\ny = = 2\n").unwrap_err();
        assert!(bad.at >= 6, "{bad:?}");
        assert!(events(b"a = \"\xff\"").is_err());
        assert!(events("(".repeat(100_000).as_bytes()).is_err());
        let backtick = events(b"x = 1\ny = `a`\n").unwrap_err();
        assert_eq!(backtick.at, 10, "{backtick:?}");
        let nested = format!("{} {}", "do ".repeat(140), "end ".repeat(140));
        assert!(events(nested.as_bytes()).is_ok());
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]
        #[test]
        fn any_text_is_parsed_or_refused(text in "[a-z0-9 =(){}\\[\\]\"'\n.,#-]{0,60}") {
            let _ = events(text.as_bytes());
        }
    }
}
