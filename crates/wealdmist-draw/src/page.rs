//! A sheet of paper: text and shapes in black and gray on white, with the samples in their own
//! colors. Four units are a millimetre, so that sizes are right in print.

use kurbo::{BezPath, Shape};
use svg::Document;
use svg::node::element::{Group, Line, Path, Polyline, Rectangle, Text, Title};
use wealdmist_core::Rgb;

/// Units in a millimetre.
const UNITS: f64 = 4.0;
/// The width of the paper, A4 upright, in units.
pub const WIDTH: f64 = 210.0 * UNITS;
/// The margin around everything, in units.
pub const MARGIN: f64 = 15.0 * UNITS;

/// Black of text.
pub const INK: Rgb = Rgb::from_u32(0x1b_2023);
/// Gray of what explains.
pub const QUIET: Rgb = Rgb::from_u32(0x5c_6468);
/// Gray of lines.
pub const RULE: Rgb = Rgb::from_u32(0xc9_ced0);
/// What is below its target.
pub const LOUD: Rgb = Rgb::from_u32(0xa8_2a22);

/// A page while it is drawn.
pub struct Page {
    title: String,
    shapes: Group,
    texts: Group,
    bottom: f64,
}

impl Page {
    /// A page with a heading and a line below it, in any fixed-pitch font: it has to be read, also
    /// where the setup's own font cannot be.
    pub fn new(title: &str, subtitle: &str) -> Self {
        let mut page = Self {
            title: title.to_owned(),
            shapes: Group::new(),
            texts: Group::new(),
            bottom: 0.0,
        };
        page.text(MARGIN, MARGIN + 8.0, 20.0, INK, title);
        page.text(MARGIN, MARGIN + 26.0, 10.5, QUIET, subtitle);
        page
    }

    /// Where the content begins, from the top.
    pub const fn top() -> f64 {
        MARGIN + 44.0
    }

    fn reach(&mut self, y: f64) {
        self.bottom = self.bottom.max(y);
    }

    /// Text whose baseline begins at a place.
    pub fn text(&mut self, x: f64, y: f64, size: f64, color: Rgb, text: &str) {
        self.anchored(x, y, size, color, text, "start");
    }

    /// Text that ends at a place.
    pub fn text_right(&mut self, x: f64, y: f64, size: f64, color: Rgb, text: &str) {
        self.anchored(x, y, size, color, text, "end");
    }

    /// Text whose middle is at a place.
    pub fn text_middle(&mut self, x: f64, y: f64, size: f64, color: Rgb, text: &str) {
        self.anchored(x, y, size, color, text, "middle");
    }

    fn anchored(&mut self, x: f64, y: f64, size: f64, color: Rgb, text: &str, anchor: &str) {
        self.reach(y + size * 0.4);
        let shown: String = text.chars().filter(|c| !c.is_control()).collect();
        let node = Text::new(shown)
            .set("x", round(x))
            .set("y", round(y))
            .set("font-size", size)
            .set("text-anchor", anchor)
            .set("fill", color.to_string());
        self.texts = std::mem::take(&mut self.texts).add(node);
    }

    /// A filled rectangle with a thin edge, so that a color like the paper's is seen.
    pub fn swatch(&mut self, (x, y, w, h): (f64, f64, f64, f64), color: Rgb) {
        self.reach(y + h);
        let node = Rectangle::new()
            .set("x", round(x))
            .set("y", round(y))
            .set("width", round(w))
            .set("height", round(h))
            .set("fill", color.to_string())
            .set("stroke", RULE.to_string())
            .set("stroke-width", 0.6);
        self.shapes = std::mem::take(&mut self.shapes).add(node);
    }

    /// A line.
    pub fn line(&mut self, from: (f64, f64), to: (f64, f64), color: Rgb, width: f64) {
        self.reach(from.1.max(to.1));
        let node = Line::new()
            .set("x1", round(from.0))
            .set("y1", round(from.1))
            .set("x2", round(to.0))
            .set("y2", round(to.1))
            .set("stroke", color.to_string())
            .set("stroke-width", width);
        self.shapes = std::mem::take(&mut self.shapes).add(node);
    }

    /// A filled outline.
    pub fn outline(&mut self, path: &BezPath, color: Rgb) {
        if path.elements().is_empty() {
            return;
        }
        self.reach(path.bounding_box().y1);
        let node = Path::new()
            .set("d", path.to_svg())
            .set("fill", color.to_string());
        self.shapes = std::mem::take(&mut self.shapes).add(node);
    }

    /// An outline drawn as a line.
    pub fn outlined(&mut self, path: &BezPath, color: Rgb, width: f64) {
        if path.elements().is_empty() {
            return;
        }
        self.reach(path.bounding_box().y1);
        let node = Path::new()
            .set("d", path.to_svg())
            .set("fill", "none")
            .set("stroke", color.to_string())
            .set("stroke-width", width);
        self.shapes = std::mem::take(&mut self.shapes).add(node);
    }

    /// A line through many points.
    pub fn curve(&mut self, points: &[(f64, f64)], color: Rgb, width: f64) {
        let text: Vec<String> = points
            .iter()
            .map(|(x, y)| format!("{},{}", round(*x), round(*y)))
            .collect();
        let node = Polyline::new()
            .set("points", text.join(" "))
            .set("fill", "none")
            .set("stroke", color.to_string())
            .set("stroke-width", width)
            .set("stroke-linejoin", "round");
        self.shapes = std::mem::take(&mut self.shapes).add(node);
    }

    /// The document. It is at least as high as a sheet of A4.
    pub fn finish(self) -> String {
        let height = (self.bottom + MARGIN).max(297.0 * UNITS);
        let paper = Rectangle::new()
            .set("width", WIDTH)
            .set("height", round(height))
            .set("fill", "#ffffff");
        let document = Document::new()
            .set("viewBox", format!("0 0 {WIDTH} {}", round(height)))
            .set("width", format!("{}mm", WIDTH / UNITS))
            .set("height", format!("{}mm", round(height / UNITS)))
            .add(Title::new(self.title))
            .add(paper)
            .add(self.shapes)
            .add(self.texts.set("font-family", fonts(None)));
        format!("{document}\n")
    }
}

/// A list of fonts that ends in any fixed-pitch one.
pub fn fonts(family: Option<&str>) -> String {
    match family {
        Some(name) => format!("'{}', monospace", name.replace(['\'', '"'], "")),
        None => "monospace".to_owned(),
    }
}

/// Text in at most so many characters, with a sign where it was cut.
pub fn cut(text: &str, most: usize) -> String {
    if text.chars().count() <= most {
        return text.to_owned();
    }
    let kept: String = text.chars().take(most.saturating_sub(1)).collect();
    format!("{kept}…")
}

fn round(v: f64) -> f64 {
    (v * 100.0).round() / 100.0
}
