//! An untidy mesh in the browser: what is found in it is read, its winding and its UVs are mended, and it is dressed.

use dustcoat_e2e::{App, cube};

/// The cube with two faces of its sides wound the other way, and the UVs of its top laid over one another.
fn untidy() -> String {
    let mut sides = 0;
    let mut top = false;
    let turned = |line: &str| {
        let mut corners: Vec<&str> = line.split_whitespace().skip(1).collect();
        corners.reverse();
        format!("f {}", corners.join(" "))
    };
    let squeezed = |line: &str| {
        // Each corner of the top takes the first texture coordinate of the file.
        let corners = line.split_whitespace().skip(1).map(|c| {
            let mut parts: Vec<&str> = c.split('/').collect();
            if parts.len() > 1 {
                parts[1] = "1";
            }
            parts.join("/")
        });
        format!("f {}", corners.collect::<Vec<_>>().join(" "))
    };
    let line = |line: &str| match line.split_whitespace().next() {
        Some("usemtl") => {
            top = line.contains("top");
            // All of it is one object, but for its top.
            format!("o {}\n{line}", if top { "lid" } else { "block" })
        }
        Some("f") if top => squeezed(line),
        Some("f") => {
            sides += 1;
            if sides % 2 == 0 { turned(line) } else { line.to_owned() }
        }
        _ => line.to_owned(),
    };
    cube().lines().map(line).collect::<Vec<_>>().join("\n") + "\n"
}

#[tokio::test(flavor = "multi_thread")]
async fn an_untidy_mesh_is_mended_where_its_findings_are_read_and_then_dressed() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    page.bring_in_block(data.path(), &untidy()).await;
    let found = async || page.texts(".finding b").await.join("\n");
    let first = found().await;
    assert!(first.contains("mixed winding"), "{first}");
    let row = "[data-part='top'] .part-uvs";
    assert!(page.text(row).await.contains("has no area"), "{}", page.text(row).await);

    // Its winding is made one way, and what was done is said instead.
    page.press(&page.find(".fold[data-fold='Mending'] .fold-head").await).await;
    page.choose("Winding", "one way").await;
    page.until("the winding is mended", async || !found().await.contains("mixed winding")).await;
    assert!(found().await.contains("turned to look the same way"), "{}", found().await);
    assert!(page.text(".undo").await.contains("winding"));

    // The marked part gets UVs of its own, on a sheet of its own.
    page.click("UVs of top laid out anew").await;
    page.until("the UVs are laid out", async || found().await.contains("The UVs of top were laid out anew")).await;
    assert!(page.text(".panel.left").await.contains("2 sheets"));
    assert!(!page.text(row).await.contains("has no area"));

    // A coat on it shows: before, no texel lay there.
    page.click("Build").await;
    page.click("Lay a coat").await;
    page.type_into("Color", "#c01808").await;
    page.find_step("one part").await;
    page.choose("Part", "top").await;
    assert!((0.02..0.6).contains(&page.reddish().await), "{}", page.reddish().await);

    // All of it is undone and done again.
    page.click("Surface").await;
    page.click("UVs of top laid out anew").await;
    page.until("the mark is off", async || !found().await.contains("laid out anew")).await;
    page.press(&page.find(".undo").await).await;
    page.until("it is back", async || found().await.contains("laid out anew")).await;
    // The scale is a number with a way back.
    page.type_into("Scale", "2").await;
    page.until("it is twice as large", async || page.text(".panel.left").await.contains("80 × 80 × 80 mm")).await;
    page.press(&page.find("[aria-label^='Reset Scale']").await).await;
    page.until("it is as it was", async || page.text(".panel.left").await.contains("40 × 40 × 40 mm")).await;

    // Its parts can be told by the objects of the file.
    page.choose("Parts are told by", "objects").await;
    let parts = async || {
        let mut all = page.attributes("[aria-label='Parts'] .part-row", "data-part").await;
        all.sort();
        all.join(" ")
    };
    page.until("its objects are its parts", async || parts().await == "block lid").await;
    app.end().await;
}

/// Two squares of 20 mm side by side that share their texels.
const TWICE: &str = "v 0 0 0\nv 20 0 0\nv 20 20 0\nv 0 20 0\nv 40 0 0\nv 60 0 0\nv 60 20 0\nv 40 20 0\nvt 0.1 0.1\nvt 0.9 0.1\nvt 0.9 0.9\nvt 0.1 0.9\n\
                     usemtl plates\nf 1/1 2/2 3/3 4/4\nf 5/1 6/2 7/3 8/4\n";

#[tokio::test(flavor = "multi_thread")]
async fn shared_texels_are_told_of_and_each_gets_a_sheet_when_that_is_chosen() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    let file = data.path().join("Twin plates.obj");
    std::fs::write(&file, TWICE).expect("the file is written");
    page.bring_in(&file).await;
    let found = async || page.texts(".finding b").await.join("\n");
    assert!(found().await.contains("covered more than once"), "{}", found().await);
    page.choose("Shared texels of plates", "sheets apart").await;
    page.until("nothing is shared", async || !found().await.contains("covered more than once")).await;
    assert!(page.text(".panel.left").await.contains("2 sheets"));
    page.press(&page.find(".undo").await).await;
    page.until("it is shared again", async || found().await.contains("covered more than once")).await;
    app.end().await;
}
