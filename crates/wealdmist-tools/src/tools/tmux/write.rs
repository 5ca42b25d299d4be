//! Lines that are added: options of roles that are not in the files yet, and the one that keeps 24-bit colors.

use std::ops::Range;

use wealdmist_core::plan::{Left, Splice};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Place, SourceFile, ToolReport};
use wealdmist_core::role::RoleId;

use crate::Wanted;
use crate::access::Access;
use crate::document::commands::{self, Command};
use crate::shared::{self, Edits};

use super::{STYLED, TMUX, Tmux};

/// The numbers of the features of terminals that the files set.
pub(super) fn feature_indices(report: &ToolReport) -> Vec<u64> {
    const NAME: &[u8] = b"terminal-features[";
    let mut out = Vec::new();
    for file in &report.files {
        for at in memchr::memmem::find_iter(&file.bytes, NAME) {
            let digits = file.bytes[at + NAME.len()..].iter().take(9);
            let digits = digits.take_while(|b| b.is_ascii_digit());
            out.push(digits.fold(0, |n, b| n * 10 + u64::from(b - b'0')));
        }
    }
    out
}

/// Whether what is added is a command of its own: behind a quote that never ends it would be text.
fn is_read(bytes: &[u8], splice: &Splice) -> bool {
    fn any(all: &[Command], added: &Range<usize>) -> bool {
        all.iter().any(|command| {
            let mut blocks = command.words.iter().filter_map(|w| w.block.as_ref());
            added.contains(&command.span.start) || blocks.any(|inner| any(inner, added))
        })
    }
    let after = wealdmist_core::plan::splice(bytes, std::slice::from_ref(splice));
    let added = splice.range.start..splice.range.start + splice.with.len();
    commands::parse(&after).is_ok_and(|all| any(&all, &added))
}

/// What is said of a line that has no place in a file.
fn no_place(file: &SourceFile, what: String) -> Left {
    Left {
        tool: TMUX,
        place: Place::new(file, file.bytes.len()..file.bytes.len()),
        what,
        why: "behind a quote or brace that does not end it would be no line of its own",
    }
}

impl Tmux {
    /// Adds the line that keeps 24-bit colors. An array index instead of appending, so that the
    /// file can be read any number of times.
    pub(super) fn mend_depth(
        &self,
        report: &ToolReport,
        reading: &wealdmist_core::reading::Reading,
        edits: &mut Edits,
        indices: &mut Vec<u64>,
        left: &mut Vec<Left>,
    ) {
        let Some(file) = report.file(&reading.place.path) else {
            return;
        };
        let term = reading.key.rsplit(' ').next().unwrap_or("*");
        // A pattern of terminal names, as another tool's dotfile says it.
        let pattern = match term {
            "*" => Code::fixed("*"),
            term => match quote(term, &[Quoting::Word]) {
                Some(pattern) => pattern,
                None => return,
            },
        };
        // The first from 80 on that no line has: the program's own stand below.
        let index = (80..).find(|i| !indices.contains(i)).unwrap_or(80);
        indices.push(index);
        let line = Code::of(
            "set -s 'terminal-features[{}]' '{}:RGB'",
            &[&Code::whole(index), &pattern],
        );
        let why = format!("24-bit colors for programs under {term}");
        let has_line = reading.place.span.end > reading.place.span.start;
        let mut splice = if has_line {
            shared::line_below(&file.bytes, reading.place.span.start, &line, why)
        } else {
            shared::append_line(&file.bytes, &line, why)
        };
        splice.role = Some(reading.role.clone());
        match is_read(&file.bytes, &splice) {
            true => edits.add(&reading.place.path, splice),
            false => left.push(no_place(file, splice.why)),
        }
    }

    /// Adds the options of roles the setup wants here and the files do not set.
    pub(super) fn add_missing(
        &self,
        wanted: &Wanted,
        report: &ToolReport,
        access: &dyn Access,
        edits: &mut Edits,
        left: &mut Vec<Left>,
    ) {
        let adds = wanted.setup.tool(TMUX).adds;
        if adds.is_empty() {
            return;
        }
        let main = report.files.iter().find(|f| f.included_from.is_none());
        let path = match main {
            Some(file) => file.path.clone(),
            None if access.has_program("tmux") => access.config_home().join("tmux/tmux.conf"),
            None => return,
        };
        let bytes = main.map_or(&[][..], |f| &f.bytes[..]);
        for (option, text_role, ground_role) in STYLED.iter().filter(|s| s.0.ends_with("style")) {
            let mut parts = Vec::new();
            for (key, role) in [("fg", *text_role), ("bg", *ground_role)] {
                let role = RoleId::known(role);
                if adds.contains(&role) && report.effective(&role).is_none() {
                    let color = Code::color(wanted.look.color(&role));
                    parts.push(Code::of("{}={}", &[&Code::fixed(key), &color]));
                }
            }
            if !parts.is_empty() {
                let parts = Code::join(&parts, ",");
                let line = Code::of("set -g {} \"{}\"", &[&Code::fixed(option), &parts]);
                let why = format!("{option}: {} (not in the file yet)", parts.lossy());
                let splice = shared::append_line(bytes, &line, why);
                match main.filter(|_| !is_read(bytes, &splice)) {
                    Some(file) => left.push(no_place(file, splice.why)),
                    None => edits.add(&path, splice),
                }
            }
        }
    }
}
