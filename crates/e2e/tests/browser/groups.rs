//! Groups in the browser: with a mask and an opacity of their own, nested, folded, and left by keyboard.

use dustcoat_e2e::{App, cube, red};
use thirtyfour::Key;

#[tokio::test(flavor = "multi_thread")]
async fn a_group_masks_what_it_holds_is_nested_folded_and_left() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.click("Shows: lit").await;
    page.click("base color").await;
    let names = async || page.texts(".coat .name-button").await;
    let whole = page.view().await.share(red);
    assert!(whole > 0.1);

    // Its mask and its opacity go over all that it holds.
    page.keys("f").await;
    page.chord(Key::Control, "g").await;
    assert_eq!(names().await, ["Group", "New coat"]);
    page.find_step("Facing").await;
    let masked = page.view().await.share(red);
    assert!(masked > 0.01 && masked < 0.8 * whole, "{masked} of {whole}");
    page.press(&page.find(".coat[data-layer='Group'] .name-button").await).await;
    page.type_into("Opacity", "0").await;
    assert_eq!(page.view().await.share(red), 0.0);
    assert_eq!(page.texts("[data-visible]").await, ["0 %", "0 %"]);
    page.press(&page.find(".undo").await).await;
    assert_eq!(page.view().await.share(red), masked);

    // Nested and folded: what is folded away still lies there.
    page.chord(Key::Control, "g").await;
    assert_eq!(names().await, ["Group", "Group", "New coat"]);
    page.click("Fold Group").await;
    assert_eq!(names().await, ["Group"]);
    assert_eq!(page.view().await.share(red), masked);
    page.click("Unfold Group").await;

    // A coat laid inside is carried out over everything by keyboard; undo and redo follow.
    page.press(&page.find(".coat:nth-child(2) [aria-label='More for Group']").await).await;
    page.click("Lay a coat inside").await;
    page.type_into("Color", "#0818c0").await;
    assert_eq!(page.attributes(".coat[data-layer]", "style").await.iter().filter(|s| s.contains("28px")).count(), 2);
    let handle = page.find(".coat:nth-child(3) .core").await;
    handle.focus().await.expect("it takes the focus");
    page.keys(" ").await;
    page.keys(Key::Up + "").await;
    page.keys(Key::Up + "").await;
    page.keys(" ").await;
    let indents = page.attributes(".coat[data-layer]", "style").await;
    assert!(
        names().await[0] == "New coat" && indents[0].contains("0px") && !indents[0].contains("14px"),
        "{indents:?}"
    );
    assert!(page.text(".undo").await.contains("move New coat"));
    assert_eq!(page.view().await.share(red), 0.0, "it lies over everything, and covers all of it");
    page.chord(Key::Control, "z").await;
    assert_eq!(names().await[0], "Group");
    let inside = page.view().await;
    page.driver
        .action_chain()
        .key_down(Key::Control)
        .key_down(Key::Shift)
        .send_keys("z")
        .key_up(Key::Shift)
        .key_up(Key::Control)
        .perform()
        .await
        .expect("keys are taken");
    page.settled().await;
    assert_eq!(names().await[0], "New coat");
    assert!(page.view().await.difference(&inside, 16) > 0.02);
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_list_beside_undo_goes_to_any_state() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    let was = page.view().await;
    page.type_into("Color", "#0818c0").await;
    page.type_into("Color", "#18c008").await;
    page.click("What was done").await;
    page.until("all is told of", async || page.attributes("[data-state]", "data-state").await.len() >= 3).await;
    page.until("the state is shown", async || !page.attributes(".history img", "src").await.is_empty()).await;
    // Three back: the coat as it was laid in red.
    page.press(&page.find(".history li:nth-child(3) button").await).await;
    assert_eq!(page.view().await.difference(&was, 2), 0.0);
    page.click("What was done").await;
    page.until("what was undone lies ahead", async || {
        page.attributes("[data-state='ahead']", "data-state").await.len() == 2
    })
    .await;
    page.press(&page.find(".history li:nth-child(1) button").await).await;
    let green = |[r, g, b, _]: [u8; 4]| g > 40 && f32::from(g) > 1.4 * f32::from(r.max(b));
    assert!(page.view().await.share(green) > 0.1, "and is there again");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn panels_are_sized_kept_so_and_put_away() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    let width = async |css: &str| page.find(css).await.rect().await.expect("a box").width;
    let (section, view) = (width(".panel.left").await, width(".view").await);
    let border = page.find("[aria-label='Width of the section']").await;
    let drag = page.driver.action_chain().move_to_element_center(&border).click_and_hold().move_by_offset(80, 0);
    drag.release().perform().await.expect("it is dragged");
    page.settled().await;
    assert!((width(".panel.left").await - section - 80.0).abs() < 6.0, "{section}");
    border.send_keys(Key::Left + "").await.expect("keys are taken");
    let narrower = width(".panel.left").await;
    assert!(narrower < section + 74.0);
    // It stays so when the page comes again, and all of the window is the piece's while the panels are away.
    page.driver.refresh().await.expect("the page comes again");
    page.settled().await;
    assert_eq!(width(".panel.left").await, narrower);
    page.keys("v").await;
    page.until("the panels are away", async || page.texts(".panel").await.is_empty()).await;
    assert!(width(".view").await > view + 400.0);
    page.keys("v").await;
    page.until("and there again", async || page.texts(".panel").await.len() == 3).await;
    app.end().await;
}
