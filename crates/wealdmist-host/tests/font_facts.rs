//! What we read of fonts, beside what an independent parser says of the same files (made once by
//! `scripts/font-facts`), and beside fontconfig's idea of their characters. And what hostile files
//! do: nothing.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

mod common;

use std::fs;
use std::path::Path;
use std::process::Command;
use std::sync::Arc;
use std::time::Duration;

use common::skip;
use serde_json::Value;
use sha2::{Digest, Sha256};
use wealdmist_core::demo::fonts;
use wealdmist_core::font::facts::{Embedding, facts};
use wealdmist_core::font::raster::{Grid, line};
use wealdmist_core::font::{Coverage, Slant, Typeface, coverage, faces, features};

fn hex(bytes: &[u8]) -> String {
    Sha256::digest(bytes)
        .iter()
        .map(|b| format!("{b:02x}"))
        .collect()
}

/// The ranges as the script writes them.
fn ranges(coverage: &Coverage) -> String {
    let ranges: Vec<String> = coverage
        .ranges()
        .iter()
        .map(|(a, b)| format!("[{a},{b}]"))
        .collect();
    hex(format!("[{}]", ranges.join(",")).as_bytes())
}

#[test]
fn facts_agree_with_an_independent_parser_face_by_face() {
    let data: Vec<Value> = serde_json::from_str(include_str!("data/font-facts.json")).unwrap();
    assert!(data.len() > 40);
    let (mut compared, mut missing) = (0, Vec::new());
    for file in &data {
        let path = file["path"].as_str().unwrap();
        let Ok(bytes) = fs::read(path) else {
            missing.push(path);
            continue;
        };
        if hex(&bytes) != file["sha256"] {
            skip(&format!("{path}: another version than the data is of"));
            continue;
        }
        let wanted = file["faces"].as_array().unwrap();
        let found = faces(&bytes).unwrap();
        assert_eq!(found.len(), wanted.len(), "{path}");
        for (info, want) in found.iter().zip(wanted) {
            let facts = facts(&bytes, info.index).unwrap();
            let same = |what: &str, ours: Value| assert_eq!(ours, want[what], "{what} of {path}");
            same("family", info.legacy_family.clone().into());
            // A typographic name that says the same again is left out by us.
            let typographic = want["typographic"]
                .as_str()
                .filter(|t| Some(*t) != want["family"].as_str());
            assert_eq!(info.typographic_family.as_deref(), typographic, "{path}");
            same("style", info.style.clone().into());
            assert!(
                info.full_names.contains(want["full"].as_str().unwrap()),
                "{path}"
            );
            same("postscript", info.postscript.clone().into());
            same("weight", info.weight.into());
            same("italic", (info.slant == Slant::Italic).into());
            same("fixedDeclared", info.fixed_pitch.into());
            same("fixedMeasured", info.measured_fixed.into());
            same("glyphs", facts.glyphs.into());
            let number = |what: &str, ours: f32| {
                assert_eq!(
                    f64::from(ours),
                    want[what].as_f64().unwrap(),
                    "{what} of {path}"
                )
            };
            number("unitsPerEm", facts.cell.units_per_em);
            number("ascent", facts.cell.ascent);
            number("descent", facts.cell.descent);
            number("gap", facts.cell.leading);
            if want["letter"].is_number() {
                number("letter", facts.cell.width);
            }
            let embedding = match facts.embedding {
                Embedding::Installable => 0,
                Embedding::Restricted => 2,
                Embedding::Preview => 4,
                Embedding::Editable => 8,
                Embedding::Unsaid => -1,
            };
            // Of several bits the least restrictive counts.
            let bits = want["embedding"].as_i64().unwrap();
            let least = [8, 4, 2].into_iter().find(|b| bits & b != 0).unwrap_or(0);
            assert_eq!(embedding, least, "embedding of {path}");
            // A tag that begins with a blank is no feature a person could switch.
            let tags = want["features"]
                .as_array()
                .unwrap()
                .iter()
                .filter_map(Value::as_str);
            let tags: Vec<&str> = tags.filter(|t| !t.starts_with(' ')).collect();
            let own: Vec<&str> = info.features.iter().map(String::as_str).collect();
            assert_eq!(own, tags, "features of {path}");
            let axes: Vec<Value> = facts
                .axes
                .iter()
                .map(|a| serde_json::json!([a.tag.to_string(), a.min, a.default, a.max]))
                .collect();
            same("axes", axes.into());
            same("characters", facts.coverage.len().into());
            same("ranges", ranges(&facts.coverage).into());
            compared += 1;
        }
    }
    if !missing.is_empty() {
        skip(&format!(
            "facts of {} fonts: not installed, such as {}",
            missing.len(),
            missing[0]
        ));
    }
    assert!(compared > 0 || !missing.is_empty());
}

#[test]
fn coverage_agrees_with_fontconfig() {
    let data: Vec<Value> = serde_json::from_str(include_str!("data/font-facts.json")).unwrap();
    let mut compared = 0;
    for file in &data {
        let path = file["path"].as_str().unwrap();
        let output = Command::new("fc-query")
            .args(["--format", "%{charset}\n", path])
            .output();
        let (Ok(output), Ok(bytes)) = (output, fs::read(path)) else {
            continue;
        };
        let text = String::from_utf8(output.stdout).unwrap();
        let theirs: Vec<(u32, u32)> = text
            .lines()
            .next()
            .unwrap_or_default()
            .split_whitespace()
            .map(|r| {
                let (a, b) = r.split_once('-').unwrap_or((r, r));
                (
                    u32::from_str_radix(a, 16).unwrap(),
                    u32::from_str_radix(b, 16).unwrap(),
                )
            })
            .collect();
        let ours = coverage(&bytes, 0).unwrap();
        // It leaves control characters out, and blanks drawn with ink or glyphs without.
        let only = |c: u32, in_theirs: bool, in_ours: bool| {
            in_theirs != in_ours
                && c > 0x20
                && !(0x7f..=0xa0).contains(&c)
                && char::from_u32(c).is_some_and(|c| !c.is_whitespace())
        };
        let has = |c: u32| theirs.iter().any(|(a, b)| (*a..=*b).contains(&c));
        let of_both = theirs
            .iter()
            .map(|(a, b)| *a..=*b)
            .chain(ours.ranges().iter().map(|(a, b)| *a..=*b));
        let differ: Vec<u32> = of_both
            .flatten()
            .filter(|c| only(*c, has(*c), char::from_u32(*c).is_some_and(|c| ours.has(c))))
            .collect();
        assert!(differ.is_empty(), "{path}: {differ:x?}");
        compared += 1;
    }
    if compared == 0 {
        skip("coverage beside fontconfig's: fc-query or the fonts are not installed");
    }
}

#[test]
fn a_published_icon_font_has_every_icon_of_the_table() {
    let path = std::env::var_os("WEALDMIST_ICON_FONT");
    let Some(bytes) = path.as_ref().and_then(|p| fs::read(Path::new(p)).ok()) else {
        skip(
            "the published icon font: it was not fetched (scripts/test does it, with npm and fontTools)",
        );
        return;
    };
    let covered = coverage(&bytes, 0).unwrap();
    let lacking: Vec<_> = wealdmist_core::icon::present()
        .filter(|i| !covered.has(i.code))
        .collect();
    assert!(lacking.len() < 20, "{lacking:?}");
    // What the table says moved is at its new place.
    let moved = wealdmist_core::icon::all()
        .iter()
        .filter_map(|i| match i.state {
            wealdmist_core::icon::State::Moved(to) => Some(to),
            _ => None,
        });
    let gone: Vec<char> = moved.filter(|c| !covered.has(*c)).collect();
    assert!(gone.is_empty(), "{gone:x?}");
    let face = Typeface::open(Arc::new(bytes), 0).unwrap();
    let grid = Grid::at(&face.cell(), 32.0, 1.0);
    let drawn = line(&face, &grid, "\u{f07b}\u{f0150}\u{e0b0}", &[]);
    assert!(drawn.coverage() > 0.1, "{}", drawn.coverage());
}

/// Two faces in one file: the header of a collection, then the fonts with their tables' offsets
/// moved by where each begins.
fn collection(fonts: &[Vec<u8>]) -> Vec<u8> {
    let mut out = b"ttcf\0\x01\0\0".to_vec();
    out.extend_from_slice(&(fonts.len() as u32).to_be_bytes());
    let mut at = 12 + 4 * fonts.len();
    let starts: Vec<usize> = fonts
        .iter()
        .map(|f| {
            let start = at;
            at += f.len().next_multiple_of(4);
            start
        })
        .collect();
    for start in &starts {
        out.extend_from_slice(&(*start as u32).to_be_bytes());
    }
    for (font, start) in fonts.iter().zip(starts) {
        let mut font = font.clone();
        let tables = usize::from(u16::from_be_bytes([font[4], font[5]]));
        for i in 0..tables {
            let at = 12 + 16 * i + 8;
            let offset = u32::from_be_bytes(font[at..at + 4].try_into().unwrap()) + start as u32;
            font[at..at + 4].copy_from_slice(&offset.to_be_bytes());
        }
        font.resize(font.len().next_multiple_of(4), 0);
        out.extend_from_slice(&font);
    }
    out
}

#[test]
fn a_collection_holds_all_its_faces() {
    let bytes = collection(&[fonts::complete(), fonts::bold()]);
    let found = faces(&bytes).unwrap();
    let titles: Vec<String> = found
        .iter()
        .map(|f| format!("{} {}", f.index, f.title()))
        .collect();
    assert_eq!(
        titles,
        ["0 Reedbed Mono NF Regular", "1 Reedbed Mono NF Bold"]
    );
    assert!(coverage(&bytes, 1).unwrap().has('\u{e0b0}'));
    assert!(Typeface::open(Arc::new(bytes.clone()), 1).is_ok());
    let error = coverage(&bytes, 2).unwrap_err().to_string();
    assert!(error.contains("no face number 2"), "{error}");
}

/// Everything the program does with a file.
fn use_everything(bytes: &[u8]) {
    let Ok(found) = faces(bytes) else { return };
    for info in found.iter().take(3) {
        let Ok(facts) = facts(bytes, info.index) else {
            continue;
        };
        let Ok(face) = Typeface::open(Arc::new(bytes.to_vec()), info.index) else {
            continue;
        };
        let grid = Grid::at(&face.cell(), 16.0, 1.0);
        let _ = line(&face, &grid, "aé->\u{e0b0}字", &[]);
        if let Some(feature) = facts.features.first() {
            let _ = features::changes(&face, feature.tag);
        }
    }
}

/// The most memory this process has had, in MiB.
fn peak() -> u64 {
    let status = fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find_map(|l| l.strip_prefix("VmHWM:"));
    let kib: u64 = line
        .and_then(|l| l.split_whitespace().next()?.parse().ok())
        .unwrap_or(0);
    kib / 1024
}

/// How long this thread has computed, whatever else the machine was busy with meanwhile.
fn computed() -> Duration {
    let now = rustix::time::clock_gettime(rustix::time::ClockId::ThreadCPUTime);
    Duration::new(now.tv_sec as u64, now.tv_nsec as u32)
}

#[test]
fn ten_thousand_damaged_files_do_no_harm() {
    let mut seeds = vec![
        fonts::without_icons(),
        collection(&[fonts::without_icons(), fonts::without_icons()]),
    ];
    // Real tables, instructions and shaping rules too, where they are installed.
    for path in [
        "/usr/share/fonts/truetype/hack/Hack-Regular.ttf",
        "/usr/share/fonts/truetype/inconsolata/Inconsolata.otf",
    ] {
        seeds.extend(fs::read(path).ok());
    }
    let before = peak();
    let mut state = 0x2545_f491_4f6c_dd1d_u64;
    let mut random = move |below: usize| {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state % below.max(1) as u64) as usize
    };
    let mut slowest = Duration::ZERO;
    for round in 0..10_000 {
        let mut bytes = seeds[round % seeds.len()].clone();
        match random(8) {
            0 => bytes.truncate(random(bytes.len())),
            // The directory of tables: tags, offsets and lengths.
            1 | 2 => {
                for _ in 0..=random(4) {
                    let at = random(bytes.len().min(400));
                    bytes[at] = [0, 1, 0x7f, 0x80, 0xff, random(256) as u8][random(6)];
                }
            }
            // Runs of one value, as absurd counts and offsets are.
            3 => {
                let (at, value) = (random(bytes.len()), [0, 0xff][random(2)]);
                let end = (at + 2 + random(64)).min(bytes.len());
                bytes[at..end].fill(value);
            }
            _ => {
                for _ in 0..=random(40) {
                    let at = random(bytes.len());
                    bytes[at] = random(256) as u8;
                }
            }
        }
        let begin = computed();
        // The work of a thorough look is done on every tenth; all are read.
        if round % 10 == 0 {
            use_everything(&bytes);
        } else if let Ok(found) = faces(&bytes) {
            for info in found.iter().take(3) {
                let _ = coverage(&bytes, info.index);
            }
        }
        let took = computed() - begin;
        slowest = slowest.max(took);
        assert!(took < Duration::from_secs(1), "file {round} took {took:?}");
    }
    let grown = peak().saturating_sub(before);
    assert!(grown < 200, "{grown} MiB more; slowest {slowest:?}");
}
