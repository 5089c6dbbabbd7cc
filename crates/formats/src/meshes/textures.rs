//! Pictures on guests as files beside a scene.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::receipt::{FileReceipt, Held, unreadable};

/// What the pictures of a guest are called.
pub fn named(delivery: &Delivery<'_>, guest: usize) -> Vec<String> {
    let count = delivery
        .guests
        .get(guest)
        .map_or(0, |g| g.mesh.textures.len());
    let name = |k: usize| delivery.named(&format!("guest-{}-picture-{}.png", guest + 1, k + 1));
    (0..count).map(name).collect()
}

/// All pictures as PNG.
pub fn written(delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
    let mut files = Vec::new();
    for (index, guest) in delivery.guests.iter().enumerate() {
        for (name, texture) in named(delivery, index).into_iter().zip(&guest.mesh.textures) {
            let bytes = parallax_media::texture::encode(texture);
            if bytes.is_empty() {
                return Err(DeliveryError::Texture(guest.name.clone()));
            }
            files.push((name, bytes));
        }
    }
    Ok(files)
}

/// That each picture is what it was, px by px.
pub fn receipts(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
) -> Result<Vec<FileReceipt>, DeliveryError> {
    let mut receipts = Vec::new();
    for (index, guest) in delivery.guests.iter().enumerate() {
        for (name, texture) in named(delivery, index).into_iter().zip(&guest.mesh.textures) {
            let most = u64::from(texture.width) * u64::from(texture.height);
            let read = parallax_media::texture::decode(files.bytes(&name)?, most);
            let read = read.map_err(|e| unreadable(&name, e))?;
            if read != **texture {
                return Err(unreadable(&name, "the picture is another"));
            }
            receipts.push(FileReceipt::of(
                &name,
                files,
                "every px of the picture",
                0.0,
            )?);
        }
    }
    Ok(receipts)
}
