//! The keys of the interface itself: those that hold on every bench, on the specimen, and everywhere.

use std::borrow::Cow;

use crossterm::event::KeyCode::{
    BackTab, Char, Down, End, Enter, Home, Left, PageDown, PageUp, Right, Tab, Up,
};
use crossterm::event::{KeyEvent, KeyModifiers};

use super::keys::{self, Key, Told, also, control, hint, key};

/// What a key of the interface does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Shell {
    Quit,
    Help,
    /// To a step, by its place in the path.
    Go(usize),
    NextStep,
    PreviousStep,
    Focus,
    Fill,
    Undo,
    Redo,
    Trial,
    TrialAround,
    ShowCommand,
    OtherSide,
    Draw,
    Up,
    Down,
    Left,
    Right,
    PageUp,
    PageDown,
    First,
    Last,
    EditSpot,
    MendSpot,
}

use Shell as S;

/// The keys on the specimen.
static ON_SPECIMEN: &[Key<Shell>] = &[
    hint(Enter, S::EditSpot, "Enter", "edit this color"),
    hint(Up, S::Up, "arrows", "hop from spot to spot"),
    also(Down, S::Down),
    also(Left, S::Left),
    also(Right, S::Right),
    hint(Char('m'), S::MendSpot, "m", "mend contrast"),
];

/// The keys on every bench.
static ON_BENCH: &[Key<Shell>] = &[
    key(Up, S::Up, "↑ ↓", "move"),
    also(Down, S::Down),
    also(Char('k'), S::Up),
    also(Char('j'), S::Down),
    also(Left, S::Left),
    also(Right, S::Right),
    key(PageUp, S::PageUp, "PgUp PgDn", "a page"),
    also(PageDown, S::PageDown),
    key(Home, S::First, "Home End", "first, last"),
    also(End, S::Last),
];

/// The keys everywhere, before those of the steps.
static EVERYWHERE: &[Key<Shell>] = &[
    hint(Tab, S::Focus, "Tab", "bench / specimen"),
    also(BackTab, S::Focus),
    key(Char('z'), S::Fill, "z", "specimen fills the screen"),
];

/// The keys everywhere, after those of the steps.
static EVERYWHERE_ELSE: &[Key<Shell>] = &[
    key(Char(']'), S::NextStep, "[ ]", "step back, step on"),
    also(Char('['), S::PreviousStep),
    hint(Char('u'), S::Undo, "u", "undo"),
    key(Char('U'), S::Redo, "U", "redo"),
    control(also(Char('r'), S::Redo)),
    key(Char('D'), S::OtherSide, "D", "dark / light"),
    key(Char('P'), S::Draw, "P", "draw this to a file"),
    key(Char('T'), S::TrialAround, "T", "try on running programs"),
    key(Char('t'), S::Trial, "t", "try on this terminal"),
    key(Char(':'), S::ShowCommand, ":", "the same as a command"),
    hint(Char('?'), S::Help, "?", "keys"),
    hint(Char('q'), S::Quit, "q", "quit"),
    control(also(Char('c'), S::Quit)),
];

/// The step a digit goes to, by its place: 1 to 9, and 0 for the tenth.
fn step_of(pressed: KeyEvent, steps: usize) -> Option<usize> {
    let Char(c) = pressed.code else { return None };
    if pressed.modifiers.contains(KeyModifiers::CONTROL) {
        return None;
    }
    let digit = c.to_digit(10)? as usize;
    let place = if digit == 0 { 9 } else { digit - 1 };
    (place < steps).then_some(place)
}

/// The digits of the steps, in words.
fn digits(steps: usize) -> Cow<'static, str> {
    match steps {
        0..2 => "1".into(),
        2..10 => format!("1–{steps}").into(),
        _ => "1–9 0".into(),
    }
}

/// What a key does, with the pointer on the specimen or on a bench, among so many steps.
#[must_use]
pub fn find(pressed: KeyEvent, on_specimen: bool, steps: usize) -> Option<Shell> {
    let near = if on_specimen { ON_SPECIMEN } else { ON_BENCH };
    keys::find(near, pressed)
        .or_else(|| keys::find(EVERYWHERE, pressed))
        .or_else(|| step_of(pressed, steps).map(Shell::Go))
        .or_else(|| keys::find(EVERYWHERE_ELSE, pressed))
}

/// The keys as they are shown.
pub fn told(on_specimen: bool, steps: usize) -> impl Iterator<Item = Told> {
    let near = if on_specimen { ON_SPECIMEN } else { ON_BENCH };
    let everywhere = |k: &Key<Shell>| Told {
        everywhere: true,
        ..k.told()
    };
    let go = Told {
        shown: digits(steps),
        label: "go to a step".into(),
        ..everywhere(&key(Char('1'), Shell::Help, "", ""))
    };
    near.iter()
        .map(Key::told)
        .chain(EVERYWHERE.iter().map(everywhere))
        .chain([go])
        .chain(EVERYWHERE_ELSE.iter().map(everywhere))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn digits_go_to_steps_as_far_as_there_are_any() {
        let press = |c| KeyEvent::new(Char(c), KeyModifiers::NONE);
        assert_eq!(find(press('6'), false, 6), Some(Shell::Go(5)));
        assert_eq!(find(press('7'), false, 6), None);
        assert_eq!(find(press('0'), false, 10), Some(Shell::Go(9)));
        assert_eq!(digits(10), "1–9 0");
    }

    #[test]
    fn the_pointer_decides_what_a_key_means() {
        let enter = KeyEvent::new(Enter, KeyModifiers::NONE);
        assert_eq!(find(enter, true, 6), Some(Shell::EditSpot));
        assert_eq!(find(enter, false, 6), None);
        let redo = KeyEvent::new(Char('U'), KeyModifiers::SHIFT);
        assert_eq!(find(redo, false, 6), Some(Shell::Redo));
    }
}
