//! Documents as differences: one edit changes a small stretch of a document's text, so a revision keeps what stands between the longest beginning and the longest end that it shares with
//! the one before. Every so often one stands by itself, so that none is far from one that does.
//!
//! Stored: a text is a document as it is (of before there were differences). Bytes begin with what they are: 0, then the deflated text; or 1, then the lengths of the shared beginning and
//! end as two little-endian u64, then the deflated stretch between them.

use std::io::{Read, Write};

use flate2::Compression;
use flate2::read::DeflateDecoder;
use flate2::write::DeflateEncoder;

use super::DbError;

/// So many differences follow each other at most.
pub const LONGEST: i64 = 40;

fn deflated(tag: u8, head: &[u8], text: &[u8]) -> Vec<u8> {
    let mut out = vec![tag];
    out.extend_from_slice(head);
    let mut encoder = DeflateEncoder::new(out, Compression::new(5));
    encoder.write_all(text).expect("writing to memory doesn't fail");
    encoder.finish().expect("writing to memory doesn't fail")
}

fn inflated(bytes: &[u8]) -> Result<Vec<u8>, DbError> {
    let mut out = vec![];
    let damaged = |e: std::io::Error| DbError::Broken(format!("a revision in it is damaged ({e})"));
    DeflateDecoder::new(bytes).read_to_end(&mut out).map_err(damaged)?;
    Ok(out)
}

/// A document by itself.
pub fn whole(text: &str) -> Vec<u8> {
    deflated(0, &[], text.as_bytes())
}

/// A document as what differs from the one before; none where that isn't much shorter.
pub fn difference(before: &str, text: &str) -> Option<Vec<u8>> {
    let (a, b) = (before.as_bytes(), text.as_bytes());
    let most = a.len().min(b.len());
    let start = (0..most).take_while(|i| a[*i] == b[*i]).count();
    let end = (0..most - start).take_while(|i| a[a.len() - 1 - i] == b[b.len() - 1 - i]).count();
    let between = &b[start..b.len() - end];
    (between.len() * 4 <= b.len()).then(|| {
        let head: Vec<u8> = [start, end].iter().flat_map(|n| (*n as u64).to_le_bytes()).collect();
        deflated(1, &head, between)
    })
}

/// Whether stored bytes need the document before.
pub fn is_difference(bytes: &[u8]) -> bool {
    bytes.first() == Some(&1)
}

/// The document of stored bytes, with the one before where it is a difference.
///
/// # Errors
/// [`DbError::Broken`] when the bytes are none of ours.
pub fn restored(before: Option<&str>, bytes: &[u8]) -> Result<String, DbError> {
    let broken = || DbError::Broken("a revision in it is damaged".into());
    let all = match (bytes.first(), before) {
        (Some(0), _) => inflated(&bytes[1..])?,
        (Some(1), Some(before)) if bytes.len() >= 17 => {
            let length = |at: usize| bytes[at..at + 8].try_into().map(u64::from_le_bytes).unwrap_or(u64::MAX);
            let (start, end, before) = (length(1) as usize, length(9) as usize, before.as_bytes());
            let first = before.get(..start).ok_or_else(broken)?;
            let last = before.len().checked_sub(end).and_then(|at| before.get(at..)).ok_or_else(broken)?;
            [first, &inflated(&bytes[17..])?, last].concat()
        }
        _ => return Err(broken()),
    };
    String::from_utf8(all).map_err(|_| broken())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_difference_gives_the_document_back() {
        let long = "x".repeat(4000);
        let cases = [
            (format!("{long}abc{long}"), format!("{long}aXXc{long}")),
            (format!("{long}abc"), format!("{long}abcabc")),
            (format!("aaaa{long}"), format!("aa{long}")),
            (format!("{long}ä{long}"), format!("{long}ö{long}")),
            (long.clone(), long.clone()),
        ];
        for (before, after) in cases {
            let bytes = difference(&before, &after).unwrap();
            assert!(bytes.len() < 100 && is_difference(&bytes));
            assert_eq!(restored(Some(&before), &bytes).unwrap(), after);
        }
        assert!(difference("one", "quite another").is_none());
        assert_eq!(restored(None, &whole(&long)).unwrap(), long);
        assert!(restored(None, &difference(&long, &long).unwrap()).is_err());
        assert!(restored(Some("short"), &difference(&long, &long).unwrap()).is_err(), "not the one it was made on");
        assert!(restored(None, &[]).is_err() && restored(None, &[7, 1]).is_err());
    }
}
