//! Sheets: the UV squares of a piece that get image files of their own.
//!
//! Tiles of the UV plane are numbered as UDIM numbers them: 1001 + u + 10 v, v upwards. Where parts lie over one another in a tile, as material slots that were
//! each given the whole square do, each of those parts gets a sheet of its own.

use std::collections::{BTreeMap, BTreeSet};

use glam::Vec2;
use serde::Serialize;
use ts_rs::TS;

use super::{Finding, Soup};

/// The most sheets that are told apart.
pub const MOST: usize = 16;
/// Side of the grid that parts are compared on.
const GRID: usize = 128;
/// Share of the smaller part that must lie over another before the two are parted.
const SHARED: f32 = 0.05;
/// How far a triangle may stand out of its tile: rounding in exporters.
const SLACK: f32 = 1e-3;

/// One UV square.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, TS)]
pub struct Sheet {
    /// What its files are named after: the UDIM number of its tile, with the part's name where parts lie over one another.
    pub name: String,
    /// UDIM number.
    pub udim: u16,
}

type Key = (u16, Option<u16>);

/// Finds the sheets and moves every triangle's UVs into the square of its own. Returns the sheets and the sheet of each triangle.
pub fn assign(soup: &mut Soup, findings: &mut Vec<Finding>) -> (Vec<Sheet>, Vec<u16>) {
    let tiles: Vec<[i32; 2]> = (0..soup.len()).map(|t| tile(soup, t)).collect();
    // Tiles outside UDIM's reach repeat the first one; so do all when there are more than are told apart: then the UVs repeat a tiling texture.
    let udim = |[u, v]: [i32; 2]| ((0..10).contains(&u) && (0..90).contains(&v)).then(|| (1001 + u + 10 * v) as u16);
    let distinct: BTreeSet<_> = tiles.iter().filter_map(|t| udim(*t)).collect();
    let repeating = distinct.len() > MOST;
    let number = |t: [i32; 2]| if repeating { 1001 } else { udim(t).unwrap_or(1001) };
    for (t, [u, v]) in tiles.iter().enumerate() {
        for uv in &mut soup.uvs[3 * t..3 * t + 3] {
            *uv = [uv[0] - *u as f32, uv[1] + *v as f32];
        }
    }
    let shared = crossing(soup, &tiles.iter().map(|t| number(*t)).collect::<Vec<_>>());
    let key = |t: usize| -> Key {
        let n = number(tiles[t]);
        (n, shared.contains(&(n, soup.parts[t])).then_some(soup.parts[t]))
    };
    let all: BTreeSet<Key> = (0..soup.len()).map(key).collect();
    let all: Vec<Key> = all.into_iter().take(MOST).collect();
    let of = (0..soup.len()).map(|t| all.binary_search(&key(t)).unwrap_or(0) as u16).collect();
    let name = |(n, part): &Key| match part {
        Some(p) => format!("{}.{n}", soup.part_names[*p as usize]),
        None => n.to_string(),
    };
    let sheets: Vec<Sheet> = all.iter().map(|k| Sheet { name: name(k), udim: k.0 }).collect();
    tell(soup, &tiles, repeating, udim, &shared, findings);
    (sheets, of)
}

/// The tile of a triangle: u to the right, v upwards, by the middle of its UVs.
pub(super) fn tile(soup: &Soup, t: usize) -> [i32; 2] {
    let middle = soup.uvs[3 * t..3 * t + 3].iter().map(|uv| Vec2::from(*uv)).sum::<Vec2>() / 3.0;
    [middle.x.floor().clamp(-1e4, 1e4) as i32, -(middle.y.floor().clamp(-1e4, 1e4) as i32)]
}

/// The parts, per tile, that lie over another part of the same tile.
fn crossing(soup: &Soup, tiles: &[u16]) -> BTreeSet<(u16, u16)> {
    let mut grids: BTreeMap<(u16, u16), Vec<bool>> = BTreeMap::new();
    if soup.part_names.len() > 1 {
        for t in 0..soup.len() {
            cover(soup, t, grids.entry((tiles[t], soup.parts[t])).or_insert_with(|| vec![false; GRID * GRID]));
        }
    }
    let count = |of: &[bool]| of.iter().filter(|c| **c).count() as f32;
    let mut out = BTreeSet::new();
    for (a, ga) in &grids {
        for (b, gb) in grids.range((std::ops::Bound::Excluded(*a), std::ops::Bound::Included((a.0, u16::MAX)))) {
            let both = ga.iter().zip(gb).filter(|(x, y)| **x && **y).count() as f32;
            if both > SHARED * count(ga).min(count(gb)).max(1.0) {
                out.extend([*a, *b]);
            }
        }
    }
    out
}

/// Marks the cells whose middle lies well inside the triangle.
fn cover(soup: &Soup, t: usize, grid: &mut [bool]) {
    let c: Vec<Vec2> = soup.uvs[3 * t..3 * t + 3].iter().map(|uv| Vec2::from(*uv) * GRID as f32).collect();
    let double = (c[1] - c[0]).perp_dot(c[2] - c[0]);
    let (low, high) = (c[0].min(c[1]).min(c[2]), c[0].max(c[1]).max(c[2]));
    let within = |v: f32| (v.max(0.0) as usize).min(GRID - 1);
    for y in within(low.y)..=within(high.y) {
        for x in within(low.x)..=within(high.x) {
            let p = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            let inside = |k: usize| (c[(k + 1) % 3] - c[k]).perp_dot(p - c[k]) * double.signum() > double.abs() * 1e-3;
            grid[y * GRID + x] |= (0..3).all(inside);
        }
    }
}

fn tell(
    soup: &Soup,
    tiles: &[[i32; 2]],
    repeating: bool,
    udim: impl Fn([i32; 2]) -> Option<u16>,
    shared: &BTreeSet<(u16, u16)>,
    findings: &mut Vec<Finding>,
) {
    let percent = |n: usize| 100.0 * n as f64 / soup.len().max(1) as f64;
    let out = |uv: &[f32; 2]| uv.iter().any(|v| !(-SLACK..=1.0 + SLACK).contains(v));
    let straddling = soup.uvs.chunks_exact(3).filter(|c| c.iter().any(out)).count();
    if straddling > 0 {
        findings.push(Finding {
            serious: true,
            what: format!("{:.0} % of the triangles reach out of their UV tile.", percent(straddling)),
            remedy: "What lies outside gets no texels. Lay each chart out inside one tile, or have UVs laid out anew here (Mending, or the list of parts)."
                .into(),
        });
    }
    let outside = tiles.iter().filter(|t| udim(**t).is_none()).count();
    if repeating || outside > 0 {
        let n = if repeating { tiles.iter().filter(|t| **t != [0, 0]).count() } else { outside };
        findings.push(Finding {
            serious: true,
            what: format!("{:.0} % of the triangles lie in UV tiles that are not told apart.", percent(n)),
            remedy: format!(
                "They are taken to repeat the first tile, as for a tiling texture. Up to {MOST} tiles, numbered 1001 to 1999, get sheets of their own."
            ),
        });
    }
    if !shared.is_empty() {
        let parts: BTreeSet<&str> = shared.iter().map(|(_, p)| soup.part_names[*p as usize].as_str()).collect();
        findings.push(Finding {
            serious: false,
            what: format!("The UVs of {} lie over one another.", parts.into_iter().collect::<Vec<_>>().join(", ")),
            remedy: "Each of them gets a sheet of its own, so they don't share texels.".into(),
        });
    }
}
