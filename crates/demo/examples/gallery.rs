//! Takes the stills of the gallery and writes the page that shows them: `make gallery`. Numbers after the folder ask for some of them, as quick looks on one sheet.

use std::collections::HashMap;
use std::fmt::Write;
use std::path::PathBuf;

use dustcoat_core::handoff::png;
use dustcoat_demo::gallery::GALLERY;
use dustcoat_demo::sheet;
use dustcoat_demo::studio::Studio;

fn main() {
    let mut args = std::env::args().skip(1);
    let folder = PathBuf::from(args.next().expect("a folder, or a file for a sheet of quick looks"));
    let some: Vec<usize> = args.map(|n| n.parse().expect("the number of a still")).collect();
    let mut studios: HashMap<&str, Studio> = HashMap::new();
    let (side, samples, texels) = if some.is_empty() { (640, 256, 2048) } else { (400, 24, 1024) };
    let wanted = (0..GALLERY.len()).filter(|k| some.is_empty() || some.contains(k));
    let mut take = |k: usize| {
        let shot = &GALLERY[k];
        let studio = studios.entry(shot.prop).or_insert_with(|| Studio::of(shot.prop, texels, None));
        (shot.title(), studio.take(&shot.document(studio), &shot.settings(side, samples)))
    };
    if !some.is_empty() {
        return sheet::write(folder, side, 3, wanted.map(&mut take).collect::<Vec<_>>());
    }
    std::fs::create_dir_all(&folder).expect("the folder can be made");
    let mut page = String::from(
        "# Gallery\n\nProps of Tidegate 7, as found, in their variants, and in recipes of the cabinet; taken by `make gallery`, 640² at 256 samples, denoised.\n",
    );
    for k in wanted {
        let (title, pixels) = take(k);
        let file = format!("{k:02}.png");
        std::fs::write(folder.join(&file), png::rgba8(&pixels, side, side)).expect("the file can be written");
        write!(page, "\n**{title}**\n\n![{title}](gallery/{file})\n").expect("a text takes more text");
        println!("{title}");
    }
    std::fs::write(folder.with_extension("md"), page).expect("the page can be written");
}
