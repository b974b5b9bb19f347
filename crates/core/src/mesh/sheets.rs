//! Sheets: the UV squares of a piece that get image files of their own.
//!
//! Tiles of the UV plane are numbered as UDIM numbers them: 1001 + u + 10 v, v upwards. Where parts lie over one another in a tile, as material slots that were
//! each given the whole square do, each of those parts gets a sheet of its own.

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

use glam::Vec2;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::connect;
use super::edges::place;
use super::{Finding, Soup};

/// The most sheets that are told apart.
pub const MOST: usize = 16;
/// Side of the grid that parts are compared on.
const GRID: usize = 128;
/// Share of the smaller part that must lie over another before the two are parted.
const SHARED: f32 = 0.05;
/// How far a triangle may stand out of its tile: rounding in exporters.
const SLACK: f32 = 1e-3;

/// Share of the triangles that must cross borders of squares for UVs to be taken to repeat.
const CROSSING: f32 = 0.05;
/// Steps of the square in which UVs are compared, where triangles may lie exactly over others.
const FINE: f32 = 8192.0;

/// One UV square.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, TS)]
pub struct Sheet {
    /// What its files are named after: the UDIM number of its tile, with the part's name where parts lie over one another.
    pub name: String,
    /// UDIM number.
    pub udim: u16,
}

/// What UVs beyond the first square mean.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Tiles {
    /// What they look like.
    #[default]
    Told,
    /// Sheets of their own.
    Sheets,
    /// The first sheet, again and again.
    Repeats,
}

/// What becomes of texels that several triangles of a part share.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Sharing {
    /// The first of them is measured.
    #[default]
    First,
    /// The mean over all of them is.
    Mean,
    /// Each has texels of its own, on as many sheets as that takes.
    Own,
}

impl Sharing {
    /// All of them as they are chosen among: what is kept, what it is called, and what it means.
    pub const WAYS: [(Sharing, &str, &str, &str); 3] = [
        (Sharing::First, "first", "first counts", "The first triangle on a texel is what is measured there."),
        (Sharing::Mean, "mean", "mean of all", "The mean over all triangles on a texel is what is measured there."),
        (Sharing::Own, "own", "sheets apart", "Each has texels of its own, on as many sheets as that takes."),
    ];
}

/// Tile, part where parts lie over one another or it has several, and which of those.
type Key = (u16, Option<u16>, u16);

/// Finds the sheets and moves every triangle's UVs into the square of its own. Returns the sheets and the sheet of each triangle.
pub fn assign(
    soup: &mut Soup,
    tiles_are: Tiles,
    sharing: &BTreeMap<String, Sharing>,
    findings: &mut Vec<Finding>,
) -> (Vec<Sheet>, Vec<u16>) {
    let tiles: Vec<[i32; 2]> = (0..soup.len()).map(|t| tile(soup, t)).collect();
    // Tiles outside UDIM's reach repeat the first one; so do all when there are more than are told apart, or when what lies in them shows it.
    let udim = |[u, v]: [i32; 2]| ((0..10).contains(&u) && (0..90).contains(&v)).then(|| (1001 + u + 10 * v) as u16);
    let distinct: BTreeSet<_> = tiles.iter().filter_map(|t| udim(*t)).collect();
    let too_many = distinct.len() > MOST;
    let shown = match tiles_are {
        Tiles::Sheets => false,
        Tiles::Repeats => tiles.iter().any(|t| *t != [0, 0]),
        Tiles::Told => repeats(soup, &tiles),
    };
    let repeating = too_many || shown;
    let number = |t: [i32; 2]| if repeating { 1001 } else { udim(t).unwrap_or(1001) };
    for (t, [u, v]) in tiles.iter().enumerate() {
        for uv in &mut soup.uvs[3 * t..3 * t + 3] {
            *uv = [uv[0] - *u as f32, uv[1] + *v as f32];
        }
    }
    let shared = crossing(soup, &tiles.iter().map(|t| number(*t)).collect::<Vec<_>>());
    soup.offers.tiled = tiles.iter().any(|t| *t != [0, 0]);
    let copies = if soup.offers.tiled { copies(soup, &tiles) } else { Copies::default() };
    soup.offers.copied = copies.alike;
    let layers = layers(soup, &tiles.iter().map(|t| number(*t)).collect::<Vec<_>>(), sharing);
    let key = |t: usize| -> Key {
        let (n, part, layer) = (number(tiles[t]), soup.parts[t], layers.get(t).copied().unwrap_or(0));
        (n, (layer > 0 || shared.contains(&(n, part))).then_some(part), layer)
    };
    let all: BTreeSet<Key> = (0..soup.len()).map(key).collect();
    let needed = all.len();
    let all: Vec<Key> = all.into_iter().take(MOST).collect();
    // What would lie on a sheet too many lies on the first of its part or its tile.
    let lies_on = |t: usize| {
        let (n, part, _) = key(t);
        let ways = [key(t), (n, part, 0), (n, None, 0)];
        ways.iter().find_map(|k| all.binary_search(k).ok()).unwrap_or(0) as u16
    };
    let of = (0..soup.len()).map(lies_on).collect();
    if needed > MOST {
        findings.push(Finding {
            serious: true,
            what: format!(
                "Its UVs would need {needed} sheets; {MOST} is the most, and what lies on the others shares texels."
            ),
            remedy: "Have the UVs of those parts laid out anew (the list of parts), or lay them apart in the modeller."
                .into(),
        });
    }
    let name = |(n, part, layer): &Key| match (part, layer) {
        (Some(p), 0) => format!("{}.{n}", soup.part_names[*p as usize]),
        (Some(p), layer) => format!("{} {}.{n}", soup.part_names[*p as usize], layer + 1),
        (None, _) => n.to_string(),
    };
    let sheets: Vec<Sheet> = all.iter().map(|k| Sheet { name: name(k), udim: k.0 }).collect();
    tell(soup, &tiles, (too_many, shown), copies.count, udim, &shared, findings);
    (sheets, of)
}

/// Whether UVs beyond the first square look as if they repeat it: they run over the borders of squares.
fn repeats(soup: &Soup, tiles: &[[i32; 2]]) -> bool {
    let crossing = (0..soup.len()).filter(|t| square(soup, tiles[*t], *t).iter().any(reaches_out)).count() as f32;
    tiles.iter().any(|t| *t != [0, 0]) && crossing > CROSSING * soup.len() as f32
}

/// Triangles beyond the first square that lie exactly over ones of it.
#[derive(Debug, Default)]
struct Copies {
    /// How many there are.
    count: usize,
    /// Whether they look like pieces that are meant to wear alike: see [`Offers::copied`](crate::mesh::soup::Offers).
    alike: bool,
}

/// Finds copies, of UVs that were moved into the first square.
fn copies(soup: &Soup, tiles: &[[i32; 2]]) -> Copies {
    let key = |t: usize| {
        let mut at = square(soup, [0, 0], t).map(|uv| uv.map(|c| (c * FINE).round() as i32));
        at.sort_unstable();
        at
    };
    let turned = |t: usize| {
        let [a, b, c] = square(soup, [0, 0], t).map(Vec2::from);
        (b - a).perp_dot(c - a) < 0.0
    };
    let beyond = |t: &usize| tiles[*t] != [0, 0];
    let first: HashMap<_, bool> = (0..soup.len()).filter(|t| !beyond(t)).map(|t| (key(t), turned(t))).collect();
    let (mut met, mut count, mut mirrored) = (HashSet::new(), 0, 0);
    for t in (0..soup.len()).filter(beyond) {
        let Some((at, way)) = first.get_key_value(&key(t)) else { continue };
        met.insert(at);
        count += 1;
        mirrored += usize::from(*way != turned(t));
    }
    let all = count > 0 && count == (0..soup.len()).filter(beyond).count();
    Copies { count, alike: all && (mirrored == count || met.len() < first.len()) }
}

/// The UVs of a triangle, moved from a tile into the first square.
fn square(soup: &Soup, [u, v]: [i32; 2], t: usize) -> [[f32; 2]; 3] {
    [0, 1, 2].map(|k| [soup.uvs[3 * t + k][0] - u as f32, soup.uvs[3 * t + k][1] + v as f32])
}

fn reaches_out(uv: &[f32; 2]) -> bool {
    uv.iter().any(|v| !(-SLACK..=1.0 + SLACK).contains(v))
}

/// The tile of a triangle: u to the right, v upwards, by the middle of its UVs.
pub(super) fn tile(soup: &Soup, t: usize) -> [i32; 2] {
    let middle = soup.uvs[3 * t..3 * t + 3].iter().map(|uv| Vec2::from(*uv)).sum::<Vec2>() / 3.0;
    [middle.x.floor().clamp(-1e4, 1e4) as i32, -(middle.y.floor().clamp(-1e4, 1e4) as i32)]
}

/// The parts, per tile, that lie over another part of the same tile.
fn crossing(soup: &Soup, tiles: &[u16]) -> BTreeSet<(u16, u16)> {
    let mut grids: BTreeMap<(u16, u16), Cells> = BTreeMap::new();
    if soup.part_names.len() > 1 {
        for t in 0..soup.len() {
            grids.entry((tiles[t], soup.parts[t])).or_default().cover(soup, t);
        }
    }
    let mut out = BTreeSet::new();
    for (a, ga) in &grids {
        for (b, gb) in grids.range((std::ops::Bound::Excluded(*a), std::ops::Bound::Included((a.0, u16::MAX)))) {
            if ga.shared(gb) > SHARED * ga.count().min(gb.count()).max(1.0) {
                out.extend([*a, *b]);
            }
        }
    }
    out
}

/// For each triangle on which of the sheets of its tile it lies, where parts ask for texels that no two of their charts share: each chart goes to the first sheet that has room
/// where it lies. Charts are told apart by the way they are wound as well, since mirrored halves hang together in the middle. Empty where no part asks for it.
fn layers(soup: &Soup, tiles: &[u16], sharing: &BTreeMap<String, Sharing>) -> Vec<u16> {
    let asks = |t: usize| sharing.get(&soup.part_names[usize::from(soup.parts[t])]) == Some(&Sharing::Own);
    if !(0..soup.len()).any(asks) {
        return vec![];
    }
    let triangles: Vec<[u32; 3]> = (0..soup.len() as u32).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
    let turned = |t: usize| {
        let [a, b, c] = [0, 1, 2].map(|k| Vec2::from(soup.uvs[3 * t + k]));
        (b - a).perp_dot(c - a) < 0.0
    };
    let charts = connect::components(&triangles, |i| {
        let (i, t) = (i as usize, i as usize / 3);
        (place(soup.positions[i]), soup.uvs[i].map(f32::to_bits), tiles[t], soup.parts[t], turned(t))
    });
    let mut of_chart: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
    (0..soup.len()).filter(|t| asks(*t)).for_each(|t| of_chart.entry(charts[t]).or_default().push(t));
    let mut taken: BTreeMap<(u16, u16), Vec<Cells>> = BTreeMap::new();
    let mut out = vec![0; soup.len()];
    for all in of_chart.values() {
        let mut own = Cells::default();
        all.iter().for_each(|t| own.cover(soup, *t));
        let sheets = taken.entry((tiles[all[0]], soup.parts[all[0]])).or_default();
        let room = |s: &Cells| s.shared(&own) <= SHARED * own.count().max(1.0);
        let free = sheets.iter().position(room).unwrap_or(sheets.len());
        if free == sheets.len() {
            sheets.push(Cells::default());
        }
        sheets[free].add(&own);
        all.iter().for_each(|t| out[*t] = free as u16);
    }
    out
}

/// Cells of the grid that something covers, a bit each: a mesh may have thousands of parts, and each is laid on each other.
#[derive(Clone)]
struct Cells(Box<[u64; GRID * GRID / 64]>);

impl Default for Cells {
    fn default() -> Self {
        Self(Box::new([0; GRID * GRID / 64]))
    }
}

impl Cells {
    fn count(&self) -> f32 {
        self.0.iter().map(|w| w.count_ones()).sum::<u32>() as f32
    }

    /// How many of them the other covers as well.
    fn shared(&self, other: &Cells) -> f32 {
        self.0.iter().zip(other.0.iter()).map(|(a, b)| (a & b).count_ones()).sum::<u32>() as f32
    }

    fn add(&mut self, other: &Cells) {
        self.0.iter_mut().zip(other.0.iter()).for_each(|(a, b)| *a |= b);
    }

    /// Adds the cells whose middle lies well inside a triangle.
    fn cover(&mut self, soup: &Soup, t: usize) {
        let c: [Vec2; 3] = [0, 1, 2].map(|k| Vec2::from(soup.uvs[3 * t + k]) * GRID as f32);
        let double = (c[1] - c[0]).perp_dot(c[2] - c[0]);
        let (low, high) = (c[0].min(c[1]).min(c[2]), c[0].max(c[1]).max(c[2]));
        let within = |v: f32| (v.max(0.0) as usize).min(GRID - 1);
        for y in within(low.y)..=within(high.y) {
            for x in within(low.x)..=within(high.x) {
                let p = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
                let inside =
                    |k: usize| (c[(k + 1) % 3] - c[k]).perp_dot(p - c[k]) * double.signum() > double.abs() * 1e-3;
                let at = y * GRID + x;
                self.0[at / 64] |= u64::from((0..3).all(inside)) << (at % 64);
            }
        }
    }
}

fn tell(
    soup: &Soup,
    tiles: &[[i32; 2]],
    (too_many, shown): (bool, bool),
    copies: usize,
    udim: impl Fn([i32; 2]) -> Option<u16>,
    shared: &BTreeSet<(u16, u16)>,
    findings: &mut Vec<Finding>,
) {
    let percent = |n: usize| 100.0 * n as f64 / soup.len().max(1) as f64;
    let straddling = soup.uvs.chunks_exact(3).filter(|c| c.iter().any(reaches_out)).count();
    if straddling > 0 {
        findings.push(Finding {
            serious: true,
            what: format!("{:.0} % of the triangles reach out of their UV tile.", percent(straddling)),
            remedy: "What lies outside gets no texels. Lay each chart out inside one tile, or have UVs laid out anew here (Mending, or the list of parts)."
                .into(),
        });
    }
    let outside = tiles.iter().filter(|t| udim(**t).is_none()).count();
    if shown {
        let n = tiles.iter().filter(|t| **t != [0, 0]).count();
        findings.push(Finding {
            serious: false,
            what: format!("{:.0} % of the triangles repeat the first UV square, as for a tiling texture.", percent(n)),
            remedy: "What lies over one another looks alike. Set UV tiles to sheets under Mending if each square is one, or have the UVs laid out anew.".into(),
        });
    }
    if copies > 0 && !shown && !too_many {
        findings.push(Finding {
            serious: false,
            what: format!(
                "{:.0} % of the triangles lie exactly over ones of the first UV square, each in a square of its own.",
                percent(copies)
            ),
            remedy: "They get sheets of their own. Set UV tiles to repeats under Mending if they are to look alike."
                .into(),
        });
    }
    if !shown && (too_many || outside > 0) {
        let n = if too_many { tiles.iter().filter(|t| **t != [0, 0]).count() } else { outside };
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
