//! The points of a stroke, and the bytes they are kept as.
//!
//! An asset: `DCT1`, the number of points, then of each point its place (three f32), its normal (three i16, ±1 at ±32767), its pressure (u16, 1 at 65535) and its time (u32, ms), all little-endian.
//! Where a pen was laid down it begins with `DCT2`, and each point ends with its tilt (u16, 1 at 65535).

use std::borrow::Cow;
use std::sync::Arc;

use glam::Vec3;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::{Deserialize, Deserializer, Serialize, Serializer};

const MAGIC: &[u8; 4] = b"DCT1";
const BYTES: usize = 24;
/// With tilt.
const TILTED: &[u8; 4] = b"DCT2";
const TILTED_BYTES: usize = BYTES + 2;

/// As many points as one stroke may have.
pub const MOST_POINTS: usize = 20_000;

/// A place that the brush went over.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// On the piece, in mm.
    pub at: Vec3,
    /// Normal of the surface there, as long as a unit within 1e-4.
    pub normal: Vec3,
    /// 0…1.
    pub pressure: f32,
    /// How far the pen was laid down: 0 upright, 1 flat on the surface.
    pub tilt: f32,
    /// Since the stroke began, in ms.
    pub time: u32,
}

/// The points of a stroke.
#[derive(Debug, Clone, PartialEq)]
pub struct Track {
    /// At least one.
    pub points: Vec<Point>,
}

/// Why some points are no stroke.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum TrackError {
    /// None, or too many.
    #[error("A stroke has 1 to {MOST_POINTS} points; this one has {0}. Draw it in several.")]
    Count(usize),
    /// A point that is nowhere.
    #[error(
        "Point {0} of the stroke is no place on a piece: wanted are x, y, z and a normal in mm, pressure and time, all of them numbers. Draw the stroke again."
    )]
    Point(usize),
    /// Bytes of something else.
    #[error(
        "These are not the points of a stroke, or they are cut off. Draw the stroke again, or bring the file in anew."
    )]
    Bytes,
}

impl Track {
    /// Of points as a page sends them: x, y, z in mm, the normal's three, pressure 0…1, time in ms, and tilt 0…1 if the pen tells it.
    ///
    /// # Errors
    /// [`TrackError`]
    pub fn of_numbers(rows: &[Vec<f64>]) -> Result<Track, TrackError> {
        let point = |(i, row): (usize, &Vec<f64>)| {
            let [x, y, z, nx, ny, nz, pressure, time, ref tilt @ ..] = row[..] else {
                return Err(TrackError::Point(i + 1));
            };
            let tilt = match tilt {
                [] => 0.0,
                [tilt] if tilt.is_finite() => *tilt,
                _ => return Err(TrackError::Point(i + 1)),
            };
            let (at, normal) = (Vec3::new(x as f32, y as f32, z as f32), Vec3::new(nx as f32, ny as f32, nz as f32));
            let lies = at.is_finite() && at.abs().max_element() <= 1e6;
            let normal = normal.try_normalize().filter(|_| lies && pressure.is_finite() && time.is_finite());
            let normal = normal.ok_or(TrackError::Point(i + 1))?;
            let [pressure, tilt] = [pressure, tilt].map(|v| v.clamp(0.0, 1.0) as f32);
            Ok(Point { at, normal, pressure, tilt, time: time.clamp(0.0, 4e9) as u32 })
        };
        Track { points: rows.iter().enumerate().map(point).collect::<Result<_, _>>()? }.checked()
    }

    /// Of kept bytes.
    ///
    /// # Errors
    /// [`TrackError`]
    pub fn read(bytes: &[u8]) -> Result<Track, TrackError> {
        let (head, rest) = bytes.split_at_checked(8).ok_or(TrackError::Bytes)?;
        let count = u32::from_le_bytes([head[4], head[5], head[6], head[7]]) as usize;
        let long = match &head[..4] {
            magic if magic == MAGIC => BYTES,
            magic if magic == TILTED => TILTED_BYTES,
            _ => return Err(TrackError::Bytes),
        };
        if Some(rest.len()) != count.checked_mul(long) {
            return Err(TrackError::Bytes);
        }
        let point = |(i, b): (usize, &[u8])| {
            let float = |k: usize| f32::from_le_bytes([b[k], b[k + 1], b[k + 2], b[k + 3]]);
            let unit = |k: usize| f32::from(i16::from_le_bytes([b[k], b[k + 1]])) / 32767.0;
            let at = Vec3::new(float(0), float(4), float(8));
            // As it is written, which is a unit within what an i16 tells apart: it must give the same bytes again.
            let normal = Vec3::new(unit(12), unit(14), unit(16));
            let lies = at.is_finite() && at.abs().max_element() <= 1e6;
            if !lies || !(0.99..1.01).contains(&normal.length()) {
                return Err(TrackError::Point(i + 1));
            }
            let share = |k: usize| f32::from(u16::from_le_bytes([b[k], b[k + 1]])) / 65535.0;
            let tilt = if long > BYTES { share(BYTES) } else { 0.0 };
            let time = u32::from_le_bytes([b[20], b[21], b[22], b[23]]);
            Ok(Point { at, normal, pressure: share(18), tilt, time })
        };
        Track { points: rest.chunks_exact(long).enumerate().map(point).collect::<Result<_, _>>()? }.checked()
    }

    /// The bytes that it is kept as.
    pub fn bytes(&self) -> Vec<u8> {
        let tilted = self.points.iter().any(|p| share(p.tilt) > 0);
        let mut out = Vec::with_capacity(8 + self.points.len() * TILTED_BYTES);
        out.extend(if tilted { TILTED } else { MAGIC });
        out.extend((self.points.len() as u32).to_le_bytes());
        for p in &self.points {
            p.at.to_array().iter().for_each(|v| out.extend(v.to_le_bytes()));
            p.normal.to_array().iter().for_each(|v| out.extend(((v * 32767.0).round() as i16).to_le_bytes()));
            out.extend(share(p.pressure).to_le_bytes());
            out.extend(p.time.to_le_bytes());
            if tilted {
                out.extend(share(p.tilt).to_le_bytes());
            }
        }
        out
    }

    fn checked(self) -> Result<Track, TrackError> {
        if (1..=MOST_POINTS).contains(&self.points.len()) {
            Ok(self)
        } else {
            Err(TrackError::Count(self.points.len()))
        }
    }

    /// How long it is, in mm.
    pub fn length(&self) -> f32 {
        self.points.windows(2).map(|p| p[0].at.distance(p[1].at)).sum()
    }
}

/// 0…1 as it is written.
fn share(v: f32) -> u16 {
    (v * 65535.0).round() as u16
}

/// The points of a stroke as a document holds them: known by the hash of their bytes, and at hand or not. As JSON it is that hash; new ones are read from a list of rows of numbers as well.
#[derive(Debug, Clone)]
pub struct Points {
    hash: String,
    track: Option<Arc<Track>>,
}

impl PartialEq for Points {
    fn eq(&self, other: &Self) -> bool {
        self.hash == other.hash
    }
}

impl Points {
    /// Of a track, as it comes back from its bytes: what is drawn now and after a restart is the same.
    ///
    /// # Errors
    /// [`TrackError`]
    pub fn new(track: &Track) -> Result<Points, TrackError> {
        let bytes = track.bytes();
        let track = Track::read(&bytes)?;
        Ok(Points { hash: blake3::hash(&bytes).to_hex().to_string(), track: Some(Arc::new(track)) })
    }

    /// blake3 of the bytes, hex.
    pub fn hash(&self) -> &str {
        &self.hash
    }

    /// The points, if they are at hand.
    pub fn track(&self) -> Option<&Arc<Track>> {
        self.track.as_ref()
    }

    /// Takes in the points that belong to the hash.
    pub fn hold(&mut self, track: Arc<Track>) {
        self.track = Some(track);
    }
}

impl Serialize for Points {
    fn serialize<S: Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.serialize_str(&self.hash)
    }
}

#[derive(Deserialize)]
#[serde(untagged)]
enum Written {
    Hash(String),
    Rows(Vec<Vec<f64>>),
}

impl<'de> Deserialize<'de> for Points {
    fn deserialize<D: Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        match Written::deserialize(d)? {
            Written::Hash(hash) => Ok(Points { hash, track: None }),
            Written::Rows(rows) => {
                Track::of_numbers(&rows).and_then(|track| Points::new(&track)).map_err(serde::de::Error::custom)
            }
        }
    }
}

impl JsonSchema for Points {
    fn schema_name() -> Cow<'static, str> {
        "Points".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({
            "description": "Where a stroke runs: blake3 of its points' bytes, or rows of x, y, z, the normal's three, pressure, time and, if the pen tells it, tilt.",
            "anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "array", "items": {"type": "number"}}}]
        })
    }
}
