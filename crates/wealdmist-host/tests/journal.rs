//! Transactions on a scratch home: all or nothing, recoverable at every step, undoable.

#![allow(clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::path::{Path, PathBuf};

use wealdmist_host::{ApplyError, FileChange, Journal, Step};

struct Scratch {
    dir: tempfile::TempDir,
    journal: Journal,
}

fn never(_: Step) -> bool {
    false
}

impl Scratch {
    fn new() -> Self {
        let dir = tempfile::tempdir().unwrap();
        let journal = Journal::new(&dir.path().join("state"));
        fs::create_dir(dir.path().join("home")).unwrap();
        Self { dir, journal }
    }

    fn at(&self, name: &str) -> PathBuf {
        self.dir.path().join("home").join(name)
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
    fn picture(&self) -> BTreeMap<PathBuf, (u32, Option<Vec<u8>>)> {
        fn walk(folder: &Path, out: &mut BTreeMap<PathBuf, (u32, Option<Vec<u8>>)>) {
            for entry in fs::read_dir(folder).unwrap().flatten() {
                let path = entry.path();
                let meta = path.symlink_metadata().unwrap();
                let content = meta.is_file().then(|| fs::read(&path).unwrap());
                out.insert(path.clone(), (meta.mode(), content));
                if meta.is_dir() {
                    walk(&path, out);
                }
            }
        }
        let mut out = BTreeMap::new();
        walk(&self.dir.path().join("home"), &mut out);
        out
    }
}

/// Three files: one changed, one new in new folders, one removed.
fn three(s: &Scratch) -> Vec<FileChange> {
    s.write("a.conf", "old a\n");
    s.write("c.conf", "old c\n");
    fs::set_permissions(s.at("a.conf"), fs::Permissions::from_mode(0o600)).unwrap();
    vec![
        s.change("a.conf", Some("old a\n"), Some("new a\n")),
        s.change("deep/er/b.conf", None, Some("new b\n")),
        s.change("c.conf", Some("old c\n"), None),
    ]
}

#[test]
fn a_stop_at_any_step_leaves_the_home_wholly_old_or_wholly_new() {
    let whole = Scratch::new();
    let changes = three(&whole);
    let old_names: Vec<_> = whole.picture().into_keys().collect();
    let mut steps = Vec::new();
    whole
        .journal
        .apply(&changes, "", &mut |s| {
            steps.push(s);
            false
        })
        .unwrap();
    assert!(steps.len() >= 12, "{steps:?}");
    for (n, step) in steps.iter().enumerate() {
        let s = Scratch::new();
        let changes = three(&s);
        let old = s.picture();
        let mut seen = 0;
        let stopped = s.journal.apply(&changes, "", &mut |_| {
            seen += 1;
            seen > n
        });
        assert!(matches!(stopped, Err(ApplyError::Stopped(at)) if at == *step));
        s.journal.recover().unwrap();
        let now = s.picture();
        if now != old {
            assert_eq!(
                fs::read(s.at("a.conf")).unwrap(),
                b"new a\n",
                "after {step:?}"
            );
            assert_eq!(
                fs::read(s.at("deep/er/b.conf")).unwrap(),
                b"new b\n",
                "after {step:?}"
            );
            assert!(!s.at("c.conf").exists(), "after {step:?}");
            assert_eq!(
                now.len(),
                old_names.len() - 1 + 3,
                "nothing else is left: {now:?}"
            );
            // What was completed can be taken back like any other.
            s.journal.undo(None, &mut never).unwrap();
            assert_eq!(s.picture(), old, "after {step:?}");
        }
        let intended = matches!(step, Step::Rename(_) | Step::Finish);
        assert_eq!(now != old, intended, "{step:?} decides which");
        assert!(
            s.journal.recover().unwrap().is_empty(),
            "recovering twice does nothing"
        );
    }
}

#[test]
fn undo_and_its_own_interruption() {
    let s = Scratch::new();
    let changes = three(&s);
    let old = s.picture();
    s.journal.apply(&changes, "three", &mut never).unwrap();
    let new = s.picture();
    let mut steps = 0;
    let stopped = s.journal.undo(None, &mut |step| {
        steps += 1;
        step == Step::Rename(1)
    });
    assert!(stopped.is_err() && steps > 3);
    s.journal.recover().unwrap();
    let mut now = s.picture();
    now.retain(|p, _| !p.starts_with(s.at("deep")));
    assert_eq!(now, old);
    assert_ne!(new, old);
    assert!(matches!(
        s.journal.undo(None, &mut never),
        Err(ApplyError::NothingToUndo)
    ));
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
    s.journal.apply(&[change], "", &mut never).unwrap();
    s.write("a.conf", &text("new", "edited by hand"));
    s.journal.undo(None, &mut never).unwrap();
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
    s.journal.apply(&[change], "", &mut never).unwrap();
    s.write("a.conf", &text("by hand", "edited by hand"));
    let now = s.picture();
    let refused = s.journal.undo(None, &mut never).unwrap_err();
    let said = refused.to_string();
    assert!(said.contains("a.conf:2 was edited"), "{said}");
    assert_eq!(s.picture(), now, "a refused undo changes nothing");
}

#[test]
fn a_file_that_changed_meanwhile_stops_everything() {
    let s = Scratch::new();
    let changes = three(&s);
    s.write("c.conf", "somebody else\n");
    let now = s.picture();
    let refused = s.journal.apply(&changes, "", &mut never).unwrap_err();
    assert!(matches!(refused, ApplyError::Changed(p) if p == s.at("c.conf")));
    assert_eq!(s.picture(), now);

    // Also when it changes while the new bytes are being written.
    let s = Scratch::new();
    let changes = three(&s);
    let path = s.at("c.conf");
    let refused = s.journal.apply(&changes, "", &mut |step| {
        if step == Step::WriteBeside(2) {
            fs::write(&path, "somebody else\n").unwrap();
        }
        false
    });
    assert!(matches!(refused, Err(ApplyError::Changed(_))));
    assert_eq!(fs::read(s.at("a.conf")).unwrap(), b"old a\n");
    assert!(!s.at("deep").exists(), "folders made for it are gone again");
}

#[test]
fn links_modes_and_attributes_survive() {
    let s = Scratch::new();
    s.write("real/a.conf", "old\n");
    fs::set_permissions(s.at("real/a.conf"), fs::Permissions::from_mode(0o640)).unwrap();
    symlink("real/a.conf", s.at("a.conf")).unwrap();
    let name = "user.wealdmist.test";
    let flags = rustix::fs::XattrFlags::empty();
    let has_attributes = rustix::fs::setxattr(s.at("real/a.conf"), name, b"kept", flags).is_ok();
    let change = s.change("a.conf", Some("old\n"), Some("new\n"));
    s.journal.apply(&[change], "", &mut never).unwrap();
    assert!(s.at("a.conf").symlink_metadata().unwrap().is_symlink());
    assert_eq!(fs::read(s.at("real/a.conf")).unwrap(), b"new\n");
    assert_eq!(
        s.at("real/a.conf").metadata().unwrap().mode() & 0o7777,
        0o640
    );
    if has_attributes {
        let mut value = [0u8; 16];
        let n = rustix::fs::getxattr(s.at("real/a.conf"), name, &mut value[..]).unwrap();
        assert_eq!(&value[..n], b"kept");
    }
}

#[test]
fn what_must_not_be_written_is_refused() {
    let s = Scratch::new();
    let changes = three(&s);
    fs::set_permissions(s.at("c.conf"), fs::Permissions::from_mode(0o444)).unwrap();
    let old = s.picture();
    let said = s
        .journal
        .apply(&changes, "", &mut never)
        .unwrap_err()
        .to_string();
    assert!(
        said.contains("c.conf is read-only") && said.contains("chmod"),
        "{said}"
    );
    assert_eq!(s.picture(), old);

    let s = Scratch::new();
    let changes = three(&s);
    fs::hard_link(s.at("c.conf"), s.at("twin.conf")).unwrap();
    assert!(
        s.journal
            .apply(&changes, "", &mut never)
            .unwrap_err()
            .to_string()
            .contains("hard link")
    );
}

#[test]
fn a_folder_where_nothing_can_be_created_is_an_error_and_no_half() {
    let s = Scratch::new();
    let mut changes = three(&s);
    // A file stands where a folder would be needed.
    s.write("blocked", "x");
    changes.push(s.change("blocked/sub/d.conf", None, Some("d\n")));
    let old = s.picture();
    let said = s
        .journal
        .apply(&changes, "", &mut never)
        .unwrap_err()
        .to_string();
    assert!(said.contains("nothing was changed"), "{said}");
    assert_eq!(s.picture(), old);
}

#[test]
fn an_edit_between_a_crash_and_the_next_start_is_not_overwritten() {
    let s = Scratch::new();
    let changes = three(&s);
    let _ = s
        .journal
        .apply(&changes, "", &mut |step| step == Step::Rename(1));
    s.write("c.conf", "edited by hand\n");
    let found = s.journal.recover().unwrap();
    assert!(found[0].completed);
    assert_eq!(found[0].left, [s.at("c.conf")]);
    assert_eq!(fs::read(s.at("c.conf")).unwrap(), b"edited by hand\n");
    assert_eq!(fs::read(s.at("deep/er/b.conf")).unwrap(), b"new b\n");
}

#[test]
fn two_at_once_are_kept_apart_and_damage_is_named() {
    let s = Scratch::new();
    let changes = three(&s);
    let journal = s.journal.clone();
    let other = vec![s.change("z.conf", None, Some("z\n"))];
    let mut busy = None;
    s.journal
        .apply(&changes, "", &mut |step| {
            if step == Step::Prepare {
                busy = Some(journal.apply(&other, "", &mut never));
            }
            false
        })
        .unwrap();
    assert!(matches!(busy, Some(Err(ApplyError::Busy))));
    let record = s.dir.path().join("state/journal/000001/record.json");
    fs::write(&record, "{").unwrap();
    let said = s.journal.history().unwrap_err().to_string();
    assert!(said.contains("record.json"), "{said}");
}
