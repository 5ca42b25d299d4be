//! Keys: one table that decides what a key does, what the bottom line offers and what the help
//! lists, so that they cannot disagree.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// The steps that have a bench.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Step {
    /// The ledger.
    Survey,
    /// The lightness ruler.
    Palette,
    /// The pairs.
    Contrast,
    /// Faces side by side.
    Font,
    /// The characters in use.
    Glyphs,
    /// The plan.
    Apply,
}

impl Step {
    /// All, in their order.
    pub const ALL: [Self; 6] = [
        Self::Survey,
        Self::Palette,
        Self::Contrast,
        Self::Font,
        Self::Glyphs,
        Self::Apply,
    ];

    /// Its number, which is the key that goes there.
    #[must_use]
    pub fn number(self) -> usize {
        Self::ALL
            .iter()
            .position(|s| *s == self)
            .map_or(0, |i| i + 1)
    }

    /// What it is called.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Survey => "Survey",
            Self::Palette => "Palette",
            Self::Contrast => "Contrast",
            Self::Font => "Font",
            Self::Glyphs => "Glyphs",
            Self::Apply => "Apply",
        }
    }
}

/// What a key does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Action {
    Quit,
    Help,
    Go(Step),
    NextStep,
    PreviousStep,
    Focus,
    Fill,
    UndoDraft,
    RedoDraft,
    Trial,
    TrialAround,
    ShowCommand,
    Up,
    Down,
    Left,
    Right,
    FarLeft,
    FarRight,
    PageUp,
    PageDown,
    First,
    Last,
    Enter,
    Filter,
    Adopt,
    Align,
    Except,
    OnlyDrift,
    Fold,
    Lightness,
    Chroma,
    Hue,
    TypeColor,
    Mend,
    OtherPalette,
    LeaveOut,
    Apply,
    TakeBack,
    Reload,
    Verify,
    TakeProposal,
    Leave,
    MarkCandidate,
    BeforeAfter,
    MakePalette,
    ChooseWay,
    LessOpaque,
    MoreOpaque,
    Wallpaper,
    Dimmed,
    Bits,
    Vision,
    Severity,
    Plain,
    RepairPair,
    RepairPalette,
    KeepPair,
    Target,
    EditGround,
    Lock,
    Sort,
    Beside,
    Chart,
    TakeIndexed,
    PickText,
    PickGround,
    OtherSide,
    Draw,
    ChooseFont,
    KeepBeside,
    NextSample,
    LargerSample,
    SmallerSample,
    NextStyle,
    Ligatures,
    FontPage,
    Means,
    OpenFonts,
    InstallFont,
    Fallback,
    HigherLines,
    LowerLines,
    FontSize,
    FilterFonts,
    TakeSubstitute,
    NextSubstitute,
    MendGlyphs,
    KeepGlyph,
    GlyphView,
    SearchIcons,
    MeasureTerminal,
    MarkGlyph,
    Level,
    ToolLevel,
    TakeLevel,
    CopyGlyph,
    TypeReplacement,
}

/// Where keys are pressed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct At {
    /// The step whose bench is shown.
    pub step: Step,
    /// Whether the pointer is on the specimen.
    pub on_specimen: bool,
    /// Whether a proposal is shown.
    pub proposing: bool,
    /// Whether the menu of ways to a palette is open.
    pub in_menu: bool,
    /// Whether the chart of indexed colors is open.
    pub in_chart: bool,
    /// Whether answers of a search for icons are shown.
    pub searching: bool,
}

impl At {
    /// On a bench, with nothing open.
    #[cfg(test)]
    pub const fn bench(step: Step) -> Self {
        Self {
            step,
            on_specimen: false,
            proposing: false,
            in_menu: false,
            in_chart: false,
            searching: false,
        }
    }

    /// What is open over the bench, if anything.
    const fn open(self) -> Option<Place> {
        if self.proposing {
            Some(Place::Proposal)
        } else if self.in_menu {
            Some(Place::Menu)
        } else if self.in_chart {
            Some(Place::Chart)
        } else if self.searching {
            Some(Place::Search)
        } else {
            None
        }
    }
}

/// Where a binding holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    /// Everywhere.
    Anywhere,
    /// On a bench.
    Bench(Step),
    /// On any bench with a list.
    AnyBench,
    /// On the specimen.
    Specimen,
    /// Where a proposal is shown.
    Proposal,
    /// In the menu of ways to a palette.
    Menu,
    /// On the chart of indexed colors.
    Chart,
    /// In the answers of a search for icons.
    Search,
}

/// A key and what it does.
#[derive(Debug)]
pub struct Binding {
    /// The key.
    pub code: KeyCode,
    /// With Shift held, where that is not part of the character.
    pub shift: bool,
    /// With Control held.
    pub control: bool,
    /// What it does.
    pub action: Action,
    /// Where.
    pub place: Place,
    /// The key as shown; empty for a second key of the same action.
    pub shown: &'static str,
    /// What it does, in two or three words.
    pub label: &'static str,
    /// Whether the bottom line offers it.
    pub hint: bool,
}

use Action as A;
use KeyCode::{
    BackTab, Backspace, Char, Down, End, Enter, Esc, Home, Left, PageDown, PageUp, Right, Tab, Up,
};
use Place::{AnyBench, Anywhere, Bench, Chart, Menu, Proposal, Search, Specimen};

const fn b(
    code: KeyCode,
    action: Action,
    place: Place,
    shown: &'static str,
    label: &'static str,
    hint: bool,
) -> Binding {
    Binding {
        code,
        shift: false,
        control: false,
        action,
        place,
        shown,
        label,
        hint,
    }
}

const fn shifted(
    code: KeyCode,
    action: Action,
    place: Place,
    shown: &'static str,
    label: &'static str,
) -> Binding {
    Binding {
        code,
        shift: true,
        control: false,
        action,
        place,
        shown,
        label,
        hint: false,
    }
}

const fn control(code: KeyCode, action: Action, place: Place) -> Binding {
    Binding {
        code,
        shift: false,
        control: true,
        action,
        place,
        shown: "",
        label: "",
        hint: false,
    }
}

const SURVEY: Place = Bench(Step::Survey);
const PALETTE: Place = Bench(Step::Palette);
const CONTRAST: Place = Bench(Step::Contrast);
const FONT: Place = Bench(Step::Font);
const GLYPHS: Place = Bench(Step::Glyphs);
const APPLY: Place = Bench(Step::Apply);

/// Every binding. Special places come before general ones.
#[rustfmt::skip]
pub static BINDINGS: &[Binding] = &[
    b(Char('a'), A::Adopt, SURVEY, "a", "take this value into the setup", true),
    b(Char('s'), A::Align, SURVEY, "s", "set this tool to the setup", true),
    b(Char('e'), A::Except, SURVEY, "e", "keep as exception", true),
    b(Char('o'), A::OnlyDrift, SURVEY, "o", "only drift", true),
    b(Char(' '), A::Fold, SURVEY, "Space", "fold group", false),
    b(Char('/'), A::Filter, SURVEY, "/", "show only some roles", false),
    b(Enter, A::Enter, SURVEY, "Enter", "edit this color", true),

    b(Char('l'), A::Lightness, PALETTE, "l", "lightness", true),
    b(Char('c'), A::Chroma, PALETTE, "c", "chroma", true),
    b(Char('h'), A::Hue, PALETTE, "h", "hue", true),
    b(Left, A::Left, PALETTE, "← →", "change", true),
    b(Right, A::Right, PALETTE, "", "", false),
    shifted(Left, A::FarLeft, PALETTE, "Shift ← →", "change by much"),
    shifted(Right, A::FarRight, PALETTE, "", ""),
    b(Char('#'), A::TypeColor, PALETTE, "#", "type a value", true),
    b(Enter, A::TypeColor, PALETTE, "", "", false),
    b(Char('m'), A::Mend, PALETTE, "m", "mend contrast", true),
    b(Char('n'), A::MakePalette, PALETTE, "n", "new palette", true),
    b(Char('p'), A::OtherPalette, PALETTE, "p", "next palette", false),
    b(Char('s'), A::Sort, PALETTE, "s", "sort", true),
    b(Char('a'), A::Beside, PALETTE, "a", "other palettes beside", false),
    b(Char('i'), A::Chart, PALETTE, "i", "the 256 indexed colors", true),
    b(Char('L'), A::Lock, PALETTE, "L", "lock against repairs", false),

    b(Char('m'), A::RepairPair, CONTRAST, "m", "mend this pair", true),
    b(Char('r'), A::RepairPalette, CONTRAST, "r", "repair all", true),
    b(Enter, A::Enter, CONTRAST, "Enter", "edit the text color", true),
    b(Char('g'), A::EditGround, CONTRAST, "g", "edit the ground", false),
    b(Char('e'), A::KeepPair, CONTRAST, "e", "keep as it is", true),
    b(Char('n'), A::Target, CONTRAST, "n", "ratio it needs", false),
    b(Char('L'), A::Lock, CONTRAST, "L", "lock the text's color", false),
    b(Char('-'), A::LessOpaque, CONTRAST, "- +", "window's opacity", true),
    b(Char('+'), A::MoreOpaque, CONTRAST, "", "", false),
    b(Char('='), A::MoreOpaque, CONTRAST, "", "", false),
    b(Char('w'), A::Wallpaper, CONTRAST, "w", "what is behind the window", false),
    b(Char('d'), A::Dimmed, CONTRAST, "d", "dimmed pane", false),
    b(Char('b'), A::Bits, CONTRAST, "b", "24-bit, 256, 16 colors", false),
    b(Char('v'), A::Vision, CONTRAST, "v", "color vision", true),
    b(Char('V'), A::Severity, CONTRAST, "V", "how strong the deficiency is", false),
    b(Char('0'), A::Plain, CONTRAST, "0", "as it is", false),

    b(Enter, A::ChooseFont, FONT, "Enter", "choose", true),
    b(Char('/'), A::FilterFonts, FONT, "/", "filter", true),
    b(Char(' '), A::KeepBeside, FONT, "Space", "keep beside", true),
    b(Char('f'), A::FontPage, FONT, "f", "samples, facts, features", true),
    b(Char('s'), A::NextSample, FONT, "s", "next sample", true),
    b(Char('b'), A::NextStyle, FONT, "b", "regular, bold, italic", true),
    b(Char('+'), A::LargerSample, FONT, "- +", "size of samples", false),
    b(Char('='), A::LargerSample, FONT, "", "", false),
    b(Char('-'), A::SmallerSample, FONT, "", "", false),
    b(Char('l'), A::Ligatures, FONT, "l", "ligatures on, off", false),
    b(Char('o'), A::OpenFonts, FONT, "o", "open a file or archive", true),
    b(Char('i'), A::InstallFont, FONT, "i", "install", false),
    b(Char('e'), A::Fallback, FONT, "e", "fall back to it", false),
    b(Char('#'), A::FontSize, FONT, "#", "size in points", false),
    b(Char('h'), A::HigherLines, FONT, "h H", "line height", false),
    b(Char('H'), A::LowerLines, FONT, "", "", false),
    b(Char('m'), A::Means, FONT, "m", "how samples are drawn", false),

    b(Enter, A::TakeSubstitute, GLYPHS, "Enter", "replace by this", true),
    b(Char('s'), A::NextSubstitute, GLYPHS, "s", "another substitute", true),
    b(Char('m'), A::MendGlyphs, GLYPHS, "m", "mend all", true),
    b(Char('v'), A::GlyphView, GLYPHS, "v", "list, map, terminal", true),
    b(Char('/'), A::SearchIcons, GLYPHS, "/", "search icons", true),
    b(Char('l'), A::Level, GLYPHS, "l", "symbol level", true),
    b(Char('L'), A::ToolLevel, GLYPHS, "L", "this tool's symbol level", false),
    b(Char('n'), A::TypeReplacement, GLYPHS, "n", "type what stands for it", false),
    b(Char('k'), A::KeepGlyph, GLYPHS, "k", "keep it after all", false),
    b(Char('x'), A::MarkGlyph, GLYPHS, "x", "drawn wrongly, rightly here", false),
    b(Char('w'), A::MeasureTerminal, GLYPHS, "w", "measure this terminal", false),
    b(Char('g'), A::TakeLevel, GLYPHS, "g", "take the level proposed", false),
    b(Char('y'), A::CopyGlyph, GLYPHS, "y", "copy the glyph", false),

    b(Enter, A::TakeSubstitute, Search, "Enter", "replace the glyph by it", true),
    b(Char('y'), A::CopyGlyph, Search, "y", "copy it", true),
    b(Char('/'), A::SearchIcons, Search, "/", "search again", true),
    b(Esc, A::Leave, Search, "Esc", "leave", true),
    b(Char('q'), A::Leave, Search, "", "", false),

    b(Enter, A::TakeProposal, Proposal, "Enter", "take it", true),
    b(Esc, A::Leave, Proposal, "Esc", "leave it", true),
    b(Char('q'), A::Leave, Proposal, "", "", false),
    b(Char('b'), A::BeforeAfter, Proposal, "b", "before / after", true),
    b(Char(' '), A::MarkCandidate, Proposal, "Space", "keep beside to compare", true),
    b(Char('u'), A::Leave, Proposal, "", "", false),

    b(Enter, A::ChooseWay, Menu, "Enter", "choose", true),
    b(Esc, A::Leave, Menu, "Esc", "leave", true),
    b(Char('q'), A::Leave, Menu, "", "", false),

    b(Enter, A::TakeIndexed, Chart, "Enter", "take this color", true),
    b(Esc, A::Leave, Chart, "Esc", "leave the chart", true),
    b(Char('i'), A::Leave, Chart, "", "", false),
    b(Char('q'), A::Leave, Chart, "", "", false),

    b(Char(' '), A::LeaveOut, APPLY, "Space", "leave out / take in", true),
    b(Enter, A::Apply, APPLY, "Enter", "apply", true),
    b(Char('x'), A::TakeBack, APPLY, "x", "take back the last apply", true),
    b(Char('r'), A::Reload, APPLY, "r", "reload", true),
    b(Char('v'), A::Verify, APPLY, "v", "verify", true),

    b(Enter, A::Enter, Specimen, "Enter", "edit this color", true),
    b(Up, A::Up, Specimen, "arrows", "hop from spot to spot", true),
    b(Down, A::Down, Specimen, "", "", false),
    b(Left, A::Left, Specimen, "", "", false),
    b(Right, A::Right, Specimen, "", "", false),
    b(Char('m'), A::Mend, Specimen, "m", "mend contrast", true),
    b(Char('y'), A::PickText, Specimen, "y", "pick this color up", true),
    b(Char('Y'), A::PickGround, Specimen, "Y", "pick its ground up", false),

    b(Up, A::Up, AnyBench, "↑ ↓", "move", false),
    b(Down, A::Down, AnyBench, "", "", false),
    b(Char('k'), A::Up, AnyBench, "", "", false),
    b(Char('j'), A::Down, AnyBench, "", "", false),
    b(Left, A::Left, AnyBench, "", "", false),
    b(Right, A::Right, AnyBench, "", "", false),
    b(PageUp, A::PageUp, AnyBench, "PgUp PgDn", "a page", false),
    b(PageDown, A::PageDown, AnyBench, "", "", false),
    b(Home, A::First, AnyBench, "Home End", "first, last", false),
    b(End, A::Last, AnyBench, "", "", false),

    b(Tab, A::Focus, Anywhere, "Tab", "bench / specimen", true),
    b(BackTab, A::Focus, Anywhere, "", "", false),
    b(Char('z'), A::Fill, Anywhere, "z", "specimen fills the screen", false),
    b(Char('1'), A::Go(Step::Survey), Anywhere, "1–6", "go to a step", false),
    b(Char('2'), A::Go(Step::Palette), Anywhere, "", "", false),
    b(Char('3'), A::Go(Step::Contrast), Anywhere, "", "", false),
    b(Char('4'), A::Go(Step::Font), Anywhere, "", "", false),
    b(Char('5'), A::Go(Step::Glyphs), Anywhere, "", "", false),
    b(Char('6'), A::Go(Step::Apply), Anywhere, "", "", false),
    b(Char(']'), A::NextStep, Anywhere, "[ ]", "step back, step on", false),
    b(Char('['), A::PreviousStep, Anywhere, "", "", false),
    b(Char('u'), A::UndoDraft, Anywhere, "u", "undo", true),
    b(Char('U'), A::RedoDraft, Anywhere, "U", "redo", false),
    control(Char('r'), A::RedoDraft, Anywhere),
    b(Char('D'), A::OtherSide, Anywhere, "D", "dark / light", false),
    b(Char('P'), A::Draw, Anywhere, "P", "draw this to a file", false),
    b(Char('T'), A::TrialAround, Anywhere, "T", "try on running tmux and Neovim", false),
    b(Char('t'), A::Trial, Anywhere, "t", "try on this terminal", false),
    b(Char(':'), A::ShowCommand, Anywhere, ":", "the same as a command", false),
    b(Char('?'), A::Help, Anywhere, "?", "keys", true),
    b(Char('q'), A::Quit, Anywhere, "q", "quit", true),
    control(Char('c'), A::Quit, Anywhere),
];

/// What a key does at a place.
#[must_use]
pub fn action(key: KeyEvent, at: At) -> Option<Action> {
    let held = key.modifiers;
    let matches = |binding: &&Binding| {
        let shift = held.contains(KeyModifiers::SHIFT) && !matches!(key.code, Char(_) | BackTab);
        binding.code == key.code
            && binding.control == held.contains(KeyModifiers::CONTROL)
            && (binding.shift == shift)
            && applies(binding.place, at)
    };
    BINDINGS.iter().find(matches).map(|b| b.action)
}

/// Whether bindings of a place hold here. What is open takes the place of the bench.
#[must_use]
pub fn applies(place: Place, at: At) -> bool {
    match place {
        Place::Anywhere => true,
        Place::Specimen => at.on_specimen,
        Place::AnyBench => !at.on_specimen,
        Place::Bench(of) => !at.on_specimen && of == at.step && at.open().is_none(),
        Place::Proposal => at.proposing,
        open => !at.on_specimen && at.open() == Some(open),
    }
}

/// The bindings that hold at a place and are shown, without those whose key means something else
/// there.
pub fn shown(at: At) -> impl Iterator<Item = &'static Binding> {
    let here = move |b: &&Binding| applies(b.place, at);
    BINDINGS.iter().filter(here).filter(move |b| {
        let same = |o: &&Binding| {
            o.code == b.code && o.shift == b.shift && o.control == b.control && applies(o.place, at)
        };
        let first = BINDINGS.iter().find(same);
        !b.shown.is_empty() && first.is_some_and(|first| std::ptr::eq(first, *b))
    })
}

/// A key while text is being typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Typed {
    /// A character.
    Char(char),
    /// The last character goes.
    Backspace,
    /// The text is finished.
    Done,
    /// It is given up.
    Cancel,
}

/// What a key means while text is being typed.
#[must_use]
pub fn typed(key: KeyEvent) -> Option<Typed> {
    match key.code {
        Char('c') if key.modifiers.contains(KeyModifiers::CONTROL) => Some(Typed::Cancel),
        Char(c) if !key.modifiers.contains(KeyModifiers::CONTROL) => Some(Typed::Char(c)),
        Backspace => Some(Typed::Backspace),
        Enter => Some(Typed::Done),
        Esc => Some(Typed::Cancel),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_key_has_two_meanings_at_one_place() {
        for (i, one) in BINDINGS.iter().enumerate() {
            for other in &BINDINGS[i + 1..] {
                let same = one.code == other.code
                    && one.shift == other.shift
                    && one.control == other.control;
                assert!(
                    !(same && one.place == other.place),
                    "{:?} twice at {:?}",
                    one.code,
                    one.place
                );
            }
        }
    }

    #[test]
    fn every_shown_key_is_explained() {
        for binding in BINDINGS {
            assert_eq!(
                binding.shown.is_empty(),
                binding.label.is_empty(),
                "{:?}",
                binding.code
            );
            assert!(!binding.hint || !binding.shown.is_empty());
        }
    }

    #[test]
    fn the_nearer_meaning_wins() {
        let key = |code| KeyEvent::new(code, KeyModifiers::NONE);
        let specimen = At {
            on_specimen: true,
            ..At::bench(Step::Apply)
        };
        let proposing = At {
            proposing: true,
            ..At::bench(Step::Contrast)
        };
        let at = At::bench;
        assert_eq!(action(key(Enter), at(Step::Apply)), Some(Action::Apply));
        assert_eq!(action(key(Enter), specimen), Some(Action::Enter));
        assert_eq!(action(key(Enter), proposing), Some(Action::TakeProposal));
        assert_eq!(action(key(Char('v')), proposing), None);
        assert_eq!(action(key(Char('q')), proposing), Some(Action::Leave));
        assert_eq!(action(key(Char('m')), at(Step::Survey)), None);
        let shift = KeyEvent::new(Left, KeyModifiers::SHIFT);
        assert_eq!(action(shift, at(Step::Palette)), Some(Action::FarLeft));
        let redo = KeyEvent::new(Char('U'), KeyModifiers::SHIFT);
        assert_eq!(action(redo, at(Step::Survey)), Some(Action::RedoDraft));
    }
}
