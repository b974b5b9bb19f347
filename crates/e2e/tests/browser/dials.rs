//! Dials in the browser: of several kinds, following formulas, moved, shown by each other, and driving recipes in use.

use dustcoat_e2e::{App, Page, cube};
use thirtyfour::{By, Key};

/// A red block with noise in its mask, cut by a dial called Wear, in the Dials room.
async fn worn(app: &App) {
    let App { page, .. } = app;
    page.coat_block(&cube(), "#c01808").await;
    page.find_step("clouds").await;
    page.find_step("threshold").await;
    page.drive_by_dial("Cut", "Wear").await;
}

/// Makes a dial of a kind that drives nothing yet.
async fn new_dial(page: &Page, kind: &str, name: &str) {
    page.click("New dial").await;
    page.choose("It takes", kind).await;
    page.type_into("Name", name).await;
    page.until("the box is closed", async || !page.has("It takes").await).await;
}

/// The coat becomes a recipe, which is laid twice in its place.
async fn laid_twice(page: &Page) {
    page.save_as_recipe("New coat", "Flaking red").await;
    page.press(&page.find("[aria-label='More for New coat']").await).await;
    page.click("Remove").await;
    for _ in 0..2 {
        page.lay_recipe("Flaking red").await;
    }
}

async fn order(page: &Page) -> Vec<String> {
    page.attributes(".dial", "data-dial").await
}

#[tokio::test(flavor = "multi_thread")]
async fn settings_follow_formulas_that_are_completed_checked_and_kept() {
    let app = App::start().await;
    let page = &app.page;
    worn(&app).await;
    page.click("Dials").await;
    new_dial(page, "Switch", "Salt line").await;
    assert_eq!(order(page).await, ["Wear", "Salt line"]);
    assert!(page.text("[data-dial='Salt line'] .dial-drives").await.contains("Drives nothing yet"));

    // A name is completed with Enter; what it comes to and what is wrong with it stand below.
    page.click("Build").await;
    page.press(&page.find(".coat .name-button").await).await;
    page.click("Drive Opacity by a dial or a formula").await;
    page.press(&page.find("input[type='radio'][value='formula'] + label").await).await;
    let field = page.find(".formula textarea").await;
    field.send_keys("1 - sal").await.expect("keys are taken");
    page.until("the dial is offered", async || {
        page.texts("[role='option']").await.iter().any(|o| o.contains("Salt line"))
    })
    .await;
    page.keys(Key::Enter + "").await;
    field.send_keys(" * wobble").await.expect("keys are taken");
    page.until("what is wrong is marked", async || page.text("[data-testid='formula-error'] mark").await == "wobble")
        .await;
    assert!(page.text("[data-testid='formula-error']").await.contains("There is no dial “wobble”"));
    for _ in 0.."wobble".len() {
        field.send_keys(Key::Backspace + "").await.expect("keys are taken");
    }
    field.send_keys("0.75").await.expect("keys are taken");
    page.until("its value is shown", async || page.text("[data-testid='formula-value']").await.contains("= 1")).await;
    page.click("Let it follow").await;
    assert!(page.text("[data-setting='opacity'] .setting-driven").await.contains("1 - {Salt line} * 0.75"));

    // The switch is turned: the piece follows. A name that changes changes in the formula.
    page.click("Dials").await;
    let dry = page.view().await;
    page.press(&page.find("[data-dial='Salt line'] .mantine-Switch-track").await).await;
    page.settled().await;
    assert!(page.view().await.difference(&dry, 16) > 0.02, "the coat is thin where the switch is on");
    page.click("Change the dial Salt line").await;
    page.type_into("Name", "Soaked").await;
    page.click("Build").await;
    page.press(&page.find(".coat .name-button").await).await;
    assert!(page.text("[data-setting='opacity'] .setting-driven").await.contains("1 - Soaked * 0.75"));
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_dial_follows_others_is_moved_and_is_shown_by_them() {
    let app = App::start().await;
    let page = &app.page;
    worn(&app).await;
    page.click("Dials").await;
    new_dial(page, "Number", "Age").await;
    new_dial(page, "Switch", "Salted").await;

    // Wear follows Age: it is led, and the piece with it.
    page.click("Change the dial Wear").await;
    page.press(&page.find("input[type='radio'][value='led'] + label").await).await;
    page.write_formula("Age ^ 2").await;
    page.click("Let it follow").await;
    page.until("it follows", async || page.text("[data-dial='Wear'] .dial-drives").await.contains("Age ^ 2")).await;
    assert!(!page.control("Wear").await.is_enabled().await.expect("it is there"), "what follows is not turned");
    let before = page.view().await;
    page.type_into("Age", "0.9").await;
    assert!(page.view().await.difference(&before, 16) > 0.003, "the piece follows through the formula");

    // A circle is refused by name, and nothing is changed.
    page.click("Change the dial Age").await;
    page.press(&page.find("input[type='radio'][value='led'] + label").await).await;
    page.write_formula("Wear / 2").await;
    page.until("the circle is named", async || {
        page.text("[data-testid='formula-error']").await.contains("Wear → Age → Wear")
    })
    .await;
    page.keys(Key::Escape + "").await;

    // By keyboard, the last one comes up to the first place.
    let grip = page.find("[aria-label='Move the dial Salted']").await;
    grip.focus().await.expect("it takes the focus");
    page.keys(" ").await;
    page.keys(Key::Up + "").await;
    page.keys(Key::Up + "").await;
    page.keys(" ").await;
    page.until("it has moved", async || order(page).await[0] == "Salted").await;
    page.settled().await;

    // Age is shown only while the switch is on.
    page.click("Change the dial Age").await;
    page.choose("Shown", "Salted is on").await;
    page.click("Keep").await;
    page.until("it is put away", async || order(page).await == ["Salted", "Wear"]).await;
    page.press(&page.find("[data-dial='Salted'] .mantine-Switch-track").await).await;
    page.until("it is shown again", async || order(page).await == ["Salted", "Wear", "Age"]).await;
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn one_dial_of_the_project_drives_the_recipes_in_use() {
    let app = App::start().await;
    let page = &app.page;
    worn(&app).await;
    laid_twice(page).await;
    page.click("Dials").await;
    new_dial(page, "Number", "Age").await;
    for n in 1..=2 {
        let drive = format!("[data-use]:nth-of-type({}) .drive", n + 2);
        page.press(&page.find(&drive).await).await;
        page.write_formula("0.9 - Age").await;
        page.click("Let it follow").await;
    }
    let said = page.text("[data-dial='Age'] .dial-drives").await;
    assert_eq!(said.matches("Flaking red › Wear").count(), 2, "{said}");
    let young = page.view().await;
    page.type_into("Age", "0.85").await;
    assert!(page.view().await.difference(&young, 16) > 0.02, "both follow one dial");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn variants_stand_in_a_table_and_six_are_tried() {
    let app = App::start().await;
    let page = &app.page;
    worn(&app).await;
    page.click("Dials").await;
    page.type_into("Name of the variant", "New").await;
    page.pictures(".variants img").await;
    page.type_into("Wear", "0.8").await;
    page.choose("A new one holds", "what differs from New").await;
    page.type_into("Name of the variant", "Worn").await;
    let own = async || page.attributes(".variant-cell", "data-own").await;
    assert_eq!(own().await, ["true", "true"]);
    assert_eq!(page.texts(".variant-cell").await[1], "0.8");

    // In place: what the one that it builds on says is what it says, until it says something itself.
    page.click("Wear in Worn").await;
    page.click("As in New").await;
    page.until("it follows", async || own().await == ["true", "false"]).await;
    let first = page.texts(".variant-cell").await;
    assert_eq!(first[0], first[1]);
    page.click("Wear in Worn").await;
    let field = page.find("[role='dialog'] input").await;
    field.send_keys(Key::Control + "a").await.expect("keys are taken");
    field.send_keys("0.9" + Key::Enter).await.expect("keys are taken");
    page.until("it says so itself", async || page.texts(".variant-cell").await[1] == "0.9").await;
    page.keys(Key::Escape + "").await;
    page.settled().await;
    page.until("there are two pictures", async || page.attributes(".variants img", "src").await.len() == 2).await;

    // Six to choose from; one is kept without being taken, another is taken.
    page.click("Take New").await;
    let wear = async || page.control("Wear").await.prop("value").await.expect("it is there");
    let before = wear().await;
    page.click("Try six").await;
    page.press(&page.find("[data-reach='Wear'] input[value='lot'] + label").await).await;
    page.until("six pictures are there", async || page.attributes(".six-choices img", "src").await.len() == 6).await;
    page.click("Keep choice 2 as a variant").await;
    assert_eq!(wear().await, before, "nothing is taken");
    page.until("it is kept", async || page.texts(".variant-cell").await.len() == 3).await;
    // Columns are alike however long their names are, and so what stands below the names lines up.
    let beside = page.driver.find_all(By::Css(".variants th[scope='col']")).await.expect("there are columns");
    let mut columns = vec![];
    for column in &beside {
        let r = column.rect().await.expect("a box");
        columns.push([r.width, r.height].map(f64::round));
    }
    assert!(columns.len() == 3 && columns.iter().all(|c| *c == columns[0]), "{columns:?}");
    let mut tops = vec![];
    for take in page.driver.find_all(By::Css(".variants th [aria-label^='Take ']")).await.expect("each is taken") {
        tops.push(take.rect().await.expect("a box").y.round());
    }
    assert!(tops.len() == 3 && tops.iter().all(|y| *y == tops[0]), "{tops:?}");
    let said = page.text("[data-choice='3'] .six-values").await;
    page.click("Take choice 3").await;
    page.until("it is taken", async || wear().await != before).await;
    assert!(said.contains(&wear().await.expect("a number")), "{said}");
    app.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_use_is_loosened_kept_as_a_new_version_and_the_other_takes_it() {
    let app = App::start().await;
    let page = &app.page;
    worn(&app).await;
    laid_twice(page).await;
    // The upper one becomes layers, looking as it did; its colour is changed, and it is kept.
    let before = page.view().await;
    page.press(&page.find(".coat:first-child [aria-label='More for Flaking red']").await).await;
    page.click("Loosen into layers").await;
    page.until("its layer is there", async || {
        !page.attributes(".coat[data-layer='New coat']", "data-layer").await.is_empty()
    })
    .await;
    assert!(page.view().await.difference(&before, 16) < 0.002, "it looks as it did");
    page.press(&page.find(".coat[data-layer='New coat'] .name-button").await).await;
    page.type_into("Color", "#0818c0").await;
    page.press(&page.find("[aria-label='More for Flaking red']").await).await;
    page.click("Save as a recipe…").await;
    page.until("it is taken for the next version", async || {
        page.control("It becomes")
            .await
            .prop("value")
            .await
            .ok()
            .flatten()
            .is_some_and(|v| v == "version 2 of Flaking red")
    })
    .await;
    page.click("Save").await;
    // The group goes; the use that is left is told of the new version, compares it and takes it.
    page.press(&page.find(".coat:first-child [aria-label='More for Flaking red']").await).await;
    page.click("Remove").await;
    page.press(&page.find(".coat[data-layer='Flaking red'] .name-button").await).await;
    page.until("it is told", async || page.text(".new-version").await.contains("version 2 is in the cabinet")).await;
    let red = page.view().await;
    page.click("Wipe").await;
    page.until("it is wiped against", async || {
        page.texts(".wipe-label").await.first().is_some_and(|l| l == "Flaking red, version 2")
    })
    .await;
    assert!(page.view().await.difference(&red, 16) > 0.01, "one half of it is as it would be");
    page.click("Wipe").await;
    page.click("Compare").await;
    page.until("both are drawn", async || page.attributes(".new-version img", "src").await.len() == 2).await;
    page.click("Take version 2").await;
    assert!(page.view().await.difference(&red, 16) > 0.02, "it is blue now");
    assert!(page.text(".new-version").await.is_empty());
    page.chord(Key::Control, "z").await;
    page.until("undo brings the old version", async || page.text(".new-version").await.contains("version 1")).await;
    app.end().await;
}
