//! A bounding volume hierarchy over triangles and packets of rays against it.
//!
//! The tree is binary, built by binned surface area heuristic (Wald 2007). Rays go through it in packets of [`WIDTH`] lanes that share the
//! walk: neighbouring texels send like-directed rays, so the lanes visit the same nodes, and the arithmetic over lanes is left to
//! the vectoriser, compiled for several instruction sets. No fused multiply-add is used, so every machine gets the same bits.

mod build;
mod cast;
mod near;

use glam::Vec3;
use rayon::prelude::*;

use super::triangles::Triangle;
use crate::mesh::Piece;
use crate::task::{Cancel, Cancelled};
use build::{Bounds, Item, tree};

/// Lanes of a packet.
pub const WIDTH: usize = 16;

/// Inner nodes have `count` 0 and children at `first` and `first + 1`; leaves hold `count` triangles from `first`.
#[derive(Debug, Clone, Copy)]
struct Node {
    min: [f32; 3],
    first: u32,
    max: [f32; 3],
    count: u16,
    axis: u16,
}

/// The hierarchy.
pub struct Bvh {
    nodes: Vec<Node>,
    triangles: Vec<Triangle>,
    /// What the triangles were numbered before they were sorted into leaves.
    index: Vec<u32>,
}

/// No triangle.
pub const MISSED: u32 = u32::MAX;

/// [`WIDTH`] rays. A lane with `far` < 0 is off.
#[derive(Debug, Clone)]
#[repr(align(64))]
pub struct Packet {
    /// Origins, by axis.
    pub origin: [[f32; WIDTH]; 3],
    /// Directions, by axis; their length is the unit of distances.
    pub direction: [[f32; WIDTH]; 3],
    /// Least distance.
    pub near: [f32; WIDTH],
    /// Greatest distance.
    pub far: [f32; WIDTH],
}

impl Default for Packet {
    fn default() -> Self {
        let z = [0.0; WIDTH];
        Self { origin: [z; 3], direction: [z; 3], near: z, far: [-1.0; WIDTH] }
    }
}

impl Packet {
    /// Sets one lane.
    #[inline]
    pub fn set(&mut self, lane: usize, origin: [f32; 3], direction: [f32; 3], near: f32, far: f32) {
        for a in 0..3 {
            self.origin[a][lane] = origin[a];
            self.direction[a][lane] = direction[a];
        }
        self.near[lane] = near;
        self.far[lane] = far;
    }
}

impl Bvh {
    /// Builds the hierarchy of a piece.
    pub fn of_piece(piece: &Piece) -> Bvh {
        Bvh::build(&(0..piece.triangles.len() as u32).map(|t| piece.corners(t)).collect::<Vec<_>>())
    }

    /// As [`of_piece`](Self::of_piece), for as long as nobody asks to stop.
    ///
    /// # Errors
    /// [`Cancelled`], within some milliseconds.
    pub fn of_piece_unless(piece: &Piece, cancel: &Cancel) -> Result<Bvh, Cancelled> {
        let corners = |t| cancel.check().map(|()| piece.corners(t));
        let all: Result<Vec<_>, _> = (0..piece.triangles.len() as u32).into_par_iter().map(corners).collect();
        Bvh::build_unless(&all?, cancel)
    }

    /// Builds the hierarchy of triangles; cost grows as n log n.
    pub fn build(all: &[[Vec3; 3]]) -> Bvh {
        Bvh::build_unless(all, &Cancel::default()).expect("nobody can ask it to stop")
    }

    /// As [`build`](Self::build), for as long as nobody asks to stop.
    ///
    /// # Errors
    /// [`Cancelled`], within some milliseconds.
    pub fn build_unless(all: &[[Vec3; 3]], cancel: &Cancel) -> Result<Bvh, Cancelled> {
        cancel.check()?;
        let mut items: Vec<Item> = all.par_iter().enumerate().map(|(i, t)| Item::new(i as u32, t)).collect();
        let bounds = Bounds::of_all(&items);
        let nodes = tree(&mut items, &bounds, 0, 0, cancel);
        cancel.check()?;
        let triangle = |i: &Item| cancel.check().map(|()| Triangle::new(all[i.index as usize]));
        let triangles = items.par_iter().map(triangle).collect::<Result<_, _>>()?;
        Ok(Bvh { nodes, triangles, index: items.iter().map(|i| i.index).collect() })
    }

    /// The nearest place of the triangles to a point that is nearer than `within`.
    pub fn nearest_place(&self, p: Vec3, within: f32) -> Option<Vec3> {
        near::nearest_place(self, p, within)
    }

    /// The stretches of each lane that lie within solids, however many lie over one another there: `tell` gets the lane, where it begins and where it ends, up to the
    /// lane's `far`. `depth` says in how many solids each lane begins.
    pub fn within(&self, packet: &Packet, depth: &[f32; WIDTH], tell: impl FnMut(usize, f32, f32)) {
        cast::within(&self.nodes, &self.triangles, packet, depth, tell);
    }

    /// In how many solids each lane begins, told by what it crosses on its way to `far`, which should lie in the open.
    pub fn depth(&self, packet: &Packet) -> [f32; WIDTH] {
        cast::depth(&self.nodes, &self.triangles, packet)
    }

    /// Which lanes hit anything between `near` and `far`.
    pub fn occluded(&self, packet: &mut Packet) -> [bool; WIDTH] {
        cast::occluded(&self.nodes, &self.triangles, packet)
    }

    /// Distance of each lane's nearest hit between `near` and `far`, or `far` where there is none.
    pub fn nearest(&self, packet: &mut Packet) -> [f32; WIDTH] {
        cast::nearest(&self.nodes, &self.triangles, packet)
    }

    /// As [`nearest`](Self::nearest), with the triangle that each lane hits; [`MISSED`] where it hits none.
    pub fn closest(&self, packet: &mut Packet) -> ([f32; WIDTH], [u32; WIDTH]) {
        let (far, hit) = cast::closest(&self.nodes, &self.triangles, packet);
        (far, hit.map(|h| if h == MISSED { MISSED } else { self.index[h as usize] }))
    }

    /// As [`occluded`](Self::occluded), but a lane is stopped by triangles of one shell alone: `shell[lane]`, by `shell_of` per triangle.
    pub fn occluded_by(&self, packet: &mut Packet, shell: &[u32; WIDTH], shell_of: &[u32]) -> [bool; WIDTH] {
        cast::occluded_by(self, packet, shell, shell_of)
    }

    /// All hits of each lane between `near` and `far`, in no order: `weight[k][lane]` gains ±(1 − (t/radii[k])³) for each nearer than the radius, plus where the
    /// ray enters the front of a triangle, minus where it leaves by the back. With unit directions this sums the share of the ball's cone
    /// that lies inside the solid, but for whether the ray starts inside. `far` must be the largest of the radii.
    pub fn inside_shares(&self, packet: &Packet, radii: [f32; 3], weight: &mut [[f32; WIDTH]; 3]) {
        cast::inside_shares(&self.nodes, &self.triangles, packet, radii, weight);
    }

    /// The nearest hit of one ray: distance, triangle, barycentrics of the second and third corner.
    pub fn first_hit(&self, origin: Vec3, direction: Vec3) -> Option<(f32, u32, [f32; 2])> {
        cast::first_hit(self, origin, direction)
    }
}
