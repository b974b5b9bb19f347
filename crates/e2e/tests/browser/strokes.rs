//! Drawing on the piece in the browser: over an edge, taking away, restyling, picking, undoing, all by pointer and keys.

use dustcoat_e2e::{App, Page, cube, red};
use thirtyfour::{By, Key};

/// As red as it was, but for what the ring covers of it.
async fn as_drawn(page: &Page, drawn: f64) {
    let now = page.reddish().await;
    assert!((now - drawn).abs() < 0.004, "{now} and {drawn}");
}

async fn strokes(page: &Page) -> usize {
    page.texts(".strokes li").await.len()
}

#[tokio::test(flavor = "multi_thread")]
async fn strokes_are_drawn_over_an_edge_taken_away_restyled_picked_and_undone() {
    let app = App::start().await;
    let page = &app.page;
    page.coat_block(&cube(), "#c01808").await;
    assert!(page.reddish().await > 0.1, "the coat lies everywhere");
    // Away from the field that was typed in.
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    page.keys("b").await;
    page.find("[data-testid='brush']").await;
    assert_eq!(page.reddish().await, 0.0, "where nothing is drawn it lies nowhere");
    // The ring says how wide the brush is, in mm, and follows the keys.
    let size = || async { page.attributes(".view", "data-brush").await };
    page.draw((-40, 40), (-40, 40), None).await;
    assert_eq!((strokes(page).await, size().await), (1, vec!["10 mm".to_owned()]));
    page.keys("]").await;
    assert_eq!(size().await, ["11.5 mm"]);
    page.keys("[").await;
    page.press(&page.find(".undo").await).await;
    assert_eq!((strokes(page).await, page.reddish().await), (0, 0.0));
    // Over the edge between two faces, which is a seam: both sides are drawn on.
    page.draw((-70, 40), (70, 40), None).await;
    let drawn = page.reddish().await;
    assert!(strokes(page).await >= 1 && drawn > 0.005, "{drawn}");
    let view = page.view().await;
    let half = |x: u32| view.part([x, 0], [view.width / 2, view.height]).share(red);
    assert!(half(0) > 0.003 && half(view.width / 2) > 0.003, "{} and {}", half(0), half(view.width / 2));
    // What is taken away with Alt held is one stroke more.
    let before = strokes(page).await;
    page.draw((-70, 40), (-10, 40), Some(Key::Alt)).await;
    let less = page.reddish().await;
    assert!(less < drawn * 0.85 && strokes(page).await > before, "{less} of {drawn}");
    page.press(&page.find(".undo").await).await;
    as_drawn(page, drawn).await;
    // A second look finds the same: it is kept.
    page.click("Done").await;
    assert!(!page.has("Done").await);
    page.keys("f").await;
    let drawn = page.reddish().await;
    let id = app.server.app.cards().expect("cards").remove(0).id;
    page.open(&format!("/p/{id}/build")).await;
    page.keys("f").await;
    as_drawn(page, drawn).await;
    // Picked on the piece, it is restyled; one undo has it back.
    page.press(&page.find(".coat").await).await;
    page.press(&page.find("[data-step='Strokes'] .tile-picture").await).await;
    let canvas = page.find(".view canvas").await;
    let chain = page.driver.action_chain().move_to_element_center(&canvas).move_by_offset(40, 40).click();
    chain.perform().await.expect("the piece is clicked");
    page.until("one is picked", async || page.texts(".strokes li.picked").await.len() == 1).await;
    page.type_into("Radius", "9").await;
    let wider = page.reddish().await;
    assert!(wider > drawn * 1.15, "{wider} and {drawn}");
    page.press(&page.find(".undo").await).await;
    as_drawn(page, drawn).await;
    // A recipe keeps what was drawn where that is wished.
    page.press(&page.find("[aria-label^='More for']").await).await;
    page.click("Save as a recipe…").await;
    let keep = "//label[contains(., 'Keep its strokes and pins')]";
    page.press(&page.driver.find(By::XPath(keep)).await.expect("it is asked")).await;
    page.type_into("Name", "Drawn on").await;
    let card = || app.server.app.cabinet().expect("cards").into_iter().find(|c| c.name == "Drawn on");
    page.until("it is in the cabinet", async || card().is_some()).await;
    assert!(card().expect("it is kept").drawn);
    app.end().await;
}
