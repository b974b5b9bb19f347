//! What is looked at closely is sharp at rest, gives way while something moves, and is the same whenever it is looked at.

use dustcoat_e2e::{App, Page, Picture, cube};

/// The view once all is sharp.
async fn sharp(page: &Page) -> Picture {
    page.sharp().await;
    page.view().await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_looked_at_closely_is_sharp_and_a_drag_goes_back_to_the_draft_at_once() {
    let app = App::start().await;
    let (plain, full) = (&app.page, app.browser.page(&app.server.url, false));
    plain.coat_block(&cube(), "#c01808").await;
    plain.find_step("clouds").await;
    plain.find_step("threshold").await;
    plain.type_into("Softness", "0").await;
    let id = app.server.app.cards().expect("cards").remove(0).id;
    let path = format!("/p/{id}/build");

    full.open(&path).await;
    full.keys("f").await;
    let near = sharp(&full).await;
    let drafty = {
        plain.open(&path).await;
        plain.keys("f").await;
        plain.settled().await;
        plain.view().await
    };
    let (edges, before) = (near.middle().steps(70), drafty.middle().steps(70));
    assert!(before > 0.0 && edges > 2.0 * before, "edges are sharp in {edges} of the pixels, before in {before}");

    full.open(&path).await;
    full.keys("f").await;
    assert_eq!(sharp(&full).await.difference(&near, 2), 0.0, "the same whenever it is looked at");
    full.press(&full.find("[data-step='Threshold']").await).await;
    sharp(&full).await;
    full.drag("Cut slider", -40, async || {
        assert_eq!(full.attributes(".view", "data-near").await, ["0"], "while it moves there is the draft alone");
    })
    .await;
    let moved = sharp(&full).await;
    assert!(moved.difference(&near, 16) > 0.003, "what was kept is seen, sharply");
    assert!(moved.middle().steps(70) > 2.0 * before);
    app.end().await;
}
