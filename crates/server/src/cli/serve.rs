//! `demo` and `serve`: the app in the browser.

use std::net::{IpAddr, SocketAddr, TcpListener};
use std::path::PathBuf;
use std::sync::Arc;
use std::time::Duration;

use clap::Args;
use dustcoat_core::raster::is_texture_size;

use super::CliError;
use crate::app::{App, AppError, LEAST_MEMORY, MEMORY};
use crate::db::Db;
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
    /// How far back undo and what was taken off stay, as 30d; `always` never tidies anything away.
    #[arg(long, value_parser = keep, default_value = "30d")]
    keep: Keep,
    /// The draft size in texels that new projects begin with: less for a slow machine, more for a quick one.
    #[arg(long, value_parser = draft, default_value = "1024")]
    draft: u32,
}

#[derive(Args)]
pub struct TidyArgs {
    /// Folder with the data.
    #[arg(long)]
    data: PathBuf,
    /// How far back undo and what was taken off stay, as 30d.
    #[arg(long, value_parser = keep, default_value = "30d")]
    keep: Keep,
    /// Does it; otherwise it is only said what would become free.
    #[arg(long)]
    free: bool,
}

/// How long something is kept, in seconds; none is always.
#[derive(Debug, Clone, Copy)]
struct Keep(Option<i64>);

const DAY: i64 = 24 * 60 * 60;

/// A number of days, or always.
fn keep(text: &str) -> Result<Keep, String> {
    let text = text.trim().to_ascii_lowercase();
    if text == "always" {
        return Ok(Keep(None));
    }
    let days = text.strip_suffix('d').and_then(|n| n.parse::<u32>().ok()).filter(|n| *n <= 36_500);
    days.map(|n| Keep(Some(i64::from(n) * DAY))).ok_or_else(|| "a number of days, as 30d, or always".to_owned())
}

/// A size that textures can have.
fn draft(text: &str) -> Result<u32, String> {
    let size = text.trim().parse::<u32>().ok().filter(|n| is_texture_size(*n));
    size.ok_or_else(|| "a power of two that textures can have, as 256, 512 or 1024".to_owned())
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
        warm.take_pictures();
        warm.fill_shelf();
    });
    run(app, args.addr, json)
}

pub fn serve(args: &ServeArgs, json: bool) -> Result<(), CliError> {
    let app = Arc::new(App::open(&args.data, args.memory).map_err(AppError::from)?.beginning_at(args.draft));
    if let Keep(Some(seconds)) = args.keep {
        let app = Arc::downgrade(&app);
        std::thread::spawn(move || {
            while let Some(app) = app.upgrade() {
                if let Err(error) = app.db.tidy(seconds, true) {
                    eprintln!("dustcoat: tidying failed, nothing was taken away: {error}");
                }
                drop(app);
                std::thread::sleep(Duration::from_secs(DAY as u64));
            }
        });
    }
    let ahead = app.clone();
    std::thread::spawn(move || ahead.fill_shelf());
    run(app, args.addr, json)
}

pub fn tidy(args: &TidyArgs, json: bool) -> Result<(), CliError> {
    if !args.data.join("dustcoat.sqlite").is_file() {
        return Err(CliError::Usage(format!("{} holds no data of Dust Coat. Check --data.", args.data.display())));
    }
    let Keep(Some(seconds)) = args.keep else {
        return Err(CliError::Usage("--keep always tidies nothing; give a number of days, as 30d.".into()));
    };
    let db = Db::open(&args.data).map_err(AppError::from)?;
    let t = db.tidy(seconds, args.free).map_err(AppError::from)?;
    if args.free {
        db.shrink().map_err(AppError::from)?;
    }
    if json {
        let done = serde_json::to_value(&t).map_err(|e| CliError::Usage(e.to_string()))?;
        println!("{}", serde_json::json!({"freed": args.free, "tidied": done}));
        return Ok(());
    }
    let verb = if args.free { "Freed" } else { "Would free" };
    println!(
        "{verb} {:.1} MB: {} revisions, {} files, {} measurements, {} projects that were taken off.",
        t.bytes as f64 / 1e6,
        t.revisions,
        t.files,
        t.measurements,
        t.projects
    );
    if !args.free && t.bytes > 0 {
        println!("Give --free to do it.");
    }
    Ok(())
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
