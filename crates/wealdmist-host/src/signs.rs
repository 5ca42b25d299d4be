//! The characters outside ASCII of what no adapter reads: the setup file, what is generated from it, and any
//! files that are named.

use std::collections::BTreeSet;
use std::fs;
use std::path::PathBuf;

use wealdmist_core::glyph::{self, Syntax};
use wealdmist_core::reading::{GlyphUse, Place, SourceFile};
use wealdmist_tools::{generated, glyphs_of};

use crate::files::read_regular;
use crate::survey::Survey;

/// The characters outside ASCII of the setup file itself, and of what is generated from it.
pub(crate) fn signs_of_setup(survey: &Survey) -> Vec<GlyphUse> {
    let file = SourceFile {
        path: survey.doc.path().to_owned(),
        target: survey.doc.path().to_owned(),
        bytes: survey.doc.text().as_bytes().into(),
        included_from: None,
        lines: Default::default(),
    };
    // A setup that nobody has written yet has no signs of its own, but for those it is to generate.
    if !survey.stored {
        return generated_signs(survey, &file);
    }
    let mut found = glyphs_of(&file, Syntax::Data, &["#"]);
    // What is to be replaced stands there because it is wrong, and its names are the person's own.
    let text = survey.doc.text();
    let start = text.find("[symbols.replace]").unwrap_or(text.len());
    let end = text[start..].find("\n[").map_or(text.len(), |n| start + n);
    found.retain(|g| {
        let at = g.place.span.start;
        let line = text[..at].rfind('\n').map_or(0, |n| n + 1);
        !(start..end).contains(&at) && !text[line..at].trim_start().starts_with("name")
    });
    found.extend(generated_signs(survey, &file));
    found
}

/// The signs of the files that are generated from the setup, each once, told at the line that decides
/// them: that of the symbol level.
fn generated_signs(survey: &Survey, file: &SourceFile) -> Vec<GlyphUse> {
    let setup = survey.doc.setup();
    let level = survey.doc.text().find("[symbols]").unwrap_or(0);
    let place = Place::new(file, level..level);
    let mut out: Vec<GlyphUse> = Vec::new();
    for (tool, _, bytes) in generated(setup, &survey.look()) {
        let used = survey
            .reports
            .iter()
            .any(|r| r.tool == tool && !r.files.is_empty());
        if !used || !setup.tool(tool).manage || !setup.tool(tool).generate {
            continue;
        }
        for hit in glyph::scan(&bytes, Syntax::Raw) {
            let character = hit.character();
            if !out.iter().any(|g| g.character == character) {
                out.push(GlyphUse {
                    character,
                    cluster: hit.text,
                    escape: None,
                    after: None,
                    place: place.clone(),
                    in_comment: false,
                });
            }
        }
    }
    out
}

/// The characters outside ASCII of any files, in whatever syntax their names suggest. Folders are
/// searched; what is no text, or is larger than a dotfile ever is, is passed over.
#[must_use]
pub fn glyphs_in(paths: &[PathBuf]) -> Vec<GlyphUse> {
    let mut out = Vec::new();
    let mut queue: Vec<PathBuf> = paths.iter().rev().cloned().collect();
    let mut seen = BTreeSet::new();
    while let Some(path) = queue.pop() {
        let Ok(meta) = fs::symlink_metadata(&path) else {
            continue;
        };
        if meta.is_dir() {
            if path.file_name().is_some_and(|n| n == ".git") || !seen.insert(path.clone()) {
                continue;
            }
            let mut entries: Vec<PathBuf> = fs::read_dir(&path)
                .into_iter()
                .flatten()
                .flatten()
                .map(|e| e.path())
                .collect();
            entries.sort_by(|a, b| b.cmp(a));
            queue.extend(entries);
        } else if meta.is_file() && meta.len() <= wealdmist_tools::limits::FILE {
            let Ok(Some(bytes)) = read_regular(&path, wealdmist_tools::limits::FILE) else {
                continue;
            };
            // A NUL byte near the start tells a file that is no text.
            if bytes[..bytes.len().min(8192)].contains(&0) {
                continue;
            }
            let name = path
                .file_name()
                .unwrap_or_default()
                .to_string_lossy()
                .into_owned();
            let file = SourceFile {
                target: path.clone(),
                path,
                bytes: bytes.into(),
                included_from: None,
                lines: Default::default(),
            };
            out.extend(glyphs_of(
                &file,
                Syntax::of_name(&name),
                &["#", "//", "--", ";"],
            ));
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::surveyed;

    #[test]
    fn glyphs_of_the_setup_itself_count_but_not_its_names_and_replacements() {
        let (_dir, mut survey) = surveyed();
        let text = "name = \"Salz·marsch\"\n[palettes.a]\n[font]\nfamily = \"Reedbed Mono NF\"\n[symbols]\nlevel = \"icons\"\n[symbols.replace]\n\"✗\" = \"\\uF00D\"\n[[exceptions]]\ntool = \"tmux\"\nrole = \"cyan\"\nreason = \"\u{f07b} → x\"\n[tools.bash]\ngenerate = true\n";
        survey.doc =
            wealdmist_core::setup::SetupDoc::parse(survey.doc.path(), text.as_bytes()).unwrap();
        survey.stored = true;
        let found = signs_of_setup(&survey);
        let signs: Vec<char> = found.iter().map(|g| g.character).collect();
        assert_eq!(signs[..2], ['\u{f07b}', '→']);
        // Then those of the prompt that is generated.
        assert!(
            signs[2..].contains(&'\u{e725}') && found[2].place.at.line == 5,
            "{found:?}"
        );
        assert_eq!(found[0].place.at.line, 12);
        survey.stored = false;
        let generated: Vec<char> = (signs_of_setup(&survey).iter())
            .map(|g| g.character)
            .collect();
        assert_eq!(generated, signs[2..]);
    }

    #[test]
    fn any_files_can_be_searched_for_glyphs() {
        let dir = tempfile::tempdir().unwrap();
        let write = |name: &str, bytes: &[u8]| {
            let path = dir.path().join(name);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, bytes).unwrap();
        };
        write("a.lua", b"x = \"\\u{e0b0}\"\n");
        write("sub/b.json", b"{\n \"i\": \"\\udb80\\udc01\"}");
        write("c.bin", b"\0\xee\x82\xb0");
        write(".git/objects/d", "\u{e0b0}".as_bytes());
        let found = glyphs_in(&[dir.path().to_owned()]);
        let said: Vec<(char, usize)> = found
            .iter()
            .map(|g| (g.character, g.place.at.line))
            .collect();
        assert_eq!(said, [('\u{e0b0}', 1), ('\u{f0001}', 2)]);
    }
}
