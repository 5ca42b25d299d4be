//! `draw` and `pack`.

use std::path::Path;

use wealdmist_core::condition::Conditions;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::tokens::design_tokens;
use wealdmist_draw::specimen_svg;
use wealdmist_host::{Part, Survey, write_atomic, write_bundle};

use super::Outcome;
use crate::failure::Failure;

/// The size of a drawn specimen in cells.
const SPECIMEN: (usize, usize) = (76, 44);

fn picture(survey: &Survey, icons: bool) -> String {
    let setup = survey.doc.setup();
    let specimen = Specimen::draw(setup, &survey.look(), SPECIMEN.0, SPECIMEN.1, icons);
    let title = format!("{} · {}", setup.name, setup.active);
    specimen_svg(&specimen, &title, setup.font.family.as_deref())
}

pub fn draw(survey: &Survey, output: &Path, icons: bool) -> Outcome {
    if output.extension().is_none_or(|e| e != "svg") {
        return Err(Failure::Other(
            "the picture is SVG: give a name that ends in .svg".into(),
        ));
    }
    write_atomic(output, picture(survey, icons).as_bytes())?;
    say!("wrote {}", output.display());
    Ok(0)
}

/// Writes a drawing of the setup to a file, by its ending.
pub fn draw_to(
    survey: &Survey,
    kind: &str,
    path: &Path,
    conditions: &Conditions,
    icons: bool,
) -> Result<(), Failure> {
    let _ = (kind, conditions);
    write_atomic(path, picture(survey, icons).as_bytes())?;
    Ok(())
}

/// What a bundle holds: the setup, its palettes as design tokens, the files we generate, and the
/// picture. Nothing is taken from the person's own dotfiles.
pub fn bundle_parts(survey: &Survey) -> Vec<Part> {
    let part = |path: &str, bytes: Vec<u8>| Part {
        path: path.into(),
        bytes,
    };
    let setup = survey.doc.setup();
    let mut parts = vec![
        part("setup.toml", survey.doc.text().as_bytes().to_vec()),
        part("palette.tokens.json", design_tokens(setup).into_bytes()),
        part("specimen.svg", picture(survey, false).into_bytes()),
    ];
    for (tool, name, bytes) in wealdmist_tools::tools::generated(setup, &survey.look()) {
        parts.push(part(&format!("generated/{tool}/{name}"), bytes));
    }
    parts
}

pub fn pack(survey: &Survey, output: &Path) -> Outcome {
    let parts = bundle_parts(survey);
    write_bundle(output, &parts)?;
    say!("wrote {}", output.display());
    for part in &parts {
        say!("  {} ({} bytes)", part.path.display(), part.bytes.len());
    }
    Ok(0)
}
