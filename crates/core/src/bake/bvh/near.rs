//! The nearest place of the triangles to a point.

use glam::Vec3;

use super::Bvh;
use crate::bake::triangles::Triangle;

/// The nearest place to `p` that is nearer than `within`, by going through boxes from the nearest on.
pub(super) fn nearest_place(bvh: &Bvh, p: Vec3, within: f32) -> Option<Vec3> {
    let (mut best, mut found) = (within * within, None);
    let mut stack = [0u32; 64];
    let mut top = 1;
    while top > 0 {
        top -= 1;
        let node = &bvh.nodes[stack[top] as usize];
        if away(node.min, node.max, p) >= best {
            continue;
        }
        if node.count > 0 {
            for t in &bvh.triangles[node.first as usize..node.first as usize + usize::from(node.count)] {
                let place = on_triangle(t, p);
                let far = place.distance_squared(p);
                if far < best {
                    (best, found) = (far, Some(place));
                }
            }
        } else if node.first > 0 && top + 2 <= stack.len() {
            let [a, b] = [0, 1].map(|k| {
                let child = &bvh.nodes[(node.first + k) as usize];
                away(child.min, child.max, p)
            });
            // The nearer child last: it is looked at first.
            let nearer = u32::from(b < a);
            stack[top] = node.first + 1 - nearer;
            stack[top + 1] = node.first + nearer;
            top += 2;
        }
    }
    found
}

/// Square of the distance of a point to a box.
#[inline]
fn away(min: [f32; 3], max: [f32; 3], p: Vec3) -> f32 {
    (Vec3::from(min) - p).max(p - Vec3::from(max)).max(Vec3::ZERO).length_squared()
}

/// The nearest place of a triangle, by the regions of its corners, sides and face (Ericson 2005, Real-Time Collision Detection, 5.1.5).
fn on_triangle(t: &Triangle, p: Vec3) -> Vec3 {
    let (a, ab, ac) = (Vec3::from(t.a), Vec3::from(t.e1), Vec3::from(t.e2));
    let ap = p - a;
    let (d1, d2) = (ab.dot(ap), ac.dot(ap));
    if d1 <= 0.0 && d2 <= 0.0 {
        return a;
    }
    let bp = ap - ab;
    let (d3, d4) = (ab.dot(bp), ac.dot(bp));
    if d3 >= 0.0 && d4 <= d3 {
        return a + ab;
    }
    let vc = d1 * d4 - d3 * d2;
    if vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0 {
        return a + ab * (d1 / (d1 - d3));
    }
    let cp = ap - ac;
    let (d5, d6) = (ab.dot(cp), ac.dot(cp));
    if d6 >= 0.0 && d5 <= d6 {
        return a + ac;
    }
    let vb = d5 * d2 - d1 * d6;
    if vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0 {
        return a + ac * (d2 / (d2 - d6));
    }
    let va = d3 * d6 - d5 * d4;
    if va <= 0.0 && d4 >= d3 && d5 >= d6 {
        return a + ab + (ac - ab) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
    }
    let sum = va + vb + vc;
    if sum.abs() < 1e-30 { a } else { a + ab * (vb / sum) + ac * (vc / sum) }
}
