//! What is wrong with a mesh, or worth knowing of it: each finding says what it means and what to do.

use std::collections::HashSet;

use glam::{Vec2, Vec3};

use super::edges::{self, Side};
use super::{Finding, Piece};

struct Counts {
    crowded: usize,
    turned: usize,
    open: usize,
}

fn count(sides: &[Side]) -> Counts {
    let mut c = Counts { crowded: 0, turned: 0, open: 0 };
    for meeting in edges::meetings(sides) {
        match meeting {
            [_] => c.open += 1,
            [a, b] => c.turned += usize::from(a.forward == b.forward),
            _ => c.crowded += 1,
        }
    }
    c
}

/// Looks a piece over, given the places of its vertices and the sides of its edges.
pub fn survey(piece: &Piece, places: &[u32], sides: &[Side]) -> Vec<Finding> {
    let counts = count(sides);
    let mut out = vec![];
    let mut say = |n: usize, serious: bool, one: &str, many: &str, remedy: &str| {
        if n > 0 {
            let what = if n == 1 { format!("1 {one}.") } else { format!("{n} {many}.") };
            out.push(Finding { serious, what, remedy: remedy.into() });
        }
    };
    say(
        counts.crowded,
        false,
        "edge has more than two faces (non-manifold)",
        "edges have more than two faces (non-manifold)",
        "Readings work; nothing crosses such an edge. Separate the surfaces in the modeller if dirt should run over it.",
    );
    say(
        counts.turned,
        true,
        "edge lies between faces that look to opposite sides (mixed winding)",
        "edges lie between faces that look to opposite sides (mixed winding)",
        "Occlusion, edges and thickness read inside out there. Set Winding to be made one way under Mending, or make the normals consistent in the modeller.",
    );
    say(
        inside_out(piece, sides, &counts),
        true,
        "closed shell is inside out",
        "closed shells are inside out",
        "Their readings are the wrong way round. Set Winding to be made one way under Mending, or flip their faces in the modeller.",
    );
    say(
        duplicates(piece, places),
        true,
        "face lies exactly on another",
        "faces lie exactly on others",
        "They flicker and count twice. Remove doubled faces in the modeller.",
    );
    say(
        counts.open,
        false,
        "edge is open: it has a face on one side only",
        "edges are open: they have a face on one side only",
        "Fine for sheets and cloth; thickness sees through the openings of a solid.",
    );
    let (flat, mirrored) = uv_signs(piece);
    say(
        flat,
        false,
        "triangle has no area in its UVs",
        "triangles have no area in their UVs",
        "They get the colour of the texel under them. If that shows, have the UVs of their part laid out anew (the list of parts).",
    );
    say(
        mirrored,
        false,
        "triangle has mirrored UVs",
        "triangles have mirrored UVs",
        "Relief is right on them; a picture laid by UV is mirrored there.",
    );
    out
}

/// Closed shells whose signed volume is negative. Where winding is mixed or edges crowd, there is no telling.
fn inside_out(piece: &Piece, sides: &[Side], counts: &Counts) -> usize {
    if counts.turned > 0 || counts.crowded > 0 {
        return 0;
    }
    let mut volume = vec![0.0f64; piece.shells as usize];
    let mut closed = vec![true; piece.shells as usize];
    for meeting in edges::meetings(sides) {
        if let [only] = meeting {
            closed[piece.shell_of[only.triangle as usize] as usize] = false;
        }
    }
    let middle = (Vec3::from(piece.min) + Vec3::from(piece.max)) * 0.5;
    for t in 0..piece.triangles.len() as u32 {
        let [a, b, c] = piece.corners(t).map(|p| p - middle);
        volume[piece.shell_of[t as usize] as usize] += f64::from(a.dot(b.cross(c)));
    }
    volume.iter().zip(closed).filter(|(v, closed)| *closed && **v < 0.0).count()
}

fn duplicates(piece: &Piece, places: &[u32]) -> usize {
    let mut seen = HashSet::with_capacity(piece.triangles.len());
    let again = |tri: &&[u32; 3]| {
        let mut at = tri.map(|v| places[v as usize]);
        at.sort_unstable();
        !seen.insert(at)
    };
    piece.triangles.iter().filter(again).count()
}

/// Triangles without area in the square, and those that lie in it the other way round (glTF's v points down).
fn uv_signs(piece: &Piece) -> (usize, usize) {
    let (mut flat, mut mirrored) = (0, 0);
    for tri in &piece.triangles {
        let [a, b, c] = tri.map(|v| Vec2::from(piece.uvs[v as usize]));
        let double = (b - a).perp_dot(c - a);
        flat += usize::from(double.abs() < 1e-12);
        mirrored += usize::from(double > 1e-12);
    }
    // A piece that is mirrored as a whole only has its v the other way up.
    (flat, if mirrored + flat == piece.triangles.len() { 0 } else { mirrored })
}
