//! The commands and options there are: those of tmux 3.3a, as `list-commands` and `show-options` say.

use std::sync::OnceLock;

/// Every command and its short name; the last ones are aliases that the program comes with.
const COMMANDS: &[(&str, &str)] = &[
    ("attach-session", "attach"),
    ("bind-key", "bind"),
    ("break-pane", "breakp"),
    ("capture-pane", "capturep"),
    ("choose-buffer", ""),
    ("choose-client", ""),
    ("choose-tree", ""),
    ("clear-history", "clearhist"),
    ("clear-prompt-history", "clearphist"),
    ("clock-mode", ""),
    ("command-prompt", ""),
    ("confirm-before", "confirm"),
    ("copy-mode", ""),
    ("customize-mode", ""),
    ("delete-buffer", "deleteb"),
    ("detach-client", "detach"),
    ("display-menu", "menu"),
    ("display-message", "display"),
    ("display-popup", "popup"),
    ("display-panes", "displayp"),
    ("find-window", "findw"),
    ("has-session", "has"),
    ("if-shell", "if"),
    ("join-pane", "joinp"),
    ("kill-pane", "killp"),
    ("kill-server", ""),
    ("kill-session", ""),
    ("kill-window", "killw"),
    ("last-pane", "lastp"),
    ("last-window", "last"),
    ("link-window", "linkw"),
    ("list-buffers", "lsb"),
    ("list-clients", "lsc"),
    ("list-commands", "lscm"),
    ("list-keys", "lsk"),
    ("list-panes", "lsp"),
    ("list-sessions", "ls"),
    ("list-windows", "lsw"),
    ("load-buffer", "loadb"),
    ("lock-client", "lockc"),
    ("lock-server", "lock"),
    ("lock-session", "locks"),
    ("move-pane", "movep"),
    ("move-window", "movew"),
    ("new-session", "new"),
    ("new-window", "neww"),
    ("next-layout", "nextl"),
    ("next-window", "next"),
    ("paste-buffer", "pasteb"),
    ("pipe-pane", "pipep"),
    ("previous-layout", "prevl"),
    ("previous-window", "prev"),
    ("refresh-client", "refresh"),
    ("rename-session", "rename"),
    ("rename-window", "renamew"),
    ("resize-pane", "resizep"),
    ("resize-window", "resizew"),
    ("respawn-pane", "respawnp"),
    ("respawn-window", "respawnw"),
    ("rotate-window", "rotatew"),
    ("run-shell", "run"),
    ("save-buffer", "saveb"),
    ("select-layout", "selectl"),
    ("select-pane", "selectp"),
    ("select-window", "selectw"),
    ("send-keys", "send"),
    ("send-prefix", ""),
    ("server-access", ""),
    ("set-buffer", "setb"),
    ("set-environment", "setenv"),
    ("set-hook", ""),
    ("set-option", "set"),
    ("set-window-option", "setw"),
    ("show-buffer", "showb"),
    ("show-environment", "showenv"),
    ("show-hooks", ""),
    ("show-messages", "showmsgs"),
    ("show-options", "show"),
    ("show-prompt-history", "showphist"),
    ("show-window-options", "showw"),
    ("source-file", "source"),
    ("split-window", "splitw"),
    ("start-server", "start"),
    ("suspend-client", "suspendc"),
    ("swap-pane", "swapp"),
    ("swap-window", "swapw"),
    ("switch-client", "switchc"),
    ("unbind-key", "unbind"),
    ("unlink-window", "unlinkw"),
    ("wait-for", "wait"),
    ("split-pane", "splitp"),
    ("server-info", "info"),
    ("choose-window", ""),
    ("choose-session", ""),
];

/// The full name of a command, which may be cut as long as it stays the only one.
pub(super) fn command(name: &str) -> Option<&'static str> {
    if name.is_empty() {
        return None;
    }
    let exact = |c: &&(&str, &str)| c.0 == name || c.1 == name;
    if let Some(found) = COMMANDS.iter().find(exact) {
        return Some(found.0);
    }
    let mut found = COMMANDS.iter().filter(|c| c.0.starts_with(name));
    let first = found.next()?.0;
    found.next().is_none().then_some(first)
}

/// What an option belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Scope {
    Server,
    Session,
    Window,
}

/// What an option holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kind {
    Style,
    Color,
    Text,
    Array,
    Other,
}

/// An option.
#[derive(Debug, Clone, Copy)]
pub(super) struct Known {
    pub(super) name: &'static str,
    pub(super) scope: Scope,
    pub(super) kind: Kind,
    /// What it is when nothing sets it.
    pub(super) default: &'static str,
}

/// All options, sorted by name.
fn options() -> &'static [Known] {
    static ALL: OnceLock<Vec<Known>> = OnceLock::new();
    ALL.get_or_init(|| {
        let lines = include_str!("options.tsv").lines();
        let known = |line: &'static str| {
            let mut parts = line.splitn(4, '\t');
            Some(Known {
                name: parts.next()?,
                scope: match parts.next()? {
                    "server" => Scope::Server,
                    "session" => Scope::Session,
                    _ => Scope::Window,
                },
                kind: match parts.next()? {
                    "style" => Kind::Style,
                    "colour" => Kind::Color,
                    "text" => Kind::Text,
                    "array" => Kind::Array,
                    _ => Kind::Other,
                },
                default: parts.next()?,
            })
        };
        lines
            .filter(|l| !l.starts_with('#'))
            .filter_map(known)
            .collect()
    })
}

/// The option of a name, which may be cut as long as it stays the only one, and may have `color` for
/// `colour`.
pub(super) fn option(name: &str) -> Option<&'static Known> {
    let all = options();
    let find = |name: &str| {
        all.binary_search_by(|k| k.name.cmp(name))
            .ok()
            .map(|i| &all[i])
    };
    let spelled = || find(&name.replace("color", "colour"));
    if let Some(found) = find(name).or_else(spelled) {
        return Some(found);
    }
    let mut found = all.iter().filter(|k| k.name.starts_with(name));
    let first = found.next().filter(|_| !name.is_empty())?;
    found.next().is_none().then_some(first)
}

/// What an option is when nothing sets it.
pub(super) fn default(name: &str) -> Option<&'static str> {
    let all = options();
    let found = all.binary_search_by(|k| k.name.cmp(name)).ok()?;
    Some(all[found].default)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_may_be_cut_while_they_stay_the_only_ones() {
        assert_eq!(command("set"), Some("set-option"));
        assert_eq!(command("set-o"), Some("set-option"));
        assert_eq!(command("set-"), None);
        assert_eq!(command("source"), Some("source-file"));
        assert_eq!(command("nosuch"), None);
        assert!(options().is_sorted_by_key(|k| k.name) && options().len() > 100);
        assert_eq!(option("status-sty").unwrap().name, "status-style");
        assert_eq!(
            option("clock-mode-color").unwrap().name,
            "clock-mode-colour"
        );
        assert!(option("window-status-").is_none() && option("").is_none());
        assert_eq!(default("status-style"), Some("bg=green,fg=black"));
    }
}
