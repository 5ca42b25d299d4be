//! The prompt as it is shown here, and the shells that take it.

use std::collections::BTreeSet;

use wealdmist_core::character::{SymbolLevel, is_private_use};
use wealdmist_core::prompt::Design;
use wealdmist_core::prompt::own::Own;
use wealdmist_core::reading::{ToolId, ToolReport};
use wealdmist_core::setup::{EditError, Setup, SetupDoc};
use wealdmist_core::text::{code_points, visible_with};
use wealdmist_host::Survey;
use wealdmist_tools::sourced::Sourced;
use wealdmist_tools::{Engine, adapters};

/// The symbol level that a prompt is shown at: icons only where the terminal has them.
pub fn level(setup: &Setup, icons: bool) -> SymbolLevel {
    match icons {
        true => setup.symbols,
        false => setup.symbols.min(SymbolLevel::Plain),
    }
}

/// The design of a setup as it is shown.
pub fn shown(setup: &Setup, icons: bool) -> Design {
    setup.prompt_at(level(setup, icons))
}

/// Every shell that is known.
pub fn known_shells() -> impl Iterator<Item = (ToolId, &'static Sourced)> {
    adapters().into_iter().filter_map(|a| match a.engine() {
        Engine::Sourced(row) => Some((a.id(), row)),
        _ => None,
    })
}

/// Whether a tool has prompts: a shell, or a program that draws for several.
pub fn draws_prompts(name: &str) -> bool {
    let engine = wealdmist_tools::adapter(name).map(|adapter| adapter.engine());
    matches!(engine, Some(Engine::Sourced(_) | Engine::Started))
}

/// The shells that are installed, and whether each is given the design of the setup.
pub fn shells(survey: &Survey) -> Vec<(ToolId, bool)> {
    let setup = survey.doc.setup();
    known_shells()
        .filter(|(_, row)| survey.has_program(row.program))
        .map(|(id, _)| (id, setup.tool(id).generate))
        .collect()
}

/// The setup with its design given to shells, or their own prompts left to them.
pub fn given_to(doc: &SetupDoc, shells: &[ToolId], ours: bool) -> Result<SetupDoc, EditError> {
    shells
        .iter()
        .try_fold(doc.clone(), |doc, id| doc.with_generated(*id, ours))
}

/// A sign as it can be shown here, with the code points of what cannot.
pub fn sign_shown(sign: &str, icons: bool) -> String {
    if sign.trim().is_empty() {
        return if sign.is_empty() {
            "none".into()
        } else {
            "a blank".into()
        };
    }
    let private: BTreeSet<char> = sign.chars().filter(|c| is_private_use(*c)).collect();
    let points = code_points(&private.iter().collect::<String>());
    match (points.is_empty(), icons) {
        (true, _) => visible_with(sign.trim_end(), icons),
        (false, false) => points,
        (false, true) => format!("{} {}", visible_with(sign.trim_end(), true), points),
    }
}

/// A sign as it was typed: the characters themselves, or code points such as `U+E725`.
///
/// # Errors
/// When a code point is none.
pub fn sign_typed(text: &str) -> Result<String, String> {
    let one = |word: &str| -> Result<char, String> {
        let digits = word.get(2..).unwrap_or_default();
        let code = u32::from_str_radix(digits, 16).ok();
        code.and_then(char::from_u32)
            .filter(|c| !c.is_control())
            .ok_or_else(|| format!("'{word}' is no character; write it itself, or as U+2713"))
    };
    let is_code =
        |w: &&str| w.len() > 2 && w.get(..2).is_some_and(|p| p.eq_ignore_ascii_case("u+"));
    let words: Vec<&str> = text.split_whitespace().collect();
    if words.is_empty() || !words.iter().all(is_code) {
        return Ok(text.to_owned());
    }
    words.into_iter().map(one).collect()
}

/// The prompts of the person's own, shell by shell, as designs.
pub fn own_prompts(reports: &[ToolReport]) -> impl Iterator<Item = (&ToolReport, &Own)> {
    let all = reports.iter();
    all.filter_map(|report| Some((report, report.prompt.as_deref()?)))
}
