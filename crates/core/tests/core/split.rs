//! Triangles cut into four for relief that moves them.

use dustcoat_core::mesh::split::{Vertex, outward, split};
use glam::Vec3;

/// Two triangles with a hard edge between them, so with vertices of their own there: one faces up, one to the right.
fn roof() -> (Vec<Vertex>, Vec<[u32; 3]>) {
    let vertex = |p: [f32; 3], n: [f32; 3]| [p[0], p[1], p[2], n[0], n[1], n[2], 1.0, 0.0, 0.0, 1.0, p[0], p[2]];
    let (up, right) = ([0.0, 1.0, 0.0], [1.0, 0.0, 0.0]);
    let (a, b) = ([0.0, 0.0, 0.0], [0.0, 0.0, 8.0]);
    let all = [(a, up), (b, up), ([-8.0, 0.0, 0.0], up), (b, right), (a, right), ([0.0, -8.0, 0.0], right)];
    (all.map(|(p, n)| vertex(p, n)).to_vec(), vec![[0, 1, 2], [3, 4, 5]])
}

#[test]
fn it_covers_what_it_covered_in_four_times_the_triangles() {
    let area = |v: &[Vertex], t: &[[u32; 3]]| -> f32 {
        let p = |i: u32| Vec3::from_slice(&v[i as usize][..3]);
        t.iter().map(|[a, b, c]| (p(*b) - p(*a)).cross(p(*c) - p(*a)).length() * 0.5).sum()
    };
    let (v, t) = roof();
    let (fine, many) = split(v.clone(), t.clone(), 40);
    assert_eq!(many.len(), 32, "twice cut: a third time would be too many");
    assert!((area(&fine, &many) - area(&v, &t)).abs() < 1e-3);
    // A triangle cut twice has fifteen corners, not one each.
    assert_eq!(fine.len(), 30);
    assert_eq!(split(v, t.clone(), 7).1, t, "too few are allowed to cut at all");
}

#[test]
fn a_hard_edge_moves_as_one() {
    let (v, t) = roof();
    let (fine, _) = split(v, t, 32);
    let ways = outward(&fine);
    for (v, way) in fine.iter().zip(&ways) {
        let wanted =
            if v[0] == 0.0 && v[1] == 0.0 { Vec3::new(1.0, 1.0, 0.0).normalize() } else { Vec3::from_slice(&v[3..6]) };
        assert!((Vec3::from(*way) - wanted).length() < 1e-5, "{way:?} at {:?}", &v[..3]);
    }
}
