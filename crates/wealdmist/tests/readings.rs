//! What we read from dotfiles is what the programs do: configurations made by chance, read by us and by
//! the program itself, value by value. `WEALDMIST_ROUNDS` makes it longer, `WEALDMIST_SEED` another one.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

#[path = "readings/asked.rs"]
mod asked;
#[path = "readings/bash.rs"]
mod bash;
mod common;
#[path = "readings/dice.rs"]
mod dice;
#[path = "readings/kitty.rs"]
mod kitty;
#[path = "readings/nvim.rs"]
mod nvim;
#[path = "readings/tmux.rs"]
mod tmux;

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
        let files = match n % 4 {
            0 => vec![(
                ".config/kitty/kitty.conf".to_owned(),
                kitty::file(&mut dice, 24, 2),
            )],
            1 => vec![(".tmux.conf".to_owned(), tmux::lines(&mut dice, 14, 0))],
            2 => vec![(".bashrc".to_owned(), bash::lines(&mut dice, 12, 0))],
            _ => {
                let files = nvim::files(&mut dice).into_iter();
                // 24-bit color is what every setup wants.
                let on = |text: String| {
                    text.replace("tgc = false", "tgc = true")
                        .replace("set notgc", "set tgc")
                };
                files
                    .map(|(name, text)| (format!(".config/nvim/{name}"), on(text)))
                    .collect()
            }
        };
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
