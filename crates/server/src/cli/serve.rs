//! `demo` and `serve`: the app in the browser.

use std::net::{IpAddr, SocketAddr, TcpListener};
use std::path::PathBuf;
use std::sync::Arc;

use clap::Args;

use super::CliError;
use crate::app::{App, AppError, LEAST_MEMORY, MEMORY};
use crate::http::{self, Guard};

#[derive(Args)]
pub struct DemoArgs {
    /// Address to listen on.
    #[arg(long, default_value = "127.0.0.1:8737")]
    addr: SocketAddr,
    /// Folder for the data; a fresh temporary one if not given.
    #[arg(long)]
    data: Option<PathBuf>,
}

#[derive(Args)]
pub struct ServeArgs {
    /// Folder with the data.
    #[arg(long)]
    data: PathBuf,
    /// Address to listen on. Others than loopback demand a token in DUSTCOAT_TOKEN.
    #[arg(long, default_value = "127.0.0.1:8737")]
    addr: SocketAddr,
    /// How much memory may hold what could be worked out again, as 512m or 3g; 256m at least.
    #[arg(long, value_parser = memory, default_value = "3g")]
    memory: u64,
}

/// A number of bytes, written with `k`, `m` or `g`.
fn memory(text: &str) -> Result<u64, String> {
    let text = text.trim().to_ascii_lowercase();
    let (number, unit) = text.split_at(text.trim_end_matches(['k', 'm', 'g', 'b']).len());
    let shift = match unit.trim_end_matches('b') {
        "" => 0,
        "k" => 10,
        "m" => 20,
        "g" => 30,
        _ => return Err("a number with k, m or g behind it, as 512m or 3g".into()),
    };
    let number: f64 = number.parse().map_err(|_| "a number with k, m or g behind it, as 512m or 3g".to_owned())?;
    let bytes = number * f64::from(1u32 << shift);
    if bytes < LEAST_MEMORY as f64 || bytes > 1e15 {
        return Err("too little to work with; take 256m at least".into());
    }
    Ok(bytes as u64)
}

pub fn demo(args: &DemoArgs, json: bool) -> Result<(), CliError> {
    let folder =
        args.data.clone().unwrap_or_else(|| std::env::temp_dir().join(format!("dustcoat-demo-{}", std::process::id())));
    let app = Arc::new(App::open(&folder, MEMORY).map_err(AppError::from)?);
    app.fill_with_demo()?;
    // The demo's readings are measured while the artist still looks at the front door.
    let warm = app.clone();
    std::thread::spawn(move || {
        for card in warm.cards().unwrap_or_default() {
            let _ = warm.take_picture(card.id);
        }
    });
    run(app, args.addr, json)
}

pub fn serve(args: &ServeArgs, json: bool) -> Result<(), CliError> {
    run(Arc::new(App::open(&args.data, args.memory).map_err(AppError::from)?), args.addr, json)
}

fn guard_for(address: IpAddr) -> Result<Guard, CliError> {
    if address.is_loopback() {
        return Ok(Guard::local());
    }
    let token = std::env::var("DUSTCOAT_TOKEN").ok().filter(|t| t.len() >= 16);
    let token = token.ok_or_else(|| {
        let say = "Serving on another interface than loopback lets others in: set DUSTCOAT_TOKEN to a secret of at least 16 characters first.";
        CliError::Usage(say.into())
    })?;
    Ok(Guard { hosts: vec![], token: Some(token) })
}

fn run(app: Arc<App>, address: SocketAddr, json: bool) -> Result<(), CliError> {
    let guard = guard_for(address.ip())?;
    let taken = |e| CliError::Usage(format!("Can't listen on {address} ({e}). Give another address with --addr."));
    let socket = TcpListener::bind(address).map_err(taken)?;
    let bound = socket.local_addr().map_err(taken)?;
    let query = guard.token.as_ref().map(|t| format!("?token={t}")).unwrap_or_default();
    if json {
        println!("{}", serde_json::json!({"url": format!("http://{bound}/{query}")}));
    } else {
        println!("Dust Coat is at http://{bound}/{query}");
    }
    let server = http::serve(app, socket, guard).map_err(taken)?;
    actix_web::rt::System::new().block_on(server).map_err(taken)
}
