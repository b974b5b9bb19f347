//! The Study room, from nothing: photographs on a board, notes and arrows, a palette, a plan that is blocked in, and a picture beside the piece; what is planned ends in files.

use std::io::Cursor;

use dustcoat_e2e::{App, Page, cube};
use image::{ImageFormat, Rgb, RgbImage};
use thirtyfour::{Key, TypingData};

/// A photograph of so many pixels, warm on the left and dark on the right.
fn photograph(path: &std::path::Path, wide: u32) {
    let texel = |x, _| if x < wide / 2 { Rgb([162, 89, 42]) } else { Rgb([43, 93, 97]) };
    let mut out = Cursor::new(vec![]);
    RgbImage::from_fn(wide, wide / 2, texel).write_to(&mut out, ImageFormat::Png).expect("a PNG");
    std::fs::write(path, out.into_inner()).expect("the file is written");
}

async fn items(page: &Page) -> Vec<String> {
    page.attributes(".board-item", "aria-label").await
}

/// Presses at a place of the board, in pixels from its middle, and lets go at another.
async fn drag(page: &Page, from: (i64, i64), to: (i64, i64)) {
    let board = page.find(".board").await;
    let chain = || page.driver.action_chain();
    let start = chain().move_to_element_center(&board).move_by_offset(from.0, from.1).click_and_hold();
    start.perform().await.expect("it is pressed");
    for _ in 0..4 {
        chain().move_by_offset((to.0 - from.0) / 4, (to.1 - from.1) / 4).perform().await.expect("the pointer moves");
    }
    chain().release().perform().await.expect("it is let go");
    page.settled().await;
}

async fn click_at(page: &Page, at: (i64, i64)) {
    drag(page, at, at).await;
}

/// Where a thing of the board lies on the screen.
async fn box_of(page: &Page, css: &str) -> [f64; 4] {
    let r = page.find(css).await.rect().await.expect("a box");
    [r.x, r.y, r.width, r.height]
}

#[tokio::test(flavor = "multi_thread")]
async fn from_photographs_to_a_plan_to_a_block_in_to_files() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    page.bring_in_block(data.path(), &cube()).await;
    page.click("Study").await;
    assert!(page.text(".board-empty").await.contains("Drop photographs here"));

    // A picture comes, is sized and turned by its handles, and moved by keys.
    let wall = data.path().join("wall.png");
    photograph(&wall, 1200);
    page.give_file("Pictures for the board", &wall).await;
    page.until("it lies there", async || items(page).await == ["Picture wall.png"]).await;
    let picture = ".board-item.picture";
    let seen = async || page.attributes(".board-picture img", "src").await.remove(0);
    page.until("it is seen", async || page.look_at(".board-picture").await.share(|[r, g, b, _]| r > g && g > b) > 0.4)
        .await;
    assert!(seen().await.ends_with("side=1024"), "{}", seen().await);
    page.press(&page.find(picture).await).await;
    let before = box_of(page, picture).await;
    page.keys(Key::Right + "").await;
    page.keys("]").await;
    let after = box_of(page, picture).await;
    assert!((after[2] / before[2] - 1.1).abs() < 0.02, "{before:?} {after:?}");
    assert!((after[0] + after[2] / 2.0 - before[0] - before[2] / 2.0 - 5.0).abs() < 1.5, "{before:?} {after:?}");
    assert!(page.text(".undo").await.contains("change a picture on the board"));
    page.chord(Key::Control, "z").await;
    assert_eq!(box_of(page, picture).await[2], before[2]);

    // What is below it is written; it is cut by a handle at its side.
    page.click("Write below it").await;
    page.keys("north wall").await;
    page.keys(Key::Enter + "").await;
    page.until("it is written", async || items(page).await == ["Picture north wall"]).await;
    page.press(&page.find(picture).await).await;
    page.click("Cut it").await;
    let [x, y, w, h] = box_of(page, picture).await;
    let [bx, by, bw, bh] = box_of(page, ".board").await;
    let from_middle = |px: f64, py: f64| ((px - bx - bw / 2.0) as i64, (py - by - bh / 2.0) as i64);
    let side = from_middle(x + w, y + h / 2.0);
    drag(page, side, (side.0 - (w / 4.0) as i64, side.1)).await;
    let cut = box_of(page, picture).await;
    assert!((cut[2] / w - 0.75).abs() < 0.03 && (cut[0] - x).abs() < 1.5, "{w} {cut:?}");
    page.click("Done cutting").await;

    // A note, and an arrow from it to a spot of the picture: it goes where the picture goes.
    page.click("Note").await;
    page.keys("runs begin under the bolts").await;
    page.keys(Key::Enter + "").await;
    page.until("it is there", async || items(page).await.len() == 2).await;
    let note = ".board-item.note";
    let n = box_of(page, note).await;
    let middle = from_middle(n[0] + n[2] / 2.0, n[1] + n[3] / 2.0);
    drag(page, middle, (middle.0, middle.1 + 170)).await;
    page.click("Arrow").await;
    let spot = from_middle(cut[0] + cut[2] * 0.3, cut[1] + cut[3] * 0.4);
    click_at(page, spot).await;
    let end = async || box_of(page, ".board-arrows circle").await;
    page.until("it points there", async || {
        !page.attributes(".board-arrows g[data-item]", "data-item").await.is_empty()
    })
    .await;
    let was = end().await;
    let at = from_middle(cut[0] + cut[2] * 0.7, cut[1] + cut[3] * 0.8);
    drag(page, at, (at.0 - 60, at.1 - 20)).await;
    let now = end().await;
    assert!((now[0] - was[0] + 60.0).abs() < 2.0 && (now[1] - was[1] + 20.0).abs() < 2.0, "{was:?} {now:?}");

    // Its colours as a palette, a strip below it.
    page.click("Pull its colours as a palette").await;
    page.until("a strip", async || !page.texts(".board-card .swatches").await.is_empty()).await;

    // The plan: two rows, the second from a colour of the palette.
    page.click("Add an element").await;
    page.type_into("Element", "body").await;
    page.until("it is called so", async || page.has("Colour of body").await).await;
    page.click("Colour of body").await;
    let strip = page.find(".color-box .palette-strips [data-palette='north wall'] button").await;
    let taken = strip.attr("title").await.expect("an answer").expect("it says its colour");
    page.press(&strip).await;
    page.keys(Key::Escape + "").await;
    let patch = async || page.attributes(".plan-row .color-patch", "title").await;
    page.until("the colour is taken", async || taken.starts_with(&patch().await[0])).await;
    page.type_into("Share of body, in percent; empty says nothing", "70").await;
    page.click("Add an element").await;
    let second = "(//*[@data-element='element']//input[@aria-label='Element'])";
    page.until("a second row", async || page.has("Colour of element").await).await;
    let field = page.driver.find(thirtyfour::By::XPath(second)).await.expect("it is there");
    field.clear().await.expect("it can be emptied");
    field.send_keys(TypingData::from("rust") + Key::Enter).await.expect("it is written");
    page.until("it is called so", async || page.has("Where rust lies").await).await;
    let fresh = patch().await.remove(1);
    page.choose("Where rust lies", "patches").await;
    page.type_into("Share of rust, in percent; empty says nothing", "30").await;
    page.click("Lay all of it, flat").await;
    let there = async || page.texts("[data-there]").await;
    page.until("as much of each as was planned", async || there().await == ["70 %", "30 %"]).await;
    let view = page.view().await;
    assert!(view.shades(0.01).len() >= 2, "both are seen on the piece");
    assert!(page.has("Layer that answers rust").await && !page.has("Lay rust flat").await);

    // The picture stands beside the piece in every room; a spot says its colour.
    let [x, y, w, h] = box_of(page, picture).await;
    click_at(page, from_middle(x + w * 0.9, y + h * 0.1)).await;
    page.click("Stand beside the piece").await;
    page.click("Build").await;
    page.until("it stands there", async || !page.texts("[data-testid='reference']").await.is_empty()).await;
    page.press(&page.find("[data-testid='reference-picture']").await).await;
    page.until("it says its colour", async || page.text("[data-testid='spot']").await.contains("#a2592a")).await;
    page.click("Name a grey").await;
    page.press(&page.find("[data-testid='reference-picture']").await).await;
    page.until("its brightness", async || page.text("[data-testid='spot']").await.contains("gives back 18 %")).await;
    page.click("Put the picture away").await;

    // A note on a layer is a mark in the section, and its words stand among the settings.
    page.press(&page.find(".coat[data-layer='rust'] .name-button").await).await;
    page.click("Note on rust").await;
    page.keys("never on tops").await;
    page.keys(Key::Enter + "").await;
    page.until("the mark", async || page.has("Note: never on tops").await).await;
    assert!(page.text(".note-words").await.contains("never on tops"));
    // Words that are being written when the page is left are kept.
    page.click("Note on rust").await;
    page.keys(", nor below").await;
    let leaving = "window.dispatchEvent(new Event('beforeunload', { cancelable: true }))";
    page.driver.execute(leaving, vec![]).await.expect("the page hears it");
    page.until("they are kept", async || page.has("Note: never on tops, nor below").await).await;

    page.click("Hand-off").await;
    let files = app.hand_off().await;
    let (_, png) = files.iter().find(|(name, _)| name.ends_with("_base_color.png")).expect("it is written");
    let base = image::load_from_memory(png).expect("a picture").to_rgb8();
    let hex = |p: &Rgb<u8>| format!("#{:02x}{:02x}{:02x}", p.0[0], p.0[1], p.0[2]);
    let texels = |color: &str| base.pixels().filter(|p| hex(p) == color).count() as f64;
    let (body, rust) = (texels(&taken[..7]), texels(&fresh));
    assert!((body / (body + rust) - 0.7).abs() < 0.06, "{body} {rust}");
    assert!((body + rust) / f64::from(base.width() * base.height()) > 0.4, "nothing else is there to be seen");
    page.assert_quiet().await;
    app.end().await;
}
