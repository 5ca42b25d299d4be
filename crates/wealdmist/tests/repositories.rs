//! The generated prompt in repositories made to do harm: nothing of the repository's choosing
//! runs, nothing reaches out, nothing hangs. The shell and git are the real ones.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::io::Write;
use std::net::TcpListener;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use std::process::Stdio;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use common::{Scratch, have, wait_for};

/// What makes a repository, and what the prompt must show there: a branch, with or without the
/// sign for what could not be asked, or nothing.
struct Kind(&'static str, &'static str, Shown);

#[derive(Debug, Clone, Copy, PartialEq)]
enum Shown {
    /// The branch and its changes.
    Whole(&'static str),
    /// The branch; the sign for what was not asked.
    Unasked(&'static str),
    /// Nothing of a repository.
    Nothing,
    /// Whatever it is, it comes in time.
    Any,
}
use Shown::{Any, Nothing, Unasked, Whole};

/// Shell text run in a new repository with one commit, in a folder of its own. A file of the same
/// size with other content makes git read it, through a filter if it has one. `$C` runs the canary, `$P` is a port where somebody listens.
const KINDS: &[Kind] = &[
    Kind("plain", "", Whole("main")),
    Kind("changed", "echo x >> file", Whole("main ±")),
    Kind(
        "monitor",
        "git config core.fsmonitor \"$C\"; echo x >> file",
        Whole("main ±"),
    ),
    Kind(
        "monitor-worktree-config",
        "git config extensions.worktreeConfig true; git config --worktree core.fsmonitor \"$C\"",
        Whole("main"),
    ),
    Kind(
        "filter-clean",
        "git config filter.x.clean \"$C\"; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-process",
        "git config filter.x.process \"$C\"; echo '* filter=x' > .gitattributes; touch file",
        Unasked("main"),
    ),
    Kind(
        "filter-info-attributes",
        "git config filter.x.clean \"$C\"; echo '* filter=x' > .git/info/attributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-upper-case",
        "printf '[FILTER.X]\\nclean = %s\\n' \"$C\" >> .git/config; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-one-line",
        "printf '[core] a = 1 [FiLtEr \"x\"] clean = %s\\n' \"$C\" >> .git/config; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-included",
        "printf '[filter \"x\"]\\nclean = %s\\n' \"$C\" > more; git config include.path ../more; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-included-if",
        "printf '[filter \"x\"]\\nclean = %s\\n' \"$C\" > more; git config 'includeIf.gitdir:**.path' ../more; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-worktree-config",
        "git config extensions.worktreeConfig true; git config --worktree filter.x.clean \"$C\"; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-behind-zero",
        "printf '\\0\\0[filter \"x\"]\\nclean = %s\\n' \"$C\" >> .git/config; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-far-down",
        "head -c 40000 /dev/zero | tr '\\0' '#' >> .git/config; printf '\\n[filter \"x\"]\\nclean = %s\\n' \"$C\" >> .git/config; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-beyond-limit",
        "head -c 90000 /dev/zero | tr '\\0' '#' >> .git/config; printf '\\n[filter \"x\"]\\nclean = %s\\n' \"$C\" >> .git/config; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "filter-of-linked-config",
        "cp .git/config other; printf '[filter \"x\"]\\nclean = %s\\n' \"$C\" >> other; ln -sf ../other .git/config; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "embedded-bare",
        "mkdir in; cd in; cp -r ../.git/. .; git config -f config core.bare false; git config -f config core.worktree .; git config -f config core.fsmonitor \"$C\"; git config -f config filter.x.clean \"$C\"; echo '* filter=x' > .gitattributes; echo a > a; git --git-dir=. --work-tree=. add a 2>/dev/null; rm -f \"$CANARY\"; echo b >> a",
        Whole("main ±"),
    ),
    Kind(
        "bare-alone",
        "cp -r .git ../bare; cd ../bare; rm -rf ../repo/.git; git config -f config core.bare false; git config -f config core.worktree .; git config -f config filter.x.clean \"$C\"; git config -f config core.fsmonitor \"$C\"; echo '* filter=x' > .gitattributes; echo a > a",
        Nothing,
    ),
    Kind(
        "git-file",
        "mv .git hidden; echo 'gitdir: hidden' > .git; git config filter.x.clean \"$C\"; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "git-link",
        "mv .git hidden; ln -s hidden .git; git config core.fsmonitor \"$C\"; echo y >> file",
        Whole("main ±"),
    ),
    Kind(
        "git-file-loop",
        "rm -rf .git; echo 'gitdir: .git' > .git",
        Nothing,
    ),
    Kind(
        "git-file-huge",
        "rm -rf .git; head -c 3000000 /dev/zero | tr '\\0' 'x' > .git",
        Nothing,
    ),
    Kind(
        "common-folder",
        "cp -r .git ../common; git config -f ../common/config filter.x.clean \"$C\"; echo ../../common > .git/commondir; echo '* filter=x' > .gitattributes; echo b > file",
        Unasked("main"),
    ),
    Kind(
        "other-worktree",
        "mkdir ../else; echo '* filter=x' > ../else/.gitattributes; git config core.worktree ../../else; git config core.fsmonitor \"$C\"; echo y >> file",
        Whole("main ±"),
    ),
    Kind(
        "linked-worktree",
        "git worktree add -q ../side; cd ../side; git config core.fsmonitor \"$C\"; echo y >> file",
        Whole("side ±"),
    ),
    Kind(
        "partial-ssh",
        "git config extensions.partialClone origin; git config remote.origin.promisor true; git config remote.origin.url ssh://127.0.0.1/x; git config core.sshCommand \"$C\"; rm -rf .git/objects/??; echo y >> file",
        Unasked("main"),
    ),
    Kind(
        "partial-ext",
        "git config remote.origin.promisor true; git config remote.origin.url \"ext::sh -c '$C'\"; git config protocol.ext.allow always; rm -rf .git/objects/??; echo y >> file",
        Unasked("main"),
    ),
    Kind(
        "partial-http",
        "git config remote.origin.promisor true; git config remote.origin.url http://127.0.0.1:$P/x; rm -rf .git/objects/??; echo y >> file",
        Unasked("main"),
    ),
    Kind(
        "objects-gone",
        "git config remote.origin.url http://127.0.0.1:$P/x; git config core.sshCommand \"$C\"; rm -rf .git/objects/??; echo y >> file",
        Any,
    ),
    Kind(
        "upload-pack",
        "git config remote.origin.url \"$PWD\"; git config remote.origin.uploadpack \"$C\"; git config remote.origin.vcs x; echo y >> file",
        Whole("main ±"),
    ),
    Kind(
        "credentials",
        "git config credential.helper \"!$C\"; git config core.askPass \"$C\"; git config http.proxy http://127.0.0.1:$P; git config core.gitProxy \"$C\"; echo y >> file",
        Whole("main ±"),
    ),
    Kind("head-fifo", "rm .git/HEAD; mkfifo .git/HEAD", Nothing),
    Kind(
        "head-endless",
        "rm .git/HEAD; ln -s /dev/zero .git/HEAD",
        Nothing,
    ),
    Kind(
        "head-huge",
        "head -c 5000000 /dev/zero | tr '\\0' 'a' > .git/HEAD",
        Any,
    ),
    Kind("head-folder", "rm .git/HEAD; mkdir .git/HEAD", Nothing),
    Kind(
        "config-fifo",
        "rm .git/config; mkfifo .git/config",
        Unasked("main"),
    ),
    Kind(
        "config-endless",
        "rm .git/config; ln -s /dev/urandom .git/config",
        Unasked("main"),
    ),
    Kind(
        "worktree-config-fifo",
        "git config extensions.worktreeConfig true; rm -f .git/config.worktree; mkfifo .git/config.worktree",
        Unasked("main"),
    ),
    Kind("common-fifo", "mkfifo .git/commondir", Unasked("main")),
    Kind(
        "index-fifo",
        "rm .git/index; mkfifo .git/index",
        Unasked("main"),
    ),
    Kind("ignore-fifo", "mkfifo .gitignore", Any),
    Kind(
        "attributes-fifo",
        "mkfifo .gitattributes; echo y >> file",
        Any,
    ),
    Kind(
        "exclude-fifo",
        "rm -f .git/info/exclude; mkfifo .git/info/exclude",
        Any,
    ),
    Kind(
        "excludes-file-fifo",
        "mkfifo ../fifo; git config core.excludesFile ../fifo",
        Any,
    ),
    Kind(
        "attributes-file-fifo",
        "mkfifo \"$PWD/../fifo\"; git config core.attributesFile \"$PWD/../fifo\"; echo y >> file",
        Any,
    ),
    Kind(
        "packed-refs-fifo",
        "rm -f .git/packed-refs .git/refs/heads/main; mkfifo .git/packed-refs",
        Any,
    ),
    Kind(
        "ref-fifo",
        "rm -f .git/refs/heads/main; mkfifo .git/refs/heads/main",
        Any,
    ),
    Kind(
        "alternates-fifo",
        "mkfifo .git/objects/info/alternates",
        Any,
    ),
    Kind("modules-fifo", "mkfifo .gitmodules", Any),
    Kind(
        "hooks",
        "for h in post-index-change fsmonitor-watchman query-watchman pre-auto-gc reference-transaction; do printf '#!/bin/sh\\n%s\\n' \"$C\" > .git/hooks/$h; chmod +x .git/hooks/$h; done; touch file",
        Whole("main"),
    ),
    Kind(
        "hooks-path",
        "mkdir h; printf '#!/bin/sh\\n%s\\n' \"$C\" > h/post-index-change; chmod +x h/*; git config core.hooksPath h; touch file",
        Whole("main ±"),
    ),
    Kind(
        "submodule",
        "git init -q -b sub sub; git -C sub -c user.name=a -c user.email=a@b commit -q --allow-empty -m x; git -c protocol.file.allow=always submodule --quiet add ./sub sub 2>/dev/null; git -c user.name=a -c user.email=a@b commit -qam s; git -C sub config core.fsmonitor \"$C\"; git -C sub config filter.x.clean \"$C\"; echo '* filter=x' > sub/.gitattributes; git config status.submoduleSummary true; git config diff.submodule log; rm -f \"$CANARY\"",
        Whole("main"),
    ),
    Kind(
        "pagers",
        "git config core.pager \"$C\"; git config core.editor \"$C\"; git config diff.external \"$C\"; git config pager.status \"$C\"; git config alias.status \"!$C\"; git config diff.x.textconv \"$C\"; git config diff.x.command \"$C\"; echo '* diff=x' > .gitattributes; echo y >> file",
        Whole("main ±"),
    ),
    Kind(
        "trace",
        "git config trace2.eventTarget \"$PWD/../traced\"; git config trace2.normalTarget \"$CANARY\"; echo y >> file",
        Whole("main ±"),
    ),
    Kind(
        "gpg",
        "git config gpg.program \"$C\"; git config log.showSignature true; git config ssh.variant ssh; echo y >> file",
        Whole("main ±"),
    ),
    Kind(
        "branch-code",
        "git symbolic-ref HEAD 'refs/heads/$(touch${IFS}$CANARY)'",
        Any,
    ),
    Kind(
        "branch-ticks",
        "git symbolic-ref HEAD 'refs/heads/`touch${IFS}$CANARY`'",
        Any,
    ),
    Kind(
        "branch-controls",
        "printf 'ref: refs/heads/a\\033]0;x\\007\\302\\233m\\342\\200\\256z\\330\\234\\342\\201\\246y\\n' > .git/HEAD",
        Whole("a?]0;x??m?z??y ±"),
    ),
    Kind(
        "branch-newline",
        "printf 'ref: refs/heads/a\\rb\\n' > .git/HEAD",
        Any,
    ),
    Kind(
        "folder-controls",
        "mkdir \"$(printf 'x\\302\\2331m\\342\\200\\256')\"; cd x*",
        Whole("main"),
    ),
    Kind("empty-git", "mkdir -p in/.git; cd in", Nothing),
    Kind(
        "git-not-a-repository",
        "rm -rf .git/objects .git/refs",
        Unasked("main"),
    ),
    Kind(
        "format-unknown",
        "git config core.repositoryFormatVersion 99",
        Unasked("main"),
    ),
    Kind(
        "config-broken",
        "echo '[core' >> .git/config",
        Unasked("main"),
    ),
];

fn said(out: &std::process::Output) -> String {
    String::from_utf8_lossy(&out.stdout).into_owned() + &String::from_utf8_lossy(&out.stderr)
}

/// Programs that would be asked to reach out: each leaves the canary.
fn stand_ins(folder: &Path, canary: &Path) {
    std::fs::create_dir_all(folder).unwrap();
    for name in [
        "ssh",
        "curl",
        "git-remote-x",
        "git-remote-ext",
        "git-credential-x",
        "git-lfs",
        "ssh-askpass",
    ] {
        let path = folder.join(name);
        std::fs::write(&path, format!("#!/bin/sh\ntouch '{}'\n", canary.display())).unwrap();
        std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o755)).unwrap();
    }
}

fn prompt_home(more: &str) -> Scratch {
    let s = Scratch::new();
    let usual = match more.contains("[[prompt.line]]") {
        true => "",
        false => "user = 'never'\nlines = 1\n",
    };
    s.write(".bashrc", "PS1='x '\n");
    s.write(
        "setup.toml",
        &format!("[palettes.a]\n[tools.bash]\ngenerate = true\n[prompt]\n{usual}{more}"),
    );
    let setup = s.home().join("setup.toml");
    s.said(
        &["--setup", setup.to_str().unwrap(), "apply", "--no-reload"],
        &[0],
    );
    s
}

/// Runs a script that has to succeed, in the home.
fn make(s: &Scratch, script: &str) {
    let made = s.command("bash").args(["-c", script]).output().unwrap();
    assert!(made.status.success(), "{}", said(&made));
}

/// What an interactive shell makes of lines typed into it.
fn typed(s: &Scratch, lines: &str, path: &str) -> String {
    let mut child = s
        .command("bash")
        .args(["--noprofile", "-i"])
        .env("PATH", path)
        .env("TERM", "xterm")
        .env("GIT_CONFIG_GLOBAL", "/dev/null")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child
        .stdin
        .take()
        .unwrap()
        .write_all(lines.as_bytes())
        .unwrap();
    said(&child.wait_with_output().unwrap())
}

#[test]
fn repositories_made_to_do_harm_only_lose_their_mark() {
    if !have(&["bash", "git"]) {
        return;
    }
    harm(&prompt_home(""), true);
    // Lines are a question of their own.
    let lines = "[[prompt.line]]\nleft=['folder','branch','changes','input']\n[prompt.parts.changes]\nas='lines'\n";
    harm(&prompt_home(lines), false);
}

/// Enters every such repository; what is drawn is compared where it is as told.
fn harm(s: &Scratch, as_told: bool) {
    let canary = s.tmp().join("canary");
    let bin = s.tmp().join("bin");
    stand_ins(&bin, &canary);
    let path = format!("{}:{}", bin.display(), std::env::var("PATH").unwrap());
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    let reached = Arc::new(AtomicUsize::new(0));
    let counter = Arc::clone(&reached);
    std::thread::spawn(move || {
        for stream in listener.incoming() {
            counter.fetch_add(1, Ordering::SeqCst);
            drop(stream);
        }
    });
    assert!(KINDS.len() > 50);
    let mut with_lines = 0;
    for Kind(name, make, shown) in KINDS {
        let folder = s.home().join("r").join(name).join("repo");
        std::fs::create_dir_all(&folder).unwrap();
        let script = format!(
            "set -e; umask 022; cd '{}'; export GIT_CONFIG_GLOBAL=/dev/null; CANARY='{}'; C=\"touch '$CANARY'\"; P={port}
             git init -q -b main; echo a > file; git add file; git -c user.name=a -c user.email=a@b commit -qm first
             {make}
             pwd > '{}'",
            folder.display(),
            canary.display(),
            s.tmp().join("where").display()
        );
        let made = s.command("bash").args(["-c", &script]).output().unwrap();
        assert!(made.status.success(), "{name}: {}", said(&made));
        let _ = std::fs::remove_file(&canary);
        let place = std::fs::read_to_string(s.tmp().join("where")).unwrap();
        let begin = Instant::now();
        let lines = format!(
            "cd '{}'\nprintf 'DRAWN<%s>DRAWN' \"${{PS1@P}}\"\n",
            place.trim_end()
        );
        let out = typed(s, &lines, &path);
        let took = begin.elapsed();
        assert!(
            !canary.exists(),
            "{name}: a program of the repository was run\n{out}"
        );
        assert_eq!(
            reached.load(Ordering::SeqCst),
            0,
            "{name}: the network was reached"
        );
        assert!(took < Duration::from_secs(6), "{name} took {took:?}");
        let drawn = drawn(&out);
        let rest = drawn
            .split_once("  ↳ ")
            .map(|d| d.1.split(&['#', '$'][..]).next().unwrap_or_default().trim());
        with_lines += usize::from(drawn.contains(" +"));
        match shown {
            _ if !as_told => assert!(drawn.contains(name), "{name}: {out}"),
            Whole(text) => assert_eq!(rest, Some(*text), "{name}: {out}"),
            Unasked(text) => assert_eq!(rest, Some(format!("{text} ?").as_str()), "{name}: {out}"),
            Nothing => assert_eq!(rest, None, "{name}: {out}"),
            Any => assert!(drawn.contains("repo"), "{name}: {out}"),
        }
        for c in [
            '\u{1b}', '\u{9b}', '\u{202e}', '\u{7}', '\r', '\u{61c}', '\u{2066}',
        ] {
            assert!(!drawn.contains(c), "{name}: {drawn:?}");
        }
    }
    assert!(
        as_told || with_lines > 5,
        "lines were told {with_lines} times"
    );
}

/// The prompt between the marks, its colors taken out.
fn drawn(out: &str) -> String {
    // The shell writes what is typed into it to its error output, which comes behind.
    let text = out.split("DRAWN<").nth(1).unwrap_or_default();
    let text = text.split(">DRAWN").next().unwrap_or_default();
    let mut drawn = String::new();
    let mut rest = text;
    while let Some(at) = rest.find("\u{1b}[") {
        drawn.push_str(&rest[..at]);
        let end = rest[at..].find('m').map_or(rest.len(), |m| at + m + 1);
        rest = &rest[end..];
    }
    drawn.push_str(rest);
    drawn.replace(['\u{1}', '\u{2}'], "")
}

/// A folder that belongs to somebody else is not asked.
#[test]
fn a_repository_of_somebody_else_is_not_asked() {
    use std::os::unix::fs::MetadataExt;
    if !have(&["bash", "git", "chown"]) {
        return;
    }
    if std::fs::metadata("/proc/self").unwrap().uid() != 0 {
        // Only root can give a folder to somebody else: reported as skipped.
        assert!(!have(&["the rights of root"]));
        return;
    }
    let s = prompt_home("");
    make(
        &s,
        "mkdir r; cd r; git init -q -b main; echo a > a; chown -R 1234 .",
    );
    let path = std::env::var("PATH").unwrap();
    let out = typed(&s, "cd r\nprintf 'DRAWN<%s>DRAWN' \"${PS1@P}\"\n", &path);
    assert!(drawn(&out).contains("main ?"), "{out}");
}

#[test]
fn the_prompt_bears_shells_that_are_strict() {
    if !have(&["bash", "git"]) {
        return;
    }
    let s = prompt_home("");
    let made = s
        .command("bash")
        .args(["-c", "mkdir r; cd r; git init -q -b main; echo a > a"])
        .output()
        .unwrap();
    assert!(made.status.success());
    let path = std::env::var("PATH").unwrap();
    for options in [
        "set -u",
        "set -u; unset USER HOSTNAME TERM LANG COLORTERM HOME",
        "set -f",
        "shopt -s nullglob failglob extglob nocasematch",
        "IFS=:/",
        "set -o pipefail; set -o noclobber",
        "unset PROMPT_COMMAND; . ~/.config/wealdmist/prompt.bash",
    ] {
        let lines = format!(
            "{options}\ncd {}/r\n(exit 3)\nprintf 'DRAWN<%s>DRAWN' \"${{PS1@P}}\"\n",
            s.home().display()
        );
        let out = typed(&s, &lines, &path);
        for word in ["unbound", "not found", "error", "no match", "cannot"] {
            let told = out.lines().find(|l| {
                l.contains(word) && !l.contains("job control") && !l.contains("terminal process")
            });
            assert_eq!(told, None, "{options}: {out}");
        }
        assert!(
            drawn(&out).contains("↳ main ±") && drawn(&out).contains("✗ 3"),
            "{options}: {out}"
        );
    }
}

/// A command of the person's that sets `PS1` before each prompt, from the start or later, keeps
/// working, and the prompt shows with the status of the last command.
#[test]
fn commands_that_set_the_prompt_come_before_ours() {
    if !have(&["bash"]) {
        return;
    }
    let s = prompt_home("git = false\n");
    let rc = s.read(".bashrc");
    let path = std::env::var("PATH").unwrap();
    for (before, after) in [
        (
            "mine() { PS1='mine> '; ran=$((${ran-0} + 1)); }; PROMPT_COMMAND=mine\n",
            "",
        ),
        (
            "mine() { PS1='mine> '; ran=$((${ran-0} + 1)); }; PROMPT_COMMAND='mine;'\n",
            "",
        ),
        (
            "",
            "mine() { PS1='mine> '; ran=$((${ran-0} + 1)); }; PROMPT_COMMAND+=(mine)\n",
        ),
        (
            "PROMPT_COMMAND=(true '' 'ran=1; false'); mine() { :; }\n",
            "",
        ),
    ] {
        s.write(".bashrc", &format!("{before}{rc}{after}"));
        let out = typed(
            &s,
            "(exit 3)\n(exit 4)\nprintf 'DRAWN<%s>DRAWN' \"${PS1@P} ran ${ran-0}\"\n",
            &path,
        );
        let drawn = drawn(&out);
        assert!(drawn.contains("~  ✗ 4"), "{before}{after}: {out}");
        assert!(
            !drawn.contains("mine>") && !drawn.contains("ran 0"),
            "{before}{after}: {out}"
        );
    }
}

/// Under a real terminal: a git that hangs ends by its limit, and by an interrupt at once.
#[test]
fn a_git_that_hangs_gives_the_prompt_back() {
    if !have(&["bash", "git", "tmux"]) {
        return;
    }
    let s = prompt_home("");
    make(
        &s,
        "mkdir r; cd r; git init -q -b main; rm -f .git/info/exclude; mkfifo .git/info/exclude",
    );
    s.tmux(&[
        "new-session",
        "-d",
        "-x",
        "80",
        "-y",
        "24",
        "env -u TMUX bash",
    ]);
    wait_for("the first prompt", || {
        s.screen("0").contains('~').then_some(())
    });
    s.tmux(&["send-keys", "-t", "0", "cd r", "Enter"]);
    wait_for("the prompt with its sign", || {
        s.screen("0").contains("main ?").then_some(())
    });
    s.tmux(&["send-keys", "-t", "0", "Enter"]);
    std::thread::sleep(Duration::from_millis(150));
    s.tmux(&["send-keys", "-t", "0", "C-c"]);
    s.tmux(&[
        "send-keys",
        "-t",
        "0",
        "cd ..; echo gave-$((40+2))",
        "Enter",
    ]);
    wait_for("the shell after an interrupt", || {
        s.screen("0").contains("gave-42").then_some(())
    });
    let stuck = s.home().join("r");
    wait_for("git to be gone", || s.no_git_asks(&stuck).then_some(()));
}
