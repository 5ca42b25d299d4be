//! The color names of the X Window System, which most programs of a terminal know.

use std::sync::OnceLock;

use super::Rgb;

/// Name and color in lower case, sorted by the name: `data/x11.tsv`.
fn table() -> &'static [(&'static str, Rgb)] {
    static TABLE: OnceLock<Vec<(&str, Rgb)>> = OnceLock::new();
    TABLE.get_or_init(|| {
        let lines = include_str!("../../data/x11.tsv").lines();
        let lines = lines.filter(|l| !l.starts_with('#'));
        let of = |line: &'static str| {
            let (name, color) = line.split_once('\t')?;
            Some((name, Rgb::from_hex(color)?))
        };
        lines.filter_map(of).collect()
    })
}

/// The color of a name in X.Org's `rgb.txt`, in any case: `SlateBlue`, `slate blue`, `grey50`.
#[must_use]
pub fn x11_color(name: &str) -> Option<Rgb> {
    // The longest has 22 letters.
    if name.len() > 22 {
        return None;
    }
    let name = name.to_ascii_lowercase();
    let table = table();
    let found = table.binary_search_by(|(known, _)| (*known).cmp(&name));
    found.ok().map(|at| table[at].1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_line_is_found_by_its_name() {
        let lines = include_str!("../../data/x11.tsv").lines();
        assert_eq!(table().len(), lines.filter(|l| !l.starts_with('#')).count());
        for (name, color) in table() {
            assert_eq!(x11_color(&name.to_uppercase()), Some(*color), "{name}");
        }
        assert_eq!(x11_color("DarkSlateGray4"), Some(Rgb::new(82, 139, 139)));
        for none in ["", "grey101", "crimson", "slate  blue", "#123456"] {
            assert_eq!(x11_color(none), None, "{none}");
        }
    }
}
