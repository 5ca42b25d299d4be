//! Running editors of a scratch home.

use std::path::{Path, PathBuf};
use std::process::Stdio;

use super::{Running, Scratch, wait_for};

/// An editor without a screen, and its socket.
pub fn nvim(s: &Scratch) -> (Running, PathBuf) {
    let child = s
        .command("nvim")
        .arg("--headless")
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let running = Running(child);
    let socket = wait_for("the editor's socket", || {
        let found = sockets(&s.tmp());
        found.into_iter().next()
    });
    (running, socket)
}

/// The sockets below a folder, the multiplexer's aside.
pub fn sockets(tmp: &Path) -> Vec<PathBuf> {
    use std::os::unix::fs::FileTypeExt;
    let mut out = Vec::new();
    let mut open = vec![tmp.to_owned()];
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
            let kind = entry.file_type().unwrap();
            let name = entry.file_name().to_string_lossy().into_owned();
            if kind.is_dir() && !name.starts_with("tmux") {
                open.push(entry.path());
            } else if kind.is_socket() {
                out.push(entry.path());
            }
        }
    }
    out
}

/// What an editor says an expression comes to.
pub fn ask_nvim(s: &Scratch, socket: &Path, expression: &str) -> String {
    let output = s
        .command("nvim")
        .arg("--server")
        .arg(socket)
        .args(["--remote-expr", expression])
        .output()
        .unwrap();
    String::from_utf8_lossy(&output.stdout).trim().to_owned()
        + String::from_utf8_lossy(&output.stderr).trim()
}
