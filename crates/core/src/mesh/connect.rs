//! Connected components of triangles, by whatever counts as the same vertex.

use foldhash::{HashMap, HashMapExt};
use std::hash::Hash;

/// A component number per triangle, counted from 0 in the order of the first triangle of each.
/// Two triangles are connected when they share a vertex key.
pub fn components<K: Hash + Eq>(triangles: &[[u32; 3]], key: impl Fn(u32) -> K) -> Vec<u32> {
    let mut parent: Vec<u32> = (0..triangles.len() as u32).collect();
    let mut first: HashMap<K, u32> = HashMap::new();
    for (t, tri) in triangles.iter().enumerate() {
        for v in tri {
            let other = *first.entry(key(*v)).or_insert(t as u32);
            let (a, b) = (root(&mut parent, t as u32), root(&mut parent, other));
            let (low, high) = (a.min(b), a.max(b));
            parent[high as usize] = low;
        }
    }
    let mut number: HashMap<u32, u32> = HashMap::new();
    (0..triangles.len() as u32)
        .map(|t| {
            let r = root(&mut parent, t);
            let next = number.len() as u32;
            *number.entry(r).or_insert(next)
        })
        .collect()
}

fn root(parent: &mut [u32], mut t: u32) -> u32 {
    while parent[t as usize] != t {
        parent[t as usize] = parent[parent[t as usize] as usize];
        t = parent[t as usize];
    }
    t
}

/// How many components a numbering has.
pub fn count(of: &[u32]) -> u32 {
    of.iter().max().map_or(0, |m| m + 1)
}
