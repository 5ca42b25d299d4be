//! Drawings of glyphs, large and in the sheet, each made once, from the face that it will be drawn from.

use std::collections::BTreeMap;
use std::path::PathBuf;

use wealdmist_core::font::raster::{Grid, Raster, glyph};
use wealdmist_core::font::{ChosenFont, HostFont, Typeface};
use wealdmist_host::FontSearch;

/// How large a glyph is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Size {
    /// By itself.
    Large,
    /// Among others.
    Small,
}

impl Size {
    /// In pixels of its cell's width.
    pub const fn width(self) -> f32 {
        match self {
            Self::Large => 18.0,
            Self::Small => 8.0,
        }
    }

    /// Room beside the cell, in cells, so that ink outside it is seen.
    pub const fn margin(self) -> f32 {
        match self {
            Self::Large => MARGIN,
            Self::Small => 0.25,
        }
    }
}

/// Room beside the cell of a glyph drawn by itself, in cells.
pub const MARGIN: f32 = 0.6;
/// How many faces are held: font files can be large.
const MOST_FACES: usize = 8;
/// How many drawings are held.
const MOST: usize = 400;

/// A face that glyphs are drawn from.
#[derive(Debug)]
enum Face {
    /// Being read.
    Asked,
    /// Read.
    Open(Box<Typeface>),
    /// It cannot be read.
    Unusable,
}

/// The drawings and the faces they are made of.
#[derive(Debug, Default)]
pub struct Large {
    /// By file and number.
    faces: BTreeMap<(PathBuf, u32), Face>,
    drawn: BTreeMap<(char, Size), Option<Raster>>,
    /// The fonts they are of.
    of: Option<String>,
}

impl Large {
    /// A drawing, where there is one.
    pub fn get(&self, c: char, size: Size) -> Option<&Raster> {
        self.drawn.get(&(c, size))?.as_ref()
    }

    /// A face was read, or could not be.
    pub fn opened(&mut self, key: &(PathBuf, u32), face: Option<Box<Typeface>>) {
        // Another font may have been chosen meanwhile.
        if let Some(held) = self.faces.get_mut(key) {
            *held = face.map_or(Face::Unusable, Face::Open);
        }
    }

    /// Makes the drawings wanted, as far as their faces have been read; which have to be.
    pub fn draw(
        &mut self,
        found: &FontSearch,
        (chosen, host): (&ChosenFont, &HostFont),
        wanted: &[(char, Size)],
    ) -> Vec<(PathBuf, u32)> {
        let of = Some(format!(
            "{:p} {:?} {:?}",
            found.catalog, chosen.path, host.host
        ));
        if self.of != of {
            *self = Self {
                of,
                ..Self::default()
            };
        }
        let mut read = Vec::new();
        for (c, size) in wanted.iter().copied() {
            if self.drawn.contains_key(&(c, size)) {
                continue;
            }
            // What the terminal draws itself is shown as the font would have it.
            let own = || (chosen.path.clone(), chosen.info.index);
            let key = host.source(chosen, c).unwrap_or_else(own);
            let drawn = match self.faces.get(&key) {
                Some(Face::Asked) => continue,
                Some(Face::Unusable) => None,
                Some(Face::Open(face)) => {
                    let grid = Grid::of_width(&face.cell(), size.width());
                    glyph(face, c, &grid, size.margin())
                }
                None => {
                    if self.faces.len() >= MOST_FACES {
                        self.faces.clear();
                    }
                    self.faces.insert(key.clone(), Face::Asked);
                    read.push(key);
                    continue;
                }
            };
            if self.drawn.len() > MOST {
                self.drawn.clear();
            }
            self.drawn.insert((c, size), drawn);
        }
        read
    }
}
