//! The channels of an evaluation, read at a texel as a material.

use crate::bake::Surface;
use crate::evaluate::Evaluation;
use crate::finish::channel::{CHANNELS, Channel};
pub use crate::finish::material::Material;
use crate::finish::material::Put;

/// The planes that a piece has.
#[derive(Clone)]
pub struct Materials<'a> {
    planes: Vec<(Put, &'a [f32])>,
    texels: usize,
}

impl<'a> Materials<'a> {
    /// Of an evaluation on a surface.
    pub fn new(surface: &Surface, e: &'a Evaluation) -> Self {
        let plane = |c: &&Channel| Some((c.put?, e.channels.get(c.kind)?.as_slice()));
        Self { planes: CHANNELS.iter().filter_map(plane).collect(), texels: surface.atlas.len() }
    }

    /// At a covered texel.
    pub fn at(&self, texel: usize) -> Material {
        let mut m = Material::default();
        for (put, plane) in &self.planes {
            put(&mut m, plane, texel, self.texels);
        }
        m
    }
}
