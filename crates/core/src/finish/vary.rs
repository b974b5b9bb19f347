//! How an adjustment varies what lies below it, in six numbers: by how much to either side in hue, chroma, lightness and roughness, by what, and a seed.
//!
//! These are read off an adjustment whose numbers all vary by one kind of mask, evenly to either side of what changes nothing, each with a seed of its own that counts
//! up from the first; and written back as such. Any other adjustment has none, and is set number by number.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

use super::adjust::Change;
use super::{ChannelUse, Finish};
use crate::lattice::seed_spec;
use crate::setting::{MaskDrive, MaskSource, Param, ParamSpec, Settings, Value};

/// How what lies below varies.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
pub struct Variation {
    /// Degrees that the hue is turned, to either side.
    pub hue: f64,
    /// By what share of it the chroma is more or less.
    pub chroma: f64,
    /// Added to the lightness or taken off, 0…1.
    pub lightness: f64,
    /// Added to the roughness or taken off, 0…1.
    pub roughness: f64,
    /// The kind of what tells places apart.
    pub by: String,
    /// Another number, other tones.
    pub seed: u32,
}

/// What varies, in the order of the seeds: channel, setting, and the number that changes nothing.
const VARIED: [(&str, &str, Change); 4] = [
    ("base_color", "hue", Change::Hue),
    ("base_color", "chroma", Change::Chroma),
    ("base_color", "lightness", Change::Lightness),
    ("roughness", "plus", Change::Plus),
];

/// What may tell places apart: kind, and what the artist reads.
const BY: [(&str, &str); 5] = [
    ("shell", "shell"),
    ("part_value", "part"),
    ("use", "use of the recipe"),
    ("worley", "cell"),
    ("perlin", "clouds"),
];

/// The six settings.
pub fn specs() -> Vec<ParamSpec> {
    let to = |key, label, unit, most, default, help| ParamSpec::number(key, label, unit, (0.0, most), default, help);
    vec![
        to("hue", "Hue ±", "°", 180.0, 7.0, "How far hues are turned, to either side."),
        to("chroma", "Chroma ±", "", 1.0, 0.2, "By what share colours are more or less colourful."),
        to("lightness", "Lightness ±", "", 0.5, 0.06, "How much lighter or darker places are."),
        to("roughness", "Roughness ±", "", 0.5, 0.1, "How much duller or glossier places are."),
        ParamSpec::choice("by", "By", &BY, "What differs from the next: shells, parts, uses, patches or clouds."),
        seed_spec(),
    ]
}

/// Settings of a mask that every place has a number of its own of.
pub(super) fn source(by: &str, seed: u32) -> MaskSource {
    let numbers: &[(&str, f64)] = match by {
        "worley" => &[("size", 60.0), ("warp", 12.0), ("warp_size", 40.0)],
        "perlin" => &[("size", 160.0), ("octaves", 3.0)],
        _ => &[],
    };
    let mut settings: Settings = numbers.iter().map(|(key, n)| ((*key).into(), (*n).into())).collect();
    if by == "worley" {
        settings.insert("output".into(), Param::Const(Value::Text("cell".into())));
    }
    settings.insert("seed".into(), f64::from(seed).into());
    MaskSource { kind: by.into(), settings }
}

fn drive<'a>(finish: &'a Finish, channel: &str, key: &str) -> Option<&'a MaskDrive> {
    let used = finish.channels.get(channel).filter(|c| c.on)?;
    if let Param::Mask(drive) = used.settings.get(key)? { Some(drive) } else { None }
}

/// The settings of a mask without its seed, and the seed.
fn split(mask: &MaskSource) -> Option<(Settings, u32)> {
    let mut settings = mask.settings.clone();
    let seed = match settings.remove("seed") {
        None => 1.0,
        Some(Param::Const(Value::Number(n))) => n,
        Some(_) => return None,
    };
    (seed >= 0.0 && seed.fract() == 0.0).then_some((settings, seed as u32))
}

impl Variation {
    /// What an adjustment amounts to, if it is no more than that.
    pub fn of(finish: &Finish) -> Option<Variation> {
        let others =
            finish.channels.iter().filter(|(kind, c)| c.on && !["base_color", "roughness"].contains(&kind.as_str()));
        let settings: usize = finish.channels.values().filter(|c| c.on).map(|c| c.settings.len()).sum();
        let drives: Vec<&MaskDrive> =
            VARIED.iter().map(|(channel, key, _)| drive(finish, channel, key)).collect::<Option<_>>()?;
        if others.count() > 0 || settings != VARIED.len() {
            return None;
        }
        let (shared, first) = split(&drives[0].mask)?;
        let mut spread = [0.0; 4];
        for (k, (drive, (_, _, change))) in drives.iter().zip(&VARIED).enumerate() {
            let (own, seed) = split(&drive.mask)?;
            let even = (drive.low + drive.high - 2.0 * f64::from(change.neutral())).abs() < 1e-9;
            let alike = drive.mask.kind == drives[0].mask.kind && own == shared && seed == first + k as u32;
            if !even || !alike || drive.high < drive.low {
                return None;
            }
            // What was written as 1 ± 0.2 is read as 0.2, not as 0.19999999999999996.
            spread[k] = libm::round((drive.high - drive.low) / 2.0 * 1e9) / 1e9;
        }
        let [hue, chroma, lightness, roughness] = spread;
        Some(Variation { hue, chroma, lightness, roughness, by: drives[0].mask.kind.clone(), seed: first })
    }

    /// The adjustment that varies like this. What else was set of the mask in `before` stays while it is of the same kind. Numbers out of range are taken to its end.
    pub fn finish(&self, before: &Finish) -> Finish {
        let was = drive(before, "base_color", "hue").map(|d| &d.mask).filter(|m| m.kind == self.by);
        let mask = |seed: u32| {
            let mut mask = was.cloned().unwrap_or_else(|| source(&self.by, seed));
            mask.settings.insert("seed".into(), f64::from(seed).into());
            mask
        };
        let specs = specs();
        let mut out = Finish::default();
        for (k, (channel, key, change)) in VARIED.iter().enumerate() {
            let by = [self.hue, self.chroma, self.lightness, self.roughness][k].clamp(specs[k].min, specs[k].max);
            let neutral = f64::from(change.neutral());
            let drive =
                MaskDrive { mask: mask(self.seed.saturating_add(k as u32)), low: neutral - by, high: neutral + by };
            let used = ChannelUse { on: true, settings: Settings::new() };
            let used = out.channels.entry((*channel).into()).or_insert(used);
            used.settings.insert((*key).into(), Param::Mask(drive));
        }
        out
    }
}
