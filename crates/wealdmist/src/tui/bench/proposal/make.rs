//! The drafts of a proposal of palettes: made, imported, or found in a folder.

use std::path::Path;

use wealdmist_core::Slot;
use wealdmist_core::color::{difference, parse_any};
use wealdmist_core::make::{self, Cluster, OnGround, Variation};
use wealdmist_core::setup::{Palette, PaletteName, SetupDoc, Variant};
use wealdmist_core::text::counted;
use wealdmist_host::{PaletteFile, Picture};
use wealdmist_tools::exchange::Imported;

use super::{Candidate, Matter, Proposal, candidate};
use crate::tui::workspace::Workspace;
use crate::work::{IMAGE_COLORS, counterpart_of, lines};

/// A picture's colors, as shown beside the palettes made of it.
#[derive(Debug, Clone)]
pub struct Source {
    /// The picture, reduced: so many columns, and its pixels row by row, two to a cell.
    pub columns: usize,
    /// The reduced picture's pixels, row by row.
    pub pixels: Vec<wealdmist_core::Rgb>,
    /// The colors found in it.
    pub clusters: Vec<Cluster>,
}

/// The draft with nothing in it that could not differ from palette to palette.
fn base(ws: &Workspace) -> SetupDoc {
    let doc = &ws.survey.doc;
    doc.with_role_colors_named().unwrap_or_else(|_| doc.clone())
}

/// A draft with a palette added and in use.
fn with_palette(ws: &Workspace, palette: &Palette, command: String) -> Option<Candidate> {
    let doc = ws.doc().with_palette_in_use(palette).ok()?;
    let doc = ws.survey.readable(&doc);
    Some(candidate(ws, &palette.name, doc, Vec::new(), command))
}

/// A proposal of palettes.
///
/// # Errors
/// When there is none.
fn proposal(title: impl Into<String>, candidates: Vec<Candidate>) -> Result<Proposal, String> {
    match candidates.is_empty() {
        true => Err("nothing came of it".to_owned()),
        false => Ok(Proposal::of(title, candidates, Matter::Palettes)),
    }
}

/// Variations of the palette in use.
pub fn variations(ws: &Workspace) -> Result<Proposal, String> {
    let base = base(ws);
    let setup = base.setup();
    let from = setup.palette();
    let made = Variation::ALL.into_iter().filter_map(|v| {
        let name = ws
            .doc()
            .free_palette_name(&format!("{} {}", from.name, v.label()));
        let command = format!("wealdmist palette vary {} --use", v.label());
        with_palette(ws, &make::vary(setup, from, v, &name), command)
    });
    proposal("variations of the palette", made.collect())
}

/// The palette in use on the other ground.
pub fn counterpart(ws: &Workspace) -> Result<Proposal, String> {
    let base = base(ws);
    let setup = base.setup();
    let from = setup.palette();
    let (wanted, make) = counterpart_of(setup, from);
    let made = make(&ws.doc().free_palette_name(&wanted));
    let command = "wealdmist palette counterpart --use".to_owned();
    let made = with_palette(ws, &made, command).into_iter().collect();
    proposal("the palette on the other ground", made)
}

/// How far a ground that shows its tint is from the quiet one, as the CIEDE2000 difference, to be worth a look.
const SEEN: f64 = 2.0;

/// What comes of one thing on a dark ground, on a light one, and on a light one that shows its tint. `name` is what the
/// thing is called, `made_by` the command that makes it.
fn on_grounds(
    ws: &Workspace,
    name: &str,
    made_by: &str,
    make: impl Fn(&PaletteName, OnGround) -> Palette,
) -> Vec<Candidate> {
    let grounds = [
        (Variant::Dark, false),
        (Variant::Light, false),
        (Variant::Light, true),
    ];
    let mut quiet = None;
    let made = grounds.into_iter().filter_map(|(variant, tinted)| {
        let side = variant.key();
        let (more, flag) = if tinted {
            (" tinted", " --tinted")
        } else {
            ("", "")
        };
        let name = ws.doc().free_palette_name(&format!("{name} {side}{more}"));
        let palette = make(&name, OnGround { variant, tinted });
        let ground = palette.slot(Slot::Background);
        if tinted && quiet.is_some_and(|q| difference(q, ground) < SEEN) {
            return None;
        }
        quiet = Some(ground);
        let command = format!("wealdmist palette {made_by} --side {side}{flag} --use");
        with_palette(ws, &palette, command)
    });
    made.collect()
}

/// Palettes from seed colors as typed.
pub fn from_seeds(ws: &Workspace, text: &str) -> Result<Proposal, String> {
    // Blanks part the colors, but also stand inside `oklch(…)`.
    let mut seeds = Vec::new();
    let mut rest = text.trim();
    while !rest.is_empty() && seeds.len() < 2 {
        let end = match (rest.find('('), rest.find(char::is_whitespace)) {
            (Some(open), Some(blank)) if open < blank => {
                rest.find(')').map_or(rest.len(), |e| e + 1)
            }
            (_, Some(blank)) => blank,
            _ => rest.len(),
        };
        let one = rest[..end].trim_end_matches(',');
        match parse_any(one) {
            Some(color) => seeds.push(color),
            None => {
                return Err(format!(
                    "'{one}' is not a color: write #rrggbb, or any notation of CSS"
                ));
            }
        }
        rest = rest[end..].trim_start();
    }
    if seeds.is_empty() {
        return Err("no color was given".to_owned());
    }
    let base = base(ws);
    let setup = base.setup();
    let typed: Vec<String> = seeds.iter().map(|s| lines::word(&s.to_string())).collect();
    let typed = typed.join(" ");
    let made = on_grounds(ws, "seeded", &format!("seeds {typed}"), |name, on| {
        make::from_seeds(setup, name, &seeds, on)
    });
    proposal("from seed colors", made)
}

/// Palettes from an image that was read.
pub fn from_image(ws: &Workspace, path: &Path, picture: &Picture) -> Result<Proposal, String> {
    let name = path.file_stem().unwrap_or_default().to_string_lossy();
    let file = lines::word(&path.to_string_lossy());
    let clusters = make::clusters(&picture.pixels, IMAGE_COLORS);
    let base = base(ws);
    let setup = base.setup();
    let made = on_grounds(ws, &name, &format!("image {file}"), |name, on| {
        make::from_image(setup, name, &clusters, on)
    });
    let columns = 44;
    let rows = (columns * picture.height / picture.width.max(1)).clamp(2, 28) & !1;
    let pixels = (0..rows * columns)
        .map(|i| {
            let (x, y) = (i % columns, i / columns);
            picture.pixel(
                (2 * x + 1) * picture.width / (2 * columns),
                (2 * y + 1) * picture.height / (2 * rows),
            )
        })
        .collect();
    let source = Source {
        columns,
        pixels,
        clusters,
    };
    let mut out = proposal("from an image", made)?;
    out.source = Some(source);
    Ok(out)
}

fn imported(
    ws: &Workspace,
    found: &Imported,
    name: &str,
    from: &Path,
) -> Result<Candidate, String> {
    let name = ws.doc().free_palette_name(name);
    let doc = found
        .taken_into(ws.doc(), &name)
        .map_err(|e| e.to_string())?;
    let doc = doc
        .with_text(&["palette"], &name)
        .map_err(|e| e.to_string())?;
    let mut remarks = vec![format!(
        "{}, {}",
        counted(found.slots.len(), "slot"),
        counted(found.colors.len(), "further color")
    )];
    for (role, color) in &found.roles {
        remarks.push(format!(
            "{color} for {role} is not taken: it would be in every palette"
        ));
    }
    for one in &found.unmapped {
        remarks.push(format!(
            "line {}: {} {} has no place",
            one.line, one.key, one.color
        ));
    }
    let which = found.scheme.as_ref().map_or_else(String::new, |scheme| {
        format!(" --scheme {}", lines::word(scheme))
    });
    let command = format!(
        "wealdmist import {}{which} --use",
        lines::word(&from.to_string_lossy())
    );
    Ok(candidate(ws, &name, doc, remarks, command))
}

/// The schemes that were imported from a file, mostly one; the file is `-` for what was pasted.
pub fn import(ws: &Workspace, files: &[PaletteFile]) -> Result<Proposal, String> {
    let made = files
        .iter()
        .map(|f| imported(ws, &f.found, &f.name(), &f.path));
    let made: Vec<Candidate> = made.collect::<Result<_, _>>()?;
    let said = match made.len() {
        1 => "imported".to_owned(),
        n => format!("imported: {n} schemes in one file"),
    };
    proposal(said, made)
}

/// Every palette of a folder; `others` of its files are none.
pub fn from_folder(
    ws: &Workspace,
    files: &[PaletteFile],
    others: usize,
) -> Result<Proposal, String> {
    let made = files
        .iter()
        .map(|f| imported(ws, &f.found, &f.name(), &f.path));
    let made: Vec<Candidate> = made.filter_map(Result::ok).collect();
    if made.is_empty() {
        return Err(format!(
            "none of the {others} files in it is a palette that can be read"
        ));
    }
    proposal(
        format!(
            "{}, {}",
            counted(made.len(), "palette"),
            counted(others, "other file")
        ),
        made,
    )
}
