//! Things one of which may be taken into the design: each drawn as it would look, the one pointed at on
//! the specimen in all situations.

use std::borrow::Cow;
use std::collections::HashMap;
use std::time::Duration;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Part, Piece};
use wealdmist_core::reading::ToolId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::text::visible;
use wealdmist_host::cost_alone;
use wealdmist_tools::sourced::Sourced;

use super::{offers, scenes, view};
use crate::tui::bench::{Bench, Do, List, Question, Reply};
use crate::tui::instrument::Tone;
use crate::tui::job::Job;
use crate::tui::keys::{Key, also, hint};
use crate::tui::stage::{Dress, Worn};
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::ask::confined;

/// Something that may be taken.
#[derive(Debug, Clone)]
pub struct Offer {
    /// What it is called.
    pub name: String,
    /// What is worth knowing of it.
    pub says: String,
    /// How it looks, row by row.
    pub rows: Vec<Vec<Piece>>,
    /// The part that is added, where it is one whose cost can be measured.
    pub alone: Option<Part>,
    /// The design with it.
    pub design: Design,
    /// What has to be typed first, for something of the person's own.
    pub asks: Option<Own>,
}

/// Something of the person's own.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Own {
    Text,
    Variable,
    Tool,
}

/// What is typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Ask {
    /// What the list is to show.
    Filter,
    /// What a part of the person's own tells.
    Of(Own),
    /// The files of a tool of this name.
    Files(String),
}

/// What parts cost, measured one after the other while they are looked at.
pub struct Costs {
    shell: ToolId,
    row: &'static Sourced,
    /// The design as it is.
    doc: SetupDoc,
    /// What a prompt takes that has none.
    nothing: Option<Duration>,
    /// What it takes with a part and nothing else, by the part's name; what could not be measured takes nothing.
    with: HashMap<String, Option<Duration>>,
    /// Whether one is measured just now.
    asked: bool,
}

/// What a prompt takes with the part of a name, or without any.
pub struct Took(Option<String>, Result<Duration, String>);

/// Looks for what answers to words, for a part.
type Again = fn(&Workspace, usize, &str) -> Vec<Offer>;

/// The choice.
pub struct Choice {
    title: String,
    offers: Vec<Offer>,
    /// What the names of those shown have in them.
    filter: String,
    /// The one pointed at, among those shown.
    pub cursor: usize,
    /// The part behind which something is put in, or that is changed.
    part: usize,
    /// The draft with the one pointed at, and which that is.
    worn: Option<(String, Worn)>,
    /// What it is looked for anew in, where what is shown is not all there is.
    pub again: Option<Again>,
    /// What each costs, where that is measured.
    pub costs: Option<Costs>,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Take,
    Leave,
    Filter,
}

const KEYS: &[Key<Act>] = &[
    hint(Enter, Act::Take, "Enter", "take it"),
    hint(Esc, Act::Leave, "Esc", "leave it"),
    also(Char('q'), Act::Leave),
    also(Char('u'), Act::Leave),
    hint(Char('/'), Act::Filter, "/", "search"),
];

impl Offer {
    /// How many rows it takes: several have one free behind them.
    fn height(&self) -> usize {
        match self.rows.len() {
            0 | 1 => 1,
            several => several + 1,
        }
    }
}

impl Bench for Choice {
    type Act = Act;
    type Ask = Ask;
    type Answer = Took;

    const KEYS: &'static [Key<Act>] = KEYS;
    const ON_SPECIMEN: &'static [Key<Act>] = KEYS;

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        self.title.clone().into()
    }

    fn command(&self, _: &Workspace) -> String {
        "wealdmist prompt list   ·   wealdmist prompt".to_owned()
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        let width = pen.width();
        let shown = self.shown();
        let count = match self.again {
            Some(_) => format!(
                "{}; nothing is taken before Enter{}",
                shown.len(),
                match ws.display.icons {
                    true => "",
                    false => "; another sign stands for it here",
                }
            ),
            None => format!(
                "{} of {}; nothing is taken before Enter",
                shown.len(),
                self.offers.len()
            ),
        };
        pen.text(0, 1, &count, Tone::Quiet);
        if let Some(costs) = &self.costs {
            pen.right(0, width.saturating_sub(1), &costs.head(), Tone::Quiet);
        }
        if shown.is_empty() {
            let text = match self.again {
                Some(_) => "Nothing answers to that: / looks for other words.",
                None => "None has that in its name: / changes what is shown.",
            };
            pen.text(2, 2, text, Tone::Text);
        }
        let room = pen.height().saturating_sub(2);
        let names = shown.iter().map(|o| o.name.chars().count());
        let drawn_at = (names.max().unwrap_or(0) + 4).min(width / 2);
        let mut row = 2;
        for (i, offer) in shown.iter().enumerate().skip(self.first(&shown, room)) {
            let height = offer.height();
            if row + height > pen.height() {
                break;
            }
            let name = visible(offer.name.as_bytes());
            pen.cut(row, 2, &name, drawn_at - 3, Tone::Text);
            let costs = self
                .costs
                .as_ref()
                .and_then(|costs| costs.of_part(&offer.name));
            let says = match (offer.says.is_empty(), costs) {
                (_, None) => offer.says.clone(),
                (true, Some(costs)) => costs,
                (false, Some(costs)) => format!("{}   {costs}", offer.says),
            };
            let says = visible(says.as_bytes());
            let tone = match says.starts_with('!') {
                true => Tone::Loud,
                false => Tone::Quiet,
            };
            // Beside a single row, below several.
            let beside = offer.rows.len() < 2 && !says.is_empty();
            let end = width.saturating_sub(says.chars().count() + 3);
            match beside {
                true => pen.right(row, width.saturating_sub(1), &says, tone),
                false => drop(pen.cut(row + height - 1, drawn_at, &says, width - drawn_at, tone)),
            }
            let is_here = i == self.cursor && !ws.stage.pointed;
            for (n, pieces) in offer.rows.iter().enumerate() {
                let end = if beside { end } else { width - 1 };
                let end = view::pieces(ws, pieces, pen, row + n, drawn_at..end);
                if is_here {
                    pen.choose_row(row + n, 0..drawn_at);
                    pen.choose_row(row + n, end..width);
                }
            }
            if is_here && offer.rows.is_empty() {
                pen.choose_row(row, 0..width);
            }
            for line in row..row + height {
                hits.add(pen.place(line, 0..width), Hit::Row(i, None));
            }
            row += height;
        }
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        ws.stage.stale = true;
        match act {
            Act::Leave => {
                ws.tell("left as it was");
                vec![Do::Close]
            }
            Act::Filter => {
                let question = match self.again {
                    Some(_) => "icons by name, meaning or code point",
                    None => "show those with",
                };
                let question = Question::new(question, self.filter.clone());
                vec![Do::Ask(question, Ask::Filter)]
            }
            Act::Take => {
                let Some(offer) = self.pointed().cloned() else {
                    return Vec::new();
                };
                match offer.asks {
                    Some(own) => {
                        let question = match own {
                            Own::Text => "the text",
                            Own::Variable => "the name of the variable",
                            Own::Tool => "the name of the tool",
                        };
                        vec![Do::Ask(Question::new(question, ""), Ask::Of(own))]
                    }
                    None => take(ws, &offer.design),
                }
            }
        }
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        let name = |text: &str| {
            text.to_lowercase()
                .replace(|c: char| !c.is_alphanumeric(), "-")
        };
        let text = text.trim_end_matches(['\r', '\n']);
        let design = match ask {
            Ask::Filter => return Ok(Vec::new()),
            _ if text.trim().is_empty() => return Err("something has to stand here".to_owned()),
            Ask::Of(Own::Tool) => {
                let question = Question::new("files that show it, such as tide.toml", "");
                return Ok(vec![Do::Ask(question, Ask::Files(name(text.trim())))]);
            }
            Ask::Of(Own::Text) => offers::own(ws, self.part, "text", "text", |part| {
                text.clone_into(&mut part.tells.says);
            })?,
            Ask::Of(Own::Variable) => {
                offers::own(ws, self.part, "venv", &name(text.trim()), |part| {
                    text.trim().clone_into(&mut part.tells.variable);
                })?
            }
            Ask::Files(tool) => offers::own(ws, self.part, "make", tool, |part| {
                part.tells.files = text.split_whitespace().map(str::to_owned).collect();
            })?,
        };
        Ok(take(ws, &design))
    }

    fn typing(&mut self, ask: &Ask, text: Option<&str>, ws: &mut Workspace) {
        if *ask == Ask::Filter {
            let text = text.unwrap_or_default();
            match self.again {
                // What was found stays until something else is looked for.
                Some(_) if text.trim().is_empty() => return,
                Some(again) => self.offers = again(ws, self.part, text),
                None => text.clone_into(&mut self.filter),
            }
            self.cursor = 0;
            ws.stage.stale = true;
        }
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let len = self.shown().len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let offer = self.pointed().filter(|o| o.asks.is_none());
        let wanted = offer.map(|o| (o.name.clone(), o.design.clone()));
        if wanted.as_ref().map(|w| &w.0) != self.worn.as_ref().map(|w| &w.0) {
            self.worn = wanted.and_then(|(name, design)| {
                let doc = ws.doc().with_design(&design).ok()?;
                let look = Look::new(doc.setup());
                let worn = Worn {
                    name: name.clone(),
                    doc,
                    look,
                };
                Some((name, worn))
            });
            ws.stage.stale = true;
        }
        self.measure()
    }

    fn answered(&mut self, Took(name, took): Took, _: &mut Workspace) -> Reply<Self> {
        if let Some(costs) = &mut self.costs {
            costs.asked = false;
            match (name, took) {
                (Some(name), took) => drop(costs.with.insert(name, took.ok())),
                (None, Ok(took)) => costs.nothing = Some(took),
                // In a shell that cannot be run nothing is measured.
                (None, Err(_)) => self.costs = None,
            }
        }
        Vec::new()
    }

    fn dress(&self, _: &Workspace) -> Dress {
        let worn = self.worn.as_ref().map(|(_, worn)| worn.clone());
        Dress {
            title: worn.as_ref().map(|w| w.name.clone()),
            worn,
            second: None,
        }
    }

    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        Some(scenes::all(ws, &[]).drawn(0, None, size))
    }
}

impl Choice {
    /// A choice with the pointer on one of its offers.
    pub fn new(title: impl Into<String>, offers: Vec<Offer>, cursor: usize, part: usize) -> Self {
        Self {
            title: title.into(),
            cursor: cursor.min(offers.len().saturating_sub(1)),
            offers,
            filter: String::new(),
            part,
            worn: None,
            again: None,
            costs: None,
        }
    }

    /// Measures what is not measured yet, from the one pointed at on.
    fn measure(&mut self) -> Reply<Self> {
        let Some(costs) = self.costs.as_ref().filter(|costs| !costs.asked) else {
            return Vec::new();
        };
        let open = |o: &&Offer| o.alone.is_some() && !costs.with.contains_key(&o.name);
        let next = self.shown().into_iter().skip(self.cursor).find(open);
        let (name, part) = match (costs.nothing, next) {
            (None, _) => (None, None),
            (Some(_), Some(next)) => (Some(next.name.clone()), next.alone.clone()),
            (Some(_), None) => return Vec::new(),
        };
        let (row, doc) = (costs.row, costs.doc.clone());
        if let Some(costs) = &mut self.costs {
            costs.asked = true;
        }
        vec![Do::Run(Job::new(
            "cost",
            "measuring the parts",
            move || {
                let took = cost_alone(&doc, row, part.as_ref(), &confined());
                Took(name, took)
            },
        ))]
    }

    fn shown(&self) -> Vec<&Offer> {
        let wanted = self.filter.to_lowercase();
        let fits = |o: &&Offer| o.name.to_lowercase().contains(&wanted);
        self.offers.iter().filter(fits).collect()
    }

    /// The first one shown so that the one pointed at is in view.
    fn first(&self, shown: &[&Offer], room: usize) -> usize {
        let mut first = self.cursor.min(shown.len().saturating_sub(1));
        let mut used = shown.get(first).map_or(0, |o| o.height());
        while first > 0 && used + shown[first - 1].height() <= room / 2 {
            first -= 1;
            used += shown[first].height();
        }
        // Where all behind it find room, so do some before.
        let all: usize = shown.iter().skip(first).map(|o| o.height()).sum();
        let mut spare = room.saturating_sub(all);
        while first > 0 && shown[first - 1].height() <= spare {
            first -= 1;
            spare -= shown[first].height();
        }
        first
    }

    fn pointed(&self) -> Option<&Offer> {
        self.shown().get(self.cursor).copied()
    }
}

impl Costs {
    /// Those of the parts that may be added to the draft.
    pub fn of((shell, row): (ToolId, &'static Sourced), ws: &Workspace) -> Self {
        Self {
            shell,
            row,
            doc: ws.doc().clone(),
            nothing: None,
            with: HashMap::new(),
            asked: false,
        }
    }

    /// Where it is measured, for people.
    fn head(&self) -> String {
        format!("what it costs in {}", self.shell)
    }

    /// What a part adds, where that is known.
    fn of_part(&self, name: &str) -> Option<String> {
        let with = (*self.with.get(name)?)?;
        let more = with.saturating_sub(self.nothing?);
        Some(match more < view::LEAST {
            true => "< 0.1 ms".to_owned(),
            false => format!("+ {}", view::ms(more)),
        })
    }
}

/// Takes a design into the draft and closes the choice.
fn take(ws: &mut Workspace, design: &Design) -> Reply<Choice> {
    let changed = ws.doc().with_design(design);
    match ws.change(changed) {
        true => vec![Do::Close],
        false => Vec::new(),
    }
}
