//! glTF 2.0 and GLB through the `gltf` crate: node transforms applied, parts from materials, buffers embedded or beside it. The file was put in order before
//! (`gltf_json.rs`), and is not validated beyond what is read of it: what is untidy elsewhere is no reason to refuse a mesh.

use base64::Engine;
use glam::{Mat3, Mat4, Vec3};
use gltf::accessor::{DataType, Dimensions, Item, Iter};
use gltf::buffer::Source;

use super::gltf_json::{Opened, open};
use super::{Folder, FoundPicture, MeshError, MeshLimits, Reading, Slots, Soup, guarded, unreadable};
use crate::mesh::Finding;
use crate::raster::srgb::encode_u8;

const MAX_NODES: usize = 100_000;

/// Reads a GLB or glTF.
pub(super) fn read(name: &str, bytes: &[u8], folder: &Folder, reading: &Reading) -> Result<Soup, MeshError> {
    guarded(|| parse(name, bytes, folder, reading))
}

/// The pictures that the file's materials use, each once.
pub fn pictures(name: &str, bytes: &[u8], folder: &Folder) -> Result<Vec<FoundPicture>, MeshError> {
    guarded(|| find_pictures(name, bytes, folder))
}

/// The files that it names beside itself: buffers, and pictures.
pub fn names_beside(bytes: &[u8]) -> Vec<String> {
    let named = || {
        let document = open(bytes)?.document;
        let buffers =
            document.buffers().filter_map(|b| if let Source::Uri(uri) = b.source() { Some(uri.into()) } else { None });
        let images = document.images().filter_map(|i| match i.source() {
            gltf::image::Source::Uri { uri, .. } => Some(uri.to_owned()),
            gltf::image::Source::View { .. } => None,
        });
        Ok(buffers.chain(images).filter(|uri: &String| !uri.starts_with("data:")).collect())
    };
    guarded(named).unwrap_or_default()
}

fn find_pictures(name: &str, bytes: &[u8], folder: &Folder) -> Result<Vec<FoundPicture>, MeshError> {
    let gltf = open(bytes)?;
    let buffers = load_buffers(name, &gltf, folder, MeshLimits::default().bytes)?;
    let gltf = gltf.document;
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

fn parse(name: &str, bytes: &[u8], folder: &Folder, reading: &Reading) -> Result<Soup, MeshError> {
    let limits = reading.limits;
    let gltf = open(bytes)?;
    let buffers = load_buffers(name, &gltf, folder, limits.bytes)?;
    let Opened { document, findings, laid_by_materials, .. } = gltf;
    let count = count_triangles(&document);
    if count > limits.triangles {
        return Err(MeshError::TooLarge { what: "triangles", found: count, limit: limits.triangles });
    }
    if document.nodes().len() > MAX_NODES {
        return Err(MeshError::TooLarge { what: "nodes", found: document.nodes().len(), limit: MAX_NODES });
    }
    check_accessors(&document, &buffers)?;
    let mut soup = Soup { findings, ..Soup::default() };
    let scene = document.default_scene().or_else(|| document.scenes().next());
    let mut todo: Vec<(gltf::Node, Mat4)> = match &scene {
        Some(s) => s.nodes().map(|n| (n, Mat4::IDENTITY)).collect(),
        None => return Err(MeshError::Empty),
    };
    let (mut visited, mut left_out, mut sets) = (0, 0, 0);
    soup.offers.groups = document.meshes().len() > 1;
    soup.offers.objects = document.nodes().filter(|n| n.mesh().is_some()).count() > 1;
    while let Some((node, parent)) = todo.pop() {
        visited += 1;
        // There are not so many, so some are come to again and again.
        if visited > MAX_NODES {
            return Err(unreadable("its nodes hold one another in a circle"));
        }
        let world = parent * Mat4::from_cols_array_2d(&node.transform().matrix());
        if let Some(mesh) = node.mesh() {
            for primitive in mesh.primitives() {
                let part = match reading.slots {
                    slots if !slots.are_in(soup.offers) => None,
                    Slots::Materials => None,
                    Slots::Groups => Some(called(mesh.name(), "mesh", mesh.index())),
                    Slots::Objects => Some(called(node.name(), "node", node.index())),
                };
                let from = From { buffers: &buffers, world, laid_by_materials, part };
                left_out += usize::from(!append(&mut soup, &primitive, &from, reading)?);
                sets = sets.max(uv_sets(&primitive).len() as u32);
                if soup.parts.len() > limits.triangles {
                    let (found, limit) = (soup.parts.len(), limits.triangles);
                    return Err(MeshError::TooLarge { what: "triangles", found, limit });
                }
            }
        }
        todo.extend(node.children().map(|c| (c, world)));
    }
    if left_out > 0 {
        soup.findings.push(Finding {
            serious: false,
            what: format!("Rows of points or lines have no surface and were left out: {left_out}."),
            remedy: "Nothing needs doing.".into(),
        });
    }
    soup.offers.uv_sets = sets;
    Ok(soup)
}

fn load_buffers(name: &str, gltf: &Opened, folder: &Folder, limit: usize) -> Result<Vec<Vec<u8>>, MeshError> {
    let mut all = gltf
        .document
        .buffers()
        .take(gltf.document.buffers().len() - gltf.packed.len())
        .map(|b| {
            if gltf.empty.contains(&b.index()) {
                return Ok(vec![]);
            }
            let data = match b.source() {
                Source::Bin => gltf.blob.clone().ok_or_else(|| unreadable("the GLB has no binary chunk"))?,
                Source::Uri(uri) => bytes_of_uri(name, uri, folder)?,
            };
            if data.len() < b.length() {
                return Err(unreadable("a buffer is shorter than the file says; it was cut off"));
            }
            Ok(data)
        })
        .collect::<Result<Vec<_>, _>>()?;
    let mut whole = 0usize;
    for packed in &gltf.packed {
        let bytes = packed.bytes(&all)?;
        whole += bytes.len();
        if whole > limit {
            return Err(MeshError::TooLarge { what: "bytes, unpacked,", found: whole, limit });
        }
        all.push(bytes);
    }
    Ok(all)
}

/// What a URI holds (`data:`), or names in the folder that came with the file; nothing else is looked at.
fn bytes_of_uri(name: &str, uri: &str, folder: &Folder) -> Result<Vec<u8>, MeshError> {
    if let Some((_, text)) = uri.strip_prefix("data:").and_then(|d| d.split_once(";base64,")) {
        let decoded = base64::engine::general_purpose::STANDARD.decode(text.trim_ascii());
        return decoded.map_err(|_| unreadable("bytes that are written into it as text (base64) are broken"));
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

/// The sets of UVs that a primitive has, the lowest first.
fn uv_sets(primitive: &gltf::Primitive) -> Vec<u32> {
    let set = |(semantic, _)| if let gltf::Semantic::TexCoords(set) = semantic { Some(set) } else { None };
    let mut sets: Vec<u32> = primitive.attributes().filter_map(set).collect();
    sets.sort_unstable();
    sets
}

/// Where a primitive stands.
struct From<'a> {
    buffers: &'a [Vec<u8>],
    world: Mat4,
    laid_by_materials: bool,
    /// The part that it belongs to, where that isn't told by its material.
    part: Option<String>,
}

fn called(name: Option<&str>, what: &str, index: usize) -> String {
    name.filter(|n| !n.trim().is_empty()).map_or_else(|| format!("{what} {}", index + 1), str::to_owned)
}

/// Adds the triangles of a primitive; false for points and lines.
fn append(soup: &mut Soup, primitive: &gltf::Primitive, from: &From, reading: &Reading) -> Result<bool, MeshError> {
    use gltf::Semantic;
    use gltf::mesh::Mode;
    if !matches!(primitive.mode(), Mode::Triangles | Mode::TriangleStrip | Mode::TriangleFan) {
        return Ok(false);
    }
    let (buffers, world, scale) = (from.buffers, from.world, reading.scale);
    let of = |semantic| primitive.get(&semantic);
    let Some(positions) = of(Semantic::Positions) else { return Ok(true) };
    let positions: Vec<[f32; 3]> = numbers(&positions, buffers)?;
    let normals: Vec<[f32; 3]> = of(Semantic::Normals).map_or(Ok(vec![]), |a| numbers(&a, buffers))?;
    let sets = uv_sets(primitive);
    let set = sets.get(reading.uv_set as usize).or(sets.last()).copied().unwrap_or(0);
    let uvs: Vec<[f32; 2]> = of(Semantic::TexCoords(set)).map_or(Ok(vec![]), |a| numbers(&a, buffers))?;
    let colors: Vec<[f32; 3]> = of(Semantic::Colors(0)).map_or(Ok(vec![]), |a| match a.dimensions() {
        Dimensions::Vec4 => Ok(numbers::<4>(&a, buffers)?.into_iter().map(|[r, g, b, _]| [r, g, b]).collect()),
        _ => numbers(&a, buffers),
    })?;
    let indices = match primitive.indices() {
        Some(a) => whole_numbers(&a, buffers)?,
        None => (0..positions.len() as u32).collect(),
    };
    let turn = Mat3::from_mat4(world).inverse().transpose();
    let turn = if turn.is_finite() { turn } else { Mat3::IDENTITY };
    // A mirroring transform turns triangles inside out; their corners are swapped back (glTF 2.0, 3.7.4).
    let mirrored = world.determinant() < 0.0;
    let material = primitive.material();
    let of_material = || material.index().map_or("body".to_owned(), |i| called(material.name(), "material", i));
    let part = soup.part(&from.part.clone().unwrap_or_else(of_material));
    let pbr = material.pbr_metallic_roughness();
    let [r, g, b, _] = pbr.base_color_factor();
    // White is what a material has that was given no colour.
    if from.part.is_none() && material.index().is_some() && [r, g, b] != [1.0; 3] {
        soup.part_colors[part as usize] = Some([r, g, b].map(encode_u8));
    }
    let transform = pbr.base_color_texture().filter(|_| from.laid_by_materials).and_then(|t| t.texture_transform());
    let laid = transform.map(|t| {
        let ([x, y], [w, h], (sin, cos)) = (t.offset(), t.scale(), t.rotation().sin_cos());
        move |[u, v]: [f32; 2]| [x + cos * w * u + sin * h * v, y - sin * w * u + cos * h * v]
    });
    // Vertex colours are linear (glTF 2.0, 3.9.2).
    let color = |i: u32| colors.get(i as usize).map(|c| c.map(encode_u8));
    let corner = |i: u32| {
        let i = i as usize;
        let p = positions.get(i).ok_or_else(|| unreadable("a triangle names a vertex that is not there"))?;
        let p = world.transform_point3(Vec3::from(*p)) * scale;
        let n = normals.get(i).map_or(Vec3::ZERO, |n| turn * Vec3::from(*n));
        let t = uvs.get(i).copied().map_or([f32::NAN; 2], |t| laid.as_ref().map_or(t, |laid| laid(t)));
        Ok((p.to_array(), n.to_array(), t))
    };
    for [a, b, c] in faces(primitive.mode(), &indices) {
        let (b, c) = if mirrored { (c, b) } else { (b, c) };
        soup.push_colored(part, [corner(a)?, corner(b)?, corner(c)?], [color(a), color(b), color(c)]);
    }
    Ok(true)
}

/// What an accessor holds, `N` numbers to a vertex, from whichever type they are stored in: whole numbers that are *normalized* become 0…1 or −1…1
/// (glTF 2.0, 3.11; KHR_mesh_quantization).
fn numbers<const N: usize>(a: &gltf::Accessor, buffers: &[Vec<u8>]) -> Result<Vec<[f32; N]>, MeshError>
where
    [i8; N]: Item,
    [u8; N]: Item,
    [i16; N]: Item,
    [u16; N]: Item,
    [f32; N]: Item,
{
    let wrong = || unreadable("its vertices are stored in a type that glTF does not allow");
    if a.dimensions().multiplicity() != N {
        return Err(wrong());
    }
    fn all<T: Item>(a: &gltf::Accessor, buffers: &[Vec<u8>]) -> Result<Vec<T>, MeshError> {
        let read = Iter::<T>::new(a.clone(), |b| buffers.get(b.index()).map(Vec::as_slice));
        Ok(read.ok_or_else(|| unreadable("an accessor has no buffer"))?.collect())
    }
    let scaled = |most: f32| move |v: f32| if a.normalized() { (v / most).max(-1.0) } else { v };
    Ok(match a.data_type() {
        DataType::F32 => all(a, buffers)?,
        DataType::I8 => all::<[i8; N]>(a, buffers)?.into_iter().map(|v| v.map(f32::from).map(scaled(127.0))).collect(),
        DataType::U8 => all::<[u8; N]>(a, buffers)?.into_iter().map(|v| v.map(f32::from).map(scaled(255.0))).collect(),
        DataType::I16 => {
            all::<[i16; N]>(a, buffers)?.into_iter().map(|v| v.map(f32::from).map(scaled(32767.0))).collect()
        }
        DataType::U16 => {
            all::<[u16; N]>(a, buffers)?.into_iter().map(|v| v.map(f32::from).map(scaled(65535.0))).collect()
        }
        DataType::U32 => return Err(wrong()),
    })
}

/// The indices that an accessor holds.
fn whole_numbers(a: &gltf::Accessor, buffers: &[Vec<u8>]) -> Result<Vec<u32>, MeshError> {
    fn all<T: Item + Into<u32>>(a: &gltf::Accessor, buffers: &[Vec<u8>]) -> Option<Vec<u32>> {
        let read = Iter::<T>::new(a.clone(), |b| buffers.get(b.index()).map(Vec::as_slice))?;
        Some(read.map(Into::into).collect())
    }
    let read = match (a.dimensions(), a.data_type()) {
        (Dimensions::Scalar, DataType::U8) => all::<u8>(a, buffers),
        (Dimensions::Scalar, DataType::U16) => all::<u16>(a, buffers),
        (Dimensions::Scalar, DataType::U32) => all::<u32>(a, buffers),
        _ => return Err(unreadable("its triangles are stored in a type that glTF does not allow")),
    };
    read.ok_or_else(|| unreadable("an accessor has no buffer"))
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
