//! What a module of the program is as a part of ours.

use wealdmist_core::prompt::{Part, Style as Told, When};

use super::draw::Inside;
use super::modules::LANGUAGES;
use super::read::Module;
use crate::sourced::own::Piece;

/// The part of ours that tells what a name in a module's format stands for.
pub fn tells(of: &Inside<'_>, name: &str) -> Option<Piece> {
    let module = of.module;
    let above = |key: &str| {
        let number = module.number(key).unwrap_or_default();
        u32::try_from(number).unwrap_or_default()
    };
    let kind = module.kind.as_str();
    if let Some((_, part)) = LANGUAGES.iter().find(|(known, _)| *known == kind) {
        return match name {
            "version" => Some(Piece::tells(part, |part| part.tells.version = true)),
            "virtualenv" => Some(Piece::tells("venv", |_| {})),
            _ => None,
        };
    }
    let with = |part: &str, change: &dyn Fn(&mut Part)| Some(Piece::tells(part, change));
    match (kind, name) {
        ("directory", "path") => with("folder", &|part| {
            part.tells.folders = u8::try_from(above("truncation_length")).unwrap_or(0);
            part.tells.within = module.is("truncate_to_repo");
        }),
        ("directory", "read_only") => with("locked", &|part| {
            let sign = module.text("read_only").unwrap_or_default().lossy();
            part.signs[..2].fill(sign);
            part.signs[2] = "ro".to_owned();
        }),
        ("username", "user") => with("user", &|part| {
            if !module.is("show_always") {
                part.when = When::Matters;
            }
        }),
        ("hostname", "hostname") => with("host", &|part| {
            if module.is("ssh_only") {
                part.when = When::Remote;
            }
        }),
        ("git_branch", "branch") => with("branch", &|part| {
            let most = module.number("truncation_length").unwrap_or_default();
            part.tells.longest = u16::try_from(most).unwrap_or(0);
        }),
        ("git_state", "state") => with("operation", &|_| {}),
        ("status", "status" | "int") => with("status", &|_| {}),
        ("status", "signal_name" | "common_meaning") => with("status", &|part| {
            part.tells.style = Told::Each;
        }),
        ("cmd_duration", "duration") => with("duration", &|part| {
            part.tells.above = above("min_time");
        }),
        ("jobs", "number") => with("jobs", &|part| part.tells.above = above("threshold")),
        ("time", "time") => {
            let format = module.text("time_format").unwrap_or_default().lossy();
            let says = |all: &[&str]| all.iter().any(|one| format.contains(one));
            if says(&["%d", "%F", "%D", "%m"]) && !says(&["%H", "%T", "%I", "%R", "%M"]) {
                return with("date", &|_| {});
            }
            with("time", &|part| {
                let is_told = !format.is_empty();
                part.tells.twelve =
                    says(&["%I", "%r", "%p"]) || (!is_told && module.is("use_12hr"));
                part.tells.seconds = !is_told || says(&["%S", "%T", "%r"]);
            })
        }
        ("battery", "percentage") => with("battery", &|part| {
            let of = |i: usize| module.number(&format!("display/{i}/threshold"));
            let most = (0..).map_while(of).max().unwrap_or(10);
            part.tells.below = u32::try_from(most).unwrap_or(0);
        }),
        ("memory_usage", "ram" | "ram_pct") => with("memory", &|part| {
            part.tells.above = above("threshold");
        }),
        ("conda", "environment") => with("conda", &|_| {}),
        ("env_var", "env_value") => {
            let own = of.name.split_once('.').map(|(_, name)| name.to_owned());
            let variable = module.text("variable").map(|text| text.lossy());
            let variable = variable.or(own)?;
            let is_name = |c: char| c.is_ascii_alphanumeric() || c == '_';
            if variable.is_empty() || !variable.chars().all(is_name) {
                return None;
            }
            with("venv", &|part| {
                part.name = variable.to_lowercase().replace('_', "-");
                part.tells.variable.clone_from(&variable);
            })
        }
        ("container", "name") => with("container", &|_| {}),
        ("shlvl", "shlvl") => with("nested", &|part| part.tells.above = above("threshold")),
        ("os", "symbol") => with("system", &|_| {}),
        _ => None,
    }
}

/// Pieces that are drawn only together with the parts among them: their texts belong to those. Without a part
/// there is nothing to hold a text.
pub fn held(pieces: Vec<Piece>) -> Vec<Piece> {
    let tells = |piece: &Piece| matches!(piece, Piece::Tells(_));
    if !pieces.iter().any(tells) {
        let is_text = |piece: &Piece| matches!(piece, Piece::Says(_));
        return pieces.into_iter().filter(|p| !is_text(p)).collect();
    }
    let mut out: Vec<Piece> = Vec::new();
    let (mut before, mut last) = (String::new(), None);
    for piece in pieces {
        match piece {
            Piece::Says(text) => match last.and_then(|i: usize| out.get_mut(i)) {
                Some(Piece::Tells(part)) => part.after.push_str(&text),
                _ => before.push_str(&text),
            },
            Piece::Tells(mut part) => {
                part.before.insert_str(0, &std::mem::take(&mut before));
                last = Some(out.len());
                out.push(Piece::Tells(part));
            }
            Piece::Unknown(_) => {}
            piece => out.push(piece),
        }
    }
    out
}

/// What a module is as parts of a design.
pub fn of_module(module: &Module, name: &str, pieces: Vec<Piece>) -> Vec<Piece> {
    let kind = module.kind.as_str();
    if kind == "character" {
        return pieces;
    }
    let tells = |piece: &Piece| matches!(piece, Piece::Tells(_));
    if pieces.iter().any(tells) {
        // Several signs for changes are one part.
        let mut is_first = true;
        let mut all = held(pieces);
        all.retain(|piece| match piece {
            Piece::Tells(part) if part.name == "changes" => std::mem::take(&mut is_first),
            _ => true,
        });
        return all;
    }
    let texts = pieces.iter().filter_map(|piece| match piece {
        Piece::Says(text) => Some(text.as_str()),
        _ => None,
    });
    let text: String = texts.collect();
    let language = LANGUAGES.iter().find(|(known, _)| *known == kind);
    if let Some((_, part)) = language.filter(|_| !text.trim().is_empty()) {
        let mut out: Vec<Piece> = Vec::new();
        let mut said = false;
        for piece in pieces {
            match piece {
                // That it is there is told by its sign.
                Piece::Says(_) if !said => {
                    said = true;
                    out.push(Piece::tells(part, |part| {
                        text.trim_end().clone_into(&mut part.before)
                    }));
                }
                Piece::Says(_) | Piece::Unknown(_) => {}
                piece => out.push(piece),
            }
        }
        return out;
    }
    // The commit is told with the branch.
    match kind {
        "git_commit" => Vec::new(),
        _ => vec![Piece::Unknown(name.to_owned())],
    }
}
