//! Palettes made of the one in use, and the sides of a setup.

use wealdmist_core::condition::Conditions;
use wealdmist_core::make::counterpart;
use wealdmist_core::pair::Pair;
use wealdmist_core::repair::{Background, Repair, Request, Scope, Wish, repair, wishes};
use wealdmist_core::setup::{EditError, Palette, Setup, SetupDoc, Variant};

/// How many colors are taken from an image.
pub const IMAGE_COLORS: usize = 16;

/// The name that a palette's counterpart on the other ground is given, and what makes it under a name.
pub fn counterpart_of<'a>(
    setup: &'a Setup,
    from: &'a Palette,
) -> (String, impl Fn(&str) -> Palette + 'a) {
    let wanted = format!("{} {}", from.name, from.variant.other().key());
    (wanted, move |name: &str| {
        counterpart(setup, from, &name.into())
    })
}

/// The setup with the palette of a side in use; `None` where it has none.
///
/// # Errors
/// When the setup cannot be changed.
pub fn side_of(doc: &SetupDoc, side: Variant) -> Result<Option<SetupDoc>, EditError> {
    let setup = doc.setup();
    match setup.appearance.side(side) {
        Some(name) if *name == setup.active => Ok(Some(doc.clone())),
        Some(name) => doc.with_text(&["palette"], name).map(Some),
        None => Ok(None),
    }
}

/// The smallest change that mends what is drawn below its target, and what was wished. What must be told
/// apart is kept apart where somebody could mistake it and the whole palette may move. `held` are colors that may not
/// move, beside those that the palette locks.
pub fn repair_of(
    setup: &Setup,
    pairs: &[Pair],
    conditions: &Conditions,
    scope: &Scope,
    background: Background,
    held: &[String],
) -> (Repair, Vec<Wish>) {
    let wishes = wishes(pairs);
    let mut palette = setup.palette().clone();
    palette.locked.extend(held.iter().cloned());
    let done = repair(&Request {
        setup,
        palette: &palette,
        wishes: &wishes,
        conditions,
        scope,
        background,
        meanings: !conditions.vision.is_full() && *scope == Scope::Palette,
    });
    (done, wishes)
}
