//! Fonts on paper: faces side by side with their true outlines, a chart of what a face covers, and
//! the glyphs in use with what is said of each.

use kurbo::{Affine, BezPath};
use wealdmist_core::Rgb;
use wealdmist_core::font::coverage::{Share, by_block, by_icon_range};
use wealdmist_core::font::facts::Cell;
use wealdmist_core::font::raster::lay_out;
use wealdmist_core::font::sample::broken;
use wealdmist_core::font::{Coverage, FeatureSetting, Typeface};
use wealdmist_core::icon;

use crate::page::{INK, LOUD, MARGIN, Page, QUIET, RULE, WIDTH, cut};

/// Twelve points, in units of a page.
const TWELVE_POINTS: f64 = 16.9;

/// How many cells stand in a line beside the title of its part and the name of its face.
const CELLS: usize = 40;

/// A face with what it is called.
#[derive(Debug, Clone, Copy)]
pub struct Named<'a> {
    /// Family and style.
    pub title: &'a str,
    /// The face.
    pub face: &'a Typeface,
}

/// A glyph in use, for the sheet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UsedGlyph {
    /// The character.
    pub character: char,
    /// What is wrong with it, or that nothing is.
    pub verdict: String,
    /// Whether something is to be done.
    pub problem: bool,
    /// What could stand for it.
    pub instead: Option<char>,
    /// Where it stands: tool, file and line.
    pub places: Vec<String>,
}

/// Faces on the same lines: of each part its title and its lines, one face below the other; then three sizes of each.
/// Lines longer than the page is wide are broken.
#[must_use]
pub fn comparison(
    title: &str,
    faces: &[Named],
    parts: &[(&str, Vec<&str>)],
    features: &[FeatureSetting],
) -> String {
    let with: Vec<String> = features.iter().map(ToString::to_string).collect();
    let with = if with.is_empty() {
        "default features".to_owned()
    } else {
        with.join(" ")
    };
    let mut page = Page::new(
        title,
        &format!("faces at 12 points, true outlines, laid out in cells; {with}"),
    );
    let mut y = Page::top();
    for (what, lines) in parts {
        let lines: Vec<String> = lines.iter().flat_map(|l| broken(l, CELLS)).collect();
        page.text(MARGIN, y, 9.0, QUIET, what);
        for named in faces {
            let cell = named.face.cell();
            let line = f64::from(cell.height()) * scale(&cell, TWELVE_POINTS);
            page.text_right(
                WIDTH - MARGIN,
                y + line * 0.8,
                8.0,
                QUIET,
                &cut(named.title, 40),
            );
            for text in &lines {
                row(
                    &mut page,
                    named.face,
                    text,
                    features,
                    (MARGIN + 110.0, y),
                    TWELVE_POINTS,
                );
                y += line;
            }
            y += 5.0;
        }
        page.line((MARGIN, y), (WIDTH - MARGIN, y), RULE, 0.6);
        y += 12.0;
    }
    for named in faces {
        page.text(MARGIN, y + 10.0, 9.0, QUIET, &cut(named.title, 40));
        y += 16.0;
        for points in [9.0, 12.0, 18.0] {
            let size = TWELVE_POINTS * points / 12.0;
            page.text(MARGIN, y + size, 8.0, QUIET, &format!("{points} pt"));
            row(
                &mut page,
                named.face,
                "let level = 0O1lI| + 5S8B; // 12 mm",
                features,
                (MARGIN + 110.0, y),
                size,
            );
            y += f64::from(named.face.cell().height()) * scale(&named.face.cell(), size) + 3.0;
        }
    }
    page.finish()
}

fn scale(cell: &Cell, size: f64) -> f64 {
    size / f64::from(cell.units_per_em.max(1.0))
}

/// A line of text as outlines, the top left of its first cell at a place.
fn row(
    page: &mut Page,
    face: &Typeface,
    text: &str,
    features: &[FeatureSetting],
    at: (f64, f64),
    size: f64,
) {
    let cell = face.cell();
    let scale = scale(&cell, size);
    let baseline = at.1 + f64::from(cell.ascent + cell.leading / 2.0) * scale;
    let mut all = BezPath::new();
    for stroke in lay_out(face, &cell, text, features) {
        all.extend(stroke.path);
    }
    all.apply_affine(Affine::new([scale, 0.0, 0.0, -scale, at.0, baseline]));
    page.outline(&all, INK);
}

/// What a face covers: each range of icons as a chart of its code points, then Unicode blocks. With
/// a second face, what only the first has, only the second has, and both.
#[must_use]
pub fn coverage_chart(
    title: &str,
    one: (&str, &Coverage),
    other: Option<(&str, &Coverage)>,
) -> String {
    let subtitle = match other {
        None => format!(
            "what {} covers: a filled square is there, an empty one is not",
            one.0
        ),
        Some(other) => format!(
            "filled: both; left half: only {}; right half: only {}",
            one.0, other.0
        ),
    };
    let mut page = Page::new(title, &subtitle);
    let mut y = Page::top();
    let side = 4.4;
    let across = ((WIDTH - 2.0 * MARGIN) / side) as usize;
    for share in by_icon_range(one.1) {
        let with = other.map(|(_, c)| {
            by_icon_range(c)
                .into_iter()
                .find(|s| s.range == share.range)
        });
        let label = format!(
            "{}  U+{:04X}–U+{:04X}   {} of {}{}",
            share.name,
            share.range.start(),
            share.range.end(),
            share.has,
            share.of,
            with.flatten()
                .map_or(String::new(), |s| format!("   and {}", s.has))
        );
        page.text(MARGIN, y + 8.0, 9.0, INK, &label);
        y += 12.0;
        let known: Vec<char> = icon::present()
            .map(|i| i.code)
            .filter(|c| share.range.contains(&(*c as u32)))
            .collect();
        let (mut there, mut edges) = (BezPath::new(), BezPath::new());
        for (i, c) in known.iter().enumerate() {
            let (x, top) = (
                MARGIN + (i % across) as f64 * side,
                y + (i / across) as f64 * side,
            );
            let left = one.1.has(*c);
            let right = other.map_or(left, |(_, o)| o.has(*c));
            let from = if left { 0.0 } else { (side - 0.9) / 2.0 };
            let to = if right {
                side - 0.9
            } else {
                (side - 0.9) / 2.0
            };
            if left || right {
                square(&mut there, x + from, top, to - from, side - 0.9);
            }
            square(&mut edges, x, top, side - 0.9, side - 0.9);
        }
        page.outlined(&edges, RULE, 0.3);
        page.outline(&there, INK);
        y += known.len().div_ceil(across) as f64 * side + 8.0;
    }
    y += 8.0;
    page.text(MARGIN, y, 12.0, INK, "Unicode blocks");
    let blocks = by_block(one.1);
    for (i, share) in blocks.iter().enumerate() {
        let column = i % 2;
        let x = MARGIN + column as f64 * (WIDTH - 2.0 * MARGIN) / 2.0;
        if column == 0 {
            y += 13.0;
        }
        bar(
            &mut page,
            (x, y),
            share,
            other.map(|(_, c)| c.count_in(&share.range)),
        );
    }
    page.finish()
}

fn square(path: &mut BezPath, x: f64, y: f64, width: f64, height: f64) {
    path.move_to((x, y));
    path.line_to((x + width, y));
    path.line_to((x + width, y + height));
    path.line_to((x, y + height));
    path.close_path();
}

fn bar(page: &mut Page, (x, y): (f64, f64), share: &Share, other: Option<usize>) {
    let width = 90.0;
    let part = |n: usize| width * n as f64 / share.of.max(1) as f64;
    page.swatch((x, y - 7.0, width, 8.0), Rgb::from_u32(0xf1_f3f3));
    page.swatch((x, y - 7.0, part(share.has.min(share.of)), 8.0), QUIET);
    if let Some(other) = other {
        let at = x + part(other.min(share.of));
        page.line((at, y - 8.5), (at, y + 2.5), LOUD, 1.2);
    }
    page.text(
        x + width + 6.0,
        y,
        8.0,
        INK,
        &format!("{} {}/{}", cut(share.name, 30), share.has, share.of),
    );
}

/// The glyphs in use: each drawn from the chosen face, with its code point, name, verdict, places,
/// and what could stand for it.
#[must_use]
pub fn used_glyphs(title: &str, named: Option<Named>, glyphs: &[UsedGlyph]) -> String {
    let family = named.map_or("no font is chosen", |n| n.title);
    let problems = glyphs.iter().filter(|g| g.problem).count();
    let subtitle = format!(
        "{} glyphs in use, {problems} to be looked at; drawn from {family}",
        glyphs.len()
    );
    let mut page = Page::new(title, &subtitle);
    let row_height = 34.0;
    for (i, glyph) in glyphs.iter().enumerate() {
        let y = Page::top() + i as f64 * row_height;
        draw_glyph(&mut page, named, glyph.character, (MARGIN, y));
        let code = format!("U+{:04X}", glyph.character as u32);
        page.text(MARGIN + 46.0, y + 13.0, 11.0, INK, &code);
        let name = icon::name(glyph.character).unwrap_or_else(|| "no name is known".to_owned());
        page.text(MARGIN + 46.0, y + 24.0, 8.0, QUIET, &cut(&name, 34));
        let color = if glyph.problem { LOUD } else { INK };
        for (n, line) in textwrap::wrap(&glyph.verdict, 62)
            .iter()
            .take(2)
            .enumerate()
        {
            page.text(MARGIN + 200.0, y + 11.0 + n as f64 * 9.0, 8.0, color, line);
        }
        let places = format!(
            "{}{}",
            glyph.places.first().map_or("", String::as_str),
            match glyph.places.len() {
                0 | 1 => String::new(),
                n => format!(" and {} more", n - 1),
            }
        );
        page.text(MARGIN + 200.0, y + 29.0, 7.5, QUIET, &cut(&places, 72));
        if let Some(instead) = glyph.instead {
            page.text(
                MARGIN + 560.0,
                y + 11.0,
                8.0,
                QUIET,
                &format!("U+{:04X}", instead as u32),
            );
            draw_glyph(&mut page, named, instead, (MARGIN + 620.0, y));
        }
        page.line(
            (MARGIN, y + row_height - 2.0),
            (WIDTH - MARGIN, y + row_height - 2.0),
            RULE,
            0.4,
        );
    }
    page.finish()
}

/// A glyph in its cell.
fn draw_glyph(page: &mut Page, named: Option<Named>, c: char, (x, y): (f64, f64)) {
    let Some(face) = named.map(|n| n.face) else {
        return;
    };
    let cell = face.cell();
    let scale = 28.0 / f64::from(cell.height());
    let mut edge = BezPath::new();
    square(&mut edge, x + 6.0, y, f64::from(cell.width) * scale, 28.0);
    page.outlined(&edge, RULE, 0.5);
    if let Some(id) = face.glyph(c) {
        let mut path = face.outline(id);
        let baseline = y + f64::from(cell.ascent + cell.leading / 2.0) * scale;
        path.apply_affine(Affine::new([scale, 0.0, 0.0, -scale, x + 6.0, baseline]));
        page.outline(&path, INK);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::Arc;
    use wealdmist_core::demo::fonts;
    use wealdmist_core::font::coverage;
    use wealdmist_core::font::sample::parts;

    fn open(bytes: Vec<u8>) -> Typeface {
        Typeface::open(Arc::new(bytes), 0).unwrap()
    }

    fn is_well_formed(text: &str) -> bool {
        !svg::read(text)
            .unwrap()
            .any(|e| matches!(e, svg::parser::Event::Error(_)))
    }

    #[test]
    fn faces_are_drawn_as_outlines_not_as_text() {
        let (a, b) = (open(fonts::complete()), open(fonts::icons_at_old_places()));
        let named = [
            Named {
                title: "Reedbed Mono NF",
                face: &a,
            },
            Named {
                title: "Sedge & Mono",
                face: &b,
            },
        ];
        let text = comparison("Saltmarsh", &named, &parts(), &["-liga".parse().unwrap()]);
        assert!(is_well_formed(&text));
        assert!(text.contains("Sedge &amp; Mono") && text.contains("-liga"));
        assert!(text.matches("<path").count() > 30, "each line is a path");
        assert!(!text.contains("SELECT"), "samples are outlines");
        // A text of one's own is drawn, and nothing but it.
        let own = [("text", vec!["marsh"])];
        let short = comparison("Saltmarsh", &named, &own, &[]);
        let long = ["reed ".repeat(30)];
        let own = [("text", long.iter().map(String::as_str).collect())];
        let long = comparison("Saltmarsh", &named, &own, &[]);
        let paths = |svg: &str| svg.matches("<path").count();
        // Three sizes of each face stand below.
        assert_eq!((paths(&short), paths(&long)), (2 + 6, 2 * 4 + 6));
    }

    #[test]
    fn charts_count_what_is_there() {
        let one = coverage(&fonts::complete(), 0).unwrap();
        let two = coverage(&fonts::without_icons(), 0).unwrap();
        let text = coverage_chart("Saltmarsh", ("one", &one), Some(("two", &two)));
        assert!(is_well_formed(&text));
        assert!(text.contains("and 0") && text.contains("Basic Latin 95/95"));
        let alone = coverage_chart("Saltmarsh", ("one", &one), None);
        assert!(alone.contains("material (md)") && !alone.contains("   and "));
    }

    #[test]
    fn the_sheet_of_glyphs_tells_verdict_place_and_substitute() {
        let face = open(fonts::complete());
        let glyph = UsedGlyph {
            character: '\u{f64f}',
            verdict: "was an icon in an older release and is at U+F0150 now".into(),
            problem: true,
            instead: Some('\u{f0150}'),
            places: vec!["tmux tmux.conf:3:4".into(), "bash .bashrc:1:1".into()],
        };
        let text = used_glyphs(
            "Saltmarsh",
            Some(Named {
                title: "Reedbed",
                face: &face,
            }),
            &[glyph],
        );
        assert!(is_well_formed(&text));
        for word in [
            "U+F64F",
            "mdi-clock",
            "U+F0150",
            "tmux.conf:3:4 and 1 more",
            "1 to be looked at",
        ] {
            assert!(text.contains(word), "{word}");
        }
    }
}
