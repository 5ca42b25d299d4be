//! The specimen and the pointer on it.

use wealdmist_core::look::Look;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::{Setup, SetupDoc};
use wealdmist_core::specimen::{Direction, Specimen};

/// Another draft than the person's own, for the specimen to wear.
#[derive(Debug, Clone)]
pub struct Worn {
    /// What it is called.
    pub name: String,
    /// The draft.
    pub doc: SetupDoc,
    /// It resolved.
    pub look: Look,
}

/// What the specimen is to show.
#[derive(Debug, Clone, Default)]
pub struct Dress {
    /// Another draft than the person's own.
    pub worn: Option<Worn>,
    /// What the draft shown is called, where that has to be said.
    pub title: Option<String>,
    /// A draft shown below it, to be compared.
    pub second: Option<Worn>,
}

/// What a bench points at, to be shown on the specimen.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Target {
    /// The role of the text.
    pub text: RoleId,
    /// The role of its ground, where a certain one is meant.
    pub ground: Option<RoleId>,
}

impl From<RoleId> for Target {
    fn from(text: RoleId) -> Self {
        Self { text, ground: None }
    }
}

/// The specimen, and where it is pointed at.
#[derive(Debug, Clone)]
pub struct Stage {
    /// The specimen as drawn now.
    pub specimen: Specimen,
    /// The same as it is seen under the conditions.
    pub seen: Specimen,
    /// Another one below it, for comparison, and its name.
    pub second: Option<(String, Specimen)>,
    /// Another draft than the person's own, which it wears.
    pub worn: Option<Worn>,
    /// What is shown, where that has to be said.
    pub title: Option<String>,
    /// Whether the pointer is on the specimen.
    pub pointed: bool,
    /// Whether the specimen fills the screen.
    pub filled: bool,
    /// The spot pointed at.
    pub spot: usize,
    /// Whether that spot shows what the bench's pointer is on.
    pub follows: bool,
    /// Whether it has to be drawn anew.
    pub stale: bool,
}

impl Stage {
    /// Before the first drawing.
    pub fn new(setup: &Setup, look: &Look, icons: bool) -> Self {
        // As wide as a screen: what it points at stays pointed at.
        let specimen = Specimen::draw(setup, look, 80, 24, icons);
        Self {
            seen: specimen.clone(),
            specimen,
            second: None,
            worn: None,
            title: None,
            pointed: false,
            filled: false,
            spot: 0,
            follows: false,
            stale: true,
        }
    }

    /// The spot to show as pointed at, if any.
    #[must_use]
    pub fn shown_spot(&self) -> Option<usize> {
        (self.pointed || self.follows).then_some(self.spot)
    }

    /// Hops to a spot in a direction, so many times.
    pub fn hop(&mut self, direction: Direction, times: usize) {
        for _ in 0..times.min(99) {
            self.spot = self.specimen.hop(self.spot, direction);
        }
    }

    /// Points at what the bench points at, where that is shown.
    pub fn follow(&mut self, target: Option<Target>) {
        let Some(target) = target else {
            self.follows = false;
            return;
        };
        let shows = |exactly: bool| {
            let ground = target.ground.as_ref().filter(|_| exactly);
            let fits = |s: &wealdmist_core::specimen::Spot| {
                s.text == target.text && ground.is_none_or(|g| s.ground == *g)
            };
            // The spot one came from, where it will do.
            let spots = &self.specimen.spots;
            match spots.get(self.spot).is_some_and(fits) {
                true => Some(self.spot),
                false => spots.iter().position(fits),
            }
        };
        let found = shows(true)
            .or_else(|| shows(false))
            .or_else(|| self.specimen.find(&target.text));
        self.follows = found.is_some();
        self.spot = found.unwrap_or(self.spot);
    }
}
