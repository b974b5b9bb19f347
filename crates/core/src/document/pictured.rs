//! A finish from pictures: what each picture of a set is, told by its name and by what is in it, and the coat that they make.

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::Dial;
use crate::finish::{ChannelUse, Finish, channel};
use crate::pattern::picture::CHANNEL;
use crate::raster::oklab::oklab;
use crate::raster::picture::Picture;
use crate::setting::{Between, ColorsDrive, Drive, MaskSource, Param, RampDrive, Settings, Stop, Value};

/// What a picture of a set is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Shows {
    /// Base color.
    Color,
    /// Roughness.
    Roughness,
    /// The opposite of roughness.
    Gloss,
    /// Metallic.
    Metallic,
    /// Normals whose green points up the picture.
    Normals,
    /// Normals whose green points down the picture.
    NormalsDown,
    /// Height, black low and white high.
    Height,
    /// What is there and what isn't.
    Opacity,
    /// What glows.
    Emissive,
    /// How much light gets in.
    Occlusion,
    /// Occlusion, roughness and metallic in red, green and blue.
    Packed,
    /// Nothing of the finish.
    Nothing,
}

impl Shows {
    /// The channels that such a picture fills.
    pub fn channels(self) -> &'static [&'static str] {
        match self {
            Shows::Color => &["base_color"],
            Shows::Roughness | Shows::Gloss => &["roughness"],
            Shows::Metallic => &["metallic"],
            Shows::Normals | Shows::NormalsDown => &["normal"],
            Shows::Height => &["height"],
            Shows::Opacity => &["opacity"],
            Shows::Emissive => &["emissive"],
            Shows::Occlusion => &["occlusion"],
            Shows::Packed => &["occlusion", "roughness", "metallic"],
            Shows::Nothing => &[],
        }
    }
}

/// All of them, with what the artist reads.
pub const SHOWS: &[(Shows, &str)] = &[
    (Shows::Color, "colour"),
    (Shows::Roughness, "roughness"),
    (Shows::Gloss, "gloss"),
    (Shows::Metallic, "metallic"),
    (Shows::Normals, "normals, green up"),
    (Shows::NormalsDown, "normals, green down"),
    (Shows::Height, "height"),
    (Shows::Opacity, "opacity"),
    (Shows::Emissive, "glow"),
    (Shows::Occlusion, "occlusion"),
    (Shows::Packed, "occlusion, roughness, metallic"),
    (Shows::Nothing, "not used"),
];

/// Words of file names, and what they say. What is told of more narrowly stands first.
const WORDS: &[(Shows, &[&str])] = &[
    (Shows::NormalsDown, &["normaldx", "normaldirectx", "nrmdx", "directx", "dx"]),
    (Shows::Normals, &["normal", "normals", "normalgl", "normalmap", "nrm", "nor", "norm"]),
    (Shows::Packed, &["orm", "arm", "occlusionroughnessmetallic"]),
    (Shows::Roughness, &["roughness", "rough", "rgh"]),
    (Shows::Gloss, &["gloss", "glossiness", "smoothness", "smooth"]),
    (Shows::Metallic, &["metallic", "metalness", "metal", "mtl"]),
    (Shows::Height, &["height", "heightmap", "displacement", "disp", "bump", "depth"]),
    (Shows::Occlusion, &["ao", "occlusion", "ambientocclusion"]),
    (Shows::Opacity, &["opacity", "alpha", "transparency", "cutout"]),
    (Shows::Emissive, &["emissive", "emission", "emit", "glow"]),
    (Shows::Color, &["color", "colour", "basecolor", "basecolour", "albedo", "diffuse", "diff", "col", "base"]),
];

/// A length that is asked for with a set, in mm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, TS)]
pub struct Span {
    /// Least.
    pub min: f64,
    /// Greatest.
    pub max: f64,
    /// What it is when nobody said anything.
    pub default: f64,
}

/// How wide a set lies on the piece.
pub const WIDE: Span = Span { min: 0.1, max: 10_000.0, default: 200.0 };
/// How much lies between black and white of its height.
pub const DEEP: Span = Span { min: 0.01, max: 1_000.0, default: 1.0 };

/// Why a set makes no finish.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum SetError {
    /// None of it is used.
    #[error("None of these pictures is used for the finish. Say of at least one what it shows.")]
    Nothing,
    /// Two pictures for one thing.
    #[error("“{0}” and “{1}” both fill the channel {2}. Leave one of them out: set it to “not used”.")]
    Twice(String, String, &'static str),
    /// A length that is none.
    #[error("{0} is {1} to {2} mm.")]
    Length(&'static str, f64, f64),
}

/// What a picture was taken to be, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Told {
    /// What it is.
    pub shows: Shows,
    /// Why: for the artist.
    pub why: &'static str,
}

fn words(file: &str) -> Vec<String> {
    let stem = file.rsplit(['/', '\\']).next().unwrap_or(file);
    let stem = stem.rsplit_once('.').map_or(stem, |(s, _)| s).to_lowercase();
    stem.split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).map(Into::into).collect()
}

/// What a set may be called: the words that the names of all its files begin with.
pub fn name(files: &[&str]) -> String {
    let all: Vec<Vec<String>> = files.iter().map(|f| words(f)).collect();
    let first = all.first().map(Vec::as_slice).unwrap_or_default();
    let says_something = |w: &str| WORDS.iter().any(|(_, known)| known.contains(&w));
    let shared = (0..first.len()).take_while(|i| all.iter().all(|w| w.get(*i) == first.get(*i)));
    let shared = shared.map(|i| first[i].as_str()).filter(|w| files.len() > 1 || !says_something(w));
    // Numbers of sheets and sizes name nothing.
    let shared: Vec<&str> = shared.filter(|w| !w.chars().all(|c| c.is_ascii_digit())).collect();
    let name = shared.join(" ");
    let mut letters = name.chars();
    letters.next().map_or_else(|| "From pictures".into(), |c| c.to_uppercase().chain(letters).collect())
}

fn by_name(file: &str) -> Option<Shows> {
    let words = words(file);
    // The last word that says something: the first ones name the thing ("metal_plate_rough").
    words.iter().rev().find_map(|w| {
        let plain = w.trim_end_matches(|c: char| c.is_ascii_digit());
        WORDS.iter().find(|(_, all)| all.contains(&plain)).map(|(shows, _)| match shows {
            Shows::Normals if words.iter().any(|w| w == "dx" || w == "directx") => Shows::NormalsDown,
            shows => *shows,
        })
    })
}

/// Told by what is in it; of greys, by what is not there yet.
fn by_content(picture: &Picture, taken: &BTreeSet<Shows>) -> Told {
    let small = picture.preview(64);
    let (mut directions, mut chroma, mut ends, n) = (0, 0.0f32, 0, small.values.len().max(1));
    for [r, g, b, _] in &small.values {
        let at = [*r, *g, *b].map(|v| f32::from(v) / 127.5 - 1.0);
        let length = (at[0] * at[0] + at[1] * at[1] + at[2] * at[2]).sqrt();
        directions += usize::from(at[2] > 0.2 && (length - 1.0).abs() < 0.12);
        let [_, a, b2] = oklab([*r, *g, *b]);
        chroma += libm::hypotf(a, b2);
        ends += usize::from(!(26..=229).contains(g));
    }
    if directions * 10 > n * 9 {
        Told { shows: Shows::Normals, why: "its colours are directions; which way green points can’t be seen" }
    } else if chroma / n as f32 > 0.012 {
        Told { shows: Shows::Color, why: "it has colours" }
    } else if ends * 10 > n * 9 && !taken.contains(&Shows::Metallic) {
        Told { shows: Shows::Metallic, why: "it is black and white with little between" }
    } else if !taken.contains(&Shows::Roughness) {
        Told { shows: Shows::Roughness, why: "it is grey: roughness, or height" }
    } else {
        Told { shows: Shows::Height, why: "it is grey, and another is the roughness" }
    }
}

/// What the pictures of a set are, each as good as can be told; of two that are told alike the second is nothing.
pub fn tell(pictures: &[(&str, &Picture)]) -> Vec<Told> {
    let named: Vec<Option<Shows>> = pictures.iter().map(|(file, _)| by_name(file)).collect();
    let mut taken: BTreeSet<Shows> = named.iter().flatten().copied().collect();
    let mut filled: BTreeSet<&str> = BTreeSet::new();
    let one = |((_, picture), named): (&(&str, &Picture), &Option<Shows>)| {
        let told = match named {
            Some(shows) => Told { shows: *shows, why: "its name says so" },
            None => by_content(picture, &taken),
        };
        taken.insert(told.shows);
        let fills = told.shows.channels();
        if fills.iter().any(|c| filled.contains(c)) {
            return Told { shows: Shows::Nothing, why: "another is that already" };
        }
        filled.extend(fills);
        told
    };
    pictures.iter().zip(&named).map(one).collect()
}

/// The id that the dial of the pictures' width comes with.
const WIDTH: &str = "width";

fn check_set(pictures: &[(String, Shows)], width: f64, relief: f64) -> Result<(), SetError> {
    let mut filled: BTreeMap<&str, &str> = BTreeMap::new();
    for (file, fills) in pictures.iter().flat_map(|(file, shows)| shows.channels().iter().map(move |c| (file, *c))) {
        if let Some(first) = filled.insert(fills, file) {
            let label = channel::find(fills).map_or(fills, |c| c.label);
            return Err(SetError::Twice(first.into(), file.clone(), label));
        }
    }
    if filled.is_empty() {
        return Err(SetError::Nothing);
    }
    for (what, length, span) in
        [("The width on the piece", width, WIDE), ("What lies between black and white", relief, DEEP)]
    {
        if !(span.min..=span.max).contains(&length) {
            return Err(SetError::Length(what, span.min, span.max));
        }
    }
    Ok(())
}

/// The finish of pictures, by the names they have among those that were brought in, `width` mm wide on the piece; and the dial of that width. They
/// go on as `tiles`, which keeps rows and courses whole, or else without a repeat that is seen. `relief` is how many mm lie between black and white of the height.
///
/// # Errors
/// [`SetError`] when none is used, two fill one channel, or a length is out of its range.
pub fn finish(pictures: &[(String, Shows)], width: f64, relief: f64, tiles: bool) -> Result<(Finish, Dial), SetError> {
    check_set(pictures, width, relief)?;
    let source = |kind: &str, file: &str, channel: Option<&str>| {
        let mut settings: Settings = BTreeMap::from([
            ("picture".to_owned(), Param::from(file)),
            ("size".to_owned(), Drive::plain(WIDTH).into()),
            ("repeat".to_owned(), if tiles { "tiles" } else { "hidden" }.into()),
            ("placement".to_owned(), "triplanar".into()),
        ]);
        if let Some(channel) = channel {
            settings.insert(CHANNEL.into(), channel.into());
        }
        MaskSource { kind: kind.into(), settings }
    };
    let number = |file: &str, channel: &str, black: f64, white: f64| {
        let stop = |at: f64, value: f64| Stop { at, value: Value::Number(value), by: None };
        Param::Ramp(RampDrive {
            along: source("picture", file, Some(channel)),
            stops: vec![stop(0.0, black), stop(1.0, white)],
            between: Between::Linear,
            repeat: 1,
            palette: None,
        })
    };
    let colors = |file: &str| Param::Colors(ColorsDrive { colors: source("colors", file, None) });
    let mut out = Finish::default();
    let mut lay = |channel: &str, all: Vec<(&str, Param)>| {
        let settings = all.into_iter().map(|(key, param)| (key.to_owned(), param)).collect();
        out.channels.insert(channel.into(), ChannelUse { on: true, settings });
    };
    for (file, shows) in pictures {
        match shows {
            Shows::Color => lay("base_color", vec![("color", colors(file))]),
            Shows::Roughness => lay("roughness", vec![("value", number(file, "grey", 0.0, 1.0))]),
            Shows::Gloss => lay("roughness", vec![("value", number(file, "grey", 1.0, 0.0))]),
            Shows::Metallic => lay("metallic", vec![("value", number(file, "grey", 0.0, 1.0))]),
            Shows::Normals => lay("normal", vec![("color", colors(file))]),
            Shows::NormalsDown => lay("normal", vec![("color", colors(file)), ("green", "down".into())]),
            Shows::Height => lay("height", vec![("value", number(file, "grey", -relief / 2.0, relief / 2.0))]),
            Shows::Opacity => lay("opacity", vec![("value", number(file, "grey", 0.0, 1.0))]),
            Shows::Emissive => lay("emissive", vec![("color", colors(file))]),
            Shows::Occlusion => lay("occlusion", vec![("value", number(file, "grey", 0.0, 1.0))]),
            Shows::Packed => {
                lay("occlusion", vec![("value", number(file, "red", 0.0, 1.0))]);
                lay("roughness", vec![("value", number(file, "green", 0.0, 1.0))]);
                lay("metallic", vec![("value", number(file, "blue", 0.0, 1.0))]);
            }
            Shows::Nothing => {}
        }
    }
    if !out.channels.contains_key("metallic") {
        // What lies below must not shine through as metal.
        let plain = ChannelUse { on: true, settings: BTreeMap::from([("value".to_owned(), Param::from(0.0))]) };
        out.channels.insert("metallic".into(), plain);
    }
    let range = ((width / 10.0).max(0.1), (width * 10.0).min(10_000.0));
    let help = "How wide the pictures lie on the piece; what they show grows with them.".into();
    let dial = Dial { log: true, help, ..Dial::number(WIDTH, "Width of the pictures", "mm", range, width) };
    Ok((out, dial))
}
