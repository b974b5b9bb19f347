//! Where a place of the surface lies in a pin's picture.
//!
//! *Thrown* down, a place lies where it is seen from above the spot. *Wrapped*, it lies as far from the spot as it is along the surface, read from the two normals N (of the spot) and n (of the place):
//! along the axis N × n that the surface turns about lengths stay, across it a stretch d seen from above is d·φ/sin φ long, where φ is the angle between the normals. That is exact on
//! planes, cylinders and spheres (there it is the exponential map) and needs no walk over the mesh.

use std::f32::consts::FRAC_PI_2;

use glam::Vec3;

use super::Spot;
use crate::bake::rays::sin_cos_turn;
use crate::setting::Resolved;

/// How far beyond its depth a pin fades out, as a share of the depth.
const FADE: f32 = 0.1;
/// Cosines between which a place turns away from a pin that is thrown: about 70° and 84°, as for strokes.
const AWAY: (f32, f32) = (0.104_528_46, 0.342_020_14);
/// Angles in radians up to which a wrapped pin goes around, and where nothing of it is left.
const AROUND: (f32, f32) = (2.6, 2.9);

/// What of a pin is the same wherever it is laid.
#[derive(Debug, Clone)]
pub struct Shape {
    /// Half its width, in mm.
    pub half_width: f32,
    /// Half its height, in mm.
    pub half_height: f32,
    /// How far above and below it the surface still takes it, in mm.
    pub depth: f32,
    /// Wrapped around what is curved, rather than thrown down.
    pub wrapped: bool,
    /// Left and right change places.
    pub mirrored: bool,
    /// Stays on the shell that its spot is on.
    pub one_shell: bool,
}

impl Shape {
    /// Of resolved settings by [`super::specs`]; `aspect` is the picture's height over its width.
    pub(super) fn new(s: &Resolved, aspect: f32) -> Shape {
        let half_width = s.number("size").max(1e-3) * 0.5;
        Shape {
            half_width,
            half_height: half_width * aspect,
            depth: s.number("depth").max(1e-3),
            wrapped: s.text("lies") != "thrown",
            mirrored: s.is_on("mirrored"),
            one_shell: s.is_on("one_shell"),
        }
    }

    /// No place that it covers lies farther from its spot, in mm; `texel` mm are the length of a texel.
    pub fn reach(&self, texel: f32) -> f32 {
        let (w, h) = (self.half_width + texel, self.half_height + texel);
        (w * w + h * h).sqrt() + self.depth * (1.0 + FADE)
    }
}

/// How a pin stands at one of the places that it is laid at.
#[derive(Debug, Clone, PartialEq)]
pub struct Frame {
    /// The middle of the picture, in mm.
    pub at: Vec3,
    /// Away from the surface; unit.
    pub normal: Vec3,
    /// To the right of the picture, on the surface; unit.
    pub right: Vec3,
    /// Up the picture, on the surface; unit.
    pub up: Vec3,
    /// Of its size, as much is laid.
    pub size: f32,
}

/// A place of the surface in a pin's picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Place {
    /// mm to the right of the middle.
    pub x: f32,
    /// mm above the middle.
    pub y: f32,
    /// 0…1: how much of it is taken there, as it fades with depth and where the surface turns away.
    pub share: f32,
}

impl Frame {
    /// Held by a spot.
    pub fn at(spot: &Spot) -> Frame {
        let [at, normal, up] = [spot.at, spot.normal, spot.up].map(|v| Vec3::from(v.map(|c| c as f32)));
        let normal = normal.normalize_or(Vec3::Y);
        let up = (up - normal * normal.dot(up)).normalize_or(normal.any_orthonormal_vector());
        Frame { at, normal, right: up.cross(normal), up, size: 1.0 }
    }

    /// With its right along a way.
    pub(super) fn along(at: Vec3, normal: Vec3, way: Vec3) -> Frame {
        let normal = normal.normalize_or(Vec3::Y);
        let right = (way - normal * normal.dot(way)).normalize_or(normal.any_orthonormal_vector());
        Frame { at, normal, right, up: normal.cross(right), size: 1.0 }
    }

    /// Turned about its middle, against the clock.
    pub fn turned(self, degrees: f32) -> Frame {
        let (sin, cos) = sin_cos_turn(degrees / 360.0);
        let (right, up) = (self.right, self.up);
        Frame { right: right * cos + up * sin, up: up * cos - right * sin, ..self }
    }

    pub(super) fn moved(self, right: f32, up: f32) -> Frame {
        Frame { at: self.at + self.right * right + self.up * up, ..self }
    }

    pub(super) fn sized(self, size: f32) -> Frame {
        Frame { size, ..self }
    }

    /// Where a place of the surface with that unit normal lies in the picture; none where the pin doesn't reach.
    pub fn place(&self, shape: &Shape, p: Vec3, n: Vec3) -> Option<Place> {
        let d = p - self.at;
        let facing = self.normal.dot(n).clamp(-1.0, 1.0);
        let (flat, off, turned) = if shape.wrapped { self.wrapped(d, n, facing) } else { self.thrown(d, facing) };
        let deep = (shape.depth * (1.0 + FADE) - off) / (shape.depth * FADE);
        let share = deep.clamp(0.0, 1.0) * turned;
        if share <= 0.0 {
            return None;
        }
        let x = flat.dot(self.right) / self.size * if shape.mirrored { -1.0 } else { 1.0 };
        Some(Place { x, y: flat.dot(self.up) / self.size, share })
    }

    /// The way to a place along the plane of the spot, how far it lies off, and how much it looks the way of the spot.
    fn thrown(&self, d: Vec3, facing: f32) -> (Vec3, f32, f32) {
        let off = d.dot(self.normal);
        (d - self.normal * off, off.abs(), ((facing - AWAY.0) / (AWAY.1 - AWAY.0)).clamp(0.0, 1.0))
    }

    /// The same along the surface.
    fn wrapped(&self, d: Vec3, n: Vec3, facing: f32) -> (Vec3, f32, f32) {
        let axis = self.normal.cross(n);
        let sin = axis.length();
        let flat = d - self.normal * d.dot(self.normal);
        if sin < 1e-4 {
            // Flat, or the other side of a sheet.
            return (flat, d.dot(self.normal).abs(), if facing > 0.0 { 1.0 } else { 0.0 });
        }
        let axis = axis / sin;
        let across = axis.cross(self.normal);
        let angle = libm::atan2f(sin, facing);
        let kept = axis * d.dot(axis);
        // Up to a right angle from what is seen from above, beyond it by the chord: both are exact where the surface is round.
        let seen = d.dot(across);
        let arc = if angle <= FRAC_PI_2 {
            seen * angle / sin
        } else {
            let half = angle * 0.5;
            let chord = (d - kept).length();
            chord * half / libm::sinf(half) * seen.signum()
        };
        let middle = (self.normal + n).normalize_or(self.normal);
        let turned = ((AROUND.1 - angle) / (AROUND.1 - AROUND.0)).clamp(0.0, 1.0);
        (kept + across * arc, d.dot(middle).abs(), turned)
    }

    /// The picture's right and up on the surface at a place with that normal, unit.
    pub fn carried(&self, n: Vec3, mirrored: bool) -> (Vec3, Vec3) {
        let turn = glam::Quat::from_rotation_arc(self.normal, n);
        let right = turn * self.right;
        (if mirrored { -right } else { right }, turn * self.up)
    }
}
