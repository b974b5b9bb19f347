//! A pin in the browser: a made-up picture is taken, laid by a click, sized, turned and moved by its frame and by keys, over a seam, and undone after a second look.

use dustcoat_e2e::{App, Page, cube, red};
use thirtyfour::Key;

/// How the selected pin lies, as its frame says: width in mm, turn in degrees.
async fn lying(page: &Page) -> (f64, f64) {
    let said = page.attributes(".view", "data-pin").await.remove(0);
    let (size, turn) = said.split_once(" mm, ").expect("a width and a turn");
    (size.parse().expect("a number"), turn.trim_end_matches('°').parse().expect("a number"))
}

fn ochre([r, g, b, _]: [u8; 4]) -> bool {
    r > 90 && g > 60 && b < 70 && r > g
}

#[tokio::test(flavor = "multi_thread")]
async fn a_pin_is_laid_sized_turned_moved_over_a_seam_coloured_and_undone() {
    let app = App::start().await;
    let page = &app.page;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("pin").await;
    assert_eq!(page.text("[data-testid='pin'] h2").await, "Not laid yet");
    page.click("Made-up pictures").await;
    page.pictures(".made-pictures img").await;
    page.press(&page.find(".made-pictures button:nth-child(4)").await).await;
    assert_eq!(page.reddish().await, 0.0, "before it is laid there is nothing");
    page.type_into("Width", "24").await;
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    page.keys("f").await;
    // A click lays it, a drag beside it turns the camera as ever.
    page.draw((-60, 40), (-60, 40), None).await;
    assert_eq!(page.text("[data-testid='pin'] h2").await, "Laid");
    let laid = page.reddish().await;
    assert!(laid > 0.004 && lying(page).await == (24.0, 0.0), "{laid} {:?}", lying(page).await);
    // Sized by a corner: about twice as far from the middle.
    let corners = page.handles("data-handles").await;
    let middle = ((corners[0].0 + corners[2].0) / 2, (corners[0].1 + corners[2].1) / 2);
    let beyond = |k: usize| (2 * corners[k].0 - middle.0, 2 * corners[k].1 - middle.1);
    page.draw(corners[2], (beyond(2).0, beyond(2).1), None).await;
    let (size, _) = lying(page).await;
    let larger = page.reddish().await;
    assert!((38.0..60.0).contains(&size) && larger > laid * 1.8, "{size} mm, {larger} of {laid}");
    page.press(&page.find(".undo").await).await;
    assert_eq!(lying(page).await.0, 24.0, "one undo has it back");
    // Turned by its knob, down to the left.
    let knob = page.handles("data-handles").await[4];
    page.draw(knob, (middle.0 - 40, middle.1 + 2), None).await;
    let (_, turn) = lying(page).await;
    assert!((60.0..120.0).contains(&turn), "{turn}°");
    page.press(&page.find(".undo").await).await;
    // Moved over the edge, which is a seam: red on both sides of it.
    page.draw(middle, (0, 44), None).await;
    let moved = page.view().await;
    let half = |x: u32| moved.part([x, 0], [moved.width / 2, moved.height]).share(red);
    assert!(half(0) > 0.001 && half(moved.width / 2) > 0.0, "{} and {}", half(0), half(moved.width / 2));
    // By keys: larger, turned, and moved; each press is one undo.
    page.keys("]").await;
    assert_eq!(lying(page).await.0, 25.2);
    page.keys("{").await;
    assert_eq!(lying(page).await.1, 5.0);
    let before = page.handles("data-handles").await;
    let chain = page.driver.action_chain().key_down(Key::Shift).key_down(Key::Up).key_up(Key::Up).key_up(Key::Shift);
    chain.perform().await.expect("the keys are pressed");
    page.settled().await;
    let after = page.handles("data-handles").await;
    assert!(after[0].1 < before[0].1 - 10, "ten millimetres up: {before:?} {after:?}");
    for _ in 0..3 {
        page.press(&page.find(".undo").await).await;
    }
    assert_eq!(lying(page).await, (24.0, 0.0));
    // In its own colours.
    page.click("Take the picture’s").await;
    assert!(page.reddish().await < 0.001 && page.view().await.share(ochre) > 0.001);
    page.press(&page.find(".undo").await).await;
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    page.keys("f").await;
    let drawn = page.reddish().await;
    // A second look finds the same, and undo outlives it.
    let id = app.server.app.cards().expect("cards").remove(0).id;
    page.open(&format!("/p/{id}/build")).await;
    page.keys("f").await;
    let now = page.reddish().await;
    assert!((now - drawn).abs() < 0.004, "{now} and {drawn}");
    page.press(&page.find(".undo").await).await;
    page.press(&page.find(".coat").await).await;
    page.press(&page.find("[data-step='Pin'] .tile-picture").await).await;
    let back = page.handles("data-handles").await;
    let off = back.iter().zip(&corners).map(|(a, b)| (a.0 - b.0).abs().max((a.1 - b.1).abs())).max();
    assert!(off <= Some(4), "where it was first laid: {back:?} and {corners:?}");
    // Along what is drawn it is laid again and again; how the brush stands says nothing then, and isn't asked.
    page.choose("Laid", "along what is drawn").await;
    page.type_into("Width", "9").await;
    page.type_into("Spacing", "12").await;
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    assert_eq!(page.reddish().await, 0.0, "nothing is drawn yet");
    page.keys("b").await;
    assert!(page.has("Done").await && !page.has("Hardness").await);
    page.draw((-70, 40), (70, 40), None).await;
    let along = page.reddish().await;
    assert!(along > 0.001 && !page.texts(".strokes li").await.is_empty(), "{along}");
    page.click("Done").await;
    app.end().await;
}
