//! USD (`.usda`, `.usdc`, `.usd`, and `.usdz` as the ZIP that it is) through the `openusd` crate: the stage composed from the files that came with it, transforms applied,
//! up axis and metres per unit taken from the file, parts from bound materials, of meshes or of their subsets of faces.
//!
//! Files are looked up in the folder that came with the mesh and nowhere else. What is subdivided is read as the cage that it is subdivided from.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::io::Cursor;

use glam::{DMat4, Mat3, Mat4, Quat, Vec3};
use openusd::ar::{Asset, ResolvedPath, Resolver};
use openusd::schemas::geom::{Imageable, Xformable};
use openusd::sdf::{Path, SpecType, Value};
use openusd::usd::{Attribute, Prim, PrimPredicate, SchemaBase, SchemaKind, Stage, TimeCode};

use super::text::shown;
use super::{Folder, MeshError, Reading, Slots, Soup, Unit, guarded, polygon, unreadable, within};
use crate::mesh::Finding;
use crate::raster::srgb::encode_u8;

/// The most prims that a stage may have.
const MAX_PRIMS: usize = 100_000;

/// Whether a file is a layer of USD, by its first bytes or its name.
pub fn is_layer(name: &str, bytes: &[u8]) -> bool {
    bytes.starts_with(b"#usda")
        || bytes.starts_with(b"PXR-USDC")
        || super::EXTENSIONS_USD.contains(&super::extension(name).as_str())
}

/// Reads a stage. `reading.scale` counts where the file doesn't say how long its unit is, or where another unit was asked for (`unit`).
pub(super) fn read(
    name: &str,
    bytes: &[u8],
    folder: &Folder,
    reading: &Reading,
    unit: Option<Unit>,
) -> Result<Soup, MeshError> {
    guarded(|| parse(name, bytes, folder, reading, unit))
}

/// The files that a layer written as text names: other layers, and pictures.
pub fn names_beside(bytes: &[u8]) -> Vec<String> {
    let text = String::from_utf8_lossy(if bytes.starts_with(b"#usda") { bytes } else { &[] });
    // Between pairs of `@`; a name never goes over a line.
    let line = |line: &str| line.split('@').skip(1).step_by(2).map(str::to_owned).collect::<Vec<_>>();
    let mut all: Vec<String> = text.lines().flat_map(line).filter(|n| !n.is_empty()).collect();
    all.sort();
    all.dedup();
    all
}

/// The files that came with it, as the crate looks them up.
struct InFolder(BTreeMap<String, Vec<u8>>);

impl Resolver for InFolder {
    fn create_identifier(&self, asset: &str, anchor: Option<&ResolvedPath>) -> String {
        let beside = anchor.map(|a| a.to_string_lossy().into_owned()).unwrap_or_default();
        within(&beside, asset).unwrap_or_else(|| asset.to_owned())
    }

    fn resolve(&self, asset: &str) -> Option<ResolvedPath> {
        self.0.contains_key(asset).then(|| ResolvedPath::new(asset))
    }

    fn resolve_for_new_asset(&self, _: &str) -> Option<ResolvedPath> {
        None
    }

    fn open_asset(&self, path: &ResolvedPath) -> std::io::Result<Box<dyn Asset>> {
        let held = self.0.get(&*path.to_string_lossy()).ok_or(std::io::ErrorKind::NotFound)?;
        Ok(Box::new(Cursor::new(held.clone())))
    }

    fn get_modification_timestamp(&self, _: &str, _: &ResolvedPath) -> Option<std::time::SystemTime> {
        None
    }
}

/// A prim with its place.
struct Placed(Prim);

impl SchemaBase for Placed {
    const KIND: SchemaKind = SchemaKind::ConcreteTyped;

    fn prim(&self) -> &Prim {
        &self.0
    }
}

impl Imageable for Placed {}
impl Xformable for Placed {}

fn parse(name: &str, bytes: &[u8], folder: &Folder, reading: &Reading, unit: Option<Unit>) -> Result<Soup, MeshError> {
    let broken = |_| unreadable("its layers can't be read as USD");
    // A name with an ending that tells the crate how to read it.
    let named = if super::EXTENSIONS_USD.contains(&super::extension(name).as_str()) {
        name.to_owned()
    } else {
        format!("{name}.usd")
    };
    let mut files: BTreeMap<String, Vec<u8>> = folder.all().clone();
    files.insert(named.clone(), bytes.to_vec());
    let stage = Stage::builder().resolver(InFolder(files)).open(&named).map_err(broken)?;
    check_names(&stage)?;
    let root = |key: &str| stage.root_layer().pseudo_root().and_then(|r| r.field(key).ok().flatten());
    let metres = root("metersPerUnit").and_then(|v| number(&v)).filter(|m| *m > 0.0 && m.is_finite());
    // Where nothing is said a unit is a centimetre.
    let scale = unit.map_or(metres.unwrap_or(0.01) as f32 * 1000.0, |_| reading.scale);
    let z_up = root("upAxis").and_then(|v| word(&v)).as_deref() == Some("Z");
    let upright =
        if z_up { Mat4::from_quat(Quat::from_rotation_x(-std::f32::consts::FRAC_PI_2)) } else { Mat4::IDENTITY };
    let mut soup = Soup::default();
    if unit.is_none() && metres.is_none() {
        say(
            &mut soup,
            "The file doesn't say how long its unit is: it was taken as a centimetre.",
            "Give the unit if it is another.",
        );
    }
    let mut paths: Vec<Path> = vec![];
    stage
        .traverse(PrimPredicate::DEFAULT.with_instance_proxies(true), |path| {
            if paths.len() <= MAX_PRIMS {
                paths.push(path.clone())
            }
        })
        .map_err(broken)?;
    if paths.len() > MAX_PRIMS {
        return Err(MeshError::TooLarge { what: "prims", found: paths.len(), limit: MAX_PRIMS });
    }
    let mut places: HashMap<String, (DMat4, bool)> = HashMap::new();
    let (mut left_out, mut cages): (BTreeSet<String>, usize) = (BTreeSet::new(), 0);
    let mut taken = Taken { reading, soup: &mut soup, names: BTreeSet::new() };
    for path in paths {
        let prim = stage.prim(path.clone());
        let kind = prim.type_name().map_err(broken)?.map(|t| t.as_str().to_owned()).unwrap_or_default();
        let above = path.parent().and_then(|p| places.get(p.as_str()).copied()).unwrap_or((DMat4::IDENTITY, true));
        let placed = Placed(prim);
        check_steps(&placed.0)?;
        let local = placed
            .local_to_parent_transform(TimeCode::from(0.0))
            .map(|m| DMat4::from_cols_array(&m.0))
            .unwrap_or(DMat4::IDENTITY);
        let base = if placed.resets_xform_stack().unwrap_or(false) { DMat4::IDENTITY } else { above.0 };
        let text = |attribute: &str| placed.0.attribute(attribute).get::<Value>().ok().flatten().and_then(|v| word(&v));
        let shown = above.1
            && text("visibility").as_deref() != Some("invisible")
            && !matches!(text("purpose").as_deref(), Some("guide" | "proxy"));
        places.insert(path.as_str().to_owned(), (base * local, shown));
        match kind.as_str() {
            "Mesh" if shown => {
                cages += usize::from(text("subdivisionScheme").as_deref() != Some("none"));
                let world = upright * Mat4::from_scale(Vec3::splat(scale)) * (base * local).as_mat4();
                taken.mesh(&placed.0, world)?;
            }
            "Sphere" | "Cube" | "Cylinder" | "Cone" | "Capsule" | "Plane" | "BasisCurves" | "NurbsCurves"
            | "NurbsPatch" | "Points" | "PointInstancer" | "TetMesh"
                if shown =>
            {
                _ = left_out.insert(kind)
            }
            _ => {}
        }
    }
    let objects = taken.names.len();
    soup.offers.objects = objects > 1;
    if !left_out.is_empty() {
        let what = format!("What is no mesh was left out: {}.", left_out.into_iter().collect::<Vec<_>>().join(", "));
        say(&mut soup, &what, "Make meshes of it in the program that made it if it belongs to the piece.");
    }
    if cages > 0 {
        say(
            &mut soup,
            "It is meant to be subdivided, and was read as the cage that it is subdivided from.",
            "Subdivide it in the modeller and export that, if it looks too coarse.",
        );
    }
    let missing = stage.composition_errors().len();
    if missing > 0 {
        say(
            &mut soup,
            &format!("It refers to files that did not come with it, or can't be read: {missing}."),
            "Give the folder, or a ZIP, with all of them.",
        );
    }
    Ok(soup)
}

fn say(soup: &mut Soup, what: &str, remedy: &str) {
    soup.findings.push(Finding { serious: false, what: what.into(), remedy: remedy.into() });
}

/// What is taken from meshes, one after the other.
struct Taken<'a> {
    reading: &'a Reading,
    soup: &'a mut Soup,
    names: BTreeSet<String>,
}

/// Values over a mesh: one for all, one for each face, for each vertex, or for each corner of each face.
struct Primvar<T> {
    values: Vec<T>,
    indices: Option<Vec<i32>>,
    over: String,
}

impl<T: Copy> Primvar<T> {
    fn at(&self, face: usize, vertex: usize, corner: usize) -> Option<T> {
        let i = match self.over.as_str() {
            "constant" => 0,
            "uniform" => face,
            "faceVarying" => corner,
            _ => vertex,
        };
        let i = match &self.indices {
            Some(indices) => usize::try_from(*indices.get(i)?).ok()?,
            None => i,
        };
        self.values.get(i).copied()
    }
}

impl Taken<'_> {
    fn mesh(&mut self, prim: &Prim, world: Mat4) -> Result<(), MeshError> {
        let of = |name: &str| value(&prim.attribute(name));
        let points = of("points").map(vectors::<3>).unwrap_or_default();
        let counts = of("faceVertexCounts").map(whole).unwrap_or_default();
        let corners = of("faceVertexIndices").map(whole).unwrap_or_default();
        let set = self.uvs(prim);
        let normals =
            primvar(prim, "primvars:normals", vectors::<3>).or_else(|| primvar(prim, "normals", vectors::<3>));
        let colors = primvar(prim, "primvars:displayColor", vectors::<3>);
        let left_handed = of("orientation").and_then(|v| word(&v)).as_deref() == Some("leftHanded");
        let flipped = left_handed != (world.determinant() < 0.0);
        let turn = Mat3::from_mat4(world).inverse().transpose();
        let turn = if turn.is_finite() { turn } else { Mat3::IDENTITY };
        let parts = self.parts(prim, counts.len());
        let mut first = 0usize;
        for (face, count) in counts.iter().enumerate() {
            let wrong = || unreadable(format!("a face of “{}” names a vertex that is not there", prim.path().as_str()));
            let end = usize::try_from(*count)
                .ok()
                .and_then(|n| first.checked_add(n))
                .filter(|e| *e <= corners.len())
                .ok_or_else(wrong)?;
            let ring: Vec<usize> = corners[first..end]
                .iter()
                .map(|i| usize::try_from(*i).ok().filter(|i| *i < points.len()).ok_or_else(wrong))
                .collect::<Result<_, _>>()?;
            let places: Vec<[f32; 3]> = ring.iter().map(|i| points[*i]).collect();
            for [a, b, c] in polygon::cut(&places) {
                let three = if flipped { [a, c, b] } else { [a, b, c] };
                let corner = |k: usize| {
                    let n = normals
                        .as_ref()
                        .and_then(|n| n.at(face, ring[k], first + k))
                        .map_or(Vec3::ZERO, |n| turn * Vec3::from(n));
                    let n = if left_handed { -n } else { n };
                    let uv = set
                        .as_ref()
                        .and_then(|s| s.at(face, ring[k], first + k))
                        .map_or([f32::NAN; 2], |[u, v]| [u, 1.0 - v]);
                    (world.transform_point3(Vec3::from(places[k])).to_array(), n.to_array(), uv)
                };
                let color =
                    |k: usize| colors.as_ref().and_then(|c| c.at(face, ring[k], first + k)).map(|c| c.map(encode_u8));
                self.soup.push_colored(parts[face], three.map(corner), three.map(color));
            }
            if self.soup.len() > self.reading.limits.triangles {
                return Err(MeshError::TooLarge {
                    what: "triangles",
                    found: self.soup.len(),
                    limit: self.reading.limits.triangles,
                });
            }
            first = end;
        }
        Ok(())
    }

    /// The set of UVs that is taken: `st` is the first, others follow by name.
    fn uvs(&mut self, prim: &Prim) -> Option<Primvar<[f32; 2]>> {
        let is_set = |a: &Attribute| {
            let kind = a.type_name().ok().flatten();
            kind.is_some_and(|k| matches!(k.as_str(), "texCoord2f[]" | "texCoord2d[]" | "texCoord2h[]" | "float2[]"))
        };
        let names = prim.attributes().unwrap_or_default().into_iter().filter(is_set);
        let mut names: Vec<String> =
            names.filter_map(|a| a.path().as_str().rsplit_once('.').map(|(_, n)| n.to_owned())).collect();
        names.retain(|n| n.starts_with("primvars:"));
        names.sort_by_key(|n| (n != "primvars:st", n.clone()));
        self.soup.offers.uv_sets = self.soup.offers.uv_sets.max(names.len() as u32);
        let name = names.get(self.reading.uv_set as usize).or(names.last())?;
        primvar(prim, name, vectors::<2>)
    }

    /// The part of each face.
    fn parts(&mut self, prim: &Prim, faces: usize) -> Vec<u16> {
        let own = prim.path().name().unwrap_or_default().to_owned();
        self.names.insert(own.clone());
        if self.reading.slots == Slots::Objects {
            return vec![self.soup.part(&own); faces];
        }
        let all = match bound(prim) {
            Some(material) => self.of_material(prim, &material),
            None => self.soup.part("body"),
        };
        let mut out = vec![all; faces];
        for subset in prim.children().unwrap_or_default() {
            let kind = subset.type_name().ok().flatten();
            let Some(material) = bound_here(&subset).filter(|_| kind.is_some_and(|k| k.as_str() == "GeomSubset"))
            else {
                continue;
            };
            let part = self.of_material(prim, &material);
            for i in value(&subset.attribute("indices")).map(whole).unwrap_or_default() {
                if let Some(slot) = usize::try_from(i).ok().and_then(|i| out.get_mut(i)) {
                    *slot = part;
                }
            }
        }
        out
    }

    /// The part of a material, in the colour that its shader has, if that is a plain one.
    fn of_material(&mut self, prim: &Prim, material: &Path) -> u16 {
        let part = self.soup.part(material.name().unwrap_or("body"));
        let shaders = prim.stage().prim(material.clone()).children().unwrap_or_default();
        let colour = shaders
            .iter()
            .find_map(|s| value(&s.attribute("inputs:diffuseColor")).map(vectors_or_one))
            .and_then(|c| c.first().copied());
        if let Some(colour) = colour {
            self.soup.part_colors[usize::from(part)] = Some(colour.map(encode_u8));
        }
        part
    }
}

/// The material bound to a prim, or to the nearest above it.
fn bound(prim: &Prim) -> Option<Path> {
    let mut path = Some(prim.path().clone());
    while let Some(at) = path {
        if let Some(found) = bound_here(&prim.stage().prim(at.clone())) {
            return Some(found);
        }
        path = at.parent();
    }
    None
}

fn bound_here(prim: &Prim) -> Option<Path> {
    prim.relationship("material:binding").targets().ok()?.into_iter().next().filter(is_plain)
}

/// Refuses a prim whose place is said by what is no name of an attribute: as with names of prims, the crate would look for what lies above it without an end.
fn check_steps(prim: &Prim) -> Result<(), MeshError> {
    let Some(Value::TokenVec(steps)) = value(&prim.attribute("xformOpOrder")) else { return Ok(()) };
    let named = |step: &str| step.chars().all(|c| c.is_alphanumeric() || "_:!".contains(c));
    if steps.iter().all(|s| named(s.as_str())) {
        return Ok(());
    }
    Err(unreadable(format!("“{}” says its place by what is no name", shown(prim.path().as_str()))))
}

/// Refuses layers whose prims are called by what is no name: the crate, looking for what lies above such a one, would call itself until the stack is full.
fn check_names(stage: &Stage) -> Result<(), MeshError> {
    for id in stage.layer_identifiers() {
        let Some(layer) = stage.layer(&id) else { continue };
        let data = layer.data();
        let prims = data.spec_paths().into_iter().filter(|p| data.spec_type(p) == Some(SpecType::Prim));
        if let Some(wrong) = prims.into_iter().find(|p| !is_named(p.as_str())) {
            let one_line = wrong.as_str().split_whitespace().collect::<Vec<_>>().join(" ");
            return Err(unreadable(format!("“{}” is no name of a prim", shown(&one_line))));
        }
    }
    Ok(())
}

/// Whether a path is one of names from the root on, with choices of variants in braces.
fn is_named(path: &str) -> bool {
    let mut within = 0;
    let plain = path.chars().all(|c| {
        within += i32::from(c == '{') - i32::from(c == '}');
        c.is_alphanumeric() || "_/{}".contains(c) || (within > 0 && "=-|.".contains(c))
    });
    plain && within == 0 && path.starts_with('/') && !path.contains("//")
}

/// Whether a path names prims and nothing else, from the root on. What a damaged file names otherwise keeps the crate looking for what lies above it without an end.
fn is_plain(path: &Path) -> bool {
    let name = |text: &str| !text.is_empty() && text.chars().all(|c| c.is_alphanumeric() || c == '_');
    path.as_str().strip_prefix('/').is_some_and(|names| names.split('/').all(name))
}

/// What an attribute holds, or what it holds first where it only changes with time.
fn value(attribute: &Attribute) -> Option<Value> {
    let at_rest = attribute.get::<Value>().ok().flatten();
    at_rest.or_else(|| {
        let first = attribute.time_sample_times().ok()?.first().copied()?;
        attribute.get_at::<Value>(TimeCode::from(first)).ok().flatten()
    })
}

fn primvar<T>(prim: &Prim, name: &str, of: impl Fn(Value) -> Vec<T>) -> Option<Primvar<T>> {
    let attribute = prim.attribute(name);
    let values = of(value(&attribute)?);
    let over = attribute.get_metadata::<Value>("interpolation").ok().flatten().and_then(|v| word(&v));
    let unsaid = if name == "normals" || values.len() > 1 { "vertex" } else { "constant" };
    let indices = value(&prim.attribute(format!("{name}:indices"))).map(whole);
    (!values.is_empty()).then(|| Primvar { values, indices, over: over.unwrap_or_else(|| unsaid.into()) })
}

fn number(v: &Value) -> Option<f64> {
    match v {
        Value::Double(n) => Some(*n),
        Value::Float(n) => Some(f64::from(*n)),
        Value::Int(n) => Some(f64::from(*n)),
        _ => None,
    }
}

fn word(v: &Value) -> Option<String> {
    match v {
        Value::Token(t) => Some(t.as_str().to_owned()),
        Value::String(s) => Some(s.clone()),
        _ => None,
    }
}

fn whole(v: Value) -> Vec<i32> {
    if let Value::IntVec(all) = v { all } else { vec![] }
}

/// Rows of two or three numbers, from whichever type they are stored in.
fn vectors<const N: usize>(v: Value) -> Vec<[f32; N]> {
    let two = |x: f32, y: f32| std::array::from_fn(|i| [x, y, 0.0][i.min(2)]);
    let three = |x: f32, y: f32, z: f32| std::array::from_fn(|i| [x, y, z][i.min(2)]);
    match v {
        Value::Vec2fVec(all) => all.into_iter().map(|v| two(v.x, v.y)).collect(),
        Value::Vec2dVec(all) => all.into_iter().map(|v| two(v.x as f32, v.y as f32)).collect(),
        Value::Vec2hVec(all) => all.into_iter().map(|v| two(v.x.to_f32(), v.y.to_f32())).collect(),
        Value::Vec3fVec(all) => all.into_iter().map(|v| three(v.x, v.y, v.z)).collect(),
        Value::Vec3dVec(all) => all.into_iter().map(|v| three(v.x as f32, v.y as f32, v.z as f32)).collect(),
        Value::Vec3hVec(all) => all.into_iter().map(|v| three(v.x.to_f32(), v.y.to_f32(), v.z.to_f32())).collect(),
        _ => vec![],
    }
}

fn vectors_or_one(v: Value) -> Vec<[f32; 3]> {
    match v {
        Value::Vec3f(v) => vec![[v.x, v.y, v.z]],
        other => vectors::<3>(other),
    }
}
