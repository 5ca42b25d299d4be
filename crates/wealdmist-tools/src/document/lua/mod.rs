//! Lua files, taken apart into statements and expressions with the places of what is written.
//!
//! Parsing is the business of `full_moon`; nothing is run.

use std::ops::Range;
use std::sync::Arc;

use full_moon::ast::{
    self, BinOp, Call, FunctionArgs, Index, LastStmt, Parameter, Prefix, Suffix, UnOp, Var,
};
use full_moon::node::Node;
use full_moon::tokenizer::{StringLiteralQuoteType, TokenReference, TokenType};
use full_moon::visitors::Visitor;
use wealdmist_core::guard::{guarded, guarded_deep};

pub mod settings;

use super::lua_words;
use crate::limits;

/// Statements in their order.
pub type Block = Vec<Statement>;

/// A statement and where it begins.
#[derive(Debug, Clone, PartialEq)]
pub struct Statement {
    /// What it does.
    pub kind: Kind,
    /// Where it begins.
    pub at: usize,
}

/// What a statement does.
#[derive(Debug, Clone, PartialEq)]
pub enum Kind {
    /// `local a, b = …`
    Local(Vec<String>, Vec<Expression>),
    /// `a.b, c = …`
    Assign(Vec<Expression>, Vec<Expression>),
    /// A call on its own.
    Call(Expression),
    /// `do … end`
    Do(Block),
    /// `while … do … end`
    While(Expression, Block),
    /// `repeat … until …`
    Repeat(Block, Expression),
    /// Conditions with what they lead to, and what happens otherwise.
    If(Vec<(Expression, Block)>, Block),
    /// `for i = first, last, step do … end`
    Count(String, Box<[Expression; 2]>, Option<Expression>, Block),
    /// `for k, v in … do … end`
    Each(Vec<String>, Vec<Expression>, Block),
    /// `local function f`
    Function(String, Arc<Function>),
    /// `return …`
    Return(Vec<Expression>),
    /// `break`
    Break,
    /// A jump or its mark.
    Jump,
}

/// A function's parameters and body.
#[derive(Debug, PartialEq)]
pub struct Function {
    /// The names of what it is given.
    pub parameters: Vec<String>,
    /// Whether it takes more than it names.
    pub more: bool,
    /// What it does.
    pub body: Block,
}

/// An expression and where it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Expression {
    /// What it is.
    pub form: Form,
    /// Where it stands.
    pub span: Range<usize>,
}

/// What an expression is.
#[derive(Debug, Clone, PartialEq)]
pub enum Form {
    /// `nil`
    Nil,
    /// `true` and `false`
    Bool(bool),
    /// A number.
    Number(f64),
    /// A string: its bytes, and for each of them the byte of the file it came from.
    Text(Vec<u8>, Vec<usize>),
    /// `...`
    More,
    /// A table: its fields, a key where one is written.
    Table(Vec<(Option<Expression>, Expression)>),
    /// A function.
    Function(Arc<Function>),
    /// A variable.
    Name(String),
    /// `a.b`, `a[b]`
    Index(Box<Expression>, Box<Expression>),
    /// A call.
    Call(Box<Expression>, Vec<Expression>),
    /// A call of a method.
    Method(Box<Expression>, String, Vec<Expression>),
    /// Two operands and the sign between them.
    Binary(Box<Expression>, Sign, Box<Expression>),
    /// `not a`
    Not(Box<Expression>),
    /// `-a`
    Minus(Box<Expression>),
    /// `#a`
    Length(Box<Expression>),
    /// What is not understood.
    Other,
}

/// The sign between two operands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Sign {
    And,
    Or,
    Equal,
    Unequal,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
    Join,
    Add,
    Subtract,
    Multiply,
    Divide,
    Modulo,
    Power,
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

/// The statements of a file.
///
/// # Errors
/// When the file is not UTF-8 or not Lua.
pub fn parse(bytes: &[u8]) -> Result<Block, Problem> {
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

fn parsed(text: &str) -> Result<Block, Problem> {
    let ast = full_moon::parse(text).map_err(|errors| {
        let first = errors.first();
        let at = first.map_or(0, |e| e.range().0.bytes());
        let message = first.map_or_else(|| "not Lua".to_owned(), ToString::to_string);
        Problem {
            at,
            message: format!("the file is not Lua: {message}"),
        }
    })?;
    let mut ambiguous = Ambiguous(None);
    ambiguous.visit_ast(&ast);
    if let Some(at) = ambiguous.0 {
        let message = "the file is not Lua: a bracket at the beginning of a line goes on with the line before".into();
        return Err(Problem { at, message });
    }
    Ok(block(ast.nodes()))
}

/// What Lua 5.1 refuses: a call whose bracket stands on another line than what is called.
struct Ambiguous(Option<usize>);

impl Ambiguous {
    fn suffixes<'a>(&mut self, first: usize, suffixes: impl Iterator<Item = &'a Suffix>) {
        let mut line = first;
        for suffix in suffixes {
            if let Suffix::Call(Call::AnonymousCall(given)) = suffix
                && let FunctionArgs::Parentheses { parentheses, .. } = &**given
            {
                let open = parentheses.tokens().0.token().start_position();
                if open.line() != line {
                    self.0.get_or_insert(open.bytes());
                }
            }
            line = suffix
                .end_position()
                .map_or(line, full_moon::tokenizer::Position::line);
        }
    }
}

impl Visitor for Ambiguous {
    fn visit_function_call(&mut self, call: &ast::FunctionCall) {
        let line = call
            .prefix()
            .end_position()
            .map_or(0, full_moon::tokenizer::Position::line);
        self.suffixes(line, call.suffixes());
    }

    fn visit_var_expression(&mut self, it: &ast::VarExpression) {
        let line = it
            .prefix()
            .end_position()
            .map_or(0, full_moon::tokenizer::Position::line);
        self.suffixes(line, it.suffixes());
    }
}

fn span(node: &impl Node) -> Range<usize> {
    let start = node
        .start_position()
        .map_or(0, full_moon::tokenizer::Position::bytes);
    let end = node
        .end_position()
        .map_or(start, full_moon::tokenizer::Position::bytes);
    start..end
}

fn name(token: &TokenReference) -> String {
    token.token().to_string()
}

fn block(block: &ast::Block) -> Block {
    let mut out: Block = block.stmts().map(statement).collect();
    if let Some(last) = block.last_stmt() {
        let kind = match last {
            LastStmt::Return(all) => Kind::Return(all.returns().iter().map(expression).collect()),
            _ => Kind::Break,
        };
        let at = span(last).start;
        out.push(Statement { kind, at });
    }
    out
}

fn function(body: &ast::FunctionBody, method: bool) -> Arc<Function> {
    let own = method.then(|| "self".to_owned());
    let named = body.parameters().iter().filter_map(|p| match p {
        Parameter::Name(token) => Some(name(token)),
        _ => None,
    });
    let is_more = |p: &Parameter| matches!(p, Parameter::Ellipsis(_));
    Arc::new(Function {
        parameters: own.into_iter().chain(named).collect(),
        more: body.parameters().iter().any(is_more),
        body: self::block(body.block()),
    })
}

fn statement(statement: &ast::Stmt) -> Statement {
    use ast::Stmt;
    let kind = match statement {
        Stmt::LocalAssignment(local) => Kind::Local(
            local.names().iter().map(name).collect(),
            local.expressions().iter().map(expression).collect(),
        ),
        Stmt::Assignment(assignment) => Kind::Assign(
            assignment.variables().iter().map(variable).collect(),
            assignment.expressions().iter().map(expression).collect(),
        ),
        Stmt::FunctionCall(it) => Kind::Call(call(it)),
        Stmt::Do(it) => Kind::Do(block(it.block())),
        Stmt::While(it) => Kind::While(expression(it.condition()), block(it.block())),
        Stmt::Repeat(it) => Kind::Repeat(block(it.block()), expression(it.until())),
        Stmt::If(it) => {
            let first = (expression(it.condition()), block(it.block()));
            let more = it.else_if().into_iter().flatten();
            let more = more.map(|e| (expression(e.condition()), block(e.block())));
            let all = std::iter::once(first).chain(more).collect();
            Kind::If(all, it.else_block().map(block).unwrap_or_default())
        }
        Stmt::NumericFor(it) => Kind::Count(
            name(it.index_variable()),
            Box::new([expression(it.start()), expression(it.end())]),
            it.step().map(expression),
            block(it.block()),
        ),
        Stmt::GenericFor(it) => Kind::Each(
            it.names().iter().map(name).collect(),
            it.expressions().iter().map(expression).collect(),
            block(it.block()),
        ),
        Stmt::LocalFunction(it) => Kind::Function(name(it.name()), function(it.body(), false)),
        Stmt::FunctionDeclaration(it) => {
            let path = it.name().names().iter().chain(it.name().method_name());
            let mut target: Option<Expression> = None;
            for token in path {
                let form = match target {
                    None => Form::Name(name(token)),
                    Some(inner) => Form::Index(Box::new(inner), Box::new(named(token))),
                };
                target = Some(Expression {
                    form,
                    span: span(token),
                });
            }
            let body = Expression {
                form: Form::Function(function(it.body(), it.name().method_name().is_some())),
                span: span(it.body()),
            };
            Kind::Assign(target.into_iter().collect(), vec![body])
        }
        _ => Kind::Jump,
    };
    let at = span(statement).start;
    Statement { kind, at }
}

/// A name as the text that it is as a key.
fn named(token: &TokenReference) -> Expression {
    let span = span(token);
    let map = span.clone().collect();
    Expression {
        form: Form::Text(name(token).into_bytes(), map),
        span,
    }
}

fn variable(variable: &Var) -> Expression {
    match variable {
        Var::Name(token) => Expression {
            form: Form::Name(name(token)),
            span: span(token),
        },
        Var::Expression(it) => suffixed(it.prefix(), it.suffixes()),
        _ => Expression {
            form: Form::Other,
            span: span(variable),
        },
    }
}

fn call(call: &ast::FunctionCall) -> Expression {
    suffixed(call.prefix(), call.suffixes())
}

fn suffixed<'a>(prefix: &'a Prefix, suffixes: impl Iterator<Item = &'a Suffix>) -> Expression {
    let mut out = match prefix {
        Prefix::Name(token) => Expression {
            form: Form::Name(name(token)),
            span: span(token),
        },
        Prefix::Expression(it) => expression(it),
        _ => Expression {
            form: Form::Other,
            span: span(prefix),
        },
    };
    for suffix in suffixes {
        let whole = out.span.start..span(suffix).end.max(out.span.end);
        let inner = Box::new(out);
        let form = match suffix {
            Suffix::Index(Index::Dot { name, .. }) => Form::Index(inner, Box::new(named(name))),
            Suffix::Index(Index::Brackets {
                expression: key, ..
            }) => Form::Index(inner, Box::new(expression(key))),
            Suffix::Call(Call::AnonymousCall(given)) => Form::Call(inner, arguments(given)),
            Suffix::Call(Call::MethodCall(method)) => {
                Form::Method(inner, name(method.name()), arguments(method.args()))
            }
            _ => Form::Other,
        };
        out = Expression { form, span: whole };
    }
    out
}

fn arguments(arguments: &FunctionArgs) -> Vec<Expression> {
    match arguments {
        FunctionArgs::Parentheses { arguments, .. } => arguments.iter().map(expression).collect(),
        FunctionArgs::String(token) => vec![text(token)],
        FunctionArgs::TableConstructor(it) => vec![table(it)],
        _ => Vec::new(),
    }
}

fn table(table: &ast::TableConstructor) -> Expression {
    let fields = table.fields().iter().filter_map(|field| match field {
        ast::Field::NameKey { key, value, .. } => Some((Some(named(key)), expression(value))),
        ast::Field::ExpressionKey { key, value, .. } => {
            Some((Some(expression(key)), expression(value)))
        }
        ast::Field::NoKey(value) => Some((None, expression(value))),
        _ => None,
    });
    Expression {
        form: Form::Table(fields.collect()),
        span: span(table),
    }
}

fn expression(it: &ast::Expression) -> Expression {
    use ast::Expression as E;
    let form = match it {
        E::Parentheses {
            expression: inner, ..
        } => {
            // What stands in brackets is one value, not several.
            let inner = expression(inner);
            match inner.form {
                Form::Call(..) | Form::Method(..) | Form::More => {
                    let none = Expression {
                        form: Form::Nil,
                        span: inner.span.clone(),
                    };
                    Form::Binary(Box::new(inner), Sign::Or, Box::new(none))
                }
                _ => return inner,
            }
        }
        E::BinaryOperator { lhs, binop, rhs } => {
            let Some(sign) = sign(binop) else {
                return Expression {
                    form: Form::Other,
                    span: span(it),
                };
            };
            Form::Binary(Box::new(expression(lhs)), sign, Box::new(expression(rhs)))
        }
        E::UnaryOperator {
            unop,
            expression: inner,
        } => {
            let inner = Box::new(expression(inner));
            match unop {
                UnOp::Not(_) => Form::Not(inner),
                UnOp::Minus(_) => Form::Minus(inner),
                UnOp::Hash(_) => Form::Length(inner),
                _ => Form::Other,
            }
        }
        E::Function(it) => Form::Function(function(it.body(), false)),
        E::FunctionCall(it) => return call(it),
        E::TableConstructor(it) => return table(it),
        E::Number(token) => number(&name(token)).map_or(Form::Other, Form::Number),
        E::String(token) => return text(token),
        E::Symbol(token) => match name(token).as_str() {
            "nil" => Form::Nil,
            "true" => Form::Bool(true),
            "false" => Form::Bool(false),
            "..." => Form::More,
            _ => Form::Other,
        },
        E::Var(it) => return variable(it),
        _ => Form::Other,
    };
    Expression {
        form,
        span: span(it),
    }
}

fn number(text: &str) -> Option<f64> {
    let hex = text.strip_prefix("0x").or_else(|| text.strip_prefix("0X"));
    match hex {
        Some(digits) => u64::from_str_radix(digits, 16).ok().map(|n| n as f64),
        None => text.parse().ok(),
    }
}

fn sign(sign: &BinOp) -> Option<Sign> {
    Some(match sign {
        BinOp::And(_) => Sign::And,
        BinOp::Or(_) => Sign::Or,
        BinOp::TwoEqual(_) => Sign::Equal,
        BinOp::TildeEqual(_) => Sign::Unequal,
        BinOp::LessThan(_) => Sign::Less,
        BinOp::LessThanEqual(_) => Sign::LessOrEqual,
        BinOp::GreaterThan(_) => Sign::Greater,
        BinOp::GreaterThanEqual(_) => Sign::GreaterOrEqual,
        BinOp::TwoDots(_) => Sign::Join,
        BinOp::Plus(_) => Sign::Add,
        BinOp::Minus(_) => Sign::Subtract,
        BinOp::Star(_) => Sign::Multiply,
        BinOp::Slash(_) => Sign::Divide,
        BinOp::Percent(_) => Sign::Modulo,
        BinOp::Caret(_) => Sign::Power,
        _ => return None,
    })
}

fn text(token: &TokenReference) -> Expression {
    let whole = span(token);
    let TokenType::StringLiteral {
        literal,
        multi_line_depth,
        quote_type,
    } = token.token().token_type()
    else {
        return Expression {
            form: Form::Other,
            span: whole,
        };
    };
    let start = token.token().start_position().bytes();
    let is_long = matches!(quote_type, StringLiteralQuoteType::Brackets);
    let open = if is_long { multi_line_depth + 2 } else { 1 };
    let (bytes, map) = decoded(literal.as_bytes(), is_long, start + open);
    Expression {
        form: Form::Text(bytes, map),
        span: whole,
    }
}

/// A string as a program sees it, and for each of its bytes the file's byte it came from
/// (Lua 5.1 reference manual, 2.1, with the escapes that LuaJIT adds).
fn decoded(raw: &[u8], is_long: bool, start: usize) -> (Vec<u8>, Vec<usize>) {
    let (mut text, mut map) = (Vec::with_capacity(raw.len()), Vec::with_capacity(raw.len()));
    // A line end that a long string begins with is not in it.
    let mut at = match is_long {
        true if raw.starts_with(b"\r\n") => 2,
        true if raw.starts_with(b"\n") => 1,
        _ => 0,
    };
    while at < raw.len() {
        let from = start + at;
        let mut put = |bytes: &[u8]| {
            text.extend_from_slice(bytes);
            map.extend(std::iter::repeat_n(from, bytes.len()));
        };
        if raw[at] != b'\\' || is_long {
            put(&raw[at..=at]);
            at += 1;
            continue;
        }
        let rest = &raw[at + 1..];
        let digits = rest
            .iter()
            .take(3)
            .take_while(|b| b.is_ascii_digit())
            .count();
        let hex = |digits: &[u8]| {
            let text = std::str::from_utf8(digits).ok()?;
            u32::from_str_radix(text, 16).ok()
        };
        at += 1 + match rest {
            [b'0'..=b'9', ..] => {
                let text = std::str::from_utf8(&rest[..digits]).unwrap_or_default();
                put(&[text.parse().unwrap_or(b'?')]);
                digits
            }
            [b'x', a, b, ..] => {
                put(&[hex(&[*a, *b]).unwrap_or(0) as u8]);
                3
            }
            [b'u', b'{', inner @ ..] => {
                let n = inner.iter().position(|b| *b == b'}').unwrap_or(0);
                let sign = hex(&inner[..n])
                    .and_then(char::from_u32)
                    .unwrap_or('\u{fffd}');
                put(sign.encode_utf8(&mut [0; 4]).as_bytes());
                n + 3
            }
            [b'z', blanks @ ..] => {
                1 + blanks
                    .iter()
                    .take_while(|b| b.is_ascii_whitespace())
                    .count()
            }
            [byte, ..] => {
                put(&[match byte {
                    b'n' => b'\n',
                    b't' => b'\t',
                    b'r' => b'\r',
                    b'a' => 7,
                    b'b' => 8,
                    b'f' => 12,
                    b'v' => 11,
                    other => *other,
                }]);
                1
            }
            [] => 0,
        };
    }
    (text, map)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The strings of an expression, in their order.
    fn strings(it: &Expression, out: &mut Vec<(Vec<u8>, Vec<usize>)>) {
        match &it.form {
            Form::Text(bytes, map) => out.push((bytes.clone(), map.clone())),
            Form::Table(fields) => fields.iter().for_each(|(key, value)| {
                key.iter().for_each(|key| strings(key, out));
                strings(value, out);
            }),
            Form::Call(inner, all) | Form::Method(inner, _, all) => {
                strings(inner, out);
                all.iter().for_each(|a| strings(a, out));
            }
            Form::Index(a, b) | Form::Binary(a, _, b) => {
                strings(a, out);
                strings(b, out);
            }
            _ => {}
        }
    }

    #[test]
    fn strings_are_where_they_are_said_to_be() {
        let source = "-- é\nvim.cmd('colorscheme x')\nvim.cmd [[hi A guifg=#010203]]\nlocal f = vim.api.nvim_set_hl\nf(0, \"B\", { fg = \"#040506\", ['bg'] = \"NONE\", bold = true })\nvim.o.guifont = \"F:h1\"\nif a then vim.cmd.colorscheme 'y' end";
        let block = parse(source.as_bytes()).unwrap();
        let mut texts = Vec::new();
        for statement in &block {
            assert!(source[statement.at..].starts_with(['v', 'l', 'f', 'i']));
            match &statement.kind {
                Kind::Call(it) => strings(it, &mut texts),
                Kind::Local(_, all) | Kind::Assign(_, all) => {
                    all.iter().for_each(|e| strings(e, &mut texts));
                }
                _ => {}
            }
        }
        assert!(texts.len() > 7);
        for (bytes, map) in texts {
            let there: Vec<u8> = map.iter().map(|at| source.as_bytes()[*at]).collect();
            assert_eq!(bytes, there);
        }
    }

    #[test]
    fn strings_are_what_the_program_sees() {
        let seen = |source: &str| match &parse(source.as_bytes()).unwrap()[0].kind {
            Kind::Local(_, all) => match &all[0].form {
                Form::Text(bytes, map) => (String::from_utf8(bytes.clone()).unwrap(), map.clone()),
                other => panic!("{other:?}"),
            },
            other => panic!("{other:?}"),
        };
        assert_eq!(
            seen("local a = 'a\\tb\\65\\x42\\u{e725}'").0,
            "a\tbAB\u{e725}"
        );
        assert_eq!(seen("local a = [[\n\\n]]").0, "\\n");
        assert_eq!(seen("local a = [==[ ]] ]==]").0, " ]] ");
        assert_eq!(seen("local a = 'x\\'y'").1, [11, 12, 14]);
    }

    #[test]
    fn what_is_not_lua_is_refused_with_its_place() {
        let bad = parse(b"x = 1\ny = = 2\n").unwrap_err();
        assert!(bad.at >= 6, "{bad:?}");
        assert!(parse(b"a = \"\xff\"").is_err());
        assert!(parse("(".repeat(100_000).as_bytes()).is_err());
        assert_eq!(parse(b"f()\n(g)()\n").unwrap_err().at, 4);
        assert!(parse(b"f()\n;(g)()\nh(\n1)\n").is_ok());
        let backtick = parse(b"x = 1\ny = `a`\n").unwrap_err();
        assert_eq!(backtick.at, 10, "{backtick:?}");
        let nested = format!("{} {}", "do ".repeat(140), "end ".repeat(140));
        assert!(parse(nested.as_bytes()).is_ok());
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]
        #[test]
        fn any_text_is_parsed_or_refused(text in "[a-z0-9 =(){}\\[\\]\"'\n.,#-]{0,60}") {
            let _ = parse(text.as_bytes());
        }
    }
}
