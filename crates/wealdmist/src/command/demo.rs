//! `wealdmist demo`: the sample home, in the interface or as a tour in text.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use wealdmist_core::color::ratio_shown;
use wealdmist_core::demo::{PALETTE_NAME, SETUP_NAME};
use wealdmist_core::finding::Kind;
use wealdmist_core::pair::mend;
use wealdmist_core::plan::{Change, Plan};
use wealdmist_core::prompt::{Part, Situation, draw, ready};
use wealdmist_core::reading::ToolId;
use wealdmist_core::repair::{Background, Scope};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::specimen::Specimen;
use wealdmist_core::text::{code_points, counted, visible_with};
use wealdmist_host::{Ask, Home, Journal, Survey, find_font, make_demo};
use wealdmist_tools::Access;

use super::write::{print_answers, print_plan};
use super::{Open, check, survey};
use crate::cli::Place;
use crate::failure::{Failure, Outcome};
use crate::work::glyphs::{judged, mended, search};
use crate::work::prompt::{given_to, shown};
use crate::work::{bundle_parts, carry_out, repair_of};

pub fn run(place: &Place, tour: bool, dir: Option<&Path>, open: Open) -> Outcome {
    // A folder that nobody named is removed again at the end.
    let (folder, _temporary) = match dir {
        Some(dir) => (dir.to_owned(), None),
        None => {
            let made = tempfile::Builder::new()
                .prefix("wealdmist-demo-")
                .tempdir()?;
            let folder = made.path().join("home");
            (folder, Some(made))
        }
    };
    make_demo(&folder)?;
    let home = Home::open(Some(&folder))?;
    super::recover(&home);
    let survey = Survey::open(
        home,
        place.setup.as_deref(),
        Some((SETUP_NAME, PALETTE_NAME)),
    )?;
    if tour {
        return walk(survey);
    }
    let code = open(survey, place)?;
    if dir.is_none() {
        say!("The sample home is removed again; `wealdmist demo --dir DIR` keeps one.");
    }
    Ok(code)
}

fn step(number: &mut usize, title: &str) -> Result<(), Failure> {
    *number += 1;
    say!("\n── {number}. {title}\n");
    Ok(())
}

fn walk(mut s: Survey) -> Outcome {
    let mut n = 0;
    let before = picture(&s.home)?;
    step(
        &mut n,
        "The dotfiles of the sample home, and where they disagree",
    )?;
    survey::print(&s, false)?;

    step(&mut n, "A first setup, made from them: nothing was typed")?;
    s.save()?;
    say!("{}", s.doc.text());

    step(&mut n, "What is wrong now")?;
    let font = find_font(&s, None);
    let findings = s.findings(&font.report);
    check::print(&s, &findings)?;

    step(&mut n, "Two colors changed once, in the setup")?;
    let look = s.look();
    let comment = RoleId::known("comment");
    let (old, ground) = (look.color(&comment), look.slot(Slot::Background));
    let better = mend(old, ground, 4.5).unwrap_or(old);
    s.doc = s
        .doc
        .with_role(&comment, &wealdmist_core::setup::Expr::Value(better))?;
    let ratio = |c| wealdmist_core::color::contrast_ratio(c, ground);
    say!(
        "comment: {old} ({}:1) → {better} ({}:1)",
        ratio_shown(ratio(old)),
        ratio_shown(ratio(better))
    );
    let cyan = wealdmist_core::color::mix(look.slot(Slot::Cyan), look.slot(Slot::Green), 0.35);
    let palette = s.doc.setup().active.clone();
    say!("cyan:    {} → {cyan}", look.slot(Slot::Cyan));
    s.doc = s.doc.with_slot(&palette, Slot::Cyan, cyan)?;
    s.save()?;

    step(
        &mut n,
        "A prompt for bash, with the time on its right, in some situations",
    )?;
    prompted(&mut s)?;

    step(
        &mut n,
        "Every pair brought to its target, every missing sign replaced",
    )?;
    repaired(&mut s)?;

    step(
        &mut n,
        "The specimen (its text; the interface shows it in color)",
    )?;
    let specimen = Specimen::draw(s.doc.setup(), &s.look(), 72, 34, false);
    for row in specimen.cells.chunks(specimen.width) {
        let line: String = row.iter().map(|c| c.text.as_str()).collect();
        say!("  {}", line.trim_end());
    }

    step(&mut n, "The plan: exactly these bytes")?;
    let plan = s.plan();
    let (own, edited) =
        (plan.edits.iter()).partition::<Vec<_>, _>(|e| matches!(e.change, Change::Whole(_)));
    let spliced = Plan {
        edits: edited.into_iter().cloned().collect(),
        left: plan.left.clone(),
    };
    print_plan(&s, &spliced)?;
    for edit in own {
        say!("{} is ours, and written whole", s.home.contract(&edit.path));
    }

    step(&mut n, "Applied: all files or none")?;
    let id = carry_out(&s, &plan)?;
    s.refresh();
    let rest = s.plan();
    say!(
        "number {id}: {} written; a second plan has {}",
        counted(plan.edits.len(), "file"),
        counted(rest.change_count(), "change")
    );
    let left = s.findings(&find_font(&s, None).report);
    for kind in [Kind::Drift, Kind::Depth, Kind::Contrast, Kind::Coverage] {
        let count =
            |f: &[wealdmist_core::finding::Finding]| f.iter().filter(|f| f.kind == kind).count();
        say!(
            "  {:<9} {} → {}",
            kind.key(),
            count(&findings),
            count(&left)
        );
    }

    step(&mut n, "Running programs of this home are told and asked")?;
    print_answers(&wealdmist_host::reload(&s, &[], Ask::OwnTerminalToo))?;

    step(&mut n, "What a bundle for sharing would hold")?;
    for part in bundle_parts(&s) {
        say!("  {:<32} {} bytes", part.path.display(), part.bytes.len());
    }

    step(&mut n, "Taken back")?;
    Journal::of(&s.home).undo(None)?;
    let after = picture(&s.home)?;
    let same = before == after;
    let differing: Vec<_> = before
        .iter()
        .filter(|(p, b)| after.get(*p) != Some(*b))
        .map(|(p, _)| p)
        .chain(after.keys().filter(|p| !before.contains_key(*p)))
        .collect();
    if !same {
        return Err(Failure::Other(format!(
            "undo left differences: {differing:?}"
        )));
    }
    say!("undo restored every byte of {} files", before.len());
    Ok(0)
}

/// Takes a ready design for bash, puts a part into it, and shows it where no colors are.
fn prompted(s: &mut Survey) -> Result<(), Failure> {
    let ready = ready::named("Mooring").map_or("", |r| r.toml);
    let mut doc = s.doc.with_prompt(ready)?;
    let mut design = doc.setup().prompt.clone();
    if let Some(time) = Part::named("time") {
        let at = design.put_in(0, time);
        design.to_other_side(at);
    }
    doc = doc.with_design(&design)?;
    s.doc = given_to(&doc, &[ToolId("bash")], true)?;
    s.save()?;
    let design = shown(s.doc.setup(), false);
    for at in Situation::all() {
        if ![
            "home",
            "conflict in a rebase",
            "failed command",
            "40 columns",
        ]
        .contains(&at.name)
        {
            continue;
        }
        let at = Situation {
            width: at.width.min(72),
            ..at
        };
        say!("  {}:", at.name);
        for row in draw(&design, true, &at) {
            let line: String = row.left.iter().map(|p| p.text.as_str()).collect();
            say!("    {}", line.trim_end());
        }
    }
    Ok(())
}

/// Repairs the palette and replaces the signs that the font lacks.
fn repaired(s: &mut Survey) -> Result<(), Failure> {
    s.learn_images();
    let conditions = s.own_conditions();
    let setup = s.doc.setup().clone();
    let pairs = s.pairs(&conditions);
    let background = Background::IfNeeded;
    let (done, wishes) = repair_of(
        &setup,
        &pairs,
        &conditions,
        &Scope::Palette,
        background,
        &[],
    );
    say!(
        "{} of {} pairs were below their target, {} are now",
        done.failing_before(&wishes),
        wishes.len(),
        done.outcomes.iter().filter(|o| !o.met).count()
    );
    for change in &done.changes {
        say!(
            "  {:<24} {} → {}",
            change.origin.to_string(),
            change.from,
            change.to
        );
    }
    s.doc = done.carried_out(&s.doc, &setup.active)?;
    let found = search(s);
    if let Some(chosen) = found.chosen() {
        let rows = judged(s, &found, &[]);
        let rows = rows
            .iter()
            .map(|(tool, used, judged)| (*tool, *used, judged));
        let (doc, list) = mended(&s.doc, chosen, rows)?;
        for (sign, text) in &list {
            say!("  {} → {}", code_points(sign), visible_with(text, false));
        }
        s.doc = doc;
    }
    s.save()?;
    Ok(())
}

/// Every file of the home but our own, with its bytes.
fn picture(home: &Home) -> Result<BTreeMap<PathBuf, Vec<u8>>, Failure> {
    let own = [home.state(), home.cache(), home.setup_path()];
    let mut out = BTreeMap::new();
    let mut open = vec![home.home().to_owned()];
    while let Some(folder) = open.pop() {
        for entry in fs::read_dir(&folder)? {
            let path = entry?.path();
            if own.contains(&path) {
                continue;
            }
            if path.is_dir() {
                open.push(path);
            } else {
                let read = wealdmist_host::read_regular(&path, wealdmist_tools::limits::FILE)?;
                let bytes = read.unwrap_or_default();
                out.insert(path, bytes);
            }
        }
    }
    Ok(out)
}
