//! The Surface room in the browser: a mesh swapped under a dressed project, parts renamed, pictures standing in, coarse measurements first.

use dustcoat_e2e::{App, Page, cube};

fn red(p: [u8; 4]) -> bool {
    p[0] > p[1].saturating_add(40) && p[0] > p[2].saturating_add(40)
}

/// Brings a file in by a button that asks for its unit.
async fn bring(page: &Page, input: &str, file: &std::path::Path, verb: &str) {
    page.give_file(input, file).await;
    page.find(".unit-answer").await;
    page.click(verb).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_mesh_is_swapped_under_a_dressed_project_and_the_work_stays() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    let (first, second) = (data.path().join("Sluice block.obj"), data.path().join("Sluice block v2.obj"));
    std::fs::write(&first, cube()).expect("written");
    // Half as high, and its slots are called otherwise.
    let lower =
        cube().replace("usemtl top", "usemtl material_7").replace("v -20 20", "v -20 0").replace("v 20 20", "v 20 0");
    std::fs::write(&second, lower).expect("written");
    page.bring_in(&first).await;

    // A red coat on the part that is called top.
    page.click("Build").await;
    page.click("Lay a coat").await;
    page.type_into("Color", "#c01808").await;
    page.click("Find a step").await;
    page.control("Search steps").await.send_keys("one part").await.expect("keys are taken");
    page.keys(thirtyfour::Key::Enter + "").await;
    page.choose("Part", "top").await;
    let before = page.view().await;
    let covered = page.text(".coat[data-layer='New coat'] [data-visible]").await;
    assert!((0.02..0.5).contains(&before.share(red)), "the top is red: {}", before.share(red));

    // The name is changed: the mask goes along.
    page.click("Surface").await;
    let before = page.view().await;
    page.type_into("Name of top", "Hatch").await;
    assert_eq!(page.attributes(".part-row", "data-part").await, ["sides", "Hatch"]);
    assert!(page.view().await.difference(&before, 16) < 0.01, "the picture is the same");

    // The other version: the part goes on by its place, the coat stays on it, what was measured is measured anew.
    bring(page, "Other mesh file", &second, "Swap it").await;
    page.until("the other file is there", async || page.text(".panel.left").await.contains("v2.obj")).await;
    page.settled().await;
    assert_eq!(page.attributes(".part-row", "data-part").await, ["sides", "Hatch"]);
    assert!(page.text(".panel.left").await.contains("40 × 20 × 40 mm"));
    assert!(page.text(".after-swap").await.contains("Hatch was found by its place; the file calls it material_7."));
    let after = page.view().await;
    assert!(
        (0.02..0.6).contains(&after.share(red)) && after.difference(&before, 16) > 0.05,
        "another shape, its top red"
    );
    assert!(page.text("[data-reading='thickness']").await.contains("not measured"));
    assert!(page.text(".undo").await.contains("swap the mesh"));
    // A third version that only has something else: what the parts are now is the artist's to say.
    let third = data.path().join("Sluice gate.obj");
    let gate = "v 0 0 0\nv 90 0 0\nv 0 90 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl gate\nf 1/1 2/2 3/3\n";
    std::fs::write(&third, gate).expect("written");
    bring(page, "Other mesh file", &third, "Swap it").await;
    page.until("both are listed", async || page.attributes("[data-lost]", "data-lost").await == ["sides", "Hatch"])
        .await;
    page.settled().await;
    assert!(page.text(".panel.left").await.contains("asks for the part “Hatch”"), "and the mask that misses it");
    page.choose("What Hatch is now", "gate").await;
    assert_eq!(page.attributes("[data-lost]", "data-lost").await, ["sides"]);
    assert_eq!(page.attributes(".part-row", "data-part").await, ["Hatch"]);
    assert!(!page.text(".panel.left").await.contains("asks for the part “Hatch”"));
    assert!(page.view().await.share(red) > 0.02, "the coat lies on it again");
    for _ in 0..2 {
        page.press(&page.find(".undo").await).await;
    }
    page.until("the second version is back", async || page.text(".panel.left").await.contains("v2.obj")).await;
    page.settled().await;
    page.click("Seen to").await;
    page.until("it is put away", async || {
        page.driver.find_all(thirtyfour::By::Css(".after-swap")).await.is_ok_and(|a| a.is_empty())
    })
    .await;
    page.press(&page.find(".undo").await).await;
    page.settled().await;
    page.press(&page.find(".undo").await).await;
    page.until("the old mesh is back", async || page.text(".panel.left").await.contains("40 × 40 × 40 mm")).await;
    page.settled().await;
    page.click("Build").await;
    assert_eq!(page.text(".coat[data-layer='New coat'] [data-visible]").await, covered);
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_picture_tells_parts_and_another_stands_in() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    let picture = |name: &str, pixel: &dyn Fn(u32) -> [u8; 4]| {
        let rgba: Vec<u8> = (0..64 * 64).flat_map(|i| pixel(i % 64)).collect();
        let file = data.path().join(name);
        std::fs::write(&file, dustcoat_core::handoff::png::rgba8(&rgba, 64, 64)).expect("written");
        file
    };
    let mesh = data.path().join("Sluice block.obj");
    std::fs::write(&mesh, cube()).expect("written");
    page.bring_in(&mesh).await;

    let ids = picture("block_id.png", &|x| if x < 32 { [200, 30, 30, 255] } else { [30, 50, 200, 255] });
    page.give_file("Picture file", &ids).await;
    page.until("two parts are told", async || page.attributes(".part-row", "data-part").await == ["Red", "Blue"]).await;
    page.click("Show in colour").await;
    let shown = page.view().await;
    assert!(shown.share(red) > 0.03, "a part in its own colour: {}", shown.share(red));
    assert!(shown.share(|p| p[2] > p[0].saturating_add(40)) > 0.03, "and the other");
    page.click("Show in colour").await;

    page.click("Show shells").await;
    let shells = page.view().await;
    assert!(shells.difference(&shown, 8) > 0.05, "shells have colours of their own");
    page.click("Show shells").await;

    let black = picture("block_ao.png", &|_| [0, 0, 0, 255]);
    page.give_file("Picture file", &black).await;
    page.until("it stands in", async || page.text("[data-reading='occlusion']").await.contains("a picture stands in"))
        .await;
    page.click("Show Occlusion").await;
    let dark = page.view().await.share(|p| p[0] < 12);
    assert!(dark > 0.1, "the picture is black, so the reading is: {dark}");
    page.click("The other way round").await;
    let light = page.view().await.share(|p| p[0] > 245);
    assert!(light > dark * 0.9, "turned round it is white: {light}");
    page.click("Take off block_ao.png").await;
    page.until("it is measured again", async || page.text("[data-reading='occlusion']").await.contains("measured in"))
        .await;

    // Masks that come packed: two channels say something, one of them is taken.
    let masks = picture("block_masks.png", &|x| [if x < 32 { 255 } else { 0 }, (x * 4) as u8, 0, 255]);
    page.give_file("Picture file", &masks).await;
    page.click("Its channels as masks…").await;
    page.until("the third says nothing", async || {
        page.text(".packed-row[data-channel='blue']").await.contains("says nothing")
    })
    .await;
    assert!(page.text(".packed-row[data-channel='red']").await.contains("50 %"));
    page.type_into("What lies in red", "rust").await;
    page.click("Hard edges, cut half-way").await;
    page.click("Lay 2 layers").await;
    page.until("it is one step", async || page.text(".undo").await.contains("lay the masks of block_masks.png")).await;
    page.click("Build").await;
    page.press(&page.find(".coat[data-layer='rust'] .name-button").await).await;
    page.until("its mask is the channel", async || {
        page.text("[data-sentence]").await.contains("painted map, threshold")
    })
    .await;
    let published = page.control("Mask published as").await.value().await.expect("an answer");
    assert_eq!(published.as_deref(), Some("rust"));
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_finish_is_made_of_a_set_of_pictures() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    page.coat_block(&cube(), "#4060c0").await;
    let before = page.view().await;
    let set: Vec<String> = [("quay_stone_color.png", [200, 40, 30, 255]), ("quay_stone_gloss.png", [20, 20, 20, 255])]
        .into_iter()
        .map(|(name, color): (&str, [u8; 4])| {
            let file = data.path().join(name);
            let rgba: Vec<u8> = (0..32 * 32).flat_map(|_| color).collect();
            std::fs::write(&file, dustcoat_core::handoff::png::rgba8(&rgba, 32, 32)).expect("written");
            file.display().to_string()
        })
        .collect();
    page.open_finishes().await;
    page.give_file("Pictures for a finish", std::path::Path::new(&set.join("\n"))).await;
    page.until("the set is told apart", async || page.text(".pictured").await.matches("its name says so").count() == 2)
        .await;
    page.click("Lay it").await;
    page.settled().await;
    assert!(page.text(".panel.left").await.contains("Quay stone"), "it lies in the section");
    let after = page.view().await;
    assert!(after.share(red) > before.share(red) + 0.05, "the piece wears the picture: {}", after.share(red));
    page.press(&page.find(".undo").await).await;
    assert_eq!(page.view().await.difference(&before, 2), 0.0, "one undo takes all of it away");
    app.end().await;
}
