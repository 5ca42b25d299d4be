//! What a program says when it is asked what its dotfiles come to, held against what was read of them.

use std::collections::HashMap;

use crate::reading::{Asked, FileProblem, Place, Reading, Standing, ToolReport, Value};
use crate::role::Group;

/// A part of a setting: its name, and the job its value does. A job that is one tool's own may be numbered
/// otherwise there.
type Part = (String, String);

fn part(reading: &Reading) -> Part {
    let role = reading.role.as_str();
    let role = match role.split_once(".own-") {
        Some((_, rest)) => format!("own {}", rest.rsplit('.').next().unwrap_or(rest)),
        None => role.to_owned(),
    };
    (reading.key.clone(), role)
}

/// The one value of each part that counts.
fn values(report: &ToolReport) -> HashMap<Part, &Value> {
    let mut out = HashMap::new();
    let mut several = Vec::new();
    for reading in report.readings.iter().filter(|r| r.effective) {
        let known = out.insert(part(reading), &reading.value);
        if known.is_some_and(|known| *known != reading.value) {
            several.push(part(reading));
        }
    }
    out.retain(|part, _| !several.contains(part));
    out
}

/// Takes the program's answer for what was read: `answer` is all that it says of the person's dotfiles, `changed`
/// what of that stands in lines it does not say without them, `alone` what it says then. What was conditional or not readable is certain then, what was read otherwise
/// counts as the program says it and cannot be edited, and each difference is told.
pub fn settle(
    report: &mut ToolReport,
    answer: &ToolReport,
    changed: &ToolReport,
    alone: &ToolReport,
) {
    let by_itself = values(alone);
    let theirs = values(answer);
    let mut ours: HashMap<Part, Vec<usize>> = HashMap::new();
    for (i, reading) in report.readings.iter().enumerate() {
        if reading.effective {
            ours.entry(part(reading)).or_default().push(i);
        }
    }
    // What was known to be not known.
    let is_open = |r: &Reading| matches!(r.standing, Standing::Unread(_));
    let open = report
        .readings
        .iter()
        .filter(|r| r.effective && !r.is_sure());
    let open: HashMap<String, _> = open
        .map(|r| (r.key.clone(), (r.place.clone(), r.chain.clone())))
        .collect();
    let main = report.files.first().map(|f| f.path.clone());
    let mut told: Vec<(Place, String)> = Vec::new();
    for (part, all) in &ours {
        let Some(value) = theirs.get(part) else {
            continue;
        };
        let holds = (all.iter()).find(|i| report.readings[**i].value == **value);
        // Nothing of what it may be: it is what the program has without all of these.
        let is_maybe = |i: &usize| matches!(report.readings[*i].standing, Standing::Conditional(_));
        if holds.is_none() && all.iter().all(is_maybe) {
            continue;
        }
        let kept = holds.or_else(|| all.first()).copied();
        for i in all {
            report.readings[*i].effective = Some(*i) == kept;
        }
        let Some(reading) = kept.map(|i| &mut report.readings[i]) else {
            continue;
        };
        let was = std::mem::replace(&mut reading.value, (*value).clone());
        let was_open = is_open(reading);
        if !reading.is_default() {
            reading.standing = Standing::Certain;
        }
        if was == reading.value || was_open {
            reading.editable &= was == reading.value;
            reading.asked = Some(Asked::Same);
            continue;
        }
        reading.editable = false;
        reading.standing = Standing::Certain;
        let said = format!(
            "{} was read as {was} for {}, and {} says {value}: that counts",
            reading.key,
            reading.role.label(),
            report.tool
        );
        told.push((reading.place.clone(), said));
        reading.asked = Some(Asked::ReadAs(was));
    }
    // What the files come to, and nothing that was read says.
    let mut others = 0;
    let Some(main) = main else { return };
    for reading in changed
        .readings
        .iter()
        .filter(|r| r.effective && r.editable)
    {
        let part = part(reading);
        // Nothing said, and nothing shown.
        if reading.value == Value::Default {
            continue;
        }
        if ours.contains_key(&part) || theirs.get(&part) != Some(&&reading.value) {
            continue;
        }
        // Read of the same setting, for a job of another name.
        let same = |r: &Reading| r.effective && r.key == reading.key && r.value == reading.value;
        if report.readings.iter().any(same) {
            continue;
        }
        if let Some((place, chain)) = open.get(&reading.key) {
            report.readings.push(Reading {
                place: place.clone(),
                chain: chain.clone(),
                editable: false,
                standing: Standing::Certain,
                asked: Some(Asked::Same),
                ..reading.clone()
            });
            continue;
        }
        // A line is half the dotfiles', the other what the program has by itself.
        if by_itself.get(&part) == Some(&&reading.value) {
            if reading.role.group() != Group::Other {
                report.readings.push(Reading {
                    place: Place::nowhere_in(&main),
                    chain: Vec::new(),
                    editable: false,
                    standing: Standing::Default,
                    asked: Some(Asked::Same),
                    ..reading.clone()
                });
            }
            continue;
        }
        // What only this tool has is counted: plugins bring hundreds of it.
        if reading.role.group() == Group::Other {
            others += 1;
            continue;
        }
        let place = Place::nowhere_in(&main);
        let said = format!(
            "{} says {} is {} for {}, which was read nowhere",
            report.tool,
            reading.key,
            reading.value,
            reading.role.label()
        );
        told.push((place.clone(), said));
        report.readings.push(Reading {
            place,
            chain: Vec::new(),
            editable: false,
            standing: Standing::Certain,
            asked: Some(Asked::NotRead),
            ..reading.clone()
        });
    }
    if others > 0 {
        let said = format!(
            "{others} values that only {} has were read nowhere",
            report.tool
        );
        told.push((Place::nowhere_in(&main), said));
    }
    told.sort_by(|a, b| (a.0.at.line, &a.1).cmp(&(b.0.at.line, &b.1)));
    for (place, message) in told {
        report.problems.push(FileProblem {
            path: place.path.to_path_buf(),
            at: place.is_written().then_some(place.at),
            message,
            help: "change it by hand; it is not edited".to_owned(),
            blocks_edits: false,
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Rgb;
    use crate::reading::{SourceFile, ToolId};

    fn color(n: u32) -> Value {
        Value::Color(Rgb::from_u32(n))
    }

    fn report(readings: Vec<Reading>) -> ToolReport {
        let mut report = ToolReport::new(ToolId("t"));
        report.files.push(SourceFile {
            path: "/f".into(),
            target: "/f".into(),
            bytes: b"x\n".to_vec().into(),
            included_from: None,
            lines: Default::default(),
        });
        report.readings = readings;
        report
    }

    #[test]
    fn the_answer_counts_and_differences_are_told() {
        let maybe = |n, why: &str| Reading {
            standing: Standing::Conditional(why.into()),
            ..Reading::of("comment", color(n), 2)
        };
        let mut ours = report(vec![
            Reading::of("foreground", color(1), 1),
            maybe(2, "x"),
            maybe(3, "not x"),
            Reading::of("string", color(4), 3),
        ]);
        let answer = report(vec![
            Reading::of("foreground", color(1), 1),
            Reading::of("comment", color(3), 1),
            Reading::of("string", color(5), 1),
            Reading::of("number", color(6), 1),
            Reading::of("type", color(7), 1),
        ]);
        let changed = report(vec![
            Reading::of("number", color(6), 1),
            Reading::of("type", color(7), 1),
        ]);
        // The program has this one without the dotfiles, too.
        let alone = report(vec![
            Reading::of("number", color(1), 1),
            Reading::of("type", color(7), 1),
        ]);
        settle(&mut ours, &answer, &changed, &alone);
        let by_itself = ours.readings.iter().find(|r| r.role.as_str() == "type");
        let by_itself = by_itself.map(|r| (r.is_default(), r.asked.clone()));
        assert_eq!(by_itself, Some((true, Some(Asked::Same))));
        let value = |role: &'static str| {
            let of = |r: &&Reading| r.effective && r.role.as_str() == role;
            let found: Vec<&Reading> = ours.readings.iter().filter(of).collect();
            assert!(found.len() < 2);
            found
                .first()
                .map(|r| (r.value.clone(), r.asked.clone(), r.editable))
        };
        assert_eq!(
            value("foreground"),
            Some((color(1), Some(Asked::Same), true))
        );
        assert_eq!(value("comment"), Some((color(3), Some(Asked::Same), true)));
        let read_as = Some(Asked::ReadAs(color(4)));
        assert_eq!(value("string"), Some((color(5), read_as, false)));
        assert_eq!(
            value("number"),
            Some((color(6), Some(Asked::NotRead), false))
        );
        assert_eq!(value("type"), Some((color(7), Some(Asked::Same), false)));
        let told: Vec<_> = ours.problems.iter().map(|p| p.at.map(|a| a.line)).collect();
        assert_eq!(told, [None, Some(3)]);
    }
}
