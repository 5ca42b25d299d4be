//! What can happen to the state, what it wants done, and what is being typed.

use std::path::PathBuf;

use crossterm::event::KeyEvent;
use wealdmist_core::condition::Backdrop;
use wealdmist_core::font::Typeface;
use wealdmist_core::look::Origin;
use wealdmist_core::plan::Plan;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_host::{Answer, FontSearch, FontSource, InstallPlan, Picture};

use super::fonts::{Key, Opened, Wanted};
use crate::tui::keys::Step;

/// Everything that can happen.
#[derive(Debug)]
pub enum Message {
    /// A key was pressed.
    Key(KeyEvent),
    /// Text was pasted.
    Pasted(String),
    /// The terminal has another size.
    Resized(u16, u16),
    /// A step of the path was clicked.
    ClickedStep(Step),
    /// A row of the bench was clicked, and the column if it has several.
    ClickedRow(usize, Option<usize>),
    /// A spot of the specimen was clicked.
    ClickedSpot(usize),
    /// The wheel was turned: so many rows.
    Wheel(isize),
    /// The font was looked for.
    Font(Box<FontSearch>),
    /// A face was read, or not.
    FaceOpened(Key, Result<Box<Opened>, String>),
    /// A face that glyphs are drawn from was read, by its file and number; `None` if it cannot be.
    GlyphFaceOpened((PathBuf, u32), Option<Box<Typeface>>),
    /// A font file, folder or archive was read, or not.
    FontSourceRead(Result<Box<FontSource>, String>),
    /// Faces were installed, or not.
    Installed(Result<String, String>),
    /// The terminal was measured, or not.
    Measured(Result<TerminalRecord, String>),
    /// Running programs answered.
    Answers(Vec<Answer>),
    /// The plan was carried out, or not.
    Applied(Result<u64, String>),
    /// An apply was taken back, or not.
    TakenBack(Result<u64, String>),
    /// An image to take colors from was read, or not: what it is called, and it.
    ImageRead(String, Result<Picture, String>),
    /// An image to see through was read, or not.
    WallpaperRead(PathBuf, Result<Backdrop, String>),
    /// A drawing was written, or not.
    Drawn(Result<String, String>),
}

/// What the state wants done outside itself.
#[derive(Debug, PartialEq)]
pub enum Effect {
    /// Look for the setup's font.
    FindFont,
    /// Read a face for work.
    OpenFace(Box<Wanted>),
    /// Read an installed face to draw glyphs from, by its file and number.
    OpenGlyphFace((PathBuf, u32)),
    /// Read a font file, folder or archive.
    ReadFontSource(PathBuf),
    /// Install faces.
    Install(Box<InstallPlan>),
    /// Measure the width of clusters on this terminal.
    Measure(Vec<String>),
    /// Put a text into the clipboard.
    Copy(String),
    /// Write escapes of the trial to the terminal.
    Wear(Vec<u8>),
    /// Carry out a plan.
    Apply(Plan),
    /// Take back the latest apply.
    TakeBack,
    /// Tell and ask the running programs.
    Reload,
    /// Ask the running programs.
    Verify,
    /// Let running tmux and Neovim wear a setup, or take that back.
    TryOn(Option<Box<SetupDoc>>),
    /// Read an image to take colors from.
    ReadImage(PathBuf),
    /// Read an image to see through.
    ReadWallpaper(PathBuf),
    /// Write the drawing of a step to a file.
    Draw(Step, PathBuf),
}

/// What is being typed, and what for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Purpose {
    /// A color's value.
    Color(Origin),
    /// The reason of an exception.
    Reason { tool: String, role: RoleId },
    /// A filter of the ledger.
    Filter,
    /// Seed colors of a palette.
    Seeds,
    /// An image to take colors from.
    Image,
    /// A palette file.
    File,
    /// The text of a palette file.
    Pasted,
    /// A folder of palette files.
    Folder,
    /// An image to see through.
    Wallpaper,
    /// Why a pair may stay below its target.
    ContrastReason { text: RoleId, ground: RoleId },
    /// The ratio a role needs.
    Target(RoleId),
    /// The file a drawing goes to.
    Draw,
    /// A font file, folder or archive.
    FontSource,
    /// A filter of the families.
    FontFilter,
    /// The font's size.
    FontSize,
    /// Words that icons are looked for by.
    IconSearch,
    /// What stands for a character.
    Replacement(char),
}

/// A line being typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Input {
    /// What is asked.
    pub question: String,
    /// What has been typed.
    pub text: String,
    /// What it is for.
    pub purpose: Purpose,
}

/// A word to the person.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Note {
    /// The text.
    pub text: String,
    /// Whether it is bad news.
    pub bad: bool,
}
