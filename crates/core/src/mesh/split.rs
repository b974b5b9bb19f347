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
