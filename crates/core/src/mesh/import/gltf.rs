//! glTF 2.0 and GLB through the `gltf` crate: node transforms applied, parts from materials, buffers embedded or beside it.

use base64::Engine;
use glam::{Mat3, Mat4, Vec3};
use gltf::buffer::Source;

use super::{Folder, FoundPicture, MeshError, MeshLimits, Soup};
use crate::raster::srgb::encode_u8;

const MAX_NODES: usize = 100_000;

fn unreadable(why: impl ToString) -> MeshError {
    MeshError::Unreadable { why: why.to_string() }
}

/// Reads a GLB or glTF; positions are multiplied by `scale`.
pub fn read(name: &str, bytes: &[u8], folder: &Folder, scale: f32, limits: MeshLimits) -> Result<Soup, MeshError> {
    guarded(|| parse(name, bytes, folder, scale, limits))
}

/// The pictures that the file's materials use, each once.
pub fn pictures(name: &str, bytes: &[u8], folder: &Folder) -> Result<Vec<FoundPicture>, MeshError> {
    guarded(|| find_pictures(name, bytes, folder))
}

/// The crate's validation indexes what it hasn't validated yet, so some damaged files make it panic. Nothing of ours is changed half-way: the
/// reader only makes new values.
fn guarded<T>(work: impl FnOnce() -> Result<T, MeshError>) -> Result<T, MeshError> {
    let result = std::panic::catch_unwind(std::panic::AssertUnwindSafe(work));
    result.unwrap_or_else(|_| Err(unreadable("it refers to something that it doesn't hold")))
}

fn find_pictures(name: &str, bytes: &[u8], folder: &Folder) -> Result<Vec<FoundPicture>, MeshError> {
    let gltf = gltf::Gltf::from_slice(bytes).map_err(unreadable)?;
    let buffers = load_buffers(name, &gltf, folder)?;
    let content = |image: gltf::Image| match image.source() {
        gltf::image::Source::View { view, .. } => {
            let end = view.offset().checked_add(view.length())?;
            Some(buffers.get(view.buffer().index())?.get(view.offset()..end)?.to_vec())
        }
        gltf::image::Source::Uri { uri, .. } => bytes_of_uri(name, uri, folder).ok(),
    };
    let mut found: Vec<FoundPicture> = vec![];
    for material in gltf.materials() {
        let pbr = material.pbr_metallic_roughness();
        let used = [
            (material.normal_texture().map(|t| t.texture()), Some("normal"), "normal"),
            (material.occlusion_texture().map(|t| t.texture()), Some("occlusion"), "occlusion"),
            (pbr.base_color_texture().map(|t| t.texture()), None, "base color"),
            (pbr.metallic_roughness_texture().map(|t| t.texture()), None, "metallic and roughness"),
            (material.emissive_texture().map(|t| t.texture()), None, "emissive"),
        ];
        for (texture, purpose, what) in used {
            let Some(bytes) = texture.and_then(|t| content(t.source())) else { continue };
            if !found.iter().any(|f| f.bytes == bytes) {
                let material = material.name().unwrap_or("material");
                found.push(FoundPicture { name: format!("{material}, {what}"), purpose, bytes });
            }
        }
    }
    Ok(found)
}

fn parse(name: &str, bytes: &[u8], folder: &Folder, scale: f32, limits: MeshLimits) -> Result<Soup, MeshError> {
    let gltf = gltf::Gltf::from_slice(bytes).map_err(unreadable)?;
    let buffers = load_buffers(name, &gltf, folder)?;
    let count = count_triangles(&gltf.document);
    if count > limits.triangles {
        return Err(MeshError::TooLarge { what: "triangles", found: count, limit: limits.triangles });
    }
    check_accessors(&gltf.document, &buffers)?;
    let mut soup = Soup::default();
    let scene = gltf.default_scene().or_else(|| gltf.scenes().next());
    let mut todo: Vec<(gltf::Node, Mat4)> = match &scene {
        Some(s) => s.nodes().map(|n| (n, Mat4::IDENTITY)).collect(),
        None => return Err(MeshError::Empty),
    };
    let mut visited = 0;
    while let Some((node, parent)) = todo.pop() {
        visited += 1;
        if visited > MAX_NODES {
            return Err(MeshError::TooLarge { what: "nodes", found: visited, limit: MAX_NODES });
        }
        let world = parent * Mat4::from_cols_array_2d(&node.transform().matrix());
        if let Some(mesh) = node.mesh() {
            for primitive in mesh.primitives() {
                append(&mut soup, &primitive, &buffers, world, scale)?;
                if soup.parts.len() > limits.triangles {
                    let (found, limit) = (soup.parts.len(), limits.triangles);
                    return Err(MeshError::TooLarge { what: "triangles", found, limit });
                }
            }
        }
        todo.extend(node.children().map(|c| (c, world)));
    }
    Ok(soup)
}

fn load_buffers(name: &str, gltf: &gltf::Gltf, folder: &Folder) -> Result<Vec<Vec<u8>>, MeshError> {
    gltf.buffers()
        .map(|b| {
            let data = match b.source() {
                Source::Bin => gltf.blob.clone().ok_or_else(|| unreadable("the GLB has no binary chunk"))?,
                Source::Uri(uri) => bytes_of_uri(name, uri, folder)?,
            };
            if data.len() < b.length() {
                return Err(unreadable("a buffer is shorter than the file says; it was cut off"));
            }
            Ok(data)
        })
        .collect()
}

/// What a URI holds (`data:`), or names in the folder that came with the file; nothing else is looked at.
fn bytes_of_uri(name: &str, uri: &str, folder: &Folder) -> Result<Vec<u8>, MeshError> {
    if let Some((_, text)) = uri.strip_prefix("data:").and_then(|d| d.split_once(";base64,")) {
        return base64::engine::general_purpose::STANDARD.decode(text).map_err(unreadable);
    }
    let beside = folder.beside(name, uri).map(<[u8]>::to_vec);
    beside.ok_or_else(|| MeshError::ExternalBuffer { uri: uri.chars().take(80).collect() })
}

fn count_triangles(document: &gltf::Document) -> usize {
    let primitives = document.meshes().flat_map(|m| m.primitives().collect::<Vec<_>>());
    let corners = |p: &gltf::Primitive| match p.indices() {
        Some(a) => a.count(),
        None => p.get(&gltf::Semantic::Positions).map_or(0, |a| a.count()),
    };
    primitives.map(|p| corners(&p) / 3).fold(0, usize::saturating_add)
}

/// The crate's readers slice without asking; every view is checked here, so that none of them can run out of its buffer.
fn check_accessors(document: &gltf::Document, buffers: &[Vec<u8>]) -> Result<(), MeshError> {
    let short = || unreadable("an accessor reaches past the end of its buffer");
    let fits = |view: &gltf::buffer::View, offset: usize, bytes: usize| {
        let end = view.offset().checked_add(view.length());
        let inside = end.is_some_and(|e| e <= buffers[view.buffer().index()].len());
        inside && offset.checked_add(bytes).is_some_and(|e| e <= view.length())
    };
    for a in document.accessors() {
        let size = a.size();
        if let Some(view) = a.view() {
            let stride = view.stride().unwrap_or(size);
            let bytes = a.count().checked_sub(1).and_then(|n| n.checked_mul(stride)).and_then(|n| n.checked_add(size));
            if stride < size || !bytes.is_some_and(|b| fits(&view, a.offset(), b)) {
                return Err(short());
            }
        } else if a.count().saturating_mul(size) > 1 << 30 {
            return Err(short());
        }
        if let Some(sparse) = a.sparse() {
            let n = sparse.count();
            let index_size = match sparse.indices().index_type() {
                gltf::accessor::sparse::IndexType::U8 => 1,
                gltf::accessor::sparse::IndexType::U16 => 2,
                gltf::accessor::sparse::IndexType::U32 => 4,
            };
            let (iv, vv) = (sparse.indices().view(), sparse.values().view());
            let ok = fits(&iv, sparse.indices().offset(), n.saturating_mul(index_size))
                && fits(&vv, sparse.values().offset(), n.saturating_mul(size));
            if !ok || n > a.count() {
                return Err(short());
            }
        }
    }
    Ok(())
}

fn append(
    soup: &mut Soup,
    primitive: &gltf::Primitive,
    buffers: &[Vec<u8>],
    world: Mat4,
    scale: f32,
) -> Result<(), MeshError> {
    use gltf::mesh::Mode;
    if !matches!(primitive.mode(), Mode::Triangles | Mode::TriangleStrip | Mode::TriangleFan) {
        return Ok(());
    }
    check_types(primitive)?;
    let reader = primitive.reader(|b| buffers.get(b.index()).map(Vec::as_slice));
    let Some(positions) = reader.read_positions() else { return Ok(()) };
    let positions: Vec<[f32; 3]> = positions.collect();
    let normals: Vec<[f32; 3]> = reader.read_normals().map(Iterator::collect).unwrap_or_default();
    let uvs: Vec<[f32; 2]> = reader.read_tex_coords(0).map(|t| t.into_f32().collect()).unwrap_or_default();
    let colors: Vec<[f32; 3]> = reader.read_colors(0).map(|c| c.into_rgb_f32().collect()).unwrap_or_default();
    let indices: Vec<u32> = match reader.read_indices() {
        Some(i) => i.into_u32().collect(),
        None => (0..positions.len() as u32).collect(),
    };
    let turn = Mat3::from_mat4(world).inverse().transpose();
    let turn = if turn.is_finite() { turn } else { Mat3::IDENTITY };
    // A mirroring transform turns triangles inside out; their corners are swapped back (glTF 2.0, 3.7.4).
    let mirrored = world.determinant() < 0.0;
    let name = primitive.material().name().map_or_else(
        || primitive.material().index().map_or("body".to_owned(), |i| format!("material {}", i + 1)),
        str::to_owned,
    );
    let part = soup.part(&name);
    let [r, g, b, _] = primitive.material().pbr_metallic_roughness().base_color_factor();
    // White is what a material has that was given no colour.
    if primitive.material().index().is_some() && [r, g, b] != [1.0; 3] {
        soup.part_colors[part as usize] = Some([r, g, b].map(encode_u8));
    }
    // Vertex colours are linear (glTF 2.0, 3.9.2).
    let color = |i: u32| colors.get(i as usize).map(|c| c.map(encode_u8));
    let corner = |i: u32| {
        let i = i as usize;
        let p = positions.get(i).ok_or_else(|| unreadable("a triangle names a vertex that is not there"))?;
        let p = world.transform_point3(Vec3::from(*p)) * scale;
        let n = normals.get(i).map_or(Vec3::ZERO, |n| turn * Vec3::from(*n));
        let t = uvs.get(i).copied().unwrap_or([f32::NAN; 2]);
        Ok((p.to_array(), n.to_array(), t))
    };
    for [a, b, c] in faces(primitive.mode(), &indices) {
        let (b, c) = if mirrored { (c, b) } else { (b, c) };
        soup.push_colored(part, [corner(a)?, corner(b)?, corner(c)?], [color(a), color(b), color(c)]);
    }
    Ok(())
}

/// The crate's readers panic on component types that the format does not allow; such files are refused first.
fn check_types(primitive: &gltf::Primitive) -> Result<(), MeshError> {
    use gltf::accessor::{DataType, Dimensions};
    let wrong = |what: &str| Err(unreadable(format!("its {what} are stored in a type that glTF does not allow")));
    for (semantic, a) in primitive.attributes() {
        let ok = match semantic {
            gltf::Semantic::Positions | gltf::Semantic::Normals => {
                a.data_type() == DataType::F32 && a.dimensions() == Dimensions::Vec3
            }
            gltf::Semantic::TexCoords(0) => {
                a.dimensions() == Dimensions::Vec2
                    && matches!(a.data_type(), DataType::F32 | DataType::U8 | DataType::U16)
            }
            gltf::Semantic::Colors(0) => {
                matches!(a.dimensions(), Dimensions::Vec3 | Dimensions::Vec4)
                    && matches!(a.data_type(), DataType::F32 | DataType::U8 | DataType::U16)
            }
            _ => true,
        };
        if !ok {
            return wrong("vertices");
        }
    }
    match primitive.indices() {
        Some(a)
            if a.dimensions() != Dimensions::Scalar
                || !matches!(a.data_type(), DataType::U8 | DataType::U16 | DataType::U32) =>
        {
            wrong("triangles")
        }
        _ => Ok(()),
    }
}

fn faces(mode: gltf::mesh::Mode, i: &[u32]) -> Vec<[u32; 3]> {
    use gltf::mesh::Mode;
    match mode {
        Mode::TriangleStrip => (2..i.len())
            .map(|k| if k % 2 == 0 { [i[k - 2], i[k - 1], i[k]] } else { [i[k - 1], i[k - 2], i[k]] })
            .collect(),
        Mode::TriangleFan => (2..i.len()).map(|k| [i[0], i[k - 1], i[k]]).collect(),
        _ => i.chunks_exact(3).map(|c| [c[0], c[1], c[2]]).collect(),
    }
}
