//! STL (text and binary) through `stl_io`. It knows neither parts nor UVs nor shared corners.

use std::io::Cursor;

use super::{MeshError, MeshLimits, Soup};

/// Reads an STL; positions are multiplied by `scale`. Its y is taken to be up, as everywhere here.
pub fn read(bytes: &[u8], scale: f32, limits: MeshLimits) -> Result<Soup, MeshError> {
    let unreadable = |e: std::io::Error| MeshError::Unreadable { why: e.to_string() };
    let mut cursor = Cursor::new(bytes);
    let triangles = stl_io::create_stl_reader(&mut cursor).map_err(unreadable)?;
    let mut soup = Soup::default();
    let part = soup.part("body");
    for triangle in triangles {
        let triangle = triangle.map_err(unreadable)?;
        // Facet normals would make every edge hard; they are computed from the faces instead.
        soup.push(part, triangle.vertices.map(|v| (v.0.map(|c| c * scale), [0.0; 3], [f32::NAN; 2])));
        if soup.len() > limits.triangles {
            return Err(MeshError::TooLarge { what: "triangles", found: soup.len(), limit: limits.triangles });
        }
    }
    Ok(soup)
}
