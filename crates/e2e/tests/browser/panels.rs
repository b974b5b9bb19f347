//! What differs from part to part, keys, and dark panels, in the browser.

use dustcoat_e2e::{App, Page, cube};
use thirtyfour::Key;

/// The base colours that are plainly seen.
async fn shades(page: &Page) -> Vec<[u8; 3]> {
    page.view().await.shades(0.02).into_iter().collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn parts_are_varied_by_a_seed() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#2b585e").await;
    page.click("Shows: lit").await;
    page.click("base color").await;
    let one = shades(page).await;
    assert_eq!(one.len(), 1, "top and sides are of one colour: {one:?}");
    page.click("Adjust…").await;
    page.press(&page.find("[role='menuitem'][data-kind='vary_part']").await).await;
    let two = shades(page).await;
    assert_eq!(two.len(), 2, "the top is of another than the sides: {two:?}");
    let apart = |a: [u8; 3], b: [u8; 3]| (0..3).map(|c| a[c].abs_diff(b[c])).max().unwrap_or(0);
    assert!(two.iter().all(|c| apart(*c, one[0]) < 60), "a little, not altogether: {two:?} from {one:?}");
    // Another seed of the hue's source, other tones; the same seed, the same to the bit.
    page.type_into("Seed", "7").await;
    let other = shades(page).await;
    assert!(other.len() == 2 && other != two, "{other:?}");
    page.press(&page.find(".undo").await).await;
    assert_eq!(shades(page).await, two);
    // Without anything to either side nothing differs; what is set is one edit each, and behind More stands every number.
    for what in ["Hue ±", "Chroma ±", "Lightness ±"] {
        page.type_into(what, "0").await;
    }
    assert_eq!(shades(page).await, one);
    page.press(&page.find(".fold-head").await).await;
    assert_eq!(
        page.attributes("[data-channel='base_color'] [data-varying]", "data-varying").await,
        ["hue", "chroma", "lightness"]
    );
    for _ in 0..3 {
        page.press(&page.find(".undo").await).await;
    }
    assert_eq!(shades(page).await, two);
    // It hides nothing, and hidden it does nothing.
    assert_eq!(page.texts("[data-visible]").await, ["100 %", "100 %"]);
    page.keys("h").await;
    assert_eq!(shades(page).await, one);
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn keys_work_and_dark_panels_leave_the_surround_neutral() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    let names = async || page.texts(".coat .name-button").await;
    page.press(&page.find(".coat .name-button").await).await;
    page.chord(Key::Control, "d").await;
    assert_eq!(names().await, ["New coat copy", "New coat"]);
    page.keys("h").await;
    assert!(page.text(".coat:first-child .coat-words").await.contains("hidden"));
    page.keys("h").await;
    page.keys(Key::Delete + "").await;
    assert_eq!(names().await, ["New coat"]);
    // Steps are those of a layer: without one it is said so.
    page.keys("/").await;
    page.until("it is said", async || page.text("body").await.contains("Select a layer first")).await;
    page.press(&page.find(".coat .name-button").await).await;
    page.keys("/").await;
    page.find("input[aria-label='Search steps']").await;
    page.keys(Key::Escape + "").await;
    page.until("the finder is closed", async || page.texts("input[aria-label='Search steps']").await.is_empty()).await;
    page.keys("?").await;
    page.until("the keys are listed", async || page.text("body").await.contains("Redo")).await;
    page.keys(Key::Escape + "").await;
    page.keys("1").await;
    assert_eq!(page.text(".room.here").await, "Study");
    page.keys("3").await;
    assert_eq!(page.text(".room.here").await, "Build");

    // Dark panels: they are dark, and stay so; what surrounds the piece is the same grey.
    let light = page.look_at(".panel.left").await.mean_of_piece();
    let corner = |p: &dustcoat_e2e::Picture| p.share(|p| p[..3] == [0x77; 3]);
    let around = corner(&page.view().await);
    assert!(around > 0.2, "grey around the piece: {around}");
    page.click("Dark panels (graphite)").await;
    let dark = page.look_at(".panel.left").await.mean_of_piece();
    assert!(light[0] > 200.0 && dark[0] < 90.0, "{light:?} {dark:?}");
    assert!((corner(&page.view().await) - around).abs() < 0.01);
    page.driver.refresh().await.expect("it is opened again");
    page.settled().await;
    assert!(page.look_at(".panel.left").await.mean_of_piece()[0] < 90.0, "kept");
    app.end().await;
}
