//! The page as a person uses it: controls are found by what is written on them.

use std::path::Path;
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use thirtyfour::WindowHandle;
use thirtyfour::prelude::*;

use crate::{Picture, red};

/// How long a state of the page is waited for.
const PATIENCE: Duration = Duration::from_secs(120);

/// The tab of a browser, on the app.
pub struct Page {
    /// For what is not covered here.
    pub driver: WebDriver,
    url: String,
    plain: bool,
    /// Asks the server past the page.
    asker: reqwest::Client,
}

impl Page {
    pub(crate) fn new(driver: WebDriver, url: &str, plain: bool) -> Page {
        Page { driver, url: url.to_owned(), plain, asker: reqwest::Client::new() }
    }

    /// Opens a path of the app and waits until it is settled.
    ///
    /// # Panics
    /// As every method here does: when what is looked for doesn't come about in two minutes.
    pub async fn open(&self, path: &str) {
        let query = if self.plain { "?quality=plain" } else { "" };
        self.driver.goto(format!("{}{path}{query}", self.url)).await.expect("the page opens");
        self.settled().await;
    }

    /// Waits until nothing computes and everything is drawn.
    pub async fn settled(&self) {
        // A short pause inside the page lets what a click has started come up before the state is read.
        let script = "const done = arguments[0]; setTimeout(() => done(document.body.dataset.settled === 'yes'), 40);";
        self.until("the page is settled", async || {
            let answer = self.driver.execute_async(script, vec![]).await;
            answer.ok().and_then(|a| a.json().as_bool()).unwrap_or(false)
        })
        .await;
    }

    /// Waits until all patches are laid over the draft that the view asks for, and more than none.
    pub async fn sharp(&self) {
        self.until("what is seen closely is laid over the draft", async || {
            let laid = self.attributes(".view", "data-near").await;
            laid == self.attributes(".view", "data-wanted").await && laid.first().is_some_and(|n| n != "0")
        })
        .await;
        self.settled().await;
    }

    /// The window that is looked at, and another one that is opened beside it.
    pub async fn two_windows(&self) -> [WindowHandle; 2] {
        let first = self.driver.window().await.expect("there is a window");
        [first, self.driver.new_window().await.expect("another window can be opened")]
    }

    /// Turns to one of several windows.
    pub async fn turn_to(&self, window: &WindowHandle) {
        self.driver.switch_to_window(window.clone()).await.expect("the window is there");
    }

    /// What axe-core finds on the page as it stands, in either scheme of its panels, that it calls critical or serious. The other scheme differs in its colours alone.
    pub async fn hindrances(&self) -> Vec<String> {
        let axe = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/node_modules/axe-core/axe.min.js");
        let axe = std::fs::read_to_string(axe).expect("axe-core is installed (make front)");
        self.driver.execute(&format!("if (!window.axe) {{ {axe} }}"), vec![]).await.expect("axe-core starts");
        let script = r"const done = arguments[0];
            const node = (n) => `    ${n.html.slice(0, 200)} — ${n.failureSummary.split('\n').slice(1, 3).join(' ')}`;
            const told = (v) => [`${v.id} (${v.impact}): ${v.help}`, ...v.nodes.slice(0, 4).map(node)].join('\n');
            const grave = (v) => v.impact === 'critical' || v.impact === 'serious';
            const scheme = (now) => document.documentElement.setAttribute('data-mantine-color-scheme', now);
            const was = document.documentElement.getAttribute('data-mantine-color-scheme');
            const other = was === 'dark' ? 'light' : 'dark';
            const still = document.head.appendChild(document.createElement('style'));
            still.textContent = '* { transition: none !important }';
            const look = async () => {
                const all = await axe.run(document, { resultTypes: ['violations'] });
                scheme(other);
                const contrast = await axe.run(document, { resultTypes: ['violations'], runOnly: ['color-contrast'] });
                const named = (in_scheme, found) => found.violations.filter(grave).map((v) => `${in_scheme}: ${told(v)}`);
                return [...named(was, all), ...named(other, contrast)];
            };
            look().then(done, (e) => done([String(e)])).finally(() => { scheme(was); still.remove(); });";
        let found = self.driver.execute_async(script, vec![]).await.expect("axe-core runs");
        found.convert().expect("a list of findings")
    }

    /// Waits until `holds`.
    pub async fn until(&self, what: &str, mut holds: impl AsyncFnMut() -> bool) {
        let clock = Instant::now();
        while !holds().await {
            if clock.elapsed() > PATIENCE {
                let text = self.text("body").await;
                let log = self.driver.browser_log().await.unwrap_or_default();
                panic!("waited in vain until {what}. The page reads:\n{text}\nIts log: {log:?}");
            }
            tokio::time::sleep(Duration::from_millis(25)).await;
        }
    }

    /// The first element of a CSS selector, waited for.
    pub async fn find(&self, css: &str) -> WebElement {
        self.by(By::Css(css), css).await
    }

    async fn by(&self, by: By, what: &str) -> WebElement {
        let mut found = None;
        self.until(&format!("“{what}” is there"), async || {
            found = self.driver.find(by.clone()).await.ok();
            found.is_some()
        })
        .await;
        found.expect("it was waited for")
    }

    /// A control by the text that stands on it or that a screen reader says for it.
    pub async fn control(&self, words: &str) -> WebElement {
        let controls = "self::button or self::a or self::input or self::textarea or @role='slider' or @role='option' or @role='menuitem'";
        let named = format!("@aria-label=\"{words}\" or normalize-space()=\"{words}\"");
        let xpath =
            format!("//*[({controls}) and ({named})] | //label[normalize-space()=\"{words}\"]/following::input[1]");
        self.by(By::XPath(&xpath), words).await
    }

    /// Whether there is a control of that name.
    pub async fn has(&self, words: &str) -> bool {
        let xpath = format!("//*[@aria-label=\"{words}\" or normalize-space()=\"{words}\"]");
        self.driver.find(By::XPath(&xpath)).await.is_ok()
    }

    /// Whether what has the focus is called so.
    pub async fn has_focus(&self, words: &str) -> bool {
        let script = "return document.activeElement?.getAttribute('aria-label') ?? ''";
        let name = self.driver.execute(script, vec![]).await;
        name.ok().and_then(|n| n.json().as_str().map(|n| n == words)).unwrap_or(false)
    }

    /// Clicks a control and waits until the page is settled again.
    pub async fn click(&self, words: &str) {
        let control = self.control(words).await;
        self.press(&control).await;
    }

    /// Clicks an element, scrolled into view, and waits until the page is settled again.
    pub async fn press(&self, element: &WebElement) {
        element.scroll_into_view().await.expect("it can be scrolled to");
        if element.click().await.is_err() {
            // A tooltip or a notice may lie over it for a moment.
            self.until("it can be clicked", async || element.click().await.is_ok()).await;
        }
        self.settled().await;
    }

    /// Types over what stands in a field, and leaves it with Enter.
    pub async fn type_into(&self, words: &str, text: &str) {
        self.begin_typing_into(words, text).await;
        self.settled().await;
    }

    /// The same without waiting for what comes of it: for what is told in passing only.
    async fn begin_typing_into(&self, words: &str, text: &str) {
        let field = self.control(words).await;
        field.scroll_into_view().await.expect("it can be scrolled to");
        field.click().await.expect("a field can be clicked");
        field.send_keys(Key::Control + "a").await.expect("keys are taken");
        field.send_keys(text).await.expect("keys are taken");
        field.send_keys(Key::Enter + "").await.expect("keys are taken");
    }

    /// Presses keys wherever the focus is.
    pub async fn keys(&self, keys: impl Into<thirtyfour::TypingData>) {
        self.driver.action_chain().send_keys(keys).perform().await.expect("keys are taken");
        self.settled().await;
    }

    /// Presses a key while another is held.
    pub async fn chord(&self, held: Key, key: &str) {
        let chain = self.driver.action_chain().key_down(held.clone()).send_keys(key).key_up(held);
        chain.perform().await.expect("keys are taken");
        self.settled().await;
    }

    /// Chooses an option of a drop-down list.
    pub async fn choose(&self, list: &str, option: &str) {
        self.click(list).await;
        let xpath = format!("//*[@role='option' and normalize-space()=\"{option}\"]");
        // Lists that are closed keep their options: the one that is seen is meant.
        let mut seen = None;
        self.until(&format!("“{option}” is offered"), async || {
            for found in self.driver.find_all(By::XPath(&xpath)).await.unwrap_or_default() {
                if found.is_displayed().await.unwrap_or(false) {
                    seen = Some(found);
                }
            }
            seen.is_some()
        })
        .await;
        self.press(&seen.expect("it was waited for")).await;
    }

    /// Gives a file to a file input, hidden though it is.
    pub async fn give_file(&self, input: &str, file: &Path) {
        let xpath = format!("//input[@type='file' and @aria-label=\"{input}\"]");
        let field = self.by(By::XPath(&xpath), input).await;
        field.send_keys(file.display().to_string()).await.expect("the file is taken");
        self.settled().await;
    }

    /// Drags a slider's thumb by pixels, in a few moves; `during` is called before the thumb is let go, when the page has caught up.
    pub async fn drag(&self, slider: &str, pixels: i64, mut during: impl AsyncFnMut()) {
        let thumb = self.control(slider).await;
        thumb.scroll_into_view().await.expect("it can be scrolled to");
        let chain = || self.driver.action_chain();
        chain().move_to_element_center(&thumb).click_and_hold().perform().await.expect("the thumb is there");
        for _ in 0..4 {
            chain().move_by_offset(pixels / 4, 0).perform().await.expect("the pointer moves");
        }
        self.settled().await;
        during().await;
        chain().release().perform().await.expect("the thumb is let go");
        self.settled().await;
    }

    /// The share of the view that is red.
    pub async fn reddish(&self) -> f64 {
        self.view().await.share(red)
    }

    /// The handles that the view tells of by an attribute, in pixels from its middle: `data-handles` of a pin's frame, its corners and its knob; `data-path` of a path, its points.
    ///
    /// # Panics
    /// When nothing is told.
    pub async fn handles(&self, named: &str) -> Vec<(i64, i64)> {
        let canvas = self.find(".view canvas").await.rect().await.expect("a box");
        let place = |p: &str| {
            let (x, y) = p.split_once(',').expect("two numbers");
            let from_middle = |t: &str, of: f64| (t.parse::<f64>().expect("a number") - of / 2.0).round() as i64;
            (from_middle(x, canvas.width), from_middle(y, canvas.height))
        };
        self.attributes(".view", named).await.remove(0).split_whitespace().map(place).collect()
    }

    /// Presses, moves and lets go over the piece, from one place to another in pixels from the view's middle, while a key may be held.
    ///
    /// # Panics
    /// When the browser refuses.
    pub async fn draw(&self, from: (i64, i64), to: (i64, i64), held: Option<Key>) {
        let canvas = self.find(".view canvas").await;
        let chain = || self.driver.action_chain();
        let start = chain().move_to_element_center(&canvas).move_by_offset(from.0, from.1);
        start.perform().await.expect("the pointer moves");
        if let Some(key) = &held {
            chain().key_down(key.clone()).perform().await.expect("the key is held");
        }
        chain().click_and_hold().perform().await.expect("it is pressed");
        for i in 1..=8 {
            let step = |a: i64, b: i64| (b - a) * i / 8 - (b - a) * (i - 1) / 8;
            chain().move_by_offset(step(from.0, to.0), step(from.1, to.1)).perform().await.expect("the pointer moves");
        }
        chain().release().perform().await.expect("it is let go");
        if let Some(key) = held {
            chain().key_up(key).perform().await.expect("the key is let go");
        }
        self.settled().await;
    }

    /// The text of an element, or none if it is not there.
    pub async fn text(&self, css: &str) -> String {
        match self.driver.find(By::Css(css)).await {
            Ok(element) => element.text().await.unwrap_or_default(),
            Err(_) => String::new(),
        }
    }

    /// The texts of all elements of a selector.
    pub async fn texts(&self, css: &str) -> Vec<String> {
        let mut out = vec![];
        for element in self.driver.find_all(By::Css(css)).await.unwrap_or_default() {
            out.push(element.text().await.unwrap_or_default());
        }
        out
    }

    /// An attribute of all elements of a selector.
    pub async fn attributes(&self, css: &str, name: &str) -> Vec<String> {
        let mut out = vec![];
        for element in self.driver.find_all(By::Css(css)).await.unwrap_or_default() {
            out.push(element.attr(name).await.ok().flatten().unwrap_or_default());
        }
        out
    }

    /// A picture of an element.
    pub async fn look_at(&self, css: &str) -> Picture {
        let png = self.find(css).await.screenshot_as_png().await.expect("it can be seen");
        Picture::decode(&png)
    }

    /// The middle of the view: the piece, without what lies over it.
    pub async fn view(&self) -> Picture {
        self.look_at(".view canvas").await.middle()
    }

    /// Takes what the finder finds first for some words.
    pub async fn find_step(&self, words: &str) {
        self.click("Find a step").await;
        self.control("Search steps").await.send_keys(words).await.expect("keys are taken");
        self.keys(Key::Enter + "").await;
    }

    /// Brings a model in through the front door.
    pub async fn bring_in(&self, file: &Path) {
        self.open("/").await;
        self.give_file("Model file", file).await;
        self.find(".unit-answer").await;
        self.click("Bring it in").await;
        self.until("the piece is in the Surface room", async || self.text(".room.here").await == "Surface").await;
        self.settled().await;
    }

    /// The same of a model given as OBJ, whose file is written into a folder.
    pub async fn bring_in_block(&self, folder: &Path, obj: &str) {
        let file = folder.join("Sluice block.obj");
        std::fs::write(&file, obj).expect("the file is written");
        self.bring_in(&file).await;
    }

    /// Opens the Build room of a project of a model, given as OBJ, with a coat of a colour over it: both made by the server, for tests that are about something else than
    /// bringing in and laying.
    pub async fn coat_block(&self, obj: &str, color: &str) {
        let ask = async |request: reqwest::RequestBuilder| -> Value {
            let answer = request.send().await.expect("the server answers");
            answer.error_for_status().expect("it is taken").json().await.expect("it is JSON")
        };
        let post = async |path: String, body: String, kind: &str| {
            ask(self.asker.post(format!("{}{path}", self.url)).header("content-type", kind).body(body)).await
        };
        let name = "/api/projects/file?name=Sluice%20block.obj".to_owned();
        let project = post(name, obj.to_owned(), "application/octet-stream").await;
        let catalog = ask(self.asker.get(format!("{}/api/projects/{}/catalog", self.url, project["id"]))).await;
        let plain =
            catalog.as_array().and_then(|all| all.iter().find(|e| e["family"] == "plain" && e["kind"] == "coat"));
        let mut coat = plain.expect("there is a plain coat")["layer"].clone();
        coat["finish"]["channels"]["base_color"]["settings"]["color"] = json!(color);
        let edits = json!([{"edit": "add_layer", "inside": null, "index": 0, "layer": coat}]);
        let body = json!({"revision": project["revision"], "edits": edits}).to_string();
        post(format!("/api/projects/{}/edit", project["id"]), body, "application/json").await;
        self.open(&format!("/p/{}/build", project["id"])).await;
    }

    /// Makes a dial that drives a number, colour, seed or choice of what is selected.
    pub async fn drive_by_dial(&self, setting: &str, dial: &str) {
        self.press(&self.find(&format!("[aria-label^='Drive {setting} by a dial']")).await).await;
        self.type_into("Name of the dial", dial).await;
        self.until("the box is closed", async || !self.has("Name of the dial").await).await;
    }

    /// Writes a formula in the box that is open, in the place of a dial.
    pub async fn write_formula(&self, formula: &str) {
        self.press(&self.find("input[type='radio'][value='formula'] + label").await).await;
        self.find(".formula textarea").await.send_keys(formula).await.expect("keys are taken");
    }

    /// Saves the first layer of a name as a recipe.
    pub async fn save_as_recipe(&self, layer: &str, name: &str) {
        self.press(&self.find(&format!("[aria-label='More for {layer}']")).await).await;
        self.click("Save as a recipe…").await;
        self.begin_typing_into("Name", name).await;
        // It goes after some seconds, whether or not the page is settled by then.
        let there = format!("{name} is in the cabinet");
        self.until("it is in the cabinet", async || self.text("body").await.contains(&there)).await;
        self.settled().await;
    }

    /// Lays a recipe from the cabinet, or has it asked how.
    pub async fn lay_recipe(&self, name: &str) {
        self.click("Cabinet").await;
        self.press(&self.find(&format!("[data-recipe='{name}'] button")).await).await;
        self.settled().await;
    }

    /// Opens the ready finishes and waits for their pictures.
    pub async fn open_finishes(&self) {
        self.click("Finish…").await;
        self.pictures(".finish-card img").await;
    }

    /// Waits until all pictures of a CSS selector that are in view are there.
    pub async fn pictures(&self, css: &str) {
        let script = format!(
            "return [...document.querySelectorAll(\"{css}\")]
                .every((i) => i.naturalWidth > 0 || i.getBoundingClientRect().top > innerHeight)"
        );
        self.until("the pictures are there", async || {
            let answer = self.driver.execute(&script, vec![]).await;
            answer.ok().and_then(|a| a.json().as_bool()).unwrap_or(false)
        })
        .await;
    }

    /// A PNG of the whole page.
    pub async fn screenshot(&self) -> Vec<u8> {
        self.driver.screenshot_as_png().await.expect("the page can be seen")
    }

    /// Fails when the page has complained.
    pub async fn assert_quiet(&self) {
        let log = self.driver.browser_log().await.expect("the log can be read");
        let loud: Vec<_> = log.iter().filter(|l| l.level == "SEVERE").collect();
        assert!(loud.is_empty(), "the page logged errors: {loud:#?}");
    }
}
