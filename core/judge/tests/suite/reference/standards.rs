//! Figures of standards, read from their own file: the reference shares no table with the core.

use std::sync::LazyLock;

/// The figures behind a name in `core/testing/standards.txt`, in their order.
fn line(name: &str) -> &'static str {
    static TEXT: LazyLock<String> = LazyLock::new(|| orthavis_testing::file("standards.txt"));
    let found = TEXT.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(':'));
    found.unwrap_or_else(|| panic!("standards.txt has no {name}"))
}

fn figures(text: &str) -> Vec<f64> {
    text.split_whitespace().map(|word| word.parse().unwrap_or_else(|_| panic!("`{word}` is not a figure"))).collect()
}

fn pairs(name: &str) -> Vec<(f64, f64)> {
    let each = line(name).split('·').map(figures);
    each.map(|pair| if let [one, other] = pair[..] { (one, other) } else { panic!("{name}: {pair:?}") }).collect()
}

/// Wire gauge numbers and what they carry, A, thinnest first.
pub fn ampacity() -> &'static [(f64, f64)] {
    static ALL: LazyLock<Vec<(f64, f64)>> = LazyLock::new(|| pairs("ampacity"));
    &ALL
}

/// The share that each of so many loaded circuits in a bundle still carries.
pub fn bundled(circuits: f64) -> f64 {
    static ALL: LazyLock<Vec<(f64, f64)>> = LazyLock::new(|| pairs("bundle"));
    ALL.iter().find(|(most, _)| circuits <= *most).or(ALL.last()).map_or(1.0, |(_, share)| *share)
}

/// Ratings of a style of fuse, A. `R10 a b` stands for the preferred numbers of ISO 3 between both: tenths of a decade,
/// rounded as the standard rounds them.
pub fn ratings(style: &str) -> Vec<f64> {
    let text = line(if style == "blade_58v" { "blade" } else { style }).trim();
    let Some(span) = text.strip_prefix("R10") else { return figures(text) };
    let ends = figures(span);
    let decade = [1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0];
    for (step, rounded) in decade.iter().enumerate() {
        let exact = 10f64.powf(step as f64 / 10.0);
        assert!((rounded / exact - 1.0).abs() < 0.013, "{rounded} is not a preferred number");
    }
    let all = (-2..3).flat_map(|power| decade.map(|one| one * 10f64.powi(power)));
    all.map(|one| (one * 1e6).round() / 1e6).filter(|one| ends[0] <= *one && *one <= ends[1]).collect()
}

/// What a style of fuse withstands, V, and the current that it interrupts, A.
pub fn stands(style: &str) -> (f64, f64) {
    let both = figures(line(&format!("stands {style}")));
    (both[0], both[1])
}
