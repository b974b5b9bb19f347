//! Blur and grow at 2048² on a plate that fills its square, against crates that work on plain pictures and know of no seams; and an eight-step pointwise line
//! against its patterns alone.

use std::any::Any;
use std::sync::Arc;

use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Layer};
use dustcoat_core::evaluate::{Cache, Context, Measured, mask};
use dustcoat_core::mask::shaper::{Given, Keeper, Work, distance, find};
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::{DialStates, Param, Settings, resolve};
use dustcoat_core::task::{Cancel, silent};
use imageproc::distance_transform::euclidean_squared_distance_transform;
use imageproc::filter::gaussian_blur_f32;
use imageproc::image::imageops::fast_blur;
use imageproc::image::{GrayImage, ImageBuffer, Luma};
use libblur::{
    BlurImage, BlurImageMut, EdgeMode, EdgeMode2D, FastBlurChannels, GaussianBlurParams, IeeeBinaryConvolutionMode,
    ThreadingPolicy,
};
use serde_json::{Value, json};

use crate::{Line, fastest, print};

const SIZE: u32 = 2048;
/// Keeps nothing: what is timed is worked out anew each time.
struct Forgets;

impl Keeper for Forgets {
    fn kept(&self, _: &str) -> Option<Arc<dyn Any + Send + Sync>> {
        None
    }

    fn keep(&self, _: String, _: Arc<dyn Any + Send + Sync>, _: u64) {}

    fn room(&self) -> u64 {
        0
    }
}

/// Side of the plate in mm: ten texels to a millimetre.
const SIDE: f32 = 204.8;

/// A plate that fills its square of 2048² texels.
pub fn plate(side: f32) -> Surface {
    let mut soup = Soup::default();
    let part = soup.part("plate");
    let h = side / 2.0;
    let corner = |x: f32, z: f32| ([x, 0.0, z], [0.0, 1.0, 0.0], [x / side + 0.5, z / side + 0.5]);
    let c = [corner(-h, h), corner(h, h), corner(h, -h), corner(-h, -h)];
    soup.push(part, [c[0], c[1], c[2]]);
    soup.push(part, [c[0], c[2], c[3]]);
    Surface::new(Arc::new(Piece::build(soup).expect("a plate")), SIZE)
}

fn shape(kind: &str, surface: &Surface, mask: &[f32], settings: &[(&str, f64)]) -> Vec<f32> {
    let shaper = find(kind).expect("it is there");
    let settings: Settings = settings.iter().map(|(k, v)| ((*k).to_owned(), Param::from(*v))).collect();
    match (shaper.work)(&resolve(&(shaper.specs)(), &settings, &DialStates::new())) {
        Work::Whole(reshape) => {
            reshape(surface, mask, &Given { cancel: &Cancel::default(), keeper: &Forgets }).expect("nobody stops it")
        }
        Work::Border(reach, shape) => {
            let texel = surface.atlas.texel_length;
            let mut out = distance::signed(surface, mask, reach + texel, &Cancel::default()).expect("nobody stops it");
            shape(&mut out, texel);
            out
        }
        Work::Point(_) => unreachable!("both look around"),
    }
}

fn accurate_blur(picture: &ImageBuffer<Luma<f32>, Vec<f32>>) -> f32 {
    let from = BlurImage::borrow(picture.as_raw(), SIZE, SIZE, FastBlurChannels::Plane);
    let mut to = BlurImageMut::alloc(SIZE, SIZE, FastBlurChannels::Plane);
    let (params, edges) = (GaussianBlurParams::new_from_sigma(8.0), EdgeMode2D::new(EdgeMode::Clamp));
    let mode = IeeeBinaryConvolutionMode::Normal;
    libblur::gaussian_blur_f32(&from, &mut to, params, edges, ThreadingPolicy::Adaptive, mode).expect("sizes agree");
    to.data.borrow()[7]
}

pub fn run() {
    let surface = plate(SIDE);
    let a = &surface.atlas;
    let spot = |i: usize| ((a.px[i] * 0.21).sin() * (a.pz[i] * 0.17).sin() * 0.8 + 0.5).clamp(0.0, 1.0);
    let mask: Vec<f32> = (0..a.len()).map(spot).collect();
    let picture: ImageBuffer<Luma<f32>, Vec<f32>> =
        ImageBuffer::from_fn(SIZE, SIZE, |x, y| Luma([mask[a.lookup[(y * SIZE + x) as usize] as usize]]));
    // What is laid out once for a piece is not counted: coarser sizes, links, seams.
    let mut kept = shape("blur", &surface, &mask, &[("radius", 0.8)])[7];
    let ours = fastest(3, || kept += shape("blur", &surface, &mask, &[("radius", 0.8)])[7]);
    let blurs: [(&'static str, &dyn Fn() -> f32); 3] = [
        ("imageproc gaussian_blur_f32", &|| gaussian_blur_f32(&picture, 8.0).as_raw()[7]),
        ("image fast_blur", &|| fast_blur(&picture, 8.0).as_raw()[7]),
        ("libblur gaussian_blur_f32, all cores", &|| accurate_blur(&picture)),
    ];
    for (reference, theirs) in blurs {
        print(&Line {
            bench: "blur, σ of 8 texels at 2048²",
            ours: ours * 1e3,
            unit: "ms",
            reference,
            theirs: fastest(3, || kept += theirs()) * 1e3,
            rate: false,
        });
    }
    let hard = GrayImage::from_fn(SIZE, SIZE, |x, y| Luma([if picture.get_pixel(x, y).0[0] >= 0.5 { 255 } else { 0 }]));
    let ours = fastest(3, || kept += shape("grow", &surface, &mask, &[("by", 2.0)])[7]);
    let theirs = fastest(3, || kept += euclidean_squared_distance_transform(&hard).as_raw()[7] as f32);
    print(&Line {
        bench: "grow by 20 texels at 2048²",
        ours: ours * 1e3,
        unit: "ms",
        reference: "imageproc euclidean_squared_distance_transform",
        theirs: theirs * 1e3,
        rate: false,
    });
    assert!(kept.is_finite());
    line(&surface);
}

fn line(surface: &Surface) {
    let patterns = json!([{"kind": "perlin", "join": "replace"}, {"kind": "worley", "join": "multiply"}]);
    let mut whole = patterns.as_array().cloned().unwrap_or_default();
    whole.extend(
        json!([{"kind": "levels"}, {"kind": "contrast"}, {"kind": "curve"}, {"kind": "threshold"}, {"kind": "clamp"}, {"kind": "invert"}])
            .as_array()
            .cloned()
            .unwrap_or_default(),
    );
    // A cache too small to keep fields makes every run compute all of it.
    let seconds = |steps: &Value| {
        let mut steps = steps.clone();
        for (i, s) in steps.as_array_mut().into_iter().flatten().enumerate() {
            s["id"] = format!("s{i}").into();
        }
        let layer = json!({"id": "l", "name": "l", "kind": "group", "layers": [], "mask": {"steps": steps}});
        let layer: Layer = serde_json::from_value(layer).expect("a layer");
        let document = Document { layers: vec![layer], ..Document::new("line") };
        fastest(5, || {
            let context = Context {
                surface,
                measured: Measured::NONE,
                cache: &Cache::new(1 << 20),
                cancel: &Cancel::default(),
                progress: &silent,
            };
            mask(&document, "l", &context).expect("it can be made");
        })
    };
    print(&Line {
        bench: "a fused line of eight steps at 2048²",
        ours: seconds(&Value::Array(whole)) * 1e3,
        unit: "ms",
        reference: "its two patterns alone",
        theirs: seconds(&patterns) * 1e3,
        rate: false,
    });
}
