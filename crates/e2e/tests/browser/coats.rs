//! Coats in the browser: dials of ready finishes, palettes, colours from pictures, layers carried to another project; stills, the ground, places, side by side.

use std::path::Path;

use dustcoat_e2e::{Browser, Page, Picture, Server, blue, cube, red};
use thirtyfour::Key;

/// The browser ends when it is dropped.
async fn block(data: &Path, plain: bool) -> (Server, Browser, Page) {
    let server = Server::on(data);
    let browser = Browser::start().await;
    let page = browser.page(&server.url, plain);
    page.coat_block(&cube(), "#c01808").await;
    (server, browser, page)
}

async fn end(page: Page) {
    page.assert_quiet().await;
}

async fn show_base_color(page: &Page) {
    page.click("Shows: lit").await;
    page.click("base color").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_ready_finish_is_turned_by_its_dials_and_carried_to_another_project() {
    let data = tempfile::tempdir().expect("a folder");
    let (_server, _browser, page) = block(data.path(), true).await;
    show_base_color(&page).await;
    page.open_finishes().await;
    page.press(&page.find("[data-finish='signal_enamel']").await).await;
    assert!(page.text("[data-testid='own-dials']").await.contains("Glaze"));
    assert!(page.view().await.share(red) > 0.1);
    page.type_into("Enamel", "#0818c0").await;
    assert!(page.view().await.share(blue) > 0.1, "the dial turns the colour");
    // What the dials stand at is kept, and the present state wiped against it.
    page.click("Dials").await;
    page.click("Keep them").await;
    assert_eq!(page.attributes("[data-kept]", "data-kept").await, ["Variant 1"]);
    page.click("Build").await;
    page.type_into("Enamel", "#c01808").await;
    assert!(page.view().await.share(blue) == 0.0);
    page.click("Snapshots").await;
    page.click("Wipe against the variant Variant 1").await;
    page.keys(Key::Escape + "").await;
    let both = page.view().await;
    assert!(both.share(red) > 0.03 && both.share(blue) > 0.03, "{} {}", both.share(red), both.share(blue));
    page.keys("w").await;
    page.click("Dials").await;
    page.click("Take Variant 1").await;
    page.click("Build").await;
    assert!(page.view().await.share(blue) > 0.1);
    // Copied, and pasted where another piece is worked on.
    page.click("More for Signal enamel").await;
    page.click("Copy").await;
    page.bring_in_block(data.path(), &cube()).await;
    page.click("Build").await;
    show_base_color(&page).await;
    assert!(page.view().await.share(blue) == 0.0);
    page.click("Paste").await;
    assert_eq!(page.texts(".coat .name-button").await.first().map(String::as_str), Some("Signal enamel"));
    assert!(page.view().await.share(blue) > 0.1);
    assert!(page.text("[data-testid='own-dials']").await.contains("Enamel"));
    // Its dials go with it.
    page.click("Dials").await;
    assert!(page.text("body").await.contains("Glaze"));
    page.click("Build").await;
    page.click("More for Signal enamel").await;
    page.click("Remove").await;
    assert!(!page.texts(".room").await.contains(&"Dials".to_owned()), "a room with nothing in it is not offered");
    end(page).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_palette_is_weighed_and_colours_come_from_a_picture() {
    let data = tempfile::tempdir().expect("a folder");
    let (_server, _browser, page) = block(data.path(), true).await;
    show_base_color(&page).await;
    page.click("Adjust…").await;
    page.press(&page.find("[role='menuitem'][data-kind='palette_part']").await).await;
    assert_eq!(page.texts(".coat .name-button").await, ["Palette by part", "New coat"]);
    assert_eq!(page.attributes(".ramp-share", "aria-label").await.len(), 5);
    // Only the first colour weighs anything: all of the piece takes it.
    for k in 2..=5 {
        page.press(&page.find(&format!(".ramp-share:nth-child({k})")).await).await;
        page.type_into(&format!("Weight of colour {k}"), "0").await;
    }
    page.press(&page.find(".ramp-share:nth-child(1)").await).await;
    page.type_into("Color of stop 1", "#0818c0").await;
    let even = page.view().await;
    assert!(even.share(blue) > 0.1 && even.share(red) == 0.0);

    // Stops along a line on a picture: red on its left, blue on its right.
    let file = data.path().join("paint.png");
    let mut bytes = vec![];
    for i in 0..64 * 32 {
        bytes.extend(if i % 64 < 32 { [192, 24, 8, 255] } else { [8, 24, 192, 255] });
    }
    std::fs::write(&file, dustcoat_core::handoff::png::rgba8(&bytes, 64, 32)).expect("it is written");
    page.click("From a picture…").await;
    page.give_file("Picture to take colours from", &file).await;
    page.find(".from-picture[data-ready='true']").await;
    let canvas = page.find(".from-picture canvas").await;
    let chain = page.driver.action_chain().move_to_element_with_offset(&canvas, -200, 0).click_and_hold();
    chain.move_by_offset(400, 0).release().perform().await.expect("a line is drawn");
    page.click("Take these 6 colours").await;
    assert_eq!(page.attributes(".ramp-share", "aria-label").await.len(), 6);
    let hex = page.control("Color of stop 1").await.value().await.expect("read").unwrap_or_default();
    assert!(hex == "#c01808" || hex == "#0818c0", "{hex}");

    // The colours that stand for all of it, as often as they are there, kept as a palette.
    page.click("From a picture…").await;
    page.type_into("How many colours", "2").await;
    page.click("Find them").await;
    page.type_into("Name of the palette", "Paint").await;
    assert!(page.text(".undo").await.contains("keep the palette Paint"));
    page.click("Take these 2 colours").await;
    let weights = page.attributes(".ramp-share", "aria-label").await;
    assert_eq!(weights, ["Colour 1, weight 0.5", "Colour 2, weight 0.5"]);
    // One of them gives way to a green; the palette lays both anew, and lends one to any colour.
    page.type_into("Color of stop 1", "#18c008").await;
    page.click("From a palette…").await;
    page.click("Lay Paint").await;
    page.press(&page.find(".ramp-share:nth-child(1)").await).await;
    let first = page.control("Color of stop 1").await.value().await.expect("read").unwrap_or_default();
    page.press(&page.find(".ramp-share:nth-child(2)").await).await;
    let second = page.control("Color of stop 2").await.value().await.expect("read").unwrap_or_default();
    assert!(first != "#18c008" && first != second, "{first} {second}");
    page.click("Pick color of stop 2").await;
    page.click(&format!("Take {first} of Paint")).await;
    assert_eq!(page.control("Color of stop 2").await.value().await.expect("read"), Some(first));
    page.keys(Key::Escape + "").await;

    // The same picture laid as it is.
    page.click("Color varies with a mask").await;
    page.click("Make it even again").await;
    page.click("Drive Color by a dial, a ramp or a picture").await;
    page.press(&page.find("input[type='radio'][value='picture'] + label").await).await;
    page.choose("Picture for Color", "paint.png").await;
    page.click("Lay the picture").await;
    page.type_into("Width", "20").await;
    let laid = page.view().await;
    assert!(laid.share(red) > 0.02 && laid.share(blue) > 0.02, "{} {}", laid.share(red), laid.share(blue));
    end(page).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_dial_stands_at_a_palette_and_a_use_takes_another() {
    let data = tempfile::tempdir().expect("a folder");
    let (_server, _browser, page) = block(data.path(), true).await;
    show_base_color(&page).await;
    page.click("Adjust…").await;
    page.press(&page.find("[role='menuitem'][data-kind='palette_part']").await).await;
    let keep = async |name: &str| {
        page.click("From a palette…").await;
        page.type_into("Name of the palette", name).await;
        page.keys(Key::Escape + "").await;
        page.until("the box is closed", async || !page.has("Name of the palette").await).await;
    };
    keep("As it came").await;
    for k in 1..=5 {
        page.press(&page.find(&format!(".ramp-share:nth-child({k})")).await).await;
        page.type_into(&format!("Color of stop {k}"), "#0818c0").await;
    }
    keep("Night").await;
    page.drive_by_dial("Palette", "Coats").await;
    assert!(page.text(".setting-driven").await.contains("driven by the dial Coats"));
    assert!(!page.has("From a palette…").await, "what the dial sets is not set beside it");
    page.click("Dials").await;
    page.choose("Coats", "As it came").await;
    assert!(page.view().await.share(blue) < 0.01);
    page.choose("Coats", "Night").await;
    assert!(page.view().await.share(blue) > 0.1);
    // A recipe of it brings the dial; the sheet that lays it shows the project's palettes.
    page.click("Build").await;
    page.save_as_recipe("Palette by part", "Patches").await;
    // With another layer picked the dial is not among the settings, so that the sheet's own is the one that is meant.
    page.press(&page.find(".coat[data-layer='New coat'] .name-button").await).await;
    page.click("Cabinet").await;
    page.type_into("Search the cabinet", "Patches").await;
    page.until("it is found", async || page.attributes("[data-recipe]", "data-recipe").await == ["Patches"]).await;
    // On asking, what lies in it is shown on this piece.
    assert!(page.attributes("[data-recipe] > img", "src").await[0].starts_with("/api/cabinet/"));
    page.click("On this piece").await;
    page.until("it lies on this piece", async || page.attributes("[data-recipe] .look", "src").await.len() == 1).await;
    page.type_into("Search the cabinet", "copper").await;
    page.until("so do finishes", async || !page.attributes("[data-finish-card] .look", "src").await.is_empty()).await;
    page.type_into("Search the cabinet", "Patches").await;
    page.until("it is found", async || page.attributes("[data-recipe]", "data-recipe").await == ["Patches"]).await;
    page.click("Look first…").await;
    page.choose("Coats", "As it came").await;
    page.click("Lay it").await;
    page.until("it covers what was blue", async || page.view().await.share(blue) < 0.01).await;
    end(page).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn places_are_come_back_to_the_piece_stands_and_two_states_stand_side_by_side() {
    let data = tempfile::tempdir().expect("a folder");
    let (_server, _browser, page) = block(data.path(), true).await;
    page.click("Places").await;
    page.click("Keep this one").await;
    assert_eq!(page.attributes("[data-place]", "data-place").await, ["Place 1"]);
    // What is kept without a name gets one that is free, whatever was forgotten: nothing is replaced unasked.
    page.click("Keep this one").await;
    page.click("Keep this one").await;
    page.click("Forget Place 2").await;
    page.click("Keep this one").await;
    assert_eq!(page.attributes("[data-place]", "data-place").await, ["Place 1", "Place 3", "Place 2"]);
    page.control("Name of the place").await.send_keys("Place 3").await.expect("keys are taken");
    page.click("Keep anew").await;
    assert_eq!(page.attributes("[data-place]", "data-place").await.len(), 3);
    page.keys(Key::Escape + "").await;
    let before = page.view().await;
    let canvas = page.find(".view canvas").await;
    let chain = page.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    chain.move_by_offset(120, 40).release().perform().await.expect("the view is turned");
    page.settled().await;
    assert!(page.view().await.difference(&before, 8) > 0.02, "it is seen from elsewhere");
    // A hand's breadth of it: the piece fills all of the view.
    page.driver.action_chain().move_to_element_center(&canvas).perform().await.expect("the pointer moves");
    page.keys("l").await;
    let near = page.view().await;
    assert!(near.share(red) > before.share(red) + 0.1, "{} and {} before", near.share(red), before.share(red));
    page.click("Places").await;
    page.click("Look from Place 1").await;
    page.keys(Key::Escape + "").await;
    assert!(page.view().await.difference(&before, 8) < 0.005, "back where it was");
    // Ground.
    page.press(&page.find(".bottom-left button").await).await;
    page.press(&page.find(".light-box input[role='switch']").await).await;
    page.keys(Key::Escape + "").await;
    assert!(page.view().await.difference(&before, 8) > 0.02, "it stands on something");
    // Its relief moves the surface.
    page.open_finishes().await;
    page.press(&page.find("[data-finish='brazier_coals']").await).await;
    let smooth = page.view().await;
    page.press(&page.find(".bottom-left button").await).await;
    page.press(&page.find(".light-box label[for$='moved']").await).await;
    page.keys(Key::Escape + "").await;
    assert!(page.view().await.difference(&smooth, 24) > 0.01, "the outline is another one");
    page.press(&page.find(".undo").await).await;
    page.press(&page.find(".coat[data-layer='New coat'] .name-button").await).await;
    // Side by side.
    show_base_color(&page).await;
    page.click("Snapshots").await;
    page.click("Keep it").await;
    page.keys(Key::Escape + "").await;
    page.type_into("Color", "#0818c0").await;
    page.click("Snapshots").await;
    page.click("Wipe against Snapshot 1").await;
    page.press(&page.find(".light-box input[role='switch']").await).await;
    page.keys(Key::Escape + "").await;
    page.find(".beside").await;
    let both = page.view().await;
    let (then, now) = (both.share(red), both.share(blue));
    assert!(then > 0.03 && (then - now).abs() < 0.25 * then, "the whole piece twice: {then}, {now}");
    end(page).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_still_agrees_in_colour_with_the_view() {
    let data = tempfile::tempdir().expect("a folder");
    let (server, _browser, page) = block(data.path(), false).await;
    page.press(&page.find(".bottom-left button").await).await;
    page.click("even grey, for colours").await;
    page.keys(Key::Escape + "").await;
    let seen = page.view().await.mean_of_piece();
    page.click("Still").await;
    page.choose("Height of the picture", "256 px").await;
    page.choose("Samples a pixel", "16, for a look").await;
    page.click("Take it").await;
    page.until("the still is there", async || !page.attributes("[data-testid='stills'] img", "src").await.is_empty())
        .await;
    let src = page.attributes("[data-testid='stills'] img", "src").await.remove(0);
    let address =
        src.split("/downloads/").nth(1).and_then(|rest| rest.split('/').next()).expect("an address").to_owned();
    let png = std::fs::read(server.app.written.fetch(&address).expect("the still stands")).expect("it can be read");
    let taken = Picture::decode(&png).middle().mean_of_piece();
    let apart = (0..3).map(|c| (seen[c] - taken[c]).abs()).fold(0.0, f64::max);
    assert!(apart < 14.0, "the view shows {seen:?}, the still {taken:?}");
    assert!(taken[0] > taken[2] + 60.0, "it is red: {taken:?}");
    // A longer one is seen while it gets smoother.
    page.choose("Samples a pixel", "64").await;
    page.control("Take it").await.click().await.expect("it is begun");
    page.until("the still is seen so far", async || {
        let shown = page.attributes("[data-testid='stills'] img", "src").await;
        shown.first().is_some_and(|src| src.contains("/jobs/") && src.contains("samples="))
            && page.text("[data-testid='stills']").await.contains("samples a pixel so far")
    })
    .await;
    let width = "return document.querySelector(\"[data-testid='stills'] img\").naturalWidth;";
    page.until("its picture comes", async || {
        page.driver.execute(width, vec![]).await.ok().and_then(|w| w.json().as_u64()).is_some_and(|w| w > 255)
    })
    .await;
    page.settled().await;
    assert!(page.has("Download").await && !page.text("[data-testid='stills']").await.contains("so far"));
    end(page).await;
}
