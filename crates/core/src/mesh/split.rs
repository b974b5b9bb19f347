//! A mesh cut finer, so that its relief can move it: every triangle into four, again and again, as the view draws it.

use std::collections::HashMap;

use glam::Vec3;

use super::Piece;

/// Position, normal, tangent with its sign, and UV of a vertex.
pub type Vertex = [f32; 12];

/// The vertices of a piece.
pub fn vertices(piece: &Piece) -> Vec<Vertex> {
    let vertex = |i: usize| {
        let (p, n, t, uv) = (piece.positions[i], piece.normals[i], piece.tangents[i], piece.uvs[i]);
        [p[0], p[1], p[2], n[0], n[1], n[2], t[0], t[1], t[2], t[3], uv[0], uv[1]]
    };
    (0..piece.positions.len()).map(vertex).collect()
}

/// Cuts as often as leaves at most `most` triangles. All are cut alike, so no edge meets the middle of another one.
pub fn split(mut vertices: Vec<Vertex>, mut triangles: Vec<[u32; 3]>, most: usize) -> (Vec<Vertex>, Vec<[u32; 3]>) {
    while !triangles.is_empty() && triangles.len() * 4 <= most {
        let mut middles: HashMap<(u32, u32), u32> = HashMap::new();
        let mut middle = |a: u32, b: u32| {
            *middles.entry((a.min(b), a.max(b))).or_insert_with(|| {
                let (a, b) = (vertices[a as usize], vertices[b as usize]);
                vertices.push(std::array::from_fn(|k| (a[k] + b[k]) * 0.5));
                vertices.len() as u32 - 1
            })
        };
        let four = |[a, b, c]: [u32; 3]| {
            let (ab, bc, ca) = (middle(a, b), middle(b, c), middle(c, a));
            [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]
        };
        triangles = triangles.into_iter().flat_map(four).collect();
    }
    (vertices, triangles)
}

/// The place that each vertex lies in, by number: those within a thousandth of a mm share one. How many places there are.
pub fn places(vertices: &[Vertex]) -> (Vec<u32>, usize) {
    let mut numbers: HashMap<[i64; 3], u32> = HashMap::new();
    let mut number = |v: &Vertex| {
        let place = [v[0], v[1], v[2]].map(|c| (f64::from(c) * 1000.0).round() as i64);
        let next = numbers.len() as u32;
        *numbers.entry(place).or_insert(next)
    };
    let of = vertices.iter().map(&mut number).collect();
    (of, numbers.len())
}

/// The way in which relief moves each vertex: the mean of the normals of all that lie in one place, so that hard edges don't gape.
pub fn outward(vertices: &[Vertex]) -> Vec<[f32; 3]> {
    let normal = |v: &Vertex| Vec3::new(v[3], v[4], v[5]).normalize_or_zero();
    let (place, count) = places(vertices);
    let mut sums = vec![Vec3::ZERO; count];
    for (v, at) in vertices.iter().zip(&place) {
        sums[*at as usize] += normal(v);
    }
    vertices.iter().zip(&place).map(|(v, at)| sums[*at as usize].normalize_or(normal(v)).to_array()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

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
            let wanted = if v[0] == 0.0 && v[1] == 0.0 {
                Vec3::new(1.0, 1.0, 0.0).normalize()
            } else {
                Vec3::from_slice(&v[3..6])
            };
            assert!((Vec3::from(*way) - wanted).length() < 1e-5, "{way:?} at {:?}", &v[..3]);
        }
    }
}
