//! The weather of a project: where wind, rain and sun come from, how high the ground reaches, how much it rains and for how many years. Several measurements follow it; each takes of it what it needs.
//!
//! Bearings are in degrees from north, clockwise as seen from above. The piece's front (+Z) faces one of them.

use glam::Vec3;

use crate::setting::{ParamSpec, Resolved};

/// Key under which a document keeps it, among the settings of measurements.
pub const KIND: &str = "weather";
/// What the artist reads.
pub const LABEL: &str = "Weather";
/// One sentence of help.
pub const HELP: &str = "Where wind, rain and sun come from, and for how long, for all readings that follow them.";

/// Its settings.
pub fn specs() -> Vec<ParamSpec> {
    vec![
        ParamSpec::number(
            "wind",
            "Wind from",
            "°",
            (0.0, 360.0),
            240.0,
            "Where most of the wind comes from: 0 is north, 90 east, 180 south, 270 west.",
        ),
        ParamSpec::number(
            "turns",
            "It turns by",
            "°",
            (0.0, 180.0),
            50.0,
            "How far to either side the wind turns; 180 is all round.",
        ),
        ParamSpec::number(
            "slant",
            "Rain slants by",
            "°",
            (0.0, 80.0),
            25.0,
            "How far from the vertical rain falls: 0 in still air, 60 in a gale.",
        ),
        ParamSpec::number(
            "facing",
            "Front faces",
            "°",
            (0.0, 360.0),
            180.0,
            "Which way the front of the piece looks: 180 is south.",
        ),
        ParamSpec::number(
            "latitude",
            "Latitude",
            "°",
            (-90.0, 90.0),
            50.0,
            "How far north of the equator it stands; south of it is negative.",
        ),
        ParamSpec::number(
            "ground",
            "Ground reaches",
            "mm",
            (0.0, 10_000.0),
            100.0,
            "How high above the piece's lowest point splashes and damp come.",
        ),
        ParamSpec::number(
            "rain",
            "Rain in a year",
            "mm",
            (0.0, 10_000.0),
            USUAL_RAIN,
            "How much of it falls: 250 in a desert, 800 where it is mild, 2500 on a wet coast. What runs down follows it.",
        ),
        ParamSpec {
            log: true,
            ..ParamSpec::number(
                "years",
                "Years",
                "",
                (0.0, 1000.0),
                USUAL_YEARS,
                "How long the piece has stood outdoors: what sun bleaches, dust covers, and water washes off and leaves builds up with it.",
            )
        },
    ]
}

/// Rain of a mild climate, in mm a year: where so much falls, water is what its measurement's settings say.
const USUAL_RAIN: f64 = 800.0;
/// So many years are what measurements tell of where nothing else is said.
const USUAL_YEARS: f64 = 10.0;
/// In how many years all but a third of what builds up has done so.
const BUILDS_UP: f32 = 10.0;

/// How much rain falls, against what is usual.
pub fn rain(s: &Resolved) -> f32 {
    s.number("rain") / USUAL_RAIN as f32
}

/// Lets values 0…1 that tell of what the usual years bring come as far as they do in the weather's: exponentially towards an end, which is 1.58 times that, and never
/// beyond 1.
pub fn age(values: &mut [f32], s: &Resolved) {
    let so_far = |years: f32| 1.0 - libm::expf(-years / BUILDS_UP);
    let share = so_far(s.number("years")) / so_far(USUAL_YEARS as f32);
    values.iter_mut().for_each(|v| *v = (*v * share).min(1.0));
}

/// Those of its settings that are called so.
pub(super) fn some(keys: &[&str]) -> Vec<ParamSpec> {
    specs().into_iter().filter(|s| keys.contains(&s.key)).collect()
}

/// A way that lies level: where a bearing in degrees points to, for a piece whose front faces another. Unit.
pub fn bearing(degrees: f32, facing: f32) -> Vec3 {
    let (sin, cos) = libm::sincosf((degrees - facing).to_radians());
    // The front is +Z; what is clockwise of it as seen from above is −X.
    Vec3::new(-sin, 0.0, cos)
}

/// Where rain comes from: a point of the unit square turns the wind, and slants it by half as much to half as much again as is usual.
pub struct Falling {
    wind: f32,
    turns: f32,
    slant: f32,
    facing: f32,
}

impl Falling {
    /// By the weather's settings.
    pub fn new(s: &Resolved) -> Self {
        let radians = s.number("slant").to_radians();
        Self { wind: s.number("wind"), turns: s.number("turns"), slant: radians, facing: s.number("facing") }
    }

    /// Where the wind comes from there, level. Unit.
    pub fn wind(&self, u: f32) -> Vec3 {
        bearing(self.wind + (2.0 * u - 1.0) * self.turns, self.facing)
    }

    /// Towards where the rain comes from. Unit.
    pub fn rain(&self, [u, v]: [f32; 2]) -> Vec3 {
        let (sin, cos) = libm::sincosf((self.slant * (0.5 + v)).min(std::f32::consts::FRAC_PI_2));
        self.wind(u) * sin + Vec3::Y * cos
    }
}

/// The sun's ways over a year.
pub struct Year {
    /// Towards the celestial pole that is above the horizon in the north. Unit.
    pole: Vec3,
    /// Towards where the sun of an equinox stands at noon. Unit.
    noon: Vec3,
    west: Vec3,
    /// Sine and cosine of the latitude.
    latitude: (f32, f32),
}

/// Tilt of the earth's axis, in radians.
const OBLIQUITY: f32 = 0.409_1;

impl Year {
    /// By the weather's settings.
    pub fn new(s: &Resolved) -> Self {
        let (sin, cos) = libm::sincosf(s.number("latitude").to_radians());
        let facing = s.number("facing");
        let north = bearing(0.0, facing);
        Self {
            pole: north * cos + Vec3::Y * sin,
            noon: Vec3::Y * cos - north * sin,
            west: bearing(270.0, facing),
            latitude: (sin, cos),
        }
    }

    /// Towards where the sun of an equinox stands at noon. Unit.
    pub fn noon(&self) -> Vec3 {
        self.noon
    }

    /// Towards the sun at a time of the year and a time of its daylight, both 0…1; as long as the light is strong that comes in such a stretch of time. Zero where it
    /// doesn't rise that day.
    pub fn sun(&self, [time, hour]: [f32; 2]) -> Vec3 {
        let decline = OBLIQUITY * libm::sinf(std::f32::consts::TAU * time);
        let (sin, cos) = libm::sincosf(decline);
        // Half of the day's arc: cos H = −tan φ tan δ; at the poles a day is a year.
        let arc = (-self.latitude.0 * sin / (self.latitude.1 * cos).max(1e-6)).clamp(-1.0, 1.0);
        let arc = libm::acosf(arc);
        let (east, along) = libm::sincosf(arc * (2.0 * hour - 1.0));
        let towards = self.pole * sin + (self.noon * along + self.west * east) * cos;
        if towards.y <= 1e-3 {
            return Vec3::ZERO;
        }
        // What comes through the air on a clear day: 0.7^(m^0.678), m = 1 / sin of the height (Meinel & Meinel 1976).
        let through = libm::powf(0.7, libm::powf(1.0 / towards.y, 0.678));
        towards.normalize() * (through * arc / std::f32::consts::PI)
    }

    /// Suns of all of the year, spread evenly over its days and their hours.
    fn suns(&self) -> Vec<Vec3> {
        const STEPS: u32 = 48;
        let at = |i: u32| (i as f32 + 0.5) / STEPS as f32;
        (0..STEPS * STEPS).map(|k| self.sun([at(k / STEPS), at(k % STEPS)])).collect()
    }

    /// The dose on a plane that nothing shades, as the mean over the year and its hours.
    pub fn dose(&self, normal: Vec3) -> f32 {
        dose(&self.suns(), normal)
    }

    /// The dose on the plane that gets most: one that leans towards the equator by whatever is best.
    pub fn most(&self) -> f32 {
        let (suns, level) = (self.suns(), (self.noon * Vec3::new(1.0, 0.0, 1.0)).normalize_or(Vec3::Z));
        let leaning = |degrees: u32| {
            let (sin, cos) = libm::sincosf((degrees as f32).to_radians());
            dose(&suns, Vec3::Y * cos + level * sin)
        };
        (0..=90).step_by(5).map(leaning).fold(1e-6, f32::max)
    }
}

/// What a plane gets of suns, in the mean.
fn dose(suns: &[Vec3], normal: Vec3) -> f32 {
    suns.iter().map(|sun| sun.dot(normal).max(0.0)).sum::<f32>() / suns.len() as f32
}
