//! Writes the fonts that the program carries.

#![allow(clippy::disallowed_methods)]

use std::path::Path;

fn main() -> std::io::Result<()> {
    let core = Path::new(env!("CARGO_MANIFEST_DIR")).join("../wealdmist-core");
    std::fs::write(core.join("src/demo/fonts.zlib"), wealdmist_fonts::packed())
}
