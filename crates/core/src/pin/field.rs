//! What pins lay on the surface, texel by texel: only those within reach of a pin are worked out.

use std::sync::Arc;

use glam::Vec3;

use super::Pin;
use super::frame::{Frame, Place};
use crate::bake::Surface;
use crate::bake::frame::frame as tangents;
use crate::raster::pyramid::{Levels, MaskPicture};
use crate::stroke::Bounds;

/// Texels that are looked up together.
const RUN: usize = 64;

/// The components of a picture's normals, y up the picture.
pub type Directions = [Arc<Levels>; 3];

/// What is laid of a picture by a pin.
pub struct Laying {
    pin: Arc<Pin>,
    /// The number that is laid; 1 without.
    value: Option<Arc<Levels>>,
    /// Of normals, all of them and which one is wanted, rather than a number.
    directions: Option<(Directions, usize)>,
    /// How much of it; all of the picture without.
    alpha: Option<Arc<Levels>>,
    negative: bool,
}

impl Laying {
    /// A number of the pin’s own picture as a mask, as much of it as its alpha says.
    pub fn mask(pin: Arc<Pin>, channel: &str, negative: bool) -> Option<Laying> {
        let picture = pin.picture.as_ref()?.1.clone();
        let alpha = picture.levels("alpha");
        let (value, alpha) = match (channel, negative) {
            ("alpha", false) => (None, Some(alpha)),
            ("alpha", true) => (Some(alpha), None),
            _ => (Some(picture.levels(channel)), Some(alpha)),
        };
        Some(Laying { negative, ..Laying::of(pin, value, alpha) })
    }

    /// A number of a picture as a value.
    pub fn number(pin: Arc<Pin>, picture: &MaskPicture, levels: Arc<Levels>) -> Laying {
        Laying::of(pin, Some(levels), Some(picture.levels("alpha")))
    }

    /// A component of a picture's normals.
    pub fn direction(pin: Arc<Pin>, picture: &MaskPicture, all: Directions, component: usize) -> Laying {
        Laying { directions: Some((all, component)), ..Laying::of(pin, None, Some(picture.levels("alpha"))) }
    }

    fn of(pin: Arc<Pin>, value: Option<Arc<Levels>>, alpha: Option<Arc<Levels>>) -> Laying {
        Laying { pin, value, directions: None, alpha, negative: false }
    }
}

/// What some pins lay, the later ones over the earlier ones.
pub struct Pinned {
    all: Vec<Laying>,
    /// What there is where nothing is laid.
    bare: f32,
}

impl Pinned {
    /// Of pins in their order; `bare` is what there is beside them.
    pub fn new(all: Vec<Laying>, bare: f32) -> Pinned {
        Pinned { all, bare }
    }

    /// What is laid on the covered texels from `start` on, and how much of it. Where none of it is, the value is that of the picture beneath what is clear, and beside all pins the bare one.
    pub fn lay(&self, surface: &Surface, start: usize, value: &mut [f32], weight: &mut [f32]) {
        value.fill(self.bare);
        weight.fill(0.0);
        for laying in &self.all {
            laying.lay(surface, start, value, weight);
        }
    }
}

impl Laying {
    fn lay(&self, surface: &Surface, start: usize, value: &mut [f32], weight: &mut [f32]) {
        let (atlas, shape) = (&surface.atlas, &self.pin.shape);
        let texel = atlas.texel_length;
        let point = |i: usize| Vec3::new(atlas.px[i], atlas.py[i], atlas.pz[i]);
        let normal = |i: usize| Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
        let (tree, shells) = (self.pin.tree(), self.pin.shells(&surface.piece));
        let mut near = vec![];
        for (r, (value, weight)) in value.chunks_mut(RUN).zip(weight.chunks_mut(RUN)).enumerate() {
            let first = start + r * RUN;
            let bounds = (first..first + value.len()).map(point).fold(Bounds::EMPTY, Bounds::with).grown(texel);
            tree.meeting(&bounds, &mut near);
            for k in near.iter().map(|k| *k as usize) {
                let (frame, shell) = (&self.pin.frames[k], shells.map(|all| all[k]));
                for (i, (v, w)) in (first..).zip(value.iter_mut().zip(weight.iter_mut())) {
                    if shell.is_some_and(|s| s != surface.piece.shell_of[atlas.triangle[i] as usize]) {
                        continue;
                    }
                    let n = normal(i);
                    let Some(place) = frame.place(shape, point(i), n) else { continue };
                    let Some((new, much)) = self.read(surface, i, (frame, n), place, texel) else { continue };
                    let both = much + *w * (1.0 - much);
                    *v = if both > 0.0 { (new * much + *v * *w * (1.0 - much)) / both } else { new };
                    *w = both;
                }
            }
        }
    }

    /// What the picture holds at a place, and how much of it is laid.
    fn read(
        &self,
        surface: &Surface,
        i: usize,
        (frame, n): (&Frame, Vec3),
        at: Place,
        texel: f32,
    ) -> Option<(f32, f32)> {
        let shape = &self.pin.shape;
        let texel = texel / frame.size;
        let inside = border(at.x, shape.half_width, texel) * border(at.y, shape.half_height, texel);
        if inside <= 0.0 {
            return None;
        }
        let uv = [0.5 + 0.5 * at.x / shape.half_width, 0.5 - 0.5 * at.y / shape.half_height];
        let number =
            |levels: &Levels| levels.evened(uv, texel * levels.levels[0].width as f32 / (2.0 * shape.half_width));
        let value = match (&self.directions, &self.value) {
            (Some((all, component)), _) => {
                let [x, y, z] = [0, 1, 2].map(|c| number(&all[c]));
                let ((right, up), (tangent, bitangent)) = (frame.carried(n, shape.mirrored), tangents(surface, i));
                let lies = right * x + up * y;
                [lies.dot(tangent), lies.dot(bitangent), z][*component]
            }
            (None, Some(levels)) => number(levels),
            (None, None) => 1.0,
        };
        let value = if self.negative { 1.0 - value } else { value };
        Some((value, at.share * inside * self.alpha.as_ref().map_or(1.0, |a| number(a))))
    }
}

/// 1 within a border at `half`, 0 beyond it, a texel wide.
fn border(x: f32, half: f32, texel: f32) -> f32 {
    ((half - x.abs()) / texel + 0.5).clamp(0.0, 1.0)
}
