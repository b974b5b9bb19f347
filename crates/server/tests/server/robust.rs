//! What must not break: damaged databases, two servers on one folder, pages and pixels as browsers want them.

use crate::common::{Server, lay, problem, run};
use serde_json::json;

#[test]
fn a_damaged_database_is_told_and_not_touched() {
    let data = tempfile::tempdir().unwrap();
    let file = data.path().join("dustcoat.sqlite");
    std::fs::write(&file, b"this is not a database, but somebody may want it back").unwrap();
    let before = std::fs::read(&file).unwrap();
    let (output, _) = run(&["serve", "--data", data.path().to_str().unwrap(), "--addr", "127.0.0.1:0"]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(1), "{said}");
    assert!(said.contains("can't be read") && said.contains("--data"), "{said}");
    assert_eq!(std::fs::read(&file).unwrap(), before);
}

#[test]
fn a_folder_that_can_not_be_is_told() {
    let data = tempfile::tempdir().unwrap();
    let file = data.path().join("a file");
    std::fs::write(&file, b"").unwrap();
    let (output, _) = run(&["serve", "--data", file.to_str().unwrap(), "--addr", "127.0.0.1:0"]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(1), "{said}");
    assert!(said.contains("a file"), "{said}");
}

#[test]
fn an_address_in_use_is_told() {
    let data = tempfile::tempdir().unwrap();
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = taken.local_addr().unwrap().to_string();
    let (output, _) = run(&["serve", "--data", data.path().to_str().unwrap(), "--addr", &address]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(2), "{said}");
    assert!(said.contains(&address) && said.contains("--addr"), "{said}");
}

#[test]
fn two_servers_on_one_folder_never_overwrite_each_other() {
    let data = tempfile::tempdir().unwrap();
    let (one, two) = (Server::on(data.path()), Server::on(data.path()));
    let mut p = one.project();
    let path = format!("/api/projects/{}", p["id"]);
    let seen = two.get(&path);
    one.edit(&mut p, json!([lay("First", json!([]))]));
    let late = json!({"revision": seen["revision"], "edits": [lay("Second", json!([]))]});
    let (status, kind, _) = problem(two.try_post(&format!("{path}/edit"), late));
    assert_eq!((status, kind.as_str()), (409, "stale"));
    let mut now = two.get(&path);
    assert_eq!(now, p);
    two.edit(&mut now, json!([lay("Second", json!([]))]));
    assert_eq!(one.get(&path)["document"]["layers"].as_array().unwrap().len(), 2);
}

#[test]
fn pixels_may_be_kept_for_ever_and_the_page_may_load_nothing_from_elsewhere() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 64}]));
    let ask = json!({"page": "t", "edits": [], "mask": false, "tiles": false, "height": false});
    let seen = server.post(&format!("/api/projects/{}/evaluate", p["id"]), ask);
    let pixels = server.request("GET", &format!("/api/pixels/{}", seen["orm"].as_str().unwrap())).send().unwrap();
    assert!(pixels.headers()["cache-control"].to_str().unwrap().contains("immutable"));
    for path in ["/", "/p/1/build"] {
        let page = server.request("GET", path).send().unwrap();
        if page.status() == 503 {
            // A binary without its front end says how to get it.
            assert!(page.text().unwrap().contains("make demo"));
            continue;
        }
        let policy = page.headers()["content-security-policy"].to_str().unwrap().to_owned();
        assert!(policy.contains("default-src 'self'") && !policy.contains("http"), "{policy}");
        assert!(page.text().unwrap().contains("<div id=\"root\">"), "{path} is the page");
    }
}

#[test]
fn many_evaluations_at_once_end_in_the_same_pixels() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let steps = json!([{"kind": "perlin", "join": "replace", "settings": {"size": 9}}, {"kind": "occlusion", "join": "multiply"}]);
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 128}, lay("Busy", steps)]));
    let path = format!("{}/api/projects/{}/evaluate", server.url, p["id"]);
    let answers: Vec<_> = std::thread::scope(|scope| {
        let ask = |i: usize| {
            let path = path.clone();
            scope.spawn(move || {
                let body = json!({"page": format!("page {i}"), "edits": [], "layer": "l1", "mask": true, "tiles": true, "channel": "height"});
                let answer = reqwest::blocking::Client::new().post(path).json(&body).send().unwrap();
                answer.json::<serde_json::Value>().unwrap()
            })
        };
        let threads: Vec<_> = (0..6).map(ask).collect();
        threads.into_iter().map(|t| t.join().unwrap()).collect()
    });
    let key = |a: &serde_json::Value| {
        [&a["base_color"], &a["mask"], &a["tiles"], &a["histogram"], &a["coverage"]].map(ToString::to_string)
    };
    assert!(answers.iter().all(|a| key(a) == key(&answers[0])));
}

#[test]
fn a_later_request_of_the_same_page_overtakes_the_earlier() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::on(data.path());
    let mut p = server.project();
    let cloud = |seed: u32| {
        let settings = json!({"size": 3, "octaves": 10, "seed": seed});
        json!({"kind": "perlin", "join": "add", "settings": settings})
    };
    let steps: Vec<_> = (0..12).map(cloud).collect();
    server.edit(&mut p, json!([{"edit": "set_draft_size", "size": 1024}, lay("Heavy", json!(steps))]));
    // The readings first, so that only the evaluation is overtaken.
    server.post(&format!("/api/projects/{}/measure", p["id"]), json!({"kinds": ["occlusion"], "wait": true}));
    let path = format!("{}/api/projects/{}/evaluate", server.url, p["id"]);
    let body = json!({"page": "one", "edits": [], "mask": false, "tiles": false, "height": false});
    let answers: Vec<_> = std::thread::scope(|scope| {
        let ask = || {
            let client = reqwest::blocking::Client::builder().timeout(None).build().unwrap();
            client.post(&path).json(&body).send().unwrap()
        };
        let threads: Vec<_> = (0..4).map(|_| scope.spawn(ask)).collect();
        threads.into_iter().map(|t| t.join().unwrap()).collect()
    });
    let (done, overtaken): (Vec<_>, Vec<_>) = answers.into_iter().partition(|a| a.status().is_success());
    assert!(!done.is_empty(), "the last one is answered");
    assert!(!overtaken.is_empty(), "the others are stopped");
    for answer in overtaken {
        assert_eq!(problem(answer).1, "cancelled");
    }
}
