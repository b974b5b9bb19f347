//! The app, served from a folder by this process.

use std::net::TcpListener;
use std::os::unix::fs::symlink;
use std::path::{Path, PathBuf};
use std::sync::{Arc, LazyLock, mpsc};
use std::thread::JoinHandle;

use actix_web::dev::ServerHandle;
use dustcoat::app::App;
use dustcoat::http::{self, Guard};

/// The draft size that projects begin with here: that of the app takes most of a test's time, and is chosen by those that are about it.
const DRAFT: u32 = 256;

/// Pictures of ready finishes and of recipes on the swatch ball take seconds each, and are the same in every folder: all servers of this process share those that
/// they have made. None are left of a run before, whose code was another.
static PICTURES: LazyLock<PathBuf> = LazyLock::new(|| {
    let program = std::env::current_exe().expect("a test knows where it is");
    let shared = program.with_file_name("pictures of browser tests");
    let _ = std::fs::remove_dir_all(&shared);
    std::fs::create_dir_all(&shared).expect("a folder beside the test can be made");
    shared
});

/// A running server. Dropping it stops it; the folder stays.
pub struct Server {
    /// `http://127.0.0.1:port`.
    pub url: String,
    /// The application behind it.
    pub app: Arc<App>,
    handle: ServerHandle,
    thread: Option<JoinHandle<()>>,
}

impl Server {
    /// Serves the data in `folder` on a free port of loopback.
    ///
    /// # Panics
    /// When the folder or the port can't be had: there is no test without them.
    pub fn on(folder: &Path) -> Server {
        Server::at(folder, "http://127.0.0.1:0")
    }

    /// Serves it where another one was served before: at its URL.
    ///
    /// # Panics
    /// As [`Server::on`].
    pub fn at(folder: &Path, url: &str) -> Server {
        let pictures = folder.join("pictures");
        if !pictures.exists() {
            symlink(&*PICTURES, pictures).expect("a folder can be linked");
        }
        let app = App::open(folder, dustcoat::app::MEMORY).expect("the folder can be opened");
        let app = Arc::new(app.beginning_at(DRAFT));
        let address = url.trim_start_matches("http://");
        let socket = TcpListener::bind(address).expect("loopback has a free port");
        let url = format!("http://{}", socket.local_addr().expect("the port is bound"));
        let (send, receive) = mpsc::channel();
        let shared = app.clone();
        let thread = std::thread::spawn(move || {
            actix_web::rt::System::new().block_on(async move {
                let server = http::serve(shared, socket, Guard::local()).expect("the socket can be listened on");
                send.send(server.handle()).expect("the test waits for the server");
                server.await.expect("the server ends in order");
            });
        });
        let handle = receive.recv().expect("the server starts");
        Server { url, app, handle, thread: Some(thread) }
    }
}

impl Server {
    /// Stops it, as when it is killed: whoever is connected is cut off.
    pub fn stop(&mut self) {
        // Asking is enough: the server's own thread carries it out.
        drop(self.handle.stop(false));
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        self.stop();
    }
}
