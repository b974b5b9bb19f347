//! What of some bytes differs from others that a page holds: so that it is sent only that.

use std::ops::Range;

/// Bytes that are compared in one go: 256 texels of four channels, so that what is drawn on a small spot of a texture costs a short piece of each of its rows.
const BLOCK: usize = 1024;

/// The runs of bytes that differ, in order, as whole blocks. None where the lengths differ, or so much does that sending all of it is as well.
pub fn changed(before: &[u8], now: &[u8]) -> Option<Vec<Range<usize>>> {
    if before.len() != now.len() {
        return None;
    }
    let mut runs: Vec<Range<usize>> = vec![];
    let mut bytes = 0;
    for (k, (a, b)) in before.chunks(BLOCK).zip(now.chunks(BLOCK)).enumerate().filter(|(_, (a, b))| a != b) {
        let (start, end) = (k * BLOCK, k * BLOCK + a.len());
        debug_assert_eq!(a.len(), b.len());
        bytes += a.len();
        if bytes * 2 > now.len() {
            return None;
        }
        match runs.last_mut() {
            Some(last) if last.end == start => last.end = end,
            _ => runs.push(start..end),
        }
    }
    Some(runs)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn runs_of_what_differs_make_the_one_of_the_other() {
        let before: Vec<u8> = (0..10_500u32).map(|i| (i % 251) as u8).collect();
        assert_eq!(changed(&before, &before), Some(vec![]), "what is the same needs nothing");
        let mut now = before.clone();
        for at in [0, 2047, 2048, 10_499] {
            now[at] ^= 1;
        }
        let runs = changed(&before, &now).expect("little of it differs");
        assert_eq!(runs, [0..3072, 10_240..10_500], "whole blocks, those side by side as one, the last one short");
        let mut patched = before.clone();
        runs.into_iter().for_each(|r| patched[r.clone()].copy_from_slice(&now[r]));
        assert_eq!(patched, now);
        assert_eq!(changed(&before, &now[1..]), None, "another length");
        assert_eq!(changed(&before, &vec![255; before.len()]), None, "all of it");
    }
}
