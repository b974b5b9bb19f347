//! Finishes in the browser: a colour on a ramp along the piece, its stops moved and pasted, blend modes, and undo.

use dustcoat_e2e::{App, blue, cube, red};
use thirtyfour::Key;

#[tokio::test(flavor = "multi_thread")]
async fn a_colour_is_laid_on_a_ramp_and_its_stops_are_moved() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.click("Shows: lit").await;
    page.click("base color").await;
    let even = page.view().await;
    assert!(even.share(red) > 0.1 && even.share(blue) == 0.0);

    page.click("Drive Color by a dial, a ramp or a picture").await;
    page.press(&page.find("input[type='radio'][value='ramp'] + label").await).await;
    page.choose("Color varies with", "Altitude").await;
    page.click("Lay a ramp").await;
    page.type_into("Upper level", "40").await;
    assert_eq!(page.attributes(".ramp-handle", "aria-label").await, ["Stop at 0", "Stop at 1"]);
    // The far stop, and its colour.
    page.press(&page.find(".ramp-handle:last-child").await).await;
    page.type_into("Color of stop 2", "#0818c0").await;
    let ramped = page.view().await;
    assert!(ramped.share(red) > 0.02 && ramped.share(blue) > 0.02, "red at the foot, blue at the top");

    // By keyboard: the blue stop comes down, and with it its colour.
    for _ in 0..2 {
        page.type_into("Place of stop 2", "0.3").await;
    }
    let lower = page.view().await;
    assert!(lower.share(blue) > ramped.share(blue) + 0.02, "more of it is blue");
    page.press(&page.find(".ramp-handle:last-child").await).await;
    page.keys(Key::Right + "").await;
    assert_eq!(page.attributes(".ramp-handle", "aria-label").await, ["Stop at 0", "Stop at 0.31"]);
    // Stepped: no colour between the two.
    page.choose("Between stops", "stepped").await;
    let stepped = page.view().await;
    let between = |p: [u8; 4]| !red(p) && !blue(p) && p[0].abs_diff(p[1]) > 12;
    let (hard, soft) = (stepped.share(between), lower.share(between));
    assert!(hard < 0.5 * soft, "nothing between red and blue but at the piece's outline: {hard} against {soft}");

    // Delete takes the stop that has the focus, never the layer.
    page.press(&page.find(".ramp-handle:last-child").await).await;
    page.keys(Key::Delete + "").await;
    assert_eq!(page.attributes(".ramp-handle", "aria-label").await, ["Stop at 0"]);
    page.press(&page.find(".undo").await).await;
    assert_eq!(page.texts(".coat .name-button").await, ["New coat"]);
    assert_eq!(page.attributes(".ramp-handle", "aria-label").await, ["Stop at 0", "Stop at 0.31"]);

    // The layer's own mask may drive a number, and what is multiplied gets darker, never lighter.
    page.click("Drive Value by a dial, a formula, a mask or a ramp").await;
    page.press(&page.find("input[type='radio'][value='mask'] + label").await).await;
    page.choose("Value varies with", "Its own mask").await;
    page.click("Let it vary").await;
    assert!(!page.attributes("[data-varying='value']", "data-varying").await.is_empty());
    page.chord(Key::Control, "z").await;
    assert!(page.attributes("[data-varying='value']", "data-varying").await.is_empty());
    let before = page.view().await;
    page.choose("Blend", "Multiply").await;
    assert!(page.view().await.difference(&before, 16) > 0.02, "it is darkened by what lies below");
    page.chord(Key::Control, "z").await;
    assert_eq!(page.view().await.difference(&before, 2), 0.0);

    // A ready finish lies over it, and takes nothing away.
    page.open_finishes().await;
    assert!(page.attributes("[data-finish]", "data-finish").await.len() > 40);
    page.control("Search finishes").await.send_keys("limewash").await.expect("keys are taken");
    page.keys(Key::Enter + "").await;
    assert_eq!(page.texts(".coat .name-button").await, ["Limewash", "New coat"]);
    let white = page.view().await.mean_of_piece();
    assert!(white.iter().all(|c| *c > 135.0), "a white coat over all of it: {white:?}");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn coals_glow_a_clear_layer_shines_and_an_adjustment_turns_the_hue() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#181818").await;
    let dark = page.view().await;
    page.open_finishes().await;
    page.control("Search finishes").await.send_keys("coals").await.expect("keys are taken");
    page.keys(Key::Enter + "").await;
    let lit = page.view().await;
    let glows = |[r, _, b, _]: [u8; 4]| r > 220 && r > b.saturating_add(60);
    assert!(dark.share(glows) == 0.0 && lit.share(glows) > 0.004, "it gives off light: {}", lit.share(glows));
    // Each channel that it lays can be looked at alone; those that it doesn't lay are not offered.
    page.click("Shows: lit").await;
    let offered = page.texts("[role='menuitem']").await;
    assert!(offered.contains(&"emissive".into()) && !offered.contains(&"sheen".into()), "{offered:?}");
    page.click("emissive").await;
    let alone = page.view().await;
    assert!(alone.share(red) > 0.004 && alone.difference(&lit, 16) > 0.05);
    page.click("Shows: emissive").await;
    page.click("lit").await;

    // A channel that folds away is switched on, and is then offered to be looked at.
    page.press(&page.find(".coat:nth-child(2) .name-button").await).await;
    page.chord(Key::Control, "z").await;
    let before = page.view().await;
    page.press(&page.find(".fold .fold-head").await).await;
    page.press(&page.find("[data-channel='clearcoat'] label").await).await;
    page.click("Shows: lit").await;
    page.click("clearcoat").await;
    let white = |[r, g, b, _]: [u8; 4]| r.min(g).min(b) > 240;
    assert!(page.view().await.share(white) > 0.1, "all of it is clear");
    page.click("Shows: clearcoat").await;
    page.click("lit").await;
    page.chord(Key::Control, "z").await;
    assert_eq!(page.view().await.difference(&before, 2), 0.0);

    // An adjustment over a red coat makes it green, and hides nothing.
    page.type_into("Color", "#c01808").await;
    let was = page.view().await;
    assert!(was.share(red) > 0.1);
    page.click("Adjust…").await;
    let items = page.texts("[role='menuitem']").await;
    assert!(items.len() >= 5 && items[0].starts_with("Adjust"), "{items:?}");
    page.press(&page.find("[role='menuitem']").await).await;
    assert_eq!(page.texts(".coat .name-button").await, ["Adjust", "New coat"]);
    page.type_into("Hue", "120").await;
    let green = |[r, g, b, _]: [u8; 4]| g > 40 && f32::from(g) > 1.4 * f32::from(r.max(b));
    let turned = page.view().await;
    assert!(turned.share(green) > 0.1 && turned.share(red) < 0.01, "{} {}", turned.share(green), turned.share(red));
    assert_eq!(page.texts("[data-visible]").await, ["100 %", "100 %"]);
    for _ in 0..2 {
        page.press(&page.find(".undo").await).await;
    }
    assert_eq!(page.view().await.difference(&was, 2), 0.0);
    app.end().await;
}
