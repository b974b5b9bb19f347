//! For every hand and eye: axe-core on every room, drawer, dialog and popover in both schemes, and the main job by keyboard alone.

use std::path::Path;

use dustcoat_e2e::{App, Page, Server, cube};
use thirtyfour::Key;

/// The demo at a small draft size, with few rays: the project that opens first.
fn demo(server: &Server) -> i64 {
    server.app.fill_with_demo().expect("the demo is made");
    let card = server.app.cards().expect("cards").remove(0);
    let rays =
        |of: &str| serde_json::json!({"edit": "set_param", "target": {"reading": of, "key": "rays"}, "value": 8});
    let edits = serde_json::json!([{"edit": "set_draft_size", "size": 256}, rays("occlusion"), rays("curvature")]);
    let request =
        serde_json::from_value(serde_json::json!({"revision": card.revision, "edits": edits})).expect("edits");
    server.app.edit(card.id, &request).expect("they are made");
    card.id
}

/// What was looked at, and what was found there.
struct Found<'a> {
    page: &'a Page,
    all: Vec<String>,
}

impl Found<'_> {
    async fn look(&mut self, what: &str) {
        let found = self.page.hindrances().await;
        self.all.extend(found.iter().map(|f| format!("{what}, {f}")));
    }

    /// Opens something, looks at it, and closes it again.
    async fn open(&mut self, what: &str, control: &str) {
        self.page.click(control).await;
        self.look(what).await;
        self.page.keys(Key::Escape + "").await;
    }
}

async fn all_of_it(page: &Page, folder: &Path, project: i64) -> Vec<String> {
    let mut found = Found { page, all: vec![] };
    page.open("/").await;
    found.look("the front door").await;
    page.open(&format!("/p/{project}/build")).await;
    page.press(&page.find(".coat[data-layer='Recess rust'] .name-button").await).await;
    found.look("Build with a coat").await;
    for (what, control) in [
        ("light", "Light: quay, overcast"),
        ("what is shown", "Shows: lit"),
        ("snapshots", "Snapshots"),
        ("places", "Places"),
        ("stills", "Still"),
        ("the cabinet", "Cabinet"),
        ("ready finishes", "Finish…"),
        ("adjustments", "Adjust…"),
        ("a colour", "Pick color"),
    ] {
        assert!(page.has(control).await, "{control} is there");
        found.open(what, control).await;
    }
    page.click("Cabinet").await;
    page.click("Look first…").await;
    found.look("the sheet that lays a recipe").await;
    page.keys(Key::Escape + "").await;
    page.click("Lay on this piece").await;
    page.press(&page.find(".coat:first-child [aria-label^='More for']").await).await;
    page.click("Open in place").await;
    found.look("a recipe opened in place").await;
    page.click("Drop").await;
    page.press(&page.find(".undo").await).await;
    page.press(&page.find(".drive").await).await;
    found.look("a drive").await;
    page.keys(Key::Escape + "").await;
    page.click("Finish…").await;
    page.press(&page.find("[data-finish='copper_patina']").await).await;
    found.look("a finish, folded").await;
    page.click("Unfold Copper with its patina").await;
    page.press(&page.find(".coat[data-layer='Patina'] .name-button").await).await;
    found.look("a coat on ramps").await;
    found.open("palettes", "From a palette…").await;
    found.open("colours of a picture", "From a picture…").await;
    page.press(&page.find(".undo").await).await;
    page.press(&page.find(".coat[data-layer='Recess rust'] .name-button").await).await;
    page.press(&page.find(".tile[data-step='Threshold'] .tile-picture").await).await;
    found.look("Build with a step").await;
    found.open("the finder", "Find a step").await;
    found.open("the keys", "Keys").await;
    found.open("what was done", "What was done").await;
    for room in ["study", "surface", "dials", "handoff"] {
        page.open(&format!("/p/{project}/{room}")).await;
        found.look(room).await;
    }
    page.click("Study").await;
    page.press(&page.find(".board-item.picture").await).await;
    page.click("Stand beside the piece").await;
    found.look("a picture beside the piece").await;
    page.click("Put the picture away").await;
    page.click("Surface").await;
    let file = folder.join("Sluice block.obj");
    std::fs::write(&file, cube()).expect("the file is written");
    page.give_file("Other mesh file", &file).await;
    page.find(".unit-answer").await;
    found.look("another mesh and its unit").await;
    page.keys(Key::Escape + "").await;
    page.click("Dials").await;
    found.open("six to choose from", "Try six").await;
    found.open("a ladder", "Ladder").await;
    found.open("variants side by side", "Side by side").await;
    page.click("Layers, too").await;
    found.look("variants with their layers").await;
    found.open("a new dial", "New dial").await;
    found.open("a dial described", "Change the dial Wear").await;
    page.click("Change the dial Salt").await;
    page.press(&page.find("input[type='radio'][value='led'] + label").await).await;
    page.press(&page.find("input[type='radio'][value='formula'] + label").await).await;
    page.find(".formula textarea").await.send_keys("we").await.expect("keys are taken");
    page.until("a name is offered", async || !page.texts("[role='option']").await.is_empty()).await;
    found.look("a formula with names to choose from").await;
    page.keys(Key::Escape + "").await;
    found.all
}

#[tokio::test(flavor = "multi_thread")]
async fn nothing_is_in_the_way_of_anybody_in_either_scheme() {
    let app = App::start().await;
    let App { data, page, server, .. } = &app;
    let project = demo(server);
    let found = all_of_it(page, data.path(), project).await;
    // The switch between the two is there and is heeded.
    page.click("Dark panels (graphite)").await;
    page.find("[data-mantine-color-scheme='dark']").await;
    page.click("Light panels (plaster)").await;
    assert!(found.is_empty(), "{}", found.join("\n"));
    app.end().await;
}

/// Goes on with Tab until the focus is on what is called so; what is seen by whoever uses no pointer.
async fn tab_to(page: &Page, name: &str) {
    let script = "const e = document.activeElement; return [e.getAttribute('aria-label'), e.title, e.textContent].map((t) => (t ?? '').trim());";
    let mut seen = vec![];
    for _ in 0..160 {
        page.keys(Key::Tab + "").await;
        let names: Vec<String> = page.driver.execute(script, vec![]).await.expect("a focus").convert().expect("names");
        // A card says more than its name.
        let called = |n: &String| {
            n.strip_prefix(name)
                .is_some_and(|rest| !rest.starts_with([' ', '…']) && !rest.starts_with(char::is_alphabetic))
        };
        if names.iter().any(called) {
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
    demo(server);
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
    page.keys("4").await;
    page.until("the dials are there", async || page.text(".room.here").await == "Dials").await;
    tab_to(page, "Wear").await;
    page.keys(Key::Control + "a").await;
    page.keys("0.62" + Key::Enter).await;
    page.until("undo names it", async || page.text(".undo").await.contains("Wear")).await;
    page.driver.execute("document.activeElement.blur()", vec![]).await.expect("nothing has the focus");
    page.keys("5").await;
    page.until("the hand-off is there", async || page.text(".room.here").await == "Hand-off").await;
    tab_to(page, "Write files").await;
    page.keys(Key::Enter + "").await;
    tab_to(page, "Download").await;
    app.end().await;
}
