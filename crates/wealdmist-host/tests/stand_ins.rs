//! Simulated stand-ins for running programs: what comes back from a socket may be anything, and
//! must neither hang nor mislead.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

use std::fs;
use std::io::{Read, Write};
use std::os::unix::net::UnixListener;
use std::path::PathBuf;
use std::time::{Duration, Instant};

use rmpv::Value;
use wealdmist_core::reading::ToolId;
use wealdmist_host::{Answer, Ask, Home, Outcome, Survey, reload, verify};

/// A home with one Neovim file, and the place its sockets are looked for in.
struct Place {
    folder: tempfile::TempDir,
}

impl Place {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let nvim = folder.path().join(".config/nvim");
        fs::create_dir_all(&nvim).unwrap();
        fs::write(
            nvim.join("init.vim"),
            "colorscheme mine\nhi Comment guifg=#123456\n",
        )
        .unwrap();
        fs::write(folder.path().join(".bashrc"), "PS1='\\w '\n").unwrap();
        Self { folder }
    }

    fn survey(&self) -> Survey {
        Survey::open(Home::open(Some(self.folder.path())).unwrap(), None, None).unwrap()
    }
}

/// One of these tests at a time: they share the variable that says where sockets are.
static ONE: std::sync::Mutex<()> = std::sync::Mutex::new(());

fn socket_folder() -> PathBuf {
    // The folder the host looks in; set for this test binary by its own process environment.
    std::env::temp_dir().join(format!("nvim{}", std::process::id()))
}

/// The same, empty.
fn fresh_folder() -> PathBuf {
    let folder = socket_folder();
    let _ = fs::remove_dir_all(&folder);
    fs::create_dir_all(&folder).unwrap();
    folder
}

/// The right to use that folder, for one test at a time.
fn alone() -> std::sync::MutexGuard<'static, ()> {
    ONE.lock()
        .unwrap_or_else(std::sync::PoisonError::into_inner)
}

/// Listens as an editor would and answers each request with what `answer` makes of it.
fn editor(answer: impl Fn(&str, u64) -> Option<Vec<u8>> + Send + 'static) -> PathBuf {
    let folder = fresh_folder();
    let path = folder.join("0");
    let listener = UnixListener::bind(&path).unwrap();
    std::thread::spawn(move || {
        for stream in listener.incoming().take(4) {
            let mut stream = stream.unwrap();
            while let Ok(request) = rmpv::decode::read_value(&mut stream) {
                let parts = request.as_array().unwrap().clone();
                let (id, method) = (
                    parts[1].as_u64().unwrap(),
                    parts[2].as_str().unwrap().to_owned(),
                );
                match answer(&method, id) {
                    Some(bytes) if stream.write_all(&bytes).is_ok() => {}
                    _ => break,
                }
            }
        }
    });
    path
}

fn response(id: u64, result: Value) -> Vec<u8> {
    let mut out = Vec::new();
    let whole = Value::Array(vec![Value::from(1), Value::from(id), Value::Nil, result]);
    rmpv::encode::write_value(&mut out, &whole).unwrap();
    out
}

fn mode(blocking: bool) -> Value {
    Value::Map(vec![
        (Value::from("mode"), Value::from("n")),
        (Value::from("blocking"), Value::from(blocking)),
    ])
}

fn group(color: u32) -> Value {
    Value::Map(vec![(Value::from("foreground"), Value::from(color))])
}

fn of_editor(answers: &[Answer]) -> Vec<&Answer> {
    answers
        .iter()
        .filter(|a| a.tool.0 == "nvim" && a.who.contains(&std::process::id().to_string()))
        .collect()
}

#[test]
fn an_editor_of_this_home_is_compared_group_by_group() {
    let _one = alone();
    let place = Place::new();
    let config = place
        .survey()
        .home
        .setup_path()
        .parent()
        .unwrap()
        .parent()
        .unwrap()
        .join("nvim");
    for (shown, good) in [(0x12_3456, true), (0x65_4321, false)] {
        let config = config.display().to_string();
        editor(move |method, id| {
            let result = match method {
                "nvim_get_mode" => mode(false),
                "nvim_exec_lua" => Value::from(config.as_str()),
                "nvim_get_hl_by_name" => group(shown),
                _ => Value::Nil,
            };
            Some(response(id, result))
        });
        let answers = verify(&place.survey(), &[ToolId("nvim")], Ask::Sockets);
        let found = of_editor(&answers);
        assert_eq!(found.len(), 1, "{answers:?}");
        assert_eq!(found[0].outcome.is_good(), good, "{answers:?}");
        if !good {
            assert!(
                found[0]
                    .outcome
                    .sentence()
                    .contains("Comment text is #654321"),
                "{answers:?}"
            );
        }
    }
}

#[test]
fn an_editor_of_another_home_is_not_told_anything() {
    let _one = alone();
    let place = Place::new();
    let (sender, asked) = std::sync::mpsc::channel();
    editor(move |method, id| {
        sender.send(method.to_owned()).unwrap();
        let result = match method {
            "nvim_get_mode" => mode(false),
            _ => Value::from("/home/somebody/.config/nvim"),
        };
        Some(response(id, result))
    });
    let answers = reload(&place.survey(), &[ToolId("nvim")], Ask::Sockets);
    assert!(of_editor(&answers).is_empty(), "{answers:?}");
    let asked: Vec<String> = asked.try_iter().collect();
    assert_eq!(asked, ["nvim_get_mode", "nvim_exec_lua"]);
}

#[test]
fn an_editor_that_waits_for_a_key_is_asked_nothing_more() {
    let _one = alone();
    let place = Place::new();
    let (sender, asked) = std::sync::mpsc::channel();
    editor(move |method, id| {
        sender.send(method.to_owned()).unwrap();
        Some(response(id, mode(true)))
    });
    let answers = reload(&place.survey(), &[ToolId("nvim")], Ask::Sockets);
    let found = of_editor(&answers);
    assert!(
        matches!(&found[0].outcome, Outcome::Unreached(what) if what.contains("press Enter")),
        "{answers:?}"
    );
    assert_eq!(asked.try_iter().count(), 1);
}

#[test]
fn nonsense_and_silence_end_soon() {
    let _one = alone();
    let place = Place::new();
    // Not the protocol; a huge length that never comes; nesting without end; nothing at all.
    let nonsense: [Vec<u8>; 4] = [
        b"HTTP/1.1 400 Bad Request\r\n\r\n".to_vec(),
        vec![0xdd, 0xff, 0xff, 0xff, 0xff],
        vec![0x91; 100_000],
        Vec::new(),
    ];
    for bytes in nonsense {
        let what = format!("{:?}", &bytes[..bytes.len().min(8)]);
        editor(move |_, _| Some(bytes.clone()));
        let begin = Instant::now();
        let answers = verify(&place.survey(), &[ToolId("nvim")], Ask::Sockets);
        assert!(of_editor(&answers).is_empty(), "{what}: {answers:?}");
        assert!(
            begin.elapsed() < Duration::from_secs(30),
            "{what} took {:?}",
            begin.elapsed()
        );
    }
}

/// One that always says something and never answers ends as one that is silent.
#[test]
fn notes_without_end_are_no_answer() {
    let _one = alone();
    let place = Place::new();
    let folder = fresh_folder();
    let listener = UnixListener::bind(folder.join("0")).unwrap();
    std::thread::spawn(move || {
        let mut stream = listener.accept().unwrap().0;
        let mut note = Vec::new();
        let whole = Value::Array(vec![
            Value::from(2),
            Value::from("x"),
            Value::Array(Vec::new()),
        ]);
        rmpv::encode::write_value(&mut note, &whole).unwrap();
        while stream.write_all(&note).is_ok() {
            std::thread::sleep(Duration::from_millis(20));
        }
    });
    let begin = Instant::now();
    let answers = verify(&place.survey(), &[ToolId("nvim")], Ask::Sockets);
    assert!(of_editor(&answers).is_empty(), "{answers:?}");
    assert!(
        begin.elapsed() < Duration::from_secs(5),
        "{:?}",
        begin.elapsed()
    );
}

/// One that takes no connections any more is named, at once, as often as it is asked.
#[test]
fn a_full_queue_is_not_waited_for() {
    let _one = alone();
    let place = Place::new();
    let folder = fresh_folder();
    let path = folder.join("0");
    let _listener = UnixListener::bind(&path).unwrap();
    // Nobody takes what is in the queue: it is filled until it takes no more.
    let mut waiting = Vec::new();
    loop {
        let (sender, connected) = std::sync::mpsc::channel();
        let path = path.clone();
        std::thread::spawn(move || {
            let _ = sender.send(std::os::unix::net::UnixStream::connect(path));
        });
        match connected.recv_timeout(Duration::from_millis(200)) {
            Ok(Ok(stream)) => waiting.push(stream),
            _ => break,
        }
        assert!(waiting.len() < 10_000);
    }
    let survey = place.survey();
    let begin = Instant::now();
    for _ in 0..20 {
        let answers = verify(&survey, &[ToolId("nvim")], Ask::Sockets);
        let found = of_editor(&answers);
        let said = found
            .first()
            .map(|a| a.outcome.sentence())
            .unwrap_or_default();
        assert!(said.contains("does not answer"), "{answers:?}");
    }
    assert!(
        begin.elapsed() < Duration::from_secs(5),
        "{:?}",
        begin.elapsed()
    );
    drop(waiting);
    fs::remove_dir_all(folder).unwrap();
}

/// A program that merely is called like the terminal is not signalled, and lives on.
#[test]
fn a_name_is_not_enough_to_be_signalled() {
    let place = Place::new();
    let home = place.folder.path();
    fs::create_dir_all(home.join(".config/kitty")).unwrap();
    fs::write(
        home.join(".config/kitty/kitty.conf"),
        "foreground #dddddd\n",
    )
    .unwrap();
    let program = home.join("kitty");
    fs::copy("/bin/sleep", &program).unwrap();
    let child = std::process::Command::new(&program)
        .arg("60")
        .env("HOME", home)
        .env_remove("XDG_CONFIG_HOME")
        .spawn();
    let mut child = child.unwrap();
    std::thread::sleep(Duration::from_millis(100));
    let answers = reload(&place.survey(), &[ToolId("kitty")], Ask::Sockets);
    assert!(
        answers.iter().all(|a| a.outcome == Outcome::NotRunning),
        "{answers:?}"
    );
    assert!(
        child.try_wait().unwrap().is_none(),
        "it was ended by a signal"
    );
    child.kill().unwrap();
    child.wait().unwrap();
}

#[test]
fn a_dead_socket_is_passed_over() {
    let _one = alone();
    let place = Place::new();
    let folder = fresh_folder();
    drop(UnixListener::bind(folder.join("0")).unwrap());
    fs::create_dir_all(folder.join("x")).unwrap();
    let answers = verify(&place.survey(), &[ToolId("nvim")], Ask::Sockets);
    assert!(of_editor(&answers).is_empty(), "{answers:?}");
    fs::remove_dir_all(folder).unwrap();
}

#[test]
fn notes_of_shells_that_are_gone_are_cleared_away() {
    let place = Place::new();
    let survey = place.survey();
    let shells = survey.home.state().join("shells");
    fs::create_dir_all(&shells).unwrap();
    fs::write(shells.join("999999999"), "# wealdmist prompt 0\n").unwrap();
    fs::write(shells.join("not-a-number"), "x").unwrap();
    // A number that is now another program's is no shell of ours.
    let me = shells.join(std::process::id().to_string());
    fs::write(&me, "# wealdmist prompt 0\n").unwrap();
    let answers = verify(&survey, &[ToolId("bash")], Ask::Sockets);
    assert!(answers.iter().all(|a| !a.outcome.is_good()), "{answers:?}");
    assert!(!shells.join("999999999").exists() && !me.exists());
    let mut kept = String::new();
    fs::File::open(shells.join("not-a-number"))
        .unwrap()
        .read_to_string(&mut kept)
        .unwrap();
    assert_eq!(kept, "x");
}

#[test]
fn answers_are_sentences() {
    let differs = |n: usize| Outcome::Differs((0..n).map(|i| format!("x{i}")).collect());
    for (outcome, sentence) in [
        (Outcome::Shows(3), "shows what is written (3 values asked)"),
        (differs(1), "differs: x0"),
        (differs(3), "differs: x0; x1; x2"),
        (differs(5), "differs: x0; x1; x2 and 2 more"),
        (Outcome::Told("done".into()), "done"),
        (Outcome::Unreached("restart it".into()), "restart it"),
        (Outcome::NotRunning, "not running"),
    ] {
        assert_eq!(outcome.sentence(), sentence);
        assert_eq!(outcome.is_good(), matches!(outcome, Outcome::Shows(_)));
    }
}
