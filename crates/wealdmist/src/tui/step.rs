//! Steps of the path.

/// A step of the path: what does not change about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Step {
    /// The word by which benches send one another there.
    pub name: &'static str,
    /// What it is called on the screen.
    pub label: &'static str,
    /// Which of the drawings shows what it is about.
    pub drawing: &'static str,
}
