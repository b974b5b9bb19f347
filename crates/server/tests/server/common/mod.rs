//! The real binary on a port of its own, talked to over HTTP.

mod cube;

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};

use dustcoat_core::document::{Document, FileKind, Layout};
use dustcoat_core::handoff::ready::usual;
use reqwest::blocking::{Client, RequestBuilder, Response};
use serde_json::{Value, json};

pub use cube::cube;

/// A running `dustcoat serve`. Dropping it kills the process, as a power cut would.
pub struct Server {
    pub url: String,
    child: Child,
    client: Client,
}

impl Server {
    pub fn on(folder: &Path) -> Server {
        Server::with(folder, &["--addr", "127.0.0.1:0"], &[])
    }

    pub fn with(folder: &Path, args: &[&str], env: &[(&str, &str)]) -> Server {
        let mut child = Command::new(env!("CARGO_BIN_EXE_dustcoat"))
            .args(["serve", "--json", "--data"])
            .arg(folder)
            .args(args)
            .envs(env.iter().copied())
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let said: Value = serde_json::from_str(&line).unwrap_or_else(|e| panic!("“{line}”: {e}"));
        let url = said["url"].as_str().unwrap().split('?').next().unwrap().trim_end_matches('/').to_owned();
        let client = Client::builder().timeout(std::time::Duration::from_secs(120)).build().unwrap();
        Server { url, child, client }
    }

    pub fn request(&self, method: &str, path: &str) -> RequestBuilder {
        self.client.request(method.parse().unwrap(), format!("{}{path}", self.url))
    }

    pub fn get(&self, path: &str) -> Value {
        ok(self.request("GET", path).send().unwrap())
    }

    pub fn bytes(&self, path: &str) -> Vec<u8> {
        let answer = self.request("GET", path).send().unwrap();
        assert!(answer.status().is_success(), "{path}: {}", answer.status());
        answer.bytes().unwrap().to_vec()
    }

    /// Listens to events as a page does, until what is returned is dropped.
    pub fn listen(&self, page: &str) -> TcpStream {
        let host = self.url.trim_start_matches("http://");
        let mut socket = TcpStream::connect(host).unwrap();
        write!(
            socket,
            "GET /api/events?page={page} HTTP/1.1\r\nHost: {host}\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n\
             Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n"
        )
        .unwrap();
        let mut answer = [0; 12];
        socket.read_exact(&mut answer).unwrap();
        assert_eq!(&answer, b"HTTP/1.1 101");
        socket
    }

    pub fn try_post(&self, path: &str, body: Value) -> Response {
        self.request("POST", path).json(&body).send().unwrap()
    }

    pub fn post(&self, path: &str, body: Value) -> Value {
        ok(self.try_post(path, body))
    }

    pub fn upload(&self, path: &str, bytes: impl Into<Vec<u8>>) -> Response {
        self.request("POST", path).body(bytes.into()).send().unwrap()
    }

    /// What is under way for a project.
    pub fn jobs(&self, project: i64) -> Vec<Value> {
        self.get(&format!("/api/projects/{project}/jobs")).as_array().unwrap().clone()
    }

    /// Stops whatever is under way until something is so.
    pub fn stop_all(&self, project: i64, so: impl Fn() -> bool) {
        while !so() {
            for job in self.jobs(project) {
                let path = format!("/api/projects/{project}/jobs/{}/stop", job["job"]);
                assert_eq!(self.try_post(&path, json!({})).status(), 204);
            }
            std::thread::yield_now();
        }
    }

    /// A project on a small cube.
    pub fn project(&self) -> Value {
        ok(self.upload("/api/projects/file?name=cube.obj", cube()))
    }

    /// Makes edits on the revision that the project was last seen at, and brings `project` up to it.
    pub fn edit(&self, project: &mut Value, edits: Value) {
        let path = format!("/api/projects/{}/edit", project["id"]);
        *project = self.post(&path, json!({"revision": project["revision"], "edits": edits}));
    }

    pub fn kill(mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

pub fn ok(answer: Response) -> Value {
    let (status, url) = (answer.status(), answer.url().to_string());
    let text = answer.text().unwrap();
    assert!(status.is_success(), "{url}: {status}: {text}");
    serde_json::from_str(&text).unwrap()
}

/// A refusal as problem+json: status, kind and sentence.
pub fn problem(answer: Response) -> (u16, String, String) {
    let status = answer.status().as_u16();
    assert!(status >= 400, "it should have been refused");
    assert_eq!(answer.headers()["content-type"], "application/problem+json");
    let body: Value = answer.json().unwrap();
    assert_eq!(body["status"], status);
    (status, body["type"].as_str().unwrap().to_owned(), body["title"].as_str().unwrap().to_owned())
}

pub fn coat(name: &str, steps: Value) -> Value {
    let channels = json!({
        "base_color": {"on": true, "settings": {"color": "#aa5522"}},
        "roughness": {"on": true, "settings": {"value": 0.8}},
        "metallic": {"on": true, "settings": {}},
    });
    json!({"name": name, "kind": "coat", "mask": {"steps": steps}, "finish": {"channels": channels}})
}

pub fn lay(name: &str, steps: Value) -> Value {
    json!({"edit": "add_layer", "inside": null, "index": 0, "layer": coat(name, steps)})
}

/// Runs the command line; standard output as JSON if there is some.
pub fn run(args: &[&str]) -> (Output, Value) {
    let output = Command::new(env!("CARGO_BIN_EXE_dustcoat")).args(args).output().unwrap();
    let value = serde_json::from_slice(&output.stdout).unwrap_or(Value::Null);
    (output, value)
}

/// Waits until something is so.
pub fn until(what: &str, mut so: impl FnMut() -> bool) {
    let clock = Instant::now();
    while !so() {
        assert!(clock.elapsed() < Duration::from_secs(60), "waited in vain: {what}");
        std::thread::yield_now();
    }
}

/// What is asked of a hand-off: the usual layout with some of its files alone; a dressed piece is called `glb`.
pub fn layout(size: u32, pattern: &str, maps: &[&str], height_range: f64) -> Value {
    let mut layout = usual(&Document::new("P"), 1);
    for row in &mut layout.files {
        let called = if row.kind == FileKind::Glb { "glb" } else { row.map.as_str() };
        row.on = maps.contains(&called);
    }
    let layout = Layout { size, pattern: pattern.into(), height_range: height_range as f32, ..layout };
    json!({"layout": layout})
}
