//! Wavefront OBJ through `tobj`. Parts come from `usemtl`, whether or not a material library is at hand; with one, they have its diffuse colours.

use std::io::{BufReader, Read};

use super::{Folder, MeshError, MeshLimits, Soup};

/// Reads an OBJ; positions are multiplied by `scale`, v is flipped to point down.
pub fn read(name: &str, bytes: &[u8], folder: &Folder, scale: f32, limits: MeshLimits) -> Result<Soup, MeshError> {
    check_face_count(bytes, limits)?;
    let names = material_names(bytes);
    let materials = || {
        let all = names.iter().map(|n| tobj::Material { name: n.clone(), ..Default::default() }).collect::<Vec<_>>();
        let map = names.iter().enumerate().map(|(i, n)| (n.clone(), i)).collect();
        Ok((all, map))
    };
    // tobj learns material names from libraries only; the line in front makes it ask for the one built from the names in use.
    let mut reader = BufReader::new((&b"mtllib parts\n"[..]).chain(bytes));
    let options = tobj::LoadOptions { single_index: false, triangulate: true, ignore_points: true, ignore_lines: true };
    let (models, materials) = tobj::load_obj_buf(&mut reader, &options, |_| materials())
        .map_err(|e| MeshError::Unreadable { why: e.to_string() })?;
    // A library that the file itself names makes tobj ask once more, and number the materials on.
    let materials = materials.unwrap_or_default();
    let mut soup = Soup::default();
    for (part, color) in part_colors(name, bytes, folder) {
        let part = soup.part(&part);
        soup.part_colors[part as usize] = Some(color);
    }
    for model in &models {
        let mesh = &model.mesh;
        let name = mesh.material_id.and_then(|i| materials.get(i)).map_or("body", |m| m.name.as_str());
        let part = soup.part(name);
        append(&mut soup, mesh, part, scale)?;
    }
    Ok(soup)
}

fn append(soup: &mut Soup, mesh: &tobj::Mesh, part: u16, scale: f32) -> Result<(), MeshError> {
    let three = |v: &[f32], i: u32| -> Option<[f32; 3]> {
        let at = i as usize * 3;
        v.get(at..at + 3).map(|s| [s[0], s[1], s[2]])
    };
    let bad = || MeshError::Unreadable { why: "a face names a vertex that is not there".into() };
    for face in 0..mesh.indices.len() / 3 {
        let mut corners = [([0.0; 3], [0.0; 3], [f32::NAN; 2]); 3];
        let mut colors = [None; 3];
        for (c, corner) in corners.iter_mut().enumerate() {
            let i = face * 3 + c;
            corner.0 = three(&mesh.positions, mesh.indices[i]).ok_or_else(bad)?.map(|v| v * scale);
            colors[c] = three(&mesh.vertex_color, mesh.indices[i]).map(bytes_of);
            corner.1 = mesh.normal_indices.get(i).and_then(|n| three(&mesh.normals, *n)).unwrap_or_default();
            if let Some(t) = mesh.texcoord_indices.get(i) {
                let at = *t as usize * 2;
                let uv = mesh.texcoords.get(at..at + 2).ok_or_else(bad)?;
                corner.2 = [uv[0], 1.0 - uv[1]];
            }
        }
        soup.push_colored(part, corners, colors);
    }
    Ok(())
}

fn bytes_of(color: [f32; 3]) -> [u8; 3] {
    color.map(|c| (c.clamp(0.0, 1.0) * 255.0).round() as u8)
}

/// The diffuse colours of the materials in use, as far as libraries came with the file. They are taken as sRGB, as modellers show them.
fn part_colors(name: &str, bytes: &[u8], folder: &Folder) -> Vec<(String, [u8; 3])> {
    let used = material_names(bytes);
    let libraries =
        lines(bytes, b"mtllib").filter_map(|l| folder.beside(name, &String::from_utf8_lossy(l.trim_ascii())));
    let materials = libraries.filter_map(|l| tobj::load_mtl_buf(&mut BufReader::new(l)).ok()).flat_map(|(all, _)| all);
    let with_color = materials.filter_map(|m| Some((m.name, bytes_of(m.diffuse?))));
    with_color.filter(|(name, _)| used.contains(name)).collect()
}

fn lines<'a>(bytes: &'a [u8], word: &'a [u8]) -> impl Iterator<Item = &'a [u8]> {
    bytes
        .split(|b| *b == b'\n')
        .map(<[u8]>::trim_ascii)
        .filter_map(move |l| l.strip_prefix(word).filter(|rest| rest.first().is_some_and(u8::is_ascii_whitespace)))
}

fn material_names(bytes: &[u8]) -> Vec<String> {
    let mut names: Vec<String> = Vec::new();
    for rest in lines(bytes, b"usemtl") {
        let name = String::from_utf8_lossy(rest.trim_ascii()).into_owned();
        if !names.contains(&name) && names.len() < usize::from(u16::MAX) {
            names.push(name);
        }
    }
    names
}

fn check_face_count(bytes: &[u8], limits: MeshLimits) -> Result<(), MeshError> {
    let corners = |l: &[u8]| l.split(u8::is_ascii_whitespace).filter(|w| !w.is_empty()).count();
    let found: usize = lines(bytes, b"f").map(|l| corners(l).saturating_sub(2)).sum();
    if found > limits.triangles {
        return Err(MeshError::TooLarge { what: "triangles", found, limit: limits.triangles });
    }
    Ok(())
}
