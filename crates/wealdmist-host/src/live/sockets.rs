//! Where running programs listen.

use std::path::{Path, PathBuf};

use wealdmist_tools::{Access, Live};

use crate::platform::Process;
use crate::platform::files::{is_own_socket, user_number};
use crate::survey::Survey;

/// The sockets of this user in the places a program uses; with `told`, those too that it names to the
/// programs inside.
pub(super) fn sockets(live: &Live, survey: &Survey, told: bool) -> Vec<PathBuf> {
    let patterns = live.sockets.iter();
    let patterns = patterns.filter_map(|p| filled(p, |name| survey.home.env(name)));
    let mut out: Vec<PathBuf> = patterns
        .flat_map(|p| survey.home.glob(Path::new(&p)))
        .collect();
    if let Some(variable) = live.inside.filter(|_| told) {
        let named = |process: Process| {
            let value = process.environment().get(variable)?.clone();
            Some(PathBuf::from(value.split(',').next().unwrap_or_default()))
        };
        out.extend(Process::all().into_iter().filter_map(named));
    }
    out.retain(|p| is_own_socket(p));
    out.sort();
    out.dedup();
    out
}

/// A pattern with what stands for variables; `None` where one is needed and not set.
fn filled(pattern: &str, variable: impl Fn(&str) -> Option<String>) -> Option<String> {
    let mut out = String::new();
    let mut rest = pattern;
    while let Some((before, after)) = rest.split_once('{') {
        out.push_str(before);
        let (name, behind) = after.split_once('}')?;
        match name.split_once(':') {
            None => out.push_str(&user_number().to_string()),
            Some((name, otherwise)) => {
                let value = variable(name).filter(|v| !v.is_empty());
                let value = value.unwrap_or_else(|| otherwise.to_owned());
                out.push_str(Some(value).filter(|v| !v.is_empty())?.as_str());
            }
        }
        rest = behind;
    }
    out.push_str(rest);
    Some(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn variables_stand_in_for_places_or_their_usual_values() {
        let set = |name: &str| (name == "A").then(|| "/a".to_owned());
        assert_eq!(filled("{A:/tmp}/x*", set).as_deref(), Some("/a/x*"));
        assert_eq!(filled("{B:/tmp}/x*", set).as_deref(), Some("/tmp/x*"));
        assert_eq!(filled("{B:}/x*", set), None);
        let own = format!("/t-{}/*", user_number());
        assert_eq!(filled("/t-{uid}/*", set), Some(own));
    }
}
