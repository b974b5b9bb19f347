//! Masks built in the browser: from the finder, reordered by keyboard, shaped on the surface, copied, followed.

use crate::windows::asks;
use dustcoat_e2e::{App, cube, red};
use thirtyfour::Key;

fn percent(text: &str) -> f32 {
    text.trim_end_matches(" %").trim_start_matches('<').parse().unwrap_or_else(|_| panic!("a share: {text}"))
}

#[tokio::test(flavor = "multi_thread")]
async fn a_mask_is_built_reordered_shaped_copied_and_followed() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;

    // The finder shows every candidate on this piece before it is taken.
    let before = page.view().await;
    page.click("Find a step").await;
    let there = page.attributes("[data-candidate]", "data-candidate").await;
    for kind in ["bare_edges", "worley", "planks", "follow", "below", "run", "creep"] {
        assert!(there.iter().any(|k| k == kind), "{kind} is among {there:?}");
    }
    let pictured = page.attributes("[data-candidate] canvas", "aria-label").await.len();
    assert!(pictured > there.len() / 2, "{pictured} of {} candidates have a picture", there.len());
    // The view shows the one that is looked at, and is as it was once nothing is looked at.
    page.keys(Key::Right + "").await;
    page.until("the view shows it", async || page.view().await.share(red) < 0.8 * before.share(red)).await;
    assert!(!asks(page).await, "what is only looked at may go");
    page.keys(Key::Escape + "").await;
    assert_eq!(page.view().await.difference(&before, 2), 0.0);

    page.find_step("cells").await;
    assert_eq!(page.texts(".tile-name").await, ["Cells"]);
    let cells = page.view().await;
    // A setting has an effect only where it is shown: the axis of a placement that has one.
    page.click("Placement").await;
    assert!(!page.attributes("[data-setting]", "data-setting").await.iter().any(|s| s == "axis"));
    page.choose("Placed", "from one side").await;
    assert!(page.attributes("[data-setting]", "data-setting").await.iter().any(|s| s == "axis"));
    assert!(page.view().await.difference(&cells, 16) > 0.02, "it lies otherwise");
    page.choose("Placed", "in space").await;
    assert_eq!(page.view().await.difference(&cells, 2), 0.0);

    // Cut so that a third of the surface is covered, whatever the pattern's values are.
    page.find_step("threshold").await;
    page.choose("Cut by", "coverage").await;
    page.type_into("Coverage", "0.33").await;
    page.type_into("Softness", "0").await;
    assert!((percent(&page.text("[data-coverage]").await) - 33.0).abs() <= 1.0);
    page.find_step("grow").await;
    page.type_into("By", "3").await;
    let grown = percent(&page.text("[data-coverage]").await);
    assert!(grown > 45.0, "three millimetres more around every spot: {grown} %");

    // The last step is brought to the front by keyboard alone: grown from an even mask nothing changes, so the cut is what is left.
    page.driver
        .execute("document.querySelector(\".tile[data-step='Grow'] .tile-picture\").focus()", vec![])
        .await
        .expect("focus");
    let arrows: [thirtyfour::TypingData; 4] = [" ".into(), Key::Left + "", Key::Left + "", " ".into()];
    for key in arrows {
        page.keys(key).await;
    }
    page.until("the order has changed", async || page.texts(".tile-name").await == ["Grow", "Cells", "Threshold"])
        .await;
    page.settled().await;
    assert!((percent(&page.text("[data-coverage]").await) - 33.0).abs() <= 1.0);
    let cut = page.view().await;
    page.chord(Key::Control, "z").await;
    assert_eq!(page.texts(".tile-name").await, ["Cells", "Threshold", "Grow"]);
    assert!(page.view().await.difference(&cut, 16) > 0.02);

    // The line is copied to a second coat; a third one follows the first.
    page.press(&page.control("New coat").await).await;
    page.click("Copy line").await;
    page.type_into("Mask published as", "spots").await;
    assert!(page.text(".undo").await.contains("publish the mask"));
    page.click("Lay a coat").await;
    page.click("Paste 3 steps").await;
    assert_eq!(page.texts(".tile-name").await, ["Cells", "Threshold", "Grow"]);
    assert_eq!(percent(&page.text("[data-coverage]").await), grown, "the same line covers the same");
    page.click("Lay a coat").await;
    page.find_step("follow").await;
    page.choose("Follows", "spots").await;
    assert_eq!(percent(&page.text("[data-coverage]").await), grown);
    page.find_step("invert").await;
    assert_eq!(percent(&page.text("[data-coverage]").await), 100.0 - grown, "everywhere but there");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_number_varies_with_a_mask_a_step_is_seen_alone_and_a_line_is_kept() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("clouds").await;
    page.find_step("threshold").await;
    let even = page.view().await;

    // The cut is low at the foot and high at the top.
    page.click("Drive Cut by a dial, a formula or a mask").await;
    page.press(&page.find("input[type='radio'][value='mask'] + label").await).await;
    page.choose("Cut varies with", "Altitude").await;
    // Enter in a field sends the form.
    page.type_into("Cut where it is 0", "0.1").await;
    assert_eq!(page.text("[data-varying='cut'] .mantine-Select-input").await, "");
    assert_eq!(page.attributes("[data-varying='cut'] [data-setting]", "data-setting").await, ["low", "high"]);
    page.type_into("Upper level", "60").await;
    let covered = page.text("[data-coverage]").await;
    let varied = page.view().await;
    assert!(varied.difference(&even, 16) > 0.03, "it looks otherwise");
    assert!(
        page.text(".tile[data-step='Threshold'] .tile-words").await.contains(" – "),
        "the tile says that it varies"
    );
    assert_eq!(page.attributes(".histogram line", "data-cut").await.len(), 2, "both ends are drawn in");

    // The step alone: the source as it comes in, not the mask.
    page.click("Clouds: settings").await;
    page.click("Step alone").await;
    let clouds = page.view().await;
    page.click("Mask alone").await;
    assert!(page.view().await.difference(&clouds, 16) > 0.1, "the mask is cut, the clouds are not");
    page.click("Mask alone").await;

    // Kept as a starter, it is offered for another coat, looks the same there, and can be taken out and put back.
    page.click("Save as a starter…").await;
    page.type_into("Name", "Thin at the top").await;
    page.click("Lay a coat").await;
    page.type_into("Color", "#c01808").await;
    page.find_step("thin at the top").await;
    assert_eq!(page.texts(".tile-name").await, ["Clouds", "Threshold"]);
    assert_eq!(page.text("[data-coverage]").await, covered, "the same line covers the same");
    page.click("Cabinet").await;
    let named = || page.attributes("[data-line]", "data-line");
    assert_eq!(named().await, ["Thin at the top"]);
    page.press(&page.find("[data-line] [aria-label='More for Thin at the top']").await).await;
    page.click("Take out of the cabinet").await;
    page.until("it is gone", async || named().await.is_empty()).await;
    page.click("Put it back").await;
    page.until("it is there again", async || named().await == ["Thin at the top"]).await;
    page.keys(Key::Escape + "").await;

    // Even again: released, it stands at its greater end.
    page.click("Cut varies with a mask").await;
    page.click("Make it even again").await;
    assert!(page.attributes("[data-varying]", "data-varying").await.is_empty());
    app.end().await;
}
