//! How a prompt asks a repository it did not choose. Every shell's generator takes it from here.
//!
//! A prompt is drawn in whatever folder one enters: a clone, an unpacked archive, a share that
//! others write to. `git status` obeys the configuration it finds there, which can name programs.
//! So that nothing of the repository's choosing runs, nothing reaches the network and nothing
//! hangs, a generated prompt
//!
//! 1. tells git which repository is meant (`GIT_DIR`, `GIT_WORK_TREE`): the one whose `.git` it
//!    found, not one that git would find by its own rules in a folder that merely looks like one;
//! 2. reads the branch itself, from a `HEAD` that is a regular file; where none is checked out, the tag that was, from
//!    the log of what `HEAD` was, if there is such a tag;
//! 3. asks for changes only where the folder and its `.git` belong to the person, and where no
//!    file of its configuration says anything of [`REFUSED`]; else a sign stands for the answer;
//! 4. asks with [`ARGUMENTS`] and [`ENVIRONMENT`], which switch off what else could run or reach
//!    out, and waits no longer than [`BUDGET`];
//! 5. asks a repository that takes longer beside the prompt ([`LATER`]), ends git after [`SECONDS`], and draws
//!    what it said last with a sign that this was before;
//! 6. draws names only after what a terminal would act on is taken out of them, and never lets
//!    the shell expand them a second time.

use wealdmist_core::prompt::Item;
use wealdmist_core::quote::Code;

/// What stands before `status`: settings that hold whatever the repository says.
pub const ARGUMENTS: [&str; 10] = [
    // A program that tells which files changed.
    "-c core.fsmonitor=false",
    // Programs run on events, of which writing the index is one.
    "-c core.hooksPath=/dev/null",
    "-c core.untrackedCache=keep",
    "-c status.submoduleSummary=false",
    "-c submodule.recurse=false",
    "-c safe.bareRepository=explicit",
    "-c core.sshCommand=false",
    "-c core.askPass=",
    "-c credential.helper=",
    "-c protocol.allow=never",
];

/// The question: one call, one line for each change, no look into submodules, and nothing that
/// would need objects that are not here.
pub const QUESTION: &str =
    "status --porcelain=v2 --branch --no-ahead-behind --no-renames --ignore-submodules=all";

/// The same where changes are told by their kind: how far the branch is from what it follows, and what was
/// put aside.
pub const QUESTION_OF_COUNTS: &str = "status --porcelain=v2 --branch --ahead-behind --show-stash --no-renames --ignore-submodules=all";

/// The question about lines: how many were added and removed since the last commit. Nothing is renamed, and no
/// program that shows or converts what differs is run.
pub const QUESTION_OF_LINES: &str = "diff --shortstat --no-ext-diff --no-textconv --no-renames --no-relative --no-color --ignore-submodules=all -O/dev/null HEAD";

/// Asks both, as a script of any shell; git is ended with it.
const BOTH: &str = r#"stop() { kill $!; }; trap stop TERM; asks() { git @ARGUMENTS@ "$@" & wait $!; }; asks @QUESTION@ && { asks @LINES@; :; }"#;

/// The environment the question is asked in: no writing, no fetching, no prompting, whatever way
/// of reaching out the repository names.
pub const ENVIRONMENT: [(&str, &str); 8] = [
    ("GIT_OPTIONAL_LOCKS", "0"),
    ("GIT_NO_LAZY_FETCH", "1"),
    ("GIT_ALLOW_PROTOCOL", "none"),
    ("GIT_TERMINAL_PROMPT", "0"),
    ("GIT_ASKPASS", ""),
    ("SSH_ASKPASS", ""),
    ("GIT_SSH_COMMAND", "false"),
    ("GIT_PROXY_COMMAND", "false"),
];

/// What a repository's own configuration must not say anywhere, in lower case: filters, which are
/// programs that files are read through; files that are read as more configuration, which could
/// say the same; objects that are fetched when they are needed.
pub const REFUSED: [&str; 5] = [
    "[filter",
    "[include",
    "partialclone",
    "promisor",
    "alternaterefs",
];

/// How large a configuration may be to be looked through, in bytes.
pub const MAX_CONFIGURATION: u32 = 64 << 10;

/// How long a prompt waits for the answer, in seconds.
pub const BUDGET: &str = "0.25";

/// The same in milliseconds.
pub const BUDGET_MS: u32 = 250;

/// How long the question may take beside the prompt, in seconds.
pub const SECONDS: u32 = 10;

/// Asks beside the prompt, as a script of any shell: where the answer is put once it is whole, and the question. What
/// it says itself tells nothing but that it has ended.
pub const LATER: &str = r#"mkdir -p "${1%/*}"; out=$1; shift; "$@" >"$out.new" & git=$!; (sleep @SECONDS@; kill $git; sleep 1; kill -9 $git) >/dev/null & late=$!; wait $git && mv -f "$out.new" "$out"; rm -f "$out.new"; kill $late"#;

/// What a script asks with, by the marks that stand for it: the whole call, what it is made of, limits; `counted` are
/// the kinds by which changes are told.
#[must_use]
pub fn asked(counted: &[Item]) -> [(&'static str, Code); 7] {
    let question = Code::fixed(match counted {
        [] => QUESTION,
        _ => QUESTION_OF_COUNTS,
    });
    let arguments = Code::join(&ARGUMENTS.map(Code::fixed), " ");
    let both = Code::filled(
        BOTH,
        &[
            ("@ARGUMENTS@", arguments.clone()),
            ("@QUESTION@", question.clone()),
            ("@LINES@", Code::fixed(QUESTION_OF_LINES)),
        ],
    );
    let asks = match counted.iter().any(|item| item.is_of_lines()) {
        false => Code::of("git {} {}", &[&arguments, &question]),
        true => Code::of("sh -c '{}'", &[&both]),
    };
    [
        ("@ARGUMENTS@", arguments),
        ("@QUESTION@", question),
        ("@BOTH@", both),
        ("@ASKS@", asks),
        ("@BUDGET@", Code::fixed(BUDGET)),
        (
            "@LATER@",
            Code::filled(LATER, &[("@SECONDS@", Code::whole(SECONDS))]),
        ),
        ("@CONFIGURATION@", Code::whole(MAX_CONFIGURATION)),
    ]
}
