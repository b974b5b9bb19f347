//! Triangles as the ray caster wants them: a corner and two edges.

use glam::Vec3;

/// A corner and the two edges from it.
#[derive(Debug, Clone, Copy)]
pub struct Triangle {
    pub a: [f32; 3],
    pub e1: [f32; 3],
    pub e2: [f32; 3],
}

impl Triangle {
    pub fn new([a, b, c]: [Vec3; 3]) -> Self {
        Self { a: a.to_array(), e1: (b - a).to_array(), e2: (c - a).to_array() }
    }
}
