//! What we read from dotfiles is what the programs do: configurations made by chance, read by us and by
//! the program itself, value by value. `WEALDMIST_ROUNDS` makes it longer, `WEALDMIST_SEED` another one.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

#[path = "readings/bash.rs"]
mod bash;
mod common;
#[path = "readings/dice.rs"]
mod dice;
#[path = "readings/kitty.rs"]
mod kitty;
#[path = "readings/tmux.rs"]
mod tmux;
