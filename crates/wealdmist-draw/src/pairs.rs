//! The pairs on paper: a matrix of texts on grounds with their ratios, and the ratio against the
//! window's opacity.

use wealdmist_core::Rgb;
use wealdmist_core::color::{Rounding, ratio_to};
use wealdmist_core::condition::{Behind, Conditions, Sight};
use wealdmist_core::look::Look;
use wealdmist_core::role::{RoleId, Slot};

use crate::Subject;
use crate::page::{INK, LOUD, MARGIN, Page, QUIET, RULE, WIDTH, cut};

/// Every text on every ground it is drawn on, each cell in its own colors with its ratio.
pub fn matrix(subject: &Subject) -> String {
    let pairs = subject.pairs;
    let failing = pairs.iter().filter(|p| !p.fine()).count();
    let subtitle = format!(
        "pair matrix: {} pairs, {failing} below their target (framed in red); seen: {}",
        pairs.len(),
        subject.conditions.label()
    );
    let mut page = Page::new(&subject.title(), &subtitle);
    let mut grounds: Vec<&RoleId> = Vec::new();
    let mut texts: Vec<&RoleId> = Vec::new();
    for pair in pairs {
        for (list, role) in [(&mut grounds, &pair.ground), (&mut texts, &pair.text)] {
            if !list.contains(&role) {
                list.push(role);
            }
        }
    }
    // Grounds with most texts first, so that the matrix is filled at the left.
    let count = |g: &RoleId| pairs.iter().filter(|p| p.ground == *g).count();
    grounds.sort_by(|a, b| count(b).cmp(&count(a)).then(a.cmp(b)));
    let row_order = |t: &RoleId| (t.group(), t.clone());
    texts.sort_by_key(|t| row_order(t));
    let left = MARGIN + 132.0;
    let each = ((WIDTH - MARGIN - left) / grounds.len().max(1) as f64).min(64.0);
    // The names of narrow columns stand in steps, so that they do not run into one another.
    let steps = (108.0 / each).ceil().max(1.0) as usize;
    let top = Page::top() + 14.0 + steps as f64 * 11.0;
    for (i, ground) in grounds.iter().enumerate() {
        let (x, y) = (
            left + i as f64 * each,
            top - 6.0 - (i % steps) as f64 * 11.0,
        );
        let name = cut(ground.as_str(), 22);
        // At the right margin a name ends where its column does.
        if x + name.len() as f64 * 4.6 > WIDTH - MARGIN {
            page.text_right(x + each - 2.0, y, 7.5, QUIET, &name);
        } else {
            page.text(x + 1.0, y, 7.5, QUIET, &name);
        }
        if i % steps > 0 {
            page.line((x, y + 2.0), (x, top), RULE, 0.5);
        }
    }
    let row = (1010.0 / texts.len().max(1) as f64).clamp(13.0, 22.0);
    for (n, text) in texts.iter().enumerate() {
        let y = top + n as f64 * row;
        page.text(MARGIN, y + row * 0.68, 8.5, INK, &cut(text.as_str(), 24));
        page.line((MARGIN, y + row), (WIDTH - MARGIN, y + row), RULE, 0.3);
        for (i, ground) in grounds.iter().enumerate() {
            let drawn = pairs
                .iter()
                .filter(|p| p.text == **text && p.ground == **ground);
            // Of several tools that draw it the worst counts.
            let worst = drawn
                .min_by(|a, b| (a.draft.ratio / a.target).total_cmp(&(b.draft.ratio / b.target)));
            let Some(pair) = worst else { continue };
            let x = left + i as f64 * each;
            let size = if each < 34.0 { 7.0 } else { 8.5 };
            let (cell, baseline) = ((x, y + 1.0, each - 2.0, row - 2.0), y + row * 0.68);
            if pair.fine() {
                page.swatch(cell, pair.draft.ground);
                let label = ratio_to(pair.draft.ratio, 1);
                let middle = x + each / 2.0 - 1.0;
                page.text_middle(middle, baseline, size, pair.draft.text, &label);
            } else {
                // What cannot be read in its own colors is said in red beside a sample.
                let sample = each * 0.36;
                page.swatch((x, y + 1.0, sample, row - 2.0), pair.draft.ground);
                page.text_middle(x + sample / 2.0, baseline, size, pair.draft.text, "Ag");
                let label = ratio_to(pair.draft.ratio, 1);
                let middle = x + sample + (each - 2.0 - sample) / 2.0;
                page.text_middle(middle, baseline, size, LOUD, &label);
                frame(&mut page, cell);
            }
        }
    }
    page.finish()
}

fn frame(page: &mut Page, (x, y, w, h): (f64, f64, f64, f64)) {
    let corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)];
    page.curve(&corners, LOUD, 1.6);
}

/// The ratio of each text color on the ground, against the opacity of the window.
pub fn opacity(subject: &Subject) -> String {
    let look = Look::new(subject.setup);
    let behind = match &subject.conditions.behind {
        Behind::Worst => "the worst wallpaper there may be",
        Behind::Image(_) => "the image, at its worst place",
    };
    let subtitle = format!(
        "ratio on the ground {} against the window's opacity, over {behind}",
        look.slot(Slot::Background)
    );
    let mut page = Page::new(&subject.title(), &subtitle);
    let (left, right) = (MARGIN + 30.0, WIDTH - MARGIN - 118.0);
    let (top, bottom) = (Page::top() + 8.0, Page::top() + 600.0);
    let slots: Vec<Slot> = Slot::ALL
        .into_iter()
        .filter(|s| *s == Slot::Foreground || s.ansi().is_some_and(|i| i > 0))
        .collect();
    let ratio = |slot: Slot, opacity: f64| {
        let conditions = Conditions {
            opacity,
            ..subject.conditions.clone()
        };
        let sight = Sight {
            text: look.slot(slot),
            ground: look.slot(Slot::Background),
            fade: 1.0,
            in_pane: true,
            rounding: Rounding::Nearest,
        };
        conditions.see(sight, &look).ratio
    };
    // Ratios are compared by their quotient, so the axis is logarithmic, from 1 to 21.
    let y = |r: f64| bottom - (r.ln() / 21.0_f64.ln()) * (bottom - top);
    let x = |o: f64| left + o * (right - left);
    for step in 0..=10 {
        let o = f64::from(step) / 10.0;
        page.line((x(o), top), (x(o), bottom), RULE, 0.4);
        page.text_middle(
            x(o),
            bottom + 12.0,
            8.5,
            QUIET,
            &format!("{:.0}%", o * 100.0),
        );
    }
    for target in [1.0, 3.0, 4.5, 7.0, 21.0] {
        let strong = (3.0..=7.0).contains(&target);
        page.line(
            (left, y(target)),
            (right, y(target)),
            if strong { QUIET } else { RULE },
            if strong { 0.9 } else { 0.4 },
        );
        page.text_right(
            left - 4.0,
            y(target) + 3.0,
            8.5,
            QUIET,
            &format!("{target}"),
        );
    }
    let mut labels: Vec<(f64, Slot)> = slots.iter().map(|s| (y(ratio(*s, 1.0)), *s)).collect();
    labels.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut last = top - 20.0;
    for (at, slot) in labels {
        let color: Rgb = look.slot(slot);
        let points: Vec<(f64, f64)> = (0..=100)
            .map(|i| {
                let o = f64::from(i) / 100.0;
                (x(o), y(ratio(slot, o)))
            })
            .collect();
        // A dark edge keeps light colors seen on paper.
        page.curve(&points, INK, 2.6);
        page.curve(&points, color, 1.8);
        let place = at.max(last + 10.5);
        last = place;
        page.line((right, at), (right + 10.0, place), RULE, 0.5);
        page.swatch((right + 11.0, place - 4.0, 9.0, 8.0), color);
        let lowest = (0..=100).map(|i| f64::from(i) / 100.0).find(|o| {
            (0..=100)
                .map(|i| f64::from(i) / 100.0)
                .filter(|p| p >= o)
                .all(|p| ratio(slot, p) >= 4.5)
        });
        let text = match lowest {
            Some(o) if ratio(slot, 1.0) >= 4.5 => format!("{} {:.0}%", slot.key(), o * 100.0),
            _ => format!("{} -", slot.key()),
        };
        page.text(right + 23.0, place + 3.0, 7.5, INK, &text);
    }
    page.text(
        left,
        bottom + 30.0,
        9.0,
        QUIET,
        "Beside each name: the least opacity from which text in it reaches 4.5:1.",
    );
    page.finish()
}
