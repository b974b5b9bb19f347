//! STL, text and binary. It knows neither materials nor UVs nor shared corners; the solids of a text can be its parts.
//!
//! Which of both a file is follows from its length: a binary one says how many triangles it has, whatever its first line reads.

use super::text::{decode, lines, shown};
use super::{MeshError, Reading, Slots, Soup, polygon, unreadable};

/// What the part is called of faces that lie in none.
const UNNAMED: &str = "body";
/// Bytes before the triangles of a binary file, and bytes of each: a normal, three corners, and two for which there is no use.
const HEAD: usize = 84;
const TRIANGLE: usize = 50;
/// Among as many bytes a binary file has one that is no letter.
const TOLD: usize = 1024;

/// Reads an STL. Its y is taken to be up, as everywhere here.
pub fn read(bytes: &[u8], reading: &Reading) -> Result<Soup, MeshError> {
    let (scale, limits) = (reading.scale, reading.limits);
    let mut soup = Soup::default();
    let mut add = |solid: &str, corners: [[f32; 3]; 3]| {
        let part = soup.part(if reading.slots == Slots::Objects { solid } else { UNNAMED });
        // Facet normals would make every edge hard; they are computed from the faces instead.
        soup.push(part, corners.map(|p| (p.map(|c| c * scale), [0.0; 3], [f32::NAN; 2])));
        let found = soup.len();
        let many = found > limits.triangles;
        if many { Err(MeshError::TooLarge { what: "triangles", found, limit: limits.triangles }) } else { Ok(()) }
    };
    let count = bytes.get(80..HEAD).map(|b| u32::from_le_bytes([b[0], b[1], b[2], b[3]]) as usize);
    let is_text = bytes.trim_ascii_start().get(..5).is_some_and(|word| word.eq_ignore_ascii_case(b"solid"))
        && !bytes.iter().take(TOLD).any(|b| *b == 0);
    let fits = count.is_some_and(|n| n.checked_mul(TRIANGLE).and_then(|n| n.checked_add(HEAD)) == Some(bytes.len()));
    if is_text && !fits {
        let solids = read_text(&decode(bytes), &mut add)?;
        soup.offers.objects = solids > 1;
        return Ok(soup);
    }
    let Some(count) = count else { return Err(unreadable("it is too short for an STL")) };
    let there = (bytes.len() - HEAD) / TRIANGLE;
    if there < count {
        return Err(unreadable(format!("it says that it has {count} triangles and holds {there}; it was cut off")));
    }
    for triangle in bytes[HEAD..].chunks_exact(TRIANGLE).take(count) {
        let number = |i: usize| f32::from_le_bytes([triangle[i], triangle[i + 1], triangle[i + 2], triangle[i + 3]]);
        add(UNNAMED, [12, 24, 36].map(|at| [number(at), number(at + 4), number(at + 8)]))?;
    }
    Ok(soup)
}

type Add<'a> = &'a mut dyn FnMut(&str, [[f32; 3]; 3]) -> Result<(), MeshError>;

/// Three lines that begin with `vertex` are a triangle; whatever else stands between them says nothing of the shape. Each solid has a name, or a number. How many there are.
fn read_text(text: &str, add: Add) -> Result<usize, MeshError> {
    let (mut corners, mut solid, mut solids) = (vec![], UNNAMED.to_owned(), 0);
    for (at, line) in lines(text) {
        let mut words = line.split_whitespace();
        let word = words.next().unwrap_or("").to_ascii_lowercase();
        if word == "vertex" {
            let mut corner = [0.0; 3];
            for slot in &mut corner {
                let text = words
                    .next()
                    .ok_or_else(|| unreadable(format!("the vertex in line {at} has fewer than three numbers")))?;
                *slot = text.parse().map_err(|_| unreadable(format!("“{}” in line {at} is no number", shown(text))))?;
            }
            corners.push(corner);
        } else if word == "solid" {
            solids += 1;
            let name = words.collect::<Vec<_>>().join(" ");
            solid = if name.is_empty() { format!("solid {solids}") } else { shown(&name) };
        } else if word == "endloop" || word == "endfacet" {
            for three in polygon::cut(&corners) {
                add(&solid, three.map(|k| corners[k]))?;
            }
            corners.clear();
        }
    }
    if corners.is_empty() { Ok(solids) } else { Err(unreadable("its last triangle is not closed; it was cut off")) }
}
