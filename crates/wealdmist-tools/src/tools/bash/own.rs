//! A prompt of the person's own: the colors of `PS1`.

use wealdmist_core::property::Property;
use wealdmist_core::reading::{Reading, ToolReport, Value};
use wealdmist_core::role::RoleId;

use crate::document::sgr::{self, Layer, SgrUse, value_of};
use crate::sourced::{OwnPrompt, Stretch};

/// Reads the colors of a prompt.
pub fn prompt(own: &OwnPrompt<'_>, report: &mut ToolReport, stretches: &mut Vec<Stretch>) {
    let (bytes, value) = (own.bytes(), 0..own.bytes().len());
    let theme = Value::Text("PS1 of its own".to_owned());
    let role = RoleId::from(Property::Theme);
    // What nobody wrote is the shell's own.
    let Some(mut r) = own.reading(role, "PS1", theme, 0..0) else {
        return;
    };
    r.editable = false;
    report.readings.push(r);
    let uses = sgr::colors_of(bytes, value.clone(), &sgr::IN_PROMPT);
    // The colors in force: the uses that set them.
    let (mut text, mut ground): (Option<&SgrUse>, Option<&SgrUse>) = (None, None);
    let mut segments = 0;
    for (n, found) in uses.iter().enumerate() {
        match found.layer {
            Layer::Text => text = Some(found).filter(|u| u.color.is_some()),
            Layer::Ground => ground = Some(found).filter(|u| u.color.is_some()),
        }
        let next = uses.get(n + 1);
        // Escapes that follow one another at once color the same stretch.
        let end = next.map_or(value.end, |next| next.span.start);
        if next.is_some_and(|next| next.end == found.end) || found.end >= end {
            continue;
        }
        let colored = String::from_utf8_lossy(&bytes[found.end..end]).into_owned();
        if next.is_some() && is_only_escape(&colored) {
            continue;
        }
        let job = role_of(&colored);
        if job.is_none() && ground.is_none() {
            continue;
        }
        segments += usize::from(ground.is_some());
        let text_role = job.unwrap_or_else(|| RoleId::new(format!("prompt.{segments}.text")));
        let joins = text_role.as_str().ends_with(".text");
        let mut add = |found: Option<&SgrUse>, role: RoleId| {
            let (found, color) = found.and_then(|f| Some((f, value_of(f.color?)?)))?;
            let reading = own.reading(role, "PS1", color, found.span.clone())?;
            let readings = &mut report.readings;
            // One escape may color several stretches; it is one reading.
            let same = |r: &Reading| {
                !reading.place.span.is_empty()
                    && r.place == reading.place
                    && r.value == reading.value
                    && r.standing == reading.standing
            };
            if let Some(i) = readings.iter().position(same) {
                return Some(i);
            }
            readings.push(reading);
            Some(readings.len() - 1)
        };
        let text = add(text, text_role);
        let ground = add(ground, RoleId::new(format!("prompt.{segments}.ground")));
        stretches.push(Stretch {
            text,
            ground,
            joins,
        });
    }
}

/// Whether nothing is drawn: the end of one escape and the beginning of another.
fn is_only_escape(text: &str) -> bool {
    let mut rest = text.replace("\\[", "").replace("\\]", "");
    for introducer in sgr::INTRODUCERS {
        rest = rest.replace(&*String::from_utf8_lossy(introducer), "");
    }
    rest.is_empty()
}

/// The job of a stretch of `PS1`, by the first escape in it that says one.
fn role_of(colored: &str) -> Option<RoleId> {
    const JOBS: [(&str, &str); 7] = [
        ("\\u", "prompt.user"),
        ("\\h", "prompt.host"),
        ("\\H", "prompt.host"),
        ("\\w", "prompt.folder"),
        ("\\W", "prompt.folder"),
        ("git", "prompt.branch"),
        ("\\$", "prompt.sign"),
    ];
    let found = JOBS
        .iter()
        .filter_map(|(mark, role)| Some((colored.find(mark)?, *role)));
    found
        .min_by_key(|(at, _)| *at)
        .map(|(_, role)| RoleId::known(role))
}
