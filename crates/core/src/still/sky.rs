//! A set-up of light, turned and dimmed, that rays can be aimed at: the sky by how bright it is, the lamps by name.

use std::f32::consts::{PI, TAU};

use glam::Vec3;

use super::light::{Light, PANORAMA, RIM};
use crate::bake::rays::{frame, sin_cos_turn};

/// How a set-up is used.
#[derive(Debug, Clone, Copy)]
pub struct Lighting {
    /// Which.
    pub light: &'static Light,
    /// Degrees that it is turned by, counter-clockwise from above.
    pub turn: f32,
    /// Factor of all but the rim light.
    pub brightness: f32,
    /// Strength of the rim light, 0…1.
    pub rim: f32,
}

/// Half the width of a lamp, in radians: it softens the edges of shadows.
const LAMP: f32 = 0.02;

/// The light around the piece.
pub struct Sky {
    pixels: Vec<Vec3>,
    /// Of the rows: the share of the light in all rows up to this one.
    rows: Vec<f32>,
    /// The same of the texels of each row.
    columns: Vec<f32>,
    /// Light, times the solid angle, of the whole.
    total: f32,
    /// Sine and cosine of the turn.
    turn: (f32, f32),
    brightness: f32,
    /// Direction and irradiance.
    lamps: Vec<(Vec3, Vec3)>,
}

/// How likely a texel is looked at: as it is bright, but never not at all.
fn weight(p: Vec3) -> f32 {
    p.element_sum() / 3.0 + 1e-4
}

fn turned(w: Vec3, (sin, cos): (f32, f32)) -> Vec3 {
    Vec3::new(w.x * cos + w.z * sin, w.y, w.z * cos - w.x * sin)
}

impl Sky {
    /// Of a set-up.
    pub fn new(lighting: &Lighting) -> Self {
        let pixels = lighting.light.panorama().into_iter().map(Vec3::from).collect();
        let turn = sin_cos_turn(lighting.turn / 360.0);
        let lamp =
            |l: &super::light::Lamp, by: f32| (turned(l.towards(), turn), Vec3::from(l.color) * (l.strength * by));
        let mut lamps: Vec<_> = lighting.light.lamps.iter().map(|l| lamp(l, lighting.brightness)).collect();
        lamps.push(lamp(&RIM, lighting.rim));
        lamps.retain(|l| l.1.max_element() > 0.0);
        Self { lamps, ..Self::painted(pixels, turn, lighting.brightness) }
    }

    /// The same light from everywhere, without lamps.
    pub fn even(radiance: f32) -> Self {
        Self::painted(vec![Vec3::ONE; PANORAMA[0] * PANORAMA[1]], (0.0, 1.0), radiance)
    }

    fn painted(pixels: Vec<Vec3>, turn: (f32, f32), brightness: f32) -> Self {
        let [w, h] = PANORAMA;
        let (mut rows, mut columns, mut total) = (vec![], vec![], 0.0);
        for y in 0..h {
            let mut row = 0.0;
            let start = columns.len();
            for x in 0..w {
                row += weight(pixels[y * w + x]);
                columns.push(row);
            }
            columns[start..].iter_mut().for_each(|c| *c /= row);
            // A row's texels, by the solid angle of each.
            total += row * band(y) * TAU / w as f32;
            rows.push(total);
        }
        rows.iter_mut().for_each(|r| *r /= total);
        Self { pixels, rows, columns, total, turn, brightness, lamps: vec![] }
    }

    /// The lamps: direction, and what a surface that faces one gets.
    pub fn lamps(&self) -> &[(Vec3, Vec3)] {
        &self.lamps
    }

    /// A direction to a lamp's disc.
    pub fn towards_lamp(&self, lamp: usize, p: [f32; 2]) -> Vec3 {
        let z = self.lamps[lamp].0;
        let ((x, y), (s, c)) = (frame(z), sin_cos_turn(p[0]));
        (z + (x * c + y * s) * (LAMP * p[1].sqrt())).normalize()
    }

    /// Radiance from a direction, read between the texels.
    pub fn radiance(&self, towards: Vec3) -> Vec3 {
        let [w, h] = PANORAMA;
        let (u, v) = self.place(towards);
        let (x, y) = (u * w as f32 - 0.5, (v * h as f32 - 0.5).clamp(0.0, (h - 1) as f32));
        let (x0, y0) = (x.floor(), y.floor());
        let at = |dx: i32, dy: usize| {
            let x = (x0 as i32 + dx).rem_euclid(w as i32) as usize;
            self.pixels[(y0 as usize + dy).min(h - 1) * w + x]
        };
        let across = |dy: usize| at(0, dy).lerp(at(1, dy), x - x0);
        across(0).lerp(across(1), y - y0) * self.brightness
    }

    /// How densely [`aim`](Self::aim) leads to a direction, per solid angle.
    pub fn density(&self, towards: Vec3) -> f32 {
        let [w, h] = PANORAMA;
        let (u, v) = self.place(towards);
        let (x, y) = (((u * w as f32) as usize).min(w - 1), ((v * h as f32) as usize).min(h - 1));
        weight(self.pixels[y * w + x]) / self.total
    }

    /// A direction that light comes from, and its density.
    pub fn aim(&self, p: [f32; 2]) -> (Vec3, f32) {
        let [w, h] = PANORAMA;
        let (y, along) = pick(&self.rows, p[1]);
        let (x, across) = pick(&self.columns[y * w..(y + 1) * w], p[0]);
        let around = (x as f32 + across) / w as f32 * TAU - PI;
        // Within a row by solid angle.
        let (low, high) = (edge(y), edge(y + 1));
        let up = low + (high - low) * along;
        let flat = (1.0 - up * up).max(0.0).sqrt();
        let (s, c) = sin_cos_turn(around / TAU);
        let density = weight(self.pixels[y * w + x]) / self.total;
        debug_assert!(y < h);
        (turned(Vec3::new(c * flat, up, s * flat), self.turn), density)
    }

    fn place(&self, towards: Vec3) -> (f32, f32) {
        let t = turned(towards, (-self.turn.0, self.turn.1));
        (libm::atan2f(t.z, t.x) / TAU + 0.5, libm::asinf(t.y.clamp(-1.0, 1.0)) / PI + 0.5)
    }
}

/// Sine of the elevation where a row begins.
fn edge(y: usize) -> f32 {
    libm::sinf((y as f32 / PANORAMA[1] as f32 - 0.5) * PI)
}

/// What a row covers of the elevation's sine.
fn band(y: usize) -> f32 {
    edge(y + 1) - edge(y)
}

/// The first place whose share of all up to it is more than `p`, and how far into it `p` lies.
fn pick(shares: &[f32], p: f32) -> (usize, f32) {
    let i = shares.partition_point(|s| *s <= p).min(shares.len() - 1);
    let before = if i > 0 { shares[i - 1] } else { 0.0 };
    (i, ((p - before) / (shares[i] - before).max(1e-12)).clamp(0.0, 1.0))
}
