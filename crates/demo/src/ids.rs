//! ID pictures: a prop's parts as flat colours, one picture for each of its sheets, for a prop whose mesh tells nothing of them.

use std::io::{Cursor, Write};

use dustcoat_core::handoff::png;
use dustcoat_core::mesh::{Part, Piece};
use glam::Vec2;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

/// A part of an ID picture.
pub struct Id {
    /// The part.
    pub part: &'static str,
    /// What the colour is called, and so the part until it is named.
    pub called: &'static str,
    /// sRGB.
    pub color: [u8; 3],
}

/// Pixels of a side.
pub(crate) const SIDE: usize = 1024;
/// How far the colours run out over the borders of charts, in pixels.
const BLEED: usize = 4;

/// The piece as if it were of one material.
pub fn untold(mut piece: Piece) -> Piece {
    let (triangles, area) = piece.parts.iter().fold((0, 0.0), |(n, a), p| (n + p.triangles, a + p.area));
    let color = piece.parts[0].color.clone();
    piece.parts = vec![Part {
        key: piece.name.clone(),
        name: piece.name.clone(),
        color,
        triangles,
        area,
        shared: Default::default(),
    }];
    piece.part_of.fill(0);
    piece
}

/// A ZIP of a mesh file and the ID pictures of its piece, as `parts.1001.png` for each sheet.
///
/// # Panics
/// When a part has no colour.
pub fn bundle(mesh: (&str, &[u8]), piece: &Piece, ids: &[Id]) -> Vec<u8> {
    let mut zip = ZipWriter::new(Cursor::new(vec![]));
    let mut put = |name: &str, bytes: &[u8]| {
        // Without a date, so that the same prop is the same file.
        let plain = SimpleFileOptions::default().last_modified_time(zip::DateTime::default());
        zip.start_file(name, plain).and_then(|()| Ok(zip.write_all(bytes)?)).expect("memory can be written to");
    };
    put(mesh.0, mesh.1);
    for (k, sheet) in piece.sheets.iter().enumerate() {
        let picture = png::rgba8(&drawn(piece, k as u16, ids), SIDE as u32, SIDE as u32);
        put(&format!("parts.{}.png", sheet.name), &picture);
    }
    zip.finish().expect("memory can be written to").into_inner()
}

/// RGBA8 pixels of the ID picture of a sheet.
fn drawn(piece: &Piece, sheet: u16, ids: &[Id]) -> Vec<u8> {
    let colors: Vec<[u8; 3]> = piece
        .parts
        .iter()
        .map(|p| ids.iter().find(|i| i.part == p.name).unwrap_or_else(|| panic!("{} has a colour", p.name)).color)
        .collect();
    let mut seen: Vec<Option<[u8; 3]>> = vec![None; SIDE * SIDE];
    for t in (0..piece.triangles.len()).filter(|t| piece.sheet_of[*t] == sheet) {
        let [a, b, c] = piece.triangles[t].map(|v| Vec2::from(piece.uvs[v as usize]) * SIDE as f32);
        let whole = (b - a).perp_dot(c - a);
        let (low, high) =
            (a.min(b).min(c).floor().max(Vec2::ZERO), a.max(b).max(c).ceil().min(Vec2::splat(SIDE as f32)));
        for y in low.y as usize..high.y as usize {
            for x in low.x as usize..high.x as usize {
                let p = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
                let (u, v) = ((b - p).perp_dot(c - p) / whole, (c - p).perp_dot(a - p) / whole);
                if u >= -1e-4 && v >= -1e-4 && u + v <= 1.0 + 1e-4 {
                    seen[y * SIDE + x] = Some(colors[usize::from(piece.part_of[t])]);
                }
            }
        }
    }
    for _ in 0..BLEED {
        let before = seen.clone();
        for (i, pixel) in seen.iter_mut().enumerate().filter(|(_, p)| p.is_none()) {
            let (x, y) = (i % SIDE, i / SIDE);
            let beside = [(x > 0).then(|| i - 1), (x + 1 < SIDE).then_some(i + 1), (y > 0).then(|| i - SIDE)];
            *pixel = beside.into_iter().flatten().chain((y + 1 < SIDE).then_some(i + SIDE)).find_map(|j| before[j]);
        }
    }
    seen.into_iter().flat_map(|p| p.map_or([0, 0, 0, 0], |[r, g, b]| [r, g, b, 255])).collect()
}
