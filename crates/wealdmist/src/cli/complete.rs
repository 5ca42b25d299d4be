//! What the shell offers while a command line is typed: roles, tools, formats, and what the home has.

use std::ffi::OsString;
use std::io::{self, Write};
use std::path::PathBuf;

use clap_complete::engine::CompletionCandidate;
use clap_complete::env::Shells;
use clap_complete::{CompleteEnv, Shell};
use wealdmist_core::property::Property;
use wealdmist_core::role::{ROLES, RoleId, Slot, lookup};
use wealdmist_core::setup::SetupDoc;
use wealdmist_draw::{Kind, OF_FONTS, WINDOW};
use wealdmist_host::{FontIndex, Home, Journal, read_regular};
use wealdmist_tools::exchange::FORMATS;
use wealdmist_tools::{Adapter, Engine, adapters};

use crate::work::prompt::draws_prompts;

/// The variable in which a shell says that it wants to know how a line goes on.
const VARIABLE: &str = "WEALDMIST_COMPLETE";
/// The largest setup that is looked into, in bytes.
const SETUP: u64 = 4 << 20;

/// Answers the shell that asks how a line goes on, if one does, and ends then.
pub fn answer() {
    CompleteEnv::with_factory(super::command)
        .var(VARIABLE)
        .complete();
}

/// Writes what a shell has to run to ask.
pub fn register(shell: Shell, out: &mut dyn Write) -> io::Result<()> {
    let name = shell.to_string();
    let shells = Shells::builtins();
    let Some(completer) = shells.completer(&name) else {
        return Err(io::Error::other(format!("nothing is known of {name}")));
    };
    completer.write_registration(VARIABLE, "wealdmist", "wealdmist", "wealdmist", out)
}

fn candidate(value: impl Into<OsString>, help: impl Into<String>) -> CompletionCandidate {
    let help: String = help.into();
    CompletionCandidate::new(value).help((!help.is_empty()).then(|| help.into()))
}

/// The tools.
pub fn tools() -> Vec<CompletionCandidate> {
    let all = adapters();
    let one = |a: &&dyn Adapter| candidate(a.id().0, a.kind());
    all.iter().map(one).collect()
}

/// The formats of palettes.
pub fn formats() -> Vec<CompletionCandidate> {
    FORMATS.iter().map(|f| candidate(f.id, "")).collect()
}

/// The drawings.
pub fn drawings() -> Vec<CompletionCandidate> {
    let own = Kind::ALL.into_iter().map(Kind::key);
    own.chain(OF_FONTS)
        .chain([WINDOW])
        .map(|kind| candidate(kind, ""))
        .collect()
}

/// The roles of the setup.
pub fn roles() -> Vec<CompletionCandidate> {
    let slots = Slot::ALL.into_iter().map(RoleId::from);
    let known = ROLES.iter().map(|known| RoleId::known(known.id));
    let doc = setup();
    let own = doc.iter().flat_map(|doc| doc.setup().roles.keys().cloned());
    let own = own.filter(|role| lookup(role).is_none());
    slots
        .chain(known)
        .chain(own)
        .map(|role| candidate(role.as_str(), role.label()))
        .collect()
}

/// What may differ between tools: the roles, and what is no color.
pub fn rows() -> Vec<CompletionCandidate> {
    let properties = Property::ALL
        .into_iter()
        .map(|p| candidate(p.key(), p.label()));
    roles().into_iter().chain(properties).collect()
}

/// What can be set.
pub fn settable() -> Vec<CompletionCandidate> {
    let mut out = roles();
    let properties = Property::ALL.into_iter().filter(|p| p.is_set());
    out.extend(properties.map(|p| candidate(p.key(), p.label())));
    let doc = setup();
    let named = doc.iter().flat_map(|doc| &doc.setup().palette().colors);
    out.extend(named.map(|(name, _)| candidate(name.as_str(), "a color of the palette")));
    let prompt = [
        "lines", "user", "git", "folders", "gap", "stretch", "joint", "open", "close", "blank",
        "tie", "past",
    ];
    out.extend(prompt.map(|key| candidate(format!("prompt.{key}"), "of the prompt")));
    for tool in adapters() {
        for (key, what) in [
            ("generate", "whether a theme or prompt is generated"),
            ("manage", "whether its files are changed"),
            ("symbols", "its own symbol level"),
        ] {
            out.push(candidate(format!("tools.{}.{key}", tool.id()), what));
        }
    }
    out
}

/// Colors by name: slots, colors of the palette, roles.
pub fn colors() -> Vec<CompletionCandidate> {
    let doc = setup();
    let named = doc.iter().flat_map(|doc| &doc.setup().palette().colors);
    let named = named.map(|(name, color)| candidate(name.as_str(), color.to_string()));
    named.chain(roles()).collect()
}

/// The designs of prompts that are ready to be taken, and those that shells have.
pub fn designs() -> Vec<CompletionCandidate> {
    let all = wealdmist_core::prompt::ready::ALL.iter();
    let ready = all.map(|r| candidate(r.name, r.says));
    ready.chain(takers()).collect()
}

/// What takes a design: shells, and programs that draw for several.
pub fn takers() -> Vec<CompletionCandidate> {
    let all = adapters().into_iter().filter(|a| draws_prompts(a.id().0));
    all.map(|a| candidate(a.id().0, a.kind())).collect()
}

/// The shells that a prompt is generated for.
pub fn shells() -> Vec<CompletionCandidate> {
    let all = adapters().into_iter();
    all.filter(|a| matches!(a.engine(), Engine::Sourced(_)))
        .map(|a| candidate(a.id().0, a.kind()))
        .collect()
}

/// The palettes of the setup.
pub fn palettes() -> Vec<CompletionCandidate> {
    let doc = setup();
    let all = doc.iter().flat_map(|doc| &doc.setup().palettes);
    all.map(|p| candidate(p.name.as_str(), p.variant.key()))
        .collect()
}

/// The families that are installed.
pub fn families() -> Vec<CompletionCandidate> {
    let Some(home) = home() else {
        return Vec::new();
    };
    let catalog = FontIndex::open(&home).catalog();
    let mut names: Vec<&str> = catalog
        .faces
        .iter()
        .filter(|face| face.info.measured_fixed)
        .map(|face| face.info.family())
        .collect();
    names.sort_unstable();
    names.dedup();
    names.into_iter().map(|name| candidate(name, "")).collect()
}

/// The numbers of what was applied.
pub fn records() -> Vec<CompletionCandidate> {
    let all = home().and_then(|home| Journal::of(&home).history().ok());
    let all = all.unwrap_or_default();
    let said = |r: &wealdmist_host::Record| {
        let files = wealdmist_core::text::counted(r.files.len(), "file");
        candidate(r.id.to_string(), files)
    };
    all.iter().rev().map(said).collect()
}

/// What stands behind an option on the line that is typed.
fn option(name: &str) -> Option<PathBuf> {
    let mut words = std::env::args_os();
    while let Some(word) = words.next() {
        let word = word.to_string_lossy().into_owned();
        if word == name {
            return words.next().map(PathBuf::from);
        }
        if let Some(value) = word.strip_prefix(name).and_then(|v| v.strip_prefix('=')) {
            return Some(PathBuf::from(value));
        }
    }
    None
}

fn home() -> Option<Home> {
    Home::open(option("--home").as_deref()).ok()
}

/// The setup of the home, where one is written.
fn setup() -> Option<SetupDoc> {
    let path = match option("--setup") {
        Some(path) => path,
        None => home()?.setup_path(),
    };
    let bytes = read_regular(&path, SETUP).ok()??;
    SetupDoc::parse(&path, &bytes).ok()
}
