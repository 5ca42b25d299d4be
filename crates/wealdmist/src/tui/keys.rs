//! Keys: tables that decide what a key does, what the bottom line offers and what the help lists, so
//! that they cannot disagree. Each bench has its own; those that hold everywhere are the interface's.

use std::borrow::Cow;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// A key and what it does.
#[derive(Debug, Clone, Copy)]
pub struct Key<A: 'static> {
    /// The key.
    pub code: KeyCode,
    /// With Shift held, where that is not part of the character.
    pub shift: bool,
    /// With Control held.
    pub control: bool,
    /// What it does.
    pub act: A,
    /// The key as shown; empty for a second key of the same action.
    pub shown: &'static str,
    /// What it does, in a few words.
    pub label: &'static str,
    /// Whether the bottom line offers it.
    pub hint: bool,
}

/// A key that the bottom line offers, as `shown` and with what it does.
pub const fn hint<A>(code: KeyCode, act: A, shown: &'static str, label: &'static str) -> Key<A> {
    Key {
        code,
        shift: false,
        control: false,
        act,
        shown,
        label,
        hint: true,
    }
}

/// A key that only the help lists, as `shown` and with what it does.
pub const fn key<A: Copy>(
    code: KeyCode,
    act: A,
    shown: &'static str,
    label: &'static str,
) -> Key<A> {
    Key {
        hint: false,
        ..hint(code, act, shown, label)
    }
}

/// A second key for what another one does.
pub const fn also<A: Copy>(code: KeyCode, act: A) -> Key<A> {
    key(code, act, "", "")
}

/// The same with Shift held.
pub const fn shifted<A: Copy>(key: Key<A>) -> Key<A> {
    Key { shift: true, ..key }
}

/// The same with Control held.
pub const fn control<A: Copy>(key: Key<A>) -> Key<A> {
    Key {
        control: true,
        ..key
    }
}

impl<A: Copy> Key<A> {
    /// Whether this is the key that was pressed.
    #[must_use]
    pub fn is(&self, pressed: KeyEvent) -> bool {
        let held = pressed.modifiers;
        // The case of a character says already whether Shift was held.
        let in_character = matches!(pressed.code, KeyCode::Char(_) | KeyCode::BackTab);
        let shift = held.contains(KeyModifiers::SHIFT) && !in_character;
        self.code == pressed.code
            && self.control == held.contains(KeyModifiers::CONTROL)
            && self.shift == shift
    }

    /// How it is shown, and by which key it is known.
    #[must_use]
    pub const fn told(&self) -> Told {
        Told {
            code: self.code,
            shift: self.shift,
            control: self.control,
            shown: Cow::Borrowed(self.shown),
            label: Cow::Borrowed(self.label),
            hint: self.hint,
            everywhere: false,
        }
    }
}

/// What a key of a table does.
#[must_use]
pub fn find<A: Copy>(table: &[Key<A>], pressed: KeyEvent) -> Option<A> {
    table.iter().find(|k| k.is(pressed)).map(|k| k.act)
}

/// A key as it is shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Told {
    /// The key.
    pub code: KeyCode,
    /// With Shift held.
    pub shift: bool,
    /// With Control held.
    pub control: bool,
    /// The key as shown.
    pub shown: Cow<'static, str>,
    /// What it does.
    pub label: Cow<'static, str>,
    /// Whether the bottom line offers it.
    pub hint: bool,
    /// Whether it does so everywhere.
    pub everywhere: bool,
}

impl Told {
    /// Whether another one is of the same key.
    #[must_use]
    pub fn is_key_of(&self, other: &Self) -> bool {
        (self.code, self.shift, self.control) == (other.code, other.shift, other.control)
    }
}

/// Keys of several tables, the nearest first: those whose key means something else nearer by are
/// left out, and those that are not shown.
#[must_use]
pub fn shown(tables: impl IntoIterator<Item = Told>) -> Vec<Told> {
    let mut all: Vec<Told> = Vec::new();
    for one in tables {
        if !all.iter().any(|nearer| nearer.is_key_of(&one)) {
            all.push(one);
        }
    }
    all.retain(|k| !k.shown.is_empty());
    all
}

/// What a key means while text is being typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Typed {
    /// The text changes or the cursor moves.
    Edit(tui_input::InputRequest),
    /// The text is finished.
    Done,
    /// It is given up.
    Cancel,
    /// What can be completed is.
    Complete,
}

/// What a key means while text is being typed, as shells have it.
#[must_use]
pub fn typed(key: KeyEvent) -> Option<Typed> {
    use KeyCode::{Backspace, Char, Delete, End, Enter, Esc, Home, Left, Right, Tab};
    use tui_input::InputRequest as R;
    let control = key.modifiers.contains(KeyModifiers::CONTROL);
    let by_word = control || key.modifiers.contains(KeyModifiers::ALT);
    let edit = match (key.code, control) {
        (Enter, _) => return Some(Typed::Done),
        (Esc, _) | (Char('c'), true) => return Some(Typed::Cancel),
        (Tab, _) => return Some(Typed::Complete),
        (Left, _) if by_word => R::GoToPrevWord,
        (Right, _) if by_word => R::GoToNextWord,
        (Left, _) | (Char('b'), true) => R::GoToPrevChar,
        (Right, _) | (Char('f'), true) => R::GoToNextChar,
        (Home, _) | (Char('a'), true) => R::GoToStart,
        (End, _) | (Char('e'), true) => R::GoToEnd,
        (Backspace, _) if by_word => R::DeletePrevWord,
        (Backspace, _) | (Char('h'), true) => R::DeletePrevChar,
        (Delete, _) | (Char('d'), true) => R::DeleteNextChar,
        (Char('w'), true) => R::DeletePrevWord,
        (Char('u'), true) => R::DeleteLine,
        (Char('k'), true) => R::DeleteTillEnd,
        (Char(c), false) if !c.is_control() => R::InsertChar(c),
        _ => return None,
    };
    Some(Typed::Edit(edit))
}
