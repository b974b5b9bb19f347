//! The software renderer: small pictures of a piece, and of masks on it.
//!
//! A [`Shot`] looks at the piece once and remembers, per sample, which covered texel lies there; every picture of another
//! document or mask from the same place is then a mere gathering.
//!
//! [`trace`] follows light from spot to spot, under the set-ups of [`light`] that the view has too: for stills, turntables, and pictures of finishes.

pub mod denoise;
pub mod develop;
mod fibres;
pub mod ggx;
pub mod ground;
pub mod light;
pub mod lobes;
pub mod material;
pub mod shape;
pub mod shoot;
pub mod sky;
mod sums;
pub mod trace;

use glam::Vec3;
use rayon::prelude::*;

use crate::bake::Surface;
use crate::mesh::Piece;
use crate::raster::quantise::unorm8;

/// Where one looks from.
#[derive(Debug, Clone, Copy)]
pub struct Camera {
    /// Eye, in mm.
    pub eye: Vec3,
    /// Point looked at.
    pub target: Vec3,
    /// Vertical opening angle in degrees.
    pub fov: f32,
}

impl Camera {
    /// A three-quarter view in which the piece fills a picture of that aspect ratio; with `fill` over 1 it is cropped on all sides.
    pub fn framing(piece: &Piece, aspect: f32, fill: f32) -> Self {
        let fov = 28.0f32;
        let half = libm::tanf(fov.to_radians() * 0.5) * fill.max(0.01);
        let towards = Vec3::new(0.56, 0.34, 0.76).normalize();
        let right = Vec3::Y.cross(towards).normalize();
        let up = towards.cross(right);
        let points = || piece.positions.iter().map(|p| Vec3::from(*p));
        let middle = |axis: Vec3| {
            let (low, high) = points().fold((f32::MAX, f32::MIN), |(l, h), p| (l.min(axis.dot(p)), h.max(axis.dot(p))));
            if low > high { 0.0 } else { (low + high) * 0.5 }
        };
        let target = right * middle(right) + up * middle(up) + towards * middle(towards);
        // A point `d` in front of the target is inside the picture when |x| ≤ (distance − d) · half · aspect, and likewise for y.
        let needs = |p: Vec3| {
            let p = p - target;
            (right.dot(p).abs() / aspect).max(up.dot(p).abs()) / half + towards.dot(p)
        };
        let distance = points().map(needs).fold(1e-3f32, f32::max) * 1.06;
        Self { eye: target + towards * distance, target, fov }
    }
}

/// What a camera sees, in samples, `SAMPLES` × `SAMPLES` to the pixel.
pub struct Shot {
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// The camera.
    pub camera: Camera,
    /// Covered texel per sample, row by row, or none.
    pub texel: Vec<Option<u32>>,
}

/// Samples to a pixel, along each side.
pub const SAMPLES: u32 = 2;

impl Shot {
    /// Looks at a piece.
    pub fn new(surface: &Surface, camera: Camera, width: u32, height: u32) -> Shot {
        let (w, h) = (width * SAMPLES, height * SAMPLES);
        let forward = (camera.target - camera.eye).normalize();
        let right = forward.cross(Vec3::Y).normalize_or(Vec3::X);
        let up = right.cross(forward);
        let half = libm::tanf(camera.fov.to_radians() * 0.5);
        let piece = &surface.piece;
        let row = |y: u32| {
            (0..w).map(move |x| {
                let sx = ((x as f32 + 0.5) / w as f32 * 2.0 - 1.0) * half * w as f32 / h as f32;
                let sy = (1.0 - (y as f32 + 0.5) / h as f32 * 2.0) * half;
                let d = (forward + right * sx + up * sy).normalize();
                let (_, t, [b, c]) = surface.bvh().first_hit(camera.eye, d)?;
                let uv = piece.triangles[t as usize].map(|v| piece.uvs[v as usize]);
                let a = 1.0 - b - c;
                let sheet = piece.sheet_of[t as usize];
                surface.atlas.at_uv(sheet, [0, 1].map(|k| uv[0][k] * a + uv[1][k] * b + uv[2][k] * c))
            })
        };
        let texel = (0..h).into_par_iter().flat_map_iter(row).collect();
        Shot { width, height, camera, texel }
    }

    /// The covered texels that are seen, in the order of the samples that see one.
    pub fn seen(&self) -> Vec<u32> {
        self.texel.iter().flatten().copied().collect()
    }

    /// A picture of values 0…1 per seen texel (in the order of [`Self::seen`]), lightly shaded so that the shape can be read. RGBA8, transparent
    /// where nothing is seen. `subset` is the surface cut down to what is seen.
    pub fn mask_picture(&self, subset: &Surface, values: &[f32]) -> Vec<u8> {
        let light = Vec3::new(0.45, 0.65, 0.6).normalize();
        let atlas = &subset.atlas;
        let mut next = 0;
        let samples: Vec<Option<[f32; 4]>> = self
            .texel
            .iter()
            .map(|t| {
                t.map(|_| {
                    let n = Vec3::new(atlas.nx[next], atlas.ny[next], atlas.nz[next]);
                    let shade = 0.72 + 0.28 * n.dot(light).max(0.0);
                    // A mask is a number, not light: ½ is to be seen as the byte 128, as in the view.
                    let v = (0.06 + values[next] * 0.92) * shade;
                    next += 1;
                    [v, v, v, 1.0]
                })
            })
            .collect();
        self.resolve(&samples, unorm8)
    }

    /// Averages samples of colour and opacity into pixels of RGBA8; `encode` turns a component into its byte.
    fn resolve(&self, samples: &[Option<[f32; 4]>], encode: fn(f32) -> u8) -> Vec<u8> {
        let across = (self.width * SAMPLES) as usize;
        let mut out = Vec::with_capacity((self.width * self.height * 4) as usize);
        for y in 0..self.height as usize {
            for x in 0..self.width as usize {
                let (mut sum, mut n) = ([0.0f32; 3], 0.0f32);
                for k in 0..(SAMPLES * SAMPLES) as usize {
                    let (dx, dy) = (k % SAMPLES as usize, k / SAMPLES as usize);
                    let at = (y * SAMPLES as usize + dy) * across + x * SAMPLES as usize + dx;
                    if let Some(c) = samples[at] {
                        (0..3).for_each(|i| sum[i] += c[i] * c[3]);
                        n += c[3];
                    }
                }
                let colour = sum.map(|s| encode(s / n.max(1e-3)));
                out.extend(colour);
                out.push(unorm8(n / (SAMPLES * SAMPLES) as f32));
            }
        }
        out
    }
}
