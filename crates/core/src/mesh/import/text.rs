//! Text of mesh files, whatever it was written with: UTF-8, UTF-16 with a mark, or Latin-1; line by line, with the number of each.

use std::borrow::Cow;

/// The text of a file: UTF-16 where a mark says so, UTF-8 where it is that, otherwise Latin-1, in which every byte is a letter.
pub fn decode(bytes: &[u8]) -> Cow<'_, str> {
    let wide = |of: fn([u8; 2]) -> u16| {
        let units: Vec<u16> = bytes[2..].chunks_exact(2).map(|b| of([b[0], b[1]])).collect();
        Cow::Owned(String::from_utf16_lossy(&units))
    };
    match bytes {
        [0xff, 0xfe, ..] => wide(u16::from_le_bytes),
        [0xfe, 0xff, ..] => wide(u16::from_be_bytes),
        _ => {
            let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
            let latin = || bytes.iter().copied().map(char::from).collect();
            std::str::from_utf8(bytes).map_or_else(|_| Cow::Owned(latin()), Cow::Borrowed)
        }
    }
}

/// The lines, each with its number from 1 on and without what comes after `#`. One that ends in a backslash goes on in the next.
pub fn lines(text: &str) -> impl Iterator<Item = (usize, Cow<'_, str>)> {
    let mut rows = text.split('\n').enumerate();
    std::iter::from_fn(move || {
        let (at, first) = rows.next()?;
        let bare = |row: &'_ str| -> usize { row.find('#').unwrap_or(row.len()) };
        let mut line = Cow::Borrowed(first[..bare(first)].trim());
        while line.ends_with('\\') {
            let next = rows.next().map_or("", |(_, row)| row[..bare(row)].trim());
            line = Cow::Owned(format!("{} {next}", line.trim_end_matches('\\').trim_end()));
        }
        Some((at + 1, line))
    })
}

/// A piece of a line, as a message shows it.
pub fn shown(text: &str) -> String {
    let short: String = text.chars().take(40).collect();
    if short.len() < text.len() { format!("{short}…") } else { short }
}
