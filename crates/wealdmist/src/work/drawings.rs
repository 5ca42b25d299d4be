//! Drawings of a setup as files, and what a bundle holds.

use std::path::Path;

use wealdmist_core::condition::Conditions;
use wealdmist_core::pair::rounding_of;
use wealdmist_core::prompt::Situation;
use wealdmist_core::reading::ToolReport;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::tokens::design_tokens;
use wealdmist_core::window::{WindowLook, host};
use wealdmist_draw::{ConvertError, DrawnWindow, Fonts, Kind, OF_FONTS, Subject, WINDOW, pdf, png};
use wealdmist_host::{FontIndex, Home, Part, Survey, write_output};

use super::{fonts, glyphs, prompt};
use crate::failure::Failure;

/// The size of a drawn specimen in cells.
const SPECIMEN: (usize, usize) = (76, 44);

fn drawing(survey: &Survey, kind: Kind, conditions: &Conditions, icons: bool) -> String {
    let setup = survey.doc.setup();
    let look = survey.look();
    let pairs = survey.pairs(conditions);
    let specimen = match kind {
        Kind::Prompt => {
            let design = prompt::shown(setup, icons);
            Specimen::of_situations(&design, &look, &Situation::all(), SPECIMEN.0)
        }
        _ => Specimen::draw(setup, &look, SPECIMEN.0, SPECIMEN.1, icons),
    };
    let specimen = conditions.see_specimen(&specimen, &look, &|spot| {
        rounding_of(&pairs, &spot.text, &spot.ground)
    });
    wealdmist_draw::draw(
        kind,
        &Subject {
            setup,
            pairs: &pairs,
            conditions,
            specimen: &specimen,
        },
    )
}

/// The kind of a name on the command line.
fn kind_of(name: &str) -> Result<Kind, Failure> {
    let found = Kind::ALL.into_iter().find(|k| k.key() == name);
    found.ok_or_else(|| {
        let all: Vec<&str> = Kind::ALL
            .map(Kind::key)
            .into_iter()
            .chain(OF_FONTS)
            .chain([WINDOW])
            .collect();
        let all = all.join(", ");
        Failure::Usage(format!("there is no drawing '{name}'; there are {all}"))
    })
}

/// The most cells of a window that are drawn.
const MOST: (usize, usize) = (160, 60);

/// The window of the terminal that the specimen stands for.
fn window_svg(survey: &Survey, conditions: &Conditions, icons: bool) -> String {
    let host = host(survey.doc.setup(), &survey.reports);
    window_of(survey, host, conditions, icons, None)
}

/// The window of a terminal, where it is to fill something by the width of that for its height.
pub fn window_of(
    survey: &Survey,
    host: Option<&ToolReport>,
    conditions: &Conditions,
    icons: bool,
    aspect: Option<f64>,
) -> String {
    let (setup, look) = (survey.doc.setup(), survey.look());
    let window = WindowLook::new(setup, host);
    let size = (window.size.0.min(MOST.0), window.size.1.min(MOST.1));
    let drawn = DrawnWindow {
        look: &look,
        window: &window,
        images: &survey.images().images,
        conditions,
        inside: &Specimen::draw(setup, &look, size.0, size.1, icons),
        family: setup.font.family.as_deref(),
        aspect,
    };
    wealdmist_draw::window_svg(&drawn, &format!("{} · {}", setup.name, setup.active))
}

/// Writes a drawing of the setup to a file, by its ending.
pub fn draw_to(
    survey: &Survey,
    kind: &str,
    path: &Path,
    conditions: &Conditions,
    icons: bool,
) -> Result<(), Failure> {
    let svg = match kind {
        "faces" => fonts::faces_svg(survey)?,
        "coverage" => fonts::coverage_svg(survey)?,
        "glyphs" => glyphs::whole_sheet(survey),
        WINDOW => window_svg(survey, conditions, icons),
        kind => drawing(survey, kind_of(kind)?, conditions, icons),
    };
    write_svg(survey, &svg, path)
}

/// The fonts that text in drawings is drawn with.
pub fn fonts_of(home: &Home) -> Fonts {
    let mut fonts = Fonts::default();
    // The system's stand in for any fixed-pitch font before those of the home do.
    let mut files: Vec<_> = FontIndex::open(home).catalog().faces;
    files.dedup_by(|a, b| a.path == b.path);
    for entry in files.iter().rev().filter(|e| e.info.measured_fixed) {
        fonts.add(&entry.path);
    }
    fonts
}

/// Writes a drawing to a file in the format that its ending says.
pub fn write_svg(survey: &Survey, svg: &str, path: &Path) -> Result<(), Failure> {
    let ending = path.extension().unwrap_or_default().to_ascii_lowercase();
    let fonts = || fonts_of(&survey.home);
    let broken = |e: ConvertError| Failure::Other(e.to_string());
    let bytes = match ending.to_str() {
        Some("svg") => svg.as_bytes().to_vec(),
        Some("pdf") => pdf(svg, &fonts()).map_err(broken)?,
        Some("png") => png(svg, &fonts()).map_err(broken)?,
        _ => {
            return Err(Failure::Usage(
                "give a name that ends in .svg, .pdf or .png".into(),
            ));
        }
    };
    write_output(path, &bytes)?;
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
        part(
            "specimen.svg",
            drawing(survey, Kind::Specimen, &Conditions::default(), false).into_bytes(),
        ),
    ];
    for (tool, name, bytes) in wealdmist_tools::generated(setup, &survey.look()) {
        parts.push(part(&format!("generated/{tool}/{name}"), bytes));
    }
    parts
}
