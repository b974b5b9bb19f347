//! Views of a glTF that are packed with meshopt (EXT_meshopt_compression, KHR_meshopt_compression): unpacked into buffers of their own before anything is read of them.

use serde_json::{Map, Value, json};

use super::{MeshError, unreadable};

const NAMES: [&str; 2] = ["EXT_meshopt_compression", "KHR_meshopt_compression"];
/// The most bytes that one view may hold once unpacked.
const MOST: usize = 1 << 30;

/// A view that is packed.
#[derive(Debug, Clone)]
pub struct Packed {
    buffer: usize,
    offset: usize,
    length: usize,
    stride: usize,
    count: usize,
    mode: String,
    filter: String,
}

/// Gives every packed view a buffer of its own, beside those of the file, and tells which of the file's hold nothing and only stand for what is unpacked.
pub fn parted(all: &mut Map<String, Value>) -> Result<(Vec<Packed>, Vec<usize>), MeshError> {
    let wrong = || unreadable("it doesn't say how what is packed in it is packed");
    let mut buffers = all.get("buffers").and_then(Value::as_array).map_or(0, Vec::len);
    let (mut packed, mut added) = (vec![], vec![]);
    for view in all.get_mut("bufferViews").and_then(Value::as_array_mut).into_iter().flatten() {
        let Some(view) = view.as_object_mut() else { continue };
        let Some(told) = NAMES.iter().find_map(|n| view.get("extensions")?.get(n)?.as_object().cloned()) else {
            continue;
        };
        let number = |key: &str| told.get(key).map_or(Some(0), |v| v.as_u64().and_then(|v| usize::try_from(v).ok()));
        let word = |key: &str, unsaid: &str| told.get(key).and_then(Value::as_str).unwrap_or(unsaid).to_owned();
        let [Some(buffer), Some(offset), Some(length), Some(stride), Some(count)] =
            ["buffer", "byteOffset", "byteLength", "byteStride", "count"].map(number)
        else {
            return Err(wrong());
        };
        let bytes = stride.checked_mul(count).filter(|b| *b <= MOST && *b > 0).ok_or_else(wrong)?;
        for (key, value) in [("buffer", json!(buffers)), ("byteOffset", json!(0)), ("byteLength", json!(bytes))] {
            view.insert(key.into(), value);
        }
        view.remove("extensions");
        added.push(json!({ "byteLength": bytes }));
        let (mode, filter) = (word("mode", ""), word("filter", "NONE"));
        packed.push(Packed { buffer, offset, length, stride, count, mode, filter });
        buffers += 1;
    }
    let Some(of_file) = all.get_mut("buffers").and_then(Value::as_array_mut) else { return Ok((packed, vec![])) };
    let stands = |b: &Value| {
        let fallback =
            NAMES.iter().any(|n| b.get("extensions").and_then(|e| e.get(n)?.get("fallback")) == Some(&json!(true)));
        fallback && b.get("uri").is_none()
    };
    let empty = of_file.iter().enumerate().filter(|(_, b)| stands(b)).map(|(i, _)| i).collect();
    of_file.extend(added);
    Ok((packed, empty))
}

impl Packed {
    /// Its bytes, out of the buffers of the file.
    ///
    /// # Errors
    /// [`MeshError::Unreadable`] where they are not what the file says.
    pub fn bytes(&self, buffers: &[Vec<u8>]) -> Result<Vec<u8>, MeshError> {
        let broken = || unreadable("what is packed in it (meshopt) is broken, or was cut off");
        let end = self.offset.checked_add(self.length).ok_or_else(broken)?;
        let from = buffers.get(self.buffer).and_then(|b| b.get(self.offset..end)).ok_or_else(broken)?;
        let unpacked = match self.mode.as_str() {
            "ATTRIBUTES" if self.stride.is_multiple_of(4) && self.stride <= 256 => rows(self, from),
            "TRIANGLES" if self.count.is_multiple_of(3) => {
                indices(self, from, meshopt::decode_index_buffer, meshopt::decode_index_buffer)
            }
            "INDICES" => indices(self, from, meshopt::decode_index_sequence, meshopt::decode_index_sequence),
            _ => None,
        };
        unpacked.ok_or_else(broken)
    }
}

/// Unpacks indices of one length.
type Decode<T> = fn(&[u8], usize) -> meshopt::Result<Vec<T>>;

/// Indices, unpacked by what their length asks for.
fn indices(packed: &Packed, from: &[u8], short: Decode<u16>, long: Decode<u32>) -> Option<Vec<u8>> {
    match packed.stride {
        2 => Some(short(from, packed.count).ok()?.into_iter().flat_map(u16::to_le_bytes).collect()),
        4 => Some(long(from, packed.count).ok()?.into_iter().flat_map(u32::to_le_bytes).collect()),
        _ => None,
    }
}

/// A row of as many words.
#[derive(Clone)]
struct Row<const N: usize>([u32; N]);

impl<const N: usize> Default for Row<N> {
    fn default() -> Self {
        Self([0; N])
    }
}

/// Numbers row by row, unpacked for the number of words that a row has, and with the filter taken back that they were packed with.
fn rows(packed: &Packed, from: &[u8]) -> Option<Vec<u8>> {
    macro_rules! of_words {
        ($($n:literal)*) => {
            match packed.stride / 4 {
                $($n => words::<$n>(packed.count, from),)*
                _ => None,
            }
        };
    }
    #[rustfmt::skip]
    let words = of_words!(
        1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23 24 25 26 27 28 29 30 31 32
        33 34 35 36 37 38 39 40 41 42 43 44 45 46 47 48 49 50 51 52 53 54 55 56 57 58 59 60 61 62 63 64
    )?;
    let bytes = |words: Vec<u32>| words.into_iter().flat_map(u32::to_le_bytes).collect::<Vec<u8>>();
    match (packed.filter.as_str(), packed.stride) {
        ("NONE", _) => Some(bytes(words)),
        ("EXPONENTIAL", _) => {
            // Each word for itself.
            let mut of: Vec<[u32; 1]> = words.into_iter().map(|w| [w]).collect();
            meshopt::decode_filter_exp(&mut of);
            Some(bytes(of.into_iter().flatten().collect()))
        }
        ("OCTAHEDRAL", 4) => {
            let mut of: Vec<[i8; 4]> = words.iter().map(|w| w.to_le_bytes().map(|b| b as i8)).collect();
            meshopt::decode_filter_oct(&mut of);
            Some(of.into_iter().flatten().map(|b| b as u8).collect())
        }
        ("OCTAHEDRAL" | "QUATERNION", 8) => {
            let halves = |w: &[u32]| [w[0] as i16, (w[0] >> 16) as i16, w[1] as i16, (w[1] >> 16) as i16];
            let mut of: Vec<[i16; 4]> = words.chunks_exact(2).map(halves).collect();
            if packed.filter == "OCTAHEDRAL" {
                meshopt::decode_filter_oct(&mut of);
            } else {
                meshopt::decode_filter_quat(&mut of);
            }
            Some(of.into_iter().flatten().flat_map(i16::to_le_bytes).collect())
        }
        _ => None,
    }
}

fn words<const N: usize>(count: usize, from: &[u8]) -> Option<Vec<u32>> {
    let rows = meshopt::decode_vertex_buffer::<Row<N>>(from, count).ok()?;
    let mut out = Vec::with_capacity(count * N);
    rows.iter().for_each(|r| out.extend_from_slice(&r.0));
    Some(out)
}
