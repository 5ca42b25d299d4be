//! Running editors: a socket takes commands and answers which colors groups have.

use std::io::Write;
use std::path::{Path, PathBuf};

use rmpv::Value as Rpc;
use wealdmist_core::look::Look;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::Access;
use wealdmist_tools::themed::{LiveGroup, Themed};

use super::sockets::sockets;
use super::{Answer, Outcome, answer, compare};
use crate::limits;
use crate::platform::Process;
use crate::platform::link::{Link, NoLink, deaf};
use crate::survey::Survey;

pub(super) fn run(row: &Themed, survey: &Survey, report: &ToolReport, tell: bool) -> Vec<Answer> {
    sockets(&row.live, survey, false)
        .iter()
        .filter_map(|socket| one(row, socket, survey, report, tell))
        .collect()
}

struct Editor {
    stream: Link,
    next: u64,
}

impl Editor {
    fn call(&mut self, method: &str, arguments: Vec<Rpc>) -> Result<Rpc, String> {
        self.next += 1;
        let id = self.next;
        let request = Rpc::Array(vec![
            Rpc::from(0),
            Rpc::from(id),
            Rpc::from(method),
            Rpc::Array(arguments),
        ]);
        self.stream.next_answer();
        let mut bytes = Vec::new();
        rmpv::encode::write_value(&mut bytes, &request).map_err(|e| e.to_string())?;
        self.stream
            .write_all(&bytes)
            .map_err(|_| SILENT.to_owned())?;
        loop {
            let reply = rmpv::decode::read_value_with_max_depth(&mut self.stream, 32)
                .map_err(|_| SILENT.to_owned())?;
            let Rpc::Array(parts) = reply else {
                return Err("it answers in another protocol".into());
            };
            // Notifications may come in between.
            if parts.first().and_then(Rpc::as_u64) == Some(1)
                && parts.get(1).and_then(Rpc::as_u64) == Some(id)
            {
                return match parts.get(2) {
                    Some(Rpc::Nil) | None => Ok(parts.get(3).cloned().unwrap_or(Rpc::Nil)),
                    Some(error) => Err(error_text(error)),
                };
            }
        }
    }

    fn lua(&mut self, code: &str) -> Result<Rpc, String> {
        self.call(
            "nvim_exec_lua",
            vec![Rpc::from(code), Rpc::Array(Vec::new())],
        )
    }
}

const SILENT: &str = "it does not answer";

fn error_text(error: &Rpc) -> String {
    let text = error
        .as_array()
        .and_then(|a| a.get(1))
        .and_then(Rpc::as_str);
    wealdmist_core::text::visible(text.unwrap_or("it refused").as_bytes())
}

/// A running editor of this home, or why it cannot be told; `None` if nobody answers there or it
/// belongs to another home.
fn connect(row: &Themed, socket: &Path, survey: &Survey) -> Option<Result<Editor, Outcome>> {
    let stream = match Link::open(socket, limits::GROUPS_FIRST_TIME) {
        Ok(stream) => stream,
        Err(NoLink::Nobody) => return None,
        // Whose it is cannot be asked: the socket belongs to this user, and is named.
        Err(NoLink::Deaf) => return Some(Err(Outcome::Unreached(deaf(None)))),
    };
    let peer = stream.peer();
    // An editor of another home is not spoken of, whatever it is busy with.
    let elsewhere = |p: &Process| p.is(row.program) && !p.lives_in(survey.home.home());
    if peer.as_ref().is_some_and(elsewhere) {
        return None;
    }
    let mut editor = Editor { stream, next: 0 };
    // Only this call answers while the editor waits for a key.
    let mode = match editor.call("nvim_get_mode", Vec::new()) {
        Ok(mode) => mode,
        Err(why) if why == SILENT && peer.as_ref().is_some_and(|p| p.is(row.program)) => {
            return Some(Err(Outcome::Unreached(deaf(peer.as_ref()))));
        }
        Err(_) => return None,
    };
    editor.stream.extend(limits::GROUPS_TIME);
    let blocking = mode
        .as_map()?
        .iter()
        .any(|(k, v)| k.as_str() == Some("blocking") && v.as_bool() == Some(true));
    if blocking {
        let what = "it waits for a key; press Enter there, then reload again".to_owned();
        return Some(Err(Outcome::Unreached(what)));
    }
    let config = editor.lua("return vim.fn.stdpath('config')").ok()?;
    let config = PathBuf::from(config.as_str()?);
    let ours = (row.folder)(&survey.home);
    let same = config == ours
        || config
            .canonicalize()
            .is_ok_and(|c| ours.canonicalize().is_ok_and(|o| o == c));
    same.then_some(Ok(editor))
}

fn name_of(row: &Themed, socket: &Path) -> String {
    format!("{} ({})", row.program, socket.display())
}

/// Lets every editor of this home show a draft's colors: its theme is run from memory.
pub(super) fn wear(
    row: &Themed,
    survey: &Survey,
    report: &ToolReport,
    doc: &SetupDoc,
) -> Vec<Answer> {
    let theme = row.language.theme(doc.setup(), &Look::new(doc.setup()));
    // What the theme changes beyond colors is kept to be given back.
    let code = format!("{KEEP}\n{}", theme.lossy());
    let mut out = Vec::new();
    for socket in sockets(&row.live, survey, false) {
        let Some(found) = connect(row, &socket, survey) else {
            continue;
        };
        let outcome = match found {
            Err(outcome) => outcome,
            Ok(mut editor) => match editor.lua(&code) {
                Ok(_) => Outcome::Told("wears the draft".to_owned()),
                Err(why) => Outcome::Unreached(why),
            },
        };
        out.push(answer(report.tool, name_of(row, &socket), outcome));
    }
    out
}

const KEEP: &str = "vim.g.wealdmist_tried = vim.g.wealdmist_tried or { background = vim.o.background, termguicolors = vim.o.termguicolors, name = vim.g.colors_name or '' }";
const GIVE_BACK: &str = "local kept = vim.g.wealdmist_tried
if kept then
  vim.g.wealdmist_tried = nil
  vim.o.background = kept.background
  vim.o.termguicolors = kept.termguicolors
  vim.cmd('highlight clear')
  vim.g.colors_name = nil
  if kept.name ~= '' then pcall(vim.cmd, 'colorscheme ' .. kept.name) end
end";

/// Puts back what a trial had changed; the files' own colors are read again after it.
pub(super) fn unwear(row: &Themed, survey: &Survey) {
    for socket in sockets(&row.live, survey, false) {
        if let Some(Ok(mut editor)) = connect(row, &socket, survey) {
            let _ = editor.lua(GIVE_BACK);
        }
    }
}

/// Tells one running editor, if so wanted, and asks it.
fn one(
    row: &Themed,
    socket: &Path,
    survey: &Survey,
    report: &ToolReport,
    tell: bool,
) -> Option<Answer> {
    let who = name_of(row, socket);
    let mut editor = match connect(row, socket, survey)? {
        Ok(editor) => editor,
        Err(outcome) => return Some(answer(row.id, who, outcome)),
    };
    let outcome = if tell {
        reload(row, &mut editor, report)
    } else {
        None
    };
    Some(answer(
        row.id,
        who,
        outcome.unwrap_or_else(|| verify(row, &mut editor, report)),
    ))
}

fn reload(row: &Themed, editor: &mut Editor, report: &ToolReport) -> Option<Outcome> {
    let theme = report.effective(&RoleId::from(Property::Theme))?;
    let Value::Text(name) = &theme.value else {
        return None;
    };
    let fine = name
        .chars()
        .all(|c| c.is_ascii_alphanumeric() || matches!(c, '_' | '-' | '.'));
    if !fine {
        return Some(Outcome::Unreached(format!(
            "the theme's name '{name}' cannot be passed on safely"
        )));
    }
    if let Err(why) = editor.call(
        "nvim_command",
        vec![Rpc::from(format!("colorscheme {name}"))],
    ) {
        return Some(Outcome::Differs(vec![format!(
            "colorscheme {name} failed: {why}"
        )]));
    }
    // Overrides in the init file stand after the theme and would only come back at a restart.
    let init = report.files.first()?.path.clone();
    for group in row.live_groups(report, Some(&init)) {
        let name = group.name;
        let is_name = |name: &str| {
            let is_safe = |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | '@' | '.');
            name.chars().all(is_safe)
        };
        let link = group.attributes.and_then(|a| a.link.as_deref());
        let command = match link {
            Some(target) => format!("highlight! link {name} {target}"),
            None => format!("highlight {name}{}", settings(&group)),
        };
        if is_name(name)
            && link.is_none_or(is_name)
            && let Err(why) = editor.call("nvim_command", vec![Rpc::from(command)])
        {
            return Some(Outcome::Differs(vec![format!("{name}: {why}")]));
        }
    }
    None
}

/// What a group is told: colors and attributes, also that it has none.
fn settings(group: &LiveGroup) -> String {
    let mut out = String::new();
    for (side, key) in ["guifg", "guibg"].into_iter().enumerate() {
        let is_bare = group.attributes.is_some_and(|a| a.bare[side]);
        match group.colors[side] {
            Some(color) => out.push_str(&format!(" {key}={color}")),
            None if is_bare => out.push_str(&format!(" {key}=NONE")),
            None => {}
        }
    }
    if let Some(attributes) = group.attributes {
        let words = match attributes.words.is_empty() {
            true => "NONE".to_owned(),
            false => attributes.words.join(","),
        };
        out.push_str(&format!(" gui={words}"));
        if let Some(special) = attributes.special {
            out.push_str(&format!(" guisp={special}"));
        }
    }
    out
}

fn verify(row: &Themed, editor: &mut Editor, report: &ToolReport) -> Outcome {
    let mut pairs = Vec::new();
    for group in row.live_groups(report, None) {
        let name = group.name;
        let arguments = vec![Rpc::from(name), Rpc::from(true)];
        let shown = match editor.call("nvim_get_hl_by_name", arguments) {
            Ok(Rpc::Map(map)) => map,
            Ok(_) => Vec::new(),
            Err(why) if why.contains("does not answer") => return Outcome::Unreached(why),
            Err(_) => Vec::new(),
        };
        let get = |name: &str| {
            let value = shown
                .iter()
                .find(|(k, _)| k.as_str() == Some(name))?
                .1
                .as_u64()?;
            Some(wealdmist_core::Rgb::from_u32(value as u32).to_string())
        };
        let sides = [("text", "foreground"), ("ground", "background")];
        for ((what, key), wanted) in sides.into_iter().zip(group.colors) {
            if let Some(wanted) = wanted {
                pairs.push((
                    format!("{name} {what}"),
                    wanted.to_string(),
                    get(key).unwrap_or_default(),
                ));
            }
        }
        if let Some(attributes) = group.attributes {
            let on = shown.iter().filter(|(_, v)| v.as_bool() == Some(true));
            let on = on.filter_map(|(k, _)| row.language.attribute(k.as_str()?));
            let mut on: Vec<&str> = on.collect();
            let mut wanted = attributes.words.clone();
            on.sort_unstable();
            wanted.sort_unstable();
            let said = |words: Vec<&str>| match words.is_empty() {
                true => "plain".to_owned(),
                false => words.join(" "),
            };
            pairs.push((format!("{name} style"), said(wanted), said(on)));
        }
    }
    compare(pairs)
}
