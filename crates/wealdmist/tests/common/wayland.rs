//! A compositor without a screen, and windows in it.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use super::{Running, Scratch, wait_for};

/// A compositor without a screen, its folder, and the name of its display.
pub fn wayland() -> (Running, tempfile::TempDir, PathBuf) {
    use std::os::unix::fs::{MetadataExt, chown};
    const NOBODY: u32 = 65534;
    let dir = tempfile::Builder::new().prefix("wmw").tempdir().unwrap();
    let folder = dir.path().to_owned();
    std::fs::write(folder.join("sway"), "default_border none\n").unwrap();
    // It does not run as root.
    let mut command = if folder.metadata().unwrap().uid() == 0 {
        chown(&folder, Some(NOBODY), Some(NOBODY)).unwrap();
        let mut command = Command::new("setpriv");
        let id = NOBODY.to_string();
        command.args(["--reuid", &id, "--regid", &id, "--clear-groups", "sway"]);
        command
    } else {
        Command::new("sway")
    };
    let child = command
        .arg("-c")
        .arg(folder.join("sway"))
        .env("HOME", &folder)
        .env("XDG_RUNTIME_DIR", &folder)
        .env_remove("WAYLAND_DISPLAY")
        .env_remove("DISPLAY")
        .env("WLR_BACKENDS", "headless")
        .env("WLR_LIBINPUT_NO_DEVICES", "1")
        .env("WLR_RENDERER", "pixman")
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let running = Running(child);
    let display = wait_for("the compositor", || {
        let names = std::fs::read_dir(&folder).ok()?.flatten();
        let mut names = names.map(|e| e.file_name().to_string_lossy().into_owned());
        let name = names.find(|n| n.starts_with("wayland-") && !n.ends_with(".lock"))?;
        Some(folder.join(name))
    });
    (running, dir, display)
}

/// A window of foot in a home that runs these words.
pub fn foot(s: &Scratch, display: &Path, words: &[&str]) -> Running {
    let child = s
        .command("foot")
        .env("XDG_RUNTIME_DIR", display.parent().unwrap())
        .env("WAYLAND_DISPLAY", display.file_name().unwrap())
        .args(words)
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    Running(child)
}

/// A picture of the compositor's screen.
pub fn wayland_picture(s: &Scratch, display: &Path) -> Option<image::RgbImage> {
    let picture = s.tmp().join("shot.png");
    let shot = s
        .command("grim")
        .args(["-l", "0"])
        .arg(&picture)
        .env("XDG_RUNTIME_DIR", display.parent()?)
        .env("WAYLAND_DISPLAY", display.file_name()?)
        .output()
        .ok()?;
    let taken = shot.status.success().then_some(picture)?;
    Some(image::open(taken).ok()?.to_rgb8())
}
