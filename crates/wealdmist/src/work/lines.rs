//! Command lines that do what the interface does, as a person would type them.

use std::path::Path;

use wealdmist_core::color::{Depth, Vision};
use wealdmist_core::condition::Conditions;

/// A word as a shell takes it: in quotes where it needs them.
pub fn word(text: &str) -> String {
    let plain = |c: char| c.is_ascii_alphanumeric() || "-_./~:@%+=,".contains(c);
    match !text.is_empty() && text.chars().all(plain) {
        true => text.to_owned(),
        false => format!("'{}'", text.replace('\'', "'\\''")),
    }
}

/// The options that see through conditions, each with a blank before it; `behind` is the image that they
/// look through.
pub fn seen(conditions: &Conditions, behind: Option<&Path>) -> String {
    let mut out = String::new();
    if conditions.opacity < 1.0 {
        out.push_str(&format!(" --opacity {:.2}", conditions.opacity));
        if let Some(path) = behind {
            out.push_str(&format!(" --wallpaper {}", word(&path.to_string_lossy())));
        }
    }
    if let Some(left) = conditions.dimmed {
        out.push_str(&format!(" --dimmed {left}"));
    }
    match conditions.depth {
        Depth::TrueColor => {}
        Depth::Indexed256 => out.push_str(" --depth 256"),
        Depth::Ansi16 => out.push_str(" --depth 16"),
        Depth::None => out.push_str(" --depth none"),
    }
    let (kind, severity) = match conditions.vision {
        Vision::Full => return out,
        Vision::Protan(s) => ("protan", s),
        Vision::Deutan(s) => ("deutan", s),
        Vision::Tritan(s) => ("tritan", s),
        Vision::Gray => ("gray", 1.0),
    };
    out.push_str(&format!(" --vision {kind}"));
    if severity < 1.0 {
        out.push_str(&format!(" --severity {:.0}", severity * 100.0));
    }
    out
}
