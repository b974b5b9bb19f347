//! Letters and numbers as they are cut into a sheet: even strokes, cut corners, and bridges that hold what would fall out.

use glam::Vec2;

use super::shapes::bar;

/// Height of a letter in its own units, in which a stroke is 1 wide; letters are 4 wide.
pub const HEIGHT: f32 = 6.0;
/// From one letter to the next.
const STEP: f32 = 4.7;
/// Width of a bridge.
const BRIDGE: f32 = 0.42;

type Line = &'static [(f32, f32)];

/// The strokes of a letter by their middle lines, from (0, 0) to (3, 5); and where bridges cut upright through it: at x, between two heights.
fn letter(c: char) -> (&'static [Line], &'static [(f32, f32, f32)]) {
    const ROUND: Line =
        &[(0.9, 0.0), (0.0, 0.9), (0.0, 4.1), (0.9, 5.0), (2.1, 5.0), (3.0, 4.1), (3.0, 0.9), (2.1, 0.0), (0.9, 0.0)];
    const BOW: Line = &[(0.0, 5.0), (2.1, 5.0), (3.0, 4.2), (3.0, 3.1), (2.1, 2.3), (0.0, 2.3)];
    match c {
        'A' => (
            &[&[(0.0, 0.0), (0.0, 4.1), (0.9, 5.0), (2.1, 5.0), (3.0, 4.1), (3.0, 0.0)], &[(0.0, 2.1), (3.0, 2.1)]],
            &[(1.5, 3.5, 6.0)],
        ),
        'C' => (
            &[&[
                (3.0, 3.8),
                (3.0, 4.1),
                (2.1, 5.0),
                (0.9, 5.0),
                (0.0, 4.1),
                (0.0, 0.9),
                (0.9, 0.0),
                (2.1, 0.0),
                (3.0, 0.9),
                (3.0, 1.2),
            ]],
            &[],
        ),
        'D' => (
            &[&[(0.0, 0.0), (0.0, 5.0), (2.1, 5.0), (3.0, 4.1), (3.0, 0.9), (2.1, 0.0), (0.0, 0.0)]],
            &[(1.1, -1.0, 6.0)],
        ),
        'E' => (&[&[(3.0, 5.0), (0.0, 5.0), (0.0, 0.0), (3.0, 0.0)], &[(0.0, 2.5), (2.4, 2.5)]], &[]),
        'G' => (
            &[&[
                (3.0, 3.8),
                (3.0, 4.1),
                (2.1, 5.0),
                (0.9, 5.0),
                (0.0, 4.1),
                (0.0, 0.9),
                (0.9, 0.0),
                (2.1, 0.0),
                (3.0, 0.9),
                (3.0, 2.3),
                (1.8, 2.3),
            ]],
            &[],
        ),
        'I' => (&[&[(0.0, 0.0), (0.0, 5.0)]], &[]),
        'K' => (&[&[(0.0, 0.0), (0.0, 5.0)], &[(3.0, 5.0), (0.7, 2.5), (3.0, 0.0)]], &[]),
        'N' => (&[&[(0.0, 0.0), (0.0, 5.0), (3.0, 0.0), (3.0, 5.0)]], &[]),
        'O' | '0' => (&[ROUND], &[(1.5, -1.0, 6.0)]),
        'P' => (&[&[(0.0, 0.0), (0.0, 5.0)], BOW], &[(1.1, 1.5, 6.0)]),
        'R' => (&[&[(0.0, 0.0), (0.0, 5.0)], BOW, &[(1.5, 2.3), (3.0, 0.0)]], &[(1.1, 1.5, 6.0)]),
        'S' => (
            &[&[
                (3.0, 4.1),
                (2.1, 5.0),
                (0.9, 5.0),
                (0.0, 4.1),
                (0.0, 3.4),
                (0.9, 2.6),
                (2.1, 2.4),
                (3.0, 1.6),
                (3.0, 0.9),
                (2.1, 0.0),
                (0.9, 0.0),
                (0.0, 0.9),
            ]],
            &[],
        ),
        'T' => (&[&[(0.0, 5.0), (3.0, 5.0)], &[(1.5, 5.0), (1.5, 0.0)]], &[]),
        'W' => (&[&[(0.0, 5.0), (0.6, 0.0), (1.5, 2.6), (2.4, 0.0), (3.0, 5.0)]], &[]),
        '2' => (&[&[(0.0, 4.1), (0.9, 5.0), (2.1, 5.0), (3.0, 4.1), (3.0, 3.1), (0.0, 0.0), (3.0, 0.0)]], &[]),
        '4' => (&[&[(2.3, 0.0), (2.3, 5.0), (0.0, 1.5), (3.3, 1.5)]], &[(1.3, 0.0, 6.0)]),
        '7' => (&[&[(0.0, 5.0), (3.0, 5.0), (1.2, 0.0)]], &[]),
        '-' => (&[&[(0.5, 2.5), (2.5, 2.5)]], &[]),
        _ => (&[], &[]),
    }
}

/// How far the next letter begins after one.
fn advance(c: char) -> f32 {
    if c == 'I' { STEP - 3.0 } else { STEP }
}

/// How wide a text is, in units of a letter.
pub fn width(text: &str) -> f32 {
    text.chars().map(advance).sum::<f32>() - (STEP - 4.0)
}

/// The distance to a text that begins at the origin, in units of a letter.
pub fn text(p: Vec2, text: &str) -> f32 {
    let (mut d, mut x) = (f32::INFINITY, 0.5);
    for c in text.chars() {
        d = d.min(one(p - Vec2::new(x, 0.5), c));
        x += advance(c);
    }
    d
}

fn one(p: Vec2, c: char) -> f32 {
    // Far beside a letter its box says enough.
    let beside = (p.x - 1.5).abs() - 4.0;
    if beside > 0.0 {
        return beside + 1.5;
    }
    let (lines, bridges) = letter(c);
    let mut d = f32::INFINITY;
    for line in lines {
        for (i, pair) in line.windows(2).enumerate() {
            let at = |k: usize| line.get(k).map(|v| Vec2::new(v.0, v.1));
            let (a, b) = (Vec2::from(pair[0]), Vec2::from(pair[1]));
            // An end stands out by half a stroke, a corner as far as its outside goes; one sharper than a right angle is round.
            let corner = |other: Option<Vec2>, from: Vec2, way: Vec2| match other {
                None => 0.5,
                Some(other) => {
                    let cos = (from - other).normalize_or(way).dot(way);
                    if cos < 0.0 { 0.0 } else { 0.5 * ((1.0 - cos) / (1.0 + cos)).sqrt() }
                }
            };
            let closed = line.first() == line.last() && line.len() > 2;
            let before = if i > 0 {
                at(i - 1)
            } else if closed {
                at(line.len() - 2)
            } else {
                None
            };
            let after = at(i + 2).or(if closed { at(1) } else { None });
            let way = (b - a).normalize_or(Vec2::X);
            d = d.min(bar(p, a, b, 0.5, [corner(before, a, way), corner(after, b, -way)]));
            if after.is_some() {
                d = d.min(p.distance(b) - 0.5);
            }
        }
    }
    for (x, low, high) in bridges {
        let middle = Vec2::new(*x, 0.5 * (low + high));
        let away = (p - middle).abs() - Vec2::new(0.5 * BRIDGE, 0.5 * (high - low));
        d = d.max(-away.x.max(away.y));
    }
    d
}
