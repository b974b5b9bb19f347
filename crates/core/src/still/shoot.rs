//! Stills and turntables to order: how a picture is wished for, what is refused, and the finished bytes.

use glam::Vec3;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::Camera;
use super::develop;
use super::light::{self, LIGHTS};
use super::sky::{Lighting, Sky};
use super::trace::{Exposure, Scene};
use crate::bake::Surface;
use crate::evaluate::Evaluation;
use crate::raster::srgb::decode;
use crate::task::{Cancel, Cancelled, OnProgress};

/// What surrounds the piece: neutral greys, since colour is judged before them, the sky that lights it, or nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Surround {
    /// The grey of the view.
    Grey,
    /// A light one.
    Light,
    /// A dark one.
    Dark,
    /// The sky.
    Sky,
    /// Transparent.
    Clear,
}

impl Surround {
    /// Its byte, sRGB. Who is seen before the sky or nothing stands before mid-grey where it lets light through.
    pub fn byte(self) -> u8 {
        match self {
            Surround::Grey | Surround::Sky | Surround::Clear => 0x77,
            Surround::Light => 0xc8,
            Surround::Dark => 0x26,
        }
    }

    /// The same, linear.
    pub fn linear(self) -> Vec3 {
        Vec3::splat(decode(f32::from(self.byte()) / 255.0))
    }
}

/// How a still is wished for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct StillSettings {
    /// Where the eye is, in mm; none for a three-quarter view with all of the piece.
    pub eye: Option<[f32; 3]>,
    /// What it looks at.
    pub target: [f32; 3],
    /// Vertical opening in degrees.
    pub fov: f32,
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// Samples to a pixel.
    pub samples: u32,
    /// Key of the set-up of light.
    pub light: String,
    /// Degrees that the light is turned by.
    pub turn: f32,
    /// Factor of the light.
    pub brightness: f32,
    /// Strength of the rim light, 0…1.
    pub rim: f32,
    /// Stops.
    pub exposure: f32,
    /// What is seen around the piece.
    pub surround: Surround,
    /// Whether it stands on something.
    pub ground: bool,
    /// Whether its relief moves the surface, rather than only its light.
    #[serde(default)]
    pub relief: bool,
    /// Whether noise is taken out, so that few samples look like many.
    #[serde(default)]
    pub denoise: bool,
    /// Pictures of one turn of the piece; 1 for a single still.
    pub turntable: u32,
}

impl Default for StillSettings {
    fn default() -> Self {
        Self {
            eye: None,
            target: [0.0; 3],
            fov: 28.0,
            width: 512,
            height: 512,
            samples: 64,
            light: LIGHTS[0].key.into(),
            turn: 0.0,
            brightness: 1.0,
            rim: 0.0,
            exposure: 0.0,
            surround: Surround::Grey,
            ground: false,
            relief: false,
            denoise: false,
            turntable: 1,
        }
    }
}

/// Why no still was taken.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum StillError {
    /// Asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// No such light.
    #[error("There is no light “{0}”. There are: {all}.", all = LIGHTS.iter().map(|l| l.key).collect::<Vec<_>>().join(", "))]
    Light(String),
    /// A number that can't be used: what, the number, the range.
    #[error("The still’s {0} can’t be {1}; take one from {2} to {3}.")]
    Range(&'static str, f64, f64, f64),
    /// Eye and target in one place, or nowhere.
    #[error("The camera looks nowhere: its eye and its target are the same place. Move it away from the piece.")]
    Camera,
}

/// Most pixels of a still and its pictures together.
const MOST: f64 = 400e6;
/// Most pixels of a still that is shown as it refines: its sums take 60 bytes each.
const SHOWN: u32 = 1 << 22;

impl StillSettings {
    /// The set-up of light, if all of it can be used.
    ///
    /// # Errors
    /// [`StillError`]
    pub fn check(&self) -> Result<Lighting, StillError> {
        let light = light::find(&self.light).ok_or_else(|| StillError::Light(self.light.clone()))?;
        let pictures = f64::from(self.width) * f64::from(self.height) * f64::from(self.turntable);
        let numbers = [
            ("width", f64::from(self.width), 16.0, 4096.0),
            ("height", f64::from(self.height), 16.0, 4096.0),
            ("number of samples", f64::from(self.samples), 1.0, 4096.0),
            ("opening", f64::from(self.fov), 1.0, 120.0),
            ("brightness", f64::from(self.brightness), 0.0, 100.0),
            ("rim light", f64::from(self.rim), 0.0, 10.0),
            ("exposure", f64::from(self.exposure), -16.0, 16.0),
            ("turn", f64::from(self.turn), -3600.0, 3600.0),
            ("number of pictures", f64::from(self.turntable), 1.0, 360.0),
            ("number of pixels in all", pictures, 1.0, MOST),
        ];
        // A number that is none lies in no range.
        if let Some((what, value, low, high)) = numbers.into_iter().find(|(_, v, l, h)| !(l..=h).contains(&v)) {
            return Err(StillError::Range(what, value, low, high));
        }
        if let Some(eye) = self.eye {
            let way = Vec3::from(eye) - Vec3::from(self.target);
            if !(way.is_finite() && way.length() > 1e-4) {
                return Err(StillError::Camera);
            }
        }
        Ok(Lighting { light, turn: self.turn, brightness: self.brightness, rim: self.rim })
    }

    fn camera(&self, surface: &Surface) -> Camera {
        match self.eye {
            Some(eye) => Camera { eye: eye.into(), target: self.target.into(), fov: self.fov },
            None => Camera::framing(&surface.piece, self.width as f32 / self.height as f32, 1.0),
        }
    }
}

/// Takes the pictures: RGBA8 of each. On a turntable the piece turns before a camera and a light that stand.
///
/// # Errors
/// [`StillError`]
pub fn shoot(
    surface: &Surface,
    e: &Evaluation,
    settings: &StillSettings,
    cancel: &Cancel,
    progress: OnProgress,
) -> Result<Vec<Vec<u8>>, StillError> {
    taken(surface, e, settings, cancel, progress, None)
}

/// The same picture to the byte, which `show` is given as it gets smoother, with the samples that a pixel has had by then. What is too large to be held so, and a turntable, is not shown before it is done.
///
/// # Errors
/// [`StillError`]
pub fn shoot_shown(
    surface: &Surface,
    e: &Evaluation,
    settings: &StillSettings,
    cancel: &Cancel,
    progress: OnProgress,
    show: &dyn Fn(u32, Vec<u8>),
) -> Result<Vec<Vec<u8>>, StillError> {
    let shown = settings.turntable == 1 && settings.width * settings.height <= SHOWN;
    taken(surface, e, settings, cancel, progress, shown.then_some(show))
}

fn taken(
    surface: &Surface,
    e: &Evaluation,
    settings: &StillSettings,
    cancel: &Cancel,
    progress: OnProgress,
    show: Option<&dyn Fn(u32, Vec<u8>)>,
) -> Result<Vec<Vec<u8>>, StillError> {
    let lighting = settings.check()?;
    let camera = settings.camera(surface);
    let count = settings.turntable;
    let turns = (0..count).map(|k| 360.0 * k as f32 / count as f32);
    let skies: Vec<Sky> =
        turns.clone().map(|degrees| Sky::new(&Lighting { turn: lighting.turn + degrees, ..lighting })).collect();
    let mut scene = Scene::new(surface, e, &skies[0]);
    if settings.surround != Surround::Sky {
        scene = scene.before(settings.surround.linear());
    }
    if settings.relief {
        progress("Moving the surface", 0.0);
        scene = scene.moved_by(e);
        cancel.check()?;
    }
    if settings.ground {
        scene = scene.on_ground();
    }
    let one = |(k, degrees): (usize, f32)| {
        // Turning camera and light is turning the piece the other way.
        let (sin, cos) = (libm::sinf(degrees.to_radians()), libm::cosf(degrees.to_radians()));
        let away = camera.eye - camera.target;
        let away = Vec3::new(away.x * cos + away.z * sin, away.y, away.z * cos - away.x * sin);
        let camera = Camera { eye: camera.target + away, ..camera };
        let (size, samples, denoise) = ([settings.width, settings.height], settings.samples, settings.denoise);
        let exposure = Exposure { camera, size, samples, denoise };
        let tell = |label: &str, share: f32| progress(label, (k as f32 + share) / count as f32);
        let scene = scene.under(&skies[k]);
        let over = (settings.surround != Surround::Clear).then(|| settings.surround.linear());
        let bytes = |pixels: &[[f32; 4]]| develop::bytes(pixels, settings.exposure, over);
        let traced = match show {
            Some(show) => scene.refine(&exposure, cancel, &tell, &mut |n, pixels| show(n, bytes(&pixels)))?,
            None => scene.trace(&exposure, cancel, &tell)?,
        };
        Ok(bytes(&traced.pixels))
    };
    turns.enumerate().map(one).collect()
}
