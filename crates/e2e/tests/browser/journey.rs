//! The browser journey: from the front door to written files, by real controls, looking at pixels and text.

use dustcoat_e2e::{App, Page, Picture, cube};
use thirtyfour::Key;

async fn visible(page: &Page, layer: &str) -> String {
    page.text(&format!(".coat[data-layer='{layer}'] [data-visible]")).await
}

#[tokio::test(flavor = "multi_thread")]
async fn from_the_front_door_to_written_files() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    page.bring_in_block(data.path(), &cube()).await;

    // Surface: parts in colour, picked in the list and on the piece; readings measured.
    assert_eq!(page.attributes(".part-row", "data-part").await, ["sides", "top"]);
    page.click("Show in colour").await;
    let both = page.view().await;
    page.press(&page.find(".part-row:nth-child(2) .mono").await).await;
    assert!(page.view().await.difference(&both, 8) > 0.02, "the other part steps back");
    let canvas = page.find(".view canvas").await;
    page.driver.action_chain().move_to_element_with_offset(&canvas, 0, 60).click().perform().await.expect("a click");
    page.settled().await;
    assert_eq!(page.attributes(".part-row.selected", "data-part").await, ["sides"], "picked on the piece");
    page.click("Show in colour").await;
    assert!(page.texts(".state-missing").await.len() >= 2, "curvature and thickness are not measured yet");
    page.click("Measure all").await;
    page.until("all is measured", async || page.texts(".state-missing").await.is_empty()).await;
    page.click("Show Curvature").await;
    let edges = page.view().await;
    assert!(edges.share(|p| p[0] > 80 && p[0] == p[1] && p[0] != 0x77) > 0.005, "edges are light");
    assert!(edges.share(|p| p[0] < 10) > 0.1, "flats are black");
    page.click("Show Curvature").await;

    // Build: a coat of one colour, then one by edges over it.
    page.click("Build").await;
    page.click("Lay a coat").await;
    let grey = page.view().await;
    page.type_into("Color", "#b02010").await;
    let red = page.view().await;
    let [r, g, b] = red.mean_of_piece();
    assert!(r > 2.0 * g && r > 2.0 * b && red.difference(&grey, 8) > 0.1, "the piece is red: {r} {g} {b}");
    assert_eq!(visible(page, "New coat").await, "100 %");
    page.click("Lay a coat").await;
    page.type_into("Color", "#20a0ff").await;
    assert!(page.view().await.mean_of_piece()[2] > b * 2.0, "the second coat covers the first");
    // “#20a” is a colour of its own on the way to the one that is typed; it must not be taken for it.
    let color = page.control("Color").await.value().await.expect("it has a value");
    assert_eq!(color.as_deref(), Some("#20a0ff"));
    page.find_step("edge").await;
    page.choose("Radius", "Broad").await;
    page.find_step("threshold").await;
    page.type_into("Cut", "0.2").await;
    page.type_into("Softness", "0.05").await;
    assert_eq!(page.text("[data-sentence]").await, "edges, threshold");
    assert_eq!(page.texts(".tile-name").await, ["Edges", "Threshold"]);
    let worn = page.view().await;
    let blue = |p: [u8; 4]| p[2] > p[0].saturating_add(20);
    assert!((0.001..0.2).contains(&worn.share(blue)), "blue at the edges alone: {}", worn.share(blue));

    // A drag shows while it lasts, is kept when it ends, and undo takes it back.
    page.drag("Cut slider", -60, async || {
        assert!(page.view().await.difference(&worn, 16) > 0.003, "seen while dragging");
        assert!(!page.text(".undo").await.contains("Threshold cut"), "but not kept yet");
    })
    .await;
    let lower = page.view().await;
    assert!(lower.share(blue) > worn.share(blue) * 1.2, "a lower cut wears more");
    assert!(page.text(".undo").await.contains("Threshold cut"));
    page.chord(Key::Control, "z").await;
    assert_eq!(page.view().await.difference(&worn, 2), 0.0, "undone to the pixel");

    // The mask alone is grey, and full in as much as the tile says.
    page.click("Mask alone").await;
    let mask = page.view().await;
    assert!(mask.share(|p| p[0] != p[1] || p[1] != p[2]) < 0.002, "a mask has no colour");
    page.click("Mask alone").await;

    // A dial drives the cut; turned in its room it moves the piece.
    page.drive_by_dial("Cut", "Wear").await;
    page.click("Dials").await;
    assert!(page.text(".dial-drives").await.contains("New coat › Threshold › Cut"));
    let full = page.view().await;
    page.type_into("Wear", "0.15").await;
    assert!(page.view().await.difference(&full, 16) > 0.003, "the dial moves the mask");

    // The upper coat is saved as a recipe and laid on another piece, where its dial turns.
    page.click("Build").await;
    page.press(&page.find(".coat:first-child [aria-label='More for New coat']").await).await;
    page.click("Save as a recipe…").await;
    page.type_into("Name", "Blue edges").await;
    page.click("Projects").await;
    page.press(&page.find(".start:last-child").await).await;
    page.until("the tile is there", async || page.text(".room.here").await == "Surface").await;
    page.settled().await;
    page.choose("Draft size", "draft 256").await;
    page.lay_recipe("Blue edges").await;
    page.click("Dials").await;
    let before = page.view().await;
    page.drag("Wear slider", -50, async || {}).await;
    assert!(page.view().await.difference(&before, 16) > 0.001, "the recipe's dial turns here");

    // Hand-off: planned, written, downloaded, read back.
    page.click("Hand-off").await;
    page.choose("Texture size", "256 × 256").await;
    let planned = page.texts(".file-told .mono").await;
    assert_eq!(planned.len(), 5, "{planned:?}");
    let files = app.hand_off().await;
    let file = |part: &str| &files[planned.iter().find(|n| n.contains(part)).expect("planned")];
    let base = Picture::decode(file("base_color"));
    assert_eq!((base.width, base.height), (256, 256));
    let share = base.share(|p| p[2] > 200 && p[0] < 80);
    assert!(share > 0.001 && share < 0.6, "blue at the tile's edges: {share}");
    assert!(file(".glb").starts_with(b"glTF"));
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_section_and_the_line_by_keyboard_pointer_and_reload() {
    let app = App::start().await;
    let App { data, page, server, .. } = &app;
    page.bring_in_block(data.path(), &cube()).await;
    page.press(&page.find(".view canvas").await).await;
    page.keys("3").await;
    assert_eq!(page.text(".room.here").await, "Build");
    assert!(page.text(".panel.left").await.contains("Nothing is laid yet"), "an empty section says what to do");

    for (name, color) in [("Steel", "#808080"), ("Paint", "#106050")] {
        page.click("Lay a coat").await;
        page.press(&page.control("More for New coat").await).await;
        page.click("Rename").await;
        page.find(".rename").await;
        page.keys(name.to_owned() + Key::Enter).await;
        page.type_into("Color", color).await;
    }
    assert_eq!(page.texts(".coat-name").await, ["Paint", "Steel", "Bare piece"]);
    let painted = page.view().await;

    // Hidden and shown, duplicated, removed and brought back by keys.
    page.press(&page.control("Paint").await).await;
    page.keys("h").await;
    assert!(page.view().await.difference(&painted, 8) > 0.1 && page.text(".coat.selected").await.contains("hidden"));
    page.keys("h").await;
    let chain = || page.driver.action_chain();
    chain().key_down('s').perform().await.expect("the key goes down");
    page.settled().await;
    assert!(page.view().await.share(|p| p == [255, 255, 255, 255]) > 0.1, "held, S shows the mask alone: full");
    chain().key_up('s').perform().await.expect("the key goes up");
    page.settled().await;
    assert!(page.view().await.difference(&painted, 8) < 0.01);
    page.chord(Key::Control, "d").await;
    assert_eq!(page.texts(".coat-name").await.len(), 4);
    page.keys(Key::Delete + "").await;
    assert_eq!(page.texts(".coat-name").await, ["Paint", "Steel", "Bare piece"]);
    page.chord(Key::Control, "z").await;
    page.chord(Key::Control, "z").await;
    assert_eq!(page.texts(".coat-name").await, ["Paint", "Steel", "Bare piece"], "undone twice");

    // Order by keyboard: the grip takes space and arrows.
    page.driver
        .execute("document.querySelector(\".coat[data-layer='Paint'] .core\").focus()", vec![])
        .await
        .expect("focus");
    page.keys(" ").await;
    page.keys(Key::Down + "").await;
    page.keys(" ").await;
    page.until("the order has changed", async || page.texts(".coat-name").await == ["Steel", "Paint", "Bare piece"])
        .await;
    page.settled().await;
    assert_eq!(visible(page, "Paint").await, "0 %");

    // Opacity by its number, then everything is there after a reload, with undo.
    let opacity = page.control("Opacity of Steel").await;
    page.driver.action_chain().move_to_element_center(&opacity).click_and_hold().perform().await.expect("held");
    page.driver.action_chain().move_by_offset(-80, 0).release().perform().await.expect("let go");
    page.settled().await;
    assert_eq!(page.control("Opacity of Steel").await.text().await.expect("text"), "50 %");
    assert_eq!(visible(page, "Paint").await, "50 %");
    // The rooms are of different shapes: framed anew, the piece stands as it does after a reload.
    page.keys("f").await;
    let half = page.view().await;
    page.driver.refresh().await.expect("it reloads");
    page.settled().await;
    assert_eq!(page.view().await.difference(&half, 2), 0.0);
    page.click("Undo Steel opacity").await;
    assert_eq!(visible(page, "Paint").await, "0 %");

    // The line: joins change the mask and the sentence; steps are switched off and taken away.
    page.press(&page.control("Steel").await).await;
    page.find_step("altitude").await;
    page.find_step("clouds").await;
    assert_eq!(page.text("[data-sentence]").await, "altitude, times clouds");
    let times = page.text("[data-coverage]").await;
    page.choose("Joins by", "max").await;
    assert_eq!(page.text("[data-sentence]").await, "altitude, or clouds");
    assert_ne!(page.text("[data-coverage]").await, times);
    page.click("Switch off").await;
    assert_eq!(page.text("[data-sentence]").await, "altitude");
    page.keys(Key::Delete + "").await;
    assert_eq!(page.texts(".tile-name").await, ["Altitude"]);
    page.press(&page.find(".tile[data-step='Altitude'] .tile-picture").await).await;
    page.type_into("Upper level", "5000000").await;
    let field = page.control("Upper level").await;
    assert_eq!(field.prop("value").await.expect("a value").as_deref(), Some("10000"), "brought into its range");
    page.click("Reset Upper level").await;

    // Another window's edit is seen here, and nothing is lost when both edit.
    let other = server.app.clone();
    let card = other.cards().expect("cards").remove(0);
    let edit = serde_json::from_value(
        serde_json::json!({"revision": card.revision, "edits": [{"edit": "rename", "name": "Elsewhere"}]}),
    );
    other.edit(card.id, &edit.expect("an edit")).expect("it is made");
    page.until("the other window's edit is here", async || {
        page.find(".name-field").await.prop("value").await.ok().flatten().as_deref() == Some("Elsewhere")
    })
    .await;
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn bad_files_and_bare_pieces_are_told_in_words() {
    let app = App::start().await;
    let App { data, page, server, .. } = &app;
    let bad = data.path().join("broken.glb");
    std::fs::write(&bad, b"glTF\x02\0\0\0\xff\xff\0\0").expect("written");
    page.open("/").await;
    page.give_file("Model file", &bad).await;
    page.until("it says what is wrong", async || page.text("body").await.contains("can't be read")).await;
    assert!(page.texts(".card").await.is_empty(), "and nothing was made");

    let bare = data.path().join("bare.obj");
    std::fs::write(&bare, "v 0 0 0\nv 40 0 0\nv 40 40 0\nf 1 2 3\n").expect("written");
    page.open("/").await;
    page.give_file("Model file", &bare).await;
    page.find(".unit-answer").await;
    let sizes = page.texts(".unit-answer").await;
    assert!(sizes[0].contains("likely") && sizes[0].contains("40 × 40 × 0 mm"), "{sizes:?}");
    assert!(sizes[2].contains("40 × 40 × 0 m"), "{sizes:?}");
    page.click("Bring it in").await;
    page.until("it says that it was unwrapped", async || page.text(".panel.left").await.contains("unwrapped here"))
        .await;
    page.settled().await;
    assert!(page.view().await.mean_of_piece()[0] > 60.0, "and the piece is seen");

    page.driver.goto(format!("{}/p/999/build?quality=plain", server.url)).await.expect("the page opens");
    page.until("an unknown project is told", async || page.text("main").await.contains("can’t be opened")).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn measuring_shows_its_progress_and_can_be_stopped() {
    let app = App::start().await;
    let App { data, page, server, .. } = &app;
    page.bring_in_block(data.path(), &cube()).await;
    // Far more rays than anybody waits for.
    let card = server.app.cards().expect("cards").remove(0);
    let rays =
        serde_json::json!({"edit": "set_param", "target": {"reading": "occlusion", "key": "rays"}, "value": 1024});
    let edits = serde_json::json!([rays, {"edit": "set_draft_size", "size": 2048}]);
    let edit = serde_json::from_value(serde_json::json!({"revision": card.revision, "edits": edits}));
    server.app.edit(card.id, &edit.expect("an edit")).expect("it is made");
    page.until("the page says what it measures", async || page.text(".working").await.contains("Measuring occlusion"))
        .await;
    // The page goes on answering meanwhile.
    page.control("Build").await.click().await.expect("a room can be entered");
    page.until("the room is there", async || page.text(".room.here").await == "Build").await;
    page.control("Stop measuring").await.click().await.expect("it can be stopped");
    page.settled().await;
    assert_eq!(page.text(".working").await, "");
    page.choose("Draft size", "draft 256").await;
    app.end().await;
}
