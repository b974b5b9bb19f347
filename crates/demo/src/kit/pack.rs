//! Packing flat charts into the unit square on shelves, tallest first, at one scale.

use glam::Vec2;

use super::Chart;

/// Room between charts and around the square, as a share of its side: six texels at 1024.
const GAP: f32 = 6.0 / 1024.0;

/// UVs per chart, v down. Charts that stand taller than wide are laid down.
pub fn pack(charts: &mut [Chart]) -> Vec<Vec<Vec2>> {
    for c in charts.iter_mut() {
        let (low, high) = bounds(&c.flat);
        let size = high - low;
        let lay = size.y > size.x;
        for p in &mut c.flat {
            *p -= low;
            if lay {
                *p = Vec2::new(size.y - p.y, p.x);
            }
        }
    }
    let sizes: Vec<Vec2> = charts.iter().map(|c| bounds(&c.flat).1).collect();
    let mut order: Vec<usize> = (0..charts.len()).collect();
    order.sort_by(|a, b| sizes[*b].y.total_cmp(&sizes[*a].y).then(a.cmp(b)));
    let area: f32 = sizes.iter().map(|s| s.x * s.y).sum();
    let mut scale = 1.0 / area.sqrt();
    let places = loop {
        if let Some(places) = shelves(&sizes, &order, scale) {
            break places;
        }
        scale *= 0.995;
    };
    charts
        .iter()
        .zip(places)
        .map(|(c, at)| c.flat.iter().map(|p| at + *p * scale).map(|p| Vec2::new(p.x, 1.0 - p.y)).collect())
        .collect()
}

fn bounds(points: &[Vec2]) -> (Vec2, Vec2) {
    points.iter().fold((Vec2::MAX, Vec2::MIN), |(a, b), p| (a.min(*p), b.max(*p)))
}

fn shelves(sizes: &[Vec2], order: &[usize], scale: f32) -> Option<Vec<Vec2>> {
    let mut places = vec![Vec2::ZERO; sizes.len()];
    // Each shelf: left end of the free room, its floor, its height.
    let mut all: Vec<(f32, f32, f32)> = vec![];
    let mut top = GAP;
    for &i in order {
        let s = sizes[i] * scale;
        let fits = all.iter().position(|(x, _, h)| x + s.x + GAP <= 1.0 && s.y <= *h);
        let k = match fits {
            Some(k) => k,
            None => {
                if top + s.y + GAP > 1.0 || s.x + 2.0 * GAP > 1.0 {
                    return None;
                }
                all.push((GAP, top, s.y));
                top += s.y + GAP;
                all.len() - 1
            }
        };
        places[i] = Vec2::new(all[k].0, all[k].1);
        all[k].0 += s.x + GAP;
    }
    Some(places)
}
