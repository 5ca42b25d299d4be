//! Files for terminals that do not run here are read by readers of another maker.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::collections::BTreeMap;

use wealdmist_core::color::Rgb;
use wealdmist_core::look::Look;
use wealdmist_core::role::Slot;
use wealdmist_core::setup::SetupDoc;

use common::{Scratch, have};

/// Reads a property list, or JSON, and prints each color: key, red, green, blue from 0 to 255.
const ASK: &str = r#"
import json, plistlib, sys
def archived(data):
    archive = plistlib.loads(data)
    top = archive['$objects'][archive['$top']['root'].data]
    name = archive['$objects'][top['$class'].data]['$classname']
    assert archive['$archiver'] == 'NSKeyedArchiver', archive
    if name == 'NSFont':
        print('font', archive['$objects'][top['NSName'].data], top['NSSize'], sep='\t', file=sys.stderr)
        return None
    assert name == 'NSColor', archive
    return [float(part) for part in top['NSRGB'].rstrip(b'\0').split()][:3]
with open(sys.argv[1], 'rb') as file:
    content = json.load(file)['Profiles'][0] if sys.argv[1].endswith('.json') else plistlib.load(file)
for key, value in content.items():
    if isinstance(value, bytes):
        parts = archived(value)
        if parts is None:
            continue
    elif isinstance(value, dict):
        assert value['Color Space'] == 'sRGB', value
        parts = [value[part + ' Component'] for part in ('Red', 'Green', 'Blue')]
    else:
        continue
    print(key, *[round(part * 255) for part in parts], sep='\t')
"#;

/// The colors that another reader finds in a file.
fn asked(s: &Scratch, name: &str) -> BTreeMap<String, Rgb> {
    asked_with_font(s, name).0
}

/// The same, with its font: face and size.
fn asked_with_font(s: &Scratch, name: &str) -> (BTreeMap<String, Rgb>, String) {
    let path = s.home().join(name);
    let done = s.command("python3").args(["-c", ASK]).arg(path).output();
    let done = done.unwrap();
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let said = String::from_utf8(done.stdout).unwrap();
    let one = |line: &str| {
        let words: Vec<&str> = line.split('\t').collect();
        let channel = |n: usize| words[n].parse::<u8>().unwrap();
        (
            words[0].to_owned(),
            Rgb::new(channel(1), channel(2), channel(3)),
        )
    };
    let font = String::from_utf8(done.stderr).unwrap();
    (said.lines().map(one).collect(), font)
}

const SETUP: &str = "palette='dusk'\n[palettes.dusk]\nforeground='#d7d6cc'\nbackground='#0d191c'\nred='#d0605e'\ncursor='#b0c080'\nselection='#203a40'\n";

#[test]
fn property_lists_and_profiles_hold_the_colors() {
    if !have(&["python3"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".config/kitty/kitty.conf", "\n");
    s.write(".config/wealdmist/setup.toml", SETUP);
    let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).unwrap();
    let palette = doc.setup().palette();
    // Each format with what it calls red, a bright color and the ground.
    for (format, name, keys) in [
        (
            "mac",
            "a.terminal",
            ["ANSIRedColor", "ANSIBrightCyanColor", "BackgroundColor"],
        ),
        (
            "preset",
            "a.itermcolors",
            ["Ansi 1 Color", "Ansi 14 Color", "Background Color"],
        ),
        (
            "iterm2",
            "a.json",
            ["Ansi 1 Color", "Ansi 14 Color", "Background Color"],
        ),
    ] {
        let path = s.home().join(name);
        s.said(&["export", format, "-o", path.to_str().unwrap()], &[0]);
        let found = asked(&s, name);
        assert!(found.len() >= 20, "{format}: {found:?}");
        let slots = [Slot::Red, Slot::BrightCyan, Slot::Background];
        for (key, slot) in keys.into_iter().zip(slots) {
            assert_eq!(found.get(key), Some(&palette.slot(slot)), "{format}, {key}");
        }
    }
}

#[test]
fn a_profile_that_was_changed_is_read_by_another() {
    if !have(&["python3"]) {
        return;
    }
    let s = Scratch::new();
    let place = "Library/Application Support/iTerm2/DynamicProfiles/mine.json";
    let profile = "{ \"Profiles\": [ { \"Name\": \"Mooring\", \"Guid\": \"m\",\n  \"Ansi 1 Color\": { \"Color Space\": \"sRGB\", \"Red Component\": 0.5, \"Green Component\": 0, \"Blue Component\": 0 } } ] }\n";
    s.write(place, profile);
    s.write(".config/wealdmist/setup.toml", SETUP);
    s.said(&["apply"], &[0]);
    let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).unwrap();
    let look = Look::new(doc.setup());
    let found = asked(&s, place);
    for (key, role) in [
        ("Ansi 1 Color", "red"),
        ("Foreground Color", "foreground"),
        ("Cursor Color", "cursor"),
    ] {
        let role = wealdmist_core::role::RoleId::known(role);
        assert_eq!(found.get(key), Some(&look.color(&role)), "{key}");
    }
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    s.said(&["undo"], &[0]);
    assert_eq!(s.read(place), profile);
}

#[test]
fn a_profile_has_the_font_and_gives_it_back() {
    if !have(&["python3"]) {
        return;
    }
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["set", "font.size", "13.5"], &[0]);
    let path = s.home().join("a.terminal");
    let path = path.to_str().unwrap();
    s.said(&["export", "mac", "-o", path], &[0]);
    let (colors, font) = asked_with_font(&s, "a.terminal");
    assert_eq!(font, "font\tReedbedMonoNF-Regular\t13.5\n");
    assert_eq!(colors.len(), 21);
    // Into another setup: only where that is wanted.
    s.said(&["set", "font.size", "9"], &[0]);
    s.said(&["set", "font.family", "Sedge Mono NF"], &[0]);
    let said = s.said(&["import", path, "--name", "b"], &[0]);
    assert!(
        said.contains("its font Reedbed Mono NF 13.5 is not taken: --font does"),
        "{said}"
    );
    let setup = |s: &Scratch| s.read(".config/wealdmist/setup.toml");
    assert!(setup(&s).contains("Sedge Mono NF"));
    let said = s.said(&["import", path, "--name", "c", "--use", "--font"], &[0]);
    assert!(said.contains("font Reedbed Mono NF 13.5"), "{said}");
    let setup = setup(&s);
    assert!(
        setup.contains("family = \"Reedbed Mono NF\"") && setup.contains("size = 13.5"),
        "{setup}"
    );
    // A font that is not here cannot be named by its face.
    s.said(&["set", "font.family", "Nobody Mono"], &[0]);
    s.said(&["export", "mac", "-o", path], &[0]);
    assert_eq!(asked_with_font(&s, "a.terminal").1, "");
}
