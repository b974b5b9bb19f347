//! Nothing is lost at the seams between page and server: measuring beside edits, answers that come late, two windows on one project, a server that comes back.

use dustcoat::views::Event;
use dustcoat_core::document;
use dustcoat_e2e::{App, Page, Server, cube};
use serde_json::json;
use thirtyfour::Key;
use thirtyfour::prelude::*;

/// Throttles what goes over the network by so many milliseconds a request.
async fn slow(page: &Page, milliseconds: u32) {
    let tools = page.driver.cdp();
    let conditions =
        json!({"offline": false, "latency": milliseconds, "downloadThroughput": -1, "uploadThroughput": -1});
    tools.send_raw("Network.enable", json!({})).await.expect("the network can be watched");
    tools.send_raw("Network.emulateNetworkConditions", conditions).await.expect("the network can be slowed down");
}

/// Goes to another address of the app without loading it anew.
async fn go(page: &Page, path: &str) {
    let script = format!("history.pushState(null, '', '{path}?quality=plain'); dispatchEvent(new Event('popstate'));");
    page.driver.execute(&script, vec![]).await.expect("the page goes there");
}

/// Whether the browser would ask before the page is closed.
pub async fn asks(page: &Page) -> bool {
    let script = "const e = new Event('beforeunload', { cancelable: true }); window.dispatchEvent(e); return e.defaultPrevented;";
    page.driver.execute(script, vec![]).await.expect("it can be asked").json().as_bool().unwrap_or(false)
}

/// Edits the project that was changed last, as somebody else would.
pub fn edit(server: &Server, edits: serde_json::Value) {
    let card = server.app.cards().expect("cards").remove(0);
    let request = serde_json::from_value(json!({"revision": card.revision, "edits": edits})).expect("an edit");
    server.app.edit(card.id, &request).expect("it is made");
}

fn opacity(server: &Server) -> serde_json::Value {
    let card = server.app.cards().expect("cards").remove(0);
    serde_json::to_value(&server.app.view(card.id).expect("it is there").document.layers[0].opacity).expect("a number")
}

#[tokio::test(flavor = "multi_thread")]
async fn an_edit_made_while_measuring_is_kept_and_an_unsaved_one_is_spoken_of() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    // Far more rays than anybody waits for.
    let rays =
        |of: &str, rays: u32| json!({"edit": "set_param", "target": {"reading": of, "key": "rays"}, "value": rays});
    edit(server, json!([rays("thickness", 1024), rays("occlusion", 2), {"edit": "set_draft_size", "size": 1024}]));
    page.settled().await;
    page.control("Surface").await.click().await.expect("a room");
    page.until("the card is there", async || {
        page.driver.find(By::Css("[data-reading='thickness'] .reading-settings button")).await.is_ok()
    })
    .await;
    let buttons =
        page.driver.find_all(By::Css("[data-reading='thickness'] .reading-settings button")).await.expect("buttons");
    buttons.last().expect("one that measures").click().await.expect("it is clicked");
    page.until("it measures", async || page.text(".working").await.contains("Measuring thickness")).await;
    page.control("Build").await.click().await.expect("a room");
    let field = page.control("Opacity").await;
    field.click().await.expect("a field");
    field.send_keys(Key::Control + "a").await.expect("keys");
    field.send_keys("0.4").await.expect("keys");
    field.send_keys(Key::Enter + "").await.expect("keys");
    page.until("the edit is on disk", async || opacity(server) == json!(0.4)).await;
    assert!(page.text(".working").await.contains("Measuring thickness"), "and the measuring goes on");
    page.until("all is acknowledged", async || !asks(page).await).await;
    page.control("Stop measuring").await.click().await.expect("it can be stopped");
    page.settled().await;
    edit(server, json!([{"edit": "set_draft_size", "size": 256}]));
    page.settled().await;

    // What the server has not acknowledged is spoken of when the page is closed.
    slow(page, 1500).await;
    let field = page.control("Opacity").await;
    field.click().await.expect("a field");
    field.send_keys(Key::Control + "a").await.expect("keys");
    field.send_keys("0.7").await.expect("keys");
    field.send_keys(Key::Enter + "").await.expect("keys");
    assert!(asks(page).await, "the edit is on its way");
    slow(page, 0).await;
    page.settled().await;
    assert!(!asks(page).await && opacity(server) == json!(0.7));
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_still_on_its_way_reaches_the_project_it_was_for_and_no_other() {
    let app = App::start().await;
    let App { data, page, server, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    let first = server.app.cards().expect("cards").remove(0);
    page.bring_in_block(data.path(), &cube()).await;
    let second = server.app.cards().expect("cards").remove(0);
    assert_ne!(first.id, second.id);
    page.open(&format!("/p/{}/build", first.id)).await;
    // An edit that takes its time, and another project opened before it is answered.
    slow(page, 1200).await;
    page.driver.action_chain().send_keys("h").perform().await.expect("keys");
    go(page, &format!("/p/{}/build", second.id)).await;
    slow(page, 0).await;
    page.settled().await;
    assert_eq!(page.texts(".coat .name-button").await.len(), 0, "the second project has no coats");
    let shown =
        |id| server.app.view(id).expect("it is there").document.layers.iter().map(|l| l.shown).collect::<Vec<_>>();
    assert_eq!(shown(first.id), [false], "the edit was made where it was meant");
    assert!(shown(second.id).is_empty());
    // And what is edited now hits the second.
    page.click("Lay a coat").await;
    assert_eq!(shown(second.id), [true]);
    assert_eq!(shown(first.id), [false]);
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn two_windows_show_the_same_whatever_was_done_in_which_also_after_a_restart() {
    let mut app = App::start().await;
    app.page.coat_block(&cube(), "#c01808").await;
    let card = app.server.app.cards().expect("cards").remove(0);
    let windows = app.page.two_windows().await;
    let page = &app.page;
    page.turn_to(&windows[1]).await;
    page.open(&format!("/p/{}/build", card.id)).await;
    let names = async |k: usize| {
        page.turn_to(&windows[k]).await;
        page.settled().await;
        page.texts(".coat .name-button").await
    };
    let same = async |expected: &[&str]| {
        for k in [0, 1] {
            page.turn_to(&windows[k]).await;
            page.until("both windows show it", async || page.texts(".coat .name-button").await == expected).await;
        }
    };
    assert_eq!(names(1).await, ["New coat"]);
    // An edit in the second, undone in the first: an undo has a lower revision.
    page.press(&page.find(".coat .name-button").await).await;
    page.chord(Key::Control, "d").await;
    same(&["New coat copy", "New coat"]).await;
    page.turn_to(&windows[0]).await;
    page.press(&page.find(".undo").await).await;
    same(&["New coat"]).await;
    // While something is pending in one window, the other one edits.
    page.turn_to(&windows[0]).await;
    slow(page, 700).await;
    page.driver.action_chain().send_keys("f").perform().await.expect("keys");
    page.turn_to(&windows[1]).await;
    page.press(&page.find(".coat .name-button").await).await;
    page.chord(Key::Control, "d").await;
    page.turn_to(&windows[0]).await;
    slow(page, 0).await;
    same(&["New coat copy", "New coat"]).await;
    // The server goes away and comes back at the same place; meanwhile nobody hears anything.
    let (url, folder) = (app.server.url.clone(), app.data.path().to_owned());
    app.server.stop();
    app.server = Server::at(&folder, &url);
    edit(&app.server, json!([{"edit": "remove_layer", "layer": "l1"}]));
    let page = &app.page;
    for window in &windows {
        page.turn_to(window).await;
        page.until("the window caught up", async || page.texts(".coat .name-button").await == ["New coat copy"]).await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn what_others_do_while_a_project_is_being_opened_is_seen() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    let card = server.app.cards().expect("cards").remove(0);
    page.open("/").await;
    // The project's answer waits at the page's door until it is let in.
    let hold = r"const real = window.fetch;
        window.fetch = async (...asked) => {
            const answer = await real(...asked);
            if (/projects\/\d+$/.test(asked[0]) && !window.holding) {
                await new Promise((letIn) => { window.holding = letIn; });
            }
            return answer;
        };";
    page.driver.execute(hold, vec![]).await.expect("a script runs");
    go(page, &format!("/p/{}/build", card.id)).await;
    page.until("the answer is on its way", async || {
        let held = page.driver.execute("return window.holding !== undefined;", vec![]).await;
        held.ok().and_then(|h| h.json().as_bool()).unwrap_or(false)
    })
    .await;
    edit(server, json!([{"edit": "set_layer", "layer": "l1", "name": "Red lead"}]));
    page.driver.execute("window.holding();", vec![]).await.expect("it is let in");
    page.until("the newer name is seen", async || page.texts(".coat .name-button").await == ["Red lead"]).await;
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_window_that_was_too_slow_to_hear_asks_for_all_anew() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    // An edit that this window is not told of, as when more happened than could be held for it.
    let card = server.app.cards().expect("cards").remove(0);
    let row = server.app.db.project(card.id).expect("it is there");
    let rename = serde_json::from_value(json!({"edit": "set_layer", "layer": "l1", "name": "Red lead"}));
    let next = document::apply(&row.document, &rename.expect("an edit")).expect("it can be made");
    server.app.db.revise(card.id, row.revision, "rename", &next).expect("it is kept");
    page.settled().await;
    assert_eq!(page.texts(".coat .name-button").await, ["New coat"], "nobody spoke of it");
    server.app.events.send(Event::Missed).expect("the page listens");
    page.until("it caught up", async || page.texts(".coat .name-button").await == ["Red lead"]).await;
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_new_in_the_cabinet_is_told_of_without_a_change_of_the_project() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("clouds").await;
    page.find_step("threshold").await;
    page.drive_by_dial("Cut", "Wear").await;
    page.save_as_recipe("New coat", "Flaking red").await;
    page.lay_recipe("Flaking red").await;
    page.press(&page.find(".coat[data-layer='Flaking red'] .name-button").await).await;
    page.click("Cabinet").await;
    assert!(page.text(".new-version").await.is_empty());
    // Saved by somebody else.
    let project = server.app.cards().expect("cards").remove(0).id;
    let of = server.app.cabinet().expect("recipes").remove(0).id;
    let save = json!({"layer": "l1", "name": "Flaking red", "of": of});
    server.app.save_recipe(project, &serde_json::from_value(save).expect("a recipe")).expect("it is saved");
    page.until("the use is told", async || page.text(".new-version").await.contains("version 2 is in the cabinet"))
        .await;
    page.until("so is the cabinet", async || page.text("[data-recipe='Flaking red'] h2").await.contains("version 2"))
        .await;
    app.end().await;
}
