//! For every hand and eye: axe-core on every room, drawer, dialog and popover in both schemes, and the main job by keyboard alone.

use dustcoat_e2e::{App, Page};
use thirtyfour::Key;

/// Opens something, looks at it, and closes it again.
async fn opened(page: &Page, what: &str, open: &str) {
    page.click(open).await;
    page.assert_accessible(what).await;
    page.keys(Key::Escape + "").await;
}

async fn all_of_it(page: &Page, scheme: &str, project: i64) {
    page.open("/").await;
    page.assert_accessible(&format!("front door, {scheme}")).await;
    page.open(&format!("/p/{project}/build")).await;
    page.press(&page.find(".coat[data-layer='Recess rust'] .name-button").await).await;
    page.assert_accessible(&format!("Build with a coat, {scheme}")).await;
    for (what, control) in [
        ("light", "Light: quay, overcast"),
        ("what is shown", "Shows: lit"),
        ("snapshots", "Snapshots"),
        ("places", "Places"),
        ("stills", "Still"),
        ("the cabinet", "Cabinet"),
        ("ready finishes", "Finish…"),
        ("adjustments", "Adjust…"),
        ("starters", "Starters"),
        ("a drive", "Drive Color"),
        ("a colour", "Pick Color"),
    ] {
        if page.has(control).await {
            opened(page, &format!("{what}, {scheme}"), control).await;
        }
    }
    page.press(&page.find(".tile[data-step='Threshold'] .tile-picture").await).await;
    page.assert_accessible(&format!("Build with a step, {scheme}")).await;
    page.keys("/").await;
    page.assert_accessible(&format!("the finder, {scheme}")).await;
    page.keys(Key::Escape + "").await;
    page.keys("?").await;
    page.assert_accessible(&format!("the keys, {scheme}")).await;
    page.keys(Key::Escape + "").await;
    for room in ["surface", "dials", "handoff"] {
        page.open(&format!("/p/{project}/{room}")).await;
        page.assert_accessible(&format!("{room}, {scheme}")).await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn nothing_is_in_the_way_of_anybody_in_either_scheme() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    server.app.fill_with_demo().expect("the demo is made");
    let project = server.app.cards().expect("cards").remove(0).id;
    all_of_it(page, "plaster", project).await;
    page.click("Dark panels (graphite)").await;
    all_of_it(page, "graphite", project).await;
    app.end().await;
}

/// Goes on with Tab until the focus is on what is called so; what is seen by whoever uses no pointer.
async fn tab_to(page: &Page, name: &str) {
    let script = "const e = document.activeElement; return [e.getAttribute('aria-label'), e.title, e.textContent].map((t) => (t ?? '').trim());";
    let mut seen = vec![];
    for _ in 0..160 {
        page.keys(Key::Tab + "").await;
        let names: Vec<String> = page.driver.execute(script, vec![]).await.expect("a focus").convert().expect("names");
        if names.iter().any(|n| n == name || n.starts_with(&format!("{name},"))) {
            return;
        }
        seen.push(format!("{} {}", names[0], names[2].chars().take(20).collect::<String>()));
    }
    panic!("Tab never led to “{name}”, but to {seen:?}");
}

#[tokio::test(flavor = "multi_thread")]
async fn the_main_job_is_done_by_keyboard_alone() {
    let app = App::start().await;
    let App { page, server, .. } = &app;
    server.app.fill_with_demo().expect("the demo is made");
    page.open("/").await;
    let name = page.text(".card").await.lines().next().unwrap_or_default().to_owned();
    tab_to(page, &name).await;
    page.keys(Key::Enter + "").await;
    page.until("the project opens", async || page.text(".room.here").await == "Build").await;
    page.settled().await;
    let coats = page.texts(".coat .name-button").await.len();
    // A coat is laid, a step found, a number turned.
    tab_to(page, "Lay a coat").await;
    page.keys(Key::Enter + "").await;
    assert_eq!(page.texts(".coat .name-button").await.len(), coats + 1);
    page.keys("/").await;
    page.until("the finder has the focus", async || page.has_focus("Search steps").await).await;
    page.keys("clouds" + Key::Enter).await;
    page.until("the step is there", async || !page.attributes(".tile[data-step]", "data-step").await.is_empty()).await;
    let before = page.text(".coat:first-child [data-visible]").await;
    page.keys("/").await;
    page.until("the finder has the focus", async || page.has_focus("Search steps").await).await;
    page.keys("threshold" + Key::Enter).await;
    tab_to(page, "Cut").await;
    page.keys(Key::Control + "a").await;
    page.keys("0.7" + Key::Enter).await;
    page.settled().await;
    assert_ne!(page.text(".coat:first-child [data-visible]").await, before, "less of it is seen");
    // A dial is turned, files are written.
    page.driver.execute("document.activeElement.blur()", vec![]).await.expect("nothing has the focus");
    page.keys("3").await;
    page.until("the dials are there", async || page.text(".room.here").await == "Dials").await;
    tab_to(page, "Wear").await;
    page.keys(Key::Right + Key::Right).await;
    page.until("undo names it", async || page.text(".undo").await.contains("Wear")).await;
    page.driver.execute("document.activeElement.blur()", vec![]).await.expect("nothing has the focus");
    page.keys("4").await;
    page.until("the hand-off is there", async || page.text(".room.here").await == "Hand-off").await;
    tab_to(page, "Write files").await;
    page.keys(Key::Enter + "").await;
    tab_to(page, "Download").await;
    app.end().await;
}
