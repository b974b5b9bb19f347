//! The weather in the browser: the wind is turned on the compass, and what rain does moves to the other side; nothing has built up where no years have passed.

use dustcoat_e2e::{App, cube, red};
use thirtyfour::Key;

#[tokio::test(flavor = "multi_thread")]
async fn the_wind_is_turned_and_what_the_rain_wets_moves() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("falls square on").await;
    page.click("Surface").await;
    let card = "[data-reading='rain']";
    page.until("it is measured", async || page.text(card).await.contains("fresh")).await;
    page.type_into("Wind from", "180").await;
    page.until("measured anew", async || page.text(card).await.contains("fresh")).await;
    page.settled().await;
    let from_the_front = page.view().await;
    let wind = page.control("Wind from, on the compass").await;
    assert_eq!(wind.attr("aria-valuenow").await.expect("it is there").as_deref(), Some("180"));

    // From behind: the front dries.
    page.type_into("Wind from", "0").await;
    page.until("measured anew", async || page.text(card).await.contains("fresh")).await;
    page.settled().await;
    let from_behind = page.view().await;
    assert!(
        from_behind.share(red) < 0.8 * from_the_front.share(red),
        "{} of it was red, now {}",
        from_the_front.share(red),
        from_behind.share(red)
    );

    // What flow tells is chosen on its card and shown on the piece.
    page.click("Measure all").await;
    page.until("all are measured", async || page.has("All measured").await).await;
    page.click("Show Flow").await;
    page.settled().await;
    let passes = page.view().await;
    page.press(&page.find("[data-reading='flow'] input[value='washed'] + label").await).await;
    page.settled().await;
    assert!(page.view().await.difference(&passes, 16) > 0.01, "another picture of it");

    // On the first day nothing has been washed off yet, without anything being measured anew, and undo brings back the ten years.
    let washed = page.view().await;
    page.type_into("Years", "0").await;
    page.settled().await;
    assert!(page.view().await.difference(&washed, 16) > 0.01, "nothing is washed clean");
    for reading in ["sun", "dust", "flow"] {
        let card = page.text(&format!("[data-reading='{reading}']")).await;
        assert!(card.contains("fresh"), "{reading} is read by the years: {card}");
    }
    page.press(&page.find(".undo").await).await;
    page.settled().await;
    assert_eq!(page.view().await.difference(&washed, 0), 0.0);

    // What has no effect for a rope isn't asked for.
    assert!(page.has("Reached from").await);
    page.choose("Touched by", "a rope around Y").await;
    page.until("it is gone", async || !page.has("Reached from").await).await;
    page.press(&page.find(".undo").await).await;
    page.until("it is back", async || page.has("Reached from").await).await;

    // The compass takes keys, and undo takes them back; what doesn't follow the wind stays as it was.
    let wind = page.control("Wind from, on the compass").await;
    wind.send_keys(Key::Right + "").await.expect("keys are taken");
    page.until("the wind has turned", async || page.attributes(".compass-handle.wind", "aria-valuenow").await == ["5"])
        .await;
    page.until("rain is measured anew", async || page.text(card).await.contains("fresh")).await;
    page.settled().await;
    assert!(page.text("[data-reading='sun']").await.contains("fresh"));
    assert!(page.text("[data-reading='dust']").await.contains("stale"));
    assert!(page.text(".undo").await.contains("Weather wind from"));
    app.end().await;
}
