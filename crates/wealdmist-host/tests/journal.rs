//! Transactions on a scratch home: all or nothing, recoverable wherever a call for files fails,
//! undoable, and true in what they say.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

mod common;
mod faults;

use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use faults::{Fault, Faulty};
use wealdmist_host::{ApplyError, FileChange, Journal, Record, RecordState};

/// What an editor saves.
const SAVED: &[u8] = b"saved by an editor\n";

struct Scratch {
    dir: tempfile::TempDir,
    journal: Journal,
}

type Picture = BTreeMap<PathBuf, (u32, Option<String>)>;

impl Scratch {
    fn new() -> Self {
        let dir = tempfile::tempdir().unwrap();
        let home = dir.path().canonicalize().unwrap().join("home");
        fs::create_dir(&home).unwrap();
        let journal = Journal::new(&dir.path().join("state"), &home);
        Self { dir, journal }
    }

    fn with(&self, fault: Fault) -> (Journal, Arc<Faulty>) {
        let files = Arc::new(Faulty::new(fault));
        (self.journal.clone().with_files(files.clone()), files)
    }

    fn at(&self, name: &str) -> PathBuf {
        self.dir
            .path()
            .canonicalize()
            .unwrap()
            .join("home")
            .join(name)
    }

    fn write(&self, name: &str, text: &str) {
        fs::create_dir_all(self.at(name).parent().unwrap()).unwrap();
        fs::write(self.at(name), text).unwrap();
    }

    fn change(&self, name: &str, before: Option<&str>, after: Option<&str>) -> FileChange {
        let path = self.at(name);
        let bytes = |t: Option<&str>| t.map(|t| t.as_bytes().to_vec());
        let target = path.canonicalize().unwrap_or_else(|_| path.clone());
        FileChange {
            path,
            target,
            before: bytes(before),
            after: bytes(after),
        }
    }

    /// Every file and folder of the home with its content and mode.
    fn picture(&self) -> Picture {
        fn walk(folder: &Path, out: &mut Picture) {
            for entry in fs::read_dir(folder).unwrap().flatten() {
                let path = entry.path();
                let meta = path.symlink_metadata().unwrap();
                let content = meta
                    .is_file()
                    .then(|| String::from_utf8(fs::read(&path).unwrap()).unwrap());
                out.insert(path.clone(), (meta.mode(), content));
                if meta.is_dir() {
                    walk(&path, out);
                }
            }
        }
        let mut out = BTreeMap::new();
        walk(&self.at(""), &mut out);
        out
    }
}

/// Three files: one changed, one new in new folders, one removed; and another changed.
fn three(s: &Scratch) -> Vec<FileChange> {
    s.write("a.conf", "old a\n");
    s.write("c.conf", "old c\n");
    s.write("d.conf", "old d\n");
    fs::set_permissions(s.at("a.conf"), fs::Permissions::from_mode(0o600)).unwrap();
    vec![
        s.change("a.conf", Some("old a\n"), Some("new a\n")),
        s.change("deep/er/b.conf", None, Some("new b\n")),
        s.change("c.conf", Some("old c\n"), None),
        s.change("d.conf", Some("old d\n"), Some("new d\n")),
    ]
}

/// What the home looks like when all is carried out.
fn carried_out() -> Picture {
    let s = Scratch::new();
    let changes = three(&s);
    s.journal.apply(&changes, "").unwrap();
    relative(&s)
}

fn relative(s: &Scratch) -> Picture {
    let home = s.at("");
    let rest = |p: PathBuf| p.strip_prefix(&home).unwrap().to_owned();
    s.picture().into_iter().map(|(p, c)| (rest(p), c)).collect()
}

/// Whether what an attempt said is true of the home.
fn is_true(said: &Result<Record, ApplyError>, now: &Picture, old: &Picture, new: &Picture) -> bool {
    let files = |p: &Picture| -> BTreeMap<PathBuf, Option<String>> {
        // Files that wait beside others are no dotfiles, nor are empty folders.
        let waits = |p: &Path| p.to_string_lossy().contains(".wealdmist-");
        p.iter()
            .filter(|(p, c)| !waits(p) && c.1.is_some())
            .map(|(p, c)| (p.clone(), c.1.clone()))
            .collect()
    };
    let (is_old, is_new) = (files(now) == files(old), files(now) == files(new));
    match said {
        Ok(_) | Err(ApplyError::NotClosed { .. }) => is_new,
        Err(e @ ApplyError::Unfinished { .. }) => {
            let text = e.to_string();
            assert!(text.contains("next start"), "{text}");
            match e {
                ApplyError::Unfinished {
                    new, old, unknown, ..
                } => !(new.is_empty() && unknown.is_empty()) || is_old || old.is_empty(),
                _ => false,
            }
        }
        Err(e) => {
            assert!(e.to_string().contains("nothing was changed"), "{e}");
            is_old
        }
    }
}

/// Lets a fault happen, looks whether what was said is true, and starts again in good health:
/// the home is then wholly old or wholly new, and can be used as if nothing had been.
fn survives(fault: Fault, old: &Picture, new: &Picture) -> bool {
    let s = Scratch::new();
    let changes = three(&s);
    let (journal, _) = s.with(fault);
    let said = journal.apply(&changes, "");
    let now = relative(&s);
    assert!(
        is_true(&said, &now, old, new),
        "{fault:?} said {said:?} of {now:?}"
    );
    let found = s
        .journal
        .recover()
        .unwrap_or_else(|e| panic!("{fault:?}: {e}"));
    let now = relative(&s);
    assert!(
        now == *old || now == *new,
        "{fault:?} left {now:?}, recovered {found:?}"
    );
    if said.is_ok() {
        assert_eq!(now, *new, "{fault:?} said that all is well");
    }
    assert!(
        s.journal.recover().unwrap().is_empty(),
        "{fault:?}: recovering twice does nothing"
    );
    let history = s.journal.history().unwrap();
    assert!(history.iter().all(|r| r.state == RecordState::Done));
    assert_eq!(history.len(), usize::from(now == *new), "{fault:?}");
    if now == *new {
        s.journal.undo(None).unwrap();
        assert_eq!(
            relative(&s),
            *old,
            "{fault:?}: what was completed can be taken back"
        );
    }
    said.is_ok()
}

#[test]
fn any_call_may_fail_when_changes_are_carried_out() {
    let s = Scratch::new();
    let changes = three(&s);
    let old = relative(&s);
    let new = carried_out();
    let (journal, files) = s.with(Fault::Never);
    journal.apply(&changes, "").unwrap();
    let calls = files.calls();
    assert!(calls > 60, "{calls}");
    let mut well = 0;
    for at in 0..calls {
        well += usize::from(survives(Fault::Once(at), &old, &new));
        survives(Fault::From(at), &old, &new);
        survives(Fault::DoneButFailed(at), &old, &new);
    }
    assert!(
        well < calls / 3,
        "most faults are told: {well} of {calls} were not"
    );
    // A second fault while the first is being mended.
    for first in (0..calls).step_by(7) {
        for second in first + 1..first + 40 {
            survives(Fault::Twice(first, second), &old, &new);
        }
    }
}

#[test]
fn any_call_may_fail_when_they_are_taken_back() {
    let s = Scratch::new();
    let changes = three(&s);
    let old = relative(&s);
    s.journal.apply(&changes, "").unwrap();
    let new = relative(&s);
    let (journal, files) = s.with(Fault::Never);
    journal.undo(None).unwrap();
    assert_eq!(relative(&s), old);
    for at in 0..files.calls() {
        for fault in [Fault::Once(at), Fault::From(at), Fault::DoneButFailed(at)] {
            let s = Scratch::new();
            let changes = three(&s);
            s.journal.apply(&changes, "").unwrap();
            let (journal, _) = s.with(fault);
            let said = journal.undo(None);
            assert!(
                is_true(&said, &relative(&s), &new, &old),
                "{fault:?} said {said:?}"
            );
            s.journal.recover().unwrap();
            let mut now = relative(&s);
            // An empty folder may stay where removing it failed.
            now.retain(|p, c| !p.starts_with("deep") || c.1.is_some() || new == relative(&s));
            assert!(now == old || now == new, "{fault:?} left {now:?}");
            if now == new {
                s.journal.undo(None).unwrap();
                assert_eq!(relative(&s), old);
            }
            assert!(matches!(
                s.journal.undo(None),
                Err(ApplyError::NothingToUndo)
            ));
        }
    }
}

#[test]
fn any_call_may_fail_when_an_interruption_is_put_right() {
    let old = {
        let s = Scratch::new();
        three(&s);
        relative(&s)
    };
    let new = carried_out();
    let s = Scratch::new();
    let changes = three(&s);
    let (journal, files) = s.with(Fault::Never);
    journal.apply(&changes, "").unwrap();
    for at in (0..files.calls()).step_by(7) {
        for fault in [Fault::Once, Fault::From] {
            for second in 0..60 {
                let s = Scratch::new();
                let changes = three(&s);
                let _ = s.with(Fault::From(at)).0.apply(&changes, "");
                let (journal, files) = s.with(fault(second));
                let recovered = journal.recover();
                s.journal.recover().unwrap();
                let now = relative(&s);
                assert!(
                    now == old || now == new,
                    "{at} and {second}: {recovered:?} {now:?}"
                );
                if files.calls() < second {
                    break;
                }
            }
        }
    }
}

#[test]
fn undo_keeps_later_edits_or_refuses() {
    let s = Scratch::new();
    let text = |color: &str, tail: &str| {
        format!("one\ncolor {color}\ntwo\nthree\nfour\nfive\nsix\n{tail}\n")
    };
    s.write("a.conf", &text("old", "tail"));
    let change = s.change(
        "a.conf",
        Some(&text("old", "tail")),
        Some(&text("new", "tail")),
    );
    s.journal.apply(&[change], "").unwrap();
    s.write("a.conf", &text("new", "edited by hand"));
    s.journal.undo(None).unwrap();
    assert_eq!(
        fs::read_to_string(s.at("a.conf")).unwrap(),
        text("old", "edited by hand")
    );

    let before = text("old", "edited by hand");
    let change = s.change(
        "a.conf",
        Some(&before),
        Some(&text("new", "edited by hand")),
    );
    s.journal.apply(&[change], "").unwrap();
    s.write("a.conf", &text("by hand", "edited by hand"));
    let now = s.picture();
    let refused = s.journal.undo(None).unwrap_err();
    let said = refused.to_string();
    assert!(said.contains("a.conf:2 was edited"), "{said}");
    assert_eq!(s.picture(), now, "a refused undo changes nothing");

    // A line of ours at the end, and one of the person's behind it.
    let s = Scratch::new();
    s.write("b.conf", "one\n");
    let change = s.change("b.conf", Some("one\n"), Some("one\nours\n"));
    s.journal.apply(&[change], "").unwrap();
    s.write("b.conf", "one\nours\nmine\n");
    s.journal.undo(None).unwrap();
    assert_eq!(fs::read_to_string(s.at("b.conf")).unwrap(), "one\nmine\n");
}

#[test]
fn a_file_that_changed_meanwhile_stops_everything() {
    let s = Scratch::new();
    let changes = three(&s);
    s.write("c.conf", "somebody else\n");
    let now = s.picture();
    let refused = s.journal.apply(&changes, "").unwrap_err();
    assert!(matches!(refused, ApplyError::Changed(p) if p == s.at("c.conf")));
    assert_eq!(s.picture(), now);
}

/// An editor that saves between any two calls loses nothing: what it saved is there afterwards,
/// whether it writes into the file or puts another in its place.
#[test]
fn an_edit_at_any_moment_is_kept() {
    let s = Scratch::new();
    let changes = three(&s);
    let (journal, files) = s.with(Fault::Never);
    journal.apply(&changes, "").unwrap();
    let calls = files.calls();
    let mut overtaken = 0;
    for at in 0..calls {
        for (name, by_renaming) in [
            ("a.conf", true),
            ("a.conf", false),
            ("d.conf", true),
            ("c.conf", false),
            ("deep/er/b.conf", true),
        ] {
            let s = Scratch::new();
            let changes = three(&s);
            let (journal, files) = s.with(Fault::Never);
            let path = s.at(name);
            // An editor that keeps the file open between reading and saving.
            let open = fs::OpenOptions::new().write(true).open(&path).ok();
            let mut seen = 0;
            let target = path.clone();
            let saved = Arc::new(AtomicBool::new(false));
            let did_save = Arc::clone(&saved);
            *files.before.lock().unwrap() = Some(Box::new(move |_, _| {
                seen += 1;
                if seen != at + 1 {
                    return;
                }
                if by_renaming {
                    let aside = target.with_extension("swp");
                    if fs::write(&aside, SAVED).is_ok() {
                        fs::rename(&aside, &target).unwrap();
                        did_save.store(true, Ordering::SeqCst);
                    }
                } else if let Some(mut file) = open.as_ref() {
                    file.set_len(0).unwrap();
                    file.write_all(SAVED).unwrap();
                    did_save.store(true, Ordering::SeqCst);
                }
            }));
            let said = journal.apply(&changes, "");
            *files.before.lock().unwrap() = None;
            s.journal.recover().unwrap();
            let kept = fs::read(&path).is_ok_and(|b| b == SAVED);
            if !saved.load(Ordering::SeqCst) || kept {
                continue;
            }
            // What is saved into a file that is open is found as long as that file has a name: up
            // to the moment when all has been verified.
            let last_calls = !by_renaming && said.is_ok();
            assert!(last_calls, "{name} at {at} of {calls}: {said:?}");
            overtaken += 1;
        }
    }
    assert!(overtaken < 30, "{overtaken} of {}", calls * 5);
}

#[test]
fn links_modes_and_attributes_survive_also_going_back() {
    let flags = rustix::fs::XattrFlags::empty();
    // An access list as Linux keeps it: version 2, then tag, permissions and number of each entry;
    // the owner reads and writes, user 1234 and the group read, others do nothing.
    let mut list = 2u32.to_le_bytes().to_vec();
    for (tag, permissions, number) in [
        (1u16, 6u16, u32::MAX),
        (2, 4, 1234),
        (4, 4, u32::MAX),
        (0x10, 4, u32::MAX),
        (0x20, 0, u32::MAX),
    ] {
        list.extend(tag.to_le_bytes());
        list.extend(permissions.to_le_bytes());
        list.extend(number.to_le_bytes());
    }
    let attributes = [
        ("user.wealdmist.test", b"kept".to_vec()),
        ("system.posix_acl_access", list),
    ];
    for fault in [None, Some(0)] {
        let s = Scratch::new();
        s.write("real/a.conf", "old\n");
        s.write("z.conf", "old\n");
        fs::set_permissions(s.at("real/a.conf"), fs::Permissions::from_mode(0o640)).unwrap();
        symlink("real/a.conf", s.at("a.conf")).unwrap();
        let inode = s.at("real/a.conf").metadata().unwrap().ino();
        let possible: Vec<_> = attributes
            .iter()
            .filter(|(name, value)| {
                let set = rustix::fs::setxattr(s.at("real/a.conf"), *name, value, flags);
                if let Err(why) = set {
                    common::skip(&format!("{name} cannot be set here: {why}"));
                }
                set.is_ok()
            })
            .collect();
        let changes = [
            s.change("a.conf", Some("old\n"), Some("new\n")),
            s.change("z.conf", Some("old\n"), Some("new\n")),
        ];
        let (journal, files) = s.with(Fault::Never);
        if fault.is_some() {
            // The second file is edited when the first has been replaced already.
            let path = s.at("z.conf");
            *files.before.lock().unwrap() = Some(Box::new(move |call, at| {
                if call == "exchange" && at.ends_with("z.conf") {
                    fs::write(&path, "edited\n").unwrap();
                }
            }));
            let said = journal.apply(&changes, "").unwrap_err();
            assert!(matches!(said, ApplyError::Changed(_)), "{said}");
            assert_eq!(fs::read(s.at("z.conf")).unwrap(), b"edited\n");
            assert_eq!(fs::read(s.at("real/a.conf")).unwrap(), b"old\n");
            // The very same file is back, not a copy of it.
            assert_eq!(s.at("real/a.conf").metadata().unwrap().ino(), inode);
        } else {
            journal.apply(&changes, "").unwrap();
            assert_eq!(fs::read(s.at("real/a.conf")).unwrap(), b"new\n");
        }
        assert!(s.at("a.conf").symlink_metadata().unwrap().is_symlink());
        let mode = s.at("real/a.conf").metadata().unwrap().mode() & 0o7777;
        assert_eq!(mode, 0o640);
        for (name, wanted) in possible {
            let mut value = [0u8; 64];
            let n = rustix::fs::getxattr(s.at("real/a.conf"), *name, &mut value[..]).unwrap();
            assert_eq!(&value[..n], wanted, "{name}");
        }
    }
}

#[test]
fn what_must_not_be_written_is_refused() {
    let refused = |make: &dyn Fn(&Scratch)| {
        let s = Scratch::new();
        let mut changes = three(&s);
        make(&s);
        changes[2].target = s.at("c.conf");
        let old = s.picture();
        let said = s.journal.apply(&changes, "").unwrap_err().to_string();
        assert_eq!(s.picture(), old, "{said}");
        assert!(
            said.contains("c.conf") && said.contains("nothing was changed"),
            "{said}"
        );
        said
    };
    let read_only = fs::Permissions::from_mode(0o444);
    let said = refused(&|s| fs::set_permissions(s.at("c.conf"), read_only.clone()).unwrap());
    assert!(
        said.contains("read-only") && said.contains("chmod"),
        "{said}"
    );
    let said = refused(&|s| fs::hard_link(s.at("c.conf"), s.at("twin.conf")).unwrap());
    assert!(said.contains("hard link"), "{said}");
    let pipe = |s: &Scratch| {
        fs::remove_file(s.at("c.conf")).unwrap();
        let made = std::process::Command::new("mkfifo")
            .arg(s.at("c.conf"))
            .status();
        assert!(made.unwrap().success());
    };
    let said = refused(&pipe);
    assert!(said.contains("not a regular file"), "{said}");
}

#[test]
fn a_file_outside_the_home_is_only_edited_when_allowed() {
    let s = Scratch::new();
    let outside = s.dir.path().canonicalize().unwrap().join("outside.conf");
    fs::write(&outside, "old\n").unwrap();
    symlink(&outside, s.at("a.conf")).unwrap();
    let change = s.change("a.conf", Some("old\n"), Some("new\n"));
    let said = s.journal.apply(&[change], "").unwrap_err();
    assert!(
        matches!(&said, ApplyError::Outside(p) if *p == outside),
        "{said}"
    );
    // Also a new file below a linked folder.
    fs::create_dir(s.dir.path().join("elsewhere")).unwrap();
    symlink(s.dir.path().join("elsewhere"), s.at("linked")).unwrap();
    let change = s.change("linked/new.conf", None, Some("new\n"));
    let said = s.journal.apply(&[change], "").unwrap_err();
    assert!(matches!(said, ApplyError::Outside(_)), "{said}");
    assert_eq!(fs::read(&outside).unwrap(), b"old\n");
}

/// A record means the home it lies in, also when that is a copy of another.
#[test]
fn a_copied_home_is_undone_in_the_copy() {
    let s = Scratch::new();
    let home = s.at("");
    let journal = Journal::new(&home.join(".state"), &home);
    let changes = three(&s);
    let (stopped, files) = (journal.clone(), Arc::new(Faulty::new(Fault::Never)));
    let _ = files;
    stopped.apply(&changes, "").unwrap();
    let original = fs::read(s.at("a.conf")).unwrap();
    let copy = s.dir.path().canonicalize().unwrap().join("copy");
    let copied = std::process::Command::new("cp")
        .arg("-a")
        .arg(&home)
        .arg(&copy)
        .status();
    assert!(copied.unwrap().success());
    Journal::new(&copy.join(".state"), &copy)
        .undo(None)
        .unwrap();
    assert_eq!(fs::read(copy.join("a.conf")).unwrap(), b"old a\n");
    assert_eq!(fs::read(s.at("a.conf")).unwrap(), original);
}

#[test]
fn a_folder_where_nothing_can_be_created_is_an_error_and_no_half() {
    let s = Scratch::new();
    let mut changes = three(&s);
    // A file stands where a folder would be needed.
    s.write("blocked", "x");
    changes.push(s.change("blocked/sub/d.conf", None, Some("d\n")));
    let old = s.picture();
    let said = s.journal.apply(&changes, "").unwrap_err().to_string();
    assert!(said.contains("nothing was changed"), "{said}");
    assert_eq!(s.picture(), old);
}

#[test]
fn an_edit_between_a_crash_and_the_next_start_is_not_overwritten() {
    let s = Scratch::new();
    let changes = three(&s);
    // The program ends when the first file has been replaced.
    let (journal, files) = s.with(Fault::Never);
    journal.apply(&changes, "").unwrap();
    let total = files.calls();
    let mut tried = 0;
    for at in 0..total {
        let s = Scratch::new();
        let changes = three(&s);
        let _ = s.with(Fault::From(at)).0.apply(&changes, "");
        let crashed_between =
            fs::read(s.at("a.conf")).unwrap() == b"new a\n" && s.at("c.conf").exists();
        if !crashed_between {
            continue;
        }
        tried += 1;
        s.write("c.conf", "edited by hand\n");
        let found = s.journal.recover().unwrap();
        assert!(found[0].completed);
        assert_eq!(found[0].left, [s.at("c.conf")]);
        assert_eq!(fs::read(s.at("c.conf")).unwrap(), b"edited by hand\n");
        assert_eq!(fs::read(s.at("deep/er/b.conf")).unwrap(), b"new b\n");
    }
    assert!(tried > 2);
}

#[test]
fn two_at_once_are_kept_apart_and_damage_is_named() {
    let s = Scratch::new();
    let changes = three(&s);
    let held = s.journal.hold().unwrap();
    let journal = s.journal.clone();
    let other = vec![s.change("z.conf", None, Some("z\n"))];
    let started = std::time::Instant::now();
    let waiting = std::thread::spawn(move || journal.apply(&other, ""));
    std::thread::sleep(std::time::Duration::from_millis(300));
    assert!(!waiting.is_finished(), "it waits for its turn");
    // Who has the right to write may write.
    s.journal.apply(&changes, "").unwrap();
    drop(held);
    waiting.join().unwrap().unwrap();
    assert!(started.elapsed() < std::time::Duration::from_secs(5));
    assert_eq!(s.journal.history().unwrap().len(), 2);
    let state = s.dir.path().join("state/journal").metadata().unwrap();
    assert_eq!(state.mode() & 0o777, 0o700);
    let record = s.dir.path().join("state/journal/000001/record.json");
    fs::write(&record, "{").unwrap();
    let said = s.journal.history().unwrap_err().to_string();
    assert!(said.contains("record.json"), "{said}");
    // A journal that cannot be read is not one without entries.
    fs::remove_dir_all(s.dir.path().join("state/journal")).unwrap();
    fs::write(s.dir.path().join("state/journal"), "").unwrap();
    assert!(s.journal.undo(None).is_err());
}
