//! What we read from dotfiles is what the programs do: configurations made by chance, read by us and by
//! the program itself, value by value. `WEALDMIST_ROUNDS` makes it longer, `WEALDMIST_SEED` another one.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

#[path = "readings/asked.rs"]
mod asked;
#[path = "readings/bash.rs"]
mod bash;
#[path = "prompts/chance.rs"]
mod chance;
mod common;
#[path = "readings/dice.rs"]
mod dice;
#[path = "readings/fish.rs"]
mod fish;
#[path = "readings/kitty.rs"]
mod kitty;
#[path = "readings/nvim.rs"]
mod nvim;
#[path = "readings/own.rs"]
mod own;
#[path = "readings/resources.rs"]
mod resources;
#[path = "readings/starship.rs"]
mod starship;
#[path = "readings/tmux.rs"]
mod tmux;
#[path = "readings/wezterm.rs"]
mod wezterm;
#[path = "readings/zsh.rs"]
mod zsh;

/// The dotfiles of one tool, made by chance: which, and whether it has 24-bit color, which every setup wants.
fn home_of_one_tool(dice: &mut dice::Dice, tool: usize, full: bool) -> Vec<(String, String)> {
    match tool {
        0 => vec![(
            ".config/kitty/kitty.conf".to_owned(),
            kitty::file(dice, 24, 2),
        )],
        1 => vec![(".tmux.conf".to_owned(), tmux::lines(dice, 14, 0))],
        2 => vec![(".bashrc".to_owned(), bash::lines(dice, 12, 0))],
        3 => vec![(".zshrc".to_owned(), zsh::file(dice))],
        4 => vec![(
            ".config/fish/config.fish".to_owned(),
            fish::lines(dice, 10, 0),
        )],
        6 => vec![(".config/starship.toml".to_owned(), starship::file(dice))],
        _ => {
            let on = |text: String| match full {
                true => text
                    .replace("tgc = false", "tgc = true")
                    .replace("set notgc", "set tgc"),
                false => text,
            };
            let files = nvim::files(dice).into_iter();
            files
                .map(|(name, text)| (format!(".config/nvim/{name}"), on(text)))
                .collect()
        }
    }
}

/// What the programs say when they are asked is what was read, or what was left open.
#[test]
fn programs_that_are_asked_say_what_was_read() {
    if !common::have(&["kitty", "tmux", "nvim", "bash", "zsh", "fish"]) {
        return;
    }
    let (seed, rounds) = dice::run(60);
    let mut dice = dice::Dice::new(seed ^ 7);
    let mut same = 0;
    for n in 0..rounds {
        let s = common::Scratch::new();
        let files = home_of_one_tool(&mut dice, n % 6, false);
        for (name, text) in &files {
            s.write(name, text);
        }
        let before = common::picture(&s.home());
        let said = s.said(&["survey", "--ask", "--json"], &[0, 1]);
        let start = said.find('{').expect("JSON");
        let (json, told) = (&said[start..], &said[..start]);
        let json = json
            .rsplit_once('}')
            .map_or(json, |(j, _)| &json[..=j.len()]);
        let json: serde_json::Value = serde_json::from_str(json).expect("JSON");
        for row in json["ledger"].as_array().unwrap() {
            for cell in row["tools"].as_array().unwrap() {
                for reading in cell["readings"].as_array().unwrap() {
                    match &reading["asked"] {
                        serde_json::Value::Null => {}
                        asked if asked == "same" => same += 1,
                        asked => {
                            panic!("{n} (seed {seed}): {asked} of {reading} in\n{files:#?}\n{told}")
                        }
                    }
                }
            }
        }
        let mut after = common::picture(&s.home());
        after.retain(|path, _| {
            before.contains_key(path) || !path.starts_with(s.home().join(".cache"))
        });
        assert_eq!(before, after, "{n} (seed {seed})");
    }
    assert!(same > rounds, "{same} in {rounds} homes");
}

/// The setup that is made of a home which nobody has touched changes nothing in it, where only one tool
/// has dotfiles there.
#[test]
fn the_first_setup_of_one_tool_plans_nothing() {
    use wealdmist_core::first::first_setup;
    use wealdmist_core::look::Look;
    use wealdmist_core::setup::SetupDoc;
    use wealdmist_tools::access::MemoryAccess;
    use wealdmist_tools::{plan, read_all};

    let (seed, rounds) = dice::run(300);
    let mut dice = dice::Dice::new(seed);
    for n in 0..rounds {
        let files = home_of_one_tool(&mut dice, n % 7, true);
        let given: Vec<(&str, &str)> = files.iter().map(|f| (f.0.as_str(), f.1.as_str())).collect();
        let home = MemoryAccess::with(&given);
        let reports = read_all(&home);
        let first = first_setup("Fog", None, &reports);
        let doc = SetupDoc::parse("setup.toml", first.as_bytes()).expect("a setup");
        let look = Look::new(doc.setup());
        let plan = plan(doc.setup(), &look, &reports, &home, None);
        assert!(
            plan.edits.is_empty(),
            "{n} (seed {seed}): {}\nin\n{files:#?}\nunder\n{first}",
            plan.unified()
        );
    }
}
