//! A drag is seen while it is made: small at first, sharp at rest, and the true picture at its end, whatever happens meanwhile.

use dustcoat_e2e::{App, Page, Picture, Server, cube};
use serde_json::json;

/// A block with a coat that clouds let through, at draft 512, its cut at hand.
async fn clouded() -> App {
    let app = App::start().await;
    let page = &app.page;
    page.coat_block(&cube(), "#c01808").await;
    page.choose("Draft size", "draft 512").await;
    page.find_step("clouds").await;
    page.find_step("threshold").await;
    page.type_into("Softness", "0.05").await;
    app
}

/// Remembers the size of every texture that is drawn from now on.
async fn watch(page: &Page) {
    let script = "const view = document.querySelector('.view');
        window.sizes = [];
        new MutationObserver(() => window.sizes.push(Number(view.dataset.size)))
            .observe(view, { attributes: true, attributeFilter: ['data-pixels'] });";
    page.driver.execute(script, vec![]).await.expect("the view is watched");
}

async fn sizes(page: &Page) -> Vec<u64> {
    page.driver.execute("return window.sizes;", vec![]).await.expect("sizes").convert().expect("numbers")
}

/// The view with the piece framed as it is when it is opened.
async fn framed(page: &Page) -> Picture {
    page.keys("f").await;
    page.settled().await;
    page.view().await
}

/// The view of the project that is open, loaded anew.
async fn fresh(page: &Page, id: i64) -> Picture {
    page.open(&format!("/p/{id}/build")).await;
    framed(page).await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_drag_is_small_while_it_moves_sharp_at_rest_and_true_at_its_end() {
    let app = clouded().await;
    let App { page, server, .. } = &app;
    let id = server.app.cards().expect("cards").remove(0).id;
    let before = page.view().await;
    let tiles = page.attributes(".tile-picture canvas", "data-address").await;
    watch(page).await;
    let mut held = None;
    page.drag("Cut slider", -60, async || {
        let all = sizes(page).await;
        assert!(all.first().is_some_and(|s| *s < 512), "the first pixels are small: {all:?}");
        assert_eq!(all.last(), Some(&512), "and those at rest are the draft's: {all:?}");
        held = Some(page.view().await);
    })
    .await;
    let held = held.expect("it was looked at");
    assert!(held.difference(&before, 16) > 0.003, "something is seen of it");
    let kept = page.view().await;
    assert_eq!(kept.difference(&held, 0), 0.0, "what is kept is what was tried");
    assert_ne!(page.attributes(".tile-picture canvas", "data-address").await, tiles, "the tiles follow at rest");
    let drawn = sizes(page).await.len();
    page.press(&page.find(".coat .name-button").await).await;
    assert_eq!(sizes(page).await.len(), drawn, "looking at the layer again brings no pixels");
    let kept = framed(page).await;
    assert_eq!(fresh(page, id).await.difference(&kept, 0), 0.0, "as if it had been so from the start");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_server_that_is_restarted_in_mid_drag_leaves_the_true_picture() {
    let mut app = clouded().await;
    let id = app.server.app.cards().expect("cards").remove(0).id;
    let before = app.page.view().await;
    let (url, folder) = (app.server.url.clone(), app.data.path().to_owned());
    let thumb = app.page.control("Cut slider").await;
    let chain = || app.page.driver.action_chain();
    chain().move_to_element_center(&thumb).click_and_hold().perform().await.expect("the thumb is there");
    chain().move_by_offset(-20, 0).perform().await.expect("the pointer moves");
    app.server.stop();
    chain().move_by_offset(-20, 0).perform().await.expect("the pointer moves");
    app.page
        .until("it says that the server is away", async || {
            app.page.text("body").await.contains("can’t be reached")
                || app.page.text("body").await.contains("can't be reached")
        })
        .await;
    app.server = Server::at(&folder, &url);
    // Nothing moves any more, and the page finds its way by itself.
    app.page
        .until("it shows where the hand is", async || {
            app.page.settled().await;
            app.page.view().await.difference(&before, 16) > 0.003
        })
        .await;
    chain().release().perform().await.expect("the thumb is let go");
    app.page.settled().await;
    let page = &app.page;
    let cut = |server: &Server| {
        let layers = serde_json::to_value(&server.app.view(id).expect("it is there").document.layers).expect("layers");
        layers[0]["mask"]["steps"][1]["settings"]["cut"].clone()
    };
    assert_ne!(cut(&app.server), json!(null), "the drag was kept");
    assert!(page.view().await.difference(&before, 16) > 0.003);
    let kept = framed(page).await;
    assert_eq!(fresh(page, id).await.difference(&kept, 0), 0.0, "and what is seen is what was kept");
}

#[tokio::test(flavor = "multi_thread")]
async fn at_rest_edges_are_smooth_and_stay_so() {
    let app = clouded().await;
    let App { page, server, browser, .. } = &app;
    let id = server.app.cards().expect("cards").remove(0).id;
    page.type_into("Softness", "0").await;
    let hard = fresh(page, id).await;
    // Pages that draw plainly leave them out.
    let full = browser.page(&server.url, false);
    full.open(&format!("/p/{id}/build")).await;
    let last = "return performance.getEntriesByName('received', 'mark').at(-1).detail;";
    let asked = full.driver.execute(last, vec![]).await.expect("a mark is there").json().clone();
    assert!(["smooth", "ahead"].contains(&asked.as_str().unwrap_or("")), "{asked}");
    assert!(framed(&full).await.difference(&hard, 8) > 0.0);
    // What doesn't change the coats brings no other pixels: nothing flickers.
    watch(&full).await;
    full.press(&full.find(".coat .name-button").await).await;
    full.press(&full.find("[data-step='Threshold']").await).await;
    let drawn = sizes(&full).await;
    assert!(drawn.is_empty(), "nothing that is seen has changed: {drawn:?}");
    app.end().await;
}
