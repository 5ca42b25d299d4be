//! Values as they are written in a setup file.

use super::{Expr, Style};

pub fn style(style: &Style) -> String {
    let flags = style.attrs.names().map(|name| format!("{name} = true"));
    let flags: Vec<String> = flags.collect();
    match &style.color {
        Some(Expr::Mix(..)) | None => {}
        Some(simple) if flags.is_empty() => return text(&simple.to_string()),
        Some(_) => {}
    }
    let color = style.color.as_ref().map(color);
    let parts: Vec<String> = color.into_iter().chain(flags).collect();
    format!("{{ {} }}", parts.join(", "))
}

/// A text, in quotes.
pub fn text(text: &str) -> String {
    toml_edit::Value::from(text).to_string().trim().to_owned()
}

/// A key, in quotes where it needs them.
pub fn key(key: &str) -> String {
    toml_edit::Key::new(key).to_string()
}

pub fn color(color: &Expr) -> String {
    match color {
        Expr::Mix(a, b, amount) => {
            let part = |e: &Expr| text(&e.to_string());
            format!("mix = [{}, {}, {}]", part(a), part(b), float(*amount))
        }
        other => format!("color = {}", text(&other.to_string())),
    }
}

pub fn float(value: f64) -> String {
    let text = format!("{}", (value * 1000.0).round() / 1000.0);
    if text.contains('.') {
        text
    } else {
        format!("{text}.0")
    }
}
