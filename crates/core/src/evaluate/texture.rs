//! Planes over covered texels as textures of bytes, one sheet's square below the other, gutters filled.

use rayon::prelude::*;

use super::Evaluation;
use crate::bake::Surface;
use crate::finish::channel::Channel;
use crate::raster::quantise::{unorm8, unorm16};
use crate::raster::srgb::encode_u8;

/// Which way green points in a normal picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum GreenAxis {
    /// Up the texture (glTF).
    Up,
    /// Down the texture.
    Down,
}

/// Scatters `N` bytes per covered texel into a square, fills the gutter, and leaves `empty` elsewhere.
pub fn scatter<const N: usize>(
    surface: &Surface,
    empty: [u8; N],
    texel: impl Fn(usize) -> [u8; N] + Sync + Send,
) -> Vec<u8> {
    let atlas = &surface.atlas;
    let values: Vec<[u8; N]> = (0..atlas.len()).into_par_iter().with_min_len(4096).map(texel).collect();
    let mut out: Vec<[u8; N]> = vec![empty; atlas.lookup.len()];
    for (at, v) in atlas.texel.iter().zip(&values) {
        out[atlas.place(*at)] = *v;
    }
    for (at, from) in &atlas.gutter {
        out[atlas.place(*at)] = values[*from as usize];
    }
    out.into_flattened()
}

/// sRGB base color with opacity in alpha, RGBA8.
pub fn base_color(surface: &Surface, e: &Evaluation) -> Vec<u8> {
    let (c, n, opacity) = (&e.channels["base_color"], surface.atlas.len(), e.channels.get("opacity"));
    scatter(surface, [0, 0, 0, 255], |i| {
        let alpha = opacity.map_or(255, |o| unorm8(o[i]));
        [encode_u8(c[i]), encode_u8(c[n + i]), encode_u8(c[2 * n + i]), alpha]
    })
}

/// The least and the greatest height, in mm; a millimetre apart where it is all one.
pub fn height_range(e: &Evaluation) -> [f32; 2] {
    let all = e.channels["height"].iter();
    let (low, high) = all.fold((f32::MAX, f32::MIN), |(l, h), v| (l.min(*v), h.max(*v)));
    if low < high { [low, high] } else { [low.min(0.0), low.min(0.0) + 1.0] }
}

/// Height as R8 within a range in mm: to move the surface by.
pub fn moved(surface: &Surface, e: &Evaluation, [low, high]: [f32; 2]) -> Vec<u8> {
    let height = &e.channels["height"];
    scatter(surface, [0], |i| [unorm8((height[i] - low) / (high - low))])
}

/// A channel as it is looked at by itself: colours as sRGB RGBA8, numbers as R8 between those that it shows as black and white.
pub fn alone(surface: &Surface, channel: &Channel, plane: &[f32]) -> Vec<u8> {
    let n = surface.atlas.len();
    if channel.bare.len() == 3 {
        return scatter(surface, [0, 0, 0, 255], |i| {
            let [r, g, b] = [0, 1, 2].map(|c| {
                let v = plane[c * n + i];
                // Directions are shown as pictures of normals hold them.
                if channel.is_direction() { unorm8(v * 0.5 + 0.5) } else { encode_u8(v) }
            });
            [r, g, b, 255]
        });
    }
    let (low, high) = channel.seen;
    scatter(surface, [0], |i| [unorm8((plane[i] - low) / (high - low))])
}

/// Occlusion, roughness, metallic in red, green, blue, RGBA8 (glTF's packing). Red is the measured occlusion, or 1, times that of the coats.
pub fn orm(surface: &Surface, e: &Evaluation, occlusion: Option<&[f32]>) -> Vec<u8> {
    let (r, m) = (&e.channels["roughness"], &e.channels["metallic"]);
    let own = e.channels.get("occlusion");
    scatter(surface, [255, 255, 0, 255], |i| {
        let open = occlusion.map_or(1.0, |o| o[i]) * own.map_or(1.0, |o| o[i]);
        [unorm8(open), unorm8(r[i]), unorm8(m[i]), 255]
    })
}

/// Tangent-space normals of the relief, RGBA8.
pub fn normal(surface: &Surface, e: &Evaluation, green: GreenAxis) -> Vec<u8> {
    let normals = e.normals(surface);
    let sign = if green == GreenAxis::Up { 1.0 } else { -1.0 };
    let byte = |v: f32| unorm8(v * 0.5 + 0.5);
    scatter(surface, [128, 128, 255, 255], |i| {
        let [x, y, z] = normals[i];
        [byte(x), byte(y * sign), byte(z), 255]
    })
}

/// One value 0…1 per covered texel as R8.
pub fn grey8(surface: &Surface, plane: &[f32]) -> Vec<u8> {
    scatter(surface, [0], |i| [unorm8(plane[i])])
}

/// One value 0…1 per covered texel as little-endian R16.
pub fn grey16(surface: &Surface, plane: &[f32], empty: f32) -> Vec<u8> {
    scatter(surface, unorm16(empty).to_le_bytes(), |i| unorm16(plane[i]).to_le_bytes())
}

/// One float per texel of all sheets, gutters filled, `empty` elsewhere.
pub fn floats(surface: &Surface, plane: &[f32], empty: f32) -> Vec<f32> {
    let bytes = scatter(surface, empty.to_le_bytes(), |i| plane[i].to_le_bytes());
    bytes.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect()
}
