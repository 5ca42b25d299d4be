//! Chance that can be repeated: a number begins it, and the number is said where a test fails.

/// A generator of random numbers (SplitMix64).
pub struct Dice(u64);

impl Dice {
    pub fn new(seed: u64) -> Self {
        Self(seed)
    }

    pub fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// A number below `n`.
    pub fn below(&mut self, n: usize) -> usize {
        (self.next() % n as u64) as usize
    }

    /// Whether something happens that happens so many times out of a hundred.
    pub fn percent(&mut self, of: usize) -> bool {
        self.below(100) < of
    }

    /// Up to so many lines, each made by a function that is told how deep it is.
    pub fn lines(
        &mut self,
        most: usize,
        depth: usize,
        one: fn(&mut Self, usize) -> String,
    ) -> String {
        let count = 1 + self.below(most);
        let all: Vec<String> = (0..count).map(|_| one(self, depth)).collect();
        all.join("\n")
    }

    pub fn pick<'a, T: ?Sized>(&mut self, all: &[&'a T]) -> &'a T {
        all[self.below(all.len())]
    }
}

/// The number that begins a run, and how many configurations it makes: `WEALDMIST_SEED` and
/// `WEALDMIST_ROUNDS`, else what the test says.
pub fn run(rounds: usize) -> (u64, usize) {
    let number = |name: &str| std::env::var(name).ok().and_then(|v| v.parse::<u64>().ok());
    let seed = number("WEALDMIST_SEED").unwrap_or(20_261_128);
    let rounds = number("WEALDMIST_ROUNDS").map_or(rounds, |n| n as usize);
    (seed, rounds)
}

/// Says what differed, the first few of it with the whole configuration.
pub fn judge(program: &str, seed: u64, rounds: usize, wrong: &[String], compared: usize) {
    eprintln!("{program}: {compared} values of {rounds} configurations compared, seed {seed}");
    assert!(
        wrong.is_empty(),
        "{} of {compared} values of {program} are read wrong (seed {seed}):\n{}",
        wrong.len(),
        told(wrong)
    );
    assert!(
        compared > rounds,
        "{program} says next to nothing: {compared}"
    );
}

/// The first of each of a few configurations whole, of the others the first line.
fn told(wrong: &[String]) -> String {
    let head = |w: &str| w.lines().next().unwrap_or_default().to_owned();
    let number = |w: &str| w.split(':').next().unwrap_or_default().to_owned();
    let (mut out, mut seen) = (Vec::new(), Vec::new());
    for one in wrong.iter().take(200) {
        let number = number(one);
        let first = !seen.contains(&number);
        match first && seen.len() < 40 {
            true => out.push(one.clone()),
            false => out.push(head(one)),
        }
        if first {
            seen.push(number);
        }
    }
    out.join("\n")
}
