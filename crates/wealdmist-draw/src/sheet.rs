//! The palette on paper: swatches with names, values and uses; the lightness ruler; the colors as
//! people with color-vision deficiencies see them.

use wealdmist_core::color::{Oklch, Rgb, Vision, contrast_ratio, difference, ratio_shown};
use wealdmist_core::condition::Conditions;
use wealdmist_core::look::{Look, Origin, origin};
use wealdmist_core::pair::{TOLD_APART, meanings};
use wealdmist_core::role::{ROLES, RoleId, Slot};

use crate::Subject;
use crate::page::{INK, LOUD, MARGIN, Page, QUIET, RULE, WIDTH, cut};

/// The palette's own colors, slots first: where each is set, its name, its color.
fn colors(subject: &Subject) -> Vec<(Origin, String, Rgb)> {
    let palette = subject.setup.palette();
    let slots = Slot::ALL.map(|s| (Origin::Slot(s), s.key().to_owned(), palette.slot(s)));
    let named = palette
        .colors
        .iter()
        .map(|(n, c)| (Origin::Named(n.clone()), n.clone(), *c));
    slots.into_iter().chain(named).collect()
}

/// Swatches, names, values, and where each color is used.
pub fn palette(subject: &Subject) -> String {
    let setup = subject.setup;
    let active = setup.palette();
    let subtitle = format!(
        "palette sheet: {} colors, for a {} ground; OKLCH is lightness, chroma, hue in degrees",
        colors(subject).len(),
        active.variant.key()
    );
    let mut page = Page::new(&subject.title(), &subtitle);
    let roles: Vec<RoleId> = ROLES
        .iter()
        .map(|k| RoleId::known(k.id))
        .chain(setup.roles.keys().cloned())
        .collect();
    let row = 27.0;
    let background = active.slot(Slot::Background);
    for (i, (from, name, color)) in colors(subject).into_iter().enumerate() {
        let y = Page::top() + i as f64 * row;
        page.swatch((MARGIN, y, 74.0, row - 4.0), color);
        page.swatch((MARGIN + 78.0, y, 40.0, row - 4.0), background);
        page.text_middle(MARGIN + 98.0, y + 16.0, 12.0, color, "Ag 4");
        page.text(MARGIN + 126.0, y + 10.5, 11.0, INK, &cut(&name, 24));
        let lch = Oklch::from(color);
        let values = format!("{color}   {:.2} {:.3} {:3.0}", lch.l, lch.c, lch.h);
        page.text(MARGIN + 126.0, y + 21.5, 8.5, QUIET, &values);
        let ratio = contrast_ratio(color, background);
        page.text_right(
            MARGIN + 362.0,
            y + 16.0,
            9.5,
            QUIET,
            &format!("{}:1", ratio_shown(ratio)),
        );
        let mut uses: Vec<String> = roles
            .iter()
            .filter(|r| Slot::from_key(r.as_str()).is_none())
            .filter(|r| origin(setup, active, r) == from)
            .map(ToString::to_string)
            .collect();
        uses.sort();
        uses.dedup();
        let lines = wrapped(&uses, 62);
        for (n, line) in lines.iter().take(2).enumerate() {
            let line = if n == 1 && lines.len() > 2 {
                format!("{line} …")
            } else {
                line.clone()
            };
            page.text(
                MARGIN + 372.0,
                y + 10.5 + n as f64 * 10.0,
                8.0,
                QUIET,
                &line,
            );
        }
    }
    page.finish()
}

/// Words in lines of at most so many characters.
fn wrapped(words: &[String], most: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in words {
        match lines.last_mut() {
            Some(line) if line.len() + 2 + word.len() <= most => {
                line.push_str(", ");
                line.push_str(word);
            }
            _ => lines.push(cut(word, most)),
        }
    }
    lines
}

/// The colors along lightness, with the bands in which text on the ground reaches its ratios.
pub fn ruler(subject: &Subject) -> String {
    const BANDS: [(f64, u32); 3] = [(3.0, 0xee_f1f2), (4.5, 0xdd_e3e5), (7.0, 0xc9_d3d6)];
    let background = subject.setup.palette().slot(Slot::Background);
    let subtitle = format!(
        "lightness ruler: shaded from light to dark, where text on {background} reaches 3:1, 4.5:1, 7:1"
    );
    let mut page = Page::new(&subject.title(), &subtitle);
    let (left, right) = (MARGIN + 170.0, WIDTH - MARGIN - 50.0);
    let x = |l: f64| left + l * (right - left);
    let top = Page::top() + 14.0;
    for tenth in 0..=10 {
        let l = f64::from(tenth) / 10.0;
        page.text_middle(x(l), top - 6.0, 8.5, QUIET, &format!("{l:.1}"));
    }
    let row = 24.0;
    let all = colors(subject);
    for (i, (_, name, color)) in all.iter().enumerate() {
        let y = top + i as f64 * row;
        let lch = Oklch::from(*color);
        let ground = wealdmist_core::color::relative_luminance(background);
        let ratio_at = |l: f64| {
            let own = Oklch { l, ..lch }.luminance();
            (own.max(ground) + 0.05) / (own.min(ground) + 0.05)
        };
        const STEPS: usize = 200;
        for (least, shade) in BANDS {
            let mut start = None;
            for step in 0..=STEPS + 1 {
                let l = step as f64 / STEPS as f64;
                let inside = step <= STEPS && ratio_at(l) >= least;
                match (start, inside) {
                    (None, true) => start = Some(l),
                    (Some(from), false) => {
                        let to = (l - 1.0 / STEPS as f64).max(from);
                        let band = (x(from), y + 3.0, x(to) - x(from), row - 8.0);
                        page.swatch(band, Rgb::from_u32(shade));
                        start = None;
                    }
                    _ => {}
                }
            }
        }
        page.line((left, y + row - 2.0), (right, y + row - 2.0), RULE, 0.5);
        page.text(MARGIN, y + 14.0, 10.0, INK, &cut(name, 19));
        page.text(MARGIN + 118.0, y + 14.0, 8.5, QUIET, &color.to_string());
        page.swatch((x(lch.l) - 8.0, y + 1.0, 16.0, row - 4.0), *color);
        let ratio = contrast_ratio(*color, background);
        page.text_right(
            WIDTH - MARGIN,
            y + 14.0,
            9.0,
            QUIET,
            &format!("{}:1", ratio_shown(ratio)),
        );
    }
    let bottom = top + all.len() as f64 * row;
    let l = Oklch::from(background).l;
    page.line((x(l), top - 2.0), (x(l), bottom), QUIET, 1.0);
    page.text(x(l) + 3.0, bottom + 10.0, 8.5, QUIET, "the ground");
    page.finish()
}

/// The colors as they are seen with each deficiency, and what is then hard to tell apart.
pub fn vision(subject: &Subject) -> String {
    let subtitle =
        "color-vision comparison: simulated after Machado, Oliveira and Fernandes (2009)";
    let mut page = Page::new(&subject.title(), subtitle);
    let look = Look::new(subject.setup);
    let background = look.slot(Slot::Background);
    let left = MARGIN + 150.0;
    let each = (WIDTH - MARGIN - left) / Vision::ALL.len() as f64;
    let top = Page::top() + 12.0;
    for (i, vision) in Vision::ALL.into_iter().enumerate() {
        page.text(
            left + i as f64 * each,
            top - 5.0,
            9.0,
            QUIET,
            &vision.label(),
        );
    }
    let row = 25.0;
    let shown: Vec<_> = colors(subject)
        .into_iter()
        .filter(|(o, ..)| !matches!(o, Origin::Slot(Slot::CursorText | Slot::SelectionText)))
        .collect();
    for (n, (_, name, color)) in shown.iter().enumerate() {
        let y = top + n as f64 * row;
        page.text(MARGIN, y + 14.0, 10.0, INK, &cut(name, 23));
        for (i, vision) in Vision::ALL.into_iter().enumerate() {
            let x = left + i as f64 * each;
            let seen = vision.see(*color);
            page.swatch((x, y, each * 0.45, row - 4.0), seen);
            let ground = vision.see(background);
            page.swatch((x + each * 0.45, y, each * 0.48, row - 4.0), ground);
            page.text_middle(x + each * 0.69, y + 14.0, 10.0, seen, "Ag 1.84");
        }
    }
    let mut y = top + shown.len() as f64 * row + 26.0;
    let heading = format!(
        "told apart: the CIEDE2000 difference; below {TOLD_APART:.0} they are taken for one another"
    );
    page.text(MARGIN, y, 10.5, INK, &heading);
    y += 10.0;
    for meaning in meanings(&look, &Conditions::default()) {
        y += 17.0;
        page.text(MARGIN, y, 9.0, INK, meaning.what);
        for (i, vision) in Vision::ALL.into_iter().enumerate() {
            let x = left + i as f64 * each;
            let (a, b) = (look.color(&meaning.one), look.color(&meaning.other));
            let (a, b) = (vision.see(a), vision.see(b));
            page.swatch((x, y - 9.0, 14.0, 12.0), a);
            page.swatch((x + 14.0, y - 9.0, 14.0, 12.0), b);
            let apart = difference(a, b);
            let (sign, tone) = if apart < TOLD_APART {
                ("!", LOUD)
            } else {
                ("", QUIET)
            };
            page.text(x + 34.0, y, 9.0, tone, &format!("{apart:.0}{sign}"));
        }
    }
    page.finish()
}
