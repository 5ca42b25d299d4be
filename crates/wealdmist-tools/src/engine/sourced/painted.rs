//! The design of a prompt with its colors as codes for terminals: what every shell's script is made from.

use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{BETWEEN, Design, Hue, Item, Kind, Part, Style, When, ground, hue};
use wealdmist_core::quote::Code;
use wealdmist_core::reading::ToolId;
use wealdmist_core::role::{ROLES, RoleId};
use wealdmist_core::setup::Setup;

/// The depths a script has colors for, the deepest first.
pub const DEPTHS: [Depth; 3] = [Depth::TrueColor, Depth::Indexed256, Depth::Ansi16];

/// A role's name in scripts: a word of letters, digits and `_`. `None` for one that has none of its own.
#[must_use]
pub fn word_of(role: &RoleId) -> Option<&'static str> {
    let known = ROLES.iter().find(|k| k.id == role.as_str())?;
    let word = known.id.strip_prefix("prompt.")?;
    word.bytes()
        .all(|b| b.is_ascii_alphanumeric())
        .then_some(word)
}

/// The role that a word of a script stands for.
#[must_use]
pub fn role_of(word: &str) -> Option<&'static str> {
    let known = ROLES.iter();
    known
        .filter(|k| word_of(&RoleId::known(k.id)) == Some(word))
        .map(|k| k.id)
        .next()
}

/// A design with what its script needs to know.
pub struct Painted<'a> {
    /// The design, as the tool draws it.
    pub design: Design,
    /// The roles of texts, in the order they are met.
    texts: Vec<RoleId>,
    /// The roles of grounds, likewise.
    grounds: Vec<RoleId>,
    look: &'a Look,
}

impl<'a> Painted<'a> {
    /// The design of a setup for a tool.
    #[must_use]
    pub fn new(setup: &Setup, look: &'a Look, tool: ToolId) -> Self {
        let design = setup.prompt_at(setup.symbols_for(tool));
        let (mut texts, mut grounds) = (vec![RoleId::known(BETWEEN)], Vec::new());
        for part in design.parts() {
            for role in part.texts() {
                if !texts.contains(role) {
                    texts.push(role.clone());
                }
            }
            if let Some(role) = &part.ground
                && !grounds.contains(role)
            {
                grounds.push(role.clone());
            }
        }
        Self {
            design,
            texts,
            grounds,
            look,
        }
    }

    /// The name of the variable that holds a role's color as text.
    #[must_use]
    pub fn text(&self, role: &RoleId) -> Code {
        match word_of(role) {
            Some(word) => Code::of("c_{}", &[&Code::fixed(word)]),
            None => {
                let n = self
                    .texts
                    .iter()
                    .position(|r| r == role)
                    .unwrap_or_default();
                Code::of("n_{}", &[&Code::whole(n as u64)])
            }
        }
    }

    /// The number of a part's ground; 0 for the terminal's own.
    #[must_use]
    pub fn ground(&self, part: &Part) -> u64 {
        let place = |role: &RoleId| self.grounds.iter().position(|r| r == role);
        part.ground
            .as_ref()
            .and_then(place)
            .map_or(0, |n| n as u64 + 1)
    }

    /// How many grounds there are.
    #[must_use]
    pub fn ground_count(&self) -> usize {
        self.grounds.len()
    }

    /// The colors of texts at a depth: variable and code.
    #[must_use]
    pub fn text_colors(&self, depth: Depth) -> Vec<(Code, Code)> {
        let one = |role: &RoleId| {
            let attrs = self.look.attrs(role);
            let mut out = Code::default();
            let flags = [
                (attrs.bold, "1;"),
                (attrs.italic, "3;"),
                (attrs.underline, "4;"),
            ];
            for (on, code) in flags {
                if on && depth != Depth::None {
                    out.push_fixed(code);
                }
            }
            if depth != Depth::None {
                out.push(&sgr(hue(self.look, role, depth), false));
            }
            (self.text(role), out)
        };
        self.texts.iter().map(one).collect()
    }

    /// The colors of grounds at a depth: as ground, and as text for what joins them.
    #[must_use]
    pub fn ground_colors(&self, depth: Depth) -> Vec<(Code, Code)> {
        let one = |role: &RoleId| {
            let hue = ground(self.look, role, depth);
            (sgr(hue, true), sgr(hue, false))
        };
        self.grounds.iter().map(one).collect()
    }

    /// Whether a repository has to be looked for.
    #[must_use]
    pub fn asks_repository(&self) -> bool {
        self.design.parts().any(|p| {
            matches!(p.kind, Kind::Branch | Kind::Changes | Kind::Operation)
                || p.when == When::Repository
                || (p.kind == Kind::Folder && p.tells.within)
        })
    }

    /// Whether git has to be asked for changes.
    #[must_use]
    pub fn asks_changes(&self) -> bool {
        self.design.has(Kind::Changes)
    }

    /// The kinds by which changes are told: none where it is only told that there are some.
    #[must_use]
    pub fn counted(&self) -> Vec<Item> {
        let tells = |style: fn(&Style) -> bool| {
            let told = |p: &Part| p.kind == Kind::Changes && style(&p.tells.style);
            self.design.parts().any(told)
        };
        let lines = tells(|style| *style == Style::Lines);
        let all = tells(|style| *style != Style::One);
        let told = |item: &Item| all && (lines || !item.is_of_lines());
        Item::ALL.into_iter().filter(told).collect()
    }
}

/// A color as a terminal takes it.
fn sgr(hue: Hue, is_ground: bool) -> Code {
    match hue {
        Hue::Own => Code::fixed(if is_ground { "49" } else { "39" }),
        Hue::Ansi(n) => {
            let first = if is_ground { 40 } else { 30 };
            Code::whole(u64::from(if n < 8 { first + n } else { first + 52 + n }))
        }
        Hue::Indexed(n) => {
            let layer = Code::fixed(if is_ground { "48" } else { "38" });
            Code::of("{};5;{}", &[&layer, &Code::whole(n)])
        }
        Hue::Rgb(color) => {
            let [r, g, b] = [color.r, color.g, color.b].map(Code::whole);
            let layer = Code::fixed(if is_ground { "48" } else { "38" });
            Code::of("{};2;{};{};{}", &[&layer, &r, &g, &b])
        }
    }
}
