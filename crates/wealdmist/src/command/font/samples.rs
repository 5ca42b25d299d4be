//! Faces side by side, and what they cover: in the terminal and as drawings.

use std::io::Write;
use std::path::Path;

use wealdmist_core::font::coverage::{by_block, by_icon_range};
use wealdmist_core::font::picture::{Means, Shaded, draw};
use wealdmist_core::font::raster::{Grid, Raster, line};
use wealdmist_core::font::sample::{SAMPLES, parts, sample};
use wealdmist_core::font::{FeatureSetting, Four, features};
use wealdmist_core::icon;
use wealdmist_core::role::Slot;
use wealdmist_core::terminal::Images;
use wealdmist_core::{Rgb, text};
use wealdmist_draw::fonts::{Named, comparison, coverage_chart};
use wealdmist_host::Survey;

use crate::cli::{Drawn, MeansName, StyleName};
use crate::failure::{Failure, Outcome};
use crate::screen::image;
use crate::work::fonts::{open_all, title};
use crate::work::write_svg;

pub(super) fn compare(
    survey: &Survey,
    names: &[String],
    how: &Drawn,
    output: Option<&Path>,
) -> Outcome {
    let style = match how.style {
        StyleName::Regular => Four::Regular,
        StyleName::Bold => Four::Bold,
        StyleName::Italic => Four::Italic,
        StyleName::BoldItalic => Four::BoldItalic,
    };
    let faces = open_all(survey, names, style)?;
    let mut with = if how.no_ligatures {
        features::ligatures_off()
    } else {
        Vec::new()
    };
    for text in &how.feature {
        with.push(text.parse::<FeatureSetting>().map_err(Failure::Other)?);
    }
    let parts: Vec<(&str, Vec<&str>)> = match (&how.text, &how.sample) {
        (Some(text), _) => vec![("text", vec![text.as_str()])],
        (None, Some(title)) => {
            let found = sample(title).ok_or_else(|| {
                let all: Vec<&str> = SAMPLES.iter().map(|s| s.title).collect();
                let all = all.join(", ");
                Failure::Other(format!("there is no sample '{title}'; there are {all}"))
            })?;
            vec![(found.title, found.lines.to_vec())]
        }
        (None, None) => parts(),
    };
    if let Some(path) = output {
        let named: Vec<Named> = faces
            .iter()
            .map(|(title, face, _)| Named { title, face })
            .collect();
        let svg = comparison(&title(survey), &named, &parts, &with);
        write_svg(survey, &svg, path)?;
        say!("wrote {}", path.display());
        return Ok(0);
    }
    let means = match how.means {
        Some(MeansName::Quadrants) => Means::Quadrants,
        Some(MeansName::Dots) => Means::Dots,
        Some(MeansName::Ascii) => Means::Ascii,
        None | Some(MeansName::Image) => best_means(),
    };
    let images = match how.means {
        Some(MeansName::Image) => image::protocol(&survey.home),
        _ => Images::None,
    };
    if how.means == Some(MeansName::Image) && images == Images::None {
        let text =
            "this terminal is not known to show images; `wealdmist terminal --measure` asks it";
        return Err(Failure::Other(text.to_owned()));
    }
    let look = survey.look();
    let shades = (look.slot(Slot::Background), look.slot(Slot::Foreground));
    let mut out = std::io::stdout().lock();
    for text in parts.into_iter().flat_map(|(_, lines)| lines) {
        for (title, face, _) in &faces {
            let cell = face.cell();
            let grid = Grid::of_width(&cell, f32::from(how.width));
            let raster: Raster = line(face, &grid, text, &with);
            writeln!(out, "{}", text::visible(title.as_bytes()))?;
            if images != Images::None {
                put_image(&mut out, &raster, shades, images)?;
                continue;
            }
            for row in draw(&raster, means) {
                writeln!(out, "{}", painted(&row, means))?;
            }
        }
    }
    out.flush()?;
    Ok(0)
}

/// Shows a raster as an image, and goes to the line below it.
fn put_image(
    out: &mut impl Write,
    raster: &Raster,
    shades: (Rgb, Rgb),
    images: Images,
) -> std::io::Result<()> {
    let pixels = image::escapes(raster, shades, images);
    let Some((_, height)) = image::cell_pixels().filter(|_| images == Images::Graphics) else {
        out.write_all(&pixels)?;
        return writeln!(out);
    };
    // The graphics protocol leaves the cursor where it is and does not scroll: room is made first.
    let lines = raster.height.div_ceil(height.max(1));
    out.write_all(&b"\n".repeat(lines as usize))?;
    write!(out, "\x1b[{lines}A")?;
    out.write_all(&pixels)?;
    write!(out, "\x1b[{lines}B")
}

/// The finest means of the output: dots, or ASCII where Unicode is not to be had.
fn best_means() -> Means {
    if crate::screen::unicode_locale() {
        Means::Dots
    } else {
        Means::Ascii
    }
}

/// A row with its shades as 24-bit escapes, or plain where the means has none.
fn painted(row: &[Shaded], means: Means) -> String {
    let mut out = String::new();
    for cell in row {
        if means == Means::Quadrants {
            let (f, b) = (cell.ink, cell.ground);
            out.push_str(&format!("\x1b[38;2;{f};{f};{f};48;2;{b};{b};{b}m"));
        }
        out.push(cell.character);
    }
    if means == Means::Quadrants {
        out.push_str("\x1b[0m");
        return out;
    }
    out.trim_end().to_owned()
}

pub(super) fn coverage(survey: &Survey, names: &[String], output: Option<&Path>) -> Outcome {
    let faces = open_all(survey, names, Four::Regular)?;
    let Some(((first, _, one), rest)) = faces.split_first() else {
        return Ok(2);
    };
    let other = rest
        .first()
        .map(|(title, _, coverage)| (title.as_str(), coverage));
    if let Some(path) = output {
        let svg = coverage_chart(&title(survey), (first, one), other);
        write_svg(survey, &svg, path)?;
        say!("wrote {}", path.display());
        return Ok(0);
    }
    for (title, shares) in [
        ("icon ranges", by_icon_range(one)),
        ("Unicode blocks", by_block(one)),
    ] {
        say!("{title} of {first}");
        for share in shares {
            // In a range of icons only known icons count, as in its share.
            let counts = |c: &char| {
                share.range.contains(&(*c as u32))
                    && (title != "icon ranges" || icon::present_at(*c).is_some())
            };
            let difference = other.map_or(String::new(), |(name, o)| {
                let only = one
                    .characters()
                    .filter(counts)
                    .filter(|c| !o.has(*c))
                    .count();
                let theirs = o
                    .characters()
                    .filter(counts)
                    .filter(|c| !one.has(*c))
                    .count();
                format!("   {only} not in {name}, which has {theirs} more")
            });
            say!(
                "  {:<34} {:>5} of {}{difference}",
                share.name,
                share.has,
                share.of
            );
        }
    }
    Ok(0)
}
