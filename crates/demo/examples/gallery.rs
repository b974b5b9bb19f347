//! Takes the stills of the gallery and writes the page that shows them: `make gallery`. Numbers after the folder ask for some of them; a PNG in the place of the folder gets quick looks on one sheet.

use std::collections::HashMap;
use std::fmt::Write;
use std::path::PathBuf;

use dustcoat_core::handoff::png;
use dustcoat_demo::gallery::{GALLERY, Shot};
use dustcoat_demo::studio::Studio;
use dustcoat_demo::{PIECES, pictures, sheet};

/// Samples to a pixel: denoised, they look as 256 do.
const SAMPLES: u32 = 48;
/// Texels of the textures along a side.
const TEXELS: u32 = 1024;

fn main() {
    let mut args = std::env::args().skip(1);
    let out = PathBuf::from(args.next().expect("a folder, or a PNG for a sheet of quick looks"));
    let some: Vec<usize> = args.map(|n| n.parse().expect("the number of a still")).collect();
    let quick = out.extension().is_some_and(|e| e == "png");
    let (side, samples) = if quick { (400, 24) } else { (640, SAMPLES) };
    let mut studios: HashMap<&str, Studio> = HashMap::new();
    let mut take = |shot: &Shot| {
        let studio = studios.entry(shot.prop).or_insert_with(|| Studio::of(shot.prop, TEXELS, None));
        studio.take(&shot.document(studio), &shot.settings(side, samples))
    };
    let wanted: Vec<usize> = (0..GALLERY.len()).filter(|k| some.is_empty() || some.contains(k)).collect();
    if quick {
        return sheet::write(out, side, 3, wanted.into_iter().map(|k| (GALLERY[k].title(), take(&GALLERY[k]))));
    }
    std::fs::create_dir_all(&out).expect("the folder can be made");
    let mut page = format!(
        "# Gallery\n\nProps of Tidegate 7, as found, in their variants, and in recipes of the cabinet; taken by `make gallery`, {side}² at {samples} samples, denoised.\n"
    );
    for (k, shot) in GALLERY.iter().enumerate() {
        let (title, file) = (shot.title(), format!("{k:02}.png"));
        write!(page, "\n**{title}**\n\n![{title}](gallery/{file})\n").expect("a text takes more text");
        if wanted.contains(&k) {
            std::fs::write(out.join(&file), png::rgba8(&take(shot), side, side)).expect("the file can be written");
            println!("{title}");
        }
    }
    std::fs::write(out.with_extension("md"), page).expect("the page can be written");
    // Those of the front door, too.
    let [width, height] = pictures::SIZE;
    for demo in PIECES {
        let Some(dress) = demo.dress else { continue };
        let studio = studios.entry(demo.key).or_insert_with(|| Studio::of(demo.key, TEXELS, None));
        let pixels = studio.take(&(dress.document)(), &pictures::settings(SAMPLES));
        let file = format!("{}/src/pictures/{}.png", env!("CARGO_MANIFEST_DIR"), demo.key);
        std::fs::write(file, png::rgba8(&pixels, width, height)).expect("the file can be written");
    }
}
