//! Paths and fills in the browser: points are set, moved, put in and taken out by the pointer, a path is closed and curved later, and a side is filled by a click.

use dustcoat_e2e::{App, Page, cube};
use thirtyfour::Key;

async fn rows(page: &Page) -> Vec<String> {
    page.texts(".strokes li small").await
}

async fn points(page: &Page) -> Vec<(i64, i64)> {
    page.handles("data-path").await
}

/// A click on the piece, in pixels from the view's middle.
async fn at(page: &Page, place: (i64, i64)) {
    page.draw(place, place, None).await;
}

async fn undo(page: &Page) {
    page.press(&page.find(".undo").await).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_path_is_set_point_by_point_and_moved_later_and_a_click_fills_a_side() {
    let app = App::start().await;
    let page = &app.page;
    page.coat_block(&cube(), "#c01808").await;
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    page.keys("b").await;
    page.choose("Line", "cornered").await;
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    // Set point by point: it shows, and is not kept before Enter.
    for place in [(-110, 20), (-70, 80), (-20, 60)] {
        at(page, place).await;
    }
    assert_eq!(points(page).await, [(-110, 20), (-70, 80), (-20, 60)]);
    let setting = page.reddish().await;
    assert!(setting > 0.004 && rows(page).await.is_empty(), "{setting}");
    page.keys(Key::Enter).await;
    page.until("it is kept and picked", async || rows(page).await == ["path 10 mm"]).await;
    page.settled().await;
    let kept = page.reddish().await;
    assert!((kept - setting).abs() < 0.002, "{kept} and {setting}");
    let line = page.attributes(".strokes svg polyline", "points").await;
    assert_eq!(line[0].split(' ').count(), 3, "{line:?} in small");
    // Another one is left by Escape, and nothing stays of it.
    at(page, (60, 40)).await;
    at(page, (90, 20)).await;
    assert!(page.reddish().await > kept * 1.2);
    page.keys(Key::Escape).await;
    // The ring of the brush covers some of it.
    assert!((page.reddish().await - kept).abs() < 0.004 && rows(page).await.len() == 1);
    page.click("Done").await;
    // A point is dragged; one is put in between two and taken out again; each is one undo.
    page.keys("f").await;
    let (set, kept) = (points(page).await, page.reddish().await);
    page.draw(set[1], (set[1].0 + 10, set[1].1 - 50), None).await;
    let moved = points(page).await;
    assert_eq!(moved, [set[0], (set[1].0 + 10, set[1].1 - 50), set[2]]);
    let between = page.handles("data-between").await;
    assert_eq!(between.len(), 2);
    page.draw(between[1], (between[1].0 + 6, between[1].1 + 30), None).await;
    assert_eq!(points(page).await.len(), 4);
    page.keys(Key::Delete).await;
    assert_eq!(points(page).await, moved);
    for _ in 0..3 {
        undo(page).await;
    }
    assert_eq!(points(page).await, set);
    // Closed, it comes back to its first point; curved, it sweeps.
    page.press(&page.find("[data-testid='restyle'] [data-setting='closed'] label").await).await;
    let closed = page.reddish().await;
    assert!(closed > kept * 1.1, "{closed} of {kept}");
    page.choose("Line", "curved").await;
    let swept = page.reddish().await;
    assert!((swept - closed).abs() > 0.0005, "{swept} and {closed}");
    undo(page).await;
    undo(page).await;
    // After a second look its points are there again.
    page.keys("f").await;
    let id = app.server.app.cards().expect("cards").remove(0).id;
    page.open(&format!("/p/{id}/build")).await;
    page.press(&page.find(".coat").await).await;
    page.press(&page.find("[data-step='Strokes'] .tile-picture").await).await;
    page.press(&page.find(".stroke-name").await).await;
    page.until("its points are there", async || points(page).await.len() == 3).await;
    // A click with the brush that covers up to edges fills the side that it is on.
    let line = page.reddish().await;
    page.press(&page.find(".stroke-name").await).await;
    page.press(&page.find(".panel.bottom .line-head b").await).await;
    page.keys("b").await;
    page.choose("Covers", "up to edges").await;
    at(page, (70, 60)).await;
    assert_eq!(rows(page).await, ["up to edges", "path 10 mm"]);
    let filled = page.reddish().await;
    assert!(filled > line * 5.0, "{filled} and {line}");
    undo(page).await;
    assert_eq!(rows(page).await.len(), 1);
    app.end().await;
}
