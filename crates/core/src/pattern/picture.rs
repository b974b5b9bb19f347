//! A picture as a field: one of its numbers, laid on a plane in millimetres, once, over and over, or over and over without a visible repeat.
//!
//! Without a visible repeat: the plane is covered by overlapping hexagons, each of which shows the picture from another place and at another angle; the three
//! that meet at a point are mixed so that the contrast stays what it was (after Heitz & Neyret 2018, "High-performance by-example noise", with the
//! triangle grid of Mikkelsen 2022, "Practical real-time hex-tiling"; values are mixed around their mean without a change of histogram).

use std::sync::Arc;

use super::Field;
use crate::lattice::{cell, hash, next, seed_spec, sin_turn, unit};
use crate::raster::pyramid::{Level, Levels, MaskPicture};
use crate::setting::{ParamSpec, Resolved};

/// The key of the setting that says which number of a picture is taken.
pub const CHANNEL: &str = "channel";

/// The settings of a picture on a plane but for those of its placement.
pub fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::picture("picture", "Picture", "Which of the pictures that were brought in for masks."),
        ParamSpec::choice(
            CHANNEL,
            "Taken from",
            &[("grey", "grey"), ("red", "red"), ("green", "green"), ("blue", "blue"), ("alpha", "alpha")],
            "Which number of it is taken.",
        ),
        ParamSpec::length(
            "size",
            "Width",
            (0.1, 10_000.0),
            120.0,
            "Width of the picture on the piece; its height follows.",
        ),
        ParamSpec::choice(
            "repeat",
            "Repeats",
            &[("hidden", "without a visible repeat"), ("tiles", "as tiles"), ("once", "once")],
            "How it goes on beyond its borders. What lies beside a single one is 0.",
        ),
        seed_spec(),
    ]
}

/// A picture's numbers on a plane.
pub struct PictureField {
    levels: Arc<Levels>,
    /// Of directions, the other component in the plane of the picture, and the sign with which it comes in where the picture is turned.
    other: Option<(Arc<Levels>, f32)>,
    width: f32,
    height: f32,
    repeat: Repeat,
    seed: u32,
}

#[derive(Clone, Copy, PartialEq)]
enum Repeat {
    Hidden,
    Tiles,
    Once,
}

impl PictureField {
    /// Of a picture, by settings of [`specs`].
    pub fn new(picture: &MaskPicture, s: &Resolved) -> Self {
        Self::of(picture, picture.levels(s.text(CHANNEL)), None, s)
    }

    /// Red, green and blue of a picture's colours, linear, by the same settings.
    pub fn colors(picture: &MaskPicture, s: &Resolved) -> [Self; 3] {
        [0, 1, 2].map(|c| Self::of(picture, picture.linear(c), None, s))
    }

    /// The components of a picture's normals, y up the picture, by the same settings.
    pub fn directions(picture: &MaskPicture, green_down: bool, s: &Resolved) -> [Self; 3] {
        let level = |c: usize| picture.direction(c, green_down);
        // A picture that is turned lends its normals turned.
        let other = [Some((level(1), -1.0)), Some((level(0), 1.0)), None];
        let mut other = other.into_iter();
        [0, 1, 2].map(|c| Self::of(picture, level(c), other.next().flatten(), s))
    }

    fn of(picture: &MaskPicture, levels: Arc<Levels>, other: Option<(Arc<Levels>, f32)>, s: &Resolved) -> Self {
        let width = s.number("size").max(1e-3);
        Self {
            levels,
            other,
            width,
            height: width * picture.aspect(),
            repeat: match s.text("repeat") {
                "tiles" => Repeat::Tiles,
                "once" => Repeat::Once,
                _ => Repeat::Hidden,
            },
            seed: s.integer("seed").wrapping_mul(0x9e37_79b1),
        }
    }

    /// Which level has texels about as long as `millimetres`.
    fn level(&self, millimetres: f32) -> usize {
        let levels = &self.levels.levels;
        let texel = self.width / levels[0].width.max(1) as f32;
        let ratio = (millimetres / texel).max(1.0);
        (libm::log2f(ratio).floor() as usize).min(levels.len() - 1)
    }

    /// The hexagons' mixture at a place in mm.
    fn hidden(&self, level: usize, x: f32, y: f32) -> f32 {
        let (own, other) = (&self.levels.levels[level], self.other.as_ref().map(|(o, sign)| (&o.levels[level], *sign)));
        // Hexagons are half as wide as the picture; the plane is skewed so that their centres lie on a square lattice.
        let side = 0.5 * self.width.min(self.height);
        let (u, v) = (x / side - y / side * 0.577_350_3, y / side * 1.154_700_5);
        let ((fu, iu), (fv, iv)) = (cell(u), cell(v));
        let upper = fu + fv > 1.0;
        let corners: [(u32, u32, f32); 3] = if upper {
            [(1, 1, fu + fv - 1.0), (0, 1, 1.0 - fu), (1, 0, 1.0 - fv)]
        } else {
            [(0, 0, 1.0 - fu - fv), (1, 0, fu), (0, 1, fv)]
        };
        let (mut sum, mut squares, mut total) = (0.0f32, 0.0f32, 0.0f32);
        for (du, dv, w) in corners {
            // A steeper weight keeps the mixed stretches narrow.
            let w = w * w * w;
            let h = hash(iu.wrapping_add(du), iv.wrapping_add(dv), 17, self.seed);
            let (a, b) = (next(h), next(h ^ 0x51ed_270b));
            let turn = unit(h);
            let (sin, cos) = (sin_turn(turn), sin_turn(turn + 0.25));
            let (px, py) = (x * cos - y * sin + unit(a) * self.width, x * sin + y * cos + unit(b) * self.height);
            let at = (px / self.width, py / self.height);
            let value = match other {
                None => wrapped(own, at.0, at.1) - self.levels.mean,
                // The picture is turned by −turn where it is seen, and with it the directions in it.
                Some((other, sign)) => wrapped(own, at.0, at.1) * cos + wrapped(other, at.0, at.1) * sin * sign,
            };
            sum += w * value;
            squares += w * w;
            total += w;
        }
        let (sum, squares) = (sum / total, squares / (total * total));
        let (low, high) = self.levels.range;
        let mean = if other.is_some() { 0.0 } else { self.levels.mean };
        (mean + sum / squares.sqrt()).clamp(low, high)
    }
}

impl Field for PictureField {
    fn sample(&self, x: &[f32], y: &[f32], z: &[f32], out: &mut [f32]) {
        self.sample_at(x, y, z, 0.0, out);
    }

    fn sample_at(&self, x: &[f32], y: &[f32], _: &[f32], texel: f32, out: &mut [f32]) {
        let level = self.level(texel);
        let one = &self.levels.levels[level];
        for ((x, y), v) in x.iter().zip(y).zip(out) {
            // A picture's rows go down, a plane's y goes up; a single one lies around the origin.
            let (u, w) = (x / self.width, -y / self.height);
            *v = match self.repeat {
                Repeat::Hidden => self.hidden(level, *x, -*y),
                Repeat::Tiles => wrapped(one, u, w),
                Repeat::Once if u.abs() <= 0.5 && w.abs() <= 0.5 => one.smooth([u + 0.5, w + 0.5]),
                Repeat::Once => 0.0,
            };
        }
    }
}

/// Mixed from four texels, going on over the borders.
fn wrapped(grid: &Level, u: f32, v: f32) -> f32 {
    let axis = |t: f32, n: u32| {
        let t = (t - t.floor()) * n as f32 - 0.5;
        let low = t.floor();
        let whole = (low as i64).rem_euclid(i64::from(n.max(1))) as u32;
        (whole, (whole + 1) % n.max(1), t - low)
    };
    let ((x0, x1, fx), (y0, y1, fy)) = (axis(u, grid.width), axis(v, grid.height));
    let at = |x: u32, y: u32| grid.at((y * grid.width + x) as usize);
    let (top, bottom) = (at(x0, y0) + (at(x1, y0) - at(x0, y0)) * fx, at(x0, y1) + (at(x1, y1) - at(x0, y1)) * fx);
    top + (bottom - top) * fy
}
