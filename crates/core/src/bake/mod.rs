//! What is measured of a piece: the atlas of its texels, rays against it, and one file per reading.
//!
//! [`Surface`] is a piece laid out at a size, with a ray caster and a seam map; [`measurement`] holds what costs rays, [`reading`] what masks take of it.

pub mod atlas;
pub mod band;
pub mod bvh;
pub mod finer;
mod flat;
pub mod frame;
pub mod layout;
pub mod lean;
pub mod levels;
pub mod links;
pub mod measurement;
pub mod places;
pub mod rays;
pub mod reading;
pub mod rows;
pub mod seams;
mod shared;
mod solid;
pub mod spans;
mod triangles;
pub mod water;
pub mod weather;

use std::sync::{Arc, OnceLock};

use glam::Vec3;

use crate::mesh::{Piece, curved};
use crate::raster::Plane;
use crate::task::{Cancel, Cancelled};

pub use atlas::Atlas;
pub use band::Band;
pub use bvh::Bvh;
pub use finer::{BaseNormals, Finer};
pub use links::Links;
pub use measurement::{Extent, MEASUREMENTS, Measurement, MeasurementKey, measure, measure_coarsely};
pub use reading::{READINGS, Reading};
pub use rows::Rows;
pub use seams::{Borders, Seams};
use shared::Others;
pub use solid::Solid;
pub use water::Water;

/// A piece laid out in texels at one size: what documents are evaluated on.
pub struct Surface {
    /// The piece.
    pub piece: Arc<Piece>,
    /// Its texels.
    pub atlas: Arc<Atlas>,
    /// A finer mesh whose relief it takes on, and how far from the piece that is looked for, in mm.
    pub finer: Option<(Arc<Finer>, f32)>,
    base: Arc<OnceLock<Option<BaseNormals>>>,
    shape: Arc<OfShape>,
    found: Arc<OfTexels>,
}

/// What follows from the shape alone, each found when first asked for: shared by all surfaces of the same shape, at whatever size, of however few texels.
#[derive(Default)]
struct OfShape {
    bvh: OnceLock<Arc<Bvh>>,
    solid: OnceLock<Solid>,
    cuts: OnceLock<Vec<seams::Cut>>,
    borders: OnceLock<Borders>,
    middles: OnceLock<Vec<Vec3>>,
    beside: OnceLock<places::Beside>,
}

/// What follows from the shape and its texels, each found when first asked for: shared by all surfaces of both, whatever their parts are called and whatever
/// pictures were brought in.
#[derive(Default)]
struct OfTexels {
    /// In how many other shells each texel lies, where shells may lie in one another.
    depths: OnceLock<Vec<u8>>,
    others: OnceLock<Option<Box<Others>>>,
    seams: OnceLock<Seams>,
    links: OnceLock<Links>,
    rows: OnceLock<Rows>,
    coarser: OnceLock<Box<Surface>>,
    between: OnceLock<levels::Between>,
    straight: [OnceLock<spans::Straight>; 2],
    leans: OnceLock<Vec<lean::Lean>>,
    water: OnceLock<Water>,
}

impl Surface {
    /// Lays the piece out at `size` × `size` texels.
    pub fn new(piece: Arc<Piece>, size: u32) -> Self {
        let atlas = Arc::new(Atlas::build(&piece, size));
        Self { piece, atlas, finer: None, base: Arc::default(), shape: Arc::default(), found: Arc::default() }
    }

    /// With a finer mesh to take relief from.
    pub fn with_finer(self, finer: Option<(Arc<Finer>, f32)>) -> Self {
        Self { finer, base: Arc::default(), ..self }
    }

    /// The same texels for another state of the piece, whose shape and parts are those of this one: other names, other pictures, another finer mesh. What was found of
    /// the shape stays found, and so does the relief that is taken on where that is the same.
    pub fn of_state(&self, piece: Arc<Piece>, finer: Option<(Arc<Finer>, f32)>) -> Self {
        let picture = |p: &Piece| p.stand_ins.get("normal").map(|s| s.0.clone());
        let same_finer = match (&self.finer, &finer) {
            (None, None) => true,
            (Some(a), Some(b)) => Arc::ptr_eq(&a.0, &b.0) && a.1 == b.1,
            _ => false,
        };
        let same = same_finer && picture(&self.piece) == picture(&piece);
        let base = if same { self.base.clone() } else { Arc::default() };
        let (atlas, shape, found) = (self.atlas.clone(), self.shape.clone(), self.found.clone());
        Self { piece, finer, base, atlas, shape, found }
    }

    /// About how many bytes it takes in memory, with all that is found of it sooner or later.
    pub fn bytes(&self) -> usize {
        const TEXEL: usize = 46 + 60 + 40 + 16 + 29;
        const TRIANGLE: usize = 160;
        let triangles = self.piece.triangles.len();
        let little = if self.piece.round { (triangles * 1024).min(curved::MOST) } else { 0 };
        // Coarser sizes add a third.
        (self.atlas.len() * TEXEL + self.atlas.lookup.len() * 12) * 4 / 3 + (triangles + little) * TRIANGLE
    }

    /// The normals that it takes on from a finer mesh or a picture, found when first asked for.
    pub fn base_normals(&self) -> Option<&BaseNormals> {
        self.base.get_or_init(|| finer::base_normals(self)).as_ref()
    }

    /// The same piece with some of its covered texels only, in the order given: for thumbnails. It has no square to look up in.
    pub fn subset(&self, texels: &[u32]) -> Self {
        self.laid_out(self.atlas.subset(texels))
    }

    /// The same piece in other texels: what was found of its shape stays found.
    fn laid_out(&self, atlas: Atlas) -> Self {
        let (piece, atlas, shape) = (self.piece.clone(), Arc::new(atlas), self.shape.clone());
        Self { piece, atlas, finer: None, base: Arc::default(), shape, found: Arc::default() }
    }

    /// blake3 of the piece's shape and of what tells its parts, hex, and size: what planes over its covered texels hang on.
    pub fn key(&self) -> String {
        format!("{}{}-{}", self.piece.hash, self.piece.told, self.atlas.size)
    }

    /// What the relief hangs on that it takes on from a finer mesh or a picture; empty without either.
    pub fn base_key(&self) -> &str {
        &self.piece.relief
    }

    /// The ray caster of its triangles, built when first asked for.
    pub fn bvh(&self) -> &Bvh {
        self.shape.bvh.get_or_init(|| Arc::new(Bvh::of_piece(&self.piece)))
    }

    /// What measurements see of it, built when first asked for, for as long as nobody asks to stop.
    ///
    /// # Errors
    /// [`Cancelled`]
    pub fn solid(&self, cancel: &Cancel) -> Result<&Solid, Cancelled> {
        if self.shape.solid.get().is_none() {
            // Whoever comes second has built it for nothing: rarer and cheaper than making each wait for the other.
            let solid = Solid::of(&self.piece, self.shape.bvh.get(), cancel)?;
            if !solid.is_curved() {
                _ = self.shape.bvh.set(solid.bvh.clone());
            }
            _ = self.shape.solid.set(solid);
        }
        Ok(self.shape.solid.get().expect("it was set"))
    }

    /// Shares what is found of the shape with another size of the same piece.
    pub fn shaped_as(self, other: &Surface) -> Self {
        if self.piece.hash == other.piece.hash { Self { shape: other.shape.clone(), ..self } } else { self }
    }

    /// What else lies on shared texels of parts for which the mean is measured, found when first asked for.
    fn others(&self) -> Option<&Others> {
        self.found.others.get_or_init(|| Others::of(self).map(Box::new)).as_deref()
    }

    /// Itself and its coarser sizes, as many as it takes until no more than so many texels are covered, finest first.
    pub fn down_to_texels(&self, most: usize) -> Vec<&Surface> {
        self.down_while(|last| last.atlas.len() > most)
    }

    /// The same down to a smaller size.
    pub fn down_to_size(&self, size: u32) -> Vec<&Surface> {
        self.down_while(|last| last.atlas.size > size)
    }

    fn down_while(&self, more: impl Fn(&Surface) -> bool) -> Vec<&Surface> {
        let mut levels = vec![self];
        while more(levels[levels.len() - 1]) {
            levels.push(levels[levels.len() - 1].coarser());
        }
        levels
    }

    /// Planes of the coarsest of its levels, one after the other, at its own size.
    pub fn drawn_up(levels: &[&Surface], planes: &[f32]) -> Plane {
        let coarsest = levels[levels.len() - 1].atlas.len().max(1);
        planes.chunks(coarsest).flat_map(|plane| levels::up(levels, plane.to_vec())).collect()
    }

    /// Where its charts are cut apart, found when first asked for.
    pub fn cuts(&self) -> &[seams::Cut] {
        self.shape.cuts.get_or_init(|| seams::cuts(&self.piece))
    }

    /// The seam map, built when first asked for.
    pub fn seams(&self) -> &Seams {
        self.found.seams.get_or_init(|| Seams::build(&self.piece, &self.atlas, self.cuts(), self.atlas.padding()))
    }

    /// Its texels' neighbours, found when first asked for.
    pub fn links(&self) -> &Links {
        self.found.links.get_or_init(|| Links::build(self))
    }

    /// Its texels row by row, found when first asked for.
    pub fn rows(&self) -> &Rows {
        self.found.rows.get_or_init(|| Rows::build(self))
    }

    /// The same piece at half the size, laid out when first asked for.
    pub fn coarser(&self) -> &Surface {
        self.found.coarser.get_or_init(|| Box::new(self.laid_out(Atlas::build(&self.piece, self.atlas.size / 2))))
    }

    /// How its texels lie to those at half the size, found when first asked for.
    fn between(&self) -> &levels::Between {
        self.found.between.get_or_init(|| levels::Between::build(self, self.coarser()))
    }

    /// Its texels along a side of the squares, across (0) or down (1), found when first asked for.
    pub fn straight(&self, side: usize) -> &spans::Straight {
        self.found.straight[side].get_or_init(|| spans::Straight::build(self, side))
    }

    /// The middle of each shell's bounding box, in mm, found when first asked for.
    pub fn shell_middles(&self) -> &[Vec3] {
        self.shape
            .middles
            .get_or_init(|| self.piece.shell_boxes().into_iter().map(|(low, high)| (low + high) * 0.5).collect())
    }

    /// Which triangles lie beside each other, found when first asked for.
    pub fn beside(&self) -> &places::Beside {
        self.shape.beside.get_or_init(|| places::Beside::build(&self.piece))
    }

    /// How each texel's normal leans where the height changes, found when first asked for.
    pub fn leans(&self) -> &[lean::Lean] {
        self.found.leans.get_or_init(|| lean::Lean::of_all(self))
    }

    /// The ways that water takes down it, found when first asked for, for as long as nobody asks to stop.
    ///
    /// # Errors
    /// [`Cancelled`]
    pub fn water(&self, cancel: &Cancel) -> Result<&Water, Cancelled> {
        if self.found.water.get().is_none() {
            let hidden = measurement::hidden(self, self.solid(cancel)?, cancel)?;
            // Whoever comes second has found the same.
            _ = self.found.water.set(Water::find(self, &hidden, cancel)?);
        }
        Ok(self.found.water.get().expect("it was set"))
    }

    /// A plane of its texels, or several one after the other, at a smaller size: as often half of its own as it takes.
    pub fn drawn_down(&self, planes: &[f32], size: u32) -> Plane {
        let levels = self.down_to_size(size);
        planes.chunks(self.atlas.len().max(1)).flat_map(|plane| levels::down(&levels, plane).into_owned()).collect()
    }

    /// Where its charts end, found when first asked for.
    pub fn borders(&self) -> &Borders {
        self.shape.borders.get_or_init(|| Borders::build(&self.piece, self.cuts()))
    }
}
