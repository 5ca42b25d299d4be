//! Splices of a TOML text: a value where it stands, a new entry at the end of the table it belongs to, in
//! its manner.

use std::ops::Range;

use toml_edit::{Document, Item, Table};

use super::literal;
use crate::setup::EditError;
use crate::text;

/// The text read.
pub fn document(text: &str) -> Result<Document<&str>, EditError> {
    Document::parse(text).map_err(|e| EditError::Breaks(e.message().to_owned()))
}

/// The text with another in place of a stretch.
pub fn spliced(text: &str, span: Range<usize>, with: &str) -> String {
    format!("{}{with}{}", &text[..span.start], &text[span.end..])
}

/// The text with a block behind it.
pub fn appended(text: &str, block: &str) -> String {
    let gap = match text.is_empty() || text.ends_with('\n') {
        true => "",
        false => text::line_end(text.as_bytes()),
    };
    format!("{text}{gap}{block}")
}

/// The text with the TOML `literal` at `path`, replaced where it stands or added.
pub fn put(text: &str, path: &[&str], literal: &str) -> Result<String, EditError> {
    let document = document(text)?;
    let root = document.as_table();
    if let Some(span) = find(root, path).and_then(Item::span) {
        return Ok(spliced(text, span, literal));
    }
    let (key, parents) = path
        .split_last()
        .ok_or_else(|| EditError::Missing(String::new()))?;
    let end = text::line_end(text.as_bytes());
    let entry = format!("{} = {literal}", literal::key(key));
    let parent = if parents.is_empty() {
        Some(root)
    } else {
        find(root, parents).and_then(Item::as_table)
    };
    if let Some(Item::Value(toml_edit::Value::InlineTable(inline))) = find(root, parents)
        && let Some(span) = inline.span()
    {
        let gap = if inline.is_empty() { " " } else { ", " };
        let at = text[..span.end - 1].trim_end().len();
        return Ok(spliced(text, at..at, &format!("{gap}{entry}")));
    }
    if let Some(table) = parent.filter(|t| !t.is_implicit() || t.is_dotted() || parents.is_empty())
    {
        if let Some(last) = last_value_end(table) {
            let line = text::line_range(text.as_bytes(), last);
            let indent = indent_of(text, line.start);
            return Ok(spliced(
                text,
                line.end..line.end,
                &format!("{end}{indent}{entry}"),
            ));
        }
        let at = if parents.is_empty() {
            if text.starts_with('\u{feff}') { 3 } else { 0 }
        } else {
            after_header(text, table).ok_or_else(|| EditError::Missing(parents.join(".")))?
        };
        return Ok(spliced(text, at..at, &format!("{entry}{end}")));
    }
    let header: Vec<String> = parents.iter().map(|p| literal::key(p)).collect();
    let block = format!("{end}[{}]{end}{entry}{end}", header.join("."));
    Ok(appended(text, &block))
}

/// The text without the entry at `path`: its whole line goes. `None` without such an entry.
pub fn taken_out(text: &str, path: &[&str]) -> Result<Option<String>, EditError> {
    let document = document(text)?;
    let Some(span) = find(document.as_table(), path).and_then(Item::span) else {
        return Ok(None);
    };
    let bytes = text.as_bytes();
    let first = text::line_range(bytes, span.start);
    let last = text::line_range(bytes, span.end.max(span.start + 1) - 1).end;
    let whole = first.start..last + line_break(bytes, last);
    let key = path.last().copied().unwrap_or_default();
    let line = text[first.start..span.start].trim_start();
    // An entry of an inline table shares its line with others.
    if !line.trim_start_matches(['"', '\'']).starts_with(key) {
        return Err(EditError::Breaks(format!(
            "'{key}' shares its line with others: edit it by hand"
        )));
    }
    Ok(Some(spliced(text, whole, "")))
}

/// What stands at a path.
pub fn find<'a>(root: &'a Table, path: &[&str]) -> Option<&'a Item> {
    let (first, rest) = path.split_first()?;
    let mut item = root.get(first)?;
    for part in rest {
        item = item.as_table_like()?.get(part)?;
    }
    Some(item)
}

/// The end of the last value that stands in this table itself.
fn last_value_end(table: &Table) -> Option<usize> {
    table
        .iter()
        .filter_map(|(_, item)| match item {
            Item::Value(_) => item.span().map(|s| s.end),
            Item::Table(inner) if inner.is_dotted() => last_value_end(inner),
            _ => None,
        })
        .max()
}

/// Where the line after a table's header begins.
pub fn after_header(text: &str, table: &Table) -> Option<usize> {
    let span = table.span()?;
    let end = text::line_range(text.as_bytes(), span.start).end;
    Some(end + line_break(text.as_bytes(), end))
}

/// How many bytes of line end stand at an offset.
pub fn line_break(bytes: &[u8], at: usize) -> usize {
    match &bytes[at.min(bytes.len())..] {
        [b'\r', b'\n', ..] => 2,
        [b'\n', ..] => 1,
        _ => 0,
    }
}

fn indent_of(text: &str, line_start: usize) -> &str {
    let rest = &text[line_start..];
    &rest[..rest.len() - rest.trim_start_matches([' ', '\t']).len()]
}
