//! The multiplexer tmux: `tmux.conf` with the files it sources.
//!
//! Colors stand inside style strings and formats; they are read there and replaced there, byte
//! by byte, so conditions, padding and the person's own formats stay.

mod eval;
mod format;
mod options;
mod read;
mod style;
mod vocabulary;
mod write;

use std::path::{Path, PathBuf};

use wealdmist_core::glyph::Syntax;
use wealdmist_core::plan::Plan;
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{SourceFile, ToolId, ToolReport};

use crate::access::Access;
use crate::document::commands::{self, Command, Word};
use crate::engine::{Engine, Options, StatedOption};
use crate::glyphs;
use crate::shared::Edits;
use crate::{Adapter, Facts, Live, Reload, Wanted};

use options::SetCommand;
use read::Reader;
use write::feature_indices;

use options::stated_options;

/// The tool's id.
pub const TMUX: ToolId = ToolId("tmux");

/// The adapter.
pub struct Tmux;

/// Options that hold a style or a format, with the roles of its text and ground.
const STYLED: &[(&str, &str, &str)] = &[
    ("status-style", "bar.text", "bar.ground"),
    ("status-left-style", "bar.left.text", "bar.left.ground"),
    ("status-right-style", "bar.right.text", "bar.right.ground"),
    ("status-left", "bar.left.text", "bar.left.ground"),
    ("status-right", "bar.right.text", "bar.right.ground"),
    (
        "window-status-style",
        "bar.window.text",
        "bar.window.ground",
    ),
    (
        "window-status-format",
        "bar.window.text",
        "bar.window.ground",
    ),
    (
        "window-status-current-style",
        "bar.current.text",
        "bar.current.ground",
    ),
    (
        "window-status-current-format",
        "bar.current.text",
        "bar.current.ground",
    ),
    (
        "window-status-last-style",
        "bar.last.text",
        "tmux.window-status-last-style.ground",
    ),
    (
        "window-status-bell-style",
        "bar.alert.text",
        "tmux.window-status-bell-style.ground",
    ),
    (
        "window-status-activity-style",
        "bar.alert.text",
        "tmux.window-status-activity-style.ground",
    ),
    ("message-style", "message.text", "message.ground"),
    ("message-command-style", "message.text", "message.ground"),
    ("mode-style", "selection-text", "selection"),
    ("copy-mode-match-style", "search.text", "search.ground"),
    (
        "copy-mode-current-match-style",
        "search.current.text",
        "search.current.ground",
    ),
    (
        "pane-border-style",
        "border.inactive",
        "tmux.pane-border-style.ground",
    ),
    (
        "pane-active-border-style",
        "border.active",
        "tmux.pane-active-border-style.ground",
    ),
    ("popup-style", "popup.text", "popup.ground"),
    (
        "window-style",
        "tmux.window-style.text",
        "tmux.window-style.ground",
    ),
    (
        "window-active-style",
        "tmux.window-active-style.text",
        "tmux.window-active-style.ground",
    ),
];

/// Options that hold one color.
const SINGLE: &[(&str, &str)] = &[
    ("status-fg", "bar.text"),
    ("status-bg", "bar.ground"),
    ("display-panes-active-colour", "border.active"),
    ("display-panes-colour", "border.inactive"),
    ("clock-mode-colour", "tmux.clock-mode-colour.text"),
    ("cursor-colour", "cursor"),
];

/// The files the program reads, in the order it reads them; all that exist count.
fn candidates(access: &dyn Access) -> Vec<PathBuf> {
    let mut out = vec![
        access.home().join(".tmux.conf"),
        access.config_home().join("tmux/tmux.conf"),
    ];
    let usual = access.home().join(".config/tmux/tmux.conf");
    if !out.contains(&usual) {
        out.push(usual);
    }
    out
}

/// Options whose value is drawn, beside the styled ones: formats of titles and borders.
const DRAWN: [&str; 5] = [
    "set-titles-string",
    "pane-border-format",
    "status-format",
    "window-status-separator",
    "automatic-rename-format",
];

/// The values of options that are drawn, in the order they stand.
fn drawn_texts<'a>(commands: &'a [Command], out: &mut Vec<&'a Word>) {
    for command in commands {
        if let Some(set) = SetCommand::read(command) {
            let option = set.option.lossy().replace("color", "colour");
            let option = option.split('[').next().unwrap_or_default().to_owned();
            let known = STYLED
                .iter()
                .any(|s| s.0 == option && !option.ends_with("-style"));
            if known || DRAWN.contains(&option.as_str()) {
                out.extend(set.value);
            }
        }
        for block in command.words.iter().filter_map(|w| w.block.as_ref()) {
            drawn_texts(block, out);
        }
    }
}

/// Whether a format stands in a command to the shell, `#(…)`, at its end.
fn open_command(format: &[u8]) -> bool {
    let (mut depth, mut at) = (0usize, 0);
    while at < format.len() {
        match (format[at], format.get(at + 1)) {
            (b'#', Some(b'(')) => {
                depth += 1;
                at += 1;
            }
            (b'(', _) if depth > 0 => depth += 1,
            (b')', _) => depth = depth.saturating_sub(1),
            _ => {}
        }
        at += 1;
    }
    depth > 0
}

impl Options for Tmux {
    fn stated(&self, report: &ToolReport) -> Vec<StatedOption> {
        stated_options(report)
    }

    fn values(&self, report: &ToolReport) -> Vec<(String, bool, String)> {
        report.stated.clone()
    }
}

impl Adapter for Tmux {
    fn id(&self) -> ToolId {
        TMUX
    }

    fn kind(&self) -> &'static str {
        "multiplexer"
    }

    fn live(&self) -> &Live {
        const LIVE: Live = Live {
            inside: Some("TMUX"),
            sockets: &["{TMUX_TMPDIR:/tmp}/tmux-{uid}/*"],
            asking: Some(crate::live::Asking {
                program: "tmux",
                arguments: &[
                    "-S",
                    "{scratch}/s",
                    "new-session",
                    "-d",
                    "-x",
                    "80",
                    "-y",
                    "24",
                    "cat",
                    ";",
                    "display-message",
                    "-p",
                    "\u{1e}@-s",
                    ";",
                    "show-options",
                    "-s",
                    ";",
                    "display-message",
                    "-p",
                    "@-g",
                    ";",
                    "show-options",
                    "-g",
                    ";",
                    "display-message",
                    "-p",
                    "@-gw",
                    ";",
                    "show-options",
                    "-gw",
                ],
                script: None,
                ends: &["-S", "{scratch}/s", "kill-server"],
                dotfile: |said| (".tmux.conf", options::as_commands(said)),
            }),
            ..Live::own(
                Reload::Socket,
                "at once, in every server of this home; color depth when a client attaches again",
            )
        };
        &LIVE
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Options(self)
    }

    fn syntax(&self, _path: &Path) -> Syntax {
        Syntax::Shell
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let commands = commands::parse(&file.bytes).unwrap_or_default();
        let mut drawn = Vec::new();
        drawn_texts(&commands, &mut drawn);
        let quotes = glyphs::shell_quotes(&file.bytes, places);
        let of = |(quotes, at): (Option<Quoting>, &usize)| {
            // They stand in the order of the file, and none in another.
            let next = drawn.partition_point(|w: &&Word| w.span.start <= *at);
            let word = next.checked_sub(1).map(|i| drawn[i]);
            let is_drawn = word
                .is_some_and(|w| w.span.contains(at) && !open_command(&w.text[..w.before(*at)]));
            let inner = if is_drawn {
                Quoting::BarText
            } else {
                Quoting::Inert
            };
            Some(vec![inner, quotes?])
        };
        quotes.into_iter().zip(places).map(of).collect()
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let mut reader = Reader::new(access);
        for path in candidates(access) {
            reader.file(&path);
        }
        reader.finish(facts)
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let (mut edits, mut left) = (Edits::default(), Vec::new());
        // A user option may hold the color of several roles: the first of them decides over it, or
        // each plan would take back what the last one did.
        let mut decided = std::collections::HashSet::new();
        let mut indices = feature_indices(report);
        for reading in report.readings.iter().filter(|r| r.effective) {
            if reading.role == Property::Depth.into() {
                if wanted.differs(TMUX, reading) {
                    self.mend_depth(report, reading, &mut edits, &mut indices, &mut left);
                }
                continue;
            }
            let place = (&reading.place.path, reading.place.span.clone());
            if !decided.insert(place) || !wanted.differs(TMUX, reading) {
                continue;
            }
            if reading.editable && !reading.role.is_property() {
                edits.replace(reading, Code::color(wanted.look.color(&reading.role)));
            }
        }
        self.add_missing(wanted, report, access, &mut edits, &mut left);
        Plan {
            edits: edits.finish(TMUX, report),
            left,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::style::{Found, styles};
    use super::*;
    use crate::Outer;
    use crate::access::MemoryAccess;
    use proptest::prelude::*;
    use wealdmist_core::Rgb;
    use wealdmist_core::look::Look;
    use wealdmist_core::plan::{Change, splice};
    use wealdmist_core::reading::{Drawn, Value};
    use wealdmist_core::role::{RoleId, Usage};
    use wealdmist_core::setup::SetupDoc;

    fn access(conf: &str) -> MemoryAccess {
        MemoryAccess::with(&[(".tmux.conf", conf)])
    }

    fn outer(term: &str) -> Outer {
        Outer {
            tool: ToolId("t"),
            term: term.to_owned(),
            ground: None,
        }
    }

    fn read(conf: &str, term: Option<&str>) -> ToolReport {
        let mut facts = Facts {
            terminals: term.map(outer).into_iter().collect(),
            ..Facts::default()
        };
        Tmux.read(&access(conf), &mut facts)
    }

    fn said(report: &ToolReport) -> Vec<String> {
        let row = |r: &wealdmist_core::reading::Reading| format!("{}={}", r.role, r.value);
        report
            .readings
            .iter()
            .filter(|r| r.effective && !r.is_default())
            .map(row)
            .collect()
    }

    #[test]
    fn styles_and_formats_are_read_where_they_stand() {
        let report = read(
            "set -g status-style bg=#101010,fg=white\nset -g status-left \"#{?client_prefix,#[fg=#000001#,bg=#000002],#[fg=#000003]} #S #[fg=#000004 bold]x\"\nsetw -g window-status-bell-style 'fg=colour75 bold'\n",
            None,
        );
        assert_eq!(
            said(&report),
            [
                "bar.text=white",
                "bar.ground=#101010",
                "bar.prefix.text=#000001",
                "bar.prefix.ground=#000002",
                "bar.left.text=#000003",
                "tmux.status-left.3.text=#000004",
                "bar.alert.text=#5fafff",
            ]
        );
        for reading in report
            .readings
            .iter()
            .filter(|r| matches!(r.value, Value::Color(_)))
        {
            let text = &report.files[0].bytes[reading.place.span.clone()];
            let text = String::from_utf8_lossy(text);
            assert!(
                text == reading.value.to_string() || text == "colour75",
                "{text}"
            );
        }
    }

    #[test]
    fn a_variable_is_changed_where_it_is_set() {
        let conf = "set -g @edge '#334455'\nset -g pane-active-border-style 'fg=#{@edge}'\n";
        let report = read(conf, None);
        let reading = report.effective(&RoleId::known("border.active")).unwrap();
        assert_eq!(reading.value, Value::Color(Rgb::from_u32(0x33_4455)));
        assert_eq!(reading.place.at.line, 1);
    }

    #[test]
    fn a_later_value_takes_the_place_of_an_earlier_one() {
        let conf = "set -g status-style fg=#010101\nset -g status-style fg=#020202\nset -ga status-style bg=#030303\n";
        assert_eq!(
            said(&read(conf, None)),
            ["bar.text=#020202", "bar.ground=#030303"]
        );
    }

    #[test]
    fn the_chain_of_24_bit_color_is_walked() {
        let depth = |conf: &str, term: &str| {
            let report = read(conf, Some(term));
            report
                .effective(&RoleId::from(Property::Depth))
                .map(|r| r.value.to_string())
        };
        assert_eq!(
            depth("set -g mouse on\n", "xterm-kitty").as_deref(),
            Some("24-bit")
        );
        assert_eq!(
            depth("set -g mouse on\n", "xterm-256color").as_deref(),
            Some("256 colors")
        );
        let features = "set -as terminal-features ',xterm*:RGB'\n";
        assert_eq!(depth(features, "xterm-256color").as_deref(), Some("24-bit"));
        assert_eq!(depth(features, "foot").as_deref(), Some("256 colors"));
    }

    #[test]
    fn a_file_the_program_refuses_is_left_alone() {
        let report = read("set -g status-style fg=#010101\nif x {\n", None);
        assert!(report.problems[0].blocks_edits);
        assert_eq!(report.problems[0].at.unwrap().line, 2);
    }

    #[test]
    fn borders_are_judged_against_the_panes_at_both_sides() {
        let report = read(
            "set -g window-style 'bg=#202020'\nset -g window-active-style 'bg=#101010'\nset -g pane-border-style 'fg=#333333'\n",
            None,
        );
        let found: Vec<&Drawn> = report
            .drawn
            .iter()
            .filter(|d| d.what.starts_with("pane-border-style"))
            .collect();
        assert_eq!(found.len(), 3, "{found:?}");
        assert!(
            found
                .iter()
                .any(|d| d.what.ends_with("beside the active pane"))
        );
    }

    #[test]
    fn what_is_drawn_knows_both_its_colors() {
        let conf = "set -g status-style bg=#101010,fg=#eeeeee\nset -g status-right '#[fg=#777777]x'\nset -g pane-border-style fg=#222222\n";
        let report = read(conf, None);
        let right = report
            .drawn
            .iter()
            .find(|d| d.what == "status-right")
            .unwrap();
        let ground = &report.readings[right.ground.reading.unwrap()];
        assert_eq!(ground.value, Value::Color(Rgb::from_u32(0x10_1010)));
        let border = report
            .drawn
            .iter()
            .find(|d| d.what == "pane-border-style")
            .unwrap();
        assert_eq!(border.ground.role, RoleId::known("background"));
        assert_eq!(border.usage, Usage::Decoration);
    }

    #[test]
    fn stated_options_know_what_was_appended() {
        let conf = "set -g status-style fg=red\nset -as terminal-features ',x:RGB'\nsetw -g mode-keys vi\n";
        let options = stated_options(&read(conf, None));
        let find = |n: &str| options.iter().find(|o| o.name == n).unwrap();
        assert!(find("terminal-features").appended && find("terminal-features").scope == "-s");
        assert_eq!(find("mode-keys").scope, "-gw");
        assert!(!find("status-style").appended);
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n'bar.left.text'='#abcdef'\n'border.active'='#fedcba'\n";

    fn apply(conf: &str, term: &str) -> String {
        let setup = SetupDoc::parse("s", SETUP.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let access = access(conf);
        let report = Tmux.read(
            &access,
            &mut Facts {
                terminals: vec![outer(term)],
                ..Facts::default()
            },
        );
        let wanted = Wanted {
            setup: &setup,
            look: &look,
            catalog: None,
            home: std::path::Path::new(crate::access::MEMORY_HOME),
        };
        match Tmux
            .plan(&wanted, &report, &access)
            .edits
            .pop()
            .map(|e| e.change)
        {
            Some(Change::Splices(splices)) => {
                String::from_utf8(splice(conf.as_bytes(), &splices)).unwrap()
            }
            _ => conf.to_owned(),
        }
    }

    #[test]
    fn colors_are_replaced_inside_their_strings() {
        let conf = "# c\nset -g status-left \"#{?client_prefix,#[fg=#000001],#[fg=#000003#,bold]} #S\" # no comment\nset -g pane-active-border-style fg=green,bold\n";
        let after = apply(conf, "xterm-kitty");
        assert!(after.contains(",#[fg=#abcdef#,bold]} #S\""), "{after}");
        assert!(after.contains("fg=#fedcba,bold\n"), "{after}");
        let once = apply("set -g default-terminal tmux-256color\n", "xterm-256color");
        assert!(
            once.contains("\nset -s 'terminal-features[80]' 'xterm-256color:RGB'\n"),
            "{once}"
        );
        assert_eq!(
            apply(&once, "xterm-256color"),
            once,
            "a second plan is empty"
        );
    }

    proptest! {
        #[test]
        fn any_value_is_taken(value in "[a-z#{}?,=\\[\\] @0-9_]{0,60}", format in any::<bool>()) {
            for style in styles(value.as_bytes(), format, &|_| None) {
                for Found { range, .. } in [style.text, style.ground].into_iter().flatten() {
                    prop_assert!(range.end <= value.len());
                }
            }
        }
    }
}
