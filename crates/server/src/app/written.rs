//! What was written for download — the files of a hand-off, stills, turntables — stands on disk, whatever its size, until it was fetched and the next is written, or for a day.

use std::collections::HashSet;
use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::time::{Duration, SystemTime};

use super::lock;

/// How long what nobody fetched stands.
const DAY: Duration = Duration::from_secs(24 * 60 * 60);
/// What was fetched stands this long at least: the same page may ask twice.
const HOUR: Duration = Duration::from_secs(60 * 60);

/// The folder of what was written.
pub struct Written {
    folder: PathBuf,
    fetched: Mutex<HashSet<String>>,
}

impl Written {
    /// In a folder that is made when first needed.
    pub fn new(folder: PathBuf) -> Self {
        Self { folder, fetched: Mutex::default() }
    }

    /// A file to be written, which [`Written::keep`] takes in and which is gone if it does not.
    pub fn begin(&self) -> io::Result<tempfile::NamedTempFile> {
        fs::create_dir_all(&self.folder)?;
        self.tidy(SystemTime::now());
        tempfile::Builder::new().prefix("writing-").tempfile_in(&self.folder)
    }

    /// Takes a finished file in: its address, and how many bytes it has.
    pub fn keep(&self, file: tempfile::NamedTempFile) -> io::Result<(String, u64)> {
        let mut hasher = blake3::Hasher::new();
        hasher.update_reader(File::open(file.path())?)?;
        let address = hasher.finalize().to_hex().to_string();
        file.as_file().sync_all()?;
        let bytes = file.as_file().metadata()?.len();
        file.persist(self.folder.join(&address)).map_err(|e| e.error)?;
        Ok((address, bytes))
    }

    /// The file at an address, if it still stands. It counts as fetched from then on.
    pub fn fetch(&self, address: &str) -> Option<PathBuf> {
        let named = address.len() == 64 && address.bytes().all(|b| b.is_ascii_hexdigit());
        let path = self.folder.join(address);
        if !named || !path.is_file() {
            return None;
        }
        lock(&self.fetched).insert(address.into());
        Some(path)
    }

    /// Takes off what has stood long enough at a time.
    pub fn tidy(&self, now: SystemTime) {
        let Ok(all) = fs::read_dir(&self.folder) else { return };
        for entry in all.flatten() {
            let path = entry.path();
            let age = entry.metadata().and_then(|m| m.modified()).ok().and_then(|t| now.duration_since(t).ok());
            let fetched = lock(&self.fetched).contains(&name(&path));
            if age.is_some_and(|age| age >= if fetched { HOUR } else { DAY }) {
                // One that can't be taken off now is taken off next time.
                let _ = fs::remove_file(&path);
            }
        }
    }
}

fn name(path: &Path) -> String {
    path.file_name().unwrap_or_default().to_string_lossy().into_owned()
}

#[cfg(test)]
mod tests {
    use std::io::Write;

    use super::*;

    #[test]
    fn what_was_written_stands_until_it_is_fetched_or_a_day_old() {
        let folder = tempfile::tempdir().unwrap();
        let written = Written::new(folder.path().join("written"));
        let keep = |content: &[u8]| {
            let mut file = written.begin().unwrap();
            file.write_all(content).unwrap();
            written.keep(file).unwrap()
        };
        let (first, bytes) = keep(b"valve");
        let (second, _) = keep(b"lamp");
        assert_eq!(bytes, 5);
        assert_eq!(fs::read(written.fetch(&first).unwrap()).unwrap(), b"valve");
        let hours = |n: u64| SystemTime::now() + HOUR * n as u32;
        written.tidy(hours(2));
        assert!(written.fetch(&first).is_none(), "it was fetched");
        assert!(folder.path().join("written").join(&second).is_file(), "nobody has fetched it");
        written.tidy(hours(25));
        assert!(written.fetch(&second).is_none(), "a day old");
        assert!(written.fetch("../../etc/passwd").is_none() && written.fetch("").is_none());
        // What was begun and given up is not left behind.
        drop(written.begin().unwrap());
        assert_eq!(fs::read_dir(folder.path().join("written")).unwrap().count(), 0);
    }
}
