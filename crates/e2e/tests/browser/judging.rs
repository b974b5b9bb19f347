//! Judging a piece in the browser: the probe, snapshots and the wipe between then and now, light and surround.

use dustcoat_e2e::{App, blue, cube, red};
use serde_json::json;
use thirtyfour::Key;

use crate::windows::edit;

#[tokio::test(flavor = "multi_thread")]
async fn a_spot_is_looked_into_and_leads_to_its_step() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("Altitude").await;
    page.keys("p").await;
    assert!(page.text(".probe").await.contains("Click a spot"));
    let canvas = page.find(".view canvas").await;
    page.driver.action_chain().move_to_element_center(&canvas).click().perform().await.expect("the piece is clicked");
    page.settled().await;
    // It stands aside: what it covers can be clicked once the spot is on its side.
    let side = async || {
        let probe = page.find(".probe").await.rect().await.expect("it is somewhere");
        let view = canvas.rect().await.expect("it is somewhere");
        if probe.x + probe.width / 2.0 < view.x + view.width / 2.0 { "left" } else { "right" }
    };
    for (dx, wanted) in [(-40, "right"), (40, "left")] {
        let spot = page.driver.action_chain().move_to_element_with_offset(&canvas, dx, 20);
        spot.click().perform().await.expect("the piece is clicked");
        page.settled().await;
        assert_eq!(side().await, wanted, "{dx} from the middle");
    }
    let told = page.text(".probe").await;
    assert!(told.contains("New coat") && told.contains("Altitude") && told.contains("Bare piece"), "{told}");
    assert!(told.contains("mm") && told.contains("Base color #"), "{told}");
    // Its line in the core sample leads to the step.
    page.press(&page.find(".slice li button").await).await;
    assert!(page.text(".panel-head .crumb").await.contains("Altitude"));
    page.keys("p").await;
    assert!(page.texts(".probe").await.is_empty(), "put down");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn now_is_wiped_against_a_snapshot_and_gone_back_to() {
    let app = App::start().await;
    let App { page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.click("Shows: lit").await;
    page.click("base color").await;
    page.click("Snapshots").await;
    page.click("Keep it").await;
    assert_eq!(page.attributes("[data-snapshot]", "data-snapshot").await, ["Snapshot 1"]);
    page.keys(Key::Escape + "").await;
    page.type_into("Color", "#0818c0").await;
    let now = page.view().await;
    assert!(now.share(blue) > 0.1 && now.share(red) == 0.0);
    // The next frame after new pixels have come shows them, or the one after that.
    let frame = async |what: &str| page.attributes(".view", what).await[0].parse::<u32>().expect("a number");
    let (arrived, drawn) = (frame("data-arrived").await, frame("data-pixels").await);
    assert!(drawn > arrived && drawn - arrived <= 2, "arrived after frame {arrived}, drawn in {drawn}");
    page.click("Snapshots").await;
    page.click("Wipe against Snapshot 1").await;
    page.keys(Key::Escape + "").await;
    let both = page.view().await;
    assert!(both.share(red) > 0.03 && both.share(blue) > 0.03, "{} {}", both.share(red), both.share(blue));
    assert_eq!(page.texts(".wipe-label").await, ["Snapshot 1", "now"]);
    // The edge is moved to the left by keys: less of then, more of now.
    let edge = page.find(".wipe").await;
    edge.focus().await.expect("it takes the focus");
    for _ in 0..4 {
        page.keys(Key::Left + "").await;
    }
    let moved = page.view().await;
    assert!(moved.share(red) < both.share(red) && moved.share(blue) > both.share(blue));
    // Put down, it is all as it is now; gone back to, it is all as it was, and undo takes that back.
    page.keys("f").await;
    page.keys("w").await;
    assert!(page.view().await.share(red) == 0.0, "the wipe is put down");
    page.click("Snapshots").await;
    page.click("Go back to Snapshot 1").await;
    page.keys(Key::Escape + "").await;
    let back = page.view().await;
    assert!(back.share(red) > 0.1, "{} {} {}", back.share(red), back.share(blue), page.text("body").await);
    page.press(&page.find(".undo").await).await;
    assert!(page.view().await.share(blue) > 0.1);
    page.click("Snapshots").await;
    page.click("Take Snapshot 1 off the list").await;
    assert!(page.attributes("[data-snapshot]", "data-snapshot").await.is_empty());
    page.click("Put it back").await;
    assert_eq!(page.attributes("[data-snapshot]", "data-snapshot").await, ["Snapshot 1"]);
    page.keys(Key::Escape + "").await;

    // A colour is turned in OKLCH, and taken from the piece.
    page.click("Pick color").await;
    page.find("[role='slider'][aria-label='Color: lightness']").await.focus().await.expect("it takes the focus");
    for _ in 0..3 {
        page.keys(Key::End + "").await;
    }
    let bright = page.view().await.mean_of_piece();
    assert!(bright.iter().all(|c| *c > 245.0), "white at the end of lightness: {bright:?}");
    page.press(&page.find(".undo").await).await;
    page.click("Lay a coat").await;
    page.type_into("Opacity", "0").await;
    page.click("Pick color").await;
    page.click("From the piece").await;
    assert!(page.text(".view-note").await.contains("becomes “Color”"));
    let canvas = page.find(".view canvas").await;
    page.driver.action_chain().move_to_element_center(&canvas).click().perform().await.expect("the piece is clicked");
    page.settled().await;
    assert_eq!(page.attributes("input[aria-label='Color']", "value").await, ["#0818c0"]);

    // More light, and another surround.
    page.click("Shows: base color").await;
    page.click("lit").await;
    let lit = page.view().await;
    page.click("Light: quay, overcast").await;
    page.press(&page.find(".light-box input[value='dark'] + label").await).await;
    page.keys(Key::Escape + "").await;
    let dark = page.view().await;
    let surround = |p: [u8; 4]| p[0] < 60 && p[0] == p[1] && p[1] == p[2];
    assert!(dark.share(surround) > lit.share(surround) + 0.3, "{} {}", dark.share(surround), lit.share(surround));

    // A ball in the corner shows where the light comes from, and turns with it.
    let corner = async || {
        let whole = page.look_at(".view canvas").await;
        whole.part([whole.width - 102, whole.height - 102], [92, 92])
    };
    let without = corner().await;
    page.click("Light: quay, overcast").await;
    page.press(&page.find(".light-box label[for$='ball']").await).await;
    page.keys(Key::Escape + "").await;
    let ball = corner().await;
    assert!(ball.difference(&without, 8) > 0.3, "{}", ball.difference(&without, 8));
    page.click("Light: quay, overcast").await;
    page.find("[role='slider'][aria-label='Turn of the light']").await.focus().await.expect("it takes the focus");
    page.keys(Key::Home + "").await;
    page.keys(Key::Escape + "").await;
    let turned = corner().await;
    assert!(turned.difference(&ball, 8) > 0.2, "{}", turned.difference(&ball, 8));
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_a_snapshot_needs_is_measured_while_it_is_wiped_against_and_can_be_stopped() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    let rays =
        |rays: u32| json!({"edit": "set_param", "target": {"reading": "thickness", "key": "rays"}, "value": rays});
    let size = |size: u32| json!({"edit": "set_draft_size", "size": size});
    let id = server.app.cards().expect("cards")[0].id;
    let layer = server.app.view(id).expect("it is there").document.layers[0].id.clone();
    let open = json!({"edit": "add_step", "layer": layer, "index": 0, "step": {"kind": "thickness", "settings": {}}});
    let stop = async || {
        page.until("it measures", async || page.text(".working").await.contains("Measuring thickness")).await;
        page.control("Stop measuring").await.click().await.expect("it can be stopped");
        page.settled().await;
        assert_eq!(page.text(".working").await, "");
    };
    let keep = async || {
        page.click("Snapshots").await;
        page.click("Keep it").await;
        page.keys(Key::Escape + "").await;
    };
    let wipe = async |name: &str| {
        page.control("Snapshots").await.click().await.expect("the list opens");
        page.control(&format!("Wipe against {name}")).await.click().await.expect("it is taken");
    };
    // The first snapshot hangs on far more rays than anybody waits for, the second on a few; neither was measured at the size at which it is looked at.
    edit(server, json!([open, rays(1024), size(2048)]));
    stop().await;
    keep().await;
    edit(server, json!([rays(64), size(256)]));
    page.settled().await;
    keep().await;
    edit(server, json!([rays(2), size(512)]));
    page.settled().await;
    wipe("Snapshot 2").await;
    page.keys(Key::Escape + "").await;
    let fine = page.view().await;
    page.keys("w").await;
    wipe("Snapshot 2").await;
    page.keys(Key::Escape + "").await;
    assert!(page.view().await.difference(&fine, 0) == 0.0, "what came while it was measured was brought up to date");
    page.keys("w").await;
    wipe("Snapshot 1").await;
    stop().await;
    assert_eq!(page.texts(".wipe-label").await, ["Snapshot 1", "now"], "seen with what is at hand");
    app.end().await;
}
