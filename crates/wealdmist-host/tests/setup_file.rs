//! The setup file is written with the care dotfiles are: wherever a call for files fails, it holds
//! what it held or what it shall hold.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod faults;

use std::fs;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};

use faults::{Fault, Faulty};
use wealdmist_core::Rgb;
use wealdmist_core::role::Slot;
use wealdmist_host::{Home, Survey};

fn home() -> (tempfile::TempDir, Survey) {
    let folder = tempfile::tempdir().unwrap();
    let home = Home::open(Some(folder.path())).unwrap();
    let mut survey = Survey::open(home, None, Some(("Test", "dusk"))).unwrap();
    survey.save().unwrap();
    (folder, survey)
}

fn changed(survey: &Survey, n: u8) -> Survey {
    let mut survey = survey.clone();
    let color = Rgb::new(n, n, n);
    survey.doc = survey
        .doc
        .with_slot(&"dusk".into(), Slot::Foreground, color)
        .unwrap();
    survey
}

#[test]
fn any_call_may_fail_when_the_setup_is_saved() {
    let (_folder, survey) = home();
    let files = Faulty::new(Fault::Never);
    changed(&survey, 1).draft().save_with(&files).unwrap();
    let calls = files.calls();
    assert!(calls > 8, "{calls}");
    for at in 0..calls {
        for fault in [Fault::Once(at), Fault::From(at), Fault::DoneButFailed(at)] {
            let (_folder, survey) = home();
            let path = survey.doc.path().to_owned();
            let old = fs::read_to_string(&path).unwrap();
            let change = changed(&survey, 1);
            let said = change.draft().save_with(&Faulty::new(fault));
            let now = fs::read_to_string(&path).unwrap();
            let is_new = now == change.doc.text();
            assert!(is_new || now == old, "{fault:?} left {now}");
            assert!(is_new || said.is_err(), "{fault:?} said {said:?}");
            // The next one works, and nothing waits beside it any more.
            let again = Survey::open(survey.home.clone(), None, None).unwrap();
            changed(&again, 2).draft().save().unwrap();
            let names = fs::read_dir(path.parent().unwrap()).unwrap();
            let names: Vec<_> = names.map(|e| e.unwrap().file_name()).collect();
            assert_eq!(names.len(), 1, "{fault:?}: {names:?}");
        }
    }
}

#[test]
fn mode_link_and_reasons_are_kept() {
    let (folder, survey) = home();
    let path = survey.doc.path().to_owned();
    let real = folder.path().join("real.toml");
    fs::rename(&path, &real).unwrap();
    fs::set_permissions(&real, fs::Permissions::from_mode(0o640)).unwrap();
    symlink(&real, &path).unwrap();
    let mut change = changed(&survey, 9);
    change.save().unwrap();
    assert!(path.symlink_metadata().unwrap().is_symlink());
    assert_eq!(real.metadata().unwrap().mode() & 0o777, 0o640);
    assert!(fs::read_to_string(&real).unwrap().contains("#090909"));

    fs::set_permissions(&real, fs::Permissions::from_mode(0o440)).unwrap();
    let said = changed(&change, 10).save().unwrap_err().to_string();
    assert!(
        said.contains("read-only") && said.contains("chmod"),
        "{said}"
    );
    fs::set_permissions(&real, fs::Permissions::from_mode(0o640)).unwrap();
    fs::hard_link(&real, folder.path().join("twin")).unwrap();
    let said = changed(&change, 10).save().unwrap_err().to_string();
    assert!(said.contains("hard link"), "{said}");
    fs::remove_file(&path).unwrap();
    assert!(
        std::process::Command::new("mkfifo")
            .arg(&path)
            .status()
            .unwrap()
            .success()
    );
    let said = changed(&change, 10).save().unwrap_err().to_string();
    assert!(said.contains("not a regular file"), "{said}");
}

/// What an editor saves between our reading and our writing is merged in, not lost.
#[test]
fn an_edit_at_any_moment_is_merged() {
    let (_folder, survey) = home();
    let files = Faulty::new(Fault::Never);
    changed(&survey, 1).draft().save_with(&files).unwrap();
    for at in 0..files.calls() {
        let (_folder, survey) = home();
        let path = survey.doc.path().to_owned();
        let files = Faulty::new(Fault::Never);
        let (mut seen, target) = (0, path.clone());
        *files.before.lock().unwrap() = Some(Box::new(move |_, _| {
            seen += 1;
            if seen == at + 1 {
                let text = fs::read_to_string(&target).unwrap();
                let aside = target.with_extension("swp");
                fs::write(&aside, text.replace("folders = 3", "folders = 1")).unwrap();
                fs::rename(&aside, &target).unwrap();
            }
        }));
        changed(&survey, 1).draft().save_with(&files).unwrap();
        let text = fs::read_to_string(&path).unwrap();
        assert!(
            text.contains("folders = 1") && text.contains("#010101"),
            "{at}: {text}"
        );
    }
}
