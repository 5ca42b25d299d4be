//! The drawings of the sample fonts: letters on a grid of five by nine, lines and blocks that
//! fill their cell, separators, and a few icons.

use kurbo::{Affine, BezPath, Rect, Shape};

/// The width of a cell in font units.
pub const CELL: f64 = 600.0;
/// The top and bottom of a line in font units.
pub const TOP: f64 = 800.0;
/// The bottom of a line.
pub const BOTTOM: f64 = -200.0;

/// How letters are drawn.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Hand {
    /// Squares that join to strokes; the share of a square each fills.
    Strokes(f64),
    /// A dot for each square.
    Dots,
}

/// The rows of each letter from the top, one digit of base 32 for five squares; rows eight and
/// nine are below the baseline.
#[rustfmt::skip]
const LETTERS: &[(char, &str)] = &[
    ('!', "4444404"), ('"', "aaa"), ('#', "aavavaa"), ('$', "4fke5u4"), ('%', "op248j3"), ('&', "cik8lid"), ('\'', "448"),
    ('(', "2488842"), (')', "8422248"), ('*', "04lel4"), ('+', "044v44"), (',', "000000c48"), ('-', "000v"), ('.', "00000cc"),
    ('/', "01248g"), ('0', "ehjlphe"), ('1', "4c4444e"), ('2', "eh1248v"), ('3', "v2421he"), ('4', "26aiv22"), ('5', "vgu11he"),
    ('6', "68guhhe"), ('7', "v124888"), ('8', "ehhehhe"), ('9', "ehhf12c"), (':', "0cc0cc"), (';', "0cc0c48"), ('<', "248g842"),
    ('=', "00v0v"), ('>', "8421248"), ('?', "eh12404"), ('@', "eh1dlle"), ('A', "ehhvhhh"), ('B', "uhhuhhu"), ('C', "ehggghe"),
    ('D', "uhhhhhu"), ('E', "vgguggv"), ('F', "vgguggg"), ('G', "ehgnhhf"), ('H', "hhhvhhh"), ('I', "e44444e"), ('J', "72222ic"),
    ('K', "hikokih"), ('L', "ggggggv"), ('M', "hrllhhh"), ('N', "hhpljhh"), ('O', "ehhhhhe"), ('P', "uhhuggg"), ('Q', "ehhhlid"),
    ('R', "uhhukih"), ('S', "fgge11u"), ('T', "v444444"), ('U', "hhhhhhe"), ('V', "hhhhha4"), ('W', "hhhllrh"), ('X', "hha4ahh"),
    ('Y', "hha4444"), ('Z', "v1248gv"), ('[', "e88888e"), ('\\', "0g8421"), (']', "e22222e"), ('^', "4ah"), ('_', "0000000v"),
    ('`', "842"), ('a', "00e1fhf"), ('b', "gguhhhu"), ('c', "00egghe"), ('d', "11fhhhf"), ('e', "00ehvge"), ('f', "698s888"),
    ('g', "00fhhhf1e"), ('h', "gguhhhh"), ('i', "40c444e"), ('j', "2062222ic"), ('k', "ggikoki"), ('l', "c44444e"), ('m', "00qllhh"),
    ('n', "00uhhhh"), ('o', "00ehhhe"), ('p', "00uhhhugg"), ('q', "00fhhhf11"), ('r', "00mpggg"), ('s', "00fge1u"), ('t', "88s8896"),
    ('u', "00hhhjd"), ('v', "00hhha4"), ('w', "00hhlla"), ('x', "00ha4ah"), ('y', "00hhhhf1e"), ('z', "00v248v"), ('{', "2448442"),
    ('|', "4444444"), ('}', "8442448"), ('~', "008l2"), ('→', "004 2v24"), ('←', "0048v84"), ('↑', "04el444"), ('↓', "0444le4"),
    ('…', "000000l"), ('‘', "248"), ('’', "448"), ('“', "5aa"), ('”', "aak"), ('•', "00eee"), ('–', "000v"), ('—', "000v"),
    ('✓', "0112kk8"), ('✔', "0113ks8"), ('✗', "0ha4ah"), ('✘', "0ra4ar"), ('›', "0084248"), ('‹', "002484 2"), ('±', "044v440v"),
    ('§', "fg8e9e2u"), ('×', "00a4a"), ('÷', "040v04"), ('↳', "88888f86"), ('⊘', "0ejlpe"), ('↯', "248v24k"), ('⌂', "04ahhhv"),
    ('°', "6996"), ('¬', "00v11"), ('«', "005aka5"), ('»', "00ka5ak"), ('·', "0004"), ('¡', "4044444"), ('¿', "4048gh e"),
    ('ß', "ehiihhm"), ('≠', "01v4vg"), ('≤', "248420v"), ('≥', "842480v"), ('∞', "000all a"), ('€', "7 8u8u87"), ('ı', "00c444e"),
];

/// A second form of the nought, without its stroke, for a stylistic set.
pub const OPEN_NOUGHT: &str = "ehhhhhe";

/// Small drawings of icons, eight rows of eight squares, a byte each.
#[rustfmt::skip]
const ICONS: &[(&[char], [u8; 8])] = &[
    // folder, home, branch, terminal, bolt
    (&['\u{f07b}', '\u{f024b}', '\u{e5ff}', '\u{f07c}'], [0x70, 0xf8, 0xff, 0x81, 0x81, 0x81, 0xff, 0x00]),
    (&['\u{f015}', '\u{f02dc}'], [0x18, 0x3c, 0x7e, 0xff, 0x66, 0x66, 0x7e, 0x00]),
    (&['\u{e725}', '\u{f126}', '\u{e0a0}', '\u{f418}', '\u{f062c}'], [0x60, 0x66, 0x66, 0x6c, 0x78, 0x70, 0x60, 0x60]),
    (&['\u{f120}', '\u{e795}', '\u{f489}', '\u{f018d}'], [0xff, 0x81, 0xa1, 0x91, 0xa1, 0x8d, 0xff, 0x00]),
    (&['\u{f0e7}', '\u{f0241}'], [0x0c, 0x18, 0x30, 0x7e, 0x0c, 0x18, 0x30, 0x20]),
    // check, cross, warning, pencil, clock
    (&['\u{f00c}', '\u{f42e}', '\u{f012c}'], [0x01, 0x03, 0x06, 0x8c, 0xd8, 0x70, 0x20, 0x00]),
    (&['\u{f00d}', '\u{f467}', '\u{f0156}'], [0xc3, 0x66, 0x3c, 0x18, 0x3c, 0x66, 0xc3, 0x00]),
    (&['\u{f071}', '\u{f421}', '\u{f0026}'], [0x18, 0x24, 0x24, 0x5a, 0x5a, 0x99, 0x81, 0xff]),
    (&['\u{f040}', '\u{f044}', '\u{f03eb}'], [0x06, 0x0f, 0x1e, 0x3c, 0x78, 0xb0, 0xe0, 0x00]),
    (&['\u{f017}', '\u{f43a}', '\u{f0150}'], [0x3c, 0x42, 0x91, 0x91, 0x9d, 0x81, 0x42, 0x3c]),
    // lock, bell, drop, disk, processor
    (&['\u{f023}', '\u{f456}', '\u{f033e}', '\u{e0a2}'], [0x3c, 0x66, 0x66, 0xff, 0xe7, 0xe7, 0xff, 0x00]),
    (&['\u{f0f3}', '\u{f009a}'], [0x18, 0x3c, 0x3c, 0x3c, 0x7e, 0xff, 0x18, 0x00]),
    (&['\u{f043}', '\u{e373}', '\u{f058c}'], [0x10, 0x38, 0x38, 0x7c, 0xfe, 0xfe, 0x7c, 0x38]),
    (&['\u{f0a0}', '\u{f02ca}'], [0xff, 0x81, 0x81, 0xff, 0x85, 0x81, 0xff, 0x00]),
    // Wide and high ones: a dash, three dots in a row and in a column.
    (&['\u{f068}', '\u{f2d1}', '\u{f45b}', '\u{f48b}'], [0x00, 0x00, 0x00, 0xff, 0xff, 0x00, 0x00, 0x00]),
    (&['\u{f141}', '\u{f475}'], [0x00, 0x00, 0x00, 0xdb, 0xdb, 0x00, 0x00, 0x00]),
    (&['\u{f142}'], [0x18, 0x18, 0x00, 0x18, 0x18, 0x00, 0x18, 0x18]),
    (&['\u{f2db}', '\u{f4bc}', '\u{f061a}'], [0x5a, 0xff, 0x42, 0xdb, 0x5b, 0xc2, 0xff, 0x5a]),
];

/// The outline of a character.
#[must_use]
pub fn outline(c: char, hand: Hand) -> BezPath {
    if let Some(path) = filling(c) {
        return path;
    }
    let (base, mark) = without_mark(c);
    let Some((_, rows)) = LETTERS.iter().find(|(letter, _)| *letter == base) else {
        return stand_in(c);
    };
    let mut path = letter(rows, hand);
    if mark {
        path.extend(Rect::new(200.0, 740.0, 400.0, 800.0).path_elements(0.1));
    }
    path
}

/// A letter of the Latin-1 block without its accent, and whether it had one.
fn without_mark(c: char) -> (char, bool) {
    const PLAIN: &str = "AAAAAAACEEEEIIIIDNOOOOO×OUUUUYTßaaaaaaaceeeeiiiidnooooo÷ouuuuyty";
    match c {
        'À'..='ÿ' if !"ß×÷".contains(c) => {
            (PLAIN.chars().nth(c as usize - 0xc0).unwrap_or(c), true)
        }
        'š' | 'Š' => ('s', true),
        'ž' => ('z', true),
        'ł' => ('l', true),
        'ğ' => ('g', false),
        'Œ' => ('O', true),
        c => (c, false),
    }
}

/// A letter from its rows.
#[must_use]
pub fn letter(rows: &str, hand: Hand) -> BezPath {
    let square = 100.0;
    let mut path = BezPath::new();
    for (row, digit) in rows.chars().filter(|c| *c != ' ').enumerate() {
        let bits = digit.to_digit(32).unwrap_or(0);
        let y = 700.0 - (row as f64 + 1.0) * square;
        for column in (0..5).filter(|c| bits >> (4 - c) & 1 == 1) {
            let x = 50.0 + f64::from(column) * square;
            match hand {
                Hand::Dots => {
                    path.extend(dot(x + 50.0, y + 50.0, 44.0));
                }
                Hand::Strokes(share) => {
                    let grow = square * (share - 1.0) / 2.0;
                    let box_ = Rect::new(x - grow, y - grow, x + square + grow, y + square + grow);
                    path.extend(box_.path_elements(0.1));
                }
            }
        }
    }
    path
}

/// A round dot; TrueType outlines have quadratic curves only.
fn dot(x: f64, y: f64, r: f64) -> BezPath {
    let k = r * 0.8;
    let mut path = BezPath::new();
    path.move_to((x + r, y));
    for ((cx, cy), (px, py)) in [
        ((k, k), (0.0, r)),
        ((-k, k), (-r, 0.0)),
        ((-k, -k), (0.0, -r)),
        ((k, -k), (r, 0.0)),
    ] {
        path.quad_to((x + cx, y + cy), (x + px, y + py));
    }
    path.close_path();
    path
}

/// The outline of an icon that is `width` wide, centred on its cell.
#[must_use]
pub fn icon(c: char, width: f64) -> BezPath {
    let Some((_, rows)) = ICONS.iter().find(|(codes, _)| codes.contains(&c)) else {
        let mut path = stand_in(c);
        let about =
            Affine::translate((CELL / 2.0, 0.0)) * Affine::scale_non_uniform(width / 520.0, 1.0);
        path.apply_affine(about * Affine::translate((-CELL / 2.0, 0.0)));
        return path;
    };
    let square = width / 8.0;
    let (left, top) = ((CELL - width) / 2.0, 300.0 + square * 4.0);
    let mut path = BezPath::new();
    for (row, bits) in rows.iter().enumerate() {
        for column in (0..8).filter(|c| bits >> (7 - c) & 1 == 1) {
            let (x, y) = (
                left + f64::from(column) * square,
                top - (row as f64 + 1.0) * square,
            );
            path.extend(Rect::new(x, y, x + square, y + square).path_elements(0.1));
        }
    }
    path
}

/// A box with a drawing of a character's number in it.
#[must_use]
pub fn boxed(c: char) -> BezPath {
    let mut path = BezPath::new();
    for (x0, y0, x1, y1) in [
        (20.0, -100.0, 580.0, -60.0),
        (20.0, 700.0, 580.0, 740.0),
        (20.0, -60.0, 60.0, 700.0),
        (540.0, -60.0, 580.0, 700.0),
    ] {
        path.extend(Rect::new(x0, y0, x1, y1).path_elements(0.1));
    }
    let mut inside = stand_in(c);
    inside.apply_affine(Affine::translate((100.0, 50.0)) * Affine::scale(0.7));
    path.extend(inside);
    path
}

/// A drawing for a character without one of its own: bars that differ from one to the next.
fn stand_in(c: char) -> BezPath {
    let mut path = BezPath::new();
    let mut bar = |x0: f64, y0: f64, x1: f64, y1: f64| {
        path.extend(Rect::new(x0, y0, x1, y1).path_elements(0.1));
    };
    let (left, step) = (40.0, 104.0);
    let bits = (c as u32).wrapping_mul(2_654_435_761) >> 7;
    bar(left, 0.0, left + step, 700.0);
    for row in 0..5u32 {
        let y = f64::from(row) * 140.0;
        let long = f64::from(bits >> (row * 3) & 3) + 1.0;
        bar(left + step, y, left + step + step * long, y + 70.0);
    }
    path
}

/// Lines, blocks and separators, which fill their cell from edge to edge.
fn filling(c: char) -> Option<BezPath> {
    let height = TOP - BOTTOM;
    let mut path = BezPath::new();
    let mut rect = |x0: f64, y0: f64, x1: f64, y1: f64| {
        path.extend(Rect::new(x0, y0, x1, y1).path_elements(0.1));
    };
    let (middle, center) = (CELL / 2.0, (TOP + BOTTOM) / 2.0);
    match c as u32 {
        0x2500..=0x257f => {
            let name = unicode_names2::name(c)
                .map(|n| n.to_string())
                .unwrap_or_default();
            let has = |word: &str| name.split([' ', '-']).any(|w| w == word);
            let half = if has("HEAVY") { 60.0 } else { 30.0 };
            let all = has("ARC") || !(has("UP") || has("DOWN") || has("LEFT") || has("RIGHT"));
            let (across, along) = (has("HORIZONTAL"), has("VERTICAL"));
            if across || has("LEFT") {
                rect(0.0, center - half, middle + half, center + half);
            }
            if across || has("RIGHT") {
                rect(middle - half, center - half, CELL, center + half);
            }
            if along || has("UP") {
                rect(middle - half, center - half, middle + half, TOP);
            }
            if along || has("DOWN") || (all && !across) {
                rect(middle - half, BOTTOM, middle + half, center + half);
            }
        }
        0x2580 => rect(0.0, center, CELL, TOP),
        n @ 0x2581..=0x2588 => rect(
            0.0,
            BOTTOM,
            CELL,
            BOTTOM + height * f64::from(n - 0x2580) / 8.0,
        ),
        n @ 0x2589..=0x258f => rect(0.0, BOTTOM, CELL * f64::from(0x2590 - n) / 8.0, TOP),
        0x2590 => rect(middle, BOTTOM, CELL, TOP),
        n @ 0x2591..=0x2593 => {
            let share = f64::from(n - 0x2590) * 25.0;
            for row in 0..10 {
                for column in 0..6 {
                    let (x, y) = (f64::from(column) * 100.0, BOTTOM + f64::from(row) * 100.0);
                    rect(x, y, x + share, y + share.max(50.0));
                }
            }
        }
        n @ 0x2596..=0x259f => {
            // Bits: lower left, lower right, upper left, upper right.
            let quarters = [1, 2, 4, 7, 6, 13, 14, 8, 10, 11][n as usize - 0x2596];
            let corners = [
                (0.0, BOTTOM),
                (middle, BOTTOM),
                (0.0, center),
                (middle, center),
            ];
            for (i, (x, y)) in corners.into_iter().enumerate() {
                if quarters >> i & 1 == 1 {
                    rect(x, y, x + middle, y + height / 2.0);
                }
            }
        }
        _ => return None,
    }
    Some(path)
}

/// A separator that fills its cell but for `short` units on each edge; `None` for other characters.
#[must_use]
pub fn separator(c: char, short: f64) -> Option<BezPath> {
    let (left, right, top, bottom) = (short, CELL - short, TOP - short, BOTTOM + short);
    let center = (TOP + BOTTOM) / 2.0;
    let polygon = |points: &[(f64, f64)]| {
        let mut path = BezPath::new();
        for (i, p) in points.iter().enumerate() {
            if i == 0 {
                path.move_to(*p)
            } else {
                path.line_to(*p)
            }
        }
        path.close_path();
        path
    };
    let thick = 50.0;
    let half_round = |from: f64, to: f64| {
        let mut path = BezPath::new();
        path.move_to((from, top));
        let bulge = from + (to - from) * 0.75;
        path.quad_to((bulge, top), (bulge, center));
        path.quad_to((bulge, bottom), (from, bottom));
        path.close_path();
        path
    };
    Some(match c {
        '\u{e0b0}' => polygon(&[(left, top), (right, center), (left, bottom)]),
        '\u{e0b2}' => polygon(&[(right, top), (left, center), (right, bottom)]),
        '\u{e0b1}' => polygon(&[
            (left, top),
            (right, center),
            (left, bottom),
            (left, bottom + thick),
            (right - thick, center),
            (left, top - thick),
        ]),
        '\u{e0b3}' => polygon(&[
            (right, top),
            (left, center),
            (right, bottom),
            (right, bottom + thick),
            (left + thick, center),
            (right, top - thick),
        ]),
        '\u{e0b4}' => half_round(left, right + CELL / 3.0),
        '\u{e0b6}' => half_round(right, left - CELL / 3.0),
        '\u{e0b8}' => polygon(&[(left, top), (right, bottom), (left, bottom)]),
        '\u{e0ba}' => polygon(&[(right, top), (right, bottom), (left, bottom)]),
        '\u{e0bc}' => polygon(&[(left, top), (right, top), (left, bottom)]),
        '\u{e0be}' => polygon(&[(left, top), (right, top), (right, bottom)]),
        _ => return None,
    })
}
