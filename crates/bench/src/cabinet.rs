//! A cabinet of 2,000 recipes, searched in the real page: from what is typed to the list that is found, and to its being drawn beside the pictures that it asks for.

use dustcoat_core::recipe::{Recipe, package};
use dustcoat_core::setting::{Param, Value};
use dustcoat_e2e::{Browser, Server};

use crate::{Line, median, print};

const RECIPES: usize = 2000;
/// What is typed, one after the other: names, a tag, what a layer is called, and mistakes.
const WORDS: [&str; 8] = ["rust", "dock pa", "dcok paint", "prop 1234", "flaking", "oxid", "zzzz", "weathered"];

/// Types all of a text at once, and tells how long it took until the list was drawn anew.
const SEARCH: &str = "
    const [words, done] = arguments;
    const field = document.querySelector('[aria-label=\"Search the cabinet\"]');
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
    const began = performance.now();
    set.call(field, words);
    field.dispatchEvent(new Event('input', { bubbles: true }));
    const listed = performance.now() - began;
    requestAnimationFrame(() => setTimeout(() => done([listed, performance.now() - began])));
";

fn recipes() -> Vec<Recipe> {
    let made = dustcoat_demo::projects::dock_paint();
    let names = ["Dock paint", "Rust from within", "Weathered teak", "Oxide primer", "Signal enamel"];
    let one = |i: usize| {
        let (name, id) = (format!("{}, prop {i}", names[i % names.len()]), format!("bench{i}"));
        let mut recipe = Recipe { name, id, ..made.clone() };
        // The same content under another name would be noticed.
        for layer in &mut recipe.layers {
            layer.opacity = Param::Const(Value::Number(0.5 + i as f64 / (4 * RECIPES) as f64));
        }
        recipe
    };
    (0..RECIPES).map(one).collect()
}

pub fn run() {
    tokio::runtime::Runtime::new().expect("a runtime starts").block_on(async {
        let data = tempfile::tempdir().expect("a folder can be made");
        let server = Server::on(data.path());
        server.app.fill_with_demo().expect("the demo is made");
        for some in recipes().chunks(200) {
            server.app.import_recipes(&package::write_recipes(some)).expect("they are read");
        }
        let browser = Browser::start().await;
        let page = browser.page(&server.url, true);
        page.open("/").await;
        page.press(&page.find(".card a").await).await;
        page.click("Cabinet").await;
        page.until("they are there", async || page.attributes("[data-recipe]", "data-recipe").await.len() >= 8).await;
        let mut times = vec![];
        for words in WORDS.iter().cycle().take(3 * WORDS.len()) {
            let answer = page.driver.execute_async(SEARCH, vec![(*words).into()]).await.expect("the page searches");
            let both = answer.json().as_array().expect("two times");
            times.push([0, 1].map(|k| both[k].as_f64().expect("milliseconds")));
            // Their pictures are made meanwhile, which is not searching.
            page.settled().await;
            if !page.attributes(".cabinet-things img", "src").await.is_empty() {
                page.pictures(".cabinet-things img").await;
            }
        }
        for (k, what) in ["the list that is found", "its being drawn"].iter().enumerate() {
            print(&Line {
                bench: &format!("cabinet of 2,000 recipes: from what is typed to {what}"),
                ours: median(times.iter().map(|t| t[k]).collect()),
                unit: "ms",
                reference: "what it may take",
                theirs: 50.0,
                rate: false,
            });
        }
        page.driver.clone().quit().await.expect("the browser ends");
    });
}
