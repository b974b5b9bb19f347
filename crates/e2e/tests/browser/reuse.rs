//! Reuse in the browser: a recipe that asks, the cabinet, a recipe opened in place, ladders and variants side by side.

use dustcoat_e2e::{App, Page, blue, cube, red};
use thirtyfour::Key;

/// A red block under noise, cut by a dial called Wear and only on its top, saved as “Flaking red”.
async fn saved(app: &App) {
    let App { page, .. } = app;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("clouds").await;
    page.find_step("threshold").await;
    page.drive_by_dial("Cut", "Wear").await;
    page.find_step("part").await;
    page.choose("Part", "top").await;
    page.save_as_recipe("New coat", "Flaking red").await;
}

async fn named(page: &Page) -> Vec<String> {
    page.attributes("[data-recipe]", "data-recipe").await
}

#[tokio::test(flavor = "multi_thread")]
async fn one_makes_a_recipe_with_six_kinds_of_dials_and_another_uses_it_without_opening_it() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    page.coat_block(&cube(), "#c01808").await;
    // A number, a seed, a choice; a colour; a switch in a formula; and the part becomes a slot by itself.
    page.find_step("clouds").await;
    page.drive_by_dial("Seed", "Chance").await;
    page.press(&page.find(".fold-head").await).await;
    page.drive_by_dial("Placed", "Kind").await;
    page.find_step("threshold").await;
    page.drive_by_dial("Cut", "Wear").await;
    page.find_step("part").await;
    page.choose("Part", "top").await;
    page.press(&page.find(".coat .name-button").await).await;
    page.drive_by_dial("Color", "Paint").await;
    page.click("Dials").await;
    page.click("New dial").await;
    page.choose("It takes", "Switch").await;
    page.type_into("Name", "Thin").await;
    page.click("Build").await;
    page.click("Drive Opacity by a dial or a formula").await;
    page.write_formula("1 - 0.8 * Thin").await;
    page.click("Let it follow").await;
    page.save_as_recipe("New coat", "Flaking red").await;

    // Another piece, whose parts are called otherwise: the sheet asks which one, and shows it there.
    let other = data.path().join("Bollard.obj");
    std::fs::write(&other, cube().replace("usemtl top", "usemtl lid").replace("usemtl sides", "usemtl drum"))
        .expect("written");
    page.bring_in(&other).await;
    page.click("Build").await;
    page.lay_recipe("Flaking red").await;
    page.until("the piece is shown with it", async || !page.attributes(".lay-sheet img", "src").await.is_empty()).await;
    assert!(page.text(".lay-asks").await.contains("This piece has no top"), "{}", page.text(".lay-asks").await);
    assert!(page.text(".sizes").await.contains("mm"));
    page.choose("Part for top", "lid").await;
    page.click("Lay it").await;
    page.click("Dials").await;
    let mut dials = page.attributes(".dial", "data-dial").await;
    dials.sort();
    assert_eq!(dials, ["Chance", "Kind", "Paint", "Thin", "Wear", "top"]);
    let picked = page.control("top").await.prop("value").await.ok().flatten();
    assert_eq!(picked.as_deref(), Some("lid"));
    let before = page.view().await;
    page.press(&page.find("[data-dial='Thin'] .mantine-Switch-track").await).await;
    assert!(page.view().await.difference(&before, 16) > 0.005, "the formula within goes on");
    page.press(&page.find("[data-dial='Thin'] .mantine-Switch-track").await).await;
    page.choose("top", "drum").await;
    let drum = page.view().await.difference(&before, 16);
    assert!(drum > 0.01, "another part fills it: {drum}");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_cabinet_is_searched_marked_and_laid_from() {
    let app = App::start().await;
    let page = &app.page;
    saved(&app).await;
    page.click("Cabinet").await;
    page.choose("What is shown", "recipes").await;
    assert_eq!(named(page).await, ["Flaking red"]);
    let field = page.control("Search the cabinet").await;
    field.send_keys("flakng").await.expect("keys are taken");
    page.until("a typing error is forgiven", async || named(page).await == ["Flaking red"]).await;
    field.send_keys(Key::Control + "a").await.expect("keys are taken");
    field.send_keys("barnacle").await.expect("keys are taken");
    page.until("nothing is called that", async || {
        page.text("[role='dialog']").await.contains("Nothing is called that")
    })
    .await;
    field.send_keys(Key::Control + "a").await.expect("keys are taken");
    field.send_keys(Key::Backspace + "").await.expect("keys are taken");

    // A favourite stays when favourites alone are shown; taken out, it can be put back where such things are.
    page.click("Make Flaking red a favourite").await;
    page.click("Favourites alone").await;
    page.until("it is still there", async || named(page).await == ["Flaking red"]).await;
    page.press(&page.find("[role='dialog'] [aria-label='More for Flaking red']").await).await;
    page.click("Take out of the cabinet").await;
    page.until("it is gone", async || named(page).await.is_empty()).await;
    page.choose("What is shown", "what was taken out").await;
    page.press(&page.find("[data-recipe='Flaking red'] button").await).await;
    page.choose("What is shown", "recipes").await;
    page.until("it is back", async || named(page).await == ["Flaking red"]).await;

    // What others hold and what comes with the house has a star as well.
    let finishes = async || page.attributes("[data-finish-card]", "data-finish-card").await;
    page.choose("What is shown", "finishes").await;
    page.click("Favourites alone").await;
    page.click("Make Algae a favourite").await;
    page.click("Favourites alone").await;
    page.until("it alone is there", async || finishes().await == ["algae"]).await;
    page.click("Algae is no favourite").await;
    page.until("none is", async || finishes().await.is_empty()).await;
    page.choose("What is shown", "recipes").await;

    // Dragged into the section it comes to lie over the layer that it is dropped on; the drawer stays.
    let card = page.find("[data-recipe='Flaking red'] img").await;
    let row = page.find(".coat[data-layer='New coat']").await;
    let chain = page.driver.action_chain();
    let drag = chain.move_to_element_center(&card).click_and_hold().move_by_offset(-40, 0);
    drag.move_to_element_center(&row).move_by_offset(2, 2).release().perform().await.expect("it is dragged");
    page.until("it is laid", async || {
        page.attributes(".coat[data-layer]", "data-layer").await == ["Flaking red", "New coat"]
    })
    .await;
    page.settled().await;
    assert!(page.has("Search the cabinet").await);
    page.press(&page.find("[role='dialog'] [aria-label='More for Flaking red']").await).await;
    page.click("Where it is used").await;
    page.until("the project is named", async || page.text(".thing-used").await.contains("version 1")).await;
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_recipe_is_opened_in_place_and_its_other_use_follows() {
    let app = App::start().await;
    let page = &app.page;
    saved(&app).await;
    // With the layer selected, and not one of its steps, there is one thing to remove.
    page.press(&page.find(".coat .name-button").await).await;
    page.press(&page.find("[aria-label='More for New coat']").await).await;
    page.click("Remove").await;
    for _ in 0..2 {
        page.lay_recipe("Flaking red").await;
    }
    let before = page.view().await;
    page.press(&page.find(".coat:first-child [aria-label='More for Flaking red']").await).await;
    page.click("Open in place").await;
    page.until("it says so", async || page.text(".opened-use").await.contains("one other use follows")).await;
    page.press(&page.find(".coat[data-layer='New coat'] .name-button").await).await;
    page.type_into("Color", "#0818c0").await;
    // The open one is hidden: what is seen now is the other use, which is blue as well.
    page.press(&page.find(".coat:first-child [aria-label='Hide Flaking red']").await).await;
    let other = page.view().await;
    let (was, is) = (before.share(red), other.share(red));
    assert!(
        was > 0.005 && is < was / 4.0 && other.share(blue) > 0.005,
        "it follows: {was}, {is}, {}",
        other.share(blue)
    );
    page.type_into("What is new in it", "Blue").await;
    page.click("Keep as the next version").await;
    page.until("it is closed", async || page.text(".opened-use").await.is_empty()).await;
    let words = page.texts(".coat-words").await;
    assert_eq!(words.iter().filter(|w| w.contains("recipe Flaking red") || *w == "hidden").count(), 2, "{words:?}");
    assert!(page.view().await.difference(&other, 16) < 0.002, "nothing moves as it is kept");
    page.click("Cabinet").await;
    page.until("the cabinet has the next one", async || {
        page.text("[data-recipe='Flaking red'] h2").await.contains("version 2")
    })
    .await;
    page.keys(Key::Escape + "").await;

    // Opened again and dropped, all is as it was.
    page.press(&page.find(".coat:nth-child(2) [aria-label='More for Flaking red']").await).await;
    page.click("Open in place").await;
    page.press(&page.find(".coat[data-layer='New coat'] .name-button").await).await;
    page.type_into("Color", "#10a020").await;
    assert!(page.view().await.difference(&other, 16) > 0.02);
    page.click("Drop").await;
    assert!(page.view().await.difference(&other, 16) < 0.002);
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn presets_ladders_and_variants_side_by_side() {
    let app = App::start().await;
    let page = &app.page;
    saved(&app).await;
    page.click("Dials").await;
    page.type_into("Wear", "0.2").await;
    page.type_into("Name of the variant", "New").await;
    page.type_into("Wear", "0.9").await;
    page.type_into("Name of the variant", "Worn").await;

    // A ladder of five, of which one is taken.
    page.click("Ladder").await;
    page.type_into("Across steps", "3").await;
    page.until("three pictures are there", async || page.attributes(".ladder-steps img", "src").await.len() == 3).await;
    assert_eq!(page.attributes("[data-step]", "data-step").await, ["Wear 0", "Wear 0.5", "Wear 1"]);
    page.click("Take Wear 0.5").await;
    page.keys(Key::Escape + "").await;
    page.until("it is taken", async || {
        page.control("Wear").await.prop("value").await.ok().flatten().as_deref() == Some("0.5")
    })
    .await;
    page.click("Ladder").await;
    page.click("Save as one picture").await;
    app.landed("png").await;
    page.keys(Key::Escape + "").await;

    // Two side by side, and from another side.
    page.click("Side by side").await;
    let shown = async || page.attributes(".beside-pictures img", "alt").await;
    page.until("both are there", async || shown().await == ["The piece as New", "The piece as Worn"]).await;
    page.pictures(".beside-pictures img").await;
    let sources = page.attributes(".beside-pictures img", "src").await;
    page.control("Go round the piece").await.send_keys(Key::Right + "").await.expect("keys are taken");
    page.until("they are seen from another side", async || {
        let now = page.attributes(".beside-pictures img", "src").await;
        now.len() == 2 && now[0] != sources[0] && now[1] != sources[1]
    })
    .await;
    page.keys(Key::Escape + "").await;

    // A layer is hidden in one of them, in place.
    page.click("Layers, too").await;
    page.click("New coat in New: shown").await;
    page.until("it says so", async || page.has("New coat in New: left alone").await).await;
    page.click("New coat in New: left alone").await;
    page.until("it is hidden there", async || page.has("New coat in New: hidden").await).await;
    page.click("Take New").await;
    page.until("the coat is hidden", async || page.view().await.share(red) < 0.01).await;
    page.click("Take Worn").await;

    // A use keeps a preset in the next version, and takes it again.
    page.lay_recipe("Flaking red").await;
    let turned = async |to: &str| {
        let field = page.find("[data-use] [data-dial='Wear'] input").await;
        field.send_keys(Key::Control + "a").await.expect("keys are taken");
        field.send_keys(to.to_owned() + Key::Enter).await.expect("keys are taken");
        page.settled().await;
    };
    turned("0.75").await;
    page.type_into("Name of the preset of Flaking red", "Half gone").await;
    turned("0.1").await;
    page.click("Presets of Flaking red").await;
    page.until("the preset is shown", async || !page.attributes(".preset-list img", "src").await.is_empty()).await;
    page.click("Take Half gone").await;
    let wear = page.find("[data-use] [data-dial='Wear'] input").await;
    assert_eq!(wear.prop("value").await.ok().flatten().as_deref(), Some("0.75"));
    app.end().await;
}
