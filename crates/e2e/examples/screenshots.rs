//! Takes the pictures of `docs/screenshots` from the demo data: `cargo run --example screenshots -- FOLDER [NAME…]`.

use std::path::{Path, PathBuf};

use dustcoat_core::task::Cancel;
use dustcoat_e2e::{Browser, Page, Server};

#[tokio::main(flavor = "multi_thread")]
async fn main() {
    let mut args = std::env::args().skip(1);
    let folder = PathBuf::from(args.next().expect("a folder is given"));
    let only: Vec<String> = args.collect();
    std::fs::create_dir_all(&folder).expect("the folder can be made");
    let data = tempfile::tempdir().expect("a folder can be made");
    let kept = std::env::var("DUSTCOAT_DATA").map_or_else(|_| data.path().to_owned(), PathBuf::from);
    let server = Server::on(&kept);
    server.app.fill_with_demo().expect("the demo is made");
    for card in server.app.cards().expect("cards are there") {
        server.app.take_picture(card.id, &Cancel::default()).expect("a picture is taken");
    }
    let browser = Browser::start().await;
    let page = browser.page(&server.url, false);
    let shots = Shots { page: &page, folder: &folder, only };
    shots.all().await;
    page.assert_quiet().await;
    page.driver.clone().quit().await.expect("the browser ends");
}

/// Turns the wheel over the middle of the view.
const NEARER: &str = "
    const canvas = document.querySelector('.view canvas');
    const { left, top, width, height } = canvas.getBoundingClientRect();
    const at = { clientX: left + width / 2, clientY: top + height / 2, bubbles: true, cancelable: true };
    for (let k = 0; k < 14; k++) canvas.dispatchEvent(new WheelEvent('wheel', { deltaY: -240, ...at }));
";

struct Shots<'a> {
    page: &'a Page,
    folder: &'a Path,
    only: Vec<String>,
}

impl Shots<'_> {
    fn wanted(&self, name: &str) -> bool {
        self.only.is_empty() || self.only.iter().any(|o| o == name)
    }

    async fn take(&self, name: &str) {
        if self.wanted(name) {
            std::fs::write(self.folder.join(format!("{name}.png")), self.page.screenshot().await)
                .expect("it is written");
            println!("{name}");
        }
    }

    /// Takes the pointer off whatever says something while it is over it.
    async fn look_away(&self) {
        let canvas = self.page.find(".view canvas").await;
        self.page.driver.action_chain().move_to_element_center(&canvas).perform().await.expect("the pointer moves");
        self.page.settled().await;
    }

    /// Bare metal drawn with bristles along the valve's belly, near by, and a path set below it; undone afterwards.
    async fn draw(&self) {
        let page = self.page;
        page.press(&page.find(".coat[data-layer='Handled metal'] .name-button").await).await;
        page.press(&page.find(".tile[data-step='Strokes'] .tile-picture").await).await;
        self.look_away().await;
        page.keys("l").await;
        page.keys("b").await;
        page.choose("Tip", "bristle").await;
        let canvas = page.find(".view canvas").await;
        let chain = || page.driver.action_chain();
        let start = chain().move_to_element_center(&canvas).move_by_offset(-140, -60).click_and_hold();
        start.perform().await.expect("the pen is down");
        for k in 0..14 {
            chain().move_by_offset(20, [6, -4][k % 2]).perform().await.expect("the pointer moves");
        }
        chain().release().perform().await.expect("the pen is up");
        page.settled().await;
        page.choose("Tip", "round").await;
        page.choose("Line", "curved").await;
        page.press(&page.find(".panel.bottom .line-head b").await).await;
        for place in [(-130, 40), (-50, 90), (40, 60), (110, 100)] {
            page.draw(place, place, None).await;
        }
        page.keys(thirtyfour::Key::Enter + "").await;
        page.until("it is picked", async || page.texts(".strokes li.picked").await.len() == 1).await;
        page.sharp().await;
        self.take("draw").await;
        page.click("Done").await;
        for _ in 0..2 {
            page.press(&page.find(".undo").await).await;
        }
        page.keys("f").await;
    }

    /// The stencil from near by, in its frame.
    async fn pin(&self) {
        let page = self.page;
        page.press(&page.find(".coat[data-layer='Stencil'] .name-button").await).await;
        page.press(&page.find(".tile[data-step='Pin'] .tile-picture").await).await;
        let handles = page.handles("data-handles").await;
        let middle = ((handles[0].0 + handles[2].0) / 2, (handles[0].1 + handles[2].1) / 2);
        let canvas = page.find(".view canvas").await;
        let over = page.driver.action_chain().move_to_element_center(&canvas).move_by_offset(middle.0, middle.1);
        over.perform().await.expect("the pointer moves");
        page.keys("l").await;
        page.sharp().await;
        self.take("pin").await;
        page.keys("f").await;
    }

    async fn all(&self) {
        let page = self.page;
        page.open("/").await;
        self.take("front-door").await;
        page.press(&page.find(".card a").await).await;
        page.press(&page.find(".coat[data-layer='Dock paint'] .name-button").await).await;
        self.take("build").await;
        page.press(&page.find(".coat[data-layer='Recess rust'] .name-button").await).await;
        if self.wanted("build-step") {
            page.press(&page.find(".tile[data-step='Threshold'] .tile-picture").await).await;
            self.take("build-step").await;
        }
        if self.wanted("draw") {
            self.draw().await;
        }
        if self.wanted("pin") {
            self.pin().await;
        }
        if self.wanted("graphite") {
            page.click("Dark panels (graphite)").await;
            self.look_away().await;
            self.take("graphite").await;
            page.click("Light panels (plaster)").await;
        }
        if self.wanted("closely") {
            page.driver.execute(NEARER, vec![]).await.expect("the view is scrolled");
            page.sharp().await;
            self.take("closely").await;
            page.keys("f").await;
        }
        if self.wanted("finder") {
            page.click("Find a step").await;
            self.take("finder").await;
            page.keys(thirtyfour::Key::Escape + "").await;
        }
        if self.wanted("finishes") {
            page.open_finishes().await;
            self.take("finishes").await;
            page.keys(thirtyfour::Key::Escape + "").await;
        }
        if self.wanted("probe") {
            page.press(&page.find(".coat[data-layer='Rust runs'] .name-button").await).await;
            page.keys("p").await;
            let canvas = page.find(".view canvas").await;
            let spot = page.driver.action_chain().move_to_element_with_offset(&canvas, 20, 60);
            spot.click().perform().await.expect("the piece is clicked");
            self.take("probe").await;
            page.keys("p").await;
        }
        if self.wanted("wipe") {
            page.click("Snapshots").await;
            page.click("Keep it").await;
            page.keys(thirtyfour::Key::Escape + "").await;
            page.press(&page.find(".coat[data-layer='Dock paint'] .name-button").await).await;
            page.keys("h").await;
            page.keys("w").await;
            self.look_away().await;
            self.take("wipe").await;
            page.keys("w").await;
            page.press(&page.find(".undo").await).await;
        }
        if self.wanted("still") {
            let ground = async || {
                page.click("Light: quay, overcast").await;
                page.press(&page.find(".light-box input[role='switch']").await).await;
                page.keys(thirtyfour::Key::Escape + "").await;
            };
            ground().await;
            page.click("Still").await;
            page.click("Take it").await;
            self.take("still").await;
            page.keys(thirtyfour::Key::Escape + "").await;
            ground().await;
        }
        if self.wanted("cabinet") {
            page.click("Cabinet").await;
            page.pictures(".thing:nth-child(-n+5) img").await;
            self.take("cabinet").await;
            page.keys(thirtyfour::Key::Escape + "").await;
        }
        if self.wanted("lay") {
            // On a piece that has no part of the name that the recipe asks for.
            page.save_as_recipe("Handled metal", "Worn grips").await;
            page.open("/").await;
            page.press(&page.find(".card[data-project='Swatch tile'] a").await).await;
            page.click("Cabinet").await;
            page.type_into("Search the cabinet", "Worn grips").await;
            page.press(&page.find("[data-recipe='Worn grips'] button").await).await;
            page.until("the piece is shown with it", async || {
                page.attributes(".lay-sheet img", "src").await.len() == 1
            })
            .await;
            self.take("lay").await;
            page.open("/").await;
            page.press(&page.find(".card[data-project='Gate valve'] a").await).await;
        }
        if self.wanted("surface") {
            page.click("Surface").await;
            page.click("Show in colour").await;
            page.driver
                .execute(
                    "document.querySelector('.panel.left').scrollTop = 0; document.querySelector('.weather').scrollIntoView()",
                    vec![],
                )
                .await
                .expect("it scrolls");
            self.look_away().await;
            self.take("surface").await;
            page.click("Show in colour").await;
        }
        page.click("Dials").await;
        page.until("the variants have pictures", async || page.attributes(".variants img", "src").await.len() == 4)
            .await;
        page.driver
            .execute("document.querySelector('.variants').scrollIntoView({ block: 'end' })", vec![])
            .await
            .expect("it scrolls");
        self.take("dials").await;
        if self.wanted("six") {
            page.click("Try six").await;
            page.until("six pictures are there", async || page.attributes(".six-choices img", "src").await.len() == 6)
                .await;
            self.take("six").await;
            page.keys(thirtyfour::Key::Escape + "").await;
        }
        if self.wanted("ladder") {
            page.click("Ladder").await;
            page.choose("Dial down", "Salt").await;
            page.type_into("Down steps", "3").await;
            page.until("the steps have pictures", async || {
                page.attributes(".ladder-steps img", "src").await.len() == 15
            })
            .await;
            self.take("ladder").await;
            page.keys(thirtyfour::Key::Escape + "").await;
        }
        page.click("Hand-off").await;
        self.take("hand-off").await;
    }
}
