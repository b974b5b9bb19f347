//! Path tracing: what a camera sees of a dressed piece, with light that goes on from spot to spot.
//!
//! As many samples of a pixel go together as the ray caster's packets have lanes. At each spot light is looked for in the sky and at one lamp, and along one bounce; what the sky sends is weighed
//! between the two ways of finding it (balance heuristic, Veach & Guibas 1995). Every number is drawn from a sequence that pixel, sample and bounce name, so a picture is
//! the same at every thread count.

use std::ops::Range;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

use glam::{Vec2, Vec3};
use rayon::prelude::*;

use super::Camera;
use super::denoise::{Guide, denoised};
use super::ground::Ground;
use super::lobes::Lobes;
use super::material::{Material, Materials};
use super::shape::Shape;
use super::sky::Sky;
use super::sums::Sums;
use crate::bake::Surface;
use crate::bake::bvh::{MISSED, Packet, WIDTH};
use crate::bake::frame::frame;
use crate::bake::rays::point;
use crate::evaluate::Evaluation;
use crate::lattice::mix;
use crate::task::{Cancel, Cancelled, OnProgress, Progress};

/// What is looked at, and under which light.
#[derive(Clone)]
pub struct Scene<'a> {
    surface: &'a Surface,
    shape: Shape<'a>,
    materials: Materials<'a>,
    normals: Arc<Vec<[f32; 3]>>,
    sky: &'a Sky,
    ground: Option<Ground>,
    /// What is seen where nothing is, linear; the sky if none.
    surround: Option<Vec3>,
    holes: bool,
}

/// How a picture is taken.
#[derive(Debug, Clone, Copy)]
pub struct Exposure {
    /// From where.
    pub camera: Camera,
    /// Pixels across and down.
    pub size: [u32; 2],
    /// Samples to a pixel; rounded up to a whole number of packets.
    pub samples: u32,
    /// Whether noise is taken out.
    pub denoise: bool,
}

impl Exposure {
    /// How often all lanes of a packet are sent through a pixel.
    fn rounds(&self) -> u32 {
        self.samples.div_ceil(WIDTH as u32).max(1)
    }

    /// Pixels after so many rounds, and what their noise is told by where it is to be taken out.
    fn read(&self, sums: &[Sums], rounds: u32) -> (Vec<[f32; 4]>, Vec<Guide>) {
        let guides = if self.denoise { sums.iter().map(|s| s.guide(rounds)).collect() } else { vec![] };
        (sums.iter().map(|s| s.pixel(rounds)).collect(), guides)
    }

    fn without_noise(&self, pixels: Vec<[f32; 4]>, guides: &[Guide]) -> Vec<[f32; 4]> {
        if self.denoise { denoised(&pixels, guides, self.size[0] as usize) } else { pixels }
    }
}

/// What is done, as it is told.
const LABEL: &str = "Tracing light";

/// What was seen.
pub struct Traced {
    /// Radiance times coverage, and coverage, per pixel, row by row.
    pub pixels: Vec<[f32; 4]>,
    /// Rays that were cast.
    pub rays: u64,
}

/// Spots on a path at most; walls that are passed on the way count too.
const SPOTS: u32 = 24;
/// Bounces after which a path may end by chance.
const SURE: u32 = 3;
/// What a path that bounced brings at most: single samples of more are specks.
const BRIGHTEST: f32 = 24.0;

/// One sample under way.
#[derive(Clone, Copy)]
struct Path {
    start: Vec3,
    origin: Vec3,
    towards: Vec3,
    throughput: Vec3,
    light: Vec3,
    /// Of the bounce that led here; none on the eye's own ray and behind walls that let light through.
    density: Option<f32>,
    bounces: u32,
    /// Nothing was met so far but holes.
    clear: bool,
    /// Nothing was met so far but holes and what lets light through.
    straight: bool,
    alive: bool,
    covered: bool,
    /// What was seen first that is no hole: colour, normal and distance.
    first: Option<(Vec3, Vec3, f32)>,
    seed: u32,
    sample: u32,
}

/// Light that is looked for: from where, towards where, and what it brings if nothing is between.
#[derive(Clone, Copy, Default)]
struct Sought {
    origin: Vec3,
    towards: Vec3,
    brings: Vec3,
}

struct Spot {
    material: Material,
    point: Vec3,
    flat: Vec3,
    /// The normal of the clear layer.
    over: Vec3,
    bent: Vec3,
    along: Vec3,
}

impl<'a> Scene<'a> {
    /// An evaluated piece under a sky.
    pub fn new(surface: &'a Surface, e: &'a Evaluation, sky: &'a Sky) -> Self {
        let normals = Arc::new(e.normals(surface));
        let holes = e.channels.contains_key("opacity");
        let materials = Materials::new(surface, e);
        Self { surface, shape: Shape::of(surface), materials, normals, sky, ground: None, surround: None, holes }
    }

    /// The same with a surface that its relief has moved, outline and all.
    pub fn moved_by(self, e: &Evaluation) -> Self {
        Self { shape: Shape::moved(self.surface, e), ..self }
    }

    /// The same under another sky.
    pub fn under(&self, sky: &'a Sky) -> Self {
        Self { sky, ..self.clone() }
    }

    /// With this in place of the sky where nothing is seen: linear.
    pub fn before(self, surround: Vec3) -> Self {
        Self { surround: Some(surround), ..self }
    }

    /// Standing on something.
    pub fn on_ground(self) -> Self {
        Self { ground: Some(Ground::of(&self.surface.piece)), ..self }
    }

    /// Takes a picture.
    ///
    /// # Errors
    /// [`Cancelled`]
    pub fn trace(&self, x: &Exposure, cancel: &Cancel, progress: OnProgress) -> Result<Traced, Cancelled> {
        let rays = AtomicU64::new(0);
        let tell = Progress::new(LABEL, x.size[1] as usize, progress);
        let row = |y: u32| {
            let mut sums = vec![Sums::default(); x.size[0] as usize];
            self.row(x, y, 0..x.rounds(), &mut sums, &rays, cancel)?;
            tell.advance();
            Ok(x.read(&sums, x.rounds()))
        };
        let rows: Result<Vec<(Vec<_>, Vec<_>)>, Cancelled> = (0..x.size[1]).into_par_iter().map(row).collect();
        let (pixels, guides): (Vec<_>, Vec<_>) = rows?.into_iter().unzip();
        Ok(Traced { pixels: x.without_noise(pixels.concat(), &guides.concat()), rays: rays.into_inner() })
    }

    /// The same picture to the bit, which is shown again and again as it gets smoother: after one round of samples, two, four and so on, with how many samples a pixel has had by then.
    ///
    /// # Errors
    /// [`Cancelled`]
    pub fn refine(
        &self,
        x: &Exposure,
        cancel: &Cancel,
        progress: OnProgress,
        show: &mut dyn FnMut(u32, Vec<[f32; 4]>),
    ) -> Result<Traced, Cancelled> {
        let (rounds, [w, h]) = (x.rounds(), x.size.map(|s| s as usize));
        let rays = AtomicU64::new(0);
        let tell = Progress::new(LABEL, h * rounds as usize, progress);
        let mut sums = vec![Sums::default(); w * h];
        let picture = |sums: &[Sums], done: u32| {
            let (pixels, guides) = x.read(sums, done);
            x.without_noise(pixels, &guides)
        };
        let mut done = 0;
        while done < rounds {
            let next = (done * 2).clamp(1, rounds);
            sums.par_chunks_mut(w).enumerate().try_for_each(|(y, row)| {
                self.row(x, y as u32, done..next, row, &rays, cancel)?;
                (done..next).for_each(|_| tell.advance());
                Ok(())
            })?;
            done = next;
            if done < rounds {
                show(done * WIDTH as u32, picture(&sums, done));
            }
        }
        Ok(Traced { pixels: picture(&sums, rounds), rays: rays.into_inner() })
    }

    /// Some rounds of samples of the pixels of a row.
    fn row(
        &self,
        x: &Exposure,
        y: u32,
        rounds: Range<u32>,
        sums: &mut [Sums],
        rays: &AtomicU64,
        cancel: &Cancel,
    ) -> Result<(), Cancelled> {
        cancel.check()?;
        let mut counted = 0;
        for (px, sums) in sums.iter_mut().enumerate() {
            self.pixel(x, [px as u32, y], rounds.clone(), sums, &mut counted);
        }
        rays.fetch_add(counted, Ordering::Relaxed);
        Ok(())
    }

    fn pixel(&self, x: &Exposure, [px, py]: [u32; 2], rounds: Range<u32>, sums: &mut Sums, rays: &mut u64) {
        let [w, h] = x.size;
        let c = &x.camera;
        let forward = (c.target - c.eye).normalize_or(-Vec3::Z);
        let right = forward.cross(Vec3::Y).normalize_or(Vec3::X);
        let up = right.cross(forward);
        let half = libm::tanf(c.fov.to_radians() * 0.5);
        let seed = mix(px.wrapping_mul(0x9e37_79b9) ^ mix(py.wrapping_add(0x51ed)));
        for round in rounds {
            let mut paths: [Path; WIDTH] = std::array::from_fn(|lane| {
                let sample = round * WIDTH as u32 + lane as u32;
                let [jx, jy] = point(sample, seed);
                let sx = ((px as f32 + jx) / w as f32 * 2.0 - 1.0) * half * w as f32 / h as f32;
                let sy = (1.0 - (py as f32 + jy) / h as f32 * 2.0) * half;
                Path {
                    start: c.eye,
                    origin: c.eye,
                    towards: (forward + right * sx + up * sy).normalize(),
                    throughput: Vec3::ONE,
                    light: Vec3::ZERO,
                    density: None,
                    bounces: 0,
                    clear: true,
                    straight: true,
                    alive: true,
                    covered: true,
                    first: None,
                    seed,
                    sample,
                }
            });
            self.follow(&mut paths, rays);
            for p in &paths {
                sums.add(p.light, p.covered, p.first);
            }
        }
    }

    fn follow(&self, paths: &mut [Path; WIDTH], rays: &mut u64) {
        for spot in 0..SPOTS {
            let mut packet = Packet::default();
            for (lane, p) in paths.iter().enumerate().filter(|(_, p)| p.alive) {
                packet.set(lane, p.origin.to_array(), p.towards.to_array(), 0.0, f32::MAX);
                *rays += 1;
            }
            if packet.far.iter().all(|f| *f < 0.0) {
                return;
            }
            let (far, hit) = self.shape.bvh().closest(&mut packet);
            let mut sought = [[Sought::default(); WIDTH]; 2];
            for (lane, p) in paths.iter_mut().enumerate().filter(|(_, p)| p.alive) {
                let [sky, lamp] = &mut sought;
                self.step(p, (far[lane], hit[lane]), spot, &mut sky[lane], &mut lamp[lane]);
            }
            for sought in &sought {
                let open = self.open(sought, rays);
                for (p, (s, open)) in paths.iter_mut().zip(sought.iter().zip(open)) {
                    p.light += bounded(s.brings * open, p.bounces);
                }
            }
        }
    }

    /// What a path does where it comes to: it ends in the sky, or gathers light and bounces on.
    fn step(&self, p: &mut Path, (far, hit): (f32, u32), spot: u32, sky: &mut Sought, lamp: &mut Sought) {
        let stream = |k: u32| mix(p.seed ^ (spot * 8 + k + 1).wrapping_mul(0x85eb_ca6b));
        let [jx, jy] = point(p.sample, stream(0));
        let ground = self.ground.as_ref().and_then(|g| g.met(p.origin, p.towards)).filter(|t| *t < far);
        let at = match (ground, hit) {
            (Some(t), _) => self.ground_spot(p.origin + p.towards * t),
            (None, MISSED) => return self.end(p),
            (None, t) => self.piece_spot(p, far, t, [jx, jy]),
        };
        let [opaque, lobe] = point(p.sample, stream(1));
        // Rays start a hair off the surface that they leave.
        let hair = 1e-4 * (1.0 + at.point.abs().max_element());
        if opaque > at.material.opacity {
            p.origin = at.point + p.towards * hair;
            return;
        }
        p.clear = false;
        let eye = -p.towards;
        let side = if at.flat.dot(eye) < 0.0 { -1.0 } else { 1.0 };
        let flat = at.flat * side;
        if p.first.is_none() {
            let color = at.material.base.max(at.material.emissive);
            p.first = Some((color, at.bent * side, (at.point - p.start).length()));
        }
        let lobes = Lobes::new(&at.material, eye, flat, at.over * side, at.bent * side, at.along);
        p.light += bounded(p.throughput * lobes.glow, p.bounces);
        let front = at.point + flat * hair;
        let (towards, density) = self.sky.aim(point(p.sample, stream(2)));
        let (f, other) = lobes.reflect(towards);
        *sky = Sought {
            origin: front,
            towards,
            brings: p.throughput * f * self.sky.radiance(towards) / (density + other),
        };
        let [which, _] = point(p.sample, stream(3));
        let lamps = self.sky.lamps();
        if !lamps.is_empty() {
            let k = ((which * lamps.len() as f32) as usize).min(lamps.len() - 1);
            let towards = self.sky.towards_lamp(k, point(p.sample, stream(4)));
            let brings = p.throughput * lobes.reflect(towards).0 * lamps[k].1 * lamps.len() as f32;
            *lamp = Sought { origin: front, towards, brings };
        }
        let bounce = lobes.bounce(lobe, point(p.sample, stream(5)));
        p.alive = false;
        if let Some(b) = bounce.filter(|_| spot + 1 < SPOTS) {
            p.throughput *= b.weight;
            // The body lies behind the front of the wall.
            if b.density.is_none() && side > 0.0 {
                p.throughput *= at.material.within();
            }
            p.origin = if b.density.is_some() { front } else { at.point - flat * hair };
            (p.towards, p.density) = (b.towards, b.density);
            p.straight &= b.density.is_none();
            p.bounces += 1;
            let stays = p.throughput.max_element().min(1.0);
            p.alive = stays > 0.0;
            if p.bounces > SURE {
                let [chance, _] = point(p.sample, stream(6));
                p.alive = chance < stays;
                p.throughput /= stays.max(1e-6);
            }
        }
    }

    /// Into the sky, or to what stands in its place.
    fn end(&self, p: &mut Path) {
        p.alive = false;
        if p.straight
            && let Some(surround) = self.surround
        {
            p.covered = !p.clear;
            p.light += if p.clear { Vec3::ZERO } else { p.throughput * surround };
            return;
        }
        let share = p.density.map_or(1.0, |d| d / (d + self.sky.density(p.towards)));
        p.light += bounded(p.throughput * self.sky.radiance(p.towards) * share, p.bounces);
    }

    /// How much of what is sought arrives.
    fn open(&self, sought: &[Sought; WIDTH], rays: &mut u64) -> [f32; WIDTH] {
        let mut packet = Packet::default();
        let mut open = [0.0; WIDTH];
        for (lane, s) in sought.iter().enumerate().filter(|(_, s)| s.brings.max_element() > 0.0) {
            let past = self.ground.as_ref().map_or(1.0, |g| g.lets_past(s.origin, s.towards));
            if past > 0.0 {
                packet.set(lane, s.origin.to_array(), s.towards.to_array(), 0.0, f32::MAX);
                open[lane] = past;
                *rays += 1;
            }
        }
        if !self.holes {
            let stopped = self.shape.bvh().occluded(&mut packet);
            open.iter_mut().zip(stopped).for_each(|(o, stopped)| *o = if stopped { 0.0 } else { *o });
            return open;
        }
        for _ in 0..SPOTS {
            let mut on = packet.clone();
            let (far, hit) = self.shape.bvh().closest(&mut on);
            for lane in 0..WIDTH {
                if packet.far[lane] < 0.0 || hit[lane] == MISSED {
                    packet.far[lane] = -1.0;
                    continue;
                }
                let s = &sought[lane];
                let uv = self.uv(hit[lane], s.origin + s.towards * far[lane]);
                open[lane] *= 1.0 - self.texel(hit[lane], uv).map_or(1.0, |i| self.materials.at(i).opacity);
                // On behind the wall that lets some past.
                packet.near[lane] = far[lane] * 1.0001 + 1e-4;
                packet.far[lane] = if open[lane] > 0.0 { packet.far[lane] } else { -1.0 };
                *rays += 1;
            }
            if packet.far.iter().all(|f| *f < 0.0) {
                break;
            }
        }
        open
    }

    fn ground_spot(&self, at: Vec3) -> Spot {
        let material = self.ground.as_ref().map(|g| g.material(at)).unwrap_or_default();
        Spot { material, point: at, flat: Vec3::Y, over: Vec3::Y, bent: Vec3::Y, along: Vec3::X }
    }

    fn piece_spot(&self, p: &Path, far: f32, t: u32, jitter: [f32; 2]) -> Spot {
        let at = p.origin + p.towards * far;
        let [a, b, c] = self.shape.corners(t);
        let flat = (b - a).cross(c - a).normalize_or(-p.towards);
        let uv = self.uv(t, at);
        // Anywhere within a texel's breadth: many samples see what lies between the middles of texels.
        let size = self.surface.atlas.size as f32;
        let aside = uv + (Vec2::from(jitter) - 0.5) / size;
        let Some(i) = self.texel(t, aside).or_else(|| self.texel(t, uv)) else {
            let along = (b - a).normalize_or(Vec3::X);
            return Spot { material: Material::default(), point: at, flat, over: flat, bent: flat, along };
        };
        let material = self.materials.at(i);
        let atlas = &self.surface.atlas;
        let smooth = Vec3::new(atlas.nx[i], atlas.ny[i], atlas.nz[i]);
        let (tangent, across) = frame(self.surface, i);
        let leaning = |n: Vec3| (tangent * n.x + across * n.y + smooth * n.z).normalize_or(smooth);
        let (bent, over) = (leaning(Vec3::from(self.normals[i])), leaning(material.clearcoat_normal));
        let along = tangent * libm::cosf(material.grain) + across * libm::sinf(material.grain);
        Spot { material, point: at, flat, over, bent, along }
    }

    fn uv(&self, t: u32, at: Vec3) -> Vec2 {
        let [a, b, c] = self.shape.corners(t);
        let (e1, e2, to) = (b - a, c - a, at - a);
        let (d11, d12, d22) = (e1.dot(e1), e1.dot(e2), e2.dot(e2));
        let (d1, d2) = (to.dot(e1), to.dot(e2));
        let det = d11 * d22 - d12 * d12;
        let share = |v: f32| if det > 0.0 { v / det } else { 0.0 };
        let (v, w) = (share(d22 * d1 - d12 * d2), share(d11 * d2 - d12 * d1));
        let [ua, ub, uc] = self.shape.uvs(t);
        ua * (1.0 - v - w) + ub * v + uc * w
    }

    fn texel(&self, t: u32, uv: Vec2) -> Option<usize> {
        self.surface.atlas.at_uv(self.shape.sheet(t), uv.to_array()).map(|i| i as usize)
    }
}

/// What a path brings, after bounces no more than a bound.
fn bounded(light: Vec3, bounces: u32) -> Vec3 {
    let most = light.max_element();
    if bounces > 0 && most > BRIGHTEST { light * (BRIGHTEST / most) } else { light }
}
