//! Flow: what the rain does once it has fallen. How much of it passes, where it stays, what it washes off and where it leaves that, and where damp holds.
//!
//! Water goes the [ways](crate::bake::water) down; each texel soaks up and dries a share of what would fall on it in the open in a mild climate; the weather says how much does. What passes a millimetre of its front, in mm of catchment, is
//! told as 1 − exp(−q / reach). A film that runs down a slope is ∛(q / sin θ) thick (Nusselt 1916): level places stay wet. What water carries off grows with how much of it
//! there is and how steep it runs; where it slows or dries up it lays down what is too much.

use super::rain;
use super::rays::rays_spec;
use super::{Extent, Measurement, Work, measure};
use crate::bake::links::normal;
use crate::bake::water::{Ended, spread};
use crate::bake::weather::{self, Year};
use crate::bake::{Solid, Surface};
use crate::raster::Plane;
use crate::setting::{ParamSpec, Resolved, Value};
use crate::task::{Cancel, Cancelled, OnProgress};

/// The measurement.
pub static MEASUREMENT: Measurement = Measurement {
    kind: "flow",
    label: "Flow",
    help: "Where rain gathers and runs down: how much passes, where it stays, what it washes off and leaves behind.",
    specs,
    weather: &["wind", "turns", "slant", "facing", "latitude", "ground", "rain"],
    planes: &[
        ("passes", "Passes"),
        ("stays", "Stays wet"),
        ("washed", "Washed clean"),
        ("left", "Left behind"),
        ("damp", "Damp"),
    ],
    by_size: false,
    work: Work::Surface(take),
};

fn specs(extent: Extent) -> Vec<ParamSpec> {
    vec![
        ParamSpec::length(
            "reach",
            "Much water",
            (1.0, 10_000.0),
            extent.share(0.15),
            "How far water must have come together from to count as much, in mm of surface above.",
        ),
        ParamSpec::share(
            "soaks",
            "Soaks in",
            0.12,
            "The share of a shower that the surface takes up: 0 metal, 1 brick.",
        ),
        ParamSpec::share("dries", "Dries", 0.08, "The share of a shower that dries before it has run off."),
        rays_spec(32.0),
    ]
}

/// What water does on a surface, one value per covered texel.
pub struct Flowed {
    /// 0…1: how much passes.
    pub passes: Plane,
    /// 0…1: how long it stays.
    pub stays: Plane,
    /// 0…1: how much of what lay there it took along in ten years.
    pub washed: Plane,
    /// 0…1: how much of what it carried it left there in ten years.
    pub left: Plane,
    /// What fell, in mm² of surface on which usual rain comes square on.
    pub fell: f64,
    /// What soaked in.
    pub soaked: f64,
    /// What dried.
    pub dried: f64,
    /// What left the surface: water, and what it carried.
    pub ended: Ended<2>,
}

/// How much a full stream carries at most, of what lies a layer thick on the surface it came from.
const CARRIES: f32 = 1.5;
/// On how many mm of its way all but a third of what is too much is laid down.
const LAYS: f32 = 6.0;

/// Lets rain run down: `rain` says how much of it meets each texel, 0…1.
///
/// # Errors
/// [`Cancelled`]
pub fn flow(surface: &Surface, rain: &[f32], settings: &Resolved, cancel: &Cancel) -> Result<Flowed, Cancelled> {
    let water = surface.water(cancel)?;
    let (atlas, len) = (&surface.atlas, surface.atlas.len());
    let (reach, soaks, dries) = (settings.number("reach"), settings.number("soaks"), settings.number("dries"));
    let [mut front, mut washed, mut left] = [vec![0.0f32; len], vec![0.0f32; len], vec![0.0f32; len]];
    let (mut fell, mut soaked, mut dried) = (0.0, 0.0, 0.0);
    let amount = weather::rain(settings);
    let ended = water.down(cancel, |i, [comes, carried], first| {
        let area = atlas.area[i];
        let wide = water.wide[i];
        let falls = if first { rain[i] * amount * area } else { 0.0 };
        fell += f64::from(falls);
        let all = comes + falls;
        let takes = |share: f32| if first { share * area } else { 0.0 };
        let lost = (takes(soaks) + takes(dries)).min(all);
        let by_soaking = if lost > 0.0 { lost * soaks / (soaks + dries) } else { 0.0 };
        soaked += f64::from(by_soaking);
        dried += f64::from(lost - by_soaking);
        let on = all - lost;
        front[i] += on / wide;
        let much = front[i] / reach;
        let slope = water.slope[i].max(0.02);
        let most = on * CARRIES * slope * (much / (much + 0.25));
        let mut load = carried;
        if load > most {
            let laid = if on > 0.0 { (load - most) * (1.0 - libm::expf(-area / wide / LAYS)) } else { load };
            left[i] += laid / (wide * wide).max(area);
            load -= laid;
        } else if first {
            let there = area * (1.0 - libm::expf(-6.0 * much * slope));
            let taken = there.min(most - load);
            washed[i] = taken / area.max(1e-9);
            load += taken;
        }
        [on, load]
    })?;
    let mut told = [front, washed, left];
    spread(surface, &mut told);
    let [front, washed, left] = told;
    let film = |i: usize| {
        let stands = if water.pooled[i] > 0.15 { 1.0 } else { 0.0f32 };
        (libm::cbrtf(front[i] / reach / water.slope[i].max(0.02)) * 0.5)
            .min(1.0)
            .max(stands * (front[i] * 50.0).min(1.0))
    };
    Ok(Flowed {
        stays: (0..len).map(film).collect(),
        passes: front.iter().map(|q| 1.0 - libm::expf(-q / reach)).collect(),
        washed: washed.into_iter().map(|v| v.clamp(0.0, 1.0)).collect(),
        left: left.into_iter().map(|v| 1.0 - libm::expf(-4.0 * v)).collect(),
        fell,
        soaked,
        dried,
        ended,
    })
}

fn take(
    surface: &Surface,
    _: &Solid,
    settings: &Resolved,
    cancel: &Cancel,
    on: OnProgress,
) -> Result<Plane, Cancelled> {
    let mut falling = settings.clone();
    falling.0.insert("smooth", Value::Text("off".into()));
    let rain = measure(&rain::MEASUREMENT, surface, &falling, cancel, on)?;
    let flowed = flow(surface, &rain, settings, cancel)?;
    let damp = damp(surface, &flowed.stays, settings);
    Ok([flowed.passes, flowed.stays, flowed.washed, flowed.left, damp].concat())
}

/// Where damp holds: where water stays and the sun doesn't look, and up from the ground as far as that reaches.
fn damp(surface: &Surface, stays: &[f32], settings: &Resolved) -> Plane {
    let (noon, ground) = (Year::new(settings).noon(), settings.number("ground"));
    let one = |i: usize| {
        let sunny = normal(surface, i as u32).dot(noon).max(0.0);
        let height = surface.atlas.py[i] - surface.piece.min[1];
        let rises = if ground > 0.0 { (1.0 - height / ground).clamp(0.0, 1.0) } else { 0.0 };
        let (kept, wicked) = (stays[i] * (1.0 - 0.7 * sunny), rises * rises * (1.0 - 0.4 * sunny));
        1.0 - (1.0 - kept) * (1.0 - wicked)
    };
    (0..stays.len()).map(one).collect()
}
