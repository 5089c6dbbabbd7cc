//! A zipped layer: an archive without compression in which the layer comes first and the bytes of every file begin at a
//! multiple of 64, as the rules of the zipped form of OpenUSD have it.

use crate::delivery::DeliveryError;
use crate::delivery::package::{NamedBytes, zipped_as};
use zip::CompressionMethod;
use zip::write::SimpleFileOptions;

/// Where bytes of files begin.
const MULTIPLE: usize = 64;

/// Of the layer and its pictures.
pub fn write(files: &[NamedBytes]) -> Result<Vec<u8>, DeliveryError> {
    let options = SimpleFileOptions::default()
        .compression_method(CompressionMethod::Stored)
        .with_alignment(MULTIPLE as u16);
    zipped_as(files, options)
}

/// The files of an archive by its own directory, read without the library that writes them: names and bytes, in order.
///
/// `None` where it is no archive, where anything is compressed, or where bytes begin elsewhere than at a multiple of 64.
pub fn read(archive: &[u8]) -> Option<Vec<(String, &[u8])>> {
    let word = |at: usize| -> Option<usize> {
        let bytes = archive.get(at..at.checked_add(2)?)?;
        Some(usize::from(u16::from_le_bytes(bytes.try_into().ok()?)))
    };
    let long = |at: usize| -> Option<usize> {
        let bytes = archive.get(at..at.checked_add(4)?)?;
        usize::try_from(u32::from_le_bytes(bytes.try_into().ok()?)).ok()
    };
    let end = (0..=archive.len().checked_sub(22)?)
        .rev()
        .take(1 << 16)
        .find(|at| archive[*at..].starts_with(b"PK\x05\x06"))?;
    let (count, mut at) = (word(end + 10)?, long(end + 16)?);
    let mut files = Vec::new();
    for _ in 0..count {
        if !archive.get(at..)?.starts_with(b"PK\x01\x02") {
            return None;
        }
        let (packed, size) = (long(at + 20)?, long(at + 24)?);
        let lengths = [word(at + 28)?, word(at + 30)?, word(at + 32)?];
        let name = archive.get(at + 46..at + 46 + lengths[0])?;
        let name = String::from_utf8(name.to_vec()).ok()?;
        let local = long(at + 42)?;
        let begins = local + 30 + word(local + 26)? + word(local + 28)?;
        if word(at + 10)? != 0 || packed != size || begins % MULTIPLE != 0 {
            return None;
        }
        files.push((name, archive.get(begins..begins.checked_add(size)?)?));
        at += 46 + lengths.iter().sum::<usize>();
    }
    Some(files)
}
