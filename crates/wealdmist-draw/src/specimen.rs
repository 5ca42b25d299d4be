//! A specimen as an SVG picture with real, selectable text.

use svg::Document;
use svg::node::element::{Group, Path, Rectangle, Text, Title};
use wealdmist_core::color::Rgb;
use wealdmist_core::specimen::{Cell, Specimen};

use crate::page::fonts;

/// The size of a cell in the picture's units.
pub const CELL: (f64, f64) = (9.0, 19.0);
/// How large a unit is in print.
pub const MILLIMETRES: f64 = 2.1 / 9.0;
/// Where the baseline stands in a cell, from its top.
const BASELINE: f64 = 14.0;

/// Draws a specimen. `family` is the font to ask for; any fixed-pitch font stands in for it, and
/// each stretch of text is held to its cells.
#[must_use]
pub fn specimen_svg(specimen: &Specimen, title: &str, family: Option<&str>) -> String {
    let (width, height) = (
        specimen.width as f64 * CELL.0,
        specimen.height as f64 * CELL.1,
    );
    let (grounds, texts) = groups(specimen, family, None);
    let document = Document::new()
        .set("viewBox", (0, 0, width as i64, height as i64))
        // A cell of 9 units is 2.1 mm wide, as text of 10 points is.
        .set("width", format!("{:.2}mm", width * MILLIMETRES))
        .set("height", format!("{:.2}mm", height * MILLIMETRES))
        .add(Title::new(title))
        .add(grounds)
        .add(texts);
    format!("{document}\n")
}

/// The grounds of a specimen and its texts, from the top left on; a ground of the color left out shows what is below.
pub fn groups(specimen: &Specimen, family: Option<&str>, left_out: Option<Rgb>) -> (Group, Group) {
    let mut grounds = Group::new();
    let mut texts = Group::new()
        .set("font-family", fonts(family))
        .set("font-size", 15);
    for row in 0..specimen.height {
        for run in runs(specimen, row, |a, b| a.bg == b.bg) {
            let cell = &specimen.cells[row * specimen.width + run.start];
            if left_out == Some(cell.bg) {
                continue;
            }
            grounds = grounds.add(
                Rectangle::new()
                    .set("x", run.start as f64 * CELL.0)
                    .set("y", row as f64 * CELL.1)
                    // A hair wider, so that neighbours join without a seam.
                    .set("width", run.len() as f64 * CELL.0 + 0.3)
                    .set("height", CELL.1 + 0.3)
                    .set("fill", cell.bg.to_string()),
            );
        }
        let same = |a: &Cell, b: &Cell| {
            a.fg == b.fg && a.attrs == b.attrs && a.spot == b.spot && a.underline == b.underline
        };
        for run in runs(specimen, row, same) {
            let cells = &specimen.cells[row * specimen.width..][run.clone()];
            let text: String = cells.iter().map(|c| c.text.as_str()).collect();
            if let Some(color) = cells[0].underline {
                grounds = grounds.add(wave(row, &run).set("stroke", color.to_string()));
            }
            for (offset, piece) in pieces(&text) {
                texts = texts.add(stretch(piece, &cells[0], row, run.start + offset));
            }
        }
    }
    (grounds, texts)
}

/// The parts of a text between gaps of two and more blanks, with the cell each begins in. White
/// space in a drawing is folded, so gaps are made by position.
fn pieces(text: &str) -> Vec<(usize, &str)> {
    let mut out = Vec::new();
    let mut offset = 0;
    for part in text.split("  ") {
        let word = part.trim_matches(' ');
        if !word.is_empty() {
            let lead = part.chars().take_while(|c| *c == ' ').count();
            out.push((offset + lead, word));
        }
        offset += part.chars().count() + 2;
    }
    out
}

/// One text element, held to its cells.
fn stretch(text: &str, cell: &Cell, row: usize, column: usize) -> Text {
    let mut out = Text::new(text)
        .set("x", column as f64 * CELL.0)
        .set("y", row as f64 * CELL.1 + BASELINE)
        .set("textLength", text.chars().count() as f64 * CELL.0)
        .set("lengthAdjust", "spacingAndGlyphs")
        .set("fill", cell.fg.to_string());
    if cell.attrs.bold {
        out = out.set("font-weight", "bold");
    }
    if cell.attrs.italic {
        out = out.set("font-style", "italic");
    }
    if cell.attrs.underline {
        out = out.set("text-decoration", "underline");
    }
    out
}

/// A wavy line below a stretch.
fn wave(row: usize, run: &std::ops::Range<usize>) -> Path {
    let y = row as f64 * CELL.1 + CELL.1 - 2.5;
    let mut data = format!("M{} {y}", run.start as f64 * CELL.0);
    for _ in 0..run.len() * 2 {
        data.push_str(" q1.125 -2 2.25 0 t2.25 0");
    }
    Path::new()
        .set("d", data)
        .set("fill", "none")
        .set("stroke-width", 1.2)
}

/// The stretches of a row whose neighbouring cells are alike.
fn runs(
    specimen: &Specimen,
    row: usize,
    alike: impl Fn(&Cell, &Cell) -> bool,
) -> Vec<std::ops::Range<usize>> {
    let cells = &specimen.cells[row * specimen.width..][..specimen.width];
    let mut out = Vec::new();
    let mut start = 0;
    for i in 1..=cells.len() {
        if i == cells.len() || !alike(&cells[i - 1], &cells[i]) {
            out.push(start..i);
            start = i;
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::look::Look;
    use wealdmist_core::setup::SetupDoc;

    #[test]
    fn gaps_are_made_by_position() {
        assert_eq!(pieces("  a b   c "), [(2, "a b"), (8, "c")]);
        assert_eq!(pieces("    "), []);
        assert_eq!(pieces("x"), [(0, "x")]);
    }

    #[test]
    fn the_picture_holds_the_text_in_its_colors_and_is_well_formed() {
        let text = "[palettes.a]\nred='#ab0102'\n";
        let setup = SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let specimen = Specimen::draw(&setup, &Look::new(&setup), 70, 40, false);
        let svg = specimen_svg(&specimen, "A & <b>", Some("It's Mono"));
        assert!(svg.contains("A &amp; &lt;b&gt;"));
        assert!(svg.contains("#ab0102") && svg.contains("spring-tide"));
        assert!(svg.contains("&apos;Its Mono&apos;") || svg.contains("'Its Mono'"));
        // Every tag that opens closes: read back by the crate's own parser.
        let open = svg::read(&svg)
            .unwrap()
            .filter(|e| !matches!(e, svg::parser::Event::Error(_)));
        assert!(open.count() > 100);
        assert!(
            !svg::read(&svg)
                .unwrap()
                .any(|e| matches!(e, svg::parser::Event::Error(_)))
        );
    }
}
