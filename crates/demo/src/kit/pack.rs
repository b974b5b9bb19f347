//! Packing flat charts into the unit square at one scale: each falls onto those below it, where it leaves least room between, as Lévy, Petitjean, Ray and Maillot do
//! ("Least squares conformal maps", 2002, 4.3), turned by quarters of a turn as it fits best.

use glam::Vec2;

use super::Chart;

/// Room between charts and around the square, as a share of its side: six texels at 1024.
const GAP: f32 = 6.0 / 1024.0;
/// Columns of the square.
const COLUMNS: usize = 512;
/// How often the scale is halved towards the largest that fits.
const HALVINGS: usize = 7;

/// UVs per chart, v down.
pub fn pack(charts: &mut [Chart]) -> Vec<Vec<Vec2>> {
    for c in charts.iter_mut() {
        let (low, high) = bounds(&c.flat);
        let size = high - low;
        // Tall ones stand beside each other.
        let stand = c.upright || size.x > size.y;
        for p in &mut c.flat {
            *p -= low;
            if stand {
                *p = Vec2::new(size.y - p.y, p.x);
            }
        }
    }
    let sizes: Vec<Vec2> = charts.iter().map(|c| bounds(&c.flat).1).collect();
    let mut order: Vec<usize> = (0..charts.len()).collect();
    order.sort_by(|a, b| sizes[*b].y.total_cmp(&sizes[*a].y).then(a.cmp(b)));
    let borders: Vec<_> = charts.iter().map(border).collect();
    let area: f32 = charts.iter().map(area).sum();
    // Nothing fits that is larger than the square itself.
    let (mut low, mut high) = (0.2 / area.sqrt(), 1.0 / area.sqrt());
    let mut best = fall(charts, &borders, &sizes, &order, low).expect("a fifth of the side is room enough");
    for _ in 0..HALVINGS {
        let middle = (low + high) / 2.0;
        match fall(charts, &borders, &sizes, &order, middle) {
            Some(found) => (best, low) = (found, middle),
            None => high = middle,
        }
    }
    charts
        .iter()
        .zip(best)
        .map(|(c, (turn, at))| {
            let (_, size) = bounds(&c.flat);
            c.flat.iter().map(|p| at + turned(*p, size, turn) * low).map(|p| Vec2::new(p.x, 1.0 - p.y)).collect()
        })
        .collect()
}

fn bounds(points: &[Vec2]) -> (Vec2, Vec2) {
    points.iter().fold((Vec2::MAX, Vec2::MIN), |(a, b), p| (a.min(*p), b.max(*p)))
}

fn area(c: &Chart) -> f32 {
    let half = |t: &[u32; 3]| {
        let [a, b, d] = t.map(|v| c.flat[v as usize]);
        (b - a).perp_dot(d - a).abs() * 0.5
    };
    c.triangles.iter().map(half).sum()
}

/// A point of a chart of that size that is turned by so many quarters, from its new lower left corner.
fn turned(p: Vec2, size: Vec2, quarters: u8) -> Vec2 {
    match quarters {
        0 => p,
        1 => Vec2::new(size.y - p.y, p.x),
        2 => size - p,
        _ => Vec2::new(p.y, size.x - p.x),
    }
}

/// The sides of a chart's triangles that no two share.
fn border(c: &Chart) -> Vec<[Vec2; 2]> {
    let mut sides: Vec<[u32; 2]> = c
        .triangles
        .iter()
        .flat_map(|t| (0..3).map(|k| [t[k], t[(k + 1) % 3]]))
        .map(|[a, b]| [a.min(b), a.max(b)])
        .collect();
    sides.sort_unstable();
    sides.chunk_by(|a, b| a == b).filter(|s| s.len() == 1).map(|s| s[0].map(|v| c.flat[v as usize])).collect()
}

/// The lower and upper edge of a turned and scaled chart in each column it touches, the gap included.
fn profile(border: &[[Vec2; 2]], size: Vec2, turn: u8, scale: f32) -> (Vec<f32>, Vec<f32>) {
    let width = if turn.is_multiple_of(2) { size.x } else { size.y } * scale + GAP;
    let columns = (width * COLUMNS as f32).ceil().max(1.0) as usize;
    let (mut low, mut high) = (vec![f32::MAX; columns], vec![f32::MIN; columns]);
    for side in border {
        let [a, b] = side.map(|p| turned(p, size, turn) * scale);
        let (a, b) = if a.x <= b.x { (a, b) } else { (b, a) };
        // Each side reaches a gap beyond its ends, so that what stands beside it is as far off as what lies on it.
        let column = |x: f32| ((x.max(0.0) * COLUMNS as f32) as usize).min(columns - 1);
        for (c, (l, h)) in low.iter_mut().zip(&mut high).enumerate().take(column(b.x + GAP) + 1).skip(column(a.x)) {
            let at = |x: f32| {
                let along = ((x - a.x) / (b.x - a.x).max(1e-9)).clamp(0.0, 1.0);
                a.y + (b.y - a.y) * along
            };
            let (from, to) = (at(c as f32 / COLUMNS as f32 - GAP), at((c + 1) as f32 / COLUMNS as f32));
            *l = l.min(from.min(to));
            *h = h.max(from.max(to) + GAP);
        }
    }
    (low, high)
}

/// Turn and place of each chart at that scale, if all fit.
fn fall(
    charts: &[Chart],
    borders: &[Vec<[Vec2; 2]>],
    sizes: &[Vec2],
    order: &[usize],
    scale: f32,
) -> Option<Vec<(u8, Vec2)>> {
    let mut out = vec![(0, Vec2::ZERO); borders.len()];
    // How high each column is filled.
    let mut floor = vec![GAP; COLUMNS];
    let first = (GAP * COLUMNS as f32).ceil() as usize;
    for &i in order {
        let mut best: Option<(f32, u8, usize, f32, Vec<f32>)> = None;
        for turn in (0..4).step_by(if charts[i].upright { 2 } else { 1 }) {
            let (low, high) = profile(&borders[i], sizes[i], turn, scale);
            let top = high.iter().copied().fold(0.0, f32::max);
            for x in first..(COLUMNS + 1).saturating_sub(low.len()) {
                let under = &floor[x..x + low.len()];
                // What would have to be raised that far costs more already.
                let most = best.as_ref().map_or(1.0 - top, |b| (b.0 - top * 0.5).min(1.0 - top));
                let mut y = 0.0f32;
                if under.iter().zip(&low).any(|(f, l)| {
                    y = y.max(f - l);
                    y > most
                }) {
                    continue;
                }
                let lost = under.iter().zip(&low).map(|(f, l)| y + l - f).sum::<f32>() / COLUMNS as f32;
                // Low before snug: a quarter of what lies empty below it, on the mean, counts as height.
                let cost = y + top * 0.5 + lost / (low.len() as f32 / COLUMNS as f32) * 0.25;
                if best.as_ref().is_none_or(|b| cost < b.0) {
                    best = Some((cost, turn, x, y, high.clone()));
                }
            }
        }
        let (_, turn, x, y, high) = best?;
        for (f, h) in floor[x..].iter_mut().zip(&high) {
            *f = f.max(y + h);
        }
        out[i] = (turn, Vec2::new(x as f32 / COLUMNS as f32, y));
    }
    Some(out)
}
