//! A scratch home, the program under test, and the real programs it works on.

#![allow(dead_code, clippy::print_stderr)]

use std::fs::{self, OpenOptions};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};

pub mod editor;
pub mod pty;
pub mod wayland;

/// How long anything may take before a test gives up.
pub const PATIENCE: Duration = Duration::from_secs(60);

/// Waits until a condition holds, and says what it waited for if it never does.
pub fn wait_for<T>(what: &str, mut condition: impl FnMut() -> Option<T>) -> T {
    let until = Instant::now() + PATIENCE;
    loop {
        if let Some(value) = condition() {
            return value;
        }
        assert!(Instant::now() < until, "waited in vain for {what}");
        std::thread::sleep(Duration::from_millis(20));
    }
}

/// Whether all programs are installed. If not, the test is counted as skipped: the test script
/// reports these lines.
pub fn have(programs: &[&str]) -> bool {
    let path = std::env::var_os("PATH").unwrap_or_default();
    let missing: Vec<_> = programs
        .iter()
        .filter(|p| !std::env::split_paths(&path).any(|d| d.join(p).is_file()))
        .collect();
    if missing.is_empty() {
        return true;
    }
    skip(&format!("not installed: {missing:?}"));
    false
}

/// Counts this test as skipped; the test script reports these lines.
pub fn skip(why: &str) {
    let test = std::thread::current().name().unwrap_or("a test").to_owned();
    let line = format!("skipped: {test}: {why}\n");
    eprint!("{line}");
    if let Some(file) = std::env::var_os("WEALDMIST_SKIPPED") {
        let file = OpenOptions::new().create(true).append(true).open(file);
        file.and_then(|mut f| f.write_all(line.as_bytes()))
            .expect("the list of skipped tests");
    }
}

/// A process that ends with the test.
pub struct Running(pub Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// A home in a temporary folder.
pub struct Scratch {
    pub dir: tempfile::TempDir,
}

impl Scratch {
    /// An empty home.
    pub fn new() -> Self {
        let dir = tempfile::Builder::new().prefix("wm").tempdir().unwrap();
        for folder in ["home", "tmp"] {
            fs::create_dir(dir.path().join(folder)).unwrap();
        }
        Self { dir }
    }

    /// The sample home.
    pub fn demo() -> Self {
        let scratch = Self::new();
        wealdmist_host::make_demo(&scratch.home()).unwrap();
        scratch
    }

    pub fn home(&self) -> PathBuf {
        self.dir.path().join("home")
    }

    pub fn tmp(&self) -> PathBuf {
        self.dir.path().join("tmp")
    }

    pub fn write(&self, path: &str, text: &str) {
        let path = self.home().join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }

    /// Whether no git is left that is asked for the changes of a folder.
    pub fn no_git_asks(&self, folder: &Path) -> bool {
        let all = fs::read_dir("/proc").unwrap().flatten();
        let asks = |process: &Path| {
            let said = fs::read(process.join("cmdline")).unwrap_or_default();
            let at = fs::read_link(process.join("cwd"));
            let words = String::from_utf8_lossy(&said).into_owned();
            words.contains("--porcelain=v2") && at.is_ok_and(|at| at == folder)
        };
        !all.map(|e| e.path()).any(|p| asks(&p))
    }

    /// Leaves the sample home kitty and Alacritty.
    pub fn has_only_two_terminals(&self) {
        for other in [
            ".config/foot/foot.ini",
            ".Xresources",
            ".config/wezterm/wezterm.lua",
        ] {
            fs::remove_file(self.home().join(other)).unwrap();
        }
    }

    pub fn read(&self, path: &str) -> String {
        fs::read_to_string(self.home().join(path)).unwrap()
    }

    /// A command in this home's environment and no other.
    pub fn command(&self, program: impl AsRef<std::ffi::OsStr>) -> Command {
        let mut command = Command::new(program);
        command
            .env_clear()
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("HOME", self.home())
            .env("USER", "warden")
            .env("TMPDIR", self.tmp())
            .env("TMUX_TMPDIR", self.tmp())
            .env("LANG", "C.UTF-8")
            .env("TERM", "xterm-256color")
            .env("GIT_CONFIG_SYSTEM", "/dev/null")
            .current_dir(self.home())
            .stdin(Stdio::null());
        command
    }

    /// Runs the program under test.
    pub fn run(&self, arguments: &[&str]) -> Output {
        self.command(env!("CARGO_BIN_EXE_wealdmist"))
            .args(arguments)
            .output()
            .unwrap()
    }

    /// Runs it and wants one of these exit codes; returns what it printed.
    pub fn said(&self, arguments: &[&str], codes: &[i32]) -> String {
        let output = self.run(arguments);
        let text = String::from_utf8_lossy(&output.stdout).into_owned();
        let errors = String::from_utf8_lossy(&output.stderr).into_owned();
        let code = output.status.code().unwrap_or(-1);
        assert!(
            codes.contains(&code),
            "{arguments:?} ended with {code}:\n{text}\n{errors}"
        );
        assert!(!errors.contains("panicked"), "{errors}");
        text + &errors
    }

    /// Runs tmux on this home's own socket.
    pub fn tmux(&self, arguments: &[&str]) -> String {
        let output = self.command("tmux").args(arguments).output().unwrap();
        let text = String::from_utf8_lossy(&output.stdout).into_owned();
        text.strip_suffix('\n').unwrap_or(&text).to_owned()
    }

    /// Opens the interface on the home, in a tmux of a given size.
    pub fn open_interface(&self, width: u16, height: u16, more: &str) {
        let program = env!("CARGO_BIN_EXE_wealdmist");
        let command =
            format!("env -u TMUX COLORTERM=truecolor {more} {program}; echo ended $?; cat");
        let (width, height) = (width.to_string(), height.to_string());
        let size = ["-x", &width, "-y", &height];
        self.command("tmux")
            .args(["-f", "/dev/null", "new-session", "-d"])
            .args(size)
            .arg(&command)
            .status()
            .unwrap();
    }

    /// What a tmux pane shows.
    pub fn screen(&self, pane: &str) -> String {
        self.tmux(&["capture-pane", "-p", "-t", pane])
    }
}

impl Drop for Scratch {
    fn drop(&mut self) {
        let _ = self
            .command("tmux")
            .arg("kill-server")
            .stderr(Stdio::null())
            .status();
    }
}

/// Every file below a folder with its content.
pub fn picture(folder: &Path) -> std::collections::BTreeMap<PathBuf, Vec<u8>> {
    let mut out = std::collections::BTreeMap::new();
    let mut open = vec![folder.to_owned()];
    while let Some(folder) = open.pop() {
        for entry in fs::read_dir(&folder).unwrap().flatten() {
            let path = entry.path();
            // What can be made anew at any time is no part of a home's picture.
            if path.ends_with(".cache/wealdmist") {
                continue;
            }
            if path.is_dir() && !path.is_symlink() {
                open.push(path);
            } else if let Ok(bytes) = fs::read(&path) {
                out.insert(path, bytes);
            }
        }
    }
    out
}

/// A display of its own.
pub fn screen() -> (Running, String) {
    screen_of("500x300")
}

/// The same of another size.
pub fn screen_of(size: &str) -> (Running, String) {
    // Tests run side by side: the server itself picks a number that is free.
    let mut child = Command::new("Xvfb")
        .args([
            "-displayfd",
            "1",
            "-screen",
            "0",
            &format!("{size}x24"),
            "-noreset",
            "-nolisten",
            "tcp",
        ])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut number = String::new();
    let output = child.stdout.take().unwrap();
    std::io::BufRead::read_line(&mut std::io::BufReader::new(output), &mut number).unwrap();
    (Running(child), format!(":{}", number.trim()))
}

/// The color of a pixel in the lower half of the screen, where nothing is written.
pub fn pixel(display: &str) -> Option<String> {
    let output = Command::new("import")
        .args([
            "-display",
            display,
            "-window",
            "root",
            "-crop",
            "1x1+250+200",
            "-depth",
            "8",
            "txt:-",
        ])
        .output()
        .ok()?;
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    let hex = text
        .split_whitespace()
        .find(|w| w.starts_with('#') && w.len() >= 7)?;
    Some(hex[..7].to_lowercase())
}

/// The prompt program that was built for its tests; one that is not there is counted as a test that was skipped.
pub fn have_starship() -> Option<std::path::PathBuf> {
    let built = std::env::var_os("WEALDMIST_STARSHIP").map(std::path::PathBuf::from);
    let there = built.filter(|path| path.is_file());
    if there.is_none() {
        skip("starship is not built; scripts/test builds it");
    }
    there
}
