//! What the program does by itself, module by module, and of which type each of its keys is.

use std::collections::HashMap;
use std::sync::LazyLock;

/// A key of a module.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Key {
    /// Its type: `s` text, `b` yes or no, `i` number, `a` list, `t` table.
    pub kind: char,
    /// What it is by itself, where that is told.
    pub value: Option<&'static str>,
}

/// What is known of all modules.
pub struct Known {
    /// Those that `$all` stands for, in their order.
    pub all: Vec<&'static str>,
    /// The keys of each.
    pub modules: HashMap<&'static str, HashMap<&'static str, Key>>,
}

/// All of it.
pub static KNOWN: LazyLock<Known> = LazyLock::new(|| {
    let mut known = Known {
        all: Vec::new(),
        modules: HashMap::new(),
    };
    let lines = include_str!("modules.tsv").lines();
    for line in lines.filter(|line| !line.starts_with('#')) {
        let mut fields = line.split('\t');
        let name = fields.next().unwrap_or_default();
        if name == "all" {
            known.all = fields.collect();
            continue;
        }
        let key = |field: &'static str| {
            let (name, rest) = field.split_once(':')?;
            let mut letters = rest.chars();
            let kind = letters.next()?;
            let value = letters.as_str().strip_prefix('=');
            Some((name, Key { kind, value }))
        };
        known.modules.insert(name, fields.filter_map(key).collect());
    }
    known
});

/// What a module's parts tell: the part of ours, by its name.
pub const LANGUAGES: [(&str, &str); 21] = [
    ("c", "c"),
    ("cmake", "c"),
    ("dart", "dart"),
    ("deno", "deno"),
    ("docker_context", "docker"),
    ("elixir", "elixir"),
    ("golang", "go"),
    ("haskell", "haskell"),
    ("java", "java"),
    ("julia", "julia"),
    ("lua", "lua"),
    ("nix_shell", "nix"),
    ("nodejs", "node"),
    ("ocaml", "ocaml"),
    ("perl", "perl"),
    ("php", "php"),
    ("python", "python"),
    ("ruby", "ruby"),
    ("rust", "rust"),
    ("scala", "scala"),
    ("zig", "zig"),
];

/// The job of what a module draws.
pub fn job(module: &str) -> Option<&'static str> {
    if LANGUAGES.iter().any(|(name, _)| *name == module) {
        return Some("prompt.language");
    }
    Some(match module {
        "directory" => "prompt.folder",
        "username" => "prompt.user",
        "hostname" | "localip" => "prompt.host",
        "git_branch" | "git_commit" => "prompt.branch",
        "git_status" | "git_metrics" => "prompt.dirty",
        "git_state" => "prompt.operation",
        "status" => "prompt.failure",
        "character" => "prompt.sign",
        "cmd_duration" => "prompt.duration",
        "jobs" => "prompt.jobs",
        "time" => "prompt.time",
        "battery" => "prompt.battery",
        "memory_usage" => "prompt.load",
        "conda" | "env_var" | "container" | "shlvl" => "prompt.environment",
        "fill" => "prompt.between",
        _ => return None,
    })
}

/// Whether what a module draws is a part of ours, so that it is spoken of where nobody names it.
pub fn is_told(module: &str) -> bool {
    !matches!(
        module,
        "localip" | "git_commit" | "git_metrics" | "fill" | "env_var" | "conda" | "container"
    ) && job(module).is_some_and(|job| job != "prompt.language")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_module_named_is_one() {
        let known = &KNOWN.modules;
        assert!(KNOWN.all.len() > 80 && known.len() > 100);
        for (module, part) in LANGUAGES {
            assert!(known.contains_key(module), "{module}");
            assert!(
                wealdmist_core::prompt::Part::named(part).is_some(),
                "{part}"
            );
        }
        for module in KNOWN.all.iter().filter(|m| is_told(m)) {
            assert!(known[module]["format"].value.is_some(), "{module}");
        }
        assert_eq!(known["directory"]["truncation_length"].kind, 'i');
        assert_eq!(known["hostname"]["ssh_only"].value, Some("true"));
    }
}
