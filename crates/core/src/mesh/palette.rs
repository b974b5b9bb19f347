//! Telling colours apart: clusters of colours within a tolerance, and plain names for them.

use std::collections::BTreeMap;

use crate::raster::oklab::{distance, oklab};

/// The most clusters that are told apart.
pub const MOST: usize = 64;
/// Share below which a colour makes no part of its own.
const LEAST: f64 = 0.0005;

/// Colours that parts are shown in when the file gives them none, sRGB: as far apart as muted colours go.
pub const SHOWN: [[u8; 3]; 10] = [
    [0x8f, 0xa8, 0x9f],
    [0xc2, 0x9a, 0x6b],
    [0x8d, 0x8f, 0xb5],
    [0xb8, 0x86, 0x8a],
    [0xa3, 0xab, 0x74],
    [0x74, 0x9d, 0xb0],
    [0xb5, 0xa7, 0xc0],
    [0xcf, 0xb9, 0x8a],
    [0x7f, 0x8c, 0x84],
    [0xa8, 0x7f, 0x63],
];

/// sRGB hex, `#rrggbb`.
pub fn hex([r, g, b]: [u8; 3]) -> String {
    format!("#{r:02x}{g:02x}{b:02x}")
}

/// A colour that was seen, how much of it, and whether it was seen in the middle of a patch: blends at borders are not.
pub struct Seen {
    /// sRGB.
    pub color: [u8; 3],
    /// How much.
    pub weight: f64,
    /// Whether its surroundings have the same colour.
    pub flat: bool,
}

/// The distinct colours of what was seen, the most frequent first: each is farther than `tolerance` (OKLab, 1 from black to white) from those before it.
/// Blends at borders make no cluster unless there is nothing else.
pub fn cluster(seen: &[Seen], tolerance: f32) -> Vec<[u8; 3]> {
    let flat = seen.iter().any(|s| s.flat);
    // Bins of four levels a side; each remembers its mean.
    let mut bins: BTreeMap<[u8; 3], (f64, [f64; 3])> = BTreeMap::new();
    for s in seen.iter().filter(|s| s.flat || !flat) {
        let (weight, sum) = bins.entry(s.color.map(|c| c >> 2)).or_default();
        *weight += s.weight;
        for a in 0..3 {
            sum[a] += s.weight * f64::from(s.color[a]);
        }
    }
    let total: f64 = bins.values().map(|b| b.0).sum();
    let mut bins: Vec<_> = bins.into_iter().filter(|(_, (w, _))| *w > 0.0 && *w >= LEAST * total).collect();
    bins.sort_by(|a, b| b.1.0.total_cmp(&a.1.0).then(a.0.cmp(&b.0)));
    let mut found: Vec<([u8; 3], [f32; 3])> = vec![];
    for (_, (weight, sum)) in bins {
        let color = sum.map(|s| (s / weight).round() as u8);
        let lab = oklab(color);
        if found.len() < MOST && found.iter().all(|(_, other)| distance(lab, *other) > tolerance) {
            found.push((color, lab));
        }
    }
    found.into_iter().map(|f| f.0).collect()
}

/// The index of the nearest of some OKLab colours, the first of equals; 0 of none.
pub fn nearest(lab: [f32; 3], among: &[[f32; 3]]) -> u16 {
    let mut best = (0, f32::MAX);
    for (i, other) in among.iter().enumerate() {
        let d = distance(lab, *other);
        if d < best.1 {
            best = (i, d);
        }
    }
    best.0 as u16
}

/// A plain name for each colour; equal names are numbered.
pub fn names(colors: &[[u8; 3]]) -> Vec<String> {
    let mut used: BTreeMap<String, usize> = BTreeMap::new();
    let name = |color: &[u8; 3]| {
        let plain = plain_name(oklab(*color));
        let n = used.entry(plain.clone()).or_default();
        *n += 1;
        if *n == 1 { plain } else { format!("{plain} {n}") }
    };
    colors.iter().map(name).collect()
}

fn plain_name([l, a, b]: [f32; 3]) -> String {
    if libm::hypotf(a, b) < 0.04 {
        let greys = [(0.2, "Black"), (0.45, "Dark grey"), (0.7, "Grey"), (0.93, "Light grey")];
        return greys.iter().find(|g| l < g.0).map_or("White", |g| g.1).into();
    }
    let hue = libm::atan2f(b, a).to_degrees().rem_euclid(360.0);
    let hues: [(f32, &str); 9] = [
        (12.0, "Pink"),
        (45.0, "Red"),
        (80.0, "Orange"),
        (118.0, "Yellow"),
        (160.0, "Green"),
        (215.0, "Teal"),
        (275.0, "Blue"),
        (318.0, "Purple"),
        (360.0, "Pink"),
    ];
    let hue = hues.iter().find(|h| hue <= h.0).map_or("Pink", |h| h.1);
    match l {
        l if l < 0.35 => format!("Dark {}", hue.to_lowercase()),
        l if l > 0.9 && hue != "Yellow" => format!("Light {}", hue.to_lowercase()),
        _ => hue.into(),
    }
}
