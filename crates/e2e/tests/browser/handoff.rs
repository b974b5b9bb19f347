//! The Hand-off room: a layout is chosen, changed channel by channel, kept and taken again; the check list leads to where things are mended.

use dustcoat_e2e::{App, cube};

#[tokio::test(flavor = "multi_thread")]
async fn a_layout_is_chosen_changed_kept_and_written() {
    let app = App::start().await;
    let App { data, page, .. } = &app;
    page.bring_in_block(data.path(), &cube()).await;
    page.click("Build").await;
    page.click("Lay a coat").await;
    page.find_step("one part").await;
    page.choose("Part", "top").await;

    page.click("Hand-off").await;
    let list = async || page.text("[aria-label='Check list']").await;
    page.until("the check list is there", async || list().await.contains("covered by no coat")).await;
    let files = async || page.texts(".file-told .mono").await;
    assert!(files().await.iter().any(|f| f.ends_with("_orm.png")), "{:?}", files().await);

    page.choose("Layout", "Separate files").await;
    page.until("each channel has a file", async || files().await.iter().any(|f| f.ends_with("_roughness.png"))).await;
    assert!(!files().await.iter().any(|f| f.ends_with("_orm.png")));
    // Roughness becomes glossiness in another format, with the mask of the coat beside it.
    let row = ".file-row[data-file='roughness']";
    page.press(&page.find(&format!("{row} .file-head")).await).await;
    page.choose("Kind", "TIFF").await;
    page.until("it is a TIFF", async || files().await.iter().any(|f| f.ends_with("_roughness.tif"))).await;
    page.press(&page.find(&format!("{row} [aria-label='Channel Y'] [type='checkbox']")).await).await;
    page.until("it is inverted", async || page.text(row).await.contains("roughness, inverted")).await;
    for channels in 2..4 {
        page.click("Add a channel").await;
        let all = async || page.attributes(&format!("{row} .channel-row"), "aria-label").await.len();
        page.until("there is one more", async || all().await == channels).await;
    }
    page.choose("What lies in B", "Mask of New coat").await;
    page.until("the mask lies in it", async || page.text(row).await.contains("mask “New coat”")).await;
    assert!(page.text(".undo").await.contains("layout of the hand-off"));

    // Kept under a name, left for another and taken again.
    page.click("Keep…").await;
    page.type_into("Name of the layout", "Engine").await;
    page.choose("Layout", "Packed by four").await;
    page.until("three files", async || files().await.len() == 3).await;
    page.choose("Layout", "Engine").await;
    page.until("it is back", async || files().await.iter().any(|f| f.ends_with("_roughness.tif"))).await;

    // What is in force is what is written.
    let files = app.hand_off().await;
    assert!(files["Sluice_block_roughness.tif"].starts_with(b"II*\0"), "a TIFF");
    let list_of = String::from_utf8_lossy(&files["Sluice_block_manifest.json"]);
    assert!(list_of.contains("mask:New coat") && list_of.contains("Sluice_block_roughness.tif"), "{list_of}");

    // A name that would be given twice is refused where it is typed.
    page.type_into("File names", "{piece}\n").await;
    page.until("it is refused", async || list().await.contains("to two files")).await;
    page.press(&page.find(".undo").await).await;
    page.until("it is written again", async || !list().await.contains("to two files")).await;
    page.click("Go to Build").await;
    page.until("the room is Build", async || page.text(".room.here").await == "Build").await;
    app.end().await;
}
