//! `draw` and `pack`.

use std::path::Path;

use wealdmist_host::{Survey, write_bundle};

use crate::cli::Seen;
use crate::failure::Outcome;
use crate::work::{bundle_parts, draw_to};

pub fn draw(survey: &Survey, kind: &str, output: &Path, seen: &Seen, icons: bool) -> Outcome {
    let conditions = super::contrast::conditions(survey, seen)?;
    draw_to(survey, kind, output, &conditions, icons)?;
    say!("wrote {}", output.display());
    Ok(0)
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
